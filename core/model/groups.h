// Groups: named sets of bodies, faces, edges and vertices that follow the model through every step.
#pragma once
#include <cstdint>
#include <gp_XYZ.hxx>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "model/attributes.h"
#include "model/named.h"

namespace rasoir {

using PartId = std::uint64_t;  ///< of a part, as PlaceId of a place: given once, never reused within a work
using PlaceId = std::uint64_t;
inline constexpr PlaceId everyPlace = 0;

/// One thing in a group: of a part in one of its places, or in all of them.
struct Member {
    PartId part = 0;
    PlaceId place = everyPlace;
    Entity entity;
    friend auto operator<=>(const Member&, const Member&) = default;
};

/// What makes a thing a member by itself. All that is stated has to hold.
struct GroupRule {
    EntityKind kind = EntityKind::Face;
    std::string parts;               ///< a pattern of part names; empty: all
    std::string surface;             ///< faces: "plane", "cylinder", ...; empty: any
    std::optional<double> diameter;  ///< [mm] of cylinders and spheres, to a thousandth
    std::optional<gp_XYZ> normal;    ///< planes that look this way, model coordinates, to a hundredth of a radian
    std::optional<int> axis;         ///< planes across this axis (0: x, 1: y, 2: z) ...
    double at = 0.0;                 ///< ... at this coordinate [mm], to the model's tolerance
    std::string material;            ///< of parts made of this
    std::string towards;             ///< faces beside these parts, within the safe limit: a pattern of part names
    std::optional<bool> inward;      ///< faces of solids that are hollow (a hole) or, if false, bulge (a shaft)
    std::optional<Colour> colour;    ///< faces that have this colour, of their own or from their part
    std::string named;               ///< faces that bear a name of their own: a pattern
    friend bool operator==(const GroupRule& a, const GroupRule& b);
};

/// A group has a rule, or members that follow lineage; never both. What a rule found when it was last accepted follows
/// lineage beside it, so that what later steps changed in its answer can be told from what they only split or moved.
struct Group {
    std::string name;
    std::string purpose;  ///< "load", "support", "contact", "kept", ...: free text
    std::optional<Colour> colour;
    std::set<Member> members;  ///< of a rule: what it finds now
    std::optional<GroupRule> rule;
    std::set<Member> accepted{};  ///< of a rule: what was accepted, as far as it is still there

    [[nodiscard]] std::vector<Member> fresh() const;   ///< what the rule finds beyond what was accepted
    [[nodiscard]] std::vector<Member> fallen() const;  ///< what was accepted and the rule finds no more
    friend bool operator==(const Group&, const Group&) = default;
};

/// What a step did to a group, in numbers: of faces their area, of edges their length, of bodies their count.
struct GroupChange {
    std::string group;
    std::size_t before = 0, after = 0;               ///< members
    double measureBefore = 0.0, measureAfter = 0.0;  ///< [mm^2] of faces, else [mm] of edges
    std::string unit{};                              ///< of the measures: "mm²", "mm", or empty
    std::size_t gone = 0;                            ///< members without an heir
    std::size_t fresh = 0, fallen = 0;               ///< of a rule: what its answer gained and lost by this step
    std::vector<gp_XYZ> lostAt;                      ///< [mm, model coordinates] where the first of those gone were
};

[[nodiscard]] Json toJson(const Group& group);
[[nodiscard]] Group groupFromJson(const Json& json);  ///< throws std::invalid_argument with a reason
[[nodiscard]] Json toJson(const GroupRule& rule);
[[nodiscard]] Json toJson(const std::vector<GroupChange>& changes);
[[nodiscard]] GroupRule ruleFromJson(const Json& json);
[[nodiscard]] std::optional<EntityKind> entityKindFromName(const std::string& name);

}  // namespace rasoir
