#include "reduce/laps.h"

#include <fmt/format.h>

#include "join/contacts.h"
#include "model/places.h"

namespace rasoir::reduce {
namespace {

/// The faces of the sheet that a face of a solid has become; none for a rim, which has become an edge.
std::set<int> sheetFacesOf(const Outcome& outcome, std::size_t solid, std::size_t sheet, int face) {
    std::set<int> faces;
    for (const PartLineage& own : outcome.lineage) {
        if (own.part != solid || (own.into == PartLineage::samePlace ? own.part : own.into) != sheet) continue;
        for (const Link& link : own.of(EntityKind::Face))
            if (link.before == face && link.after > 0) faces.insert(link.after);
    }
    return faces;
}

struct Lap {
    std::set<int> first, second;
    double area = 0.0, gap = 0.0;
};

}  // namespace

Result<void> linkLaps(const Model& before, Outcome& outcome, Progress& progress) {
    Model& model = outcome.model;
    model.giveIds();
    // Places by their ids: parts that were cut off have added some.
    const auto placeNow = [&](std::size_t o) { return model.placeOf(before.occurrences[o].id); };
    Model solids = before;
    std::vector<std::size_t> reduced;
    for (std::size_t o = 0; o < solids.occurrences.size(); ++o) {
        Occurrence& place = solids.occurrences.change(o);
        const auto now = placeNow(o);
        const bool isSheet = now && !place.aside && before.parts[place.part]->kind() == BodyKind::Solid &&
                             model.parts[model.occurrences[*now].part]->kind() == BodyKind::Sheet;
        place.aside = !isSheet;
        if (isSheet) reduced.push_back(o);
    }
    if (reduced.size() < 2) return {};
    const auto report = join::findContacts(solids, {join::safeLimit(before, reduced).mm}, progress);
    if (!report) return tl::unexpected(report.error());
    std::map<std::pair<std::size_t, std::size_t>, Lap> laps;  // by places as they are now
    for (const join::Contact& contact : report->contacts) {
        const bool lies = contact.kind == join::ContactKind::Touching ||
                          (contact.kind == join::ContactKind::Near && !contact.isWedge());
        if (!lies || contact.faceA == 0 || contact.faceB == 0) continue;
        const std::size_t a = *placeNow(contact.placeA), b = *placeNow(contact.placeB);
        const auto first = sheetFacesOf(outcome, before.occurrences[contact.placeA].part, model.occurrences[a].part,
                                        contact.faceA),
                   second = sheetFacesOf(outcome, before.occurrences[contact.placeB].part, model.occurrences[b].part,
                                         contact.faceB);
        if (first.empty() || second.empty()) continue;
        Lap& lap = laps[{a, b}];
        lap.first.insert(first.begin(), first.end());
        lap.second.insert(second.begin(), second.end());
        lap.area += contact.area;
        lap.gap = std::max(lap.gap, contact.gap);
    }
    for (const auto& [places, lap] : laps) {
        const std::string a = placeName(model, places.first), b = placeName(model, places.second);
        Pairing link;
        link.name = fmt::format("{} laps {}", a, b);
        link.kind = PairingKind::Link;
        link.behaviour = "lapped";
        const auto side = [&](std::size_t o, const std::set<int>& faces) {
            const Occurrence& place = model.occurrences[o];
            Group group{link.name + ", " + placeName(model, o), "link", std::nullopt, {}, std::nullopt};
            for (const int face : faces)
                group.members.insert({model.parts[place.part]->id, place.id, {EntityKind::Face, face}});
            const std::string name = group.name;
            putByName(model.groups, std::move(group));
            return name;
        };
        link.first = side(places.first, lap.first);
        link.second = side(places.second, lap.second);
        putByName(model.pairings, std::move(link));
        outcome.notes.push_back(
            fmt::format("\"{}\" and \"{}\" lap over about {} mm²: they stay two sheets, and a link ties them.", a, b,
                        readable(lap.area, 2)));
    }
    return {};
}

}  // namespace rasoir::reduce
