#include <fmt/format.h>

#include <BRep_Tool.hxx>
#include <numeric>
#include <TopExp.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Iterator.hxx>

#include "arrange/builder.h"
#include "common/tolerance.h"
#include "geometry/curves.h"

// One flat arrangement for each face on which something lies.
//   1. Every arc on the face is one or two halves: an arc of its boundary once, as its wire runs; a seam and whatever
//      lies within twice. A half has the face's area to its left, seen against the surface's own normal.
//   2. At each node the halves are put in order by angle in the tangent plane, each seen where it first is as far away
//      from the node as all the others. Arcs do not cross between nodes, so their order there is their order at the
//      node, tangent or not. Poles and seams need no case of their own, since none of this is done in parameters.
//   3. From each half the next one is the first to the right of where it came from. That gives the loops.
//   4. Their areas in the parameters, where each half has the trace that its side of a seam asks for, tell outlines
//      from holes, and what a hole lies in. An outline with its holes is a piece.
//   5. Arcs that end freely part nothing and are in no loop. The piece that they lie in keeps them as its slits, since
//      at them it stands between the pieces of others: a sheet that is pushed into a solid is parted by the solid's
//      skin, which it does not part.

namespace rasoir::arrange {
namespace {

struct Half {
    Use use;
    int start = -1, end = -1;
    std::vector<gp_Pnt2d> line;  // along the way it runs
    int next = -1;
    int loop = -1;
};

struct Spoke {
    int out = -1, in = -1;  // halves that leave, that arrive
    int arc = -1;
    bool atStart = true;
    double angle = 0.0;
};

double signedArea(const std::vector<gp_Pnt2d>& polygon) {
    double twice = 0.0;
    for (std::size_t i = 0; i < polygon.size(); ++i) {
        const gp_Pnt2d &a = polygon[i], &b = polygon[(i + 1) % polygon.size()];
        twice += a.X() * b.Y() - a.Y() * b.X();
    }
    return 0.5 * twice;
}

/// The part of an arc from one of its ends, up to where it first is `reach` away from that end.
gp_Pnt pointAway(const Arc& arc, bool fromStart, double reach) {
    const double from = fromStart ? arc.first : arc.last, to = fromStart ? arc.last : arc.first;
    const gp_Pnt origin = arc.curve->Value(from);
    constexpr int steps = 64;
    for (int i = 1; i <= steps; ++i) {
        if (arc.curve->Value(from + (to - from) * i / steps).Distance(origin) < reach) continue;
        double low = from + (to - from) * (i - 1) / steps, high = from + (to - from) * i / steps;
        for (int round = 0; round < 30; ++round) {
            const double middle = 0.5 * (low + high);
            (arc.curve->Value(middle).Distance(origin) < reach ? low : high) = middle;
        }
        return arc.curve->Value(high);
    }
    return arc.curve->Value(0.5 * (from + to));
}

/// How far an arc gets away from one of its ends within its first half.
double farthest(const Arc& arc, bool fromStart) {
    const double from = fromStart ? arc.first : arc.last, to = fromStart ? arc.last : arc.first;
    const gp_Pnt origin = arc.curve->Value(from);
    double most = 0.0;
    for (int i = 1; i <= 8; ++i) most = std::max(most, arc.curve->Value(from + (to - from) * i / 16).Distance(origin));
    return most;
}

class FlatFace {
public:
    FlatFace(Arrangement& all, Catalogue& catalogue, FaceRecord& face, double tolerance)
        : m_all(all), m_catalogue(catalogue), m_face(face), m_tolerance(tolerance) {}

    Result<std::vector<Piece>> divide() {
        if (auto fine = collectBoundary(); !fine) return tl::unexpected(fine.error());
        if (auto fine = collectLying(); !fine) return tl::unexpected(fine.error());
        orderAtNodes();
        return assemble();
    }

private:
    Arrangement& m_all;
    Catalogue& m_catalogue;
    FaceRecord& m_face;
    double m_tolerance;
    std::vector<Half> m_halves;
    std::map<int, std::array<int, 2>> m_halvesOfArc;  // reversed, forward
    std::vector<Use> m_slits;

