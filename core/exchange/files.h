// Files in and out: which kind a file is, reading it into a Model, writing a Model.
#pragma once
#include <filesystem>

#include "common/progress.h"
#include "model/operation.h"

namespace rasoir::exchange {

enum class FileKind { Step, Iges, Brep, Work };

struct ReadOptions {
    std::optional<Unit> unit;  ///< for files that state none; a stated unit wins
    std::string variant = {};  ///< of one of our own files; "": the one in hand
};

/// What the contents say, whatever the suffix. Refuses an empty, missing, unreadable or unknown file with a sentence.
[[nodiscard]] Result<FileKind> fileKind(const std::filesystem::path& path);

/// Reads STEP (AP203, AP214, AP242), IGES, BREP, or the current state of one of our own files. Coordinates become mm.
/// Refuses   with NeedsUnit, when a STEP file states no length unit and the options give none (a BREP file never does:
/// it is
///           taken as mm, with a note in the model); damaged and truncated files; files without geometry; being
///           cancelled.
[[nodiscard]] Result<Model> readFile(const std::filesystem::path& path, const ReadOptions& options, Progress& progress);

/// Several files as one model: each file's parts under a group of its name, names told apart, the same target size for
/// all. One file alone is read as by readFile. Refuses when any of them cannot be read, naming it.
[[nodiscard]] Result<Model> readFiles(const std::vector<std::filesystem::path>& paths, const ReadOptions& options,
                                      Progress& progress);
/// Puts what is in `other` beside what is in `model`, its places under a group of that name. Names already borne get a
/// number.
void addModel(Model& model, const Model& other, const std::string& group);

/// What of a model a file holds: without what is set aside, void, or a lump, and with products of their own for places
/// of which different things are named.
[[nodiscard]] Model asExported(const Model& model);

enum class StepSchema { Ap203, Ap214, Ap242 };

struct WriteOptions {
    std::optional<Unit> unit;  ///< none: the unit the model came in, else mm
    StepSchema schema = StepSchema::Ap214;
    /// Asked with what was written and what is read of it, before the file takes its place; a refusal undoes it.
    /// `hasPlaces`: the format knows bodies apart. Not asked for drawings.
    std::function<Result<void>(const Model& written, const Model& read, bool hasPlaces)> proof = {};
};

/// Writes by the suffix: .step, .stp, .brep, or .dxf (see dxf.h). The file is complete or what was there before is
/// untouched. Groups go into a file beside it (exchange/groups.h). Places that are set aside, and lumps, are left out.
/// BREP carries shapes and places only: no names, colours or units.
[[nodiscard]] Result<void> writeFile(const Model& model, const std::filesystem::path& path, const WriteOptions& options,
                                     Progress& progress);

/// Parameters: what one unit of the numbers in the file really was, when the file said otherwise.
struct CorrectUnit {
    double factor = 1.0;  ///< all lengths are multiplied by it
    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const CorrectUnit& step);
void from_json(const Json& json, CorrectUnit& step);
/// Scales every part and placement by the factor (1e-6 to 1e6).
[[nodiscard]] Result<Outcome> correctUnit(const Model& model, const CorrectUnit& step, Progress& progress);

/// A copy of a shape with all lengths multiplied, tolerances too.
TopoDS_Shape scaled(const TopoDS_Shape& shape, double factor);

}  // namespace rasoir::exchange
