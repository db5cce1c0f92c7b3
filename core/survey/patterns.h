// Holes in rows, grids and circles.
#pragma once
#include "survey/holes.h"

namespace rasoir::survey {

/// Tells each hole which pattern it belongs to (Hole::pattern): holes of one kind and size with parallel axes that open
/// into the same face, three or more of them at even angles on one circle, or three or more at even steps in a row, or
/// four or more in a grid whose places are all taken. Where the holes of one size on a face form none of these, nothing
/// is told. Cost      quadratic in the holes of one size on one face.
void tellPatterns(std::vector<Hole>& holes);

}  // namespace rasoir::survey
