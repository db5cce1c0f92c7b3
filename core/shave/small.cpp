#include "shave/small.h"

#include <fmt/format.h>

#include <BRep_Tool.hxx>
#include <set>

#include "common/tolerance.h"
#include "geometry/edge_probe.h"
#include "geometry/integrals.h"
#include "geometry/round_surface.h"
#include "heal/reface.h"
#include "heal/removal.h"
#include "mend/change.h"
#include "mend/merge.h"
#include "mend/small.h"
#include "shave/choice.h"
#include "shave/sequence.h"

namespace rasoir::shave {
namespace {

using survey::Small;
using survey::SmallKind;
using survey::SmallWay;

std::string nameOf(const Small& small) {
    return small.kind == SmallKind::Face
               ? fmt::format("face {} mm wide, {} long", readable(small.size), readable(small.length))
               : fmt::format("edge {} mm long", readable(small.size));
}

/// Small things of one part out of it, one after another.
class Tidier {
public:
    Tidier(std::shared_ptr<const Part> part, double tolerance, Progress& progress)
        : m_sequence(std::move(part)), m_tolerance(tolerance), m_progress(progress) {}

    [[nodiscard]] const Sequence& sequence() const { return m_sequence; }

    /// Which way it went; none: it is gone with another already.
    Result<std::optional<SmallWay>> remove(const Small& small) {
        if (isGone(small)) return std::optional<SmallWay>();
        const int now =
            small.kind == SmallKind::Face ? m_sequence.numberOf(small.number) : m_sequence.edgeNumberOf(small.number);
        std::vector<SmallWay> ways{small.way};
        for (const SmallWay way : {SmallWay::Merge, SmallWay::Remove, SmallWay::Flatten, SmallWay::Collapse})
            if (way != small.way) ways.push_back(way);
        std::optional<Problem> first;
        for (const SmallWay way : ways) {
            if (m_progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
            auto made = small.kind == SmallKind::Face ? withoutFace(small, now, way) : withoutEdge(now, way);
            if (!made) {
                if (!first) first = made.error();
                continue;
            }
            if (made->first.IsNull()) continue;
            if (const auto problem = objection(small, made->first)) {
                if (!first) first = *problem;
                continue;
            }
            m_sequence.take(made->first, made->second);
            return std::optional(way);
        }
        if (first && first->what.starts_with("It stays: ")) first->what.erase(0, 10);
        Problem problem = first.value_or(Problem{ProblemKind::NotPossible,
                                                 "None of the ways to be rid of it applies.",
                                                 {},
                                                 "Remove it together with a face beside it."});
        problem.what = fmt::format("The {} stays: {}{}", nameOf(small),
                                   problem.what.empty() ? ' ' : static_cast<char>(std::tolower(problem.what[0])),
                                   problem.what.empty() ? "" : problem.what.substr(1));
        problem.where = {m_sequence.now().name,
                         small.kind == SmallKind::Face ? std::vector{small.number} : std::vector<int>{}, small.middle};
        return tl::unexpected(std::move(problem));
    }

    /// Faces round which the others meet, all at once, which costs about as much as one; those that do not go that way
    /// are left for later. Which went.
    Result<std::set<int>> removeTogether(const std::vector<const Small*>& faces) {
        std::vector<heal::Wanted> wanted;
        const Part& part = m_sequence.now();
        for (const Small* small : faces) {
            const int now = m_sequence.numberOf(small->number);
            if (now > 0)
                wanted.push_back(
                    {"It", {now}, {}, small->middle, areaOf(part.incidence().face(now)) * small->size, 0, 0, 0});
        }
        auto removal = heal::removeFaces(part, wanted, m_tolerance, m_progress);
        if (!removal)
            return removal.error().kind == ProblemKind::Cancelled
                       ? Result<std::set<int>>(tl::unexpected(removal.error()))
                       : std::set<int>();
        if (removal->shape.IsNull() || mend::solidsIn(removal->shape) < mend::solidsIn(part.shape) ||
            mend::openEdges(Incidence(removal->shape)) > mend::openEdges(part.incidence()))
            return std::set<int>();
        std::set<int> gone;
        std::size_t at = 0;
        for (const Small* small : faces)
            if (m_sequence.numberOf(small->number) > 0 && removal->items[at++]) gone.insert(small->number);
        m_sequence.take(removal->shape, removal->lineage);
        return gone;
    }

    /// Short edges all at once, which costs as much as one; false where that spoils the body.
    Result<bool> collapse(const std::vector<const Small*>& edges) {
        std::set<int> now;
        double longest = 0.0, skin = 0.0;
        for (const Small* small : edges)
            if (const int e = m_sequence.edgeNumberOf(small->number); e > 0 && isStillSmall(*small, e)) {
                now.insert(e);
                longest = std::max(longest, small->size);
                skin += skinRound(*small);
            }
        auto made = from(mend::collapsedEdges(m_sequence.now(), now, m_tolerance, m_progress));
        if (!made && made.error().kind == ProblemKind::Cancelled) return tl::unexpected(made.error());
        if (!made || made->first.IsNull() || mend::solidsIn(made->first) < mend::solidsIn(m_sequence.now().shape) ||
            mend::openEdges(Incidence(made->first)) > mend::openEdges(m_sequence.now().incidence()))
            return false;
        if (mend::solidsIn(made->first) > 0 &&
            std::abs(volumeOf(made->first) - volumeOf(m_sequence.now().shape)) > 0.5 * longest * skin)
            return false;
        m_sequence.take(made->first, made->second);
        return true;
    }
    /// It is no longer there, or no longer small.
    [[nodiscard]] bool isGone(const Small& small) const {
        const int now =
            small.kind == SmallKind::Face ? m_sequence.numberOf(small.number) : m_sequence.edgeNumberOf(small.number);
        return now == 0 || !isStillSmall(small, now);
    }

private:
    using Made = std::pair<TopoDS_Shape, PartLineage>;  // a null shape: this way does not apply
    Sequence m_sequence;
    double m_tolerance;
    Progress& m_progress;

    [[nodiscard]] bool isStillSmall(const Small& small, int now) const {
        const Incidence& topology = m_sequence.now().incidence();
        if (small.kind == SmallKind::Edge) return EdgeProbe(topology.edge(now)).length() <= 1.5 * small.size;
        double outline = 0.0;
        for (const int e : topology.edgesOf(now))
            if (!BRep_Tool::Degenerated(topology.edge(e))) outline += EdgeProbe(topology.edge(e)).length();
        return outline > 0.0 && 2.0 * areaOf(topology.face(now)) / outline <= 1.5 * small.size;
    }

    static Result<Made> from(Result<heal::Removal> removal) {
        if (!removal) return tl::unexpected(removal.error());
        if (removal->shape.IsNull())
            return removal->items.empty() || removal->items.front()
                       ? Made{}
                       : Result<Made>(tl::unexpected(removal->items.front().error()));
        return Made{removal->shape, std::move(removal->lineage)};
    }
    static Result<Made> from(Result<mend::Change> change) {
        if (!change) return tl::unexpected(change.error());
        return Made{change->shape, std::move(change->lineage)};
    }

    /// Faces that become one on the surface of the first.
    Result<Made> united(int onto, int with) const {
        const TopoDS_Face face = m_sequence.now().incidence().face(onto);
        heal::Refacing refacing{
            {onto, with}, {{BRep_Tool::Surface(face), face.Orientation() == TopAbs_REVERSED}}, gp::OZ()};
        if (const auto round = roundSurface(face)) refacing.axis = round->axis;
        return from(heal::reface(m_sequence.now(), refacing, m_tolerance));
    }

    Result<Made> withoutFace(const Small& small, int face, SmallWay way) const {
        const Part& part = m_sequence.now();
        const Incidence& topology = part.incidence();
        switch (way) {
            case SmallWay::Merge:
                for (const int g : topology.neighboursOf(face))
                    if (sameSurface(topology.face(face), topology.face(g), m_tolerance)) return united(g, face);
                return Made{};
            case SmallWay::Remove: {
                const heal::Wanted wanted{"It", {face}, {}, small.middle, areaOf(topology.face(face)) * small.size,
                                          0,    0,      0};
                return from(heal::removeFaces(part, {wanted}, m_tolerance, m_progress));
            }
            case SmallWay::Flatten: {
                const int into = m_sequence.numberOf(small.into);
                if (small.way != SmallWay::Flatten || into == 0) return Made{};
                return united(into, face);
            }
            case SmallWay::Collapse:
                return from(mend::absorbedFaces(part, {face}, small.size, m_tolerance, m_progress));
        }
        return Made{};
    }

    Result<Made> withoutEdge(int edge, SmallWay way) const {
        const Part& part = m_sequence.now();
        const Incidence& topology = part.incidence();
        switch (way) {
            case SmallWay::Merge: {
                const auto uses = topology.usesOf(edge);
                if (uses.size() != 2) return Made{};
                if (uses[0].face != uses[1].face &&
                    sameSurface(topology.face(uses[0].face), topology.face(uses[1].face), m_tolerance))
                    return united(uses[0].face, uses[1].face);
                return Made{};
            }
            case SmallWay::Collapse:
                return from(mend::collapsedEdges(part, {edge}, m_tolerance, m_progress));
            default:
                return Made{};
        }
    }

    [[nodiscard]] std::optional<Problem> objection(const Small& small, const TopoDS_Shape& made) const {
        const Part& part = m_sequence.now();
        if (mend::solidsIn(made) < mend::solidsIn(part.shape) ||
            mend::openEdges(Incidence(made)) > mend::openEdges(part.incidence()))
            return Problem{
                ProblemKind::NotPossible, "The body would come open.", {}, "Remove it together with a face beside it."};
        if (mend::solidsIn(part.shape) == 0) return std::nullopt;
        const double change = std::abs(volumeOf(made) - volumeOf(part.shape)),
                     most = small.size * std::max(small.size, small.length) * small.size * 4.0 +
                            0.5 * small.size * skinRound(small);
        if (change > most)
            return Problem{
                ProblemKind::NotPossible,
                fmt::format("The volume would change by {} mm³, more than such a small thing may.", readable(change)),
                {},
                "Remove it together with a face beside it."};
        return std::nullopt;
    }

    /// [mm^2] of what may be shifted with it.
    [[nodiscard]] double skinRound(const Small& small) const {
        const Incidence& topology = m_sequence.now().incidence();
        double area = 0.0;
        if (small.kind == SmallKind::Edge) {
            for (const EdgeUse& use : topology.usesOf(m_sequence.edgeNumberOf(small.number)))
                area += areaOf(topology.face(use.face));
        } else {
            for (const int g : topology.neighboursOf(m_sequence.numberOf(small.number)))
                area += areaOf(topology.face(g));
        }
        return area;
    }
};

/// Curves that these edges divide needlessly become one: a merged edge is its longer neighbour's. How many vertices go.
Result<std::size_t> withWholeCurves(Sequence& sequence, const std::vector<int>& edges, double tolerance,
                                    Progress& progress) {
    std::set<int> now;
    for (const int e : edges)
        if (const int number = sequence.edgeNumberOf(e); number > 0) now.insert(number);
    auto merged = mend::mergeAtEdges(sequence.now().shape, now, tolerance, progress);
    if (!merged) return tl::unexpected(merged.error());
    if (merged->shape.IsNull()) return 0;
    sequence.take(merged->shape, merged->lineage);
    return static_cast<std::size_t>(merged->vertices);
}

}  // namespace

Result<Outcome> removeSmall(const Model& model, const RemoveSmall& step, Progress& progress) {
    for (const double length : {step.facesUpTo, step.edgesUpTo, step.from})
        if (!(length >= 0.0) || !std::isfinite(length))
            return fail(ProblemKind::BadInput, "The lengths must be positive.");
    if (step.facesUpTo == 0.0 && step.edgesUpTo == 0.0 && step.chosenAt.empty())
        return fail(ProblemKind::BadInput, "No size was given and nothing chosen, so there is nothing to remove.",
                    "Give facesUpTo or edgesUpTo in mm.");
    const auto choice = Choice::of(model, step.parts, {}, {});
    if (!choice) return tl::unexpected(choice.error());
    Outcome outcome;
    outcome.model = model;
    std::size_t gone = 0;
    std::vector<char> met(step.chosenAt.size(), false);
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        const Part& part = *model.parts[p];
        if (!choice->isRuled(model, p) || part.shape.IsNull() || part.lump) continue;
        const auto found = survey::findUnnamedSmall(part, model.targetSize, progress);
        if (!found) return tl::unexpected(found.error());
        std::vector<Small> taken;
        for (const Small& small : *found) {
            const auto isAt = [&](const std::array<double, 3>& at) {
                return small.middle.Distance(gp_Pnt(at[0], at[1], at[2])) <=
                       std::max(0.05 * small.size, 10.0 * model.samePoint());
            };
            bool chosen = false;
            for (std::size_t i = 0; i < met.size(); ++i)
                if (isAt(step.chosenAt[i])) {
                    chosen = true;
                    met[i] = true;
                }
            if (std::any_of(step.keptAt.begin(), step.keptAt.end(), isAt)) continue;
            const double upTo = small.kind == SmallKind::Face ? step.facesUpTo : step.edgesUpTo;
            if (chosen || (small.size <= upTo * (1.0 + Tolerance::atLimit) &&
                           small.size >= step.from * (1.0 - Tolerance::atLimit) && upTo > 0.0))
                taken.push_back(small);
        }
        if (taken.empty()) continue;
        Tidier tidier(model.parts[p], model.samePoint(), progress);
        std::vector<std::pair<std::size_t, const Small*>> divided;  // edges that merely divide a curve, and their items
        // Edges that are to shrink come last, all at once where that can be.
        std::stable_partition(taken.begin(), taken.end(), [](const Small& small) {
            return small.kind == SmallKind::Face || small.way != SmallWay::Collapse;
        });
        std::vector<const Small*> healing;
        for (const Small& small : taken)
            if (small.kind == SmallKind::Face && small.way == SmallWay::Remove) healing.push_back(&small);
        std::set<int> healed;  // faces that went together
        if (healing.size() > 1) {
            auto together = tidier.removeTogether(healing);
            if (!together) return tl::unexpected(together.error());
            healed = std::move(*together);
        }
        bool tried = false;
        std::set<int> shrunk;  // edges that went so
        for (const Small& small : taken) {
            if (!tried && small.kind == SmallKind::Edge && small.way == SmallWay::Collapse) {
                std::vector<const Small*> shrinking;
                for (const Small& other : taken)
                    if (other.kind == SmallKind::Edge && other.way == SmallWay::Collapse && !tidier.isGone(other))
                        shrinking.push_back(&other);
                tried = true;
                if (shrinking.size() > 1) {
                    const auto together = tidier.collapse(shrinking);
                    if (!together) return tl::unexpected(together.error());
                    if (*together)
                        for (const Small* one : shrinking) shrunk.insert(one->number);
                }
            }
            progress.report(
                static_cast<double>(outcome.items.size()) / static_cast<double>(outcome.items.size() + taken.size()),
                "Removing small faces and edges");
            Item item{nameOf(small) + " in " + part.name, false, {}, small.size};
            if (small.kind == SmallKind::Edge && small.way == SmallWay::Merge && small.into == 0) {
                divided.emplace_back(outcome.items.size(), &small);
                outcome.items.push_back(std::move(item));
                continue;
            }
            const auto way = small.kind == SmallKind::Face && healed.contains(small.number)
                                 ? Result<std::optional<SmallWay>>(SmallWay::Remove)
                                 : tidier.remove(small);
            if (!way && way.error().kind == ProblemKind::Cancelled) return tl::unexpected(way.error());
            item.done = way.has_value();
            if (!way)
                item.problem = way.error();
            else if (!*way)
                item.what += small.kind == SmallKind::Edge && shrunk.contains(small.number) ? ": collapsed"
                                                                                            : ": gone with another";
            else
                item.what +=
                    fmt::format(": {}{}", survey::smallWayName(**way), **way == SmallWay::Flatten ? "ed" : "d");
            gone += item.done;
            outcome.items.push_back(std::move(item));
        }
        Sequence sequence = tidier.sequence();
        if (!divided.empty()) {
            std::vector<int> edges;
            for (const auto& [i, small] : divided) edges.push_back(small->number);
            const auto merged = withWholeCurves(sequence, edges, model.samePoint(), progress);
            if (!merged && merged.error().kind == ProblemKind::Cancelled) return tl::unexpected(merged.error());
            for (const auto& [i, small] : divided) {
                Item& item = outcome.items[i];
                const int now = sequence.edgeNumberOf(
                    small->number);  // each is looked at: that some merged says nothing of this one
                item.done = merged &&
                            (now == 0 || EdgeProbe(sequence.now().incidence().edge(now)).length() > 1.5 * small->size);
                if (item.done)
                    item.what += ": merged";
                else
                    item.problem = merged ? Problem{ProblemKind::NotPossible,
                                                    "The curves on both sides of it did not become one.",
                                                    {part.name, {}, {}},
                                                    "It does no harm but for its vertex."}
                                          : merged.error();
                gone += item.done;
            }
        }
        if (!sequence.changed()) continue;
        outcome.model.parts[p] = sequence.part();
        outcome.lineage.push_back(sequence.lineage());
        outcome.lineage.back().part = p;
    }
    if (const auto missing = std::find(met.begin(), met.end(), false); missing != met.end()) {
        const auto& at = step.chosenAt[static_cast<std::size_t>(missing - met.begin())];
        return fail(ProblemKind::NotPossible,
                    fmt::format("There is no small face or edge at {}, {}, {}.", readable(at[0]), readable(at[1]),
                                readable(at[2])),
                    "Survey them again for their middles.");
    }
    if (outcome.items.empty())
        return fail(ProblemKind::NothingToDo, "There are no faces or edges that small here.", "Raise the limit.");
    if (gone == 0)
        for (const Item& item : outcome.items)
            if (!item.done) return tl::unexpected(item.problem);
    const bool faces = step.facesUpTo > 0.0, edges = step.edgesUpTo > 0.0;
    const std::string what = faces && edges ? counted(gone, "small face or edge", "small faces and edges")
                             : edges        ? counted(gone, "short edge")
                                            : counted(gone, "small face");
    outcome.summary =
        faces || edges
            ? fmt::format("Remove {} {} mm", what, sizeRange(step.from, std::max(step.facesUpTo, step.edgesUpTo)))
            : fmt::format("Remove {}, picked", counted(gone, "small face or edge", "small faces and edges"));
    progress.report(1.0, outcome.summary);
    return outcome;
}

std::vector<ParameterInfo> RemoveSmall::infos() {
    return {{"facesUpTo", "number", "mm", "Faces no wider (twice the area over the outline) go; 0: none by rule.", 0.0},
            {"edgesUpTo", "number", "mm", "Edges no longer go; 0: none by rule.", 0.0},
            {"from", "number", "mm", "And neither any smaller than this.", 0.0},
            {"parts", "list of names", "", "Parts to look at; empty: all.", Json::array()},
            {"chosenAt", "list of points", "mm", "The middle of each further one that goes, in the part's coordinates.",
             Json::array()},
            {"keptAt", "list of points", "mm", "The middle of each that stays.", Json::array()}};
}

void to_json(Json& json, const RemoveSmall& step) {
    json = Json{{"facesUpTo", step.facesUpTo}, {"edgesUpTo", step.edgesUpTo}};
    if (step.from > 0.0) json["from"] = step.from;
    if (!step.parts.empty()) json["parts"] = step.parts;
    if (!step.chosenAt.empty()) json["chosenAt"] = step.chosenAt;
    if (!step.keptAt.empty()) json["keptAt"] = step.keptAt;
}

void from_json(const Json& json, RemoveSmall& step) {
    step.facesUpTo = json.value("facesUpTo", 0.0);
    step.edgesUpTo = json.value("edgesUpTo", 0.0);
    step.from = json.value("from", 0.0);
    step.parts = json.value("parts", std::vector<std::string>{});
    step.chosenAt = json.value("chosenAt", std::vector<std::array<double, 3>>{});
    step.keptAt = json.value("keptAt", std::vector<std::array<double, 3>>{});
}

}  // namespace rasoir::shave
