#include "survey/open_reliefs.h"

#include <tbb/parallel_for.h>

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepTools.hxx>
#include <gp_Ax2.hxx>
#include <map>
#include <numeric>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>

#include "common/guard.h"
#include "common/tolerance.h"
#include "forecast/elements.h"
#include "geometry/integrals.h"
#include "geometry/round_surface.h"
#include "topology/edge_angle.h"

namespace rasoir::survey {
namespace {

constexpr double mostSkin = 0.1, mostVolume = 0.05;  // shares of the body: more is its shape
constexpr std::size_t mostFacesInOpenRelief = 200;

class OpenReliefFinder {
public:
    OpenReliefFinder(const Part& part, double targetSize, const std::set<int>& ofHoles,
                     const std::vector<Relief>& closed, Progress& progress)
        : m_topology(part.incidence()),
          m_targetSize(targetSize),
          m_ofHoles(ofHoles),
          m_closed(closed),
          m_progress(progress) {
        for (std::size_t r = 0; r < closed.size(); ++r)
            for (const int f : closed[r].faces) m_closedAt[f].push_back(r);
    }

    std::vector<Relief> run() {
        measure();
        std::vector<Relief> found;
        for (const bool raised : {false, true}) {
            if (m_progress.cancelled()) return {};
            for (std::vector<int>& faces : groups(raised))
                if (auto relief = look(std::move(faces), raised)) found.push_back(std::move(*relief));
        }
        return found;
    }

private:
    const Incidence& m_topology;
    double m_targetSize;
    const std::set<int>& m_ofHoles;
    const std::vector<Relief>& m_closed;
    std::map<int, std::vector<std::size_t>> m_closedAt;  // by face
    Progress& m_progress;
    std::vector<EdgeKind> m_kinds;                    // by edge
    mutable std::map<int, std::set<int>> m_outlines;  // edges of faces' outer loops, as they are asked for
    std::vector<double> m_areas;                      // by face
    std::vector<int> m_bend;                          // by face: 1 bulges outwards, -1 inwards, 0 flat or neither
    std::map<int, double> m_skin, m_volume;           // by body

    void measure() {
        m_kinds.assign(static_cast<std::size_t>(m_topology.edgeCount()) + 1, EdgeKind::Open);
        m_areas.assign(static_cast<std::size_t>(m_topology.faceCount()) + 1, 0.0);
        m_bend.assign(m_areas.size(), 0);
        tbb::parallel_for(1, m_topology.edgeCount() + 1, [&](int e) {
            if (m_topology.facesAt(e) == 2)
                m_kinds[static_cast<std::size_t>(e)] = edgeAngle(m_topology, e, smoothInFiles).kind;
        });
        std::vector<double> volumes(m_areas.size());
        tbb::parallel_for(1, m_topology.faceCount() + 1, [&](int f) {
            if (m_topology.bodyOf(f) < 0) return;
            (void)guarded("Measuring a face", [&]() -> Result<void> {
                const TopoDS_Face face = m_topology.face(f);
                const FaceSums& sums = m_topology.sums(f);
                m_areas[static_cast<std::size_t>(f)] = sums.skin.area;
                volumes[static_cast<std::size_t>(f)] =
                    sums.moments ? sums.moments->volume : volumeSeenFrom(m_topology.base(), face);
                if (surfaceKind(face) == SurfaceKind::Plane) return {};
                if (const auto round = roundSurface(face)) m_bend[static_cast<std::size_t>(f)] = round->inward ? -1 : 1;
                return {};
            });
        });
        for (int f = 1; f <= m_topology.faceCount(); ++f) {
            const int body = m_topology.bodyOf(f);
            m_skin[body] += m_areas[static_cast<std::size_t>(f)];
            m_volume[body] += volumes[static_cast<std::size_t>(f)];
        }
    }

    [[nodiscard]] int beyond(int edge, int face) const {
        const auto uses = m_topology.usesOf(edge);
        if (uses.size() != 2) return 0;
        return uses[0].face == face ? uses[1].face : uses[0].face;
    }

