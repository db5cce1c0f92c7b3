// Walls between freeform faces: a pressed panel, a moulded shell.
#pragma once
#include "reduce/walls.h"

namespace rasoir::reduce {

/// Finds walls of which a freeform face is a side, among faces that are sides of no thin wall of `known` yet. What lies
/// behind a face is told by rays and then measured to the faces themselves; a thickness that varies by more than a
/// twentieth about its mean is none. Sides A are freeform; sides B are whatever lies behind them.
/// `from`, `upTo` [mm]: limits of thickness; 0: none.
/// Slenderness is told from each wall's own outline.
/// Cost: linear in the faces asked, times some forty rays and feet each.
[[nodiscard]] std::vector<Wall> freeformWalls(const Part& part, const std::vector<Wall>& known, double from,
                                              double upTo, Progress& progress);

/// A face's surface moved by a distance along its outward normal [mm], as a spline over the face and a little beyond,
/// with the face's own parameters, to within `accuracy` [mm]; null where it folds, or cannot be had so well.
[[nodiscard]] Handle(Geom_Surface) freeformOffset(const TopoDS_Face& face, double by, double beyond, double accuracy);

}  // namespace rasoir::reduce
