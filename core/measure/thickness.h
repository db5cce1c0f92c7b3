// How thick the material is: at a point, and over a whole part.
#pragma once
#include "geometry/ray_field.h"
#include "model/model.h"

namespace rasoir::measure {

struct Thickness {
    double ray = 0.0;            ///< [mm] straight through, from the point against the outward normal to the other side
    double sphere = 0.0;         ///< [mm] diameter of the largest ball inside that touches the surface at the point
    gp_Pnt from, opposite;       ///< where it was measured, and where the ray came out, model coordinates
    std::size_t occurrence = 0;  ///< and face, on the other side
    int oppositeFace = 0;
};

/// At a point of a face. The way through is exact: the triangles say which face is hit, its own surface where. The ball
/// comes from the triangles' nearest points, shrunk until nothing lies inside. Source of the ball: Ma, Bae, Choi, 3D
/// medial axis point approximation using nearest neighbours and the normal field (2012). None where the ray finds no
/// other side: an open sheet.
[[nodiscard]] std::optional<Thickness> thicknessAt(const Model& model, const RayField& field, std::size_t occurrence,
                                                   int face, const gp_Pnt& point);

/// Wall thickness over a part, from the middle of each of its triangles.
struct ThicknessMap {
    struct Sample {
        int face = 0;
        double thickness = 0.0;  ///< [mm] by ray; 0: no other side
        double area = 0.0;       ///< [mm^2] it stands for
    };
    std::vector<Sample> samples;                      ///< in the order of RayField::triangles()
    std::vector<double> thicknessOfFace;              ///< [mm] by face number, its area's median; 0: none
    double least = 0.0, median = 0.0, largest = 0.0;  ///< [mm]; the median by area
};
/// Cost: one ray a triangle, on all cores. Refuses when the part has no solid, and when cancelled.
[[nodiscard]] Result<ThicknessMap> thicknessMap(const std::shared_ptr<const Part>& part, Progress& progress);

}  // namespace rasoir::measure
