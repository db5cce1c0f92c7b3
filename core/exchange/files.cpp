#include "exchange/files.h"

#include <fmt/format.h>

#include <BRepBuilderAPI_Transform.hxx>
#include <fstream>

#include "common/guard.h"
#include "common/hash.h"
#include "common/safe_file.h"
#include "exchange/brep.h"
#include "exchange/distinct_places.h"
#include "exchange/dxf.h"
#include "exchange/groups.h"
#include "exchange/iges.h"
#include "exchange/step.h"
#include "exchange/work_file.h"
#include "model/lineage_builder.h"

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
    if (!fs::exists(path, error))
        return fail(ProblemKind::Storage, fmt::format("There is no file \"{}\".", path.string()));
    if (fs::is_directory(path, error))
        return fail(ProblemKind::Storage, fmt::format("\"{}\" is a folder, not a file.", name));
    std::ifstream in(path, std::ios::binary);
    if (!in) return fail(ProblemKind::Storage, fmt::format("\"{}\" cannot be read.", name), "Check its permissions.");
    std::string head(4096, '\0');
    in.read(head.data(), static_cast<std::streamsize>(head.size()));
    head.resize(static_cast<std::size_t>(in.gcount()));
    if (head.empty())
        return fail(ProblemKind::BadInput, fmt::format("\"{}\" is empty.", name), "Ask for the file again.");
    if (head.find("ISO-10303-21") != std::string::npos) return FileKind::Step;
    if (head.find("DBRep_DrawableShape") != std::string::npos || head.find("CASCADE Topology V") != std::string::npos)
        return FileKind::Brep;
    if (looksLikeIges(head)) return FileKind::Iges;
    if (looksLikeWorkFile(head)) return FileKind::Work;
    return fail(ProblemKind::BadInput,
                fmt::format("\"{}\" is neither STEP, IGES nor BREP: its contents are something else.", name),
                "Export the geometry as STEP and open that.");
}

Result<Model> readFile(const fs::path& path, const ReadOptions& options, Progress& progress) {
    const auto kind = fileKind(path);
    if (!kind) return tl::unexpected(kind.error());
    if (*kind == FileKind::Work) {
        const auto file = openWork(path, progress);
        if (!file) return tl::unexpected(file.error());
        const auto variant = options.variant.empty() ? Result<std::size_t>(file->work.variant())
                                                     : file->work.variantNamed(options.variant);
        if (!variant) return tl::unexpected(variant.error());
        Model model = file->work.onVariant(*variant).current();
        if (auto hash = sha256Of(path)) model.fileHashes = {std::move(*hash)};
        return model;
    }
    if (!options.variant.empty())
        return fail(ProblemKind::BadInput,
                    fmt::format("\"{}\" has no variants: only our own files do.", path.filename().string()),
                    "Leave the variant out.");
    const std::scoped_lock lock(translatorLock());
    auto model = guarded(fmt::format("Reading \"{}\"", path.filename().string()), [&]() -> Result<Model> {
        auto read = *kind == FileKind::Step   ? readStep(path, options, progress)
                    : *kind == FileKind::Iges ? readIges(path, options, progress)
                                              : readBrep(path, options, progress);
        // What cannot even be measured from end to end is as unreadable as what cannot be parsed.
        if (read) read->targetSize = suggestedTargetSize(*read);
        return read;
    });
    // What the library chokes on while it reads is the file's fault, not ours: it is a file that cannot be read.
    if (!model && model.error().kind == ProblemKind::Internal) model.error().kind = ProblemKind::BadInput;
    if (!model) return model;
    if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Opening was stopped.");
    if (model->name.empty()) {
        model->name = path.stem().string();
        // The one part of a file that names nothing is what the file is of.
        if (model->parts.size() == 1 && model->parts.front()->name == "part") {
            auto named = model->parts.front()->copy();
            named->name = model->name;
            model->parts.front() = std::move(named);
            model->occurrences.changeWhere([](const Occurrence& place) { return place.name == "part"; },
                                           [&model](Occurrence& place) { place.name = model->name; });
            std::erase_if(model->notes, [](const std::string& note) { return note.starts_with("1 part had no name"); });
        }
    }
    if (auto hash = sha256Of(path)) model->fileHashes = {std::move(*hash)};
    const double extent = model->extent();
    if (!std::isfinite(extent) || extent > 1e9)
        return fail(ProblemKind::BadInput,
                    fmt::format("\"{}\" holds coordinates beyond any machine.", path.filename().string()),
                    "Check the file and its unit.");
    if (extent > 1e6)
        model->notes.push_back(fmt::format("It is {} m across: is the unit right?", readable(extent / 1000.0)));
    else if (extent > 0.0 && extent < 0.1)
        model->notes.push_back(fmt::format("It is only {} mm across: is the unit right?", readable(extent)));
    return model;
}

