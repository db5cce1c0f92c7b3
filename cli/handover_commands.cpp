// Commands for what is handed over: comparing, the report, the export.
#include <fmt/format.h>

#include "commands.h"
#include "common/safe_file.h"
#include "exchange/work_file.h"
#include "handover/compare.h"
#include "handover/export.h"
#include "handover/report.h"
#include "model/places.h"
#include "print/pdf.h"
#include "terminal.h"

namespace rasoir::cli {
namespace {

/// A name as a part of a file's: what paths do not like becomes an underscore.
std::string asFileName(std::string name) {
    for (char& letter : name)
        if (std::string_view("/\\:*?\"<>|").find(letter) != std::string_view::npos ||
            static_cast<unsigned char>(letter) < 32)
            letter = '_';
    return name.empty() ? "part" : name;
}

/// The model without what is not among the wanted places.
Model only(const Model& model, const std::vector<std::size_t>& wanted) {
    Model some = model;
    for (std::size_t o = 0; o < some.occurrences.size(); ++o)
        if (!std::binary_search(wanted.begin(), wanted.end(), o)) some.occurrences[o].aside = true;
    return some;
}

}  // namespace

int compareFiles(const Input& before, const Input& after, bool json) {
    Progress progress(terminalListener());
    const auto first = open(before, progress);
    if (!first) return complain(first.error());
    const auto second = open(after, progress);
    if (!second) return complain(second.error());
    const auto found = handover::compare(*first, *second, progress);
    if (!found) return complain(found.error());
    if (json) {
        print(handover::toJson(*found));
        return found->same() ? Fine : Partly;
    }
    for (const handover::PartChange& part : found->parts)
        for (const std::string& line : handover::told(part)) fmt::print("{}\n", line);
    if (found->same()) fmt::print("Nothing changed.\n");
    return found->same() ? Fine : Partly;
}

int report(const Input& input, const ReportWanted& wanted) {
    Progress progress(terminalListener());
    const std::string& out = wanted.out;
    const bool paper = out.ends_with(".pdf");
    if (!paper && !out.ends_with(".html") && !out.ends_with(".htm")) {
        fmt::print(stderr, "The report is a page: name a file that ends in .html or .pdf.\n");
        return BadUse;
    }
    Work work;
    if (input.files.size() == 1 && input.files.front().ends_with(".rasoir")) {
        auto opened = exchange::openWork(input.files.front(), progress);
        if (!opened) return complain(opened.error());
        work = std::move(opened->work);
        if (!input.variant.empty()) {
            const auto variant = work.variantNamed(input.variant);
            if (!variant) return complain(variant.error());
            work = work.onVariant(*variant);
        }
    } else {
        auto model = open(input, progress);
        if (!model) return complain(model.error());
        work = Work(std::move(*model), input.files.front(), {input.files.begin() + 1, input.files.end()});
    }
    measure::FactsCache cache;
    const handover::ReportOptions options{!wanted.plain, wanted.author, wanted.checker, wanted.date};
    const auto page = handover::reportOf(work, options, cache, progress);
    if (!page) return complain(page.error());
    if (const auto saved = paper ? print::writePdf(*page, out) : writeText(out, *page); !saved)
        return complain(saved.error());
    return Fine;
}

int variants(const std::string& file, bool json) {
    Progress progress(terminalListener());
    const auto opened = exchange::openWork(file, progress);
    if (!opened) return complain(opened.error());
    const Work& work = opened->work;
    Json list = Json::array();
    for (std::size_t v = 0; v < work.variantNames().size(); ++v) {
        const Variant variant = work.variantAt(v);
        list.push_back({{"name", variant.name}, {"inHand", v == work.variant()}, {"steps", Json::array()}});
        if (!json)
            fmt::print("{}{}: {}\n", variant.name, v == work.variant() ? " (in hand)" : "",
                       counted(variant.ledger.steps.size(), "step"));
        for (const Step& step : variant.ledger.steps) {
            const std::string what = step.summary.empty() ? step.operation : step.summary;
            list.back()["steps"].push_back(
                {{"operation", step.operation}, {"state", stepStateName(step.state)}, {"summary", what}});
            if (!json) fmt::print("  {}: {}\n", stepStateName(step.state), what);
        }
    }
    if (json) print({{"file", file}, {"variants", std::move(list)}});
    return Fine;
}

int exportFile(const Input& input, const ExportWanted& wanted) {
    Progress progress(terminalListener());
    exchange::WriteOptions options;
    if (!wanted.unit.empty()) {
        options.unit = unitFromName(wanted.unit);
        if (!options.unit) {
            fmt::print(stderr, "\"{}\" is not a unit. Use mm, cm, m, um, in or ft.\n", wanted.unit);
            return BadUse;
        }
    }
    if (wanted.schema == "ap203") options.schema = exchange::StepSchema::Ap203;
    if (wanted.schema == "ap242") options.schema = exchange::StepSchema::Ap242;
    auto model = open(input, progress);
    if (!model) return complain(model.error());
    const auto places = placesMeant(*model, wanted.parts);
    if (!places) return complain(places.error());
    const auto write = [&](const Model& some, const std::filesystem::path& path) -> Result<std::string> {
        if (wanted.unproven) {
            if (const auto written = exchange::writeFile(some, path, options, progress); !written)
                return tl::unexpected(written.error());
            return "not compared";
        }
        const auto proof = handover::exportFile(some, path, options, progress);
        if (!proof) return tl::unexpected(proof.error());
        return proof->bodies.empty() ? std::string("a drawing, not compared") : proof->told();
    };
    if (!wanted.each) {
        const auto written = write(only(*model, *places), wanted.out);
        if (!written) return complain(written.error());
        fmt::print("{}: {}\n", wanted.out, *written);
        return Fine;
    }
    // A part stands in its own file once, where its first place has it.
    std::map<std::size_t, std::size_t> firstPlace;
    for (const std::size_t o : *places) firstPlace.emplace(model->occurrences[o].part, o);
    const std::filesystem::path out(wanted.out);
    for (const auto& [part, place] : firstPlace) {
        std::filesystem::path path = out;
        path.replace_filename(out.stem().string() + " " + asFileName(model->parts[part]->name) +
                              out.extension().string());
        const auto written = write(only(*model, {place}), path);
        if (!written) return complain(written.error());
        fmt::print("{}: {}\n", path.string(), *written);
    }
    return Fine;
}

}  // namespace rasoir::cli
