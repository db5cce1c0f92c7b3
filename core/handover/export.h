// An export that is proved: what was written is read again and compared before it is called done.
#pragma once
#include "exchange/files.h"
#include "model/json.h"

namespace rasoir::handover {

struct ExportProof {
    struct Body {
        std::string place;
        double volume = 0.0, volumeRead = 0.0;  ///< [mm^3]
        double area = 0.0, areaRead = 0.0;      ///< [mm^2]
        double apart = 0.0;                     ///< [mm] between the centres
    };
    struct Named {
        std::string group;
        std::size_t faces = 0, facesRead = 0;  ///< over all places
        double area = 0.0, areaRead = 0.0;     ///< [mm^2]
        [[nodiscard]] bool same() const {
            // Splines' edges are fitted anew by formats without traces.
            return faces == facesRead && std::abs(area - areaRead) <= 1e-4 * std::max(area, areaRead);
        }
    };
    std::vector<Named> groups;               ///< of faces, where the format names them
    std::vector<Body> bodies;                ///< places, largest first; of a format without places one for all
    double widestTolerance = 0.0;            ///< [mm] that the file claims
    [[nodiscard]] std::string told() const;  ///< "12 bodies read back, volumes to 3e-14": a sentence's part
};
[[nodiscard]] Json toJson(const ExportProof& proof);

/// What was read of a file against what was written to it; see exportFile.
[[nodiscard]] Result<ExportProof> proved(const Model& written, const Model& read, bool hasPlaces, Progress& progress);

/// exchange::writeFile, and before the file takes the place of what was there, it is read by the reader that everybody
/// uses and compared: each body's volume and area to 1e-6, its centre to 1e-6 of the model. Where edges have wide
/// tolerances, the skin beside them is known to those alone, and as much is allowed. A drawing (.dxf) is not read back;
/// its proof has no bodies. Refuses   as writeFile does; and where the two differ, naming the body and the numbers.
/// Nothing is replaced then. Cost: that of writing, reading, and the facts of both.
[[nodiscard]] Result<ExportProof> exportFile(const Model& model, const std::filesystem::path& path,
                                             exchange::WriteOptions options, Progress& progress);

struct ExportWanted {
    std::filesystem::path path;
    std::vector<std::size_t> places;  ///< of the model; what is not among them is left out
    bool each = false;                ///< a file for each part, its name put before the suffix
    bool unproven = false;            ///< written without being read back
    std::string axes;                 ///< name of the coordinate system that it is written in; empty: the model's own
    exchange::WriteOptions options;
};
struct Exported {
    std::filesystem::path path;
    std::string told;  ///< "12 bodies read back and compared, equal to 3e-14", or why not
};

/// Writes what is wanted, one file or one for each part, each proved as in exportFile. A part stands in its own file
/// once, where its first place has it.
/// Refuses   a coordinate system that there is not, naming those there are; and the first file that cannot be written:
///           those before it stay.
[[nodiscard]] Result<std::vector<Exported>> exportAll(const Model& model, const ExportWanted& wanted,
                                                      Progress& progress);

}  // namespace rasoir::handover
