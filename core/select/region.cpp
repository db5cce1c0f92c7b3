#include "select/region.h"

#include <tbb/parallel_for.h>

#include <BRepAdaptor_Curve.hxx>
#include <Poly_PolygonOnTriangulation.hxx>
#include <Poly_Triangulation.hxx>

namespace rasoir::select {
namespace {

double cross(const ScreenPoint& o, const ScreenPoint& a, const ScreenPoint& b) {
    return (a[0] - o[0]) * (b[1] - o[1]) - (a[1] - o[1]) * (b[0] - o[0]);
}

bool segmentsCross(const ScreenPoint& a, const ScreenPoint& b, const ScreenPoint& c, const ScreenPoint& d) {
    const double c1 = cross(a, b, c), c2 = cross(a, b, d), c3 = cross(c, d, a), c4 = cross(c, d, b);
    return ((c1 > 0) != (c2 > 0)) && ((c3 > 0) != (c4 > 0));
}

bool inTriangle(const ScreenPoint& p, const ScreenPoint& a, const ScreenPoint& b, const ScreenPoint& c) {
    const double x = cross(a, b, p), y = cross(b, c, p), z = cross(c, a, p);
    return (x >= 0 && y >= 0 && z >= 0) || (x <= 0 && y <= 0 && z <= 0);
}

bool crossesOutline(const std::vector<ScreenPoint>& outline, const ScreenPoint& a, const ScreenPoint& b) {
    for (std::size_t i = 0; i < outline.size(); ++i)
        if (segmentsCross(a, b, outline[i], outline[(i + 1) % outline.size()])) return true;
    return false;
}

}  // namespace

bool inside(const std::vector<ScreenPoint>& outline, const ScreenPoint& p) {
    bool in = false;
    for (std::size_t i = 0, j = outline.size() - 1; i < outline.size(); j = i++) {
        const ScreenPoint &a = outline[i], &b = outline[j];
        if ((a[1] > p[1]) != (b[1] > p[1]) && p[0] < (b[0] - a[0]) * (p[1] - a[1]) / (b[1] - a[1]) + a[0]) in = !in;
    }
    return in;
}

ScreenMap::ScreenMap(const Model& model, const std::vector<std::size_t>& occurrences, Projection projection)
    : m_projection(std::move(projection)) {
    for (const std::size_t o : occurrences) {
        const Occurrence& occurrence = model.occurrences[o];
        const Part& part = *model.parts[occurrence.part];
        if (part.shape.IsNull()) continue;
        const Incidence& topology = part.incidence();
        for (int f = 1; f <= topology.faceCount(); ++f) {
            TopLoc_Location place;
            const Handle(Poly_Triangulation) mesh = BRep_Tool::Triangulation(topology.face(f), place);
            if (mesh.IsNull()) continue;
            Patch patch;
            patch.item.occurrence = o;
            patch.item.face = f;
            patch.body = topology.bodyOf(f) + 1;
            const gp_Trsf by = occurrence.placement * place.Transformation();
            for (int i = 1; i <= mesh->NbNodes(); ++i) patch.points.push_back(mesh->Node(i).Transformed(by));
            for (int t = 1; t <= mesh->NbTriangles(); ++t) {
                int a = 0, b = 0, c = 0;
                mesh->Triangle(t).Get(a, b, c);
                patch.triangles.push_back({a - 1, b - 1, c - 1});
            }
            m_faces.push_back(std::move(patch));
        }
        for (int e = 1; e <= topology.edgeCount(); ++e) {
            const TopoDS_Edge edge = topology.edge(e);
            if (BRep_Tool::Degenerated(edge)) continue;
            Patch patch;
            patch.item.occurrence = o;
            patch.item.edge = e;
            for (const EdgeUse& use : topology.usesOf(e)) {
                TopLoc_Location place;
                const Handle(Poly_Triangulation) mesh = BRep_Tool::Triangulation(topology.face(use.face), place);
                const Handle(Poly_PolygonOnTriangulation) line =
                    mesh.IsNull() ? Handle(Poly_PolygonOnTriangulation)()
                                  : BRep_Tool::PolygonOnTriangulation(edge, mesh, place);
                if (line.IsNull()) continue;
                for (int i = 1; i <= line->NbNodes(); ++i)
                    patch.points.push_back(
                        mesh->Node(line->Node(i)).Transformed(occurrence.placement * place.Transformation()));
                break;
            }
            double first = 0.0, last = 0.0;
            if (patch.points.empty() && !BRep_Tool::Curve(edge, first, last).IsNull()) {
                const BRepAdaptor_Curve curve(edge);
                for (int i = 0; i <= 24; ++i)
                    patch.points.push_back(
                        curve.Value(first + (last - first) * i / 24).Transformed(occurrence.placement));
            }
            if (patch.points.size() > 1) m_edges.push_back(std::move(patch));
        }
        TopTools_IndexedMapOfShape vertices;
        TopExp::MapShapes(part.shape, TopAbs_VERTEX, vertices);
        for (int v = 1; v <= vertices.Extent(); ++v) {
            Patch patch;
            patch.item.occurrence = o;
            patch.item.vertex = topology.vertexNumber(vertices(v));
            patch.points = {BRep_Tool::Pnt(TopoDS::Vertex(vertices(v))).Transformed(occurrence.placement)};
            m_vertices.push_back(std::move(patch));
        }
    }
    for (auto* patches : {&m_faces, &m_edges, &m_vertices})
        tbb::parallel_for(std::size_t{0}, patches->size(), [&](std::size_t i) {
            Patch& patch = (*patches)[i];
            patch.nodes.reserve(patch.points.size());
            patch.low = {std::numeric_limits<double>::max(), std::numeric_limits<double>::max()};
            patch.high = {-patch.low[0], -patch.low[1]};
            for (const gp_Pnt& point : patch.points) {
                const ScreenPoint at = m_projection.toScreen(point);
                patch.nodes.push_back(at);
                for (std::size_t k = 0; k < 2; ++k) {
                    patch.low[k] = std::min(patch.low[k], at[k]);
                    patch.high[k] = std::max(patch.high[k], at[k]);
                }
            }
        });
}

bool ScreenMap::takes(const Patch& patch, const RegionWanted& wanted, const ScreenPoint& low,
                      const ScreenPoint& high) const {
    const std::vector<ScreenPoint>& outline = wanted.outline;
    for (std::size_t k = 0; k < 2; ++k)
        if (wanted.touched ? (patch.low[k] > high[k] || patch.high[k] < low[k])
                           : (patch.low[k] < low[k] || patch.high[k] > high[k]))
            return false;
    const auto isLine = patch.triangles.empty();
    bool in = false;
    if (!wanted.touched) {
        in = std::all_of(patch.nodes.begin(), patch.nodes.end(),
                         [&](const ScreenPoint& p) { return inside(outline, p); });
        // A lasso with bays: the sides must not leave it either.
        if (in && outline.size() > 4) {
            if (isLine)
                for (std::size_t i = 0; i + 1 < patch.nodes.size() && in; ++i)
                    in = !crossesOutline(outline, patch.nodes[i], patch.nodes[i + 1]);
            for (std::size_t t = 0; t < patch.triangles.size() && in; ++t)
                for (std::size_t i = 0; i < 3 && in; ++i)
                    in = !crossesOutline(outline, patch.nodes[static_cast<std::size_t>(patch.triangles[t][i])],
                                         patch.nodes[static_cast<std::size_t>(patch.triangles[t][(i + 1) % 3])]);
        }
    } else {
        in = std::any_of(patch.nodes.begin(), patch.nodes.end(),
                         [&](const ScreenPoint& p) { return inside(outline, p); });
        if (!in && isLine)
            for (std::size_t i = 0; i + 1 < patch.nodes.size() && !in; ++i)
                in = crossesOutline(outline, patch.nodes[i], patch.nodes[i + 1]);
        for (std::size_t t = 0; t < patch.triangles.size() && !in; ++t) {
            const auto corner = [&](std::size_t i) -> const ScreenPoint& {
                return patch.nodes[static_cast<std::size_t>(patch.triangles[t][i])];
            };
            for (std::size_t i = 0; i < 3 && !in; ++i) in = crossesOutline(outline, corner(i), corner((i + 1) % 3));
            in = in ||
                 inTriangle(outline.front(), corner(0), corner(1), corner(2));  // the whole outline within one triangle
        }
    }
    if (!in || wanted.seenIn == nullptr) return in;
    // Seen: some point of it that lies in the region has a free way to the eye.
    const double off = 1e-4 * wanted.seenIn->extent();
    const auto seen = [&](const gp_Pnt& point) {
        const gp_Dir eye = m_projection.towardsEye(point);
        return !wanted.seenIn->blocked(point.Translated(gp_Vec(eye) * off), eye, 0.0);
    };
    if (isLine) {
        for (std::size_t i = 0; i + 1 < patch.points.size(); ++i) {
            const gp_Pnt middle(0.5 * (patch.points[i].XYZ() + patch.points[i + 1].XYZ()));
            if (inside(outline, m_projection.toScreen(middle)) && seen(middle)) return true;
        }
        return std::any_of(patch.points.begin(), patch.points.end(),
                           [&](const gp_Pnt& p) { return inside(outline, m_projection.toScreen(p)) && seen(p); });
    }
    for (const auto& t : patch.triangles) {
        const auto& p = patch.points;
        const gp_XYZ &a = p[static_cast<std::size_t>(t[0])].XYZ(), &b = p[static_cast<std::size_t>(t[1])].XYZ(),
                     &c = p[static_cast<std::size_t>(t[2])].XYZ();
        // The middle, and points nearer the corners: long triangles are often half covered.
        for (const auto& [u, v, w] :
             {std::array{1.0 / 3, 1.0 / 3, 1.0 / 3}, {0.8, 0.1, 0.1}, {0.1, 0.8, 0.1}, {0.1, 0.1, 0.8}}) {
            const gp_Pnt point(a * u + b * v + c * w);
            if (inside(outline, m_projection.toScreen(point)) && seen(point)) return true;
        }
        // A region smaller than the triangle: its own corners and middle, lifted onto the triangle.
        const auto &sa = patch.nodes[static_cast<std::size_t>(t[0])], &sb = patch.nodes[static_cast<std::size_t>(t[1])],
                   &sc = patch.nodes[static_cast<std::size_t>(t[2])];
        const double whole = cross(sa, sb, sc);
        if (whole == 0.0) continue;
        const auto lifted = [&](const ScreenPoint& at) {
            return gp_Pnt(a * (cross(sb, sc, at) / whole) + b * (cross(sc, sa, at) / whole) +
                          c * (cross(sa, sb, at) / whole));
        };
        const ScreenPoint middle{0.5 * (low[0] + high[0]), 0.5 * (low[1] + high[1])};
        if (inside(outline, middle) && inTriangle(middle, sa, sb, sc) && seen(lifted(middle))) return true;
        for (const ScreenPoint& corner : outline)
            if (inTriangle(corner, sa, sb, sc) && seen(lifted(corner))) return true;
    }
    return false;
}

std::vector<Pick> ScreenMap::find(const RegionWanted& wanted) const {
    std::vector<Pick> found;
    if (wanted.outline.size() < 3) return found;
    ScreenPoint low = wanted.outline.front(), high = low;
    for (const ScreenPoint& p : wanted.outline)
        for (std::size_t k = 0; k < 2; ++k) {
            low[k] = std::min(low[k], p[k]);
            high[k] = std::max(high[k], p[k]);
        }
    const std::vector<Patch>& patches = wanted.kind == PickKind::Edge     ? m_edges
                                        : wanted.kind == PickKind::Vertex ? m_vertices
                                                                          : m_faces;
    std::vector<char> taken(patches.size(), 0);
    // Of parts and bodies the far side need not be seen: where they lie is judged first, whether anything of them is
    // seen after.
    const bool whole = wanted.kind == PickKind::Part || wanted.kind == PickKind::Body;
    RegionWanted where = wanted;
    if (whole) where.seenIn = nullptr;
    tbb::parallel_for(std::size_t{0}, patches.size(),
                      [&](std::size_t i) { taken[i] = takes(patches[i], where, low, high) ? 1 : 0; });
    if (wanted.kind != PickKind::Part && wanted.kind != PickKind::Body) {
        for (std::size_t i = 0; i < patches.size(); ++i)
            if (taken[i] != 0) found.push_back(patches[i].item);
        return found;
    }
    // Parts and bodies: wholly inside when all their faces are, touched when one is.
    std::map<Pick, std::pair<std::size_t, std::size_t>> counts;  // taken, all
    std::map<Pick, std::vector<std::size_t>> patchesOf;
    for (std::size_t i = 0; i < patches.size(); ++i) {
        Pick owner;
        owner.occurrence = patches[i].item.occurrence;
        if (wanted.kind == PickKind::Body) owner.body = patches[i].body;
        auto& [in, all] = counts[owner];
        in += taken[i] != 0;
        ++all;
        if (taken[i] != 0) patchesOf[owner].push_back(i);
    }
    for (const auto& [owner, count] : counts) {
        if (wanted.touched ? count.first == 0 : count.first < count.second) continue;
        const auto& own = patchesOf[owner];
        if (wanted.seenIn == nullptr ||
            std::any_of(own.begin(), own.end(), [&](std::size_t i) { return takes(patches[i], wanted, low, high); }))
            found.push_back(owner);
    }
    return found;
}

}  // namespace rasoir::select
