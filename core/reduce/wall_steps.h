// Where the middle of a wall has to end though nothing in the solid ends it: at steps in thickness, between walls
// beside each other that run the same way but are not equally thick; and in a plate, below the ends of the ribs on it.
#pragma once
#include <TopoDS_Face.hxx>

#include "reduce/walls.h"

namespace rasoir::reduce {

struct WallSteps {
    std::vector<TopoDS_Face> cutters;  ///< across a wall where a step or a rib's end stands, from its skin past its
                                       ///< middle
    std::vector<int> base;             ///< by wall: the one on whose middle it is laid; itself where there is no step
};

/// Finds where a flat wall ends at a step and another one goes on the same way. Walls that hang together over steps are
/// laid on the middle of one of them, which must lie well within them all: it becomes one sheet of several thicknesses,
/// with the offset that each had from it. Where there is no such middle each keeps its own.
/// `separate`: by wall, whether it has a middle surface of its own in the making; others take no part.
/// Cost: linear in the edges of the walls' faces, times the walls parallel to them.
[[nodiscard]] WallSteps findSteps(const Part& part, const std::vector<Wall>& walls,
                                  const std::vector<std::unique_ptr<WallProbe>>& probes,
                                  const std::vector<bool>& separate);

/// The point of a flat wall's middle nearest to a point; the point itself for other walls [mm].
[[nodiscard]] gp_Pnt onMiddle(const Wall& wall, const gp_Pnt& point);

}  // namespace rasoir::reduce
