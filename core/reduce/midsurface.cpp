#include "reduce/midsurface.h"

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
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>
#include <TopoDS_Iterator.hxx>
#include <TopoDS_Shell.hxx>

#include "arrange/choice.h"
#include "arrange/maker.h"
#include "arrange/merging.h"
#include "geometry/curves.h"
#include "geometry/face_points.h"
#include "geometry/integrals.h"
#include "join/pairs.h"
#include "model/lineage_builder.h"
#include "model/places.h"
#include "reduce/smooth_middles.h"
#include "reduce/thick_regions.h"
#include "reduce/wall_steps.h"

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

/// Corner terms and rounds at joints are a few per cent; what loses more has not been understood.
constexpr double leastKept = 0.85;
/// At corners and feet of ribs material counts twice; what counts more has taken one place for two walls.
constexpr double mostKept = 1.25;

struct Sheets {
    TopoDS_Shape shape;
    PartLineage lineage;
    std::map<int, Thickness> thickness;  // by face
    int connected = 0;
    double area = 0.0, mass = 0.0;  // [mm^2], [mm^3] area times thickness
    int joints = 0;                 // edges of three faces and more
};

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

/// A part with another shape, with what is known of the things that it comes from.
std::shared_ptr<Part> remade(const Part& part, const TopoDS_Shape& shape, const PartLineage& lineage) {
    auto fresh = part.copy();
    fresh->setShape(shape);
    fresh->known = {};
    fresh->meantOpen.clear();
    fresh->sharpened.clear();
    fresh->inherit(part, lineage, gp_Trsf());
    return fresh;
}

/// One solid as sheets, with what of it stays solid.
struct ReducedSolid {
    Sheets sheets;
    std::optional<PartedWalls> parted;
    double volume = 0.0;  // [mm^3] of the solid
    [[nodiscard]] double kept() const { return (sheets.mass + (parted ? parted->thickVolume : 0.0)) / volume; }
};

Result<ReducedSolid> reduceSolid(const Part& solid, const std::vector<Wall>& walls, double tolerance,
                                 Progress& progress) {
    auto parted = partThickRegions(solid, walls, tolerance, progress);
    if (!parted) return tl::unexpected(parted.error());
    auto sheets =
        *parted ? sheetsOf(Part(solid.name, (*parted)->thin), wallsAfter(walls, (*parted)->toThin), tolerance, progress)
                : sheetsOf(solid, walls, tolerance, progress);
    if (!sheets) return tl::unexpected(sheets.error());
    ReducedSolid made{std::move(*sheets), std::move(*parted), volumeOf(solid.shape)};
    const auto refused = [&](const char* what, const char* hint) {
        return fail(ProblemKind::NotPossible,
                    fmt::format("Sheets of the walls that were found would be {} % of the volume of \"{}\": {}.",
                                readable(100.0 * made.kept(), 2), solid.name, what),
                    hint, {solid.name, walls.front().sideA, walls.front().where});
    };
    if (made.kept() < leastKept)
        return refused("the rest of it would be lost",
                       "Take thicker or doubtful walls too, or cut off in Divide what shall be sheets.");
    if (made.kept() > mostKept)
        return refused("much of it would count twice",
                       "Leave out walls that are the same matter seen across another way.");
    if (made.parted) made.sheets.lineage = chained(made.parted->toThin, made.sheets.lineage);
    return made;
}

/// A part of several solids, each by itself: middles of one would be carried on across the others for nothing. Solids
/// that are not thin, or cannot be reduced, stay solid.
struct ReducedPart {
    Sheets sheets;
    TopoDS_Shape solid;  // null: nothing stays so
    PartLineage toSolid;
    double solidVolume = 0.0, volume = 0.0;  // [mm^3]
    bool cutOff = false;                     // some of it is a thick region beside sheets of its own
    std::size_t walls = 0;
    std::vector<std::string> notes;
    std::optional<Problem> refused;  // the first one
};

/// Bodies put together, and how their things come from those of the part.
class Gathered {
public:
    explicit Gathered(const Part& part) : m_part(part) { BRep_Builder().MakeCompound(m_all); }

