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
#include "common/tolerance.h"
#include "geometry/curves.h"
#include "geometry/face_points.h"
#include "geometry/integrals.h"
#include "model/lineage_builder.h"
#include "reduce/adopted_pieces.h"
#include "reduce/smooth_middles.h"
#include "reduce/wall_steps.h"
#include "topology/making.h"

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
    constexpr double exact = Tolerance::least;
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

/// The sheet in the making: what goes into the arrangement, what comes out, and of it what stays.
class Middles {
public:
    Middles(const Part& part, const std::vector<Wall>& walls, const std::vector<TopoDS_Face>& ends, AtSteps atSteps)
        : m_part(part), m_walls(walls), m_ends(ends), m_atSteps(atSteps) {}

    Result<Sheets> run(double tolerance, Progress& progress) {
        layOut();
        auto all = arrange::arrange(std::move(m_inputs), tolerance, progress);
        if (!all) return tl::unexpected(all.error());
        m_all = std::move(*all);
        keepWhatLiesBetween();
        keepBridges();
        const SheetSoFar soFar{*m_all, m_kept, m_wallOf, m_steps.base, [this](int p) {
                                   const arrange::Piece& piece = m_all->pieces[static_cast<std::size_t>(p)];
                                   return !piece.whole && inSolid(piece) && !isAtBridge(piece) ? wallsOfPiece(piece)
                                                                                               : std::set<int>();
                               }};
        adoptHoles(soFar);
        reachOthers();
        std::vector<double> thickness;
        for (const Wall& wall : m_walls) thickness.push_back(wall.thickness);
        const auto endsAt = [this](int input) { return input == 0 || input >= m_afterSmooth; };
        closeGaps(soFar, endsAt, thickness);
        if (m_kept.empty())
            return fail(
                ProblemKind::NotPossible,
                fmt::format("The {} of \"{}\" {} on into thicker regions of it: no piece of a middle surface lies "
                            "between both sides alone.",
                            m_walls.size() == 1 ? "wall" : "walls", m_part.name, m_walls.size() == 1 ? "runs" : "run"),
                "Cut the thick region off in Divide, then take what is left.",
                {m_part.name, m_walls.front().sideA, m_walls.front().where});
        mergeEach();
        return made();
    }

private:
    const Part& m_part;
    const std::vector<Wall>& m_walls;
    const std::vector<TopoDS_Face>& m_ends;
    AtSteps m_atSteps;
    std::vector<arrange::Input> m_inputs;
    std::vector<std::map<int, int>> m_wallsOf;  // by input: its faces' walls
    SmoothMiddles m_smooth;
    std::vector<std::unique_ptr<WallProbe>> m_probes;  // by wall
    WallSteps m_steps;
    int m_firstSmooth = 0, m_afterSmooth = 0;  // inputs that are smooth sheets
    int m_firstBridge = 0;                     // the last inputs are bridges
    std::set<int> m_bridges;                   // pieces that are kept as such
    std::set<int> m_arcsOfBridges;
    std::optional<arrange::Arrangement> m_all;
    std::vector<int> m_kept;      // pieces
    std::map<int, int> m_wallOf;  // by piece that is kept

    void layOut() {
        Bnd_Box box;
        BRepBndLib::Add(m_part.shape, box, false);
        m_inputs.push_back({m_part.shape, m_part.name});
        m_wallsOf.emplace_back();
        m_smooth = smoothMiddles(m_part, m_walls);
        std::vector<bool> separate;
        for (std::size_t w = 0; w < m_walls.size(); ++w) {
            m_probes.push_back(std::make_unique<WallProbe>(m_part, m_walls[w]));
            separate.push_back(m_smooth.carriedOn[w] != 0);
        }
        m_steps = findSteps(m_part, m_walls, m_probes, separate, m_atSteps);
        for (std::size_t w = 0; w < m_walls.size(); ++w) {
            // A wall beyond a step has the middle of the one that it is laid on.
            if (m_smooth.carriedOn[w] == 0 || m_steps.base[w] != static_cast<int>(w)) continue;
            m_inputs.push_back({carriedOn(m_walls[w], box), fmt::format("wall {}", w + 1)});
            m_wallsOf.push_back({{1, static_cast<int>(w)}});
        }
        // After those: where one of them lies on such a sheet, what they have in common is on the surface that goes on.
        m_firstSmooth = static_cast<int>(m_inputs.size());
        for (const SmoothMiddle& sheet : m_smooth.sheets) {
            m_inputs.push_back({sheet.shape, "walls that run on into each other"});
            m_wallsOf.push_back(sheet.wallOf);
        }
        m_afterSmooth = static_cast<int>(m_inputs.size());
        for (const std::vector<TopoDS_Face>* cutters : {&std::as_const(m_steps.cutters), &m_ends})
            for (const TopoDS_Face& cutter : *cutters) {
                m_inputs.push_back({cutter, "the end of a middle", {}, {}, arrange::Meets::Sheets});
                m_wallsOf.push_back({});
            }
        m_firstBridge = static_cast<int>(m_inputs.size());
        for (const StepBridge& bridge : m_steps.bridges) {
            m_inputs.push_back({bridge.face, "a bridge at a step"});
            m_wallsOf.push_back({});
        }
        // Freeform walls that run on into each other and end at upright rims need no arranging, which would be long.
        if (m_inputs.size() == 2 && m_firstSmooth == 1 &&
            std::all_of(m_walls.begin(), m_walls.end(), [](const Wall& wall) { return wall.freeform; }))
            m_inputs[1].meets = arrange::Meets::Nothing;
    }

