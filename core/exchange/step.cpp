#include "exchange/step.h"

#include <APIHeaderSection_MakeHeader.hxx>
#include <BRep_Builder.hxx>
#include <Interface_Static.hxx>
#include <Message.hxx>
#include <Message_Messenger.hxx>
#include <Quantity_Color.hxx>
#include <STEPCAFControl_Controller.hxx>
#include <STEPCAFControl_Reader.hxx>
#include <STEPCAFControl_Writer.hxx>
#include <STEPControl_Controller.hxx>
#include <StepData_StepModel.hxx>
#include <TCollection_AsciiString.hxx>
#include <TCollection_ExtendedString.hxx>
#include <TCollection_HAsciiString.hxx>
#include <TColStd_SequenceOfAsciiString.hxx>
#include <TDF_LabelSequence.hxx>
#include <TDF_Tool.hxx>
#include <TDataStd_Name.hxx>
#include <TDocStd_Document.hxx>
#include <TopExp_Explorer.hxx>
#include <TopLoc_Location.hxx>
#include <XCAFApp_Application.hxx>
#include <XCAFDoc_ColorTool.hxx>
#include <XCAFDoc_DocumentTool.hxx>
#include <XCAFDoc_ShapeTool.hxx>
#include <XSControl_WorkSession.hxx>
#include <fmt/format.h>

#include <cerrno>
#include <fstream>

#include "exchange/kernel_progress.h"
#include "exchange/step_syntax.h"

namespace rasoir::exchange {

std::mutex& translatorLock() {
    static std::mutex lock;
    // The translators chatter on standard output, where our JSON goes.
    static std::once_flag quiet;
    std::call_once(quiet, [] { Message::DefaultMessenger()->ChangePrinters().Clear(); });
    return lock;
}

namespace {
namespace fs = std::filesystem;

/// A translator's document, closed whatever happens.
class Document {
public:
    Document() { XCAFApp_Application::GetApplication()->NewDocument("MDTV-XCAF", m_document); }
    ~Document() {
        try {
            XCAFApp_Application::GetApplication()->Close(m_document);
        } catch (const Standard_Failure&) {
            // Closing is tidying up; the work is done.
        }
    }
    Document(const Document&) = delete;
    Document& operator=(const Document&) = delete;
    Handle(TDocStd_Document)& get() { return m_document; }

private:
    Handle(TDocStd_Document) m_document;
};

/// What the end of a file says: a STEP file that was cut off has no closing line.
bool isComplete(const fs::path& path) {
    std::ifstream in(path, std::ios::binary | std::ios::ate);
    const std::streamoff size = in.tellg();
    const std::streamoff tail = std::min<std::streamoff>(size, 4096);
    in.seekg(size - tail);
    std::string text(static_cast<std::size_t>(tail), '\0');
    in.read(text.data(), tail);
    return text.find("END-ISO-10303-21") != std::string::npos;
}

std::string labelName(const TDF_Label& label) {
    Handle(TDataStd_Name) attribute;
    if (!label.FindAttribute(TDataStd_Name::GetID(), attribute)) return {};
    const TCollection_ExtendedString& name = attribute->Get();
    std::string text(static_cast<std::size_t>(name.LengthOfCString()) + 1, '\0');
    Standard_PCharacter buffer = text.data();
    text.resize(static_cast<std::size_t>(name.ToUTF8CString(buffer)));
    const auto first = text.find_first_not_of(" \t\r\n");
    if (first == std::string::npos) return {};
    return text.substr(first, text.find_last_not_of(" \t\r\n") - first + 1);
}

std::optional<Colour> labelColour(const Handle(XCAFDoc_ColorTool)& colours, const TDF_Label& label) {
    Quantity_Color colour;
    for (const XCAFDoc_ColorType type : {XCAFDoc_ColorSurf, XCAFDoc_ColorGen})
        if (colours->GetColor(label, type, colour)) return Colour{colour.Red(), colour.Green(), colour.Blue()};
    return std::nullopt;
}

/// Turns the translator's document into parts and occurrences.
class Receiver {
public:
    Receiver(const Handle(TDocStd_Document)& document, Model& model)
        : m_shapes(XCAFDoc_DocumentTool::ShapeTool(document->Main())),
          m_colours(XCAFDoc_DocumentTool::ColorTool(document->Main())),
          m_model(model) {}

