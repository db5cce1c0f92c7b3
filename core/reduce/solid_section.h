// What a plane cuts out of a solid.
#pragma once
#include <gp_Dir.hxx>
#include <TopoDS_Face.hxx>
#include <TopoDS_Shape.hxx>
#include <vector>

#include "common/problem.h"
#include "common/progress.h"

namespace rasoir::reduce {

/// The faces that a solid and the plane through `at` across `direction` have in common, the largest first.
/// `size`  [mm] half of the side of the square that is taken of the plane.
/// Refuses what the arrangement refuses, and being cancelled.
[[nodiscard]] Result<std::vector<TopoDS_Face>> sectionsAt(const TopoDS_Shape& solid, const gp_Pnt& at,
                                                          const gp_Dir& direction, double size, double tolerance,
                                                          Progress& progress);

}  // namespace rasoir::reduce
