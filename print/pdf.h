// A page of HTML on paper.
#pragma once
#include <filesystem>
#include <string>

#include "common/problem.h"

namespace rasoir::print {

/// Writes a report's page as a PDF of A4 sheets, its pictures inside. Needs no display; where there is no Qt
/// application yet, one is made that lives until the process ends. Refuses where the file cannot be written; what was
/// there before then still is.
[[nodiscard]] Result<void> writePdf(const std::string& html, const std::filesystem::path& path);

}  // namespace rasoir::print
