#include "reduce/loose_pieces.h"

#include <fmt/format.h>

#include <BRep_Builder.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <TopoDS_Compound.hxx>

#include "common/sets.h"
#include "geometry/integrals.h"
#include "geometry/ray_field.h"
#include "model/places.h"

// A link is to be drawn where matter went on: from a free edge of one piece to a face of another, no farther away than
// half of both walls is thick, on a way within the body. That leaves out rims, beyond which there is
// air, and walls that happen to run beside each other. Of the pairs of pieces that this finds those with the longest
// edges are taken first, and no pair that hangs together already.

namespace rasoir::reduce {
namespace {

/// A sheet in so many pieces has not been understood, and links would not mend it.
constexpr std::size_t mostPieces = 200;

/// Middles that do not meet square to each other are a little farther apart than half of both walls.
constexpr double slant = 1.25;

/// Of a way, which may lead through air: a leaf that leans on a wall ends a hair beside where it meets it.
constexpr double airAllowed = 0.05;

struct Tie {
    int loose = 0, other = 0;  // pieces
    std::set<int> edges, faces;
    double length = 0.0;  // [mm]
};

/// The sheets of one part. `bodies`: of the part as it was, by face of the sheets; pieces of two bodies were never one.
class Pieces {
public:
    Pieces(const Part& solid, const Part& sheet, std::map<int, int> bodies, Progress& progress)
        : m_sheet(sheet), m_topology(sheet.incidence()), m_bodies(std::move(bodies)), m_progress(progress) {
        Model alone;
        alone.parts.push_back(std::make_shared<Part>("solid", solid.shape));
        alone.occurrences.push_back({});
        m_skin = std::make_unique<RayField>(alone, std::vector<std::size_t>{}, RayField::usualDeviation, progress);
        Sets sets(static_cast<std::size_t>(m_topology.faceCount()) + 1);
        for (int e = 1; e <= m_topology.edgeCount(); ++e) {
            const auto uses = m_topology.usesOf(e);
            for (std::size_t i = 1; i < uses.size(); ++i) sets.join(uses[0].face, uses[i].face);
        }
        std::map<int, int> pieceOf;  // by root
        for (int f = 1; f <= m_topology.faceCount(); ++f) {
            const int piece = pieceOf.emplace(sets.root(f), static_cast<int>(pieceOf.size())).first->second;
            m_pieceOf.push_back(piece);
            m_faces.resize(pieceOf.size());
            m_faces[static_cast<std::size_t>(piece)].push_back(f);
        }
    }
    [[nodiscard]] std::size_t count() const { return m_faces.size(); }
    [[nodiscard]] int pieceOf(int face) const { return m_pieceOf[static_cast<std::size_t>(face) - 1]; }

    /// From free edges of one piece to other pieces.
    [[nodiscard]] std::vector<Tie> tiesOf(int piece) const {
        Model others;
        std::vector<int> faces;  // as the sheet counts them, of each part there
        for (int f = 1; f <= m_topology.faceCount(); ++f) {
            if (pieceOf(f) == piece || bodyOf(f) != bodyOf(m_faces[static_cast<std::size_t>(piece)].front())) continue;
            others.occurrences.push_back({});
            others.occurrences.change(others.parts.size()).part = others.parts.size();
            others.parts.push_back(std::make_shared<Part>("wall", m_topology.face(f)));
            faces.push_back(f);
        }
        if (faces.empty()) return {};
        const RayField field(others, {}, RayField::usualDeviation, m_progress);
        std::map<int, Tie> ties;
        for (const int f : m_faces[static_cast<std::size_t>(piece)])
            for (const int e : m_topology.edgesOf(f)) {
                if (m_topology.facesAt(e) != 1) continue;
                std::set<int> met;
                const auto other = reachedFrom(f, e, field, faces, met);
                if (!other) continue;
                Tie& tie = ties.emplace(*other, Tie{piece, *other, {}, {}, 0.0}).first->second;
                tie.edges.insert(e);
                tie.faces.insert(met.begin(), met.end());
                tie.length += lengthOf(m_topology.edge(e));
            }
        std::vector<Tie> all;
        for (auto& [other, tie] : ties) all.push_back(std::move(tie));
        return all;
    }

private:
    const Part& m_sheet;
    const Incidence& m_topology;
    std::map<int, int> m_bodies;
    Progress& m_progress;
    std::unique_ptr<RayField> m_skin;  // of the solid
    std::vector<int> m_pieceOf;        // by face
    std::vector<std::vector<int>> m_faces;

