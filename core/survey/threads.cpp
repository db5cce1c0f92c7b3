#include "survey/threads.h"

#include <fmt/format.h>
#include <tbb/parallel_for.h>

#include <Bnd_Box.hxx>
#include <BRep_Tool.hxx>
#include <BRepTopAdaptor_FClass2d.hxx>
#include <gp_Lin.hxx>
#include <limits>
#include <map>
#include <set>
#include <TopExp.hxx>
#include <TopoDS.hxx>

#include "common/guard.h"
#include "common/tolerance.h"
#include "forecast/elements.h"
#include "geometry/edge_probe.h"
#include "geometry/integrals.h"
#include "geometry/round_surface.h"
#include "geometry/screw_motion.h"

namespace rasoir::survey {
namespace {

constexpr double mostSlip = 0.03;   // [1] programs write helices as splines through few points
constexpr double sameSlip = 0.06;   // of a face beside it, about its neighbour's motion
constexpr double mostDepth = 0.25;  // of the major diameter: deeper is a screw conveyor or a spring
constexpr double mostLead = 1.5;    // of the major diameter: steeper is a gear
constexpr int samples = 40;

struct FaceFacts {
    SurfaceKind kind = SurfaceKind::Plane;
    std::optional<ScrewMotion> motion;
    std::vector<SurfacePoint> points;
    std::optional<RoundSurface> round;
};

struct Range {
    double low = std::numeric_limits<double>::max(), high = std::numeric_limits<double>::lowest();
    void add(double x) {
        low = std::min(low, x);
        high = std::max(high, x);
    }
};

class ThreadFinder {
public:
    ThreadFinder(const Part& part, double targetSize)
        : m_topology(part.incidence()),
          m_targetSize(targetSize),
          m_facts(static_cast<std::size_t>(m_topology.faceCount()) + 1) {}

    std::vector<Thread> run(Progress& progress) {
        tbb::parallel_for(1, m_topology.faceCount() + 1, [&](int f) {
            if (!progress.cancelled())
                (void)guarded("Looking at a face", [&]() -> Result<void> {
                    look(f);
                    return {};
                });
        });
        std::vector<Thread> threads;
        std::vector<int> seeds;
        for (int f = 1; f <= m_topology.faceCount(); ++f)
            if (m_facts[f].motion) seeds.push_back(f);
        // The faces that tell most about their motion first.
        std::vector<double> areas(m_facts.size(), 0.0);
        for (const int f : seeds) areas[f] = m_topology.area(f);
        std::sort(seeds.begin(), seeds.end(),
                  [&](int a, int b) { return areas[a] != areas[b] ? areas[a] > areas[b] : a < b; });
        for (const int seed : seeds) {
            if (progress.cancelled()) break;
            if (m_taken.contains(seed)) continue;
            if (auto thread = grown(seed)) {
                m_taken.insert(thread->faces.begin(), thread->faces.end());
                threads.push_back(std::move(*thread));
            }
        }
        std::sort(threads.begin(), threads.end(), [](const Thread& a, const Thread& b) {
            return a.major != b.major ? a.major < b.major : a.faces.front() < b.faces.front();
        });
        return threads;
    }

private:
    const Incidence& m_topology;
    double m_targetSize;
    std::vector<FaceFacts> m_facts;  // by face
    std::set<int> m_taken;

    void look(int f) {
        FaceFacts& facts = m_facts[f];
        const TopoDS_Face face = m_topology.face(f);
        facts.kind = surfaceKind(face);
        if (m_topology.bodyOf(f) < 0 || facts.kind == SurfaceKind::Plane) return;
        if (facts.kind == SurfaceKind::Cylinder || facts.kind == SurfaceKind::Cone) {
            facts.round = roundSurface(face);
            return;
        }
        if (facts.kind == SurfaceKind::Sphere || facts.kind == SurfaceKind::Torus) return;
        facts.points = spreadOver(face, samples);
        facts.motion = screwMotionOf(facts.points, mostSlip);
        // Of its extent: a motion without lead is a turn, and no thread.
        if (facts.motion && std::abs(facts.motion->lead) < 1e-3 * std::max(1e-3, extentOf(f)))
            facts.motion.reset();                                   // a mere turn
        if (!facts.motion) facts.round = roundSurface(face, 1e-4);  // a crest or root that was written as a spline
    }

