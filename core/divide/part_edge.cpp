#include "divide/part_edge.h"

#include <fmt/format.h>

#include <BRepAdaptor_Curve.hxx>
#include <GCPnts_AbscissaPoint.hxx>

#include "arrange/arrangement.h"
#include "common/tolerance.h"
#include "divide/outline.h"
#include "divide/parted.h"
#include "geometry/edge_probe.h"
#include "geometry/integrals.h"

// The body is arranged with nothing but places on its edges at which the arrangement has to divide them.

namespace rasoir::divide {

std::vector<ParameterInfo> PartEdge::infos() {
    return {{"edges", "list of edges", "", "Edges to part.", Json::array()},
            {"into", "number", "", "Equal pieces; 0: at the places below.", 0},
            {"at", "list of numbers", "mm", "Distances from the start.", Json::array()},
            {"share", "list of numbers", "", "Shares of the length, 0 to 1.", Json::array()},
            {"by", "list of places", "mm", "Points thrown square onto the edges; as of divide.point.", Json::array()},
            {"fromEnd", "yes or no", "", "Measured from the end.", false}};
}
void to_json(Json& json, const PartEdge& step) {
    json = Json{{"edges", step.edges}};
    if (step.into != 0) json["into"] = step.into;
    if (!step.at.empty()) json["at"] = step.at;
    if (!step.share.empty()) json["share"] = step.share;
    if (!step.by.empty()) json["by"] = step.by;
    if (step.fromEnd) json["fromEnd"] = true;
}
void from_json(const Json& json, PartEdge& step) {
    step.edges = json.at("edges").get<std::vector<EntityRef>>();
    if (step.edges.empty()) throw std::invalid_argument("no edge is named");
    step.into = json.value("into", 0);
    step.at = json.value("at", std::vector<double>{});
    step.share = json.value("share", std::vector<double>{});
    step.fromEnd = json.value("fromEnd", false);
    step.by = json.value("by", std::vector<Place>{});
    if (step.into == 0 && step.at.empty() && step.share.empty() && step.by.empty())
        throw std::invalid_argument("one of into, at, share and by says where");
    if (step.into != 0 && (step.into < 2 || step.into > 1000)) throw std::invalid_argument("into is 2 to 1000");
}

Result<Outcome> partEdge(const Model& model, const PartEdge& step, Progress& progress) {
    Outcome outcome;
    outcome.model = model;
    std::map<std::size_t, std::vector<int>> wanted;
    for (const EntityRef& edge : step.edges) {
        const auto found = findEdge(model, edge);
        if (!found) return tl::unexpected(found.error());
        wanted[found->part].push_back(found->entity.number);
    }
    const double least = model.samePoint();
    std::size_t pieces = 0, edges = 0;
    for (const auto& [p, numbers] : wanted) {
        const Part& part = *model.parts[p];
        arrange::Input input{part.shape, part.name};
        for (const int number : numbers) {
            const BRepAdaptor_Curve curve(part.incidence().edge(number));
            const double length = GCPnts_AbscissaPoint::Length(curve, Tolerance::noWay);
            std::vector<double> places;
            for (int i = 1; i < step.into; ++i) places.push_back(length * i / step.into);
            places.insert(places.end(), step.at.begin(), step.at.end());
            for (const double share : step.share) places.push_back(share * length);
            const EdgeProbe probe(part.incidence().edge(number));
            for (const Place& by : step.by) {
                const auto point = pointOf(model, by);
                if (!point) return tl::unexpected(point.error());
                const gp_Pnt own = point->Transformed(placementOf(model, p).Inverted());
                const EdgeProbe::Near near = probe.nearest(own);
                if (probe.value(near.parameter).Distance(probe.value(probe.first())) < least ||
                    probe.value(near.parameter).Distance(probe.value(probe.last())) < least)
                    return fail(ProblemKind::NotPossible, "Thrown onto the edge, the point is one of its ends.",
                                "Pick a point beside the edge.", {part.name, {}, own});
                input.stops.emplace_back(number, near.parameter);
            }
            for (double place : places) {
                if (!std::isfinite(place) || place < least || place > length - least)
                    return fail(ProblemKind::BadInput,
                                fmt::format("{} mm is no place within the edge, which is {} mm long.", readable(place),
                                            readable(length)),
                                "Give a distance between its ends.",
                                {part.name, {}, curve.Value(0.5 * (curve.FirstParameter() + curve.LastParameter()))});
                if (step.fromEnd) place = length - place;
                const GCPnts_AbscissaPoint point(Tolerance::noWay, curve, place, curve.FirstParameter());
                input.stops.emplace_back(number, point.Parameter());
            }
            ++edges;
        }
        const auto all = arrange::arrange({std::move(input)}, least, progress);
        if (!all) return tl::unexpected(all.error());
        auto parted = putTogether(part, *all);
        if (!parted) return tl::unexpected(parted.error());
        const Descents descents(parted->lineage.edges());
        for (const int number : numbers) {
            const auto heirs = descents.heirsOf(number);
            pieces += heirs.size();
            std::string told;
            for (const Link& heir : heirs)
                told += fmt::format("{}{}", told.empty() ? "" : ", ",
                                    readable(lengthOf(parted->part->incidence().edge(heir.after))));
            outcome.items.push_back(
                {fmt::format("edge {} of \"{}\" in {}: {} mm", number, part.name, counted(heirs.size(), "piece"), told),
                 true,
                 {},
                 0.0});
        }
        replacePart(outcome, p, std::move(*parted));
    }
    outcome.summary =
        fmt::format("Part {} into {}", edges == 1 ? "an edge" : counted(edges, "edge"), counted(pieces, "piece"));
    return outcome;
}

}  // namespace rasoir::divide
