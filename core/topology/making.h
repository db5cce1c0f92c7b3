// Making the pieces of a shape: edges on curves, poles, traces, wires, faces. The one place that knows in which order
// the kernel wants them, what a seam is and how far a vertex has to reach. Lengths in mm.
#pragma once
#include <Geom2d_Curve.hxx>
#include <Geom_Curve.hxx>
#include <Geom_Surface.hxx>
#include <gp_Pnt2d.hxx>
#include <TopLoc_Location.hxx>
#include <TopoDS_Edge.hxx>
#include <TopoDS_Face.hxx>
#include <TopoDS_Vertex.hxx>
#include <TopoDS_Wire.hxx>
#include <vector>

#include "common/tolerance.h"

namespace rasoir {

/// The edge along a curve between two of its parameters. The vertices are taken as they are: where they do not lie at
/// the edge's ends, or are new, widenEnds() follows.
[[nodiscard]] TopoDS_Edge edgeAlong(const Handle(Geom_Curve) & curve, double first, double last,
                                    const TopoDS_Vertex& from, const TopoDS_Vertex& to,
                                    double tolerance = Tolerance::least);
/// The straight edge between two vertices that lie apart.
[[nodiscard]] TopoDS_Edge straightEdge(const TopoDS_Vertex& from, const TopoDS_Vertex& to);
/// The edge without length in which a loop passes a pole of its surface: a point, and a whole side of the parameters.
[[nodiscard]] TopoDS_Edge poleEdge(const TopoDS_Vertex& tip, const Handle(Geom2d_Curve) & trace, double first,
                                   double last, const Handle(Geom_Surface) & surface, const TopLoc_Location& place,
                                   double tolerance = Tolerance::least);
/// The same along a straight line in the parameters, which runs from 0 to its length.
[[nodiscard]] TopoDS_Edge poleEdge(const TopoDS_Vertex& tip, const gp_Pnt2d& from, const gp_Pnt2d& to,
                                   const Handle(Geom_Surface) & surface, const TopLoc_Location& place,
                                   double tolerance = Tolerance::least);
/// An edge's ends become these; it has none yet.
void putEnds(TopoDS_Edge& edge, const TopoDS_Vertex& from, const TopoDS_Vertex& to);

/// Where the edge runs in the parameters of a surface, over the range of its curve. Its tolerance becomes at least the
/// one given: what the trace strays from the curve.
void putTrace(const TopoDS_Edge& edge, const Handle(Geom2d_Curve) & trace, const Handle(Geom_Surface) & surface,
              const TopLoc_Location& place, double tolerance);
/// The two traces of a seam, as the face's loop runs along the edge and against it. Where both are one, the edge has
/// the same face on both sides without being a seam, and gets a single trace.
void putTraces(const TopoDS_Edge& edge, const Handle(Geom2d_Curve) & along, const Handle(Geom2d_Curve) & against,
               const Handle(Geom_Surface) & surface, const TopLoc_Location& place, double tolerance);

/// Vertices reach at least as far as the edges that end in them. Changes them in place, as do all of these: only for
/// what no received shape holds.
void widenToTolerance(const TopoDS_Edge& edge);
/// The same, and as far as the edge's ends. Two edges that each end within a distance of a vertex may end twice as far
/// from each other, so it gets twice that distance.
void widenEnds(const TopoDS_Edge& edge);
/// A vertex that is to hold a point beside it, by the same rule.
void widenTo(const TopoDS_Vertex& vertex, const gp_Pnt& point);

/// The loop of these edges, as each of them is oriented.
[[nodiscard]] TopoDS_Wire closedWire(const std::vector<TopoDS_Edge>& edges);
/// A face without loops yet.
[[nodiscard]] TopoDS_Face blankFace(const Handle(Geom_Surface) & surface, const TopLoc_Location& place,
                                    double tolerance = Tolerance::least);
void addLoop(TopoDS_Face& face, const TopoDS_Shape& wire);
/// A compound of what is given, in its order; one alone stays itself.
[[nodiscard]] TopoDS_Shape gathered(const std::vector<TopoDS_Shape>& shapes);

}  // namespace rasoir
