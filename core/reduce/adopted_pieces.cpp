#include "reduce/adopted_pieces.h"

#include <algorithm>
#include <bit>

#include "arrange/maker.h"
#include "arrange/merging.h"
#include "common/tolerance.h"
#include "geometry/integrals.h"

// Gaps are told by free inner edges: arcs at which a single piece is kept, and which lie neither on the solid's skin
// nor on a cutter. Those that hang together at their ends are the rim of one gap. What could fill it are pieces of the
// walls at its rim, from piece to piece over arcs within the solid. Which of them are the sheet is a question of all at
// once: where two middles cross, each goes on beyond the other, and taking one side of one only makes sense with one
// side of the other. So sets of pieces are compared, by the length of free inner edge that each leaves; a little is
// charged for area, so that of two sets that leave none the smaller is taken, which ends at the mitre. All sets are
// tried where the pieces are few; else they are changed by one or two at a time until no change is better.

namespace rasoir::reduce {
namespace {

/// One gap, and what could fill it.
class Gap {
public:
    /// A strip so many thicknesses wide weighs as much as one free edge along it: up to twice as wide a gap is closed.
    static constexpr double areaPerEdge = 20.0;
    static constexpr std::size_t fewEnough = 14;    // sets of so many are all tried
    static constexpr std::size_t mostPieces = 120;  // of more, those next to the rim

    Gap(const std::map<int, double>& lengths, const std::map<int, int>& keptAt) : m_lengths(lengths), m_at(keptAt) {}

    void add(int piece, const arrange::Piece& what, double weight) {
        Candidate candidate{piece, weight, {}};
        for (const arrange::Use& use : what.uses)
            if (m_lengths.contains(use.arc)) ++candidate.uses[use.arc];
        m_candidates.push_back(std::move(candidate));
    }

    /// The pieces of the best set.
    [[nodiscard]] std::vector<int> best() {
        const std::size_t n = m_candidates.size();
        m_taken.assign(n, 0);
        if (n <= fewEnough) {
            // Gray's order: from one set to the next a single piece changes.
            double cost = 0.0, least = 0.0;
            std::vector<char> found = m_taken;
            for (std::size_t i = 1; i < (std::size_t(1) << n); ++i) {
                cost += change(static_cast<std::size_t>(std::countr_zero(i)));
                if (cost < least - Tolerance::noWay) {
                    least = cost;
                    found = m_taken;
                }
            }
            m_taken = std::move(found);
        } else {
            while (improved()) {
            }
        }
        std::vector<int> pieces;
        for (std::size_t c = 0; c < n; ++c)
            if (m_taken[c] != 0) pieces.push_back(m_candidates[c].piece);
        return pieces;
    }

private:
    struct Candidate {
        int piece;
        double weight;
        std::map<int, int> uses;  // by arc
    };
    const std::map<int, double>& m_lengths;  // [mm] by arc within the solid
    std::map<int, int> m_at;                 // by arc: pieces that are kept or taken
    std::vector<Candidate> m_candidates;
    std::vector<char> m_taken;

    /// Takes a piece, or puts it back. Returns what that adds to the cost.
    double change(std::size_t c) {
        const Candidate& one = m_candidates[c];
        const int by = m_taken[c] != 0 ? -1 : 1;
        m_taken[c] ^= 1;
        double cost = by * one.weight;
        for (const auto& [arc, count] : one.uses) {
            int& now = m_at[arc];
            const double length = m_lengths.at(arc);
            if (now == 1) cost -= length;
            now += by * count;
            if (now == 1) cost += length;
        }
        return cost;
    }

