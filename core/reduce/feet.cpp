#include "reduce/feet.h"

#include <BRepAdaptor_Curve.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepPrimAPI_MakePrism.hxx>

#include "common/tolerance.h"

namespace rasoir::reduce {
namespace {

constexpr double askew = 2e-3;  // [rad] by which the way down may turn along a line

/// From a point straight to the nearest of some faces: the foot and the face's normal there.
std::optional<std::pair<gp_Pnt, gp_Vec>> straightDown(const std::vector<join::SkinFace>& faces, const gp_Pnt& at) {
    std::optional<std::pair<gp_Pnt, gp_Vec>> nearest;
    for (const join::SkinFace& face : faces) {
        const auto below = face.below(at);
        if (!below || (nearest && nearest->first.Distance(at) <= below->foot.Distance(at))) continue;
        gp_Pnt on;
        gp_Vec normal;
        if (const auto uv = face.footOf(at, std::nullopt)) face.skinAt(*uv, on, normal);
        nearest = {below->foot, normal};
    }
    return nearest;
}

}  // namespace

Result<Foot> footOf(int edge, const Handle(Geom_Curve) & line, double first, double last,
                    const std::vector<join::SkinFace>& faces) {
    Foot foot{edge, line, first, last, {}, 1e300, 0.0};
    struct Way {
        gp_Vec along;
        double length;
    };
    std::vector<Way> ways;
    constexpr int samples = 32;
    for (int i = 0; i < samples; ++i) {
        const gp_Pnt at = line->Value(first + (last - first) * (i + 0.5) / samples);
        const auto under = straightDown(faces, at);
        if (!under) continue;
        const gp_Vec way(at, under->first);
        constexpr double onIt = 1e-4;  // [mm] too near to have a direction of its own
        ways.push_back({way.Magnitude() > onIt ? way.Normalized() : under->second, way.Magnitude()});
    }
    if (ways.empty()) return fail(ProblemKind::NotPossible, "it only ends there");
    foot.down = ways[ways.size() / 2].along;
    for (const Way& way : ways) {
        if (std::abs(way.along.Dot(foot.down)) < std::cos(askew))
            return fail(ProblemKind::NotPossible, "it stands askew over the sheet");
        const double along = way.along.Dot(foot.down) > 0.0 ? way.length : -way.length;
        foot.near = std::min(foot.near, along);
        foot.far = std::max(foot.far, along);
    }
    return foot;
}

TopoDS_Shape curtainOf(const Foot& foot, double height, double size) {
    gp_Pnt begin, end;
    gp_Vec out, on;
    foot.line->D1(foot.first, begin, out);
    foot.line->D1(foot.last, end, on);
    const gp_Vec lift = foot.down * (foot.near - height);
    gp_Trsf move;
    move.SetTranslation(lift);
    const auto tangent = [&](const gp_Vec& way) {  // level, so that the strip stays at the sheet
        return (way - foot.down * way.Dot(foot.down)).Normalized();
    };
    const Handle(Geom_Curve) line = Handle(Geom_Curve)::DownCast(foot.line->Transformed(move));
    const gp_Pnt from = begin.Translated(lift), to = end.Translated(lift);
    BRepBuilderAPI_MakeWire wire(BRepBuilderAPI_MakeEdge(from.Translated(tangent(out) * -size), from).Edge());
    wire.Add(BRepBuilderAPI_MakeEdge(line, foot.first, foot.last).Edge());
    wire.Add(BRepBuilderAPI_MakeEdge(to, to.Translated(tangent(on) * size)).Edge());
    if (!wire.IsDone()) return {};
    return BRepPrimAPI_MakePrism(wire.Wire(), foot.down * (foot.far - foot.near + 2.0 * height)).Shape();
}

double parameterPerLength(const Foot& foot) {
    gp_Pnt at;
    gp_Vec way;
    foot.line->D1(0.5 * (foot.first + foot.last), at, way);
    return 1.0 / std::max(Tolerance::noWay, way.Magnitude());
}

std::vector<FootPiece> piecesAt(const Incidence& sheet, const Foot& foot, double height, double tolerance) {
    // Where a point lies along the line; none where it is not at its foot.
    const auto along = [&](const gp_Pnt& point) -> std::optional<double> {
        // Straight and round lines have their own foot; the direction down is not counted.
        double at = 0.5 * (foot.first + foot.last);
        for (int round = 0; round < 20; ++round) {
            gp_Pnt on;
            gp_Vec way;
            foot.line->D1(at, on, way);
            const gp_Vec level = way - foot.down * way.Dot(foot.down);
            const double step = gp_Vec(on, point).Dot(level) / level.SquareMagnitude();
            at = std::clamp(at + step, foot.first - 1.0, foot.last + 1.0);
            if (std::abs(step) * level.Magnitude() < 0.01 * tolerance) break;
        }
        const gp_Vec off(foot.line->Value(at), point);
        const double below = off.Dot(foot.down);
        if ((off - foot.down * below).Magnitude() > tolerance) return std::nullopt;
        if (below < foot.near - height || below > foot.far + height) return std::nullopt;
        return at;
    };
    const double slack = tolerance * parameterPerLength(foot);
    std::vector<FootPiece> pieces;
    for (int e = 1; e <= sheet.edgeCount(); ++e) {
        const BRepAdaptor_Curve curve(sheet.edge(e));
        const double first = curve.FirstParameter(), last = curve.LastParameter();
        const auto from = along(curve.Value(first)), middle = along(curve.Value(0.5 * (first + last))),
                   to = along(curve.Value(last));
        if (!from || !middle || !to) continue;
        if (std::min(*from, *to) < foot.first - slack || std::max(*from, *to) > foot.last + slack) continue;
        pieces.push_back({e, *from, *to});
    }
    std::sort(pieces.begin(), pieces.end(),
              [](const FootPiece& a, const FootPiece& b) { return std::min(a.from, a.to) < std::min(b.from, b.to); });
    return pieces;
}

}  // namespace rasoir::reduce
