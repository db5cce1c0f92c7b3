// Open edges and what lies alongside them: where faces ought to meet and do not yet.
#pragma once
#include <array>
#include <memory>
#include <set>

#include "common/problem.h"
#include "common/progress.h"
#include "geometry/edge_probe.h"
#include "topology/incidence.h"

namespace rasoir::survey {

/// Ends of open edges that belong together.
struct Corner {
    gp_Pnt point;               ///< [mm] their middle
    double spread = 0.0;        ///< [mm] largest distance of one from the middle
    std::vector<int> vertices;  ///< Incidence numbers
};

/// An open edge, or a part of one between corners that lie along it.
struct RimPiece {
    int edge = 0, face = 0;                      ///< Incidence numbers
    double first = 0.0, last = 0.0;              ///< along the edge's own curve, first < last
    int from = -1, to = -1;                      ///< corners at first and at last
    double length = 0.0;                         ///< [mm]
    int partner = -1;                            ///< the piece alongside; -1: none
    bool against = false;                        ///< the partner's curve runs the other way
    double least = 0.0, mean = 0.0, most = 0.0;  ///< [mm] width of the gap between them
};

/// Every open edge, cut into pieces and paired.
struct Rims {
    std::vector<Corner> corners;
    std::vector<RimPiece> pieces;                          ///< of one edge in a row, in the edge's direction
    std::vector<int> cornerOf;                             ///< by vertex number; -1: of no open edge
    std::vector<std::shared_ptr<const EdgeProbe>> probes;  ///< by edge number; null where not open
};

/// Pairs the open edges of one part that run alongside each other no farther than `upTo` [mm] apart. One long edge may
/// face several short ones: it is cut at their ends. Two ends of one edge never become one corner, so nothing shorter
/// than an edge is swallowed. `exact` [mm]: closer than that counts as touching; among several such partners those with
/// opposite direction are preferred. Method    corners by joining the nearest pairs first (Kruskal) over a grid; pieces
/// paired by their corners, the narrowest first. Cost      n log n in the open edges while `upTo` is below the distance
/// of what does not belong together. Faces in `without` are left out, as though they were not there. Edges in
/// `collapsed` have shrunk to a point: their ends are one corner. Refuses only when cancelled.
[[nodiscard]] Result<Rims> pairRims(const Incidence& incidence, double upTo, double exact, Progress& progress,
                                    const std::set<int>& without = {}, const std::set<int>& collapsed = {});

/// Cuts pieces without a partner where the boundaries of three faces or more cross at one point, no farther than
/// `exact` [mm] apart: round a corner, faces that each run over the next leave no other trace of it. The point becomes
/// a corner without vertices. Cost      n log n in the pieces without a partner, while few of their boxes overlap.
void cutAtCrossings(Rims& rims, double exact);

}  // namespace rasoir::survey
