#include "divide/combine.h"

#include <fmt/format.h>

#include <BRepBuilderAPI_Transform.hxx>
#include <numeric>

#include "arrange/choice.h"
#include "geometry/integrals.h"
#include "mend/merge.h"
#include "model/places.h"

namespace rasoir::divide {
namespace {

Result<std::vector<std::size_t>> atLeastTwo(const Model& model, const std::vector<std::string>& names,
                                            const char* doing) {
    const auto places = placesNamed(model, names);
    if (!places) return tl::unexpected(places.error());
    if (places->size() < 2)
        return fail(ProblemKind::NotPossible, fmt::format("{} takes at least two bodies.", doing),
                    "Name more of them.");
    return *places;
}

/// The first named first: it gives name, material and coordinates. Names may fit in any order of the model.
std::vector<std::size_t> inNamedOrder(const Model& model, const std::vector<std::string>& names) {
    std::vector<std::size_t> ordered;
    for (const std::string& name : names) {
        const auto found = placesNamed(model, {name});
        if (!found) continue;
        for (const std::size_t o : *found)
            if (std::find(ordered.begin(), ordered.end(), o) == ordered.end()) ordered.push_back(o);
    }
    return ordered;
}

/// Puts a part in the place of others; the lineage says what came from which.
void replacePlaces(const Model& model, Outcome& outcome, std::shared_ptr<Part> made, Occurrence place,
                   const std::vector<std::size_t>& gone, std::vector<PartLineage> lineage) {
    Model& now = outcome.model;
    const std::size_t index = now.parts.size();
    place.part = index;
    place.id = 0;
    now.parts.push_back(std::move(made));
    SharedVector<Occurrence> left;
    bool put = false;
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        if (std::find(gone.begin(), gone.end(), o) == gone.end()) {
            left.share(model.occurrences, o);
        } else if (!put) {
            left.push_back(place);
            put = true;
        }
    }
    if (!put) left.push_back(place);
    now.occurrences = std::move(left);
    std::vector<bool> used(now.parts.size(), false);
    for (const Occurrence& one : now.occurrences) used[one.part] = true;
    const auto after =
        static_cast<std::size_t>(std::count(used.begin(), used.begin() + static_cast<std::ptrdiff_t>(index), true));
    for (PartLineage& own : lineage) own.into = after;
    outcome.lineage.insert(outcome.lineage.end(), std::make_move_iterator(lineage.begin()),
                           std::make_move_iterator(lineage.end()));
    now.dropUnusedParts();
}

}  // namespace

Result<std::vector<arrange::Input>> inputsOf(const Model& model, const std::vector<std::size_t>& places,
                                             const gp_Trsf& into) {
    std::vector<arrange::Input> inputs;
    for (const std::size_t o : places) {
        const Part& part = *model.parts[model.occurrences[o].part];
        if (part.lump || part.kind() != BodyKind::Solid)
            return fail(ProblemKind::NotPossible, fmt::format("\"{}\" is not a solid.", part.name),
                        part.lump ? "A lump has no shape." : "Close it in Mend first.", {part.name, {}, {}});
        const gp_Trsf move = into * model.occurrences[o].placement;
        inputs.push_back(
            {move.Form() == gp_Identity ? part.shape : part.shape.Moved(TopLoc_Location(move)), placeName(model, o)});
    }
    return inputs;
}

// --- unite

std::vector<ParameterInfo> Unite::infos() {
    return {{"places", "list of names", "", "Parts or places to unite, the leading one first.", Json::array()},
            {"name", "text", "", "Of the result; empty: the first one's.", ""},
            {"merge", "yes or no", "", "Faces that now run on to each other become one.", true}};
}
void to_json(Json& json, const Unite& step) {
    json = Json{{"places", step.places}};
    if (!step.name.empty()) json["name"] = step.name;
    if (!step.merge) json["merge"] = false;
}
void from_json(const Json& json, Unite& step) {
    step.places = json.at("places").get<std::vector<std::string>>();
    step.name = json.value("name", "");
    step.merge = json.value("merge", true);
}

