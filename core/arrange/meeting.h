// Where two surfaces meet, as whole curves: all branches of it that may concern two faces.
#pragma once
#include <Geom_Curve.hxx>
#include <Geom_Surface.hxx>
#include <gp_Pnt.hxx>
#include <optional>
#include <vector>

#include "arrange/catalogue.h"

namespace rasoir::arrange {

struct Branch {
    Handle(Geom_Curve) curve;
    double first = 0.0, last = 0.0;  ///< infinite for lines, parabolas and hyperbolas
    bool closed = false;             ///< the end is the beginning
    double deviation = 0.0;          ///< [mm] from either surface
    bool exact = false;              ///< a line or conic from a closed formula
};

enum class Relation { Apart, Meet, Same };

struct Meeting {
    Relation relation = Relation::Apart;
    std::vector<Branch> branches;
    bool complete = false;  ///< a closed formula gave them: there are no others
};

/// All branches in which the surfaces of two faces meet, near those faces. `tolerance` [mm].
/// Planes, cylinders, cones, balls and tori in positions with conic meetings: exact. Else the kernel's intersection of
/// the two surfaces, trimmed to the faces; none where that fails.
[[nodiscard]] std::optional<Meeting> meetingOf(const FaceRecord& a, const FaceRecord& b, double tolerance);

/// Whether two faces lie on one surface within `tolerance`, as far as both reach.
[[nodiscard]] bool sameCarrier(const FaceRecord& a, const FaceRecord& b, double tolerance);

}  // namespace rasoir::arrange
