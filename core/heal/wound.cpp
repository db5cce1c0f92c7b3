#include "heal/wound.h"

#include <BRep_Tool.hxx>
#include <Bnd_Box.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <Geom2d_Line.hxx>
#include <fmt/format.h>
#include <gp_Cone.hxx>
#include <gp_Sphere.hxx>

#include <array>
#include <limits>
#include <unordered_set>

#include "geometry/curves.h"
#include "geometry/round_surface.h"
#include "geometry/surface_meeting.h"
#include "heal/polygon.h"

namespace rasoir::heal {
namespace {

/// A neighbour of the wound: its face, the last side before the wound and the first after it.
struct Slot {
    int face = -1;
    int in = -1;
    int out = -1;
};

class Healer {
public:
    Healer(HalfEdgeBody& body, const std::vector<int>& faces, Choices& choices, double tolerance) : m_body(body), m_choices(choices), m_tolerance(tolerance) {
        for (const int number : faces) m_removed.insert(m_body.faceRecord(number));
    }

    /// The outline of an opening: open edges of these faces.
    Result<void> openAlong(const std::vector<int>& edges, const std::vector<int>& faces) {
        for (const int number : faces) {
            const int f = m_body.faceRecord(number);
            if (m_body.face(f).disordered) return stopped("A face beside it has loops that do not close.", "Mend the part first.");
            for (const int h : m_body.halvesOf(f)) {
                const SurgeryEdge& edge = m_body.edge(m_body.half(h).edge);
                if (m_body.half(h).dead || edge.number == 0 || std::find(edges.begin(), edges.end(), edge.number) == edges.end()) continue;
                if (edge.curve.IsNull()) return stopped("One of its edges has no length.", "Mend the part first.");
                for (const double t : {edge.first, 0.5 * (edge.first + edge.last), edge.last}) m_reach.Add(edge.curve->Value(t));
                m_boundary.push_back(h);
                m_isBoundary.insert(h);
            }
        }
        if (m_boundary.size() != edges.size()) return stopped("Its outline is not made of open edges.", "Mend the part first.");
        return {};
    }

    Result<void> run() {
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

    [[nodiscard]] const std::set<int>& reshaped() const { return m_reshaped; }

private:
    HalfEdgeBody& m_body;
    Choices& m_choices;
    double m_tolerance;
    std::set<int> m_reshaped;             // face numbers
    std::unordered_set<int> m_removed;
    std::vector<int> m_boundary;          // sides of kept faces at removed ones
    std::unordered_set<int> m_isBoundary;
    std::unordered_set<int> m_done;
    std::vector<int> m_whole;             // loops of nothing but the wound, by one side
    std::vector<Slot> m_alone;            // faces that go all round it, with their seam
    Bnd_Box m_reach;

    tl::unexpected<Problem> stopped(std::string what, std::string remedy, const std::vector<Slot>& slots = {}) const {
        Place place;
        for (const Slot& slot : slots) place.faces.push_back(m_body.face(slot.face).number);
        if (!m_reach.IsVoid()) {
            const gp_Pnt low = m_reach.CornerMin(), high = m_reach.CornerMax();
            place.point = gp_Pnt(0.5 * (low.XYZ() + high.XYZ()));
        }
        return fail(ProblemKind::NotPossible, std::move(what), std::move(remedy), std::move(place));
    }

    Handle(Geom_Surface) surfaceOf(int face) const { return m_body.surfaceOf(face); }

    Result<void> findBoundary() {
        for (const int f : m_removed) {
            if (m_body.face(f).disordered || m_body.face(f).gone)
                return stopped("A wall has loops that do not close, so what lies round it is unknown.", "Mend the part first.");
            for (const int h : m_body.halvesOf(f)) {
                if (m_body.half(h).dead || m_body.edge(m_body.half(h).edge).degenerated) continue;
                const int other = m_body.twin(h);
                const SurgeryEdge& edge = m_body.edge(m_body.half(h).edge);
                for (const double t : {edge.first, 0.5 * (edge.first + edge.last), edge.last}) m_reach.Add(edge.curve->Value(t));
                if (other < 0)
                    return stopped("At one of its edges the body is open, or more than two faces meet.", "Mend the part first.");
                if (m_removed.contains(m_body.half(other).face)) continue;
                if (m_body.face(m_body.half(other).face).disordered)
                    return stopped("A face beside it has loops that do not close.", "Mend the part first.");
                m_boundary.push_back(other);
                m_isBoundary.insert(other);
            }
        }
        return {};
    }

    Result<void> closeWound(int seed) {
        // A loop made of nothing but the wound?
        int in = m_body.half(seed).prev;
        for (std::size_t steps = 0; in != seed && m_isBoundary.contains(in); in = m_body.half(in).prev)
            if (++steps > m_isBoundary.size()) return stopped("The edges round it do not form a loop.", "Mend the part first.");
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
                if (++steps > m_isBoundary.size()) return stopped("The edges round it do not form a loop.", "Mend the part first.", slots);
                m_done.insert(slot.out);
                slot.out = m_body.half(slot.out).next;
            }
            slots.push_back(slot);
            in = m_body.edge(m_body.half(slot.out).edge).degenerated ? -1 : m_body.twin(slot.out);
            if (in < 0) return stopped("An edge that ends at it is open, or ends in a pole.", "Mend the part first.", slots);
            if (m_removed.contains(m_body.half(in).face))
                return stopped("The faces round it touch each other in a single point.", "Remove its neighbours together with it.", slots);
            if (in == first) return closeSlots(std::move(slots));
        }
        return stopped("The faces round it do not form a ring.", "Mend the part first.", slots);
    }