    void add(const TopoDS_Shape& made, const Incidence& from, int body, const PartLineage& lineage) {
        BRep_Builder().Add(m_all, made);
        m_added.push_back({std::make_shared<const Incidence>(made), from, body, lineage});
    }
    [[nodiscard]] bool isEmpty() const { return m_added.empty(); }
    /// The shape, and the lineage with the part's and its own numbers. `renumber`: told each face's number as added and
    /// as it is.
    TopoDS_Shape finish(PartLineage& lineage, const std::function<void(std::size_t, int, int)>& renumber) const {
        const TopoDS_Shape shape = m_added.size() == 1 ? onlyOne() : TopoDS_Shape(m_all);
        const Incidence all(shape);
        const Incidence& part = m_part.incidence();
        int bodies = 0;
        for (std::size_t i = 0; i < m_added.size(); ++i) {
            const Added& own = m_added[i];
            for (const EntityKind kind : entityKinds)
                for (Link link : own.lineage.of(kind)) {
                    switch (kind) {
                        case EntityKind::Body:
                            link.before = own.body;
                            link.after += bodies;
                            break;
                        case EntityKind::Face:
                            link.before = part.faceNumber(own.from.face(link.before));
                            link.after = all.faceNumber(own.made->face(link.after));
                            break;
                        case EntityKind::Edge:
                            link.before = part.edgeNumber(own.from.edge(link.before));
                            link.after = all.edgeNumber(own.made->edge(link.after));
                            break;
                        case EntityKind::Vertex:
                            link.before = part.vertexNumber(own.from.vertex(link.before));
                            link.after = all.vertexNumber(own.made->vertex(link.after));
                            break;
                    }
                    lineage.of(kind).push_back(link);
                }
            bodies += own.made->bodyCount();
            if (renumber)
                for (int f = 1; f <= own.made->faceCount(); ++f) renumber(i, f, all.faceNumber(own.made->face(f)));
        }
        return shape;
    }

private:
    struct Added {
        std::shared_ptr<const Incidence> made;
        Incidence from;
        int body;
        PartLineage lineage;
    };
    const Part& m_part;
    TopoDS_Compound m_all;
    std::vector<Added> m_added;

    [[nodiscard]] TopoDS_Shape onlyOne() const { return TopoDS_Iterator(m_all).Value(); }
};

Result<ReducedPart> reducePart(const Part& part, const std::vector<Wall>& walls, double tolerance, Progress& progress) {
    ReducedPart made;
    const Incidence& topology = part.incidence();
    Gathered sheets(part), solids(part);
    std::vector<std::map<int, Thickness>> thickness;
    for (int b = 1; b <= topology.bodyCount(); ++b) {
        const Part solid(part.name, topology.body(b));
        const Incidence& own = solid.incidence();
        made.volume += volumeOf(solid.shape);
        std::vector<Wall> ofBody;
        for (const Wall& wall : walls) {
            if (topology.bodyOf(wall.sideA.front()) != b - 1) continue;
            ofBody.push_back(wall);
            for (auto* side : {&ofBody.back().sideA, &ofBody.back().sideB})
                for (int& f : *side) f = own.faceNumber(topology.face(f));
        }
        std::optional<ReducedSolid> reduced;
        if (!ofBody.empty()) {
            auto tried = reduceSolid(solid, ofBody, tolerance, progress);
            if (tried) {
                reduced = std::move(*tried);
            } else {
                if (tried.error().kind == ProblemKind::Cancelled) return tl::unexpected(tried.error());
                if (!made.refused) made.refused = tried.error();
                if (topology.bodyCount() > 1)
                    made.notes.push_back(
                        fmt::format("Body {} of \"{}\" stays solid: {}", b, part.name, tried.error().what));
            }
        }
        if (!reduced) {
            const PartLineage same = LineageBuilder(own, solid.shape).finish();
            solids.add(solid.shape, own, b, same);
            made.solidVolume += volumeOf(solid.shape);
            continue;
        }
        made.walls += ofBody.size();
        sheets.add(reduced->sheets.shape, own, b, reduced->sheets.lineage);
        thickness.push_back(std::move(reduced->sheets.thickness));
        made.sheets.connected += reduced->sheets.connected;
        made.sheets.area += reduced->sheets.area;
        made.sheets.mass += reduced->sheets.mass;
        made.sheets.joints += reduced->sheets.joints;
        if (reduced->parted) {
            solids.add(reduced->parted->thick, own, b, reduced->parted->toThick);
            made.solidVolume += reduced->parted->thickVolume;
            made.cutOff = true;
        }
    }
    if (sheets.isEmpty()) return tl::unexpected(*made.refused);
    made.sheets.shape = sheets.finish(made.sheets.lineage, [&](std::size_t i, int before, int now) {
        if (const auto own = thickness[i].find(before); own != thickness[i].end())
            made.sheets.thickness[now] = own->second;
    });
    if (!solids.isEmpty()) made.solid = solids.finish(made.toSolid, {});
    return made;
}

