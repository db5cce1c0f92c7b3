#include "divide/points.h"

#include <fmt/format.h>

#include <BRep_Tool.hxx>
#include <BRepBuilderAPI_MakeVertex.hxx>

#include "divide/cutters.h"
#include "geometry/edge_probe.h"
#include "measure/between.h"
#include "model/places.h"

namespace rasoir::divide {

void to_json(Json& json, const Place& place) {
    json = Json::object();
    if (place.at) json["at"] = *place.at;
    if (place.of) json["of"] = *place.of;
}
void from_json(const Json& json, Place& place) {
    if (given(json, "at")) place.at = json.at("at").get<std::array<double, 3>>();
    if (given(json, "of")) place.of = json.at("of").get<EntityRef>();
    if (place.at.has_value() == place.of.has_value())
        throw std::invalid_argument("a place is {\"at\": [x, y, z]} or {\"of\": something of the model}");
}

gp_Trsf placementOf(const Model& model, std::size_t part) {
    const auto place = std::find_if(model.occurrences.begin(), model.occurrences.end(),
                                    [part](const Occurrence& o) { return o.part == part && !o.aside; });
    return place == model.occurrences.end() ? gp_Trsf() : place->placement;
}

namespace {

/// The thing as it is picked in the first place of its part.
Result<select::Pick> pickOf(const Model& model, const EntityRef& reference) {
    const auto found = findEntity(model, reference);
    if (!found) return tl::unexpected(found.error());
    select::Pick pick;
    for (std::size_t o = model.occurrences.size(); o-- > 0;)
        if (model.occurrences[o].part == found->part && !model.occurrences[o].aside) pick.occurrence = o;
    int& number = found->entity.kind == EntityKind::Face     ? pick.face
                  : found->entity.kind == EntityKind::Edge   ? pick.edge
                  : found->entity.kind == EntityKind::Vertex ? pick.vertex
                                                             : pick.body;
    number = found->entity.number;
    return pick;
}

}  // namespace

Result<gp_Pnt> pointOf(const Model& model, const Place& place) {
    if (place.at) {
        for (const double x : *place.at)
            if (!std::isfinite(x) || std::abs(x) > 1e9)
                return fail(ProblemKind::BadInput, "A coordinate is beyond any machine.",
                            "Lengths go up to 1 000 000 m.");
        return gp_Pnt((*place.at)[0], (*place.at)[1], (*place.at)[2]);
    }
    const auto pick = pickOf(model, *place.of);
    if (!pick) return tl::unexpected(pick.error());
    const measure::Reading reading = measure::readingOf(model, *pick);
    if (reading.centre) return *reading.centre;
    const Part& part = *model.parts[model.occurrences[pick->occurrence].part];
    const gp_Trsf& placement = model.occurrences[pick->occurrence].placement;
    if (pick->edge > 0) {
        const EdgeProbe probe(part.incidence().edge(pick->edge));
        return probe.value(0.5 * (probe.first() + probe.last())).Transformed(placement);
    }
    return place.of->at.Transformed(placement);
}

std::vector<ParameterInfo> MakePoints::infos() {
    return {{"places", "list of places", "mm",
             "{\"at\": [x, y, z]}, model coordinates, or {\"of\": a vertex, edge, face or body}: its centre.",
             Json::array()},
            {"onto", "face or edge", "", "The points are thrown onto it, the shortest way.", Json::object()},
            {"name", "text", "", "Of the new parts; several are numbered.", "point"},
            {"group", "text", "", "Of all of them; empty: none.", ""}};
}
void to_json(Json& json, const MakePoints& step) {
    json = Json{{"places", step.places}, {"name", step.name}};
    if (step.onto) json["onto"] = *step.onto;
    if (!step.group.empty()) json["group"] = step.group;
}
void from_json(const Json& json, MakePoints& step) {
    step.places = json.at("places").get<std::vector<Place>>();
    if (step.places.empty()) throw std::invalid_argument("no place is given");
    if (given(json, "onto")) step.onto = json.at("onto").get<EntityRef>();
    step.name = json.value("name", step.name);
    if (step.name.empty()) throw std::invalid_argument("a point needs a name");
    step.group = json.value("group", "");
}

Result<Outcome> makePoints(const Model& model, const MakePoints& step, Progress&) {
    std::optional<select::Pick> onto;
    if (step.onto) {
        const auto pick = pickOf(model, *step.onto);
        if (!pick) return tl::unexpected(pick.error());
        if (pick->face == 0 && pick->edge == 0)
            return fail(ProblemKind::BadInput, "Points are thrown onto a face or an edge.", "Name one.",
                        {step.onto->part, {}, step.onto->at});
        onto = *pick;
    }
    Outcome outcome;
    outcome.model = model;
    Group made{step.group, "points", std::nullopt, {}, std::nullopt};
    for (std::size_t i = 0; i < step.places.size(); ++i) {
        auto point = pointOf(model, step.places[i]);
        if (!point) return tl::unexpected(point.error());
        double thrown = 0.0;
        if (onto) {
            // A model of the point alone beside the thing it is thrown at; the kernel tells the shortest way.
            Model both = model;
            both.parts.push_back(std::make_shared<Part>("point", BRepBuilderAPI_MakeVertex(*point).Shape()));
            both.occurrences.push_back({both.parts.size() - 1, gp_Trsf(), "point", {}, std::nullopt});
            const select::Pick own{both.occurrences.size() - 1, 0, 0, 0, 0};
            const auto between = measure::readingBetween(both, own, *onto);
            if (!between)
                return fail(ProblemKind::NotPossible, "The point cannot be thrown onto it.", "Set it where it is.",
                            {step.onto->part, {}, *point});
            thrown = between->least;
            point = between->to;
        }
        const std::string name =
            freeName(outcome.model, step.places.size() == 1 ? step.name : fmt::format("{} {}", step.name, i + 1));
        outcome.model.occurrences.push_back({outcome.model.parts.size(), gp_Trsf(), name, {}, std::nullopt});
        outcome.model.parts.push_back(std::make_shared<Part>(name, BRepBuilderAPI_MakeVertex(*point).Shape()));
        outcome.items.push_back(
            {fmt::format("\"{}\" at {}, {}, {}{}", name, readable(point->X()), readable(point->Y()),
                         readable(point->Z()), thrown > 0.0 ? fmt::format(", {} mm on", readable(thrown)) : ""),
             true,
             {},
             0.0});
    }
    if (!step.group.empty()) {
        outcome.model.giveIds();
        for (std::size_t p = model.parts.size(); p < outcome.model.parts.size(); ++p)
            made.members.insert({outcome.model.parts[p]->id, everyPlace, {EntityKind::Vertex, 1}});
        std::erase_if(outcome.model.groups, [&](const Group& group) { return group.name == step.group; });
        outcome.model.groups.push_back(std::move(made));
    }
    outcome.summary =
        step.places.size() == 1 ? fmt::format("Set {}", step.name) : fmt::format("Set {} points", step.places.size());
    return outcome;
}

}  // namespace rasoir::divide
