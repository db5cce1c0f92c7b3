// Steps that change rather than remove: faces moved, holes resized, splines made simple, rounds put on and back.
#pragma once
#include "model/operation.h"
#include "model/reference.h"

namespace rasoir::shave {

/// Moves faces; their neighbours follow. Pieces of one surface that hang together move as one. Rounds that rest on them
/// are taken off and put back, where their radius is constant.
struct MoveFaces {
    std::vector<FaceRef> faces;
    double by =
        0.0;  ///< [mm] outwards, away from the material; negative: inwards. Planes, cylinders, cones, spheres, tori
    std::optional<std::array<double, 3>> to;  ///< [mm, part coordinates] instead: a plane goes parallel through this
                                              ///< point, a cylinder or sphere gets the radius that passes it
    std::optional<FaceRef> onto;  ///< instead: a plane becomes coplanar with this one, a cylinder or cone coaxial
    static std::vector<ParameterInfo> infos();
};
/// Gives round holes (and pins) another diameter about their axis.
struct ResizeHoles {
    std::vector<FaceRef> holes;  ///< any one cylindrical face of each
    double diameter = 0.0;       ///< [mm]
    static std::vector<ParameterInfo> infos();
};
/// Spline faces become the plane, cylinder, cone, sphere or torus that they are within a tolerance.
struct SimplifyFaces {
    std::vector<std::string> parts;
    double upTo = 0.0;  ///< [mm] largest deviation; 0: a thousandth of the target size
    static std::vector<ParameterInfo> infos();
};
/// Rounds edges.
struct AddRounds {
    std::string part;
    std::vector<std::array<double, 3>> edges;  ///< [mm, part coordinates] a point on each edge
    double radius = 0.0;                       ///< [mm]
    static std::vector<ParameterInfo> infos();
};
/// Gives rounds another radius, all along their chains.
struct ResizeRounds {
    std::vector<FaceRef> rounds;  ///< any one face of each
    double radius = 0.0;          ///< [mm]
    static std::vector<ParameterInfo> infos();
};
/// Puts back the rounds of inner corners that steps have made sharp, each with the radius it had.
struct RestoreRounds {
    std::vector<std::string> parts;
    double from = 0.0;  ///< [mm] only rounds of at least this radius
    static std::vector<ParameterInfo> infos();
};

void to_json(Json& json, const MoveFaces& step);
void from_json(const Json& json, MoveFaces& step);
void to_json(Json& json, const ResizeHoles& step);
void from_json(const Json& json, ResizeHoles& step);
void to_json(Json& json, const SimplifyFaces& step);
void from_json(const Json& json, SimplifyFaces& step);
void to_json(Json& json, const AddRounds& step);
void from_json(const Json& json, AddRounds& step);
void to_json(Json& json, const ResizeRounds& step);
void from_json(const Json& json, ResizeRounds& step);
void to_json(Json& json, const RestoreRounds& step);
void from_json(const Json& json, RestoreRounds& step);

/// Each checks what it made (heal/resurface; rounds by the kernel's check and closedness) and leaves what it cannot do,
/// with its reason.
[[nodiscard]] Result<Outcome> moveFaces(const Model& model, const MoveFaces& step, Progress& progress);
[[nodiscard]] Result<Outcome> resizeHoles(const Model& model, const ResizeHoles& step, Progress& progress);
[[nodiscard]] Result<Outcome> simplifyFaces(const Model& model, const SimplifyFaces& step, Progress& progress);
[[nodiscard]] Result<Outcome> addRounds(const Model& model, const AddRounds& step, Progress& progress);
[[nodiscard]] Result<Outcome> resizeRounds(const Model& model, const ResizeRounds& step, Progress& progress);
[[nodiscard]] Result<Outcome> restoreRounds(const Model& model, const RestoreRounds& step, Progress& progress);

}  // namespace rasoir::shave
