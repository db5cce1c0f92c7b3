#include "reduce/bent_bars.h"

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <gp_Cone.hxx>
#include <gp_Cylinder.hxx>
#include <gp_Lin.hxx>
#include <gp_Pln.hxx>
#include <gp_Sphere.hxx>
#include <gp_Torus.hxx>

#include "geometry/integrals.h"

// A station is a flat across the bar, with the faces that the section's outline lies in. From there the section moves
// on: straight, when all those faces run along the station's normal; about an axis in the station's plane, when all of
// them are of revolution about it. It does so up to the nearest place where edges of those faces lie across the bar all
// together; a flat side may go on over bends and has no edges there. Behind those edges lie the faces of the next
// piece, or one flat, which is the other end.

namespace rasoir::reduce {
namespace {

constexpr double sameWay = 1e-5;  // [rad]

/// How a section moves on from a station.
struct Way {
    bool turns = false;
    gp_Dir along;  // straight: the way; also of an arc, at its beginning
    gp_Ax1 about;  // of an arc, turned so that it goes forwards
    gp_Vec first;  // from the axis to the station's centroid, square to the axis

    /// How far along a point lies: a length, or an angle from 0 to a full turn.
    [[nodiscard]] double at(const gp_Pnt& point, const gp_Pnt& station) const {
        if (!turns) return gp_Vec(station, point).Dot(gp_Vec(along));
        const gp_Vec out(about.Location(), point);
        const gp_Vec second = gp_Vec(about.Direction()).Crossed(first);
        const double angle = std::atan2(out.Dot(second), out.Dot(first));
        return angle < -1e-7 ? angle + 2.0 * M_PI : angle;  // a turn just below nought is none, not a whole one
    }
};

bool runsStraight(const BRepAdaptor_Surface& surface, const gp_Dir& along) {
    switch (surface.GetType()) {
        case GeomAbs_Plane:
            return std::abs(surface.Plane().Axis().Direction().Dot(along)) < sameWay;
        case GeomAbs_Cylinder:
            return surface.Cylinder().Axis().Direction().IsParallel(along, sameWay);
        case GeomAbs_SurfaceOfExtrusion:
            return surface.Direction().IsParallel(along, sameWay);
        default:
            return false;
    }
}

bool sameLine(const gp_Ax1& a, const gp_Ax1& b, double tolerance) {
    return a.Direction().IsParallel(b.Direction(), sameWay) && gp_Lin(a).Distance(b.Location()) < tolerance;
}

bool turnsAbout(const BRepAdaptor_Surface& surface, const gp_Ax1& axis, double tolerance) {
    switch (surface.GetType()) {
        case GeomAbs_Plane:
            return surface.Plane().Axis().Direction().IsParallel(axis.Direction(), sameWay);
        case GeomAbs_Cylinder:
            return sameLine(surface.Cylinder().Axis(), axis, tolerance);
        case GeomAbs_Cone:
            return sameLine(surface.Cone().Axis(), axis, tolerance);
        case GeomAbs_Torus:
            return sameLine(surface.Torus().Axis(), axis, tolerance);
        case GeomAbs_Sphere:
            return gp_Lin(axis).Distance(surface.Sphere().Location()) < tolerance;
        case GeomAbs_SurfaceOfRevolution:
            return sameLine(surface.AxeOfRevolution(), axis, tolerance);
        default:
            return false;
    }
}

std::optional<gp_Ax1> axisOf(const BRepAdaptor_Surface& surface) {
    switch (surface.GetType()) {
        case GeomAbs_Cylinder:
            return surface.Cylinder().Axis();
        case GeomAbs_Cone:
            return surface.Cone().Axis();
        case GeomAbs_Torus:
            return surface.Torus().Axis();
        case GeomAbs_SurfaceOfRevolution:
            return surface.AxeOfRevolution();
        default:
            return std::nullopt;
    }
}

class Walk {
public:
    Walk(const Incidence& topology, double tolerance) : m_topology(topology), m_tolerance(tolerance) {
        for (int f = 1; f <= topology.faceCount(); ++f) m_surfaces.emplace_back(topology.face(f));
    }

