// Where two curves cross, or touch, within a tolerance.
#pragma once
#include <GeomAdaptor_Curve.hxx>
#include <utility>
#include <vector>

namespace rasoir::arrange {

/// Pairs of parameters, one on each curve and within its range, at which the curves come within `reach` [mm] of each
/// other. Curves that run along each other have none. Lines and circles by closed formulas, all else by the kernel's
/// search for extrema.
[[nodiscard]] std::vector<std::pair<double, double>> crossingsOf(const GeomAdaptor_Curve& a, const GeomAdaptor_Curve& b,
                                                                 double reach);

}  // namespace rasoir::arrange
