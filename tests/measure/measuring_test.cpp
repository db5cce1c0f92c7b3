// Thickness, distances, angles and readings on bodies of known answer.
#include <BRepPrimAPI_MakeSphere.hxx>
#include <BRepPrimAPI_MakeTorus.hxx>

#include "geometry/round_surface.h"
#include "measure/between.h"
#include "measure/thickness.h"
#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

class MeasuringTest : public QObject {
    Q_OBJECT

    static gp_Ax1 zAxis(double z = 0.0) { return gp_Ax1(gp_Pnt(0, 0, z), gp_Dir(0, 0, 1)); }
    static std::optional<measure::Thickness> at(const Model& model, int face, const gp_Pnt& point) {
        const RayField field(model, {}, 1e-3, quietly());
        return measure::thicknessAt(model, field, 0, face, point.Transformed(model.occurrences[0].placement));
    }
    static int faceOf(const TopoDS_Shape& shape, SurfaceKind kind,
                      const std::function<bool(const RoundSurface&)>& wanted = {}) {
        const Incidence topology(shape);
        for (int f = 1; f <= topology.faceCount(); ++f) {
            const auto round = roundSurface(topology.face(f));
            if (surfaceKind(topology.face(f)) == kind && (!wanted || (round && wanted(*round)))) return f;
        }
        return 0;
    }
    static gp_Trsf somewhere() {
        gp_Trsf turn, shift;
        turn.SetRotation(gp_Ax1(gp_Pnt(1, 2, 3), gp_Dir(1, 1, 0.3)), 0.8);
        shift.SetTranslation(gp_Vec(200, -50, 30));
        return shift * turn;
    }

private slots:
    void platesTubesAndSpheresHaveTheirThickness() {
        for (const bool placed : {false, true}) {
            const auto check = [&](const TopoDS_Shape& shape, int face, const gp_Pnt& point, double ray, double sphere,
                                   double allowed) {
                Model model = modelOf(shape);
                if (placed) model.occurrences.change(0).placement = somewhere();
                const auto thickness = at(model, face, point);
                QVERIFY(thickness.has_value());
                QCOMPARE_NEAR(thickness->ray, ray, 1e-6 * ray);
                QCOMPARE_NEAR(thickness->sphere, sphere, allowed * sphere);
            };
            const TopoDS_Shape plate = block(100, 60, 8);
            const Incidence topology(plate);
            for (int f = 1; f <= 6; ++f) {
                const measure::Reading reading = measure::readingOf(modelOf(plate), {0, f});
                if (reading.centre->Z() > 7.9) check(plate, f, gp_Pnt(50, 30, 8), 8, 8, 1e-6);
            }
            const TopoDS_Shape tube = cut(rod(zAxis(), 20, 60), rod(zAxis(-1), 17, 70));
            const int outside = faceOf(tube, SurfaceKind::Cylinder, [](const RoundSurface& r) { return !r.inward; });
            const int inner = faceOf(tube, SurfaceKind::Cylinder, [](const RoundSurface& r) { return r.inward; });
            check(tube, outside, gp_Pnt(20 * std::cos(1.0), 20 * std::sin(1.0), 30), 3, 3, 1e-3);
            check(tube, inner, gp_Pnt(17 * std::cos(2.0), 17 * std::sin(2.0), 30), 3, 3, 1e-3);
            const TopoDS_Shape ball = BRepPrimAPI_MakeSphere(12).Shape();
            check(ball, 1, gp_Pnt(12 * std::cos(0.3), 0, 12 * std::sin(0.3)), 24, 24, 1e-3);
            const TopoDS_Shape shell = cut(ball, BRepPrimAPI_MakeSphere(10).Shape());
            const int skin = faceOf(shell, SurfaceKind::Sphere, [](const RoundSurface& r) { return r.radius > 11; });
            check(shell, skin, gp_Pnt(12 * std::cos(0.3), 0, 12 * std::sin(0.3)), 2, 2, 1e-3);
            check(rod(zAxis(), 5, 80), faceOf(rod(zAxis(), 5, 80), SurfaceKind::Cylinder), gp_Pnt(5, 0, 40), 10, 10,
                  1e-3);
            check(BRepPrimAPI_MakeTorus(30, 4).Shape(), 1, gp_Pnt(34, 0, 0), 8, 8, 2e-3);
        }
    }
    void aBallInAWedgeIsSmallerThanTheWayThrough() {
        // Near the edge of a block the ball touches the side: its diameter is twice the distance from the side.
        const TopoDS_Shape shape = block(100, 60, 30);
        for (int f = 1; f <= 6; ++f) {
            const Model model = modelOf(shape);
            if (measure::readingOf(model, {0, f}).centre->Z() < 29.9) continue;
            const auto thickness = at(model, f, gp_Pnt(4, 30, 30));
            QVERIFY(thickness.has_value());
            QCOMPARE_NEAR(thickness->ray, 30.0, 1e-9);
            QCOMPARE_NEAR(thickness->sphere, 8.0, 1e-6);
        }
    }
    void aSheetHasNoThickness() {
        const Model model = modelOf(TopExp_Explorer(block(10, 20, 30), TopAbs_FACE).Current());
        QVERIFY(!at(model, 1, gp_Pnt(0, 10, 15)).has_value());
        QVERIFY(!measure::thicknessMap(model.parts[0], quietly()));
    }
    void theMapFindsTheWalls() {
        // A tray of 3 mm walls and a 5 mm floor.
        gp_Trsf in;
        in.SetTranslation(gp_Vec(3, 3, 5));
        const auto part = std::make_shared<Part>("tray", cut(block(100, 60, 40), moved(block(94, 54, 40), in)));
        const auto map = measure::thicknessMap(part, quietly());
        QVERIFY2(map, said(map));
        QCOMPARE_NEAR(map->least, 3.0, 1e-4);
        for (int f = 1; f <= part->incidence().faceCount(); ++f) {
            const measure::Reading reading = measure::readingOf(modelOf(part->shape), {0, f});
            const double own = map->thicknessOfFace[static_cast<std::size_t>(f)];
            if (std::abs(reading.direction->Z()) > 0.99 && reading.centre->Z() < 6) QCOMPARE_NEAR(own, 5.0, 1e-4);
            if (std::abs(reading.direction->Z()) < 0.01)
                QVERIFY2(std::abs(own - 3.0) < 1e-4 || own > 50, qPrintable(QString::number(own)));
        }
        Progress stopped;
        stopped.cancel();
        QVERIFY(!measure::thicknessMap(part, stopped));
    }
    void readingsOfEveryKind() {
        const Model plate = modelOf(drilledPlate(100, 60, 8, 1, 6.5));
        const int wall = faceOf(plate.parts[0]->shape, SurfaceKind::Cylinder);
        const measure::Reading hole = measure::readingOf(plate, {0, wall});
        QCOMPARE_NEAR(*hole.radius, 3.25, 1e-9);
        QVERIFY(!hole.convex);
        QVERIFY2(measure::inWords(hole).starts_with("cylinder, Ø 6.5 mm"), measure::inWords(hole).c_str());
        QVERIFY(measure::inWords(hole, Unit::Inch).find("0.2559 in") != std::string::npos);
        const Model ring = modelOf(BRepPrimAPI_MakeTorus(20, 4).Shape());
        const measure::Reading torus = measure::readingOf(ring, {0, 1});
        QCOMPARE_NEAR(*torus.radius, 4.0, 1e-9);
        QCOMPARE_NEAR(*torus.ringRadius, 20.0, 1e-9);
        const Model cone = modelOf(coneOf(zAxis(), 10, 0.001, 10));
        const measure::Reading slope = measure::readingOf(cone, {0, faceOf(cone.parts[0]->shape, SurfaceKind::Cone)});
        QCOMPARE_NEAR(*slope.coneAngle, 90.0, 0.01);
        const Model wavy = modelOf(splineTopped(40, 30, 10, 1.0));
        const measure::Reading top = measure::readingOf(wavy, {0, faceOf(wavy.parts[0]->shape, SurfaceKind::Spline)});
        QVERIFY(top.radiusRange && (*top.radiusRange)[0] < (*top.radiusRange)[1]);
        const Model cube = modelOf(block(10, 20, 30));
        std::map<double, int> lengths;
        for (int e = 1; e <= 12; ++e) {
            const measure::Reading edge = measure::readingOf(cube, {0, 0, e});
            ++lengths[std::round(*edge.length)];
            QCOMPARE_NEAR(*edge.dihedral, 90.0, 1e-9);
        }
        QCOMPARE(lengths[10], 4);
        QCOMPARE(lengths[20], 4);
        const measure::Reading vertex = measure::readingOf(cube, {0, 0, 0, 1});
        QCOMPARE(vertex.kind, std::string("vertex"));
        QVERIFY(vertex.centre.has_value());
    }
    void betweenTwoThings() {
        Model model = modelOf(block(10, 10, 10), "a");
        gp_Trsf apart;
        apart.SetTranslation(gp_Vec(25, 0, 3));
        model.occurrences.push_back({0, apart, "a", {}, std::nullopt});
        const auto parts = measure::readingBetween(model, {0}, {1});
        QVERIFY(parts.has_value());
        QCOMPARE_NEAR(parts->least, 15.0, 1e-9);
        QCOMPARE_NEAR(parts->along[0], 15.0, 1e-9);
        QCOMPARE_NEAR(*parts->centres, std::hypot(25, 3), 1e-9);
        // All pairs of faces of one block: parallel ones know their planes' distance, others are square.
        std::map<double, int> planes;
        for (int a = 1; a <= 6; ++a)
            for (int b = a + 1; b <= 6; ++b) {
                const auto pair = measure::readingBetween(model, {0, a}, {0, b});
                QVERIFY(pair && pair->angle);
                if (pair->planes)
                    ++planes[std::round(*pair->planes)];
                else
                    QCOMPARE_NEAR(*pair->angle, 90.0, 1e-9);
            }
        QCOMPARE(planes[10], 3);
        const Model two = modelOf(drilledPlate(100, 60, 8, 2, 6));
        const Incidence& topology = two.parts[0]->incidence();
        std::vector<int> walls;
        for (int f = 1; f <= topology.faceCount(); ++f)
            if (surfaceKind(topology.face(f)) == SurfaceKind::Cylinder) walls.push_back(f);
        QCOMPARE(walls.size(), std::size_t(2));
        const auto pair = measure::readingBetween(two, {0, walls[0]}, {0, walls[1]});
        QVERIFY(pair->axes.has_value());
        QCOMPARE_NEAR(pair->least, *pair->axes - 6.0, 1e-6);
        QVERIFY(measure::inWords(*pair).find("axes") != std::string::npos);
    }
};

static Registered<MeasuringTest> measuringTest;

}  // namespace rasoir::test

#include "measuring_test.moc"
