#include "exchange/step.h"

#include <fmt/format.h>

#include <APIHeaderSection_MakeHeader.hxx>
#include <BRep_Builder.hxx>
#include <BRepBuilderAPI_Copy.hxx>
#include <BRepBuilderAPI_Transform.hxx>
#include <cerrno>
#include <fstream>
#include <Interface_Static.hxx>
#include <Quantity_Color.hxx>
#include <StepBasic_DerivedUnit.hxx>
#include <StepBasic_DerivedUnitElement.hxx>
#include <StepBasic_MeasureWithUnit.hxx>
#include <StepBasic_NamedUnit.hxx>
#include <StepBasic_SiUnitAndMassUnit.hxx>
#include <STEPCAFControl_Controller.hxx>
#include <STEPCAFControl_Reader.hxx>
#include <STEPCAFControl_Writer.hxx>
#include <STEPControl_Controller.hxx>
#include <StepData_StepModel.hxx>
#include <StepRepr_MeasureRepresentationItem.hxx>
#include <TCollection_ExtendedString.hxx>
#include <TCollection_HAsciiString.hxx>
#include <TColStd_SequenceOfAsciiString.hxx>
#include <TDataStd_Name.hxx>
#include <TDocStd_Document.hxx>
#include <TopLoc_Location.hxx>
#include <TopoDS_Iterator.hxx>
#include <XCAFDoc_Area.hxx>
#include <XCAFDoc_ColorTool.hxx>
#include <XCAFDoc_DocumentTool.hxx>
#include <XCAFDoc_LayerTool.hxx>
#include <XCAFDoc_MaterialTool.hxx>
#include <XCAFDoc_ShapeTool.hxx>
#include <XCAFDoc_Volume.hxx>
#include <XSControl_TransferWriter.hxx>
#include <XSControl_WorkSession.hxx>

#include "exchange/assembly.h"
#include "exchange/distinct_places.h"
#include "exchange/kernel_progress.h"
#include "exchange/step_aspects.h"
#include "exchange/step_points.h"
#include "exchange/step_syntax.h"
#include "geometry/integrals.h"

namespace rasoir::exchange {

namespace {
namespace fs = std::filesystem;

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

std::string stepUnitName(Unit unit) {
    switch (unit) {
        case Unit::Millimetre:
            return "MM";
        case Unit::Centimetre:
            return "CM";
        case Unit::Metre:
            return "M";
        case Unit::Micrometre:
            return "UM";
        case Unit::Inch:
            return "INCH";
        case Unit::Foot:
            return "FT";
    }
    return "MM";
}

void setName(const TDF_Label& label, const std::string& name) {
    TDataStd_Name::Set(label, TCollection_ExtendedString(name.c_str(), true));
}

/// Parts as the document shall know them. It knows a shape by its identity: one that two parts have in common (copies
/// apart, bodies joined with each other) would be named and coloured for one of them alone. The later part gets
/// identities of its own down to its vertices then, on the same curves and surfaces and numbered alike. A shape that
/// was shifted as a whole would become a reference to another product, of which faces cannot be named: it is moved
/// itself.
class Given {
public:
    TopoDS_Shape of(const Part& part) {
        if (isPoints(part.shape)) return standInFor(part.shape);
        TopoDS_Shape shape = part.shape;
        if (const TopLoc_Location by = shape.Location(); !by.IsIdentity())
            shape = BRepBuilderAPI_Transform(shape.Located(TopLoc_Location()), by.Transformation(), true).Shape();
        else if (isKnown(part))
            shape = BRepBuilderAPI_Copy(part.shape, false, false).Shape();
        remember(part);
        return shape;
    }

private:
    std::set<const TopoDS_TShape*> m_known;

