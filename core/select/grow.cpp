#include "select/grow.h"

#include <BRepAdaptor_Curve.hxx>
#include <deque>
#include <queue>
#include <TopExp.hxx>

#include "common/tolerance.h"
#include "geometry/round_surface.h"
#include "topology/edge_angle.h"

namespace rasoir::select {
namespace {

/// Floods over the faces: `passes` says whether an edge between two faces lets it through.
template <class Passes>
std::set<int> flooded(const Incidence& topology, const std::set<int>& start, Passes passes) {
    std::set<int> reached = start;
    std::deque<int> open(start.begin(), start.end());
    while (!open.empty()) {
        const int face = open.front();
        open.pop_front();
        for (const int edge : topology.edgesOf(face))
            for (const EdgeUse& use : topology.usesOf(edge))
                if (use.face != face && !reached.contains(use.face) && passes(edge, face, use.face)) {
                    reached.insert(use.face);
                    open.push_back(use.face);
                }
    }
    return reached;
}

bool isSmooth(const Incidence& topology, int edge, double sameNormal) {
    return edgeAngle(topology, edge, sameNormal).kind == EdgeKind::Smooth;
}

/// Edges at each vertex, made once for a walk.
std::map<int, std::vector<int>> edgesAtVertices(const Incidence& topology) {
    std::map<int, std::vector<int>> at;
    for (int e = 1; e <= topology.edgeCount(); ++e) {
        const TopoDS_Edge edge = topology.edge(e);
        if (BRep_Tool::Degenerated(edge)) continue;
        TopoDS_Vertex a, b;
        TopExp::Vertices(edge, a, b);
        const int first = a.IsNull() ? 0 : topology.vertexNumber(a), last = b.IsNull() ? 0 : topology.vertexNumber(b);
        if (first > 0) at[first].push_back(e);
        if (last > 0 && last != first) at[last].push_back(e);
    }
    return at;
}

/// The direction in which an edge leaves one of its vertices.
std::optional<gp_Dir> leaving(const Incidence& topology, int edge, int vertex, bool atEnd) {
    const TopoDS_Edge shape = TopoDS::Edge(topology.edge(edge).Oriented(TopAbs_FORWARD));
    TopoDS_Vertex first, last;
    TopExp::Vertices(shape, first, last);
    if (topology.vertexNumber(atEnd ? last : first) != vertex) return std::nullopt;
    const BRepAdaptor_Curve curve(shape);
    gp_Pnt point;
    gp_Vec along;
    curve.D1(atEnd ? curve.LastParameter() : curve.FirstParameter(), point, along);
    if (along.Magnitude() < Tolerance::noLength) return std::nullopt;
    return gp_Dir(atEnd ? along.Reversed() : along);
}

}  // namespace

std::set<int> tangentFaces(const Incidence& topology, const std::set<int>& faces, double sameNormal) {
    return flooded(topology, faces, [&](int edge, int, int) { return isSmooth(topology, edge, sameNormal); });
}

std::set<int> tangentEdges(const Incidence& topology, const std::set<int>& edges, double sameNormal) {
    const auto at = edgesAtVertices(topology);
    std::set<int> reached = edges;
    std::deque<int> open(edges.begin(), edges.end());
    while (!open.empty()) {
        const int edge = open.front();
        open.pop_front();
        TopoDS_Vertex ends[2];
        TopExp::Vertices(TopoDS::Edge(topology.edge(edge).Oriented(TopAbs_FORWARD)), ends[0], ends[1]);
        for (const bool atEnd : {false, true}) {
            if (ends[atEnd].IsNull()) continue;
            const int vertex = topology.vertexNumber(ends[atEnd]);
            const auto own = leaving(topology, edge, vertex, atEnd);
            const auto here = at.find(vertex);
            if (!own || here == at.end()) continue;
            std::vector<int> onward;
            for (const int other : here->second) {
                if (other == edge) continue;
                for (const bool otherEnd : {false, true})
                    if (const auto away = leaving(topology, other, vertex, otherEnd);
                        away && own->Angle(*away) > M_PI - sameNormal) {
                        onward.push_back(other);
                        break;
                    }
            }
            // Where several run on, none is the continuation.
            if (onward.size() == 1 && reached.insert(onward.front()).second) open.push_back(onward.front());
        }
    }
    return reached;
}

std::set<int> adjacentFaces(const Incidence& topology, const std::set<int>& faces) {
    std::set<int> all = faces;
    for (const int face : faces) {
        const auto neighbours = topology.neighboursOf(face);
        all.insert(neighbours.begin(), neighbours.end());
    }
    return all;
}

std::set<int> adjacentEdges(const Incidence& topology, const std::set<int>& edges) {
    const auto at = edgesAtVertices(topology);
    std::set<int> all = edges;
    for (const auto& [vertex, here] : at)
        if (std::any_of(here.begin(), here.end(), [&edges](int e) { return edges.contains(e); }))
            all.insert(here.begin(), here.end());
    return all;
}

std::set<int> shrunkFaces(const Incidence& topology, const std::set<int>& faces) {
    std::set<int> inner;
    for (const int face : faces) {
        const auto neighbours = topology.neighboursOf(face);
        if (std::all_of(neighbours.begin(), neighbours.end(), [&faces](int n) { return faces.contains(n); }))
            inner.insert(face);
    }
    return inner;
}

std::set<int> featureFaces(const Part& part, int face, const std::vector<survey::Hole>& holes) {
    for (const survey::Hole& hole : holes)
        if (std::binary_search(hole.faces.begin(), hole.faces.end(), face))
            return {hole.faces.begin(), hole.faces.end()};
    const Incidence& topology = part.incidence();
    const auto own = roundSurface(topology.face(face));
    std::map<int, std::optional<RoundSurface>> known;
    const auto roundOf = [&](int f) -> const std::optional<RoundSurface>& {
        const auto [it, fresh] = known.try_emplace(f);
        if (fresh) it->second = roundSurface(topology.face(f));
        return it->second;
    };
    // A round rolls along an edge: it meets its neighbours smoothly. Corner patches are balls, or rings, of the same
    // radius.
    if (own && own->kind != SurfaceKind::Cone) {
        bool blends = false;
        for (const int edge : topology.edgesOf(face)) {
            const auto uses = topology.usesOf(edge);
            if (uses.size() == 2 && uses[0].face != uses[1].face && isSmooth(topology, edge, 0.01)) {
                const int other = uses[0].face == face ? uses[1].face : uses[0].face;
                const auto& r = roundOf(other);
                blends = blends || !r || r->radius != own->radius;
            }
        }
        if (blends)
            return flooded(topology, {face}, [&](int edge, int, int to) {
                const auto& r = roundOf(to);
                // Of the radius: rounds of one chain, some of which may be fitted.
                return r && r->kind != SurfaceKind::Cone && std::abs(r->radius - own->radius) <= 1e-4 * own->radius &&
                       isSmooth(topology, edge, 0.01);
            });
    }
    return flooded(topology, {face}, [&](int, int, int to) {
        return sameSurface(topology.face(face), topology.face(to), Tolerance::sameSkin);
    });
}

std::set<int> loopOf(const Incidence& topology, int edge, int face) {
    const auto uses = topology.usesOf(edge);
    if (uses.size() == 1 && face == 0) {
        // Along the open edges, from vertex to vertex.
        const auto at = edgesAtVertices(topology);
        std::set<int> run{edge};
        std::deque<int> open{edge};
        while (!open.empty()) {
            TopoDS_Vertex ends[2];
            TopExp::Vertices(topology.edge(open.front()), ends[0], ends[1]);
            open.pop_front();
            for (const TopoDS_Vertex& end : ends) {
                const auto here = end.IsNull() ? at.end() : at.find(topology.vertexNumber(end));
                if (here == at.end()) continue;
                for (const int other : here->second)
                    if (topology.facesAt(other) == 1 && run.insert(other).second) open.push_back(other);
            }
        }
        return run;
    }
    std::set<int> best{edge};
    bool found = false;
    for (const EdgeUse& use : uses) {
        if (face != 0 && use.face != face) continue;
        for (TopExp_Explorer wire(topology.face(use.face), TopAbs_WIRE); wire.More(); wire.Next()) {
            std::set<int> loop;
            for (TopExp_Explorer it(wire.Current(), TopAbs_EDGE); it.More(); it.Next())
                if (!BRep_Tool::Degenerated(TopoDS::Edge(it.Current()))) loop.insert(topology.edgeNumber(it.Current()));
            if (loop.contains(edge) && (!found || loop.size() < best.size())) {
                best = std::move(loop);
                found = true;
            }
        }
    }
    return best;
}

std::set<int> insideBoundary(const Incidence& topology, const std::set<int>& boundaryFaces,
                             const std::set<int>& boundaryEdges, int seed) {
    return flooded(topology, {seed},
                   [&](int edge, int, int to) { return !boundaryFaces.contains(to) && !boundaryEdges.contains(edge); });
}

std::set<int> facesBetween(const Incidence& topology, int from, int to) {
    // Steps first, then how many of them go over a sharp edge.
    using Cost = std::pair<int, int>;
    std::map<int, Cost> cost{{from, {0, 0}}};
    std::map<int, int> cameFrom;
    using Entry = std::pair<Cost, int>;
    std::priority_queue<Entry, std::vector<Entry>, std::greater<>> open;
    open.push({{0, 0}, from});
    while (!open.empty()) {
        const auto [here, face] = open.top();
        open.pop();
        if (here > cost[face]) continue;
        if (face == to) break;
        for (const int edge : topology.edgesOf(face))
            for (const EdgeUse& use : topology.usesOf(edge)) {
                if (use.face == face) continue;
                const Cost next{here.first + 1, here.second + !isSmooth(topology, edge, 0.01)};
                const auto known = cost.find(use.face);
                if (known != cost.end() && known->second <= next) continue;
                cost[use.face] = next;
                cameFrom[use.face] = face;
                open.push({next, use.face});
            }
    }
    if (!cost.contains(to)) return {};
    std::set<int> way{to};
    for (int at = to; at != from; at = cameFrom.at(at)) way.insert(cameFrom.at(at));
    return way;
}

}  // namespace rasoir::select
