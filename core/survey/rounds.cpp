#include "survey/rounds.h"

#include <fmt/format.h>
#include <tbb/parallel_for.h>

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepTools.hxx>
#include <GeomLProp_SLProps.hxx>
#include <gp_Lin.hxx>
#include <map>
#include <numeric>
#include <set>
#include <TopoDS.hxx>

#include "common/guard.h"
#include "common/tolerance.h"
#include "forecast/elements.h"
#include "geometry/curves.h"
#include "geometry/edge_probe.h"
#include "geometry/integrals.h"
#include "geometry/round_surface.h"
#include "topology/edge_angle.h"
#include "topology/half_edges.h"

namespace rasoir::survey {
namespace {

constexpr double nearlySmooth = 0.3;  // [rad] at a patch where rounds end smoothly
constexpr double wallFrom = 5.0;      // times the radius of a round that stands at it
constexpr double leastSaddle = 0.15;  // of the stronger curvature: what bends less the other way is no saddle
constexpr double leastTurn = 5.0 * M_PI / 180.0, mostTurn = 170.0 * M_PI / 180.0;

/// One face seen as a strip.
struct Candidate {
    bool strip = false, patch = false;  // patch: smooth all round, or nearly, may lie between strips
    bool nearly = false;                // no edge sharper than a blend that was made with a tolerance
    StripKind kind = StripKind::Round;
    std::array<std::vector<int>, 2> contact;  // edge numbers
    std::vector<int> across;
    double radius = 0.0, least = 0.0, turn = 0.0, length = 0.0, width = 0.0;
    double section = 0.0;  // [mm^2] rounds: mean area between the arc and the sharp corner
    bool convex = true;
};

class StripFinder {
public:
    StripFinder(const Part& part, double targetSize, Progress& progress)
        : m_part(part), m_topology(part.incidence()), m_targetSize(targetSize), m_progress(progress) {}

