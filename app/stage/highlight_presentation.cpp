#include "stage/highlight_presentation.h"

#include <Graphic3d_ArrayOfPoints.hxx>
#include <Graphic3d_ArrayOfSegments.hxx>
#include <Graphic3d_ArrayOfTriangles.hxx>
#include <Graphic3d_AspectFillArea3d.hxx>
#include <Graphic3d_AspectLine3d.hxx>
#include <Graphic3d_AspectMarker3d.hxx>
#include <Poly_Triangulation.hxx>
#include <Prs3d_ShadingAspect.hxx>

#include "stage/part_presentation.h"

namespace rasoir::app {

HighlightPresentation::HighlightPresentation(const Model& model, const std::vector<select::Pick>& picks,
                                             const QColor& colour, double opacity)
    : m_colour(colour), m_opacity(opacity) {
    for (const select::Pick& pick : picks)
        if (pick.occurrence < model.occurrences.size())
            m_entries.push_back({model.parts[model.occurrences[pick.occurrence].part],
                                 model.occurrences[pick.occurrence].placement, pick});
    SetInfiniteState(true);
}

void HighlightPresentation::Compute(const Handle(PrsMgr_PresentationManager) &,
                                    const Handle(Prs3d_Presentation) & presentation, const Standard_Integer) {
    struct Mesh {
        Handle(Poly_Triangulation) triangles;
        gp_Trsf move;
    };
    std::vector<Mesh> meshes;
    std::vector<std::pair<gp_Pnt, gp_Pnt>> segments;
    std::vector<gp_Pnt> dots;
    int nodes = 0, triangles = 0;
    for (const Entry& entry : m_entries) {
        const Incidence& topology = entry.part->incidence();
        const auto addFace = [&](int f) {
            TopLoc_Location place;
            const Handle(Poly_Triangulation) mesh = BRep_Tool::Triangulation(topology.face(f), place);
            if (mesh.IsNull()) return;
            nodes += mesh->NbNodes();
            triangles += mesh->NbTriangles();
            meshes.push_back({mesh, entry.placement * place.Transformation()});
        };
        const auto addEdge = [&](int e) {
            const auto points = edgePoints(topology, e);
            for (std::size_t i = 0; i + 1 < points.size(); ++i)
                segments.emplace_back(points[i].Transformed(entry.placement),
                                      points[i + 1].Transformed(entry.placement));
        };
        switch (kindOf(entry.pick)) {
            case select::PickKind::Face:
                addFace(entry.pick.face);
                break;
            case select::PickKind::Edge:
                addEdge(entry.pick.edge);
                break;
            case select::PickKind::Vertex:
                for (TopExp_Explorer it(entry.part->shape, TopAbs_VERTEX); it.More(); it.Next())
                    if (topology.vertexNumber(it.Current()) == entry.pick.vertex) {
                        dots.push_back(BRep_Tool::Pnt(TopoDS::Vertex(it.Current())).Transformed(entry.placement));
                        break;
                    }
                break;
            default:
                for (int f = 1; f <= topology.faceCount(); ++f)
                    if (entry.pick.body == 0 || topology.bodyOf(f) + 1 == entry.pick.body) addFace(f);
                if (topology.faceCount() == 0)
                    for (int e = 1; e <= topology.edgeCount(); ++e) addEdge(e);
        }
    }
    if (triangles > 0) {
        const Handle(Graphic3d_ArrayOfTriangles) array = new Graphic3d_ArrayOfTriangles(nodes, 3 * triangles, false);
        for (const Mesh& mesh : meshes) {
            const int base = array->VertexNumber();
            for (int i = 1; i <= mesh.triangles->NbNodes(); ++i)
                array->AddVertex(mesh.triangles->Node(i).Transformed(mesh.move));
            for (int t = 1; t <= mesh.triangles->NbTriangles(); ++t) {
                int a = 0, b = 0, c = 0;
                mesh.triangles->Triangle(t).Get(a, b, c);
                array->AddEdges(base + a, base + b, base + c);
            }
        }
        const Handle(Graphic3d_AspectFillArea3d) aspect =
            new Graphic3d_AspectFillArea3d(*myDrawer->ShadingAspect()->Aspect());
        aspect->SetInteriorColor(Quantity_ColorRGBA(kernelColour(m_colour), static_cast<float>(m_opacity)));
        aspect->SetShadingModel(Graphic3d_TOSM_UNLIT);
        aspect->SetFaceCulling(Graphic3d_TypeOfBackfacingModel_DoubleSided);
        aspect->SetAlphaMode(Graphic3d_AlphaMode_Blend);
        aspect->SetPolygonOffsets(Aspect_POM_Fill, 0.5f, 0.5f);  // before the faces, behind their edges
        const Handle(Graphic3d_Group) group = presentation->NewGroup();
        group->SetPrimitivesAspect(aspect);
        group->AddPrimitiveArray(array);
    }
    if (!segments.empty()) {
        const Handle(Graphic3d_ArrayOfSegments) array =
            new Graphic3d_ArrayOfSegments(2 * static_cast<int>(segments.size()));
        for (const auto& [a, b] : segments) {
            array->AddVertex(a);
            array->AddVertex(b);
        }
        const Handle(Graphic3d_Group) group = presentation->NewGroup();
        group->SetPrimitivesAspect(new Graphic3d_AspectLine3d(kernelColour(m_colour), Aspect_TOL_SOLID, 3.6));
        group->AddPrimitiveArray(array);
    }
    if (!dots.empty()) {
        const Handle(Graphic3d_ArrayOfPoints) array = new Graphic3d_ArrayOfPoints(static_cast<int>(dots.size()));
        for (const gp_Pnt& dot : dots) array->AddVertex(dot);
        const Handle(Graphic3d_Group) group = presentation->NewGroup();
        group->SetPrimitivesAspect(new Graphic3d_AspectMarker3d(Aspect_TOM_BALL, kernelColour(m_colour), 2.0));
        group->AddPrimitiveArray(array);
    }
}

}  // namespace rasoir::app
