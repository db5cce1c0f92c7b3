// Ways to cut a polygon into triangles: each triangle a corner of three faces, each diagonal an edge of two.
#pragma once
#include <array>
#include <limits>
#include <optional>
#include <vector>

namespace rasoir::heal {

using Triangle = std::array<int, 3>;

/// All ways to cut the polygon `from`..`to` (a chain of corners closed by the side to-from) into triangles. Their
/// number grows as the Catalan numbers do: 429 for a nonagon.
inline std::vector<std::vector<Triangle>> triangulations(int from, int to) {
    if (to - from < 2) return {{}};
    std::vector<std::vector<Triangle>> all;
    for (int apex = from + 1; apex < to; ++apex)
        for (const auto& left : triangulations(from, apex))
            for (const auto& right : triangulations(apex, to)) {
                std::vector<Triangle> whole = left;
                whole.push_back({from, apex, to});
                whole.insert(whole.end(), right.begin(), right.end());
                all.push_back(std::move(whole));
            }
    return all;
}

/// The cheapest way to cut the polygon 0..k-1 into triangles: `cost` of a triangle (i < m < j), none where it cannot
/// be. Empty: there is no way. Cost      of the order of k^3 triangles, where all ways of a wider polygon are too many
/// to list. Method    the classical dynamic programme over chords.
template <class Cost>
std::vector<Triangle> cheapestTriangulation(int k, Cost cost) {
    constexpr double none = std::numeric_limits<double>::max();
    const auto at = [k](int i, int j) { return static_cast<std::size_t>(i * k + j); };
    std::vector<double> least(static_cast<std::size_t>(k * k), none);
    std::vector<int> apex(static_cast<std::size_t>(k * k), -1);
    for (int i = 0; i + 1 < k; ++i) least[at(i, i + 1)] = 0.0;
    for (int span = 2; span < k; ++span)
        for (int i = 0; i + span < k; ++i) {
            const int j = i + span;
            for (int m = i + 1; m < j; ++m) {
                if (least[at(i, m)] == none || least[at(m, j)] == none) continue;
                const std::optional<double> own = cost(Triangle{i, m, j});
                if (!own) continue;
                const double sum = least[at(i, m)] + least[at(m, j)] + *own;
                if (sum >= least[at(i, j)]) continue;
                least[at(i, j)] = sum;
                apex[at(i, j)] = m;
            }
        }
    std::vector<Triangle> way;
    if (least[at(0, k - 1)] == none) return way;
    std::vector<std::array<int, 2>> open{{0, k - 1}};
    while (!open.empty()) {
        const auto [i, j] = open.back();
        open.pop_back();
        if (j - i < 2) continue;
        const int m = apex[at(i, j)];
        way.push_back({i, m, j});
        open.push_back({i, m});
        open.push_back({m, j});
    }
    return way;
}

}  // namespace rasoir::heal
