#include "reduce/body_slices.h"

#include <BRep_Tool.hxx>
#include <BRepBuilderAPI_Copy.hxx>
#include <BRepMesh_IncrementalMesh.hxx>
#include <gp_Ax2.hxx>
#include <map>
#include <Poly_Triangulation.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>

#include "common/sets.h"

// Each triangle that a plane cuts gives a segment with the body on its left. Area and moments are sums over segments in
// any order; which of them make one loop is told by their ends, which are the very same points in both triangles at a
// side. What is a hole is told by its box, within another's.

namespace rasoir::reduce {

BodySlices::BodySlices(const TopoDS_Shape& solid, double deviation) {
    const TopoDS_Shape copy = BRepBuilderAPI_Copy(solid, true, false).Shape();
    BRepMesh_IncrementalMesh(copy, deviation, false, 0.4);
    gp_XYZ low(1e300, 1e300, 1e300), high(-1e300, -1e300, -1e300);
    for (TopExp_Explorer it(copy, TopAbs_FACE); it.More(); it.Next()) {
        const TopoDS_Face face = TopoDS::Face(it.Current());
        TopLoc_Location location;
        const Handle(Poly_Triangulation) mesh = BRep_Tool::Triangulation(face, location);
        if (mesh.IsNull()) continue;
        for (int t = 1; t <= mesh->NbTriangles(); ++t) {
            int a = 0, b = 0, c = 0;
            mesh->Triangle(t).Get(a, b, c);
            if (face.Orientation() == TopAbs_REVERSED) std::swap(b, c);
            std::array<gp_XYZ, 3> corners;
            std::size_t i = 0;
            for (const int node : {a, b, c}) corners[i++] = mesh->Node(node).Transformed(location).XYZ();
            m_triangles.push_back(corners);
            for (std::size_t k = 0; k < 3; ++k) {
                m_longest = std::max(m_longest, (corners[k] - corners[(k + 1) % 3]).Modulus());
                for (int way = 1; way <= 3; ++way) {
                    low.SetCoord(way, std::min(low.Coord(way), corners[k].Coord(way)));
                    high.SetCoord(way, std::max(high.Coord(way), corners[k].Coord(way)));
                }
            }
        }
    }
    if (!m_triangles.empty()) m_size = (high - low).Modulus();
}

bool BodySlices::Loop::holds(const Loop& other) const {
    return low[0] <= other.low[0] && low[1] <= other.low[1] && high[0] >= other.high[0] && high[1] >= other.high[1];
}

double BodySlices::Loop::extent() const {
    return std::hypot(high[0] - low[0], high[1] - low[1]);
}

std::vector<BodySlices::Loop> BodySlices::loops(const gp_Pnt& place, const gp_Dir& normal, double within,
                                                double same) const {
    const gp_XYZ n = normal.XYZ();
    std::vector<std::array<gp_XYZ, 2>> segments;
    const double far = within + m_longest;
    for (const auto& corners : m_triangles) {
        if ((corners[0] - place.XYZ()).SquareModulus() > far * far) continue;
        std::array<double, 3> height{};
        for (std::size_t i = 0; i < 3; ++i) {
            height[i] = (corners[i] - place.XYZ()).Dot(n);
            if (height[i] == 0.0) height[i] = 1e-300;  // a corner on the plane lies above it
        }
        if ((height[0] > 0.0) == (height[1] > 0.0) && (height[1] > 0.0) == (height[2] > 0.0)) continue;
        gp_XYZ up, down;
        for (std::size_t i = 0; i < 3; ++i) {
            const std::size_t j = (i + 1) % 3;
            if ((height[i] > 0.0) == (height[j] > 0.0)) continue;
            // From the same corner first, so that two triangles find the very same point.
            const auto triple = [](const gp_XYZ& at) { return std::array{at.X(), at.Y(), at.Z()}; };
            const bool first = triple(corners[i]) < triple(corners[j]);
            const std::size_t p = first ? i : j, q = first ? j : i;
            const gp_XYZ point = corners[p] + (corners[q] - corners[p]) * (height[p] / (height[p] - height[q]));
            (height[i] < 0.0 ? up : down) = point;
        }
        segments.push_back({up, down});
    }
    Sets sets(segments.size());
    std::vector<std::pair<gp_XYZ, int>> ends;
    for (std::size_t s = 0; s < segments.size(); ++s)
        for (const gp_XYZ& end : segments[s]) ends.emplace_back(end, static_cast<int>(s));
    std::sort(ends.begin(), ends.end(), [](const auto& a, const auto& b) { return a.first.X() < b.first.X(); });
    for (std::size_t i = 0; i < ends.size(); ++i)
        for (std::size_t j = i + 1; j < ends.size() && ends[j].first.X() - ends[i].first.X() <= same; ++j)
            if ((ends[i].first - ends[j].first).Modulus() <= same) sets.join(ends[i].second, ends[j].second);
    const gp_Ax2 frame(place, normal);
    const gp_XYZ x = frame.XDirection().XYZ(), y = frame.YDirection().XYZ();
    std::map<int, Loop> byRoot;
    for (std::size_t s = 0; s < segments.size(); ++s) {
        Loop& loop = byRoot[sets.root(static_cast<int>(s))];
        std::array<std::array<double, 2>, 2> at{};
        for (std::size_t end = 0; end < 2; ++end) {
            const gp_XYZ off = segments[s][end] - place.XYZ();
            at[end] = {off.Dot(x), off.Dot(y)};
            for (std::size_t k = 0; k < 2; ++k) {
                loop.low[k] = std::min(loop.low[k], at[end][k]);
                loop.high[k] = std::max(loop.high[k], at[end][k]);
            }
        }
        const double cross = at[0][0] * at[1][1] - at[0][1] * at[1][0];
        loop.area += 0.5 * cross;
        loop.momentX += cross * (at[0][0] + at[1][0]) / 6.0;
        loop.momentY += cross * (at[0][1] + at[1][1]) / 6.0;
    }
    std::vector<Loop> found;
    for (const auto& [root, loop] : byRoot) found.push_back(loop);
    return found;
}

/// The outer loop with those in it that run the other way round.
Slice BodySlices::sliceOf(const Loop& outer, const std::vector<Loop>& loops, const gp_Pnt& place,
                          const gp_Dir& normal) {
    Slice slice;
    double area = outer.area, momentX = outer.momentX, momentY = outer.momentY;
    for (const Loop& loop : loops) {
        if (&loop == &outer || !outer.holds(loop) || (loop.area > 0.0) == (outer.area > 0.0)) continue;
        area += loop.area;
        momentX += loop.momentX;
        momentY += loop.momentY;
    }
    if (area == 0.0) return slice;
    const gp_Ax2 frame(place, normal);
    slice.centroid =
        gp_Pnt(place.XYZ() + frame.XDirection().XYZ() * (momentX / area) + frame.YDirection().XYZ() * (momentY / area));
    slice.area = std::abs(area);
    slice.extent = outer.extent();
    return slice;
}

std::vector<Slice> BodySlices::all(const gp_Pnt& place, const gp_Dir& normal) const {
    // Of the body: ends of a slice's pieces come from single precision of triangles.
    const std::vector<Loop> found = loops(place, normal, 1e300, 1e-7 * m_size);
    // The largest is an outer one, and says which way round those run.
    const auto largest = std::max_element(found.begin(), found.end(),
                                          [](const Loop& a, const Loop& b) { return a.extent() < b.extent(); });
    std::vector<Slice> slices;
    for (const Loop& loop : found)
        if (loop.area != 0.0 && (loop.area > 0.0) == (largest->area > 0.0))
            slices.push_back(sliceOf(loop, found, place, normal));
    return slices;
}

std::optional<Slice> BodySlices::round(const gp_Pnt& place, const gp_Dir& normal, double reach) const {
    // Of the reach, for the same reason.
    const std::vector<Loop> found = loops(place, normal, 4.0 * reach, 1e-6 * reach);
    const Loop* best = nullptr;
    double nearest = reach;
    for (const Loop& loop : found) {
        const double off = std::hypot(0.5 * (loop.low[0] + loop.high[0]), 0.5 * (loop.low[1] + loop.high[1]));
        if (off > nearest || loop.extent() > 4.0 * reach) continue;
        best = &loop;
        nearest = off;
    }
    if (best == nullptr) return std::nullopt;
    // Of a tube the outer loop, not the one in it.
    for (const Loop& loop : found)
        if (loop.holds(*best) && loop.extent() < 4.0 * reach) best = &loop;
    const Slice slice = sliceOf(*best, found, place, normal);
    return slice.area > 0.0 ? std::optional(slice) : std::nullopt;
}

}  // namespace rasoir::reduce
