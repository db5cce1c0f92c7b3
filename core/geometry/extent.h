// How far a shape reaches: along axes, round an axis. Exact where its edges decide, else from its surfaces.
#pragma once
#include <array>
#include <Bnd_Box.hxx>
#include <gp_Ax1.hxx>
#include <gp_Ax3.hxx>
#include <TopoDS_Shape.hxx>
#include <tuple>
#include <vector>

#include "topology/incidence.h"

namespace rasoir {

/// The tight box of a shape, without tolerances. Planes, cylinders, cones and extruded faces reach no farther than
/// their edges; spheres and tori are asked where they turn; only other faces whose poles lie outside what is known are
/// searched by the kernel.
[[nodiscard]] Bnd_Box tightBox(const TopoDS_Shape& shape);

struct Extent {
    std::array<double, 3> low{}, high{};  ///< [mm] along the x, y and z of the axes, from their origin
};
/// The tight box of a shape in a system of axes.
[[nodiscard]] Extent extentAlong(const TopoDS_Shape& shape, const gp_Ax3& axes);

/// Largest distance from an axis, and where the shape begins and ends along it [mm]. Never smaller than the truth by
/// more than 1e-6 of the radius on planes, cylinders, cones and spheres about the axis; elsewhere by a millesimal
/// sampling of edges and faces, for which a margin is added.
[[nodiscard]] std::tuple<double, double, double> reachRound(const TopoDS_Shape& shape, const gp_Ax1& axis);

/// A direction and how much of the skin it carries, roughly its area.
struct WeighedDirection {
    gp_Dir along;
    double weight = 0.0;  ///< [mm^2]
};
/// Normals of planes and axes of cylinders, heaviest first; parallel ones (1e-6 rad) are one. At most 200.
[[nodiscard]] std::vector<WeighedDirection> mainDirections(const Incidence& topology);

}  // namespace rasoir
