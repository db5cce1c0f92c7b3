// The widest way through the air from a point to somewhere else, between triangulated walls: how wide a ball can roll
// along it, and where it would get stuck first.
#pragma once
#include <Bnd_Box.hxx>
#include <cstdint>
#include <functional>
#include <unordered_map>
#include <vector>

#include "common/progress.h"
#include "geometry/ray_field.h"

namespace rasoir {

class WidestWay {
public:
    struct Way {
        double clearance = 0.0;      ///< [mm] radius of the widest ball that gets through
        std::size_t narrowest = 0;   ///< the point of the way where it is that narrow
        std::vector<gp_Pnt> points;  ///< [mm] from the beginning to the end
    };
    enum class End {
        Arrived,
        Closed,   ///< there is no way for a ball of the finest radius
        TooFine,  ///< given up: `mostCells` would not do to tell
        Cancelled
    };
    /// `walls`     have to outlive this.
    /// `room`      [mm] where to look.
    /// `rimmed`    occurrences whose walls may end in the open, as sheets do: round a rim a way needs no second wall.
    /// `finest`    [mm] radius; narrower ways are none.
    /// `mostCells` bounds time and memory: about 100 bytes and 2 microseconds each.
    WidestWay(const RayField& walls, const Bnd_Box& room, std::set<std::size_t> rimmed, double finest,
              std::size_t mostCells);

    /// The way on which the least clearance is greatest. Known places keep their clearance, so that further searches
    /// are quick.
    /// Method    best first over the cells of an octree, the widest first (Dijkstra with the least clearance in place
    /// of
    ///           the sum). A cell whose middle is farther from all walls than its corners is free; one that is not is
    ///           divided when its turn comes, never before, so that narrow corners that no answer needs stay coarse.
    ///           Free cells with a common side are in one air: nobody asks what is inside a solid, and sheets will do
    ///           for walls.
    ///           Nor is one divided that has but one plain wall about it: there is room enough above, and no way
    ///           through.
    /// Cost      n log n in the cells; about the length of all edges and narrow passages that are reached over the
    ///           answer, with sheets their area over its square.
    End search(const gp_Pnt& from, const std::function<bool(const gp_Pnt&)>& isThere, Way& way, Progress& progress);

    /// A place that a ball gets near to from where it was let go.
    struct Flooded {
        double way = 0.0;        ///< [mm] that it has to roll
        gp_Pnt from;             ///< where it stands then
        gp_Pnt middle;           ///< of the place; `from` itself where the ball fits
        double clearance = 0.0;  ///< [mm] of the place
    };
    /// All that a ball of `radius` [mm], not below the finest, gets near to, the nearest first; smaller ones down to
    /// half of that may get through where the cells happen to lie well.
    ///
    /// `isBeyond`   where it does not roll on from.
    /// Method    Dijkstra's, over the same cells, from middle to middle: ways are told too long by a tenth or so.
    End flood(const gp_Pnt& from, double radius, const std::function<bool(const Flooded&)>& isBeyond,
              const std::function<void(const Flooded&)>& take, Progress& progress);
    /// After flood(): the place that a point is in, or none where the ball did not get near.
    [[nodiscard]] std::optional<Flooded> floodedAt(const gp_Pnt& point) const;

    /// From now on there is no way through cells whose middles are such: with the nearest wall and the distance to it.
    void block(const std::function<bool(const gp_Pnt&, const RayHit&)>& isShut);
    /// Whether a search went through a point.
    [[nodiscard]] bool wentThrough(const gp_Pnt& point) const;
    [[nodiscard]] std::size_t cells() const { return m_cells.size(); }

private:
    using Key = std::uint64_t;  // level, and place in that level's grid
    struct Cell {
        float clearance = -1.0F;  // [mm] of its middle
        bool divided = false, shut = false;
        int run = 0;         // the search that reached it last
        float reach = 0.0F;  // clearance of the way to it; flooded: its length
        Key before = 0;      // the cell that it was reached from
    };
    struct Entry {
        float reach;
        Key cell, before;
        bool operator<(const Entry& other) const { return reach < other.reach; }
    };
    struct Spot {
        int level;
        std::array<std::uint32_t, 3> at;
    };

    const RayField& m_walls;
    std::set<std::size_t> m_rimmed;
    gp_Pnt m_corner;      // least corner of the whole cube
    double m_side = 1.0;  // [mm] of the whole cube
    double m_finest;
    std::size_t m_most;
    int m_deepest = 0;
    int m_run = 0;
    std::unordered_map<Key, Cell> m_cells;
    std::vector<std::function<bool(const gp_Pnt&, const RayHit&)>> m_shut;

    /// The free cell round a point, divided until there is one; none where the point has not that much room.
    std::optional<Spot> beginAt(const gp_Pnt& from, int deepest);
    /// Takes the undivided cells below one that have a side in common with another.
    void eachTouching(const Spot& whole, const Spot& other, const std::function<void(Key)>& take);
    static Key keyOf(const Spot& spot);
    static Spot spotOf(Key key);
    [[nodiscard]] double sideOf(int level) const { return m_side / static_cast<double>(1U << level); }
    [[nodiscard]] double halfDiagonal(int level) const { return 0.5 * std::sqrt(3.0) * sideOf(level); }
    [[nodiscard]] gp_Pnt middleOf(const Spot& spot) const;
    [[nodiscard]] std::optional<Spot> knownAt(const gp_Pnt& point) const;  ///< the undivided cell there
    [[nodiscard]] Spot spotAt(const gp_Pnt& point, int level) const;
    Cell& cellAt(Key key);  ///< measured when it is seen for the first time
    [[nodiscard]] bool isFree(const Cell& cell, int level) const;
    [[nodiscard]] bool isShut(const Cell& cell, int level) const;
    void eachBeside(Key key, const std::function<void(Key)>& take);
    void eachBelow(const Spot& spot, int axis, bool high, const std::function<void(Key)>& take);
    [[nodiscard]] static bool besideEachOther(const Spot& a, const Spot& b);
};

}  // namespace rasoir
