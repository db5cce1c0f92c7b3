#include "stage/part_presentation.h"

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <Graphic3d_ArrayOfPoints.hxx>
#include <Graphic3d_ArrayOfSegments.hxx>
#include <Graphic3d_ArrayOfTriangles.hxx>
#include <Graphic3d_AspectFillArea3d.hxx>
#include <Graphic3d_AspectLine3d.hxx>
#include <Graphic3d_AspectMarker3d.hxx>
#include <Poly_PolygonOnTriangulation.hxx>
#include <Poly_Triangulation.hxx>
#include <Prs3d_ShadingAspect.hxx>
#include <StdPrs_ToolTriangulatedShape.hxx>

#include "topology/edge_angle.h"

namespace rasoir::app {

Quantity_Color kernelColour(const QColor& colour) {
    return Quantity_Color(colour.redF(), colour.greenF(), colour.blueF(), Quantity_TOC_sRGB);
}

Graphic3d_MaterialAspect paperMaterial() {
    Graphic3d_MaterialAspect material(Graphic3d_NameOfMaterial_DEFAULT);
    material.SetAmbientColor(Quantity_Color(0.55, 0.55, 0.55, Quantity_TOC_sRGB));
    material.SetDiffuseColor(Quantity_Color(0.56, 0.56, 0.56, Quantity_TOC_sRGB));
    material.SetSpecularColor(Quantity_Color(0.0, 0.0, 0.0, Quantity_TOC_RGB));
    return material;
}

std::vector<gp_Pnt> edgePoints(const Incidence& topology, int number) {
    const TopoDS_Edge edge = topology.edge(number);
    std::vector<gp_Pnt> points;
    for (const EdgeUse& use : topology.usesOf(number)) {
        TopLoc_Location place;
        const Handle(Poly_Triangulation) triangles = BRep_Tool::Triangulation(topology.face(use.face), place);
        if (triangles.IsNull()) continue;
        const Handle(Poly_PolygonOnTriangulation) polygon = BRep_Tool::PolygonOnTriangulation(edge, triangles, place);
        if (polygon.IsNull()) continue;
        for (int i = 1; i <= polygon->NbNodes(); ++i)
            points.push_back(triangles->Node(polygon->Node(i)).Transformed(place.Transformation()));
        return points;
    }
    if (BRep_Tool::Degenerated(edge)) return points;
    double first = 0.0, last = 0.0;
    if (BRep_Tool::Curve(edge, first, last).IsNull()) return points;
    const BRepAdaptor_Curve curve(edge);
    const int pieces = curve.GetType() == GeomAbs_Line ? 1 : 24;
    for (int i = 0; i <= pieces; ++i) points.push_back(curve.Value(first + (last - first) * i / pieces));
    return points;
}

PartPresentation::PartPresentation(std::shared_ptr<const Part> part, std::size_t occurrence, const gp_Trsf& placement,
                                   const Palette& palette, PartLook look)
    : AIS_Shape(part->shape),
      m_part(std::move(part)),
      m_occurrence(occurrence),
      m_palette(palette),
      m_look(std::move(look)) {
    SetLocalTransformation(placement);
    SetDisplayMode(AIS_Shaded);
}

void PartPresentation::Compute(const Handle(PrsMgr_PresentationManager) & manager,
                               const Handle(Prs3d_Presentation) & presentation, const Standard_Integer mode) {
    if (mode != AIS_Shaded) {
        AIS_Shape::Compute(manager, presentation, mode);
        return;
    }
    addFaces(presentation);
    addEdges(presentation);
}

void PartPresentation::addFaces(const Handle(Prs3d_Presentation) & presentation) const {
    const Incidence& topology = m_part->incidence();
    const auto drawnColour = [this](int face) {
        const auto index = static_cast<std::size_t>(face);
        return kernelColour(index < m_look.faceColours.size() && m_look.faceColours[index].isValid()
                                ? m_look.faceColours[index]
                                : m_palette.body);
    };
    const auto skipped = [&](int f, bool closed) {
        return (topology.bodyOf(f) >= 0 && m_look.hiddenFaces.empty()) != closed || m_look.hiddenFaces.contains(f);
    };
    // Closed bodies hide their insides; sheets show both.
    for (const bool closed : {true, false}) {
        int nodes = 0, triangles = 0;
        for (int f = 1; f <= topology.faceCount(); ++f) {
            if (skipped(f, closed)) continue;
            TopLoc_Location place;
            const Handle(Poly_Triangulation) mesh = BRep_Tool::Triangulation(topology.face(f), place);
            if (mesh.IsNull()) continue;
            nodes += mesh->NbNodes();
            triangles += mesh->NbTriangles();
        }
        if (triangles == 0) continue;
        const Handle(Graphic3d_ArrayOfTriangles) array =
            new Graphic3d_ArrayOfTriangles(nodes, 3 * triangles, true, true);
        for (int f = 1; f <= topology.faceCount(); ++f) {
            if (skipped(f, closed)) continue;
            const TopoDS_Face face = topology.face(f);
            TopLoc_Location place;
            const Handle(Poly_Triangulation) mesh = BRep_Tool::Triangulation(face, place);
            if (mesh.IsNull()) continue;
            StdPrs_ToolTriangulatedShape::ComputeNormals(face, mesh);
            const gp_Trsf& move = place.Transformation();
            const bool reversed = face.Orientation() == TopAbs_REVERSED;
            const Quantity_Color colour = drawnColour(f);
            const int base = array->VertexNumber();
            for (int i = 1; i <= mesh->NbNodes(); ++i) {
                gp_Dir normal = mesh->Normal(i);
                if (reversed) normal.Reverse();
                array->AddVertex(mesh->Node(i).Transformed(move), normal.Transformed(move), colour);
            }
            for (int t = 1; t <= mesh->NbTriangles(); ++t) {
                int a = 0, b = 0, c = 0;
                mesh->Triangle(t).Get(a, b, c);
                if (reversed) std::swap(b, c);
                array->AddEdges(base + a, base + b, base + c);
            }
        }
        const Handle(Graphic3d_Group) group = presentation->NewGroup();
        group->SetClosed(closed);
        const Handle(Graphic3d_AspectFillArea3d) aspect =
            new Graphic3d_AspectFillArea3d(*myDrawer->ShadingAspect()->Aspect());
        const Graphic3d_MaterialAspect material = paperMaterial();
        aspect->SetFrontMaterial(material);
        aspect->SetInteriorColor(Quantity_Color(1, 1, 1, Quantity_TOC_RGB));
        if (!closed) {
            // The back of a sheet is darker: which way it faces can be seen.
            Graphic3d_MaterialAspect back = material;
            back.SetAmbientColor(Quantity_Color(0.36, 0.35, 0.33, Quantity_TOC_sRGB));
            back.SetDiffuseColor(Quantity_Color(0.30, 0.29, 0.27, Quantity_TOC_sRGB));
            aspect->SetDistinguishOn();
            aspect->SetBackMaterial(back);
            aspect->SetBackInteriorColor(Quantity_Color(1, 1, 1, Quantity_TOC_RGB));
        } else {
            aspect->SetBackMaterial(material);
        }
        if (m_look.ghost) {
            aspect->SetAlphaMode(Graphic3d_AlphaMode_Blend);
            aspect->SetInteriorColor(Quantity_ColorRGBA(Quantity_Color(1, 1, 1, Quantity_TOC_RGB), 0.16f));
            aspect->SetShadingModel(Graphic3d_TOSM_UNLIT);
        }
        if (!closed) aspect->SetFaceCulling(Graphic3d_TypeOfBackfacingModel_DoubleSided);
        // Faces step back a little so that the edges on them stay whole.
        aspect->SetPolygonOffsets(Aspect_POM_Fill, 1.0f, 1.0f);
        group->SetPrimitivesAspect(aspect);
        group->AddPrimitiveArray(array);
    }
}

namespace {

/// A line between faces that are meshed as one.
bool isInner(const Part& part, int edge) {
    const auto& marks = part.known.asOne;
    if (marks.empty()) return false;
    const auto uses = part.incidence().usesOf(edge);
    if (uses.size() < 2) return false;
    const auto first = marks.find({EntityKind::Face, uses[0].face});
    return first != marks.end() && std::all_of(uses.begin(), uses.end(), [&](const EdgeUse& use) {
               const auto own = marks.find({EntityKind::Face, use.face});
               return own != marks.end() && own->second == first->second;
           });
}

}  // namespace

void PartPresentation::addEdges(const Handle(Prs3d_Presentation) & presentation) const {
    const Incidence& topology = m_part->incidence();
    struct Class {
        std::vector<std::vector<gp_Pnt>> lines;
    };
    Class smooth, sharp, open, many, concave, wires;
    std::vector<gp_Pnt> openEnds, nodes;
    std::map<int, int> openAt;  // vertex -> open edges there
    for (int e = 1; e <= topology.edgeCount(); ++e) {
        std::vector<gp_Pnt> points = edgePoints(topology, e);
        if (points.size() < 2) continue;
        if (isInner(*m_part, e)) {
            smooth.lines.push_back(std::move(points));
            continue;
        }
        switch (edgeAngle(topology, e, 0.05).kind) {
            case EdgeKind::Smooth:
                // A seam is no edge of the thing, only of its description.
                if (topology.usesOf(e)[0].face != topology.usesOf(e)[1].face) smooth.lines.push_back(std::move(points));
                break;
            case EdgeKind::Open: {
                TopoDS_Vertex start, end;
                TopExp::Vertices(topology.edge(e), start, end);
                if (topology.facesAt(e) == 0) {
                    // A wire, a beam's line: it bounds nothing and so is not open. Its ends are nodes.
                    for (const TopoDS_Vertex& vertex : {start, end}) nodes.push_back(BRep_Tool::Pnt(vertex));
                    wires.lines.push_back(std::move(points));
                    break;
                }
                ++openAt[topology.vertexNumber(start)];
                ++openAt[topology.vertexNumber(end)];
                open.lines.push_back(std::move(points));
                break;
            }
            case EdgeKind::Many:
                many.lines.push_back(std::move(points));
                break;
            case EdgeKind::Concave:
                if (m_look.convexity) {
                    concave.lines.push_back(std::move(points));
                    break;
                }
                [[fallthrough]];
            default:
                sharp.lines.push_back(std::move(points));
        }
    }
    const auto draw = [&presentation](const Class& edges, const Quantity_Color& colour, double width,
                                      Aspect_TypeOfLine type) {
        if (edges.lines.empty()) return;
        int count = 0;
        for (const auto& line : edges.lines) count += static_cast<int>(line.size()) - 1;
        const Handle(Graphic3d_ArrayOfSegments) array = new Graphic3d_ArrayOfSegments(2 * count);
        for (const auto& line : edges.lines)
            for (std::size_t i = 0; i + 1 < line.size(); ++i) {
                array->AddVertex(line[i]);
                array->AddVertex(line[i + 1]);
            }
        const Handle(Graphic3d_Group) group = presentation->NewGroup();
        group->SetPrimitivesAspect(new Graphic3d_AspectLine3d(colour, type, width));
        group->AddPrimitiveArray(array);
    };
    const auto mixed = [](const QColor& a, const QColor& b, double share) {
        return QColor::fromRgbF(static_cast<float>(a.redF() * share + b.redF() * (1 - share)),
                                static_cast<float>(a.greenF() * share + b.greenF() * (1 - share)),
                                static_cast<float>(a.blueF() * share + b.blueF() * (1 - share)));
    };
    if (m_look.ghost) {
        for (const Class* edges : {&sharp, &open, &many, &concave, &wires})
            draw(*edges, kernelColour(mixed(m_palette.bodyEdge, m_palette.stage, 0.28)), 1.0, Aspect_TOL_SOLID);
        return;
    }
    draw(concave, kernelColour(m_palette.plum), 2.4, Aspect_TOL_DASH);
    draw(smooth, kernelColour(mixed(m_palette.bodyEdge, m_palette.body, 0.30)), 1.0, Aspect_TOL_SOLID);
    if (m_look.convexity)
        draw(sharp, kernelColour(m_palette.cobalt), 2.0, Aspect_TOL_SOLID);
    else
        draw(sharp, kernelColour(m_palette.bodyEdge), 1.3, Aspect_TOL_SOLID);
    draw(wires, kernelColour(m_palette.bodyEdge), 3.2, Aspect_TOL_SOLID);
    draw(open, kernelColour(m_palette.stage), 4.4, Aspect_TOL_SOLID);
    draw(open, kernelColour(m_palette.vermilion), 2.6, Aspect_TOL_DASH);
    draw(many, kernelColour(m_palette.bodyEdge), 5.4, Aspect_TOL_SOLID);
    draw(many, kernelColour(m_palette.stage), 2.4, Aspect_TOL_SOLID);
    TopTools_IndexedMapOfShape vertices;
    if (!openAt.empty()) TopExp::MapShapes(m_part->shape, TopAbs_VERTEX, vertices);
    for (int v = 1; v <= vertices.Extent(); ++v) {
        const auto found = openAt.find(topology.vertexNumber(vertices(v)));
        if (found != openAt.end() && found->second == 1)
            openEnds.push_back(BRep_Tool::Pnt(TopoDS::Vertex(vertices(v))));
    }
    const auto mark = [&presentation](const std::vector<gp_Pnt>& points, const Quantity_Color& colour) {
        if (points.empty()) return;
        const Handle(Graphic3d_ArrayOfPoints) dots = new Graphic3d_ArrayOfPoints(static_cast<int>(points.size()));
        for (const gp_Pnt& point : points) dots->AddVertex(point);
        const Handle(Graphic3d_Group) group = presentation->NewGroup();
        group->SetPrimitivesAspect(new Graphic3d_AspectMarker3d(Aspect_TOM_BALL, colour, 1.2));
        group->AddPrimitiveArray(dots);
    };
    mark(openEnds, kernelColour(m_palette.vermilion));
    mark(nodes, kernelColour(m_palette.bodyEdge));
}

}  // namespace rasoir::app
