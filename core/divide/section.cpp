#include "divide/section.h"

#include <fmt/format.h>

#include <Bnd_Box.hxx>
#include <BRepBndLib.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>

#include "arrange/joined.h"
#include "geometry/integrals.h"
#include "model/places.h"
#include "survey/symmetry.h"

// Two arrangements after another. Each solid alone with the plane gives its sheet, so that one bad body stops none of
// the others. Then all sheets together, and a half plane where one side of an axis is wanted: they lie in one plane, so
// where they touch they get the same edges, and where they overlap, pieces of both.

namespace rasoir::divide {
namespace {

struct Cutting {
    gp_Pln plane;
    bool half = false;  // only where its x is not below 0
    std::string told;
};

Result<Cutting> cuttingOf(const Model& model, const CrossSection& step, const std::set<std::size_t>& places) {
    if (!std::isfinite(step.angle)) return fail(ProblemKind::BadInput, "The angle is no number.");
    if (step.plane) {
        const auto plane = planeOf(*step.plane);
        if (!plane) return tl::unexpected(plane.error());
        return Cutting{*plane, false, "the plane"};
    }
    const auto common = survey::commonAxis(model, places);
    if (!common)
        return fail(ProblemKind::NotPossible, "The bodies have no common axis.",
                    "Give a plane, or leave out what is not round.");
    const gp_Dir along = common->axis.Direction();
    const gp_Dir other = std::abs(along.Dot(gp::DX())) < 0.9 ? gp::DX() : gp::DY();
    // The plane's x leads away from the axis, its y along it.
    gp_Vec outwards = gp_Vec(other) - gp_Vec(along) * along.Dot(other);
    outwards.Rotate(common->axis, step.angle * M_PI / 180.0);
    const gp_Dir normal = gp_Dir(outwards).Crossed(along);
    return Cutting{gp_Pln(gp_Ax3(common->axis.Location(), normal, gp_Dir(outwards))), step.half, "their common axis"};
}

/// The half of the plane on one side of its y axis, as a face that reaches beyond a box.
TopoDS_Face halfOver(const gp_Pln& plane, const Bnd_Box& box) {
    const double reach = 2.0 * std::sqrt(box.SquareExtent()) +
                         plane.Location().Distance(gp_Pnt(0.5 * (box.CornerMin().XYZ() + box.CornerMax().XYZ())));
    return BRepBuilderAPI_MakeFace(plane, 0.0, reach, -reach, reach).Face();
}

}  // namespace

std::vector<ParameterInfo> CrossSection::infos() {
    return {{"places", "list of names", "", "Parts or places; empty: all that is not set aside.", Json::array()},
            {"plane", "plane", "mm", "Model coordinates; none: through the common axis.", Json::object()},
            {"angle", "number", "degrees", "Of the plane about the axis.", 0.0},
            {"half", "yes or no", "", "Through an axis: one side of it only.", true},
            {"flat", "yes or no", "", "Through an axis: brought to XY, the axis on Y.", true}};
}
void to_json(Json& json, const CrossSection& step) {
    json = Json::object();
    if (!step.places.empty()) json["places"] = step.places;
    if (step.plane) json["plane"] = *step.plane;
    if (step.angle != 0.0) json["angle"] = step.angle;
    if (!step.half) json["half"] = false;
    if (!step.flat) json["flat"] = false;
}
void from_json(const Json& json, CrossSection& step) {
    step.places = json.value("places", std::vector<std::string>{});
    if (given(json, "plane")) step.plane = json.at("plane").get<Plane>();
    step.angle = json.value("angle", 0.0);
    step.half = json.value("half", true);
    step.flat = json.value("flat", true);
}

Result<Outcome> crossSection(const Model& received, const CrossSection& step, Progress& progress) {
    Model model = received;
    model.giveIds();
    const auto meant = placesMeant(model, step.places);
    if (!meant) return tl::unexpected(meant.error());
    std::set<std::size_t> wanted(meant->begin(), meant->end());
    const auto cutting = cuttingOf(model, step, wanted);
    if (!cutting) return tl::unexpected(cutting.error());
    const double tolerance = model.samePoint();
    Outcome outcome;
    outcome.model = model;
    std::vector<std::size_t> places;
    std::vector<arrange::Input> inputs;
    const auto missed = [&](std::size_t o, const std::string& why, std::optional<Problem> problem = std::nullopt) {
        outcome.model.occurrences.change(o).aside = true;
        Item item{placeName(model, o), false, {}, 0.0};
        item.problem = problem.value_or(Problem{ProblemKind::NotPossible,
                                                fmt::format("\"{}\" {}: set aside.", placeName(model, o), why),
                                                {placeName(model, o), {}, {}},
                                                {}});
        outcome.items.push_back(std::move(item));
    };
    std::size_t done = 0;
    for (const std::size_t o : wanted) {
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        progress.report(0.6 * static_cast<double>(done++) / static_cast<double>(wanted.size()), "Cutting the bodies");
        const Part& part = *model.parts[model.occurrences[o].part];
        if (part.lump || part.kind() != BodyKind::Solid) {
            missed(o, "is no solid");
            continue;
        }
        const gp_Trsf& move = model.occurrences[o].placement;
        const TopoDS_Shape body = move.Form() == gp_Identity ? part.shape : part.shape.Moved(TopLoc_Location(move));
        Bnd_Box box;
        BRepBndLib::Add(body, box, false);
        const TopoDS_Face face = faceAcross(cutting->plane, box, tolerance);
        if (face.IsNull()) {
            missed(o, "is missed");
            continue;
        }
        const auto all = arrange::arrange({{body, placeName(model, o)}, {face, "the plane"}}, tolerance, progress);
        if (!all) {
            if (all.error().kind == ProblemKind::Cancelled) return tl::unexpected(all.error());
            missed(o, "cannot be cut", all.error());
            continue;
        }
        const auto pieces = arrange::piecesWithin(*all, 1, 0);
        if (pieces.empty()) {
            missed(o, "is missed");
            continue;
        }
        auto sheet = arrange::sheetOf(*all, pieces);
        if (!sheet) {
            missed(o, "cannot be cut", sheet.error());
            continue;
        }
        places.push_back(o);
        inputs.push_back({sheet->shape, placeName(model, o)});
    }
    if (places.empty()) {
        for (const Item& item : outcome.items)
            if (item.problem.what.find("missed") == std::string::npos) return tl::unexpected(item.problem);
        return fail(ProblemKind::NothingToDo, "The plane meets no solid.", "Move it.");
    }
    std::vector<std::string> names;
    Bnd_Box everything;
    for (const arrange::Input& input : inputs) {
        names.push_back(input.name);
        BRepBndLib::Add(input.shape, everything, false);
    }
    // The half is taken from the flat sheets: a half plane that ends within a body would not part it.
    const int half = cutting->half ? static_cast<int>(inputs.size()) : -1;
    if (half >= 0) inputs.push_back({halfOver(cutting->plane, everything), "the half plane"});
    const auto all = arrange::arrange(std::move(inputs), tolerance, progress);
    if (!all) return tl::unexpected(all.error());
    std::vector<std::vector<std::pair<int, bool>>> mine(places.size());
    std::map<std::pair<int, int>, double> overlaps;
    for (std::size_t p = 0; p < all->pieces.size(); ++p) {
        auto owners = all->pieces[p].owners;
        if (half >= 0 && std::erase_if(owners, [half](const arrange::Owner& one) { return one.input == half; }) == 0)
            continue;
        if (owners.empty()) continue;
        const auto first = std::min_element(owners.begin(), owners.end(),
                                            [](const auto& a, const auto& b) { return a.input < b.input; });
        const bool reversed = (all->faceOf(*first).Orientation() == TopAbs_REVERSED) != first->reversed;
        mine[static_cast<std::size_t>(first->input)].emplace_back(static_cast<int>(p), reversed);
        for (const arrange::Owner& owner : owners)
            if (owner.input != first->input) ++overlaps[{first->input, owner.input}];
    }
    std::vector<std::optional<arrange::Chosen>> sheets(places.size());
    std::vector<PlaceId> ids;
    for (std::size_t i = 0; i < places.size(); ++i) {
        ids.push_back(model.occurrences[places[i]].id);
        if (mine[i].empty()) continue;
        auto sheet = arrange::sheetOf(*all, mine[i]);
        if (!sheet) return tl::unexpected(sheet.error());
        sheets[i] = std::move(*sheet);
    }
    gp_Trsf flat;
    if (!step.plane && step.flat) {
        // Axis on Y, the outward direction on X. Heights along the axis count from where the axis has its origin.
        flat.SetDisplacement(cutting->plane.Position(), gp_Ax3(gp::Origin(), gp::DZ(), gp::DX()));
    }
    std::size_t shared = 0;
    for (arrange::Shared& one : arrange::sharedBy(*all, sheets, ids)) {
        shared += one.joint.kind == EntityKind::Edge;
        outcome.model.joints.push_back(std::move(one.joint));
        ++outcome.jointsMade;
    }
    std::set<std::size_t> cut;
    for (std::size_t i = 0; i < places.size(); ++i) {
        Occurrence& place = outcome.model.occurrences.change(places[i]);
        if (!sheets[i]) {
            missed(places[i], "lies wholly in others");
            continue;
        }
        const Part& part = *model.parts[place.part];
        auto fresh = std::make_shared<Part>(
            freeName(outcome.model, part.name + ", section"),
            flat.Form() == gp_Identity ? sheets[i]->shape : sheets[i]->shape.Moved(TopLoc_Location(flat)));
        fresh->colour = part.colour;
        fresh->material = part.material;
        fresh->attributes = part.attributes;
        place.part = outcome.model.parts.size();
        place.placement = gp_Trsf();
        place.name = fresh->name;
        outcome.items.push_back({fmt::format("\"{}\": {} mm² in {}", names[i], readable(areaOf(sheets[i]->shape)),
                                             counted(mine[i].size(), "face")),
                                 true,
                                 {},
                                 0.0});
        outcome.model.parts.push_back(std::move(fresh));
        cut.insert(places[i]);
    }
    std::size_t others = 0;
    for (std::size_t o = 0; o < model.occurrences.size(); ++o)
        if (!wanted.contains(o) && !model.occurrences[o].aside) {
            outcome.model.occurrences.change(o).aside = true;
            ++others;
        }
    if (others > 0)
        outcome.notes.push_back(
            fmt::format("{} that were not asked for are set aside.", counted(others, "body", "bodies")));
    outcome.model.dropUnusedParts();
    for (const auto& [pair, count] : overlaps)
        outcome.notes.push_back(
            fmt::format("\"{}\" and \"{}\" reach into one another: what they have in common is the first one's.",
                        names[static_cast<std::size_t>(pair.first)], names[static_cast<std::size_t>(pair.second)]));
    outcome.summary = fmt::format("Cross-section of {} through {}, {}", counted(cut.size(), "body", "bodies"),
                                  cutting->told, counted(shared, "common edge"));
    progress.report(1.0, outcome.summary);
    return outcome;
}

}  // namespace rasoir::divide
