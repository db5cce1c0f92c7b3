// A ragged opening gives way to one clean round hole at its place.
#pragma once
#include "model/operation.h"
#include "model/reference.h"

namespace rasoir::shave {

/// Parameters of one step.
struct RoundOpenings {
    std::vector<FaceRef> openings;  ///< any one wall of each
    double diameter = 0.0;          ///< [mm] of the hole; 0: each as wide as a circle of the opening's own area
    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const RoundOpenings& step);
void from_json(const Json& json, RoundOpenings& step);

/// Puts one cylinder in the place of the walls of a cutout, slot or pocket, square to the flat it opens in, about the
/// middle of its area there. A pocket keeps its floor. Input     cutouts and pockets as survey::findReliefs knows them,
/// and holes of any kind. Returns   a new Model, lineage, an Item for each opening; one that cannot be made round stays
/// as it was, with reason and place. Refuses   when none could; a face of no opening; a diameter that is none; being
/// cancelled. Checks    as heal::reface; the volume changes by what the opening held less what the hole takes, to a
/// tenth of the larger.
[[nodiscard]] Result<Outcome> roundOpenings(const Model& model, const RoundOpenings& step, Progress& progress);

}  // namespace rasoir::shave
