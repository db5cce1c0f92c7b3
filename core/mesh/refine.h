// A face's triangles, made as large and as even as they shall be, between boundary points that stay.
#pragma once
#include <array>
#include <gp_Pnt.hxx>
#include <gp_Pnt2d.hxx>
#include <TopoDS_Face.hxx>
#include <vector>

#include "common/progress.h"
#include "mesh/sizes.h"

namespace rasoir::mesh {

/// A point of a face's boundary.
struct RimPoint {
    gp_Pnt2d uv;
    gp_Pnt point;       ///< [mm]
    double size = 0.0;  ///< [mm]
    int id = 0;         ///< the same for one point that the outline passes twice: at seams, poles, inner edges
};

struct FaceTriangles {
    /// Points within the face; triangles count the rim points first, in the order of the loops, then these.
    std::vector<gp_Pnt> inner;
    std::vector<std::array<int, 3>> triangles;  ///< turning left as seen against the surface's own normal
};

/// Fills a face's outline and refines the triangles.
/// `loops`   outer one first. Neighbouring rim points are edges of the mesh that are never divided.
/// Returns   none where the outline crosses itself in the parameters: the rim is too coarse for what lies near.
/// Cost      near linear in triangles.
/// Method    edges that are too long are halved, too short ones closed up, others turned until opposite angles are
///           small (Delaunay's condition), points drawn to the middle of their neighbours; after Botsch and Kobbelt, A
///           remeshing approach to multiresolution modeling (2004), with sizes that vary. Every change keeps all
///           triangles the right way round in the parameters, so that none can fold.
[[nodiscard]] std::optional<FaceTriangles> triangulate(const TopoDS_Face& face,
                                                       const std::vector<std::vector<RimPoint>>& loops,
                                                       const SizeRules& rules, Progress& progress);

}  // namespace rasoir::mesh
