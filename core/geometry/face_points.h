// Points in a face.
#pragma once
#include <gp_Pnt.hxx>
#include <TopoDS_Face.hxx>
#include <vector>

namespace rasoir {

/// Points in a face [mm], spread evenly over its parameters; finer where a first grid meets little of it. None where
/// the face is narrower than a sixty-fourth of what it spans.
[[nodiscard]] std::vector<gp_Pnt> pointsWithin(const TopoDS_Face& face);

}  // namespace rasoir
