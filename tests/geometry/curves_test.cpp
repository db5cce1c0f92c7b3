#include "geometry/curves.h"

#include <Geom2d_Line.hxx>
#include <Geom_BSplineSurface.hxx>
#include <Geom_Circle.hxx>
#include <Geom_ConicalSurface.hxx>
#include <Geom_CylindricalSurface.hxx>
#include <Geom_Ellipse.hxx>
#include <Geom_Line.hxx>
#include <Geom_Plane.hxx>
#include <Geom_SphericalSurface.hxx>
#include <Geom_ToroidalSurface.hxx>
#include <Geom_TrimmedCurve.hxx>
#include <GeomAPI_PointsToBSplineSurface.hxx>
#include <gp_Ax2.hxx>
#include <TColgp_Array2OfPnt.hxx>

#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

class CurvesTest : public QObject {
    Q_OBJECT
private slots:
    void parametersAreFoundWhereThePointIs() {
        const gp_Ax2 frame(gp_Pnt(1, 2, 3), gp_Dir(1, 1, 1));
        const std::vector<Handle(Geom_Curve)> curves = {new Geom_Line(gp_Pnt(1, 2, 3), gp_Dir(1, 2, 2)),
                                                        new Geom_Circle(frame, 5.0), new Geom_Ellipse(frame, 5.0, 2.0)};
        for (const auto& curve : curves)
            for (const double t : {0.3, 1.7, 4.9}) {
                const auto found = parameterAt(curve, curve->Value(t), 1e-9);
                QVERIFY(found);
                QCOMPARE_NEAR(curve->Value(*found).Distance(curve->Value(t)), 0.0, 1e-9);
                QVERIFY(!parameterAt(curve, curve->Value(t).Translated(gp_Vec(0.3, -0.2, 0.4)), 1e-3));
            }
    }
    void trimmingIsTakenOff() {
        const Handle(Geom_Curve) circle = new Geom_Circle(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 5.0);
        const Handle(Geom_Curve) twice = new Geom_TrimmedCurve(new Geom_TrimmedCurve(circle, 0.0, 2.0), 0.5, 1.0);
        QVERIFY(untrimmedCurve(twice)->IsKind(STANDARD_TYPE(Geom_Circle)));
        QVERIFY(runsOn(untrimmedCurve(twice)));
    }
    void surfaceParametersComeBack() {
        const gp_Ax3 frame(gp_Pnt(1, 2, 3), gp_Dir(1, 0.5, 2));
        TColgp_Array2OfPnt points(1, 6, 1, 6);
        for (int i = 1; i <= 6; ++i)
            for (int j = 1; j <= 6; ++j) points(i, j) = gp_Pnt(10 * i, 10 * j, 3 * std::sin(i) * std::cos(j));
        const std::vector<Handle(Geom_Surface)> surfaces = {
            new Geom_Plane(frame),
            new Geom_CylindricalSurface(frame, 4),
            new Geom_ConicalSurface(frame, 0.4, 5),
            new Geom_SphericalSurface(frame, 6),
            new Geom_ToroidalSurface(frame, 9, 2),
            Handle(Geom_Surface)(GeomAPI_PointsToBSplineSurface(points).Surface())};
        for (const auto& surface : surfaces)
            for (const auto& [u, v] : {std::pair{0.2, 0.3}, {0.7, 0.6}, {0.45, 0.9}}) {
                const gp_Pnt point = surface->Value(u, v);
                const auto found = parametersOn(surface, point, 1e-7);
                QVERIFY(found);
                QCOMPARE_NEAR(surface->Value(found->X(), found->Y()).Distance(point), 0.0, 1e-7);
                const auto near = parametersOn(surface, point, 1e-7, gp_Pnt2d(u + 0.01, v + 0.01));
                QVERIFY(near);
                QCOMPARE_NEAR(near->Distance(gp_Pnt2d(u, v)), 0.0, 1e-5);
            }
    }
    void guessesChooseTheTurn() {
        const Handle(Geom_Surface) cylinder = new Geom_CylindricalSurface(gp_Ax3(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 4);
        const auto far = parametersOn(cylinder, cylinder->Value(0.1, 1.0), 1e-7, gp_Pnt2d(2 * M_PI, 1.0));
        QCOMPARE_NEAR(far->X(), 2 * M_PI + 0.1, 1e-9);
    }
    void straightTracesAreExact() {
        const Handle(Geom_Surface) cylinder = new Geom_CylindricalSurface(gp_Ax3(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 4);
        const Handle(Geom_Curve) circle = new Geom_Circle(gp_Ax2(gp_Pnt(0, 0, 2), gp_Dir(0, 0, 1)), 4.0);
        const auto round = traceOn(cylinder, circle, 1.0, 1.0 + 1.9 * M_PI, 1e-6);
        QVERIFY(round);
        QVERIFY(round->curve->IsKind(STANDARD_TYPE(Geom2d_Line)));
        QVERIFY(round->deviation < 1e-12);
        const Handle(Geom_Curve) generator = new Geom_Line(gp_Pnt(4, 0, -3), gp_Dir(0, 0, 1));
        QVERIFY(traceOn(cylinder, generator, 0.0, 10.0, 1e-6)->curve->IsKind(STANDARD_TYPE(Geom2d_Line)));
    }
    void curvesThatLeaveTheirSurfaceAreRefused() {
        const Handle(Geom_Surface) cylinder = new Geom_CylindricalSurface(gp_Ax3(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 4);
        QVERIFY(!traceOn(cylinder, new Geom_Line(gp_Pnt(4, 0, 0), gp_Dir(0, 1, 0)), 0.0, 3.0, 1e-6));
        QVERIFY(!traceOn(cylinder, new Geom_Circle(gp_Ax2(gp_Pnt(0, 0, 2), gp_Dir(0, 0, 1)), 4.01), 0.0, 1.0, 1e-3));
    }
};

static Registered<CurvesTest> curvesTest;

}  // namespace rasoir::test

#include "curves_test.moc"
