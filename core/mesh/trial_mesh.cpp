#include "mesh/trial_mesh.h"

#include <fmt/format.h>
#include <tbb/parallel_for.h>

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <Geom2d_Curve.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <gp_Vec2d.hxx>
#include <TopExp.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Iterator.hxx>

#include "common/guard.h"
#include "common/text.h"
#include "common/tolerance.h"
#include "geometry/integrals.h"
#include "mesh/refine.h"

// Edges first, for the whole model (sizes.h), so that whoever shares one has the same points on it. Then each face by
// itself, in parallel: its loops in the parameters, filled, refined. Faces whose outline crosses itself in the
// parameters have their edges divided finer, and what that changes is made again. Last, what lies within faces that are
// to be meshed as one is closed up where it is too short.

namespace rasoir::mesh {
namespace {

/// One part's mesh in the making: its points on vertices and edges, and for each edge where they begin.
class PartMesher {
public:
    PartMesher(const Part& part, const DividedEdges& edges, const SizeRules& rules)
        : m_part(part), m_edges(edges), m_rules(rules), m_topology(part.incidence()) {
        m_vertex.assign(static_cast<std::size_t>(m_topology.vertexCount()) + 1, -1);
        m_firstOf.assign(static_cast<std::size_t>(m_topology.edgeCount()) + 1, -1);
    }

    PartMesh run(Progress& progress) {
        putPointsOnEdges();
        std::vector<std::optional<FaceTriangles>> made(static_cast<std::size_t>(m_topology.faceCount()) + 1);
        std::vector<std::vector<std::vector<RimPoint>>> loops(made.size());
        std::vector<std::string> why(made.size());
        tbb::parallel_for(std::size_t{1}, made.size(), [&](std::size_t f) {
            if (progress.cancelled()) return;
            auto done = guarded("Meshing a face", [&]() -> Result<FaceTriangles> {
                auto own = loopsOf(static_cast<int>(f));
                if (!own) return tl::unexpected(own.error());
                loops[f] = std::move(*own);
                auto triangles =
                    triangulate(TopoDS::Face(m_topology.face(static_cast<int>(f)).Oriented(TopAbs_FORWARD)), loops[f],
                                m_rules, progress);
                if (!triangles) return fail(ProblemKind::NotPossible, "Its outline crosses itself at this size.");
                return std::move(*triangles);
            });
            if (done)
                made[f] = std::move(*done);
            else
                why[f] = done.error().what;
        });
        for (std::size_t f = 1; f < made.size(); ++f) {
            if (!made[f]) {
                m_mesh.left[static_cast<int>(f)] = {
                    ProblemKind::NotPossible,
                    fmt::format("Face {} of \"{}\" cannot be meshed: {}", f, m_part.name, why[f]),
                    {m_part.name, {static_cast<int>(f)}, {}},
                    "Look at it in Mend, or take a smaller size."};
                continue;
            }
            add(static_cast<int>(f), loops[f], *made[f]);
        }
        closeUpWithinOne();
        return std::move(m_mesh);
    }

private:
    const Part& m_part;
    const DividedEdges& m_edges;
    const SizeRules& m_rules;
    const Incidence& m_topology;
    std::vector<int> m_vertex;   // points by vertex
    std::vector<int> m_firstOf;  // the point after an edge's start; the others of it follow
    PartMesh m_mesh;

    int addPoint(const gp_Pnt& point, PointOrigin origin) {
        m_mesh.points.push_back(point);
        m_mesh.origins.push_back(origin);
        return static_cast<int>(m_mesh.points.size()) - 1;
    }

