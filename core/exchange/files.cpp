#include "exchange/files.h"

#include <BRepBuilderAPI_Transform.hxx>
#include <fmt/format.h>

#include <fstream>

#include "common/guard.h"
#include "common/safe_file.h"
#include "exchange/brep.h"
#include "exchange/step.h"

namespace rasoir::exchange {
namespace fs = std::filesystem;

namespace {

std::string lowerSuffix(const fs::path& path) {
    std::string suffix = path.extension().string();
    for (char& c : suffix) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    return suffix;
}

}  // namespace

Result<FileKind> fileKind(const fs::path& path) {
    std::error_code error;
    const std::string name = path.filename().string();
    if (!fs::exists(path, error)) return fail(ProblemKind::Storage, fmt::format("There is no file \"{}\".", path.string()));
    if (fs::is_directory(path, error)) return fail(ProblemKind::Storage, fmt::format("\"{}\" is a folder, not a file.", name));
    std::ifstream in(path, std::ios::binary);
    if (!in) return fail(ProblemKind::Storage, fmt::format("\"{}\" cannot be read.", name), "Check its permissions.");
    std::string head(4096, '\0');
    in.read(head.data(), static_cast<std::streamsize>(head.size()));
    head.resize(static_cast<std::size_t>(in.gcount()));
    if (head.empty()) return fail(ProblemKind::BadInput, fmt::format("\"{}\" is empty.", name), "Ask for the file again.");
    if (head.find("ISO-10303-21") != std::string::npos) return FileKind::Step;
    if (head.find("DBRep_DrawableShape") != std::string::npos || head.find("CASCADE Topology V") != std::string::npos)
        return FileKind::Brep;
    if (head.size() > 73 && head[72] == 'S' && head.find("S      1") != std::string::npos)
        return fail(ProblemKind::BadInput, fmt::format("\"{}\" is an IGES file, which cannot be read yet.", name), "Ask for a STEP file.");
    return fail(ProblemKind::BadInput, fmt::format("\"{}\" is neither STEP nor BREP: its contents are something else.", name),
                "Export the geometry as STEP and open that.");
}

Result<Model> readFile(const fs::path& path, const ReadOptions& options, Progress& progress) {
    const auto kind = fileKind(path);
    if (!kind) return tl::unexpected(kind.error());
    const std::scoped_lock lock(translatorLock());
    auto model = guarded(fmt::format("Reading \"{}\"", path.filename().string()), [&]() -> Result<Model> {
        return *kind == FileKind::Step ? readStep(path, options, progress) : readBrep(path, options, progress);
    });
    if (!model) return model;
    if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Opening was stopped.");
    if (model->name.empty()) model->name = path.stem().string();
    model->targetSize = suggestedTargetSize(*model);
    const double extent = model->extent();
    if (!std::isfinite(extent) || extent > 1e9)
        return fail(ProblemKind::BadInput, fmt::format("\"{}\" holds coordinates beyond any machine.", path.filename().string()),
                    "Check the file and its unit.");
    if (extent > 1e6) model->notes.push_back(fmt::format("It is {} m across: is the unit right?", readable(extent / 1000.0)));
    else if (extent > 0.0 && extent < 0.1) model->notes.push_back(fmt::format("It is only {} mm across: is the unit right?", readable(extent)));
    return model;
}

Result<void> writeFile(const Model& model, const fs::path& path, const WriteOptions& options, Progress& progress) {
    const std::string suffix = lowerSuffix(path);
    const bool step = suffix == ".step" || suffix == ".stp";
    if (!step && suffix != ".brep" && suffix != ".brp")
        return fail(ProblemKind::BadInput, fmt::format("\"{}\" has no suffix that says how to write it.", path.filename().string()),
                    "Use .step, .stp or .brep.");
    if (model.occurrences.empty()) return fail(ProblemKind::NotPossible, "There is nothing to write.");
    return writeBeside(path, [&](const fs::path& beside) -> Result<void> {
        const std::scoped_lock lock(translatorLock());
        return guarded(fmt::format("Writing \"{}\"", path.filename().string()), [&]() -> Result<void> {
            return step ? writeStep(model, beside, options, progress) : writeBrep(model, beside, progress);
        });
    });
}

TopoDS_Shape scaled(const TopoDS_Shape& shape, double factor) {
    gp_Trsf scaling;
    scaling.SetScale(gp_Pnt(0, 0, 0), factor);
    return BRepBuilderAPI_Transform(shape, scaling, true).Shape();
}

std::vector<ParameterInfo> CorrectUnit::infos() {
    return {{"factor", "number", "", "All lengths are multiplied by it: 25.4 when inches were taken for millimetres.", 1.0}};
}
void to_json(Json& json, const CorrectUnit& step) { json = Json{{"factor", step.factor}}; }
void from_json(const Json& json, CorrectUnit& step) { step.factor = json.value("factor", 1.0); }

Result<Outcome> correctUnit(const Model& model, const CorrectUnit& step, Progress& progress) {
    if (!(step.factor >= 1e-6 && step.factor <= 1e6))
        return fail(ProblemKind::BadInput, "The factor must lie between 0.000001 and 1000000.");
    Outcome outcome;
    outcome.model = model;
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Correcting the unit was stopped; nothing has changed.");
        const Part& part = *model.parts[p];
        PartLineage lineage;
        lineage.part = p;
        if (!part.shape.IsNull()) {
            const TopoDS_Shape changed = scaled(part.shape, step.factor);
            for (int f = 1; f <= part.incidence().faceCount(); ++f) lineage.faces.push_back({Descent::Changed, f, f});
            for (int e = 1; e <= part.incidence().edgeCount(); ++e) lineage.edges.push_back({Descent::Changed, e, e});
            outcome.model.parts[p] = part.withShape(changed, lineage);
        }
        outcome.lineage.push_back(std::move(lineage));
        progress.report(static_cast<double>(p + 1) / static_cast<double>(model.parts.size()), "Correcting the unit");
    }
    for (Occurrence& occurrence : outcome.model.occurrences)
        occurrence.placement.SetTranslationPart(gp_Vec(occurrence.placement.TranslationPart() * step.factor));
    outcome.model.targetSize = model.targetSize * step.factor;
    outcome.summary = fmt::format("Correct the unit by a factor of {}", readable(step.factor));
    return outcome;
}

}  // namespace rasoir::exchange