    [[nodiscard]] tl::unexpected<Problem> refuse(const std::string& what, const gp_Pnt& at) const {
        return fail(ProblemKind::NotPossible,
                    fmt::format("Face {} of \"{}\" could not be divided: {}.", m_face.number,
                                m_all.inputs[m_face.input].name, what),
                    "Move what meets it a little, or mend the face first.",
                    {m_all.inputs[m_face.input].name, {m_face.number}, at});
    }

    void add(int arc, bool forward, const Handle(Geom2d_Curve) & trace) {
        const Arc& own = m_all.arcs[arc];
        Half half;
        half.use = {arc, forward, trace};
        half.start = forward ? own.from : own.to;
        half.end = forward ? own.to : own.from;
        const bool straight =
            GeomAdaptor_Curve(own.curve).GetType() == GeomAbs_Line && m_face.adaptor.GetType() == GeomAbs_Plane;
        const int count = straight ? 2 : 32;
        for (int i = 0; i <= count; ++i) {
            const double share = forward ? double(i) / count : 1.0 - double(i) / count;
            half.line.push_back(trace->Value(own.first + share * (own.last - own.first)));
        }
        auto& known = m_halvesOfArc.try_emplace(arc, std::array<int, 2>{-1, -1}).first->second;
        known[forward] = static_cast<int>(m_halves.size());
        m_halves.push_back(std::move(half));
    }

    /// Trace of an arc that has no trace of the face's own: near `guess`, which is where its middle lies.
    [[nodiscard]] Handle(Geom2d_Curve)
        traceNear(const Arc& arc, const gp_Pnt2d& middle, const std::optional<gp_Pnt2d>& start) const {
        const double allowed = 2.0 * (m_tolerance + arc.tolerance + m_face.tolerance);
        // Close by a pole the trace of a plain circle bends sharply: it is followed less closely there, and the edge's
        // tolerance says so.
        auto trace = traceOn(m_face.surface, arc.curve, arc.first, arc.last, allowed, start);
        // Up to a micrometre, whatever was allowed: wider would hide a trace of another edge.
        for (double wider = 10.0; !trace && wider < 1e4 && wider * allowed < 1e-3; wider *= 10.0)
            trace = traceOn(m_face.surface, arc.curve, arc.first, arc.last, wider * allowed, start);
        if (!trace) return {};
        const gp_Pnt2d now = trace->curve->Value(0.5 * (arc.first + arc.last));
        gp_Vec2d shift(0.0, 0.0);
        if (m_face.period[0] > 0.0)
            shift.SetX(m_face.period[0] * std::round((middle.X() - now.X()) / m_face.period[0]));
        if (m_face.period[1] > 0.0)
            shift.SetY(m_face.period[1] * std::round((middle.Y() - now.Y()) / m_face.period[1]));
        if (shift.SquareMagnitude() == 0.0) return trace->curve;
        return Handle(Geom2d_Curve)::DownCast(trace->curve->Translated(shift));
    }

    Result<void> collectBoundary() {
        for (TopoDS_Iterator wire(m_face.shape); wire.More(); wire.Next()) {
            if (wire.Value().ShapeType() != TopAbs_WIRE) continue;
            for (TopoDS_Iterator it(wire.Value()); it.More(); it.Next()) {
                const TopoDS_Edge edge = TopoDS::Edge(it.Value());
                if (BRep_Tool::Degenerated(edge)) continue;
                const int number = m_all.topology[m_face.input]->edgeNumber(edge);
                const int record = m_catalogue.edgeRecord(m_face.input, number);
                const EdgeRecord& own = m_catalogue.edges[record];
                double first = 0.0, last = 0.0;
                const Handle(Geom2d_Curve) trace = BRep_Tool::CurveOnSurface(edge, m_face.shape, first, last);
                if (trace.IsNull()) return refuse("an edge of it has no trace on it", m_all.nodes[own.from].point);
                const bool both = edge.Orientation() == TopAbs_INTERNAL || edge.Orientation() == TopAbs_EXTERNAL;
                for (std::size_t i = 0; i < own.arcs.size(); ++i) {
                    const int arc = own.arcs[i];
                    const bool against = std::any_of(
                        m_all.arcs[arc].owners.begin(), m_all.arcs[arc].owners.end(), [&](const Owner& owner) {
                            return owner.input == m_face.input && owner.number == number && owner.reversed;
                        });
                    const bool forward = (edge.Orientation() != TopAbs_REVERSED) != against;
                    Handle(Geom2d_Curve) curve = trace;
                    if (m_all.arcs[arc].edge != record) {
                        // The geometry is another input's edge: a trace of its own, on the side where ours runs.
                        const double from = i == 0 ? own.first : own.paves[i - 1].at;
                        const double to = i == own.paves.size() ? own.last : own.paves[i].at;
                        curve = traceNear(m_all.arcs[arc], trace->Value(0.5 * (from + to)),
                                          trace->Value(against ? to : from));
                        if (curve.IsNull())
                            return refuse("an edge beside its own is too far off it",
                                          m_all.nodes[m_all.arcs[arc].from].point);
                    }
                    add(arc, forward, curve);
                    if (both) add(arc, !forward, curve);
                }
            }
        }
        return {};
    }

