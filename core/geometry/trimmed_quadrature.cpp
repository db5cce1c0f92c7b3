#include "geometry/trimmed_quadrature.h"

#include <algorithm>
#include <array>
#include <BRep_Tool.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <cmath>
#include <Geom2d_Line.hxx>
#include <Geom2dAdaptor_Curve.hxx>
#include <Geom_BSplineSurface.hxx>
#include <span>
#include <TColStd_Array1OfReal.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Iterator.hxx>
#include <vector>

#include "common/tolerance.h"

// An integral over the region that a face's traces enclose is, by Green's theorem, one along the traces: of
//   H(s, t) = integral of F from s0 to s at constant t,   the region's integral is the loop integral of H dt,
// where s is the one parameter and t the other. Both are done by Gauss's rule, span by span: between the knots of the
// surface, and between those of each trace, everything is smooth. Loops are closed first where traces leave gaps. The
// kernel takes one rule for the whole of a trace, and is off by thousandths on long splines; that is why this is
// written here.

namespace rasoir {
namespace {

struct Rule {
    std::span<const double> at, weight;  // the positive half; a point at 0 comes first where there is one
    bool zero;
};

constexpr std::array<double, 2> at3{0.0, 0.7745966692414834}, weight3{0.8888888888888888, 0.5555555555555556};
constexpr std::array<double, 3> at5{0.0, 0.5384693101056831, 0.9061798459386640},
    weight5{0.5688888888888889, 0.4786286704993665, 0.2369268850561891};
constexpr std::array<double, 4> at8{0.1834346424956498, 0.5255324099163290, 0.7966664774136267, 0.9602898564975363},
    weight8{0.3626837833783620, 0.3137066458778873, 0.2223810344533745, 0.1012285362903763};

Rule ruleOf(int points) {
    if (points <= 3) return {at3, weight3, true};
    if (points <= 5) return {at5, weight5, true};
    return {at8, weight8, false};
}

template <class Function>
void gauss(const Rule& rule, double from, double to, const Function& function) {
    const double half = 0.5 * (to - from), middle = 0.5 * (to + from);
    for (std::size_t k = 0; k < rule.at.size(); ++k) {
        function(middle + half * rule.at[k], half * rule.weight[k]);
        if (k > 0 || !rule.zero) function(middle - half * rule.at[k], half * rule.weight[k]);
    }
}

/// One of the two parameters: where the surface has knots in it, and how many points a span asks for.
struct Direction {
    std::vector<double> knots;
    int points = 8;
    double longest = 0.0;  // a span that turns by more than this is halved; 0: none does