    /// Changes the one or two pieces that make most of a difference.
    bool improved() {
        double most = -Tolerance::noWay;
        std::pair<std::size_t, std::size_t> which;
        for (std::size_t a = 0; a < m_candidates.size(); ++a) {
            const double alone = change(a);
            if (alone < most) {
                most = alone;
                which = {a, a};
            }
            for (std::size_t b = a + 1; b < m_candidates.size(); ++b) {
                if (const double both = alone + change(b); both < most) {
                    most = both;
                    which = {a, b};
                }
                change(b);
            }
            change(a);
        }
        if (most == -Tolerance::noWay) return false;
        change(which.first);
        if (which.second != which.first) change(which.second);
        return true;
    }
};

}  // namespace

void adoptHoles(SheetSoFar sheet) {
    auto& [all, kept, wallOf, base, wallsOfPiece] = sheet;
    std::map<int, std::vector<int>> piecesAt;  // by arc
    std::map<int, std::set<int>> couldBe;      // not kept: walls
    for (int p = 0; p < static_cast<int>(all.pieces.size()); ++p) {
        if (!wallOf.contains(p)) {
            auto walls = wallsOfPiece(p);
            if (walls.empty()) continue;
            couldBe[p] = std::move(walls);
        }
        for (const arrange::Use& use : all.pieces[static_cast<std::size_t>(p)].uses) piecesAt[use.arc].push_back(p);
    }
    std::set<int> seen;
    for (const auto& [first, walls] : couldBe)
        for (const int wall : walls) {
            if (wallOf.contains(first) || !seen.insert(first).second) continue;
            std::vector<int> hole{first};
            bool surrounded = true;
            for (std::size_t i = 0; i < hole.size(); ++i)
                for (const arrange::Use& use : all.pieces[static_cast<std::size_t>(hole[i])].uses) {
                    bool closed = false;
                    for (const int q : piecesAt[use.arc]) {
                        if (q == hole[i]) continue;
                        const auto known = wallOf.find(q);
                        closed = closed || (known != wallOf.end() && base[static_cast<std::size_t>(known->second)] ==
                                                                         base[static_cast<std::size_t>(wall)]);
                        if (const auto other = couldBe.find(q);
                            known == wallOf.end() && other != couldBe.end() && other->second.contains(wall)) {
                            closed = true;
                            if (seen.insert(q).second) hole.push_back(q);
                        }
                    }
                    surrounded = surrounded && closed;
                }
            if (!surrounded) continue;
            for (const int p : hole) {
                kept.push_back(p);
                wallOf[p] = wall;
            }
        }
}

void closeGaps(SheetSoFar sheet, const std::function<bool(int)>& endsAt, const std::vector<double>& thickness) {
    const arrange::Arrangement& all = sheet.all;
    std::set<int> ended;                      // arcs at which a sheet may end
    std::map<int, std::vector<int>> couldBe;  // by arc: pieces that could fill a gap there
    std::map<int, int> keptAt;
    std::map<int, std::set<int>> wallsAt;  // by arc: bases of those that are kept there
    for (int p = 0; p < static_cast<int>(all.pieces.size()); ++p) {
        const arrange::Piece& piece = all.pieces[static_cast<std::size_t>(p)];
        const bool end = std::any_of(piece.owners.begin(), piece.owners.end(),
                                     [&](const arrange::Owner& owner) { return endsAt(owner.input); });
        const auto wall = sheet.wallOf.find(p);
        const bool could = !end && wall == sheet.wallOf.end() && !sheet.wallsOfPiece(p).empty();
        for (const arrange::Use& use : piece.uses) {
            if (end) ended.insert(use.arc);
            if (could) couldBe[use.arc].push_back(p);
            if (wall == sheet.wallOf.end()) continue;
            ++keptAt[use.arc];
            wallsAt[use.arc].insert(sheet.base[static_cast<std::size_t>(wall->second)]);
        }
    }
    std::map<int, std::vector<int>> freeAt;  // by node: arcs
    std::set<int> waiting;
    for (const auto& [arc, count] : keptAt) {
        if (count != 1 || ended.contains(arc)) continue;
        waiting.insert(arc);
        const arrange::Arc& one = all.arcs[static_cast<std::size_t>(arc)];
        for (const int node : {one.from, one.to}) freeAt[node].push_back(arc);
    }
    while (!waiting.empty()) {
        std::vector<int> rim{*waiting.begin()};
        waiting.erase(waiting.begin());
        if (keptAt[rim.front()] != 1) continue;  // closed with another
        std::set<int> walls;
        double length = 0.0;
        for (std::size_t i = 0; i < rim.size(); ++i) {
            const arrange::Arc& arc = all.arcs[static_cast<std::size_t>(rim[i])];
            length += arrange::arcLength(arc);
            walls.insert(wallsAt[rim[i]].begin(), wallsAt[rim[i]].end());
            for (const int node : {arc.from, arc.to})
                for (const int next : freeAt[node])
                    if (waiting.erase(next) != 0) rim.push_back(next);
        }
        // What could fill it, over arcs within the solid.
        std::map<int, int> wallOf;  // by candidate
        std::map<int, double> lengths;
        std::vector<int> arcs = rim;
        for (const int arc : rim) lengths[arc] = arrange::arcLength(all.arcs[static_cast<std::size_t>(arc)]);
        std::vector<int> candidates;
        for (std::size_t i = 0; i < arcs.size(); ++i)
            for (const int p : couldBe[arcs[i]]) {
                if (candidates.size() == Gap::mostPieces) break;
                if (wallOf.contains(p)) continue;
                int own = -1;
                for (const int w : sheet.wallsOfPiece(p))
                    if (own < 0 && walls.contains(sheet.base[static_cast<std::size_t>(w)])) own = w;
                if (own < 0) continue;
                wallOf[p] = own;
                candidates.push_back(p);
                for (const arrange::Use& use : all.pieces[static_cast<std::size_t>(p)].uses)
                    if (!ended.contains(use.arc) &&
                        lengths.emplace(use.arc, arrange::arcLength(all.arcs[static_cast<std::size_t>(use.arc)]))
                            .second)
                        arcs.push_back(use.arc);
            }
        if (candidates.empty()) continue;
        Gap gap(lengths, keptAt);
        for (const int p : candidates) {
            // Where it runs out to the skin it would be a lip, which is a free edge as well.
            double weight = areaOf(arrange::Maker(all, {p}).face(p, false)) /
                            (Gap::areaPerEdge * thickness[static_cast<std::size_t>(wallOf[p])]);
            for (const arrange::Use& use : all.pieces[static_cast<std::size_t>(p)].uses)
                if (ended.contains(use.arc)) weight += arrange::arcLength(all.arcs[static_cast<std::size_t>(use.arc)]);
            gap.add(p, all.pieces[static_cast<std::size_t>(p)], weight);
        }
        const std::vector<int> adopted = gap.best();
        std::map<int, int> now = keptAt;
        for (const int p : adopted)
            for (const arrange::Use& use : all.pieces[static_cast<std::size_t>(p)].uses) ++now[use.arc];
        // Other gaps may lie within reach of the same pieces, so what is free there counts before and after.
        double closed = 0.0;
        for (const auto& [arc, own] : lengths) closed += own * ((keptAt[arc] == 1 ? 1 : 0) - (now[arc] == 1 ? 1 : 0));
        if (closed < 0.5 * length) continue;
        keptAt = std::move(now);
        for (const int p : adopted) {
            sheet.kept.push_back(p);
            sheet.wallOf[p] = wallOf[p];
        }
        for (auto& [arc, pieces] : couldBe) std::erase_if(pieces, [&](int p) { return sheet.wallOf.contains(p); });
    }
}

}  // namespace rasoir::reduce
