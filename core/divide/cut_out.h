// Drawn outlines pushed into a body.
#pragma once
#include "divide/outline.h"
#include "model/operation.h"

namespace rasoir::divide {

/// Parameters of `divide.cutOut`: a drawn outline pushed into the body, straight down from its face.
struct CutOut {
    FaceRef face;
    Outline outline;            ///< closed
    double depth = 0.0;         ///< [mm]; 0: all through
    std::optional<FaceRef> to;  ///< instead of a depth: down to this face of the body, carried on

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const CutOut& step);
void from_json(const Json& json, CutOut& step);
[[nodiscard]] Result<Outcome> cutOut(const Model& model, const CutOut& step, Progress& progress);

}  // namespace rasoir::divide
