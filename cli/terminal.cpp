#include "terminal.h"

#include <fmt/format.h>
#include <unistd.h>

#include <chrono>

#include "exchange/files.h"
#include "exchange/work_file.h"

namespace rasoir::cli {

Progress::Listener terminalListener() {
    if (::isatty(STDERR_FILENO) == 0) return {};
    return [last = std::chrono::steady_clock::time_point{}](double fraction, const std::string& doing) mutable {
        const auto now = std::chrono::steady_clock::now();
        if (now - last < std::chrono::milliseconds(100) && fraction < 1.0) return;
        last = now;
        fmt::print(stderr, "\r\033[K{:3.0f} %  {}", 100.0 * fraction, doing);
        if (fraction >= 1.0) fmt::print(stderr, "\r\033[K");
        std::fflush(stderr);
    };
}

int exitCodeOf(const Problem& problem) {
    switch (problem.kind) {
        case ProblemKind::BadInput:
            return BadFile;
        case ProblemKind::NeedsUnit:
            return NeedsUnit;
        case ProblemKind::NothingToDo:
            return Fine;
        case ProblemKind::NotPossible:
            return Refused;
        case ProblemKind::Cancelled:
            return Refused;
        case ProblemKind::Storage:
            return BadFile;
        case ProblemKind::Internal:
            return Broken;
    }
    return Broken;
}

int complain(const Problem& problem) {
    fmt::print(stderr, "{}\n", sentence(problem));
    return exitCodeOf(problem);
}

void print(const Json& json) {
    fmt::print("{}\n", json.dump(2, ' ', false, Json::error_handler_t::replace));
}

Result<Model> open(const Input& input, Progress& progress) {
    exchange::ReadOptions options;
    if (!input.unit.empty()) {
        options.unit = unitFromName(input.unit);
        if (!options.unit)
            return fail(ProblemKind::BadInput, fmt::format("\"{}\" is not a unit.", input.unit),
                        "Use mm, cm, m, um, in or ft.");
    }
    options.variant = input.variant;
    auto model = exchange::readFiles({input.files.begin(), input.files.end()}, options, progress);
    if (model && !input.targetSize.empty()) {
        const auto size = parseLength(input.targetSize);
        if (!size || *size <= 0.0) return fail(ProblemKind::BadInput, "The target size must be a positive length.");
        model->targetSize = *size;
    }
    return model;
}

Result<Work> openAsWork(const Input& input, Progress& progress, Json* view) {
    if (input.files.size() == 1 && input.files.front().ends_with(".rasoir")) {
        auto opened = exchange::openWork(input.files.front(), progress);
        if (!opened) return tl::unexpected(opened.error());
        if (view != nullptr) *view = opened->view;
        if (input.variant.empty()) return std::move(opened->work);
        const auto variant = opened->work.variantNamed(input.variant);
        if (!variant) return tl::unexpected(variant.error());
        return opened->work.onVariant(*variant);
    }
    auto model = open(input, progress);
    if (!model) return tl::unexpected(model.error());
    return Work(std::move(*model), input.files.front(), {input.files.begin() + 1, input.files.end()});
}

std::string vectorText(const std::array<double, 3>& v) {
    return fmt::format("{} {} {}", readable(v[0]), readable(v[1]), readable(v[2]));
}

}  // namespace rasoir::cli
