// Walls with lids over their openings, as the one field of triangles in which ways through the air are looked for.
#pragma once
#include <Bnd_Box.hxx>
#include <TopoDS_Face.hxx>

#include "geometry/ray_field.h"

namespace rasoir::join {

/// Walls and lids as one model; the walls keep their occurrences, those of the lids are added to `taken`. They are
/// copies: the triangles that are made of them are finer than those that are drawn, and would get mixed with them on
/// the stage.
[[nodiscard]] Model withLids(const Model& model, const std::vector<TopoDS_Face>& lids, std::vector<std::size_t>& taken);

[[nodiscard]] Bnd_Box boxOf(const Model& model, const std::vector<std::size_t>& places);
[[nodiscard]] double largestPart(const Model& model, const std::vector<std::size_t>& places);  ///< [mm] diagonal
/// The box round the walls. Refuses where there is no wall, and a seed outside of it.
[[nodiscard]] Result<Bnd_Box> boxRoundSeed(const Model& model, const std::vector<std::size_t>& walls,
                                           const gp_Pnt& seed);
/// Where ways are looked for: the box round the walls with a margin. A way that reaches the margin is outside.
[[nodiscard]] Bnd_Box roomRound(const Bnd_Box& box);
/// Walls that may end in the open. Lids end at walls.
[[nodiscard]] std::set<std::size_t> sheetsAmong(const Model& model, const std::vector<std::size_t>& walls);
/// A search never asks what is inside a solid: in the material it would find no way out, and say so.
/// Refuses a seed in the material of a wall, by its name, or nearer than `least` [mm] to a wall or a lid.
[[nodiscard]] Result<void> seedInTheAir(const Model& model, const std::vector<std::size_t>& walls,
                                        const RayField& field, const gp_Pnt& seed, double least);

}  // namespace rasoir::join
