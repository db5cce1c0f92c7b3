#include "commands.h"

#include <fmt/format.h>

#include <iostream>
#include <numeric>

#include "common/safe_file.h"
#include "exchange/files.h"
#include "exchange/groups.h"
#include "exchange/work_file.h"
#include "handover/candidates.h"
#include "handover/check.h"
#include "handover/export.h"
#include "handover/report.h"
#include "measure/mass.h"
#include "model/places.h"
#include "model/work.h"
#include "operations.h"
#include "surveys.h"
#include "terminal.h"

namespace rasoir::cli {
namespace {

void printFacts(const measure::Facts& facts, const measure::MassProperties& mass) {
    std::string kinds;
    for (const auto& [kind, count] : facts.surfaces)
        kinds += fmt::format("{}{} {}", kinds.empty() ? "" : ", ", count, kind);
    fmt::print("  {} faces ({}), {} edges\n", facts.faces, kinds, facts.edges);
    fmt::print("  from {} to {} mm\n", vectorText(facts.low), vectorText(facts.high));
    if (facts.solids > 0) fmt::print("  volume {} mm³, {} kg\n", readable(facts.volume), readable(mass.mass));
    fmt::print("  area {} mm², centre {} mm\n", readable(facts.area),
               vectorText({facts.centre.X(), facts.centre.Y(), facts.centre.Z()}));
    fmt::print("  shortest edge {} mm, smallest face {} mm², tolerance {} mm\n", readable(facts.shortestEdge),
               readable(facts.smallestFace), readable(facts.tolerance));
    fmt::print("  {}{}{}; about {} elements\n",
               facts.closed ? "closed" : fmt::format("not closed, {} open edges", facts.openEdges),
               facts.manyFaceEdges > 0 ? fmt::format(", {} edges with three or more faces", facts.manyFaceEdges) : "",
               facts.valid ? (*facts.valid ? ", valid" : ", not valid") : "", readable(std::round(facts.elements)));
}

}  // namespace

int inspect(const Input& input) {
    Progress progress(terminalListener());
    const auto model = open(input, progress);
    if (!model) return complain(model.error());
    const auto parts = measure::factsOfParts(*model, true, progress);
    if (!parts) return complain(parts.error());
    const measure::Facts whole = measure::factsOf(*model, *parts);
    std::vector<std::size_t> copies(model->parts.size(), 0);
    for (const Occurrence& occurrence : model->occurrences) ++copies[occurrence.part];
    if (input.json) {
        Json json{{"file", input.files.size() == 1 ? Json(input.files.front()) : Json(input.files)},
                  {"name", model->name}};
        json["unit"] = model->fileUnit ? Json(unitName(*model->fileUnit)) : Json();
        json["targetSize_mm"] = model->targetSize;
        json["density_kg_m3"] = model->density;
        json["notes"] = model->notes;
        json["whole"] = measure::toJson(whole, measure::massOf(*model, *parts));
        json["parts"] = Json::array();
        for (std::size_t p = 0; p < model->parts.size(); ++p) {
            const Part& part = *model->parts[p];
            Json one{{"name", part.name}, {"kind", bodyKindName(part.kind())}, {"occurrences", copies[p]}};
            if (part.colour) one["colour"] = {part.colour->red, part.colour->green, part.colour->blue};
            one["facts"] = measure::toJson((*parts)[p], measure::massOf(*model, part, (*parts)[p]));
            json["parts"].push_back(std::move(one));
        }
        print(json);
    } else {
        fmt::print("{}: {}, {}, unit {}\n", model->name, counted(model->parts.size(), "part"),
                   counted(model->occurrences.size(), "occurrence"),
                   model->fileUnit ? unitName(*model->fileUnit) : "not stated");
        for (const std::string& note : model->notes) fmt::print("  note: {}\n", note);
        printFacts(whole, measure::massOf(*model, *parts));
        if (model->parts.size() > 1)
            for (std::size_t p = 0; p < model->parts.size(); ++p) {
                fmt::print("{}{} ({})\n", model->parts[p]->name, copies[p] > 1 ? fmt::format(" ×{}", copies[p]) : "",
                           bodyKindName(model->parts[p]->kind()));
                printFacts((*parts)[p], measure::massOf(*model, *model->parts[p], (*parts)[p]));
            }
    }
    return Fine;
}

int survey(const Input& input, const SurveyWanted& wanted) {
    if (!wanted.anything()) {
        fmt::print(stderr,
                   "Nothing was asked for. Add --holes, --rounds, --reliefs, --threads, --small, --received, --copies, "
                   "--fasteners, --hidden, --defects, --contacts, --openings, --leaks, --reach, --bolts, --welds, "
                   "--walls, --beams, --proof, "
                   "--layers, --small-beside, --symmetry or "
                   "--not-flush.\n");
        return BadUse;
    }
    Progress progress(terminalListener());
    const auto model = open(input, progress);
    if (!model) return complain(model.error());
    double upTo = 0.0;
    if (!wanted.upTo.empty()) {
        const auto length = parseLength(wanted.upTo, Unit::Millimetre, model->targetSize);
        if (!length) {
            fmt::print(stderr, "{}\n", sentence(length.error()));
            return BadUse;
        }
        upTo = *length;
    }
    Json out{{"file", input.files.size() == 1 ? Json(input.files.front()) : Json(input.files)},
             {"targetSize_mm", model->targetSize}};
    if (auto done = surveyAll(*model, wanted, upTo, input.json, out, progress); !done) return complain(done.error());
    if (wanted.proof) {
        const auto work = openAsWork(input, progress);
        if (!work) return complain(work.error());
        if (auto done = surveyProof(*work, wanted, input.json, out, progress); !done) return complain(done.error());
    }
    if (input.json) print(out);
    return Fine;
}

int run(const RunWanted& wanted) {
    Progress progress(terminalListener());
    auto ledger = exchange::readLedger(wanted.ledger);
    if (!ledger) return complain(ledger.error());
    Input input;
    input.files = wanted.in;
    input.unit = wanted.unit.empty() && ledger->unit ? unitName(*ledger->unit) : wanted.unit;
    auto model = open(input, progress);
    if (!model) return complain(model.error());
    exchange::WriteOptions options;
    if (!wanted.outUnit.empty()) {
        options.unit = unitFromName(wanted.outUnit);
        if (!options.unit) {
            fmt::print(stderr, "\"{}\" is not a unit. Use mm, cm, m, um, in or ft.\n", wanted.outUnit);
            return BadUse;
        }
    }
    if (wanted.schema == "ap203") options.schema = exchange::StepSchema::Ap203;
    if (wanted.schema == "ap242") options.schema = exchange::StepSchema::Ap242;

    measure::FactsCache cache;
    Work received(*model, wanted.in.front(), {wanted.in.begin() + 1, wanted.in.end()});
    if (!wanted.as.empty()) {
        auto file = exchange::openWork(wanted.in.front(), progress);
        if (!file || wanted.in.size() != 1) {
            fmt::print(stderr, "--as makes a variant in a work file: give one .rasoir file with --in.\n");
            return BadUse;
        }
        auto begun = file->work.withVariant(wanted.as);
        if (!begun) return complain(begun.error());
        received = std::move(*begun);
    }
    auto work = received.withLedger(*ledger).replayed(cache, progress, wanted.keepGoing);
    if (!work) return complain(work.error());
    std::vector<std::string> guessed;
    if (wanted.nearest) {
        work = handover::withNearest(std::move(*work), guessed, cache, progress);
        if (!work) return complain(work.error());
        for (const std::string& guess : guessed) fmt::print("nearest, {}\n", guess);
    }
    bool failed = false, left = false;
    const auto before = cache.of(work->received(), progress), after = cache.of(work->current(), progress);
    if (!before) return complain(before.error());
    if (!after) return complain(after.error());
    const measure::Effect effect = measure::effectOf(work->received(), *before, work->current(), *after);
    Json report{{"in", wanted.in.size() == 1 ? Json(wanted.in.front()) : Json(wanted.in)},
                {"out", wanted.out},
                {"effect", measure::toJson(effect)},
                {"steps", Json::array()}};
    for (const Step& step : work->ledger().steps) {
        Json one{{"operation", step.operation}, {"state", stepStateName(step.state)}, {"summary", step.summary}};
        if (!step.effect.is_null()) one["effect"] = step.effect;
        if (step.problem) one["problem"] = toJson(*step.problem);
        one["items"] = Json::array();
        std::size_t done = 0;
        for (const Item& item : step.items) {
            one["items"].push_back(toJson(item));
            if (item.done)
                ++done;
            else
                left = true;
        }
        failed = failed || step.state == StepState::Failed || step.state == StepState::Waiting;
        fmt::print("{}: {}{}\n", stepStateName(step.state), step.summary.empty() ? step.operation : step.summary,
                   step.items.empty() ? "" : fmt::format(" ({} done, {} left)", done, step.items.size() - done));
        if (step.problem) fmt::print("  {}\n", sentence(*step.problem));
        for (const Item& item : step.items)
            if (!item.done) fmt::print("  {}\n", sentence(item.problem));
        report["steps"].push_back(std::move(one));
    }
    if (!guessed.empty()) report["nearest"] = guessed;
    report["groups"] = exchange::groupsOf(work->current());
    for (const Json& group : report["groups"])
        fmt::print("{}: {}\n", group["name"].get<std::string>(),
                   group.contains("edges") ? counted(group["edges"].size(), "edge")
                                           : counted(group["members"].size(), "member"));
    const bool write = !failed || wanted.keepGoing;
    report["written"] = write && !wanted.out.empty();
    if (write && !wanted.out.empty()) {
        if (wanted.out.ends_with(".rasoir")) {
            if (const auto saved = exchange::saveWork(*work, Json::object(), wanted.out, progress); !saved)
                return complain(saved.error());
        } else {
            const auto proof = handover::exportFile(work->current(), wanted.out, options, progress);
            if (!proof) return complain(proof.error());
            report["proof"] = handover::toJson(*proof);
            if (!proof->bodies.empty()) fmt::print("{}: {}\n", wanted.out, proof->told());
        }
    }
    if (!wanted.report.empty()) {
        std::string text = report.dump(2, ' ', false, Json::error_handler_t::replace) + "\n";
        if (wanted.report.ends_with(".html") || wanted.report.ends_with(".htm")) {
            auto page = handover::reportOf(*work, {}, cache, progress);
            if (!page) return complain(page.error());
            text = std::move(*page);
        }
        const auto saved = writeText(wanted.report, text);
        if (!saved) return complain(saved.error());
    }
    fmt::print("faces {} to {}, volume {} to {} mm³, about {} to {} elements\n", effect.facesBefore, effect.facesAfter,
               readable(effect.volumeBefore), readable(effect.volumeAfter), readable(std::round(effect.elementsBefore)),
               readable(std::round(effect.elementsAfter)));
    if (failed) {
        if (!write) fmt::print(stderr, "A step does not fit; nothing was written.\n");
        return Refused;
    }
    return left ? Partly : Fine;
}

int check(const Input& input) {
    Progress progress(terminalListener());
    const auto model = open(input, progress);
    if (!model) return complain(model.error());
    const auto found = handover::check(*model, progress);
    if (!found) return complain(found.error());
    Json list = Json::array();
    bool errors = false, warnings = false;
    for (const handover::CheckFinding& finding : *found) {
        errors = errors || finding.severity == handover::Severity::Error;
        warnings = warnings || finding.severity == handover::Severity::Warning;
        Json one{{"severity", handover::severityName(finding.severity)}, {"what", finding.what}, {"why", finding.why}};
        if (!finding.bench.empty()) one["bench"] = finding.bench;
        if (finding.where) one["at_mm"] = {finding.where->X(), finding.where->Y(), finding.where->Z()};
        list.push_back(std::move(one));
        if (!input.json) fmt::print("{}: {} {}\n", handover::severityName(finding.severity), finding.what, finding.why);
    }
    if (input.json)
        print(Json{{"findings", std::move(list)}});
    else if (found->empty())
        fmt::print("Nothing stands in the way.\n");
    return errors ? Refused : warnings ? Partly : Fine;
}

int listOperations(bool json) {
    Json all = Json::array();
    for (const Operation& operation : operations()) {
        all.push_back(toJson(operation));
        if (json) continue;
        fmt::print("{}: {}\n", operation.id, operation.title);
        for (const ParameterInfo& info : operation.parameters)
            fmt::print("  {} ({}{}, default {}): {}\n", info.name, info.type, info.unit.empty() ? "" : ", " + info.unit,
                       info.standard.dump(), info.meaning);
    }
    if (json) print(all);
    return Fine;
}

}  // namespace rasoir::cli
