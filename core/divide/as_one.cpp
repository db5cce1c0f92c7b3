#include "divide/as_one.h"

#include <fmt/format.h>

#include <map>
#include <set>
#include <TopExp.hxx>

#include "common/sets.h"

// Only a mark is set: whether faces may be meshed over the line between them is the next program's business, and
// nothing is lost when the mark is taken away again.

namespace rasoir::divide {
namespace {

/// Which of some faces, or edges, of a part touch: indices of pairs.
std::vector<std::pair<int, int>> touching(const Incidence& topology, EntityKind kind, const std::vector<int>& numbers) {
    std::vector<std::pair<int, int>> pairs;
    std::map<int, int> first;  // by the edge, or the vertex, at which they touch
    for (std::size_t i = 0; i < numbers.size(); ++i) {
        std::vector<int> rim;
        if (kind == EntityKind::Face) {
            const auto edges = topology.edgesOf(numbers[i]);
            rim.assign(edges.begin(), edges.end());
        } else {
            TopoDS_Vertex from, to;
            TopExp::Vertices(topology.edge(numbers[i]), from, to);
            rim = {topology.vertexNumber(from), topology.vertexNumber(to)};
        }
        for (const int one : rim)
            if (const auto [at, fresh] = first.emplace(one, static_cast<int>(i)); !fresh)
                pairs.emplace_back(at->second, static_cast<int>(i));
    }
    return pairs;
}

std::string freeMark(const Model& model) {
    std::set<std::string> taken;
    for (const auto& part : model.parts)
        for (const auto& [thing, name] : part->known.asOne) taken.insert(name);
    int number = 1;
    while (taken.contains(fmt::format("one {}", number))) ++number;
    return fmt::format("one {}", number);
}

}  // namespace

std::vector<ParameterInfo> AsOne::infos() {
    return {{"things", "list of things", "", "Faces of one part, or edges of one part.", Json::array()},
            {"name", "text", "", "Of what they are together; empty: one that is free.", ""},
            {"apart", "yes or no", "", "Take the mark away from them instead.", false}};
}
void to_json(Json& json, const AsOne& step) {
    json = Json{{"things", step.things}};
    if (!step.name.empty()) json["name"] = step.name;
    if (step.apart) json["apart"] = true;
}
void from_json(const Json& json, AsOne& step) {
    step.things = json.at("things").get<std::vector<EntityRef>>();
    step.name = json.value("name", "");
    step.apart = json.value("apart", false);
}

Result<Outcome> meshAsOne(const Model& model, const AsOne& step, Progress&) {
    std::optional<std::size_t> part;
    std::optional<EntityKind> kind;
    std::set<int> chosen;
    for (const EntityRef& thing : step.things) {
        const auto found = findEntity(model, thing);
        if (!found) return tl::unexpected(found.error());
        if (found->entity.kind != EntityKind::Face && found->entity.kind != EntityKind::Edge)
            return fail(ProblemKind::BadInput, "Only faces or edges can be one for the mesh.");
        if ((part && *part != found->part) || (kind && *kind != found->entity.kind))
            return fail(ProblemKind::BadInput, "Only faces of one part, or edges of one part, can be one for the mesh.",
                        "Pick them part by part.");
        part = found->part;
        kind = found->entity.kind;
        chosen.insert(found->entity.number);
    }
    if (!part) return fail(ProblemKind::BadInput, "Nothing is picked that could be one for the mesh.");
    const Part& own = *model.parts[*part];
    Outcome outcome;
    outcome.model = model;
    auto fresh = own.copy();
    if (step.apart) {
        std::size_t gone = 0;
        for (const int number : chosen) gone += fresh->known.asOne.erase({*kind, number});
        if (gone == 0)
            return fail(ProblemKind::NothingToDo, "None of these was one with others for the mesh.", {},
                        {own.name, {}, {}});
        outcome.summary = fmt::format("Mesh {} of {} apart", counted(gone, entityKindName(*kind)), own.name);
    } else {
        // What is one with some of them already stays so.
        std::set<std::string> merged;
        for (const int number : chosen)
            if (const auto mark = own.known.asOne.find({*kind, number}); mark != own.known.asOne.end())
                merged.insert(mark->second);
        for (const auto& [thing, name] : own.known.asOne)
            if (thing.kind == *kind && merged.contains(name)) chosen.insert(thing.number);
        if (chosen.size() < 2) return fail(ProblemKind::BadInput, "One alone is one already.", "Pick two or more.");
        const std::vector<int> numbers(chosen.begin(), chosen.end());
        Sets together(numbers.size());
        for (const auto& [a, b] : touching(own.incidence(), *kind, numbers)) together.join(a, b);
        for (std::size_t i = 1; i < numbers.size(); ++i)
            if (together.root(static_cast<int>(i)) != together.root(0)) {
                const Entity apart{*kind, numbers[i]};
                return fail(ProblemKind::NotPossible,
                            fmt::format("{} {} of \"{}\" does not hang together with the others.",
                                        entityKindName(*kind), numbers[i], own.name),
                            "Pick what lies between them as well, or leave it out.",
                            {own.name, *kind == EntityKind::Face ? std::vector<int>{numbers[i]} : std::vector<int>{},
                             makeRef(own, apart).at});
            }
        const std::string name = !step.name.empty()   ? step.name
                                 : merged.size() == 1 ? *merged.begin()
                                                      : freeMark(model);
        for (const int number : numbers) fresh->known.asOne[{*kind, number}] = name;
        outcome.items.push_back(
            {fmt::format("\"{}\": {} of {}", name, counted(numbers.size(), entityKindName(*kind)), own.name),
             true,
             {},
             0.0});
        outcome.summary = fmt::format("Mesh {} of {} as one", counted(numbers.size(), entityKindName(*kind)), own.name);
    }
    outcome.model.parts[*part] = std::move(fresh);
    return outcome;
}

}  // namespace rasoir::divide
