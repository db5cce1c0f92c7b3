#include "arrange/merging.h"

#include <map>

#include "common/sets.h"
#include "common/tolerance.h"

// The loops of the chosen pieces are taken as one structure of half-edges. An arc at which two pieces of one face meet
// and nothing else ends is taken out of it as an edge is taken out of any such structure: what came before either half
// goes on behind the other one. The rings that are left are the loops of what remains; the one with positive area is
// the outline. That needs no geometry but the signs of areas in the parameters.
//
// Which of several pieces go together is decided before, the longest common boundary first: where a third piece ends on
// the line between two, as a rib within a plate does, they have to stay two.

namespace rasoir::arrange {
double arcLength(const Arc& arc) {
    double length = 0.0;
    gp_Pnt last = arc.curve->Value(arc.first);
    constexpr int steps = 8;
    for (int i = 1; i <= steps; ++i) {
        const gp_Pnt next = arc.curve->Value(arc.first + (arc.last - arc.first) * i / steps);
        length += last.Distance(next);
        last = next;
    }
    return length;
}

namespace {

struct LoopHalf {
    Use use;
    int piece = -1;  // among those chosen
    int next = -1, before = -1;
    bool gone = false;
};

/// In the surface's parameters, positive for an outline.
double parameterArea(const Arrangement& all, const std::vector<Use>& loop) {
    double twice = 0.0;
    std::optional<gp_Pnt2d> first, last;
    const auto goTo = [&](const gp_Pnt2d& to) {
        if (last) twice += last->X() * to.Y() - to.X() * last->Y();
        if (!first) first = to;
        last = to;
    };
    for (const Use& use : loop) {
        const Arc& arc = all.arcs[static_cast<std::size_t>(use.arc)];
        constexpr int steps = 16;
        for (int i = 0; i <= steps; ++i) {
            const double share = static_cast<double>(use.forward ? i : steps - i) / steps;
            goTo(use.trace->Value(arc.first + share * (arc.last - arc.first)));
        }
    }
    if (first) goTo(*first);
    return 0.5 * twice;
}

class Merger {
public:
    Merger(Arrangement& all, const std::vector<int>& pieces, const std::function<bool(int, int)>& alike)
        : m_all(all), m_pieces(pieces), m_alike(alike), m_groups(pieces.size()) {}

    Merged run() {
        collect();
        group();
        takeOut();
        Merged merged = build();
        joinArcs(merged);
        return merged;
    }

private:
    Arrangement& m_all;
    const std::vector<int>& m_pieces;
    const std::function<bool(int, int)>& m_alike;
    Sets m_groups;
    std::vector<LoopHalf> m_halves;
    std::map<int, std::vector<int>> m_at;  // arc: halves
    std::set<int> m_open;                  // arcs at which two pieces of one face meet and nothing else
    std::set<int> m_changed;               // roots of groups

    [[nodiscard]] const Piece& pieceOf(int half) const {
        return m_all.pieces[static_cast<std::size_t>(
            m_pieces[static_cast<std::size_t>(m_halves[static_cast<std::size_t>(half)].piece)])];
    }
    [[nodiscard]] static bool sameFace(const Piece& a, const Piece& b) {
        return a.owners.front().input == b.owners.front().input && a.owners.front().number == b.owners.front().number;
    }