    /// What lies within; pieces that end freely divide nothing and are kept apart.
    Result<void> collectLying() {
        std::set<int> arcs = m_face.lying, free;
        for (bool again = true; again;) {
            again = false;
            std::map<int, int> degree;
            for (const auto& [arc, halves] : m_halvesOfArc) {
                ++degree[m_all.arcs[arc].from];
                ++degree[m_all.arcs[arc].to];
            }
            for (const int arc : arcs) {
                ++degree[m_all.arcs[arc].from];
                ++degree[m_all.arcs[arc].to];
            }
            for (auto it = arcs.begin(); it != arcs.end();) {
                const Arc& arc = m_all.arcs[*it];
                if (degree[arc.from] < 2 || degree[arc.to] < 2) {
                    free.insert(*it);
                    it = arcs.erase(it);
                    again = true;
                } else {
                    ++it;
                }
            }
        }
        m_face.lying = arcs;
        for (const int number : arcs) {
            if (m_halvesOfArc.contains(number)) continue;  // it runs along an edge of the face after all
            const Handle(Geom2d_Curve) trace = traceOfLying(number);
            if (trace.IsNull())
                return refuse("what meets it leaves its surface", m_all.nodes[m_all.arcs[number].from].point);
            add(number, true, trace);
            add(number, false, trace);
        }
        for (const int number : free)
            if (const Handle(Geom2d_Curve) trace = traceOfLying(number);
                !trace.IsNull() && !m_halvesOfArc.contains(number))
                m_slits.push_back({number, true, trace});
        return {};
    }
    [[nodiscard]] Handle(Geom2d_Curve) traceOfLying(int number) const {
        const Arc& arc = m_all.arcs[number];
        gp_Pnt2d middle, start;
        const bool known = m_catalogue.offSurface(m_face, arc.curve->Value(0.5 * (arc.first + arc.last)), middle) &&
                           m_catalogue.offSurface(m_face, arc.curve->Value(arc.first), start);
        return known ? traceNear(arc, middle, start) : Handle(Geom2d_Curve)();
    }

    [[nodiscard]] gp_Vec normalNear(const Half& half, bool atStart) const {
        // A little inside: at a pole the parameters say nothing.
        const std::size_t n = half.line.size();
        const gp_Pnt2d &end = atStart ? half.line[0] : half.line[n - 1],
                       &beside = atStart ? half.line[1] : half.line[n - 2];
        const gp_Pnt2d at(0.98 * end.X() + 0.02 * beside.X(), 0.98 * end.Y() + 0.02 * beside.Y());
        gp_Pnt point;
        gp_Vec du, dv;
        m_face.surface->D1(at.X(), at.Y(), point, du, dv);
        gp_Vec normal = du.Crossed(dv);
        if (normal.SquareMagnitude() > Tolerance::divisible) normal.Normalize();
        return normal;
    }

