#include "mend/mend.h"

#include <fmt/format.h>

#include "common/tolerance.h"
#include "mend/bridge.h"
#include "mend/closing.h"
#include "mend/small.h"
#include "mend/stray.h"
#include "model/places.h"

namespace rasoir::mend {
namespace {

double exactOf(const Model& model) {
    return std::max(Tolerance::samePlace, model.samePoint());
}
ParameterInfo partsInfo() {
    return {"parts", "list of names", "", "Parts, names or patterns; empty: every part in the work.", Json::array()};
}

/// Applies `action` to each wanted part; refuses when it did nothing anywhere.
template <class Action>
Result<Outcome> onParts(const Model& model, const std::vector<std::string>& names, const std::string& nothing,
                        Progress& progress, Action action) {
    const auto chosen = partsNamed(model, names);
    if (!chosen) return tl::unexpected(chosen.error());
    Outcome outcome;
    outcome.model = model;
    std::optional<Problem> first;
    std::size_t changed = 0;
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        if (names.empty() ? model.isAside(p) : !std::binary_search(chosen->begin(), chosen->end(), p)) continue;
        if (model.parts[p]->shape.IsNull() || model.parts[p]->lump) continue;
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        Result<Change> change = action(p, *model.parts[p]);
        if (!change) {
            if (change.error().kind == ProblemKind::Cancelled) return tl::unexpected(change.error());
            if (change.error().where.part.empty()) change.error().where.part = model.parts[p]->name;
            if (!first) first = change.error();
            if (!names.empty()) outcome.items.push_back({model.parts[p]->name, false, change.error(), 0.0});
            continue;
        }
        outcome.items.insert(outcome.items.end(), change->items.begin(), change->items.end());
        if (change->shape.IsNull()) continue;
        change->lineage.part = p;
        outcome.model.parts[p] = model.parts[p]->withShape(change->shape, change->lineage);
        outcome.lineage.push_back(std::move(change->lineage));
        ++changed;
    }
    if (changed == 0) {
        if (first) return tl::unexpected(*first);
        for (const Item& item : outcome.items)
            if (!item.done) return tl::unexpected(item.problem);
        return fail(ProblemKind::NothingToDo, nothing);
    }
    return outcome;
}

Json refPairs(const std::vector<std::pair<FaceRef, FaceRef>>& pairs) {
    Json json = Json::array();
    for (const auto& [a, b] : pairs) json.push_back(Json::array({a, b}));
    return json;
}
std::vector<std::pair<FaceRef, FaceRef>> pairsFrom(const Json& json, const char* key) {
    std::vector<std::pair<FaceRef, FaceRef>> pairs;
    for (const Json& one : json.value(key, Json::array()))
        pairs.emplace_back(one.at(0).get<FaceRef>(), one.at(1).get<FaceRef>());
    return pairs;
}
Result<std::map<std::size_t, std::vector<std::pair<int, int>>>> foundPairs(
    const Model& model, const std::vector<std::pair<FaceRef, FaceRef>>& pairs) {
    std::map<std::size_t, std::vector<std::pair<int, int>>> found;
    for (const auto& [a, b] : pairs) {
        const auto one = findFace(model, a), two = findFace(model, b);
        if (!one) return tl::unexpected(one.error());
        if (!two) return tl::unexpected(two.error());
        if (one->part != two->part)
            return fail(ProblemKind::NotPossible, "A gap lies between two faces of one part.",
                        "Join the parts into one first.", {a.part, {one->face}, {}});
        found[one->part].emplace_back(std::min(one->face, two->face), std::max(one->face, two->face));
    }
    return found;
}

}  // namespace

std::vector<ParameterInfo> Stitch::infos() {
    return {partsInfo(),
            {"upTo", "number", "mm", "The widest gap that is closed; 0: the safe limit of each part.", 0.0},
            {"only", "list of pairs of face references", "", "Only the gaps between these faces; empty: all.",
             Json::array()},
            {"kept", "list of pairs of face references", "", "Gaps between these faces stay open.", Json::array()}};
}
void to_json(Json& json, const Stitch& step) {
    json =
        Json{{"parts", step.parts}, {"upTo", step.upTo}, {"only", refPairs(step.only)}, {"kept", refPairs(step.kept)}};
}
void from_json(const Json& json, Stitch& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
    step.upTo = json.value("upTo", 0.0);
    step.only = pairsFrom(json, "only");
    step.kept = pairsFrom(json, "kept");
}

