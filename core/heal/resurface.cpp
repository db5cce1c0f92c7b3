#include "heal/resurface.h"

#include <fmt/format.h>

#include <Bnd_Box.hxx>
#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <BRepBndLib.hxx>
#include <BRepClass3d_SolidClassifier.hxx>
#include <BRepTools.hxx>
#include <BRepTopAdaptor_FClass2d.hxx>
#include <Geom2d_Line.hxx>
#include <Geom_Line.hxx>
#include <Geom_Plane.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <IntCurvesFace_ShapeIntersector.hxx>
#include <map>
#include <set>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Iterator.hxx>
#include <TopTools_DataMapOfShapeShape.hxx>
#include <TopTools_IndexedMapOfShape.hxx>

#include "common/guard.h"
#include "common/tolerance.h"
#include "geometry/curves.h"
#include "geometry/integrals.h"
#include "geometry/round_surface.h"
#include "geometry/surface_meeting.h"
#include "model/lineage_builder.h"
#include "topology/half_edges.h"
#include "topology/making.h"
#include "topology/soundness.h"

namespace rasoir::heal {
namespace {

class Resurfacer {
public:
    Resurfacer(const Part& part, const std::map<int, Handle(Geom_Surface)>& surfaces, double tolerance)
        : m_part(part),
          m_topology(part.incidence()),
          m_surfaces(surfaces),
          m_tolerance(tolerance),
          m_facesAt(static_cast<std::size_t>(m_topology.vertexCount()) + 1),
          m_edgesAt(m_facesAt.size()) {
        for (int e = 1; e <= m_topology.edgeCount(); ++e)
            for (const int v : endsOf(e)) {
                m_edgesAt[static_cast<std::size_t>(v)].insert(e);
                for (const EdgeUse& use : m_topology.usesOf(e)) m_facesAt[static_cast<std::size_t>(v)].insert(use.face);
            }
        Bnd_Box box;
        BRepBndLib::Add(part.shape, box, false);
        m_size = box.IsVoid() ? 1.0 : std::sqrt(box.SquareExtent());
    }

    Result<Resurfaced> run() {
        std::set<int> edges, vertices;
        for (const auto& [face, surface] : m_surfaces)
            for (const int e : m_topology.edgesOf(face)) {
                edges.insert(e);
                for (const int v : endsOf(e)) vertices.insert(v);
            }
        for (const int v : vertices)
            edges.insert(m_edgesAt[static_cast<std::size_t>(v)].begin(), m_edgesAt[static_cast<std::size_t>(v)].end());
        for (const int v : vertices)
            if (auto moved = moveVertex(v); !moved) return tl::unexpected(moved.error());
        for (const int e : edges)
            if (auto made = moveEdge(e); !made) return tl::unexpected(made.error());
        std::set<int> faces;
        for (const int e : edges)
            for (const EdgeUse& use : m_topology.usesOf(e)) faces.insert(use.face);
        TopTools_DataMapOfShapeShape replaced;
        double change = 0.0;
        const gp_Pnt base = m_points.empty() ? gp_Pnt() : m_points.begin()->second;
        for (const int f : faces) {
            auto made = rebuilt(f);
            if (!made) return tl::unexpected(made.error());
            if (!soundFace(*made))
                return refused(changes(f) ? std::string("it would cross itself")
                                          : fmt::format("face {} beside it would cross itself or vanish", f),
                               changes(f) ? f : anyFace(), skinOf(m_topology.face(f)).centre);
            change += volumeSeenFrom(base, *made) - volumeSeenFrom(base, m_topology.face(f));
            replaced.Bind(m_topology.face(f), *made);
        }
        Resurfaced result;
        result.shape = substituted(m_part.shape, replaced);
        result.change = change;
        for (const auto& [v, point] : m_points) result.moved = std::max(result.moved, point.Distance(m_old.at(v)));
        for (const auto& [face, surface] : m_surfaces) {
            const TopoDS_Face made = TopoDS::Face(replaced.Find(m_topology.face(face)));
            if (auto fine = standsFree(made, result.shape, face); !fine) return tl::unexpected(fine.error());
            if (auto fine = wayIsFree(made, face, faces); !fine) return tl::unexpected(fine.error());
        }
        LineageBuilder lineage(m_topology, result.shape);
        for (const int f : faces) lineage.face(f, replaced.Find(m_topology.face(f)));
        for (const auto& [e, made] : m_made) lineage.edge(e, made);
        result.lineage = lineage.finish();
        return result;
    }

private:
    const Part& m_part;
    const Incidence& m_topology;
    const std::map<int, Handle(Geom_Surface)>& m_surfaces;
    double m_tolerance, m_size = 1.0;
    std::vector<std::set<int>> m_facesAt, m_edgesAt;  // by vertex
    std::map<int, gp_Pnt> m_points, m_old;            // by vertex: where it goes, where it was
    std::map<int, TopoDS_Vertex> m_vertices;
    std::map<int, TopoDS_Edge> m_made;  // by edge, running as it did
    std::map<int, std::pair<Handle(Geom2d_Curve), Handle(Geom2d_Curve)>>
        m_seams;  // their traces, first that of the forward use