    [[nodiscard]] double extentOf(int f) const {
        Bnd_Box box;
        for (const SurfacePoint& p : m_facts[f].points) box.Add(p.point);
        return std::sqrt(box.SquareExtent());
    }

    /// A cylinder about the axis, or nearly.
    [[nodiscard]] bool isRoundAbout(int f, const gp_Ax1& axis, double scale) const {
        const auto& round = m_facts[f].round;
        if (!round || round->kind != SurfaceKind::Cylinder) return false;
        return (axis.Direction().Angle(round->axis.Direction()) < 0.01 ||
                axis.Direction().Angle(round->axis.Direction()) > M_PI - 0.01) &&
               gp_Lin(axis).Distance(round->axis.Location()) < 0.01 * scale;
    }

    [[nodiscard]] bool follows(int f, const ScrewMotion& motion) const {
        if (m_facts[f].motion &&
            std::abs(std::abs(m_facts[f].motion->lead) - std::abs(motion.lead)) > 0.2 * std::abs(motion.lead) &&
            extentOf(f) > std::abs(motion.lead))
            return false;
        return m_facts[f].points.size() >= 12 &&
               std::all_of(m_facts[f].points.begin(), m_facts[f].points.end(),
                           [&](const SurfacePoint& p) { return motion.slip(p.point, p.normal) <= sameSlip; });
    }

    std::optional<Thread> grown(int seed) {
        ScrewMotion motion = *m_facts[seed].motion;
        Range reach;
        for (const SurfacePoint& p : m_facts[seed].points) reach.add(gp_Lin(motion.axis).Distance(p.point));
        if (std::abs(motion.lead) > 2.0 * mostLead * reach.high) return std::nullopt;
        std::set<int> helical{seed}, round;
        std::vector<int> row{seed};
        for (std::size_t i = 0; i < row.size(); ++i)
            for (const int g : m_topology.neighboursOf(row[i])) {
                if (helical.contains(g) || round.contains(g) || m_taken.contains(g)) continue;
                if (isRoundAbout(g, motion.axis, reach.high)) {
                    round.insert(g);
                } else if (follows(g, motion)) {
                    helical.insert(g);
                } else {
                    continue;
                }
                row.push_back(g);
            }
        // Where a cylinder about it tells the axis, it does so exactly.
        for (const int f : round) {
            gp_Ax1 exact = m_facts[f].round->axis;
            if (exact.Direction().Dot(motion.axis.Direction()) < 0.0) exact.Reverse();
            motion.axis = exact;
            break;
        }
        const gp_Ax1 axis = motion.axis;
        const auto along = [&axis](const gp_Pnt& p) {
            return gp_Vec(axis.Location(), p).Dot(gp_Vec(axis.Direction()));
        };
        Range radii, heights;
        for (const int f : helical) {
            for (const int e : m_topology.edgesOf(f)) {
                if (BRep_Tool::Degenerated(m_topology.edge(e))) continue;
                const EdgeProbe probe(m_topology.edge(e));
                for (int k = 0; k <= 24; ++k) {
                    const gp_Pnt p = probe.value(probe.first() + (probe.last() - probe.first()) * k / 24.0);
                    radii.add(gp_Lin(axis).Distance(p));
                    heights.add(along(p));
                }
            }
        }
        addBulges(helical, axis, radii);
        Thread thread;
        thread.axis = axis;
        thread.lead = std::abs(motion.lead);
        thread.rightHanded = motion.lead > 0.0;
        thread.low = heights.low;
        thread.high = heights.high;
        // Only cylinders that lie between the flanks belong to it, be a shank one face with them: a shank that it
        // merely runs out on to has one ring in common with it.
        std::set<int> faces = helical;
        for (bool more = true; more;) {
            more = false;
            for (const int f : round) {
                const double radius = m_facts[f].round->radius, slack = 0.05 * (radii.high - radii.low);
                if (faces.contains(f) || radius < radii.low - slack || radius > radii.high + slack) continue;
                const auto [shared, all] = sharedWith(f, faces);
                if (shared <= 0.5 * all && shared <= 1.5 * 2.0 * M_PI * radius) continue;
                faces.insert(f);
                more = true;
            }
        }
        addEnds(faces, axis, radii, heights, thread.lead);
        // Helices that were written as splines miss their cylinders by a little.
        for (const int f : round)
            if (const double radius = m_facts[f].round->radius;
                faces.contains(f) && m_facts[f].kind == SurfaceKind::Cylinder) {
                if (std::abs(radius - radii.low) < 0.02 * (radii.high - radii.low)) radii.low = radius;
                if (std::abs(radius - radii.high) < 0.02 * (radii.high - radii.low)) radii.high = radius;
            }
        thread.minor = 2.0 * radii.low;
        thread.major = 2.0 * radii.high;
        if (thread.turns() < 0.9 || thread.lead > mostLead * thread.major ||
            thread.major - thread.minor > 2.0 * mostDepth * thread.major)
            return std::nullopt;
        if (!endsInRings(faces, axis)) return std::nullopt;
        thread.faces.assign(faces.begin(), faces.end());
        double outward = 0.0;
        for (const int f : faces) {
            const TopoDS_Face face = m_topology.face(f);
            const double area = m_topology.area(f);
            for (const SurfacePoint& p : m_facts[f].points.empty() ? spreadOver(face, 9) : m_facts[f].points)
                outward += area * p.normal.Dot(gp_Vec(nearestOn(axis, p.point), p.point)) / thread.major;
            thread.elements += forecast::faceShare(face, m_targetSize).extra;
        }
        thread.outer = outward > 0.0;
        thread.middle = axis.Location().Translated(gp_Vec(axis.Direction()) * (0.5 * (thread.low + thread.high)));
        return thread;
    }