    void putPointsOnEdges() {
        for (int v = 1; v <= m_topology.vertexCount(); ++v)
            m_vertex[static_cast<std::size_t>(v)] =
                addPoint(BRep_Tool::Pnt(TopoDS::Vertex(m_topology.vertex(v))), {EntityKind::Vertex, v, 0});
        m_mesh.segmentsOf.assign(m_firstOf.size(), 0);
        for (int e = 1; e <= m_topology.edgeCount(); ++e) {
            const auto& at = m_edges.parameters[static_cast<std::size_t>(e)];
            if (at.empty()) continue;
            m_mesh.segmentsOf[static_cast<std::size_t>(e)] = static_cast<int>(at.size()) - 1;
            m_firstOf[static_cast<std::size_t>(e)] = static_cast<int>(m_mesh.points.size());
            const BRepAdaptor_Curve curve(m_topology.edge(e));
            for (std::size_t i = 1; i + 1 < at.size(); ++i)
                addPoint(curve.Value(at[i]), {EntityKind::Edge, e, static_cast<int>(i)});
            if (!m_topology.usesOf(e).empty()) continue;
            // An edge of no face is a beam's.
            for (std::size_t i = 0; i + 1 < at.size(); ++i) {
                m_mesh.lines.push_back({pointOn(e, i), pointOn(e, i + 1)});
                m_mesh.edgeOf.push_back(e);
            }
        }
    }

    /// The point at the ith parameter of an edge.
    [[nodiscard]] int pointOn(int edge, std::size_t i) const {
        const auto& at = m_edges.parameters[static_cast<std::size_t>(edge)];
        const TopoDS_Edge shape = TopoDS::Edge(m_topology.edge(edge).Oriented(TopAbs_FORWARD));
        if (i == 0) return m_vertex[static_cast<std::size_t>(m_topology.vertexNumber(TopExp::FirstVertex(shape)))];
        if (i + 1 == at.size())
            return m_vertex[static_cast<std::size_t>(m_topology.vertexNumber(TopExp::LastVertex(shape)))];
        return m_firstOf[static_cast<std::size_t>(edge)] + static_cast<int>(i) - 1;
    }

    /// The points of one edge as a loop passes it, without its last.
    struct Stretch {
        std::vector<RimPoint> points;
        gp_Pnt2d end;
        int endPoint = 0;
    };

    std::optional<Stretch> stretchOf(const TopoDS_Face& face, const TopoDS_Edge& edge) const {
        double first = 0.0, last = 0.0;
        const Handle(Geom2d_Curve) trace = BRep_Tool::CurveOnSurface(edge, face, first, last);
        if (trace.IsNull()) return std::nullopt;
        const bool forward = edge.Orientation() != TopAbs_REVERSED;
        const int number = m_topology.edgeNumber(edge);
        Stretch stretch;
        const auto& at = m_edges.parameters[static_cast<std::size_t>(number)];
        if (at.empty()) {
            const TopoDS_Vertex pole = TopExp::FirstVertex(edge);
            const int point = m_vertex[static_cast<std::size_t>(m_topology.vertexNumber(pole))];
            RimPoint rim{trace->Value(forward ? first : last), m_mesh.points[static_cast<std::size_t>(point)],
                         m_rules.target, point};
            stretch.points.push_back(rim);
            stretch.end = trace->Value(forward ? last : first);
            stretch.endPoint = point;
            return stretch;
        }
        const std::size_t count = at.size();
        for (std::size_t k = 0; k < count; ++k) {
            const std::size_t i = forward ? k : count - 1 - k;
            const int point = pointOn(number, i);
            const gp_Pnt2d uv = trace->Value(at[i]);
            if (k + 1 == count) {
                stretch.end = uv;
                stretch.endPoint = point;
                break;
            }
            stretch.points.push_back({uv, m_mesh.points[static_cast<std::size_t>(point)],
                                      m_edges.sizes[static_cast<std::size_t>(number)][i], point});
        }
        return stretch;
    }

    /// A loop that goes round a closed surface: it ends where it began, but a turn farther in the parameters.
    struct Turn {
        std::vector<RimPoint> loop;
        gp_Vec2d turn;
    };
    /// Numbers of points that a face brings along for a seam of its own begin here; add() gives them places.
    static constexpr int seamPoints = 1 << 30;

