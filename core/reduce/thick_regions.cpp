#include "reduce/thick_regions.h"

#include <fmt/format.h>

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepBndLib.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakePolygon.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <ElCLib.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <gp_Circ.hxx>
#include <gp_Cone.hxx>
#include <gp_Cylinder.hxx>
#include <gp_Pln.hxx>
#include <TopoDS.hxx>

#include "arrange/choice.h"
#include "common/tolerance.h"
#include "geometry/integrals.h"
#include "geometry/ray_field.h"
#include "model/lineage_builder.h"
#include "model/places.h"
#include "topology/edge_angle.h"

// A wall has edges of three kinds. At its rim the body ends. At a joint another wall begins, at once or beyond a round.
// What is left is an end: there, matter goes on that is no wall. An edge is taken for an end when the face across it is
// no side of a wall, none lies smoothly behind that face, and either rays from points beyond the edge, midway in the
// wall's depth, meet no skin within so many wall thicknesses as the caller says, or that face rises by more than that:
// a wall that was not taken stands there. Something low that stands on a wall is no end, and the wall runs on under it.
//
// At each end a strip is put up, from the edge straight through the wall to its other side. The strips are arranged
// with the body, which gives cells. Whether a cell stays solid is asked once more, of the cell itself, by its thickness
// and by how much of its skin is sides of walls: the strips of a leaning rib or of bosses of two diameters cut off
// slivers that belong to the thick region, and a strip that ends in the open cuts nothing.

namespace rasoir::reduce {
namespace {

/// A cell of which more than this is so thick stays solid; a knob on a wall does not make the wall a solid.
constexpr double thickShare = 0.15;

/// The thirteen axes of a cube, through faces, edges and corners; turned a little, since rays along walls graze them.
const std::vector<gp_Dir>& axesOfCube() {
    static const std::vector<gp_Dir> axes = [] {
        gp_Trsf odd;
        odd.SetRotation(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(3, 5, 7)), 0.0713);
        std::vector<gp_Dir> all;
        for (int x = -1; x <= 1; ++x)
            for (int y = -1; y <= 1; ++y)
                for (int z = -1; z <= 1; ++z)
                    if (x > 0 || (x == 0 && (y > 0 || (y == 0 && z > 0))))
                        all.push_back(gp_Dir(x, y, z).Transformed(odd));
        return all;
    }();
    return axes;
}

/// A body to which one can ask how thick it is about a point.
class Matter {
public:
    Matter(const TopoDS_Shape& shape, Progress& progress) {
        m_rays = std::make_unique<RayField>(aloneInPlace(std::make_shared<Part>("matter", shape)),
                                            std::vector<std::size_t>{}, RayField::usualDeviation, progress);
    }
    /// The shortest chord through a point, of some thirteen directions [mm]; 0 outside.
    [[nodiscard]] double thicknessAt(const gp_Pnt& point) const {
        double least = 1e300;
        for (const gp_Dir& axis : axesOfCube()) {
            const auto there = m_rays->first(point, axis), back = m_rays->first(point, axis.Reversed());
            if (!there || !back || there->normal.Dot(gp_Vec(axis)) < 0.0 || back->normal.Dot(gp_Vec(axis)) > 0.0)
                return 0.0;
            least = std::min(least, there->distance + back->distance);
        }
        return least;
    }
    /// The share of the skin behind which, on the way inwards to the middle, it is thicker than a limit; by a sample.
    [[nodiscard]] double shareThickerThan(double limit) const {
        const auto& triangles = m_rays->triangles();
        const std::size_t step = std::max<std::size_t>(1, triangles.size() / 400);
        double all = 0.0, thicker = 0.0;
        for (std::size_t t = 0; t < triangles.size(); t += step) {
            const gp_Dir inwards = gp_Dir(triangles[t].normal).Reversed();
            const auto far = m_rays->first(triangles[t].middle, inwards, m_rays->ownSkin());
            if (!far) continue;
            all += triangles[t].area;
            double most = 0.0;
            for (const double share : {0.2, 0.5})
                most = std::max(most,
                                thicknessAt(triangles[t].middle.Translated(gp_Vec(inwards) * (share * far->distance))));
            if (most > limit) thicker += triangles[t].area;
        }
        return all > 0.0 ? thicker / all : 0.0;
    }

private:
    std::unique_ptr<RayField> m_rays;
};

/// What the ends of walls are looked for with.
struct Body {
    const Part& part;
    const std::vector<Wall>& walls;
    std::map<int, std::vector<std::size_t>> wallsAt;  // by face
    const Matter& matter;
    ThickFrom thickFrom;
    double tolerance;

