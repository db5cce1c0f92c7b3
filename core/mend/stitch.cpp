#include "mend/stitch.h"

#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <Geom2d_BSplineCurve.hxx>
#include <Geom2d_Conic.hxx>
#include <Geom2d_Line.hxx>
#include <Geom2dAPI_Interpolate.hxx>
#include <GeomAPI_Interpolate.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <Geom_BSplineCurve.hxx>
#include <TColStd_HArray1OfReal.hxx>
#include <TColgp_HArray1OfPnt.hxx>
#include <TColgp_HArray1OfPnt2d.hxx>
#include <TopExp.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopTools_MapOfShape.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>
#include <TopoDS_Iterator.hxx>
#include <fmt/format.h>
#include <tbb/parallel_for.h>

#include <map>
#include <set>

#include "common/guard.h"
#include "geometry/curves.h"
#include "geometry/surface_meeting.h"
#include "topology/soundness.h"

namespace rasoir::mend {
namespace {

using survey::RimPiece;
using survey::Rims;

constexpr double steep = 0.1;   // [rad] faces that meet at less say little about where

double offSurface(const Handle(Geom_Surface)& surface, const gp_Pnt& point, double tolerance, const std::optional<gp_Pnt2d>& guess) {
    const auto uv = parametersOn(surface, point, tolerance, guess);
    return uv ? surface->Value(uv->X(), uv->Y()).Distance(point) : std::numeric_limits<double>::max();
}

/// How two edges that do not coincide become one, from the best to what always serves.
enum class Joint {
    Met,      // where the surfaces truly meet; else one of the two; else midway, drawn onto both
    Plain,    // midway between the two, as they are
    AsTheyAre // one of the two serves both; each face keeps its boundary on its surface, and the edge's tolerance spans the step
};

/// What takes the place of an old edge, or of a piece of it, in the old edge's direction.
struct Replacement {
    TopoDS_Edge edge;
    bool along = true;
};

class Stitcher {
public:
    Stitcher(const Incidence& incidence, const TopoDS_Shape& shape, const StitchWanted& wanted, Progress& progress) : m_incidence(incidence), m_shape(shape), m_wanted(wanted), m_progress(progress) {}

    Result<Stitched> run() {
        m_collapsed = m_wanted.collapsed;
        for (const int e : m_wanted.collapsed)   // one that is closed already has nothing to bring together
            if (BRep_Tool::Degenerated(m_incidence.edge(e)) || TopExp::FirstVertex(m_incidence.edge(e)).IsSame(TopExp::LastVertex(m_incidence.edge(e)))) m_collapsed.erase(e);
        for (;;) {
            const std::size_t before = m_collapsed.size();
            auto done = attempt();
            if (done || m_collapsed.size() == before) return done;
            // What spoiled a face stays as it was; the rest is tried again.
            m_pairs.clear();
            m_left.clear();
            m_again = m_refusals = 0;
        }
    }

private:
    Result<Stitched> attempt() {
        auto rims = survey::pairRims(m_incidence, m_wanted.upTo, m_wanted.exact, m_progress, {}, m_collapsed);
        if (!rims) return tl::unexpected(rims.error());
        m_rims = std::move(*rims);
        m_surfaces.resize(static_cast<std::size_t>(m_incidence.faceCount()) + 1);
        for (int f = 1; f <= m_incidence.faceCount(); ++f) m_surfaces[f] = BRep_Tool::Surface(m_incidence.face(f));
        mapVertices();
        m_piecesOf.assign(static_cast<std::size_t>(m_incidence.edgeCount()) + 1, {});
        for (std::size_t p = 0; p < m_rims.pieces.size(); ++p) m_piecesOf[m_rims.pieces[p].edge].push_back(static_cast<int>(p));
        m_checked.assign(static_cast<std::size_t>(m_incidence.faceCount()) + 1, {});
        choosePairs();
        if (m_pairs.empty() && m_collapsed.empty()) return fail(ProblemKind::NotPossible, fmt::format("No two open edges run alongside each other within {} mm.", m_wanted.upTo), "Raise the limit, or patch the opening.");
        Stitched result;
        constexpr int rounds = 11;
        for (int round = 0; round < rounds; ++round) {
            if (m_progress.cancelled()) return cancelled();
            begin();
            makeCorners();
            m_progress.report(0.5, "Joining edges");
            if (auto made = makeEdges(); !made) return tl::unexpected(made.error());
            if (m_again == 0) {
                m_progress.report(0.7, "Rebuilding faces");
                rebuildFaces();
                spoiledFaces(round < 5);
            }
            if (m_again == 0) break;
            std::erase_if(m_pairs, [](const Pair& pair) { return pair.refused; });
            if (std::exchange(m_spoiledByCollapse, false) || (m_pairs.empty() && m_collapsed.empty()) || round + 1 == rounds) return refusal();
            m_again = 0;
        }
        finish(result);
        return result;
    }

    struct Pair {
        int a = -1, b = -1;        // pieces
        bool refused = false;
        std::string why;
        bool exact = false;
        Joint joint = Joint::Met;
        TopoDS_Edge edge;
        Handle(Geom_Curve) curve;
        double first = 0.0, last = 0.0;
        bool alongA = true, alongB = true;   // the new edge's direction against each old one's
        std::array<Handle(Geom2d_Curve), 2> traces;
        double tolerance = 0.0, shift = 0.0, step = 0.0;
        gp_Pnt shiftAt, stepAt;
        // What it was shaped for: in the next round only what changed is shaped again.
        std::optional<Joint> shapedAs;
        gp_Pnt shapedFrom, shapedTo;
    };

    const Incidence& m_incidence;
    const TopoDS_Shape& m_shape;
    const StitchWanted& m_wanted;
    Progress& m_progress;
    std::set<int> m_collapsed;
    bool m_spoiledByCollapse = false;
    Rims m_rims;
    std::vector<Handle(Geom_Surface)> m_surfaces;
    std::vector<std::vector<int>> m_edgesAtVertex;
    std::vector<Pair> m_pairs;
    std::vector<int> m_pairOfPiece;
    std::vector<std::vector<int>> m_piecesOf;    // by edge number
    struct Checked {
        std::vector<double> boundary;
        bool spoiled = false;
    };
    std::vector<Checked> m_checked;              // by face number
    int m_refusals = 0;   // rounds in which pairs were taken back
    int m_again = 0;   // pairs that were taken back or are to be joined more plainly: another round is due
    std::vector<NotStitched> m_left, m_stayed;   // pairs; edges that could not shrink
    std::vector<TopoDS_Vertex> m_newVertex;      // by corner; null where nothing is joined
    std::vector<gp_Pnt> m_cornerPoint;
    std::vector<std::vector<Replacement>> m_replaced;   // by edge number
    std::vector<TopoDS_Face> m_faces;            // by face number, as they are now
    std::vector<char> m_changed;

    static tl::unexpected<Problem> cancelled() { return fail(ProblemKind::Cancelled, "Stopped; nothing has changed."); }
    tl::unexpected<Problem> refusal() const {
        Place place;
        std::string why = "None of the pairs of open edges could be joined.";
        if (!m_left.empty()) {
            place.faces = {m_left.front().faceA, m_left.front().faceB};
            place.point = m_left.front().where;
            why = fmt::format("No pair of open edges could be joined: {}", m_left.front().why);
        }
        return fail(ProblemKind::NotPossible, why, "Lower the limit, or join the edges one by one.", std::move(place));
    }
    [[nodiscard]] const RimPiece& piece(int p) const { return m_rims.pieces[static_cast<std::size_t>(p)]; }
    [[nodiscard]] const EdgeProbe& probe(int edge) const { return *m_rims.probes[static_cast<std::size_t>(edge)]; }

    void mapVertices() {
        m_edgesAtVertex.clear();
        m_edgesAtVertex.resize(static_cast<std::size_t>(m_incidence.vertexCount()) + 1);
        for (int e = 1; e <= m_incidence.edgeCount(); ++e)
            for (TopoDS_Iterator it(m_incidence.edge(e)); it.More(); it.Next()) {
                auto& at = m_edgesAtVertex[m_incidence.vertexNumber(it.Value())];
                if (at.empty() || at.back() != e) at.push_back(e);
            }
    }

