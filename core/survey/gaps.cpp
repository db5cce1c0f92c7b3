#include "survey/gaps.h"

#include <tbb/parallel_for.h>

#include <BRep_Tool.hxx>
#include <Geom2d_Curve.hxx>
#include <Geom_Surface.hxx>
#include <map>
#include <numeric>
#include <TopExp.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Iterator.hxx>
#include <unordered_map>

#include "common/tolerance.h"
#include "geometry/box_tree.h"

namespace rasoir::survey {
namespace {

struct Cut {
    double at = 0.0;
    int corner = -1;
    bool touches = false;  ///< lies on the edge, not merely near it
};

class Pairer {
public:
    Pairer(const Incidence& incidence, double upTo, double exact, const std::set<int>& without,
           const std::set<int>& collapsed, Progress& progress)
        : m_incidence(incidence),
          m_upTo(std::max(upTo, exact)),
          m_exact(exact),
          m_without(without),
          m_collapsed(collapsed),
          m_progress(progress) {}

    Result<Rims> run() {
        findOpenEdges();
        m_progress.report(0.1, "Looking for corners");
        joinCorners();
        if (m_progress.cancelled()) return cancelled();
        m_progress.report(0.4, "Laying open edges side by side");
        cutEdges();
        if (m_progress.cancelled()) return cancelled();
        pairPieces();
        if (m_progress.cancelled()) return cancelled();
        mendNeedlessCuts();
        return std::move(m_rims);
    }

private:
    static tl::unexpected<Problem> cancelled() { return fail(ProblemKind::Cancelled, "Stopped; nothing has changed."); }

    const Incidence& m_incidence;
    double m_upTo, m_exact;
    const std::set<int>&m_without, &m_collapsed;
    Progress& m_progress;
    Rims m_rims;
    std::vector<int> m_open;                        // edge numbers
    std::map<int, TopoDS_Vertex> m_vertexAt;        // ends of collapsed edges
    std::vector<std::array<int, 2>> m_ends;         // by edge number: vertices at first and last
    std::vector<std::vector<int>> m_edgesAtVertex;  // by vertex number: all edges, for what must not be swallowed
    std::vector<std::vector<int>> m_openAtCorner;
    std::vector<std::vector<Cut>> m_cuts;  // by place in m_open
    std::vector<char> m_touched;           // by piece: it begins at a corner that lies on the edge itself

    const EdgeProbe& probe(int edge) const { return *m_rims.probes[static_cast<std::size_t>(edge)]; }
    int corner(int vertex) const { return m_rims.cornerOf[static_cast<std::size_t>(vertex)]; }

    void findOpenEdges() {
        const auto edges = static_cast<std::size_t>(m_incidence.edgeCount()) + 1;
        m_rims.probes.resize(edges);
        m_ends.assign(edges, {0, 0});
        m_edgesAtVertex.resize(static_cast<std::size_t>(m_incidence.vertexCount()) + 1);
        for (int e = 1; e <= m_incidence.edgeCount(); ++e) {
            const TopoDS_Edge edge = TopoDS::Edge(m_incidence.edge(e).Oriented(TopAbs_FORWARD));
            if (BRep_Tool::Degenerated(edge)) continue;
            const TopoDS_Vertex from = TopExp::FirstVertex(edge), to = TopExp::LastVertex(edge);
            if (from.IsNull() || to.IsNull()) continue;
            m_ends[e] = {m_incidence.vertexNumber(from), m_incidence.vertexNumber(to)};
            if (m_collapsed.contains(e)) {
                for (const int v : m_ends[e]) m_vertexAt[v] = v == m_ends[e][0] ? from : to;
                continue;
            }
            m_edgesAtVertex[m_ends[e][0]].push_back(e);
            if (m_ends[e][1] != m_ends[e][0]) m_edgesAtVertex[m_ends[e][1]].push_back(e);
            if (m_incidence.facesAt(e) == 1 && !m_without.contains(m_incidence.usesOf(e).front().face))
                m_open.push_back(e);
        }
        tbb::parallel_for(std::size_t{0}, m_open.size(), [&](std::size_t i) {
            m_rims.probes[m_open[i]] = std::make_shared<EdgeProbe>(m_incidence.edge(m_open[i]));
        });
    }

