#include "survey/holes.h"

#include <fmt/format.h>

#include <Bnd_Box.hxx>
#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepBndLib.hxx>
#include <BRepTools.hxx>
#include <Geom_Plane.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <gp_Pln.hxx>
#include <numeric>

#include "forecast/elements.h"
#include "geometry/integrals.h"
#include "geometry/round_surface.h"
#include "survey/patterns.h"
#include "survey/sheet_holes.h"
#include "topology/edge_angle.h"

namespace rasoir::survey {
namespace {

constexpr double oneDegree = M_PI / 180.0;
constexpr double fullTurn = 358.0 * oneDegree;  // all the way round, less what a sliver may miss
constexpr double openTurn = 210.0 * oneDegree;  // a wall that breaks out sideways still goes this far
constexpr double halfTurn = 180.0 * oneDegree;
constexpr double sinkRatio = 1.5;

double heightOn(const gp_Ax1& axis, const gp_Pnt& point) {
    return gp_Vec(axis.Location(), point).Dot(gp_Vec(axis.Direction()));
}
double distanceTo(const gp_Ax1& axis, const gp_Pnt& point) {
    return gp_Vec(axis.Location(), point).Crossed(gp_Vec(axis.Direction())).Magnitude();
}

/// Faces of one concave cylinder or cone that belong together.
struct Ring {
    std::vector<int> faces;
    RoundSurface surface;
    double turn = 0.0;  // angle covered
    double low = 0.0, high = 0.0;
};

class HoleFinder {
public:
    HoleFinder(const Part& part, double targetSize, const HoleLimits& limits, Progress& progress)
        : m_part(part),
          m_topology(part.incidence()),
          m_targetSize(targetSize),
          m_limits(limits),
          m_progress(progress) {}

    Result<std::vector<Hole>> run() {
        const int faces = m_topology.faceCount();
        m_round.resize(static_cast<std::size_t>(faces) + 1);
        m_kind.resize(m_round.size(), SurfaceKind::Other);
        m_holeOf.assign(m_round.size(), -1);
        m_ringOf.assign(m_round.size(), -1);
        m_halfSide.assign(m_round.size(), -1.0);
        Bnd_Box box;
        if (faces > 0) BRepBndLib::Add(m_part.shape, box, false);
        m_scale = box.IsVoid() ? 1.0 : box.CornerMin().Distance(box.CornerMax());
        m_same = std::max(1e-6 * m_scale, 2e-6);
        for (int f = 1; f <= faces; ++f) {
            if (m_topology.bodyOf(f) < 0) continue;
            m_kind[f] = surfaceKind(m_topology.face(f));
            if (m_kind[f] != SurfaceKind::Plane) m_round[f] = roundSurface(m_topology.face(f), m_same);
        }
        if (m_progress.cancelled()) return fail(ProblemKind::Cancelled, "The survey was stopped.");
        findRings();
        // Small rings first: a step takes the wider walls above it along.
        std::vector<std::size_t> order(m_rings.size());
        std::iota(order.begin(), order.end(), 0);
        std::stable_sort(order.begin(), order.end(), [this](std::size_t a, std::size_t b) {
            const bool coneA = m_rings[a].surface.kind == SurfaceKind::Cone,
                       coneB = m_rings[b].surface.kind == SurfaceKind::Cone;
            if (coneA != coneB) return coneB;
            return m_rings[a].surface.radius < m_rings[b].surface.radius - m_same;
        });
        for (const std::size_t r : order) {
            if (m_progress.cancelled()) return fail(ProblemKind::Cancelled, "The survey was stopped.");
            growFrom(static_cast<int>(r));
        }
        if (m_limits.listSlots) findSlots();
        finish();
        return std::move(m_holes);
    }

private:
    const Part& m_part;
    const Incidence& m_topology;
    double m_targetSize;
    HoleLimits m_limits;
    Progress& m_progress;
    double m_scale = 1.0;
    double m_same = 1e-6;
    std::vector<std::optional<RoundSurface>> m_round;
    std::vector<SurfaceKind> m_kind;
    std::vector<int> m_holeOf, m_ringOf;
    std::vector<double> m_halfSide;  // by face; negative: not known yet
    std::vector<Ring> m_rings;
    std::vector<Hole> m_holes;

