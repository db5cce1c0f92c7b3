#include "mend/patch.h"

#include <Adaptor3d_CurveOnSurface.hxx>
#include <Bnd_Box.hxx>
#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <ElCLib.hxx>
#include <ElSLib.hxx>
#include <Geom2d_Line.hxx>
#include <Geom2dAdaptor_Curve.hxx>
#include <Geom_BSplineSurface.hxx>
#include <Geom_ConicalSurface.hxx>
#include <Geom_CylindricalSurface.hxx>
#include <Geom_ElementarySurface.hxx>
#include <Geom_Line.hxx>
#include <Geom_Plane.hxx>
#include <Geom_SphericalSurface.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <GeomAPI_Interpolate.hxx>
#include <GeomPlate_BuildPlateSurface.hxx>
#include <GeomPlate_CurveConstraint.hxx>
#include <GeomPlate_MakeApprox.hxx>
#include <GeomPlate_Surface.hxx>
#include <map>
#include <TColgp_HArray1OfPnt.hxx>
#include <TColStd_HArray1OfReal.hxx>
#include <TopExp.hxx>
#include <TopoDS.hxx>

#include "common/guard.h"
#include "common/tolerance.h"
#include "geometry/curves.h"
#include "mend/corner_patch.h"
#include "mend/fitting.h"
#include "mend/loops.h"
#include "topology/making.h"
#include "topology/soundness.h"

namespace rasoir::mend {
namespace {

class Patcher {
public:
    Patcher(const Incidence& incidence, const std::vector<OpenLoop>& loops, bool tangent, double exact)
        : m_incidence(incidence), m_loops(loops), m_tangent(tangent), m_exact(exact), m_done(loops.size(), false) {}

    std::vector<Patch> run(const std::vector<std::size_t>& wanted) {
        // The widest plane first, so that what lies in it becomes its island.
        std::vector<std::size_t> byLength = wanted;
        std::sort(byLength.begin(), byLength.end(),
                  [this](std::size_t a, std::size_t b) { return m_loops[a].length > m_loops[b].length; });
        // Then once more less strictly: a loop between faces that were apart lies on its surface only so well. The
        // deviation is told.
        for (const bool loose : {false, true}) {
            m_loose = loose;
            for (const std::size_t l : wanted)
                if (!m_done[l]) attempt([&] { return wall(l); });
            for (const std::size_t l :
                 byLength)  // before the planes: what lies in one of the faces is no opening of its own
                if (!m_done[l]) attempt([&] { return corner(l); });
            for (const std::size_t l : byLength)
                if (!m_done[l]) attempt([&] { return flat(l); });
            for (const std::size_t l : wanted)
                if (!m_done[l]) attempt([&] { return onSurfaces(l); });
        }
        for (const std::size_t l : wanted)
            for (const bool tangent : {true, false})  // each by itself: asked for what cannot be, the kernel throws
                if (!m_done[l] && (m_tangent || !tangent)) attempt([&] { return smooth(l, tangent); });
        return std::move(m_patches);
    }

private:
    const Incidence& m_incidence;
    const std::vector<OpenLoop>& m_loops;
    bool m_tangent;
    double m_exact;
    bool m_loose = false;
    std::vector<char> m_done;
    std::vector<Patch> m_patches;

    template <class Make>
    void attempt(Make make) {
        const auto made = guarded("Patching", [&]() -> Result<Patch> {
            std::optional<Patch> patch = make();
            if (!patch) return fail(ProblemKind::NotPossible, "");
            for (const TopoDS_Face& face : patch->faces)
                if (!soundFace(face)) return fail(ProblemKind::NotPossible, "");
            return std::move(*patch);
        });
        if (!made) return;
        for (const std::size_t l : made->loops) m_done[l] = true;
        m_patches.push_back(*made);
    }

    [[nodiscard]] double tolerance(const OpenLoop& loop) const {
        // Loose: what faces drawn apart leave open of a loop, up to a five-thousandth of it.
        double own = std::max(10.0 * m_exact, (m_loose ? 2e-4 : 1e-6) * loop.size);
        for (const TopoDS_Edge& edge : loop.edges) own = std::max(own, 2.0 * BRep_Tool::Tolerance(edge));
        return own;
    }
    [[nodiscard]] TopoDS_Face neighbour(const OpenLoop& loop, std::size_t edge) const {
        return m_incidence.face(m_incidence.usesOf(loop.numbers[edge]).front().face);
    }