    [[nodiscard]] tl::unexpected<Problem> refused(const std::string& why, int face,
                                                  std::optional<gp_Pnt> at = std::nullopt) const {
        Place where{m_part.name, {face}, at};
        if (!at) where.point = skinOf(m_topology.face(face)).centre;
        return fail(ProblemKind::NotPossible, fmt::format("Face {} cannot lie elsewhere: {}.", face, why),
                    "Remove rounds and other features beside it first, or move it less.", where);
    }
    [[nodiscard]] int anyFace() const { return m_surfaces.begin()->first; }
    [[nodiscard]] std::set<int> endsOf(int e) const {
        std::set<int> ends;
        const TopoDS_Edge edge = m_topology.edge(e);
        for (const TopoDS_Vertex& vertex : {TopExp::FirstVertex(edge), TopExp::LastVertex(edge)})
            if (!vertex.IsNull()) ends.insert(m_topology.vertexNumber(vertex));
        return ends;
    }
    /// Of faces round a vertex one that stays where it is.
    [[nodiscard]] int neighbourAmong(const std::vector<int>& faces) const {
        const auto still = std::find_if(faces.begin(), faces.end(), [this](int f) { return !changes(f); });
        return still != faces.end() ? *still : faces.front();
    }
    [[nodiscard]] bool changes(int face) const { return m_surfaces.contains(face); }
    [[nodiscard]] Handle(Geom_Surface) surfaceOf(int face) const {
        return changes(face) ? m_surfaces.at(face) : BRep_Tool::Surface(m_topology.face(face));
    }

