// Slender bodies: straight or bent along arcs, with a section that does not change along them.
#pragma once
#include "common/progress.h"
#include "model/model.h"
#include "reduce/bar_line.h"
#include "reduce/beam_section.h"

namespace rasoir::reduce {

struct Slender {
    std::size_t part = 0;
    std::size_t member = 0;  ///< of the bars of a part that is a frame, from one; 0: it is the whole part
    BarLine line;            ///< [mm, part coordinates] through the centroids of its sections, end to end
    BeamSection section;     ///< of a straight one at the station most like the others, of a bent one at its beginning
    double ratio = 0.0;      ///< length over the section's largest extent
    double dropped = 0.0;    ///< share of the part's volume that its beams do not have, negative where they have more
    [[nodiscard]] double length() const { return line.length(); }
};

/// Whether a part of one solid is a straight bar: four fifths of its skin and more run along one direction, and of five
/// sections across it three and more are alike within a hundredth. Holes and odd ends do not make it another. Or
/// whether it is a section carried along straight pieces and arcs: see findBentBar(); or along any smooth line: see
/// findSweptBar(). Returns   none where it is neither, or shorter than `leastRatio` section depths. Refuses   only
/// being cancelled, and sections that the arrangement cannot find.
[[nodiscard]] Result<std::optional<Slender>> findSlender(const Model& model, std::size_t part, double leastRatio,
                                                         Progress& progress);

}  // namespace rasoir::reduce
