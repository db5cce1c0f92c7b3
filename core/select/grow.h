// Growing a selection within one part: chains, neighbours, features, loops, everything inside a boundary. Numbers are
// those of the part's Incidence; sets come back sorted and hold what they were given. Cost: linear in what is reached.
#pragma once
#include <set>

#include "common/tolerance.h"
#include "model/model.h"
#include "survey/holes.h"

namespace rasoir::select {

/// All faces reached from these over smooth edges: faces meeting at less than `sameNormal` [rad]. Seams count as
/// smooth, so half of a split cylinder brings the other half.
[[nodiscard]] std::set<int> tangentFaces(const Incidence& topology, const std::set<int>& faces,
                                         double sameNormal = Tolerance::smooth);

/// Edges that run on from these without a bend: at each end the one edge that leaves in the same direction (within
/// `sameNormal`).
[[nodiscard]] std::set<int> tangentEdges(const Incidence& topology, const std::set<int>& edges,
                                         double sameNormal = Tolerance::smooth);

/// The faces and all that share an edge with them.
[[nodiscard]] std::set<int> adjacentFaces(const Incidence& topology, const std::set<int>& faces);
/// The edges and all that share a vertex with them.
[[nodiscard]] std::set<int> adjacentEdges(const Incidence& topology, const std::set<int>& edges);

/// The faces without those at the rim of the selection: shrinking undoes adjacentFaces where nothing closes up.
[[nodiscard]] std::set<int> shrunkFaces(const Incidence& topology, const std::set<int>& faces);

/// The feature a face belongs to: the hole (with its floor and rims), else the chain of rounds of one radius with the
/// corner patches between them, else the pieces of one surface, else the face alone.
[[nodiscard]] std::set<int> featureFaces(const Part& part, int face, const std::vector<survey::Hole>& holes);

/// The loop an edge lies in: on `face` when given; else the run of open edges for an open one, else the shorter of the
/// loops.
[[nodiscard]] std::set<int> loopOf(const Incidence& topology, int edge, int face = 0);

/// Everything reached from `seed` without crossing a boundary face or a boundary edge; with the seed, without the
/// boundary.
[[nodiscard]] std::set<int> insideBoundary(const Incidence& topology, const std::set<int>& boundaryFaces,
                                           const std::set<int>& boundaryEdges, int seed);

/// The faces on a shortest way from one face to another, both included; empty when they do not hang together. Among
/// equally short ways the one whose faces are closest in direction: most smooth edges.
[[nodiscard]] std::set<int> facesBetween(const Incidence& topology, int from, int to);

}  // namespace rasoir::select
