// STEP: parts, instances, names, colours and the length unit.
#pragma once
#include <mutex>

#include "exchange/files.h"

namespace rasoir::exchange {

[[nodiscard]] Result<Model> readStep(const std::filesystem::path& path, const ReadOptions& options, Progress& progress);
[[nodiscard]] Result<void> writeStep(const Model& model, const std::filesystem::path& path, const WriteOptions& options, Progress& progress);

/// The translators keep global settings: one translation at a time. Whoever calls the two above holds it, outside `guarded`: a
/// signal caught in there would jump over the unlocking.
std::mutex& translatorLock();

}  // namespace rasoir::exchange