    Result<std::vector<StripChain>> run() {
        const auto count = static_cast<std::size_t>(m_topology.faceCount()) + 1;
        m_angles.resize(static_cast<std::size_t>(m_topology.edgeCount()) + 1);
        tbb::parallel_for(1, m_topology.edgeCount() + 1, [&](int e) {
            if (m_topology.facesAt(e) == 2) m_angles[e] = edgeAngle(m_topology, e, smoothInFiles);
        });
        m_candidates.resize(count);
        tbb::parallel_for(1, m_topology.faceCount() + 1, [&](int f) {
            if (m_progress.cancelled() || m_topology.bodyOf(f) < 0) return;
            (void)guarded("Looking at a face", [&]() -> Result<void> {
                m_candidates[f] = look(f);
                return {};
            });
        });
        if (m_progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped.");
        settleSaddles();
        dropRims();
        dropOutlines();
        settlePatches();
        return chains();
    }

private:
    const Part& m_part;
    const Incidence& m_topology;
    double m_targetSize;
    Progress& m_progress;
    std::vector<EdgeAngle> m_angles;
    std::vector<Candidate> m_candidates;
    std::set<int> m_dropped;  // faces that only looked like strips

    [[nodiscard]] int beyond(int edge, int face) const {
        const auto uses = m_topology.usesOf(edge);
        if (uses.size() != 2) return 0;
        return uses[0].face == face ? uses[1].face : uses[0].face;
    }
    [[nodiscard]] bool isSmooth(int edge) const {
        return m_topology.facesAt(edge) == 2 && m_angles[edge].kind == EdgeKind::Smooth;
    }

    /// Direction in which a strip of this surface runs at a point, and its radius across. None where the surface does
    /// not say.
    struct Run {
        gp_Dir along;
        double radius = 0.0;
        bool convex = true;
    };
    /// `asConvex`: on a saddle, as the outer or the inner strip that it could be a piece of, whichever bends more.
    static std::optional<Run> runAt(const std::optional<RoundSurface>& round, const TopoDS_Face& face,
                                    const gp_Pnt& point, const gp_Pnt2d& uv, std::optional<bool> asConvex = {}) {
        if (round && round->kind == SurfaceKind::Cylinder)
            return Run{round->axis.Direction(), round->radius, !round->inward};
        if (round && round->kind == SurfaceKind::Torus) {
            const gp_Vec about = gp_Vec(round->axis.Direction()).Crossed(gp_Vec(round->axis.Location(), point));
            if (about.SquareMagnitude() < Tolerance::noLengthSquare) return std::nullopt;
            return Run{gp_Dir(about), round->radius, !round->inward};
        }
        if (round && round->kind == SurfaceKind::Sphere) return std::nullopt;
        GeomLProp_SLProps props(BRep_Tool::Surface(face), uv.X(), uv.Y(), 2, Tolerance::noWay);
        if (!props.IsNormalDefined() || !props.IsCurvatureDefined()) return std::nullopt;
        gp_Dir most, least;
        double a = props.MaxCurvature(), b = props.MinCurvature();
        props.CurvatureDirections(most, least);
        if (std::abs(a) < std::abs(b)) {
            std::swap(a, b);
            std::swap(most, least);
        }
        // Positive curvature: the normal points to the centre; the outward one does on a concave round.
        const bool reversed = face.Orientation() == TopAbs_REVERSED;
        if (asConvex) {
            // Where it meets a wall, a saddle may hardly bend the other way.
            const auto convex = [reversed](double curvature) { return (curvature > 0.0) == reversed; };
            if (convex(a) != *asConvex) {
                if (convex(b) != *asConvex || std::abs(b) < leastSaddle * std::abs(a)) return std::nullopt;
                std::swap(a, b);
                std::swap(most, least);
            }
        } else if (std::abs(b) > 0.7 * std::abs(a)) {
            return std::nullopt;
        }
        if (std::abs(a) < Tolerance::noWay) return std::nullopt;
        return Run{least, 1.0 / std::abs(a), (a > 0.0) == reversed};
    }

    Candidate look(int f) const {
        const TopoDS_Face face = m_topology.face(f);
        const SurfaceKind kind = surfaceKind(face);
        if (kind == SurfaceKind::Plane) return lookForChamfer(f, std::nullopt);
        const auto round = roundSurface(face);
        if (round && round->kind == SurfaceKind::Cone) {
            const Candidate chamfer = lookForChamfer(f, round);
            if (chamfer.strip) return chamfer;
        }
        Candidate found = lookForRound(f, face, round);
        if (found.strip || round || kind == SurfaceKind::Sphere || kind == SurfaceKind::Torus) return found;
        // A flat that came as a spline, or a chamfer along a curved edge: straight across, and as wide all along.
        if (Candidate chamfer = lookForChamfer(f, std::nullopt); chamfer.strip && isStraightAcross(f, chamfer))
            return chamfer;
        return found;
    }

    [[nodiscard]] bool isStraightAcross(int f, const Candidate& chamfer) const {
        const EdgeProbe one(m_topology.edge(chamfer.contact[0].front())),
            two(m_topology.edge(chamfer.contact[1].front()));
        const Handle(Geom_Surface) surface = BRep_Tool::Surface(m_topology.face(f));
        double least = std::numeric_limits<double>::max(), most = 0.0;
        for (const double share : {0.1, 0.3, 0.5, 0.7, 0.9}) {
            const gp_Pnt from = one.value(one.first() + share * (one.last() - one.first()));
            const EdgeProbe::Near near = two.nearest(from);
            const gp_Pnt to = two.value(near.parameter), middle(0.5 * (from.XYZ() + to.XYZ()));
            const auto foot = footOn(surface, middle, Tolerance::samePlace);
            if (!foot || surface->Value(foot->X(), foot->Y()).Distance(middle) > 0.02 * near.distance) return false;
            least = std::min(least, near.distance);
            most = std::max(most, near.distance);
        }
        return most <= 1.3 * least;
    }

    Candidate lookForRound(int f, const TopoDS_Face& face, const std::optional<RoundSurface>& round,
                           std::optional<bool> asConvex = {}) const {
        Candidate found;
        HalfEdgeBody body(m_topology);
        const int record = body.faceRecord(f);
        if (body.face(record).disordered) return found;
        const TopoDS_Face flat = TopoDS::Face(face.Oriented(TopAbs_FORWARD));
        // Every side: does it run along the strip, and smoothly?
        std::map<int, int> label;  // half: 1 contact, 0 across, -1 along but not smooth
        std::map<int, gp_Vec> normals;
        double radius = 0.0, least = std::numeric_limits<double>::max();
        int convex = 0, concave = 0;
        bool allSmooth = true, nearly = true;
        for (const int h : body.halvesOf(record)) {
            const SurgeryEdge& edge = body.edge(body.half(h).edge);
            if (edge.degenerated) {
                label[h] = 0;
                continue;
            }
            const auto uses = m_topology.usesOf(edge.number);
            const bool seam = uses.size() == 2 && uses[0].face == uses[1].face;
            if (!seam && !isSmooth(edge.number)) {
                allSmooth = false;
                nearly = nearly && m_topology.facesAt(edge.number) == 2 &&
                         std::abs(m_angles[edge.number].turn) < nearlySmooth;
            }
            label[h] = 0;
            if (seam) continue;
            double first = 0.0, last = 0.0;
            const Handle(Geom2d_Curve) trace = BRep_Tool::CurveOnSurface(edge.shape, flat, first, last);
            if (trace.IsNull()) return found;
            int alongs = 0, told = 0;
            for (const double share : {0.25, 0.5, 0.75, 0.01, 0.99}) {  // the last two for the radius alone
                const double at = first + share * (last - first);
                gp_Pnt point;
                gp_Vec tangent;
                edge.curve->D1(edge.first + share * (edge.last - edge.first), point, tangent);
                if (tangent.SquareMagnitude() < Tolerance::noLengthSquare) continue;
                const auto run = runAt(round, face, point, trace->Value(at), asConvex);
                if (!run) continue;
                const bool along = std::abs(gp_Dir(tangent).Dot(run->along)) > 0.9;
                if (share > 0.1 && share < 0.9) {
                    ++told;
                    alongs += along;
                }
                if (!along) continue;
                radius = std::max(radius, run->radius);
                least = std::min(least, run->radius);
                ++(run->convex ? convex : concave);
            }
            if (told == 0 || 2 * alongs < told) continue;
            label[h] = isSmooth(edge.number) ? 1 : -1;
            normals[h] = outwardNormal(face, edge.shape, edge.first + 0.5 * (edge.last - edge.first));
        }
        found.patch = allSmooth && label.size() > 1;
        found.nearly = nearly && label.size() > 2;
        if (std::any_of(label.begin(), label.end(), [](const auto& one) { return one.second < 0; })) return found;
        if (convex > 0 && concave > 0) return found;
        if (!split(body, label, found)) return found;
        for (const auto& side : found.contact)
            for (const int e : side)
                if (const int other = beyond(e, f);
                    other == 0 || sameSurface(m_topology.face(other), face, Tolerance::sameSkin))
                    return found;  // a piece of a larger round
        // How far it turns from side to side.
        const auto normalOf = [&](int side) {
            gp_Vec sum;
            double longest = -1.0;
            for (const auto& [h, normal] : normals) {
                const SurgeryEdge& edge = body.edge(body.half(h).edge);
                if (std::find(found.contact[side].begin(), found.contact[side].end(), edge.number) ==
                    found.contact[side].end())
                    continue;
                const double length = edge.curve->Value(edge.first).Distance(edge.curve->Value(edge.last));
                if (length > longest) {
                    longest = length;
                    sum = normal;
                }
            }
            return sum;
        };
        found.length = 0.5 * (lengthOf(found.contact[0]) + lengthOf(found.contact[1]));
        const gp_Vec a = normalOf(0), b = normalOf(1);
        if (a.SquareMagnitude() < 0.5 || b.SquareMagnitude() < 0.5) return found;
        found.turn = turnOf(round, found, a, b, radius);
        if (found.turn < leastTurn || found.turn > mostTurn) return found;
        found.radius = radius;
        found.least = least;
        found.section = sectionOf(found, round.has_value());
        found.convex = convex > 0;
        found.strip = true;
        found.patch = false;
        return found;
    }

    /// Contact sides in two rows, divided by what runs across or by a point where the loop turns back.
    bool split(const HalfEdgeBody& body, const std::map<int, int>& label, Candidate& found) const {
        std::set<int> seen;
        std::vector<std::vector<int>> loops;
        for (const auto& [first, l] : label) {
            if (seen.contains(first)) continue;
            std::vector<int> loop;
            for (int h = first; seen.insert(h).second; h = body.half(h).next) loop.push_back(h);
            loops.push_back(std::move(loop));
        }
        const auto number = [&](int h) { return body.edge(body.half(h).edge).number; };
        if (loops.size() == 2) {
            for (int side = 0; side < 2; ++side)
                for (const int h : loops[side]) {
                    if (label.at(h) != 1) return false;
                    found.contact[side].push_back(number(h));
                }
            return true;
        }
        if (loops.size() != 1) return false;
        const std::vector<int>& loop = loops.front();
        const std::size_t n = loop.size();
        const auto direction = [&](int h, bool end) {
            const SurgeryEdge& edge = body.edge(body.half(h).edge);
            const bool along = body.half(h).alongEdge;
            gp_Pnt point;
            gp_Vec tangent;
            edge.curve->D1(end == along ? edge.last : edge.first, point, tangent);
            if (!along) tangent.Reverse();
            return tangent;
        };
        // Rows begin where the side before runs across, or where the loop turns back on itself.
        std::vector<std::vector<int>> rows;
        std::size_t begin = n;
        const auto begins = [&](std::size_t i) {
            const int before = loop[(i + n - 1) % n];
            if (label.at(loop[i]) != 1) return false;
            return label.at(before) != 1 || direction(before, true).Angle(direction(loop[i], false)) > 2.0;
        };
        for (std::size_t i = 0; i < n && begin == n; ++i)
            if (begins(i)) begin = i;
        if (begin == n) return false;
        for (std::size_t s = 0; s < n; ++s) {
            const std::size_t i = (begin + s) % n;
            if (label.at(loop[i]) != 1) {
                found.across.push_back(number(loop[i]));
                continue;
            }
            if (begins(i)) rows.emplace_back();
            rows.back().push_back(number(loop[i]));
        }
        if (rows.size() != 2) return false;
        found.contact = {rows[0], rows[1]};
        return true;
    }

    [[nodiscard]] double lengthOf(const std::vector<int>& edges) const {
        double length = 0.0;
        for (const int e : edges) length += EdgeProbe(m_topology.edge(e)).length();
        return length;
    }

    /// Arc from one side to the other, by the distance of the sides where that says more than the normals.
    double turnOf(const std::optional<RoundSurface>& round, const Candidate& found, const gp_Vec& a, const gp_Vec& b,
                  double radius) const {
        const EdgeProbe one(m_topology.edge(found.contact[0].front())), two(m_topology.edge(found.contact[1].front()));
        const gp_Pnt middle = one.value(0.5 * (one.first() + one.last()));
        double apart = two.nearest(middle).distance;
        for (const int e : found.contact[1])
            apart = std::min(apart, EdgeProbe(m_topology.edge(e)).nearest(middle).distance);
        const double byChord = 2.0 * std::asin(std::min(1.0, 0.5 * apart / std::max(radius, Tolerance::noLength)));
        if (!round) return byChord;
        // The chord of an arc beyond the half turn is that of the one short of it: the normals of a full tube's sides
        // agree.
        const double byNormals = a.Angle(b);
        const double area = areaBetween(found);
        const double byArea = area / std::max(radius * found.length, Tolerance::noLength);
        if (round->kind == SurfaceKind::Cylinder && byArea > 1.25 * M_PI) return 2.0 * M_PI - byChord;
        return std::max(byChord, std::min(byNormals, byArea * 1.2));
    }
    /// Freeform rounds turn more here and less there, or have another radius: their chords are sampled.
    double sectionOf(const Candidate& found, bool exact) const {
        const auto area = [](double radius, double half) { return radius * radius * (std::tan(half) - half); };
        if (exact) return area(found.radius, 0.5 * found.turn);
        const double middle = 0.5 * (found.radius + found.least);
        const bool varies = found.least < 0.95 * found.radius;
        double sum = 0.0;
        int count = 0;
        for (const int e : found.contact[0]) {
            const EdgeProbe probe(m_topology.edge(e));
            for (const double share : {0.1, 0.3, 0.5, 0.7, 0.9}) {
                if (varies && share != 0.5) continue;
                double apart = std::numeric_limits<double>::max();
                for (const int other : found.contact[1])
                    apart = std::min(apart,
                                     EdgeProbe(m_topology.edge(other))
                                         .nearest(probe.value(probe.first() + share * (probe.last() - probe.first())))
                                         .distance);
                sum += area(middle,
                            std::min(0.5 * mostTurn,
                                     std::asin(std::min(1.0, 0.5 * apart / std::max(middle, Tolerance::noLength)))));
                ++count;
            }
        }
        return count > 0 ? sum / count : 0.0;
    }
    double areaBetween(const Candidate& found) const {
        const auto uses = m_topology.usesOf(found.contact[0].front());
        for (const EdgeUse& use : uses) {
            const auto edges = m_topology.edgesOf(use.face);
            if (std::find(edges.begin(), edges.end(), found.contact[1].front()) == edges.end()) continue;
            return m_topology.area(use.face);
        }
        return 0.0;
    }

    /// A narrow plane or cone that breaks an edge: it meets what it runs along at like angles on both sides, both outer
    /// or both inner.
    Candidate lookForChamfer(int f, const std::optional<RoundSurface>& cone) const {
        Candidate found;
        HalfEdgeBody body(m_topology);
        const int record = body.faceRecord(f);
        if (body.face(record).disordered) return found;
        std::vector<int> sides;
        bool any = false;
        for (const int h : body.halvesOf(record)) {
            const SurgeryEdge& edge = body.edge(body.half(h).edge);
            if (edge.degenerated) return found;
            sides.push_back(h);
            any = any || m_topology.facesAt(edge.number) != 2;
        }
        if (any || sides.size() > 12) return found;
        const auto edgeOf = [&](int h) -> const SurgeryEdge& { return body.edge(body.half(h).edge); };
        const auto fits = [&](int e) {
            const EdgeAngle& angle = m_angles[e];
            return (angle.kind == EdgeKind::Convex || angle.kind == EdgeKind::Concave) && std::abs(angle.turn) > 0.25 &&
                   std::abs(angle.turn) < 1.35;
        };
        if (cone) {
            std::vector<int> rims;
            for (const int h : sides) {
                const auto uses = m_topology.usesOf(edgeOf(h).number);
                if (uses[0].face == uses[1].face) continue;  // its seam
                rims.push_back(edgeOf(h).number);
                if (!fits(rims.back())) return found;
            }
            if (rims.size() != 2 || (m_angles[rims[0]].kind != m_angles[rims[1]].kind)) return found;
            found.contact = {std::vector{rims[0]}, std::vector{rims[1]}};
        } else {
            if (sides.size() != 4) return found;
            // In order round the loop.
            std::vector<int> loop{sides.front()};
            while (body.half(loop.back()).next != loop.front() && loop.size() < 5)
                loop.push_back(body.half(loop.back()).next);
            if (loop.size() != 4) return found;
            double narrowest = std::numeric_limits<double>::max();
            for (const int start : {0, 1}) {
                const int a = edgeOf(loop[start]).number, b = edgeOf(loop[start + 2]).number;
                if (!fits(a) || !fits(b) || m_angles[a].kind != m_angles[b].kind) continue;
                const int faceA = beyond(a, f), faceB = beyond(b, f);
                if (faceA == f || faceB == f || faceA == faceB) continue;
                const gp_Vec normal = middleNormal(f, a), na = middleNormal(faceA, a), nb = middleNormal(faceB, b);
                if (std::abs(normal.Dot(na.Crossed(nb))) > 0.05) continue;
                const double turn = na.Angle(nb);
                if (turn < 0.5 || turn > 2.4) continue;
                const double width = apart(a, b), length = 0.5 * (lengthOf({a}) + lengthOf({b}));
                if (width > 0.5 * length || width >= narrowest) continue;
                narrowest = width;
                found.contact = {std::vector{a}, std::vector{b}};
            }
            if (found.contact[0].empty()) return found;
            for (const int h : loop)
                if (const int e = edgeOf(h).number; e != found.contact[0][0] && e != found.contact[1][0])
                    found.across.push_back(e);
        }
        const int a = found.contact[0].front(), b = found.contact[1].front();
        const int faceA = beyond(a, f), faceB = beyond(b, f);
        found.width = apart(a, b);
        found.length = 0.5 * (lengthOf({a}) + lengthOf({b}));
        // It is narrower than what it runs along; else it is a face like any other.
        for (const auto& [other, wide, edge] : {std::tuple(faceA, faceB, a), std::tuple(faceB, faceA, b)})
            if (narrowOf(other) < 1.5 * found.width && surfaceKind(m_topology.face(other)) == SurfaceKind::Plane &&
                !isRimBetweenChamfers(f, other, edge, wide, found.width))
                return found;
        found.turn = std::abs(m_angles[a].turn) + std::abs(m_angles[b].turn);
        found.kind = StripKind::Chamfer;
        found.convex = m_angles[a].kind == EdgeKind::Convex;
        found.radius = found.least = found.width;
        found.strip = true;
        return found;
    }
    /// What two chamfers leave of the rim of a flange can be narrower than they are: a flat with a chamfer of one width
    /// and slope on either side, behind which broad faces look away from each other.
    [[nodiscard]] bool isRimBetweenChamfers(int chamfer, int rim, int edge, int wide, double width) const {
        constexpr double broad = 3.0, alike = 0.05;
        if (narrowOf(wide) < broad * width) return false;
        const gp_Vec back = middleNormal(rim, edge);
        for (const int e : m_topology.edgesOf(rim)) {
            const int other = beyond(e, rim);
            if (e == edge || other == 0 || other == chamfer ||
                surfaceKind(m_topology.face(other)) != SurfaceKind::Plane)
                continue;
            if (std::abs(m_angles[e].turn - m_angles[edge].turn) > alike ||
                std::abs(narrowOf(other) - narrowOf(chamfer)) > alike * width || lengthOf({e}) < 2.0 * width)
                continue;
            for (const int far : m_topology.edgesOf(other)) {
                const int behind = beyond(far, other);
                if (far == e || behind == 0 || behind == rim || narrowOf(behind) < broad * width) continue;
                for (const int near : m_topology.edgesOf(wide))
                    if (middleNormal(behind, far).Dot(middleNormal(wide, near)) < -0.99 &&
                        std::abs(middleNormal(behind, far).Dot(back)) < 0.3)
                        return true;
            }
        }
        return false;
    }
    [[nodiscard]] gp_Vec middleNormal(int face, int edge) const {
        const TopoDS_Edge shape = TopoDS::Edge(m_topology.edge(edge).Oriented(TopAbs_FORWARD));
        const BRepAdaptor_Curve curve(shape);
        return outwardNormal(m_topology.face(face), shape, 0.5 * (curve.FirstParameter() + curve.LastParameter()));
    }
    [[nodiscard]] double apart(int a, int b) const {
        const EdgeProbe one(m_topology.edge(a)), two(m_topology.edge(b));
        double most = 0.0;
        for (const double share : {0.3, 0.5, 0.7})
            most = std::max(most, two.nearest(one.value(one.first() + share * (one.last() - one.first()))).distance);
        return most;
    }
    /// Twice the area over the outline [mm]: how wide a face is.
    [[nodiscard]] double narrowOf(int f) const {
        double outline = 0.0;
        for (const int e : m_topology.edgesOf(f)) outline += lengthOf({e});
        return outline > 0.0 ? 2.0 * m_topology.area(f) / outline : 0.0;
    }

    /// Where an inner round runs over the end of an outer one, it bends both ways, and can bend more as the outer one
    /// does. It is a piece of the inner one, or the other way round, when that runs on at both its ends.
    void settleSaddles() {
        const auto runsOn = [this](int f, const Candidate& as, const std::vector<Candidate>& all) {
            std::set<int> before;
            for (const int e : as.across) {
                const int other = beyond(e, f);
                if (other == 0 || !isSmooth(e)) return false;
                const Candidate& next = all[other];
                if (next.strip && next.kind == StripKind::Round && next.convex == as.convex &&
                    std::abs(next.radius - as.radius) < 0.1 * as.radius &&
                    std::find(next.across.begin(), next.across.end(), e) != next.across.end())
                    before.insert(other);
            }
            return before.size() >= 2;
        };
        std::vector<int> saddles;
        for (int f = 1; f <= m_topology.faceCount(); ++f) {
            const Candidate& own = m_candidates[f];
            const TopoDS_Face face = m_topology.face(f);
            if (own.kind == StripKind::Round && (own.strip || own.patch) && !roundSurface(face) &&
                surfaceKind(face) != SurfaceKind::Plane && !(own.strip && runsOn(f, own, m_candidates)))
                saddles.push_back(f);
        }
        // A seam can part one in two, each with the other at one end: so all are taken for pieces at first, and those
        // that do not run on are given back until the others hold.
        for (const bool convex : {false, true}) {
            std::vector<Candidate> trial = m_candidates;
            std::set<int> taken;
            for (const int f : saddles) {
                const auto as = guarded("Looking at a face", [&]() -> Result<Candidate> {
                    return lookForRound(f, m_topology.face(f), std::nullopt, convex);
                });
                if (!as || !as->strip) continue;
                trial[f] = *as;
                taken.insert(f);
            }
            for (bool changed = true; changed;) {
                changed = false;
                for (auto f = taken.begin(); f != taken.end();) {
                    if (runsOn(*f, trial[*f], trial)) {
                        ++f;
                        continue;
                    }
                    trial[*f] = m_candidates[*f];
                    f = taken.erase(f);
                    changed = true;
                }
            }
            for (const int f : taken) m_candidates[f] = trial[f];
            std::erase_if(saddles, [&](int f) { return taken.contains(f); });
        }
    }

    /// The rim that two chamfers leave can be narrower than they are, and looks like one itself.
    void dropRims() {
        std::vector<int> rims;
        for (int f = 1; f <= m_topology.faceCount(); ++f) {
            const Candidate& own = m_candidates[f];
            if (!own.strip || own.kind != StripKind::Chamfer) continue;
            int between = 0;
            for (const auto& side : own.contact) {
                const int other = beyond(side.front(), f);
                if (other == 0) continue;
                const Candidate& next = m_candidates[other];
                between +=
                    next.strip && next.kind == StripKind::Chamfer &&
                    (next.contact[0] == std::vector{side.front()} || next.contact[1] == std::vector{side.front()});
            }
            if (between == 2) rims.push_back(f);
        }
        for (const int f : rims) m_candidates[f].strip = false;
    }

    /// Strips side by side, each resting on the next, are an outline drawn with curves, not fillets: freeform ones
    /// where that is so on one side, cylinders and tori where it is so on both (one round may run into another). What
    /// is many times as large is a curved wall that the round stands at, though it ends in a round at its other end
    /// too.
    void dropOutlines() {
        for (bool changed = true; changed;) {
            changed = false;
            std::vector<int> dropped;
            for (int f = 1; f <= m_topology.faceCount(); ++f) {
                const Candidate& own = m_candidates[f];
                if (!own.strip || own.kind != StripKind::Round) continue;
                int mutual = 0;
                for (const auto& side : own.contact) {
                    bool here = false;
                    for (const int e : side) {
                        const int other = beyond(e, f);
                        if (other == 0 || other == f) continue;
                        const auto rests = [&](const std::vector<int>& edges) {
                            return std::find(edges.begin(), edges.end(), e) != edges.end();
                        };
                        const Candidate& next = m_candidates[other];
                        here = here ||
                               ((m_dropped.contains(other) || next.strip) && next.radius <= wallFrom * own.radius &&
                                (rests(next.contact[0]) || rests(next.contact[1])));
                    }
                    mutual += here;
                }
                const SurfaceKind kind = surfaceKind(m_topology.face(f));
                const bool exact = kind == SurfaceKind::Cylinder || kind == SurfaceKind::Torus;
                if (mutual == 2 || (mutual == 1 && !exact)) dropped.push_back(f);
            }
            for (const int f : dropped) {
                m_candidates[f].strip = false;
                changed = m_dropped.insert(f).second || changed;
            }
        }
    }

    /// Where a round runs out over an edge, one of its sides is used up before the other: a last face follows, smooth
    /// to the strip and to one of the faces it runs along, with the strip's radius, and no longer than a few of those.
    /// It goes with the strip.
    [[nodiscard]] bool isTail(int f) const {
        const auto edges = m_topology.edgesOf(f);
        if (edges.size() < 3 || edges.size() > 4) return false;
        int joint = 0, strip = 0;
        for (const int e : edges) {
            const int other = beyond(e, f);
            if (other == 0 || other == f) return false;
            const Candidate& next = m_candidates[other];
            if (!next.strip || next.kind != StripKind::Round || !isSmooth(e) ||
                std::find(next.across.begin(), next.across.end(), e) == next.across.end())
                continue;
            if (joint > 0) return false;
            joint = e;
            strip = other;
        }
        if (joint == 0) return false;
        const Candidate& before = m_candidates[strip];
        int rests = 0;
        for (const int e : edges) {
            if (e == joint || !isSmooth(e)) continue;
            const auto isBeyond = [&](int along) { return beyond(along, strip) == beyond(e, f); };
            const bool same = std::any_of(before.contact[0].begin(), before.contact[0].end(), isBeyond) ||
                              std::any_of(before.contact[1].begin(), before.contact[1].end(), isBeyond);
            if (!same) return false;
            ++rests;
        }
        if (rests != 1) return false;
        const TopoDS_Face face = TopoDS::Face(m_topology.face(f).Oriented(TopAbs_FORWARD));
        const auto round = roundSurface(m_topology.face(f));
        for (const int e : edges) {
            if (!isSmooth(e)) continue;
            double first = 0.0, last = 0.0;
            const TopoDS_Edge shape = TopoDS::Edge(m_topology.edge(e).Oriented(TopAbs_FORWARD));
            const Handle(Geom2d_Curve) trace = BRep_Tool::CurveOnSurface(shape, face, first, last);
            if (trace.IsNull()) return false;
            const double at = 0.5 * (first + last);
            const auto run = runAt(round, m_topology.face(f), BRepAdaptor_Curve(shape).Value(at), trace->Value(at));
            if (!run || run->convex != before.convex || run->radius < 0.9 * before.least ||
                run->radius > 1.1 * before.radius)
                return false;
            if (lengthOf({e}) > 4.0 * before.radius) return false;
        }
        return true;
    }

    /// A face of three edges where strips end. Three chamfers leave a flat triangle; two strips (often an inner and an
    /// outer one) leave a triangle, flat or not, that stands on a face beside one of them; a chamfer alone may end in a
    /// cap with edges up to two and a half times its width, between a face beside it and the one it ends at. `ending`:
    /// strips that end at it, `others`: the faces beyond its other edges.
    [[nodiscard]] bool isEndPatch(int f, const std::set<int>& ending, const std::set<int>& others) const {
        if (m_topology.edgesOf(f).size() != 3 || ending.empty() || ending.size() + others.size() != 3) return false;
        const Candidate &one = m_candidates[*ending.begin()], &last = m_candidates[*ending.rbegin()];
        const auto isChamfer = [&](int strip) { return m_candidates[strip].kind == StripKind::Chamfer; };
        if (ending.size() == 3)
            return surfaceKind(m_topology.face(f)) == SurfaceKind::Plane &&
                   std::all_of(ending.begin(), ending.end(), isChamfer);
        if (one.kind != last.kind) return false;
        if (ending.size() == 1) {
            constexpr double widest = 2.5;  // times the chamfer
            if (one.kind != StripKind::Chamfer) return false;
            for (const int e : m_topology.edgesOf(f))
                if (lengthOf({e}) > widest * one.width) return false;
        }
        int beside = 0;
        for (const int strip : ending)
            for (const int other : others) {
                const auto rests = [&](int e) { return beyond(e, strip) == other; };
                const auto& contact = m_candidates[strip].contact;
                beside += std::any_of(contact[0].begin(), contact[0].end(), rests) ||
                          std::any_of(contact[1].begin(), contact[1].end(), rests);
            }
        return beside == 1;
    }

    /// Patches are those that at least two strips end at, and tails.
    void settlePatches() {
        std::vector<int> tails;
        for (int f = 1; f <= m_topology.faceCount(); ++f)
            if (!m_candidates[f].strip && isTail(f)) tails.push_back(f);
        for (int f = 1; f <= m_topology.faceCount(); ++f) {
            Candidate& own = m_candidates[f];
            if (own.strip) continue;
            std::set<int> ending, others;
            for (const int e : m_topology.edgesOf(f)) {
                const int other = beyond(e, f);
                if (other == 0 || other == f) continue;
                const auto& across = m_candidates[other].across;
                if (m_candidates[other].strip && std::find(across.begin(), across.end(), e) != across.end())
                    ending.insert(other);
                else
                    others.insert(other);
            }
            own.patch = ((own.patch || own.nearly) && ending.size() >= 2) || isEndPatch(f, ending, others);
        }
        for (const int f : tails) m_candidates[f].patch = true;
    }

    Result<std::vector<StripChain>> chains() {
        std::vector<int> parent(m_candidates.size());
        std::iota(parent.begin(), parent.end(), 0);
        const auto root = [&parent](int f) {
            while (parent[f] != f) f = parent[f] = parent[parent[f]];
            return f;
        };
        const auto member = [&](int f) { return m_candidates[f].strip || m_candidates[f].patch; };
        for (int f = 1; f <= m_topology.faceCount(); ++f) {
            const Candidate& own = m_candidates[f];
            if (!own.strip) continue;
            for (const int e : own.across) {
                const int other = beyond(e, f);
                if (other == 0 || !member(other)) continue;
                const Candidate& next = m_candidates[other];
                const bool theirs =
                    next.patch || (next.kind == own.kind &&
                                   std::find(next.across.begin(), next.across.end(), e) != next.across.end());
                if (theirs) parent[root(f)] = root(other);
            }
        }
        std::map<int, std::vector<int>> groups;
        for (int f = 1; f <= m_topology.faceCount(); ++f)
            if (member(f)) groups[root(f)].push_back(f);
        std::vector<StripChain> all;
        std::vector<int> chainOf(m_candidates.size(), -1);
        for (const auto& [r, faces] : groups) {
            StripChain chain;
            int outer = 0, inner = 0;
            for (const int f : faces) {
                const Candidate& own = m_candidates[f];
                if (!own.strip) continue;
                chain.kind = own.kind;
                chain.strips.push_back({f, own.contact});
                chain.size = std::max(chain.size, own.radius);
                chain.least = chain.least == 0.0 ? own.least : std::min(chain.least, own.least);
                chain.length += own.length;
                chain.turn = std::max(chain.turn, own.turn);
                ++(own.convex ? outer : inner);
                for (const auto& side : own.contact)
                    for (const int e : side) {
                        // Two that rest on each other wait for none.
                        const Candidate& other = m_candidates[beyond(e, f)];
                        const bool mutual =
                            other.strip &&
                            (std::find(other.contact[0].begin(), other.contact[0].end(), e) != other.contact[0].end() ||
                             std::find(other.contact[1].begin(), other.contact[1].end(), e) != other.contact[1].end());
                        if (!mutual) chain.along.push_back(beyond(e, f));
                    }
                chain.gain += own.convex ? sliver(own) : -sliver(own);
                chain.change += 1.3 * sliver(own);
            }
            if (chain.strips.empty()) continue;  // a patch whose strips are none
            chain.convex = outer >= inner;
            chain.mixed = outer > 0 && inner > 0;
            chain.faces = faces;
            std::sort(chain.along.begin(), chain.along.end());
            chain.along.erase(std::unique(chain.along.begin(), chain.along.end()), chain.along.end());
            for (const int f : faces) chain.elements += forecast::faceShare(m_topology.face(f), m_targetSize).extra;
            const EdgeProbe one(m_topology.edge(chain.strips.front().contact[0].front()));
            const gp_Pnt a = one.value(0.5 * (one.first() + one.last()));
            const EdgeProbe two(m_topology.edge(chain.strips.front().contact[1].front()));
            chain.middle = gp_Pnt(0.5 * (a.XYZ() + two.value(two.nearest(a).parameter).XYZ()));
            // Patches and ends: a cube of the size each at most.
            chain.change += static_cast<double>(faces.size()) * std::pow(chain.size, 3) * 0.5;
            for (const int f : faces) chainOf[f] = static_cast<int>(all.size());
            all.push_back(std::move(chain));
        }
        findBends(all);
        // What rests on others goes before them.
        for (std::size_t round = 0; round < all.size() + 1; ++round) {
            bool changed = false;
            for (const StripChain& chain : all)
                for (const int f : chain.along)
                    if (chainOf[f] >= 0 && &all[chainOf[f]] != &chain && all[chainOf[f]].layer <= chain.layer &&
                        chain.layer < 50) {
                        all[chainOf[f]].layer = chain.layer + 1;
                        changed = true;
                    }
            if (!changed) break;
        }
        std::stable_sort(all.begin(), all.end(),
                         [](const StripChain& a, const StripChain& b) { return a.size < b.size; });
        return all;
    }

    /// Between the strip and the sharp edge [mm^3].
    static double sliver(const Candidate& own) {
        if (own.kind == StripKind::Chamfer) return 0.5 * own.width * own.width * own.length;
        return own.section * own.length;
    }

    /// An inner and an outer round about one axis, a wall apart: the bend of a sheet.
    void findBends(std::vector<StripChain>& all) const {
        struct Bent {
            std::size_t chain;
            gp_Ax1 axis;
            double radius, turn;
            bool convex;
        };
        std::vector<Bent> round;
        for (std::size_t c = 0; c < all.size(); ++c) {
            if (all[c].kind != StripKind::Round || all[c].strips.size() != 1) continue;
            const auto surface = roundSurface(m_topology.face(all[c].strips.front().face));
            if (surface && surface->kind == SurfaceKind::Cylinder)
                round.push_back({c, surface->axis, surface->radius, all[c].turn, all[c].convex});
        }
        for (const Bent& a : round)
            for (const Bent& b : round) {
                if (a.convex == b.convex || !a.convex || a.radius <= b.radius || std::abs(a.turn - b.turn) > 0.02)
                    continue;
                // Of the radius: rounds of one row that were fitted.
                if (!a.axis.Direction().IsParallel(b.axis.Direction(), Tolerance::fittedDirection) ||
                    gp_Lin(a.axis).Distance(b.axis.Location()) > 1e-4 * a.radius)
                    continue;
                const double along = gp_Vec(all[a.chain].middle, all[b.chain].middle).Dot(gp_Vec(a.axis.Direction()));
                if (std::abs(along) > 0.5 * (all[a.chain].length + all[b.chain].length)) continue;
                all[a.chain].bend = all[b.chain].bend = true;
            }
    }
};

}  // namespace

Result<std::vector<StripChain>> findStrips(const Part& part, double targetSize, Progress& progress) {
    return guarded("Looking for rounds", [&] { return StripFinder(part, targetSize, progress).run(); });
}

std::string describe(const StripChain& chain) {
    std::string words = chain.convex ? "outer" : "inner";
    if (chain.kind == StripKind::Round && chain.least < 0.98 * chain.size)
        words += fmt::format(", R {} to {}", readable(chain.least), readable(chain.size));
    if (chain.bend) words = "bend, " + words;
    if (chain.faces.size() > 1)
        words += fmt::format(", {}", counted(chain.faces.size(), "face"));
    else
        words += fmt::format(", {} long", readable(chain.length < 10.0 ? chain.length : std::round(chain.length)));
    return words;
}

}  // namespace rasoir::survey
