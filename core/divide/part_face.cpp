#include "divide/part_face.h"

#include <fmt/format.h>

#include <Bnd_Box.hxx>
#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepBndLib.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <GCPnts_AbscissaPoint.hxx>
#include <gp_Circ.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>

#include "arrange/arrangement.h"
#include "common/tolerance.h"
#include "divide/parted.h"
#include "divide/points.h"
#include "geometry/curves.h"
#include "geometry/integrals.h"
#include "geometry/round_surface.h"

// A face is parted by arranging the body with a sheet that is allowed to meet that face alone: walls square to it
// through what was drawn. The body stays one cell; of the sheet nothing is kept, but the face has come to pieces along
// it, with their neighbours' edges divided where the cut ends.

namespace rasoir::divide {
namespace {

/// A point on an edge, in part coordinates.
Result<gp_Pnt> pointOn(const Part& part, int number, const OnEdge& place) {
    const BRepAdaptor_Curve curve(part.incidence().edge(number));
    const double length = GCPnts_AbscissaPoint::Length(curve, Tolerance::noWay);
    const double at = place.share ? place.at * length : place.at;
    if (!(at >= 0.0 && at <= length * (1.0 + Tolerance::rounding)))
        return fail(ProblemKind::BadInput,
                    fmt::format("{} mm is beyond the edge, which is {} mm long.", readable(at), readable(length)),
                    "Give a shorter distance.", {part.name, {}, curve.Value(curve.FirstParameter())});
    const GCPnts_AbscissaPoint point(Tolerance::noWay, curve, at, curve.FirstParameter());
    return curve.Value(point.IsDone() ? point.Parameter() : curve.FirstParameter());
}

struct Walls {
    TopoDS_Shape shape;
    std::function<bool(const gp_Pnt&)> within;  // what the group gets; null: nothing
    std::string told;
};

/// The outward normal of a face at its point nearest to one given.
gp_Dir normalAt(const TopoDS_Face& face, const gp_Pnt& point) {
    const Handle(Geom_Surface) surface = BRep_Tool::Surface(face);
    const auto uv = parametersOn(surface, point, Tolerance::samePlace);
    gp_Pnt at;
    gp_Vec du, dv;
    if (!uv) return gp::DZ();
    surface->D1(uv->X(), uv->Y(), at, du, dv);
    const gp_Vec normal = du.Crossed(dv);
    if (normal.Magnitude() < Tolerance::noLength) return gp::DZ();
    return face.Orientation() == TopAbs_REVERSED ? gp_Dir(normal.Reversed()) : gp_Dir(normal);
}

/// The largest radius of what lies on a face round a rim: the outer edge of a flat of another place in the same plane,
/// about the same axis. Model coordinates.
std::optional<double> seatOf(const Model& model, const gp_Circ& rim, std::size_t partIndex) {
    const double near = std::max(100.0 * model.samePoint(), 0.01 * rim.Radius());
    std::optional<double> widest;
    for (const Occurrence& place : model.occurrences) {
        const Part& part = *model.parts[place.part];
        if (place.aside || place.part == partIndex || part.shape.IsNull() || part.lump) continue;
        Bnd_Box box;
        BRepBndLib::Add(part.shape.Moved(TopLoc_Location(place.placement)), box, false);
        box.Enlarge(near);
        if (box.IsOut(rim.Location())) continue;
        for (int e = 1; e <= part.incidence().edgeCount(); ++e) {
            const BRepAdaptor_Curve curve(part.incidence().edge(e));
            if (curve.GetType() != GeomAbs_Circle || curve.Circle().Radius() <= 1.02 * rim.Radius()) continue;
            const gp_Circ other = curve.Circle().Transformed(place.placement);
            // A head or a washer is of the size of its hole; what is ten times as wide is something else round it.
            if (!other.Axis().IsParallel(rim.Axis(), 1e-3) || other.Location().Distance(rim.Location()) > near ||
                other.Radius() > 4.0 * rim.Radius())
                continue;
            const auto uses = part.incidence().usesOf(e);
            const bool flat = std::any_of(uses.begin(), uses.end(), [&](const EdgeUse& use) {
                return surfaceKind(part.incidence().face(use.face)) == SurfaceKind::Plane;
            });
            if (flat && (!widest || other.Radius() > *widest)) widest = other.Radius();
        }
    }
    return widest;
}

Result<Walls> ringWalls(const Model& model, const Part& part, int face, const PartFace::Ring& ring) {
    const auto rim = findEdge(model, ring.rim);
    if (!rim) return tl::unexpected(rim.error());
    const BRepAdaptor_Curve curve(part.incidence().edge(rim->entity.number));
    const auto edges = part.incidence().edgesOf(face);
    if (model.parts[rim->part].get() != &part ||
        std::find(edges.begin(), edges.end(), rim->entity.number) == edges.end())
        return fail(ProblemKind::NotPossible, "The rim does not bound the face.", "Pick an edge of that face.",
                    {part.name, {face}, ring.rim.at});
    if (curve.GetType() != GeomAbs_Circle)
        return fail(ProblemKind::NotPossible, "The rim is not a circle, so there is no ring round it.",
                    "Draw an outline instead.", {part.name, {face}, ring.rim.at});
    const gp_Circ circle = curve.Circle();
    std::optional<double> seat;
    if (!ring.offset) seat = seatOf(model, circle.Transformed(placementOf(model, rim->part)), rim->part);
    const double offset = ring.offset.value_or(seat ? *seat - circle.Radius() : circle.Radius());
    if (auto bad = badNumber({offset})) return tl::unexpected(*bad);
    if (!(offset > 0.0))
        return fail(ProblemKind::BadInput, "A ring needs a width above 0.", {}, {part.name, {face}, ring.rim.at});
    const double radius = circle.Radius() + offset;
    const gp_Ax3 axes(circle.Location(), circle.Axis().Direction(), circle.XAxis().Direction());
    // On a bent face the wall has to reach as far as the face bends away within the ring.
    Bnd_Box box;
    BRepBndLib::Add(part.incidence().face(face), box, false);
    const bool flat = BRepAdaptor_Surface(part.incidence().face(face), false).GetType() == GeomAbs_Plane;
    const double height = flat ? radius : std::min(2.0 * radius, 0.5 * std::sqrt(box.SquareExtent()));
    const TopoDS_Edge drawn = BRepBuilderAPI_MakeEdge(gp_Circ(axes.Ax2(), radius)).Edge();
    return Walls{wallsOf(drawn, axes, height),
                 [axes, radius](const gp_Pnt& point) {
                     const gp_Vec off(axes.Location(), point);
                     const double along = off.Dot(gp_Vec(axes.Direction()));
                     return off.SquareMagnitude() - along * along < radius * radius;
                 },
                 fmt::format("a ring to Ø {}{}", readable(2.0 * radius),
                             ring.offset ? ""
                             : seat      ? " (what lies on it)"
                                         : " (assumed: twice the hole)")};
}

/// Walls through edges, square to the face where the middle of the first of them falls.
Result<Walls> thrownWalls(const Model& model, const std::vector<EntityRef>& references, std::size_t partIndex, int face,
                          double size) {
    const Part& part = *model.parts[partIndex];
    const TopoDS_Face shape = part.incidence().face(face);
    const BRep_Builder builder;
    TopoDS_Compound edges;
    builder.MakeCompound(edges);
    std::optional<gp_Dir> normal;
    double far = 0.0;
    for (const EntityRef& reference : references) {
        const auto edge = findEdge(model, reference);
        if (!edge) return tl::unexpected(edge.error());
        TopoDS_Shape own = model.parts[edge->part]->incidence().edge(edge->entity.number);
        if (edge->part != partIndex)
            own = own.Moved(TopLoc_Location(placementOf(model, partIndex).Inverted() * placementOf(model, edge->part)));
        const BRepAdaptor_Curve curve(TopoDS::Edge(own));
        gp_Pnt middle;
        gp_Vec tangent;
        curve.D1(0.5 * (curve.FirstParameter() + curve.LastParameter()), middle, tangent);
        if (!normal) normal = normalAt(shape, middle);
        // [rad] flatter, the line would run along the rim instead of away from it.
        if (tangent.Magnitude() < Tolerance::noLength ||
            gp_Vec(*normal).Crossed(tangent.Normalized()).Magnitude() < 1e-3)
            return fail(ProblemKind::NotPossible, "An edge stands square on the face: thrown onto it, it is a point.",
                        "Pick edges that run beside the face.", {part.name, {face}, middle});
        far = std::max(far, middle.Distance(skinOf(shape).centre) + size);
        builder.Add(edges, own);  // edges that share a vertex give walls that share a line
    }
    gp_Trsf down;
    down.SetTranslation(gp_Vec(*normal) * -far);
    return Walls{BRepPrimAPI_MakePrism(edges.Moved(TopLoc_Location(down)), gp_Vec(*normal) * (2.0 * far)).Shape(),
                 {},
                 references.size() == 1 ? "an edge thrown onto it" : "edges thrown onto it"};
}

Result<Walls> wallsFor(const Model& model, const PartFace& step, std::size_t partIndex, int face) {
    const Part& part = *model.parts[partIndex];
    const TopoDS_Face shape = part.incidence().face(face);
    Bnd_Box box;
    BRepBndLib::Add(shape, box, false);
    const double size = std::sqrt(box.SquareExtent());
    if (step.outline) {
        const auto now = resolved(model, *step.outline);
        if (!now) return tl::unexpected(now.error());
        const Outline& outline = *now;
        const auto frame = frameOf(part, face, outline);
        if (!frame) return tl::unexpected(frame.error());
        const auto line = drawn(outline, *frame, 3.0 * size + std::hypot(outline.at[0], outline.at[1]));
        if (!line) return tl::unexpected(line.error());
        return Walls{wallsOf(*line, *frame, 0.05 * size),
                     outline.shape == "polyline"
                         ? std::function<bool(const gp_Pnt&)>()
                         : [outline, frame = *frame](const gp_Pnt& point) { return isWithin(outline, frame, point); },
                     outline.shape == "line" && outline.angle == 0.0
                         ? fmt::format("a line {} mm from its edge", readable(outline.at[1]))
                     : outline.shape == "closedPolyline" ? std::string("a closed polyline")
                                                         : "a " + outline.shape};
    }
    if (step.plane) {
        auto plane = planeOf(*step.plane);
        if (!plane) return tl::unexpected(plane.error());
        const auto place = std::find_if(model.occurrences.begin(), model.occurrences.end(),
                                        [partIndex](const Occurrence& o) { return o.part == partIndex && !o.aside; });
        if (place != model.occurrences.end()) plane->Transform(place->placement.Inverted());
        const TopoDS_Face across = faceAcross(*plane, box, model.samePoint());
        if (across.IsNull())
            return fail(ProblemKind::NotPossible, "The plane does not reach the face.", "Move the plane.",
                        {part.name, {face}, {}});
        return Walls{across, {}, "a plane"};
    }
    if (step.ring) return ringWalls(model, part, face, *step.ring);
    if (!step.thrown.empty()) return thrownWalls(model, step.thrown, partIndex, face, size);
    // Two points: straight between them, square to the face.
    std::array<gp_Pnt, 2> ends;
    for (std::size_t i = 0; i < 2; ++i) {
        const auto edge = findEdge(model, step.points[i].edge);
        if (!edge) return tl::unexpected(edge.error());
        const auto edges = part.incidence().edgesOf(face);
        if (edge->part != partIndex || std::find(edges.begin(), edges.end(), edge->entity.number) == edges.end())
            return fail(ProblemKind::NotPossible, "A point lies on an edge that does not bound the face.",
                        "Give two points on edges of one face.", {part.name, {face}, step.points[i].edge.at});
        const auto point = pointOn(part, edge->entity.number, step.points[i]);
        if (!point) return tl::unexpected(point.error());
        ends[i] = *point;
    }
    const gp_Vec along(ends[0], ends[1]);
    if (along.Magnitude() < Tolerance::noWay)
        return fail(ProblemKind::NotPossible, "The two points are one.", "Give two different places.",
                    {part.name, {face}, ends[0]});
    const gp_Vec normal = gp_Vec(normalAt(shape, ends[0])) + gp_Vec(normalAt(shape, ends[1]));
    const gp_Vec across = along.Crossed(normal);
    if (across.Magnitude() < Tolerance::exactDirection * along.Magnitude())
        return fail(ProblemKind::NotPossible, "Between the two points no way over the face is the straight one.",
                    "Part it by a plane instead.", {part.name, {face}, ends[0]});
    gp_Vec up = across.Crossed(along);
    up.Normalize();
    const bool flat = BRepAdaptor_Surface(shape, false).GetType() == GeomAbs_Plane;
    const double height = (flat ? 0.05 : 0.6) * along.Magnitude();
    // Past the rim by more than two points' difference, so that the end surely lies beyond it.
    const gp_Vec more = along.Normalized() * std::max(20.0 * model.samePoint(), 1e-6 * along.Magnitude());
    const TopoDS_Edge line = BRepBuilderAPI_MakeEdge(ends[0].Translated(more.Reversed() - up * height),
                                                     ends[1].Translated(more - up * height))
                                 .Edge();
    return Walls{BRepPrimAPI_MakePrism(line, up * (2.0 * height)).Shape(), {}, "a line between two points"};
}

}  // namespace

void to_json(Json& json, const OnEdge& place) {
    json = Json{{"edge", place.edge}, {place.share ? "share" : "at", place.at}};
}
void from_json(const Json& json, OnEdge& place) {
    place.edge = json.at("edge").get<EntityRef>();
    place.share = !json.contains("at");
    place.at = json.value(place.share ? "share" : "at", 0.5);
}

std::vector<ParameterInfo> PartFace::infos() {
    return {{"faces", "list of faces", "", "Faces to part; an outline is drawn on the first.", Json::array()},
            {"outline", "outline", "mm", "What is drawn: shape, along (an edge), from, at, angle, size, points.",
             Json::object()},
            {"plane", "plane", "mm", "Parts the faces where it meets them; model coordinates.", Json::object()},
            {"ring", "ring", "mm",
             "{\"rim\": edge, \"offset\": width}; without a width to the head or washer there, else to twice the hole.",
             Json::object()},
            {"points", "list of two places", "", "{\"edge\": edge, \"share\": 0..1} or {\"edge\": edge, \"at\": mm}.",
             Json::array()},
            {"thrown", "list of edges", "", "Edges of any part, thrown square onto the face.", Json::array()},
            {"group", "text", "", "Of the piece within; empty: none.", ""}};
}
void to_json(Json& json, const PartFace& step) {
    json = Json{{"faces", step.faces}};
    if (step.outline) json["outline"] = *step.outline;
    if (step.plane) json["plane"] = *step.plane;
    if (step.ring) {
        json["ring"] = Json{{"rim", step.ring->rim}};
        if (step.ring->offset) json["ring"]["offset"] = *step.ring->offset;
    }
    if (!step.points.empty()) json["points"] = step.points;
    if (!step.thrown.empty()) json["thrown"] = step.thrown;
    if (!step.group.empty()) json["group"] = step.group;
}
void from_json(const Json& json, PartFace& step) {
    step.faces = json.at("faces").get<std::vector<FaceRef>>();
    if (step.faces.empty()) throw std::invalid_argument("no face is named");
    if (given(json, "outline")) step.outline = json.at("outline").get<Outline>();
    if (given(json, "plane")) step.plane = json.at("plane").get<Plane>();
    if (given(json, "ring")) {
        step.ring = PartFace::Ring{json.at("ring").at("rim").get<EntityRef>(), std::nullopt};
        if (json.at("ring").contains("offset")) step.ring->offset = json.at("ring").at("offset").get<double>();
    }
    step.points = json.value("points", std::vector<OnEdge>{});
    if (given(json, "thrown")) {
        // One edge may stand for itself.
        if (json.at("thrown").is_object())
            step.thrown = {json.at("thrown").get<EntityRef>()};
        else
            step.thrown = json.at("thrown").get<std::vector<EntityRef>>();
    }
    if (!step.points.empty() && step.points.size() != 2) throw std::invalid_argument("two points part a face");
    const int ways = int(step.outline.has_value()) + int(step.plane.has_value()) + int(step.ring.has_value()) +
                     int(!step.points.empty()) + int(!step.thrown.empty());
    if (ways != 1) throw std::invalid_argument("one of outline, plane, ring, points and thrown says by what");
    step.group = json.value("group", "");
}

Result<Outcome> partFace(const Model& model, const PartFace& step, Progress& progress) {
    std::map<std::size_t, std::vector<int>> wanted;
    std::optional<EntityRef> at;
    if (step.outline) at = step.outline->along;
    if (step.ring) at = step.ring->rim;
    if (!step.points.empty()) at = step.points.front().edge;
    for (const FaceRef& face : step.faces) {
        const auto found = findFaceAt(model, face, at);
        if (!found) return tl::unexpected(found.error());
        wanted[found->part].push_back(found->face);
    }
    Outcome outcome;
    outcome.model = model;
    Group made{step.group, "parted", std::nullopt, {}, std::nullopt};
    std::size_t pieces = 0, faces = 0;
    std::string by;
    for (const auto& [p, numbers] : wanted) {
        const Part& part = *model.parts[p];
        std::vector<arrange::Input> inputs{{part.shape, part.name}};
        std::map<int, std::size_t> wallOf;
        std::vector<Walls> walls;
        for (const int face : numbers) {
            auto own = wallsFor(model, step, p, face);
            if (!own) return tl::unexpected(own.error());
            inputs.push_back({own->shape, "what parts it", {face}});
            wallOf[face] = walls.size();
            walls.push_back(std::move(*own));
        }
        by = walls.front().told;
        const auto all = arrange::arrange(std::move(inputs), model.samePoint(), progress);
        if (!all) return tl::unexpected(all.error());
        auto parted = putTogether(part, *all);
        if (!parted) return tl::unexpected(parted.error());
        const Descents descents(parted->lineage.faces());
        for (const int face : numbers) {
            const auto heirs = descents.heirsOf(face);
            Item item{part.name, heirs.size() > 1, {}, 0.0};
            if (heirs.size() < 2) {
                item.problem = {
                    ProblemKind::NotPossible,
                    fmt::format("Face {} of \"{}\" is not parted by it.", face, part.name),
                    {part.name, {face}, skinOf(part.incidence().face(face)).centre},
                    "What is drawn has to run across the face from edge to edge, or lie within it as a ring."};
                if (numbers.size() == 1 && wanted.size() == 1) return tl::unexpected(item.problem);
                outcome.items.push_back(std::move(item));
                continue;
            }
            std::string told;
            for (const Link& heir : heirs) {
                told += fmt::format("{}{} mm²", told.empty() ? "" : ", ",
                                    readable(areaOf(parted->part->incidence().face(heir.after))));
                const Walls& own = walls[wallOf[face]];
                const auto piece = std::find_if(parted->pieces.begin(), parted->pieces.end(),
                                                [&heir](const auto& one) { return one.first == heir.after; });
                if (!step.group.empty() && own.within && piece != parted->pieces.end() && own.within(piece->second))
                    made.members.insert({part.id, everyPlace, {EntityKind::Face, heir.after}});
            }
            item.what =
                fmt::format("face {} of \"{}\" in {}: {}", face, part.name, counted(heirs.size(), "piece"), told);
            pieces += heirs.size();
            ++faces;
            outcome.items.push_back(std::move(item));
        }
        replacePart(outcome, p, std::move(*parted));
    }
    if (faces == 0) return tl::unexpected(outcome.items.front().problem);
    if (!step.group.empty()) {
        if (made.members.empty())
            return fail(ProblemKind::NotPossible, fmt::format("There is nothing for the group \"{}\".", step.group),
                        "An open polyline, a plane or two points have no inside; name the pieces in Hand over.");
        std::erase_if(outcome.model.groups, [&](const Group& group) { return group.name == step.group; });
        outcome.model.groups.push_back(std::move(made));
    }
    outcome.summary = fmt::format("Part {} by {}", faces == 1 ? "a face" : counted(faces, "face"), by);
    return outcome;
}

}  // namespace rasoir::divide
