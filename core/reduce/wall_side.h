// A face as a side of a wall: its surface, its outline, and points spread over it.
#pragma once
#include <Bnd_Box.hxx>
#include <BRepTopAdaptor_FClass2d.hxx>
#include <Geom_Surface.hxx>
#include <gp_Pnt2d.hxx>
#include <memory>
#include <optional>
#include <TopoDS_Face.hxx>
#include <vector>

namespace rasoir::reduce {

struct WallSide {
    Handle(Geom_Surface) surface;
    std::shared_ptr<BRepTopAdaptor_FClass2d> within;
    double low[2]{}, high[2]{}, period[2]{};  ///< parameters that the face spans; 0: not periodic
    Bnd_Box box;                              ///< [mm]
    std::vector<gp_Pnt2d> samples;            ///< spread evenly over the parameters
};

[[nodiscard]] WallSide sideOf(const TopoDS_Face& face);

/// The foot of a point in a face, by its parameters; none where it lies outside the face's outline.
[[nodiscard]] std::optional<gp_Pnt2d> footIn(const WallSide& side, const gp_Pnt& point);

/// The distance of a point from its foot in a face [mm]; none where the foot lies outside the face's outline.
[[nodiscard]] std::optional<double> footWithin(const WallSide& side, const gp_Pnt& point);

}  // namespace rasoir::reduce