Model asExported(const Model& model) {
    Model out = model;
    out.occurrences.eraseWhere([&model](const Occurrence& o) {
        const Part& part = *model.parts[o.part];
        const auto& regions = part.known.regions;
        const bool isVoid = !regions.empty() && std::all_of(regions.begin(), regions.end(), [](const auto& one) {
            return one.second == RegionKind::Void;
        }) && static_cast<int>(regions.size()) == part.incidence().bodyCount();
        return o.aside || part.lump.has_value() || isVoid;
    });
    out.dropUnusedParts();
    return withDistinctPlaces(std::move(out));
}

Result<void> writeFile(const Model& model, const fs::path& path, const WriteOptions& options, Progress& progress) {
    const std::string suffix = lowerSuffix(path);
    const bool step = suffix == ".step" || suffix == ".stp";
    const bool dxf = suffix == ".dxf";
    if (!step && !dxf && suffix != ".brep" && suffix != ".brp")
        return fail(ProblemKind::BadInput,
                    fmt::format("\"{}\" has no suffix that says how to write it.", path.filename().string()),
                    "Use .step, .stp, .brep, or .dxf for sections.");
    Model out = asExported(model);
    if (out.occurrences.empty())
        return fail(ProblemKind::NotPossible, "There is nothing to write.",
                    model.occurrences.empty() ? "" : "Everything is set aside, void or a lump.");
    if (dxf) return writeDxf(out, path);
    auto written = writeBeside(path, [&](const fs::path& beside) -> Result<void> {
        const std::scoped_lock lock(translatorLock());
        return guarded(fmt::format("Writing \"{}\"", path.filename().string()), [&]() -> Result<void> {
            auto done = step ? writeStep(out, beside, options, progress) : writeBrep(out, beside, progress);
            if (!done || !options.proof) return done;
            ReadOptions asWritten;
            asWritten.unit = step ? options.unit : std::nullopt;
            if (!step) asWritten.unit = Unit::Millimetre;  // what writeBrep writes, and the format does not say
            const auto read = step ? readStep(beside, asWritten, progress) : readBrep(beside, asWritten, progress);
            if (!read) return tl::unexpected(read.error());
            return options.proof(out, *read, step);
        });
    });
    if (!written) return written;
    return writeGroups(out, path, model);
}

void addModel(Model& model, const Model& other, const std::string& group) {
    std::set<std::string> names;
    for (const auto& part : model.parts) names.insert(part->name);
    const std::size_t offset = model.parts.size();
    for (const auto& part : other.parts) {
        std::string unique = part->name;
        for (int i = 2; !names.insert(unique).second; ++i) unique = fmt::format("{} ({})", part->name, i);
        if (unique == part->name) {
            model.parts.push_back(part);
        } else {
            auto renamed = part->copy();
            renamed->name = unique;
            model.parts.push_back(std::move(renamed));
        }
    }
    for (Occurrence occurrence : other.occurrences) {
        occurrence.part += offset;
        if (!group.empty()) occurrence.path.insert(occurrence.path.begin(), group);
        model.occurrences.push_back(std::move(occurrence));
    }
    for (MirrorPair pair : other.mirrors) {
        pair.original += offset;
        pair.image += offset;
        model.mirrors.push_back(std::move(pair));
    }
    model.fileHashes.insert(model.fileHashes.end(), other.fileHashes.begin(), other.fileHashes.end());
    for (const std::string& note : other.notes) model.notes.push_back(group.empty() ? note : group + ": " + note);
    for (const Material& material : other.materials)
        if (findMaterial(model.materials, material.name) == nullptr) model.materials.push_back(material);
}

