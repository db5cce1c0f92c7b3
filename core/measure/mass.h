// Mass, centre and inertia of parts, of a selection and of everything, each part at the density of its own material.
#pragma once
#include "measure/facts.h"

namespace rasoir::measure {

struct MassProperties {
    double mass = 0.0;  ///< [kg]
    gp_Pnt centre;      ///< [mm] of mass
    std::array<double, 6>
        inertia{};  ///< [kg mm^2] about the centre: xx yy zz xy xz yz (products as in the tensor, with its sign)

    /// The tensor about another point. Source: parallel axis theorem, Goldstein, Classical Mechanics, ch. 5.
    [[nodiscard]] std::array<double, 6> about(const gp_Pnt& point) const;
    /// Principal moments, ascending.
    [[nodiscard]] std::array<double, 3> principal() const;
    /// As seen after moving, turning or mirroring (no scaling).
    [[nodiscard]] MassProperties transformed(const gp_Trsf& placement) const;
    MassProperties& operator+=(const MassProperties& other);
};

/// [kg/m^3]
[[nodiscard]] double densityOf(const Model& model, const Part& part);
/// [kg] spread over faces and edges of a part; counted in massOf.
[[nodiscard]] double addedMassOf(const Part& part);
/// Of one part in its own coordinates. A lump's are those it was given.
[[nodiscard]] MassProperties massOf(const Model& model, const Part& part, const Facts& facts);
/// Of these occurrences (default: all that are not set aside) in model coordinates; `parts` are the facts in order of
/// model.parts.
[[nodiscard]] MassProperties massOf(const Model& model, const std::vector<Facts>& parts,
                                    const std::optional<std::vector<std::size_t>>& occurrences = std::nullopt);

/// "12.3 kg"; where skins are open beside solids, "12.3 kg, without open skins"; without any solid, "none: open skins
/// weigh nothing".
[[nodiscard]] std::string massText(double mass, const Facts& facts);

void to_json(Json& json, const MassProperties& properties);

}  // namespace rasoir::measure
