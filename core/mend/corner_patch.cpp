#include "mend/corner_patch.h"

#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepBuilderAPI_Copy.hxx>
#include <Geom_Plane.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <TopExp.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Iterator.hxx>

#include "common/tolerance.h"
#include "geometry/integrals.h"
#include "geometry/round_surface.h"
#include "geometry/surface_meeting.h"
#include "mend/fitting.h"
#include "topology/making.h"
#include "topology/soundness.h"

namespace rasoir::mend {
namespace {

constexpr std::size_t mostArcs = 7;

struct Arc {
    Handle(Geom_Surface) surface;
    std::vector<TopoDS_Edge> edges;  // in order, as the missing face uses them

    [[nodiscard]] TopoDS_Vertex from() const { return TopExp::FirstVertex(edges.front(), true); }
    [[nodiscard]] TopoDS_Vertex to() const { return TopExp::LastVertex(edges.back(), true); }
    void append(const std::vector<TopoDS_Edge>& more) { edges.insert(edges.end(), more.begin(), more.end()); }
};

/// What is closed so far, and the best of all orders.
struct Closing {
    std::vector<Arc> faces;  // closed outlines
    double area = 0.0;
};

class Closer {
public:
    Closer(const OpenLoop& loop, const std::vector<TopoDS_Face>& neighbours, double allowed)
        : m_loop(loop), m_neighbours(neighbours), m_allowed(allowed) {}

    CornerPatch run(const std::vector<const OpenLoop*>& others) {
        std::vector<Arc> arcs = arcsOf();
        if (arcs.size() < 2 || arcs.size() > mostArcs || !findSurfaces(arcs)) return {};
        uniteEqual(arcs);
        if (arcs.size() < 2) return {};
        search(arcs, {});
        if (!m_best) return {};
        CornerPatch patch;
        for (const Arc& outline : m_best->faces) {
            const std::vector<std::size_t> islands = islandsIn(outline, others);
            std::vector<const OpenLoop*> within;
            for (const std::size_t island : islands) within.push_back(others[island]);
            const auto face = faceOf(outline, within, patch.deviation);
            if (!face) return {};
            patch.faces.push_back(*face);
            patch.islands.insert(patch.islands.end(), islands.begin(), islands.end());
        }
        return patch;
    }

private:
    const OpenLoop& m_loop;
    const std::vector<TopoDS_Face>& m_neighbours;
    double m_allowed;
    std::optional<Closing> m_best;

    [[nodiscard]] double same() const { return std::max(m_allowed, Tolerance::sameSkin); }

    /// The loop, cut wherever two edges in a row belong to one face.
    [[nodiscard]] std::vector<Arc> arcsOf() const {
        const std::size_t n = m_loop.edges.size();
        const auto cutBefore = [&](std::size_t i) {
            const TopoDS_Face &before = m_neighbours[(i + n - 1) % n], &behind = m_neighbours[i];
            return before.IsSame(behind) || sameSurface(before, behind, same());
        };
        std::vector<Arc> arcs;
        std::size_t start = 0;
        while (start < n && !cutBefore(start)) ++start;
        for (std::size_t i = 0; i < n && start < n; ++i) {
            const std::size_t k = (start + i) % n;
            if (cutBefore(k)) arcs.emplace_back();
            arcs.back().edges.push_back(m_loop.edges[k]);
        }
        return arcs;
    }

    [[nodiscard]] bool liesOn(const Arc& arc, const Handle(Geom_Surface) & surface) const {
        return offOf(surface, samples(arc.edges, 7), m_allowed) <= m_allowed;
    }

    /// A face there would only be the other side of a neighbour.
    [[nodiscard]] bool liesInNeighbour(const Arc& arc, const Handle(Geom_Surface) & surface) const {
        const TopoDS_Face plain = blankFace(surface, TopLoc_Location());
        for (std::size_t i = 0; i < m_loop.edges.size(); ++i)
            for (const TopoDS_Edge& edge : arc.edges)
                if (edge.IsSame(m_loop.edges[i]) && BRepAdaptor_Surface(m_neighbours[i]).GetType() == GeomAbs_Plane &&
                    sameSurface(plain, m_neighbours[i], same()))
                    return true;
        return false;
    }

