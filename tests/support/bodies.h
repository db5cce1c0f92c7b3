// Bodies of known answer. Made with the kernel's Booleans, which the product itself may not use: an independent judge.
#pragma once
#include <gp_Ax1.hxx>
#include <random>
#include <TopoDS_Shape.hxx>

#include "model/model.h"

namespace rasoir::test {

TopoDS_Shape block(double x, double y, double z);                              ///< from the origin
TopoDS_Shape sheetAt(const gp_Pnt& corner, const gp_Vec& u, const gp_Vec& v);  ///< a parallelogram
TopoDS_Shape rod(const gp_Ax1& axis, double radius, double length);
TopoDS_Shape coneOf(const gp_Ax1& axis, double radius0, double radius1, double length);
TopoDS_Shape cut(const TopoDS_Shape& body, const TopoDS_Shape& tool);
TopoDS_Shape fuse(const TopoDS_Shape& a, const TopoDS_Shape& b);
TopoDS_Shape splineTopped(double x, double y, double z, double wave);  ///< a block with a wavy spline face on top
TopoDS_Shape moved(const TopoDS_Shape& shape, const gp_Trsf& by);
TopoDS_Shape compoundOf(const std::vector<TopoDS_Shape>& bodies);
TopoDS_Shape scaledBy(const TopoDS_Shape& shape, double factor);
/// A bar of trapezoid section wound right-handed about the z axis, as a tool for threads: from radius `inner` (where it
/// is `narrow` wide) to `outer` (`wide`), its middle beginning at height z and rising by `lead` in each of its `turns`.
TopoDS_Shape wound(double inner, double outer, double narrow, double wide, double lead, double turns, double z);
/// A pin along z whose ball end is parted from it by a neck, a cone or a groove; and the two ways in which pin and ball
/// can meet.
struct NeckedPin {
    TopoDS_Shape made, domed, knob;
};
NeckedPin neckedPin(bool groove, double seam);      ///< `seam` [rad]: where the ball's lies as seen from the pin's
TopoDS_Shape asSplines(const TopoDS_Shape& shape);  ///< every surface turned into a spline

double volumeOf(const TopoDS_Shape& shape);
bool isValid(const TopoDS_Shape& shape);
int solidsIn(const TopoDS_Shape& shape);
int facesIn(const TopoDS_Shape& shape);
/// Handles of a single closed shell: (2 - V + E - F + inner loops) / 2, counted without degenerated edges and seams'
/// help.
int openEdgesIn(const TopoDS_Shape& shape);

Model modelOf(const TopoDS_Shape& shape, const std::string& name = "part");
/// A part for each body, named "body 1", "body 2", ..., each at its own place.
Model withBodies(const std::vector<TopoDS_Shape>& bodies);
gp_Trsf by(double x, double y, double z);  ///< a shift

/// A plate lying on z = 0 with `count` holes on a grid, every second one blind.
TopoDS_Shape drilledPlate(double length, double width, double thickness, int count, double diameter);

using Random = std::mt19937_64;
double between(Random& random, double low, double high);

}  // namespace rasoir::test
