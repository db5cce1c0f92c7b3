#include "survey/sheet_corners.h"

#include <fmt/format.h>

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepTools_WireExplorer.hxx>
#include <gp_Circ.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>

#include "common/guard.h"
#include "common/tolerance.h"
#include "topology/edge_angle.h"

namespace rasoir::survey {
namespace {

constexpr double mostArcTurn = 175.0 * M_PI / 180.0;
constexpr double smooth = 0.02;  // [rad]

struct Piece {
    int edge = 0;
    bool forward = true;  // runs with the sheet on its left
    bool open = false;
    gp_Vec in, out;  // of length 1, as it runs
    gp_Pnt from, to, middle;
    std::optional<gp_Circ> circle;
    double turn = 0.0, length = 0.0;
};

Piece pieceOf(const Incidence& topology, const TopoDS_Edge& edge) {
    Piece piece;
    piece.edge = topology.edgeNumber(edge);
    piece.forward = edge.Orientation() == TopAbs_FORWARD;
    piece.open = topology.facesAt(piece.edge) == 1;
    const BRepAdaptor_Curve curve(TopoDS::Edge(edge.Oriented(TopAbs_FORWARD)));
    gp_Pnt first, last;
    gp_Vec at, end;
    curve.D1(curve.FirstParameter(), first, at);
    curve.D1(curve.LastParameter(), last, end);
    piece.middle = curve.Value(0.5 * (curve.FirstParameter() + curve.LastParameter()));
    piece.from = piece.forward ? first : last;
    piece.to = piece.forward ? last : first;
    piece.in = piece.forward ? at : end.Reversed();
    piece.out = piece.forward ? end : at.Reversed();
    if (piece.in.SquareMagnitude() > Tolerance::noLengthSquare) piece.in.Normalize();
    if (piece.out.SquareMagnitude() > Tolerance::noLengthSquare) piece.out.Normalize();
    if (curve.GetType() == GeomAbs_Circle) {
        piece.circle = curve.Circle();
        piece.turn = curve.LastParameter() - curve.FirstParameter();
        piece.length = piece.turn * piece.circle->Radius();
    }
    return piece;
}

bool runsInto(const Piece& a, const Piece& b) {
    return a.out.Angle(b.in) < smooth;
}

bool oneCircle(const Piece& a, const Piece& b) {
    // Of the radius: an arc and its straight neighbour that were fitted.
    const double slack = 1e-4 * a.circle->Radius();
    return b.circle && a.circle->Location().Distance(b.circle->Location()) < slack &&
           std::abs(a.circle->Radius() - b.circle->Radius()) < slack;
}

}  // namespace

std::vector<SheetCorner> findSheetCorners(const Part& part, double targetSize) {
    std::vector<SheetCorner> found;
    if (part.shape.IsNull()) return found;
    const Incidence& topology = part.incidence();
    for (int f = 1; f <= topology.faceCount(); ++f) {
        if (topology.bodyOf(f) >= 0) continue;
        (void)guarded("Looking at a sheet", [&]() -> Result<void> {
            const TopoDS_Face face = topology.face(f);
            const bool reversed = face.Orientation() == TopAbs_REVERSED;
            for (TopExp_Explorer wire(face.Oriented(TopAbs_FORWARD), TopAbs_WIRE); wire.More(); wire.Next()) {
                std::vector<Piece> loop;
                for (BRepTools_WireExplorer it(TopoDS::Wire(wire.Current()),
                                               TopoDS::Face(face.Oriented(TopAbs_FORWARD)));
                     it.More(); it.Next()) {
                    if (BRep_Tool::Degenerated(it.Current())) continue;
                    loop.push_back(pieceOf(topology, it.Current()));
                }
                const std::size_t n = loop.size();
                for (std::size_t i = 0; i < n && n > 2; ++i) {
                    const Piece& before = loop[(i + n - 1) % n];
                    if (!loop[i].circle || !loop[i].open || (before.circle && oneCircle(loop[i], before))) continue;
                    SheetCorner corner;
                    corner.radius = loop[i].circle->Radius();
                    std::size_t last = i, count = 0;
                    double length = 0.0;
                    for (; count < n && loop[(i + count) % n].circle && oneCircle(loop[i], loop[(i + count) % n]) &&
                           loop[(i + count) % n].open;
                         ++count) {
                        last = (i + count) % n;
                        corner.arcs.push_back(loop[last].edge);
                        corner.turn += loop[last].turn;
                        length += loop[last].length;
                    }
                    const Piece& after = loop[(last + 1) % n];
                    if (count + 2 > n || !before.open || !after.open || before.edge == after.edge ||
                        corner.turn > mostArcTurn || !runsInto(before, loop[i]) || !runsInto(loop[last], after))
                        continue;
                    const Piece& middle = loop[(i + count / 2) % n];
                    corner.middle = count % 2 == 1 ? middle.middle : middle.from;
                    const gp_Vec normal =
                        outwardNormal(face, topology.edge(loop[i].edge),
                                      BRepAdaptor_Curve(topology.edge(loop[i].edge)).FirstParameter());
                    // In the forward face the sheet lies left of its edges, seen against the surface's own normal.
                    const gp_Vec left = (reversed ? normal.Reversed() : normal).Crossed(loop[i].in);
                    corner.outer = left.Dot(gp_Vec(loop[i].from, loop[i].circle->Location())) > 0.0;
                    corner.face = f;
                    corner.before = before.edge;
                    corner.after = after.edge;
                    const double ideal = std::min(targetSize, corner.radius / 2.0);  // about a twelfth of a turn
                    corner.elements = length / ideal - length / targetSize;
                    found.push_back(std::move(corner));
                }
            }
            return {};
        });
    }
    std::stable_sort(found.begin(), found.end(),
                     [](const SheetCorner& a, const SheetCorner& b) { return a.radius < b.radius; });
    return found;
}

std::string describe(const SheetCorner& corner) {
    return fmt::format("{}, {}°", corner.outer ? "outer" : "inner",
                       readable(std::round(corner.turn * 1800.0 / M_PI) / 10.0));
}

}  // namespace rasoir::survey
