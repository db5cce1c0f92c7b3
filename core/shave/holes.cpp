#include "shave/holes.h"

#include <fmt/format.h>

#include "shave/choice.h"


namespace rasoir::shave {
namespace {

std::string sizeAndPlace(const survey::Hole& hole) {
    return fmt::format("Ø {} mm {}", readable(hole.size), survey::describe(hole));
}

}  // namespace

Result<heal::Removal> removeFrom(const Part& part, const std::vector<survey::Hole>& holes, double tolerance, Progress& progress) {
    std::vector<heal::Wanted> wanted;
    for (const survey::Hole& hole : holes) {
        heal::Wanted one;
        one.name = fmt::format("The {} hole", sizeAndPlace(hole));
        one.faces = hole.faces;
        one.middle = hole.middle;
        one.change = hole.volume;
        one.grows = 1;
        wanted.push_back(std::move(one));
    }
    return heal::removeFaces(part, wanted, tolerance, progress);
}

Result<Outcome> removeHoles(const Model& model, const RemoveHoles& step, Progress& progress) {
    if (!(step.upTo >= 0.0) || !std::isfinite(step.upTo))
        return fail(ProblemKind::BadInput, "The largest diameter must be a positive length.");
    if (step.upTo == 0.0 && step.chosen.empty())
        return fail(ProblemKind::BadInput, "No size and no hole was given, so there is nothing to remove.", "Give upTo in mm, or pick holes.");
    std::vector<std::string> kinds = step.kinds;
    if (kinds.empty()) kinds = {"plain", "stepped", "counterbored", "countersunk", "tapered"};
    for (const std::string& kind : kinds)
        if (kind != "plain" && kind != "stepped" && kind != "counterbored" && kind != "countersunk" && kind != "tapered" && kind != "slot")
            return fail(ProblemKind::BadInput, fmt::format("There is no kind of hole called \"{}\".", kind),
                        "Known: plain, stepped, counterbored, countersunk, tapered, slot.");
    const auto choice = Choice::of(model, step.parts, step.chosen, step.kept);
    if (!choice) return tl::unexpected(choice.error());

    Outcome outcome;
    outcome.model = model;
    const double tolerance = model.tolerances().samePoint;
    std::size_t removed = 0, asked = 0;
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        const Part& part = *model.parts[p];
        const bool byRule = step.upTo > 0.0 && choice->isRuled(model, p);
        if (!byRule && !choice->isChosen(p)) continue;
        auto found = survey::findHoles(part, model.targetSize, {}, progress);
        if (!found) return tl::unexpected(found.error());
        std::vector<survey::Hole> taken;
        for (survey::Hole& hole : *found) {
            if (choice->keeps(p, hole.faces)) continue;
            const bool rule = byRule && hole.size <= step.upTo * (1.0 + 1e-6) && (step.bores || !hole.bore) &&
                              std::find(kinds.begin(), kinds.end(), survey::holeKindName(hole.kind)) != kinds.end();
            if (rule || choice->chooses(p, hole.faces)) taken.push_back(std::move(hole));
        }
        for (const int face : choice->chosenOf(p))
            if (std::none_of(taken.begin(), taken.end(), [f = face](const survey::Hole& hole) { return std::binary_search(hole.faces.begin(), hole.faces.end(), f); }))
                return fail(ProblemKind::NotPossible, fmt::format("Face {} of \"{}\" is not part of a hole.", face, part.name), "Pick the wall of a hole.", {part.name, {face}, {}});
        if (taken.empty()) continue;
        asked += taken.size();
        auto removal = removeFrom(part, taken, tolerance, progress);
        if (!removal) return tl::unexpected(removal.error());
        for (std::size_t i = 0; i < taken.size(); ++i) {
            Item item{sizeAndPlace(taken[i]) + " in " + part.name, removal->items[i].has_value(), {}, taken[i].size};
            if (item.done) ++removed;
            else item.problem = removal->items[i].error();
            outcome.items.push_back(std::move(item));
        }
        if (removal->shape.IsNull()) continue;
        removal->lineage.part = p;
        outcome.model.parts[p] = part.withShape(removal->shape, removal->lineage);
        outcome.lineage.push_back(std::move(removal->lineage));
    }
    if (asked == 0)
        return fail(ProblemKind::NotPossible,
                    step.upTo > 0.0 ? fmt::format("There are no holes up to {} mm here.", readable(step.upTo)) : "None of the chosen faces belongs to a hole.");
    if (removed == 0) {
        for (const Item& item : outcome.items)
            if (!item.done) return tl::unexpected(item.problem);
    }
    outcome.summary = step.upTo > 0.0 ? fmt::format("Remove {} up to {} mm", counted(removed, "hole"), readable(step.upTo))
                                      : fmt::format("Remove {}", counted(removed, "picked hole"));
    progress.report(1.0, outcome.summary);
    return outcome;
}

std::vector<ParameterInfo> RemoveHoles::infos() {
    return {{"upTo", "number", "mm", "Every hole whose widest wall is no wider goes; 0: only those chosen.", 0.0},
            {"parts", "list of names", "", "Parts to look at; empty: all.", Json::array()},
            {"kinds", "list of words", "", "plain, stepped, counterbored, countersunk, tapered, slot; empty: all but slots.", Json::array()},
            {"chosen", "list of face references", "", "Any one face of each further hole that goes, whatever its size.", Json::array()},
            {"kept", "list of face references", "", "Any one face of each hole that stays.", Json::array()},
            {"bores", "boolean", "", "Take big bores and the insides of tubes too, when they are within upTo.", false}};
}

void to_json(Json& json, const RemoveHoles& step) {
    json = Json{{"upTo", step.upTo}};
    if (!step.parts.empty()) json["parts"] = step.parts;
    if (!step.kinds.empty()) json["kinds"] = step.kinds;
    if (!step.chosen.empty()) json["chosen"] = step.chosen;
    if (!step.kept.empty()) json["kept"] = step.kept;
    if (step.bores) json["bores"] = true;
}

void from_json(const Json& json, RemoveHoles& step) {
    step.upTo = json.value("upTo", 0.0);
    step.parts = json.value("parts", std::vector<std::string>{});
    step.kinds = json.value("kinds", std::vector<std::string>{});
    step.chosen = json.value("chosen", std::vector<FaceRef>{});
    step.kept = json.value("kept", std::vector<FaceRef>{});
    step.bores = json.value("bores", false);
}

}  // namespace rasoir::shave