Result<Outcome> unite(const Model& model, const Unite& step, Progress& progress) {
    if (const auto enough = atLeastTwo(model, step.places, "Uniting"); !enough) return tl::unexpected(enough.error());
    const auto places = inNamedOrder(model, step.places);
    const Occurrence& first = model.occurrences[places.front()];
    const Part& lead = *model.parts[first.part];
    for (const std::size_t o : places)
        if (const Part& part = *model.parts[model.occurrences[o].part]; part.material != lead.material)
            return fail(ProblemKind::NotPossible,
                        fmt::format("\"{}\" and \"{}\" are made of different materials.", lead.name, part.name),
                        "Give both the same material, or join them instead.", {part.name, {}, {}});
    const double tolerance = model.samePoint();
    const gp_Trsf into = first.placement.Inverted();
    auto inputs = inputsOf(model, places, into);
    if (!inputs) return tl::unexpected(inputs.error());
    const auto all = arrange::arrange(std::move(*inputs), tolerance, progress);
    if (!all) return tl::unexpected(all.error());
    std::vector<int> cells;
    for (std::size_t c = 0; c < all->cells.size(); ++c)
        if (!all->cells[c].inputs.empty()) cells.push_back(static_cast<int>(c));
    auto chosen = arrange::solidsOf(*all, cells);
    if (!chosen) return tl::unexpected(chosen.error());
    std::size_t before = 0;
    for (const std::size_t o : places)
        before += static_cast<std::size_t>(model.parts[model.occurrences[o].part]->incidence().solidCount());
    if (static_cast<std::size_t>(chosen->solids) > before + 1 - places.size())
        return fail(ProblemKind::NotPossible, "The bodies do not all touch in a face: they would not be one.",
                    "Leave out what stands apart, or close the gap with Join.", {lead.name, {}, {}});
    std::vector<PartLineage> lineage;
    for (std::size_t i = 0; i < places.size(); ++i) {
        const auto own = chosen->lineage.find(static_cast<int>(i));
        if (own == chosen->lineage.end()) continue;
        lineage.push_back(own->second);
        lineage.back().part = model.occurrences[places[i]].part;
    }
    TopoDS_Shape shape = chosen->shape;
    if (step.merge) {
        auto merged = mend::mergeNeedless(shape, tolerance, progress);
        if (!merged) return tl::unexpected(merged.error());
        if (!merged->shape.IsNull()) {
            // A sum that does not change is the proof that nothing else did.
            if (std::abs(volumeOf(merged->shape) - chosen->volume) <= 1e-5 * chosen->volume) {
                shape = merged->shape;
                for (PartLineage& own : lineage) {
                    const std::size_t part = own.part;
                    own = chained(own, merged->lineage);
                    own.part = part;
                }
            }
        }
    }
    Outcome outcome;
    outcome.model = model;
    auto made = lead.copy();
    made->id = 0;
    made->name = step.name.empty() ? lead.name : step.name;
    made->setShape(shape);
    made->known = {};
    made->meantOpen.clear();
    made->sharpened.clear();
    made->standsFor = nullptr;
    for (std::size_t i = 0; i < lineage.size(); ++i)
        made->inherit(*model.parts[lineage[i].part], lineage[i], into * model.occurrences[places[i]].placement);
    const std::string name = made->name;
    replacePlaces(model, outcome, std::move(made), first, places, std::move(lineage));
    outcome.items.push_back({fmt::format("{} united into \"{}\", {} mm³", counted(places.size(), "body", "bodies"),
                                         name, readable(chosen->volume)),
                             true,
                             {},
                             0.0});
    outcome.summary = fmt::format("Unite {} into {}", counted(places.size(), "body", "bodies"), name);
    return outcome;
}

// --- subtract

std::vector<ParameterInfo> Subtract::infos() {
    return {{"from", "list of names", "", "Parts or places that lose material.", Json::array()},
            {"tools", "list of names", "", "Parts or places that are taken out of them.", Json::array()},
            {"keepTools", "yes or no", "", "The tools stay.", false}};
}
void to_json(Json& json, const Subtract& step) {
    json = Json{{"from", step.from}, {"tools", step.tools}, {"keepTools", step.keepTools}};
}
void from_json(const Json& json, Subtract& step) {
    step.from = json.at("from").get<std::vector<std::string>>();
    step.tools = json.at("tools").get<std::vector<std::string>>();
    step.keepTools = json.value("keepTools", false);
}

