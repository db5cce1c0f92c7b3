#include "mesh/outline.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "common/tolerance.h"

// All loops become one: a hole is tied to what is there already by a bridge that is walked both ways. Then an ear, a
// corner whose triangle holds no other point, is cut off again and again. Of the ears in reach the first is taken, not
// the best: the triangles are a beginning, and whoever refines them turns their edges anyway.

namespace rasoir::mesh {
namespace {

/// Twice the area of a triangle, positive to the left.
long double turn(const gp_Pnt2d& a, const gp_Pnt2d& b, const gp_Pnt2d& c) {
    return (static_cast<long double>(b.X()) - a.X()) * (static_cast<long double>(c.Y()) - a.Y()) -
           (static_cast<long double>(b.Y()) - a.Y()) * (static_cast<long double>(c.X()) - a.X());
}

bool samePoint(const gp_Pnt2d& a, const gp_Pnt2d& b) {
    return a.X() == b.X() && a.Y() == b.Y();
}

/// Within a left-turning triangle, on its rim, or no farther from it than `near`.
bool within(const gp_Pnt2d& p, const gp_Pnt2d& a, const gp_Pnt2d& b, const gp_Pnt2d& c, double near) {
    return turn(a, b, p) >= -near * a.Distance(b) && turn(b, c, p) >= -near * b.Distance(c) &&
           turn(c, a, p) >= -near * c.Distance(a);
}

class Ears {
public:
    explicit Ears(const std::vector<std::vector<gp_Pnt2d>>& loops) {
        int first = 0;
        for (const auto& loop : loops) {
            for (const gp_Pnt2d& point : loop) m_points.push_back(point);
            m_loops.push_back({});
            for (int i = 0; i < static_cast<int>(loop.size()); ++i) m_loops.back().push_back(first + i);
            first += static_cast<int>(loop.size());
        }
    }

    std::optional<std::vector<std::array<int, 3>>> fill() {
        for (std::size_t l = 0; l < m_loops.size(); ++l) {
            if (m_loops[l].size() < 3) return std::nullopt;
            if ((areaOf(m_loops[l]) > 0) != (l == 0)) std::reverse(m_loops[l].begin(), m_loops[l].end());
        }
        std::vector<int> ring = m_loops.front();
        std::vector<std::size_t> holes;
        for (std::size_t l = 1; l < m_loops.size(); ++l) holes.push_back(l);
        const auto rightmost = [this](const std::vector<int>& loop) {
            return *std::max_element(loop.begin(), loop.end(),
                                     [this](int a, int b) { return m_points[a].X() < m_points[b].X(); });
        };
        std::sort(holes.begin(), holes.end(), [&](std::size_t a, std::size_t b) {
            return m_points[rightmost(m_loops[a])].X() > m_points[rightmost(m_loops[b])].X();
        });
        for (const std::size_t hole : holes)
            if (!bridge(ring, m_loops[hole], rightmost(m_loops[hole]))) return std::nullopt;
        return cutEars(ring);
    }

private:
    std::vector<gp_Pnt2d> m_points;
    std::vector<std::vector<int>> m_loops;

    [[nodiscard]] long double areaOf(const std::vector<int>& loop) const {
        long double area = 0;
        for (std::size_t i = 1; i + 1 < loop.size(); ++i)
            area += turn(m_points[loop[0]], m_points[loop[i]], m_points[loop[i + 1]]);
        return area;
    }

    /// Ties a hole to the ring from its rightmost point, to a corner of the ring that sees it.
    bool bridge(std::vector<int>& ring, const std::vector<int>& hole, int from) {
        const gp_Pnt2d& m = m_points[from];
        // Where a ray to the right first leaves the ring.
        double nearest = std::numeric_limits<double>::max();
        std::size_t edge = ring.size();
        for (std::size_t i = 0; i < ring.size(); ++i) {
            const gp_Pnt2d &a = m_points[ring[i]], &b = m_points[ring[(i + 1) % ring.size()]];
            if (!(a.Y() <= m.Y() && b.Y() >= m.Y()) || a.Y() == b.Y()) continue;  // rising: the inside is on its left
            const double x = a.X() + (m.Y() - a.Y()) / (b.Y() - a.Y()) * (b.X() - a.X());
            if (x >= m.X() && x < nearest) {
                nearest = x;
                edge = i;
            }
        }
        if (edge == ring.size()) return false;
        const gp_Pnt2d hit(nearest, m.Y());
        const std::size_t next = (edge + 1) % ring.size();
        std::size_t best = m_points[ring[edge]].X() > m_points[ring[next]].X() ? edge : next;
        // Inner corners within the triangle of the point, the hit and that corner would hide it: the one of least
        // angle.
        const gp_Pnt2d corner = m_points[ring[best]];
        double bestSlope = std::numeric_limits<double>::max(), bestFar = 0.0;
        if (!samePoint(corner, hit)) {
            const bool up = corner.Y() > m.Y();
            for (std::size_t i = 0; i < ring.size(); ++i) {
                const gp_Pnt2d& p = m_points[ring[i]];
                if (p.X() < m.X()) continue;
                const bool inside = up ? within(p, m, hit, corner, 0.0) : within(p, m, corner, hit, 0.0);
                if (!inside && !samePoint(p, corner)) continue;
                if (!seesFrom(ring, i, m)) continue;
                const double slope = std::abs(p.Y() - m.Y()) / std::max(p.X() - m.X(), Tolerance::divisible),
                             far = p.Distance(m);
                if (slope < bestSlope || (slope == bestSlope && far < bestFar)) {
                    bestSlope = slope;
                    bestFar = far;
                    best = i;
                }
            }
        } else {
            // The ray hit a point exactly. Of the corners there, one that sees the hole.
            for (std::size_t i = 0; i < ring.size(); ++i)
                if (samePoint(m_points[ring[i]], hit) && seesFrom(ring, i, m)) best = i;
        }
        std::vector<int> tied(ring.begin(), ring.begin() + static_cast<std::ptrdiff_t>(best) + 1);
        const auto start = std::find(hole.begin(), hole.end(), from);
        tied.insert(tied.end(), start, hole.end());
        tied.insert(tied.end(), hole.begin(), start + 1);
        tied.insert(tied.end(), ring.begin() + static_cast<std::ptrdiff_t>(best), ring.end());
        ring = std::move(tied);
        return true;
    }

