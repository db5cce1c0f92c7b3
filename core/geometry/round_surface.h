// What kind of surface a face lies on, and the axis and radius of those that are round, also when a designer's program
// wrote them as splines.
#pragma once
#include <gp_Ax1.hxx>
#include <optional>
#include <string>
#include <TopoDS_Face.hxx>

namespace rasoir {

enum class SurfaceKind { Plane, Cylinder, Cone, Sphere, Torus, Revolution, Extrusion, Spline, Other };

SurfaceKind surfaceKind(const TopoDS_Face& face);
std::string surfaceKindName(SurfaceKind kind);

/// A surface of revolution of a simple kind, in the coordinates of the face's body [mm, rad].
struct RoundSurface {
    SurfaceKind kind = SurfaceKind::Cylinder;  ///< Cylinder, Cone, Sphere or Torus
    gp_Ax1 axis;  ///< sphere: any direction through the centre; cone: points the way the radius grows or shrinks by
                  ///< `slope`
    double radius = 0.0;      ///< cylinder, sphere: its radius; cone: at axis.Location(); torus: of the tube
    double slope = 0.0;       ///< cone: growth of the radius per mm along the axis
    double ringRadius = 0.0;  ///< torus: of the ring
    bool inward =
        false;  ///< the outward normal (away from the material) points to the axis, centre or tube middle: concave
};

/// Exact for the kernel's own kinds; revolutions of a line, extrusions of a circle and splines are recognised when
/// `tolerance` [mm] holds at 25 sampled points. Cost: constant, about 10 µs for a spline, far less else. Source of the
/// fit: axis from the scatter of the normals, as in Pottmann, Wallner: Computational Line Geometry (2001), ch. 4.
std::optional<RoundSurface> roundSurface(const TopoDS_Face& face, double tolerance = 1e-5);

/// Both faces lie on one and the same surface, within `tolerance` [mm]. Splines: only when they share the very same
/// surface.
bool sameSurface(const TopoDS_Face& a, const TopoDS_Face& b, double tolerance);

}  // namespace rasoir
