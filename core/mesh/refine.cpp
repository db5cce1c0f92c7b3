#include "mesh/refine.h"

#include <BRep_Tool.hxx>
#include <GeomAdaptor_Surface.hxx>

#include "common/tolerance.h"
#include "mesh/outline.h"

// The triangles of a face know their neighbours, as in most books: triangle t has corners v[0..2], and across from
// corner v[i] lies neighbour n[i]. All four changes (halve, close up, turn, move) keep to that. Points have parameters,
// from which their place follows; a change is refused when a triangle would turn over in the parameters. Lengths are
// taken over the middle of an edge on the surface, since at first an edge may span half a cylinder, whose chord says
// nothing.
//
// Sizes at inner points come from curvature and from their neighbours (growth), so that what the rim asks for spreads.

namespace rasoir::mesh {
namespace {

struct Point {
    gp_Pnt2d uv;
    gp_Pnt at;
    double size = 0.0;
    int id = -1;        // rim points only
    int triangle = -1;  // one that has it as a corner; -1: gone
    bool rim = false;
};

struct Triangle {
    std::array<int, 3> v{}, n{};
    bool gone = false;
};

/// Twice the area in the parameters.
double twiceArea(const gp_Pnt2d& a, const gp_Pnt2d& b, const gp_Pnt2d& c) {
    return (b.X() - a.X()) * (c.Y() - a.Y()) - (b.Y() - a.Y()) * (c.X() - a.X());
}

/// The least angle of a triangle, as its sine where it is acute; zero for one without area.
double leastAngle(const gp_Pnt& a, const gp_Pnt& b, const gp_Pnt& c) {
    const double ab = a.Distance(b), bc = b.Distance(c), ca = c.Distance(a);
    const double product = ab * bc * ca;
    return product > 0.0 ? gp_Vec(a, b).Crossed(gp_Vec(a, c)).Magnitude() * std::min({ab, bc, ca}) / product : 0.0;
}

class Refiner {
public:
    Refiner(const TopoDS_Face& face, const SizeRules& rules, Progress& progress)
        : m_surface(BRep_Tool::Surface(face)),
          m_rules(rules),
          m_progress(progress),
          m_flat(m_surface.GetType() == GeomAbs_Plane) {}

    std::optional<FaceTriangles> run(const std::vector<std::vector<RimPoint>>& loops) {
        if (!begin(loops)) return std::nullopt;
        const std::size_t rims = m_points.size();
        turnAll();
        for (int round = 0; round < 5 && !m_progress.cancelled(); ++round) {
            halveLong();
            closeShort();
            turnAll();
            for (int k = 0; k < 3; ++k) {
                drawToMiddles(rims);
                turnAll();
            }
        }
        for (int k = 0; k < 3; ++k) improveWorst(rims);
        return result(rims);
    }

private:
    GeomAdaptor_Surface m_surface;
    const SizeRules& m_rules;
    Progress& m_progress;
    bool m_flat;
    std::vector<Point> m_points;
    std::vector<Triangle> m_triangles;
    double m_tiny = 0.0;  // of twice an area in the parameters

    bool begin(const std::vector<std::vector<RimPoint>>& loops) {
        std::vector<std::vector<gp_Pnt2d>> outline;
        // Parameters of like lengths, so that the first triangles are not needles.
        double low[2]{1e300, 1e300}, high[2]{-1e300, -1e300};
        for (const auto& loop : loops)
            for (const RimPoint& point : loop)
                for (const int way : {0, 1}) {
                    low[way] = std::min(low[way], point.uv.Coord(way + 1));
                    high[way] = std::max(high[way], point.uv.Coord(way + 1));
                }
        gp_Pnt middle;
        gp_Vec du, dv;
        m_surface.D1(0.5 * (low[0] + high[0]), 0.5 * (low[1] + high[1]), middle, du, dv);
        const double su = std::max(du.Magnitude(), Tolerance::noLength),
                     sv = std::max(dv.Magnitude(), Tolerance::noLength);
        // Of the outline's box: below it the sign of an area is rounding.
        m_tiny = 1e-13 * (high[0] - low[0]) * (high[1] - low[1]);
        for (const auto& loop : loops) {
            outline.push_back({});
            for (const RimPoint& point : loop) {
                outline.back().emplace_back(point.uv.X() * su, point.uv.Y() * sv);
                m_points.push_back({point.uv, point.point, point.size, point.id, -1, true});
            }
        }
        const auto filled = fillOutline(outline);
        if (!filled) return false;
        std::map<std::pair<int, int>, std::pair<int, int>> open;  // directed edge: triangle, corner across
        for (const auto& corners : *filled) {
            const int t = static_cast<int>(m_triangles.size());
            m_triangles.push_back({corners, {-1, -1, -1}, false});
            for (int i = 0; i < 3; ++i) {
                const int a = corners[(i + 1) % 3], b = corners[(i + 2) % 3];
                m_points[a].triangle = t;
                if (const auto other = open.find({b, a}); other != open.end()) {
                    m_triangles[t].n[i] = other->second.first;
                    m_triangles[other->second.first].n[other->second.second] = t;
                    open.erase(other);
                } else {
                    open[{a, b}] = {t, i};
                }
            }
        }
        return true;
    }

