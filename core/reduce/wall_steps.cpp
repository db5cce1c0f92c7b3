#include "reduce/wall_steps.h"

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepBuilderAPI_Transform.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <GeomLib_IsPlanarSurface.hxx>
#include <gp_Pln.hxx>
#include <TopoDS.hxx>

#include "common/sets.h"
#include "common/tolerance.h"
#include "topology/edge_angle.h"

// A rib's foot and a step look alike from the edge: in both the skin of a wall ends at an inner corner. Beyond a rib's
// foot lies what is of no wall that runs along; beyond a step, at the depth of the wall's middle, lies another wall
// that does. There the wall's middle has to end, which would else run on under the step as if it were still as thin. It
// is parted by a cutter: the edge swept through the wall, a narrow strip on either side of that middle, so that it
// meets nothing of the skin. Where the two keep middles of their own, the strip reaches from one to the other and is a
// sheet itself. Behind a slope it stands where the other wall begins.

namespace rasoir::reduce {

namespace {

std::optional<gp_Pln> flatMiddle(const Wall& wall) {
    const GeomAdaptor_Surface surface(wall.middle);
    return surface.GetType() == GeomAbs_Plane ? std::optional(surface.Plane()) : std::nullopt;
}

/// A point beside the middle of an edge, outside of a face in its plane; and the face's normal, away from the material.
struct Beyond {
    gp_Pnt on;     // of the edge
    gp_Dir along;  // away from the face, square to the edge
    gp_Dir out;    // away from the material
};
std::optional<Beyond> beyondEdge(const TopoDS_Face& face, const TopoDS_Edge& edge, bool forward) {
    // A plane may have been written as a spline.
    const Handle(Geom_Surface) surface = BRep_Tool::Surface(face);
    if (GeomAdaptor_Surface(surface).GetType() != GeomAbs_Plane &&
        !GeomLib_IsPlanarSurface(surface, Tolerance::sameSkin).IsPlanar())
        return std::nullopt;
    const BRepAdaptor_Curve curve(edge);
    gp_Pnt on;
    gp_Vec run;
    curve.D1(0.5 * (curve.FirstParameter() + curve.LastParameter()), on, run);
    const gp_Vec normal = outwardNormal(face, edge, 0.5 * (curve.FirstParameter() + curve.LastParameter()));
    if (run.Magnitude() < Tolerance::noLength || normal.Magnitude() < 0.5) return std::nullopt;
    const gp_Dir out(normal);
    if (!forward) run.Reverse();
    // The material lies to the left of a forward use, seen from outside.
    const gp_Vec away = run.Crossed(gp_Vec(out));
    if (away.Magnitude() < Tolerance::noLength) return std::nullopt;
    return Beyond{on, gp_Dir(away), out};
}

/// An edge below which a middle has to end.
struct Line {
    std::size_t wall = 0;  // that it is on the skin of
    int edge = 0;
    gp_Dir out;              // from the wall there
    double depth = 0.0;      // [mm] of a rib's lip below the skin; 0: of a step, about the middle alone
    std::size_t beyond = 0;  // of a step: the wall beyond it
    gp_Vec shift{};          // and by how much farther on that begins
};

/// The middle of a rib that ends within a plate is carried on into the plate, and there past the rib's end: a lip half
/// as high as the plate. Below the foot of an end face, from the plate's skin past its middle, a cutter takes it off.
void cutAtEnds(const Incidence& topology, const std::vector<Wall>& walls,
               const std::vector<std::unique_ptr<WallProbe>>& probes, const std::vector<bool>& separate,
               std::vector<Line>& lines) {
    std::map<int, std::set<std::size_t>> sidesOf;  // face: walls that it is a side of
    for (std::size_t w = 0; w < walls.size(); ++w)
        for (const auto* side : {&walls[w].sideA, &walls[w].sideB})
            for (const int f : *side) sidesOf[f].insert(w);
    // The walls that a face ends: it touches both sides and is neither.
    const auto ends = [&](int g) {
        std::map<std::size_t, int> touched;  // bits
        for (const int f : topology.neighboursOf(g))
            if (const auto own = sidesOf.find(f); own != sidesOf.end())
                for (const std::size_t w : own->second) {
                    const auto on = [f](const std::vector<int>& side) {
                        return std::find(side.begin(), side.end(), f) != side.end();
                    };
                    touched[w] |= (on(walls[w].sideA) ? 1 : 0) | (on(walls[w].sideB) ? 2 : 0);
                }
        std::set<std::size_t> ended;
        for (const auto& [w, bits] : touched)
            if (bits == 3) ended.insert(w);
        return ended;
    };
    for (std::size_t plate = 0; plate < walls.size(); ++plate) {
        const auto own = flatMiddle(walls[plate]);
        if (!own || !separate[plate]) continue;
        for (const auto* side : {&walls[plate].sideA, &walls[plate].sideB})
            for (const int f : *side)
                for (const int e : topology.edgesOf(f)) {
                    const auto uses = topology.usesOf(e);
                    if (uses.size() != 2 || uses[0].face == uses[1].face) continue;
                    const EdgeUse &use = uses[0].face == f ? uses[0] : uses[1],
                                  &across = uses[0].face == f ? uses[1] : uses[0];
                    if (sidesOf.contains(across.face)) continue;
                    const auto beyond = beyondEdge(topology.face(f), topology.edge(e), use.forward);
                    if (!beyond) continue;
                    const double thick = walls[plate].thicknessAt(beyond->on);
                    const std::set<std::size_t> ended = ends(across.face);
                    const bool foot = std::any_of(ended.begin(), ended.end(), [&](std::size_t w) {
                        const auto middle = flatMiddle(walls[w]);
                        // Above the plate's skin, beyond the edge, is the rib.
                        const gp_Pnt above = beyond->on.Translated(gp_Vec(beyond->along) * (0.05 * thick) +
                                                                   gp_Vec(beyond->out) * (0.05 * thick));
                        return w != plate && middle && probes[w]->between(onMiddle(walls[w], above)) &&
                               std::abs(middle->Axis().Direction().Dot(own->Axis().Direction())) < 0.9;
                    });
                    if (foot) lines.push_back({plate, e, beyond->out, 0.8 * thick});
                }
    }
}

/// None where both middles are at one height, and where a curved edge would have to be moved.
std::optional<StepBridge> bridgeAt(const TopoDS_Edge& edge, const Line& line, const gp_Pnt& on,
                                   const std::vector<Wall>& walls, const std::vector<int>& base) {
    const auto baseOf = [&](std::size_t w) { return static_cast<std::size_t>(base[w]); };
    if (baseOf(line.wall) == baseOf(line.beyond)) return std::nullopt;
    const auto depthOf = [&](std::size_t w) {
        return -gp_Vec(on, onMiddle(walls[baseOf(w)], on)).Dot(gp_Vec(line.out));
    };
    StepBridge bridge{{}, line.wall, line.beyond, on, line.out, depthOf(line.wall), depthOf(line.beyond)};
    const double margin = 0.1 * std::min(walls[line.wall].thicknessAt(on), walls[line.beyond].thickness);
    constexpr double level = 1e-3;  // of the thickness
    if (std::abs(bridge.first - bridge.last) < 10.0 * level * margin) return std::nullopt;
    const bool moves = line.shift.Magnitude() > 0.0;
    if (moves && BRepAdaptor_Curve(edge).GetType() != GeomAbs_Line) return std::nullopt;
    gp_Trsf up;
    up.SetTranslation(line.shift + gp_Vec(line.out) * (margin - std::min(bridge.first, bridge.last)));
    const TopoDS_Shape start = BRepBuilderAPI_Transform(edge, up, true).Shape();
    const double height = std::abs(bridge.first - bridge.last) + 2.0 * margin;
    bridge.face = TopoDS::Face(BRepPrimAPI_MakePrism(start, gp_Vec(line.out) * -height).Shape());
    return bridge;
}

}  // namespace

gp_Pnt onMiddle(const Wall& wall, const gp_Pnt& point) {
    const auto plane = flatMiddle(wall);
    if (!plane) return point;
    const gp_Vec normal(plane->Axis().Direction());
    return point.Translated(normal * -gp_Vec(plane->Location(), point).Dot(normal));
}

WallSteps findSteps(const Part& part, const std::vector<Wall>& walls,
                    const std::vector<std::unique_ptr<WallProbe>>& probes, const std::vector<bool>& separate,
                    AtSteps wanted) {
    WallSteps steps;
    const Incidence& topology = part.incidence();
    Sets together(walls.size());
    std::vector<Line> lines;
    for (std::size_t w = 0; w < walls.size(); ++w) {
        const auto own = flatMiddle(walls[w]);
        if (!own || !separate[w]) continue;
        for (const auto* side : {&walls[w].sideA, &walls[w].sideB})
            for (const int f : *side)
                for (const int e : topology.edgesOf(f)) {
                    const auto uses = topology.usesOf(e);
                    if (uses.size() != 2) continue;
                    const EdgeUse& use = uses[0].face == f ? uses[0] : uses[1];
                    const auto beyond = beyondEdge(topology.face(f), topology.edge(e), use.forward);
                    if (!beyond) continue;
                    const double thick = walls[w].thicknessAt(beyond->on);
                    // A face may go on under another wall, or be parted from itself: the wall has to end here.
                    const gp_Pnt before = beyond->on.Translated(gp_Vec(beyond->along) * (-0.05 * thick) -
                                                                gp_Vec(beyond->out) * (0.5 * thick));
                    if (!probes[w]->between(onMiddle(walls[w], before))) continue;
                    bool step = false, met = false;
                    Line line{w, e, beyond->out};
                    // Where the corner is rounded, the step slopes or has a rim, the other wall begins only some way
                    // on.
                    for (const double away : {0.05, 0.3, 0.6, 1.0, 1.5, 2.0, 3.0}) {
                        const gp_Pnt deep = beyond->on.Translated(gp_Vec(beyond->along) * (away * thick) -
                                                                  gp_Vec(beyond->out) * (0.5 * thick));
                        if (probes[w]->between(onMiddle(walls[w], deep))) break;  // as beyond the foot of a rib
                        for (std::size_t v = 0; v < walls.size(); ++v) {
                            if (v == w || !separate[v]) continue;
                            const auto other = flatMiddle(walls[v]);
                            if (!other || std::abs(other->Axis().Direction().Dot(own->Axis().Direction())) < 0.98)
                                continue;
                            if (const gp_Pnt at = onMiddle(walls[v], deep);
                                at.Distance(deep) > 0.5 * walls[v].thicknessAt(deep) || !probes[v]->between(at))
                                continue;
                            // Where the thinner one ends is the step: a round or a slope goes with the thicker one.
                            if (walls[v].thickness >= walls[w].thickness * (1.0 - Tolerance::atLimit)) {
                                step = true;
                                line.beyond = v;
                                constexpr double upright = 0.05;  // the nearest place that is asked
                                if (away > upright) line.shift = gp_Vec(beyond->along) * (away * thick);
                            }
                            together.join(static_cast<int>(w), static_cast<int>(v));
                            met = true;
                        }
                        if (met) break;
                    }
                    if (step) lines.push_back(line);
                }
    }
    cutAtEnds(topology, walls, probes, separate, lines);
    for (std::size_t w = 0; w < walls.size(); ++w) steps.base.push_back(static_cast<int>(w));
    std::map<int, std::vector<std::size_t>> groups;
    for (std::size_t w = 0; w < walls.size(); ++w) groups[together.root(static_cast<int>(w))].push_back(w);
    for (const auto& [root, group] : groups) {
        if (group.size() < 2 || wanted == AtSteps::Bridge) continue;
        // How far out a middle would lie in the others, in halves of their thickness. Of those that lie well within all
        // the largest is taken: what is most of the plate has no offset.
        constexpr double wellWithin = 0.9;
        double largest = 0.0;
        std::optional<std::size_t> base;
        for (const std::size_t w : group) {
            double farthest = 0.0;
            for (const std::size_t v : group)
                farthest = std::max(
                    farthest, onMiddle(walls[w], walls[v].where).Distance(walls[v].where) / (0.5 * walls[v].thickness));
            if (farthest >= wellWithin || walls[w].area <= largest) continue;
            largest = walls[w].area;
            base = w;
        }
        if (!base) continue;
        for (const std::size_t v : group) steps.base[v] = static_cast<int>(*base);
    }
    for (const Line& line : lines) {
        const TopoDS_Edge edge = topology.edge(line.edge);
        if (line.depth > 0.0) {
            steps.cutters.push_back(TopoDS::Face(BRepPrimAPI_MakePrism(edge, gp_Vec(line.out) * -line.depth).Shape()));
            continue;
        }
        const BRepAdaptor_Curve curve(edge);
        const gp_Pnt on = curve.Value(0.5 * (curve.FirstParameter() + curve.LastParameter()));
        const Wall& base = walls[static_cast<std::size_t>(steps.base[line.wall])];
        if (auto bridge = bridgeAt(edge, line, on, walls, steps.base)) {
            steps.bridges.push_back(std::move(*bridge));
            continue;
        }
        const double depth = -gp_Vec(on, onMiddle(base, on)).Dot(gp_Vec(line.out));
        const double half = 0.1 * std::min(base.thicknessAt(on), walls[line.wall].thicknessAt(on));
        gp_Trsf down;
        down.SetTranslation(gp_Vec(line.out) * (half - depth));
        const TopoDS_Shape start = BRepBuilderAPI_Transform(edge, down, true).Shape();
        steps.cutters.push_back(TopoDS::Face(BRepPrimAPI_MakePrism(start, gp_Vec(line.out) * (-2.0 * half)).Shape()));
    }
    return steps;
}

}  // namespace rasoir::reduce
