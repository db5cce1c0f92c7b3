#include "heal/reface.h"

#include <fmt/format.h>

#include <BRep_Tool.hxx>
#include <Geom_Plane.hxx>
#include <limits>
#include <TopoDS.hxx>
#include <unordered_set>

#include "common/guard.h"
#include "common/tolerance.h"
#include "geometry/curves.h"
#include "geometry/surface_meeting.h"
#include "heal/lineage_of.h"
#include "topology/soundness.h"

namespace rasoir::heal {
namespace {

/// A stretch of the outline that lies in one kept face, between the edges of that face which lead to the outline.
struct Slot {
    int face = -1;
    int in = -1, out = -1;  // sides of the kept face before and after; -1 where the whole loop is the outline's
    std::vector<int> run;   // its sides at the region, in order; may be empty: the face touches it in a point
};

struct Loop {
    std::vector<Slot> slots;
    double turn = 0.0;    // [rad] round the axis, as the kept sides run
    double height = 0.0;  // [mm] along the axis, of its middle
};

/// A stretch of a fresh edge: the side of the kept (or earlier) face; the fresh face has the one after it.
struct FreshLoop {
    std::vector<int> sides;  // of the fresh face, in order
};

class Refacer {
public:
    Refacer(HalfEdgeBody& body, const Refacing& wanted, bool keeps, double tolerance)
        : m_body(body), m_wanted(wanted), m_keeps(keeps), m_tolerance(tolerance) {
        for (const int number : wanted.faces) {
            m_region.push_back(m_body.faceRecord(number));
            m_isRegion.insert(m_region.back());
        }
    }

    Result<void> run() {
        if (m_region.size() < m_wanted.chain.size())
            return stopped("It has fewer faces than are to take its place.", "Choose more faces.");
        if (auto found = findLoops(); !found) return found;
        // Sides of the region go first: what takes its place begins bare.
        for (const int f : m_region)
            for (const int h : std::vector<int>(m_body.halvesOf(f))) {
                const int e = m_body.half(h).edge;
                const auto& sides = m_body.edge(e).halves;
                if (std::all_of(sides.begin(), sides.end(),
                                [&](int s) { return m_isRegion.contains(m_body.half(s).face); }))
                    m_body.changeEdge(e).dead = true;
                if (!m_isOutline.contains(h)) m_body.kill(h);
            }
        for (std::size_t i = 0; i < m_region.size(); ++i) {
            if (i < m_wanted.chain.size()) {
                m_body.putOn(m_region[i], m_wanted.chain[i].surface, m_wanted.chain[i].reversed);
                continue;
            }
            SurgeryFace& lost = m_body.changeFace(m_region[i]);
            lost.gone = true;
            lost.mergedInto = m_region.front();
        }
        m_rings.resize(m_wanted.chain.size());
        for (Loop& loop : m_loops)
            if (auto closed = lead(loop); !closed) return closed;
        for (const int h : m_isOutline)
            if (!m_handed.contains(h)) m_body.kill(h);
        for (std::size_t i = 0; i + 1 < m_wanted.chain.size(); ++i)
            if (auto met = meet(i); !met) return met;
        for (std::size_t i = 0; i < m_wanted.chain.size(); ++i)
            if (auto seamed = closeRound(i); !seamed) return seamed;
        return {};
    }

private:
    HalfEdgeBody& m_body;
    const Refacing& m_wanted;
    bool m_keeps;  // edges of the outline that lie on their new surface stay as they are
    double m_tolerance;
    std::vector<int> m_region;
    std::unordered_set<int> m_isRegion;
    std::unordered_set<int> m_isOutline,
        m_handed;  // sides of the region at kept faces; those that fresh faces have taken over
    std::vector<Loop> m_loops;
    std::vector<std::vector<FreshLoop>> m_rings;  // by fresh face: loops that go round the axis
    int m_direction = 1;                          // the way the lowest ring of the kept faces runs

    tl::unexpected<Problem> stopped(std::string what, std::string remedy, int face = -1,
                                    const std::optional<gp_Pnt>& where = std::nullopt) const {
        Place place;
        if (face >= 0) place.faces.push_back(m_body.face(face).number);
        place.point = where;
        return fail(ProblemKind::NotPossible, std::move(what), std::move(remedy), std::move(place));
    }

