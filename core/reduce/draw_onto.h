// Sheets that lie on each other, or nearly: drawn onto one surface, and what they have in common counted once.
#pragma once
#include "model/operation.h"

namespace rasoir::reduce {

/// Parameters of `reduce.drawOnto`.
struct DrawOnto {
    std::vector<std::string> places;  ///< parts or places of sheets; empty: all that are not set aside
    double within = 0.0;              ///< [mm] how far a sheet may be moved; 0: those that lie on each other already

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const DrawOnto& step);
void from_json(const Json& json, DrawOnto& step);

/// Of two sheets that face each other within the limit the smaller one moves as a whole, straight to the other; its
/// walls stay where they are, by their offset from it. What then lies on the larger sheet is taken out of the smaller
/// one. There the larger one is as thick as both walls reach, and the two are joined along what bounds it.
/// Returns   an item for each pair: how far it moved, and the area counted once.
/// Refuses   (item by item) a sheet that is joined to others already, or that would lie on the other one wholly; faces
///           that are not parallel; as nothing to do where no sheets lie so near.
[[nodiscard]] Result<Outcome> drawOnto(const Model& model, const DrawOnto& step, Progress& progress);

}  // namespace rasoir::reduce