    Result<void> moveVertex(int v) {
        TopoDS_Vertex vertex;
        for (const int e : m_edgesAt[static_cast<std::size_t>(v)]) {
            const TopoDS_Edge edge = m_topology.edge(e);
            if (BRep_Tool::Degenerated(edge)) return refused("its boundary ends in a pole", anyFace());
            for (const TopoDS_Vertex& end : {TopExp::FirstVertex(edge), TopExp::LastVertex(edge)})
                if (!end.IsNull() && m_topology.vertexNumber(end) == v) vertex = end;
        }
        std::vector<Handle(Geom_Surface)> surfaces;
        std::vector<int> faces;
        for (const int f : m_facesAt[static_cast<std::size_t>(v)]) {
            const bool known = std::any_of(faces.begin(), faces.end(), [&](int g) {
                return !changes(f) && !changes(g) &&
                       sameSurface(m_topology.face(f), m_topology.face(g), Tolerance::samePlace);
            });
            if (known) continue;
            faces.push_back(f);
            surfaces.push_back(surfaceOf(f));
        }
        const gp_Pnt old = BRep_Tool::Pnt(vertex);
        // Two surfaces leave a point free along their ring; where a seam ends there, it goes with the seam.
        const std::size_t given = surfaces.size();
        if (given == 2)
            if (const Handle(Geom_Surface) across = acrossSeam(v); !across.IsNull()) surfaces.push_back(across);
        // Steep [rad]: flatter, two surfaces run side by side and the meeting is anywhere.
        const gp_Pnt at = nearestToAll(surfaces, std::vector<std::optional<gp_Pnt2d>>(surfaces.size()), old, m_size,
                                       m_tolerance, 1e-3);
        for (std::size_t s = 0; s < given; ++s) {
            const auto uv = parametersOn(surfaces[s], at, m_tolerance);
            const double allowed = std::max(10.0 * m_tolerance, 2.0 * BRep_Tool::Tolerance(vertex));
            if (!uv || surfaces[s]->Value(uv->X(), uv->Y()).Distance(at) > allowed)
                return refused(fmt::format("it would not meet face {} where it did", neighbourAmong(faces)), anyFace(),
                               old);
        }
        m_old[v] = old;
        m_points[v] = at;
        TopoDS_Vertex made;
        BRep_Builder().MakeVertex(made, at, std::max(2.0 * m_tolerance, Tolerance::least));
        m_vertices[v] = made;
        return {};
    }

    /// The plane through the seam that ends at a vertex, as its moved surface has it, and square to that surface.
    [[nodiscard]] Handle(Geom_Surface) acrossSeam(int v) const {
        for (const int e : m_edgesAt[static_cast<std::size_t>(v)]) {
            const auto uses = m_topology.usesOf(e);
            if (uses.size() != 2 || uses[0].face != uses[1].face || !changes(uses[0].face) || isOtherKind(uses[0].face))
                continue;
            double first = 0.0, last = 0.0;
            const Handle(Geom2d_Curve) trace = BRep_Tool::CurveOnSurface(
                m_topology.edge(e), TopoDS::Face(m_topology.face(uses[0].face).Oriented(TopAbs_FORWARD)), first, last);
            if (trace.IsNull()) continue;
            const gp_Pnt2d uv = trace->Value(first);
            gp_Pnt on;
            gp_Vec du, dv;
            surfaceOf(uses[0].face)->D1(uv.X(), uv.Y(), on, du, dv);
            if (du.Magnitude() > Tolerance::noLength) return new Geom_Plane(on, gp_Dir(du));
        }
        return {};
    }

    [[nodiscard]] TopoDS_Vertex vertexOf(const TopoDS_Vertex& old) const {
        const auto moved = m_vertices.find(m_topology.vertexNumber(old));
        return moved != m_vertices.end() ? moved->second : old;
    }

