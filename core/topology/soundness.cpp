#include "topology/soundness.h"

#include <algorithm>
#include <array>
#include <BRep_Builder.hxx>
#include <BRep_CurveRepresentation.hxx>
#include <BRep_TEdge.hxx>
#include <BRep_Tool.hxx>
#include <BRepBuilderAPI_Copy.hxx>
#include <BRepCheck_Analyzer.hxx>
#include <BRepCheck_Edge.hxx>
#include <BRepCheck_Vertex.hxx>
#include <BRepCheck_Wire.hxx>
#include <Geom2d_BSplineCurve.hxx>
#include <Geom2d_Curve.hxx>
#include <Geom2d_Line.hxx>
#include <Geom2d_TrimmedCurve.hxx>
#include <Geom_Surface.hxx>
#include <numeric>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Iterator.hxx>
#include <vector>

#include "common/guard.h"
#include "common/tolerance.h"
#include "topology/making.h"

namespace rasoir {
namespace {

/// Polygons in parameters stretched to millimetres: chords longer than they bulge, so that corners have the angle they
/// seem to have.
class Loops {
public:
    [[nodiscard]] bool clear(const TopoDS_Face& face) {
        m_face = TopoDS::Face(face.Oriented(TopAbs_FORWARD));
        m_surface = BRep_Tool::Surface(m_face);
        if (m_surface.IsNull()) return false;
        int loops = 0;
        for (TopoDS_Iterator it(m_face); it.More(); it.Next()) {
            if (it.Value().ShapeType() != TopAbs_WIRE) return false;
            for (TopoDS_Iterator edge(it.Value()); edge.More(); edge.Next())
                if (!add(TopoDS::Edge(edge.Value()), loops)) return false;
            ++loops;
        }
        return loops > 0 && stretch() && cornersOpen() && apart() && nested(loops);
    }

private:
    struct Use {
        TopoDS_Edge edge;
        int loop = 0;
        bool forward = true;
        TopoDS_Vertex from, to;  // as the trace runs
        std::vector<gp_XY> points;
        double off = 0.0;             // the trace leaves the polygon by less
        double bend = 0.0;            // largest angle between a chord and the trace beside it [rad]
        int before = -1, after = -1;  // the uses whose ends meet this one's start and end
    };
    struct Segment {
        int use = 0, index = 0;
        gp_XY a, b;
        double left = 0.0, right = 0.0;
    };
    TopoDS_Face m_face;
    Handle(Geom_Surface) m_surface;
    std::vector<Use> m_uses;

    bool add(const TopoDS_Edge& edge, int loop) {
        if (BRep_Tool::Degenerated(edge)) return false;
        double first = 0.0, last = 0.0;
        Handle(Geom2d_Curve) trace = BRep_Tool::CurveOnSurface(edge, m_face, first, last);
        if (trace.IsNull() || !(first < last)) return false;
        while (!Handle(Geom2d_TrimmedCurve)::DownCast(trace).IsNull())
            trace = Handle(Geom2d_TrimmedCurve)::DownCast(trace)->BasisCurve();
        const TopoDS_Edge plain = TopoDS::Edge(edge.Oriented(TopAbs_FORWARD));
        Use use{edge,
                loop,
                edge.Orientation() != TopAbs_REVERSED,
                TopExp::FirstVertex(plain),
                TopExp::LastVertex(plain),
                {},
                0.0,
                0.0};
        if (use.from.IsNull() || use.to.IsNull()) return false;
        int pieces = 6;
        if (trace->IsKind(STANDARD_TYPE(Geom2d_Line)))
            pieces = 1;
        else if (const auto spline = Handle(Geom2d_BSplineCurve)::DownCast(trace); !spline.IsNull())
            pieces = std::clamp(2 * (spline->NbKnots() - 1), 6, 64);
        constexpr int most = 128;
        for (; pieces <= most; pieces *= 2) {
            use.points.clear();
            for (int i = 0; i <= pieces; ++i)
                use.points.push_back(trace->Value(first + (last - first) * i / pieces).XY());
            if (pieces == 1) break;
            m_between.clear();
            for (int i = 0; i < pieces; ++i)
                for (const double share : {0.25, 0.5, 0.75})
                    m_between.push_back(trace->Value(first + (last - first) * (i + share) / pieces).XY());
            use.off = use.bend = 0.0;
            for (int i = 0; i < pieces; ++i) {
                const gp_XY along = use.points[i + 1] - use.points[i];
                const double length = along.Modulus();
                if (length < 1e-14) return false;  // of a parameter's step: the trace stands still
                for (int k = 0; k < 3; ++k) {
                    const gp_XY out = m_between[3 * i + k] - use.points[i];
                    const double share = out.Dot(along) / (length * length);
                    if (share < 0.0 || share > 1.0) return false;
                    const double off = std::abs(along.Crossed(out)) / length;
                    use.off = std::max(use.off, 1.5 * off);
                    use.bend = std::max(
                        use.bend, 6.0 * off / length);  // an arc's end turns four times its rise over its chord away
                }
            }
            if (use.bend < 0.15) break;
        }
        if (use.bend >= 0.15) return false;
        m_uses.push_back(std::move(use));
        return true;
    }
    std::vector<gp_XY> m_between;
    double m_stretchU = 1.0, m_stretchV = 1.0;