    [[nodiscard]] Handle(Geom_Surface) fresh(std::size_t i) const { return m_wanted.chain[i].surface; }
    [[nodiscard]] bool isClosed(std::size_t i) const { return fresh(i)->IsUPeriodic() != 0; }
    [[nodiscard]] double heightOf(const gp_Pnt& point) const {
        return gp_Vec(m_wanted.axis.Location(), point).Dot(gp_Vec(m_wanted.axis.Direction()));
    }
    [[nodiscard]] gp_Vec spokeTo(const gp_Pnt& point) const {
        return gp_Vec(m_wanted.axis.Location().Translated(gp_Vec(m_wanted.axis.Direction()) * heightOf(point)), point);
    }
    [[nodiscard]] gp_Vec roundAt(const gp_Pnt& point, double sign) const {
        return gp_Vec(m_wanted.axis.Direction()).Crossed(spokeTo(point)) * sign;
    }

    // --- the outline
    // -----------------------------------------------------------------------------------------------------------

    Result<void> findLoops() {
        std::vector<int> boundary;
        std::unordered_set<int> isBoundary, done;
        for (const int f : m_region) {
            if (m_body.face(f).disordered)
                return stopped("One of its faces has loops that do not close.", "Mend the part first.", f);
            for (const int h : m_body.halvesOf(f)) {
                if (m_body.half(h).dead || m_body.edge(m_body.half(h).edge).degenerated) continue;
                const int other = m_body.twin(h);
                if (other < 0)
                    return stopped("At one of its edges the body is open, or more than two faces meet.",
                                   "Mend the part first.", f);
                if (m_isRegion.contains(m_body.half(other).face)) continue;
                if (m_body.face(m_body.half(other).face).disordered)
                    return stopped("A face beside it has loops that do not close.", "Mend the part first.",
                                   m_body.half(other).face);
                boundary.push_back(other);
                isBoundary.insert(other);
                m_isOutline.insert(h);
            }
        }
        for (const int seed : boundary) {
            if (done.contains(seed)) continue;
            Loop loop;
            int in = m_body.half(seed).prev;
            for (std::size_t steps = 0; in != seed && isBoundary.contains(in) && steps <= boundary.size(); ++steps)
                in = m_body.half(in).prev;
            if (in == seed) {
                Slot slot{m_body.half(seed).face, -1, -1, {}};
                int at = seed;
                do {
                    slot.run.push_back(at);
                    done.insert(at);
                    at = m_body.half(at).next;
                } while (at != seed);
                loop.slots.push_back(std::move(slot));
            } else {
                const int first = in;
                for (std::size_t guard = 0;; ++guard) {
                    if (guard > 10000) return stopped("The edges round it do not form a loop.", "Mend the part first.");
                    Slot slot{m_body.half(in).face, in, m_body.half(in).next, {}};
                    while (isBoundary.contains(slot.out)) {
                        if (!done.insert(slot.out).second)
                            return stopped("The edges round it do not form a loop.", "Mend the part first.", slot.face);
                        slot.run.push_back(slot.out);
                        slot.out = m_body.half(slot.out).next;
                    }
                    loop.slots.push_back(slot);
                    in = m_body.edge(m_body.half(slot.out).edge).degenerated ? -1 : m_body.twin(slot.out);
                    if (in < 0)
                        return stopped("An edge that ends at it is open, or ends in a pole.", "Mend the part first.",
                                       slot.face);
                    if (m_isRegion.contains(m_body.half(in).face))
                        return stopped("Its outline touches itself in a point.",
                                       "Choose the faces beside that point too.", slot.face,
                                       m_body.vertex(m_body.startOf(slot.out)).point);
                    if (in == first) break;
                }
            }
            measure(loop);
            m_loops.push_back(std::move(loop));
        }
        return {};
    }

