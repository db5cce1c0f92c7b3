#include "geometry/widest_way.h"

#include <algorithm>
#include <cmath>
#include <queue>

#include "common/tolerance.h"

// Cells are known by level and place in that level's grid, packed into one number; only those that were looked at are
// kept, in a hash map. The queue holds cells together with the free cell that they were reached from, the widest first:
// a free cell counts with its clearance, one that is not with the most that any place in it could have. So when the end
// is taken from the queue, nothing left in it could be wider.

namespace rasoir {

namespace {

constexpr int mostLevels = 18;  // the finest grid has 2^18 cells to a side, which floats can still tell apart

}  // namespace

WidestWay::WidestWay(const RayField& walls, const Bnd_Box& room, std::set<std::size_t> rimmed, double finest,
                     std::size_t mostCells)
    : m_walls(walls), m_rimmed(std::move(rimmed)), m_finest(finest), m_most(mostCells) {
    const gp_Pnt low = room.CornerMin(), high = room.CornerMax();
    m_side = std::max({high.X() - low.X(), high.Y() - low.Y(), high.Z() - low.Z()});
    m_corner = low;
    // In a gap that is just passable a cell is free when it is as small as the clearance, wherever the grid falls.
    while (m_deepest < mostLevels && halfDiagonal(m_deepest) > 0.35 * finest) ++m_deepest;
    m_cells[keyOf({0, {0, 0, 0}})].divided = true;
}

WidestWay::Key WidestWay::keyOf(const Spot& spot) {
    return static_cast<Key>(spot.level) << 57U | static_cast<Key>(spot.at[0]) << 38U |
           static_cast<Key>(spot.at[1]) << 19U | static_cast<Key>(spot.at[2]);
}
WidestWay::Spot WidestWay::spotOf(Key key) {
    constexpr Key nineteen = (Key{1} << 19U) - 1;
    return {static_cast<int>(key >> 57U),
            {static_cast<std::uint32_t>(key >> 38U & nineteen), static_cast<std::uint32_t>(key >> 19U & nineteen),
             static_cast<std::uint32_t>(key & nineteen)}};
}
gp_Pnt WidestWay::middleOf(const Spot& spot) const {
    const double side = sideOf(spot.level);
    return m_corner.Translated(gp_Vec((spot.at[0] + 0.5) * side, (spot.at[1] + 0.5) * side, (spot.at[2] + 0.5) * side));
}

WidestWay::Cell& WidestWay::cellAt(Key key) {
    Cell& cell = m_cells[key];
    if (cell.clearance >= 0.0F || cell.divided) return cell;
    const gp_Pnt middle = middleOf(spotOf(key));
    const auto hit = m_walls.nearest(middle);
    cell.clearance = hit ? static_cast<float>(hit->distance) : static_cast<float>(m_side);
    cell.shut = hit && std::any_of(m_shut.begin(), m_shut.end(), [&](const auto& shut) { return shut(middle, *hit); });
    return cell;
}
bool WidestWay::isFree(const Cell& cell, int level) const {
    return !cell.shut && cell.clearance >= halfDiagonal(level);
}
bool WidestWay::isShut(const Cell& cell, int level) const {
    // What is shut is told by a cell's middle. A wide one may be shut by half, and is divided.
    return cell.shut && halfDiagonal(level) <= 0.3 * cell.clearance;
}

void WidestWay::block(const std::function<bool(const gp_Pnt&, const RayHit&)>& isShut) {
    m_shut.push_back(isShut);
    for (auto& [key, cell] : m_cells) {
        if (cell.divided || cell.shut) continue;
        const gp_Pnt middle = middleOf(spotOf(key));
        if (const auto hit = m_walls.nearest(middle, 1.01 * cell.clearance + Tolerance::noWay))
            cell.shut = isShut(middle, *hit);
    }
}

/// The undivided cells at one side of a cell that may be divided.
void WidestWay::eachBelow(const Spot& spot, int axis, bool high, const std::function<void(Key)>& take) {
    const auto known = m_cells.find(keyOf(spot));
    if (known == m_cells.end() || !known->second.divided) {
        take(keyOf(spot));
        return;
    }
    for (unsigned child = 0; child < 8; ++child) {
        if (((child >> static_cast<unsigned>(axis)) & 1U) != (high ? 1U : 0U)) continue;
        Spot below{spot.level + 1, {}};
        for (unsigned i = 0; i < 3; ++i) below.at[i] = 2 * spot.at[i] + ((child >> i) & 1U);
        eachBelow(below, axis, high, take);
    }
}

/// The undivided cells that have a side, or a piece of one, in common with an undivided cell.
void WidestWay::eachBeside(Key key, const std::function<void(Key)>& take) {
    const Spot own = spotOf(key);
    const std::uint32_t count = 1U << static_cast<unsigned>(own.level);
    for (int axis = 0; axis < 3; ++axis)
        for (const bool up : {false, true}) {
            Spot beside = own;
            std::uint32_t& at = beside.at[static_cast<std::size_t>(axis)];
            if (up ? at + 1 >= count : at == 0) continue;
            at += up ? 1U : ~0U;
            // From the whole downwards: the first undivided cell on the way is the one beside.
            Spot seen = beside;
            for (int level = 0; level < own.level; ++level) {
                const auto shift = static_cast<unsigned>(own.level - level);
                const Spot above{level, {beside.at[0] >> shift, beside.at[1] >> shift, beside.at[2] >> shift}};
                const auto known = m_cells.find(keyOf(above));
                if (known == m_cells.end() || !known->second.divided) {
                    seen = above;
                    break;
                }
            }
            if (seen.level < own.level)
                take(keyOf(seen));
            else
                eachBelow(beside, axis, !up, take);
        }
}

bool WidestWay::besideEachOther(const Spot& a, const Spot& b) {
    // In the finer one's grid they overlap along two axes and touch along the third.
    const Spot &fine = a.level >= b.level ? a : b, &coarse = a.level >= b.level ? b : a;
    const auto shift = static_cast<unsigned>(fine.level - coarse.level);
    int overlaps = 0, touches = 0;
    for (std::size_t i = 0; i < 3; ++i) {
        const std::uint64_t low = static_cast<std::uint64_t>(coarse.at[i]) << shift,
                            high = static_cast<std::uint64_t>(coarse.at[i] + 1) << shift;
        if (fine.at[i] >= low && fine.at[i] < high)
            ++overlaps;
        else if (fine.at[i] + 1 == low || fine.at[i] == high)
            ++touches;
    }
    return overlaps == 2 && touches == 1;
}

std::optional<WidestWay::Spot> WidestWay::beginAt(const gp_Pnt& from, int deepest) {
    const gp_Vec off(m_corner, from);
    for (const double along : {off.X(), off.Y(), off.Z()})
        if (along < 0.0 || along > m_side) return std::nullopt;
    Spot begin{0, {0, 0, 0}};
    for (;;) {
        const Cell& cell = cellAt(keyOf(begin));
        if (!cell.divided) {
            if (isFree(cell, begin.level)) return begin;
            if (begin.level >= deepest) return std::nullopt;
            m_cells[keyOf(begin)].divided = true;
        }
        begin = spotAt(from, begin.level + 1);
    }
}

WidestWay::Spot WidestWay::spotAt(const gp_Pnt& point, int level) const {
    const double side = sideOf(level);
    const gp_Vec off(m_corner, point);
    const auto most = (1U << static_cast<unsigned>(level)) - 1;
    return {level,
            {std::min(most, static_cast<std::uint32_t>(off.X() / side)),
             std::min(most, static_cast<std::uint32_t>(off.Y() / side)),
             std::min(most, static_cast<std::uint32_t>(off.Z() / side))}};
}

void WidestWay::eachTouching(const Spot& whole, const Spot& other, const std::function<void(Key)>& take) {
    for (unsigned child = 0; child < 8; ++child) {
        Spot part{whole.level + 1, {}};
        for (unsigned i = 0; i < 3; ++i) part.at[i] = 2 * whole.at[i] + ((child >> i) & 1U);
        if (!besideEachOther(part, other)) continue;
        const auto known = m_cells.find(keyOf(part));
        if (known != m_cells.end() && known->second.divided)
            eachTouching(part, other, take);
        else
            take(keyOf(part));
    }
}

WidestWay::End WidestWay::flood(const gp_Pnt& from, double radius, const std::function<bool(const Flooded&)>& isBeyond,
                                const std::function<void(const Flooded&)>& take, Progress& progress) {
    ++m_run;
    int deepest = 0;
    while (deepest < m_deepest && halfDiagonal(deepest) > 0.35 * radius) ++deepest;
    const auto begin = beginAt(from, deepest);
    if (!begin) return End::Closed;
    struct Wave {
        float way;
        Key cell, before;
        bool operator<(const Wave& other) const { return way > other.way; }
    };
    std::priority_queue<Wave> queue;
    queue.push({0.0F, keyOf(*begin), keyOf(*begin)});
    std::size_t steps = 0;
    while (!queue.empty()) {
        if (++steps % 4096 == 0 && progress.cancelled()) return End::Cancelled;
        const Wave top = queue.top();
        queue.pop();
        const Spot spot = spotOf(top.cell), before = spotOf(top.before);
        const auto push = [&](Key key, Key origin) {
            const Cell& cell = cellAt(key);
            if (cell.run == m_run || isShut(cell, spotOf(key).level)) return;
            const double step = middleOf(spotOf(key)).Distance(middleOf(spotOf(origin)));
            queue.push({m_cells[origin].reach + static_cast<float>(step), key, origin});
        };
        Cell& cell = cellAt(top.cell);
        if (cell.run == m_run && !cell.divided) continue;
        const gp_Pnt middle = middleOf(spot);
        const bool fits = isFree(cell, spot.level) && (cell.clearance >= 0.5 * radius || top.cell == keyOf(*begin));
        const bool hasRoom = cell.clearance + halfDiagonal(spot.level) >= 0.5 * radius;  // somewhere in it
        if (!cell.divided && !fits && hasRoom && spot.level < deepest &&
            m_walls.facedWithin(middle, cell.clearance + 2.5 * halfDiagonal(spot.level), m_rimmed)) {
            if (m_cells.size() > m_most) return End::TooFine;
            cell.divided = true;
        }
        if (cell.divided) {
            eachTouching(spot, before, [&](Key part) { push(part, top.before); });
            continue;
        }
        cell.run = m_run;
        cell.reach = top.way;
        cell.before = fits ? top.cell : top.before;
        const Flooded place{top.way, fits ? middle : middleOf(before), middle, cell.clearance};
        take(place);
        if (fits && !isBeyond(place)) eachBeside(top.cell, [&](Key beside) { push(beside, top.cell); });
    }
    return End::Arrived;
}

std::optional<WidestWay::Spot> WidestWay::knownAt(const gp_Pnt& point) const {
    const gp_Vec off(m_corner, point);
    for (const double along : {off.X(), off.Y(), off.Z()})
        if (along < 0.0 || along > m_side) return std::nullopt;
    for (int level = 0; level <= m_deepest; ++level) {
        const Spot spot = spotAt(point, level);
        const auto known = m_cells.find(keyOf(spot));
        if (known == m_cells.end()) return std::nullopt;
        if (!known->second.divided) return spot;
    }
    return std::nullopt;
}

std::optional<WidestWay::Flooded> WidestWay::floodedAt(const gp_Pnt& point) const {
    const auto spot = knownAt(point);
    if (!spot) return std::nullopt;
    const Cell& cell = m_cells.at(keyOf(*spot));
    if (cell.run != m_run) return std::nullopt;
    return Flooded{cell.reach, middleOf(spotOf(cell.before)), middleOf(*spot), cell.clearance};
}

bool WidestWay::wentThrough(const gp_Pnt& point) const {
    const auto spot = knownAt(point);
    return spot && m_cells.at(keyOf(*spot)).run > 0;
}

WidestWay::End WidestWay::search(const gp_Pnt& from, const std::function<bool(const gp_Pnt&)>& isThere, Way& way,
                                 Progress& progress) {
    ++m_run;
    const auto begin = beginAt(from, m_deepest);
    if (!begin) return End::Closed;
    std::priority_queue<Entry> queue;
    // A cell's middle may be nearer to a wall than the point in it that one begins from. That is no narrow place.
    const Key first = keyOf(*begin);
    const bool narrowBegin = cellAt(first).clearance < static_cast<float>(m_finest);
    queue.push({narrowBegin ? INFINITY : cellAt(first).clearance, first, first});
    std::size_t steps = 0;
    while (!queue.empty()) {
        if (++steps % 4096 == 0 && progress.cancelled()) return End::Cancelled;
        const Entry top = queue.top();
        queue.pop();
        const Spot spot = spotOf(top.cell);
        const auto push = [&](Key key, Key before, float most) {
            const Cell& cell = cellAt(key);
            const int level = spotOf(key).level;
            if (isShut(cell, level)) return;
            if (cell.run == m_run && isFree(cell, level)) return;
            const float widest =
                isFree(cell, level) ? cell.clearance : cell.clearance + static_cast<float>(halfDiagonal(level));
            if (const float reach = std::min(most, widest); reach >= static_cast<float>(m_finest))
                queue.push({reach, key, before});
        };
        Cell& cell = cellAt(top.cell);
        if (isShut(cell, spot.level)) continue;
        if (!cell.divided && isFree(cell, spot.level)) {
            if (cell.run == m_run) continue;
            cell.run = m_run;
            cell.reach = top.reach;
            cell.before = top.before;
            if (isThere(middleOf(spot))) {
                std::vector<Key> back{top.cell};
                while (back.back() != first) back.push_back(m_cells[back.back()].before);
                std::reverse(back.begin(), back.end());
                way = {top.reach, 0, {}};
                float least = INFINITY;
                for (const Key key : back) {
                    if (m_cells[key].clearance < least && !(narrowBegin && key == first)) {
                        least = m_cells[key].clearance;
                        way.narrowest = way.points.size();
                    }
                    way.points.push_back(middleOf(spotOf(key)));
                }
                return End::Arrived;
            }
            eachBeside(top.cell, [&](Key beside) { push(beside, top.cell, top.reach); });
            continue;
        }
        if (!cell.divided) {
            if (spot.level >= m_deepest) continue;
            // Before one plain wall nothing leads on but what is free above it, as far off as the cell is wide.
            const double about = cell.clearance + 2.5 * halfDiagonal(spot.level);
            if (!cell.shut && m_walls.plainWithin(middleOf(spot), about, m_rimmed)) continue;
            if (m_cells.size() > m_most) {
                way.clearance = top.reach;  // nothing wider than this was left out
                return End::TooFine;
            }
            cell.divided = true;
        }
        // Its parts that have a side in common with the cell that it was reached from.
        const Spot before = spotOf(top.before);
        const float most = m_cells[top.before].reach;
        eachTouching(spot, before, [&](Key part) { push(part, top.before, most); });
    }
    return End::Closed;
}

}  // namespace rasoir
