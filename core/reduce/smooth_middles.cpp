#include "reduce/smooth_middles.h"

#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepLib.hxx>
#include <Geom2d_Line.hxx>
#include <Geom2d_TrimmedCurve.hxx>
#include <Geom_Circle.hxx>
#include <Geom_CylindricalSurface.hxx>
#include <Geom_Line.hxx>
#include <gp_Circ.hxx>
#include <gp_Lin.hxx>
#include <gp_Lin2d.hxx>
#include <TopExp.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Iterator.hxx>
#include <TopoDS_Shell.hxx>
#include <TopoDS_Vertex.hxx>

#include "common/sets.h"
#include "common/tolerance.h"
#include "geometry/integrals.h"
#include "geometry/moved_surface.h"
#include "reduce/freeform_walls.h"
#include "topology/edge_angle.h"
#include "topology/making.h"

// A wall has two sides, each a possible beginning. Sides of different walls hang together where faces of theirs meet
// smoothly and the walls are as thick as each other; of the connected sets the largest are taken, each wall once: of a
// tray the outer skin, say. Its faces are then made anew on surfaces offset inwards by half the thickness. Edges and
// vertices between them are made once and used by all, as they were.

namespace rasoir::reduce {
namespace {

constexpr double sameThickness = 1e-4;  // of it
constexpr double smooth = 0.02;         // [rad]
constexpr double upright = 0.02;        // [rad] a rim that leans is cut out of what was carried on past it

/// The curve that a trace makes on a surface, in step with it: a line or circle where it runs along the surface's own
/// lines; else null, and to be approximated.
Handle(Geom_Curve) curveAlong(const Handle(Geom_Surface) & surface, const Handle(Geom2d_Curve) & trace) {
    Handle(Geom2d_Curve) basis = trace;
    while (const auto trimmed = Handle(Geom2d_TrimmedCurve)::DownCast(basis)) basis = trimmed->BasisCurve();
    const auto line = Handle(Geom2d_Line)::DownCast(basis);
    if (line.IsNull()) return {};
    const gp_Pnt2d at = line->Lin2d().Location();
    const gp_Dir2d along = line->Lin2d().Direction();
    constexpr double exact = 1e-12;  // an end's own number that was copied, not computed
    const bool alongV = std::abs(along.X()) < exact, alongU = std::abs(along.Y()) < exact;
    if (!alongU && !alongV) return {};
    const Handle(Geom_Curve) iso = alongV ? surface->UIso(at.X()) : surface->VIso(at.Y());
    const double begin = alongV ? at.Y() : at.X(), sense = alongV ? along.Y() : along.X();
    if (const auto straight = Handle(Geom_Line)::DownCast(iso)) {
        const gp_Dir way = straight->Lin().Direction();
        return new Geom_Line(straight->Value(begin), sense > 0.0 ? way : way.Reversed());
    }
    if (const auto round = Handle(Geom_Circle)::DownCast(iso)) {
        const gp_Ax2 place = round->Circ().Position();
        const gp_Dir x = place.XDirection().Rotated(gp_Ax1(place.Location(), place.Direction()), begin);
        const gp_Dir axis = sense > 0.0 ? place.Direction() : place.Direction().Reversed();
        return new Geom_Circle(gp_Ax2(place.Location(), axis, x), round->Radius());
    }
    return {};
}

/// The same by approximation, with what it strays from the surface.
std::pair<Handle(Geom_Curve), double> fittedAlong(const Handle(Geom_Surface) & surface,
                                                  const Handle(Geom2d_Curve) & trace, double first, double last) {
    TopoDS_Edge edge = BRepBuilderAPI_MakeEdge(trace, surface, first, last);
    if (edge.IsNull() || !BRepLib::BuildCurve3d(edge, Tolerance::least)) return {};
    return {BRep_Tool::Curve(edge, first, last), BRep_Tool::Tolerance(edge)};
}

class SheetMaker {
public:
    SheetMaker(const Part& part, const std::vector<Wall>& walls) : m_topology(part.incidence()), m_walls(walls) {}

