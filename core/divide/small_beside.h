// Faces and edges that would better be meshed together with a neighbour they run on to.
#pragma once
#include "common/progress.h"
#include "model/model.h"

namespace rasoir::divide {

/// Something small against the target size, and the neighbour that it could be meshed with as one.
struct SmallBeside {
    std::size_t part = 0;
    Entity small, with;  ///< two faces, or two edges
    double width = 0.0;  ///< [mm] of the small one: twice its area over its rim; of an edge its length
};

/// Faces narrower than half the target size that a larger face runs on to smoothly (within `sameNormal`); of several
/// the one with the longest common edge. A face that turns by more than 15 degrees across its width stays: it is a
/// round. Edges shorter than half of it that run on smoothly into another one between the same faces. What is marked as
/// one already, and faces that hold different groups, are left out. Cost: linear in the edges.
[[nodiscard]] Result<std::vector<SmallBeside>> findSmallBeside(const Model& model, double targetSize,
                                                               Progress& progress);

}  // namespace rasoir::divide
