// Thin bodies as sheets midway in their walls, joined where the walls meet.
#pragma once
#include "model/operation.h"
#include "model/reference.h"
#include "reduce/walls.h"

namespace rasoir::reduce {

/// Parameters of `reduce.midsurface`, kept in the ledger.
struct Midsurface {
    std::vector<std::string> parts;  ///< names or patterns; empty: all that is not set aside
    double from = 0.0, upTo = 0.0;   ///< [mm] walls of this thickness
    bool laps = true;                ///< sheets of walls that lay on each other, and loose pieces, are tied by a link
    double flushUpTo = 0.0;          ///< [mm] a wall at a step, no farther off its sheet, is taken to lie on it
    std::string steps = "offset";  ///< where thicknesses step: keep the "offset", or "bridge" middles by a short sheet
    bool doubtful = false;         ///< also walls thicker than a tenth of their breadth
    /// Walls that are taken whatever their thickness, and walls that are not: each by a face on either side, or by one
    /// face alone (the thinnest wall that it is a side of).
    std::vector<std::vector<FaceRef>> pairs, notPairs;

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const Midsurface& step);
void from_json(const Json& json, Midsurface& step);

/// Each wall's middle surface is carried on past its ends; all are arranged with each other and with the solid; the
/// pieces that lie between the two sides of their wall stay. So a web ends on the middle of its flange, an L meets in
/// the mitre of its middles, a bend runs between its flats, and holes go through as they are: no joint is searched for.
/// Each face of the sheet knows its thickness, and what was known of the solid's faces on either side of it.
/// Where walls run into matter that is more than twice as thick, they are cut off first: what is thick stays solid, as
/// a part "NAME, solid" beside the sheets, and the two have the line where they meet in common. Where sheets alone
/// would lose much, what is barely thicker is cut off as well. Pieces of one body that share no edge are tied by links.
/// Returns   a part for a part, under the same name; an item for each with its walls, the share of the skin that they
///           cover, and the mass before and after.
/// Refuses   faces named as a pair that are no wall's two sides; a part of whose volume less than 85 % would be left; a
/// part that is not closed; one without a wall within the limits (named in a step: not done, with reason).
[[nodiscard]] Result<Outcome> midsurface(const Model& received, const Midsurface& step, Progress& progress);

}  // namespace rasoir::reduce
