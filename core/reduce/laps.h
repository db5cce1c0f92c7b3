// Plates that lay on each other as solids and are two sheets now, with air between them that is not there.
#pragma once
#include "model/operation.h"

namespace rasoir::reduce {

/// Ties sheets whose walls' skins lay on each other, or a safe gap apart: a link between the faces that stand for them.
/// A wall that ended on another one has an edge there and no face, and is left to be joined.
/// `before`   the model whose solids `outcome`'s sheets stand for, by its lineage.
/// Adds       groups, links, and a note for each pair of places.
/// Refuses    only being cancelled.
[[nodiscard]] Result<void> linkLaps(const Model& before, Outcome& outcome, Progress& progress);

}  // namespace rasoir::reduce
