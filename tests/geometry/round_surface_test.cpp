#include "geometry/round_surface.h"

#include <BRepPrimAPI_MakeSphere.hxx>
#include <BRepPrimAPI_MakeTorus.hxx>

#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

class RoundSurfaceTest : public QObject {
    Q_OBJECT

    static int countOf(const TopoDS_Shape& shape, SurfaceKind kind, double radius, bool inward) {
        const Incidence topology(shape);
        int count = 0;
        for (int f = 1; f <= topology.faceCount(); ++f)
            if (const auto round = roundSurface(topology.face(f), 1e-4))
                count += round->kind == kind && std::abs(round->radius - radius) < 1e-4 && round->inward == inward;
        return count;
    }

private slots:
    void aHoleIsInwardAndARodIsNot_data() {
        QTest::addColumn<double>("factor");
        QTest::addColumn<bool>("mirrored");
        for (const double factor : {1.0, 0.01, 100.0}) {
            QTest::addRow("x%g", factor) << factor << false;
            QTest::addRow("x%g mirrored", factor) << factor << true;
        }
    }
    void aHoleIsInwardAndARodIsNot() {
        QFETCH(double, factor);
        QFETCH(bool, mirrored);
        const gp_Ax1 axis(gp_Pnt(10, 10, -5), gp_Dir(0.1, 0.2, 1));
        TopoDS_Shape shape = scaledBy(cut(block(20, 20, 10), rod(axis, 3, 40)), factor);
        if (mirrored) {
            gp_Trsf mirror;
            mirror.SetMirror(gp_Ax2(gp_Pnt(1, 2, 3), gp_Dir(1, 1, 0)));
            shape = moved(shape, mirror);
        }
        QCOMPARE(countOf(shape, SurfaceKind::Cylinder, 3 * factor, true), 1);
        QCOMPARE(countOf(scaledBy(rod(axis, 3, 40), factor), SurfaceKind::Cylinder, 3 * factor, false), 1);
    }
    void splinesThatAreCylindersAndConesAreRecognised() {
        const gp_Ax1 axis(gp_Pnt(10, 10, -5), gp_Dir(0.3, -0.2, 1));
        QCOMPARE(countOf(asSplines(cut(block(20, 20, 10), rod(axis, 3, 40))), SurfaceKind::Cylinder, 3, true), 1);
        const TopoDS_Shape cone = asSplines(coneOf(axis, 2, 4, 10));
        const Incidence topology(cone);
        int cones = 0;
        for (int f = 1; f <= topology.faceCount(); ++f)
            if (const auto round = roundSurface(topology.face(f), 1e-4))
                cones += round->kind == SurfaceKind::Cone && std::abs(std::abs(round->slope) - 0.2) < 1e-6;
        QCOMPARE(cones, 1);
    }
    void whatOnlyLooksRoundIsNot() {
        const Incidence wavy(splineTopped(40, 30, 10, 2));
        for (int f = 1; f <= wavy.faceCount(); ++f) QVERIFY(!roundSurface(wavy.face(f)));
    }
    void spheresAndToriTellTheirInside() {
        const TopoDS_Shape ball = BRepPrimAPI_MakeSphere(gp_Pnt(5, 5, 10), 3).Shape();
        QCOMPARE(countOf(ball, SurfaceKind::Sphere, 3, false), 1);
        QCOMPARE(countOf(cut(block(10, 10, 10), ball), SurfaceKind::Sphere, 3, true), 1);
        const TopoDS_Shape tyre = BRepPrimAPI_MakeTorus(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 10, 2).Shape();
        QCOMPARE(countOf(tyre, SurfaceKind::Torus, 2, false), 1);
    }
    void sameSurfaceKnowsPiecesOfOneFace() {
        const Incidence slotted(cut(block(30, 10, 10), moved(block(4, 20, 5), [] {
                                        gp_Trsf t;
                                        t.SetTranslation(gp_Vec(13, -5, 7));
                                        return t;
                                    }())));
        int pairs = 0;
        for (int a = 1; a <= slotted.faceCount(); ++a)
            for (int b = a + 1; b <= slotted.faceCount(); ++b)
                pairs += sameSurface(slotted.face(a), slotted.face(b), 1e-6);
        QCOMPARE(pairs, 1);  // the top, cut in two
    }
};

static Registered<RoundSurfaceTest> roundSurfaceTest;

}  // namespace rasoir::test

#include "round_surface_test.moc"
