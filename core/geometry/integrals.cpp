#include "geometry/integrals.h"

#include <tbb/parallel_for.h>

#include <array>
#include <atomic>
#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepGProp.hxx>
#include <BRepGProp_Domain.hxx>
#include <BRepGProp_Face.hxx>
#include <BRepGProp_Vinert.hxx>
#include <cmath>
#include <gp_Pln.hxx>
#include <GProp_GProps.hxx>
#include <numeric>
#include <optional>
#include <TColStd_Array1OfReal.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <vector>

#include "common/guard.h"
#include "geometry/trimmed_quadrature.h"

namespace rasoir {

namespace {

struct Flat {
    double area = 0.0;  // [mm^2]
    gp_Pnt centre;
    gp_Dir outward;
    gp_Pnt origin;                        // that the second moments speak of
    gp_Vec x, y;                          // their axes
    double xx = 0.0, xy = 0.0, yy = 0.0;  // [mm^4] where they were asked for
};

/// A flat bounded by lines, circles and ellipses: exactly, by Green's theorem along its edges. None for any other face,
/// or one whose loops do not enclose an area. Faster than quadrature over the face, and most faces are such.
std::optional<Flat> flatOf(const TopoDS_Face& face, bool withSecond = false) {
    const BRepAdaptor_Surface surface(face, false);
    if (surface.GetType() != GeomAbs_Plane ||
        (face.Orientation() != TopAbs_FORWARD && face.Orientation() != TopAbs_REVERSED))
        return std::nullopt;
    const gp_Pln plane = surface.Plane();
    const gp_Vec x(plane.XAxis().Direction()), y(plane.YAxis().Direction());
    std::optional<gp_Pnt> origin;  // near the face: far from it, differences of large numbers would be summed
    double area = 0.0, momentX = 0.0, momentY = 0.0, xx = 0.0, xy = 0.0, yy = 0.0;
    static constexpr std::array<double, 4> at{0.1834346424956498, 0.5255324099163290, 0.7966664774136267,
                                              0.9602898564975363},
        weight{0.3626837833783620, 0.3137066458778873, 0.2223810344533745, 0.1012285362903763};
    for (TopExp_Explorer it(face.Oriented(TopAbs_FORWARD), TopAbs_EDGE); it.More(); it.Next()) {
        const TopoDS_Edge edge = TopoDS::Edge(it.Current());
        if (edge.Orientation() != TopAbs_FORWARD && edge.Orientation() != TopAbs_REVERSED) continue;
        if (BRep_Tool::Degenerated(edge)) return std::nullopt;
        const BRepAdaptor_Curve curve(edge);
        const double sign = edge.Orientation() == TopAbs_FORWARD ? 1.0 : -1.0, first = curve.FirstParameter(),
                     last = curve.LastParameter();
        if (!origin) origin = curve.Value(first);
        const auto flat = [&](const gp_Pnt& p) {
            return std::pair(gp_Vec(*origin, p).Dot(x), gp_Vec(*origin, p).Dot(y));
        };
        // What the piece of curve round `middle`, `half` of its parameter to each side, adds; eight points of Gauss.
        const auto gauss = [&](double half, double middle) {
            for (std::size_t k = 0; k < 8; ++k) {
                gp_Pnt p;
                gp_Vec d;
                curve.D1(middle + (k < 4 ? -at[k] : at[k - 4]) * half, p, d);
                const double w = sign * half * weight[k % 4], dx = d.Dot(x), dy = d.Dot(y);
                const auto [u, v] = flat(p);
                area += w * 0.5 * (u * dy - v * dx);
                momentX += w * 0.5 * u * u * dy;
                momentY -= w * 0.5 * v * v * dx;
                xx += w * u * u * u * dy / 3.0;
                xy += w * 0.5 * u * u * v * dy;
                yy -= w * v * v * v * dx / 3.0;
            }
        };
        if (curve.GetType() == GeomAbs_Line && !withSecond) {
            const auto [x0, y0] = flat(curve.Value(first));
            const auto [x1, y1] = flat(curve.Value(last));
            area += sign * 0.5 * (x0 * y1 - x1 * y0);
            momentX += sign * (y1 - y0) * (x0 * x0 + x0 * x1 + x1 * x1) / 6.0;
            momentY -= sign * (x1 - x0) * (y0 * y0 + y0 * y1 + y1 * y1) / 6.0;
        } else if (curve.GetType() == GeomAbs_Line) {
            gauss(0.5 * (last - first), 0.5 * (first + last));  // exact: the integrands have degree three
        } else if (curve.GetType() == GeomAbs_Circle || curve.GetType() == GeomAbs_Ellipse) {
            // Gauss with eight points on each eighth of a turn: as exact as the numbers are.
            const int pieces = std::max(1, static_cast<int>(std::ceil((last - first) / (0.25 * M_PI) - 1e-9)));
            for (int piece = 0; piece < pieces; ++piece) {
                const double half = 0.5 * (last - first) / pieces, middle = first + (2 * piece + 1) * half;
                gauss(half, middle);
            }
        } else {
            // Other curves span by span, with the same eight points: the kernel's own quadrature takes one rule for the
            // whole of a spline, and is off by thousandths on a long one.
            const int spans = curve.NbIntervals(GeomAbs_CN);
            if (spans > 2000) return std::nullopt;
            TColStd_Array1OfReal knots(1, spans + 1);
            curve.Intervals(knots, GeomAbs_CN);
            for (int span = 1; span <= spans; ++span) {
                const double half = 0.5 * (knots(span + 1) - knots(span)),
                             middle = 0.5 * (knots(span + 1) + knots(span));
                gauss(half, middle);
            }
        }
    }
    if (!origin || !(std::abs(area) > 0.0)) return std::nullopt;
    gp_Dir normal(x.Crossed(y));
    // The kernel's normal of a plane follows its axes, be they left-handed.
    if (face.Orientation() == TopAbs_REVERSED) normal.Reverse();
    return Flat{area, origin->Translated(x * (momentX / area) + y * (momentY / area)), normal, *origin, x, y, xx, xy,
                yy};
}

}  // namespace

Skin skinOf(const TopoDS_Shape& shape) {
    if (shape.ShapeType() == TopAbs_FACE)
        if (const auto flat = flatOf(TopoDS::Face(shape))) return {std::abs(flat->area), flat->centre};
    Skin skin;
    gp_XYZ moment;
    gp_Pnt origin;  // near the shape
    if (const TopExp_Explorer vertex(shape, TopAbs_VERTEX); vertex.More())
        origin = BRep_Tool::Pnt(TopoDS::Vertex(vertex.Current()));
    for (TopExp_Explorer it(shape, TopAbs_FACE); it.More(); it.Next()) {
        const TopoDS_Face face = TopoDS::Face(it.Current());
        double area = 0.0;
        gp_XYZ own;
        if (const auto flat = flatOf(face)) {
            area = flat->area;
            own = (flat->centre.XYZ() - origin.XYZ()) * flat->area;
        } else if (!overTrimmedFace(face, [&](const gp_Pnt& point, const gp_Vec& normal, double weight) {
                       const double share = weight * normal.Magnitude();
                       area += share;
                       own += (point.XYZ() - origin.XYZ()) * share;
                   })) {
            GProp_GProps integral;
            BRepGProp::SurfaceProperties(face, integral);
            area = integral.Mass();
            own = (integral.CentreOfMass().XYZ() - origin.XYZ()) * area;
        }
        skin.area += std::abs(area);
        moment += own * (area < 0.0 ? -1.0 : 1.0);
    }
    if (skin.area > 0.0) origin.ChangeCoord() += moment / skin.area;
    skin.centre = origin;
    return skin;
}

double lengthOf(const TopoDS_Shape& shape) {
    GProp_GProps integral;
    BRepGProp::LinearProperties(shape, integral);
    return integral.Mass();
}

double volumeOf(const TopoDS_Shape& shape) {
    // A point of the shape itself: seen from far away, differences of large numbers would be summed.
    const TopExp_Explorer vertex(shape, TopAbs_VERTEX);
    return volumeSeenFrom(vertex.More() ? BRep_Tool::Pnt(TopoDS::Vertex(vertex.Current())) : gp_Pnt(), shape);
}

double volumeSeenFrom(const gp_Pnt& base, const TopoDS_Shape& shape) {
    std::vector<TopoDS_Face> faces;
    for (TopExp_Explorer it(shape, TopAbs_FACE); it.More(); it.Next())
        if (it.Current().Orientation() == TopAbs_FORWARD || it.Current().Orientation() == TopAbs_REVERSED)
            faces.push_back(TopoDS::Face(it.Current()));
    std::vector<double> shares(faces.size());
    std::atomic<bool> failed = false;
    tbb::parallel_for(
        tbb::blocked_range<std::size_t>(0, faces.size(), 32), [&](const tbb::blocked_range<std::size_t>& range) {
            const auto done = guarded("Measuring", [&]() -> Result<void> {
                for (std::size_t i = range.begin(); i != range.end(); ++i) {
                    if (const auto flat = flatOf(faces[i])) {
                        shares[i] = flat->area * gp_Vec(base, flat->centre).Dot(gp_Vec(flat->outward)) / 3.0;
                        continue;
                    }
                    double sum = 0.0;
                    if (overTrimmedFace(faces[i], [&](const gp_Pnt& point, const gp_Vec& normal, double weight) {
                            sum += weight * gp_Vec(base, point).Dot(normal);
                        })) {
                        shares[i] = (faces[i].Orientation() == TopAbs_REVERSED ? -1.0 : 1.0) * sum / 3.0;
                        continue;
                    }
                    BRepGProp_Face integrand(faces[i]);
                    BRepGProp_Domain domain(faces[i]);
                    shares[i] = BRepGProp_Vinert(integrand, domain, base).Mass();
                }
                return {};
            });
            if (!done) failed = true;
        });
    if (failed) throw Standard_Failure("a face cannot be measured");
    return std::accumulate(shares.begin(), shares.end(), 0.0);  // in the order of the faces: the same sum every time
}

void FaceMoments::add(const FaceMoments& other, double sign) {
    area += other.area;
    areaFirst += other.areaFirst;
    volume += sign * other.volume;
    first += other.first * sign;
    for (std::size_t k = 0; k < 6; ++k) second[k] += sign * other.second[k];
}

std::optional<FaceMoments> momentsOf(const TopoDS_Face& face, const gp_Pnt& base) {
    FaceMoments moments;
    if (const auto flat = flatOf(face, true)) {
        // The height over a flat is the same all over it. An area that came out negative turns all signs alike.
        const double height = gp_Vec(base, flat->origin).Dot(gp_Vec(flat->outward));
        const gp_XYZ o = flat->origin.XYZ() - base.XYZ(), x = flat->x.XYZ(), y = flat->y.XYZ(),
                     inFlat = (flat->centre.XYZ() - flat->origin.XYZ()) * flat->area;
        moments.area = std::abs(flat->area);
        moments.areaFirst = (o * flat->area + inFlat) * (flat->area < 0.0 ? -1.0 : 1.0);
        moments.volume = flat->area * height / 3.0;
        moments.first = (o * flat->area + inFlat) * (height / 4.0);
        static constexpr std::array<std::array<int, 2>, 6> pairs{{{1, 1}, {2, 2}, {3, 3}, {1, 2}, {1, 3}, {2, 3}}};
        for (std::size_t k = 0; k < 6; ++k) {
            const auto [i, j] = pairs[k];
            moments.second[k] =
                height / 5.0 *
                (o.Coord(i) * o.Coord(j) * flat->area + o.Coord(i) * inFlat.Coord(j) + inFlat.Coord(i) * o.Coord(j) +
                 x.Coord(i) * x.Coord(j) * flat->xx + y.Coord(i) * y.Coord(j) * flat->yy +
                 (x.Coord(i) * y.Coord(j) + y.Coord(i) * x.Coord(j)) * flat->xy);
        }
        return moments;
    }
    const double side = face.Orientation() == TopAbs_REVERSED ? -1.0 : 1.0;
    const bool summed = overTrimmedFace(face, [&](const gp_Pnt& point, const gp_Vec& normal, double weight) {
        const gp_XYZ r = point.XYZ() - base.XYZ();
        const double size = weight * normal.Magnitude(), cone = side * weight * r.Dot(normal.XYZ());
        moments.area += size;
        moments.areaFirst += r * size;
        moments.volume += cone / 3.0;
        moments.first += r * (cone / 4.0);
        const double fifth = cone / 5.0;
        moments.second[0] += fifth * r.X() * r.X();
        moments.second[1] += fifth * r.Y() * r.Y();
        moments.second[2] += fifth * r.Z() * r.Z();
        moments.second[3] += fifth * r.X() * r.Y();
        moments.second[4] += fifth * r.X() * r.Z();
        moments.second[5] += fifth * r.Y() * r.Z();
    });
    if (!summed) return std::nullopt;
    if (moments.area < 0.0) {  // loops that run the other way round, as skinOf takes them
        moments.area = -moments.area;
        moments.areaFirst *= -1.0;
    }
    return moments;
}

BodyMoments bodyOf(const FaceMoments& sum, const gp_Pnt& base) {
    BodyMoments body;
    body.volume = sum.volume;
    body.centre = base;
    if (!(std::abs(sum.volume) > 0.0)) return body;
    const gp_XYZ c = sum.first / sum.volume;
    body.centre = gp_Pnt(base.XYZ() + c);
    // Second moments about the centre, then the tensor made of them.
    const double xx = sum.second[0] - sum.volume * c.X() * c.X(), yy = sum.second[1] - sum.volume * c.Y() * c.Y(),
                 zz = sum.second[2] - sum.volume * c.Z() * c.Z();
    body.inertia = {yy + zz,
                    xx + zz,
                    xx + yy,
                    -(sum.second[3] - sum.volume * c.X() * c.Y()),
                    -(sum.second[4] - sum.volume * c.X() * c.Z()),
                    -(sum.second[5] - sum.volume * c.Y() * c.Z())};
    return body;
}

}  // namespace rasoir
