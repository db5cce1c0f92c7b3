// The pictures of a report: the model before and after, and close-ups of what each step changed.
#pragma once
#include "common/progress.h"
#include "model/work.h"

namespace rasoir::handover {

/// Two pictures side by side as HTML: as received and now, from one sight. On the left what is gone is marked, on the
/// right what is new. Empty where there is nothing to be seen.
[[nodiscard]] std::string picturesOf(const Work& work, Progress& progress);
/// The same of one step, close up on what it changed, seen from the side that it faces; of the part that it changed
/// most. Empty for a step that changed no face.
[[nodiscard]] std::string closeUpOf(const Work& work, std::size_t step, Progress& progress);

}  // namespace rasoir::handover