    Result<void> dropLoop(int seed) {
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
            return stopped("A face beside it would lose its outer boundary.", "Remove that face together with it.", {{f, seed, seed}});
        m_body.changeFace(f).changed = true;
        return {};
    }

    Result<void> closeSlots(std::vector<Slot> slots) {
        for (const Slot& slot : slots) m_reshaped.insert(m_body.face(slot.face).number);
        if (slots.size() == 1) return leaveAlone(slots.front());
        // Interrupted edges first: wherever two neighbours of a neighbour are pieces of one face and the edge runs on, join it; or, should that
        // close badly, not.
        bool joined = false;
        for (std::size_t i = 0; i < slots.size() && !joined; ++i) joined = joinable(slots, i) && !leavesNothingToMeet(slots, i);
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
        // Round a wide wound it is likelier that two pieces of one face meet again than that all faces meet in corners.
        const bool wide = slots.size() >= 6;
        if ((m_choices.next(2) == 0) == wide) return partBetween(slots, pairs);
        auto closed = closePolygon(slots);
        return closed || m_failed ? closed : partBetween(slots, pairs);
    }

    using SlotPair = std::pair<std::size_t, std::size_t>;

    /// Neighbours, not beside each other, that are pieces of one surface; flats first, and the pair that parts the wound most evenly.
    std::vector<SlotPair> piecesOfOne(const std::vector<Slot>& slots) const {
        const std::size_t k = slots.size();
        std::vector<SlotPair> pairs;
        for (std::size_t i = 0; i + 2 < k; ++i)
            for (std::size_t j = i + 2; j < k - (i == 0 ? 1 : 0); ++j)
                if (sameSurface(m_body.face(slots[i].face).shape, m_body.face(slots[j].face).shape, m_tolerance)) pairs.emplace_back(i, j);
        const auto smaller = [k](const SlotPair& pair) { return std::min(pair.second - pair.first, k - (pair.second - pair.first)); };
        const auto flat = [&](const SlotPair& pair) { return surfaceKind(m_body.face(slots[pair.first].face).shape) == SurfaceKind::Plane; };
        std::stable_sort(pairs.begin(), pairs.end(), [&](const SlotPair& a, const SlotPair& b) { return std::pair(flat(a), smaller(a)) > std::pair(flat(b), smaller(b)); });
        return pairs;
    }

    /// Two pieces of one surface (the floor of a groove across the wound) become one face across it, and part the wound in two.
    Result<void> partBetween(const std::vector<Slot>& slots, const std::vector<SlotPair>& pairs) {
        const auto [i, j] = pairs[std::min(static_cast<std::size_t>(m_choices.next(pairs.size())), pairs.size() - 1)];
        const int kept = slots[i].face, other = slots[j].face;
        if (kept != other && !m_body.merge(kept, other, 10.0 * m_tolerance)) return stopped("Two pieces of one surface beside it cannot become one.", "Mend the part first.", slots);
        touch({slots[i]});
        std::vector<Slot> one(slots.begin() + static_cast<std::ptrdiff_t>(i), slots.begin() + static_cast<std::ptrdiff_t>(j));
        std::vector<Slot> rest(slots.begin() + static_cast<std::ptrdiff_t>(j), slots.end());
        rest.insert(rest.end(), slots.begin(), slots.begin() + static_cast<std::ptrdiff_t>(i));
        one.front() = {kept, slots[j].in, slots[i].out};
        rest.front() = {kept, slots[i].in, slots[j].out};
        for (std::vector<Slot>* half : {&one, &rest}) {
            for (Slot& slot : *half)
                if (slot.face == other) slot.face = kept;
            if (auto closed = closeSlots(std::move(*half)); !closed) return closed;
        }
        return Result<void>();
    }

    // --- rings: a groove round a shaft, all round a neck -----------------------------------------------------------------

    /// One face all round, with its seam. What it closes with may lie at another of the wound's rings.
    Result<void> leaveAlone(const Slot& slot) {
        m_alone.push_back(slot);
        return {};
    }

    Result<void> closeRings() {
        for (std::size_t i = 0; i < m_alone.size(); ++i)
            for (std::size_t j = i + 1; j < m_alone.size(); ++j)
                if (joinRings(m_alone[i], m_alone[j])) {
                    m_alone.erase(m_alone.begin() + static_cast<std::ptrdiff_t>(j));
                    m_alone.erase(m_alone.begin() + static_cast<std::ptrdiff_t>(i--));
                    break;
                }
        if (m_failed) return stopped("An edge that it interrupts does not fit both its faces once joined.", "Mend the part first.", m_alone);
        if (m_alone.size() == 1 && m_whole.size() == 1 && meetInRing(m_alone.front(), m_whole.front())) {
            if (m_failed) return stopped("The faces round it meet in a ring that does not fit them.", "Remove what lies beside it first.", m_alone);
            return {};
        }
        for (std::size_t i = 0; i < m_alone.size(); ++i)
            for (std::size_t j = i + 1; j < m_alone.size(); ++j) {
                if (!meetRound(m_alone[i], m_alone[j])) continue;
                m_alone.erase(m_alone.begin() + static_cast<std::ptrdiff_t>(j));
                m_alone.erase(m_alone.begin() + static_cast<std::ptrdiff_t>(i--));
                break;
            }
        if (m_failed) return stopped("The faces round it meet in a ring that does not fit them.", "Remove what lies beside it first.", m_alone);
        for (const int seed : m_whole)
            if (auto dropped = dropLoop(seed); !dropped) return dropped;
        for (const Slot& slot : m_alone)
            if (auto closed = closeAtPole(slot); !closed) return closed;
        return {};
    }