Result<Model> readFiles(const std::vector<fs::path>& paths, const ReadOptions& options, Progress& progress) {
    if (paths.empty()) return fail(ProblemKind::BadInput, "No file was named.");
    if (paths.size() == 1) return readFile(paths.front(), options, progress);
    Model all;
    std::set<std::string> groups;
    for (std::size_t i = 0; i < paths.size(); ++i) {
        const auto model = readFile(paths[i], options, progress);
        if (!model) return tl::unexpected(model.error());
        std::string group = paths[i].stem().string();
        for (int n = 2; !groups.insert(group).second; ++n) group = fmt::format("{} ({})", paths[i].stem().string(), n);
        addModel(all, *model, group);
        all.unitAssumed = all.unitAssumed || model->unitAssumed;
        if (i == 0)
            all.fileUnit = model->fileUnit;
        else if (all.fileUnit != model->fileUnit)
            all.notes.push_back(fmt::format("{}: in {}, the first file in {}; all was converted.", group,
                                            model->fileUnit ? unitName(*model->fileUnit) : "no unit",
                                            all.fileUnit ? unitName(*all.fileUnit) : "no unit"));
    }
    all.name = fmt::format("{} and {} more", paths.front().stem().string(), paths.size() - 1);
    all.targetSize = suggestedTargetSize(all);
    return all;
}

TopoDS_Shape scaled(const TopoDS_Shape& shape, double factor) {
    gp_Trsf scaling;
    scaling.SetScale(gp_Pnt(0, 0, 0), factor);
    return BRepBuilderAPI_Transform(shape, scaling, true).Shape();
}

std::vector<ParameterInfo> CorrectUnit::infos() {
    return {{"factor", "number", "", "All lengths are multiplied by it: 25.4 when inches were taken for millimetres.",
             1.0}};
}
void to_json(Json& json, const CorrectUnit& step) {
    json = Json{{"factor", step.factor}};
}
void from_json(const Json& json, CorrectUnit& step) {
    step.factor = json.value("factor", 1.0);
}

Result<Outcome> correctUnit(const Model& model, const CorrectUnit& step, Progress& progress) {
    if (!(step.factor >= 1e-6 && step.factor <= 1e6))  // micrometres to metres and back; past that a unit was mistaken
        return fail(ProblemKind::BadInput, "The factor must lie between 0.000001 and 1000000.");
    Outcome outcome;
    outcome.model = model;
    outcome.model.unitAssumed = false;  // now somebody knows it
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        if (progress.cancelled())
            return fail(ProblemKind::Cancelled, "Correcting the unit was stopped; nothing has changed.");
        const Part& part = *model.parts[p];
        PartLineage lineage = sameNumbering(part.incidence(), false);
        lineage.part = p;
        if (!part.shape.IsNull()) {
            gp_Trsf scaling;
            scaling.SetScale(gp::Origin(), step.factor);
            auto changed = part.copy();
            changed->setShape(scaled(part.shape, step.factor));
            changed->known = {};
            changed->meantOpen.clear();
            changed->sharpened.clear();
            changed->standsFor = nullptr;  // it was not scaled
            changed->inherit(part, lineage, scaling);
            if (changed->lump) {  // its mass was told, not computed from lengths
                changed->lump->centre.Transform(scaling);
                for (double& moment : changed->lump->inertia) moment *= step.factor * step.factor;
            }
            outcome.model.parts[p] = std::move(changed);
        }
        outcome.lineage.push_back(std::move(lineage));
        progress.report(static_cast<double>(p + 1) / static_cast<double>(model.parts.size()), "Correcting the unit");
    }
    outcome.model.occurrences.changeAll([&step](Occurrence& place) {
        place.placement.SetTranslationPart(gp_Vec(place.placement.TranslationPart() * step.factor));
    });
    outcome.model.targetSize = model.targetSize * step.factor;
    outcome.summary = fmt::format("Correct the unit by a factor of {}", readable(step.factor));
    return outcome;
}

}  // namespace rasoir::exchange
