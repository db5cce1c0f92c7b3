// Small bodies beside the main one: dropped, or made part of it.
#pragma once
#include "mend/change.h"

namespace rasoir::mend {

/// Drops what the survey calls stray; `upTo` [mm]: none longer than this, 0: all.
[[nodiscard]] Result<Change> withoutStray(const Part& part, double upTo, double targetSize, double exact,
                                          Progress& progress);

/// Makes small bodies (`upTo` [mm]: all but the largest that are no longer; 0: what the survey calls stray) one with
/// the body they stand on: where a face of the one lies wholly within a face of the other, or is the same, the skin
/// between them goes and the larger face gets the outline of the smaller as an inner loop. Checks    one closed body,
/// sound faces, and the volumes' sum to 1e-6. Refuses   bodies that touch nowhere, whose faces lie on each other only
/// in part, or that reach into one another; each by itself.
[[nodiscard]] Result<Change> withStrayUnited(const Part& part, double upTo, double targetSize, double exact,
                                             Progress& progress);

}  // namespace rasoir::mend
