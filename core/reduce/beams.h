// Slender bodies as beams: centre lines with sections, meeting in common nodes.
#pragma once
#include "model/operation.h"
#include "reduce/slender.h"

namespace rasoir::reduce {

/// Parameters of `reduce.beams`, kept in the ledger.
struct Beams {
    std::vector<std::string> parts;  ///< names or patterns; empty: all that are slender
    double leastRatio = 10.0;        ///< length over the section's depth
    /// [mm] how far an end may lie from the line that it is joined to; 0: half of the deepest section and a tenth;
    /// negative: nothing is joined.
    double nodesWithin = 0.0;

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const Beams& step);
void from_json(const Json& json, Beams& step);

/// Every slender body becomes a wire along its centroids, each edge with its section. Ends that come near another
/// member's line end on it: at its end where that is as near, else it gets a node there. The offset that a member had
/// is kept with its section. Nodes of several places are joints. Returns   a part for a part, an item for each with
/// length, section, and what the beam does not have of the solid;
///           copies that get nodes at other places become parts of their own, told.
/// Refuses   limits that are none; nothing slender (nothing to do); a part that is named and is not slender: an item.
[[nodiscard]] Result<Outcome> makeBeams(const Model& model, const Beams& step, Progress& progress);

}  // namespace rasoir::reduce
