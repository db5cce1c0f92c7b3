#include "join/openings.h"

#include <fmt/format.h>

#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepClass3d_SolidClassifier.hxx>
#include <BRepLib_FindSurface.hxx>
#include <BRepTools.hxx>
#include <BRepTopAdaptor_FClass2d.hxx>
#include <Geom_Plane.hxx>
#include <map>
#include <set>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Iterator.hxx>
#include <TopoDS_Wire.hxx>
#include <TopTools_ListOfShape.hxx>

#include "common/tolerance.h"
#include "geometry/curves.h"
#include "geometry/integrals.h"
#include "geometry/ray_field.h"
#include "topology/making.h"
#include "topology/soundness.h"

// A lid is what is missing of a face: its own surface within one of its inner loops. The loop bounds the lid from the
// other side, so that lid and face share their edges, and the arrangement finds them to be the same without measuring.
// Where a face closes on itself, a hole across its seam is no loop of its own: the seam is left out, and what closes
// without it and does not go round is such a hole. Its lid gets edges of its own, since their traces lie elsewhere.

namespace rasoir::join {
namespace {

/// The face's surface within one of its wires; null where that is no face.
TopoDS_Face within(const TopoDS_Face& face, const TopoDS_Wire& wire) {
    TopLoc_Location location;
    const Handle(Geom_Surface) surface = BRep_Tool::Surface(face, location);
    TopoDS_Face made = blankFace(surface, location, BRep_Tool::Tolerance(face));
    // In the forward face an inner wire runs so that the face is on its left; the lid is on its right.
    addLoop(made, wire.Reversed());
    return soundFace(made) ? made : TopoDS_Face();
}

/// A closed row of a face's edges, each with the way it is run.
using Cycle = std::vector<std::pair<TopoDS_Edge, bool>>;

/// The closed rows that a face's edges make without its seams.
std::vector<Cycle> cyclesWithoutSeams(const TopoDS_Face& face) {
    std::map<TopoDS_TShape*, std::vector<TopoDS_Edge>> leaving;  // by the vertex they begin at
    for (TopExp_Explorer it(face, TopAbs_EDGE); it.More(); it.Next()) {
        const TopoDS_Edge edge = TopoDS::Edge(it.Current());
        if (BRep_Tool::Degenerated(edge) || BRep_Tool::IsClosed(edge, face)) continue;
        leaving[TopExp::FirstVertex(edge, true).TShape().get()].push_back(edge);
    }
    std::vector<Cycle> all;
    for (auto& [start, edges] : leaving)
        while (!edges.empty()) {
            Cycle cycle;
            for (TopoDS_TShape* at = start; !leaving[at].empty();) {
                const TopoDS_Edge edge = leaving[at].back();
                leaving[at].pop_back();
                cycle.emplace_back(edge, edge.Orientation() == TopAbs_FORWARD);
                at = TopExp::LastVertex(edge, true).TShape().get();
            }
            if (TopExp::LastVertex(cycle.back().first, true).IsSame(TopExp::FirstVertex(cycle.front().first, true)))
                all.push_back(std::move(cycle));
        }
    return all;
}

/// The face's surface within a closed row of edges, laid out anew; null where the row goes round the surface.
TopoDS_Face laidOut(const TopoDS_Face& face, const Cycle& cycle) {
    const Handle(Geom_Surface) surface = BRep_Tool::Surface(face);
    BRep_Builder builder;
    TopoDS_Wire wire;
    builder.MakeWire(wire);
    std::optional<gp_Pnt2d> begin, end;
    double area = 0.0;  // twice that in the parameters, by the polygon of the traces
    gp_Pnt2d last;
    for (const auto& [edge, forward] : cycle) {
        double a, b;
        const Handle(Geom_Curve) curve = BRep_Tool::Curve(edge, a, b);
        if (curve.IsNull()) return {};
        // A trace begins where the one before ended; run backwards, it is its end that lies there.
        std::optional<Trace> trace = traceOn(surface, curve, a, b, 10.0 * BRep_Tool::Tolerance(edge), end);
        if (!trace) return {};
        if (end) {
            const gp_Pnt2d own = trace->curve->Value(forward ? a : b);
            gp_Vec2d off(own, *end);
            const double period = surface->IsUPeriodic() ? surface->UPeriod() : 0.0;
            off.SetX(period > 0.0 ? period * std::round(off.X() / period) : 0.0);
            off.SetY(surface->IsVPeriodic() ? surface->VPeriod() * std::round(off.Y() / surface->VPeriod()) : 0.0);
            trace->curve->Translate(off);
        }
        if (!begin) begin = trace->curve->Value(forward ? a : b);
        for (int i = 0; i <= 8; ++i) {
            const double t = 0.125 * i;
            const gp_Pnt2d at = trace->curve->Value(forward ? a + t * (b - a) : b - t * (b - a));
            if (end || i > 0) area += last.X() * at.Y() - at.X() * last.Y();
            last = at;
        }
        end = last;
        const TopoDS_Edge made =
            edgeAlong(curve, a, b, TopExp::FirstVertex(edge), TopExp::LastVertex(edge), BRep_Tool::Tolerance(edge));
        putTrace(made, trace->curve, surface, TopLoc_Location(), BRep_Tool::Tolerance(edge));
        builder.Add(wire, made.Oriented(forward ? TopAbs_FORWARD : TopAbs_REVERSED));
    }
    if (!begin || begin->Distance(*end) > 1e-3 * (1.0 + std::abs(area))) return {};  // round the surface
    wire.Closed(true);
    TopoDS_Face lid = blankFace(surface, TopLoc_Location(), BRep_Tool::Tolerance(face));
    addLoop(lid, area > 0.0 ? wire : TopoDS::Wire(wire.Reversed()));
    return soundFace(lid) ? lid : TopoDS_Face();
}

/// Lids of a face: of its inner loops, and of holes across its seams.
std::vector<std::pair<TopoDS_Face, std::vector<TopoDS_Edge>>> lidsOf(const TopoDS_Face& face) {
    std::vector<std::pair<TopoDS_Face, std::vector<TopoDS_Edge>>> all;
    const TopoDS_Wire outer = BRepTools::OuterWire(face);
    std::set<TopoDS_TShape*> taken;
    bool seam = false;
    for (TopoDS_Iterator wire(face); wire.More(); wire.Next()) {
        if (wire.Value().ShapeType() != TopAbs_WIRE) continue;
        std::vector<TopoDS_Edge> edges;
        for (TopExp_Explorer edge(wire.Value(), TopAbs_EDGE); edge.More(); edge.Next()) {
            edges.push_back(TopoDS::Edge(edge.Current()));
            seam = seam || BRep_Tool::IsClosed(edges.back(), face);
        }
        if (wire.Value().IsSame(outer)) continue;
        for (const TopoDS_Edge& edge : edges) taken.insert(edge.TShape().get());
        all.emplace_back(within(face, TopoDS::Wire(wire.Value())), std::move(edges));
    }
    if (!seam) return all;
    for (const Cycle& cycle : cyclesWithoutSeams(face)) {
        if (taken.contains(cycle.front().first.TShape().get())) continue;
        std::vector<TopoDS_Edge> edges;
        for (const auto& [edge, forward] : cycle) edges.push_back(edge);
        all.emplace_back(laidOut(face, cycle), std::move(edges));
    }
    return all;
}

/// A point well within a face; none where a grid of points finds none.
std::optional<gp_Pnt> pointIn(const TopoDS_Face& face) {
    double u0, u1, v0, v1;
    BRepTools::UVBounds(face, u0, u1, v0, v1);
    BRepTopAdaptor_FClass2d inside(face, Tolerance::parameter);
    const Handle(Geom_Surface) surface = BRep_Tool::Surface(face);
    // The middle first: it is farthest from the rim.
    for (const double s : {0.5, 0.37, 0.61, 0.23, 0.79, 0.11, 0.93})
        for (const double t : {0.5, 0.43, 0.67, 0.29, 0.83, 0.13, 0.91})
            if (const gp_Pnt2d at(u0 + s * (u1 - u0), v0 + t * (v1 - v0)); inside.Perform(at) == TopAbs_IN)
                return surface->Value(at.X(), at.Y());
    return std::nullopt;
}

/// Whether a point is in none of the material. The kernel's classifier measures each ray against each edge, which takes
/// seconds where a face has many holes; well off the skin triangles tell it as well. None where the point is not.
std::optional<bool> inTheAir(const RayField& body, const gp_Pnt& point, double wide) {
    const auto near = body.nearest(point);
    if (!near) return true;
    if (near->distance < std::min(RayField::usualDeviation * body.extent(), wide)) return std::nullopt;
    int outside = 0;
    for (const gp_Dir& along : {gp_Dir(0.61, 0.54, 0.58), gp_Dir(-0.37, 0.82, -0.43), gp_Dir(0.29, -0.35, 0.89)}) {
        const auto hit = body.first(point, along);
        outside += !hit || hit->normal.Dot(gp_Vec(along)) < 0.0;
    }
    return outside >= 2;
}

void measure(Opening& opening, const gp_Trsf& placement) {
    opening.area = areaOf(opening.lid);
    opening.middle = skinOf(opening.lid).centre.Transformed(placement);
    for (TopExp_Explorer edge(opening.lid, TopAbs_EDGE); edge.More(); edge.Next())
        opening.perimeter += lengthOf(TopoDS::Edge(edge.Current()));
    opening.lid.Move(TopLoc_Location(placement));
}

}  // namespace

Result<std::vector<Opening>> findOpenings(const Model& model, const std::vector<std::size_t>& places,
                                          Progress& progress) {
    std::vector<Opening> all;
    std::vector<gp_Pnt> points;  // in the lids
    for (const std::size_t o : places) {
        const Occurrence& place = model.occurrences[o];
        const Part& part = *model.parts[place.part];
        if (place.aside || part.lump || part.kind() != BodyKind::Solid) continue;
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        const Incidence& topology = part.incidence();
        for (int f = 1; f <= topology.faceCount(); ++f) {
            const TopoDS_Face face = TopoDS::Face(topology.face(f).Oriented(TopAbs_FORWARD));
            for (auto& [lid, edges] : lidsOf(face)) {
                if (lid.IsNull()) continue;
                Opening opening;
                opening.lid = lid;
                const auto inside = pointIn(opening.lid);
                if (!inside) continue;
                points.push_back(inside->Transformed(place.placement));
                opening.place = o;
                opening.face = f;
                for (const TopoDS_Edge& edge : edges) opening.edges.push_back(topology.edgeNumber(edge));
                measure(opening, place.placement);
                all.push_back(std::move(opening));
            }
        }
    }
    std::map<std::size_t, std::vector<std::size_t>> ofPlace;
    for (std::size_t i = 0; i < all.size(); ++i) ofPlace[all[i].place].push_back(i);
    std::vector<char> open(all.size(), 0);
    for (const auto& [o, own] : ofPlace) {
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        const RayField body(model, {o}, RayField::usualDeviation, progress);
        for (const std::size_t i : own) {
            const auto told = inTheAir(body, points[i], 0.05 * all[i].hydraulicDiameter());
            open[i] = told.value_or(false);
            if (told) continue;
            const Occurrence& place = model.occurrences[o];
            BRepClass3d_SolidClassifier classifier(model.parts[place.part]->shape,
                                                   points[i].Transformed(place.placement.Inverted()),
                                                   BRep_Tool::Tolerance(all[i].lid));
            open[i] = classifier.State() == TopAbs_OUT;
        }
    }
    std::vector<Opening> mouths;
    for (std::size_t i = 0; i < all.size(); ++i)
        if (open[i] != 0) mouths.push_back(std::move(all[i]));
    std::stable_sort(mouths.begin(), mouths.end(), [](const Opening& a, const Opening& b) { return a.area > b.area; });
    return mouths;
}

Result<Opening> openingOf(const Model& model, const std::vector<std::pair<std::size_t, int>>& edges) {
    if (edges.empty()) return fail(ProblemKind::BadInput, "A lid needs a closed loop of edges.");
    const auto [place, first] = edges.front();
    const Part& part = *model.parts[model.occurrences[place].part];
    const TopoDS_Edge lead = part.incidence().edge(first);
    const BRepAdaptor_Curve curve(lead);
    const gp_Pnt at = curve.Value(0.5 * (curve.FirstParameter() + curve.LastParameter()))
                          .Transformed(model.occurrences[place].placement);
    TopTools_ListOfShape loop;
    for (const auto& [o, e] : edges)
        loop.Append(model.parts[model.occurrences[o].part]->incidence().edge(e).Moved(
            TopLoc_Location(model.occurrences[o].placement)));
    BRepBuilderAPI_MakeWire wire;
    wire.Add(loop);
    if (!wire.IsDone() || !BRep_Tool::IsClosed(wire.Wire()))
        return fail(ProblemKind::NotPossible, "The edges of a lid do not close to one loop.",
                    "Pick all edges round the opening.", {part.name, {}, at});
    BRepBuilderAPI_MakeFace flat(wire.Wire(), true);
    if (!flat.IsDone())
        return fail(ProblemKind::NotPossible, "The edges of a lid do not lie on one plane.",
                    "Close the opening with a patch in Mend, or pick another loop.", {part.name, {}, at});
    Opening opening;
    opening.place = place;
    for (const auto& [o, e] : edges)
        if (o == place) opening.edges.push_back(e);
    opening.lid = flat.Face();
    measure(opening, gp_Trsf());
    return opening;
}

}  // namespace rasoir::join
