#include "reduce/freeform_walls.h"

#include <BRep_Tool.hxx>
#include <BRepTools.hxx>
#include <Geom_BoundedSurface.hxx>
#include <Geom_BSplineSurface.hxx>
#include <Geom_OffsetSurface.hxx>
#include <Geom_RectangularTrimmedSurface.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <GeomConvert_ApproxSurface.hxx>
#include <GeomLib.hxx>
#include <Precision.hxx>
#include <TopoDS.hxx>

#include "common/tolerance.h"
#include "geometry/curves.h"
#include "geometry/integrals.h"
#include "geometry/ray_field.h"
#include "model/places.h"
#include "reduce/wall_side.h"

// Freeform faces have no carriers that could be compared, and what faces a patch from behind need not be one patch. So
// the skin is asked: from points of a face a ray goes straight inwards, and the foot in the face that it comes out of
// is the thickness there. The largest faces go first; a face that has been found behind others needs no wall of its
// own.

namespace rasoir::reduce {
namespace {

constexpr double constant = 0.05;   // of its mean, by which a thickness may vary to either side
constexpr double deviation = 1e-3;  // of its size, by which triangles may be off the skin
constexpr double opposed = 0.95;    // cosine between the way in and the normal where the ray comes out

bool isFreeform(const TopoDS_Face& face) {
    return GeomAdaptor_Surface(BRep_Tool::Surface(face)).GetType() > GeomAbs_Torus;
}

struct Behind {
    int face;
    double thickness;
    gp_Pnt half;
};

class Search {
public:
    Search(const Part& part, Progress& progress) : m_topology(part.incidence()) {
        m_rays = std::make_unique<RayField>(aloneInPlace(std::make_shared<Part>("matter", part.shape)),
                                            std::vector<std::size_t>{}, deviation, progress);
    }

    [[nodiscard]] const WallSide& side(int face) {
        const auto found = m_sides.find(face);
        return found != m_sides.end() ? found->second
                                      : m_sides.emplace(face, sideOf(m_topology.face(face))).first->second;
    }

