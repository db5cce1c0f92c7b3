// Who meets whom: faces, edges and vertices of one shape by number, and how many faces meet at each edge.
#pragma once
#include <memory>
#include <optional>
#include <span>
#include <TopoDS_Edge.hxx>
#include <TopoDS_Face.hxx>
#include <TopoDS_Shape.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <vector>

#include "geometry/integrals.h"

namespace rasoir {

/// One use of an edge by a face. A seam is used twice by the same face.
struct EdgeUse {
    int face = 0;         ///< 1-based face number
    bool forward = true;  ///< the edge runs along its own direction when the face's material lies to the left
};

/// A face's area and centre; and what it adds to sums over its body, where it has traces on its surface.
struct FaceSums {
    Skin skin;
    std::optional<FaceMoments> moments;
};

/// Numbers are 1-based and stable for one shape (the order in which the kernel maps them), so they can be stored.
/// Built once for a shape in time linear to its size; reading is const and free of locks.
class Incidence {
public:
    explicit Incidence(const TopoDS_Shape& shape);

    [[nodiscard]] int faceCount() const { return m_faces.Extent(); }
    [[nodiscard]] int edgeCount() const { return m_edges.Extent(); }
    [[nodiscard]] int vertexCount() const { return m_vertices.Extent(); }
    [[nodiscard]] TopoDS_Face face(int number) const;  ///< with the orientation it has in its body
    [[nodiscard]] TopoDS_Edge edge(int number) const;
    [[nodiscard]] int faceNumber(const TopoDS_Shape& face) const { return m_faces.FindIndex(face); }  ///< 0: not here
    [[nodiscard]] int edgeNumber(const TopoDS_Shape& edge) const { return m_edges.FindIndex(edge); }
    [[nodiscard]] int vertexNumber(const TopoDS_Shape& vertex) const { return m_vertices.FindIndex(vertex); }

    [[nodiscard]] std::span<const EdgeUse> usesOf(int edge) const;           ///< faces at an edge
    [[nodiscard]] std::span<const int> edgesOf(int face) const;              ///< edges of a face, each once
    [[nodiscard]] int bodyOf(int face) const { return m_bodyOfFace[face]; }  ///< 0-based solid, -1: in no solid
    [[nodiscard]] int solidCount() const { return m_solids; }
    /// What the shape is made of, compounds opened: solids, sheets, single faces, wires, edges, points, in their order.
    [[nodiscard]] int bodyCount() const { return m_bodies.Extent(); }
    [[nodiscard]] TopoDS_Shape body(int number) const { return m_bodies(number); }
    [[nodiscard]] int bodyNumber(const TopoDS_Shape& body) const { return m_bodies.FindIndex(body); }
    [[nodiscard]] TopoDS_Shape vertex(int number) const { return m_vertices(number); }
    /// Different faces across the edges of a face, sorted, without itself.
    [[nodiscard]] std::vector<int> neighboursOf(int face) const;
    /// How many face sides meet at an edge (a seam counts two); degenerated edges have 0.
    [[nodiscard]] int facesAt(int edge) const { return static_cast<int>(usesOf(edge).size()); }
    /// What a face amounts to, summed when somebody asks first and kept, since every survey asks. From any thread.
    [[nodiscard]] const FaceSums& sums(int face) const;
    [[nodiscard]] const Skin& skin(int face) const { return sums(face).skin; }
    [[nodiscard]] double area(int face) const { return skin(face).area; }
    [[nodiscard]] const gp_Pnt& base() const { return m_base; }  ///< moments are seen from there; near the shape

private:
    TopTools_IndexedMapOfShape m_faces, m_edges, m_vertices, m_bodies;
    std::vector<TopAbs_Orientation> m_orientation;  // by face number
    std::vector<int> m_bodyOfFace;
    int m_solids = 0;
    std::vector<int> m_useStart, m_edgeStart;  // compressed rows
    std::vector<EdgeUse> m_uses;
    std::vector<int> m_faceEdges;
    struct Sums;
    std::shared_ptr<Sums> m_sums;  // copies have the same faces
    gp_Pnt m_base;
};

}  // namespace rasoir
