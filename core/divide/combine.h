// Bodies united, subtracted from one another, intersected.
#pragma once
#include "arrange/arrangement.h"
#include "model/operation.h"

namespace rasoir::divide {

/// The solids of places, in coordinates into which `into` brings those of the model; each input named after its place.
/// Refuses   what is no solid.
[[nodiscard]] Result<std::vector<arrange::Input>> inputsOf(const Model& model, const std::vector<std::size_t>& places,
                                                           const gp_Trsf& into);

/// Parameters of `divide.unite`, kept in the ledger. What is united becomes one part, in the first one's place.
struct Unite {
    std::vector<std::string> places;  ///< parts or places, two or more
    std::string name;                 ///< of the result; empty: the first one's
    bool merge = true;                ///< faces of one surface that now run on to each other become one

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const Unite& step);
void from_json(const Json& json, Unite& step);
/// Refuses   places that do not touch in a face (they would not be one body), and other materials than the first one's.
[[nodiscard]] Result<Outcome> unite(const Model& model, const Unite& step, Progress& progress);

/// Parameters of `divide.subtract`.
struct Subtract {
    std::vector<std::string> from, tools;  ///< parts or places
    bool keepTools = false;

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const Subtract& step);
void from_json(const Json& json, Subtract& step);
/// Takes the tools out of each of `from`. A place of a part that the tools meet differently becomes a part of its own.
[[nodiscard]] Result<Outcome> subtract(const Model& model, const Subtract& step, Progress& progress);

/// Parameters of `divide.intersect`: what all of them have in common becomes one part.
struct Intersect {
    std::vector<std::string> places;
    std::string name;
    bool keep = false;  ///< the operands stay besides

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const Intersect& step);
void from_json(const Json& json, Intersect& step);
[[nodiscard]] Result<Outcome> intersect(const Model& model, const Intersect& step, Progress& progress);

}  // namespace rasoir::divide
