// Bodies that only weigh: mass, centre and inertia stand in for them, tied to what held them.
#pragma once
#include "model/operation.h"

namespace rasoir::reduce {

/// Parameters of `reduce.lump`, kept in the ledger.
struct MakeLumps {
    std::vector<std::string> parts;   ///< names or patterns
    bool linked = true;               ///< a link to the faces that held it
    std::string behaviour = "rigid";  ///< of those links: free text for the next program

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const MakeLumps& step);
void from_json(const Json& json, MakeLumps& step);

/// Puts a lump for each part, in all its places, and ties each place to the faces of its neighbours that it touched: a
/// group of them, and a link. The lump's shape stays to be seen and is left out of exports; its mass is not.
/// Returns   an item for each part with its mass, and for each place with the faces that held it.
/// Refuses   parts without mass. A lump that nothing held is told.
[[nodiscard]] Result<Outcome> makeLumps(const Model& model, const MakeLumps& step, Progress& progress);

}  // namespace rasoir::reduce