    /// One millimetre on the surface counts as at least about one here.
    bool stretch() {
        double lowU = std::numeric_limits<double>::max(), lowV = lowU, highU = 0.0, highV = 0.0;
        for (const Use& use : m_uses)
            for (std::size_t i = 0; i < use.points.size(); i += std::max<std::size_t>(1, use.points.size() / 4)) {
                gp_Pnt point;
                gp_Vec du, dv;
                m_surface->D1(use.points[i].X(), use.points[i].Y(), point, du, dv);
                lowU = std::min(lowU, du.Magnitude());
                lowV = std::min(lowV, dv.Magnitude());
                highU = std::max(highU, du.Magnitude());
                highV = std::max(highV, dv.Magnitude());
            }
        // Where the parameters shrink much from place to place, angles say little.
        if (!(lowU > 1e-9) || !(lowV > 1e-9) || highU > 20.0 * lowU || highV > 20.0 * lowV) return false;
        m_stretchU = lowU;
        m_stretchV = lowV;
        for (Use& use : m_uses) {
            for (gp_XY& point : use.points) point.SetCoord(point.X() * lowU, point.Y() * lowV);
            use.off *= std::max(lowU, lowV);
            // The bend was measured unstretched: it can grow by as much as the two differ.
            const double uneven = std::max(lowU, lowV) / std::min(lowU, lowV);
            use.bend *= use.points.size() > 2 ? uneven : 0.0;
            if (use.bend >= 0.3) use.bend = bendOf(use);
            if (use.bend >= 0.3) return false;
        }
        return true;
    }
    /// From the polygon itself: the largest turn between neighbouring chords, twice that between a chord and the trace
    /// beside it.
    static double bendOf(const Use& use) {
        double bend = 0.0;
        for (std::size_t i = 0; i + 2 < use.points.size(); ++i) {
            const gp_XY a = use.points[i + 1] - use.points[i], b = use.points[i + 2] - use.points[i + 1];
            bend = std::max(bend, std::abs(std::atan2(a.Crossed(b), a.Dot(b))));
        }
        return bend;
    }

    struct End {
        int use = 0;
        bool start = true;
    };
    [[nodiscard]] const gp_XY& point(const End& end) const {
        return end.start ? m_uses[end.use].points.front() : m_uses[end.use].points.back();
    }
    /// Into the use, from its end.
    [[nodiscard]] gp_XY inward(const End& end) const {
        const auto& points = m_uses[end.use].points;
        return end.start ? points[1] - points[0] : points[points.size() - 2] - points.back();
    }

