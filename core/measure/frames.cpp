#include "measure/frames.h"

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <ElCLib.hxx>
#include <gp_Lin.hxx>
#include <TopoDS.hxx>

#include "common/tolerance.h"
#include "geometry/integrals.h"
#include "geometry/round_surface.h"

namespace rasoir::measure {
namespace {

struct Held {
    std::vector<TopoDS_Face> flats, rounds;
    std::vector<gp_Pnt> points;
    std::size_t others = 0;
};

/// What a group holds, in the first place where it does, in model coordinates.
Held heldBy(const Model& model, const Group& group) {
    Held held;
    for (const Member& member : group.members)
        for (const Occurrence& place : model.occurrences) {
            const Part& part = *model.parts[place.part];
            if (part.id != member.part || (member.place != everyPlace && member.place != place.id)) continue;
            const Incidence& topology = part.incidence();
            const int number = member.entity.number;
            if (member.entity.kind == EntityKind::Vertex && number <= topology.vertexCount()) {
                held.points.push_back(
                    BRep_Tool::Pnt(TopoDS::Vertex(topology.vertex(number))).Transformed(place.placement));
            } else if (member.entity.kind == EntityKind::Face && number <= topology.faceCount()) {
                const TopoDS_Face face = TopoDS::Face(topology.face(number).Moved(TopLoc_Location(place.placement)));
                if (surfaceKind(face) == SurfaceKind::Plane)
                    held.flats.push_back(face);
                else if (const auto round = roundSurface(face); round && round->kind != SurfaceKind::Sphere)
                    held.rounds.push_back(face);
                else
                    ++held.others;
            } else {
                ++held.others;
            }
            break;
        }
    return held;
}

gp_Dir outwardOf(const TopoDS_Face& flat) {
    const BRepAdaptor_Surface surface(flat, false);
    const gp_Pln plane = surface.Plane();
    gp_Dir normal = plane.XAxis().Direction().Crossed(plane.YAxis().Direction());
    if (flat.Orientation() == TopAbs_REVERSED) normal.Reverse();
    return normal;
}

/// The model's axis that lies best across a direction.
gp_Dir acrossOf(const gp_Dir& z) {
    for (const gp_Dir& axis : {gp::DX(), gp::DY(), gp::DZ()})
        if (std::abs(axis.Dot(z)) < 0.71) return axis;  // one of three always does
    return gp::DX();
}

std::optional<gp_Dir> longestEdgeOf(const TopoDS_Face& flat) {
    const Incidence topology(flat);
    std::optional<gp_Dir> along;
    double longest = 0.0;
    for (int e = 1; e <= topology.edgeCount(); ++e) {
        const BRepAdaptor_Curve curve(topology.edge(e));
        if (curve.GetType() != GeomAbs_Line) continue;
        const double length = curve.LastParameter() - curve.FirstParameter();
        if (length <= longest * (1.0 + Tolerance::atLimit)) continue;
        longest = length;
        along = curve.Line().Direction();
    }
    if (!along) return std::nullopt;
    // Which way an edge runs says nothing: towards the larger coordinate, as one counts.
    for (const double part : {along->X(), along->Y(), along->Z()})
        if (std::abs(part) > Tolerance::sameDirection) {
            if (part < 0.0) along->Reverse();
            break;
        }
    return along;
}

}  // namespace

std::optional<gp_Ax3> frameOf(const Model& model, const Group& group) {
    const Held held = heldBy(model, group);
    if (held.others > 0) return std::nullopt;
    if (held.flats.size() == 1 && held.points.empty() && held.rounds.size() <= 1) {
        const gp_Dir z = outwardOf(held.flats[0]);
        gp_Pnt origin = skinOf(held.flats[0]).centre;
        if (!held.rounds.empty()) {
            const gp_Ax1 axis = roundSurface(held.rounds[0])->axis;
            const double rate = axis.Direction().Dot(z);
            if (std::abs(rate) < 0.1) return std::nullopt;  // it hardly pierces the flat
            origin = axis.Location().Translated(gp_Vec(axis.Direction()) *
                                                (gp_Vec(axis.Location(), origin).Dot(gp_Vec(z)) / rate));
        }
        const auto along = longestEdgeOf(held.flats[0]);
        return gp_Ax3(origin, z, along.value_or(acrossOf(z)));
    }
    if (held.rounds.size() == 1 && held.flats.empty() && held.points.empty()) {
        const gp_Ax1 axis = roundSurface(held.rounds[0])->axis;
        gp_Dir z = axis.Direction();
        for (const double part : {z.Z(), z.Y(), z.X()})
            if (std::abs(part) > Tolerance::sameDirection) {
                if (part < 0.0) z.Reverse();
                break;
            }
        const gp_Pnt centre = skinOf(held.rounds[0]).centre;
        const gp_Pnt origin = ElCLib::Value(ElCLib::Parameter(gp_Lin(axis), centre), gp_Lin(axis));
        return gp_Ax3(origin, z, acrossOf(z));
    }
    if (held.points.size() == 3 && held.flats.empty() && held.rounds.empty()) {
        std::size_t corner = 0;
        double best = 2.0;
        for (std::size_t k = 0; k < 3; ++k) {
            const gp_Vec a(held.points[k], held.points[(k + 1) % 3]), b(held.points[k], held.points[(k + 2) % 3]);
            if (a.Magnitude() < Tolerance::noWay || b.Magnitude() < Tolerance::noWay) return std::nullopt;
            const double cosine = std::abs(a.Normalized().Dot(b.Normalized()));
            if (cosine > 1.0 - 1e-9) return std::nullopt;  // a cosine: 5e-5 rad apart, two directions span no plane
            if (cosine < best - 1e-12) {                   // by more than rounding, so that the first of equals stays
                best = cosine;
                corner = k;
            }
        }
        gp_Vec x(held.points[corner], held.points[(corner + 1) % 3]),
            y(held.points[corner], held.points[(corner + 2) % 3]);
        if (x.Magnitude() < y.Magnitude()) std::swap(x, y);
        return gp_Ax3(held.points[corner], gp_Dir(x.Crossed(y)), gp_Dir(x));
    }
    return std::nullopt;
}

std::vector<Frame> framesOf(const Model& model) {
    std::vector<Frame> frames;
    for (const Group& group : model.groups)
        if (group.purpose == framePurpose)
            if (const auto axes = frameOf(model, group)) frames.push_back({group.name, *axes});
    return frames;
}

Model seenIn(const Model& model, const gp_Ax3& axes) {
    gp_Trsf move;
    move.SetTransformation(axes);
    Model seen = model;
    seen.occurrences.changeAll([&move](Occurrence& place) { place.placement = move * place.placement; });
    return seen;
}

}  // namespace rasoir::measure
