// What would have to go along with something that stays by itself.
#pragma once
#include "heal/removal.h"
#include "survey/rounds.h"

namespace rasoir::shave {

struct Companions {
    std::vector<survey::StripChain> chains;  ///< rounds and chamfers that have to go too
    std::vector<int> faces;  ///< further faces, Incidence numbers; those of the chains are not among them
    std::string words;       ///< "the R 0.2 mm round, outer, 3 faces, that rests on it"

    [[nodiscard]] std::vector<int> allFaces() const;
};

/// Looks for what has to go with `stayed`, which does not go by itself: the rounds and chamfers that rest on it; those
/// that end at it too; for faces without strips also small faces beside them. The first of these that lets it go, as
/// tried on `part`, is the answer. Input     `known`: all chains of the part, as survey::findStrips finds them. Returns
/// none where nothing of the kind helps. Cost      up to four removals.
[[nodiscard]] std::optional<Companions> companionsOf(const Part& part, const heal::Wanted& stayed,
                                                     const std::vector<survey::StripChain>& known, double tolerance,
                                                     Progress& progress);

/// Asks once more with what would have to go along, and takes that where more of the first ones go; `remove` takes
/// features and returns a removal.
template <class Feature, class Remove>
Result<void> alsoWith(const std::vector<Feature>& with, std::vector<Feature>& taken, heal::Removal& removal,
                      Remove remove) {
    const auto chosen = static_cast<std::ptrdiff_t>(taken.size());
    std::vector<Feature> more = taken;
    for (const Feature& feature : with)
        if (std::none_of(more.begin(), more.end(), [&](const Feature& other) { return other.faces == feature.faces; }))
            more.push_back(feature);
    Result<heal::Removal> again = remove(more);
    if (!again) return tl::unexpected(again.error());
    const auto gone = [chosen](const heal::Removal& r) {
        return std::count_if(r.items.begin(), r.items.begin() + chosen,
                             [](const auto& item) { return item.has_value(); });
    };
    if (gone(*again) <= gone(removal)) return {};
    removal = std::move(*again);
    taken = std::move(more);
    return {};
}

}  // namespace rasoir::shave