    /// The walls that a piece can be of; none where it is the solid's skin alone.
    [[nodiscard]] std::set<int> wallsOfPiece(const arrange::Piece& piece) const {
        std::set<int> own;
        for (const arrange::Owner& owner : piece.owners) {
            const auto& faces = m_wallsOf[static_cast<std::size_t>(owner.input)];
            if (const auto wall = faces.find(owner.number); wall != faces.end()) own.insert(wall->second);
        }
        return own;
    }
    /// At a bridge middles end, whatever surrounds what lies beyond.
    [[nodiscard]] bool isAtBridge(const arrange::Piece& piece) const {
        return std::any_of(piece.uses.begin(), piece.uses.end(),
                           [this](const arrange::Use& use) { return m_arcsOfBridges.contains(use.arc); });
    }
    /// A piece of middles that lies in the solid, not on its skin.
    [[nodiscard]] bool inSolid(const arrange::Piece& piece) const {
        return piece.owners.front().input != 0 &&
               m_all->cells[static_cast<std::size_t>(piece.plusCell)].inputs.contains(0) &&
               m_all->cells[static_cast<std::size_t>(piece.minusCell)].inputs.contains(0);
    }

    void keepWhatLiesBetween() {
        for (std::size_t p = 0; p < m_all->pieces.size(); ++p) {
            const arrange::Piece& piece = m_all->pieces[p];
            if (!inSolid(piece)) continue;
            std::set<int> own = wallsOfPiece(piece);
            if (own.empty()) continue;
            for (std::size_t w = 0; w < m_walls.size(); ++w)
                if (own.contains(m_steps.base[w])) own.insert(static_cast<int>(w));
            const auto keep = [&](int wall) {
                m_kept.push_back(static_cast<int>(p));
                m_wallOf[static_cast<int>(p)] = wall;
            };
            // What nothing has divided is where it was made.
            if (piece.whole) {
                keep(*own.begin());
                continue;
            }
            // A piece belongs to a wall when most of it lies between its sides. Most: a thin rib on a thick plate
            // reaches into the plate by half of that.
            const std::vector<gp_Pnt> points =
                pointsWithin(arrange::Maker(*m_all, {static_cast<int>(p)}).face(static_cast<int>(p), false));
            for (const int w : own) {
                const auto count = std::count_if(points.begin(), points.end(), [&](const gp_Pnt& point) {
                    return m_probes[static_cast<std::size_t>(w)]->between(
                        onMiddle(m_walls[static_cast<std::size_t>(w)], point));
                });
                if (points.empty() || 2 * count < static_cast<std::ptrdiff_t>(points.size())) continue;
                keep(w);
                break;
            }
        }
    }