    void measure(Loop& loop) const {
        double count = 0.0;
        for (const Slot& slot : loop.slots)
            for (const int h : slot.run) {
                const SurgeryEdge& e = m_body.edge(m_body.half(h).edge);
                gp_Vec before;
                double turn = 0.0;
                for (int k = 0; k <= 24; ++k) {
                    const gp_Pnt p = e.curve->Value(e.first + (e.last - e.first) * k / 24.0);
                    const gp_Vec spoke = spokeTo(p);
                    if (k > 0)
                        turn +=
                            std::atan2(before.Crossed(spoke).Dot(gp_Vec(m_wanted.axis.Direction())), before.Dot(spoke));
                    before = spoke;
                    loop.height += heightOf(p);
                    count += 1.0;
                }
                loop.turn += m_body.half(h).alongEdge ? turn : -turn;
            }
        loop.height /= std::max(1.0, count);
    }

    // --- to the outline's faces
    // --------------------------------------------------------------------------------------------------

    Result<void> lead(Loop& loop) {
        if (m_wanted.chain.size() == 1 && !isClosed(0)) return leadTo(loop, 0);
        const bool goesRound = std::abs(loop.turn) > M_PI;
        if (goesRound) {
            const auto rings = std::count_if(m_loops.begin(), m_loops.end(),
                                             [](const Loop& other) { return std::abs(other.turn) > M_PI; });
            const auto other = std::find_if(m_loops.begin(), m_loops.end(), [&](const Loop& one) {
                return &one != &loop && std::abs(one.turn) > M_PI;
            });
            if (rings != 2 || std::abs(std::abs(loop.turn) - 2.0 * M_PI) > 0.5 || loop.turn * other->turn > 0.0)
                return stopped("It does not end in two rings round its axis.", "Remove what interrupts its ends first.",
                               loop.slots.front().face);
            const bool lowest = loop.height < other->height;
            if (lowest) m_direction = loop.turn > 0.0 ? 1 : -1;
            return leadTo(loop, lowest ? 0 : m_wanted.chain.size() - 1);
        }
        // A crossing hole: to the round one of the fresh faces between whose flats it lies.
        const auto flatAt = [&](std::size_t i) { return heightOf(Handle(Geom_Plane)::DownCast(fresh(i))->Location()); };
        for (std::size_t i = 0; i < m_wanted.chain.size(); ++i) {
            if (!isClosed(i)) continue;
            const bool above = i == 0 || isClosed(i - 1) || flatAt(i - 1) <= loop.height,
                       below = i + 1 == m_wanted.chain.size() || isClosed(i + 1) || loop.height <= flatAt(i + 1);
            if (above && below) return leadTo(loop, i);
        }
        return stopped("What opens into it does not reach its new face.", "Remove that first.",
                       loop.slots.front().face);
    }

    /// Where an edge that leads to the outline meets the surface: the point, and its parameter there.
    struct Landing {
        gp_Pnt point;
        double at = 0.0;
    };
    std::optional<Landing> landing(int out, int faceA, int faceB, const Handle(Geom_Surface) & surface) const {
        const SurgeryEdge& edge = m_body.edge(m_body.half(out).edge);
        const gp_Pnt start = m_body.vertex(m_body.startOf(out)).point;
        const bool ahead = !m_body.half(out).alongEdge;  // the end at the outline is the curve's last
        const double slack = std::max(2.0 * m_tolerance, edge.tolerance);
        std::optional<gp_Pnt> point;
        if (runsOn(edge.curve))
            point = meetingPoint(edge.curve, surface, start, 10.0 * m_tolerance + edge.tolerance, m_tolerance);
        else if (faceA != faceB)
            point = meetingPoint(m_body.surfaceOf(faceA), m_body.surfaceOf(faceB), surface, start, m_tolerance);
        if (!point) return std::nullopt;
        const auto at = carriedTo(edge, ahead, *point, slack);
        if (!at || (!runsOn(edge.curve) && (ahead ? *at > edge.last : *at < edge.first))) return std::nullopt;
        return Landing{*point, *at};
    }

    /// Where two faces meet from one point on, in a direction, to another, or all the way round.
    std::optional<CurvePiece> piece(const Handle(Geom_Surface) & a, const Handle(Geom_Surface) & b, const gp_Pnt& from,
                                    const gp_Vec& direction, const gp_Pnt& to) const {
        const bool whole = from.Distance(to) <= 10.0 * m_tolerance;
        if (auto ring = meetingRing(a, b, from, direction, 10.0 * m_tolerance)) {
            if (whole) return ring;
            if (auto at = parameterAt(ring->curve, to, 10.0 * m_tolerance)) {
                const double period = ring->curve->Period();
                *at += period * std::ceil((ring->first - *at) / period);
                if (*at - ring->first > Tolerance::parameter * period) return CurvePiece{ring->curve, ring->first, *at};
            }
        }
        if (!whole)
            if (auto direct = meetingCurve(a, b, from, to, m_tolerance)) return direct;
        return meetingAlong(a, b, from, direction, to, m_tolerance);
    }

