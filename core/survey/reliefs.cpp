#include "survey/reliefs.h"

#include <fmt/format.h>
#include <tbb/parallel_for.h>

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepTools.hxx>
#include <BRepTopAdaptor_FClass2d.hxx>
#include <map>
#include <numeric>
#include <set>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Iterator.hxx>

#include "common/guard.h"
#include "common/tolerance.h"
#include "forecast/elements.h"
#include "geometry/curves.h"
#include "geometry/integrals.h"
#include "geometry/round_surface.h"
#include "survey/open_reliefs.h"
#include "survey/steps.h"

namespace rasoir::survey {
namespace {

constexpr std::size_t mostFacesInRelief = 600;
constexpr int samples = 16;  // of an edge

class ReliefFinder {
public:
    ReliefFinder(const Part& part, double targetSize, const std::vector<Hole>& holes, Progress& progress)
        : m_part(part), m_topology(part.incidence()), m_targetSize(targetSize), m_progress(progress) {
        for (const Hole& hole : holes) m_ofHoles.insert(hole.faces.begin(), hole.faces.end());
    }

    Result<std::vector<Relief>> run() {
        findLoops();
        measureAreas();
        struct Pending {
            std::vector<int> faces, loops;
        };
        std::vector<Pending> pending;
        std::set<std::vector<int>> seen;
        for (std::size_t l = 0; l < m_loops.size(); ++l) {
            if (m_progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped.");
            std::vector<int> loops;
            auto faces = hangingOn(static_cast<int>(l), loops);
            if (faces.empty() || !seen.insert(faces).second || isHole(faces)) continue;
            pending.push_back({std::move(faces), std::move(loops)});
        }
        std::vector<Result<std::optional<Measured>>> looked(pending.size());
        tbb::parallel_for(std::size_t(0), pending.size(), [&](std::size_t i) {
            if (!m_progress.cancelled())
                looked[i] = guarded("Measuring a relief", [&]() -> Result<std::optional<Measured>> {
                    return measured(std::move(pending[i].faces), pending[i].loops);
                });
        });
        if (m_progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped.");
        for (auto& one : looked) {
            if (!one) return tl::unexpected(one.error());
            if (!*one) continue;
            m_found.push_back(std::move((*one)->relief));
            m_normals.push_back((*one)->normal);
            m_points.push_back(std::move((*one)->points));
        }
        std::vector<Relief> open = findOpenReliefs(m_part, m_targetSize, m_ofHoles, m_found, m_progress);
        gatherMarks();
        std::erase_if(open, [this](const Relief& one) {  // part of a letter
            return std::any_of(m_found.begin(), m_found.end(), [&](const Relief& other) {
                return other.kind == ReliefKind::Mark &&
                       std::includes(other.faces.begin(), other.faces.end(), one.faces.begin(), one.faces.end());
            });
        });
        if (m_progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped.");
        std::set<int> taken(m_ofHoles.begin(), m_ofHoles.end());
        for (const Relief& relief : m_found) taken.insert(relief.faces.begin(), relief.faces.end());
        std::vector<Relief> steps = findSteps(m_part, m_targetSize, taken);
        // What is no more than one low step is called that; a groove, with a riser on either side, is none, nor a
        // keyway or a rib.
        std::erase_if(open, [&steps](const Relief& one) {
            return std::any_of(steps.begin(), steps.end(), [&](const Relief& step) {
                const double wide = std::abs(step.gain) / (step.height * step.breadth);
                return step.height <= 0.25 * wide && std::all_of(one.faces.begin(), one.faces.end(), [&](int f) {
                           return std::find(step.bases.begin() + 1, step.bases.end(), f) != step.bases.end() ||
                                  std::binary_search(step.faces.begin(), step.faces.end(), f);
                       });
            });
        });
        std::set<int> ofOpen;
        for (const Relief& relief : open) ofOpen.insert(relief.faces.begin(), relief.faces.end());
        std::erase_if(steps, [&ofOpen](const Relief& step) {
            return std::any_of(step.faces.begin(), step.faces.end(), [&](int f) { return ofOpen.contains(f); });
        });
        std::move(open.begin(), open.end(), std::back_inserter(m_found));
        std::move(steps.begin(), steps.end(), std::back_inserter(m_found));
        std::stable_sort(m_found.begin(), m_found.end(),
                         [](const Relief& a, const Relief& b) { return a.size() < b.size(); });
        return std::move(m_found);
    }

private:
    struct Loop {
        int face = 0;
        std::vector<int> edges;
    };

    const Part& m_part;
    const Incidence& m_topology;
    double m_targetSize;
    Progress& m_progress;
    std::set<int> m_ofHoles;
    std::vector<Loop> m_loops;                    // inner ones
    std::map<std::pair<int, int>, int> m_loopOf;  // by face and edge
    std::vector<double> m_areas;                  // by face
    double m_allArea = 0.0;
    std::vector<Relief> m_found;
    std::vector<gp_Dir> m_normals;              // of the first base, by relief
    std::vector<std::vector<gp_Pnt>> m_points;  // by relief

    /// A relief and what gathering marks asks of it later.
    struct Measured {
        Relief relief;
        gp_Dir normal;
        std::vector<gp_Pnt> points;
    };

    /// Once for all: a face with hundreds of letters on it is asked for hundreds of times.
    void measureAreas() {
        m_areas.assign(static_cast<std::size_t>(m_topology.faceCount()) + 1, 0.0);
        tbb::parallel_for(1, m_topology.faceCount() + 1, [&](int f) {
            (void)guarded("Measuring a face", [&]() -> Result<void> {
                m_areas[static_cast<std::size_t>(f)] = m_topology.area(f);
                return {};
            });
        });
        m_allArea = std::accumulate(m_areas.begin(), m_areas.end(), 0.0);
    }
    [[nodiscard]] double faceArea(int face) const { return m_areas[static_cast<std::size_t>(face)]; }
    [[nodiscard]] double allArea() const { return m_allArea; }

    void findLoops() {
        for (int f = 1; f <= m_topology.faceCount(); ++f) {
            const TopoDS_Face face = m_topology.face(f);
            if (hasSeam(f)) {
                for (std::vector<int>& cycle : cyclesOf(f))
                    if (!goesRound(face, cycle)) addLoop({f, std::move(cycle)});
                continue;
            }
            int wires = 0;
            for (TopExp_Explorer it(face, TopAbs_WIRE); it.More(); it.Next()) ++wires;
            if (wires < 2) continue;
            const TopoDS_Wire outer = BRepTools::OuterWire(face);
            for (TopExp_Explorer it(face, TopAbs_WIRE); it.More(); it.Next()) {
                if (it.Current().IsSame(outer)) continue;
                Loop loop{f, {}};
                for (TopExp_Explorer edge(it.Current(), TopAbs_EDGE); edge.More(); edge.Next())
                    loop.edges.push_back(m_topology.edgeNumber(edge.Current()));
                addLoop(std::move(loop));
            }
        }
    }

    void addLoop(Loop loop) {
        for (const int e : loop.edges) m_loopOf[{loop.face, e}] = static_cast<int>(m_loops.size());
        m_loops.push_back(std::move(loop));
    }

    [[nodiscard]] bool isSeam(int face, int edge) const {
        const auto uses = m_topology.usesOf(edge);
        return uses.size() == 2 && uses[0].face == face && uses[1].face == face;
    }
    [[nodiscard]] bool hasSeam(int face) const {
        const auto edges = m_topology.edgesOf(face);
        return std::any_of(edges.begin(), edges.end(), [&](int e) { return isSeam(face, e); });
    }

    /// The boundary of a face without its seams: what hangs together at vertices. A loop that a seam cuts is one here.
    [[nodiscard]] std::vector<std::vector<int>> cyclesOf(int face) const {
        std::map<int, std::vector<int>> atVertex;
        std::set<int> left;
        const auto ends = [this](int e) {
            std::vector<int> vertices;
            for (TopoDS_Iterator it(m_topology.edge(e)); it.More(); it.Next())
                vertices.push_back(m_topology.vertexNumber(it.Value()));
            return vertices;
        };
        for (const int e : m_topology.edgesOf(face)) {
            if (isSeam(face, e) || BRep_Tool::Degenerated(m_topology.edge(e))) continue;
            left.insert(e);
            for (const int v : ends(e)) atVertex[v].push_back(e);
        }
        std::vector<std::vector<int>> cycles;
        while (!left.empty()) {
            std::vector<int> cycle{*left.begin()};
            left.erase(left.begin());
            for (std::size_t at = 0; at < cycle.size(); ++at)
                for (const int v : ends(cycle[at]))
                    for (const int e : atVertex[v])
                        if (left.erase(e) > 0) cycle.push_back(e);
            cycles.push_back(std::move(cycle));
        }
        return cycles;
    }

    /// A cycle that cannot be drawn together on its surface: it runs once round a period.
    [[nodiscard]] bool goesRound(const TopoDS_Face& face, const std::vector<int>& cycle) const {
        const TopoDS_Face flat = TopoDS::Face(face.Oriented(TopAbs_FORWARD));
        const Handle(Geom_Surface) surface = BRep_Tool::Surface(face);
        gp_Vec2d sum(0, 0);
        for (const int e : cycle) {
            double first = 0.0, last = 0.0;
            const TopoDS_Edge edge = TopoDS::Edge(m_topology.edge(e).Oriented(TopAbs_FORWARD));
            const Handle(Geom2d_Curve) trace = BRep_Tool::CurveOnSurface(edge, flat, first, last);
            if (trace.IsNull()) return true;
            bool forward = true;
            for (const EdgeUse& use : m_topology.usesOf(e))
                if (m_topology.face(use.face).IsSame(face)) forward = use.forward;
            sum += gp_Vec2d(trace->Value(first), trace->Value(last)) * (forward ? 1.0 : -1.0);
        }
        return (surface->IsUPeriodic() && std::abs(sum.X()) > 0.5 * surface->UPeriod()) ||
               (surface->IsVPeriodic() && std::abs(sum.Y()) > 0.5 * surface->VPeriod());
    }

    /// Faces that hang on an inner loop and on nothing but inner loops, ascending; `loops`: those, the given one first.
    /// Empty: none such.
    std::vector<int> hangingOn(int start, std::vector<int>& loops) const {
        const int base = m_loops[static_cast<std::size_t>(start)].face;
        std::set<int> inside, touched{start};
        std::vector<int> queue;
        const auto enter = [&](int face) {
            if (inside.insert(face).second) queue.push_back(face);
        };
        // Over an edge from a face: into the next one, or up to an inner loop of it. False where this is no relief.
        const auto cross = [&](int face, int edge) {
            if (BRep_Tool::Degenerated(m_topology.edge(edge))) return true;
            const auto uses = m_topology.usesOf(edge);
            if (uses.size() != 2) return false;
            for (const EdgeUse& use : uses) {
                if (use.face == face) continue;
                const auto loop = m_loopOf.find({use.face, edge});
                if (loop != m_loopOf.end())
                    touched.insert(loop->second);
                else if (use.face == base)
                    return false;
                else
                    enter(use.face);
            }
            return true;
        };
        for (const int e : m_loops[static_cast<std::size_t>(start)].edges)
            if (!cross(base, e)) return {};
        for (std::size_t at = 0; at < queue.size(); ++at) {
            if (queue.size() > mostFacesInRelief) return {};
            for (const int e : m_topology.edgesOf(queue[at]))
                if (!cross(queue[at], e)) return {};
        }
        loops.push_back(start);
        for (const int l : touched)  // a face that was entered too is no base
            if (l != start && !inside.contains(m_loops[static_cast<std::size_t>(l)].face)) loops.push_back(l);
        if (inside.contains(base)) return {};
        return {inside.begin(), inside.end()};
    }

    /// Nothing but holes, also several that open into each other.
    [[nodiscard]] bool isHole(const std::vector<int>& faces) const {
        return std::all_of(faces.begin(), faces.end(), [&](int f) { return m_ofHoles.contains(f); });
    }

    [[nodiscard]] std::optional<Measured> measured(std::vector<int> faces, const std::vector<int>& loops) const {
        Relief relief;
        std::vector<gp_Pnt> points;
        double area = 0.0, whole = 0.0;
        std::set<int> edges;
        for (const int f : faces) {
            area += faceArea(f);
            relief.elements += forecast::faceShare(m_topology.face(f), m_targetSize).extra;
            addDomePoints(f, points);
            for (const int e : m_topology.edgesOf(f)) edges.insert(e);
        }
        for (const int e : edges) {
            if (BRep_Tool::Degenerated(m_topology.edge(e))) continue;
            const BRepAdaptor_Curve curve(m_topology.edge(e));
            const int count = curve.GetType() == GeomAbs_Line ? 1 : samples;
            for (int i = 0; i <= count; ++i)
                points.push_back(
                    curve.Value(curve.FirstParameter() + (curve.LastParameter() - curve.FirstParameter()) * i / count));
        }
        std::set<int> bases;
        for (const int l : loops) bases.insert(m_loops[static_cast<std::size_t>(l)].face);
        const int base = m_loops[static_cast<std::size_t>(loops.front())].face;
        for (const int b : bases) whole += faceArea(b);
        relief.bases.assign(bases.begin(), bases.end());
        relief.faces = std::move(faces);
        for (const EdgeUse& use : m_topology.usesOf(m_loops[static_cast<std::size_t>(loops.front())].edges.front()))
            if (use.face != base) relief.wall = use.face;
        relief.gain = -enclosed(relief.faces, loops);
        relief.raised = relief.gain < 0.0;
        // Much of the body's skin, or ten times what it stands on, is the body, and the base a flange of it.
        if (area > 10.0 * whole || (area > whole && area > 0.3 * allArea())) return std::nullopt;
        const auto [normal, centre] = outward(loops.front());
        const Handle(Geom_Surface) surface = BRep_Tool::Surface(m_topology.face(base));
        for (const gp_Pnt& point : points) {
            const auto uv = parametersOn(surface, point, Tolerance::least);
            const double off =
                uv ? surface->Value(uv->X(), uv->Y()).Distance(point) : std::abs(gp_Vec(centre, point).Dot(normal));
            relief.height = std::max(relief.height, off);
        }
        gp_XYZ sum(0, 0, 0);
        for (const gp_Pnt& point : points) sum += point.XYZ();
        relief.middle = gp_Pnt(sum / static_cast<double>(points.size()));
        relief.kind = relief.raised ? ReliefKind::Boss : bases.size() > 1 ? ReliefKind::Cutout : ReliefKind::Pocket;
        relief.breadth = breadthOf(points, normal);
        if (relief.height <= 1e-5 * relief.breadth) return std::nullopt;  // level with its base: an outline, no relief
        return Measured{std::move(relief), normal, std::move(points)};
    }

    /// On faces that may bulge beyond their edges.
    void addDomePoints(int number, std::vector<gp_Pnt>& points) const {
        const SurfaceKind kind = surfaceKind(m_topology.face(number));
        if (kind == SurfaceKind::Plane || kind == SurfaceKind::Cylinder || kind == SurfaceKind::Cone) return;
        const TopoDS_Face face = TopoDS::Face(m_topology.face(number).Oriented(TopAbs_FORWARD));
        const Handle(Geom_Surface) surface = BRep_Tool::Surface(face);
        double u0 = 0.0, u1 = 0.0, v0 = 0.0, v1 = 0.0;
        BRepTools::UVBounds(face, u0, u1, v0, v1);
        BRepTopAdaptor_FClass2d classifier(face, Tolerance::parameter);
        constexpr int grid = 6;
        for (int i = 0; i <= grid; ++i)
            for (int j = 0; j <= grid; ++j)
                if (const gp_Pnt2d uv(u0 + (u1 - u0) * i / grid, v0 + (v1 - v0) * j / grid);
                    classifier.Perform(uv) != TopAbs_OUT)
                    points.push_back(surface->Value(uv.X(), uv.Y()));
    }

    /// Signed volume between the faces and lids over the loops: positive for what is raised. Exact for flat bases.
    [[nodiscard]] double enclosed(const std::vector<int>& faces, const std::vector<int>& loops) const {
        const gp_Pnt seen = outward(loops.front()).second;
        double volume = 0.0;
        for (const int f : faces) volume += volumeSeenFrom(seen, m_topology.face(f));
        for (const int l : loops) {
            const Loop& loop = m_loops[static_cast<std::size_t>(l)];
            const gp_Pnt centre = outward(l).second;
            for (const int e : loop.edges) {
                const BRepAdaptor_Curve curve(m_topology.edge(e));
                bool forward = true;  // as the lid runs: the way the base's own loop does
                for (const EdgeUse& use : m_topology.usesOf(e))
                    if (use.face == loop.face) forward = use.forward;
                const int count = curve.GetType() == GeomAbs_Line ? 1 : 8 * samples;
                for (int i = 0; i < count; ++i) {
                    const auto at = [&](int k) {
                        return gp_Vec(seen, curve.Value(curve.FirstParameter() +
                                                        (curve.LastParameter() - curve.FirstParameter()) * k / count));
                    };
                    const gp_Vec from = at(i), to = at(i + 1);
                    volume += gp_Vec(seen, centre).Dot(forward ? from.Crossed(to) : to.Crossed(from)) / 6.0;
                }
            }
        }
        return volume;
    }

    /// Normal of a loop's face, out of the material, where the loop lies; and the middle of the loop.
    [[nodiscard]] std::pair<gp_Dir, gp_Pnt> outward(int number) const {
        const Loop& loop = m_loops[static_cast<std::size_t>(number)];
        gp_XYZ sum(0, 0, 0);
        double weight = 0.0;
        gp_Pnt some;
        for (const int e : loop.edges) {
            const BRepAdaptor_Curve curve(m_topology.edge(e));
            const double length = lengthOf(m_topology.edge(e));
            for (int i = 0; i < samples; ++i) {
                some = curve.Value(curve.FirstParameter() +
                                   (curve.LastParameter() - curve.FirstParameter()) * (i + 0.5) / samples);
                sum += some.XYZ() * length;
            }
            weight += length * samples;
        }
        const gp_Pnt centre = weight > 0.0 ? gp_Pnt(sum / weight) : some;
        const TopoDS_Face face = m_topology.face(loop.face);
        const Handle(Geom_Surface) surface = BRep_Tool::Surface(face);
        gp_Dir normal = gp::DZ();
        auto uv = parametersOn(surface, centre, Tolerance::least);
        if (!uv) uv = parametersOn(surface, some, Tolerance::least);
        if (uv) {
            gp_Pnt at;
            gp_Vec du, dv;
            surface->D1(uv->X(), uv->Y(), at, du, dv);
            if (const gp_Vec out = du.Crossed(dv); out.Magnitude() > Tolerance::noLength)
                normal = face.Orientation() == TopAbs_REVERSED ? gp_Dir(-out) : gp_Dir(out);
        }
        return {normal, centre};
    }

    static double breadthOf(const std::vector<gp_Pnt>& points, const gp_Dir& normal) {
        double most = 0.0;
        const std::size_t stride = std::max<std::size_t>(1, points.size() / 1500);
        for (std::size_t i = 0; i < points.size(); i += stride)
            for (std::size_t j = 0; j < i; j += stride) {
                const gp_Vec apart(points[i], points[j]);
                most = std::max(most, apart.SquareMagnitude() - std::pow(apart.Dot(normal), 2));
            }
        return std::sqrt(most);
    }

    /// Low reliefs are marks; those close together on one base, alike in height, are one.
    void gatherMarks() {
        std::vector<std::size_t> parent(m_found.size());
        std::iota(parent.begin(), parent.end(), 0);
        const auto root = [&parent](std::size_t i) {
            while (parent[i] != i) i = parent[i] = parent[parent[i]];
            return i;
        };
        const auto flat = [](const Relief& relief, double share) {
            return relief.kind != ReliefKind::Cutout && relief.bases.size() == 1 &&
                   relief.height <= share * relief.breadth;
        };
        const auto low = [&](const Relief& relief) { return flat(relief, 0.5) && relief.height <= 0.5 * m_targetSize; };
        const auto ofWord = [&](const Relief& relief) {
            return low(relief) || (flat(relief, 0.3) && relief.height <= m_targetSize);
        };  // with two more beside it
        // The inside of an O is no mark of its own.
        std::vector<char> within(m_found.size(), false);
        for (std::size_t i = 0; i < m_found.size(); ++i)
            for (std::size_t j = 0; j < m_found.size() && !within[i]; ++j)
                within[i] = i != j && ofWord(m_found[i]) && ofWord(m_found[j]) &&
                            m_found[j].faces.size() > m_found[i].faces.size() &&
                            std::includes(m_found[j].faces.begin(), m_found[j].faces.end(), m_found[i].faces.begin(),
                                          m_found[i].faces.end());
        for (std::size_t i = 0; i < m_found.size(); ++i)
            for (std::size_t j = 0; j < i; ++j) {
                if (within[i] || within[j]) continue;
                const Relief &a = m_found[i], &b = m_found[j];
                if (!ofWord(a) || !ofWord(b) || low(a) != low(b) || a.raised != b.raised || a.bases != b.bases ||
                    std::abs(a.height - b.height) > 0.25 * std::max(a.height, b.height))
                    continue;
                if (a.middle.Distance(b.middle) <= 0.5 * (a.breadth + b.breadth) + std::max(a.breadth, b.breadth))
                    parent[root(i)] = root(j);
            }
        std::map<std::size_t, std::vector<std::size_t>> groups;
        for (std::size_t i = 0; i < m_found.size(); ++i)
            if (!within[i]) groups[root(i)].push_back(i);
        std::vector<Relief> gathered;
        for (const auto& [first, members] : groups) {
            if (members.size() == 2 && !low(m_found[members.front()])) {  // two bosses beside each other
                for (const std::size_t i : members) gathered.push_back(m_found[i]);
                continue;
            }
            Relief one = m_found[members.front()];
            if (low(one) || members.size() > 2) one.kind = ReliefKind::Mark;
            std::vector<gp_Pnt> points = m_points[members.front()];
            gp_XYZ middle = one.middle.XYZ();
            for (std::size_t k = 1; k < members.size(); ++k) {
                const Relief& more = m_found[members[k]];
                one.faces.insert(one.faces.end(), more.faces.begin(), more.faces.end());
                one.height = std::max(one.height, more.height);
                one.gain += more.gain;
                one.elements += more.elements;
                middle += more.middle.XYZ();
                points.insert(points.end(), m_points[members[k]].begin(), m_points[members[k]].end());
            }
            std::sort(one.faces.begin(), one.faces.end());
            one.pieces = static_cast<int>(members.size());
            one.middle = gp_Pnt(middle / static_cast<double>(members.size()));
            if (members.size() > 1) one.breadth = breadthOf(points, m_normals[members.front()]);
            gathered.push_back(std::move(one));
        }
        m_found = std::move(gathered);
    }
};

}  // namespace

Result<std::vector<Relief>> findReliefs(const Part& part, double targetSize, const std::vector<Hole>& holes,
                                        Progress& progress) {
    if (part.shape.IsNull()) return std::vector<Relief>{};
    return guarded("Looking for marks, bosses and pockets",
                   [&] { return ReliefFinder(part, targetSize, holes, progress).run(); });
}

std::string reliefKindName(ReliefKind kind) {
    switch (kind) {
        case ReliefKind::Mark:
            return "mark";
        case ReliefKind::Boss:
            return "boss";
        case ReliefKind::Pocket:
            return "pocket";
        case ReliefKind::Cutout:
            return "cutout";
        case ReliefKind::Notch:
            return "notch";
        case ReliefKind::Rib:
            return "rib";
        case ReliefKind::Step:
            return "step";
    }
    return "relief";
}

std::string describe(const Relief& relief) {
    if (relief.kind == ReliefKind::Cutout) return fmt::format("through, {} across", readable(relief.breadth));
    if (relief.kind == ReliefKind::Notch || relief.kind == ReliefKind::Rib)
        return fmt::format("{} × {} × {}", readable(relief.sides[0]), readable(relief.sides[1]),
                           readable(relief.sides[2]));
    if (relief.kind == ReliefKind::Step)
        return fmt::format("{}, {} long", relief.raised ? "raised" : "sunk", readable(relief.breadth));
    const std::string way = fmt::format("{} {}", relief.raised ? "raised" : "sunk", readable(relief.height));
    if (relief.kind == ReliefKind::Mark)
        return relief.pieces > 1
                   ? fmt::format("{}, {} pieces", relief.raised ? "raised" : "sunk", relief.pieces)
                   : fmt::format("{}, {} wide", relief.raised ? "raised" : "sunk", readable(relief.breadth));
    return relief.bases.size() > 1 ? way + ", bored through" : way;
}

}  // namespace rasoir::survey
