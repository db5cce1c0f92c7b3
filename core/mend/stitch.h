// Joins faces along open edges that lie side by side, so that they really share them.
#pragma once
#include <set>

#include "model/lineage.h"
#include "survey/gaps.h"
#include "topology/bodies.h"

namespace rasoir::mend {

struct StitchWanted {
    double upTo = 0.0;    ///< [mm] widest gap that is closed
    double exact = 1e-6;  ///< [mm] closer than that is the same place
    /// Face pairs (lower number first) to join; empty: all. Pairs in `kept` are left open.
    std::vector<std::pair<int, int>> only, kept;
    /// Edges that shrink to a point: the ends of what met there come to lie within its tolerance of one vertex. Faces
    /// that have nothing but such edges vanish.
    std::set<int> collapsed = {};
};

/// A pair of open edges that was to be joined and was not.
struct NotStitched {
    int faceA = 0, faceB = 0;
    double width = 0.0;  ///< [mm]
    gp_Pnt where;
    std::string why;
};

struct Stitched {
    TopoDS_Shape shape;  ///< null when nothing was joined
    PartLineage lineage;
    std::size_t joined = 0;     ///< pairs of open edges that are one edge now
    double widest = 0.0;        ///< [mm] of the gaps that were closed
    double largestShift = 0.0;  ///< [mm] farthest that a boundary moved from where it was
    gp_Pnt shiftAt;
    double largestStep = 0.0;  ///< [mm] farthest that a new edge still lies off one of its faces: its tolerance says so
    gp_Pnt stepAt;
    std::size_t collapsed = 0;  ///< edges that are points now
    std::vector<NotStitched> left;
    Bodies bodies;
};

/// Stitches the open edges of one part.
/// Input     any faces, in shells or loose; solids that are closed stay as they are.
/// Returns   the part with shared edges, put together into solids and sheets.
/// Method    edges that coincide: one of the two becomes both. Else the corner is the point nearest to all its
/// surfaces, and the new
///           edge the intersection of the two surfaces, carried on past their faces; where they run tangent or do not
///           meet, the curve midway, drawn onto both as closely as they allow.
/// Checks    every face whose boundary moved; pairs that spoil a face are joined more plainly, then with each face's
/// own
///           boundary and a tolerance that spans the step, else taken back and listed.
/// Refuses   when cancelled, or when nothing can be joined.
[[nodiscard]] Result<Stitched> stitch(const Incidence& incidence, const TopoDS_Shape& shape, const StitchWanted& wanted,
                                      Progress& progress);

}  // namespace rasoir::mend
