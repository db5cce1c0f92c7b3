// Rounded corners in the outline of sheets. Only reads.
#pragma once
#include <gp_Pnt.hxx>
#include <string>
#include <vector>

#include "common/progress.h"
#include "model/model.h"

namespace rasoir::survey {

struct SheetCorner {
    double radius = 0.0;        ///< [mm]
    double turn = 0.0;          ///< [rad] by which the outline turns along it
    bool outer = true;          ///< the sheet lies inside the arc; else it is the corner of a notch or an opening
    int face = 0;               ///< Incidence number
    std::vector<int> arcs;      ///< edges: one, or pieces of one circle, in running order with the sheet on the left
    int before = 0, after = 0;  ///< the open edges that it lies between, in the same order
    gp_Pnt middle;              ///< on the arc: names it in a step
    double elements = 0.0;      ///< at the target size
};

/// Arcs of open edges of one face that run on smoothly into two open edges of the same face at both ends and turn by
/// less than 175 degrees, smallest first. Cost      linear in the edges of sheets.
[[nodiscard]] std::vector<SheetCorner> findSheetCorners(const Part& part, double targetSize);

std::string describe(const SheetCorner& corner);  ///< "outer, 90°"

}  // namespace rasoir::survey
