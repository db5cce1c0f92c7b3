#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepTools.hxx>
#include <Geom_Plane.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <gp_Pln.hxx>
#include <TopExp.hxx>

#include "common/tolerance.h"
#include "geometry/integrals.h"
#include "survey/hole_finder.h"
#include "topology/edge_angle.h"

// What single faces are to a hole: walls, that is concave cylinders and cones that go far enough round, put into rings
// about one axis; floors, shoulders and rounded rims beside them; and the mouths by which a set of faces opens.

namespace rasoir::survey {

namespace {
constexpr double sameAxisCosine = 1e-8;  // what is missing of one: 1.4e-4 rad, since parts of a hole may be fitted
}

bool HoleFinder::concaveWall(int f) const {
    return m_round[f] && m_round[f]->inward &&
           (m_round[f]->kind == SurfaceKind::Cylinder || m_round[f]->kind == SurfaceKind::Cone);
}

bool HoleFinder::sameAxis(const gp_Ax1& a, const gp_Ax1& b, double allowance) const {
    return std::abs(std::abs(a.Direction().Dot(b.Direction())) - 1.0) < sameAxisCosine &&
           distanceTo(a, b.Location()) < allowance;
}

bool HoleFinder::coaxial(const gp_Ax1& axis, int f, double radius) const {
    if (!m_round[f]) return false;
    if (m_round[f]->kind == SurfaceKind::Sphere)
        return distanceTo(axis, m_round[f]->axis.Location()) < allowanceFor(radius);
    return std::abs(std::abs(axis.Direction().Dot(m_round[f]->axis.Direction())) - 1.0) < sameAxisCosine &&
           distanceTo(axis, m_round[f]->axis.Location()) < allowanceFor(radius);
}

void HoleFinder::findRings() {
    for (int seed = 1; seed < static_cast<int>(m_round.size()); ++seed) {
        if (m_ringOf[seed] >= 0 || !concaveWall(seed)) continue;
        Ring ring;
        ring.surface = *m_round[seed];
        std::vector<int> stack{seed};
        m_ringOf[seed] = static_cast<int>(m_rings.size());
        while (!stack.empty()) {
            const int f = stack.back();
            stack.pop_back();
            ring.faces.push_back(f);
            for (const int g : m_topology.neighboursOf(f)) {
                if (m_ringOf[g] >= 0 || !concaveWall(g) || !sameRound(*m_round[g], ring.surface)) continue;
                m_ringOf[g] = static_cast<int>(m_rings.size());
                stack.push_back(g);
            }
        }
        measure(ring);
        m_rings.push_back(std::move(ring));
    }
}

bool HoleFinder::sameRound(const RoundSurface& a, const RoundSurface& b) const {
    if (a.kind != b.kind || !sameAxis(b.axis, a.axis, allowanceFor(b.radius))) return false;
    const double along = heightOn(b.axis, a.axis.Location());
    const double sign = a.axis.Direction().Dot(b.axis.Direction()) > 0 ? 1.0 : -1.0;
    // Slopes of two halves of one cone, of which a file keeps seven digits.
    return std::abs(b.radius + b.slope * along - a.radius) < allowanceFor(b.radius) &&
           std::abs(sign * a.slope - b.slope) < 1e-5;
}

void HoleFinder::measure(Ring& ring) const {
    ring.low = 1e300;
    ring.high = -1e300;
    std::vector<std::pair<double, double>> arcs;
    const gp_Ax2 frame(ring.surface.axis.Location(), ring.surface.axis.Direction());
    const auto angleOf = [&frame](const gp_Pnt& point) {
        const gp_Vec out(frame.Location(), point);
        return std::atan2(out.Dot(gp_Vec(frame.YDirection())), out.Dot(gp_Vec(frame.XDirection())));
    };
    for (const int f : ring.faces) {
        visitEdgePoints(f, [&](const gp_Pnt& point) {
            const double height = heightOn(ring.surface.axis, point);
            ring.low = std::min(ring.low, height);
            ring.high = std::max(ring.high, height);
        });
        double u0 = 0, u1 = 0, v0 = 0, v1 = 0;
        const TopoDS_Face face = m_topology.face(f);
        BRepTools::UVBounds(face, u0, u1, v0, v1);
        if (m_kind[f] == SurfaceKind::Cylinder || m_kind[f] == SurfaceKind::Cone) {
            if (u1 - u0 >= fullTurn) {
                ring.turn = 2.0 * M_PI;
                continue;
            }
            const Handle(Geom_Surface) surface = BRep_Tool::Surface(face);
            const double middle = angleOf(surface->Value(0.5 * (u0 + u1), 0.5 * (v0 + v1)));
            arcs.emplace_back(middle - 0.5 * (u1 - u0), u1 - u0);
        } else {  // a recognised spline: walk over it
            const Handle(Geom_Surface) surface = BRep_Tool::Surface(face);
            double low[2] = {0, 0}, high[2] = {0, 0};
            double start[2] = {0, 0};
            for (int way = 0; way < 2; ++way) {
                double unrolled = 0.0, previous = 0.0;
                for (int i = 0; i <= 24; ++i) {
                    const double t = i / 24.0;
                    const double angle = angleOf(way == 0 ? surface->Value(u0 + (u1 - u0) * t, 0.5 * (v0 + v1))
                                                          : surface->Value(0.5 * (u0 + u1), v0 + (v1 - v0) * t));
                    if (i == 0)
                        start[way] = angle;
                    else
                        unrolled += std::remainder(angle - previous, 2.0 * M_PI);
                    previous = angle;
                    low[way] = std::min(low[way], unrolled);
                    high[way] = std::max(high[way], unrolled);
                }
            }
            const int way = high[0] - low[0] > high[1] - low[1] ? 0 : 1;
            if (high[way] - low[way] >= fullTurn)
                ring.turn = 2.0 * M_PI;
            else
                arcs.emplace_back(start[way] + low[way], high[way] - low[way]);
        }
    }
    if (ring.turn > 0.0) return;
    // Union of arcs on the circle.
    std::vector<std::pair<double, double>> flat;
    for (auto [from, width] : arcs) {
        from -= 2.0 * M_PI * std::floor(from / (2.0 * M_PI));
        if (from + width > 2.0 * M_PI) {
            flat.emplace_back(from, 2.0 * M_PI);
            flat.emplace_back(0.0, from + width - 2.0 * M_PI);
        } else {
            flat.emplace_back(from, from + width);
        }
    }
    std::sort(flat.begin(), flat.end());
    double reached = 0.0;
    for (const auto& [from, to] : flat) {
        if (to <= reached) continue;
        ring.turn += to - std::max(from, reached);
        reached = to;
    }
}

double HoleFinder::radiusAt(const RoundSurface& surface, double height) const {
    return surface.radius + surface.slope * height;
}

bool HoleFinder::isWall(const Ring& ring) const {
    if (ring.turn >= fullTurn) return true;
    if (ring.turn < openTurn) return false;
    for (const int f : ring.faces)
        for (const int e : m_topology.edgesOf(f)) {
            const auto uses = m_topology.usesOf(e);
            if (uses.size() != 2 || uses[0].face == uses[1].face) continue;
            const int g = uses[0].face == f ? uses[1].face : uses[0].face;
            if (m_ringOf[g] == m_ringOf[f]) continue;
            // Only edges that run down the wall.
            const BRepAdaptor_Curve curve(m_topology.edge(e));
            gp_Pnt point;
            gp_Vec along;
            curve.D1(0.5 * (curve.FirstParameter() + curve.LastParameter()), point, along);
            if (along.Magnitude() < Tolerance::noLength ||
                std::abs(along.Normalized().Dot(gp_Vec(ring.surface.axis.Direction()))) < 0.99)
                continue;
            if (edgeAngle(m_topology, e).kind == EdgeKind::Smooth) return false;
        }
    return true;
}

double HoleFinder::widestOf(const Ring& ring) const {
    if (ring.surface.kind == SurfaceKind::Cylinder) return 2.0 * ring.surface.radius;
    return 2.0 * std::max(std::abs(radiusAt(ring.surface, ring.low)), std::abs(radiusAt(ring.surface, ring.high)));
}

bool HoleFinder::isFloor(int f, const std::vector<char>& inside) const {
    for (const int e : m_topology.edgesOf(f))
        for (const EdgeUse& use : m_topology.usesOf(e))
            if (use.face != f && (!inside[use.face] || edgeAngle(m_topology, e).kind == EdgeKind::Convex)) return false;
    return true;
}

bool HoleFinder::isOpenFloor(int f, const gp_Ax1& axis, const std::vector<char>& inside, double radius) {
    if (m_kind[f] != SurfaceKind::Plane || halfSide(f) > 1.05 * radius) return false;
    const GeomAdaptor_Surface plane(BRep_Tool::Surface(m_topology.face(f)));
    if (std::abs(plane.Plane().Axis().Direction().Dot(axis.Direction())) < 1.0 - sameAxisCosine) return false;
    bool meets = false;
    for (const int e : m_topology.edgesOf(f))
        for (const EdgeUse& use : m_topology.usesOf(e)) {
            if (use.face == f) continue;
            const EdgeKind kind = edgeAngle(m_topology, e).kind;
            if (inside[use.face])
                meets = meets || kind == EdgeKind::Concave;
            else if (kind != EdgeKind::Convex)
                return false;
        }
    return meets;
}

double HoleFinder::halfSide(int f) {
    if (m_halfSide[f] < 0.0) {
        Bnd_Box box;
        visitEdgePoints(f, [&box](const gp_Pnt& point) { box.Add(point); });
        m_halfSide[f] = 0.0;
        if (!box.IsVoid()) {
            const gp_Pnt low = box.CornerMin(), high = box.CornerMax();
            m_halfSide[f] = 0.5 * std::max({high.X() - low.X(), high.Y() - low.Y(), high.Z() - low.Z()});
        }
    }
    return m_halfSide[f];
}

bool HoleFinder::isShoulder(int f, const gp_Ax1& axis, double radius, double& outerRadius) {
    if (m_kind[f] != SurfaceKind::Plane || halfSide(f) > 1.01 * m_limits.stepRatio * m_limits.stepRatio * radius)
        return false;
    const TopoDS_Face face = m_topology.face(f);
    const GeomAdaptor_Surface plane(BRep_Tool::Surface(face));
    if (std::abs(std::abs(plane.Plane().Axis().Direction().Dot(axis.Direction())) - 1.0) > sameAxisCosine) return false;
    outerRadius = 0.0;
    double reach = 0.0;
    visitEdgePoints(f, [&](const gp_Pnt& point) { reach = std::max(reach, distanceTo(axis, point)); });
    for (const int e : m_topology.edgesOf(f)) {
        double farthest = 0.0;
        const BRepAdaptor_Curve curve(m_topology.edge(e));
        for (const double share : {0.1, 0.5, 0.9})
            farthest = std::max(
                farthest, distanceTo(axis, curve.Value(curve.FirstParameter() +
                                                       share * (curve.LastParameter() - curve.FirstParameter()))));
        if (farthest < reach - allowanceFor(reach)) continue;
        const auto uses = m_topology.usesOf(e);
        if (uses.size() != 2) return false;
        const int g = uses[0].face == f ? uses[1].face : uses[0].face;
        if (g == f || !coaxial(axis, g, radius) || !m_round[g]->inward) return false;
        outerRadius = std::max(outerRadius, farthest);
    }
    return outerRadius > 0.0;
}

bool HoleFinder::goesAllRound(int f) const {
    double u0 = 0, u1 = 0, v0 = 0, v1 = 0;
    BRepTools::UVBounds(m_topology.face(f), u0, u1, v0, v1);
    if (u1 - u0 >= fullTurn) return true;
    // Halves: its other half lies beside it on the same surface.
    for (const int g : m_topology.neighboursOf(f))
        if (m_kind[g] == m_kind[f] && sameSurface(m_topology.face(f), m_topology.face(g), 10.0 * m_same)) return true;
    return false;
}

bool HoleFinder::smoothTo(int f, int g) const {
    for (const int e : m_topology.edgesOf(g)) {
        const auto uses = m_topology.usesOf(e);
        if (uses.size() == 2 && ((uses[0].face == f && uses[1].face == g) || (uses[0].face == g && uses[1].face == f)))
            return edgeAngle(m_topology, e, 0.05).kind == EdgeKind::Smooth;
    }
    return false;
}

bool HoleFinder::isRimBlend(int f, int g, const std::vector<char>& inside, double radius) const {
    if (m_kind[g] == SurfaceKind::Plane || (m_round[g] && m_round[g]->kind == SurfaceKind::Cylinder)) return false;
    if (!smoothTo(f, g)) return false;
    // Its edges either touch the hole or go once round outside it.
    std::vector<int> outside;
    double touching = 0.0, beyond = 0.0;
    for (const int e : m_topology.edgesOf(g)) {
        const auto uses = m_topology.usesOf(e);
        if (uses.size() != 2) return false;
        if (uses[0].face == uses[1].face) continue;
        const int other = uses[0].face == g ? uses[1].face : uses[0].face;
        const double length = lengthOf(m_topology.edge(e));
        if (inside[other])
            touching += length;
        else {
            beyond += length;
            outside.push_back(other);
        }
    }
    if (touching < 1.5 * M_PI * radius * 0.5 || beyond < touching || beyond > 3.0 * touching) return false;
    return m_topology.area(g) < touching * radius;
}

bool HoleFinder::hasIsland(const std::vector<int>& faces, const std::vector<char>& inside) const {
    for (const int f : faces)
        for (const int e : m_topology.edgesOf(f))
            for (const EdgeUse& use : m_topology.usesOf(e))
                if (use.face != f && !inside[use.face] && edgeAngle(m_topology, e).kind == EdgeKind::Concave)
                    return true;
    return false;
}

std::vector<std::vector<int>> HoleFinder::mouthsOf(const std::vector<int>& faces,
                                                   const std::vector<char>& inside) const {
    struct Rim {
        int edge, start, end, outside;
    };
    std::vector<Rim> rims;
    for (const int f : faces)
        for (const int e : m_topology.edgesOf(f)) {
            const auto uses = m_topology.usesOf(e);
            if (uses.size() != 2) continue;
            const int g = uses[0].face == f ? uses[1].face : uses[0].face;
            if (inside[g]) continue;
            TopoDS_Vertex start, end;
            TopExp::Vertices(m_topology.edge(e), start, end);
            rims.push_back({e, m_topology.vertexNumber(start), m_topology.vertexNumber(end), g});
        }
    // Chains by shared vertices.
    std::vector<std::vector<int>> mouths;
    std::vector<char> used(rims.size(), 0);
    std::multimap<int, std::size_t> at;
    for (std::size_t r = 0; r < rims.size(); ++r) {
        at.emplace(rims[r].start, r);
        at.emplace(rims[r].end, r);
    }
    for (std::size_t seed = 0; seed < rims.size(); ++seed) {
        if (used[seed]) continue;
        std::vector<std::size_t> stack{seed};
        used[seed] = 1;
        std::set<int> neighbours;
        while (!stack.empty()) {
            const std::size_t r = stack.back();
            stack.pop_back();
            neighbours.insert(rims[r].outside);
            for (const int v : {rims[r].start, rims[r].end})
                for (auto [it, last] = at.equal_range(v); it != last; ++it)
                    if (!used[it->second]) {
                        used[it->second] = 1;
                        stack.push_back(it->second);
                    }
        }
        mouths.emplace_back(neighbours.begin(), neighbours.end());
    }
    return mouths;
}

}  // namespace rasoir::survey
