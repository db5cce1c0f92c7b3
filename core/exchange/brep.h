// BREP: the kernel's own text format, shapes and nothing else.
#pragma once
#include "exchange/files.h"

namespace rasoir::exchange {

[[nodiscard]] Result<Model> readBrep(const std::filesystem::path& path, const ReadOptions& options, Progress& progress);
[[nodiscard]] Result<void> writeBrep(const Model& model, const std::filesystem::path& path, Progress& progress);

}  // namespace rasoir::exchange
