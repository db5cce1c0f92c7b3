// The space round bodies in which a fluid flows: a block, cylinder or ball less them all.
#pragma once
#include "divide/surround.h"

namespace rasoir::join {

/// Parameters of `join.outerSpace`.
struct OuterSpace {
    divide::Surround round;  ///< round which bodies, with what clearance; `without` is always meant
    bool joined = true;      ///< walls and fluid get common faces

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const OuterSpace& step);
void from_json(const Json& json, OuterSpace& step);

/// Makes the fluid round the bodies: a part of its own, of kind fluid, with a group for each side of its hull ("-x",
/// "+x", ..., "round") and one for what it wets of each body. Cavities that the outside does not reach are left out,
/// told.
/// Refuses   what divide.surround refuses.
[[nodiscard]] Result<Outcome> makeOuterSpace(const Model& model, const OuterSpace& step, Progress& progress);

}  // namespace rasoir::join
