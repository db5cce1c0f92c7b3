#include "reduce/stations.h"

#include <fmt/format.h>

#include <BRep_Tool.hxx>
#include <Poly_Triangulation.hxx>
#include <TopoDS.hxx>

#include "common/text.h"
#include "common/tolerance.h"
#include "geometry/extent.h"
#include "geometry/ray_field.h"
#include "geometry/trimmed_quadrature.h"
#include "reduce/drawn_body.h"
#include "reduce/section_outline.h"
#include "reduce/solid_section.h"

// A plane cuts faces out of a solid, strips out of sheets, and outlines out of beams. Of each the area, its first and
// its second moments in the plane's coordinates are added up; they are taken about the common centre in the end.

namespace rasoir::reduce {
namespace {

/// A plane across an axis, and sums over what it cuts.
class CutSum {
public:
    CutSum(int axis, double at) : m_axis(axis), m_at(at) {}

    [[nodiscard]] double height(const gp_Pnt& point) const { return point.Coord(m_axis + 1) - m_at; }
    [[nodiscard]] gp_XY flat(const gp_Pnt& point) const {
        return {point.Coord((m_axis + 1) % 3 + 1), point.Coord((m_axis + 2) % 3 + 1)};
    }
    [[nodiscard]] gp_Dir normal() const { return m_axis == 0 ? gp::DX() : m_axis == 1 ? gp::DY() : gp::DZ(); }

