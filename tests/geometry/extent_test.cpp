// The tight box: closed forms for turned round bodies, pieces of them, and the same box as the kernel's own search.
#include "geometry/extent.h"

#include <BRepBndLib.hxx>
#include <BRepPrimAPI_MakeCone.hxx>
#include <BRepPrimAPI_MakeSphere.hxx>
#include <BRepPrimAPI_MakeTorus.hxx>

#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

class ExtentTest : public QObject {
    Q_OBJECT

    static gp_Trsf turned() {
        gp_Trsf turn, shift;
        turn.SetRotation(gp_Ax1(gp_Pnt(3, -1, 2), gp_Dir(1, 2, 0.7)), 0.83);
        shift.SetTranslation(gp_Vec(70, -20, 11));
        return shift * turn;
    }

private slots:
    void turnedRoundBodiesHaveTheirClosedForm() {
        const gp_Trsf by = turned();
        const gp_Pnt middle = gp_Pnt(0, 0, 0).Transformed(by);
        const gp_Dir axis = gp::DZ().Transformed(by);
        const Bnd_Box ring = tightBox(moved(BRepPrimAPI_MakeTorus(40, 7).Shape(), by));
        const Bnd_Box ball = tightBox(moved(BRepPrimAPI_MakeSphere(12).Shape(), by));
        const Bnd_Box drum = tightBox(moved(rod(gp_Ax1(gp_Pnt(0, 0, -15), gp::DZ()), 9, 30), by));
        for (int k = 1; k <= 3; ++k) {
            const double across = std::sqrt(1.0 - axis.Coord(k) * axis.Coord(k));
            QCOMPARE_NEAR(ring.CornerMax().Coord(k), middle.Coord(k) + 40 * across + 7, 1e-7);
            QCOMPARE_NEAR(ring.CornerMin().Coord(k), middle.Coord(k) - 40 * across - 7, 1e-7);
            QCOMPARE_NEAR(ball.CornerMax().Coord(k), middle.Coord(k) + 12, 1e-7);
            QCOMPARE_NEAR(drum.CornerMin().Coord(k), middle.Coord(k) - 9 * across - 15 * std::abs(axis.Coord(k)), 1e-7);
        }
    }
    void piecesReachNoFartherThanTheyGo() {
        // A quarter of a ball below its equator, and the eighth of a ring: where the whole turns is not on the piece.
        const Bnd_Box cup = tightBox(BRepPrimAPI_MakeSphere(10, -M_PI / 2, -0.5, M_PI / 2).Shape());
        QCOMPARE_NEAR(cup.CornerMax().Z(), -10 * std::sin(0.5), 1e-7);
        QCOMPARE_NEAR(cup.CornerMax().X(), 10 * std::cos(0.5), 1e-7);
        QCOMPARE_NEAR(cup.CornerMin().X(), 0.0, 1e-7);
        const Bnd_Box elbow = tightBox(BRepPrimAPI_MakeTorus(30, 4, M_PI / 4).Shape());
        QCOMPARE_NEAR(elbow.CornerMax().X(), 34.0, 1e-7);
        QCOMPARE_NEAR(elbow.CornerMax().Y(), 34 * std::sin(M_PI / 4), 1e-7);
        QCOMPARE_NEAR(elbow.CornerMin().X(), 26 * std::cos(M_PI / 4), 1e-7);
        QCOMPARE_NEAR(elbow.CornerMax().Z(), 4.0, 1e-7);
    }
    void asTheKernelSearches_data() {
        QTest::addColumn<TopoDS_Shape>("body");
        const gp_Trsf by = turned();
        const TopoDS_Shape crossing =
            fuse(rod(gp_Ax1(gp_Pnt(-40, 0, 0), gp::DX()), 9, 80), rod(gp_Ax1(gp_Pnt(0, -30, 2), gp::DY()), 7, 60));
        QTest::newRow("crossing rods") << moved(crossing, by);
        QTest::newRow("spline top") << moved(splineTopped(60, 40, 12, 5), by);
        QTest::newRow("spline top upright") << splineTopped(60, 40, 12, 5);
        QTest::newRow("cone") << moved(coneOf(gp_Ax1(gp_Pnt(1, 2, 3), gp::DY()), 12, 0, 30), by);
        QTest::newRow("drilled ball") << moved(
            cut(BRepPrimAPI_MakeSphere(20).Shape(), rod(gp_Ax1(gp_Pnt(-40, 3, 4), gp::DX()), 6, 80)), by);
        QTest::newRow("splines all over") << asSplines(moved(crossing, by));
    }
    void asTheKernelSearches() {
        QFETCH(TopoDS_Shape, body);
        Bnd_Box kernels;
        BRepBndLib::AddOptimal(body, kernels, false, false);
        const Bnd_Box ours = tightBox(body);
        for (int k = 1; k <= 3; ++k) {
            QCOMPARE_NEAR(ours.CornerMin().Coord(k), kernels.CornerMin().Coord(k), 2e-4);
            QCOMPARE_NEAR(ours.CornerMax().Coord(k), kernels.CornerMax().Coord(k), 2e-4);
        }
    }
    void nothingHasNoBox() { QVERIFY(tightBox(TopoDS_Shape()).IsVoid()); }
};
static Registered<ExtentTest> extentTest;

}  // namespace rasoir::test
#include "extent_test.moc"
