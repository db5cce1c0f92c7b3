#include "arrange/maker.h"

#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <Geom2d_BSplineCurve.hxx>
#include <Geom2d_Line.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Iterator.hxx>
#include <TopoDS_Wire.hxx>

#include "common/tolerance.h"
#include "topology/making.h"

// Which objects stay is decided first, for all pieces of the body at once: an edge stays where all faces that will use
// it are faces that had it, and its ends are nobody else's; a face stays where all its edges do. So no object that
// another model holds is ever written to.

namespace rasoir::arrange {
namespace {

/// The poles of a face: sides of its parameters that are one point, where its wires have an edge without length.
/// Traces that do not quite meet elsewhere are a matter of the vertex's tolerance.
class Poles {
public:
    explicit Poles(const TopoDS_Face& face) {
        for (TopExp_Explorer it(face, TopAbs_EDGE); it.More(); it.Next()) {
            const TopoDS_Edge edge = TopoDS::Edge(it.Current());
            if (!BRep_Tool::Degenerated(edge)) continue;
            double first = 0.0, last = 0.0;
            const Handle(Geom2d_Curve) trace = BRep_Tool::CurveOnSurface(edge, face, first, last);
            if (!trace.IsNull()) m_sides.emplace_back(trace->Value(first), trace->Value(last));
        }
    }
    /// Whether a gap between two traces runs along a pole.
    [[nodiscard]] bool has(const gp_Pnt2d& here, const gp_Pnt2d& there) const {
        return std::any_of(m_sides.begin(), m_sides.end(), [&](const auto& side) {
            const gp_Vec2d along(side.first, side.second);
            const double length = along.Magnitude();
            // Beside the pole by no more than what the traces of curves that end there are known to.
            return length > 0.0 && std::abs(along.Crossed(gp_Vec2d(side.first, here))) <= 0.01 * length * length &&
                   std::abs(along.Crossed(gp_Vec2d(side.first, there))) <= 0.01 * length * length;
        });
    }

private:
    std::vector<std::pair<gp_Pnt2d, gp_Pnt2d>> m_sides;
};

bool hasEdge(const Incidence& topology, int face, int edge) {
    const auto edges = topology.edgesOf(face);
    return std::find(edges.begin(), edges.end(), edge) != edges.end();
}

}  // namespace

Maker::Maker(const Arrangement& all, const std::vector<int>& pieces) : m_all(all), m_stays(all.arcs.size(), true) {
    for (std::size_t a = 0; a < all.arcs.size(); ++a) {
        const Arc& arc = all.arcs[a];
        bool stays = arc.whole && !arc.owners.empty();
        for (const int node : {arc.from, arc.to}) {
            if (node < 0 || !stays) continue;
            const Node& end = all.nodes[node];
            stays = end.owners.size() == 1 &&
                    end.tolerance <= 1.0001 * BRep_Tool::Tolerance(TopoDS::Vertex(
                                                  all.topology[end.owners[0].input]->vertex(end.owners[0].number)));
        }
        m_stays[a] = stays;
    }
    for (const int p : pieces) {
        const Owner& face = all.pieces[p].owners.front();
        const Incidence& topology = *all.topology[face.input];
        for (const Use& use : all.pieces[p].uses) {
            const Arc& arc = all.arcs[use.arc];
            if (m_stays[use.arc])
                m_stays[use.arc] =
                    arc.owners.front().input == face.input && hasEdge(topology, face.number, arc.owners.front().number);
        }
    }
    // Traces of both senses on one surface are wanted together: of a seam they differ.
    for (const int p : pieces) {
        const Piece& piece = all.pieces[p];
        bool stays = piece.whole;
        for (const Use& use : piece.uses) stays = stays && m_stays[use.arc];
        if (stays) continue;
        TopLoc_Location place;
        const Handle(Geom_Surface) surface = BRep_Tool::Surface(all.faceOf(piece.owners.front()), place);
        for (const auto& loop : loopsOf(p))
            for (const Use& use : loop) {
                if (m_stays[use.arc]) continue;
                Ends& both = m_traces[{use.arc, surface.get()}];
                (use.forward ? both.forward : both.reversed) = use.trace;
            }
    }
}

const std::vector<std::vector<Use>>& Maker::loopsOf(int p) {
    const Piece& piece = m_all.pieces[p];
    if (!piece.whole) return piece.loops;
    const auto [known, fresh] = m_loops.try_emplace(p);
    if (!fresh) return known->second;
    const TopoDS_Face face = TopoDS::Face(m_all.faceOf(piece.owners.front()).Oriented(TopAbs_FORWARD));
    std::size_t next = 0;
    for (TopoDS_Iterator wire(face); wire.More(); wire.Next()) {
        if (wire.Value().ShapeType() != TopAbs_WIRE) continue;
        std::vector<Use> loop;
        for (TopoDS_Iterator it(wire.Value()); it.More(); it.Next()) {
            const TopoDS_Edge own = TopoDS::Edge(it.Value());
            if (BRep_Tool::Degenerated(own)) continue;
            Use use = piece.uses[next++];
            double first = 0.0, last = 0.0;
            use.trace = BRep_Tool::CurveOnSurface(own, face, first, last);
            loop.push_back(std::move(use));
        }
        known->second.push_back(std::move(loop));
    }
    return known->second;
}

TopoDS_Vertex Maker::vertex(int number) {
    auto& made = m_vertices[number];
    if (!made.IsNull()) return made;
    const Node& node = m_all.nodes[number];
    if (node.owners.size() == 1) {
        const TopoDS_Vertex own = TopoDS::Vertex(m_all.topology[node.owners[0].input]->vertex(node.owners[0].number));
        if (node.tolerance <= 1.0001 * BRep_Tool::Tolerance(own))
            return made = TopoDS::Vertex(own.Oriented(TopAbs_FORWARD));
    }
    m_newVertices.insert(number);
    BRep_Builder().MakeVertex(made, node.point, std::max(node.tolerance, Tolerance::least));
    m_widest = std::max(m_widest, node.tolerance);
    return made;
}

TopoDS_Edge Maker::edge(int number) {
    auto& made = m_edges[number];
    if (!made.IsNull()) return made;
    const Arc& arc = m_all.arcs[number];
    if (m_stays[number])
        return made = TopoDS::Edge(
                   m_all.topology[arc.owners[0].input]->edge(arc.owners[0].number).Oriented(TopAbs_FORWARD));
    made = edgeAlong(arc.curve, arc.first, arc.last, vertex(arc.from), vertex(arc.to), arc.tolerance);
    m_widest = std::max(m_widest, arc.tolerance);
    return made;
}

void Maker::addTrace(int number, const TopoDS_Face& on, const Handle(Geom2d_Curve) & trace) {
    const TopoDS_Edge own = edge(number);
    const Arc& arc = m_all.arcs[number];
    TopLoc_Location place;
    const Handle(Geom_Surface) surface = BRep_Tool::Surface(on, place);
    const Handle(Geom_Surface) placed = BRep_Tool::Surface(on);
    double off = 0.0;
    // Traces that came with a file stray between their points: looked at closely, and with room for what lies between
    // the samples, since whoever checks the result will sample elsewhere.
    int samples = 46;
    if (const auto spline = Handle(Geom2d_BSplineCurve)::DownCast(trace); !spline.IsNull())
        samples = std::max(samples, 5 * spline->NbKnots());
    for (int i = 0; i <= samples; ++i) {
        const double at = arc.first + (arc.last - arc.first) * i / samples;
        const gp_Pnt2d uv = trace->Value(at);
        off = std::max(off, placed->Value(uv.X(), uv.Y()).Distance(arc.curve->Value(at)));
    }
    const double tolerance = std::max({arc.tolerance, 2.0 * off, Tolerance::least});
    m_widest = std::max(m_widest, tolerance > Tolerance::least ? tolerance : 0.0);
    const Ends& both = m_traces.at({number, surface.get()});
    if (!both.forward.IsNull() && !both.reversed.IsNull())
        putTraces(own, both.forward, both.reversed, surface, place, tolerance);
    else
        putTrace(own, trace, surface, place, tolerance);
    // A vertex reaches as far as its edges do: traces that end at it lie anywhere within their edge's tolerance.
    for (const int node : {arc.from, arc.to})
        if (m_newVertices.contains(node)) BRep_Builder().UpdateVertex(m_vertices.at(node), tolerance);
}

TopoDS_Face Maker::face(int p, bool inwards) {
    const Piece& piece = m_all.pieces[p];
    const TopAbs_Orientation way = inwards ? TopAbs_REVERSED : TopAbs_FORWARD;
    auto& made = m_faces[p];
    if (!made.IsNull()) return TopoDS::Face(made.Oriented(way));
    const TopoDS_Face source = TopoDS::Face(m_all.faceOf(piece.owners.front()).Oriented(TopAbs_FORWARD));
    bool stays = piece.whole;
    for (const Use& use : piece.uses) stays = stays && m_stays[use.arc];
    if (stays) {
        made = source;
        return TopoDS::Face(made.Oriented(way));
    }
    const BRep_Builder builder;
    TopLoc_Location place;
    const Handle(Geom_Surface) surface = BRep_Tool::Surface(source, place);
    const Handle(Geom_Surface) placed = BRep_Tool::Surface(source);
    made = blankFace(surface, place, BRep_Tool::Tolerance(source));
    const Poles poles(source);
    for (const auto& loop : loopsOf(p)) {
        TopoDS_Wire wire;
        builder.MakeWire(wire);
        for (std::size_t i = 0; i < loop.size(); ++i) {
            const Use &use = loop[i], &next = loop[(i + 1) % loop.size()];
            const Arc &arc = m_all.arcs[use.arc], &after = m_all.arcs[next.arc];
            if (!m_stays[use.arc]) addTrace(use.arc, source, use.trace);
            builder.Add(wire, edge(use.arc).Oriented(use.forward ? TopAbs_FORWARD : TopAbs_REVERSED));
            // Where the trace ends and the next one begins elsewhere, one point of the surface has a whole side of its
            // parameters: a pole, which is an edge without length.
            const gp_Pnt2d here = use.trace->Value(use.forward ? arc.last : arc.first);
            const gp_Pnt2d there = next.trace->Value(next.forward ? after.first : after.last);
            if (here.Distance(there) <= Tolerance::least) continue;
            const gp_Pnt middle = placed->Value(0.5 * (here.X() + there.X()), 0.5 * (here.Y() + there.Y()));
            const gp_Pnt point = placed->Value(here.X(), here.Y());
            if (middle.Distance(point) > 10.0 * std::max({arc.tolerance, after.tolerance, Tolerance::samePlace}))
                continue;
            if (!poles.has(here, there)) continue;
            const TopoDS_Edge last = edge(use.arc);
            const TopoDS_Vertex tip = use.forward ? TopExp::LastVertex(last) : TopExp::FirstVertex(last);
            builder.Add(wire, poleEdge(tip, here, there, surface, place));
        }
        wire.Closed(true);
        builder.Add(made, wire);
    }
    return TopoDS::Face(made.Oriented(way));
}

}  // namespace rasoir::arrange
