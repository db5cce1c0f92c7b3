#include "model/lineage_builder.h"

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <map>
#include <set>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>

#include "common/tolerance.h"
#include "geometry/edge_probe.h"
#include "geometry/integrals.h"
#include "geometry/round_surface.h"

// Faces are said by the operation, or are the same objects. From them everything else follows downwards and upwards:
// edges from the pairs of faces they lie between, vertices from the edges that end at them, bodies from what they are
// made of. The geometry is asked only where the topology leaves a choice, and only about things that are not the same
// objects any more, so the cost follows what was changed.

namespace rasoir {
namespace {

using Pair = std::pair<int, int>;

Pair ordered(int a, int b) {
    return a < b ? Pair{a, b} : Pair{b, a};
}

/// The different faces at an edge, as pairs; an open edge or a seam is a pair of one face with itself.
std::vector<Pair> facePairs(const Incidence& topology, int edge) {
    std::vector<int> faces;
    for (const EdgeUse& use : topology.usesOf(edge)) faces.push_back(use.face);
    std::vector<Pair> pairs;
    if (faces.size() == 1) pairs.push_back({faces[0], faces[0]});
    for (std::size_t i = 0; i < faces.size(); ++i)
        for (std::size_t j = i + 1; j < faces.size(); ++j) pairs.push_back(ordered(faces[i], faces[j]));
    std::sort(pairs.begin(), pairs.end());
    pairs.erase(std::unique(pairs.begin(), pairs.end()), pairs.end());
    return pairs;
}

bool drawable(const TopoDS_Edge& edge) {
    double first = 0.0, last = 0.0;
    return !BRep_Tool::Degenerated(edge) && !BRep_Tool::Curve(edge, first, last).IsNull();
}

gp_Pnt middleOf(const TopoDS_Edge& edge) {
    const BRepAdaptor_Curve curve(edge);
    return curve.Value(0.5 * (curve.FirstParameter() + curve.LastParameter()));
}

/// How far two edges may lie apart and still be one: their own tolerances, and a share of their length, since a
/// healed edge is a new approximation of the old one.
double near(const TopoDS_Edge& a, const TopoDS_Edge& b, double length) {
    // Of the edge, since a vertex may have been moved within its tolerance.
    return 2.0 * (BRep_Tool::Tolerance(a) + BRep_Tool::Tolerance(b)) + 1e-4 * length;
}

}  // namespace

LineageBuilder::LineageBuilder(const Incidence& before, const TopoDS_Shape& after, const gp_Trsf& moved)
    : m_before(before), m_after(after), m_move(moved), m_moves(moved.Form() != gp_Identity) {}

void LineageBuilder::face(int before, const TopoDS_Shape& after, bool changed, bool reversed) {
    if (const int now = m_after.faceNumber(after); now > 0 && before > 0)
        m_lineage.of(EntityKind::Face).push_back({before, now, changed, reversed});
}

void LineageBuilder::edge(int before, const TopoDS_Shape& after, bool changed, bool reversed) {
    if (const int now = m_after.edgeNumber(after); now > 0 && before > 0)
        m_lineage.of(EntityKind::Edge).push_back({before, now, changed, reversed});
}

void LineageBuilder::vertex(int before, const TopoDS_Shape& after, bool changed) {
    if (const int now = m_after.vertexNumber(after); now > 0 && before > 0)
        m_lineage.of(EntityKind::Vertex).push_back({before, now, changed, false});
}

void LineageBuilder::sameNumbers(bool changed, bool reversed) {
    const std::array<int, 4> counts{m_before.bodyCount(), m_before.faceCount(), m_before.edgeCount(),
                                    m_before.vertexCount()};
    for (const EntityKind kind : entityKinds)
        for (int n = 1; n <= counts[static_cast<std::size_t>(kind)]; ++n)
            m_lineage.of(kind).push_back({n, n, changed, reversed && kind == EntityKind::Face});
}

void LineageBuilder::facesByPlace() {
    struct Look {
        SurfaceKind kind;
        Skin skin;
    };
    const auto look = [](const TopoDS_Face& face) { return Look{surfaceKind(face), skinOf(face)}; };
    std::vector<Look> now{{}};
    for (int f = 1; f <= m_after.faceCount(); ++f) now.push_back(look(m_after.face(f)));
    for (int f = 1; f <= m_before.faceCount(); ++f) {
        Look old = look(m_before.face(f));
        old.skin.centre.Transform(m_move);
        old.skin.area *= m_move.ScaleFactor() * m_move.ScaleFactor();
        int best = 0;
        double nearest = 0.05 * std::sqrt(old.skin.area);
        for (int g = 1; g <= m_after.faceCount(); ++g) {
            if (now[g].kind != old.kind || std::abs(now[g].skin.area - old.skin.area) > 0.02 * old.skin.area) continue;
            const double off = now[g].skin.centre.Distance(old.skin.centre);
            if (off < nearest) {
                nearest = off;
                best = g;
            }
        }
        if (best > 0) m_lineage.of(EntityKind::Face).push_back({f, best, true, false});
    }
}

void LineageBuilder::keptObjects() {
    const auto here = [this](const TopoDS_Shape& old) { return m_moves ? old.Moved(TopLoc_Location(m_move)) : old; };
    // An object that was linked already has been spoken of: the operation knows better.
    const auto spoken = [this](EntityKind kind) {
        std::set<int> before;
        for (const Link& link : m_lineage.of(kind)) before.insert(link.before);
        return before;
    };
    const bool mayMove =
        !m_moves || (!m_move.IsNegative() && std::abs(m_move.ScaleFactor() - 1.0) < Tolerance::rounding);
    if (!mayMove) return;
    const auto faces = spoken(EntityKind::Face), edges = spoken(EntityKind::Edge), points = spoken(EntityKind::Vertex);
    for (int f = 1; f <= m_before.faceCount(); ++f) {
        const TopoDS_Face old = m_before.face(f);
        const int now = m_after.faceNumber(here(old));
        if (now > 0 && !faces.contains(f))
            m_lineage.of(EntityKind::Face)
                .push_back({f, now, false, m_after.face(now).Orientation() != old.Orientation()});
    }
    for (int e = 1; e <= m_before.edgeCount(); ++e)
        if (const int now = m_after.edgeNumber(here(m_before.edge(e))); now > 0 && !edges.contains(e))
            m_lineage.of(EntityKind::Edge).push_back({e, now, false, false});
    for (int v = 1; v <= m_before.vertexCount(); ++v)
        if (const int now = m_after.vertexNumber(here(m_before.vertex(v))); now > 0 && !points.contains(v))
            m_lineage.of(EntityKind::Vertex).push_back({v, now, false, false});
}

void LineageBuilder::inferEdges() {
    const Descents faces(m_lineage.faces()), known(m_lineage.edges());
    std::map<Pair, std::vector<int>> oldBetween;
    for (int e = 1; e <= m_before.edgeCount(); ++e)
        if (known.heirsOf(e).empty() && drawable(m_before.edge(e)))
            for (const Pair& pair : facePairs(m_before, e)) oldBetween[pair].push_back(e);
    if (oldBetween.empty()) return;

    std::map<int, std::unique_ptr<EdgeProbe>> probes;
    const auto probe = [&](int old) -> const EdgeProbe& {
        auto& known1 = probes[old];
        if (!known1) {
            const TopoDS_Edge edge = m_before.edge(old);
            known1 =
                std::make_unique<EdgeProbe>(m_moves ? TopoDS::Edge(edge.Moved(TopLoc_Location(m_move), false)) : edge);
        }
        return *known1;
    };
    struct Doubt {
        int now;
        std::vector<int> candidates;
    };
    std::vector<Doubt> doubts;
    std::set<int> claimed;
    std::vector<Link> found;
    const auto link = [&](int old, int now) {
        const EdgeProbe& was = probe(old);
        const EdgeProbe is(m_after.edge(now));
        const double at = 0.5 * (is.first() + is.last());
        const auto foot = was.nearest(is.value(at));
        found.push_back({old, now, true, is.tangent(at).Dot(was.tangent(foot.parameter)) < 0.0});
        claimed.insert(old);
    };
    for (int e = 1; e <= m_after.edgeCount(); ++e) {
        if (!known.ancestorsOf(e).empty() || !drawable(m_after.edge(e))) continue;
        std::set<int> candidates;
        for (const Pair& pair : facePairs(m_after, e))
            for (const Link& one : faces.ancestorsOf(pair.first))
                for (const Link& two : faces.ancestorsOf(pair.second))
                    if (const auto it = oldBetween.find(ordered(one.before, two.before)); it != oldBetween.end())
                        candidates.insert(it->second.begin(), it->second.end());
        if (candidates.empty()) continue;
        const TopoDS_Edge now = m_after.edge(e);
        const EdgeProbe is(now);
        const gp_Pnt middle = middleOf(now);
        bool any = false;
        for (const int old : candidates) {
            const EdgeProbe& was = probe(old);
            const double allowed = near(now, m_before.edge(old), std::max(is.length(), was.length()));
            const gp_Pnt oldMiddle = was.value(0.5 * (was.first() + was.last()));
            if (was.nearest(middle).distance > allowed && is.nearest(oldMiddle).distance > allowed) continue;
            link(old, e);
            any = true;
        }
        if (!any) doubts.push_back({e, {candidates.begin(), candidates.end()}});
    }
    // The only old and the only new edge between the same faces are one that moved away.
    std::map<std::vector<int>, int> asked;
    for (Doubt& doubt : doubts) {
        std::erase_if(doubt.candidates, [&claimed](int old) { return claimed.contains(old); });
        ++asked[doubt.candidates];
    }
    for (const Doubt& doubt : doubts)
        if (doubt.candidates.size() == 1 && asked[doubt.candidates] == 1) link(doubt.candidates.front(), doubt.now);
    auto& all = m_lineage.of(EntityKind::Edge);
    all.insert(all.end(), found.begin(), found.end());
}

void LineageBuilder::inferVertices() {
    const Descents edges(m_lineage.edges()), known(m_lineage.of(EntityKind::Vertex));
    const auto ends = [](const Incidence& topology) {
        std::vector<std::set<int>> at(static_cast<std::size_t>(topology.vertexCount()) + 1);
        for (int e = 1; e <= topology.edgeCount(); ++e)
            for (TopExp_Explorer it(topology.edge(e), TopAbs_VERTEX); it.More(); it.Next())
                at[static_cast<std::size_t>(topology.vertexNumber(it.Current()))].insert(e);
        return at;
    };
    const auto oldAt = ends(m_before), nowAt = ends(m_after);
    std::map<int, std::vector<int>> oldOfEdge;
    for (int v = 1; v <= m_before.vertexCount(); ++v)
        if (known.heirsOf(v).empty())
            for (const int e : oldAt[v]) oldOfEdge[e].push_back(v);
    std::vector<Link> found;
    std::set<int> claimed;
    for (int v = 1; v <= m_after.vertexCount(); ++v) {
        if (!known.ancestorsOf(v).empty()) continue;
        std::map<int, int> shared;  // old vertex: how many edges say so
        for (const int e : nowAt[v])
            for (const Link& link : edges.ancestorsOf(e))
                if (const auto it = oldOfEdge.find(link.before); it != oldOfEdge.end())
                    for (const int old : it->second) ++shared[old];
        const TopoDS_Vertex now = TopoDS::Vertex(m_after.vertex(v));
        int same = 0, most = 0, count = 1;
        for (const auto& [old, votes] : shared) {
            const TopoDS_Vertex was = TopoDS::Vertex(m_before.vertex(old));
            const double allowed = 2.0 * (BRep_Tool::Tolerance(now) + BRep_Tool::Tolerance(was));
            if (BRep_Tool::Pnt(was).Transformed(m_move).Distance(BRep_Tool::Pnt(now)) <= allowed) same = old;
            if (votes > count && !claimed.contains(old)) {
                most = old;
                count = votes;
            }
        }
        const int old = same > 0 ? same : most;
        if (old == 0) continue;
        found.push_back({old, v, true, false});
        claimed.insert(old);
    }
    auto& all = m_lineage.of(EntityKind::Vertex);
    all.insert(all.end(), found.begin(), found.end());
}

void LineageBuilder::inferBodies() {
    const auto membership = [](const Incidence& topology) {
        std::array<std::vector<int>, 3> bodyOf;  // of faces, edges, vertices
        bodyOf[0].assign(static_cast<std::size_t>(topology.faceCount()) + 1, 0);
        bodyOf[1].assign(static_cast<std::size_t>(topology.edgeCount()) + 1, 0);
        bodyOf[2].assign(static_cast<std::size_t>(topology.vertexCount()) + 1, 0);
        for (int b = 1; b <= topology.bodyCount(); ++b) {
            for (TopExp_Explorer it(topology.body(b), TopAbs_FACE); it.More(); it.Next())
                bodyOf[0][static_cast<std::size_t>(topology.faceNumber(it.Current()))] = b;
            for (TopExp_Explorer it(topology.body(b), TopAbs_EDGE, TopAbs_FACE); it.More(); it.Next())
                bodyOf[1][static_cast<std::size_t>(topology.edgeNumber(it.Current()))] = b;
            for (TopExp_Explorer it(topology.body(b), TopAbs_VERTEX, TopAbs_EDGE); it.More(); it.Next())
                bodyOf[2][static_cast<std::size_t>(topology.vertexNumber(it.Current()))] = b;
        }
        return bodyOf;
    };
    const auto was = membership(m_before), is = membership(m_after);
    std::map<Pair, bool> pairs;
    const std::array<EntityKind, 3> kinds{EntityKind::Face, EntityKind::Edge, EntityKind::Vertex};
    for (std::size_t k = 0; k < 3; ++k)
        for (const Link& link : m_lineage.of(kinds[k])) {
            const int old = was[k][static_cast<std::size_t>(link.before)];
            const int now = is[k][static_cast<std::size_t>(link.after)];
            if (old > 0 && now > 0) pairs.emplace(Pair{old, now}, true);
        }
    for (const auto& [pair, related] : pairs) {
        const TopoDS_Shape old = m_before.body(pair.first), now = m_after.body(pair.second);
        const bool same = (m_moves ? old.Moved(TopLoc_Location(m_move), false) : old).IsSame(now);
        m_lineage.of(EntityKind::Body).push_back({pair.first, pair.second, !same, false});
    }
}

PartLineage LineageBuilder::finish() {
    if (!m_lineage.of(EntityKind::Body).empty()) return std::move(m_lineage);  // sameNumbers has said all
    keptObjects();
    inferEdges();
    inferVertices();
    inferBodies();
    for (auto& links : m_lineage.links) std::sort(links.begin(), links.end());
    return std::move(m_lineage);
}

PartLineage sameNumbering(const Incidence& before, bool reversed) {
    LineageBuilder builder(before, TopoDS_Shape());
    builder.sameNumbers(true, reversed);
    return builder.finish();
}

}  // namespace rasoir
