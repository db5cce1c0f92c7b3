#include "model/on_purpose.h"

#include <BRep_Tool.hxx>

namespace rasoir {
namespace {

double thicknessAt(const Thickness& thickness, const gp_Pnt& at) {
    return thickness.at + gp_Vec(thickness.from, at).Dot(thickness.gradient);
}

/// One thickness that goes on across an edge. Offsets are told along normals, which may look either way.
bool goesOn(const Thickness& a, const Thickness& b, const gp_Pnt& at, double sense) {
    constexpr double same = 1e-6;  // of the thickness
    const double one = thicknessAt(a, at), other = thicknessAt(b, at), most = same * std::max(one, other);
    return std::abs(one - other) <= most && std::abs(a.offset - sense * b.offset) <= most &&
           (a.gradient - b.gradient).Magnitude() <= same;
}

}  // namespace

bool standsForWalls(const Part& part) {
    if (part.known.thickness.empty() || part.kind() != BodyKind::Sheet) return false;
    for (int f = 1; f <= part.incidence().faceCount(); ++f)
        if (!part.known.thickness.contains({EntityKind::Face, f})) return false;
    return true;
}

std::set<Entity> partedOnPurpose(const Part& part) {
    std::set<Entity> parted;
    for (const auto& [thing, mark] : part.known.parted) parted.insert(thing);
    if (part.known.thickness.empty()) return parted;
    const Incidence& topology = part.incidence();
    const auto thicknessOf = [&part](int face) -> const Thickness* {
        const auto known = part.known.thickness.find({EntityKind::Face, face});
        return known == part.known.thickness.end() ? nullptr : &known->second;
    };
    for (int e = 1; e <= topology.edgeCount(); ++e) {
        const auto uses = topology.usesOf(e);
        if (uses.size() != 2 || uses[0].face == uses[1].face) continue;
        const Thickness *one = thicknessOf(uses[0].face), *other = thicknessOf(uses[1].face);
        double first = 0.0, last = 0.0;
        const Handle(Geom_Curve) curve = BRep_Tool::Curve(topology.edge(e), first, last);
        if (curve.IsNull() || (one == nullptr && other == nullptr)) continue;
        const double sense = uses[0].forward != uses[1].forward ? 1.0 : -1.0;
        if (one == nullptr || other == nullptr || !goesOn(*one, *other, curve->Value(first), sense) ||
            !goesOn(*one, *other, curve->Value(last), sense))
            parted.insert({EntityKind::Edge, e});
    }
    return parted;
}

void markParted(Part& made, const PartLineage& lineage) {
    const Incidence& after = made.incidence();
    const Descents edges(lineage.edges());
    for (int e = 1; e <= after.edgeCount(); ++e) {
        const auto uses = after.usesOf(e);
        if (uses.size() == 2 && uses[0].face != uses[1].face && edges.ancestorsOf(e).empty())
            made.known.parted[{EntityKind::Edge, e}] = {};
    }
    const Descents vertices(lineage.of(EntityKind::Vertex));
    for (int v = 1; v <= after.vertexCount(); ++v)
        if (vertices.ancestorsOf(v).empty()) made.known.parted[{EntityKind::Vertex, v}] = {};
}

}  // namespace rasoir
