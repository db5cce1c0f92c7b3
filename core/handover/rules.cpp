#include "handover/rules.h"

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <gp_Pln.hxx>

#include "geometry/round_surface.h"
#include "model/places.h"

namespace rasoir::handover {
namespace {

/// What a rule asks of a face's shape alone.
bool fitsAnywhere(const TopoDS_Face& face, const GroupRule& rule) {
    if (!rule.surface.empty() && surfaceKindName(surfaceKind(face)) != rule.surface) return false;
    if (rule.diameter) {
        const auto round = roundSurface(face);
        const bool wide = round && (round->kind == SurfaceKind::Cylinder || round->kind == SurfaceKind::Sphere);
        if (!wide || std::abs(2.0 * round->radius - *rule.diameter) > 1e-3 * *rule.diameter) return false;
    }
    return true;
}

/// What it asks of a plane in its place: where it looks, and where it lies.
bool fitsHere(const TopoDS_Face& face, bool ofSheet, const gp_Trsf& placement, const GroupRule& rule,
              const Tolerances& tolerances) {
    if (!rule.normal && !rule.axis) return true;
    const BRepAdaptor_Surface surface(face, false);
    if (surface.GetType() != GeomAbs_Plane) return false;
    gp_Dir normal = surface.Plane().Axis().Direction();
    if (!surface.Plane().Direct()) normal.Reverse();
    if (face.Orientation() == TopAbs_REVERSED) normal.Reverse();
    normal.Transform(placement);
    // A sheet looks both ways.
    if (rule.normal && normal.Angle(gp_Dir(*rule.normal)) > tolerances.sameNormal &&
        !(ofSheet && normal.Reversed().Angle(gp_Dir(*rule.normal)) <= tolerances.sameNormal))
        return false;
    if (rule.axis) {
        const gp_Dir across(*rule.axis == 0, *rule.axis == 1, *rule.axis == 2);
        if (!normal.IsParallel(across, tolerances.sameAngle)) return false;
        const gp_Pnt at = surface.Plane().Location().Transformed(placement);
        if (std::abs(at.XYZ().Dot(across.XYZ()) - rule.at) > 10.0 * tolerances.samePoint) return false;
    }
    return true;
}

}  // namespace

std::set<Member> membersByRule(const Model& model, const GroupRule& rule) {
    std::set<Member> members;
    const Tolerances tolerances = model.tolerances();
    const bool byPlace = rule.kind == EntityKind::Face && (rule.normal || rule.axis);
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        const Part& part = *model.parts[p];
        if (part.shape.IsNull() || model.isAside(p)) continue;
        if (!rule.parts.empty() && !fitsPattern(part.name, rule.parts)) continue;
        if (!rule.material.empty() && part.material != rule.material) continue;
        const Incidence& topology = part.incidence();
        const std::array<int, 4> counts{topology.bodyCount(), topology.faceCount(), topology.edgeCount(),
                                        topology.vertexCount()};
        for (int n = 1; n <= counts[static_cast<std::size_t>(rule.kind)]; ++n) {
            const Entity entity{rule.kind, n};
            if (rule.kind == EntityKind::Face && !fitsAnywhere(topology.face(n), rule)) continue;
            if (!byPlace) {
                members.insert({part.id, everyPlace, entity});
                continue;
            }
            for (const Occurrence& place : model.occurrences)
                if (place.part == p && !place.aside &&
                    fitsHere(topology.face(n), topology.bodyOf(n) < 0, place.placement, rule, tolerances))
                    members.insert({part.id, place.id, entity});
        }
    }
    return members;
}

}  // namespace rasoir::handover