Result<Outcome> stitchGaps(const Model& model, const Stitch& step, Progress& progress) {
    if (!(step.upTo >= 0.0) || !std::isfinite(step.upTo))
        return fail(ProblemKind::BadInput, "The widest gap must be a positive length.");
    const auto only = foundPairs(model, step.only), kept = foundPairs(model, step.kept);
    if (!only) return tl::unexpected(only.error());
    if (!kept) return tl::unexpected(kept.error());
    const double exact = exactOf(model);
    std::size_t joined = 0;
    auto outcome = onParts(model, step.parts, "There are no open edges here.", progress,
                           [&](std::size_t p, const Part& part) -> Result<Change> {
                               if (!step.only.empty() && !only->contains(p)) return Change{};
                               const Incidence& topology = part.incidence();
                               if (openEdges(topology) == 0) return Change{};
                               StitchWanted wanted{step.upTo, exact, {}, {}};
                               if (step.upTo == 0.0) {
                                   const auto rims = survey::pairRims(topology, exact, exact, progress);
                                   if (!rims) return tl::unexpected(rims.error());
                                   wanted.upTo = survey::safeGapLimit(*rims, model.targetSize).first;
                               }
                               if (only->contains(p)) wanted.only = only->at(p);
                               if (kept->contains(p)) wanted.kept = kept->at(p);
                               auto change = stitched(part, wanted, progress);
                               if (change) joined += static_cast<std::size_t>(change->done);
                               return change;
                           });
    if (outcome)
        outcome->summary =
            fmt::format("Stitch {}{}", counted(joined, "pair of edges", "pairs of edges"),
                        step.upTo > 0.0 ? fmt::format(" up to {} mm apart", readable(step.upTo)) : std::string());
    return outcome;
}

std::vector<ParameterInfo> PatchOpenings::infos() {
    return {
        partsInfo(),
        {"at", "list of points", "mm",
         "Middles of the openings meant, in the part's coordinates; empty: all but the rims of sheets.", Json::array()},
        {"tangent", "switch", "", "Smooth fillings run on from their neighbours.", true}};
}
void to_json(Json& json, const PatchOpenings& step) {
    json = Json{{"parts", step.parts}, {"at", step.at}, {"tangent", step.tangent}};
}
void from_json(const Json& json, PatchOpenings& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
    step.at = json.value("at", std::vector<std::array<double, 3>>{});
    step.tangent = json.value("tangent", true);
}

Result<Outcome> patchOpenings(const Model& model, const PatchOpenings& step, Progress& progress) {
    for (const auto& at : step.at)
        for (const double c : at)
            if (!std::isfinite(c)) return fail(ProblemKind::BadInput, "A point is not finite.");
    std::size_t closed = 0;
    auto outcome =
        onParts(model, step.parts, "There is no opening to patch here.", progress, [&](std::size_t, const Part& part) {
            auto change = patched(part, step, model.targetSize, exactOf(model), progress);
            if (change) closed += static_cast<std::size_t>(change->done);
            return change;
        });
    if (outcome) outcome->summary = fmt::format("Patch {}", counted(closed, "opening"));
    return outcome;
}

std::vector<ParameterInfo> Bridge::infos() {
    return {{"part", "name", "", "The part.", ""},
            {"edges", "list of pairs of points", "mm",
             "For each bridge a point on either open edge, in the part's coordinates.", Json::array()}};
}
void to_json(Json& json, const Bridge& step) {
    json = Json{{"part", step.part}, {"edges", step.edges}};
}
void from_json(const Json& json, Bridge& step) {
    step.part = json.at("part").get<std::string>();
    step.edges = json.at("edges").get<std::vector<std::array<std::array<double, 3>, 2>>>();
}

