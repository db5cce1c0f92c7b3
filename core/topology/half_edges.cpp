#include "topology/half_edges.h"

#include <Bnd_Box.hxx>
#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <BRepTools_WireExplorer.hxx>
#include <Geom2d_Line.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <TopExp.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Iterator.hxx>
#include <TopoDS_Shell.hxx>
#include <TopoDS_Solid.hxx>
#include <TopoDS_Wire.hxx>

#include "common/tolerance.h"
#include "geometry/carried_surface.h"
#include "geometry/curves.h"
#include "geometry/round_surface.h"
#include "topology/edge_angle.h"
#include "topology/making.h"

namespace rasoir {
namespace {

/// Edges of a wire in running order; empty when they do not close.
std::vector<TopoDS_Edge> orderedEdges(const TopoDS_Wire& wire, const TopoDS_Face& forwardFace) {
    std::vector<TopoDS_Edge> edges;
    for (TopoDS_Iterator it(wire); it.More(); it.Next()) {
        const TopAbs_Orientation orientation = it.Value().Orientation();
        if (orientation != TopAbs_FORWARD && orientation != TopAbs_REVERSED) return {};
        edges.push_back(TopoDS::Edge(it.Value()));
    }
    const auto closes = [](const std::vector<TopoDS_Edge>& row) {
        for (std::size_t i = 0; i < row.size(); ++i) {
            const TopoDS_Vertex end = TopExp::LastVertex(row[i], true);
            if (end.IsNull() || !end.IsSame(TopExp::FirstVertex(row[(i + 1) % row.size()], true))) return false;
        }
        return true;
    };
    // A two-edge loop closes either way round in its vertices; the stored order is then right unless the wire is
    // reversed, where the order does not matter.
    if (closes(edges)) return edges;
    std::reverse(edges.begin(), edges.end());
    if (closes(edges)) return edges;
    std::vector<TopoDS_Edge> explored;
    for (BRepTools_WireExplorer it(wire, forwardFace); it.More(); it.Next()) explored.push_back(it.Current());
    if (explored.size() == edges.size() && closes(explored)) return explored;
    return {};
}

}  // namespace

void HalfEdgeBody::begin() {
    commit();
}

void HalfEdgeBody::commit() {
    m_oldHalves.clear();
    m_oldEdges.clear();
    m_oldFaces.clear();
    m_oldRows.clear();
    m_newEdges.clear();
}

void HalfEdgeBody::rollBack() {
    // What was added since begin() stays in the tables, unreachable: loaded faces are as good as before.
    for (const int e : m_newEdges) {
        m_edges[e].changed = false;
        m_edges[e].dead = true;
        for (const int h : m_edges[e].halves) m_halves[h].dead = true;
    }
    for (auto it = m_oldHalves.rbegin(); it != m_oldHalves.rend(); ++it) m_halves[it->first] = it->second;
    for (auto it = m_oldEdges.rbegin(); it != m_oldEdges.rend(); ++it) m_edges[it->first] = it->second;
    for (auto it = m_oldFaces.rbegin(); it != m_oldFaces.rend(); ++it) {
        if (!m_faces[it->first].shape.IsSame(it->second.shape)) m_carriedOn.erase(it->first);
        m_faces[it->first] = it->second;
    }
    for (auto it = m_oldRows.rbegin(); it != m_oldRows.rend(); ++it) m_halvesOfFace[it->first] = std::move(it->second);
    commit();
}

SurgeryFace& HalfEdgeBody::changeFace(int f) {
    m_oldFaces.emplace_back(f, m_faces[f]);
    return m_faces[f];
}

void HalfEdgeBody::putOn(int f, const Handle(Geom_Surface) & surface, bool reversed) {
    SurgeryFace& face = changeFace(f);
    const TopoDS_Face blank = blankFace(surface, TopLoc_Location(), BRep_Tool::Tolerance(face.received));
    face.shape = TopoDS::Face(blank.Oriented(reversed ? TopAbs_REVERSED : TopAbs_FORWARD));
    face.changed = face.reshaped = true;
    face.stretched = false;
    m_carriedOn.erase(f);
}

SurgeryEdge& HalfEdgeBody::changeEdge(int e) {
    m_oldEdges.emplace_back(e, m_edges[e]);
    return m_edges[e];
}

HalfEdge& HalfEdgeBody::changeHalf(int h) {
    m_oldHalves.emplace_back(h, m_halves[h]);
    return m_halves[h];
}

int HalfEdgeBody::vertexRecord(const TopoDS_Vertex& vertex) {
    const int number = m_incidence.vertexNumber(vertex);
    const auto [it, fresh] = m_vertexByNumber.try_emplace(number, static_cast<int>(m_vertices.size()));
    if (fresh)
        m_vertices.push_back(
            {TopoDS::Vertex(vertex.Oriented(TopAbs_FORWARD)), BRep_Tool::Pnt(vertex), BRep_Tool::Tolerance(vertex)});
    return it->second;
}

int HalfEdgeBody::edgeRecord(const TopoDS_Edge& edge) {
    const int number = m_incidence.edgeNumber(edge);
    const auto [it, fresh] = m_edgeByNumber.try_emplace(number, static_cast<int>(m_edges.size()));
    if (!fresh) return it->second;
    SurgeryEdge record;
    record.number = number;
    record.shape = TopoDS::Edge(edge.Oriented(TopAbs_FORWARD));
    record.degenerated = BRep_Tool::Degenerated(edge);
    record.tolerance = BRep_Tool::Tolerance(edge);
    const Handle(Geom_Curve) curve = BRep_Tool::Curve(record.shape, record.first, record.last);
    if (!curve.IsNull())
        record.curve = untrimmedCurve(curve);
    else
        BRep_Tool::Range(record.shape, record.first, record.last);
    TopoDS_Vertex start, end;
    TopExp::Vertices(record.shape, start, end);
    record.start = vertexRecord(start);
    record.end = vertexRecord(end);
    m_edges.push_back(record);
    return it->second;
}

int HalfEdgeBody::addHalf(int edge, int face, bool alongEdge) {
    const int h = static_cast<int>(m_halves.size());
    HalfEdge half;
    half.edge = edge;
    half.face = face;
    half.alongEdge = alongEdge;
    m_halves.push_back(half);
    m_edges[edge].halves.push_back(h);
    m_halvesOfFace[face].push_back(h);
    return h;
}

int HalfEdgeBody::faceRecord(int number) {
    const auto [it, fresh] = m_faceByNumber.try_emplace(number, static_cast<int>(m_faces.size()));
    if (!fresh) return it->second;
    const int f = it->second;
    SurgeryFace record;
    record.number = number;
    record.shape = record.received = m_incidence.face(number);
    m_faces.push_back(record);
    m_halvesOfFace.emplace_back();
    const bool reversed = record.shape.Orientation() == TopAbs_REVERSED;
    const TopoDS_Face forward = TopoDS::Face(record.shape.Oriented(TopAbs_FORWARD));
    for (TopoDS_Iterator wire(forward); wire.More(); wire.Next()) {
        std::vector<TopoDS_Edge> edges;
        if (wire.Value().ShapeType() == TopAbs_WIRE) edges = orderedEdges(TopoDS::Wire(wire.Value()), forward);
        if (edges.empty()) {
            m_faces[f].disordered = true;
            continue;
        }
        if (reversed) std::reverse(edges.begin(), edges.end());
        std::vector<int> row;
        for (const TopoDS_Edge& edge : edges)
            row.push_back(addHalf(edgeRecord(edge), f, (edge.Orientation() == TopAbs_FORWARD) != reversed));
        for (std::size_t i = 0; i < row.size(); ++i) {
            m_halves[row[i]].next = row[(i + 1) % row.size()];
            m_halves[row[(i + 1) % row.size()]].prev = row[i];
        }
    }
    return f;
}

int HalfEdgeBody::twin(int h) {
    const int e = m_halves[h].edge;
    if (m_edges[e].degenerated) return -1;
    if (m_edges[e].number > 0)
        for (const EdgeUse& use : m_incidence.usesOf(m_edges[e].number)) faceRecord(use.face);
    int other = -1, living = 0;
    for (const int side : m_edges[e].halves) {
        if (m_halves[side].dead) continue;
        ++living;
        if (side != h) other = side;
    }
    if (living > 2 && m_edges[e].number > 0) return twinInFan(h);
    if (living != 2 || m_halves[other].alongEdge == m_halves[h].alongEdge) return -1;
    return other;
}

// Where a body meets itself along an edge, the faces there stand in a fan, by turns with material and with nothing
// between them. Two sides belong together when the material between them is one wedge. Seen along the edge, material
// lies clockwise of a side that runs along it, and counterclockwise of one that runs against it.
int HalfEdgeBody::twinInFan(int h) {
    if (const auto known = m_twinInFan.find(h); known != m_twinInFan.end())
        return m_halves[known->second].dead ? -1 : known->second;
    const SurgeryEdge& edge = m_edges[m_halves[h].edge];
    if (edge.curve.IsNull() || edge.changed) return -1;
    const double middle = 0.5 * (edge.first + edge.last);
    gp_Pnt at;
    gp_Vec along;
    edge.curve->D1(middle, at, along);
    if (along.SquareMagnitude() < Tolerance::divisible) return -1;
    along.Normalize();
    const gp_Ax2 frame(at, gp_Dir(along));
    std::vector<std::pair<double, int>> fan;  // angle about the edge, side
    for (const int side : edge.halves) {
        if (m_halves[side].dead) continue;
        const gp_Vec normal = outwardNormal(m_faces[m_halves[side].face].received, edge.shape, middle);
        if (normal.SquareMagnitude() < 0.5) return -1;
        gp_Vec into = normal.Crossed(along);
        if (!m_halves[side].alongEdge) into.Reverse();
        fan.emplace_back(std::atan2(into.Dot(gp_Vec(frame.YDirection())), into.Dot(gp_Vec(frame.XDirection()))), side);
    }
    if (fan.size() % 2 != 0) return -1;
    std::sort(fan.begin(), fan.end());
    for (std::size_t i = 0; i < fan.size(); ++i) {
        if (m_halves[fan[i].second].alongEdge) continue;
        // Counterclockwise of it lies material, up to the next side, which has to run along the edge.
        const auto& [angle, next] = fan[(i + 1) % fan.size()];
        if (!m_halves[next].alongEdge) return -1;
        m_twinInFan[fan[i].second] = next;
        m_twinInFan[next] = fan[i].second;
    }
    const auto found = m_twinInFan.find(h);
    return found == m_twinInFan.end() ? -1 : found->second;
}

int HalfEdgeBody::startOf(int h) const {
    const SurgeryEdge& e = m_edges[m_halves[h].edge];
    return m_halves[h].alongEdge ? e.start : e.end;
}

int HalfEdgeBody::endOf(int h) const {
    const SurgeryEdge& e = m_edges[m_halves[h].edge];
    return m_halves[h].alongEdge ? e.end : e.start;
}

void HalfEdgeBody::link(int before, int after) {
    changeHalf(before).next = after;
    changeHalf(after).prev = before;
}

void HalfEdgeBody::kill(int h) {
    changeHalf(h).dead = true;
}

int HalfEdgeBody::addVertex(const gp_Pnt& point, double tolerance) {
    m_vertices.push_back({TopoDS_Vertex(), point, tolerance});
    return static_cast<int>(m_vertices.size()) - 1;
}

int HalfEdgeBody::addEdge(const Handle(Geom_Curve) & curve, double first, double last, int start, int end,
                          double tolerance, int faceAlong, int faceAgainst) {
    SurgeryEdge record;
    record.curve = curve;
    record.first = first;
    record.last = last;
    record.start = start;
    record.end = end;
    record.tolerance = tolerance;
    record.changed = true;
    const int e = static_cast<int>(m_edges.size());
    m_edges.push_back(record);
    m_newEdges.push_back(e);
    for (const int f : {faceAlong, faceAgainst}) {
        m_oldRows.emplace_back(f, m_halvesOfFace[f]);
        SurgeryFace& face = changeFace(f);
        face.changed = face.reshaped = true;
    }
    const int h = addHalf(e, faceAlong, true);
    addHalf(e, faceAgainst, false);
    return h;
}

int HalfEdgeBody::addPoleEdge(const Handle(Geom2d_Curve) & trace, double first, double last, int vertex, int face) {
    SurgeryEdge record;
    record.first = first;
    record.last = last;
    record.start = record.end = vertex;
    record.degenerated = record.changed = true;
    const int e = static_cast<int>(m_edges.size());
    m_edges.push_back(record);
    m_newEdges.push_back(e);
    m_oldRows.emplace_back(face, m_halvesOfFace[face]);
    const int h = addHalf(e, face, true);
    m_halves[h].trace = trace;
    return h;
}

Handle(Geom_Surface) HalfEdgeBody::surfaceOf(int f) const {
    const auto [it, fresh] = m_carriedOn.try_emplace(f);
    if (!fresh) return it->second;
    const Handle(Geom_Surface) own = BRep_Tool::Surface(m_faces[f].shape);
    switch (GeomAdaptor_Surface(own).GetType()) {
        case GeomAbs_Plane:
        case GeomAbs_Cylinder:
        case GeomAbs_Cone:
        case GeomAbs_Sphere:
        case GeomAbs_Torus:
            return it->second = own;
        default:
            break;
    }
    Bnd_Box box;
    for (const int h : m_halvesOfFace[f])
        if (const SurgeryEdge& e = m_edges[m_halves[h].edge]; !e.curve.IsNull())
            for (int i = 0; i <= 4; ++i) box.Add(e.curve->Value(e.first + (e.last - e.first) * i / 4.0));
    return it->second = box.IsVoid() ? own : carriedOn(own, 0.5 * std::sqrt(box.SquareExtent()));
}

Handle(Geom_Surface) HalfEdgeBody::builtSurface(int f, TopLoc_Location& place) const {
    if (!m_faces[f].stretched) return BRep_Tool::Surface(m_faces[f].shape, place);
    place = TopLoc_Location();
    return surfaceOf(f);
}

void HalfEdgeBody::stretchWhereNeeded() {
    for (int f = 0; f < faceCount(); ++f) {
        if (!m_faces[f].changed || m_faces[f].gone || m_faces[f].stretched) continue;
        const Handle(Geom_Surface) own = BRep_Tool::Surface(m_faces[f].shape);
        if (const auto carried = m_carriedOn.find(f);
            carried == m_carriedOn.end() || GeomAdaptor_Surface(own).GetType() <= GeomAbs_Torus)
            continue;
        double u0 = 0, u1 = 0, v0 = 0, v1 = 0;
        own->Bounds(u0, u1, v0, v1);
        // Of the range: on its border a point may be taken for one a period away.
        const double marginU = 1e-6 * (u1 - u0), marginV = 1e-6 * (v1 - v0);
        bool beyond = false;
        for (const int h : m_halvesOfFace[f]) {
            if (beyond || m_halves[h].dead || m_halves[h].face != f || m_halves[h].trace.IsNull()) continue;
            const SurgeryEdge& e = m_edges[m_halves[h].edge];
            for (int i = 0; i <= 8 && !beyond; ++i) {
                const gp_Pnt2d uv = m_halves[h].trace->Value(e.first + (e.last - e.first) * i / 8.0);
                beyond = (!own->IsUPeriodic() && (uv.X() < u0 - marginU || uv.X() > u1 + marginU)) ||
                         (!own->IsVPeriodic() && (uv.Y() < v0 - marginV || uv.Y() > v1 + marginV));
            }
        }
        if (!beyond) continue;
        // Another surface: every edge has to carry its trace on it, and so is a new edge for the face beyond.
        changeFace(f).stretched = true;
        for (const int h : std::vector<int>(m_halvesOfFace[f])) {
            if (m_halves[h].dead || m_halves[h].face != f) continue;
            (void)twin(h);
            for (const int side : std::vector<int>(m_edges[m_halves[h].edge].halves)) {
                if (m_halves[side].dead) continue;
                if (m_halves[side].trace.IsNull() &&
                    surfaceKind(m_faces[m_halves[side].face].shape) != SurfaceKind::Plane) {
                    const Handle(Geom2d_Curve) kept = traceOf(side);
                    changeHalf(side).trace = kept;
                }
                changeFace(m_halves[side].face).changed = true;
            }
            changeEdge(m_halves[h].edge).changed = true;
        }
    }
}

Handle(Geom2d_Curve) HalfEdgeBody::traceOf(int h) const {
    const HalfEdge& half = m_halves[h];
    if (!half.trace.IsNull()) return half.trace;
    const TopoDS_Face& face = m_faces[half.face].shape;
    const bool forward = half.alongEdge != (face.Orientation() == TopAbs_REVERSED);
    const SurgeryEdge& record = m_edges[half.edge];
    if (record.shape.IsNull() || (record.changed && !m_edges[half.edge].degenerated)) {
        // [mm] what an edge of a file may lie off its face and still be traced on it.
        const auto trace = traceOn(surfaceOf(half.face), record.curve, record.first, record.last, 1e-3);
        return trace ? trace->curve : Handle(Geom2d_Curve)();
    }
    double first = 0.0, last = 0.0;
    return BRep_Tool::CurveOnSurface(TopoDS::Edge(record.shape.Oriented(forward ? TopAbs_FORWARD : TopAbs_REVERSED)),
                                     TopoDS::Face(face.Oriented(TopAbs_FORWARD)), first, last);
}

double HalfEdgeBody::loopArea(int h) const {
    double twice = 0.0;
    std::optional<gp_Pnt2d> before;
    gp_Pnt2d start;
    int at = h;
    std::size_t steps = 0;
    do {
        if (++steps > m_halves.size()) return 0.0;  // not a loop: neither outer nor inner
        const HalfEdge& half = m_halves[at];
        const SurgeryEdge& e = m_edges[half.edge];
        const Handle(Geom2d_Curve) trace = traceOf(at);
        if (trace.IsNull()) return 0.0;
        constexpr int pieces = 12;
        for (int i = 0; i <= pieces; ++i) {
            const double share = static_cast<double>(half.alongEdge ? i : pieces - i) / pieces;
            const gp_Pnt2d uv = trace->Value(e.first + (e.last - e.first) * share);
            if (before)
                twice += before->X() * uv.Y() - before->Y() * uv.X();
            else
                start = uv;
            before = uv;
        }
        at = half.next;
    } while (at != h);
    if (before) twice += before->X() * start.Y() - before->Y() * start.X();
    return m_faces[m_halves[h].face].shape.Orientation() == TopAbs_REVERSED ? -twice : twice;
}

Result<void> HalfEdgeBody::retrace(int h, double tolerance, double referenceAt,
                                   const std::optional<gp_Pnt2d>& reference) {
    const HalfEdge half = m_halves[h];
    const SurgeryEdge& e = m_edges[half.edge];
    const Handle(Geom_Surface) surface = surfaceOf(half.face);
    if (GeomAdaptor_Surface(surface).GetType() == GeomAbs_Plane) {
        // Planes carry no traces; being on the plane is all that is asked.
        for (int i = 0; i <= 8; ++i) {
            const gp_Pnt point = e.curve->Value(e.first + (e.last - e.first) * i / 8);
            const auto uv = parametersOn(surface, point, tolerance);
            if (!uv || surface->Value(uv->X(), uv->Y()).Distance(point) > tolerance)
                return fail(ProblemKind::NotPossible, "A lengthened edge leaves its plane.", {}, {{}, {}, point});
        }
        changeHalf(h).trace.Nullify();
        return {};
    }
    const auto trace = traceOn(surface, e.curve, e.first, e.last, tolerance, std::nullopt);
    if (!trace)
        return fail(ProblemKind::NotPossible, "A lengthened edge leaves its surface.", {},
                    {{}, {}, e.curve->Value(0.5 * (e.first + e.last))});
    Handle(Geom2d_Curve) curve = trace->curve;
    if (reference) {
        const gp_Pnt2d there = curve->Value(referenceAt);
        gp_Vec2d shift(0.0, 0.0);
        if (surface->IsUPeriodic())
            shift.SetX(surface->UPeriod() * std::round((reference->X() - there.X()) / surface->UPeriod()));
        if (surface->IsVPeriodic())
            shift.SetY(surface->VPeriod() * std::round((reference->Y() - there.Y()) / surface->VPeriod()));
        curve = Handle(Geom2d_Curve)::DownCast(curve->Translated(shift));
    }
    changeHalf(h).trace = curve;
    if (trace->deviation > m_edges[half.edge].tolerance) changeEdge(half.edge).tolerance = 1.01 * trace->deviation;
    return {};
}

bool HalfEdgeBody::runsOnAlong(int h, const Handle(Geom2d_Curve) & trace, double tolerance) {
    const Handle(Geom2d_Line) line = Handle(Geom2d_Line)::DownCast(trace);
    if (line.IsNull() || surfaceKind(m_faces[m_halves[h].face].shape) == SurfaceKind::Plane) return false;
    const SurgeryEdge& e = m_edges[m_halves[h].edge];
    const Handle(Geom_Surface) surface = surfaceOf(m_halves[h].face);
    for (int i = 0; i <= 12; ++i) {
        const double at = e.first + (e.last - e.first) * i / 12;
        const gp_Pnt2d uv = line->Value(at);
        if (surface->Value(uv.X(), uv.Y()).Distance(e.curve->Value(at)) > std::max(0.1 * tolerance, e.tolerance))
            return false;
    }
    changeHalf(h).trace = line;
    return true;
}

Result<void> HalfEdgeBody::reshape(int e, const Handle(Geom_Curve) & curve, double first, double last,
                                   double tolerance) {
    struct Old {
        int half;
        double at;
        std::optional<gp_Pnt2d> uv;
        Handle(Geom2d_Curve) trace;
    };
    std::vector<Old> old;
    const SurgeryEdge before = m_edges[e];
    for (const int h : before.halves) {
        if (m_halves[h].dead) continue;
        Old entry{h, 0.0, std::nullopt, {}};
        const Handle(Geom2d_Curve) trace = traceOf(h);
        const double middle = 0.5 * (before.first + before.last);
        if (!trace.IsNull() && !before.curve.IsNull()) {
            entry.at = middle;
            if (curve != before.curve)
                if (const auto moved = parameterAt(curve, before.curve->Value(middle), 10.0 * tolerance))
                    entry.at = *moved;
            entry.uv = trace->Value(middle);
            if (curve == before.curve) entry.trace = trace;
        }
        old.push_back(entry);
    }
    SurgeryEdge& record = changeEdge(e);
    record.curve = curve;
    record.first = first;
    record.last = last;
    record.changed = true;
    for (const Old& entry : old) {
        SurgeryFace& face = changeFace(m_halves[entry.half].face);
        face.changed = face.reshaped = true;
        if (runsOnAlong(entry.half, entry.trace, tolerance)) continue;
        if (auto traced = retrace(entry.half, tolerance, entry.at, entry.uv); !traced) return traced;
    }
    return {};
}

Result<void> HalfEdgeBody::handOver(int h, int into, double tolerance) {
    if (m_edges[m_halves[h].edge].degenerated)
        return fail(ProblemKind::NotPossible, "A pole belongs to one surface alone.");
    changeHalf(h).face = into;
    m_oldRows.emplace_back(into, m_halvesOfFace[into]);
    if (std::find(m_halvesOfFace[into].begin(), m_halvesOfFace[into].end(), h) == m_halvesOfFace[into].end())
        m_halvesOfFace[into].push_back(h);
    if (surfaceKind(m_faces[into].shape) == SurfaceKind::Plane) return retrace(h, tolerance, 0.0, std::nullopt);
    return retraced(h, tolerance);
}

/// A side on another surface than before: its trace there, and its edge made anew for all its faces.
Result<void> HalfEdgeBody::retraced(int h, double tolerance) {
    (void)twin(h);  // a face that nobody has asked for yet must be rebuilt with the edge too
    // The sides that stay where they are need their traces carried along to the rebuilt edge: as received, before it
    // counts as changed.
    for (const int side : std::vector<int>(m_edges[m_halves[h].edge].halves))
        if (side != h && !m_halves[side].dead) {
            const Handle(Geom2d_Curve) kept = traceOf(side);
            changeHalf(side).trace = kept;
            changeFace(m_halves[side].face).changed = true;
        }
    changeEdge(m_halves[h].edge).changed = true;
    return retrace(h, tolerance, 0.0, std::nullopt);
}

Result<void> HalfEdgeBody::merge(int into, int from, double tolerance) {
    if (into == from) return {};
    TopLoc_Location placeInto, placeFrom;
    const bool same =
        BRep_Tool::Surface(m_faces[into].shape, placeInto) == BRep_Tool::Surface(m_faces[from].shape, placeFrom) &&
        placeInto.IsEqual(placeFrom);
    const bool plane = surfaceKind(m_faces[into].shape) == SurfaceKind::Plane;
    if (m_faces[into].disordered || m_faces[from].disordered)
        return fail(ProblemKind::NotPossible, "A face beside it has loops that do not close.", "Mend the part first.");
    m_oldRows.emplace_back(into, m_halvesOfFace[into]);
    const bool flipped = m_faces[into].shape.Orientation() != m_faces[from].shape.Orientation();
    for (const int h : std::vector<int>(m_halvesOfFace[from])) {
        if (m_halves[h].dead || m_halves[h].face != from) continue;
        if (!same && !plane && m_edges[m_halves[h].edge].degenerated)
            return fail(ProblemKind::NotPossible, "Two pieces of a round surface meet at its pole.",
                        "Remove the hole together with its neighbours.");
        changeHalf(h).face = into;
        m_halvesOfFace[into].push_back(h);
        if (same && !flipped) continue;
        if (plane) {
            changeHalf(h).trace.Nullify();
            continue;
        }
        if (auto traced = retraced(h, tolerance); !traced) return traced;
    }
    SurgeryFace& lost = changeFace(from);
    lost.gone = true;
    lost.mergedInto = into;
    SurgeryFace& kept = changeFace(into);
    kept.changed = kept.reshaped = true;
    return {};
}

TopoDS_Vertex HalfEdgeBody::builtVertex(int v) {
    SurgeryVertex& record = m_vertices[v];
    if (record.shape.IsNull()) BRep_Builder().MakeVertex(record.shape, record.point, record.tolerance);
    return record.shape;
}

TopoDS_Edge HalfEdgeBody::builtEdge(int e) {
    const SurgeryEdge& record = m_edges[e];
    if (!record.changed) return record.shape;
    if (static_cast<std::size_t>(e) >= m_builtEdges.size()) m_builtEdges.resize(m_edges.size());
    if (!m_builtEdges[e].IsNull()) return m_builtEdges[e];
    std::vector<int> living;
    for (const int h : record.halves)
        if (!m_halves[h].dead) living.push_back(h);
    if (record.degenerated && !living.empty()) {
        TopLoc_Location place;
        const Handle(Geom_Surface) surface = builtSurface(m_halves[living.front()].face, place);
        return m_builtEdges[e] = poleEdge(builtVertex(record.start), traceOf(living.front()), record.first, record.last,
                                          surface, place, record.tolerance);
    }
    const TopoDS_Edge edge = edgeAlong(record.curve, record.first, record.last, builtVertex(record.start),
                                       builtVertex(record.end), record.tolerance);
    const auto forwardOn = [this](int h) {
        return m_halves[h].alongEdge != (m_faces[m_halves[h].face].shape.Orientation() == TopAbs_REVERSED);
    };
    const auto attach = [&](int h) {
        TopLoc_Location place;
        const Handle(Geom_Surface) surface = builtSurface(m_halves[h].face, place);
        if (surfaceKind(m_faces[m_halves[h].face].shape) == SurfaceKind::Plane) return;
        putTrace(edge, traceOf(h), surface, place, record.tolerance);
    };
    if (living.size() == 2 && m_halves[living[0]].face == m_halves[living[1]].face) {
        if (!forwardOn(living[0])) std::swap(living[0], living[1]);
        const TopoDS_Face& face = m_faces[m_halves[living[0]].face].shape;
        TopLoc_Location place;
        const Handle(Geom_Surface) surface = builtSurface(m_halves[living[0]].face, place);
        if (surfaceKind(face) != SurfaceKind::Plane)
            putTraces(edge, traceOf(living[0]), traceOf(living[1]), surface, place, record.tolerance);
    } else {
        for (const int h : living) attach(h);
    }
    return m_builtEdges[e] = edge;
}

Result<void> HalfEdgeBody::makeContinuous(int f, double) {
    const Handle(Geom_Surface) surface = BRep_Tool::Surface(m_faces[f].shape);
    if (!surface->IsUPeriodic() && !surface->IsVPeriodic()) return {};
    if (surfaceKind(m_faces[f].shape) == SurfaceKind::Plane) return {};
    std::vector<bool> seen(m_halves.size(), false);
    for (const int first : m_halvesOfFace[f]) {
        if (m_halves[first].dead || m_halves[first].face != f || seen[first]) continue;
        // Sides that do not lead back to where they began are a removal gone wrong: refuse, do not run round for ever.
        std::size_t steps = 0;
        for (int h = first; steps <= m_halves.size(); ++steps) {
            h = m_halves[h].next;
            if (h == first) break;
        }
        if (steps > m_halves.size())
            return fail(ProblemKind::NotPossible, "A loop would not close behind it.",
                        "Remove the features beside it first, or together with it.", {{}, {m_faces[f].number}, {}});
        // Begin after a side whose trace was not made here: it is right.
        int start = first;
        for (int h = m_halves[first].next; h != first; h = m_halves[h].next)
            if (m_halves[h].trace.IsNull()) start = h;
        int at = start;
        std::optional<gp_Pnt2d> end;
        do {
            seen[at] = true;
            const SurgeryEdge& e = m_edges[m_halves[at].edge];
            Handle(Geom2d_Curve) trace = traceOf(at);
            if (trace.IsNull()) return fail(ProblemKind::NotPossible, "An edge lost its trace on a surface.");
            const gp_Pnt2d from = trace->Value(m_halves[at].alongEdge ? e.first : e.last);
            if (end && !m_halves[at].trace.IsNull()) {
                gp_Vec2d shift(0.0, 0.0);
                if (surface->IsUPeriodic())
                    shift.SetX(surface->UPeriod() * std::round((end->X() - from.X()) / surface->UPeriod()));
                if (surface->IsVPeriodic())
                    shift.SetY(surface->VPeriod() * std::round((end->Y() - from.Y()) / surface->VPeriod()));
                if (shift.Magnitude() > 0.0) {
                    trace = Handle(Geom2d_Curve)::DownCast(trace->Translated(shift));
                    changeHalf(at).trace = trace;
                }
            }
            end = trace->Value(m_halves[at].alongEdge ? e.last : e.first);
            at = m_halves[at].next;
        } while (at != start);
    }
    return {};
}

// Who walks a wire has to choose at a vertex that it passes twice, and the kernel's walk can then end early. Where the
// wire begins there, only one way is left when it comes back. Seams pass their ends twice too, and are told by traces.
void HalfEdgeBody::beginWhereItTouchesItself(std::vector<int>& row) const {
    std::set<int> edges, vertices;
    for (const int h : row)
        if (!edges.insert(m_halves[h].edge).second) return;
    for (std::size_t i = 0; i < row.size(); ++i) {
        if (vertices.insert(startOf(row[i])).second) continue;
        std::rotate(row.begin(), row.begin() + static_cast<std::ptrdiff_t>(i), row.end());
        return;
    }
}

Result<TopoDS_Face> HalfEdgeBody::builtFace(int f) {
    const SurgeryFace& record = m_faces[f];
    if (record.disordered)
        return fail(ProblemKind::NotPossible, "A face beside it has loops that do not close.", "Mend the part first.",
                    {{}, {record.number}, {}});
    const bool reversed = record.shape.Orientation() == TopAbs_REVERSED;
    TopLoc_Location place;
    const Handle(Geom_Surface) surface = builtSurface(f, place);
    TopoDS_Face face = blankFace(surface, place, BRep_Tool::Tolerance(record.shape));
    std::vector<bool> seen(m_halves.size(), false);
    for (const int first : m_halvesOfFace[f]) {
        if (m_halves[first].dead || m_halves[first].face != f || seen[first]) continue;
        std::vector<int> row;
        int at = first;
        do {
            if (seen[at] || m_halves[at].dead || m_halves[at].face != f)
                return fail(ProblemKind::Internal, "A loop did not close after the removal.", {},
                            {{}, {record.number}, {}});
            seen[at] = true;
            row.push_back(at);
            at = m_halves[at].next;
        } while (at != first);
        beginWhereItTouchesItself(row);
        if (reversed) std::reverse(row.begin(), row.end());
        std::vector<TopoDS_Edge> loop;
        for (const int h : row)
            loop.push_back(
                TopoDS::Edge(builtEdge(m_halves[h].edge)
                                 .Oriented(m_halves[h].alongEdge != reversed ? TopAbs_FORWARD : TopAbs_REVERSED)));
        addLoop(face, closedWire(loop));
    }
    if (!TopoDS_Iterator(face).More()) BRep_Builder().NaturalRestriction(face, true);
    return TopoDS::Face(face.Oriented(record.shape.Orientation()));
}

std::vector<int> HalfEdgeBody::touched() const {
    std::vector<int> faces;
    for (const auto& [f, old] : m_oldFaces) faces.push_back(f);
    std::sort(faces.begin(), faces.end());
    faces.erase(std::unique(faces.begin(), faces.end()), faces.end());
    return faces;
}

const SurgeryFace& HalfEdgeBody::before(int f) const {
    for (const auto& [g, old] : m_oldFaces)
        if (g == f) return old;
    return m_faces[f];
}

Result<std::vector<std::pair<int, TopoDS_Face>>> HalfEdgeBody::preview(double tolerance) {
    stretchWhereNeeded();
    m_builtEdges.assign(m_edges.size(), TopoDS_Edge());
    std::vector<std::pair<int, TopoDS_Face>> faces;
    std::vector<int> changed;
    for (const int f : touched())
        if (m_faces[f].changed && !m_faces[f].gone) changed.push_back(f);
    for (const int f : changed)  // all of them first: an edge is built once, with its traces on both its faces
        if (auto done = makeContinuous(f, tolerance); !done) return tl::unexpected(done.error());
    for (const int f : changed) {
        auto face = builtFace(f);
        if (!face) return tl::unexpected(face.error());
        faces.emplace_back(f, std::move(*face));
    }
    m_builtEdges.clear();
    return faces;
}

Result<TopTools_DataMapOfShapeShape> HalfEdgeBody::build(double tolerance) {
    TopTools_DataMapOfShapeShape result;
    stretchWhereNeeded();
    m_builtEdges.assign(m_edges.size(), TopoDS_Edge());
    // A changed edge is a new edge for all its faces.
    for (const SurgeryEdge& record : m_edges)
        if (record.changed)
            for (const int h : record.halves)
                if (!m_halves[h].dead) m_faces[m_halves[h].face].changed = true;
    for (int f = 0; f < faceCount(); ++f)
        if (m_faces[f].changed && !m_faces[f].gone)
            if (auto done = makeContinuous(f, tolerance); !done) return tl::unexpected(done.error());
    for (int f = 0; f < faceCount(); ++f) {
        const SurgeryFace& record = m_faces[f];
        if (record.gone) {
            result.Bind(record.received, TopoDS_Shape());
            continue;
        }
        if (!record.changed) continue;
        auto face = builtFace(f);
        if (!face) return tl::unexpected(face.error());
        result.Bind(record.received, *face);
    }
    return result;
}

TopTools_MapOfShape HalfEdgeBody::flipped() const {
    TopTools_MapOfShape faces;
    for (const SurgeryFace& face : m_faces)
        if (!face.gone && face.shape.Orientation() != face.received.Orientation()) faces.Add(face.received);
    return faces;
}

std::optional<double> carriedTo(const SurgeryEdge& edge, bool ahead, const gp_Pnt& point, double tolerance) {
    if (edge.curve.IsNull()) return std::nullopt;
    const auto at = parameterAt(edge.curve, point, std::max(tolerance, edge.tolerance));
    if (!at) return std::nullopt;
    double parameter = *at;
    if (edge.curve->IsPeriodic()) {
        const double end = ahead ? edge.last : edge.first;
        parameter -= edge.curve->Period() * std::round((parameter - end) / edge.curve->Period());
    }
    const bool left = ahead ? parameter > edge.first : parameter < edge.last;
    return left ? std::optional(parameter) : std::nullopt;
}

TopoDS_Shape substituted(const TopoDS_Shape& shape, const TopTools_DataMapOfShapeShape& faces,
                         const TopTools_MapOfShape& flipped) {
    if (shape.ShapeType() == TopAbs_FACE) {
        const TopoDS_Shape* found = faces.Seek(shape);
        return found == nullptr ? shape : *found;
    }
    if (shape.ShapeType() > TopAbs_FACE) return shape;
    const BRep_Builder builder;
    std::vector<TopoDS_Shape> children;
    bool changed = false;
    for (TopoDS_Iterator it(shape.Oriented(TopAbs_FORWARD)); it.More(); it.Next()) {
        TopoDS_Shape child = it.Value();
        const TopoDS_Shape replaced = substituted(child, faces, flipped);
        if (replaced.IsNull() || !replaced.IsEqual(child)) changed = true;
        if (replaced.IsNull()) continue;
        // The received orientation of a face within its shell is what counts, not the map's.
        children.push_back(replaced.ShapeType() == TopAbs_FACE
                               ? replaced.Oriented(flipped.Contains(child) ? TopAbs::Reverse(child.Orientation())
                                                                           : child.Orientation())
                               : replaced);
    }
    if (!changed) return shape;
    if (children.empty()) return {};
    TopoDS_Shape copy;
    switch (shape.ShapeType()) {
        case TopAbs_COMPOUND: {
            TopoDS_Compound made;
            builder.MakeCompound(made);
            copy = made;
            break;
        }
        case TopAbs_COMPSOLID: {
            TopoDS_CompSolid made;
            builder.MakeCompSolid(made);
            copy = made;
            break;
        }
        case TopAbs_SOLID: {
            TopoDS_Solid made;
            builder.MakeSolid(made);
            copy = made;
            break;
        }
        default: {
            TopoDS_Shell made;
            builder.MakeShell(made);
            copy = made;
            break;
        }
    }
    for (const TopoDS_Shape& child : children) builder.Add(copy, child);
    if (shape.ShapeType() == TopAbs_SHELL) copy.Closed(shape.Closed());
    return copy.Oriented(shape.Orientation());
}

}  // namespace rasoir
