#include "reduce/section_outline.h"

#include <ElCLib.hxx>
#include <Extrema_ExtPC.hxx>
#include <gp_Circ.hxx>
#include <gp_Lin.hxx>

#include "common/tolerance.h"

namespace rasoir::reduce {
namespace {

/// The share of an edge's parameters at which it comes nearest to a point, 0 to 1.
double shareNear(const BRepAdaptor_Curve& edge, const gp_Pnt& point) {
    const double first = edge.FirstParameter(), last = edge.LastParameter();
    const auto share = [&](double parameter) { return std::clamp((parameter - first) / (last - first), 0.0, 1.0); };
    if (edge.GetType() == GeomAbs_Line) return share(ElCLib::Parameter(edge.Line(), point));
    if (edge.GetType() == GeomAbs_Circle) {
        double at = ElCLib::Parameter(edge.Circle(), point);
        while (at < first) at += 2.0 * M_PI;
        if (at <= last) return share(at);
        // Outside of the arc: the end that is nearer round the circle.
        return at - last < first + 2.0 * M_PI - at ? 1.0 : 0.0;
    }
    const double ends[2]{edge.Value(first).SquareDistance(point), edge.Value(last).SquareDistance(point)};
    double least = std::min(ends[0], ends[1]), best = ends[0] <= ends[1] ? first : last;
    const Extrema_ExtPC feet(point, edge);
    for (int i = 1; feet.IsDone() && i <= feet.NbExt(); ++i)
        if (feet.SquareDistance(i) < least) {
            least = feet.SquareDistance(i);
            best = feet.Point(i).Parameter();
        }
    return share(best);
}

double sizeOf(const Section& section, std::size_t i) {
    return i < section.sizes.size() ? section.sizes[i] : 0.0;
}

double depthOf(const Section& section) {
    double most = 0.0;
    for (const auto& loop : outlinesOf(section))
        for (const gp_XY& corner : loop) most = std::max({most, std::abs(corner.X()), std::abs(corner.Y())});
    return 2.0 * most;
}

}  // namespace

std::vector<std::vector<gp_XY>> outlinesOf(const Section& section) {
    std::vector<std::vector<gp_XY>> loops;
    if (!section.outline.empty()) {
        for (const auto& known : section.outline) {
            auto& loop = loops.emplace_back();
            for (const auto& corner : known) loop.emplace_back(corner[0], corner[1]);
        }
        return loops;
    }
    const auto round = [](double radius) {
        std::vector<gp_XY> loop;
        constexpr int corners = 24;
        for (int i = 0; i < corners; ++i)
            loop.emplace_back(radius * std::cos(2.0 * M_PI * i / corners), radius * std::sin(2.0 * M_PI * i / corners));
        return loop;
    };
    const auto rectangle = [](double height, double breadth) {
        const double h = 0.5 * height, b = 0.5 * breadth;
        return std::vector<gp_XY>{{h, -b}, {h, b}, {-h, b}, {-h, -b}};
    };
    const double first = sizeOf(section, 0), second = sizeOf(section, 1), wall = sizeOf(section, 2);
    if (section.shape == "round") {
        loops = {round(0.5 * first)};
    } else if (section.shape == "tube") {
        loops = {round(0.5 * first), round(0.5 * first - second)};
    } else if (section.shape == "box") {
        loops = {rectangle(first, second), rectangle(first - 2.0 * wall, second - 2.0 * wall)};
    } else {
        loops = {rectangle(first, second > 0.0 ? second : first)};
    }
    for (std::size_t hole = 1; hole < loops.size(); ++hole) std::reverse(loops[hole].begin(), loops[hole].end());
    return loops;
}

double outsideOf(const Section& section, const gp_XY& at) {
    // Chords of a circle would be off by a hundredth.
    if (section.shape == "round" || section.shape == "tube") {
        const double r = at.Modulus(), outer = 0.5 * sizeOf(section, 0);
        const double inner = section.shape == "tube" ? outer - sizeOf(section, 1) : 0.0;
        return std::max(r - outer, inner > 0.0 ? inner - r : r - outer);
    }
    double nearest = 1e300;
    bool inside = false;
    for (const auto& loop : outlinesOf(section))
        for (std::size_t i = 0; i < loop.size(); ++i) {
            const gp_XY &a = loop[i], &b = loop[(i + 1) % loop.size()], side = b - a;
            const double square = side.SquareModulus();
            const double t = square > 0.0 ? std::clamp((at - a).Dot(side) / square, 0.0, 1.0) : 0.0;
            nearest = std::min(nearest, (a + side * t - at).Modulus());
            if ((a.Y() > at.Y()) != (b.Y() > at.Y()) &&
                at.X() < a.X() + (at.Y() - a.Y()) / (b.Y() - a.Y()) * (b.X() - a.X()))
                inside = !inside;
        }
    return inside ? -nearest : nearest;
}

SectionPlace placeOfSection(const BRepAdaptor_Curve& edge, const Section& section, double share) {
    const double first = edge.FirstParameter(), last = edge.LastParameter();
    SectionPlace place;
    edge.D1(first + share * (last - first), place.middle, place.along);
    place.along.Normalize();
    gp_Vec turned = section.up;
    if (edge.GetType() == GeomAbs_Circle) turned.Rotate(edge.Circle().Axis(), share * (last - first));
    place.up = turned - place.along * turned.Dot(place.along);
    if (place.up.Magnitude() < Tolerance::noWay)
        place.up = gp_Vec(gp_Ax2(place.middle, gp_Dir(place.along)).XDirection());
    place.up.Normalize();
    place.across = place.along.Crossed(place.up);
    place.middle.Translate(section.startOffset * (1.0 - share) + section.endOffset * share);
    return place;
}

BeamMatter::BeamMatter(const std::vector<std::shared_ptr<const Part>>& parts) {
    for (const auto& part : parts)
        for (const auto& [thing, section] : part->known.sections)
            if (thing.kind == EntityKind::Edge && thing.number <= part->incidence().edgeCount())
                m_beams.push_back({BRepAdaptor_Curve(part->incidence().edge(thing.number)), section, depthOf(section)});
}

BeamMatter::Distance BeamMatter::of(const gp_Pnt& point) const {
    Distance nearest{1e300, 1e300, 0.0};
    for (const Beam& beam : m_beams) {
        const double share = shareNear(beam.edge, point);
        const SectionPlace place = placeOfSection(beam.edge, beam.section, share);
        const gp_Vec to(place.middle, point);
        const double aside = outsideOf(beam.section, {to.Dot(place.up), to.Dot(place.across)});
        const double beyond = share > 0.0 && share < 1.0 ? 0.0 : std::abs(to.Dot(place.along));
        const double outside = std::hypot(std::max(0.0, aside), beyond);
        if (outside < nearest.outside) {
            nearest.outside = outside;
            nearest.depth = beam.depth;
        }
        // Of the depth: a point of the outline itself, which is made of chords.
        if (beyond < 1e-3 * beam.depth) nearest.toSkin = std::min(nearest.toSkin, std::abs(aside));
    }
    return nearest;
}

}  // namespace rasoir::reduce