Result<Outcome> bridge(const Model& model, const Bridge& step, Progress& progress) {
    if (step.edges.empty()) return fail(ProblemKind::BadInput, "No edges were named.", "Pick two open edges.");
    std::vector<std::pair<gp_Pnt, gp_Pnt>> pairs;
    for (const auto& [a, b] : step.edges) {
        for (const auto& point : {a, b})
            for (const double c : point)
                if (!std::isfinite(c)) return fail(ProblemKind::BadInput, "A point is not finite.");
        pairs.emplace_back(gp_Pnt(a[0], a[1], a[2]), gp_Pnt(b[0], b[1], b[2]));
    }
    auto outcome = onParts(model, {step.part}, "There is nothing to bridge.", progress,
                           [&](std::size_t, const Part& part) { return bridged(part, pairs, exactOf(model)); });
    if (outcome)
        outcome->summary = fmt::format("Bridge {}", counted(step.edges.size(), "pair of edges", "pairs of edges"));
    return outcome;
}

std::vector<ParameterInfo> LeaveOpen::infos() {
    return {partsInfo(),
            {"at", "list of points", "mm",
             "Middles of the openings meant, in the part's coordinates; empty: every opening.", Json::array()}};
}
void to_json(Json& json, const LeaveOpen& step) {
    json = Json{{"parts", step.parts}, {"at", step.at}};
}
void from_json(const Json& json, LeaveOpen& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
    step.at = json.value("at", std::vector<std::array<double, 3>>{});
}

Result<Outcome> leaveOpen(const Model& model, const LeaveOpen& step, Progress& progress) {
    const auto chosen = partsNamed(model, step.parts);
    if (!chosen) return tl::unexpected(chosen.error());
    Outcome outcome;
    outcome.model = model;
    std::set<std::size_t> served;
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        if (step.parts.empty() ? model.isAside(p) : !std::binary_search(chosen->begin(), chosen->end(), p)) continue;
        if (model.parts[p]->shape.IsNull() || model.parts[p]->lump) continue;
        const auto report =
            survey::findDefects(*model.parts[p], {model.targetSize, exactOf(model), 0.0}, false, progress);
        if (!report) return tl::unexpected(report.error());
        const auto declared = model.parts[p]->copy();
        for (const survey::Defect& defect : report->defects) {
            if (defect.kind != survey::DefectKind::Opening) continue;
            const auto meant = std::find_if(step.at.begin(), step.at.end(), [&](const auto& at) {
                return gp_Pnt(at[0], at[1], at[2]).Distance(defect.where) <= 0.02 * defect.size;
            });
            if (!step.at.empty() && meant == step.at.end()) continue;
            if (meant != step.at.end()) served.insert(static_cast<std::size_t>(meant - step.at.begin()));
            declared->meantOpen.push_back(defect.where);
            outcome.items.push_back(
                {fmt::format("opening {} mm across in {} stays open", readable(defect.size), declared->name),
                 true,
                 {},
                 defect.size});
        }
        if (declared->meantOpen.size() > model.parts[p]->meantOpen.size()) outcome.model.parts[p] = declared;
    }
    for (std::size_t i = 0; i < step.at.size(); ++i)
        if (!served.contains(i)) {
            const gp_Pnt at(step.at[i][0], step.at[i][1], step.at[i][2]);
            const std::string place = fmt::format("{}, {}, {}", readable(at.X()), readable(at.Y()), readable(at.Z()));
            outcome.items.push_back({"opening at " + place,
                                     false,
                                     {ProblemKind::NotPossible,
                                      fmt::format("There is no opening with its middle at {}.", place),
                                      {{}, {}, at},
                                      "Choose the openings anew."},
                                     0.0});
        }
    std::size_t done = 0;
    for (const Item& item : outcome.items) done += item.done;
    if (done == 0) return fail(ProblemKind::NotPossible, "There is no opening that could be meant.");
    outcome.summary = fmt::format("Leave {} open", counted(done, "opening"));
    return outcome;
}

std::vector<ParameterInfo> DropDoubles::infos() {
    return {partsInfo()};
}
void to_json(Json& json, const DropDoubles& step) {
    json = Json{{"parts", step.parts}};
}
void from_json(const Json& json, DropDoubles& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
}