    /// Of a bridge those pieces stay that lie between the two middles, in the solid or on its skin; all or none, for it
    /// has to lead from one to the other.
    void keepBridges() {
        std::map<int, std::set<int>> basesAtArc;
        for (const int p : m_kept)
            for (const arrange::Use& use : m_all->pieces[static_cast<std::size_t>(p)].uses)
                basesAtArc[use.arc].insert(m_steps.base[static_cast<std::size_t>(m_wallOf[p])]);
        std::map<int, std::vector<int>> piecesOf;  // by bridge
        for (std::size_t p = 0; p < m_all->pieces.size(); ++p)
            for (const arrange::Owner& owner : m_all->pieces[p].owners)
                if (owner.input >= m_firstBridge) piecesOf[owner.input - m_firstBridge].push_back(static_cast<int>(p));
        for (const auto& [b, pieces] : piecesOf) {
            const StepBridge& bridge = m_steps.bridges[static_cast<std::size_t>(b)];
            const double low = std::min(bridge.first, bridge.last), high = std::max(bridge.first, bridge.last);
            std::vector<int> across;
            std::set<int> met;
            for (const int p : pieces) {
                const arrange::Piece& piece = m_all->pieces[static_cast<std::size_t>(p)];
                if (piece.whole || m_wallOf.contains(p)) continue;
                const double depth = -gp_Vec(bridge.on, piece.inside).Dot(gp_Vec(bridge.out));
                const auto touches = [&](int cell) {
                    return m_all->cells[static_cast<std::size_t>(cell)].inputs.contains(0);
                };
                if (depth < low || depth > high || (!touches(piece.plusCell) && !touches(piece.minusCell))) continue;
                across.push_back(p);
                for (const arrange::Use& use : piece.uses)
                    if (const auto own = basesAtArc.find(use.arc); own != basesAtArc.end())
                        met.insert(own->second.begin(), own->second.end());
            }
            if (!met.contains(m_steps.base[bridge.from]) || !met.contains(m_steps.base[bridge.to])) continue;
            const bool thinner = m_walls[bridge.from].thickness <= m_walls[bridge.to].thickness;
            for (const int p : across) {
                m_kept.push_back(p);
                m_wallOf[p] = static_cast<int>(thinner ? bridge.from : bridge.to);
                m_bridges.insert(p);
                for (const arrange::Use& use : m_all->pieces[static_cast<std::size_t>(p)].uses)
                    m_arcsOfBridges.insert(use.arc);
            }
        }
    }

    /// A sheet of walls that run on into each other ends at the skin that it stands on, half a thickness short of the
    /// middle there. The strip between is of the wall that it carries on when it leads to what another wall has kept.
    void reachOthers() {
        const auto endsSmooth = [&](const arrange::Owner& owner) {
            return owner.input >= m_firstSmooth && owner.input < m_afterSmooth &&
                   m_all->topology[static_cast<std::size_t>(owner.input)]->facesAt(owner.number) == 1;
        };
        std::map<int, std::set<int>> wallsAtArc, shortAtArc;  // kept there; and by those whose sheet ends there
        for (const int p : m_kept)
            for (const arrange::Use& use : m_all->pieces[static_cast<std::size_t>(p)].uses) {
                const auto& owners = m_all->arcs[static_cast<std::size_t>(use.arc)].owners;
                wallsAtArc[use.arc].insert(m_wallOf[p]);
                if (std::any_of(owners.begin(), owners.end(), endsSmooth)) shortAtArc[use.arc].insert(m_wallOf[p]);
            }
        for (std::size_t p = 0; p < m_all->pieces.size(); ++p) {
            const arrange::Piece& piece = m_all->pieces[p];
            if (piece.whole || m_wallOf.contains(static_cast<int>(p)) || !inSolid(piece)) continue;
            for (const int w : wallsOfPiece(piece)) {
                bool begins = false, leads = false;
                for (const arrange::Use& use : piece.uses) {
                    const auto sheet = shortAtArc.find(use.arc);
                    begins = begins || (sheet != shortAtArc.end() && sheet->second.contains(w));
                    const auto others = wallsAtArc.find(use.arc);
                    leads = leads || (others != wallsAtArc.end() && !others->second.contains(w));
                }
                if (!begins || !leads) continue;
                m_kept.push_back(static_cast<int>(p));
                m_wallOf[static_cast<int>(p)] = w;
                break;
            }
        }
    }

    void mergeEach() {
        // Middles of other walls run on across this one, and what they have parted there is one face all the same.
        const arrange::Merged merged = arrange::merged(*m_all, m_kept, [&](int a, int b) {
            return m_wallOf.at(a) == m_wallOf.at(b) && m_bridges.contains(a) == m_bridges.contains(b);
        });
        for (std::size_t i = 0; i < merged.pieces.size(); ++i) {
            m_wallOf[merged.pieces[i]] = m_wallOf.at(merged.from[i].front());
            if (m_bridges.contains(merged.from[i].front())) m_bridges.insert(merged.pieces[i]);
        }
        m_kept = merged.pieces;
    }

