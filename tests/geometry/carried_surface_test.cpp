// Splines carried on: what is a plane, a cylinder or a cone stays one, and the parameters stay where they were.
#include "geometry/carried_surface.h"

#include <BRep_Tool.hxx>
#include <BRepPrimAPI_MakeCone.hxx>
#include <BRepPrimAPI_MakeCylinder.hxx>
#include <GC_MakeArcOfCircle.hxx>
#include <Geom_BSplineCurve.hxx>
#include <Geom_BSplineSurface.hxx>
#include <Geom_ConicalSurface.hxx>
#include <Geom_CylindricalSurface.hxx>
#include <Geom_Plane.hxx>
#include <Geom_RectangularTrimmedSurface.hxx>
#include <Geom_SurfaceOfLinearExtrusion.hxx>
#include <Geom_SurfaceOfRevolution.hxx>
#include <Geom_TrimmedCurve.hxx>
#include <GeomConvert.hxx>

#include "geometry/curves.h"
#include "support/run.h"

namespace rasoir::test {

class CarriedSurfaceTest : public QObject {
    Q_OBJECT

private slots:
    void splinesOfSimpleSurfacesGoOnAsThose_data() {
        QTest::addColumn<int>("kind");
        QTest::newRow("plane") << 0;
        QTest::newRow("quarter of a cylinder") << 1;
        QTest::newRow("quarter of a cone") << 2;
    }
    void splinesOfSimpleSurfacesGoOnAsThose() {
        QFETCH(int, kind);
        const gp_Ax3 axes(gp_Pnt(3, -2, 5), gp_Dir(1, 2, 3));
        const Handle(Geom_Surface) true_ = kind == 0   ? Handle(Geom_Surface)(new Geom_Plane(axes))
                                           : kind == 1 ? Handle(Geom_Surface)(new Geom_CylindricalSurface(axes, 7))
                                                       : Handle(Geom_Surface)(new Geom_ConicalSurface(axes, 0.3, 7));
        const Handle(Geom_Surface) spline =
            GeomConvert::SurfaceToBSplineSurface(new Geom_RectangularTrimmedSurface(true_, 0.2, 1.4, 1.0, 9.0));
        double u0 = 0, u1 = 0, v0 = 0, v1 = 0, w0 = 0, w1 = 0, x0 = 0, x1 = 0;
        spline->Bounds(u0, u1, v0, v1);
        const Handle(Geom_Surface) longer = carriedOn(spline, 4.0);
        longer->Bounds(w0, w1, x0, x1);
        QVERIFY(w0 < u0 && w1 > u1 && x0 < v0 && x1 > v1);
        for (int i = 0; i <= 8; ++i)
            for (int j = 0; j <= 8; ++j) {
                const double u = u0 + (u1 - u0) * i / 8, v = v0 + (v1 - v0) * j / 8;
                QVERIFY(longer->Value(u, v).Distance(spline->Value(u, v)) < 1e-11);
                const gp_Pnt beyond = longer->Value(w0 + (w1 - w0) * i / 8, x0 + (x1 - x0) * j / 8);
                const auto uv = parametersOn(true_, beyond, 1e-7);
                QVERIFY(uv && true_->Value(uv->X(), uv->Y()).Distance(beyond) < 1e-9);
            }
        // It goes as far as it was asked to, or to twice the outermost span.
        const gp_Pnt side = longer->Value(0.5 * (u0 + u1), x1);
        QVERIFY(side.Distance(spline->Value(0.5 * (u0 + u1), v1)) > 3.0);
    }
    void sweptSplinesGoOn() {
        const Handle(Geom_Curve) arc = GeomConvert::CurveToBSplineCurve(
            GC_MakeArcOfCircle(gp_Circ(gp_Ax2(gp_Pnt(10, 0, 0), gp_Dir(0, 1, 0)), 4), 0.3, 1.2, true).Value());
        const Handle(Geom_Curve) longer = carriedOn(arc, 2.0);
        for (int i = 0; i <= 10; ++i) {
            const gp_Pnt point =
                longer->Value(longer->FirstParameter() + (longer->LastParameter() - longer->FirstParameter()) * i / 10);
            QVERIFY(std::abs(point.Distance(gp_Pnt(10, 0, 0)) - 4.0) < 1e-10);
        }
        QVERIFY(longer->LastParameter() > arc->LastParameter() && longer->FirstParameter() < arc->FirstParameter());
        const Handle(Geom_Surface) swept = new Geom_SurfaceOfLinearExtrusion(arc, gp_Dir(0, 1, 0)),
                                   turned = new Geom_SurfaceOfRevolution(arc, gp::OZ());
        for (const Handle(Geom_Surface) & surface : {swept, turned}) {
            const Handle(Geom_Surface) more = carriedOn(surface, 2.0);
            QVERIFY(more != surface);
            double u0 = 0, u1 = 0, v0 = 0, v1 = 0;
            surface->Bounds(u0, u1, v0, v1);
            const double u = surface == swept ? 0.5 * (u0 + u1) : 1.0, v = surface == swept ? 2.0 : 0.5 * (v0 + v1);
            QVERIFY(more->Value(u, v).Distance(surface->Value(u, v)) < 1e-11);
        }
    }
    void whatHasNoEndsStays() {
        const Handle(Geom_Surface) plane = new Geom_Plane(gp::XOY());
        QVERIFY(carriedOn(plane, 5.0) == plane);
        // A whole cylinder as a spline is closed all round: it goes on along its axis alone.
        const Handle(Geom_Surface) tube = GeomConvert::SurfaceToBSplineSurface(
            new Geom_RectangularTrimmedSurface(new Geom_CylindricalSurface(gp::XOY(), 5), 0.0, 2.0 * M_PI, 0.0, 10.0));
        const Handle(Geom_Surface) longer = carriedOn(tube, 3.0);
        double u0 = 0, u1 = 0, v0 = 0, v1 = 0, w0 = 0, w1 = 0, x0 = 0, x1 = 0;
        tube->Bounds(u0, u1, v0, v1);
        longer->Bounds(w0, w1, x0, x1);
        QCOMPARE(w0, u0);
        QCOMPARE(w1, u1);
        QVERIFY(x1 >= v1 + 3.0 - 1e-9 && x0 <= v0 - 3.0 + 1e-9);
    }
};

static Registered<CarriedSurfaceTest> carriedSurfaceTest;

}  // namespace rasoir::test

#include "carried_surface_test.moc"
