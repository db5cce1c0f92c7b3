// Commands for what is handed over: comparing, the report, the export.
#include <fmt/format.h>

#include "commands.h"
#include "common/safe_file.h"
#include "exchange/work_file.h"
#include "handover/compare.h"
#include "handover/export.h"
#include "handover/report.h"
#include "model/places.h"
#include "paper.h"
#include "terminal.h"

namespace rasoir::cli {
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
    Json view = Json::object();
    const auto work = openAsWork(input, progress, &view);
    if (!work) return complain(work.error());
    measure::FactsCache cache;
    handover::ReportOptions options{!wanted.plain,
                                    wanted.author,
                                    wanted.checker,
                                    wanted.date,
                                    handover::sightsIn(view.value("views", Json::object())),
                                    wanted.mesh};
    options.exported.assign(wanted.exported.begin(), wanted.exported.end());
    const auto page = handover::reportOf(*work, options, cache, progress);
    if (!page) return complain(page.error());
    if (paper) return putOnPaper(*page, out);
    const auto saved = writeText(out, *page);
    return saved ? Fine : complain(saved.error());
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
    const auto written = handover::exportAll(
        *model, {wanted.out, *places, wanted.each, wanted.unproven, wanted.axes, options}, progress);
    if (!written) return complain(written.error());
    for (const handover::Exported& file : *written) fmt::print("{}: {}\n", file.path.string(), file.told);
    return Fine;
}

}  // namespace rasoir::cli
