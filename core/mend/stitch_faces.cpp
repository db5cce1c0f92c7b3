#include <tbb/parallel_for.h>

#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <Geom2d_BSplineCurve.hxx>
#include <Geom2d_Conic.hxx>
#include <Geom2d_Line.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <map>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Iterator.hxx>

#include "common/tolerance.h"
#include "geometry/curves.h"
#include "mend/stitcher.h"
#include "topology/making.h"
#include "topology/soundness.h"

namespace rasoir::mend {

void Stitcher::buildPairEdge(Pair& pair) {
    const RimPiece &a = piece(pair.a), &b = piece(pair.b);
    const double tolerance = pair.tolerance;
    pair.edge = edgeAlong(pair.curve, pair.first, pair.last, m_newVertex[a.from], m_newVertex[a.to], tolerance);
    widenEnds(pair.edge);
    const auto put = [&](int face, const Handle(Geom2d_Curve) & trace) {
        TopLoc_Location location;
        const Handle(Geom_Surface) surface = BRep_Tool::Surface(m_incidence.face(face), location);
        putTrace(pair.edge, trace, surface, location, tolerance);
    };
    if (a.face == b.face) {  // a seam
        TopLoc_Location location;
        const Handle(Geom_Surface) surface = BRep_Tool::Surface(m_incidence.face(a.face), location);
        const bool forward = m_incidence.usesOf(a.edge).front().forward == pair.alongA;
        putTraces(pair.edge, forward ? pair.traces[0] : pair.traces[1], forward ? pair.traces[1] : pair.traces[0],
                  surface, location, tolerance);
    } else {
        put(a.face, pair.traces[0]);
        put(b.face, pair.traces[1]);
    }
    for (const int side : {0, 1})  // where a face's own boundary ends belongs to the vertex too
        for (const bool start : {true, false}) {
            const gp_Pnt2d uv = pair.traces[side]->Value(start ? pair.first : pair.last);
            const TopoDS_Vertex& vertex = m_newVertex[start ? a.from : a.to];
            BRep_Builder().UpdateVertex(
                vertex,
                1.01 * m_surfaces[side == 0 ? a.face : b.face]->Value(uv.X(), uv.Y()).Distance(BRep_Tool::Pnt(vertex)));
        }
}

void Stitcher::copyOtherEdges() {
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
            const auto at = [&](int corner, const TopoDS_Vertex& end, bool isEnd) {
                return !m_newVertex[corner].IsNull() ? m_newVertex[corner] : isEnd ? end : TopoDS_Vertex();
            };
            const TopoDS_Vertex start = at(own.from, from, p == pieces.front()),
                                end = at(own.to, to, p == pieces.back());
            m_replaced[e].push_back({copied(old, e, own.first, own.last, start, end), true});
        }
    }
}

TopoDS_Vertex Stitcher::replacementOf(const TopoDS_Vertex& vertex) const {
    const int corner = m_rims.cornerOf[static_cast<std::size_t>(m_incidence.vertexNumber(vertex))];
    return corner >= 0 && !m_newVertex[corner].IsNull() ? m_newVertex[corner] : vertex;
}

TopoDS_Edge Stitcher::copied(const TopoDS_Edge& old, int number, double first, double last, const TopoDS_Vertex& from,
                             const TopoDS_Vertex& to) const {
    TopoDS_Edge edge = TopoDS::Edge(old.EmptyCopied());
    const BRep_Builder builder;
    const gp_Pnt start = BRep_Tool::Pnt(from), end = BRep_Tool::Pnt(to);
    if (!BRep_Tool::Degenerated(old)) {
        double f = 0.0, l = 0.0;
        const Handle(Geom_Curve) curve = BRep_Tool::Curve(old, f, l);
        if (!curve.IsNull()) {
            const double newFirst = trimmedEnd(curve, number, first, first, last, start),
                         newLast = trimmedEnd(curve, number, last, first, last, end);
            if (newFirst < newLast) {
                first = newFirst;
                last = newLast;
            }
        }
        builder.Range(edge, first, last);
    }
    // Over another range an edge that kept its tolerance narrowly may not.
    double oldFirst = 0.0, oldLast = 0.0;
    BRep_Tool::Range(old, oldFirst, oldLast);
    const bool same = first == oldFirst && last == oldLast;
    const double tolerance = same ? BRep_Tool::Tolerance(old)
                                  : std::max(BRep_Tool::Tolerance(old), 1.05 * offTraces(edge, number, first, last));
    builder.UpdateEdge(edge, tolerance);
    putEnds(edge, from, to);
    widenEnds(edge);
    return edge;
}