    void choosePairs() {
        for (std::size_t p = 0; p < m_rims.pieces.size(); ++p) {
            const RimPiece& a = m_rims.pieces[p];
            if (a.partner <= static_cast<int>(p)) continue;
            const RimPiece& b = piece(a.partner);
            if (a.most > m_wanted.upTo && a.most > m_wanted.exact) continue;
            const auto faces = std::minmax(a.face, b.face);
            const std::pair<int, int> key(faces.first, faces.second);
            if (std::find(m_wanted.kept.begin(), m_wanted.kept.end(), key) != m_wanted.kept.end()) continue;
            if (!m_wanted.only.empty() && std::find(m_wanted.only.begin(), m_wanted.only.end(), key) == m_wanted.only.end()) continue;
            Pair pair;
            pair.a = static_cast<int>(p);
            pair.b = a.partner;
            m_pairs.push_back(std::move(pair));
        }
    }

    void begin() {
        m_newVertex.assign(m_rims.corners.size(), TopoDS_Vertex());
        m_cornerPoint.assign(m_rims.corners.size(), gp_Pnt());
        m_replaced.assign(static_cast<std::size_t>(m_incidence.edgeCount()) + 1, {});
        m_faces.assign(static_cast<std::size_t>(m_incidence.faceCount()) + 1, TopoDS_Face());
        m_changed.assign(m_faces.size(), false);
        m_pairOfPiece.assign(m_rims.pieces.size(), -1);
        for (std::size_t i = 0; i < m_pairs.size(); ++i) m_pairOfPiece[m_pairs[i].a] = m_pairOfPiece[m_pairs[i].b] = static_cast<int>(i);
    }

    void makeCorners() {
        std::vector<char> active(m_rims.corners.size(), false), plain(m_rims.corners.size(), false);
        for (const Pair& pair : m_pairs)
            for (const int p : {pair.a, pair.b})
                for (const int c : {piece(p).from, piece(p).to}) {
                    active[c] = true;
                    if (pair.joint != Joint::Met) plain[c] = true;
                }
        for (const int e : m_collapsed) active[cornerAt(e)] = true;
        tbb::parallel_for(std::size_t{0}, m_rims.corners.size(), [&](std::size_t c) {
            if (!active[c]) return;
            const survey::Corner& corner = m_rims.corners[c];
            gp_Pnt at = corner.point;
            if (plain[c]) {
                // Where most faces already meet nothing is moved.
                std::size_t most = 0, next = 0;
                for (const int v : corner.vertices) {
                    std::set<int> faces;
                    for (const int e : m_edgesAtVertex[v])
                        for (const EdgeUse& use : m_incidence.usesOf(e)) faces.insert(use.face);
                    if (faces.size() > most) {
                        next = most;
                        most = faces.size();
                        at = BRep_Tool::Pnt(vertexOf(v));
                    } else {
                        next = std::max(next, faces.size());
                    }
                }
                if (most == next) at = corner.point;
            } else if (corner.spread > m_wanted.exact) {
                std::map<int, std::optional<gp_Pnt2d>> faces;   // with a first guess
                for (const int v : corner.vertices)
                    for (const int e : m_edgesAtVertex[v])
                        for (const EdgeUse& use : m_incidence.usesOf(e)) faces.try_emplace(use.face, traceEnd(e, use.face, v));
                std::vector<Handle(Geom_Surface)> surfaces;
                std::vector<std::optional<gp_Pnt2d>> guesses;
                for (const auto& [f, guess] : faces) {
                    surfaces.push_back(m_surfaces[f]);
                    guesses.push_back(guess);
                }
                at = nearestToAll(surfaces, std::move(guesses), at, 3.0 * m_wanted.upTo + corner.spread, m_wanted.exact, steep);
            }
            // At a pole nothing else will do: there one point is a whole side of the face's parameters.
            for (const int v : corner.vertices)
                for (const int e : m_edgesAtVertex[v])
                    if (BRep_Tool::Degenerated(m_incidence.edge(e))) at = polePoint(e).value_or(at);
            const BRep_Builder builder;
            builder.MakeVertex(m_newVertex[c], at, 0.1 * m_wanted.exact);
            m_cornerPoint[c] = at;
        });
    }

    [[nodiscard]] gp_Pnt endOf(const RimPiece& p, bool start) const { return probe(p.edge).value(start ? p.first : p.last); }
    [[nodiscard]] Handle(Geom2d_Curve) oldTrace(int edge, int face) const {
        double first = 0.0, last = 0.0;
        const TopoDS_Face flat = TopoDS::Face(m_incidence.face(face).Oriented(TopAbs_FORWARD));
        return BRep_Tool::CurveOnSurface(TopoDS::Edge(m_incidence.edge(edge).Oriented(TopAbs_FORWARD)), flat, first, last);
    }

    [[nodiscard]] TopoDS_Vertex vertexOf(int number) const {
        for (TopoDS_Iterator it(m_incidence.edge(m_edgesAtVertex[number].front())); it.More(); it.Next())
            if (m_incidence.vertexNumber(it.Value()) == number) return TopoDS::Vertex(it.Value());
        return {};
    }

    [[nodiscard]] std::size_t cornerAt(int collapsedEdge) const {
        return static_cast<std::size_t>(m_rims.cornerOf[static_cast<std::size_t>(m_incidence.vertexNumber(TopExp::FirstVertex(m_incidence.edge(collapsedEdge))))]);
    }

    /// Where the surface of a degenerated edge has shrunk to a point.
    [[nodiscard]] std::optional<gp_Pnt> polePoint(int edge) const {
        Handle(Geom2d_Curve) trace;
        Handle(Geom_Surface) surface;
        TopLoc_Location location;
        double first = 0.0, last = 0.0;
        BRep_Tool::CurveOnSurface(m_incidence.edge(edge), trace, surface, location, first, last);
        if (trace.IsNull() || surface.IsNull()) return std::nullopt;
        const gp_Pnt2d uv = trace->Value(0.5 * (first + last));
        return surface->Value(uv.X(), uv.Y()).Transformed(location.Transformation());
    }

    /// Parameters of a vertex on a face, as one of its edges there tells them.
    [[nodiscard]] std::optional<gp_Pnt2d> traceEnd(int edge, int face, int vertex) const {
        const Handle(Geom2d_Curve) trace = oldTrace(edge, face);
        if (trace.IsNull()) return std::nullopt;
        const TopoDS_Edge shape = TopoDS::Edge(m_incidence.edge(edge).Oriented(TopAbs_FORWARD));
        double first = 0.0, last = 0.0;
        BRep_Tool::Range(shape, first, last);
        return trace->Value(m_incidence.vertexNumber(TopExp::FirstVertex(shape)) == vertex ? first : last);
    }

    /// One side of a pair: where its boundary runs on its surface.
    struct Side {
        const EdgeProbe* probe = nullptr;
        const RimPiece* piece = nullptr;
        Handle(Geom_Surface) surface;
        Handle(Geom2d_Curve) trace;   // null where no guess is needed

        [[nodiscard]] std::optional<gp_Pnt2d> guess(double parameter) const { return trace.IsNull() ? std::nullopt : std::optional(trace->Value(parameter)); }
        [[nodiscard]] std::optional<gp_Pnt2d> guessNear(const gp_Pnt& point) const { return trace.IsNull() ? std::nullopt : guess(probe->nearest(point, piece->first, piece->last).parameter); }
        /// [mm] from the surface; never more than from the boundary's own place on it.
        [[nodiscard]] double off(const gp_Pnt& point, double tolerance) const {
            const auto uv = guessNear(point);
            const double searched = offSurface(surface, point, tolerance, uv);
            return uv ? std::min(searched, surface->Value(uv->X(), uv->Y()).Distance(point)) : searched;
        }
    };
    [[nodiscard]] Side sideOf(const RimPiece& own) const {
        const bool exactKind = GeomAdaptor_Surface(m_surfaces[own.face]).GetType() <= GeomAbs_Torus;
        return {&probe(own.edge), &own, m_surfaces[own.face], exactKind ? Handle(Geom2d_Curve)() : oldTrace(own.edge, own.face)};
    }