    void orderAtNodes() {
        std::map<int, std::vector<Spoke>> at;
        for (const auto& [arc, halves] : m_halvesOfArc) {
            at[m_all.arcs[arc].from].push_back({halves[1], halves[0], arc, true, 0.0});
            at[m_all.arcs[arc].to].push_back({halves[0], halves[1], arc, false, 0.0});
        }
        for (auto& [node, spokes] : at) {
            if (spokes.size() > 2) sortSpokes(spokes);
            const int count = static_cast<int>(spokes.size());
            for (int s = 0; s < count; ++s) {
                if (spokes[s].in < 0) continue;
                for (int k = 1; k <= count; ++k) {
                    const Spoke& next = spokes[(s - k + 2 * count) % count];
                    if (next.out < 0) continue;
                    m_halves[spokes[s].in].next = next.out;
                    break;
                }
            }
        }
    }

    void sortSpokes(std::vector<Spoke>& spokes) const {
        double reach = -1.0;
        gp_Vec normal;
        for (const Spoke& spoke : spokes) {
            const double far = 0.3 * farthest(m_all.arcs[spoke.arc], spoke.atStart);
            reach = reach < 0.0 ? far : std::min(reach, far);
            if (spoke.out >= 0) normal += normalNear(m_halves[spoke.out], true);
            if (spoke.in >= 0) normal += normalNear(m_halves[spoke.in], false);
        }
        std::optional<gp_Vec> first;
        gp_Vec across;
        for (Spoke& spoke : spokes) {
            const Arc& arc = m_all.arcs[spoke.arc];
            const gp_Pnt origin = arc.curve->Value(spoke.atStart ? arc.first : arc.last);
            const gp_Vec away(origin, pointAway(arc, spoke.atStart, reach));
            if (!first) {
                first = away;
                across = normal.Crossed(away);
                if (across.SquareMagnitude() > 0.0) across.Normalize();
                first = across.Crossed(normal);
                if (first->SquareMagnitude() > 0.0) first->Normalize();
            }
            spoke.angle = std::atan2(away.Dot(across), away.Dot(*first));
        }
        std::stable_sort(spokes.begin(), spokes.end(),
                         [](const Spoke& a, const Spoke& b) { return a.angle < b.angle; });
    }

    Result<std::vector<Piece>> assemble() {
        struct Loop {
            std::vector<int> halves;
            std::vector<gp_Pnt2d> polygon;
            double area = 0.0;
            int component = -1;
        };
        std::vector<Loop> loops;
        for (int h = 0; h < static_cast<int>(m_halves.size()); ++h) {
            if (m_halves[h].loop >= 0) continue;
            Loop loop;
            for (int at = h; m_halves[at].loop < 0; at = m_halves[at].next) {
                m_halves[at].loop = static_cast<int>(loops.size());
                loop.halves.push_back(at);
                loop.polygon.insert(loop.polygon.end(), m_halves[at].line.begin(), m_halves[at].line.end());
                if (m_halves[at].next < 0)
                    return refuse("its outline does not close", m_all.nodes[m_halves[at].end].point);
            }
            if (m_halves[loop.halves.back()].next != loop.halves.front())
                return refuse("its outline runs into itself", m_all.nodes[m_halves[h].start].point);
            loop.area = areaOf(loop.halves, loop.polygon);
            loops.push_back(std::move(loop));
        }
        // Loops that share a node bound each other; a hole lies in none of those.
        std::map<int, int> component;
        const std::function<int(int)> root = [&](int node) {
            auto it = component.try_emplace(node, node).first;
            while (it->second != it->first) it = component.find(it->second);
            return it->first;
        };
        for (const Half& half : m_halves) component[root(half.start)] = root(half.end);
        std::vector<Piece> pieces;
        std::vector<std::size_t> outlines;
        std::vector<std::vector<std::size_t>> holes(loops.size());
        for (std::size_t l = 0; l < loops.size(); ++l) {
            loops[l].component = root(m_halves[loops[l].halves.front()].start);
            if (loops[l].area > 0.0) outlines.push_back(l);
        }
        for (std::size_t l = 0; l < loops.size(); ++l) {
            if (loops[l].area > 0.0) continue;
            const Half& one = m_halves[loops[l].halves.front()];
            const gp_Pnt2d inside = one.line[one.line.size() / 2];
            std::optional<std::size_t> smallest;
            for (const std::size_t o : outlines)
                if (loops[o].component != loops[l].component && contains(loops[o].halves, inside) &&
                    (!smallest || loops[o].area < loops[*smallest].area))
                    smallest = o;
            if (!smallest) return refuse("a loop in it lies outside its outline", m_all.nodes[one.start].point);
            holes[*smallest].push_back(l);
        }
        for (const std::size_t o : outlines) {
            Piece piece;
            piece.owners = {{m_face.input, m_face.number, false}};
            std::vector<std::size_t> all{o};
            all.insert(all.end(), holes[o].begin(), holes[o].end());
            std::vector<const std::vector<int>*> boundary;
            for (const std::size_t l : all) {
                std::vector<std::vector<int>> parts{loops[l].halves};
                if (l == o) partWhereTangent(parts);
                for (const std::vector<int>& part : parts) {
                    std::vector<Use> loop;
                    for (const int h : part) loop.push_back(m_halves[h].use);
                    piece.uses.insert(piece.uses.end(), loop.begin(), loop.end());
                    piece.loops.push_back(std::move(loop));
                }
                boundary.push_back(&loops[l].halves);
            }
            const gp_Pnt2d inside = insideOf(loops[o].halves, boundary);
            piece.inside = m_face.surface->Value(inside.X(), inside.Y());
            pieces.push_back(std::move(piece));
        }
        for (const Use& slit : m_slits) {
            const Arc& arc = m_all.arcs[slit.arc];
            const gp_Pnt2d middle = slit.trace->Value(0.5 * (arc.first + arc.last));
            std::optional<std::size_t> smallest;  // of the outlines
            for (std::size_t i = 0; i < outlines.size(); ++i)
                if (contains(loops[outlines[i]].halves, middle) &&
                    (!smallest || loops[outlines[i]].area < loops[outlines[*smallest]].area))
                    smallest = i;
            if (smallest) pieces[*smallest].slits.push_back(slit);
        }
        return pieces;
    }

