#include "select/members.h"

#include "model/places.h"

namespace rasoir::select {
namespace {

/// Numbers among all bodies of the solids, which picks count alone.
std::vector<int> solidsOf(const Incidence& topology) {
    std::vector<int> solids;
    for (int b = 1; b <= topology.bodyCount(); ++b)
        if (topology.body(b).ShapeType() == TopAbs_SOLID) solids.push_back(b);
    return solids;
}

/// What a pick is in its part: all bodies where the whole place was picked.
std::vector<Entity> thingsIn(const Part& part, const Pick& pick) {
    if (pick.face > 0) return {{EntityKind::Face, pick.face}};
    if (pick.edge > 0) return {{EntityKind::Edge, pick.edge}};
    if (pick.vertex > 0) return {{EntityKind::Vertex, pick.vertex}};
    if (pick.body > 0) {
        const std::vector<int> solids = solidsOf(part.incidence());
        if (pick.body <= static_cast<int>(solids.size()))
            return {{EntityKind::Body, solids[static_cast<std::size_t>(pick.body) - 1]}};
    }
    std::vector<Entity> bodies;
    for (int b = 1; b <= part.incidence().bodyCount(); ++b) bodies.push_back({EntityKind::Body, b});
    return bodies;
}

}  // namespace

std::set<Member> membersOf(const Model& model, const std::vector<Pick>& picks) {
    std::set<Member> members;
    for (const Pick& pick : picks) {
        if (pick.occurrence >= model.occurrences.size()) continue;
        const Occurrence& place = model.occurrences[pick.occurrence];
        const Part& part = *model.parts[place.part];
        for (const Entity& thing : thingsIn(part, pick)) members.insert({part.id, place.id, thing});
    }
    return members;
}

std::vector<EntityRef> thingsOf(const Model& model, const std::vector<Pick>& picks) {
    std::map<std::pair<std::size_t, Entity>, std::set<std::size_t>> placesOf;  // by part and thing
    std::vector<std::pair<std::size_t, Entity>> inOrder;
    std::map<std::size_t, std::size_t> standing;
    for (const Occurrence& place : model.occurrences) ++standing[place.part];
    for (const Pick& pick : picks) {
        if (pick.occurrence >= model.occurrences.size()) continue;
        const std::size_t p = model.occurrences[pick.occurrence].part;
        for (const Entity& thing : thingsIn(*model.parts[p], pick)) {
            auto& places = placesOf[{p, thing}];
            if (places.empty()) inOrder.emplace_back(p, thing);
            places.insert(pick.occurrence);
        }
    }
    std::vector<EntityRef> things;
    for (const auto& one : inOrder) {
        const EntityRef reference = makeRef(*model.parts[one.first], one.second);
        const auto& places = placesOf[one];
        if (places.size() == standing[one.first]) {
            things.push_back(reference);
            continue;
        }
        for (const std::size_t place : places) {
            things.push_back(reference);
            things.back().place = placeName(model, place);
        }
    }
    return things;
}

std::vector<Pick> picksOf(const Model& model, const std::set<Member>& members) {
    std::vector<Pick> picks;
    for (const Member& member : members)
        for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
            const Occurrence& place = model.occurrences[o];
            const Part& part = *model.parts[place.part];
            if (part.id != member.part || place.aside || (member.place != everyPlace && member.place != place.id))
                continue;
            Pick pick{o};
            switch (member.entity.kind) {
                case EntityKind::Face:
                    pick.face = member.entity.number;
                    break;
                case EntityKind::Edge:
                    pick.edge = member.entity.number;
                    break;
                case EntityKind::Vertex:
                    pick.vertex = member.entity.number;
                    break;
                case EntityKind::Body: {
                    // A pick of a body is one of several solids; what is alone, or no solid, is its place.
                    const std::vector<int> solids = solidsOf(part.incidence());
                    const auto solid = std::find(solids.begin(), solids.end(), member.entity.number);
                    if (part.incidence().bodyCount() > 1 && solid != solids.end())
                        pick.body = 1 + static_cast<int>(solid - solids.begin());
                    break;
                }
            }
            picks.push_back(pick);
        }
    return picks;
}

std::set<Member> facesMade(const Model& after, const std::vector<PartLineage>& lineage) {
    std::set<Member> made;
    for (const auto& part : after.parts)
        for (int f = 1; f <= part->incidence().faceCount(); ++f)
            made.insert({part->id, everyPlace, {EntityKind::Face, f}});
    // A part that is the heir of several has each of its faces from one of them.
    for (const PartLineage& own : lineage) {
        if (own.into >= after.parts.size()) continue;
        const PartId id = after.parts[own.into]->id;
        const Descents descents(own.faces());
        std::erase_if(made, [&](const Member& one) {
            return one.part == id && (own.untouched || !descents.ancestorsOf(one.entity.number).empty());
        });
    }
    return made;
}

}  // namespace rasoir::select
