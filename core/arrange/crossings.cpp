#include "arrange/crossings.h"

#include <ElCLib.hxx>
#include <Extrema_ExtCC.hxx>
#include <Extrema_POnCurv.hxx>
#include <gp_Circ.hxx>
#include <gp_Lin.hxx>
#include <optional>

#include "common/tolerance.h"

// Most edges are lines and circles, and most pairs of them do not meet. Each closed formula gives candidates, points
// where the curves would meet if they do; whether they do is asked of both curves in the same way for all, by distance.

namespace rasoir::arrange {
namespace {

/// Points where a line comes nearest to a circle: where it pierces the circle's plane, or, in that plane, crosses it.
std::vector<gp_Pnt> candidates(const gp_Lin& line, const gp_Circ& circle, double reach) {
    const gp_XYZ centre = circle.Location().XYZ(), normal = circle.Axis().Direction().XYZ();
    const gp_XYZ from = line.Location().XYZ(), along = line.Direction().XYZ();
    const double rate = along.Dot(normal), height = (from - centre).Dot(normal);
    std::vector<gp_Pnt> points;
    // At a small angle to the plane both are looked at: the piercing, and the crossing of the line as seen from above.
    if (std::abs(rate) > 1e-9) points.emplace_back(from - along * (height / rate));
    if (std::abs(rate) < 0.1) {
        gp_XYZ flat = along - normal * rate;
        flat.Normalize();
        const gp_XYZ start = from - normal * height - centre;
        const double middle = -start.Dot(flat);
        const double square = circle.Radius() * circle.Radius() - (start + flat * middle).SquareModulus();
        // A line that passes by within reach touches at its foot.
        if (square > -2.0 * circle.Radius() * reach) {
            const double half = std::sqrt(std::max(0.0, square));
            for (const double side : {-half, half}) points.emplace_back(centre + start + flat * (middle + side));
        }
    }
    return points;
}

std::vector<gp_Pnt> candidates(const gp_Circ& a, const gp_Circ& b, double reach) {
    const gp_XYZ n = a.Axis().Direction().XYZ(), m = b.Axis().Direction().XYZ();
    const gp_XYZ between = b.Location().XYZ() - a.Location().XYZ();
    const gp_XYZ across = n.Crossed(m);
    std::vector<gp_Pnt> points;
    if (across.Modulus() < Tolerance::sameDirection) {
        if (std::abs(between.Dot(n)) > reach) return points;
        const gp_XYZ flat = between - n * between.Dot(n);
        const double distance = flat.Modulus();
        if (distance < 1e-12) return points;  // concentric: one, or apart
        const gp_XYZ along = flat / distance, side = n.Crossed(along);
        const double x = 0.5 * (distance + (a.Radius() * a.Radius() - b.Radius() * b.Radius()) / distance);
        const double square = a.Radius() * a.Radius() - x * x;
        if (square < -2.0 * a.Radius() * reach * 2.0) return points;
        const double y = std::sqrt(std::max(0.0, square));
        for (const double sign : {-1.0, 1.0}) points.emplace_back(a.Location().XYZ() + along * x + side * (sign * y));
        return points;
    }
    // The line in which their planes meet: where it meets the one circle, the other is asked.
    const double c = n.Dot(m), p = n.Dot(a.Location().XYZ()), q = m.Dot(b.Location().XYZ()), d = 1.0 - c * c;
    const gp_XYZ origin = n * ((p - q * c) / d) + m * ((q - p * c) / d);
    for (const gp_Circ* circle : {&a, &b})
        for (const gp_Pnt& point : candidates(gp_Lin(gp_Pnt(origin), gp_Dir(across)), *circle, reach))
            points.push_back(point);
    return points;
}

/// The parameter within the curve's range at which it passes a point within reach.
std::optional<double> parameterNear(const GeomAdaptor_Curve& curve, const gp_Pnt& point, double reach) {
    double t = 0.0;
    if (curve.GetType() == GeomAbs_Line) {
        t = ElCLib::Parameter(curve.Line(), point);
    } else {
        t = ElCLib::Parameter(curve.Circle(), point);
        const double first = curve.FirstParameter();
        t -= 2.0 * M_PI * std::floor((t - first) / (2.0 * M_PI));
        // Just before the beginning is just after the end of a whole circle, and the beginning of a part of one.
        if (t > curve.LastParameter() && 2.0 * M_PI - (t - first) < 1e-9) t = first;
    }
    if (t < curve.FirstParameter() || t > curve.LastParameter()) return std::nullopt;
    return curve.Value(t).Distance(point) <= reach ? std::optional(t) : std::nullopt;
}

}  // namespace

std::vector<std::pair<double, double>> crossingsOf(const GeomAdaptor_Curve& a, const GeomAdaptor_Curve& b,
                                                   double reach) {
    std::vector<std::pair<double, double>> found;
    const bool lineA = a.GetType() == GeomAbs_Line, lineB = b.GetType() == GeomAbs_Line;
    const bool simpleA = lineA || a.GetType() == GeomAbs_Circle, simpleB = lineB || b.GetType() == GeomAbs_Circle;
    if (simpleA && simpleB) {
        std::vector<gp_Pnt> points;
        if (lineA && lineB) {
            const gp_XYZ d = a.Line().Direction().XYZ(), e = b.Line().Direction().XYZ();
            const gp_XYZ between = b.Line().Location().XYZ() - a.Line().Location().XYZ();
            const double de = d.Dot(e), determinant = 1.0 - de * de;
            if (determinant < 1e-12) return found;  // closer to parallel than 1e-6 rad: one, or never meeting
            const double s = (between.Dot(d) - between.Dot(e) * de) / determinant, t = s * de - between.Dot(e);
            points.emplace_back(0.5 * (ElCLib::Value(s, a.Line()).XYZ() + ElCLib::Value(t, b.Line()).XYZ()));
        } else if (lineA) {
            points = candidates(a.Line(), b.Circle(), reach);
        } else if (lineB) {
            points = candidates(b.Line(), a.Circle(), reach);
        } else {
            points = candidates(a.Circle(), b.Circle(), reach);
        }
        for (const gp_Pnt& point : points) {
            const auto s = parameterNear(a, point, reach), t = parameterNear(b, point, reach);
            if (!s || !t || a.Value(*s).Distance(b.Value(*t)) > reach) continue;
            if (std::none_of(found.begin(), found.end(),
                             [&](const auto& one) { return a.Value(one.first).Distance(a.Value(*s)) <= reach; }))
                found.emplace_back(*s, *t);
        }
        return found;
    }
    Extrema_ExtCC extrema(a, b);
    if (!extrema.IsDone() || extrema.IsParallel()) return found;
    for (int i = 1; i <= extrema.NbExt(); ++i) {
        if (extrema.SquareDistance(i) > reach * reach) continue;
        Extrema_POnCurv p, q;
        extrema.Points(i, p, q);
        found.emplace_back(p.Parameter(), q.Parameter());
    }
    return found;
}

}  // namespace rasoir::arrange