    void refuse(Pair& pair, const std::string& why) {
        pair.refused = true;
        const RimPiece &a = piece(pair.a), &b = piece(pair.b);
        m_left.push_back({a.face, b.face, a.most, probe(a.edge).value(0.5 * (a.first + a.last)), why});
    }

    Result<void> makeEdges() {
        tbb::parallel_for(std::size_t{0}, m_pairs.size(), [&](std::size_t i) {
            if (m_progress.cancelled()) return;
            Pair& pair = m_pairs[i];
            const gp_Pnt from = m_cornerPoint[piece(pair.a).from], to = m_cornerPoint[piece(pair.a).to];
            if (pair.shapedAs == pair.joint && from.IsEqual(pair.shapedFrom, 0.0) && to.IsEqual(pair.shapedTo, 0.0)) return;
            // A fault in one pair is that pair's.
            auto made = guarded("Joining two edges", [&]() -> Result<void> { return shapePair(pair); });
            while (!made && made.error().kind == ProblemKind::Internal && pair.joint != Joint::AsTheyAre) {   // again, asking the kernel for less
                pair.joint = pair.joint == Joint::Met ? Joint::Plain : Joint::AsTheyAre;
                made = guarded("Joining two edges", [&]() -> Result<void> { return shapePair(pair); });
            }
            if (!made) {
                pair.refused = true;
                pair.why = made.error().what;
                return;
            }
            pair.shapedAs = pair.joint;
            pair.shapedFrom = m_cornerPoint[piece(pair.a).from];   // sameEdge may have swapped the two
            pair.shapedTo = m_cornerPoint[piece(pair.a).to];
        });
        if (m_progress.cancelled()) return cancelled();
        for (Pair& pair : m_pairs)
            if (pair.refused) {
                refuse(pair, pair.why);
                ++m_again;
            }
        if (m_again > 0) return {};
        for (Pair& pair : m_pairs) buildPairEdge(pair);
        copyOtherEdges();
        return {};
    }

    Result<void> shapePair(Pair& pair) {
        const RimPiece &a = piece(pair.a), &b = piece(pair.b);
        const gp_Pnt from = m_cornerPoint[a.from], to = m_cornerPoint[a.to];
        const double exact = m_wanted.exact;
        // What the file's own tolerance allowed between an edge and its vertex is no gap.
        const auto endsFit = [&](const RimPiece& p) {
            const double own = 2.0 * exact + oldTolerance(p.edge);
            return endOf(p, true).Distance(m_cornerPoint[p.from]) <= own && endOf(p, false).Distance(m_cornerPoint[p.to]) <= own;
        };
        pair.exact = a.most <= exact && endsFit(a) && endsFit(b);
        if (pair.exact) return sameEdge(pair);
        return fittedEdge(pair, from, to);
    }

    /// The two coincide: the simpler curve serves both.
    Result<void> sameEdge(Pair& pair) {
        const auto simple = [&](int p) { return runsOn(untrimmed(piece(p).edge)) ? 0 : 1; };
        if (simple(pair.b) < simple(pair.a)) {
            std::swap(pair.a, pair.b);
        }
        const RimPiece &a = piece(pair.a), &b = piece(pair.b);
        double first = 0.0, last = 0.0;
        pair.curve = BRep_Tool::Curve(m_incidence.edge(a.edge), first, last);
        if (pair.curve.IsNull()) return fittedEdge(pair, m_cornerPoint[a.from], m_cornerPoint[a.to]);
        pair.first = a.first;
        pair.last = a.last;
        pair.alongA = true;
        pair.alongB = !a.against;
        pair.traces[0] = oldTrace(a.edge, a.face);
        // The other face's own trace serves too where its curve runs at the same pace.
        const auto [scale, shift] = stepFrom(a, b);
        const bool planeB = GeomAdaptor_Surface(m_surfaces[b.face]).GetType() == GeomAbs_Plane;
        if (!planeB && inStep(a, b, scale, shift, 2.0 * m_wanted.exact))
            if (const auto own = oldTrace(b.edge, b.face); !own.IsNull()) pair.traces[1] = inOtherStep(own, scale, shift);
        return completeTraces(pair, 4.0 * m_wanted.exact + 1.1 * std::max(oldTolerance(a.edge), oldTolerance(b.edge)));
    }

    [[nodiscard]] Handle(Geom_Curve) untrimmed(int edge) const {
        double first = 0.0, last = 0.0;
        return untrimmedCurve(BRep_Tool::Curve(m_incidence.edge(edge), first, last));
    }

    [[nodiscard]] double probeLength(int edge) const { return EdgeProbe(m_incidence.edge(edge)).length(); }

    /// As received, of an edge and its ends [mm].
    [[nodiscard]] double oldTolerance(int edge) const {
        const TopoDS_Edge shape = m_incidence.edge(edge);
        double most = BRep_Tool::Tolerance(shape);
        for (TopoDS_Iterator it(shape); it.More(); it.Next()) most = std::max(most, BRep_Tool::Tolerance(TopoDS::Vertex(it.Value())));
        return most;
    }

    /// Traces that are missing are made; the edge's tolerance covers what curve and traces differ.
    Result<void> completeTraces(Pair& pair, double allowed) {
        const RimPiece &a = piece(pair.a), &b = piece(pair.b);
        double off = 0.0;
        for (const int side : {0, 1}) {
            const RimPiece& own = side == 0 ? a : b;
            const Handle(Geom_Surface)& surface = m_surfaces[own.face];
            if (pair.traces[side].IsNull()) {
                std::optional<gp_Pnt2d> guess;
                if (const auto old = oldTrace(own.edge, own.face); !old.IsNull()) guess = old->Value((side == 0 ? pair.alongA : pair.alongB) ? own.first : own.last);
                const auto trace = traceOn(surface, pair.curve, pair.first, pair.last, allowed, guess);
                if (!trace) return fail(ProblemKind::NotPossible, fmt::format("the common edge leaves face {}", own.face));
                pair.traces[side] = trace->curve;
            }
            for (int i = 0; i <= 22; ++i) {
                const double at = pair.first + (pair.last - pair.first) * i / 22.0;
                const gp_Pnt2d uv = pair.traces[side]->Value(at);
                const gp_Pnt point = pair.curve->Value(at);
                const double here = surface->Value(uv.X(), uv.Y()).Distance(point);
                if (here > off) {
                    off = here;
                    pair.stepAt = point;
                }
            }
        }
        if (!std::isfinite(off) || off > 2.0 * allowed) return fail(ProblemKind::NotPossible, fmt::format("the common edge would lie {} mm off a face", off));
        pair.step = off;
        pair.tolerance = std::max(1e-7, 1.1 * off);
        return {};
    }

