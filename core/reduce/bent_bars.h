// Bars that are bent along arcs: handrails, formed tubes, bent flats, springs of few turns.
#pragma once
#include "reduce/bar_line.h"
#include "topology/incidence.h"

namespace rasoir::reduce {

struct BentBar {
    int firstEnd = 0, lastEnd = 0;  ///< the flat faces that end it
    BarLine line;                   ///< through the centroids of its sections; part coordinates
};
/// Whether a solid is one section carried along straight pieces and arcs, from one flat end to the other. It is walked:
/// from an end, the faces beside it say whether the section moves on straight or turns, and how far.
/// Returns   none where some face does not go along, or where it is one straight piece.
/// `tolerance` [mm]: within which faces count as carried along.
[[nodiscard]] std::optional<BentBar> findBentBar(const Incidence& topology, double tolerance);

}  // namespace rasoir::reduce
