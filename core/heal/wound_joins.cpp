#include <fmt/format.h>

#include "common/tolerance.h"
#include "geometry/curves.h"
#include "geometry/round_surface.h"
#include "heal/wound_healer.h"

namespace rasoir::heal {

std::vector<WoundHealer::SlotPair> WoundHealer::piecesOfOne(const std::vector<Slot>& slots) const {
    const std::size_t k = slots.size();
    std::vector<SlotPair> pairs;
    for (std::size_t i = 0; i + 2 < k; ++i)
        for (std::size_t j = i + 2; j < k - (i == 0 ? 1 : 0); ++j)
            if (sameSurface(m_body.face(slots[i].face).shape, m_body.face(slots[j].face).shape, m_tolerance))
                pairs.emplace_back(i, j);
    const auto smaller = [k](const SlotPair& pair) {
        return std::min(pair.second - pair.first, k - (pair.second - pair.first));
    };
    const auto flat = [&](const SlotPair& pair) {
        return surfaceKind(m_body.face(slots[pair.first].face).shape) == SurfaceKind::Plane;
    };
    std::stable_sort(pairs.begin(), pairs.end(), [&](const SlotPair& a, const SlotPair& b) {
        return std::pair(flat(a), smaller(a)) > std::pair(flat(b), smaller(b));
    });
    return pairs;
}

Result<void> WoundHealer::partBetween(const std::vector<Slot>& slots, const std::vector<SlotPair>& pairs) {
    const auto [i, j] = pairs[std::min(static_cast<std::size_t>(m_choices.next(pairs.size())), pairs.size() - 1)];
    const int kept = slots[i].face, other = slots[j].face;
    if (kept != other && !m_body.merge(kept, other, 10.0 * m_tolerance))
        return stopped("Two pieces of one surface beside it cannot become one.", "Mend the part first.", slots);
    touch({slots[i]});
    std::vector<Slot> one(slots.begin() + static_cast<std::ptrdiff_t>(i),
                          slots.begin() + static_cast<std::ptrdiff_t>(j));
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

std::optional<WoundHealer::Joined> WoundHealer::joinedCurve(int in, int out) const {
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
        if (std::abs(e1.last - e1.first) + gap + half + rest > period * (1.0 + Tolerance::rounding))
            return std::nullopt;
    }
    if (gap < -Tolerance::parameter * std::max(1.0, std::abs(end)) || half <= 0.0 || rest <= 0.0) return std::nullopt;
    const double stop = end + sign * (gap + half + rest);
    return ahead ? Joined{e1.curve, e1.first, stop} : Joined{e1.curve, stop, e1.last};
}

bool WoundHealer::weld(int in, int out, int sideBefore, int sideAfter, const Joined& joined, std::vector<Slot>& slots) {
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
    return m_body.reshape(e1, joined.curve, joined.first, joined.last, std::max(10.0 * m_tolerance, 2.0 * tolerance))
        .has_value();
}

std::optional<WoundHealer::Joined> WoundHealer::joinable(const std::vector<Slot>& slots, std::size_t i) const {
    const Slot& slot = slots[i];
    if (slot.in < 0) return std::nullopt;
    const int before = slots[(i + slots.size() - 1) % slots.size()].face, after = slots[(i + 1) % slots.size()].face;
    if (!sameSurface(m_body.face(before).shape, m_body.face(after).shape, m_tolerance)) return std::nullopt;
    return joinedCurve(slot.in, slot.out);
}

bool WoundHealer::leavesNothingToMeet(const std::vector<Slot>& slots, std::size_t i) const {
    if (slots.size() != 4 || joinable(slots, (i + 2) % 4)) return false;
    const Slot& across = slots[(i + 2) % 4];
    const SurgeryVertex &from = m_body.vertex(m_body.endOf(across.in)), &to = m_body.vertex(m_body.startOf(across.out));
    if (from.point.Distance(to.point) <= m_tolerance) return false;
    const auto piece = meetingCurve(surfaceOf(slots[(i + 1) % 4].face), surfaceOf(across.face), from.point, to.point,
                                    std::max(m_tolerance, from.tolerance));
    return !piece || !within(*piece);
}

bool WoundHealer::tryJoin(std::vector<Slot>& slots, std::size_t i) {
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
        if (!m_body.reshape(e1, joined->curve, joined->first, joined->last, 10.0 * m_tolerance))
            return m_failed = true, false;
    }
    if (faceBefore != faceAfter && !m_body.merge(faceBefore, faceAfter, 10.0 * m_tolerance))
        return m_failed = true, false;
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

Result<void> WoundHealer::bridgeTwo(const std::vector<Slot>& slots) {
    if (m_failed)
        return stopped("An edge that it interrupts does not fit both its faces once joined.", "Mend the part first.",
                       slots);
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
        return stopped("The two faces round it do not meet across it.", "Remove a round or chamfer beside it first.",
                       slots);
    const int bridge = m_body.addEdge(piece->curve, piece->first, piece->last, from, to, 2.0 * m_tolerance,
                                      slots[0].face, slots[1].face);
    if (auto shaped =
            m_body.reshape(m_body.half(bridge).edge, piece->curve, piece->first, piece->last, 10.0 * m_tolerance);
        !shaped)
        return stopped(shaped.error().what, "Mend the part first.", slots);
    m_body.link(slots[0].in, bridge);
    m_body.link(bridge, slots[0].out);
    m_body.link(slots[1].in, bridge + 1);
    m_body.link(bridge + 1, slots[1].out);
    return {};
}

}  // namespace rasoir::heal
