// A region of faces gives way to plainer ones: a thread to a cylinder, a ragged wall to a round one, a bumpy patch to a
// flat.
#pragma once
#include <Geom_Surface.hxx>
#include <gp_Ax1.hxx>

#include "common/progress.h"
#include "heal/removal.h"
#include "model/model.h"

namespace rasoir::heal {

/// A surface in place of the region; `reversed`: outside is where its normal does not look.
struct FreshFace {
    Handle(Geom_Surface) surface;
    bool reversed = false;
};

/// Either one surface of any kind that the region's whole outline leads to, or a chain of surfaces of revolution about
/// one axis (planes across it too): the ring where the region begins along the axis leads to the first, each to the
/// next, the ring where it ends to the last.
struct Refacing {
    std::vector<int> faces;  ///< Incidence numbers; they hang together
    std::vector<FreshFace> chain;
    gp_Ax1 axis;  ///< of the chain; seams lie where the first one's parameter u is 0
};

/// Takes the faces out and puts the others in: their neighbours are carried on or cut back to them, edges that end at
/// the region too. Input     a closed body near the region; the region has at least as many faces as the chain. Returns
/// the changed shape and its lineage: the fresh faces take the places of the region's first ones, its others are merged
/// into the first. Checks    every face that changed by the kernel's check, every edge of them has its two sides.
/// Refuses   and leaves everything as it was: neighbours that do not meet the surface near the region, an outline that
/// touches itself in a
///           point, more or fewer than two rings for a closed surface; with the place.
/// Cost      grows with the faces and edges round the region, plus one pass over the part.
[[nodiscard]] Result<Removal> reface(const Part& part, const Refacing& wanted, double tolerance);

}  // namespace rasoir::heal
