// Mass that is not modelled (paint, cables, what was cut away) spread over faces or edges, so that the whole weighs
// what it is known to weigh.
#pragma once
#include "model/operation.h"
#include "model/reference.h"

namespace rasoir::handover {

/// Parameters of `handover.spreadMass`, kept in the ledger.
struct SpreadMass {
    std::vector<std::string> parts;  ///< names or patterns: over all their faces, of wires over all edges
    std::vector<EntityRef> things;   ///< or over these faces, or these edges
    std::optional<double> stated;    ///< [kg] what each part weighs in truth; what it lacks now is spread
    std::optional<double> mass;      ///< [kg] or what is to be added to each part
    bool asLump = false;           ///< it becomes a lump of its own in each place of the part, instead of being spread
    std::optional<gp_XYZ> centre;  ///< [mm, part coordinates] where the whole then has its centre of mass; none: where
                                   ///< the part has it
    bool away = false;             ///< takes back what was spread there

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const SpreadMass& step);
void from_json(const Json& json, SpreadMass& step);

/// Evenly by area, or by length. What is spread stays per area: a face that is trimmed later takes its share with it.
/// Returns   an item for each part, with what was spread over how much.
/// Refuses   neither or both masses, masses that are not above zero, faces and edges at once; a part that weighs more
///           than is stated is an item with both numbers.
[[nodiscard]] Result<Outcome> spreadMass(const Model& model, const SpreadMass& step, Progress& progress);

}  // namespace rasoir::handover
