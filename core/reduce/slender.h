// Slender bodies: straight ones whose section does not change along them.
#pragma once
#include "common/progress.h"
#include "model/model.h"
#include "reduce/beam_section.h"

namespace rasoir::reduce {

struct Slender {
    std::size_t part = 0;
    gp_Pnt from, to;       ///< [mm, part coordinates] the line through the centroids of its sections, end to end
    BeamSection section;   ///< at the station that is most like the others
    double ratio = 0.0;    ///< length over the section's largest extent
    double dropped = 0.0;  ///< share of the volume that the beam does not have, negative where it has more
    [[nodiscard]] double length() const { return from.Distance(to); }
};

/// Whether a part of one solid is a straight bar: four fifths of its skin and more run along one direction, and of five
/// sections across it three and more are alike within a hundredth. Holes and odd ends do not make it another.
/// Returns   none where it is none, or shorter than `leastRatio` section depths (bent along arcs: none, as yet).
/// Refuses   only being cancelled, and sections that the arrangement cannot find.
[[nodiscard]] Result<std::optional<Slender>> findSlender(const Model& model, std::size_t part, double leastRatio,
                                                         Progress& progress);

}  // namespace rasoir::reduce
