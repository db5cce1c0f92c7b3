// The section of a beam: what a flat face is as a cross-section, in numbers.
#pragma once
#include <gp_Dir.hxx>
#include <optional>
#include <TopoDS_Face.hxx>

#include "model/attributes.h"

namespace rasoir::reduce {

struct BeamSection {
    Section section;                ///< shape, sizes, properties and up; offsets are null
    gp_Pnt centroid;                ///< [mm]
    double depth = 0.0;             ///< [mm] its largest extent
    bool torsionEstimated = false;  ///< no formula is known for this outline
};

/// Properties of a flat face about its centroid.
/// `up` of the section lies in the face: along the longer side of a rectangle, the web of an L, T, U, Z or I, else
/// along the principal axis with the larger second moment. Shapes    round {diameter}, tube {diameter, wall}, rectangle
/// {height, breadth}, box {height, breadth, wall}, L, T, U,
///           Z, I {height, breadth, wall}, outline {height, breadth}. Rounded corners do not make another shape.
/// Accuracy  area and second moments as trimmed_quadrature; torsion exact for round and tube, to 1e-6 for rectangles;
///           for closed thin walls by Bredt, for open ones by the sum of length times wall cubed over three, within
///           wall over breadth; else estimated as area^4 / (40 polar moment).
/// Source    Young, Budynas: Roark's Formulas for Stress and Strain (2002), ch. 10.
/// `along`   the direction of the bar's line there, which says which way is across; none: the face's plane says it.
[[nodiscard]] BeamSection beamSection(const TopoDS_Face& face, const std::optional<gp_Dir>& along = std::nullopt);

/// Torsion constant of a rectangle [mm^4], by the series of Saint-Venant.
[[nodiscard]] double torsionOfRectangle(double height, double breadth);

}  // namespace rasoir::reduce