    void joinCorners() {
        std::vector<int> vertices;
        for (const int e : m_open)
            for (const int v : m_ends[e]) vertices.push_back(v);
        for (const auto& [v, shape] : m_vertexAt) vertices.push_back(v);
        std::sort(vertices.begin(), vertices.end());
        vertices.erase(std::unique(vertices.begin(), vertices.end()), vertices.end());
        std::vector<gp_Pnt> points;
        for (const int v : vertices) points.push_back(BRep_Tool::Pnt(vertexOf(v)));
        const BoxTree tree(points);
        struct Pair {
            double distance;
            int a, b;
        };
        std::vector<Pair> pairs;
        constexpr std::size_t enough = 24;  // partners of one vertex; more only when the limit is far too wide
        for (std::size_t i = 0; i < vertices.size(); ++i)
            for (const std::size_t j : tree.nearest(points[i], enough, m_upTo))
                if (j > i)
                    if (const double distance = points[i].Distance(points[j]); distance <= m_upTo)
                        pairs.push_back({distance, static_cast<int>(i), static_cast<int>(j)});
        std::sort(pairs.begin(), pairs.end(), [](const Pair& a, const Pair& b) {
            return std::tie(a.distance, a.a, a.b) < std::tie(b.distance, b.a, b.b);
        });
        // Union by size, with the edges at each group kept, so that a group never takes in both ends of an edge.
        std::vector<int> parent(vertices.size());
        std::iota(parent.begin(), parent.end(), 0);
        std::vector<std::vector<int>> members(vertices.size());
        for (std::size_t i = 0; i < vertices.size(); ++i) members[i] = {static_cast<int>(i)};
        std::unordered_map<int, int> placeOf;
        for (std::size_t i = 0; i < vertices.size(); ++i) placeOf[vertices[i]] = static_cast<int>(i);
        const auto root = [&parent](int i) {
            while (parent[i] != i) i = parent[i] = parent[parent[i]];
            return i;
        };
        for (const int e : m_collapsed) {
            int a = root(placeOf.at(m_ends[e][0])), b = root(placeOf.at(m_ends[e][1]));
            if (a == b) continue;
            if (members[a].size() < members[b].size()) std::swap(a, b);
            parent[b] = a;
            members[a].insert(members[a].end(), members[b].begin(), members[b].end());
        }
        for (const Pair& pair : pairs) {
            int a = root(pair.a), b = root(pair.b);
            if (a == b) continue;
            if (members[a].size() < members[b].size()) std::swap(a, b);
            bool swallows = false;
            for (const int i : members[b]) {
                for (const int e : m_edgesAtVertex[vertices[i]]) {
                    const int other = m_ends[e][0] == vertices[i] ? m_ends[e][1] : m_ends[e][0];
                    if (other == vertices[i]) continue;
                    const auto place = placeOf.find(other);
                    if (place == placeOf.end() || root(place->second) != a) continue;
                    // Of a sheet that is rolled up the ends of its rims meet: they are long and close upon themselves.
                    const auto& own = m_rims.probes[static_cast<std::size_t>(e)];
                    const bool rolled =
                        own != nullptr && own->length() > 8.0 * m_upTo && !pinches(vertices[i], other, m_upTo);
                    swallows = swallows || !rolled;
                }
                if (pair.distance > m_exact)
                    for (const int j : members[a])
                        swallows = swallows || points[i].Distance(points[j]) > 2.0 * m_upTo ||
                                   pinches(vertices[i], vertices[j], points[i].Distance(points[j]));
                if (swallows) break;
            }
            if (swallows) continue;
            parent[b] = a;
            members[a].insert(members[a].end(), members[b].begin(), members[b].end());
        }
        m_rims.cornerOf.assign(static_cast<std::size_t>(m_incidence.vertexCount()) + 1, -1);
        for (std::size_t i = 0; i < vertices.size(); ++i) {
            if (root(static_cast<int>(i)) != static_cast<int>(i)) continue;
            Corner made;
            gp_XYZ sum(0, 0, 0);
            for (const int j : members[i]) {
                made.vertices.push_back(vertices[j]);
                sum += points[j].XYZ();
                m_rims.cornerOf[vertices[j]] = static_cast<int>(m_rims.corners.size());
            }
            made.point = gp_Pnt(sum / static_cast<double>(members[i].size()));
            for (const int j : members[i]) made.spread = std::max(made.spread, made.point.Distance(points[j]));
            m_rims.corners.push_back(std::move(made));
        }
        untwist();
        m_openAtCorner.resize(m_rims.corners.size());
        for (const int e : m_open)
            for (const int v : m_ends[e])
                if (auto& at = m_openAtCorner[corner(v)]; at.empty() || at.back() != e) at.push_back(e);
    }

