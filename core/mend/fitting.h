// Surfaces that a row of edges may lie on.
#pragma once
#include <Geom_Surface.hxx>
#include <gp_Pln.hxx>
#include <gp_Pnt.hxx>
#include <optional>
#include <TopoDS_Edge.hxx>
#include <vector>

namespace rasoir::mend {

/// Points along the edges in order, `each` on every one, none at their ends.
[[nodiscard]] std::vector<gp_Pnt> samples(const std::vector<TopoDS_Edge>& edges, int each);
/// [mm] Largest distance of the points from the surface; beyond `tolerance` it is not measured to the end, and not at
/// all where a point has no foot.
[[nodiscard]] double offOf(const Handle(Geom_Surface) & surface, const std::vector<gp_Pnt>& points, double tolerance);
/// The plane nearest to all points (least squares), `off` [mm] the largest distance from it. None through points of one
/// line.
[[nodiscard]] std::optional<gp_Pln> planeThrough(const std::vector<gp_Pnt>& points, double& off);
/// Whether the point, seen along the plane's normal, lies within the closed row of edges.
[[nodiscard]] bool encloses(const gp_Pln& plane, const std::vector<TopoDS_Edge>& outline, const gp_Pnt& point);
/// Cylinders, cones and spheres that pass through circles among the edges: a sphere through two about one middle, a
/// cylinder or cone through two on one axis. Copies; to be tried.
[[nodiscard]] std::vector<Handle(Geom_Surface)> surfacesOfArcs(const std::vector<TopoDS_Edge>& edges, double allowed);
/// Turns seam and poles of an elementary surface to the far side of `middle`.
void turnSeamAway(const Handle(Geom_Surface) & surface, const gp_Pnt& middle);

}  // namespace rasoir::mend
