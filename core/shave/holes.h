// Holes away: the walls taken out, the mouths made whole.
#pragma once
#include "heal/removal.h"
#include "model/operation.h"
#include "model/reference.h"
#include "survey/holes.h"

namespace rasoir::shave {

/// Parameters of one step, kept in the ledger as JSON. Either a rule (every hole up to a size, less those kept) or a
/// choice.
struct RemoveHoles {
    double upTo = 0.0;               ///< [mm] every hole whose widest wall is no wider goes; 0: only those chosen
    double from = 0.0;               ///< [mm] and no narrower
    std::vector<std::string> parts;  ///< names of the parts to look at; empty: all
    std::vector<std::string> kinds;  ///< "plain", "slot", "sheet", ...; empty: all but slots
    std::vector<FaceRef> chosen;     ///< any one face of each further hole that goes, whatever its size
    std::vector<FaceRef> kept;       ///< any one face of each hole that stays
    std::vector<std::array<double, 3>> chosenAt,
        keptAt;          ///< [mm, part coordinates] the same for holes of sheets, by their middle
    bool along = false;  ///< where one does not go by itself, the holes that it crosses go too
    bool bores = false;  ///< by rule, take big bores and the insides of tubes too

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const RemoveHoles& step);
void from_json(const Json& json, RemoveHoles& step);

/// Takes the walls of holes away and lets the faces around them grow together until each solid is closed again.
/// Input     solids and sheets; holes as survey::findHoles knows them. In a sheet the loop goes and the face is whole.
/// Returns   a new Model, the lineage of all it touched, and an Item for each hole: done, or left with reason and
/// place. All that
///           can be removed is; a hole that cannot stays exactly as it was.
/// Refuses   when nothing at all could be removed, with the first reason; a reference that no longer fits; being
/// cancelled. Checks    every changed face by the kernel's check; every edge of a changed face has its two opposite
/// sides; the volume
///           grows by what the holes held. A hole whose surroundings fail it is put back.
/// Cost      grows with the holes and the faces around them, plus one pass over the faces of changed parts.
[[nodiscard]] Result<Outcome> removeHoles(const Model& model, const RemoveHoles& step, Progress& progress);

/// The same for one part and a list of holes found in it.
[[nodiscard]] Result<heal::Removal> removeFrom(const Part& part, const std::vector<survey::Hole>& holes,
                                               double tolerance, Progress& progress);

}  // namespace rasoir::shave
