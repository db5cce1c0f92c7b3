// The ledger: what was done, as data that can be saved, switched, edited and replayed. Format: docs/formats/ledger.md.
#pragma once
#include <filesystem>

#include "model/operation.h"

namespace rasoir {

enum class StepState {
    Waiting,  ///< not run yet, or something before it changed
    Done,
    Nothing,  ///< its rule found nothing here; `problem` says so, and what follows goes on
    Off,      ///< switched off by the user
    Failed    ///< tried; `problem` says why it does not fit
};

struct Step {
    std::string operation;  ///< id of an Operation
    Json parameters = Json::object();
    bool on = true;
    // What came of it when it was last run:
    StepState state = StepState::Waiting;
    std::string summary;
    std::optional<Problem> problem;
    std::vector<Item> items;
    Json effect;  ///< as measure::toJson(Effect); null before it was run
};

struct Ledger {
    std::string source;                    ///< the file that was received, as it was named
    std::vector<std::string> moreSources;  ///< further files that were read into the same model
    std::optional<Unit> unit;              ///< given by the user for a file that states none
    std::optional<double> targetSize;      ///< [mm]
    double density = 7850.0;               ///< [kg/m^3]
    SharedVector<Step> steps;
};

Json toJson(const Ledger& ledger);
/// States and results are those of the last run; Work::withLedger makes all steps wait again.
/// Refuses what is not a ledger, a version newer than ours, unknown operations, and absurd sizes, each with a sentence.
[[nodiscard]] Result<Ledger> ledgerFromJson(const std::string& text);
[[nodiscard]] Result<void> saveLedger(const Ledger& ledger, const std::filesystem::path& path);
[[nodiscard]] Result<Ledger> loadLedger(const std::filesystem::path& path);

std::string stepStateName(StepState state);
Json toJson(const Item& item);

}  // namespace rasoir
