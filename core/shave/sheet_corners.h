// Rounded corners of sheets' outlines made square.
#pragma once
#include "model/operation.h"

namespace rasoir::shave {

/// Parameters of one step. Either a rule (all within the radii, less those kept) or a choice.
struct SquareCorners {
    double upTo = 0.0;                                    ///< [mm] corners of no larger radius; 0: only those chosen
    double from = 0.0;                                    ///< [mm] and of no smaller
    std::vector<std::string> parts;                       ///< names of the parts to look at; empty: all in the work
    std::vector<std::string> sides;                       ///< "outer", "inner"; empty: both
    std::vector<std::array<double, 3>> chosenAt, keptAt;  ///< [mm, part coordinates] by the middles of their arcs
    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const SquareCorners& step);
void from_json(const Json& json, SquareCorners& step);

/// The two edges beside each arc are carried on until they meet.
/// Input     corners as survey::findSheetCorners knows them; edges that are exact beyond their ends (lines, circles,
/// ellipses). Returns   a new Model, lineage, an Item for each; one that cannot go stays as it was, with reason and
/// place. Refuses   when none could go; radii that are none; a middle of no corner; being cancelled. Checks    each
/// changed face is sound, and grows (outer corners) or shrinks by no more than a square of the radius on each side.
[[nodiscard]] Result<Outcome> squareCorners(const Model& model, const SquareCorners& step, Progress& progress);

}  // namespace rasoir::shave
