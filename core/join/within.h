// Sheets that lie within a solid: a baffle in a flow, a foil cast into a block.
//
// A solid of ours has an outside and nothing else, so a sheet in it is no face of it (decision 51). That the sheet lies
// in it is a pairing: the faces of the one, the body of the other. The mesher then lets the elements of the solid share
// the nodes of the sheet on both of its sides.
#pragma once
#include <set>

#include "arrange/choice.h"
#include "model/model.h"

namespace rasoir::join {

/// A sheet that lies in a solid, by indices of the arrangement's inputs.
struct SheetWithin {
    std::size_t sheet = 0, solid = 0;
    std::set<int> faces;  ///< of the sheet as it was made
    double area = 0.0;    ///< [mm^2], of one side
};

/// The sheets with the solid on both sides of some of their faces.
/// `bodies`  what the inputs have become, null for what nothing was done to; of several that share a cell the one of
///           least `rank` has it.
[[nodiscard]] std::vector<SheetWithin> sheetsWithin(const arrange::Arrangement& all,
                                                    const std::vector<std::optional<arrange::Chosen>>& bodies,
                                                    const std::vector<double>& rank);

/// Keeps that faces of the sheet in one place lie in the solid in another, as a pairing of two groups.
/// Returns   its name, "SHEET in SOLID".
std::string keepWithin(Model& model, std::size_t sheetPlace, const std::set<int>& faces, std::size_t solidPlace);

}  // namespace rasoir::join