    [[nodiscard]] gp_Pnt on(const gp_Pnt2d& uv) const { return m_surface.Value(uv.X(), uv.Y()); }
    [[nodiscard]] double length(int a, int b) const {
        const Point &p = m_points[a], &q = m_points[b];
        if (m_flat) return p.at.Distance(q.at);
        const gp_Pnt middle = on(gp_Pnt2d(0.5 * (p.uv.XY() + q.uv.XY())));
        return p.at.Distance(middle) + middle.Distance(q.at);
    }
    [[nodiscard]] double wanted(int a, int b) const { return 0.5 * (m_points[a].size + m_points[b].size); }
    [[nodiscard]] static int corner(const Triangle& triangle, int point) {
        return triangle.v[0] == point ? 0 : triangle.v[1] == point ? 1 : 2;
    }
    [[nodiscard]] int cornerAcross(int t, int neighbour) const {
        const Triangle& triangle = m_triangles[t];
        return triangle.n[0] == neighbour ? 0 : triangle.n[1] == neighbour ? 1 : 2;
    }
    void hang(int t, int was, int now) {
        if (t >= 0)
            for (int& n : m_triangles[t].n)
                if (n == was) {
                    n = now;
                    return;
                }
    }
    [[nodiscard]] bool rightWayRound(int a, int b, int c) const {
        return twiceArea(m_points[a].uv, m_points[b].uv, m_points[c].uv) > m_tiny;
    }

    /// Triangles round a point, in turn; of a rim point, from one rim edge to the other.
    void around(int point, std::vector<int>& triangles) const {
        triangles.clear();
        int t = m_points[point].triangle;
        const int first = t;
        // Back to the rim, or once round.
        for (;;) {
            const int before = m_triangles[t].n[(corner(m_triangles[t], point) + 1) % 3];
            if (before < 0) break;
            t = before;
            if (t == first) break;
        }
        const int start = t;
        do {
            triangles.push_back(t);
            t = m_triangles[t].n[(corner(m_triangles[t], point) + 2) % 3];
        } while (t >= 0 && t != start);
    }

    /// Turns the edge across from corner i of t, if both new triangles are the right way round.
    bool turnEdge(int t, int i) {
        const int o = m_triangles[t].n[i];
        if (o < 0) return false;
        const int k = cornerAcross(o, t);
        const int p = m_triangles[t].v[i], q = m_triangles[o].v[k];
        const int a = m_triangles[t].v[(i + 1) % 3], b = m_triangles[t].v[(i + 2) % 3];
        if (m_points[p].id >= 0 && m_points[p].id == m_points[q].id) return false;
        if (!rightWayRound(p, a, q) || !rightWayRound(p, q, b)) return false;
        const int pa = m_triangles[t].n[(i + 2) % 3], bp = m_triangles[t].n[(i + 1) % 3];
        const int aq = m_triangles[o].n[cornerOf(o, b)], qb = m_triangles[o].n[cornerOf(o, a)];
        m_triangles[t].v = {p, a, q};
        m_triangles[t].n = {aq, o, pa};
        m_triangles[o].v = {p, q, b};
        m_triangles[o].n = {qb, bp, t};
        hang(aq, o, t);
        hang(bp, t, o);
        m_points[a].triangle = t;
        m_points[b].triangle = o;
        m_points[p].triangle = t;
        m_points[q].triangle = t;
        return true;
    }
    [[nodiscard]] int cornerOf(int t, int point) const { return corner(m_triangles[t], point); }

