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

namespace {

/// Steps from this one on wait to be run; a reason why one failed stays.
void setWaiting(Ledger& ledger, std::size_t from) {
    for (std::size_t s = from; s < ledger.steps.size(); ++s) {
        if (ledger.steps[s].state == StepState::Failed) continue;
        Step& step = ledger.steps.change(s);
        step.state = step.on ? StepState::Waiting : StepState::Off;
    }
}

}  // namespace

Work Work::restored(Model received, Ledger ledger, std::vector<State> after) {
    Work work;
    received.giveIds();
    work.m_received = std::make_shared<const Model>(std::move(received));
    work.m_ledger = std::move(ledger);
    work.m_after = std::move(after);
    setWaiting(work.m_ledger, work.m_after.size());
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
        Step& one = m_ledger.steps.change(s);
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
    work.m_ledger.steps.change(step).on = on;
    work.staleFrom(step);
    return work;
}

Work Work::withStepEdited(std::size_t step, Json parameters) const {
    Work work = *this;
    work.m_ledger.steps.change(step).parameters = std::move(parameters);
    work.staleFrom(step);
    return work;
}

Work Work::withoutStep(std::size_t step) const {
    Work work = *this;
    work.m_ledger.steps.erase(step);
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

std::vector<std::string> Work::variantNames() const {
    std::vector<std::string> names;
    for (const auto& variant : m_variants) names.push_back(variant->name);
    return names;
}

Variant Work::variantAt(std::size_t index) const {
    const Variant& variant = *m_variants.at(index);
    return index == m_variant ? Variant{variant.name, m_ledger, m_after} : variant;
}

Result<void> Work::mayBeNamed(const std::string& name) const {
    if (name.find_first_not_of(" \t\n") == std::string::npos)
        return fail(ProblemKind::BadInput, "A variant needs a name.");
    for (const auto& variant : m_variants)
        if (variant->name == name)
            return fail(ProblemKind::BadInput, fmt::format("There is a variant \"{}\" already.", name),
                        "Give this one another name.");
    return {};
}

Result<Work> Work::withVariant(const std::string& name) const {
    if (const auto may = mayBeNamed(name); !may) return tl::unexpected(may.error());
    Work work = *this;
    work.m_variants[m_variant] = std::make_shared<const Variant>(variantAt(m_variant));
    work.m_variants.push_back(std::make_shared<const Variant>(Variant{name, {}, {}}));
    work.m_variant = work.m_variants.size() - 1;
    return work;
}

Work Work::onVariant(std::size_t index) const {
    Work work = *this;
    if (index == m_variant) return work;
    work.m_variants[m_variant] = std::make_shared<const Variant>(variantAt(m_variant));
    const Variant& taken = *m_variants.at(index);
    work.m_variant = index;
    work.m_ledger = taken.ledger;
    work.m_after = taken.after;
    work.m_variants[index] = std::make_shared<const Variant>(Variant{taken.name, {}, {}});
    // The target size is one for all variants, and may have been typed since that one was last in hand.
    work.m_ledger.targetSize = m_ledger.targetSize;
    work.m_ledger.density = m_ledger.density;
    std::map<const Model*, std::shared_ptr<const Model>> known;
    for (State& state : work.m_after) {
        if (state.model->targetSize == m_received->targetSize && state.model->density == m_received->density) continue;
        auto& own = known[state.model.get()];
        if (!own) own = withSize(*state.model, m_received->targetSize, m_received->density);
        state.model = own;
    }
    return work;
}

Result<Work> Work::withVariantRenamed(std::size_t index, const std::string& name) const {
    if (m_variants.at(index)->name == name) return *this;
    if (const auto may = mayBeNamed(name); !may) return tl::unexpected(may.error());
    Work work = *this;
    auto renamed = std::make_shared<Variant>(*m_variants[index]);
    renamed->name = name;
    work.m_variants[index] = std::move(renamed);
    return work;
}

Result<Work> Work::withoutVariant(std::size_t index) const {
    if (index == m_variant)
        return fail(ProblemKind::BadInput,
                    fmt::format("The variant \"{}\" is in hand and stays.", m_variants.at(index)->name),
                    "Take another one in hand first.");
    Work work = *this;
    work.m_variants.erase(work.m_variants.begin() + static_cast<std::ptrdiff_t>(index));
    if (index < m_variant) --work.m_variant;
    return work;
}

Result<std::size_t> Work::variantNamed(const std::string& name) const {
    const std::vector<std::string> names = variantNames();
    const auto found = std::find(names.begin(), names.end(), name);
    if (found == names.end())
        return fail(ProblemKind::BadInput, fmt::format("There is no variant \"{}\".", name),
                    fmt::format("There is \"{}\".", fmt::join(names, "\", \"")));
    return static_cast<std::size_t>(found - names.begin());
}

Work Work::withVariants(std::vector<Variant> others, const std::string& name, std::size_t index) const {
    Work work = *this;
    work.m_variants.clear();
    for (Variant& other : others) {
        setWaiting(other.ledger, other.after.size());
        work.m_variants.push_back(std::make_shared<const Variant>(std::move(other)));
    }
    work.m_variant = std::min(index, work.m_variants.size());
    work.m_variants.insert(work.m_variants.begin() + static_cast<std::ptrdiff_t>(work.m_variant),
                           std::make_shared<const Variant>(Variant{name, {}, {}}));
    return work;
}

namespace {

/// Names, places and materials leave every shape as it was: then there is nothing to keep, part by part.
bool changesNothing(const std::vector<PartLineage>& lineage, std::size_t partsBefore, std::size_t partsAfter) {
    return partsBefore == partsAfter && lineage.size() == partsBefore &&
           std::all_of(lineage.begin(), lineage.end(), [](const PartLineage& one) {
               return one.untouched && (one.into == PartLineage::samePlace || one.into == one.part);
           });
}

}  // namespace

Result<Work> Work::replayed(measure::FactsCache& cache, Progress& progress, bool keepGoing) const {
    Work work = *this;
    while (!work.upToDate()) {
        const std::size_t at = work.m_after.size();
        Step& step = work.m_ledger.steps.change(at);
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
                    if (work.m_ledger.steps[later].on) work.m_ledger.steps.change(later).state = StepState::Waiting;
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
        std::shared_ptr<const std::vector<PartLineage>> lineage;
        if (!changesNothing(outcome->lineage, before.parts.size(), outcome->model.parts.size()))
            lineage = std::make_shared<const std::vector<PartLineage>>(std::move(outcome->lineage));
        work.m_after.push_back({std::make_shared<const Model>(std::move(outcome->model)), std::move(lineage)});
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
