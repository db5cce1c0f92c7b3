#include "divide/small_beside.h"

#include <BRep_Tool.hxx>
#include <TopExp.hxx>
#include <TopoDS.hxx>

#include "common/tolerance.h"
#include "geometry/edge_probe.h"
#include "geometry/integrals.h"
#include "topology/edge_angle.h"

namespace rasoir::divide {
namespace {

/// [rad] A face whose normal turns by more across its width is a round of its own: an element over it would cut a
/// corner.
constexpr double turnsAway = 0.26;

/// What groups hold a thing: two faces may only be one for the mesh where nothing tells them apart.
std::set<std::string> groupsOf(const Model& model, const Part& part, const Entity& thing) {
    std::set<std::string> names;
    for (const Group& group : model.groups)
        for (const auto& member : group.members)
            if (member.part == part.id && member.entity == thing) names.insert(group.name);
    return names;
}

bool oneAlready(const Part& part, const Entity& a, const Entity& b) {
    const auto ofA = part.known.asOne.find(a), ofB = part.known.asOne.find(b);
    return ofA != part.known.asOne.end() && ofB != part.known.asOne.end() && ofA->second == ofB->second;
}

/// Whether a narrow face goes on as its neighbour does, seen across it: a round that turns away does not.
bool goesOn(const Incidence& topology, int face, int common) {
    const TopoDS_Face narrow = topology.face(face);
    const TopoDS_Edge shared = topology.edge(common);
    const EdgeProbe along(shared);
    for (const int e : topology.edgesOf(face)) {
        if (e == common || BRep_Tool::Degenerated(topology.edge(e))) continue;
        const EdgeProbe other(topology.edge(e));
        for (const double share : {0.1, 0.5, 0.9}) {
            const double t = other.first() + share * (other.last() - other.first());
            const gp_Vec here = outwardNormal(narrow, topology.edge(e), t),
                         there = outwardNormal(narrow, shared, along.nearest(other.value(t)).parameter);
            if (here.Magnitude() < 0.5 || there.Magnitude() < 0.5 || here.Angle(there) > turnsAway) return false;
        }
    }
    return true;
}

/// The faces at an edge, sorted.
std::vector<int> facesAt(const Incidence& topology, int edge) {
    std::vector<int> faces;
    for (const EdgeUse& use : topology.usesOf(edge)) faces.push_back(use.face);
    std::sort(faces.begin(), faces.end());
    return faces;
}

}  // namespace

Result<std::vector<SmallBeside>> findSmallBeside(const Model& model, double targetSize, Progress& progress) {
    std::vector<SmallBeside> all;
    const double least = 0.5 * targetSize;
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        const Part& part = *model.parts[p];
        if (model.isAside(p) || part.lump || part.shape.IsNull()) continue;
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped.");
        const Incidence& topology = part.incidence();
        std::vector<double> areas(static_cast<std::size_t>(topology.faceCount()) + 1, 0.0);
        struct Beside {
            double common = 0.0;  // [mm]
            int face = 0, edge = 0;
        };
        std::map<int, Beside> with;  // by narrow face
        std::vector<double> widths(areas.size(), 1e300), lengths(static_cast<std::size_t>(topology.edgeCount()) + 1);
        for (int e = 1; e <= topology.edgeCount(); ++e)
            lengths[static_cast<std::size_t>(e)] = lengthOf(topology.edge(e));
        for (int f = 1; f <= topology.faceCount(); ++f) {
            double rim = 0.0;
            for (const int e : topology.edgesOf(f)) rim += lengths[static_cast<std::size_t>(e)];
            areas[static_cast<std::size_t>(f)] = areaOf(topology.face(f));
            if (rim > 0.0) widths[static_cast<std::size_t>(f)] = 2.0 * areas[static_cast<std::size_t>(f)] / rim;
        }
        for (int e = 1; e <= topology.edgeCount(); ++e) {
            const auto uses = topology.usesOf(e);
            if (uses.size() != 2 || uses[0].face == uses[1].face) continue;
            int small = uses[0].face, large = uses[1].face;
            if (areas[static_cast<std::size_t>(small)] > areas[static_cast<std::size_t>(large)])
                std::swap(small, large);
            if (widths[static_cast<std::size_t>(small)] >= least) continue;
            if (edgeAngle(topology, e, Tolerance::smooth).kind != EdgeKind::Smooth) continue;
            Beside& known = with[small];
            if (lengths[static_cast<std::size_t>(e)] > known.common)
                known = {lengths[static_cast<std::size_t>(e)], large, e};
        }
        for (const auto& [small, other] : with) {
            const Entity a{EntityKind::Face, small}, b{EntityKind::Face, other.face};
            if (goesOn(topology, small, other.edge) && !oneAlready(part, a, b) &&
                groupsOf(model, part, a) == groupsOf(model, part, b))
                all.push_back({p, a, b, widths[static_cast<std::size_t>(small)]});
        }
        // Edges: at a vertex where only two of them meet, between the same faces, and straight on.
        std::vector<std::vector<int>> at(static_cast<std::size_t>(topology.vertexCount()) + 1);
        for (int e = 1; e <= topology.edgeCount(); ++e) {
            const TopoDS_Edge edge = topology.edge(e);
            if (BRep_Tool::Degenerated(edge)) continue;
            for (const TopoDS_Vertex& vertex : {TopExp::FirstVertex(edge), TopExp::LastVertex(edge)})
                if (!vertex.IsNull()) at[static_cast<std::size_t>(topology.vertexNumber(vertex))].push_back(e);
        }
        std::set<int> told;
        for (const std::vector<int>& edges : at) {
            if (edges.size() != 2 || edges[0] == edges[1]) continue;
            const int small = lengths[static_cast<std::size_t>(edges[0])] < lengths[static_cast<std::size_t>(edges[1])]
                                  ? edges[0]
                                  : edges[1];
            const int large = small == edges[0] ? edges[1] : edges[0];
            if (lengths[static_cast<std::size_t>(small)] >= least || told.contains(small)) continue;
            if (facesAt(topology, small) != facesAt(topology, large)) continue;
            const EdgeProbe a(topology.edge(small)), b(topology.edge(large));
            double turn = M_PI;
            for (const double s : {a.first(), a.last()})
                for (const double t : {b.first(), b.last()}) {
                    // Ends of a narrow face may be off by a thousandth of it, as drawn.
                    if (a.value(s).Distance(b.value(t)) > 1e-6 + 1e-3 * lengths[static_cast<std::size_t>(small)])
                        continue;
                    const gp_Vec u = a.tangent(s), v = b.tangent(t);
                    if (u.Magnitude() > Tolerance::noLength && v.Magnitude() > Tolerance::noLength)
                        turn = std::min({turn, u.Angle(v), u.Angle(v.Reversed())});
                }
            const Entity one{EntityKind::Edge, small}, other{EntityKind::Edge, large};
            if (turn > Tolerance::smooth || oneAlready(part, one, other) ||
                groupsOf(model, part, one) != groupsOf(model, part, other))
                continue;
            told.insert(small);
            all.push_back({p, one, other, lengths[static_cast<std::size_t>(small)]});
        }
    }
    std::stable_sort(all.begin(), all.end(),
                     [](const SmallBeside& a, const SmallBeside& b) { return a.width < b.width; });
    return all;
}

}  // namespace rasoir::divide
