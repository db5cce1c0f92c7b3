// What tells one file from another.
#pragma once
#include <filesystem>
#include <string>

#include "common/problem.h"

namespace rasoir {

/// SHA-256 of a file's contents, in 64 hexadecimal digits. Refuses a file that cannot be read.
[[nodiscard]] Result<std::string> sha256Of(const std::filesystem::path& path);

}  // namespace rasoir
