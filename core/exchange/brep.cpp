#include "exchange/brep.h"

#include <fmt/format.h>

#include <BRep_Builder.hxx>
#include <BRepTools.hxx>
#include <cerrno>
#include <fstream>
#include <TopExp_Explorer.hxx>
#include <TopoDS_Compound.hxx>
#include <TopoDS_Iterator.hxx>

#include "common/safe_file.h"
#include "exchange/kernel_progress.h"

namespace rasoir::exchange {

std::optional<TopoDS_Shape> readBrepShape(std::istream& in, const Message_ProgressRange& range) {
    TopoDS_Shape shape;
    // On damaged counts the kernel's reader goes on and on over a stream that has failed; a stream that throws stops
    // it.
    try {
        in.imbue(std::locale::classic());
        in.exceptions(std::ios::failbit | std::ios::badbit);
        BRepTools::Read(shape, in, BRep_Builder(), range);
    } catch (const std::ios_base::failure&) {
        return std::nullopt;
    }
    return shape.IsNull() ? std::nullopt : std::optional(shape);
}

Result<Model> readBrep(const std::filesystem::path& path, const ReadOptions& options, Progress& progress) {
    const std::string name = path.filename().string();
    const Handle(KernelProgress) watch = new KernelProgress(progress, "Reading " + name, 0.0, 0.95);
    std::ifstream in(path, std::ios::binary);
    const auto read = readBrepShape(in, watch->Start());
    if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Opening was stopped.");
    if (!read)
        return fail(ProblemKind::BadInput, fmt::format("\"{}\" cannot be understood as BREP.", name),
                    "It may be damaged; ask for it again.");
    TopoDS_Shape shape = *read;
    if (!TopExp_Explorer(shape, TopAbs_EDGE).More() && !TopExp_Explorer(shape, TopAbs_FACE).More())
        return fail(ProblemKind::BadInput, fmt::format("\"{}\" holds no geometry.", name));
    Model model;
    const Unit unit = options.unit.value_or(Unit::Millimetre);
    if (unit != Unit::Millimetre) shape = scaled(shape, millimetresPer(unit));
    model.unitAssumed = true;
    model.notes.push_back(fmt::format("BREP files state no unit; it was read as {}.", unitName(unit)));
    const std::string stem = path.stem().string();
    const auto add = [&model](const std::string& partName, const TopoDS_Shape& body) {
        model.occurrences.push_back({model.parts.size(), gp_Trsf(), partName, {}, std::nullopt});
        model.parts.push_back(std::make_shared<Part>(partName, body));
    };
    // Each solid of a loose bag is a part; whatever else lies in it stays together.
    std::vector<TopoDS_Shape> solids;
    TopoDS_Compound rest;
    const BRep_Builder builder;
    builder.MakeCompound(rest);
    bool anyRest = false;
    if (shape.ShapeType() == TopAbs_COMPOUND) {
        for (TopoDS_Iterator it(shape); it.More(); it.Next()) {
            if (it.Value().ShapeType() == TopAbs_SOLID) {
                solids.push_back(it.Value());
            } else {
                builder.Add(rest, it.Value());
                anyRest = true;
            }
        }
    }
    if (solids.size() + (anyRest ? 1u : 0u) <= 1) {
        add(stem, shape);
    } else {
        for (std::size_t i = 0; i < solids.size(); ++i) add(fmt::format("{} {}", stem, i + 1), solids[i]);
        if (anyRest) add(stem + " rest", rest);
    }
    progress.report(1.0, "Read " + name);
    return model;
}

Result<void> writeBrep(const Model& model, const std::filesystem::path& path, Progress& progress) {
    TopoDS_Compound all;
    const BRep_Builder builder;
    builder.MakeCompound(all);
    for (const Occurrence& occurrence : model.occurrences) {
        const TopoDS_Shape& shape = model.parts[occurrence.part]->shape;
        if (!shape.IsNull()) builder.Add(all, shape.Moved(TopLoc_Location(occurrence.placement)));
    }
    const Handle(KernelProgress) watch = new KernelProgress(progress, "Writing", 0.0, 1.0);
    errno = 0;
    std::ofstream out(path, std::ios::binary | std::ios::trunc);
    BRepTools::Write(all, out, false, false, TopTools_FormatVersion_CURRENT, watch->Start());
    out.flush();
    if (!out) return fail(ProblemKind::Storage, "the disk did not take it");
    if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Writing was stopped.");
    return {};
}

}  // namespace rasoir::exchange
