// Beads: seams of weld that came as bodies.
#pragma once
#include "model/model.h"

namespace rasoir::join {

/// A slender body in the corner between two others, touching both along the corner's line.
struct Bead {
    std::size_t place = 0;              ///< its occurrence
    std::size_t first = 0, second = 0;  ///< occurrences that it holds
    /// Edges of the two along its root, each with each, numbers in their parts.
    std::vector<std::pair<int, int>> root;
    double length = 0.0;  ///< [mm] of the root
    double throat = 0.0;  ///< [mm] height of its section over the side opposite the root
    double corner = 0.0;  ///< [rad] of its section at the root
    gp_Pnt where;         ///< [mm, model coordinates] middle of its longest root edge
};

/// Solids all of whose bodies are beads, read off the joints of a model in which all that touches is joined. A bead's
/// section is a triangle to within two fifths of its area (beads bulge or are hollow), and it is at least four times as
/// long as its longer leg. Longest first. Cost: linear in joints and edges.
[[nodiscard]] std::vector<Bead> findBeads(const Model& joined);

}  // namespace rasoir::join
