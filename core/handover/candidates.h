// What a step that does not fit a revision might have meant: for each face, edge, vertex or body that it names and that
// is not there any more, the nearest thing like it.
#pragma once
#include "common/progress.h"
#include "model/reference.h"
#include "model/work.h"

namespace rasoir::handover {

struct Candidate {
    std::string at;    ///< where the reference stands in the parameters, as a JSON pointer: "/chosen/0"
    std::string told;  ///< "cylinder of 15.8 mm² → face 31, 0.4 mm away, 3 % larger"
    FoundEntity thing;
};

/// One step, and what it would be with the nearest of everything it misses.
struct Offer {
    std::size_t step = 0;
    std::vector<Candidate> candidates;
    Json parameters;
};

/// For references in `parameters` that fit nothing in `model`. Things of the same part and kind alone (of faces also of
/// the same kind of surface) are looked at, by distance and by how their measures differ; what is farther away than a
/// quarter of the part's extent, or more than four times as large or small, is nobody's candidate. Parts are looked for
/// by name: a part that is not there has none.
[[nodiscard]] std::vector<Candidate> candidatesFor(const Model& model, const Json& parameters);

/// Of every step that failed, where something near was found for all that it misses.
[[nodiscard]] std::vector<Offer> offersOf(const Work& work);

/// Takes the nearest for every step for which there is an offer, in order, and runs on; `told` says what was taken for
/// what. Never unasked: these are guesses, and good ones only where a designer moved or resized what was there.
[[nodiscard]] Result<Work> withNearest(Work work, std::vector<std::string>& told, measure::FactsCache& facts,
                                       Progress& progress);

}  // namespace rasoir::handover
