#include "model/pairings.h"

#include <cmath>
#include <stdexcept>

namespace rasoir {

std::string pairingKindName(PairingKind kind) {
    return kind == PairingKind::Contact ? "contact" : "link";
}

Json toJson(const Pairing& pairing) {
    Json json{{"name", pairing.name},
              {"kind", pairingKindName(pairing.kind)},
              {"first", pairing.first},
              {"second", pairing.second}};
    if (!pairing.behaviour.empty()) json["behaviour"] = pairing.behaviour;
    if (pairing.friction) json["friction"] = *pairing.friction;
    if (pairing.kind == PairingKind::Contact) json["gap_mm"] = pairing.gap;
    return json;
}

Pairing pairingFromJson(const Json& json) {
    Pairing pairing;
    pairing.name = json.at("name").get<std::string>();
    const auto kind = json.at("kind").get<std::string>();
    if (kind != "contact" && kind != "link") throw std::invalid_argument("a pairing is a contact or a link");
    pairing.kind = kind == "contact" ? PairingKind::Contact : PairingKind::Link;
    pairing.first = json.at("first").get<std::string>();
    pairing.second = json.at("second").get<std::string>();
    pairing.behaviour = json.value("behaviour", "");
    if (json.contains("friction")) pairing.friction = json.at("friction").get<double>();
    pairing.gap = json.value("gap_mm", 0.0);
    if (!std::isfinite(pairing.gap) || (pairing.friction && !std::isfinite(*pairing.friction)))
        throw std::invalid_argument("a number of a pairing is not finite");
    return pairing;
}

}  // namespace rasoir
