// Features out of one part: many wounds at once, checked, and those put back that do not heal.
#pragma once
#include <set>

#include "common/progress.h"
#include "heal/strips.h"
#include "model/model.h"

namespace rasoir::heal {

/// One feature that is to go.
struct Wanted {
    std::string name;        ///< how a sentence about it begins: "The R 3 mm round"
    std::vector<int> faces;  ///< everything that goes with it, Incidence numbers
    std::vector<Strip>
        strips;  ///< of rounds and chamfers: which faces become edges; the other faces become points. Empty: none does
    gp_Pnt middle;
    double change = 0.0;  ///< [mm^3] about what the volume changes by
    int grows = 0;        ///< 1: the body becomes larger, -1: smaller, 0: not known
    int layer = 0;        ///< lower ones go first: what rests on others before those
    int closing = 0;      ///< so many sound ways to close it are passed over
};

struct Removal {
    TopoDS_Shape shape;  ///< null: nothing could be removed
    PartLineage lineage;
    std::vector<Result<void>> items;  ///< one for each feature, in order: gone, or why it stays
};

/// Takes the features out and lets the faces around them grow together. What can be removed is; what cannot stays
/// exactly as it was. Features without strips that touch each other are healed as one: between them there may be no
/// face to heal with. Checks    every changed face by the kernel's check; every edge of a changed face has its two
/// opposite sides; the volume changes by
///           what the features held; no skin falls apart, as it would where the way into a cavity is closed.
/// Refuses   when cancelled.
/// Cost      grows with the features and the faces around them, plus one pass over the part.
[[nodiscard]] Result<Removal> removeFaces(const Part& part, const std::vector<Wanted>& wanted, double tolerance,
                                          Progress& progress);

}  // namespace rasoir::heal
