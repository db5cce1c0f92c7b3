// The middles of walls that run on smoothly into each other, all in one: bent sheets, pressed trays.
#pragma once
#include "reduce/walls.h"

namespace rasoir::reduce {

/// One connected sheet midway in some walls.
struct SmoothMiddle {
    TopoDS_Shape shape;         ///< a shell
    std::map<int, int> wallOf;  ///< by face of it: index into the walls
};

struct SmoothMiddles {
    std::vector<SmoothMiddle> sheets;
    /// By wall: whether its middle surface is still wanted carried on past its ends, since it meets others at an angle,
    /// or since it is in none of the sheets.
    std::vector<char> carriedOn;
};

/// Walls of one thickness whose faces meet smoothly have one side in common. Offset by half the thickness, the faces of
/// that side keep their outlines in their own parameters, and so meet as they met before: no surface has to be
/// intersected with one that it is tangent to.
/// Planes, cylinders, cones, balls and tori; walls of linear thickness are left to be carried on.
[[nodiscard]] SmoothMiddles smoothMiddles(const Part& part, const std::vector<Wall>& walls);

}  // namespace rasoir::reduce
