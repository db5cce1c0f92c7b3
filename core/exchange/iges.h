// IGES: parts, names, colours and the length unit. Only read.
#pragma once
#include "exchange/assembly.h"
#include "exchange/files.h"

namespace rasoir::exchange {

/// Whether the beginning of a file is an IGES start section (fixed 80-column lines, an S in column 73).
[[nodiscard]] bool looksLikeIges(const std::string& head);

/// The translator's healing is off: what comes in is what is in the file. Solids become parts each; faces that hang
/// together in nothing become one part, named after the file, for Mend to stitch.
[[nodiscard]] Result<Model> readIges(const std::filesystem::path& path, const ReadOptions& options, Progress& progress);

}  // namespace rasoir::exchange
