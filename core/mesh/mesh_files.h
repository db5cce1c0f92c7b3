// A trial mesh as a file: VTU, with groups and qualities, or STL.
#pragma once
#include <filesystem>

#include "mesh/trial_mesh.h"

namespace rasoir::mesh {

/// Writes the whole model's mesh by the suffix, all or nothing.
/// .vtu  XML, ASCII: triangles and lines in model coordinates [mm]; cell data `place`, `face` (0 of lines), every
/// measure
///       of quality.h, and an array of 0 and 1 for each group of faces, edges or bodies, by its name.
/// .stl  binary: triangles alone.
/// Refuses   another suffix; see writeBeside().
[[nodiscard]] Result<void> writeMesh(const Model& model, const TrialMesh& mesh, const std::filesystem::path& path);

}  // namespace rasoir::mesh
