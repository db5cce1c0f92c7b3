// What stitch works with: corners, then edges, then faces, round after round. Not for others.
#pragma once
#include <array>
#include <Geom2d_Curve.hxx>
#include <Geom_Surface.hxx>
#include <limits>
#include <optional>
#include <set>
#include <TopoDS_Edge.hxx>
#include <TopoDS_Face.hxx>
#include <TopoDS_Vertex.hxx>
#include <TopoDS_Wire.hxx>
#include <vector>

#include "common/progress.h"
#include "geometry/curves.h"
#include "geometry/surface_meeting.h"
#include "mend/stitch.h"

namespace rasoir::mend {

using survey::RimPiece;
using survey::Rims;

/// How two edges that do not coincide become one, from the best to what always serves.
enum class Joint {
    Met,       // where the surfaces truly meet; else one of the two; else midway, drawn onto both
    Plain,     // midway between the two, as they are
    AsTheyAre  // one of the two serves both; each face keeps its boundary on its surface, and the edge's tolerance
               // spans the step
};

class Stitcher {
public:
    Stitcher(const Incidence& incidence, const TopoDS_Shape& shape, const StitchWanted& wanted, Progress& progress)
        : m_incidence(incidence), m_shape(shape), m_wanted(wanted), m_progress(progress) {}
    Result<Stitched> run();

private:
    static constexpr double steep = 0.1;  // [rad] faces that meet at less say little about where

    /// What takes the place of an old edge, or of a piece of it, in the old edge's direction.
    struct Replacement {
        TopoDS_Edge edge;
        bool along = true;
    };
    struct Pair {
        int a = -1, b = -1;  // pieces
        bool refused = false;
        std::string why;
        bool exact = false;
        Joint joint = Joint::Met;
        TopoDS_Edge edge;
        Handle(Geom_Curve) curve;
        double first = 0.0, last = 0.0;
        bool alongA = true, alongB = true;  // the new edge's direction against each old one's
        std::array<Handle(Geom2d_Curve), 2> traces;
        double tolerance = 0.0, shift = 0.0, step = 0.0;
        gp_Pnt shiftAt, stepAt;
        // What it was shaped for: in the next round only what changed is shaped again.
        std::optional<Joint> shapedAs;
        gp_Pnt shapedFrom, shapedTo;
    };
    struct Checked {
        std::vector<double> boundary;
        bool spoiled = false;
    };
    /// One side of a pair: where its boundary runs on its surface.
    struct Side {
        const EdgeProbe* probe = nullptr;
        const RimPiece* piece = nullptr;
        Handle(Geom_Surface) surface;
        Handle(Geom2d_Curve) trace;  // null where no guess is needed

        [[nodiscard]] std::optional<gp_Pnt2d> guess(double parameter) const {
            return trace.IsNull() ? std::nullopt : std::optional(trace->Value(parameter));
        }
        [[nodiscard]] std::optional<gp_Pnt2d> guessNear(const gp_Pnt& point) const {
            return trace.IsNull() ? std::nullopt : guess(probe->nearest(point, piece->first, piece->last).parameter);
        }
        /// [mm] from the surface; never more than from the boundary's own place on it.
        [[nodiscard]] double off(const gp_Pnt& point, double tolerance) const {
            const auto uv = guessNear(point);
            const auto foot = parametersOn(surface, point, tolerance, uv);
            const double searched =
                foot ? surface->Value(foot->X(), foot->Y()).Distance(point) : std::numeric_limits<double>::max();
            return uv ? std::min(searched, surface->Value(uv->X(), uv->Y()).Distance(point)) : searched;
        }
    };

    const Incidence& m_incidence;
    const TopoDS_Shape& m_shape;
    const StitchWanted& m_wanted;
    Progress& m_progress;
    std::set<int> m_collapsed;
    bool m_spoiledByCollapse = false;
    Rims m_rims;
    std::vector<Handle(Geom_Surface)> m_surfaces;
    std::vector<std::vector<int>> m_edgesAtVertex;
    std::vector<Pair> m_pairs;
    std::vector<int> m_pairOfPiece;
    std::vector<std::vector<int>> m_piecesOf;  // by edge number
    std::vector<Checked> m_checked;            // by face number
    int m_refusals = 0;                        // rounds in which pairs were taken back
    int m_again = 0;  // pairs that were taken back or are to be joined more plainly: another round is due
    std::vector<NotStitched> m_left, m_stayed;  // pairs; edges that could not shrink
    std::vector<TopoDS_Vertex> m_newVertex;     // by corner; null where nothing is joined
    std::vector<gp_Pnt> m_cornerPoint;
    std::vector<std::vector<Replacement>> m_replaced;  // by edge number
    std::vector<TopoDS_Face> m_faces;                  // by face number, as they are now
    std::vector<char> m_changed;

    // stitch.cpp: which pairs, round after round, and what is told
    Result<Stitched> attempt();
    static tl::unexpected<Problem> cancelled() { return fail(ProblemKind::Cancelled, "Stopped; nothing has changed."); }
    [[nodiscard]] tl::unexpected<Problem> refusal() const;
    [[nodiscard]] const RimPiece& piece(int p) const { return m_rims.pieces[static_cast<std::size_t>(p)]; }
    [[nodiscard]] const EdgeProbe& probe(int edge) const { return *m_rims.probes[static_cast<std::size_t>(edge)]; }
    void mapVertices();
    void choosePairs();
    void begin();
    [[nodiscard]] gp_Pnt endOf(const RimPiece& p, bool start) const {
        return probe(p.edge).value(start ? p.first : p.last);
    }
    [[nodiscard]] double probeLength(int edge) const { return EdgeProbe(m_incidence.edge(edge)).length(); }
    void finish(Stitched& result);