    [[nodiscard]] std::vector<std::vector<int>> groups(bool raised) const {
        std::vector<int> parent(m_areas.size());
        std::iota(parent.begin(), parent.end(), 0);
        const auto root = [&parent](int f) {
            while (parent[static_cast<std::size_t>(f)] != f)
                f = parent[static_cast<std::size_t>(f)] =
                    parent[static_cast<std::size_t>(parent[static_cast<std::size_t>(f)])];
            return f;
        };
        const EdgeKind within = raised ? EdgeKind::Convex : EdgeKind::Concave;
        const int against = raised ? -1 : 1;  // a round that leads out of it
        for (int e = 1; e <= m_topology.edgeCount(); ++e) {
            const auto uses = m_topology.usesOf(e);
            if (uses.size() != 2 || uses[0].face == uses[1].face || BRep_Tool::Degenerated(m_topology.edge(e)))
                continue;
            const EdgeKind kind = m_kinds[static_cast<std::size_t>(e)];
            const bool runsOn = kind == EdgeKind::Smooth && m_bend[static_cast<std::size_t>(uses[0].face)] != against &&
                                m_bend[static_cast<std::size_t>(uses[1].face)] != against;
            if (kind == within || runsOn) parent[static_cast<std::size_t>(root(uses[0].face))] = root(uses[1].face);
        }
        std::map<int, std::vector<int>> byRoot;
        for (int f = 1; f <= m_topology.faceCount(); ++f)
            if (m_topology.bodyOf(f) >= 0) byRoot[root(f)].push_back(f);
        std::vector<std::vector<int>> all;
        for (auto& [r, faces] : byRoot) {
            // One face alone: only a hollow one, such as half a hole.
            const bool hollow = !raised && m_bend[static_cast<std::size_t>(faces.front())] < 0;
            if (faces.size() <= mostFacesInOpenRelief && (faces.size() > 1 || hollow)) all.push_back(std::move(faces));
        }
        return all;
    }

    [[nodiscard]] std::optional<Relief> look(std::vector<int> faces, bool raised) const {
        if (std::all_of(faces.begin(), faces.end(), [&](int f) { return m_ofHoles.contains(f); })) return std::nullopt;
        for (const int f : faces)
            if (const auto held = m_closedAt.find(f); held != m_closedAt.end())
                for (const std::size_t r : held->second) {
                    const std::vector<int>& known = m_closed[r].faces;
                    if (!std::includes(known.begin(), known.end(), faces.begin(), faces.end()) &&
                        !std::includes(faces.begin(), faces.end(), known.begin(), known.end()))
                        return std::nullopt;
                }
        const EdgeKind rim = raised ? EdgeKind::Concave : EdgeKind::Convex;
        const auto isIn = [&](int f) { return std::binary_search(faces.begin(), faces.end(), f); };
        std::set<int> bases, edges;
        bool open = false;
        double area = 0.0;
        Relief relief;
        for (const int f : faces) {
            area += m_areas[static_cast<std::size_t>(f)];
            for (const int e : m_topology.edgesOf(f)) {
                edges.insert(e);
                const int other = beyond(e, f);
                if (BRep_Tool::Degenerated(m_topology.edge(e)) || other == f) continue;
                if (other == 0) return std::nullopt;
                if (isIn(other)) continue;
                if (m_kinds[static_cast<std::size_t>(e)] != rim)
                    return std::nullopt;  // it fades out: a round lies between
                bases.insert(other);
                if (relief.wall == 0) relief.wall = f;
                open = open || isOnOutline(other, e);
            }
        }
        const int body = m_topology.bodyOf(faces.front());
        if (!open || bases.size() < 2 || area > mostSkin * m_skin.at(body)) return std::nullopt;
        const auto [sides, middle] = box(faces, edges);
        const double volume = sides[0] * sides[1] * sides[2];
        if (!(sides[0] > 0.0) || volume > mostVolume * std::abs(m_volume.at(body))) return std::nullopt;
        relief.kind = raised ? ReliefKind::Rib : ReliefKind::Notch;
        relief.raised = raised;
        relief.sides = sides;
        relief.height = sides[0];
        relief.breadth = sides[2];
        relief.middle = middle;
        relief.gain = raised ? -volume : volume;
        relief.bases.assign(bases.begin(), bases.end());
        for (const int f : faces) relief.elements += forecast::faceShare(m_topology.face(f), m_targetSize).extra;
        relief.faces = std::move(faces);
        return relief;
    }

    /// Not on an inner loop.
    [[nodiscard]] bool isOnOutline(int face, int edge) const {
        const auto [known, fresh] =
            m_outlines.try_emplace(face);  // of a plate with a thousand letters it is asked for thousands of times
        if (fresh)
            for (TopExp_Explorer it(BRepTools::OuterWire(m_topology.face(face)), TopAbs_EDGE); it.More(); it.Next())
                known->second.insert(m_topology.edgeNumber(it.Current()));
        return known->second.contains(edge);
    }

    /// Of a flat face, also one that came as a spline.
    [[nodiscard]] std::optional<gp_Vec> normalOf(int f) const {
        std::optional<gp_Vec> normal;
        for (const int e : m_topology.edgesOf(f)) {
            if (BRep_Tool::Degenerated(m_topology.edge(e))) return std::nullopt;
            const TopoDS_Edge edge = TopoDS::Edge(m_topology.edge(e).Oriented(TopAbs_FORWARD));
            double first = 0.0, last = 0.0;
            BRep_Tool::Range(edge, first, last);
            for (const double share : {0.2, 0.8}) {
                const gp_Vec own = outwardNormal(m_topology.face(f), edge, first + share * (last - first));
                // [rad] a floor that turns is no flat one.
                if (own.SquareMagnitude() < 0.5 || (normal && own.Angle(*normal) > 1e-3)) return std::nullopt;
                if (!normal) normal = own;
            }
        }
        return normal;
    }

