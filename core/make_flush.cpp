#include "make_flush.h"

#include <fmt/format.h>

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <gp_Pln.hxx>
#include <TopExp.hxx>

#include "common/tolerance.h"
#include "geometry/face_points.h"
#include "geometry/ray_field.h"
#include "model/places.h"
#include "model/reference.h"
#include "operations.h"
#include "reduce/cover.h"
#include "reduce/draw_onto.h"
#include "reduce/join_sheets.h"
#include "reduce/sheet_edges.h"
#include "reduce/sheet_growth.h"
#include "reduce/wall_side.h"

// This stands above the rooms, for it runs steps of the one list one after the other, each settled: groups and joints
// follow before the next one looks at the model. What has then happened in all is one outcome.

namespace rasoir {
namespace {

using reduce::Flaw;
using reduce::FlawKind;

const Part& partAt(const Model& model, std::size_t place) {
    return *model.parts[model.occurrences[place].part];
}

/// The plane of a flat face in model coordinates; none for others.
std::optional<gp_Pln> planeAt(const Model& model, std::size_t place, int edge) {
    const Incidence& topology = partAt(model, place).incidence();
    const GeomAdaptor_Surface surface(BRep_Tool::Surface(topology.face(topology.usesOf(edge).front().face)));
    if (surface.GetType() != GeomAbs_Plane) return std::nullopt;
    return surface.Plane().Transformed(model.occurrences[place].placement);
}

gp_Vec outAt(const Model& model, std::size_t place, int edge, gp_Pnt& at) {
    const Incidence& topology = partAt(model, place).incidence();
    const BRepAdaptor_Curve curve(topology.edge(edge));
    const gp_Vec out = reduce::outAlong(topology, topology.usesOf(edge).front().face, edge,
                                        0.5 * (curve.FirstParameter() + curve.LastParameter()), at);
    at.Transform(model.occurrences[place].placement);
    return out.Transformed(model.occurrences[place].placement);
}

divide::Plane saidPlane(const gp_Pnt& through, const gp_Vec& normal) {
    return {{through.X(), through.Y(), through.Z()}, {normal.X(), normal.Y(), normal.Z()}};
}

EntityRef edgeRef(const Model& model, std::size_t place, int edge) {
    return makeRef(partAt(model, place), {EntityKind::Edge, edge});
}

/// How thick the solid is behind the middle of a sheet's face; or else as its neighbour over the longest edge.
double thicknessOf(const Model& model, const Flaw& flaw) {
    const Part& part = partAt(model, flaw.place);
    const Incidence& topology = part.incidence();
    if (part.standsFor) {
        Progress quiet;
        const RayField skin(aloneInPlace(part.standsFor), {}, RayField::usualDeviation, quiet);
        for (const SkinSample& one : skinSamples(topology.face(flaw.face), 4)) {
            const auto above = skin.first(one.at, gp_Dir(one.out), skin.skin()),
                       below = skin.first(one.at, gp_Dir(one.out.Reversed()), skin.skin());
            if (!above || !below || above->normal.Dot(one.out) < 0.9 || below->normal.Dot(one.out) > -0.9) continue;
            // Rays meet triangles; the surfaces tell exactly.
            const Incidence& solidFaces = part.standsFor->incidence();
            const auto up = reduce::footWithin(reduce::sideOf(solidFaces.face(above->face)), one.at),
                       down = reduce::footWithin(reduce::sideOf(solidFaces.face(below->face)), one.at);
            return up && down ? *up + *down : above->distance + below->distance;
        }
    }
    double longest = 0.0, thickness = 0.0;
    for (const int e : topology.edgesOf(flaw.face))
        for (const EdgeUse& use : topology.usesOf(e)) {
            const auto known = part.known.thickness.find({EntityKind::Face, use.face});
            const BRepAdaptor_Curve curve(topology.edge(e));
            const double length = curve.Value(curve.FirstParameter()).Distance(curve.Value(curve.LastParameter()));
            if (use.face == flaw.face || known == part.known.thickness.end() || length <= longest) continue;
            longest = length;
            thickness = known->second.at;
        }
    return thickness;
}

/// In which order kinds are put right: what goes first, so that nothing is carried on to it.
constexpr std::array order{FlawKind::Lip,        FlawKind::Tab,         FlawKind::BeyondRim, FlawKind::Overlap,
                           FlawKind::NotCovered, FlawKind::NoThickness, FlawKind::BeforeRim, FlawKind::Slit,
                           FlawKind::Apart,      FlawKind::EndsShort};

class Flushing {
public:
    Flushing(const Model& received, const MakeFlush& step, Progress& progress)
        : m_received(received), m_step(step), m_progress(progress), m_model(received) {
        m_model.giveIds();
    }

