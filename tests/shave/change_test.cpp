// Faces moved, holes resized, splines made simple, rounds put on and back: bodies of known answer.
#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepBuilderAPI_NurbsConvert.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>

#include "geometry/round_surface.h"
#include "model/reference.h"
#include "operations.h"
#include "support/bodies.h"
#include "support/run.h"
#include "survey/stress_notes.h"

namespace rasoir::test {

class ChangeTest : public QObject {
    Q_OBJECT

    static const TopoDS_Shape& shapeOf(const Result<Outcome>& outcome) { return outcome->model.parts[0]->shape; }
    /// The face of this kind whose middle lies nearest to a point.
    static Json faceAt(const Model& model, SurfaceKind kind, const gp_Pnt& at) {
        const Part& part = *model.parts[0];
        int best = 0;
        double nearest = 1e300;
        for (int f = 1; f <= part.incidence().faceCount(); ++f) {
            if (surfaceKind(part.incidence().face(f)) != kind) continue;
            const FaceRef ref = makeFaceRef(part, f);
            if (ref.centre.Distance(at) < nearest) {
                nearest = ref.centre.Distance(at);
                best = f;
            }
        }
        return Json(makeFaceRef(part, best));
    }
    static void isSound(const TopoDS_Shape& shape, double volume, int faces) {
        QCOMPARE(solidsIn(shape), 1);
        QCOMPARE(openEdgesIn(shape), 0);
        QVERIFY(isValid(shape));
        QCOMPARE(facesIn(shape), faces);
        QCOMPARE_NEAR(volumeOf(shape), volume, 1e-7 * volume);
    }
    static TopoDS_Shape drilled() {
        return cut(block(40, 30, 20), rod(gp_Ax1(gp_Pnt(15, 15, -1), gp_Dir(0, 0, 1)), 4, 30));
    }
    static TopoDS_Shape turned(const TopoDS_Shape& shape, double factor) {
        gp_Trsf turn;
        turn.SetRotation(gp_Ax1(gp_Pnt(1, 2, 3), gp_Dir(1, -1, 2)), 0.6);
        return scaledBy(moved(shape, turn), factor);
    }
    static gp_Pnt turned(gp_Pnt point, double factor) {
        gp_Trsf turn;
        turn.SetRotation(gp_Ax1(gp_Pnt(1, 2, 3), gp_Dir(1, -1, 2)), 0.6);
        point.Transform(turn);
        return gp_Pnt(point.XYZ() * factor);
    }

private slots:
    void aFaceIsMovedByAnOffset_data() {
        QTest::addColumn<double>("by");
        QTest::newRow("outwards") << 5.0;
        QTest::newRow("inwards") << -7.5;
        QTest::newRow("a hair") << 0.001;
    }
    void aFaceIsMovedByAnOffset() {
        QFETCH(double, by);
        for (const double factor : {1.0, 0.001, 1000.0}) {
            const TopoDS_Shape body = turned(drilled(), factor);
            const Model model = modelOf(body);
            // The drilled face: the hole grows or shrinks with it. And the side that the hole does not reach.
            for (const auto& [at, area] :
                 {std::pair{gp_Pnt(20, 15, 20), 1200 - M_PI * 16}, {gp_Pnt(40, 15, 10), 600.0}}) {
                const auto done = run(model, "shave.moveFaces",
                                      {{"faces", Json::array({faceAt(model, SurfaceKind::Plane, turned(at, factor))})},
                                       {"by", by * factor}});
                QVERIFY2(done, said(done));
                isSound(shapeOf(done), (24000 - M_PI * 16 * 20 + area * by) * factor * factor * factor, 7);
                // And back again.
                const auto back =
                    run(done->model, "shave.moveFaces",
                        {{"faces", Json::array({faceAt(done->model, SurfaceKind::Plane,
                                                       turned(gp_Pnt(at.X() > 30 ? at.X() + by : at.X(), at.Y(),
                                                                     at.Z() > 15 ? at.Z() + by : at.Z()),
                                                              factor))})},
                         {"by", -by * factor}});
                QVERIFY2(back, said(back));
                QCOMPARE_NEAR(volumeOf(shapeOf(back)), volumeOf(body), 1e-9 * volumeOf(body));
            }
        }
    }
    void aSlantedNeighbourIsFollowed() {
        // A wedge: its top moved up, the slanted side carries on.
        const TopoDS_Shape wedge = cut(block(40, 30, 20), moved(block(60, 40, 40), [] {
                                           gp_Trsf t;
                                           t.SetRotation(gp_Ax1(gp_Pnt(30, 0, 0), gp_Dir(0, 1, 0)), -M_PI / 6);
                                           gp_Trsf s;
                                           s.SetTranslation(gp_Vec(30, -5, 0));
                                           return t * s;
                                       }()));
        const Model model = modelOf(wedge);
        const double before = volumeOf(wedge);
        const auto done =
            run(model, "shave.moveFaces",
                {{"faces", Json::array({faceAt(model, SurfaceKind::Plane, gp_Pnt(10, 15, 20))})}, {"by", 2.0}});
        QVERIFY2(done, said(done));
        QVERIFY(isValid(shapeOf(done)));
        QCOMPARE(facesIn(shapeOf(done)), facesIn(wedge));
        const double grown = volumeOf(shapeOf(done)) - before;
        QVERIFY2(grown > 400 && grown < 2400, qPrintable(QString::number(grown)));
        // A prism's volume is linear in none of it but exact: up and down again is what it was.
        const auto back =
            run(done->model, "shave.moveFaces",
                {{"faces", Json::array({faceAt(done->model, SurfaceKind::Plane, gp_Pnt(10, 15, 22))})}, {"by", -2.0}});
        QVERIFY2(back, said(back));
        QCOMPARE_NEAR(volumeOf(shapeOf(back)), before, 1e-7 * before);
    }
    void aFaceGoesToAPointOrOntoAnother() {
        const Model model = modelOf(drilled());
        const auto to = run(
            model, "shave.moveFaces",
            {{"faces", Json::array({faceAt(model, SurfaceKind::Plane, gp_Pnt(40, 15, 10))})}, {"to", {52.5, 0, 0}}});
        QVERIFY2(to, said(to));
        isSound(shapeOf(to), 24000 - M_PI * 320 + 12.5 * 600, 7);
        // Two pads of slightly different height become one level.
        const auto pad = [](double x, double height) {
            gp_Trsf t;
            t.SetTranslation(gp_Vec(x, 10, 10));
            return moved(block(8, 8, height), t);
        };
        const Model pads = modelOf(fuse(fuse(block(60, 30, 10), pad(5, 3.0)), pad(40, 3.02)));
        const auto level = run(pads, "shave.moveFaces",
                               {{"faces", Json::array({faceAt(pads, SurfaceKind::Plane, gp_Pnt(44, 14, 13.02))})},
                                {"onto", faceAt(pads, SurfaceKind::Plane, gp_Pnt(9, 14, 13))}});
        QVERIFY2(level, said(level));
        isSound(shapeOf(level), 18000 + 2 * 64 * 3.0, facesIn(pads.parts[0]->shape));
        // Two holes whose axes miss each other by a hundredth become coaxial.
        const TopoDS_Shape two = cut(cut(block(40, 30, 20), rod(gp_Ax1(gp_Pnt(15, 15, 10), gp_Dir(0, 0, 1)), 4, 30)),
                                     rod(gp_Ax1(gp_Pnt(15.01, 15, -1), gp_Dir(0, 0, 1)), 3, 12));
        const Model holes = modelOf(two);
        const auto coaxial = run(holes, "shave.moveFaces",
                                 {{"faces", Json::array({faceAt(holes, SurfaceKind::Cylinder, gp_Pnt(15, 15, 5))})},
                                  {"onto", faceAt(holes, SurfaceKind::Cylinder, gp_Pnt(15, 15, 15))}});
        QVERIFY2(coaxial, said(coaxial));
        isSound(shapeOf(coaxial), volumeOf(two), facesIn(two));
    }
    void aHoleGetsAnotherDiameter() {
        for (const double diameter : {2.0, 7.9, 12.0}) {
            const Model model = modelOf(turned(drilled(), 1.0));
            const auto done =
                run(model, "shave.resizeHoles",
                    {{"holes", Json::array({faceAt(model, SurfaceKind::Cylinder, turned(gp_Pnt(15, 15, 10), 1.0))})},
                     {"diameter", diameter}});
            QVERIFY2(done, said(done));
            isSound(shapeOf(done), 24000 - M_PI * diameter * diameter / 4 * 20, 7);
        }
        // A pin as well; in two halves too.
        const Model pin = modelOf(fuse(block(40, 30, 20), rod(gp_Ax1(gp_Pnt(15, 15, 19), gp_Dir(0, 0, 1)), 4, 11)));
        const auto thick =
            run(pin, "shave.resizeHoles",
                {{"holes", Json::array({faceAt(pin, SurfaceKind::Cylinder, gp_Pnt(15, 15, 25))})}, {"diameter", 10.0}});
        QVERIFY2(thick, said(thick));
        isSound(shapeOf(thick), 24000 + M_PI * 25 * 10, 8);
    }
    void whatDoesNotFitIsRefused_data() {
        QTest::addColumn<QString>("operation");
        QTest::addColumn<double>("value");
        QTest::newRow("a hole wider than the plate") << "shave.resizeHoles" << 31.0;
        QTest::newRow("a hole that eats the side") << "shave.resizeHoles" << 30.5;
        QTest::newRow("no diameter") << "shave.resizeHoles" << 0.0;
        QTest::newRow("through the far side") << "shave.moveFaces" << -25.0;
        QTest::newRow("not at all") << "shave.moveFaces" << 0.0;
        QTest::newRow("no number") << "shave.moveFaces" << std::numeric_limits<double>::quiet_NaN();
    }
    void whatDoesNotFitIsRefused() {
        QFETCH(QString, operation);
        QFETCH(double, value);
        const Model model = modelOf(drilled());
        const TopoDS_Shape before = model.parts[0]->shape;
        const bool hole = operation.endsWith("Holes");
        const Json face = Json::array({faceAt(model, hole ? SurfaceKind::Cylinder : SurfaceKind::Plane,
                                              hole ? gp_Pnt(15, 15, 10) : gp_Pnt(20, 15, 20))});
        const auto done = run(model, operation.toStdString(),
                              hole ? Json{{"holes", face}, {"diameter", value}} : Json{{"faces", face}, {"by", value}});
        QVERIFY(!done);
        QVERIFY(!done.error().what.empty());
        QVERIFY(model.parts[0]->shape.IsEqual(before));
    }
    void aFaceMovedThroughAnotherIsRefused() {
        // A slot's floor moved down past the bottom would leave the plate in two.
        const TopoDS_Shape slotted = cut(block(40, 30, 20), moved(block(10, 10, 15), [] {
                                             gp_Trsf t;
                                             t.SetTranslation(gp_Vec(15, 10, 5));
                                             return t;
                                         }()));
        const Model model = modelOf(slotted);
        const Json floor = Json::array({faceAt(model, SurfaceKind::Plane, gp_Pnt(20, 15, 5))});
        const auto fine = run(model, "shave.moveFaces", {{"faces", floor}, {"by", -4.0}});
        QVERIFY2(fine, said(fine));
        QCOMPARE_NEAR(volumeOf(shapeOf(fine)), 24000 - 1500 - 400, 1e-6);
        QVERIFY(!run(model, "shave.moveFaces", {{"faces", floor}, {"by", -6.0}}));
    }
    void roundsFollowTheFaceThatTheyRestOn_data() {
        QTest::addColumn<double>("by");
        QTest::newRow("outwards") << 6.0;
        QTest::newRow("inwards") << -3.0;
    }
    void roundsFollowTheFaceThatTheyRestOn() {
        QFETCH(double, by);
        // All edges of the top and the mouth of a hole are round: moved, it is the body that would have been made so
        // high.
        const auto made = [](double height) {
            const Model plain =
                modelOf(cut(block(60, 40, height), rod(gp_Ax1(gp_Pnt(30, 20, -1), gp_Dir(0, 0, 1)), 6, 60)), "block");
            const auto z = height;
            return run(
                plain, "shave.addRounds",
                {{"part", "block"},
                 {"edges", Json::array({Json::array({30, 0, z}), Json::array({30, 40, z}), Json::array({0, 20, z}),
                                        Json::array({60, 20, z}), Json::array({36, 20, z})})},
                 {"radius", 2.0}});
        };
        const auto low = made(20), high = made(20 + by);
        QVERIFY2(low && high, said(low));
        const auto done =
            run(low->model, "shave.moveFaces",
                {{"faces", Json::array({faceAt(low->model, SurfaceKind::Plane, gp_Pnt(30, 20, 20))})}, {"by", by}});
        QVERIFY2(done, said(done));
        isSound(shapeOf(done), volumeOf(shapeOf(high)), facesIn(shapeOf(high)));
        // Down into the bottom: refused, and nothing has changed.
        const TopoDS_Shape before = low->model.parts[0]->shape;
        QVERIFY(!run(
            low->model, "shave.moveFaces",
            {{"faces", Json::array({faceAt(low->model, SurfaceKind::Plane, gp_Pnt(30, 20, 20))})}, {"by", -20.5}}));
        QVERIFY(low->model.parts[0]->shape.IsEqual(before));
    }
    void aHoleIsResizedAcrossAnother() {
        // A cross hole of 6 meets it in curves that are no circles, in two halves or whole.
        const auto made = [](double radius) {
            return cut(cut(block(40, 30, 20), rod(gp_Ax1(gp_Pnt(20, 15, -1), gp_Dir(0, 0, 1)), radius, 30)),
                       rod(gp_Ax1(gp_Pnt(20, -1, 10), gp_Dir(0, 1, 0)), 3, 40));
        };
        for (const double radius : {4.0, 7.5, 10.0}) {
            const Model model = modelOf(made(6));
            const auto done = run(model, "shave.resizeHoles",
                                  {{"holes", Json::array({faceAt(model, SurfaceKind::Cylinder, gp_Pnt(20, 15, 10))})},
                                   {"diameter", 2 * radius}});
            QVERIFY2(done, said(done));
            QVERIFY(isValid(shapeOf(done)));
            QCOMPARE(openEdgesIn(shapeOf(done)), 0);
            QCOMPARE_NEAR(volumeOf(shapeOf(done)), volumeOf(made(radius)), 1e-6 * 24000);
        }
    }
    void roundsGetAnotherRadius() {
        const auto made = [](double radius, const Json& edges) {
            return run(modelOf(block(60, 40, 20), "block"), "shave.addRounds",
                       {{"part", "block"}, {"edges", edges}, {"radius", radius}});
        };
        const Json one = Json::array({Json::array({30, 0, 20})});
        const Json corner = Json::array(
            {Json::array({30, 0, 20}), Json::array({0, 20, 20}), Json::array({0, 0, 10})});  // a sphere where they meet
        for (const Json& edges : {one, corner})
            for (const double radius : {1.0, 5.0}) {
                const auto before = made(3.0, edges), wanted = made(radius, edges);
                QVERIFY2(before && wanted, said(before));
                const Json face = Json::array({faceAt(before->model, SurfaceKind::Cylinder, gp_Pnt(30, 0.8, 19.2))});
                const auto done = run(before->model, "shave.resizeRounds", {{"rounds", face}, {"radius", radius}});
                QVERIFY2(done, said(done));
                isSound(shapeOf(done), volumeOf(shapeOf(wanted)), facesIn(shapeOf(wanted)));
            }
        const auto before = made(3.0, one);
        const TopoDS_Shape as = before->model.parts[0]->shape;
        const Json round = Json::array({faceAt(before->model, SurfaceKind::Cylinder, gp_Pnt(30, 1, 19))}),
                   flat = Json::array({faceAt(before->model, SurfaceKind::Plane, gp_Pnt(30, 20, 0))});
        QVERIFY(!run(before->model, "shave.resizeRounds", {{"rounds", round}, {"radius", 50.0}}));
        QVERIFY(!run(before->model, "shave.resizeRounds", {{"rounds", round}, {"radius", 0.0}}));
        QVERIFY(!run(before->model, "shave.resizeRounds", {{"rounds", flat}, {"radius", 2.0}}));
        QVERIFY(before->model.parts[0]->shape.IsEqual(as));
    }
    void splinesBecomeWhatTheyAre() {
        const TopoDS_Shape whole = cut(fuse(drilled(), rod(gp_Ax1(gp_Pnt(30, 15, 19), gp_Dir(0, 0, 1)), 5, 8)),
                                       coneOf(gp_Ax1(gp_Pnt(30, 15, 28), gp_Dir(0, 0, -1)), 3, 2, 4));
        BRepBuilderAPI_NurbsConvert convert(whole, true);
        const Model model = modelOf(convert.Shape());
        const auto splines = [](const TopoDS_Shape& shape) {
            int count = 0;
            for (TopExp_Explorer it(shape, TopAbs_FACE); it.More(); it.Next())
                count += surfaceKind(TopoDS::Face(it.Current())) == SurfaceKind::Spline;
            return count;
        };
        const int before = splines(convert.Shape());
        QVERIFY(before >= 8);
        const auto done = run(model, "shave.simplifyFaces", {{"upTo", 1e-4}});
        QVERIFY2(done, said(done));
        const int flat = static_cast<int>(
            std::count_if(done->items.begin(), done->items.end(), [](const Item& item) { return item.done; }));
        QVERIFY2(
            flat >= 6,
            qPrintable(QString::number(flat)));  // every plane at least; closed walls keep their splines and say why
        QCOMPARE(splines(shapeOf(done)), before - flat);
        QVERIFY(isValid(shapeOf(done)));
        QCOMPARE_NEAR(volumeOf(shapeOf(done)), volumeOf(whole),
                      1e-4 * volumeOf(whole));  // walls that stay splines integrate no better
        QCOMPARE(facesIn(shapeOf(done)), facesIn(whole));
        QVERIFY(!run(modelOf(whole), "shave.simplifyFaces", {{"upTo", 1e-4}}));  // nothing to do
        QVERIFY(!run(model, "shave.simplifyFaces", {{"upTo", -1.0}}));
    }
    void roundsArePutOnAndBack() {
        const Model plain = modelOf(block(40, 30, 20), "block");
        const auto outer =
            run(plain, "shave.addRounds",
                {{"part", "block"}, {"edges", Json::array({Json::array({20, 0, 20})})}, {"radius", 4.0}});
        QVERIFY2(outer, said(outer));
        QCOMPARE_NEAR(volumeOf(shapeOf(outer)), 24000 - 40 * 16 * (1 - M_PI / 4), 1e-5);
        QVERIFY(!run(plain, "shave.addRounds",
                     {{"part", "block"},
                      {"edges", Json::array({Json::array({20, 15, 10})})},
                      {"radius", 4.0}}));  // no edge there
        QVERIFY(!run(plain, "shave.addRounds",
                     {{"part", "block"}, {"edges", Json::array({Json::array({20, 0, 20})})}, {"radius", 400.0}}));
        // An inner corner: round, sharp, noted, round again with the radius it had; the note has gone then.
        gp_Trsf shift;
        shift.SetTranslation(gp_Vec(20, -1, 10));
        const Model angle = modelOf(cut(block(40, 30, 20), moved(block(30, 40, 20), shift)), "angle");
        const auto round =
            run(angle, "shave.addRounds",
                {{"part", "angle"}, {"edges", Json::array({Json::array({20, 15, 10})})}, {"radius", 3.0}});
        QVERIFY2(round, said(round));
        const double volume = volumeOf(shapeOf(round));
        QCOMPARE_NEAR(volume, 18000 + 30 * 9 * (1 - M_PI / 4), 1e-5);
        const auto sharp = run(round->model, "shave.removeRounds", {{"upTo", 5.0}});
        QVERIFY2(sharp, said(sharp));
        QCOMPARE(survey::stressNotes(*sharp->model.parts[0]).size(), std::size_t(1));
        const auto again = run(sharp->model, "shave.restoreRounds", Json::object());
        QVERIFY2(again, said(again));
        QCOMPARE_NEAR(volumeOf(shapeOf(again)), volume, 1e-7 * volume);
        QCOMPARE(facesIn(shapeOf(again)), facesIn(shapeOf(round)));
        QVERIFY(survey::stressNotes(*again->model.parts[0]).empty());
        QVERIFY(!run(plain, "shave.restoreRounds", Json::object()));
    }
};

static Registered<ChangeTest> changeTest;

}  // namespace rasoir::test

#include "change_test.moc"
