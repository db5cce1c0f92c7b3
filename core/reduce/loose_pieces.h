// Pieces of the sheets of one body that no edge joins, though the body was one.
#pragma once
#include "model/operation.h"

namespace rasoir::reduce {

/// Ties such pieces to each other by links. A spring that stands on a wall at a small angle, a foot rolled flat onto a
/// board ten times as thick: there the middles do not meet, but matter goes on from one to the other. What one link
/// would tie is tied once, by the longest edges; pieces that hang together over a solid in which they end are not
/// loose.
/// `before`   the model whose solids `outcome`'s sheets stand for, in the same parts.
/// Adds       groups (edges of the loose piece, faces of the other), links, and a note for each.
/// Refuses    only being cancelled. A sheet in more than 200 pieces is left as it is.
/// Cost       a tree of triangles for each piece of a sheet that is in several.
[[nodiscard]] Result<void> tieLoosePieces(const Model& before, Outcome& outcome, Progress& progress);

}  // namespace rasoir::reduce
