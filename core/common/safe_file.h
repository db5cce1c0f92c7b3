// Writing that never leaves half a file: beside the target first, then renamed over it.
#pragma once
#include <filesystem>
#include <functional>

#include "common/problem.h"

namespace rasoir {

/// Calls `write` with the path of a new file in the folder of `target`, flushes that file to the disk and renames it to
/// `target`. If `write` refuses, the disk is full or the folder read-only, `target` stays as it was and the new file is
/// gone.
[[nodiscard]] Result<void> writeBeside(const std::filesystem::path& target,
                                       const std::function<Result<void>(const std::filesystem::path&)>& write);
/// The same for a text held in memory.
[[nodiscard]] Result<void> writeText(const std::filesystem::path& target, const std::string& text);
/// A whole file as text; refuses a missing or unreadable one, and one over `limit` bytes.
[[nodiscard]] Result<std::string> readText(const std::filesystem::path& source, std::uintmax_t limit = 256u << 20);

}  // namespace rasoir
