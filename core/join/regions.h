// What bodies are filled with, and what the sides of flow spaces are.
#pragma once
#include "model/operation.h"
#include "model/reference.h"

namespace rasoir::join {

/// Parameters of `join.region`.
struct SetRegion {
    std::vector<std::string> parts;  ///< names or patterns
    RegionKind kind = RegionKind::Solid;

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const SetRegion& step);
void from_json(const Json& json, SetRegion& step);
/// Says what all bodies of parts are: solid, fluid, porous or void. What is void is not handed over.
/// Refuses   no part named, and names that fit nothing.
[[nodiscard]] Result<Outcome> setRegion(const Model& model, const SetRegion& step, Progress& progress);

/// Kinds of boundary, as `purpose` of a group says them.
[[nodiscard]] const std::vector<std::string>& boundaryKinds();
/// Words, by how they begin, with the kinds that they stand for.
using KindWords = std::vector<std::pair<std::string, std::string>>;
/// The kind that a group's name speaks of: "inlet" of "water in", "outlet" of "Auslass 2"; none when it says nothing.
/// `own`   asked before the words that are known anyway.
[[nodiscard]] std::optional<std::string> boundaryKindOf(const std::string& name, const KindWords& own = {});

/// Parameters of `join.boundary`.
struct SetBoundary {
    std::string name;                ///< of the boundary: a group that there is, or a new one; * and ? for many
    std::string kind;                ///< see boundaryKinds(); empty: as its name says
    std::vector<EntityRef> things;   ///< faces of a new one
    std::vector<std::string> names;  ///< several at once, instead of one
    KindWords words;                 ///< what names say, besides what is known anyway
    std::string partner;             ///< periodic: the group on the other side

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const SetBoundary& step);
void from_json(const Json& json, SetBoundary& step);
/// Gives groups a kind of boundary. A periodic pair becomes a link of the two groups.
/// Refuses   an unknown kind, a name that fits no group while nothing is picked, a name that says no kind.
[[nodiscard]] Result<Outcome> setBoundary(const Model& model, const SetBoundary& step, Progress& progress);

}  // namespace rasoir::join
