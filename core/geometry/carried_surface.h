// Surfaces carried on past their ends.
#pragma once
#include <Geom_Curve.hxx>
#include <Geom_Surface.hxx>

namespace rasoir {

/// The surface and as much again beyond its sides as `by` [mm] asks for, with the same parameters where it was. Splines
/// go on as the polynomials of their outermost spans do, so that a spline that is a plane, a cylinder or a cone goes on
/// as that; by no more than twice the outermost span, since polynomials stray. Input     splines and Bezier patches,
/// clamped; surfaces of extrusion and revolution over such curves. Closed directions stay as they are. Returns   the
/// very same surface where it has no ends, or where it cannot be carried on (weights that would turn negative). Source
/// the blossom of the outermost span evaluated at the moved knot; Piegl, Tiller: The NURBS Book, 1997, ch. 5 and 12
/// (unclamping).
[[nodiscard]] Handle(Geom_Surface) carriedOn(const Handle(Geom_Surface) & surface, double by);
/// The same for a curve.
[[nodiscard]] Handle(Geom_Curve) carriedOn(const Handle(Geom_Curve) & curve, double by);

}  // namespace rasoir