    /// One loop of two that go round in opposite senses, by a seam between them that is passed both ways.
    [[nodiscard]] std::optional<std::vector<RimPoint>> bandOf(const TopoDS_Face& face, std::vector<Turn> turns) const {
        if (turns.size() != 2 ||
            (turns[0].turn + turns[1].turn).Magnitude() > Tolerance::sameDirection * turns[0].turn.Magnitude())
            return std::nullopt;
        Turn &a = turns[0], &b = turns[1];
        const gp_Pnt2d from = a.loop.front().uv.Translated(a.turn);
        // The second loop begins at its point nearest to where the first one ends, whole turns apart or not.
        std::size_t start = 0;
        double shift = 0.0, nearest = 1e300;
        const gp_Vec2d along = a.turn.Normalized();
        for (std::size_t i = 0; i < b.loop.size(); ++i) {
            const double off = gp_Vec2d(b.loop[i].uv, from).Dot(along), turn = a.turn.Magnitude();
            const double whole = turn * std::round(off / turn);
            if (std::abs(off - whole) < nearest) {
                nearest = std::abs(off - whole);
                shift = whole;
                start = i;
            }
        }
        std::vector<RimPoint> second;
        for (std::size_t k = 0; k < b.loop.size(); ++k) {
            RimPoint point = b.loop[(start + k) % b.loop.size()];
            if (start + k >= b.loop.size()) point.uv.Translate(b.turn);
            point.uv.Translate(along * shift);
            second.push_back(point);
        }
        const GeomAdaptor_Surface surface(BRep_Tool::Surface(face));
        const gp_Pnt2d to = second.front().uv;
        const double size = 0.5 * (a.loop.front().size + second.front().size);
        const int count =
            std::max(1, static_cast<int>(std::lround(a.loop.front().point.Distance(second.front().point) / size)));
        std::vector<RimPoint> seam;
        for (int i = 1; i < count; ++i) {
            const gp_Pnt2d uv(from.XY() + (to.XY() - from.XY()) * (static_cast<double>(i) / count));
            seam.push_back({uv, surface.Value(uv.X(), uv.Y()), size, seamPoints + i});
        }
        std::vector<RimPoint> all = a.loop;
        all.push_back(a.loop.front());
        all.back().uv = from;
        all.insert(all.end(), seam.begin(), seam.end());
        all.insert(all.end(), second.begin(), second.end());
        all.push_back(second.front());
        all.back().uv.Translate(b.turn);
        for (auto it = seam.rbegin(); it != seam.rend(); ++it) {
            all.push_back(*it);
            all.back().uv.Translate(b.turn);
        }
        return all;
    }

    /// The loops of a face in its parameters, the one of largest area first.
    Result<std::vector<std::vector<RimPoint>>> loopsOf(int f) const {
        const TopoDS_Face face = TopoDS::Face(m_topology.face(f).Oriented(TopAbs_FORWARD));
        std::vector<std::vector<RimPoint>> loops;
        std::vector<Turn> turns;
        for (TopoDS_Iterator wire(face); wire.More(); wire.Next()) {
            if (wire.Value().ShapeType() != TopAbs_WIRE) continue;
            std::vector<Stretch> open;
            for (TopoDS_Iterator it(wire.Value()); it.More(); it.Next()) {
                const TopoDS_Edge edge = TopoDS::Edge(it.Value());
                if (edge.Orientation() == TopAbs_INTERNAL || edge.Orientation() == TopAbs_EXTERNAL) continue;
                auto stretch = stretchOf(face, edge);
                if (!stretch) return fail(ProblemKind::NotPossible, "an edge has no trace in it.");
                open.push_back(std::move(*stretch));
            }
            if (open.empty()) continue;
            // One after the other: the next begins at the same point, and nearest in the parameters.
            std::vector<RimPoint> loop;
            Stretch now = std::move(open.front());
            open.erase(open.begin());
            for (;;) {
                loop.insert(loop.end(), now.points.begin(), now.points.end());
                std::size_t best = open.size();
                double nearest = 1e300;
                for (std::size_t i = 0; i < open.size(); ++i) {
                    if (open[i].points.front().id != now.endPoint) continue;
                    const double apart = open[i].points.front().uv.Distance(now.end);
                    if (apart < nearest) {
                        nearest = apart;
                        best = i;
                    }
                }
                if (best == open.size()) break;
                Stretch next = std::move(open[best]);
                open.erase(open.begin() + static_cast<std::ptrdiff_t>(best));
                now = std::move(next);
            }
            if (!open.empty() || loop.front().id != now.endPoint)
                return fail(ProblemKind::NotPossible, "a loop of it is not closed.");
            sizeByNeighbours(loop);
            // Of the range, by which ends of traces may be apart in files.
            if (loop.front().uv.Distance(now.end) > 1e-3 * (1.0 + loop.front().uv.XY().Modulus()))
                turns.push_back({loop, gp_Vec2d(loop.front().uv, now.end)});
            else
                loops.push_back(std::move(loop));
        }
        if (!turns.empty()) {
            auto band = bandOf(face, turns);
            if (!band)
                return fail(ProblemKind::NotPossible, "a loop of it goes round a closed surface without a seam.");
            loops.push_back(std::move(*band));
        }
        if (loops.empty()) return fail(ProblemKind::NotPossible, "it has no outline.");
        const auto area = [](const std::vector<RimPoint>& loop) {
            double twice = 0.0;
            for (std::size_t i = 0; i < loop.size(); ++i)
                twice += loop[i].uv.XY().Crossed(loop[(i + 1) % loop.size()].uv.XY());
            return std::abs(twice);
        };
        std::stable_sort(loops.begin(), loops.end(), [&](const auto& a, const auto& b) { return area(a) > area(b); });
        return loops;
    }