double Stitcher::offTraces(const TopoDS_Edge& edge, int number, double first, double last) const {
    double f = 0.0, l = 0.0, off = 0.0;
    const Handle(Geom_Curve) curve = BRep_Tool::Curve(edge, f, l);
    if (curve.IsNull()) return 0.0;
    for (const EdgeUse& use : m_incidence.usesOf(number)) {
        const TopoDS_Face flat = TopoDS::Face(m_incidence.face(use.face).Oriented(TopAbs_FORWARD));
        const Handle(Geom2d_Curve) trace = BRep_Tool::CurveOnSurface(
            TopoDS::Edge(edge.Oriented(use.forward ? TopAbs_FORWARD : TopAbs_REVERSED)), flat, f, l);
        if (trace.IsNull()) continue;
        for (int i = 0; i <= 46; ++i) {
            const double at = first + (last - first) * i / 46.0;
            const gp_Pnt2d uv = trace->Value(at);
            off = std::max(off, m_surfaces[use.face]->Value(uv.X(), uv.Y()).Distance(curve->Value(at)));
        }
    }
    return off;
}

double Stitcher::trimmedEnd(const Handle(Geom_Curve) & curve, int edge, double end, double first, double last,
                            const gp_Pnt& point) const {
    gp_Pnt here;
    gp_Vec along;
    curve->D1(end, here, along);
    if (here.Distance(point) <= m_wanted.exact || along.SquareMagnitude() < Tolerance::noLengthSquare) return end;
    const double wanted = end + gp_Vec(here, point).Dot(along) / along.SquareMagnitude();
    if (wanted >= first && wanted <= last) return std::abs(wanted - end) < 0.25 * (last - first) ? wanted : end;
    if (!runsOn(untrimmedCurve(curve))) return end;
    for (const EdgeUse& use : m_incidence.usesOf(edge)) {
        const Handle(Geom2d_Curve) trace = oldTrace(edge, use.face);
        if (trace.IsNull() ||
            !(trace->IsKind(STANDARD_TYPE(Geom2d_Line)) || trace->IsKind(STANDARD_TYPE(Geom2d_Conic))))
            return end;
    }
    return wanted;
}

void Stitcher::rebuildFaces() {
    for (int f = 1; f <= m_incidence.faceCount(); ++f) {
        m_faces[f] = m_incidence.face(f);
        bool touched = false;
        for (TopExp_Explorer it(m_faces[f], TopAbs_EDGE); it.More() && !touched; it.Next())
            touched = !m_replaced[m_incidence.edgeNumber(it.Current())].empty() ||
                      m_collapsed.contains(m_incidence.edgeNumber(it.Current()));
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
                const auto add = [&](const Replacement& part) {
                    builder.Add(wire, part.edge.Oriented(part.along ? way : TopAbs::Reverse(way)));
                };
                if (way == TopAbs_REVERSED)
                    std::for_each(parts.rbegin(), parts.rend(), add);
                else
                    std::for_each(parts.begin(), parts.end(), add);
            }
            if (!left) continue;
            any = true;
            wire.Closed(it.Value().Closed());
            fitTraceEnds(wire, old);
            fitPoles(wire, old);
            builder.Add(made, wire.Oriented(it.Value().Orientation()));
        }
        if (!any)
            m_faces[f] = TopoDS_Face();
        else
            m_faces[f] = TopoDS::Face(made.Oriented(m_incidence.face(f).Orientation()));
    }
}

void Stitcher::fitTraceEnds(const TopoDS_Wire& wire, const TopoDS_Face& face) const {
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
        // Edges as received are not ours to change, seams have two traces, and lines bend nowhere: the others come to
        // them.
        const bool fixed = m_incidence.edgeNumber(edge) > 0 || BRep_Tool::Degenerated(edge) ||
                           BRep_Tool::IsClosed(edge, face) || !trace->IsKind(STANDARD_TYPE(Geom2d_BSplineCurve)) ||
                           Handle(Geom2d_BSplineCurve)::DownCast(trace)->IsPeriodic();
        ends.push_back({edge, false, fixed, trace->Value(first), TopExp::FirstVertex(forward)});
        ends.push_back({edge, true, fixed, trace->Value(last), TopExp::LastVertex(forward)});
        reach = std::max(reach, trace->Value(first).Distance(trace->Value(0.5 * (first + last))));
    }
    for (std::size_t i = 0; i < ends.size(); ++i) {
        if (ends[i].fixed) continue;
        std::optional<gp_Pnt2d> anchor;
        double nearest = 1e-2 * reach;  // of the reach: a vertex farther off is another corner's
        for (std::size_t j = 0; j < ends.size(); ++j)
            if (j != i && ends[j].vertex.IsSame(ends[i].vertex) && (ends[j].fixed || j < i))
                if (const double distance = ends[j].uv.Distance(ends[i].uv); distance < nearest) {
                    nearest = distance;
                    anchor = ends[j].uv;
                }
        if (!anchor || nearest < Tolerance::noLength) continue;
        double first = 0.0, last = 0.0;
        const TopoDS_Edge forward = TopoDS::Edge(ends[i].edge.Oriented(TopAbs_FORWARD));
        const Handle(Geom2d_BSplineCurve) fitted =
            Handle(Geom2d_BSplineCurve)::DownCast(BRep_Tool::CurveOnSurface(forward, face, first, last)->Copy());
        if (std::abs(fitted->FirstParameter() - first) > Tolerance::noLength ||
            std::abs(fitted->LastParameter() - last) > Tolerance::noLength)
            continue;  // part of a longer trace: not ours
        fitted->SetPole(ends[i].last ? fitted->NbPoles() : 1, *anchor);
        const gp_Pnt was = surface->Value(ends[i].uv.X(), ends[i].uv.Y()),
                     now = surface->Value(anchor->X(), anchor->Y());
        putTrace(forward, fitted, surface, location, BRep_Tool::Tolerance(forward) + was.Distance(now));
        widenToTolerance(forward);
        ends[i].uv = *anchor;
    }
}