    Result<void> moveEdge(int e) {
        const TopoDS_Edge old = TopoDS::Edge(m_topology.edge(e).Oriented(TopAbs_FORWARD));
        const auto uses = m_topology.usesOf(e);
        if (uses.size() != 2)
            return refused(uses.size() < 2 ? "an edge of it is open" : "many faces meet at an edge of it", anyFace());
        const int a = uses[0].face, b = uses[1].face;
        double first = 0.0, last = 0.0;
        const Handle(Geom_Curve) curve = BRep_Tool::Curve(old, first, last);
        if (curve.IsNull()) return refused("an edge of it has no curve", anyFace());
        const TopoDS_Vertex v0 = vertexOf(TopExp::FirstVertex(old)), v1 = vertexOf(TopExp::LastVertex(old));
        const gp_Pnt p = BRep_Tool::Pnt(v0), q = BRep_Tool::Pnt(v1);
        if (a == b) return moveSeam(e, old, a, v0, v1);
        const double tolerance = std::max(m_tolerance, BRep_Tool::Tolerance(old));
        std::optional<CurvePiece> piece;
        if (liesOnBoth(curve, first, last, a, b, p, q, tolerance))
            piece = CurvePiece{curve, first, last};  // as where a surface is only written otherwise
        if (!piece && !changes(a) && !changes(b)) {
            const Handle(Geom_Curve) whole = untrimmedCurve(curve);
            if (runsOn(whole)) {
                auto from = parameterAt(whole, p, 10.0 * tolerance), to = parameterAt(whole, q, 10.0 * tolerance);
                if (from && to) {
                    if (whole->IsPeriodic()) {  // the same way round as before
                        const double period = whole->Period();
                        *from += period * std::round((first - *from) / period);
                        *to += period * std::round((last - *to) / period);
                    }
                    if (*to > *from)
                        piece = CurvePiece{whole, *from, *to};
                    else
                        return refused("an edge beside it would be turned round", anyFace(), p);
                }
            }
        }
        if (!piece) {
            const GeomAdaptor_Curve adaptor(curve);
            const bool conic = adaptor.GetType() == GeomAbs_Circle || adaptor.GetType() == GeomAbs_Ellipse;
            gp_Pnt start;
            gp_Vec along;
            curve->D1(first, start, along);
            if (v0.IsSame(v1) || conic) {
                piece = meetingRing(surfaceOf(a), surfaceOf(b), p, along, 10.0 * tolerance);
                if (!piece && v0.IsSame(v1))
                    piece = meetingAlong(surfaceOf(a), surfaceOf(b), p, along, p, 10.0 * tolerance);
                if (piece && !v0.IsSame(v1)) {
                    auto end = parameterAt(untrimmedCurve(piece->curve), q, 10.0 * tolerance);
                    if (end) {
                        const double period = piece->curve->Period();
                        *end += period * std::ceil((piece->first - *end) / period);
                        piece->last = *end;
                    } else {
                        piece.reset();
                    }
                }
            }
            if (!piece && !v0.IsSame(v1)) piece = meetingCurve(surfaceOf(a), surfaceOf(b), p, q, 10.0 * tolerance);
            if (!piece && !v0.IsSame(v1))
                piece =
                    meetingAlong(surfaceOf(a), surfaceOf(b), p, along, q, 10.0 * tolerance);  // as half a hole's mouth
        }
        if (!piece)
            return refused(fmt::format("faces {} and {} would not meet along a curve", a, b),
                           changes(a)   ? a
                           : changes(b) ? b
                                        : anyFace(),
                           p);
        m_made[e] = edgeOf(*piece, v0, v1, tolerance);
        return {};
    }

    [[nodiscard]] bool liesOnBoth(const Handle(Geom_Curve) & curve, double first, double last, int a, int b,
                                  const gp_Pnt& p, const gp_Pnt& q, double tolerance) const {
        if (curve->Value(first).Distance(p) > tolerance || curve->Value(last).Distance(q) > tolerance) return false;
        for (const int f : {a, b}) {
            if (!changes(f)) continue;  // there it lay before
            const Handle(Geom_Surface) surface = surfaceOf(f);
            for (int i = 0; i <= 12; ++i) {
                const gp_Pnt at = curve->Value(first + (last - first) * i / 12);
                const auto uv = parametersOn(surface, at, tolerance);
                if (!uv || surface->Value(uv->X(), uv->Y()).Distance(at) > tolerance) return false;
            }
        }
        return true;
    }
    /// Another kind of surface than before, with parameters of its own.
    [[nodiscard]] bool isOtherKind(int face) const {
        return changes(face) && GeomAdaptor_Surface(surfaceOf(face)).GetType() !=
                                    GeomAdaptor_Surface(BRep_Tool::Surface(m_topology.face(face))).GetType();
    }

    [[nodiscard]] static TopoDS_Edge edgeOf(const CurvePiece& piece, const TopoDS_Vertex& from, const TopoDS_Vertex& to,
                                            double tolerance) {
        const TopoDS_Edge edge = edgeAlong(piece.curve, piece.first, piece.last, from, to, tolerance);
        widenEnds(edge);
        return edge;
    }

