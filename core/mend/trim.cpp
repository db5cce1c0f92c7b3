#include "mend/trim.h"

#include <fmt/format.h>

#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <map>
#include <optional>
#include <set>
#include <TopExp.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Iterator.hxx>

#include "common/guard.h"
#include "common/tolerance.h"
#include "geometry/curves.h"
#include "geometry/integrals.h"
#include "topology/making.h"
#include "topology/soundness.h"

namespace rasoir::mend {
namespace {

class Trimmer {
public:
    Trimmer(const Incidence& incidence, const survey::Rims& rims, const survey::Overrun& overrun, double fit)
        : m_incidence(incidence),
          m_rims(rims),
          m_overrun(overrun),
          m_fit(fit),
          m_old(TopoDS::Face(incidence.face(overrun.face).Oriented(TopAbs_FORWARD))),
          m_surface(BRep_Tool::Surface(m_old)) {
        for (std::size_t p = 0; p < rims.pieces.size(); ++p)
            if (rims.pieces[p].face == overrun.face) m_piecesOf[rims.pieces[p].edge].push_back(static_cast<int>(p));
        m_surplus = std::set<int>(overrun.surplus.begin(), overrun.surplus.end());
    }

    Result<TopoDS_Face> run() {
        const BRep_Builder builder;
        TopoDS_Face made = TopoDS::Face(m_old.EmptyCopied());
        bool cut = false;
        for (TopoDS_Iterator it(m_old); it.More(); it.Next()) {
            if (it.Value().ShapeType() != TopAbs_WIRE) {
                builder.Add(made, it.Value());
                continue;
            }
            const TopoDS_Wire wire = TopoDS::Wire(it.Value());
            const auto [surplus, kept] = shares(wire);
            if (surplus == 0) {
                builder.Add(made, wire);
            } else if (!cut) {
                auto fresh = rewired(wire, kept == 0);
                if (!fresh) return tl::unexpected(fresh.error());
                builder.Add(made, *fresh);
                cut = true;
            } else if (kept > 0) {
                return refused("it runs over at two of its loops");
            }  // a loop that is surplus all round goes with what it bounded
        }
        if (!cut) return refused("none of its loops is open there");
        made.Orientation(m_incidence.face(m_overrun.face).Orientation());
        if (!soundFace(made)) return refused("its boundary would cross itself");
        const double before = areaOf(m_old), after = areaOf(made);
        if (!(after > 0.0) || !(after < before)) return refused("it would not become smaller");
        return made;
    }

private:
    const Incidence& m_incidence;
    const survey::Rims& m_rims;
    const survey::Overrun& m_overrun;
    double m_fit;
    TopoDS_Face m_old;
    Handle(Geom_Surface) m_surface;
    std::map<int, std::vector<int>> m_piecesOf;  // by edge, in its direction
    std::set<int> m_surplus;
    std::map<int, TopoDS_Vertex> m_vertices;  // by corner

    [[nodiscard]] tl::unexpected<Problem> refused(const std::string& why) const {
        return fail(ProblemKind::NotPossible,
                    fmt::format("Face {} runs over and could not be cut back: {}.", m_overrun.face, why),
                    "Delete it and patch the opening.", {{}, {m_overrun.face}, m_overrun.where});
    }
    [[nodiscard]] const survey::RimPiece& piece(int p) const { return m_rims.pieces[static_cast<std::size_t>(p)]; }

    /// Pieces or edges of a loop that go, and that stay.
    [[nodiscard]] std::pair<int, int> shares(const TopoDS_Wire& wire) const {
        int surplus = 0, kept = 0;
        for (TopoDS_Iterator it(wire); it.More(); it.Next()) {
            const auto pieces = m_piecesOf.find(m_incidence.edgeNumber(it.Value()));
            if (pieces == m_piecesOf.end()) {
                ++kept;
                continue;
            }
            for (const int p : pieces->second) ++(m_surplus.contains(p) ? surplus : kept);
        }
        return {surplus, kept};
    }