/// Adds what stays solid of a part as a part of its own, wherever the part stands. Returns its index.
std::size_t addSolid(Outcome& outcome, std::size_t p, const TopoDS_Shape& shape, PartLineage&& lineage) {
    Model& model = outcome.model;
    const std::size_t fresh = model.parts.size();
    auto solid = remade(*model.parts[p], shape, lineage);
    solid->id = 0;
    solid->name = freeName(model, model.parts[p]->name + ", solid");
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        if (model.occurrences[o].part != p) continue;
        Occurrence place = model.occurrences[o];
        place.part = fresh;
        place.name = solid->name;
        place.id = 0;
        model.occurrences.insert(model.occurrences.begin() + static_cast<std::ptrdiff_t>(++o), std::move(place));
    }
    if (model.mirrorPairOf(p) != nullptr) {
        std::erase_if(model.mirrors, [p](const MirrorPair& pair) { return pair.original == p || pair.image == p; });
        outcome.notes.push_back(fmt::format("\"{}\" was parted for itself: its mirror image is a part of its own now.",
                                            model.parts[p]->name));
    }
    model.parts.push_back(std::move(solid));
    lineage.part = p;
    lineage.into = fresh;
    outcome.lineage.push_back(std::move(lineage));
    return fresh;
}

/// Sheets and the solids that they end on get the line where they meet in common.
Result<void> joinBeside(Outcome& outcome, const std::vector<std::pair<std::size_t, std::size_t>>& beside,
                        Progress& progress) {
    for (const auto& [sheet, solid] : beside) {
        outcome.model.giveIds();
        join::Pairs pairs;
        pairs.places = {outcome.model.parts[sheet]->name, outcome.model.parts[solid]->name};
        auto joined = join::joinPairs(outcome.model, pairs, progress);
        if (!joined) {
            if (joined.error().kind == ProblemKind::Cancelled) return tl::unexpected(joined.error());
            outcome.notes.push_back(fmt::format("\"{}\" and \"{}\" lie on each other but are not joined: {}",
                                                pairs.places[0], pairs.places[1], joined.error().what));
            continue;
        }
        outcome.lineage = followed(std::move(outcome.lineage), joined->lineage);
        outcome.model = std::move(joined->model);
        outcome.jointsMade += joined->jointsMade;
        outcome.notes.push_back(
            fmt::format("\"{}\" ends on \"{}\" in lines alone, about which it can turn like a hinge.", pairs.places[0],
                        pairs.places[1]));
    }
    return {};
}

/// Walls named by faces: by part, the faces of each.
using NamedWalls = std::map<std::size_t, std::vector<std::vector<int>>>;

Result<NamedWalls> namedWalls(const Model& model, const std::vector<std::vector<FaceRef>>& pairs) {
    NamedWalls named;
    for (const auto& pair : pairs) {
        std::vector<int> faces;
        std::size_t part = 0;
        for (const FaceRef& face : pair) {
            const auto found = findFace(model, face);
            if (!found) return tl::unexpected(found.error());
            if (!faces.empty() && found->part != part)
                return fail(ProblemKind::BadInput,
                            fmt::format("\"{}\" and \"{}\" cannot have the two sides of one wall.",
                                        model.parts[part]->name, model.parts[found->part]->name),
                            "Name two faces of one part.");
            part = found->part;
            faces.push_back(found->face);
        }
        named[part].push_back(std::move(faces));
    }
    return named;
}

