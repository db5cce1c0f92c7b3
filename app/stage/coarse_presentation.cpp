#include "stage/coarse_presentation.h"

#include <Bnd_Box.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepTools.hxx>
#include <BRepTools_WireExplorer.hxx>
#include <gp_Pln.hxx>
#include <Graphic3d_ArrayOfSegments.hxx>
#include <Graphic3d_ArrayOfTriangles.hxx>
#include <Graphic3d_AspectFillArea3d.hxx>
#include <Graphic3d_AspectLine3d.hxx>
#include <Poly_Triangulation.hxx>
#include <Prs3d_ShadingAspect.hxx>
#include <StdPrs_ToolTriangulatedShape.hxx>

#include "geometry/round_surface.h"
#include "stage/part_presentation.h"

namespace rasoir::app {

std::size_t trianglesIn(const Model& model, const std::vector<std::size_t>& occurrences) {
    std::vector<std::size_t> own(model.parts.size(), 0), seen(model.parts.size(), 0);
    std::size_t sum = 0;
    for (const std::size_t o : occurrences) {
        const std::size_t p = model.occurrences[o].part;
        if (seen[p] == 0 && !model.parts[p]->shape.IsNull()) {
            const Incidence& topology = model.parts[p]->incidence();
            for (int f = 1; f <= topology.faceCount(); ++f) {
                TopLoc_Location place;
                const Handle(Poly_Triangulation) mesh = BRep_Tool::Triangulation(topology.face(f), place);
                if (!mesh.IsNull()) own[p] += static_cast<std::size_t>(mesh->NbTriangles());
            }
        }
        seen[p] = 1;
        sum += own[p];
    }
    return sum;
}

std::vector<std::array<int, 3>> earsOf(const std::vector<std::array<double, 2>>& polygon) {
    std::vector<int> ring(polygon.size());
    double area = 0.0;
    for (std::size_t i = 0; i < polygon.size(); ++i) {
        ring[i] = static_cast<int>(i);
        const auto &a = polygon[i], &b = polygon[(i + 1) % polygon.size()];
        area += a[0] * b[1] - a[1] * b[0];
    }
    if (area < 0.0) std::reverse(ring.begin(), ring.end());
    const auto turn = [&polygon](int a, int b, int c) {
        const auto &p = polygon[static_cast<std::size_t>(a)], &q = polygon[static_cast<std::size_t>(b)],
                   &r = polygon[static_cast<std::size_t>(c)];
        return (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0]);
    };
    std::vector<std::array<int, 3>> triangles;
    std::size_t at = 0, idle = 0;
    while (ring.size() > 3 && idle <= ring.size()) {
        const std::size_t n = ring.size();
        const int a = ring[(at + n - 1) % n], b = ring[at % n], c = ring[(at + 1) % n];
        bool ear = turn(a, b, c) > 0.0;
        for (std::size_t i = 0; i < n && ear; ++i) {
            const int p = ring[i];
            if (p != a && p != b && p != c && turn(a, b, p) >= 0.0 && turn(b, c, p) >= 0.0 && turn(c, a, p) >= 0.0)
                ear = false;
        }
        // A corner on a straight side carries nothing; it goes without a triangle.
        if (ear || turn(a, b, c) == 0.0) {
            if (ear) triangles.push_back({a, b, c});
            ring.erase(ring.begin() + static_cast<std::ptrdiff_t>(at % n));
            idle = 0;
            at = at % n;
        } else {
            ++at;
            ++idle;
        }
    }
    if (ring.size() > 3) return {};
    if (ring.size() == 3) triangles.push_back({ring[0], ring[1], ring[2]});
    return triangles;
}