    void collect() {
        for (std::size_t i = 0; i < m_pieces.size(); ++i) {
            const Piece& piece = m_all.pieces[static_cast<std::size_t>(m_pieces[i])];
            const auto add = [&](const std::vector<Use>& loop) {
                const int first = static_cast<int>(m_halves.size()), count = static_cast<int>(loop.size());
                for (int k = 0; k < count; ++k) {
                    m_at[loop[static_cast<std::size_t>(k)].arc].push_back(first + k);
                    m_halves.push_back({loop[static_cast<std::size_t>(k)], static_cast<int>(i), first + (k + 1) % count,
                                        first + (k + count - 1) % count});
                }
            };
            if (piece.whole)
                add(piece.uses);  // in no order, which nobody asks of it
            else
                for (const auto& loop : piece.loops) add(loop);
        }
        for (const auto& [arc, halves] : m_at) {
            if (halves.size() != 2) continue;
            const Piece &one = pieceOf(halves[0]), &other = pieceOf(halves[1]);
            if (one.whole || other.whole || !sameFace(one, other)) continue;
            const auto& owners = m_all.arcs[static_cast<std::size_t>(arc)].owners;
            const bool ownEdge = std::any_of(owners.begin(), owners.end(), [&one](const Owner& owner) {
                return owner.input == one.owners.front().input;
            });
            const int p = m_pieces[static_cast<std::size_t>(m_halves[static_cast<std::size_t>(halves[0])].piece)],
                      q = m_pieces[static_cast<std::size_t>(m_halves[static_cast<std::size_t>(halves[1])].piece)];
            if (!ownEdge && m_alike(p, q)) m_open.insert(arc);
        }
    }

    void group() {
        // Pieces of one face on two sides of an arc that stays have to stay two.
        std::map<int, std::set<int>> apart;
        for (const auto& [arc, halves] : m_at)
            if (!m_open.contains(arc))
                for (const int a : halves)
                    for (const int b : halves) {
                        const int p = m_halves[static_cast<std::size_t>(a)].piece,
                                  q = m_halves[static_cast<std::size_t>(b)].piece;
                        const auto& owners = m_all.arcs[static_cast<std::size_t>(arc)].owners;
                        const int input = pieceOf(a).owners.front().input;
                        const bool seam = std::any_of(owners.begin(), owners.end(),
                                                      [input](const Owner& owner) { return owner.input == input; });
                        if (p != q && !seam && sameFace(pieceOf(a), pieceOf(b))) apart[p].insert(q);
                    }
        std::vector<std::pair<double, int>> byLength;
        std::map<std::pair<int, int>, double> common;
        const auto pairOf = [this](int arc) {
            const auto& halves = m_at.at(arc);
            const int p = m_halves[static_cast<std::size_t>(halves[0])].piece,
                      q = m_halves[static_cast<std::size_t>(halves[1])].piece;
            return std::pair(std::min(p, q), std::max(p, q));
        };
        for (const int arc : m_open) common[pairOf(arc)] += arcLength(m_all.arcs[static_cast<std::size_t>(arc)]);
        std::vector<std::pair<double, std::pair<int, int>>> order;
        for (const auto& [pair, length] : common)
            if (pair.first != pair.second) order.emplace_back(-length, pair);
        std::sort(order.begin(), order.end());
        for (const auto& [length, pair] : order) {
            const int a = m_groups.root(pair.first), b = m_groups.root(pair.second);
            if (a == b) continue;
            const auto own = apart.find(a);
            if (own != apart.end() && std::any_of(own->second.begin(), own->second.end(),
                                                  [&](int other) { return m_groups.root(other) == b; }))
                continue;
            std::set<int> both = apart[a];
            both.insert(apart[b].begin(), apart[b].end());
            // Told both ways: whoever asks from the other side has to find it too.
            for (const int other : both) apart[m_groups.root(other)].insert(a);
            m_groups.join(a, b);
            apart[m_groups.root(a)] = std::move(both);
        }
    }