    /// None where a face cannot be offset, or its edges do not come to lie on one another.
    std::optional<SmoothMiddle> make(const std::vector<std::pair<int, int>>& facesAndWalls) {
        SmoothMiddle made;
        TopoDS_Shell shell;
        m_builder.MakeShell(shell);
        std::vector<std::pair<TopoDS_Face, int>> faces;
        for (const auto& [number, wall] : facesAndWalls) {
            const auto face = faceOf(number, m_walls[static_cast<std::size_t>(wall)]);
            if (!face) return std::nullopt;
            m_builder.Add(shell, *face);
            faces.emplace_back(*face, wall);
        }
        made.shape = shell;
        const Incidence topology(shell);
        for (const auto& [face, wall] : faces) made.wallOf[topology.faceNumber(face)] = wall;
        return made;
    }

private:
    const Incidence& m_topology;
    const std::vector<Wall>& m_walls;
    BRep_Builder m_builder;
    std::map<int, TopoDS_Edge> m_edges;       // by number in the part
    std::map<int, TopoDS_Vertex> m_vertices;  // the same

    TopoDS_Vertex vertexAt(const TopoDS_Shape& old, const gp_Pnt& point) {
        TopoDS_Vertex& vertex = m_vertices[m_topology.vertexNumber(old)];
        if (vertex.IsNull())
            m_builder.MakeVertex(vertex, point, Precision::Confusion());
        else
            m_builder.UpdateVertex(vertex, 1.01 * BRep_Tool::Pnt(vertex).Distance(point) + Precision::Confusion());
        return vertex;
    }

    /// The edge with its trace on a face made anew; null where it does not lie there.
    TopoDS_Edge edgeOn(const TopoDS_Edge& old, const TopoDS_Face& oldFace, const Handle(Geom_Surface) & surface) {
        const TopoDS_Edge forward = TopoDS::Edge(old.Oriented(TopAbs_FORWARD));
        double first = 0.0, last = 0.0;
        const Handle(Geom2d_Curve) trace = BRep_Tool::CurveOnSurface(forward, oldFace, first, last);
        if (trace.IsNull()) return {};
        const int number = m_topology.edgeNumber(old);
        const bool known = m_edges.contains(number);
        TopoDS_Edge& edge = m_edges[number];
        const auto at = [&](double parameter) {
            const gp_Pnt2d uv = trace->Value(parameter);
            return surface->Value(uv.X(), uv.Y());
        };
        if (!known) {
            TopoDS_Vertex a, b;
            TopExp::Vertices(forward, a, b);
            if (a.IsNull() || b.IsNull()) return {};
            const TopoDS_Vertex from = vertexAt(a, at(first)), to = vertexAt(b, at(last));
            if (BRep_Tool::Degenerated(forward))
                return edge = poleEdge(from, trace, first, last, surface, TopLoc_Location());
            Handle(Geom_Curve) curve = curveAlong(surface, trace);
            double strays = 0.0;
            if (curve.IsNull()) std::tie(curve, strays) = fittedAlong(surface, trace, first, last);
            if (curve.IsNull()) return {};
            edge = edgeAlong(curve, first, last, from, to, strays);
            addTrace(edge, forward, oldFace, trace, surface);
            return edge;
        }
        if (BRep_Tool::Degenerated(edge)) return {};  // a pole is of one face
        double from = 0.0, to = 0.0;
        const Handle(Geom_Curve) curve = BRep_Tool::Curve(edge, from, to);
        if (curve.IsNull()) return {};
        double off = 0.0;
        for (int i = 0; i <= 8; ++i) {
            const double parameter = first + (last - first) * i / 8.0;
            off = std::max(off, curve->Value(parameter).Distance(at(parameter)));
        }
        if (off > m_sameEdge) return {};
        addTrace(edge, forward, oldFace, trace, surface);
        m_builder.UpdateEdge(edge, 1.01 * off + Precision::Confusion());
        return edge;
    }
    double m_sameEdge = 1e-4;  // [mm] numbers in files are rounded

    /// A seam has a trace for each of its sides.
    void addTrace(const TopoDS_Edge& edge, const TopoDS_Edge& forward, const TopoDS_Face& oldFace,
                  const Handle(Geom2d_Curve) & trace, const Handle(Geom_Surface) & surface) {
        if (BRep_Tool::IsClosed(forward, oldFace)) {
            double first = 0.0, last = 0.0;
            const Handle(Geom2d_Curve) other =
                BRep_Tool::CurveOnSurface(TopoDS::Edge(forward.Reversed()), oldFace, first, last);
            putTraces(edge, trace, other, surface, TopLoc_Location(), Tolerance::least);
        } else {
            putTrace(edge, trace, surface, TopLoc_Location(), Tolerance::least);
        }
    }

