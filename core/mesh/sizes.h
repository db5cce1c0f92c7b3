// How large elements shall be: on edges, at vertices, and at a point of a surface.
#pragma once
#include <GeomAdaptor_Surface.hxx>
#include <map>
#include <vector>

#include "common/progress.h"
#include "model/model.h"

namespace rasoir::mesh {

/// What a size is made from. The same rules as in the forecast (docs/forecast.md).
struct SizeRules {
    double target = 4.0;    ///< [mm] never larger
    double growth = 0.25;   ///< [1] how fast sizes grow with the distance from what asked for a smaller one
    double perTurn = 12.0;  ///< elements round a full turn of a curve or surface
    double leastOf = 0.02;  ///< [1] share of the target that neither curvature nor narrowness goes below
    [[nodiscard]] double least() const { return leastOf * target; }
};

/// The size that a surface's curvature asks for at its parameters [mm]; the target on flats and where it is singular.
[[nodiscard]] double sizeByCurvature(const GeomAdaptor_Surface& surface, double u, double v, const SizeRules& rules);

/// The edges of one part, divided.
struct DividedEdges {
    std::vector<std::vector<double>> parameters;  ///< by edge number, rising, both ends included; empty: has no length
    std::vector<std::vector<double>> sizes;       ///< [mm] at those
};

/// Divides the edges of parts. A size is asked for by the target, by the curvature of the edge and of the faces at it,
/// by what lies near across a face, by short edges; each grows with the distance along the edges. Edges that joints say
/// are one are divided alike. Edges within what shall be meshed as one ask for nothing.
/// `parts`   indices.
/// `finer`   by part: faces whose edges are divided finer, and how many times so.
/// Cost      near n log n in samples: a few per element, eight at least per edge.
[[nodiscard]] std::map<std::size_t, DividedEdges> divideEdges(const Model& model, const std::vector<std::size_t>& parts,
                                                              const SizeRules& rules,
                                                              const std::map<std::size_t, std::map<int, int>>& finer,
                                                              Progress& progress);

/// Whether an edge lies within faces, or next to edges, that shall be meshed as one.
[[nodiscard]] bool withinOne(const Part& part, int edge);

}  // namespace rasoir::mesh