    /// Whether turning an edge makes the angles across from it smaller: Delaunay's condition. On a bent surface it is
    /// asked in the parameters, with lengths as they are about the edge's middle: in space, points on either side of a
    /// seam, or of a tube, would look like neighbours.
    [[nodiscard]] bool betterTurned(int t, int i) const {
        const int o = m_triangles[t].n[i];
        if (o < 0) return false;
        const Point &p = m_points[m_triangles[t].v[i]], &a = m_points[m_triangles[t].v[(i + 1) % 3]],
                    &b = m_points[m_triangles[t].v[(i + 2) % 3]], &q = m_points[m_triangles[o].v[cornerAcross(o, t)]];
        double e = 1.0, f = 0.0, g = 1.0;
        if (!m_flat) {
            gp_Pnt middle;
            gp_Vec du, dv;
            m_surface.D1(0.5 * (a.uv.X() + b.uv.X()), 0.5 * (a.uv.Y() + b.uv.Y()), middle, du, dv);
            e = du.SquareMagnitude();
            f = du.Dot(dv);
            g = dv.SquareMagnitude();
        }
        const double root = std::sqrt(std::max(e * g - f * f, 0.0));
        const auto cosineAndSine = [&](const Point& at, const Point& x, const Point& y) {
            const gp_XY u = x.uv.XY() - at.uv.XY(), v = y.uv.XY() - at.uv.XY();
            return std::pair(e * u.X() * v.X() + f * (u.X() * v.Y() + u.Y() * v.X()) + g * u.Y() * v.Y(),
                             root * std::abs(u.Crossed(v)));
        };
        const auto [c1, s1] = cosineAndSine(p, a, b);
        const auto [c2, s2] = cosineAndSine(q, a, b);
        const double scale = std::sqrt((c1 * c1 + s1 * s1) * (c2 * c2 + s2 * s2));
        return s1 * c2 + c1 * s2 < -1e-9 * scale;  // the two angles together exceed half a turn
    }

    /// Turns edges until none is better turned. In the middle of strong curvature that need not end: bounded.
    void turnAll() {
        std::vector<std::pair<int, int>> todo;
        for (int t = 0; t < static_cast<int>(m_triangles.size()); ++t)
            if (!m_triangles[t].gone)
                for (int i = 0; i < 3; ++i)
                    if (m_triangles[t].n[i] > t) todo.emplace_back(m_triangles[t].v[i], t);
        turnThese(std::move(todo));
    }
    /// Edges by the corner across from them and its triangle.
    void turnThese(std::vector<std::pair<int, int>> todo) {
        std::size_t turns = 0;
        const std::size_t most = 20 * todo.size() + 200;
        while (!todo.empty() && turns < most) {
            const auto [point, t] = todo.back();
            todo.pop_back();
            const Triangle& triangle = m_triangles[t];
            if (triangle.gone || (triangle.v[0] != point && triangle.v[1] != point && triangle.v[2] != point)) continue;
            const int i = corner(triangle, point), o = triangle.n[i];
            if (!betterTurned(t, i) || !turnEdge(t, i)) continue;
            ++turns;
            for (const int changed : {t, o})
                for (int k = 0; k < 3; ++k)
                    if (m_triangles[changed].n[k] >= 0 && m_triangles[changed].n[k] != t &&
                        m_triangles[changed].n[k] != o)
                        todo.emplace_back(m_triangles[changed].v[k], changed);
        }
    }

    /// The size at a new point between two others.
    [[nodiscard]] double sizeAt(const gp_Pnt2d& uv, const gp_Pnt& at, int a, int b) const {
        double size = std::min(m_rules.target, sizeByCurvature(m_surface, uv.X(), uv.Y(), m_rules));
        for (const int end : {a, b})
            size = std::min(size, m_points[end].size + m_rules.growth * at.Distance(m_points[end].at));
        return size;
    }