    [[nodiscard]] Handle(Geom_Surface) surfaceFor(const Arc& arc) const {
        double off = 0.0;
        if (const auto plane = planeThrough(samples(arc.edges, 9), off); plane && off <= m_allowed) {
            const Handle(Geom_Surface) flat = new Geom_Plane(*plane);
            if (!liesInNeighbour(arc, flat)) return flat;
        }
        std::vector<Handle(Geom_Surface)> candidates = surfacesOfArcs(arc.edges, m_allowed);
        for (std::size_t i = 0; i < m_loop.edges.size(); ++i)
            for (const TopoDS_Edge& edge : arc.edges)
                if (edge.IsSame(m_loop.edges[i]))
                    if (const Handle(Geom_Surface) own = BRep_Tool::Surface(m_neighbours[i]);
                        GeomAdaptor_Surface(own).GetType() != GeomAbs_Plane)
                        candidates.push_back(Handle(Geom_Surface)::DownCast(own->Copy()));
        for (const auto& candidate : candidates) {
            turnSeamAway(candidate, m_loop.middle);
            if (liesOn(arc, candidate)) return candidate;
        }
        return {};
    }

    bool findSurfaces(std::vector<Arc>& arcs) const {
        std::vector<std::size_t> unknown;
        for (std::size_t i = 0; i < arcs.size(); ++i) {
            arcs[i].surface = surfaceFor(arcs[i]);
            if (arcs[i].surface.IsNull()) unknown.push_back(i);
        }
        // One straight edge tells nothing; two of them, at both ends of a strip that is missing, tell its plane.
        for (const std::size_t i : unknown) {
            if (!arcs[i].surface.IsNull()) continue;
            for (const std::size_t j : unknown) {
                if (j == i || !arcs[j].surface.IsNull()) continue;
                Arc both{{}, arcs[i].edges};
                both.append(arcs[j].edges);
                both.surface = surfaceFor(both);
                if (both.surface.IsNull()) continue;
                arcs[i].surface = arcs[j].surface = both.surface;
                break;
            }
        }
        return std::none_of(arcs.begin(), arcs.end(), [](const Arc& arc) { return arc.surface.IsNull(); });
    }

    [[nodiscard]] bool equal(const Arc& a, const Arc& b) const {
        return a.surface == b.surface || (liesOn(a, b.surface) && liesOn(b, a.surface));
    }

    /// Arcs of one surface side by side are one; such that lie apart get the same object.
    void uniteEqual(std::vector<Arc>& arcs) const {
        for (std::size_t i = 0; i < arcs.size(); ++i)
            for (std::size_t j = i + 1; j < arcs.size(); ++j)
                if (equal(arcs[i], arcs[j])) arcs[j].surface = arcs[i].surface;
        for (std::size_t i = 0; arcs.size() > 1 && i < arcs.size();) {
            const std::size_t next = (i + 1) % arcs.size();
            if (arcs[i].surface != arcs[next].surface) {
                ++i;
                continue;
            }
            arcs[i].append(arcs[next].edges);
            arcs.erase(arcs.begin() + static_cast<std::ptrdiff_t>(next));
            if (next < i) --i;
        }
    }

    /// An edge along which two surfaces meet between two vertices, running from the first to the second.
    [[nodiscard]] std::optional<TopoDS_Edge> edgeBetween(const Arc& a, const Arc& b, const TopoDS_Vertex& from,
                                                         const TopoDS_Vertex& to) const {
        const auto piece = meetingCurve(a.surface, b.surface, BRep_Tool::Pnt(from), BRep_Tool::Pnt(to), m_allowed);
        if (!piece) return std::nullopt;
        for (int i = 1; i < 8; ++i)
            if (piece->curve->Value(piece->first + (piece->last - piece->first) * i / 8).Distance(m_loop.middle) >
                2.0 * m_loop.size)
                return std::nullopt;
        const TopoDS_Edge edge = edgeAlong(piece->curve, piece->first, piece->last, from, to);
        widenEnds(edge);
        return edge;
    }

