// Modelled threads: faces that a screw motion moves along themselves, round a shaft or in a hole. Only reads.
#pragma once
#include <gp_Ax1.hxx>

#include "common/progress.h"
#include "model/model.h"

namespace rasoir::survey {

struct Thread {
    std::vector<int> faces;  ///< flanks, crests, roots, and what ends them: everything between its two ends; ascending
    gp_Ax1 axis;             ///< part coordinates
    double minor = 0.0, major = 0.0;  ///< [mm] diameters between which it lies
    double lead = 0.0;                ///< [mm] advance in a full turn, positive
    double low = 0.0, high = 0.0;     ///< [mm] where its grooves begin and end along the axis, from its origin
    bool outer = true;                ///< on a shaft; else in a hole
    bool rightHanded = true;
    gp_Pnt middle;
    double elements = 0.0;  ///< what it costs at the target size, beyond a plain cylinder
    [[nodiscard]] double mean() const { return 0.5 * (minor + major); }
    [[nodiscard]] double length() const { return high - low; }
    [[nodiscard]] double turns() const { return lead > 0.0 ? length() / lead : 0.0; }
};

/// Threads in the closed bodies of one part, by major diameter, then by place.
/// Method    each freeform face is asked for the screw motion that moves it along itself (geometry/screw_motion). Faces
/// of one motion that hang
///           together, also over cylinders about its axis, are a thread where they go round that axis at least once,
///           advance by less than one and a half diameters in a turn, lie within the outer half of the radius, and end
///           in two rings. A spring's or a gear's faces do not.
/// Tapered threads are none: no screw motion moves them along themselves.
/// Cost      linear in the faces; 40 points on each freeform one.
/// Refuses   only when cancelled.
[[nodiscard]] Result<std::vector<Thread>> findThreads(const Part& part, double targetSize, Progress& progress);

/// "outer, lead 1.5, 12 turns, core Ø 8"
std::string describe(const Thread& thread);

}  // namespace rasoir::survey