    void run() {
        TDF_LabelSequence roots;
        m_shapes->GetFreeShapes(roots);
        if (roots.Length() == 1) m_model.name = labelName(roots.First());
        for (const TDF_Label& root : roots) visit(root, gp_Trsf(), {}, labelName(root), std::nullopt, roots.Length() == 1);
        if (m_renamed > 0) m_model.notes.push_back(counted(m_renamed, "part") + " had no name or a name used twice; they were numbered.");
        if (m_skipped > 0) m_model.notes.push_back(counted(m_skipped, "product") + " without any geometry left out.");
    }

private:
    Handle(XCAFDoc_ShapeTool) m_shapes;
    Handle(XCAFDoc_ColorTool) m_colours;
    Model& m_model;
    std::map<std::string, std::size_t> m_partOf;  // by label entry
    std::set<std::string> m_names;
    std::size_t m_renamed = 0, m_skipped = 0;

    void visit(const TDF_Label& label, const gp_Trsf& placement, const std::vector<std::string>& path, const std::string& name,
               const std::optional<Colour>& colour, bool onlyRoot = false) {
        if (m_shapes->IsAssembly(label)) {
            std::vector<std::string> below = path;
            // A single root assembly is the model itself and carries its name.
            if (!onlyRoot || !path.empty()) below.push_back(name.empty() ? labelName(label) : name);
            TDF_LabelSequence components;
            m_shapes->GetComponents(label, components);
            for (const TDF_Label& component : components) {
                TDF_Label referred;
                if (!m_shapes->GetReferredShape(component, referred)) continue;
                std::string instance = labelName(component);
                if (instance.empty()) instance = labelName(referred);
                const auto own = labelColour(m_colours, component);
                visit(referred, placement * m_shapes->GetLocation(component).Transformation(), below, instance, own ? own : colour);
            }
            return;
        }
        const auto part = partFor(label);
        if (!part) return;
        m_model.occurrences.push_back({*part, placement, name.empty() ? m_model.parts[*part]->name : name, path, colour});
    }

