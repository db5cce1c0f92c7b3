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
        EntityRef rim;                 ///< a round edge of the face
        std::optional<double> offset;  ///< [mm] outwards; none: to twice the hole's diameter
    };
    std::optional<Ring> ring;
    std::vector<OnEdge> points;       ///< two, on edges of the face: parted straight between them
    std::optional<EntityRef> thrown;  ///< an edge of any part, thrown square onto the first face
    std::string group;  ///< of what lies within the outline or ring, or between a line and its edge; empty: none

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const PartFace& step);
void from_json(const Json& json, PartFace& step);
/// Returns   the model with those faces in pieces, complete lineage, and the areas in the items.
/// Refuses   what does not part the face; what cannot be measured any more (the edge is gone), with the place.
[[nodiscard]] Result<Outcome> partFace(const Model& model, const PartFace& step, Progress& progress);

/// Parameters of `divide.partEdge`.
struct PartEdge {
    std::vector<EntityRef> edges;
    int into = 0;               ///< equal pieces; 0: at the places below
    std::vector<double> at;     ///< [mm] from the start
    std::vector<double> share;  ///< of the length
    bool fromEnd = false;       ///< measured from the edge's end

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const PartEdge& step);
void from_json(const Json& json, PartEdge& step);
/// Refuses   a distance beyond the edge, and pieces shorter than the model's tolerance.
[[nodiscard]] Result<Outcome> partEdge(const Model& model, const PartEdge& step, Progress& progress);

/// Parameters of `divide.cutOut`: a drawn outline pushed into the body, straight down from its face.
struct CutOut {
    FaceRef face;
    Outline outline;     ///< closed
    double depth = 0.0;  ///< [mm]; 0: all through

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const CutOut& step);
void from_json(const Json& json, CutOut& step);
[[nodiscard]] Result<Outcome> cutOut(const Model& model, const CutOut& step, Progress& progress);

}  // namespace rasoir::divide
