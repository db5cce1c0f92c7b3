#include "reduce/lumps.h"

#include <fmt/format.h>

#include "intake/aside.h"
#include "join/contacts.h"
#include "model/places.h"

namespace rasoir::reduce {

std::vector<ParameterInfo> MakeLumps::infos() {
    return {{"parts", "list of names", "", "Names or patterns.", Json::array()},
            {"linked", "yes or no", "", "Tie each to the faces that held it.", true},
            {"behaviour", "text", "", "Of those links, for the next program.", "rigid"}};
}
void to_json(Json& json, const MakeLumps& step) {
    json = Json{{"parts", step.parts}};
    if (!step.linked) json["linked"] = false;
    if (step.behaviour != "rigid") json["behaviour"] = step.behaviour;
}
void from_json(const Json& json, MakeLumps& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
    step.linked = json.value("linked", true);
    step.behaviour = json.value("behaviour", "rigid");
}

Result<Outcome> makeLumps(const Model& received, const MakeLumps& step, Progress& progress) {
    Model model = received;
    model.giveIds();
    const auto named = partsNamed(model, step.parts);
    if (!named) return tl::unexpected(named.error());
    const std::set<std::size_t> lumps(named->begin(), named->end());
    // What held them is asked before they are lumps.
    std::map<std::size_t, std::set<std::pair<std::size_t, int>>> heldBy;  // place: places and faces
    if (step.linked && !lumps.empty()) {
        const auto report = join::findContacts(model, {join::safeLimit(model).mm}, progress);
        if (!report) return tl::unexpected(report.error());
        for (const join::Contact& contact : report->contacts) {
            for (const bool first : {true, false}) {
                const std::size_t own = first ? contact.placeA : contact.placeB,
                                  other = first ? contact.placeB : contact.placeA;
                if (!lumps.contains(model.occurrences[own].part) || lumps.contains(model.occurrences[other].part))
                    continue;
                heldBy[own].insert({other, first ? contact.faceB : contact.faceA});
            }
        }
    }
    auto outcome = intake::standIn(model, {step.parts, "lump"}, progress);
    if (!outcome) return outcome;
    outcome->items.clear();
    for (const std::size_t p : lumps)
        outcome->items.push_back({fmt::format("\"{}\": a lump of {} kg", model.parts[p]->name,
                                              readable(outcome->model.parts[p]->lump->mass)),
                                  true,
                                  {},
                                  0.0});
    for (std::size_t o = 0; o < model.occurrences.size() && step.linked; ++o) {
        const Occurrence& place = model.occurrences[o];
        if (!lumps.contains(place.part) || place.aside) continue;
        const std::string name = placeName(model, o);
        const auto held = heldBy.find(o);
        if (held == heldBy.end()) {
            outcome->notes.push_back(fmt::format("Nothing holds \"{}\": it is tied to nothing.", name));
            continue;
        }
        Group lump{fmt::format("{}, lump", name), "lump", std::nullopt, {}, std::nullopt},
            faces{fmt::format("{}, held here", name), "support of a lump", std::nullopt, {}, std::nullopt};
        lump.members.insert({model.parts[place.part]->id, place.id, {EntityKind::Body, 1}});
        for (const auto& [other, face] : held->second)
            faces.members.insert({model.parts[model.occurrences[other].part]->id,
                                  model.occurrences[other].id,
                                  {EntityKind::Face, face}});
        Pairing link;
        link.name = fmt::format("{} hangs here", name);
        link.kind = PairingKind::Link;
        link.first = lump.name;
        link.second = faces.name;
        link.behaviour = step.behaviour;
        outcome->items.push_back(
            {fmt::format("\"{}\" is held by {}", name, counted(faces.members.size(), "face")), true, {}, 0.0});
        putByName(outcome->model.groups, std::move(lump));
        putByName(outcome->model.groups, std::move(faces));
        putByName(outcome->model.pairings, std::move(link));
    }
    outcome->summary = lumps.size() == 1 ? fmt::format("A lump for {}", model.parts[*lumps.begin()]->name)
                                         : fmt::format("Lumps for {}", counted(lumps.size(), "part"));
    return outcome;
}

}  // namespace rasoir::reduce
