#include "shave/reliefs.h"

#include <fmt/format.h>

#include "shave/choice.h"

namespace rasoir::shave {
namespace {

using survey::Relief;
using survey::ReliefKind;

std::optional<ReliefKind> kindNamed(const std::string& name) {
    for (const ReliefKind kind : {ReliefKind::Mark, ReliefKind::Boss, ReliefKind::Pocket, ReliefKind::Cutout, ReliefKind::Notch, ReliefKind::Rib})
        if (survey::reliefKindName(kind) == name) return kind;
    return std::nullopt;
}

/// What lies wholly in another of them goes with that.
void dropNested(std::vector<Relief>& taken) {
    const std::vector<Relief> all = taken;
    std::erase_if(taken, [&all](const Relief& one) {
        return std::any_of(all.begin(), all.end(), [&](const Relief& other) { return other.faces.size() > one.faces.size() && std::includes(other.faces.begin(), other.faces.end(), one.faces.begin(), one.faces.end()); });
    });
}

std::string nameOf(const Relief& relief) { return fmt::format("{}, {}", survey::reliefKindName(relief.kind), survey::describe(relief)); }

}  // namespace

std::vector<ParameterInfo> RemoveReliefs::infos() {
    return {{"upTo", "number", "mm", "Marks no higher, bosses, pockets and cutouts no broader, notches and ribs with no longer a least side than this go; 0: only those chosen.", 0.0},
            {"from", "number", "mm", "And no smaller than this.", 0.0},
            {"kinds", "list of words", "", "mark, boss, pocket, cutout, notch, rib.", Json::array()},
            {"parts", "list of names", "", "Parts to look at; empty: all.", Json::array()},
            {"chosen", "list of face references", "", "Any one face of each further one that goes, whatever its size.", Json::array()},
            {"kept", "list of face references", "", "Any one face of each that stays.", Json::array()}};
}
void to_json(Json& json, const RemoveReliefs& step) {
    json = Json{{"upTo", step.upTo}, {"kinds", step.kinds}};
    if (step.from > 0.0) json["from"] = step.from;
    if (!step.parts.empty()) json["parts"] = step.parts;
    if (!step.chosen.empty()) json["chosen"] = step.chosen;
    if (!step.kept.empty()) json["kept"] = step.kept;
}
void from_json(const Json& json, RemoveReliefs& step) {
    step.upTo = json.value("upTo", 0.0);
    step.from = json.value("from", 0.0);
    step.kinds = json.value("kinds", std::vector<std::string>{});
    step.parts = json.value("parts", std::vector<std::string>{});
    step.chosen = json.value("chosen", std::vector<FaceRef>{});
    step.kept = json.value("kept", std::vector<FaceRef>{});
}

Result<Outcome> removeReliefs(const Model& model, const RemoveReliefs& step, Progress& progress) {
    if (!(step.upTo >= 0.0) || !std::isfinite(step.upTo) || !(step.from >= 0.0) || !std::isfinite(step.from)) return fail(ProblemKind::BadInput, "The sizes must be positive lengths.");
    if (step.upTo == 0.0 && step.chosen.empty()) return fail(ProblemKind::BadInput, "No size and nothing chosen was given, so there is nothing to remove.", "Give upTo in mm and kinds, or pick some.");
    if (step.upTo > 0.0 && step.kinds.empty()) return fail(ProblemKind::BadInput, "A size alone does not say what is to go.", "Name kinds: mark, boss, pocket, cutout, notch, rib.");
    std::set<ReliefKind> kinds;
    for (const std::string& name : step.kinds) {
        const auto kind = kindNamed(name);
        if (!kind) return fail(ProblemKind::BadInput, fmt::format("There is no kind called \"{}\".", name), "Known: mark, boss, pocket, cutout, notch, rib.");
        kinds.insert(*kind);
    }
    const auto choice = Choice::of(model, step.parts, step.chosen, step.kept);
    if (!choice) return tl::unexpected(choice.error());
    Outcome outcome;
    outcome.model = model;
    std::size_t removed = 0, asked = 0;
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        const Part& part = *model.parts[p];
        const bool byRule = step.upTo > 0.0 && choice->isRuled(model, p);
        if ((!byRule && !choice->isChosen(p)) || part.shape.IsNull() || part.lump) continue;
        const auto holes = survey::findHoles(part, model.targetSize, {}, progress);
        if (!holes) return tl::unexpected(holes.error());
        auto found = survey::findReliefs(part, model.targetSize, *holes, progress);
        if (!found) return tl::unexpected(found.error());
        std::vector<Relief> taken;
        // Of several that hold a chosen face the smallest is meant.
        std::set<int> unserved;
        for (const int f : choice->chosenOf(p)) unserved.insert(f);
        std::sort(found->begin(), found->end(), [](const Relief& a, const Relief& b) { return a.faces.size() < b.faces.size(); });
        for (Relief& relief : *found) {
            const bool rule = byRule && kinds.contains(relief.kind) && relief.size() <= step.upTo * (1.0 + 1e-6) && relief.size() >= step.from * (1.0 - 1e-6) && !choice->keeps(p, relief.faces);
            const bool chosen = std::erase_if(unserved, [&](int f) { return std::binary_search(relief.faces.begin(), relief.faces.end(), f); }) > 0;
            if (rule || chosen) taken.push_back(std::move(relief));
        }
        if (!unserved.empty())
            return fail(ProblemKind::NotPossible, fmt::format("Face {} of \"{}\" belongs to no mark, boss, pocket, cutout, notch or rib.", *unserved.begin(), part.name), "Remove it as a face.", {part.name, {*unserved.begin()}, {}});
        dropNested(taken);
        if (taken.empty()) continue;
        asked += taken.size();
        std::vector<heal::Wanted> wanted;
        for (const Relief& relief : taken) wanted.push_back({"The " + nameOf(relief), relief.faces, {}, relief.middle, std::abs(relief.gain), relief.raised ? -1 : 1, 0});
        auto removal = heal::removeFaces(part, wanted, model.tolerances().samePoint, progress);
        if (!removal) return tl::unexpected(removal.error());
        for (std::size_t i = 0; i < taken.size(); ++i) {
            Item item{nameOf(taken[i]) + " in " + part.name, removal->items[i].has_value(), {}, taken[i].size()};
            if (item.done) ++removed;
            else item.problem = removal->items[i].error();
            outcome.items.push_back(std::move(item));
        }
        if (removal->shape.IsNull()) continue;
        removal->lineage.part = p;
        outcome.model.parts[p] = part.withShape(removal->shape, removal->lineage);
        outcome.lineage.push_back(std::move(removal->lineage));
    }
    const std::string one = kinds.size() == 1 ? step.kinds.front() : "relief";
    if (asked == 0) return fail(ProblemKind::NotPossible, step.upTo > 0.0 ? fmt::format("There is no {} up to {} mm here.", one, readable(step.upTo)) : "None of the chosen faces belongs to a mark, boss, pocket, cutout, notch or rib.");
    if (removed == 0)
        for (const Item& item : outcome.items)
            if (!item.done) return tl::unexpected(item.problem);
    const std::string counts = one == "boss" ? counted(removed, "boss", "bosses") : one == "notch" ? counted(removed, "notch", "notches") : counted(removed, one);
    outcome.summary = step.upTo > 0.0 ? fmt::format("Remove {} {} mm", counts, sizeRange(step.from, step.upTo)) : fmt::format("Remove {}, picked", counts);
    progress.report(1.0, outcome.summary);
    return outcome;
}

}  // namespace rasoir::shave
