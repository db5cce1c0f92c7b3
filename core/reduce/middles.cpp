#include "reduce/middles.h"

#include <fmt/format.h>

#include <Bnd_Box.hxx>
#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <BRepBndLib.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepTools.hxx>
#include <BRepTopAdaptor_FClass2d.hxx>
#include <ElSLib.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <gp_Cone.hxx>
#include <gp_Cylinder.hxx>
#include <gp_Pln.hxx>
#include <gp_Torus.hxx>
#include <TopoDS_Shell.hxx>

#include "arrange/choice.h"
#include "arrange/maker.h"
#include "arrange/merging.h"
#include "geometry/curves.h"
#include "geometry/face_points.h"
#include "geometry/integrals.h"
#include "model/lineage_builder.h"
#include "reduce/smooth_middles.h"
#include "reduce/wall_steps.h"

// 1. What goes into the arrangement: the solid; the middle of each wall, carried on past the solid's box; sheets of
// walls
//    that run on into each other, made as they are (smooth_middles); cutters where a middle has to end (wall_steps).
// 2. Of the pieces that lie in the solid those stay that lie between both sides of their wall for the most part. Then
//    what they surround on all sides, under the feet of ribs; then the strips by which smooth sheets end short of
//    others.
// 3. What nothing parts any more becomes one (arrange/merging), and gets thickness, offset and lineage of its wall.

