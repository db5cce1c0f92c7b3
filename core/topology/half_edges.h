// A body opened for surgery: faces whose loops can be cut and re-joined, edges that can be lengthened, all or nothing.
#pragma once
#include <deque>
#include <Geom2d_Curve.hxx>
#include <Geom_Curve.hxx>
#include <Geom_Surface.hxx>
#include <optional>
#include <TopLoc_Location.hxx>
#include <TopTools_DataMapOfShapeShape.hxx>
#include <TopTools_MapOfShape.hxx>
#include <unordered_map>
#include <vector>

#include "common/problem.h"
#include "common/tolerance.h"
#include "topology/incidence.h"

namespace rasoir {

/// One side of an edge: the use of the edge by one face, running so that the material of the face lies to the left when
/// seen from outside the body.
struct HalfEdge {
    int edge = -1;
    int face = -1;
    int next = -1, prev = -1;
    bool alongEdge = true;
    bool dead = false;
    Handle(Geom2d_Curve) trace;  ///< set where the geometry changed; else the kernel's own is used
};

struct SurgeryEdge {
    int number = 0;            ///< in the Incidence; 0 for a new edge
    TopoDS_Edge shape;         ///< as received
    Handle(Geom_Curve) curve;  ///< untrimmed; null where degenerated
    double first = 0.0, last = 0.0;
    int start = -1, end = -1;  ///< vertices, along the curve
    double tolerance = 1e-7;   ///< [mm]
    bool degenerated = false;
    bool changed = false;
    bool dead = false;
    std::vector<int> halves;
};

struct SurgeryVertex {
    TopoDS_Vertex shape;  ///< null for a new one until built
    gp_Pnt point;
    double tolerance = Tolerance::least;
};

struct SurgeryFace {
    int number = 0;        ///< in the Incidence
    TopoDS_Face shape;     ///< what it lies on and which side of that is outside; its own edges as received, unless it
                           ///< lies elsewhere now
    TopoDS_Face received;  ///< whose place it takes
    bool disordered = false;  ///< its loops do not close edge by edge; it is left alone
    bool changed = false;
    bool reshaped = false;  ///< edges moved, not only loops dropped: wants a full check
    bool gone = false;
    bool stretched = false;  ///< it runs past the ends of its surface, which was carried on
    int mergedInto = -1;
};

/// Half-edge structure of the faces near a wound, loaded as they are asked for: cost grows with what is touched, not
/// with the body. Changes between begin() and commit() can be rolled back. Indices are 0-based and stay valid for the
/// object's life. Source of the structure: Mäntylä, An Introduction to Solid Modeling (1988), ch. 10.
class HalfEdgeBody {
public:
    explicit HalfEdgeBody(const Incidence& incidence) : m_incidence(incidence) {}

    void begin();
    void commit();
    void rollBack();

    /// Record of a face by its Incidence number, loading it when needed.
    int faceRecord(int number);
    [[nodiscard]] const SurgeryFace& face(int f) const { return m_faces[f]; }
    [[nodiscard]] const SurgeryEdge& edge(int e) const { return m_edges[e]; }
    [[nodiscard]] const SurgeryVertex& vertex(int v) const { return m_vertices[v]; }
    [[nodiscard]] const HalfEdge& half(int h) const { return m_halves[h]; }
    [[nodiscard]] const std::vector<int>& halvesOf(int f) const { return m_halvesOfFace[f]; }  ///< dead ones included
    [[nodiscard]] int faceCount() const { return static_cast<int>(m_faces.size()); }
    /// The face's surface, carried on past its ends where it has any, by about the extent of the face. The parameters
    /// are those of the face's own; which of the two a face is built on is decided by where its edges come to lie.
    [[nodiscard]] Handle(Geom_Surface) surfaceOf(int f) const;
    SurgeryFace& changeFace(int f);
    /// Puts a face, whose sides have all been killed, on another surface; `reversed`: outside is where its normal does
    /// not look.
    void putOn(int f, const Handle(Geom_Surface) & surface, bool reversed);
    SurgeryEdge& changeEdge(int e);
    HalfEdge& changeHalf(int h);

    /// The other side of the edge, loading its face. Where a body meets itself along the edge and more than two faces
    /// stand there, the one across the same wedge of material. -1 where there is none that runs the other way.
    int twin(int h);
    [[nodiscard]] int startOf(int h) const;
    [[nodiscard]] int endOf(int h) const;
    void link(int before, int after);
    void kill(int h);

