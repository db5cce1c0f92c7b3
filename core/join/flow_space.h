// The space in which a fluid flows, as a body of its own: what the walls and the lids over their openings enclose.
#pragma once
#include "model/operation.h"
#include "model/reference.h"

namespace rasoir::join {

/// A point in the fluid, or a face that it wets.
struct FlowSeed {
    std::optional<std::array<double, 3>> point;  ///< [mm, model coordinates]
    std::optional<FaceRef> face;
};

/// Parameters of `join.flowSpace`.
struct FlowSpace {
    std::vector<std::string> places;           ///< the walls; empty: all solids that are not set aside
    std::vector<std::vector<EntityRef>> lids;  ///< loops of edges, one edge of an inner loop being enough; empty: a lid
                                               ///< on every opening that is found
    double ignoreUpTo = 0.0;                   ///< [mm] openings and gaps no wider than this close by themselves
    double lengthen = 0.0;                     ///< each lid goes outwards by this many of its hydraulic diameters
    FlowSeed seed;                             ///< none: the largest space that is enclosed and has a lid
    bool every = false;                        ///< each closed space with a lid becomes a body, not the seed's alone
    std::optional<RegionKind> cavities;  ///< closed spaces without a lid become bodies of this kind; none: they do not
    std::string name = "flow space";
    bool joined = true;  ///< walls and fluid get common faces

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const FlowSpace& step);
void from_json(const Json& json, FlowSpace& step);

/// Makes the flow body: a part of its own, of kind fluid, with a group for each lid and one for what it wets of each
/// wall. Or one for each closed space.
/// Returns   items with volume, of each lid area and hydraulic diameter, what is wetted of each wall, the narrowest
///           passage between lids, and how walls, flow and other closed spaces add up; notes on those spaces, on gaps
///           that were closed, and on a passage of fewer than four elements.
/// Refuses   a seed that lies in a wall, or outside: the flow gets outside, where, and what to try; lids that do not
///           close; a lengthened lid that is not flat, or has something in its way; what the arrangement refuses.
///           Nothing changes then.
/// Method    walls, and lids on all openings, are arranged together; the flow is the air of the seed's cell and of
///           those behind lids that do not lead outside. Gaps close by a plug: one of the two faces, thickened until it
///           reaches the other.
[[nodiscard]] Result<Outcome> makeFlowSpace(const Model& model, const FlowSpace& step, Progress& progress);

}  // namespace rasoir::join
