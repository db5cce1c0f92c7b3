#include "divide/outline.h"

#include <fmt/format.h>

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepBuilderAPI_Transform.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <gp_Circ.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>

#include "common/tolerance.h"
#include "geometry/edge_probe.h"
#include "geometry/extent.h"

namespace rasoir::divide {
namespace {

constexpr double largest = 1e9;  // [mm]

bool fine(double value) {
    return std::isfinite(value) && std::abs(value) <= largest;
}

/// Corners of what is drawn, before it is turned and put in its place.
std::vector<gp_XY> cornersOf(const Outline& outline) {
    std::vector<gp_XY> corners;
    if (outline.shape == "rectangle") {
        const double a = 0.5 * outline.size[0], b = 0.5 * outline.size[1];
        corners = {{-a, -b}, {a, -b}, {a, b}, {-a, b}};
    } else {
        for (const auto& point : outline.points) corners.emplace_back(point[0], point[1]);
    }
    return corners;
}

gp_XY turned(const gp_XY& point, double degrees) {
    const double c = std::cos(degrees * M_PI / 180.0), s = std::sin(degrees * M_PI / 180.0);
    return {c * point.X() - s * point.Y(), s * point.X() + c * point.Y()};
}

double cross(const gp_XY& a, const gp_XY& b, const gp_XY& c) {
    return (b - a).Crossed(c - a);
}

/// Whether two stretches have a point in common.
bool meet(const gp_XY& a, const gp_XY& b, const gp_XY& c, const gp_XY& d) {
    const double abc = cross(a, b, c), abd = cross(a, b, d), cda = cross(c, d, a), cdb = cross(c, d, b);
    if ((abc > 0.0) != (abd > 0.0) && (cda > 0.0) != (cdb > 0.0)) return true;
    const auto on = [](const gp_XY& p, const gp_XY& q, const gp_XY& r) {
        // Doubles keep sixteen digits; twelve are left of a difference of products.
        return std::abs(cross(p, q, r)) <= 1e-12 * (q - p).SquareModulus() && (r - p).Dot(r - q) <= 0.0;
    };
    return on(a, b, c) || on(a, b, d) || on(c, d, a) || on(c, d, b);
}

bool crossesItself(const std::vector<gp_XY>& corners, bool closed) {
    const std::size_t sides = closed ? corners.size() : corners.size() - 1;
    for (std::size_t i = 0; i < sides; ++i)
        for (std::size_t k = i + 1; k < sides; ++k) {
            if (k == i + 1 || (closed && i == 0 && k + 1 == sides)) continue;
            if (meet(corners[i], corners[i + 1], corners[k], corners[(k + 1) % corners.size()])) return true;
        }
    return false;
}

}  // namespace

void to_json(Json& json, const Outline& outline) {
    json = Json{{"shape", outline.shape}};
    if (outline.along) json["along"] = *outline.along;
    if (outline.from != "start") json["from"] = outline.from;
    if (outline.origin) json["origin"] = *outline.origin;
    json["at"] = outline.at;
    if (outline.angle != 0.0) json["angle"] = outline.angle;
    if (outline.shape == "rectangle" || outline.shape == "slot" || outline.shape == "circle")
        json["size"] = outline.size;
    if (!outline.points.empty()) json["points"] = outline.points;
}

void from_json(const Json& json, Outline& outline) {
    outline.shape = json.value("shape", "line");
    static const std::set<std::string> known{"line", "rectangle", "circle", "slot", "polyline", "closedPolyline"};
    if (!known.contains(outline.shape))
        throw std::invalid_argument("an outline is a line, rectangle, circle, slot, polyline or closedPolyline");
    if (json.contains("along")) outline.along = json.at("along").get<EntityRef>();
    outline.from = json.value("from", "start");
    if (outline.from != "start" && outline.from != "middle" && outline.from != "end")
        throw std::invalid_argument("an outline is measured from the start, middle or end of its edge");
    if (json.contains("origin")) outline.origin = json.at("origin").get<EntityRef>();
    outline.at = json.value("at", std::array<double, 2>{});
    outline.angle = json.value("angle", 0.0);
    outline.size = json.value("size", std::array<double, 2>{});
    outline.points = json.value("points", std::vector<std::array<double, 2>>{});
}

Result<FoundEntity> findEdge(const Model& model, const EntityRef& reference) {
    auto found = findEntity(model, reference);
    if (found || reference.entity.kind != EntityKind::Edge) return found;
    std::vector<FoundEntity> through;
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        const Part& part = *model.parts[p];
        if (part.name != reference.part) continue;
        for (int e = 1; e <= part.incidence().edgeCount(); ++e) {
            const TopoDS_Edge edge = part.incidence().edge(e);
            if (BRep_Tool::Degenerated(edge)) continue;
            // A reference's place is rounded to be read; a thousandth of the edge tells neighbours apart.
            if (EdgeProbe(edge).nearest(reference.at).distance <= 1e-3 * reference.measure)
                through.push_back({p, {EntityKind::Edge, e}});
        }
    }
    if (through.size() == 1) return through.front();
    return found;
}

