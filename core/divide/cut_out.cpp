#include "divide/cut_out.h"

#include <fmt/format.h>

#include <Bnd_Box.hxx>
#include <BRepBndLib.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <TopoDS.hxx>

#include "arrange/choice.h"
#include "common/tolerance.h"
#include "divide/cutters.h"
#include "divide/parted.h"
#include "geometry/integrals.h"
#include "geometry/round_surface.h"

namespace rasoir::divide {
namespace {

/// The face at which an outline that is pushed down ends, carried on. `frame`: of the outline, z out of the body.
Result<TopoDS_Face> floorOf(const Model& model, const Part& part, std::size_t index, const FaceRef& reference,
                            const gp_Ax3& frame, const Bnd_Box& box) {
    const auto found = findFace(model, reference);
    if (!found) return tl::unexpected(found.error());
    if (found->part != index)
        return fail(ProblemKind::NotPossible, "The face at which the outline shall end is another part's.",
                    "Pick a face of the same part.", {part.name, {}, reference.centre});
    if (surfaceKind(part.incidence().face(found->face)) != SurfaceKind::Plane)
        return faceCarriedOn(part, found->face, 0.0, box);
    const auto plane = planeOf(model, reference, 0.0);
    if (!plane) return tl::unexpected(plane.error());
    if (std::abs(plane->Axis().Direction().Dot(frame.Direction())) < Tolerance::sameDirection)
        return fail(ProblemKind::NotPossible, "The face at which the outline shall end stands upright under it.",
                    "Pick a face that lies across.", {part.name, {found->face}, reference.centre});
    return faceAcross(*plane, box, 1e300);
}

/// Cells of the tool that are reached from the face it starts at without passing the floor (input 2).
std::set<int> reachedFrom(const arrange::Arrangement& all, int startFace) {
    const auto owns = [](const arrange::Piece& piece, int input, int number) {
        return std::any_of(piece.owners.begin(), piece.owners.end(), [&](const arrange::Owner& owner) {
            return owner.input == input && (number == 0 || owner.number == number);
        });
    };
    std::set<int> reached;
    std::vector<int> next;
    const auto reach = [&](int cell) {
        if (all.cells[static_cast<std::size_t>(cell)].inputs.contains(1) && reached.insert(cell).second)
            next.push_back(cell);
    };
    for (const arrange::Piece& piece : all.pieces)
        if (owns(piece, 0, startFace))
            for (const int cell : {piece.plusCell, piece.minusCell})
                if (all.cells[static_cast<std::size_t>(cell)].inputs.contains(0)) reach(cell);
    while (!next.empty()) {
        const int cell = next.back();
        next.pop_back();
        for (const auto& [p, plus] : all.cells[static_cast<std::size_t>(cell)].sides) {
            const arrange::Piece& piece = all.pieces[static_cast<std::size_t>(p)];
            if (!owns(piece, 2, 0)) reach(plus ? piece.minusCell : piece.plusCell);
        }
    }
    return reached;
}

}  // namespace

std::vector<ParameterInfo> CutOut::infos() {
    return {{"face", "face", "", "The flat face that the outline is drawn on.", Json::object()},
            {"outline", "outline", "mm", "A closed outline; as of divide.partFace.", Json::object()},
            {"depth", "number", "mm", "How deep; 0: all through.", 0.0},
            {"to", "face", "", "Instead of a depth: the face of the body at which it ends.", Json::object()}};
}
void to_json(Json& json, const CutOut& step) {
    json = Json{{"face", step.face}, {"outline", step.outline}, {"depth", step.depth}};
    if (step.to) json["to"] = *step.to;
}
void from_json(const Json& json, CutOut& step) {
    step.face = json.at("face").get<FaceRef>();
    step.outline = json.at("outline").get<Outline>();
    if (!step.outline.closed()) throw std::invalid_argument("only a closed outline can be cut out");
    step.depth = json.value("depth", 0.0);
    if (given(json, "to")) step.to = json.at("to").get<FaceRef>();
    if (step.to && step.depth != 0.0) throw std::invalid_argument("either a depth or a face says how deep, not both");
}

Result<Outcome> cutOut(const Model& model, const CutOut& step, Progress& progress) {
    if (auto bad = badNumber({step.depth})) return tl::unexpected(*bad);
    if (step.depth < 0.0) return fail(ProblemKind::BadInput, "The depth is below 0.", "It is measured into the body.");
    const auto face = findFaceAt(model, step.face, step.outline.along);
    if (!face) return tl::unexpected(face.error());
    const Part& part = *model.parts[face->part];
    if (part.incidence().bodyOf(face->face) < 0)
        return fail(ProblemKind::NotPossible, "An outline is cut out of a solid; this is a sheet.",
                    "Part the face, then delete the piece.", {part.name, {face->face}, {}});
    const auto now = resolved(model, step.outline);
    if (!now) return tl::unexpected(now.error());
    const Outline& outline = *now;
    const auto frame = frameOf(part, face->face, outline);
    if (!frame) return tl::unexpected(frame.error());
    const auto line = drawn(outline, *frame, 0.0);
    if (!line) return tl::unexpected(line.error());
    Bnd_Box box;
    BRepBndLib::Add(part.shape, box, false);
    const double through = 1.1 * std::sqrt(box.SquareExtent()), depth = step.depth > 0.0 ? step.depth : through;
    // The tool begins a little above the face, so that no two flats have to be told apart that are meant to be one.
    const double above = 0.1 * std::min(depth, through);
    gp_Trsf up;
    up.SetTranslation(gp_Vec(frame->Direction()) * above);
    const TopoDS_Face lid = BRepBuilderAPI_MakeFace(TopoDS::Wire(line->Moved(TopLoc_Location(up))), true).Face();
    const TopoDS_Shape tool = BRepPrimAPI_MakePrism(lid, gp_Vec(frame->Direction()) * -(depth + above)).Shape();
    const double before = volumeOf(part.shape);
    std::vector<arrange::Input> inputs{{part.shape, part.name}, {tool, "the outline"}};
    // Down to a face: that face, carried on, divides what the outline would take; only what lies before it goes.
    if (step.to) {
        auto floor = floorOf(model, part, face->part, *step.to, *frame, box);
        if (!floor) return tl::unexpected(floor.error());
        inputs.push_back({*floor, "the face at which it ends"});
    }
    const auto all = arrange::arrange(std::move(inputs), model.samePoint(), progress);
    if (!all) return tl::unexpected(all.error());
    const std::set<int> reached = step.to ? reachedFrom(*all, face->face) : std::set<int>();
    if (step.to && reached.size() == arrange::cellsIn(*all, 1).size())
        return fail(ProblemKind::NotPossible, "Below the outline lies nothing of the face at which it shall end.",
                    "Pick a face across its way, or give a depth.", {part.name, {face->face}, step.to->centre});
    std::vector<int> cells;
    bool met = false;
    for (const int cell : arrange::cellsIn(*all, 0)) {
        const bool taken = step.to ? reached.contains(cell) : all->cells[cell].inputs.contains(1);
        met = met || taken;
        if (!taken) cells.push_back(cell);
    }
    if (!met || cells.empty())
        return fail(ProblemKind::NotPossible,
                    met ? "Nothing would be left of the body." : "The outline does not reach into the body.",
                    "Move it, or make it smaller.", {part.name, {face->face}, frame->Location()});
    auto chosen = arrange::solidsOf(*all, cells, {1});
    if (!chosen) return tl::unexpected(chosen.error());
    Outcome outcome;
    outcome.model = model;
    PartLineage lineage = chosen->lineage.at(0);
    lineage.part = face->part;
    outcome.model.parts[face->part] = part.withShape(chosen->shape, lineage);
    outcome.lineage.push_back(std::move(lineage));
    const double gone = before - chosen->volume;
    outcome.items.push_back({fmt::format("\"{}\" has {} mm³ less{}", part.name, readable(gone),
                                         chosen->solids > 1 ? " and came apart" : ""),
                             true,
                             {},
                             0.0});
    outcome.summary =
        fmt::format("Cut a {} out of {}", outline.shape == "closedPolyline" ? "polyline" : outline.shape, part.name);
    return outcome;
}

}  // namespace rasoir::divide
