#include "reduce/pipe_walk.h"

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepBndLib.hxx>
#include <BRepTools.hxx>
#include <gp_Ax2.hxx>
#include <TopoDS.hxx>

#include "common/tolerance.h"
#include "geometry/curves.h"

// Six directions across the line, each with the place on the skin where it was met last. A step on, the foot is sought
// from there by Newton's method: on the long winding face of a spring a search without a guess can find the next turn.
// What is found is taken only where it lies within its face and where the line would be close to the place asked about,
// so that a neighbouring turn is never taken for this one. At the end of a face the others are asked whose boxes hold
// the point.

namespace rasoir::reduce {
namespace {

constexpr double mostOff = 0.35;  // of the radius, from the place to the line
constexpr double agree = 0.02;    // of the radius

}  // namespace

PipeWalk::PipeWalk(const Incidence& topology, int first, double radius) : m_radius(radius) {
    std::vector<std::size_t> wallOf(static_cast<std::size_t>(topology.faceCount()) + 1, ~std::size_t{0});
    for (int f = 1; f <= topology.faceCount(); ++f) {
        const TopoDS_Face face = topology.face(f);
        if (BRepAdaptor_Surface(face, false).GetType() == GeomAbs_Plane) continue;
        Wall wall;
        wall.face = f;
        wall.surface = BRep_Tool::Surface(face);
        BRepTools::UVBounds(face, wall.u0, wall.u1, wall.v0, wall.v1);
        Bnd_Box box;
        BRepBndLib::Add(face, box, false);
        if (box.IsVoid()) continue;
        wall.low = box.CornerMin();
        wall.high = box.CornerMax();
        wallOf[static_cast<std::size_t>(f)] = m_walls.size();
        m_walls.push_back(std::move(wall));
    }
    for (const int e : topology.edgesOf(first))
        for (const EdgeUse& use : topology.usesOf(e)) {
            const std::size_t wall = wallOf[static_cast<std::size_t>(use.face)];
            if (wall >= m_walls.size()) continue;
            double from = 0.0, to = 0.0;
            const TopoDS_Edge edge = TopoDS::Edge(topology.edge(e).Oriented(TopAbs_FORWARD));
            const TopoDS_Face face = TopoDS::Face(topology.face(use.face).Oriented(TopAbs_FORWARD));
            const Handle(Geom2d_Curve) trace = BRep_Tool::CurveOnSurface(edge, face, from, to);
            if (trace.IsNull()) continue;
            constexpr int samples = 24;
            for (int i = 0; i <= samples; ++i) m_rim.push_back({wall, trace->Value(from + (to - from) * i / samples)});
        }
}

std::optional<PipeWalk::Foot> PipeWalk::rimNear(const gp_Pnt& point) const {
    std::optional<Foot> best;
    double nearest = m_radius;
    for (const Foot& foot : m_rim)
        if (const double distance = m_walls[foot.wall].surface->Value(foot.uv.X(), foot.uv.Y()).Distance(point);
            distance < nearest) {
            nearest = distance;
            best = foot;
        }
    return best;
}

std::optional<gp_Pnt> PipeWalk::feelOn(const Wall& wall, const gp_Pnt& place, const gp_Vec& along, const gp_Vec& out,
                                       std::optional<gp_Pnt2d>& uv) const {
    const auto foot = footOn(wall.surface, place.Translated(out * m_radius), Tolerance::least * m_radius, uv);
    if (!foot) return std::nullopt;
    // A little beyond its face is another face's, but for rounding.
    const double overU = 1e-6 * (wall.u1 - wall.u0), overV = 1e-6 * (wall.v1 - wall.v0);
    if ((!wall.surface->IsUPeriodic() && (foot->X() < wall.u0 - overU || foot->X() > wall.u1 + overU)) ||
        (!wall.surface->IsVPeriodic() && (foot->Y() < wall.v0 - overV || foot->Y() > wall.v1 + overV)))
        return std::nullopt;
    gp_Pnt at;
    gp_Vec du, dv;
    wall.surface->D1(foot->X(), foot->Y(), at, du, dv);
    gp_Vec normal = du.Crossed(dv);
    // Square of the sine between parameter lines: a pole has no normal.
    if (normal.SquareMagnitude() < 1e-24 * du.SquareMagnitude() * dv.SquareMagnitude()) return std::nullopt;
    normal.Normalize();
    if (normal.Dot(out) < 0.0) normal.Reverse();
    if (normal.Dot(out) < 0.7) return std::nullopt;
    const gp_Pnt centre = at.Translated(normal * -m_radius);
    const gp_Vec off(place, centre);
    if (off.Magnitude() > mostOff * m_radius) return std::nullopt;
    uv = *foot;
    // Where the line passes the plane of the question; the foot may lie a little before it or behind.
    return centre.Translated(along * -off.Dot(along));
}

std::optional<gp_Pnt> PipeWalk::feel(const gp_Pnt& place, const gp_Vec& along, const gp_Vec& out,
                                     std::optional<Foot>& last) const {
    const gp_Pnt point = place.Translated(out * m_radius);
    if (!last) last = rimNear(point);
    if (last) {
        std::optional<gp_Pnt2d> uv = last->uv;
        if (const auto centre = feelOn(m_walls[last->wall], place, along, out, uv)) {
            last->uv = *uv;
            return centre;
        }
    }
    const gp_XYZ reach = gp_XYZ(1, 1, 1) * (mostOff * m_radius);
    std::optional<gp_Pnt> best;
    for (std::size_t w = 0; w < m_walls.size(); ++w) {
        const gp_XYZ below = point.XYZ() - m_walls[w].low.XYZ() + reach,
                     above = m_walls[w].high.XYZ() - point.XYZ() + reach;
        if (below.X() < 0 || below.Y() < 0 || below.Z() < 0 || above.X() < 0 || above.Y() < 0 || above.Z() < 0)
            continue;
        std::optional<gp_Pnt2d> uv;
        const auto centre = feelOn(m_walls[w], place, along, out, uv);
        // A tube has a skin inside and one outside: the one that is a radius away is meant.
        if (!centre || (best && best->Distance(place) <= centre->Distance(place))) continue;
        best = centre;
        last = Foot{w, *uv};
    }
    return best;
}

std::optional<gp_Pnt> PipeWalk::centreBeside(const gp_Pnt& place, const gp_Dir& along) {
    const gp_Ax2 across(place, along);
    std::vector<gp_XYZ> centres;
    for (std::size_t k = 0; k < directions; ++k) {
        const double turn = 2.0 * M_PI * static_cast<double>(k) / directions;
        const gp_Vec out = gp_Vec(across.XDirection()) * std::cos(turn) + gp_Vec(across.YDirection()) * std::sin(turn);
        // The directions turn with the plane from step to step; what was found last only says where to begin.
        if (const auto centre = feel(place, gp_Vec(along), out, m_lastFoot[k])) centres.push_back(centre->XYZ());
    }
    constexpr std::size_t enough = 4;
    if (centres.size() < enough) return std::nullopt;
    gp_XYZ sum;
    for (const gp_XYZ& centre : centres) sum += centre;
    const gp_XYZ mean = sum / static_cast<double>(centres.size());
    for (const gp_XYZ& centre : centres)
        if ((centre - mean).Modulus() > agree * m_radius) return std::nullopt;
    return gp_Pnt(mean);
}

}  // namespace rasoir::reduce