    /// Every end meets exactly one other, the wire runs on there, and the two leave it at an angle.
    bool cornersOpen() {
        std::vector<End> ends;
        for (int i = 0; i < static_cast<int>(m_uses.size()); ++i) {
            ends.push_back({i, true});
            ends.push_back({i, false});
        }
        const auto vertexAt = [&](const End& end) -> const TopoDS_Vertex& {
            return end.start ? m_uses[end.use].from : m_uses[end.use].to;
        };
        for (std::size_t i = 0; i < ends.size(); ++i) {
            int met = 0;
            for (std::size_t j = 0; j < ends.size(); ++j) {
                if (i == j || !vertexAt(ends[i]).IsSame(vertexAt(ends[j]))) continue;
                const gp_XY in = inward(ends[i]), other = inward(ends[j]);
                const double gap = (point(ends[i]) - point(ends[j])).Modulus();
                if (gap > 0.1 * std::min(in.Modulus(), other.Modulus())) continue;
                ++met;
                const Use &a = m_uses[ends[i].use], &b = m_uses[ends[j].use];
                if (a.loop != b.loop) return false;
                // One ends here and the other begins, as the wire runs.
                if ((ends[i].start == a.forward) == (ends[j].start == b.forward)) return false;
                const double angle = std::abs(std::atan2(in.Crossed(other), in.Dot(other)));
                if (angle < 0.15 + a.bend + b.bend) return false;
                if (gap / std::sin(std::min(angle, M_PI_2)) > 0.7 * BRep_Tool::Tolerance(vertexAt(ends[i])))
                    return false;
                if (ends[i].start == a.forward)
                    m_uses[ends[i].use].before = ends[j].use;
                else
                    m_uses[ends[i].use].after = ends[j].use;
            }
            if (met != 1) return false;
        }
        return true;
    }

    /// Distance between two segments of the plane.
    static double between(const Segment& s, const Segment& t) {
        const auto side = [](const gp_XY& a, const gp_XY& b, const gp_XY& p) { return (b - a).Crossed(p - a); };
        if ((side(s.a, s.b, t.a) > 0.0) != (side(s.a, s.b, t.b) > 0.0) &&
            (side(t.a, t.b, s.a) > 0.0) != (side(t.a, t.b, s.b) > 0.0))
            return 0.0;
        const auto toPoint = [](const Segment& of, const gp_XY& p) {
            const gp_XY along = of.b - of.a;
            const double square = along.SquareModulus();
            const double share = square > 0.0 ? std::clamp((p - of.a).Dot(along) / square, 0.0, 1.0) : 0.0;
            return (of.a + along * share - p).Modulus();
        };
        return std::min({toPoint(s, t.a), toPoint(s, t.b), toPoint(t, s.a), toPoint(t, s.b)});
    }

    [[nodiscard]] bool meet(const Segment& s, const Segment& t) const {
        const Use &a = m_uses[s.use], &b = m_uses[t.use];
        const int lastOfA = static_cast<int>(a.points.size()) - 2, lastOfB = static_cast<int>(b.points.size()) - 2;
        // Which segment of a use is the one at its end (or start) as the wire runs.
        const int endOfA = a.forward ? lastOfA : 0, startOfA = a.forward ? 0 : lastOfA;
        const int endOfB = b.forward ? lastOfB : 0, startOfB = b.forward ? 0 : lastOfB;
        return (a.after == t.use && s.index == endOfA && t.index == startOfB) ||
               (b.after == s.use && t.index == endOfB && s.index == startOfA);
    }

