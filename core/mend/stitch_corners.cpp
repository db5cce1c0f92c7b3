#include <tbb/parallel_for.h>

#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <map>
#include <TopExp.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Iterator.hxx>

#include "geometry/surface_meeting.h"
#include "mend/stitcher.h"

namespace rasoir::mend {

void Stitcher::makeCorners() {
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
            std::map<int, std::optional<gp_Pnt2d>> faces;  // with a first guess
            for (const int v : corner.vertices)
                for (const int e : m_edgesAtVertex[v])
                    for (const EdgeUse& use : m_incidence.usesOf(e))
                        faces.try_emplace(use.face, traceEnd(e, use.face, v));
            std::vector<Handle(Geom_Surface)> surfaces;
            std::vector<std::optional<gp_Pnt2d>> guesses;
            for (const auto& [f, guess] : faces) {
                surfaces.push_back(m_surfaces[f]);
                guesses.push_back(guess);
            }
            at = nearestToAll(surfaces, std::move(guesses), at, 3.0 * m_wanted.upTo + corner.spread, m_wanted.exact,
                              steep);
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

Handle(Geom2d_Curve) Stitcher::oldTrace(int edge, int face) const {
    double first = 0.0, last = 0.0;
    const TopoDS_Face flat = TopoDS::Face(m_incidence.face(face).Oriented(TopAbs_FORWARD));
    return BRep_Tool::CurveOnSurface(TopoDS::Edge(m_incidence.edge(edge).Oriented(TopAbs_FORWARD)), flat, first, last);
}

TopoDS_Vertex Stitcher::vertexOf(int number) const {
    for (TopoDS_Iterator it(m_incidence.edge(m_edgesAtVertex[number].front())); it.More(); it.Next())
        if (m_incidence.vertexNumber(it.Value()) == number) return TopoDS::Vertex(it.Value());
    return {};
}

std::size_t Stitcher::cornerAt(int collapsedEdge) const {
    return static_cast<std::size_t>(m_rims.cornerOf[static_cast<std::size_t>(
        m_incidence.vertexNumber(TopExp::FirstVertex(m_incidence.edge(collapsedEdge))))]);
}

std::optional<gp_Pnt> Stitcher::polePoint(int edge) const {
    Handle(Geom2d_Curve) trace;
    Handle(Geom_Surface) surface;
    TopLoc_Location location;
    double first = 0.0, last = 0.0;
    BRep_Tool::CurveOnSurface(m_incidence.edge(edge), trace, surface, location, first, last);
    if (trace.IsNull() || surface.IsNull()) return std::nullopt;
    const gp_Pnt2d uv = trace->Value(0.5 * (first + last));
    return surface->Value(uv.X(), uv.Y()).Transformed(location.Transformation());
}

std::optional<gp_Pnt2d> Stitcher::traceEnd(int edge, int face, int vertex) const {
    const Handle(Geom2d_Curve) trace = oldTrace(edge, face);
    if (trace.IsNull()) return std::nullopt;
    const TopoDS_Edge shape = TopoDS::Edge(m_incidence.edge(edge).Oriented(TopAbs_FORWARD));
    double first = 0.0, last = 0.0;
    BRep_Tool::Range(shape, first, last);
    return trace->Value(m_incidence.vertexNumber(TopExp::FirstVertex(shape)) == vertex ? first : last);
}

}  // namespace rasoir::mend