    /// What lies behind a face at its samples, of some forty.
    [[nodiscard]] std::vector<Behind> behind(int face, std::size_t& asked) {
        const WallSide& own = side(face);
        const bool reversed = m_topology.face(face).Orientation() == TopAbs_REVERSED;
        const std::size_t step = std::max<std::size_t>(1, own.samples.size() / 40);
        std::vector<Behind> found;
        asked = 0;
        for (std::size_t i = 0; i < own.samples.size(); i += step) {
            gp_Pnt point;
            gp_Vec du, dv;
            own.surface->D1(own.samples[i].X(), own.samples[i].Y(), point, du, dv);
            gp_Vec out = du.Crossed(dv);
            if (out.SquareMagnitude() < Tolerance::divisible) continue;
            out.Normalize();
            if (reversed) out.Reverse();
            ++asked;
            const gp_Dir inwards(out.Reversed());
            // The skin that the rays know is made of triangles, which may lie a little behind the point that is asked.
            std::optional<RayHit> hit;
            for (double beyond = 0.0; !hit && beyond < 10.0 * deviation * m_rays->extent();) {
                const auto next = m_rays->first(point, inwards, beyond);
                if (!next) break;
                if (next->face == face || next->normal.Dot(gp_Vec(inwards)) < opposed)
                    beyond = next->distance + m_rays->ownSkin();
                else
                    hit = next;
            }
            if (!hit) continue;
            const auto exact = footWithin(side(hit->face), point);
            if (!exact || std::abs(*exact - hit->distance) > 0.2 * hit->distance + 2.0 * deviation * m_rays->extent())
                continue;
            found.push_back({hit->face, *exact, point.Translated(gp_Vec(inwards) * (0.5 * *exact))});
        }
        return found;
    }

private:
    const Incidence& m_topology;
    std::unique_ptr<RayField> m_rays;
    std::map<int, WallSide> m_sides;
};

/// The wall that a face makes with what lies behind it; none where that is not at one distance.
std::optional<Wall> wallBehind(const Incidence& topology, int face, std::vector<Behind> behind, std::size_t asked) {
    if (behind.size() < 3) return std::nullopt;
    std::sort(behind.begin(), behind.end(), [](const Behind& a, const Behind& b) { return a.thickness < b.thickness; });
    const double median = behind[behind.size() / 2].thickness;
    std::erase_if(behind, [median](const Behind& one) { return std::abs(one.thickness - median) > constant * median; });
    if (2 * behind.size() < asked) return std::nullopt;
    Wall wall;
    wall.freeform = true;
    wall.sideA = {face};
    std::set<int> other;
    double least = 1e300, most = 0.0, sum = 0.0;
    for (const Behind& one : behind) {
        other.insert(one.face);
        least = std::min(least, one.thickness);
        most = std::max(most, one.thickness);
        sum += one.thickness;
    }
    wall.sideB.assign(other.begin(), other.end());
    wall.thickness = sum / static_cast<double>(behind.size());
    wall.uneven = most - least;
    wall.where = behind[behind.size() / 2].half;
    wall.area = areaOf(topology.face(face)) * static_cast<double>(behind.size()) / static_cast<double>(asked);
    return wall;
}

}  // namespace

std::vector<Wall> freeformWalls(const Part& part, const std::vector<Wall>& known, double from, double upTo,
                                Progress& progress) {
    const Incidence& topology = part.incidence();
    std::set<int> taken;
    for (const Wall& wall : known)
        if (wall.slenderness != Slenderness::Thick)
            for (const auto* side : {&wall.sideA, &wall.sideB}) taken.insert(side->begin(), side->end());
    std::vector<std::pair<double, int>> faces;
    for (int f = 1; f <= topology.faceCount(); ++f)
        if (topology.bodyOf(f) >= 0 && !taken.contains(f) && isFreeform(topology.face(f)))
            faces.emplace_back(-areaOf(topology.face(f)), f);
    if (faces.empty()) return {};
    std::sort(faces.begin(), faces.end());
    Search search(part, progress);
    std::map<int, double> covered;  // [mm^2] of faces found behind others
    std::vector<Wall> walls;
    for (const auto& [negative, f] : faces) {
        if (progress.cancelled()) return walls;
        if (covered[f] > 0.6 * -negative) continue;
        std::size_t asked = 0;
        std::vector<Behind> behind = search.behind(f, asked);
        std::erase_if(behind, [&](const Behind& one) { return taken.contains(one.face); });
        auto wall = wallBehind(topology, f, behind, asked);
        if (!wall || wall->thickness < from * (1.0 - Tolerance::rounding) ||
            (upTo > 0.0 && wall->thickness > upTo * (1.0 + Tolerance::rounding)))
            continue;
        // A fifth of what counts as the same thickness.
        wall->middle =
            freeformOffset(topology.face(f), -0.5 * wall->thickness, wall->thickness, 2e-4 * wall->thickness);
        if (wall->middle.IsNull()) continue;
        for (const Behind& one : behind) covered[one.face] += wall->area / static_cast<double>(behind.size());
        walls.push_back(std::move(*wall));
    }
    return walls;
}

Handle(Geom_Surface) freeformOffset(const TopoDS_Face& face, double by, double beyond, double accuracy) {
    const Handle(Geom_Surface) surface = BRep_Tool::Surface(face);
    double low[2], high[2], first[2], last[2];
    BRepTools::UVBounds(face, low[0], high[0], low[1], high[1]);
    surface->Bounds(first[0], last[0], first[1], last[1]);
    for (const int way : {0, 1}) {
        // A closed one ends where it begins, at its seam.
        const bool closed = way == 0 ? surface->IsUClosed() : surface->IsVClosed();
        const double margin = closed ? 0.0 : 0.02 * (high[way] - low[way]);
        if (!Precision::IsInfinite(first[way])) low[way] = std::max(low[way] - margin, first[way]);
        if (!Precision::IsInfinite(last[way])) high[way] = std::min(high[way] + margin, last[way]);
    }
    const double along = face.Orientation() == TopAbs_REVERSED ? -by : by;
    try {
        const Handle(Geom_Surface) trimmed =
            new Geom_RectangularTrimmedSurface(surface, low[0], high[0], low[1], high[1]);
        const Handle(Geom_Surface) offset = new Geom_OffsetSurface(trimmed, along);
        constexpr int degree = 7, patches = 200;
        const GeomConvert_ApproxSurface spline(offset, accuracy, GeomAbs_C1, GeomAbs_C1, degree, degree, patches, 0);
        if (!spline.HasResult() || spline.MaxError() > 5.0 * accuracy) return {};
        Handle(Geom_BoundedSurface) made = spline.Surface();
        // Where it folds, its normal turns over.
        constexpr int grid = 12;
        for (int i = 0; i <= grid; ++i)
            for (int k = 0; k <= grid; ++k) {
                const double u = low[0] + (high[0] - low[0]) * i / grid, v = low[1] + (high[1] - low[1]) * k / grid;
                gp_Pnt at, moved;
                gp_Vec du, dv, eu, ev;
                surface->D1(u, v, at, du, dv);
                made->D1(u, v, moved, eu, ev);
                const gp_Vec normal = du.Crossed(dv), after = eu.Crossed(ev);
                if (normal.Magnitude() < Tolerance::noLength) continue;
                if (normal.Dot(after) <= 0.0) return {};
                if (moved.Distance(at.Translated(normal.Normalized() * along)) > 10.0 * accuracy) return {};
            }
        for (const bool inU : {true, false}) {
            if (inU ? surface->IsUClosed() : surface->IsVClosed()) continue;
            for (const bool after : {true, false}) GeomLib::ExtendSurfByLength(made, beyond, 1, inU, after);
        }
        return made;
    } catch (const Standard_Failure&) {
        return {};
    }
}

}  // namespace rasoir::reduce
