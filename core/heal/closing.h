// A wound can often be closed in several ways: which one is tried, and who judges the result.
#pragma once
#include <algorithm>
#include <functional>
#include <optional>
#include <set>
#include <vector>

#include "topology/half_edges.h"

namespace rasoir::heal {

/// Which way to take at each place where there are several; decisions come in the order in which a healing meets them.
class Choices {
public:
    explicit Choices(std::vector<int> wanted = {}) : m_wanted(std::move(wanted)) {}
    /// For the next decision with (at most) so many ways: the one to take, 0 being the nearest.
    int next(std::size_t ways) {
        m_offered.push_back(static_cast<int>(ways));
        const std::size_t at = m_offered.size() - 1;
        return at < m_wanted.size() ? m_wanted[at] : 0;
    }
    [[nodiscard]] const std::vector<int>& offered() const { return m_offered; }

private:
    std::vector<int> m_wanted, m_offered;
};

/// Looks at what a healing has made of `body`, before it is settled: the faces it reshaped. A problem, whose place
/// names the faces at fault, sends it to the next way.
using Judge = std::function<Result<void>(HalfEdgeBody& body, const std::set<int>& reshaped)>;

/// Heals by `attempt`, which changes `body` and does not settle it, in the first way that the judge accepts: the
/// nearest one, else, decision by decision, others that leave fewer faces at fault (those in the problem's place).
/// Settles `body`, or leaves it as it was and returns what was said of the nearest way. Cost      at most `most`
/// attempts.
template <class Attempt>
Result<std::set<int>> firstAccepted(HalfEdgeBody& body, const Judge& judge, Attempt attempt, int most = 14) {
    std::optional<Problem> nearest;
    std::vector<int> offered;
    int left = most;
    constexpr std::size_t failed = 1000;  // no shape at all: the more decisions it got through the better
    std::size_t cost = 0;
    const auto tries = [&](const std::vector<int>& way) -> Result<std::set<int>> {
        Choices choices(way);
        --left;
        Result<std::set<int>> done = attempt(choices);
        cost = done ? 0 : failed - std::min(failed / 2, choices.offered().size());
        if (done && judge)
            if (auto verdict = judge(body, *done); !verdict) {
                cost = std::max<std::size_t>(1, verdict.error().where.faces.size());
                done = tl::unexpected(verdict.error());
            }
        if (done)
            body.commit();
        else
            body.rollBack();
        offered = choices.offered();
        if (!done && !nearest) nearest = done.error();
        return done;
    };
    std::set<std::vector<int>> tried{{}};  // without the zeros at their ends: a way seen twice would count as two
    std::vector<int> best;
    auto done = tries(best);
    if (done || !judge) return done;
    std::size_t lowest = cost;
    best.assign(offered.size(), 0);
    std::vector<int> known = offered;  // ways at each decision of the best so far
    constexpr int deepest = 5;
    for (int pass = 0; pass < 2; ++pass)
        for (std::size_t d = 0; d < best.size(); ++d)
            for (int option = 0; d < known.size() && option < std::min(known[d], deepest); ++option) {
                if (option == best[d]) continue;
                if (left == 0) return tl::unexpected(*nearest);
                std::vector<int> way = best;
                way[d] = option;
                std::vector<int> plain = way;
                while (!plain.empty() && plain.back() == 0) plain.pop_back();
                if (!tried.insert(std::move(plain)).second) continue;
                done = tries(way);
                if (done) return done;
                if (cost >= lowest) continue;
                lowest = cost;
                best = std::move(way);
                known = offered;
                best.resize(known.size(), 0);
            }
    return tl::unexpected(*nearest);
}

}  // namespace rasoir::heal
