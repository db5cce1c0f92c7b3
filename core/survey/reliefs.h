// What stands on a face or is sunk into it: marks, bosses, pockets, and openings right through, bounded by that face
// alone; notches and ribs that are open to a side; low steps.
#pragma once
#include <array>
#include <gp_Pnt.hxx>
#include <vector>

#include "common/problem.h"
#include "common/progress.h"
#include "model/model.h"
#include "survey/holes.h"

namespace rasoir::survey {

enum class ReliefKind {
    Mark,  ///< low: letters, logos, pads. Less than half the target size high, or one of three and more that are lower
           ///< than it and flat. What lies close together on one face is one mark
    Boss,  ///< raised
    Pocket,  ///< sunk, with a floor
    Cutout,  ///< from one face through to others; not round, else it is a hole or slot
    Notch,   ///< sunk and open to a side: notches, grooves, keyways
    Rib,     ///< raised from two faces or more: ribs, lugs, gussets
    Step     ///< between two faces that run on beside each other, one a little higher; see survey/steps
};

struct Relief {
    ReliefKind kind = ReliefKind::Boss;
    bool raised = true;
    std::vector<int> faces;  ///< everything that goes with it, ascending; Incidence numbers
    int wall = 0;            ///< one of the faces, at its base: of nothing that lies within it
    std::vector<int>
        bases;  ///< faces it stands on or opens in; of a step: the one that stays, then those that become one with it
    double height = 0.0;            ///< [mm] farthest from its first base
    double breadth = 0.0;           ///< [mm] largest distance between two of its points, seen along the base's normal
    double gain = 0.0;              ///< [mm^3] what the body gains when it goes; negative for what is raised
    int pieces = 1;                 ///< of a mark: letters
    std::array<double, 3> sides{};  ///< [mm] of a notch or rib: of the box round it, ascending
    gp_Pnt middle;
    double elements = 0.0;  ///< at the target size, what it costs beyond the bare faces

    /// [mm] what limits are compared with: a mark's or step's height, the least side of a notch or rib, else the
    /// breadth.
    [[nodiscard]] double size() const {
        return kind == ReliefKind::Mark || kind == ReliefKind::Step   ? height
               : kind == ReliefKind::Notch || kind == ReliefKind::Rib ? sides[0]
                                                                      : breadth;
    }
};

/// Finds them in the closed bodies of one part.
/// Method    each inner loop of a face is walked from face to face without crossing the one it lies in. Where that
/// ends, at the same face or at
///           inner loops of others, what was met is bounded by those loops alone. What reaches the face's outer loop is
///           the body itself. Notches and ribs as survey/open_reliefs says.
/// Returns   nested ones too (a boss in a pocket), smaller sizes first. What is all of the given holes is left out.
/// Cost      inner loops times the faces of what hangs on them, at most 600 each.
/// Refuses   only when cancelled.
[[nodiscard]] Result<std::vector<Relief>> findReliefs(const Part& part, double targetSize,
                                                      const std::vector<Hole>& holes, Progress& progress);

std::string reliefKindName(ReliefKind kind);  ///< "mark", "boss", ...
std::string describe(const Relief& relief);   ///< "raised, 3 pieces", "sunk 4"

}  // namespace rasoir::survey
