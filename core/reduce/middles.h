// The middles of a solid's walls as one sheet.
#pragma once
#include "model/lineage.h"
#include "reduce/wall_steps.h"

namespace rasoir::reduce {

struct Sheets {
    TopoDS_Shape shape;
    PartLineage lineage;
    std::map<int, Thickness> thickness;  ///< by face
    std::map<int, int> wallOf;           ///< by face: the wall, as an index of those given
    int connected = 0;                   ///< pieces that hang together
    double area = 0.0, mass = 0.0;       ///< [mm^2], [mm^3] area times thickness
    int joints = 0;                      ///< edges of three faces and more
};

/// Carries each wall's middle on past its ends, arranges all with each other and with the solid, and keeps the pieces
/// that lie between both sides of their wall.
/// `walls`   of this part, which is one solid.
/// Refuses   what the arrangement refuses; walls of which no piece lies between both sides alone.
/// `ends`    strips across walls where their middles have to end, though nothing in the solid ends them
[[nodiscard]] Result<Sheets> sheetsOf(const Part& part, const std::vector<Wall>& walls,
                                      const std::vector<TopoDS_Face>& ends, AtSteps steps, double tolerance,
                                      Progress& progress);

}  // namespace rasoir::reduce
