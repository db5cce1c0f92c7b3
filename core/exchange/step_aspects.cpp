#include "exchange/step_aspects.h"

#include <StepAP242_GeometricItemSpecificUsage.hxx>
#include <StepAP242_ItemIdentifiedRepresentationUsageDefinition.hxx>
#include <STEPConstruct.hxx>
#include <STEPConstruct_Part.hxx>
#include <StepRepr_HArray1OfRepresentationItem.hxx>
#include <StepRepr_ProductDefinitionShape.hxx>
#include <StepRepr_RepresentationItem.hxx>
#include <StepRepr_ShapeAspect.hxx>
#include <StepShape_ShapeDefinitionRepresentation.hxx>
#include <StepShape_ShapeRepresentation.hxx>
#include <TCollection_HAsciiString.hxx>
#include <TransferBRep.hxx>
#include <TransferBRep_ShapeMapper.hxx>

#include "model/places.h"

namespace rasoir::exchange {
namespace {

Handle(TCollection_HAsciiString) words(const std::string& text) {
    return new TCollection_HAsciiString(text.c_str());
}

/// The shape of the product that a part became.
bool productOf(const TopoDS_Shape& shape, const Handle(Transfer_FinderProcess) & finder, STEPConstruct_Part& product) {
    const Handle(TransferBRep_ShapeMapper) mapper = TransferBRep::ShapeMapper(finder, shape);
    Handle(StepShape_ShapeDefinitionRepresentation) definition;
    if (!finder->FindTypedTransient(mapper, STANDARD_TYPE(StepShape_ShapeDefinitionRepresentation), definition))
        return false;
    product.ReadSDR(definition);
    return product.IsDone();
}

TopoDS_Shape thingOf(const Incidence& topology, const Entity& entity) {
    switch (entity.kind) {
        case EntityKind::Face:
            return entity.number <= topology.faceCount() ? topology.face(entity.number) : TopoDS_Shape();
        case EntityKind::Edge:
            return entity.number <= topology.edgeCount() ? topology.edge(entity.number) : TopoDS_Shape();
        case EntityKind::Vertex:
            return entity.number <= topology.vertexCount() ? topology.vertex(entity.number) : TopoDS_Shape();
        case EntityKind::Body:
            return entity.number <= topology.bodyCount() ? topology.body(entity.number) : TopoDS_Shape();
    }
    return {};
}

}  // namespace

std::size_t addShapeAspects(const Model& model, const std::vector<TopoDS_Shape>& shapes,
                            const Handle(StepData_StepModel) & step, const Handle(Transfer_FinderProcess) & finder) {
    std::size_t named = 0;
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        const Part& part = *model.parts[p];
        if (shapes[p].IsNull()) continue;
        const auto places = std::count_if(model.occurrences.begin(), model.occurrences.end(),
                                          [p](const Occurrence& place) { return place.part == p; });
        std::map<std::string, std::vector<Entity>> aspects;
        for (const Group& group : model.groups)
            for (const Member& member : group.members) {
                if (member.part != part.id) continue;
                std::string name = group.name;
                if (member.place != everyPlace && places > 1)
                    if (const auto place = model.placeOf(member.place)) name += " @ " + placeName(model, *place);
                aspects[name].push_back(member.entity);
            }
        STEPConstruct_Part product;
        if (aspects.empty() || !productOf(shapes[p], finder, product)) continue;
        const Incidence topology(shapes[p]);  // numbered as the part is
        for (const auto& [name, entities] : aspects) {
            const Handle(StepRepr_ShapeAspect) aspect = new StepRepr_ShapeAspect();
            aspect->Init(words(name), words(""), product.PDS(), StepData_LTrue);
            bool any = false;
            for (const Entity& entity : entities) {
                const TopoDS_Shape thing = thingOf(topology, entity);
                if (thing.IsNull()) continue;
                const Handle(StepRepr_RepresentationItem) item = STEPConstruct::FindEntity(finder, thing);
                if (item.IsNull()) continue;
                StepAP242_ItemIdentifiedRepresentationUsageDefinition definition;
                definition.SetValue(aspect);
                const Handle(StepRepr_HArray1OfRepresentationItem) items =
                    new StepRepr_HArray1OfRepresentationItem(1, 1);
                items->SetValue(1, item);
                const Handle(StepAP242_GeometricItemSpecificUsage) usage = new StepAP242_GeometricItemSpecificUsage();
                usage->Init(words(""), words(""), definition, product.SRValue(), items);
                step->AddWithRefs(usage);
                any = true;
                ++named;
            }
            if (any) step->AddWithRefs(aspect);
        }
    }
    return named;
}

}  // namespace rasoir::exchange
