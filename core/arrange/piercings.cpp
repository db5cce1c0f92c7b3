#include "arrange/piercings.h"

#include <algorithm>
#include <Geom_BSplineCurve.hxx>
#include <Geom_Circle.hxx>
#include <Geom_Ellipse.hxx>
#include <Geom_Line.hxx>
#include <Geom_TrimmedCurve.hxx>
#include <gp_Torus.hxx>
#include <Precision.hxx>

// For a torus the kernel has no closed formula but for lines: it nets the whole surface and the curve, once per curve,
// which took minutes where a body of many rounds met another. Here the question is one of a single number. The signed
// distance from a torus changes no faster than the place does, and the place no faster than the curve's greatest
// speed; so a stretch of the curve whose middle is further from the torus than half its length cannot meet it, and is
// laid aside. Stretches that cannot are halved until they are short against every radius concerned. On so short a
// stretch the distance is as good as a parabola: it has at most one turning point, and on either side of it at most
// one root. Both are found by halving, which cannot fail.

namespace rasoir::arrange {
namespace {

/// The greatest speed of a curve [mm per unit of parameter] and the least radius it bends with, where they are known.
struct Bounds {
    double speed = 0.0, radius = 0.0;
};

std::optional<Bounds> boundsOf(const Handle(Geom_Curve) & given) {
    Handle(Geom_Curve) curve = given;
    while (const Handle(Geom_TrimmedCurve) trimmed = Handle(Geom_TrimmedCurve)::DownCast(curve))
        curve = trimmed->BasisCurve();
    if (curve->IsKind(STANDARD_TYPE(Geom_Line))) return Bounds{1.0, Precision::Infinite()};
    if (const Handle(Geom_Circle) circle = Handle(Geom_Circle)::DownCast(curve))
        return Bounds{circle->Radius(), circle->Radius()};
    if (const Handle(Geom_Ellipse) ellipse = Handle(Geom_Ellipse)::DownCast(curve))
        return Bounds{ellipse->MajorRadius(), ellipse->MinorRadius() * ellipse->MinorRadius() / ellipse->MajorRadius()};
    if (const Handle(Geom_BSplineCurve) spline = Handle(Geom_BSplineCurve)::DownCast(curve)) {
        if (spline->IsRational() || spline->IsPeriodic()) return std::nullopt;
        // The derivative is a spline whose poles are these differences, and lies within their hull.
        Bounds bounds{0.0, Precision::Infinite()};
        const int degree = spline->Degree();
        TColStd_Array1OfReal knots(1, spline->NbPoles() + degree + 1);
        spline->KnotSequence(knots);
        double length = 0.0;
        for (int i = 1; i < spline->NbPoles(); ++i) {
            const double span = knots(i + degree + 1) - knots(i + 1);
            const double step = spline->Pole(i).Distance(spline->Pole(i + 1));
            length += step;
            if (span > 0.0) bounds.speed = std::max(bounds.speed, degree * step / span);
        }
        // How it bends is not asked: a hundredth of it, or a quarter of a span of its knots, is short enough.
        bounds.radius = std::min(length / 5.0, 5.0 * length / static_cast<double>(spline->NbKnots() - 1));
        return bounds;
    }
    return std::nullopt;
}

/// Signed distance from a torus along a curve, and how it changes.
class Distance {
public:
    /// `major` is the torus's own, or the negative of it: see piercingsOfTorus().
    Distance(const Geom_Curve& curve, const gp_Torus& torus, double major)
        : m_curve(curve),
          m_centre(torus.Location().XYZ()),
          m_axis(torus.Axis().Direction().XYZ()),
          m_major(major),
          m_minor(torus.MinorRadius()) {}

    [[nodiscard]] double value(double t) const {
        const gp_XYZ from = m_curve.Value(t).XYZ() - m_centre;
        const double height = from.Dot(m_axis);
        return std::hypot((from - m_axis * height).Modulus() - m_major, height) - m_minor;
    }

