// What follows every operation, whatever it did: mirror images, ids, the whole lineage, groups, what got lost.
#pragma once
#include "common/progress.h"
#include "model/operation.h"

namespace rasoir {

/// Settles the outcome of an operation that was run on `before`.
///   - Of a mirrored pair, the part that did not change is made again from the one that did.
///   - New parts and places get ids.
///   - The lineage is completed: each part of the new model has its entries, untouched ones too.
///   - Groups and joints follow it, rules are asked anew; what a group gained or lost is told in `outcome.groups`.
///   - Attributes that found no heir, or did not agree where two things became one, are told in `outcome.notes`.
/// A rule whose search fails leaves its group as the lineage says, and that is told in `outcome.notes`.
/// Refuses   a step that would leave a closed cavity outside the body it belongs to, and being stopped. Nothing changes
/// then.
[[nodiscard]] Result<void> settle(const Model& before, Outcome& outcome, Progress& progress);

}  // namespace rasoir
