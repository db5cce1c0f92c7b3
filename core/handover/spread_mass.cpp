#include "handover/spread_mass.h"

#include <fmt/format.h>

#include <BRepBuilderAPI_MakeVertex.hxx>

#include "common/tolerance.h"
#include "geometry/integrals.h"
#include "measure/mass.h"
#include "model/places.h"

namespace rasoir::handover {
namespace {

using Spread = std::map<std::size_t, std::set<Entity>>;  // by part

Result<Spread> meantBy(const Model& model, const SpreadMass& step) {
    Spread spread;
    for (const EntityRef& thing : step.things) {
        const auto found = findEntity(model, thing);
        if (!found) return tl::unexpected(found.error());
        if (found->entity.kind != EntityKind::Face && found->entity.kind != EntityKind::Edge)
            return fail(ProblemKind::BadInput, "Mass is spread over faces or edges.", "Name those, or whole parts.");
        spread[found->part].insert(found->entity);
    }
    for (const auto& [p, things] : spread)
        for (const Entity& thing : things)
            if (thing.kind != things.begin()->kind)
                return fail(ProblemKind::BadInput,
                            fmt::format("Of \"{}\" both faces and edges are named.", model.parts[p]->name),
                            "Spread over the one, then over the other.");
    if (step.parts.empty()) return spread;
    const auto named = partsNamed(model, step.parts);
    if (!named) return tl::unexpected(named.error());
    for (const std::size_t p : *named) {
        if (spread.contains(p)) continue;  // some of it was named: that is meant
        const Incidence& topology = model.parts[p]->incidence();
        const bool wire = topology.faceCount() == 0;
        for (int n = 1; n <= (wire ? topology.edgeCount() : topology.faceCount()); ++n)
            spread[p].insert({wire ? EntityKind::Edge : EntityKind::Face, n});
    }
    return spread;
}

double measureOf(const Part& part, const std::set<Entity>& things) {
    double sum = 0.0;
    for (const Entity& thing : things)
        sum += thing.kind == EntityKind::Face ? areaOf(part.incidence().face(thing.number))
                                              : lengthOf(part.incidence().edge(thing.number));
    return sum;
}

/// A lump beside a part in each of its places. It is a point in the work, and weighs.
void addLump(Model& model, std::size_t part, double mass, const gp_Pnt& at) {
    auto lump = std::make_shared<Part>(freeName(model, model.parts[part]->name + ", missing mass"),
                                       BRepBuilderAPI_MakeVertex(at).Shape());
    lump->lump = Lump{mass, at, {}};
    model.parts.push_back(lump);
    const SharedVector<Occurrence> places = model.occurrences;
    for (const Occurrence& place : places)
        if (place.part == part && !place.aside)
            model.occurrences.push_back(
                {model.parts.size() - 1, place.placement, lump->name, place.path, std::nullopt});
    model.giveIds();
}

}  // namespace

std::vector<ParameterInfo> SpreadMass::infos() {
    return {{"parts", "list of names", "", "Over all faces of these parts, of wires over all edges.", Json::array()},
            {"things", "list of things", "", "Over these faces, or these edges.", Json::array()},
            {"stated", "any", "kg", "What each part weighs in truth; what it lacks is spread.", nullptr},
            {"mass", "any", "kg", "Or what is added to each part.", nullptr},
            {"asLump", "yes or no", "", "As a lump beside each part, instead of spread over it.", false},
            {"centre", "any", "mm, part coordinates", "Where part and lump have their common centre of mass.", nullptr},
            {"away", "yes or no", "", "Takes back what was spread there.", false}};
}
void to_json(Json& json, const SpreadMass& step) {
    json = Json::object();
    if (!step.parts.empty()) json["parts"] = step.parts;
    if (!step.things.empty()) json["things"] = step.things;
    if (step.stated) json["stated"] = *step.stated;
    if (step.mass) json["mass"] = *step.mass;
    if (step.asLump) json["asLump"] = true;
    if (step.centre) json["centre"] = rasoir::toJson(*step.centre);
    if (step.away) json["away"] = true;
}
void from_json(const Json& json, SpreadMass& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
    step.things = json.value("things", std::vector<EntityRef>{});
    const auto number = [&json](const char* name) -> std::optional<double> {
        if (!json.contains(name) || json.at(name).is_null()) return std::nullopt;
        return json.at(name).get<double>();
    };
    step.stated = number("stated");
    step.mass = number("mass");
    step.asLump = json.value("asLump", false);
    if (json.contains("centre") && !json.at("centre").is_null()) step.centre = tripleFromJson(json.at("centre"));
    step.away = json.value("away", false);
}

Result<Outcome> spreadMass(const Model& model, const SpreadMass& step, Progress& progress) {
    if (!step.away && step.stated.has_value() == step.mass.has_value())
        return fail(ProblemKind::BadInput, "Say what a part weighs, or what is to be added.", "One of the two.");
    for (const std::optional<double>& number : {step.stated, step.mass})
        if (number && !(*number > 0.0 && *number < 1e12))
            return fail(ProblemKind::BadInput, "A mass is a number of kilograms above zero.");
    if (step.asLump && !step.things.empty())
        return fail(ProblemKind::BadInput, "A lump is of whole parts; faces and edges are what mass is spread over.");
    if (step.centre && !step.asLump)
        return fail(ProblemKind::BadInput, "What is spread over a skin has its centre there: a centre is for a lump.");
    const auto spread = meantBy(model, step);
    if (!spread) return tl::unexpected(spread.error());
    if (spread->empty()) return fail(ProblemKind::BadInput, "Nothing was named to spread a mass over.");
    Outcome outcome;
    outcome.model = model;
    std::size_t done = 0;
    for (const auto& [p, things] : *spread) {
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        const Part& part = *model.parts[p];
        Item item{part.name, false, {}, 0.0};
        auto changed = part.copy();
        if (step.away) {
            std::size_t taken = 0;
            for (const Entity& thing : things) taken += changed->known.added.erase(thing);
            if (taken == 0) {
                item.problem = {ProblemKind::NothingToDo,
                                fmt::format("Nothing was spread over \"{}\".", part.name),
                                {part.name, {}, {}},
                                {}};
                outcome.items.push_back(std::move(item));
                continue;
            }
            item.what = fmt::format("\"{}\": what was spread is taken back", part.name);
        } else {
            const measure::Facts facts = measure::factsOf(part, model.targetSize, false);
            const double now = measure::massOf(model, part, facts).mass;
            const double missing = step.mass ? *step.mass : *step.stated - now;
            const double measure = measureOf(part, things);
            if (missing <= Tolerance::noLength * std::max(now, Tolerance::noLength) || !(measure > 0.0)) {
                item.problem = {ProblemKind::NotPossible,
                                measure > 0.0
                                    ? fmt::format("\"{}\" weighs {} kg already, not less than the {} kg stated.",
                                                  part.name, readable(now), readable(step.stated.value_or(now)))
                                    : fmt::format("There is nothing of \"{}\" to spread a mass over.", part.name),
                                {part.name, {}, {}},
                                measure > 0.0 ? "See whether its material is right." : ""};
                outcome.items.push_back(std::move(item));
                continue;
            }
            if (step.asLump) {
                const gp_Pnt own = measure::massOf(model, part, facts).centre;
                // Part and lump together have their centre where it is stated.
                const gp_Pnt at =
                    step.centre ? gp_Pnt(((now + missing) * *step.centre - now * own.XYZ()) / missing) : own;
                addLump(outcome.model, p, missing, at);
                item.what = fmt::format("\"{}\": {} kg as a lump at {}, {}, {}", part.name, readable(missing),
                                        readable(at.X()), readable(at.Y()), readable(at.Z()));
                item.done = true;
                outcome.items.push_back(std::move(item));
                ++done;
                continue;
            }
            const bool lengths = things.begin()->kind == EntityKind::Edge;
            for (const Entity& thing : things) {
                AddedMass& added = changed->known.added[thing];
                added.perMeasure += missing / measure;
                added.perLength = lengths;
            }
            item.what = fmt::format("\"{}\": {} kg over {} {}", part.name, readable(missing), readable(measure),
                                    lengths ? "mm" : "mm²");
        }
        outcome.model.parts[p] = std::move(changed);
        item.done = true;
        outcome.items.push_back(std::move(item));
        ++done;
    }
    if (done == 0) return tl::unexpected(outcome.items.front().problem);
    outcome.summary = step.away     ? fmt::format("Take back what was spread over {}", counted(done, "part"))
                      : step.asLump ? fmt::format("Lumps for what {} lacks", counted(done, "part"))
                                    : fmt::format("Spread mass over {}", counted(done, "part"));
    return outcome;
}

}  // namespace rasoir::handover
