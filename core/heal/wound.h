// Take faces out of a body and let their neighbours grow together again. Every removal is this, with another choice of
// faces.
#pragma once
#include <set>

#include "heal/closing.h"
#include "topology/half_edges.h"

namespace rasoir::heal {

/// Removes `faces` (Incidence numbers) from `body` and closes each wound they leave:
///  - a loop inside one face is dropped;
///  - an edge or a seam that was interrupted is joined again; pieces of one face that it separates become one;
///  - two pieces of one surface across a wide wound become one face, and part it in two;
///  - faces that go all round it meet in a ring, the nearest of those that they have;
///  - otherwise the neighbours are carried on until they meet: a wound with k neighbours is closed like a k-gon is cut
///  into
///    triangles, each triangle a corner where three neighbours meet, each diagonal a new edge between two of them; of
///    the ways that the geometry allows, the one whose corners lie nearest the wound is taken, of those that the judge
///    accepts;
///  - a seam that ran into the wound alone is carried on to the pole of its sphere or the apex of its cone.
/// Input     a manifold body near the wound; neighbours of any surface kind, splines within their own bounds.
/// Returns   the faces whose boundary was carried on (not those that only lost a loop); `body` is changed.
/// Refuses   and leaves `body` as it was: neighbours that do not meet near the wound, a face that would lose its outer
/// loop,
///           edges where the body is not closed or many faces meet, more than 48 neighbours without common surfaces.
/// Cost      grows with the edges round the wound; with the cube of the neighbours that have no surface in common.
/// Source    the idea of reverse-growing the neighbours: Venkataraman, Sohoni: Reconstruction of feature volumes and
/// feature
///           suppression. ACM Solid Modeling 2002. The triangulation view is ours.
[[nodiscard]] Result<std::set<int>> removeAndHeal(HalfEdgeBody& body, const std::vector<int>& faces, double tolerance,
                                                  const Judge& judge = {});

/// Closes an opening of a sheet the same way: `edges` are all open, and together its outline; `faces` are those that
/// they bound (Incidence numbers both); `tolerance` [mm]. Returns the faces whose boundary was carried on; `body` is
/// changed. Refuses   as removeAndHeal; edges that are not open.
[[nodiscard]] Result<std::set<int>> healOpening(HalfEdgeBody& body, const std::vector<int>& edges,
                                                const std::vector<int>& faces, double tolerance,
                                                const Judge& judge = {});

}  // namespace rasoir::heal
