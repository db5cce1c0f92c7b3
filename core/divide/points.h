// Places said by what they lie at, and points for loads and supports that are kept as such.
#pragma once
#include "model/operation.h"
#include "model/reference.h"

namespace rasoir::divide {

/// A place: in numbers, or by a thing of the model.
struct Place {
    std::optional<std::array<double, 3>> at;  ///< [mm] model coordinates
    /// A vertex itself; the centre of a round edge, the middle of another; the centre of a ball or ring, the middle of
    /// the axis of a round face, the centre of area of another; the centre of mass of a body.
    std::optional<EntityRef> of;
};
void to_json(Json& json, const Place& place);
void from_json(const Json& json, Place& place);

/// Where a part stands first; the identity where it stands nowhere.
[[nodiscard]] gp_Trsf placementOf(const Model& model, std::size_t part);
/// The place in model coordinates; of a part that stands in several places, in the first.
/// Refuses   numbers beyond all size, things that are gone.
[[nodiscard]] Result<gp_Pnt> pointOf(const Model& model, const Place& place);

/// Parameters of `divide.point`, kept in the ledger.
struct MakePoints {
    std::vector<Place> places;
    std::optional<EntityRef> onto;  ///< a face or an edge: the points are thrown onto it, the shortest way
    std::string name = "point";     ///< several are told apart by numbers
    std::string group;              ///< they become a group of this name; empty: none

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const MakePoints& step);
void from_json(const Json& json, MakePoints& step);
/// Each point becomes a part of its own, a vertex, exported as one. What it was set at is named in the ledger, so that
/// it follows the designer's revision.
[[nodiscard]] Result<Outcome> makePoints(const Model& model, const MakePoints& step, Progress& progress);

}  // namespace rasoir::divide