    /// The two do not coincide: a new curve between the corners. First where the surfaces truly meet; else one of the two; else midway.
    Result<void> fittedEdge(Pair& pair, const gp_Pnt& from, const gp_Pnt& to) {
        const RimPiece &a = piece(pair.a), &b = piece(pair.b);
        const Side sideA = sideOf(a), sideB = sideOf(b);
        pair.alongA = true;
        pair.alongB = !a.against;
        const double width = std::max({a.most, m_wanted.exact, endOf(a, true).Distance(from), endOf(a, false).Distance(to), endOf(b, !a.against).Distance(from), endOf(b, a.against).Distance(to)});
        const double fit = std::max(2.0 * m_wanted.exact, 0.01 * width);
        const double angle = angleBetween(sideA, sideB);
        const double reach = std::max(3.0, 1.5 / std::sin(std::max(steep, angle))) * width;
        const auto near = [&](const CurvePiece& candidate) {
            for (int i = 0; i <= 8; ++i) {
                const gp_Pnt point = candidate.curve->Value(candidate.first + (candidate.last - candidate.first) * i / 8.0);
                if (sideA.probe->nearest(point, a.first, a.last).distance > reach || sideB.probe->nearest(point, b.first, b.last).distance > reach) return false;
            }
            return true;
        };
        std::string why = "no common edge was found";
        const auto takes = [&](const std::optional<CurvePiece>& candidate) { return candidate && near(*candidate) && take(pair, *candidate, sideA, sideB, width, fit, why); };
        if (pair.joint == Joint::Met) {
            const auto onBoth = [&](const gp_Pnt& point) { return sideA.off(point, fit) <= fit && sideB.off(point, fit) <= fit; };
            if (angle > steep && a.from != a.to && onBoth(from) && onBoth(to) && takes(meetingCurve(sideA.surface, sideB.surface, from, to, fit))) return {};
            if (angle > steep && a.from == a.to && takes(meetingRing(sideA.surface, sideB.surface, from, sideA.probe->tangent(a.first), fit))) return {};
            if (takes(oneOfTheTwo(sideA, sideB, pair, fit))) return {};
            if (takes(midway(sideA, sideB, from, to, fit, true))) return {};
        }
        if (pair.joint != Joint::AsTheyAre) {
            pair.joint = Joint::Plain;
            if (takes(midway(sideA, sideB, from, to, 0.05 * width, false))) return {};
        }
        pair.joint = Joint::AsTheyAre;
        return asTheyAre(pair, width);
    }

    /// Gives the pair this curve, with traces on both faces, if it lies close enough to both.
    bool take(Pair& pair, const CurvePiece& candidate, const Side& sideA, const Side& sideB, double width, double fit, std::string& why) {
        pair.curve = candidate.curve;
        pair.first = candidate.first;
        pair.last = candidate.last;
        pair.shift = 0.0;
        double off = 0.0;
        for (int i = 0; i <= 16; ++i) {
            const gp_Pnt point = pair.curve->Value(pair.first + (pair.last - pair.first) * i / 16.0);
            for (const Side* side : {&sideA, &sideB}) {
                off = std::max(off, side->off(point, fit));
                if (const double moved = side->probe->nearest(point, side->piece->first, side->piece->last).distance; moved > pair.shift) {
                    pair.shift = moved;
                    pair.shiftAt = point;
                }
            }
        }
        if (off > (pair.joint == Joint::Plain ? std::max(1.5 * width, m_wanted.upTo) : 1.5 * width)) {
            why = fmt::format("the faces stay {:.4g} mm apart", off);
            return false;
        }
        pair.traces = {};
        const auto done = completeTraces(pair, std::max(fit, 12.0 * off));
        if (!done) why = done.error().what;
        return done.has_value();
    }

    /// The curve of the one, and the traces both faces have.
    Result<void> asTheyAre(Pair& pair, double width) {
        const RimPiece &a = piece(pair.a), &b = piece(pair.b);
        double first = 0.0, last = 0.0;
        pair.curve = BRep_Tool::Curve(m_incidence.edge(a.edge), first, last);
        pair.traces = {oldTrace(a.edge, a.face), oldTrace(b.edge, b.face)};
        if (pair.curve.IsNull() || pair.traces[0].IsNull() || pair.traces[1].IsNull()) return fail(ProblemKind::NotPossible, "an edge has no curve of its own");
        pair.first = a.first;
        pair.last = a.last;
        pair.shift = 0.0;
        const auto [scale, shift] = stepFrom(a, b);
        if (auto same = inStep(a, b, scale, shift, 1.5 * width) ? inOtherStep(pair.traces[1], scale, shift) : Handle(Geom2d_Curve)(); !same.IsNull()) pair.traces[1] = same;
        else if (same = atThePaceOf(pair, b); !same.IsNull()) pair.traces[1] = same;
        else return fail(ProblemKind::NotPossible, "the two edges do not run alongside each other evenly");
        return completeTraces(pair, 1.5 * width + std::max(oldTolerance(a.edge), oldTolerance(b.edge)));
    }

    /// b's trace told by a's parameter: point for point the nearest.
    [[nodiscard]] Handle(Geom2d_Curve) atThePaceOf(const Pair& pair, const RimPiece& b) const {
        for (const bool byShare : {false, true})   // of edges shorter than the gap the nearest points run to and fro
            if (const auto trace = pacedTrace(pair, b, byShare); !trace.IsNull()) return trace;
        return {};
    }
    [[nodiscard]] Handle(Geom2d_Curve) pacedTrace(const Pair& pair, const RimPiece& b, bool byShare) const {
        constexpr int count = 33;
        const Handle(TColgp_HArray1OfPnt2d) points = new TColgp_HArray1OfPnt2d(1, count);
        const Handle(TColStd_HArray1OfReal) parameters = new TColStd_HArray1OfReal(1, count);
        double before = pair.alongB ? b.first : b.last;
        for (int i = 0; i < count; ++i) {
            const double at = pair.first + (pair.last - pair.first) * i / (count - 1);
            const double start = pair.alongB ? b.first : b.last, end = pair.alongB ? b.last : b.first;
            const double on = i == 0 ? start : i + 1 == count ? end : byShare ? start + (end - start) * i / (count - 1) : probe(b.edge).nearest(pair.curve->Value(at), b.first, b.last).parameter;
            if (i > 0 && (on - before) * (end - start) <= 0.0) return {};
            before = on;
            points->SetValue(i + 1, pair.traces[1]->Value(on));
            parameters->SetValue(i + 1, at);
        }
        Geom2dAPI_Interpolate interpolation(points, parameters, false, 1e-12);
        interpolation.Perform();
        return interpolation.IsDone() ? Handle(Geom2d_Curve)(interpolation.Curve()) : Handle(Geom2d_Curve)();
    }

    /// Factor and offset that take b's parameter to a's, ends to ends.
    [[nodiscard]] static std::pair<double, double> stepFrom(const RimPiece& a, const RimPiece& b) {
        const double scale = (a.last - a.first) / (b.last - b.first) * (a.against ? -1.0 : 1.0);
        return {scale, (a.against ? a.last : a.first) - scale * b.first};
    }
    [[nodiscard]] bool inStep(const RimPiece& a, const RimPiece& b, double scale, double shift, double within) const {
        for (int i = 0; i <= 8; ++i) {
            const double s = b.first + (b.last - b.first) * i / 8.0;
            if (probe(b.edge).value(s).Distance(probe(a.edge).value(scale * s + shift)) > within) return false;
        }
        return true;
    }

    [[nodiscard]] double angleBetween(const Side& sideA, const Side& sideB) const {
        const gp_Pnt at = sideA.probe->value(0.5 * (sideA.piece->first + sideA.piece->last));
        std::array<gp_Vec, 2> normals;
        for (const int i : {0, 1}) {
            const Side& side = i == 0 ? sideA : sideB;
            const auto uv = parametersOn(side.surface, at, m_wanted.exact, side.guessNear(at));
            if (!uv) return 0.0;
            gp_Pnt point;
            gp_Vec du, dv;
            side.surface->D1(uv->X(), uv->Y(), point, du, dv);
            normals[i] = du.Crossed(dv);
            if (normals[i].SquareMagnitude() < 1e-24) return 0.0;
        }
        const double angle = normals[0].Angle(normals[1]);
        return std::min(angle, M_PI - angle);
    }

    /// One of the two curves as it is, when it lies on both surfaces and ends where it should.
    [[nodiscard]] std::optional<CurvePiece> oneOfTheTwo(const Side& sideA, const Side& sideB, const Pair& pair, double fit) const {
        for (const Side* side : {&sideA, &sideB}) {
            const RimPiece& own = *side->piece;
            double first = 0.0, last = 0.0;
            Handle(Geom_Curve) curve = BRep_Tool::Curve(m_incidence.edge(own.edge), first, last);
            if (curve.IsNull()) continue;
            const Side& other = side == &sideA ? sideB : sideA;
            bool fits = endOf(own, true).Distance(m_cornerPoint[own.from]) <= fit && endOf(own, false).Distance(m_cornerPoint[own.to]) <= fit;
            for (int i = 0; i <= 8 && fits; ++i) fits = other.off(curve->Value(own.first + (own.last - own.first) * i / 8.0), fit) <= fit;
            if (!fits) continue;
            if (side == &sideA || pair.alongB) return CurvePiece{curve, own.first, own.last};
            return CurvePiece{curve->Reversed(), curve->ReversedParameter(own.last), curve->ReversedParameter(own.first)};
        }
        return std::nullopt;
    }

