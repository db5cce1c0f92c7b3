#include "join/joint_faults.h"

#include <fmt/format.h>

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <TopoDS.hxx>

#include "common/sets.h"
#include "common/tolerance.h"
#include "geometry/integrals.h"

namespace rasoir::join {

std::vector<std::string> faultsInJoints(const Model& model) {
    std::vector<std::string> faults;
    const double exact = 10.0 * model.samePoint();
    for (const Joint& joint : model.joints) {
        struct Seen {
            double measure = 0.0;
            gp_Pnt middle;
        };
        std::optional<Seen> first;
        for (const JointUse& use : joint.uses) {
            const auto o = model.placeOf(use.place);
            if (!o) {
                faults.push_back("A joint speaks of a place that is not there.");
                break;
            }
            const Part& part = *model.parts[model.occurrences[*o].part];
            const Incidence& topology = part.incidence();
            const int count = joint.kind == EntityKind::Face   ? topology.faceCount()
                              : joint.kind == EntityKind::Edge ? topology.edgeCount()
                                                               : topology.vertexCount();
            if (use.number < 1 || use.number > count) {
                faults.push_back(
                    fmt::format("\"{}\" has no {} {}.", part.name, entityKindName(joint.kind), use.number));
                break;
            }
            Seen seen;
            if (joint.kind == EntityKind::Face) {
                const Skin skin = skinOf(topology.face(use.number));
                seen = {skin.area, skin.centre};
            } else if (joint.kind == EntityKind::Edge) {
                const TopoDS_Edge edge = topology.edge(use.number);
                seen.measure = lengthOf(edge);
                const BRepAdaptor_Curve curve(edge);
                seen.middle = curve.Value(0.5 * (curve.FirstParameter() + curve.LastParameter()));
            } else {
                seen.middle = BRep_Tool::Pnt(TopoDS::Vertex(topology.vertex(use.number)));
            }
            seen.middle.Transform(model.occurrences[*o].placement);
            if (!first) {
                first = seen;
                continue;
            }
            const double allowed = exact + 4.0 * joint.deviation;
            const double apart = seen.middle.Distance(first->middle);
            const double size =
                std::max(1.0, joint.kind == EntityKind::Face ? std::sqrt(first->measure) : first->measure);
            // 1e-5: areas under two sets of traces of one fitted edge differ by about that.
            if (apart > allowed + Tolerance::sameSize * size ||
                std::abs(seen.measure - first->measure) > 1e-5 * first->measure + allowed * size)
                faults.push_back(fmt::format("{} {} of \"{}\" is not where its partner is ({} mm apart).",
                                             entityKindName(joint.kind), use.number, part.name, readable(apart)));
        }
    }
    return faults;
}

Counted countJoined(const Model& model) {
    Counted all;
    for (const Occurrence& place : model.occurrences) {
        if (place.aside || model.parts[place.part]->shape.IsNull()) continue;
        const Incidence& topology = model.parts[place.part]->incidence();
        all.faces += static_cast<std::size_t>(topology.faceCount());
        for (int e = 1; e <= topology.edgeCount(); ++e) all.edges += !BRep_Tool::Degenerated(topology.edge(e));
        all.vertices += static_cast<std::size_t>(topology.vertexCount());
    }
    for (const Joint& joint : model.joints) {
        const std::size_t fewer = joint.uses.size() - 1;
        (joint.kind == EntityKind::Face   ? all.faces
         : joint.kind == EntityKind::Edge ? all.edges
                                          : all.vertices) -= fewer;
    }
    return all;
}

std::vector<std::size_t> commonTo(const Model& model, std::size_t place, const Entity& thing) {
    std::set<std::size_t> places;
    const PlaceId id = model.occurrences[place].id;
    for (const Joint& joint : model.joints) {
        if (joint.kind != thing.kind || std::none_of(joint.uses.begin(), joint.uses.end(), [&](const JointUse& use) {
                return use.place == id && use.number == thing.number;
            }))
            continue;
        for (const JointUse& use : joint.uses)
            if (const auto one = model.placeOf(use.place)) places.insert(*one);
    }
    return {places.begin(), places.end()};
}

std::vector<int> joinedSets(const Model& model) {
    Sets together(model.occurrences.size());
    std::vector<char> joined(model.occurrences.size(), 0);
    for (const Joint& joint : model.joints) {
        if (joint.kind == EntityKind::Vertex) continue;
        std::optional<std::size_t> first;
        for (const JointUse& use : joint.uses) {
            const auto place = model.placeOf(use.place);
            if (!place) continue;
            if (first && *first != *place) {
                together.join(static_cast<int>(*first), static_cast<int>(*place));
                joined[*first] = joined[*place] = 1;
            }
            first = place;
        }
    }
    std::map<int, int> numbers;
    std::vector<int> sets(model.occurrences.size(), -1);
    for (std::size_t o = 0; o < sets.size(); ++o)
        if (joined[o] != 0)
            sets[o] =
                numbers.try_emplace(together.root(static_cast<int>(o)), static_cast<int>(numbers.size())).first->second;
    return sets;
}

std::vector<JoinedEdge> joinedEdges(const Model& model) {
    std::map<std::pair<std::size_t, int>, std::size_t> common;  // face of a place: its joint
    for (std::size_t j = 0; j < model.joints.size(); ++j)
        if (model.joints[j].kind == EntityKind::Face)
            for (const JointUse& use : model.joints[j].uses)
                if (const auto place = model.placeOf(use.place)) common[{*place, use.number}] = j;
    std::vector<JoinedEdge> edges;
    for (const Joint& joint : model.joints) {
        if (joint.kind != EntityKind::Edge) continue;
        JoinedEdge edge;
        std::set<std::size_t> once;
        for (const JointUse& use : joint.uses) {
            const auto place = model.placeOf(use.place);
            if (!place) continue;
            if (edge.bodies++ == 0) {
                edge.place = *place;
                edge.edge = use.number;
            }
            for (const EdgeUse& face : model.parts[model.occurrences[*place].part]->incidence().usesOf(use.number)) {
                const auto known = common.find({*place, face.face});
                edge.faces += known == common.end() || once.insert(known->second).second;
            }
        }
        if (edge.bodies > 0) edges.push_back(edge);
    }
    return edges;
}

}  // namespace rasoir::join