    /// Two corners of one face that would become one: the face would lose what lies between them.
    [[nodiscard]] bool pinches(int v, int w, double distance) const {
        if (v == w || distance <= 2.0 * m_exact) return false;
        for (const int e : m_edgesAtVertex[v])
            for (const EdgeUse& use : m_incidence.usesOf(e))
                for (const int g : m_edgesAtVertex[w])
                    for (const EdgeUse& other : m_incidence.usesOf(g)) {
                        if (use.face != other.face) continue;
                        const Handle(Geom_Surface) surface = BRep_Tool::Surface(m_incidence.face(use.face));
                        if (!surface->IsUClosed() && !surface->IsVClosed())
                            return true;  // else they may be the two ends of its seam
                    }
        return false;
    }

    /// The nearest end is the wrong one where edges are shorter than the gap: an edge then lies alone, and one like it
    /// leads from the same corner to another one beside. Ends change their corners where that gives more edges a
    /// partner between the same two.
    void untwist() {
        std::map<std::pair<int, int>, std::vector<int>> between;
        const auto keyOf = [&](int e) {
            return std::pair<int, int>(std::minmax({corner(m_ends[e][0]), corner(m_ends[e][1])}));
        };
        for (const int e : m_open) between[keyOf(e)].push_back(e);
        const auto alike = [&](int e, int g) {
            return e != g && std::abs(probe(g).length() - probe(e).length()) <= 4.0 * m_upTo + 0.2 * probe(e).length();
        };
        const auto odd = [&](int e) { return between[keyOf(e)].size() % 2 == 1; };  // one of them stays alone
        const auto openAt = [&](int vertex) {
            std::vector<int> edges;
            for (const int e : m_edgesAtVertex[vertex])
                if (m_rims.probes[static_cast<std::size_t>(e)] != nullptr) edges.push_back(e);
            return edges;
        };
        const auto move = [&](int vertex, int to) {
            const std::vector<int> edges = openAt(vertex);
            for (const int e : edges) std::erase(between[keyOf(e)], e);
            std::erase(m_rims.corners[corner(vertex)].vertices, vertex);
            m_rims.corners[to].vertices.push_back(vertex);
            m_rims.cornerOf[vertex] = to;
            for (const int e : edges) between[keyOf(e)].push_back(e);
        };
        // How many edges at two corners stay alone; none may lose its length.
        const auto alone = [&](const std::vector<int>& vertices) {
            std::set<std::pair<int, int>> rows;
            for (const int v : vertices)
                for (const int e : openAt(v)) {
                    if (m_ends[e][0] != m_ends[e][1] && corner(m_ends[e][0]) == corner(m_ends[e][1]))
                        return std::numeric_limits<int>::max();
                    if (odd(e)) rows.insert(keyOf(e));
                }
            return static_cast<int>(rows.size());
        };
        std::set<int> changed;
        const auto settle = [&](int a, int b, int v, int w) {
            std::vector<int> all = m_rims.corners[a].vertices;
            all.insert(all.end(), m_rims.corners[b].vertices.begin(), m_rims.corners[b].vertices.end());
            if (all.size() > 32) return false;
            const auto leadsOver = [&](int x, int to) {  // one of its edges ends in the other corner
                for (const int e : openAt(x))
                    if (corner(m_ends[e][0] == x ? m_ends[e][1] : m_ends[e][0]) == to) return true;
                return false;
            };
            std::vector<int> allOfA, allOfB, bridgesA, bridgesB;
            for (const int x : m_rims.corners[a].vertices) (leadsOver(x, b) ? bridgesA : allOfA).push_back(x);
            for (const int x : m_rims.corners[b].vertices) (leadsOver(x, a) ? bridgesB : allOfB).push_back(x);
            std::vector<std::vector<int>> ways{{v}, {w}, {v, w}, allOfA, allOfB};
            for (const int x : bridgesA)  // the two ends of a short edge change places
                for (const int y : bridgesB)
                    for (const int e : openAt(x))
                        if (m_ends[e][0] == y || m_ends[e][1] == y) ways.push_back({x, y});
            const auto mayMove = [&](const std::vector<int>& way) {  // to where its like is within reach
                return std::all_of(way.begin(), way.end(), [&](int x) {
                    const gp_Pnt at = BRep_Tool::Pnt(vertexOf(x));
                    const auto& others = m_rims.corners[corner(x) == a ? b : a].vertices;
                    return std::any_of(others.begin(), others.end(),
                                       [&](int y) { return at.Distance(BRep_Tool::Pnt(vertexOf(y))) <= m_upTo; });
                });
            };
            std::erase_if(ways, [&](const auto& way) { return way.empty() || !mayMove(way); });
            int best = alone(all);
            const std::vector<int>* chosen = nullptr;
            const auto flip = [&](const std::vector<int>& way) {
                for (const int x : way) move(x, corner(x) == a ? b : a);
            };
            for (const auto& way : ways) {
                flip(way);
                if (const int now = alone(all); now < best) {
                    best = now;
                    chosen = &way;
                }
                flip(way);
            }
            if (chosen == nullptr) return false;
            flip(*chosen);
            changed.insert({a, b});
            return true;
        };
        std::map<int, std::vector<int>> aloneAt;
        for (const int e : m_open)
            if (odd(e))
                for (const int v : m_ends[e]) aloneAt[corner(v)].push_back(e);
        for (int round = 0; round < 3 && !aloneAt.empty(); ++round) {
            bool any = false;
            for (const auto& [shared, edges] : aloneAt) {
                if (edges.size() > 64) continue;
                for (std::size_t i = 0; i < edges.size(); ++i)
                    for (std::size_t j = i + 1; j < edges.size(); ++j) {
                        const int e = edges[i], g = edges[j];
                        if (!alike(e, g) || !odd(e) || !odd(g)) continue;
                        const auto far = [&](int edge) {
                            return corner(m_ends[edge][0]) == shared ? m_ends[edge][1] : m_ends[edge][0];
                        };
                        const int v = far(e), w = far(g);
                        const int a = corner(v), b = corner(w);
                        if (a == b || a == shared || b == shared ||
                            m_rims.corners[a].point.Distance(m_rims.corners[b].point) > 2.0 * m_upTo)
                            continue;
                        any = settle(a, b, v, w) || any;
                    }
            }
            if (!any) break;
        }
        for (const int c : changed) {
            Corner& made = m_rims.corners[c];
            if (made.vertices.empty()) continue;
            gp_XYZ sum(0, 0, 0);
            for (const int v : made.vertices) sum += BRep_Tool::Pnt(vertexOf(v)).XYZ();
            made.point = gp_Pnt(sum / static_cast<double>(made.vertices.size()));
            made.spread = 0.0;
            for (const int v : made.vertices)
                made.spread = std::max(made.spread, made.point.Distance(BRep_Tool::Pnt(vertexOf(v))));
        }
    }
    TopoDS_Vertex vertexOf(int number) const {
        if (const auto own = m_vertexAt.find(number); own != m_vertexAt.end()) return own->second;
        const int e = m_edgesAtVertex[number].front();
        const TopoDS_Edge edge = TopoDS::Edge(m_incidence.edge(e).Oriented(TopAbs_FORWARD));
        return m_ends[e][0] == number ? TopExp::FirstVertex(edge) : TopExp::LastVertex(edge);
    }