    /// The face's own vertex at a corner where it has one.
    TopoDS_Vertex vertexAt(int corner) {
        auto& vertex = m_vertices[corner];
        if (!vertex.IsNull()) return vertex;
        for (const auto& [edge, pieces] : m_piecesOf) {
            const TopoDS_Edge shape = TopoDS::Edge(m_incidence.edge(edge).Oriented(TopAbs_FORWARD));
            if (piece(pieces.front()).from == corner)
                vertex = TopExp::FirstVertex(shape);
            else if (piece(pieces.back()).to == corner)
                vertex = TopExp::LastVertex(shape);
            if (!vertex.IsNull()) return vertex;
        }
        const BRep_Builder builder;
        builder.MakeVertex(vertex, m_rims.corners[static_cast<std::size_t>(corner)].point, Tolerance::least);
        return vertex;
    }

    /// The loop with its surplus replaced by the stops.
    Result<TopoDS_Wire> rewired(const TopoDS_Wire& old, bool wholly) {
        const BRep_Builder builder;
        TopoDS_Wire wire;
        builder.MakeWire(wire);
        bool stopped = false;
        for (TopoDS_Iterator it(old.Oriented(TopAbs_FORWARD)); it.More(); it.Next()) {
            const TopoDS_Edge edge = TopoDS::Edge(it.Value());
            const bool forward = edge.Orientation() != TopAbs_REVERSED;
            const auto pieces = m_piecesOf.find(m_incidence.edgeNumber(edge));
            const bool untouched =
                pieces == m_piecesOf.end() || std::none_of(pieces->second.begin(), pieces->second.end(),
                                                           [this](int p) { return m_surplus.contains(p); });
            if (untouched) {
                builder.Add(wire, edge);
                continue;
            }
            std::vector<int> inOrder = pieces->second;
            if (!forward) std::reverse(inOrder.begin(), inOrder.end());
            for (const int p : inOrder) {
                if (!m_surplus.contains(p)) {
                    builder.Add(wire, part(edge, p).Oriented(edge.Orientation()));
                } else if (!stopped) {
                    stopped = true;
                    if (auto added = addStops(wire, p, forward, wholly); !added) return tl::unexpected(added.error());
                }
            }
        }
        wire.Closed(true);
        return TopoDS::Wire(wire.Oriented(old.Orientation()));
    }

    TopoDS_Edge part(const TopoDS_Edge& old, int p) {
        const survey::RimPiece& own = piece(p);
        TopoDS_Edge edge = TopoDS::Edge(old.Oriented(TopAbs_FORWARD).EmptyCopied());
        const BRep_Builder builder;
        builder.Range(edge, own.first, own.last);
        const auto& probe = *m_rims.probes[static_cast<std::size_t>(own.edge)];
        for (const bool start : {true, false}) {
            const TopoDS_Vertex vertex = vertexAt(start ? own.from : own.to);
            widenTo(vertex, probe.value(start ? own.first : own.last));
            builder.Add(edge, vertex.Oriented(start ? TopAbs_FORWARD : TopAbs_REVERSED));
        }
        return edge;
    }

    /// Where the face's own boundary leaves for the surplus, in its parameters.
    [[nodiscard]] std::optional<gp_Pnt2d> startOn(int p, int corner) const {
        double first = 0.0, last = 0.0;
        const Handle(Geom2d_Curve) trace = BRep_Tool::CurveOnSurface(
            TopoDS::Edge(m_incidence.edge(piece(p).edge).Oriented(TopAbs_FORWARD)), m_old, first, last);
        if (trace.IsNull()) return std::nullopt;
        return trace->Value(piece(p).from == corner ? piece(p).first : piece(p).last);
    }

    /// A stop's curve, the part of it that counts, and the corners there.
    struct Bound {
        Handle(Geom_Curve) curve;
        double first = 0.0, last = 0.0;
        int from = -1, to = -1;
    };
    [[nodiscard]] Bound boundOf(const survey::Stop& stop) const {
        if (stop.crossing) return {stop.crossing->curve, stop.crossing->first, stop.crossing->last, stop.from, stop.to};
        const survey::RimPiece& other = piece(stop.piece);
        double first = 0.0, last = 0.0;
        return {BRep_Tool::Curve(m_incidence.edge(other.edge), first, last), other.first, other.last, other.from,
                other.to};
    }