    [[nodiscard]] const Incidence& topology() const { return part.incidence(); }
    [[nodiscard]] int across(int edge, int face) const {
        const auto uses = topology().usesOf(edge);
        if (uses.size() != 2 || uses[0].face == uses[1].face) return 0;
        return uses[0].face == face ? uses[1].face : uses[0].face;
    }
    /// How far a face, and what goes on smoothly behind it, rises above a side of a wall [mm].
    [[nodiscard]] double riseBeyond(int face, int from, const gp_Pnt& at, const gp_Vec& normal) const {
        double most = 0.0;
        std::set<int> seen{face, from};
        std::vector<int> todo{face};
        for (int steps = 0; steps < 8 && !todo.empty(); ++steps) {
            const int here = todo.back();
            todo.pop_back();
            for (const int e : topology().edgesOf(here)) {
                const BRepAdaptor_Curve curve(topology().edge(e));
                for (const double share : {0.0, 0.5, 1.0}) {
                    const gp_Pnt there =
                        curve.Value(curve.FirstParameter() + share * (curve.LastParameter() - curve.FirstParameter()));
                    most = std::max(most, gp_Vec(at, there).Dot(normal));
                }
                const int next = across(e, here);
                if (next != 0 && !wallsAt.contains(next) &&
                    edgeAngle(topology(), e, smoothInFiles).kind == EdgeKind::Smooth && seen.insert(next).second)
                    todo.push_back(next);
            }
        }
        return most;
    }
    /// Whether a side of a wall lies smoothly behind a face: the face is a round at a joint, or at a rim.
    [[nodiscard]] bool leadsToWall(int face, int from) const {
        for (const int e : topology().edgesOf(face)) {
            const int next = across(e, face);
            if (next != 0 && next != from && wallsAt.contains(next) &&
                edgeAngle(topology(), e, smoothInFiles).kind == EdgeKind::Smooth)
                return true;
        }
        return false;
    }
};

/// An end of a wall: an edge of one of its sides, and how far it is from there to the other side.
struct WallEnd {
    int edge = 0, face = 0, beyond = 0;
    std::size_t wall = 0;
    gp_Vec inwards;  // unit, from the edge's middle through the wall
};

/// Whether an edge of a wall's side is an end of the wall.
std::optional<WallEnd> endAt(const Body& body, std::size_t w, int face, int edge) {
    const int beyond = body.across(edge, face);
    if (beyond == 0 || body.wallsAt.contains(beyond)) return std::nullopt;
    const EdgeKind kind = edgeAngle(body.topology(), edge, smoothInFiles).kind;
    if (kind != EdgeKind::Concave && kind != EdgeKind::Smooth) return std::nullopt;
    if (kind == EdgeKind::Smooth && body.leadsToWall(beyond, face)) return std::nullopt;
    const TopoDS_Edge shape = body.topology().edge(edge);
    const BRepAdaptor_Curve curve(shape);
    const double middle = 0.5 * (curve.FirstParameter() + curve.LastParameter());
    gp_Pnt at;
    gp_Vec along;
    curve.D1(middle, at, along);
    const gp_Vec normal = outwardNormal(body.topology().face(face), shape, middle);
    if (along.SquareMagnitude() < Tolerance::divisible || normal.SquareMagnitude() < 0.5) return std::nullopt;
    // Out of the face: the face's material lies to the left of the edge as the face uses it.
    gp_Vec out = along.Normalized().Crossed(normal);
    for (const EdgeUse& use : body.topology().usesOf(edge))
        if (use.face == face && !use.forward) out.Reverse();
    const double thick = body.walls[w].thicknessAt(at);
    const gp_Pnt half = at.Translated(normal * (-0.5 * thick));
    if (body.riseBeyond(beyond, face, at, normal) > body.thickFrom.above * thick)
        return WallEnd{edge, face, beyond, w, -normal};
    for (const double steps : {0.5, 1.0, 1.5, 2.0, 3.0}) {
        const gp_Pnt there = half.Translated(out * (steps * thick));
        const double about = body.matter.thicknessAt(there);
        if (about > body.thickFrom.within * thick) return WallEnd{edge, face, beyond, w, -normal};
    }
    return std::nullopt;
}

/// Between two lines: planar when they lie in one plane, which is all that is asked for here.
TopoDS_Face quadrilateral(const gp_Pnt& a, const gp_Pnt& b, const gp_Pnt& c, const gp_Pnt& d) {
    BRepBuilderAPI_MakePolygon outline(a, b, c, d, true);
    return outline.IsDone() ? BRepBuilderAPI_MakeFace(outline.Wire(), true).Face() : TopoDS_Face();
}

/// The ends of a straight edge, each two thicknesses farther out. A block that stands on two walls in their corner has
/// an end on each of them, and the strips meet only within the matter of the corner. What they reach too far parts
/// nothing.
std::pair<gp_Pnt, gp_Pnt> pastItsEnds(const BRepAdaptor_Curve& line, double thickness) {
    const gp_Pnt a = line.Value(line.FirstParameter()), b = line.Value(line.LastParameter());
    const gp_Vec along = gp_Vec(a, b).Normalized() * (2.05 * thickness);
    return {a.Translated(-along), b.Translated(along)};
}

/// The strip from an edge through a flat wall. A straight edge with a flat beyond it is carried on in that flat, so
/// that the foot of a leaning rib is cut as the block under it runs; all else is cut square to the side.
TopoDS_Face stripThroughFlat(const Body& body, const WallEnd& end) {
    const Wall& wall = body.walls[end.wall];
    const BRepAdaptor_Curve curve(body.topology().edge(end.edge));
    if (curve.GetType() == GeomAbs_Line) {
        const auto [a, b] = pastItsEnds(curve, wall.thickness);
        gp_Vec way = end.inwards;
        const GeomAdaptor_Surface flat(BRep_Tool::Surface(body.topology().face(end.beyond)));
        if (flat.GetType() == GeomAbs_Plane) {
            gp_Vec within = gp_Vec(a, b).Normalized().Crossed(gp_Vec(flat.Plane().Axis().Direction()));
            if (within.Dot(way) < 0.0) within.Reverse();
            if (within.Dot(way) > 0.7) way = within;
        }
        // How far along it is to the other side, by how fast the wall's thickness falls or grows that way.
        const gp_Vec side = way - end.inwards * way.Dot(end.inwards);
        const auto far = [&](const gp_Pnt& from) {
            return wall.thicknessAt(from) / (way.Dot(end.inwards) - side.Dot(wall.growth));
        };
        return quadrilateral(a, b, b.Translated(way * far(b)), a.Translated(way * far(a)));
    }
    if (wall.growth.Magnitude() > Tolerance::noWay) return {};
    const TopoDS_Shape swept =
        BRepPrimAPI_MakePrism(body.topology().edge(end.edge), end.inwards * wall.thickness).Shape();
    return swept.ShapeType() == TopAbs_FACE ? TopoDS::Face(swept) : TopoDS_Face();
}

/// The strip through a round wall: a ring, or a piece of one, from a circle square to the axis; a rectangle from a
/// line.
TopoDS_Face stripThroughRound(const Body& body, const WallEnd& end, const gp_Ax1& axis) {
    const double thick = body.walls[end.wall].thickness;
    const BRepAdaptor_Curve curve(body.topology().edge(end.edge));
    const double first = curve.FirstParameter(), last = curve.LastParameter();
    const gp_Pnt middle = curve.Value(0.5 * (first + last));
    if (curve.GetType() == GeomAbs_Line) {
        const gp_Vec way = end.inwards * thick;
        const auto [a, b] = pastItsEnds(curve, thick);
        return quadrilateral(a, b, b.Translated(way), a.Translated(way));
    }
    if (curve.GetType() != GeomAbs_Circle ||
        !curve.Circle().Axis().Direction().IsParallel(axis.Direction(), Tolerance::sameDirection))
        return {};
    // Across a cone it is farther at one height than straight through.
    const gp_Vec outwards(curve.Circle().Location(), middle);
    const double lean = std::abs(end.inwards.Dot(outwards.Normalized()));
    const double change = (end.inwards.Dot(outwards) > 0.0 ? 1.0 : -1.0) * thick / std::max(lean, 0.1);
    gp_Circ other = curve.Circle();
    if (other.Radius() + change < 1e-3 * thick) return {};  // of the thickness: a smaller circle is drawn by no mesh
    other.SetRadius(other.Radius() + change);
    const gp_Pln plane(gp_Ax3(other.Position()));
    const gp_Circ &inner = change > 0.0 ? curve.Circle() : other, &outer = change > 0.0 ? other : curve.Circle();
    if (last - first > 2.0 * M_PI - Tolerance::parameter) {
        BRepBuilderAPI_MakeFace ring(plane, BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(outer).Edge()).Wire());
        ring.Add(TopoDS::Wire(BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(inner).Edge()).Wire().Reversed()));
        return ring.Face();
    }
    const auto at = [](const gp_Circ& circle, double u) { return ElCLib::Value(u, circle); };
    BRepBuilderAPI_MakeWire outline(BRepBuilderAPI_MakeEdge(outer, first, last).Edge(),
                                    BRepBuilderAPI_MakeEdge(at(outer, last), at(inner, last)).Edge(),
                                    BRepBuilderAPI_MakeEdge(inner, first, last).Edge(),
                                    BRepBuilderAPI_MakeEdge(at(inner, first), at(outer, first)).Edge());
    return outline.IsDone() ? BRepBuilderAPI_MakeFace(plane, outline.Wire()).Face() : TopoDS_Face();
}