    [[nodiscard]] bool ofFace(const Corner& where, int face) const {
        for (const int v : where.vertices)
            for (const int e : m_edgesAtVertex[v])
                for (const EdgeUse& use : m_incidence.usesOf(e))
                    if (use.face == face) return true;
        return false;
    }

    /// One of the edges at the corner sets off along `edge`, not merely touches it.
    bool runsAlong(int edge, int cornerNumber, double at) const {
        const EdgeProbe& along = probe(edge);
        for (const int other : m_openAtCorner[cornerNumber]) {
            if (other == edge) continue;
            const EdgeProbe& beside = probe(other);
            const double reach = std::min(
                {0.25 * beside.length(), 0.25 * along.length(), std::max(8.0 * m_upTo, 0.02 * along.length())});
            for (const bool start : {true, false}) {
                if (corner(m_ends[other][start ? 0 : 1]) != cornerNumber) continue;
                const double share = reach / std::max(beside.length(), Tolerance::noLength);
                const double range = beside.last() - beside.first();
                const gp_Pnt point =
                    beside.value(start ? beside.first() + share * range : beside.last() - share * range);
                const EdgeProbe::Near near = along.nearest(point);
                if (near.distance <= m_upTo && along.value(near.parameter).Distance(along.value(at)) > 0.3 * reach)
                    return true;
            }
        }
        return false;
    }

