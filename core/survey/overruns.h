// Faces that run past their neighbours, or partly over them.
#pragma once
#include <optional>

#include "geometry/surface_meeting.h"
#include "survey/gaps.h"

namespace rasoir::survey {

/// Where the face ought to end: a piece of somebody else's boundary, or, where two faces run over each other, the curve
/// in which they meet.
struct Stop {
    int piece = -1;          ///< in Rims; -1: a crossing
    bool along = true;       ///< walked in the direction of the piece's or crossing's curve
    int face = 0;            ///< the other face
    int from = -1, to = -1;  ///< corners of a crossing, in the direction of its curve
    std::optional<CurvePiece> crossing;
};

/// Part of a face that lies beyond an open boundary of its neighbours.
struct Overrun {
    int face = 0;              ///< Incidence number
    std::vector<int> surplus;  ///< its own rim pieces that bound what is too much, in a row
    std::vector<Stop> stops;   ///< from the corner `from` to the corner `to`; a ring where the two are one
    int from = -1,
        to = -1;  ///< corners; both -1 where the stops form a ring inside the face that touches its boundary nowhere
    double past = 0.0;  ///< [mm] farthest that the face reaches beyond
    double away = 0.0;  ///< [mm] farthest that a stop lies from the face's own boundary: no more than a gap's width
                        ///< where it is one
    int over = 0;       ///< the face on the same surface that it partly doubles; 0: none
    gp_Pnt where;
};

/// Open edges of others, without a partner, that lie inside a face and cut off a part of it which is bounded by nothing
/// but open edges. Of two faces that run over each other neither has such an edge: there it is their intersection
/// between two corners at which open boundaries of theirs begin, as far as it lies inside both. `fit` [mm]: farther off
/// the face's surface is not on it. Cost      each face with open edges asks only the pieces that leave its own
/// corners; rings are tried against faces that are open
///           all round and whose boxes hold them.
[[nodiscard]] std::vector<Overrun> findOverruns(const Incidence& incidence, const Rims& rims, double fit);

}  // namespace rasoir::survey
