// Openings: where one gets from the outside of a body into it. What a lid would close.
#pragma once
#include <TopoDS_Face.hxx>

#include "common/progress.h"
#include "model/model.h"

namespace rasoir::join {

/// A closed loop of edges that leads through the skin of a body, and the lid that would close it.
struct Opening {
    std::size_t place = 0;
    std::vector<int> edges;  ///< of its loop, numbers in the part
    int face = 0;            ///< of the part, in which the loop is; 0: of several faces
    TopoDS_Face lid;         ///< [mm, model coordinates] on that face's own surface; of several faces: a flat
    double area = 0.0;       ///< [mm^2]
    double perimeter = 0.0;  ///< [mm]
    gp_Pnt middle;           ///< [mm, model coordinates]
    bool inner = false;      ///< with lids on all openings, what lies before it is closed in too: see tellInner()

    /// Four times the area over the perimeter [mm]: a round opening's diameter.
    [[nodiscard]] double hydraulicDiameter() const { return perimeter > 0.0 ? 4.0 * area / perimeter : 0.0; }
};

/// Inner loops of faces with nothing but air in them: mouths of holes, channels, pockets and tubes, by area, the widest
/// first. Where a boss stands there is material in the loop, and no opening. Solids alone; what is set aside is not
/// looked at. Refuses only when cancelled.
/// Cost: linear in the faces, and one question per inner loop whether a point lies in the body.
[[nodiscard]] Result<std::vector<Opening>> findOpenings(const Model& model, const std::vector<std::size_t>& places,
                                                        Progress& progress);

/// The opening that a closed loop of edges makes, on one plane: for what no face has as an inner loop.
/// `edges`   each with its place; in any order.
/// Refuses   edges that do not close to one loop, or do not lie on one plane, naming the place.
[[nodiscard]] Result<Opening> openingOf(const Model& model, const std::vector<std::pair<std::size_t, int>>& edges);

}  // namespace rasoir::join