CoarsePresentation::Mesh CoarsePresentation::coarsened(const Part& part, double smallest) {
    Mesh coarse;
    const Incidence& topology = part.incidence();
    for (int f = 1; f <= topology.faceCount(); ++f) {
        const TopoDS_Face face = topology.face(f);
        TopLoc_Location place;
        const Handle(Poly_Triangulation) mesh = BRep_Tool::Triangulation(face, place);
        if (mesh.IsNull()) continue;
        Bnd_Box box;
        for (int i = 1; i <= mesh->NbNodes(); ++i) box.Add(mesh->Node(i));
        if (box.CornerMin().Distance(box.CornerMax()) < smallest) continue;
        const bool reversed = face.Orientation() == TopAbs_REVERSED;
        const int base = static_cast<int>(coarse.nodes.size());
        if (surfaceKind(face) == SurfaceKind::Plane && mesh->NbTriangles() > 12) {
            // The outer loop alone, its curves in few pieces.
            std::vector<gp_Pnt> loop;
            for (BRepTools_WireExplorer it(BRepTools::OuterWire(face), face); it.More(); it.Next()) {
                std::vector<gp_Pnt> points = edgePoints(topology, topology.edgeNumber(it.Current()));
                if (points.size() < 2) continue;
                if (it.Orientation() == TopAbs_REVERSED) std::reverse(points.begin(), points.end());
                const std::size_t step = std::max<std::size_t>(1, (points.size() - 1) / 6);
                for (std::size_t i = 0; i + 1 < points.size(); i += step) loop.push_back(points[i]);
            }
            const gp_Pln plane = BRepAdaptor_Surface(face).Plane();
            std::vector<std::array<double, 2>> flat;
            for (const gp_Pnt& point : loop) {
                const gp_Vec from(plane.Location(), point);
                flat.push_back(
                    {from.Dot(gp_Vec(plane.XAxis().Direction())), from.Dot(gp_Vec(plane.YAxis().Direction()))});
            }
            const auto ears = loop.size() >= 3 ? earsOf(flat) : std::vector<std::array<int, 3>>{};
            if (!ears.empty()) {
                gp_Dir normal = plane.XAxis().Direction().Crossed(plane.YAxis().Direction());
                if (reversed == plane.Direct()) normal.Reverse();
                for (const gp_Pnt& point : loop) {
                    coarse.nodes.push_back(point);
                    coarse.normals.push_back(normal);
                }
                for (const auto& ear : ears) coarse.triangles.push_back({base + ear[0], base + ear[1], base + ear[2]});
                for (std::size_t i = 0; i < loop.size(); ++i)
                    coarse.lines.emplace_back(base + static_cast<int>(i),
                                              base + static_cast<int>((i + 1) % loop.size()));
                continue;
            }
        }
        StdPrs_ToolTriangulatedShape::ComputeNormals(face, mesh);
        for (int i = 1; i <= mesh->NbNodes(); ++i) {
            coarse.nodes.push_back(mesh->Node(i).Transformed(place.Transformation()));
            gp_Dir normal = mesh->Normal(i).Transformed(place.Transformation());
            coarse.normals.push_back(reversed ? normal.Reversed() : normal);
        }
        for (int t = 1; t <= mesh->NbTriangles(); ++t) {
            int a = 0, b = 0, c = 0;
            mesh->Triangle(t).Get(a, b, c);
            coarse.triangles.push_back({base + a - 1, base + b - 1, base + c - 1});
        }
    }
    return coarse;
}

CoarsePresentation::CoarsePresentation(const Model& model, const std::vector<std::size_t>& occurrences, double smallest,
                                       const Palette& palette)
    : m_palette(palette) {
    for (const std::size_t o : occurrences) {
        const auto& part = model.parts[model.occurrences[o].part];
        const auto [it, fresh] = m_meshes.try_emplace(part.get());
        if (fresh) {
            it->second = coarsened(*part, smallest);
            m_keep.push_back(part);
        }
        m_places.emplace_back(part.get(), model.occurrences[o].placement);
    }
    SetInfiniteState(true);
}

void CoarsePresentation::Compute(const Handle(PrsMgr_PresentationManager) &,
                                 const Handle(Prs3d_Presentation) & presentation, const Standard_Integer) {
    int nodes = 0, triangles = 0, lines = 0;
    for (const auto& [part, place] : m_places) {
        const Mesh& mesh = m_meshes.at(part);
        nodes += static_cast<int>(mesh.nodes.size());
        triangles += static_cast<int>(mesh.triangles.size());
        lines += static_cast<int>(mesh.lines.size());
    }
    if (triangles == 0) return;
    const Handle(Graphic3d_ArrayOfTriangles) array = new Graphic3d_ArrayOfTriangles(nodes, 3 * triangles, true);
    const Handle(Graphic3d_ArrayOfSegments) segments = lines > 0 ? new Graphic3d_ArrayOfSegments(2 * lines) : nullptr;
    for (const auto& [part, place] : m_places) {
        const Mesh& mesh = m_meshes.at(part);
        const int base = array->VertexNumber();
        for (std::size_t i = 0; i < mesh.nodes.size(); ++i)
            array->AddVertex(mesh.nodes[i].Transformed(place), mesh.normals[i].Transformed(place));
        for (const auto& t : mesh.triangles) array->AddEdges(base + t[0] + 1, base + t[1] + 1, base + t[2] + 1);
        for (const auto& [a, b] : mesh.lines) {
            segments->AddVertex(mesh.nodes[static_cast<std::size_t>(a)].Transformed(place));
            segments->AddVertex(mesh.nodes[static_cast<std::size_t>(b)].Transformed(place));
        }
    }
    const Handle(Graphic3d_AspectFillArea3d) aspect =
        new Graphic3d_AspectFillArea3d(*myDrawer->ShadingAspect()->Aspect());
    const Graphic3d_MaterialAspect material = paperMaterial();
    aspect->SetFrontMaterial(material);
    aspect->SetBackMaterial(material);
    aspect->SetInteriorColor(kernelColour(m_palette.body));
    aspect->SetPolygonOffsets(Aspect_POM_Fill, 1.0f, 1.0f);
    const Handle(Graphic3d_Group) group = presentation->NewGroup();
    group->SetPrimitivesAspect(aspect);
    group->AddPrimitiveArray(array);
    if (segments.IsNull()) return;
    const Handle(Graphic3d_Group) edges = presentation->NewGroup();
    edges->SetPrimitivesAspect(new Graphic3d_AspectLine3d(kernelColour(m_palette.bodyEdge), Aspect_TOL_SOLID, 1.0));
    edges->AddPrimitiveArray(segments);
}

}  // namespace rasoir::app