    [[nodiscard]] bool isKnown(const Part& part) const {
        if (m_known.contains(part.shape.TShape().get())) return true;
        for (int f = 1; f <= part.incidence().faceCount(); ++f)
            if (m_known.contains(part.incidence().face(f).TShape().get())) return true;
        for (int e = 1; e <= part.incidence().edgeCount(); ++e)
            if (m_known.contains(part.incidence().edge(e).TShape().get())) return true;
        return false;
    }
    void remember(const Part& part) {
        m_known.insert(part.shape.TShape().get());
        for (int f = 1; f <= part.incidence().faceCount(); ++f) m_known.insert(part.incidence().face(f).TShape().get());
        for (int e = 1; e <= part.incidence().edgeCount(); ++e) m_known.insert(part.incidence().edge(e).TShape().get());
    }
};

Quantity_Color kernelColour(const Colour& colour) {
    return Quantity_Color(colour.red, colour.green, colour.blue, Quantity_TOC_RGB);
}

/// The translator writes densities in g^3 cm^2, which is the unit of nothing; what it means is g/cm^3.
void mendDensityUnits(const Handle(StepData_StepModel) & step) {
    for (int i = 1; i <= step->NbEntities(); ++i) {
        const auto item = Handle(StepRepr_MeasureRepresentationItem)::DownCast(step->Entity(i));
        if (item.IsNull() || item->Name().IsNull() || item->Name()->String() != "density measure") continue;
        const Handle(StepBasic_DerivedUnit) unit = item->Measure()->UnitComponent().DerivedUnit();
        if (unit.IsNull()) continue;
        for (int e = 1; e <= unit->NbElements(); ++e) {
            const Handle(StepBasic_DerivedUnitElement) element = unit->ElementsValue(e);
            element->SetExponent(element->Unit()->IsKind(STANDARD_TYPE(StepBasic_SiUnitAndMassUnit)) ? 1.0 : -3.0);
        }
    }
}

/// Volume and area, by which a reader can see whether it understood the geometry as it was meant.
void setValidation(const TDF_Label& label, const Part& part) {
    const double area = areaOf(part.shape);
    if (area > 0.0) XCAFDoc_Area::Set(label, area);
    if (part.kind() == BodyKind::Solid) XCAFDoc_Volume::Set(label, volumeOf(part.shape));
}

/// Groups that are layers go back onto layers: bodies and faces, which is what a layer holds elsewhere.
void setLayers(const Handle(XCAFDoc_LayerTool) & layers, const Handle(XCAFDoc_ShapeTool) & shapes,
               const TDF_Label& label, const Model& model, const Part& part, const Incidence& topology) {
    for (const Group& group : model.groups) {
        if (group.purpose != "layer") continue;
        for (const Member& member : group.members) {
            if (member.part != part.id) continue;
            TDF_Label piece = label;
            if (member.entity.kind == EntityKind::Face)
                piece = shapes->AddSubShape(label, topology.face(member.entity.number));
            else if (member.entity.kind != EntityKind::Body)
                continue;
            else if (topology.bodyCount() > 1)
                piece = shapes->AddSubShape(label, topology.body(member.entity.number));
            if (!piece.IsNull()) layers->SetLayer(piece, TCollection_ExtendedString(group.name.c_str(), true));
        }
    }
}

/// What a face is called in the file: its own name, the groups it is in, and what it is joined as, one behind the
/// other.
std::map<int, std::string> faceNames(const Model& model, const Part& part) {
    std::map<int, std::string> names;
    const auto call = [&](int face, const std::string& name) {
        std::string& all = names[face];
        all += (all.empty() ? "" : "; ") + name;
    };
    for (const auto& [thing, name] : part.known.names)
        if (thing.kind == EntityKind::Face) call(thing.number, name);
    for (const Group& group : model.groups)
        for (const Member& member : group.members) {
            if (group.purpose == "layer" || member.part != part.id || member.entity.kind != EntityKind::Face) continue;
            // What arrived as a group by the face's own name is not said twice.
            const auto own = part.known.names.find(member.entity);
            if (own == part.known.names.end() ||
                ("; " + own->second + "; ").find("; " + group.name + "; ") == std::string::npos)
                call(member.entity.number, group.name);
        }
    return names;
}

}  // namespace

Result<Model> readStep(const fs::path& path, const ReadOptions& options, Progress& progress) {
    const std::string name = path.filename().string();
    const auto utf8 = checkStepSyntax(path);
    if (!utf8) return tl::unexpected(utf8.error());
    progress.report(0.0, "Reading " + name);
    STEPCAFControl_Controller::Init();
    Interface_Static::SetIVal("read.stepcaf.subshapes.name", 1);
    Interface_Static::SetCVal("xstep.cascade.unit", "MM");
    Interface_Static::SetCVal("read.step.codepage", *utf8 ? "UTF8" : "iso8859-1");
    STEPCAFControl_Reader reader;
    reader.SetColorMode(true);
    reader.SetNameMode(true);
    reader.SetLayerMode(true);
    reader.SetPropsMode(false);
    reader.SetGDTMode(false);
    reader.SetMatMode(true);
    reader.SetViewMode(false);
    if (reader.ReadFile(path.c_str()) != IFSelect_RetDone)
        return fail(ProblemKind::BadInput, fmt::format("\"{}\" cannot be understood as STEP.", name),
                    "It may be damaged; ask for it again.");
    if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Opening was stopped.");
    progress.report(0.2, "Translating " + name);

    Model model;
    TColStd_SequenceOfAsciiString lengths, angles, solidAngles;
    reader.ChangeReader().FileUnits(lengths, angles, solidAngles);
    for (const TCollection_AsciiString& length : lengths) {
        const auto unit = unitFromName(length.ToCString());
        if (!unit) {
            if (length.Length() > 0)
                model.notes.push_back(fmt::format(
                    "The file's length unit \"{}\" is unusual; its stated factor was used.", length.ToCString()));
            else
                continue;
        }
        if (model.fileUnit && unit && *model.fileUnit != *unit)
            model.notes.push_back("The file mixes length units; each part was converted from its own.");
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
    if (transferred) receiveAssembly(document.get(), model);
    if (model.parts.empty())
        return fail(ProblemKind::BadInput,
                    fmt::format("\"{}\" is a STEP file without any geometry that could be read.", name),
                    "Ask for an export with solids or surfaces.");
    if (unitless) {
        model.fileUnit = options.unit;
        const double factor = millimetresPer(*options.unit);
        if (factor != 1.0) {
            auto corrected = correctUnit(model, CorrectUnit{factor}, progress);
            if (!corrected) return tl::unexpected(corrected.error());
            model = std::move(corrected->model);
        }
        model.unitAssumed = true;
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
    Interface_Static::SetIVal("write.stepcaf.subshapes.name", 1);
    Interface_Static::SetCVal("write.step.product.name", model.name.empty() ? "model" : model.name.c_str());
    Document document;
    const Handle(XCAFDoc_ShapeTool) shapes = XCAFDoc_DocumentTool::ShapeTool(document.get()->Main());
    const Handle(XCAFDoc_ColorTool) colours = XCAFDoc_DocumentTool::ColorTool(document.get()->Main());
    const Handle(XCAFDoc_MaterialTool) materials = XCAFDoc_DocumentTool::MaterialTool(document.get()->Main());
    std::vector<TDF_Label> partLabels;
    std::vector<TopoDS_Shape> shapesGiven;
    Given given;
    const auto joined = joinedNames(model);
    for (const auto& part : model.parts) {
        TDF_Label label;
        if (!part->shape.IsNull()) {
            shapesGiven.push_back(given.of(*part));
            const Incidence topology(shapesGiven.back());  // numbered as the part is
            label = shapes->AddShape(shapesGiven.back(), false);
            setName(label, part->name);
            setValidation(label, *part);
            if (!part->material.empty()) {
                const Material* known = findMaterial(model.materials, part->material);
                if (known == nullptr) known = findMaterial(standardMaterials(), part->material);
                // 1e-3: the translator's density counts in g/cm^3, ours in kg/m^3.
                materials->SetMaterial(label, new TCollection_HAsciiString(part->material.c_str()),
                                       new TCollection_HAsciiString(""), known == nullptr ? 0.0 : 1e-3 * known->density,
                                       new TCollection_HAsciiString("density measure"),
                                       new TCollection_HAsciiString("POSITIVE_RATIO_MEASURE"));
            }
            setLayers(XCAFDoc_DocumentTool::LayerTool(document.get()->Main()), shapes, label, model, *part, topology);
            if (part->colour) colours->SetColor(label, kernelColour(*part->colour), XCAFDoc_ColorSurf);
            for (const auto& [thing, colour] : part->known.colours) {
                if (thing.kind != EntityKind::Face || (part->colour && colour == *part->colour)) continue;
                const TDF_Label piece = shapes->AddSubShape(label, topology.face(thing.number));
                if (!piece.IsNull()) colours->SetColor(piece, kernelColour(colour), XCAFDoc_ColorSurf);
            }
            auto names = faceNames(model, *part);
            for (auto it = joined.lower_bound({part->id, 0}); it != joined.end() && it->first.first == part->id; ++it) {
                std::string& all = names[it->first.second];
                all += (all.empty() ? "" : "; ") + it->second;
            }
            for (const auto& [face, name] : names) {
                const TDF_Label piece = shapes->AddSubShape(label, topology.face(face));
                if (!piece.IsNull()) setName(piece, name);
            }
        }
        partLabels.push_back(label);
        shapesGiven.resize(partLabels.size());
    }
    const bool single = model.occurrences.size() == 1 && model.occurrences[0].path.empty() &&
                        model.occurrences[0].placement.Form() == gp_Identity;
    if (!single) {
        const TDF_Label root = shapes->NewShape();
        setName(root, model.name.empty() ? "model" : model.name);
        std::map<std::vector<std::string>, TDF_Label> assemblies{{{}, root}};
        const std::function<TDF_Label(const std::vector<std::string>&)> assemblyFor =
            [&](const std::vector<std::string>& way) {
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
    writer.SetLayerMode(true);
    writer.SetPropsMode(true);
    writer.SetMaterialMode(true);
    const Handle(KernelProgress) watch = new KernelProgress(progress, "Writing", 0.0, 0.8);
    if (!writer.Transfer(document.get(), STEPControl_AsIs, nullptr, watch->Start()))
        return fail(progress.cancelled() ? ProblemKind::Cancelled : ProblemKind::Internal,
                    progress.cancelled() ? "Writing was stopped." : "The model could not be translated to STEP.");
    mendDensityUnits(writer.ChangeWriter().Model());
    for (std::size_t p = 0; p < model.parts.size(); ++p)
        if (isPoints(model.parts[p]->shape))
            putPoints(shapesGiven[p], writer.ChangeWriter().Model(),
                      writer.ChangeWriter().WS()->TransferWriter()->FinderProcess());
    // Only AP242 has what they are said with; the names of faces say it in the others.
    if (options.schema == StepSchema::Ap242)
        addShapeAspects(model, shapesGiven, writer.ChangeWriter().Model(),
                        writer.ChangeWriter().WS()->TransferWriter()->FinderProcess());
    APIHeaderSection_MakeHeader header(writer.ChangeWriter().Model());
    header.SetOriginatingSystem(new TCollection_HAsciiString("Rasoir"));
    header.SetName(new TCollection_HAsciiString(model.name.c_str()));
    errno = 0;
    if (writer.Write(path.c_str()) != IFSelect_RetDone || !isComplete(path)) {
        const int reason = errno;
        std::error_code error;
        if (fs::space(path.parent_path().empty() ? "." : path.parent_path(), error).available < 4096 && !error)
            errno = ENOSPC;
        else
            errno = reason;
        return fail(ProblemKind::Storage, "the disk did not take it");
    }
    progress.report(1.0, "Written");
    return {};
}

}  // namespace rasoir::exchange
