// The pictures of a report: the model before and after, and close-ups of what each step changed.
#pragma once
#include "common/progress.h"
#include "handover/picture.h"
#include "model/work.h"

namespace rasoir::handover {

/// A view that somebody has kept.
struct NamedSight {
    std::string name;
    Sight sight;
};
/// Views as a work file keeps them: {name: {eye_mm, at_mm, up, scale_mm}}; see docs/formats/work-file.md. What makes no
/// sense is left out. Pictures know no perspective, so that of a camera is dropped.
[[nodiscard]] std::vector<NamedSight> sightsIn(const Json& views);

/// Two pictures side by side as HTML: as received and now, from one sight. On the left what is gone is marked, on the
/// right what is new. Empty where there is nothing to be seen.
/// `sight`  none: from the front, right and above, with everything inside.
[[nodiscard]] std::string picturesOf(const Work& work, Progress& progress,
                                     const std::optional<Sight>& sight = std::nullopt);
/// The same of one step, close up on what it changed, seen from the side that it faces; of the part that it changed
/// most. Empty for a step that changed no face.
[[nodiscard]] std::string closeUpOf(const Work& work, std::size_t step, Progress& progress);

}  // namespace rasoir::handover