    /// A spline halfway between the two; `settled`: drawn onto both surfaces as closely as they allow.
    [[nodiscard]] std::optional<CurvePiece> midway(const Side& sideA, const Side& sideB, const gp_Pnt& from, const gp_Pnt& to, double fit, bool settled) const {
        const RimPiece &a = *sideA.piece, &b = *sideB.piece;
        const std::vector<Handle(Geom_Surface)> surfaces{sideA.surface, sideB.surface};
        // The corners may lie aside of the two ends' middle: the curve leads over to them.
        const auto middle = [&](double at, double& onOther) {
            const gp_Pnt onA = sideA.probe->value(at);
            onOther = sideB.probe->nearest(onA, b.first, b.last).parameter;
            return gp_Pnt(0.5 * (onA.XYZ() + sideB.probe->value(onOther).XYZ()));
        };
        double unused = 0.0;
        const gp_Vec atStart(middle(a.first, unused), from), atEnd(middle(a.last, unused), to);
        const auto between = [&](double at) {
            double onOther = 0.0;
            const double share = (at - a.first) / (a.last - a.first);
            const gp_Pnt start = middle(at, onOther).Translated(atStart * (1.0 - share) + atEnd * share);
            return settled ? nearestToAll(surfaces, {sideA.guess(at), sideB.guess(onOther)}, start, 3.0 * m_wanted.upTo, fit, steep) : start;
        };
        std::vector<gp_Pnt> known;   // by place in the finest row so far: each row holds the one before and its middles
        const bool straight = sideA.probe->isLine() && sideB.probe->isLine();
        for (int count = straight ? 5 : 17; count <= 129; count = 2 * count - 1) {
            const Handle(TColgp_HArray1OfPnt) points = new TColgp_HArray1OfPnt(1, count);
            const Handle(TColStd_HArray1OfReal) parameters = new TColStd_HArray1OfReal(1, count);
            for (int i = 0; i < count; ++i) {
                parameters->SetValue(i + 1, a.first + (a.last - a.first) * i / (count - 1));
                points->SetValue(i + 1, i == 0 ? from : i + 1 == count ? to : known.empty() ? between(parameters->Value(i + 1)) : known[i]);
            }
            GeomAPI_Interpolate interpolation(points, parameters, false, 1e-9);
            interpolation.Perform();
            if (!interpolation.IsDone()) return std::nullopt;
            const Handle(Geom_BSplineCurve) curve = interpolation.Curve();
            double off = 0.0;   // where it was not told where to go
            known.assign(static_cast<std::size_t>(2 * count - 1), gp_Pnt());
            for (int i = 0; i + 1 < count; ++i) {
                known[2 * i] = points->Value(i + 1);
                const double at = 0.5 * (parameters->Value(i + 1) + parameters->Value(i + 2));
                known[2 * i + 1] = between(at);
                if (i > 0 && i + 2 < count) off = std::max(off, curve->Value(at).Distance(known[2 * i + 1]));
            }
            if (off <= fit || count == 129) return CurvePiece{Handle(Geom_Curve)(curve), a.first, a.last};
        }
        return std::nullopt;
    }

    void putVertices(TopoDS_Edge& edge, const TopoDS_Vertex& from, const TopoDS_Vertex& to, const gp_Pnt& start, const gp_Pnt& end, double tolerance) const {
        const BRep_Builder builder;
        builder.Add(edge, from.Oriented(TopAbs_FORWARD));
        builder.Add(edge, to.Oriented(TopAbs_REVERSED));
        // Two edges that each end within a distance of their vertex may end twice as far from each other.
        builder.UpdateVertex(from, std::max(tolerance, 2.01 * start.Distance(BRep_Tool::Pnt(from))));
        builder.UpdateVertex(to, std::max(tolerance, 2.01 * end.Distance(BRep_Tool::Pnt(to))));
    }

    void buildPairEdge(Pair& pair) {
        const RimPiece &a = piece(pair.a), &b = piece(pair.b);
        const BRep_Builder builder;
        const double tolerance = pair.tolerance;
        builder.MakeEdge(pair.edge, pair.curve, tolerance);
        putVertices(pair.edge, m_newVertex[a.from], m_newVertex[a.to], pair.curve->Value(pair.first), pair.curve->Value(pair.last), tolerance);
        const auto put = [&](int face, const Handle(Geom2d_Curve)& trace) {
            TopLoc_Location location;
            const Handle(Geom_Surface) surface = BRep_Tool::Surface(m_incidence.face(face), location);
            builder.UpdateEdge(pair.edge, trace, surface, location, tolerance);
        };
        if (a.face == b.face) {   // a seam
            TopLoc_Location location;
            const Handle(Geom_Surface) surface = BRep_Tool::Surface(m_incidence.face(a.face), location);
            const bool forward = m_incidence.usesOf(a.edge).front().forward == pair.alongA;
            builder.UpdateEdge(pair.edge, forward ? pair.traces[0] : pair.traces[1], forward ? pair.traces[1] : pair.traces[0], surface, location, tolerance);
        } else {
            put(a.face, pair.traces[0]);
            put(b.face, pair.traces[1]);
        }
        for (const int side : {0, 1})   // where a face's own boundary ends belongs to the vertex too
            for (const bool start : {true, false}) {
                const gp_Pnt2d uv = pair.traces[side]->Value(start ? pair.first : pair.last);
                const TopoDS_Vertex& vertex = m_newVertex[start ? a.from : a.to];
                builder.UpdateVertex(vertex, 1.01 * m_surfaces[side == 0 ? a.face : b.face]->Value(uv.X(), uv.Y()).Distance(BRep_Tool::Pnt(vertex)));
            }
        builder.Range(pair.edge, pair.first, pair.last);
        builder.SameRange(pair.edge, true);
        builder.SameParameter(pair.edge, true);
    }

    /// Edges that are not joined but end at a joined corner, or were cut: copies that end at the new vertices.
    void copyOtherEdges() {
        for (int e = 1; e <= m_incidence.edgeCount(); ++e) {
            if (m_collapsed.contains(e)) continue;
            const TopoDS_Edge old = TopoDS::Edge(m_incidence.edge(e).Oriented(TopAbs_FORWARD));
            const std::vector<int>& pieces = m_piecesOf[e];
            const bool joined = std::any_of(pieces.begin(), pieces.end(), [&](int p) { return m_pairOfPiece[p] >= 0; });
            const TopoDS_Vertex from = TopExp::FirstVertex(old), to = TopExp::LastVertex(old);
            if (from.IsNull() || to.IsNull()) continue;
            if (!joined) {
                const TopoDS_Vertex newFrom = replacementOf(from), newTo = replacementOf(to);
                if (newFrom.IsSame(from) && newTo.IsSame(to)) continue;
                double first = 0.0, last = 0.0;
                BRep_Tool::Range(old, first, last);
                m_replaced[e].push_back({copied(old, e, first, last, newFrom, newTo), true});
                continue;
            }
            for (const int p : pieces) {
                if (const int i = m_pairOfPiece[p]; i >= 0) {
                    const Pair& pair = m_pairs[i];
                    m_replaced[e].push_back({pair.edge, pair.a == p ? pair.alongA : pair.alongB});
                    continue;
                }
                const RimPiece& own = piece(p);
                const auto at = [&](int corner, const TopoDS_Vertex& end, bool isEnd) { return !m_newVertex[corner].IsNull() ? m_newVertex[corner] : isEnd ? end : TopoDS_Vertex(); };
                const TopoDS_Vertex start = at(own.from, from, p == pieces.front()), end = at(own.to, to, p == pieces.back());
                m_replaced[e].push_back({copied(old, e, own.first, own.last, start, end), true});
            }
        }
    }

