// The whole carrier round the arm: grip, floor pan, roof frame, damper, pivot stack, counterweight, fasteners.
#include <BRep_Builder.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakePolygon.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <TopoDS_Compound.hxx>

#include "shapes.h"
#include "truth.h"

namespace rasoir::demo {
namespace {

gp_Trsf moved(double x, double y, double z) {
    gp_Trsf t;
    t.SetTranslation(gp_Vec(x, y, z));
    return t;
}
gp_Trsf turned(const gp_Dir& about, double degrees) {
    gp_Trsf t;
    t.SetRotation(gp_Ax1(gp_Pnt(0, 0, 0), about), degrees * M_PI / 180);
    return t;
}

TopoDS_Shape hexagon(double acrossFlats, double z0, double height) {
    BRepBuilderAPI_MakePolygon polygon;
    for (int i = 0; i < 6; ++i) {
        const double angle = i * M_PI / 3, radius = acrossFlats / std::sqrt(3.0);
        polygon.Add(gp_Pnt(radius * std::cos(angle), radius * std::sin(angle), z0));
    }
    polygon.Close();
    return BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(polygon.Wire()).Face(), gp_Vec(0, 0, height)).Shape();
}

TopoDS_Shape boltWithNut() {
    TopoDS_Shape bolt = tidied(unite(hexagon(16, 0, 6.4), rod(gp_Ax1(gp_Pnt(0, 0, -34), alongZ), 5, 36)));
    bolt = chamfered(bolt, 0.8, [](const EdgeFacts& e) { return e.circle && std::abs(e.middle.Z() + 34) < 1e-6; });
    const TopoDS_Shape nut = subtract(hexagon(16, -28, 8), rod(gp_Ax1(gp_Pnt(0, 0, -40), alongZ), 5, 30));
    TopoDS_Compound both;
    const BRep_Builder builder;
    builder.MakeCompound(both);
    builder.Add(both, bolt);
    for (TopExp_Explorer solid(nut, TopAbs_SOLID); solid.More(); solid.Next()) builder.Add(both, solid.Current());
    return both;
}

TopoDS_Shape gripBlock() {
    TopoDS_Shape body = box(-90, -50, -45, 90, 50, 45);
    body = rounded(body, 6, [](const EdgeFacts& e) { return e.straight && std::abs(e.along.Z()) > 0.99; });
    body = rounded(body, 2, [](const EdgeFacts& e) { return std::abs(e.middle.Z() - 45) < 1e-6; });
    body = subtract(body, rod(gp_Ax1(gp_Pnt(-100, 0, -45), alongX), 24, 200));  // the rope's groove
    for (const double x : {-65.0, 65.0})
        for (const double y : {-36.0, 36.0}) {
            body = subtract(body, rod(gp_Ax1(gp_Pnt(x, y, 35), alongZ), 9, 20));
            body = subtract(body, rod(gp_Ax1(gp_Pnt(x, y, -60), alongZ), 5.5, 120));
        }
    body = subtract(body, obround(gp_Ax1(gp_Pnt(0, -60, 18), alongY), alongX, 50, 14, 120));
    return body;
}

TopoDS_Shape damperBody() {
    TopoDS_Shape body =
        chamfered(box(-40, -35, -80, 40, 35, 80), 3, [](const EdgeFacts& e) { return std::abs(e.along.Z()) > 0.99; });
    body = subtract(body, rod(gp_Ax1(gp_Pnt(0, 0, -60), alongZ), 20, 160));
    for (const double z : {-40.0, 0.0, 50.0}) body = subtract(body, rod(gp_Ax1(gp_Pnt(-60, 26, z), alongX), 4, 120));
    body = subtract(body, rod(gp_Ax1(gp_Pnt(30, 26, -90), alongZ), 3, 150));
    body = subtract(body, rod(gp_Ax1(gp_Pnt(-30, 26, -90), alongZ), 5, 180));
    for (const double z : {-66.0, 66.0})
        for (const double x : {-30.0, 30.0}) body = subtract(body, rod(gp_Ax1(gp_Pnt(x, -50, z), alongY), 4.5, 40));
    return body;
}

TopoDS_Shape tray() {
    TopoDS_Shape body = subtract(box(-350, -450, 0, 350, 450, 60), box(-348, -448, 3, 348, 448, 70));
    for (const double x : {-300.0, -100.0, 100.0, 300.0})
        for (const double y : {-400.0, 400.0}) body = subtract(body, rod(gp_Ax1(gp_Pnt(x, y, -10), alongZ), 5.5, 30));
    for (const double x : {-200.0, 0.0, 200.0}) body = subtract(body, rod(gp_Ax1(gp_Pnt(x, 0, -10), alongZ), 12, 30));
    return body;
}

TopoDS_Shape rectangularTube(double length) {
    const auto outline = [length](double half, double radius) {
        return rounded(box(-half, -half, 0, half, half, length), radius,
                       [](const EdgeFacts& e) { return std::abs(e.along.Z()) > 0.99; });
    };
    return subtract(outline(25, 6), outline(22, 3));
}

}  // namespace

