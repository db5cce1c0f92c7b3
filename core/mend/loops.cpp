#include "mend/loops.h"

#include <Bnd_Box.hxx>
#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <map>
#include <TopExp.hxx>
#include <TopoDS.hxx>

#include "common/tolerance.h"
#include "geometry/curves.h"
#include "topology/making.h"

namespace rasoir::mend {
namespace {

/// The loop's outline in the surface's parameters; none where it does not close there (it winds round).
struct Outline {
    std::vector<Handle(Geom2d_Curve)> traces;  // in step with each edge's own direction
    double area = 0.0;
    double deviation = 0.0;
};
std::optional<Outline> outline(const Handle(Geom_Surface) & surface, const OpenLoop& loop, double allowed) {
    Outline made;
    std::optional<gp_Pnt2d> at;
    gp_Pnt2d start;
    std::vector<gp_Pnt2d> polygon;
    for (std::size_t i = 0; i < loop.edges.size(); ++i) {
        const TopoDS_Edge& edge = loop.edges[i];
        const bool forward = edge.Orientation() != TopAbs_REVERSED;
        double first = 0.0, last = 0.0;
        const Handle(Geom_Curve) curve = BRep_Tool::Curve(edge, first, last);
        if (curve.IsNull()) return std::nullopt;
        // Traced the way the loop runs, so that the next begins where this one ended.
        const auto trace =
            traceOn(surface, forward ? curve : curve->Reversed(), forward ? first : curve->ReversedParameter(last),
                    forward ? last : curve->ReversedParameter(first), allowed, at);
        if (!trace) return std::nullopt;
        const double a = forward ? first : curve->ReversedParameter(last),
                     b = forward ? last : curve->ReversedParameter(first);
        Handle(Geom2d_Curve) own = trace->curve;
        for (int k = 0; k < 16; ++k) polygon.push_back(own->Value(a + (b - a) * k / 16.0));
        if (i == 0) start = own->Value(a);
        at = own->Value(b);
        made.deviation = std::max(made.deviation, trace->deviation);
        if (!forward) own = own->Reversed();
        // A reversed trace may run at other parameters than the curve it was made from.
        if (!forward && own->Value(first).Distance(trace->curve->Value(b)) >
                            Tolerance::parameter * std::max(1.0, own->Value(first).XY().Modulus())) {
            const auto again = traceOn(surface, curve, first, last, allowed, trace->curve->Value(b));
            if (!again) return std::nullopt;
            own = again->curve;
        }
        made.traces.push_back(own);
    }
    const gp_Pnt closed = surface->Value(at->X(), at->Y());
    // Of the range, by which ends of traces may be apart in files.
    if (at->Distance(start) > 1e-3 * std::max(1.0, start.XY().Modulus()) ||
        closed.Distance(surface->Value(start.X(), start.Y())) > 4.0 * allowed)
        return std::nullopt;
    for (std::size_t i = 0; i < polygon.size(); ++i) {
        const gp_Pnt2d &p = polygon[i], &q = polygon[(i + 1) % polygon.size()];
        made.area += 0.5 * (p.X() * q.Y() - q.X() * p.Y());
    }
    return made;
}

}  // namespace

std::optional<TopoDS_Face> faceFromLoops(const Handle(Geom_Surface) & surface,
                                         const std::vector<const OpenLoop*>& loops, double allowed, double& deviation) {
    std::vector<Outline> outlines;
    for (const OpenLoop* loop : loops) {
        auto one = outline(surface, *loop, allowed);
        // In parameters: less is a line that goes there and back.
        if (!one || std::abs(one->area) < 1e-16) return std::nullopt;
        deviation = std::max(deviation, one->deviation);
        outlines.push_back(std::move(*one));
    }
    const bool reversed = outlines.front().area < 0.0;
    const BRep_Builder builder;
    TopoDS_Face face = blankFace(surface, TopLoc_Location(), 0.1 * allowed);
    for (std::size_t i = 0; i < loops.size(); ++i) {
        const OpenLoop& loop = *loops[i];
        const double strayed = 1.1 * outlines[i].deviation;
        // An island runs against the outline; where it does not, its skin hangs on nothing else yet and is turned
        // later.
        const bool turned = i == 0 ? reversed : outlines[i].area > 0.0;
        TopoDS_Wire wire;
        builder.MakeWire(wire);
        for (std::size_t k = 0; k < loop.edges.size(); ++k) {
            const auto twin = std::find_if(loop.edges.begin(), loop.edges.end(), [&](const TopoDS_Edge& other) {
                return other.IsSame(loop.edges[k]) && !other.IsEqual(loop.edges[k]);
            });
            if (twin == loop.edges.end()) {
                putTrace(loop.edges[k], outlines[i].traces[k], surface, TopLoc_Location(), strayed);
                widenToTolerance(loop.edges[k]);
            } else if (twin > loop.edges.begin() + static_cast<std::ptrdiff_t>(k)) {  // a seam: both traces at once
                const auto& own = outlines[i].traces[k];
                const auto& other = outlines[i].traces[static_cast<std::size_t>(twin - loop.edges.begin())];
                const bool forward = (loop.edges[k].Orientation() != TopAbs_REVERSED) != turned;
                putTraces(loop.edges[k], forward ? own : other, forward ? other : own, surface, TopLoc_Location(),
                          strayed);
            }
            builder.Add(wire, loop.edges[k].Oriented(turned ? TopAbs::Reverse(loop.edges[k].Orientation())
                                                            : loop.edges[k].Orientation()));
        }
        wire.Closed(true);
        builder.Add(face, wire);
    }
    if (reversed) face.Reverse();
    return face;
}

void measureLoop(OpenLoop& loop) {
    Bnd_Box box;
    gp_XYZ sum(0, 0, 0);
    for (const TopoDS_Edge& edge : loop.edges) {
        const BRepAdaptor_Curve curve(edge);
        gp_Pnt previous = curve.Value(curve.FirstParameter());
        for (int k = 1; k <= 16; ++k) {
            const gp_Pnt point =
                curve.Value(curve.FirstParameter() + (curve.LastParameter() - curve.FirstParameter()) * k / 16.0);
            const double step = previous.Distance(point);
            sum += 0.5 * step * (previous.XYZ() + point.XYZ());
            loop.length += step;
            box.Add(point);
            previous = point;
        }
    }
    const gp_Pnt low = box.CornerMin(), high = box.CornerMax();
    loop.size = std::max({high.X() - low.X(), high.Y() - low.Y(), high.Z() - low.Z()});
    loop.middle = gp_Pnt(sum / std::max(loop.length, Tolerance::noLength));
}

std::vector<OpenLoop> openLoops(const Incidence& incidence) {
    std::vector<std::vector<int>> leaving(static_cast<std::size_t>(incidence.vertexCount()) + 1);
    std::vector<char> used(static_cast<std::size_t>(incidence.edgeCount()) + 1, false);
    std::vector<TopoDS_Edge> edges(used.size());
    std::vector<int> endOf(used.size(), 0), startOf(used.size(), 0), open;
    for (int e = 1; e <= incidence.edgeCount(); ++e) {
        if (incidence.facesAt(e) != 1) continue;
        // Against the way its face uses it.
        edges[e] = TopoDS::Edge(
            incidence.edge(e).Oriented(incidence.usesOf(e).front().forward ? TopAbs_REVERSED : TopAbs_FORWARD));
        const TopoDS_Vertex from = TopExp::FirstVertex(edges[e], true), to = TopExp::LastVertex(edges[e], true);
        if (from.IsNull() || to.IsNull()) continue;
        startOf[e] = incidence.vertexNumber(from);
        endOf[e] = incidence.vertexNumber(to);
        leaving[startOf[e]].push_back(e);
        open.push_back(e);
    }
    std::vector<OpenLoop> loops;
    for (const int seed : open) {
        if (used[seed]) continue;
        std::vector<int> chain;
        std::map<int, std::size_t> seen;  // vertex: place in the chain where it was left
        for (int e = seed; e > 0;) {
            used[e] = true;
            seen.emplace(startOf[e], chain.size());
            chain.push_back(e);
            const auto back = seen.find(endOf[e]);
            if (back != seen.end()) {  // a loop is complete; what led to it goes on alone
                OpenLoop loop;
                for (std::size_t i = back->second; i < chain.size(); ++i) {
                    loop.edges.push_back(edges[chain[i]]);
                    loop.numbers.push_back(chain[i]);
                }
                measureLoop(loop);
                loops.push_back(std::move(loop));
                const std::size_t keep = back->second;
                for (std::size_t i = keep; i < chain.size(); ++i) seen.erase(startOf[chain[i]]);
                chain.resize(keep);
                if (chain.empty()) break;
                seen.emplace(startOf[chain.back()], keep - 1);
                e = chain.back();
            }
            int next = 0;
            for (const int candidate : leaving[endOf[e]])
                if (!used[candidate]) next = candidate;
            e = next;
        }
    }
    return loops;
}

}  // namespace rasoir::mend