    /// The way in which a stretch of the outline sets out, as seen from afar: it may be jagged.
    gp_Vec leaving(const std::vector<int>& run) const {
        std::vector<gp_Pnt> points;
        std::vector<double> lengths{0.0};
        for (const int h : run) {
            const SurgeryEdge& e = m_body.edge(m_body.half(h).edge);
            for (int k = points.empty() ? 0 : 1; k <= 16; ++k) {
                const double share = (m_body.half(h).alongEdge ? k : 16 - k) / 16.0;
                points.push_back(e.curve->Value(e.first + (e.last - e.first) * share));
                if (points.size() > 1)
                    lengths.push_back(lengths.back() + points.back().Distance(points[points.size() - 2]));
            }
        }
        const auto quarter = std::lower_bound(lengths.begin(), lengths.end(), 0.25 * lengths.back());
        return gp_Vec(points.front(), points[static_cast<std::size_t>(quarter - lengths.begin())]);
    }

    /// On a ring that a seam is to leave: the point of the seam's line at that face.
    std::optional<gp_Pnt> seamPoint(std::size_t i, const Handle(Geom_Surface) & other, double height) const {
        const Handle(Geom_Curve) line = fresh(i)->UIso(0.0);
        gp_Pnt start = line->Value(0.0);
        for (double v = 0.0, step = 0; step < 3; ++step) {
            start = line->Value(v);
            v += height - heightOf(start);
        }
        return meetingPoint(line, other, start, 1e3 * std::max(1.0, spokeTo(start).Magnitude()), m_tolerance);
    }

    /// The stretch lies on the surface already: its edges, and the ends of those that lead to it, may stay.
    [[nodiscard]] bool lies(const Slot& slot, const Handle(Geom_Surface) & surface) const {
        const auto on = [&](const gp_Pnt& point, double tolerance) {
            const auto foot = footOn(surface, point, m_tolerance);
            return foot && surface->Value(foot->X(), foot->Y()).Distance(point) <= tolerance;
        };
        if (slot.run.empty()) return on(m_body.vertex(m_body.startOf(slot.out)).point, 2.0 * m_tolerance);
        return std::all_of(slot.run.begin(), slot.run.end(), [&](int h) {
            const SurgeryEdge& e = m_body.edge(m_body.half(h).edge);
            for (int k = 0; k <= 8; ++k)
                if (!on(e.curve->Value(e.first + (e.last - e.first) * k / 8.0),
                        std::max(2.0 * m_tolerance, e.tolerance)))
                    return false;
            return true;
        });
    }

    /// Its edges go on as they are, with the fresh face in place of the region's.
    Result<std::vector<int>> handedOver(const Slot& slot, int freshFace) {
        std::vector<int> sides;
        for (const int h : slot.run) {
            const int other = m_body.twin(h);
            if (other < 0) return stopped("The skin is not closed there.", "Mend the part first.", slot.face);
            if (auto handed = m_body.handOver(
                    other, freshFace, std::max(10.0 * m_tolerance, 2.0 * m_body.edge(m_body.half(h).edge).tolerance));
                !handed)
                return tl::unexpected(handed.error());
            m_handed.insert(other);
            sides.push_back(other);
        }
        return sides;
    }

    int addPiece(const CurvePiece& piece, int start, int end, int kept, int freshFace, bool& sound) {
        const int side =
            m_body.addEdge(piece.curve, piece.first, piece.last, start, end, 2.0 * m_tolerance, kept, freshFace);
        sound = m_body.reshape(m_body.half(side).edge, piece.curve, piece.first, piece.last, 10.0 * m_tolerance)
                    .has_value() &&
                sound;
        return side;
    }