Result<Outcome> dropDoubles(const Model& model, const DropDoubles& step, Progress& progress) {
    std::size_t dropped = 0;
    auto outcome = onParts(model, step.parts, "No face lies on another.", progress, [&](std::size_t, const Part& part) {
        auto change = withoutDoubles(part, model.targetSize, exactOf(model), progress);
        if (change) dropped += static_cast<std::size_t>(change->done);
        return change;
    });
    if (outcome) outcome->summary = fmt::format("Drop {}", counted(dropped, "doubled face"));
    return outcome;
}

std::vector<ParameterInfo> MergeFaces::infos() {
    return {partsInfo()};
}
void to_json(Json& json, const MergeFaces& step) {
    json = Json{{"parts", step.parts}};
}
void from_json(const Json& json, MergeFaces& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
}

Result<Outcome> mergeFaces(const Model& model, const MergeFaces& step, Progress& progress) {
    std::size_t gone = 0;
    auto outcome = onParts(model, step.parts, "No edge divides one surface, no vertex one curve.", progress,
                           [&](std::size_t, const Part& part) {
                               auto change = mergedFaces(part, exactOf(model), progress);
                               if (change) gone += static_cast<std::size_t>(change->done);
                               return change;
                           });
    if (outcome)
        outcome->summary =
            fmt::format("Merge {} away", counted(gone, "needless edge or vertex", "needless edges and vertices"));
    return outcome;
}

std::vector<ParameterInfo> MakeSolids::infos() {
    return {partsInfo()};
}
void to_json(Json& json, const MakeSolids& step) {
    json = Json{{"parts", step.parts}};
}
void from_json(const Json& json, MakeSolids& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
}

Result<Outcome> makeSolids(const Model& model, const MakeSolids& step, Progress& progress) {
    auto outcome = onParts(model, step.parts, "There is nothing to turn round and nothing closed that is not a solid.",
                           progress, [&](std::size_t, const Part& part) { return solidsOf(part); });
    if (outcome) outcome->summary = fmt::format("Make solids of {}", counted(outcome->lineage.size(), "part"));
    return outcome;
}

std::vector<ParameterInfo> DeleteFaces::infos() {
    return {{"faces", "list of face references", "", "The faces to take out.", Json::array()}};
}
void to_json(Json& json, const DeleteFaces& step) {
    json = Json{{"faces", step.faces}};
}
void from_json(const Json& json, DeleteFaces& step) {
    step.faces = json.at("faces").get<std::vector<FaceRef>>();
}

Result<Outcome> deleteFaces(const Model& model, const DeleteFaces& step, Progress& progress) {
    if (step.faces.empty()) return fail(ProblemKind::BadInput, "No faces were named.", "Pick the faces to delete.");
    std::map<std::size_t, std::set<int>> dropped;
    for (const FaceRef& reference : step.faces) {
        const auto found = findFace(model, reference);
        if (!found) return tl::unexpected(found.error());
        dropped[found->part].insert(found->face);
    }
    auto outcome = onParts(
        model, {}, "There is nothing to delete.", progress, [&](std::size_t p, const Part& part) -> Result<Change> {
            if (!dropped.contains(p)) return Change{};
            auto change = withoutFaces(part, dropped.at(p));
            if (change)
                change->items.push_back(
                    {fmt::format("{} of {} deleted", counted(dropped.at(p).size(), "face"), part.name), true, {}, 0.0});
            return change;
        });
    if (outcome) outcome->summary = fmt::format("Delete {}", counted(step.faces.size(), "face"));
    return outcome;
}

std::vector<ParameterInfo> DropStray::infos() {
    return {partsInfo(), {"upTo", "number", "mm", "Only bodies no longer than this; 0: all that are stray.", 0.0}};
}
void to_json(Json& json, const DropStray& step) {
    json = Json{{"parts", step.parts}, {"upTo", step.upTo}};
}
void from_json(const Json& json, DropStray& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
    step.upTo = json.value("upTo", 0.0);
}

