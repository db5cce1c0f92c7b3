#include "survey/copies.h"

#include <tbb/parallel_for.h>

#include <BRepAdaptor_Curve.hxx>
#include <BRepGProp.hxx>
#include <gp_Ax2.hxx>
#include <gp_Ax3.hxx>
#include <gp_Elips.hxx>
#include <gp_Mat.hxx>
#include <GProp_GProps.hxx>

#include "common/guard.h"
#include "common/tolerance.h"
#include "geometry/round_surface.h"

namespace rasoir::survey {
namespace {

/// A point that belongs to the shape whatever its coordinates, with what tells it from others.
struct Landmark {
    gp_Pnt point;
    int kind = 0;         // of surface; vertices: -1
    double size = 0.0;    // area of the face, 0 for vertices
    double spread = 0.0;  // of the face's area about its centre: turns with it, so only its amount
    double radius = 0.0;  // of a round surface
    double reach = 0.0;   // distance from the centre of all area
};

struct Portrait {
    std::vector<Landmark> marks;  // by reach
    gp_Pnt centre;                // of area
    double area = 0.0, volume = 0.0, size = 0.0, claimed = 0.0;
    int solids = 0;
    bool plainlyRound = true;  // nothing but planes and round faces between lines and circles: when all landmarks lie
                               // in one line, or at one point, the shape is one of revolution, or a ball
    bool onlyBalls = true;
};

/// Vertices where nothing but a seam begins belong to the way a surface is written, not to the shape.
bool isRealVertex(const Incidence& topology, const TopTools_IndexedDataMapOfShapeListOfShape& edgesAt,
                  const TopoDS_Shape& vertex) {
    int real = 0;
    const TopoDS_Shape* first = nullptr;
    for (const TopoDS_Shape& edge : edgesAt.FindFromKey(vertex)) {
        const int e = topology.edgeNumber(edge);
        if (BRep_Tool::Degenerated(TopoDS::Edge(edge))) continue;
        const auto uses = topology.usesOf(e);
        if (uses.size() == 2 && uses[0].face == uses[1].face) continue;  // a seam
        if (first != nullptr && first->IsSame(edge)) continue;           // a closed edge counts once
        first = &edge;
        ++real;
    }
    return real >= 2;
}

Portrait portraitOf(const Part& part) {
    Portrait portrait;
    const Incidence& topology = part.incidence();
    GProp_GProps all;
    for (int f = 1; f <= topology.faceCount(); ++f) {
        const TopoDS_Face face = topology.face(f);
        GProp_GProps own;
        BRepGProp::SurfaceProperties(face, own);
        all.Add(own);
        Landmark mark;
        mark.point = own.CentreOfMass();
        mark.kind = static_cast<int>(surfaceKind(face));
        mark.size = own.Mass();
        const gp_Mat inertia = own.MatrixOfInertia();
        mark.spread =
            own.Mass() > 0.0 ? std::sqrt(std::abs(inertia(1, 1) + inertia(2, 2) + inertia(3, 3)) / own.Mass()) : 0.0;
        const auto round = roundSurface(face);
        portrait.onlyBalls = portrait.onlyBalls && round && round->kind == SurfaceKind::Sphere;
        portrait.plainlyRound = portrait.plainlyRound && (round || surfaceKind(face) == SurfaceKind::Plane);
        // A ring has its centre in the middle: two points on its axis say which way it lies.
        if (round && round->kind == SurfaceKind::Torus)
            for (const double side : {-1.0, 1.0})
                portrait.marks.push_back(
                    {round->axis.Location().Translated(gp_Vec(round->axis.Direction()) * side * round->ringRadius), -2,
                     0.0, 0.0, round->radius});
        if (round) mark.radius = round->kind == SurfaceKind::Cone ? std::abs(round->slope) : round->radius;
        portrait.claimed = std::max(portrait.claimed, BRep_Tool::Tolerance(face));
        portrait.marks.push_back(mark);
    }
    for (int e = 1; e <= topology.edgeCount(); ++e) {
        const TopoDS_Edge edge = topology.edge(e);
        if (BRep_Tool::Degenerated(edge)) continue;
        const BRepAdaptor_Curve curve(edge);
        if (curve.GetType() == GeomAbs_Ellipse && edge.Closed()) {
            // The ends of its longer axis tell how an ellipse lies.
            const gp_Elips ellipse = curve.Ellipse();
            for (const double side : {-1.0, 1.0})
                portrait.marks.push_back(
                    {ellipse.Location().Translated(gp_Vec(ellipse.XAxis().Direction()) * side * ellipse.MajorRadius()),
                     -3, 0.0, 0.0, ellipse.MinorRadius()});
        } else if (curve.GetType() != GeomAbs_Line && curve.GetType() != GeomAbs_Circle) {
            portrait.plainlyRound = false;
        }
    }
    TopTools_IndexedDataMapOfShapeListOfShape edgesAt;
    TopExp::MapShapesAndUniqueAncestors(part.shape, TopAbs_VERTEX, TopAbs_EDGE, edgesAt);
    for (int v = 1; v <= edgesAt.Extent(); ++v) {
        const TopoDS_Vertex vertex = TopoDS::Vertex(edgesAt.FindKey(v));
        portrait.claimed = std::max(portrait.claimed, BRep_Tool::Tolerance(vertex));
        if (isRealVertex(topology, edgesAt, vertex)) portrait.marks.push_back({BRep_Tool::Pnt(vertex), -1});
    }
    portrait.area = all.Mass();
    portrait.centre = all.Mass() > 0.0 ? all.CentreOfMass() : gp_Pnt();
    GProp_GProps volume;
    for (TopExp_Explorer solid(part.shape, TopAbs_SOLID); solid.More(); solid.Next(), ++portrait.solids) {
        GProp_GProps one;
        BRepGProp::VolumeProperties(solid.Current(), one);
        volume.Add(one);
    }
    portrait.volume = portrait.solids > 0 ? volume.Mass() : 0.0;
    for (Landmark& mark : portrait.marks) {
        mark.reach = mark.point.Distance(portrait.centre);
        portrait.size = std::max(portrait.size, 2.0 * mark.reach);
    }
    portrait.size = std::max(portrait.size, std::sqrt(std::max(0.0, portrait.area) / 6.0));
    std::sort(portrait.marks.begin(), portrait.marks.end(),
              [](const Landmark& a, const Landmark& b) { return a.reach < b.reach; });
    return portrait;
}

bool close(double a, double b, double allowed) {
    return std::abs(a - b) <= allowed;
}

class Matcher {
public:
    Matcher(const Portrait& a, const Portrait& b, double tolerance) : m_a(a), m_b(b), m_tolerance(tolerance) {}

