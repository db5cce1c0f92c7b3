#include "reduce/drawn_body.h"

#include <BRep_Tool.hxx>
#include <BRepMesh_IncrementalMesh.hxx>
#include <Poly_Triangulation.hxx>
#include <TopoDS.hxx>

#include "common/guard.h"
#include "common/tolerance.h"
#include "geometry/extent.h"
#include "reduce/section_outline.h"

namespace rasoir::reduce {

std::pair<double, double> offsetAndHalf(const Thickness& own, const gp_Pnt& at) {
    return {own.offset, 0.5 * (own.at + own.gradient.Dot(gp_Vec(own.from, at)))};
}

namespace {

void meshed(const TopoDS_Shape& shape, double deviation) {
    (void)guarded("Drawing", [&]() -> Result<void> {
        const BRepMesh_IncrementalMesh mesh(shape, std::max(deviation, Tolerance::least), false, 0.35,
                                            true);  // keeps finer ones
        return {};
    });
}

class Drawer {
public:
    Drawer(const Part& part, DrawnBody& body) : m_part(part), m_body(body) {}

    void face(int number, const Thickness& own) {
        TopLoc_Location place;
        const TopoDS_Face shape = m_part.incidence().face(number);
        const Handle(Poly_Triangulation) mesh = BRep_Tool::Triangulation(shape, place);
        if (mesh.IsNull()) return;
        const Handle(Geom_Surface) surface = BRep_Tool::Surface(shape);
        const bool reversed = shape.Orientation() == TopAbs_REVERSED;
        const int first = static_cast<int>(m_body.points.size()), count = mesh->NbNodes();
        // Node n above is at first + 2 (n - 1), below it right behind.
        for (int n = 1; n <= count; ++n) {
            const gp_Pnt at = mesh->Node(n).Transformed(place.Transformation());
            gp_Vec normal;
            if (mesh->HasUVNodes()) {
                gp_Pnt there;
                gp_Vec du, dv;
                surface->D1(mesh->UVNode(n).X(), mesh->UVNode(n).Y(), there, du, dv);
                normal = du.Crossed(dv);
            }
            if (normal.Magnitude() > Tolerance::divisible) normal.Normalize();
            if (reversed) normal.Reverse();
            const auto [offset, half] = offsetAndHalf(own, at);
            m_body.points.push_back(at.Translated(normal * (offset + half)));
            m_body.points.push_back(at.Translated(normal * (offset - half)));
        }
        const auto add = [&](int a, int b, int c) {
            m_body.triangles.push_back({a, b, c});
            m_body.from.push_back(number);
        };
        std::map<std::pair<int, int>, int> sides;  // edges of the triangulation that one triangle has: its rim
        for (int t = 1; t <= mesh->NbTriangles(); ++t) {
            int n[3];
            mesh->Triangle(t).Get(n[0], n[1], n[2]);
            if (reversed) std::swap(n[1], n[2]);
            const auto above = [&](int i) { return first + 2 * (n[i] - 1); };
            add(above(0), above(1), above(2));
            add(above(0) + 1, above(2) + 1, above(1) + 1);
            for (int i = 0; i < 3; ++i) {
                const int a = n[i], b = n[(i + 1) % 3];
                const auto known = sides.find({b, a});
                if (known != sides.end())
                    sides.erase(known);
                else
                    sides[{a, b}] = t;
            }
        }
        for (const auto& [side, triangle] : sides) {
            const int a = first + 2 * (side.first - 1), b = first + 2 * (side.second - 1);
            if (!isFree(m_body.points[static_cast<std::size_t>(a)], m_body.points[static_cast<std::size_t>(a) + 1],
                        number))
                continue;
            add(a, a + 1, b);
            add(b, a + 1, b + 1);
        }
    }

    void beam(int number, const Section& own) {
        const BRepAdaptor_Curve curve(m_part.incidence().edge(number));
        const int steps = curve.GetType() == GeomAbs_Line ? 1 : 24;
        for (const auto& loop : outlinesOf(own)) {
            const int begin = static_cast<int>(m_body.points.size()), around = static_cast<int>(loop.size());
            for (int i = 0; i <= steps; ++i) {
                const SectionPlace place = placeOfSection(curve, own, static_cast<double>(i) / steps);
                for (const gp_XY& corner : loop)
                    m_body.points.push_back(place.middle.Translated(place.up * corner.X() + place.across * corner.Y()));
            }
            for (int i = 0; i < steps; ++i)
                for (int k = 0; k < around; ++k) {
                    const int a = begin + i * around + k, b = begin + i * around + (k + 1) % around;
                    m_body.triangles.push_back({a, b, a + around});
                    m_body.triangles.push_back({b, b + around, a + around});
                    m_body.from.insert(m_body.from.end(), 2, -number);
                }
        }
    }

private:
    const Part& m_part;
    DrawnBody& m_body;

    /// Whether the side of a triangulation between two skins lies on a free edge: near none that others share.
    [[nodiscard]] bool isFree(const gp_Pnt& above, const gp_Pnt& below, int face) const {
        const gp_Pnt at(0.5 * (above.XYZ() + below.XYZ()));
        double nearest = 1e300;
        bool free = true;
        for (const int e : m_part.incidence().edgesOf(face)) {
            const EdgeSamples& samples = samplesOf(e);
            for (const gp_Pnt& point : samples)
                if (const double off = point.SquareDistance(at); off < nearest) {
                    nearest = off;
                    free = m_part.incidence().facesAt(e) == 1;
                }
        }
        return free;
    }
    using EdgeSamples = std::vector<gp_Pnt>;
    const EdgeSamples& samplesOf(int edge) const {
        auto& known = m_samples[edge];
        if (known.empty()) {
            const BRepAdaptor_Curve curve(m_part.incidence().edge(edge));
            for (int i = 0; i <= 48; ++i)
                known.push_back(
                    curve.Value(curve.FirstParameter() + (curve.LastParameter() - curve.FirstParameter()) * i / 48.0));
        }
        return known;
    }
    mutable std::map<int, EdgeSamples> m_samples;
};

}  // namespace

DrawnBody drawnBody(const Part& part, double relativeDeviation, Progress& progress) {
    DrawnBody body;
    meshed(part.shape, relativeDeviation * std::sqrt(tightBox(part.shape).SquareExtent()));
    Drawer drawer(part, body);
    for (const auto& [thing, thickness] : part.known.thickness) {
        if (progress.cancelled()) break;
        if (thing.kind == EntityKind::Face && thing.number <= part.incidence().faceCount())
            drawer.face(thing.number, thickness);
    }
    for (const auto& [thing, section] : part.known.sections)
        if (thing.kind == EntityKind::Edge && thing.number <= part.incidence().edgeCount())
            drawer.beam(thing.number, section);
    return body;
}

}  // namespace rasoir::reduce
