// What is put to a flow space or taken from it: plugs in gaps, lengthened inlets, its narrowest passage.
#pragma once
#include "arrange/arrangement.h"
#include "join/leaks.h"
#include "join/openings.h"

namespace rasoir::join {

/// A body that closes a gap between two faces: the smaller one of them, thickened until it reaches the other's farthest
/// point [mm, model coordinates]. Between two flats, or a pin and its bore (cylinders with parallel axes, the smaller a
/// whole piece of one from angle to angle and end to end). None between others, or where they do not face each other.
/// Where the smaller face reaches beyond the other, so does the plug.
[[nodiscard]] std::optional<TopoDS_Shape> plugFor(const Model& model, const Leak& leak);

/// A lid of a space: its faces in the space's shape, and how far it goes outwards [mm].
struct LongLid {
    std::size_t lid = 0;
    std::set<int> faces;
    double by = 0.0;
};
struct LengthenedSpace {
    TopoDS_Shape shape;
    double volume = 0.0;                               ///< [mm^3]
    std::map<int, int> faces;                          ///< new number to the number in the shape that it was
    std::map<std::size_t, std::set<int>> ends, sides;  ///< by lid: the new lid's faces, and those round its way
};
/// Lengthens a space at its lids, straight outwards.
/// `walls`   in whose way the new pieces must not be.
/// Refuses   a lid that is not flat; walls in the way, by name and place; what the arrangement refuses.
[[nodiscard]] Result<LengthenedSpace> lengthened(const TopoDS_Shape& space, const std::vector<LongLid>& lids,
                                                 const std::vector<arrange::Input>& walls, double tolerance,
                                                 Progress& progress);

/// The narrowest place on the widest way from the first lid to each other one, the narrowest of them. None with fewer
/// than two lids, or where the search gives up.
/// `space`   [mm] the fluid's body; `lids`: faces of it by lid.
/// `finest`  [mm] narrower passages are not told.
[[nodiscard]] std::optional<Leak> narrowestPassage(const TopoDS_Shape& space, const std::vector<std::set<int>>& lids,
                                                   double finest, Progress& progress);

}  // namespace rasoir::join
