// How holes are found: the state of one search, shared by its two halves. hole_rings.cpp asks what single faces are and
// puts walls into rings; holes.cpp grows holes from rings, names them, and joins pieces of one drill.
#pragma once
#include <optional>

#include "common/tolerance.h"
#include "geometry/round_surface.h"
#include "survey/holes.h"

namespace rasoir::survey {

inline constexpr double oneDegree = M_PI / 180.0;
inline constexpr double fullTurn = 358.0 * oneDegree;  // all the way round, less what a sliver may miss
inline constexpr double openTurn = 210.0 * oneDegree;  // a wall that breaks out sideways still goes this far
inline constexpr double halfTurn = 180.0 * oneDegree;
inline constexpr double sinkRatio = 1.5;

inline double heightOn(const gp_Ax1& axis, const gp_Pnt& point) {
    return gp_Vec(axis.Location(), point).Dot(gp_Vec(axis.Direction()));
}
inline double distanceTo(const gp_Ax1& axis, const gp_Pnt& point) {
    return gp_Vec(axis.Location(), point).Crossed(gp_Vec(axis.Direction())).Magnitude();
}

/// Faces of one concave cylinder or cone that belong together.
struct Ring {
    std::vector<int> faces;
    RoundSurface surface;
    double turn = 0.0;  // angle covered
    double low = 0.0, high = 0.0;
};

/// Finds the holes and slots of one part. Method: concave cylinders and cones about one axis make rings; a hole grows
/// from its narrowest ring over what closes or widens it; what is left of one drill that another hole parts is joined.
class HoleFinder {
public:
    HoleFinder(const Part& part, double targetSize, const HoleLimits& limits, Progress& progress)
        : m_part(part),
          m_topology(part.incidence()),
          m_targetSize(targetSize),
          m_limits(limits),
          m_progress(progress) {}
    Result<std::vector<Hole>> run();

private:
    // hole_rings.cpp: what single faces are.
    [[nodiscard]] bool concaveWall(int f) const;
    [[nodiscard]] bool sameAxis(const gp_Ax1& a, const gp_Ax1& b, double allowance) const;
    [[nodiscard]] bool coaxial(const gp_Ax1& axis, int f, double radius) const;
    void findRings();
    [[nodiscard]] bool sameRound(const RoundSurface& a, const RoundSurface& b) const;
    void measure(Ring& ring) const;
    [[nodiscard]] double radiusAt(const RoundSurface& surface, double height) const;
    /// A ring that goes round far enough, and where it does not go all the way, whose sides are sharp: else it is the
    /// round end of a pocket or a fillet.
    [[nodiscard]] bool isWall(const Ring& ring) const;
    [[nodiscard]] double widestOf(const Ring& ring) const;
    /// A floor of any shape: every neighbour belongs to the hole already, and no edge to them is convex. (A ball with
    /// one hole through it has the hole all around its only face, but meets it in convex edges.)
    [[nodiscard]] bool isFloor(int f, const std::vector<char>& inside) const;
    /// A flat floor that itself breaks out somewhere: square to the axis, it meets the hole in a concave edge,
    /// everything else in convex ones, and is no wider than the hole.
    [[nodiscard]] bool isOpenFloor(int f, const gp_Ax1& axis, const std::vector<char>& inside, double radius);
    /// Half the longest side of the box round a face's edges. Whatever axis a flat face is square to, some point of it
    /// lies at least so far away: a quick "no" that spares walking round a plate's thousand holes for each of them.
    [[nodiscard]] double halfSide(int f);
    /// A plane square to the axis whose outer boundary is made by concave walls about the same axis: a floor or
    /// shoulder.
    [[nodiscard]] bool isShoulder(int f, const gp_Ax1& axis, double radius, double& outerRadius);
    [[nodiscard]] bool goesAllRound(int f) const;
    [[nodiscard]] bool smoothTo(int f, int g) const;
    /// A narrow face all round the end of the wall, smooth to it: a rounded or chamfered rim on a face that is not
    /// flat.
    [[nodiscard]] bool isRimBlend(int f, int g, const std::vector<char>& inside, double radius) const;
    /// Something stands in it: a hole meets the outside in convex edges, its floor meets a boss or a wall in concave
    /// ones. Such a recess is a pocket, whatever its outline.
    [[nodiscard]] bool hasIsland(const std::vector<int>& faces, const std::vector<char>& inside) const;
    /// The closed chains of edges that part the hole from the rest, each as the faces on its other side.
    [[nodiscard]] std::vector<std::vector<int>> mouthsOf(const std::vector<int>& faces,
                                                         const std::vector<char>& inside) const;

    // holes.cpp: holes, from rings.
    void growFrom(int ringIndex);
    void classify(Hole& hole, const std::vector<int>& rings, bool seedIsCone);
    /// Two concave half rounds of one radius, parallel, and the two flats tangent to both.
    void findSlots();
    /// Goes through something hardly wider than itself: each end lies in one face, all of which lies within a diameter
    /// of its axis.
    [[nodiscard]] bool isBore(const Hole& hole);
    /// As forecast::faceShare, from sampled edges and, where the surface is round, its middle: near enough for an
    /// estimate and much quicker than integrating.
    [[nodiscard]] double extraOf(int f) const;
    void linkMouths();
    /// A drill that passes through another hole leaves its wall in pieces: one hole all the same.
    void joinInterrupted();
    void finish();

    // Of the radius: two bores of one hole that were fitted.
    [[nodiscard]] double allowanceFor(double radius) const { return std::max(10.0 * m_same, 1e-4 * radius); }
    /// Points along the edges of a face, enough to tell its extent.
    template <class Visit>
    void visitEdgePoints(int f, const Visit& visit) const {
        for (const int e : m_topology.edgesOf(f)) {
            const BRepAdaptor_Curve curve(m_topology.edge(e));
            const double first = curve.FirstParameter(), last = curve.LastParameter();
            const int pieces = curve.GetType() == GeomAbs_Line ? 1 : 12;
            for (int i = 0; i <= pieces; ++i) visit(curve.Value(first + (last - first) * i / pieces));
        }
    }

    const Part& m_part;
    const Incidence& m_topology;
    double m_targetSize;
    HoleLimits m_limits;
    Progress& m_progress;
    double m_scale = 1.0;
    double m_same = Tolerance::samePlace;
    std::vector<std::optional<RoundSurface>> m_round;
    std::vector<SurfaceKind> m_kind;
    std::vector<int> m_holeOf, m_ringOf;
    std::vector<double> m_halfSide;  // by face; negative: not known yet
    std::vector<Ring> m_rings;
    std::vector<Hole> m_holes;
};

}  // namespace rasoir::survey