    /// Two faces of one surface whose seams continue each other become one face.
    bool joinRings(const Slot& a, const Slot& b) {
        if (a.face == b.face || m_body.half(a.in).edge != m_body.half(a.out).edge || m_body.half(b.in).edge != m_body.half(b.out).edge) return false;
        if (!sameSurface(m_body.face(a.face).shape, m_body.face(b.face).shape, m_tolerance)) return false;
        const auto joined = joinedCurve(a.in, b.out);
        if (!joined) return false;
        std::vector<Slot> none;
        if (!weld(a.in, b.out, a.out, b.in, *joined, none) || !m_body.merge(a.face, b.face, 10.0 * m_tolerance)) return m_failed = true;
        touch({a});
        return true;
    }

    /// A face whose seam runs on to another face, which has lost a whole loop: they meet in a ring. False where they do not.
    bool meetInRing(const Slot& slot, int seed) {
        const int e = m_body.half(slot.in).edge, other = m_body.half(seed).face;
        const SurgeryEdge seam = m_body.edge(e);
        if (m_body.half(slot.out).edge != e || slot.face == other || seam.curve.IsNull() || !runsOn(seam.curve)) return false;
        const bool ahead = m_body.half(slot.in).alongEdge;
        const gp_Pnt end = seam.curve->Value(ahead ? seam.last : seam.first);
        const auto point = meetingPoint(seam.curve, surfaceOf(other), end, 10.0 * m_tolerance, m_tolerance);
        if (!point || !near(*point)) return false;
        const auto stop = carriedTo(seam, ahead, *point, 2.0 * m_tolerance);
        if (!stop) return false;
        // Round the way its old rim ran.
        const int rim = m_body.half(slot.in).next;
        const SurgeryEdge old = m_body.edge(m_body.half(rim).edge);
        gp_Pnt at;
        gp_Vec along;
        old.curve->D1(m_body.half(rim).alongEdge ? old.first : old.last, at, along);
        if (!m_body.half(rim).alongEdge) along.Reverse();
        auto ring = meetingRing(surfaceOf(slot.face), surfaceOf(other), *point, along, m_tolerance);
        if (!ring) ring = meetingAlong(surfaceOf(slot.face), surfaceOf(other), *point, along, *point, m_tolerance);
        if (!ring || !within(*ring)) return false;
        const int vertex = m_body.addVertex(*point, 2.0 * m_tolerance);
        (ahead ? m_body.changeEdge(e).end : m_body.changeEdge(e).start) = vertex;
        const int side = m_body.addEdge(ring->curve, ring->first, ring->last, vertex, vertex, 2.0 * m_tolerance, slot.face, other);
        m_body.link(slot.in, side);
        m_body.link(side, slot.out);
        m_body.link(side + 1, side + 1);
        touch({slot, {other, seed, seed}});
        m_reshaped.insert(m_body.face(other).number);
        if (!m_body.reshape(e, seam.curve, ahead ? seam.first : *stop, ahead ? *stop : seam.last, 10.0 * m_tolerance)) return m_failed = true;
        if (!m_body.reshape(m_body.half(side).edge, ring->curve, ring->first, ring->last, 10.0 * m_tolerance)) return m_failed = true;
        return true;
    }

