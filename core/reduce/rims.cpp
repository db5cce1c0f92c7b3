#include "reduce/rims.h"

#include <BRepAdaptor_Curve.hxx>

#include "reduce/wall_side.h"

namespace rasoir::reduce {
namespace {

/// Faces of a part that are in groups.
std::set<int> groupedFaces(const Model& model, const Part& part) {
    std::set<int> faces;
    for (const Group& group : model.groups)
        for (const auto* members : {&group.members, &group.accepted})
            for (const Member& member : *members)
                if (member.part == part.id && member.entity.kind == EntityKind::Face)
                    faces.insert(member.entity.number);
    return faces;
}

bool liesOn(const WallSide& side, const TopoDS_Edge& edge, double tolerance) {
    const BRepAdaptor_Curve curve(edge);
    for (const double share : {0.02, 0.35, 0.65, 0.98}) {
        const gp_Pnt at = curve.Value((1.0 - share) * curve.FirstParameter() + share * curve.LastParameter());
        if (side.box.IsOut(at)) return false;
        const auto off = footWithin(side, at);
        if (!off || *off > tolerance) return false;
    }
    return true;
}

}  // namespace

void tellRims(const Model& before, Outcome& outcome) {
    const double tolerance = 10.0 * before.samePoint();
    for (std::size_t p = 0; p < before.parts.size(); ++p) {
        const Part& solid = *before.parts[p];
        const auto now = outcome.model.partOf(solid.id);
        if (solid.kind() != BodyKind::Solid || !now || outcome.model.parts[*now]->kind() != BodyKind::Sheet) continue;
        std::set<int> faces = groupedFaces(before, solid);
        for (const PartLineage& own : outcome.lineage)
            if (own.part == p)
                for (const Link& link : own.faces()) faces.erase(link.before);
        if (faces.empty()) continue;
        const Incidence& sheet = outcome.model.parts[*now]->incidence();
        for (const int face : faces) {
            WallSide side = sideOf(solid.incidence().face(face));
            side.box.Enlarge(tolerance);
            for (int e = 1; e <= sheet.edgeCount(); ++e)
                if (sheet.facesAt(e) == 1 && liesOn(side, sheet.edge(e), tolerance))
                    outcome.rims.push_back({p, face, *now, e});
        }
    }
}

}  // namespace rasoir::reduce