Result<Outcome> dropStray(const Model& model, const DropStray& step, Progress& progress) {
    if (!(step.upTo >= 0.0) || !std::isfinite(step.upTo))
        return fail(ProblemKind::BadInput, "The longest side must be a positive length.");
    std::size_t dropped = 0;
    auto outcome =
        onParts(model, step.parts, "There are no stray bodies.", progress, [&](std::size_t, const Part& part) {
            auto change = withoutStray(part, step.upTo, model.targetSize, exactOf(model), progress);
            if (change) dropped += static_cast<std::size_t>(change->done);
            return change;
        });
    if (outcome) outcome->summary = fmt::format("Drop {}", counted(dropped, "stray body", "stray bodies"));
    return outcome;
}

std::vector<ParameterInfo> UniteStray::infos() {
    return {
        partsInfo(),
        {"upTo", "number", "mm", "All but the largest that are no longer than this; 0: those that are stray.", 0.0}};
}
void to_json(Json& json, const UniteStray& step) {
    json = Json{{"parts", step.parts}, {"upTo", step.upTo}};
}
void from_json(const Json& json, UniteStray& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
    step.upTo = json.value("upTo", 0.0);
}

Result<Outcome> uniteStray(const Model& model, const UniteStray& step, Progress& progress) {
    if (!(step.upTo >= 0.0) || !std::isfinite(step.upTo))
        return fail(ProblemKind::BadInput, "The longest side must be a positive length.");
    std::size_t united = 0;
    auto outcome =
        onParts(model, step.parts, "There are no stray bodies.", progress, [&](std::size_t, const Part& part) {
            auto change = withStrayUnited(part, step.upTo, model.targetSize, exactOf(model), progress);
            if (change) united += static_cast<std::size_t>(change->done);
            return change;
        });
    if (outcome) outcome->summary = fmt::format("Unite {}", counted(united, "stray body", "stray bodies"));
    return outcome;
}

std::vector<ParameterInfo> TrimOverlong::infos() {
    return {partsInfo(),
            {"upTo", "number", "mm",
             "Farther than this off its surface, a boundary is not on a face; 0: the safe limit of each part.", 0.0}};
}
void to_json(Json& json, const TrimOverlong& step) {
    json = Json{{"parts", step.parts}, {"upTo", step.upTo}};
}
void from_json(const Json& json, TrimOverlong& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
    step.upTo = json.value("upTo", 0.0);
}

Result<Outcome> trimOverlong(const Model& model, const TrimOverlong& step, Progress& progress) {
    if (!(step.upTo >= 0.0) || !std::isfinite(step.upTo))
        return fail(ProblemKind::BadInput, "The distance must be a positive length.");
    const double exact = exactOf(model);
    std::size_t cut = 0;
    auto outcome =
        onParts(model, step.parts, "No face runs over its neighbours.", progress, [&](std::size_t, const Part& part) {
            auto change = withoutOverruns(
                part, step.upTo > 0.0 ? step.upTo : safeLimitOf(part, model.targetSize, exact, progress), 0.0,
                model.targetSize, exact, progress);
            if (change) cut += static_cast<std::size_t>(change->done);
            return change;
        });
    if (outcome) outcome->summary = fmt::format("Cut back {}", counted(cut, "face"));
    return outcome;
}

std::vector<ParameterInfo> AbsorbSlivers::infos() {
    return {partsInfo(), {"upTo", "number", "mm", "The widest face that goes; 0: a fiftieth of the target size.", 0.0}};
}
void to_json(Json& json, const AbsorbSlivers& step) {
    json = Json{{"parts", step.parts}, {"upTo", step.upTo}};
}
void from_json(const Json& json, AbsorbSlivers& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
    step.upTo = json.value("upTo", 0.0);
}

Result<Outcome> absorbSlivers(const Model& model, const AbsorbSlivers& step, Progress& progress) {
    if (!(step.upTo >= 0.0) || !std::isfinite(step.upTo))
        return fail(ProblemKind::BadInput, "The width must be a positive length.");
    std::size_t gone = 0;
    auto outcome = onParts(model, step.parts, "No face is that thin.", progress, [&](std::size_t, const Part& part) {
        auto change = withoutSlivers(part, step.upTo > 0.0 ? step.upTo : 0.02 * model.targetSize, model.targetSize,
                                     exactOf(model), progress);
        if (change) gone += static_cast<std::size_t>(change->done);
        return change;
    });
    if (outcome) outcome->summary = fmt::format("Absorb {}", counted(gone, "sliver"));
    return outcome;
}

