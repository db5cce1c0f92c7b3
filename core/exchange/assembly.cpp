#include "exchange/assembly.h"

#include <fmt/format.h>

#include <Message.hxx>
#include <Message_Messenger.hxx>
#include <Quantity_Color.hxx>
#include <TCollection_AsciiString.hxx>
#include <TCollection_ExtendedString.hxx>
#include <TCollection_HAsciiString.hxx>
#include <TColStd_HSequenceOfExtendedString.hxx>
#include <TDataStd_Name.hxx>
#include <TDataStd_TreeNode.hxx>
#include <TDF_LabelSequence.hxx>
#include <TDF_Tool.hxx>
#include <TopExp_Explorer.hxx>
#include <TopLoc_Location.hxx>
#include <XCAFApp_Application.hxx>
#include <XCAFDoc.hxx>
#include <XCAFDoc_ColorTool.hxx>
#include <XCAFDoc_DocumentTool.hxx>
#include <XCAFDoc_LayerTool.hxx>
#include <XCAFDoc_MaterialTool.hxx>
#include <XCAFDoc_ShapeTool.hxx>

#include "exchange/groups.h"
#include "topology/traces.h"

namespace rasoir::exchange {

std::mutex& translatorLock() {
    static std::mutex lock;
    // The translators chatter on standard output, where our JSON goes.
    static std::once_flag quiet;
    std::call_once(quiet, [] { Message::DefaultMessenger()->ChangePrinters().Clear(); });
    return lock;
}

Document::Document() {
    XCAFApp_Application::GetApplication()->NewDocument("MDTV-XCAF", m_document);
}

Document::~Document() {
    try {
        XCAFApp_Application::GetApplication()->Close(m_document);
    } catch (const Standard_Failure&) {
        // Closing is tidying up; the work is done.
    }
}

namespace {

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

std::optional<Colour> labelColour(const Handle(XCAFDoc_ColorTool) & colours, const TDF_Label& label) {
    Quantity_Color colour;
    for (const XCAFDoc_ColorType type : {XCAFDoc_ColorSurf, XCAFDoc_ColorGen})
        if (colours->GetColor(label, type, colour)) return Colour{colour.Red(), colour.Green(), colour.Blue()};
    return std::nullopt;
}

/// Turns the translator's document into parts and occurrences.
class Receiver {
public:
    Receiver(const Handle(TDocStd_Document) & document, Model& model)
        : m_shapes(XCAFDoc_DocumentTool::ShapeTool(document->Main())),
          m_colours(XCAFDoc_DocumentTool::ColorTool(document->Main())),
          m_materials(XCAFDoc_DocumentTool::MaterialTool(document->Main())),
          m_layers(XCAFDoc_DocumentTool::LayerTool(document->Main())),
          m_model(model) {}

    void run() {
        TDF_LabelSequence roots;
        m_shapes->GetFreeShapes(roots);
        if (roots.Length() == 1) m_model.name = nameOf(roots.First());
        for (const TDF_Label& root : roots) visit(root, gp_Trsf(), {}, nameOf(root), std::nullopt, roots.Length() == 1);
        if (m_renamed > 0)
            m_model.notes.push_back(
                fmt::format("{} had no name or a name used twice; they were numbered.", counted(m_renamed, "part")));
        if (m_reencoded.size() > 0)
            m_model.notes.push_back(
                fmt::format("{} in a wrong encoding repaired.", counted(m_reencoded.size(), "name")));
        if (m_cut > 0)
            m_model.notes.emplace_back(
                "An assembly that holds itself was cut off; what lies deeper than 64 levels was left out.");
        if (m_skipped > 0)
            m_model.notes.push_back(fmt::format("{} without any geometry left out.", counted(m_skipped, "product")));
        m_model.giveIds();
        groupLayers();
        groupNames();
    }

private:
    Handle(XCAFDoc_ShapeTool) m_shapes;
    Handle(XCAFDoc_ColorTool) m_colours;
    Handle(XCAFDoc_MaterialTool) m_materials;
    Handle(XCAFDoc_LayerTool) m_layers;
    Model& m_model;
    std::map<std::string, std::set<std::pair<std::size_t, Entity>>> m_onLayer;  // by its name: things of parts
    std::map<std::string, std::size_t> m_partOf;                                // by label entry
    std::set<std::string> m_names;
    std::set<std::string> m_reencoded;  // names as they were stored
    std::size_t m_renamed = 0, m_skipped = 0, m_cut = 0;

