#include "reduce/line_on_sheets.h"

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <Geom_Line.hxx>
#include <TopExp.hxx>
#include <TopoDS.hxx>

// Edge by edge of the beam: what lies on sheets is sorted along it, and what is left between is free. The ends of all
// stretches are nodes: the beam's own vertices, and those that come in between. Sheets say where their nodes have to
// be; then free stretches, from node to node, pass on how far one end was moved to the other.

namespace rasoir::reduce {
namespace {

/// The stretches of a beam's edge that lie on sheets, in order along it, with their ends in the beam's coordinates.
struct OnSheet {
    LineStretch stretch;
    std::array<gp_Pnt, 2> ends;
    std::array<int, 2> vertices{};
};
std::vector<OnSheet> onSheets(const Model& model, std::size_t beam, int edge, const std::vector<const Laid*>& laid,
                              const std::map<std::size_t, PartedSheet>& sheets) {
    std::vector<OnSheet> all;
    for (const Laid* one : laid) {
        const PartedSheet& made = sheets.at(one->on->sheet);
        const Incidence& sheet = made.parted.part->incidence();
        for (const Foot& foot : one->feet) {
            if (foot.edge != edge) continue;
            for (const FootPiece& piece : piecesAt(sheet, foot, made.height, toleranceOfFeet(model))) {
                OnSheet on;
                LineStretch& own = on.stretch;
                own.edge = edge;
                own.from = std::min(piece.from, piece.to);
                own.to = std::max(piece.from, piece.to);
                own.sheet = one->on->sheet;
                own.sheetEdge = piece.edge;
                own.reversed = piece.from > piece.to;
                const TopoDS_Edge whole = TopoDS::Edge(sheet.edge(piece.edge).Oriented(TopAbs_FORWARD));
                own.curve =
                    Handle(Geom_Curve)::DownCast(BRep_Tool::Curve(whole, own.first, own.last)
                                                     ->Transformed(fromSheetToBeam(model, beam, one->on->sheet)));
                on.vertices = {sheet.vertexNumber(TopExp::FirstVertex(whole)),
                               sheet.vertexNumber(TopExp::LastVertex(whole))};
                if (own.reversed) {  // the beam's line runs on as it did
                    const double oldFirst = own.first;
                    own.first = own.curve->ReversedParameter(own.last);
                    own.last = own.curve->ReversedParameter(oldFirst);
                    own.curve = own.curve->Reversed();
                    std::swap(on.vertices[0], on.vertices[1]);
                }
                on.ends = {own.curve->Value(own.first), own.curve->Value(own.last)};
                all.push_back(std::move(on));
            }
        }
    }
    std::sort(all.begin(), all.end(),
              [](const OnSheet& a, const OnSheet& b) { return a.stretch.from < b.stretch.from; });
    return all;
}

/// What lies on no sheet goes along with what does: moved as a whole, or between two ends that have moved alike.
Result<void> moveFree(const Part& beam, NewLine& line, double tolerance) {
    for (bool changed = true; changed;) {
        changed = false;
        for (const LineStretch& own : line.stretches) {
            LineNode &begin = line.nodes[own.begin], &end = line.nodes[own.end];
            if (begin.now.has_value() == end.now.has_value()) continue;
            LineNode &known = begin.now ? begin : end, &other = begin.now ? end : begin;
            other.now = other.was.Translated(gp_Vec(known.was, *known.now));
            changed = true;
        }
    }
    const Incidence& topology = beam.incidence();
    for (LineStretch& own : line.stretches) {
        if (own.sheet) continue;
        const LineNode &begin = line.nodes[own.begin], &end = line.nodes[own.end];
        if (!begin.now || !end.now) return fail(ProblemKind::NotPossible, "a part of it hangs on nothing");
        double first = 0.0, last = 0.0;
        const Handle(Geom_Curve) curve = BRep_Tool::Curve(topology.edge(own.edge), first, last);
        const gp_Vec shift(begin.was, *begin.now), other(end.was, *end.now);
        if ((shift - other).Magnitude() <= tolerance) {
            own.curve = Handle(Geom_Curve)::DownCast(curve->Translated(shift));
            own.first = own.from;
            own.last = own.to;
            continue;
        }
        constexpr double mostTurn = 2e-3;  // [rad] more would be another beam
        const gp_Vec was(begin.was, end.was), now(*begin.now, *end.now);
        if (BRepAdaptor_Curve(topology.edge(own.edge)).GetType() != GeomAbs_Line || was.Angle(now) > mostTurn)
            return fail(ProblemKind::NotPossible, "it would be bent where it lies on no sheet");
        own.curve = new Geom_Line(*begin.now, gp_Dir(now));
        own.first = 0.0;
        own.last = now.Magnitude();
    }
    return {};
}

}  // namespace

double toleranceOfFeet(const Model& model) {
    return 20.0 * model.samePoint();
}

gp_Trsf fromSheetToBeam(const Model& model, std::size_t beam, std::size_t sheet) {
    return model.occurrences[beam].placement.Inverted() * model.occurrences[sheet].placement;
}

Result<NewLine> newLine(const Model& model, std::size_t beam, const std::vector<const Laid*>& laid,
                        const std::map<std::size_t, PartedSheet>& sheets) {
    const auto no = [](const char* why) { return fail(ProblemKind::NotPossible, why); };
    const Part& part = *model.parts[model.occurrences[beam].part];
    const Incidence& topology = part.incidence();
    const double tolerance = toleranceOfFeet(model);
    NewLine line;
    for (int v = 1; v <= topology.vertexCount(); ++v)
        line.nodes.push_back({BRep_Tool::Pnt(TopoDS::Vertex(topology.vertex(v))), {}, {}});
    const auto settle = [&](std::size_t node, const gp_Pnt& at) {
        std::optional<gp_Pnt>& now = line.nodes[node].now;
        if (!now) now = at;
        return now->Distance(at) <= tolerance;
    };
    const auto nodeOf = [&](const TopoDS_Vertex& vertex) {
        return static_cast<std::size_t>(topology.vertexNumber(vertex)) - 1;
    };
    bool any = false;
    for (int e = 1; e <= topology.edgeCount(); ++e) {
        const TopoDS_Edge edge = TopoDS::Edge(topology.edge(e).Oriented(TopAbs_FORWARD));
        double first = 0.0, last = 0.0;
        const Handle(Geom_Curve) curve = BRep_Tool::Curve(edge, first, last);
        const Foot whole{e, curve, first, last, {}, 0.0, 0.0};
        const double slack = tolerance * parameterPerLength(whole);
        double reached = first;
        std::size_t at = nodeOf(TopExp::FirstVertex(edge));
        const std::size_t end = nodeOf(TopExp::LastVertex(edge));
        const auto onTo = [&](double parameter) {  // the node there, made where it is none of the beam's
            if (std::abs(parameter - last) <= slack) return end;
            line.nodes.push_back({curve->Value(parameter), {}, {}});
            return line.nodes.size() - 1;
        };
        const auto goFree = [&](double parameter) {
            const std::size_t next = onTo(parameter);
            line.stretches.push_back({e, reached, parameter, at, next, {}, 0, false, {}, 0.0, 0.0});
            at = next;
        };
        for (OnSheet& on : onSheets(model, beam, e, laid, sheets)) {
            LineStretch& own = on.stretch;
            if (own.from < reached - slack) return no("several sheets lie under it, one above the other");
            if (own.from > reached + slack) goFree(own.from);
            own.begin = at;
            own.end = onTo(own.to);
            if (!settle(own.begin, on.ends[0]) || !settle(own.end, on.ends[1]))
                return no("the sheets under it lie at different heights");
            line.nodes[own.begin].onSheets.emplace(*own.sheet, on.vertices[0]);
            line.nodes[own.end].onSheets.emplace(*own.sheet, on.vertices[1]);
            reached = own.to;
            at = own.end;
            line.stretches.push_back(std::move(own));
            any = true;
        }
        if (reached < last - slack) goFree(last);
    }
    if (!any) return no("the sheet is not parted along it");
    if (auto free = moveFree(part, line, tolerance); !free) return tl::unexpected(free.error());
    return line;
}

}  // namespace rasoir::reduce