    /// What stands on the rim already is what its neighbours should be like.
    void sizeByNeighbours(std::vector<RimPoint>& loop) const {
        const std::size_t n = loop.size();
        std::vector<double> far(n);
        for (std::size_t i = 0; i < n; ++i) far[i] = loop[i].point.Distance(loop[(i + 1) % n].point);
        for (std::size_t i = 0; i < n; ++i) {
            const double before = far[(i + n - 1) % n], after = far[i];
            const double mean = before > 0.0 && after > 0.0 ? std::sqrt(before * after) : std::max(before, after);
            const bool pole = !(before > 0.0) || !(after > 0.0);  // which has no size of its own
            if (mean > 0.0)
                loop[i].size = std::clamp(mean, pole ? m_rules.least() : std::max(0.5 * loop[i].size, m_rules.least()),
                                          m_rules.target);
        }
    }

    void add(int f, const std::vector<std::vector<RimPoint>>& loops, const FaceTriangles& made) {
        std::vector<int> number;
        std::map<int, int> ofSeam;
        for (const auto& loop : loops)
            for (const RimPoint& point : loop) {
                if (point.id < seamPoints) {
                    number.push_back(point.id);
                    continue;
                }
                const auto [known, fresh] = ofSeam.try_emplace(point.id, 0);
                if (fresh) known->second = addPoint(point.point, {EntityKind::Face, f, 0});
                number.push_back(known->second);
            }
        for (const gp_Pnt& point : made.inner) number.push_back(addPoint(point, {EntityKind::Face, f, 0}));
        const bool turned = m_topology.face(f).Orientation() == TopAbs_REVERSED;
        for (const auto& t : made.triangles) {
            std::array<int, 3> own{number[static_cast<std::size_t>(t[0])], number[static_cast<std::size_t>(t[1])],
                                   number[static_cast<std::size_t>(t[2])]};
            if (turned) std::swap(own[1], own[2]);
            m_mesh.triangles.push_back(own);
            m_mesh.faceOf.push_back(f);
        }
    }

