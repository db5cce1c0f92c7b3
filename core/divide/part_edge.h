// Parting edges where a node, a load or another size is wanted; the body stays one.
#pragma once
#include "divide/points.h"
#include "model/operation.h"

namespace rasoir::divide {

/// Parameters of `divide.partEdge`.
struct PartEdge {
    std::vector<EntityRef> edges;
    int into = 0;               ///< equal pieces; 0: at the places below
    std::vector<double> at;     ///< [mm] from the start
    std::vector<double> share;  ///< of the length
    std::vector<Place> by;      ///< points thrown square onto the edges
    bool fromEnd = false;       ///< measured from the edge's end

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const PartEdge& step);
void from_json(const Json& json, PartEdge& step);
/// Refuses   a distance beyond the edge, a point that falls on its end, and pieces shorter than the model's tolerance.
[[nodiscard]] Result<Outcome> partEdge(const Model& model, const PartEdge& step, Progress& progress);

}  // namespace rasoir::divide
