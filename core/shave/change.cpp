#include "shave/change.h"

#include <fmt/format.h>

#include <BRep_Tool.hxx>
#include <BRepTools.hxx>
#include <Geom_ConicalSurface.hxx>
#include <Geom_CylindricalSurface.hxx>
#include <Geom_Plane.hxx>
#include <Geom_SphericalSurface.hxx>
#include <Geom_ToroidalSurface.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <gp_Cone.hxx>
#include <gp_Cylinder.hxx>
#include <gp_Pln.hxx>
#include <gp_Sphere.hxx>
#include <gp_Torus.hxx>
#include <map>
#include <set>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>

#include "common/guard.h"
#include "common/tolerance.h"
#include "geometry/curves.h"
#include "geometry/edge_probe.h"
#include "geometry/integrals.h"
#include "geometry/moved_surface.h"
#include "geometry/round_surface.h"
#include "heal/resurface.h"
#include "model/places.h"
#include "shave/on_surfaces.h"
#include "shave/rounding.h"

namespace rasoir::shave {
namespace {

using Surface = Handle(Geom_Surface);
using Objection = SurfaceObjection;

/// The faces of one surface that hang together with this one.
std::set<int> piecesOf(const Incidence& topology, int face) {
    std::set<int> pieces{face};
    std::vector<int> row{face};
    for (std::size_t i = 0; i < row.size(); ++i)
        for (const int g : topology.neighboursOf(row[i]))
            if (!pieces.contains(g) && sameSurface(topology.face(face), topology.face(g), Tolerance::samePlace)) {
                pieces.insert(g);
                row.push_back(g);
            }
    return pieces;
}

/// One group of faces on new surfaces in the part as the model has it; how far a corner moved [mm], or why it stays.
Result<double> changeIn(Outcome& outcome, std::size_t p, const std::map<int, Surface>& surfaces, double tolerance,
                        const Objection& objection, Progress* withRounds = nullptr) {
    const Part& part = *outcome.model.parts[p];
    auto made = onSurfaces(part, surfaces, tolerance, objection, withRounds);
    if (!made) return tl::unexpected(made.error());
    put(outcome, p, std::move(made->made));
    return made->moved;
}

}  // namespace

// --- moving
// ------------------------------------------------------------------------------------------------------------------

std::vector<ParameterInfo> MoveFaces::infos() {
    return {{"faces", "list of face references", "", "The faces to move.", Json::array()},
            {"by", "number", "mm", "Outwards, away from the material; negative: inwards.", 0.0},
            {"to", "point", "mm",
             "Instead of by: a point that the face is to pass through, in the part's coordinates; empty: none.",
             Json::array()},
            {"onto", "face reference", "",
             "Instead of by: a face of the same part with which it becomes coplanar or coaxial; empty: none.",
             Json::object()}};
}
void to_json(Json& json, const MoveFaces& step) {
    json = Json{{"faces", step.faces}};
    if (step.to)
        json["to"] = *step.to;
    else if (step.onto)
        json["onto"] = *step.onto;
    else
        json["by"] = step.by;
}
void from_json(const Json& json, MoveFaces& step) {
    step.faces = json.at("faces").get<std::vector<FaceRef>>();
    step.by = json.value("by", 0.0);
    if (json.contains("to") && !json["to"].empty()) step.to = json["to"].get<std::array<double, 3>>();
    if (json.contains("onto") && !json["onto"].empty()) step.onto = json["onto"].get<FaceRef>();
}

Result<Outcome> moveFaces(const Model& model, const MoveFaces& step, Progress& progress) {
    if (step.faces.empty()) return fail(ProblemKind::BadInput, "No faces were named.", "Pick the faces to move.");
    if (!step.to && !step.onto && (!std::isfinite(step.by) || step.by == 0.0))
        return fail(ProblemKind::BadInput, "The distance must be a length other than zero.");
    if (step.to && !std::all_of(step.to->begin(), step.to->end(), [](double c) { return std::isfinite(c); }))
        return fail(ProblemKind::BadInput, "A point is not finite.");
    std::map<std::size_t, std::set<int>> wanted;
    for (const FaceRef& reference : step.faces) {
        const auto found = findFace(model, reference);
        if (!found) return tl::unexpected(found.error());
        wanted[found->part].insert(found->face);
    }
    std::optional<FoundFace> target;
    if (step.onto) {
        const auto found = findFace(model, *step.onto);
        if (!found) return tl::unexpected(found.error());
        target = *found;
    }
    Outcome outcome;
    outcome.model = model;
    for (const auto& [p, named] : wanted) {
        const Part& part = *model.parts[p];
        const Incidence& topology = part.incidence();
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        if (target && target->part != p)
            return impossible(part, *named.begin(), "belongs to another part than the one it is to lie on");
        std::set<int> all;
        for (const int f : named) all.merge(piecesOf(topology, f));
        std::map<int, Surface> surfaces;
        double area = 0.0;
        for (const int f : all) {
            const TopoDS_Face face = topology.face(f);
            const Surface made = step.to  ? surfaceThrough(face, gp_Pnt((*step.to)[0], (*step.to)[1], (*step.to)[2]))
                                 : target ? alignedSurface(face, topology.face(target->face))
                                          : offsetSurface(face, step.by);
            if (made.IsNull())
                return impossible(part, f,
                                  target
                                      ? "is not of the kind and direction of the other, so it cannot be aligned with it"
                                      : "is freeform, or nothing would be left of it");
            surfaces.emplace(f, made);
            area += areaOf(face);
        }
        const bool isOffset = !step.to && !target;
        const double rim = 3.0 * std::abs(step.by);
        const auto objection = [&](const heal::Resurfaced& made) -> std::optional<std::string> {
            // Outwards the body grows, inwards it shrinks, about by the faces' area: anything else has turned something
            // inside out.
            if (!isOffset || made.change * step.by > 0.0) {
                if (!isOffset || std::abs(made.change) <= 2.0 * std::abs(step.by) * area + rim * rim * rim)
                    return std::nullopt;
            }
            return std::string("would turn the body inside out there");
        };
        const std::string what = fmt::format("{} of {}", counted(all.size(), "face"), part.name);
        const auto moved = changeIn(outcome, p, surfaces, model.samePoint(), objection, &progress);
        if (moved)
            outcome.items.push_back(
                {fmt::format("{} moved; no corner farther than {} mm", what, readable(*moved)), true, {}, *moved});
        else
            outcome.items.push_back({what, false, moved.error(), std::abs(step.by)});
    }
    return finished(std::move(outcome),
                    target    ? "Align faces"
                    : step.to ? "Move faces to a point"
                              : fmt::format("Move {} by {} mm", counted(step.faces.size(), "face"), readable(step.by)),
                    "Nothing was moved.");
}

// --- holes
// ---------------------------------------------------------------------------------------------------------------------

std::vector<ParameterInfo> ResizeHoles::infos() {
    return {{"holes", "list of face references", "", "Any one cylindrical face of each hole or pin.", Json::array()},
            {"diameter", "number", "mm", "The diameter it gets.", 0.0}};
}
void to_json(Json& json, const ResizeHoles& step) {
    json = Json{{"holes", step.holes}, {"diameter", step.diameter}};
}
void from_json(const Json& json, ResizeHoles& step) {
    step.holes = json.at("holes").get<std::vector<FaceRef>>();
    step.diameter = json.at("diameter").get<double>();
}

Result<Outcome> resizeHoles(const Model& model, const ResizeHoles& step, Progress& progress) {
    if (step.holes.empty()) return fail(ProblemKind::BadInput, "No holes were named.", "Pick a wall of each.");
    if (!(step.diameter > 0.0) || !std::isfinite(step.diameter))
        return fail(ProblemKind::BadInput, "The diameter must be a positive length.");
    Outcome outcome;
    outcome.model = model;
    std::set<std::pair<std::size_t, int>> done;
    for (const FaceRef& reference : step.holes) {
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        // Faces keep their numbers: resurfacing replaces each in its place.
        const auto found = findFace(model, reference);
        if (!found) return tl::unexpected(found.error());
        const Part& part = *outcome.model.parts[found->part];
        const Incidence& topology = model.parts[found->part]->incidence();
        if (done.contains({found->part, found->face})) continue;
        const auto round = roundSurface(topology.face(found->face));
        if (!round || round->kind != SurfaceKind::Cylinder) return impossible(part, found->face, "is no cylinder");
        std::map<int, Surface> surfaces;
        for (const int f : piecesOf(topology, found->face)) {
            done.insert({found->part, f});
            // Its number now: earlier holes of the same part have been through.
            int now = f;
            for (const PartLineage& own : outcome.lineage)
                if (own.part == found->part)
                    for (const Link& link : own.faces())
                        if (link.before == f) now = link.after;
            const TopoDS_Face face = part.incidence().face(now);
            Surface made = BRep_Tool::Surface(face)->IsKind(STANDARD_TYPE(Geom_CylindricalSurface))
                               ? copiedSurface(face).first
                               : Surface();
            if (made.IsNull()) return impossible(part, f, "came as a spline: simplify it first");
            Handle(Geom_CylindricalSurface)::DownCast(made)->SetRadius(0.5 * step.diameter);
            surfaces.emplace(now, made);
        }
        const std::string what = fmt::format("{} {} mm in diameter in {}", round->inward ? "hole" : "pin",
                                             readable(2.0 * round->radius), part.name);
        const bool grows = (0.5 * step.diameter < round->radius) == round->inward;
        const auto moved = changeIn(
            outcome, found->part, surfaces, model.samePoint(),
            [grows](const heal::Resurfaced& made) {
                return (made.change > 0.0) == grows ? std::optional<std::string>()
                                                    : std::string("would turn the body inside out there");
            },
            &progress);
        if (moved)
            outcome.items.push_back(
                {what + fmt::format(" is {} mm now", readable(step.diameter)), true, {}, step.diameter});
        else
            outcome.items.push_back({what, false, moved.error(), 2.0 * round->radius});
    }
    const std::size_t changed = doneIn(outcome);
    return finished(std::move(outcome),
                    fmt::format("Set {} to {} mm", counted(changed, "hole"), readable(step.diameter)),
                    "Nothing was changed.");
}

// --- splines
// -------------------------------------------------------------------------------------------------------------------

namespace {

/// What a spline face is within `tolerance`; null if it is none of these. `off` [mm]: how far it deviates.
Surface simpleSurface(const TopoDS_Face& face, double tolerance, double& off) {
    const Surface own = BRep_Tool::Surface(face);
    double u0, u1, v0, v1;
    BRepTools::UVBounds(face, u0, u1, v0, v1);
    std::vector<gp_Pnt> points;
    for (int i = 0; i <= 8; ++i)
        for (int j = 0; j <= 8; ++j) points.push_back(own->Value(u0 + (u1 - u0) * i / 8, v0 + (v1 - v0) * j / 8));
    gp_Pnt at;
    gp_Vec du, dv;
    own->D1(0.5 * (u0 + u1), 0.5 * (v0 + v1), at, du, dv);
    std::vector<Surface> candidates;
    if (du.Crossed(dv).SquareMagnitude() > Tolerance::noLengthSquare) {
        // The plane through three far corners: the normal in the middle alone would tilt it.
        const gp_Vec a(points[0], points[8]), b(points[0], points[72]);
        if (a.Crossed(b).SquareMagnitude() > Tolerance::noLengthSquare)
            candidates.push_back(new Geom_Plane(points[0], gp_Dir(a.Crossed(b))));
    }
    if (const auto round = roundSurface(face, tolerance)) {
        // The seam where it was on a face that closes on itself, else opposite.
        const bool closes =
            own->Value(u0, 0.5 * (v0 + v1)).Distance(own->Value(u1, 0.5 * (v0 + v1))) <= 10.0 * tolerance;
        gp_Vec out(round->axis.Location(), closes ? own->Value(u0, 0.5 * (v0 + v1)) : at);
        if (closes) out.Reverse();
        out -= gp_Vec(round->axis.Direction()) * out.Dot(gp_Vec(round->axis.Direction()));
        const gp_Dir across =
            out.Magnitude() > Tolerance::noWay
                ? gp_Dir(out.Reversed())
                : gp_Ax2(round->axis.Location(), round->axis.Direction()).XDirection();  // the seam lies opposite
        const gp_Ax3 place(round->axis.Location(), round->axis.Direction(), across);
        switch (round->kind) {
            case SurfaceKind::Cylinder:
                candidates.push_back(new Geom_CylindricalSurface(place, round->radius));
                break;
            case SurfaceKind::Cone:
                candidates.push_back(new Geom_ConicalSurface(place, std::atan(round->slope), round->radius));
                break;
            case SurfaceKind::Sphere:
                candidates.push_back(new Geom_SphericalSurface(place, round->radius));
                break;
            case SurfaceKind::Torus:
                candidates.push_back(new Geom_ToroidalSurface(place, round->ringRadius, round->radius));
                break;
            default:
                break;
        }
    }
    for (const Surface& candidate : candidates) {
        off = 0.0;
        for (const gp_Pnt& point : points) {
            const auto uv = parametersOn(candidate, point, tolerance);
            off = uv ? std::max(off, candidate->Value(uv->X(), uv->Y()).Distance(point))
                     : std::numeric_limits<double>::max();
            if (off > tolerance) break;
        }
        if (off > tolerance) continue;
        // It must look the way the spline did: the face keeps its orientation.
        const auto uv = parametersOn(candidate, at, tolerance);
        gp_Pnt foot;
        gp_Vec cu, cv;
        candidate->D1(uv->X(), uv->Y(), foot, cu, cv);
        if (cu.Crossed(cv).Dot(du.Crossed(dv)) < 0.0) {
            const Handle(Geom_ElementarySurface) elementary = Handle(Geom_ElementarySurface)::DownCast(candidate);
            gp_Ax3 place = elementary->Position();
            place.YReverse();
            elementary->SetPosition(place);
        }
        return candidate;
    }
    return {};
}

}  // namespace

std::vector<ParameterInfo> SimplifyFaces::infos() {
    return {{"parts", "list of names", "", "Parts, names or patterns; empty: every part in the work.", Json::array()},
            {"upTo", "number", "mm", "The largest deviation; 0: a thousandth of the target size.", 0.0}};
}
void to_json(Json& json, const SimplifyFaces& step) {
    json = Json{{"parts", step.parts}, {"upTo", step.upTo}};
}
void from_json(const Json& json, SimplifyFaces& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
    step.upTo = json.value("upTo", 0.0);
}

Result<Outcome> simplifyFaces(const Model& model, const SimplifyFaces& step, Progress& progress) {
    if (!(step.upTo >= 0.0) || !std::isfinite(step.upTo))
        return fail(ProblemKind::BadInput, "The deviation must be a positive length.");
    const auto chosen = partsNamed(model, step.parts);
    if (!chosen) return tl::unexpected(chosen.error());
    // Of the target size: no element would show it.
    const double allowed = step.upTo > 0.0 ? step.upTo : 1e-3 * model.targetSize;
    Outcome outcome;
    outcome.model = model;
    double worst = 0.0;
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        if (step.parts.empty() ? model.isAside(p) : !std::binary_search(chosen->begin(), chosen->end(), p)) continue;
        if (model.parts[p]->shape.IsNull() || model.parts[p]->lump) continue;
        const Incidence& topology = model.parts[p]->incidence();
        std::vector<int> numberNow(static_cast<std::size_t>(topology.faceCount()) + 1);
        for (int f = 1; f <= topology.faceCount(); ++f) numberNow[static_cast<std::size_t>(f)] = f;
        for (int f = 1; f <= topology.faceCount(); ++f) {
            if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
            const SurfaceKind kind = surfaceKind(topology.face(f));
            if (kind != SurfaceKind::Spline && kind != SurfaceKind::Revolution && kind != SurfaceKind::Extrusion &&
                kind != SurfaceKind::Other)
                continue;
            double off = 0.0;
            const auto simple = guarded("Recognising a face", [&]() -> Result<Surface> {
                return simpleSurface(topology.face(f), allowed, off);
            });
            if (!simple || simple->IsNull()) continue;
            const std::string what = fmt::format("face {} of {}", f, model.parts[p]->name);
            const auto moved = changeIn(
                outcome, p, {{numberNow[static_cast<std::size_t>(f)], *simple}}, std::max(model.samePoint(), off),
                [allowed, area = areaOf(topology.face(f))](const heal::Resurfaced& made) -> std::optional<std::string> {
                    if (made.moved > 4.0 * allowed)
                        return fmt::format("would move a corner by {} mm", readable(made.moved));
                    // Integrals over splines are good to a few thousandths only: this catches a face that looks the
                    // other way.
                    if (std::abs(made.change) > 2.0 * allowed * area + 5e-3 * std::pow(area, 1.5))
                        return fmt::format("would change the volume by {} mm³", readable(made.change));
                    return std::nullopt;
                });
            if (moved) {
                worst = std::max(worst, off);
                outcome.items.push_back(
                    {fmt::format("{} is a {} now, {} mm off at most", what,
                                 surfaceKindName(surfaceKind(
                                     outcome.model.parts[p]->incidence().face(numberNow[static_cast<std::size_t>(f)]))),
                                 readable(off)),
                     true,
                     {},
                     off});
                for (const PartLineage& own : outcome.lineage)
                    if (own.part == p)
                        for (const Link& link : own.faces())
                            numberNow[static_cast<std::size_t>(link.before)] = link.after;
            } else {
                outcome.items.push_back({what, false, moved.error(), off});
            }
        }
    }
    const std::size_t changed = doneIn(outcome);
    return finished(std::move(outcome),
                    fmt::format("Simplify {}, {} mm off at most", counted(changed, "face"), readable(worst)),
                    fmt::format("No freeform face is a simple one within {} mm.", readable(allowed)));
}

}  // namespace rasoir::shave
