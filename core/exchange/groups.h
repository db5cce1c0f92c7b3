// Groups of edges that travel with an export, in a file beside the geometry. See docs/formats/groups.md.
#pragma once
#include <filesystem>

#include "model/json.h"
#include "model/model.h"

namespace rasoir::exchange {

/// "frame.step" has "frame.groups.json".
[[nodiscard]] std::filesystem::path groupsBeside(const std::filesystem::path& geometry);
/// A face in several groups bears all their names in a file, "seat; load": the names one by one.
[[nodiscard]] std::vector<std::string> namesIn(const std::string& borne);
/// The groups of what is neither set aside nor a lump: the inner corners at which the stress is fictitious, place by
/// place, in mm of the model's coordinates. An empty list where there are none.
[[nodiscard]] Json groupsOf(const Model& model);
/// Writes them beside the geometry, with what bodies have in common, what things are, and the lumps of `whole`, which
/// the geometry is without. Where there are none, nothing is written, but a file left by an earlier export is emptied
/// of them.
[[nodiscard]] Result<void> writeGroups(const Model& model, const std::filesystem::path& geometry, const Model& whole);

}  // namespace rasoir::exchange