    std::optional<Copy> match() {
        if (m_a.marks.size() != m_b.marks.size() || m_a.solids != m_b.solids) return std::nullopt;
        // An area or volume may differ by what the tolerance adds along all its skin.
        if (!close(m_a.area, m_b.area, 20.0 * m_tolerance * m_a.size) ||
            !close(m_a.volume, m_b.volume, m_tolerance * m_a.area))
            return std::nullopt;
        for (std::size_t i = 0; i < m_a.marks.size(); ++i)
            if (!close(m_a.marks[i].reach, m_b.marks[i].reach, 2.0 * m_tolerance)) return std::nullopt;
        return aligned();
    }

private:
    const Portrait& m_a;
    const Portrait& m_b;
    double m_tolerance;

    bool alike(const Landmark& a, const Landmark& b) const {
        // [rad] a half angle, of two files' digits.
        return a.kind == b.kind && close(a.reach, b.reach, 2.0 * m_tolerance) &&
               close(a.size, b.size, 20.0 * m_tolerance * m_a.size) && close(a.spread, b.spread, 4.0 * m_tolerance) &&
               close(a.radius, b.radius, a.kind == static_cast<int>(SurfaceKind::Cone) ? 1e-4 : 2.0 * m_tolerance);
    }

    std::vector<const Landmark*> partnersOf(const Landmark& mark) const {
        std::vector<const Landmark*> partners;
        const auto from = std::lower_bound(m_b.marks.begin(), m_b.marks.end(), mark.reach - 2.0 * m_tolerance,
                                           [](const Landmark& b, double reach) { return b.reach < reach; });
        for (auto it = from; it != m_b.marks.end() && it->reach <= mark.reach + 2.0 * m_tolerance; ++it)
            if (alike(mark, *it)) partners.push_back(&*it);
        return partners;
    }

    /// The largest distance between partners, or none when something has no partner.
    std::optional<double> fits(const gp_Trsf& from) const {
        double worst = 0.0;
        for (const Landmark& mark : m_a.marks) {
            const gp_Pnt there = mark.point.Transformed(from);
            double nearest = std::numeric_limits<double>::max();
            for (const Landmark* partner : partnersOf(mark))
                nearest = std::min(nearest, partner->point.Distance(there));
            if (nearest > m_tolerance) return std::nullopt;
            worst = std::max(worst, nearest);
        }
        return worst;
    }

