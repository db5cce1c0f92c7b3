// Ways to cut a polygon into triangles: each triangle a corner of three faces, each diagonal an edge of two.
#pragma once
#include <array>
#include <vector>

namespace rasoir::heal {

using Triangle = std::array<int, 3>;

/// All ways to cut the polygon `from`..`to` (a chain of corners closed by the side to-from) into triangles. Their number grows as the
/// Catalan numbers do: 429 for a nonagon.
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

}  // namespace rasoir::heal