    std::optional<BentBar> from(int end) {
        if (surface(end).GetType() != GeomAbs_Plane) return std::nullopt;
        const Skin skin = skinOf(m_topology.face(end));
        gp_Dir inwards = surface(end).Plane().Axis().Direction();
        if (!surface(end).Plane().Position().Direct()) inwards.Reverse();
        if (m_topology.face(end).Orientation() != TopAbs_REVERSED) inwards.Reverse();
        gp_Pnt station = skin.centre;
        std::set<int> around, seen{end};
        for (const int e : m_topology.edgesOf(end)) {
            const auto uses = m_topology.usesOf(e);
            if (uses.size() != 2 || uses[0].face == uses[1].face) return std::nullopt;
            around.insert(uses[0].face == end ? uses[1].face : uses[0].face);
        }
        BentBar bar;
        bar.firstEnd = end;
        std::vector<BarPiece> pieces;
        constexpr std::size_t mostPieces = 400;
        while (pieces.size() < mostPieces) {
            seen.insert(around.begin(), around.end());
            const auto way = wayOn(around, station, inwards);
            if (!way) return std::nullopt;
            const auto reach = reachOf(around, *way, station);
            if (!reach) return std::nullopt;
            gp_Trsf move;
            BarPiece piece;
            piece.from = station;
            if (way->turns) {
                piece.about = way->about;
                piece.turn = reach->first;
                move.SetRotation(way->about, reach->first);
            } else {
                move.SetTranslation(gp_Vec(way->along) * reach->first);
            }
            piece.to = station.Transformed(move);
            pieces.push_back(piece);
            station = piece.to;
            inwards.Transform(move);
            // Behind the edges of the next station.
            std::set<int> next, behind;
            for (const int f : around) {
                bool ends = false;
                for (const int e : m_topology.edgesOf(f)) {
                    if (!reach->second.contains(e)) continue;
                    ends = true;
                    const auto uses = m_topology.usesOf(e);
                    if (uses.size() != 2 || uses[0].face == uses[1].face) return std::nullopt;
                    behind.insert(uses[0].face == f ? uses[1].face : uses[0].face);
                }
                if (!ends) next.insert(f);
            }
            for (const int f : around) behind.erase(f);
            if (behind.size() == 1 && isAcross(*behind.begin(), station, inwards)) {
                if (!next.empty()) return std::nullopt;
                bar.lastEnd = *behind.begin();
                seen.insert(bar.lastEnd);
                break;
            }
            next.insert(behind.begin(), behind.end());
            if (behind.empty()) return std::nullopt;
            around = std::move(next);
        }
        if (bar.lastEnd == 0 || static_cast<int>(seen.size()) != m_topology.faceCount()) return std::nullopt;
        bar.line = BarLine(std::move(pieces));
        return bar;
    }

private:
    const Incidence& m_topology;
    double m_tolerance;
    std::vector<BRepAdaptor_Surface> m_surfaces;

    [[nodiscard]] const BRepAdaptor_Surface& surface(int face) const {
        return m_surfaces[static_cast<std::size_t>(face - 1)];
    }

    [[nodiscard]] bool isAcross(int face, const gp_Pnt& station, const gp_Dir& along) const {
        return surface(face).GetType() == GeomAbs_Plane &&
               surface(face).Plane().Axis().Direction().IsParallel(along, 10.0 * sameWay) &&
               surface(face).Plane().Distance(station) < 10.0 * m_tolerance;
    }

    [[nodiscard]] std::optional<Way> wayOn(const std::set<int>& around, const gp_Pnt& station,
                                           const gp_Dir& inwards) const {
        Way way;
        way.along = inwards;
        if (std::all_of(around.begin(), around.end(), [&](int f) { return runsStraight(surface(f), inwards); }))
            return way;
        for (const int f : around) {
            const auto axis = axisOf(surface(f));
            if (!axis || std::abs(axis->Direction().Dot(inwards)) > 10.0 * sameWay) continue;
            // In the plane of the station.
            if (std::abs(gp_Vec(station, axis->Location()).Dot(gp_Vec(inwards))) > 10.0 * m_tolerance) continue;
            if (!std::all_of(around.begin(), around.end(),
                             [&](int g) { return turnsAbout(surface(g), *axis, 10.0 * m_tolerance); }))
                continue;
            way.turns = true;
            way.about = *axis;
            const gp_Vec out(axis->Location(), station), direction(axis->Direction());
            way.first = out - direction * out.Dot(direction);
            if (way.first.Magnitude() < m_tolerance) continue;
            if (direction.Crossed(way.first).Dot(gp_Vec(inwards)) < 0.0) way.about.Reverse();
            return way;
        }
        return std::nullopt;
    }

    /// How far the section moves, and the edges that lie across it there.
    [[nodiscard]] std::optional<std::pair<double, std::set<int>>> reachOf(const std::set<int>& around, const Way& way,
                                                                          const gp_Pnt& station) const {
        std::map<int, double> across;  // edges that lie across: how far along
        const double radius = way.turns ? way.first.Magnitude() : 1.0;
        for (const int f : around)
            for (const int e : m_topology.edgesOf(f)) {
                const TopoDS_Edge edge = m_topology.edge(e);
                if (BRep_Tool::Degenerated(edge)) continue;
                const BRepAdaptor_Curve curve(edge);
                double least = 1e300, most = -1e300;
                for (int i = 0; i <= 4; ++i) {
                    const double at = way.at(curve.Value(curve.FirstParameter() +
                                                         (curve.LastParameter() - curve.FirstParameter()) * i / 4.0),
                                             station);
                    least = std::min(least, at);
                    most = std::max(most, at);
                }
                if ((most - least) * radius < 10.0 * m_tolerance && least * radius > 100.0 * m_tolerance)
                    across[e] = 0.5 * (least + most);
            }
        if (across.empty()) return std::nullopt;
        double nearest = 1e300;
        for (const auto& [edge, at] : across) nearest = std::min(nearest, at);
        std::set<int> edges;
        for (const auto& [edge, at] : across)
            if ((at - nearest) * radius < 100.0 * m_tolerance) edges.insert(edge);
        return std::pair(nearest, std::move(edges));
    }
};

}  // namespace

std::optional<BentBar> findBentBar(const Incidence& topology, double tolerance) {
    Walk walk(topology, tolerance);
    for (int f = 1; f <= topology.faceCount(); ++f)
        if (auto bar = walk.from(f); bar && !bar->line.isStraight()) return bar;
    return std::nullopt;
}

}  // namespace rasoir::reduce
