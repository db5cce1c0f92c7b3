#include "intake/naming.h"

#include <fmt/format.h>

#include <numeric>
#include <regex>

#include "model/places.h"

namespace rasoir::intake {
namespace {

std::vector<std::size_t> allParts(const Model& model) {
    std::vector<std::size_t> all(model.parts.size());
    std::iota(all.begin(), all.end(), std::size_t{0});
    return all;
}

Result<std::vector<std::size_t>> partsOrAll(const Model& model, const std::vector<std::string>& names) {
    return names.empty() ? Result<std::vector<std::size_t>>(allParts(model)) : partsNamed(model, names);
}

std::string replacedAll(std::string text, const std::string& from, const std::string& to) {
    for (std::size_t at = text.find(from); at != std::string::npos; at = text.find(from, at + to.size()))
        text.replace(at, from.size(), to);
    return text;
}

}  // namespace

std::vector<ParameterInfo> Rename::infos() {
    return {
        {"parts", "list of names", "", "Parts to rename, names or patterns with * and ?; empty: all.", Json::array()},
        {"to", "text", "", "New name; # stands for a running number, * for the old name.", ""},
        {"find", "text", "", "Text to be replaced in each name; between slashes it is a regular expression.", ""},
        {"replace", "text", "", "What takes its place.", ""}};
}
void to_json(Json& json, const Rename& step) {
    json = Json{{"parts", step.parts}};
    if (!step.to.empty()) json["to"] = step.to;
    if (!step.find.empty()) {
        json["find"] = step.find;
        json["replace"] = step.replace;
    }
}
void from_json(const Json& json, Rename& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
    step.to = json.value("to", "");
    step.find = json.value("find", "");
    step.replace = json.value("replace", "");
}

Result<std::vector<std::pair<std::size_t, std::string>>> renamed(const Model& model, const Rename& step) {
    if (step.to.empty() == step.find.empty())
        return fail(ProblemKind::BadInput, "A renaming needs either a new name or a text to find.",
                    "Give one of the two.");
    const auto chosen = partsOrAll(model, step.parts);
    if (!chosen) return tl::unexpected(chosen.error());
    std::optional<std::regex> expression;
    if (step.find.size() > 2 && step.find.front() == '/' && step.find.back() == '/') {
        try {
            expression.emplace(step.find.substr(1, step.find.size() - 2));
        } catch (const std::regex_error&) {
            return fail(ProblemKind::BadInput, fmt::format("\"{}\" is not an expression that can be read.", step.find),
                        "Leave the slashes away to find it as it is.");
        }
    }
    std::vector<std::pair<std::size_t, std::string>> changes;
    int running = 0;
    for (const std::size_t p : *chosen) {
        const std::string& old = model.parts[p]->name;
        std::string name = old;
        if (!step.to.empty()) {
            ++running;
            std::string mold = step.to;
            if (chosen->size() > 1 && mold.find_first_of("#*") == std::string::npos)
                mold += " #";  // one name for many: they are numbered
            name.clear();
            for (const char c : mold) name += c == '#' ? std::to_string(running) : c == '*' ? old : std::string(1, c);
        } else if (expression) {
            name = std::regex_replace(old, *expression, step.replace);
        } else {
            name = replacedAll(old, step.find, step.replace);
        }
        const auto first = name.find_first_not_of(" \t\r\n"), last = name.find_last_not_of(" \t\r\n");
        name = first == std::string::npos ? "" : name.substr(first, last - first + 1);
        if (name.empty())
            return fail(ProblemKind::NotPossible, fmt::format("\"{}\" would be left without a name.", old),
                        "Change the pattern.", {old, {}, {}});
        if (name != old) changes.emplace_back(p, name);
    }
    std::map<std::string, int> bearers;
    std::map<std::size_t, std::string> newNames(changes.begin(), changes.end());
    for (std::size_t p = 0; p < model.parts.size(); ++p)
        ++bearers[newNames.contains(p) ? newNames[p] : model.parts[p]->name];
    for (const auto& [p, name] : changes)
        if (bearers[name] > 1)
            return fail(ProblemKind::NotPossible, fmt::format("Two parts would be named \"{}\".", name),
                        "Put # into the new name to number them.", {model.parts[p]->name, {}, {}});
    return changes;
}

Result<Outcome> rename(const Model& model, const Rename& step, Progress&) {
    const auto changes = renamed(model, step);
    if (!changes) return tl::unexpected(changes.error());
    if (changes->empty()) return fail(ProblemKind::NotPossible, "No name would change.", "Look at the text to find.");
    Outcome outcome;
    outcome.model = model;
    for (const auto& [p, name] : *changes) {
        const std::string old = model.parts[p]->name;
        auto part = model.parts[p]->copy();
        part->name = name;
        outcome.model.occurrences.changeWhere(
            [&, p = p](const Occurrence& place) { return place.part == p && place.name == old; },
            [&name = name](Occurrence& place) { place.name = name; });
        outcome.model.parts[p] = std::move(part);
        outcome.items.push_back({old + " is now " + name, true, {}, 0.0});
    }
    outcome.summary = changes->size() == 1 ? fmt::format("Rename to {}", changes->front().second)
                                           : fmt::format("Rename {}", counted(changes->size(), "part"));
    return outcome;
}

std::vector<ParameterInfo> Regroup::infos() {
    return {
        {"places", "list of names", "", "Parts, or single places of them as \"bolt #3\".", Json::array()},
        {"group", "list of names", "", "Names of the assemblies above, outermost first; empty: none.", Json::array()}};
}
void to_json(Json& json, const Regroup& step) {
    json = Json{{"places", step.places}, {"group", step.group}};
}
void from_json(const Json& json, Regroup& step) {
    step.places = json.at("places").get<std::vector<std::string>>();
    step.group = json.value("group", std::vector<std::string>{});
}

Result<Outcome> regroup(const Model& model, const Regroup& step, Progress&) {
    const auto places = placesNamed(model, step.places);
    if (!places) return tl::unexpected(places.error());
    if (places->empty()) return fail(ProblemKind::BadInput, "No parts were named.", "Name the parts to group.");
    for (const std::string& name : step.group)
        if (name.empty()) return fail(ProblemKind::BadInput, "A group needs a name.");
    Outcome outcome;
    outcome.model = model;
    for (const std::size_t o : *places) outcome.model.occurrences.change(o).path = step.group;
    outcome.summary = step.group.empty()
                          ? fmt::format("Take {} out of their groups", counted(places->size(), "place"))
                          : fmt::format("Group {} under {}", counted(places->size(), "place"), step.group.back());
    return outcome;
}

std::vector<ParameterInfo> Reorder::infos() {
    return {{"parts", "list of names", "", "Parts to move, names or patterns.", Json::array()},
            {"before", "text", "", "In front of this part; empty: to the end.", ""}};
}
void to_json(Json& json, const Reorder& step) {
    json = Json{{"parts", step.parts}, {"before", step.before}};
}
void from_json(const Json& json, Reorder& step) {
    step.parts = json.at("parts").get<std::vector<std::string>>();
    step.before = json.value("before", "");
}

Result<Outcome> reorder(const Model& model, const Reorder& step, Progress&) {
    std::vector<std::size_t> moved;
    for (const std::string& name : step.parts) {
        const auto found = partsNamed(model, {name});
        if (!found) return tl::unexpected(found.error());
        for (const std::size_t p : *found)
            if (std::find(moved.begin(), moved.end(), p) == moved.end()) moved.push_back(p);
    }
    if (moved.empty()) return fail(ProblemKind::BadInput, "No parts were named.", "Name the parts to move.");
    std::size_t before = model.parts.size();
    if (!step.before.empty()) {
        const auto found = partsNamed(model, {step.before});
        if (!found) return tl::unexpected(found.error());
        before = found->front();
        if (std::find(moved.begin(), moved.end(), before) != moved.end())
            return fail(ProblemKind::BadInput, "A part cannot be put in front of itself.", "Choose another part.",
                        {step.before, {}, {}});
    }
    std::vector<std::size_t> order;
    for (std::size_t p = 0; p <= model.parts.size(); ++p) {
        if (p == before) order.insert(order.end(), moved.begin(), moved.end());
        if (p < model.parts.size() && std::find(moved.begin(), moved.end(), p) == moved.end()) order.push_back(p);
    }
    Outcome outcome;
    outcome.model = model;
    outcome.model.reorderParts(order);
    outcome.model.occurrences.stableSort([](const Occurrence& a, const Occurrence& b) { return a.part < b.part; });
    outcome.summary = fmt::format("Reorder {}", counted(moved.size(), "part"));
    return outcome;
}

std::vector<ParameterInfo> AssignMaterial::infos() {
    return {{"parts", "list of names", "", "Parts, names or patterns; empty: all.", Json::array()},
            {"material", "text", "", "Its name.", ""},
            {"density", "number", "kg/m³", "0: that of the standard material of this name.", 0.0},
            {"youngsModulus", "number", "MPa", "Stiffness; 0: not known.", 0.0},
            {"poissonsRatio", "number", "", "How much it narrows when pulled, -1 to 0.5.", 0.3}};
}
void to_json(Json& json, const AssignMaterial& step) {
    json = Json{{"parts", step.parts},
                {"material", step.material.name},
                {"density", step.material.density},
                {"youngsModulus", step.material.youngsModulus},
                {"poissonsRatio", step.material.poissonsRatio}};
}
void from_json(const Json& json, AssignMaterial& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
    step.material.name = json.at("material").get<std::string>();
    step.material.density = json.value("density", 0.0);
    step.material.youngsModulus = json.value("youngsModulus", 0.0);
    step.material.poissonsRatio = json.value("poissonsRatio", 0.3);
}

Result<Outcome> assignMaterial(const Model& model, const AssignMaterial& step, Progress&) {
    Material material = step.material;
    if (material.density == 0.0) {
        const Material* known = findMaterial(standardMaterials(), material.name);
        if (known == nullptr)
            return fail(
                ProblemKind::BadInput,
                fmt::format("\"{}\" is none of the standard materials, and no density was given.", material.name),
                "Give its density in kg/m³.");
        material = *known;
    }
    if (auto sound = checkMaterial(material); !sound) return tl::unexpected(sound.error());
    const auto chosen = partsOrAll(model, step.parts);
    if (!chosen) return tl::unexpected(chosen.error());
    Outcome outcome;
    outcome.model = model;
    for (const std::size_t p : *chosen) {
        auto part = model.parts[p]->copy();
        part->material = material.name;
        outcome.model.parts[p] = std::move(part);
    }
    // The list holds what the parts are made of, no more.
    std::vector<Material> used;
    for (const Material& known : model.materials)
        if (known.name != material.name && std::any_of(outcome.model.parts.begin(), outcome.model.parts.end(),
                                                       [&](const auto& part) { return part->material == known.name; }))
            used.push_back(known);
    used.push_back(material);
    outcome.model.materials = std::move(used);
    outcome.summary = chosen->size() == model.parts.size() ? fmt::format("All parts of {}", material.name)
                      : chosen->size() == 1 ? fmt::format("{} of {}", model.parts[chosen->front()]->name, material.name)
                                            : fmt::format("{} of {}", counted(chosen->size(), "part"), material.name);
    return outcome;
}

}  // namespace rasoir::intake
