// Where a curve goes through a surface, or touches it.
#pragma once
#include <Geom_Curve.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <optional>
#include <vector>

namespace rasoir::arrange {

/// Parameters from `first` to `last` at which a curve goes through a torus, and at which it comes nearest to it within
/// `reach` [mm]. None if this way does not know the curve or the surface:
/// it knows lines, circles, ellipses, and splines without weights.
[[nodiscard]] std::optional<std::vector<double>> piercingsOfTorus(const Handle(Geom_Curve) & curve, double first,
                                                                  double last, const GeomAdaptor_Surface& surface,
                                                                  double reach);

}  // namespace rasoir::arrange
