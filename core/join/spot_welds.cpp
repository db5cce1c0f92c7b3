#include "join/spot_welds.h"

#include <fmt/format.h>

#include <Bnd_Box.hxx>
#include <BRepBndLib.hxx>
#include <BRepBuilderAPI_MakeVertex.hxx>
#include <BRepExtrema_DistShapeShape.hxx>

#include "divide/cutters.h"
#include "model/places.h"

namespace rasoir::join {
namespace {

/// Where a point falls on a body: the nearest face.
struct Foot {
    std::size_t place = 0;
    int face = 0;
    gp_Pnt at;
    double off = 0.0;  // [mm]
};

std::vector<Bnd_Box> boxesOf(const Part& part) {
    std::vector<Bnd_Box> boxes(static_cast<std::size_t>(part.incidence().faceCount()) + 1);
    for (int f = 1; f <= part.incidence().faceCount(); ++f)
        BRepBndLib::Add(part.incidence().face(f), boxes[static_cast<std::size_t>(f)], false);
    return boxes;
}

std::optional<Foot> footOnPlace(const Model& model, std::size_t o, const std::vector<Bnd_Box>& boxes,
                                const gp_Pnt& point, double reach) {
    const Occurrence& place = model.occurrences[o];
    const Part& part = *model.parts[place.part];
    const gp_Pnt own = point.Transformed(place.placement.Inverted());
    Bnd_Box about;
    about.Add(own);
    about.Enlarge(reach);
    std::optional<Foot> nearest;
    for (int f = 1; f <= part.incidence().faceCount(); ++f) {
        if (boxes[static_cast<std::size_t>(f)].IsOut(about)) continue;
        const BRepExtrema_DistShapeShape way(BRepBuilderAPI_MakeVertex(own).Shape(), part.incidence().face(f));
        if (!way.IsDone() || way.NbSolution() == 0 || way.Value() > reach) continue;
        if (!nearest || way.Value() < nearest->off)
            nearest = Foot{o, f, way.PointOnShape2(1).Transformed(place.placement), way.Value()};
    }
    return nearest;
}

/// All points of a step, those of its row after the others.
Result<std::vector<gp_Pnt>> pointsOf(const Model& model, const SpotWelds& step) {
    std::vector<gp_Pnt> points;
    for (const divide::Place& place : step.points) {
        const auto point = divide::pointOf(model, place);
        if (!point) return tl::unexpected(point.error());
        points.push_back(*point);
    }
    if (step.row) {
        const auto from = divide::pointOf(model, step.row->from), to = divide::pointOf(model, step.row->to);
        if (!from) return tl::unexpected(from.error());
        if (!to) return tl::unexpected(to.error());
        const int last = step.row->count - 1;
        for (int i = 0; i <= last; ++i)
            points.emplace_back((from->XYZ() * (last - i) + to->XYZ() * i) / std::max(1, last));
    }
    return points;
}

}  // namespace

std::vector<ParameterInfo> SpotWelds::infos() {
    return {
        {"points", "list of places", "mm", "{\"at\": [x, y, z]} or {\"of\": something of the model}.", Json::array()},
        {"row", "row", "mm", "{\"from\": place, \"to\": place, \"count\": welds}, at even distances.", Json::object()},
        {"parts", "list of names", "", "Parts or places that may be held; empty: all.", Json::array()},
        {"reach", "number", "mm", "How far a sheet may be from a point; 0: half the target size.", 0.0},
        {"diameter", "number", "mm", "Of the weld; 0: not known.", 0.0},
        {"name", "text", "", "Of the welds, followed by a number.", "spot weld"}};
}
void to_json(Json& json, const SpotWelds& step) {
    json = Json{{"points", step.points}, {"name", step.name}};
    if (step.row) json["row"] = Json{{"from", step.row->from}, {"to", step.row->to}, {"count", step.row->count}};
    if (!step.parts.empty()) json["parts"] = step.parts;
    if (step.reach != 0.0) json["reach"] = step.reach;
    if (step.diameter != 0.0) json["diameter"] = step.diameter;
}
void from_json(const Json& json, SpotWelds& step) {
    step.points = json.value("points", std::vector<divide::Place>{});
    if (divide::given(json, "row")) {
        const Json& row = json.at("row");
        step.row = SpotWelds::Row{row.at("from").get<divide::Place>(), row.at("to").get<divide::Place>(),
                                  row.value("count", 2)};
        if (step.row->count < 2 || step.row->count > 10000) throw std::invalid_argument("a row has 2 to 10 000 welds");
    }
    if (step.points.empty() && !step.row) throw std::invalid_argument("no point and no row is given");
    step.parts = json.value("parts", std::vector<std::string>{});
    step.reach = json.value("reach", 0.0);
    step.diameter = json.value("diameter", 0.0);
    step.name = json.value("name", step.name);
    if (step.name.empty()) throw std::invalid_argument("the welds need a name");
}

Result<Outcome> makeSpotWelds(const Model& model, const SpotWelds& step, Progress& progress) {
    for (const double number : {step.reach, step.diameter})
        if (!std::isfinite(number) || number < 0.0 || number > 1e9)
            return fail(ProblemKind::BadInput, "Reach and diameter are lengths, not below 0.");
    const auto points = pointsOf(model, step);
    if (!points) return tl::unexpected(points.error());
    const auto meant = placesMeant(model, step.parts);
    if (!meant) return tl::unexpected(meant.error());
    const double reach = step.reach > 0.0 ? step.reach : 0.5 * model.targetSize;
    std::map<std::size_t, std::vector<Bnd_Box>> boxes;  // by part
    for (const std::size_t o : *meant) {
        const Part& part = *model.parts[model.occurrences[o].part];
        if (!part.shape.IsNull() && !part.lump && !boxes.contains(model.occurrences[o].part))
            boxes[model.occurrences[o].part] = boxesOf(part);
    }
    Outcome outcome;
    outcome.model = model;
    outcome.model.giveIds();
    std::size_t made = 0;
    for (const gp_Pnt& point : *points) {
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        std::vector<Foot> feet;
        for (const std::size_t o : *meant)
            if (const auto own = boxes.find(model.occurrences[o].part); own != boxes.end())
                if (auto foot = footOnPlace(model, o, own->second, point, reach)) feet.push_back(std::move(*foot));
        if (feet.size() < 2) {
            Item item{
                fmt::format("the point at {}, {}, {}", readable(point.X()), readable(point.Y()), readable(point.Z())),
                false,
                {},
                0.0};
            item.problem = {ProblemKind::NotPossible,
                            feet.empty() ? fmt::format("No body is within {} mm of it.", readable(reach))
                                         : fmt::format("It holds \"{}\" alone.", placeName(model, feet[0].place)),
                            {feet.empty() ? "" : model.parts[model.occurrences[feet[0].place].part]->name, {}, point},
                            "Move it, or raise the reach."};
            outcome.items.push_back(std::move(item));
            continue;
        }
        // Midway between the two feet that lie farthest apart, so that it is on none of the sheets more than on others.
        gp_Pnt from = feet[0].at, to = feet[1].at;
        for (const Foot& a : feet)
            for (const Foot& b : feet)
                if (a.at.Distance(b.at) > from.Distance(to)) std::tie(from, to) = std::pair(a.at, b.at);
        const std::string name = freeName(outcome.model, fmt::format("{} {}", step.name, ++made));
        Model& now = outcome.model;
        const TopoDS_Shape vertex = BRepBuilderAPI_MakeVertex(gp_Pnt(0.5 * (from.XYZ() + to.XYZ()))).Shape();
        now.occurrences.push_back({now.parts.size(), gp_Trsf(), name, {}, std::nullopt});
        now.parts.push_back(std::make_shared<Part>(name, vertex));
        now.giveIds();
        Group spot{name, "spot weld", std::nullopt, {}, std::nullopt},
            held{name + ", held", "spot weld", std::nullopt, {}, std::nullopt};
        spot.members.insert({now.parts.back()->id, everyPlace, {EntityKind::Vertex, 1}});
        std::string told;
        for (const Foot& foot : feet) {
            const Occurrence& place = now.occurrences[foot.place];
            held.members.insert({now.parts[place.part]->id, place.id, {EntityKind::Face, foot.face}});
            told += (told.empty() ? "\"" : ", \"") + placeName(model, foot.place) + "\"";
        }
        Pairing pair;
        pair.name = name;
        pair.kind = PairingKind::Link;
        pair.first = spot.name;
        pair.second = held.name;
        pair.behaviour = step.diameter > 0.0 ? fmt::format("spot weld, Ø {} mm", readable(step.diameter)) : "spot weld";
        pair.gap = from.Distance(to);
        now.groups.push_back(std::move(spot));
        now.groups.push_back(std::move(held));
        now.pairings.push_back(std::move(pair));
        outcome.items.push_back(
            {fmt::format("\"{}\" holds {}, {} mm apart", name, told, readable(from.Distance(to))), true, {}, 0.0});
    }
    if (made == 0) return tl::unexpected(outcome.items.front().problem);
    outcome.summary = fmt::format("Set {}", counted(made, "spot weld"));
    return outcome;
}

}  // namespace rasoir::join
