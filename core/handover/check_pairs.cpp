#include "handover/check_pairs.h"

#include <fmt/format.h>

#include "common/text.h"
#include "join/contacts.h"
#include "model/places.h"

namespace rasoir::handover {
namespace {

using PlacePair = std::pair<std::size_t, std::size_t>;

/// Pairs of places that have something in common, or are kept as a pair of groups.
std::set<PlacePair> decidedPairs(const Model& model) {
    std::set<PlacePair> decided;
    for (const Joint& joint : model.joints)
        for (std::size_t i = 0; i < joint.uses.size(); ++i)
            for (std::size_t k = i + 1; k < joint.uses.size(); ++k) {
                const auto a = model.placeOf(joint.uses[i].place), b = model.placeOf(joint.uses[k].place);
                if (a && b) decided.insert(std::minmax(*a, *b));
            }
    const auto placesOf = [&model](const std::string& name) {
        std::set<std::size_t> places;
        for (const Group& group : model.groups)
            if (group.name == name)
                for (const Member& member : group.members)
                    for (std::size_t o = 0; o < model.occurrences.size(); ++o)
                        if (model.parts[model.occurrences[o].part]->id == member.part &&
                            (member.place == everyPlace || member.place == model.occurrences[o].id))
                            places.insert(o);
        return places;
    };
    for (const Pairing& pairing : model.pairings)
        for (const std::size_t a : placesOf(pairing.first))
            for (const std::size_t b : placesOf(pairing.second)) decided.insert(std::minmax(a, b));
    return decided;
}

/// Pairs of places of the same two parts.
struct Fold {
    std::set<PlacePair> pairs;
    double least = 1e300, volume = 0.0;
    const join::Contact* first = nullptr;
};

}  // namespace

Result<std::vector<CheckFinding>> checkPairs(const Model& model, Progress& progress) {
    std::vector<CheckFinding> findings;
    if (model.occurrences.size() < 2) return findings;
    join::ContactSearch search;
    search.upTo = join::safeLimit(model).mm;
    search.fromSkins = true;
    search.overlaps = true;
    const auto report = join::findContacts(model, search, progress);
    if (!report) return tl::unexpected(report.error());
    const std::set<PlacePair> decided = decidedPairs(model);
    std::map<std::pair<std::size_t, std::size_t>, Fold> overlaps, gaps;
    std::set<PlacePair> touching;
    const join::Contact* firstTouching = nullptr;
    for (const join::Contact& contact : report->contacts) {
        const PlacePair pair = std::minmax(contact.placeA, contact.placeB);
        if (pair.first == pair.second || decided.contains(pair)) continue;
        if (contact.kind == join::ContactKind::Touching) {
            touching.insert(pair);
            if (firstTouching == nullptr) firstTouching = &contact;
            continue;
        }
        const bool overlap = contact.kind == join::ContactKind::Overlap;
        if (!overlap && (contact.kind != join::ContactKind::Near || contact.past)) continue;
        Fold& fold =
            (overlap ? overlaps
                     : gaps)[std::minmax(model.occurrences[pair.first].part, model.occurrences[pair.second].part)];
        fold.pairs.insert(pair);
        fold.least = std::min(fold.least, contact.gap);
        fold.volume = std::max(fold.volume, contact.volume);
        if (fold.first == nullptr) fold.first = &contact;
    }
    const auto say = [&](Severity severity, std::string what, std::string why, const join::Contact& contact) {
        const Occurrence& place = model.occurrences[contact.placeA];
        findings.push_back({severity,
                            std::move(what),
                            std::move(why),
                            "Join",
                            place.part,
                            contact.placeA,
                            {},
                            contact.where.Transformed(place.placement.Inverted())});
        if (contact.faceA > 0) findings.back().things.push_back({EntityKind::Face, contact.faceA});
    };
    const auto namesOf = [&](const Fold& fold) {
        const std::string a = placeName(model, fold.first->placeA), b = placeName(model, fold.first->placeB);
        return fold.pairs.size() == 1
                   ? fmt::format("\"{}\" and \"{}\"", a, b)
                   : fmt::format("\"{}\" and \"{}\", and {} like them,", a, b, counted(fold.pairs.size() - 1, "pair"));
    };
    for (const auto& [parts, fold] : overlaps)
        say(Severity::Warning,
            fold.volume > 0.0 ? fmt::format("{} reach into one another by about {} mm³.", namesOf(fold),
                                            readable(fold.volume > 100.0 ? std::round(fold.volume) : fold.volume))
                              : fmt::format("{} reach into one another.", namesOf(fold)),
            "Two meshes would fill the same place, and its mass counts twice.", *fold.first);
    for (const auto& [parts, fold] : gaps)
        // Joined they are one, in contact they may rest on each other: as it is they know nothing of one another.
        if (!overlaps.contains(parts))
            say(Severity::Warning, fmt::format("{} are {} mm apart.", namesOf(fold), readable(fold.least)),
                "Meant to touch, they would hold nothing: join them, or keep them as a contact.", *fold.first);
    if (!touching.empty())
        say(Severity::Note,
            fmt::format("{} touch and are neither joined nor kept as a contact, \"{}\" and \"{}\" among them.",
                        counted(touching.size(), "pair of bodies", "pairs of bodies"),
                        placeName(model, firstTouching->placeA), placeName(model, firstTouching->placeB)),
            "Their meshes would not know of each other.", *firstTouching);
    return findings;
}

}  // namespace rasoir::handover
