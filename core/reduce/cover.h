// Sheets for walls of a solid that its sheets do not cover.
#pragma once
#include "model/operation.h"

namespace rasoir::reduce {

/// Parameters of `reduce.cover`.
struct Cover {
    std::vector<std::string> parts;  ///< sheets, names or patterns; empty: all of which the solid is known
    bool doubtful = false;           ///< also walls thicker than a tenth of their breadth

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const Cover& step);
void from_json(const Json& json, Cover& step);

/// Of the solid that a sheet stands for, the walls that it does not cover become a sheet beside it, and the two are
/// joined: ends that come short of it are carried on.
/// Returns   an item for each solid, with how many walls.
/// Refuses   as nothing to do where every wall is covered, and where no solid is known.
[[nodiscard]] Result<Outcome> cover(const Model& model, const Cover& step, Progress& progress);

}  // namespace rasoir::reduce