    [[nodiscard]] std::optional<TopoDS_Face> faceOn(const Handle(Geom_Surface) & surface,
                                                    const std::vector<std::size_t>& loops, double allowed,
                                                    double& deviation) const {
        std::vector<const OpenLoop*> chosen;
        for (const std::size_t l : loops) chosen.push_back(&m_loops[l]);
        return faceFromLoops(surface, chosen, allowed, deviation);
    }

    /// The loop is one ring: one closed circle, or arcs of one.
    [[nodiscard]] std::optional<gp_Circ> ring(const OpenLoop& loop) const {
        std::optional<gp_Circ> circle;
        double turned = 0.0;
        for (const TopoDS_Edge& edge : loop.edges) {
            const BRepAdaptor_Curve curve(edge);
            if (curve.GetType() != GeomAbs_Circle) return std::nullopt;
            if (!circle) circle = curve.Circle();
            if (curve.Circle().Location().Distance(circle->Location()) > tolerance(loop) ||
                std::abs(curve.Circle().Radius() - circle->Radius()) > tolerance(loop))
                return std::nullopt;
            turned += curve.LastParameter() - curve.FirstParameter();
        }
        // Once round and no more, the chords of the loop being rough.
        if (std::abs(turned - 2.0 * M_PI) > 1e-3) return std::nullopt;
        return circle;
    }
    [[nodiscard]] bool liesInFlatFaces(const OpenLoop& loop, const gp_Circ& circle) const {
        for (std::size_t i = 0; i < loop.edges.size(); ++i) {
            const BRepAdaptor_Surface surface(neighbour(loop, i));
            if (surface.GetType() != GeomAbs_Plane ||
                !surface.Plane().Axis().IsParallel(circle.Axis(), Tolerance::fittedDirection))
                return false;
        }
        return true;
    }