    /// Segments that do not meet at a corner stay apart by more than the traces leave them.
    [[nodiscard]] bool apart() const {
        std::vector<Segment> segments;
        for (int u = 0; u < static_cast<int>(m_uses.size()); ++u) {
            const Use& use = m_uses[u];
            for (int i = 0; i + 1 < static_cast<int>(use.points.size()); ++i) {
                const double margin = 1.01 * use.off + Tolerance::noWay;
                segments.push_back({u, i, use.points[i], use.points[i + 1],
                                    std::min(use.points[i].X(), use.points[i + 1].X()) - margin,
                                    std::max(use.points[i].X(), use.points[i + 1].X()) + margin});
            }
        }
        std::sort(segments.begin(), segments.end(), [](const Segment& s, const Segment& t) { return s.left < t.left; });
        for (std::size_t i = 0; i < segments.size(); ++i)
            for (std::size_t j = i + 1; j < segments.size() && segments[j].left <= segments[i].right; ++j) {
                const Segment &s = segments[i], &t = segments[j];
                if (s.use == t.use && std::abs(s.index - t.index) == 1) continue;  // they turn by no more than the bend
                if (meet(s, t)) continue;
                if (between(s, t) <= 1.01 * (m_uses[s.use].off + m_uses[t.use].off) + Tolerance::noWay) return false;
            }
        return true;
    }

    [[nodiscard]] double areaOf(const std::vector<gp_XY>& polygon) const {
        double area = 0.0;
        for (std::size_t i = 0; i < polygon.size(); ++i)
            area += 0.5 * polygon[i].Crossed(polygon[(i + 1) % polygon.size()]);
        return area;
    }
    static bool inside(const std::vector<gp_XY>& polygon, const gp_XY& p) {
        bool in = false;
        for (std::size_t i = 0, j = polygon.size() - 1; i < polygon.size(); j = i++) {
            const gp_XY &a = polygon[i], &b = polygon[j];
            if ((a.Y() > p.Y()) != (b.Y() > p.Y()) &&
                p.X() < (b.X() - a.X()) * (p.Y() - a.Y()) / (b.Y() - a.Y()) + a.X())
                in = !in;
        }
        return in;
    }

