#include "survey/sheet_holes.h"

#include <BRepAdaptor_Curve.hxx>
#include <BRepTools.hxx>
#include <BRep_Tool.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Iterator.hxx>
#include <TopoDS_Wire.hxx>
#include <gp_Circ.hxx>

#include "common/guard.h"
#include "geometry/edge_probe.h"
#include "topology/incidence.h"

namespace rasoir::survey {
namespace {

std::optional<Hole> holeOf(const Incidence& topology, int f, const TopoDS_Wire& wire, double targetSize) {
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
    for (TopoDS_Iterator it(wire); it.More(); it.Next()) {
        const int e = topology.edgeNumber(it.Value());
        if (e == 0 || topology.facesAt(e) != 1 || BRep_Tool::Degenerated(TopoDS::Edge(it.Value()))) return std::nullopt;
        hole.rim.push_back(e);
        const EdgeProbe probe(topology.edge(e));
        length += probe.length();
        constexpr int pieces = 16;
        for (int i = 0; i < pieces; ++i) {
            const bool ahead = it.Value().Orientation() != TopAbs_REVERSED;
            const double share = static_cast<double>(i) / pieces;   // corners among them: exact for polygons
            outline.push_back(probe.value(ahead ? probe.first() + share * (probe.last() - probe.first()) : probe.last() - share * (probe.last() - probe.first())));
            sum += outline.back().XYZ() * (probe.length() / pieces);
        }
        const BRepAdaptor_Curve curve(topology.edge(e));
        if (curve.GetType() != GeomAbs_Circle) {
            round = false;
            continue;
        }
        if (!circle) circle = curve.Circle();
        else round = round && std::abs(circle->Radius() - curve.Circle().Radius()) < 1e-6 * circle->Radius() && circle->Location().Distance(curve.Circle().Location()) < 1e-6 * circle->Radius();
    }
    if (hole.rim.empty() || !(length > 0.0)) return std::nullopt;
    hole.middle = gp_Pnt(sum / length);
    gp_Vec area(0, 0, 0);   // of the outline seen from its middle
    for (std::size_t i = 0; i < outline.size(); ++i) area += gp_Vec(hole.middle, outline[i]).Crossed(gp_Vec(hole.middle, outline[(i + 1) % outline.size()])) * 0.5;
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
                if (auto hole = holeOf(topology, f, TopoDS::Wire(it.Value()), targetSize)) found.push_back(std::move(*hole));
            }
            return {};
        });
    }
    std::stable_sort(found.begin(), found.end(), [](const Hole& a, const Hole& b) { return a.size < b.size; });
    return found;
}

}  // namespace rasoir::survey