    /// Two rings on one axis, both cut into flat faces: the wall of a hole is missing between them.
    std::optional<Patch> wall(std::size_t l) {
        const OpenLoop& one = m_loops[l];
        const auto circle = ring(one);
        if (!circle || one.edges.size() != 1 || !liesInFlatFaces(one, *circle)) return std::nullopt;
        std::optional<std::size_t> best;
        double nearest = std::numeric_limits<double>::max();
        for (std::size_t k = 0; k < m_loops.size(); ++k) {
            if (k == l || m_done[k] || m_loops[k].edges.size() != 1) continue;
            const auto other = ring(m_loops[k]);
            if (!other || !liesInFlatFaces(m_loops[k], *other) ||
                !other->Axis().IsParallel(circle->Axis(), Tolerance::fittedDirection))
                continue;
            const gp_Vec apart(circle->Location(), other->Location());
            if (apart.Crossed(gp_Vec(circle->Axis().Direction())).Magnitude() > 10.0 * tolerance(one)) continue;
            if (const double distance = apart.Magnitude(); distance > tolerance(one) && distance < nearest) {
                nearest = distance;
                best = k;
            }
        }
        if (!best) return std::nullopt;
        const OpenLoop& two = m_loops[*best];
        const gp_Circ other = *ring(two);
        const gp_Vec along(circle->Location(), other.Location());
        const TopoDS_Vertex v1 = TopExp::FirstVertex(one.edges[0]), v2 = TopExp::FirstVertex(two.edges[0]);
        // u begins at the first ring's vertex, v at its plane.
        const gp_Vec toVertex(circle->Location(), BRep_Tool::Pnt(v1));
        const gp_Ax3 place(circle->Location(), gp_Dir(along), gp_Dir(toVertex));
        Handle(Geom_Surface) surface;
        Patch patch;
        if (std::abs(circle->Radius() - other.Radius()) <= 10.0 * tolerance(one)) {
            surface = new Geom_CylindricalSurface(place, circle->Radius());
            patch.kind = PatchKind::Cylinder;
        } else {
            surface = new Geom_ConicalSurface(place, std::atan2(other.Radius() - circle->Radius(), along.Magnitude()),
                                              circle->Radius());
            patch.kind = PatchKind::Cone;
        }
        const double allowed = 12.0 * tolerance(one);
        const auto uv2 = parametersOn(surface, BRep_Tool::Pnt(v2), allowed);
        if (!uv2) return std::nullopt;
        const gp_Pnt2d from(0.0, 0.0), to(uv2->X() > M_PI ? uv2->X() - 2.0 * M_PI : uv2->X(), uv2->Y());
        // The seam: straight where the two vertices face each other, else slanting.
        const gp_Vec2d slant(from, to);
        const BRep_Builder builder;
        Handle(Geom_Curve) seamCurve;
        if (std::abs(to.X()) < Tolerance::noWay) {
            seamCurve = new Geom_Line(BRep_Tool::Pnt(v1), gp_Dir(gp_Vec(BRep_Tool::Pnt(v1), BRep_Tool::Pnt(v2))));
        } else {
            constexpr int count = 65;
            const Handle(TColgp_HArray1OfPnt) points = new TColgp_HArray1OfPnt(1, count);
            const Handle(TColStd_HArray1OfReal) at = new TColStd_HArray1OfReal(1, count);
            for (int i = 0; i < count; ++i) {
                const double share = static_cast<double>(i) / (count - 1);
                points->SetValue(i + 1, surface->Value(share * to.X(), share * to.Y()));
                at->SetValue(i + 1, share * slant.Magnitude());
            }
            GeomAPI_Interpolate interpolation(points, at, false, Tolerance::noWay);
            interpolation.Perform();
            if (!interpolation.IsDone()) return std::nullopt;
            seamCurve = interpolation.Curve();
        }
        const double length =
            std::abs(to.X()) < Tolerance::noWay ? BRep_Tool::Pnt(v1).Distance(BRep_Tool::Pnt(v2)) : slant.Magnitude();
        const gp_Dir2d pace = gp_Dir2d(slant);
        if (std::abs(to.X()) < Tolerance::noWay && patch.kind == PatchKind::Cone &&
            std::abs(length - slant.Magnitude()) > Tolerance::rounding * length)
            return std::nullopt;
        const TopoDS_Edge seam =
            edgeAlong(seamCurve, 0.0, length, v1, v2, std::max(Tolerance::samePlace, tolerance(one)));
        putTraces(seam, new Geom2d_Line(gp_Pnt2d(2.0 * M_PI, 0.0), pace), new Geom2d_Line(from, pace), surface,
                  TopLoc_Location(), BRep_Tool::Tolerance(seam));
        // Outline in the parameters: along the first ring, up the seam at the end of u, back along the second, down at
        // its beginning.
        TopoDS_Face face = blankFace(surface, TopLoc_Location());
        TopoDS_Wire wire;
        builder.MakeWire(wire);
        bool reversedFirst = false, reversedSecond = false;
        for (const bool second : {false, true}) {
            const OpenLoop& loop = second ? two : one;
            const TopoDS_Edge& edge = loop.edges[0];
            double first = 0.0, last = 0.0;
            const Handle(Geom_Curve) curve = BRep_Tool::Curve(edge, first, last);
            gp_Pnt point;
            gp_Vec direction;
            curve->D1(first, point, direction);
            gp_Pnt foot;
            gp_Vec du, dv;
            const gp_Pnt2d corner = second ? to : from;
            surface->D1(corner.X(), corner.Y(), foot, du, dv);
            const bool withU = direction.Dot(du) > 0.0;
            const gp_Pnt2d begin(corner.X() + (withU ? 0.0 : 2.0 * M_PI), corner.Y());
            Handle(Geom2d_Curve) trace = new Geom2d_Line(gp_Pnt2d(begin.X() - (withU ? first : -first), begin.Y()),
                                                         gp_Dir2d(withU ? 1.0 : -1.0, 0.0));
            putTrace(edge, trace, surface, TopLoc_Location(), 1.1 * tolerance(one));
            widenToTolerance(edge);
            // Used so that the loop's orientation asks for: with u on the first ring or against.
            const bool usedWithU = (edge.Orientation() != TopAbs_REVERSED) == withU;
            (second ? reversedSecond : reversedFirst) = usedWithU == second;
        }
        // Where the second flat face looks the wrong way it lies loose, and is turned when bodies are put together.
        const auto oriented = [](const TopoDS_Edge& edge, bool reversed) {
            return edge.Oriented(reversed ? TopAbs::Reverse(edge.Orientation()) : edge.Orientation());
        };
        builder.Add(wire, oriented(one.edges[0], reversedFirst));
        builder.Add(wire, seam.Oriented(TopAbs_FORWARD));
        builder.Add(wire, oriented(two.edges[0], reversedSecond));
        builder.Add(wire, seam.Oriented(TopAbs_REVERSED));
        wire.Closed(true);
        builder.Add(face, wire);
        if (reversedFirst) face.Reverse();
        patch.faces = {face};
        patch.loops = {l, *best};
        return patch;
    }

