// Parting faces and edges where loads and meshes want it; the body stays one.
#pragma once
#include "divide/cutters.h"
#include "divide/outline.h"
#include "model/operation.h"

namespace rasoir::divide {

/// A place on an edge: measured from its start, in mm or as a share of its length.
struct OnEdge {
    EntityRef edge;
    double at = 0.5;
    bool share = true;  ///< of the length; else [mm]
};
void to_json(Json& json, const OnEdge& place);
void from_json(const Json& json, OnEdge& place);

/// Parameters of `divide.partFace`. Of outline, plane, ring, points and thrown exactly one says by what.
struct PartFace {
    std::vector<FaceRef> faces;
    std::optional<Outline> outline;  ///< drawn on the first face
    std::optional<Plane> plane;      ///< model coordinates
    struct Ring {
        EntityRef rim;  ///< a round edge of the face
        /// [mm] outwards; none: to the head or washer of another part that lies on the face round the hole, where there
        /// is one, else to twice the hole's diameter.
        std::optional<double> offset;
    };
    std::optional<Ring> ring;
    std::vector<OnEdge> points;     ///< two, on edges of the face: parted straight between them
    std::vector<EntityRef> thrown;  ///< edges of any part, thrown square onto each face
    std::string group;  ///< of what lies within the outline or ring, or between a line and its edge; empty: none

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const PartFace& step);
void from_json(const Json& json, PartFace& step);
/// Returns   the model with those faces in pieces, complete lineage, and the areas in the items.
/// Refuses   what does not part the face; what cannot be measured any more (the edge is gone), with the place.
[[nodiscard]] Result<Outcome> partFace(const Model& model, const PartFace& step, Progress& progress);

}  // namespace rasoir::divide