    /// Two faces whose seams both run on to the other (a groove between a shank and a ball): they meet in a ring, from seam to seam.
    bool meetRound(const Slot& a, const Slot& b) {
        const SurgeryEdge seamA = m_body.edge(m_body.half(a.in).edge), seamB = m_body.edge(m_body.half(b.in).edge);
        if (m_body.half(a.out).edge != m_body.half(a.in).edge || m_body.half(b.out).edge != m_body.half(b.in).edge || a.face == b.face) return false;
        if (!runsOn(seamA.curve) || !runsOn(seamB.curve)) return false;
        const bool aheadA = m_body.half(a.in).alongEdge, aheadB = m_body.half(b.in).alongEdge;
        struct Way {
            gp_Pnt atA, atB;
            double stopA = 0.0, stopB = 0.0, onRing = 0.0;
            CurvePiece ring;
        };
        const int rim = m_body.half(a.in).next;
        const SurgeryEdge old = m_body.edge(m_body.half(rim).edge);
        gp_Pnt at;
        gp_Vec along;
        old.curve->D1(m_body.half(rim).alongEdge ? old.first : old.last, at, along);
        if (!m_body.half(rim).alongEdge) along.Reverse();
        std::vector<Way> ways;
        for (const gp_Pnt& point : meetingPoints(seamA.curve, surfaceOf(b.face), m_body.vertex(m_body.endOf(a.in)).point)) {
            const auto stopA = near(point) ? carriedTo(seamA, aheadA, point, 2.0 * m_tolerance) : std::nullopt;
            if (!stopA) continue;
            Way way{point, point, *stopA, 0.0, 0.0, {}};
            auto ring = meetingRing(surfaceOf(a.face), surfaceOf(b.face), point, along, m_tolerance);
            if (!ring) ring = meetingAlong(surfaceOf(a.face), surfaceOf(b.face), point, along, point, m_tolerance);
            if (!ring || !within(*ring)) continue;
            way.ring = *ring;
            const auto others = meetingPoints(seamB.curve, surfaceOf(a.face), m_body.vertex(m_body.endOf(b.in)).point);
            const bool both = std::any_of(others.begin(), others.end(), [&](const gp_Pnt& other) {
                const auto on = parameterAt(ring->curve, other, 2.0 * m_tolerance);
                const auto stopB = on ? carriedTo(seamB, aheadB, other, 2.0 * m_tolerance) : std::nullopt;
                if (!stopB) return false;
                way.atB = other;
                way.stopB = *stopB;
                way.onRing = *on;
                if (ring->curve->IsPeriodic())
                    while (way.onRing < ring->first) way.onRing += ring->curve->Period();
                return true;
            });
            if (both) ways.push_back(way);
        }
        const int wanted = ways.empty() ? -1 : m_choices.next(ways.size());
        if (wanted < 0 || wanted >= static_cast<int>(ways.size())) return false;
        const Way& way = ways[static_cast<std::size_t>(wanted)];
        const int vertexA = m_body.addVertex(way.atA, 2.0 * m_tolerance);
        const bool oneVertex = way.atA.Distance(way.atB) <= 2.0 * m_tolerance;
        const int vertexB = oneVertex ? vertexA : m_body.addVertex(way.atB, 2.0 * m_tolerance);
        const auto end = [&](const Slot& slot, bool ahead, int vertex, double stop) {
            const int e = m_body.half(slot.in).edge;
            SurgeryEdge& seam = m_body.changeEdge(e);
            (ahead ? seam.end : seam.start) = vertex;
            const SurgeryEdge now = seam;
            return m_body.reshape(e, now.curve, ahead ? now.first : stop, ahead ? stop : now.last, 10.0 * m_tolerance).has_value();
        };
        touch({a, b});
        const auto arc = [&](double first, double last, int from, int to) {
            const int side = m_body.addEdge(way.ring.curve, first, last, from, to, 2.0 * m_tolerance, a.face, b.face);
            m_failed = !m_body.reshape(m_body.half(side).edge, way.ring.curve, first, last, 10.0 * m_tolerance) || m_failed;
            return side;
        };
        if (oneVertex) {
            const int side = arc(way.ring.first, way.ring.last, vertexA, vertexA);
            m_body.link(a.in, side);
            m_body.link(side, a.out);
            m_body.link(b.in, side + 1);
            m_body.link(side + 1, b.out);
        } else {
            const int there = arc(way.ring.first, way.onRing, vertexA, vertexB), back = arc(way.onRing, way.ring.last, vertexB, vertexA);
            m_body.link(a.in, there);
            m_body.link(there, back);
            m_body.link(back, a.out);
            m_body.link(b.in, there + 1);   // back to the seam of a, and on from there
            m_body.link(there + 1, back + 1);
            m_body.link(back + 1, b.out);
        }
        m_failed = !end(a, aheadA, vertexA, way.stopA) || !end(b, aheadB, vertexB, way.stopB) || m_failed;
        return true;
    }

    // --- joining -------------------------------------------------------------------------------------------------------

    struct Joined {
        Handle(Geom_Curve) curve;
        double first = 0.0, last = 0.0;
    };

    /// The curve of `in` carried on over the wound and along the whole of `out`.
    std::optional<Joined> joinedCurve(int in, int out) const {
        const SurgeryEdge& e1 = m_body.edge(m_body.half(in).edge);
        const SurgeryEdge& e2 = m_body.edge(m_body.half(out).edge);
        if (e1.curve.IsNull() || e2.curve.IsNull() || !runsOn(e1.curve)) return std::nullopt;
        const bool ahead = m_body.half(in).alongEdge;
        const double sign = ahead ? 1.0 : -1.0;
        if (in == out) {
            if (!e1.curve->IsPeriodic()) return std::nullopt;
            const double period = e1.curve->Period();
            return ahead ? Joined{e1.curve, e1.first, e1.first + period} : Joined{e1.curve, e1.last - period, e1.last};
        }
        const bool along2 = m_body.half(out).alongEdge;
        const double near = along2 ? e2.first : e2.last, far = along2 ? e2.last : e2.first;
        const double reach = std::max({m_tolerance, e1.tolerance, e2.tolerance});
        const auto pNear = parameterAt(e1.curve, e2.curve->Value(near), reach);
        const auto pMiddle = parameterAt(e1.curve, e2.curve->Value(0.5 * (near + far)), reach);
        const auto pFar = parameterAt(e1.curve, e2.curve->Value(far), reach);
        if (!pNear || !pMiddle || !pFar) return std::nullopt;
        const double end = ahead ? e1.last : e1.first;
        double gap = sign * (*pNear - end), half = sign * (*pMiddle - *pNear), rest = sign * (*pFar - *pMiddle);
        if (e1.curve->IsPeriodic()) {
            const double period = e1.curve->Period();
            const auto wrap = [period](double value) { return value - period * std::floor(value / period); };
            gap = wrap(gap);
            half = wrap(half);
            rest = wrap(rest);
            if (std::abs(e1.last - e1.first) + gap + half + rest > period * (1.0 + 1e-9)) return std::nullopt;
        }
        if (gap < -1e-9 * std::max(1.0, std::abs(end)) || half <= 0.0 || rest <= 0.0) return std::nullopt;
        const double stop = end + sign * (gap + half + rest);
        return ahead ? Joined{e1.curve, e1.first, stop} : Joined{e1.curve, stop, e1.last};
    }

