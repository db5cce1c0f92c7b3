// The corners of a face's outline.
#pragma once
#include <gp_Pnt.hxx>
#include <optional>
#include <TopoDS_Face.hxx>

namespace rasoir {

struct FaceCorner {
    double degrees = 0.0;  ///< between the two edges, on the face's side
    gp_Pnt where;          ///< [mm]
};
/// The most pointed corner of a face, of all its loops; 0 degrees where two edges run on each other's tangent and turn
/// back. None where the face has no corner: a circle, edges that run on smoothly. Edges without a direction at their
/// end (poles) are passed over.
[[nodiscard]] std::optional<FaceCorner> sharpestCorner(const TopoDS_Face& face);

}  // namespace rasoir