    /// Sides, ascending, and middle of the box round them, laid along their longest straight edge and their largest
    /// flat face.
    [[nodiscard]] std::pair<std::array<double, 3>, gp_Pnt> box(const std::vector<int>& faces,
                                                               const std::set<int>& edges) const {
        std::vector<gp_Pnt> points;
        gp_Dir along = gp::DX();
        double longest = 0.0;
        for (const int e : edges) {
            if (BRep_Tool::Degenerated(m_topology.edge(e))) continue;
            const BRepAdaptor_Curve curve(m_topology.edge(e));
            constexpr int count = 16;
            const std::size_t first = points.size();
            for (int i = 0; i <= count; ++i)
                points.push_back(
                    curve.Value(curve.FirstParameter() + (curve.LastParameter() - curve.FirstParameter()) * i / count));
            const gp_Vec chord(points[first], points.back());
            bool straight = chord.Magnitude() > longest;  // lines come as splines too
            for (std::size_t i = first + 1; i + 1 < points.size() && straight; ++i)
                straight = gp_Vec(points[first], points[i]).Crossed(chord).Magnitude() <=
                           Tolerance::fittedDirection * chord.SquareMagnitude();
            if (straight) {
                longest = chord.Magnitude();
                along = gp_Dir(chord);
            }
        }
        gp_Vec up;
        double largest = 0.0;
        for (const int f : faces) {
            if (m_areas[static_cast<std::size_t>(f)] <= largest) continue;
            const auto flat = normalOf(f);
            if (!flat) continue;
            const gp_Vec normal = *flat;
            const gp_Vec across = normal - gp_Vec(along) * normal.Dot(gp_Vec(along));
            if (across.Magnitude() < 0.3) continue;
            largest = m_areas[static_cast<std::size_t>(f)];
            up = across;
        }
        gp_Ax2 frame(gp_Pnt(), along);
        if (largest > 0.0)
            frame = gp_Ax2(gp_Pnt(), along, gp_Dir(up));
        else if (!points.empty()) {  // round all over: along the chord it spans
            double xx = 0.0, xy = 0.0, yy = 0.0, meanX = 0.0, meanY = 0.0;
            const auto n = static_cast<double>(points.size());
            const auto x = [&](const gp_Pnt& p) { return p.XYZ().Dot(frame.XDirection().XYZ()); };
            const auto y = [&](const gp_Pnt& p) { return p.XYZ().Dot(frame.YDirection().XYZ()); };
            for (const gp_Pnt& p : points) {
                meanX += x(p) / n;
                meanY += y(p) / n;
            }
            for (const gp_Pnt& p : points) {
                xx += (x(p) - meanX) * (x(p) - meanX);
                xy += (x(p) - meanX) * (y(p) - meanY);
                yy += (y(p) - meanY) * (y(p) - meanY);
            }
            const double angle = 0.5 * std::atan2(2.0 * xy, xx - yy);
            frame =
                gp_Ax2(gp_Pnt(), along,
                       gp_Dir(frame.XDirection().XYZ() * std::cos(angle) + frame.YDirection().XYZ() * std::sin(angle)));
        }
        std::array<double, 3> low, high, sides;
        low.fill(std::numeric_limits<double>::max());
        high.fill(std::numeric_limits<double>::lowest());
        const std::array<gp_Dir, 3> axes{frame.Direction(), frame.XDirection(), frame.YDirection()};
        gp_XYZ middle(0, 0, 0);
        for (std::size_t a = 0; a < 3; ++a) {
            for (const gp_Pnt& point : points) {
                const double at = point.XYZ().Dot(axes[a].XYZ());
                low[a] = std::min(low[a], at);
                high[a] = std::max(high[a], at);
            }
            sides[a] = high[a] - low[a];
            middle += axes[a].XYZ() * (0.5 * (low[a] + high[a]));
        }
        std::sort(sides.begin(), sides.end());
        return {sides, gp_Pnt(middle)};
    }
};

}  // namespace

std::vector<Relief> findOpenReliefs(const Part& part, double targetSize, const std::set<int>& ofHoles,
                                    const std::vector<Relief>& closed, Progress& progress) {
    if (part.incidence().faceCount() == 0) return {};
    return OpenReliefFinder(part, targetSize, ofHoles, closed, progress).run();
}

}  // namespace rasoir::survey
