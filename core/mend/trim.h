// A face that runs past its neighbours is cut back to where they end.
#pragma once
#include "common/problem.h"
#include "survey/overruns.h"

namespace rasoir::mend {

/// The face of an overrun with its surplus cut off. What bounds it there has edges of its own, which lie on the
/// neighbours': stitching joins the two. Nothing of the shape that `incidence` describes is changed. Checks    the face
/// is sound and smaller than before. Refuses   seams that would have to be cut, boundaries that do not lie on the
/// surface within `fit` [mm].
[[nodiscard]] Result<TopoDS_Face> trimmed(const Incidence& incidence, const survey::Rims& rims,
                                          const survey::Overrun& overrun, double fit);

}  // namespace rasoir::mend
