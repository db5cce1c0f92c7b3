// A part as sheets, solid by solid, with what of it stays solid.
#pragma once
#include "reduce/middles.h"

namespace rasoir::reduce {

struct ReducedPart {
    Sheets sheets;       ///< of all solids that were reduced
    TopoDS_Shape solid;  ///< null: nothing stays so
    PartLineage toSolid;
    double solidVolume = 0.0, volume = 0.0;  ///< [mm^3] of what stays solid; of all
    bool cutOff = false;                     ///< some of it is a thick region beside sheets of its own
    std::size_t walls = 0;
    std::vector<std::string> notes;
    std::optional<Problem> refused;  ///< the first one
};

/// Each solid of a part by itself: middles of one would be carried on across the others for nothing. Solids that have
/// no walls among these, or cannot be reduced, stay solid, told.
/// Refuses   when none can be reduced: with the first reason. A solid of whose volume less than 85 % or more than 125 %
///           would be left cannot.
[[nodiscard]] Result<ReducedPart> reducePart(const Part& part, const std::vector<Wall>& walls, AtSteps steps,
                                             double tolerance, Progress& progress);

}  // namespace rasoir::reduce
