// Triangles for the stage, so that showing a part costs the window nothing.
#pragma once
#include "model/model.h"

namespace rasoir::app {

/// Every part that has none that are fine enough yet gets triangles. Cost: the kernel's meshing, on both cores.
void tessellate(const Model& model, Progress& progress);

}  // namespace rasoir::app