    Result<void> leadTo(const Loop& loop, std::size_t i) {
        const int f = m_region[i];
        const Handle(Geom_Surface) surface = fresh(i);
        const bool ring = isClosed(i) ? std::abs(loop.turn) > M_PI : m_wanted.chain.size() > 1;
        const bool wantsSeam = isClosed(i) && ring;
        const std::size_t k = loop.slots.size();
        const auto misses = [&](int face, const gp_Pnt& at) {
            return stopped("A face beside it does not meet what is to take its place.",
                           "Remove that face first, or choose it too.", face, at);
        };
        FreshLoop made;
        bool sound = true;
        std::vector<std::vector<int>> sides(k),
            freshSides(k);  // of the kept faces in order, and the other sides of the same edges
        std::vector<char> stays(k, false);
        for (std::size_t j = 0; j < k; ++j) {
            stays[j] = m_keeps && lies(loop.slots[j], surface);
            if (!stays[j]) continue;
            auto handed = handedOver(loop.slots[j], f);
            if (!handed) return tl::unexpected(handed.error());
            freshSides[j] = std::move(*handed);
        }
        if (loop.slots.front().in < 0) {
            const Slot& slot = loop.slots.front();
            const Handle(Geom_Surface) own = m_body.surfaceOf(slot.face);
            const int h = slot.run.front();
            const gp_Pnt start = m_body.vertex(m_body.startOf(h)).point;
            if (!stays[0]) {
                std::optional<gp_Pnt> from;
                if (wantsSeam) from = seamPoint(i, own, loop.height);
                // Steep [rad]: flatter, two surfaces run side by side and the meeting is anywhere.
                else
                    from = nearestToAll({own, surface}, {std::nullopt, std::nullopt}, start,
                                        std::numeric_limits<double>::max(), 0.1 * m_tolerance, 1e-3);
                if (!from) return misses(slot.face, start);
                const auto whole =
                    piece(own, surface, *from, ring ? roundAt(*from, loop.turn > 0.0 ? 1.0 : -1.0) : leaving(slot.run),
                          *from);
                if (!whole) return misses(slot.face, *from);
                const int vertex = m_body.addVertex(*from, 2.0 * m_tolerance);
                sides[0].push_back(addPiece(*whole, vertex, vertex, slot.face, f, sound));
            }
        } else {
            std::vector<int> vertices(k, -1);  // at the end of slot j
            for (std::size_t j = 0; j < k; ++j) {
                const Slot& slot = loop.slots[j];
                if (stays[j] || stays[(j + 1) % k]) {
                    vertices[j] = m_body.startOf(slot.out);
                    continue;
                }
                const int next = loop.slots[(j + 1) % k].face;
                const gp_Pnt old = m_body.vertex(m_body.startOf(slot.out)).point;
                const auto land = landing(slot.out, slot.face, next, surface);
                if (!land) return misses(slot.face, old);
                const int e = m_body.half(slot.out).edge;
                const bool ahead = !m_body.half(slot.out).alongEdge;
                vertices[j] = m_body.addVertex(land->point, 2.0 * m_tolerance);
                SurgeryEdge& edge = m_body.changeEdge(e);
                (ahead ? edge.end : edge.start) = vertices[j];
                const SurgeryEdge now = m_body.edge(e);
                if (auto shaped = m_body.reshape(e, now.curve, ahead ? now.first : land->at,
                                                 ahead ? land->at : now.last, 10.0 * m_tolerance);
                    !shaped)
                    return shaped;
            }
            for (std::size_t j = 0; j < k; ++j) {
                const Slot& slot = loop.slots[j];
                if (stays[j]) continue;
                const int before = vertices[(j + k - 1) % k], after = vertices[j];
                const gp_Pnt from = m_body.vertex(before).point, to = m_body.vertex(after).point;
                if (k > 1 && from.Distance(to) <= 2.0 * m_tolerance)
                    return stopped("Two edges come to end in one point there.",
                                   "Choose the faces beside that point too.", slot.face, from);
                const auto one = piece(
                    m_body.surfaceOf(slot.face), surface, from,
                    ring || slot.run.empty() ? roundAt(from, loop.turn > 0.0 ? 1.0 : -1.0) : leaving(slot.run), to);
                if (!one) return misses(slot.face, from);
                // Where the seam is to begin the edge is divided.
                std::optional<double> cut;
                if (wantsSeam)
                    if (const auto point = seamPoint(i, m_body.surfaceOf(slot.face), loop.height))
                        if (auto at = parameterAt(one->curve, *point, 2.0 * m_tolerance)) {
                            if (one->curve->IsPeriodic())
                                *at += one->curve->Period() * std::ceil((one->first - *at) / one->curve->Period());
                            if (*at > one->first && *at < one->last && point->Distance(from) > 10.0 * m_tolerance &&
                                point->Distance(to) > 10.0 * m_tolerance)
                                cut = *at;
                        }
                if (cut) {
                    const int middle = m_body.addVertex(one->curve->Value(*cut), 2.0 * m_tolerance);
                    sides[j].push_back(addPiece({one->curve, one->first, *cut}, before, middle, slot.face, f, sound));
                    sides[j].push_back(addPiece({one->curve, *cut, one->last}, middle, after, slot.face, f, sound));
                } else {
                    sides[j].push_back(addPiece(*one, before, after, slot.face, f, sound));
                }
            }
        }
        if (!sound)
            return misses(loop.slots.front().face, m_body.vertex(m_body.startOf(loop.slots.front().run.front())).point);
        for (std::size_t j = 0; j < k; ++j) {
            if (stays[j]) continue;
            const Slot& slot = loop.slots[j];
            int at = slot.in;
            for (const int side : sides[j]) {
                if (at >= 0) m_body.link(at, side);
                at = side;
                freshSides[j].push_back(side + 1);
            }
            m_body.link(at, slot.out >= 0 ? slot.out : sides[j].front());
            for (const int h : slot.run) {
                m_body.changeEdge(m_body.half(h).edge).dead = true;
                m_body.kill(h);
            }
        }
        for (std::size_t j = k; j-- > 0;)
            made.sides.insert(made.sides.end(), freshSides[j].rbegin(), freshSides[j].rend());
        linkRound(made.sides);
        if (ring) m_rings[i].push_back(std::move(made));
        return {};
    }

