// Flow spaces as parts: regions, groups for lids and walls, joints with the walls, and what is told of them.
#pragma once
#include "model/operation.h"

namespace rasoir::join {

/// A space between walls that is going to be a part.
struct FlowBody {
    struct Lid {
        std::size_t place = 0;       ///< the occurrence whose opening it closes
        double area = 0.0;           ///< [mm^2]
        double diameter = 0.0;       ///< [mm] hydraulic
        std::set<int> faces, sides;  ///< of `shape`: the lid's own, and those round its way where it was lengthened
    };
    TopoDS_Shape shape;   ///< [mm, model coordinates]
    double volume = 0.0;  ///< [mm^3]
    std::string name;     ///< wanted: a number is put behind it where there is one such part
    RegionKind kind = RegionKind::Fluid;
    std::vector<Lid> lids;
    std::map<std::size_t, std::set<int>> walls;  ///< by occurrence: faces of `shape` that lie on it
    std::set<int> plugs;                         ///< faces of `shape` on plugs of gaps
};

/// Where a fluid is pinched between two of its walls.
struct Wedge {
    int edge = 0;          ///< its number in the body, as Incidence counts
    double degrees = 0.0;  ///< between the walls, on the fluid's side
    double length = 0.0;   ///< [mm] of the edge
    gp_Pnt where;          ///< [mm] its middle
};
/// Edges at which the walls of a body meet under less than `upTo` degrees, the longest first: along lines of contact
/// down to none. Measured in the middle of each edge, an element away from it.
[[nodiscard]] std::vector<Wedge> wedgesOf(const TopoDS_Shape& body, double upTo, double elementSize);

/// Adds the bodies as parts.
/// `walls`   occurrences that the bodies are joined to, all at once, if `joined`.
/// Returns   the model with the new parts, their groups "NAME, lid 1" and "NAME, wall of PLACE", and items with
///           volumes, lids, wetted areas, the narrowest passage; notes on passages too narrow, on wedges, on what could
///           not be joined. Refuses only when cancelled.
[[nodiscard]] Result<Outcome> withFlowBodies(const Model& model, std::vector<FlowBody> bodies,
                                             const std::vector<std::size_t>& walls, bool joined, Progress& progress);

}  // namespace rasoir::join