    std::optional<Patch> flat(std::size_t l) {
        const OpenLoop& loop = m_loops[l];
        if (isOutlineOfFlatFace(loop)) return std::nullopt;
        Patch patch;
        const double allowed = tolerance(loop);
        const auto plane = planeThrough(samples(loop.edges, 9), patch.deviation);
        if (!plane || patch.deviation > allowed) return std::nullopt;
        patch.kind = PatchKind::Plane;
        patch.loops = {l};
        const Handle(Geom_Surface) surface = new Geom_Plane(*plane);
        for (std::size_t k = 0; k < m_loops.size();
             ++k) {  // islands, also those nobody asked for: there is no patch without them
            if (k == l || m_done[k]) continue;
            if (offOf(surface, samples(m_loops[k].edges, 5), allowed) > allowed) continue;
            if (encloses(*plane, loop.edges, samples(m_loops[k].edges, 1).front())) patch.loops.push_back(k);
        }
        auto face = faceOn(surface, patch.loops, 4.0 * allowed, patch.deviation);
        if (!face && patch.loops.size() > 1) {
            patch.loops = {l};
            face = faceOn(surface, patch.loops, 4.0 * allowed, patch.deviation);
        }
        if (!face) return std::nullopt;
        patch.faces = {*face};
        return patch;
    }
    /// The loop is all round one flat face that hangs on nothing: a plane there would only be its other side.
    [[nodiscard]] bool isOutlineOfFlatFace(const OpenLoop& loop) const {
        const TopoDS_Face first = neighbour(loop, 0);
        if (BRepAdaptor_Surface(first).GetType() != GeomAbs_Plane) return false;
        for (std::size_t i = 1; i < loop.edges.size(); ++i)
            if (!neighbour(loop, i).IsSame(first)) return false;
        return m_incidence.neighboursOf(m_incidence.faceNumber(first)).empty();
    }
    static PatchKind kindOf(const Handle(Geom_Surface) & surface) {
        switch (GeomAdaptor_Surface(surface).GetType()) {
            case GeomAbs_Sphere:
                return PatchKind::Sphere;
            case GeomAbs_Cone:
                return PatchKind::Cone;
            default:
                return PatchKind::Cylinder;
        }
    }
    /// Several faces that are missing side by side.
    std::optional<Patch> corner(std::size_t l) {
        const OpenLoop& loop = m_loops[l];
        std::vector<TopoDS_Face> beside;
        for (std::size_t i = 0; i < loop.edges.size(); ++i) beside.push_back(neighbour(loop, i));
        Patch patch;
        patch.kind = PatchKind::Corner;
        std::vector<const OpenLoop*> others;
        std::vector<std::size_t> numbers;
        for (std::size_t k = 0; k < m_loops.size(); ++k)
            if (k != l && !m_done[k]) {
                others.push_back(&m_loops[k]);
                numbers.push_back(k);
            }
        CornerPatch made = cornerPatch(loop, beside, others, tolerance(loop));
        if (made.faces.empty()) return std::nullopt;
        patch.faces = std::move(made.faces);
        patch.deviation = made.deviation;
        patch.loops = {l};
        for (const std::size_t island : made.islands) patch.loops.push_back(numbers[island]);
        return patch;
    }