    /// Away from the node at one of its ends.
    [[nodiscard]] gp_Vec awayFrom(const Half& half, bool atStart) const {
        const Arc& arc = m_all.arcs[half.use.arc];
        const bool first = half.use.forward == atStart;
        gp_Pnt point;
        gp_Vec along;
        arc.curve->D1(first ? arc.first : arc.last, point, along);
        return first ? along : along.Reversed();
    }

    /// An outline that comes back to a node tangent to itself, as round a disc that touches the rim of its face from
    /// inside, is written as an outline with a hole that shares a vertex: readers that follow a wire by angles cannot
    /// tell which way it goes on there. The outline stays first.
    void partWhereTangent(std::vector<std::vector<int>>& parts) const {
        for (bool again = true; again;) {
            again = false;
            std::vector<int>& outline = parts.front();
            const std::size_t n = outline.size();
            for (std::size_t i = 0; i < n && !again; ++i)
                for (std::size_t k = i + 1; k < n && !again; ++k) {
                    const Half &leaves = m_halves[outline[i]], &comesBack = m_halves[outline[k]];
                    if (leaves.start != comesBack.end || k - i + 1 == n) continue;
                    const Half &before = m_halves[outline[(i + n - 1) % n]], &after = m_halves[outline[(k + 1) % n]];
                    // Of a seam, which runs there and back, the two halves are one curve and no two that touch.
                    const auto touch = [this](const Half& a, bool startOfA, const Half& b, bool startOfB) {
                        if (a.use.arc == b.use.arc) return false;
                        const gp_Vec u = awayFrom(a, startOfA), v = awayFrom(b, startOfB);
                        return u.Dot(v) > 0.0 &&
                               u.Crossed(v).Magnitude() < Tolerance::fittedDirection * u.Magnitude() * v.Magnitude();
                    };
                    if (!touch(leaves, true, before, false) && !touch(leaves, true, after, true) &&
                        !touch(comesBack, false, before, false) && !touch(comesBack, false, after, true))
                        continue;
                    std::vector<int> within(outline.begin() + static_cast<std::ptrdiff_t>(i),
                                            outline.begin() + static_cast<std::ptrdiff_t>(k) + 1);
                    std::vector<int> rest(outline.begin(), outline.begin() + static_cast<std::ptrdiff_t>(i));
                    rest.insert(rest.end(), outline.begin() + static_cast<std::ptrdiff_t>(k) + 1, outline.end());
                    const auto areaOfLoop = [this](const std::vector<int>& halves) {
                        std::vector<gp_Pnt2d> polygon;
                        for (const int h : halves)
                            polygon.insert(polygon.end(), m_halves[h].line.begin(), m_halves[h].line.end());
                        return signedArea(polygon);
                    };
                    const double ofWithin = areaOfLoop(within), ofRest = areaOfLoop(rest);
                    if ((ofWithin > 0.0) == (ofRest > 0.0)) continue;
                    const bool swap = ofWithin > 0.0;
                    outline = swap ? within : rest;
                    parts.push_back(swap ? rest : within);
                    again = true;
                }
        }
    }

