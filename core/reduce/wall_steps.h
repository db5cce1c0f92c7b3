// Where the middle of a wall has to end though nothing in the solid ends it: at steps in thickness, between walls
// beside each other that run the same way but are not equally thick; and in a plate, below the ends of the ribs on it.
#pragma once
#include <TopoDS_Face.hxx>

#include "reduce/walls.h"

namespace rasoir::reduce {

/// What becomes of the middles on either side of a step, where they are not at one height.
enum class AtSteps {
    KeepOffset,  ///< one sheet, whose pieces know how far their middle is off; bridged where none lies well within all
    Bridge       ///< each keeps its middle, and a short sheet across joins them
};

/// A strip across a step, from one middle to the other and a little past both.
struct StepBridge {
    TopoDS_Face face;
    std::size_t from = 0, to = 0;    ///< walls
    gp_Pnt on;                       ///< of the edge at which the step stands
    gp_Dir out;                      ///< away from the material there
    double first = 0.0, last = 0.0;  ///< [mm] depths of the middles below it
};

struct WallSteps {
    std::vector<TopoDS_Face> cutters;  ///< across a wall where a step or a rib's end stands, from its skin past its
                                       ///< middle
    std::vector<StepBridge> bridges;
    std::vector<int> base;  ///< by wall: the one on whose middle it is laid; itself where there is no step
};

/// Finds where a flat wall ends at a step and another one goes on the same way. Walls that hang together over steps are
/// laid on the middle of one of them, which must lie well within them all: it becomes one sheet of several thicknesses,
/// with the offset that each had from it. Where there is no such middle, or where it is asked for, each keeps its own,
/// and a bridge leads across. `separate`: by wall, whether it has a middle surface of its own in the making; others
/// take no part. Cost: linear in the edges of the walls' faces, times the walls parallel to them.
[[nodiscard]] WallSteps findSteps(const Part& part, const std::vector<Wall>& walls,
                                  const std::vector<std::unique_ptr<WallProbe>>& probes,
                                  const std::vector<bool>& separate, AtSteps steps);

/// The point of a flat wall's middle nearest to a point; the point itself for other walls [mm].
[[nodiscard]] gp_Pnt onMiddle(const Wall& wall, const gp_Pnt& point);

}  // namespace rasoir::reduce
