// Sections of the report that measure something of their own: what was kept on purpose, where stress is fictitious, the
// trial mesh before and after, and an exported file held against the work.
#pragma once
#include <filesystem>

#include "common/progress.h"
#include "model/work.h"

namespace rasoir::handover {

/// Things that steps were told to keep, openings that are meant, and rounds whose corners are sharp now, as HTML; empty
/// where there are none.
[[nodiscard]] std::string keptSection(const Work& work);

/// Share of elements that fall short by each measure, as received and now, at the target size; a sentence where a mesh
/// cannot be made. Cost: two trial meshes.
[[nodiscard]] Result<std::string> qualitySection(const Work& work, Progress& progress);

/// A file read again and held against the model: each body's volume, area and centre, how far the skins lie apart, the
/// widest tolerance, each group's faces and area. A file that cannot be read, or that is not of this model, is told so.
[[nodiscard]] Result<std::string> exportedSection(const Model& model, const std::filesystem::path& file,
                                                  Progress& progress);

}  // namespace rasoir::handover
