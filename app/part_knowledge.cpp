#include "part_knowledge.h"

#include "common/guard.h"
#include "survey/fasteners.h"

namespace rasoir::app {

void surveyPart(const Part& part, double targetSize, double exact, PartKnowledge& known, Progress& progress,
                const std::function<void()>& learned) {
    // A survey that was cut short is no answer, and one that failed gives none: the others go on.
    const auto make = [&](bool isKnown, const std::function<void()>& survey) {
        if (isKnown || progress.cancelled()) return;
        (void)guarded("Surveying", [&]() -> Result<void> {
            survey();
            return {};
        });
        learned();
    };
    const auto keep = [](auto& place, auto found) {
        if (found) place = std::move(*found);
    };
    // Mass and size are what is asked first, and cost least.
    make(known.facts.has_value(), [&] {
        auto facts = measure::factsOf(part, targetSize, false);
        if (!progress.cancelled()) known.facts = std::move(facts);
    });
    make(known.holes.has_value(), [&] { keep(known.holes, survey::findHoles(part, targetSize, {}, progress)); });
    make(known.strips.has_value(), [&] { keep(known.strips, survey::findStrips(part, targetSize, progress)); });
    make(known.reliefs.has_value() || !known.holes,
         [&] { keep(known.reliefs, survey::findReliefs(part, targetSize, *known.holes, progress)); });
    make(false, [&] { known.corners = survey::findSheetCorners(part, targetSize); });
    make(known.threads.has_value(), [&] { keep(known.threads, survey::findThreads(part, targetSize, progress)); });
    make(known.small.has_value() || !known.holes || !known.strips || !known.reliefs || !known.threads, [&] {
        keep(known.small,
             survey::findSmall(part, targetSize,
                               survey::facesOf(*known.holes, *known.strips, *known.reliefs, *known.threads), progress));
    });
    make(known.defects.has_value(), [&] {
        keep(known.defects, survey::findDefects(part, {targetSize, exact, 0.0}, false, progress));
    });
    make(false, [&] {
        known.stress = survey::stressNotes(part);
        known.fastener = survey::fastenersIn(part).has_value();
    });
    make(known.traits != nullptr,
         [&] { known.traits = std::make_shared<const select::Traits>(select::traitsOf(part)); });
    if (progress.cancelled()) return;
    known.complete = true;
    learned();
}

}  // namespace rasoir::app
