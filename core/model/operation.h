// An operation is data and one function: a plain struct of parameters, and Model in, Outcome or Problem out.
#pragma once
#include "common/guard.h"
#include "common/progress.h"
#include "model/json.h"
#include "model/model.h"

namespace rasoir {

/// One thing an operation was asked to deal with: done, or left with a reason and a place.
struct Item {
    std::string what;
    bool done = false;
    Problem problem;    ///< when not done
    double size = 0.0;  ///< [mm] as in the survey
};

/// A face that has no face as its heir and lives on as an edge: where a wall ended, its sheet does.
struct RimLink {
    std::size_t part = 0;  ///< index in the model before
    int face = 0;
    std::size_t into = 0;  ///< index in the model after
    int edge = 0;
};

struct Outcome {
    Model model;
    /// The operation says what became of the parts it changed; after it (see after_step.h) there is an entry for every
    /// part of the new model that comes from one of the old.
    std::vector<PartLineage> lineage;
    std::vector<Item> items;
    std::size_t jointsMade = 0;       ///< the last so many joints of the model speak of the new one; others are carried
    std::vector<RimLink> rims;        ///< which groups follow as they follow the lineage
    std::vector<GroupChange> groups;  ///< those that the step made smaller, larger or empty
    std::vector<std::string> notes;   ///< sentences on what did not come through: attributes, joints
    std::string summary;              ///< "Remove 27 holes up to 8 mm": the title of its card
};

/// What a parameter is, for those who write ledgers by hand and for windows that show them.
struct ParameterInfo {
    std::string name, type, unit, meaning;
    Json standard;
};

struct Operation {
    std::string id;     ///< "shave.removeHoles": folder and function
    std::string title;  ///< "Remove holes"
    std::vector<ParameterInfo> parameters;
    std::function<Result<Outcome>(const Model&, const Json& parameters, Progress&)> run;
};

/// Ties a parameter struct with from_json to its function. Unknown or ill-typed parameters are refused with a sentence.
template <class Parameters>
Operation operation(std::string id, std::string title, std::vector<ParameterInfo> infos,
                    Result<Outcome> (*function)(const Model&, const Parameters&, Progress&)) {
    Operation op{std::move(id), std::move(title), std::move(infos), {}};
    op.run = [title = op.title, known = op.parameters, function](const Model& model, const Json& json,
                                                                 Progress& progress) -> Result<Outcome> {
        Parameters parameters;
        try {
            if (!json.is_object()) throw std::invalid_argument("they are not an object");
            for (const auto& [key, value] : json.items())
                if (std::none_of(known.begin(), known.end(),
                                 [&key = key](const ParameterInfo& info) { return info.name == key; }))
                    throw std::invalid_argument("there is none named \"" + key + "\"");
            from_json(json, parameters);
        } catch (const std::exception& error) {
            return fail(ProblemKind::BadInput,
                        "The parameters of \"" + title + "\" cannot be used: " + error.what() + ".",
                        "See rasoir-cli operations --json.");
        }
        return guarded("\"" + title + "\"", [&] { return function(model, parameters, progress); });
    };
    return op;
}

}  // namespace rasoir
