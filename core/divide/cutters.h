// What bodies are cut with: planes said in numbers, faces carried on past their ends, other bodies.
#pragma once
#include <gp_Pln.hxx>

#include "model/json.h"
#include "model/model.h"
#include "model/reference.h"

namespace rasoir::divide {

/// A plane in model coordinates: {"through": [x, y, z], "normal": [x, y, z]}.
struct Plane {
    std::array<double, 3> through{};  ///< [mm]
    std::array<double, 3> normal{};   ///< any length but none; "above" is where it points
};
void to_json(Json& json, const Plane& plane);
void from_json(const Json& json, Plane& plane);

/// Whether a parameter is there and says something: an optional one may be left out, null or empty.
[[nodiscard]] inline bool given(const Json& json, const char* name) {
    return json.contains(name) && !json.at(name).is_null() && !json.at(name).empty();
}

/// Refuses numbers that are not finite or beyond all size, and a normal without length.
[[nodiscard]] Result<gp_Pln> planeOf(const Plane& plane);
/// The plane of a flat face, shifted along its outward normal by `offset` [mm]; in the part's coordinates.
[[nodiscard]] Result<gp_Pln> planeOf(const Model& model, const FaceRef& face, double offset);

/// A face, shifted outwards by `offset` [mm] and carried on past its ends beyond a box (in the part's
/// coordinates): the plane across it, the whole cylinder, ball or torus, a cone from its apex; other surfaces go on as
/// far as their outermost spans allow (see carriedOn). Refuses   a freeform face with an offset, and an offset that
/// leaves nothing.
[[nodiscard]] Result<TopoDS_Face> faceCarriedOn(const Part& part, int face, double offset, const Bnd_Box& box);

/// A face on the plane that reaches beyond a box on all sides; null where the plane misses the box by more than
/// `tolerance` [mm].
[[nodiscard]] TopoDS_Face faceAcross(const gp_Pln& plane, const Bnd_Box& box, double tolerance);

/// "above", "below", "left", ...: how one says on which side of a plane something lies, when the plane is square to an
/// axis; else "in front" and "behind". `positive`: where the normal points.
[[nodiscard]] std::string sideName(const gp_Pln& plane, bool positive);

}  // namespace rasoir::divide
