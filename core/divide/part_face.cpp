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
#include <TopExp.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>

#include "arrange/choice.h"
#include "geometry/curves.h"
#include "geometry/integrals.h"
#include "model/lineage_builder.h"

// A face is parted by arranging the body with a sheet that is allowed to meet that face alone: walls square to it
// through what was drawn. The body stays one cell; of the sheet nothing is kept, but the face has come to pieces along
// it, with their neighbours' edges divided where the cut ends. An edge is parted in the same way, by places on it at
// which the arrangement has to divide it.

namespace rasoir::divide {
namespace {

std::optional<Problem> badNumber(std::initializer_list<double> values) {
    for (const double value : values)
        if (!std::isfinite(value) || std::abs(value) > 1e9)
            return Problem{
                ProblemKind::BadInput, "A number is beyond any machine.", {}, "Lengths go up to 1 000 000 m."};
    return std::nullopt;
}

struct Parted {
    std::shared_ptr<const Part> part;
    PartLineage lineage;
    /// New faces, by a point well within them.
    std::vector<std::pair<int, gp_Pnt>> pieces;
};

/// The part's shape as the arrangement left it: its bodies again, and what has no faces besides.
Result<Parted> putTogether(const Part& part, const arrange::Arrangement& all) {
    std::vector<arrange::Chosen> chosen;
    const auto cells = arrange::cellsIn(all, 0);
    if (!cells.empty()) {
        auto solids = arrange::solidsOf(all, cells);
        if (!solids) return tl::unexpected(solids.error());
        chosen.push_back(std::move(*solids));
    }
    auto sheets = arrange::sheetsOf(all, 0, {});
    if (!sheets) return tl::unexpected(sheets.error());
    for (arrange::Chosen& sheet : *sheets) chosen.push_back(std::move(sheet));
    const Incidence& before = part.incidence();
    const BRep_Builder builder;
    TopoDS_Compound bag;
    builder.MakeCompound(bag);
    int count = 0;
    TopoDS_Shape only;
    const auto put = [&](const TopoDS_Shape& shape) {
        builder.Add(bag, shape);
        only = shape;
        ++count;
    };
    for (const arrange::Chosen& one : chosen) {
        const Incidence now(one.shape);
        for (int b = 1; b <= now.bodyCount(); ++b) put(now.body(b));
    }
    for (int b = 1; b <= before.bodyCount(); ++b)
        if (const auto kind = before.body(b).ShapeType();
            kind == TopAbs_WIRE || kind == TopAbs_EDGE || kind == TopAbs_VERTEX)
            put(before.body(b));
    const TopoDS_Shape shape = count == 1 ? only : TopoDS_Shape(bag);
    LineageBuilder lineage(before, shape);
    Parted parted;
    const Incidence after(shape);
    for (const arrange::Chosen& one : chosen) {
        const Incidence now(one.shape);
        const auto own = one.lineage.find(0);
        if (own == one.lineage.end()) continue;
        for (const Link& link : own->second.faces())
            lineage.face(link.before, now.face(link.after), link.changed, link.reversed);
        for (const Link& link : own->second.edges())
            lineage.edge(link.before, now.edge(link.after), link.changed, link.reversed);
        for (const auto& [p, face] : one.faceOfPiece)
            if (!all.pieces[p].whole)
                parted.pieces.emplace_back(after.faceNumber(now.face(face)), all.pieces[p].inside);
    }
    parted.lineage = lineage.finish();
    auto made = part.withShape(shape, parted.lineage)->copy();
    // What parts a face or an edge is meant to: it is nothing for Mend to merge away.
    const Descents edges(parted.lineage.edges());
    for (int e = 1; e <= after.edgeCount(); ++e) {
        const auto uses = after.usesOf(e);
        if (uses.size() == 2 && uses[0].face != uses[1].face && edges.ancestorsOf(e).empty())
            made->known.parted[{EntityKind::Edge, e}] = {};
    }
    const Descents vertices(parted.lineage.of(EntityKind::Vertex));
    for (int v = 1; v <= after.vertexCount(); ++v)
        if (vertices.ancestorsOf(v).empty()) made->known.parted[{EntityKind::Vertex, v}] = {};
    parted.part = std::move(made);
    return parted;
}

/// A point on an edge, in part coordinates.
Result<gp_Pnt> pointOn(const Part& part, int number, const OnEdge& place) {
    const BRepAdaptor_Curve curve(part.incidence().edge(number));
    const double length = GCPnts_AbscissaPoint::Length(curve, 1e-9);
    const double at = place.share ? place.at * length : place.at;
    if (!(at >= 0.0 && at <= length * (1.0 + 1e-9)))
        return fail(ProblemKind::BadInput,
                    fmt::format("{} mm is beyond the edge, which is {} mm long.", readable(at), readable(length)),
                    "Give a shorter distance.", {part.name, {}, curve.Value(curve.FirstParameter())});
    const GCPnts_AbscissaPoint point(1e-9, curve, at, curve.FirstParameter());
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
    const auto uv = parametersOn(surface, point, 1e-6);
    gp_Pnt at;
    gp_Vec du, dv;
    if (!uv) return gp::DZ();
    surface->D1(uv->X(), uv->Y(), at, du, dv);
    const gp_Vec normal = du.Crossed(dv);
    if (normal.Magnitude() < 1e-30) return gp::DZ();
    return face.Orientation() == TopAbs_REVERSED ? gp_Dir(normal.Reversed()) : gp_Dir(normal);
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
    const double offset = ring.offset.value_or(circle.Radius());
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
    return Walls{
        wallsOf(drawn, axes, height),
        [axes, radius](const gp_Pnt& point) {
            const gp_Vec off(axes.Location(), point);
            const double along = off.Dot(gp_Vec(axes.Direction()));
            return off.SquareMagnitude() - along * along < radius * radius;
        },
        fmt::format("a ring to Ø {}{}", readable(2.0 * radius), ring.offset ? "" : " (assumed: twice the hole)")};
}

Result<Walls> wallsFor(const Model& model, const PartFace& step, std::size_t partIndex, int face) {
    const Part& part = *model.parts[partIndex];
    const TopoDS_Face shape = part.incidence().face(face);
    Bnd_Box box;
    BRepBndLib::Add(shape, box, false);
    const double size = std::sqrt(box.SquareExtent());
    if (step.outline) {
        Outline outline = *step.outline;
        if (outline.along) {
            const auto edge = findEdge(model, *outline.along);
            if (!edge) return tl::unexpected(edge.error());
            outline.along->entity = edge->entity;
        }
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
        const TopoDS_Face across = faceAcross(*plane, box, model.tolerances().samePoint);
        if (across.IsNull())
            return fail(ProblemKind::NotPossible, "The plane does not reach the face.", "Move the plane.",
                        {part.name, {face}, {}});
        return Walls{across, {}, "a plane"};
    }
    if (step.ring) return ringWalls(model, part, face, *step.ring);
    if (step.thrown) {
        const auto edge = findEdge(model, *step.thrown);
        if (!edge) return tl::unexpected(edge.error());
        const Part& other = *model.parts[edge->part];
        TopoDS_Shape own = other.incidence().edge(edge->entity.number);
        if (edge->part != partIndex) {
            const auto placeOf = [&](std::size_t p) {
                const auto place = std::find_if(model.occurrences.begin(), model.occurrences.end(),
                                                [p](const Occurrence& o) { return o.part == p && !o.aside; });
                return place == model.occurrences.end() ? gp_Trsf() : place->placement;
            };
            own = own.Moved(TopLoc_Location(placeOf(partIndex).Inverted() * placeOf(edge->part)));
        }
        const BRepAdaptor_Curve curve(TopoDS::Edge(own));
        const gp_Pnt middle = curve.Value(0.5 * (curve.FirstParameter() + curve.LastParameter()));
        const gp_Dir normal = normalAt(shape, middle);
        gp_Pnt at;
        gp_Vec tangent;
        curve.D1(0.5 * (curve.FirstParameter() + curve.LastParameter()), at, tangent);
        if (tangent.Magnitude() < 1e-30 || gp_Vec(normal).Crossed(tangent.Normalized()).Magnitude() < 1e-3)
            return fail(ProblemKind::NotPossible, "The edge stands square on the face: thrown onto it, it is a point.",
                        "Pick an edge that runs beside the face.", {part.name, {face}, middle});
        const Skin skin = skinOf(shape);
        const double far = middle.Distance(skin.centre) + size;
        gp_Trsf down;
        down.SetTranslation(gp_Vec(normal) * -far);
        return Walls{BRepPrimAPI_MakePrism(own.Moved(TopLoc_Location(down)), gp_Vec(normal) * (2.0 * far)).Shape(),
                     {},
                     "an edge thrown onto it"};
    }
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
    if (along.Magnitude() < 1e-9)
        return fail(ProblemKind::NotPossible, "The two points are one.", "Give two different places.",
                    {part.name, {face}, ends[0]});
    const gp_Vec normal = gp_Vec(normalAt(shape, ends[0])) + gp_Vec(normalAt(shape, ends[1]));
    const gp_Vec across = along.Crossed(normal);
    if (across.Magnitude() < 1e-9 * along.Magnitude())
        return fail(ProblemKind::NotPossible, "Between the two points no way over the face is the straight one.",
                    "Part it by a plane instead.", {part.name, {face}, ends[0]});
    gp_Vec up = across.Crossed(along);
    up.Normalize();
    const bool flat = BRepAdaptor_Surface(shape, false).GetType() == GeomAbs_Plane;
    const double height = (flat ? 0.05 : 0.6) * along.Magnitude();
    const gp_Vec more = along.Normalized() * std::max(20.0 * model.tolerances().samePoint, 1e-6 * along.Magnitude());
    const TopoDS_Edge line = BRepBuilderAPI_MakeEdge(ends[0].Translated(more.Reversed() - up * height),
                                                     ends[1].Translated(more - up * height))
                                 .Edge();
    return Walls{BRepPrimAPI_MakePrism(line, up * (2.0 * height)).Shape(), {}, "a line between two points"};
}

void replace(Outcome& outcome, std::size_t index, Parted parted) {
    parted.lineage.part = index;
    outcome.model.parts[index] = std::move(parted.part);
    outcome.lineage.push_back(std::move(parted.lineage));
}

}  // namespace

// --- faces

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
            {"ring", "ring", "mm", "{\"rim\": edge, \"offset\": width}; without a width to twice the hole.",
             Json::object()},
            {"points", "list of two places", "", "{\"edge\": edge, \"share\": 0..1} or {\"edge\": edge, \"at\": mm}.",
             Json::array()},
            {"thrown", "edge", "", "An edge thrown square onto the face.", Json::object()},
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
    if (step.thrown) json["thrown"] = *step.thrown;
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
    if (given(json, "thrown")) step.thrown = json.at("thrown").get<EntityRef>();
    if (!step.points.empty() && step.points.size() != 2) throw std::invalid_argument("two points part a face");
    const int ways = int(step.outline.has_value()) + int(step.plane.has_value()) + int(step.ring.has_value()) +
                     int(!step.points.empty()) + int(step.thrown.has_value());
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
        const auto all = arrange::arrange(std::move(inputs), model.tolerances().samePoint, progress);
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
        replace(outcome, p, std::move(*parted));
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

// --- edges

std::vector<ParameterInfo> PartEdge::infos() {
    return {{"edges", "list of edges", "", "Edges to part.", Json::array()},
            {"into", "number", "", "Equal pieces; 0: at the places below.", 0},
            {"at", "list of numbers", "mm", "Distances from the start.", Json::array()},
            {"share", "list of numbers", "", "Shares of the length, 0 to 1.", Json::array()},
            {"fromEnd", "yes or no", "", "Measured from the end.", false}};
}
void to_json(Json& json, const PartEdge& step) {
    json = Json{{"edges", step.edges}};
    if (step.into != 0) json["into"] = step.into;
    if (!step.at.empty()) json["at"] = step.at;
    if (!step.share.empty()) json["share"] = step.share;
    if (step.fromEnd) json["fromEnd"] = true;
}
void from_json(const Json& json, PartEdge& step) {
    step.edges = json.at("edges").get<std::vector<EntityRef>>();
    if (step.edges.empty()) throw std::invalid_argument("no edge is named");
    step.into = json.value("into", 0);
    step.at = json.value("at", std::vector<double>{});
    step.share = json.value("share", std::vector<double>{});
    step.fromEnd = json.value("fromEnd", false);
    if (step.into == 0 && step.at.empty() && step.share.empty())
        throw std::invalid_argument("one of into, at and share says where");
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
    const double least = model.tolerances().samePoint;
    std::size_t pieces = 0, edges = 0;
    for (const auto& [p, numbers] : wanted) {
        const Part& part = *model.parts[p];
        arrange::Input input{part.shape, part.name};
        for (const int number : numbers) {
            const BRepAdaptor_Curve curve(part.incidence().edge(number));
            const double length = GCPnts_AbscissaPoint::Length(curve, 1e-9);
            std::vector<double> places;
            for (int i = 1; i < step.into; ++i) places.push_back(length * i / step.into);
            places.insert(places.end(), step.at.begin(), step.at.end());
            for (const double share : step.share) places.push_back(share * length);
            for (double place : places) {
                if (!std::isfinite(place) || place < least || place > length - least)
                    return fail(ProblemKind::BadInput,
                                fmt::format("{} mm is no place within the edge, which is {} mm long.", readable(place),
                                            readable(length)),
                                "Give a distance between its ends.",
                                {part.name, {}, curve.Value(0.5 * (curve.FirstParameter() + curve.LastParameter()))});
                if (step.fromEnd) place = length - place;
                const GCPnts_AbscissaPoint point(1e-9, curve, place, curve.FirstParameter());
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
        replace(outcome, p, std::move(*parted));
    }
    outcome.summary =
        fmt::format("Part {} into {}", edges == 1 ? "an edge" : counted(edges, "edge"), counted(pieces, "piece"));
    return outcome;
}

// --- outlines pushed into a body

std::vector<ParameterInfo> CutOut::infos() {
    return {{"face", "face", "", "The flat face that the outline is drawn on.", Json::object()},
            {"outline", "outline", "mm", "A closed outline; as of divide.partFace.", Json::object()},
            {"depth", "number", "mm", "How deep; 0: all through.", 0.0}};
}
void to_json(Json& json, const CutOut& step) {
    json = Json{{"face", step.face}, {"outline", step.outline}, {"depth", step.depth}};
}
void from_json(const Json& json, CutOut& step) {
    step.face = json.at("face").get<FaceRef>();
    step.outline = json.at("outline").get<Outline>();
    if (!step.outline.closed()) throw std::invalid_argument("only a closed outline can be cut out");
    step.depth = json.value("depth", 0.0);
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
    Outline outline = step.outline;
    if (outline.along) {
        const auto edge = findEdge(model, *outline.along);
        if (!edge) return tl::unexpected(edge.error());
        outline.along->entity = edge->entity;
    }
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
    const auto all =
        arrange::arrange({{part.shape, part.name}, {tool, "the outline"}}, model.tolerances().samePoint, progress);
    if (!all) return tl::unexpected(all.error());
    std::vector<int> cells;
    bool met = false;
    for (const int cell : arrange::cellsIn(*all, 0)) {
        if (all->cells[cell].inputs.contains(1))
            met = true;
        else
            cells.push_back(cell);
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
