#include "reduce/swept_bars.h"

#include <BRepAdaptor_Surface.hxx>
#include <functional>
#include <gp_Pln.hxx>

#include "common/tolerance.h"
#include "geometry/integrals.h"
#include "reduce/beam_section.h"
#include "reduce/body_slices.h"
#include "reduce/pipe_walk.h"

// Whatever the surfaces are, a bar has two flat ends of one section. By Pappus its volume is the section's area times
// the line's length, and its skin the outline's length times that; what does not fit is not walked at all, so that the
// search costs nothing on other bodies. The walk goes from one end by steps of about half a depth. A round section's
// centre is felt from inside, exactly (see pipe_walk). Of any other, a plane across cuts the skin's triangles, and the
// loop that lies round the place where the line was going to be has the centroid. That a plane does not lie quite
// square matters little, since it shifts the centroid along the line. Tangents come from three centres each, at the
// ends from the flats; through points and tangents go pairs of arcs, as few as the centres allow.

namespace rasoir::reduce {
namespace {

constexpr double likeEnds = 0.06;  // of the area; triangles alone leave out three hundredths of a circle
constexpr double fits = 0.01;      // of the depth

/// An arc from a point along a tangent to another point; straight where that lies ahead.
BarPiece arcTo(const gp_Pnt& from, const gp_Vec& along, const gp_Pnt& to) {
    BarPiece piece;
    piece.from = from;
    piece.to = to;
    const gp_Vec chord(from, to), across = chord - along * chord.Dot(along);
    if (across.Magnitude() < Tolerance::exactDirection * chord.Magnitude()) return piece;
    const gp_Vec out = across.Normalized();
    const double radius = chord.SquareMagnitude() / (2.0 * chord.Dot(out));
    piece.about = gp_Ax1(from.Translated(out * radius), gp_Dir(along.Crossed(out)));
    piece.turn = 2.0 * std::atan2(chord.Dot(out), chord.Dot(along));
    return piece;
}

/// Two arcs that leave and arrive along the tangents, each as long as the other to their joint.
std::vector<BarPiece> biarc(const gp_Pnt& from, const gp_Vec& leave, const gp_Pnt& to, const gp_Vec& arrive) {
    const gp_Vec chord(from, to), sum = leave + arrive;
    const double bend = 2.0 * (1.0 - leave.Dot(arrive)), ahead = chord.Dot(sum);
    // Straight to rounding, where the quotient is its limit.
    const double reach = bend > 1e-12 ? (-ahead + std::sqrt(ahead * ahead + bend * chord.SquareMagnitude())) / bend
                                      : chord.SquareMagnitude() / (2.0 * ahead);
    const gp_Pnt joint((from.XYZ() + to.XYZ()) * 0.5 + (leave - arrive).XYZ() * (0.5 * reach));
    BarPiece second = arcTo(to, arrive.Reversed(), joint);
    std::swap(second.from, second.to);
    if (second.turn != 0.0) second.about.Reverse();
    return {arcTo(from, leave, joint), second};
}

class Sweep {
public:
    Sweep(const TopoDS_Shape& solid, const Incidence& topology) : m_solid(solid), m_topology(topology) {}

    std::optional<BentBar> find() {
        m_volume = volumeOf(m_solid);
        m_skin = areaOf(m_solid);
        std::vector<int> flats;
        for (int f = 1; f <= m_topology.faceCount(); ++f)
            if (BRepAdaptor_Surface(m_topology.face(f)).GetType() == GeomAbs_Plane) flats.push_back(f);
        constexpr std::size_t most = 12;  // a bar has two; more come from a section with flat sides
        if (!(m_volume > 0.0) || flats.size() > most) return std::nullopt;
        for (std::size_t i = 0; i < flats.size(); ++i)
            for (std::size_t j = i + 1; j < flats.size(); ++j)
                if (auto bar = between(flats[i], flats[j])) return bar;
        return std::nullopt;
    }

private:
    const TopoDS_Shape& m_solid;
    const Incidence& m_topology;
    double m_volume = 0.0, m_skin = 0.0, m_area = 0.0, m_depth = 0.0;
    std::optional<BodySlices> m_slicer;

    [[nodiscard]] gp_Dir outOf(int face) const {
        const BRepAdaptor_Surface surface(m_topology.face(face));
        gp_Dir out = surface.Plane().Axis().Direction();
        if (surface.Plane().Position().Direct() == (m_topology.face(face).Orientation() == TopAbs_REVERSED))
            out.Reverse();
        return out;
    }

