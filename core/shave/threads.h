// Modelled threads give way to plain cylinders.
#pragma once
#include "heal/removal.h"
#include "model/operation.h"
#include "model/reference.h"
#include "survey/threads.h"

namespace rasoir::shave {

/// Parameters of one step. Either a rule (every thread up to a major diameter, less those kept) or a choice.
struct PlainThreads {
    std::string diameter = "mean";   ///< of the cylinder that takes its place: "minor", "mean" or "major"
    double upTo = 0.0;               ///< [mm] threads whose major diameter is no larger; 0: only those chosen
    double from = 0.0;               ///< [mm] and no smaller
    std::vector<std::string> parts;  ///< names of the parts to look at; empty: all in the work
    std::vector<FaceRef> chosen;     ///< any one face of each further thread that goes, whatever its size
    std::vector<FaceRef> kept;       ///< any one face of each thread that stays
    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const PlainThreads& step);
void from_json(const Json& json, PlainThreads& step);

/// Puts one cylinder in the place of each thread's faces. A shank of another diameter is met in a flat ring where the
/// grooves end; a chamfer narrower than the cylinder (in a hole: wider) goes with the thread. Input     solids; threads
/// as survey::findThreads knows them. Returns   a new Model, lineage, an Item for each thread; one that cannot go stays
/// exactly as it was, with reason and place. Refuses   when none could go; a reference that no longer fits; a diameter
/// of another name; being cancelled. Checks    as heal::reface; the volume changes by no more than half as much again
/// as lies between minor and major diameter over its length and two leads.
[[nodiscard]] Result<Outcome> plainThreads(const Model& model, const PlainThreads& step, Progress& progress);

/// One thread of a part, with a cylinder of this diameter [mm].
[[nodiscard]] Result<heal::Removal> withPlain(const Part& part, const survey::Thread& thread, double diameter,
                                              double tolerance);

}  // namespace rasoir::shave