    Result<Outcome> run() {
        for (const std::string& kind : m_step.kinds)
            if (!reduce::flawFromName(kind))
                return fail(ProblemKind::BadInput, fmt::format("\"{}\" is no kind of what is not flush.", kind));
        if (!(m_step.upTo >= 0.0) || !std::isfinite(m_step.upTo))
            return fail(ProblemKind::BadInput, "That is no distance up to which things could be made flush.");
        const auto meant = placesMeant(m_model, m_step.places);
        if (!meant) return tl::unexpected(meant.error());
        for (const std::size_t o : *meant) m_ids.push_back(m_model.occurrences[o].id);
        for (const FlawKind kind : order)
            if (auto fine = putRight(kind); !fine) return tl::unexpected(fine.error());
        if (m_done == 0) {
            for (const Item& item : m_outcome.items)
                if (!item.done) return tl::unexpected(item.problem);
            return fail(ProblemKind::NothingToDo, "Nothing in these sheets is off by so much.",
                        "Give a larger limit, or mark what is to be put right.");
        }
        m_outcome.model = std::move(m_model);
        m_outcome.lineage = std::move(*m_lineage);
        // Groups follow the whole step when it is settled; joints have followed each step, and speak of the new model.
        m_outcome.model.groups = m_received.groups;
        m_outcome.jointsMade = m_outcome.model.joints.size();
        m_outcome.summary = fmt::format("Make {} flush", counted(m_done, "place"));
        m_progress.report(1.0, m_outcome.summary);
        return std::move(m_outcome);
    }

private:
    const Model& m_received;
    const MakeFlush& m_step;
    Progress& m_progress;
    Model m_model;
    Outcome m_outcome;
    std::optional<std::vector<PartLineage>> m_lineage;  // of all steps so far
    std::vector<PlaceId> m_ids;                         // of the places meant; what is made beside them joins them
    std::size_t m_done = 0;

    [[nodiscard]] std::vector<std::size_t> places() const {
        std::vector<std::size_t> now;
        for (const PlaceId id : m_ids)
            if (const auto place = m_model.placeOf(id)) now.push_back(*place);
        return now;
    }

    /// All flaws of one kind that are wanted, as the model is now.
    Result<std::vector<Flaw>> flawsOf(FlawKind kind) {
        double upTo = m_step.upTo;
        if (!m_step.only.empty()) upTo = std::max(upTo, 2.0 * m_model.targetSize);
        auto found = reduce::findNotFlush(m_model, places(), upTo, m_progress);
        if (!found) return found;
        std::vector<Flaw> wanted;
        if (m_step.only.empty()) {
            for (const Flaw& flaw : *found)
                if (flaw.kind == kind && reduce::isTakenBy(flaw, m_step.upTo)) wanted.push_back(flaw);
            return wanted;
        }
        // Where steps before have moved a place a little, it is still the nearest.
        const double near = std::max(m_model.targetSize, 1e-3 * m_model.extent());
        for (const MakeFlush::One& one : m_step.only) {
            if (one.kind != reduce::flawName(kind)) continue;
            const Flaw* nearest = nullptr;
            for (const Flaw& flaw : *found)
                if (flaw.kind == kind && flaw.where.Distance(one.at) < near &&
                    (nearest == nullptr || flaw.where.Distance(one.at) < nearest->where.Distance(one.at)))
                    nearest = &flaw;
            if (nearest != nullptr) wanted.push_back(*nearest);
        }
        return wanted;
    }

