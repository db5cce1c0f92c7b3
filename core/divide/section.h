// Cross-section models: planar sheets where a plane cuts an assembly.
#pragma once
#include "divide/cutters.h"
#include "model/operation.h"

namespace rasoir::divide {

/// Parameters of `divide.crossSection`, kept in the ledger.
struct CrossSection {
    std::vector<std::string> places;  ///< parts or places; empty: all that is not set aside
    std::optional<Plane> plane;       ///< model coordinates; none: through the common axis of the bodies
    double angle = 0.0;               ///< [degrees] about that axis, from the plane that holds the x (else y) direction
    bool half = true;                 ///< through an axis: only the half on one side of it
    bool flat = true;                 ///< through an axis: brought to the XY plane, the axis on Y, x >= 0

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const CrossSection& step);
void from_json(const Json& json, CrossSection& step);

/// Each solid that the plane meets becomes a planar sheet with its name, material and colour; boundaries between
/// sheets that touch are shared, as joints. Bodies that are missed, and what is no solid, are set aside and listed.
/// Where bodies reach into one another, what they have in common goes to the one that comes first.
/// Refuses   where no solid is met; where the bodies have no common axis and no plane is given. A body that cannot be
///           cut is set aside with the reason and does not stop the others.
[[nodiscard]] Result<Outcome> crossSection(const Model& model, const CrossSection& step, Progress& progress);

}  // namespace rasoir::divide
