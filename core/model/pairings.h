// Pairings: two groups that belong together though the mesh is not one there.
//
// A pairing names groups and holds nothing else of the geometry: groups follow the model through every step, and so
// does what is paired.
#pragma once
#include <optional>
#include <string>
#include <vector>

#include "model/json.h"
#include "model/named.h"

namespace rasoir {

enum class PairingKind {
    Contact,  ///< faces that touch, or may come to touch
    Link,     ///< what never meets and moves together all the same
    Weld,     ///< edges of two bodies that a seam holds together
    Within    ///< faces of a sheet that lie inside a body, which goes on behind them
};
[[nodiscard]] std::string pairingKindName(PairingKind kind);

struct Pairing {
    std::string name;  ///< no two of a model have the same
    PairingKind kind = PairingKind::Contact;
    std::string first, second;  ///< names of groups
    std::string behaviour;      ///< free text for the next program: "bonded", "sliding", "rigid", ...; may be empty
    std::optional<double> friction;  ///< coefficient; none: not given
    double gap = 0.0;     ///< [mm] least distance as modelled; negative: they reach into one another that deep
    double throat = 0.0;  ///< [mm] of a weld: height of its triangle; 0: not known
    double length = 0.0;  ///< [mm] of a weld
    friend bool operator==(const Pairing&, const Pairing&) = default;
};

[[nodiscard]] Json toJson(const Pairing& pairing);
[[nodiscard]] Pairing pairingFromJson(const Json& json);  ///< throws std::invalid_argument with a reason

}  // namespace rasoir
