// Short words for the shapes that the demo parts are made of. The generator is not the product: it uses the kernel's
// Booleans.
#pragma once
#include <functional>
#include <gp_Ax1.hxx>
#include <gp_Ax2.hxx>
#include <gp_Trsf.hxx>
#include <TopoDS_Edge.hxx>
#include <TopoDS_Shape.hxx>
#include <vector>

namespace rasoir::demo {

inline const gp_Dir alongX(1, 0, 0), alongY(0, 1, 0), alongZ(0, 0, 1);

TopoDS_Shape box(double x0, double y0, double z0, double x1, double y1, double z1);
TopoDS_Shape rod(const gp_Ax1& axis, double radius, double length);
TopoDS_Shape cone(const gp_Ax1& axis, double radius0, double radius1, double length);
TopoDS_Shape ball(const gp_Pnt& centre, double radius);
TopoDS_Shape ring(const gp_Ax1& axis, double ringRadius, double radius);
/// A polygon in the plane y = `y0` (x, z pairs), extruded along +Y.
TopoDS_Shape prismY(const std::vector<std::pair<double, double>>& xz, double y0, double length);
/// An obround of overall `length` along `across`, extruded along the axis.
TopoDS_Shape obround(const gp_Ax1& axis, const gp_Dir& across, double length, double width, double depth);
/// A bar of trapezoid section wound about the z axis: from radius `inner` (`narrow` wide) to `outer` (`wide`), its
/// middle beginning at height z.
TopoDS_Shape wound(double inner, double outer, double narrow, double wide, double lead, double turns, double z);
TopoDS_Shape unite(const TopoDS_Shape& a, const TopoDS_Shape& b);
TopoDS_Shape subtract(const TopoDS_Shape& a, const TopoDS_Shape& b);
TopoDS_Shape intersect(const TopoDS_Shape& a, const TopoDS_Shape& b);
TopoDS_Shape moved(const TopoDS_Shape& shape, const gp_Trsf& by);
TopoDS_Shape subtractAll(const TopoDS_Shape& body, const std::vector<TopoDS_Shape>& tools);
/// Neighbouring faces on one surface made one, so that a fused body has the faces a designer would see.
TopoDS_Shape tidied(const TopoDS_Shape& shape);

struct EdgeFacts {
    gp_Pnt middle;
    gp_Dir along;  ///< tangent at the middle
    bool straight, circle;
    double length;
};
/// Rounds or chamfers the edges for which `wanted` says yes. Throws when the kernel cannot, or none was wanted.
TopoDS_Shape rounded(const TopoDS_Shape& shape, double radius, const std::function<bool(const EdgeFacts&)>& wanted);
TopoDS_Shape chamfered(const TopoDS_Shape& shape, double width, const std::function<bool(const EdgeFacts&)>& wanted);
double volumeOf(const TopoDS_Shape& shape);

}  // namespace rasoir::demo
