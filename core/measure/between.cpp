#include "measure/between.h"

#include <fmt/format.h>

#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepExtrema_DistShapeShape.hxx>
#include <BRepGProp.hxx>
#include <BRepTools.hxx>
#include <GCPnts_AbscissaPoint.hxx>
#include <GeomLProp_SLProps.hxx>
#include <GProp_GProps.hxx>

#include "common/guard.h"
#include "common/tolerance.h"
#include "geometry/integrals.h"
#include "geometry/round_surface.h"
#include "topology/edge_angle.h"

namespace rasoir::measure {
namespace {

constexpr double degrees = 180.0 / M_PI;

/// Least and largest radius of the strongest curvature over a face, from a grid of points inside its bounds.
std::optional<std::array<double, 2>> radiusRange(const TopoDS_Face& face) {
    const Handle(Geom_Surface) surface = BRep_Tool::Surface(face);
    double u0 = 0.0, u1 = 0.0, v0 = 0.0, v1 = 0.0;
    BRepTools::UVBounds(face, u0, u1, v0, v1);
    double least = std::numeric_limits<double>::max(), largest = 0.0;
    constexpr int grid = 12;
    for (int i = 0; i <= grid; ++i)
        for (int j = 0; j <= grid; ++j) {
            GeomLProp_SLProps at(surface, u0 + (u1 - u0) * i / grid, v0 + (v1 - v0) * j / grid, 2, Tolerance::noWay);
            if (!at.IsCurvatureDefined()) continue;
            const double curvature = std::max(std::abs(at.MaxCurvature()), std::abs(at.MinCurvature()));
            if (curvature < 1e-9) continue;  // [1/mm] a radius of a kilometre is flat
            least = std::min(least, 1.0 / curvature);
            largest = std::max(largest, 1.0 / curvature);
        }
    if (largest == 0.0) return std::nullopt;
    return std::array{least, largest};
}

Reading faceReading(const TopoDS_Face& face) {
    Reading reading;
    const SurfaceKind kind = surfaceKind(face);
    reading.kind = surfaceKindName(kind);
    const Skin skin = skinOf(face);
    reading.area = skin.area;
    reading.centre = skin.centre;
    if (const auto round = roundSurface(face)) {
        reading.convex = !round->inward;
        if (kind != round->kind) reading.kind += ", as good as a " + surfaceKindName(round->kind);
        if (round->kind != SurfaceKind::Cone) reading.radius = round->radius;
        if (round->kind == SurfaceKind::Torus) reading.ringRadius = round->ringRadius;
        if (round->kind == SurfaceKind::Cone) reading.coneAngle = 2.0 * std::atan(std::abs(round->slope)) * degrees;
        if (round->kind == SurfaceKind::Sphere || round->kind == SurfaceKind::Torus)
            reading.centre = round->axis.Location();
        if (round->kind != SurfaceKind::Sphere) reading.direction = round->axis.Direction();
    } else if (kind == SurfaceKind::Plane) {
        const BRepAdaptor_Surface surface(face);
        gp_Dir normal = surface.Plane().Axis().Direction();
        if (!surface.Plane().Direct()) normal.Reverse();
        reading.direction = face.Orientation() == TopAbs_REVERSED ? normal.Reversed() : normal;
    } else {
        reading.radiusRange = radiusRange(face);
    }
    return reading;
}

Reading edgeReading(const Incidence& topology, int number, const TopoDS_Edge& placed) {
    Reading reading;
    const BRepAdaptor_Curve curve(placed);
    reading.length = GCPnts_AbscissaPoint::Length(curve, Tolerance::least);
    GProp_GProps line;
    BRepGProp::LinearProperties(placed, line);
    reading.centre = line.CentreOfMass();
    switch (curve.GetType()) {
        case GeomAbs_Line:
            reading.kind = "straight edge";
            reading.direction = curve.Line().Direction();
            break;
        case GeomAbs_Circle:
            reading.kind = std::abs(curve.LastParameter() - curve.FirstParameter()) > 2.0 * M_PI - Tolerance::parameter
                               ? "circle"
                               : "arc";
            reading.radius = curve.Circle().Radius();
            reading.centre = curve.Circle().Location();
            reading.direction = curve.Circle().Axis().Direction();
            break;
        case GeomAbs_Ellipse:
            reading.kind = "ellipse";
            reading.radiusRange = std::array{curve.Ellipse().MinorRadius(), curve.Ellipse().MajorRadius()};
            reading.centre = curve.Ellipse().Location();
            break;
        default:
            reading.kind = "curved edge";
    }
    reading.facesMeeting = topology.facesAt(number);
    const EdgeAngle angle = edgeAngle(topology, number);
    if (angle.kind == EdgeKind::Convex || angle.kind == EdgeKind::Concave)
        reading.dihedral = 180.0 - angle.turn * degrees;
    if (angle.kind == EdgeKind::Smooth && reading.facesMeeting == 2) reading.dihedral = 180.0;
    return reading;
}

TopoDS_Shape bodyOf(const TopoDS_Shape& shape, int number) {
    int at = 0;
    for (TopExp_Explorer solid(shape, TopAbs_SOLID); solid.More(); solid.Next())
        if (++at == number) return solid.Current();
    return {};
}

std::string lengthText(double millimetres, Unit unit) {
    return fmt::format("{} {}", readable(millimetres / millimetresPer(unit)), unitName(unit));
}
std::string areaText(double squared, Unit unit) {
    const double per = millimetresPer(unit);
    return fmt::format("{} {}²", readable(squared / (per * per)), unitName(unit));
}

}  // namespace

TopoDS_Shape shapeOf(const Model& model, const select::Pick& item) {
    const Occurrence& o = model.occurrences[item.occurrence];
    const Part& part = *model.parts[o.part];
    if (part.shape.IsNull()) return {};
    TopoDS_Shape shape = part.shape;
    if (item.face > 0) {
        shape = part.incidence().face(item.face);
    } else if (item.edge > 0) {
        shape = part.incidence().edge(item.edge);
    } else if (item.vertex > 0) {
        for (TopExp_Explorer it(part.shape, TopAbs_VERTEX); it.More(); it.Next())
            if (part.incidence().vertexNumber(it.Current()) == item.vertex) {
                shape = it.Current();
                break;
            }
    } else if (item.body > 0) {
        shape = bodyOf(part.shape, item.body);
    }
    return shape.IsNull() ? shape : shape.Moved(TopLoc_Location(o.placement));
}

Reading readingOf(const Model& model, const select::Pick& item) {
    const TopoDS_Shape shape = shapeOf(model, item);
    Reading reading;
    if (shape.IsNull()) return reading;
    const auto read = guarded("Measuring", [&]() -> Result<Reading> {
        switch (kindOf(item)) {
            case select::PickKind::Face:
                return faceReading(TopoDS::Face(shape));
            case select::PickKind::Edge:
                return edgeReading(model.parts[model.occurrences[item.occurrence].part]->incidence(), item.edge,
                                   TopoDS::Edge(shape));
            case select::PickKind::Vertex: {
                Reading own;
                own.kind = "vertex";
                own.centre = BRep_Tool::Pnt(TopoDS::Vertex(shape));
                return own;
            }
            default: {
                Reading own;
                own.kind = item.body > 0 ? "body" : "part";
                const Skin skin = skinOf(shape);
                own.area = skin.area;
                own.centre = skin.centre;
                return own;
            }
        }
    });
    return read.value_or(Reading{});
}

std::optional<PairReading> readingBetween(const Model& model, const select::Pick& a, const select::Pick& b) {
    const TopoDS_Shape first = shapeOf(model, a), second = shapeOf(model, b);
    if (first.IsNull() || second.IsNull()) return std::nullopt;
    PairReading pair;
    const auto done = guarded("Measuring", [&]() -> Result<bool> {
        const BRepExtrema_DistShapeShape distance(first, second);
        if (!distance.IsDone() || distance.NbSolution() == 0) return false;
        pair.least = distance.Value();
        pair.from = distance.PointOnShape1(1);
        pair.to = distance.PointOnShape2(1);
        return true;
    });
    if (!done || !*done) return std::nullopt;
    for (int i = 0; i < 3; ++i) pair.along[static_cast<std::size_t>(i)] = pair.to.Coord(i + 1) - pair.from.Coord(i + 1);
    const Reading ra = readingOf(model, a), rb = readingOf(model, b);
    if (ra.centre && rb.centre) pair.centres = ra.centre->Distance(*rb.centre);
    if (ra.direction && rb.direction) {
        double angle = ra.direction->Angle(*rb.direction) * degrees;
        if (angle > 90.0) angle = 180.0 - angle;
        pair.angle = angle;
        if (angle < 1e-3) {  // [rad] beside one another but for drawing: a distance says more than an angle
            const gp_Vec apart(*ra.centre, *rb.centre), along(*ra.direction);
            const bool planeA = ra.kind == "plane", planeB = rb.kind == "plane";
            if (planeA && planeB)
                pair.planes = std::abs(apart.Dot(along));
            else if (!planeA && !planeB)
                pair.axes = apart.Crossed(along).Magnitude();
        }
    }
    return pair;
}

std::string inWords(const Reading& reading, Unit unit) {
    std::string text = reading.kind;
    if (reading.radius) {
        const bool full = reading.kind.find("cylinder") != std::string::npos || reading.kind == "circle";
        text += full ? ", Ø " + lengthText(2.0 * *reading.radius, unit) : ", R " + lengthText(*reading.radius, unit);
    }
    if (reading.ringRadius) text += ", ring R " + lengthText(*reading.ringRadius, unit);
    if (reading.radiusRange)
        text += fmt::format(", R {} to {}", readable((*reading.radiusRange)[0] / millimetresPer(unit)),
                            lengthText((*reading.radiusRange)[1], unit));
    if (reading.coneAngle) text += fmt::format(", {}°", readable(*reading.coneAngle));
    if (reading.length) text += ", " + lengthText(*reading.length, unit) + " long";
    if (reading.area) text += ", area " + areaText(*reading.area, unit);
    if (reading.facesMeeting == 1)
        text += ", open: one face";
    else if (reading.facesMeeting > 2)
        text += fmt::format(", where {} faces meet", reading.facesMeeting);
    if (reading.dihedral)
        text += *reading.dihedral == 180.0
                    ? ", smooth"
                    : fmt::format(", {}, {}° inside", *reading.dihedral < 180.0 ? "convex" : "concave",
                                  readable(*reading.dihedral));
    if (reading.kind == "vertex" && reading.centre) {
        const double per = millimetresPer(unit);
        text += fmt::format(" at {}, {}, {} {}", readable(reading.centre->X() / per),
                            readable(reading.centre->Y() / per), readable(reading.centre->Z() / per), unitName(unit));
    }
    return text;
}

std::string inWords(const PairReading& pair, Unit unit) {
    std::string text = "distance " + lengthText(pair.least, unit);
    if (pair.planes) text += ", planes " + lengthText(*pair.planes, unit) + " apart";
    if (pair.axes)
        text += *pair.axes < Tolerance::samePlace ? std::string(", on one axis")
                                                  : ", axes " + lengthText(*pair.axes, unit) + " apart";
    else if (pair.centres && !pair.planes)
        text += ", centres " + lengthText(*pair.centres, unit);
    // Degrees, as many digits as are shown.
    if (pair.angle && *pair.angle > 1e-3) text += fmt::format(", angle {}°", readable(*pair.angle));
    const double per = millimetresPer(unit);
    if (pair.least > 0.0)
        text += fmt::format(", along x {} y {} z {}", readable(pair.along[0] / per), readable(pair.along[1] / per),
                            readable(pair.along[2] / per));
    return text;
}

}  // namespace rasoir::measure