    void addPoint(const gp_XY& at, double weight) {
        m_area += weight;
        m_first += at * weight;
        m_xx += weight * at.X() * at.X();
        m_yy += weight * at.Y() * at.Y();
        m_xy += weight * at.X() * at.Y();
    }
    /// A rectangle by its middle and half its sides, which are square to each other.
    void addStrip(const gp_XY& middle, const gp_XY& halfLength, const gp_XY& halfWidth) {
        // Two points of Gauss along each side are exact for second moments.
        const double gauss = 1.0 / std::sqrt(3.0), area = 4.0 * halfLength.Modulus() * halfWidth.Modulus();
        for (const double along : {-gauss, gauss})
            for (const double aside : {-gauss, gauss})
                addPoint(middle + halfLength * along + halfWidth * aside, 0.25 * area);
    }
    /// A loop of corners; one that runs the other way takes away. `factor`: on its area.
    void addLoop(const std::vector<gp_XY>& loop, double factor) {
        for (std::size_t i = 0; i < loop.size(); ++i) {
            // The triangle between the origin and one side: points in the middles of its sides are exact.
            const gp_XY &a = loop[i], &b = loop[(i + 1) % loop.size()];
            const double third = factor * a.Crossed(b) / 6.0;
            addPoint(a * 0.5, third);
            addPoint(b * 0.5, third);
            addPoint((a + b) * 0.5, third);
        }
    }
    [[nodiscard]] CutNumbers numbers() const {
        CutNumbers own;
        own.area = m_area;
        if (!(m_area > 0.0)) return own;
        const gp_XY centre = m_first / m_area;
        const double xx = m_xx - m_area * centre.X() * centre.X(), yy = m_yy - m_area * centre.Y() * centre.Y(),
                     xy = m_xy - m_area * centre.X() * centre.Y();
        const double mean = 0.5 * (xx + yy), swing = std::hypot(0.5 * (xx - yy), xy);
        own.largest = mean + swing;
        own.least = mean - swing;
        return own;
    }

private:
    int m_axis;
    double m_at;
    double m_area = 0.0, m_xx = 0.0, m_yy = 0.0, m_xy = 0.0;
    gp_XY m_first{0.0, 0.0};
};

/// False where the plane could not be cut through the solid.
bool addSolid(CutSum& sum, const Part& solid, int axis, double at, double tolerance, Progress& progress) {
    const Bnd_Box box = tightBox(solid.shape);
    if (box.IsVoid()) return true;
    gp_Pnt middle(0.5 * (box.CornerMin().XYZ() + box.CornerMax().XYZ()));
    if (at <= box.CornerMin().Coord(axis + 1) || at >= box.CornerMax().Coord(axis + 1)) return true;
    middle.SetCoord(axis + 1, at);
    const auto faces =
        sectionsAt(solid.shape, middle, sum.normal(), std::sqrt(box.SquareExtent()), tolerance, progress);
    if (!faces) return false;
    for (const TopoDS_Face& face : *faces)
        overTrimmedFace(face, [&](const gp_Pnt& point, const gp_Vec& normal, double weight) {
            sum.addPoint(sum.flat(point), weight * normal.Magnitude());
        });
    return true;
}

/// The strips of a sheet's faces; false where the plane runs along one.
bool addSheet(CutSum& sum, const Part& sheet) {
    const gp_Vec across(sum.normal());
    for (const auto& [thing, thickness] : sheet.known.thickness) {
        if (thing.kind != EntityKind::Face || thing.number > sheet.incidence().faceCount()) continue;
        const TopoDS_Face face = sheet.incidence().face(thing.number);
        TopLoc_Location place;
        const Handle(Poly_Triangulation) mesh = BRep_Tool::Triangulation(face, place);
        if (mesh.IsNull()) return false;
        for (int t = 1; t <= mesh->NbTriangles(); ++t) {
            int n[3];
            mesh->Triangle(t).Get(n[0], n[1], n[2]);
            if (face.Orientation() == TopAbs_REVERSED) std::swap(n[1], n[2]);
            gp_Pnt corners[3];
            for (int i = 0; i < 3; ++i) corners[i] = mesh->Node(n[i]).Transformed(place.Transformation());
            std::vector<gp_Pnt> met;
            for (int i = 0; i < 3; ++i) {
                const gp_Pnt &a = corners[i], &b = corners[(i + 1) % 3];
                const double ha = sum.height(a), hb = sum.height(b);
                if ((ha > 0.0) != (hb > 0.0)) met.push_back(a.Translated(gp_Vec(a, b) * (ha / (ha - hb))));
            }
            if (met.size() != 2) continue;
            gp_Vec normal = gp_Vec(corners[0], corners[1]).Crossed(gp_Vec(corners[0], corners[2]));
            if (normal.Magnitude() < Tolerance::divisible) continue;
            normal.Normalize();
            // The thickness as the plane sees it.
            const gp_Vec within = normal - across * normal.Dot(across);
            const double lean = within.Magnitude();
            if (lean < 0.05) return false;
            const gp_Pnt middle(0.5 * (met[0].XYZ() + met[1].XYZ()));
            const auto [offset, half] = offsetAndHalf(thickness, middle);
            const gp_Vec way = within / (lean * lean);
            const auto flat = [&sum](const gp_Vec& vector) { return sum.flat(gp_Pnt(vector.XYZ())); };
            sum.addStrip(sum.flat(middle) + flat(way) * offset, flat(gp_Vec(met[0], met[1])) * 0.5, flat(way) * half);
        }
    }
    return true;
}

/// The outlines of beams; false where the plane runs along one.
bool addBeams(CutSum& sum, const Part& beams) {
    const gp_Vec across(sum.normal());
    for (const auto& [thing, section] : beams.known.sections) {
        if (thing.kind != EntityKind::Edge || thing.number > beams.incidence().edgeCount()) continue;
        const BRepAdaptor_Curve edge(beams.incidence().edge(thing.number));
        // Across an arc a section may be carried straight to the plane where that is nearly square to it.
        const bool straight = edge.GetType() == GeomAbs_Line;
        const int steps = straight ? 1 : 64;
        const double leastLean = straight ? 0.2 : 0.95;
        const auto heightAt = [&](double share) { return sum.height(placeOfSection(edge, section, share).middle); };
        for (int i = 0; i < steps; ++i) {
            double low = static_cast<double>(i) / steps, high = (i + 1.0) / steps;
            const SectionPlace within = placeOfSection(edge, section, 0.5 * (low + high));
            double reach = 0.0;
            for (const auto& outline : outlinesOf(section))
                for (const gp_XY& corner : outline)
                    reach =
                        std::max(reach, std::abs((within.up * corner.X() + within.across * corner.Y()).Dot(across)));
            if (std::abs(within.along.Dot(across)) < leastLean && std::abs(sum.height(within.middle)) < reach)
                return false;
            if ((heightAt(low) > 0.0) == (heightAt(high) > 0.0)) continue;
            const bool rises = heightAt(high) > 0.0;
            for (int halving = 0; halving < 50; ++halving) {
                const double middle = 0.5 * (low + high);
                ((heightAt(middle) > 0.0) == rises ? high : low) = middle;
            }
            const SectionPlace place = placeOfSection(edge, section, low);
            const double lean = place.along.Dot(across);
            if (std::abs(lean) < leastLean) return false;
            // Each corner goes along the beam to the plane.
            std::vector<std::vector<gp_XY>> loops;
            double area = 0.0;
            for (const auto& outline : outlinesOf(section)) {
                auto& loop = loops.emplace_back();
                for (const gp_XY& corner : outline) {
                    const gp_Pnt at = place.middle.Translated(place.up * corner.X() + place.across * corner.Y());
                    loop.push_back(sum.flat(at.Translated(place.along * (-sum.height(at) / lean))));
                }
                for (std::size_t k = 0; k < outline.size(); ++k)
                    area += 0.5 * outline[k].Crossed(outline[(k + 1) % outline.size()]);
            }
            // Chords have a little less than their arcs.
            const double share = area > 0.0 ? section.area / area : 1.0;
            for (auto& loop : loops) sum.addLoop(loop, lean > 0.0 ? share : -share);
        }
    }
    return true;
}

}  // namespace

Result<std::vector<Station>> stationsOf(const Part& solid, const std::vector<std::shared_ptr<const Part>>& reduced,
                                        const std::vector<std::shared_ptr<const Part>>& rest, int count,
                                        double tolerance, Progress& progress) {
    std::vector<Station> stations;
    const Bnd_Box box = tightBox(solid.shape);
    if (box.IsVoid()) return stations;
    const gp_XYZ size = box.CornerMax().XYZ() - box.CornerMin().XYZ();
    int axis = 0;
    for (const int one : {1, 2})
        if (size.Coord(one + 1) > size.Coord(axis + 1) * (1.0 + Tolerance::rounding)) axis = one;
    for (const auto& part : reduced)
        (void)drawnBody(*part, RayField::usualDeviation, progress);  // so that there are triangles
    for (int i = 0; i < count; ++i) {
        Station station;
        station.axis = axis;
        // Not in the middle of each: of what is symmetrical, that would run along the member in the middle.
        station.at = box.CornerMin().Coord(axis + 1) + size.Coord(axis + 1) * (i + 0.47) / count;
        CutSum before(axis, station.at), after(axis, station.at);
        bool known = addSolid(before, solid, axis, station.at, tolerance, progress);
        for (const auto& part : rest) known = known && addSolid(after, *part, axis, station.at, tolerance, progress);
        for (const auto& part : reduced) {
            known = known && addSheet(after, *part) && addBeams(after, *part);
        }
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        station.solid = before.numbers();
        station.drawn = after.numbers();
        if (known && station.solid.area > 0.0) stations.push_back(station);
    }
    return stations;
}

std::string stationsLine(const std::vector<Station>& stations) {
    if (stations.empty()) return {};
    struct Off {
        double share = 0.0, at = 0.0;
    };
    Off area, second;
    const auto note = [](Off& worst, double before, double after, double at) {
        if (!(before > 0.0)) return;
        const double share = after / before - 1.0;
        if (std::abs(share) > std::abs(worst.share)) worst = {share, at};
    };
    for (const Station& station : stations) {
        note(area, station.solid.area, station.drawn.area, station.at);
        note(second, station.solid.largest, station.drawn.largest, station.at);
        note(second, station.solid.least, station.drawn.least, station.at);
    }
    const char letter = "xyz"[stations.front().axis];
    const auto told = [letter](const char* what, const Off& off) {
        return std::abs(off.share) < 5e-5  // rounds to 0.00 %, as it is shown
                   ? fmt::format("{} the same", what)
                   : fmt::format("{} off by up to {} %, at {} = {}", what,
                                 readable(std::round(1e4 * off.share) / 100.0), letter, readable(off.at));
    };
    return fmt::format("cut across {} in {}: {}; {}", letter, counted(stations.size(), "place"), told("area", area),
                       told("second moments", second));
}

}  // namespace rasoir::reduce
