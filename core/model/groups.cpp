#include "model/groups.h"

#include <fmt/format.h>

namespace rasoir {

bool operator==(const GroupRule& a, const GroupRule& b) {
    const auto same = [](const std::optional<gp_XYZ>& x, const std::optional<gp_XYZ>& y) {
        return x.has_value() == y.has_value() && (!x || x->IsEqual(*y, 1e-12));
    };
    return a.kind == b.kind && a.parts == b.parts && a.surface == b.surface && a.diameter == b.diameter &&
           same(a.normal, b.normal) && a.axis == b.axis && a.at == b.at && a.material == b.material;
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
    return json;
}

Json toJson(const std::vector<GroupChange>& changes) {
    Json json = Json::array();
    for (const GroupChange& change : changes)
        json.push_back({{"group", change.group},
                        {"before", change.before},
                        {"after", change.after},
                        {"gone", change.gone},
                        {"measureBefore", change.measureBefore},
                        {"measureAfter", change.measureAfter}});
    return json;
}

GroupRule ruleFromJson(const Json& json) {
    if (!json.is_object()) throw std::invalid_argument("a rule is not an object");
    for (const auto& [key, value] : json.items())
        if (key != "kind" && key != "parts" && key != "surface" && key != "diameter" && key != "normal" &&
            key != "axis" && key != "at" && key != "material")
            throw std::invalid_argument(fmt::format("a rule knows no \"{}\"", key));
    GroupRule rule;
    if (json.contains("kind")) rule.kind = kindFrom(json.at("kind"));
    rule.parts = json.value("parts", "");
    rule.surface = json.value("surface", "");
    if (json.contains("diameter")) rule.diameter = json.at("diameter").get<double>();
    if (json.contains("normal")) rule.normal = tripleFromJson(json.at("normal"));
    if (rule.normal && rule.normal->SquareModulus() < 1e-24) throw std::invalid_argument("a normal has no length");
    rule.material = json.value("material", "");
    if (json.contains("axis")) {
        const std::string axis = json.at("axis").get<std::string>();
        if (axis != "x" && axis != "y" && axis != "z") throw std::invalid_argument("an axis is not x, y or z");
        rule.axis = axis[0] - 'x';
        rule.at = json.value("at", 0.0);
    }
    return rule;
}

Json toJson(const Group& group) {
    Json json{{"name", group.name}};
    if (!group.purpose.empty()) json["purpose"] = group.purpose;
    if (group.colour) json["colour"] = {group.colour->red, group.colour->green, group.colour->blue};
    if (group.rule) json["rule"] = toJson(*group.rule);
    Json members = Json::array();
    for (const Member& member : group.members) {
        Json one{{"part", member.part}};
        if (member.place != everyPlace) one["place"] = member.place;
        one[entityKindName(member.entity.kind)] = member.entity.number;
        members.push_back(std::move(one));
    }
    json["members"] = std::move(members);
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
    for (const Json& one : json.at("members")) {
        Member member{one.at("part").get<PartId>(), one.value("place", everyPlace), {}};
        for (const EntityKind kind : entityKinds)
            if (one.contains(entityKindName(kind))) member.entity = {kind, one.at(entityKindName(kind)).get<int>()};
        if (member.entity.number < 1) throw std::invalid_argument("a member of a group has no number");
        group.members.insert(member);
    }
    return group;
}

}  // namespace rasoir