    [[nodiscard]] double slope(double t) const {
        gp_Pnt point;
        gp_Vec along;
        m_curve.D1(t, point, along);
        const gp_XYZ from = point.XYZ() - m_centre;
        const double height = from.Dot(m_axis);
        const gp_XYZ across = from - m_axis * height;
        const double radius = across.Modulus(), out = radius - m_major, distance = std::hypot(out, height);
        if (radius == 0.0 || distance == 0.0) return 0.0;
        return (across.Dot(along.XYZ()) * (out / radius) + m_axis.Dot(along.XYZ()) * height) / distance;
    }

private:
    const Geom_Curve& m_curve;
    gp_XYZ m_centre, m_axis;
    double m_major, m_minor;
};

/// The place of a change of sign between two parameters, to the last bits.
template <class Function>
double halved(double low, double high, const Function& function) {
    const bool rising = function(low) < 0.0;
    for (int i = 0; i < 60 && low < high; ++i) {
        const double middle = 0.5 * (low + high);
        if (middle <= low || middle >= high) break;
        ((function(middle) < 0.0) == rising ? low : high) = middle;
    }
    return 0.5 * (low + high);
}

}  // namespace

std::optional<std::vector<double>> piercingsOfTorus(const Handle(Geom_Curve) & curve, double first, double last,
                                                    const GeomAdaptor_Surface& surface, double reach) {
    if (surface.GetType() != GeomAbs_Torus) return std::nullopt;
    const gp_Torus torus = surface.Torus();
    const auto bounds = boundsOf(curve);
    if (!bounds || bounds->speed <= 0.0) return std::nullopt;
    // Between its middle and its axis a torus bends with the rest of its great radius.
    const double least = std::min({bounds->radius, torus.MinorRadius(),
                                   std::max(torus.MajorRadius() - torus.MinorRadius(), 0.1 * torus.MinorRadius())});
    const double shortest = 0.05 * least / bounds->speed;

    std::vector<double> found;
    const auto add = [&](double t) {
        const gp_Pnt point = curve->Value(t);
        if (std::none_of(found.begin(), found.end(),
                         [&](double other) { return curve->Value(other).Distance(point) <= reach; }))
            found.push_back(t);
    };
    // A torus that meets itself has an inner skin as well, which a circle beyond the axis sweeps.
    std::vector<double> majors{torus.MajorRadius()};
    if (torus.MajorRadius() < torus.MinorRadius()) majors.push_back(-torus.MajorRadius());
    for (const double major : majors) {
        const Distance distance(*curve, torus, major);
        const auto value = [&distance](double t) { return distance.value(t); };
        const auto slope = [&distance](double t) { return distance.slope(t); };
        std::vector<std::pair<double, double>> waiting{{first, last}};
        while (!waiting.empty()) {
            const auto [low, high] = waiting.back();
            waiting.pop_back();
            const double middle = 0.5 * (low + high);
            if (std::abs(value(middle)) > 0.5 * (high - low) * bounds->speed + reach) continue;
            if (high - low > shortest) {
                waiting.emplace_back(middle, high);
                waiting.emplace_back(low, middle);
                continue;
            }
            std::vector<double> places{low, high};
            if (slope(low) * slope(high) < 0.0) places.insert(places.begin() + 1, halved(low, high, slope));
            for (std::size_t i = 0; i + 1 < places.size(); ++i)
                if (value(places[i]) * value(places[i + 1]) < 0.0) add(halved(places[i], places[i + 1], value));
            // It touches where it turns, and may end just short of the surface. The ends of a stretch are neither.
            for (const double place : places) {
                const bool turns = place != low && place != high;
                if ((turns || place == first || place == last) && std::abs(value(place)) <= reach) add(place);
            }
        }
    }
    std::sort(found.begin(), found.end());
    return found;
}

}  // namespace rasoir::arrange
