// STEP: parts, instances, names, colours and the length unit.
#pragma once
#include "exchange/assembly.h"
#include "exchange/files.h"

namespace rasoir::exchange {

[[nodiscard]] Result<Model> readStep(const std::filesystem::path& path, const ReadOptions& options, Progress& progress);
[[nodiscard]] Result<void> writeStep(const Model& model, const std::filesystem::path& path, const WriteOptions& options,
                                     Progress& progress);

}  // namespace rasoir::exchange
