// Which way the faces of sheets look.
#pragma once
#include "model/operation.h"
#include "model/reference.h"

namespace rasoir::reduce {

/// Parameters of `reduce.sides`.
struct Sides {
    std::vector<std::string> parts;  ///< sheets, names or patterns; with no faces and none named: all not set aside
    std::vector<FaceRef> faces;      ///< what hangs together with one of these is turned over

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const Sides& step);
void from_json(const Json& json, Sides& step);

/// Makes faces that hang together over edges of two faces show the same side: the one that most of their area shows, or
/// with `faces` the other one. Where three meet no side goes on. Walls stay where they are: their offset changes its
/// sign with the face.
/// Returns   an item for each part with how many faces were turned over.
/// Refuses   faces of no sheet; as nothing to do where all are alike. A strip with a half twist keeps one edge at which
///           sides differ, told.
[[nodiscard]] Result<Outcome> makeSidesAlike(const Model& model, const Sides& step, Progress& progress);

}  // namespace rasoir::reduce
