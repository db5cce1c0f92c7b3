// Several faces missing side by side: the edges between them are made anew.
#pragma once
#include "mend/loops.h"

namespace rasoir::mend {

/// Faces for an opening that no single surface spans. Where two edges of the loop in a row belong to one face, an edge
/// ends that is missing with the faces on both its sides; so the loop falls into arcs, each the boundary of one missing
/// face. What surface that was is told by its arc: the plane, cylinder, cone or sphere on which the arc lies, or that
/// of a neighbour; two straight arcs may tell a plane together. Then arc after arc is cut off: between two arcs of one
/// surface by the curve in which that and its own meet, else at the point where it meets both its neighbours; of all
/// orders the one is taken that makes the least area. Other loops that lie in one of the flat faces are its islands.
/// `neighbours`  for each edge of the loop, the face beside it.
/// `allowed`     [mm] that arcs may lie off their surface.
/// Returns       the faces, sharing the loop's edges and new ones between them; none where an arc tells no surface,
/// where the surfaces
///               do not meet near the opening, or where a face would cross itself.
/// Cost          the factorial of the arcs, of which there are at most seven.
struct CornerPatch {
    std::vector<TopoDS_Face> faces;
    std::vector<std::size_t> islands;  ///< in `others`
    double deviation = 0.0;            ///< [mm] largest distance between curve and trace
};
[[nodiscard]] CornerPatch cornerPatch(const OpenLoop& loop, const std::vector<TopoDS_Face>& neighbours,
                                      const std::vector<const OpenLoop*>& others, double allowed);

}  // namespace rasoir::mend
