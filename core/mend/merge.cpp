#include "mend/merge.h"

#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepBuilderAPI_Copy.hxx>
#include <ElCLib.hxx>
#include <Geom_Circle.hxx>
#include <Geom_ElementarySurface.hxx>
#include <Geom_Line.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <map>
#include <numeric>
#include <set>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Iterator.hxx>
#include <TopTools_IndexedMapOfShape.hxx>

#include "common/guard.h"
#include "common/tolerance.h"
#include "geometry/curves.h"
#include "geometry/integrals.h"
#include "geometry/round_surface.h"
#include "mend/loops.h"
#include "model/lineage_builder.h"
#include "topology/bodies.h"
#include "topology/edge_angle.h"
#include "topology/making.h"
#include "topology/soundness.h"

namespace rasoir::mend {
namespace {

class Merger {
public:
    /// `only`: edges at whose ends alone something may go; null for everything.
    Merger(const TopoDS_Shape& shape, double exact, Progress& progress, const std::set<int>* only = nullptr,
           std::set<Entity> onPurpose = {}, bool outlines = false)
        : m_shape(BRepBuilderAPI_Copy(shape, false).Shape()),
          m_topology(m_shape),
          m_exact(exact),
          m_progress(progress),
          m_only(only),
          m_onPurpose(std::move(onPurpose)),
          m_outlines(outlines) {}

