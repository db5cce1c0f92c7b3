// Triangles over a flat outline with holes, between its own points alone.
#pragma once
#include <array>
#include <gp_Pnt2d.hxx>
#include <optional>
#include <vector>

namespace rasoir::mesh {

/// Fills an outline: the outer loop first, then holes; each in either sense, without its first point repeated.
/// Returns   triangles of three indices each, counted through all loops in their order, turning left; none where loops
///           cross each other or themselves.
/// Cost      points times points that are inner corners: for outlines of some thousand points, not millions.
/// Method    holes are tied to the outer loop by a bridge each, then ears are cut; after Eberly, Triangulation by ear
///           clipping (2002).
[[nodiscard]] std::optional<std::vector<std::array<int, 3>>> fillOutline(
    const std::vector<std::vector<gp_Pnt2d>>& loops);

}  // namespace rasoir::mesh