    Result<void> addStops(TopoDS_Wire& wire, int firstMet, bool forward, bool wholly) {
        std::vector<survey::Stop> stops = m_overrun.stops;
        if (m_overrun.from == m_overrun.to && !wholly) return refused("a seam would have to be cut with it");
        std::optional<gp_Pnt2d> guess;
        if (m_overrun.from != m_overrun.to) {
            // The loop walks its surplus from which corner to which?
            const int entered = corner(firstMet, forward);
            if (entered != m_overrun.from && entered != m_overrun.to) return refused("its loop has no beginning there");
            if (entered == m_overrun.to) turn(stops);
            for (const int p : m_overrun.surplus)
                if (piece(p).from == entered || piece(p).to == entered) guess = startOn(p, entered);
        } else if (signedArea(stops) * signedArea(firstMet, forward) < 0.0) {
            turn(stops);
        }
        const BRep_Builder builder;
        for (const survey::Stop& stop : stops) {
            const Bound other = boundOf(stop);
            const Handle(Geom_Curve)& curve = other.curve;
            if (curve.IsNull()) return refused("a neighbour's edge has no curve");
            // Traced the way it is walked, so that each begins where the last one ended.
            const Handle(Geom_Curve) walked = stop.along ? curve : curve->Reversed();
            const double a = stop.along ? other.first : curve->ReversedParameter(other.last),
                         b = stop.along ? other.last : curve->ReversedParameter(other.first);
            const auto trace = traceOn(m_surface, walked, a, b, m_fit, guess);
            if (!trace) return refused("a neighbour's edge leaves its surface");
            guess = trace->curve->Value(b);
            const double tolerance = 1.1 * trace->deviation;
            const TopoDS_Edge edge = edgeAlong(walked, a, b, vertexAt(stop.along ? other.from : other.to),
                                               vertexAt(stop.along ? other.to : other.from), tolerance);
            putTrace(edge, trace->curve, m_surface, TopLoc_Location(), tolerance);
            widenEnds(edge);
            builder.Add(wire, edge);
        }
        return {};
    }

    static void turn(std::vector<survey::Stop>& stops) {
        std::reverse(stops.begin(), stops.end());
        for (survey::Stop& stop : stops) stop.along = !stop.along;
    }

    /// The corner at which the loop, walked on, enters the surplus that `met` belongs to.
    [[nodiscard]] int corner(int met, bool forward) const {
        // Direction of the loop along this piece tells that of the whole row.
        const int front = forward ? piece(met).from : piece(met).to;
        const std::vector<int>& row = m_overrun.surplus;  // from `from` to `to`
        int at = m_overrun.from;
        for (const int p : row) {
            const int next = piece(p).from == at ? piece(p).to : piece(p).from;
            if (p == met) return front == at ? m_overrun.from : m_overrun.to;
            at = next;
        }
        return -1;
    }

    [[nodiscard]] double signedArea(const std::vector<survey::Stop>& stops) const {
        std::vector<gp_Pnt2d> outline;
        for (const survey::Stop& stop : stops) {
            const Bound own = boundOf(stop);
            for (int i = 0; i < 16; ++i) {
                const double share = stop.along ? i / 16.0 : 1.0 - i / 16.0;
                const gp_Pnt point = own.curve->Value(own.first + share * (own.last - own.first));
                if (const auto uv = parametersOn(m_surface, point, m_fit)) outline.push_back(*uv);
            }
        }
        return areaOf2d(outline);
    }
    [[nodiscard]] double signedArea(int met, bool forward) const {
        std::vector<survey::Stop> row;
        int at = forward ? piece(met).from : piece(met).to;
        std::set<int> left = m_surplus;
        for (int p = met; p >= 0;) {
            left.erase(p);
            row.push_back({p, piece(p).from == piece(p).to ? forward : piece(p).from == at, piece(p).face, -1, -1, {}});
            at = row.back().along ? piece(p).to : piece(p).from;
            p = -1;
            for (const int q : left)
                if (piece(q).from == at || piece(q).to == at) p = q;
        }
        return signedArea(row);
    }
    static double areaOf2d(const std::vector<gp_Pnt2d>& outline) {
        double area = 0.0;
        for (std::size_t i = 0; i < outline.size(); ++i)
            area += outline[i].XY().Crossed(outline[(i + 1) % outline.size()].XY());
        return area;
    }
};

}  // namespace

Result<TopoDS_Face> trimmed(const Incidence& incidence, const survey::Rims& rims, const survey::Overrun& overrun,
                            double fit) {
    return guarded("Cutting a face back", [&] { return Trimmer(incidence, rims, overrun, fit).run(); });
}

}  // namespace rasoir::mend
