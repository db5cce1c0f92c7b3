// Holes in sheets: inner loops with nothing beyond them, and loops of open edges across several faces.
#pragma once
#include "survey/holes.h"

namespace rasoir::survey {

/// Inner loops of sheet faces of which every edge is open. A round one is as wide as its circle; of any other the size
/// is four times its area over its length: what a square or a circle of that size would have. Input     faces that
/// belong to no solid. A hole that lies across several faces (Hole::across) is a closed loop of their open edges no
/// longer than about a third of
///           the sheet's longest.
/// Returns   holes with `rim` and `sheetFace` in place of walls, by size, then by place.
/// Cost      linear in the loops.
[[nodiscard]] std::vector<Hole> findSheetHoles(const Part& part, double targetSize);

}  // namespace rasoir::survey
