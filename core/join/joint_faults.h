// What is wrong with joints, and how much there is when they are counted once. Shares no code with what makes them.
#pragma once
#include "model/model.h"

namespace rasoir::join {

/// What is wrong with the model's joints, as sentences; none when each class is one thing: same curve, same ends, same
/// area, use for use, within the deviation it states.
[[nodiscard]] std::vector<std::string> faultsInJoints(const Model& model);

/// How many faces, edges and vertices there are when joints are counted once: two cubes on each other have 11 faces and
/// 20 edges.
struct Counted {
    std::size_t faces = 0, edges = 0, vertices = 0;
};
[[nodiscard]] Counted countJoined(const Model& model);

}  // namespace rasoir::join
