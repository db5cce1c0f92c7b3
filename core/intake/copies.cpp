#include "intake/copies.h"

#include <fmt/format.h>

#include <BRep_Builder.hxx>
#include <numeric>
#include <TopoDS_Compound.hxx>
#include <TopoDS_Iterator.hxx>

#include "intake/mirrors.h"
#include "model/lineage_builder.h"
#include "model/places.h"
#include "survey/copies.h"

namespace rasoir::intake {
std::vector<ParameterInfo> MakeCopies::infos() {
    return {{"parts", "list of names", "", "Parts to compare, names or patterns; empty: all.", Json::array()},
            {"tolerance", "number", "mm", "How far matching points may lie apart; 0: judged from the size.", 0.0}};
}
void to_json(Json& json, const MakeCopies& step) {
    json = Json{{"parts", step.parts}, {"tolerance", step.tolerance}};
}
void from_json(const Json& json, MakeCopies& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
    step.tolerance = json.value("tolerance", 0.0);
}

Result<Outcome> makeCopies(const Model& model, const MakeCopies& step, Progress& progress) {
    if (!(step.tolerance >= 0.0) || !std::isfinite(step.tolerance))
        return fail(ProblemKind::BadInput, "The tolerance must not be negative.");
    const auto chosen = partsNamed(model, step.parts);
    if (!chosen) return tl::unexpected(chosen.error());
    const auto groups = survey::findCopies(model, step.tolerance, progress);
    if (!groups) return tl::unexpected(groups.error());
    const auto wanted = [&](std::size_t part) {
        return step.parts.empty() || std::binary_search(chosen->begin(), chosen->end(), part);
    };
    Outcome outcome;
    outcome.model = model;
    std::size_t made = 0;
    for (const survey::CopyGroup& group : *groups) {
        if (!wanted(group.original)) continue;
        const Part& original = *model.parts[group.original];
        const survey::Copy* image = nullptr;  // the first mirrored one stays a part; further ones become its places
        for (const survey::Copy& copy : group.copies) {
            if (!wanted(copy.part)) continue;
            const Part& part = *model.parts[copy.part];
            if (model.mirrorPairOf(copy.part) != nullptr) {
                if (copy.mirrored) image = &copy;
                continue;
            }
            Item item{part.name, false, {}, 0.0};
            if (part.material != original.material) {
                item.problem = {ProblemKind::NotPossible,
                                fmt::format("\"{}\" has the shape of \"{}\" but is made of something else.", part.name,
                                            original.name),
                                {part.name, {}, {}},
                                "Give both the same material."};
                outcome.items.push_back(std::move(item));
                continue;
            }
            item.done = true;
            outcome.items.push_back(std::move(item));
            ++made;
            if (copy.mirrored && image == nullptr) {
                pairMirrored(outcome.model, group.original, copy.part, copy.from);
                image = &copy;
                continue;
            }
            const std::size_t same = copy.mirrored ? image->part : group.original;
            const gp_Trsf from = copy.mirrored ? copy.from * image->from.Inverted() : copy.from;
            outcome.model.occurrences.changeWhere([&copy](const Occurrence& place) { return place.part == copy.part; },
                                                  [&](Occurrence& place) {
                                                      place.part = same;
                                                      place.placement = place.placement * from;
                                                      if (!place.colour && part.colour != model.parts[same]->colour)
                                                          place.colour = part.colour;
                                                  });
        }
    }
    if (made == 0) {
        if (!outcome.items.empty()) return tl::unexpected(outcome.items.front().problem);
        return fail(ProblemKind::NotPossible, "No two of the parts are the same shape.",
                    "Raise the tolerance, if they should be.");
    }
    outcome.model.dropUnusedParts();
    outcome.summary = fmt::format("Make {} of the same shape copies", counted(made, "part"));
    return outcome;
}

std::vector<ParameterInfo> MakeIndependent::infos() {
    return {{"places", "list of names", "", "Single places, as \"bolt #3\".", Json::array()}};
}
void to_json(Json& json, const MakeIndependent& step) {
    json = Json{{"places", step.places}};
}
void from_json(const Json& json, MakeIndependent& step) {
    step.places = json.at("places").get<std::vector<std::string>>();
}

Result<Outcome> makeIndependent(const Model& model, const MakeIndependent& step, Progress&) {
    const auto places = placesNamed(model, step.places);
    if (!places) return tl::unexpected(places.error());
    if (places->empty())
        return fail(ProblemKind::BadInput, "No places were named.", "Name the places that shall be independent.");
    std::map<std::size_t, std::vector<std::size_t>> byPart;
    for (const std::size_t o : *places) byPart[model.occurrences[o].part].push_back(o);
    Outcome outcome;
    outcome.model = model;
    for (const auto& [part, own] : byPart) {
        const auto all = std::count_if(model.occurrences.begin(), model.occurrences.end(),
                                       [part = part](const Occurrence& o) { return o.part == part; });
        if (static_cast<std::size_t>(all) == own.size() && model.mirrorPairOf(part) != nullptr) {
            std::erase_if(outcome.model.mirrors, [part = part](const MirrorPair& pair) {
                return pair.original == part || pair.image == part;
            });
            outcome.items.push_back({model.parts[part]->name, true, {}, 0.0});
            continue;
        }
        if (static_cast<std::size_t>(all) == own.size())
            return fail(ProblemKind::NotPossible,
                        fmt::format("\"{}\" has no other places: it is independent.", model.parts[part]->name), {},
                        {model.parts[part]->name, {}, {}});
        auto twin = model.parts[part]->copy();
        twin->name = freeName(outcome.model, model.parts[part]->name);
        twin->id = 0;
        const std::size_t index = outcome.model.parts.size();
        PartLineage same;
        same.part = part;
        same.into = index;
        same.untouched = true;
        outcome.lineage.push_back(std::move(same));
        outcome.items.push_back({twin->name, true, {}, 0.0});
        outcome.model.parts.push_back(std::move(twin));
        for (const std::size_t o : own) outcome.model.occurrences.change(o).part = index;
    }
    outcome.summary = places->size() == 1 ? fmt::format("Make {} independent", placeName(model, places->front()))
                                          : fmt::format("Make {} independent", counted(places->size(), "place"));
    return outcome;
}

std::vector<ParameterInfo> JoinParts::infos() {
    return {{"places", "list of names", "", "Parts or places; empty: everything that is not set aside.", Json::array()},
            {"name", "text", "", "Of the joined part; empty: the first one's.", ""}};
}
void to_json(Json& json, const JoinParts& step) {
    json = Json{{"places", step.places}, {"name", step.name}};
}
void from_json(const Json& json, JoinParts& step) {
    step.places = json.value("places", std::vector<std::string>{});
    step.name = json.value("name", "");
}

Result<Outcome> joinParts(const Model& model, const JoinParts& step, Progress&) {
    const auto named = placesNamed(model, step.places);
    if (!named) return tl::unexpected(named.error());
    std::vector<std::size_t> places = *named;
    if (step.places.empty())
        for (std::size_t o = 0; o < model.occurrences.size(); ++o)
            if (!model.occurrences[o].aside) places.push_back(o);
    if (places.size() < 2)
        return fail(ProblemKind::NotPossible, "Joining takes at least two places.", "Name more of them.");
    const Part& first = *model.parts[model.occurrences[places.front()].part];
    TopoDS_Compound all;
    const BRep_Builder builder;
    builder.MakeCompound(all);
    for (const std::size_t o : places) {
        const Part& part = *model.parts[model.occurrences[o].part];
        if (part.material != first.material || part.lump)
            return fail(ProblemKind::NotPossible,
                        part.lump
                            ? fmt::format("\"{}\" is a lump without a shape.", part.name)
                            : fmt::format("\"{}\" and \"{}\" are made of different materials.", first.name, part.name),
                        "Join parts of one material.", {part.name, {}, {}});
        // Bodies, not bags of bodies: what is read back from a file is the same.
        const TopoDS_Shape here = part.shape.Moved(TopLoc_Location(model.occurrences[o].placement));
        const std::function<void(const TopoDS_Shape&)> add = [&](const TopoDS_Shape& shape) {
            if (shape.ShapeType() != TopAbs_COMPOUND)
                builder.Add(all, shape);
            else
                for (TopoDS_Iterator it(shape); it.More(); it.Next()) add(it.Value());
        };
        if (!here.IsNull()) add(here);
    }
    auto joined = std::make_shared<Part>("", all);
    joined->colour = first.colour;
    joined->material = first.material;
    std::vector<PartLineage> lineage;
    for (const std::size_t o : places) {
        const Occurrence& place = model.occurrences[o];
        const Part& part = *model.parts[place.part];
        lineage.push_back(LineageBuilder(part.incidence(), all, place.placement).finish());
        lineage.back().part = place.part;
        joined->inherit(part, lineage.back(), place.placement);
        // What was the colour of a whole becomes that of its faces, where the joined part has another.
        const std::optional<Colour> whole = place.colour ? place.colour : part.colour;
        if (!whole || whole == joined->colour) continue;
        for (const Link& link : lineage.back().faces())
            joined->known.colours.try_emplace({EntityKind::Face, link.after}, *whole);
    }
    Outcome outcome;
    outcome.model = model;
    const std::string firstName = first.name;
    SharedVector<Occurrence> left;
    for (std::size_t o = 0; o < model.occurrences.size(); ++o)
        if (std::find(places.begin(), places.end(), o) == places.end()) left.share(model.occurrences, o);
    outcome.model.occurrences = std::move(left);
    outcome.model.dropUnusedParts();
    joined->name = freeName(outcome.model, step.name.empty() ? firstName : step.name);
    const std::string name = joined->name;
    for (PartLineage& own : lineage) own.into = outcome.model.parts.size();
    outcome.lineage = std::move(lineage);
    outcome.model.occurrences.push_back({outcome.model.parts.size(), gp_Trsf(), name, {}, std::nullopt});
    outcome.model.parts.push_back(std::move(joined));
    outcome.summary = fmt::format("Join {} into {}", counted(places.size(), "place"), name);
    return outcome;
}

}  // namespace rasoir::intake