TopoDS_Face stripAt(const Body& body, const WallEnd& end) {
    const GeomAdaptor_Surface side(BRep_Tool::Surface(body.topology().face(end.face)));
    switch (side.GetType()) {
        case GeomAbs_Plane:
            return stripThroughFlat(body, end);
        case GeomAbs_Cylinder:
            return stripThroughRound(body, end, side.Cylinder().Axis());
        case GeomAbs_Cone:
            return stripThroughRound(body, end, side.Cone().Axis());
        default:
            return {};
    }
}

/// Ends on both sides of a wall often ask for one and the same strip: the foot of a rib is met twice.
bool alreadyThere(const TopoDS_Face& strip, const std::vector<TopoDS_Face>& strips, double tolerance) {
    const Skin own = skinOf(strip);
    return std::any_of(strips.begin(), strips.end(), [&](const TopoDS_Face& other) {
        const Skin its = skinOf(other);
        return own.centre.Distance(its.centre) < 10.0 * tolerance &&
               std::abs(own.area - its.area) < Tolerance::sameSize * (own.area + its.area);
    });
}

/// How much of a cell's skin, without the strips, is sides of walls.
double shareOfWalls(const Body& body, const arrange::Chosen& cell) {
    const Incidence topology(cell.shape);
    const std::set<int> strips(cell.cutFaces.begin(), cell.cutFaces.end());
    const Descents faces(cell.lineage.at(0).faces());
    double walls = 0.0, all = 0.0;
    for (int f = 1; f <= topology.faceCount(); ++f) {
        if (strips.contains(f)) continue;
        const double area = areaOf(topology.face(f));
        all += area;
        const auto from = faces.ancestorsOf(f);
        if (!from.empty() && body.wallsAt.contains(from.front().before)) walls += area;
    }
    return all > 0.0 ? walls / all : 0.0;
}

}  // namespace

