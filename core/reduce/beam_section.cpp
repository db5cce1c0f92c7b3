#include "reduce/beam_section.h"

#include <algorithm>
#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepTools.hxx>
#include <BRepTools_WireExplorer.hxx>
#include <cmath>
#include <gp_Pln.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Iterator.hxx>
#include <TopoDS_Wire.hxx>

#include "common/tolerance.h"
#include "geometry/integrals.h"
#include "geometry/trimmed_quadrature.h"

// The numbers come from integrals over the face; the name comes from its outline. Arcs between two lines are rounded
// corners and are left out: lines that follow each other are carried on to their common corner. What is left is a
// polygon, which is known by its number of corners and the order of those that point inwards.

namespace rasoir::reduce {
namespace {

struct Loop {
    std::vector<gp_Pnt2d> corners;  // empty where it is no polygon
    bool circle = false;
    gp_Pnt2d middle;  // of a circle
    double radius = 0.0, length = 0.0;
};

/// The plane's coordinates of a point.
struct Frame {
    gp_Pnt origin;
    gp_Vec x, y;
    [[nodiscard]] gp_Pnt2d operator()(const gp_Pnt& point) const {
        const gp_Vec to(origin, point);
        return {to.Dot(x), to.Dot(y)};
    }
};

double cross(const gp_Vec2d& a, const gp_Vec2d& b) {
    return a.X() * b.Y() - a.Y() * b.X();
}

/// What a curve is, whatever the file calls it: swept sections have circles and lines that are written as splines.
struct TrueCurve {
    bool line = false;
    double radius = 0.0;  // of a circle; else 0
    gp_Pnt2d middle;
};
TrueCurve trueCurve(const BRepAdaptor_Curve& curve, const Frame& frame) {
    TrueCurve found;
    if (curve.GetType() == GeomAbs_Line) {
        found.line = true;
        return found;
    }
    if (curve.GetType() == GeomAbs_Circle) {
        found.radius = curve.Circle().Radius();
        found.middle = frame(curve.Circle().Location());
        return found;
    }
    std::vector<gp_Pnt2d> points;
    constexpr int steps = 12;
    for (int i = 0; i <= steps; ++i)
        points.push_back(
            frame(curve.Value(curve.FirstParameter() + (curve.LastParameter() - curve.FirstParameter()) * i / steps)));
    const gp_Vec2d chord(points.front(), points[8]), other(points.front(), points[4]);
    const double twice = 2.0 * cross(chord, other), size = std::max(chord.Magnitude(), other.Magnitude());
    constexpr double same = 1e-4;  // of the depth: outlines of sections are chords of the true ones
    if (std::abs(twice) <= same * size * size) {
        found.line = std::all_of(points.begin(), points.end(), [&](const gp_Pnt2d& point) {
            return std::abs(cross(chord, gp_Vec2d(points.front(), point))) <= same * size * chord.Magnitude();
        });
        return found;
    }
    // The middle of the circle through three of them.
    const double a = chord.SquareMagnitude() / twice, b = other.SquareMagnitude() / twice;
    const gp_Pnt2d middle(points.front().X() + other.Y() * a - chord.Y() * b,
                          points.front().Y() - other.X() * a + chord.X() * b);
    const double radius = middle.Distance(points.front());
    if (std::all_of(points.begin(), points.end(), [&](const gp_Pnt2d& point) {
            return std::abs(middle.Distance(point) - radius) <= same * radius;
        })) {
        found.radius = radius;
        found.middle = middle;
    }
    return found;
}

Loop loopOf(const TopoDS_Wire& wire, const TopoDS_Face& face, const Frame& frame) {
    Loop loop;
    struct Line {
        gp_Pnt2d at;
        gp_Vec2d along;
    };
    std::vector<Line> lines;
    bool arcs = true, known = true;
    for (BRepTools_WireExplorer it(wire, face); it.More(); it.Next()) {
        const BRepAdaptor_Curve curve(it.Current());
        loop.length += lengthOf(it.Current());
        const double a = curve.FirstParameter(), b = curve.LastParameter();
        const TrueCurve kind = trueCurve(curve, frame);
        if (kind.line) {
            arcs = false;
            gp_Pnt2d from = frame(curve.Value(a)), to = frame(curve.Value(b));
            if (it.Current().Orientation() == TopAbs_REVERSED) std::swap(from, to);
            const gp_Vec2d along(from, to);
            if (along.Magnitude() < Tolerance::noWay) continue;
            // Pieces of one line are one.
            if (!lines.empty() && std::abs(cross(lines.back().along.Normalized(), along.Normalized())) < 1e-6 &&
                lines.back().along.Dot(along) > 0.0)
                continue;
            lines.push_back({from, along.Normalized()});
        } else if (kind.radius > 0.0) {
            // A circle is known exactly, any other curve by its points.
            const double same = (curve.GetType() == GeomAbs_Circle ? 1e-6 : 1e-4) * loop.radius;
            if (loop.radius > 0.0 &&
                (std::abs(kind.radius - loop.radius) > same || kind.middle.Distance(loop.middle) > same))
                arcs = false;
            loop.middle = kind.middle;
            loop.radius = kind.radius;
        } else {
            known = false;
        }
    }
    loop.circle = known && arcs && loop.radius > 0.0;
    if (!known || loop.circle) return loop;
    if (lines.size() > 1 && std::abs(cross(lines.front().along, lines.back().along)) < Tolerance::sameDirection &&
        lines.front().along.Dot(lines.back().along) > 0.0)
        lines.pop_back();
    for (std::size_t i = 0; i < lines.size(); ++i) {
        const Line &one = lines[i], &next = lines[(i + 1) % lines.size()];
        const double turn = cross(one.along, next.along);
        if (std::abs(turn) < 1e-3) return {{}, false, {}, 0.0, loop.length};  // two flats with a half round between
        const double t = cross(gp_Vec2d(one.at, next.at), next.along) / turn;
        loop.corners.push_back(one.at.Translated(one.along * t));
    }
    return loop;
}

/// The order of corners: true where one points inwards. The polygon runs with its area to the left.
std::vector<bool> inward(const std::vector<gp_Pnt2d>& corners) {
    const std::size_t n = corners.size();
    double area = 0.0;
    for (std::size_t i = 0; i < n; ++i)
        area += corners[i].X() * corners[(i + 1) % n].Y() - corners[(i + 1) % n].X() * corners[i].Y();
    std::vector<bool> all;
    for (std::size_t i = 0; i < n; ++i) {
        const gp_Vec2d in(corners[(i + n - 1) % n], corners[i]), out(corners[i], corners[(i + 1) % n]);
        all.push_back(cross(in, out) * area < 0.0);
    }
    return all;
}

bool square(const std::vector<gp_Pnt2d>& corners) {
    for (std::size_t i = 0; i < corners.size(); ++i) {
        const gp_Vec2d a(corners[i], corners[(i + 1) % corners.size()]),
            b(corners[(i + 1) % corners.size()], corners[(i + 2) % corners.size()]);
        if (a.Magnitude() < Tolerance::noWay || b.Magnitude() < Tolerance::noWay ||
            std::abs(a.Dot(b)) > Tolerance::fittedDirection * a.Magnitude() * b.Magnitude())
            return false;
    }
    return true;
}

/// The name of a polygon with square corners by how its inward ones follow each other.
std::string nameOf(const std::vector<gp_Pnt2d>& corners) {
    const auto in = inward(corners);
    const std::size_t n = in.size();
    std::vector<std::size_t> gaps;  // outward corners between two inward ones
    for (std::size_t i = 0; i < n; ++i) {
        if (!in[i]) continue;
        std::size_t k = 1;
        while (k <= n && !in[(i + k) % n]) ++k;
        gaps.push_back(k - 1);
    }
    std::sort(gaps.begin(), gaps.end());
    if (n == 6 && gaps.size() == 1) return "L";
    if (n == 8 && gaps == std::vector<std::size_t>{0, 6}) return "U";
    if (n == 8 && gaps == std::vector<std::size_t>{2, 4}) return "T";
    if (n == 8 && gaps == std::vector<std::size_t>{3, 3}) return "Z";
    if (n == 12 && gaps == std::vector<std::size_t>{0, 0, 4, 4}) return "I";
    return "outline";
}

}  // namespace

double torsionOfRectangle(double height, double breadth) {
    const double a = std::max(height, breadth), b = std::min(height, breadth);
    double sum = 0.0;
    for (int n = 1; n < 40; n += 2) sum += std::tanh(n * M_PI * a / (2.0 * b)) / std::pow(n, 5);
    return a * b * b * b / 3.0 * (1.0 - 192.0 * b / (std::pow(M_PI, 5) * a) * sum);
}

namespace {

/// The loops of a section in (up, across), about its centroid: straight edges by their corners, others in chords.
std::vector<std::vector<std::array<double, 2>>> outlineOf(const TopoDS_Face& face, const Frame& frame,
                                                          const gp_Vec2d& up, const gp_Vec2d& across) {
    std::vector<std::vector<std::array<double, 2>>> outline;
    const TopoDS_Wire outer = BRepTools::OuterWire(face);
    for (TopoDS_Iterator wire(face); wire.More(); wire.Next()) {
        if (wire.Value().ShapeType() != TopAbs_WIRE) continue;
        std::vector<std::array<double, 2>> loop;
        for (BRepTools_WireExplorer it(TopoDS::Wire(wire.Value()), face); it.More(); it.Next()) {
            const BRepAdaptor_Curve curve(it.Current());
            constexpr int chords = 16;
            const int steps = curve.GetType() == GeomAbs_Line ? 1 : chords;
            double a = curve.FirstParameter(), b = curve.LastParameter();
            if (it.Current().Orientation() == TopAbs_REVERSED) std::swap(a, b);
            for (int i = 0; i < steps; ++i) {
                const gp_Vec2d at(gp_Pnt2d(0, 0), frame(curve.Value(a + (b - a) * i / steps)));
                loop.push_back({at.Dot(up), at.Dot(across)});
            }
        }
        double turning = 0.0;
        for (std::size_t i = 0; i < loop.size(); ++i) {
            const auto &one = loop[i], &next = loop[(i + 1) % loop.size()];
            turning += one[0] * next[1] - next[0] * one[1];
        }
        const bool isOuter = wire.Value().IsSame(outer);
        if ((turning > 0.0) != isOuter) std::reverse(loop.begin(), loop.end());
        outline.insert(isOuter ? outline.begin() : outline.end(), std::move(loop));
    }
    return outline;
}

}  // namespace

BeamSection beamSection(const TopoDS_Face& face, const std::optional<gp_Dir>& along) {
    BeamSection made;
    Section& section = made.section;
    const gp_Ax3 place = BRepAdaptor_Surface(face).Plane().Position();
    made.centroid = skinOf(face).centre;
    Frame frame{made.centroid, gp_Vec(place.XDirection()), gp_Vec(place.YDirection())};
    if (along && frame.x.Crossed(frame.y).Dot(gp_Vec(*along)) < 0.0) frame.y.Reverse();
    double xx = 0.0, yy = 0.0, xy = 0.0;
    overTrimmedFace(face, [&](const gp_Pnt& point, const gp_Vec& normal, double weight) {
        const gp_Pnt2d at = frame(point);
        const double w = weight * normal.Magnitude();
        section.area += w;
        xx += w * at.X() * at.X();
        yy += w * at.Y() * at.Y();
        xy += w * at.X() * at.Y();
    });
    if (section.area < 0.0) {
        section.area = -section.area;
        xx = -xx, yy = -yy, xy = -xy;
    }
    const TopoDS_Wire outerWire = BRepTools::OuterWire(face);
    const Loop outer = loopOf(outerWire, face, frame);
    std::vector<Loop> inner;
    double around = outer.length;
    for (TopoDS_Iterator wire(face); wire.More(); wire.Next())
        if (wire.Value().ShapeType() == TopAbs_WIRE && !wire.Value().IsSame(outerWire)) {
            inner.push_back(loopOf(TopoDS::Wire(wire.Value()), face, frame));
            around += inner.back().length;
        }
    // Up: along the principal axis of the larger second moment, or, of a polygon, along its sides nearest to that.
    const double principal = 0.5 * std::atan2(2.0 * xy, xx - yy);
    gp_Vec2d up(std::cos(principal), std::sin(principal));
    const bool squared = !outer.corners.empty() && square(outer.corners);
    if (squared) {
        const gp_Vec2d side = gp_Vec2d(outer.corners[0], outer.corners[1]).Normalized(), across(-side.Y(), side.X());
        double alongSide = 0.0, alongAcross = 0.0;
        for (const gp_Pnt2d& corner : outer.corners)
            for (const gp_Pnt2d& other : outer.corners) {
                alongSide = std::max(alongSide, gp_Vec2d(other, corner).Dot(side));
                alongAcross = std::max(alongAcross, gp_Vec2d(other, corner).Dot(across));
            }
        up = alongSide >= alongAcross * (1.0 - Tolerance::rounding) ? side : across;
    }
    const gp_Vec2d across(-up.Y(), up.X());
    const auto second = [&](const gp_Vec2d& a, const gp_Vec2d& b) {
        return xx * a.X() * b.X() + yy * a.Y() * b.Y() + xy * (a.X() * b.Y() + a.Y() * b.X());
    };
    section.up = frame.x * up.X() + frame.y * up.Y();
    section.secondUp = second(up, up);
    section.secondAcross = second(across, across);
    section.product = second(up, across);
    double low[2]{1e300, 1e300}, high[2]{-1e300, -1e300};
    for (TopExp_Explorer it(face, TopAbs_EDGE); it.More(); it.Next()) {
        const BRepAdaptor_Curve curve(TopoDS::Edge(it.Current()));
        for (int i = 0; i <= 16; ++i) {
            const gp_Vec2d at(gp_Pnt2d(0, 0),
                              frame(curve.Value(curve.FirstParameter() +
                                                (curve.LastParameter() - curve.FirstParameter()) * i / 16.0)));
            const double seen[2]{at.Dot(up), at.Dot(across)};
            for (const int k : {0, 1}) {
                low[k] = std::min(low[k], seen[k]);
                high[k] = std::max(high[k], seen[k]);
            }
        }
    }
    section.outline = outlineOf(face, frame, up, across);
    const double height = high[0] - low[0], breadth = high[1] - low[1], polar = section.secondUp + section.secondAcross;
    made.depth = std::max(height, breadth);
    section.shape = "outline";
    section.sizes = {height, breadth};
    // A wall's thickness t, where the section is made of walls. Of a closed one twice the area over what goes round it,
    // inside and out. An open one has ends as well: what goes round is twice the area over t, and twice t; exact for L,
    // T, U, Z and I of one thickness.
    const double wall = [&] {
        const double plain = 2.0 * section.area / around, root = 0.25 * around * around - 4.0 * section.area;
        return !inner.empty() || root < 0.0 ? plain : 0.5 * (0.5 * around - std::sqrt(root));
    }();
    if (outer.circle && inner.empty()) {
        section.shape = "round";
        section.outline.clear();
        section.sizes = {2.0 * outer.radius};
        section.torsion = polar;
        // Of the radius: a tube whose bore was placed by other digits is still a tube.
    } else if (outer.circle && inner.size() == 1 && inner[0].circle &&
               inner[0].middle.Distance(outer.middle) < 1e-4 * outer.radius) {
        section.shape = "tube";
        section.outline.clear();
        section.sizes = {2.0 * outer.radius, outer.radius - inner[0].radius};
        section.torsion = polar;
    } else if (squared && outer.corners.size() == 4 && inner.empty()) {
        section.shape = "rectangle";
        section.torsion = torsionOfRectangle(height, breadth);
    } else if (inner.size() == 1) {
        if (squared && outer.corners.size() == 4 && inner[0].corners.size() == 4) {
            section.shape = "box";
            section.sizes.push_back(wall);
        }
        // Bredt: the area within the middle of the wall, squared.
        const double middle = 0.5 * (outer.length + inner[0].length);
        TopoDS_Face filled = TopoDS::Face(face.EmptyCopied());
        BRep_Builder().Add(filled, outerWire);
        const double hollow = areaOf(filled) - section.area;
        const double within = hollow + 0.5 * section.area;
        section.torsion = 4.0 * within * within * (section.area / middle) / middle;
    } else if (inner.empty() && squared) {
        section.shape = nameOf(outer.corners);
        if (section.shape != "outline") section.sizes.push_back(wall);
        section.torsion = section.area * wall * wall / 3.0;
        made.torsionEstimated = section.shape == "outline";
    } else {
        section.torsion = std::pow(section.area, 4) / (40.0 * polar);
        made.torsionEstimated = true;
    }
    return made;
}

}  // namespace rasoir::reduce
