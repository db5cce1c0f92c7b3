#include "survey/sheet_holes.h"

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepTools.hxx>
#include <gp_Circ.hxx>
#include <map>
#include <numeric>
#include <set>
#include <TopExp.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Iterator.hxx>
#include <TopoDS_Wire.hxx>

#include "common/guard.h"
#include "common/tolerance.h"
#include "geometry/edge_probe.h"
#include "topology/incidence.h"

namespace rasoir::survey {
namespace {

/// `loop`: edges as they run, one after another.
std::optional<Hole> holeOf(const Incidence& topology, int f, const std::vector<TopoDS_Edge>& loop, double targetSize) {
    Hole hole;
    hole.kind = HoleKind::Sheet;
    hole.through = true;
    hole.sheetFace = f;
    hole.body = -1;
    double length = 0.0;
    gp_XYZ sum(0, 0, 0);
    std::vector<gp_Pnt> outline;
    std::optional<gp_Circ> circle;
    bool round = true;
    for (const TopoDS_Edge& edge : loop) {
        const int e = topology.edgeNumber(edge);
        if (e == 0 || topology.facesAt(e) != 1 || BRep_Tool::Degenerated(edge)) return std::nullopt;
        hole.rim.push_back(e);
        const EdgeProbe probe(topology.edge(e));
        length += probe.length();
        constexpr int pieces = 16;
        for (int i = 0; i < pieces; ++i) {
            const bool ahead = edge.Orientation() != TopAbs_REVERSED;
            const double share = static_cast<double>(i) / pieces;  // corners among them: exact for polygons
            outline.push_back(probe.value(ahead ? probe.first() + share * (probe.last() - probe.first())
                                                : probe.last() - share * (probe.last() - probe.first())));
            sum += outline.back().XYZ() * (probe.length() / pieces);
        }
        const BRepAdaptor_Curve curve(topology.edge(e));
        if (curve.GetType() != GeomAbs_Circle) {
            round = false;
            continue;
        }
        if (!circle)
            circle = curve.Circle();
        else
            round = round &&
                    std::abs(circle->Radius() - curve.Circle().Radius()) < Tolerance::sameSize * circle->Radius() &&
                    circle->Location().Distance(curve.Circle().Location()) < Tolerance::sameSize * circle->Radius();
    }
    if (hole.rim.empty() || !(length > 0.0)) return std::nullopt;
    hole.middle = gp_Pnt(sum / length);
    gp_Vec area(0, 0, 0);  // of the outline seen from its middle
    for (std::size_t i = 0; i < outline.size(); ++i)
        area += gp_Vec(hole.middle, outline[i]).Crossed(gp_Vec(hole.middle, outline[(i + 1) % outline.size()])) * 0.5;
    if (round && circle) {
        hole.size = 2.0 * circle->Radius();
        hole.middle = circle->Location();
        hole.diameters = {hole.size};
    } else {
        hole.size = 4.0 * area.Magnitude() / length;
    }
    if (!(hole.size > 0.0)) return std::nullopt;
    hole.axis = gp_Ax1(hole.middle, area.Magnitude() > 0.0 ? gp_Dir(area) : gp::DZ());
    std::sort(hole.rim.begin(), hole.rim.end());
    // Two rows of elements round the rim, at least eight of them in each; less what would lie in its place.
    const double around = std::max(8.0, length / targetSize);
    hole.elements = std::max(0.0, 2.0 * around - area.Magnitude() / (targetSize * targetSize));
    return hole;
}

std::vector<TopoDS_Edge> edgesOf(const TopoDS_Wire& wire) {
    std::vector<TopoDS_Edge> edges;
    for (TopoDS_Iterator it(wire); it.More(); it.Next()) edges.push_back(TopoDS::Edge(it.Value()));
    return edges;
}

/// Closed loops of open edges that lie in several faces of a sheet and are far shorter than that sheet's longest.
std::vector<std::vector<TopoDS_Edge>> loopsAcross(const Incidence& topology) {
    std::vector<int> parent(static_cast<std::size_t>(topology.faceCount()) + 1);
    std::iota(parent.begin(), parent.end(), 0);
    const auto root = [&parent](int f) {
        while (parent[f] != f) f = parent[f] = parent[parent[f]];
        return f;
    };
    std::map<int, std::vector<int>> startingAt;  // vertex -> open edges that leave it, the sheet on their left
    const auto ends = [&](int e) {
        TopoDS_Vertex first, last;
        TopExp::Vertices(topology.edge(e), first, last);
        const bool forward = topology.usesOf(e)[0].forward;
        return std::pair(topology.vertexNumber(forward ? first : last), topology.vertexNumber(forward ? last : first));
    };
    std::vector<int> open;
    for (int e = 1; e <= topology.edgeCount(); ++e) {
        const auto uses = topology.usesOf(e);
        if (uses.size() == 2) parent[root(uses[0].face)] = root(uses[1].face);
        if (uses.size() != 1 || topology.bodyOf(uses[0].face) >= 0 || BRep_Tool::Degenerated(topology.edge(e)))
            continue;
        open.push_back(e);
        startingAt[ends(e).first].push_back(e);
    }
    struct Loop {
        std::vector<int> edges;
        double length = 0.0;
        int sheet = 0;
        bool across = false;
    };
    std::vector<Loop> loops;
    std::set<int> done;
    for (const int first : open) {
        if (done.contains(first)) continue;
        Loop loop;
        int at = first;
        bool closed = false;
        while (done.insert(at).second) {
            loop.edges.push_back(at);
            loop.length += EdgeProbe(topology.edge(at)).length();
            loop.across = loop.across || topology.usesOf(at)[0].face != topology.usesOf(first)[0].face;
            const auto next = startingAt.find(ends(at).second);
            if (next == startingAt.end() || next->second.size() != 1) break;  // loops that touch are not told apart
            at = next->second.front();
            closed = at == first;
        }
        if (!closed) continue;
        loop.sheet = root(topology.usesOf(first)[0].face);
        loops.push_back(std::move(loop));
    }
    std::map<int, double> longest;
    for (const Loop& loop : loops) longest[loop.sheet] = std::max(longest[loop.sheet], loop.length);
    std::vector<std::vector<TopoDS_Edge>> found;
    for (const Loop& loop : loops) {
        if (!loop.across || loop.length > 0.35 * longest[loop.sheet]) continue;
        std::vector<TopoDS_Edge> edges;
        for (const int e : loop.edges)
            edges.push_back(TopoDS::Edge(
                topology.edge(e).Oriented(topology.usesOf(e)[0].forward ? TopAbs_FORWARD : TopAbs_REVERSED)));
        found.push_back(std::move(edges));
    }
    return found;
}

}  // namespace

std::vector<Hole> findSheetHoles(const Part& part, double targetSize) {
    std::vector<Hole> found;
    const Incidence& topology = part.incidence();
    for (int f = 1; f <= topology.faceCount(); ++f) {
        if (topology.bodyOf(f) >= 0) continue;
        (void)guarded("Looking at a sheet", [&]() -> Result<void> {
            const TopoDS_Face face = topology.face(f);
            const TopoDS_Wire outer = BRepTools::OuterWire(face);
            for (TopoDS_Iterator it(face); it.More(); it.Next()) {
                if (it.Value().ShapeType() != TopAbs_WIRE || it.Value().IsSame(outer)) continue;
                if (auto hole = holeOf(topology, f, edgesOf(TopoDS::Wire(it.Value())), targetSize))
                    found.push_back(std::move(*hole));
            }
            return {};
        });
    }
    (void)guarded("Looking at a sheet", [&]() -> Result<void> {
        for (const auto& loop : loopsAcross(topology))
            if (auto hole =
                    holeOf(topology, topology.usesOf(topology.edgeNumber(loop.front()))[0].face, loop, targetSize)) {
                hole->across = true;
                found.push_back(std::move(*hole));
            }
        return {};
    });
    std::stable_sort(found.begin(), found.end(), [](const Hole& a, const Hole& b) { return a.size < b.size; });
    return found;
}

}  // namespace rasoir::survey
