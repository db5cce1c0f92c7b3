// Pages on paper, for commands that write them.
#pragma once
#include <filesystem>
#include <string>

namespace rasoir::cli {

/// Starts the program that puts a page of HTML on paper (print/main.cpp), and waits for it. What goes wrong is told on
/// the error stream, as by every command; returns the exit code.
[[nodiscard]] int putOnPaper(const std::string& html, const std::filesystem::path& pdf);

}  // namespace rasoir::cli
