#include "handover/groups.h"

#include <fmt/format.h>

#include "geometry/integrals.h"
#include "handover/rules.h"
#include "model/places.h"

namespace rasoir::handover {
namespace {

Result<void> checkName(const std::string& name) {
    if (name.find_first_not_of(" \t") == std::string::npos)
        return fail(ProblemKind::BadInput, "The group has no name.", "Give it one.");
    return {};
}

/// Members for picked things and whole parts. What is not there is listed as items.
Result<std::set<Member>> membersOf(const Model& model, const std::vector<EntityRef>& things,
                                   const std::vector<std::string>& parts, std::vector<Item>& left) {
    std::set<Member> members;
    for (const EntityRef& thing : things) {
        const auto found = findEntity(model, thing);
        if (!found) {
            left.push_back(
                {fmt::format("{} of {}", entityKindName(thing.entity.kind), thing.part), false, found.error(), 0.0});
            continue;
        }
        PlaceId place = everyPlace;
        if (!thing.place.empty()) {
            const auto named = placesNamed(model, {thing.place});
            if (!named) return tl::unexpected(named.error());
            const Occurrence& stands = model.occurrences[named->front()];
            if (named->size() == 1 && stands.part == found->part) place = stands.id;
        }
        members.insert({model.parts[found->part]->id, place, found->entity});
    }
    if (!parts.empty()) {
        const auto named = partsNamed(model, parts);
        if (!named) return tl::unexpected(named.error());
        for (const std::size_t p : *named)
            for (int b = 1; b <= model.parts[p]->incidence().bodyCount(); ++b)
                members.insert({model.parts[p]->id, everyPlace, {EntityKind::Body, b}});
    }
    return members;
}

std::string countedMembers(const std::set<Member>& members) {
    std::array<std::size_t, 4> counts{};
    for (const Member& member : members) ++counts[static_cast<std::size_t>(member.entity.kind)];
    std::string text;
    const std::array<std::pair<const char*, const char*>, 4> words{
        {{"body", "bodies"}, {"face", "faces"}, {"edge", "edges"}, {"vertex", "vertices"}}};
    for (std::size_t k = 0; k < 4; ++k)
        if (counts[k] > 0) text += (text.empty() ? "" : ", ") + counted(counts[k], words[k].first, words[k].second);
    return text.empty() ? "nothing" : text;
}

}  // namespace

std::vector<ParameterInfo> MakeGroup::infos() {
    return {{"name", "text", "", "Of the group.", ""},
            {"purpose", "text", "", "load, support, contact, ...", ""},
            {"things", "list of things", "", "Picked bodies, faces, edges and vertices.", Json::array()},
            {"parts", "list of names", "", "And all bodies of these parts.", Json::array()},
            {"colour", "any", "", "Linear red, green and blue from 0 to 1. Alone: of the group of that name.", nullptr},
            {"add", "yes or no", "", "To the group of that name, instead of taking its place.", false},
            {"drop", "yes or no", "", "Forget the group.", false}};
}
void to_json(Json& json, const MakeGroup& step) {
    json = Json{{"name", step.name}};
    if (!step.purpose.empty()) json["purpose"] = step.purpose;
    if (!step.things.empty()) json["things"] = step.things;
    if (!step.parts.empty()) json["parts"] = step.parts;
    if (step.colour) json["colour"] = {step.colour->red, step.colour->green, step.colour->blue};
    if (step.add) json["add"] = true;
    if (step.drop) json["drop"] = true;
}
void from_json(const Json& json, MakeGroup& step) {
    step.name = json.at("name").get<std::string>();
    step.purpose = json.value("purpose", "");
    step.things = json.value("things", std::vector<EntityRef>{});
    step.parts = json.value("parts", std::vector<std::string>{});
    if (json.contains("colour") && !json.at("colour").is_null()) {
        const gp_XYZ triple = tripleFromJson(json.at("colour"));
        step.colour = Colour{triple.X(), triple.Y(), triple.Z()};
    }
    step.add = json.value("add", false);
    step.drop = json.value("drop", false);
}

Result<Outcome> makeGroup(const Model& received, const MakeGroup& step, Progress&) {
    if (const auto fine = checkName(step.name); !fine) return tl::unexpected(fine.error());
    Outcome outcome;
    outcome.model = received;
    outcome.model.giveIds();
    Model& model = outcome.model;
    const auto known = std::find_if(model.groups.begin(), model.groups.end(),
                                    [&](const Group& group) { return group.name == step.name; });
    if (step.drop) {
        if (known == model.groups.end())
            return fail(ProblemKind::NotPossible, fmt::format("There is no group \"{}\".", step.name));
        model.groups.erase(known);
        outcome.summary = fmt::format("Forget the group {}", step.name);
        return outcome;
    }
    if (step.colour && step.things.empty() && step.parts.empty() && known != model.groups.end()) {
        known->colour = step.colour;
        outcome.summary = fmt::format("Draw the group {} in {}", step.name, hexText(*step.colour));
        return outcome;
    }
    auto members = membersOf(model, step.things, step.parts, outcome.items);
    if (!members) return tl::unexpected(members.error());
    if (members->empty()) {
        if (!outcome.items.empty()) return tl::unexpected(outcome.items.front().problem);
        return fail(ProblemKind::NotPossible, fmt::format("The group \"{}\" would be empty.", step.name),
                    "Pick what belongs to it.");
    }
    if (step.add && known != model.groups.end()) {
        if (known->rule)
            return fail(ProblemKind::NotPossible,
                        fmt::format("\"{}\" is made by a rule; nothing can be added by hand.", step.name),
                        "Make a group of another name.");
        known->members.insert(members->begin(), members->end());
        members = known->members;
        if (step.colour) known->colour = step.colour;
    } else if (known != model.groups.end()) {
        *known = {step.name, step.purpose, step.colour ? step.colour : known->colour, *members, std::nullopt};
    } else {
        model.groups.push_back({step.name, step.purpose, step.colour, *members, std::nullopt});
    }
    outcome.items.insert(outcome.items.begin(),
                         {fmt::format("\"{}\": {}", step.name, countedMembers(*members)), true, {}, 0.0});
    outcome.summary = fmt::format("Group {} as {}", countedMembers(*members), step.name);
    return outcome;
}

std::vector<ParameterInfo> MakeRule::infos() {
    return {{"name", "text", "", "Of the group.", ""},
            {"purpose", "text", "", "load, support, contact, ...", ""},
            {"rule", "rule", "",
             "What belongs to it: kind, parts, surface, diameter, inward, normal, axis with at, material, towards, "
             "colour, named; all have to hold.",
             Json::object()},
            {"accept", "yes or no", "", "What the rule of that group finds now is what is meant.", false},
            {"keep", "yes or no", "", "What was accepted last stays, and follows the model without the rule.", false}};
}
void to_json(Json& json, const MakeRule& step) {
    json = Json{{"name", step.name}};
    if (step.accept) json["accept"] = true;
    if (step.keep) json["keep"] = true;
    if (step.accept || step.keep) return;
    json["purpose"] = step.purpose;
    json["rule"] = toJson(step.rule);
}
void from_json(const Json& json, MakeRule& step) {
    step.name = json.at("name").get<std::string>();
    step.purpose = json.value("purpose", "");
    step.accept = json.value("accept", false);
    step.keep = json.value("keep", false);
    if (!step.accept && !step.keep) step.rule = ruleFromJson(json.at("rule"));
}

namespace {

/// What a rule finds by now is accepted, or what was accepted is kept and the rule forgotten.
Result<Outcome> settleRule(Outcome outcome, const MakeRule& step) {
    const auto group = std::find_if(outcome.model.groups.begin(), outcome.model.groups.end(),
                                    [&](const Group& one) { return one.name == step.name; });
    if (group == outcome.model.groups.end())
        return fail(ProblemKind::NotPossible, fmt::format("There is no group \"{}\".", step.name));
    if (!group->rule)
        return fail(ProblemKind::NotPossible, fmt::format("\"{}\" has no rule whose answer could change.", step.name));
    const std::size_t fresh = group->fresh().size(), fallen = group->fallen().size();
    if (step.accept) {
        group->accepted = group->members;
        outcome.summary = fmt::format("Accept what the rule of {} finds", step.name);
        outcome.items.push_back({fmt::format("\"{}\": {} more, {} fewer", step.name, fresh, fallen), true, {}, 0.0});
    } else {
        group->members = std::move(group->accepted);
        group->accepted.clear();
        group->rule.reset();
        outcome.summary = fmt::format("Keep {} as it was accepted", step.name);
        outcome.items.push_back({fmt::format("\"{}\": {}", step.name, countedMembers(group->members)), true, {}, 0.0});
    }
    return outcome;
}

}  // namespace

Result<Outcome> makeRule(const Model& received, const MakeRule& step, Progress& progress) {
    if (const auto fine = checkName(step.name); !fine) return tl::unexpected(fine.error());
    if (step.accept && step.keep)
        return fail(ProblemKind::BadInput, "What a rule finds is accepted, or what was accepted is kept; not both.");
    Outcome outcome;
    outcome.model = received;
    outcome.model.giveIds();
    if (step.accept || step.keep) return settleRule(std::move(outcome), step);
    const auto found = membersByRule(outcome.model, step.rule, progress);
    if (!found) return tl::unexpected(found.error());
    Group group{step.name, step.purpose, std::nullopt, *found, step.rule, *found};
    outcome.items.push_back({fmt::format("\"{}\": {}", step.name, countedMembers(group.members)), true, {}, 0.0});
    if (group.members.empty()) outcome.notes.push_back(fmt::format("The rule of \"{}\" finds nothing yet.", step.name));
    outcome.summary = fmt::format("Group {} by rule as {}", countedMembers(group.members), step.name);
    putByName(outcome.model.groups, std::move(group));
    return outcome;
}

std::vector<ParameterInfo> SetAttribute::infos() {
    return {{"attribute", "text", "", "size, thickness, region, material or name.", ""},
            {"value", "any", "mm where it is a length", "Null takes it away.", nullptr},
            {"things", "list of things", "", "Picked bodies, faces, edges and vertices.", Json::array()},
            {"parts", "list of names", "", "All bodies of these; for a thickness, all faces of their sheets.",
             Json::array()},
            {"group", "text", "", "All members of this group.", ""}};
}
void to_json(Json& json, const SetAttribute& step) {
    json = Json{{"attribute", step.attribute}, {"value", step.value}};
    if (!step.things.empty()) json["things"] = step.things;
    if (!step.parts.empty()) json["parts"] = step.parts;
    if (!step.group.empty()) json["group"] = step.group;
}
void from_json(const Json& json, SetAttribute& step) {
    step.attribute = json.at("attribute").get<std::string>();
    step.value = json.contains("value") ? json.at("value") : Json();
    step.things = json.value("things", std::vector<EntityRef>{});
    step.parts = json.value("parts", std::vector<std::string>{});
    step.group = json.value("group", "");
}

Result<Outcome> setAttribute(const Model& received, const SetAttribute& step, Progress&) {
    const bool length = step.attribute == "size" || step.attribute == "thickness";
    if (!length && step.attribute != "region" && step.attribute != "material" && step.attribute != "name")
        return fail(ProblemKind::BadInput, fmt::format("There is no attribute \"{}\".", step.attribute),
                    "Use size, thickness, region, material or name.");
    const bool away = step.value.is_null();
    if (!away && length &&
        (!step.value.is_number() || !(step.value.get<double>() > 0.0) || step.value.get<double>() > 1e9))
        return fail(ProblemKind::BadInput, fmt::format("A {} is a length above zero.", step.attribute));
    if (!away && !length && !step.value.is_string())
        return fail(ProblemKind::BadInput, fmt::format("A {} is a text.", step.attribute));
    std::optional<RegionKind> region;
    if (!away && step.attribute == "region") {
        region = regionKindFromName(step.value.get<std::string>());
        if (!region) return fail(ProblemKind::BadInput, "A region is solid, fluid, porous or void.");
    }
    Outcome outcome;
    outcome.model = received;
    outcome.model.giveIds();
    Model& model = outcome.model;
    if (!away && step.attribute == "material" &&
        findMaterial(model.materials, step.value.get<std::string>()) == nullptr)
        return fail(ProblemKind::NotPossible,
                    fmt::format("The model has no material \"{}\".", step.value.get<std::string>()),
                    "Assign it to a part first, with its density.");
    auto members = membersOf(model, step.things, {}, outcome.items);
    if (!members) return tl::unexpected(members.error());
    if (!step.parts.empty()) {
        const auto named = partsNamed(model, step.parts);
        if (!named) return tl::unexpected(named.error());
        for (const std::size_t p : *named) {
            const Incidence& topology = model.parts[p]->incidence();
            if (step.attribute == "thickness") {
                for (int f = 1; f <= topology.faceCount(); ++f)
                    if (topology.bodyOf(f) < 0)
                        members->insert({model.parts[p]->id, everyPlace, {EntityKind::Face, f}});
            } else {
                for (int b = 1; b <= topology.bodyCount(); ++b)
                    members->insert({model.parts[p]->id, everyPlace, {EntityKind::Body, b}});
            }
        }
    }
    if (!step.group.empty()) {
        const auto group = std::find_if(model.groups.begin(), model.groups.end(),
                                        [&](const Group& one) { return one.name == step.group; });
        if (group == model.groups.end())
            return fail(ProblemKind::NotPossible, fmt::format("There is no group \"{}\".", step.group));
        members->insert(group->members.begin(), group->members.end());
    }
    std::map<std::size_t, std::shared_ptr<Part>> changed;
    std::size_t done = 0;
    for (const Member& member : *members) {
        const auto p = model.partOf(member.part);
        if (!p) continue;
        const bool suits = step.attribute == "thickness" ? member.entity.kind == EntityKind::Face
                           : step.attribute == "region" || step.attribute == "material"
                               ? member.entity.kind == EntityKind::Body
                               : true;
        if (!suits) continue;
        auto& part = changed[*p];
        if (!part) part = model.parts[*p]->copy();
        const auto put = [&](auto& values, auto value) {
            if (away)
                values.erase(member.entity);
            else
                values[member.entity] = value;
        };
        if (step.attribute == "size") put(part->known.sizes, Size{away ? 0.0 : step.value.get<double>()});
        if (step.attribute == "region") put(part->known.regions, region.value_or(RegionKind::Solid));
        if (step.attribute == "material")
            put(part->known.materials, away ? std::string() : step.value.get<std::string>());
        if (step.attribute == "name") put(part->known.names, away ? std::string() : step.value.get<std::string>());
        if (step.attribute == "thickness") {
            Thickness thickness;
            thickness.at = away ? 0.0 : step.value.get<double>();
            thickness.from = skinOf(part->incidence().face(member.entity.number)).centre;
            put(part->known.thickness, thickness);
        }
        ++done;
    }
    if (done == 0) {
        if (!outcome.items.empty()) return tl::unexpected(outcome.items.front().problem);
        return fail(ProblemKind::NotPossible, fmt::format("Nothing that was named can have a {}.", step.attribute),
                    "Name bodies, or for a thickness the faces of sheets.");
    }
    for (auto& [p, part] : changed) model.parts[p] = std::move(part);
    const std::string value = step.value.is_string() ? step.value.get<std::string>()
                              : away                 ? "none"
                                                     : readable(step.value.get<double>()) + " mm";
    outcome.items.insert(outcome.items.begin(), {fmt::format("{}: {}", step.attribute, value), true, {}, 0.0});
    outcome.summary = fmt::format("Set {} to {} on {}", step.attribute, value, counted(done, "thing"));
    return outcome;
}

}  // namespace rasoir::handover
