#include "divide/piece_measures.h"

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <GCPnts_AbscissaPoint.hxx>
#include <set>

#include "common/tolerance.h"
#include "geometry/ray_field.h"
#include "model/model.h"
#include "model/places.h"
#include "topology/edge_angle.h"

namespace rasoir::divide {
namespace {

std::optional<double> lesser(const std::optional<double>& a, const std::optional<double>& b) {
    if (!a || !b) return a ? a : b;
    return std::min(*a, *b);
}

}  // namespace

PieceMeasures least(const PieceMeasures& a, const PieceMeasures& b) {
    return {lesser(a.thinnest, b.thinnest), lesser(a.shortestEdge, b.shortestEdge), lesser(a.leastAngle, b.leastAngle)};
}

PieceMeasures measuresOf(const arrange::Chosen& piece, Progress& progress) {
    PieceMeasures found;
    if (piece.cutFaces.empty() || piece.shape.IsNull()) return found;
    const auto part = std::make_shared<Part>("piece", piece.shape);
    const Incidence& topology = part->incidence();
    const std::set<int> cut(piece.cutFaces.begin(), piece.cutFaces.end());
    std::set<int> rims;
    for (const int f : cut)
        for (const int e : topology.edgesOf(f)) rims.insert(e);
    for (const int e : rims) {
        const TopoDS_Edge edge = topology.edge(e);
        if (BRep_Tool::Degenerated(edge)) continue;
        found.shortestEdge =
            lesser(found.shortestEdge, GCPnts_AbscissaPoint::Length(BRepAdaptor_Curve(edge), Tolerance::least));
        if (topology.facesAt(e) != 2) continue;
        const double turn = edgeAngle(topology, e).turn;
        found.leastAngle = lesser(found.leastAngle, (M_PI - turn) * 180.0 / M_PI);
    }
    if (piece.solids == 0) return found;
    constexpr double deviation = 2e-3;  // of the piece's size
    const RayField field(aloneInPlace(part), {}, deviation, progress);
    const double beyond = field.ownSkin();
    for (const RayField::Triangle& triangle : field.triangles()) {
        if (!cut.contains(triangle.face) || triangle.normal.Magnitude() < 0.5) continue;
        if (const auto hit = field.first(triangle.middle, gp_Dir(-triangle.normal), beyond))
            found.thinnest = lesser(found.thinnest, hit->distance);
    }
    return found;
}

}  // namespace rasoir::divide