    /// One outline with its area to the left; all other loops the other way round, within it and outside each other.
    [[nodiscard]] bool nested(int loops) const {
        std::vector<std::vector<gp_XY>> polygons(static_cast<std::size_t>(loops));
        std::vector<char> walked(m_uses.size(), false);
        for (int start = 0; start < static_cast<int>(m_uses.size()); ++start) {
            if (walked[start]) continue;
            auto& polygon = polygons[m_uses[start].loop];
            if (!polygon.empty()) return false;  // a wire in two parts
            for (int u = start; u >= 0 && !walked[u]; u = m_uses[u].after) {
                walked[u] = true;
                const auto& points = m_uses[u].points;
                if (m_uses[u].forward)
                    polygon.insert(polygon.end(), points.begin(), points.end() - 1);
                else
                    polygon.insert(polygon.end(), points.rbegin(), points.rend() - 1);
            }
        }
        int outline = -1;
        for (int l = 0; l < loops; ++l) {
            if (polygons[l].size() < 3) return false;
            if (areaOf(polygons[l]) <= 0.0) continue;
            if (outline >= 0) return false;
            outline = l;
        }
        if (outline < 0) return false;
        std::vector<std::array<double, 4>> reach;
        for (const auto& polygon : polygons) {
            std::array<double, 4> box{1e300, -1e300, 1e300, -1e300};
            for (const gp_XY& point : polygon)
                box = {std::min(box[0], point.X()), std::max(box[1], point.X()), std::min(box[2], point.Y()),
                       std::max(box[3], point.Y())};
            reach.push_back(box);
        }
        for (int l = 0; l < loops; ++l)
            for (int other = 0; other < loops; ++other) {
                if (l == outline || l == other) continue;
                const gp_XY& at = polygons[l].front();
                const std::array<double, 4>& box = reach[other];
                if (other != outline && (at.X() < box[0] || at.X() > box[1] || at.Y() < box[2] || at.Y() > box[3]))
                    continue;
                if (inside(polygons[other], polygons[l].front()) != (other == outline)) return false;
            }
        return true;
    }
};

/// What the kernel's check says of one edge and its vertices on a face.
bool edgeFits(const TopoDS_Edge& shape, const TopoDS_Face& face) {
    BRepCheck_Edge edge(shape);
    edge.InContext(face);
    for (const BRepCheck_Status status : edge.Status())
        if (status != BRepCheck_NoError) return false;
    if (edge.IsStatusOnShape(face))
        for (const BRepCheck_Status status : edge.StatusOnShape(face))
            if (status != BRepCheck_NoError) return false;
    for (TopoDS_Iterator end(shape); end.More(); end.Next()) {
        BRepCheck_Vertex vertex(TopoDS::Vertex(end.Value()));
        vertex.InContext(shape);
        vertex.InContext(face);
        for (const TopoDS_Shape& context : {TopoDS_Shape(shape), TopoDS_Shape(face)})
            if (vertex.IsStatusOnShape(context))
                for (const BRepCheck_Status status : vertex.StatusOnShape(context))
                    if (status != BRepCheck_NoError) return false;
    }
    return true;
}

/// What the kernel's check says of edges, vertices and the way wires run on; all but the search for crossings.
/// Wire by wire, each on a face of its own: the kernel's checks walk all of the face for every edge they look at, and a
/// plate has thousands of holes.
bool boundaryFits(const TopoDS_Face& face) {
    TopLoc_Location place;
    const Handle(Geom_Surface) surface = BRep_Tool::Surface(face, place);
    for (TopoDS_Iterator it(face.Oriented(TopAbs_FORWARD)); it.More(); it.Next()) {
        if (it.Value().ShapeType() != TopAbs_WIRE) continue;
        TopoDS_Face own = blankFace(surface, place, BRep_Tool::Tolerance(face));
        addLoop(own, it.Value());
        for (TopExp_Explorer edge(it.Value(), TopAbs_EDGE); edge.More(); edge.Next())
            if (!edgeFits(TopoDS::Edge(edge.Current()), own)) return false;
        BRepCheck_Wire wire(TopoDS::Wire(it.Value()));
        if (wire.Closed() != BRepCheck_NoError || wire.Orientation(own) != BRepCheck_NoError ||
            wire.Closed2d(own) != BRepCheck_NoError)
            return false;
    }
    return true;
}

}  // namespace

namespace {

std::vector<TopoDS_Edge> foundAtFault(const TopoDS_Face& given) {
    const TopoDS_Face face = TopoDS::Face(given.Oriented(TopAbs_FORWARD));
    struct Segment {
        int edge;
        gp_XY a, b;
        double left, right;
    };
    std::vector<TopoDS_Edge> edges;
    std::vector<char> bad;
    std::vector<Segment> segments;
    std::vector<std::array<TopoDS_Vertex, 2>> ends;  // as the wire runs
    for (TopoDS_Iterator wire(face); wire.More(); wire.Next()) {
        const std::size_t begin = edges.size();
        for (TopoDS_Iterator it(wire.Value()); it.More(); it.Next()) {
            const TopoDS_Edge edge = TopoDS::Edge(it.Value());
            edges.push_back(edge);
            bad.push_back(!edgeFits(edge, face));
            ends.push_back({TopExp::FirstVertex(edge, true), TopExp::LastVertex(edge, true)});
            double first = 0.0, last = 0.0;
            const Handle(Geom2d_Curve) trace = BRep_Tool::CurveOnSurface(edge, face, first, last);
            if (trace.IsNull()) continue;
            const int pieces = trace->IsKind(STANDARD_TYPE(Geom2d_Line)) ? 1 : 24;
            for (int i = 0; i < pieces; ++i) {
                const gp_XY a = trace->Value(first + (last - first) * i / pieces).XY(),
                            b = trace->Value(first + (last - first) * (i + 1) / pieces).XY();
                segments.push_back(
                    {static_cast<int>(edges.size()) - 1, a, b, std::min(a.X(), b.X()), std::max(a.X(), b.X())});
            }
        }
        for (std::size_t e = begin; e < edges.size(); ++e) {  // each end is some edge's beginning
            const auto goesOn = [&](bool start) {
                for (std::size_t other = begin; other < edges.size(); ++other)
                    if (ends[other][start ? 1 : 0].IsSame(ends[e][start ? 0 : 1])) return true;
                return false;
            };
            bad[e] = bad[e] || !goesOn(true) || !goesOn(false);
        }
    }
    std::sort(segments.begin(), segments.end(), [](const Segment& s, const Segment& t) { return s.left < t.left; });
    const auto side = [](const gp_XY& a, const gp_XY& b, const gp_XY& p) { return (b - a).Crossed(p - a) > 0.0; };
    for (std::size_t i = 0; i < segments.size(); ++i)
        for (std::size_t j = i + 1; j < segments.size() && segments[j].left <= segments[i].right; ++j) {
            const Segment &s = segments[i], &t = segments[j];
            if (s.edge == t.edge || side(s.a, s.b, t.a) == side(s.a, s.b, t.b) ||
                side(t.a, t.b, s.a) == side(t.a, t.b, s.b))
                continue;
            bad[s.edge] = bad[t.edge] = true;
        }
    std::vector<TopoDS_Edge> found;
    for (std::size_t e = 0; e < edges.size(); ++e)
        if (bad[e]) found.push_back(edges[e]);
    return found;
}

}  // namespace

std::vector<TopoDS_Edge> edgesAtFault(const TopoDS_Face& face) {
    auto found = guarded("Looking for the edges at fault",
                         [&]() -> Result<std::vector<TopoDS_Edge>> { return foundAtFault(face); });
    return found ? std::move(*found) : std::vector<TopoDS_Edge>();
}

bool loopsClear(const TopoDS_Face& face) {
    const auto clear = guarded("Looking at a face", [&]() -> Result<bool> { return Loops().clear(face); });
    return clear && *clear;
}

namespace {

/// Whether a representation of an edge is there for drawing.
bool isDrawing(const Handle(BRep_CurveRepresentation) & one) {
    return one->IsPolygon3D() || one->IsPolygonOnTriangulation();
}

}  // namespace

TopoDS_Shape undrawn(const TopoDS_Shape& shape) {
    TopLoc_Location place;
    bool drawn = false;
    for (TopExp_Explorer it(shape, TopAbs_FACE); it.More() && !drawn; it.Next())
        drawn = !BRep_Tool::Triangulation(TopoDS::Face(it.Current()), place).IsNull();
    const auto curvesOf = [](const TopoDS_Shape& edge) -> BRep_ListOfCurveRepresentation& {
        return Handle(BRep_TEdge)::DownCast(edge.TShape())->ChangeCurves();
    };
    for (TopExp_Explorer it(shape, TopAbs_EDGE); it.More() && !drawn; it.Next())
        for (const Handle(BRep_CurveRepresentation) & one : curvesOf(it.Current())) drawn = drawn || isDrawing(one);
    if (!drawn) return shape;
    // A face keeps what it was drawn with to itself; an edge that was lengthened still has the lines it had before.
    const TopoDS_Shape copy = BRepBuilderAPI_Copy(shape, true, false).Shape();
    for (TopExp_Explorer it(copy, TopAbs_EDGE); it.More(); it.Next()) {
        BRep_ListOfCurveRepresentation& curves = curvesOf(it.Current());
        for (BRep_ListOfCurveRepresentation::Iterator one(curves); one.More();)
            if (isDrawing(one.Value()))
                curves.Remove(one);
            else
                one.Next();
    }
    return copy;
}

bool soundFace(const TopoDS_Face& given) {
    const auto sound = guarded("Checking a face", [&]() -> Result<bool> {
        const auto quick = [](const TopoDS_Face& one) { return Loops().clear(one) && boundaryFits(one); };
        if (quick(given)) return true;
        const TopoDS_Face face = TopoDS::Face(undrawn(given));
        if (!face.IsSame(given) && quick(face)) return true;
        return BRepCheck_Analyzer(face).IsValid();
    });
    return sound && *sound;
}

}  // namespace rasoir
