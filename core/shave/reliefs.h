// Marks, bosses, pockets and cutouts away: their base closes over them. Steps away: their two faces become one.
#pragma once
#include "heal/removal.h"
#include "model/operation.h"
#include "model/reference.h"
#include "survey/reliefs.h"

namespace rasoir::shave {

/// Parameters of one step. Either a rule (every relief of the kinds within the sizes, less those kept) or a choice.
struct RemoveReliefs {
    double upTo = 0.0;  ///< [mm] marks, steps: height; bosses, pockets, cutouts: breadth; notches, ribs: least side; 0:
                        ///< only those chosen
    double from = 0.0;  ///< [mm] and no smaller
    std::vector<std::string>
        kinds;  ///< "mark", "boss", "pocket", "cutout", "notch", "rib", "step"; a rule needs at least one
    std::vector<std::string> parts;  ///< names of the parts to look at; empty: all in the work
    std::vector<FaceRef>
        chosen;  ///< a face of each further relief that goes, whatever its size; of nested ones the innermost is meant
    std::vector<FaceRef> kept;  ///< a face of each relief that stays, and with it all that it lies in
    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const RemoveReliefs& step);
void from_json(const Json& json, RemoveReliefs& step);

/// Input     solids; reliefs as survey::findReliefs knows them.
/// Returns   a new Model, lineage, an Item for each relief; one that cannot go stays exactly as it was, with reason and
/// place. What lies in
///           another that goes (a boss in a pocket) goes with it.
/// Refuses   when nothing at all could be removed; a reference that no longer fits; being cancelled.
/// Checks    as heal::removeFaces.
[[nodiscard]] Result<Outcome> removeReliefs(const Model& model, const RemoveReliefs& step, Progress& progress);

}  // namespace rasoir::shave
