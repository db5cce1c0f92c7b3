// Joints: faces, edges and vertices that several places have in common, said as a relation between them.
//
// Every part keeps its own two-sided solids, its own coordinates and numbering; see decision 51. A joint says that
// certain faces of certain places are one and the same face in the assembly, with the same boundary, use for use.
#pragma once
#include <vector>

#include "model/groups.h"

namespace rasoir {

struct JointUse {
    PlaceId place = 0;
    int number = 0;         ///< of the face, edge or vertex in its part
    bool reversed = false;  ///< against the first use: the outside is on the other side; the edge runs the other way
    friend auto operator<=>(const JointUse&, const JointUse&) = default;
};

/// One thing, as many places use it; the first use owns the geometry.
struct Joint {
    EntityKind kind = EntityKind::Face;  ///< never Body
    std::vector<JointUse> uses;          ///< two or more
    double deviation = 0.0;              ///< [mm] largest distance of another use from the first one's geometry
    friend bool operator==(const Joint&, const Joint&) = default;
};

[[nodiscard]] Json toJson(const Joint& joint);
[[nodiscard]] Joint jointFromJson(const Json& json);  ///< throws std::invalid_argument with a reason

}  // namespace rasoir
