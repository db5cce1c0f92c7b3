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

/// An edge that bodies have in common, as its first body has it, and how many faces meet there: a common face once.
struct JoinedEdge {
    std::size_t place = 0;  ///< occurrence
    int edge = 0;
    int faces = 0;
    std::size_t bodies = 0;
};
[[nodiscard]] std::vector<JoinedEdge> joinedEdges(const Model& model);

/// The places that have a face, edge or vertex of one place in common, that one included; empty: it is that one's
/// alone.
[[nodiscard]] std::vector<std::size_t> commonTo(const Model& model, std::size_t place, const Entity& thing);

/// What holds together by faces or edges: a number for each occurrence, the same for those that hang together, counted
/// from 0 in the order of places; -1 for what is joined to nothing.
[[nodiscard]] std::vector<int> joinedSets(const Model& model);

}  // namespace rasoir::join
