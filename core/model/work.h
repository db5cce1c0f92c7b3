// A piece of work: the model as received, its ledger, and the model after each step. A value, so undo is keeping the
// old one.
#pragma once
#include <memory>

#include "measure/effect.h"
#include "model/ledger.h"

namespace rasoir {

/// The model after a step, and how its things come from those before it. Shared by all values of Work that hold it.
struct State {
    std::shared_ptr<const Model> model;
    std::shared_ptr<const std::vector<PartLineage>> lineage;  ///< null where the step changed no part's shape
};

/// Another way to prepare the same file: a ledger of its own from the same received model. States that several
/// variants have in common are one in memory.
struct Variant {
    std::string name;
    Ledger ledger;
    std::vector<State> after;  ///< as many states as are current
};

class Work {
public:
    Work() = default;
    /// Of one file, or of several that were read as one model.
    Work(Model received, std::string source, std::vector<std::string> moreSources = {});

    /// Put together again from a file: the states after the first steps, as many as are known. Later steps wait.
    static Work restored(Model received, Ledger ledger, std::vector<State> after);

    [[nodiscard]] const Model& received() const { return *m_received; }
    [[nodiscard]] const Ledger& ledger() const { return m_ledger; }
    /// The model after the first `steps` steps; steps that are off, failed or waiting change nothing.
    [[nodiscard]] const Model& modelAfter(std::size_t steps) const;
    /// How the things after the first `steps` steps come from those as received.
    [[nodiscard]] std::vector<PartLineage> lineageOf(std::size_t steps) const;
    /// That of one step alone; null where it changed no part's shape, or is not known.
    [[nodiscard]] const std::vector<PartLineage>* lineageOfStep(std::size_t step) const;
    /// The model after everything that has been run.
    [[nodiscard]] const Model& current() const { return modelAfter(m_ledger.steps.size()); }
    [[nodiscard]] std::size_t statesKnown() const { return m_after.size(); }
    [[nodiscard]] bool upToDate() const;  ///< no step is waiting

    // Each returns changed work; what has to run again is marked Waiting and runs in replayed().
    [[nodiscard]] Work withStep(std::string operation, Json parameters) const;
    [[nodiscard]] Work withStepSwitched(std::size_t step, bool on) const;
    [[nodiscard]] Work withStepEdited(std::size_t step, Json parameters) const;
    [[nodiscard]] Work withoutStep(std::size_t step) const;
    [[nodiscard]] Work withTargetSize(double millimetres) const;  ///< nothing needs to run again: it only judges
    [[nodiscard]] Work withLedger(Ledger ledger) const;           ///< all steps wait

    // Variants: a tree of steps, of which ledger() is the path in hand. There is always one; names differ.
    [[nodiscard]] std::vector<std::string> variantNames() const;
    [[nodiscard]] std::size_t variant() const { return m_variant; }  ///< the one in hand
    [[nodiscard]] Variant variantAt(std::size_t index) const;
    /// A copy of the variant in hand under a new name, after which that one is in hand: from here on they part.
    /// Refuses a name that is empty or taken.
    [[nodiscard]] Result<Work> withVariant(const std::string& name) const;
    [[nodiscard]] Work onVariant(std::size_t index) const;  ///< takes another one in hand; nothing has to run again
    [[nodiscard]] Result<Work> withVariantRenamed(std::size_t index, const std::string& name) const;
    [[nodiscard]] Result<Work> withoutVariant(std::size_t index) const;  ///< refuses the one in hand
    /// Names to choose one by; refuses a name that no variant has, listing those there are.
    [[nodiscard]] Result<std::size_t> variantNamed(const std::string& name) const;
    /// Put together again from a file: the variants beside the one in hand, and that one's name and position.
    [[nodiscard]] Work withVariants(std::vector<Variant> others, const std::string& name, std::size_t index) const;

    /// Runs every waiting step in order. A step that does not fit becomes Failed with its Problem; later steps then
    /// stay Waiting, unless `keepGoing`, which runs them on the model as it was before the failed step. Refuses only
    /// when cancelled: this work is unchanged.
    [[nodiscard]] Result<Work> replayed(measure::FactsCache& facts, Progress& progress, bool keepGoing = false) const;

private:
    void staleFrom(std::size_t step);
    [[nodiscard]] Result<void> mayBeNamed(const std::string& name) const;

    std::shared_ptr<const Model> m_received = std::make_shared<const Model>();
    Ledger m_ledger;
    std::vector<State> m_after;  // by step; as many as are current. Copying a Work copies pointers
    // All variants in order. Of the one in hand only the name counts here: its ledger and states are those above.
    std::vector<std::shared_ptr<const Variant>> m_variants{std::make_shared<const Variant>(Variant{"first", {}, {}})};
    std::size_t m_variant = 0;
};

/// Undo and redo without limit over values of Work.
class History {
public:
    void reset(Work work);
    void push(Work work, std::string title);  ///< a new present; what was undone is forgotten
    void replacePresent(Work work) { m_states[m_at].work = std::move(work); }
    [[nodiscard]] const Work& present() const { return m_states[m_at].work; }
    [[nodiscard]] bool canUndo() const { return m_at > 0; }
    [[nodiscard]] bool canRedo() const { return m_at + 1 < m_states.size(); }
    [[nodiscard]] std::string undoTitle() const { return canUndo() ? m_states[m_at].title : ""; }
    [[nodiscard]] std::string redoTitle() const { return canRedo() ? m_states[m_at + 1].title : ""; }
    void undo() {
        if (canUndo()) --m_at;
    }
    void redo() {
        if (canRedo()) ++m_at;
    }

private:
    struct State {
        Work work;
        std::string title;
    };
    std::vector<State> m_states{State{}};
    std::size_t m_at = 0;
};

}  // namespace rasoir
