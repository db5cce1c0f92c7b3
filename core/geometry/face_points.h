// Points in a face.
#pragma once
#include <gp_Pnt.hxx>
#include <gp_Vec.hxx>
#include <TopoDS_Face.hxx>
#include <vector>

#include "geometry/face_region.h"

namespace rasoir {

/// Points in a face [mm], spread evenly over its parameters; finer where a first grid meets little of it. None where
/// the face is narrower than a sixty-fourth of what it spans.
[[nodiscard]] std::vector<gp_Pnt> pointsWithin(const TopoDS_Face& face);

struct SkinSample {
    gp_Pnt at;          ///< on the face
    gp_Vec out;         ///< unit, away from the material
    double area = 0.0;  ///< [mm^2] its share of the face
};
/// Points spread over a face as above, that share its area between them.
[[nodiscard]] std::vector<SkinSample> skinSamples(const TopoDS_Face& face, int grid);
[[nodiscard]] std::vector<SkinSample> skinSamples(const TopoDS_Face& face, const FaceRegion& region, int grid);

}  // namespace rasoir