    /// Which pieces have to be turned over so that two that meet alone at an arc show the same side. Where three meet
    /// no side goes on; what cannot be alike all round, as on a strip with a half twist, stays as it is found.
    [[nodiscard]] std::map<int, bool> sidesAlike(const std::map<int, std::vector<int>>& atArc) const {
        const auto runsForward = [this](int p, int arc) {
            for (const arrange::Use& use : m_all->pieces[static_cast<std::size_t>(p)].uses)
                if (use.arc == arc) return use.forward;
            return true;
        };
        std::map<int, bool> turned;
        for (const int first : m_kept) {
            if (!turned.emplace(first, false).second) continue;
            std::vector<int> waiting{first};
            while (!waiting.empty()) {
                const int p = waiting.back();
                waiting.pop_back();
                for (const arrange::Use& use : m_all->pieces[static_cast<std::size_t>(p)].uses) {
                    const std::vector<int>& pieces = atArc.at(use.arc);
                    if (pieces.size() != 2 || pieces[0] == pieces[1]) continue;
                    const int q = pieces[0] == p ? pieces[1] : pieces[0];
                    // Alike, they run along their common arc in opposite ways.
                    const bool other = turned.at(p) != (use.forward == runsForward(q, use.arc));
                    if (turned.emplace(q, other).second) waiting.push_back(q);
                }
            }
        }
        return turned;
    }

    [[nodiscard]] Sheets made() {
        Sheets sheets;
        arrange::Maker maker(*m_all, m_kept);
        // Connected over arcs, whatever their number of faces: a T is one sheet.
        std::map<int, int> group;
        const std::function<int(int)> root = [&](int p) {
            while (group[p] != p) p = group[p];
            return p;
        };
        std::map<int, std::vector<int>> atArc;
        for (const int p : m_kept) {
            group[p] = p;
            for (const arrange::Use& use : m_all->pieces[p].uses) atArc[use.arc].push_back(p);
        }
        for (const auto& [arc, pieces] : atArc) {
            for (const int p : pieces) group[root(p)] = root(pieces.front());
            sheets.joints += pieces.size() > 2;
        }
        const std::map<int, bool> turned = sidesAlike(atArc);
        const BRep_Builder builder;
        std::map<int, TopoDS_Shell> shells;
        std::map<int, TopoDS_Face> faces;
        for (const int p : m_kept) {
            TopoDS_Shell& shell = shells[root(p)];
            if (shell.IsNull()) builder.MakeShell(shell);
            faces[p] = maker.face(static_cast<int>(p), turned.at(p));
            builder.Add(shell, faces[p]);
        }
        sheets.connected = static_cast<int>(shells.size());
        std::vector<TopoDS_Shape> all;
        for (const auto& [first, shell] : shells) all.push_back(shell);
        sheets.shape = gathered(all);
        LineageBuilder lineage(m_part.incidence(), sheets.shape);
        const Incidence now(sheets.shape);
        for (const auto& [p, face] : faces) {
            const Wall& wall = m_walls[static_cast<std::size_t>(m_wallOf[p])];
            const bool isBridge = m_bridges.contains(p);  // stands for no skin, and is as thick as the thinner wall
            for (const auto* side : {&wall.sideA, &wall.sideB})
                for (const int f : *side)
                    if (!isBridge) lineage.face(f, face);
            const double area = areaOf(face);
            const gp_Pnt centre = skinOf(face).centre;
            Thickness own;
            own.at = isBridge ? wall.thickness : wall.thicknessAt(centre);
            own.from = centre;
            if (!isBridge) own.gradient = wall.growth;
            if (!isBridge && m_steps.base[static_cast<std::size_t>(m_wallOf[p])] != m_wallOf[p]) {
                const Handle(Geom_Surface) surface = BRep_Tool::Surface(face);
                const gp_Dir normal = GeomAdaptor_Surface(surface).Plane().Position().Direct()
                                          ? GeomAdaptor_Surface(surface).Plane().Axis().Direction()
                                          : GeomAdaptor_Surface(surface).Plane().Axis().Direction().Reversed();
                own.offset = gp_Vec(centre, onMiddle(wall, centre))
                                 .Dot(gp_Vec(face.Orientation() == TopAbs_REVERSED ? normal.Reversed() : normal));
            }
            sheets.thickness[now.faceNumber(face)] = own;
            sheets.wallOf[now.faceNumber(face)] = m_wallOf[p];
            sheets.area += area;
            sheets.mass += area * own.at;
        }
        sheets.lineage = lineage.finish();
        return sheets;
    }
};

}  // namespace

Result<Sheets> sheetsOf(const Part& part, const std::vector<Wall>& walls, const std::vector<TopoDS_Face>& ends,
                        AtSteps steps, double tolerance, Progress& progress) {
    return Middles(part, walls, ends, steps).run(tolerance, progress);
}

}  // namespace rasoir::reduce
