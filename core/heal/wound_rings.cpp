#include <Geom2d_Line.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <gp_Cone.hxx>
#include <gp_Sphere.hxx>

#include "geometry/curves.h"
#include "geometry/round_surface.h"
#include "heal/wound_healer.h"

namespace rasoir::heal {

Result<void> WoundHealer::leaveAlone(const Slot& slot) {
    m_alone.push_back(slot);
    return {};
}

Result<void> WoundHealer::closeRings() {
    for (std::size_t i = 0; i < m_alone.size(); ++i)
        for (std::size_t j = i + 1; j < m_alone.size(); ++j)
            if (joinRings(m_alone[i], m_alone[j])) {
                m_alone.erase(m_alone.begin() + static_cast<std::ptrdiff_t>(j));
                m_alone.erase(m_alone.begin() + static_cast<std::ptrdiff_t>(i--));
                break;
            }
    if (m_failed)
        return stopped("An edge that it interrupts does not fit both its faces once joined.", "Mend the part first.",
                       m_alone);
    if (m_alone.size() == 1 && m_whole.size() == 1 && meetInRing(m_alone.front(), m_whole.front())) {
        if (m_failed)
            return stopped("The faces round it meet in a ring that does not fit them.",
                           "Remove what lies beside it first.", m_alone);
        return {};
    }
    for (std::size_t i = 0; i < m_alone.size(); ++i)
        for (std::size_t j = i + 1; j < m_alone.size(); ++j) {
            if (!meetRound(m_alone[i], m_alone[j])) continue;
            m_alone.erase(m_alone.begin() + static_cast<std::ptrdiff_t>(j));
            m_alone.erase(m_alone.begin() + static_cast<std::ptrdiff_t>(i--));
            break;
        }
    if (m_failed)
        return stopped("The faces round it meet in a ring that does not fit them.", "Remove what lies beside it first.",
                       m_alone);
    for (const int seed : m_whole)
        if (auto dropped = dropLoop(seed); !dropped) return dropped;
    for (const Slot& slot : m_alone)
        if (auto closed = closeAtPole(slot); !closed) return closed;
    return {};
}

bool WoundHealer::joinRings(const Slot& a, const Slot& b) {
    if (a.face == b.face || m_body.half(a.in).edge != m_body.half(a.out).edge ||
        m_body.half(b.in).edge != m_body.half(b.out).edge)
        return false;
    if (!sameSurface(m_body.face(a.face).shape, m_body.face(b.face).shape, m_tolerance)) return false;
    const auto joined = joinedCurve(a.in, b.out);
    if (!joined) return false;
    std::vector<Slot> none;
    if (!weld(a.in, b.out, a.out, b.in, *joined, none) || !m_body.merge(a.face, b.face, 10.0 * m_tolerance))
        return m_failed = true;
    touch({a});
    return true;
}

std::optional<CurvePiece> WoundHealer::ringThrough(const Slot& slot, int other, const gp_Pnt& point) const {
    const int rim = m_body.half(slot.in).next;
    const SurgeryEdge& old = m_body.edge(m_body.half(rim).edge);
    gp_Pnt at;
    gp_Vec along;
    old.curve->D1(m_body.half(rim).alongEdge ? old.first : old.last, at, along);
    if (!m_body.half(rim).alongEdge) along.Reverse();
    auto ring = meetingRing(surfaceOf(slot.face), surfaceOf(other), point, along, m_tolerance);
    if (!ring) ring = meetingAlong(surfaceOf(slot.face), surfaceOf(other), point, along, point, m_tolerance);
    return ring && within(*ring) ? ring : std::nullopt;
}

bool WoundHealer::meetInRing(const Slot& slot, int seed) {
    const int e = m_body.half(slot.in).edge, other = m_body.half(seed).face;
    const SurgeryEdge seam = m_body.edge(e);
    if (m_body.half(slot.out).edge != e || slot.face == other || seam.curve.IsNull() || !runsOn(seam.curve))
        return false;
    const bool ahead = m_body.half(slot.in).alongEdge;
    const gp_Pnt end = seam.curve->Value(ahead ? seam.last : seam.first);
    const auto point = meetingPoint(seam.curve, surfaceOf(other), end, 10.0 * m_tolerance, m_tolerance);
    if (!point || !near(*point)) return false;
    const auto stop = carriedTo(seam, ahead, *point, 2.0 * m_tolerance);
    if (!stop) return false;
    const auto ring = ringThrough(slot, other, *point);
    if (!ring) return false;
    const int vertex = m_body.addVertex(*point, 2.0 * m_tolerance);
    (ahead ? m_body.changeEdge(e).end : m_body.changeEdge(e).start) = vertex;
    const int side =
        m_body.addEdge(ring->curve, ring->first, ring->last, vertex, vertex, 2.0 * m_tolerance, slot.face, other);
    m_body.link(slot.in, side);
    m_body.link(side, slot.out);
    m_body.link(side + 1, side + 1);
    touch({slot, {other, seed, seed}});
    m_reshaped.insert(m_body.face(other).number);
    if (!m_body.reshape(e, seam.curve, ahead ? seam.first : *stop, ahead ? *stop : seam.last, 10.0 * m_tolerance))
        return m_failed = true;
    if (!m_body.reshape(m_body.half(side).edge, ring->curve, ring->first, ring->last, 10.0 * m_tolerance))
        return m_failed = true;
    return true;
}

bool WoundHealer::meetRound(const Slot& a, const Slot& b) {
    const SurgeryEdge seamA = m_body.edge(m_body.half(a.in).edge), seamB = m_body.edge(m_body.half(b.in).edge);
    if (m_body.half(a.out).edge != m_body.half(a.in).edge || m_body.half(b.out).edge != m_body.half(b.in).edge ||
        a.face == b.face)
        return false;
    if (seamA.curve.IsNull() || seamB.curve.IsNull() || !runsOn(seamA.curve) || !runsOn(seamB.curve)) return false;
    const bool aheadA = m_body.half(a.in).alongEdge, aheadB = m_body.half(b.in).alongEdge;
    struct Way {
        gp_Pnt atA, atB;
        double stopA = 0.0, stopB = 0.0, onRing = 0.0;
        CurvePiece ring;
    };
    std::vector<Way> ways;
    for (const gp_Pnt& point : meetingPoints(seamA.curve, surfaceOf(b.face), m_body.vertex(m_body.endOf(a.in)).point)) {
        const auto stopA = near(point) ? carriedTo(seamA, aheadA, point, 2.0 * m_tolerance) : std::nullopt;
        if (!stopA) continue;
        Way way{point, point, *stopA, 0.0, 0.0, {}};
        const auto ring = ringThrough(a, b.face, point);
        if (!ring) continue;
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
        return m_body.reshape(e, now.curve, ahead ? now.first : stop, ahead ? stop : now.last, 10.0 * m_tolerance)
            .has_value();
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
        const int there = arc(way.ring.first, way.onRing, vertexA, vertexB),
                  back = arc(way.onRing, way.ring.last, vertexB, vertexA);
        m_body.link(a.in, there);
        m_body.link(there, back);
        m_body.link(back, a.out);
        m_body.link(b.in, there + 1);  // back to the seam of a, and on from there
        m_body.link(there + 1, back + 1);
        m_body.link(back + 1, b.out);
    }
    m_failed = !end(a, aheadA, vertexA, way.stopA) || !end(b, aheadB, vertexB, way.stopB) || m_failed;
    return true;
}

Result<void> WoundHealer::closeAtPole(const Slot& slot) {
    const auto refuse = [&] {
        return stopped("The face round it has nothing to close with.", "Remove what it opens into together with it.",
                       {slot});
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
    std::sort(poles.begin(), poles.end(),
              [&end](const auto& a, const auto& b) { return end.Distance(a.first) < end.Distance(b.first); });
    const auto& [pole, level] = poles.front();
    if (!near(pole)) return refuse();
    const auto stop = runsOn(before.curve) ? carriedTo(before, ahead, pole, 2.0 * m_tolerance) : std::nullopt;
    if (!stop) return refuse();
    const Handle(Geom2d_Curve) traceIn = m_body.traceOf(slot.in), traceOut = m_body.traceOf(slot.out);
    if (traceIn.IsNull() || traceOut.IsNull()) return refuse();
    const int vertex = m_body.addVertex(pole, 2.0 * m_tolerance);
    SurgeryEdge& edge = m_body.changeEdge(e);
    (ahead ? edge.end : edge.start) = vertex;
    // The seam's own traces are straight lines that simply run on; at the pole itself they cannot be computed from
    // points.
    if (!traceIn->IsKind(STANDARD_TYPE(Geom2d_Line)) || !traceOut->IsKind(STANDARD_TYPE(Geom2d_Line))) return refuse();
    m_body.changeHalf(slot.in).trace = traceIn;
    m_body.changeHalf(slot.out).trace = traceOut;
    edge.changed = true;
    (ahead ? edge.last : edge.first) = *stop;
    const double uIn = traceIn->Value(*stop).X(), uOut = traceOut->Value(*stop).X();
    // A level that is drawn, to the digits of a file; else the trace is no ring's.
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

}  // namespace rasoir::heal
