#include <IntCurveSurface_HInter.hxx>
#include <IntCurveSurface_IntersectionPoint.hxx>

#include "arrange/builder.h"
#include "arrange/crossings.h"
#include "arrange/piercings.h"

// Topology leads: before any two surfaces are intersected, it is known where vertices lie on edges, where edges cross
// edges, and where edges pierce faces. Each such place becomes a node, shared by all that meet there, and a pave on the
// edges that pass through it. A place within reach of a node that is known already is that node; so the same question,
// asked of a vertex, of its edge and of its face, gets one answer.

namespace rasoir::arrange {
namespace {

/// Edges of two face records that may touch, each pair once.
std::vector<std::pair<int, int>> closeEdges(const Catalogue& catalogue) {
    std::set<std::pair<int, int>> found;
    for (const auto& [a, b] : catalogue.pairs)
        for (const int e : catalogue.faces[a].edges)
            for (const int f : catalogue.faces[b].edges) {
                if (catalogue.edges[e].curve.IsNull() || catalogue.edges[f].curve.IsNull()) continue;
                Bnd_Box near = catalogue.edges[e].box;
                near.Enlarge(catalogue.tolerance() + catalogue.edges[e].tolerance + catalogue.edges[f].tolerance);
                if (!near.IsOut(catalogue.edges[f].box)) found.emplace(e, f);
            }
    return {found.begin(), found.end()};
}

/// Parameters within an edge at which it goes through, or touches, the surface near a face; none if they could not be
/// found.
std::optional<std::vector<double>> piercingsOf(const EdgeRecord& edge, const FaceRecord& face, double reach) {
    if (auto places = piercingsOfTorus(edge.curve, edge.first, edge.last, face.adaptor, reach)) return places;
    // A little more than the edge, so that a piercing at its end is seen; it is the end's own node then.
    const double more = 1e-9 * (edge.last - edge.first);
    const Handle(GeomAdaptor_Curve) curve = new GeomAdaptor_Curve(edge.curve, edge.first - more, edge.last + more);
    Handle(GeomAdaptor_Surface) surface;
    if (elementaryParameters(face.adaptor, gp_Pnt())) {
        surface = new GeomAdaptor_Surface(face.surface);
    } else {
        double low[2], high[2], first[2], last[2];
        face.surface->Bounds(first[0], last[0], first[1], last[1]);
        for (const int way : {0, 1}) {
            const double margin = 0.01 * (face.high[way] - face.low[way]);
            low[way] = face.low[way] - margin;
            high[way] = face.high[way] + margin;
            if (face.period[way] <= 0.0) {
                low[way] = std::max(low[way], first[way]);
                high[way] = std::min(high[way], last[way]);
            }
        }
        surface = new GeomAdaptor_Surface(face.surface, low[0], high[0], low[1], high[1]);
    }
    IntCurveSurface_HInter inter;
    inter.Perform(curve, surface);
    if (!inter.IsDone()) return std::nullopt;
    std::vector<double> places;
    for (int i = 1; i <= inter.NbPoints(); ++i) places.push_back(std::clamp(inter.Point(i).W(), edge.first, edge.last));
    return places;
}

}  // namespace

bool Builder::addPave(EdgeRecord& edge, const gp_Pnt& point, double at, double tolerance, int* made) {
    // Where curves cross at a small angle, the place is known less well than their distance: a node that is a few
    // tolerances away is meant. And a place on an edge is known no better than the edge: the faces at it meet what
    // crosses it each in a place of their own.
    const int node =
        m_catalogue.nodeAt(point, std::max(tolerance, 4.0 * m_tolerance), std::max(tolerance, edge.tolerance));
    if (made != nullptr) *made = node;
    if (node == edge.from || node == edge.to) return false;
    for (const Pave& pave : edge.paves)
        if (pave.node == node) return false;
    edge.paves.push_back({at, node});
    return true;
}

void Builder::verticesOnEdges() {
    std::set<std::pair<int, int>> asked;
    for (const auto& [e, f] : closeEdges(m_catalogue))
        for (const auto& [with, on] : {std::pair{e, f}, {f, e}})
            for (const int node : {m_catalogue.edges[with].from, m_catalogue.edges[with].to}) {
                EdgeRecord& edge = m_catalogue.edges[on];
                if (node < 0 || node == edge.from || node == edge.to || !asked.insert({node, on}).second) continue;
                const double reach = m_catalogue.reach(node, edge.tolerance);
                Bnd_Box near = edge.box;
                near.Enlarge(reach);
                if (near.IsOut(m_all.nodes[node].point)) continue;
                const auto foot = m_catalogue.probe(edge).nearest(m_all.nodes[node].point);
                if (foot.distance > reach) continue;
                m_all.nodes[node].tolerance = std::max(m_all.nodes[node].tolerance, foot.distance);
                edge.paves.push_back({foot.parameter, node});
            }
}

void Builder::edgesAcrossEdges() {
    for (const auto& [e, f] : closeEdges(m_catalogue)) {
        EdgeRecord &one = m_catalogue.edges[e], &two = m_catalogue.edges[f];
        const double reach = m_tolerance + one.tolerance + two.tolerance;
        const GeomAdaptor_Curve a(one.curve, one.first, one.last), b(two.curve, two.first, two.last);
        for (const auto& [s, t] : crossingsOf(a, b, reach)) {
            const gp_Pnt p = a.Value(s), q = b.Value(t);
            const gp_Pnt middle(0.5 * (p.XYZ() + q.XYZ()));
            const double off = 0.5 * p.Distance(q);
            addPave(one, middle, s, off);
            addPave(two, middle, t, off);
        }
    }
}

Result<void> Builder::edgesThroughFaces(Progress& progress) {
    std::set<std::pair<int, int>> asked;  // edge, face
    m_facesAtEdge.resize(m_catalogue.edges.size());
    for (const auto& [a, b] : m_catalogue.pairs) {
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        for (const auto& [with, through] : {std::pair{a, b}, {b, a}})
            for (const int e : m_catalogue.faces[with].edges) {
                EdgeRecord& edge = m_catalogue.edges[e];
                FaceRecord& face = m_catalogue.faces[through];
                if (edge.curve.IsNull() || !asked.insert({e, through}).second) continue;
                const double reach = m_tolerance + edge.tolerance + face.tolerance;
                Bnd_Box near = edge.box;
                near.Enlarge(reach);
                if (near.IsOut(face.box)) continue;
                m_facesAtEdge[e].push_back(through);
                // An edge that runs along the surface does not pierce it; whether it lies in the face is asked later.
                bool along = true;
                for (const double share : {0.05, 0.35, 0.65, 0.95}) {
                    gp_Pnt2d uv;
                    const auto off = m_catalogue.offSurface(
                        face, edge.curve->Value(edge.first + share * (edge.last - edge.first)), uv);
                    along = along && off && *off <= reach;
                }
                if (along) continue;
                const auto places = piercingsOf(edge, face, reach);
                if (!places)
                    return m_catalogue.refuse("Where an edge pierces a face could not be found", with, through,
                                              edge.curve->Value(edge.first));
                for (const double at : *places) {
                    const gp_Pnt point = edge.curve->Value(at);
                    if (m_catalogue.locate(face, point, edge.tolerance) == Where::Out) continue;
                    int node = -1;
                    addPave(edge, point, at, 0.0, &node);
                    // On the face's boundary: that edge is met there too, though the search among edges missed it.
                    for (const int other : face.edges) {
                        EdgeRecord& rim = m_catalogue.edges[other];
                        Bnd_Box box = rim.box;
                        box.Enlarge(m_catalogue.reach(node, rim.tolerance));
                        if (rim.curve.IsNull() || rim.from == node || rim.to == node || box.IsOut(point)) continue;
                        const auto foot = m_catalogue.probe(rim).nearest(point);
                        if (foot.distance <= m_catalogue.reach(node, rim.tolerance) &&
                            std::none_of(rim.paves.begin(), rim.paves.end(),
                                         [node](const Pave& pave) { return pave.node == node; }))
                            rim.paves.push_back({foot.parameter, node});
                    }
                }
            }
    }
    return {};
}

}  // namespace rasoir::arrange
