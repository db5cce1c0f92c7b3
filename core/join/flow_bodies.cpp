#include "join/flow_bodies.h"

#include <fmt/format.h>

#include <BRepClass3d_SolidClassifier.hxx>
#include <GeomAPI_ProjectPointOnSurf.hxx>

#include "common/tolerance.h"
#include "geometry/integrals.h"
#include "join/flow_parts.h"
#include "join/pairs.h"
#include "model/named.h"
#include "model/places.h"
#include "topology/edge_angle.h"

// The parts are added first, and joined to their walls all at once: the faces of the arrangement that made them lie on
// those of the walls exactly. Joining divides and numbers faces anew, so the groups are written afterwards, through the
// lineage of that step.

namespace rasoir::join {
namespace {

/// Where one wall of an edge has got to, `away` from the edge's middle [mm].
std::optional<gp_Pnt> alongFace(const TopoDS_Face& face, const gp_Pnt& middle, const gp_Vec& into, double away) {
    const gp_Pnt wanted = middle.Translated(into * away);
    const GeomAPI_ProjectPointOnSurf near(wanted, BRep_Tool::Surface(face));
    if (near.NbPoints() == 0) return std::nullopt;
    return near.NearestPoint();
}

class BodyAdder {
public:
    BodyAdder(const Model& model, const std::vector<FlowBody>& bodies) : m_bodies(bodies) {
        m_outcome.model = model;
        m_outcome.model.giveIds();
    }

    Outcome run(const std::vector<std::size_t>& walls, bool joined, Progress& progress) {
        for (const FlowBody& body : m_bodies) add(body);
        if (joined) join(walls, progress);
        for (std::size_t b = 0; b < m_bodies.size(); ++b) addGroups(b);
        return std::move(m_outcome);
    }
    [[nodiscard]] const std::vector<std::string>& names() const { return m_names; }

private:
    const std::vector<FlowBody>& m_bodies;
    Outcome m_outcome;
    std::vector<std::string> m_names;  // in step with the bodies, as all that follows
    std::vector<PartId> m_ids;
    std::vector<std::size_t> m_parts;
    std::vector<std::vector<Link>> m_faces;  // what joining made of them; empty: they are as they were

    void add(const FlowBody& body) {
        Model& with = m_outcome.model;
        auto part = std::make_shared<Part>(freeName(with, body.name), body.shape);
        part->known.regions[{EntityKind::Body, 1}] = body.kind;
        m_names.push_back(part->name);
        m_parts.push_back(with.parts.size());
        m_faces.emplace_back();
        Occurrence place;
        place.part = with.parts.size();
        place.name = part->name;
        with.parts.push_back(part);
        with.occurrences.push_back(place);
        with.giveIds();
        m_ids.push_back(with.parts.back()->id);
    }

    void join(const std::vector<std::size_t>& walls, Progress& progress) {
        Pairs joining;
        for (const std::size_t o : walls) joining.places.push_back(placeName(m_outcome.model, o));
        joining.places.insert(joining.places.end(), m_names.begin(), m_names.end());
        auto joined = joinPairs(m_outcome.model, joining, progress);
        if (!joined) {
            m_outcome.notes.push_back(
                (m_bodies.size() == 1 ? "It is not joined to its walls: " : "They are not joined to their walls: ") +
                sentence(joined.error()));
            return;
        }
        const std::size_t known = m_outcome.model.pairings.size();
        m_outcome = std::move(*joined);
        m_outcome.items.clear();
        for (std::size_t i = known; i < m_outcome.model.pairings.size(); ++i)
            if (m_outcome.model.pairings[i].kind == PairingKind::Within)
                m_outcome.notes.push_back("\"" + m_outcome.model.pairings[i].name +
                                          "\": the flow is on both sides of it, and shares its nodes.");
        for (std::size_t b = 0; b < m_bodies.size(); ++b)
            for (const PartLineage& own : m_outcome.lineage)
                if (own.part == m_parts[b]) m_faces[b] = own.of(EntityKind::Face);
        // They are new: nothing was one of them before.
        std::erase_if(m_outcome.lineage, [this](const PartLineage& own) {
            return std::find(m_parts.begin(), m_parts.end(), own.part) != m_parts.end();
        });
    }

