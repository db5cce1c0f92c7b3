#include "model/pairings.h"

#include <cmath>
#include <stdexcept>

namespace rasoir {

namespace {
const std::vector<std::pair<PairingKind, std::string>> kindNames{{PairingKind::Contact, "contact"},
                                                                 {PairingKind::Link, "link"},
                                                                 {PairingKind::Weld, "weld"},
                                                                 {PairingKind::Within, "within"}};
}

std::string pairingKindName(PairingKind kind) {
    return std::find_if(kindNames.begin(), kindNames.end(), [kind](const auto& one) { return one.first == kind; })
        ->second;
}

Json toJson(const Pairing& pairing) {
    Json json{{"name", pairing.name},
              {"kind", pairingKindName(pairing.kind)},
              {"first", pairing.first},
              {"second", pairing.second}};
    if (!pairing.behaviour.empty()) json["behaviour"] = pairing.behaviour;
    if (pairing.friction) json["friction"] = *pairing.friction;
    if (pairing.kind == PairingKind::Contact) json["gap_mm"] = pairing.gap;
    if (pairing.kind == PairingKind::Weld) {
        json["throat_mm"] = pairing.throat;
        json["length_mm"] = pairing.length;
    }
    return json;
}

Pairing pairingFromJson(const Json& json) {
    Pairing pairing;
    pairing.name = json.at("name").get<std::string>();
    const auto kind = json.at("kind").get<std::string>();
    const auto known =
        std::find_if(kindNames.begin(), kindNames.end(), [&kind](const auto& one) { return one.second == kind; });
    if (known == kindNames.end()) throw std::invalid_argument("a pairing is a contact, a link, a weld or within");
    pairing.kind = known->first;
    pairing.first = json.at("first").get<std::string>();
    pairing.second = json.at("second").get<std::string>();
    pairing.behaviour = json.value("behaviour", "");
    if (json.contains("friction")) pairing.friction = json.at("friction").get<double>();
    pairing.gap = json.value("gap_mm", 0.0);
    pairing.throat = json.value("throat_mm", 0.0);
    pairing.length = json.value("length_mm", 0.0);
    if (!std::isfinite(pairing.gap) || !std::isfinite(pairing.throat) || !std::isfinite(pairing.length) ||
        (pairing.friction && !std::isfinite(*pairing.friction)))
        throw std::invalid_argument("a number of a pairing is not finite");
    return pairing;
}

}  // namespace rasoir
