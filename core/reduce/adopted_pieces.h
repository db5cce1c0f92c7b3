// Pieces of middles that lie between no two sides of their wall, and belong to the sheet nevertheless.
#pragma once
#include <functional>
#include <map>

#include "arrange/arrangement.h"

namespace rasoir::reduce {

/// What of an arrangement is the sheet so far, and what more could be.
struct SheetSoFar {
    const arrange::Arrangement& all;
    std::vector<int>& kept;        ///< pieces
    std::map<int, int>& wallOf;    ///< by piece that is kept
    const std::vector<int>& base;  ///< by wall, the one on whose middle it lies
    /// The walls that a piece could be of, which lies within the solid and was divided; none of any other piece.
    std::function<std::set<int>(int)> wallsOfPiece;
};

/// Under the foot of what stands on a wall there is no skin of its own, so that pieces there are not between its sides.
/// What the kept pieces of one middle surround on all sides is of it nevertheless.
void adoptHoles(SheetSoFar sheet);

/// Round a corner that is rounded on one side alone, or where walls of slowly changing thickness meet, the skin
/// opposite is another wall's, and a gap is left between pieces that are kept. Of the pieces that could fill it, those
/// are adopted that together leave the shortest free edges; where that halves them, and not otherwise.
/// A sheet may end at inputs of which `endsAt` is true: the solid's skin, and cutters. `thickness` [mm] is by wall;
/// what is many times as wide as that is no gap.
void closeGaps(SheetSoFar sheet, const std::function<bool(int)>& endsAt, const std::vector<double>& thickness);

}  // namespace rasoir::reduce
