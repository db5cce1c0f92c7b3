#include "handover/note.h"

namespace rasoir::handover {

std::vector<ParameterInfo> Note::infos() {
    return {{"text", "text", "", "What shall be remembered here.", ""}};
}
void to_json(Json& json, const Note& note) {
    json = Json{{"text", note.text}};
}
void from_json(const Json& json, Note& note) {
    note.text = json.value("text", "");
}

Result<Outcome> takeNote(const Model& model, const Note& note, Progress&) {
    if (note.text.find_first_not_of(" \t\r\n") == std::string::npos)
        return fail(ProblemKind::BadInput, "The note has no words.", "Type a sentence.");
    Outcome outcome;
    outcome.model = model;
    outcome.summary = "Note: " + note.text;
    return outcome;
}

}  // namespace rasoir::handover
