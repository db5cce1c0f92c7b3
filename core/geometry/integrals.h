// Length, area, volume and middle of shapes, by quadrature on their own surfaces.
#pragma once
#include <gp_Pnt.hxx>
#include <TopoDS_Shape.hxx>

namespace rasoir {

/// What a shape's skin amounts to.
struct Skin {
    double area = 0.0;  ///< [mm^2], never negative
    gp_Pnt centre;      ///< [mm] of the skin
};
// Flats are summed along their edges, exactly where those are lines, circles and ellipses, and span by span where they
// are splines; all other faces by trimmed_quadrature.h. Only what has no traces is left to the kernel's plain rule.
[[nodiscard]] Skin skinOf(const TopoDS_Shape& shape);
[[nodiscard]] inline double areaOf(const TopoDS_Shape& shape) {
    return skinOf(shape).area;
}
/// Of all edges, each as often as it is used [mm].
[[nodiscard]] double lengthOf(const TopoDS_Shape& shape);
/// Signed: negative for a skin that is inside out; of an open skin without meaning [mm^3].
[[nodiscard]] double volumeOf(const TopoDS_Shape& shape);
/// The same of an open skin, closed by cones to `base`: what it adds to a volume, by the divergence theorem [mm^3].
[[nodiscard]] double volumeSeenFrom(const gp_Pnt& base, const TopoDS_Shape& shape);

}  // namespace rasoir