    /// The surface midway in a wall, with the parameters of its face on one side. An uneven bend's is not an offset of
    /// either side: it lies about an axis between theirs.
    Handle(Geom_Surface) middleFor(int number, const Wall& wall) const {
        const TopoDS_Face face = m_topology.face(number);
        if (wall.freeform) {
            if (number == wall.sideA.front()) return wall.middle;
            if (const auto simple = offsetSurface(face, -0.5 * wall.thickness); !simple.IsNull()) return simple;
            // A fifth of what counts as the same thickness.
            return freeformOffset(face, -0.5 * wall.thickness, wall.thickness, 2e-4 * wall.thickness);
        }
        if (wall.uneven == 0.0) return offsetSurface(face, -0.5 * wall.thickness);
        const auto round = Handle(Geom_CylindricalSurface)::DownCast(copiedSurface(face).first);
        const auto middle = Handle(Geom_CylindricalSurface)::DownCast(wall.middle);
        if (round.IsNull() || middle.IsNull()) return {};
        const gp_Vec off(round->Position().Location(), middle->Position().Location());
        const gp_Vec axis(round->Axis().Direction());
        round->Translate(off - axis * off.Dot(axis));
        round->SetRadius(middle->Radius());
        return Handle(Geom_Surface)(round);
    }

    std::optional<TopoDS_Face> faceOf(int number, const Wall& wall) {
        const TopoDS_Face old = m_topology.face(number), flat = TopoDS::Face(old.Oriented(TopAbs_FORWARD));
        const Handle(Geom_Surface) surface = middleFor(number, wall);
        if (surface.IsNull()) return std::nullopt;
        // Freeform patches follow each other to what their file calls smooth, and so do their offsets.
        if (wall.freeform) m_sameEdge = std::max(m_sameEdge, 5e-3 * wall.thickness);
        TopoDS_Face face = blankFace(surface, TopLoc_Location());
        for (TopoDS_Iterator loop(flat); loop.More(); loop.Next()) {
            if (loop.Value().ShapeType() != TopAbs_WIRE) return std::nullopt;
            TopoDS_Wire wire;
            m_builder.MakeWire(wire);
            std::set<int> seen;
            for (TopoDS_Iterator it(loop.Value()); it.More(); it.Next()) {
                const TopoDS_Edge edge = TopoDS::Edge(it.Value());
                const int known = m_topology.edgeNumber(edge);
                // The second use of a seam has its trace already.
                const TopoDS_Edge made = seen.insert(known).second ? edgeOn(edge, flat, surface) : m_edges[known];
                if (made.IsNull()) return std::nullopt;
                m_builder.Add(wire, made.Oriented(edge.Orientation()));
            }
            wire.Closed(true);
            m_builder.Add(face, wire);
        }
        return TopoDS::Face(face.Oriented(old.Orientation()));
    }
};

class SmoothSearch {
public:
    SmoothSearch(const Part& part, const std::vector<Wall>& walls)
        : m_part(part), m_topology(part.incidence()), m_walls(walls), m_sets(2 * walls.size()) {}

