#include "join/bolts.h"

#include <fmt/format.h>

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <gp_Circ.hxx>
#include <gp_Cylinder.hxx>
#include <gp_Lin.hxx>
#include <map>
#include <set>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>

#include "common/tolerance.h"
#include "model/places.h"
#include "survey/fasteners.h"

// A bolt's own geometry says where its head is: its shank is the cylinder of its diameter, and what reaches farther
// along the axis beyond one end of the shank is the head. Everything else is asked along that axis: holes about it,
// nuts and washers on it.

namespace rasoir::join {
namespace {

/// Where something lies along an axis [mm].
struct Span {
    double from = 1e300, to = -1e300;
    void add(double at) {
        from = std::min(from, at);
        to = std::max(to, at);
    }
    [[nodiscard]] double length() const { return to - from; }
};

double along(const gp_Ax1& axis, const gp_Pnt& point) {
    return gp_Vec(axis.Location(), point).Dot(gp_Vec(axis.Direction()));
}

Span spanOf(const TopoDS_Shape& shape, const gp_Trsf& placement, const gp_Ax1& axis) {
    Span span;
    for (TopExp_Explorer it(shape, TopAbs_EDGE); it.More(); it.Next()) {
        if (BRep_Tool::Degenerated(TopoDS::Edge(it.Current()))) continue;
        const BRepAdaptor_Curve curve(TopoDS::Edge(it.Current()));
        for (const double share : {0.0, 0.25, 0.5, 0.75, 1.0})
            span.add(along(
                axis, curve.Value(curve.FirstParameter() + share * (curve.LastParameter() - curve.FirstParameter()))
                          .Transformed(placement)));
    }
    return span;
}

/// A round face of a place, in model coordinates.
struct RoundFace {
    std::size_t place = 0;
    int face = 0;
    gp_Ax1 axis;
    double radius = 0.0;
    bool hole = false;
};

std::vector<RoundFace> roundFaces(const Model& model) {
    std::vector<RoundFace> all;
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        const Occurrence& place = model.occurrences[o];
        const Part& part = *model.parts[place.part];
        if (place.aside || part.lump) continue;
        for (int f = 1; f <= part.incidence().faceCount(); ++f) {
            const TopoDS_Face face = part.incidence().face(f);
            const BRepAdaptor_Surface surface(face, false);
            if (surface.GetType() != GeomAbs_Cylinder) continue;
            const gp_Cylinder cylinder = surface.Cylinder();
            all.push_back({o, f, cylinder.Axis().Transformed(place.placement), cylinder.Radius(),
                           (face.Orientation() == TopAbs_REVERSED) == cylinder.Direct()});
        }
    }
    return all;
}

bool sameAxis(const gp_Ax1& a, const gp_Ax1& b, double apart) {
    // [rad] bores of parts that were placed by hand are off by that much, and a bolt still goes through.
    return a.Direction().IsParallel(b.Direction(), 2e-3) && gp_Lin(a).Distance(b.Location()) <= apart;
}

/// The joint that one bolt makes; none when it goes through nothing.
std::optional<BoltedJoint> jointOf(const Model& model, std::size_t o, const survey::Fastener& bolt,
                                   const std::vector<RoundFace>& rounds,
                                   const std::map<std::size_t, std::vector<survey::Fastener>>& fasteners) {
    const Occurrence& place = model.occurrences[o];
    const Part& part = *model.parts[place.part];
    gp_Ax1 axis = bolt.axis.Transformed(place.placement);
    // The shank, and on which side of it the head is.
    Span shank, whole;
    for (int f = 1; f <= part.incidence().faceCount(); ++f) {
        if (part.incidence().bodyOf(f) != bolt.body) continue;
        const Span own = spanOf(part.incidence().face(f), place.placement, axis);
        whole.add(own.from);
        whole.add(own.to);
        const BRepAdaptor_Surface surface(part.incidence().face(f), false);
        // A bolt and its own shank, which may be fitted.
        if (surface.GetType() == GeomAbs_Cylinder &&
            std::abs(2.0 * surface.Cylinder().Radius() - bolt.diameter) < 1e-3 * bolt.diameter &&
            part.incidence().face(f).Orientation() != TopAbs_REVERSED) {
            shank.add(own.from);
            shank.add(own.to);
        }
    }
    if (!(shank.length() > 0.0)) return std::nullopt;
    const bool headBefore = shank.from - whole.from > whole.to - shank.to;
    const double start = headBefore ? shank.from : shank.to;
    axis = gp_Ax1(axis.Location().Translated(gp_Vec(axis.Direction()) * start),
                  headBefore ? axis.Direction() : axis.Direction().Reversed());
    BoltedJoint joint;
    joint.bolt = o;
    joint.body = bolt.body;
    joint.axis = axis;
    joint.diameter = bolt.diameter;
    const double reach = shank.length(), loose = 0.1 * bolt.diameter;
    // Nuts and washers on it, in its own part and in others.
    double nutAt = 1e300;
    for (const auto& [other, bodies] : fasteners)
        for (const survey::Fastener& one : bodies) {
            if (one.kind != survey::FastenerKind::Nut && one.kind != survey::FastenerKind::Washer) continue;
            const Occurrence& its = model.occurrences[other];
            if (!sameAxis(axis, one.axis.Transformed(its.placement), loose)) continue;
            Span span;
            const Incidence& topology = model.parts[its.part]->incidence();
            for (int f = 1; f <= topology.faceCount(); ++f)
                if (topology.bodyOf(f) == one.body) {
                    const Span own = spanOf(topology.face(f), its.placement, axis);
                    span.add(own.from);
                    span.add(own.to);
                }
            if (span.to < -loose || span.from > reach + loose) continue;
            if (other != o) joint.with.push_back(other);
            if (one.kind == survey::FastenerKind::Nut) nutAt = std::min(nutAt, span.from);
        }
    std::sort(joint.with.begin(), joint.with.end());
    joint.with.erase(std::unique(joint.with.begin(), joint.with.end()), joint.with.end());
    joint.nut = nutAt < 1e299;
    // Holes about the shank.
    for (const RoundFace& round : rounds) {
        if (!round.hole || fasteners.contains(round.place) || !sameAxis(axis, round.axis, loose)) continue;
        if (2.0 * round.radius < 0.9 * bolt.diameter || 2.0 * round.radius > 1.6 * bolt.diameter) continue;
        const Span span = spanOf(model.parts[model.occurrences[round.place].part]->incidence().face(round.face),
                                 model.occurrences[round.place].placement, axis);
        if (std::min(span.to, reach) - std::max(span.from, 0.0) < 0.05 * std::min(span.length(), reach)) continue;
        if (joint.nut && span.from > nutAt - Tolerance::sameSize * reach) continue;
        joint.clamped.push_back({round.place, round.face, span.from, span.to, 2.0 * round.radius});
    }
    if (joint.clamped.empty()) return std::nullopt;
    std::stable_sort(joint.clamped.begin(), joint.clamped.end(),
                     [](const auto& a, const auto& b) { return a.from < b.from; });
    joint.length = joint.nut ? nutAt : std::max(joint.clamped.back().from, 0.0);
    // A single body without a nut: the thread holds in it, over its length.
    if (!(joint.length > 1e-6 * reach)) joint.length = std::min(joint.clamped.back().to, reach);
    return joint;
}

}  // namespace

