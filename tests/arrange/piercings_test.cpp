// Where curves go through tori, against circles and lines whose crossings are known.
#include "arrange/piercings.h"

#include <Geom_BSplineCurve.hxx>
#include <Geom_Circle.hxx>
#include <Geom_Line.hxx>
#include <Geom_Plane.hxx>
#include <Geom_ToroidalSurface.hxx>
#include <Geom_TrimmedCurve.hxx>
#include <GeomAPI_Interpolate.hxx>
#include <GeomConvert.hxx>
#include <gp_Torus.hxx>
#include <TColgp_HArray1OfPnt.hxx>

#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

using arrange::piercingsOfTorus;

class PiercingsTest : public QObject {
    Q_OBJECT

    static constexpr double reach = 1e-7;

    static GeomAdaptor_Surface torus(double major, double minor, const gp_Trsf& placed = {}) {
        gp_Torus made(gp_Ax3(), major, minor);
        made.Transform(placed);
        return GeomAdaptor_Surface(new Geom_ToroidalSurface(made));
    }
    static gp_Trsf somewhere() {
        gp_Trsf turn, move;
        turn.SetRotation(gp_Ax1(gp_Pnt(3, -2, 5), gp_Dir(1, 2, 3)), 1.1);
        move.SetTranslation(gp_Vec(70, -30, 11));
        return move * turn;
    }
    static std::vector<double> found(const Handle(Geom_Curve) & curve, double first, double last,
                                     const GeomAdaptor_Surface& surface) {
        const auto places = piercingsOfTorus(curve, first, last, surface, reach);
        if (!places) qFatal("The curve ought to be known.");
        return *places;
    }

private slots:
    void aLineThroughTheHoleMeetsNothing() {
        const Handle(Geom_Curve) line = new Geom_Line(gp_Ax1(gp_Pnt(), gp_Dir(0, 0, 1)));
        QVERIFY(found(line, -100, 100, torus(10, 3)).empty());
    }
    void aLineAcrossMeetsItFourTimes() {
        // Along X through the middle: at 13, 7, -7 and -13.
        Handle(Geom_Curve) line = new Geom_Line(gp_Ax1(gp_Pnt(), gp_Dir(1, 0, 0)));
        for (const gp_Trsf& placed : {gp_Trsf(), somewhere()}) {
            line = Handle(Geom_Curve)::DownCast(line->Transformed(placed));
            const auto places = found(line, -100, 100, torus(10, 3, placed));
            QCOMPARE(places.size(), std::size_t(4));
            const double known[] = {-13, -7, 7, 13};
            for (int i = 0; i < 4; ++i) QVERIFY(std::abs(places[i] - known[i]) < 1e-12 * 100);
            // Of a part of it only what lies on that part.
            QCOMPARE(found(line, 0, 10, torus(10, 3, placed)).size(), std::size_t(1));
        }
    }
    void oneThatTouchesIsMetOnce() {
        // Over the top, where the tangent plane touches in a circle of radius 10: the line crosses that circle twice.
        const Handle(Geom_Curve) top = new Geom_Line(gp_Ax1(gp_Pnt(0, 6, 3), gp_Dir(1, 0, 0)));
        const auto places = found(top, -100, 100, torus(10, 3));
        QCOMPARE(places.size(), std::size_t(2));
        QVERIFY(std::abs(places[1] - 8.0) < 1e-5);
        // A hair above what is within reach of it there is nothing; a hair below there are four.
        const Handle(Geom_Curve) above = new Geom_Line(gp_Ax1(gp_Pnt(0, 6, 3 + 1e-5), gp_Dir(1, 0, 0)));
        QVERIFY(found(above, -100, 100, torus(10, 3)).empty());
        const Handle(Geom_Curve) below = new Geom_Line(gp_Ax1(gp_Pnt(0, 6, 3 - 1e-5), gp_Dir(1, 0, 0)));
        QCOMPARE(found(below, -100, 100, torus(10, 3)).size(), std::size_t(4));
    }
    void anEdgeThatEndsOnItIsMetAtItsEnd() {
        const Handle(Geom_Curve) line = new Geom_Line(gp_Ax1(gp_Pnt(), gp_Dir(1, 0, 0)));
        const auto places = found(line, 13.0 + 0.5 * reach, 50, torus(10, 3));
        QCOMPARE(places.size(), std::size_t(1));
        QVERIFY(std::abs(places[0] - 13.0) <= reach);
    }
    void ofOneThatMeetsItselfBothSkinsAreMet() {
        // Major 2, minor 5: along X the outer skin is met at 7, and the inner one, which bulges over the axis, at 3.
        const Handle(Geom_Curve) line = new Geom_Line(gp_Ax1(gp_Pnt(), gp_Dir(1, 0, 0)));
        const auto places = found(line, 0, 100, torus(2, 5));
        QCOMPARE(places.size(), std::size_t(2));
        QVERIFY(std::abs(places[0] - 3.0) < 1e-10 && std::abs(places[1] - 7.0) < 1e-10);
    }
    void circlesAndSplinesAtRandomAreMetWhereTheEquationOfTheTorusChangesItsSign() {
        Random random(20261130);
        int met = 0;
        for (int i = 0; i < 300; ++i) {
            const double minor = between(random, 0.1, 8), major = between(random, 0.0, 3.0) * minor;
            const double span = major + minor;
            const auto anywhere = [&] {
                return gp_Pnt(between(random, -span, span), between(random, -span, span),
                              between(random, -minor, minor));
            };
            Handle(Geom_Curve) curve;
            if (i % 2 == 0) {
                const gp_Dir normal(between(random, -1, 1), between(random, -1, 1), between(random, -1, 1));
                curve = new Geom_TrimmedCurve(
                    new Geom_Circle(gp_Ax2(anywhere(), normal), between(random, 0.1, 2.0) * span), 0.0, 2.0 * M_PI);
            } else {
                const Handle(TColgp_HArray1OfPnt) points = new TColgp_HArray1OfPnt(1, 6);
                for (int p = 1; p <= 6; ++p) points->SetValue(p, anywhere());
                GeomAPI_Interpolate through(points, false, 1e-9);
                through.Perform();
                curve = through.Curve();
            }
            // The equation of fourth degree, which knows nothing of distances; it counts both skins.
            const auto equation = [&](double t) {
                const gp_XYZ at = curve->Value(t).XYZ();
                const double sum = at.SquareModulus() + major * major - minor * minor;
                return sum * sum - 4.0 * major * major * (at.X() * at.X() + at.Y() * at.Y());
            };
            const double first = curve->FirstParameter(), last = curve->LastParameter();
            const int steps = 20000;
            std::vector<double> known;
            for (int k = 0; k < steps; ++k) {
                const double a = first + (last - first) * k / steps, b = first + (last - first) * (k + 1) / steps;
                if (equation(a) * equation(b) < 0.0) known.push_back(0.5 * (a + b));
            }
            for (const gp_Trsf& placed : {gp_Trsf(), somewhere()}) {
                const auto places = found(Handle(Geom_Curve)::DownCast(curve->Transformed(placed)), first, last,
                                          torus(major, minor, placed));
                QVERIFY2(
                    places.size() == known.size(),
                    qPrintable(QString("curve %1: %2 found, %3 known").arg(i).arg(places.size()).arg(known.size())));
                for (std::size_t k = 0; k < known.size(); ++k)
                    QVERIFY(std::abs(places[k] - known[k]) <= (last - first) / steps);
            }
            met += static_cast<int>(known.size());
        }
        QVERIFY(met > 300);
    }
    void weightedSplinesAndOtherSurfacesAreNotItsBusiness() {
        const Handle(Geom_Circle) circle = new Geom_Circle(gp_Ax2(), 5.0);
        const Handle(Geom_Curve) weighted = GeomConvert::CurveToBSplineCurve(circle);
        QVERIFY(!piercingsOfTorus(weighted, 0, 1, torus(10, 3), reach));
        QVERIFY(!piercingsOfTorus(circle, 0, 1, GeomAdaptor_Surface(new Geom_Plane(gp_Pln())), reach));
    }
};

static Registered<PiercingsTest> piercingsTest;

}  // namespace rasoir::test

#include "piercings_test.moc"
