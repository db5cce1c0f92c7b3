// Sums over the area of a trimmed face: points of it, each with its normal and weight.
#pragma once
#include <functional>
#include <gp_Pnt.hxx>
#include <gp_Vec.hxx>
#include <TopoDS_Face.hxx>

namespace rasoir {

/// Calls `add` with points whose weights make its sum the integral over the face's parameters: what is added should be
/// weight times a function of the point and of `normal`, the cross product of the two derivatives (its length is the
/// area of the surface for one of the parameters; the face's orientation does not count).
/// Points outside the face, with weights that cancel, are among them.
/// Returns   false where a loop has no trace on the surface, or the face has no loop: nothing has been added then.
/// Accuracy  about 1e-9 on planes, cylinders, cones, balls and tori; on splines what eight points of Gauss for each of
///           their spans give: exact up to the traces for polynomials of degree three, 1e-7 for others.
/// Cost      64 points for each span that an edge crosses, times the spans between it and the face's first edge.
/// Method    Green's theorem in the parameters, with Gauss-Legendre in both directions.
bool overTrimmedFace(const TopoDS_Face& face,
                     const std::function<void(const gp_Pnt& point, const gp_Vec& normal, double weight)>& add);

}  // namespace rasoir