    /// Crests and roots that are one face with the flanks turn between their edges. Of the points known some lie off
    /// the face: those that would widen the range are asked.
    void addBulges(const std::set<int>& helical, const gp_Ax1& axis, Range& radii) const {
        for (const int f : helical) {
            std::optional<BRepTopAdaptor_FClass2d> inside;
            for (const SurfacePoint& p : m_facts[f].points) {
                const double radius = gp_Lin(axis).Distance(p.point);
                if (radius >= radii.low && radius <= radii.high) continue;
                if (!inside)
                    inside.emplace(TopoDS::Face(m_topology.face(f).Oriented(TopAbs_FORWARD)), Tolerance::least);
                if (inside->Perform(p.at) == TopAbs_IN) radii.add(radius);
            }
        }
    }

    static gp_Pnt nearestOn(const gp_Ax1& axis, const gp_Pnt& p) {
        return axis.Location().Translated(gp_Vec(axis.Direction()) *
                                          gp_Vec(axis.Location(), p).Dot(gp_Vec(axis.Direction())));
    }

    /// How much of a face's outline lies at these faces, and how long it is [mm].
    [[nodiscard]] std::pair<double, double> sharedWith(int f, const std::set<int>& faces) const {
        double all = 0.0, shared = 0.0;
        for (const int e : m_topology.edgesOf(f)) {
            if (BRep_Tool::Degenerated(m_topology.edge(e))) continue;
            bool seam = true, with = false;
            for (const EdgeUse& use : m_topology.usesOf(e)) {
                seam = seam && use.face == f;
                with = with || (use.face != f && faces.contains(use.face));
            }
            if (seam) continue;
            const double length = EdgeProbe(m_topology.edge(e)).length();
            all += length;
            if (with) shared += length;
        }
        return {shared, all};
    }