    /// Surfaces the loop may lie on: of its neighbours, and those its arcs speak of.
    std::optional<Patch> onSurfaces(std::size_t l) {
        const OpenLoop& loop = m_loops[l];
        const double allowed = tolerance(loop);
        std::vector<std::pair<Handle(Geom_Surface), PatchKind>> candidates;
        for (std::size_t i = 0; i < loop.edges.size(); ++i)
            if (const Handle(Geom_Surface) own = BRep_Tool::Surface(neighbour(loop, i));
                GeomAdaptor_Surface(own).GetType() != GeomAbs_Plane)
                candidates.emplace_back(Handle(Geom_Surface)::DownCast(own->Copy()), PatchKind::Neighbour);
        for (const Handle(Geom_Surface) & surface : surfacesOfArcs(loop.edges, allowed))
            candidates.emplace_back(surface, kindOf(surface));
        const std::vector<gp_Pnt> points = samples(loop.edges, 7);
        for (auto& [surface, kind] : candidates) {
            turnSeamAway(surface, loop.middle);
            if (offOf(surface, points, allowed) > allowed) continue;
            Patch patch;
            patch.kind = kind;
            patch.loops = {l};
            const auto face = faceOn(surface, patch.loops, 4.0 * allowed, patch.deviation);
            if (!face || !soundFace(*face)) continue;
            patch.faces = {*face};
            return patch;
        }
        return std::nullopt;
    }

    std::optional<Patch> smooth(std::size_t l, bool tangent) {
        const OpenLoop& loop = m_loops[l];
        // Of the loop: a smooth patch that fits better needs many more spans.
        const double allowed = std::max(tolerance(loop), 1e-4 * loop.size);
        // Degree, points a side, rounds; then what the plate may miss in the plane, in space, in slope, in bend.
        GeomPlate_BuildPlateSurface plate(3, 15, 2, 1e-5, 0.1 * allowed, 0.01, 0.1, false);
        for (std::size_t i = 0; i < loop.edges.size(); ++i) {
            const TopoDS_Edge edge = TopoDS::Edge(loop.edges[i].Oriented(TopAbs_FORWARD));
            const TopoDS_Face beside = neighbour(loop, i);
            if (tangent) {
                const Handle(BRepAdaptor_Surface) surface = new BRepAdaptor_Surface(beside);
                double first = 0.0, last = 0.0;
                const Handle(Geom2d_Curve) trace = BRep_Tool::CurveOnSurface(edge, beside, first, last);
                if (trace.IsNull()) return std::nullopt;
                const Handle(Geom2dAdaptor_Curve) flatCurve = new Geom2dAdaptor_Curve(trace, first, last);
                const Handle(Adaptor3d_CurveOnSurface) onSurface = new Adaptor3d_CurveOnSurface(flatCurve, surface);
                plate.Add(new GeomPlate_CurveConstraint(onSurface, 1, 15, 0.1 * allowed, 0.01, 0.1));
            } else {
                plate.Add(new GeomPlate_CurveConstraint(new BRepAdaptor_Curve(edge), 0, 15, 0.1 * allowed));
            }
        }
        plate.Perform();
        if (!plate.IsDone()) return std::nullopt;
        GeomPlate_MakeApprox approximation(plate.Surface(), 0.2 * allowed, 9, 8, 0.2 * allowed, 0);
        const Handle(Geom_BSplineSurface) surface = approximation.Surface();
        if (surface.IsNull()) return std::nullopt;
        Patch patch;
        patch.kind = PatchKind::Smooth;
        patch.loops = {l};
        const auto face = faceOn(surface, patch.loops, 40.0 * allowed, patch.deviation);
        if (!face || patch.deviation > 10.0 * allowed) return std::nullopt;
        patch.faces = {*face};
        return patch;
    }
};

}  // namespace

std::vector<Patch> patchesFor(const Incidence& incidence, const std::vector<OpenLoop>& loops,
                              const std::vector<std::size_t>& wanted, bool tangent, double exact) {
    std::vector<std::size_t> all = wanted;
    if (all.empty())
        for (std::size_t l = 0; l < loops.size(); ++l) all.push_back(l);
    return Patcher(incidence, loops, tangent, exact).run(all);
}

std::string patchKindName(PatchKind kind) {
    switch (kind) {
        case PatchKind::Plane:
            return "plane";
        case PatchKind::Cylinder:
            return "cylinder";
        case PatchKind::Cone:
            return "cone";
        case PatchKind::Sphere:
            return "sphere";
        case PatchKind::Neighbour:
            return "its neighbour's surface";
        case PatchKind::Corner:
            return "set of faces that meet over an edge";
        case PatchKind::Smooth:
            return "smooth filling";
    }
    return "patch";
}

}  // namespace rasoir::mend