Result<Outcome> subtract(const Model& model, const Subtract& step, Progress& progress) {
    const auto from = placesNamed(model, step.from), tools = placesNamed(model, step.tools);
    if (!from) return tl::unexpected(from.error());
    if (!tools) return tl::unexpected(tools.error());
    if (from->empty() || tools->empty())
        return fail(ProblemKind::BadInput, "Subtracting takes a body and a tool.", "Name both.");
    for (const std::size_t o : *from)
        if (std::find(tools->begin(), tools->end(), o) != tools->end())
            return fail(ProblemKind::BadInput,
                        fmt::format("\"{}\" cannot be taken out of itself.", placeName(model, o)));
    Outcome outcome;
    outcome.model = model;
    const double tolerance = model.samePoint();
    std::size_t done = 0;
    std::map<std::size_t, std::size_t> partNow;  // of a place
    for (const std::size_t o : *from) {
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        std::vector<std::size_t> places{o};
        places.insert(places.end(), tools->begin(), tools->end());
        auto inputs = inputsOf(model, places, model.occurrences[o].placement.Inverted());
        if (!inputs) return tl::unexpected(inputs.error());
        const auto all = arrange::arrange(std::move(*inputs), tolerance, progress);
        if (!all) return tl::unexpected(all.error());
        std::vector<int> cells;
        bool met = false;
        for (const int c : arrange::cellsIn(*all, 0)) {
            if (all->cells[c].inputs.size() == 1)
                cells.push_back(c);
            else
                met = true;
        }
        const std::size_t p = model.occurrences[o].part;
        const Part& part = *model.parts[p];
        Item item{placeName(model, o), met, {}, 0.0};
        if (!met || cells.empty()) {
            item.done = false;
            item.problem = {ProblemKind::NotPossible,
                            met ? fmt::format("Nothing would be left of \"{}\".", part.name)
                                : fmt::format("The tools do not reach into \"{}\".", part.name),
                            {part.name, {}, {}},
                            met ? "Set it aside instead." : "Move them, or leave the part out."};
            outcome.items.push_back(std::move(item));
            continue;
        }
        auto chosen = arrange::solidsOf(*all, cells);
        if (!chosen) return tl::unexpected(chosen.error());
        auto fresh = part.copy();
        fresh->setShape(chosen->shape);
        fresh->known = {};
        fresh->meantOpen.clear();
        fresh->sharpened.clear();
        PartLineage lineage = chosen->lineage.at(0);
        fresh->inherit(part, lineage, gp_Trsf());
        lineage.part = p;
        // All places of the part are asked for, and the first one speaks for those that the tools meet alike.
        const auto others = std::count_if(model.occurrences.begin(), model.occurrences.end(),
                                          [p](const Occurrence& one) { return one.part == p; });
        if (others == 1) {
            outcome.model.parts[p] = std::move(fresh);
        } else {
            fresh->id = 0;
            fresh->name = freeName(outcome.model, part.name);
            lineage.into = outcome.model.parts.size();
            outcome.model.occurrences.change(o).part = lineage.into;
            outcome.model.parts.push_back(std::move(fresh));
        }
        const std::size_t into = others == 1 ? p : lineage.into;
        outcome.lineage.push_back(std::move(lineage));
        // The skin of a tool lives on, turned over, as the wall that it left: groups of it follow. Its bodies do not.
        for (std::size_t t = 0; t < tools->size(); ++t)
            if (const auto own = chosen->lineage.find(static_cast<int>(t) + 1); own != chosen->lineage.end()) {
                own->second.of(EntityKind::Body).clear();
                own->second.part = model.occurrences[(*tools)[t]].part;
                own->second.into = into;
                outcome.lineage.push_back(std::move(own->second));
            }
        item.what = fmt::format("\"{}\" has {} mm³ less", part.name, readable(volumeOf(part.shape) - chosen->volume));
        outcome.items.push_back(std::move(item));
        ++done;
    }
    if (done == 0) return tl::unexpected(outcome.items.front().problem);
    if (!step.keepTools) {
        SharedVector<Occurrence> left;
        for (std::size_t o = 0; o < outcome.model.occurrences.size(); ++o)
            if (std::find(tools->begin(), tools->end(), o) == tools->end()) left.share(outcome.model.occurrences, o);
        outcome.model.occurrences = std::move(left);
    }
    std::vector<bool> used(outcome.model.parts.size(), false);
    for (const Occurrence& one : outcome.model.occurrences) used[one.part] = true;
    for (PartLineage& own : outcome.lineage) {
        const std::size_t old = own.into == PartLineage::samePlace ? own.part : own.into;
        own.into =
            static_cast<std::size_t>(std::count(used.begin(), used.begin() + static_cast<std::ptrdiff_t>(old), true));
    }
    outcome.model.dropUnusedParts();
    outcome.summary = fmt::format("Subtract {} from {}", counted(tools->size(), "body", "bodies"),
                                  done == 1 ? placeName(model, from->front()) : counted(done, "body", "bodies"));
    return outcome;
}

