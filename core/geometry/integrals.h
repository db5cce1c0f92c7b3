// Length, area, volume and middle of shapes, by quadrature on their own surfaces.
#pragma once
#include <array>
#include <gp_Pnt.hxx>
#include <gp_XYZ.hxx>
#include <optional>
#include <TopoDS_Face.hxx>
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

/// What a face adds to the sums over a body, seen from a base point: by the divergence theorem, a homogeneous function
/// of degree d, summed over the cone from the base to the face, is its sum over the face times the height, divided by
/// d + 3.
struct FaceMoments {
    double area = 0.0;               ///< [mm^2], never negative
    gp_XYZ areaFirst;                ///< [mm^3] area times distance from the base
    double volume = 0.0;             ///< [mm^3] of the cone; negative where the face looks towards the base
    gp_XYZ first;                    ///< [mm^4]
    std::array<double, 6> second{};  ///< [mm^5] of x x, y y, z z, x y, x z, y z
    void add(const FaceMoments& other, double sign = 1.0);  ///< `sign` for all but the area
};
/// None where the face has no trace on its surface. Accuracy as above.
[[nodiscard]] std::optional<FaceMoments> momentsOf(const TopoDS_Face& face, const gp_Pnt& base);

/// A body's volume, its centre, and its inertia about that centre, for a density of one.
struct BodyMoments {
    double volume = 0.0;              ///< [mm^3]
    gp_Pnt centre;                    ///< [mm]
    std::array<double, 6> inertia{};  ///< [mm^5] xx yy zz xy xz yz; the last three as they stand in the tensor: minus
};
[[nodiscard]] BodyMoments bodyOf(const FaceMoments& sum, const gp_Pnt& base);

}  // namespace rasoir
