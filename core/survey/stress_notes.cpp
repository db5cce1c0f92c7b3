#include "survey/stress_notes.h"

#include <Bnd_Box.hxx>
#include <BRep_Tool.hxx>
#include <BRepBndLib.hxx>
#include <set>
#include <TopoDS.hxx>

#include "common/guard.h"
#include "common/tolerance.h"
#include "geometry/curves.h"
#include "geometry/edge_probe.h"
#include "topology/edge_angle.h"

namespace rasoir::survey {
namespace {

bool isInnerCorner(const Incidence& topology, int edge) {
    return topology.facesAt(edge) == 2 && !BRep_Tool::Degenerated(topology.edge(edge)) &&
           edgeAngle(topology, edge).kind == EdgeKind::Concave;
}

double reachOf(const Part& part) {
    Bnd_Box box;
    BRepBndLib::Add(part.shape, box, false);
    return box.IsVoid() ? 0.0 : Tolerance::sameSize * std::sqrt(box.SquareExtent());
}

}  // namespace

std::vector<StressNote> stressNotes(const Part& part) {
    std::vector<StressNote> notes;
    if (part.sharpened.empty() || part.shape.IsNull()) return notes;
    const auto found = guarded("Looking for sharpened corners", [&]() -> Result<void> {
        const Incidence& topology = part.incidence();
        const double reach = reachOf(part);
        std::vector<std::pair<int, EdgeProbe>> corners;
        for (int e = 1; e <= topology.edgeCount(); ++e)
            if (isInnerCorner(topology, e)) corners.emplace_back(e, EdgeProbe(topology.edge(e)));
        for (const Sharpened& corner : part.sharpened) {
            StressNote note;
            note.radius = corner.radius;
            double longest = 0.0;
            for (const auto& [e, probe] : corners) {
                Bnd_Box near = probe.box();
                near.Enlarge(reach);
                const auto passes = [&, &own = probe](const gp_Pnt& point) {
                    return !near.IsOut(point) && own.nearest(point).distance <= reach;
                };
                if (std::none_of(corner.along.begin(), corner.along.end(), passes)) continue;
                note.edges.push_back(e);
                note.length += probe.length();
                if (probe.length() > longest) {
                    longest = probe.length();
                    note.where = probe.value(0.5 * (probe.first() + probe.last()));
                }
            }
            if (!note.edges.empty()) notes.push_back(std::move(note));
        }
        return {};
    });
    if (!found) notes.clear();
    return notes;
}

namespace {

struct LeftEdge {
    int edge = 0;  // of the part as it is
    Sharpened corner;
};

/// `isWanted`: which edges count, of either part.
template <class Wanted>
std::vector<LeftEdge> leftBy(const Part& before, const Part& after, const std::vector<GoneRound>& rounds,
                             Wanted isWanted) {
    std::vector<LeftEdge> left;
    if (rounds.empty()) return left;
    (void)guarded("Noting sharp corners", [&]() -> Result<void> {
        const Incidence &was = before.incidence(), &is = after.incidence();
        const double reach = reachOf(after);
        // What stayed as it was is no news; a corner that was there may have grown longer.
        struct Corner {
            int edge;
            EdgeProbe probe;
            double turn;  // [rad] of the outward normal
        };
        const auto cornersNotIn = [&isWanted](const Incidence& own, const Incidence& other) {
            std::vector<Corner> corners;
            for (int e = 1; e <= own.edgeCount(); ++e)
                if (other.edgeNumber(own.edge(e)) == 0 && isWanted(own, e))
                    corners.push_back({e, EdgeProbe(own.edge(e)), std::abs(edgeAngle(own, e).turn)});
            return corners;
        };
        std::vector<Corner> fresh = cornersNotIn(is, was);
        const std::vector<Corner> old = cornersNotIn(was, is);
        const auto at = [](const Corner& corner, double share) {
            return corner.probe.value(corner.probe.first() + share * (corner.probe.last() - corner.probe.first()));
        };
        std::erase_if(fresh, [&](const Corner& corner) {
            return std::any_of(old.begin(), old.end(), [&](const Corner& other) {
                Bnd_Box near = other.probe.box();
                near.Enlarge(reach);
                for (const double share : {0.5, 0.25, 0.75})
                    if (const gp_Pnt point = at(corner, share);
                        !near.IsOut(point) && other.probe.nearest(point).distance <= reach)
                        return true;
                return false;
            });
        });
        struct Zone {
            Bnd_Box box;
            std::vector<Handle(Geom_Surface)> surfaces;
        };
        std::vector<Zone> zones(rounds.size());
        for (std::size_t r = 0; r < rounds.size(); ++r) {
            for (const int f : rounds[r].faces) {
                BRepBndLib::Add(was.face(f), zones[r].box, false);
                zones[r].surfaces.push_back(BRep_Tool::Surface(was.face(f)));
            }
            if (!zones[r].box.IsVoid()) zones[r].box.Enlarge(2.0 * rounds[r].radius + reach);
        }
        for (const Corner& corner : fresh) {
            // A round of radius r that turns by this angle lies r (1 / cos(turn / 2) - 1) from the corner it filled. Of
            // rounds that meet there, as along a pocket's wall and its floor, the one that fits all along is the
            // corner's own.
            const double ratio = 1.0 / std::max(0.05, std::cos(0.5 * corner.turn)) - 1.0;
            double best = 0.5;  // of the radius; variable rounds fit no better
            std::optional<std::size_t> whose;
            for (std::size_t r = 0; r < rounds.size(); ++r) {
                const double radius = rounds[r].radius;
                if (zones[r].box.IsVoid() || zones[r].box.IsOut(at(corner, 0.5))) continue;
                for (const Handle(Geom_Surface) & surface : zones[r].surfaces) {
                    double misfit = 0.0;
                    for (const double share : {0.2, 0.5, 0.8}) {
                        const gp_Pnt point = at(corner, share);
                        const auto uv = parametersOn(surface, point, reach);
                        misfit = uv ? std::max(misfit, std::abs(surface->Value(uv->X(), uv->Y()).Distance(point) -
                                                                ratio * radius) /
                                                           radius)
                                    : best;
                        if (misfit >= best) break;
                    }
                    if (misfit < best) {
                        best = misfit;
                        whose = r;
                    }
                }
            }
            if (!whose) continue;
            Sharpened made;
            made.radius = rounds[*whose].radius;
            for (const double share : {0.06, 0.29, 0.5, 0.71, 0.94}) made.along.push_back(at(corner, share));
            left.push_back({corner.edge, std::move(made)});
        }
        return {};
    });
    return left;
}

}  // namespace

std::vector<Sharpened> cornersLeftBy(const Part& before, const Part& after, const std::vector<GoneRound>& rounds) {
    std::vector<Sharpened> left;
    for (LeftEdge& one : leftBy(before, after, rounds, isInnerCorner)) left.push_back(std::move(one.corner));
    return left;
}

std::map<int, double> edgesLeftBy(const Part& before, const Part& after, const std::vector<GoneRound>& rounds) {
    const auto isSharp = [](const Incidence& topology, int edge) {
        if (topology.facesAt(edge) != 2 || BRep_Tool::Degenerated(topology.edge(edge))) return false;
        const EdgeKind kind = edgeAngle(topology, edge).kind;
        return kind == EdgeKind::Concave || kind == EdgeKind::Convex;
    };
    std::map<int, double> left;
    for (const LeftEdge& one : leftBy(before, after, rounds, isSharp)) left.emplace(one.edge, one.corner.radius);
    return left;
}

}  // namespace rasoir::survey
