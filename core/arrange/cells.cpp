#include <fmt/format.h>

#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <BRepBndLib.hxx>
#include <BRepClass3d_SolidClassifier.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Iterator.hxx>
#include <TopoDS_Shell.hxx>
#include <TopoDS_Solid.hxx>

#include "arrange/builder.h"
#include "arrange/maker.h"
#include "common/sets.h"
#include "common/tolerance.h"
#include "geometry/curves.h"
#include "geometry/face_points.h"
#include "geometry/integrals.h"

// Cells from pieces.
//   1. Round each arc the pieces are put in order by angle. Two neighbours in that order face each other across a
//      sector that is in one cell: the side of the one and the side of the other are joined (union-find).
//   2. Sides that are joined make a skin. Pieces that hang together over arcs are a cluster; one skin of each cluster
//      looks outwards, that with the least signed volume.
//   3. An outward skin lies in a cell of another cluster, or in the outermost one: asked of the solids' own classifier.
//   4. Crossing a piece enters or leaves the solids that own it. From the outermost cell, which lies in none, that
//      gives every cell its inputs. They must come out the same on every way: a contradiction is an order of pieces
//      that was not right, and is refused with its place.

namespace rasoir::arrange {
namespace {

struct AtArc {
    int piece;
    bool forward;
    Handle(Geom2d_Curve) trace;
    double angle = 0.0;
};

/// Sides are numbered 2 p for the plus side of piece p, 2 p + 1 for its minus side. The side towards growing angle:
int growing(const AtArc& use) {
    return 2 * use.piece + (use.forward ? 0 : 1);
}
int shrinking(const AtArc& use) {
    return 2 * use.piece + (use.forward ? 1 : 0);
}

}  // namespace

Result<void> Builder::findCells(Progress& progress) {
    const int count = static_cast<int>(m_all.pieces.size());
    std::vector<std::vector<AtArc>> at(m_all.arcs.size());
    for (int p = 0; p < count; ++p)
        for (const Use& use : m_all.pieces[p].uses) at[use.arc].push_back({p, use.forward, use.trace});
    // A piece goes on across its slits: it lies on both sides of them. Where nothing else ends, that says nothing; and
    // an input that shall meet some faces only goes through all others unseen, so that it has no sides at all.
    std::vector<std::pair<int, AtArc>> slits;
    for (int p = 0; p < count; ++p) {
        if (!m_all.inputs[m_all.pieces[p].owners.front().input].only.empty()) continue;
        for (const Use& use : m_all.pieces[p].slits)
            if (!at[use.arc].empty())
                for (const bool forward : {true, false}) slits.push_back({use.arc, {p, forward, use.trace}});
    }
    for (const auto& [arc, slit] : slits) at[arc].push_back(slit);
    Sets sides(2 * static_cast<std::size_t>(count)), clusters(static_cast<std::size_t>(count));
    std::vector<gp_Pnt> samePoint;

    const auto traceOf = [&](const AtArc& use, int arc) -> Handle(Geom2d_Curve) {
        if (!use.trace.IsNull()) return use.trace;
        const Owner& owner = m_all.pieces[use.piece].owners.front();
        const TopoDS_Face face = TopoDS::Face(m_all.faceOf(owner).Oriented(TopAbs_FORWARD));
        const TopoDS_Edge edge = m_all.topology[owner.input]->edge(m_all.arcs[arc].owners.front().number);
        double first = 0.0, last = 0.0;
        return BRep_Tool::CurveOnSurface(TopoDS::Edge(edge.Oriented(use.forward ? TopAbs_FORWARD : TopAbs_REVERSED)),
                                         face, first, last);
    };

    for (std::size_t a = 0; a < at.size(); ++a) {
        auto& uses = at[a];
        for (std::size_t i = 1; i < uses.size(); ++i) clusters.join(uses[0].piece, uses[i].piece);
        if (uses.size() > 2) {
            const Arc& arc = m_all.arcs[a];
            const double middle = 0.5 * (arc.first + arc.last);
            gp_Pnt here;
            gp_Vec along;
            arc.curve->D1(middle, here, along);
            const double length =
                std::max(arc.curve->Value(arc.first).Distance(here), arc.curve->Value(arc.last).Distance(here));
            const gp_Ax2 axes(here, gp_Dir(along));
            const gp_Vec e1(axes.XDirection()), e2(axes.YDirection());
            // Nearby first; where pieces are tangent there, farther away.
            bool clear = false;
            for (const double reach :
                 // Tried in turn: near enough to see only the two cells, far enough to tell them apart.
                 {std::max(20.0 * m_tolerance, 1e-4 * length), 1e-2 * length, 0.05 * length, 0.2 * length}) {
                bool known = true;
                for (AtArc& use : uses) {
                    const Owner& owner = m_all.pieces[use.piece].owners.front();
                    const Handle(Geom_Surface) surface = BRep_Tool::Surface(m_all.faceOf(owner));
                    const Handle(Geom2d_Curve) trace = traceOf(use, static_cast<int>(a));
                    if (trace.IsNull()) {
                        known = false;
                        break;
                    }
                    const gp_Pnt2d uv = trace->Value(middle);
                    gp_Pnt point;
                    gp_Vec du, dv;
                    surface->D1(uv.X(), uv.Y(), point, du, dv);
                    gp_Vec inwards = du.Crossed(dv).Crossed(along);
                    if (inwards.SquareMagnitude() < Tolerance::divisible) {
                        known = false;
                        break;
                    }
                    inwards.Normalize();
                    if (!use.forward) inwards.Reverse();
                    const gp_Pnt beside = here.Translated(inwards * reach);
                    const auto foot = footOn(surface, beside, m_tolerance, uv);
                    const gp_Vec away = foot ? gp_Vec(here, surface->Value(foot->X(), foot->Y())) : inwards;
                    use.angle = std::atan2(away.Dot(e2), away.Dot(e1));
                }
                if (!known) break;
                std::stable_sort(uses.begin(), uses.end(),
                                 [](const AtArc& x, const AtArc& y) { return x.angle < y.angle; });
                double least = 2.0 * M_PI + uses.front().angle - uses.back().angle;
                for (std::size_t i = 1; i < uses.size(); ++i)
                    least = std::min(least, uses[i].angle - uses[i - 1].angle);
                clear = least > 1e-4;  // [rad] what half a step aside may be wrong by
                if (clear) break;
                // Of a face whose edges are all short there is no better place: above rounding is enough.
                clear = least > 1e-7 && reach > 0.1 * length;
            }
            if (!clear) {
                const Owner& owner = m_all.pieces[uses[0].piece].owners.front();
                return fail(ProblemKind::NotPossible,
                            fmt::format("Faces touch along a line at which their order cannot be told: face {} of "
                                        "\"{}\" and others.",
                                        owner.number, m_all.inputs[owner.input].name),
                            "Move one of the bodies a little.", {m_all.inputs[owner.input].name, {owner.number}, here});
            }
        }
        for (std::size_t i = 0; i < uses.size(); ++i)
            sides.join(growing(uses[i]), shrinking(uses[(i + 1) % uses.size()]));
    }
    if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");

    // Signed volumes of the skins, seen from inside their cells: of a cell's outer skin it is positive.
    std::vector<int> all(static_cast<std::size_t>(count));
    std::iota(all.begin(), all.end(), 0);
    Maker maker(m_all, all);
    std::map<int, double> volume;
    std::map<int, std::vector<std::pair<int, bool>>> skins;
    std::map<int, gp_Pnt> base;  // by cluster: volumes are seen from a point of its own
    for (int p = 0; p < count; ++p) {
        const TopoDS_Face face = maker.face(p, false);
        const int cluster = clusters.root(p);
        if (!base.contains(cluster)) {
            TopExp_Explorer vertex(face, TopAbs_VERTEX);
            base[cluster] = vertex.More() ? BRep_Tool::Pnt(TopoDS::Vertex(vertex.Current())) : gp_Pnt();
        }
        const double share = volumeSeenFrom(base[cluster], face);
        volume[sides.root(2 * p)] -= share;
        volume[sides.root(2 * p + 1)] += share;
        skins[sides.root(2 * p)].emplace_back(p, true);
        skins[sides.root(2 * p + 1)].emplace_back(p, false);
    }
    m_all.widest = std::max(m_all.widest, maker.widest());
    std::map<int, int> outward;  // cluster: skin
    for (const auto& [skin, own] : skins) {
        const int cluster = clusters.root(own.front().first);
        const auto [known, fresh] = outward.try_emplace(cluster, skin);
        if (!fresh && volume[skin] < volume[known->second]) known->second = skin;
    }
    // Cells: the outermost, then one for each skin that does not look outwards.
    m_all.cells.assign(1, {});
    m_all.cells[0].outermost = true;
    std::map<int, int> cellOf;  // skin: cell
    for (const auto& [skin, own] : skins) {
        if (outward.at(clusters.root(own.front().first)) == skin) continue;
        cellOf[skin] = static_cast<int>(m_all.cells.size());
        Cell cell;
        cell.sides = own;
        m_all.cells.push_back(std::move(cell));
    }
    std::vector<TopoDS_Solid> solids(m_all.cells.size());
    std::vector<Bnd_Box> boxes(m_all.cells.size());
    if (outward.size() > 1)
        for (std::size_t c = 1; c < m_all.cells.size(); ++c) {
            TopoDS_Shell shell;
            const BRep_Builder builder;
            builder.MakeShell(shell);
            for (const auto& [p, plus] : m_all.cells[c].sides) builder.Add(shell, maker.face(p, plus));
            shell.Closed(true);
            builder.MakeSolid(solids[c]);
            builder.Add(solids[c], shell);
            BRepBndLib::Add(solids[c], boxes[c], false);
        }
    const std::size_t known = m_all.cells.size();
    for (const auto& [cluster, skin] : outward) {
        // Points of the cluster: one that lies on another cell's skin says nothing of it, the next one may.
        std::vector<gp_Pnt> points;
        for (const auto& [p, plus] : skins[skin]) {
            if (points.size() > 20) break;
            if (!m_all.pieces[p].whole) points.push_back(m_all.pieces[p].inside);
            for (const Use& use : m_all.pieces[p].uses) {
                const Arc& arc = m_all.arcs[use.arc];
                for (const double share : {0.5, 0.37})
                    points.push_back(arc.curve->Value(arc.first + share * (arc.last - arc.first)));
            }
        }
        int within = 0;
        double least = 0.0;
        for (std::size_t c = 1; c < known && outward.size() > 1; ++c) {
            const int own = clusters.root(m_all.cells[c].sides.front().first);
            if (own == cluster || boxes[c].IsOut(points.front())) continue;
            const double size = volume[sides.root(2 * m_all.cells[c].sides.front().first +
                                                  (m_all.cells[c].sides.front().second ? 0 : 1))];
            if (within > 0 && size >= least) continue;
            BRepClass3d_SolidClassifier classifier(solids[c]);
            TopAbs_State state = TopAbs_ON;
            const auto ask = [&](const std::vector<gp_Pnt>& some) {
                for (std::size_t i = 0; i < some.size() && state == TopAbs_ON; ++i) {
                    classifier.Perform(some[i], 10.0 * m_tolerance);
                    state = classifier.State();
                }
            };
            ask(points);
            // A sheet may end on the skin with all of its edges.
            if (state == TopAbs_ON) ask(pointsWithin(maker.face(skins[skin].front().first, false)));
            if (state != TopAbs_IN) continue;
            within = static_cast<int>(c);
            least = size;
        }
        cellOf[skin] = within;
        auto& into = m_all.cells[within].sides;
        into.insert(into.end(), skins[skin].begin(), skins[skin].end());
    }
    for (const auto& [skin, own] : skins) m_all.cells[cellOf.at(skin)].volume += volume[skin];
    for (int p = 0; p < count; ++p) {
        m_all.pieces[p].plusCell = cellOf.at(sides.root(2 * p));
        m_all.pieces[p].minusCell = cellOf.at(sides.root(2 * p + 1));
    }

    // What each cell lies in.
    const auto isSolid = [&](const Owner& owner) { return m_all.topology[owner.input]->bodyOf(owner.number) >= 0; };
    std::vector<char> reached(m_all.cells.size(), false);
    std::vector<int> todo{0};
    reached[0] = true;
    while (!todo.empty()) {
        const int from = todo.back();
        todo.pop_back();
        for (const auto& [p, plus] : m_all.cells[from].sides) {
            const Piece& piece = m_all.pieces[p];
            const int to = plus ? piece.minusCell : piece.plusCell;
            std::set<int> inputs = m_all.cells[from].inputs;
            bool fine = true;
            for (const Owner& owner : piece.owners) {
                if (!isSolid(owner)) continue;
                // Outside is where the oriented face looks; `reversed` is against the first owner's normal.
                const bool outsideIsPlus = (m_all.faceOf(owner).Orientation() != TopAbs_REVERSED) != owner.reversed;
                if (plus == outsideIsPlus)
                    fine = inputs.insert(owner.input).second && fine;
                else
                    fine = inputs.erase(owner.input) == 1 && fine;
            }
            if (to == from) fine = inputs == m_all.cells[from].inputs;
            if (fine && !reached[to]) {
                reached[to] = true;
                m_all.cells[to].inputs = inputs;
                todo.push_back(to);
            }
            if (!fine || m_all.cells[to].inputs != inputs) {
                TopExp_Explorer vertex(maker.face(p, false), TopAbs_VERTEX);
                const Owner& owner = piece.owners.front();
                return fail(
                    ProblemKind::NotPossible,
                    fmt::format("What lies inside and what outside contradict each other at face {} of \"{}\".",
                                owner.number, m_all.inputs[owner.input].name),
                    "Mend the bodies first, or move one of them a little.",
                    {m_all.inputs[owner.input].name, {owner.number}, BRep_Tool::Pnt(TopoDS::Vertex(vertex.Current()))});
            }
        }
    }
    return {};
}

}  // namespace rasoir::arrange
