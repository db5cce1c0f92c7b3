#include "model/ledger.h"

#include <fmt/format.h>

#include <array>

#include "common/safe_file.h"
#include "operations.h"

namespace rasoir {
namespace {
constexpr int ourVersion = 1;
}

std::string stepStateName(StepState state) {
    switch (state) {
        case StepState::Waiting:
            return "waiting";
        case StepState::Done:
            return "done";
        case StepState::Nothing:
            return "nothing to do";
        case StepState::Off:
            return "off";
        case StepState::Failed:
            return "failed";
    }
    return "waiting";
}

Json toJson(const Item& item) {
    Json json{{"what", item.what}, {"done", item.done}, {"size_mm", item.size}};
    if (!item.done) json["problem"] = toJson(item.problem);
    return json;
}

Json toJson(const Ledger& ledger) {
    Json json{{"format", "rasoir-ledger"}, {"version", ourVersion}, {"source", ledger.source}};
    if (!ledger.moreSources.empty()) json["moreSources"] = ledger.moreSources;
    if (ledger.unit) json["unit"] = unitName(*ledger.unit);
    if (ledger.targetSize) json["targetSize_mm"] = *ledger.targetSize;
    json["density_kg_m3"] = ledger.density;
    json["steps"] = Json::array();
    for (const Step& step : ledger.steps) {
        Json one{{"operation", step.operation}, {"parameters", step.parameters}, {"on", step.on}};
        Json result{{"state", stepStateName(step.state)}};
        if (!step.summary.empty()) result["summary"] = step.summary;
        if (step.problem) result["problem"] = toJson(*step.problem);
        if (!step.effect.is_null()) result["effect"] = step.effect;
        if (!step.items.empty()) {
            std::size_t done = 0;
            Json left = Json::array();
            for (const Item& item : step.items) {
                if (item.done)
                    ++done;
                else
                    left.push_back(toJson(item));
            }
            result["done"] = done;
            result["left"] = std::move(left);
        }
        one["result"] = std::move(result);
        json["steps"].push_back(std::move(one));
    }
    return json;
}

namespace {

Problem problemFrom(const Json& json) {
    Problem problem;
    problem.what = json.value("what", "");
    problem.remedy = json.value("remedy", "");
    problem.where.part = json.value("part", "");
    problem.where.faces = json.value("faces", std::vector<int>{});
    problem.lacking = json.value("lacking", std::vector<int>{});
    if (json.contains("point")) {
        const auto p = json.at("point").get<std::array<double, 3>>();
        problem.where.point = gp_Pnt(p[0], p[1], p[2]);
    }
    return problem;
}

/// What came of a step when it was last run. Running it again replaces all of this.
void readResult(const Json& result, Step& step) {
    step.summary = result.value("summary", "");
    step.effect = result.value("effect", Json());
    for (const StepState state : {StepState::Done, StepState::Nothing, StepState::Failed})
        if (step.on && result.value("state", "") == stepStateName(state)) step.state = state;
    if (result.contains("problem")) step.problem = problemFrom(result.at("problem"));
    const auto done = result.value("done", std::size_t{0});
    if (done <= 1000000) step.items.resize(done, Item{"", true, {}, 0.0});
    if (result.contains("left"))
        for (const Json& one : result.at("left")) {
            Item item{one.value("what", ""), false, {}, one.value("size_mm", 0.0)};
            if (one.contains("problem")) item.problem = problemFrom(one.at("problem"));
            step.items.push_back(std::move(item));
        }
}

}  // namespace

Result<Ledger> ledgerFromJson(const std::string& text) {
    const auto bad = [](const std::string& why) {
        return fail(ProblemKind::BadInput, "This is not a ledger that can be used: " + why + ".",
                    "See docs/formats/ledger.md.");
    };
    const Json json = Json::parse(text, nullptr, false);
    if (json.is_discarded()) return bad("it is not JSON");
    try {
        if (!json.is_object() || json.value("format", "") != "rasoir-ledger") return bad("its format line is missing");
        const int version = json.value("version", 0);
        if (version < 1) return bad("it has no version");
        if (version > ourVersion) return bad(fmt::format("its version {} is newer than this program", version));
        Ledger ledger;
        ledger.source = json.value("source", "");
        ledger.moreSources = json.value("moreSources", std::vector<std::string>{});
        if (json.contains("unit")) {
            ledger.unit = unitFromName(json.at("unit").get<std::string>());
            if (!ledger.unit) return bad("its unit is unknown");
        }
        if (json.contains("targetSize_mm")) {
            const double size = json.at("targetSize_mm").get<double>();
            // [mm] from a nanometre to ten kilometres; else a unit was mistaken.
            if (!(size >= 1e-6 && size <= 1e7)) return bad("its target size is absurd");
            ledger.targetSize = size;
        }
        ledger.density = json.value("density_kg_m3", 7850.0);
        if (!(ledger.density > 0.0 && ledger.density < 1e6)) return bad("its density is absurd");
        const Json& steps = json.at("steps");
        if (!steps.is_array()) return bad("its steps are not a list");
        for (const Json& one : steps) {
            Step step;
            one.at("operation").get_to(step.operation);
            if (findOperation(step.operation) == nullptr)
                return bad(fmt::format("it asks for \"{}\", which this program cannot do", step.operation));
            step.parameters = one.value("parameters", Json::object());
            if (!step.parameters.is_object()) return bad("the parameters of a step are not an object");
            step.on = one.value("on", true);
            step.state = step.on ? StepState::Waiting : StepState::Off;
            if (one.contains("result") && one.at("result").is_object()) readResult(one.at("result"), step);
            ledger.steps.push_back(std::move(step));
        }
        return ledger;
    } catch (const std::exception& error) {
        return bad(error.what());
    }
}

Result<void> saveLedger(const Ledger& ledger, const std::filesystem::path& path) {
    // Names from a file may hold bytes that are no text; they must not stop a save.
    return writeText(path, toJson(ledger).dump(2, ' ', false, Json::error_handler_t::replace) + "\n");
}

Result<Ledger> loadLedger(const std::filesystem::path& path) {
    const auto text = readText(path);
    if (!text) return tl::unexpected(text.error());
    return ledgerFromJson(*text);
}

}  // namespace rasoir