std::vector<int> rimOf(const Model& model, const BoltedJoint::Member& member, const gp_Ax1& axis, double at) {
    const Occurrence& place = model.occurrences[member.place];
    const Incidence& topology = model.parts[place.part]->incidence();
    std::vector<int> rim;
    double nearest = 1e300;
    for (const int e : topology.edgesOf(member.face)) {
        const BRepAdaptor_Curve curve(topology.edge(e));
        if (curve.GetType() != GeomAbs_Circle) continue;
        const double off = std::abs(along(axis, curve.Circle().Location().Transformed(place.placement)) - at);
        if (off < nearest - Tolerance::samePlace) rim.clear();
        if (off < nearest + Tolerance::samePlace) rim.push_back(e);
        nearest = std::min(nearest, off);
    }
    return rim;
}

Result<std::vector<BoltedJoint>> findBolts(const Model& model, Progress& progress) {
    std::map<std::size_t, std::vector<survey::Fastener>> fasteners;  // by place
    std::map<std::size_t, std::vector<survey::Fastener>> byPart;
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        if (auto own = survey::fastenersIn(*model.parts[p])) byPart[p] = std::move(*own);
    }
    for (std::size_t o = 0; o < model.occurrences.size(); ++o)
        if (const auto own = byPart.find(model.occurrences[o].part);
            own != byPart.end() && !own->second.empty() && !model.occurrences[o].aside)
            fasteners[o] = own->second;
    const auto rounds = roundFaces(model);
    std::vector<BoltedJoint> joints;
    for (const auto& [o, bodies] : fasteners)
        for (const survey::Fastener& one : bodies)
            if (one.kind == survey::FastenerKind::Bolt)
                if (auto joint = jointOf(model, o, one, rounds, fasteners)) joints.push_back(std::move(*joint));
    return joints;
}

}  // namespace rasoir::join
