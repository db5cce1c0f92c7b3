// Bars along any smooth line: springs, cables, tubes led along a spline.
#pragma once
#include "reduce/bent_bars.h"

namespace rasoir::reduce {

/// Whether a solid is one section led square along a line from one flat end to another as large. The line is told by
/// the centroids of sections, walked from end to end; it is given as arcs that follow them within a hundredth of the
/// section's depth.
/// Returns   none where a section is not as large as the ends, within six hundredths, where the section turns about
///           the line otherwise than the arcs carry it (a round one may), or where volume and skin do not fit a section
///           led along that line.
/// Accuracy  round sections and tubes to what the skin strays from a pipe, a fiftieth of the radius at most; others are
///           taken through triangles, a hundredth of the depth from the skin at most.
/// Source    Bolton, Biarc curves, Computer-Aided Design 7 (1975), for arcs from points and tangents.
[[nodiscard]] std::optional<BentBar> findSweptBar(const TopoDS_Shape& solid, const Incidence& topology);

}  // namespace rasoir::reduce
