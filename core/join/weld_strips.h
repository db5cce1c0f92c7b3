// Strips beside welds: pieces of faces along the lines, as wide as wanted.
#pragma once
#include "join/welds.h"

namespace rasoir::join {

/// The pieces that hold one line: faces of either part, in the model they were parted in.
struct WeldStrip {
    std::set<int> first, second;  ///< on `place` and on `on`
};

/// Parts the faces beside lines at a distance from them [mm], square at the lines' ends. `outcome` holds the model that
/// the lines speak of, and gets the parts with finer faces and their lineage.
/// Returns   a strip for each line.
/// Refuses   an edge bent more tightly than the strip is wide; what the arrangement refuses.
/// Method    tubes round the lines, arranged with the faces at them alone.
[[nodiscard]] Result<std::vector<WeldStrip>> partStrips(Outcome& outcome, const std::vector<WeldLine>& lines,
                                                        double width, Progress& progress);

}  // namespace rasoir::join