namespace rasoir::reduce {
namespace {

/// The middle of a wall as a face that reaches beyond the box of the body on all sides.
TopoDS_Face carriedOn(const Wall& wall, const Bnd_Box& box) {
    const GeomAdaptor_Surface adaptor(wall.middle);
    const gp_Pnt low = box.CornerMin(), high = box.CornerMax();
    double u0 = 1e300, u1 = -1e300, v0 = 1e300, v1 = -1e300;
    for (int corner = 0; corner < 8; ++corner) {
        const gp_Pnt p(corner & 1 ? high.X() : low.X(), corner & 2 ? high.Y() : low.Y(),
                       corner & 4 ? high.Z() : low.Z());
        double u = 0.0, v = 0.0;
        switch (adaptor.GetType()) {
            case GeomAbs_Plane:
                ElSLib::Parameters(adaptor.Plane(), p, u, v);
                break;
            case GeomAbs_Cylinder:
                ElSLib::Parameters(adaptor.Cylinder(), p, u, v);
                break;
            case GeomAbs_Cone:
                ElSLib::Parameters(adaptor.Cone(), p, u, v);
                break;
            default:
                break;
        }
        u0 = std::min(u0, u);
        u1 = std::max(u1, u);
        v0 = std::min(v0, v);
        v1 = std::max(v1, v);
    }
    const double margin = 0.05 * low.Distance(high);
    constexpr double exact = 1e-7;
    switch (adaptor.GetType()) {
        case GeomAbs_Plane:
            return BRepBuilderAPI_MakeFace(wall.middle, u0 - margin, u1 + margin, v0 - margin, v1 + margin, exact);
        case GeomAbs_Cylinder:
        case GeomAbs_Cone: {
            // The seam goes where the wall is not: opposite the point midway in it. A face all round is closed only
            // where it begins at the surface's own zero, so the surface is turned, not the range.
            const gp_Ax3 place =
                adaptor.GetType() == GeomAbs_Cylinder ? adaptor.Cylinder().Position() : adaptor.Cone().Position();
            const Handle(Geom_Surface) turned = Handle(Geom_Surface)::DownCast(wall.middle->Copy());
            double u = 0.0, v = 0.0;
            if (adaptor.GetType() == GeomAbs_Cylinder)
                ElSLib::Parameters(adaptor.Cylinder(), wall.where, u, v);
            else
                ElSLib::Parameters(adaptor.Cone(), wall.where, u, v);
            turned->Rotate(gp_Ax1(place.Location(), place.Direction()), place.Direct() ? u + M_PI : -(u + M_PI));
            double first = v0 - margin, last = v1 + margin;
            if (adaptor.GetType() == GeomAbs_Cone) {
                // Not past the tip, where it would go on as another cone.
                const double tip = -adaptor.Cone().RefRadius() / std::sin(adaptor.Cone().SemiAngle());
                (v > tip ? first : last) = v > tip ? std::max(tip, first) : std::min(tip, last);
            }
            return BRepBuilderAPI_MakeFace(turned, 0.0, 2.0 * M_PI, first, last, exact);
        }
        case GeomAbs_Torus: {
            // As for a cylinder; and round the tube not all the way, open where the wall is not.
            constexpr double reach = 2.6;
            const gp_Torus torus = adaptor.Torus();
            const Handle(Geom_Surface) turned = Handle(Geom_Surface)::DownCast(wall.middle->Copy());
            double u = 0.0, v = 0.0;
            ElSLib::Parameters(torus, wall.where, u, v);
            turned->Rotate(torus.Axis(), torus.Direct() ? u + M_PI : -(u + M_PI));
            return BRepBuilderAPI_MakeFace(turned, 0.0, 2.0 * M_PI, v - reach, v + reach, exact);
        }
        default:
            return BRepBuilderAPI_MakeFace(wall.middle, exact);
    }
}

/// Under the foot of what stands on a wall there is no skin of its own, so that pieces there are not between its sides.
/// What the wall's kept pieces surround on all sides is of it nevertheless.
/// `wallsOfPiece`: the walls that a piece within the solid can be of.
void adoptHoles(const arrange::Arrangement& all, std::vector<int>& kept, std::map<int, int>& wallOf,
                const std::function<std::set<int>(int)>& wallsOfPiece) {
    std::map<int, std::vector<int>> piecesAt;  // by arc
    std::map<int, std::set<int>> couldBe;      // not kept: walls
    for (int p = 0; p < static_cast<int>(all.pieces.size()); ++p) {
        if (!wallOf.contains(p)) {
            auto walls = wallsOfPiece(p);
            if (walls.empty()) continue;
            couldBe[p] = std::move(walls);
        }
        for (const arrange::Use& use : all.pieces[static_cast<std::size_t>(p)].uses) piecesAt[use.arc].push_back(p);
    }
    std::set<int> seen;
    for (const auto& [first, walls] : couldBe)
        for (const int wall : walls) {
            if (wallOf.contains(first) || !seen.insert(first).second) continue;
            std::vector<int> hole{first};
            bool surrounded = true;
            for (std::size_t i = 0; i < hole.size(); ++i)
                for (const arrange::Use& use : all.pieces[static_cast<std::size_t>(hole[i])].uses) {
                    bool closed = false;
                    for (const int q : piecesAt[use.arc]) {
                        if (q == hole[i]) continue;
                        const auto known = wallOf.find(q);
                        closed = closed || (known != wallOf.end() && known->second == wall);
                        if (const auto other = couldBe.find(q);
                            known == wallOf.end() && other != couldBe.end() && other->second.contains(wall)) {
                            closed = true;
                            if (seen.insert(q).second) hole.push_back(q);
                        }
                    }
                    surrounded = surrounded && closed;
                }
            if (!surrounded) continue;
            for (const int p : hole) {
                kept.push_back(p);
                wallOf[p] = wall;
            }
        }
}

}  // namespace

Result<Sheets> sheetsOf(const Part& part, const std::vector<Wall>& walls, double tolerance, Progress& progress) {
    Bnd_Box box;
    BRepBndLib::Add(part.shape, box, false);
    std::vector<arrange::Input> inputs{{part.shape, part.name}};
    std::vector<std::map<int, int>> wallsOf{{}};  // by input: its faces' walls
    const SmoothMiddles smooth = smoothMiddles(part, walls);
    std::vector<std::unique_ptr<WallProbe>> probes;
    std::vector<bool> separate;
    for (std::size_t w = 0; w < walls.size(); ++w) {
        probes.push_back(std::make_unique<WallProbe>(part, walls[w]));
        separate.push_back(smooth.carriedOn[w] != 0);
    }
    const WallSteps steps = findSteps(part, walls, probes, separate);
    for (std::size_t w = 0; w < walls.size(); ++w) {
        // A wall beyond a step has the middle of the one that it is laid on.
        if (smooth.carriedOn[w] == 0 || steps.base[w] != static_cast<int>(w)) continue;
        inputs.push_back({carriedOn(walls[w], box), fmt::format("wall {}", w + 1)});
        wallsOf.push_back({{1, static_cast<int>(w)}});
    }
    // After those: where one of them lies on such a sheet, what they have in common is on the surface that goes on.
    const int firstSmooth = static_cast<int>(inputs.size());
    for (const SmoothMiddle& sheet : smooth.sheets) {
        inputs.push_back({sheet.shape, "walls that run on into each other"});
        wallsOf.push_back(sheet.wallOf);
    }
    const int afterSmooth = static_cast<int>(inputs.size());
    for (const TopoDS_Face& cutter : steps.cutters) {
        inputs.push_back({cutter, "the end of a middle", {}, {}, arrange::Meets::Sheets});
        wallsOf.push_back({});
    }
    // The walls that a piece can be of; none where it is the solid's skin alone.
    const auto wallsOfPiece = [&](const arrange::Piece& piece) {
        std::set<int> own;
        for (const arrange::Owner& owner : piece.owners) {
            const auto& faces = wallsOf[static_cast<std::size_t>(owner.input)];
            if (const auto wall = faces.find(owner.number); wall != faces.end()) own.insert(wall->second);
        }
        return own;
    };
    // Freeform walls that run on into each other and end at upright rims need no arranging, which would be long.
    if (inputs.size() == 2 && firstSmooth == 1 &&
        std::all_of(walls.begin(), walls.end(), [](const Wall& wall) { return wall.freeform; }))
        inputs[1].meets = arrange::Meets::Nothing;
    auto all = arrange::arrange(std::move(inputs), tolerance, progress);
    if (!all) return tl::unexpected(all.error());
    const auto inSolid = [&](int cell) { return all->cells[cell].inputs.contains(0); };
    std::vector<int> kept;
    std::map<int, int> wallOf;  // piece: wall
    for (std::size_t p = 0; p < all->pieces.size(); ++p) {
        const arrange::Piece& piece = all->pieces[p];
        if (piece.owners.front().input == 0 || !inSolid(piece.plusCell) || !inSolid(piece.minusCell)) continue;
        std::set<int> own = wallsOfPiece(piece);
        if (own.empty()) continue;
        for (std::size_t w = 0; w < walls.size(); ++w)
            if (own.contains(steps.base[w])) own.insert(static_cast<int>(w));
        const auto keep = [&](int wall) {
            kept.push_back(static_cast<int>(p));
            wallOf[static_cast<int>(p)] = wall;
        };
        // What nothing has divided is where it was made.
        if (piece.whole) {
            keep(*own.begin());
            continue;
        }
        // A piece belongs to a wall when most of it lies between its sides. Most: a thin rib on a thick plate reaches
        // into the plate by half of that.
        const std::vector<gp_Pnt> points =
            pointsWithin(arrange::Maker(*all, {static_cast<int>(p)}).face(static_cast<int>(p), false));
        for (const int w : own) {
            const auto count = std::count_if(points.begin(), points.end(), [&](const gp_Pnt& point) {
                return probes[static_cast<std::size_t>(w)]->between(
                    onMiddle(walls[static_cast<std::size_t>(w)], point));
            });
            if (points.empty() || 2 * count < static_cast<std::ptrdiff_t>(points.size())) continue;
            keep(w);
            break;
        }
    }
    adoptHoles(*all, kept, wallOf, [&](int p) {
        const arrange::Piece& piece = all->pieces[static_cast<std::size_t>(p)];
        return piece.owners.front().input != 0 && !piece.whole && inSolid(piece.plusCell) && inSolid(piece.minusCell)
                   ? wallsOfPiece(piece)
                   : std::set<int>();
    });
    // A sheet of walls that run on into each other ends at the skin that it stands on, half a thickness short of the
    // middle there. The strip between is of the wall that it carries on when it leads to what another wall has kept.
    const auto endsSmooth = [&](const arrange::Owner& owner) {
        return owner.input >= firstSmooth && owner.input < afterSmooth &&
               all->topology[static_cast<std::size_t>(owner.input)]->facesAt(owner.number) == 1;
    };
    std::map<int, std::set<int>> wallsAtArc, shortAtArc;  // kept there; and by those whose sheet ends there
    for (const int p : kept)
        for (const arrange::Use& use : all->pieces[static_cast<std::size_t>(p)].uses) {
            const auto& owners = all->arcs[static_cast<std::size_t>(use.arc)].owners;
            wallsAtArc[use.arc].insert(wallOf[p]);
            if (std::any_of(owners.begin(), owners.end(), endsSmooth)) shortAtArc[use.arc].insert(wallOf[p]);
        }
    for (std::size_t p = 0; p < all->pieces.size(); ++p) {
        const arrange::Piece& piece = all->pieces[p];
        if (piece.owners.front().input == 0 || piece.whole || wallOf.contains(static_cast<int>(p)) ||
            !inSolid(piece.plusCell) || !inSolid(piece.minusCell))
            continue;
        for (const int w : wallsOfPiece(piece)) {
            bool begins = false, leads = false;
            for (const arrange::Use& use : piece.uses) {
                const auto sheet = shortAtArc.find(use.arc);
                begins = begins || (sheet != shortAtArc.end() && sheet->second.contains(w));
                const auto others = wallsAtArc.find(use.arc);
                leads = leads || (others != wallsAtArc.end() && !others->second.contains(w));
            }
            if (!begins || !leads) continue;
            kept.push_back(static_cast<int>(p));
            wallOf[static_cast<int>(p)] = w;
            break;
        }
    }
    if (kept.empty())
        return fail(ProblemKind::NotPossible,
                    fmt::format("The {} of \"{}\" {} on into thicker regions of it: no piece of a middle surface lies "
                                "between both sides alone.",
                                walls.size() == 1 ? "wall" : "walls", part.name, walls.size() == 1 ? "runs" : "run"),
                    "Cut the thick region off in Divide, then take what is left.",
                    {part.name, walls.front().sideA, walls.front().where});
    // Middles of other walls run on across this one, and what they have parted there is one face all the same.
    const arrange::Merged merged =
        arrange::merged(*all, kept, [&](int a, int b) { return wallOf.at(a) == wallOf.at(b); });
    for (std::size_t i = 0; i < merged.pieces.size(); ++i) wallOf[merged.pieces[i]] = wallOf.at(merged.from[i].front());
    kept = merged.pieces;
    Sheets sheets;
    arrange::Maker maker(*all, kept);
    // Connected over arcs, whatever their number of faces: a T is one sheet.
    std::map<int, int> group;
    const std::function<int(int)> root = [&](int p) {
        while (group[p] != p) p = group[p];
        return p;
    };
    std::map<int, std::vector<int>> atArc;
    for (const int p : kept) {
        group[p] = p;
        for (const arrange::Use& use : all->pieces[p].uses) atArc[use.arc].push_back(p);
    }
    for (const auto& [arc, pieces] : atArc) {
        for (const int p : pieces) group[root(p)] = root(pieces.front());
        sheets.joints += pieces.size() > 2;
    }
    const BRep_Builder builder;
    std::map<int, TopoDS_Shell> shells;
    std::map<int, TopoDS_Face> faces;
    for (const int p : kept) {
        TopoDS_Shell& shell = shells[root(p)];
        if (shell.IsNull()) builder.MakeShell(shell);
        faces[p] = maker.face(static_cast<int>(p), false);
        builder.Add(shell, faces[p]);
    }
    sheets.connected = static_cast<int>(shells.size());
    if (shells.size() == 1) {
        sheets.shape = shells.begin()->second;
    } else {
        TopoDS_Compound compound;
        builder.MakeCompound(compound);
        for (const auto& [first, shell] : shells) builder.Add(compound, shell);
        sheets.shape = compound;
    }
    LineageBuilder lineage(part.incidence(), sheets.shape);
    const Incidence now(sheets.shape);
    for (const auto& [p, face] : faces) {
        const Wall& wall = walls[static_cast<std::size_t>(wallOf[p])];
        for (const auto* side : {&wall.sideA, &wall.sideB})
            for (const int f : *side) lineage.face(f, face);
        const double area = areaOf(face);
        const gp_Pnt centre = skinOf(face).centre;
        Thickness own;
        own.at = wall.thicknessAt(centre);
        own.from = centre;
        own.gradient = wall.growth;
        if (steps.base[static_cast<std::size_t>(wallOf[p])] != wallOf[p]) {
            const Handle(Geom_Surface) surface = BRep_Tool::Surface(face);
            const gp_Dir normal = GeomAdaptor_Surface(surface).Plane().Position().Direct()
                                      ? GeomAdaptor_Surface(surface).Plane().Axis().Direction()
                                      : GeomAdaptor_Surface(surface).Plane().Axis().Direction().Reversed();
            own.offset = gp_Vec(centre, onMiddle(wall, centre))
                             .Dot(gp_Vec(face.Orientation() == TopAbs_REVERSED ? normal.Reversed() : normal));
        }
        sheets.thickness[now.faceNumber(face)] = own;
        sheets.area += area;
        sheets.mass += area * own.at;
    }
    sheets.lineage = lineage.finish();
    return sheets;
}

}  // namespace rasoir::reduce