void Stitcher::fitPoles(TopoDS_Wire& wire, const TopoDS_Face& face) {
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
        const Handle(Geom2d_Curve) trace =
            BRep_Tool::Degenerated(edge)
                ? BRep_Tool::CurveOnSurface(TopoDS::Edge(edge.Oriented(TopAbs_FORWARD)), face, first, last)
                : Handle(Geom2d_Curve)();
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
                const Handle(Geom2d_Curve) other =
                    BRep_Tool::CurveOnSurface(beside, face, f, l);  // of this use: a seam has two
                if (other.IsNull()) continue;
                const TopoDS_Edge forward = TopoDS::Edge(beside.Oriented(TopAbs_FORWARD));
                for (const auto& [vertex, at] :
                     {std::pair{TopExp::FirstVertex(forward), f}, {TopExp::LastVertex(forward), l}})
                    if (vertex.IsSame(pole))
                        if (const gp_Pnt2d uv = other->Value(at); uv.Distance(end) < distance) {
                            distance = uv.Distance(end);
                            nearest = uv;
                        }
            }
            end = nearest;
        }
        const gp_Vec2d along(ends[0], ends[1]);
        if (along.Magnitude() < Tolerance::noLength) {
            builder.Add(fitted, edge);
            continue;
        }
        const TopoDS_Edge fresh = poleEdge(pole, ends[0], ends[1], surface, location, BRep_Tool::Tolerance(edge));
        builder.Add(fitted, fresh.Oriented(edge.Orientation()));
    }
    fitted.Closed(wire.Closed());
    wire = fitted;
}

std::vector<double> Stitcher::boundaryOf(int face) const {
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
                told.insert(told.end(), {static_cast<double>(pair.a), static_cast<double>(pair.joint), from.X(),
                                         from.Y(), from.Z(), to.X(), to.Y(), to.Z()});
            }
    }
    return told;
}

void Stitcher::spoiledFaces(bool mayBePlainer) {
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
                        m_stayed.push_back(
                            {use.face, use.face, probeLength(e), m_rims.corners[c].point, "a face would cross itself"});
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
            if (pair == pairOf.end() ||
                (m_pairs[pair->second].exact && m_pairs[pair->second].joint == Joint::AsTheyAre))
                continue;
            guilty[pair->second] = true;
            wholly[f] = false;
        }
    }
    // A face can also suffer at a corner alone, where others are joined.
    for (int f = 1; f <= m_incidence.faceCount(); ++f)
        if (wholly[f])
            for (const int e : m_incidence.edgesOf(f))
                for (TopoDS_Iterator it(m_incidence.edge(e)); it.More(); it.Next())
                    if (const int c = m_rims.cornerOf[static_cast<std::size_t>(m_incidence.vertexNumber(it.Value()))];
                        c >= 0)
                        spoiledCorner[c] = true;
    const auto touches = [&](const Pair& pair) {
        const RimPiece &a = piece(pair.a), &b = piece(pair.b);
        return guilty[static_cast<std::size_t>(&pair - m_pairs.data())] || wholly[a.face] || wholly[b.face] ||
               spoiledCorner[a.from] || spoiledCorner[a.to];
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
            if ((!pair.exact || exactToo) && touches(pair))
                suspects.emplace_back(piece(pair.a).most / std::max(piece(pair.a).length, m_wanted.exact), &pair);
        std::sort(suspects.begin(), suspects.end(), [](const auto& x, const auto& y) {
            return std::tie(y.first, x.second) < std::tie(x.first, y.second);
        });
        const std::size_t share = m_refusals == 0 ? 8 : m_refusals == 1 ? 3 : 1;
        const std::size_t most = suspects.size() <= 8 ? suspects.size() : (suspects.size() + share - 1) / share;
        for (std::size_t i = 0; i < most; ++i) {
            refuse(*suspects[i].second, "a face would cross itself");
            ++m_again;
        }
        if (m_again > 0) ++m_refusals;
    }
}

}  // namespace rasoir::mend