    void linkRound(const std::vector<int>& sides) {
        for (std::size_t j = 0; j < sides.size(); ++j) m_body.link(sides[j], sides[(j + 1) % sides.size()]);
    }

    /// The ring in which two fresh faces meet.
    Result<void> meet(std::size_t i) {
        const std::size_t closed = isClosed(i) ? i : i + 1, other = closed == i ? i + 1 : i;
        const auto apart = [&] {
            return stopped("Two of the faces that are to take its place do not meet.", "Choose another diameter.");
        };
        const auto from = seamPoint(closed, fresh(other), 0.0);
        if (!from) return apart();
        const auto ring = piece(fresh(i), fresh(i + 1), *from, roundAt(*from, m_direction), *from);
        if (!ring) return apart();
        const int vertex = m_body.addVertex(*from, 2.0 * m_tolerance);
        bool sound = true;
        const int side = addPiece(*ring, vertex, vertex, m_region[i], m_region[i + 1], sound);
        if (!sound) return apart();
        m_rings[i].push_back({{side}});
        m_rings[i + 1].push_back({{side + 1}});
        linkRound({side});
        linkRound({side + 1});
        return {};
    }

    /// A closed surface between two rings gets its seam.
    Result<void> closeRound(std::size_t i) {
        if (!isClosed(i) || m_rings[i].empty()) return {};
        if (m_rings[i].size() != 2)
            return stopped("It does not end in two rings round its axis.", "Remove what interrupts its ends first.");
        const int f = m_region[i];
        const Handle(Geom_Curve) line = untrimmedCurve(fresh(i)->UIso(0.0));
        std::array<int, 2> before{-1, -1}, after{-1, -1}, vertex{-1, -1};
        std::array<double, 2> at{};
        for (std::size_t r = 0; r < 2; ++r)
            for (std::size_t s = 0; s < m_rings[i][r].sides.size(); ++s) {
                const int side = m_rings[i][r].sides[s];
                const gp_Pnt point = m_body.vertex(m_body.startOf(side)).point;
                const auto parameter = parameterAt(line, point, 10.0 * m_tolerance);
                if (!parameter || line->Value(*parameter).Distance(point) > 10.0 * m_tolerance) continue;
                after[r] = side;
                before[r] = m_body.half(side).prev;
                vertex[r] = m_body.startOf(side);
                at[r] = *parameter;
            }
        if (after[0] < 0 || after[1] < 0)
            return stopped("Its ends offer no place for a seam.", "Remove what interrupts its ends first.");
        const std::size_t low = at[0] < at[1] ? 0 : 1, high = 1 - low;
        const int up = m_body.addEdge(line, at[low], at[high], vertex[low], vertex[high], 2.0 * m_tolerance, f, f);
        if (!m_body.reshape(m_body.half(up).edge, line, at[low], at[high], 10.0 * m_tolerance))
            return stopped("Its seam does not lie on it.", "Choose another diameter.");
        m_body.link(before[low], up);
        m_body.link(up, after[high]);
        m_body.link(before[high], up + 1);
        m_body.link(up + 1, after[low]);
        layFromZero(up, fresh(i)->UPeriod());
        return {};
    }

