#include "shapes.h"

#include <BRepAdaptor_Curve.hxx>
#include <BRepAlgoAPI_Common.hxx>
#include <BRepAlgoAPI_Cut.hxx>
#include <BRepAlgoAPI_Fuse.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakePolygon.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepFilletAPI_MakeChamfer.hxx>
#include <BRepFilletAPI_MakeFillet.hxx>
#include <BRepGProp.hxx>
#include <BRepLib.hxx>
#include <BRepOffsetAPI_MakePipeShell.hxx>
#include <BRepPrimAPI_MakeBox.hxx>
#include <BRepPrimAPI_MakeCone.hxx>
#include <BRepPrimAPI_MakeCylinder.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <BRepPrimAPI_MakeSphere.hxx>
#include <BRepPrimAPI_MakeTorus.hxx>
#include <GCE2d_MakeSegment.hxx>
#include <GCPnts_AbscissaPoint.hxx>
#include <Geom2d_TrimmedCurve.hxx>
#include <Geom_CylindricalSurface.hxx>
#include <GProp_GProps.hxx>
#include <ShapeUpgrade_UnifySameDomain.hxx>
#include <stdexcept>
#include <TopTools_ListOfShape.hxx>

namespace rasoir::demo {

TopoDS_Shape box(double x0, double y0, double z0, double x1, double y1, double z1) {
    return BRepPrimAPI_MakeBox(gp_Pnt(x0, y0, z0), gp_Pnt(x1, y1, z1)).Shape();
}
TopoDS_Shape rod(const gp_Ax1& axis, double radius, double length) {
    return BRepPrimAPI_MakeCylinder(gp_Ax2(axis.Location(), axis.Direction()), radius, length).Shape();
}
TopoDS_Shape cone(const gp_Ax1& axis, double radius0, double radius1, double length) {
    return BRepPrimAPI_MakeCone(gp_Ax2(axis.Location(), axis.Direction()), radius0, radius1, length).Shape();
}
TopoDS_Shape ball(const gp_Pnt& centre, double radius) {
    return BRepPrimAPI_MakeSphere(centre, radius).Shape();
}
TopoDS_Shape ring(const gp_Ax1& axis, double ringRadius, double radius) {
    return BRepPrimAPI_MakeTorus(gp_Ax2(axis.Location(), axis.Direction()), ringRadius, radius).Shape();
}

TopoDS_Shape prismY(const std::vector<std::pair<double, double>>& xz, double y0, double length) {
    BRepBuilderAPI_MakePolygon polygon;
    for (const auto& [x, z] : xz) polygon.Add(gp_Pnt(x, y0, z));
    polygon.Close();
    return BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(polygon.Wire()).Face(), gp_Vec(0, length, 0)).Shape();
}

TopoDS_Shape obround(const gp_Ax1& axis, const gp_Dir& across, double length, double width, double depth) {
    const gp_Vec half = gp_Vec(across) * (0.5 * (length - width));
    const gp_Vec side = gp_Vec(axis.Direction().Crossed(across)) * (0.5 * width);
    const gp_Pnt centre = axis.Location();
    BRepBuilderAPI_MakePolygon polygon(centre.Translated(half + side), centre.Translated(half - side),
                                       centre.Translated(-half - side), centre.Translated(-half + side), true);
    TopoDS_Shape shape =
        BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(polygon.Wire()).Face(), gp_Vec(axis.Direction()) * depth).Shape();
    for (const double end : {-1.0, 1.0}) shape = unite(shape, rod(axis.Translated(half * end), 0.5 * width, depth));
    return tidied(shape);
}

