// Coordinate systems that hang on the model: a group whose purpose is "coordinate system" says by what it holds where
// its axes are, so that they follow every step as the group does.
#pragma once
#include <gp_Ax3.hxx>

#include "model/model.h"

namespace rasoir::measure {

inline constexpr const char* framePurpose = "coordinate system";  ///< the purpose of such a group

struct Frame {
    std::string name;
    gp_Ax3 axes;  ///< model coordinates
};

/// Axes of a group, in model coordinates:
///   - a flat face: its centre, Z outwards, X along its longest straight edge;
///   - a round face (hole, shaft): the middle of its axis, Z along it, towards the larger coordinate;
///   - both: the axis where it pierces the flat, Z as the flat looks;
///   - three vertices: the origin at the corner nearest to a right angle, X along its longer side, Y towards the other.
/// Where nothing says how X lies, it is the axis of the model that lies best across Z. Of several places the first
/// counts. None for what a group holds otherwise, and where the three vertices are in a line.
[[nodiscard]] std::optional<gp_Ax3> frameOf(const Model& model, const Group& group);

/// All that can be read off, in the order of the groups.
[[nodiscard]] std::vector<Frame> framesOf(const Model& model);

/// The model as seen in these axes: every place moved, nothing else.
[[nodiscard]] Model seenIn(const Model& model, const gp_Ax3& axes);

}  // namespace rasoir::measure