    [[nodiscard]] TopoDS_Vertex replacementOf(const TopoDS_Vertex& vertex) const {
        const int corner = m_rims.cornerOf[static_cast<std::size_t>(m_incidence.vertexNumber(vertex))];
        return corner >= 0 && !m_newVertex[corner].IsNull() ? m_newVertex[corner] : vertex;
    }

    TopoDS_Edge copied(const TopoDS_Edge& old, int number, double first, double last, const TopoDS_Vertex& from, const TopoDS_Vertex& to) const {
        TopoDS_Edge edge = TopoDS::Edge(old.EmptyCopied());
        const BRep_Builder builder;
        gp_Pnt start = BRep_Tool::Pnt(from), end = BRep_Tool::Pnt(to);
        if (!BRep_Tool::Degenerated(old)) {
            double f = 0.0, l = 0.0;
            const Handle(Geom_Curve) curve = BRep_Tool::Curve(old, f, l);
            if (!curve.IsNull()) {
                const double newFirst = trimmedEnd(curve, number, first, first, last, start), newLast = trimmedEnd(curve, number, last, first, last, end);
                if (newFirst < newLast) {
                    first = newFirst;
                    last = newLast;
                }
                start = curve->Value(first);
                end = curve->Value(last);
            }
            builder.Range(edge, first, last);
        }
        // Over another range an edge that kept its tolerance narrowly may not.
        double oldFirst = 0.0, oldLast = 0.0;
        BRep_Tool::Range(old, oldFirst, oldLast);
        const bool same = first == oldFirst && last == oldLast;
        const double tolerance = same ? BRep_Tool::Tolerance(old) : std::max(BRep_Tool::Tolerance(old), 1.05 * offTraces(edge, number, first, last));
        builder.UpdateEdge(edge, tolerance);
        putVertices(edge, from, to, start, end, tolerance);
        return edge;
    }

    /// [mm] by which an edge's curve leaves its traces.
    [[nodiscard]] double offTraces(const TopoDS_Edge& edge, int number, double first, double last) const {
        double f = 0.0, l = 0.0, off = 0.0;
        const Handle(Geom_Curve) curve = BRep_Tool::Curve(edge, f, l);
        if (curve.IsNull()) return 0.0;
        for (const EdgeUse& use : m_incidence.usesOf(number)) {
            const TopoDS_Face flat = TopoDS::Face(m_incidence.face(use.face).Oriented(TopAbs_FORWARD));
            const Handle(Geom2d_Curve) trace = BRep_Tool::CurveOnSurface(TopoDS::Edge(edge.Oriented(use.forward ? TopAbs_FORWARD : TopAbs_REVERSED)), flat, f, l);
            if (trace.IsNull()) continue;
            for (int i = 0; i <= 46; ++i) {
                const double at = first + (last - first) * i / 46.0;
                const gp_Pnt2d uv = trace->Value(at);
                off = std::max(off, m_surfaces[use.face]->Value(uv.X(), uv.Y()).Distance(curve->Value(at)));
            }
        }
        return off;
    }

    /// Where a curve ends that should now end near `point`: drawn back or carried on, the latter only where curve and traces run on exactly.
    [[nodiscard]] double trimmedEnd(const Handle(Geom_Curve)& curve, int edge, double end, double first, double last, const gp_Pnt& point) const {
        gp_Pnt here;
        gp_Vec along;
        curve->D1(end, here, along);
        if (here.Distance(point) <= m_wanted.exact || along.SquareMagnitude() < 1e-24) return end;
        const double wanted = end + gp_Vec(here, point).Dot(along) / along.SquareMagnitude();
        if (wanted >= first && wanted <= last) return std::abs(wanted - end) < 0.25 * (last - first) ? wanted : end;
        if (!runsOn(untrimmedCurve(curve))) return end;
        for (const EdgeUse& use : m_incidence.usesOf(edge)) {
            const Handle(Geom2d_Curve) trace = oldTrace(edge, use.face);
            if (trace.IsNull() || !(trace->IsKind(STANDARD_TYPE(Geom2d_Line)) || trace->IsKind(STANDARD_TYPE(Geom2d_Conic)))) return end;
        }
        return wanted;
    }

    void rebuildFaces() {
        for (int f = 1; f <= m_incidence.faceCount(); ++f) {
            m_faces[f] = m_incidence.face(f);
            bool touched = false;
            for (TopExp_Explorer it(m_faces[f], TopAbs_EDGE); it.More() && !touched; it.Next()) touched = !m_replaced[m_incidence.edgeNumber(it.Current())].empty() || m_collapsed.contains(m_incidence.edgeNumber(it.Current()));
            if (!touched) continue;
            m_changed[f] = true;
            const TopoDS_Face old = TopoDS::Face(m_faces[f].Oriented(TopAbs_FORWARD));
            TopoDS_Face made = TopoDS::Face(old.EmptyCopied());
            const BRep_Builder builder;
            bool any = false;
            for (TopoDS_Iterator it(old); it.More(); it.Next()) {
                if (it.Value().ShapeType() != TopAbs_WIRE) {
                    builder.Add(made, it.Value());
                    continue;
                }
                TopoDS_Wire wire;
                builder.MakeWire(wire);
                bool left = false;
                for (TopoDS_Iterator at(it.Value().Oriented(TopAbs_FORWARD)); at.More(); at.Next()) {
                    const int number = m_incidence.edgeNumber(at.Value());
                    if (m_collapsed.contains(number)) continue;
                    left = true;
                    const auto& parts = m_replaced[number];
                    if (parts.empty()) {
                        builder.Add(wire, at.Value());
                        continue;
                    }
                    const TopAbs_Orientation way = at.Value().Orientation();
                    const auto add = [&](const Replacement& part) { builder.Add(wire, part.edge.Oriented(part.along ? way : TopAbs::Reverse(way))); };
                    if (way == TopAbs_REVERSED) std::for_each(parts.rbegin(), parts.rend(), add);
                    else std::for_each(parts.begin(), parts.end(), add);
                }
                if (!left) continue;
                any = true;
                wire.Closed(it.Value().Closed());
                fitTraceEnds(wire, old);
                fitPoles(wire, old);
                builder.Add(made, wire.Oriented(it.Value().Orientation()));
            }
            if (!any) m_faces[f] = TopoDS_Face();
            else m_faces[f] = TopoDS::Face(made.Oriented(m_incidence.face(f).Orientation()));
        }
    }