    void cutEdges() {
        std::vector<gp_Pnt> corners;
        for (const Corner& corner : m_rims.corners) corners.push_back(corner.point);
        const BoxTree tree(corners);
        m_cuts.resize(m_open.size());
        tbb::parallel_for(std::size_t{0}, m_open.size(), [&](std::size_t i) {
            const int e = m_open[i];
            const EdgeProbe& curve = probe(e);
            const int from = corner(m_ends[e][0]), to = corner(m_ends[e][1]);
            std::vector<Cut>& cuts = m_cuts[i];
            for (const std::size_t near : tree.near(curve.box(), m_upTo)) {
                const int c = static_cast<int>(near);
                if (c == from || c == to) continue;
                const Corner& here = m_rims.corners[c];
                const EdgeProbe::Near foot = curve.nearest(here.point);
                if (foot.distance > m_upTo || foot.parameter <= curve.first() || foot.parameter >= curve.last())
                    continue;
                const gp_Pnt on = curve.value(foot.parameter);
                // One that lies on the edge itself is no gap away from its ends, however close to them.
                const bool touches = foot.distance <= 2.0 * m_exact && here.spread <= 2.0 * m_exact;
                // Of the edge: no gap is looked for that is as wide as the edge is long.
                const double apart = touches ? 10.0 * m_exact : std::max(m_upTo, 1e-3 * std::min(curve.length(), 1.0));
                if (on.Distance(curve.value(curve.first())) <= std::min(apart, 0.1 * curve.length()) ||
                    on.Distance(curve.value(curve.last())) <= std::min(apart, 0.1 * curve.length()))
                    continue;
                // Cut at another corner of its own face it would pinch off what lies between.
                if (!touches && ofFace(here, m_incidence.usesOf(e).front().face)) continue;
                // An edge that passes exactly through a corner runs past it: where two faces run over each other
                // nothing else tells the place.
                if (touches || runsAlong(e, c, foot.parameter)) cuts.push_back({foot.parameter, c, touches});
            }
            std::sort(cuts.begin(), cuts.end(), [](const Cut& a, const Cut& b) { return a.at < b.at; });
            // Two corners at one place of the edge that could not become one: the first serves.
            std::size_t kept = 0;
            for (std::size_t k = 0; k < cuts.size(); ++k)
                if (kept == 0 ||
                    curve.value(cuts[k].at).Distance(curve.value(cuts[kept - 1].at)) >
                        (cuts[k].touches && cuts[kept - 1].touches ? 10.0 * m_exact
                                                                   : std::min(m_upTo, 0.05 * curve.length())))
                    cuts[kept++] = cuts[k];
            cuts.resize(kept);
        });
        for (std::size_t i = 0; i < m_open.size(); ++i) {
            const int e = m_open[i];
            double at = probe(e).first();
            int from = corner(m_ends[e][0]);
            bool touched = false;
            m_cuts[i].push_back({probe(e).last(), corner(m_ends[e][1])});
            for (const Cut& cut : m_cuts[i]) {
                RimPiece piece;
                piece.edge = e;
                piece.face = m_incidence.usesOf(e).front().face;
                piece.first = at;
                piece.last = cut.at;
                piece.from = from;
                piece.to = cut.corner;
                piece.length = probe(e).length(at, cut.at);
                m_rims.pieces.push_back(piece);
                m_touched.push_back(touched);
                touched = cut.touches;
                at = cut.at;
                from = cut.corner;
            }
        }
    }

    struct Candidate {
        int a = -1, b = -1;
        double least = 0.0, mean = 0.0, most = 0.0;
        bool against = false;  // the curves run opposite ways
        bool agrees = false;   // the faces' own directions suit each other
        double rank = 0.0;
    };