Result<FoundFace> findFaceAt(const Model& model, const FaceRef& face, const std::optional<EntityRef>& edge) {
    auto found = findFace(model, face);
    if (found || !edge) return found;
    const auto at = findEdge(model, *edge);
    if (!at) return found;
    const Incidence& topology = model.parts[at->part]->incidence();
    std::vector<FoundFace> like;
    double nearest = 0.0;
    for (const EdgeUse& use : topology.usesOf(at->entity.number)) {
        const FaceRef here = makeFaceRef(*model.parts[at->part], use.face);
        if (here.surface != face.surface) continue;
        // Of the two faces at an edge the one whose middle lies on the remembered side.
        const double off = here.centre.Distance(face.centre);
        if (!like.empty() && off >= nearest) continue;
        like = {{at->part, use.face}};
        nearest = off;
    }
    if (like.empty() || nearest > 0.5 * std::sqrt(face.area)) return found;
    return like.front();
}

Result<Outline> resolved(const Model& model, const Outline& outline) {
    Outline now = outline;
    for (std::optional<EntityRef>* reference : {&now.along, &now.origin}) {
        if (!*reference) continue;
        const auto found = findEdge(model, **reference);
        if (!found) return tl::unexpected(found.error());
        (*reference)->entity = found->entity;
    }
    return now;
}

namespace {

/// Where x is zero: the foot of the outline's origin on the line through `start` along `x`.
Result<gp_Pnt> footOf(const Part& part, int face, const EntityRef& origin, const gp_Pnt& start, const gp_Dir& x) {
    const auto footOn = [&](const gp_Pnt& point) {
        return start.Translated(gp_Vec(x) * gp_Vec(start, point).Dot(gp_Vec(x)));
    };
    if (origin.entity.kind == EntityKind::Vertex)
        return footOn(BRep_Tool::Pnt(TopoDS::Vertex(part.incidence().vertex(origin.entity.number))));
    const auto refused = [&](const char* what) {
        return fail(ProblemKind::NotPossible, what, "Measure from a vertex, a round edge, or an edge across.",
                    {part.name, {face}, origin.at});
    };
    if (origin.entity.kind != EntityKind::Edge) return refused("Outlines are measured from vertices and edges.");
    const BRepAdaptor_Curve curve(part.incidence().edge(origin.entity.number));
    if (curve.GetType() == GeomAbs_Circle) return footOn(curve.Circle().Location());
    if (curve.GetType() != GeomAbs_Line)
        return refused("The edge that lengths along begin at is neither straight nor round.");
    const gp_Vec along = curve.Line().Direction();
    const gp_Vec off(start, curve.Line().Location());
    // In the plane of both: off + t along is to have no part square to x.
    const gp_Vec square = along - gp_Vec(x) * along.Dot(gp_Vec(x));
    // Twice the corner's sine: a quarter of a milliradian is no plane that was drawn.
    if (square.SquareMagnitude() < 1e-8)
        return refused("The edge that lengths along begin at runs beside the one they are measured on.");
    const double t = -off.Dot(square) / square.SquareMagnitude();
    return footOn(curve.Line().Location().Translated(along * t));
}

}  // namespace