    SmoothMiddles run() {
        SmoothMiddles found;
        found.carriedOn.assign(m_walls.size(), 1);
        for (std::size_t n = 0; n < 2 * m_walls.size(); ++n)
            for (const int f : sideOf(n)) m_nodesOf[f].push_back(n);
        hangTogether();
        std::map<int, std::vector<std::size_t>> components;
        for (std::size_t n = 0; n < 2 * m_walls.size(); ++n) components[m_sets.root(static_cast<int>(n))].push_back(n);
        std::vector<std::pair<double, std::vector<std::size_t>>> bySize;
        for (auto& [root, nodes] : components) {
            // A freeform wall's surface ends where its faces do: it is made so even when it is alone.
            if (nodes.size() < 2 && !(m_walls[nodes.front() / 2].freeform && nodes.front() % 2 == 0)) continue;
            double area = 0.0;
            for (const std::size_t n : nodes)
                for (const int f : sideOf(n)) area += areaOf(m_topology.face(f));
            bySize.emplace_back(area, std::move(nodes));
        }
        std::stable_sort(bySize.begin(), bySize.end(), [](const auto& a, const auto& b) { return a.first > b.first; });
        std::vector<char> taken(m_walls.size(), 0);
        for (const auto& [area, nodes] : bySize) {
            std::vector<std::pair<int, int>> faces;
            std::set<int> once;
            for (const std::size_t n : nodes)
                if (taken[n / 2] == 0)
                    for (const int f : sideOf(n))
                        if (once.insert(f).second) faces.emplace_back(f, static_cast<int>(n / 2));
            if (faces.size() < 2 && !(faces.size() == 1 && m_walls[faces.front().second].freeform)) continue;
            auto sheet = SheetMaker(m_part, m_walls).make(faces);
            if (!sheet) continue;
            for (const std::size_t n : nodes)
                if (taken[n / 2] == 0) {
                    taken[n / 2] = 1;
                    // Carried on, a freeform patch would run close beside what its neighbours are; and what lies behind
                    // a freeform side has no surface that is the very one carried on.
                    const bool canBe = !m_walls[n / 2].freeform || (n % 2 == 0 && nodes.size() == 1);
                    found.carriedOn[n / 2] = canBe && meetsOthers(n, once);
                }
            found.sheets.push_back(std::move(*sheet));
        }
        return found;
    }

private:
    const Part& m_part;
    const Incidence& m_topology;
    const std::vector<Wall>& m_walls;
    Sets m_sets;                                        // of sides: twice the wall, and which side
    std::map<int, std::vector<std::size_t>> m_nodesOf;  // by face

    [[nodiscard]] const std::vector<int>& sideOf(std::size_t node) const {
        return node % 2 == 0 ? m_walls[node / 2].sideA : m_walls[node / 2].sideB;
    }
    [[nodiscard]] bool isConstant(std::size_t wall) const { return m_walls[wall].growth.SquareMagnitude() == 0.0; }

    void hangTogether() {
        for (int e = 1; e <= m_topology.edgeCount(); ++e) {
            const auto uses = m_topology.usesOf(e);
            if (uses.size() != 2 || uses[0].face == uses[1].face) continue;
            const auto one = m_nodesOf.find(uses[0].face), other = m_nodesOf.find(uses[1].face);
            if (one == m_nodesOf.end() || other == m_nodesOf.end()) continue;
            if (std::abs(edgeAngle(m_topology, e, smooth).turn) > smooth) continue;
            for (const std::size_t a : one->second)
                for (const std::size_t b : other->second) {
                    const double ta = m_walls[a / 2].thickness, tb = m_walls[b / 2].thickness;
                    const double uneven = m_walls[a / 2].uneven + m_walls[b / 2].uneven;
                    if (a / 2 != b / 2 && isConstant(a / 2) && isConstant(b / 2) &&
                        std::abs(ta - tb) <= sameThickness * ta + uneven)
                        m_sets.join(static_cast<int>(a), static_cast<int>(b));
                }
        }
    }

    /// Whether a wall ends on something else than an upright rim or the next face of its sheet.
    [[nodiscard]] bool meetsOthers(std::size_t node, const std::set<int>& sheet) const {
        for (const int f : sideOf(node))
            for (const int e : m_topology.edgesOf(f)) {
                const auto uses = m_topology.usesOf(e);
                if (uses.size() != 2) return true;
                const int other = uses[0].face == f ? uses[1].face : uses[0].face;
                if (other == f || sheet.contains(other)) continue;
                const EdgeAngle angle = edgeAngle(m_topology, e, smooth);
                if (m_nodesOf.contains(other) || angle.kind != EdgeKind::Convex ||
                    std::abs(angle.turn - 0.5 * M_PI) > upright)
                    return true;
            }
        return false;
    }
};

}  // namespace

SmoothMiddles smoothMiddles(const Part& part, const std::vector<Wall>& walls) {
    return SmoothSearch(part, walls).run();
}

std::optional<SmoothMiddle> sheetBehind(const Part& part, const std::vector<Wall>& walls,
                                        const std::vector<std::pair<int, int>>& facesAndWalls) {
    return SheetMaker(part, walls).make(facesAndWalls);
}

}  // namespace rasoir::reduce
