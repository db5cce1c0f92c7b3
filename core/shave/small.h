// Small faces and short edges away, each in the way that suits it.
#pragma once
#include "model/operation.h"
#include "survey/small.h"

namespace rasoir::shave {

/// Parameters of one step. Either a rule (all within the limits, less those kept) or a choice.
struct RemoveSmall {
    double facesUpTo = 0.0;          ///< [mm] faces no wider; 0: none by rule
    double edgesUpTo = 0.0;          ///< [mm] edges no longer; 0: none by rule
    double from = 0.0;               ///< [mm] and neither any smaller
    std::vector<std::string> parts;  ///< names of the parts to look at; empty: all in the work
    std::vector<std::array<double, 3>> chosenAt,
        keptAt;  ///< [mm, part coordinates] by their middles: what goes besides, and what stays
    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const RemoveSmall& step);
void from_json(const Json& json, RemoveSmall& step);

/// Faces that are to be removed go together, then smallest first. Each is tried the way that the survey tells, then in
/// the others: merged, removed, flattened, collapsed. Input     closed bodies and sheets; small things as
/// survey::findSmall knows them. Returns   a new Model, lineage, an Item for each, which says how it went, or why it
/// stays. Refuses   when none could go; lengths that are none; a middle at which there is nothing small; being
/// cancelled. Checks    after each, and after those that go together: what was closed is closed, and the volume changed
/// by no more than its size times the skin round it,
///           together by no more than half as much again as their areas times their widths.
[[nodiscard]] Result<Outcome> removeSmall(const Model& model, const RemoveSmall& step, Progress& progress);

}  // namespace rasoir::shave