    Result<void> putRight(FlawKind kind) {
        if (!m_step.kinds.empty() &&
            std::find(m_step.kinds.begin(), m_step.kinds.end(), reduce::flawName(kind)) == m_step.kinds.end())
            return {};
        if (!m_step.only.empty() &&
            std::none_of(m_step.only.begin(), m_step.only.end(),
                         [&](const MakeFlush::One& one) { return one.kind == reduce::flawName(kind); }))
            return {};
        const auto flaws = flawsOf(kind);
        if (!flaws) return tl::unexpected(flaws.error());
        std::vector<std::pair<std::size_t, std::vector<std::pair<std::string, Json>>>> steps;  // how many they are for
        if (kind == FlawKind::EndsShort) {
            if (!flaws->empty()) steps.push_back({flaws->size(), {joinStep(*flaws)}});
        } else if (kind == FlawKind::NotCovered) {
            std::set<std::string> parts;
            bool doubtful = false;
            for (const Flaw& flaw : *flaws) {
                parts.insert(partAt(m_model, flaw.place).name);
                doubtful = doubtful || !flaw.expected;
            }
            if (!parts.empty())
                steps.push_back(
                    {flaws->size(), {{"reduce.cover", Json(reduce::Cover{{parts.begin(), parts.end()}, doubtful})}}});
        } else {
            // The references of all are made before the first is put right: they are found again by what they are.
            for (const Flaw& flaw : *flaws) steps.emplace_back(1, stepsFor(m_model, flaw));
        }
        for (const auto& [count, own] : steps) {
            // Of several steps for one place all are done, or none.
            const Model model = m_model;
            const std::optional<std::vector<PartLineage>> lineage = m_lineage;
            const std::vector<PlaceId> ids = m_ids;
            const std::vector<Item> items = m_outcome.items;
            const std::vector<std::string> notes = m_outcome.notes;
            bool fine = !own.empty();
            for (std::size_t s = 0; s < own.size() && fine; ++s) {
                const auto done = runStep(own[s].first, own[s].second);
                if (!done) return tl::unexpected(done.error());
                fine = *done;
            }
            if (fine) {
                m_done += count;
                continue;
            }
            m_model = model;
            m_lineage = lineage;
            m_ids = ids;
            m_outcome.notes = notes;
            const std::optional<Item> why =
                m_outcome.items.size() > items.size() ? std::optional(m_outcome.items.back()) : std::nullopt;
            m_outcome.items = items;
            if (why) m_outcome.items.push_back(*why);
        }
        return {};
    }

    [[nodiscard]] std::pair<std::string, Json> joinStep(const std::vector<Flaw>& flaws) const {
        reduce::JoinSheets join;
        join.places = placeNames(m_model, places());
        for (const Flaw& flaw : flaws) {
            join.edges.push_back(edgeRef(m_model, flaw.place, flaw.edge));
            join.upTo = std::max(join.upTo, flaw.size * (1.0 + Tolerance::atLimit));
        }
        return {"reduce.joinSheets", Json(join)};
    }