    void search(const std::vector<Arc>& arcs, const Closing& sofar) {
        if (arcs.size() == 1) {
            Closing whole = sofar;
            if (close(whole, arcs.front())) m_best = std::move(whole);
            return;
        }
        const std::size_t n = arcs.size();
        bool cut = false;
        for (std::size_t i = 0; i < n; ++i) {  // what lies between two arcs of one surface has but one way to close
            const Arc &before = arcs[(i + n - 1) % n], &behind = arcs[(i + 1) % n];
            if (before.surface != behind.surface) continue;
            const auto chord = edgeBetween(arcs[i], before, arcs[i].from(), arcs[i].to());
            if (!chord) continue;
            cut = true;
            Closing more = sofar;
            Arc outline = arcs[i], joined = before;
            outline.edges.push_back(TopoDS::Edge(chord->Reversed()));
            if (!close(more, outline)) continue;
            joined.edges.push_back(*chord);
            if (n > 2) joined.append(behind.edges);
            std::vector<Arc> rest{joined};
            for (std::size_t k = 2; k + 1 < n; ++k) rest.push_back(arcs[(i + k) % n]);
            search(rest, more);
            if (n == 2) return;
        }
        if (cut || n < 3) return;
        for (std::size_t i = 0; i < n; ++i) {
            const Arc &before = arcs[(i + n - 1) % n], &own = arcs[i], &behind = arcs[(i + 1) % n];
            const gp_Pnt start(0.5 * (BRep_Tool::Pnt(own.from()).XYZ() + BRep_Tool::Pnt(own.to()).XYZ()));
            const auto corner = meetingPoint(before.surface, own.surface, behind.surface, start, m_allowed);
            if (!corner || corner->Distance(m_loop.middle) > 2.0 * m_loop.size) continue;
            TopoDS_Vertex vertex;
            const BRep_Builder builder;
            builder.MakeVertex(vertex, *corner, Tolerance::least);
            const auto in = edgeBetween(before, own, own.from(), vertex),
                       out = edgeBetween(own, behind, vertex, own.to());
            if (!in || !out) continue;
            Closing more = sofar;
            Arc outline = own, one = before, two = behind;
            outline.append({TopoDS::Edge(out->Reversed()), TopoDS::Edge(in->Reversed())});
            if (!close(more, outline)) continue;
            one.edges.push_back(*in);
            two.edges.insert(two.edges.begin(), *out);
            std::vector<Arc> rest{one, two};
            for (std::size_t k = 2; k + 1 < n; ++k) rest.push_back(arcs[(i + k) % n]);
            search(rest, more);
        }
    }

    /// Adds a closed outline, unless it makes no face or more area than the best so far.
    bool close(Closing& closing, const Arc& outline) const {
        double deviation = 0.0;
        // Tried on a copy: a trace that is written onto an edge stays there.
        Arc trial{outline.surface, {}};
        TopoDS_Wire wire;
        const BRep_Builder builder;
        builder.MakeWire(wire);
        for (const TopoDS_Edge& edge : outline.edges) builder.Add(wire, edge);
        const TopoDS_Shape copy = BRepBuilderAPI_Copy(wire, true).Shape();
        for (TopoDS_Iterator it(copy); it.More(); it.Next()) trial.edges.push_back(TopoDS::Edge(it.Value()));
        const auto face = faceOf(trial, {}, deviation);
        if (!face || !soundFace(*face)) return false;
        closing.area += areaOf(*face);
        closing.faces.push_back(outline);
        return !m_best || closing.area < m_best->area;
    }

    [[nodiscard]] std::vector<std::size_t> islandsIn(const Arc& outline,
                                                     const std::vector<const OpenLoop*>& others) const {
        std::vector<std::size_t> islands;
        const GeomAdaptor_Surface surface(outline.surface);
        if (surface.GetType() != GeomAbs_Plane) return islands;
        for (std::size_t k = 0; k < others.size(); ++k)
            if (offOf(outline.surface, samples(others[k]->edges, 5), m_allowed) <= m_allowed &&
                encloses(surface.Plane(), outline.edges, samples(others[k]->edges, 1).front()))
                islands.push_back(k);
        return islands;
    }

    [[nodiscard]] std::optional<TopoDS_Face> faceOf(const Arc& outline, const std::vector<const OpenLoop*>& islands,
                                                    double& deviation) const {
        OpenLoop loop;
        loop.edges = outline.edges;
        measureLoop(loop);
        std::vector<const OpenLoop*> all{&loop};
        all.insert(all.end(), islands.begin(), islands.end());
        return faceFromLoops(outline.surface, all, 4.0 * m_allowed, deviation);
    }
};

}  // namespace

CornerPatch cornerPatch(const OpenLoop& loop, const std::vector<TopoDS_Face>& neighbours,
                        const std::vector<const OpenLoop*>& others, double allowed) {
    return Closer(loop, neighbours, allowed).run(others);
}

}  // namespace rasoir::mend