    void receiveLayers(const TDF_Label& label, std::size_t part, const std::vector<Entity>& things) {
        Handle(TColStd_HSequenceOfExtendedString) found = new TColStd_HSequenceOfExtendedString;
        if (!m_layers->GetLayers(label, found)) return;
        for (int i = 1; i <= found->Length(); ++i) {
            const TCollection_AsciiString text(found->Value(i), '?');
            std::string name = repairedEncoding(text.ToCString());
            if (name.empty()) continue;
            if (name.find_first_not_of("0123456789") == std::string::npos) name = "layer " + name;
            for (const Entity& thing : things) m_onLayer[name].emplace(part, thing);
        }
    }

    void addGroup(const std::string& name, const char* purpose,
                  const std::set<std::pair<std::size_t, Entity>>& things) {
        Group group;
        group.name = name;
        group.purpose = purpose;
        for (const auto& [part, thing] : things) group.members.insert({m_model.parts[part]->id, everyPlace, thing});
        m_model.groups.push_back(std::move(group));
    }

    /// A single layer on which all parts lie as a whole says nothing.
    void groupLayers() {
        if (m_onLayer.size() == 1) {
            std::set<std::size_t> whole;
            for (const auto& [part, thing] : m_onLayer.begin()->second)
                if (thing.kind == EntityKind::Body) whole.insert(part);
            if (whole.size() == m_model.parts.size()) return;
        }
        for (const auto& [name, things] : m_onLayer) addGroup(name, "layer", things);
    }

    /// Faces that somebody named, as our own export names those of groups. Where most faces bear a name, or there are
    /// very many, a program named them and not a person: they stay names, which a rule can ask for.
    void groupNames() {
        constexpr std::size_t most = 100;
        std::map<std::string, std::set<std::pair<std::size_t, Entity>>> byName;
        std::size_t named = 0, faces = 0;
        for (std::size_t p = 0; p < m_model.parts.size(); ++p) {
            const Part& part = *m_model.parts[p];
            faces += static_cast<std::size_t>(part.incidence().faceCount());
            for (const auto& [thing, name] : part.known.names) {
                ++named;
                for (const std::string& one : namesIn(name)) byName[one].emplace(p, thing);
            }
        }
        if (byName.empty()) return;
        if (2 * named > faces || byName.size() > most) {
            m_model.notes.push_back(fmt::format("{} a name; a rule makes groups of them (Hand over, Groups).",
                                                counted(named, "face bears", "faces bear")));
            return;
        }
        for (const auto& [name, things] : byName)
            if (std::none_of(m_model.groups.begin(), m_model.groups.end(),
                             [&](const Group& group) { return group.name == name; }))
                addGroup(name, "named in the file", things);
    }

    std::string nameOf(const TDF_Label& label) {
        const std::string stored = labelName(label);
        // What a writer puts in for want of a name says nothing of the part.
        if (stored.starts_with("Open CASCADE STEP translator")) return {};
        std::string name = repairedEncoding(stored);
        if (name != stored) m_reencoded.insert(stored);
        return name;
    }

    static constexpr std::size_t deepest = 64;  // an assembly nested deeper holds itself

    void visit(const TDF_Label& label, const gp_Trsf& placement, const std::vector<std::string>& path,
               const std::string& name, const std::optional<Colour>& colour, bool onlyRoot = false) {
        if (path.size() > deepest) {
            ++m_cut;
            return;
        }
        if (m_shapes->IsAssembly(label)) {
            std::vector<std::string> below = path;
            // A single root assembly is the model itself and carries its name.
            if (!onlyRoot || !path.empty()) {
                below.emplace_back(name);
                if (name.empty()) below.back() = nameOf(label);
            }
            TDF_LabelSequence components;
            m_shapes->GetComponents(label, components);
            for (const TDF_Label& component : components) {
                TDF_Label referred;
                if (!m_shapes->GetReferredShape(component, referred)) continue;
                std::string instance = nameOf(component);
                if (instance.empty()) instance = nameOf(referred);
                const auto own = labelColour(m_colours, component);
                visit(referred, placement * m_shapes->GetLocation(component).Transformation(), below, instance,
                      own ? own : colour);
            }
            return;
        }
        const auto part = partFor(label);
        if (!part) return;
        m_model.occurrences.push_back(
            {*part, placement, name.empty() ? m_model.parts[*part]->name : name, path, colour});
    }

