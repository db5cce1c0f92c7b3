#include "model/work.h"

#include <fmt/format.h>

#include <map>

#include "operations.h"

namespace rasoir {

Work::Work(Model received, std::string source, std::vector<std::string> moreSources) {
    received.giveIds();
    m_ledger.source = std::move(source);
    m_ledger.moreSources = std::move(moreSources);
    m_ledger.targetSize = received.targetSize;
    m_ledger.density = received.density;
    m_received = std::make_shared<const Model>(std::move(received));
}

Work Work::restored(Model received, Ledger ledger, std::vector<State> after) {
    Work work;
    received.giveIds();
    work.m_received = std::make_shared<const Model>(std::move(received));
    work.m_ledger = std::move(ledger);
    work.m_after = std::move(after);
    for (std::size_t s = work.m_after.size(); s < work.m_ledger.steps.size(); ++s)
        if (Step& step = work.m_ledger.steps[s]; step.state != StepState::Failed)
            step.state = step.on ? StepState::Waiting : StepState::Off;
    return work;
}

const Model& Work::modelAfter(std::size_t steps) const {
    const std::size_t known = std::min(steps, m_after.size());
    return known == 0 ? *m_received : *m_after[known - 1].model;
}

const std::vector<PartLineage>* Work::lineageOfStep(std::size_t step) const {
    return step < m_after.size() ? m_after[step].lineage.get() : nullptr;
}

std::vector<PartLineage> Work::lineageOf(std::size_t steps) const {
    std::vector<PartLineage> all;
    for (std::size_t p = 0; p < m_received->parts.size(); ++p) all.push_back({p, p, true, {}});
    for (std::size_t s = 0; s < std::min(steps, m_after.size()); ++s)
        if (m_after[s].lineage) all = chained(all, *m_after[s].lineage);
    return all;
}

bool Work::upToDate() const {
    return m_after.size() == m_ledger.steps.size();
}

void Work::staleFrom(std::size_t step) {
    if (m_after.size() > step) m_after.resize(step);
    for (std::size_t s = step; s < m_ledger.steps.size(); ++s) {
        Step& one = m_ledger.steps[s];
        one.state = one.on ? StepState::Waiting : StepState::Off;
        one.problem.reset();
    }
}

Work Work::withStep(std::string operation, Json parameters) const {
    Work work = *this;
    Step step;
    step.operation = std::move(operation);
    step.parameters = std::move(parameters);
    work.m_ledger.steps.push_back(std::move(step));
    return work;
}

Work Work::withStepSwitched(std::size_t step, bool on) const {
    Work work = *this;
    work.m_ledger.steps.at(step).on = on;
    work.staleFrom(step);
    return work;
}

Work Work::withStepEdited(std::size_t step, Json parameters) const {
    Work work = *this;
    work.m_ledger.steps.at(step).parameters = std::move(parameters);
    work.staleFrom(step);
    return work;
}

Work Work::withoutStep(std::size_t step) const {
    Work work = *this;
    work.m_ledger.steps.erase(work.m_ledger.steps.begin() + static_cast<std::ptrdiff_t>(step));
    work.staleFrom(step);
    return work;
}

namespace {

std::shared_ptr<const Model> withSize(const Model& model, double targetSize, double density) {
    auto changed = std::make_shared<Model>(model);
    changed->targetSize = targetSize;
    changed->density = density;
    return changed;
}

}  // namespace

Work Work::withTargetSize(double millimetres) const {
    Work work = *this;
    work.m_ledger.targetSize = millimetres;
    work.m_received = withSize(*m_received, millimetres, m_received->density);
    // States that are one model stay one.
    std::map<const Model*, std::shared_ptr<const Model>> known{{m_received.get(), work.m_received}};
    for (State& state : work.m_after) {
        auto& own = known[state.model.get()];
        if (!own) own = withSize(*state.model, millimetres, state.model->density);
        state.model = own;
    }
    return work;
}

Work Work::withLedger(Ledger ledger) const {
    Work work = *this;
    work.m_ledger = std::move(ledger);
    work.m_ledger.source = m_ledger.source;
    work.m_ledger.moreSources = m_ledger.moreSources;
    work.m_after.clear();
    if (!work.m_ledger.targetSize) work.m_ledger.targetSize = m_received->targetSize;
    work.m_received = withSize(*m_received, *work.m_ledger.targetSize, work.m_ledger.density);
    work.staleFrom(0);
    return work;
}

Result<Work> Work::replayed(measure::FactsCache& cache, Progress& progress, bool keepGoing) const {
    Work work = *this;
    while (!work.upToDate()) {
        const std::size_t at = work.m_after.size();
        Step& step = work.m_ledger.steps[at];
        const std::shared_ptr<const Model> beforeIt = at == 0 ? work.m_received : work.m_after[at - 1].model;
        const Model& before = *beforeIt;
        step.items.clear();
        step.problem.reset();
        if (!step.on) {
            step.state = StepState::Off;
            work.m_after.push_back({beforeIt, nullptr});
            continue;
        }
        const Operation* operation = findOperation(step.operation);
        Result<Outcome> outcome =
            operation != nullptr
                ? operation->run(before, step.parameters, progress)
                : fail(ProblemKind::BadInput, "This program has no operation \"" + step.operation + "\".");
        if (progress.cancelled() || (!outcome && outcome.error().kind == ProblemKind::Cancelled))
            return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        if (!outcome && outcome.error().kind == ProblemKind::NothingToDo) {
            step.state = StepState::Nothing;
            step.problem = outcome.error();
            step.effect = Json();
            step.summary = operation->title;
            work.m_after.push_back({beforeIt, nullptr});
            continue;
        }
        if (!outcome) {
            step.state = StepState::Failed;
            step.problem = outcome.error();
            step.effect = Json();
            if (step.summary.empty() && operation != nullptr) step.summary = operation->title;
            if (!keepGoing) {
                for (std::size_t later = at + 1; later < work.m_ledger.steps.size(); ++later)
                    if (work.m_ledger.steps[later].on) work.m_ledger.steps[later].state = StepState::Waiting;
                return work;
            }
            work.m_after.push_back({beforeIt, nullptr});
            continue;
        }
        const auto factsBefore = cache.of(before, progress);
        const auto factsAfter = factsBefore ? cache.of(outcome->model, progress) : factsBefore;
        if (!factsAfter) return tl::unexpected(factsAfter.error());
        step.effect = measure::toJson(measure::effectOf(before, *factsBefore, outcome->model, *factsAfter));
        if (Json groups = toJson(outcome->groups); !groups.empty()) step.effect["groups"] = std::move(groups);
        if (!outcome->notes.empty()) step.effect["notes"] = outcome->notes;
        step.state = StepState::Done;
        step.summary = outcome->summary;
        step.items = std::move(outcome->items);
        work.m_after.push_back({std::make_shared<const Model>(std::move(outcome->model)),
                                std::make_shared<const std::vector<PartLineage>>(std::move(outcome->lineage))});
    }
    return work;
}

void History::reset(Work work) {
    m_states.clear();
    m_states.push_back({std::move(work), {}});
    m_at = 0;
}

void History::push(Work work, std::string title) {
    m_states.resize(m_at + 1);
    m_states.push_back({std::move(work), std::move(title)});
    ++m_at;
}

}  // namespace rasoir
