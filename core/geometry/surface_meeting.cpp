#include "geometry/surface_meeting.h"

#include <algorithm>
#include <array>
#include <Eigen/Dense>
#include <Geom_BSplineCurve.hxx>
#include <Geom_Circle.hxx>
#include <Geom_Ellipse.hxx>
#include <Geom_Hyperbola.hxx>
#include <Geom_Line.hxx>
#include <Geom_Parabola.hxx>
#include <Geom_Plane.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <GeomAPI_IntCS.hxx>
#include <GeomAPI_Interpolate.hxx>
#include <gp_Cone.hxx>
#include <gp_Cylinder.hxx>
#include <gp_Sphere.hxx>
#include <gp_Torus.hxx>
#include <IntAna_QuadQuadGeo.hxx>
#include <TColgp_HArray1OfPnt.hxx>
#include <TColStd_HArray1OfReal.hxx>
#include <vector>

#include "common/tolerance.h"
#include "geometry/curves.h"

namespace rasoir {

std::optional<gp_Pnt> meetingPoint(const Handle(Geom_Surface) & a, const Handle(Geom_Surface) & b,
                                   const Handle(Geom_Surface) & c, const gp_Pnt& start, double tolerance) {
    const std::array<Handle(Geom_Surface), 3> surfaces{a, b, c};
    std::array<std::optional<gp_Pnt2d>, 3> uv;
    gp_Pnt at = start;
    for (int round = 0; round < 50; ++round) {
        Eigen::Matrix3d normals;
        Eigen::Vector3d offsets;
        double off = 0.0;
        for (int s = 0; s < 3; ++s) {
            uv[s] = footOn(surfaces[s], at, tolerance, uv[s]);
            if (!uv[s]) return std::nullopt;
            gp_Pnt foot;
            gp_Vec du, dv;
            surfaces[s]->D1(uv[s]->X(), uv[s]->Y(), foot, du, dv);
            gp_Vec normal = du.Crossed(dv);
            if (normal.SquareMagnitude() < Tolerance::noLengthSquare) return std::nullopt;
            normal.Normalize();
            normals.row(s) << normal.X(), normal.Y(), normal.Z();
            offsets[s] = normal.Dot(gp_Vec(at, foot));
            off = std::max(off, at.Distance(foot));
        }
        if (off <= 0.01 * tolerance) return at;
        const Eigen::FullPivLU<Eigen::Matrix3d> solver(normals);
        // Three unit normals: nearly in one plane, so that the point is anywhere along it.
        if (std::abs(normals.determinant()) < 1e-6) return std::nullopt;
        const Eigen::Vector3d step = solver.solve(offsets);
        at.Translate(gp_Vec(step[0], step[1], step[2]));
        // Steps shrink quadratically: a thousandth of the tolerance is the last.
        if (step.norm() <= 1e-3 * tolerance && off <= tolerance) return at;
    }
    return std::nullopt;
}

std::optional<gp_Pnt> meetingPoint(const Handle(Geom_Curve) & curve, const Handle(Geom_Surface) & surface,
                                   const gp_Pnt& start, double reach, double tolerance) {
    const auto first = parameterAt(curve, start, reach);
    if (!first) return std::nullopt;
    double t = *first;
    std::optional<gp_Pnt2d> uv;
    for (int round = 0; round < 40; ++round) {
        gp_Pnt point, foot;
        gp_Vec along, du, dv;
        curve->D1(t, point, along);
        uv = footOn(surface, point, tolerance, uv);
        if (!uv) return std::nullopt;
        surface->D1(uv->X(), uv->Y(), foot, du, dv);
        gp_Vec normal = du.Crossed(dv);
        if (normal.SquareMagnitude() < Tolerance::noLengthSquare) return std::nullopt;
        normal.Normalize();
        const double rate = along.Dot(normal);
        // [rad] flatter than that a ray never surely pierces.
        if (std::abs(rate) < 1e-3 * along.Magnitude()) return std::nullopt;
        const double step = gp_Vec(point, foot).Dot(normal) / rate;
        t += step;
        if (std::abs(step) * along.Magnitude() < 0.01 * tolerance) return curve->Value(t);
    }
    return std::nullopt;
}

std::vector<gp_Pnt> meetingPoints(const Handle(Geom_Curve) & curve, const Handle(Geom_Surface) & surface,
                                  const gp_Pnt& start) {
    std::vector<gp_Pnt> points;
    const GeomAPI_IntCS crossings(curve, surface);
    if (!crossings.IsDone()) return points;
    for (int i = 1; i <= crossings.NbPoints(); ++i) points.push_back(crossings.Point(i));
    std::sort(points.begin(), points.end(),
              [&start](const gp_Pnt& a, const gp_Pnt& b) { return start.SquareDistance(a) < start.SquareDistance(b); });
    return points;
}

std::optional<gp_Pnt> crossingOf(const Handle(Geom_Curve) & a, const Handle(Geom_Curve) & b, const gp_Pnt& start,
                                 double reach, double tolerance) {
    const auto s0 = parameterAt(a, start, reach), t0 = parameterAt(b, start, reach);
    if (!s0 || !t0) return std::nullopt;
    double s = *s0, t = *t0;
    for (int round = 0; round < 30; ++round) {
        gp_Pnt p, q;
        gp_Vec along, across;
        a->D1(s, p, along);
        b->D1(t, q, across);
        const gp_Vec between(p, q);
        const double ll = along.SquareMagnitude(), cc = across.SquareMagnitude(), lc = along.Dot(across);
        const double determinant = ll * cc - lc * lc;
        // Square of the sine: curves side by side have no one place where they are nearest.
        if (determinant < 1e-4 * ll * cc) return std::nullopt;
        const double stepS = (between.Dot(along) * cc - between.Dot(across) * lc) / determinant;
        const double stepT = (between.Dot(along) * lc - between.Dot(across) * ll) / determinant;
        s += stepS;
        t += stepT;
        if (std::abs(stepS) * std::sqrt(ll) < 0.01 * tolerance && std::abs(stepT) * std::sqrt(cc) < 0.01 * tolerance)
            break;
    }
    const gp_Pnt p = a->Value(s), q = b->Value(t);
    if (p.Distance(q) > tolerance || p.Distance(start) > reach) return std::nullopt;
    return gp_Pnt(0.5 * (p.XYZ() + q.XYZ()));
}

namespace {

bool elementary(const Handle(Geom_Surface) & surface) {
    switch (GeomAdaptor_Surface(surface).GetType()) {
        case GeomAbs_Plane:
        case GeomAbs_Cylinder:
        case GeomAbs_Cone:
        case GeomAbs_Sphere:
        case GeomAbs_Torus:
            return true;
        default:
            return false;
    }
}

IntAna_QuadQuadGeo pairOf(const Handle(Geom_Surface) & a, const Handle(Geom_Surface) & b, double tolerance) {
    GeomAdaptor_Surface one(a), two(b);
    if (one.GetType() > two.GetType()) std::swap(one, two);  // plane, cylinder, cone, sphere, torus
    constexpr double angular = 1e-10;  // [rad] below it the kernel takes two of its own surfaces as parallel
    IntAna_QuadQuadGeo pair;
    switch (one.GetType()) {
        case GeomAbs_Plane:
            switch (two.GetType()) {
                case GeomAbs_Plane:
                    pair = IntAna_QuadQuadGeo(one.Plane(), two.Plane(), angular, tolerance);
                    break;
                case GeomAbs_Cylinder:
                    pair = IntAna_QuadQuadGeo(one.Plane(), two.Cylinder(), angular, tolerance);
                    break;
                case GeomAbs_Cone:
                    pair = IntAna_QuadQuadGeo(one.Plane(), two.Cone(), angular, tolerance);
                    break;
                case GeomAbs_Sphere:
                    pair = IntAna_QuadQuadGeo(one.Plane(), two.Sphere());
                    break;
                default:
                    pair = IntAna_QuadQuadGeo(one.Plane(), two.Torus(), tolerance);
                    break;
            }
            break;
        case GeomAbs_Cylinder:
            switch (two.GetType()) {
                case GeomAbs_Cylinder:
                    pair = IntAna_QuadQuadGeo(one.Cylinder(), two.Cylinder(), tolerance);
                    break;
                case GeomAbs_Cone:
                    pair = IntAna_QuadQuadGeo(one.Cylinder(), two.Cone(), tolerance);
                    break;
                case GeomAbs_Sphere:
                    pair = IntAna_QuadQuadGeo(one.Cylinder(), two.Sphere(), tolerance);
                    break;
                default:
                    pair = IntAna_QuadQuadGeo(one.Cylinder(), two.Torus(), tolerance);
                    break;
            }
            break;
        case GeomAbs_Cone:
            switch (two.GetType()) {
                case GeomAbs_Cone:
                    pair = IntAna_QuadQuadGeo(one.Cone(), two.Cone(), tolerance);
                    break;
                case GeomAbs_Sphere:
                    pair = IntAna_QuadQuadGeo(two.Sphere(), one.Cone(), tolerance);
                    break;
                default:
                    pair = IntAna_QuadQuadGeo(one.Cone(), two.Torus(), tolerance);
                    break;
            }
            break;
        case GeomAbs_Sphere:
            if (two.GetType() == GeomAbs_Sphere)
                pair = IntAna_QuadQuadGeo(one.Sphere(), two.Sphere(), tolerance);
            else
                pair = IntAna_QuadQuadGeo(one.Sphere(), two.Torus(), tolerance);
            break;
        default:
            pair = IntAna_QuadQuadGeo(one.Torus(), two.Torus(), tolerance);
            break;
    }
    return pair;
}

}  // namespace

ExactMeeting exactMeeting(const Handle(Geom_Surface) & a, const Handle(Geom_Surface) & b, double tolerance) {
    ExactMeeting meeting;
    if (!elementary(a) || !elementary(b)) return meeting;
    const IntAna_QuadQuadGeo pair = pairOf(a, b, tolerance);
    if (!pair.IsDone() || pair.TypeInter() == IntAna_NoGeometricSolution) return meeting;
    meeting.known = true;
    meeting.same = pair.TypeInter() == IntAna_Same;
    if (meeting.same || pair.TypeInter() == IntAna_Empty) return meeting;
    if (pair.TypeInter() == IntAna_PointAndCircle) {
        // Two solutions, of which the kernel gives the point and the circle under the same number.
        meeting.points.push_back(pair.Point(1));
        meeting.curves.push_back(new Geom_Circle(pair.Circle(1)));
        return meeting;
    }
    for (int i = 1; i <= pair.NbSolutions(); ++i) switch (pair.TypeInter()) {
            case IntAna_Point:
                meeting.points.push_back(pair.Point(i));
                break;
            case IntAna_Line:
                meeting.curves.push_back(new Geom_Line(pair.Line(i)));
                break;
            case IntAna_Circle:
                meeting.curves.push_back(new Geom_Circle(pair.Circle(i)));
                break;
            case IntAna_Ellipse:
                meeting.curves.push_back(new Geom_Ellipse(pair.Ellipse(i)));
                break;
            case IntAna_Parabola:
                meeting.curves.push_back(new Geom_Parabola(pair.Parabola(i)));
                break;
            case IntAna_Hyperbola:
                meeting.curves.push_back(new Geom_Hyperbola(pair.Hyperbola(i)));
                break;
            default:
                break;
        }
    return meeting;
}

namespace {

std::optional<CurvePiece> exactPiece(const Handle(Geom_Surface) & a, const Handle(Geom_Surface) & b, const gp_Pnt& from,
                                     const gp_Pnt& to, double tolerance) {
    for (Handle(Geom_Curve) curve : exactMeeting(a, b, tolerance).curves) {
        auto first = parameterAt(curve, from, tolerance), last = parameterAt(curve, to, tolerance);
        if (!first || !last) continue;
        if (curve->IsPeriodic()) {  // the shorter way round
            const double period = curve->Period();
            *last -= period * std::round((*last - *first) / period);
        }
        if (*last < *first) {
            *first = curve->ReversedParameter(*first);
            *last = curve->ReversedParameter(*last);
            curve = curve->Reversed();
        }
        return CurvePiece{curve, *first, *last};
    }
    return std::nullopt;
}

}  // namespace

std::optional<CurvePiece> meetingCurve(const Handle(Geom_Surface) & a, const Handle(Geom_Surface) & b,
                                       const gp_Pnt& from, const gp_Pnt& to, double tolerance) {
    const double chord = from.Distance(to);
    if (chord <= tolerance) return std::nullopt;
    if (elementary(a) && elementary(b))
        if (auto exact = exactPiece(a, b, from, to, tolerance)) return exact;
    const gp_Dir along(gp_Vec(from, to));
    for (int count = 9; count <= 129; count = 2 * count - 1) {
        const Handle(TColgp_HArray1OfPnt) points = new TColgp_HArray1OfPnt(1, count);
        const Handle(TColStd_HArray1OfReal) parameters = new TColStd_HArray1OfReal(1, count);
        gp_Pnt previous = from;
        for (int i = 0; i < count; ++i) {
            const double t = chord * i / (count - 1);
            parameters->SetValue(i + 1, t);
            if (i == 0 || i + 1 == count) {
                points->SetValue(i + 1, i == 0 ? from : to);
                continue;
            }
            const gp_Pnt station = from.Translated(gp_Vec(along) * t);
            const Handle(Geom_Plane) across = new Geom_Plane(station, along);
            const gp_Pnt guess = previous.Translated(gp_Vec(along) * (chord / (count - 1)));
            const auto point = meetingPoint(a, b, across, guess, tolerance);
            if (!point || point->Distance(station) > 2.0 * chord) return std::nullopt;
            points->SetValue(i + 1, *point);
            previous = *point;
        }
        GeomAPI_Interpolate interpolation(points, parameters, false, 0.01 * tolerance);
        interpolation.Perform();
        if (!interpolation.IsDone()) return std::nullopt;
        const Handle(Geom_BSplineCurve) curve = interpolation.Curve();
        double off = 0.0;
        for (int i = 0; i + 1 < count && off <= tolerance; ++i) {
            const gp_Pnt point = curve->Value(chord * (i + 0.5) / (count - 1));
            for (const auto& surface : {a, b}) {
                const auto uv = parametersOn(surface, point, tolerance);
                if (!uv) return std::nullopt;
                off = std::max(off, surface->Value(uv->X(), uv->Y()).Distance(point));
            }
        }
        if (off <= tolerance) return CurvePiece{Handle(Geom_Curve)(curve), 0.0, chord};
    }
    return std::nullopt;
}

std::optional<CurvePiece> touchingCurve(const Handle(Geom_Surface) & a, const Handle(Geom_Surface) & b,
                                        const gp_Pnt& from, const gp_Pnt& to, double tolerance) {
    for (const auto& [carrier, other] : {std::pair{a, b}, {b, a}}) {
        const auto start = parametersOn(carrier, from, tolerance), end = parametersOn(carrier, to, tolerance);
        if (!start || !end) continue;
        for (const bool alongU : {false, true}) {
            Handle(Geom_Curve) curve = alongU ? carrier->VIso(start->Y()) : carrier->UIso(start->X());
            double first = alongU ? start->X() : start->Y(), last = alongU ? end->X() : end->Y();
            if (curve->IsPeriodic()) {  // the shorter way
                const double period = curve->Period();
                last += period * std::round((first - last) / period);
            }
            if (std::abs(first - last) < Tolerance::noLength || curve->Value(last).Distance(to) > tolerance) continue;
            if (first > last) {
                first = curve->ReversedParameter(first);
                last = curve->ReversedParameter(last);
                curve = curve->Reversed();
            }
            constexpr int stations = 16;
            bool onBoth = true;
            for (int i = 1; i < stations && onBoth; ++i) {
                const gp_Pnt point = curve->Value(first + (last - first) * i / stations);
                const auto foot = parametersOn(other, point, tolerance);
                onBoth = foot && other->Value(foot->X(), foot->Y()).Distance(point) <= tolerance;
            }
            if (onBoth) return CurvePiece{curve, first, last};
        }
    }
    return std::nullopt;
}

namespace {

/// The direction in which two surfaces meet at a point of both; none where they are tangent.
std::optional<gp_Vec> meetingDirection(const Handle(Geom_Surface) & a, const Handle(Geom_Surface) & b, const gp_Pnt& at,
                                       double tolerance) {
    std::array<gp_Vec, 2> normals;
    for (const int side : {0, 1}) {
        const Handle(Geom_Surface)& surface = side == 0 ? a : b;
        const auto uv = parametersOn(surface, at, tolerance);
        if (!uv) return std::nullopt;
        gp_Pnt foot;
        gp_Vec du, dv;
        surface->D1(uv->X(), uv->Y(), foot, du, dv);
        normals[side] = du.Crossed(dv);
        if (normals[side].SquareMagnitude() < Tolerance::noLengthSquare) return std::nullopt;
        normals[side].Normalize();
    }
    gp_Vec along = normals[0].Crossed(normals[1]);
    if (along.Magnitude() < 1e-3) return std::nullopt;  // [rad] flatter, the direction of the meeting is noise
    return along.Normalized();
}

/// Points along a meeting from one point to another, or all round where the two are one, each turned by no more than
/// `turn` [rad] against the one before, and no farther from it than `longest` [mm]. The last point is not repeated.
std::optional<std::vector<gp_Pnt>> march(const Handle(Geom_Surface) & a, const Handle(Geom_Surface) & b,
                                         const gp_Pnt& from, const gp_Vec& direction, const gp_Pnt& to, double turn,
                                         double longest, double tolerance) {
    constexpr int mostSteps = 5000;
    std::vector<gp_Pnt> points{from};
    const bool isRing = from.Distance(to) <= tolerance;
    auto along = meetingDirection(a, b, from, tolerance);
    if (!along) return std::nullopt;
    const bool against = along->Dot(direction) < 0.0;
    if (against) along->Reverse();
    double step = 20.0 * tolerance;
    for (int tries = 0; tries < mostSteps; ++tries) {
        const gp_Pnt last = points.back(), guess = last.Translated(*along * step);
        const auto next = meetingPoint(a, b, new Geom_Plane(guess, gp_Dir(*along)), guess, tolerance);
        auto there = next ? meetingDirection(a, b, *next, tolerance) : std::nullopt;
        if (there && against) there->Reverse();
        if (!there || there->Angle(*along) > turn || next->Distance(last) > 1.5 * step) {
            step *= 0.5;
            if (step < 2.0 * tolerance) return std::nullopt;
            continue;
        }
        if (!isRing || points.size() > 6) {  // there, or back where it began?
            const gp_Vec ahead(last, to), behind(*next, to), chord(last, *next);
            // Passed, and not merely passed by: between two points that turn so little the meeting is near its chord.
            const double beside = ahead.Crossed(chord).Magnitude() / chord.Magnitude();
            if (ahead.Dot(*along) >= 0.0 && behind.Dot(*there) <= 0.0 &&
                ahead.Magnitude() <= 1.01 * chord.Magnitude() + tolerance &&
                beside <= turn * chord.Magnitude() + tolerance) {
                if (points.size() > 2 && ahead.Magnitude() < 0.3 * last.Distance(*next)) points.pop_back();
                return points;
            }
        }
        points.push_back(*next);
        if (there->Angle(*along) < 0.4 * turn) step = std::min(1.6 * step, longest);
        along = there;
    }
    return std::nullopt;
}

/// A spline through points found by marching, finer until it stays on both.
std::optional<CurvePiece> marched(const Handle(Geom_Surface) & a, const Handle(Geom_Surface) & b, const gp_Pnt& from,
                                  const gp_Vec& direction, const gp_Pnt& to, double tolerance) {
    const bool isRing = from.Distance(to) <= tolerance;
    // Where two surfaces meet at a flat angle, the curve hardly turns and yet strays between its points: finer means
    // turning less, and being closer together.
    double turn = 0.25, longest = 1e300;
    for (int round = 0; round < 8; ++round, turn *= 0.5) {
        auto points = march(a, b, from, direction, to, std::max(turn, 0.01), longest, tolerance);
        if (!points || (isRing && points->size() < 6)) return std::nullopt;
        points->push_back(to);
        const int count = static_cast<int>(points->size()) - 1;  // of pieces
        const Handle(TColgp_HArray1OfPnt) array = new TColgp_HArray1OfPnt(1, isRing ? count : count + 1);
        const Handle(TColStd_HArray1OfReal) parameters = new TColStd_HArray1OfReal(1, count + 1);
        double length = 0.0, widest = 0.0;
        for (int i = 0; i <= count; ++i) {
            if (i > 0) widest = std::max(widest, (*points)[i - 1].Distance((*points)[i]));
            if (i > 0) length += (*points)[i - 1].Distance((*points)[i]);
            if (i < count || !isRing) array->SetValue(i + 1, (*points)[i]);
            parameters->SetValue(i + 1, length);
        }
        GeomAPI_Interpolate interpolation(array, parameters, isRing, 0.01 * tolerance);
        interpolation.Perform();
        if (!interpolation.IsDone()) return std::nullopt;
        const Handle(Geom_BSplineCurve) curve = interpolation.Curve();
        double off = 0.0;
        for (int i = 1; i <= count && off <= tolerance; ++i)
            for (const double share : {0.25, 0.5, 0.75}) {
                const gp_Pnt point =
                    curve->Value(parameters->Value(i) + share * (parameters->Value(i + 1) - parameters->Value(i)));
                for (const auto& surface : {a, b}) {
                    const auto uv = parametersOn(surface, point, tolerance);
                    if (!uv) return std::nullopt;
                    off = std::max(off, surface->Value(uv->X(), uv->Y()).Distance(point));
                }
            }
        if (off <= tolerance) {
            if (isRing) curve->SetNotPeriodic();  // begins where it was told to, and ends there
            return CurvePiece{Handle(Geom_Curve)(curve), 0.0, length};
        }
        longest = 0.6 * widest;
    }
    return std::nullopt;
}

}  // namespace

std::optional<CurvePiece> meetingRing(const Handle(Geom_Surface) & a, const Handle(Geom_Surface) & b,
                                      const gp_Pnt& through, const gp_Vec& direction, double tolerance) {
    if (elementary(a) && elementary(b)) {
        for (Handle(Geom_Curve) curve : exactMeeting(a, b, tolerance).curves) {
            if (!curve->IsPeriodic()) continue;
            auto start = parameterAt(curve, through, tolerance);
            if (!start) continue;
            gp_Pnt point;
            gp_Vec along;
            curve->D1(*start, point, along);
            if (along.Dot(direction) < 0.0) {
                *start = curve->ReversedParameter(*start);
                curve = curve->Reversed();
            }
            return CurvePiece{curve, *start, *start + curve->Period()};
        }
    }
    return std::nullopt;
}

std::optional<CurvePiece> meetingAlong(const Handle(Geom_Surface) & a, const Handle(Geom_Surface) & b,
                                       const gp_Pnt& from, const gp_Vec& direction, const gp_Pnt& to,
                                       double tolerance) {
    return marched(a, b, from, direction, to, tolerance);
}

gp_Pnt nearestToAll(const std::vector<Handle(Geom_Surface)>& surfaces, std::vector<std::optional<gp_Pnt2d>> uv,
                    const gp_Pnt& start, double reach, double tolerance, double steep) {
    const double vague = 0.5 * steep * steep;  // the eigenvalue of two normals at that angle
    gp_Pnt at = start;
    for (int round = 0; round < 20; ++round) {
        Eigen::Matrix3d sum = Eigen::Matrix3d::Zero();
        Eigen::Vector3d pull = Eigen::Vector3d::Zero();
        for (std::size_t s = 0; s < surfaces.size(); ++s) {
            uv[s] = footOn(surfaces[s], at, tolerance, uv[s]);
            if (!uv[s]) continue;
            gp_Pnt foot;
            gp_Vec du, dv;
            surfaces[s]->D1(uv[s]->X(), uv[s]->Y(), foot, du, dv);
            gp_Vec normal = du.Crossed(dv);
            if (normal.SquareMagnitude() < Tolerance::noLengthSquare) continue;
            normal.Normalize();
            const Eigen::Vector3d n(normal.X(), normal.Y(), normal.Z());
            sum += n * n.transpose();
            pull += n * normal.Dot(gp_Vec(at, foot));
        }
        const Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> axes(sum);
        Eigen::Vector3d step = Eigen::Vector3d::Zero();
        for (int k = 0; k < 3; ++k)
            if (axes.eigenvalues()[k] > vague)
                step += axes.eigenvectors().col(k) * (axes.eigenvectors().col(k).dot(pull) / axes.eigenvalues()[k]);
        if (!step.allFinite()) return start;
        at.Translate(gp_Vec(step[0], step[1], step[2]));
        if (at.Distance(start) > reach) return start;
        // Steps shrink quadratically: a thousandth of the tolerance is the last.
        if (step.norm() < 1e-3 * tolerance) break;
    }
    return at;
}

}  // namespace rasoir