    int addVertex(const gp_Pnt& point, double tolerance);
    /// A new edge with a side on each of two faces: the first side runs along the curve. Returns the first side; its
    /// twin is +1.
    int addEdge(const Handle(Geom_Curve) & curve, double first, double last, int start, int end, double tolerance,
                int faceAlong, int faceAgainst);
    /// A degenerated edge at a pole, with its trace. Returns its side.
    int addPoleEdge(const Handle(Geom2d_Curve) & trace, double first, double last, int vertex, int face);
    /// Gives an edge another extent (and curve), and its sides matching traces. Refuses when a side's surface does not
    /// carry it.
    Result<void> reshape(int edge, const Handle(Geom_Curve) & curve, double first, double last, double tolerance);
    /// Gives one side of an edge that lies on another face's surface to that face. Refuses when it does not lie there.
    Result<void> handOver(int h, int into, double tolerance);
    /// Moves all sides of face `from` to `into`; both lie on one surface.
    Result<void> merge(int into, int from, double tolerance);

    /// Trace of a side in its face's parameters, in step with the edge's curve.
    [[nodiscard]] Handle(Geom2d_Curve) traceOf(int h) const;
    /// Twice the signed area of the loop through `h` in its face's parameters, positive for an outer loop.
    [[nodiscard]] double loopArea(int h) const;

    /// The faces that changed since begin(), as they are now: by record. To be looked at before commit() or rollBack().
    Result<std::vector<std::pair<int, TopoDS_Face>>> preview(double tolerance);
    /// Records of faces that changed since begin() or went.
    [[nodiscard]] std::vector<int> touched() const;
    /// As it was at begin().
    [[nodiscard]] const SurgeryFace& before(int f) const;

    /// Faces as they are now. Returned map: every loaded face that changed, by its received shape; a null shape means
    /// gone.
    Result<TopTools_DataMapOfShapeShape> build(double tolerance);
    /// Faces, as received, in whose place others are whose surface's normal looks to the other side.
    [[nodiscard]] TopTools_MapOfShape flipped() const;

private:
    struct Mark {
        std::size_t halves = 0, edges = 0, vertices = 0, faces = 0;
    };
    int twinInFan(int h);
    void beginWhereItTouchesItself(std::vector<int>& row) const;
    int vertexRecord(const TopoDS_Vertex& vertex);
    int edgeRecord(const TopoDS_Edge& edge);
    int addHalf(int edge, int face, bool alongEdge);
    /// Keeps a straight trace that simply runs on over the edge's new extent: exact, and at a pole the only way.
    bool runsOnAlong(int h, const Handle(Geom2d_Curve) & trace, double tolerance);
    Result<void> retrace(int h, double tolerance, double referenceAt, const std::optional<gp_Pnt2d>& reference);
    Result<void> retraced(int h, double tolerance);
    Result<void> makeContinuous(int face, double tolerance);
    void stretchWhereNeeded();
    /// What a face is built on, with its place.
    Handle(Geom_Surface) builtSurface(int f, TopLoc_Location& place) const;
    Result<TopoDS_Face> builtFace(int f);
    TopoDS_Edge builtEdge(int e);
    TopoDS_Vertex builtVertex(int v);

    const Incidence& m_incidence;
    // Loading a face adds to these while callers hold references into them: in a deque those stay good.
    std::deque<HalfEdge> m_halves;
    std::deque<SurgeryEdge> m_edges;
    std::deque<SurgeryVertex> m_vertices;
    std::deque<SurgeryFace> m_faces;
    std::deque<std::vector<int>> m_halvesOfFace;
    std::unordered_map<int, int> m_faceByNumber, m_edgeByNumber, m_vertexByNumber;
    std::unordered_map<int, int> m_twinInFan;  // by side, at edges of more than two
    std::vector<TopoDS_Edge> m_builtEdges;
    mutable std::unordered_map<int, Handle(Geom_Surface)> m_carriedOn;  // by face record

    std::vector<int> m_newEdges;
    std::vector<std::pair<int, HalfEdge>> m_oldHalves;
    std::vector<std::pair<int, SurgeryEdge>> m_oldEdges;
    std::vector<std::pair<int, SurgeryFace>> m_oldFaces;
    std::vector<std::pair<int, std::vector<int>>> m_oldRows;
};

/// Parameter at which an edge ends when its end (`ahead`) or its start comes to lie at `point`: beyond its old end, or
/// within the edge. None where its curve passes farther than `tolerance` [mm] (or the edge's own) from the point, or
/// nothing of it would be left.
std::optional<double> carriedTo(const SurgeryEdge& edge, bool ahead, const gp_Pnt& point, double tolerance);

/// A copy of `shape` in which faces are replaced as the map says (null: left out), keeping the orientation they have
/// there but for those of `flipped`; containers that become empty go too.
TopoDS_Shape substituted(const TopoDS_Shape& shape, const TopTools_DataMapOfShapeShape& faces,
                         const TopTools_MapOfShape& flipped = {});

}  // namespace rasoir
