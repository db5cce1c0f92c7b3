#include "stage/reading.h"

#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepExtrema_DistShapeShape.hxx>
#include <BRepGProp.hxx>
#include <GCPnts_AbscissaPoint.hxx>
#include <GProp_GProps.hxx>

#include "geometry/round_surface.h"
#include "topology/edge_angle.h"

namespace rasoir::app {
namespace {
QString number(double value) { return QString::fromStdString(readable(value)); }
}  // namespace

QString faceReading(const Part& part, int face) {
    const TopoDS_Face shape = part.incidence().face(face);
    const SurfaceKind kind = surfaceKind(shape);
    QString text = QString::fromStdString(surfaceKindName(kind));
    if (const auto round = roundSurface(shape)) {
        if (round->kind == SurfaceKind::Cylinder) text += QString(", Ø %1 mm").arg(number(2.0 * round->radius));
        if (round->kind == SurfaceKind::Sphere) text += QString(", R %1 mm").arg(number(round->radius));
        if (round->kind == SurfaceKind::Torus) text += QString(", R %1 round R %2 mm").arg(number(round->radius), number(round->ringRadius));
        if (round->kind == SurfaceKind::Cone) text += QString(", %1° cone").arg(number(2.0 * std::atan(std::abs(round->slope)) * 180.0 / M_PI));
        if (kind == SurfaceKind::Spline && round->kind == SurfaceKind::Cylinder) text += " (as good as a cylinder)";
    }
    GProp_GProps area;
    BRepGProp::SurfaceProperties(shape, area);
    return text + QString(", area %1 mm², %2 edges").arg(number(std::abs(area.Mass()))).arg(part.incidence().edgesOf(face).size());
}

QString edgeReading(const Part& part, int edge) {
    const Incidence& topology = part.incidence();
    const BRepAdaptor_Curve curve(topology.edge(edge));
    QString text = "edge";
    switch (curve.GetType()) {
        case GeomAbs_Line: text += ", straight"; break;
        case GeomAbs_Circle: text += QString(", circle Ø %1 mm").arg(number(2.0 * curve.Circle().Radius())); break;
        case GeomAbs_Ellipse: text += ", ellipse"; break;
        default: text += ", curved"; break;
    }
    text += QString(", %1 mm long").arg(number(GCPnts_AbscissaPoint::Length(curve, 1e-6)));
    const EdgeAngle angle = edgeAngle(topology, edge);
    const int faces = topology.facesAt(edge);
    if (angle.kind == EdgeKind::Open) return text + ", open: one face";
    if (angle.kind == EdgeKind::Many) return text + QString(", where %1 faces meet").arg(faces);
    text += ", " + QString::fromStdString(edgeKindName(angle.kind));
    if (angle.kind != EdgeKind::Smooth) text += QString(", %1° inside").arg(number(180.0 - angle.turn * 180.0 / M_PI));
    return text;
}

QString pairReading(const Part& partA, const gp_Trsf& placeA, int faceA, const Part& partB, const gp_Trsf& placeB, int faceB) {
    const TopoDS_Shape a = partA.incidence().face(faceA).Moved(TopLoc_Location(placeA));
    const TopoDS_Shape b = partB.incidence().face(faceB).Moved(TopLoc_Location(placeB));
    const BRepExtrema_DistShapeShape distance(a, b);
    QString text = distance.IsDone() ? QString("distance %1 mm").arg(number(distance.Value())) : QString("distance unknown");
    const auto direction = [](const TopoDS_Shape& face) -> std::optional<gp_Dir> {
        const BRepAdaptor_Surface surface(TopoDS::Face(face));
        if (surface.GetType() == GeomAbs_Plane) return surface.Plane().Axis().Direction();
        if (surface.GetType() == GeomAbs_Cylinder) return surface.Cylinder().Axis().Direction();
        if (surface.GetType() == GeomAbs_Cone) return surface.Cone().Axis().Direction();
        return std::nullopt;
    };
    const auto da = direction(a), db = direction(b);
    if (da && db) {
        double angle = da->Angle(*db) * 180.0 / M_PI;
        if (angle > 90.0) angle = 180.0 - angle;
        text += QString(", angle %1°").arg(number(angle));
        const auto ra = roundSurface(TopoDS::Face(a)), rb = roundSurface(TopoDS::Face(b));
        if (ra && rb && angle < 0.01)
            text += QString(", axes %1 mm apart")
                        .arg(number(gp_Vec(ra->axis.Location(), rb->axis.Location()).Crossed(gp_Vec(*da)).Magnitude()));
    }
    return text;
}

}  // namespace rasoir::app