Result<gp_Ax3> frameOf(const Part& part, int face, const Outline& outline) {
    const Incidence& topology = part.incidence();
    const TopoDS_Face shape = topology.face(face);
    const BRepAdaptor_Surface surface(shape, false);
    if (surface.GetType() != GeomAbs_Plane)
        return fail(ProblemKind::NotPossible, "An outline is drawn on a flat face, and this one is not flat.",
                    "Part it by a plane, through two points, or by a ring round one of its holes.",
                    {part.name, {face}, {}});
    gp_Dir outward = surface.Plane().Position().Direct() ? surface.Plane().Axis().Direction()
                                                         : surface.Plane().Axis().Direction().Reversed();
    if (shape.Orientation() == TopAbs_REVERSED) outward.Reverse();
    std::optional<TopoDS_Edge> along;
    double longest = 0.0;
    for (TopExp_Explorer it(shape, TopAbs_EDGE); it.More(); it.Next()) {
        const TopoDS_Edge edge = TopoDS::Edge(it.Current());
        const BRepAdaptor_Curve curve(edge);
        const double length = curve.LastParameter() - curve.FirstParameter();
        if (outline.along ? topology.edgeNumber(edge) != outline.along->entity.number
                          : curve.GetType() != GeomAbs_Line || length <= longest)
            continue;
        along = edge;
        longest = length;
    }
    if (!along)
        return fail(ProblemKind::NotPossible,
                    outline.along ? "The edge that is measured from does not bound the face."
                                  : "The face has no straight edge to measure from.",
                    "Pick a straight edge of the face.", {part.name, {face}, {}});
    const BRepAdaptor_Curve curve(*along);
    if (curve.GetType() != GeomAbs_Line)
        return fail(ProblemKind::NotPossible, "The edge that is measured from is not straight.",
                    "Pick a straight edge of the face.", {part.name, {face}, curve.Value(curve.FirstParameter())});
    const bool against = along->Orientation() == TopAbs_REVERSED;
    const gp_Pnt start = curve.Value(against ? curve.LastParameter() : curve.FirstParameter()),
                 end = curve.Value(against ? curve.FirstParameter() : curve.LastParameter());
    const gp_Pnt origin = outline.from == "start" ? start
                          : outline.from == "end" ? end
                                                  : gp_Pnt(0.5 * (start.XYZ() + end.XYZ()));
    const gp_Dir x(gp_Vec(start, end));
    if (!outline.origin) return gp_Ax3(origin, outward, x);
    const auto foot = footOf(part, face, *outline.origin, start, x);
    if (!foot) return tl::unexpected(foot.error());
    return gp_Ax3(*foot, outward, x);
}

