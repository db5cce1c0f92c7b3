#include "mend/bridge.h"

#include <fmt/format.h>

#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <BRepBuilderAPI_Copy.hxx>
#include <Geom_Line.hxx>
#include <Geom_Plane.hxx>
#include <Geom_TrimmedCurve.hxx>
#include <GeomFill.hxx>
#include <TopExp.hxx>
#include <TopoDS.hxx>

#include "common/guard.h"
#include "common/tolerance.h"
#include "geometry/edge_probe.h"
#include "mend/fitting.h"
#include "mend/loops.h"
#include "topology/making.h"
#include "topology/soundness.h"

namespace rasoir::mend {
namespace {

class Bridger {
public:
    Bridger(const Incidence& topology, double exact) : m_topology(topology), m_exact(exact) {
        for (int e = 1; e <= topology.edgeCount(); ++e)
            if (topology.facesAt(e) == 1 && !BRep_Tool::Degenerated(topology.edge(e))) m_open.push_back(e);
    }

    Result<TopoDS_Face> between(const gp_Pnt& a, const gp_Pnt& b, double& width) {
        const int one = nearest(a), two = nearest(b);
        if (one == 0 || two == 0) return refused("there is no open edge near", one == 0 ? a : b);
        if (one == two) return refused("both points lie nearest to one edge", a);
        TopoDS_Edge first = walked(one), second = walked(two);
        const auto end = [](const TopoDS_Edge& edge, bool start) {
            return start ? TopExp::FirstVertex(edge, true) : TopExp::LastVertex(edge, true);
        };
        const auto apart = [](const TopoDS_Vertex& v, const TopoDS_Vertex& w) {
            return BRep_Tool::Pnt(v).Distance(BRep_Tool::Pnt(w));
        };
        // The faces beside may look opposite ways; the straight sides must not cross all the same.
        if (apart(end(first, false), end(second, true)) + apart(end(second, false), end(first, true)) >
            apart(end(first, false), end(second, false)) + apart(end(second, true), end(first, true)))
            second.Reverse();
        OpenLoop loop;
        for (const bool there : {true, false}) {
            const TopoDS_Edge &from = there ? first : second, &to = there ? second : first;
            loop.edges.push_back(from);
            const TopoDS_Vertex v = end(from, false), w = end(to, true);
            if (v.IsSame(w)) continue;
            if (apart(v, w) <= 10.0 * m_exact)
                return refused("two of their ends lie on one another: stitch those first", BRep_Tool::Pnt(v));
            loop.edges.push_back(side(v, w));
        }
        if (loop.edges.size() < 3) return refused("they already enclose nothing but a slit: stitch them", a);
        const EdgeProbe probe(first), other(second);
        for (int i = 0; i <= 8; ++i)
            width = std::max(
                width, other.nearest(probe.value(probe.first() + (probe.last() - probe.first()) * i / 8.0)).distance);
        measureLoop(loop);
        double off = 0.0, deviation = 0.0;
        const double allowed = std::max(10.0 * m_exact, Tolerance::sameSize * loop.size);
        Handle(Geom_Surface) surface;
        if (const auto plane = planeThrough(samples(loop.edges, 9), off); plane && off <= allowed)
            surface = new Geom_Plane(*plane);
        else
            surface = GeomFill::Surface(curveOf(first), curveOf(TopoDS::Edge(second.Reversed())));
        const auto face = surface.IsNull() ? std::nullopt : faceFromLoops(surface, {&loop}, 4.0 * allowed, deviation);
        if (!face || !soundFace(*face)) return refused("the face between them would not be sound", a);
        return *face;
    }

private:
    const Incidence& m_topology;
    double m_exact;
    std::vector<int> m_open;

    [[nodiscard]] static tl::unexpected<Problem> refused(const std::string& why, const gp_Pnt& at) {
        return fail(ProblemKind::NotPossible, fmt::format("The two edges could not be bridged: {}.", why),
                    "Pick two open edges that face each other.", {{}, {}, at});
    }
    [[nodiscard]] int nearest(const gp_Pnt& point) const {
        int best = 0;
        double distance = std::numeric_limits<double>::max();
        for (const int e : m_open) {
            const EdgeProbe probe(m_topology.edge(e));
            if (const double own = probe.nearest(point).distance; own < distance && own <= 0.1 * probe.length()) {
                distance = own;
                best = e;
            }
        }
        return best;
    }
    /// As a face on its open side uses it.
    [[nodiscard]] TopoDS_Edge walked(int e) const {
        return TopoDS::Edge(
            m_topology.edge(e).Oriented(m_topology.usesOf(e).front().forward ? TopAbs_REVERSED : TopAbs_FORWARD));
    }
    [[nodiscard]] TopoDS_Edge side(const TopoDS_Vertex& from, const TopoDS_Vertex& to) const {
        for (const int e : m_open) {
            const TopoDS_Edge edge = walked(e);
            if (TopExp::FirstVertex(edge, true).IsSame(from) && TopExp::LastVertex(edge, true).IsSame(to)) return edge;
        }
        return straightEdge(from, to);
    }
    [[nodiscard]] static Handle(Geom_Curve) curveOf(const TopoDS_Edge& edge) {
        double first = 0.0, last = 0.0;
        const Handle(Geom_Curve) curve = BRep_Tool::Curve(edge, first, last);
        const Handle(Geom_TrimmedCurve) part = new Geom_TrimmedCurve(curve, first, last);
        if (edge.Orientation() == TopAbs_REVERSED) part->Reverse();
        return Handle(Geom_Curve)(part);
    }
};

}  // namespace

Result<Change> bridged(const Part& part, const std::vector<std::pair<gp_Pnt, gp_Pnt>>& pairs, double exact) {
    return guarded("Bridging", [&]() -> Result<Change> {
        Chain chain{part.copy(), {}};
        for (const auto& [a, b] : pairs) {
            // The face writes traces onto the edges: never onto those of the model as it is.
            const TopoDS_Shape copy = BRepBuilderAPI_Copy(chain.part->shape, false).Shape();
            const Incidence topology(copy);
            double width = 0.0;
            const auto face = Bridger(topology, exact).between(a, b, width);
            if (!face) {
                Problem problem = face.error();
                problem.where.part = part.name;
                chain.all.items.push_back({fmt::format("bridge in {}", part.name), false, problem, a.Distance(b)});
                continue;
            }
            std::vector<TopoDS_Face> faces{*face};
            std::vector<int> numbers{0};
            for (int f = 1; f <= topology.faceCount(); ++f) {
                faces.push_back(topology.face(f));
                numbers.push_back(f);
            }
            Change change = rebuilt(topology, faces, numbers);
            change.done = 1;
            change.items.push_back({fmt::format("two edges of {} bridged by a face {} mm wide; {}", part.name,
                                                readable(width), state(change.shape)),
                                    true,
                                    {},
                                    width});
            chain.take(std::move(change));
        }
        return std::move(chain.all);
    });
}

}  // namespace rasoir::mend
