// What the check says of bodies beside each other: gaps and overlaps that nobody has decided about.
#pragma once
#include "handover/check.h"

namespace rasoir::handover {

/// Findings on pairs of places that are neither joined nor kept as a contact, a link or the like: those that reach into
/// one another, that miss each other by no more than is safe to close, and, all in one, those that touch. Copies that
/// lie alike count once.
/// Refuses   only being cancelled.
[[nodiscard]] Result<std::vector<CheckFinding>> checkPairs(const Model& model, Progress& progress);

}  // namespace rasoir::handover
