// Parts that nobody sees: closed in by others.
#pragma once
#include "common/problem.h"
#include "common/progress.h"
#include "model/model.h"

namespace rasoir::survey {

/// Places, ascending, from whose skin no ray leaves the model: inner parts. Places set aside neither hide nor are
/// listed. Method  rays from points spread over the part's triangles by area into evenly spread directions of the outer
/// half space
///         (Hammersley points: Pharr, Jakob, Humphreys, Physically Based Rendering, ch. 7), until one gets away. A part
///         that is seen only through a gap narrower than about a fortieth of itself can pass for hidden.
/// Cost    parts on the outside answer at once; one inside takes 4096 rays.
/// Refuses only when cancelled.
[[nodiscard]] Result<std::vector<std::size_t>> hiddenPlaces(const Model& model, Progress& progress);

}  // namespace rasoir::survey
