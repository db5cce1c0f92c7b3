// Our own file: a piece of work with its model, its ledger, every state and the views, in one zip. Format:
// docs/formats/work-file.md.
#pragma once
#include <filesystem>

#include "common/progress.h"
#include "model/work.h"

namespace rasoir::exchange {

struct WorkFile {
    Work work;
    Json view = Json::object();      ///< what the window keeps with it: named views, groups, what is hidden
    std::vector<std::string> notes;  ///< what was damaged, and what was done about it
};

/// Writes everything, complete or not at all. Parts shared by several states are written once.
[[nodiscard]] Result<void> saveWork(const Work& work, const Json& view, const std::filesystem::path& path,
                                    Progress& progress);

/// Opens it again without running anything. A damaged state is dropped and its steps wait to be run; a damaged view is
/// left out: both are told in the notes. Refuses a file whose received model cannot be read, saying whether its ledger
/// still can, and a version newer than ours.
[[nodiscard]] Result<WorkFile> openWork(const std::filesystem::path& path, Progress& progress);

/// The ledger alone, also out of a file that was cut short: it comes first and uncompressed.
[[nodiscard]] Result<Ledger> ledgerOfWorkFile(const std::filesystem::path& path);

/// A ledger from its own file, or out of a work file.
[[nodiscard]] Result<Ledger> readLedger(const std::filesystem::path& path);

/// Whether the contents begin as a zip does.
[[nodiscard]] bool looksLikeWorkFile(const std::string& head);

}  // namespace rasoir::exchange
