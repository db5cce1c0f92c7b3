#include "geometry/extent.h"

#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepBndLib.hxx>
#include <BRepTools.hxx>
#include <Bnd_Box.hxx>
#include <gp_Lin.hxx>

#include "geometry/round_surface.h"

namespace rasoir {

Extent extentAlong(const TopoDS_Shape& shape, const gp_Ax3& axes) {
    gp_Trsf into;
    into.SetTransformation(axes);
    Bnd_Box box;
    BRepBndLib::AddOptimal(shape.Moved(TopLoc_Location(into)), box, false, false);
    Extent extent;
    if (box.IsVoid()) return extent;
    const gp_Pnt low = box.CornerMin(), high = box.CornerMax();
    extent.low = {low.X(), low.Y(), low.Z()};
    extent.high = {high.X(), high.Y(), high.Z()};
    return extent;
}

std::tuple<double, double, double> reachRound(const TopoDS_Shape& shape, const gp_Ax1& axis) {
    const gp_Lin line(axis);
    double reach = 0.0;
    bool sampled = false;
    const auto take = [&](const gp_Pnt& point) { reach = std::max(reach, line.Distance(point)); };
    // On a plane, and on a surface that turns about this axis, the farthest point lies on an edge.
    TopTools_IndexedMapOfShape edges, faces;
    TopExp::MapShapes(shape, TopAbs_EDGE, edges);
    TopExp::MapShapes(shape, TopAbs_FACE, faces);
    for (int e = 1; e <= edges.Extent(); ++e) {
        const TopoDS_Edge edge = TopoDS::Edge(edges(e));
        double first = 0.0, last = 0.0;
        if (BRep_Tool::Degenerated(edge) || BRep_Tool::Curve(edge, first, last).IsNull()) continue;
        const BRepAdaptor_Curve curve(edge);
        const bool straight = curve.GetType() == GeomAbs_Line;
        const bool about = curve.GetType() == GeomAbs_Circle && curve.Circle().Axis().IsParallel(axis, 1e-9) && line.Distance(curve.Circle().Location()) < 1e-9 * curve.Circle().Radius();
        const int pieces = straight || about ? 1 : 200;
        sampled = sampled || pieces > 1;
        for (int i = 0; i <= pieces; ++i) take(curve.Value(first + (last - first) * i / pieces));
    }
    for (int f = 1; f <= faces.Extent(); ++f) {
        const TopoDS_Face face = TopoDS::Face(faces(f));
        if (surfaceKind(face) == SurfaceKind::Plane) continue;
        const auto round = roundSurface(face);
        const bool about = round && round->axis.IsParallel(axis, 1e-9) && line.Distance(round->axis.Location()) < 1e-9 * std::max(1.0, round->radius);
        if (about && (round->kind == SurfaceKind::Cylinder || round->kind == SurfaceKind::Cone)) continue;
        if (round && round->kind == SurfaceKind::Sphere) {  // never farther than its own pole of the circle square to the axis
            take(round->axis.Location());
            reach = std::max(reach, line.Distance(round->axis.Location()) + round->radius);
            continue;
        }
        double u0 = 0.0, u1 = 0.0, v0 = 0.0, v1 = 0.0;
        BRepTools::UVBounds(face, u0, u1, v0, v1);
        const Handle(Geom_Surface) surface = BRep_Tool::Surface(face);
        constexpr int grid = 40;
        for (int i = 0; i <= grid; ++i)
            for (int j = 0; j <= grid; ++j) take(surface->Value(u0 + (u1 - u0) * i / grid, v0 + (v1 - v0) * j / grid));
        sampled = true;
    }
    const gp_Ax3 along(axis.Location(), axis.Direction());
    const Extent extent = extentAlong(shape, along);
    return {sampled ? reach * 1.001 : reach, extent.low[2], extent.high[2]};
}

std::vector<WeighedDirection> mainDirections(const Incidence& topology) {
    std::vector<WeighedDirection> all;
    const auto add = [&all](const gp_Dir& along, double weight) {
        for (WeighedDirection& known : all)
            if (known.along.IsParallel(along, 1e-6)) {
                known.weight += weight;
                return;
            }
        if (all.size() < 200) all.push_back({along, weight});
    };
    for (int f = 1; f <= topology.faceCount(); ++f) {
        const TopoDS_Face face = topology.face(f);
        double length = 0.0;
        for (const int e : topology.edgesOf(f)) {
            double first = 0.0, last = 0.0;
            const TopoDS_Edge edge = topology.edge(e);
            if (BRep_Tool::Degenerated(edge)) continue;
            const Handle(Geom_Curve) curve = BRep_Tool::Curve(edge, first, last);
            if (!curve.IsNull()) length += curve->Value(first).Distance(curve->Value(0.5 * (first + last))) + curve->Value(0.5 * (first + last)).Distance(curve->Value(last));
        }
        if (surfaceKind(face) == SurfaceKind::Plane) add(BRepAdaptor_Surface(face).Plane().Axis().Direction(), length * length);
        else if (const auto round = roundSurface(face); round && round->kind == SurfaceKind::Cylinder) add(round->axis.Direction(), length * length);
    }
    std::sort(all.begin(), all.end(), [](const WeighedDirection& a, const WeighedDirection& b) { return a.weight > b.weight; });
    return all;
}

}  // namespace rasoir