    /// The straight seam of a cylinder or a cone between its new ends.
    Result<void> moveSeam(int e, const TopoDS_Edge& old, int face, const TopoDS_Vertex& v0, const TopoDS_Vertex& v1) {
        const Handle(Geom_Surface) surface = surfaceOf(face);
        const GeomAbs_SurfaceType kind = GeomAdaptor_Surface(surface).GetType();
        const TopoDS_Face forward = TopoDS::Face(m_topology.face(face).Oriented(TopAbs_FORWARD));
        double first = 0.0, last = 0.0;
        const Handle(Geom2d_Curve) one = BRep_Tool::CurveOnSurface(old, forward, first, last),
                                   two = BRep_Tool::CurveOnSurface(TopoDS::Edge(old.Reversed()), forward, first, last);
        const gp_Pnt p = BRep_Tool::Pnt(v0), q = BRep_Tool::Pnt(v1);
        if ((kind != GeomAbs_Cylinder && kind != GeomAbs_Cone) || v0.IsSame(v1) || one.IsNull() || two.IsNull() ||
            p.Distance(q) <= m_tolerance)
            return refused("its seam cannot be carried on", face, p);
        const CurvePiece piece{new Geom_Line(p, gp_Dir(gp_Vec(p, q))), 0.0, p.Distance(q)};
        const auto from = parametersOn(surface, p, m_tolerance), to = parametersOn(surface, q, m_tolerance);
        if (!from || !to) return refused("its seam cannot be carried on", face, p);
        const double sign = to->Y() > from->Y() ? 1.0 : -1.0;
        // Of another kind: its seam lies where that of the old surface was, and runs round the same way or the other.
        bool turned = false;
        const double middle = 0.5 * (one->Value(first).X() + two->Value(first).X());
        if (isOtherKind(face)) {
            const Handle(Geom_Surface) was = BRep_Tool::Surface(forward);
            gp_Pnt at, foot;
            gp_Vec oldU, newU, v;
            was->D1(one->Value(first).X(), one->Value(first).Y(), at, oldU, v);
            surface->D1(0.0, from->Y(), foot, newU, v);
            turned = oldU.Dot(newU) < 0.0;
        }
        const auto trace = [&](const Handle(Geom2d_Curve) & was) {
            const double u = was->Value(first).X();
            return new Geom2d_Line(
                gp_Pnt2d(isOtherKind(face) ? ((u > middle) != turned ? 2.0 * M_PI : 0.0) : u, from->Y()),
                gp_Dir2d(0.0, sign));
        };
        const Handle(Geom2d_Line) here = trace(one), there = trace(two);
        for (const auto& line : {here, there})
            for (const double at : {0.0, 0.5 * piece.last, piece.last}) {
                const gp_Pnt2d uv = line->Value(at);
                if (surface->Value(uv.X(), uv.Y()).Distance(piece.curve->Value(at)) > 10.0 * m_tolerance)
                    return refused("its seam cannot be carried on", face, p);
            }
        m_made[e] = edgeOf(piece, v0, v1, m_tolerance);
        m_seams[e] = {here, there};
        return {};
    }

