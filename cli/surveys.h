// Surveys as JSON, and in words on a terminal.
#pragma once
#include "commands.h"
#include "common/progress.h"
#include "model/work.h"

namespace rasoir::cli {

/// Runs all surveys that are wanted; what each finds goes into `out` under its name, and, unless JSON is asked for,
/// onto the terminal. `upTo` [mm]: the largest size; 0: all.
Result<void> surveyAll(const Model& model, const SurveyWanted& wanted, double upTo, bool json, Json& out,
                       Progress& progress);

/// Sheets and beams against the solids that they stand for.
Result<void> surveyProof(const Work& work, const SurveyWanted& wanted, bool json, Json& out, Progress& progress);

}  // namespace rasoir::cli
