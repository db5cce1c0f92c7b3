// A sentence of the analyst's own, among the steps.
#pragma once
#include "model/operation.h"

namespace rasoir::handover {

/// Parameters of `handover.note`.
struct Note {
    std::string text;

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const Note& note);
void from_json(const Json& json, Note& note);

/// Changes nothing: the sentence stands in the ledger where it was typed, and in the report.
/// Refuses   a note without a word.
[[nodiscard]] Result<Outcome> takeNote(const Model& model, const Note& note, Progress& progress);

}  // namespace rasoir::handover
