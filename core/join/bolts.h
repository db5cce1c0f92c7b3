// Bolted joints: which bolt goes through which bodies.
#pragma once
#include <gp_Ax1.hxx>

#include "common/progress.h"
#include "model/model.h"

namespace rasoir::join {

/// A bolt, what it clamps, and how far.
struct BoltedJoint {
    std::size_t bolt = 0;           ///< occurrence
    int body = 0;                   ///< solid in its part, 0-based
    std::vector<std::size_t> with;  ///< places of nuts and washers on its shank, not those of its own part
    /// A body that it goes through or into: the hole's face, and where that begins and ends along the axis.
    struct Member {
        std::size_t place = 0;
        int face = 0;
        double from = 0.0, to = 0.0;  ///< [mm] from under the head
        double diameter = 0.0;        ///< [mm] of the hole
    };
    std::vector<Member> clamped;  ///< from the head on
    bool nut = false;             ///< it ends in a nut; else in the last of the bodies, by its thread
    gp_Ax1 axis;                  ///< from under the head, model coordinates
    double diameter = 0.0;        ///< [mm] of the shank
    double length = 0.0;          ///< [mm] clamped: under the head to the nut, or to where the thread begins to hold
    [[nodiscard]] gp_Pnt end() const { return axis.Location().Translated(gp_Vec(axis.Direction()) * length); }
};

/// Bolts recognised by shape (survey/fasteners), with the holes about their shanks: coaxial within a tenth of the
/// diameter, from a tenth narrower to six tenths wider. A bolt through nothing is none. Cost: bolts times the round
/// faces near them.
[[nodiscard]] Result<std::vector<BoltedJoint>> findBolts(const Model& model, Progress& progress);

/// Edges of a member's hole that go round the axis, nearest to a place along it [mm, from under the head]; numbers in
/// its part.
[[nodiscard]] std::vector<int> rimOf(const Model& model, const BoltedJoint::Member& member, const gp_Ax1& axis,
                                     double at);

}  // namespace rasoir::join
