// Convex, concave or smooth: how two faces meet at an edge.
#pragma once
#include "common/tolerance.h"
#include "topology/incidence.h"

namespace rasoir {

/// [rad] Edges of files that turn by less are smooth to those who look for features: numbers in files are rounded.
constexpr double smoothInFiles = 0.06;

enum class EdgeKind { Open, Smooth, Convex, Concave, Many };  ///< Many: three or more faces

struct EdgeAngle {
    EdgeKind kind = EdgeKind::Open;
    /// Turn of the outward normal across the edge [rad], 0 where the faces are tangent, positive where the edge is
    /// convex; the dihedral angle inside the material is pi minus this. 0 unless exactly two faces meet.
    double turn = 0.0;
};

/// Measured at the edge's middle from the faces' own surfaces. Below `sameNormal` [rad] the edge is Smooth.
EdgeAngle edgeAngle(const Incidence& incidence, int edge, double sameNormal = Tolerance::smooth);

/// Outward normal of a face (against its material) at a point of one of its edges, by the edge's curve parameter.
/// Null vector where the surface is singular.
gp_Vec outwardNormal(const TopoDS_Face& face, const TopoDS_Edge& edge, double parameter);

std::string edgeKindName(EdgeKind kind);

}  // namespace rasoir
