// Steps that name things and say what they are: groups by picking or by rule, and attributes.
#pragma once
#include "model/operation.h"
#include "model/reference.h"

namespace rasoir::handover {

/// Parameters of `handover.group`: a group of picked things that follow the model from here on.
struct MakeGroup {
    std::string name;
    std::string purpose;  ///< "load", "support", ...: free text
    std::vector<EntityRef> things;
    std::vector<std::string> parts;  ///< all bodies of these parts
    std::optional<Colour> colour;    ///< alone, of a group that is there: it is drawn in that
    bool add = false;                ///< to a group of that name, instead of taking its place
    bool drop = false;               ///< forgets the group

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const MakeGroup& step);
void from_json(const Json& json, MakeGroup& step);
/// Refuses a name without letters, things that are not there (each named), and a group that would be empty.
[[nodiscard]] Result<Outcome> makeGroup(const Model& model, const MakeGroup& step, Progress& progress);

/// Parameters of `handover.rule`: a group that takes in whatever its rule finds, after every step anew. What later
/// steps changed in its answer is told until it is accepted, or kept out.
struct MakeRule {
    std::string name, purpose;
    GroupRule rule;
    bool accept = false;  ///< of a group that is there: what its rule finds now is what was meant
    bool keep = false;    ///< of a group that is there: what was accepted stays, and follows the model without the rule

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const MakeRule& step);
void from_json(const Json& json, MakeRule& step);
/// A rule that finds nothing yet is kept and said to be empty.
[[nodiscard]] Result<Outcome> makeRule(const Model& model, const MakeRule& step, Progress& progress);

/// Parameters of `handover.attribute`: what something is.
struct SetAttribute {
    std::string attribute;  ///< size [mm], thickness [mm], region, material, name
    Json value;             ///< null: taken away
    std::vector<EntityRef> things;
    std::vector<std::string> parts;  ///< all bodies of these parts; for thickness all faces of their sheets
    std::string group;               ///< all members of this group

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const SetAttribute& step);
void from_json(const Json& json, SetAttribute& step);
[[nodiscard]] Result<Outcome> setAttribute(const Model& model, const SetAttribute& step, Progress& progress);

}  // namespace rasoir::handover
