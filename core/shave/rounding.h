// Rounds put on, put back and given another radius; and the sharp edges in between.
#pragma once
#include <map>

#include "model/operation.h"
#include "survey/rounds.h"

namespace rasoir::shave {

/// A part as a step has it now, and how it came from the part that the step began with.
struct Reworked {
    std::shared_ptr<const Part> part;
    PartLineage lineage;
};
/// Takes it into an outcome, after whatever the step has done to that part already.
void put(Outcome& outcome, std::size_t part, Reworked made);
/// One after the other.
[[nodiscard]] Reworked then(const Reworked& first, Reworked second);

/// Rounds edges (Incidence numbers, radius in mm) of a part: all or none. Rounds that meet are put on together.
/// Refuses   where the kernel's fillet finds no room, or the body would not be sound.
[[nodiscard]] Result<Reworked> rounded(const Part& part, const std::map<int, double>& edges);

/// A part without some of its rounds, and the sharp edges where they were, with the radius of each: rounding those puts
/// them back.
struct Sharp {
    Reworked made;
    std::map<int, double> edges;
};
/// Refuses   a chain that cannot go, or whose radius varies: all or none.
[[nodiscard]] Result<Sharp> withoutRounds(const Part& part, const std::vector<survey::StripChain>& chains,
                                          double tolerance, Progress& progress);

/// What a step has done, as its outcome: refuses with the first problem, or `nothing`, where it changed no part.
[[nodiscard]] Result<Outcome> finished(Outcome outcome, const std::string& summary, const std::string& nothing);
[[nodiscard]] std::size_t doneIn(const Outcome& outcome);

}  // namespace rasoir::shave
