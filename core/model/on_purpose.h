// What of a part looks like a defect and is meant so.
#pragma once
#include <set>

#include "model/model.h"

namespace rasoir {

/// Every face of it has a thickness: sheets that stand for walls. Their free edges are the walls' rims, their openings
/// holes, and where three of them meet a wall stands on another.
[[nodiscard]] bool standsForWalls(const Part& part);

/// Edges and vertices that part something on purpose, though one surface, or one curve, lies on both sides: those that
/// are marked so, and edges at which the thickness of a sheet changes.
[[nodiscard]] std::set<Entity> partedOnPurpose(const Part& part);

/// Marks so what parts faces and edges of a part that a step has divided: inner edges and vertices that come from none
/// before. It is nothing for Mend to merge away.
void markParted(Part& made, const PartLineage& lineage);

}  // namespace rasoir