    [[nodiscard]] Result<TopoDS_Face> rebuilt(int f) {
        const TopoDS_Face old = m_topology.face(f), forward = TopoDS::Face(old.Oriented(TopAbs_FORWARD));
        const BRep_Builder builder;
        TopoDS_Face made;
        const Handle(Geom_Surface) surface = surfaceOf(f);
        if (changes(f))
            made = blankFace(surface, TopLoc_Location(), BRep_Tool::Tolerance(old));
        else
            made = TopoDS::Face(forward.EmptyCopied());
        TopLoc_Location place;
        const Handle(Geom_Surface) own = BRep_Tool::Surface(made, place);
        const bool flat = GeomAdaptor_Surface(surface).GetType() == GeomAbs_Plane;
        for (TopoDS_Iterator wires(forward); wires.More(); wires.Next()) {
            if (wires.Value().ShapeType() != TopAbs_WIRE) continue;
            TopoDS_Wire wire;
            builder.MakeWire(wire);
            for (TopoDS_Iterator it(wires.Value().Oriented(TopAbs_FORWARD)); it.More(); it.Next()) {
                const TopoDS_Edge edge = TopoDS::Edge(it.Value());
                const int e = m_topology.edgeNumber(edge);
                const auto fresh = m_made.find(e);
                if (fresh == m_made.end()) {
                    builder.Add(wire, edge);
                    continue;
                }
                TopoDS_Edge now = fresh->second;
                double first = 0.0, last = 0.0;
                const Handle(Geom_Curve) curve = BRep_Tool::Curve(now, first, last);
                if (const auto seam = m_seams.find(e); seam != m_seams.end()) {
                    putTraces(now, seam->second.first, seam->second.second, own, place, BRep_Tool::Tolerance(now));
                } else if (!flat) {
                    double was0 = 0.0, was1 = 0.0;
                    const Handle(Geom2d_Curve) was =
                        BRep_Tool::CurveOnSurface(TopoDS::Edge(edge.Oriented(TopAbs_FORWARD)), forward, was0, was1);
                    const auto trace = traceOn(surface, curve, first, last,
                                               20.0 * std::max(m_tolerance, BRep_Tool::Tolerance(now)), std::nullopt);
                    if (!trace)
                        return refused("an edge would leave a face beside it", f, curve->Value(0.5 * (first + last)));
                    Handle(Geom2d_Curve) shifted = trace->curve;
                    if (isOtherKind(f) &&
                        surface->IsUPeriodic()) {  // within the first turn: the seam lies at its beginning
                        const double u = shifted->Value(0.5 * (first + last)).X(),
                                     by = -surface->UPeriod() * std::floor(u / surface->UPeriod());
                        if (by != 0.0) shifted = Handle(Geom2d_Curve)::DownCast(shifted->Translated(gp_Vec2d(by, 0.0)));
                    } else if (!was.IsNull()) {  // in the same turn of the surface as before
                        const gp_Pnt2d there = was->Value(0.5 * (was0 + was1)),
                                       here = shifted->Value(0.5 * (first + last));
                        gp_Vec2d by(0.0, 0.0);
                        if (surface->IsUPeriodic())
                            by.SetX(surface->UPeriod() * std::round((there.X() - here.X()) / surface->UPeriod()));
                        if (surface->IsVPeriodic())
                            by.SetY(surface->VPeriod() * std::round((there.Y() - here.Y()) / surface->VPeriod()));
                        if (by.Magnitude() > 0.0) shifted = Handle(Geom2d_Curve)::DownCast(shifted->Translated(by));
                    }
                    putTrace(now, shifted, own, place, 1.1 * trace->deviation);
                    widenToTolerance(now);
                }
                builder.Add(wire, now.Oriented(edge.Orientation()));
            }
            wire.Closed(true);
            builder.Add(made, wire.Oriented(wires.Value().Orientation()));
        }
        made.Orientation(old.Orientation());
        return made;
    }

    /// Points of a face, 7 by 7 over its parameters, with the outward direction there.
    [[nodiscard]] static std::vector<std::pair<gp_Pnt, gp_Vec>> pointsOf(const TopoDS_Face& face) {
        std::vector<std::pair<gp_Pnt, gp_Vec>> points;
        const TopoDS_Face forward = TopoDS::Face(face.Oriented(TopAbs_FORWARD));
        const Handle(Geom_Surface) surface = BRep_Tool::Surface(forward);
        double u0 = 0, u1 = 0, v0 = 0, v1 = 0;
        BRepTools::UVBounds(forward, u0, u1, v0, v1);
        const BRepTopAdaptor_FClass2d within(forward, Tolerance::parameter);
        for (int i = 0; i < 7; ++i)
            for (int j = 0; j < 7; ++j) {
                const gp_Pnt2d uv(u0 + (u1 - u0) * (i + 0.53) / 7.0, v0 + (v1 - v0) * (j + 0.47) / 7.0);
                if (within.Perform(uv) != TopAbs_IN) continue;
                gp_Pnt at;
                gp_Vec du, dv;
                surface->D1(uv.X(), uv.Y(), at, du, dv);
                gp_Vec out = du.Crossed(dv);
                if (out.SquareMagnitude() < Tolerance::noLengthSquare) continue;
                out.Normalize();
                points.emplace_back(at, face.Orientation() == TopAbs_REVERSED ? out.Reversed() : out);
            }
        return points;
    }