    /// On surfaces that are none of the simple kinds a small distance in space may be a large one in the parameters: there the traces of
    /// new edges end exactly where their neighbours' do.
    void fitTraceEnds(const TopoDS_Wire& wire, const TopoDS_Face& face) const {
        TopLoc_Location location;
        const Handle(Geom_Surface) surface = BRep_Tool::Surface(face, location);
        if (GeomAdaptor_Surface(surface).GetType() <= GeomAbs_Torus) return;
        struct End {
            TopoDS_Edge edge;
            bool last = false, fixed = false;
            gp_Pnt2d uv;
            TopoDS_Vertex vertex;
        };
        std::vector<End> ends;
        double reach = 0.0;
        for (TopoDS_Iterator it(wire); it.More(); it.Next()) {
            const TopoDS_Edge edge = TopoDS::Edge(it.Value());
            double first = 0.0, last = 0.0;
            const Handle(Geom2d_Curve) trace = BRep_Tool::CurveOnSurface(edge, face, first, last);
            if (trace.IsNull()) return;
            const TopoDS_Edge forward = TopoDS::Edge(edge.Oriented(TopAbs_FORWARD));
            // Edges as received are not ours to change, seams have two traces, and lines bend nowhere: the others come to them.
            const bool fixed = m_incidence.edgeNumber(edge) > 0 || BRep_Tool::Degenerated(edge) || BRep_Tool::IsClosed(edge, face) || !trace->IsKind(STANDARD_TYPE(Geom2d_BSplineCurve)) || Handle(Geom2d_BSplineCurve)::DownCast(trace)->IsPeriodic();
            ends.push_back({edge, false, fixed, trace->Value(first), TopExp::FirstVertex(forward)});
            ends.push_back({edge, true, fixed, trace->Value(last), TopExp::LastVertex(forward)});
            reach = std::max(reach, trace->Value(first).Distance(trace->Value(0.5 * (first + last))));
        }
        for (std::size_t i = 0; i < ends.size(); ++i) {
            if (ends[i].fixed) continue;
            std::optional<gp_Pnt2d> anchor;
            double nearest = 1e-2 * reach;
            for (std::size_t j = 0; j < ends.size(); ++j)
                if (j != i && ends[j].vertex.IsSame(ends[i].vertex) && (ends[j].fixed || j < i))
                    if (const double distance = ends[j].uv.Distance(ends[i].uv); distance < nearest) {
                        nearest = distance;
                        anchor = ends[j].uv;
                    }
            if (!anchor || nearest < 1e-12) continue;
            double first = 0.0, last = 0.0;
            const TopoDS_Edge forward = TopoDS::Edge(ends[i].edge.Oriented(TopAbs_FORWARD));
            const Handle(Geom2d_BSplineCurve) fitted = Handle(Geom2d_BSplineCurve)::DownCast(BRep_Tool::CurveOnSurface(forward, face, first, last)->Copy());
            if (std::abs(fitted->FirstParameter() - first) > 1e-12 || std::abs(fitted->LastParameter() - last) > 1e-12) continue;   // part of a longer trace: not ours
            fitted->SetPole(ends[i].last ? fitted->NbPoles() : 1, *anchor);
            const gp_Pnt was = surface->Value(ends[i].uv.X(), ends[i].uv.Y()), now = surface->Value(anchor->X(), anchor->Y());
            const BRep_Builder builder;
            builder.UpdateEdge(forward, fitted, surface, location, BRep_Tool::Tolerance(forward) + was.Distance(now));
            builder.UpdateVertex(ends[i].vertex, BRep_Tool::Tolerance(forward));
            ends[i].uv = *anchor;
        }
    }

    /// Degenerated edges lead from where the side before them now ends to where the one behind begins.
    static void fitPoles(TopoDS_Wire& wire, const TopoDS_Face& face) {
        std::vector<TopoDS_Edge> edges;
        bool any = false;
        for (TopoDS_Iterator it(wire); it.More(); it.Next()) {
            edges.push_back(TopoDS::Edge(it.Value()));
            any = any || BRep_Tool::Degenerated(edges.back());
        }
        if (!any) return;
        TopLoc_Location location;
        const Handle(Geom_Surface) surface = BRep_Tool::Surface(face, location);
        const BRep_Builder builder;
        TopoDS_Wire fitted;
        builder.MakeWire(fitted);
        for (const TopoDS_Edge& edge : edges) {
            double first = 0.0, last = 0.0;
            const Handle(Geom2d_Curve) trace = BRep_Tool::Degenerated(edge) ? BRep_Tool::CurveOnSurface(TopoDS::Edge(edge.Oriented(TopAbs_FORWARD)), face, first, last) : Handle(Geom2d_Curve)();
            if (trace.IsNull()) {
                builder.Add(fitted, edge);
                continue;
            }
            const TopoDS_Vertex pole = TopExp::FirstVertex(edge);
            std::array<gp_Pnt2d, 2> ends{trace->Value(first), trace->Value(last)};
            for (gp_Pnt2d& end : ends) {
                gp_Pnt2d nearest = end;
                double distance = std::numeric_limits<double>::max();
                for (const TopoDS_Edge& beside : edges) {
                    if (BRep_Tool::Degenerated(beside)) continue;
                    double f = 0.0, l = 0.0;
                    const Handle(Geom2d_Curve) other = BRep_Tool::CurveOnSurface(beside, face, f, l);   // of this use: a seam has two
                    if (other.IsNull()) continue;
                    const TopoDS_Edge forward = TopoDS::Edge(beside.Oriented(TopAbs_FORWARD));
                    for (const auto& [vertex, at] : {std::pair{TopExp::FirstVertex(forward), f}, {TopExp::LastVertex(forward), l}})
                        if (vertex.IsSame(pole))
                            if (const gp_Pnt2d uv = other->Value(at); uv.Distance(end) < distance) {
                                distance = uv.Distance(end);
                                nearest = uv;
                            }
                }
                end = nearest;
            }
            const gp_Vec2d along(ends[0], ends[1]);
            if (along.Magnitude() < 1e-12) {
                builder.Add(fitted, edge);
                continue;
            }
            TopoDS_Edge fresh;
            builder.MakeEdge(fresh);
            builder.UpdateEdge(fresh, new Geom2d_Line(ends[0], gp_Dir2d(along)), surface, location, BRep_Tool::Tolerance(edge));
            builder.Add(fresh, pole.Oriented(TopAbs_FORWARD));
            builder.Add(fresh, pole.Oriented(TopAbs_REVERSED));
            builder.Range(fresh, 0.0, along.Magnitude());
            builder.Degenerated(fresh, true);
            builder.Add(fitted, fresh.Oriented(edge.Orientation()));
        }
        fitted.Closed(wire.Closed());
        wire = fitted;
    }

    /// All that decides how a face was rebuilt: by piece of its edges, the joint and where it ends.
    [[nodiscard]] std::vector<double> boundaryOf(int face) const {
        std::vector<double> told;
        for (const int e : m_incidence.edgesOf(face)) {
            for (TopoDS_Iterator it(m_incidence.edge(e)); it.More(); it.Next()) {
                const int corner = m_rims.cornerOf[static_cast<std::size_t>(m_incidence.vertexNumber(it.Value()))];
                if (corner < 0 || m_newVertex[corner].IsNull()) continue;
                const gp_Pnt at = m_cornerPoint[corner];
                told.insert(told.end(), {at.X(), at.Y(), at.Z()});
            }
            told.push_back(m_collapsed.contains(e) ? -2.0 : -1.0);
            for (const int p : m_piecesOf[e])
                if (const int i = m_pairOfPiece[p]; i >= 0) {
                    const Pair& pair = m_pairs[i];
                    const gp_Pnt from = m_cornerPoint[piece(p).from], to = m_cornerPoint[piece(p).to];
                    told.insert(told.end(), {static_cast<double>(pair.a), static_cast<double>(pair.joint), from.X(), from.Y(), from.Z(), to.X(), to.Y(), to.Z()});
                }
        }
        return told;
    }

