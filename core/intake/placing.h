// Where parts stand: moving and turning them, by numbers or from one picked thing to another.
#pragma once
#include <gp_Ax1.hxx>

#include "model/operation.h"
#include "model/reference.h"

namespace rasoir::intake {

/// First the turn, then the shift; the same for all the places named.
struct Move {
    std::vector<std::string> places;    ///< as model/places.h names them; empty: everything
    std::array<double, 3> shift{};      ///< [mm]
    std::array<double, 3> axisPoint{};  ///< [mm] a point of the turning axis
    std::array<double, 3> axisDirection{0.0, 0.0, 1.0};
    double degrees = 0.0;
    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const Move& step);
void from_json(const Json& json, Move& step);
/// Refuses numbers that are not finite, an axis without a direction, and a move that moves nothing.
[[nodiscard]] Result<Outcome> move(const Model& model, const Move& step, Progress& progress);

/// Something picked that a move can start from or end at, in model coordinates.
struct Anchor {
    gp_Pnt point;
    std::optional<gp_Dir> direction;  ///< of an axis, or a plane's outward normal
};
/// The anchor of a face: the axis and middle of a round one, centre and normal of a plane, centre of area of any other.
[[nodiscard]] Anchor anchorOf(const Model& model, std::size_t occurrence, int face);

/// The move that brings `from` onto `to`: points together, and, when both have one, directions parallel (opposite if
/// `flipped`).
[[nodiscard]] Move moveOnto(const Anchor& from, const Anchor& to, bool flipped = false);
/// The smallest turn about a point that makes a direction parallel to another, either way round.
[[nodiscard]] Move turnParallel(const gp_Pnt& about, const gp_Dir& from, const gp_Dir& to);

[[nodiscard]] gp_Trsf transformationOf(const Move& step);

}  // namespace rasoir::intake