    /// The edge of `in` goes on as that of `out`, which is no more; `sideBefore` and `sideAfter` are their other sides.
    bool weld(int in, int out, int sideBefore, int sideAfter, const Joined& joined, std::vector<Slot>& slots) {
        const int e1 = m_body.half(in).edge, e2 = m_body.half(out).edge;
        const int farVertex = m_body.endOf(out);
        const double tolerance = std::max(m_body.edge(e1).tolerance, m_body.edge(e2).tolerance);
        const bool ahead = m_body.half(in).alongEdge;
        const int afterOut = m_body.half(out).next, beforeSide = m_body.half(sideAfter).prev;
        const bool closes = afterOut == in;
        const bool otherCloses = beforeSide == sideBefore;
        m_body.kill(out);
        m_body.kill(sideAfter);
        m_body.changeEdge(e2).dead = true;
        SurgeryEdge& edge = m_body.changeEdge(e1);
        edge.tolerance = tolerance;
        (ahead ? edge.end : edge.start) = farVertex;
        m_body.link(in, closes ? in : afterOut);
        m_body.link(otherCloses ? sideBefore : beforeSide, sideBefore);
        // An edge with both ends in the wound serves two slots: its other end is now the joined edge's.
        for (Slot& other : slots) {
            if (other.in == out) other.in = in;
            if (other.out == sideAfter) other.out = sideBefore;
        }
        return m_body.reshape(e1, joined.curve, joined.first, joined.last, std::max(10.0 * m_tolerance, 2.0 * tolerance)).has_value();
    }

    /// The edge into the wound at slots[i] carried on to where it leaves again, if its neighbours on both sides are one surface there.
    std::optional<Joined> joinable(const std::vector<Slot>& slots, std::size_t i) const {
        const Slot& slot = slots[i];
        if (slot.in < 0) return std::nullopt;
        const int before = slots[(i + slots.size() - 1) % slots.size()].face, after = slots[(i + 1) % slots.size()].face;
        if (!sameSurface(m_body.face(before).shape, m_body.face(after).shape, m_tolerance)) return std::nullopt;
        return joinedCurve(slot.in, slot.out);
    }

    /// Of four neighbours, joining at slots[i] leaves two: the one across and the pieces made one. Where these do not meet across the wound (a groove's
    /// edge that passes a recess in its wall) the edge must not be joined.
    bool leavesNothingToMeet(const std::vector<Slot>& slots, std::size_t i) const {
        if (slots.size() != 4 || joinable(slots, (i + 2) % 4)) return false;
        const Slot& across = slots[(i + 2) % 4];
        const SurgeryVertex &from = m_body.vertex(m_body.endOf(across.in)), &to = m_body.vertex(m_body.startOf(across.out));
        if (from.point.Distance(to.point) <= m_tolerance) return false;
        const auto piece = meetingCurve(surfaceOf(slots[(i + 1) % 4].face), surfaceOf(across.face), from.point, to.point, std::max(m_tolerance, from.tolerance));
        return !piece || !within(*piece);
    }

    /// Joins the two edges of slots[i], and with them its neighbours on both sides.
    bool tryJoin(std::vector<Slot>& slots, std::size_t i) {
        const auto joined = joinable(slots, i);
        if (!joined) return false;
        const std::size_t k = slots.size();
        const std::size_t before = (i + k - 1) % k, after = (i + 1) % k;
        const int faceBefore = slots[before].face, faceAfter = slots[after].face;
        const int sideBefore = slots[before].out, sideAfter = slots[after].in;  // the other sides of the two edges
        const int in = slots[i].in, out = slots[i].out;
        const int e1 = m_body.half(in).edge;
        if (in != out) {
            if (!weld(in, out, sideBefore, sideAfter, *joined, slots)) return m_failed = true, false;
        } else {
            const int vertex = m_body.half(in).alongEdge ? m_body.edge(e1).start : m_body.edge(e1).end;
            SurgeryEdge& edge = m_body.changeEdge(e1);
            edge.start = edge.end = vertex;
            m_body.link(in, in);
            m_body.link(sideBefore, sideBefore);
            if (!m_body.reshape(e1, joined->curve, joined->first, joined->last, 10.0 * m_tolerance)) return m_failed = true, false;
        }
        if (faceBefore != faceAfter && !m_body.merge(faceBefore, faceAfter, 10.0 * m_tolerance)) return m_failed = true, false;
        for (Slot& other : slots)
            if (other.face == faceAfter) other.face = faceBefore;
        if (k == 2) {
            slots.clear();
            return true;
        }
        slots[before].out = slots[after].out;
        const auto erase = [&slots](std::size_t at) { slots.erase(slots.begin() + static_cast<std::ptrdiff_t>(at)); };
        erase(std::max(i, after));
        erase(std::min(i, after));
        return true;
    }
    bool m_failed = false;