    /// What closes a groove at its ends: small faces most of whose outline is the thread's, and which lie within its
    /// reach.
    void addEnds(std::set<int>& faces, const gp_Ax1& axis, const Range& radii, const Range& heights,
                 double lead) const {
        for (int round = 0; round < 4; ++round) {
            std::set<int> more;
            for (const int f : faces)
                for (const int g : m_topology.neighboursOf(f)) {
                    if (faces.contains(g) || more.contains(g) || m_taken.contains(g)) continue;
                    if (const auto [shared, all] = sharedWith(g, faces); shared <= 0.5 * all || isAcross(g, axis))
                        continue;
                    const double slack = 0.1 * (radii.high - radii.low);
                    bool within = true;
                    for (const int e : m_topology.edgesOf(g)) {
                        if (BRep_Tool::Degenerated(m_topology.edge(e))) continue;
                        const EdgeProbe probe(m_topology.edge(e));
                        for (int k = 0; k <= 8 && within; ++k) {
                            const gp_Pnt p = probe.value(probe.first() + (probe.last() - probe.first()) * k / 8.0);
                            const double radius = gp_Lin(axis).Distance(p),
                                         height = gp_Vec(axis.Location(), p).Dot(gp_Vec(axis.Direction()));
                            within = radius > radii.low - slack && radius < radii.high + slack &&
                                     height > heights.low - lead && height < heights.high + lead;
                        }
                    }
                    if (within) more.insert(g);
                }
            if (more.empty()) return;
            faces.merge(more);
        }
    }

    /// A flat across the axis, or nearly: where the shaft ends, not the groove.
    [[nodiscard]] bool isAcross(int f, const gp_Ax1& axis) const {
        return m_facts[f].kind == SurfaceKind::Plane &&
               std::abs(spreadOver(m_topology.face(f), 1).front().normal.Dot(gp_Vec(axis.Direction()))) > 0.9;
    }

    /// The outline of the faces is two rings round the axis, and perhaps loops that do not go round it.
    [[nodiscard]] bool endsInRings(const std::set<int>& faces, const gp_Ax1& axis) const {
        const gp_Vec along(axis.Direction());
        struct Piece {
            int start, end;
            double turn;
        };
        std::vector<Piece> pieces;
        for (const int f : faces)
            for (const int e : m_topology.edgesOf(f)) {
                const auto uses = m_topology.usesOf(e);
                if (uses.size() != 2 || BRep_Tool::Degenerated(m_topology.edge(e))) continue;
                const bool here = uses[0].face == f;
                if (faces.contains(uses[here ? 1 : 0].face)) continue;
                const EdgeProbe probe(m_topology.edge(e));
                double turn = 0.0;
                gp_Vec before;
                for (int k = 0; k <= 24; ++k) {
                    const gp_Pnt p = probe.value(probe.first() + (probe.last() - probe.first()) * k / 24.0);
                    const gp_Vec spoke(nearestOn(axis, p), p);
                    if (k > 0) turn += std::atan2(before.Crossed(spoke).Dot(along), before.Dot(spoke));
                    before = spoke;
                }
                TopoDS_Vertex start, end;
                TopExp::Vertices(m_topology.edge(e), start, end);
                pieces.push_back({m_topology.vertexNumber(start), m_topology.vertexNumber(end),
                                  uses[here ? 0 : 1].forward ? turn : -turn});
            }
        std::map<int, int> parent;
        const auto root = [&parent](int v) {
            parent.try_emplace(v, v);
            while (parent[v] != v) v = parent[v] = parent[parent[v]];
            return v;
        };
        for (const Piece& piece : pieces) parent[root(piece.start)] = root(piece.end);
        std::map<int, double> turns;
        for (const Piece& piece : pieces) turns[root(piece.start)] += piece.turn;
        int left = 0, right = 0;
        for (const auto& [at, turn] : turns) {
            const double times = turn / (2.0 * M_PI);
            if (std::abs(times - std::round(times)) > 0.1 || std::abs(times) > 1.5) return false;
            if (times > 0.5) ++left;
            if (times < -0.5) ++right;
        }
        return left == 1 && right == 1;
    }
};

}  // namespace

Result<std::vector<Thread>> findThreads(const Part& part, double targetSize, Progress& progress) {
    if (part.shape.IsNull()) return std::vector<Thread>{};
    auto threads = guarded("Looking for threads", [&]() -> Result<std::vector<Thread>> {
        return ThreadFinder(part, targetSize).run(progress);
    });
    if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
    return threads;
}

std::string describe(const Thread& thread) {
    const double turns = thread.turns();
    return fmt::format("{}, lead {}, {} turns{}, core Ø {}", thread.outer ? "outer" : "inner", readable(thread.lead),
                       turns < 10.0 ? fmt::format("{:.1f}", turns) : fmt::format("{:.0f}", turns),
                       thread.rightHanded ? "" : ", left-handed", readable(thread.minor));
}

}  // namespace rasoir::survey
