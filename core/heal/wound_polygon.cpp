#include <fmt/format.h>

#include <array>

#include "geometry/curves.h"
#include "geometry/round_surface.h"
#include "heal/wound_healer.h"

namespace rasoir::heal {

Result<void> WoundHealer::closePolygon(std::vector<Slot> slots) {
    if (m_failed)
        return stopped("An edge that it interrupts does not fit both its faces once joined.", "Mend the part first.",
                       slots);
    const int k = static_cast<int>(slots.size());
    constexpr int mostListed = 9, most = 48;  // 429 ways to cut a nonagon; of wider ones the cheapest few are sought
    if (k > most)
        return stopped(fmt::format("{} different faces surround it, too many to grow together.", k),
                       "Remove the features beside it first.", slots);
    const gp_Pnt centre(0.5 * (m_reach.CornerMin().XYZ() + m_reach.CornerMax().XYZ()));
    std::map<Triangle, std::optional<gp_Pnt>> corners;
    const auto corner = [&](const Triangle& t) -> const std::optional<gp_Pnt>& {
        auto it = corners.find(t);
        if (it == corners.end()) {
            std::optional<gp_Pnt> point = alreadyThere(slots, t);
            // From the ends of the edges that lead there, since curved faces meet in several points; else from the
            // middle.
            std::vector<gp_Pnt> starts;
            for (const auto& [from, to] : {std::pair{t[0], t[1]}, {t[1], t[2]}, {t[2], t[0]}})
                if ((from + 1) % k == to) starts.push_back(m_body.vertex(m_body.startOf(slots[from].out)).point);
            starts.push_back(centre);
            for (std::size_t s = 0; s < starts.size() && !point; ++s) {
                point = meetingPoint(surfaceOf(slots[t[0]].face), surfaceOf(slots[t[1]].face),
                                     surfaceOf(slots[t[2]].face), starts[s], m_tolerance);
                if (point && !near(*point)) point.reset();
            }
            if (!point) point = alongSpoke(slots, t);
            it = corners.emplace(t, point).first;
        }
        return it->second;
    };
    std::vector<std::pair<double, std::vector<Triangle>>> ways;
    if (k > mostListed) {
        // The cheapest; and those without one of its corners, one after another.
        std::vector<Triangle> banned;
        const auto cost = [&](const Triangle& t) -> std::optional<double> {
            if (std::find(banned.begin(), banned.end(), t) != banned.end()) return std::nullopt;
            const auto& point = corner(t);
            return point ? std::optional(point->Distance(centre)) : std::nullopt;
        };
        const auto add = [&] {
            auto way = cheapestTriangulation(k, cost);
            if (way.empty()) return;
            double score = 0.0;
            for (const Triangle& t : way) score += *cost(t);
            ways.emplace_back(score, std::move(way));
        };
        add();
        if (!ways.empty())
            for (const Triangle& t : std::vector<Triangle>(ways.front().second)) {
                banned = {t};
                add();
            }
    }
    for (auto& way : k <= mostListed ? triangulations(0, k - 1) : std::vector<std::vector<Triangle>>()) {
        double score = 0.0;
        bool possible = true;
        for (const Triangle& t : way) {
            const auto& point = corner(t);
            if (!point) {
                possible = false;
                break;
            }
            score += point->Distance(centre);
        }
        if (possible) ways.emplace_back(score, std::move(way));
    }
    std::sort(ways.begin(), ways.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
    int before = m_choices.next(ways.size());
    for (const auto& [score, way] : ways)
        if (auto plan = planned(slots, way, corners); plan && before-- == 0) return apply(slots, way, *plan);
    return stopped("The faces around it never meet.",
                   "Remove a round, chamfer or hole beside it first, or together with it.", slots);
}

std::optional<gp_Pnt> WoundHealer::alreadyThere(const std::vector<Slot>& slots, const Triangle& t) const {
    const int k = static_cast<int>(slots.size());
    for (const auto& [before, at, after] :
         {std::array<int, 3>{t[0], t[1], t[2]}, {t[1], t[2], t[0]}, {t[2], t[0], t[1]}})
        if ((before + 1) % k == at && (at + 1) % k == after &&
            m_body.endOf(slots[at].in) == m_body.startOf(slots[at].out))
            return m_body.vertex(m_body.endOf(slots[at].in)).point;
    return std::nullopt;
}

std::optional<gp_Pnt> WoundHealer::alongSpoke(const std::vector<Slot>& slots, const Triangle& t) const {
    const int k = static_cast<int>(slots.size());
    for (const auto& [i, j, third] : {std::array<int, 3>{t[0], t[1], t[2]}, {t[1], t[2], t[0]}, {t[2], t[0], t[1]}}) {
        if ((i + 1) % k != j && (j + 1) % k != i) continue;
        const int from = (i + 1) % k == j ? i : j;
        const SurgeryEdge& edge = m_body.edge(m_body.half(slots[from].out).edge);
        if (edge.curve.IsNull() || !runsOn(edge.curve)) continue;
        const gp_Pnt end = m_body.vertex(m_body.startOf(slots[from].out)).point;
        const auto point = meetingPoint(edge.curve, surfaceOf(slots[third].face), end,
                                        10.0 * m_tolerance + edge.tolerance, m_tolerance);
        if (point && near(*point)) return point;
    }
    return std::nullopt;
}

std::optional<WoundHealer::Plan> WoundHealer::planned(const std::vector<Slot>& slots, const std::vector<Triangle>& way,
                                                      std::map<Triangle, std::optional<gp_Pnt>>& corners) {
    const int k = static_cast<int>(slots.size());
    Plan plan;
    for (const Triangle& t : way) plan.corners.push_back(*corners.at(t));
    std::map<std::pair<int, int>, std::vector<int>> trianglesOf;  // polygon side or diagonal -> triangles
    for (std::size_t t = 0; t < way.size(); ++t)
        for (const auto& [a, b] : {std::pair{way[t][0], way[t][1]}, {way[t][1], way[t][2]}, {way[t][0], way[t][2]}})
            trianglesOf[{a, b}].push_back(static_cast<int>(t));
    plan.cornerOfSide.resize(slots.size());
    plan.spokeEnd.resize(slots.size());
    plan.spokeBridge.resize(slots.size());
    for (int i = 0; i < k; ++i) {
        const int next = (i + 1) % k;
        const int triangle = trianglesOf[{std::min(i, next), std::max(i, next)}].front();
        plan.cornerOfSide[i] = triangle;
        const gp_Pnt& target = plan.corners[triangle];
        // Seen from slot i the spoke leaves the wound: its wounded end is its start.
        const SurgeryEdge& edge = m_body.edge(m_body.half(slots[i].out).edge);
        plan.spokeEnd[i] = runsOn(edge.curve)
                               ? carriedTo(edge, !m_body.half(slots[i].out).alongEdge, target, 2.0 * m_tolerance)
                               : std::nullopt;
        if (plan.spokeEnd[i]) continue;
        const int vertex = m_body.startOf(slots[i].out);
        if (m_body.vertex(vertex).point.Distance(target) <= m_tolerance) continue;
        if (sameSurface(m_body.face(slots[i].face).shape, m_body.face(slots[next].face).shape, m_tolerance))
            return std::nullopt;
        plan.spokeBridge[i] =
            meetingCurve(surfaceOf(slots[i].face), surfaceOf(slots[next].face), m_body.vertex(vertex).point, target,
                         std::max(m_tolerance, m_body.vertex(vertex).tolerance));
        if (!plan.spokeBridge[i] || !within(*plan.spokeBridge[i])) return std::nullopt;
    }
    for (const auto& [side, triangles] : trianglesOf) {
        if (triangles.size() != 2) continue;
        const gp_Pnt &from = plan.corners[triangles[0]], &to = plan.corners[triangles[1]];
        const int one = slots[side.first].face, other = slots[side.second].face;
        if (sameSurface(m_body.face(one).shape, m_body.face(other).shape, m_tolerance)) return std::nullopt;
        auto piece = meetingCurve(surfaceOf(one), surfaceOf(other), from, to, m_tolerance);
        if (!piece) piece = touchingCurve(surfaceOf(one), surfaceOf(other), from, to, m_tolerance);
        if (!piece || !within(*piece)) return std::nullopt;
        plan.diagonals.push_back({side.first, side.second, triangles[0], triangles[1], *piece});
    }
    return plan;
}

Result<void> WoundHealer::apply(std::vector<Slot> slots, const std::vector<Triangle>& way, const Plan& plan) {
    const int k = static_cast<int>(slots.size());
    std::vector<int> vertices(plan.corners.size(), -1);
    for (int i = 0; i < k; ++i)  // where an old edge ends at the corner already, its vertex is the corner's
        if (!plan.spokeEnd[i] && !plan.spokeBridge[i]) vertices[plan.cornerOfSide[i]] = m_body.startOf(slots[i].out);
    for (std::size_t c = 0; c < vertices.size(); ++c)
        if (vertices[c] < 0) vertices[c] = m_body.addVertex(plan.corners[c], 2.0 * m_tolerance);
    touch(slots);
    for (int i = 0; i < k; ++i) {
        const int next = (i + 1) % k;
        const int vertex = vertices[plan.cornerOfSide[i]];
        const int out = slots[i].out, in = slots[next].in, e = m_body.half(out).edge;
        const bool along = m_body.half(out).alongEdge;
        if (plan.spokeEnd[i]) {
            SurgeryEdge& edge = m_body.changeEdge(e);
            (along ? edge.start : edge.end) = vertex;
            const SurgeryEdge now = edge;
            if (auto shaped = m_body.reshape(e, now.curve, along ? *plan.spokeEnd[i] : now.first,
                                             along ? now.last : *plan.spokeEnd[i], 10.0 * m_tolerance);
                !shaped)
                return stopped(shaped.error().what, "Mend the part first.", slots);
        } else if (plan.spokeBridge[i]) {
            const CurvePiece& piece = *plan.spokeBridge[i];
            // The bridge runs from the old end to the corner: with the side of slot i+1, against that of slot i.
            const int bridge = m_body.addEdge(piece.curve, piece.first, piece.last, m_body.startOf(out), vertex,
                                              2.0 * m_tolerance, slots[next].face, slots[i].face);
            if (auto shaped =
                    m_body.reshape(m_body.half(bridge).edge, piece.curve, piece.first, piece.last, 10.0 * m_tolerance);
                !shaped)
                return stopped(shaped.error().what, "Mend the part first.", slots);
            m_body.link(in, bridge);
            m_body.link(bridge + 1, out);
            slots[next].in = bridge;
            slots[i].out = bridge + 1;
        } else if (m_body.startOf(out) != vertex) {
            return stopped("The faces around it meet in a point they already share.",
                           "Remove the features beside it first.", slots);
        }
    }
    // Between arriving and leaving, each neighbour runs along its diagonals, in order round the wound.
    std::vector<std::vector<std::pair<int, int>>> fan(slots.size());  // (distance round, side)
    for (const Plan::Diagonal& diagonal : plan.diagonals) {
        // On slot i the run goes from the triangle nearer slot i-1 to the one nearer slot i+1.
        const int third = thirdCorner(way[diagonal.from], diagonal.i, diagonal.j);
        const bool fromIsAfterI =
            between(diagonal.i, third, diagonal.j, k);  // that triangle lies on the i+1 side of the diagonal
        const int faceAlong = fromIsAfterI ? slots[diagonal.j].face : slots[diagonal.i].face;
        const int faceAgainst = fromIsAfterI ? slots[diagonal.i].face : slots[diagonal.j].face;
        const CurvePiece& piece = diagonal.piece;
        const int side = m_body.addEdge(piece.curve, piece.first, piece.last, vertices[diagonal.from],
                                        vertices[diagonal.to], 2.0 * m_tolerance, faceAlong, faceAgainst);
        if (auto shaped =
                m_body.reshape(m_body.half(side).edge, piece.curve, piece.first, piece.last, 10.0 * m_tolerance);
            !shaped)
            return stopped(shaped.error().what, "Mend the part first.", slots);
        const int sideOfI = fromIsAfterI ? side + 1 : side, sideOfJ = fromIsAfterI ? side : side + 1;
        fan[diagonal.i].emplace_back((diagonal.i - diagonal.j + k) % k, sideOfI);
        fan[diagonal.j].emplace_back((diagonal.j - diagonal.i + k) % k, sideOfJ);
    }
    for (int i = 0; i < k; ++i) {
        std::sort(fan[i].begin(), fan[i].end());
        int at = slots[i].in;
        for (const auto& [distance, side] : fan[i]) {
            m_body.link(at, side);
            at = side;
        }
        m_body.link(at, slots[i].out);
    }
    return {};
}

int WoundHealer::thirdCorner(const Triangle& t, int i, int j) {
    for (const int corner : t)
        if (corner != i && corner != j) return corner;
    return -1;
}

}  // namespace rasoir::heal