    // --- two neighbours whose edge is not an exact curve ----------------------------------------------------------------

    Result<void> bridgeTwo(const std::vector<Slot>& slots) {
        if (m_failed) return stopped("An edge that it interrupts does not fit both its faces once joined.", "Mend the part first.", slots);
        if (slots[0].face == slots[1].face)
            return stopped("It cuts through a face that has no way to close behind it.",
                           "Remove what it opens into together with it.", slots);
        const int from = m_body.endOf(slots[0].in), to = m_body.startOf(slots[0].out);
        if (from == to) {
            m_body.link(slots[0].in, slots[0].out);
            m_body.link(slots[1].in, slots[1].out);
            touch(slots);
            return {};
        }
        const auto piece = meetingCurve(surfaceOf(slots[0].face), surfaceOf(slots[1].face), m_body.vertex(from).point,
                                        m_body.vertex(to).point, std::max(m_tolerance, m_body.vertex(from).tolerance));
        if (!piece || !within(*piece))
            return stopped("The two faces round it do not meet across it.", "Remove a round or chamfer beside it first.", slots);
        const int bridge = m_body.addEdge(piece->curve, piece->first, piece->last, from, to, 2.0 * m_tolerance, slots[0].face,
                                          slots[1].face);
        if (auto shaped = m_body.reshape(m_body.half(bridge).edge, piece->curve, piece->first, piece->last, 10.0 * m_tolerance); !shaped)
            return stopped(shaped.error().what, "Mend the part first.", slots);
        m_body.link(slots[0].in, bridge);
        m_body.link(bridge, slots[0].out);
        m_body.link(slots[1].in, bridge + 1);
        m_body.link(bridge + 1, slots[1].out);
        return {};
    }

    void touch(const std::vector<Slot>& slots) {
        for (const Slot& slot : slots) {
            SurgeryFace& face = m_body.changeFace(slot.face);
            face.changed = face.reshaped = true;
        }
    }

    [[nodiscard]] bool near(const gp_Pnt& point) const {
        Bnd_Box reach = m_reach;
        const gp_Pnt low = reach.CornerMin(), high = reach.CornerMax();
        reach.Enlarge(low.Distance(high));
        return !reach.IsOut(point);
    }
    [[nodiscard]] bool within(const CurvePiece& piece) const {
        for (int i = 1; i < 8; ++i)
            if (!near(piece.curve->Value(piece.first + (piece.last - piece.first) * i / 8))) return false;
        return true;
    }

    // --- a single seam: on to the pole ----------------------------------------------------------------------------------

    Result<void> closeAtPole(const Slot& slot) {
        const auto refuse = [&] {
            return stopped("The face round it has nothing to close with.", "Remove what it opens into together with it.", {slot});
        };
        const int e = m_body.half(slot.in).edge;
        if (m_body.half(slot.out).edge != e) return refuse();
        const Handle(Geom_Surface) surface = surfaceOf(slot.face);
        const GeomAdaptor_Surface adaptor(surface);
        std::vector<std::pair<gp_Pnt, double>> poles;  // with the parameter v
        if (adaptor.GetType() == GeomAbs_Sphere) {
            for (const double v : {-M_PI_2, M_PI_2}) poles.emplace_back(surface->Value(0.0, v), v);
        } else if (adaptor.GetType() == GeomAbs_Cone) {
            const gp_Cone cone = adaptor.Cone();
            poles.emplace_back(cone.Apex(), -cone.RefRadius() / std::sin(cone.SemiAngle()));
        } else {
            return refuse();
        }
        const SurgeryEdge before = m_body.edge(e);
        const bool ahead = m_body.half(slot.in).alongEdge;
        const gp_Pnt end = before.curve->Value(ahead ? before.last : before.first);
        std::sort(poles.begin(), poles.end(), [&end](const auto& a, const auto& b) { return end.Distance(a.first) < end.Distance(b.first); });
        const auto& [pole, level] = poles.front();
        if (!near(pole)) return refuse();
        const auto stop = runsOn(before.curve) ? carriedTo(before, ahead, pole, 2.0 * m_tolerance) : std::nullopt;
        if (!stop) return refuse();
        const Handle(Geom2d_Curve) traceIn = m_body.traceOf(slot.in), traceOut = m_body.traceOf(slot.out);
        if (traceIn.IsNull() || traceOut.IsNull()) return refuse();
        const int vertex = m_body.addVertex(pole, 2.0 * m_tolerance);
        SurgeryEdge& edge = m_body.changeEdge(e);
        (ahead ? edge.end : edge.start) = vertex;
        // The seam's own traces are straight lines that simply run on; at the pole itself they cannot be computed from points.
        if (!traceIn->IsKind(STANDARD_TYPE(Geom2d_Line)) || !traceOut->IsKind(STANDARD_TYPE(Geom2d_Line))) return refuse();
        m_body.changeHalf(slot.in).trace = traceIn;
        m_body.changeHalf(slot.out).trace = traceOut;
        edge.changed = true;
        (ahead ? edge.last : edge.first) = *stop;
        const double uIn = traceIn->Value(*stop).X(), uOut = traceOut->Value(*stop).X();
        if (std::abs(traceIn->Value(*stop).Y() - level) > 1e-6 * std::max(1.0, std::abs(level))) return refuse();
        const double width = uOut - uIn;
        if (std::abs(width) < 1.0) return refuse();
        // The pole's edge runs from u_in to u_out; on a reversed face the side runs against the edge all the same.
        const Handle(Geom2d_Line) trace = new Geom2d_Line(gp_Pnt2d(uIn, level), gp_Dir2d(width > 0 ? 1.0 : -1.0, 0.0));
        const int side = m_body.addPoleEdge(trace, 0.0, std::abs(width), vertex, slot.face);
        m_body.link(slot.in, side);
        m_body.link(side, slot.out);
        SurgeryFace& face = m_body.changeFace(slot.face);
        face.changed = face.reshaped = true;
        return {};
    }

