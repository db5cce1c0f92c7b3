// One for the mesh: faces or edges that are to be meshed as one, the geometry underneath untouched.
#pragma once
#include "model/operation.h"
#include "model/reference.h"

namespace rasoir::divide {

/// Parameters of `divide.asOne`, kept in the ledger.
struct AsOne {
    std::vector<EntityRef> things;  ///< faces of one part, or edges of one part
    std::string name;               ///< of what they are together; empty: one that is free
    bool apart = false;             ///< takes the mark away from them instead

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const AsOne& step);
void from_json(const Json& json, AsOne& step);

/// Marks faces that hang together over edges, or edges that follow each other, as one for the mesh (attribute `asOne`).
/// What was marked together with one of them before, and still hangs together with it, is part of it. The forecast
/// counts them as one, the stage draws the lines between them faintly, an export tells them.
/// Refuses   fewer than two, things of several parts or kinds, and what does not hang together: named, with its place.
[[nodiscard]] Result<Outcome> meshAsOne(const Model& model, const AsOne& step, Progress& progress);

}  // namespace rasoir::divide
