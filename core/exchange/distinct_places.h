// Places of one part that are not alike in what is named of them.
#pragma once
#include "model/model.h"

namespace rasoir::exchange {

/// In a file a face is named once for all places of its product. Places of a part of which a group or a joint names
/// different things become products of their own, named after the part and numbered; what was a member in that place
/// is then one in every place of the new part. Cost: linear in places and members; shapes are not copied.
[[nodiscard]] Model withDistinctPlaces(Model model);

/// For each joint of faces a name that both sides bear, by part and face: "joined 1", "joined 2", ...
[[nodiscard]] std::map<std::pair<PartId, int>, std::string> joinedNames(const Model& model);

}  // namespace rasoir::exchange
