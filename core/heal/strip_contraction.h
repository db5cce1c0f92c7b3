// What removeStrips works with: strips shrink to edges in the half-edge structure, then the geometry is found. Not for
// others.
#pragma once
#include <array>
#include <map>
#include <optional>
#include <set>
#include <unordered_map>
#include <unordered_set>
#include <vector>

#include "geometry/surface_meeting.h"
#include "heal/closing.h"
#include "topology/half_edges.h"
#include "topology/strip.h"

namespace rasoir::heal {

class Contraction {
public:
    /// A new edge along a strip: the strip's record, and which one along it.
    using Stretch = std::pair<int, int>;
    /// What a run before this one has found.
    struct Found {
        std::set<int> shrinking;          ///< edges of kept faces that end where they begin
        std::set<Stretch> backwards;      ///< new edges whose ends have passed each other
        bool contractsBackwards = false;  ///< and so are shrunk too, their ends being one corner
    };

    Contraction(HalfEdgeBody& body, const std::vector<Strip>& strips, const std::vector<int>& corners,
                const Found& found, Choices& choices, double tolerance);
    Result<std::set<int>> run();
    /// Edges that have no length left: to be tried again with these shrunk too.
    [[nodiscard]] const std::set<int>& shrunk() const { return m_shrunk; }
    [[nodiscard]] const std::set<Stretch>& backwards() const { return m_backwards; }

private:
    static constexpr double tangentBelow = 0.05;  // [rad] faces that meet at less do not say where
    static constexpr double farthest = 12.0;      // times the width of the strip: the corner of a wedge of ten degrees

    /// A side in a loop as it will be: an old one, or one of a new edge.
    struct Side {
        int half = -1;
        int fresh = -1;
        bool along = true;  // of a new edge: runs with it
        friend bool operator==(const Side&, const Side&) = default;
    };

    /// A new edge between two faces, from one meeting place to another.
    struct Fresh {
        int faceAlong = -1, faceAgainst = -1;
        int from = -1, to = -1;              // groups of vertices; for those inside a corner: -1
        int fromVertex = -1, toVertex = -1;  // once known
        gp_Pnt start, end;
        std::vector<gp_Pnt> hints;  // at a quarter, half, three quarters of the strip
        gp_Vec direction;
        std::vector<CurvePiece> pieces;
        std::vector<gp_Pnt> stations;  // between the pieces
        std::vector<int> halves;       // once made: the side along of each piece
        Stretch along{-1, 0};          // none: inside a corner
    };

    struct Slot {
        int face = -1;
        Side in, out;
    };
    struct Corner {
        std::vector<Slot> ring;
        std::vector<gp_Pnt> points;     // one, or one for each triangle
        std::vector<int> pointOfSpoke;  // spoke i: between slot i and i + 1
        struct Diagonal {
            int i, j, from, to, fresh;
        };
        std::vector<Diagonal> diagonals;
        std::vector<int> vertices;
    };
    /// Polyline along sides, with lengths.
    struct Path {
        std::vector<gp_Pnt> points;
        std::vector<double> at;    // length up to there
        std::vector<double> ends;  // length up to the end of each side
        [[nodiscard]] double length() const { return at.back(); }
        [[nodiscard]] double nearest(const gp_Pnt& point) const {
            double best = std::numeric_limits<double>::max(), where = 0.0;
            for (std::size_t i = 0; i + 1 < points.size(); ++i) {
                const gp_Vec along(points[i], points[i + 1]);
                const double square = along.SquareMagnitude();
                const double share =
                    square > 0.0 ? std::clamp(gp_Vec(points[i], point).Dot(along) / square, 0.0, 1.0) : 0.0;
                const double distance = points[i].Translated(along * share).Distance(point);
                if (distance < best) {
                    best = distance;
                    where = at[i] + share * (at[i + 1] - at[i]);
                }
            }
            return where;
        }
        [[nodiscard]] gp_Pnt value(double s) const {
            for (std::size_t i = 0; i + 1 < points.size(); ++i)
                if (s <= at[i + 1] || i + 2 == points.size()) {
                    const double share = at[i + 1] > at[i] ? (s - at[i]) / (at[i + 1] - at[i]) : 0.0;
                    return points[i].Translated(gp_Vec(points[i], points[i + 1]) * share);
                }
            return points.back();
        }
    };
    struct Cells {
        std::vector<std::vector<int>> cells;  // slots round each
        std::vector<gp_Pnt> points;
        std::vector<std::array<int, 4>> diagonals;  // slots i < j, the cells on both sides
    };

