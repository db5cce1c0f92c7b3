// Common faces and edges: what lies on each other becomes one, held as the model's joints.
#pragma once
#include "model/operation.h"

namespace rasoir::join {

/// Parameters of `join.pairs`, kept in the ledger.
struct Pairs {
    std::vector<std::string> places;  ///< parts or places to join among themselves; empty: all that is not set aside
    std::vector<std::string> apart;   ///< those that stay apart on purpose
    std::vector<std::pair<std::string, std::string>> pairs;  ///< of parts or places: these alone; empty: all that touch
    double upTo = 0.0;  ///< [mm] what is no farther apart is one; 0: the model's own tolerance
    /// Whose faces move to close gaps: the "smaller" or the "larger" one, both "midway", or the name of a part or
    /// place.
    std::string gapsBy = "smaller";
    /// What bodies that reach into one another do: "apart" (the one with more such partners is left out), or what they
    /// have in common belongs to the "smaller", the "larger", the "first" of them, the "harder" one by the Young's
    /// modulus of its material, or to the part or place of that name (of others to the smaller).
    std::string overlaps = "apart";
    bool bodies = false;  ///< the bodies of one part are joined too: they become parts of their own first

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const Pairs& step);
void from_json(const Json& json, Pairs& step);

/// Divides the faces of all places where they lie on faces of others, so that what they have in common is a face of
/// both with the same boundary, and records joints for those faces, their edges and vertices. Each part keeps its own
/// two-sided solids. Copies that are joined differently become parts of their own.
/// With `bodies` a pair of a part with itself means its bodies.
/// Where `pairs` are named, other bodies that touch are divided at each other's outline all the same, and stay two.
/// Returns   the new model with its joints; an item for each pair with its common area, and for each gap or body that
/// had
///           to be left, with the reason; a note for each face that was moved to close a gap.
/// Refuses   a body of which nothing would be left, a limit beyond the safe one, and two bodies that cannot be
/// arranged.
///           Nothing changes then. Of several bodies, one that cannot be arranged stays apart, told.
[[nodiscard]] Result<Outcome> joinPairs(const Model& model, const Pairs& step, Progress& progress);

}  // namespace rasoir::join