    std::optional<BentBar> between(int first, int last) {
        m_area = areaOf(m_topology.face(first));
        if (std::abs(areaOf(m_topology.face(last)) - m_area) > 0.01 * m_area) return std::nullopt;
        double outline = 0.0;
        for (const int e : m_topology.edgesOf(first)) outline += lengthOf(m_topology.edge(e));
        const double length = m_volume / m_area, bySkin = (m_skin - 2.0 * m_area) / outline;
        if (std::abs(length - bySkin) > 0.1 * length) return std::nullopt;
        const BeamSection section = beamSection(m_topology.face(first));
        m_depth = section.depth;
        if (length < 3.0 * m_depth) return std::nullopt;
        const auto along = [&](const Centre& centre) {
            return walk(skinOf(m_topology.face(first)).centre, outOf(first).Reversed(),
                        skinOf(m_topology.face(last)).centre, outOf(last), length, centre);
        };
        std::vector<gp_Pnt> points;
        std::vector<PipeWalk> skins;  // of a tube the bore as well: both are felt, and agree
        for (const double radius : radiiOf(section.section)) skins.emplace_back(m_topology, first, radius);
        if (!skins.empty())
            points = along([&skins](const gp_Pnt& place, const gp_Pnt&, const gp_Vec& way) {
                std::optional<gp_Pnt> centre;
                for (PipeWalk& skin : skins) {
                    const auto felt = skin.centreBeside(place, gp_Dir(way));
                    if (!felt || (centre && centre->Distance(*felt) > fits * skin.radius()))
                        return std::optional<gp_Pnt>();
                    centre = felt;
                }
                return centre;
            });
        if (points.empty()) {
            m_slicer.emplace(m_solid, 0.01 * m_depth);
            points = along([this](const gp_Pnt& place, const gp_Pnt& from, const gp_Vec& way) -> std::optional<gp_Pnt> {
                const auto slice = m_slicer->round(place, gp_Dir(way), m_depth);
                const auto fitting = slice ? squared(*slice, from, way) : std::nullopt;
                return fitting ? std::optional(fitting->centroid) : std::nullopt;
            });
        }
        if (points.empty()) return std::nullopt;
        BentBar bar;
        bar.firstEnd = first;
        bar.lastEnd = last;
        bar.line = throughAll(points, outOf(first).Reversed(), outOf(last));
        if (std::abs(bar.line.length() - length) > 0.01 * length) return std::nullopt;
        if (!keepsItsWay(bar.line, first, last)) return std::nullopt;
        return bar;
    }

    /// [mm] Of the skins of a round section: one, or that of the bore as well. None of any other.
    [[nodiscard]] static std::vector<double> radiiOf(const Section& section) {
        if (section.shape == "round" && !section.sizes.empty()) return {0.5 * section.sizes[0]};
        if (section.shape == "tube" && section.sizes.size() > 1)
            return {0.5 * section.sizes[0], 0.5 * section.sizes[0] - section.sizes[1]};
        return {};
    }

    /// Where the line passes near a place that was reached from another along a tangent; none where the section there
    /// is not what the ends are.
    using Centre = std::function<std::optional<gp_Pnt>(const gp_Pnt& place, const gp_Pnt& from, const gp_Vec& along)>;

    /// The centres from end to end.
    [[nodiscard]] std::vector<gp_Pnt> walk(const gp_Pnt& from, const gp_Dir& leave, const gp_Pnt& to,
                                           const gp_Dir& arrive, double length, const Centre& centre) const {
        std::vector<gp_Pnt> points{from};
        gp_Vec along(leave);
        gp_Pnt here = from;
        double gone = 0.0;
        const double step = 0.5 * m_depth;
        while (gone < 1.1 * length) {
            const gp_Vec rest(here, to);
            // The end is within a step, and lies ahead as the line goes.
            if (rest.Magnitude() <= 1.5 * step && rest.Dot(along) > 0.0 && gp_Vec(arrive).Dot(along) > 0.7) {
                points.push_back(to);
                return std::abs(gone + rest.Magnitude() - length) <= 0.05 * length ? points : std::vector<gp_Pnt>();
            }
            // Triangles can be poor in a place, where faces end say: a little before it, or beyond, they are not. Much
            // shorter steps would leave tangents to the unevenness of centroids.
            std::optional<gp_Pnt> next;
            for (const double share : {1.0, 0.7, 0.5, 1.4, 1.9, 0.35, 2.5})
                if (next = centre(here.Translated(along * (share * step)), here, along); next) break;
            if (!next) return {};
            const gp_Vec chord(here, *next);
            // Turned on by half of what the chords turn, as an arc does; at the first one from the end's own normal.
            // From the tangent before, small errors would grow from step to step.
            const gp_Vec way = chord.Normalized();
            if (points.size() < 2) {
                along = (way * (2.0 * way.Dot(along)) - along).Normalized();
            } else {
                const gp_Vec last(points[points.size() - 2], points.back());
                const double share = chord.Magnitude() / (chord.Magnitude() + last.Magnitude());
                along = (way + (way - last.Normalized()) * share).Normalized();
            }
            gone += chord.Magnitude();
            here = *next;
            points.push_back(here);
        }
        return {};
    }

