// Finds rounds (fillets) and chamfers: strips that run along two rows of faces, the patches where strips meet, and
// their chains. Only reads.
#pragma once
#include "common/progress.h"
#include "model/model.h"
#include "topology/strip.h"

namespace rasoir::survey {

enum class StripKind { Round, Chamfer };

/// Strips that hang together across their ends, with the patches between them.
struct StripChain {
    StripKind kind = StripKind::Round;
    double size = 0.0;    ///< [mm] rounds: the largest radius; chamfers: the width of the face
    double least = 0.0;   ///< [mm] the smallest radius or width
    bool convex = true;   ///< an outer edge was broken: without it the body is larger
    double length = 0.0;  ///< [mm] along the strips
    double turn = 0.0;    ///< [rad] largest turn of the normal from one side to the other
    std::vector<Strip> strips;
    std::vector<int> faces;  ///< strips and patches, ascending
    std::vector<int> along;  ///< faces on which it rests, ascending
    gp_Pnt middle;           ///< on one of its faces
    double gain = 0.0;  ///< [mm^3] about what the body gains when it goes, negative where it loses; without the patches
    double change = 0.0;    ///< [mm^3] what it cannot change by more, up to a half
    bool mixed = false;     ///< breaks outer edges here and fills inner corners there
    double elements = 0.0;  ///< what it costs at the target size
    int layer = 0;          ///< chains of lower layers rest on those of higher ones: they go first
    bool bend = false;      ///< inside or outside of a bent sheet of constant thickness: a bend, not a fillet
};

/// Chains of all solids of one part, by size, then by place. A round turns by 5 to 170 degrees, touches what it runs
/// along smoothly on both sides, and has one radius across: so neither hole, pin, pipe bend nor the end of a slot is
/// one. Cylinders and tori exactly, also where they came as splines; other surfaces by their curvature (radii told as a
/// range). Cost: linear in the faces. Two runs agree. Refuses only when cancelled.
[[nodiscard]] Result<std::vector<StripChain>> findStrips(const Part& part, double targetSize, Progress& progress);

/// "inner, 42 long", "outer, 3 faces": a chain in words, without its size.
std::string describe(const StripChain& chain);

}  // namespace rasoir::survey
