#include "geometry/carried_surface.h"

#include <Eigen/Dense>
#include <Geom_BezierCurve.hxx>
#include <Geom_BezierSurface.hxx>
#include <Geom_BoundedCurve.hxx>
#include <Geom_BSplineCurve.hxx>
#include <Geom_BSplineSurface.hxx>
#include <Geom_RectangularTrimmedSurface.hxx>
#include <Geom_SurfaceOfLinearExtrusion.hxx>
#include <Geom_SurfaceOfRevolution.hxx>
#include <GeomConvert.hxx>
#include <TColgp_Array1OfPnt.hxx>
#include <TColgp_Array2OfPnt.hxx>
#include <TColStd_Array1OfInteger.hxx>
#include <TColStd_Array1OfReal.hxx>
#include <TColStd_Array2OfReal.hxx>
#include <vector>

#include "common/tolerance.h"
#include "geometry/curves.h"

namespace rasoir {
namespace {

using Row = std::vector<Eigen::Vector4d>;  // control points, homogeneous

/// Moves the last knot of a clamped row of control points to `end`: the last span's polynomial goes on.
void moveEnd(Row& row, const std::vector<double>& flat, int degree, double end) {
    const int n = static_cast<int>(row.size()) - 1, p = degree;
    std::vector<double> moved = flat;
    for (int k = n + 1; k <= n + p + 1; ++k) moved[k] = end;
    const Row old = row;
    for (int i = n - p + 1; i <= n; ++i) {
        Row d(old.begin() + (n - p), old.end());  // d[j - (n - p)]
        for (int r = 1; r <= p; ++r) {
            const double t = moved[i + r];
            for (int j = n; j >= n - p + r; --j) {
                const double a = (t - flat[j]) / (flat[j + p - r + 1] - flat[j]);
                d[j - n + p] = (1.0 - a) * d[j - n + p - 1] + a * d[j - n + p];
            }
        }
        row[i] = d[p];
    }
}

std::vector<double> flatKnots(const TColStd_Array1OfReal& knots, const TColStd_Array1OfInteger& multiplicities) {
    std::vector<double> flat;
    for (int k = knots.Lower(); k <= knots.Upper(); ++k)
        for (int m = 0; m < multiplicities(k); ++m) flat.push_back(knots(k));
    return flat;
}
std::vector<double> mirrored(const std::vector<double>& flat) {
    std::vector<double> turned(flat.rbegin(), flat.rend());
    for (double& knot : turned) knot = -knot;
    return turned;
}

/// All rows at once, at both ends; `knots` are moved too. False where a weight would not stay positive.
bool stretch(std::vector<Row>& rows, TColStd_Array1OfReal& knots, const TColStd_Array1OfInteger& multiplicities,
             int degree, double before, double behind) {
    if (multiplicities(multiplicities.Lower()) != degree + 1 || multiplicities(multiplicities.Upper()) != degree + 1)
        return false;
    const double firstSpan = knots(knots.Lower() + 1) - knots(knots.Lower()),
                 lastSpan = knots(knots.Upper()) - knots(knots.Upper() - 1);
    before = std::min(before, 2.0 * firstSpan);
    behind = std::min(behind, 2.0 * lastSpan);
    std::vector<Row> made = rows;
    const std::vector<double> flat = flatKnots(knots, multiplicities);
    const double start = knots(knots.Lower()) - before, end = knots(knots.Upper()) + behind;
    std::vector<double> longer = flat;
    for (int k = 0; k <= degree; ++k) longer[longer.size() - 1 - static_cast<std::size_t>(k)] = end;
    for (Row& row : made) {
        moveEnd(row, flat, degree, end);
        std::reverse(row.begin(), row.end());
        moveEnd(row, mirrored(longer), degree, -start);
        std::reverse(row.begin(), row.end());
        // Weights and their sums; a pole at infinity has none left.
        for (const Eigen::Vector4d& point : row)
            if (!(point[3] > 1e-6) || !point.allFinite()) return false;
    }
    rows = std::move(made);
    knots(knots.Lower()) = start;
    knots(knots.Upper()) = end;
    return true;
}

bool stretchAsFar(std::vector<Row>& rows, TColStd_Array1OfReal& knots, const TColStd_Array1OfInteger& multiplicities,
                  int degree, double before, double behind) {
    for (int halvings = 0; halvings < 4; ++halvings, before *= 0.5, behind *= 0.5)
        if (stretch(rows, knots, multiplicities, degree, before, behind)) return true;
    return false;
}

Eigen::Vector4d homogeneous(const gp_Pnt& point, double weight) {
    return {point.X() * weight, point.Y() * weight, point.Z() * weight, weight};
}
gp_Pnt plain(const Eigen::Vector4d& point) {
    return {point[0] / point[3], point[1] / point[3], point[2] / point[3]};
}

Handle(Geom_Surface) carriedOnSpline(const Handle(Geom_BSplineSurface) & spline, double by) {
    const Handle(Geom_BSplineSurface) made = Handle(Geom_BSplineSurface)::DownCast(spline->Copy());
    bool any = false;
    double u0 = 0, u1 = 0, v0 = 0, v1 = 0;
    spline->Bounds(u0, u1, v0, v1);
    // How fast a parameter runs at a side [mm].
    const auto pace = [&](bool inU, bool last) {
        double sum = 0.0;
        for (const double share : {0.2, 0.5, 0.8}) {
            gp_Pnt point;
            gp_Vec du, dv;
            spline->D1(inU ? (last ? u1 : u0) : u0 + share * (u1 - u0), inU ? v0 + share * (v1 - v0) : (last ? v1 : v0),
                       point, du, dv);
            sum += (inU ? du : dv).Magnitude() / 3.0;
        }
        return sum;
    };
    Handle(Geom_BSplineSurface) now = made;
    for (const bool inU : {true, false}) {
        if (inU ? now->IsUPeriodic() || now->IsUClosed() : now->IsVPeriodic() || now->IsVClosed()) continue;
        const double atStart = pace(inU, false), atEnd = pace(inU, true);
        if (atStart < 1e-12 || atEnd < 1e-12) continue;  // a pole
        const int rows = inU ? now->NbVPoles() : now->NbUPoles(), length = inU ? now->NbUPoles() : now->NbVPoles(),
                  degree = inU ? now->UDegree() : now->VDegree();
        std::vector<Row> all(static_cast<std::size_t>(rows));
        for (int r = 1; r <= rows; ++r)
            for (int i = 1; i <= length; ++i)
                all[r - 1].push_back(
                    homogeneous(inU ? now->Pole(i, r) : now->Pole(r, i), inU ? now->Weight(i, r) : now->Weight(r, i)));
        TColStd_Array1OfReal uKnots(1, now->NbUKnots()), vKnots(1, now->NbVKnots());
        TColStd_Array1OfInteger uTimes(1, now->NbUKnots()), vTimes(1, now->NbVKnots());
        now->UKnots(uKnots);
        now->VKnots(vKnots);
        now->UMultiplicities(uTimes);
        now->VMultiplicities(vTimes);
        if (!stretchAsFar(all, inU ? uKnots : vKnots, inU ? uTimes : vTimes, degree, by / atStart, by / atEnd))
            continue;
        TColgp_Array2OfPnt poles(1, now->NbUPoles(), 1, now->NbVPoles());
        TColStd_Array2OfReal weights(1, now->NbUPoles(), 1, now->NbVPoles());
        for (int r = 1; r <= rows; ++r)
            for (int i = 1; i <= length; ++i) {
                const Eigen::Vector4d& point = all[r - 1][i - 1];
                (inU ? poles(i, r) : poles(r, i)) = plain(point);
                (inU ? weights(i, r) : weights(r, i)) = point[3];
            }
        now = new Geom_BSplineSurface(poles, weights, uKnots, vKnots, uTimes, vTimes, now->UDegree(), now->VDegree(),
                                      now->IsUPeriodic(), now->IsVPeriodic());
        any = true;
    }
    return any ? Handle(Geom_Surface)(now) : Handle(Geom_Surface)(spline);
}

}  // namespace

Handle(Geom_Curve) carriedOn(const Handle(Geom_Curve) & given, double by) {
    const Handle(Geom_Curve) curve = untrimmedCurve(given);
    if (curve.IsNull() || runsOn(curve) || curve->IsPeriodic() || curve->IsClosed()) return curve;
    Handle(Geom_BSplineCurve) spline = Handle(Geom_BSplineCurve)::DownCast(curve);
    if (spline.IsNull() && curve->IsKind(STANDARD_TYPE(Geom_BezierCurve)))
        spline = GeomConvert::CurveToBSplineCurve(curve);
    if (spline.IsNull()) return curve;
    std::vector<Row> rows(1);
    for (int i = 1; i <= spline->NbPoles(); ++i) rows[0].push_back(homogeneous(spline->Pole(i), spline->Weight(i)));
    TColStd_Array1OfReal knots(1, spline->NbKnots());
    TColStd_Array1OfInteger times(1, spline->NbKnots());
    spline->Knots(knots);
    spline->Multiplicities(times);
    const double atStart = spline->DN(spline->FirstParameter(), 1).Magnitude(),
                 atEnd = spline->DN(spline->LastParameter(), 1).Magnitude();
    if (atStart < Tolerance::noLength || atEnd < Tolerance::noLength ||
        !stretchAsFar(rows, knots, times, spline->Degree(), by / atStart, by / atEnd))
        return curve;
    TColgp_Array1OfPnt poles(1, spline->NbPoles());
    TColStd_Array1OfReal weights(1, spline->NbPoles());
    for (int i = 1; i <= spline->NbPoles(); ++i) {
        poles(i) = plain(rows[0][i - 1]);
        weights(i) = rows[0][i - 1][3];
    }
    return new Geom_BSplineCurve(poles, weights, knots, times, spline->Degree());
}

Handle(Geom_Surface) carriedOn(const Handle(Geom_Surface) & given, double by) {
    Handle(Geom_Surface) surface = given;
    while (surface->IsKind(STANDARD_TYPE(Geom_RectangularTrimmedSurface)))
        surface = Handle(Geom_RectangularTrimmedSurface)::DownCast(surface)->BasisSurface();
    if (const auto spline = Handle(Geom_BSplineSurface)::DownCast(surface); !spline.IsNull())
        return carriedOnSpline(spline, by);
    if (surface->IsKind(STANDARD_TYPE(Geom_BezierSurface)))
        return carriedOnSpline(GeomConvert::SurfaceToBSplineSurface(surface), by);
    if (const auto swept = Handle(Geom_SurfaceOfLinearExtrusion)::DownCast(surface); !swept.IsNull()) {
        const Handle(Geom_Curve) longer = carriedOn(swept->BasisCurve(), by);
        return longer == swept->BasisCurve()
                   ? surface
                   : Handle(Geom_Surface)(new Geom_SurfaceOfLinearExtrusion(longer, swept->Direction()));
    }
    if (const auto turned = Handle(Geom_SurfaceOfRevolution)::DownCast(surface); !turned.IsNull()) {
        const Handle(Geom_Curve) longer = carriedOn(turned->BasisCurve(), by);
        return longer == turned->BasisCurve()
                   ? surface
                   : Handle(Geom_Surface)(new Geom_SurfaceOfRevolution(longer, turned->Axis()));
    }
    return surface;
}

}  // namespace rasoir