    [[nodiscard]] bool concaveWall(int f) const {
        return m_round[f] && m_round[f]->inward &&
               (m_round[f]->kind == SurfaceKind::Cylinder || m_round[f]->kind == SurfaceKind::Cone);
    }
    [[nodiscard]] bool sameAxis(const gp_Ax1& a, const gp_Ax1& b, double allowance) const {
        return std::abs(std::abs(a.Direction().Dot(b.Direction())) - 1.0) < 1e-8 &&
               distanceTo(a, b.Location()) < allowance;
    }
    [[nodiscard]] double allowanceFor(double radius) const { return std::max(10.0 * m_same, 1e-4 * radius); }

    [[nodiscard]] bool coaxial(const gp_Ax1& axis, int f, double radius) const {
        if (!m_round[f]) return false;
        if (m_round[f]->kind == SurfaceKind::Sphere)
            return distanceTo(axis, m_round[f]->axis.Location()) < allowanceFor(radius);
        return std::abs(std::abs(axis.Direction().Dot(m_round[f]->axis.Direction())) - 1.0) < 1e-8 &&
               distanceTo(axis, m_round[f]->axis.Location()) < allowanceFor(radius);
    }

    /// Points along the edges of a face, enough to tell its extent.
    template <class Visit>
    void visitEdgePoints(int f, const Visit& visit) const {
        for (const int e : m_topology.edgesOf(f)) {
            const BRepAdaptor_Curve curve(m_topology.edge(e));
            const double first = curve.FirstParameter(), last = curve.LastParameter();
            const int pieces = curve.GetType() == GeomAbs_Line ? 1 : 12;
            for (int i = 0; i <= pieces; ++i) visit(curve.Value(first + (last - first) * i / pieces));
        }
    }

