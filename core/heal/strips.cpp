#include "heal/strips.h"

#include <fmt/format.h>

#include <BRep_Tool.hxx>

#include "geometry/curves.h"
#include "heal/strip_contraction.h"

namespace rasoir::heal {

Contraction::Contraction(HalfEdgeBody& body, const std::vector<Strip>& strips, const std::vector<int>& corners,
                         const Found& found, Choices& choices, double tolerance)
    : m_body(body), m_strips(strips), m_tolerance(tolerance), m_found(found), m_choices(choices) {
    for (const Strip& strip : strips) m_removed.insert(m_body.faceRecord(strip.face));
    for (const int number : corners) m_removed.insert(m_body.faceRecord(number));
}

Result<std::set<int>> Contraction::run() {
    if (auto done = readStrips(); !done) return tl::unexpected(done.error());
    if (auto done = rewalkLoops(); !done) return tl::unexpected(done.error());
    if (auto done = solveCorners(); !done) return tl::unexpected(done.error());
    if (findShrinking() || findBackwards()) return std::set<int>{};
    if (auto done = findCurves(); !done) return tl::unexpected(done.error());
    if (auto done = apply(); !done) return tl::unexpected(done.error());
    return std::move(m_reshaped);
}

tl::unexpected<Problem> Contraction::stopped(std::string what, std::string remedy, std::vector<int> faces,
                                             std::optional<gp_Pnt> at) const {
    Place place;
    for (const int f : faces) place.faces.push_back(m_body.face(f).number);
    place.point = at;
    return fail(ProblemKind::NotPossible, std::move(what), std::move(remedy), std::move(place));
}

int Contraction::find(int v) {
    auto it = m_parent.try_emplace(v, v).first;
    while (it->second != it->first) it = m_parent.find(it->second);
    const int root = it->first;
    while (v != root) v = std::exchange(m_parent[v], root);
    return root;
}

gp_Pnt Contraction::pointOn(int h, double share) const {
    const SurgeryEdge& e = m_body.edge(m_body.half(h).edge);
    return e.curve->Value(m_body.half(h).alongEdge ? e.first + share * (e.last - e.first)
                                                   : e.last - share * (e.last - e.first));
}

Result<void> Contraction::readStrips() {
    std::unordered_map<int, int> label;  // side of a removed face: 0, 1 contact, -1 across
    for (const int f : m_removed) {
        const SurgeryFace& face = m_body.face(f);
        if (face.disordered || face.gone)
            return stopped("Its loops do not close, so what lies round it is unknown.", "Mend the part first.", {f});
        const auto strip =
            std::find_if(m_strips.begin(), m_strips.end(), [&](const Strip& s) { return s.face == face.number; });
        const std::vector<int> halves = m_body.halvesOf(f);
        for (const int h : halves) {
            if (m_body.half(h).dead || m_body.half(h).face != f) continue;
            const SurgeryEdge edge = m_body.edge(m_body.half(h).edge);
            int side = -1;
            if (strip != m_strips.end() && edge.number > 0)
                for (const int s : {0, 1})
                    if (std::find(strip->contact[s].begin(), strip->contact[s].end(), edge.number) !=
                        strip->contact[s].end())
                        side = s;
            label[h] = side;
            if (side < 0) unite(m_body.startOf(h), m_body.endOf(h));
            if (edge.degenerated) continue;
            const int other = m_body.twin(h);
            if (other < 0)
                return stopped("At one of its edges the body is open, or more than two faces meet.",
                               "Mend the part first.", {f}, edge.curve->Value(edge.first));
            const int beyond = m_body.half(other).face;
            if (m_removed.contains(beyond)) {
                if (side >= 0 && beyond != f)
                    return stopped("Another round runs along it.", "Remove that one first.", {f, beyond});
                continue;
            }
            if (m_body.face(beyond).disordered)
                return stopped("A face beside it has loops that do not close.", "Mend the part first.", {beyond});
            if (side < 0) m_instead[other] = {};
        }
    }
    for (const int e : m_found.shrinking) {
        for (const int h : std::vector<int>(m_body.edge(e).halves))
            if (!m_body.half(h).dead && !m_removed.contains(m_body.half(h).face)) m_instead[h] = {};
        unite(m_body.edge(e).start, m_body.edge(e).end);
        for (const int v : {m_body.edge(e).start, m_body.edge(e).end}) m_width.try_emplace(v, 0.0);
    }
    for (const Strip& strip : m_strips)
        if (auto done = layOut(m_body.faceRecord(strip.face), label); !done) return done;
    for (const int f : m_removed)
        for (const int h : m_body.halvesOf(f))
            if (!m_body.half(h).dead && m_body.half(h).face == f)
                for (const int v : {m_body.startOf(h), m_body.endOf(h)}) {
                    m_touched.insert(find(v));
                    m_width.try_emplace(v, 0.0);
                }
    for (const int e : m_found.shrinking) m_touched.insert(find(m_body.edge(e).start));
    measureWidths();
    return {};
}

void Contraction::measureWidths() {
    for (const int f : m_removed) {
        const SurgeryFace& face = m_body.face(f);
        const auto strip =
            std::find_if(m_strips.begin(), m_strips.end(), [&](const Strip& s) { return s.face == face.number; });
        double width = 0.0;
        std::vector<int> halves;
        for (const int h : m_body.halvesOf(f))
            if (!m_body.half(h).dead && m_body.half(h).face == f) halves.push_back(h);
        for (const int h : halves) {
            const SurgeryEdge& e = m_body.edge(m_body.half(h).edge);
            if (e.degenerated) continue;
            const bool contact =
                strip != m_strips.end() &&
                (std::find(strip->contact[0].begin(), strip->contact[0].end(), e.number) != strip->contact[0].end() ||
                 std::find(strip->contact[1].begin(), strip->contact[1].end(), e.number) != strip->contact[1].end());
            if (contact) continue;
            for (const double share : {0.0, 0.5})
                for (const double other : {0.5, 1.0})
                    width = std::max(width, pointOn(h, share).Distance(pointOn(h, other)));
        }
        for (const int h : halves)
            for (const int v : {m_body.startOf(h), m_body.endOf(h)}) {
                double& own = m_width[v];
                own = std::max(own, width);
            }
    }
}

Contraction::Path Contraction::pathAlong(const std::vector<int>& sides, bool backwards) const {
    Path path;
    for (const int h : sides) {
        for (int i = path.points.empty() ? 0 : 1; i <= 24; ++i) {
            const gp_Pnt point = pointOn(h, backwards ? 1.0 - i / 24.0 : i / 24.0);
            path.at.push_back(path.points.empty() ? 0.0 : path.at.back() + path.points.back().Distance(point));
            path.points.push_back(point);
        }
        path.ends.push_back(path.at.back());
    }
    return path;
}

Result<void> Contraction::layOut(int f, const std::unordered_map<int, int>& label) {
    std::vector<int> alive;
    for (const int h : m_body.halvesOf(f))
        if (!m_body.half(h).dead && m_body.half(h).face == f) alive.push_back(h);
    std::unordered_set<int> seen;
    std::vector<std::vector<int>> loops;
    for (const int first : alive) {
        if (seen.contains(first)) continue;
        std::vector<int> loop;
        for (int h = first; !seen.contains(h); h = m_body.half(h).next) {
            seen.insert(h);
            loop.push_back(h);
        }
        loops.push_back(std::move(loop));
    }
    std::array<std::vector<int>, 2> chain;  // in the strip's own direction
    if (loops.size() == 1) {
        std::vector<int>& loop = loops.front();
        std::size_t begin = loop.size();
        for (std::size_t i = 0; i < loop.size(); ++i)
            if (label.at(loop[i]) == 0 && label.at(loop[(i + loop.size() - 1) % loop.size()]) != 0) {
                if (begin != loop.size())
                    return stopped("One of its sides is interrupted.", "Remove what lies between first.", {f});
                begin = i;
            }
        if (begin == loop.size())
            return stopped("It does not run along two faces.", "Remove it together with its neighbours.", {f});
        std::rotate(loop.begin(), loop.begin() + static_cast<std::ptrdiff_t>(begin), loop.end());
        int stage = 0;
        for (const int h : loop) {
            const int side = label.at(h);
            if (side == 0 && stage == 0)
                chain[0].push_back(h);
            else if (side == 1 && stage <= 2) {
                if (stage == 2 && !chain[1].empty())
                    return stopped("One of its sides is interrupted.", "Remove what lies between first.", {f});
                stage = 1;
                chain[1].push_back(h);
            } else if (side < 0)
                stage = chain[1].empty() ? 0 : 2;
            else
                return stopped("One of its sides is interrupted.", "Remove what lies between first.", {f});
        }
    } else if (loops.size() == 2) {
        for (std::vector<int>& loop : loops) {
            const int side = label.at(loop.front());
            if (side < 0 || !chain[side].empty() ||
                std::any_of(loop.begin(), loop.end(), [&](int h) { return label.at(h) != side; }))
                return stopped("Its two rims are not what it runs along.", "Remove it together with its neighbours.",
                               {f});
            chain[side] = loop;
        }
        // Both rims begin where they are nearest to each other.
        const gp_Pnt from = pointOn(chain[0].front(), 0.0);
        const auto nearest = std::min_element(chain[1].begin(), chain[1].end(), [&](int a, int b) {
            return pointOn(a, 0.0).Distance(from) < pointOn(b, 0.0).Distance(from);
        });
        std::rotate(chain[1].begin(), nearest, chain[1].end());
        unite(m_body.startOf(chain[0].front()), m_body.startOf(chain[1].front()));
    } else {
        return stopped("It has holes.", "Remove the holes in it first.", {f});
    }
    if (chain[0].empty() || chain[1].empty())
        return stopped("It does not run along two faces.", "Remove it together with its neighbours.", {f});
    std::reverse(chain[1].begin(),
                 chain[1].end());  // now both lead the same way; sides of chain[1] are walked backwards
    if (find(m_body.endOf(chain[0].back())) != find(m_body.startOf(chain[1].back())) ||
        find(m_body.startOf(chain[0].front())) != find(m_body.endOf(chain[1].front())))
        return stopped("Its two sides do not end together.", "Remove what lies between first.", {f});

    const Path own = pathAlong(chain[0], false), other = pathAlong(chain[1], true);
    struct Break {
        double at = 0.0;
        int group = -1;
        int on[2] = {0, 0};  // sides that have ended
    };
    std::vector<Break> breaks;
    for (std::size_t i = 0; i + 1 < chain[0].size(); ++i)
        breaks.push_back({other.nearest(pointOn(chain[0][i], 1.0)), m_body.endOf(chain[0][i]), {1, 0}});
    // Of the edge: ends nearer than that are one end that was fitted twice.
    const double same = 1e-4 * other.length() + 10.0 * m_tolerance;
    for (std::size_t j = 0; j + 1 < chain[1].size(); ++j) {
        const int vertex = m_body.startOf(chain[1][j]);
        const auto twin = std::find_if(breaks.begin(), breaks.end(), [&](const Break& b) {
            return b.on[1] == 0 && std::abs(b.at - other.ends[j]) <= same;
        });
        if (twin != breaks.end()) {
            unite(twin->group, vertex);
            twin->on[1] = 1;
        } else {
            breaks.push_back({other.ends[j], vertex, {0, 1}});
        }
    }
    std::stable_sort(breaks.begin(), breaks.end(), [](const Break& a, const Break& b) { return a.at < b.at; });
    std::size_t i = 0, j = 0;
    double from = 0.0;
    int group = m_body.startOf(chain[0].front());
    for (std::size_t s = 0; s <= breaks.size(); ++s) {
        const bool last = s == breaks.size();
        const double to = last ? other.length() : breaks[s].at;
        const int next = last ? m_body.endOf(chain[0].back()) : breaks[s].group;
        const int beyondOwn = m_body.twin(chain[0][i]), beyondOther = m_body.twin(chain[1][j]);
        const Stretch along{f, static_cast<int>(s)};
        if (m_found.contractsBackwards && m_found.backwards.contains(along)) {
            unite(group, next);
            m_instead.try_emplace(beyondOwn);
            m_instead.try_emplace(beyondOther);
            if (!last) {
                i += static_cast<std::size_t>(breaks[s].on[0]);
                j += static_cast<std::size_t>(breaks[s].on[1]);
            }
            from = to;
            group = next;
            continue;
        }
        Fresh fresh;
        fresh.along = along;
        fresh.faceAlong = m_body.half(beyondOther).face;  // its side runs against chain[1]'s, which we walk backwards
        fresh.faceAgainst = m_body.half(beyondOwn).face;
        if (fresh.faceAlong == fresh.faceAgainst)
            return stopped("It runs along one face on both its sides.", "Remove it together with its neighbours.", {f});
        fresh.from = group;
        fresh.to = next;
        for (const double share : {0.25, 0.5, 0.75}) {
            const gp_Pnt point = other.value(from + share * (to - from));
            fresh.hints.emplace_back(0.5 * (point.XYZ() + own.value(own.nearest(point)).XYZ()));
        }
        fresh.direction = gp_Vec(other.value(from), other.value(from + 0.02 * (to - from)));
        const int id = static_cast<int>(m_fresh.size());
        m_fresh.push_back(std::move(fresh));
        auto& ownRow = m_instead[beyondOwn];
        ownRow.insert(ownRow.begin(), Side{-1, id, false});  // that face sees them the other way round
        m_instead[beyondOther].push_back(Side{-1, id, true});
        if (!last) {
            i += static_cast<std::size_t>(breaks[s].on[0]);
            j += static_cast<std::size_t>(breaks[s].on[1]);
        }
        from = to;
        group = next;
    }
    return {};
}

int Contraction::startGroup(const Side& side) {
    if (side.half >= 0) return find(m_body.startOf(side.half));
    const Fresh& fresh = m_fresh[side.fresh];
    return find(side.along ? fresh.from : fresh.to);
}

int Contraction::endGroup(const Side& side) {
    if (side.half >= 0) return find(m_body.endOf(side.half));
    const Fresh& fresh = m_fresh[side.fresh];
    return find(side.along ? fresh.to : fresh.from);
}

Result<void> Contraction::rewalkLoops() {
    std::unordered_set<int> touched;
    for (const int v : m_touched) touched.insert(find(v));
    m_touched = std::move(touched);
    std::unordered_set<int> seen;
    for (const auto& [first, instead] : m_instead) {
        if (seen.contains(first)) continue;
        const int face = m_body.half(first).face;
        std::vector<Side> sides;
        for (int h = first; !seen.contains(h); h = m_body.half(h).next) {
            seen.insert(h);
            const auto other = m_instead.find(h);
            if (other == m_instead.end())
                sides.push_back({h, -1, true});
            else
                sides.insert(sides.end(), other->second.begin(), other->second.end());
        }
        if (sides.empty())
            return stopped("A face beside it would vanish.", "Remove that face together with it.", {face});
        m_loops.emplace_back(face, std::move(sides));
    }
    for (const auto& [face, sides] : m_loops)
        for (std::size_t s = 0; s < sides.size(); ++s) {
            const Side &in = sides[s], &out = sides[(s + 1) % sides.size()];
            const int group = endGroup(in);
            if (group != startGroup(out))
                return stopped("The faces round it do not follow each other.", "Mend the part first.", {face});
            if (m_touched.contains(group)) m_corners[group].ring.push_back({face, in, out});
        }
    for (auto& [group, corner] : m_corners)
        if (auto done = orderRing(group, corner); !done) return done;
    return {};
}

Contraction::Side Contraction::twinOf(const Side& side) {
    if (side.fresh >= 0) return {-1, side.fresh, !side.along};
    return {m_body.twin(side.half), -1, true};
}

Result<void> Contraction::orderRing(int group, Corner& corner) {
    std::vector<Slot> left = std::move(corner.ring);
    const std::size_t known = left.size();
    std::vector<Slot> ring{left.front()};
    std::size_t used = 1;
    for (std::size_t guard = 0; guard < 1000; ++guard) {
        const Side in = twinOf(ring.back().out);
        if (in.half < 0 && in.fresh < 0)
            return stopped("An edge that ends at it is open, or ends in a pole.", "Mend the part first.",
                           {ring.back().face});
        if (in == ring.front().in) {
            if (used != known)
                return stopped("The faces round it touch each other in a single point.",
                               "Remove its neighbours together with it.", {ring.front().face});
            corner.ring = std::move(ring);
            return {};
        }
        const auto found = std::find_if(left.begin(), left.end(), [&](const Slot& slot) { return slot.in == in; });
        if (found != left.end()) {
            ++used;
            ring.push_back(*found);
            continue;
        }
        if (in.half < 0)
            return stopped("The faces round it do not form a ring.", "Mend the part first.", {ring.back().face});
        const Side out{m_body.half(in.half).next, -1, true};
        if (startGroup(out) != group)
            return stopped("The faces round it do not form a ring.", "Mend the part first.", {ring.back().face});
        const int face = m_body.half(in.half).face;
        ring.push_back({face, in, out});
    }
    return stopped("The faces round it do not form a ring.", "Mend the part first.", {ring.front().face});
}

Result<std::set<int>> removeStrips(HalfEdgeBody& body, const std::vector<Strip>& strips,
                                   const std::vector<int>& corners, double tolerance, const Judge& judge) {
    bool passed = false;  // ends of new edges have passed each other
    const auto attempt = [&](bool contracts, Choices& choices) -> Result<std::set<int>> {
        Contraction::Found found;
        found.contractsBackwards = contracts;
        for (int round = 0; round < 8; ++round) {
            body.begin();
            Choices fresh = choices;
            Contraction contraction(body, strips, corners, found, fresh, tolerance);
            auto done = contraction.run();
            passed = passed || !contraction.backwards().empty();
            const bool again = !contraction.shrunk().empty() || (contracts && !contraction.backwards().empty());
            if (!done || !again) {
                choices = fresh;
                return done;
            }
            const std::size_t before = found.shrinking.size() + found.backwards.size();
            found.shrinking.insert(contraction.shrunk().begin(), contraction.shrunk().end());
            found.backwards.insert(contraction.backwards().begin(), contraction.backwards().end());
            if (found.shrinking.size() + found.backwards.size() == before)
                return fail(ProblemKind::NotPossible, "An edge beside it has no length left.",
                            "Remove the features beside it first.");
            body.rollBack();
        }
        return fail(ProblemKind::NotPossible, "The edges beside it have no length left.",
                    "Remove the features beside it first.");
    };
    auto done = firstAccepted(body, judge, [&](Choices& choices) { return attempt(false, choices); });
    // Where a judge was content with none of the ways, ends that have passed each other are taken for one corner.
    if (done || !judge || !passed) return done;
    auto contracted = firstAccepted(body, judge, [&](Choices& choices) { return attempt(true, choices); });
    return contracted ? std::move(contracted) : std::move(done);
}

}  // namespace rasoir::heal
