// The designer's next revision: what changed, and which steps fit it.
#pragma once
#include "handover/compare.h"
#include "model/work.h"

namespace rasoir::handover {

struct Revision {
    Comparison changes;                         ///< from the file as it was received to the revised one
    Work work;                                  ///< the revised file with the same ledger, run as far as it goes
    [[nodiscard]] std::size_t fitting() const;  ///< steps that are done, or found nothing to do
    [[nodiscard]] std::size_t left() const;     ///< steps that do not fit, and those that wait for them
};

/// Compares, and runs every step of the ledger on the revised model; a step that does not fit is passed over, its
/// reason kept with it. `source`: the name of the revised file.
[[nodiscard]] Result<Revision> onRevision(const Work& work, Model revised, const std::string& source,
                                          measure::FactsCache& facts, Progress& progress);

}  // namespace rasoir::handover
