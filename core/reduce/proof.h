// What sheets and beams keep of the solids that they stand for: drawn as thick as they say they are, and held against
// them.
#pragma once
#include <string>

#include "model/work.h"
#include "reduce/drawn_body.h"
#include "reduce/stations.h"

namespace rasoir::reduce {

/// A solid as it was before it was reduced, and the parts that stand for it now.
struct StandIn {
    std::shared_ptr<const Part> solid;
    std::vector<std::size_t> parts;  ///< of the current model: sheets and beams first, then what has stayed solid
};
/// All sheets and beams whose solids the ledger knows.
[[nodiscard]] std::vector<StandIn> standIns(const Work& work);

/// What all sheets and beams of a stand-in are drawn as.
[[nodiscard]] DrawnBody drawnBodyOf(const Model& model, const StandIn& standIn, double relativeDeviation,
                                    Progress& progress);

struct Worst {
    double by = 0.0;  ///< [mm]
    gp_Pnt at;        ///< part coordinates
};
/// Of one thin wall of the solid.
struct WallProof {
    double thickness = 0.0;  ///< [mm] of the solid there
    double area = 0.0;       ///< [mm^2] of both its sides
    double covered = 0.0;    ///< share of them that a drawn skin lies on
    Worst off;               ///< largest difference of a sheet's thickness from the solid's
    gp_Pnt where;            ///< midway in it, part coordinates
};
/// Of one stand-in. Thickness, centre and distances are measured at samples of the skins.
struct Proof {
    double solidVolume = 0.0,
           drawnVolume = 0.0;    ///< [mm^3] area times thickness, area times length; with what is solid
    double twice = 0.0;          ///< [mm^3] about: of what is drawn, in two walls at once where they meet
    double centreShift = 0.0;    ///< [mm]
    double largestMoment = 0.0;  ///< [1] largest relative change of a principal moment of inertia about the centre
    bool sheets = false;         ///< beams alone have neither thickness nor free edges
    double covered = 0.0;  ///< share of the skin that the drawn body's lies on, within a hundredth of the thickness
    Worst left;            ///< how far the solid reaches out of what is drawn
    Worst beyond;          ///< how far what is drawn reaches out of the solid
    Worst thickness;       ///< largest difference between a sheet's thickness and the solid's there
    int pieces = 0;        ///< sheets and beams that do not hang together
    int freeEdges = 0;
    double freeLength = 0.0;                           ///< [mm]
    double elementsBefore = 0.0, elementsAfter = 0.0;  ///< forecast at the target size
    double targetSize = 0.0;                           ///< [mm]
    std::vector<WallProof> walls;                      ///< the least covered first
    std::vector<Station> stations;                     ///< sections across the longest side
    std::vector<bool> reachesOut;                      ///< by triangle of drawnBodyOf(): beyond the solid's skin
};
/// In a line each, for lists and terminals.
[[nodiscard]] std::vector<std::string> proofLines(const Proof& proof);

/// A line for each wall; first those that are covered least.
[[nodiscard]] std::vector<std::string> wallLines(const Proof& proof);

/// Refuses   a stand-in of which nothing is a sheet or beam; being cancelled.
[[nodiscard]] Result<Proof> proofOf(const Model& model, const StandIn& standIn, Progress& progress);

}  // namespace rasoir::reduce
