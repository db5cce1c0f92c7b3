// A dimension of the drawing, held against the geometry.
#pragma once
#include "model/operation.h"
#include "model/reference.h"

namespace rasoir::handover {

/// Parameters of `handover.dimension`.
struct Dimension {
    std::string name;               ///< in the report; empty: what is measured, and where
    std::vector<EntityRef> things;  ///< one or two: what is measured, or between what
    /// diameter, radius, length, angle (of a cone; between two), distance (the shortest way), planes, axes, centres;
    /// empty: what is natural for the things.
    std::string of;
    double value = 0.0;               ///< [mm], of an angle [degrees]: what the drawing says
    std::optional<double> tolerance;  ///< [mm or degrees] allowed to either side; none: it is only told

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const Dimension& dimension);
void from_json(const Json& json, Dimension& dimension);

struct MeasuredDimension {
    std::string what;    ///< "Ø of hanger arm"
    double value = 0.0;  ///< [mm or degrees]
    bool angle = false;
    [[nodiscard]] std::string with(double number) const;  ///< the number with its unit
};

/// What the model measures there now. Things of parts in several places are measured in the first that is not aside.
/// Refuses   things that are gone; what the things do not have (the radius of a plane).
[[nodiscard]] Result<MeasuredDimension> measuredOf(const Model& model, const Dimension& dimension);

/// Changes nothing: the dimension stands in the ledger, is measured anew on a revision, and has its line in the report.
/// Returns   an item with what was measured and how far it is off; not done where that is more than is allowed.
/// Refuses   as measuredOf(); a value that is no number.
[[nodiscard]] Result<Outcome> holdAgainst(const Model& model, const Dimension& dimension, Progress& progress);

}  // namespace rasoir::handover
