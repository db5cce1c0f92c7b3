// A wound can often be closed in several ways: which one is tried, and who judges the result.
#pragma once
#include <algorithm>
#include <functional>
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

/// Looks at what a healing has made of `body`, before it is settled: the faces it reshaped. A problem sends it to the next way.
using Judge = std::function<Result<void>(HalfEdgeBody& body, const std::set<int>& reshaped)>;

/// Heals by `attempt`, which changes `body` and does not settle it, in the way that the judge accepts first: the nearest one, then those that
/// differ from it in one decision, then in two. Settles `body`, or leaves it as it was and returns what was said of the nearest way.
/// Cost      at most `most` attempts.
template <class Attempt>
Result<std::set<int>> firstAccepted(HalfEdgeBody& body, const Judge& judge, Attempt attempt, std::size_t most = 14) {
    std::vector<std::vector<int>> ways{{}};
    std::optional<Problem> nearest;
    for (std::size_t w = 0; w < ways.size() && w < most; ++w) {
        Choices choices(ways[w]);
        Result<std::set<int>> done = attempt(choices);
        if (done && judge)
            if (auto verdict = judge(body, *done); !verdict) done = tl::unexpected(verdict.error());
        if (done) {
            body.commit();
            return done;
        }
        body.rollBack();
        if (!nearest) nearest = done.error();
        if (w > 0 || !judge) continue;
        const std::vector<int>& offered = choices.offered();
        constexpr int deepest = 5;
        for (std::size_t d = 0; d < offered.size(); ++d)
            for (int option = 1; option < std::min(offered[d], deepest); ++option) {
                std::vector<int> way(offered.size(), 0);
                way[d] = option;
                ways.push_back(std::move(way));
            }
        std::stable_sort(ways.begin() + 1, ways.end(), [](const auto& a, const auto& b) { return *std::max_element(a.begin(), a.end()) < *std::max_element(b.begin(), b.end()); });
        for (std::size_t d = 0; d < offered.size(); ++d)
            for (std::size_t other = d + 1; other < offered.size(); ++other) {
                if (offered[d] < 2 || offered[other] < 2) continue;
                std::vector<int> way(offered.size(), 0);
                way[d] = way[other] = 1;
                ways.push_back(std::move(way));
            }
    }
    return tl::unexpected(*nearest);
}

}  // namespace rasoir::heal
