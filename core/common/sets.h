// Disjoint sets of numbers: which of them hang together.
#pragma once
#include <algorithm>
#include <numeric>
#include <vector>

namespace rasoir {

/// The numbers 0 to n - 1, each at first alone. Source: Tarjan, Efficiency of a good but not linear set union algorithm
/// (1975); paths are halved, the least number is the root, so that answers do not depend on the order of joining.
class Sets {
public:
    explicit Sets(std::size_t count) : m_up(count) { std::iota(m_up.begin(), m_up.end(), 0); }
    [[nodiscard]] int root(int x) {
        while (m_up[x] != x) x = m_up[x] = m_up[m_up[x]];
        return x;
    }
    void join(int a, int b) { m_up[std::max(root(a), root(b))] = std::min(root(a), root(b)); }

private:
    std::vector<int> m_up;
};

}  // namespace rasoir
