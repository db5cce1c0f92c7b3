#include "topology/edge_angle.h"

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <Geom2d_Curve.hxx>
#include <GeomLProp_SLProps.hxx>
#include <gp_Pnt2d.hxx>

#include "common/tolerance.h"

namespace rasoir {

gp_Vec outwardNormal(const TopoDS_Face& face, const TopoDS_Edge& edge, double parameter) {
    double first = 0.0, last = 0.0;
    const Handle(Geom2d_Curve) trace = BRep_Tool::CurveOnSurface(edge, face, first, last);
    if (trace.IsNull()) return {};
    const gp_Pnt2d uv = trace->Value(parameter);
    gp_Pnt point;
    gp_Vec du, dv;
    BRep_Tool::Surface(face)->D1(uv.X(), uv.Y(), point, du, dv);
    gp_Vec normal = du.Crossed(dv);
    if (normal.SquareMagnitude() < Tolerance::noLengthSquare) return {};
    normal.Normalize();
    return face.Orientation() == TopAbs_REVERSED ? normal.Reversed() : normal;
}

EdgeAngle edgeAngle(const Incidence& incidence, int edge, double sameNormal) {
    const auto uses = incidence.usesOf(edge);
    if (uses.size() < 2) return {EdgeKind::Open, 0.0};
    if (uses.size() > 2) return {EdgeKind::Many, 0.0};
    const TopoDS_Edge shape = TopoDS::Edge(incidence.edge(edge).Oriented(TopAbs_FORWARD));
    const BRepAdaptor_Curve curve(shape);
    const double middle = 0.5 * (curve.FirstParameter() + curve.LastParameter());
    gp_Pnt point;
    gp_Vec along;
    curve.D1(middle, point, along);
    // On a seam both sides are the same face and the surface runs on.
    if (uses[0].face == uses[1].face) return {EdgeKind::Smooth, 0.0};
    const gp_Vec a = outwardNormal(incidence.face(uses[0].face), shape, middle);
    const gp_Vec b = outwardNormal(incidence.face(uses[1].face), shape, middle);
    if (a.SquareMagnitude() == 0.0 || b.SquareMagnitude() == 0.0 || along.SquareMagnitude() == 0.0)
        return {EdgeKind::Smooth, 0.0};
    if (!uses[0].forward) along.Reverse();  // now the first face's material lies to the left
    const double turn = std::atan2(a.Crossed(b).Dot(along.Normalized()), a.Dot(b));
    if (std::abs(turn) < sameNormal) return {EdgeKind::Smooth, turn};
    return {turn > 0.0 ? EdgeKind::Convex : EdgeKind::Concave, turn};
}

std::string edgeKindName(EdgeKind kind) {
    switch (kind) {
        case EdgeKind::Open:
            return "open";
        case EdgeKind::Smooth:
            return "smooth";
        case EdgeKind::Convex:
            return "convex";
        case EdgeKind::Concave:
            return "concave";
        case EdgeKind::Many:
            return "shared by many";
    }
    return "unknown";
}

}  // namespace rasoir
