// Low steps: narrow faces between two that run on beside each other, one a little higher.
#pragma once
#include <set>

#include "survey/reliefs.h"

namespace rasoir::survey {

/// Finds them in the closed bodies of one part, as reliefs of kind Step: `faces` are the risers, `bases` the face that
/// both become one with and the other, in this order; `height` is what lies between them. Method    a riser lies
/// between two parallel flats, or two cylinders about one axis, that look the same way, meets one in an outer edge and
/// the other in
///           an inner one, and is no wider than they lie apart. Of the two the larger stays.
/// `ofOthers`: faces of holes, marks, ribs and the like, none of which is a riser. Higher than twice the target size it
/// is the body's shape. Cost      linear in the edges.
[[nodiscard]] std::vector<Relief> findSteps(const Part& part, double targetSize, const std::set<int>& ofOthers);

}  // namespace rasoir::survey