    [[nodiscard]] int bodyOf(int face) const {
        const auto known = m_bodies.find(face);
        return known != m_bodies.end() ? known->second : -1;
    }
    [[nodiscard]] double thicknessOf(int face) const {
        const auto known = m_sheet.known.thickness.find({EntityKind::Face, face});
        return known != m_sheet.known.thickness.end() ? known->second.at : 0.0;
    }
    /// How much of the way between two points leads out of the body [mm].
    [[nodiscard]] double airOnTheWay(const gp_Pnt& from, const gp_Pnt& to) const {
        const double distance = from.Distance(to), least = m_skin->skin();
        if (distance <= 2.0 * least) return 0.0;
        const gp_Dir along(gp_Vec(from, to));
        double air = 0.0, leftAt = -1.0;
        for (double done = least; done < distance - least;) {
            const auto hit = m_skin->first(from, along, done, distance - least);
            if (!hit) break;
            const bool leaves = hit->normal.Dot(gp_Vec(along)) > 0.0;
            if (!leaves) air += hit->distance - std::max(leftAt, 0.0);
            leftAt = leaves ? hit->distance : -1.0;
            done = hit->distance + least;
        }
        return air + (leftAt < 0.0 ? 0.0 : distance - leftAt);
    }
    /// The one piece that all of an edge has within reach.
    [[nodiscard]] std::optional<int> reachedFrom(int face, int edge, const RayField& field,
                                                 const std::vector<int>& faces, std::set<int>& met) const {
        const BRepAdaptor_Curve curve(m_topology.edge(edge));
        std::optional<int> reached;
        for (const double share : {0.03, 0.27, 0.5, 0.73, 0.97}) {
            const gp_Pnt from =
                curve.Value(curve.FirstParameter() + share * (curve.LastParameter() - curve.FirstParameter()));
            const auto hit = field.nearest(from);
            if (!hit) return std::nullopt;
            const int other = faces[hit->occurrence];
            if (hit->distance > slant * 0.5 * (thicknessOf(face) + thicknessOf(other))) return std::nullopt;
            if (airOnTheWay(from, hit->at) > airAllowed * hit->distance) return std::nullopt;
            if (reached && *reached != pieceOf(other)) return std::nullopt;
            reached = pieceOf(other);
            met.insert(other);
        }
        return reached;
    }
};

/// Of the bodies of a part that has become sheets: by face of the sheets.
std::map<int, int> bodiesBehind(const Outcome& outcome, const Part& solid, std::size_t part) {
    std::map<int, int> bodies;
    for (const PartLineage& own : outcome.lineage) {
        if (own.part != part || (own.into != PartLineage::samePlace && own.into != part)) continue;
        for (const Link& link : own.faces())
            if (link.before > 0 && link.after > 0) bodies[link.after] = solid.incidence().bodyOf(link.before);
    }
    return bodies;
}

/// Pieces of a place that end in one and the same other place hang together over it.
void joinOverOthers(const Model& model, std::size_t place, const Pieces& pieces, Sets& sets) {
    const Incidence& topology = model.parts[model.occurrences[place].part]->incidence();
    std::map<PlaceId, int> firstAt;
    for (const Joint& joint : model.joints) {
        if (joint.kind != EntityKind::Edge && joint.kind != EntityKind::Face) continue;
        for (const JointUse& own : joint.uses) {
            if (own.place != model.occurrences[place].id) continue;
            const int face = joint.kind == EntityKind::Face ? own.number : topology.usesOf(own.number).front().face;
            for (const JointUse& other : joint.uses) {
                if (other.place == own.place) continue;
                const int piece = pieces.pieceOf(face);
                sets.join(firstAt.emplace(other.place, piece).first->second, piece);
            }
        }
    }
}

void addLink(Outcome& outcome, std::size_t place, const Tie& tie) {
    Model& model = outcome.model;
    const Occurrence& own = model.occurrences[place];
    const std::string name = placeName(model, place);
    Pairing link;
    const auto taken = [&](const std::string& wanted) {
        return std::any_of(model.pairings.begin(), model.pairings.end(),
                           [&](const Pairing& pairing) { return pairing.name == wanted; });
    };
    for (int k = 1; link.name.empty() || taken(link.name); ++k) link.name = fmt::format("{} holds piece {}", name, k);
    link.kind = PairingKind::Link;
    link.behaviour = "rigid";
    const auto side = [&](const char* what, EntityKind kind, const std::set<int>& numbers) {
        Group group{fmt::format("{}, {}", link.name, what), "link", std::nullopt, {}, std::nullopt};
        for (const int number : numbers) group.members.insert({model.parts[own.part]->id, own.id, {kind, number}});
        const std::string groupName = group.name;
        putByName(model.groups, std::move(group));
        return groupName;
    };
    link.first = side("edge", EntityKind::Edge, tie.edges);
    link.second = side("held by", EntityKind::Face, tie.faces);
    putByName(model.pairings, std::move(link));
    outcome.notes.push_back(fmt::format(
        "A piece of \"{}\" shares no edge with the rest of it: a link ties {} mm of its edge to the wall beside it.",
        name, readable(tie.length, 2)));
}

}  // namespace

Result<void> tieLoosePieces(const Model& before, Outcome& outcome, Progress& progress) {
    Model& model = outcome.model;
    model.giveIds();
    std::map<std::size_t, std::unique_ptr<Pieces>> known;  // by part
    std::map<std::size_t, std::vector<Tie>> tiesOf;
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        const std::size_t p = model.occurrences[o].part;
        if (p >= before.parts.size() || before.parts[p]->kind() != BodyKind::Solid ||
            model.parts[p]->kind() != BodyKind::Sheet)
            continue;
        auto& pieces = known[p];
        if (!pieces)
            pieces = std::make_unique<Pieces>(*before.parts[p], *model.parts[p],
                                              bodiesBehind(outcome, *before.parts[p], p), progress);
        if (pieces->count() < 2 || pieces->count() > mostPieces) continue;
        if (!tiesOf.contains(p)) {
            std::vector<Tie>& all = tiesOf[p];
            for (std::size_t piece = 0; piece < pieces->count(); ++piece) {
                if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
                for (Tie& tie : pieces->tiesOf(static_cast<int>(piece))) all.push_back(std::move(tie));
            }
            std::stable_sort(all.begin(), all.end(), [](const Tie& a, const Tie& b) { return a.length > b.length; });
        }
        Sets together(pieces->count());
        joinOverOthers(model, o, *pieces, together);
        for (const Tie& tie : tiesOf[p]) {
            if (together.root(tie.loose) == together.root(tie.other)) continue;
            together.join(tie.loose, tie.other);
            addLink(outcome, o, tie);
        }
    }
    return {};
}

}  // namespace rasoir::reduce