    /// Puts a point on the edge across from corner i of t.
    void halve(int t, int i) {
        const int o = m_triangles[t].n[i];
        const int k = cornerAcross(o, t);
        const int p = m_triangles[t].v[i], q = m_triangles[o].v[k];
        const int a = m_triangles[t].v[(i + 1) % 3], b = m_triangles[t].v[(i + 2) % 3];
        const int bp = m_triangles[t].n[(i + 1) % 3], qb = m_triangles[o].n[cornerOf(o, a)];
        Point point;
        point.uv = gp_Pnt2d(0.5 * (m_points[a].uv.XY() + m_points[b].uv.XY()));
        point.at = on(point.uv);
        point.size = sizeAt(point.uv, point.at, a, b);
        const int m = static_cast<int>(m_points.size());
        const int t2 = static_cast<int>(m_triangles.size()), o2 = t2 + 1;
        // t: p a m, t2: p m b, o: q m a, o2: q b m.
        const int aq = m_triangles[o].n[cornerOf(o, b)], pa = m_triangles[t].n[(i + 2) % 3];
        m_triangles[t].v = {p, a, m};
        m_triangles[t].n = {o, t2, pa};
        m_triangles[o].v = {q, m, a};
        m_triangles[o].n = {t, aq, o2};
        m_triangles.push_back({{p, m, b}, {o2, bp, t}, false});
        m_triangles.push_back({{q, b, m}, {t2, o, qb}, false});
        hang(bp, t, t2);
        hang(qb, o, o2);
        m_points[b].triangle = t2;
        m_points[a].triangle = t;
        m_points[p].triangle = t;
        m_points[q].triangle = o;
        point.triangle = t;
        m_points.push_back(point);
        turnThese({{m, t}, {m, o}, {m, t2}, {m, o2}});
    }

    /// Halves edges that are a third longer than they shall be, longest for their size first.
    void halveLong() {
        for (int pass = 0; pass < 40; ++pass) {
            struct Long {
                double share;
                int t, a, b;
            };
            std::vector<Long> all;
            for (int t = 0; t < static_cast<int>(m_triangles.size()); ++t) {
                if (m_triangles[t].gone) continue;
                for (int i = 0; i < 3; ++i) {
                    if (m_triangles[t].n[i] <= t) continue;
                    const int a = m_triangles[t].v[(i + 1) % 3], b = m_triangles[t].v[(i + 2) % 3];
                    const double share = length(a, b) / wanted(a, b);
                    if (share > 4.0 / 3.0) all.push_back({share, t, a, b});
                }
            }
            if (all.empty() || m_progress.cancelled()) return;
            std::sort(all.begin(), all.end(), [](const Long& x, const Long& y) { return x.share > y.share; });
            const double least = std::max(4.0 / 3.0, 0.5 * all.front().share);
            std::size_t done = 0;
            for (const Long& one : all) {
                if (one.share < least) break;
                // It may have been turned away meanwhile.
                const Triangle& triangle = m_triangles[one.t];
                for (int i = 0; i < 3; ++i)
                    if (triangle.v[(i + 1) % 3] == one.a && triangle.v[(i + 2) % 3] == one.b && triangle.n[i] >= 0) {
                        halve(one.t, i);
                        ++done;
                        break;
                    }
            }
            spreadSizes();
            if (done == 0) return;
        }
    }

    /// Lets small sizes spread from point to point.
    void spreadSizes() {
        for (const Triangle& triangle : m_triangles)
            for (int i = 0; i < 3 && !triangle.gone; ++i)
                for (const int k : {(i + 1) % 3, (i + 2) % 3}) {
                    Point& point = m_points[triangle.v[i]];
                    const Point& other = m_points[triangle.v[k]];
                    if (point.rim) continue;
                    point.size = std::min(point.size, other.size + m_rules.growth * point.at.Distance(other.at));
                }
    }

    void closeShort() {
        std::vector<int> star, other;
        for (int p = 0; p < static_cast<int>(m_points.size()); ++p) {
            if (m_points[p].rim || m_points[p].triangle < 0) continue;
            around(p, star);
            // Its nearest neighbour, by what is wanted between.
            double least = 0.7;
            int into = -1;
            for (const int t : star) {
                const int next = m_triangles[t].v[(cornerOf(t, p) + 1) % 3];
                const double share = length(p, next) / wanted(p, next);
                if (share < least) {
                    least = share;
                    into = next;
                }
            }
            if (into >= 0) close(p, into, star);
        }
    }