    std::optional<Copy> aligned() {
        // The first point: far from the centre, with few that look like it. The second: out of line with it.
        const gp_Pnt c = m_a.centre;
        const double far = 0.05 * m_a.size;
        const Landmark* first = nullptr;
        std::size_t fewest = 0;
        for (const Landmark& mark : m_a.marks) {
            if (mark.reach < far) continue;
            const std::size_t count = partnersOf(mark).size();
            if (count == 0) return std::nullopt;
            if (first == nullptr || count < fewest) first = &mark, fewest = count;
        }
        if (first == nullptr) {
            // Everything sits at the centre. Of a ball any turn will do; of anything else nothing can be said.
            if (!m_a.onlyBalls || !m_b.onlyBalls) return std::nullopt;
            gp_Trsf shift;
            shift.SetTranslation(m_a.centre, m_b.centre);
            return accepted(shift, false);
        }
        const gp_Vec toFirst(c, first->point);
        const Landmark* second = nullptr;
        fewest = 0;
        for (const Landmark& mark : m_a.marks) {
            if (gp_Vec(c, mark.point).Crossed(toFirst).Magnitude() < far * toFirst.Magnitude()) continue;
            const std::size_t count = partnersOf(mark).size();
            if (second == nullptr || count < fewest) second = &mark, fewest = count;
        }
        for (const Landmark* q1 : partnersOf(*first)) {
            const gp_Vec toQ1(m_b.centre, q1->point);
            if (toQ1.Magnitude() < Tolerance::noLength) continue;
            if (second == nullptr) {
                // All in one line. In a body of revolution the turn about the line is free.
                if (!m_a.plainlyRound || !m_b.plainlyRound) return std::nullopt;
                const gp_Dir x = gp_Ax2(c, gp_Dir(toFirst)).XDirection(),
                             y = gp_Ax2(m_b.centre, gp_Dir(toQ1)).XDirection();
                if (auto copy =
                        accepted(between(gp_Ax3(c, gp_Dir(toFirst), x), gp_Ax3(m_b.centre, gp_Dir(toQ1), y)), false))
                    return copy;
                continue;
            }
            const double apart = first->point.Distance(second->point);
            for (const Landmark* q2 : partnersOf(*second)) {
                if (!close(q1->point.Distance(q2->point), apart, 4.0 * m_tolerance)) continue;
                const gp_Vec toQ2(m_b.centre, q2->point), toSecond(c, second->point);
                if (toQ1.Crossed(toQ2).Magnitude() < Tolerance::rounding * toQ1.Magnitude() * m_a.size) continue;
                const gp_Ax3 here(c, gp_Dir(toFirst), gp_Dir(toSecond));
                gp_Ax3 there(m_b.centre, gp_Dir(toQ1), gp_Dir(toQ2));
                if (auto copy = accepted(between(here, there), false)) return copy;
                there.YReverse();
                if (!m_mirror) m_mirror = accepted(between(here, there), true);
            }
        }
        return m_mirror;
    }
    std::optional<Copy> m_mirror;  // kept for when nothing fits without mirroring

    static gp_Trsf between(const gp_Ax3& from, const gp_Ax3& to) {
        gp_Trsf into, out;
        into.SetTransformation(from);
        out.SetTransformation(gp_Ax3(to.Location(), to.Direction(), to.XDirection()));
        gp_Trsf mirror;
        if (!to.Direct()) {
            // In the right-handed system over the same z and x, the left-handed one has y the other way.
            mirror.SetMirror(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(0, 1, 0)));
        }
        return out.Inverted() * mirror * into;
    }

    std::optional<Copy> accepted(const gp_Trsf& from, bool mirrored) const {
        const auto worst = fits(from);
        if (!worst) return std::nullopt;
        Copy copy;
        copy.from = from;
        copy.mirrored = mirrored;
        copy.deviation = *worst;
        return copy;
    }
};

}  // namespace

Result<std::vector<CopyGroup>> findCopies(const Model& model, double tolerance, Progress& progress) {
    std::vector<Portrait> portraits(model.parts.size());
    tbb::parallel_for(std::size_t{0}, model.parts.size(), [&](std::size_t p) {
        if (progress.cancelled() || model.parts[p]->shape.IsNull()) return;
        (void)guarded("Comparing", [&]() -> Result<void> {
            portraits[p] = portraitOf(*model.parts[p]);
            return {};
        });
    });
    if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Looking for copies was stopped.");
    // Candidates share all counts; among them only neighbours in area are compared.
    using Key = std::pair<std::size_t, int>;
    std::map<Key, std::vector<std::size_t>> bins;
    for (std::size_t p = 0; p < portraits.size(); ++p)
        if (!portraits[p].marks.empty()) bins[{portraits[p].marks.size(), portraits[p].solids}].push_back(p);
    std::map<std::size_t, CopyGroup> groups;  // by original
    for (auto& [key, members] : bins) {
        std::vector<std::size_t> originals;
        for (const std::size_t p : members) {
            if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Looking for copies was stopped.");
            bool found = false;
            for (const std::size_t original : originals) {
                const double size = portraits[original].size;
                const double allowed = tolerance > 0.0
                                           ? tolerance
                                           : std::clamp(std::max(portraits[original].claimed, portraits[p].claimed),
                                                        1e-5 * size, 1e-4 * size);  // see the header
                auto copy = Matcher(portraits[original], portraits[p], allowed).match();
                if (!copy) continue;
                copy->part = p;
                groups[original].original = original;
                groups[original].copies.push_back(*copy);
                found = true;
                break;
            }
            if (!found) originals.push_back(p);
        }
    }
    std::vector<CopyGroup> all;
    for (auto& [original, group] : groups) all.push_back(std::move(group));
    return all;
}

}  // namespace rasoir::survey
