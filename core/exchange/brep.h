// BREP: the kernel's own text format, shapes and nothing else.
#pragma once
#include <Message_ProgressRange.hxx>

#include "exchange/files.h"

namespace rasoir::exchange {

/// One shape out of a stream; none when it is damaged.
[[nodiscard]] std::optional<TopoDS_Shape> readBrepShape(std::istream& in,
                                                        const Message_ProgressRange& range = Message_ProgressRange());
[[nodiscard]] Result<Model> readBrep(const std::filesystem::path& path, const ReadOptions& options, Progress& progress);
[[nodiscard]] Result<void> writeBrep(const Model& model, const std::filesystem::path& path, Progress& progress);

}  // namespace rasoir::exchange