/// The wall that is meant by a face on either side, or by one alone; the thinnest of several.
const Wall* wallMeant(const std::vector<Wall>& walls, const std::vector<int>& faces) {
    const Wall* meant = nullptr;
    for (const Wall& wall : walls) {
        const auto on = [](const std::vector<int>& side, int face) {
            return std::find(side.begin(), side.end(), face) != side.end();
        };
        const int a = faces.front(), b = faces.back();
        const bool fits = faces.size() == 1
                              ? on(wall.sideA, a) || on(wall.sideB, a)
                              : (on(wall.sideA, a) && on(wall.sideB, b)) || (on(wall.sideA, b) && on(wall.sideB, a));
        if (fits && (meant == nullptr || wall.thickness < meant->thickness)) meant = &wall;
    }
    return meant;
}

/// The walls of a part that a step takes: by its limits, with those that it names and without those it names as not.
Result<std::vector<Wall>> wallsTaken(const Part& part, std::size_t p, const Midsurface& step, const NamedWalls& pairs,
                                     const NamedWalls& notPairs, Progress& progress) {
    const bool byHand = pairs.contains(p) || notPairs.contains(p);
    // A wall that is named counts whatever its thickness, so all there are have to be known.
    auto found = findWalls(part, byHand ? 0.0 : step.from, byHand ? 0.0 : step.upTo, progress);
    if (!found) return found;
    std::set<const Wall*> named, barred;
    for (const auto& [list, into] : {std::pair(&pairs, &named), std::pair(&notPairs, &barred)})
        if (const auto own = list->find(p); own != list->end())
            for (const std::vector<int>& faces : own->second) {
                const Wall* wall = wallMeant(*found, faces);
                if (wall == nullptr)
                    return fail(ProblemKind::BadInput,
                                faces.size() == 1
                                    ? fmt::format("Face {} of \"{}\" is no side of a wall.", faces[0], part.name)
                                    : fmt::format("Faces {} and {} of \"{}\" are not the two sides of a wall.",
                                                  faces[0], faces[1], part.name),
                                "Two flat, round or conical faces make one that lie at one distance all along.",
                                {part.name, faces, {}});
                into->insert(wall);
            }
    std::vector<Wall> taken;
    for (const Wall& wall : *found) {
        const bool fits = wall.slenderness != Slenderness::Thick &&
                          (wall.slenderness != Slenderness::Doubtful || step.doubtful) && wall.thickness >= step.from &&
                          (step.upTo == 0.0 || wall.thickness <= step.upTo * (1 + 1e-9));
        if ((fits || named.contains(&wall)) && !barred.contains(&wall)) taken.push_back(wall);
    }
    return taken;
}

}  // namespace

std::vector<ParameterInfo> Midsurface::infos() {
    return {{"parts", "list of names", "", "Parts to reduce, names or patterns; empty: all.", Json::array()},
            {"from", "number", "mm", "Walls no thinner than this.", 0.0},
            {"upTo", "number", "mm", "And no thicker; 0: whatever is thin for its breadth.", 0.0},
            {"doubtful", "yes or no", "", "Also walls thicker than a tenth of their breadth.", false},
            {"pairs", "list of pairs of face references", "",
             "Walls that are taken however thick: a face on either side, or one alone.", Json::array()},
            {"notPairs", "list of pairs of face references", "", "Walls that are not taken.", Json::array()}};
}
void to_json(Json& json, const Midsurface& step) {
    json = Json{{"from", step.from}, {"upTo", step.upTo}};
    if (!step.parts.empty()) json["parts"] = step.parts;
    if (step.doubtful) json["doubtful"] = true;
    if (!step.pairs.empty()) json["pairs"] = step.pairs;
    if (!step.notPairs.empty()) json["notPairs"] = step.notPairs;
}
void from_json(const Json& json, Midsurface& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
    step.from = json.value("from", 0.0);
    step.upTo = json.value("upTo", 0.0);
    step.doubtful = json.value("doubtful", false);
    step.pairs = json.value("pairs", std::vector<std::vector<FaceRef>>{});
    step.notPairs = json.value("notPairs", std::vector<std::vector<FaceRef>>{});
    for (const auto* pairs : {&step.pairs, &step.notPairs})
        for (const auto& pair : *pairs)
            if (pair.empty() || pair.size() > 2)
                throw std::invalid_argument("a wall is named by one face, or by one on either side");
}