    /// Points on edges within faces that are one need not be there: those too near another are drawn into it.
    void closeUpWithinOne() {
        if (m_part.known.asOne.empty()) return;
        std::vector<bool> soft(static_cast<std::size_t>(m_topology.edgeCount()) + 1, false);
        // By vertex: the chain of edges that are one, to which all edges at it belong that count; "" when there are
        // none at all, none when they are of several.
        std::map<int, std::optional<std::string>> chainAt;
        std::vector<std::string> chainOf(soft.size());
        for (int e = 1; e <= m_topology.edgeCount(); ++e) {
            soft[static_cast<std::size_t>(e)] = withinOne(m_part, e);
            const auto mark = m_part.known.asOne.find({EntityKind::Edge, e});
            if (mark != m_part.known.asOne.end()) chainOf[static_cast<std::size_t>(e)] = mark->second;
            for (TopoDS_Iterator it(m_topology.edge(e)); it.More(); it.Next()) {
                const int vertex = m_topology.vertexNumber(it.Value());
                auto& chain = chainAt.try_emplace(vertex, "").first->second;
                if (soft[static_cast<std::size_t>(e)] || !chain) continue;
                const std::string& own = chainOf[static_cast<std::size_t>(e)];
                chain = own.empty() || (!chain->empty() && *chain != own) ? std::nullopt : std::optional(own);
            }
        }
        const auto isOnChain = [&](int point, const std::string& chain) {
            const PointOrigin& origin = m_mesh.origins[static_cast<std::size_t>(point)];
            if (origin.kind == EntityKind::Edge) return chainOf[static_cast<std::size_t>(origin.number)] == chain;
            if (origin.kind != EntityKind::Vertex) return false;
            for (int e = 1; e <= m_topology.edgeCount(); ++e)
                if (chainOf[static_cast<std::size_t>(e)] == chain)
                    for (TopoDS_Iterator it(m_topology.edge(e)); it.More(); it.Next())
                        if (m_topology.vertexNumber(it.Value()) == origin.number) return true;
            return false;
        };
        std::vector<std::set<int>> at(m_mesh.points.size());
        for (std::size_t t = 0; t < m_mesh.triangles.size(); ++t)
            for (const int p : m_mesh.triangles[t]) at[static_cast<std::size_t>(p)].insert(static_cast<int>(t));
        std::vector<bool> gone(m_mesh.triangles.size(), false);
        const auto normal = [&](const std::array<int, 3>& t) {
            const gp_Pnt &a = m_mesh.points[static_cast<std::size_t>(t[0])],
                         &b = m_mesh.points[static_cast<std::size_t>(t[1])],
                         &c = m_mesh.points[static_cast<std::size_t>(t[2])];
            return gp_Vec(a, b).Crossed(gp_Vec(a, c));
        };
        for (std::size_t p = 0; p < m_mesh.points.size(); ++p) {
            const PointOrigin& origin = m_mesh.origins[p];
            const bool free = origin.kind == EntityKind::Edge     ? soft[static_cast<std::size_t>(origin.number)]
                              : origin.kind == EntityKind::Vertex ? chainAt[origin.number].has_value()
                                                                  : false;
            if (!free) continue;
            const std::string chain = origin.kind == EntityKind::Vertex ? *chainAt[origin.number] : "";
            int into = -1;
            double nearest = 0.7 * m_rules.target;
            std::set<int> about;
            for (const int t : at[p])
                for (const int q : m_mesh.triangles[static_cast<std::size_t>(t)]) {
                    if (q == static_cast<int>(p)) continue;
                    about.insert(q);
                    const double far = m_mesh.points[p].Distance(m_mesh.points[static_cast<std::size_t>(q)]);
                    if (far < nearest && (chain.empty() || isOnChain(q, chain))) {
                        nearest = far;
                        into = q;
                    }
                }
            if (into < 0) continue;
            std::size_t common = 0;
            std::set<int> theirs;
            for (const int t : at[static_cast<std::size_t>(into)])
                for (const int q : m_mesh.triangles[static_cast<std::size_t>(t)]) theirs.insert(q);
            for (const int q : about) common += q != into && theirs.contains(q);
            if (common != 2) continue;
            bool fine = true;
            for (const int t : at[p]) {
                const std::array<int, 3> was = m_mesh.triangles[static_cast<std::size_t>(t)];
                std::array<int, 3> now = was;
                if (std::find(was.begin(), was.end(), into) != was.end()) continue;
                std::replace(now.begin(), now.end(), static_cast<int>(p), into);
                const gp_Vec before = normal(was), after = normal(now);
                fine =
                    fine && before.Dot(after) > 0.9 * before.Magnitude() * after.Magnitude() && after.Magnitude() > 0.0;
            }
            if (!fine) continue;
            for (const int t : std::vector<int>(at[p].begin(), at[p].end())) {
                auto& corners = m_mesh.triangles[static_cast<std::size_t>(t)];
                if (std::find(corners.begin(), corners.end(), into) != corners.end()) {
                    gone[static_cast<std::size_t>(t)] = true;
                    for (const int q : corners) at[static_cast<std::size_t>(q)].erase(t);
                    continue;
                }
                std::replace(corners.begin(), corners.end(), static_cast<int>(p), into);
                at[static_cast<std::size_t>(into)].insert(t);
            }
            at[p].clear();
        }
        std::size_t kept = 0;
        for (std::size_t t = 0; t < gone.size(); ++t) {
            if (gone[t]) continue;
            m_mesh.triangles[kept] = m_mesh.triangles[t];
            m_mesh.faceOf[kept++] = m_mesh.faceOf[t];
        }
        m_mesh.triangles.resize(kept);
        m_mesh.faceOf.resize(kept);
        dropUnusedPoints();
    }