Model carrier(const TopoDS_Shape& arm) {
    Model model;
    model.name = "ropeway carrier";
    model.fileUnit = Unit::Millimetre;
    const auto part = [&model](const std::string& name, const TopoDS_Shape& shape, Colour colour) {
        auto made = std::make_shared<Part>(name, shape);
        made->colour = colour;
        model.parts.push_back(std::move(made));
        return model.parts.size() - 1;
    };
    const auto place = [&model](std::size_t index, const gp_Trsf& where, std::vector<std::string> path = {}) {
        model.occurrences.push_back({index, where, model.parts[index]->name, std::move(path), std::nullopt});
    };
    const Colour steel{0.55, 0.56, 0.58}, forged{0.42, 0.44, 0.47}, paint{0.62, 0.22, 0.16}, brass{0.66, 0.52, 0.24},
        zinc{0.70, 0.71, 0.72};

    // The arm hangs from its eye: flange down.
    place(part("hanger arm", arm, forged), moved(0, 0, 1900) * turned(alongY, 90));
    place(part("grip block", gripBlock(), steel), moved(0, 0, 2060));

    const std::size_t trayIndex = part("tray", tray(), zinc);
    place(trayIndex, moved(0, 0, 0), {"floor pan"});
    const std::size_t rib = part("rib", box(-348, -2, 0, 348, 2, 40), zinc);
    for (int i = 0; i < 6; ++i) place(rib, moved(0, -375 + 150 * i, 3), {"floor pan"});

    const TopoDS_Shape round =
        subtract(rod(gp_Ax1(gp_Pnt(0, 0, 0), alongZ), 21, 1397), rod(gp_Ax1(gp_Pnt(0, 0, -5), alongZ), 18, 1410));
    const std::size_t post = part("round tube", round, paint);
    for (const double x : {-320.0, 320.0})
        for (const double y : {-420.0, 420.0}) place(post, moved(x, y, 3), {"roof frame"});
    const std::size_t rail = part("rectangular tube", rectangularTube(690), paint);
    for (const double y : {-420.0, -140.0, 140.0, 420.0})
        place(rail, moved(-345, y, 1425) * turned(alongY, 90), {"roof frame"});
    for (const double x : {-60.0, 60.0}) place(rail, moved(x, 345, 1451 + 25) * turned(alongX, 90), {"roof frame"});

    place(part("damper body", damperBody(), steel), moved(180, 0, 1560));

    const auto bushShape = [](double outer, double inner, double length) {
        return subtract(rod(gp_Ax1(gp_Pnt(0, 0, 0), alongY), outer, length),
                        rod(gp_Ax1(gp_Pnt(0, -1, 0), alongY), inner, length + 2));
    };
    const std::size_t pin =
        part("pin",
             chamfered(rod(gp_Ax1(gp_Pnt(0, -70, 0), alongY), 35, 140), 2, [](const EdgeFacts& e) { return e.circle; }),
             steel);
    place(pin, moved(0, 0, 1900), {"pivot stack"});
    const std::size_t bushing = part("bushing", bushShape(44.95, 35, 38), brass);
    place(bushing, moved(0, 0, 1900), {"pivot stack"});
    place(bushing, moved(0, -38, 1900), {"pivot stack"});
    const std::size_t washer = part("washer", bushShape(58, 36, 6), steel);
    for (const double y : {40.05, 46.05, -46.0, -52.0}) place(washer, moved(0, y, 1900), {"pivot stack"});

    place(part("counterweight",
               rounded(box(-150, -100, -60, 150, 100, -1), 8,
                       [](const EdgeFacts& e) { return std::abs(e.along.Z()) > 0.99; }),
               forged),
          moved(0, 0, 0));

    const std::size_t bolt = part("bolt with nut", boltWithNut(), zinc);
    for (const double x : {-300.0, -100.0, 100.0, 300.0})
        for (const double y : {-400.0, 400.0}) place(bolt, moved(x, y, 3), {"fasteners"});
    for (const double x : {-65.0, 65.0})
        for (const double y : {-36.0, 36.0}) place(bolt, moved(x, y, 2060 + 35), {"fasteners"});
    for (const double y : {-1.0, 1.0})
        for (const double z : {-1.0, 1.0}) place(bolt, moved(70 * z, 50 * y, 1900 - 400), {"fasteners"});
    for (const double x : {-180.0, -130.0, -80.0, 80.0, 130.0, 180.0})
        for (const double y : {-420.0, -140.0, 140.0, 420.0}) place(bolt, moved(x, y, 1450), {"fasteners"});
    return model;
}

}  // namespace rasoir::demo
