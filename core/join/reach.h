// What a fluid reaches from a point, and in which order: a look at a flow space before it is made.
#pragma once
#include <TopoDS_Face.hxx>

#include "common/progress.h"
#include "model/model.h"

namespace rasoir::join {

struct ReachedFace {
    std::size_t place = 0;  ///< occurrence
    int face = 0;           ///< number in its part
    double way = 0.0;       ///< [mm] through the air from the seed to where the face is first seen
};
struct ReachReport {
    std::vector<ReachedFace> faces;  ///< the nearest first
    double narrowest = 0.0;          ///< [mm] passages narrower than this were not entered
    bool more = false;               ///< it was given up before all of it was looked at: there are too many passages
    bool outside = false;            ///< it gets there; what is reached only from there is not listed
};

/// The faces of walls that are seen from where a ball rolls to from the seed.
/// `walls`   occurrences: solids and sheets.
/// `lids`    [model coordinates] that count as walls.
/// Refuses   a seed in a wall, or outside of everything; being cancelled.
/// Method    geometry/widest_way, flood(); faces that no place is nearest to are asked for by rays from before them.
///           Where passages are many the ball is taken larger, and the report says so.
[[nodiscard]] Result<ReachReport> findReach(const Model& model, const std::vector<std::size_t>& walls,
                                            const std::vector<TopoDS_Face>& lids, const gp_Pnt& seed,
                                            Progress& progress);

}  // namespace rasoir::join
