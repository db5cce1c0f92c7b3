// A sheet made by hand: of faces that are picked, with a thickness that is typed.
#pragma once
#include "model/operation.h"
#include "model/reference.h"

namespace rasoir::reduce {

/// Parameters of `reduce.sheetFrom`.
struct SheetFrom {
    std::vector<FaceRef> faces;
    double thickness = 0.0;           ///< [mm] of the wall behind them; 0: as measured straight through
    std::string position = "middle";  ///< or "skin": the sheet lies half the thickness behind the faces, or on them
    std::string name;                 ///< of the new part; empty: "NAME, sheet"

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const SheetFrom& step);
void from_json(const Json& json, SheetFrom& step);

/// For walls that are not found by themselves: the faces are offset into the material, each with its outline in its own
/// parameters, and faces that run on smoothly into each other stay one sheet. Faces that meet at an angle make sheets
/// apart, which can be carried on and joined. The part stays as it is; its sheet stands beside it in every place, with
/// its material, and is in the groups of the faces.
/// Returns   an item for each part, with faces, pieces and area.
/// Refuses   a thickness that is none, and one to be measured that differs by more than a twentieth from place to
/// place; a face that
///           would fold or vanish half a thickness farther in, with its number.
[[nodiscard]] Result<Outcome> sheetFrom(const Model& received, const SheetFrom& step, Progress& progress);

}  // namespace rasoir::reduce
