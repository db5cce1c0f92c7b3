// Faces that ended a wall, as edges of its sheet: what holds a plate at its rim holds the sheet at its edge.
#pragma once
#include "model/operation.h"

namespace rasoir::reduce {

/// For faces of solids that are in groups and have no face of a sheet as their heir, the free edges of the sheet that
/// lie on them are told in `outcome.rims`, so that groups follow.
/// `before`   the model whose solids `outcome`'s sheets stand for, in the same parts.
/// Cost       the edges of each sheet concerned, times the faces asked for whose boxes they touch.
void tellRims(const Model& before, Outcome& outcome);

}  // namespace rasoir::reduce