    // stitch_corners.cpp: where ends come together
    void makeCorners();
    [[nodiscard]] Handle(Geom2d_Curve) oldTrace(int edge, int face) const;
    [[nodiscard]] TopoDS_Vertex vertexOf(int number) const;
    [[nodiscard]] std::size_t cornerAt(int collapsedEdge) const;
    /// Where the surface of a degenerated edge has shrunk to a point.
    [[nodiscard]] std::optional<gp_Pnt> polePoint(int edge) const;
    /// Parameters of a vertex on a face, as one of its edges there tells them.
    [[nodiscard]] std::optional<gp_Pnt2d> traceEnd(int edge, int face, int vertex) const;

    // stitch_joints.cpp: two edges become one
    [[nodiscard]] Side sideOf(const RimPiece& own) const;
    void refuse(Pair& pair, const std::string& why);
    Result<void> makeEdges();
    Result<void> shapePair(Pair& pair);
    /// The two coincide: the simpler curve serves both.
    Result<void> sameEdge(Pair& pair);
    [[nodiscard]] Handle(Geom_Curve) untrimmed(int edge) const;
    /// As received, of an edge and its ends [mm].
    [[nodiscard]] double oldTolerance(int edge) const;
    /// Traces that are missing are made; the edge's tolerance covers what curve and traces differ.
    Result<void> completeTraces(Pair& pair, double allowed);
    /// The two do not coincide: a new curve between the corners. First where the surfaces truly meet; else one of the
    /// two; else midway.
    Result<void> fittedEdge(Pair& pair, const gp_Pnt& from, const gp_Pnt& to);
    /// Gives the pair this curve, with traces on both faces, if it lies close enough to both.
    bool take(Pair& pair, const CurvePiece& candidate, const Side& sideA, const Side& sideB, double width, double fit,
              std::string& why);
    /// The curve of the one, and the traces both faces have.
    Result<void> asTheyAre(Pair& pair, double width);
    /// b's trace told by a's parameter: point for point the nearest.
    [[nodiscard]] Handle(Geom2d_Curve) atThePaceOf(const Pair& pair, const RimPiece& b) const;
    [[nodiscard]] Handle(Geom2d_Curve) pacedTrace(const Pair& pair, const RimPiece& b, bool byShare) const;
    /// Factor and offset that take b's parameter to a's, ends to ends.
    [[nodiscard]] static std::pair<double, double> stepFrom(const RimPiece& a, const RimPiece& b);
    [[nodiscard]] bool inStep(const RimPiece& a, const RimPiece& b, double scale, double shift, double within) const;
    [[nodiscard]] double angleBetween(const Side& sideA, const Side& sideB) const;
    /// One of the two curves as it is, when it lies on both surfaces and ends where it should.
    [[nodiscard]] std::optional<CurvePiece> oneOfTheTwo(const Side& sideA, const Side& sideB, const Pair& pair,
                                                        double fit) const;
    /// A spline halfway between the two; `settled`: drawn onto both surfaces as closely as they allow.
    [[nodiscard]] std::optional<CurvePiece> midway(const Side& sideA, const Side& sideB, const gp_Pnt& from,
                                                   const gp_Pnt& to, double fit, bool settled) const;

    // stitch_faces.cpp: the other edges, and the faces round them all
    void buildPairEdge(Pair& pair);
    /// Edges that are not joined but end at a joined corner, or were cut: copies that end at the new vertices.
    void copyOtherEdges();
    [[nodiscard]] TopoDS_Vertex replacementOf(const TopoDS_Vertex& vertex) const;
    [[nodiscard]] TopoDS_Edge copied(const TopoDS_Edge& old, int number, double first, double last,
                                     const TopoDS_Vertex& from, const TopoDS_Vertex& to) const;
    /// [mm] by which an edge's curve leaves its traces.
    [[nodiscard]] double offTraces(const TopoDS_Edge& edge, int number, double first, double last) const;
    /// Where a curve ends that should now end near `point`: drawn back or carried on, the latter only where curve and
    /// traces run on exactly.
    [[nodiscard]] double trimmedEnd(const Handle(Geom_Curve) & curve, int edge, double end, double first, double last,
                                    const gp_Pnt& point) const;
    void rebuildFaces();
    /// On surfaces that are none of the simple kinds a small distance in space may be a large one in the parameters:
    /// there the traces of new edges end exactly where their neighbours' do.
    void fitTraceEnds(const TopoDS_Wire& wire, const TopoDS_Face& face) const;
    /// Degenerated edges lead from where the side before them now ends to where the one behind begins.
    static void fitPoles(TopoDS_Wire& wire, const TopoDS_Face& face);
    /// All that decides how a face was rebuilt: by piece of its edges, the joint and where it ends.
    [[nodiscard]] std::vector<double> boundaryOf(int face) const;
    /// Faces that were sound and no longer are: the pairs at them that moved something are joined more plainly, or
    /// taken back.
    void spoiledFaces(bool mayBePlainer);
};

}  // namespace rasoir::mend
