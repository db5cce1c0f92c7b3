#include "handover/revision.h"

namespace rasoir::handover {

std::size_t Revision::fitting() const {
    const auto& steps = work.ledger().steps;
    return static_cast<std::size_t>(std::count_if(steps.begin(), steps.end(), [](const Step& step) {
        return step.state == StepState::Done || step.state == StepState::Nothing;
    }));
}
std::size_t Revision::left() const {
    const auto& steps = work.ledger().steps;
    return static_cast<std::size_t>(std::count_if(steps.begin(), steps.end(), [](const Step& step) {
        return step.state == StepState::Failed || step.state == StepState::Waiting;
    }));
}

Result<Revision> onRevision(const Work& work, Model revised, const std::string& source, measure::FactsCache& facts,
                            Progress& progress) {
    auto changes = compare(work.received(), revised, progress);
    if (!changes) return tl::unexpected(changes.error());
    Ledger ledger = work.ledger();
    ledger.source = source;
    ledger.moreSources.clear();
    const Work fresh = Work(std::move(revised), source).withLedger(std::move(ledger));
    auto done = fresh.replayed(facts, progress, true);
    if (!done) return tl::unexpected(done.error());
    return Revision{std::move(*changes), std::move(*done)};
}

}  // namespace rasoir::handover
