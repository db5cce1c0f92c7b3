#include "join/regions.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>

#include "model/places.h"

namespace rasoir::join {
namespace {

/// How words in names begin, and what they say.
constexpr std::array<std::pair<const char*, const char*>, 18> words{{{"symmetr", "symmetry"},
                                                                     {"periodic", "periodic"},
                                                                     {"interface", "interface"},
                                                                     {"outlet", "outlet"},
                                                                     {"outflow", "outlet"},
                                                                     {"exhaust", "outlet"},
                                                                     {"auslass", "outlet"},
                                                                     {"inlet", "inlet"},
                                                                     {"inflow", "inlet"},
                                                                     {"intake", "inlet"},
                                                                     {"einlass", "inlet"},
                                                                     {"supply", "inlet"},
                                                                     {"return", "outlet"},
                                                                     {"drain", "outlet"},
                                                                     {"opening", "opening"},
                                                                     {"lid", "opening"},
                                                                     {"wall", "wall"},
                                                                     {"wand", "wall"}}};

std::string lowered(const std::string& name) {
    std::string low = name;
    std::transform(low.begin(), low.end(), low.begin(), [](unsigned char c) { return std::tolower(c); });
    return low;
}

}  // namespace

const std::vector<std::string>& boundaryKinds() {
    static const std::vector<std::string> kinds{"inlet",   "outlet",    "wall",     "symmetry",
                                                "opening", "interface", "periodic", "none"};
    return kinds;
}

std::optional<std::string> boundaryKindOf(const std::string& name, const KindWords& own) {
    // Word by word, by how each begins: a solid is no lid, and a winding no inlet.
    std::string word;
    for (const char c : lowered(name) + " ") {
        if (std::isalpha(static_cast<unsigned char>(c)) != 0) {
            word += c;
            continue;
        }
        for (const auto& [beginning, kind] : own)
            if (!beginning.empty() && word.starts_with(lowered(beginning))) return kind;
        if (word == "in") return "inlet";
        if (word == "out") return "outlet";
        for (const auto& [beginning, kind] : words)
            if (word.starts_with(beginning)) return kind;
        word.clear();
    }
    return std::nullopt;
}

std::vector<ParameterInfo> SetRegion::infos() {
    return {{"parts", "list of names", "", "Names or patterns.", Json::array()},
            {"kind", "text", "", "solid, fluid, porous or void.", "solid"}};
}
void to_json(Json& json, const SetRegion& step) {
    json = Json{{"parts", step.parts}, {"kind", regionKindName(step.kind)}};
}
void from_json(const Json& json, SetRegion& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
    const auto kind = regionKindFromName(json.value("kind", "solid"));
    if (!kind) throw std::invalid_argument("a region is solid, fluid, porous or void");
    step.kind = *kind;
}

Result<Outcome> setRegion(const Model& model, const SetRegion& step, Progress&) {
    if (step.parts.empty())
        return fail(ProblemKind::BadInput, "No part is named.", "Name those whose kind is to change.");
    const auto named = partsNamed(model, step.parts);
    if (!named) return tl::unexpected(named.error());
    Outcome outcome;
    outcome.model = model;
    std::size_t changed = 0;
    for (const std::size_t p : *named) {
        const Part& part = *model.parts[p];
        auto fresh = part.copy();
        for (int b = 1; b <= part.incidence().bodyCount(); ++b) {
            if (step.kind == RegionKind::Solid)
                fresh->known.regions.erase({EntityKind::Body, b});
            else
                fresh->known.regions[{EntityKind::Body, b}] = step.kind;
        }
        if (fresh->known.regions == part.known.regions) continue;
        ++changed;
        outcome.items.push_back({fmt::format("\"{}\" is {}", part.name, regionKindName(step.kind)), true, {}, 0.0});
        outcome.model.parts[p] = std::move(fresh);
    }
    if (changed == 0) return fail(ProblemKind::NothingToDo, "They are of that kind already.");
    outcome.summary = fmt::format("Make {} {}", counted(changed, "part"), regionKindName(step.kind));
    return outcome;
}

std::vector<ParameterInfo> SetBoundary::infos() {
    return {{"name", "text", "", "A group, or a pattern of several; of a new one with `things`.", ""},
            {"kind", "text", "",
             "inlet, outlet, wall, symmetry, opening, interface, periodic or none; empty: as named.", ""},
            {"things", "list of faces", "", "Faces of a new boundary.", Json::array()},
            {"names", "list of names", "", "Groups or patterns, several at once.", Json::array()},
            {"words", "any", "", "{\"word\": \"kind\"}: what names say, besides what is known anyway.", Json::object()},
            {"partner", "text", "", "Of a periodic one: the group on the other side.", ""}};
}
void to_json(Json& json, const SetBoundary& step) {
    json = Json::object();
    if (!step.name.empty()) json["name"] = step.name;
    if (!step.names.empty()) json["names"] = step.names;
    for (const auto& [word, kind] : step.words) json["words"][word] = kind;
    if (!step.kind.empty()) json["kind"] = step.kind;
    if (!step.things.empty()) json["things"] = step.things;
    if (!step.partner.empty()) json["partner"] = step.partner;
}
void from_json(const Json& json, SetBoundary& step) {
    step.name = json.value("name", "");
    step.names = json.value("names", std::vector<std::string>{});
    if (step.name.empty() == step.names.empty()) throw std::invalid_argument("give a name, or several as names");
    step.kind = json.value("kind", "");
    step.things = json.value("things", std::vector<EntityRef>{});
    step.partner = json.value("partner", "");
    const auto& kinds = boundaryKinds();
    if (!step.kind.empty() && std::find(kinds.begin(), kinds.end(), step.kind) == kinds.end())
        throw std::invalid_argument(
            "a boundary is inlet, outlet, wall, symmetry, opening, interface, periodic or none");
    const Json words = json.value("words", Json::object());
    for (const auto& [word, kind] : words.items()) {
        step.words.emplace_back(word, kind.get<std::string>());
        if (std::find(kinds.begin(), kinds.end(), step.words.back().second) == kinds.end())
            throw std::invalid_argument("\"" + step.words.back().second + "\" is no kind of boundary");
    }
}

Result<Outcome> setBoundary(const Model& model, const SetBoundary& step, Progress&) {
    Outcome outcome;
    outcome.model = model;
    outcome.model.giveIds();
    std::vector<Group>& groups = outcome.model.groups;
    if (!step.things.empty()) {
        if (step.name.empty()) return fail(ProblemKind::BadInput, "A boundary needs a name.");
        Group group{step.name, {}, std::nullopt, {}, std::nullopt};
        for (const EntityRef& thing : step.things) {
            const auto found = findEntity(outcome.model, thing);
            if (!found) return tl::unexpected(found.error());
            group.members.insert({outcome.model.parts[found->part]->id, everyPlace, found->entity});
        }
        putByName(groups, std::move(group));
    }
    std::size_t changed = 0;
    for (Group& group : groups) {
        const std::vector<std::string> wanted = step.names.empty() ? std::vector{step.name} : step.names;
        if (std::none_of(wanted.begin(), wanted.end(), [&group](const std::string& name) {
                return group.name == name || fitsPattern(group.name, name);
            }))
            continue;
        const auto kind = step.kind.empty() ? boundaryKindOf(group.name, step.words) : std::optional(step.kind);
        if (!kind) {
            outcome.items.push_back(
                {fmt::format("\"{}\"", group.name),
                 false,
                 {ProblemKind::NotPossible,
                  fmt::format("The name \"{}\" does not say what kind of boundary it is.", group.name),
                  {},
                  "Give the kind."},
                 0.0});
            continue;
        }
        group.purpose = *kind == "none" ? "" : *kind;
        outcome.items.push_back({fmt::format("\"{}\" is {}", group.name, *kind), true, {}, 0.0});
        ++changed;
    }
    if (changed == 0) {
        for (const Item& item : outcome.items) return tl::unexpected(item.problem);
        return fail(ProblemKind::NotPossible,
                    step.names.empty() ? fmt::format("No group fits the name \"{}\".", step.name)
                                       : "No group fits these names.",
                    "Make it first, or pick its faces.");
    }
    if (step.kind == "periodic") {
        const auto isThere = [&](const std::string& name) {
            return std::any_of(groups.begin(), groups.end(), [&](const Group& one) { return one.name == name; });
        };
        if (step.partner == step.name || !isThere(step.name) || !isThere(step.partner))
            return fail(ProblemKind::BadInput, "A periodic boundary is a pair of two groups.", "Name its partner.");
        for (Group& group : groups)
            if (group.name == step.partner) group.purpose = "periodic";
        Pairing pair;
        pair.name = fmt::format("{} to {}", step.name, step.partner);
        pair.kind = PairingKind::Link;
        pair.first = step.name;
        pair.second = step.partner;
        pair.behaviour = "periodic";
        putByName(outcome.model.pairings, std::move(pair));
    }
    outcome.summary = changed == 1 && !step.name.empty()
                          ? fmt::format("Set the boundary {}", step.name)
                          : fmt::format("Set {}", counted(changed, "boundary", "boundaries"));
    return outcome;
}

}  // namespace rasoir::join
