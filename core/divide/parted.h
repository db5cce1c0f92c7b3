// A part after its faces or edges were parted: the same bodies, with finer faces.
#pragma once
#include "arrange/arrangement.h"
#include "model/operation.h"

namespace rasoir::divide {

struct Parted {
    std::shared_ptr<const Part> part;
    PartLineage lineage;
    /// New faces, by a point well within them.
    std::vector<std::pair<int, gp_Pnt>> pieces;
};

/// The part's shape as the arrangement left it, the part being its first input: its bodies again, and what has no faces
/// besides. What parts a face or an edge is marked as meant, so that Mend does not merge it away.
[[nodiscard]] Result<Parted> putTogether(const Part& part, const arrange::Arrangement& all);

/// Puts it in the place of the part with that index.
void replacePart(Outcome& outcome, std::size_t index, Parted parted);

/// Numbers that are not finite, or beyond all size.
[[nodiscard]] std::optional<Problem> badNumber(std::initializer_list<double> values);

}  // namespace rasoir::divide
