// Ragged openings of known area: one round hole at their place.
#include "shave/openings.h"

#include "operations.h"
#include "support/bodies.h"
#include "support/run.h"
#include "survey/holes.h"

namespace rasoir::test {

class OpeningsTest : public QObject {
    Q_OBJECT

    static TopoDS_Shape at(const TopoDS_Shape& shape, double x, double y, double z) {
        gp_Trsf shift;
        shift.SetTranslation(gp_Vec(x, y, z));
        return moved(shape, shift);
    }
    /// A plate with a cross-shaped window about 30, 20: two bars 12 x 4, of area 80.
    static TopoDS_Shape crossed() {
        return cut(cut(block(60, 40, 6), at(block(12, 4, 10), 24, 18, -1)), at(block(4, 12, 10), 28, 14, -1));
    }
    static constexpr double crossArea = 12 * 4 * 2 - 4 * 4;
    /// One whose middle lies off the middle of its box: a square of 10 with a bite of 5 out of a corner.
    static TopoDS_Shape bitten() {
        return cut(cut(block(60, 40, 6), at(block(10, 5, 10), 20, 10, -1)), at(block(5, 10, 10), 20, 10, -1));
    }
    /// A wall of the opening: one that is square to the top and lies inside.
    static int wallOf(const TopoDS_Shape& shape, double x0, double x1, double y0, double y1) {
        const Model model = modelOf(shape);
        const Part& part = *model.parts[0];
        for (int f = 1; f <= part.incidence().faceCount(); ++f) {
            const gp_Pnt c = makeFaceRef(part, f).centre;
            if (c.X() > x0 && c.X() < x1 && c.Y() > y0 && c.Y() < y1 && c.Z() > 0.1 && c.Z() < 5.9) return f;
        }
        return 0;
    }
    static Result<Outcome> round(const TopoDS_Shape& shape, int wall, double diameter) {
        const Model model = modelOf(shape);
        return findOperation("shave.roundOpenings")
            ->run(model,
                  {{"openings", Json::array({Json(makeFaceRef(*model.parts[0], wall))})}, {"diameter", diameter}},
                  quietly());
    }

private slots:
    void aCrossBecomesAHoleOfItsArea() {
        const TopoDS_Shape body = crossed();
        const auto outcome = round(body, wallOf(body, 20, 40, 10, 30), 0.0);
        QVERIFY2(outcome, said(outcome));
        const Model& made = outcome->model;
        QVERIFY(isValid(made.parts[0]->shape));
        QCOMPARE(openEdgesIn(made.parts[0]->shape), 0);
        QCOMPARE(facesIn(made.parts[0]->shape), 7);
        QCOMPARE_NEAR(volumeOf(made.parts[0]->shape), (60.0 * 40 - crossArea) * 6, 1e-6 * 60 * 40 * 6);
        const auto holes = survey::findHoles(*made.parts[0], 4.0, {}, quietly());
        QVERIFY(holes && holes->size() == 1);
        QCOMPARE_NEAR(holes->front().size, 2.0 * std::sqrt(crossArea / M_PI), 1e-9);
        QVERIFY(holes->front().middle.Distance(gp_Pnt(30, 20, 3)) < 1e-6);
    }

    void itsMiddleIsThatOfItsArea_data() {
        QTest::addColumn<double>("scale");
        for (const double scale : {1.0, 0.001, 1000.0}) QTest::newRow(qPrintable(QString("x%1").arg(scale))) << scale;
    }
    void itsMiddleIsThatOfItsArea() {
        QFETCH(double, scale);
        const TopoDS_Shape plain = bitten();
        const int wall = wallOf(plain, 19, 31, 9, 21);
        gp_Trsf turn;
        turn.SetRotation(gp_Ax1(gp_Pnt(3, -2, 1), gp_Dir(1, 2, -0.4)), 0.8);
        const auto outcome = round(scaledBy(moved(plain, turn), scale), wall, 6.0 * scale);
        QVERIFY2(outcome, said(outcome));
        const auto holes = survey::findHoles(*outcome->model.parts[0], 4.0 * scale, {}, quietly());
        QVERIFY(holes && holes->size() == 1);
        // 5 x 10 about 22.5, 15 and 5 x 5 about 27.5, 12.5.
        const gp_Pnt middle((50 * 22.5 + 25 * 27.5) / 75, (50 * 15 + 25 * 12.5) / 75, 3);
        gp_Trsf back = turn.Inverted();
        const gp_Pnt found = gp_Pnt(holes->front().middle.XYZ() / scale).Transformed(back);
        QVERIFY2(found.Distance(middle) < 1e-6,
                 qPrintable(QString("%1 %2 %3").arg(found.X()).arg(found.Y()).arg(found.Z())));
        QCOMPARE_NEAR(volumeOf(outcome->model.parts[0]->shape) / (scale * scale * scale), (60.0 * 40 - M_PI * 9) * 6,
                      1e-6 * 60 * 40 * 6);
    }

    void aPocketKeepsItsFloor() {
        const TopoDS_Shape body = cut(block(60, 40, 20), at(block(14, 9, 5), 20, 15, 15));
        int wall = 0;
        const Model received = modelOf(body);
        const Part& part = *received.parts[0];
        for (int f = 1; f <= part.incidence().faceCount(); ++f)
            if (const gp_Pnt c = makeFaceRef(part, f).centre; c.Z() > 17 && c.Z() < 18 && c.X() > 15 && c.X() < 40)
                wall = f;
        const auto outcome = round(body, wall, 8.0);
        QVERIFY2(outcome, said(outcome));
        QVERIFY(isValid(outcome->model.parts[0]->shape));
        QCOMPARE_NEAR(volumeOf(outcome->model.parts[0]->shape), 60.0 * 40 * 20 - M_PI * 16 * 5, 1e-6 * 48000);
    }

    void aHoleWiderThanThePlateIsRefused() {
        const TopoDS_Shape body = crossed();
        const int wall = wallOf(body, 20, 40, 10, 30);
        for (const double diameter : {45.0, -1.0, 1e9}) {
            const auto outcome = round(body, wall, diameter);
            QVERIFY(!outcome);
            QVERIFY(!outcome.error().what.empty());
        }
        const auto outer = round(body, 1, 5.0);
        QVERIFY(!outer);
        QVERIFY2(QString::fromStdString(outer.error().what).contains("no opening"), said(outer));
    }
};
static Registered<OpeningsTest> openingsTest;

}  // namespace rasoir::test

#include "openings_test.moc"
