#include "shave/holes.h"

#include <fmt/format.h>

#include <BRep_Builder.hxx>
#include <map>
#include <set>
#include <TopExp.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Iterator.hxx>
#include <TopTools_IndexedMapOfShape.hxx>

#include "common/guard.h"
#include "common/tolerance.h"
#include "geometry/edge_probe.h"
#include "geometry/integrals.h"
#include "heal/lineage_of.h"
#include "heal/wound.h"
#include "model/lineage_builder.h"
#include "shave/choice.h"
#include "shave/companions.h"
#include "topology/half_edges.h"
#include "topology/soundness.h"

namespace rasoir::shave {
namespace {

std::string sizeAndPlace(const survey::Hole& hole) {
    return fmt::format("Ø {} mm {}", readable(hole.size), survey::describe(hole));
}

}  // namespace

namespace {

/// Loops out of sheet faces. Faces keep their numbers: each is replaced by one without those loops.
heal::Removal withoutLoops(const Part& part, const std::vector<survey::Hole>& holes) {
    heal::Removal removal;
    removal.items.resize(holes.size());
    const Incidence& topology = part.incidence();
    std::map<int, std::vector<std::size_t>> byFace;
    for (std::size_t i = 0; i < holes.size(); ++i)
        if (!holes[i].across) byFace[holes[i].sheetFace].push_back(i);
    TopTools_DataMapOfShapeShape changes;
    for (const auto& [f, which] : byFace) {
        const TopoDS_Face old = topology.face(f);
        const TopoDS_Face forward = TopoDS::Face(old.Oriented(TopAbs_FORWARD));
        TopoDS_Face made = TopoDS::Face(forward.EmptyCopied());
        const BRep_Builder builder;
        for (TopoDS_Iterator it(forward); it.More(); it.Next()) {
            const auto goes = [&](std::size_t i) {
                TopoDS_Iterator edge(it.Value());
                return edge.More() &&
                       std::binary_search(holes[i].rim.begin(), holes[i].rim.end(), topology.edgeNumber(edge.Value()));
            };
            if (std::none_of(which.begin(), which.end(), goes)) builder.Add(made, it.Value());
        }
        if (soundFace(old) && !soundFace(made)) {
            for (const std::size_t i : which)
                removal.items[i] = fail(ProblemKind::NotPossible,
                                        fmt::format("The {} mm hole stays: the sheet would not be sound without it.",
                                                    readable(holes[i].size)),
                                        "Mend the part first.", {part.name, {f}, holes[i].middle});
            continue;
        }
        changes.Bind(old, made.Oriented(old.Orientation()));
    }
    if (changes.IsEmpty()) return removal;
    removal.shape = substituted(part.shape, changes);
    LineageBuilder lineage(topology, removal.shape);
    for (int f = 1; f <= topology.faceCount(); ++f)
        if (const TopoDS_Shape* now = changes.Seek(topology.face(f))) lineage.face(f, *now);
    removal.lineage = lineage.finish();
    return removal;
}

/// Holes of sheets that lie across several faces: the edges between those are joined again.
heal::Removal withoutOpenings(const Part& part, const std::vector<survey::Hole>& holes, double tolerance) {
    heal::Removal removal;
    removal.items.resize(holes.size());
    const Incidence& topology = part.incidence();
    HalfEdgeBody body(topology);
    bool any = false;
    for (std::size_t i = 0; i < holes.size(); ++i) {
        if (!holes[i].across) continue;
        std::set<int> faces;
        for (const int e : holes[i].rim) faces.insert(topology.usesOf(e)[0].face);
        double length = 0.0;
        for (const int e : holes[i].rim) length += EdgeProbe(topology.edge(e)).length();
        const double most = 0.5 * holes[i].size *
                            length;  // its area is a quarter of that seen from afar; in a fold there is more of it
        const heal::Judge judge = [tolerance, most](HalfEdgeBody& made, const std::set<int>&) -> Result<void> {
            const auto shown = made.preview(tolerance);
            if (!shown) return tl::unexpected(shown.error());
            double grown = 0.0;
            for (const auto& [f, face] : *shown) {
                if (made.face(f).reshaped && !soundFace(face))
                    return fail(ProblemKind::NotPossible, "A face beside it would cross itself once carried on.");
                grown += areaOf(face);
            }
            for (const int f : made.touched()) grown -= areaOf(made.before(f).received);
            if (!(grown > 0.0) || grown > most)
                return fail(ProblemKind::NotPossible, "The sheet would grow by more than the hole.");
            return {};
        };
        auto healed = guarded("Closing a hole", [&]() -> Result<std::set<int>> {
            return heal::healOpening(body, holes[i].rim, {faces.begin(), faces.end()}, tolerance, judge);
        });
        if (healed) {
            any = true;
            continue;
        }
        Problem problem = healed.error();
        problem.what = fmt::format("The {} mm hole stays: {}", readable(holes[i].size), problem.what);
        problem.where = {part.name, {faces.begin(), faces.end()}, holes[i].middle};
        if (problem.remedy.empty()) problem.remedy = "Patch it as an opening in Mend.";
        removal.items[i] = tl::unexpected(std::move(problem));
    }
    if (!any) return removal;
    auto built = body.build(tolerance);
    if (!built) {
        for (std::size_t i = 0; i < holes.size(); ++i)
            if (holes[i].across && removal.items[i]) removal.items[i] = tl::unexpected(built.error());
        return removal;
    }
    removal.shape = substituted(part.shape, *built);
    removal.lineage = heal::lineageOf(part, body, *built, removal.shape);
    return removal;
}

}  // namespace

Result<heal::Removal> removeFrom(const Part& part, const std::vector<survey::Hole>& holes, double tolerance,
                                 Progress& progress) {
    std::vector<survey::Hole> ofSheets, ofSolids;
    for (const survey::Hole& hole : holes) (hole.kind == survey::HoleKind::Sheet ? ofSheets : ofSolids).push_back(hole);
    if (!ofSheets.empty()) {
        // Loops of single faces, openings across several, walls of solids: each on what the one before has left.
        std::vector<survey::Hole> across;
        for (const survey::Hole& hole : ofSheets)
            if (hole.across) across.push_back(hole);
        heal::Removal all = withoutLoops(part, ofSheets);
        std::shared_ptr<const Part> now = all.shape.IsNull() ? part.copy() : part.withShape(all.shape, all.lineage);
        const auto take = [&all, &now](heal::Removal& more) {
            if (more.shape.IsNull()) return;
            all.lineage = all.shape.IsNull() ? more.lineage : chained(all.lineage, more.lineage);
            all.shape = more.shape;
            now = now->withShape(more.shape, more.lineage);
        };
        const auto renumbered = [&](survey::Hole hole) {  // faces and edges as they are numbered now
            const auto in = [](const std::vector<Link>& links, int& number) {
                for (const Link& link : links)
                    if (link.before == number) {
                        number = link.after;
                        return;
                    }
            };
            if (all.shape.IsNull()) return hole;
            for (int& e : hole.rim) in(all.lineage.edges(), e);
            for (int& f : hole.faces) in(all.lineage.faces(), f);
            std::sort(hole.faces.begin(), hole.faces.end());
            return hole;
        };
        heal::Removal openings;
        if (!across.empty()) {
            std::vector<survey::Hole> here;
            for (const survey::Hole& hole : across) here.push_back(renumbered(hole));
            openings = withoutOpenings(*now, here, tolerance);
            take(openings);
        }
        heal::Removal solids;
        if (!ofSolids.empty()) {
            std::vector<survey::Hole> here;
            for (const survey::Hole& hole : ofSolids) here.push_back(renumbered(hole));
            auto removed = removeFrom(*now, here, tolerance, progress);
            if (!removed) return removed;
            solids = std::move(*removed);
            take(solids);
        }
        std::vector<Result<void>> items;
        std::size_t sheet = 0, opening = 0, solid = 0;
        for (const survey::Hole& hole : holes) {
            if (hole.kind != survey::HoleKind::Sheet)
                items.push_back(solids.items[solid++]);
            else if (const std::size_t at = sheet++; hole.across)
                items.push_back(openings.items[opening++]);
            else
                items.push_back(all.items[at]);
        }
        all.items = std::move(items);
        return all;
    }
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

namespace {

/// For holes that stayed: where those that they cross would have to go too, that is told with their problem.
std::vector<survey::Hole> tellCrossing(const Part& part, const std::vector<survey::Hole>& taken,
                                       const std::vector<survey::Hole>& known, double tolerance, heal::Removal& removal,
                                       Progress& progress) {
    std::vector<survey::Hole> all;
    int looked = 0;
    for (std::size_t i = 0; i < taken.size() && looked < 12; ++i) {
        if (removal.items[i] || removal.items[i].error().kind != ProblemKind::NotPossible || taken[i].group < 0)
            continue;
        std::vector<survey::Hole> together{taken[i]};
        for (const survey::Hole& hole : known)
            if (hole.group == taken[i].group && hole.faces != taken[i].faces) together.push_back(hole);
        const auto isTaken = [&](const survey::Hole& hole) {
            return std::any_of(taken.begin(), taken.end(),
                               [&](const survey::Hole& other) { return other.faces == hole.faces; });
        };
        if (std::all_of(together.begin(), together.end(), isTaken)) continue;
        ++looked;
        const auto done = removeFrom(part, together, tolerance, progress);
        if (!done || done->shape.IsNull() || !done->items.front()) continue;
        Problem& problem = removal.items[i].error();
        std::string words;
        for (std::size_t k = 1; k < together.size(); ++k) {
            problem.lacking.insert(problem.lacking.end(), together[k].faces.begin(), together[k].faces.end());
            words += fmt::format("{}the Ø {} mm one",
                                 k == 1                     ? ""
                                 : k + 1 == together.size() ? " and "
                                                            : ", ",
                                 readable(together[k].size));
            if (!isTaken(together[k]) && std::none_of(all.begin(), all.end(), [&](const survey::Hole& other) {
                    return other.faces == together[k].faces;
                }))
                all.push_back(together[k]);
        }
        if (together.size() > 4) words = counted(together.size() - 1, "other");
        problem.remedy = fmt::format("Take along {} that it crosses.", words);
    }
    return all;
}

}  // namespace

Result<Outcome> removeHoles(const Model& model, const RemoveHoles& step, Progress& progress) {
    if (!(step.upTo >= 0.0) || !std::isfinite(step.upTo) || !(step.from >= 0.0) || !std::isfinite(step.from))
        return fail(ProblemKind::BadInput, "The diameters must be positive lengths.");
    if (step.upTo == 0.0 && step.chosen.empty() && step.chosenAt.empty())
        return fail(ProblemKind::BadInput, "No size and no hole was given, so there is nothing to remove.",
                    "Give upTo in mm, or pick holes.");
    std::vector<std::string> kinds = step.kinds;
    if (kinds.empty()) kinds = {"plain", "stepped", "counterbored", "countersunk", "tapered", "sheet"};
    for (const std::string& kind : kinds)
        if (kind != "plain" && kind != "stepped" && kind != "counterbored" && kind != "countersunk" &&
            kind != "tapered" && kind != "slot" && kind != "sheet")
            return fail(ProblemKind::BadInput, fmt::format("There is no kind of hole called \"{}\".", kind),
                        "Known: plain, stepped, counterbored, countersunk, tapered, slot, sheet.");
    const auto choice = Choice::of(model, step.parts, step.chosen, step.kept);
    if (!choice) return tl::unexpected(choice.error());

    Outcome outcome;
    outcome.model = model;
    const double tolerance = model.samePoint();
    std::size_t removed = 0, asked = 0;
    std::vector<char> met(step.chosenAt.size(), false);
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        const Part& part = *model.parts[p];
        const bool byRule = step.upTo > 0.0 && choice->isRuled(model, p);
        if (!byRule && !choice->isChosen(p) && step.chosenAt.empty()) continue;
        auto found = survey::findHoles(part, model.targetSize, {}, progress);
        if (!found) return tl::unexpected(found.error());
        const std::vector<survey::Hole> everything = *found;
        std::vector<survey::Hole> taken;
        for (survey::Hole& hole : *found) {
            const auto isAt = [&](const std::vector<std::array<double, 3>>& points) {
                return hole.kind == survey::HoleKind::Sheet &&
                       std::any_of(points.begin(), points.end(), [&](const auto& at) {
                           return hole.middle.Distance(gp_Pnt(at[0], at[1], at[2])) <= 0.05 * hole.size;
                       });
            };
            for (std::size_t i = 0; i < met.size(); ++i) met[i] = met[i] || isAt({step.chosenAt[i]});
            if (choice->keeps(p, hole.faces) || isAt(step.keptAt)) continue;
            const bool rule = byRule && hole.size <= step.upTo * (1.0 + Tolerance::atLimit) &&
                              hole.size >= step.from * (1.0 - Tolerance::atLimit) && (step.bores || !hole.bore) &&
                              std::find(kinds.begin(), kinds.end(), survey::holeKindName(hole.kind)) != kinds.end();
            if (rule || choice->chooses(p, hole.faces) || isAt(step.chosenAt)) taken.push_back(std::move(hole));
        }
        for (const int face : choice->chosenOf(p))
            if (std::none_of(taken.begin(), taken.end(), [f = face](const survey::Hole& hole) {
                    return std::binary_search(hole.faces.begin(), hole.faces.end(), f);
                }))
                return fail(ProblemKind::NotPossible,
                            fmt::format("Face {} of \"{}\" is not part of a hole.", face, part.name),
                            "Pick the wall of a hole.", {part.name, {face}, {}});
        if (taken.empty()) continue;
        asked += taken.size();
        auto removal = removeFrom(part, taken, tolerance, progress);
        if (!removal) return tl::unexpected(removal.error());
        const std::size_t chosen = taken.size();
        if (const auto crossing = tellCrossing(part, taken, everything, tolerance, *removal, progress);
            step.along && !crossing.empty())
            if (auto done = alsoWith(
                    crossing, taken, *removal,
                    [&](const std::vector<survey::Hole>& more) { return removeFrom(part, more, tolerance, progress); });
                !done)
                return tl::unexpected(done.error());
        for (std::size_t i = 0; i < taken.size(); ++i) {
            Item item{sizeAndPlace(taken[i]) + (i >= chosen ? ", taken along" : "") + " in " + part.name,
                      removal->items[i].has_value(),
                      {},
                      taken[i].size};
            if (item.done)
                ++removed;
            else
                item.problem = removal->items[i].error();
            outcome.items.push_back(std::move(item));
        }
        if (removal->shape.IsNull()) continue;
        removal->lineage.part = p;
        outcome.model.parts[p] = part.withShape(removal->shape, removal->lineage);
        outcome.lineage.push_back(std::move(removal->lineage));
    }
    if (const auto missing = std::find(met.begin(), met.end(), false); missing != met.end()) {
        const auto& at = step.chosenAt[static_cast<std::size_t>(missing - met.begin())];
        return fail(ProblemKind::NotPossible,
                    fmt::format("There is no hole of a sheet at {}, {}, {}.", readable(at[0]), readable(at[1]),
                                readable(at[2])),
                    "Survey the holes again for their middles.");
    }
    if (asked == 0)
        return fail(step.upTo > 0.0 ? ProblemKind::NothingToDo : ProblemKind::NotPossible,
                    step.upTo > 0.0 ? fmt::format("There are no holes up to {} mm here.", readable(step.upTo))
                                    : "None of the chosen faces belongs to a hole.");
    if (removed == 0) {
        for (const Item& item : outcome.items)
            if (!item.done) return tl::unexpected(item.problem);
    }
    outcome.summary = step.upTo > 0.0
                          ? fmt::format("Remove {} {} mm", counted(removed, "hole"), sizeRange(step.from, step.upTo))
                          : fmt::format("Remove {}", counted(removed, "picked hole"));
    progress.report(1.0, outcome.summary);
    return outcome;
}

std::vector<ParameterInfo> RemoveHoles::infos() {
    return {{"upTo", "number", "mm", "Every hole whose widest wall is no wider goes; 0: only those chosen.", 0.0},
            {"from", "number", "mm", "And no narrower than this.", 0.0},
            {"parts", "list of names", "", "Parts to look at; empty: all.", Json::array()},
            {"kinds", "list of words", "",
             "plain, stepped, counterbored, countersunk, tapered, slot, sheet; empty: all but slots.", Json::array()},
            {"chosenAt", "list of points", "mm",
             "The middle of each further hole of a sheet that goes, in the part's coordinates.", Json::array()},
            {"keptAt", "list of points", "mm", "The middle of each hole of a sheet that stays.", Json::array()},
            {"chosen", "list of face references", "", "Any one face of each further hole that goes, whatever its size.",
             Json::array()},
            {"kept", "list of face references", "", "Any one face of each hole that stays.", Json::array()},
            {"along", "boolean", "", "Where one does not go by itself, the holes that it crosses go too.", false},
            {"bores", "boolean", "", "Take big bores and the insides of tubes too, when they are within upTo.", false}};
}

void to_json(Json& json, const RemoveHoles& step) {
    json = Json{{"upTo", step.upTo}};
    if (step.from > 0.0) json["from"] = step.from;
    if (!step.parts.empty()) json["parts"] = step.parts;
    if (!step.kinds.empty()) json["kinds"] = step.kinds;
    if (!step.chosen.empty()) json["chosen"] = step.chosen;
    if (!step.kept.empty()) json["kept"] = step.kept;
    if (step.along) json["along"] = true;
    if (step.bores) json["bores"] = true;
    if (!step.chosenAt.empty()) json["chosenAt"] = step.chosenAt;
    if (!step.keptAt.empty()) json["keptAt"] = step.keptAt;
}

void from_json(const Json& json, RemoveHoles& step) {
    step.upTo = json.value("upTo", 0.0);
    step.from = json.value("from", 0.0);
    step.parts = json.value("parts", std::vector<std::string>{});
    step.kinds = json.value("kinds", std::vector<std::string>{});
    step.chosen = json.value("chosen", std::vector<FaceRef>{});
    step.kept = json.value("kept", std::vector<FaceRef>{});
    step.along = json.value("along", false);
    step.bores = json.value("bores", false);
    step.chosenAt = json.value("chosenAt", std::vector<std::array<double, 3>>{});
    step.keptAt = json.value("keptAt", std::vector<std::array<double, 3>>{});
}

}  // namespace rasoir::shave