    HalfEdgeBody& m_body;
    const std::vector<Strip>& m_strips;
    double m_tolerance;
    const Found& m_found;
    Choices& m_choices;
    std::set<int> m_shrunk;
    std::set<Stretch> m_backwards;
    std::set<int> m_removed;                  // records
    std::unordered_map<int, int> m_parent;    // vertices that become one
    std::unordered_set<int> m_touched;        // groups
    std::unordered_map<int, double> m_width;  // by vertex: of the widest strip or patch at it [mm]
    std::map<int, std::vector<Side>>
        m_instead;  // by old side of a kept face: what takes its place, in the face's direction
    std::vector<Fresh> m_fresh;
    std::vector<std::pair<int, std::vector<Side>>> m_loops;      // face, its sides to be
    std::map<int, Corner> m_corners;                             // by group
    std::map<std::pair<int, int>, std::vector<Side>> m_between;  // extra sides put between in and out, by (group, slot)
    std::map<int, bool> m_diagonalAlongJ;                        // by new edge: the side along it belongs to slot j
    std::set<int> m_reshaped;
    std::map<std::vector<int>, std::optional<gp_Pnt>> m_commonPoints;  // of the corner in hand, by cell

    // strips.cpp: what shrinks, and the loops as they will be
    [[nodiscard]] tl::unexpected<Problem> stopped(std::string what, std::string remedy, std::vector<int> faces = {},
                                                  std::optional<gp_Pnt> at = std::nullopt) const;
    Handle(Geom_Surface) surfaceOf(int face) const { return m_body.surfaceOf(face); }
    int find(int v);
    void unite(int a, int b) { m_parent[find(a)] = find(b); }
    [[nodiscard]] gp_Pnt pointOn(int h, double share) const;
    Result<void> readStrips();
    /// Widths by patches: longest distance between two of its vertices, for strips between its two sides.
    void measureWidths();
    [[nodiscard]] Path pathAlong(const std::vector<int>& sides, bool backwards) const;
    /// The two sides of a strip, and the new edges between what lies along them.
    Result<void> layOut(int f, const std::unordered_map<int, int>& label);
    int startGroup(const Side& side);
    int endGroup(const Side& side);
    Result<void> rewalkLoops();
    Side twinOf(const Side& side);
    /// Slots one after another round the corner; faces that only touch it there are taken in.
    Result<void> orderRing(int group, Corner& corner);

    // strips_corners.cpp: where they meet
    [[nodiscard]] double offSurface(int face, const gp_Pnt& point) const;
    [[nodiscard]] double weakest(const std::vector<int>& faces, const gp_Pnt& point) const;
    Result<void> solveCorners();
    /// Kept edges whose two ends have come together.
    bool findShrinking();
    /// New edges that would run from their end to their beginning: two events along the strip, where a seam ends and
    /// where one face beside it follows another, say, have changed places. True if there are any to be shrunk.
    bool findBackwards();
    Result<void> solve(Corner& corner, const std::vector<int>& vertices);
    /// Where two old edges beside each other, carried on, meet: of faces that are tangent there (two rounds that run
    /// into one flat) nothing else tells.
    template <class OnAll>
    std::optional<gp_Pnt> spokesMeet(const std::vector<Slot>& ring, const gp_Pnt& start, double reach, double fit,
                                     const OnAll& onAll);
    /// A point that lies on all faces of some slots: an old vertex, where they cross, or where an old edge between two
    /// of them meets the rest.
    std::optional<gp_Pnt> commonPoint(const std::vector<Slot>& ring, const std::vector<int>& cell,
                                      const std::vector<int>& vertices, const gp_Pnt& start, double reach, double fit);
    /// All ways to cut a cell with at most `cuts` diagonals so that each piece has a point, fewest cuts first;
    /// `uncutToo`: with none as well.
    void cutApart(const std::vector<Slot>& ring, const std::vector<int>& cell, int cuts,
                  const std::vector<int>& vertices, const gp_Pnt& start, double reach, double fit,
                  std::vector<Cells>& ways, bool uncutToo = true);
    /// More than one point: the corner is cut by new edges between faces that were not neighbours there.
    Result<void> divide(Corner& corner, const std::vector<int>& vertices, const gp_Pnt& start, double reach, double fit,
                        int passed);
    /// Where two faces meet between two points of both; where they are one flat, straight on, as what divided them
    /// before.
    [[nodiscard]] std::optional<CurvePiece> curveBetween(int a, int b, const gp_Pnt& from, const gp_Pnt& to,
                                                         double tolerance) const;

    // strips_curves.cpp: the new edges, and what is done to the body
    /// Every end of a new edge knows its point once the corners are solved.
    void placeEnds();
    [[nodiscard]] gp_Pnt onBoth(const Fresh& fresh, const gp_Pnt& hint) const;
    Result<void> findCurves();
    void touch(int f);
    Result<void> make(Fresh& fresh);
    void append(std::vector<int>& row, const Side& side) const;
    Result<void> apply();
    /// The old edge that leaves the corner between slot i and i + 1 now ends at `vertex`.
    Result<void> carryOn(int group, Corner& corner, int i, int vertex);
    void relink();
};

}  // namespace rasoir::heal
