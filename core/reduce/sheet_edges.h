// Work on sheets by hand: free edges carried on, what sticks out cut back, thickness set.
#pragma once
#include <optional>

#include "divide/cutters.h"
#include "model/operation.h"

namespace rasoir::reduce {

/// Parameters of `reduce.carryOn`. Of by, plane, to and outline exactly one says how far.
struct CarryOn {
    std::vector<EntityRef> edges;        ///< free edges of sheets
    double by = 0.0;                     ///< [mm]
    std::optional<divide::Plane> plane;  ///< model coordinates
    std::vector<std::string> to;         ///< places or parts: sheets, or solids with their skin
    bool outline = false;                ///< to the skin of the solid that the sheet stands for

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const CarryOn& step);
void from_json(const Json& json, CarryOn& step);

/// Grows the faces at those edges, each on its own surface; two edges of one corner fill it. A part that stands in
/// several places grows in all of them, to what its first place meets; that is told.
/// Returns   an item for each part with how far its edges went, and its area before and after.
/// Refuses   an edge that is not free; a kind of face or edge that cannot be carried on; what is not met all along an
///           edge, with the place; an outline where no solid is known.
[[nodiscard]] Result<Outcome> carryOn(const Model& model, const CarryOn& step, Progress& progress);

/// Parameters of `reduce.cutBack`. Of plane, at, outline and lips exactly one says where.
struct CutBack {
    std::vector<EntityRef> edges;        ///< free edges of what sticks out
    std::optional<divide::Plane> plane;  ///< model coordinates
    std::vector<std::string> at;         ///< places or parts: sheets, or solids with their skin
    bool outline = false;                ///< at the skin of the solid that the sheet stands for
    bool lips = false;                   ///< whole faces that hang over beyond a joint

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const CutBack& step);
void from_json(const Json& json, CutBack& step);

/// Cuts the faces at those edges, and drops the pieces that the edges belong to. What the cut parted beside them is one
/// again, and so is what hung together at the joint of a lip.
/// Refuses   an edge that is not free; a cutter that leaves its face whole, or that crosses the edge itself; a lip that
///           hangs on no joint; an outline where no solid is known.
[[nodiscard]] Result<Outcome> cutBack(const Model& model, const CutBack& step, Progress& progress);

/// Parameters of `reduce.thickness`.
struct SetThickness {
    std::vector<FaceRef> faces;
    std::vector<std::string> parts;   ///< names or patterns; with no faces: all faces of these
    std::optional<double> thickness;  ///< [mm]; none: as it is
    std::string position;             ///< "middle", "above" or "below": where the wall lies, as seen along the normal
    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const SetThickness& step);
void from_json(const Json& json, SetThickness& step);

/// Sets how thick the walls are that faces of sheets stand for, and whether the sheet lies midway in them or on a skin.
/// Refuses   faces that are of no sheet; a thickness that is none; a position for a face without thickness.
[[nodiscard]] Result<Outcome> setThickness(const Model& model, const SetThickness& step, Progress& progress);

}  // namespace rasoir::reduce
