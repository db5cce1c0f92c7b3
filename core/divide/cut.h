// Cutting bodies in pieces, each a part of its own.
#pragma once
#include "divide/cutters.h"
#include "model/operation.h"

namespace rasoir::divide {

/// Parameters of one step, kept in the ledger.
struct Cut {
    std::vector<std::string> parts;    ///< names, patterns or places; empty: all that is not set aside
    std::vector<Plane> planes;         ///< model coordinates
    std::vector<FaceRef> faces;        ///< cut along them, carried on past their ends
    double offset = 0.0;               ///< [mm] of those faces, outwards
    std::vector<std::string> bodies;   ///< parts or places that cut: sheets, or solids with their skin
    std::string keep = "both";         ///< "above": only pieces above every plane; "below": below every one
    std::string group;                 ///< the cut faces become a group of this name; empty: none
    std::vector<std::string> without;  ///< pieces that are dropped, by the names that they get

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const Cut& step);
void from_json(const Json& json, Cut& step);

/// Cuts solids and sheets. Each piece becomes a part of its own with name ("arm, above"), material, colour and all that
/// is known of its faces and edges; its places are those of the part. Copies are cut in their own coordinates: places
/// that a cutter meets differently get parts of their own.
/// Returns   a new Model with complete lineage; an item for each part that is cut, or that cannot be; a note of the
///           thinnest piece, the shortest new edge and the least new angle.
/// Refuses   a name in `without` that no piece gets; a piece that would not be closed and sound; a part whose pieces
/// would not add up to its volume (1e-5).
///           A named part that is missed is an item with that reason; where nothing at all is met, that is said.
/// Cost      the work follows the faces that are met; what is not met is handed on.
[[nodiscard]] Result<Outcome> cut(const Model& model, const Cut& step, Progress& progress);

}  // namespace rasoir::divide
