// What all commands do alike: files in, progress and problems out.
#pragma once
#include "commands.h"
#include "common/progress.h"
#include "model/work.h"

namespace rasoir::cli {

/// Progress on a terminal's error stream; silent in a pipe.
Progress::Listener terminalListener();
int exitCodeOf(const Problem& problem);
/// Prints a problem on the error stream; returns the exit code.
int complain(const Problem& problem);
void print(const Json& json);
std::string vectorText(const std::array<double, 3>& v);
/// The files of a command as one model, with the target size it asks for.
Result<Model> open(const Input& input, Progress& progress);
/// As work: a work file with its ledger and states, other files without any.
Result<Work> openAsWork(const Input& input, Progress& progress, Json* view = nullptr);

}  // namespace rasoir::cli
