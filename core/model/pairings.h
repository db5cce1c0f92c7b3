// Pairings: two groups that belong together though the mesh is not one there.
//
// A pairing names groups and holds nothing else of the geometry: groups follow the model through every step, and so
// does what is paired.
#pragma once
#include <optional>
#include <string>
#include <vector>

#include "model/json.h"

namespace rasoir {

enum class PairingKind {
    Contact,  ///< faces that touch, or may come to touch
    Link      ///< what never meets and moves together all the same
};
[[nodiscard]] std::string pairingKindName(PairingKind kind);

struct Pairing {
    std::string name;  ///< no two of a model have the same
    PairingKind kind = PairingKind::Contact;
    std::string first, second;  ///< names of groups
    std::string behaviour;      ///< free text for the next program: "bonded", "sliding", "rigid", ...; may be empty
    std::optional<double> friction;  ///< coefficient; none: not given
    double gap = 0.0;  ///< [mm] least distance as modelled; negative: they reach into one another that deep
    friend bool operator==(const Pairing&, const Pairing&) = default;
};

[[nodiscard]] Json toJson(const Pairing& pairing);
[[nodiscard]] Pairing pairingFromJson(const Json& json);  ///< throws std::invalid_argument with a reason

}  // namespace rasoir
