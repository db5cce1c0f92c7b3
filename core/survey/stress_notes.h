// Inner corners that a step has made sharp: the stress there is fictitious, and grows without end as the mesh gets
// finer.
#pragma once
#include <map>

#include "model/model.h"

namespace rasoir::survey {

struct StressNote {
    std::vector<int> edges;  ///< Incidence numbers: concave, sharp
    double radius = 0.0;     ///< [mm] of the round that was there
    double length = 0.0;     ///< [mm]
    gp_Pnt where;            ///< on the longest of the edges
};

/// What of the part's notes still holds, in their order: a note whose corner has gone since, with a later step, is left
/// out. Cost: notes times the concave edges near them.
[[nodiscard]] std::vector<StressNote> stressNotes(const Part& part);

/// A round that has gone.
struct GoneRound {
    std::vector<int> faces;  ///< Incidence numbers in the part as it was
    double radius = 0.0;     ///< [mm]
};
/// Corners of `after` that are sharp and concave where in `before` one of these rounds was, and no such corner.
[[nodiscard]] std::vector<Sharpened> cornersLeftBy(const Part& before, const Part& after,
                                                   const std::vector<GoneRound>& rounds);
/// Edges of `after`, inner and outer ones, that are sharp where one of these rounds was, each with the radius of that
/// round: what would have to be rounded to put them back.
[[nodiscard]] std::map<int, double> edgesLeftBy(const Part& before, const Part& after,
                                                const std::vector<GoneRound>& rounds);

}  // namespace rasoir::survey
