// How far the skin of one model lies from that of another, place by place, to be drawn in tones.
#pragma once
#include <array>

#include "common/problem.h"
#include "common/progress.h"
#include "model/model.h"

namespace rasoir::handover {

struct SkinDistances {
    std::vector<gp_Pnt> points;  ///< [mm, model coordinates]
    std::vector<std::array<int, 3>> triangles;
    std::vector<double> off;  ///< [mm] by triangle: of its middle from the other skin
    double most = 0.0;        ///< [mm]
    gp_Pnt where;             ///< of that
};

/// The skin of all places of `of` that are not set aside, in triangles with sides up to `fineness` [mm] where there are
/// not too many, each with its distance from the skin of `from`.
/// Refuses   a model without a skin on either side; being cancelled.
/// Cost      near n log n in the triangles of both.
[[nodiscard]] Result<SkinDistances> skinDistances(const Model& of, const Model& from, double fineness,
                                                  Progress& progress);

}  // namespace rasoir::handover
