// Sheets of different parts, carried on to each other and joined: a welded rib to its plate.
#pragma once
#include "model/operation.h"

namespace rasoir::reduce {

/// Parameters of `reduce.joinSheets`, kept in the ledger.
struct JoinSheets {
    std::vector<std::string> places;  ///< parts or places; empty: all sheets that are not set aside
    double upTo =
        0.0;  ///< [mm] how far an edge is carried on; 0: half the thickness it has to go through, and the safe gap

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const JoinSheets& step);
void from_json(const Json& json, JoinSheets& step);

/// A sheet made of a wall ends at the wall's rim, which lies on the skin of the part that it is welded to: half that
/// part's thickness short of its sheet. So each free edge is looked along its sheet; where another sheet is met all
/// along it within the limit, the sheet is carried on to there, its face growing with it. Then all are joined as in
/// `join.pairs`.
/// Flat sheets grow at any edge, round ones at circles and straight lines.
/// Returns   an item for each edge with the length by which it was carried on, and one for each pair that was joined.
///           Copies that are carried on differently become parts of their own, told.
/// Refuses   a limit that is none; as nothing to do, when no edge ends near another sheet and none lies on one.
[[nodiscard]] Result<Outcome> joinSheets(const Model& model, const JoinSheets& step, Progress& progress);

}  // namespace rasoir::reduce
