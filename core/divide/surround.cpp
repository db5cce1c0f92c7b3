#include "divide/surround.h"

#include <fmt/format.h>

#include <Bnd_Box.hxx>
#include <BRepBndLib.hxx>
#include <BRepPrimAPI_MakeBox.hxx>
#include <BRepPrimAPI_MakeCylinder.hxx>
#include <BRepPrimAPI_MakeSphere.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>

#include "arrange/choice.h"
#include "divide/combine.h"
#include "geometry/extent.h"
#include "geometry/integrals.h"
#include "model/places.h"

// What goes round is one more solid; the bodies in it and what parts it are arranged with it, and its own cells are
// kept. So the two halves of a mould come from one arrangement, and a parting sheet may run along the bodies' faces.

namespace rasoir::divide {
namespace {

/// The block, cylinder or ball itself, in model coordinates.
Result<TopoDS_Shape> roundShape(const Bnd_Box& box, const Surround& step) {
    const gp_Pnt low = box.CornerMin(), high = box.CornerMax();
    const auto& gap = step.clearance;
    const gp_Pnt from(low.X() - gap[0], low.Y() - gap[2], low.Z() - gap[4]),
        to(high.X() + gap[1], high.Y() + gap[3], high.Z() + gap[5]);
    const gp_Pnt middle(0.5 * (low.XYZ() + high.XYZ()));
    const double least = 1e-6 * std::max(1e-3, low.Distance(high));  // of the box round all, and never of nothing
    const auto none = [&] {
        return fail(ProblemKind::BadInput, fmt::format("The {} would have no volume.", step.by),
                    "Give more clearance.");
    };
    if (step.by == "block") {
        for (int i = 1; i <= 3; ++i)
            if (to.Coord(i) - from.Coord(i) < least) return none();
        return BRepPrimAPI_MakeBox(from, to).Shape();
    }
    if (step.by == "ball") {
        const double radius = 0.5 * low.Distance(high) + gap[0];
        if (radius < least) return none();
        return BRepPrimAPI_MakeSphere(middle, radius).Shape();
    }
    const int along = step.axis == "x" ? 1 : step.axis == "y" ? 2 : 3;
    const int first = along % 3 + 1, second = first % 3 + 1;
    const double radius =
        0.5 * std::hypot(high.Coord(first) - low.Coord(first), high.Coord(second) - low.Coord(second)) +
        gap[along == 1 ? 2 : 0];
    const double length = to.Coord(along) - from.Coord(along);
    if (radius < least || length < least) return none();
    gp_Pnt foot = middle;
    foot.SetCoord(along, from.Coord(along));
    const gp_Dir direction = along == 1 ? gp::DX() : along == 2 ? gp::DY() : gp::DZ();
    return BRepPrimAPI_MakeCylinder(gp_Ax2(foot, direction), radius, length).Shape();
}

/// What parts it: the plane across it, or the faces of a sheet; null where nothing shall.
Result<TopoDS_Shape> partingShape(const Model& model, const Surround& step, const TopoDS_Shape& round) {
    Bnd_Box box;
    BRepBndLib::Add(round, box, false);
    if (step.parting) {
        const auto plane = planeOf(*step.parting);
        if (!plane) return tl::unexpected(plane.error());
        const TopoDS_Face across = faceAcross(*plane, box, 0.0);
        if (across.IsNull())
            return fail(ProblemKind::NotPossible, fmt::format("The parting plane misses the {}.", step.by),
                        "Move the plane.");
        return TopoDS_Shape(across);
    }
    const auto places = placesNamed(model, {step.partingBy});
    if (!places) return tl::unexpected(places.error());
    const Occurrence& place = model.occurrences[places->front()];
    const Part& part = *model.parts[place.part];
    if (part.kind() != BodyKind::Sheet)
        return fail(ProblemKind::NotPossible, fmt::format("\"{}\" is no sheet, so it cannot part a mould.", part.name),
                    "Name a sheet that reaches through, or give a plane.", {part.name, {}, {}});
    // A sheet of a single face goes on by itself where it is too short.
    if (part.incidence().faceCount() == 1) {
        Bnd_Box own;
        BRepBndLib::Add(round.Moved(TopLoc_Location(place.placement.Inverted())), own, false);
        if (auto carried = faceCarriedOn(part, 1, 0.0, own))
            return TopoDS_Shape(carried->Moved(TopLoc_Location(place.placement)));
    }
    return part.shape.Moved(TopLoc_Location(place.placement));
}

}  // namespace

std::vector<ParameterInfo> Surround::infos() {
    return {
        {"places", "list of names", "", "Parts or places to go round; empty: all that is not set aside.",
         Json::array()},
        {"by", "text", "", "block, cylinder or ball.", "block"},
        {"axis", "text", "", "Of the cylinder: x, y or z.", "z"},
        {"clearance",
         "list of numbers",
         "mm",
         "Six: towards -x +x -y +y -z +z. A cylinder takes two along its axis, and the first of the others round "
         "it; a ball takes the first.",
         {0.0, 0.0, 0.0, 0.0, 0.0, 0.0}},
        {"name", "text", "", "Of the new part.", "block round"},
        {"without", "yes or no", "", "The bodies are taken out of it.", false},
        {"parting", "plane", "mm", "It is cut there in two halves, as a mould is; model coordinates.", Json::object()},
        {"partingBy", "text", "", "Instead of a plane: a sheet that parts it.", ""}};
}

void to_json(Json& json, const Surround& step) {
    json = Json{{"by", step.by}, {"clearance", step.clearance}, {"name", step.name}, {"without", step.without}};
    if (step.axis != "z") json["axis"] = step.axis;
    if (!step.places.empty()) json["places"] = step.places;
    if (step.parting) json["parting"] = *step.parting;
    if (!step.partingBy.empty()) json["partingBy"] = step.partingBy;
}

void from_json(const Json& json, Surround& step) {
    step.places = json.value("places", std::vector<std::string>{});
    step.by = json.value("by", "block");
    if (step.by != "block" && step.by != "cylinder" && step.by != "ball")
        throw std::invalid_argument("by is block, cylinder or ball");
    step.axis = json.value("axis", "z");
    if (step.axis != "x" && step.axis != "y" && step.axis != "z") throw std::invalid_argument("axis is x, y or z");
    step.clearance = json.value("clearance", step.clearance);
    step.name = json.value("name", step.name);
    step.without = json.value("without", false);
    if (given(json, "parting")) step.parting = json.at("parting").get<Plane>();
    step.partingBy = json.value("partingBy", "");
    if (step.parting && !step.partingBy.empty())
        throw std::invalid_argument("either a plane or a sheet parts it, not both");
}

Result<Outcome> surround(const Model& model, const Surround& step, Progress& progress) {
    for (const double gap : step.clearance)
        if (!std::isfinite(gap) || std::abs(gap) > 1e9)
            return fail(ProblemKind::BadInput, "A clearance is beyond any machine.");
    auto meant = placesMeant(model, step.places);
    if (!meant) return tl::unexpected(meant.error());
    std::vector<std::size_t> places = std::move(*meant);
    if (step.places.empty()) {
        std::vector<std::size_t> parting;
        if (!step.partingBy.empty()) {
            const auto named = placesNamed(model, {step.partingBy});
            if (!named) return tl::unexpected(named.error());
            parting = *named;
        }
        std::erase_if(places, [&](std::size_t o) {
            return model.parts[model.occurrences[o].part]->lump.has_value() ||
                   std::find(parting.begin(), parting.end(), o) != parting.end();
        });
    }
    Bnd_Box box;
    for (const std::size_t o : places) {
        const TopoDS_Shape& shape = model.parts[model.occurrences[o].part]->shape;
        if (!shape.IsNull()) box.Add(tightBox(shape.Moved(TopLoc_Location(model.occurrences[o].placement))));
    }
    if (box.IsVoid())
        return fail(ProblemKind::NotPossible, "There is nothing to go round.", "Name parts that have a shape.");
    const auto shape = roundShape(box, step);
    if (!shape) return tl::unexpected(shape.error());

    const std::string wanted = step.name.empty() ? "block round" : step.name;
    const bool parted = step.parting || !step.partingBy.empty();
    std::vector<std::pair<std::string, TopoDS_Shape>> made;  // name and shape
    if (!step.without && !parted) {
        made.emplace_back(wanted, *shape);
    } else {
        std::vector<arrange::Input> inputs{{*shape, wanted}};
        if (step.without) {
            auto bodies = inputsOf(model, places, gp_Trsf());
            if (!bodies) return tl::unexpected(bodies.error());
            std::move(bodies->begin(), bodies->end(), std::back_inserter(inputs));
        }
        if (parted) {
            const auto parting = partingShape(model, step, *shape);
            if (!parting) return tl::unexpected(parting.error());
            inputs.push_back({*parting, "the parting"});
        }
        const auto all = arrange::arrange(std::move(inputs), model.samePoint(), progress);
        if (!all) return tl::unexpected(all.error());
        std::vector<int> cells;
        for (const int c : arrange::cellsIn(*all, 0))
            if (all->cells[c].inputs.size() == 1) cells.push_back(c);
        if (cells.empty()) return fail(ProblemKind::NotPossible, "Nothing would be left round the bodies.");
        // By a plane all that lies on one side of it is one half, also in several pieces; a sheet makes its pieces.
        std::vector<std::pair<std::string, std::vector<int>>> halves;
        if (step.parting) {
            const gp_Pln plane = *planeOf(*step.parting);
            std::map<bool, std::vector<int>> bySide;
            for (const int c : cells) {
                const auto alone = arrange::solidsOf(*all, {c});
                if (!alone) return tl::unexpected(alone.error());
                const gp_Pnt centre = skinOf(alone->shape).centre;
                bySide[gp_Vec(plane.Location(), centre).Dot(plane.Axis().Direction()) > 0.0].push_back(c);
            }
            for (const bool side : {true, false})
                if (bySide.contains(side)) halves.emplace_back(wanted + ", " + sideName(plane, side), bySide[side]);
        } else if (parted) {
            for (std::size_t i = 0; i < cells.size(); ++i)
                halves.emplace_back(fmt::format("{}, half {}", wanted, i + 1), std::vector<int>{cells[i]});
        } else {
            halves.emplace_back(wanted, cells);
        }
        if (parted && halves.size() < 2)
            return fail(ProblemKind::NotPossible, fmt::format("The {} is not parted by it.", step.by),
                        "The parting has to reach through it from side to side, round the bodies in it.");
        for (auto& [name, own] : halves) {
            auto chosen = arrange::solidsOf(*all, own);
            if (!chosen) return tl::unexpected(chosen.error());
            made.emplace_back(name, chosen->shape);
        }
    }
    Outcome outcome;
    outcome.model = model;
    for (const auto& [name, own] : made) {
        auto part = std::make_shared<Part>(freeName(outcome.model, name), own);
        outcome.items.push_back({fmt::format("\"{}\" is {} mm³", part->name, readable(volumeOf(own))), true, {}, 0.0});
        outcome.model.occurrences.push_back({outcome.model.parts.size(), gp_Trsf(), part->name, {}, std::nullopt});
        outcome.model.parts.push_back(std::move(part));
    }
    outcome.summary = fmt::format("Put a {}{} round {}", step.by, parted ? " in " + counted(made.size(), "piece") : "",
                                  counted(places.size(), "body", "bodies"));
    return outcome;
}

}  // namespace rasoir::divide