TopoDS_Shape wound(double inner, double outer, double narrow, double wide, double lead, double turns, double z) {
    const double middle = 0.5 * (inner + outer);
    const Handle(Geom_CylindricalSurface) cylinder = new Geom_CylindricalSurface(gp::XOY(), middle);
    TopoDS_Edge helix =
        BRepBuilderAPI_MakeEdge(
            GCE2d_MakeSegment(gp_Pnt2d(0, z), gp_Pnt2d(2.0 * M_PI * turns, z + lead * turns)).Value(), cylinder)
            .Edge();
    BRepLib::BuildCurves3d(helix);
    BRepBuilderAPI_MakePolygon section(gp_Pnt(inner, 0, z - 0.5 * narrow), gp_Pnt(outer, 0, z - 0.5 * wide),
                                       gp_Pnt(outer, 0, z + 0.5 * wide), gp_Pnt(inner, 0, z + 0.5 * narrow), true);
    BRepOffsetAPI_MakePipeShell pipe(BRepBuilderAPI_MakeWire(helix).Wire());
    pipe.SetMode(gp::DZ());
    pipe.Add(section.Wire());
    pipe.Build();
    pipe.MakeSolid();
    return pipe.Shape();
}
TopoDS_Shape unite(const TopoDS_Shape& a, const TopoDS_Shape& b) {
    return BRepAlgoAPI_Fuse(a, b).Shape();
}
TopoDS_Shape subtract(const TopoDS_Shape& a, const TopoDS_Shape& b) {
    return BRepAlgoAPI_Cut(a, b).Shape();
}
TopoDS_Shape intersect(const TopoDS_Shape& a, const TopoDS_Shape& b) {
    return BRepAlgoAPI_Common(a, b).Shape();
}
TopoDS_Shape moved(const TopoDS_Shape& shape, const gp_Trsf& by) {
    return shape.Moved(TopLoc_Location(by));
}

TopoDS_Shape subtractAll(const TopoDS_Shape& body, const std::vector<TopoDS_Shape>& tools) {
    TopoDS_Shape result = body;
    for (const TopoDS_Shape& tool : tools) result = subtract(result, tool);
    return result;
}

TopoDS_Shape tidied(const TopoDS_Shape& shape) {
    ShapeUpgrade_UnifySameDomain unify(shape, true, true, false);
    unify.Build();
    TopExp_Explorer solid(unify.Shape(), TopAbs_SOLID);
    const TopoDS_Shape first = solid.Current();
    solid.Next();
    return solid.More() ? unify.Shape() : first;
}

namespace {

template <class Maker, class Add>
TopoDS_Shape worked(const TopoDS_Shape& shape, Maker& maker, const std::function<bool(const EdgeFacts&)>& wanted,
                    const Add& add) {
    TopTools_IndexedMapOfShape edges;
    TopExp::MapShapes(shape, TopAbs_EDGE, edges);
    int count = 0;
    for (int e = 1; e <= edges.Extent(); ++e) {
        const TopoDS_Edge edge = TopoDS::Edge(edges(e));
        if (BRep_Tool::Degenerated(edge)) continue;
        const BRepAdaptor_Curve curve(edge);
        EdgeFacts facts;
        gp_Vec along;
        curve.D1(0.5 * (curve.FirstParameter() + curve.LastParameter()), facts.middle, along);
        facts.along = gp_Dir(along);
        facts.straight = curve.GetType() == GeomAbs_Line;
        facts.circle = curve.GetType() == GeomAbs_Circle;
        facts.length = GCPnts_AbscissaPoint::Length(curve);
        if (!wanted(facts)) continue;
        add(edge);
        ++count;
    }
    if (count == 0) throw std::runtime_error("no edge to work on");
    maker.Build();
    if (!maker.IsDone()) throw std::runtime_error("the kernel could not round or chamfer");
    TopExp_Explorer solid(maker.Shape(), TopAbs_SOLID);
    return solid.Current();
}

}  // namespace

TopoDS_Shape rounded(const TopoDS_Shape& shape, double radius, const std::function<bool(const EdgeFacts&)>& wanted) {
    BRepFilletAPI_MakeFillet maker(shape);
    return worked(shape, maker, wanted, [&](const TopoDS_Edge& edge) { maker.Add(radius, edge); });
}

TopoDS_Shape chamfered(const TopoDS_Shape& shape, double width, const std::function<bool(const EdgeFacts&)>& wanted) {
    BRepFilletAPI_MakeChamfer maker(shape);
    return worked(shape, maker, wanted, [&](const TopoDS_Edge& edge) { maker.Add(width, edge); });
}

double volumeOf(const TopoDS_Shape& shape) {
    GProp_GProps properties;
    BRepGProp::VolumeProperties(shape, properties, 1e-10);  // the plain rule is off by a millionth on long splines
    return properties.Mass();
}

}  // namespace rasoir::demo
