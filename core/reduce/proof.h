// What sheets and beams keep of the solids that they stand for: drawn as thick as they say they are, and held against
// them.
#pragma once
#include <array>
#include <string>

#include "model/work.h"

namespace rasoir::reduce {

/// A reduced part as the body that its thicknesses and sections say it is; part coordinates.
struct DrawnBody {
    std::vector<gp_Pnt> points;
    std::vector<std::array<int, 3>> triangles;  ///< turned outwards
    std::vector<int> from;                      ///< by triangle: the face of the sheet, or minus the edge of a beam
};
/// Both skins of each face of a sheet and a rim along its free edges; the outline of each section along its edge. Of
/// shapes other than round, tube, rectangle and box the outline is the rectangle round them.
/// `relativeDeviation`: of the part's size, by which triangles may be off.
[[nodiscard]] DrawnBody drawnBody(const Part& part, double relativeDeviation, Progress& progress);

/// A solid as it was before it was reduced, and the parts that stand for it now.
struct StandIn {
    std::shared_ptr<const Part> solid;
    std::vector<std::size_t> parts;  ///< of the current model: sheets and beams first, then what has stayed solid
};
/// All sheets and beams whose solids the ledger knows.
[[nodiscard]] std::vector<StandIn> standIns(const Work& work);

struct Worst {
    double by = 0.0;  ///< [mm]
    gp_Pnt at;        ///< part coordinates
};
/// Of one stand-in. Thickness, centre and distances are measured at samples of the skins.
struct Proof {
    double solidVolume = 0.0,
           drawnVolume = 0.0;    ///< [mm^3] area times thickness, area times length; with what is solid
    double centreShift = 0.0;    ///< [mm]
    double largestMoment = 0.0;  ///< [1] largest relative change of a principal moment of inertia about the centre
    bool skinsHeld = false;  ///< of beams alone no skin is held against the solid: what follows is null, but for pieces
    double covered = 0.0;    ///< share of the skin that the drawn body's lies on, within a hundredth of the thickness
    Worst left;              ///< how far the solid reaches out of what is drawn
    Worst beyond;            ///< how far what is drawn reaches out of the solid
    Worst thickness;         ///< largest difference between a sheet's thickness and the solid's there
    int pieces = 0;          ///< sheets and beams that do not hang together
    int freeEdges = 0;
    double freeLength = 0.0;       ///< [mm]
    std::vector<bool> reachesOut;  ///< by triangle of the first part's drawn body: beyond the solid's skin
};
/// In a line each, for lists and terminals.
[[nodiscard]] std::vector<std::string> proofLines(const Proof& proof);

/// Refuses   a stand-in of which nothing is a sheet or beam; being cancelled.
[[nodiscard]] Result<Proof> proofOf(const Model& model, const StandIn& standIn, Progress& progress);

}  // namespace rasoir::reduce
