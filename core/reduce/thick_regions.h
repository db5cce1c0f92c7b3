// Where the thin walls of a body end at thicker matter: the body parted there into what becomes sheets and what stays
// solid.
#pragma once
#include <optional>
#include <TopoDS_Face.hxx>

#include "model/lineage.h"
#include "reduce/walls.h"

namespace rasoir::reduce {

/// A body in two: both shapes are one solid or several, both know which of the part's faces theirs are.
struct PartedWalls {
    TopoDS_Shape thin, thick;
    PartLineage toThin, toThick;
    double thickVolume = 0.0;      ///< [mm^3]
    std::vector<int> commonFaces;  ///< numbers, in `thick`, of faces at which walls were cut off
};

/// What was found where walls end at thicker matter.
struct ThickRegions {
    std::optional<PartedWalls> parted;  ///< none where nothing was cut off, or nothing would be left
    std::vector<TopoDS_Face> ends;      ///< the strips across walls that end so; some part nothing
};

/// From how many wall thicknesses on matter is no wall any more.
struct ThickFrom {
    double within = 2.0;  ///< across, beyond the edge of the wall's side; above 1
    double above = 2.0;   ///< of what stands beyond that edge, above the side
};

/// Cuts a body straight through its walls where they run into matter that is thicker: at the foot of a rib on a block,
/// round a boss on a plate, at a step. What is where walls meet, with its rounds, is not thick.
/// `walls`   those that are to become sheets, of this part.
/// Refuses   what the arrangement refuses; see arrange().
[[nodiscard]] Result<ThickRegions> partThickRegions(const Part& part, const std::vector<Wall>& walls,
                                                    const ThickFrom& thickFrom, double tolerance, Progress& progress);

/// The walls of a part, said in the face numbers of a part made of it; those that have no heirs on both sides are left
/// out.
[[nodiscard]] std::vector<Wall> wallsAfter(const std::vector<Wall>& walls, const PartLineage& lineage);

}  // namespace rasoir::reduce