    // Between two samples of a trace its polygon runs beside it, by half a per cent of a circle's radius. Rings and
    // slivers may be narrower than that: what decides is asked of the trace itself.

    /// A point of a half's trace, `share` of the way from one of its samples to the next.
    [[nodiscard]] gp_Pnt2d between(const Half& half, std::size_t sample, double share) const {
        const Arc& arc = m_all.arcs[half.use.arc];
        const double along = (static_cast<double>(sample) + share) / static_cast<double>(half.line.size() - 1);
        return half.use.trace->Value(arc.first + (half.use.forward ? along : 1.0 - along) * (arc.last - arc.first));
    }
    [[nodiscard]] static bool isStraight(const Half& half) { return half.line.size() <= 3; }

    /// Visits the pieces of a loop between samples: the half they are of, null where it jumps over a pole, the sample
    /// they begin at, and their ends.
    template <class Visit>
    void eachStep(const std::vector<int>& halves, const Visit& visit) const {
        for (std::size_t i = 0; i < halves.size(); ++i) {
            const Half &half = m_halves[halves[i]], &next = m_halves[halves[(i + 1) % halves.size()]];
            for (std::size_t k = 0; k + 1 < half.line.size(); ++k) visit(&half, k, half.line[k], half.line[k + 1]);
            visit(static_cast<const Half*>(nullptr), std::size_t(0), half.line.back(), next.line.front());
        }
    }
    /// Where a piece of a loop crosses a straight line, on whose two sides its ends are; `side` is 0 on that.
    template <class Side>
    [[nodiscard]] gp_Pnt2d crossing(const Half* half, std::size_t sample, const gp_Pnt2d& a, const gp_Pnt2d& b,
                                    const Side& side) const {
        const double sideA = side(a), sideB = side(b);
        if (half == nullptr || isStraight(*half)) return a.Translated(gp_Vec2d(a, b) * (sideA / (sideA - sideB)));
        double low = 0.0, high = 1.0;
        gp_Pnt2d at = a;
        for (int round = 0; round < 48; ++round) {
            const double middle = 0.5 * (low + high);
            at = between(*half, sample, middle);
            ((side(at) > 0.0) == (sideA > 0.0) ? low : high) = middle;
        }
        return at;
    }

    /// Whether a loop goes round a point.
    [[nodiscard]] bool contains(const std::vector<int>& halves, const gp_Pnt2d& point) const {
        bool in = false;
        eachStep(halves, [&](const Half* half, std::size_t k, const gp_Pnt2d& a, const gp_Pnt2d& b) {
            if ((a.Y() > point.Y()) == (b.Y() > point.Y())) return;
            const gp_Pnt2d at = crossing(half, k, a, b, [&](const gp_Pnt2d& p) { return p.Y() - point.Y(); });
            if (point.X() < at.X()) in = !in;
        });
        return in;
    }

