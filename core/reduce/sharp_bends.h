// Bends of sheets as sharp lines.
#pragma once
#include "model/operation.h"

namespace rasoir::reduce {

/// Parameters of `reduce.sharpBends`.
struct SharpBends {
    std::vector<std::string> parts;  ///< sheets, names or patterns; empty: all that are not set aside
    double upTo = 0.0;               ///< [mm] largest radius, of the sheet itself; 0: whatever it is

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const SharpBends& step);
void from_json(const Json& json, SharpBends& step);

/// A round face of a sheet between two flat ones that it runs into smoothly goes, and both are carried on to the line
/// in which their planes meet. Returns   an item for each sheet: how many, and its area before and after; one for each
/// bend that stays, with why. Refuses   (bend by bend) one that meets other faces at its ends, has a hole, or where a
/// third face stands on it; as
///           nothing to do where there is no bend.
[[nodiscard]] Result<Outcome> sharpenBends(const Model& model, const SharpBends& step, Progress& progress);

}  // namespace rasoir::reduce
