#include "geometry/surface_meeting.h"

#include <Geom2d_BSplineCurve.hxx>
#include <Geom2d_Line.hxx>
#include <Geom_ConicalSurface.hxx>
#include <Geom_CylindricalSurface.hxx>
#include <Geom_Line.hxx>
#include <Geom_Plane.hxx>
#include <Geom_SphericalSurface.hxx>
#include <Geom_ToroidalSurface.hxx>
#include <gp_Pln.hxx>
#include <TColgp_Array1OfPnt2d.hxx>
#include <TColStd_Array1OfInteger.hxx>
#include <TColStd_Array1OfReal.hxx>

#include "geometry/curves.h"
#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

class SurfaceMeetingTest : public QObject {
    Q_OBJECT
private slots:
    void threePlanesMeetInTheirCorner() {
        const Handle(Geom_Plane) a = new Geom_Plane(gp_Pnt(1, 0, 0), gp_Dir(1, 0.2, 0)),
                                 b = new Geom_Plane(gp_Pnt(0, 2, 0), gp_Dir(0, 1, 0.1)),
                                 c = new Geom_Plane(gp_Pnt(0, 0, 3), gp_Dir(0.3, 0, 1));
        const auto corner = meetingPoint(a, b, c, gp_Pnt(50, -20, 70), 1e-7);
        QVERIFY(corner);
        for (const auto& plane : {a, b, c}) QCOMPARE_NEAR(plane->Pln().Distance(*corner), 0.0, 1e-9);
    }
    void roundSurfacesMeetToo() {
        const Handle(Geom_Surface) cylinder = new Geom_CylindricalSurface(gp_Ax3(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 5);
        const Handle(Geom_Surface) sphere = new Geom_SphericalSurface(gp_Ax3(gp_Pnt(2, 0, 0), gp_Dir(0, 0, 1)), 6);
        const Handle(Geom_Surface) plane = new Geom_Plane(gp_Pnt(0, 0, 0), gp_Dir(0, 1, 0));
        const auto point = meetingPoint(cylinder, sphere, plane, gp_Pnt(4, 0.5, 4), 1e-8);
        QVERIFY(point);
        QCOMPARE_NEAR(point->X(), 5.0, 1e-7);
        QCOMPARE_NEAR(point->Z(), std::sqrt(36.0 - 9.0), 1e-7);
    }
    void aLineMeetsABallTwice() {
        const Handle(Geom_Surface) sphere = new Geom_SphericalSurface(gp_Ax3(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 11);
        const Handle(Geom_Curve) line = new Geom_Line(gp_Pnt(10, 0, -40), gp_Dir(0, 0, 1)),
                                 beside = new Geom_Line(gp_Pnt(11.5, 0, 0), gp_Dir(0, 0, 1));
        const double level = std::sqrt(21.0);
        for (const double from : {3.0, -20.0}) {  // nearest first
            const auto points = meetingPoints(line, sphere, gp_Pnt(10, 0, from));
            QCOMPARE(points.size(), std::size_t(2));
            QCOMPARE_NEAR(points[0].Z(), from > 0.0 ? level : -level, 1e-7);
            QCOMPARE_NEAR(points[1].Z(), from > 0.0 ? -level : level, 1e-7);
        }
        QVERIFY(meetingPoints(beside, sphere, gp_Pnt(11.5, 0, 0)).empty());
    }
    void whereARoundTouchesAFlatIsALineOfTheRound() {
        const Handle(Geom_Surface) flat = new Geom_Plane(gp_Pnt(0, 0, 12), gp_Dir(0, 0, 1));
        // Along an edge, and round a corner.
        const Handle(Geom_Surface) along =
            new Geom_CylindricalSurface(gp_Ax3(gp_Pnt(0, 2, 10), gp_Dir(1, 0, 0), gp_Dir(0, 0, 1)), 2);
        const auto line = touchingCurve(along, flat, gp_Pnt(30, 2, 12), gp_Pnt(10, 2, 12), 1e-7);
        QVERIFY(line);
        QVERIFY(line->curve->Value(line->first).Distance(gp_Pnt(30, 2, 12)) < 1e-7);
        QVERIFY(line->curve->Value(line->last).Distance(gp_Pnt(10, 2, 12)) < 1e-7);
        const Handle(Geom_Surface) round = new Geom_ToroidalSurface(gp_Ax3(gp_Pnt(0, 0, 10), gp_Dir(0, 0, 1)), 6, 2);
        const auto arc = touchingCurve(flat, round, gp_Pnt(6, 0, 12), gp_Pnt(0, 6, 12), 1e-7);
        QVERIFY(arc);
        QVERIFY(arc->curve->Value(0.5 * (arc->first + arc->last)).Distance(gp_Pnt(6 * M_SQRT1_2, 6 * M_SQRT1_2, 12)) <
                1e-7);
        // Lower they cross instead, which is no line of either; higher they do not meet.
        for (const double z : {11.0, 12.5}) {
            const Handle(Geom_Surface) other = new Geom_Plane(gp_Pnt(0, 0, z), gp_Dir(0, 0.1, 1));
            QVERIFY(!touchingCurve(round, other, gp_Pnt(6, 0, 12), gp_Pnt(0, 6, 12), 1e-7));
        }
    }
    void tangentSurfacesAreRefused() {
        const Handle(Geom_Surface) cylinder = new Geom_CylindricalSurface(gp_Ax3(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 5);
        const Handle(Geom_Surface) tangent = new Geom_Plane(gp_Pnt(5, 0, 0), gp_Dir(1, 0, 0)),
                                   level = new Geom_Plane(gp_Pnt(0, 0, 1), gp_Dir(1, 0, 1e-9));
        QVERIFY(!meetingPoint(cylinder, tangent, level, gp_Pnt(5, 0, 0), 1e-8));
    }
    void thePointNearestToAll() {
        const Handle(Geom_Surface) x = new Geom_Plane(gp_Pnt(1, 0, 0), gp_Dir(1, 0, 0)),
                                   y = new Geom_Plane(gp_Pnt(0, 2, 0), gp_Dir(0, 1, 0)),
                                   z = new Geom_Plane(gp_Pnt(0, 0, 3), gp_Dir(0, 0, 1));
        const gp_Pnt corner = nearestToAll({x, y, z}, {{}, {}, {}}, gp_Pnt(1.2, 1.9, 3.1), 5.0, 1e-9, 0.1);
        QCOMPARE_NEAR(corner.Distance(gp_Pnt(1, 2, 3)), 0.0, 1e-9);
        // A fourth that misses the corner by a little: in the middle.
        const Handle(Geom_Surface) other = new Geom_Plane(gp_Pnt(0, 0, 3.2), gp_Dir(0, 0, 1));
        const gp_Pnt middle = nearestToAll({x, y, z, other}, {{}, {}, {}, {}}, gp_Pnt(1.2, 1.9, 3.0), 5.0, 1e-9, 0.1);
        QCOMPARE_NEAR(middle.Distance(gp_Pnt(1, 2, 3.1)), 0.0, 1e-9);
        // Two that run on into each other say nothing about where along them: only the step across is taken.
        const Handle(Geom_Surface) tilted = new Geom_Plane(gp_Pnt(0, 0, 3.02), gp_Dir(0.01, 0, 1));
        const gp_Pnt across = nearestToAll({z, tilted}, {{}, {}}, gp_Pnt(0, 7, 3.5), 5.0, 1e-9, 0.1);
        QCOMPARE_NEAR(across.Z(), 3.01, 1e-3);
        QVERIFY(std::abs(across.X()) < 0.02 && std::abs(across.Y() - 7.0) < 1e-9);
        // Too far away: not at all.
        QCOMPARE_NEAR(
            nearestToAll({x, y, z}, {{}, {}, {}}, gp_Pnt(50, 50, 50), 5.0, 1e-9, 0.1).Distance(gp_Pnt(50, 50, 50)), 0.0,
            1e-12);
    }
    void tracesKeepTheirCourseInAnotherStep() {
        TColgp_Array1OfPnt2d poles(1, 4);
        poles(1) = gp_Pnt2d(0, 0);
        poles(2) = gp_Pnt2d(1, 3);
        poles(3) = gp_Pnt2d(4, -2);
        poles(4) = gp_Pnt2d(6, 1);
        TColStd_Array1OfReal knots(1, 2);
        TColStd_Array1OfInteger multiplicities(1, 2);
        knots(1) = 2.0;
        knots(2) = 5.0;
        multiplicities.Init(4);
        for (const Handle(Geom2d_Curve) & trace :
             {Handle(Geom2d_Curve)(new Geom2d_BSplineCurve(poles, knots, multiplicities, 3)),
              Handle(Geom2d_Curve)(new Geom2d_Line(gp_Pnt2d(1, 2), gp_Dir2d(3, 4)))})
            for (const auto& [scale, shift] :
                 {std::pair{1.0, 0.0}, {1.0, 7.0}, {-1.0, 4.0}, {2.5, -1.0}, {-0.5, 3.0}}) {
                const Handle(Geom2d_Curve) other = inOtherStep(trace, scale, shift);
                if (other.IsNull()) {  // a line has but one pace
                    QVERIFY(trace->IsKind(STANDARD_TYPE(Geom2d_Line)) && std::abs(scale) != 1.0);
                    continue;
                }
                for (double s = 2.0; s <= 5.0; s += 0.25)
                    QCOMPARE_NEAR(other->Value(scale * s + shift).Distance(trace->Value(s)), 0.0, 1e-12);
            }
    }
    void curvesAreExactWhereTheyCanBe() {
        const Handle(Geom_Surface) cylinder = new Geom_CylindricalSurface(gp_Ax3(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 5);
        const Handle(Geom_Surface) level = new Geom_Plane(gp_Pnt(0, 0, 2), gp_Dir(0, 0, 1));
        const auto arc = meetingCurve(cylinder, level, gp_Pnt(5, 0, 2), gp_Pnt(0, 5, 2), 1e-7);
        QVERIFY(arc);
        QVERIFY(runsOn(arc->curve));
        QCOMPARE_NEAR(arc->last - arc->first, M_PI_2, 1e-9);
        QCOMPARE_NEAR(arc->curve->Value(arc->first).Distance(gp_Pnt(5, 0, 2)), 0.0, 1e-9);
    }
    void curvesOfCrossingCylindersLieOnBoth() {
        const Handle(Geom_Surface) one = new Geom_CylindricalSurface(gp_Ax3(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 5);
        const Handle(Geom_Surface) two = new Geom_CylindricalSurface(gp_Ax3(gp_Pnt(0, 0, 0), gp_Dir(1, 0, 0)), 3);
        const auto on = [](double y) { return gp_Pnt(std::sqrt(25 - y * y), y, std::sqrt(9 - y * y)); };
        const auto piece = meetingCurve(one, two, on(-2.5), on(2.5), 1e-6);
        QVERIFY(piece);
        for (int i = 0; i <= 50; ++i) {
            const gp_Pnt p = piece->curve->Value(piece->first + (piece->last - piece->first) * i / 50);
            QCOMPARE_NEAR(std::hypot(p.X(), p.Y()), 5.0, 2e-6);
            QCOMPARE_NEAR(std::hypot(p.Y(), p.Z()), 3.0, 2e-6);
        }
    }
    void ringsOfCrossingCylindersAreMarched() {
        // Scaled, so that steps and ends depend on no length.
        for (const double scale : {1e-2, 1.0, 1e3}) {
            const Handle(Geom_Surface) one =
                new Geom_CylindricalSurface(gp_Ax3(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 5 * scale);
            const Handle(Geom_Surface) two =
                new Geom_CylindricalSurface(gp_Ax3(gp_Pnt(0, 0, 0), gp_Dir(1, 0, 0)), 3 * scale);
            const auto on = [scale](double angle) {
                return gp_Pnt(scale * std::sqrt(25 - 9 * std::sin(angle) * std::sin(angle)),
                              scale * 3 * std::sin(angle), scale * 3 * std::cos(angle));
            };
            const auto isOnBoth = [&](const CurvePiece& piece) {
                for (int i = 0; i <= 200; ++i) {
                    const gp_Pnt p = piece.curve->Value(piece.first + (piece.last - piece.first) * i / 200);
                    QCOMPARE_NEAR(std::hypot(p.X(), p.Y()), 5.0 * scale, 2e-6 * scale);
                    QCOMPARE_NEAR(std::hypot(p.Y(), p.Z()), 3.0 * scale, 2e-6 * scale);
                }
            };
            double length = 0.0;
            for (int i = 0; i < 2000; ++i) length += on(M_PI * i / 1000).Distance(on(M_PI * (i + 1) / 1000));
            for (const double sense : {1.0, -1.0}) {
                const gp_Vec towards(on(0.4), on(0.4 + sense * 0.01));
                const auto ring = meetingAlong(one, two, on(0.4), towards, on(0.4), 1e-6 * scale);
                QVERIFY(ring);
                isOnBoth(*ring);
                QCOMPARE_NEAR(ring->curve->Value(ring->first).Distance(on(0.4)), 0.0, 1e-7 * scale);
                QCOMPARE_NEAR(ring->curve->Value(ring->last).Distance(on(0.4)), 0.0, 1e-7 * scale);
                gp_Pnt at;
                gp_Vec along;
                ring->curve->D1(ring->first, at, along);
                QVERIFY(along.Dot(towards) > 0.0);
                double own = 0.0;
                for (int i = 0; i < 2000; ++i)
                    own += ring->curve->Value(ring->first + (ring->last - ring->first) * i / 2000)
                               .Distance(ring->curve->Value(ring->first + (ring->last - ring->first) * (i + 1) / 2000));
                QCOMPARE_NEAR(own, length, 1e-5 * length);
                // Two thirds of it, far round: the chord alone would not tell which way.
                const auto part = meetingAlong(one, two, on(0.4), towards, on(0.4 + sense * 4.2), 1e-6 * scale);
                QVERIFY(part);
                isOnBoth(*part);
                QCOMPARE_NEAR(part->curve->Value(part->last).Distance(on(0.4 + sense * 4.2)), 0.0, 1e-7 * scale);
                QVERIFY(part->curve->Value(0.5 * (part->first + part->last)).Distance(on(0.4 + sense * 2.1)) < scale);
            }
        }
        // Side by side, or an open curve: none.
        const Handle(Geom_Surface) cylinder = new Geom_CylindricalSurface(gp_Ax3(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 5),
                                   beside = new Geom_CylindricalSurface(gp_Ax3(gp_Pnt(20, 0, 0), gp_Dir(1, 0, 4)), 5);
        QVERIFY(!meetingAlong(cylinder, beside, gp_Pnt(5, 0, 0), gp_Vec(0, 1, 0), gp_Pnt(5, 0, 0), 1e-7));
        const Handle(Geom_Surface) along = new Geom_CylindricalSurface(gp_Ax3(gp_Pnt(4, 0, 0), gp_Dir(0, 0, 1)), 5);
        QVERIFY(!meetingAlong(cylinder, along, gp_Pnt(2, std::sqrt(21.0), 0), gp_Vec(0, 0, 1),
                              gp_Pnt(2, std::sqrt(21.0), 0), 1e-7));
    }
    /// Any two elementary surfaces, however they lie: an answer, and one that lies on both. (A plane beside a cone once
    /// took for ever.)
    void anyPairAnswers() {
        Random random(5);
        const auto anywhere = [&] {
            return gp_Pnt(between(random, -20, 20), between(random, -20, 20), between(random, -20, 20));
        };
        const auto any = [&]() -> Handle(Geom_Surface) {
            // Every third one square to an axis and near the origin: perpendicular, parallel and coaxial pairs come up
            // too.
            const bool plain = random() % 3 == 0;
            const std::array<gp_Dir, 3> axes{gp::DX(), gp::DY(), gp::DZ()};
            const gp_Ax3 place(plain ? gp_Pnt(0, 0, 0) : anywhere(),
                               plain
                                   ? axes[random() % 3]
                                   : gp_Dir(between(random, -1, 1), between(random, -1, 1), between(random, 0.01, 1)));
            switch (random() % 5) {
                case 0:
                    return new Geom_Plane(place);
                case 1:
                    return new Geom_CylindricalSurface(place, between(random, 1, 15));
                case 2:
                    return new Geom_ConicalSurface(place, between(random, -1.2, 1.2), between(random, 1, 15));
                case 3:
                    return new Geom_SphericalSurface(place, between(random, 1, 15));
                default:
                    return new Geom_ToroidalSurface(place, between(random, 8, 15), between(random, 1, 5));
            }
        };
        int met = 0, rings = 0;
        for (int round = 0; round < 1500; ++round) {
            const Handle(Geom_Surface) a = any(), b = any();
            const gp_Pnt start = nearestToAll({a, b}, {{}, {}}, anywhere(), 200.0, 1e-8, 0.05);
            const auto off = [](const Handle(Geom_Surface) & surface, const gp_Pnt& point) {
                const auto uv = parametersOn(surface, point, 1e-7);
                return uv ? surface->Value(uv->X(), uv->Y()).Distance(point) : 1e9;
            };
            if (off(a, start) > 1e-6 || off(b, start) > 1e-6) continue;
            ++met;
            auto ring = meetingRing(a, b, start, gp_Vec(0.3, 0.4, 0.5), 1e-5);
            if (!ring) ring = meetingAlong(a, b, start, gp_Vec(0.3, 0.4, 0.5), start, 1e-5);
            if (!ring) continue;
            ++rings;
            for (int i = 0; i <= 40; ++i) {
                const gp_Pnt point = ring->curve->Value(ring->first + (ring->last - ring->first) * i / 40);
                QVERIFY2(off(a, point) < 2e-5 && off(b, point) < 2e-5, qPrintable(QString("round %1").arg(round)));
            }
            const auto half =
                meetingCurve(a, b, start, ring->curve->Value(ring->first + 0.3 * (ring->last - ring->first)), 1e-5);
            for (int i = 0; half && i <= 40; ++i) {
                const gp_Pnt point = half->curve->Value(half->first + (half->last - half->first) * i / 40);
                QVERIFY2(off(a, point) < 2e-5 && off(b, point) < 2e-5,
                         qPrintable(QString("round %1, a piece").arg(round)));
            }
        }
        qInfo("%d pairs that meet, %d in rings", met, rings);
        QVERIFY(met > 300 && rings > 100);
    }
    void tracesRunInStepWithTheirCurves() {
        const Handle(Geom_Surface) cylinder = new Geom_CylindricalSurface(gp_Ax3(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 5);
        const Handle(Geom_Surface) slope = new Geom_Plane(gp_Pnt(0, 0, 2), gp_Dir(0.5, 0, 1));
        const auto on = [](double angle) {
            return gp_Pnt(5 * std::cos(angle), 5 * std::sin(angle), 2 - 2.5 * std::cos(angle));
        };
        const auto arc = meetingCurve(cylinder, slope, on(-0.7), on(0.9), 1e-7);
        QVERIFY(arc);
        const auto trace = traceOn(cylinder, arc->curve, arc->first, arc->last, 1e-6);
        QVERIFY(trace);
        for (int i = 0; i <= 40; ++i) {
            const double t = arc->first + (arc->last - arc->first) * i / 40;
            const gp_Pnt2d uv = trace->curve->Value(t);
            QVERIFY(cylinder->Value(uv.X(), uv.Y()).Distance(arc->curve->Value(t)) < 1e-6);
        }
        // Across the seam the trace goes on instead of jumping.
        QVERIFY(std::abs(trace->curve->Value(arc->last).X() - trace->curve->Value(arc->first).X()) < 3.0);
    }
};

static Registered<SurfaceMeetingTest> surfaceMeetingTest;

}  // namespace rasoir::test

#include "surface_meeting_test.moc"