    /// The signed area in a loop, in the surface's parameters: that of its polygon, unless it is so small that what
    /// lies between polygon and traces could turn its sign.
    [[nodiscard]] double areaOf(const std::vector<int>& halves, const std::vector<gp_Pnt2d>& polygon) const {
        const double rough = signedArea(polygon);
        double unsure = 0.0;
        for (const int h : halves) {
            const auto& line = m_halves[h].line;
            if (isStraight(m_halves[h])) continue;
            for (std::size_t k = 1; k + 1 < line.size(); ++k) {
                const gp_Vec2d chord(line[k - 1], line[k + 1]);
                unsure += std::abs(chord.Crossed(gp_Vec2d(line[k - 1], line[k])));
            }
        }
        if (std::abs(rough) > 2.0 * unsure) return rough;
        double twice = 0.0;
        eachStep(halves, [&](const Half* half, std::size_t k, const gp_Pnt2d& a, const gp_Pnt2d& b) {
            constexpr int finer = 16;
            gp_Pnt2d last = a;
            const int count = half == nullptr || isStraight(*half) ? 1 : finer;
            for (int i = 1; i <= count; ++i) {
                const gp_Pnt2d next = i == count ? b : between(*half, k, static_cast<double>(i) / count);
                twice += last.X() * next.Y() - next.X() * last.Y();
                last = next;
            }
        });
        return 0.5 * twice;
    }

