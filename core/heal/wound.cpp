#include "heal/wound.h"

#include <fmt/format.h>

#include <BRep_Tool.hxx>
#include <GeomAdaptor_Surface.hxx>

#include "geometry/round_surface.h"
#include "heal/wound_healer.h"

namespace rasoir::heal {

WoundHealer::WoundHealer(HalfEdgeBody& body, const std::vector<int>& faces, Choices& choices, double tolerance)
    : m_body(body), m_choices(choices), m_tolerance(tolerance) {
    for (const int number : faces) m_removed.insert(m_body.faceRecord(number));
}

Result<void> WoundHealer::openAlong(const std::vector<int>& edges, const std::vector<int>& faces) {
    for (const int number : faces) {
        const int f = m_body.faceRecord(number);
        if (m_body.face(f).disordered)
            return stopped("A face beside it has loops that do not close.", "Mend the part first.");
        for (const int h : m_body.halvesOf(f)) {
            const SurgeryEdge& edge = m_body.edge(m_body.half(h).edge);
            if (m_body.half(h).dead || edge.number == 0 ||
                std::find(edges.begin(), edges.end(), edge.number) == edges.end())
                continue;
            if (edge.curve.IsNull()) return stopped("One of its edges has no length.", "Mend the part first.");
            for (const double t : {edge.first, 0.5 * (edge.first + edge.last), edge.last})
                m_reach.Add(edge.curve->Value(t));
            m_boundary.push_back(h);
            m_isBoundary.insert(h);
        }
    }
    if (m_boundary.size() != edges.size())
        return stopped("Its outline is not made of open edges.", "Mend the part first.");
    return {};
}

Result<void> WoundHealer::run() {
    if (m_boundary.empty())
        if (auto boundary = findBoundary(); !boundary) return boundary;
    for (const int f : m_removed) m_body.changeFace(f).gone = true;
    for (const int h : m_boundary) {
        if (m_done.contains(h)) continue;
        if (auto closed = closeWound(h); !closed) return closed;
    }
    if (auto closed = closeRings(); !closed) return closed;
    for (const int h : m_boundary) m_body.kill(h);
    for (const int f : m_removed)
        for (const int h : std::vector<int>(m_body.halvesOf(f)))
            if (m_body.half(h).face == f) m_body.kill(h);
    return {};
}

tl::unexpected<Problem> WoundHealer::stopped(std::string what, std::string remedy,
                                             const std::vector<Slot>& slots) const {
    Place place;
    for (const Slot& slot : slots) place.faces.push_back(m_body.face(slot.face).number);
    if (!m_reach.IsVoid()) {
        const gp_Pnt low = m_reach.CornerMin(), high = m_reach.CornerMax();
        place.point = gp_Pnt(0.5 * (low.XYZ() + high.XYZ()));
    }
    return fail(ProblemKind::NotPossible, std::move(what), std::move(remedy), std::move(place));
}

Result<void> WoundHealer::findBoundary() {
    for (const int f : m_removed) {
        if (m_body.face(f).disordered || m_body.face(f).gone)
            return stopped("A wall has loops that do not close, so what lies round it is unknown.",
                           "Mend the part first.");
        for (const int h : m_body.halvesOf(f)) {
            if (m_body.half(h).dead || m_body.edge(m_body.half(h).edge).degenerated) continue;
            const int other = m_body.twin(h);
            const SurgeryEdge& edge = m_body.edge(m_body.half(h).edge);
            for (const double t : {edge.first, 0.5 * (edge.first + edge.last), edge.last})
                m_reach.Add(edge.curve->Value(t));
            if (other < 0)
                return stopped("At one of its edges the body is open, or more than two faces meet.",
                               "Mend the part first.");
            if (m_removed.contains(m_body.half(other).face)) continue;
            if (m_body.face(m_body.half(other).face).disordered)
                return stopped("A face beside it has loops that do not close.", "Mend the part first.");
            m_boundary.push_back(other);
            m_isBoundary.insert(other);
        }
    }
    return {};
}

Result<void> WoundHealer::closeWound(int seed) {
    // A loop made of nothing but the wound?
    int in = m_body.half(seed).prev;
    for (std::size_t steps = 0; in != seed && m_isBoundary.contains(in); in = m_body.half(in).prev)
        if (++steps > m_isBoundary.size())
            return stopped("The edges round it do not form a loop.", "Mend the part first.");
    if (in == seed) {
        m_whole.push_back(seed);
        for (int at = m_body.half(seed).next; at != seed; at = m_body.half(at).next) m_done.insert(at);
        m_done.insert(seed);
        return {};
    }

    std::vector<Slot> slots;
    const int first = in;
    for (std::size_t guard = 0; guard < 10000; ++guard) {
        Slot slot{m_body.half(in).face, in, m_body.half(in).next};
        for (std::size_t steps = 0; m_isBoundary.contains(slot.out);) {
            if (++steps > m_isBoundary.size())
                return stopped("The edges round it do not form a loop.", "Mend the part first.", slots);
            m_done.insert(slot.out);
            slot.out = m_body.half(slot.out).next;
        }
        slots.push_back(slot);
        in = m_body.edge(m_body.half(slot.out).edge).degenerated ? -1 : m_body.twin(slot.out);
        if (in < 0)
            return stopped("An edge that ends at it is open, or ends in a pole.", "Mend the part first.", slots);
        if (m_removed.contains(m_body.half(in).face))
            return stopped("The faces round it touch each other in a single point.",
                           "Remove its neighbours together with it.", slots);
        if (in == first) return closeSlots(std::move(slots));
    }
    return stopped("The faces round it do not form a ring.", "Mend the part first.", slots);
}

Result<void> WoundHealer::dropLoop(int seed) {
    const int f = m_body.half(seed).face;
    const double area = m_body.loopArea(seed);
    bool other = false;
    for (const int h : m_body.halvesOf(f))
        if (!m_body.half(h).dead && m_body.half(h).face == f && !m_done.contains(h)) {
            other = true;
            break;  // the first will do; a plate's face has thousands
        }
    const GeomAdaptor_Surface surface(surfaceOf(f));
    const bool closedAlone = surface.GetType() == GeomAbs_Sphere || surface.GetType() == GeomAbs_Torus;
    if (area >= 0.0 || (!other && !closedAlone))
        return stopped("A face beside it would lose its outer boundary.", "Remove that face together with it.",
                       {{f, seed, seed}});
    m_body.changeFace(f).changed = true;
    return {};
}

Result<void> WoundHealer::closeSlots(std::vector<Slot> slots) {
    for (const Slot& slot : slots) m_reshaped.insert(m_body.face(slot.face).number);
    if (slots.size() == 1) return leaveAlone(slots.front());
    // Interrupted edges first: wherever two neighbours of a neighbour are pieces of one face and the edge runs on, join
    // it; or, should that close badly, not.
    bool joined = false;
    for (std::size_t i = 0; i < slots.size() && !joined; ++i)
        joined = joinable(slots, i) && !leavesNothingToMeet(slots, i);
    joined = joined && m_choices.next(2) == 0;
    while (joined && slots.size() >= 2) {
        joined = false;
        for (std::size_t i = 0; i < slots.size() && !joined; ++i) {
            if (!tryJoin(slots, i)) continue;
            joined = true;
        }
        if (slots.empty()) return {};
        if (slots.size() == 1) {
            // What is left is one face all round.
            if (slots[0].in < 0) return {};
            return leaveAlone(slots[0]);
        }
    }
    if (slots.size() == 2) return bridgeTwo(slots);
    const auto pairs = piecesOfOne(slots);
    if (pairs.empty()) return closePolygon(slots);
    // Round a wide wound two pieces of one face meet again first; corners of all the faces are the other way, should a
    // check object.
    const bool wide = slots.size() >= 6;
    if ((m_choices.next(2) == 0) == wide) return partBetween(slots, pairs);
    auto closed = closePolygon(slots);
    return closed || m_failed ? closed : partBetween(slots, pairs);
}

void WoundHealer::touch(const std::vector<Slot>& slots) {
    for (const Slot& slot : slots) {
        SurgeryFace& face = m_body.changeFace(slot.face);
        face.changed = face.reshaped = true;
    }
}

bool WoundHealer::near(const gp_Pnt& point) const {
    Bnd_Box reach = m_reach;
    const gp_Pnt low = reach.CornerMin(), high = reach.CornerMax();
    reach.Enlarge(low.Distance(high));
    return !reach.IsOut(point);
}

bool WoundHealer::within(const CurvePiece& piece) const {
    for (int i = 1; i < 8; ++i)
        if (!near(piece.curve->Value(piece.first + (piece.last - piece.first) * i / 8))) return false;
    return true;
}

Result<std::set<int>> removeAndHeal(HalfEdgeBody& body, const std::vector<int>& faces, double tolerance,
                                    const Judge& judge) {
    return firstAccepted(body, judge, [&](Choices& choices) -> Result<std::set<int>> {
        body.begin();
        WoundHealer healer(body, faces, choices, tolerance);
        auto healed = healer.run();
        if (!healed) return tl::unexpected(healed.error());
        return healer.reshaped();
    });
}

Result<std::set<int>> healOpening(HalfEdgeBody& body, const std::vector<int>& edges, const std::vector<int>& faces,
                                  double tolerance, const Judge& judge) {
    return firstAccepted(body, judge, [&](Choices& choices) -> Result<std::set<int>> {
        body.begin();
        WoundHealer healer(body, {}, choices, tolerance);
        if (auto opened = healer.openAlong(edges, faces); !opened) return tl::unexpected(opened.error());
        auto healed = healer.run();
        if (!healed) return tl::unexpected(healed.error());
        return healer.reshaped();
    });
}

}  // namespace rasoir::heal