    std::optional<std::size_t> partFor(const TDF_Label& label) {
        TCollection_AsciiString entry;
        TDF_Tool::Entry(label, entry);
        const auto known = m_partOf.find(entry.ToCString());
        if (known != m_partOf.end()) return known->second;
        const TopoDS_Shape shape = m_shapes->GetShape(label);
        if (shape.IsNull() || (!TopExp_Explorer(shape, TopAbs_EDGE).More() && !TopExp_Explorer(shape, TopAbs_FACE).More())) {
            ++m_skipped;
            return std::nullopt;
        }
        std::string name = labelName(label);
        const bool unnamed = name.empty();
        if (unnamed) name = "part";
        std::string unique = name;
        for (int i = 2; !m_names.insert(unique).second; ++i) unique = fmt::format("{} ({})", name, i);
        if (unnamed || unique != name) ++m_renamed;
        auto part = std::make_shared<Part>(unique, shape);
        part->colour = labelColour(m_colours, label);
        TDF_LabelSequence pieces;
        m_shapes->GetSubShapes(label, pieces);
        for (const TDF_Label& piece : pieces) {
            const auto colour = labelColour(m_colours, piece);
            if (!colour) continue;
            const TopoDS_Shape sub = m_shapes->GetShape(piece);
            if (sub.ShapeType() == TopAbs_FACE) {
                if (const int face = part->incidence().faceNumber(sub)) part->faceColours[face] = *colour;
            } else if (sub.ShapeType() < TopAbs_FACE) {
                for (TopExp_Explorer face(sub, TopAbs_FACE); face.More(); face.Next())
                    if (const int number = part->incidence().faceNumber(face.Current())) part->faceColours.try_emplace(number, *colour);
                if (!part->colour) part->colour = colour;
            }
        }
        const std::size_t index = m_model.parts.size();
        m_model.parts.push_back(std::move(part));
        m_partOf[entry.ToCString()] = index;
        return index;
    }
};

std::string stepUnitName(Unit unit) {
    switch (unit) {
        case Unit::Millimetre: return "MM";
        case Unit::Centimetre: return "CM";
        case Unit::Metre: return "M";
        case Unit::Micrometre: return "UM";
        case Unit::Inch: return "INCH";
        case Unit::Foot: return "FT";
    }
    return "MM";
}

void setName(const TDF_Label& label, const std::string& name) {
    TDataStd_Name::Set(label, TCollection_ExtendedString(name.c_str(), true));
}

Quantity_Color kernelColour(const Colour& colour) { return Quantity_Color(colour.red, colour.green, colour.blue, Quantity_TOC_RGB); }

}  // namespace

Result<Model> readStep(const fs::path& path, const ReadOptions& options, Progress& progress) {
    const std::string name = path.filename().string();
    if (auto sound = checkStepSyntax(path); !sound) return tl::unexpected(sound.error());
    progress.report(0.0, "Reading " + name);
    STEPCAFControl_Controller::Init();
    Interface_Static::SetCVal("xstep.cascade.unit", "MM");
    STEPCAFControl_Reader reader;
    reader.SetColorMode(true);
    reader.SetNameMode(true);
    reader.SetLayerMode(false);
    reader.SetPropsMode(false);
    reader.SetGDTMode(false);
    reader.SetMatMode(false);
    reader.SetViewMode(false);
    if (reader.ReadFile(path.c_str()) != IFSelect_RetDone)
        return fail(ProblemKind::BadInput, fmt::format("\"{}\" cannot be understood as STEP.", name), "It may be damaged; ask for it again.");
    if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Opening was stopped.");
    progress.report(0.2, "Translating " + name);

    Model model;
    TColStd_SequenceOfAsciiString lengths, angles, solidAngles;
    reader.ChangeReader().FileUnits(lengths, angles, solidAngles);
    for (const TCollection_AsciiString& length : lengths) {
        const auto unit = unitFromName(length.ToCString());
        if (!unit) {
            if (length.Length() > 0) model.notes.push_back(fmt::format("The file's length unit \"{}\" is unusual; its stated factor was used.", length.ToCString()));
            else continue;
        }
        if (model.fileUnit && unit && *model.fileUnit != *unit) model.notes.push_back("The file mixes length units; each part was converted from its own.");
        if (!model.fileUnit) model.fileUnit = unit.value_or(Unit::Millimetre);
    }
    const bool unitless = !model.fileUnit;
    if (unitless && !options.unit)
        return fail(ProblemKind::NeedsUnit, fmt::format("\"{}\" does not say in which unit its lengths are.", name),
                    "Say it: mm, cm, m, in or ft.");

    Document document;
    const Handle(KernelProgress) watch = new KernelProgress(progress, "Translating " + name, 0.2, 0.95);
    const bool transferred = reader.Transfer(document.get(), watch->Start());
    if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Opening was stopped.");
    if (transferred) Receiver(document.get(), model).run();
    if (model.parts.empty())
        return fail(ProblemKind::BadInput, fmt::format("\"{}\" is a STEP file without any geometry that could be read.", name),
                    "Ask for an export with solids or surfaces.");
    if (unitless) {
        model.fileUnit = options.unit;
        const double factor = millimetresPer(*options.unit);
        if (factor != 1.0) {
            auto corrected = correctUnit(model, CorrectUnit{factor}, progress);
            if (!corrected) return tl::unexpected(corrected.error());
            model = std::move(corrected->model);
        }
        model.notes.push_back(fmt::format("The file states no unit; it was read as {}.", unitName(*options.unit)));
    }
    progress.report(1.0, "Read " + name);
    return model;
}

Result<void> writeStep(const Model& model, const fs::path& path, const WriteOptions& options, Progress& progress) {
    STEPCAFControl_Controller::Init();
    const Unit unit = options.unit.value_or(model.fileUnit.value_or(Unit::Millimetre));
    Interface_Static::SetCVal("xstep.cascade.unit", "MM");
    Interface_Static::SetCVal("write.step.unit", stepUnitName(unit).c_str());
    Interface_Static::SetCVal("write.step.schema", options.schema == StepSchema::Ap203   ? "AP203"
                                                   : options.schema == StepSchema::Ap242 ? "AP242DIS"
                                                                                         : "AP214IS");
    Interface_Static::SetIVal("write.surfacecurve.mode", 1);
    Interface_Static::SetCVal("write.step.product.name", model.name.empty() ? "model" : model.name.c_str());
    Document document;
    const Handle(XCAFDoc_ShapeTool) shapes = XCAFDoc_DocumentTool::ShapeTool(document.get()->Main());
    const Handle(XCAFDoc_ColorTool) colours = XCAFDoc_DocumentTool::ColorTool(document.get()->Main());
    std::vector<TDF_Label> partLabels;
    for (const auto& part : model.parts) {
        TDF_Label label;
        if (!part->shape.IsNull()) {
            label = shapes->AddShape(part->shape, false);
            setName(label, part->name);
            if (part->colour) colours->SetColor(label, kernelColour(*part->colour), XCAFDoc_ColorSurf);
            for (const auto& [face, colour] : part->faceColours) {
                if (part->colour && colour == *part->colour) continue;
                const TDF_Label piece = shapes->AddSubShape(label, part->incidence().face(face));
                if (!piece.IsNull()) colours->SetColor(piece, kernelColour(colour), XCAFDoc_ColorSurf);
            }
        }
        partLabels.push_back(label);
    }
    const bool single = model.occurrences.size() == 1 && model.occurrences[0].path.empty() &&
                        model.occurrences[0].placement.Form() == gp_Identity;
    if (!single) {
        const TDF_Label root = shapes->NewShape();
        setName(root, model.name.empty() ? "model" : model.name);
        std::map<std::vector<std::string>, TDF_Label> assemblies{{{}, root}};
        const std::function<TDF_Label(const std::vector<std::string>&)> assemblyFor = [&](const std::vector<std::string>& way) {
            const auto known = assemblies.find(way);
            if (known != assemblies.end()) return known->second;
            const TDF_Label above = assemblyFor({way.begin(), way.end() - 1});
            const TDF_Label own = shapes->NewShape();
            setName(own, way.back());
            setName(shapes->AddComponent(above, own, TopLoc_Location()), way.back());
            assemblies.emplace(way, own);
            return own;
        };
        for (const Occurrence& occurrence : model.occurrences) {
            if (partLabels[occurrence.part].IsNull()) continue;
            const TDF_Label component = shapes->AddComponent(assemblyFor(occurrence.path), partLabels[occurrence.part],
                                                             TopLoc_Location(occurrence.placement));
            setName(component, occurrence.name);
            if (occurrence.colour) colours->SetColor(component, kernelColour(*occurrence.colour), XCAFDoc_ColorSurf);
        }
        shapes->UpdateAssemblies();
    }
    STEPCAFControl_Writer writer;
    writer.SetColorMode(true);
    writer.SetNameMode(true);
    const Handle(KernelProgress) watch = new KernelProgress(progress, "Writing", 0.0, 0.8);
    if (!writer.Transfer(document.get(), STEPControl_AsIs, nullptr, watch->Start()))
        return fail(progress.cancelled() ? ProblemKind::Cancelled : ProblemKind::Internal,
                    progress.cancelled() ? "Writing was stopped." : "The model could not be translated to STEP.");
    APIHeaderSection_MakeHeader header(writer.ChangeWriter().Model());
    header.SetOriginatingSystem(new TCollection_HAsciiString("Rasoir"));
    header.SetName(new TCollection_HAsciiString(model.name.c_str()));
    errno = 0;
    if (writer.Write(path.c_str()) != IFSelect_RetDone || !isComplete(path)) {
        const int reason = errno;
        std::error_code error;
        if (fs::space(path.parent_path().empty() ? "." : path.parent_path(), error).available < 4096 && !error) errno = ENOSPC;
        else errno = reason;
        return fail(ProblemKind::Storage, "the disk did not take it");
    }
    progress.report(1.0, "Written");
    return {};
}

}  // namespace rasoir::exchange