    void takeOut() {
        for (const int arc : m_open) {
            const int h = m_at.at(arc)[0], g = m_at.at(arc)[1];
            LoopHalf &one = m_halves[static_cast<std::size_t>(h)], &other = m_halves[static_cast<std::size_t>(g)];
            if (m_groups.root(one.piece) != m_groups.root(other.piece) || one.use.forward == other.use.forward)
                continue;
            m_changed.insert(m_groups.root(one.piece));
            const auto link = [this](int from, int to) {
                m_halves[static_cast<std::size_t>(from)].next = to;
                m_halves[static_cast<std::size_t>(to)].before = from;
            };
            const int beforeOne = one.before, afterOne = one.next, beforeOther = other.before, afterOther = other.next;
            one.gone = other.gone = true;
            if (beforeOne == h || beforeOther == g) {
                // A ring that is a loop by itself on one side: what came before it on the other goes on behind it.
                if (beforeOne != h) link(beforeOne, afterOne);
                if (beforeOther != g) link(beforeOther, afterOther);
                continue;
            }
            if (beforeOne != g && afterOther != h) link(beforeOne, afterOther);
            if (beforeOther != h && afterOne != g) link(beforeOther, afterOne);
        }
    }

    Merged build() {
        std::map<int, std::vector<int>> members;
        for (std::size_t i = 0; i < m_pieces.size(); ++i)
            members[m_groups.root(static_cast<int>(i))].push_back(static_cast<int>(i));
        std::map<int, std::vector<std::vector<Use>>> loops;
        std::vector<char> seen(m_halves.size(), false);
        for (std::size_t h = 0; h < m_halves.size(); ++h) {
            const int root = m_groups.root(m_halves[h].piece);
            if (seen[h] || m_halves[h].gone || !m_changed.contains(root)) continue;
            std::vector<Use> loop;
            for (std::size_t at = h; !seen[at]; at = static_cast<std::size_t>(m_halves[at].next)) {
                seen[at] = true;
                loop.push_back(m_halves[at].use);
            }
            loops[root].push_back(std::move(loop));
        }
        Merged merged;
        for (const auto& [root, own] : members) {
            std::vector<int> from;
            for (const int i : own) from.push_back(m_pieces[static_cast<std::size_t>(i)]);
            if (!m_changed.contains(root)) {
                merged.pieces.push_back(from.front());
                merged.from.push_back(std::move(from));
                continue;
            }
            Piece piece = m_all.pieces[static_cast<std::size_t>(from.front())];
            piece.loops = std::move(loops[root]);
            piece.slits.clear();
            std::stable_sort(piece.loops.begin(), piece.loops.end(), [this](const auto& a, const auto& b) {
                return parameterArea(m_all, a) > parameterArea(m_all, b);
            });
            piece.uses.clear();
            for (const auto& loop : piece.loops) piece.uses.insert(piece.uses.end(), loop.begin(), loop.end());
            merged.pieces.push_back(static_cast<int>(m_all.pieces.size()));
            merged.from.push_back(std::move(from));
            m_all.pieces.push_back(std::move(piece));
        }
        return merged;
    }

    /// One arc for two that run on into each other at a node where nothing else is.
    void joinArcs(Merged& merged) {
        for (std::size_t i = 0; i < merged.pieces.size(); ++i) {
            // A piece of its own to write to: what is not chosen keeps its arcs.
            const Piece& piece = m_all.pieces[static_cast<std::size_t>(merged.pieces[i])];
            if (piece.whole) continue;
            if (merged.from[i].size() == 1 && merged.from[i].front() == merged.pieces[i]) {
                Piece copy = piece;
                merged.pieces[i] = static_cast<int>(m_all.pieces.size());
                m_all.pieces.push_back(std::move(copy));
            }
        }
        for (bool again = true; again;) {
            again = false;
            std::map<int, std::set<int>> arcsAt;
            std::map<int, int> ends;
            std::set<int> seen;
            for (const int p : merged.pieces)
                for (const Use& use : m_all.pieces[static_cast<std::size_t>(p)].uses) {
                    if (!seen.insert(use.arc).second) continue;
                    const Arc& arc = m_all.arcs[static_cast<std::size_t>(use.arc)];
                    for (const int node : {arc.from, arc.to}) {
                        arcsAt[node].insert(use.arc);
                        ++ends[node];
                    }
                }
            std::set<int> touched;
            for (const auto& [node, arcs] : arcsAt) {
                if (node < 0 || arcs.size() != 2 || ends[node] != 2 ||
                    !m_all.nodes[static_cast<std::size_t>(node)].owners.empty())
                    continue;
                const int a = *arcs.begin(), b = *arcs.rbegin();
                if (touched.contains(a) || touched.contains(b)) continue;
                const bool aFirst = m_all.arcs[static_cast<std::size_t>(a)].to == node;
                if (!joined(merged, aFirst ? a : b, aFirst ? b : a, node)) continue;
                touched.insert(a);
                touched.insert(b);
                again = true;
            }
        }
    }

