// Sheets of different parts, carried on to each other and joined: a welded rib to its plate.
#pragma once
#include <array>

#include "model/operation.h"
#include "model/reference.h"

namespace rasoir::reduce {

/// A free edge of a sheet that ends before another sheet, all along it.
struct ShortEnd {
    std::size_t place = 0, target = 0;  ///< occurrences
    int edge = 0, face = 0;             ///< of the place's part
    std::array<double, 5> far{};        ///< [mm] to the other sheet, at five shares of the edge's length
    gp_Vec out;                         ///< unit, along the sheet at the edge's middle, part coordinates
    bool expected = false;              ///< no farther than half the thickness it has to go through, and the safe gap
    [[nodiscard]] double farthest() const { return *std::max_element(far.begin(), far.end()); }
};

/// Free edges that end within `upTo` [mm] of another sheet, as seen along their own; 0: those that are expected to. One
/// that lies on the other sheet already is none.
[[nodiscard]] std::vector<ShortEnd> findShortEnds(const Model& model, const std::vector<std::size_t>& places,
                                                  double upTo, Progress& progress);

/// Parameters of `reduce.joinSheets`, kept in the ledger.
struct JoinSheets {
    std::vector<std::string> places;  ///< parts or places; empty: all sheets that are not set aside
    double upTo =
        0.0;  ///< [mm] how far an edge is carried on; 0: half the thickness it has to go through, and the safe gap
    std::vector<EntityRef> edges;  ///< those that are carried on, alone; empty: all that end so near

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