    Result<Merged> run() {
        groupFaces();
        for (int f = 1; f <= m_topology.faceCount(); ++f) m_now.push_back(m_topology.face(f));
        for (const auto& [root, group] : m_groups) {
            if (m_progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
            if (group.size() < 2) continue;
            const auto made = guarded("Merging faces", [&]() -> Result<TopoDS_Face> {
                const auto face = merged(group);
                return face ? Result<TopoDS_Face>(*face) : fail(ProblemKind::NotPossible, "");
            });
            if (!made) {
                NotMerged left{group, {}};
                for (const int e : m_topology.edgesOf(group.front()))
                    if (m_inner.contains(e))
                        left.where = BRepAdaptor_Curve(m_topology.edge(e))
                                         .Value(BRepAdaptor_Curve(m_topology.edge(e)).FirstParameter());
                m_merged.left.push_back(std::move(left));
                continue;
            }
            for (const int f : group) m_into[f] = group.front();
            m_now[static_cast<std::size_t>(group.front()) - 1] = *made;
        }
        mergeEdges();
        if (m_merged.edges == 0 && m_merged.vertices == 0) return std::move(m_merged);
        finish();
        return std::move(m_merged);
    }

private:
    TopoDS_Shape m_shape;  // a copy: new faces write their traces onto its edges
    Incidence m_topology;
    double m_exact;
    Progress& m_progress;
    const std::set<int>* m_only;
    std::set<Entity> m_onPurpose;
    bool m_outlines;
    std::map<int, std::vector<int>> m_groups;
    std::set<int> m_inner;
    std::map<int, int> m_into;       // merged faces: the one that stands for the group
    std::vector<TopoDS_Face> m_now;  // by face number - 1
    Merged m_merged;

    void groupFaces() {
        std::vector<int> parent(static_cast<std::size_t>(m_topology.faceCount()) + 1);
        std::iota(parent.begin(), parent.end(), 0);
        const auto root = [&parent](int f) {
            while (parent[f] != f) f = parent[f] = parent[parent[f]];
            return f;
        };
        for (int e = 1; e <= m_topology.edgeCount(); ++e) {
            if (m_only != nullptr || m_onPurpose.contains({EntityKind::Edge, e}) || !isNeedless(m_topology, e, m_exact))
                continue;
            m_inner.insert(e);
            const int a = root(m_topology.usesOf(e)[0].face), b = root(m_topology.usesOf(e)[1].face);
            parent[std::max(a, b)] = std::min(a, b);
        }
        for (int f = 1; f <= m_topology.faceCount(); ++f) m_groups[root(f)].push_back(f);
    }

    /// The group's boundary as loops; `seam` counts as boundary, twice.
    [[nodiscard]] std::vector<OpenLoop> boundary(const std::vector<int>& group, int seam) const {
        std::vector<TopoDS_Edge> sides;
        for (const int f : group)
            for (TopExp_Explorer it(m_topology.face(f), TopAbs_EDGE); it.More(); it.Next()) {
                const int e = m_topology.edgeNumber(it.Current());
                if (!m_inner.contains(e) || e == seam) sides.push_back(TopoDS::Edge(it.Current()));
            }
        const auto startOf = [&](std::size_t i) {
            return m_topology.vertexNumber(TopExp::FirstVertex(sides[i], true));
        };
        const auto endOf = [&](std::size_t i) { return m_topology.vertexNumber(TopExp::LastVertex(sides[i], true)); };
        std::map<int, int> times;  // seams come twice
        for (const TopoDS_Edge& side : sides) ++times[m_topology.edgeNumber(side)];
        const bool winds = std::any_of(times.begin(), times.end(), [](const auto& entry) { return entry.second > 1; });
        std::multimap<int, std::size_t> leaving;
        for (std::size_t i = 0; i < sides.size(); ++i) leaving.emplace(startOf(i), i);
        std::vector<char> used(sides.size(), false);
        std::vector<OpenLoop> loops;
        for (std::size_t seed = 0; seed < sides.size(); ++seed) {
            if (used[seed]) continue;
            OpenLoop loop;
            for (std::size_t at = seed;;) {
                used[at] = true;
                loop.edges.push_back(sides[at]);
                loop.numbers.push_back(m_topology.edgeNumber(sides[at]));
                if (endOf(at) == startOf(seed) && (!winds || !hasUnused(leaving, used, startOf(seed)))) break;
                // Where a seam ends the ring is gone round first, then another seam; straight back only where nothing
                // else is left.
                std::optional<std::size_t> next;
                int best = 0;
                const auto [from, to] = leaving.equal_range(endOf(at));
                for (auto it = from; it != to; ++it) {
                    if (used[it->second]) continue;
                    const int edge = m_topology.edgeNumber(sides[it->second]);
                    const int rank = times.at(edge) == 1 ? 3 : edge != m_topology.edgeNumber(sides[at]) ? 2 : 1;
                    if (rank <= best) continue;
                    best = rank;
                    next = it->second;
                }
                if (!next) return {};  // a boundary that does not close
                at = *next;
            }
            measureLoop(loop);
            loops.push_back(std::move(loop));
        }
        return loops;
    }
    static bool hasUnused(const std::multimap<int, std::size_t>& leaving, const std::vector<char>& used, int vertex) {
        const auto [from, to] = leaving.equal_range(vertex);
        return std::any_of(from, to, [&used](const auto& entry) { return !used[entry.second]; });
    }

    std::optional<TopoDS_Face> merged(const std::vector<int>& group) {
        double area = 0.0, largest = 0.0;
        int main = group.front();
        std::vector<int> inner;
        for (const int f : group) {
            for (TopExp_Explorer it(m_topology.face(f), TopAbs_EDGE); it.More(); it.Next())
                if (BRep_Tool::Degenerated(TopoDS::Edge(it.Current()))) return std::nullopt;
            const double own = areaOf(m_topology.face(f));
            area += own;
            if (own > largest) {
                largest = own;
                main = f;
            }
            for (const int e : m_topology.edgesOf(f))
                if (m_inner.contains(e)) inner.push_back(e);
        }
        std::sort(inner.begin(), inner.end());
        inner.erase(std::unique(inner.begin(), inner.end()), inner.end());
        const Handle(Geom_Surface) own =
            Handle(Geom_Surface)::DownCast(BRep_Tool::Surface(m_topology.face(main))->Copy());
        std::vector<int> seams{0};
        if (own->IsUPeriodic() || own->IsVPeriodic()) seams.insert(seams.end(), inner.begin(), inner.end());
        for (const int seam : seams) {
            std::vector<OpenLoop> loops = boundary(group, seam);
            if (loops.empty()) continue;
            std::sort(loops.begin(), loops.end(), [](const OpenLoop& a, const OpenLoop& b) {
                return a.size != b.size ? a.size > b.size : a.length > b.length;
            });
            double allowed = 10.0 * m_exact;
            std::vector<const OpenLoop*> chosen;
            for (const OpenLoop& loop : loops) {
                chosen.push_back(&loop);
                for (const TopoDS_Edge& edge : loop.edges)
                    allowed = std::max(allowed, 4.0 * BRep_Tool::Tolerance(edge));
            }
            const Handle(Geom_Surface) surface = Handle(Geom_Surface)::DownCast(own->Copy());
            turn(surface, seam == 0 ? loops.front().middle : BRep_Tool::Pnt(TopExp::FirstVertex(m_topology.edge(seam))),
                 seam == 0);
            double deviation = 0.0;
            const auto face = faceFromLoops(surface, chosen, allowed, deviation);
            if (!face || !soundFace(*face) || std::abs(areaOf(*face) - area) > Tolerance::sameSize * area) continue;
            m_merged.edges += static_cast<int>(inner.size()) - (seam == 0 ? 0 : 1);
            return face;
        }
        return std::nullopt;
    }

    /// The surface's own seam away from a point, or through it.
    static void turn(const Handle(Geom_Surface) & surface, const gp_Pnt& point, bool away) {
        const Handle(Geom_ElementarySurface) own = Handle(Geom_ElementarySurface)::DownCast(surface);
        if (own.IsNull() || !own->IsUPeriodic()) return;
        const gp_Ax3 place = own->Position();
        gp_Vec out(place.Location(), point);
        out -= gp_Vec(place.Direction()) * out.Dot(gp_Vec(place.Direction()));
        if (out.Magnitude() < Tolerance::noWay) return;
        own->SetPosition(gp_Ax3(place.Location(), place.Direction(), gp_Dir(away ? out.Reversed() : out)));
    }

    /// Edges of one line or circle between the same two faces become one.
    void mergeEdges() {
        std::vector<TopoDS_Face*> faces;
        TopoDS_Compound all;
        const BRep_Builder builder;
        builder.MakeCompound(all);
        for (int f = 1; f <= m_topology.faceCount(); ++f)
            if (const auto into = m_into.find(f); into == m_into.end() || into->second == f) {
                builder.Add(all, m_now[static_cast<std::size_t>(f) - 1]);
                faces.push_back(&m_now[static_cast<std::size_t>(f) - 1]);
            }
        const Incidence topology(all);
        std::vector<std::vector<int>> edgesAt(static_cast<std::size_t>(topology.vertexCount()) + 1);
        for (int e = 1; e <= topology.edgeCount(); ++e)
            for (TopoDS_Iterator it(topology.edge(e)); it.More(); it.Next()) {
                auto& at = edgesAt[topology.vertexNumber(it.Value())];
                if (at.empty() || at.back() != e) at.push_back(e);
            }
        std::vector<char> needless(edgesAt.size(), false);
        const auto isMeant = [&](int e) {
            return m_only == nullptr || m_only->contains(m_topology.edgeNumber(topology.edge(e)));
        };
        std::set<int> stay;
        for (int v = 1; v <= topology.vertexCount(); ++v)
            if (m_onPurpose.contains({EntityKind::Vertex, m_topology.vertexNumber(topology.vertex(v))})) stay.insert(v);
        for (std::size_t v = 1; v < edgesAt.size(); ++v)
            needless[v] = edgesAt[v].size() == 2 && !stay.contains(static_cast<int>(v)) &&
                          (isMeant(edgesAt[v][0]) || isMeant(edgesAt[v][1])) &&
                          continues(topology, edgesAt[v][0], edgesAt[v][1]);
        std::vector<char> done(static_cast<std::size_t>(topology.edgeCount()) + 1, false);
        std::map<int, TopoDS_Edge> replaced;  // by edge number: null for those that went into another
        for (int e = 1; e <= topology.edgeCount(); ++e) {
            if (done[e]) continue;
            const auto vertexOf = [&](int edge, bool last) {
                return topology.vertexNumber(last ? TopExp::LastVertex(forward(topology, edge))
                                                  : TopExp::FirstVertex(forward(topology, edge)));
            };
            // Back to where the chain begins, then along it.
            std::vector<std::pair<int, bool>> chain{{e, true}};  // edge, and whether along its own direction
            const auto grow = [&](bool ahead) {
                for (;;) {
                    const auto [edge, along] = ahead ? chain.back() : chain.front();
                    const int v = vertexOf(edge, along == ahead);
                    if (!needless[v]) return false;
                    const int next = edgesAt[v][0] == edge ? edgesAt[v][1] : edgesAt[v][0];
                    if (next == e) return true;  // all round
                    const bool nextAlong = (vertexOf(next, false) == v) == ahead;
                    if (ahead)
                        chain.emplace_back(next, nextAlong);
                    else
                        chain.insert(chain.begin(), {next, nextAlong});
                }
            };
            if (!grow(true)) grow(false);
            if (chain.size() < 2) continue;
            for (const auto& [edge, along] : chain) done[edge] = true;
            const auto whole =
                guarded("Merging edges", [&]() -> Result<TopoDS_Edge> { return joined(topology, chain); });
            if (!whole) continue;
            for (const auto& [edge, along] : chain) replaced[edge] = TopoDS_Edge();
            replaced[chain.front().first] = *whole;
            m_merged.vertices += static_cast<int>(chain.size()) - 1;
        }
        if (replaced.empty()) return;
        for (TopoDS_Face* face : faces) {
            bool touched = false;
            for (const int e : topology.edgesOf(topology.faceNumber(*face))) touched = touched || replaced.contains(e);
            if (!touched) continue;
            const TopoDS_Face old = TopoDS::Face(face->Oriented(TopAbs_FORWARD));
            TopoDS_Face made = TopoDS::Face(old.EmptyCopied());
            for (TopoDS_Iterator wire(old); wire.More(); wire.Next()) {
                TopoDS_Shape rebuilt = wire.Value().Oriented(TopAbs_FORWARD).EmptyCopied();
                for (TopoDS_Iterator it(wire.Value().Oriented(TopAbs_FORWARD)); it.More(); it.Next()) {
                    const auto found = replaced.find(topology.edgeNumber(it.Value()));
                    if (found == replaced.end())
                        builder.Add(rebuilt, it.Value());
                    else if (!found->second.IsNull())
                        builder.Add(rebuilt, found->second.Oriented(it.Value().Orientation()));
                }
                rebuilt.Closed(wire.Value().Closed());
                builder.Add(made, rebuilt.Oriented(wire.Value().Orientation()));
            }
            *face = TopoDS::Face(made.Oriented(face->Orientation()));
        }
    }
    static TopoDS_Edge forward(const Incidence& topology, int edge) {
        return TopoDS::Edge(topology.edge(edge).Oriented(TopAbs_FORWARD));
    }

    [[nodiscard]] bool continues(const Incidence& topology, int a, int b) const {
        const auto uses = topology.usesOf(a), others = topology.usesOf(b);
        const bool free = m_outlines && uses.size() == 1 && others.size() == 1 && uses[0].face == others[0].face;
        if (!free) {
            if (uses.size() != 2 || others.size() != 2) return false;
            const std::pair<int, int> facesA = std::minmax(uses[0].face, uses[1].face),
                                      facesB = std::minmax(others[0].face, others[1].face);
            if (facesA != facesB || facesA.first == facesA.second) return false;
        }
        const BRepAdaptor_Curve one(topology.edge(a)), two(topology.edge(b));
        const double allowed =
            10.0 * m_exact + BRep_Tool::Tolerance(topology.edge(a)) + BRep_Tool::Tolerance(topology.edge(b));
        if (one.GetType() != two.GetType()) return false;
        if (one.GetType() == GeomAbs_Line) {
            const gp_Lin line = one.Line();
            return line.Distance(two.Value(two.FirstParameter())) <= allowed &&
                   line.Distance(two.Value(two.LastParameter())) <= allowed;
        }
        return one.GetType() == GeomAbs_Circle &&
               one.Circle().Location().Distance(two.Circle().Location()) <= allowed &&
               std::abs(one.Circle().Radius() - two.Circle().Radius()) <= allowed &&
               one.Circle().Axis().IsParallel(two.Circle().Axis(), Tolerance::sameDirection);
    }

    /// One edge along the whole chain, with traces on both its faces.
    [[nodiscard]] Result<TopoDS_Edge> joined(const Incidence& topology,
                                             const std::vector<std::pair<int, bool>>& chain) const {
        const auto refused = [] { return fail(ProblemKind::NotPossible, "The edges do not continue one another."); };
        const TopoDS_Edge first = forward(topology, chain.front().first), last = forward(topology, chain.back().first);
        // It runs as the first edge does, which may be against the chain; then it ends where that begins.
        const bool ahead = chain.front().second;
        double from = 0.0, to = 0.0, tolerance = 0.0;
        const Handle(Geom_Curve) curve = untrimmedCurve(BRep_Tool::Curve(first, from, to));
        double length = 0.0;
        for (const auto& [edge, along] : chain) {
            const BRepAdaptor_Curve piece(topology.edge(edge));
            length += std::abs(piece.LastParameter() - piece.FirstParameter());
            tolerance = std::max(tolerance, BRep_Tool::Tolerance(topology.edge(edge)));
        }
        // Lines run in millimetres, circles in radians: pieces of one curve add up.
        (ahead ? to : from) = ahead ? from + length : to - length;
        if (curve->IsPeriodic() && length > 2.0 * M_PI * (1.0 + Tolerance::rounding)) return refused();
        const TopoDS_Vertex own = ahead ? TopExp::FirstVertex(first) : TopExp::LastVertex(first),
                            far = chain.back().second ? TopExp::LastVertex(last) : TopExp::FirstVertex(last);
        const TopoDS_Vertex &start = ahead ? own : far, &end = ahead ? far : own;
        const double allowed = 10.0 * m_exact + 2.0 * tolerance;
        if (curve->Value(ahead ? to : from).Distance(BRep_Tool::Pnt(far)) > allowed + BRep_Tool::Tolerance(far))
            return refused();
        const TopoDS_Edge made = edgeAlong(curve, from, to, start, end, tolerance);
        for (const EdgeUse& use : topology.usesOf(chain.front().first)) {
            const TopoDS_Face face = TopoDS::Face(topology.face(use.face).Oriented(TopAbs_FORWARD));
            TopLoc_Location location;
            const Handle(Geom_Surface) surface = BRep_Tool::Surface(face, location);
            double f = 0.0, l = 0.0;
            const Handle(Geom2d_Curve) old = BRep_Tool::CurveOnSurface(ahead ? first : last, face, f, l);
            const double begins = ahead || !chain.back().second ? f : l;
            const auto trace = traceOn(BRep_Tool::Surface(face), curve, from, to, allowed,
                                       old.IsNull() ? std::nullopt : std::optional(old->Value(begins)));
            if (!trace) return refused();
            putTrace(made, trace->curve, surface, location, 1.1 * trace->deviation);
        }
        widenToTolerance(made);
        return made;
    }
    void finish() {
        std::vector<TopoDS_Face> faces;
        for (int f = 1; f <= m_topology.faceCount(); ++f)
            if (const auto into = m_into.find(f); into == m_into.end() || into->second == f)
                faces.push_back(m_now[static_cast<std::size_t>(f) - 1]);
        m_merged.shape = bodiesFrom(faces).shape;
        LineageBuilder lineage(m_topology, m_merged.shape);
        for (int f = 1; f <= m_topology.faceCount(); ++f) {
            const auto into = m_into.find(f);
            const TopoDS_Face& now = m_now[static_cast<std::size_t>(into == m_into.end() ? f : into->second) - 1];
            lineage.face(f, now, !now.IsSame(m_topology.face(f)));
        }
        m_merged.lineage = lineage.finish();
    }
};

}  // namespace

bool isNeedless(const Incidence& incidence, int edge, double exact) {
    const auto uses = incidence.usesOf(edge);
    return uses.size() == 2 && uses[0].face != uses[1].face && uses[0].forward != uses[1].forward &&
           edgeAngle(incidence, edge).kind == EdgeKind::Smooth &&
           sameSurface(incidence.face(uses[0].face), incidence.face(uses[1].face),
                       std::max(exact, Tolerance::sameSkin));
}

Result<Merged> mergeNeedless(const TopoDS_Shape& shape, double exact, Progress& progress,
                             const std::set<Entity>& onPurpose, bool outlines) {
    return guarded("Merging", [&] { return Merger(shape, exact, progress, nullptr, onPurpose, outlines).run(); });
}

Result<Merged> mergeAtEdges(const TopoDS_Shape& shape, const std::set<int>& edges, double exact, Progress& progress) {
    return guarded("Merging", [&] { return Merger(shape, exact, progress, &edges).run(); });
}

}  // namespace rasoir::mend
