#include "support/bodies.h"

#include <BRep_Builder.hxx>
#include <BRepAlgoAPI_Cut.hxx>
#include <BRepAlgoAPI_Fuse.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakePolygon.hxx>
#include <BRepBuilderAPI_MakeSolid.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepBuilderAPI_NurbsConvert.hxx>
#include <BRepBuilderAPI_Transform.hxx>
#include <BRepCheck_Analyzer.hxx>
#include <BRepGProp.hxx>
#include <BRepLib.hxx>
#include <BRepOffsetAPI_MakePipeShell.hxx>
#include <BRepPrimAPI_MakeBox.hxx>
#include <BRepPrimAPI_MakeCone.hxx>
#include <BRepPrimAPI_MakeCylinder.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <BRepPrimAPI_MakeSphere.hxx>
#include <GCE2d_MakeSegment.hxx>
#include <Geom2d_TrimmedCurve.hxx>
#include <Geom_BSplineSurface.hxx>
#include <Geom_CylindricalSurface.hxx>
#include <GeomAPI_PointsToBSplineSurface.hxx>
#include <GProp_GProps.hxx>
#include <TColgp_Array2OfPnt.hxx>
#include <TopoDS_Compound.hxx>
#include <TopTools_ListOfShape.hxx>

namespace rasoir::test {

TopoDS_Shape block(double x, double y, double z) {
    return BRepPrimAPI_MakeBox(x, y, z).Shape();
}
TopoDS_Shape sheetAt(const gp_Pnt& corner, const gp_Vec& u, const gp_Vec& v) {
    const gp_Pnt b = corner.Translated(u), c = b.Translated(v), d = corner.Translated(v);
    return BRepBuilderAPI_MakeFace(BRepBuilderAPI_MakePolygon(corner, b, c, d, true).Wire(), true).Face();
}
TopoDS_Shape rod(const gp_Ax1& axis, double radius, double length) {
    return BRepPrimAPI_MakeCylinder(gp_Ax2(axis.Location(), axis.Direction()), radius, length).Shape();
}
TopoDS_Shape coneOf(const gp_Ax1& axis, double radius0, double radius1, double length) {
    return BRepPrimAPI_MakeCone(gp_Ax2(axis.Location(), axis.Direction()), radius0, radius1, length).Shape();
}

namespace {
TopoDS_Shape single(const TopoDS_Shape& shape) {
    TopExp_Explorer it(shape, TopAbs_SOLID);
    if (!it.More()) return shape;
    const TopoDS_Shape first = it.Current();
    it.Next();
    return it.More() ? shape : first;
}
}  // namespace

TopoDS_Shape cut(const TopoDS_Shape& body, const TopoDS_Shape& tool) {
    return single(BRepAlgoAPI_Cut(body, tool).Shape());
}
TopoDS_Shape fuse(const TopoDS_Shape& a, const TopoDS_Shape& b) {
    return single(BRepAlgoAPI_Fuse(a, b).Shape());
}

TopoDS_Shape splineTopped(double x, double y, double z, double wave) {
    // A spline sheet wider than the block, extruded downwards and cut to size.
    constexpr int side = 9;
    TColgp_Array2OfPnt points(1, side, 1, side);
    for (int i = 1; i <= side; ++i)
        for (int j = 1; j <= side; ++j) {
            const double u = x * (1.6 * (i - 1) / (side - 1) - 0.3), v = y * (1.6 * (j - 1) / (side - 1) - 0.3);
            points(i, j) = gp_Pnt(u, v, z + wave * std::sin(3.0 * u / x) * std::cos(2.0 * v / y));
        }
    const Handle(Geom_BSplineSurface) surface = GeomAPI_PointsToBSplineSurface(points).Surface();
    const TopoDS_Face face = BRepBuilderAPI_MakeFace(surface, 1e-7).Face();
    const TopoDS_Shape below = BRepPrimAPI_MakePrism(face, gp_Vec(0, 0, -4.0 * (z + wave))).Shape();
    const TopoDS_Shape tall = block(x, y, z + 2.0 * wave);
    const TopoDS_Shape above = cut(tall, below);
    return cut(tall, above);
}

TopoDS_Shape moved(const TopoDS_Shape& shape, const gp_Trsf& by) {
    return BRepBuilderAPI_Transform(shape, by, true).Shape();
}
TopoDS_Shape scaledBy(const TopoDS_Shape& shape, double factor) {
    gp_Trsf scale;
    scale.SetScale(gp_Pnt(0, 0, 0), factor);
    return moved(shape, scale);
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
NeckedPin neckedPin(bool groove, double seam) {
    const double r = 10.0, ball = 11.0, level = std::sqrt(ball * ball - r * r);
    const gp_Dir up(0, 0, 1);
    const gp_Ax1 under(gp_Pnt(0, 0, -40), up), from(gp_Pnt(0, 0, 3), up);
    const TopoDS_Shape sphere =
        BRepPrimAPI_MakeSphere(gp_Ax2(gp_Pnt(), up, gp_Dir(std::cos(seam), std::sin(seam), 0)), ball).Shape();
    const TopoDS_Shape knob = fuse(rod(under, r, 38), sphere),
                       beyond = cut(rod(gp_Ax1(gp_Pnt(0, 0, -level), up), 20, 40), rod(under, r, 60));
    const TopoDS_Shape cap = cut(sphere, rod(gp_Ax1(gp_Pnt(0, 0, -20), up), 20, 26));
    const TopoDS_Shape neck = groove ? rod(from, 8.5, 3) : coneOf(from, r, std::sqrt(ball * ball - 36), 3);
    return {fuse(fuse(rod(under, r, 43), neck), cap), cut(knob, beyond), knob};
}

TopoDS_Shape asSplines(const TopoDS_Shape& shape) {
    return BRepBuilderAPI_NurbsConvert(shape, true).Shape();
}

double volumeOf(const TopoDS_Shape& shape) {
    GProp_GProps properties;
    BRepGProp::VolumeProperties(shape, properties);
    return properties.Mass();
}
bool isValid(const TopoDS_Shape& shape) {
    return BRepCheck_Analyzer(shape).IsValid();
}
int solidsIn(const TopoDS_Shape& shape) {
    int count = 0;
    for (TopExp_Explorer it(shape, TopAbs_SOLID); it.More(); it.Next()) ++count;
    return count;
}
int facesIn(const TopoDS_Shape& shape) {
    TopTools_IndexedMapOfShape faces;
    TopExp::MapShapes(shape, TopAbs_FACE, faces);
    return faces.Extent();
}
int openEdgesIn(const TopoDS_Shape& shape) {
    const Incidence topology(shape);
    int open = 0;
    for (int e = 1; e <= topology.edgeCount(); ++e)
        open += !BRep_Tool::Degenerated(topology.edge(e)) && topology.facesAt(e) != 2;
    return open;
}

Model modelOf(const TopoDS_Shape& shape, const std::string& name) {
    Model model;
    model.name = name;
    model.fileUnit = Unit::Millimetre;
    model.parts.push_back(std::make_shared<Part>(name, shape));
    model.occurrences.push_back({0, gp_Trsf(), name, {}, std::nullopt});
    return model;
}

TopoDS_Shape compoundOf(const std::vector<TopoDS_Shape>& bodies) {
    TopoDS_Compound all;
    const BRep_Builder builder;
    builder.MakeCompound(all);
    for (const TopoDS_Shape& body : bodies) builder.Add(all, body);
    return all;
}

Model withBodies(const std::vector<TopoDS_Shape>& bodies) {
    Model model;
    for (const TopoDS_Shape& body : bodies) {
        const std::string name = "body " + std::to_string(model.parts.size() + 1);
        model.occurrences.push_back({model.parts.size(), gp_Trsf(), name, {}, std::nullopt});
        model.parts.push_back(std::make_shared<Part>(name, body));
    }
    model.giveIds();
    return model;
}

gp_Trsf by(double x, double y, double z) {
    gp_Trsf move;
    move.SetTranslation(gp_Vec(x, y, z));
    return move;
}

TopoDS_Shape drilledPlate(double length, double width, double thickness, int count, double diameter) {
    const int columns = static_cast<int>(std::ceil(std::sqrt(count * length / width)));
    const int rows = (count + columns - 1) / columns;
    TopTools_ListOfShape bodies, tools;
    bodies.Append(block(length, width, thickness));
    for (int i = 0; i < count; ++i) {
        const double x = length * (i % columns + 0.5) / columns, y = width * (i / columns + 0.5) / rows;
        const bool blind = i % 2 == 1;
        tools.Append(rod(gp_Ax1(gp_Pnt(x, y, blind ? 0.4 * thickness : -1.0), gp_Dir(0, 0, 1)), 0.5 * diameter,
                         thickness + 2.0));
    }
    BRepAlgoAPI_Cut all;
    all.SetArguments(bodies);
    all.SetTools(tools);
    all.Build();
    return single(all.Shape());
}

double between(Random& random, double low, double high) {
    return std::uniform_real_distribution<double>(low, high)(random);
}

}  // namespace rasoir::test