    /// Between where the face was and where it is lies no face but those that follow it.
    [[nodiscard]] Result<void> wayIsFree(const TopoDS_Face& face, int number, const std::set<int>& following) const {
        const Handle(Geom_Surface) old = BRep_Tool::Surface(m_topology.face(number));
        Bnd_Box swept;
        BRepBndLib::Add(face, swept, false);
        BRepBndLib::Add(m_topology.face(number), swept, false);
        TopoDS_Compound others;
        const BRep_Builder builder;
        builder.MakeCompound(others);
        bool any = false;
        for (int f = 1; f <= m_topology.faceCount(); ++f) {
            if (following.contains(f)) continue;
            Bnd_Box box;
            BRepBndLib::Add(m_topology.face(f), box, false);
            if (box.IsOut(swept)) continue;
            builder.Add(others, m_topology.face(f));
            any = true;
        }
        if (!any) return {};
        IntCurvesFace_ShapeIntersector crossing;
        crossing.Load(others, Tolerance::least);
        for (const auto& [at, out] : pointsOf(face)) {
            const auto uv = parametersOn(old, at, m_tolerance);
            if (!uv) continue;
            const gp_Pnt from = old->Value(uv->X(), uv->Y());
            const double length = from.Distance(at);
            if (length <= 10.0 * m_tolerance) continue;
            crossing.Perform(gp_Lin(from, gp_Dir(gp_Vec(from, at))), -m_tolerance, length + m_tolerance);
            if (crossing.NbPnt() > 0)
                return refused(fmt::format("face {} lies in its way", m_topology.faceNumber(crossing.Face(1))), number,
                               crossing.Pnt(1));
        }
        return {};
    }

    /// Points just inside and just outside of the face are where they ought to be.
    [[nodiscard]] Result<void> standsFree(const TopoDS_Face& face, const TopoDS_Shape& shape, int number) const {
        TopoDS_Shape body;
        for (TopExp_Explorer solid(shape, TopAbs_SOLID); solid.More() && body.IsNull(); solid.Next())
            for (TopExp_Explorer it(solid.Current(), TopAbs_FACE); it.More(); it.Next())
                if (it.Current().IsSame(face)) body = solid.Current();
        if (body.IsNull()) return {};
        BRepClass3d_SolidClassifier classifier(body);
        const double step = 1e-4 * m_size;  // to either side of the skin, clear of its tolerance and within any wall
        const auto points = pointsOf(face);
        for (const auto& [at, out] : points)
            for (const bool inside : {true, false}) {
                classifier.Perform(at.Translated(out * (inside ? -step : step)), Tolerance::least);
                const TopAbs_State state = classifier.State();
                if (state != TopAbs_ON && state != (inside ? TopAbs_IN : TopAbs_OUT))
                    return refused("it would pass through another face", number, at);
            }
        if (points.empty() && !(areaOf(face) > 0.0)) return refused("nothing of it would be left", number);
        return {};
    }
};

}  // namespace

Result<Resurfaced> resurface(const Part& part, const std::map<int, Handle(Geom_Surface)>& surfaces, double tolerance) {
    if (surfaces.empty()) return fail(ProblemKind::BadInput, "No face was named.");
    return guarded("Moving faces", [&] { return Resurfacer(part, surfaces, tolerance).run(); });
}

}  // namespace rasoir::heal
