#include "exchange/iges.h"

#include <fmt/format.h>

#include <array>
#include <BRep_Builder.hxx>
#include <fstream>
#include <IGESCAFControl_Reader.hxx>
#include <IGESControl_Controller.hxx>
#include <IGESData_BasicEditor.hxx>
#include <IGESData_GlobalSection.hxx>
#include <IGESData_IGESModel.hxx>
#include <Interface_Static.hxx>
#include <TCollection_HAsciiString.hxx>
#include <TopoDS_Compound.hxx>
#include <TopoDS_Iterator.hxx>

#include "exchange/kernel_progress.h"

namespace rasoir::exchange {
namespace {
namespace fs = std::filesystem;

/// The letters in column 73 count the lines of each section, and the last line repeats the counts: a file that was cut
/// short or lost a section is known before the translator sees it. Source: the IGES 5.3 standard, ch. 2.2.
Result<void> checkIgesSections(const fs::path& path) {
    const std::string name = path.filename().string();
    std::ifstream in(path, std::ios::binary);
    std::map<char, long> lines;
    std::string line, order;
    std::array<long, 4> told{-1, -1, -1, -1};
    long number = 0;
    while (std::getline(in, line)) {
        ++number;
        while (!line.empty() && (line.back() == '\r' || line.back() == '\n')) line.pop_back();
        if (line.empty()) continue;
        if (line.size() < 73)
            return fail(ProblemKind::BadInput,
                        fmt::format("\"{}\" is damaged: line {} is too short for IGES.", name, number),
                        "Ask for the file again.");
        const char letter = line[72];
        if (std::string("SGDPT").find(letter) == std::string::npos)
            return fail(ProblemKind::BadInput,
                        fmt::format("\"{}\" is damaged: line {} belongs to no section.", name, number),
                        "Ask for the file again.");
        if (order.empty() || order.back() != letter) order += letter;
        ++lines[letter];
        if (letter == 'T') {
            const std::string sections = "SGDP";
            for (std::size_t i = 0; i < 4; ++i) {
                const std::string field = line.substr(8 * i, 8);
                if (field[0] == sections[i]) told[i] = std::atol(field.c_str() + 1);
            }
        }
    }
    for (const char letter : std::string("SGDPT"))
        if (lines[letter] == 0) {
            const char* what = letter == 'S'   ? "start"
                               : letter == 'G' ? "global"
                               : letter == 'D' ? "directory"
                               : letter == 'P' ? "parameter"
                                               : "closing";
            return fail(ProblemKind::BadInput,
                        fmt::format("\"{}\" is incomplete: its {} section is missing.", name, what),
                        "Ask for the file again.");
        }
    if (order != "SGDPT")
        return fail(ProblemKind::BadInput, fmt::format("\"{}\" is damaged: its sections are out of order.", name),
                    "Ask for the file again.");
    for (std::size_t i = 0; i < 4; ++i)
        if (told[i] >= 0 && told[i] != lines["SGDP"[i]])
            return fail(ProblemKind::BadInput,
                        fmt::format("\"{}\" is incomplete: it should have {} lines of section {} and has {}.", name,
                                    told[i], "SGDP"[i], lines["SGDP"[i]]),
                        "Ask for the file again.");
    return {};
}

bool hasUnit(const IGESData_GlobalSection& global) {
    const int flag = global.UnitFlag();
    if (flag != 3) return flag >= 1 && flag <= 11;
    return !global.UnitName().IsNull() && global.UnitName()->Length() > 0;
}

std::optional<Unit> unitOf(const IGESData_GlobalSection& global) {
    switch (global.UnitFlag()) {
        case 1:
            return Unit::Inch;
        case 2:
            return Unit::Millimetre;
        case 4:
            return Unit::Foot;
        case 6:
            return Unit::Metre;
        case 9:
            return Unit::Micrometre;
        case 10:
            return Unit::Centimetre;
        case 3:
            return global.UnitName().IsNull() ? std::nullopt : unitFromName(global.UnitName()->ToCString());
        default:
            return std::nullopt;
    }
}

/// Loose faces of all parts that are nothing else go into one part: a bag for Mend, not hundreds of rows.
void gatherLooseFaces(Model& model, const std::string& name) {
    std::vector<std::shared_ptr<const Part>> kept;
    SharedVector<Occurrence> places;
    TopoDS_Compound bag;
    const BRep_Builder builder;
    builder.MakeCompound(bag);
    std::vector<std::pair<TopoDS_Shape, Colour>> colours;
    std::size_t loose = 0;
    std::vector<std::optional<std::size_t>> place(model.parts.size());
    for (const Occurrence& occurrence : model.occurrences) {
        const auto& part = model.parts[occurrence.part];
        if (TopExp_Explorer(part->shape, TopAbs_SHELL).More() || !TopExp_Explorer(part->shape, TopAbs_FACE).More()) {
            if (!place[occurrence.part]) {
                place[occurrence.part] = kept.size();
                kept.push_back(part);
            }
            places.push_back(occurrence);
            places.changeLast().part = *place[occurrence.part];
            continue;
        }
        for (int f = 1; f <= part->incidence().faceCount(); ++f, ++loose) {
            const TopoDS_Shape face = part->incidence().face(f).Moved(TopLoc_Location(occurrence.placement));
            builder.Add(bag, face);
            if (const auto own = part->colourOf(f))
                colours.emplace_back(face, *own);
            else if (part->colour)
                colours.emplace_back(face, *part->colour);
        }
    }
    if (loose == 0) return;
    auto part = std::make_shared<Part>(name, bag);
    for (const auto& [face, colour] : colours)
        if (const int number = part->incidence().faceNumber(face))
            part->known.colours[{EntityKind::Face, number}] = colour;
    places.push_back({kept.size(), gp_Trsf(), name, {}, std::nullopt});
    kept.push_back(std::move(part));
    model.parts = std::move(kept);
    model.occurrences = std::move(places);
}

}  // namespace

bool looksLikeIges(const std::string& head) {
    const std::size_t end = head.find_first_of("\r\n");
    const std::string line = head.substr(0, end);
    return line.size() >= 73 && line.size() <= 81 && line[72] == 'S';
}

Result<Model> readIges(const fs::path& path, const ReadOptions& options, Progress& progress) {
    const std::string name = path.filename().string();
    if (auto sound = checkIgesSections(path); !sound) return tl::unexpected(sound.error());
    progress.report(0.0, "Reading " + name);
    IGESControl_Controller::Init();
    Interface_Static::SetCVal("xstep.cascade.unit", "MM");
    // A sequence of this name holds no operators: nothing is healed behind our back.
    Interface_Static::SetCVal("read.iges.sequence", "none");
    Interface_Static::SetIVal("read.surfacecurve.mode", 0);
    IGESCAFControl_Reader reader;
    reader.SetColorMode(true);
    reader.SetNameMode(true);
    reader.SetLayerMode(true);
    if (reader.ReadFile(path.c_str()) != IFSelect_RetDone)
        return fail(ProblemKind::BadInput, fmt::format("\"{}\" cannot be understood as IGES.", name),
                    "It may be damaged; ask for it again, or for STEP.");
    if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Opening was stopped.");
    const Handle(IGESData_IGESModel) file = Handle(IGESData_IGESModel)::DownCast(reader.Model());
    if (file.IsNull())
        return fail(ProblemKind::BadInput, fmt::format("\"{}\" cannot be understood as IGES.", name), "Ask for STEP.");
    Model model;
    const bool unitless = !hasUnit(file->GlobalSection());
    if (unitless && !options.unit)
        return fail(ProblemKind::NeedsUnit, fmt::format("\"{}\" does not say in which unit its lengths are.", name),
                    "Say it: mm, cm, m, in or ft.");
    model.fileUnit = unitless ? options.unit : unitOf(file->GlobalSection());
    if (unitless) {
        IGESData_GlobalSection global = file->GlobalSection();
        const Unit unit = *options.unit;
        const int flag = unit == Unit::Inch         ? 1
                         : unit == Unit::Millimetre ? 2
                         : unit == Unit::Foot       ? 4
                         : unit == Unit::Metre      ? 6
                         : unit == Unit::Micrometre ? 9
                                                    : 10;
        global.SetUnitFlag(flag);
        file->SetGlobalSection(global);
        model.unitAssumed = true;
        model.notes.push_back(fmt::format("The file states no unit; it was read as {}.", unitName(unit)));
    } else if (!model.fileUnit) {
        model.fileUnit = Unit::Millimetre;
        model.notes.push_back("The file's length unit is unusual; its stated factor was used.");
    }
    Document document;
    const Handle(KernelProgress) watch = new KernelProgress(progress, "Translating " + name, 0.2, 0.95);
    const bool transferred = reader.Transfer(document.get(), watch->Start());
    if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Opening was stopped.");
    if (transferred) receiveAssembly(document.get(), model);
    const std::string stem = path.stem().string();
    gatherLooseFaces(model, stem);
    if (model.parts.empty())
        return fail(ProblemKind::BadInput,
                    fmt::format("\"{}\" is an IGES file without any geometry that could be read.", name),
                    "Ask for an export with surfaces.");
    if (!file->GlobalSection().FileName().IsNull() && model.name.empty()) model.name = stem;
    progress.report(1.0, "Read " + name);
    return model;
}

}  // namespace rasoir::exchange