    /// Runs one step, which settles it. False where it was refused, which becomes an item.
    Result<bool> runStep(const std::string& id, const Json& parameters) {
        if (m_progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        const Operation* operation = findOperation(id);
        auto done = operation->run(m_model, parameters, m_progress);
        if (!done) {
            if (done.error().kind == ProblemKind::Cancelled) return tl::unexpected(done.error());
            m_outcome.items.push_back({operation->title, false, done.error(), 0.0});
            return false;
        }
        for (Item& item : done->items) m_outcome.items.push_back(std::move(item));
        for (std::string& note : done->notes)
            if (std::find(m_outcome.notes.begin(), m_outcome.notes.end(), note) == m_outcome.notes.end())
                m_outcome.notes.push_back(std::move(note));
        m_lineage = m_lineage ? chained(*m_lineage, done->lineage) : std::move(done->lineage);
        const Model before = std::exchange(m_model, std::move(done->model));
        // What was made beside a sheet belongs to it.
        for (const Occurrence& place : m_model.occurrences)
            if (!before.placeOf(place.id)) m_ids.push_back(place.id);
        return true;
    }
};

}  // namespace

std::vector<std::pair<std::string, Json>> stepsFor(const Model& model, const Flaw& flaw) {
    const auto edges = [&](std::size_t place, int edge) { return std::vector<EntityRef>{edgeRef(model, place, edge)}; };
    const auto carry = [&](std::size_t place, int edge, const std::optional<divide::Plane>& plane, std::size_t other) {
        reduce::CarryOn step{edges(place, edge), 0.0, plane, {}, false};
        if (!plane) step.to = {placeName(model, other)};
        return std::pair<std::string, Json>("reduce.carryOn", Json(step));
    };
    switch (flaw.kind) {
        case FlawKind::EndsShort: {
            reduce::JoinSheets join;
            join.places = {placeName(model, flaw.place), placeName(model, *flaw.other)};
            join.edges = edges(flaw.place, flaw.edge);
            join.upTo = flaw.size * (1.0 + Tolerance::atLimit);
            return {{"reduce.joinSheets", Json(join)}};
        }
        case FlawKind::Apart: {
            gp_Pnt a, b;
            const gp_Vec outA = outAt(model, flaw.place, flaw.edge, a),
                         outB = outAt(model, *flaw.other, flaw.otherEdge, b);
            std::vector<std::pair<std::string, Json>> steps;
            constexpr double facing = -0.94;  // as they are found
            if (outA.Dot(outB) < facing) {
                steps.push_back(carry(flaw.place, flaw.edge, saidPlane(b, outA), *flaw.other));
            } else {
                const auto planeA = planeAt(model, flaw.place, flaw.edge),
                           planeB = planeAt(model, *flaw.other, flaw.otherEdge);
                const auto said = [](const std::optional<gp_Pln>& plane) {
                    return plane ? std::optional(saidPlane(plane->Location(), gp_Vec(plane->Axis().Direction())))
                                 : std::nullopt;
                };
                steps.push_back(carry(flaw.place, flaw.edge, said(planeB), *flaw.other));
                steps.push_back(carry(*flaw.other, flaw.otherEdge, said(planeA), flaw.place));
            }
            if (flaw.place != *flaw.other) {
                reduce::JoinSheets join;
                join.places = {placeName(model, flaw.place), placeName(model, *flaw.other)};
                steps.emplace_back("reduce.joinSheets", Json(join));
            }
            return steps;
        }
        case FlawKind::BeforeRim:
            return {
                {"reduce.carryOn", Json(reduce::CarryOn{edges(flaw.place, flaw.edge), 0.0, std::nullopt, {}, true})}};
        case FlawKind::BeyondRim:
            return {
                {"reduce.cutBack", Json(reduce::CutBack{edges(flaw.place, flaw.edge), std::nullopt, {}, true, false})}};
        case FlawKind::Lip:
            return {
                {"reduce.cutBack", Json(reduce::CutBack{edges(flaw.place, flaw.edge), std::nullopt, {}, false, true})}};
        case FlawKind::Tab:
        case FlawKind::Slit: {
            // As far as the shorter of the two edges beside it goes.
            const Incidence& topology = partAt(model, flaw.place).incidence();
            const TopoDS_Edge end = topology.edge(flaw.edge);
            gp_Pnt at;
            const gp_Vec out = outAt(model, flaw.place, flaw.edge, at);
            double shortest = 1e300;
            for (const int side : topology.edgesOf(flaw.face)) {
                if (side == flaw.edge) continue;
                const TopoDS_Edge own = topology.edge(side);
                const bool meets = TopExp::FirstVertex(own).IsSame(TopExp::FirstVertex(end)) ||
                                   TopExp::FirstVertex(own).IsSame(TopExp::LastVertex(end)) ||
                                   TopExp::LastVertex(own).IsSame(TopExp::FirstVertex(end)) ||
                                   TopExp::LastVertex(own).IsSame(TopExp::LastVertex(end));
                if (meets)
                    shortest = std::min(
                        shortest,
                        BRep_Tool::Pnt(TopExp::FirstVertex(own)).Distance(BRep_Tool::Pnt(TopExp::LastVertex(own))));
            }
            if (flaw.kind == FlawKind::Slit)
                return {{"reduce.carryOn",
                         Json(reduce::CarryOn{edges(flaw.place, flaw.edge), shortest, std::nullopt, {}, false})}};
            return {
                {"reduce.cutBack",
                 Json(reduce::CutBack{
                     edges(flaw.place, flaw.edge), saidPlane(at.Translated(out * -shortest), out), {}, false, false})}};
        }
        case FlawKind::Overlap:
            return {
                {"reduce.drawOnto", Json(reduce::DrawOnto{{placeName(model, flaw.place), placeName(model, *flaw.other)},
                                                          flaw.size * 1.001})}};  // the gap was measured at points
        case FlawKind::NoThickness: {
            const double thickness = thicknessOf(model, flaw);
            if (!(thickness > 0.0)) return {};
            reduce::SetThickness set;
            set.faces = {makeFaceRef(partAt(model, flaw.place), flaw.face)};
            set.thickness = thickness;
            return {{"reduce.thickness", Json(set)}};
        }
        case FlawKind::NotCovered:
            return {{"reduce.cover", Json(reduce::Cover{{partAt(model, flaw.place).name}, !flaw.expected})}};
    }
    return {};
}

std::vector<ParameterInfo> MakeFlush::infos() {
    return {
        {"places", "list of names", "", "Parts or places of sheets; empty: all that are not set aside.", Json::array()},
        {"upTo", "number", "mm", "What is off by no more; 0: what is expected of sheets made of walls.", 0.0},
        {"kinds", "list of words", "",
         "endsShort, apart, beforeRim, beyondRim, lip, tab, slit, overlap, noThickness, notCovered; empty: all.",
         Json::array()},
        {"only", "list of places", "",
         R"(These alone, each {"kind": ..., "at": [x, y, z]}; empty: all within the limit.)", Json::array()}};
}
void to_json(Json& json, const MakeFlush& step) {
    json = Json::object();
    if (!step.places.empty()) json["places"] = step.places;
    if (step.upTo > 0.0) json["upTo"] = step.upTo;
    if (!step.kinds.empty()) json["kinds"] = step.kinds;
    for (const MakeFlush::One& one : step.only)
        json["only"].push_back({{"kind", one.kind}, {"at", {one.at.X(), one.at.Y(), one.at.Z()}}});
}
void from_json(const Json& json, MakeFlush& step) {
    step.places = json.value("places", std::vector<std::string>{});
    step.upTo = json.value("upTo", 0.0);
    step.kinds = json.value("kinds", std::vector<std::string>{});
    const Json only = json.value("only", Json::array());
    for (const Json& one : only) {
        const auto at = one.at("at").get<std::array<double, 3>>();
        step.only.push_back({one.at("kind").get<std::string>(), gp_Pnt(at[0], at[1], at[2])});
        if (!reduce::flawFromName(step.only.back().kind))
            throw std::invalid_argument("\"" + step.only.back().kind + "\" is no kind of what is not flush");
    }
}

Result<Outcome> makeFlush(const Model& model, const MakeFlush& step, Progress& progress) {
    return Flushing(model, step, progress).run();
}

}  // namespace rasoir