    void pairPieces() {
        std::map<std::pair<int, int>, std::vector<int>> byEnds;
        for (std::size_t p = 0; p < m_rims.pieces.size(); ++p) {
            const RimPiece& piece = m_rims.pieces[p];
            byEnds[std::minmax(piece.from, piece.to)].push_back(static_cast<int>(p));
        }
        std::vector<const std::vector<int>*> groups;
        for (const auto& [ends, group] : byEnds)
            if (group.size() > 1) groups.push_back(&group);
        std::vector<std::vector<Candidate>> found(groups.size());
        tbb::parallel_for(std::size_t{0}, groups.size(), [&](std::size_t g) {
            const std::vector<int>& group = *groups[g];
            if (group.size() > 64 || m_progress.cancelled()) return;  // a heap of edges on one spot says nothing
            for (std::size_t i = 0; i < group.size(); ++i)
                for (std::size_t j = i + 1; j < group.size(); ++j)
                    if (auto candidate = compare(group[i], group[j])) found[g].push_back(*candidate);
        });
        std::vector<Candidate> all;
        for (const auto& some : found) all.insert(all.end(), some.begin(), some.end());
        std::sort(all.begin(), all.end(), [](const Candidate& x, const Candidate& y) {
            return std::tie(x.rank, x.a, x.b) < std::tie(y.rank, y.a, y.b);
        });
        for (const Candidate& candidate : all) {
            RimPiece &a = m_rims.pieces[candidate.a], &b = m_rims.pieces[candidate.b];
            if (a.partner >= 0 || b.partner >= 0) continue;
            a.partner = candidate.b;
            b.partner = candidate.a;
            for (RimPiece* piece : {&a, &b}) {
                piece->against = candidate.against;
                piece->least = candidate.least;
                piece->mean = candidate.mean;
                piece->most = candidate.most;
            }
        }
    }

    /// Two pieces of one face's boundary become one only where its surface closes upon itself: about a period apart.
    [[nodiscard]] bool areSeam(const RimPiece& a, const RimPiece& b) const {
        const TopoDS_Face face = TopoDS::Face(m_incidence.face(a.face).Oriented(TopAbs_FORWARD));
        const Handle(Geom_Surface) surface = BRep_Tool::Surface(face);
        const bool u = surface->IsUClosed(), v = surface->IsVClosed();
        if (!u && !v) return false;
        double u0 = 0.0, u1 = 0.0, v0 = 0.0, v1 = 0.0;
        surface->Bounds(u0, u1, v0, v1);
        std::array<gp_Pnt2d, 2> at;
        for (const int side : {0, 1}) {
            const RimPiece& own = side == 0 ? a : b;
            double first = 0.0, last = 0.0;
            const Handle(Geom2d_Curve) trace = BRep_Tool::CurveOnSurface(
                TopoDS::Edge(m_incidence.edge(own.edge).Oriented(TopAbs_FORWARD)), face, first, last);
            if (trace.IsNull()) return true;
            at[side] = trace->Value(0.5 * (own.first + own.last));
        }
        return (u && std::abs(at[0].X() - at[1].X()) > 0.5 * (u1 - u0)) ||
               (v && std::abs(at[0].Y() - at[1].Y()) > 0.5 * (v1 - v0));
    }

    std::optional<Candidate> compare(int p, int q) const {
        const RimPiece &a = m_rims.pieces[p], &b = m_rims.pieces[q];
        if (a.edge == b.edge || (a.face == b.face && !areSeam(a, b))) return std::nullopt;
        if (a.length > 0.0 && b.length > 0.0 &&
            std::abs(a.length - b.length) > 4.0 * m_upTo + 0.2 * std::max(a.length, b.length))
            return std::nullopt;
        const EdgeProbe &curveA = probe(a.edge), &curveB = probe(b.edge);
        Candidate candidate{p, q};
        const int samples = curveA.isLine() && curveB.isLine() ? 3 : 9;
        double sum = 0.0;
        candidate.least = std::numeric_limits<double>::max();
        std::array<double, 2> feet{};
        for (const bool swapped : {false, true}) {
            const EdgeProbe &on = swapped ? curveB : curveA, &to = swapped ? curveA : curveB;
            const RimPiece &own = swapped ? b : a, &other = swapped ? a : b;
            for (int i = 0; i < samples; ++i) {
                const double share = (i + 0.5) / samples;
                const EdgeProbe::Near near =
                    to.nearest(on.value(own.first + share * (own.last - own.first)), other.first, other.last);
                if (near.distance > m_upTo) return std::nullopt;
                candidate.most = std::max(candidate.most, near.distance);
                candidate.least = std::min(candidate.least, near.distance);
                sum += near.distance;
                if (!swapped && i == 0) feet[0] = near.parameter;
                if (!swapped && i + 1 == samples) feet[1] = near.parameter;
            }
        }
        candidate.mean = sum / (2.0 * samples);
        candidate.against = feet[1] < feet[0];
        if (a.from == a.to && a.from == b.from) {  // closed all round: the feet may have wrapped; the tangents tell
            const double at = 0.5 * (a.first + a.last);
            const EdgeProbe::Near near = curveB.nearest(curveA.value(at), b.first, b.last);
            candidate.against = curveA.tangent(at).Dot(curveB.tangent(near.parameter)) < 0.0;
        } else if (a.from != a.to) {  // of edges shorter than the gap the feet tell nothing; their corners do
            candidate.against = a.from == b.to;
        }
        const bool forwardA = m_incidence.usesOf(a.edge).front().forward,
                   forwardB = m_incidence.usesOf(b.edge).front().forward;
        candidate.agrees = (forwardA == forwardB) == candidate.against;
        candidate.rank = std::max(candidate.most, m_exact) + (candidate.agrees ? 0.0 : 0.25 * m_exact) +
                         (a.face == b.face ? 0.5 * m_exact : 0.0);
        return candidate;
    }

