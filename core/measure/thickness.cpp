#include "measure/thickness.h"

#include <tbb/parallel_for.h>

#include <Geom_Line.hxx>
#include <Geom_TrimmedCurve.hxx>
#include <GeomAPI_IntCS.hxx>
#include <GeomAPI_ProjectPointOnSurf.hxx>

#include "common/guard.h"
#include "common/tolerance.h"
#include "model/places.h"

namespace rasoir::measure {
namespace {

Handle(Geom_Surface) surfaceIn(const Model& model, std::size_t occurrence, int face) {
    const Occurrence& o = model.occurrences[occurrence];
    const Handle(Geom_Surface) surface = BRep_Tool::Surface(model.parts[o.part]->incidence().face(face));
    if (o.placement.Form() == gp_Identity) return surface;
    return Handle(Geom_Surface)::DownCast(surface->Transformed(o.placement));
}

/// Outward normal of a face at a point of it.
std::optional<gp_Dir> normalAt(const Model& model, std::size_t occurrence, int face, const gp_Pnt& point,
                               gp_Pnt& onSurface) {
    const Handle(Geom_Surface) surface = surfaceIn(model, occurrence, face);
    const GeomAPI_ProjectPointOnSurf foot(point, surface);
    if (foot.NbPoints() == 0) return std::nullopt;
    double u = 0.0, v = 0.0;
    foot.LowerDistanceParameters(u, v);
    gp_Vec du, dv;
    surface->D1(u, v, onSurface, du, dv);
    gp_Vec normal = du.Crossed(dv);
    if (normal.Magnitude() < Tolerance::noLength) return std::nullopt;
    const Occurrence& o = model.occurrences[occurrence];
    const bool reversed = model.parts[o.part]->incidence().face(face).Orientation() == TopAbs_REVERSED;
    if (reversed != o.placement.IsNegative()) normal.Reverse();
    return gp_Dir(normal);
}

/// Where a line meets the surface nearest to where its triangles said.
double exactDistance(const Handle(Geom_Surface) & surface, const gp_Pnt& from, const gp_Dir& along, double guess) {
    const Handle(Geom_Curve) line = new Geom_TrimmedCurve(new Geom_Line(from, along), 0.0, 2.0 * guess + 1.0);
    double best = guess, off = 0.05 * guess + Tolerance::samePlace;
    (void)guarded("Measuring", [&]() -> Result<void> {
        const GeomAPI_IntCS meeting(line, surface);
        if (!meeting.IsDone()) return {};
        for (int i = 1; i <= meeting.NbPoints(); ++i) {
            const double at = gp_Vec(from, meeting.Point(i)).Dot(gp_Vec(along));
            if (std::abs(at - guess) < off) best = at, off = std::abs(at - guess);
        }
        return {};
    });
    return best;
}

}  // namespace

std::optional<Thickness> thicknessAt(const Model& model, const RayField& field, std::size_t occurrence, int face,
                                     const gp_Pnt& point) {
    Thickness result;
    const auto outward = normalAt(model, occurrence, face, point, result.from);
    if (!outward) return std::nullopt;
    const gp_Dir inward = outward->Reversed();
    // The first hit that leaves the material: its outward normal looks along the ray. Starting a little inside skips
    // the face itself.
    const double skip = field.skin();
    double beyond = skip;
    for (int tries = 0; tries < 8; ++tries) {
        const auto hit = field.first(result.from, inward, beyond);
        if (!hit) return std::nullopt;
        if (hit->normal.Dot(gp_Vec(inward)) > 0.0 && hit->occurrence == occurrence) {
            result.ray =
                exactDistance(surfaceIn(model, hit->occurrence, hit->face), result.from, inward, hit->distance);
            result.occurrence = hit->occurrence;
            result.oppositeFace = hit->face;
            break;
        }
        beyond = hit->distance + skip;
    }
    if (result.ray <= 0.0) return std::nullopt;
    result.opposite = result.from.Translated(gp_Vec(inward) * result.ray);
    // The ball: its middle slides along the normal; a surface point q inside it bounds it by |q-p|^2 / (2 (q-p).n).
    double diameter = result.ray;
    const auto bound = [&](const gp_Pnt& q) {
        const gp_Vec to(result.from, q);
        const double depth = to.Dot(gp_Vec(inward));
        if (depth > Tolerance::rounding * field.extent()) diameter = std::min(diameter, to.SquareMagnitude() / depth);
    };
    // Rays in a cone of directions find the near surface; then the true surfaces of the nearest faces are asked.
    std::map<int, double> nearest;  // face -> bound by its triangles
    const gp_Ax2 frame(result.from, inward);
    for (int ring = 1; ring <= 16; ++ring)
        for (int i = 0; i < 24; ++i) {
            const double lean = 0.5 * M_PI * ring / 16.5, turn = 2.0 * M_PI * (i + 0.5 * (ring % 2)) / 24;
            const gp_Vec along = gp_Vec(frame.XDirection()) * (std::sin(lean) * std::cos(turn)) +
                                 gp_Vec(frame.YDirection()) * (std::sin(lean) * std::sin(turn)) +
                                 gp_Vec(inward) * std::cos(lean);
            const auto hit = field.first(result.from, gp_Dir(along), skip);
            if (!hit || hit->occurrence != occurrence) continue;
            const double own = hit->distance / std::cos(lean);
            const auto [it, fresh] = nearest.try_emplace(hit->face, own);
            if (!fresh) it->second = std::min(it->second, own);
        }
    std::vector<std::pair<double, int>> order;
    for (const auto& [f, own] : nearest) order.emplace_back(own, f);
    std::sort(order.begin(), order.end());
    for (std::size_t i = 0; i < std::min<std::size_t>(6, order.size()); ++i) {
        if (order[i].first > 1.2 * diameter) break;
        const Handle(Geom_Surface) surface = surfaceIn(model, occurrence, order[i].second);
        // The ball shrinks onto the surface: each round takes the point nearest to its middle.
        for (int round = 0; round < 12; ++round) {
            const gp_Pnt middle = result.from.Translated(gp_Vec(inward) * 0.5 * diameter);
            const GeomAPI_ProjectPointOnSurf foot(middle, surface);
            if (foot.NbPoints() == 0 || foot.LowerDistance() >= 0.5 * diameter * (1.0 - Tolerance::rounding)) break;
            const gp_Pnt q = foot.NearestPoint();
            // Only points that rays found to be there: the surface may run on past its face.
            if (q.Distance(result.from) < 1e-6 * diameter) break;
            const gp_Dir to(gp_Vec(result.from, q));
            const auto hit = field.first(result.from, to, skip);
            if (hit && hit->distance < 0.98 * q.Distance(result.from)) {
                bound(result.from.Translated(gp_Vec(to) * hit->distance));
                break;
            }
            if (!hit || hit->distance > 1.02 * q.Distance(result.from)) break;
            bound(q);
        }
    }
    result.sphere = diameter;
    return result;
}

Result<ThicknessMap> thicknessMap(const std::shared_ptr<const Part>& part, Progress& progress) {
    if (part->incidence().solidCount() == 0)
        return fail(ProblemKind::NotPossible, "\"" + part->name + "\" has no solid whose walls could be measured.",
                    "Mend it first.", {part->name, {}, {}});
    const RayField field(aloneInPlace(part), {0}, RayField::usualDeviation, progress);
    const auto& triangles = field.triangles();
    ThicknessMap map;
    map.samples.resize(triangles.size());
    const double skip = field.skin();
    tbb::parallel_for(std::size_t{0}, triangles.size(), [&](std::size_t t) {
        if (progress.cancelled()) return;
        map.samples[t] = {triangles[t].face, 0.0, triangles[t].area};
        const gp_Dir inward(triangles[t].normal.Reversed());
        double beyond = skip;
        for (int tries = 0; tries < 8; ++tries) {
            const auto hit = field.first(triangles[t].middle, inward, beyond);
            if (!hit) return;
            if (hit->normal.Dot(gp_Vec(inward)) > 0.0) {
                map.samples[t].thickness = hit->distance;
                return;
            }
            beyond = hit->distance + skip;
        }
    });
    if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Measuring the walls was stopped.");
    using Weighed = std::vector<std::pair<double, double>>;
    const auto medianOf = [](Weighed& all) {
        std::sort(all.begin(), all.end());
        double sum = 0.0, half = 0.0;
        for (const auto& [value, weight] : all) sum += weight;
        for (const auto& [value, weight] : all)
            if ((half += weight) >= 0.5 * sum) return value;
        return 0.0;
    };
    std::vector<Weighed> byFace(static_cast<std::size_t>(part->incidence().faceCount()) + 1);
    Weighed all;
    for (const ThicknessMap::Sample& sample : map.samples) {
        if (sample.thickness <= 0.0) continue;
        byFace[static_cast<std::size_t>(sample.face)].emplace_back(sample.thickness, sample.area);
        all.emplace_back(sample.thickness, sample.area);
    }
    for (Weighed& own : byFace) map.thicknessOfFace.push_back(medianOf(own));
    map.median = medianOf(all);
    if (!all.empty()) {
        map.least = all.front().first;
        map.largest = all.back().first;
    }
    return map;
}

}  // namespace rasoir::measure
