// Parts and places by name: how steps and commands say which ones they mean.
#pragma once
#include <map>

#include "common/problem.h"
#include "model/model.h"

namespace rasoir {

/// Whether a name fits a pattern with * (anything) and ? (one letter), in any case of letters.
[[nodiscard]] bool fitsPattern(const std::string& name, const std::string& pattern);

/// Indices of the parts named, ascending, each once. A name that no part bears is read as a pattern when it holds * or
/// ?. Refuses a name that fits no part.
[[nodiscard]] Result<std::vector<std::size_t>> partsNamed(const Model& model, const std::vector<std::string>& names);

/// Indices of the occurrences named, ascending, each once: "bolt" for all places of that part, "bolt #3" for its third.
[[nodiscard]] Result<std::vector<std::size_t>> placesNamed(const Model& model, const std::vector<std::string>& names);

/// The places a step means: those named, or all that are not set aside where none is named; less those `apart`.
[[nodiscard]] Result<std::vector<std::size_t>> placesMeant(const Model& model, const std::vector<std::string>& names,
                                                           const std::vector<std::string>& apart = {});

/// The name placesNamed() understands: the part's, with "#n" where it stands in several places.
[[nodiscard]] std::string placeName(const Model& model, std::size_t occurrence);
/// The shortest list of names for these places: a part whose every place is among them is named once.
[[nodiscard]] std::vector<std::string> placeNames(const Model& model, const std::vector<std::size_t>& occurrences);

/// Pairs of places, the lower index first, that are kept as two by a pairing of groups, and as what.
[[nodiscard]] std::map<std::pair<std::size_t, std::size_t>, PairingKind> pairedPlaces(const Model& model);

/// A model of one part alone, as it lies in its own coordinates: to ask rays, masses or contacts of it.
[[nodiscard]] Model aloneInPlace(std::shared_ptr<const Part> part);

/// A name that no part bears yet: `wanted`, or `wanted (2)`, ...
[[nodiscard]] std::string freeName(const Model& model, const std::string& wanted);

}  // namespace rasoir
