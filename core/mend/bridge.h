// A face between two open edges that are too far apart to become one.
#pragma once
#include "mend/change.h"

namespace rasoir::mend {

/// Puts a face between each pair of open edges, named by points nearest to them: the plane through both where there is
/// one, else the ruled surface between their curves. Where open edges already join their ends these bound it, else
/// straight ones do; those stay open. Nothing that was there moves. Checks    the faces are sound. Refuses   points
/// with no open edge near, a pair that is one edge, edges whose ends coincide without being one (they want stitching).
[[nodiscard]] Result<Change> bridged(const Part& part, const std::vector<std::pair<gp_Pnt, gp_Pnt>>& pairs,
                                     double exact);

}  // namespace rasoir::mend
