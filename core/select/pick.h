// One thing that can be selected.
#pragma once
#include <compare>
#include <cstddef>

namespace rasoir::select {

/// A face, an edge, a vertex or a body of an occurrence, by number in its part; all zero: the whole part in that place.
struct Pick {
    std::size_t occurrence = 0;
    int face = 0, edge = 0, vertex = 0;  ///< 1-based numbers in the part's Incidence
    int body = 0;                        ///< 1-based solid
    friend auto operator<=>(const Pick&, const Pick&) = default;
};

enum class PickKind { Part, Body, Face, Edge, Vertex };
[[nodiscard]] inline PickKind kindOf(const Pick& item) {
    return item.face > 0     ? PickKind::Face
           : item.edge > 0   ? PickKind::Edge
           : item.vertex > 0 ? PickKind::Vertex
           : item.body > 0   ? PickKind::Body
                             : PickKind::Part;
}

}  // namespace rasoir::select
