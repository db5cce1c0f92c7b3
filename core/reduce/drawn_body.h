// Sheets and beams drawn as thick as they say they are.
#pragma once
#include <array>

#include "common/progress.h"
#include "model/model.h"

namespace rasoir::reduce {

/// A reduced part as the body that its thicknesses and sections say it is; part coordinates.
struct DrawnBody {
    std::vector<gp_Pnt> points;
    std::vector<std::array<int, 3>> triangles;  ///< turned outwards
    std::vector<int> from;                      ///< by triangle: the face of the sheet, or minus the edge of a beam
};
/// Both skins of each face of a sheet and a rim along its free edges; the outline of each section along its edge.
/// `relativeDeviation`: of the part's size, by which triangles may be off.
[[nodiscard]] DrawnBody drawnBody(const Part& part, double relativeDeviation, Progress& progress);

/// Where the middle of the wall lies above a point of a sheet's face, along its normal, and half its thickness [mm].
[[nodiscard]] std::pair<double, double> offsetAndHalf(const Thickness& own, const gp_Pnt& at);

}  // namespace rasoir::reduce