    /// Whether a point lies within the corner of the ring at `i`, as far as its two edges tell.
    [[nodiscard]] bool seesFrom(const std::vector<int>& ring, std::size_t i, const gp_Pnt2d& p) const {
        const gp_Pnt2d &before = m_points[ring[(i + ring.size() - 1) % ring.size()]], &at = m_points[ring[i]],
                       &after = m_points[ring[(i + 1) % ring.size()]];
        const bool leftOfFirst = turn(before, at, p) > 0, leftOfSecond = turn(at, after, p) > 0;
        return turn(before, at, after) >= 0 ? leftOfFirst && leftOfSecond : leftOfFirst || leftOfSecond;
    }

    std::optional<std::vector<std::array<int, 3>>> cutEars(const std::vector<int>& ring) const {
        const int count = static_cast<int>(ring.size());
        std::vector<int> next(ring.size()), before(ring.size());
        for (int i = 0; i < count; ++i) {
            next[i] = (i + 1) % count;
            before[i] = (i + count - 1) % count;
        }
        const auto point = [&](int i) -> const gp_Pnt2d& { return m_points[ring[i]]; };
        const auto hollow = [&](int i) { return turn(point(before[i]), point(i), point(next[i])) <= 0; };
        std::vector<int> inner;  // corners that may lie in an ear
        for (int i = 0; i < count; ++i)
            if (hollow(i)) inner.push_back(i);
        // By their first coordinate, so that an ear asks only those beside it.
        std::sort(inner.begin(), inner.end(), [&](int a, int b) { return point(a).X() < point(b).X(); });
        std::vector<bool> gone(ring.size(), false);
        // Points in a row are so but for rounding. An ear over such a row would be a strip without width that nothing
        // gets rid of, so what is as flat as rounding is no ear while there are others.
        double size = 0.0;
        for (const gp_Pnt2d& p : m_points) size = std::max(size, p.Distance(m_points.front()));
        // Of the outline: points of a triangulation nearer than that make slivers of no area.
        double near = 1e-10 * size;
        const auto isEar = [&](int i) {
            const gp_Pnt2d &a = point(before[i]), &b = point(i), &c = point(next[i]);
            if (turn(a, b, c) <= near * a.Distance(c)) return false;
            const double from = std::min({a.X(), b.X(), c.X()}) - near, to = std::max({a.X(), b.X(), c.X()}) + near;
            const auto begin =
                std::lower_bound(inner.begin(), inner.end(), from, [&](int k, double x) { return point(k).X() < x; });
            for (auto it = begin; it != inner.end() && point(*it).X() <= to; ++it) {
                const int k = *it;
                if (gone[k] || k == i || k == before[i] || k == next[i]) continue;
                const gp_Pnt2d& p = point(k);
                if (samePoint(p, a) || samePoint(p, b) || samePoint(p, c)) continue;  // the other end of a bridge
                if (within(p, a, b, c, near)) return false;
            }
            return true;
        };
        std::vector<std::array<int, 3>> triangles;
        int left = count, at = 0, passed = 0;
        while (left > 3) {
            if (passed > left) {
                if (near == 0.0) return std::nullopt;
                near = 0.0;
                passed = 0;
            }
            if (!isEar(at)) {
                at = next[at];
                ++passed;
                continue;
            }
            triangles.push_back({ring[before[at]], ring[at], ring[next[at]]});
            gone[at] = true;
            next[before[at]] = next[at];
            before[next[at]] = before[at];
            --left;
            passed = 0;
            // Not a fan: the next ear is looked for beyond its neighbour.
            at = next[next[at]];
            if (left % 64 == 0) std::erase_if(inner, [&](int k) { return gone[k] || !hollow(k); });
        }
        if (turn(point(before[at]), point(at), point(next[at])) <= 0) return std::nullopt;
        triangles.push_back({ring[before[at]], ring[at], ring[next[at]]});
        return triangles;
    }
};

}  // namespace

std::optional<std::vector<std::array<int, 3>>> fillOutline(const std::vector<std::vector<gp_Pnt2d>>& loops) {
    if (loops.empty()) return std::nullopt;
    return Ears(loops).fill();
}

}  // namespace rasoir::mesh