std::vector<Wall> wallsAfter(const std::vector<Wall>& walls, const PartLineage& lineage) {
    const Descents faces(lineage.faces());
    std::vector<Wall> after;
    for (const Wall& wall : walls) {
        Wall own = wall;
        for (auto* side : {&own.sideA, &own.sideB}) {
            std::set<int> heirs;
            for (const int f : *side)
                for (const Link& link : faces.heirsOf(f)) heirs.insert(link.after);
            side->assign(heirs.begin(), heirs.end());
        }
        if (!own.sideA.empty() && !own.sideB.empty()) after.push_back(std::move(own));
    }
    return after;
}

Result<ThickRegions> partThickRegions(const Part& part, const std::vector<Wall>& walls, const ThickFrom& thickFrom,
                                      double tolerance, Progress& progress) {
    const Matter matter(part.shape, progress);
    Body body{part, walls, {}, matter, thickFrom, tolerance};
    for (std::size_t w = 0; w < walls.size(); ++w)
        for (const auto* side : {&walls[w].sideA, &walls[w].sideB})
            for (const int f : *side) body.wallsAt[f].push_back(w);
    std::vector<TopoDS_Face> strips;
    for (const auto& [face, at] : body.wallsAt)
        for (const int e : part.incidence().edgesOf(face))
            for (const std::size_t w : at) {
                const auto end = endAt(body, w, face, e);
                if (!end) continue;
                const TopoDS_Face strip = stripAt(body, *end);
                if (!strip.IsNull() && !alreadyThere(strip, strips, tolerance)) strips.push_back(strip);
                break;  // of walls that share a side, the thinnest ends there
            }
    if (strips.empty()) return ThickRegions{};
    std::vector<arrange::Input> inputs{{part.shape, part.name}};
    std::set<int> cutters;
    for (const TopoDS_Face& strip : strips) {
        cutters.insert(static_cast<int>(inputs.size()));
        inputs.push_back({strip, fmt::format("end {} of a wall", inputs.size())});
    }
    const auto all = arrange::arrange(std::move(inputs), tolerance, progress);
    if (!all) return tl::unexpected(all.error());
    std::vector<int> thin, thick;
    for (const int cell : arrange::cellsIn(*all, 0)) {
        double thickestWall = 0.0;
        for (const auto& [piece, plus] : all->cells[static_cast<std::size_t>(cell)].sides)
            for (const arrange::Owner& owner : all->pieces[static_cast<std::size_t>(piece)].owners) {
                if (owner.input != 0) continue;
                const auto at = body.wallsAt.find(owner.number);
                if (at == body.wallsAt.end()) continue;
                // Of several walls that share a side the largest says how thick it is there.
                const std::size_t main =
                    *std::max_element(at->second.begin(), at->second.end(),
                                      [&](std::size_t a, std::size_t b) { return walls[a].area < walls[b].area; });
                thickestWall = std::max(thickestWall, walls[main].thickness);
            }
        bool isThick = thickestWall == 0.0;
        if (!isThick) {
            const auto alone = arrange::solidsOf(*all, {cell}, cutters);
            if (!alone) return tl::unexpected(alone.error());
            isThick = shareOfWalls(body, *alone) < 0.5 ||
                      Matter(alone->shape, progress).shareThickerThan(thickFrom.within * thickestWall) > thickShare;
        }
        (isThick ? thick : thin).push_back(cell);
    }
    if (thin.empty() || thick.empty()) return ThickRegions{std::nullopt, std::move(strips)};
    auto sheets = arrange::solidsOf(*all, thin, cutters);
    if (!sheets) return tl::unexpected(sheets.error());
    auto rest = arrange::solidsOf(*all, thick, cutters);
    if (!rest) return tl::unexpected(rest.error());
    PartedWalls parted;
    parted.thin = sheets->shape;
    parted.thick = rest->shape;
    parted.toThin = std::move(sheets->lineage.at(0));
    parted.toThick = std::move(rest->lineage.at(0));
    parted.thickVolume = rest->volume;
    parted.commonFaces = std::move(rest->cutFaces);
    return ThickRegions{std::move(parted), std::move(strips)};
}

}  // namespace rasoir::reduce
