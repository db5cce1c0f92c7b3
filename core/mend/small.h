// What is too small to keep: slivers, tiny edges, needless edges and vertices. Of one part each.
#pragma once
#include "mend/change.h"

namespace rasoir::mend {

/// `upTo` [mm]: the widest sliver that goes to its neighbours.
[[nodiscard]] Result<Change> withoutSlivers(const Part& part, double upTo, double targetSize, double exact,
                                            Progress& progress);
/// `upTo` [mm]: the longest edge that shrinks to a point.
[[nodiscard]] Result<Change> withoutTinyEdges(const Part& part, double upTo, double exact, Progress& progress);
/// These faces go to their neighbours, whose boundaries are shifted to meet where the face was; short ends shrink to a
/// point. `upTo` [mm]: their width.
[[nodiscard]] Result<Change> absorbedFaces(const Part& part, const std::set<int>& faces, double upTo, double exact,
                                           Progress& progress);
/// These edges shrink to points.
[[nodiscard]] Result<Change> collapsedEdges(const Part& part, const std::set<int>& edges, double exact,
                                            Progress& progress);
/// Edges that divide one surface, and vertices that divide one curve, go.
[[nodiscard]] Result<Change> mergedFaces(const Part& part, double exact, Progress& progress);

}  // namespace rasoir::mend
