// Loops of edges, and faces made from them.
#pragma once
#include <Geom2d_Curve.hxx>
#include <Geom_Surface.hxx>
#include <gp_Pnt.hxx>
#include <optional>
#include <string>
#include <TopoDS_Edge.hxx>
#include <TopoDS_Face.hxx>
#include <vector>

#include "topology/incidence.h"

namespace rasoir::mend {

/// A loop of edges, in order, each running so that a face on its side would use it.
struct OpenLoop {
    std::vector<TopoDS_Edge> edges;  ///< oriented as the patch uses them
    std::vector<int> numbers;        ///< in the Incidence
    double length = 0.0;             ///< [mm]
    double size = 0.0;               ///< [mm] longest side of its box
    gp_Pnt middle;
};
/// All closed loops of open edges that share their vertices. Chains that do not close are left out.
[[nodiscard]] std::vector<OpenLoop> openLoops(const Incidence& incidence);

/// A face on `surface` whose outer loop is the first and whose islands are the others. An edge that a loop runs along
/// twice becomes its seam. The edges get their traces: never those of a model that others hold. None where a loop
/// leaves the surface by more than `allowed` [mm], or winds round it without closing. `deviation` grows to the largest
/// distance between curve and trace.
[[nodiscard]] std::optional<TopoDS_Face> faceFromLoops(const Handle(Geom_Surface) & surface,
                                                       const std::vector<const OpenLoop*>& loops, double allowed,
                                                       double& deviation);

/// Puts length, size and middle of a loop together from its edges.
void measureLoop(OpenLoop& loop);

}  // namespace rasoir::mend
