// What is sunk into a body or raised from it and open to a side: notches, grooves, keyways; ribs, lugs, gussets.
#pragma once
#include <set>

#include "survey/reliefs.h"

namespace rasoir::survey {

/// Finds them in the closed bodies of one part, as reliefs of kind Notch and Rib.
/// Method    a notch is faces that hang together over inner edges and end at outer ones; a rib the other way round.
/// Faces that run on
///           smoothly belong together, over inner rounds in a notch, over outer ones on a rib. What ends at inner loops
///           alone is left to findReliefs, and so is what has more than a tenth of the skin or holds more than a
///           twentieth of the body: that is its shape.
/// `ofHoles`: faces of holes, of which none is a notch. `closed`: what findReliefs has found; what has only a part of
/// one of those, such as the floor round a boss, is none. Cost      linear in faces and edges.
[[nodiscard]] std::vector<Relief> findOpenReliefs(const Part& part, double targetSize, const std::set<int>& ofHoles,
                                                  const std::vector<Relief>& closed, Progress& progress);

}  // namespace rasoir::survey
