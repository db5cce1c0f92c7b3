// Gaps closed by moving whole faces, before bodies are joined.
#pragma once
#include <map>
#include <memory>

#include "common/progress.h"
#include "model/operation.h"

namespace rasoir::join {

/// A part as one of its places has it after its faces were moved.
struct Shifted {
    std::shared_ptr<const Part> part;
    PartLineage lineage;            ///< from the model's part
    double most = 0.0;              ///< [mm] farthest that a vertex moved
    std::vector<std::string> told;  ///< a sentence for each set of faces: how many moved, and how wide the gap was
};

struct ClosedGaps {
    std::map<std::size_t, Shifted> places;  ///< by occurrence; those that are not there stay as they are
    std::vector<Item> left;                 ///< gaps that stay, with the reason
    double widestLeft = 0.0;                ///< [mm] of those
};

/// Finds pairs of faces that face each other no farther than `upTo` [mm] apart, or reach past each other no deeper, and
/// puts them on one surface: faces that hang together over such pairs, with the pieces of their own surface beside
/// them, are one set, and all but one of a set move. So are faces beside two that touch, which look the same way and
/// run within `upTo` of each other: they come to run flush. The neighbours of a face that moves are carried along,
/// rounds of one radius that rest on it too. `by`      who moves: "smaller" (all but the largest face of a set),
/// "larger" (all but the smallest), "midway" (all of them, to the middle between the two farthest apart), or the name
/// of
///           a part or place: its faces move where it is concerned.
/// Leaves    freeform faces, faces of different kinds, shifts that conflict (a face would go farther than `upTo`), and
///           what heal::resurface refuses: told, the others are closed.
/// Refuses   a name that fits nothing; being cancelled.
/// Cost      a survey of contacts, and the faces round those that move; each place that changes is measured once.
[[nodiscard]] Result<ClosedGaps> closeGaps(const Model& model, const std::vector<std::size_t>& places, double upTo,
                                           const std::string& by, Progress& progress);

}  // namespace rasoir::join
