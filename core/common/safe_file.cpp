#include "common/safe_file.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>
#include <fstream>
#include <sstream>

namespace rasoir {
namespace fs = std::filesystem;

Result<void> writeBeside(const fs::path& target, const std::function<Result<void>(const fs::path&)>& write) {
    const auto cannot = [&target](const std::string& why) {
        return fail(ProblemKind::Storage, fmt::format("\"{}\" was not saved: {}.", target.string(), why),
                    "Choose another folder or free some space; what was there before is untouched.");
    };
    const fs::path folder = target.has_parent_path() ? target.parent_path() : fs::path(".");
    std::error_code error;
    if (!fs::is_directory(folder, error)) return cannot("its folder does not exist");
    if (fs::is_directory(target, error)) return cannot("it is a folder");
    // The suffix stays last: the kernel's writers choose by it.
    const fs::path beside =
        folder / fmt::format(".{}.{}.part{}", target.stem().string(), ::getpid(), target.extension().string());
    const auto written = write(beside);
    if (!written) {
        const int reason = errno;
        fs::remove(beside, error);
        if (written.error().kind == ProblemKind::Storage) {
            if (reason == ENOSPC || reason == EACCES || reason == EROFS || reason == EFBIG)
                return cannot(std::strerror(reason));
            return cannot(written.error().what);
        }
        return written;
    }
    const int file = ::open(beside.c_str(), O_RDONLY);
    const bool flushed = file >= 0 && ::fsync(file) == 0;
    const int reason = errno;
    if (file >= 0) ::close(file);
    if (!flushed) {
        fs::remove(beside, error);
        return cannot(std::strerror(reason));
    }
    fs::rename(beside, target, error);
    if (error) {
        const std::string why = error.message();
        fs::remove(beside, error);
        return cannot(why);
    }
    return {};
}

Result<void> writeText(const fs::path& target, const std::string& text) {
    return writeBeside(target, [&text](const fs::path& path) -> Result<void> {
        std::ofstream out(path, std::ios::binary | std::ios::trunc);
        out.write(text.data(), static_cast<std::streamsize>(text.size()));
        out.flush();
        if (!out) return fail(ProblemKind::Storage, errno != 0 ? std::strerror(errno) : "writing failed");
        return {};
    });
}

Result<std::string> readText(const fs::path& source, std::uintmax_t limit) {
    std::error_code error;
    if (!fs::exists(source, error))
        return fail(ProblemKind::Storage, fmt::format("There is no file \"{}\".", source.string()));
    if (fs::is_directory(source, error))
        return fail(ProblemKind::Storage, fmt::format("\"{}\" is a folder, not a file.", source.string()));
    const std::uintmax_t size = fs::file_size(source, error);
    if (!error && size > limit)
        return fail(ProblemKind::BadInput,
                    fmt::format("\"{}\" is too large to be what it should be.", source.string()));
    std::ifstream in(source, std::ios::binary);
    if (!in)
        return fail(ProblemKind::Storage, fmt::format("\"{}\" cannot be read.", source.string()),
                    "Check its permissions.");
    std::ostringstream text;
    text << in.rdbuf();
    return std::move(text).str();
}

}  // namespace rasoir