    /// Draws an inner point into a neighbour; not where a triangle would turn over or an edge become too long.
    bool close(int p, int into, const std::vector<int>& star) {
        if (star.size() < 4) return false;
        int first = -1, second = -1;  // the two triangles that go
        for (const int t : star) {
            const Triangle& triangle = m_triangles[t];
            const int i = corner(triangle, p), a = triangle.v[(i + 1) % 3], b = triangle.v[(i + 2) % 3];
            if (a == into) {
                first = t;
                continue;
            }
            if (b == into) {
                second = t;
                continue;
            }
            if (!rightWayRound(into, a, b)) return false;
            if (m_points[into].id >= 0 && (m_points[into].id == m_points[a].id || m_points[into].id == m_points[b].id))
                return false;
            if (length(into, a) > 1.3 * wanted(into, a)) return false;
            const gp_Vec was = gp_Vec(m_points[p].at, m_points[a].at).Crossed(gp_Vec(m_points[p].at, m_points[b].at)),
                         now = gp_Vec(m_points[into].at, m_points[a].at)
                                   .Crossed(gp_Vec(m_points[into].at, m_points[b].at));
            if (was.Dot(now) <= 0.5 * was.Magnitude() * now.Magnitude()) return false;
        }
        if (first < 0 || second < 0) return false;
        // Points next to both ends must be the two across, else two edges would fall on each other.
        std::vector<int> about;
        around(into, about);
        std::size_t common = 0;
        for (const int t : star) {
            const int next = m_triangles[t].v[(cornerOf(t, p) + 1) % 3];
            for (const int u : about) common += m_triangles[u].v[(cornerOf(u, into) + 1) % 3] == next;
            if (m_points[into].rim && !about.empty()) {
                const int last = m_triangles[about.back()].v[(cornerOf(about.back(), into) + 2) % 3];
                common += last == next && m_triangles[about.back()].n[(cornerOf(about.back(), into) + 1) % 3] < 0;
            }
        }
        if (common != 2) return false;
        for (const int t : star) {
            if (t == first || t == second) continue;
            m_triangles[t].v[cornerOf(t, p)] = into;
        }
        for (const int t : {first, second}) {
            // Its other two neighbours become each other's.
            const int inner = m_triangles[t].n[corner3(t, p)];     // across from p: beyond the edge into - a
            const int outer = m_triangles[t].n[corner3(t, into)];  // across from into: the star's next triangle
            hang(inner, t, outer);
            hang(outer, t, inner);
            m_triangles[t].gone = true;
            for (const int v : m_triangles[t].v)
                if (v != p && m_points[v].triangle == t) m_points[v].triangle = outer >= 0 ? outer : inner;
        }
        m_points[p].triangle = -1;
        // Where a corner lost its triangle, any left of the star will do.
        for (const int t : star)
            if (!m_triangles[t].gone)
                for (const int v : m_triangles[t].v) m_points[v].triangle = t;
        return true;
    }
    [[nodiscard]] int corner3(int t, int point) const { return corner(m_triangles[t], point); }

    /// Moves a point in its parameters, if no triangle turns over and the worst angle about it does not get worse.
    bool move(int p, const gp_Pnt2d& uv, const std::vector<int>& star, bool onlyBetter) {
        const Point before = m_points[p];
        double was = 1e300, now = 1e300;
        const auto worst = [&] {
            double least = 1e300;
            for (const int t : star) {
                const auto& v = m_triangles[t].v;
                least = std::min(least, leastAngle(m_points[v[0]].at, m_points[v[1]].at, m_points[v[2]].at));
            }
            return least;
        };
        was = worst();
        m_points[p].uv = uv;
        m_points[p].at = on(uv);
        bool fine = true;
        for (const int t : star) {
            const auto& v = m_triangles[t].v;
            fine = fine && rightWayRound(v[0], v[1], v[2]);
        }
        if (fine) now = worst();
        if (fine && now > (onlyBetter ? was * (1.0 + Tolerance::atLimit) : std::min(was, 0.45) * 0.999)) return true;
        m_points[p] = before;
        return false;
    }

