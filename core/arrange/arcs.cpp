#include "arrange/builder.h"
#include "common/tolerance.h"

// Edges and sections, cut at their paves, become arcs. Arcs with the same ends and a common middle are one arc with
// several owners: that is how edges that lie on each other are found, without ever asking whether two curves are the
// same. Then each arc is offered to the faces of other inputs near it: those within which it lies are divided by it.

namespace rasoir::arrange {
namespace {

gp_Pnt middleOf(const Arc& arc) {
    return arc.curve->Value(0.5 * (arc.first + arc.last));
}

/// Whether a point lies on an arc, by its distance: Newton from the nearest of a few samples.
bool passesThrough(const Arc& arc, const gp_Pnt& point, double reach) {
    constexpr int count = 24;
    double best = 0.0, nearest = -1.0;
    for (int i = 0; i <= count; ++i) {
        const double t = arc.first + (arc.last - arc.first) * i / count;
        const double off = arc.curve->Value(t).SquareDistance(point);
        if (nearest < 0.0 || off < nearest) {
            nearest = off;
            best = t;
        }
    }
    for (int round = 0; round < 12; ++round) {
        gp_Pnt at;
        gp_Vec d1, d2;
        arc.curve->D2(best, at, d1, d2);
        const gp_Vec off(at, point);
        if (off.Magnitude() <= reach) return true;
        const double slope = d1.SquareMagnitude() - d2.Dot(off);
        if (std::abs(slope) < Tolerance::divisible) return false;
        best = std::clamp(best + off.Dot(d1) / slope, arc.first, arc.last);
    }
    return arc.curve->Value(best).Distance(point) <= reach;
}

}  // namespace

/// The arc, or the one that it is already, which then gets its owners. Returns its number.
int Builder::addArc(Arc arc) {
    for (const auto& [node, at] : {std::pair{arc.from, arc.first}, {arc.to, arc.last}}) {
        Node& end = m_all.nodes[node];
        end.tolerance = std::max(end.tolerance, 1.001 * end.point.Distance(arc.curve->Value(at)));
    }
    auto& between = m_arcsBetween[{std::min(arc.from, arc.to), std::max(arc.from, arc.to)}];
    for (const int known : between) {
        Arc& other = m_all.arcs[known];
        const double reach = m_tolerance + arc.tolerance + other.tolerance;
        // Two edges of one input stay two, however close.
        const bool kin = std::any_of(arc.owners.begin(), arc.owners.end(), [&other](const Owner& own) {
            return std::any_of(other.owners.begin(), other.owners.end(),
                               [&own](const Owner& one) { return one.input == own.input; });
        });
        const gp_Pnt middle = middleOf(arc);
        if (kin || !passesThrough(other, middle, reach) || !passesThrough(arc, middleOf(other), reach)) continue;
        gp_Pnt point;
        gp_Vec here, there;
        arc.curve->D1(0.5 * (arc.first + arc.last), point, here);
        double nearest = -1.0;
        for (int i = 0; i <= 32; ++i) {
            gp_Pnt at;
            gp_Vec along;
            other.curve->D1(other.first + (other.last - other.first) * i / 32, at, along);
            const double off = at.SquareDistance(middle);
            if (nearest >= 0.0 && off >= nearest) continue;
            nearest = off;
            there = along;
        }
        const bool against = arc.from == arc.to ? here.Dot(there) < 0.0 : arc.from != other.from;
        for (Owner own : arc.owners) {
            own.reversed = own.reversed != against;
            other.owners.push_back(own);
        }
        other.tolerance = std::max(other.tolerance, arc.tolerance);
        return known;
    }
    const int number = static_cast<int>(m_all.arcs.size());
    between.push_back(number);
    m_all.arcs.push_back(std::move(arc));
    return number;
}

void Builder::cutEdges() {
    for (std::size_t e = 0; e < m_catalogue.edges.size(); ++e) {
        EdgeRecord& edge = m_catalogue.edges[e];
        if (edge.curve.IsNull()) continue;
        std::sort(edge.paves.begin(), edge.paves.end(), [](const Pave& a, const Pave& b) { return a.at < b.at; });
        std::vector<Pave> stops{{edge.first, edge.from}};
        stops.insert(stops.end(), edge.paves.begin(), edge.paves.end());
        stops.push_back({edge.last, edge.to});
        for (std::size_t i = 0; i + 1 < stops.size(); ++i) {
            Arc arc;
            arc.curve = edge.curve;
            arc.first = stops[i].at;
            arc.last = stops[i + 1].at;
            arc.from = stops[i].node;
            arc.to = stops[i + 1].node;
            arc.tolerance = edge.tolerance;
            arc.owners = {{edge.input, edge.number, false}};
            arc.whole = stops.size() == 2;
            arc.edge = static_cast<int>(e);
            const int number = addArc(std::move(arc));
            edge.arcs.push_back(number);
            m_arcsOfEdge[{edge.input, edge.number}].push_back(number);
        }
    }
    for (Section& section : m_sections) {
        std::sort(section.paves.begin(), section.paves.end(), [](const Pave& a, const Pave& b) { return a.at < b.at; });
        std::vector<Pave> stops{{section.first, section.from}};
        stops.insert(stops.end(), section.paves.begin(), section.paves.end());
        stops.push_back({section.last, section.to});
        for (std::size_t i = 0; i + 1 < stops.size(); ++i) {
            Arc arc;
            arc.curve = section.curve;
            arc.first = stops[i].at;
            arc.last = stops[i + 1].at;
            arc.from = stops[i].node;
            arc.to = stops[i + 1].node;
            arc.tolerance = section.deviation;
            const int number = addArc(std::move(arc));
            m_catalogue.faces[section.faceA].lying.insert(number);
            m_catalogue.faces[section.faceB].lying.insert(number);
        }
    }
}

Result<void> Builder::layOnFaces() {
    // Faces in which an arc may lie: for edges those found when piercings were sought; for sections the faces that
    // have a pair with one of the two that made it.
    std::vector<std::set<int>> partners(m_catalogue.faces.size());
    for (const auto& [a, b] : m_catalogue.pairs) {
        partners[a].insert(b);
        partners[b].insert(a);
    }
    std::map<int, std::set<int>> candidates;  // arc: faces
    for (std::size_t e = 0; e < m_catalogue.edges.size(); ++e)
        for (const int arc : m_catalogue.edges[e].arcs)
            if (e < m_facesAtEdge.size()) candidates[arc].insert(m_facesAtEdge[e].begin(), m_facesAtEdge[e].end());
    for (std::size_t f = 0; f < m_catalogue.faces.size(); ++f)
        for (const int arc : m_catalogue.faces[f].lying) candidates[arc].insert(partners[f].begin(), partners[f].end());
    for (const auto& [number, faces] : candidates)
        for (const int f : faces) {
            FaceRecord& face = m_catalogue.faces[f];
            const Arc& arc = m_all.arcs[number];
            if (face.lying.contains(number)) continue;
            const bool own = std::any_of(arc.owners.begin(), arc.owners.end(), [&](const Owner& owner) {
                if (owner.input != face.input) return false;
                const auto edges = m_all.topology[face.input]->edgesOf(face.number);
                return std::find(edges.begin(), edges.end(), owner.number) != edges.end();
            });
            if (own) continue;
            bool lies = true;
            for (const double share : {0.5, 0.2, 0.8}) {
                const gp_Pnt point = arc.curve->Value(arc.first + share * (arc.last - arc.first));
                Bnd_Box near = face.box;
                near.Enlarge(m_tolerance + arc.tolerance);
                lies = lies && !near.IsOut(point) && m_catalogue.locate(face, point, arc.tolerance) == Where::In;
                if (!lies) break;
            }
            if (lies) face.lying.insert(number);
        }
    // Arcs of the boundary are not within.
    for (FaceRecord& face : m_catalogue.faces)
        for (const int e : face.edges)
            for (const int arc : m_catalogue.edges[e].arcs) face.lying.erase(arc);
    return {};
}

}  // namespace rasoir::arrange
