#include "paper.h"

#include <fmt/format.h>
#include <spawn.h>
#include <sys/wait.h>
#include <unistd.h>

#include "common/safe_file.h"
#include "terminal.h"

extern char** environ;

namespace rasoir::cli {
namespace {

constexpr const char* otherWay = "Write the report as .html, and print that.";

/// Beside this program where it was built; in a folder of libraries where it was installed.
std::filesystem::path paperProgram() {
    std::error_code ignored;
    const auto folder = std::filesystem::read_symlink("/proc/self/exe", ignored).parent_path();
    for (const auto& place : {folder / "rasoir-paper", folder / "../lib/rasoir/rasoir-paper"})
        if (std::filesystem::exists(place, ignored)) return place;
    return {};
}

/// A file that is gone when this is.
class PassingFile {
public:
    PassingFile() : m_path((std::filesystem::temp_directory_path() / "rasoir-page-XXXXXX").string()) {
        if (const int file = mkstemp(m_path.data()); file >= 0) close(file);
    }
    ~PassingFile() {
        std::error_code ignored;
        std::filesystem::remove(m_path, ignored);
    }
    PassingFile(const PassingFile&) = delete;
    PassingFile& operator=(const PassingFile&) = delete;
    [[nodiscard]] const std::string& path() const { return m_path; }

private:
    std::string m_path;
};

}  // namespace

int putOnPaper(const std::string& html, const std::filesystem::path& pdf) {
    const std::string program = paperProgram().string();
    if (program.empty())
        return complain(
            {ProblemKind::Storage, "The program that writes PDF, rasoir-paper, is not beside this one.", {}, otherWay});
    const PassingFile page;
    if (const auto written = writeText(page.path(), html); !written) return complain(written.error());
    std::string out = pdf.string(), from = page.path(), name = program;
    std::array<char*, 4> arguments{name.data(), from.data(), out.data(), nullptr};
    pid_t child = 0;
    int status = 0;
    if (posix_spawn(&child, program.c_str(), nullptr, nullptr, arguments.data(), environ) != 0 ||
        waitpid(child, &status, 0) != child || !WIFEXITED(status))
        return complain(
            {ProblemKind::Storage, "The program that writes PDF could not be run to its end.", {}, otherWay});
    return WEXITSTATUS(status);
}

}  // namespace rasoir::cli
