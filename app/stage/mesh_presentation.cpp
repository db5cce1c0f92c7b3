#include "stage/mesh_presentation.h"

#include <Graphic3d_ArrayOfSegments.hxx>
#include <Graphic3d_ArrayOfTriangles.hxx>
#include <Graphic3d_AspectFillArea3d.hxx>
#include <Graphic3d_AspectLine3d.hxx>
#include <Prs3d_ShadingAspect.hxx>

#include "stage/part_presentation.h"

namespace rasoir::app {
namespace {

/// Beyond so many elements their edges are not drawn.
constexpr std::size_t manyElements = 600000;

constexpr float seeThrough = 0.35f;

QColor between(const QColor& a, const QColor& b, double share) {
    const auto mixed = [share](float x, float y) {
        return static_cast<float>((1.0 - share) * static_cast<double>(x) + share * static_cast<double>(y));
    };
    return QColor::fromRgbF(mixed(a.redF(), b.redF()), mixed(a.greenF(), b.greenF()), mixed(a.blueF(), b.blueF()));
}

}  // namespace

std::shared_ptr<const StageMesh> drawnMesh(const Model& model, const mesh::TrialMesh& mesh, mesh::Measure measure,
                                           double limit) {
    auto drawn = std::make_shared<StageMesh>();
    drawn->mesh = mesh::assembled(model, mesh);
    const bool small = mesh::smallIsBad(measure);
    for (const auto& t : drawn->mesh.triangles) {
        const double value = mesh::measured(measure, drawn->mesh.points[static_cast<std::size_t>(t[0])],
                                            drawn->mesh.points[static_cast<std::size_t>(t[1])],
                                            drawn->mesh.points[static_cast<std::size_t>(t[2])]);
        drawn->bad.push_back(small ? value < limit : value > limit);
    }
    return drawn;
}

MeshPresentation::MeshPresentation(std::shared_ptr<const StageMesh> mesh, const Palette& palette)
    : m_mesh(std::move(mesh)), m_palette(palette) {
    SetInfiniteState(true);  // the parts say what "fit" means
}

void MeshPresentation::Compute(const Handle(PrsMgr_PresentationManager) &,
                               const Handle(Prs3d_Presentation) & presentation, const Standard_Integer) {
    const auto point = [this](int p) -> const gp_Pnt& { return m_mesh->mesh.points[static_cast<std::size_t>(p)]; };
    // Each triangle has one of a few tones; those of one tone are drawn together.
    std::vector<QColor> tones{m_palette.body, m_palette.brass};
    std::vector<int> toneOf(m_mesh->mesh.triangles.size(), 0);
    for (std::size_t t = 0; t < toneOf.size() && t < m_mesh->bad.size(); ++t) toneOf[t] = m_mesh->bad[t] ? 1 : 0;
    if (!m_mesh->shades.empty()) {
        constexpr int steps = 9;
        tones.clear();
        for (int i = 0; i < steps; ++i)
            tones.push_back(between(m_palette.body, m_palette.vermilion, i / (steps - 1.0)));
        for (std::size_t t = 0; t < toneOf.size(); ++t)
            toneOf[t] = static_cast<int>(std::lround(std::clamp(m_mesh->shades[t], 0.0, 1.0) * (steps - 1)));
    }
    for (std::size_t tone = 0; tone < tones.size(); ++tone) {
        const auto count = std::count(toneOf.begin(), toneOf.end(), static_cast<int>(tone));
        if (count == 0) continue;
        // Each element with its own normal: elements are flat, and are to be seen as such.
        const Handle(Graphic3d_ArrayOfTriangles) array =
            new Graphic3d_ArrayOfTriangles(static_cast<int>(3 * count), 0, true);
        for (std::size_t t = 0; t < m_mesh->mesh.triangles.size(); ++t) {
            if (toneOf[t] != static_cast<int>(tone)) continue;
            const auto& corners = m_mesh->mesh.triangles[t];
            const gp_Vec across =
                gp_Vec(point(corners[0]), point(corners[1])).Crossed(gp_Vec(point(corners[0]), point(corners[2])));
            const gp_Dir normal = across.SquareMagnitude() > 1e-60 ? gp_Dir(across) : gp::DZ();
            for (const int p : corners) array->AddVertex(point(p), normal);
        }
        const Handle(Graphic3d_AspectFillArea3d) aspect =
            new Graphic3d_AspectFillArea3d(*myDrawer->ShadingAspect()->Aspect());
        Graphic3d_MaterialAspect material = paperMaterial();
        material.SetColor(kernelColour(tones[tone]));
        if (m_mesh->plain) material.SetTransparency(seeThrough);
        aspect->SetFrontMaterial(material);
        aspect->SetBackMaterial(material);
        aspect->SetInteriorColor(kernelColour(tones[tone]));
        aspect->SetFaceCulling(Graphic3d_TypeOfBackfacingModel_DoubleSided);
        aspect->SetPolygonOffsets(Aspect_POM_Fill, 1.0f, 1.0f);  // behind their edges
        const Handle(Graphic3d_Group) group = presentation->NewGroup();
        group->SetPrimitivesAspect(aspect);
        group->AddPrimitiveArray(array);
    }
    if (m_mesh->plain || !m_mesh->shades.empty()) return;
    const auto edgesOf = [this](bool bad) {
        std::vector<std::pair<int, int>> edges;
        for (std::size_t k = 0; k < m_mesh->mesh.triangles.size(); ++k) {
            const auto& t = m_mesh->mesh.triangles[k];
            for (std::size_t i = 0; i < 3 && m_mesh->bad[k] == bad; ++i)
                edges.emplace_back(std::minmax(t[i], t[(i + 1) % 3]));
        }
        std::sort(edges.begin(), edges.end());
        edges.erase(std::unique(edges.begin(), edges.end()), edges.end());
        return edges;
    };
    // Fainter than the edges of parts: there are many, and what falls short shall be seen between them.
    const QColor faint = between(m_palette.bodyEdge, m_palette.body, 0.75);
    const auto draw = [&](const auto& lines, const QColor& colour, double width) {
        if (lines.empty()) return;
        const Handle(Graphic3d_ArrayOfSegments) array =
            new Graphic3d_ArrayOfSegments(2 * static_cast<int>(lines.size()));
        for (const auto& [a, b] : lines) {
            array->AddVertex(point(a));
            array->AddVertex(point(b));
        }
        const Handle(Graphic3d_Group) group = presentation->NewGroup();
        group->SetPrimitivesAspect(new Graphic3d_AspectLine3d(kernelColour(colour), Aspect_TOL_SOLID, width));
        group->AddPrimitiveArray(array);
    };
    if (m_mesh->mesh.triangles.size() <= manyElements) draw(edgesOf(false), faint, 1.0);
    draw(edgesOf(true), m_palette.brassText, 1.4);
    std::vector<std::pair<int, int>> beams;
    for (const auto& line : m_mesh->mesh.lines) beams.emplace_back(line[0], line[1]);
    draw(beams, m_palette.bodyEdge, 3.2);
}

}  // namespace rasoir::app
