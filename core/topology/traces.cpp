#include "topology/traces.h"

#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <Geom2d_Curve.hxx>
#include <map>
#include <TopExp.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Iterator.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <vector>

#include "common/tolerance.h"

namespace rasoir {
namespace {

struct Step {
    TopoDS_Edge edge;
    Handle(Geom2d_Curve) trace;
    double first = 0.0, last = 0.0;
    [[nodiscard]] bool against() const { return edge.Orientation() == TopAbs_REVERSED; }
    [[nodiscard]] gp_Pnt2d start() const { return trace->Value(against() ? last : first); }
    [[nodiscard]] gp_Pnt2d end() const { return trace->Value(against() ? first : last); }
};

/// Whether an edge that is said to have no length has some: its trace leads over different points.
bool isNoPole(const Step& step, const Handle(Geom_Surface) & surface) {
    const gp_Pnt2d from = step.trace->Value(step.first);
    const gp_Pnt origin = surface->Value(from.X(), from.Y());
    double farthest = 0.0;
    for (int i = 1; i <= 8; ++i) {
        const gp_Pnt2d uv = step.trace->Value(step.first + (step.last - step.first) * i / 8.0 * 0.97);
        farthest = std::max(farthest, origin.Distance(surface->Value(uv.X(), uv.Y())));
    }
    return farthest > 100.0 * std::max(BRep_Tool::Tolerance(step.edge), Tolerance::samePlace);
}

bool straighten(const TopoDS_Face& face, TopoDS_Wire wire) {
    const Handle(Geom_Surface) surface = BRep_Tool::Surface(face);
    const double period[2]{surface->IsUPeriodic() ? surface->UPeriod() : 0.0,
                           surface->IsVPeriodic() ? surface->VPeriod() : 0.0};
    std::vector<Step> steps;
    std::vector<TopoDS_Edge> leave;
    for (TopoDS_Iterator it(wire); it.More(); it.Next()) {
        Step step{TopoDS::Edge(it.Value()), {}, 0.0, 0.0};
        step.trace = BRep_Tool::CurveOnSurface(step.edge, face, step.first, step.last);
        if (step.trace.IsNull()) return false;
        if (BRep_Tool::Degenerated(step.edge) && isNoPole(step, surface))
            leave.push_back(step.edge);
        else
            steps.push_back(step);
    }
    if (leave.empty() || steps.empty()) return false;
    const auto gap = [&](const gp_Pnt2d& from, const gp_Pnt2d& to) {
        gp_Vec2d turns(0.0, 0.0);
        if (period[0] > 0.0) turns.SetX(period[0] * std::round((from.X() - to.X()) / period[0]));
        if (period[1] > 0.0) turns.SetY(period[1] * std::round((from.Y() - to.Y()) / period[1]));
        return turns;
    };
    // In the order in which they follow each other but for whole turns; a wire may list them in any.
    for (std::size_t i = 1; i < steps.size(); ++i) {
        const auto off = [&](const Step& step) {
            return steps[i - 1].end().Distance(step.start().Translated(gap(steps[i - 1].end(), step.start())));
        };
        const auto next =
            std::min_element(steps.begin() + static_cast<std::ptrdiff_t>(i), steps.end(),
                             [&](const Step& a, const Step& b) { return off(a) < off(b) - Tolerance::parameter; });
        std::swap(steps[i], *next);
        const gp_Vec2d turns = gap(steps[i - 1].end(), steps[i].start());
        if (turns.Magnitude() > 0.0) steps[i].trace = Handle(Geom2d_Curve)::DownCast(steps[i].trace->Translated(turns));
    }
    // Whole turns must have been all that was wrong.
    // Of the range, by which ends of traces may be apart in files.
    for (std::size_t i = 0; i < steps.size(); ++i)
        if (steps[i].end().Distance(steps[(i + 1) % steps.size()].start()) > 1e-3) return false;
    const BRep_Builder builder;
    std::map<Standard_Address, std::vector<std::size_t>> uses;
    for (std::size_t i = 0; i < steps.size(); ++i) uses[steps[i].edge.TShape().get()].push_back(i);
    for (const auto& [shape, own] : uses) {
        const Step& one = steps[own.front()];
        const double tolerance = BRep_Tool::Tolerance(one.edge);
        const TopoDS_Edge edge = TopoDS::Edge(one.edge.Oriented(TopAbs_FORWARD));
        if (own.size() == 2) {
            const Step &forward = steps[own[one.against() ? 1 : 0]], &reversed = steps[own[one.against() ? 0 : 1]];
            builder.UpdateEdge(edge, forward.trace, reversed.trace, face, tolerance);
        } else {
            builder.UpdateEdge(edge, one.trace, face, tolerance);
        }
        builder.Range(edge, face, one.first, one.last);
    }
    const bool free = wire.Free();
    wire.Free(true);
    for (const TopoDS_Edge& edge : leave) builder.Remove(wire, edge);
    wire.Free(free);
    return true;
}

}  // namespace

int straightenTraces(const TopoDS_Shape& shape) {
    int straightened = 0;
    TopTools_IndexedMapOfShape faces;
    TopExp::MapShapes(shape, TopAbs_FACE, faces);
    for (int f = 1; f <= faces.Extent(); ++f) {
        const TopoDS_Face face = TopoDS::Face(faces(f).Oriented(TopAbs_FORWARD));
        const Handle(Geom_Surface) surface = BRep_Tool::Surface(face);
        if (surface.IsNull() || (!surface->IsUPeriodic() && !surface->IsVPeriodic())) continue;
        for (TopoDS_Iterator it(face); it.More(); it.Next())
            if (it.Value().ShapeType() == TopAbs_WIRE) straightened += straighten(face, TopoDS::Wire(it.Value()));
    }
    return straightened;
}

}  // namespace rasoir
