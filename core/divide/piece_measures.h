// How thin, short and sharp a cut has made its pieces: what an analyst looks at before meshing them.
#pragma once
#include <optional>
#include <TopoDS_Shape.hxx>

#include "arrange/choice.h"

namespace rasoir::divide {

struct PieceMeasures {
    std::optional<double> thinnest;      ///< [mm] through the material from its cut faces; none for sheets
    std::optional<double> shortestEdge;  ///< [mm] of those that the cut made
    std::optional<double> leastAngle;    ///< [degrees] inside the material, along the rims of the cut faces
};

/// Of one piece. Thickness is sampled by rays from the middles of the triangles of its cut faces, square to them: good
/// to the size of those triangles, and exact for the slice between a cut and a face along it.
[[nodiscard]] PieceMeasures measuresOf(const arrange::Chosen& piece, Progress& progress);

/// The least of both; what neither has is left out.
[[nodiscard]] PieceMeasures least(const PieceMeasures& a, const PieceMeasures& b);

}  // namespace rasoir::divide
