#include <fmt/format.h>
#include <tbb/parallel_for.h>

#include <BRep_Tool.hxx>
#include <Geom2d_BSplineCurve.hxx>
#include <Geom2dAPI_Interpolate.hxx>
#include <Geom_BSplineCurve.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <GeomAPI_Interpolate.hxx>
#include <TColgp_HArray1OfPnt.hxx>
#include <TColgp_HArray1OfPnt2d.hxx>
#include <TColStd_HArray1OfReal.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Iterator.hxx>

#include "common/guard.h"
#include "common/tolerance.h"
#include "geometry/curves.h"
#include "geometry/surface_meeting.h"
#include "mend/stitcher.h"

namespace rasoir::mend {

Stitcher::Side Stitcher::sideOf(const RimPiece& own) const {
    const bool exactKind = GeomAdaptor_Surface(m_surfaces[own.face]).GetType() <= GeomAbs_Torus;
    return {&probe(own.edge), &own, m_surfaces[own.face],
            exactKind ? Handle(Geom2d_Curve)() : oldTrace(own.edge, own.face)};
}

void Stitcher::refuse(Pair& pair, const std::string& why) {
    pair.refused = true;
    const RimPiece &a = piece(pair.a), &b = piece(pair.b);
    m_left.push_back({a.face, b.face, a.most, probe(a.edge).value(0.5 * (a.first + a.last)), why});
}

Result<void> Stitcher::makeEdges() {
    tbb::parallel_for(std::size_t{0}, m_pairs.size(), [&](std::size_t i) {
        if (m_progress.cancelled()) return;
        Pair& pair = m_pairs[i];
        const gp_Pnt from = m_cornerPoint[piece(pair.a).from], to = m_cornerPoint[piece(pair.a).to];
        if (pair.shapedAs == pair.joint && from.IsEqual(pair.shapedFrom, 0.0) && to.IsEqual(pair.shapedTo, 0.0)) return;
        // A fault in one pair is that pair's.
        auto made = guarded("Joining two edges", [&]() -> Result<void> { return shapePair(pair); });
        while (!made && made.error().kind == ProblemKind::Internal &&
               pair.joint != Joint::AsTheyAre) {  // again, asking the kernel for less
            pair.joint = pair.joint == Joint::Met ? Joint::Plain : Joint::AsTheyAre;
            made = guarded("Joining two edges", [&]() -> Result<void> { return shapePair(pair); });
        }
        if (!made) {
            pair.refused = true;
            pair.why = made.error().what;
            return;
        }
        pair.shapedAs = pair.joint;
        pair.shapedFrom = m_cornerPoint[piece(pair.a).from];  // sameEdge may have swapped the two
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

Result<void> Stitcher::shapePair(Pair& pair) {
    const RimPiece &a = piece(pair.a), &b = piece(pair.b);
    const gp_Pnt from = m_cornerPoint[a.from], to = m_cornerPoint[a.to];
    const double exact = m_wanted.exact;
    // What the file's own tolerance allowed between an edge and its vertex is no gap.
    const auto endsFit = [&](const RimPiece& p) {
        const double own = 2.0 * exact + oldTolerance(p.edge);
        return endOf(p, true).Distance(m_cornerPoint[p.from]) <= own &&
               endOf(p, false).Distance(m_cornerPoint[p.to]) <= own;
    };
    pair.exact = a.most <= exact && endsFit(a) && endsFit(b);
    if (pair.exact) return sameEdge(pair);
    return fittedEdge(pair, from, to);
}

Result<void> Stitcher::sameEdge(Pair& pair) {
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

Handle(Geom_Curve) Stitcher::untrimmed(int edge) const {
    double first = 0.0, last = 0.0;
    return untrimmedCurve(BRep_Tool::Curve(m_incidence.edge(edge), first, last));
}

double Stitcher::oldTolerance(int edge) const {
    const TopoDS_Edge shape = m_incidence.edge(edge);
    double most = BRep_Tool::Tolerance(shape);
    for (TopoDS_Iterator it(shape); it.More(); it.Next())
        most = std::max(most, BRep_Tool::Tolerance(TopoDS::Vertex(it.Value())));
    return most;
}

Result<void> Stitcher::completeTraces(Pair& pair, double allowed) {
    const RimPiece &a = piece(pair.a), &b = piece(pair.b);
    double off = 0.0;
    for (const int side : {0, 1}) {
        const RimPiece& own = side == 0 ? a : b;
        const Handle(Geom_Surface)& surface = m_surfaces[own.face];
        if (pair.traces[side].IsNull()) {
            std::optional<gp_Pnt2d> guess;
            if (const auto old = oldTrace(own.edge, own.face); !old.IsNull())
                guess = old->Value((side == 0 ? pair.alongA : pair.alongB) ? own.first : own.last);
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
    if (!std::isfinite(off) || off > 2.0 * allowed)
        return fail(ProblemKind::NotPossible, fmt::format("the common edge would lie {} mm off a face", off));
    pair.step = off;
    pair.tolerance = std::max(Tolerance::least, 1.1 * off);
    return {};
}

Result<void> Stitcher::fittedEdge(Pair& pair, const gp_Pnt& from, const gp_Pnt& to) {
    const RimPiece &a = piece(pair.a), &b = piece(pair.b);
    const Side sideA = sideOf(a), sideB = sideOf(b);
    pair.alongA = true;
    pair.alongB = !a.against;
    const double width = std::max({a.most, m_wanted.exact, endOf(a, true).Distance(from), endOf(a, false).Distance(to),
                                   endOf(b, !a.against).Distance(from), endOf(b, a.against).Distance(to)});
    const double fit = std::max(2.0 * m_wanted.exact, 0.01 * width);
    const double angle = angleBetween(sideA, sideB);
    const double reach = std::max(3.0, 1.5 / std::sin(std::max(steep, angle))) * width;
    const auto near = [&](const CurvePiece& candidate) {
        for (int i = 0; i <= 8; ++i) {
            const gp_Pnt point = candidate.curve->Value(candidate.first + (candidate.last - candidate.first) * i / 8.0);
            if (sideA.probe->nearest(point, a.first, a.last).distance > reach ||
                sideB.probe->nearest(point, b.first, b.last).distance > reach)
                return false;
        }
        return true;
    };
    std::string why = "no common edge was found";
    const auto takes = [&](const std::optional<CurvePiece>& candidate) {
        return candidate && near(*candidate) && take(pair, *candidate, sideA, sideB, width, fit, why);
    };
    if (pair.joint == Joint::Met) {
        const auto onBoth = [&](const gp_Pnt& point) {
            return sideA.off(point, fit) <= fit && sideB.off(point, fit) <= fit;
        };
        if (angle > steep && a.from != a.to && onBoth(from) && onBoth(to) &&
            takes(meetingCurve(sideA.surface, sideB.surface, from, to, fit)))
            return {};
        if (angle > steep && a.from == a.to &&
            takes(meetingRing(sideA.surface, sideB.surface, from, sideA.probe->tangent(a.first), fit)))
            return {};
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

bool Stitcher::take(Pair& pair, const CurvePiece& candidate, const Side& sideA, const Side& sideB, double width,
                    double fit, std::string& why) {
    pair.curve = candidate.curve;
    pair.first = candidate.first;
    pair.last = candidate.last;
    pair.shift = 0.0;
    double off = 0.0;
    for (int i = 0; i <= 16; ++i) {
        const gp_Pnt point = pair.curve->Value(pair.first + (pair.last - pair.first) * i / 16.0);
        for (const Side* side : {&sideA, &sideB}) {
            off = std::max(off, side->off(point, fit));
            if (const double moved = side->probe->nearest(point, side->piece->first, side->piece->last).distance;
                moved > pair.shift) {
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

Result<void> Stitcher::asTheyAre(Pair& pair, double width) {
    const RimPiece &a = piece(pair.a), &b = piece(pair.b);
    double first = 0.0, last = 0.0;
    pair.curve = BRep_Tool::Curve(m_incidence.edge(a.edge), first, last);
    pair.traces = {oldTrace(a.edge, a.face), oldTrace(b.edge, b.face)};
    if (pair.curve.IsNull() || pair.traces[0].IsNull() || pair.traces[1].IsNull())
        return fail(ProblemKind::NotPossible, "an edge has no curve of its own");
    pair.first = a.first;
    pair.last = a.last;
    pair.shift = 0.0;
    const auto [scale, shift] = stepFrom(a, b);
    if (auto same = inStep(a, b, scale, shift, 1.5 * width) ? inOtherStep(pair.traces[1], scale, shift)
                                                            : Handle(Geom2d_Curve)();
        !same.IsNull())
        pair.traces[1] = same;
    else if (same = atThePaceOf(pair, b); !same.IsNull())
        pair.traces[1] = same;
    else
        return fail(ProblemKind::NotPossible, "the two edges do not run alongside each other evenly");
    return completeTraces(pair, 1.5 * width + std::max(oldTolerance(a.edge), oldTolerance(b.edge)));
}

Handle(Geom2d_Curve) Stitcher::atThePaceOf(const Pair& pair, const RimPiece& b) const {
    for (const bool byShare : {false, true})  // of edges shorter than the gap the nearest points run to and fro
        if (const auto trace = pacedTrace(pair, b, byShare); !trace.IsNull()) return trace;
    return {};
}

Handle(Geom2d_Curve) Stitcher::pacedTrace(const Pair& pair, const RimPiece& b, bool byShare) const {
    constexpr int count = 33;
    const Handle(TColgp_HArray1OfPnt2d) points = new TColgp_HArray1OfPnt2d(1, count);
    const Handle(TColStd_HArray1OfReal) parameters = new TColStd_HArray1OfReal(1, count);
    double before = pair.alongB ? b.first : b.last;
    for (int i = 0; i < count; ++i) {
        const double at = pair.first + (pair.last - pair.first) * i / (count - 1);
        const double start = pair.alongB ? b.first : b.last, end = pair.alongB ? b.last : b.first;
        const double on = i == 0           ? start
                          : i + 1 == count ? end
                          : byShare        ? start + (end - start) * i / (count - 1)
                                           : probe(b.edge).nearest(pair.curve->Value(at), b.first, b.last).parameter;
        if (i > 0 && (on - before) * (end - start) <= 0.0) return {};
        before = on;
        points->SetValue(i + 1, pair.traces[1]->Value(on));
        parameters->SetValue(i + 1, at);
    }
    Geom2dAPI_Interpolate interpolation(points, parameters, false, Tolerance::noLength);
    interpolation.Perform();
    return interpolation.IsDone() ? Handle(Geom2d_Curve)(interpolation.Curve()) : Handle(Geom2d_Curve)();
}

std::pair<double, double> Stitcher::stepFrom(const RimPiece& a, const RimPiece& b) {
    const double scale = (a.last - a.first) / (b.last - b.first) * (a.against ? -1.0 : 1.0);
    return {scale, (a.against ? a.last : a.first) - scale * b.first};
}

bool Stitcher::inStep(const RimPiece& a, const RimPiece& b, double scale, double shift, double within) const {
    for (int i = 0; i <= 8; ++i) {
        const double s = b.first + (b.last - b.first) * i / 8.0;
        if (probe(b.edge).value(s).Distance(probe(a.edge).value(scale * s + shift)) > within) return false;
    }
    return true;
}

double Stitcher::angleBetween(const Side& sideA, const Side& sideB) const {
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
        if (normals[i].SquareMagnitude() < Tolerance::noLengthSquare) return 0.0;
    }
    const double angle = normals[0].Angle(normals[1]);
    return std::min(angle, M_PI - angle);
}

std::optional<CurvePiece> Stitcher::oneOfTheTwo(const Side& sideA, const Side& sideB, const Pair& pair,
                                                double fit) const {
    for (const Side* side : {&sideA, &sideB}) {
        const RimPiece& own = *side->piece;
        double first = 0.0, last = 0.0;
        Handle(Geom_Curve) curve = BRep_Tool::Curve(m_incidence.edge(own.edge), first, last);
        if (curve.IsNull()) continue;
        const Side& other = side == &sideA ? sideB : sideA;
        bool fits = endOf(own, true).Distance(m_cornerPoint[own.from]) <= fit &&
                    endOf(own, false).Distance(m_cornerPoint[own.to]) <= fit;
        for (int i = 0; i <= 8 && fits; ++i)
            fits = other.off(curve->Value(own.first + (own.last - own.first) * i / 8.0), fit) <= fit;
        if (!fits) continue;
        if (side == &sideA || pair.alongB) return CurvePiece{curve, own.first, own.last};
        return CurvePiece{curve->Reversed(), curve->ReversedParameter(own.last), curve->ReversedParameter(own.first)};
    }
    return std::nullopt;
}

std::optional<CurvePiece> Stitcher::midway(const Side& sideA, const Side& sideB, const gp_Pnt& from, const gp_Pnt& to,
                                           double fit, bool settled) const {
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
        return settled ? nearestToAll(surfaces, {sideA.guess(at), sideB.guess(onOther)}, start, 3.0 * m_wanted.upTo,
                                      fit, steep)
                       : start;
    };
    std::vector<gp_Pnt> known;  // by place in the finest row so far: each row holds the one before and its middles
    const bool straight = sideA.probe->isLine() && sideB.probe->isLine();
    for (int count = straight ? 5 : 17; count <= 129; count = 2 * count - 1) {
        const Handle(TColgp_HArray1OfPnt) points = new TColgp_HArray1OfPnt(1, count);
        const Handle(TColStd_HArray1OfReal) parameters = new TColStd_HArray1OfReal(1, count);
        for (int i = 0; i < count; ++i) {
            parameters->SetValue(i + 1, a.first + (a.last - a.first) * i / (count - 1));
            points->SetValue(i + 1, i == 0           ? from
                                    : i + 1 == count ? to
                                    : known.empty()  ? between(parameters->Value(i + 1))
                                                     : known[i]);
        }
        GeomAPI_Interpolate interpolation(points, parameters, false, Tolerance::noWay);
        interpolation.Perform();
        if (!interpolation.IsDone()) return std::nullopt;
        const Handle(Geom_BSplineCurve) curve = interpolation.Curve();
        double off = 0.0;  // where it was not told where to go
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

}  // namespace rasoir::mend
