#include "geometry/curves.h"

#include <array>
#include <ElCLib.hxx>
#include <ElSLib.hxx>
#include <Geom2d_BSplineCurve.hxx>
#include <Geom2d_Line.hxx>
#include <Geom2d_TrimmedCurve.hxx>
#include <Geom2dAPI_Interpolate.hxx>
#include <Geom_BSplineCurve.hxx>
#include <Geom_Conic.hxx>
#include <Geom_Line.hxx>
#include <Geom_Plane.hxx>
#include <Geom_RectangularTrimmedSurface.hxx>
#include <Geom_SurfaceOfLinearExtrusion.hxx>
#include <Geom_TrimmedCurve.hxx>
#include <GeomAdaptor_Curve.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <GeomAPI.hxx>
#include <GeomAPI_ProjectPointOnCurve.hxx>
#include <GeomAPI_ProjectPointOnSurf.hxx>
#include <TColgp_Array1OfPnt2d.hxx>
#include <TColgp_HArray1OfPnt2d.hxx>
#include <TColStd_Array1OfInteger.hxx>
#include <TColStd_Array1OfReal.hxx>
#include <TColStd_HArray1OfReal.hxx>

#include "common/tolerance.h"

namespace rasoir {

Handle(Geom_Curve) untrimmedCurve(const Handle(Geom_Curve) & curve) {
    Handle(Geom_Curve) basis = curve;
    while (!basis.IsNull() && basis->IsKind(STANDARD_TYPE(Geom_TrimmedCurve)))
        basis = Handle(Geom_TrimmedCurve)::DownCast(basis)->BasisCurve();
    return basis;
}

bool runsOn(const Handle(Geom_Curve) & curve) {
    return !curve.IsNull() && (curve->IsKind(STANDARD_TYPE(Geom_Line)) || curve->IsKind(STANDARD_TYPE(Geom_Conic)));
}

std::optional<double> parameterAt(const Handle(Geom_Curve) & curve, const gp_Pnt& point, double tolerance) {
    const GeomAdaptor_Curve adaptor(curve);
    double parameter = 0.0;
    switch (adaptor.GetType()) {
        case GeomAbs_Line:
            parameter = ElCLib::Parameter(adaptor.Line(), point);
            break;
        case GeomAbs_Circle:
            parameter = ElCLib::Parameter(adaptor.Circle(), point);
            break;
        default: {
            GeomAPI_ProjectPointOnCurve projection(point, curve);
            double best = tolerance;
            bool found = false;
            if (projection.NbPoints() > 0 && projection.LowerDistance() <= best) {
                best = projection.LowerDistance();
                parameter = projection.LowerDistanceParameter();
                found = true;
            }
            // Ends are no stationary points, so the projection does not report them.
            if (!curve->IsPeriodic() && !runsOn(curve))
                for (const double end : {curve->FirstParameter(), curve->LastParameter()})
                    if (const double distance = curve->Value(end).Distance(point);
                        distance < best || (!found && distance <= best)) {
                        best = distance;
                        parameter = end;
                        found = true;
                    }
            if (!found) return std::nullopt;
        }
    }
    if (curve->Value(parameter).Distance(point) > tolerance) return std::nullopt;
    return parameter;
}

namespace {

double wrappedNear(double value, double reference, double period) {
    return value - period * std::round((value - reference) / period);
}

gp_Pnt2d near(const Handle(Geom_Surface) & surface, gp_Pnt2d uv, const gp_Pnt2d& reference) {
    if (surface->IsUPeriodic()) uv.SetX(wrappedNear(uv.X(), reference.X(), surface->UPeriod()));
    if (surface->IsVPeriodic()) uv.SetY(wrappedNear(uv.Y(), reference.Y(), surface->VPeriod()));
    return uv;
}

std::optional<gp_Pnt2d> settled(const Handle(Geom_Surface) & surface, const gp_Pnt& point, double tolerance,
                                gp_Pnt2d uv) {
    double u0 = 0, u1 = 0, v0 = 0, v1 = 0;
    surface->Bounds(u0, u1, v0, v1);
    for (int round = 0; round < 30; ++round) {
        gp_Pnt at;
        gp_Vec du, dv;
        surface->D1(uv.X(), uv.Y(), at, du, dv);
        const gp_Vec miss(at, point);
        const double uu = du.Dot(du), vv = dv.Dot(dv), cross = du.Dot(dv);
        const double determinant = uu * vv - cross * cross;
        // Of the square of their sine: parallel to 1e-7 rad, where Newton's step is noise.
        if (determinant <= 1e-14 * uu * vv || determinant == 0.0) return std::nullopt;
        const double mu = miss.Dot(du), mv = miss.Dot(dv);
        const double stepU = (mu * vv - mv * cross) / determinant, stepV = (mv * uu - mu * cross) / determinant;
        const gp_Pnt2d before = uv;
        uv.SetCoord(uv.X() + stepU, uv.Y() + stepV);
        if (!surface->IsUPeriodic()) uv.SetX(std::clamp(uv.X(), u0, u1));
        if (!surface->IsVPeriodic()) uv.SetY(std::clamp(uv.Y(), v0, v1));
        // At the rim of the surface the steps lead on and on: what counts is what was moved.
        if ((du * (uv.X() - before.X()) + dv * (uv.Y() - before.Y())).Magnitude() < 0.01 * tolerance) return uv;
    }
    return std::nullopt;
}

Handle(Geom_SurfaceOfLinearExtrusion) sweptStraight(const Handle(Geom_Surface) & surface) {
    Handle(Geom_Surface) basis = surface;
    while (const auto trimmed = Handle(Geom_RectangularTrimmedSurface)::DownCast(basis))
        basis = trimmed->BasisSurface();
    return Handle(Geom_SurfaceOfLinearExtrusion)::DownCast(basis);
}

/// Of a curve swept straight on without end, the nearest of many samples: seen along the sweep, only the curve is left.
gp_Pnt2d nearestSample(const Handle(Geom_SurfaceOfLinearExtrusion) & swept, const Handle(Geom_Surface) & surface,
                       const gp_Pnt& point) {
    double u0 = 0, u1 = 0, v0 = 0, v1 = 0;
    surface->Bounds(u0, u1, v0, v1);
    const Handle(Geom_Curve) curve = swept->BasisCurve();
    const gp_Vec along(swept->Direction());
    int count = 32;
    if (const auto spline = Handle(Geom_BSplineCurve)::DownCast(untrimmedCurve(curve)); !spline.IsNull())
        count = std::max(count, 6 * spline->NbKnots());
    gp_Pnt2d best;
    double nearest = std::numeric_limits<double>::max();
    for (int i = 0; i <= count; ++i) {
        const double u = u0 + (u1 - u0) * i / count;
        const gp_Vec off(curve->Value(u), point);
        const double v = off.Dot(along);
        if (const double square = (off - along * v).SquareMagnitude(); square < nearest) {
            nearest = square;
            best.SetCoord(u, std::clamp(v, v0, v1));
        }
    }
    return best;
}

/// From the nearest of a grid of points, when that leads to a point that lies on the surface: far cheaper than a search
/// that is sure.
std::optional<gp_Pnt2d> footFromGrid(const Handle(Geom_Surface) & surface, const gp_Pnt& point, double tolerance) {
    if (const auto swept = sweptStraight(surface); !swept.IsNull())
        return settled(surface, point, tolerance, nearestSample(swept, surface, point));
    double u0 = 0, u1 = 0, v0 = 0, v1 = 0;
    surface->Bounds(u0, u1, v0, v1);
    if (Precision::IsInfinite(u0) || Precision::IsInfinite(u1) || Precision::IsInfinite(v0) ||
        Precision::IsInfinite(v1))
        return std::nullopt;
    constexpr int steps = 9;
    double best = std::numeric_limits<double>::max();
    gp_Pnt2d start;
    for (int i = 0; i <= steps; ++i)
        for (int j = 0; j <= steps; ++j) {
            const gp_Pnt2d uv(u0 + (u1 - u0) * i / steps, v0 + (v1 - v0) * j / steps);
            if (const double square = surface->Value(uv.X(), uv.Y()).SquareDistance(point); square < best) {
                best = square;
                start = uv;
            }
        }
    return settled(surface, point, tolerance, start);
}
std::optional<gp_Pnt2d> fromGrid(const Handle(Geom_Surface) & surface, const gp_Pnt& point, double tolerance) {
    const auto uv = footFromGrid(surface, point, tolerance);
    if (!uv || surface->Value(uv->X(), uv->Y()).Distance(point) > tolerance) return std::nullopt;
    return uv;
}

}  // namespace

std::optional<gp_Pnt2d> footOn(const Handle(Geom_Surface) & surface, const gp_Pnt& point, double tolerance,
                               const std::optional<gp_Pnt2d>& guess) {
    if (GeomAdaptor_Surface(surface).GetType() <= GeomAbs_Torus) return parametersOn(surface, point, tolerance, guess);
    if (guess)
        if (const auto uv = settled(surface, point, tolerance, *guess)) return uv;
    const auto uv = footFromGrid(surface, point, tolerance);
    return uv && guess ? near(surface, *uv, *guess) : uv;
}

std::optional<gp_Pnt2d> parametersOn(const Handle(Geom_Surface) & surface, const gp_Pnt& point, double tolerance,
                                     const std::optional<gp_Pnt2d>& guess) {
    const GeomAdaptor_Surface adaptor(surface);
    double u = 0.0, v = 0.0;
    switch (adaptor.GetType()) {
        case GeomAbs_Plane:
            ElSLib::Parameters(adaptor.Plane(), point, u, v);
            break;
        case GeomAbs_Cylinder:
            ElSLib::Parameters(adaptor.Cylinder(), point, u, v);
            break;
        case GeomAbs_Cone:
            ElSLib::Parameters(adaptor.Cone(), point, u, v);
            break;
        case GeomAbs_Sphere:
            ElSLib::Parameters(adaptor.Sphere(), point, u, v);
            break;
        case GeomAbs_Torus:
            ElSLib::Parameters(adaptor.Torus(), point, u, v);
            break;
        default: {
            if (guess)
                if (const auto uv = settled(surface, point, tolerance, *guess)) return uv;
            if (const auto uv = fromGrid(surface, point, tolerance)) return guess ? near(surface, *uv, *guess) : *uv;
            GeomAPI_ProjectPointOnSurf projection(point, surface);
            if (projection.NbPoints() == 0) return std::nullopt;
            projection.LowerDistanceParameters(u, v);
        }
    }
    const gp_Pnt2d uv(u, v);
    return guess ? near(surface, uv, *guess) : uv;
}

namespace {

/// On a plane the trace is the curve itself, seen in its axes: exact and in step. None for kinds of curve the kernel
/// does not turn.
std::optional<Trace> traceOnPlane(const gp_Pln& plane, const Handle(Geom_Curve) & curve, double first, double last,
                                  double tolerance) {
    double off = 0.0;
    for (int i = 0; i <= 16; ++i) off = std::max(off, plane.Distance(curve->Value(first + (last - first) * i / 16.0)));
    if (off > tolerance) return std::nullopt;
    Handle(Geom2d_Curve) flat;
    try {
        flat = GeomAPI::To2d(curve, plane);
    } catch (const Standard_Failure&) {
        // A short arc of a circle may keep to the plane where the whole circle does not.
    }
    if (flat.IsNull()) return std::nullopt;
    Trace trace{flat, 0.0};
    const Handle(Geom_Plane) surface = new Geom_Plane(plane);
    for (int i = 0; i <= 16; ++i) {
        const double at = first + (last - first) * i / 16.0;
        const gp_Pnt2d seen = flat->Value(at);
        trace.deviation = std::max(trace.deviation, surface->Value(seen.X(), seen.Y()).Distance(curve->Value(at)));
    }
    if (trace.deviation > tolerance) return std::nullopt;
    return trace;
}

/// Where a whole side of the surface's parameters is one point (pole, apex), the parameter along that side says
/// nothing.
bool alongPole(const Handle(Geom_Surface) & surface, const gp_Pnt2d& uv, bool& uIsFree, double tolerance) {
    gp_Pnt point;
    gp_Vec du, dv;
    surface->D1(uv.X(), uv.Y(), point, du, dv);
    // A parameter is free where moving it by a little moves the point by less than matters.
    double u0 = 0, u1 = 0, v0 = 0, v1 = 0;
    surface->Bounds(u0, u1, v0, v1);
    const double spanU = Precision::IsInfinite(u1 - u0) ? 1.0 : u1 - u0,
                 spanV = Precision::IsInfinite(v1 - v0) ? 1.0 : v1 - v0;
    const bool freeU = du.Magnitude() * spanU < tolerance, freeV = dv.Magnitude() * spanV < tolerance;
    uIsFree = freeU;
    return freeU != freeV;
}

}  // namespace

std::optional<Trace> traceOn(const Handle(Geom_Surface) & surface, const Handle(Geom_Curve) & curve, double first,
                             double last, double tolerance, const std::optional<gp_Pnt2d>& startGuess) {
    if (const GeomAdaptor_Surface adaptor(surface); adaptor.GetType() == GeomAbs_Plane)
        if (auto flat = traceOnPlane(adaptor.Plane(), curve, first, last, tolerance)) return flat;
    // Points are added where the trace still strays: beside a pole it bends sharply, elsewhere a few are enough.
    constexpr std::size_t most = 700;
    std::vector<double> at(17);
    for (std::size_t i = 0; i < at.size(); ++i)
        at[i] = i + 1 == at.size() ? last : first + (last - first) * static_cast<double>(i) / 16.0;
    for (int round = 0; round < 16; ++round) {
        const int count = static_cast<int>(at.size());
        std::vector<gp_Pnt2d> uv(at.size());
        std::optional<gp_Pnt2d> guess = startGuess;
        for (int i = 0; i < count; ++i) {
            const gp_Pnt point = curve->Value(at[i]);
            const auto found = parametersOn(surface, point, tolerance, guess);
            if (!found || surface->Value(found->X(), found->Y()).Distance(point) > tolerance) return std::nullopt;
            uv[i] = *found;
            bool uIsFree = false;
            if (i > 0 || !alongPole(surface, uv[i], uIsFree, tolerance)) guess = found;
        }
        // At a pole one parameter is anything: carried on from beside it.
        for (const auto& [end, beside, next] : {std::array<int, 3>{0, 1, 2}, {count - 1, count - 2, count - 3}}) {
            bool uIsFree = false;
            if (!alongPole(surface, uv[end], uIsFree, tolerance)) continue;
            if (uIsFree)
                uv[end].SetX(2.0 * uv[beside].X() - uv[next].X());
            else
                uv[end].SetY(2.0 * uv[beside].Y() - uv[next].Y());
        }
        // Straight in the parameters, at an even pace: exact, as for circles and generators of the round surfaces.
        double bend = 0.0;
        const gp_Vec2d whole(uv.front(), uv.back());
        for (int i = 1; i + 1 < count; ++i)
            bend = std::max(bend, uv[i].Distance(uv.front().Translated(whole * ((at[i] - first) / (last - first)))));
        if (bend <= Tolerance::rounding * std::max(1.0, whole.Magnitude())) {
            Trace trace;
            const double pace = whole.Magnitude() / (last - first);
            if (std::abs(pace - 1.0) < Tolerance::rounding) {
                const gp_Dir2d direction(whole);
                trace.curve = new Geom2d_Line(uv.front().Translated(gp_Vec2d(direction) * -first), direction);
            } else {
                TColgp_Array1OfPnt2d poles(1, 2);
                TColStd_Array1OfReal knots(1, 2);
                TColStd_Array1OfInteger multiplicities(1, 2);
                poles(1) = uv.front();
                poles(2) = uv.back();
                knots(1) = first;
                knots(2) = last;
                multiplicities(1) = multiplicities(2) = 2;
                trace.curve = new Geom2d_BSplineCurve(poles, knots, multiplicities, 1);
            }
            for (int i = 0; i < count; ++i) {
                const gp_Pnt2d seen = trace.curve->Value(at[i]);
                trace.deviation =
                    std::max(trace.deviation, surface->Value(seen.X(), seen.Y()).Distance(curve->Value(at[i])));
            }
            return trace;
        }
        const Handle(TColgp_HArray1OfPnt2d) points = new TColgp_HArray1OfPnt2d(1, count);
        const Handle(TColStd_HArray1OfReal) parameters = new TColStd_HArray1OfReal(1, count);
        for (int i = 0; i < count; ++i) {
            points->SetValue(i + 1, uv[i]);
            parameters->SetValue(i + 1, at[i]);
        }
        Geom2dAPI_Interpolate interpolation(points, parameters, false, Tolerance::noLength);
        interpolation.Perform();
        if (!interpolation.IsDone()) return std::nullopt;
        Trace trace{Handle(Geom2d_Curve)(interpolation.Curve()), 0.0};
        std::vector<double> finer;
        for (int i = 0; i + 1 < count; ++i) {
            const double between = 0.5 * (at[i] + at[i + 1]);
            const gp_Pnt2d seen = trace.curve->Value(between);
            const double off = surface->Value(seen.X(), seen.Y()).Distance(curve->Value(between));
            trace.deviation = std::max(trace.deviation, off);
            finer.push_back(at[i]);
            if (off > 0.1 * tolerance) finer.push_back(between);
        }
        finer.push_back(at.back());
        if (finer.size() == at.size() || (finer.size() > most && trace.deviation <= tolerance)) return trace;
        if (finer.size() > most) return std::nullopt;
        at = std::move(finer);
    }
    return std::nullopt;
}

Handle(Geom2d_Curve) inOtherStep(const Handle(Geom2d_Curve) & given, double scale, double shift) {
    Handle(Geom2d_Curve) trace = given;
    // As written: only then may the trace be taken without a change of its parameters.
    if (std::abs(scale - 1.0) < 1e-12 && std::abs(shift) < 1e-12) return trace;
    while (trace->IsKind(STANDARD_TYPE(Geom2d_TrimmedCurve)))
        trace = Handle(Geom2d_TrimmedCurve)::DownCast(trace)->BasisCurve();
    if (const auto line = Handle(Geom2d_Line)::DownCast(trace); !line.IsNull()) {
        if (std::abs(std::abs(scale) - 1.0) > 1e-12) return {};  // a stretched conic would be no conic of its kind
        const gp_Dir2d along = scale > 0.0 ? line->Direction() : line->Direction().Reversed();
        return new Geom2d_Line(line->Value(-shift / scale), along);
    }
    const auto spline = Handle(Geom2d_BSplineCurve)::DownCast(trace);
    if (spline.IsNull() || spline->IsPeriodic()) return {};
    const Handle(Geom2d_BSplineCurve) copy = Handle(Geom2d_BSplineCurve)::DownCast(spline->Copy());
    TColStd_Array1OfReal knots(1, copy->NbKnots());
    copy->Knots(knots);
    if (scale < 0.0) {
        copy->Reverse();
        copy->Knots(knots);  // reversed within the same range
        const double sum = knots.First() + knots.Last();
        for (int k = 1; k <= knots.Length(); ++k) knots(k) = -scale * knots(k) + (scale * sum + shift);
    } else {
        for (int k = 1; k <= knots.Length(); ++k) knots(k) = scale * knots(k) + shift;
    }
    copy->SetKnots(knots);
    return Handle(Geom2d_Curve)(copy);
}

}  // namespace rasoir
