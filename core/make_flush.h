// One action for all that is not flush in sheets.
#pragma once
#include "model/operation.h"
#include "reduce/not_flush.h"

namespace rasoir {

/// Parameters of `reduce.makeFlush`.
struct MakeFlush {
    std::vector<std::string> places;  ///< parts or places of sheets; empty: all that are not set aside
    double upTo = 0.0;                ///< [mm] what is off by no more; 0: what is expected of sheets made of walls
    std::vector<std::string> kinds;   ///< see reduce::flawName; empty: all
    struct One {
        std::string kind;
        gp_Pnt at;  ///< [mm] model coordinates
    };
    std::vector<One> only;  ///< these alone, each the nearest of its kind; empty: all within the limit

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const MakeFlush& step);
void from_json(const Json& json, MakeFlush& step);

/// What puts a flaw right, as steps of their own: for those who want to see them in the ledger one by one.
[[nodiscard]] std::vector<std::pair<std::string, Json>> stepsFor(const Model& model, const reduce::Flaw& flaw);

/// Lips and tabs are cut off, what reaches beyond the solid is cut back, sheets that lie on each other are counted
/// once, walls without a sheet get one, thicknesses are measured; then edges are carried on to rims, to each other and
/// to sheets, and joined. What one action leaves is looked for anew before the next. Returns   the items of all these
/// steps; those that could not be done with their reason. Refuses   a kind that there is not; as nothing to do where
/// nothing is off by so much.
[[nodiscard]] Result<Outcome> makeFlush(const Model& model, const MakeFlush& step, Progress& progress);

}  // namespace rasoir