    template <class Function>
    void between(double from, double to, const Function& function) const {
        const double sign = to < from ? -1.0 : 1.0, low = std::min(from, to), high = std::max(from, to);
        if (!(high > low)) return;
        auto knot = std::upper_bound(knots.begin(), knots.end(), low);
        for (double at = low; at < high;) {
            const double next = knot != knots.end() && *knot < high ? *knot++ : high;
            const int parts = longest > 0.0 ? std::max(1, static_cast<int>(std::ceil((next - at) / longest))) : 1;
            for (int part = 0; part < parts; ++part)
                gauss(ruleOf(points), at + (next - at) * part / parts, at + (next - at) * (part + 1) / parts,
                      [&](double t, double weight) { function(t, sign * weight); });
            at = next;
        }
    }
    [[nodiscard]] std::size_t knotsBetween(double from, double to) const {
        return static_cast<std::size_t>(std::upper_bound(knots.begin(), knots.end(), std::max(from, to)) -
                                        std::lower_bound(knots.begin(), knots.end(), std::min(from, to)));
    }
};

Direction directionOf(const BRepAdaptor_Surface& surface, bool u) {
    Direction direction;
    constexpr double eighth = 0.25 * M_PI + Tolerance::parameter;
    switch (surface.GetType()) {
        case GeomAbs_Plane:
            direction.points = 3;
            return direction;
        case GeomAbs_Cylinder:
        case GeomAbs_Cone:
            direction.points = u ? 5 : 3;
            direction.longest = u ? eighth : 0.0;
            return direction;
        case GeomAbs_Sphere:
        case GeomAbs_Torus:
            direction.points = 5;
            direction.longest = eighth;
            return direction;
        default:
            break;
    }
    const int spans = u ? surface.NbUIntervals(GeomAbs_CN) : surface.NbVIntervals(GeomAbs_CN);
    TColStd_Array1OfReal stops(1, spans + 1);
    if (u)
        surface.UIntervals(stops, GeomAbs_CN);
    else
        surface.VIntervals(stops, GeomAbs_CN);
    for (int i = 1; i <= spans + 1; ++i) direction.knots.push_back(stops(i));
    if (surface.GetType() == GeomAbs_SurfaceOfRevolution && u) direction.longest = eighth;
    if (surface.GetType() == GeomAbs_BSplineSurface && !surface.IsURational() && !surface.IsVRational() &&
        (u ? surface.UDegree() : surface.VDegree()) <= 2)
        direction.points = 5;
    return direction;
}

struct TracedSide {
    Handle(Geom2d_Curve) trace;
    double first, last;
    bool against;
    [[nodiscard]] gp_Pnt2d start() const { return trace->Value(against ? last : first); }
    [[nodiscard]] gp_Pnt2d end() const { return trace->Value(against ? first : last); }
};

/// By how much a trace turns over a span, all turns added up [rad].
double turnOf(const Geom2dAdaptor_Curve& curve, double from, double to) {
    constexpr int steps = 6;
    double sum = 0.0;
    gp_Vec2d before(0.0, 0.0);
    for (int i = 0; i <= steps; ++i) {
        gp_Pnt2d at;
        gp_Vec2d rate;
        curve.D1(from + (to - from) * i / steps, at, rate);
        if (rate.SquareMagnitude() == 0.0) continue;
        if (before.SquareMagnitude() > 0.0) sum += std::abs(before.Angle(rate));
        before = rate;
    }
    return sum;
}

/// Traces that meet only within their vertex's tolerance leave a gap in the loop, and a sum along a loop that is not
/// closed depends on where one starts: each gap gets a straight side. `from`: where the loop's sides begin.
void closeGaps(std::vector<TracedSide>& sides, std::size_t from) {
    const std::size_t count = sides.size();
    std::vector<char> followed(count, false);
    for (std::size_t i = from; i < count; ++i) {
        const gp_Pnt2d end = sides[i].end();
        std::size_t next = count;
        double least = 0.0;
        // The next in order first: almost always that is it.
        for (std::size_t k = 1; k <= count - from; ++k) {
            const std::size_t j = from + (i - from + k) % (count - from);
            if (followed[j]) continue;
            const double off = end.Distance(sides[j].start());
            if (next != count && off >= least) continue;
            next = j;
            least = off;
            if (off <= 1e-12) break;  // of the range: halved to there, an interval holds nothing any more
        }
        followed[next] = true;
        if (least <= 1e-14) continue;  // of the range: shorter strips hold less than rounding
        const gp_Vec2d across(end, sides[next].start());
        sides.push_back({new Geom2d_Line(end, gp_Dir2d(across)), 0.0, across.Magnitude(), false});
    }
}

}  // namespace

bool overTrimmedFace(const TopoDS_Face& face, const std::function<void(const gp_Pnt&, const gp_Vec&, double)>& add) {
    const TopoDS_Face own = TopoDS::Face(face.Oriented(TopAbs_FORWARD));
    std::vector<TracedSide> sides;
    for (TopoDS_Iterator wire(own); wire.More(); wire.Next()) {
        const std::size_t before = sides.size();
        for (TopExp_Explorer it(wire.Value(), TopAbs_EDGE); it.More(); it.Next()) {
            const TopoDS_Edge edge = TopoDS::Edge(it.Current());
            if (edge.Orientation() != TopAbs_FORWARD && edge.Orientation() != TopAbs_REVERSED) continue;
            TracedSide side{{}, 0.0, 0.0, edge.Orientation() == TopAbs_REVERSED};
            side.trace = BRep_Tool::CurveOnSurface(edge, own, side.first, side.last);
            if (side.trace.IsNull()) return false;
            sides.push_back(side);
        }
        closeGaps(sides, before);
    }
    if (sides.empty()) return false;
    const BRepAdaptor_Surface surface(own, false);
    const Direction alongU = directionOf(surface, true), alongV = directionOf(surface, false);
    // The inner sum runs in the direction that asks for less.
    const bool innerU = alongU.knots.size() <= alongV.knots.size();
    const Direction &inner = innerU ? alongU : alongV, &outer = innerU ? alongV : alongU;
    const auto split = [innerU](const gp_XY& uv) {
        return innerU ? std::pair(uv.X(), uv.Y()) : std::pair(uv.Y(), uv.X());
    };
    const double start = split(sides.front().trace->Value(sides.front().first).XY()).first;
    const auto strip = [&](double s, double t, double weight) {
        inner.between(start, s, [&](double at, double w) {
            gp_Pnt point;
            gp_Vec du, dv;
            surface.D1(innerU ? at : t, innerU ? t : at, point, du, dv);
            add(point, du.Crossed(dv), weight * w);
        });
    };
    for (const TracedSide& side : sides) {
        // The boundary's own sense, and that of Green's theorem when the roles of the parameters are changed.
        const double sign = (side.against ? -1.0 : 1.0) * (innerU ? 1.0 : -1.0);
        const Geom2dAdaptor_Curve curve(side.trace, side.first, side.last);
        if (curve.GetType() == GeomAbs_Line) {
            const auto [s0, t0] = split(curve.Value(side.first).XY());
            const auto [s1, t1] = split(curve.Value(side.last).XY());
            // The same number but for its last two digits.
            if (std::abs(t1 - t0) <= 1e-14 * (1.0 + std::abs(t0))) continue;
            Direction along = outer;
            if (std::abs(s1 - s0) > 1e-12 * (1.0 + std::abs(s0))) {  // the same number but for its last four digits
                // A slanting line feels the knots of both directions.
                along.points = 8;
                if (inner.longest > 0.0) {
                    const double steps = std::ceil(std::abs(s1 - s0) / inner.longest);
                    const double each = std::abs(t1 - t0) / steps * (1.0 + Tolerance::rounding);
                    along.longest = along.longest > 0.0 ? std::min(along.longest, each) : each;
                }
            }
            along.between(t0, t1, [&, s = s0, t = t0, ds = s1 - s0, dt = t1 - t0](double at, double weight) {
                strip(s + ds * (at - t) / dt, at, sign * weight);
            });
            continue;
        }
        const int spans = curve.NbIntervals(GeomAbs_CN);
        TColStd_Array1OfReal stops(1, spans + 1);
        curve.Intervals(stops, GeomAbs_CN);
        const double turn = curve.GetType() == GeomAbs_Circle || curve.GetType() == GeomAbs_Ellipse
                                ? 0.25 * M_PI + Tolerance::parameter
                                : 1e300;
        for (int span = 1; span <= spans; ++span) {
            const double from = stops(span), to = stops(span + 1);
            const auto [s0, t0] = split(curve.Value(from).XY());
            const auto [s1, t1] = split(curve.Value(to).XY());
            const auto crossed = outer.knotsBetween(t0, t1) + inner.knotsBetween(s0, s1);
            double parts =
                std::max(1.0 + static_cast<double>(std::min<std::size_t>(crossed, 63)), std::ceil((to - from) / turn));
            // One span of a spline may be a whole circle.
            if (turn == 1e300) parts = std::max(parts, std::ceil(turnOf(curve, from, to) / (0.25 * M_PI)));
            if (outer.longest > 0.0) parts = std::max(parts, std::ceil(std::abs(t1 - t0) / outer.longest));
            if (inner.longest > 0.0) parts = std::max(parts, std::ceil(std::abs(s1 - s0) / inner.longest));
            for (int part = 0; part < static_cast<int>(parts); ++part)
                gauss(ruleOf(8), from + (to - from) * part / parts, from + (to - from) * (part + 1) / parts,
                      [&](double at, double weight) {
                          gp_Pnt2d uv;
                          gp_Vec2d rate;
                          curve.D1(at, uv, rate);
                          const auto [s, t] = split(uv.XY());
                          strip(s, t, sign * weight * split(rate.XY()).second);
                      });
        }
    }
    return true;
}

}  // namespace rasoir
