// Rounds and chamfers away: edges sharp again.
#pragma once
#include "heal/removal.h"
#include "model/operation.h"
#include "model/reference.h"
#include "survey/rounds.h"

namespace rasoir::shave {

/// Parameters of one step. Either a rule (every round within the sizes, less those kept) or a choice.
struct RemoveStrips {
    double upTo = 0.0;  ///< [mm] every chain whose largest radius (width) is no larger goes; 0: only those chosen
    double from = 0.0;  ///< [mm] and no smaller
    std::vector<std::string> parts;  ///< names of the parts to look at; empty: all in the work
    std::vector<std::string> sides;  ///< "outer", "inner"; empty: both
    bool bends = false;              ///< by rule, the bends of sheets too
    std::vector<FaceRef> chosen;     ///< any one face of each further chain that goes, whatever its size
    std::vector<FaceRef> kept;       ///< any one face of each chain that stays
    bool along = false;              ///< where one does not go by itself, what rests on it or ends at it goes too
    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const RemoveStrips& step);
void from_json(const Json& json, RemoveStrips& step);

/// Removes rounds (or chamfers): each strip shrinks to the sharp edge of the faces that it ran along, patches to their
/// corner. Input     solids; chains as survey::findStrips knows them. Returns   a new Model, lineage, an Item for each
/// chain. A chain that cannot go stays exactly as it was, with reason and place. What
///           could not go at once is tried again after the others are gone; where others would have to go too, its
///           problem says which. Items of inner rounds say that the stress at the corner is fictitious.
/// Refuses   when nothing at all could be removed; a reference that no longer fits; being cancelled.
/// Checks    as heal::removeFaces.
[[nodiscard]] Result<Outcome> removeRounds(const Model& model, const RemoveStrips& step, Progress& progress);
[[nodiscard]] Result<Outcome> removeChamfers(const Model& model, const RemoveStrips& step, Progress& progress);

/// The same for chains of one part.
[[nodiscard]] Result<heal::Removal> removeFrom(const Part& part, const std::vector<survey::StripChain>& chains,
                                               double tolerance, Progress& progress);

/// As heal::removeFaces wants chains named.
[[nodiscard]] std::vector<heal::Wanted> wantedFor(const std::vector<survey::StripChain>& chains);

/// Takes any picked faces out; what lies round them grows together.
struct RemoveFaces {
    std::vector<FaceRef> faces;
    bool along = false;  ///< where they do not go by themselves, what rests on them or lies beside them goes too
    int closing = 0;     ///< which of the sound ways to close the wound is taken: 0 the nearest, 1 the next
    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const RemoveFaces& step);
void from_json(const Json& json, RemoveFaces& step);
/// Faces that touch each other go together; where that fails and some are of rounds or chamfers, with the whole chains
/// of those, as strips if nothing else was picked: what was added is told. Refuses   and leaves the model as it was: no
/// faces, a reference that no longer fits, nothing that could go, being cancelled.
[[nodiscard]] Result<Outcome> removeFaces(const Model& model, const RemoveFaces& step, Progress& progress);

}  // namespace rasoir::shave
