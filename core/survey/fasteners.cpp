#include "survey/fasteners.h"

#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <ElCLib.hxx>
#include <gp_Lin.hxx>

#include "common/tolerance.h"
#include "geometry/round_surface.h"

namespace rasoir::survey {
namespace {

struct RoundBand {  // a cylinder about the axis
    double radius, from, to;
    bool inward;
};

struct AxialBody {
    gp_Ax1 axis;
    std::vector<RoundBand> cylinders;
    std::vector<gp_Vec> flats;                         // normals of the planes that run along the axis, outward
    std::vector<std::pair<double, double>> flatReach;  // how far along the axis each goes
    double from = 0.0, to = 0.0, reach = 0.0;          // along the axis; farthest edge point from it
    bool sockets = false;                              // planes neither square to the axis nor along it, or facing it
};

/// Everything of the solid measured along its axis; none when its round faces do not share one.
std::optional<AxialBody> axialBody(const Incidence& topology, const std::vector<int>& faces) {
    AxialBody body;
    // The longest cylinder gives the axis.
    double longest = 0.0;
    std::map<int, RoundSurface> rounds;
    const auto extentOf = [&](int f, const gp_Ax1& axis) {
        double low = std::numeric_limits<double>::max(), high = -low;
        for (const int e : topology.edgesOf(f)) {
            const TopoDS_Edge edge = topology.edge(e);
            if (BRep_Tool::Degenerated(edge)) continue;
            const BRepAdaptor_Curve curve(edge);
            for (int i = 0; i <= 6; ++i) {
                const gp_Pnt point =
                    curve.Value(curve.FirstParameter() + (curve.LastParameter() - curve.FirstParameter()) * i / 6);
                const double at = gp_Vec(axis.Location(), point).Dot(gp_Vec(axis.Direction()));
                low = std::min(low, at);
                high = std::max(high, at);
            }
        }
        return std::pair(low, high);
    };
    for (const int f : faces) {
        const auto round = roundSurface(topology.face(f));
        if (!round) continue;
        rounds.emplace(f, *round);
        if (round->kind != SurfaceKind::Cylinder) continue;
        const auto [low, high] = extentOf(f, round->axis);
        if (high - low > longest) longest = high - low, body.axis = round->axis;
    }
    if (longest == 0.0) return std::nullopt;
    const gp_Lin line(body.axis);
    const gp_Dir& along = body.axis.Direction();
    body.from = std::numeric_limits<double>::max();
    body.to = -body.from;
    for (const int f : faces) {
        const auto [low, high] = extentOf(f, body.axis);
        body.from = std::min(body.from, low);
        body.to = std::max(body.to, high);
        for (const int e : topology.edgesOf(f)) {
            const TopoDS_Edge edge = topology.edge(e);
            if (BRep_Tool::Degenerated(edge)) continue;
            const BRepAdaptor_Curve curve(edge);
            for (int i = 0; i <= 6; ++i)
                body.reach = std::max(
                    body.reach, line.Distance(curve.Value(curve.FirstParameter() +
                                                          (curve.LastParameter() - curve.FirstParameter()) * i / 6)));
        }
        const auto round = rounds.find(f);
        if (round != rounds.end()) {
            const RoundSurface& r = round->second;
            const double apart = line.Distance(r.axis.Location());
            // Of the radius: one body of revolution, parts of which may be fitted.
            const bool shares = r.kind == SurfaceKind::Sphere
                                    ? apart < 1e-3 * r.radius
                                    : r.axis.IsParallel(body.axis, Tolerance::fittedDirection) &&
                                          apart < 1e-3 * std::max(r.radius, r.ringRadius);  // for the same reason
            if (!shares) return std::nullopt;
            if (r.kind == SurfaceKind::Cylinder) body.cylinders.push_back({r.radius, low, high, r.inward});
            continue;
        }
        const TopoDS_Face face = topology.face(f);
        if (surfaceKind(face) != SurfaceKind::Plane) continue;  // a thread, a cone's cut: passed over
        const gp_Pln plane = BRepAdaptor_Surface(face).Plane();
        gp_Dir normal = plane.Axis().Direction();
        if (!plane.Direct()) normal.Reverse();
        if (face.Orientation() == TopAbs_REVERSED) normal.Reverse();
        const double slant = std::abs(normal.Dot(along));
        if (slant > 1.0 - 1e-6) continue;  // a cosine: 1.4e-3 rad from square to the axis is an end
        const gp_Pnt middle = ElCLib::Value(ElCLib::Parameter(line, plane.Location()), line);
        const bool outwards = gp_Vec(middle, plane.Location()).Dot(gp_Vec(normal)) > 0.0;
        if (slant < Tolerance::fittedDirection && outwards) {
            body.flats.emplace_back(normal);
            body.flatReach.emplace_back(low, high);
        } else {
            body.sockets = true;
        }
    }
    return body;
}

/// Six flats, each 60 degrees from the next (each may be split).
bool isHexagon(const std::vector<gp_Vec>& flats) {
    std::vector<gp_Vec> different;
    for (const gp_Vec& flat : flats)
        if (std::none_of(different.begin(), different.end(),
                         [&](const gp_Vec& other) { return flat.Angle(other) < 0.01; }))
            different.push_back(flat);
    if (different.size() != 6) return false;
    for (const gp_Vec& flat : different) {
        int beside = 0;
        for (const gp_Vec& other : different) beside += std::abs(flat.Angle(other) - M_PI / 3) < 0.01;
        if (beside != 2) return false;
    }
    return true;
}

std::optional<Fastener> fastenerOf(const AxialBody& body) {
    double hole = 0.0, outer = 0.0;
    for (const RoundBand& band : body.cylinders) {
        if (band.inward)
            hole = hole == 0.0 ? band.radius : std::min(hole, band.radius);
        else
            outer = std::max(outer, band.radius);
    }
    Fastener fastener;
    fastener.axis = body.axis;
    const double height = body.to - body.from;
    const bool hexagon = isHexagon(body.flats);
    const bool holeGoesThrough = [&] {
        double low = body.to, high = body.from;
        for (const RoundBand& band : body.cylinders)
            if (band.inward) low = std::min(low, band.from), high = std::max(high, band.to);
        return hole > 0.0 && high - low > 0.6 * height;
    }();
    if (holeGoesThrough) {
        fastener.diameter = 2.0 * hole;
        fastener.length = height;
        if (hexagon && body.reach < 2.5 * 2.0 * hole && height > 0.3 * hole) {
            fastener.kind = FastenerKind::Nut;
            return fastener;
        }
        if (body.flats.empty() && !body.sockets && outer > 1.15 * hole && height < 2.0 * outer / 3.0 &&
            outer < 6.0 * hole) {
            fastener.kind = FastenerKind::Washer;
            return fastener;
        }
        return std::nullopt;
    }
    // The outside: bands that face away from the axis, from one end to the other.
    std::vector<RoundBand> outside;
    for (const RoundBand& band : body.cylinders)
        if (!band.inward) outside.push_back(band);
    if (outside.empty()) return std::nullopt;
    double shank = outside.front().radius, widest = 0.0;
    for (const RoundBand& band : outside) {
        shank = std::min(shank, band.radius);
        widest = std::max(widest, band.radius);
    }
    if (hexagon) widest = std::max(widest, body.reach);
    double shankFrom = body.to, shankTo = body.from, headFrom = body.to, headTo = body.from;
    for (const RoundBand& band : outside) {
        const bool isShank = band.radius < 1.35 * shank && !(hexagon && band.radius > 0.95 * widest);
        double& from = isShank ? shankFrom : headFrom;
        double& to = isShank ? shankTo : headTo;
        from = std::min(from, band.from);
        to = std::max(to, band.to);
    }
    if (hexagon)
        for (const auto& [low, high] : body.flatReach)
            headFrom = std::min(headFrom, low), headTo = std::max(headTo, high);
    const bool head = headTo > headFrom;
    fastener.diameter = 2.0 * shank;
    if (!head) {
        // A countersunk head has no cylinder of its own: the body is then wider than its shank.
        if (body.reach > 1.35 * shank) {
            if (body.flats.empty() && shankTo - shankFrom >= 2.0 * shank) {
                fastener.kind = FastenerKind::Bolt;
                fastener.length = height;
                return fastener;
            }
            return std::nullopt;
        }
        if (!body.flats.empty() || body.sockets || height < 2.0 * shank) return std::nullopt;
        fastener.kind = FastenerKind::Pin;
        fastener.length = height;
        return fastener;
    }
    // Head at one end, shank at the other, not both mixed.
    const double slack = 0.02 * height;
    const bool separate = headFrom >= shankTo - slack || headTo <= shankFrom + slack;
    const double shankLength = headFrom >= shankTo - slack ? headFrom - body.from : body.to - headTo;
    if (!separate || shankLength < 1.6 * shank || widest < 1.3 * shank || widest > 4.0 * shank ||
        headTo - headFrom > 2.5 * widest)
        return std::nullopt;
    if (!body.flats.empty() && !hexagon) return std::nullopt;
    fastener.kind = FastenerKind::Bolt;
    fastener.length = shankLength;
    return fastener;
}

}  // namespace

std::optional<std::vector<Fastener>> fastenersIn(const Part& part) {
    const Incidence& topology = part.incidence();
    if (topology.solidCount() == 0 || topology.solidCount() > 20 || part.kind() != BodyKind::Solid) return std::nullopt;
    std::vector<std::vector<int>> facesOf(static_cast<std::size_t>(topology.solidCount()));
    for (int f = 1; f <= topology.faceCount(); ++f)
        if (const int body = topology.bodyOf(f); body >= 0) facesOf[static_cast<std::size_t>(body)].push_back(f);
    std::vector<Fastener> all;
    for (std::size_t s = 0; s < facesOf.size(); ++s) {
        const auto body = axialBody(topology, facesOf[s]);
        auto fastener = body ? fastenerOf(*body) : std::nullopt;
        if (!fastener) return std::nullopt;
        fastener->body = static_cast<int>(s);
        all.push_back(*fastener);
    }
    return all;
}

std::string fastenerName(FastenerKind kind) {
    switch (kind) {
        case FastenerKind::Bolt:
            return "bolt";
        case FastenerKind::Nut:
            return "nut";
        case FastenerKind::Washer:
            return "washer";
        case FastenerKind::Pin:
            return "pin";
    }
    return "bolt";
}

std::optional<FastenerKind> fastenerFromName(const std::string& name) {
    for (const FastenerKind kind : {FastenerKind::Bolt, FastenerKind::Nut, FastenerKind::Washer, FastenerKind::Pin})
        if (fastenerName(kind) == name) return kind;
    return std::nullopt;
}

}  // namespace rasoir::survey
