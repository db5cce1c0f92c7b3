#include <fmt/format.h>

#include <BndLib_Add3dCurve.hxx>
#include <ElCLib.hxx>
#include <Geom_BSplineCurve.hxx>
#include <Precision.hxx>

#include "arrange/builder.h"
#include "arrange/crossings.h"
#include "arrange/meeting.h"
#include "common/tolerance.h"
#include "geometry/curves.h"
#include "geometry/surface_meeting.h"

// Where two faces meet: the curves of their surfaces, cut at the nodes that are known to lie on them, and of the
// stretches between two nodes those that lie within both faces. A stretch along the boundary of a face is an edge that
// is there already. A stretch that is partly in and partly out has an end that nobody found: that is refused, with the
// place, rather than guessed.

namespace rasoir::arrange {
namespace {

constexpr double stations[] = {0.5, 0.25, 0.75, 0.09, 0.91};

/// A piece that was marched is the stretch that was meant: the middle of the stretch lies beside it, and it is about as
/// long, as far as the stretch is known at all. On a closed meeting a march may go round the other way.
bool runsAlong(const CurvePiece& piece, const Handle(Geom_Curve) & curve, double from, double to, double deviation) {
    const gp_Pnt middle = curve->Value(0.5 * (from + to));
    constexpr int samples = 200;
    double nearest = 1e300, length = 0.0, wanted = 0.0;
    gp_Pnt last = piece.curve->Value(piece.first), lastWanted = curve->Value(from);
    for (int i = 1; i <= samples; ++i) {
        const gp_Pnt point = piece.curve->Value(piece.first + (piece.last - piece.first) * i / samples);
        const gp_Pnt other = curve->Value(from + (to - from) * i / samples);
        nearest = std::min(nearest, point.Distance(middle));
        length += point.Distance(last);
        wanted += other.Distance(lastWanted);
        last = point;
        lastWanted = other;
    }
    return std::abs(length - wanted) <= 0.01 * wanted + 4.0 * deviation && nearest <= 0.02 * wanted + 2.0 * deviation;
}

std::vector<gp_Pnt> endsOf(const Branch& branch) {
    if (branch.closed || Precision::IsInfinite(branch.first) || Precision::IsInfinite(branch.last)) return {};
    return {branch.curve->Value(branch.first), branch.curve->Value(branch.last)};
}

}  // namespace

/// Largest distance of a stretch of curve from the surfaces of two faces.
double Builder::offBoth(const Handle(Geom_Curve) & curve, double from, double to, const FaceRecord& a,
                        const FaceRecord& b) const {
    double off = 0.0;
    const auto ask = [&](double at) {
        const gp_Pnt point = curve->Value(at);
        gp_Pnt2d uv;
        for (const FaceRecord* face : {&a, &b})
            off = std::max(off, m_catalogue.offSurface(*face, point, uv).value_or(0.0));
    };
    constexpr int samples = 32;
    for (int i = 0; i <= samples; ++i) ask(from + (to - from) * i / samples);
    // A spline through points that a search found is on both there, and strays between them.
    if (const auto spline = Handle(Geom_BSplineCurve)::DownCast(curve); !spline.IsNull())
        for (int knot = 1; knot < spline->NbKnots(); ++knot)
            for (const double share : {0.25, 0.5, 0.75}) {
                const double at = spline->Knot(knot) + share * (spline->Knot(knot + 1) - spline->Knot(knot));
                if (at > from && at < to) ask(at);
            }
    return 1.2 * off;
}

/// Where a branch crosses an edge of one of the two faces, and no node there is known yet. An edge that pierces the
/// other face finds its place itself; where the faces only touch along the branch, it pierces nothing, and yet the
/// branch ends on it.
void Builder::crossEdges(const Branch& branch, FaceRecord& a, FaceRecord& b, std::vector<Pave>& paves) {
    const bool periodic = branch.curve->IsPeriodic() != 0;
    std::set<int> known;
    for (const Pave& pave : paves) known.insert(pave.node);
    double first = branch.first, last = branch.last;
    if (Precision::IsInfinite(first) || Precision::IsInfinite(last)) {
        // Of a curve without end, the part that the boxes of both faces can hold.
        const gp_Pnt low = a.box.CornerMin(), high = a.box.CornerMax();
        const gp_Pnt middle(0.5 * (low.XYZ() + high.XYZ()));
        const GeomAdaptor_Curve line(branch.curve);
        if (line.GetType() != GeomAbs_Line) return;
        const double at = ElCLib::Parameter(line.Line(), middle), reach = low.Distance(high);
        first = at - reach;
        last = at + reach;
    }
    const GeomAdaptor_Curve along(branch.curve, first, last);
    Bnd_Box round;
    BndLib_Add3dCurve::Add(along, m_tolerance + branch.deviation, round);
    for (const auto& [face, other] : {std::pair{&a, &b}, {&b, &a}})
        for (const int e : face->edges) {
            EdgeRecord& edge = m_catalogue.edges[e];
            Bnd_Box near = edge.box;
            near.Enlarge(edge.tolerance);
            if (edge.curve.IsNull() || near.IsOut(round) || known.contains(edge.from) || known.contains(edge.to))
                continue;
            if (std::any_of(edge.paves.begin(), edge.paves.end(),
                            [&known](const Pave& pave) { return known.contains(pave.node); }))
                continue;
            const double reach = m_tolerance + edge.tolerance + branch.deviation;
            const GeomAdaptor_Curve own(edge.curve, edge.first, edge.last);
            for (const auto& [at, on] : crossingsOf(along, own, reach)) {
                const gp_Pnt point = own.Value(on);
                if (m_catalogue.locate(*other, point, reach) == Where::Out) continue;
                int node = -1;
                addPave(edge, point, on, point.Distance(along.Value(at)), &node);
                const double turns = periodic ? std::floor((at - branch.first) / branch.curve->Period()) : 0.0;
                paves.push_back({periodic ? at - turns * branch.curve->Period() : at, node});
            }
        }
}

/// A search may lose a stretch of a meeting that it parted: a branch then ends within both faces though nothing ends
/// there. From each such end the meeting is marched on to the next place that is known to lie on it, which is another
/// such end or a node.
void Builder::closeBranches(Meeting& meeting, FaceRecord& a, FaceRecord& b, const std::set<int>& nodes) {
    struct End {
        gp_Pnt point;
        gp_Vec onwards;
    };
    std::vector<End> loose;
    for (std::size_t i = 0; i < meeting.branches.size(); ++i) {
        const Branch& branch = meeting.branches[i];
        if (branch.exact || endsOf(branch).empty()) continue;
        const double reach = 10.0 * m_tolerance + branch.deviation;
        for (const bool last : {false, true}) {
            End end;
            branch.curve->D1(last ? branch.last : branch.first, end.point, end.onwards);
            if (!last) end.onwards.Reverse();
            const bool node = std::any_of(nodes.begin(), nodes.end(), [&](int n) {
                return m_all.nodes[n].point.Distance(end.point) <= m_catalogue.reach(n, reach);
            });
            if (node || m_catalogue.locate(a, end.point, reach) != Where::In ||
                m_catalogue.locate(b, end.point, reach) != Where::In)
                continue;
            bool met = false;
            for (std::size_t k = 0; k < meeting.branches.size(); ++k)
                if (k != i)
                    for (const gp_Pnt& other : endsOf(meeting.branches[k]))
                        met = met || other.Distance(end.point) <= reach + meeting.branches[k].deviation;
            if (!met) loose.push_back(end);
        }
    }
    const double wanted = std::max(m_tolerance, Tolerance::samePlace);
    std::vector<char> done(loose.size(), false);
    for (std::size_t i = 0; i < loose.size(); ++i) {
        if (done[i]) continue;
        std::vector<gp_Pnt> targets;
        for (std::size_t k = 0; k < loose.size(); ++k)
            if (k != i && !done[k]) targets.push_back(loose[k].point);
        for (const int n : nodes) targets.push_back(m_all.nodes[n].point);
        std::sort(targets.begin(), targets.end(), [&](const gp_Pnt& p, const gp_Pnt& q) {
            return loose[i].point.SquareDistance(p) < loose[i].point.SquareDistance(q);
        });
        if (targets.size() > 12) targets.resize(12);
        for (const gp_Pnt& target : targets) {
            const auto piece = meetingAlong(a.surface, b.surface, loose[i].point, loose[i].onwards, target, wanted);
            if (!piece) continue;
            meeting.branches.push_back({piece->curve, piece->first, piece->last, false, wanted, false});
            done[i] = true;
            for (std::size_t k = 0; k < loose.size(); ++k)
                done[k] = done[k] || loose[k].point.Distance(target) < Tolerance::noLength;
            break;
        }
    }
}

/// How far a search's curve strays from the surfaces is measured; what it claims itself is often too little. A curve
/// that strays is marched anew, from its beginning put onto both surfaces to its end: what nodes are then found on it,
/// and what lies within a face, is as sure as our own tolerance. Where that does not come through, it stays as it is.
void Builder::sharpen(Branch& branch, const FaceRecord& a, const FaceRecord& b) const {
    branch.deviation = std::max(branch.deviation, offBoth(branch.curve, branch.first, branch.last, a, b));
    const double wanted = std::max(m_tolerance, Tolerance::samePlace);
    if (branch.deviation <= 2.0 * wanted) return;
    const double reach = 4.0 * branch.deviation + wanted;
    const auto laid = [&](const gp_Pnt& point) {
        // Steep: flatter than a thousandth, the point runs away along the meeting.
        return nearestToAll({a.surface, b.surface}, {std::nullopt, std::nullopt}, point, reach, 0.1 * wanted, 1e-3);
    };
    gp_Pnt start;
    gp_Vec along;
    branch.curve->D1(branch.first, start, along);
    const gp_Pnt from = laid(start), to = branch.closed ? from : laid(branch.curve->Value(branch.last));
    const auto piece = meetingAlong(a.surface, b.surface, from, along, to, wanted);
    if (!piece || !runsAlong(*piece, branch.curve, branch.first, branch.last, branch.deviation)) return;
    branch.curve = piece->curve;
    branch.first = piece->first;
    branch.last = piece->last;
    branch.deviation = wanted;
}

gp_Vec Builder::normalNear(const FaceRecord& face, const gp_Pnt& point) const {
    gp_Pnt2d uv;
    gp_Pnt here;
    gp_Vec du, dv;
    if (!m_catalogue.offSurface(face, point, uv)) return {};
    face.surface->D1(uv.X(), uv.Y(), here, du, dv);
    const gp_Vec normal = du.Crossed(dv);
    return normal.Magnitude() > Tolerance::divisible ? normal.Normalized() : gp_Vec();
}

/// Where an edge of one of two faces goes through the other one, a curve in which they meet begins. From each such
/// place at which none does, one is marched to the next place like it: the search has lost a whole branch.
void Builder::findLost(int faceA, int faceB, const std::set<int>& nodes, std::size_t firstSection) {
    FaceRecord &a = m_catalogue.faces[faceA], &b = m_catalogue.faces[faceB];
    const auto begins = [&](int node, const gp_Vec& direction) {
        for (std::size_t s = firstSection; s < m_sections.size(); ++s) {
            const Section& section = m_sections[s];
            for (const bool last : {false, true}) {
                if ((last ? section.to : section.from) != node) continue;
                gp_Pnt point;
                gp_Vec along;
                section.curve->D1(last ? section.last : section.first, point, along);
                if (last) along.Reverse();
                if (along.Dot(direction) > 0.0) return true;
            }
        }
        return false;
    };
    const double wanted = std::max(m_tolerance, Tolerance::samePlace);
    const auto lies = [&](const gp_Pnt& point, double tolerance) {
        return m_catalogue.locate(a, point, tolerance) == Where::In &&
               m_catalogue.locate(b, point, tolerance) == Where::In;
    };
    for (const auto& [own, other] : {std::pair{&a, &b}, {&b, &a}})
        for (const int e : own->edges) {
            const EdgeRecord& edge = m_catalogue.edges[e];
            if (edge.curve.IsNull()) continue;
            for (const Pave& pave : edge.paves) {
                const gp_Pnt point = m_all.nodes[pave.node].point;
                gp_Pnt there;
                gp_Vec through;
                edge.curve->D1(pave.at, there, through);
                const gp_Vec ownNormal = normalNear(*own, point), otherNormal = normalNear(*other, point);
                gp_Vec along = ownNormal.Crossed(otherNormal);
                constexpr double steep = 1e-3;  // [rad] flatter than that, nothing is sure
                if (along.Magnitude() < steep || through.Magnitude() < Tolerance::divisible ||
                    std::abs(through.Normalized().Dot(otherNormal)) < steep ||
                    m_catalogue.locate(*other, point, edge.tolerance) != Where::In)
                    continue;
                along.Normalize();
                for (const double side : {1.0, -1.0}) {
                    const gp_Vec direction = side * along;
                    if (begins(pave.node, direction)) continue;
                    // Does that way lead into both faces? Asked a little way off, on the surfaces themselves.
                    const double step = 1e-3 * std::sqrt(own->box.SquareExtent());
                    gp_Pnt2d uv;
                    const gp_Pnt ahead = point.Translated(direction * step);
                    bool into = true;
                    for (FaceRecord* face : {own, other})
                        into = into && m_catalogue.offSurface(*face, ahead, uv) &&
                               m_catalogue.locate(*face, face->surface->Value(uv.X(), uv.Y()), 0.0) == Where::In;
                    if (!into) continue;
                    std::vector<int> targets(nodes.begin(), nodes.end());
                    std::erase(targets, pave.node);
                    std::sort(targets.begin(), targets.end(), [&](int x, int y) {
                        return point.SquareDistance(m_all.nodes[x].point) < point.SquareDistance(m_all.nodes[y].point);
                    });
                    for (const int target : targets) {
                        const auto piece =
                            meetingAlong(a.surface, b.surface, point, direction, m_all.nodes[target].point, wanted);
                        if (!piece) continue;
                        const double length = piece->last - piece->first;
                        const bool within = std::all_of(std::begin(stations), std::end(stations), [&](double share) {
                            return lies(piece->curve->Value(piece->first + share * length), wanted);
                        });
                        // A node on the way is where this piece ends; it is a target of its own.
                        const bool passes = std::any_of(targets.begin(), targets.end(), [&](int node) {
                            const auto at = node == target ? std::nullopt
                                                           : parameterAt(piece->curve, m_all.nodes[node].point,
                                                                         m_catalogue.reach(node, wanted));
                            // Inside, and not merely at an end that was rounded.
                            return at && *at > piece->first + 1e-6 * length && *at < piece->last - 1e-6 * length;
                        });
                        if (!within || passes) continue;
                        m_sections.push_back(
                            {faceA, faceB, piece->curve, piece->first, piece->last, pave.node, target, wanted, {}});
                        break;
                    }
                }
            }
        }
}

Result<void> Builder::sectionsOf(int faceA, int faceB) {
    FaceRecord &a = m_catalogue.faces[faceA], &b = m_catalogue.faces[faceB];
    auto meeting = meetingOf(a, b, m_tolerance);
    if (!meeting)
        return m_catalogue.refuse("Where two surfaces meet could not be found", faceA, faceB,
                                  a.surface->Value(0.5 * (a.low[0] + a.high[0]), 0.5 * (a.low[1] + a.high[1])));
    if (meeting->relation == Relation::Same || (meeting->relation == Relation::Apart && meeting->complete)) return {};
    m_all.pairsMet += meeting->relation == Relation::Meet;
    const std::size_t firstSection = m_sections.size();
    std::set<int> nodes;
    for (const FaceRecord* face : {&a, &b})
        for (const int e : face->edges) {
            const EdgeRecord& edge = m_catalogue.edges[e];
            if (edge.from >= 0) nodes.insert(edge.from);
            if (edge.to >= 0) nodes.insert(edge.to);
            for (const Pave& pave : edge.paves) nodes.insert(pave.node);
        }
    // What is known to lie on both surfaces, whatever the branch.
    std::erase_if(nodes, [&](int node) {
        gp_Pnt2d uv;
        for (const FaceRecord* face : {&a, &b}) {
            const auto off = m_catalogue.offSurface(*face, m_all.nodes[node].point, uv);
            if (!off || *off > 2.0 * m_catalogue.reach(node, face->tolerance)) return true;
        }
        return false;
    });
    for (Branch& branch : meeting->branches)
        if (!branch.exact && !Precision::IsInfinite(branch.first) && !Precision::IsInfinite(branch.last))
            sharpen(branch, a, b);
    closeBranches(*meeting, a, b, nodes);
    // One meeting may come in pieces that only a search has parted: where two of them end together is a node as well.
    for (std::size_t i = 0; i < meeting->branches.size(); ++i)
        for (std::size_t k = i + 1; k < meeting->branches.size(); ++k)
            for (const gp_Pnt& end : endsOf(meeting->branches[i]))
                for (const gp_Pnt& other : endsOf(meeting->branches[k])) {
                    const double reach =
                        10.0 * m_tolerance + meeting->branches[i].deviation + meeting->branches[k].deviation;
                    if (end.Distance(other) > reach || m_catalogue.locate(a, end, reach) == Where::Out ||
                        m_catalogue.locate(b, end, reach) == Where::Out)
                        continue;
                    nodes.insert(
                        m_catalogue.nodeAt(gp_Pnt(0.5 * (end.XYZ() + other.XYZ())), reach, end.Distance(other)));
                }
    for (const Branch& branch : meeting->branches) {
        const Handle(Geom_Curve)& curve = branch.curve;
        const bool periodic = curve->IsPeriodic() != 0;
        std::vector<Pave> paves;
        for (const int node : nodes) {
            const gp_Pnt& point = m_all.nodes[node].point;
            // A curve that is off both surfaces by so much is off their meeting by more, the flatter they meet.
            double flat = 1.0;
            if (!branch.exact) flat = std::max(0.01, normalNear(a, point).Crossed(normalNear(b, point)).Magnitude());
            const auto at = parameterAt(curve, point, 2.0 * m_catalogue.reach(node, branch.deviation) / flat);
            if (!at) continue;
            double t = *at;
            if (periodic) t -= curve->Period() * std::floor((t - branch.first) / curve->Period());
            if (!periodic && (t < branch.first - Tolerance::parameter || t > branch.last + Tolerance::parameter))
                continue;
            paves.push_back({t, node});
            if (branch.closed && !periodic) {
                // The same point begins and ends the branch.
                for (const double end : {branch.first, branch.last})
                    if (std::abs(end - t) > Tolerance::parameter &&
                        curve->Value(end).Distance(point) <= m_catalogue.reach(node, branch.deviation))
                        paves.push_back({end, node});
            }
        }
        crossEdges(branch, a, b, paves);
        if (branch.closed && !periodic && !paves.empty() &&
            std::none_of(paves.begin(), paves.end(), [&branch](const Pave& pave) {
                return std::abs(pave.at - branch.first) <= Tolerance::parameter ||
                       std::abs(pave.at - branch.last) <= Tolerance::parameter;
            })) {
            // A ring that a search began somewhere: what runs over that place is one stretch in truth, so it is a node.
            const int node =
                m_catalogue.nodeAt(curve->Value(branch.first), 10.0 * m_tolerance + branch.deviation, branch.deviation);
            for (const double end : {branch.first, branch.last}) paves.push_back({end, node});
        }
        std::sort(paves.begin(), paves.end(), [](const Pave& x, const Pave& y) { return x.at < y.at; });
        if (periodic && !paves.empty()) paves.push_back({paves.front().at + curve->Period(), paves.front().node});
        const auto within = [&](double from, double to) -> Result<bool> {
            bool in = false, out = false;
            std::optional<gp_Pnt> inAt, outAt;
            // How far it strays was sampled, so that somewhere it may stray farther.
            const double reach = branch.exact ? branch.deviation : 3.0 * branch.deviation + 10.0 * m_tolerance;
            for (const double share : stations) {
                const gp_Pnt point = curve->Value(from + share * (to - from));
                const Where here = m_catalogue.locate(a, point, reach), there = m_catalogue.locate(b, point, reach);
                if (here == Where::In && there == Where::In) {
                    in = true;
                    inAt = point;
                }
                if (here == Where::Out || there == Where::Out) {
                    out = true;
                    outAt = point;
                }
            }
            if (in && out)
                return m_catalogue.refuse("The end of the curve in which two faces meet could not be found", faceA,
                                          faceB, *outAt);
            return in;
        };
        const auto keep = [&](double from, double to, int first, int last) {
            Section section{faceA, faceB, curve, from, to, first, last, branch.deviation, {}};
            if (!branch.exact) {
                // What a search has approximated is marched anew from node to node, to our own tolerance; where that
                // does not come through, it stays, with what it is really off.
                gp_Pnt start;
                gp_Vec along;
                curve->D1(from, start, along);
                const double wanted = std::max(m_tolerance, Tolerance::samePlace);
                const auto piece = meetingAlong(a.surface, b.surface, m_all.nodes[first].point, along,
                                                m_all.nodes[last].point, wanted);
                if (piece && runsAlong(*piece, curve, from, to, branch.deviation)) {
                    section.curve = piece->curve;
                    section.first = piece->first;
                    section.last = piece->last;
                    section.deviation = wanted;
                } else {
                    section.deviation = std::max(branch.deviation, offBoth(curve, from, to, a, b));
                }
            }
            m_sections.push_back(std::move(section));
        };
        if (paves.empty() && branch.closed) {
            // A ring that meets no edge.
            const double last = periodic ? branch.first + curve->Period() : branch.last;
            const auto in = within(branch.first, last);
            if (!in) return tl::unexpected(in.error());
            if (!*in) continue;
            const int node = m_catalogue.nodeAt(curve->Value(branch.first), branch.deviation);
            keep(branch.first, last, node, node);
            continue;
        }
        if (!branch.closed && !Precision::IsInfinite(branch.first) && !Precision::IsInfinite(branch.last)) {
            // What lies before the first node and behind the last one must be outside, else an end was missed.
            const double from = paves.empty() ? branch.last : paves.front().at,
                         to = paves.empty() ? branch.first : paves.back().at;
            for (const auto& [low, high] : {std::pair{branch.first, from}, {to, branch.last}}) {
                const gp_Pnt middle = curve->Value(0.5 * (low + high));
                if (high <= low || middle.Distance(curve->Value(low)) <= 10.0 * m_tolerance + branch.deviation)
                    continue;
                const auto in = within(low, high);
                if (!in) return tl::unexpected(in.error());
                if (*in)
                    return m_catalogue.refuse("The end of the curve in which two faces meet could not be found", faceA,
                                              faceB, middle);
            }
        }
        for (std::size_t i = 0; i + 1 < paves.size(); ++i) {
            const Pave &one = paves[i], &two = paves[i + 1];
            if (one.node == two.node) {
                // A hair between two parameters of one node, or all the way round from it to itself.
                const gp_Pnt middle = curve->Value(0.5 * (one.at + two.at));
                if (middle.Distance(m_all.nodes[one.node].point) <= 2.0 * m_catalogue.reach(one.node, branch.deviation))
                    continue;
            }
            const auto in = within(one.at, two.at);
            if (!in) return tl::unexpected(in.error());
            if (*in) keep(one.at, two.at, one.node, two.node);
        }
    }
    if (!meeting->complete) findLost(faceA, faceB, nodes, firstSection);
    return {};
}

Result<void> Builder::findSections(Progress& progress) {
    std::size_t done = 0;
    for (const auto& [a, b] : m_catalogue.pairs) {
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        progress.report(0.2 + 0.4 * static_cast<double>(done++) / static_cast<double>(m_catalogue.pairs.size()),
                        "Intersecting faces");
        if (auto found = sectionsOf(a, b); !found) return found;
    }
    return {};
}

/// Sections that cross on a face: three faces meet there. And sections that run over nodes of others.
void Builder::crossSections() {
    std::vector<std::vector<int>> onFace(m_catalogue.faces.size()), edgesNear(m_catalogue.faces.size());
    for (std::size_t e = 0; e < m_facesAtEdge.size(); ++e)
        for (const int f : m_facesAtEdge[e]) edgesNear[static_cast<std::size_t>(f)].push_back(static_cast<int>(e));
    std::vector<Bnd_Box> boxes(m_sections.size());
    for (std::size_t s = 0; s < m_sections.size(); ++s) {
        const Section& section = m_sections[s];
        onFace[section.faceA].push_back(static_cast<int>(s));
        onFace[section.faceB].push_back(static_cast<int>(s));
        constexpr int count = 16;
        for (int i = 0; i <= count; ++i)
            boxes[s].Add(section.curve->Value(section.first + (section.last - section.first) * i / count));
        const double bulge = GeomAdaptor_Curve(section.curve).GetType() == GeomAbs_Line
                                 ? 0.0
                                 : 0.02 * std::sqrt(boxes[s].SquareExtent());
        boxes[s].Enlarge(m_tolerance + section.deviation + bulge);
    }
    const auto add = [this](Section& section, double at, int node) {
        if (node == section.from || node == section.to) return;
        for (const Pave& pave : section.paves)
            if (pave.node == node) return;
        section.paves.push_back({at, node});
    };
    const auto otherInput = [this](const Section& section, int face) {
        return m_catalogue.faces[section.faceA == face ? section.faceB : section.faceA].input;
    };
    std::set<std::pair<int, int>> asked;
    for (std::size_t f = 0; f < onFace.size(); ++f) {
        const int face = static_cast<int>(f);
        for (std::size_t i = 0; i < onFace[f].size(); ++i)
            for (std::size_t j = i + 1; j < onFace[f].size(); ++j) {
                const int s = std::min(onFace[f][i], onFace[f][j]), t = std::max(onFace[f][i], onFace[f][j]);
                Section &one = m_sections[s], &two = m_sections[t];
                // Faces of one body meet in its edges alone: what two of them leave on a third can only touch at the
                // nodes of those edges, which both have already. Where the two are tangent they run within reach of
                // each other beside such a node, and no crossing must be made of that. Two branches of one meeting
                // cross where it is singular.
                const bool onePair = one.faceA == two.faceA && one.faceB == two.faceB;
                if (!onePair && otherInput(one, face) == otherInput(two, face)) continue;
                if (s == t || boxes[s].IsOut(boxes[t]) || !asked.insert({s, t}).second) continue;
                const double reach = m_tolerance + one.deviation + two.deviation;
                const GeomAdaptor_Curve a(one.curve, one.first, one.last), b(two.curve, two.first, two.last);
                for (const auto& [at, on] : crossingsOf(a, b, reach)) {
                    const gp_Pnt p = a.Value(at), q = b.Value(on);
                    const int node = m_catalogue.nodeAt(gp_Pnt(0.5 * (p.XYZ() + q.XYZ())), 0.5 * p.Distance(q));
                    add(one, at, node);
                    add(two, on, node);
                }
            }
        if (onFace[f].empty()) continue;
        // Nodes on this face, of sections and edges of other bodies, that lie on a section. An edge that runs in the
        // face where a section of another body does has left no section of its own.
        std::map<int, std::set<int>> nodes;  // by the other face's body
        for (const int e : edgesNear[f]) {
            const EdgeRecord& edge = m_catalogue.edges[static_cast<std::size_t>(e)];
            auto& own = nodes[edge.input];
            for (const int node : {edge.from, edge.to})
                if (node >= 0) own.insert(node);
            for (const Pave& pave : edge.paves) own.insert(pave.node);
        }
        for (const int s : onFace[f]) {
            auto& own = nodes[otherInput(m_sections[s], face)];
            own.insert({m_sections[s].from, m_sections[s].to});
            for (const Pave& pave : m_sections[s].paves) own.insert(pave.node);
        }
        for (const int s : onFace[f]) {
            Section& section = m_sections[s];
            std::set<int> others;
            for (const auto& [input, own] : nodes)
                if (input != otherInput(section, face)) others.insert(own.begin(), own.end());
            for (const int node : others) {
                if (node == section.from || node == section.to || boxes[s].IsOut(m_all.nodes[node].point)) continue;
                const double reach = m_catalogue.reach(node, section.deviation);
                const auto at = parameterAt(section.curve, m_all.nodes[node].point, reach);
                if (!at) continue;
                double t = *at;
                if (section.curve->IsPeriodic())
                    t -= section.curve->Period() * std::floor((t - section.first) / section.curve->Period());
                if (t > section.first && t < section.last) add(section, t, node);
            }
        }
    }
}

}  // namespace rasoir::arrange
