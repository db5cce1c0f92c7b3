#include "reduce/sheet_from_faces.h"

#include <fmt/format.h>

#include <BRepCheck_Analyzer.hxx>

#include "common/sets.h"
#include "geometry/face_points.h"
#include "geometry/integrals.h"
#include "geometry/moved_surface.h"
#include "geometry/ray_field.h"
#include "geometry/round_surface.h"
#include "model/lineage_builder.h"
#include "model/places.h"
#include "reduce/beside.h"
#include "reduce/freeform_walls.h"
#include "reduce/smooth_middles.h"
#include "reduce/wall_side.h"
#include "topology/edge_angle.h"
#include "topology/making.h"

namespace rasoir::reduce {
namespace {

/// A wall that has one side, to be laid `depth` [mm] behind it. None where the surface folds or vanishes there.
std::optional<Wall> wallBehind(const Part& part, int face, double depth) {
    const TopoDS_Face shape = part.incidence().face(face);
    Wall wall;
    wall.sideA = {face};
    wall.thickness = 2.0 * depth;
    wall.where = part.incidence().skin(face).centre;
    if (depth == 0.0) {
        wall.freeform = true;  // whatever it is, its middle is taken as it stands
        wall.middle = copiedSurface(shape).first;
        return wall;
    }
    wall.middle = offsetSurface(shape, -depth);
    if (!wall.middle.IsNull()) return wall;
    if (surfaceKind(shape) <= SurfaceKind::Torus) return std::nullopt;
    wall.freeform = true;
    wall.middle = freeformOffset(shape, -depth, depth, 2e-4 * depth);  // as for walls that are found
    return wall.middle.IsNull() ? std::nullopt : std::optional(wall);
}

/// How thick the wall behind some faces is, straight through it.
Result<double> measuredBehind(const Part& part, const std::set<int>& faces, Progress& progress) {
    const RayField skin(aloneInPlace(std::make_shared<Part>(part)), {}, RayField::usualDeviation, progress);
    double least = 1e300, most = 0.0, sum = 0.0;
    std::size_t count = 0, asked = 0;
    for (const int f : faces)
        for (const SkinSample& one : skinSamples(part.incidence().face(f), 8)) {
            ++asked;
            const gp_Dir inwards(one.out.Reversed());
            const auto hit = skin.first(one.at, inwards, skin.skin());
            if (!hit || hit->face == f || hit->normal.Dot(gp_Vec(inwards)) < 0.9) continue;
            // The rays know triangles, the surface is exact.
            const double through = footWithin(sideOf(part.incidence().face(hit->face)), one.at).value_or(hit->distance);
            least = std::min(least, through);
            most = std::max(most, through);
            sum += through;
            ++count;
        }
    const Place where{part.name, {faces.begin(), faces.end()}, part.incidence().skin(*faces.begin()).centre};
    if (2 * count < asked || count == 0)
        return fail(
            ProblemKind::NotPossible,
            fmt::format("What lies behind {} of \"{}\" does not face them.", counted(faces.size(), "face"), part.name),
            "Type the thickness.", where);
    const double mean = sum / static_cast<double>(count);
    constexpr double constant = 0.05;  // as for walls that are found
    if (most - least > 2.0 * constant * mean)
        return fail(ProblemKind::NotPossible,
                    fmt::format("Behind {} of \"{}\" it is {} to {} mm thick.", counted(faces.size(), "face"),
                                part.name, readable(least), readable(most)),
                    "Type the thickness, or take fewer faces at once.", where);
    return mean;
}

/// Sets of faces that run on into each other.
std::vector<std::vector<int>> smoothSets(const Incidence& topology, const std::set<int>& faces) {
    Sets sets(static_cast<std::size_t>(topology.faceCount()) + 1);
    for (const int f : faces)
        for (const int e : topology.edgesOf(f)) {
            const auto uses = topology.usesOf(e);
            if (uses.size() == 2 && faces.contains(uses[0].face) && faces.contains(uses[1].face) &&
                edgeAngle(topology, e, smoothInFiles).kind == EdgeKind::Smooth)
                sets.join(uses[0].face, uses[1].face);
        }
    std::map<int, std::vector<int>> byRoot;
    for (const int f : faces) byRoot[sets.root(f)].push_back(f);
    std::vector<std::vector<int>> all;
    for (auto& [root, own] : byRoot) all.push_back(std::move(own));
    return all;
}

}  // namespace

std::vector<ParameterInfo> SheetFrom::infos() {
    return {{"faces", "list of face references", "", "One side of the wall.", Json::array()},
            {"thickness", "number", "mm", "Of the wall behind them; 0: as measured straight through.", 0.0},
            {"position", "word", "", "middle: half the thickness behind the faces; skin: on them.", "middle"},
            {"name", "text", "", "Of the sheet; empty: after the part.", ""}};
}
void to_json(Json& json, const SheetFrom& step) {
    json = Json{{"faces", step.faces}, {"thickness", step.thickness}};
    if (step.position != "middle") json["position"] = step.position;
    if (!step.name.empty()) json["name"] = step.name;
}
void from_json(const Json& json, SheetFrom& step) {
    step.faces = json.value("faces", std::vector<FaceRef>{});
    step.thickness = json.value("thickness", 0.0);
    step.position = json.value("position", std::string("middle"));
    step.name = json.value("name", std::string());
}

Result<Outcome> sheetFrom(const Model& received, const SheetFrom& step, Progress& progress) {
    if (step.faces.empty()) return fail(ProblemKind::BadInput, "No face is named.", "Pick one side of the wall.");
    const bool measured = step.thickness == 0.0;
    if (!std::isfinite(step.thickness) || (!measured && step.thickness < 10.0 * received.samePoint()))
        return fail(ProblemKind::BadInput, "That is no thickness that a wall could have.");
    if (step.position != "middle" && step.position != "skin")
        return fail(ProblemKind::BadInput, fmt::format("\"{}\" is no position of a sheet.", step.position),
                    "Say middle or skin.");
    Outcome outcome;
    outcome.model = received;
    outcome.model.giveIds();
    std::map<std::size_t, std::set<int>> wanted;
    for (const FaceRef& face : step.faces) {
        const auto found = findFace(outcome.model, face);
        if (!found) return tl::unexpected(found.error());
        wanted[found->part].insert(found->face);
    }
    const bool onSkin = step.position == "skin";
    std::size_t count = 0;
    for (const auto& [p, faces] : wanted) {
        const std::shared_ptr<const Part> part = outcome.model.parts[p];
        const Incidence& topology = part->incidence();
        double thick = step.thickness;
        if (measured) {
            const auto through = measuredBehind(*part, faces, progress);
            if (!through) return tl::unexpected(through.error());
            thick = *through;
        }
        std::vector<TopoDS_Shape> shells;
        const auto sets = smoothSets(topology, faces);
        for (const std::vector<int>& set : sets) {
            std::vector<Wall> walls;
            std::vector<std::pair<int, int>> own;
            for (const int f : set) {
                auto wall = wallBehind(*part, f, onSkin ? 0.0 : 0.5 * thick);
                if (!wall)
                    return fail(ProblemKind::NotPossible,
                                fmt::format("Face {} of \"{}\" cannot lie {} mm farther in: it would fold, or nothing "
                                            "would be left of it.",
                                            f, part->name, readable(0.5 * thick)),
                                "Take the faces on the other side of the wall, or leave that face out.",
                                {part->name, {f}, topology.skin(f).centre});
                own.emplace_back(f, static_cast<int>(walls.size()));
                walls.push_back(std::move(*wall));
            }
            const auto made = sheetBehind(*part, walls, own);
            if (!made || !BRepCheck_Analyzer(made->shape).IsValid())
                return fail(ProblemKind::NotPossible,
                            fmt::format("The sheet of {} of \"{}\" would not hang together.",
                                        counted(set.size(), "face"), part->name),
                            "Take fewer faces at once.", {part->name, set, topology.skin(set.front()).centre});
            shells.push_back(made->shape);
        }
        const TopoDS_Shape shape = gathered(shells);
        const Incidence now(shape);
        // In the order in which they were given to it, each set's faces are the shell's.
        LineageBuilder lineage(topology, shape);
        int at = 0;
        for (const std::vector<int>& set : sets)
            for (const int f : set) lineage.face(f, now.face(++at));
        PartLineage same = LineageBuilder(topology, part->shape).finish();
        same.part = p;
        same.into = p;
        outcome.lineage.push_back(std::move(same));
        const std::size_t fresh =
            addBeside(outcome, p, shape, lineage.finish(), step.name.empty() ? part->name + ", sheet" : step.name);
        auto sheet = outcome.model.parts[fresh]->copy();
        sheet->standsFor = part;
        double area = 0.0;
        for (int f = 1; f <= now.faceCount(); ++f) {
            Thickness thickness;
            thickness.at = thick;
            thickness.from = now.skin(f).centre;
            // Its faces look out of the solid as they did, so the wall lies below.
            thickness.offset = onSkin ? -0.5 * thick : 0.0;
            sheet->known.thickness[{EntityKind::Face, f}] = thickness;
            area += now.area(f);
        }
        outcome.model.parts[fresh] = std::move(sheet);
        outcome.items.push_back(
            {fmt::format("\"{}\": {} in {}, {} mm²", outcome.model.parts[fresh]->name, counted(faces.size(), "face"),
                         counted(shells.size(), "piece"), readable(area)),
             true,
             {},
             thick});
        if (shells.size() > 1)
            outcome.notes.push_back(
                fmt::format("The faces of \"{}\" meet at an angle: {} that can be carried on and "
                            "joined.",
                            part->name, counted(shells.size(), "sheet")));
        count += faces.size();
    }
    outcome.model.giveIds();
    outcome.summary =
        measured ? fmt::format("Make a sheet of {}", counted(count, "face"))
                 : fmt::format("Make a sheet of {}, {} mm thick", counted(count, "face"), readable(step.thickness));
    progress.report(1.0, outcome.summary);
    return outcome;
}

}  // namespace rasoir::reduce
