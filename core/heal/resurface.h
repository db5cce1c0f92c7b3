// Faces on other surfaces: whatever bounds them is computed anew, the neighbours follow.
#pragma once
#include <Geom_Surface.hxx>

#include "common/progress.h"
#include "model/lineage.h"
#include "model/model.h"

namespace rasoir::heal {

struct Resurfaced {
    TopoDS_Shape shape;
    PartLineage lineage;
    double change = 0.0;  ///< [mm^3] by which the volume grew
    double moved = 0.0;   ///< [mm] farthest that a vertex moved
};

/// Puts faces (Incidence numbers) on other surfaces. Which faces meet stays as it is: every vertex goes to where the
/// surfaces round it now meet, every edge to the curve in which its two do, and edges that merely end at a moved vertex
/// are carried on or cut back. Checks    every face that changed by the kernel's check; that every vertex lies on all
/// its surfaces; that a point just inside each
///           new face lies in the body and one just outside does not, so that no face has passed through another.
/// Refuses   surfaces that no longer meet there (a round beside a moved face: remove it first), seams other than of
/// cylinders and
///           cones, poles, open edges and edges of many faces; and then names the place.
/// Cost      grows with the faces round those that change, plus one pass over the part and the check of points against
/// its body.
[[nodiscard]] Result<Resurfaced> resurface(const Part& part, const std::map<int, Handle(Geom_Surface)>& surfaces,
                                           double tolerance);

}  // namespace rasoir::heal
