// A face as a side of a wall: its surface, its outline, and points spread over it.
#pragma once
#include <Bnd_Box.hxx>
#include <Geom_Surface.hxx>
#include <gp_Pnt2d.hxx>
#include <memory>
#include <optional>
#include <TopoDS_Face.hxx>
#include <vector>

#include "geometry/face_region.h"

namespace rasoir::reduce {

struct WallSide {
    Handle(Geom_Surface) surface;
    std::shared_ptr<const FaceRegion> within;
    double period[2]{};             ///< 0: not periodic
    Bnd_Box box;                    ///< [mm]
    std::vector<gp_Pnt2d> samples;  ///< spread evenly over the parameters
};

[[nodiscard]] WallSide sideOf(const TopoDS_Face& face);

/// The foot of a point in a face, by its parameters; none where it lies outside the face's outline.
[[nodiscard]] std::optional<gp_Pnt2d> footIn(const WallSide& side, const gp_Pnt& point);

/// The distance of a point from its foot in a face [mm]; none where the foot lies outside the face's outline.
[[nodiscard]] std::optional<double> footWithin(const WallSide& side, const gp_Pnt& point);

}  // namespace rasoir::reduce
