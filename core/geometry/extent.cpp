#include "geometry/extent.h"

#include <BndLib_Add3dCurve.hxx>
#include <BndLib_AddSurface.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepBndLib.hxx>
#include <BRepTools.hxx>
#include <BRepTopAdaptor_FClass2d.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <gp_Lin.hxx>
#include <gp_Torus.hxx>

#include "common/tolerance.h"
#include "geometry/curves.h"
#include "geometry/round_surface.h"

namespace rasoir {

namespace {

/// Where a sphere or torus is farthest along each axis of space, both ways.
std::vector<gp_Pnt> turningPoints(const GeomAdaptor_Surface& surface) {
    std::vector<gp_Pnt> points;
    for (const gp_Dir& along : {gp::DX(), gp::DY(), gp::DZ()})
        for (const double way : {-1.0, 1.0}) {
            const gp_Vec out = gp_Vec(along) * way;
            if (surface.GetType() == GeomAbs_Sphere) {
                points.push_back(surface.Sphere().Location().Translated(out * surface.Sphere().Radius()));
                continue;
            }
            const gp_Torus torus = surface.Torus();
            const gp_Vec axis(torus.Axis().Direction());
            const gp_Vec across = out - axis * out.Dot(axis);
            if (across.Magnitude() < Tolerance::noWay) continue;  // a whole circle, and it meets an edge
            points.push_back(
                torus.Location().Translated(across.Normalized() * torus.MajorRadius() + out * torus.MinorRadius()));
        }
    return points;
}

bool liesOn(const TopoDS_Face& face, const Handle(Geom_Surface) & surface, const gp_Pnt& point) {
    const auto uv = parametersOn(surface, point, Tolerance::samePlace);
    if (!uv) return false;
    BRepTopAdaptor_FClass2d classifier(face, Tolerance::least);
    return classifier.Perform(*uv) != TopAbs_OUT;
}

}  // namespace

Bnd_Box tightBox(const TopoDS_Shape& shape) {
    Bnd_Box box;
    TopTools_IndexedMapOfShape edges, faces, vertices;
    TopExp::MapShapes(shape, TopAbs_VERTEX, vertices);
    TopExp::MapShapes(shape, TopAbs_EDGE, edges);
    TopExp::MapShapes(shape, TopAbs_FACE, faces);
    for (int v = 1; v <= vertices.Extent(); ++v) box.Add(BRep_Tool::Pnt(TopoDS::Vertex(vertices(v))));
    const auto outside = [&box](const gp_Pnt& point) { return box.IsVoid() || box.IsOut(point); };
    for (int e = 1; e <= edges.Extent(); ++e) {
        const TopoDS_Edge edge = TopoDS::Edge(edges(e));
        double first = 0.0, last = 0.0;
        if (BRep_Tool::Degenerated(edge) || BRep_Tool::Curve(edge, first, last).IsNull()) continue;
        const BRepAdaptor_Curve curve(edge);
        if (curve.GetType() == GeomAbs_Line) continue;
        if (curve.GetType() <= GeomAbs_Parabola) {
            BndLib_Add3dCurve::Add(curve, 0.0, box);  // exact
            continue;
        }
        Bnd_Box rough;
        BndLib_Add3dCurve::Add(curve, 0.0, rough);
        if (rough.IsVoid() || rough.IsOpen() || outside(rough.CornerMin()) || outside(rough.CornerMax()))
            BndLib_Add3dCurve::AddOptimal(curve, first, last, 0.0, box);
    }
    for (int f = 1; f <= faces.Extent(); ++f) {
        const TopoDS_Face face = TopoDS::Face(faces(f).Oriented(TopAbs_FORWARD));
        const Handle(Geom_Surface) surface = BRep_Tool::Surface(face);
        if (surface.IsNull()) continue;
        const GeomAdaptor_Surface kind(surface);
        switch (kind.GetType()) {
            case GeomAbs_Plane:
            case GeomAbs_Cylinder:
            case GeomAbs_Cone:
            case GeomAbs_SurfaceOfExtrusion:
                continue;  // through every point runs a line that ends on an edge
            case GeomAbs_Sphere:
            case GeomAbs_Torus:
                for (const gp_Pnt& point : turningPoints(kind))
                    if (outside(point) && liesOn(face, surface, point)) box.Add(point);
                continue;
            default: {
                Bnd_Box rough;
                BndLib_AddSurface::Add(BRepAdaptor_Surface(face), 0.0, rough);
                if (rough.IsVoid() || rough.IsOpen() || outside(rough.CornerMin()) || outside(rough.CornerMax()))
                    BRepBndLib::AddOptimal(face, box, false, false);
            }
        }
    }
    return box;
}

Extent extentAlong(const TopoDS_Shape& shape, const gp_Ax3& axes) {
    gp_Trsf into;
    into.SetTransformation(axes);
    const Bnd_Box box = tightBox(shape.Moved(TopLoc_Location(into)));
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
        const bool about = curve.GetType() == GeomAbs_Circle &&
                           curve.Circle().Axis().IsParallel(axis, Tolerance::exactDirection) &&
                           line.Distance(curve.Circle().Location()) < Tolerance::rounding * curve.Circle().Radius();
        const int pieces = straight || about ? 1 : 200;
        sampled = sampled || pieces > 1;
        for (int i = 0; i <= pieces; ++i) take(curve.Value(first + (last - first) * i / pieces));
    }
    for (int f = 1; f <= faces.Extent(); ++f) {
        const TopoDS_Face face = TopoDS::Face(faces(f));
        if (surfaceKind(face) == SurfaceKind::Plane) continue;
        const auto round = roundSurface(face);
        const bool about = round && round->axis.IsParallel(axis, Tolerance::exactDirection) &&
                           line.Distance(round->axis.Location()) < Tolerance::rounding * std::max(1.0, round->radius);
        if (about && (round->kind == SurfaceKind::Cylinder || round->kind == SurfaceKind::Cone)) continue;
        if (round &&
            round->kind == SurfaceKind::Sphere) {  // never farther than its own pole of the circle square to the axis
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
            if (known.along.IsParallel(along, Tolerance::sameDirection)) {
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
            if (!curve.IsNull())
                length += curve->Value(first).Distance(curve->Value(0.5 * (first + last))) +
                          curve->Value(0.5 * (first + last)).Distance(curve->Value(last));
        }
        if (surfaceKind(face) == SurfaceKind::Plane)
            add(BRepAdaptor_Surface(face).Plane().Axis().Direction(), length * length);
        else if (const auto round = roundSurface(face); round && round->kind == SurfaceKind::Cylinder)
            add(round->axis.Direction(), length * length);
    }
    std::sort(all.begin(), all.end(),
              [](const WeighedDirection& a, const WeighedDirection& b) { return a.weight > b.weight; });
    return all;
}

}  // namespace rasoir
