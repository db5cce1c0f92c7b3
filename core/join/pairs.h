// Common faces and edges: what lies on each other becomes one, held as the model's joints.
#pragma once
#include "model/operation.h"

namespace rasoir::join {

/// Parameters of `join.pairs`, kept in the ledger.
struct Pairs {
    std::vector<std::string> places;  ///< parts or places to join among themselves; empty: all that is not set aside
    std::vector<std::string> apart;   ///< those that stay apart on purpose
    double upTo = 0.0;                ///< [mm] what is no farther apart is one; 0: the model's own tolerance
    /// What bodies that reach into one another do: "apart" (the one with more such partners is left out), or what they
    /// have in common belongs to the "smaller", the "larger", or the "first" of them.
    std::string overlaps = "apart";

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const Pairs& step);
void from_json(const Json& json, Pairs& step);

/// Divides the faces of all places where they lie on faces of others, so that what they have in common is a face of
/// both with the same boundary, and records joints for those faces, their edges and vertices. Each part keeps its own
/// two-sided solids. Copies that are joined differently become parts of their own.
/// Returns   the new model with its joints; an item for each pair with its common area and largest shift.
/// Refuses   a body of which nothing would be left, a limit beyond the safe one, and what the arrangement refuses.
///           Nothing changes then.
[[nodiscard]] Result<Outcome> joinPairs(const Model& model, const Pairs& step, Progress& progress);

/// What is wrong with the model's joints, as sentences; none when each class is one thing: same curve, same ends, same
/// area, use for use, within the deviation it states. Shares no code with what makes them.
[[nodiscard]] std::vector<std::string> faultsInJoints(const Model& model);

/// How many faces, edges and vertices there are when joints are counted once: two cubes on each other have 11 faces and
/// 20 edges.
struct Counted {
    std::size_t faces = 0, edges = 0, vertices = 0;
};
[[nodiscard]] Counted countJoined(const Model& model);

}  // namespace rasoir::join
