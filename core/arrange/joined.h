// What several bodies made from one arrangement have in common, as joints.
#pragma once
#include <optional>

#include "arrange/choice.h"
#include "model/joints.h"

namespace rasoir::arrange {

/// A joint, and which bodies use it.
struct Shared {
    Joint joint;
    std::vector<std::size_t> users;  ///< indices of `bodies`
    int source = 0;                  ///< the piece, arc or node
};

/// Faces, edges and vertices that two or more of the bodies have in common.
/// `bodies`  by input, null for those that have none; `places` their places' ids.
[[nodiscard]] std::vector<Shared> sharedBy(const Arrangement& all, const std::vector<std::optional<Chosen>>& bodies,
                                           const std::vector<PlaceId>& places);

}  // namespace rasoir::arrange
