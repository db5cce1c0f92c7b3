// Pieces that nothing parts any more, put together again.
#pragma once
#include <functional>

#include "arrange/arrangement.h"

namespace rasoir::arrange {

/// [mm] by eight chords: good for weighing arcs against each other.
[[nodiscard]] double arcLength(const Arc& arc);

/// Pieces as they are chosen now.
struct Merged {
    std::vector<int> pieces;             ///< numbers in the arrangement, which gets the new ones at its end
    std::vector<std::vector<int>> from;  ///< what each has come from
};

/// Of some pieces that were chosen, those of one face that meet in arcs at which no other chosen piece ends become one
/// again, and so do arcs that run on into each other. What had parted them was not chosen.
/// `alike`: whether two pieces may become one. Two that meet elsewhere in an arc at which a third ends stay two, since
/// a face never has one edge on both of its sides, seams aside.
/// Cost      near linear in the uses of the pieces.
[[nodiscard]] Merged merged(Arrangement& all, const std::vector<int>& pieces,
                            const std::function<bool(int, int)>& alike);

}  // namespace rasoir::arrange
