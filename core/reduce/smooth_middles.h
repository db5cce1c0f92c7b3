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

/// The same of faces that are told, each with its wall: a face's middle lies half its wall's thickness behind it. None
/// where a face cannot be offset, or its edges do not come to lie on its neighbours'.
[[nodiscard]] std::optional<SmoothMiddle> sheetBehind(const Part& part, const std::vector<Wall>& walls,
                                                      const std::vector<std::pair<int, int>>& facesAndWalls);

}  // namespace rasoir::reduce