    /// Traces of a loop side by side, in the first period of u: holes in the face have theirs there.
    void layFromZero(int first, double period) {
        std::vector<std::pair<int, double>> shifts;  // by side
        double end = 0.0, lowest = std::numeric_limits<double>::max();
        int at = first;
        do {
            const HalfEdge& half = m_body.half(at);
            const SurgeryEdge& e = m_body.edge(half.edge);
            const Handle(Geom2d_Curve) trace = m_body.traceOf(at);
            const double from = trace->Value(half.alongEdge ? e.first : e.last).X(),
                         to = trace->Value(half.alongEdge ? e.last : e.first).X();
            const double shift = shifts.empty() ? 0.0 : period * std::round((end - from) / period);
            end = to + shift;
            lowest = std::min({lowest, from + shift, end});
            shifts.emplace_back(at, shift);
            at = half.next;
        } while (at != first);
        const double all = -period * std::round(lowest / period);
        for (const auto& [side, shift] : shifts)
            if (shift + all != 0.0) {
                const Handle(Geom2d_Curve) laid =
                    Handle(Geom2d_Curve)::DownCast(m_body.traceOf(side)->Translated(gp_Vec2d(shift + all, 0.0)));
                m_body.changeHalf(side).trace = laid;
            }
    }
};

}  // namespace

namespace {

Result<Removal> refaced(const Part& part, const Refacing& wanted, bool keeps, double tolerance) {
    return guarded("Refacing", [&]() -> Result<Removal> {
        HalfEdgeBody body(part.incidence());
        body.begin();
        Refacer refacer(body, wanted, keeps, tolerance);
        if (auto done = refacer.run(); !done) return tl::unexpected(done.error());
        auto built = body.build(tolerance);
        if (!built) return tl::unexpected(built.error());
        for (int f = 0; f < body.faceCount(); ++f) {
            const SurgeryFace& record = body.face(f);
            if (record.gone || !record.changed) continue;
            const Place place{part.name, {record.number}, {}};
            for (const int h : body.halvesOf(f)) {
                const HalfEdge& half = body.half(h);
                if (half.dead || half.face != f || body.edge(half.edge).degenerated) continue;
                if (body.twin(h) < 0)
                    return fail(ProblemKind::NotPossible, "The skin would not be closed there.", "Mend the part first.",
                                place);
            }
            const TopoDS_Shape* made = built->Seek(record.received);
            if (made != nullptr && !soundFace(TopoDS::Face(*made)) &&
                (soundFace(record.received) || !record.shape.IsSame(record.received)))
                return fail(ProblemKind::NotPossible, "A face would cross itself there.",
                            "Remove what lies beside it first.", place);
        }
        Removal removal;
        removal.shape = substituted(part.shape, *built, body.flipped());
        if (removal.shape.IsNull()) return fail(ProblemKind::Internal, "Nothing would be left of the part.");
        removal.lineage = lineageOf(part, body, *built, removal.shape);
        removal.items.resize(1);
        return removal;
    });
}

}  // namespace

Result<Removal> reface(const Part& part, const Refacing& wanted, double tolerance) {
    auto made = refaced(part, wanted, true, tolerance);
    if (made) return made;
    if (auto anew = refaced(part, wanted, false, tolerance)) return anew;  // edges kept may offer no place for a seam
    return made;
}

}  // namespace rasoir::heal