std::vector<ParameterInfo> CollapseTiny::infos() {
    return {partsInfo(),
            {"upTo", "number", "mm", "The longest edge that goes; 0: a fiftieth of the target size.", 0.0}};
}
void to_json(Json& json, const CollapseTiny& step) {
    json = Json{{"parts", step.parts}, {"upTo", step.upTo}};
}
void from_json(const Json& json, CollapseTiny& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
    step.upTo = json.value("upTo", 0.0);
}

Result<Outcome> collapseTiny(const Model& model, const CollapseTiny& step, Progress& progress) {
    if (!(step.upTo >= 0.0) || !std::isfinite(step.upTo))
        return fail(ProblemKind::BadInput, "The length must be a positive length.");
    std::size_t gone = 0;
    auto outcome = onParts(model, step.parts, "No edge is that short.", progress, [&](std::size_t, const Part& part) {
        auto change =
            withoutTinyEdges(part, step.upTo > 0.0 ? step.upTo : 0.02 * model.targetSize, exactOf(model), progress);
        if (change) gone += static_cast<std::size_t>(change->done);
        return change;
    });
    if (outcome) outcome->summary = fmt::format("Collapse {}", counted(gone, "tiny edge"));
    return outcome;
}

std::vector<ParameterInfo> MendSafe::infos() {
    return {partsInfo()};
}
void to_json(Json& json, const MendSafe& step) {
    json = Json{{"parts", step.parts}};
}
void from_json(const Json& json, MendSafe& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
}

Result<Outcome> mendSafe(const Model& model, const MendSafe& step, Progress& progress) {
    const double exact = exactOf(model);
    auto outcome = onParts(
        model, step.parts, "There is nothing to mend: no open edges, no doubled faces, nothing turned round.", progress,
        [&](std::size_t, const Part& part) -> Result<Change> {
            Chain chain{part.copy(), {}};
            chain.take(withoutDoubles(*chain.part, model.targetSize, exact, progress));
            if (openEdges(chain.part->incidence()) > 0) {
                // What coincides first: then the shortest edge is a feature's, not a remnant's.
                chain.take(stitched(*chain.part, {exact, exact, {}, {}}, progress));
                // Then what runs over exactly, before wider joining takes the ends of two such faces for the two sides
                // of a gap. What reaches no farther than a gap is one.
                if (auto cut =
                        overrunsCut(*chain.part, exact, safeLimitOf(*chain.part, model.targetSize, exact, progress),
                                    model.targetSize, exact, progress);
                    !cut)
                    return cut;
                else
                    chain.take(std::move(cut));
                if (openEdges(chain.part->incidence()) > 0) {
                    const double safe = safeLimitOf(*chain.part, model.targetSize, exact, progress);
                    chain.take(stitched(*chain.part, {safe, exact, {}, {}}, progress));
                    if (auto cut = overrunsCut(*chain.part, safeLimitOf(*chain.part, model.targetSize, exact, progress),
                                               0.0, model.targetSize, exact, progress);
                        !cut)
                        return cut;
                    else
                        chain.take(std::move(cut));
                }
                if (openEdges(chain.part->incidence()) > 0)
                    chain.take(patched(*chain.part, {}, model.targetSize, exact, progress));
            }
            chain.take(solidsOf(*chain.part));
            if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
            if (chain.all.done == 0) chain.all.shape.Nullify();
            if (!chain.all.shape.IsNull())
                chain.all.items.insert(chain.all.items.begin(),
                                       Item{part.name + ": " + state(chain.all.shape), true, {}, 0.0});
            return chain.all;
        });
    if (outcome) outcome->summary = fmt::format("Mend what is safe in {}", counted(outcome->lineage.size(), "part"));
    return outcome;
}

}  // namespace rasoir::mend
