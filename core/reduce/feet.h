// The foot of a beam's line on a sheet: where it lies, how the sheet is parted along it, which edges that gives.
#pragma once
#include <Geom_Curve.hxx>

#include "common/problem.h"
#include "join/touchable.h"
#include "topology/incidence.h"

namespace rasoir::reduce {

/// A line of a beam over a sheet, in the sheet's coordinates. It may lie over the sheet for a part of its length only.
struct Foot {
    int edge = 0;  ///< of the beam
    Handle(Geom_Curve) line;
    double first = 0.0, last = 0.0;
    gp_Vec down;        ///< unit, from the line to the sheet
    double near = 0.0;  ///< [mm] least and largest distance along `down`
    double far = 0.0;
};

/// An edge of the parted sheet that lies at the foot of a line.
struct FootPiece {
    int edge = 0;                 ///< of the sheet
    double from = 0.0, to = 0.0;  ///< along the beam's line; the larger first where the edge runs against it
};

/// Looks from a line straight to the faces of a sheet.
/// Refuses   where no point of it has a foot in them, and where it does not lie in one direction from all.
[[nodiscard]] Result<Foot> footOf(int edge, const Handle(Geom_Curve) & line, double first, double last,
                                  const std::vector<join::SkinFace>& faces);

/// A strip that crosses the sheet at the foot of a line, `height` [mm] to both sides of it, and on past the line's ends
/// by `size` [mm]: straight, so that it reaches the outline of the face in which the line ends.
[[nodiscard]] TopoDS_Shape curtainOf(const Foot& foot, double height, double size);

/// The edges of a parted sheet at the foot of a line, in order along it.
[[nodiscard]] std::vector<FootPiece> piecesAt(const Incidence& sheet, const Foot& foot, double height,
                                              double tolerance);

/// How far the parameter of a line runs for one millimetre.
[[nodiscard]] double parameterPerLength(const Foot& foot);

}  // namespace rasoir::reduce
