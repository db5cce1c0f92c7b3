// What an analysis wants of bolted joints: beams in their stead, or shanks cut for preload; and seats under the heads.
#pragma once
#include "join/bolts.h"
#include "model/operation.h"

namespace rasoir::join {

/// Parameters of `join.bolt`, kept in the ledger.
struct MakeBolts {
    std::vector<std::string> bolts;  ///< places or parts; empty: all that are found
    std::string name = "bolt";       ///< of the beams or bodies, followed by a number
    std::string as = "beam";         ///< beam; or body: the bolt stays, its shank cut across the middle for preload
    /// Where head and nut bear, the clamped faces are parted to a ring: as wide as what lies there, else to twice the
    /// hole.
    bool rings = false;

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const MakeBolts& step);
void from_json(const Json& json, MakeBolts& step);

/// As beams: puts one of the shank's section in the place of each bolt, from under its head to its nut or thread, and
/// links each end: to the rim of the hole on that side, or to the wall of the hole that the thread holds in. Bolt, nut
/// and washers are set aside.
/// As bodies: each bolt is cut across its shank midway in what it clamps; the two new faces are groups "NAME, preload,
/// head side" and "..., tip side", kept as a link of behaviour "preload".
/// With rings: the ring under the head is the group "NAME, seat of the head", that at the nut "..., seat of the nut".
/// Refuses   names that fit nothing, a bolt that cannot be cut, and, as nothing to do, where no bolt goes through
///           anything. A seat that cannot be parted is an item with its reason, and the rest is done.
[[nodiscard]] Result<Outcome> makeBolts(const Model& model, const MakeBolts& step, Progress& progress);

}  // namespace rasoir::join