    /// Puts an arc in the place of two, where the second begins at the end of the first on one curve.
    bool joined(const Merged& merged, int a, int b, int node) {
        const Arc one = m_all.arcs[static_cast<std::size_t>(a)], other = m_all.arcs[static_cast<std::size_t>(b)];
        if (one.to != node || other.from != node || one.curve != other.curve || one.owners != other.owners)
            return false;
        double shift = 0.0;
        const double gap = one.last - other.first;
        if (std::abs(gap) > Tolerance::parameter * (1.0 + std::abs(one.last))) {
            if (one.curve->IsPeriodic() == 0) return false;
            shift = one.curve->Period() * std::round(gap / one.curve->Period());
            if (std::abs(gap - shift) > Tolerance::parameter) return false;
        }
        // In each piece one lies behind the other, on a trace that goes on as it was.
        const auto isFirst = [a, b](const Use& use) { return use.arc == (use.forward ? a : b); };
        std::set<int> touched;
        for (const int p : merged.pieces)
            for (const auto& loop : m_all.pieces[static_cast<std::size_t>(p)].loops)
                for (std::size_t u = 0; u < loop.size(); ++u) {
                    if (!isFirst(loop[u])) continue;
                    const Use& next = loop[(u + 1) % loop.size()];
                    if (next.arc != (loop[u].forward ? b : a) || next.forward != loop[u].forward) return false;
                    const Use &useOne = loop[u].forward ? loop[u] : next, &useOther = loop[u].forward ? next : loop[u];
                    for (int i = 0; i <= 4; ++i) {
                        const double at = other.first + (other.last - other.first) * i / 4;
                        const bool within = useOne.trace->FirstParameter() <= at + shift + Tolerance::parameter &&
                                            useOne.trace->LastParameter() >= at + shift - Tolerance::parameter;
                        if (!within ||
                            useOne.trace->Value(at + shift).Distance(useOther.trace->Value(at)) > Tolerance::parameter)
                            return false;
                    }
                    touched.insert(p);
                }
        if (touched.empty()) return false;
        Arc whole = one;
        whole.last = other.last + shift;
        whole.to = other.to;
        whole.tolerance = std::max(one.tolerance, other.tolerance);
        whole.within.insert(other.within.begin(), other.within.end());
        whole.whole = false;
        const int number = static_cast<int>(m_all.arcs.size());
        m_all.arcs.push_back(std::move(whole));
        for (const int p : touched) {
            Piece& piece = m_all.pieces[static_cast<std::size_t>(p)];
            piece.uses.clear();
            for (auto& loop : piece.loops) {
                std::vector<Use> shorter;
                for (std::size_t u = 0; u < loop.size(); ++u) {
                    const Use& use = loop[u];
                    if (isFirst(use))
                        shorter.push_back(
                            {number, use.forward, use.forward ? use.trace : loop[(u + 1) % loop.size()].trace});
                    else if (use.arc != a && use.arc != b)
                        shorter.push_back(use);
                }
                loop = std::move(shorter);
                piece.uses.insert(piece.uses.end(), loop.begin(), loop.end());
            }
        }
        return true;
    }
};

}  // namespace

Merged merged(Arrangement& all, const std::vector<int>& pieces, const std::function<bool(int, int)>& alike) {
    return Merger(all, pieces, alike).run();
}

}  // namespace rasoir::arrange