    /// The slice at its place square to the line there; none where it is not as large as the ends.
    [[nodiscard]] std::optional<Slice> squared(Slice slice, const gp_Pnt& here, const gp_Vec& along) const {
        for (int i = 0; i < 2; ++i) {
            const gp_Vec way = gp_Vec(here, slice.centroid).Normalized();
            if (way.Dot(along) < 0.8) return std::nullopt;
            const gp_Vec there = (way * (2.0 * way.Dot(along)) - along).Normalized();
            const auto next = m_slicer->round(slice.centroid, gp_Dir(there), m_depth);
            if (!next) return std::nullopt;
            slice = *next;
        }
        if (std::abs(slice.area - m_area) > likeEnds * m_area) return std::nullopt;
        return slice;
    }

    /// Pairs of arcs, each as far as the centroids that it passes allow.
    [[nodiscard]] BarLine throughAll(const std::vector<gp_Pnt>& points, const gp_Dir& leave,
                                     const gp_Dir& arrive) const {
        std::vector<gp_Vec> tangents(points.size());
        tangents.front() = gp_Vec(leave);
        tangents.back() = gp_Vec(arrive);
        for (std::size_t i = 1; i + 1 < points.size(); ++i) {
            // Of the circle through three points; some steps apart, since triangles leave centroids a little uneven.
            const std::size_t apart = std::min({i, points.size() - 1 - i, std::size_t(3)});
            const gp_Vec before(points[i - apart], points[i]), after(points[i], points[i + apart]);
            tangents[i] =
                (before * (after.Magnitude() / before.Magnitude()) + after * (before.Magnitude() / after.Magnitude()))
                    .Normalized();
        }
        const auto passes = [&](std::size_t a, std::size_t b) {
            if (tangents[a].Dot(tangents[b]) < 0.0) return std::optional<std::vector<BarPiece>>();
            auto pieces = biarc(points[a], tangents[a], points[b], tangents[b]);
            const BarLine line(pieces);
            for (std::size_t k = a + 1; k < b; ++k)
                if (line.at(line.footOf(points[k])).Distance(points[k]) > fits * m_depth)
                    return std::optional<std::vector<BarPiece>>();
            return std::optional(std::move(pieces));
        };
        std::vector<BarPiece> line;
        std::size_t at = 0;
        while (at + 1 < points.size()) {
            std::size_t reach = at + 1;
            auto best = biarc(points[at], tangents[at], points[reach], tangents[reach]);
            for (std::size_t next = reach + 1; next < points.size(); ++next) {
                auto pieces = passes(at, next);
                if (!pieces) break;
                best = std::move(*pieces);
                reach = next;
            }
            for (BarPiece& piece : best)
                if (piece.length() > 0.0) line.push_back(piece);
            at = reach;
        }
        return BarLine(std::move(line));
    }

    /// Carried along the line, the section of the one end comes to lie as that of the other.
    [[nodiscard]] bool keepsItsWay(const BarLine& line, int first, int last) const {
        const BeamSection one = beamSection(m_topology.face(first), gp_Dir(line.pieces().front().along(0.0)));
        const Section& section = one.section;
        if (std::abs(section.secondUp - section.secondAcross) < 0.02 * section.secondUp &&
            (section.shape == "round" || section.shape == "tube"))
            return true;
        gp_Trsf carried;
        for (const BarPiece& piece : line.pieces()) carried = piece.carriedTo(piece.length()) * carried;
        const gp_Vec up = section.up.Transformed(carried);
        const BeamSection other =
            beamSection(m_topology.face(last), gp_Dir(line.pieces().back().along(line.pieces().back().length())));
        constexpr double sameWay = 0.02;  // [rad]
        return up.CrossMagnitude(other.section.up) < sameWay;
    }
};

}  // namespace

std::optional<BentBar> findSweptBar(const TopoDS_Shape& solid, const Incidence& topology) {
    return Sweep(solid, topology).find();
}

}  // namespace rasoir::reduce
