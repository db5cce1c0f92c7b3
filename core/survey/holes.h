// Finds holes: their walls, floors and rims, their sizes, and which open into each other. Only reads.
#pragma once
#include <gp_Ax1.hxx>

#include "common/progress.h"
#include "model/model.h"

namespace rasoir::survey {

enum class HoleKind {
    Plain,         ///< one diameter, through or blind
    Stepped,       ///< several diameters
    Counterbored,  ///< two diameters with a flat shoulder, the wider one at the mouth and shallower
    Countersunk,   ///< a cone at the mouth at least one and a half times as wide as the hole
    Tapered,       ///< a cone alone
    Slot,          ///< two half rounds and the flats between them
    Sheet          ///< an inner loop of a sheet, of any form
};

/// Where a hole opens to the outside (or into another hole): the faces round the mouth.
struct Mouth {
    std::vector<int> neighbours;  ///< face numbers
    int intoHole = -1;            ///< index of the hole it opens into, -1: to the outside
};

struct Hole {
    HoleKind kind = HoleKind::Plain;
    double size = 0.0;              ///< [mm] the widest wall: what limits are compared with. Slots: the width
    double length = 0.0;            ///< [mm] slots: overall length across; else 0
    std::vector<double> diameters;  ///< [mm] of the cylindrical walls, ascending, each once
    double depth = 0.0;             ///< [mm] extent along the axis
    gp_Ax1 axis;                    ///< part coordinates
    gp_Pnt middle;                  ///< on the axis, half way down
    std::vector<int> faces;         ///< everything that goes with the hole, face numbers, ascending
    std::vector<Mouth> mouths;
    bool through = false;   ///< two mouths or more, be it into another hole
    bool bore = false;      ///< goes through something less than twice as wide as itself: a tube, a ring, an eye
    bool openSide = false;  ///< its wall does not go all the way round: it breaks out sideways
    bool drillPoint = false, ballEnd = false, rimChamfer = false, rimRound = false;
    double sinkDiameter = 0.0;  ///< [mm] countersunk: widest
    int group = -1;             ///< holes that open into each other share a number >= 0
    int body = 0;               ///< solid in the part, 0-based
    double elements = 0.0;      ///< what it costs at the target size
    double volume = 0.0;        ///< [mm^3] roughly what it holds, from its diameters and depths
    std::string pattern;        ///< "in a circle of 6, Ø 80", where it is one of such
    int sheetFace = 0;          ///< of a sheet: the face it is in; it has no faces of its own
    std::vector<int> rim;       ///< of a sheet: the edges of its loop, ascending
    bool across = false;        ///< of a sheet: it lies in several faces, of which sheetFace is one
};

struct HoleLimits {
    double upTo = 0.0;       ///< [mm] only walls up to this diameter are considered; 0: all
    double stepRatio = 3.0;  ///< neighbouring diameters farther apart than this belong to different holes
    bool listSlots = true;   ///< list slots too
};

/// Holes of all solids and sheets of one part, ordered by size, then by place in the part. A boss, a fillet, the round
/// end of a pocket is none of them, nor is a recess in which a boss stands: a hole's wall is concave and goes at least
/// seven twelfths of the way round (a slot's ends: half way, twice). Cost: linear in the faces; the estimate of
/// elements dominates. Two runs agree. Refuses only when cancelled.
[[nodiscard]] Result<std::vector<Hole>> findHoles(const Part& part, double targetSize, const HoleLimits& limits,
                                                  Progress& progress);

std::string holeKindName(HoleKind kind);
/// "through", "blind, 10 deep", "counterbored, through" ...: the hole in words, without its size.
std::string describe(const Hole& hole);

}  // namespace rasoir::survey
