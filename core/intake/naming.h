// What parts are called, made of, and how they are grouped. None of these changes geometry.
#pragma once
#include "model/operation.h"

namespace rasoir::intake {

/// Either one part and its new name, or words found in names and what takes their place.
struct Rename {
    std::vector<std::string> parts;  ///< names or patterns; empty: all
    std::string to;                  ///< new name; # stands for a running number, * for the old name
    std::string find,
        replace;  ///< text to be replaced in each name; `find` may be a regular expression between slashes: /^\d+-/

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const Rename& step);
void from_json(const Json& json, Rename& step);

/// Old and new name of every part that would change, in order: the preview, and what the step does.
/// Refuses   a new name that is empty or would be borne twice; an expression that cannot be read; names that fit no
/// part.
[[nodiscard]] Result<std::vector<std::pair<std::size_t, std::string>>> renamed(const Model& model, const Rename& step);
[[nodiscard]] Result<Outcome> rename(const Model& model, const Rename& step, Progress& progress);

/// Puts places under other assemblies.
struct Regroup {
    std::vector<std::string> places;  ///< as model/places.h names them
    std::vector<std::string> group;   ///< names of the assemblies above, outermost first; empty: none
    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const Regroup& step);
void from_json(const Json& json, Regroup& step);
[[nodiscard]] Result<Outcome> regroup(const Model& model, const Regroup& step, Progress& progress);

/// Changes the order in which parts are listed and written.
struct Reorder {
    std::vector<std::string> parts;  ///< names or patterns, moved in this order
    std::string before;              ///< in front of this part; empty: to the end
    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const Reorder& step);
void from_json(const Json& json, Reorder& step);
[[nodiscard]] Result<Outcome> reorder(const Model& model, const Reorder& step, Progress& progress);

/// Says what parts are made of.
struct AssignMaterial {
    std::vector<std::string> parts;  ///< names or patterns; empty: all
    Material material;               ///< with a density of 0, its values are taken from the standard materials by name
    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const AssignMaterial& step);
void from_json(const Json& json, AssignMaterial& step);
[[nodiscard]] Result<Outcome> assignMaterial(const Model& model, const AssignMaterial& step, Progress& progress);

}  // namespace rasoir::intake