    /// Faces that were sound and no longer are: the pairs at them that moved something are joined more plainly, or taken back.
    void spoiledFaces(bool mayBePlainer) {
        // Where edges that coincide became one and nothing moved, each face has the boundary it had.
        std::vector<char> moved(m_faces.size(), false);
        for (const Pair& pair : m_pairs) {
            const RimPiece &a = piece(pair.a), &b = piece(pair.b);
            const double before = std::max(oldTolerance(a.edge), oldTolerance(b.edge));
            if (!pair.exact || pair.tolerance > 2.0 * before + 2.0 * m_wanted.exact) moved[a.face] = moved[b.face] = true;
        }
        for (std::size_t c = 0; c < m_rims.corners.size(); ++c)
            if (!m_newVertex[c].IsNull() && m_rims.corners[c].spread > m_wanted.exact)
                for (const int v : m_rims.corners[c].vertices)
                    for (const int e : m_edgesAtVertex[v])
                        for (const EdgeUse& use : m_incidence.usesOf(e)) moved[use.face] = true;
        std::vector<int> changed;
        for (int f = 1; f <= m_incidence.faceCount(); ++f)
            if (m_changed[f] && moved[f] && !m_faces[f].IsNull()) changed.push_back(f);
        std::vector<char> spoiled(m_faces.size(), false), wholly(m_faces.size(), false);
        tbb::parallel_for(std::size_t{0}, changed.size(), [&](std::size_t i) {
            const int f = changed[i];
            // A face whose joints and corners are those of the round before keeps its verdict.
            std::vector<double> now = boundaryOf(f);
            if (now == m_checked[f].boundary) {
                spoiled[f] = m_checked[f].spoiled;
                return;
            }
            spoiled[f] = !soundFace(m_faces[f]) && soundFace(m_incidence.face(f));
            m_checked[f] = {std::move(now), spoiled[f] != 0};
        });
        // First suspects are the edges that shrank.
        std::erase_if(m_collapsed, [&](int e) {
            const auto c = cornerAt(e);
            for (const int v : m_rims.corners[c].vertices)
                for (const int at : m_edgesAtVertex[v])
                    for (const EdgeUse& use : m_incidence.usesOf(at))
                        if (spoiled[use.face]) {
                            ++m_again;
                            m_spoiledByCollapse = true;
                            m_stayed.push_back({use.face, use.face, probeLength(e), m_rims.corners[c].point, "a face would cross itself"});
                            return true;
                        }
            return false;
        });
        if (m_again > 0) return;
        // Where single edges are seen to be at fault, their pairs are meant, and what they end at; else all of the face.
        std::vector<char> spoiledCorner(m_rims.corners.size(), false), guilty(m_pairs.size(), false);
        std::map<const TopoDS_TShape*, std::size_t> pairOf;
        for (std::size_t i = 0; i < m_pairs.size(); ++i) pairOf[m_pairs[i].edge.TShape().get()] = i;
        for (int f = 1; f <= m_incidence.faceCount(); ++f) {
            if (!spoiled[f]) continue;
            wholly[f] = true;
            if (m_incidence.edgesOf(f).size() <= 8) continue;
            for (const TopoDS_Edge& edge : edgesAtFault(m_faces[f])) {
                for (const TopoDS_Vertex& end : {TopExp::FirstVertex(edge), TopExp::LastVertex(edge)})
                    for (std::size_t c = 0; c < m_newVertex.size(); ++c)
                        if (!m_newVertex[c].IsNull() && m_newVertex[c].IsSame(end)) spoiledCorner[c] = true;
                const auto pair = pairOf.find(edge.TShape().get());
                if (pair == pairOf.end() || (m_pairs[pair->second].exact && m_pairs[pair->second].joint == Joint::AsTheyAre)) continue;
                guilty[pair->second] = true;
                wholly[f] = false;
            }
        }
        // A face can also suffer at a corner alone, where others are joined.
        for (int f = 1; f <= m_incidence.faceCount(); ++f)
            if (wholly[f])
                for (const int e : m_incidence.edgesOf(f))
                    for (TopoDS_Iterator it(m_incidence.edge(e)); it.More(); it.Next())
                        if (const int c = m_rims.cornerOf[static_cast<std::size_t>(m_incidence.vertexNumber(it.Value()))]; c >= 0) spoiledCorner[c] = true;
        const auto touches = [&](const Pair& pair) {
            const RimPiece &a = piece(pair.a), &b = piece(pair.b);
            return guilty[static_cast<std::size_t>(&pair - m_pairs.data())] || wholly[a.face] || wholly[b.face] || spoiledCorner[a.from] || spoiledCorner[a.to];
        };
        if (mayBePlainer)
            for (Pair& pair : m_pairs)
                if (!pair.exact && pair.joint != Joint::AsTheyAre && touches(pair)) {
                    pair.joint = pair.joint == Joint::Met ? Joint::Plain : Joint::AsTheyAre;
                    ++m_again;
                }
        for (const bool exactToo : {false, true}) {
            if (m_again > 0) return;
            // Those first whose gap is widest for their length: where a face has many, few of them are at fault.
            std::vector<std::pair<double, Pair*>> suspects;
            for (Pair& pair : m_pairs)
                if ((!pair.exact || exactToo) && touches(pair)) suspects.emplace_back(piece(pair.a).most / std::max(piece(pair.a).length, m_wanted.exact), &pair);
            std::sort(suspects.begin(), suspects.end(), [](const auto& x, const auto& y) { return std::tie(y.first, x.second) < std::tie(x.first, y.second); });
            const std::size_t share = m_refusals == 0 ? 8 : m_refusals == 1 ? 3 : 1;
            const std::size_t most = suspects.size() <= 8 ? suspects.size() : (suspects.size() + share - 1) / share;
            for (std::size_t i = 0; i < most; ++i) {
                refuse(*suspects[i].second, "a face would cross itself");
                ++m_again;
            }
            if (m_again > 0) ++m_refusals;
        }
    }

    void finish(Stitched& result) {
        m_progress.report(0.9, "Putting bodies together");
        // Solids that were not touched stay; all else is put together anew.
        std::vector<TopoDS_Shape> intact;
        TopTools_MapOfShape inIntact;
        for (TopExp_Explorer solid(m_shape, TopAbs_SOLID); solid.More(); solid.Next()) {
            bool touched = false;
            for (TopExp_Explorer face(solid.Current(), TopAbs_FACE); face.More() && !touched; face.Next()) touched = m_changed[m_incidence.faceNumber(face.Current())] != 0;
            if (touched) continue;
            intact.push_back(solid.Current());
            for (TopExp_Explorer face(solid.Current(), TopAbs_FACE); face.More(); face.Next()) inIntact.Add(face.Current());
        }
        std::vector<TopoDS_Face> loose;
        for (int f = 1; f <= m_incidence.faceCount(); ++f)
            if (!m_faces[f].IsNull() && !inIntact.Contains(m_faces[f])) loose.push_back(m_faces[f]);
        result.bodies = bodiesFrom(loose);
        result.shape = result.bodies.shape;
        if (!intact.empty()) {
            TopoDS_Compound all;
            const BRep_Builder builder;
            builder.MakeCompound(all);
            for (const TopoDS_Shape& solid : intact) builder.Add(all, solid);
            if (result.shape.ShapeType() == TopAbs_COMPOUND)
                for (TopoDS_Iterator it(result.shape); it.More(); it.Next()) builder.Add(all, it.Value());
            else builder.Add(all, result.shape);
            result.shape = all;
            result.bodies.solids += static_cast<int>(intact.size());
        }
        for (const Pair& pair : m_pairs) {
            ++result.joined;
            result.widest = std::max(result.widest, piece(pair.a).most);
            if (pair.shift > result.largestShift) {
                result.largestShift = pair.shift;
                result.shiftAt = pair.shiftAt;
            }
            if (!pair.exact && pair.step > result.largestStep) {
                result.largestStep = pair.step;
                result.stepAt = pair.stepAt;
            }
        }
        result.collapsed = m_collapsed.size();
        result.left = std::move(m_left);
        result.left.insert(result.left.end(), m_stayed.begin(), m_stayed.end());
        TopTools_IndexedMapOfShape faces, edges;
        TopExp::MapShapes(result.shape, TopAbs_FACE, faces);
        TopExp::MapShapes(result.shape, TopAbs_EDGE, edges);
        for (int f = 1; f <= m_incidence.faceCount(); ++f) 
            result.lineage.faces.push_back(m_faces[f].IsNull() ? Link{Descent::Gone, f, 0} : Link{m_changed[f] ? Descent::Changed : Descent::Kept, f, faces.FindIndex(m_faces[f])});
        for (int e = 1; e <= m_incidence.edgeCount(); ++e) {
            const auto& parts = m_replaced[e];
            if (m_collapsed.contains(e)) result.lineage.edges.push_back({Descent::Gone, e, 0});
            else if (parts.empty()) result.lineage.edges.push_back({Descent::Kept, e, edges.FindIndex(m_incidence.edge(e))});
            else
                for (const Replacement& part : parts)
                    result.lineage.edges.push_back({parts.size() > 1 ? Descent::Split : m_incidence.facesAt(e) == 1 ? Descent::Merged : Descent::Changed, e, edges.FindIndex(part.edge)});
        }
    }
};

}  // namespace

Result<Stitched> stitch(const Incidence& incidence, const TopoDS_Shape& shape, const StitchWanted& wanted, Progress& progress) { return Stitcher(incidence, shape, wanted, progress).run(); }

}  // namespace rasoir::mend
