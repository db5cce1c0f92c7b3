#include "geometry/face_region.h"

#include <BRep_Tool.hxx>
#include <BRepTools.hxx>
#include <BRepTools_WireExplorer.hxx>
#include <BRepTopAdaptor_FClass2d.hxx>
#include <Geom2dAdaptor_Curve.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Wire.hxx>

#include "common/tolerance.h"

// Each wire is a closed chain of straight pieces in the parameters, seams and poles included, so a point is in the face
// when a ray from it along the first parameter crosses an odd number of pieces. Where the chain of a wire does not
// close (edges whose traces end apart, as damaged files have them), nothing of this holds, and the kernel is asked
// throughout.

namespace rasoir {
namespace {

constexpr double onOutline = 1e-9;  // of the parameters' range: nearer than that is on the outline

}  // namespace

FaceRegion::FaceRegion(const TopoDS_Face& face) : m_face(TopoDS::Face(face.Oriented(TopAbs_FORWARD))) {
    BRepTools::UVBounds(m_face, low[0], high[0], low[1], high[1]);
    takeOutlines();
    if (m_closed) sortIntoStrips();
}

gp_Pnt2d FaceRegion::scaled(const gp_Pnt2d& uv) const {
    return {(uv.X() - low[0]) / std::max(high[0] - low[0], Tolerance::divisible),
            (uv.Y() - low[1]) / std::max(high[1] - low[1], Tolerance::divisible)};
}

/// Halves a piece until it is nearly straight: what it strays is measured, and it does not turn by much.
void FaceRegion::bisect(const Piece& piece, int depth, std::vector<Piece>& into) const {
    const Handle(Geom2d_Curve)& trace = m_traces[static_cast<std::size_t>(piece.trace)];
    const auto at = [&](double share) {
        return scaled(trace->Value(piece.begins + share * (piece.ends - piece.begins)));
    };
    const gp_Vec2d way(piece.from, piece.to);
    const double length = way.Magnitude();
    double stray = 0.0;
    for (const double share : {0.25, 0.5, 0.75})
        stray = std::max(stray, length > 0.0 ? std::abs(way.Crossed(gp_Vec2d(piece.from, at(share)))) / length : 1.0);
    const gp_Pnt2d middle = at(0.5);
    const gp_Vec2d first(piece.from, middle), second(middle, piece.to);
    const bool turns = first.Dot(second) < 0.95 * first.Magnitude() * second.Magnitude();
    // Of the face's range: chords nearer to their outline decide no point we ask for.
    if (depth > 0 && (stray > 1e-3 || turns)) {
        Piece one = piece, other = piece;
        one.to = other.from = middle;
        one.ends = other.begins = 0.5 * (piece.begins + piece.ends);
        bisect(one, depth - 1, into);
        bisect(other, depth - 1, into);
        return;
    }
    into.push_back(piece);
    into.back().slack = 1.5 * stray + onOutline;
}

void FaceRegion::takePieces(const TopoDS_Edge& edge, std::vector<Piece>& loop) {
    double first = 0.0, last = 0.0;
    const Handle(Geom2d_Curve) trace = BRep_Tool::CurveOnSurface(edge, m_face, first, last);
    if (trace.IsNull() || !(last > first)) {
        m_closed = false;
        return;
    }
    const Geom2dAdaptor_Curve curve(trace, first, last);
    std::vector<Piece> own;
    if (curve.GetType() == GeomAbs_Line) {
        own.push_back({scaled(curve.Value(first)), scaled(curve.Value(last)), onOutline, -1, first, last});
    } else {
        m_traces.push_back(trace);
        // A spline may turn within each of its spans, and halves that mirror each other would hide it.
        const int begin = std::max(3, curve.NbIntervals(GeomAbs_C2));
        for (int i = 0; i < begin; ++i) {
            const double from = first + (last - first) * i / begin, to = first + (last - first) * (i + 1) / begin;
            bisect({scaled(curve.Value(from)), scaled(curve.Value(to)), 0.0, static_cast<int>(m_traces.size()) - 1,
                    from, to},
                   10, own);
        }
    }
    if (edge.Orientation() == TopAbs_REVERSED) {
        std::reverse(own.begin(), own.end());
        for (Piece& piece : own) {
            std::swap(piece.from, piece.to);
            std::swap(piece.begins, piece.ends);
        }
    }
    loop.insert(loop.end(), own.begin(), own.end());
}

void FaceRegion::takeOutlines() {
    for (TopExp_Explorer wire(m_face, TopAbs_WIRE); wire.More() && m_closed; wire.Next()) {
        std::vector<Piece> loop;
        int edges = 0, all = 0;
        for (BRepTools_WireExplorer it(TopoDS::Wire(wire.Current()), m_face); it.More(); it.Next(), ++edges)
            takePieces(it.Current(), loop);
        for (TopExp_Explorer edge(wire.Current(), TopAbs_EDGE); edge.More(); edge.Next()) ++all;
        m_closed = m_closed && !loop.empty() && edges == all;
        if (!m_closed) return;
        // Traces end a hair apart where edges have tolerances: bridges close the chain.
        for (std::size_t i = 0; i < loop.size(); ++i) {
            const Piece &piece = loop[i], &next = loop[(i + 1) % loop.size()];
            const double apart = piece.to.Distance(next.from);
            m_closed = m_closed && apart < 1e-3;  // of the face's range, by which ends of traces may be apart in files
            m_pieces.push_back(piece);
            if (apart > 0.0) m_pieces.push_back({piece.to, next.from, onOutline, -1, 0.0, 0.0});
        }
    }
    m_closed = m_closed && !m_pieces.empty();
}

std::size_t FaceRegion::stripOf(double v) const {
    return static_cast<std::size_t>(
        std::clamp(v * static_cast<double>(m_strips.size()), 0.0, static_cast<double>(m_strips.size()) - 1.0));
}

void FaceRegion::sortIntoStrips() {
    m_strips.resize(std::clamp<std::size_t>(m_pieces.size() / 4, 1, 256));
    for (std::size_t p = 0; p < m_pieces.size(); ++p) {
        const Piece& piece = m_pieces[p];
        const std::size_t from = stripOf(std::min(piece.from.Y(), piece.to.Y()) - piece.slack),
                          until = stripOf(std::max(piece.from.Y(), piece.to.Y()) + piece.slack);
        for (std::size_t strip = from; strip <= until; ++strip) m_strips[strip].push_back(static_cast<int>(p));
    }
}

FaceRegion::Where FaceRegion::where(const gp_Pnt2d& uv) const {
    if (!m_closed) return asked(uv);
    const gp_Pnt2d at = scaled(uv);
    // Well outside the box there is no outline to be near to.
    constexpr double margin = 1e-6;
    if (at.X() < -margin || at.X() > 1.0 + margin || at.Y() < -margin || at.Y() > 1.0 + margin) return Where::Out;
    bool in = false;
    for (const int p : m_strips[stripOf(at.Y())]) {
        const Piece& piece = m_pieces[static_cast<std::size_t>(p)];
        const gp_Vec2d way(piece.from, piece.to), to(piece.from, at);
        const double square = way.SquareMagnitude();
        const double share = square > 0.0 ? std::clamp(way.Dot(to) / square, 0.0, 1.0) : 0.0;
        const gp_Vec2d off = to - way * share;
        if (off.SquareMagnitude() <= piece.slack * piece.slack) {
            const Beside side = beside(piece, at);
            if (side == Beside::On) return Where::On;
            if (side == Beside::Between) in = !in;
        }
        if ((piece.from.Y() > at.Y()) == (piece.to.Y() > at.Y())) continue;
        const double crosses = piece.from.X() + way.X() * (at.Y() - piece.from.Y()) / (piece.to.Y() - piece.from.Y());
        if (crosses > at.X()) in = !in;
    }
    return in ? Where::In : Where::Out;
}

FaceRegion::Beside FaceRegion::beside(const Piece& piece, const gp_Pnt2d& point) const {
    const gp_Vec2d way(piece.from, piece.to);
    const double square = way.SquareMagnitude();
    if (piece.trace < 0 || square == 0.0) return Beside::On;
    // The outline's own height over the piece where the point stands over it.
    const gp_Vec2d to(piece.from, point);
    const double share = way.Dot(to) / square, height = way.Crossed(to) / std::sqrt(square);
    if (share < 0.0 || share > 1.0)
        return std::min(point.Distance(piece.from), point.Distance(piece.to)) <= onOutline ? Beside::On : Beside::Same;
    const Handle(Geom2d_Curve)& trace = m_traces[static_cast<std::size_t>(piece.trace)];
    double at = piece.begins + share * (piece.ends - piece.begins), outline = 0.0;
    for (int round = 0; round < 8; ++round) {
        gp_Pnt2d on;
        gp_Vec2d along;
        trace->D1(at, on, along);
        along.SetCoord(along.X() / (high[0] - low[0]), along.Y() / (high[1] - low[1]));
        const gp_Vec2d there(piece.from, scaled(on));
        outline = way.Crossed(there) / std::sqrt(square);
        const double speed = way.Dot(along);
        if (std::abs(speed) < Tolerance::divisible) break;
        const double step = (share * square - way.Dot(there)) / speed;
        at = std::clamp(at + step, std::min(piece.begins, piece.ends), std::max(piece.begins, piece.ends));
        if (std::abs(step * along.Magnitude()) <= 0.1 * onOutline) break;
    }
    if (std::abs(height - outline) <= onOutline) return Beside::On;
    const bool between = outline > 0.0 ? height > 0.0 && height < outline : height < 0.0 && height > outline;
    return between ? Beside::Between : Beside::Same;
}

FaceRegion::Where FaceRegion::asked(const gp_Pnt2d& uv) const {
    const BRepTopAdaptor_FClass2d kernel(m_face, Tolerance::parameter);
    const TopAbs_State state = kernel.Perform(uv, false);
    return state == TopAbs_IN ? Where::In : state == TopAbs_ON ? Where::On : Where::Out;
}

}  // namespace rasoir
