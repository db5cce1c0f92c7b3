// Frames made as one solid: bars that have grown together, told apart again.
#pragma once
#include "reduce/slender.h"

namespace rasoir::reduce {

/// The straight bars that a part of one solid is made of, each with its number, from one. Their lines are carried on to
/// where they meet the lines of others.
/// Returns   none where less than two are found, or where they leave or add more than a quarter of the solid's volume;
///           each knows that share in `dropped`.
/// `leastRatio`  length over depth of the longest of them; the others may have two fifths of it.
/// Refuses   only being cancelled.
[[nodiscard]] Result<std::vector<Slender>> findMembers(const Model& model, std::size_t part, double leastRatio,
                                                       Progress& progress);

/// What a part is as a beam: the one bar that it is, or else its members; none of both: empty.
[[nodiscard]] Result<std::vector<Slender>> findBars(const Model& model, std::size_t part, double leastRatio,
                                                    Progress& progress);

}  // namespace rasoir::reduce
