// Mirror planes and turning symmetry of bodies, told by their geometry alone.
#pragma once
#include <gp_Ax1.hxx>
#include <gp_Pln.hxx>
#include <set>
#include <string>

#include "common/progress.h"
#include "model/model.h"

namespace rasoir::survey {

/// A symmetry that holds, or nearly holds.
struct Symmetry {
    bool mirror = true;       ///< else a turn
    gp_Pln plane;             ///< of a mirror, model coordinates
    gp_Ax1 axis;              ///< of a turn
    int order = 0;            ///< of a turn: it looks the same this often in a full turn; 0: at any angle
    double deviation = 0.0;   ///< [mm] largest distance between a face's middle and its partner's
    std::size_t matched = 0;  ///< faces that have a partner
    std::vector<std::pair<std::size_t, int>> without;  ///< place and face that have none
    [[nodiscard]] bool whole() const { return without.empty(); }
};

/// Symmetries of what stands at some places (empty: at all that is not set aside), the whole ones first, mirrors before
/// turns. Nearly: of at least nine tenths of the faces.
/// `tolerance` [mm]: how far a face may be from where its partner's image is. A hundredth of the target size is usual.
/// Method    a face is a landmark by its middle, area, kind and radius. A mirror plane or axis passes through the
/// middle
///           of the skin; its direction is a main axis of the skin's inertia, a main direction of planes and axes, or
///           leads from one landmark to another like it. Each candidate is tried on all landmarks.
/// Cost      n log n in the faces for each candidate; at most 120 candidates.
[[nodiscard]] Result<std::vector<Symmetry>> findSymmetries(const Model& model, const std::set<std::size_t>& places,
                                                           double tolerance, Progress& progress);

/// "Mirror plane x = 0", "6 times about an axis through (0, 0, 0) along z", with what does not match.
[[nodiscard]] std::string describe(const Symmetry& symmetry);

/// The one axis about which most of the round skin of some places lies; none where less than a third of it does.
struct CommonAxis {
    gp_Ax1 axis;         ///< model coordinates
    double share = 0.0;  ///< of the round skin
};
[[nodiscard]] std::optional<CommonAxis> commonAxis(const Model& model, const std::set<std::size_t>& places);

}  // namespace rasoir::survey