    /// The material's name; one that is not known yet comes with the density that the file states.
    void receiveMaterial(const TDF_Label& label, Part& part) {
        Handle(TDataStd_TreeNode) link;
        if (!label.FindAttribute(XCAFDoc::MaterialRefGUID(), link) || !link->HasFather()) return;
        Handle(TCollection_HAsciiString) name, description, measure, kind;
        double density = 0.0;
        if (!m_materials->GetMaterial(link->Father()->Label(), name, description, density, measure, kind) ||
            name.IsNull() || name->IsEmpty())
            return;
        part.material = repairedEncoding(name->ToCString());
        if (findMaterial(m_model.materials, part.material) != nullptr) return;
        Material fresh;
        if (const Material* known = findMaterial(standardMaterials(), part.material)) fresh = *known;
        fresh.name = part.material;
        if (density > 0.0) fresh.density = 1e3 * density;  // the translator's counts in g/cm^3
        if (checkMaterial(fresh))
            m_model.materials.push_back(std::move(fresh));
        else
            part.material.clear();
    }

    std::optional<std::size_t> partFor(const TDF_Label& label) {
        TCollection_AsciiString entry;
        TDF_Tool::Entry(label, entry);
        const auto known = m_partOf.find(entry.ToCString());
        if (known != m_partOf.end()) return known->second;
        const TopoDS_Shape shape = m_shapes->GetShape(label);
        if (shape.IsNull() || !TopExp_Explorer(shape, TopAbs_VERTEX).More()) {
            ++m_skipped;
            return std::nullopt;
        }
        std::string name = nameOf(label);
        const bool unnamed = name.empty();
        if (unnamed) name = "part";
        std::string unique = name;
        for (int i = 2; !m_names.insert(unique).second; ++i) unique = fmt::format("{} ({})", name, i);
        if (unnamed || unique != name) ++m_renamed;
        straightenTraces(shape);
        auto part = std::make_shared<Part>(unique, shape);
        part->colour = labelColour(m_colours, label);
        receiveMaterial(label, *part);
        const std::size_t index = m_model.parts.size();
        const auto allBodies = [&part] {
            std::vector<Entity> bodies;
            for (int b = 1; b <= part->incidence().bodyCount(); ++b) bodies.push_back({EntityKind::Body, b});
            return bodies;
        };
        receiveLayers(label, index, allBodies());
        TDF_LabelSequence pieces;
        m_shapes->GetSubShapes(label, pieces);
        for (const TDF_Label& piece : pieces) {
            const TopoDS_Shape sub = m_shapes->GetShape(piece);
            if (sub.ShapeType() == TopAbs_FACE) {
                // The translator names pieces for their kind where the file does not.
                const std::string own = labelName(piece);
                const int face = part->incidence().faceNumber(sub);
                if (face > 0 && !own.empty() && own != "FACE" && own != "NONE" && !own.starts_with("=>"))
                    part->known.names[{EntityKind::Face, face}] = repairedEncoding(own);
            }
            if (const int face = sub.ShapeType() == TopAbs_FACE ? part->incidence().faceNumber(sub) : 0; face > 0)
                receiveLayers(piece, index, {{EntityKind::Face, face}});
            else if (const int body = sub.ShapeType() < TopAbs_FACE ? part->incidence().bodyNumber(sub) : 0; body > 0)
                receiveLayers(piece, index, {{EntityKind::Body, body}});
            const auto colour = labelColour(m_colours, piece);
            if (!colour) continue;
            if (sub.ShapeType() == TopAbs_FACE) {
                if (const int face = part->incidence().faceNumber(sub))
                    part->known.colours[{EntityKind::Face, face}] = *colour;
            } else if (sub.ShapeType() < TopAbs_FACE) {
                for (TopExp_Explorer face(sub, TopAbs_FACE); face.More(); face.Next())
                    if (const int number = part->incidence().faceNumber(face.Current()))
                        part->known.colours.try_emplace({EntityKind::Face, number}, *colour);
                if (!part->colour) part->colour = colour;
            }
        }
        m_model.parts.push_back(std::move(part));
        m_partOf[entry.ToCString()] = index;
        return index;
    }
};

}  // namespace

void receiveAssembly(const Handle(TDocStd_Document) & document, Model& model) {
    Receiver(document, model).run();
}

}  // namespace rasoir::exchange