    /// Pieces of one edge that all stayed alone were cut for nothing, unless a corner lies on the edge itself.
    void mendNeedlessCuts() {
        std::vector<RimPiece>& pieces = m_rims.pieces;
        std::vector<RimPiece> kept;
        std::vector<int> now(pieces.size(), -1);
        for (std::size_t i = 0; i < pieces.size();) {
            std::size_t end = i;
            while (end < pieces.size() && pieces[end].edge == pieces[i].edge) ++end;
            for (std::size_t k = i; k < end; ++k) {
                if (k > i && !m_touched[k] && pieces[k].partner < 0 && pieces[k - 1].partner < 0) {
                    kept.back().last = pieces[k].last;
                    kept.back().to = pieces[k].to;
                    kept.back().length += pieces[k].length;
                } else {
                    now[k] = static_cast<int>(kept.size());
                    kept.push_back(pieces[k]);
                }
            }
            i = end;
        }
        for (RimPiece& piece : kept)
            if (piece.partner >= 0) piece.partner = now[piece.partner];
        pieces = std::move(kept);
    }
};

}  // namespace

namespace {

struct Crossing {
    int a = -1, b = -1;  // pieces
    double atA = 0.0, atB = 0.0;
    gp_Pnt point;
};

/// Where two pieces cross away from their ends, by Gauss-Newton from the nearest of some samples.
std::optional<Crossing> crossingOf(const Rims& rims, int a, int b, double exact) {
    const RimPiece &p = rims.pieces[static_cast<std::size_t>(a)], &q = rims.pieces[static_cast<std::size_t>(b)];
    const EdgeProbe &curveP = *rims.probes[static_cast<std::size_t>(p.edge)],
                    &curveQ = *rims.probes[static_cast<std::size_t>(q.edge)];
    const int samples = curveP.isLine() && curveQ.isLine() ? 1 : 9;
    double s = p.first, t = q.first, least = std::numeric_limits<double>::max();
    for (int i = 0; i < samples; ++i) {
        const double at = p.first + (p.last - p.first) * (i + 0.5) / samples;
        const EdgeProbe::Near near = curveQ.nearest(curveP.value(at), q.first, q.last);
        if (near.distance >= least) continue;
        least = near.distance;
        s = at;
        t = near.parameter;
    }
    for (int round = 0; round < 12; ++round) {
        const gp_Vec between(curveP.value(s), curveQ.value(t));
        const gp_Vec along = curveP.tangent(s), across = curveQ.tangent(t);
        const double ll = along.SquareMagnitude(), cc = across.SquareMagnitude(), lc = along.Dot(across);
        const double determinant = ll * cc - lc * lc;
        if (determinant < 1e-3 * ll * cc) return std::nullopt;  // side by side
        const double stepS = (between.Dot(along) * cc - between.Dot(across) * lc) / determinant;
        const double stepT = (between.Dot(along) * lc - between.Dot(across) * ll) / determinant;
        s = std::clamp(s + stepS, p.first, p.last);
        t = std::clamp(t + stepT, q.first, q.last);
        // Of the range: the last steps before rounding.
        if (std::abs(stepS) < 1e-12 * (p.last - p.first) && std::abs(stepT) < 1e-12 * (q.last - q.first)) break;
    }
    const gp_Pnt onP = curveP.value(s), onQ = curveQ.value(t);
    if (onP.Distance(onQ) > 2.0 * exact) return std::nullopt;
    for (const double end : {p.first, p.last})
        if (onP.Distance(curveP.value(end)) <= 10.0 * exact) return std::nullopt;
    for (const double end : {q.first, q.last})
        if (onQ.Distance(curveQ.value(end)) <= 10.0 * exact) return std::nullopt;
    return Crossing{a, b, s, t, gp_Pnt(0.5 * (onP.XYZ() + onQ.XYZ()))};
}

}  // namespace

void cutAtCrossings(Rims& rims, double exact) {
    std::vector<Bnd_Box> boxes;
    std::vector<int> open;  // the piece of each
    for (std::size_t i = 0; i < rims.pieces.size(); ++i) {
        const RimPiece& piece = rims.pieces[i];
        if (piece.partner >= 0) continue;
        boxes.push_back(rims.probes[static_cast<std::size_t>(piece.edge)]->box());
        open.push_back(static_cast<int>(i));
    }
    const BoxTree tree(boxes);
    std::vector<std::vector<Crossing>> found(boxes.size());
    tbb::parallel_for(std::size_t{0}, boxes.size(), [&](std::size_t i) {
        const RimPiece& own = rims.pieces[static_cast<std::size_t>(open[i])];
        for (const std::size_t near : tree.near(boxes[i], 2.0 * exact)) {
            if (near <= i || rims.pieces[static_cast<std::size_t>(open[near])].face == own.face) continue;
            if (auto crossing = crossingOf(rims, open[i], open[near], exact)) found[i].push_back(*crossing);
        }
    });
    std::vector<Crossing> all;
    for (const auto& some : found) all.insert(all.end(), some.begin(), some.end());
    std::map<int, std::vector<Cut>> cuts;  // by piece
    std::vector<char> used(all.size(), false);
    for (std::size_t i = 0; i < all.size(); ++i) {
        if (used[i]) continue;
        std::map<int, double> here;  // pieces through this point
        std::set<int> faces;
        for (std::size_t k = i; k < all.size(); ++k) {
            if (used[k] || all[k].point.Distance(all[i].point) > 4.0 * exact) continue;
            used[k] = true;
            here[all[k].a] = all[k].atA;
            here[all[k].b] = all[k].atB;
        }
        for (const auto& [p, at] : here) faces.insert(rims.pieces[static_cast<std::size_t>(p)].face);
        if (faces.size() < 3) continue;
        for (const auto& [p, at] : here) cuts[p].push_back({at, static_cast<int>(rims.corners.size()), true});
        rims.corners.push_back({all[i].point, 0.0, {}});
    }
    if (cuts.empty()) return;
    std::vector<RimPiece> pieces;
    std::vector<int> now(rims.pieces.size(), -1);
    for (std::size_t i = 0; i < rims.pieces.size(); ++i) {
        now[i] = static_cast<int>(pieces.size());
        RimPiece left = rims.pieces[i];
        const EdgeProbe& probe = *rims.probes[static_cast<std::size_t>(left.edge)];
        if (const auto own = cuts.find(static_cast<int>(i)); own != cuts.end()) {
            std::sort(own->second.begin(), own->second.end(), [](const Cut& a, const Cut& b) { return a.at < b.at; });
            for (const Cut& cut : own->second) {
                RimPiece before = left;
                before.last = left.first = cut.at;
                before.to = left.from = cut.corner;
                before.length = probe.length(before.first, before.last);
                pieces.push_back(before);
            }
            left.length = probe.length(left.first, left.last);
        }
        pieces.push_back(left);
    }
    for (RimPiece& piece : pieces)
        if (piece.partner >= 0) piece.partner = now[static_cast<std::size_t>(piece.partner)];
    rims.pieces = std::move(pieces);
}

Result<Rims> pairRims(const Incidence& incidence, double upTo, double exact, Progress& progress,
                      const std::set<int>& without, const std::set<int>& collapsed) {
    return Pairer(incidence, upTo, exact, without, collapsed, progress).run();
}

}  // namespace rasoir::survey
