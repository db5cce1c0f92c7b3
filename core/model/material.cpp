#include "model/material.h"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>

#include "common/safe_file.h"

namespace rasoir {
namespace {

std::string lower(std::string text) {
    std::transform(text.begin(), text.end(), text.begin(),
                   [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    return text;
}

void addOrReplace(std::vector<Material>& library, const Material& material) {
    for (Material& known : library)
        if (lower(known.name) == lower(material.name)) {
            known = material;
            return;
        }
    library.push_back(material);
}

}  // namespace

const std::vector<Material>& standardMaterials() {
    static const std::vector<Material> all = {{"structural steel", 7850, 210000, 0.30},
                                              {"stainless steel", 7930, 195000, 0.29},
                                              {"cast iron, grey", 7200, 110000, 0.26},
                                              {"cast iron, ductile", 7100, 170000, 0.28},
                                              {"aluminium alloy", 2700, 70000, 0.33},
                                              {"magnesium alloy", 1770, 45000, 0.29},
                                              {"titanium alloy", 4430, 114000, 0.34},
                                              {"copper", 8960, 120000, 0.34},
                                              {"brass", 8500, 100000, 0.34},
                                              {"bronze", 8800, 110000, 0.34},
                                              {"lead", 11340, 16000, 0.44},
                                              {"polyamide", 1140, 2800, 0.39},
                                              {"polyethylene", 950, 1000, 0.42},
                                              {"acetal", 1410, 2900, 0.37},
                                              {"polycarbonate", 1200, 2350, 0.37},
                                              {"rubber", 1100, 5, 0.49},
                                              {"glass", 2500, 70000, 0.22},
                                              {"concrete", 2400, 30000, 0.20},
                                              {"spruce, along the grain", 450, 11000, 0.35},
                                              {"epoxy with glass fibre", 1900, 25000, 0.28},
                                              {"water", 1000, 0, 0.5},
                                              {"air", 1.2, 0, 0.0}};
    return all;
}

Result<void> checkMaterial(const Material& material) {
    const auto bad = [&material](const std::string& why) {
        return fail(ProblemKind::BadInput, fmt::format("The material \"{}\" cannot be used: {}.", material.name, why),
                    "Correct its values.");
    };
    if (material.name.empty()) return bad("it has no name");
    if (!(material.density > 0.0 && material.density <= 1e5))
        return bad("its density must lie between 0 and 100000 kg/m³");
    if (!(material.youngsModulus >= 0.0 && material.youngsModulus <= 1e8))
        return bad("its stiffness must lie between 0 and 100000000 MPa");
    if (!(material.poissonsRatio > -1.0 && material.poissonsRatio <= 0.5))
        return bad("its Poisson's ratio must lie between -1 and 0.5");
    return {};
}

Result<std::vector<Material>> ownMaterials(const std::filesystem::path& usersFile) {
    std::vector<Material> own;
    std::error_code error;
    if (usersFile.empty() || !std::filesystem::exists(usersFile, error)) return own;
    const auto text = readText(usersFile);
    if (!text) return tl::unexpected(text.error());
    try {
        const Json json = Json::parse(*text);
        if (json.value("format", "") != "rasoir-materials")
            throw std::invalid_argument("it does not call itself rasoir-materials");
        for (const Json& one : json.at("materials")) {
            const Material material = one.get<Material>();
            if (auto sound = checkMaterial(material); !sound) return tl::unexpected(sound.error());
            addOrReplace(own, material);
        }
    } catch (const std::exception& problem) {
        return fail(ProblemKind::BadInput,
                    fmt::format("\"{}\" is not a list of materials that can be used: {}.",
                                usersFile.filename().string(), problem.what()),
                    "See docs/formats/materials.md.");
    }
    return own;
}

Result<std::vector<Material>> materialLibrary(const std::filesystem::path& usersFile) {
    const auto own = ownMaterials(usersFile);
    if (!own) return own;
    std::vector<Material> library = standardMaterials();
    for (const Material& material : *own) addOrReplace(library, material);
    return library;
}

Result<void> saveMaterials(const std::vector<Material>& materials, const std::filesystem::path& usersFile) {
    return writeText(usersFile,
                     Json{{"format", "rasoir-materials"}, {"version", 1}, {"materials", materials}}.dump(2) + "\n");
}

const Material* findMaterial(const std::vector<Material>& library, const std::string& name) {
    for (const Material& material : library)
        if (lower(material.name) == lower(name)) return &material;
    return nullptr;
}

void to_json(Json& json, const Material& material) {
    json = Json{{"name", material.name},
                {"density_kg_m3", material.density},
                {"youngsModulus_MPa", material.youngsModulus},
                {"poissonsRatio", material.poissonsRatio}};
}

void from_json(const Json& json, Material& material) {
    json.at("name").get_to(material.name);
    json.at("density_kg_m3").get_to(material.density);
    material.youngsModulus = json.value("youngsModulus_MPa", 0.0);
    material.poissonsRatio = json.value("poissonsRatio", 0.3);
}

}  // namespace rasoir
