// Flat sheets and lines as DXF, for sections.
#pragma once
#include <filesystem>

#include "common/progress.h"
#include "model/model.h"

namespace rasoir::exchange {

/// Writes the edges of all flat sheets and wires that lie in one common plane as DXF (release 12, ASCII, mm): lines,
/// arcs, circles, and polylines for all other curves, within a ten-thousandth of the drawing's size. A layer for each
/// part; an edge that joined parts have in common stands once, on the first one's layer. The drawing lies as the plane
/// does when it is parallel to XY; else the plane's own axes are used. Refuses   bodies that are no flat sheets or flat
/// wires, and those in several planes: named.
[[nodiscard]] Result<void> writeDxf(const Model& model, const std::filesystem::path& path);

}  // namespace rasoir::exchange