    void dropUnusedPoints() {
        std::vector<int> number(m_mesh.points.size(), -1);
        for (const auto& t : m_mesh.triangles)
            for (const int p : t) number[static_cast<std::size_t>(p)] = 0;
        for (const auto& line : m_mesh.lines)
            for (const int p : line) number[static_cast<std::size_t>(p)] = 0;
        std::size_t kept = 0;
        for (std::size_t p = 0; p < number.size(); ++p) {
            if (number[p] < 0) continue;
            number[p] = static_cast<int>(kept);
            m_mesh.points[kept] = m_mesh.points[p];
            m_mesh.origins[kept++] = m_mesh.origins[p];
        }
        m_mesh.points.resize(kept);
        m_mesh.origins.resize(kept);
        for (auto& t : m_mesh.triangles)
            for (int& p : t) p = number[static_cast<std::size_t>(p)];
        for (auto& line : m_mesh.lines)
            for (int& p : line) p = number[static_cast<std::size_t>(p)];
    }
};

/// Joined faces count at their first place alone.
std::set<std::pair<PlaceId, int>> secondUses(const Model& model) {
    std::set<std::pair<PlaceId, int>> second;
    for (const Joint& joint : model.joints)
        if (joint.kind == EntityKind::Face)
            for (std::size_t u = 1; u < joint.uses.size(); ++u)
                second.insert({joint.uses[u].place, joint.uses[u].number});
    return second;
}

}  // namespace

Result<TrialMesh> makeTrialMesh(const Model& model, std::vector<std::size_t> parts, const SizeRules& rules,
                                Progress& progress) {
    if (!(rules.target > 0.0) || !std::isfinite(rules.target))
        return fail(ProblemKind::BadInput, "The target size must be more than zero.");
    if (parts.empty())
        for (std::size_t p = 0; p < model.parts.size(); ++p)
            if (!model.isAside(p) && !model.parts[p]->lump && !model.parts[p]->shape.IsNull()) parts.push_back(p);
    if (parts.empty()) return fail(ProblemKind::NothingToDo, "There is nothing to mesh.");
    double area = 0.0;
    for (const std::size_t p : parts) area += areaOf(model.parts[p]->shape);
    if (const double expected = area / (std::sqrt(3.0) / 4.0 * rules.target * rules.target); expected > 1e7)
        return fail(ProblemKind::BadInput,
                    fmt::format("A mesh of size {} mm would have about {} million elements.", readable(rules.target),
                                readable(std::round(expected / 1e6))),
                    "Take a larger size, or fewer parts.");
    return guarded("Making a trial mesh", [&]() -> Result<TrialMesh> {
        TrialMesh mesh;
        mesh.rules = rules;
        std::map<std::size_t, std::map<int, int>> finer;
        std::map<std::size_t, DividedEdges> divided;
        for (int attempt = 0; attempt < 5; ++attempt) {
            auto now = divideEdges(model, parts, rules, finer, progress);
            bool again = false;
            for (std::size_t i = 0; i < parts.size(); ++i) {
                if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
                progress.report(static_cast<double>(i) / static_cast<double>(parts.size()), "Making a trial mesh");
                const std::size_t p = parts[i];
                if (const auto was = divided.find(p);
                    was != divided.end() && was->second.parameters == now[p].parameters)
                    continue;
                mesh.parts[p] = PartMesher(*model.parts[p], now[p], rules).run(progress);
                for (const auto& [face, problem] : mesh.parts[p].left)
                    if (problem.what.find("crosses itself") != std::string::npos) {
                        ++finer[p][face];
                        again = true;
                    }
            }
            divided = std::move(now);
            if (!again) break;
        }
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        const auto second = secondUses(model);
        std::map<std::size_t, std::vector<PlaceId>> places;
        for (const Occurrence& place : model.occurrences)
            if (!place.aside) places[place.part].push_back(place.id);
        for (const auto& [p, own] : mesh.parts) {
            const std::size_t count = std::max<std::size_t>(1, places[p].size());
            mesh.lines += count * own.lines.size();
            mesh.triangles += count * own.triangles.size();
            if (second.empty()) continue;
            std::map<int, std::size_t> perFace;
            for (const int f : own.faceOf) ++perFace[f];
            for (const PlaceId place : places[p])
                for (const auto& [f, number] : perFace)
                    if (second.contains({place, f})) mesh.triangles -= number;
        }
        progress.report(1.0, "Trial mesh made");
        return mesh;
    });
}

AssembledMesh assembled(const Model& model, const TrialMesh& mesh) {
    AssembledMesh all;
    const auto second = secondUses(model);
    // Which vertex or edge of a place stands for another's, and whether it runs the other way.
    struct Stand {
        PlaceId place;
        int number;
        bool reversed;
    };
    std::map<std::tuple<EntityKind, PlaceId, int>, Stand> stand;
    for (const Joint& joint : model.joints)
        for (std::size_t u = 1; u < joint.uses.size(); ++u)
            stand.try_emplace(
                {joint.kind, joint.uses[u].place, joint.uses[u].number},
                Stand{joint.uses[0].place, joint.uses[0].number, joint.uses[u].reversed != joint.uses[0].reversed});
    std::map<std::tuple<PlaceId, EntityKind, int, int>, int> known;  // points on vertices and edges
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        const Occurrence& place = model.occurrences[o];
        const auto own = mesh.parts.find(place.part);
        if (own == mesh.parts.end() || place.aside) continue;
        const PartMesh& part = own->second;
        std::vector<int> number(part.points.size(), -1);
        const auto pointOf = [&](int p) {
            if (number[static_cast<std::size_t>(p)] >= 0) return number[static_cast<std::size_t>(p)];
            PointOrigin origin = part.origins[static_cast<std::size_t>(p)];
            const auto fresh = [&] {
                all.points.push_back(part.points[static_cast<std::size_t>(p)].Transformed(place.placement));
                return number[static_cast<std::size_t>(p)] = static_cast<int>(all.points.size()) - 1;
            };
            if (origin.kind == EntityKind::Face || stand.empty()) return fresh();
            PlaceId at = place.id;
            const int segments =
                origin.kind == EntityKind::Edge ? part.segmentsOf[static_cast<std::size_t>(origin.number)] : 0;
            for (int guard = 0; guard < 100; ++guard) {
                const auto next = stand.find({origin.kind, at, origin.number});
                if (next == stand.end()) break;
                if (next->second.reversed && origin.kind == EntityKind::Edge) origin.index = segments - origin.index;
                at = next->second.place;
                origin.number = next->second.number;
            }
            const auto [it, isNew] = known.try_emplace({at, origin.kind, origin.number, origin.index}, 0);
            if (isNew) it->second = fresh();
            return number[static_cast<std::size_t>(p)] = it->second;
        };
        for (std::size_t t = 0; t < part.triangles.size(); ++t) {
            if (second.contains({place.id, part.faceOf[t]})) continue;
            const auto& corners = part.triangles[t];
            all.triangles.push_back({pointOf(corners[0]), pointOf(corners[1]), pointOf(corners[2])});
            all.triangleOf.push_back({o, part.faceOf[t]});
        }
        for (std::size_t l = 0; l < part.lines.size(); ++l) {
            all.lines.push_back({pointOf(part.lines[l][0]), pointOf(part.lines[l][1])});
            all.lineOf.push_back({o, part.edgeOf[l]});
        }
    }
    return all;
}

}  // namespace rasoir::mesh