    /// A point to the left of an outline, half way to what comes next there; of several, the one with most room.
    [[nodiscard]] gp_Pnt2d insideOf(const std::vector<int>& halves,
                                    const std::vector<const std::vector<int>*>& boundary) const {
        gp_Pnt2d best;
        double most = -1.0;
        for (const int h : halves) {
            const Half& own = m_halves[h];
            const std::size_t k = (own.line.size() - 1) / 2;
            const gp_Pnt2d &from = own.line[k], &to = own.line[k + 1];
            const gp_Pnt2d middle =
                isStraight(own) ? gp_Pnt2d(0.5 * (from.X() + to.X()), 0.5 * (from.Y() + to.Y())) : between(own, k, 0.5);
            gp_Vec2d left(-(to.Y() - from.Y()), to.X() - from.X());
            if (left.Magnitude() < Tolerance::divisible) continue;
            left.Normalize();
            double nearest = -1.0;
            for (const auto* loop : boundary)
                eachStep(*loop, [&](const Half* half, std::size_t i, const gp_Pnt2d& a, const gp_Pnt2d& b) {
                    if (half == &own && i == k) return;
                    const auto side = [&](const gp_Pnt2d& p) { return left.Crossed(gp_Vec2d(middle, p)); };
                    if ((side(a) > 0.0) == (side(b) > 0.0)) return;
                    const double ahead = left.Dot(gp_Vec2d(middle, crossing(half, i, a, b, side)));
                    if (ahead > Tolerance::noLength && (nearest < 0.0 || ahead < nearest)) nearest = ahead;
                });
            if (nearest <= 0.0) continue;
            const gp_Pnt2d inside = middle.Translated(left * (0.5 * nearest));
            const double room =
                m_face.surface->Value(inside.X(), inside.Y()).Distance(m_face.surface->Value(middle.X(), middle.Y()));
            if (room > most) {
                most = room;
                best = inside;
            }
        }
        return best;
    }
};

}  // namespace

Result<void> Builder::divideFaces(Progress& progress) {
    // An edge that lies in another face gets a new user there, so the faces at it are made anew as well.
    std::set<int> usedElsewhere;
    for (const FaceRecord& face : m_catalogue.faces) usedElsewhere.insert(face.lying.begin(), face.lying.end());
    for (FaceRecord& face : m_catalogue.faces) {
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        if (m_all.inputs[face.input].meets == Meets::Sheets)
            continue;  // it has parted what it meets; nobody wants it itself
        for (const int arc : face.lying) m_all.arcs[arc].within.insert(face.input);
        bool untouched = face.lying.empty();
        for (const int e : face.edges) {
            const EdgeRecord& edge = m_catalogue.edges[e];
            if (edge.curve.IsNull()) continue;
            untouched = untouched && edge.arcs.size() == 1 && m_all.arcs[edge.arcs[0]].whole &&
                        m_all.arcs[edge.arcs[0]].owners.size() == 1 && !usedElsewhere.contains(edge.arcs[0]);
        }
        if (untouched) continue;
        auto pieces = FlatFace(m_all, m_catalogue, face, m_tolerance).divide();
        if (!pieces) return tl::unexpected(pieces.error());
        face.divided = true;
        ++m_all.facesDivided;
        for (Piece& piece : *pieces) m_all.pieces.push_back(std::move(piece));
    }
    return {};
}

void Builder::addWholeFaces() {
    for (int i = 0; i < static_cast<int>(m_all.inputs.size()); ++i) {
        const Incidence& topology = *m_all.topology[i];
        if (m_all.inputs[i].meets == Meets::Sheets) continue;
        for (int f = 1; f <= topology.faceCount(); ++f) {
            const int record = m_catalogue.faceRecord(i, f);
            if (record >= 0 && m_catalogue.faces[record].divided) continue;
            Piece piece;
            piece.owners = {{i, f, false}};
            piece.whole = true;
            for (TopoDS_Iterator wire(topology.face(f).Oriented(TopAbs_FORWARD)); wire.More(); wire.Next()) {
                if (wire.Value().ShapeType() != TopAbs_WIRE) continue;
                for (TopoDS_Iterator it(wire.Value()); it.More(); it.Next()) {
                    const TopoDS_Edge edge = TopoDS::Edge(it.Value());
                    if (BRep_Tool::Degenerated(edge)) continue;
                    const int number = topology.edgeNumber(edge);
                    auto& arcs = m_arcsOfEdge[{i, number}];
                    if (arcs.empty()) {
                        Arc arc;
                        arc.curve = BRep_Tool::Curve(edge, arc.first, arc.last);
                        arc.tolerance = BRep_Tool::Tolerance(edge);
                        arc.owners = {{i, number, false}};
                        arc.whole = true;
                        // Its ends may be nodes whose vertex is made anew: then this edge is as well.
                        TopoDS_Vertex from, to;
                        TopExp::Vertices(TopoDS::Edge(edge.Oriented(TopAbs_FORWARD)), from, to);
                        if (!from.IsNull()) arc.from = m_catalogue.nodeOf(i, from);
                        if (!to.IsNull()) arc.to = m_catalogue.nodeOf(i, to);
                        arcs.push_back(static_cast<int>(m_all.arcs.size()));
                        m_all.arcs.push_back(std::move(arc));
                    }
                    piece.uses.push_back({arcs.front(), edge.Orientation() != TopAbs_REVERSED, {}});
                }
            }
            m_all.pieces.push_back(std::move(piece));
        }
    }
}

void Builder::mergePieces() {
    std::map<std::vector<int>, std::vector<int>> byArcs;
    std::vector<char> gone(m_all.pieces.size(), false);
    for (int p = 0; p < static_cast<int>(m_all.pieces.size()); ++p) {
        Piece& piece = m_all.pieces[p];
        if (piece.whole) continue;
        std::vector<int> arcs;
        for (const Use& use : piece.uses) arcs.push_back(use.arc);
        std::sort(arcs.begin(), arcs.end());
        auto& same = byArcs[arcs];
        bool merged = false;
        for (const int q : same) {
            Piece& other = m_all.pieces[q];
            if (other.owners.front().input == piece.owners.front().input) continue;
            FaceRecord& face = m_catalogue.faces[m_catalogue.faceRecord(piece.owners[0].input, piece.owners[0].number)];
            FaceRecord& there =
                m_catalogue.faces[m_catalogue.faceRecord(other.owners[0].input, other.owners[0].number)];
            gp_Pnt2d uv, uvThere;
            const auto off = m_catalogue.offSurface(face, other.inside, uv);
            const auto none = m_catalogue.offSurface(there, other.inside, uvThere);
            if (!off || !none || *off > 2.0 * (m_tolerance + face.tolerance + there.tolerance)) continue;
            gp_Pnt point;
            gp_Vec du, dv, eu, ev;
            face.surface->D1(uv.X(), uv.Y(), point, du, dv);
            there.surface->D1(uvThere.X(), uvThere.Y(), point, eu, ev);
            other.owners.push_back(
                {piece.owners[0].input, piece.owners[0].number, du.Crossed(dv).Dot(eu.Crossed(ev)) < 0.0});
            gone[p] = true;
            merged = true;
            break;
        }
        if (!merged) same.push_back(p);
    }
    std::vector<Piece> kept;
    for (std::size_t p = 0; p < m_all.pieces.size(); ++p)
        if (!gone[p]) kept.push_back(std::move(m_all.pieces[p]));
    m_all.pieces = std::move(kept);
}

}  // namespace rasoir::arrange