    void findRings() {
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

    [[nodiscard]] bool sameRound(const RoundSurface& a, const RoundSurface& b) const {
        if (a.kind != b.kind || !sameAxis(b.axis, a.axis, allowanceFor(b.radius))) return false;
        const double along = heightOn(b.axis, a.axis.Location());
        const double sign = a.axis.Direction().Dot(b.axis.Direction()) > 0 ? 1.0 : -1.0;
        return std::abs(b.radius + b.slope * along - a.radius) < allowanceFor(b.radius) &&
               std::abs(sign * a.slope - b.slope) < 1e-5;
    }

    void measure(Ring& ring) const {
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

    [[nodiscard]] double radiusAt(const RoundSurface& surface, double height) const {
        return surface.radius + surface.slope * height;
    }

    /// A ring that goes round far enough, and where it does not go all the way, whose sides are sharp: else it is the
    /// round end of a pocket or a fillet.
    [[nodiscard]] bool isWall(const Ring& ring) const {
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
                if (along.Magnitude() < 1e-12 ||
                    std::abs(along.Normalized().Dot(gp_Vec(ring.surface.axis.Direction()))) < 0.99)
                    continue;
                if (edgeAngle(m_topology, e).kind == EdgeKind::Smooth) return false;
            }
        return true;
    }

    [[nodiscard]] double widestOf(const Ring& ring) const {
        if (ring.surface.kind == SurfaceKind::Cylinder) return 2.0 * ring.surface.radius;
        return 2.0 * std::max(std::abs(radiusAt(ring.surface, ring.low)), std::abs(radiusAt(ring.surface, ring.high)));
    }

    /// A floor of any shape: every neighbour belongs to the hole already, and no edge to them is convex. (A ball with
    /// one hole through it has the hole all around its only face, but meets it in convex edges.)
    [[nodiscard]] bool isFloor(int f, const std::vector<char>& inside) const {
        for (const int e : m_topology.edgesOf(f))
            for (const EdgeUse& use : m_topology.usesOf(e))
                if (use.face != f && (!inside[use.face] || edgeAngle(m_topology, e).kind == EdgeKind::Convex))
                    return false;
        return true;
    }

    /// A flat floor that itself breaks out somewhere: square to the axis, it meets the hole in a concave edge,
    /// everything else in convex ones, and is no wider than the hole.
    [[nodiscard]] bool isOpenFloor(int f, const gp_Ax1& axis, const std::vector<char>& inside, double radius) {
        if (m_kind[f] != SurfaceKind::Plane || halfSide(f) > 1.05 * radius) return false;
        const GeomAdaptor_Surface plane(BRep_Tool::Surface(m_topology.face(f)));
        if (std::abs(plane.Plane().Axis().Direction().Dot(axis.Direction())) < 1.0 - 1e-8) return false;
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

    /// Half the longest side of the box round a face's edges. Whatever axis a flat face is square to, some point of it
    /// lies at least so far away: a quick "no" that spares walking round a plate's thousand holes for each of them.
    [[nodiscard]] double halfSide(int f) {
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

    /// A plane square to the axis whose outer boundary is made by concave walls about the same axis: a floor or
    /// shoulder.
    [[nodiscard]] bool isShoulder(int f, const gp_Ax1& axis, double radius, double& outerRadius) {
        if (m_kind[f] != SurfaceKind::Plane || halfSide(f) > 1.01 * m_limits.stepRatio * m_limits.stepRatio * radius)
            return false;
        const TopoDS_Face face = m_topology.face(f);
        const GeomAdaptor_Surface plane(BRep_Tool::Surface(face));
        if (std::abs(std::abs(plane.Plane().Axis().Direction().Dot(axis.Direction())) - 1.0) > 1e-8) return false;
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

    void growFrom(int ringIndex) {
        const Ring& ring = m_rings[ringIndex];
        if (m_holeOf[ring.faces.front()] >= 0 || !isWall(ring)) return;
        const double limit = m_limits.upTo > 0.0 ? m_limits.upTo * (1.0 + 1e-9) : 1e300;
        if (widestOf(ring) > limit) return;
        const bool seedIsCone = ring.surface.kind == SurfaceKind::Cone;
        const gp_Ax1 axis = ring.surface.axis;
        const double radius = seedIsCone ? 0.5 * widestOf(ring) : ring.surface.radius;
        std::vector<char> inside(m_round.size(), 0);
        std::vector<int> faces = ring.faces;
        std::vector<int> rings{ringIndex};
        for (const int f : faces) inside[f] = 1;
        double widestStep = radius;
        const auto take = [&](int f) {
            inside[f] = 1;
            faces.push_back(f);
        };
        bool rimRound = false, ballEnd = false;
        for (std::size_t i = 0; i < faces.size(); ++i) {
            const int f = faces[i];
            for (const int g : m_topology.neighboursOf(f)) {
                if (inside[g] || m_holeOf[g] >= 0) continue;
                double outer = 0.0;
                if (coaxial(axis, g, radius)) {
                    const RoundSurface& round = *m_round[g];
                    if (concaveWall(g)) {
                        const Ring& other = m_rings[m_ringOf[g]];
                        const double width = widestOf(other);
                        const double narrow = other.surface.kind == SurfaceKind::Cone
                                                  ? 2.0 * std::min(std::abs(radiusAt(other.surface, other.low)),
                                                                   std::abs(radiusAt(other.surface, other.high)))
                                                  : width;
                        if (other.turn < openTurn) continue;
                        if (narrow > 2.0 * m_limits.stepRatio * widestStep) continue;
                        if (other.surface.kind == SurfaceKind::Cylinder &&
                            width > std::min(limit, 2.0 * m_limits.stepRatio * widestStep))
                            continue;
                        if (other.surface.kind == SurfaceKind::Cone &&
                            width > 2.0 * m_limits.stepRatio * widestStep * 1.2)
                            continue;
                        rings.push_back(m_ringOf[g]);
                        if (other.surface.kind == SurfaceKind::Cylinder)
                            widestStep = std::max(widestStep, other.surface.radius);
                        for (const int member : other.faces)
                            if (!inside[member]) take(member);
                        continue;
                    }
                    if (round.kind == SurfaceKind::Torus && round.radius <= widestStep * 1.001 &&
                        round.ringRadius <= m_limits.stepRatio * widestStep && goesAllRound(g) && smoothTo(f, g)) {
                        if (!round.inward) rimRound = true;
                        take(g);
                        continue;
                    }
                    if (round.kind == SurfaceKind::Sphere && round.inward && round.radius < 2.5 * widestStep) {
                        ballEnd = true;
                        take(g);
                        continue;
                    }
                }
                if (isShoulder(g, axis, radius, outer) && outer <= m_limits.stepRatio * widestStep * 1.001 &&
                    2.0 * outer <= limit * (1.0 + 1e-6)) {
                    take(g);
                    continue;
                }
                if (isFloor(g, inside) || isOpenFloor(g, axis, inside, widestStep)) {
                    take(g);
                    continue;
                }
                if (isRimBlend(f, g, inside, widestStep)) {
                    rimRound = true;
                    take(g);
                }
            }
        }
        std::vector<std::vector<int>> loops = mouthsOf(faces, inside);
        if (loops.empty() || hasIsland(faces, inside)) return;

        Hole hole;
        hole.axis = axis;
        hole.body = m_topology.bodyOf(faces.front());
        hole.rimRound = rimRound;
        hole.ballEnd = ballEnd;
        std::sort(faces.begin(), faces.end());
        hole.faces = faces;
        classify(hole, rings, seedIsCone);
        for (std::vector<int>& loop : loops) hole.mouths.push_back({std::move(loop), -1});
        hole.through = hole.mouths.size() >= 2;
        if (hole.through) hole.drillPoint = false;
        const int index = static_cast<int>(m_holes.size());
        for (const int f : hole.faces) m_holeOf[f] = index;
        m_holes.push_back(std::move(hole));
    }

    [[nodiscard]] bool goesAllRound(int f) const {
        double u0 = 0, u1 = 0, v0 = 0, v1 = 0;
        BRepTools::UVBounds(m_topology.face(f), u0, u1, v0, v1);
        if (u1 - u0 >= fullTurn) return true;
        // Halves: its other half lies beside it on the same surface.
        for (const int g : m_topology.neighboursOf(f))
            if (m_kind[g] == m_kind[f] && sameSurface(m_topology.face(f), m_topology.face(g), 10.0 * m_same))
                return true;
        return false;
    }

    [[nodiscard]] bool smoothTo(int f, int g) const {
        for (const int e : m_topology.edgesOf(g)) {
            const auto uses = m_topology.usesOf(e);
            if (uses.size() == 2 &&
                ((uses[0].face == f && uses[1].face == g) || (uses[0].face == g && uses[1].face == f)))
                return edgeAngle(m_topology, e, 0.05).kind == EdgeKind::Smooth;
        }
        return false;
    }

    /// A narrow face all round the end of the wall, smooth to it: a rounded or chamfered rim on a face that is not
    /// flat.
    [[nodiscard]] bool isRimBlend(int f, int g, const std::vector<char>& inside, double radius) const {
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
        return areaOf(m_topology.face(g)) < touching * radius;
    }

    /// Something stands in it: a hole meets the outside in convex edges, its floor meets a boss or a wall in concave
    /// ones. Such a recess is a pocket, whatever its outline.
    [[nodiscard]] bool hasIsland(const std::vector<int>& faces, const std::vector<char>& inside) const {
        for (const int f : faces)
            for (const int e : m_topology.edgesOf(f))
                for (const EdgeUse& use : m_topology.usesOf(e))
                    if (use.face != f && !inside[use.face] && edgeAngle(m_topology, e).kind == EdgeKind::Concave)
                        return true;
        return false;
    }

    /// The closed chains of edges that part the hole from the rest, each as the faces on its other side.
    [[nodiscard]] std::vector<std::vector<int>> mouthsOf(const std::vector<int>& faces,
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

    void classify(Hole& hole, const std::vector<int>& rings, bool seedIsCone) {
        double low = 1e300, high = -1e300;
        for (const int f : hole.faces)
            visitEdgePoints(f, [&](const gp_Pnt& point) {
                const double height = heightOn(hole.axis, point);
                low = std::min(low, height);
                high = std::max(high, height);
            });
        for (const int f : hole.faces)
            if (m_round[f] && m_round[f]->kind == SurfaceKind::Sphere) {  // the bottom of a ball end has no edge
                const double centre = heightOn(hole.axis, m_round[f]->axis.Location());
                if (centre - low < high - centre)
                    low = std::min(low, centre - m_round[f]->radius);
                else
                    high = std::max(high, centre + m_round[f]->radius);
            }
        hole.depth = high - low;
        hole.middle = hole.axis.Location().Translated(gp_Vec(hole.axis.Direction()) * (0.5 * (low + high)));

        struct Section {
            double low, high, radius;
        };
        std::vector<Section> sections;
        double coneWidest = 0.0;
        bool open = false;
        for (const int r : rings) {
            const Ring& ring = m_rings[r];
            // Heights of this ring about the hole's own axis.
            const double shift = heightOn(hole.axis, ring.surface.axis.Location());
            const double sign = ring.surface.axis.Direction().Dot(hole.axis.Direction()) > 0.0 ? 1.0 : -1.0;
            const double a = shift + sign * ring.low, b = shift + sign * ring.high;
            open = open || ring.turn < fullTurn;
            if (ring.surface.kind == SurfaceKind::Cylinder) {
                sections.push_back({std::min(a, b), std::max(a, b), ring.surface.radius});
                hole.volume += M_PI * ring.surface.radius * ring.surface.radius * std::abs(b - a);
            } else {
                const double ra = std::abs(radiusAt(ring.surface, ring.low)),
                             rb = std::abs(radiusAt(ring.surface, ring.high));
                coneWidest = std::max(coneWidest, 2.0 * std::max(ra, rb));
                hole.volume += M_PI / 3.0 * std::abs(b - a) * (ra * ra + ra * rb + rb * rb);
                if (std::min(ra, rb) < 0.02 * std::max(ra, rb)) hole.drillPoint = true;
            }
        }
        hole.openSide = open;
        for (const Section& section : sections) hole.diameters.push_back(2.0 * section.radius);
        std::sort(hole.diameters.begin(), hole.diameters.end());
        hole.diameters.erase(std::unique(hole.diameters.begin(), hole.diameters.end(),
                                         [this](double a, double b) { return std::abs(a - b) < allowanceFor(b); }),
                             hole.diameters.end());
        if (seedIsCone || hole.diameters.empty()) {
            hole.kind = HoleKind::Tapered;
            hole.size = coneWidest;
            hole.diameters = {coneWidest};
            return;
        }
        hole.size = hole.diameters.back();
        const double coneRatio = coneWidest / hole.size;
        if (coneRatio > 1.0 + 1e-6 && coneRatio < sinkRatio) hole.rimChamfer = true;
        if (coneRatio >= sinkRatio) {
            hole.kind = HoleKind::Countersunk;
            hole.sinkDiameter = coneWidest;
        } else if (hole.diameters.size() >= 2) {
            hole.kind = HoleKind::Stepped;
            if (hole.diameters.size() == 2 && sections.size() == 2) {
                const Section& wide = sections[0].radius > sections[1].radius ? sections[0] : sections[1];
                const Section& narrow = sections[0].radius > sections[1].radius ? sections[1] : sections[0];
                const bool flatShoulder = std::any_of(hole.faces.begin(), hole.faces.end(), [&](int f) {
                    double outer = 0.0;
                    return m_kind[f] == SurfaceKind::Plane && isShoulder(f, hole.axis, wide.radius, outer) &&
                           std::abs(outer - wide.radius) < allowanceFor(wide.radius);
                });
                if (flatShoulder && wide.high - wide.low <= narrow.high - narrow.low)
                    hole.kind = HoleKind::Counterbored;
            }
        }
    }

    /// Two concave half rounds of one radius, parallel, and the two flats tangent to both.
    void findSlots() {
        std::vector<int> ends;
        for (std::size_t r = 0; r < m_rings.size(); ++r)
            if (m_rings[r].surface.kind == SurfaceKind::Cylinder &&
                std::abs(m_rings[r].turn - halfTurn) < 3.0 * oneDegree && m_holeOf[m_rings[r].faces.front()] < 0)
                ends.push_back(static_cast<int>(r));
        const double limit = m_limits.upTo > 0.0 ? m_limits.upTo * (1.0 + 1e-9) : 1e300;
        for (const int first : ends) {
            const Ring& one = m_rings[first];
            if (m_holeOf[one.faces.front()] >= 0 || 2.0 * one.surface.radius > limit) continue;
            std::set<int> flats;
            std::map<int, int> partners;  // ring -> how many flats lead to it
            for (const int f : one.faces)
                for (const int g : m_topology.neighboursOf(f)) {
                    if (m_kind[g] != SurfaceKind::Plane || !smoothTo(f, g) || !flats.insert(g).second) continue;
                    for (const int h : m_topology.neighboursOf(g)) {
                        const int r = m_ringOf[h];
                        if (r < 0 || r == first || m_holeOf[h] >= 0) continue;
                        if (m_rings[r].surface.kind != SurfaceKind::Cylinder || !smoothTo(h, g)) continue;
                        if (std::abs(m_rings[r].surface.radius - one.surface.radius) > allowanceFor(one.surface.radius))
                            continue;
                        if (std::abs(m_rings[r].turn - halfTurn) > 3.0 * oneDegree) continue;
                        ++partners[r];
                    }
                }
            if (flats.size() != 2) continue;
            const auto found =
                std::find_if(partners.begin(), partners.end(), [](const auto& entry) { return entry.second >= 2; });
            if (found == partners.end()) continue;
            const Ring& two = m_rings[found->first];
            std::vector<char> inside(m_round.size(), 0);
            Hole slot;
            slot.kind = HoleKind::Slot;
            const auto take = [&](int f) {
                if (inside[f]) return;
                inside[f] = 1;
                slot.faces.push_back(f);
            };
            for (const int f : one.faces) take(f);
            for (const int f : two.faces) take(f);
            for (const int f : flats) take(f);
            for (std::size_t i = 0; i < slot.faces.size(); ++i)
                for (const int g : m_topology.neighboursOf(slot.faces[i]))
                    if (!inside[g] && m_holeOf[g] < 0 && isFloor(g, inside)) take(g);
            auto loops = mouthsOf(slot.faces, inside);
            if (loops.empty() || hasIsland(slot.faces, inside)) continue;
            const gp_Ax1 axis = one.surface.axis;
            double low = 1e300, high = -1e300;
            for (const int f : slot.faces)
                visitEdgePoints(f, [&](const gp_Pnt& point) {
                    low = std::min(low, heightOn(axis, point));
                    high = std::max(high, heightOn(axis, point));
                });
            const double apart = distanceTo(axis, two.surface.axis.Location());
            const gp_Pnt other = two.surface.axis.Location();
            const gp_Vec across(axis.Location().Translated(gp_Vec(axis.Direction()) * heightOn(axis, other)), other);
            slot.axis = axis.Translated(across * 0.5);
            slot.depth = high - low;
            slot.middle = axis.Location().Translated(gp_Vec(axis.Direction()) * (0.5 * (low + high)) + across * 0.5);
            slot.size = 2.0 * one.surface.radius;
            slot.length = apart + slot.size;
            slot.diameters = {slot.size};
            slot.volume = slot.depth * (M_PI_4 * slot.size * slot.size + apart * slot.size);
            slot.body = m_topology.bodyOf(slot.faces.front());
            std::sort(slot.faces.begin(), slot.faces.end());
            for (auto& loop : loops) slot.mouths.push_back({std::move(loop), -1});
            slot.through = slot.mouths.size() >= 2;
            const int index = static_cast<int>(m_holes.size());
            for (const int f : slot.faces) m_holeOf[f] = index;
            m_holes.push_back(std::move(slot));
        }
    }

    /// Goes through something hardly wider than itself: each end lies in one face, all of which lies within a diameter
    /// of its axis.
    [[nodiscard]] bool isBore(const Hole& hole) {
        if (hole.kind == HoleKind::Slot) return false;
        int ends = 0;
        for (const Mouth& mouth : hole.mouths) {
            if (mouth.intoHole >= 0) continue;
            ++ends;
            if (mouth.neighbours.size() != 1) return false;
            for (const int f : mouth.neighbours) {
                if (m_kind[f] != SurfaceKind::Plane || halfSide(f) > hole.size * (1.0 + 1e-6)) return false;
                double reach = 0.0;
                visitEdgePoints(f, [&](const gp_Pnt& point) { reach = std::max(reach, distanceTo(hole.axis, point)); });
                if (reach > hole.size * (1.0 + 1e-6)) return false;
            }
        }
        return ends >= 2;
    }

    /// As forecast::faceShare, from sampled edges and, where the surface is round, its middle: near enough for an
    /// estimate and much quicker than integrating.
    [[nodiscard]] double extraOf(int f) const {
        const TopoDS_Face face = m_topology.face(f);
        double perimeter = 0.0;
        for (const int e : m_topology.edgesOf(f)) {
            const BRepAdaptor_Curve curve(m_topology.edge(e));
            const double first = curve.FirstParameter(), last = curve.LastParameter();
            const int pieces = curve.GetType() == GeomAbs_Line ? 1 : 16;
            gp_Pnt before = curve.Value(first);
            double length = 0.0;
            for (int i = 1; i <= pieces; ++i) {
                const gp_Pnt point = curve.Value(first + (last - first) * i / pieces);
                length += before.Distance(point);
                before = point;
            }
            perimeter +=
                length * static_cast<double>(std::count_if(m_topology.usesOf(e).begin(), m_topology.usesOf(e).end(),
                                                           [f](const EdgeUse& use) { return use.face == f; }));
        }
        double area = 0.0;
        if (m_kind[f] == SurfaceKind::Cylinder || m_kind[f] == SurfaceKind::Cone || m_kind[f] == SurfaceKind::Torus) {
            double u0 = 0, u1 = 0, v0 = 0, v1 = 0;
            BRepTools::UVBounds(face, u0, u1, v0, v1);
            gp_Pnt point;
            gp_Vec du, dv;
            BRep_Tool::Surface(face)->D1(0.5 * (u0 + u1), 0.5 * (v0 + v1), point, du, dv);
            area = du.Crossed(dv).Magnitude() * (u1 - u0) * (v1 - v0);
        } else {
            area = areaOf(face);
        }
        const bool curved = m_round[f] && m_kind[f] != SurfaceKind::Cone;
        return forecast::faceShare(area, perimeter, curved ? m_round[f]->radius : 0.0, m_targetSize).extra;
    }

    void linkMouths() {
        for (std::size_t i = 0; i < m_holes.size(); ++i)
            for (const int f : m_holes[i].faces) m_holeOf[f] = static_cast<int>(i);
        for (std::size_t i = 0; i < m_holes.size(); ++i)
            for (Mouth& mouth : m_holes[i].mouths) {
                mouth.intoHole = -1;
                for (const int f : mouth.neighbours)
                    if (m_holeOf[f] >= 0 && m_holeOf[f] != static_cast<int>(i)) mouth.intoHole = m_holeOf[f];
            }
    }

    /// A drill that passes through another hole leaves its wall in pieces: one hole all the same.
    void joinInterrupted() {
        const auto opensInto = [](const Hole& hole, int other) {
            return std::any_of(hole.mouths.begin(), hole.mouths.end(),
                               [other](const Mouth& mouth) { return mouth.intoHole == other; });
        };
        const auto pieces = [&](const Hole& a, const Hole& b) {
            if (a.kind == HoleKind::Slot || b.kind == HoleKind::Slot || a.body != b.body) return false;
            if (!sameAxis(a.axis, b.axis, allowanceFor(a.size))) return false;
            const bool sameDrill = std::any_of(a.diameters.begin(), a.diameters.end(), [&](double d) {
                return std::any_of(b.diameters.begin(), b.diameters.end(),
                                   [&](double e) { return std::abs(d - e) < allowanceFor(d); });
            });
            return sameDrill && std::any_of(a.mouths.begin(), a.mouths.end(), [&](const Mouth& mouth) {
                       return mouth.intoHole >= 0 && opensInto(b, mouth.intoHole);
                   });
        };
        linkMouths();
        for (std::size_t i = 0; i < m_holes.size(); ++i)
            for (std::size_t j = i + 1; j < m_holes.size();) {
                if (!pieces(m_holes[i], m_holes[j])) {
                    ++j;
                    continue;
                }
                Hole& one = m_holes[i];
                Hole other = std::move(m_holes[j]);
                m_holes.erase(m_holes.begin() + static_cast<std::ptrdiff_t>(j));
                const auto endsOf = [&one](const Hole& hole) {
                    const double middle = heightOn(one.axis, hole.middle);
                    return std::pair{middle - 0.5 * hole.depth, middle + 0.5 * hole.depth};
                };
                const auto [lowA, highA] = endsOf(one);
                const auto [lowB, highB] = endsOf(other);
                const double low = std::min(lowA, lowB), high = std::max(highA, highB);
                // What lay between the pieces was drilled too.
                one.volume += other.volume +
                              std::max(0.0, (high - low) - one.depth - other.depth) * M_PI_4 * other.size * other.size;
                one.depth = high - low;
                one.middle = one.axis.Location().Translated(gp_Vec(one.axis.Direction()) * (0.5 * (low + high)));
                one.through = one.through && other.through;
                one.drillPoint = one.drillPoint || other.drillPoint;
                one.ballEnd = one.ballEnd || other.ballEnd;
                one.rimChamfer = one.rimChamfer || other.rimChamfer;
                one.rimRound = one.rimRound || other.rimRound;
                one.openSide = one.openSide || other.openSide;
                if (other.kind != HoleKind::Plain) one.kind = other.kind;
                one.size = std::max(one.size, other.size);
                one.sinkDiameter = std::max(one.sinkDiameter, other.sinkDiameter);
                for (const double d : other.diameters)
                    if (std::none_of(one.diameters.begin(), one.diameters.end(),
                                     [&](double known) { return std::abs(known - d) < allowanceFor(d); }))
                        one.diameters.push_back(d);
                std::sort(one.diameters.begin(), one.diameters.end());
                one.faces.insert(one.faces.end(), other.faces.begin(), other.faces.end());
                std::sort(one.faces.begin(), one.faces.end());
                one.mouths.insert(one.mouths.end(), other.mouths.begin(), other.mouths.end());
                linkMouths();
                j = i + 1;
            }
    }

    void finish() {
        joinInterrupted();
        // Order by size, then by place; indices follow.
        std::vector<int> order(m_holes.size());
        std::iota(order.begin(), order.end(), 0);
        std::sort(order.begin(), order.end(), [this](int a, int b) {
            if (std::abs(m_holes[a].size - m_holes[b].size) > m_same) return m_holes[a].size < m_holes[b].size;
            return m_holes[a].faces.front() < m_holes[b].faces.front();
        });
        std::vector<Hole> sorted;
        for (const int i : order) sorted.push_back(std::move(m_holes[i]));
        m_holes = std::move(sorted);
        linkMouths();

        std::vector<int> parent(m_holes.size());
        std::iota(parent.begin(), parent.end(), 0);
        const auto root = [&parent](int i) {
            while (parent[i] != i) i = parent[i] = parent[parent[i]];
            return i;
        };
        for (std::size_t i = 0; i < m_holes.size(); ++i) {
            Hole& hole = m_holes[i];
            for (const Mouth& mouth : hole.mouths)
                if (mouth.intoHole >= 0) parent[root(static_cast<int>(i))] = root(mouth.intoHole);
            hole.bore = isBore(hole);
            for (const int f : hole.faces) hole.elements += extraOf(f);
            hole.elements = std::max(0.0, hole.elements - forecast::bulk(hole.volume, m_targetSize));
        }
        std::map<int, int> members;
        for (std::size_t i = 0; i < m_holes.size(); ++i) ++members[root(static_cast<int>(i))];
        std::map<int, int> groupOf;
        for (std::size_t i = 0; i < m_holes.size(); ++i) {
            const int r = root(static_cast<int>(i));
            if (members[r] < 2) continue;
            m_holes[i].group = groupOf.try_emplace(r, static_cast<int>(groupOf.size())).first->second;
        }
    }
};

}  // namespace

Result<std::vector<Hole>> findHoles(const Part& part, double targetSize, const HoleLimits& limits, Progress& progress) {
    auto found = HoleFinder(part, targetSize, limits, progress).run();
    if (!found) return found;
    std::vector<Hole> sheet = findSheetHoles(part, targetSize);
    for (Hole& hole : sheet)
        if (limits.upTo <= 0.0 || hole.size <= limits.upTo) found->push_back(std::move(hole));
    std::stable_sort(found->begin(), found->end(), [](const Hole& a, const Hole& b) { return a.size < b.size; });
    tellPatterns(*found);
    return found;
}

std::string holeKindName(HoleKind kind) {
    switch (kind) {
        case HoleKind::Plain:
            return "plain";
        case HoleKind::Stepped:
            return "stepped";
        case HoleKind::Counterbored:
            return "counterbored";
        case HoleKind::Countersunk:
            return "countersunk";
        case HoleKind::Tapered:
            return "tapered";
        case HoleKind::Slot:
            return "slot";
        case HoleKind::Sheet:
            return "sheet";
    }
    return "hole";
}

std::string describe(const Hole& hole) {
    const std::string pattern = hole.pattern.empty() ? std::string() : ", " + hole.pattern;
    if (hole.kind == HoleKind::Sheet)
        return (hole.diameters.empty() ? fmt::format("in a sheet, {}", counted(hole.rim.size(), "edge"))
                                       : std::string("in a sheet, round")) +
               pattern;
    std::string text;
    if (hole.kind == HoleKind::Slot)
        text = fmt::format("slot {:.3g} long", hole.length);
    else if (hole.kind != HoleKind::Plain)
        text = holeKindName(hole.kind);
    if (hole.bore) text += text.empty() ? "bore" : ", bore";
    if (!text.empty()) text += ", ";
    text += hole.through ? "through" : fmt::format("blind, {:.3g} deep", hole.depth);
    if (hole.openSide) text += ", open at one side";
    if (hole.group >= 0) text += ", crossing";
    return text + pattern;
}

}  // namespace rasoir::survey
