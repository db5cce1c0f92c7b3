#include "stage/preview_presentation.h"

#include <BRep_Tool.hxx>
#include <Graphic3d_ArrayOfTriangles.hxx>
#include <Graphic3d_AspectFillArea3d.hxx>
#include <Poly_Triangulation.hxx>
#include <Prs3d_ShadingAspect.hxx>

#include "stage/part_presentation.h"

namespace rasoir::app {

PreviewPresentation::PreviewPresentation(std::vector<PreviewFaces> faces, const QColor& colour, double opacity,
                                         bool through)
    : m_faces(std::move(faces)), m_colour(colour), m_opacity(opacity) {
    SetInfiniteState(true);  // never part of "fit"
    SetZLayer(through ? Graphic3d_ZLayerId_Topmost : Graphic3d_ZLayerId_Default);
}

void PreviewPresentation::Compute(const Handle(PrsMgr_PresentationManager) &,
                                  const Handle(Prs3d_Presentation) & presentation, const Standard_Integer) {
    int nodes = 0, triangles = 0;
    const auto each = [this](const auto& visit) {
        for (const PreviewFaces& entry : m_faces)
            for (const int f : entry.faces) {
                const TopoDS_Face face = entry.part->incidence().face(f);
                TopLoc_Location place;
                const Handle(Poly_Triangulation) mesh = BRep_Tool::Triangulation(face, place);
                if (!mesh.IsNull()) visit(face, mesh, entry.placement * place.Transformation());
            }
    };
    each([&](const TopoDS_Face&, const Handle(Poly_Triangulation) & mesh, const gp_Trsf&) {
        nodes += mesh->NbNodes();
        triangles += mesh->NbTriangles();
    });
    if (triangles == 0) return;
    const Handle(Graphic3d_ArrayOfTriangles) array = new Graphic3d_ArrayOfTriangles(nodes, 3 * triangles, false);
    each([&](const TopoDS_Face&, const Handle(Poly_Triangulation) & mesh, const gp_Trsf& move) {
        const int base = array->VertexNumber();
        for (int i = 1; i <= mesh->NbNodes(); ++i) array->AddVertex(mesh->Node(i).Transformed(move));
        for (int t = 1; t <= mesh->NbTriangles(); ++t) {
            int a = 0, b = 0, c = 0;
            mesh->Triangle(t).Get(a, b, c);
            array->AddEdges(base + a, base + b, base + c);
        }
    });
    const Handle(Graphic3d_AspectFillArea3d) aspect =
        new Graphic3d_AspectFillArea3d(*myDrawer->ShadingAspect()->Aspect());
    Graphic3d_MaterialAspect material(Graphic3d_NameOfMaterial_DEFAULT);
    material.SetColor(kernelColour(m_colour));
    material.SetTransparency(static_cast<float>(1.0 - m_opacity));
    aspect->SetFrontMaterial(material);
    aspect->SetBackMaterial(material);
    aspect->SetInteriorColor(Quantity_ColorRGBA(kernelColour(m_colour), static_cast<float>(m_opacity)));
    aspect->SetShadingModel(Graphic3d_TOSM_UNLIT);
    aspect->SetFaceCulling(Graphic3d_TypeOfBackfacingModel_DoubleSided);
    aspect->SetAlphaMode(m_opacity < 1.0 ? Graphic3d_AlphaMode_Blend : Graphic3d_AlphaMode_Opaque);
    const Handle(Graphic3d_Group) group = presentation->NewGroup();
    group->SetPrimitivesAspect(aspect);
    group->AddPrimitiveArray(array);
}

}  // namespace rasoir::app
