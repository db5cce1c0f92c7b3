#include "topology/making.h"

#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <Geom2d_Line.hxx>
#include <Geom_Line.hxx>
#include <TopExp.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>

#include "common/tolerance.h"

namespace rasoir {
namespace {

/// The kernel keeps curves with the edge as it runs forward.
TopoDS_Edge forwardOf(const TopoDS_Edge& edge) {
    return TopoDS::Edge(edge.Oriented(TopAbs_FORWARD));
}

}  // namespace

void putEnds(TopoDS_Edge& edge, const TopoDS_Vertex& from, const TopoDS_Vertex& to) {
    const BRep_Builder builder;
    builder.Add(edge, from.Oriented(TopAbs_FORWARD));
    builder.Add(edge, to.Oriented(TopAbs_REVERSED));
}

TopoDS_Edge edgeAlong(const Handle(Geom_Curve) & curve, double first, double last, const TopoDS_Vertex& from,
                      const TopoDS_Vertex& to, double tolerance) {
    const BRep_Builder builder;
    TopoDS_Edge edge;
    builder.MakeEdge(edge, curve, std::max(Tolerance::least, tolerance));
    putEnds(edge, from, to);
    builder.Range(edge, first, last);  // before any trace, which takes it over
    return edge;
}

TopoDS_Edge straightEdge(const TopoDS_Vertex& from, const TopoDS_Vertex& to) {
    const gp_Pnt p = BRep_Tool::Pnt(from), q = BRep_Tool::Pnt(to);
    return edgeAlong(new Geom_Line(p, gp_Dir(gp_Vec(p, q))), 0.0, p.Distance(q), from, to);
}

TopoDS_Edge poleEdge(const TopoDS_Vertex& tip, const Handle(Geom2d_Curve) & trace, double first, double last,
                     const Handle(Geom_Surface) & surface, const TopLoc_Location& place, double tolerance) {
    const BRep_Builder builder;
    TopoDS_Edge edge;
    builder.MakeEdge(edge);
    builder.UpdateEdge(edge, trace, surface, place, tolerance);
    putEnds(edge, tip, tip);
    builder.Range(edge, surface, place, first, last);
    builder.Degenerated(edge, true);
    return edge;
}

TopoDS_Edge poleEdge(const TopoDS_Vertex& tip, const gp_Pnt2d& from, const gp_Pnt2d& to,
                     const Handle(Geom_Surface) & surface, const TopLoc_Location& place, double tolerance) {
    const gp_Vec2d along(from, to);
    return poleEdge(tip, new Geom2d_Line(from, gp_Dir2d(along)), 0.0, along.Magnitude(), surface, place, tolerance);
}

void putTrace(const TopoDS_Edge& edge, const Handle(Geom2d_Curve) & trace, const Handle(Geom_Surface) & surface,
              const TopLoc_Location& place, double tolerance) {
    BRep_Builder().UpdateEdge(forwardOf(edge), trace, surface, place, tolerance);
}

void putTraces(const TopoDS_Edge& edge, const Handle(Geom2d_Curve) & along, const Handle(Geom2d_Curve) & against,
               const Handle(Geom_Surface) & surface, const TopLoc_Location& place, double tolerance) {
    double first = 0.0, last = 0.0;
    BRep_Tool::Range(forwardOf(edge), first, last);
    // The sides of a seam lie a turn of the surface apart; less than this is the same side met twice.
    constexpr double sameSide = 1e-9;
    if (along->Value(first).Distance(against->Value(first)) < sameSide)
        putTrace(edge, along, surface, place, tolerance);
    else
        BRep_Builder().UpdateEdge(forwardOf(edge), along, against, surface, place, tolerance);
}

void widenToTolerance(const TopoDS_Edge& edge) {
    const TopoDS_Edge forward = forwardOf(edge);
    for (const TopoDS_Vertex& vertex : {TopExp::FirstVertex(forward), TopExp::LastVertex(forward)})
        if (!vertex.IsNull()) BRep_Builder().UpdateVertex(vertex, BRep_Tool::Tolerance(forward));
}

void widenTo(const TopoDS_Vertex& vertex, const gp_Pnt& point) {
    BRep_Builder().UpdateVertex(vertex, 2.01 * point.Distance(BRep_Tool::Pnt(vertex)));
}

void widenEnds(const TopoDS_Edge& edge) {
    widenToTolerance(edge);
    const TopoDS_Edge forward = forwardOf(edge);
    double first = 0.0, last = 0.0;
    const Handle(Geom_Curve) curve = BRep_Tool::Curve(forward, first, last);
    if (curve.IsNull()) return;
    if (const TopoDS_Vertex from = TopExp::FirstVertex(forward); !from.IsNull()) widenTo(from, curve->Value(first));
    if (const TopoDS_Vertex to = TopExp::LastVertex(forward); !to.IsNull()) widenTo(to, curve->Value(last));
}

TopoDS_Wire closedWire(const std::vector<TopoDS_Edge>& edges) {
    const BRep_Builder builder;
    TopoDS_Wire wire;
    builder.MakeWire(wire);
    for (const TopoDS_Edge& edge : edges) builder.Add(wire, edge);
    wire.Closed(true);
    return wire;
}

TopoDS_Face blankFace(const Handle(Geom_Surface) & surface, const TopLoc_Location& place, double tolerance) {
    TopoDS_Face face;
    BRep_Builder().MakeFace(face, surface, place, tolerance);
    return face;
}

void addLoop(TopoDS_Face& face, const TopoDS_Shape& wire) {
    BRep_Builder().Add(face, wire);
}

TopoDS_Shape gathered(const std::vector<TopoDS_Shape>& shapes) {
    if (shapes.size() == 1) return shapes.front();
    const BRep_Builder builder;
    TopoDS_Compound all;
    builder.MakeCompound(all);
    for (const TopoDS_Shape& shape : shapes) builder.Add(all, shape);
    return all;
}

}  // namespace rasoir
