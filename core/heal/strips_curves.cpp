#include <fmt/format.h>

#include "geometry/curves.h"
#include "heal/strip_contraction.h"

namespace rasoir::heal {

void Contraction::placeEnds() {
    for (auto& [group, corner] : m_corners)
        for (std::size_t i = 0; i < corner.ring.size(); ++i) {
            const Side& out = corner.ring[i].out;
            if (out.fresh < 0) continue;
            Fresh& fresh = m_fresh[out.fresh];
            (out.along ? fresh.start : fresh.end) = corner.points[static_cast<std::size_t>(corner.pointOfSpoke[i])];
        }
}

gp_Pnt Contraction::onBoth(const Fresh& fresh, const gp_Pnt& hint) const {
    const std::vector<Handle(Geom_Surface)> surfaces{surfaceOf(fresh.faceAlong), surfaceOf(fresh.faceAgainst)};
    // Steep [rad]: flatter, two surfaces run side by side and the meeting is anywhere.
    return nearestToAll(surfaces, {std::nullopt, std::nullopt}, hint, std::numeric_limits<double>::max(),
                        0.1 * m_tolerance, 1e-3);
}

Result<void> Contraction::findCurves() {
    placeEnds();
    for (Fresh& fresh : m_fresh) {
        if (!fresh.pieces.empty()) continue;  // a diagonal
        const Handle(Geom_Surface) a = surfaceOf(fresh.faceAlong), b = surfaceOf(fresh.faceAgainst);
        const auto fails = [&] {
            return stopped("The two faces along it do not meet all the way.",
                           "Remove what lies beside it first, or together with it.",
                           {fresh.faceAlong, fresh.faceAgainst}, fresh.hints[1]);
        };
        if (fresh.start.Distance(fresh.end) <= 10.0 * m_tolerance) {
            if (const auto ring = meetingRing(a, b, fresh.start, fresh.direction, 10.0 * m_tolerance)) {
                fresh.pieces = {*ring};
                continue;
            }
            fresh.stations = {onBoth(fresh, fresh.hints[0]), onBoth(fresh, fresh.hints[1]),
                              onBoth(fresh, fresh.hints[2])};
        } else {
            const gp_Pnt middle = onBoth(fresh, fresh.hints[1]);
            const auto direct = meetingCurve(a, b, fresh.start, fresh.end, m_tolerance);
            const auto passes = [&](const CurvePiece& piece) {
                double nearest = std::numeric_limits<double>::max();
                for (int i = 0; i <= 32; ++i)
                    nearest = std::min(
                        nearest,
                        piece.curve->Value(piece.first + (piece.last - piece.first) * i / 32).Distance(middle));
                return nearest <= 0.2 * fresh.start.Distance(fresh.end);
            };
            if (direct && passes(*direct)) {
                fresh.pieces = {*direct};
                continue;
            }
            fresh.stations = {middle};
        }
        std::vector<gp_Pnt> stops{fresh.start};
        stops.insert(stops.end(), fresh.stations.begin(), fresh.stations.end());
        stops.push_back(fresh.end);
        for (std::size_t s = 0; s + 1 < stops.size(); ++s) {
            const auto piece = meetingCurve(a, b, stops[s], stops[s + 1], m_tolerance);
            if (!piece) return fails();
            fresh.pieces.push_back(*piece);
        }
    }
    return {};
}

void Contraction::touch(int f) {
    SurgeryFace& face = m_body.changeFace(f);
    face.changed = face.reshaped = true;
    m_reshaped.insert(face.number);
}

Result<void> Contraction::make(Fresh& fresh) {
    std::vector<int> vertices{fresh.fromVertex};
    for (const gp_Pnt& station : fresh.stations) vertices.push_back(m_body.addVertex(station, 2.0 * m_tolerance));
    vertices.push_back(fresh.toVertex);
    for (std::size_t p = 0; p < fresh.pieces.size(); ++p) {
        const CurvePiece& piece = fresh.pieces[p];
        const int half = m_body.addEdge(piece.curve, piece.first, piece.last, vertices[p], vertices[p + 1],
                                        2.0 * m_tolerance, fresh.faceAlong, fresh.faceAgainst);
        if (auto shaped =
                m_body.reshape(m_body.half(half).edge, piece.curve, piece.first, piece.last, 10.0 * m_tolerance);
            !shaped)
            return shaped;
        fresh.halves.push_back(half);
    }
    return {};
}

void Contraction::append(std::vector<int>& row, const Side& side) const {
    if (side.half >= 0) {
        row.push_back(side.half);
        return;
    }
    const std::vector<int>& halves = m_fresh[side.fresh].halves;
    if (side.along)
        row.insert(row.end(), halves.begin(), halves.end());
    else
        for (auto it = halves.rbegin(); it != halves.rend(); ++it) row.push_back(*it + 1);
}

Result<void> Contraction::apply() {
    // Vertices; an old one that lies right already serves on, and what ends there is left as it is.
    std::map<int, std::vector<int>> members;
    for (const auto& [v, width] : m_width) members[find(v)].push_back(v);
    for (auto& [group, corner] : m_corners) {
        for (const gp_Pnt& point : corner.points) {
            int vertex = -1;
            for (const int v : members[group])
                if (m_body.vertex(v).point.Distance(point) <= m_tolerance &&
                    std::find(corner.vertices.begin(), corner.vertices.end(), v) == corner.vertices.end())
                    vertex = v;
            corner.vertices.push_back(vertex >= 0 ? vertex : m_body.addVertex(point, 2.0 * m_tolerance));
        }
        const int k = static_cast<int>(corner.ring.size());
        for (int i = 0; i < k; ++i) {
            const int vertex = corner.vertices[static_cast<std::size_t>(corner.pointOfSpoke[i])];
            const Side& out = corner.ring[i].out;
            if (out.fresh >= 0) {
                Fresh& fresh = m_fresh[out.fresh];
                (out.along ? fresh.fromVertex : fresh.toVertex) = vertex;
                continue;
            }
            if (auto done = carryOn(group, corner, i, vertex); !done) return done;
        }
        for (const Corner::Diagonal& diagonal : corner.diagonals) {
            m_fresh[diagonal.fresh].fromVertex = corner.vertices[diagonal.from];
            m_fresh[diagonal.fresh].toVertex = corner.vertices[diagonal.to];
        }
    }
    for (Fresh& fresh : m_fresh)
        if (auto made = make(fresh); !made) return tl::unexpected(made.error());
    relink();
    for (const auto& [half, instead] : m_instead) m_body.kill(half);
    for (const int f : m_removed) {
        for (const int h : std::vector<int>(m_body.halvesOf(f)))
            if (m_body.half(h).face == f && !m_body.half(h).dead) m_body.kill(h);
        m_body.changeFace(f).gone = true;
    }
    return {};
}

Result<void> Contraction::carryOn(int group, Corner& corner, int i, int vertex) {
    const int k = static_cast<int>(corner.ring.size());
    const int half = corner.ring[i].out.half;
    const int old = m_body.startOf(half);
    if (old == vertex) return {};
    const int e = m_body.half(half).edge;
    const bool along = m_body.half(half).alongEdge;
    const gp_Pnt target = m_body.vertex(vertex).point;
    const SurgeryEdge before = m_body.edge(e);
    if (const auto at = carriedTo(before, !along, target, 10.0 * m_tolerance)) {
        SurgeryEdge& edge = m_body.changeEdge(e);
        (along ? edge.start : edge.end) = vertex;
        const SurgeryEdge now = edge;
        const auto shaped =
            m_body.reshape(e, now.curve, along ? *at : now.first, along ? now.last : *at, 10.0 * m_tolerance);
        if (!shaped)
            return stopped(shaped.error().what, "Remove the features beside it first.", {corner.ring[i].face}, target);
        for (const int h : now.halves)
            if (!m_body.half(h).dead) touch(m_body.half(h).face);
        return {};
    }
    // It cannot be carried on itself: a further edge leads from its end to the corner.
    const int next = (i + 1) % k;
    const auto piece = curveBetween(corner.ring[i].face, corner.ring[next].face, m_body.vertex(old).point, target,
                                    std::max(m_tolerance, m_body.vertex(old).tolerance));
    if (!piece)
        return stopped("An edge that ends at it cannot be carried on.",
                       "Remove the features beside it first, or together with it.",
                       {corner.ring[i].face, corner.ring[next].face}, target);
    Fresh bridge;  // runs from the old end to the corner: with the side of slot i + 1
    bridge.faceAlong = corner.ring[next].face;
    bridge.faceAgainst = corner.ring[i].face;
    bridge.fromVertex = old;
    bridge.toVertex = vertex;
    bridge.pieces = {*piece};
    const int id = static_cast<int>(m_fresh.size());
    m_fresh.push_back(std::move(bridge));
    m_between[{group, i}].push_back({-1, id, false});  // before slot i's out
    auto& arriving = m_between[{group, next}];
    arriving.insert(arriving.begin(), Side{-1, id, true});  // after slot next's in
    return {};
}

void Contraction::relink() {
    for (auto& [group, corner] : m_corners) {
        const int k = static_cast<int>(corner.ring.size());
        std::vector<std::vector<std::pair<int, Side>>> fan(corner.ring.size());
        for (const Corner::Diagonal& diagonal : corner.diagonals) {
            const bool alongIsJ = m_diagonalAlongJ.at(diagonal.fresh);
            fan[diagonal.i].emplace_back((diagonal.i - diagonal.j + k) % k, Side{-1, diagonal.fresh, !alongIsJ});
            fan[diagonal.j].emplace_back((diagonal.j - diagonal.i + k) % k, Side{-1, diagonal.fresh, alongIsJ});
        }
        for (int i = 0; i < k; ++i) {
            const Slot& slot = corner.ring[i];
            touch(slot.face);
            std::sort(fan[i].begin(), fan[i].end(), [](const auto& a, const auto& b) { return a.first < b.first; });
            std::vector<int> row;
            append(row, slot.in);
            row.erase(row.begin(), row.end() - 1);
            std::vector<Side> before, after;  // bridges: arriving ones first, leaving ones last
            if (const auto extra = m_between.find({group, i}); extra != m_between.end())
                for (const Side& side : extra->second) (side.along ? before : after).push_back(side);
            for (const Side& side : before) append(row, side);
            for (const auto& [distance, side] : fan[i]) append(row, side);
            for (const Side& side : after) append(row, side);
            std::vector<int> out;
            append(out, slot.out);
            row.push_back(out.front());
            for (std::size_t s = 0; s + 1 < row.size(); ++s) m_body.link(row[s], row[s + 1]);
        }
    }
    // Pieces of one new edge follow each other; what was joined by nothing but the removal of sides between is linked
    // above.
    for (const Fresh& fresh : m_fresh)
        for (std::size_t p = 0; p + 1 < fresh.halves.size(); ++p) {
            m_body.link(fresh.halves[p], fresh.halves[p + 1]);
            m_body.link(fresh.halves[p + 1] + 1, fresh.halves[p] + 1);
        }
}

}  // namespace rasoir::heal
