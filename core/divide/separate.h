// The bodies of a part made parts of their own.
#pragma once
#include "model/operation.h"

namespace rasoir::divide {

/// Parameters of `divide.separate`.
struct Separate {
    std::vector<std::string> parts;  ///< names or patterns; empty: all that hold several bodies

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const Separate& step);
void from_json(const Json& json, Separate& step);

/// The largest body of each part keeps the part with its name and all that speaks of it; each other one becomes a part
/// that stands where the part stands, named as the file names the body, or after the part.
/// Returns   complete lineage; an item for each part. All that is known of bodies, faces and edges goes with them.
/// Refuses   a name that fits no part. Nothing to do where no part holds several bodies.
[[nodiscard]] Result<Outcome> separate(const Model& model, const Separate& step, Progress& progress);

}  // namespace rasoir::divide
