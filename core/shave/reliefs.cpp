#include "shave/reliefs.h"

#include <fmt/format.h>

#include <BRep_Tool.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <gp_Cylinder.hxx>
#include <gp_Lin.hxx>
#include <gp_Pln.hxx>
#include <limits>
#include <map>
#include <set>

#include "common/tolerance.h"
#include "geometry/edge_probe.h"
#include "geometry/integrals.h"
#include "geometry/round_surface.h"
#include "heal/reface.h"
#include "shave/choice.h"
#include "shave/sequence.h"

namespace rasoir::shave {
namespace {

using survey::Relief;
using survey::ReliefKind;

std::optional<ReliefKind> kindNamed(const std::string& name) {
    for (const ReliefKind kind : {ReliefKind::Mark, ReliefKind::Boss, ReliefKind::Pocket, ReliefKind::Cutout,
                                  ReliefKind::Notch, ReliefKind::Rib, ReliefKind::Step})
        if (survey::reliefKindName(kind) == name) return kind;
    return std::nullopt;
}

/// What lies wholly in another of them goes with that.
void dropNested(std::vector<Relief>& taken) {
    const std::vector<Relief> all = taken;
    std::erase_if(taken, [&all](const Relief& one) {
        return std::any_of(all.begin(), all.end(), [&](const Relief& other) {
            return other.faces.size() > one.faces.size() &&
                   std::includes(other.faces.begin(), other.faces.end(), one.faces.begin(), one.faces.end());
        });
    });
}

/// [mm] how far a point lies above the level of a flat or a cylinder.
double aboveLevel(const TopoDS_Face& level, const gp_Pnt& point) {
    const GeomAdaptor_Surface surface(BRep_Tool::Surface(level));
    if (surface.GetType() == GeomAbs_Plane)
        return gp_Vec(surface.Plane().Location(), point).Dot(gp_Vec(surface.Plane().Axis().Direction()));
    if (surface.GetType() == GeomAbs_Cylinder)
        return gp_Lin(surface.Cylinder().Axis()).Distance(point) - surface.Cylinder().Radius();
    return 0.0;
}

/// Faces beside these that lie wholly between the level of `onto` and the other, so that nothing is left of them:
/// strips of walls.
std::vector<int> betweenLevels(const Part& part, const std::vector<int>& region, const TopoDS_Face& onto, double height,
                               double tolerance) {
    const Incidence& topology = part.incidence();
    const auto above = [&onto](const gp_Pnt& p) { return aboveLevel(onto, p); };
    std::set<int> found;
    if (const GeomAbs_SurfaceType kind = GeomAdaptor_Surface(BRep_Tool::Surface(onto)).GetType();
        kind != GeomAbs_Plane && kind != GeomAbs_Cylinder)
        return {};
    const int stays = topology.faceNumber(onto);  // beside it alone may lie the risers of other steps
    for (const int f : region)
        for (const int g : f == stays ? std::vector<int>() : topology.neighboursOf(f)) {
            if (std::find(region.begin(), region.end(), g) != region.end() || found.contains(g)) continue;
            double low = std::numeric_limits<double>::max(), high = std::numeric_limits<double>::lowest();
            for (const int e : topology.edgesOf(g)) {
                if (BRep_Tool::Degenerated(topology.edge(e))) continue;
                const EdgeProbe probe(topology.edge(e));
                for (int k = 0; k <= 8; ++k) {
                    const double at = above(probe.value(probe.first() + (probe.last() - probe.first()) * k / 8.0));
                    low = std::min(low, at);
                    high = std::max(high, at);
                }
            }
            const double slack = 10.0 * tolerance;
            const bool spans = high - low > 0.5 * height;  // a shaft's end lies at one level only
            if (spans && ((low > -slack && high < height + slack) || (high < slack && low > -height - slack)))
                found.insert(g);
        }
    return {found.begin(), found.end()};
}

/// A step goes: the lower or the higher of its two faces becomes one with the other.
/// `most`: of all faces that steps lead to one another, the largest (as numbered at first): where it is one of the
/// sides, that stays.
Result<void> levelled(Sequence& sequence, const Relief& step, int most, double tolerance) {
    const auto refuse = [&](const std::string& what, const std::string& remedy) -> Result<void> {
        return fail(ProblemKind::NotPossible, fmt::format("The step, {}, stays: {}", survey::describe(step), what),
                    remedy, {sequence.now().name, step.faces, step.middle});
    };
    // As it is now: another step may have become one with either side, or have taken the risers along.
    const Incidence& topology = sequence.now().incidence();
    std::set<int> sides, risers;
    for (const int f : step.bases)
        if (const int now = sequence.numberOf(f); now > 0) sides.insert(now);
    for (const int f : step.faces)
        if (const int now = sequence.numberOf(f); now > 0 && !sides.contains(now)) risers.insert(now);
    if (risers.empty()) return {};
    if (sides.size() < 2) return refuse("what lay beside it is gone.", "Survey the steps again.");
    std::map<int, double> areas;
    for (const int f : sides) areas[f] = areaOf(topology.face(f));
    int stays = sequence.numberOf(most);
    if (!areas.contains(stays)) stays = sequence.numberOf(step.bases.front());
    if (!areas.contains(stays))
        stays = std::max_element(areas.begin(), areas.end(), [](const auto& a, const auto& b) {
                    return a.second < b.second;
                })->first;
    const TopoDS_Face onto = topology.face(stays);
    double height = step.height, gain = 0.0;
    for (const auto& [f, area] : areas) {
        if (f == stays) continue;
        const EdgeProbe rim(topology.edge(topology.edgesOf(f).front()));
        const double above = aboveLevel(onto, rim.value(rim.first())), lies = std::abs(above);
        height = std::max(height, lies);
        // Out of the material lies higher: on a flat along its own outward side, on a shaft away from the axis, in a
        // bore towards it.
        const bool along = GeomAdaptor_Surface(BRep_Tool::Surface(onto)).GetType() == GeomAbs_Plane
                               ? onto.Orientation() != TopAbs_REVERSED
                               : !roundSurface(onto)->inward;
        gain -= ((above > 0.0) == along ? 1.0 : -1.0) * lies * area;
    }
    std::vector<int> whole(sides.begin(), sides.end());
    whole.insert(whole.end(), risers.begin(), risers.end());
    std::vector<int> region = whole;
    const std::vector<int> between = betweenLevels(sequence.now(), region, onto, height, tolerance);
    region.insert(region.end(), between.begin(), between.end());
    heal::Refacing refacing{
        std::move(region), {{BRep_Tool::Surface(onto), onto.Orientation() == TopAbs_REVERSED}}, gp::OZ()};
    if (const auto round = roundSurface(onto)) refacing.axis = round->axis;
    const double before = volumeOf(sequence.now().shape);
    const auto made = heal::reface(sequence.now(), refacing, tolerance);
    if (!made)
        return refuse(
            made.error().what.empty()
                ? ""
                : std::string(1, static_cast<char>(std::tolower(made.error().what[0]))) + made.error().what.substr(1),
            made.error().remedy);
    const double change = volumeOf(made->shape) - before;
    if (std::abs(change - gain) > 0.5 * std::abs(gain))  // slanting walls make it a little more or less
        return refuse(fmt::format("the volume would change by {} mm³ where {} mm³ are to be expected.",
                                  readable(change), readable(gain)),
                      "Remove what lies beside it first.");
    sequence.take(made->shape, made->lineage);
    return {};
}

/// For each of these steps the largest face of all that they and others lead to one another; 0 for what is no step.
std::vector<int> largestSides(const Part& part, const std::vector<Relief>& reliefs) {
    std::map<int, int> parent;
    const auto root = [&parent](int f) {
        parent.try_emplace(f, f);
        while (parent[f] != f) f = parent[f] = parent[parent[f]];
        return f;
    };
    for (const Relief& relief : reliefs)
        if (relief.kind == ReliefKind::Step)
            for (const int f : relief.bases) parent[root(f)] = root(relief.bases.front());
    std::map<int, std::pair<double, int>> largest;  // by root: area and face
    for (const auto& [f, above] : std::map<int, int>(parent)) {
        const double area = areaOf(part.incidence().face(f));
        auto& best = largest[root(f)];
        if (area > best.first) best = {area, f};
    }
    std::vector<int> most;
    for (const Relief& relief : reliefs)
        most.push_back(relief.kind == ReliefKind::Step ? largest.at(root(relief.bases.front())).second : 0);
    return most;
}

std::string nameOf(const Relief& relief) {
    return fmt::format("{}, {}", survey::reliefKindName(relief.kind), survey::describe(relief));
}

}  // namespace

std::vector<ParameterInfo> RemoveReliefs::infos() {
    return {{"upTo", "number", "mm",
             "Marks and steps no higher, bosses, pockets and cutouts no broader, notches and ribs with no longer a "
             "least side than this go; 0: only those chosen.",
             0.0},
            {"from", "number", "mm", "And no smaller than this.", 0.0},
            {"kinds", "list of words", "", "mark, boss, pocket, cutout, notch, rib, step.", Json::array()},
            {"parts", "list of names", "", "Parts to look at; empty: all.", Json::array()},
            {"chosen", "list of face references", "", "Any one face of each further one that goes, whatever its size.",
             Json::array()},
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
    if (!(step.upTo >= 0.0) || !std::isfinite(step.upTo) || !(step.from >= 0.0) || !std::isfinite(step.from))
        return fail(ProblemKind::BadInput, "The sizes must be positive lengths.");
    if (step.upTo == 0.0 && step.chosen.empty())
        return fail(ProblemKind::BadInput, "No size and nothing chosen was given, so there is nothing to remove.",
                    "Give upTo in mm and kinds, or pick some.");
    if (step.upTo > 0.0 && step.kinds.empty())
        return fail(ProblemKind::BadInput, "A size alone does not say what is to go.",
                    "Name kinds: mark, boss, pocket, cutout, notch, rib, step.");
    std::set<ReliefKind> kinds;
    for (const std::string& name : step.kinds) {
        const auto kind = kindNamed(name);
        if (!kind)
            return fail(ProblemKind::BadInput, fmt::format("There is no kind called \"{}\".", name),
                        "Known: mark, boss, pocket, cutout, notch, rib, step.");
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
        std::sort(found->begin(), found->end(),
                  [](const Relief& a, const Relief& b) { return a.faces.size() < b.faces.size(); });
        for (Relief& relief : *found) {
            const bool rule =
                byRule && kinds.contains(relief.kind) && relief.size() <= step.upTo * (1.0 + Tolerance::atLimit) &&
                relief.size() >= step.from * (1.0 - Tolerance::atLimit) && !choice->keeps(p, relief.faces);
            const bool chosen = std::erase_if(unserved, [&](int f) {
                                    return std::binary_search(relief.faces.begin(), relief.faces.end(), f);
                                }) > 0;
            if (rule || chosen) taken.push_back(std::move(relief));
        }
        if (!unserved.empty())
            return fail(ProblemKind::NotPossible,
                        fmt::format("Face {} of \"{}\" belongs to no mark, boss, pocket, cutout, notch, rib or step.",
                                    *unserved.begin(), part.name),
                        "Remove it as a face.", {part.name, {*unserved.begin()}, {}});
        dropNested(taken);
        if (taken.empty()) continue;
        asked += taken.size();
        std::stable_partition(taken.begin(), taken.end(),
                              [](const Relief& relief) { return relief.kind != ReliefKind::Step; });
        std::vector<heal::Wanted> wanted;
        for (const Relief& relief : taken)
            if (relief.kind != ReliefKind::Step)
                wanted.push_back({"The " + nameOf(relief),
                                  relief.faces,
                                  {},
                                  relief.middle,
                                  std::abs(relief.gain),
                                  relief.raised ? -1 : 1,
                                  0});
        Sequence sequence(model.parts[p]);
        std::vector<Result<void>> done;
        if (!wanted.empty()) {
            auto removal = heal::removeFaces(part, wanted, model.samePoint(), progress);
            if (!removal) return tl::unexpected(removal.error());
            done = std::move(removal->items);
            if (!removal->shape.IsNull()) sequence.take(removal->shape, removal->lineage);
        }
        const std::vector<int> most = largestSides(part, taken);
        while (done.size() < taken.size()) {
            if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
            done.push_back(levelled(sequence, taken[done.size()], most[done.size()], model.samePoint()));
        }
        for (std::size_t i = 0; i < taken.size(); ++i) {
            Item item{nameOf(taken[i]) + " in " + part.name, done[i].has_value(), {}, taken[i].size()};
            if (item.done)
                ++removed;
            else
                item.problem = done[i].error();
            outcome.items.push_back(std::move(item));
        }
        if (!sequence.changed()) continue;
        outcome.model.parts[p] = sequence.part();
        outcome.lineage.push_back(sequence.lineage());
        outcome.lineage.back().part = p;
    }
    const std::string one = kinds.size() == 1 ? step.kinds.front() : "relief";
    if (asked == 0)
        return fail(step.upTo > 0.0 ? ProblemKind::NothingToDo : ProblemKind::NotPossible,
                    step.upTo > 0.0
                        ? fmt::format("There is no {} up to {} mm here.", one, readable(step.upTo))
                        : "None of the chosen faces belongs to a mark, boss, pocket, cutout, notch, rib or step.");
    if (removed == 0)
        for (const Item& item : outcome.items)
            if (!item.done) return tl::unexpected(item.problem);
    const std::string counts = one == "boss"    ? counted(removed, "boss", "bosses")
                               : one == "notch" ? counted(removed, "notch", "notches")
                                                : counted(removed, one);
    outcome.summary = step.upTo > 0.0 ? fmt::format("Remove {} {} mm", counts, sizeRange(step.from, step.upTo))
                                      : fmt::format("Remove {}, picked", counts);
    progress.report(1.0, outcome.summary);
    return outcome;
}

}  // namespace rasoir::shave
