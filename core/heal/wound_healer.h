// What removeAndHeal works with: one wound, or several that the same faces leave, from its boundary to its closing. Not
// for others.
#pragma once
#include <Bnd_Box.hxx>
#include <map>
#include <optional>
#include <set>
#include <unordered_set>
#include <vector>

#include "geometry/surface_meeting.h"
#include "heal/closing.h"
#include "heal/polygon.h"
#include "topology/half_edges.h"

namespace rasoir::heal {

class WoundHealer {
public:
    WoundHealer(HalfEdgeBody& body, const std::vector<int>& faces, Choices& choices, double tolerance);
    /// The outline of an opening: open edges of these faces.
    Result<void> openAlong(const std::vector<int>& edges, const std::vector<int>& faces);
    Result<void> run();
    [[nodiscard]] const std::set<int>& reshaped() const { return m_reshaped; }

private:
    /// A neighbour of the wound: its face, the last side before the wound and the first after it.
    struct Slot {
        int face = -1;
        int in = -1;
        int out = -1;
    };
    using SlotPair = std::pair<std::size_t, std::size_t>;

    struct Joined {
        Handle(Geom_Curve) curve;
        double first = 0.0, last = 0.0;
    };

    struct Plan {
        std::vector<gp_Pnt> corners;                  // by triangle
        std::vector<int> cornerOfSide;                // spoke i (slot i to i+1): its triangle
        std::vector<std::optional<double>> spokeEnd;  // exact extension, else a bridge
        std::vector<std::optional<CurvePiece>> spokeBridge;
        struct Diagonal {
            int i, j, from, to;  // slots, triangles
            CurvePiece piece;
        };
        std::vector<Diagonal> diagonals;
    };

    HalfEdgeBody& m_body;
    Choices& m_choices;
    double m_tolerance;
    std::set<int> m_reshaped;  // face numbers
    std::unordered_set<int> m_removed;
    std::vector<int> m_boundary;  // sides of kept faces at removed ones
    std::unordered_set<int> m_isBoundary;
    std::unordered_set<int> m_done;
    std::vector<int> m_whole;   // loops of nothing but the wound, by one side
    std::vector<Slot> m_alone;  // faces that go all round it, with their seam
    Bnd_Box m_reach;
    bool m_failed = false;

    // wound.cpp: from the boundary to loops and rings of neighbours
    [[nodiscard]] tl::unexpected<Problem> stopped(std::string what, std::string remedy,
                                                  const std::vector<Slot>& slots = {}) const;
    Handle(Geom_Surface) surfaceOf(int face) const { return m_body.surfaceOf(face); }
    Result<void> findBoundary();
    Result<void> closeWound(int seed);
    Result<void> dropLoop(int seed);
    Result<void> closeSlots(std::vector<Slot> slots);
    void touch(const std::vector<Slot>& slots);
    [[nodiscard]] bool near(const gp_Pnt& point) const;
    [[nodiscard]] bool within(const CurvePiece& piece) const;

    // wound_joins.cpp: edges that are interrupted, pieces of one surface, two neighbours
    /// Neighbours, not beside each other, that are pieces of one surface; flats first, and the pair that parts the
    /// wound most evenly.
    [[nodiscard]] std::vector<SlotPair> piecesOfOne(const std::vector<Slot>& slots) const;
    /// Two pieces of one surface (the floor of a groove across the wound) become one face across it, and part the wound
    /// in two.
    Result<void> partBetween(const std::vector<Slot>& slots, const std::vector<SlotPair>& pairs);
    /// The curve of `in` carried on over the wound and along the whole of `out`.
    [[nodiscard]] std::optional<Joined> joinedCurve(int in, int out) const;
    /// The edge of `in` goes on as that of `out`, which is no more; `sideBefore` and `sideAfter` are their other sides.
    bool weld(int in, int out, int sideBefore, int sideAfter, const Joined& joined, std::vector<Slot>& slots);
    /// The edge into the wound at slots[i] carried on to where it leaves again, if its neighbours on both sides are one
    /// surface there.
    [[nodiscard]] std::optional<Joined> joinable(const std::vector<Slot>& slots, std::size_t i) const;
    /// Of four neighbours, joining at slots[i] leaves two: the one across and the pieces made one. Where these do not
    /// meet across the wound (a groove's edge that passes a recess in its wall) the edge must not be joined.
    [[nodiscard]] bool leavesNothingToMeet(const std::vector<Slot>& slots, std::size_t i) const;
    /// Joins the two edges of slots[i], and with them its neighbours on both sides.
    bool tryJoin(std::vector<Slot>& slots, std::size_t i);
    Result<void> bridgeTwo(const std::vector<Slot>& slots);

    // wound_rings.cpp: a groove round a shaft, all round a neck, on to a pole
    /// One face all round, with its seam. What it closes with may lie at another of the wound's rings.
    Result<void> leaveAlone(const Slot& slot);
    Result<void> closeRings();
    /// Two faces of one surface whose seams continue each other become one face.
    bool joinRings(const Slot& a, const Slot& b);
    /// The closed curve through `point` in which the slot's face meets another, running the way its old rim ran.
    [[nodiscard]] std::optional<CurvePiece> ringThrough(const Slot& slot, int other, const gp_Pnt& point) const;
    /// A face whose seam runs on to another face, which has lost a whole loop: they meet in a ring. False where they do
    /// not.
    bool meetInRing(const Slot& slot, int seed);
    /// Two faces whose seams both run on to the other (a groove between a shank and a ball): they meet in a ring, from
    /// seam to seam.
    bool meetRound(const Slot& a, const Slot& b);
    Result<void> closeAtPole(const Slot& slot);

    // wound_polygon.cpp: three and more neighbours that meet in corners
    Result<void> closePolygon(std::vector<Slot> slots);
    /// The wound touches a neighbour in a single point: there it meets those before and after it, and needs no other
    /// corner.
    [[nodiscard]] std::optional<gp_Pnt> alreadyThere(const std::vector<Slot>& slots, const Triangle& t) const;
    /// Two neighbours that are tangent to each other do not say where they meet a third: the edge between them, carried
    /// on to it, does.
    [[nodiscard]] std::optional<gp_Pnt> alongSpoke(const std::vector<Slot>& slots, const Triangle& t) const;
    std::optional<Plan> planned(const std::vector<Slot>& slots, const std::vector<Triangle>& way,
                                std::map<Triangle, std::optional<gp_Pnt>>& corners);
    Result<void> apply(std::vector<Slot> slots, const std::vector<Triangle>& way, const Plan& plan);
    static int thirdCorner(const Triangle& t, int i, int j);
    /// Going round from i upwards, `middle` comes before j.
    static bool between(int i, int middle, int j, int k) { return (middle - i + k) % k < (j - i + k) % k; }
};

}  // namespace rasoir::heal
