// Finds parts that are the same shape without being instances of one part: moved, turned or mirrored.
#pragma once
#include "common/progress.h"
#include "model/model.h"

namespace rasoir::survey {

/// One part that is another one elsewhere.
struct Copy {
    std::size_t part = 0;    ///< index in the model
    gp_Trsf from;            ///< takes the original's coordinates to this part's; mirrors when `mirrored`
    bool mirrored = false;   ///< only a mirrored original fits
    double deviation = 0.0;  ///< [mm] largest distance between matching vertices and face centres
};

struct CopyGroup {
    std::size_t original = 0;  ///< the first of the same shape, in the order of the model
    std::vector<Copy> copies;
};

/// Groups of parts of one shape. Two parts are the same when a movement (or a mirroring) takes every face onto one of
/// the same kind, area, spread about its centre and size, and every vertex onto a vertex, within `tolerance` [mm] (0:
/// 1e-5 of the size, at least what the file claims, never more than 1e-4 of it). Names, colours and the split of
/// surfaces along seams do not count. Method    candidates by counts, area and distances from the centre of area; then
/// the movement from three matching points of the
///           rarest kind, as in alignment by base triples: Irani, Raghavan, Combinatorial and experimental results for
///           randomized point matching (1999), without the randomness; then every face and vertex is looked up.
/// Cost      linear in the faces of all parts, plus, within a group, the number of equally placed points of one part.
/// Refuses only when cancelled.
[[nodiscard]] Result<std::vector<CopyGroup>> findCopies(const Model& model, double tolerance, Progress& progress);

}  // namespace rasoir::survey
