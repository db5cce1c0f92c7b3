// Shapes from pieces of an arrangement.
#pragma once
#include <map>
#include <TopoDS_Edge.hxx>
#include <TopoDS_Face.hxx>
#include <TopoDS_Vertex.hxx>

#include "arrange/arrangement.h"

namespace rasoir::arrange {

/// Makes the faces of one body (or sheet) from pieces, with truly shared edges and vertices. What the arrangement left
/// as it was is handed on as the very same object; an edge that has a user it did not have before, and the faces at it,
/// are new objects. Two makers share nothing that is new.
class Maker {
public:
    /// `pieces`: all that the body will consist of.
    Maker(const Arrangement& all, const std::vector<int>& pieces);

    /// The piece, with its surface's own normal outside (`plus` false) or inside.
    TopoDS_Face face(int piece, bool inwards);
    TopoDS_Edge edge(int arc);
    [[nodiscard]] double widest() const { return m_widest; }  ///< [mm] largest tolerance given

private:
    struct Ends {
        Handle(Geom2d_Curve) forward, reversed;
    };
    [[nodiscard]] bool edgeStays(int arc) const { return m_stays[arc]; }
    const std::vector<std::vector<Use>>& loopsOf(int piece);
    TopoDS_Vertex vertex(int node);
    void addTrace(int arc, const TopoDS_Face& on, const Handle(Geom2d_Curve) & trace);

    const Arrangement& m_all;
    std::vector<char> m_stays;  // by arc
    std::map<int, std::vector<std::vector<Use>>> m_loops;
    std::map<int, TopoDS_Vertex> m_vertices;
    std::set<int> m_newVertices;  // nodes whose vertex is none of an input
    std::map<int, TopoDS_Edge> m_edges;
    std::map<int, TopoDS_Face> m_faces;
    std::map<std::pair<int, const Geom_Surface*>, Ends> m_traces;
    double m_widest = 0.0;
};

}  // namespace rasoir::arrange