Result<Outcome> midsurface(const Model& model, const Midsurface& step, Progress& progress) {
    if (!(step.from >= 0.0) || !(step.upTo >= 0.0) || !std::isfinite(step.from) || !std::isfinite(step.upTo) ||
        (step.upTo > 0.0 && step.upTo < step.from))
        return fail(ProblemKind::BadInput, "The limits of thickness make no range.", "Give a lower and an upper one.");
    const auto chosen = partsNamed(model, step.parts);
    if (!chosen) return tl::unexpected(chosen.error());
    const auto pairs = namedWalls(model, step.pairs), notPairs = namedWalls(model, step.notPairs);
    if (!pairs) return tl::unexpected(pairs.error());
    if (!notPairs) return tl::unexpected(notPairs.error());
    const double tolerance = model.tolerances().samePoint;
    if (step.upTo > 0.0 && step.upTo < 10.0 * tolerance)
        return fail(ProblemKind::BadInput, "That thickness is below what counts as zero in this model.");
    Outcome outcome;
    outcome.model = model;
    std::size_t done = 0, walls = 0;
    std::vector<std::pair<std::size_t, std::size_t>> beside;  // parts: the sheets, and what stays solid of it
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        if (step.parts.empty() ? model.isAside(p) : !std::binary_search(chosen->begin(), chosen->end(), p)) continue;
        const Part& part = *model.parts[p];
        if (part.lump || part.kind() != BodyKind::Solid) continue;
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        auto found = wallsTaken(part, p, step, *pairs, *notPairs, progress);
        if (!found) return tl::unexpected(found.error());
        Item item{part.name, false, {}, 0.0};
        if (found->empty()) {
            if (step.parts.empty()) continue;
            item.problem = {
                ProblemKind::NotPossible,
                fmt::format("\"{}\" has no wall that is thin for its breadth within these limits.", part.name),
                {part.name, {}, {}},
                "Raise the limit, or take the doubtful ones too."};
            outcome.items.push_back(std::move(item));
            continue;
        }
        auto made = reducePart(part, *found, tolerance, progress);
        if (!made) {
            if (made.error().kind == ProblemKind::Cancelled) return tl::unexpected(made.error());
            item.what = fmt::format("\"{}\" stays a solid", part.name);
            item.problem = made.error();
            if (item.problem.where.part.empty()) item.problem.where.part = part.name;
            outcome.items.push_back(std::move(item));
            continue;
        }
        Sheets* sheets = &made->sheets;
        const double volume = made->volume, thickVolume = made->solidVolume;
        outcome.notes.insert(outcome.notes.end(), made->notes.begin(), made->notes.end());
        std::string solidName;
        if (!made->solid.IsNull()) {
            const std::size_t fresh = addSolid(outcome, p, made->solid, std::move(made->toSolid));
            if (made->cutOff) beside.emplace_back(p, fresh);
            solidName = outcome.model.parts[fresh]->name;
        }
        auto reduced = remade(part, sheets->shape, sheets->lineage);
        for (const auto& [face, thickness] : sheets->thickness)
            reduced->known.thickness[{EntityKind::Face, face}] = thickness;
        outcome.model.parts[p] = std::move(reduced);
        sheets->lineage.part = p;
        sheets->lineage.into = p;
        outcome.lineage.push_back(std::move(sheets->lineage));
        item.done = true;
        item.what = fmt::format("\"{}\": {} in {}, {} shared by three and more faces, volume {} % of the solid's",
                                part.name, counted(sheets->thickness.size(), "sheet face"),
                                counted(static_cast<std::size_t>(sheets->connected), "piece"),
                                counted(static_cast<std::size_t>(sheets->joints), "edge"),
                                readable(100.0 * (sheets->mass + thickVolume) / volume, 2));
        if (thickVolume > 0.0)
            item.what += fmt::format("; {} mm³ of it stay solid, as \"{}\"", readable(thickVolume), solidName);
        outcome.items.push_back(std::move(item));
        ++done;
        walls += made->walls;
    }
    if (done == 0) {
        for (const Item& item : outcome.items) return tl::unexpected(item.problem);
        return fail(ProblemKind::NothingToDo, "Nothing here has walls that are thin for their breadth.",
                    "Raise the limit, or take the doubtful ones too.");
    }
    if (auto fine = joinBeside(outcome, beside, progress); !fine) return tl::unexpected(fine.error());
    outcome.summary = fmt::format("Make sheets of {} in {}", counted(walls, "wall"), counted(done, "part"));
    progress.report(1.0, outcome.summary);
    return outcome;
}

}  // namespace rasoir::reduce