// --- intersect

std::vector<ParameterInfo> Intersect::infos() {
    return {{"places", "list of names", "", "Parts or places; what all have in common is kept.", Json::array()},
            {"name", "text", "", "Of the result; empty: the first one's.", ""},
            {"keep", "yes or no", "", "The operands stay besides.", false}};
}
void to_json(Json& json, const Intersect& step) {
    json = Json{{"places", step.places}, {"name", step.name}, {"keep", step.keep}};
}
void from_json(const Json& json, Intersect& step) {
    step.places = json.at("places").get<std::vector<std::string>>();
    step.name = json.value("name", "");
    step.keep = json.value("keep", false);
}

Result<Outcome> intersect(const Model& model, const Intersect& step, Progress& progress) {
    if (const auto enough = atLeastTwo(model, step.places, "Intersecting"); !enough)
        return tl::unexpected(enough.error());
    const auto places = inNamedOrder(model, step.places);
    const Occurrence& first = model.occurrences[places.front()];
    const Part& lead = *model.parts[first.part];
    const gp_Trsf into = first.placement.Inverted();
    auto inputs = inputsOf(model, places, into);
    if (!inputs) return tl::unexpected(inputs.error());
    const auto all = arrange::arrange(std::move(*inputs), model.samePoint(), progress);
    if (!all) return tl::unexpected(all.error());
    std::vector<int> cells;
    for (std::size_t c = 0; c < all->cells.size(); ++c)
        if (all->cells[c].inputs.size() == places.size()) cells.push_back(static_cast<int>(c));
    if (cells.empty())
        return fail(ProblemKind::NotPossible, "The bodies have no volume in common.", "Move them, or take fewer.",
                    {lead.name, {}, {}});
    auto chosen = arrange::solidsOf(*all, cells);
    if (!chosen) return tl::unexpected(chosen.error());
    Outcome outcome;
    outcome.model = model;
    auto made = lead.copy();
    made->id = 0;
    made->name = step.name.empty() ? (step.keep ? freeName(model, lead.name + ", common") : lead.name) : step.name;
    made->setShape(chosen->shape);
    made->known = {};
    made->meantOpen.clear();
    made->sharpened.clear();
    made->standsFor = nullptr;
    std::vector<PartLineage> lineage;
    for (std::size_t i = 0; i < places.size(); ++i) {
        const auto own = chosen->lineage.find(static_cast<int>(i));
        if (own == chosen->lineage.end()) continue;
        lineage.push_back(own->second);
        lineage.back().part = model.occurrences[places[i]].part;
        made->inherit(*model.parts[lineage.back().part], lineage.back(), into * model.occurrences[places[i]].placement);
    }
    const std::string name = made->name;
    Occurrence place = first;
    place.name = name;
    replacePlaces(model, outcome, std::move(made), place, step.keep ? std::vector<std::size_t>{} : places,
                  std::move(lineage));
    outcome.items.push_back({fmt::format("\"{}\" is {} mm³", name, readable(chosen->volume)), true, {}, 0.0});
    outcome.summary = fmt::format("Intersect {} into {}", counted(places.size(), "body", "bodies"), name);
    return outcome;
}

}  // namespace rasoir::divide