    // --- three and more neighbours --------------------------------------------------------------------------------------

    Result<void> closePolygon(std::vector<Slot> slots) {
        if (m_failed) return stopped("An edge that it interrupts does not fit both its faces once joined.", "Mend the part first.", slots);
        const int k = static_cast<int>(slots.size());
        constexpr int mostListed = 9, most = 48;   // 429 ways to cut a nonagon; of wider ones the cheapest few are sought
        if (k > most)
            return stopped(fmt::format("{} different faces surround it, too many to grow together.", k),
                           "Remove the features beside it first.", slots);
        const gp_Pnt centre(0.5 * (m_reach.CornerMin().XYZ() + m_reach.CornerMax().XYZ()));
        std::map<Triangle, std::optional<gp_Pnt>> corners;
        const auto corner = [&](const Triangle& t) -> const std::optional<gp_Pnt>& {
            auto it = corners.find(t);
            if (it == corners.end()) {
                std::optional<gp_Pnt> point = alreadyThere(slots, t);
                // From the ends of the edges that lead there, since curved faces meet in several points; else from the middle.
                std::vector<gp_Pnt> starts;
                for (const auto& [from, to] : {std::pair{t[0], t[1]}, {t[1], t[2]}, {t[2], t[0]}})
                    if ((from + 1) % k == to) starts.push_back(m_body.vertex(m_body.startOf(slots[from].out)).point);
                starts.push_back(centre);
                for (std::size_t s = 0; s < starts.size() && !point; ++s) {
                    point = meetingPoint(surfaceOf(slots[t[0]].face), surfaceOf(slots[t[1]].face), surfaceOf(slots[t[2]].face), starts[s], m_tolerance);
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
        return stopped("The faces around it never meet.", "Remove a round, chamfer or hole beside it first, or together with it.", slots);
    }

    /// The wound touches a neighbour in a single point: there it meets those before and after it, and needs no other corner.
    std::optional<gp_Pnt> alreadyThere(const std::vector<Slot>& slots, const Triangle& t) const {
        const int k = static_cast<int>(slots.size());
        for (const auto& [before, at, after] : {std::array<int, 3>{t[0], t[1], t[2]}, {t[1], t[2], t[0]}, {t[2], t[0], t[1]}})
            if ((before + 1) % k == at && (at + 1) % k == after && m_body.endOf(slots[at].in) == m_body.startOf(slots[at].out)) return m_body.vertex(m_body.endOf(slots[at].in)).point;
        return std::nullopt;
    }

    /// Two neighbours that are tangent to each other do not say where they meet a third: the edge between them, carried on to it, does.
    std::optional<gp_Pnt> alongSpoke(const std::vector<Slot>& slots, const Triangle& t) const {
        const int k = static_cast<int>(slots.size());
        for (const auto& [i, j, third] : {std::array<int, 3>{t[0], t[1], t[2]}, {t[1], t[2], t[0]}, {t[2], t[0], t[1]}}) {
            if ((i + 1) % k != j && (j + 1) % k != i) continue;
            const int from = (i + 1) % k == j ? i : j;
            const SurgeryEdge& edge = m_body.edge(m_body.half(slots[from].out).edge);
            if (edge.curve.IsNull() || !runsOn(edge.curve)) continue;
            const gp_Pnt end = m_body.vertex(m_body.startOf(slots[from].out)).point;
            const auto point = meetingPoint(edge.curve, surfaceOf(slots[third].face), end, 10.0 * m_tolerance + edge.tolerance, m_tolerance);
            if (point && near(*point)) return point;
        }
        return std::nullopt;
    }

    struct Plan {
        std::vector<gp_Pnt> corners;                        // by triangle
        std::vector<int> cornerOfSide;                      // spoke i (slot i to i+1): its triangle
        std::vector<std::optional<double>> spokeEnd;        // exact extension, else a bridge
        std::vector<std::optional<CurvePiece>> spokeBridge;
        struct Diagonal {
            int i, j, from, to;                             // slots, triangles
            CurvePiece piece;
        };
        std::vector<Diagonal> diagonals;
    };

    std::optional<Plan> planned(const std::vector<Slot>& slots, const std::vector<Triangle>& way,
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
            plan.spokeEnd[i] = runsOn(edge.curve) ? carriedTo(edge, !m_body.half(slots[i].out).alongEdge, target, 2.0 * m_tolerance) : std::nullopt;
            if (plan.spokeEnd[i]) continue;
            const int vertex = m_body.startOf(slots[i].out);
            if (m_body.vertex(vertex).point.Distance(target) <= m_tolerance) continue;
            if (sameSurface(m_body.face(slots[i].face).shape, m_body.face(slots[next].face).shape, m_tolerance)) return std::nullopt;
            plan.spokeBridge[i] = meetingCurve(surfaceOf(slots[i].face), surfaceOf(slots[next].face), m_body.vertex(vertex).point,
                                               target, std::max(m_tolerance, m_body.vertex(vertex).tolerance));
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

    Result<void> apply(std::vector<Slot> slots, const std::vector<Triangle>& way, const Plan& plan) {
        const int k = static_cast<int>(slots.size());
        std::vector<int> vertices(plan.corners.size(), -1);
        for (int i = 0; i < k; ++i)   // where an old edge ends at the corner already, its vertex is the corner's
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
                if (auto shaped = m_body.reshape(e, now.curve, along ? *plan.spokeEnd[i] : now.first, along ? now.last : *plan.spokeEnd[i],
                                                 10.0 * m_tolerance);
                    !shaped)
                    return stopped(shaped.error().what, "Mend the part first.", slots);
            } else if (plan.spokeBridge[i]) {
                const CurvePiece& piece = *plan.spokeBridge[i];
                // The bridge runs from the old end to the corner: with the side of slot i+1, against that of slot i.
                const int bridge = m_body.addEdge(piece.curve, piece.first, piece.last, m_body.startOf(out), vertex, 2.0 * m_tolerance,
                                                  slots[next].face, slots[i].face);
                if (auto shaped = m_body.reshape(m_body.half(bridge).edge, piece.curve, piece.first, piece.last, 10.0 * m_tolerance);
                    !shaped)
                    return stopped(shaped.error().what, "Mend the part first.", slots);
                m_body.link(in, bridge);
                m_body.link(bridge + 1, out);
                slots[next].in = bridge;
                slots[i].out = bridge + 1;
            } else if (m_body.startOf(out) != vertex) {
                return stopped("The faces around it meet in a point they already share.", "Remove the features beside it first.", slots);
            }
        }
        // Between arriving and leaving, each neighbour runs along its diagonals, in order round the wound.
        std::vector<std::vector<std::pair<int, int>>> fan(slots.size());  // (distance round, side)
        for (const Plan::Diagonal& diagonal : plan.diagonals) {
            // On slot i the run goes from the triangle nearer slot i-1 to the one nearer slot i+1.
            const int third = thirdCorner(way[diagonal.from], diagonal.i, diagonal.j);
            const bool fromIsAfterI = between(diagonal.i, third, diagonal.j, k);  // that triangle lies on the i+1 side of the diagonal
            const int faceAlong = fromIsAfterI ? slots[diagonal.j].face : slots[diagonal.i].face;
            const int faceAgainst = fromIsAfterI ? slots[diagonal.i].face : slots[diagonal.j].face;
            const CurvePiece& piece = diagonal.piece;
            const int side = m_body.addEdge(piece.curve, piece.first, piece.last, vertices[diagonal.from], vertices[diagonal.to],
                                            2.0 * m_tolerance, faceAlong, faceAgainst);
            if (auto shaped = m_body.reshape(m_body.half(side).edge, piece.curve, piece.first, piece.last, 10.0 * m_tolerance); !shaped)
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

    static int thirdCorner(const Triangle& t, int i, int j) {
        for (const int corner : t)
            if (corner != i && corner != j) return corner;
        return -1;
    }
    /// Going round from i upwards, `middle` comes before j.
    static bool between(int i, int middle, int j, int k) { return (middle - i + k) % k < (j - i + k) % k; }
};

}  // namespace

Result<std::set<int>> removeAndHeal(HalfEdgeBody& body, const std::vector<int>& faces, double tolerance, const Judge& judge) {
    return firstAccepted(body, judge, [&](Choices& choices) -> Result<std::set<int>> {
        body.begin();
        Healer healer(body, faces, choices, tolerance);
        auto healed = healer.run();
        if (!healed) return tl::unexpected(healed.error());
        return healer.reshaped();
    });
}

Result<std::set<int>> healOpening(HalfEdgeBody& body, const std::vector<int>& edges, const std::vector<int>& faces, double tolerance, const Judge& judge) {
    return firstAccepted(body, judge, [&](Choices& choices) -> Result<std::set<int>> {
        body.begin();
        Healer healer(body, {}, choices, tolerance);
        if (auto opened = healer.openAlong(edges, faces); !opened) return tl::unexpected(opened.error());
        auto healed = healer.run();
        if (!healed) return tl::unexpected(healed.error());
        return healer.reshaped();
    });
}

}  // namespace rasoir::heal
