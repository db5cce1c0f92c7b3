// Rounds and chamfers out: each face that ran along two rows of others shrinks to the edge where those meet.
#pragma once
#include <set>

#include "heal/closing.h"
#include "topology/half_edges.h"
#include "topology/strip.h"

namespace rasoir::heal {

/// Shrinks strips to edges, everything across them to points, and `corners` (the patches where strips meet) to points
/// too; then finds where those points and edges lie on the surfaces that are left. Input     a manifold body near them;
/// the strips' ends, whatever they end at, are found from the body. Returns   the faces whose boundary was carried on;
/// `body` is changed. Refuses   and leaves `body` as it was: sides that are interrupted, a strip that another one runs
/// along, a neighbour that would
///           vanish, neighbours that do not meet within twelve times the strip's width, more than 8 faces at one
///           corner.
/// Cost      linear in the strips' edges.
/// Method    contraction of the strip in the half-edge structure; corners by Newton on the surfaces (common point of
/// all), by the edge
///           that is carried on where its two faces are tangent; else the corner is cut by new edges into cells that
///           have such a point, an old vertex being one where it lies on all faces of its cell. Of several ways to cut
///           it the judge takes one.
[[nodiscard]] Result<std::set<int>> removeStrips(HalfEdgeBody& body, const std::vector<Strip>& strips,
                                                 const std::vector<int>& corners, double tolerance,
                                                 const Judge& judge = {});

}  // namespace rasoir::heal