    void drawToMiddles(std::size_t rims) {
        std::vector<int> star;
        for (std::size_t p = rims; p < m_points.size(); ++p) {
            Point& point = m_points[p];
            if (point.triangle < 0) continue;
            around(static_cast<int>(p), star);
            // The middle of the triangles about it, weighted by their areas against the squares of their sizes.
            gp_XYZ sum(0, 0, 0);
            double weight = 0.0;
            for (const int t : star) {
                const auto& v = m_triangles[t].v;
                const gp_Pnt &a = m_points[v[0]].at, &b = m_points[v[1]].at, &c = m_points[v[2]].at;
                const double size = (m_points[v[0]].size + m_points[v[1]].size + m_points[v[2]].size) / 3.0;
                const double own = gp_Vec(a, b).Crossed(gp_Vec(a, c)).Magnitude() / (size * size);
                sum += (a.XYZ() + b.XYZ() + c.XYZ()) * (own / 3.0);
                weight += own;
            }
            if (!(weight > 0.0)) continue;
            const auto to = footNear(static_cast<int>(p), gp_Pnt(sum / weight));
            if (!to) continue;
            const gp_XY way = to->XY() - point.uv.XY();
            for (const double share : {1.0, 0.5})
                if (move(static_cast<int>(p), gp_Pnt2d(point.uv.XY() + way * share), star, false)) break;
            if (!m_flat)
                point.size = std::min(point.size, sizeByCurvature(m_surface, point.uv.X(), point.uv.Y(), m_rules));
        }
    }

    /// The parameters a step towards a place in space leads to: one step of Gauss and Newton.
    [[nodiscard]] std::optional<gp_Pnt2d> footNear(int p, const gp_Pnt& place) const {
        gp_Pnt at;
        gp_Vec du, dv;
        m_surface.D1(m_points[p].uv.X(), m_points[p].uv.Y(), at, du, dv);
        const gp_Vec way(at, place);
        const double e = du.Dot(du), f = du.Dot(dv), g = dv.Dot(dv), area = e * g - f * f;
        // Of the product of its lengths: parameter lines side by side, where the metric cannot be turned back.
        if (!(area > 1e-12 * e * g)) return std::nullopt;
        const double a = way.Dot(du), b = way.Dot(dv);
        return gp_Pnt2d(m_points[p].uv.X() + (a * g - b * f) / area, m_points[p].uv.Y() + (b * e - a * f) / area);
    }

    /// Points at bad triangles are tried in eight directions.
    void improveWorst(std::size_t rims) {
        constexpr double bad = 0.5;  // the sine of thirty degrees
        std::vector<int> star;
        for (int t = 0; t < static_cast<int>(m_triangles.size()); ++t) {
            if (m_triangles[t].gone) continue;
            const auto v = m_triangles[t].v;
            if (leastAngle(m_points[v[0]].at, m_points[v[1]].at, m_points[v[2]].at) > bad) continue;
            for (const int p : v) {
                if (static_cast<std::size_t>(p) < rims) continue;
                around(p, star);
                for (const double step : {0.3, 0.15, 0.05}) {
                    for (int k = 0; k < 8; ++k) {
                        gp_Pnt at;
                        gp_Vec du, dv;
                        m_surface.D1(m_points[p].uv.X(), m_points[p].uv.Y(), at, du, dv);
                        const double lu = du.Magnitude(), lv = dv.Magnitude();
                        if (lu < Tolerance::noLength || lv < Tolerance::noLength) break;
                        const double reach = step * m_points[p].size;
                        move(p,
                             gp_Pnt2d(m_points[p].uv.X() + reach / lu * std::cos(k * M_PI / 4),
                                      m_points[p].uv.Y() + reach / lv * std::sin(k * M_PI / 4)),
                             star, true);
                    }
                }
            }
        }
        turnAll();
    }

    [[nodiscard]] FaceTriangles result(std::size_t rims) const {
        FaceTriangles all;
        std::vector<int> number(m_points.size());
        for (std::size_t p = 0; p < m_points.size(); ++p) {
            number[p] = static_cast<int>(p < rims ? p : rims + all.inner.size());
            if (p >= rims && m_points[p].triangle >= 0) all.inner.push_back(m_points[p].at);
        }
        for (const Triangle& triangle : m_triangles) {
            if (triangle.gone) continue;
            // At a pole, what has two corners in it has no area and is no element.
            const auto id = [&](int k) {
                const int p = triangle.v[k];
                return m_points[p].id >= 0 ? m_points[p].id : -2 - p;
            };
            if (id(0) == id(1) || id(1) == id(2) || id(2) == id(0)) continue;
            all.triangles.push_back({number[triangle.v[0]], number[triangle.v[1]], number[triangle.v[2]]});
        }
        return all;
    }
};

}  // namespace

std::optional<FaceTriangles> triangulate(const TopoDS_Face& face, const std::vector<std::vector<RimPoint>>& loops,
                                         const SizeRules& rules, Progress& progress) {
    return Refiner(face, rules, progress).run(loops);
}

}  // namespace rasoir::mesh
