#include "reduce/cover.h"

#include <fmt/format.h>

#include <BRep_Builder.hxx>
#include <TopoDS_Shell.hxx>

#include "common/sets.h"
#include "model/lineage_builder.h"
#include "model/places.h"
#include "reduce/beside.h"
#include "reduce/join_sheets.h"
#include "reduce/middles.h"
#include "reduce/not_flush.h"
#include "topology/making.h"

// Parts that stand for one solid together, as the sheets that step after step has made of it, are asked together.

namespace rasoir::reduce {
namespace {

/// The sheets of some of a solid's walls, that end where all of them together would have them end: a web on the middle
/// of its flange, though the flange has its sheet.
Result<Sheets> sheetsOfWalls(const Part& solid, const std::vector<Wall>& wanted, double tolerance, Progress& progress) {
    auto walls = findWalls(solid, 0.0, 0.0, progress);
    if (!walls) return tl::unexpected(walls.error());
    const auto isWanted = [&](const Wall& wall) {
        return std::any_of(wanted.begin(), wanted.end(),
                           [&](const Wall& one) { return one.sideA == wall.sideA && one.sideB == wall.sideB; });
    };
    std::erase_if(*walls, [&](const Wall& wall) { return wall.slenderness != Slenderness::Thin && !isWanted(wall); });
    auto sheets = sheetsOf(solid, *walls, {}, AtSteps::KeepOffset, tolerance, progress);
    if (!sheets) return sheets;
    const Incidence all(sheets->shape);
    Sets together(static_cast<std::size_t>(all.faceCount()) + 1);
    std::vector<int> chosen;
    for (int f = 1; f <= all.faceCount(); ++f)
        if (isWanted((*walls)[static_cast<std::size_t>(sheets->wallOf.at(f))])) chosen.push_back(f);
    const std::set<int> own(chosen.begin(), chosen.end());
    for (int e = 1; e <= all.edgeCount(); ++e) {
        int first = 0;
        for (const EdgeUse& use : all.usesOf(e)) {
            if (!own.contains(use.face)) continue;
            if (first > 0) together.join(first, use.face);
            first = use.face;
        }
    }
    const BRep_Builder builder;
    std::map<int, TopoDS_Shell> shells;
    for (const int f : chosen) {
        TopoDS_Shell& shell = shells[together.root(f)];
        if (shell.IsNull()) builder.MakeShell(shell);
        builder.Add(shell, all.face(f));
    }
    if (shells.empty())
        return fail(ProblemKind::NotPossible,
                    fmt::format("Of {} of \"{}\" no piece of a middle surface lies between both sides.",
                                counted(wanted.size(), "wall"), solid.name),
                    "Make a sheet of its faces by hand.", {solid.name, wanted.front().sideA, wanted.front().where});
    std::vector<TopoDS_Shape> shapes;
    for (const auto& [first, shell] : shells) shapes.push_back(shell);
    Sheets some;
    some.shape = gathered(shapes);
    some.connected = static_cast<int>(shells.size());
    const Incidence now(some.shape);
    for (const int f : chosen) some.thickness[now.faceNumber(all.face(f))] = sheets->thickness.at(f);
    return some;
}

}  // namespace

std::vector<ParameterInfo> Cover::infos() {
    return {{"parts", "list of names", "", "Sheets, names or patterns; empty: all of which the solid is known.",
             Json::array()},
            {"doubtful", "yes or no", "", "Also walls thicker than a tenth of their breadth.", false}};
}
void to_json(Json& json, const Cover& step) {
    json = Json::object();
    if (!step.parts.empty()) json["parts"] = step.parts;
    if (step.doubtful) json["doubtful"] = true;
}
void from_json(const Json& json, Cover& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
    step.doubtful = json.value("doubtful", false);
}

Result<Outcome> cover(const Model& received, const Cover& step, Progress& progress) {
    Outcome outcome;
    outcome.model = received;
    outcome.model.giveIds();
    const auto chosen = partsNamed(outcome.model, step.parts);
    if (!chosen) return tl::unexpected(chosen.error());
    std::map<const Part*, std::vector<std::size_t>> bySolid;
    for (std::size_t p = 0; p < outcome.model.parts.size(); ++p) {
        const Part& part = *outcome.model.parts[p];
        const bool meant =
            step.parts.empty() ? !outcome.model.isAside(p) : std::binary_search(chosen->begin(), chosen->end(), p);
        if (meant && part.standsFor && part.kind() == BodyKind::Sheet) bySolid[part.standsFor.get()].push_back(p);
    }
    if (bySolid.empty())
        return fail(ProblemKind::NothingToDo, "Of none of these the solid is known that it stands for.",
                    "Make a sheet of faces by hand.");
    // In the order of parts, so that names are given alike each time.
    std::vector<std::vector<std::size_t>> groups;
    for (const auto& [solid, parts] : bySolid) groups.push_back(parts);
    std::sort(groups.begin(), groups.end());
    std::vector<std::vector<std::string>> together;
    std::size_t count = 0;
    for (const std::vector<std::size_t>& parts : groups) {
        const std::size_t p = parts.front();
        const std::shared_ptr<const Part> solid = outcome.model.parts[p]->standsFor;
        const std::string name = outcome.model.parts[p]->name;
        auto walls = wallsNotCovered(outcome.model, parts, progress);
        if (!walls) return tl::unexpected(walls.error());
        std::erase_if(*walls,
                      [&](const Wall& wall) { return wall.slenderness == Slenderness::Doubtful && !step.doubtful; });
        if (walls->empty()) continue;
        auto sheets = sheetsOfWalls(*solid, *walls, outcome.model.samePoint(), progress);
        if (!sheets) {
            if (sheets.error().kind == ProblemKind::Cancelled) return tl::unexpected(sheets.error());
            outcome.items.push_back(
                {fmt::format("\"{}\": {}", name, counted(walls->size(), "wall")), false, sheets.error(), 0.0});
            continue;
        }
        PartLineage same = LineageBuilder(outcome.model.parts[p]->incidence(), outcome.model.parts[p]->shape).finish();
        same.part = p;
        same.into = p;
        outcome.lineage.push_back(std::move(same));
        // Its faces come from the solid, which is no part any more.
        const std::size_t fresh = addBeside(outcome, p, sheets->shape, PartLineage(), name + ", further walls");
        auto known = outcome.model.parts[fresh]->copy();
        known->standsFor = solid;
        for (const auto& [face, thickness] : sheets->thickness)
            known->known.thickness[{EntityKind::Face, face}] = thickness;
        outcome.model.parts[fresh] = std::move(known);
        outcome.items.push_back({fmt::format("\"{}\": {} covered by {}", name, counted(walls->size(), "wall"),
                                             counted(sheets->thickness.size(), "sheet face")),
                                 true,
                                 {},
                                 walls->front().thickness});
        together.push_back({outcome.model.parts[fresh]->name});
        for (const std::size_t own : parts) together.back().push_back(outcome.model.parts[own]->name);
        count += walls->size();
    }
    if (count == 0) {
        for (const Item& item : outcome.items) return tl::unexpected(item.problem);
        return fail(ProblemKind::NothingToDo, "Every thin wall has its sheet.",
                    "Doubtful walls are taken only when you say so.");
    }
    outcome.model.giveIds();
    // All at once: a step's joints speak of one model.
    JoinSheets join;
    for (const auto& names : together) join.places.insert(join.places.end(), names.begin(), names.end());
    auto joined = joinSheets(outcome.model, join, progress);
    if (!joined && joined.error().kind == ProblemKind::Cancelled) return tl::unexpected(joined.error());
    if (joined) {
        outcome.lineage = followed(std::move(outcome.lineage), joined->lineage);
        outcome.model = std::move(joined->model);
        outcome.jointsMade = joined->jointsMade;
        outcome.notes.insert(outcome.notes.end(), joined->notes.begin(), joined->notes.end());
    } else {
        outcome.notes.push_back("They are not joined to the other sheets: " + joined.error().what);
    }
    outcome.summary = fmt::format("Cover {}", counted(count, "wall"));
    progress.report(1.0, outcome.summary);
    return outcome;
}

}  // namespace rasoir::reduce