    void put(std::size_t b, const std::string& name, const std::string& purpose, const std::set<int>& faces) {
        Group group{name, purpose, std::nullopt, {}, std::nullopt};
        for (const int number : faces) {
            if (m_faces[b].empty()) group.members.insert({m_ids[b], everyPlace, {EntityKind::Face, number}});
            for (const Link& link : m_faces[b])
                if (link.before == number && link.after > 0)
                    group.members.insert({m_ids[b], everyPlace, {EntityKind::Face, link.after}});
        }
        putByName(m_outcome.model.groups, std::move(group));
    }
    void addGroups(std::size_t b) {
        const FlowBody& body = m_bodies[b];
        if (body.kind != RegionKind::Fluid && body.lids.empty()) return;  // nothing flows in a cavity that is filled
        for (const auto& [o, faces] : body.walls)
            put(b, fmt::format("{}, wall of {}", m_names[b], placeName(m_outcome.model, o)), "wall", faces);
        for (std::size_t l = 0; l < body.lids.size(); ++l) {
            put(b, fmt::format("{}, lid {}", m_names[b], l + 1), "opening", body.lids[l].faces);
            if (!body.lids[l].sides.empty())
                put(b, fmt::format("{}, before lid {}", m_names[b], l + 1), "wall", body.lids[l].sides);
        }
        if (!body.plugs.empty()) put(b, m_names[b] + ", closed gaps", "wall", body.plugs);
    }
};

void tell(Outcome& outcome, std::string what, double size) {
    outcome.items.push_back({std::move(what), true, {}, size});
}

std::string placeOf(const gp_Pnt& at) {
    return fmt::format("({}, {}, {})", readable(at.X()), readable(at.Y()), readable(at.Z()));
}

/// What there is to say of one body; names in the model are those before it was added.
void describe(Outcome& outcome, const Model& model, const FlowBody& body, const std::string& name, bool alone,
              Progress& progress) {
    tell(outcome,
         fmt::format("\"{}\": {} mm³, {} mm² of walls and lids", name, readable(body.volume),
                     readable(areaOf(body.shape))),
         body.volume);
    const std::string of = alone ? "" : fmt::format(" of \"{}\"", name);
    for (std::size_t l = 0; l < body.lids.size(); ++l)
        tell(outcome,
             fmt::format("lid {}{} on \"{}\": {} mm², hydraulic diameter {} mm", l + 1, of,
                         placeName(model, body.lids[l].place), readable(body.lids[l].area),
                         readable(body.lids[l].diameter)),
             body.lids[l].diameter);
    if (body.kind != RegionKind::Fluid) return;
    const Incidence topology(body.shape);
    for (const auto& [o, faces] : body.walls) {
        double wetted = 0.0;
        for (const int f : faces) wetted += areaOf(topology.face(f));
        tell(outcome,
             fmt::format("{} {} mm² of \"{}\"", alone ? "wets" : fmt::format("\"{}\" wets", name), readable(wetted),
                         placeName(model, o)),
             wetted);
    }
    std::vector<std::set<int>> lids;
    for (const FlowBody::Lid& lid : body.lids) lids.push_back(lid.faces);
    if (const auto narrow = narrowestPassage(body.shape, lids, 0.2 * model.targetSize, progress)) {
        tell(outcome,
             fmt::format("narrowest passage{} about {} mm wide, at {}", of, readable(narrow->width),
                         placeOf(narrow->where)),
             narrow->width);
        constexpr double fewElements = 4.0;
        if (narrow->width < fewElements * model.targetSize)
            outcome.notes.push_back(
                fmt::format("The narrowest passage{} is {} elements wide; a flow wants four or more there.", of,
                            readable(narrow->width / model.targetSize)));
    }
    constexpr double sharp = 15.0;  // degrees: prisms of a boundary layer collapse in less
    const std::vector<Wedge> wedges = wedgesOf(body.shape, sharp, model.targetSize);
    if (!wedges.empty())
        outcome.notes.push_back(fmt::format(
            "The flow{} is pinched along {}, under {} degrees and {} mm long at {}: fill it, or part the walls there.",
            of, counted(wedges.size(), "edge"), readable(wedges.front().degrees, 2), readable(wedges.front().length),
            placeOf(wedges.front().where)));
}

}  // namespace

std::vector<Wedge> wedgesOf(const TopoDS_Shape& body, double upTo, double elementSize) {
    const Incidence topology(body);
    const double most = upTo * M_PI / 180.0;
    std::vector<Wedge> all;
    for (int e = 1; e <= topology.edgeCount(); ++e) {
        // Where walls are tangent the turn is a half one, either way round.
        if (std::abs(edgeAngle(topology, e).turn) < M_PI - most) continue;
        const auto uses = topology.usesOf(e);
        const TopoDS_Edge edge = TopoDS::Edge(topology.edge(e).Oriented(TopAbs_FORWARD));
        const BRepAdaptor_Curve curve(edge);
        const double parameter = 0.5 * (curve.FirstParameter() + curve.LastParameter());
        gp_Pnt middle;
        gp_Vec along;
        curve.D1(parameter, middle, along);
        if (along.SquareMagnitude() < Tolerance::noLengthSquare) continue;
        const double length = lengthOf(edge), away = std::min(elementSize, length);
        std::array<gp_Pnt, 2> reached;
        bool known = true;
        for (std::size_t i = 0; i < 2; ++i) {
            const TopoDS_Face face = topology.face(uses[i].face);
            gp_Vec into = outwardNormal(face, edge, parameter).Crossed(along.Normalized());
            if (!uses[i].forward) into.Reverse();
            const auto at = alongFace(face, middle, into, away);
            known = known && at;
            if (at) reached[i] = *at;
        }
        if (!known) continue;
        const double angle = reached[0].Distance(reached[1]) / away;
        if (angle > most) continue;
        // A thin rib that ends in the fluid turns as far, the other way round.
        const gp_Pnt between = reached[0].Translated(0.5 * gp_Vec(reached[0], reached[1]));
        BRepClass3d_SolidClassifier within(body, between, Tolerance::noWay);
        if (within.State() != TopAbs_IN) continue;
        all.push_back({e, angle * 180.0 / M_PI, length, middle});
    }
    std::stable_sort(all.begin(), all.end(), [](const Wedge& a, const Wedge& b) { return a.length > b.length; });
    return all;
}

Result<Outcome> withFlowBodies(const Model& model, std::vector<FlowBody> bodies, const std::vector<std::size_t>& walls,
                               bool joined, Progress& progress) {
    BodyAdder adder(model, bodies);
    Outcome outcome = adder.run(walls, joined, progress);
    if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
    for (std::size_t b = 0; b < bodies.size(); ++b)
        describe(outcome, model, bodies[b], adder.names()[b], bodies.size() == 1, progress);
    return outcome;
}

}  // namespace rasoir::join
