// What would have to go along with something that stays by itself.
#pragma once
#include "heal/removal.h"
#include "survey/rounds.h"

namespace rasoir::shave {

struct Companions {
    std::vector<survey::StripChain> chains;   ///< rounds and chamfers that have to go too
    std::vector<int> faces;                   ///< further faces, Incidence numbers; those of the chains are not among them
    std::string words;                        ///< "the R 0.2 mm round, outer, 3 faces, that rests on it"

    [[nodiscard]] std::vector<int> allFaces() const;
};

/// Looks for what has to go with `stayed`, which does not go by itself: the rounds and chamfers that rest on it; those that end at it too; for
/// faces without strips also small faces beside them. The first of these that lets it go, as tried on `part`, is the answer.
/// Input     `known`: all chains of the part, as survey::findStrips finds them.
/// Returns   none where nothing of the kind helps.
/// Cost      up to four removals.
[[nodiscard]] std::optional<Companions> companionsOf(const Part& part, const heal::Wanted& stayed, const std::vector<survey::StripChain>& known, double tolerance, Progress& progress);

}  // namespace rasoir::shave
