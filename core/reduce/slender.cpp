#include "reduce/slender.h"

#include <Bnd_Box.hxx>
#include <BRep_Tool.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <gp_Cylinder.hxx>
#include <gp_Pln.hxx>
#include <TopoDS.hxx>

#include "common/tolerance.h"
#include "geometry/extent.h"
#include "geometry/integrals.h"
#include "reduce/bent_bars.h"
#include "reduce/solid_section.h"
#include "reduce/swept_bars.h"

// The direction is the one along which most of the skin runs: planes that contain it, cylinders about it. Only normals
// across, axes and straight edges can be such directions, and a bar has few different ones. The ends are where the line
// of centroids meets the largest faces that do not run along it, so that a mitred end counts with its middle.

namespace rasoir::reduce {
namespace {

bool runsAlong(const BRepAdaptor_Surface& surface, const gp_Dir& direction) {
    switch (surface.GetType()) {
        case GeomAbs_Plane:
            return std::abs(surface.Plane().Axis().Direction().Dot(direction)) < Tolerance::fittedDirection;
        case GeomAbs_Cylinder:
            return surface.Cylinder().Axis().Direction().IsParallel(direction, Tolerance::fittedDirection);
        case GeomAbs_SurfaceOfExtrusion:
            return surface.Direction().IsParallel(direction, Tolerance::fittedDirection);
        default:
            return false;
    }
}

/// What is slender of a bar, by its length and by what its volume is more than the section's along it.
std::optional<Slender> judged(Slender found, const TopoDS_Shape& solid, double leastRatio) {
    found.ratio = found.length() / found.section.depth;
    const double volume = volumeOf(solid);
    found.dropped = (volume - found.section.section.area * found.length()) / volume;
    return found.ratio < leastRatio || std::abs(found.dropped) > 0.25 ? std::nullopt : std::optional(std::move(found));
}

/// A bent one: by Pappus its volume is the section's along the line, to what numbers in files are good for.
std::optional<Slender> bentBar(const Part& part, std::size_t p, double leastRatio, double tolerance) {
    auto bent = findBentBar(part.incidence(), std::max(tolerance, Tolerance::samePlace));
    const bool isExact = bent.has_value();
    if (!bent) bent = findSweptBar(part.shape, part.incidence());
    if (!bent) return std::nullopt;
    Slender found;
    found.part = p;
    found.line = bent->line;
    found.section = beamSection(part.incidence().face(bent->firstEnd), gp_Dir(bent->line.pieces().front().along(0.0)));
    auto slender = judged(std::move(found), part.shape, leastRatio);
    // Of the volume: what ends and holes may take; felt sections are good to four thousandths.
    return slender && std::abs(slender->dropped) < (isExact ? 1e-3 : 4e-3) ? slender : std::nullopt;
}

Result<std::optional<Slender>> straightBar(const Model& model, std::size_t p, double leastRatio, Progress& progress);

}  // namespace

Result<std::optional<Slender>> findSlender(const Model& model, std::size_t p, double leastRatio, Progress& progress) {
    const Part& part = *model.parts[p];
    if (part.shape.IsNull() || part.kind() != BodyKind::Solid || part.incidence().solidCount() != 1)
        return std::optional<Slender>();
    auto straight = straightBar(model, p, leastRatio, progress);
    if (!straight || *straight) return straight;
    return bentBar(part, p, leastRatio, model.samePoint());
}

namespace {

Result<std::optional<Slender>> straightBar(const Model& model, std::size_t p, double leastRatio, Progress& progress) {
    const Part& part = *model.parts[p];
    const Incidence& topology = part.incidence();
    std::vector<BRepAdaptor_Surface> surfaces;
    std::vector<double> areas;
    double skin = 0.0;
    std::vector<gp_Dir> directions;
    const auto consider = [&](const gp_Dir& direction) {
        if (std::none_of(directions.begin(), directions.end(),
                         [&](const gp_Dir& known) { return known.IsParallel(direction, Tolerance::fittedDirection); }))
            directions.push_back(direction);
    };
    for (int f = 1; f <= topology.faceCount(); ++f) {
        surfaces.emplace_back(topology.face(f));
        areas.push_back(areaOf(topology.face(f)));
        skin += areas.back();
        if (surfaces.back().GetType() == GeomAbs_Plane) consider(surfaces.back().Plane().Axis().Direction());
        if (surfaces.back().GetType() == GeomAbs_Cylinder) consider(surfaces.back().Cylinder().Axis().Direction());
        if (directions.size() > 60) return std::optional<Slender>();  // no bar looks so many ways
    }
    double best = 0.0;
    gp_Dir direction;
    for (const gp_Dir& one : directions) {
        double along = 0.0;
        for (std::size_t f = 0; f < surfaces.size(); ++f)
            if (runsAlong(surfaces[f], one)) along += areas[f];
        if (along > best) {
            best = along;
            direction = one;
        }
    }
    if (best < 0.8 * skin) return std::optional<Slender>();
    // Lengths along the direction, from the centre.
    const gp_Pnt centre = skinOf(part.shape).centre;
    double low = 1e300, high = -1e300;
    for (int v = 1; v <= topology.vertexCount(); ++v) {
        const double at = gp_Vec(centre, BRep_Tool::Pnt(TopoDS::Vertex(topology.vertex(v)))).Dot(gp_Vec(direction));
        low = std::min(low, at);
        high = std::max(high, at);
    }
    const double length = high - low, size = std::sqrt(tightBox(part.shape).SquareExtent());
    if (!(length > 0.0)) return std::optional<Slender>();
    const double tolerance = model.samePoint();
    std::vector<BeamSection> sections;
    for (const double share : {0.5, 0.31, 0.71, 0.17, 0.87}) {
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        const auto faces = sectionsAt(part.shape, centre.Translated(gp_Vec(direction) * (low + share * length)),
                                      direction, size, tolerance, progress);
        if (!faces) return tl::unexpected(faces.error());
        if (!faces->empty()) sections.push_back(beamSection(faces->front(), direction));
    }
    // The one that most others are like: holes make a few of them smaller.
    std::size_t alikeMost = 0, chosen = 0;
    for (std::size_t i = 0; i < sections.size(); ++i) {
        const auto alike =
            static_cast<std::size_t>(std::count_if(sections.begin(), sections.end(), [&](const BeamSection& other) {
                const Section &a = sections[i].section, &b = other.section;
                return std::abs(a.area - b.area) < 0.01 * a.area &&
                       std::abs(a.secondUp - b.secondUp) < 0.02 * a.secondUp;
            }));
        if (alike > alikeMost) {
            alikeMost = alike;
            chosen = i;
        }
    }
    if (alikeMost < 3) return std::optional<Slender>();
    Slender found;
    found.part = p;
    found.section = sections[chosen];
    // Its ends: the largest faces across, in the half of the bar that they are to end.
    const gp_Pnt middle = found.section.centroid;
    const double offset = gp_Vec(centre, middle).Dot(gp_Vec(direction));
    double ends[2]{low - offset, high - offset}, largest[2]{0.0, 0.0};
    for (std::size_t f = 0; f < surfaces.size(); ++f) {
        if (runsAlong(surfaces[f], direction) || surfaces[f].GetType() != GeomAbs_Plane) continue;
        const gp_Pln plane = surfaces[f].Plane();
        const double lean = plane.Axis().Direction().Dot(direction);
        if (std::abs(lean) < 0.3) continue;
        const double at = gp_Vec(middle, plane.Location()).Dot(gp_Vec(plane.Axis().Direction())) / lean;
        const int end = at < 0.5 * (low + high) - offset ? 0 : 1;
        if (areas[f] <= largest[end] || at < low - offset - Tolerance::samePlace ||
            at > high - offset + Tolerance::samePlace)
            continue;
        largest[end] = areas[f];
        ends[end] = at;
    }
    found.line =
        BarLine({{middle.Translated(gp_Vec(direction) * ends[0]), middle.Translated(gp_Vec(direction) * ends[1])}});
    return judged(std::move(found), part.shape, leastRatio);
}

}  // namespace

}  // namespace rasoir::reduce
