#include "handover/dimension.h"

#include <fmt/format.h>

#include "common/tolerance.h"
#include "measure/between.h"

namespace rasoir::handover {
namespace {

/// The readings that there are, in the order in which one is taken when none is named.
using Readings = std::vector<std::tuple<std::string, std::string, std::optional<double>>>;  // name, words, value

Readings readingsOf(const measure::Reading& one) {
    const auto twice = [](const std::optional<double>& radius) {
        return radius ? std::optional(2.0 * *radius) : std::nullopt;
    };
    return {{"diameter", "Ø", twice(one.radius)},
            {"radius", "radius", one.radius},
            {"length", "length", one.length},
            {"angle", "angle", one.coneAngle ? one.coneAngle : one.dihedral}};
}

Readings readingsOf(const measure::PairReading& two) {
    const bool turned = two.angle && *two.angle * M_PI / 180.0 > Tolerance::sameDirection;
    return {{"axes", "distance of axes", two.axes},
            {"planes", "distance of planes", two.planes},
            {"angle", "angle", turned ? two.angle : std::nullopt},
            {"distance", "distance", two.least},
            {"centres", "distance of centres", two.centres}};
}

}  // namespace

std::string MeasuredDimension::with(double number) const {
    return readable(number) + (angle ? "°" : " mm");
}

std::vector<ParameterInfo> Dimension::infos() {
    return {{"name", "text", "", "In the report; empty: what is measured, and where.", ""},
            {"things", "list of things", "", "One or two faces, edges or vertices.", Json::array()},
            {"of", "text", "",
             "diameter, radius, length, angle, distance, planes, axes or centres; empty: what is natural.", ""},
            {"value", "number", "mm or degrees", "What the drawing says.", 0.0},
            {"tolerance", "any", "mm or degrees", "Allowed to either side; null: it is only told.", nullptr}};
}
void to_json(Json& json, const Dimension& dimension) {
    json = Json{{"things", dimension.things}, {"value", dimension.value}};
    if (!dimension.name.empty()) json["name"] = dimension.name;
    if (!dimension.of.empty()) json["of"] = dimension.of;
    if (dimension.tolerance) json["tolerance"] = *dimension.tolerance;
}
void from_json(const Json& json, Dimension& dimension) {
    dimension.name = json.value("name", "");
    dimension.things = json.at("things").get<std::vector<EntityRef>>();
    dimension.of = json.value("of", "");
    dimension.value = json.at("value").get<double>();
    if (json.contains("tolerance") && !json.at("tolerance").is_null())
        dimension.tolerance = json.at("tolerance").get<double>();
    static const std::set<std::string> known{"",         "diameter", "radius", "length", "angle",
                                             "distance", "planes",   "axes",   "centres"};
    if (!known.contains(dimension.of))
        throw std::invalid_argument("of is diameter, radius, length, angle, distance, planes, axes or centres");
}

Result<MeasuredDimension> measuredOf(const Model& model, const Dimension& dimension) {
    if (dimension.things.empty() || dimension.things.size() > 2)
        return fail(ProblemKind::BadInput, "A dimension is of one thing, or between two.", "Pick one or two.");
    std::vector<select::Pick> picks;
    std::string where;
    for (const EntityRef& thing : dimension.things) {
        const auto found = findEntity(model, thing);
        if (!found) return tl::unexpected(found.error());
        const auto place = std::find_if(model.occurrences.begin(), model.occurrences.end(),
                                        [&](const Occurrence& one) { return one.part == found->part && !one.aside; });
        if (place == model.occurrences.end())
            return fail(ProblemKind::NotPossible, fmt::format("\"{}\" is set aside.", model.parts[found->part]->name),
                        "Bring it back.");
        select::Pick pick;
        pick.occurrence = static_cast<std::size_t>(place - model.occurrences.begin());
        (found->entity.kind == EntityKind::Face   ? pick.face
         : found->entity.kind == EntityKind::Edge ? pick.edge
                                                  : pick.vertex) = found->entity.number;
        picks.push_back(pick);
        const std::string& name = model.parts[found->part]->name;
        if (where.find(name) == std::string::npos) where += (where.empty() ? "" : " and ") + name;
    }
    Readings readings;
    if (picks.size() == 1) {
        readings = readingsOf(measure::readingOf(model, picks[0]));
    } else if (const auto pair = measure::readingBetween(model, picks[0], picks[1])) {
        readings = readingsOf(*pair);
    }
    for (const auto& [name, words, value] : readings)
        if (value && (dimension.of.empty() || dimension.of == name))
            return MeasuredDimension{fmt::format("{} of {}", words, where), *value, name == "angle"};
    return fail(ProblemKind::NotPossible,
                dimension.of.empty() ? fmt::format("Nothing of what is picked in {} has a size of its own.", where)
                                     : fmt::format("What is picked in {} has no {}.", where, dimension.of),
                "Pick round faces or edges, or two things.");
}

Result<Outcome> holdAgainst(const Model& model, const Dimension& dimension, Progress&) {
    if (!std::isfinite(dimension.value) || (dimension.tolerance && !(*dimension.tolerance >= 0.0)))
        return fail(ProblemKind::BadInput, "What the drawing says is no dimension.", "Type it as 8.5, or 8.5 ± 0.2.");
    const auto measured = measuredOf(model, dimension);
    if (!measured) return tl::unexpected(measured.error());
    Outcome outcome;
    outcome.model = model;
    const double off = measured->value - dimension.value;
    const std::string name = dimension.name.empty() ? measured->what : dimension.name;
    const std::string told = fmt::format(
        "{}: {}, {} in the drawing, {}", name, measured->with(measured->value), measured->with(dimension.value),
        std::abs(off) < Tolerance::noWay ? std::string("the same")
                                         : measured->with(std::abs(off)) + (off > 0.0 ? " more" : " less"));
    Item item{told,
              !dimension.tolerance || std::abs(off) <= *dimension.tolerance * (1.0 + Tolerance::rounding),
              {},
              std::abs(off)};
    if (!item.done)
        item.problem = {ProblemKind::NotPossible,
                        fmt::format("{}; {} is allowed.", told, measured->with(*dimension.tolerance)),
                        {dimension.things.front().part, {}, dimension.things.front().at},
                        "Ask whether the file or the drawing is meant."};
    outcome.items.push_back(std::move(item));
    outcome.summary = "Drawing: " + told;
    return outcome;
}

}  // namespace rasoir::handover
