#include "survey/stress_notes.h"

#include <BRepBndLib.hxx>
#include <BRep_Tool.hxx>
#include <Bnd_Box.hxx>
#include <TopoDS.hxx>

#include <set>

#include "common/guard.h"
#include "geometry/curves.h"
#include "geometry/edge_probe.h"
#include "topology/edge_angle.h"

namespace rasoir::survey {
namespace {

bool isInnerCorner(const Incidence& topology, int edge) { return topology.facesAt(edge) == 2 && !BRep_Tool::Degenerated(topology.edge(edge)) && edgeAngle(topology, edge).kind == EdgeKind::Concave; }

double reachOf(const Part& part) {
    Bnd_Box box;
    BRepBndLib::Add(part.shape, box, false);
    return box.IsVoid() ? 0.0 : 1e-6 * std::sqrt(box.SquareExtent());
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
                const auto passes = [&, &own = probe](const gp_Pnt& point) { return !near.IsOut(point) && own.nearest(point).distance <= reach; };
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

std::vector<Sharpened> cornersLeftBy(const Part& before, const Part& after, const std::vector<GoneRound>& rounds) {
    std::vector<Sharpened> left;
    if (rounds.empty()) return left;
    (void)guarded("Noting sharp corners", [&]() -> Result<void> {
        const Incidence &was = before.incidence(), &is = after.incidence();
        const double reach = reachOf(after);
        // What stayed as it was is no news; a corner that was there may have grown longer.
        const auto cornersNotIn = [](const Incidence& own, const Incidence& other) {
            std::vector<EdgeProbe> corners;
            for (int e = 1; e <= own.edgeCount(); ++e)
                if (other.edgeNumber(own.edge(e)) == 0 && isInnerCorner(own, e)) corners.emplace_back(own.edge(e));
            return corners;
        };
        std::vector<EdgeProbe> fresh = cornersNotIn(is, was);
        const std::vector<EdgeProbe> old = cornersNotIn(was, is);
        const auto at = [](const EdgeProbe& probe, double share) { return probe.value(probe.first() + share * (probe.last() - probe.first())); };
        std::erase_if(fresh, [&](const EdgeProbe& probe) {
            return std::any_of(old.begin(), old.end(), [&](const EdgeProbe& other) {
                Bnd_Box near = other.box();
                near.Enlarge(reach);
                for (const double share : {0.5, 0.25, 0.75})
                    if (const gp_Pnt point = at(probe, share); !near.IsOut(point) && other.nearest(point).distance <= reach) return true;
                return false;
            });
        });
        std::vector<char> taken(fresh.size(), false);
        for (const GoneRound& round : rounds) {
            Bnd_Box zone;
            std::vector<Handle(Geom_Surface)> surfaces;
            for (const int f : round.faces) {
                BRepBndLib::Add(was.face(f), zone, false);
                surfaces.push_back(BRep_Tool::Surface(was.face(f)));
            }
            if (zone.IsVoid()) continue;
            zone.Enlarge(2.0 * round.radius + reach);
            for (std::size_t i = 0; i < fresh.size(); ++i) {
                const gp_Pnt middle = at(fresh[i], 0.5);
                if (taken[i] || zone.IsOut(middle)) continue;
                // The corner of two planes at 90 degrees lies 0.41 radii from the round's surface, at 40 degrees 1.9.
                const bool beside = std::any_of(surfaces.begin(), surfaces.end(), [&](const Handle(Geom_Surface)& surface) {
                    const auto uv = parametersOn(surface, middle, reach);
                    return uv && surface->Value(uv->X(), uv->Y()).Distance(middle) <= 2.0 * round.radius;
                });
                if (!beside) continue;
                taken[i] = true;
                Sharpened corner;
                corner.radius = round.radius;
                for (const double share : {0.06, 0.29, 0.5, 0.71, 0.94}) corner.along.push_back(at(fresh[i], share));
                left.push_back(std::move(corner));
            }
        }
        return {};
    });
    return left;
}

}  // namespace rasoir::survey
