// Blocks, cylinders and balls round bodies: flow domains, and moulds in two halves.
#pragma once
#include "divide/cutters.h"
#include "model/operation.h"

namespace rasoir::divide {

/// Parameters of `divide.surround`: a new body round others, as flow domain or mould block.
struct Surround {
    std::vector<std::string> places;  ///< empty: all that is not set aside
    std::string by = "block";         ///< block (along the axes), cylinder, ball
    std::string axis = "z";           ///< of the cylinder: x, y or z
    /// [mm] block: -x +x -y +y -z +z; cylinder: the two along its axis, and the first of the others round it; ball: the
    /// first.
    std::array<double, 6> clearance{};
    std::string name = "block round";
    bool without = false;          ///< the bodies are taken out of it
    std::optional<Plane> parting;  ///< the two halves of a mould: it is cut there, and each side is a part of its own
    std::string partingBy;         ///< instead of a plane: a part or place that parts it, a sheet that reaches through

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const Surround& step);
void from_json(const Json& json, Surround& step);
/// Refuses   no volume, and a parting that does not part what goes round.
[[nodiscard]] Result<Outcome> surround(const Model& model, const Surround& step, Progress& progress);

}  // namespace rasoir::divide
