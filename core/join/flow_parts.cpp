#include "join/flow_parts.h"

#include <fmt/format.h>

#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepBndLib.hxx>
#include <BRepBuilderAPI_Copy.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakePolygon.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <BRepPrimAPI_MakeRevol.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>

#include "arrange/choice.h"
#include "common/text.h"
#include "common/tolerance.h"
#include "geometry/integrals.h"
#include "geometry/widest_way.h"
#include "model/places.h"

// The passage is looked for between the walls of the fluid alone: a lid is no wall, and a ball as wide as the mouth
// may stand in it. So that no way leads out through one lid and in through the other, the air in front of each is shut.

namespace rasoir::join {
namespace {

/// The normal of a flat face, away from its body; none for others.
std::optional<gp_Dir> flatNormal(const TopoDS_Face& face) {
    const BRepAdaptor_Surface surface(face, false);
    if (surface.GetType() != GeomAbs_Plane) return std::nullopt;
    const gp_Ax3 frame = surface.Plane().Position();
    const gp_Dir normal = frame.Direct() ? frame.Direction() : frame.Direction().Reversed();
    return face.Orientation() == TopAbs_REVERSED ? normal.Reversed() : normal;
}

Model modelOfOne(const TopoDS_Shape& shape) {
    return aloneInPlace(std::make_shared<Part>("space", shape));
}

TopoDS_Compound together(const Incidence& topology, const std::function<bool(int)>& isWanted) {
    TopoDS_Compound some;
    const BRep_Builder builder;
    builder.MakeCompound(some);
    for (int f = 1; f <= topology.faceCount(); ++f)
        if (isWanted(f)) builder.Add(some, topology.face(f));
    return some;
}

/// The ring between a whole piece of a cylinder and the other one of a pin and its bore.
std::optional<TopoDS_Shape> ringBetween(const TopoDS_Face& face, const TopoDS_Face& other, double width) {
    const BRepAdaptor_Surface surface(face, true), beyond(other, false);
    if (surface.GetType() != GeomAbs_Cylinder || beyond.GetType() != GeomAbs_Cylinder) return std::nullopt;
    const gp_Cylinder own = surface.Cylinder(), far = beyond.Cylinder();
    const double u0 = surface.FirstUParameter(), u1 = surface.LastUParameter(), v0 = surface.FirstVParameter(),
                 v1 = surface.LastVParameter(), length = v1 - v0;
    const double r = own.Radius();
    constexpr double sameAxis = 1e-4;  // [rad]
    if (!own.Axis().IsParallel(far.Axis(), sameAxis) ||
        std::abs(areaOf(face) / (r * (u1 - u0) * length) - 1.0) > Tolerance::sameSize)
        return std::nullopt;
    const gp_Pnt middle = own.Location().Translated(gp_Vec(own.Axis().Direction()) * (0.5 * (v0 + v1)));
    const double lean = std::min(own.Axis().Angle(far.Axis()), M_PI - own.Axis().Angle(far.Axis()));
    const double aside = gp_Lin(far.Axis()).Distance(middle) + 0.5 * length * lean;
    const bool outwards = far.Radius() > r;
    const double reach = outwards ? far.Radius() + aside : far.Radius() - aside;
    if (!(reach > 0.0) || std::abs(reach - r) > 4.0 * width) return std::nullopt;
    // A rectangle turned about the axis.
    const gp_Ax3 frame = own.Position();
    const auto at = [&](double radius, double v) {
        return frame.Location().Translated(gp_Vec(frame.XDirection()) * radius + gp_Vec(frame.Direction()) * v);
    };
    const TopoDS_Face slice =
        BRepBuilderAPI_MakeFace(
            BRepBuilderAPI_MakePolygon(at(r, v0), at(reach, v0), at(reach, v1), at(r, v1), true).Wire(), true)
            .Face();
    const gp_Ax1 axis(frame.Location(), frame.Direction());
    if (u1 - u0 > 2.0 * M_PI - Tolerance::parameter) return BRepPrimAPI_MakeRevol(slice, axis).Shape();
    const double turn = frame.Direct() ? 1.0 : -1.0;
    gp_Trsf begin;
    begin.SetRotation(axis, turn * u0);
    return BRepPrimAPI_MakeRevol(slice.Moved(TopLoc_Location(begin)), axis, turn * (u1 - u0)).Shape();
}

}  // namespace

std::optional<TopoDS_Shape> plugFor(const Model& model, const Leak& leak) {
    if (leak.placeA >= model.occurrences.size() || leak.placeB >= model.occurrences.size()) return std::nullopt;
    const auto faceOf = [&model](std::size_t place, int face) {
        const Occurrence& own = model.occurrences[place];
        return TopoDS::Face(model.parts[own.part]->incidence().face(face).Moved(TopLoc_Location(own.placement)));
    };
    std::array<TopoDS_Face, 2> faces{faceOf(leak.placeA, leak.faceA), faceOf(leak.placeB, leak.faceB)};
    if (areaOf(faces[1]) < areaOf(faces[0])) std::swap(faces[0], faces[1]);
    for (const int own : {0, 1}) {
        const TopoDS_Face &plug = faces[static_cast<std::size_t>(own)],
                          &other = faces[static_cast<std::size_t>(1 - own)];
        if (auto ring = ringBetween(plug, other, leak.width)) return ring;
        const auto normal = flatNormal(plug);
        if (!normal) continue;
        // As far as the other one goes before it, where that is flat; a little farther ends in its material.
        const auto opposite = flatNormal(other);
        if (!opposite || normal->Dot(*opposite) > -0.9) continue;
        double reach = 0.0;
        const gp_Pln beyond = BRepAdaptor_Surface(other).Plane();
        for (TopExp_Explorer it(plug, TopAbs_VERTEX); it.More(); it.Next()) {
            const gp_Pnt corner = BRep_Tool::Pnt(TopoDS::Vertex(it.Current()));
            const double slope = gp_Vec(*normal).Dot(gp_Vec(beyond.Axis().Direction()));
            reach = std::max(reach, gp_Vec(corner, beyond.Location()).Dot(gp_Vec(beyond.Axis().Direction())) / slope);
        }
        if (!(reach > 0.0) || reach > 4.0 * leak.width) continue;
        return BRepPrimAPI_MakePrism(plug, gp_Vec(*normal) * reach).Shape();
    }
    return std::nullopt;
}

Result<LengthenedSpace> lengthened(const TopoDS_Shape& space, const std::vector<LongLid>& lids,
                                   const std::vector<arrange::Input>& walls, double tolerance, Progress& progress) {
    const Incidence topology(space);
    std::vector<arrange::Input> inputs{{space, "the flow space"}};
    struct Piece {
        std::size_t lid;
        gp_Pln end;  // where it ends
    };
    std::vector<Piece> pieces;  // in step with the inputs after the first
    for (const LongLid& lid : lids)
        for (const int f : lid.faces) {
            const TopoDS_Face face = topology.face(f);
            const auto normal = flatNormal(face);
            if (!normal)
                return fail(ProblemKind::NotPossible,
                            fmt::format("Lid {} is not flat, so it cannot be lengthened straight.", lid.lid + 1),
                            "Cut the body there by a plane first, or do not lengthen.", {{}, {}, skinOf(face).centre});
            const gp_Vec along = gp_Vec(*normal) * lid.by;
            pieces.push_back({lid.lid, gp_Pln(skinOf(face).centre.Translated(along), *normal)});
            inputs.push_back(
                {BRepPrimAPI_MakePrism(face, along).Shape(), fmt::format("what lengthens lid {}", lid.lid + 1)});
        }
    const std::size_t own = inputs.size();
    inputs.insert(inputs.end(), walls.begin(), walls.end());
    const auto all = arrange::arrange(std::move(inputs), tolerance, progress);
    if (!all) return tl::unexpected(all.error());
    std::vector<int> cells;
    for (int c = 0; c < static_cast<int>(all->cells.size()); ++c) {
        const std::set<int>& in = all->cells[static_cast<std::size_t>(c)].inputs;
        if (in.empty() || *in.begin() >= static_cast<int>(own)) continue;
        if (*in.rbegin() >= static_cast<int>(own))
            return fail(
                ProblemKind::NotPossible,
                fmt::format("\"{}\" is in the way of {}.", all->inputs[static_cast<std::size_t>(*in.rbegin())].name,
                            all->inputs[static_cast<std::size_t>(*in.begin())].name),
                "Lengthen by less, or set that body aside.");
        cells.push_back(c);
    }
    const auto made = arrange::solidsOf(*all, cells);
    if (!made) return tl::unexpected(made.error());
    if (made->solids != 1)
        return fail(ProblemKind::NotPossible, "Lengthened, the flow space would fall into pieces.",
                    "Lengthen by less, or other lids.");
    LengthenedSpace result;
    result.shape = made->shape;
    result.volume = made->volume;
    const Incidence now(made->shape);
    for (const auto& [piece, number] : made->faceOfPiece)
        for (const arrange::Owner& owner : all->pieces[static_cast<std::size_t>(piece)].owners) {
            if (owner.input == 0) result.faces[number] = owner.number;
            if (owner.input < 1 || owner.input > static_cast<int>(pieces.size())) continue;
            const Piece& added = pieces[static_cast<std::size_t>(owner.input) - 1];
            const auto normal = flatNormal(now.face(number));
            const bool end =
                normal && normal->IsParallel(added.end.Axis().Direction(), Tolerance::sameDirection) &&
                added.end.Distance(skinOf(now.face(number)).centre) < Tolerance::samePlace + 10.0 * tolerance;
            (end ? result.ends : result.sides)[added.lid].insert(number);
        }
    return result;
}

std::optional<Leak> narrowestPassage(const TopoDS_Shape& space, const std::vector<std::set<int>>& lids, double finest,
                                     Progress& progress) {
    if (lids.size() < 2) return std::nullopt;
    // A copy: the triangles made here are finer than those that will be drawn.
    const Incidence topology(BRepBuilderAPI_Copy(space, false, false).Shape());
    std::map<int, std::size_t> lidOf;
    for (std::size_t l = 0; l < lids.size(); ++l)
        for (const int f : lids[l]) lidOf[f] = l;
    Bnd_Box box;
    BRepBndLib::Add(space, box, false);
    if (box.IsVoid()) return std::nullopt;
    box.SetGap(0.0);
    box.Enlarge(0.02 * std::sqrt(box.SquareExtent()));
    const Model walls = modelOfOne(together(topology, [&](int f) { return !lidOf.contains(f); }));
    std::vector<std::unique_ptr<Model>> mouths;
    std::vector<std::unique_ptr<RayField>> fields;
    std::vector<double> wide;  // hydraulic diameters
    const double deviation = 0.1 * finest / std::sqrt(box.SquareExtent());
    for (const std::set<int>& lid : lids) {
        mouths.push_back(
            std::make_unique<Model>(modelOfOne(together(topology, [&](int f) { return lid.contains(f); }))));
        fields.push_back(std::make_unique<RayField>(*mouths.back(), std::vector<std::size_t>(), deviation, progress));
        double area = 0.0, round = 0.0;
        for (const int f : lid) {
            area += areaOf(topology.face(f));
            for (const int e : topology.edgesOf(f)) round += lengthOf(topology.edge(e));
        }
        wide.push_back(round > 0.0 ? 4.0 * area / round : 0.0);
    }
    const RayField field(walls, {}, deviation, progress);
    if (progress.cancelled() || field.triangles().empty()) return std::nullopt;
    constexpr std::size_t mostCells = 150'000;  // a second or so
    WidestWay ways(field, box, {}, 0.5 * finest, mostCells);
    // In front of a lid, as seen from the fluid, is no way.
    ways.block([&](const gp_Pnt& at, const RayHit&) {
        for (std::size_t l = 0; l < fields.size(); ++l)
            if (const auto near = fields[l]->nearest(at, 0.75 * wide[l]);
                near && gp_Vec(near->at, at).Dot(near->normal) > 0.0)
                return true;
        return false;
    });
    // From the middle of the first lid, a little inwards.
    const TopoDS_Face first = topology.face(*lids.front().begin());
    const auto begin = fields.front()->nearest(skinOf(first).centre);
    if (!begin) return std::nullopt;
    const gp_Pnt from = begin->at.Translated(begin->normal * (-0.1 * wide.front()));
    // The widest places are taken first, so the lid that is reached last has the narrowest way.
    std::set<std::size_t> missing;
    for (std::size_t l = 1; l < lids.size(); ++l) missing.insert(l);
    const auto there = [&](const gp_Pnt& at) {
        std::erase_if(missing, [&](std::size_t l) { return fields[l]->nearest(at, 0.2 * wide[l]).has_value(); });
        return missing.empty();
    };
    WidestWay::Way way;
    if (ways.search(from, there, way, progress) != WidestWay::End::Arrived) return std::nullopt;
    return narrowestPlace(field, way);
}

}  // namespace rasoir::join
