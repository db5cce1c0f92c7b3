#include "model/groups.h"

#include <fmt/format.h>

#include "common/tolerance.h"

namespace rasoir {

bool operator==(const GroupRule& a, const GroupRule& b) {
    const auto same = [](const std::optional<gp_XYZ>& x, const std::optional<gp_XYZ>& y) {
        // Written and read again as text, a number keeps its digits.
        return x.has_value() == y.has_value() && (!x || x->IsEqual(*y, 1e-12));
    };
    return a.kind == b.kind && a.parts == b.parts && a.surface == b.surface && a.diameter == b.diameter &&
           same(a.normal, b.normal) && a.axis == b.axis && a.at == b.at && a.material == b.material &&
           a.towards == b.towards && a.inward == b.inward && a.colour == b.colour && a.named == b.named;
}

std::vector<Member> Group::fresh() const {
    std::vector<Member> found;
    if (rule)
        std::set_difference(members.begin(), members.end(), accepted.begin(), accepted.end(),
                            std::back_inserter(found));
    return found;
}

std::vector<Member> Group::fallen() const {
    std::vector<Member> found;
    if (rule)
        std::set_difference(accepted.begin(), accepted.end(), members.begin(), members.end(),
                            std::back_inserter(found));
    return found;
}

std::optional<EntityKind> entityKindFromName(const std::string& name) {
    for (const EntityKind kind : entityKinds)
        if (name == entityKindName(kind)) return kind;
    return std::nullopt;
}

namespace {

EntityKind kindFrom(const Json& json) {
    const auto kind = entityKindFromName(json.get<std::string>());
    if (!kind) throw std::invalid_argument("a kind is not body, face, edge or vertex");
    return *kind;
}

}  // namespace

Json toJson(const GroupRule& rule) {
    Json json{{"kind", entityKindName(rule.kind)}};
    if (!rule.parts.empty()) json["parts"] = rule.parts;
    if (!rule.surface.empty()) json["surface"] = rule.surface;
    if (rule.diameter) json["diameter"] = *rule.diameter;
    if (rule.normal) json["normal"] = toJson(*rule.normal);
    if (rule.axis) {
        json["axis"] = std::string(1, "xyz"[*rule.axis]);
        json["at"] = rule.at;
    }
    if (!rule.material.empty()) json["material"] = rule.material;
    if (!rule.towards.empty()) json["towards"] = rule.towards;
    if (rule.inward) json["inward"] = *rule.inward;
    if (rule.colour) json["colour"] = {rule.colour->red, rule.colour->green, rule.colour->blue};
    if (!rule.named.empty()) json["named"] = rule.named;
    return json;
}

Json toJson(const std::vector<GroupChange>& changes) {
    Json json = Json::array();
    for (const GroupChange& change : changes) {
        Json one{{"group", change.group},
                 {"before", change.before},
                 {"after", change.after},
                 {"gone", change.gone},
                 {"measureBefore", change.measureBefore},
                 {"measureAfter", change.measureAfter}};
        if (!change.unit.empty()) one["unit"] = change.unit;
        if (change.fresh + change.fallen > 0) {
            one["fresh"] = change.fresh;
            one["fallen"] = change.fallen;
        }
        for (const gp_XYZ& at : change.lostAt) one["lostAt"].push_back(toJson(at));
        json.push_back(std::move(one));
    }
    return json;
}

GroupRule ruleFromJson(const Json& json) {
    if (!json.is_object()) throw std::invalid_argument("a rule is not an object");
    static const std::set<std::string> known{"kind", "parts",    "surface", "diameter", "normal", "axis",
                                             "at",   "material", "towards", "inward",   "colour", "named"};
    for (const auto& [key, value] : json.items())
        if (!known.contains(key)) throw std::invalid_argument(fmt::format("a rule knows no \"{}\"", key));
    GroupRule rule;
    if (json.contains("kind")) rule.kind = kindFrom(json.at("kind"));
    rule.parts = json.value("parts", "");
    rule.surface = json.value("surface", "");
    if (json.contains("diameter")) rule.diameter = json.at("diameter").get<double>();
    if (json.contains("normal")) rule.normal = tripleFromJson(json.at("normal"));
    if (rule.normal && rule.normal->SquareModulus() < Tolerance::noLengthSquare)
        throw std::invalid_argument("a normal has no length");
    rule.material = json.value("material", "");
    rule.towards = json.value("towards", "");
    rule.named = json.value("named", "");
    if (json.contains("inward")) rule.inward = json.at("inward").get<bool>();
    if (json.contains("colour")) {
        const gp_XYZ triple = tripleFromJson(json.at("colour"));
        rule.colour = Colour{triple.X(), triple.Y(), triple.Z()};
    }
    if (json.contains("axis")) {
        const std::string axis = json.at("axis").get<std::string>();
        if (axis != "x" && axis != "y" && axis != "z") throw std::invalid_argument("an axis is not x, y or z");
        rule.axis = axis[0] - 'x';
        rule.at = json.value("at", 0.0);
    }
    return rule;
}

namespace {

Json membersToJson(const std::set<Member>& members) {
    Json json = Json::array();
    for (const Member& member : members) {
        Json one{{"part", member.part}};
        if (member.place != everyPlace) one["place"] = member.place;
        one[entityKindName(member.entity.kind)] = member.entity.number;
        json.push_back(std::move(one));
    }
    return json;
}

std::set<Member> membersFromJson(const Json& json) {
    std::set<Member> members;
    for (const Json& one : json) {
        Member member{one.at("part").get<PartId>(), one.value("place", everyPlace), {}};
        for (const EntityKind kind : entityKinds)
            if (one.contains(entityKindName(kind))) member.entity = {kind, one.at(entityKindName(kind)).get<int>()};
        if (member.entity.number < 1) throw std::invalid_argument("a member of a group has no number");
        members.insert(member);
    }
    return members;
}

}  // namespace

Json toJson(const Group& group) {
    Json json{{"name", group.name}};
    if (!group.purpose.empty()) json["purpose"] = group.purpose;
    if (group.colour) json["colour"] = {group.colour->red, group.colour->green, group.colour->blue};
    if (group.rule) json["rule"] = toJson(*group.rule);
    json["members"] = membersToJson(group.members);
    if (group.rule && group.accepted != group.members) json["accepted"] = membersToJson(group.accepted);
    return json;
}

Group groupFromJson(const Json& json) {
    Group group;
    group.name = json.at("name").get<std::string>();
    group.purpose = json.value("purpose", "");
    if (json.contains("colour")) {
        const gp_XYZ triple = tripleFromJson(json.at("colour"));
        group.colour = Colour{triple.X(), triple.Y(), triple.Z()};
    }
    if (json.contains("rule")) group.rule = ruleFromJson(json.at("rule"));
    group.members = membersFromJson(json.at("members"));
    if (group.rule) group.accepted = json.contains("accepted") ? membersFromJson(json.at("accepted")) : group.members;
    return group;
}

}  // namespace rasoir
