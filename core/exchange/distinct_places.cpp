#include "exchange/distinct_places.h"

#include <fmt/format.h>

#include "model/places.h"

namespace rasoir::exchange {

Model withDistinctPlaces(Model model) {
    model.giveIds();
    // What is said of each place alone: (group, thing), and (joint, thing) with joints counted on behind the groups.
    std::map<PlaceId, std::set<std::pair<std::size_t, Entity>>> saidOf;
    for (std::size_t g = 0; g < model.groups.size(); ++g)
        for (const Member& member : model.groups[g].members)
            if (member.place != everyPlace) saidOf[member.place].emplace(g, member.entity);
    for (std::size_t j = 0; j < model.joints.size(); ++j)
        if (model.joints[j].kind == EntityKind::Face)
            for (const JointUse& use : model.joints[j].uses)
                saidOf[use.place].emplace(model.groups.size() + j, Entity{EntityKind::Face, use.number});
    if (saidOf.empty()) return model;
    using Said = std::set<std::pair<std::size_t, Entity>>;
    std::map<std::size_t, std::map<Said, std::vector<std::size_t>>> places;  // of a part, those that are alike
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        const auto said = saidOf.find(model.occurrences[o].id);
        places[model.occurrences[o].part][said == saidOf.end() ? Said() : said->second].push_back(o);
    }
    for (const auto& [part, kinds] : places) {
        if (kinds.size() < 2) continue;
        const PartId was = model.parts[part]->id;
        bool first = true;
        for (const auto& [said, alike] : kinds) {
            if (std::exchange(first, false)) continue;  // those of whom least is said stay what they are
            auto own = model.parts[part]->copy();
            own->name = freeName(model, own->name);
            own->id = 0;
            model.parts.push_back(own);
            model.giveIds();
            const PartId now = model.parts.back()->id;
            for (const std::size_t o : alike) model.occurrences.change(o).part = model.parts.size() - 1;
            for (Group& group : model.groups) {
                std::set<Member> members;
                for (const Member& member : group.members) {
                    members.insert(member);
                    if (member.part != was) continue;
                    const bool here = std::any_of(alike.begin(), alike.end(), [&](std::size_t o) {
                        return model.occurrences[o].id == member.place;
                    });
                    if (here) members.erase(member);
                    if (here || member.place == everyPlace) members.insert({now, everyPlace, member.entity});
                }
                group.members = std::move(members);
            }
        }
    }
    return model;
}

std::map<std::pair<PartId, int>, std::string> joinedNames(const Model& model) {
    std::map<std::pair<PartId, int>, std::string> names;
    std::size_t number = 0;
    for (const Joint& joint : model.joints) {
        if (joint.kind != EntityKind::Face) continue;
        ++number;
        for (const JointUse& use : joint.uses)
            if (const auto place = model.placeOf(use.place))
                names.emplace(std::pair(model.parts[model.occurrences[*place].part]->id, use.number),
                              fmt::format("joined {}", number));
    }
    return names;
}

}  // namespace rasoir::exchange
