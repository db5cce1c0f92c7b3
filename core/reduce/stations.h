// Sections across a solid and across what stands for it, side by side.
#pragma once
#include "model/work.h"

namespace rasoir::reduce {

/// What a plane cuts out of matter.
struct CutNumbers {
    double area = 0.0;                  ///< [mm^2]
    double largest = 0.0, least = 0.0;  ///< [mm^4] principal second moments about its own centre
};
struct Station {
    int axis = 0;     ///< the plane is across x, y or z of the part: 0, 1 or 2 ...
    double at = 0.0;  ///< [mm] ... at this coordinate
    CutNumbers solid, drawn;
};

/// Evenly spaced planes across the solid's longest side, about half a step within its ends.
/// `reduced`  sheets and beams, as thick as they say; `rest` what has stayed solid. All in the solid's coordinates.
/// A plane that the solid cannot be cut by is left out; so is one along a sheet.
/// Accuracy   sheets are taken by their triangles (a thousandth of the part's size), outlines of sections as they know
///            them; where sheets meet, what is counted twice in the model is counted twice here.
/// Refuses    only being cancelled.
[[nodiscard]] Result<std::vector<Station>> stationsOf(const Part& solid,
                                                      const std::vector<std::shared_ptr<const Part>>& reduced,
                                                      const std::vector<std::shared_ptr<const Part>>& rest, int count,
                                                      double tolerance, Progress& progress);

/// The line that sums them up; empty without stations.
[[nodiscard]] std::string stationsLine(const std::vector<Station>& stations);

}  // namespace rasoir::reduce