Result<TopoDS_Shape> drawn(const Outline& outline, const gp_Ax3& frame, double reach) {
    for (const double value : {outline.at[0], outline.at[1], outline.angle, outline.size[0], outline.size[1]})
        if (!fine(value)) return fail(ProblemKind::BadInput, "A number of the outline is beyond any machine.");
    const gp_XY middle(outline.at[0], outline.at[1]);
    const gp_Dir x = frame.XDirection(), y = frame.YDirection();
    const auto place = [&](const gp_XY& own) {
        const gp_XY p = middle + turned(own, outline.angle);
        return frame.Location().Translated(gp_Vec(x) * p.X() + gp_Vec(y) * p.Y());
    };
    BRepBuilderAPI_MakeWire wire;
    const auto straight = [&](const gp_XY& a, const gp_XY& b) {
        wire.Add(BRepBuilderAPI_MakeEdge(place(a), place(b)).Edge());
    };
    if (outline.shape == "line") {
        straight({-reach, 0.0}, {reach, 0.0});
        return TopoDS_Shape(wire.Wire());
    }
    const gp_Dir z = frame.Direction();
    if (outline.shape == "circle") {
        if (!(outline.size[0] > 0.0)) return fail(ProblemKind::BadInput, "The circle has no diameter.");
        wire.Add(BRepBuilderAPI_MakeEdge(gp_Circ(gp_Ax2(place({0, 0}), z, x), 0.5 * outline.size[0])).Edge());
        return TopoDS_Shape(wire.Wire());
    }
    if (outline.shape == "slot") {
        const double radius = 0.5 * outline.size[1], half = 0.5 * outline.size[0] - radius;
        if (!(radius > 0.0) || !(half > 0.0))
            return fail(ProblemKind::BadInput, "The slot is not longer than it is wide.",
                        "Give its length over all first, then its width.");
        straight({-half, -radius}, {half, -radius});
        for (const double side : {1.0, -1.0}) {
            const gp_Pnt from = place({side * half, -side * radius}), to = place({side * half, side * radius});
            const gp_Dir start(gp_Vec(place({side * half, 0.0}), from));
            wire.Add(
                BRepBuilderAPI_MakeEdge(gp_Circ(gp_Ax2(place({side * half, 0.0}), z, start), radius), from, to).Edge());
            if (side > 0.0) straight({half, radius}, {-half, radius});
        }
        return TopoDS_Shape(wire.Wire());
    }
    const std::vector<gp_XY> corners = cornersOf(outline);
    for (const gp_XY& corner : corners)
        if (!fine(corner.X()) || !fine(corner.Y()))
            return fail(ProblemKind::BadInput, "A number of the outline is beyond any machine.");
    if (corners.size() < (outline.closed() ? 3U : 2U))
        return fail(ProblemKind::BadInput, "The polyline has too few points.");
    const std::size_t sides = outline.closed() ? corners.size() : corners.size() - 1;
    for (std::size_t i = 0; i < sides; ++i)
        if ((corners[(i + 1) % corners.size()] - corners[i]).Modulus() < Tolerance::noWay)
            return fail(ProblemKind::BadInput, outline.shape == "rectangle" ? "The rectangle has no width."
                                                                            : "Two points of the polyline are one.");
    if (crossesItself(corners, outline.closed()))
        return fail(ProblemKind::BadInput, "The polyline crosses or touches itself.", "Move one of its points.");
    for (std::size_t i = 0; i < sides; ++i) straight(corners[i], corners[(i + 1) % corners.size()]);
    return TopoDS_Shape(wire.Wire());
}

TopoDS_Shape wallsOf(const TopoDS_Shape& drawn, const gp_Ax3& frame, double height) {
    gp_Trsf down;
    down.SetTranslation(gp_Vec(frame.Direction()) * -height);
    return BRepPrimAPI_MakePrism(drawn.Moved(TopLoc_Location(down)), gp_Vec(frame.Direction()) * (2.0 * height))
        .Shape();
}

bool isWithin(const Outline& outline, const gp_Ax3& frame, const gp_Pnt& point) {
    const gp_Vec off(frame.Location(), point);
    const gp_XY seen(off.Dot(gp_Vec(frame.XDirection())), off.Dot(gp_Vec(frame.YDirection())));
    const gp_XY own = turned(seen - gp_XY(outline.at[0], outline.at[1]), -outline.angle);
    if (outline.shape == "line") return own.Y() < 0.0;
    if (outline.shape == "circle") return own.Modulus() < 0.5 * outline.size[0];
    if (outline.shape == "slot") {
        const double radius = 0.5 * outline.size[1], half = 0.5 * outline.size[0] - radius;
        const gp_XY nearest(std::clamp(own.X(), -half, half), 0.0);
        return (own - nearest).Modulus() < radius;
    }
    if (!outline.closed()) return false;
    const std::vector<gp_XY> corners = cornersOf(outline);
    bool in = false;
    for (std::size_t i = 0; i < corners.size(); ++i) {
        const gp_XY &a = corners[i], &b = corners[(i + 1) % corners.size()];
        if ((a.Y() > own.Y()) != (b.Y() > own.Y()) &&
            own.X() < a.X() + (b.X() - a.X()) * (own.Y() - a.Y()) / (b.Y() - a.Y()))
            in = !in;
    }
    return in;
}

}  // namespace rasoir::divide
