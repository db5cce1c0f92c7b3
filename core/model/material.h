// Materials: a library of our own, extended by a file of the user's. Format: docs/formats/materials.md.
#pragma once
#include <filesystem>
#include <string>
#include <vector>

#include "common/problem.h"
#include "model/json.h"

namespace rasoir {

struct Material {
    std::string name;
    double density = 7850.0;     ///< [kg/m^3]
    double youngsModulus = 0.0;  ///< [MPa]; 0: not known
    double poissonsRatio = 0.3;
    friend bool operator==(const Material&, const Material&) = default;
};

/// Common engineering materials with rounded textbook values at room temperature.
const std::vector<Material>& standardMaterials();
/// Those of a user's file alone; none where there is no file. Refuses a damaged file and absurd values, naming the
/// material.
[[nodiscard]] Result<std::vector<Material>> ownMaterials(const std::filesystem::path& usersFile);
/// The standard ones, with those of a user's file added; a name used again replaces. A missing file is no problem.
/// Refuses a damaged file and absurd values, naming the material.
[[nodiscard]] Result<std::vector<Material>> materialLibrary(const std::filesystem::path& usersFile);
[[nodiscard]] Result<void> saveMaterials(const std::vector<Material>& materials,
                                         const std::filesystem::path& usersFile);
/// The material of that name, in any case of letters.
[[nodiscard]] const Material* findMaterial(const std::vector<Material>& library, const std::string& name);
/// A sentence when a value cannot be: density 0 to 1e5 kg/m^3, stiffness not negative, Poisson's ratio -1 to 0.5.
[[nodiscard]] Result<void> checkMaterial(const Material& material);

void to_json(Json& json, const Material& material);
void from_json(const Json& json, Material& material);

}  // namespace rasoir
