// Faces that share their edges, put together: which way round, which skins are closed, what is a solid and what its
// void.
#pragma once
#include <TopoDS_Face.hxx>
#include <TopoDS_Shape.hxx>
#include <vector>

#include "common/progress.h"

namespace rasoir {

struct Bodies {
    TopoDS_Shape shape;  ///< one body, or a compound: solids first, then sheets, then single faces
    int solids = 0;
    int voids = 0;   ///< closed skins inside a solid
    int sheets = 0;  ///< open skins of two faces or more
    int looseFaces = 0;
    int turned = 0;    ///< faces whose direction was changed
    int oneSided = 0;  ///< skins that cannot be given a direction (as a Möbius strip)
};

/// Joins faces across edges that exactly two of them share; edges of three or more faces separate skins, unless two
/// sides of one skin meet there. Each skin gets one direction: outwards where it is closed or nearly so, else that of
/// most of its faces. A closed skin inside another is its void, one inside a void a body again. Cost linear in the
/// faces, plus one classification for each pair of nested skins. Method: orientation by flood over the edges, as in
/// Mäntylä, An Introduction to Solid Modeling (1988).
[[nodiscard]] Bodies bodiesFrom(const std::vector<TopoDS_Face>& faces);

}  // namespace rasoir
