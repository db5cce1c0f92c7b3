#include "join/leaks.h"

#include <fmt/format.h>

#include "common/text.h"
#include "common/tolerance.h"
#include "geometry/widest_way.h"
#include "join/lidded.h"
#include "model/places.h"

// The lids go in as parts of a model of their own, so that walls and lids are one field of triangles. The room in which
// ways are looked for is the box round the walls with a margin; a way that reaches the margin is outside.
// How wide the way is at its narrowest is measured anew there, from wall to wall by a ray: cells tell it within half.

namespace rasoir::join {
namespace {

constexpr std::size_t mostCells = 1'500'000;  // about 150 MB, and some seconds
constexpr std::size_t mostLeaks = 40;         // of one search; what is open on all sides is no matter of leaks

class Narrowest {
public:
    explicit Narrowest(const RayField& field) : m_field(field) {}

    /// The way's narrowest place, from wall to wall. Beside the mouth of a gap cells are as near to one wall as within
    /// it, so all that are about as narrow as the narrowest are measured, and the least is taken.
    [[nodiscard]] Leak of(const WidestWay::Way& way) const {
        Leak leak;
        leak.where = way.points[way.narrowest];
        leak.width = 2.0 * way.clearance;
        std::optional<std::size_t> narrowest;
        double least = INFINITY;
        std::vector<std::size_t> candidates;
        for (std::size_t i = 0; i < way.points.size(); ++i)
            if (const auto near = m_field.nearest(way.points[i], 1.3 * way.clearance)) candidates.push_back(i);
        constexpr std::size_t mostTried = 60;
        const std::size_t step = 1 + candidates.size() / mostTried;
        for (std::size_t k = 0; k < candidates.size(); k += step) {
            Leak here = leak;
            here.where = way.points[candidates[k]];
            if (!centred(here) || here.width >= 0.999 * least) continue;
            least = here.width;
            narrowest = candidates[k];
            leak = here;
        }
        if (!narrowest) (void)centred(leak);
        leak.way = straightened(way, narrowest.value_or(way.narrowest), leak.where);
        return leak;
    }

private:
    const RayField& m_field;

    /// Moves a leak's place to midway between the two walls there, and says which they are; false where there is but
    /// one.
    bool centred(Leak& leak) const {
        const double reach = 6.0 * leak.width;
        bool found = false;
        for (int round = 0; round < 4; ++round) {
            const auto near = m_field.nearest(leak.where);
            if (!near) break;
            const gp_Vec away(near->at, leak.where);
            if (away.Magnitude() < Tolerance::noWay) break;
            const auto opposite = m_field.first(leak.where, gp_Dir(away), 0.0, reach);
            if (!found) {
                leak.placeA = leak.placeB = near->occurrence;
                leak.faceA = leak.faceB = near->face;
            }
            if (!opposite) break;
            found = true;
            leak.placeA = near->occurrence;
            leak.faceA = near->face;
            leak.placeB = opposite->occurrence;
            leak.faceB = opposite->face;
            leak.width = near->distance + opposite->distance;
            leak.where.Translate(gp_Vec(gp_Dir(away)) * 0.5 * (opposite->distance - near->distance));
        }
        return found;
    }
    /// The way without its detours: from each point straight to the farthest one that it sees with as much room about.
    [[nodiscard]] std::vector<gp_Pnt> straightened(const WidestWay::Way& way, std::size_t narrowest,
                                                   const gp_Pnt& where) const {
        std::vector<gp_Pnt> points = way.points;
        points[narrowest] = where;
        const auto sees = [&](const gp_Pnt& a, const gp_Pnt& b) {
            const double length = a.Distance(b);
            if (length < Tolerance::noWay) return true;
            if (m_field.blocked(a, gp_Dir(gp_Vec(a, b)), 0.0, length)) return false;
            constexpr int samples = 6;
            for (int i = 1; i < samples; ++i)
                if (m_field.nearest(a.Translated(gp_Vec(a, b) * (static_cast<double>(i) / samples)), way.clearance))
                    return false;
            return true;
        };
        std::vector<gp_Pnt> straight{points.front()};
        for (std::size_t at = 0; at + 1 < points.size();) {
            // The narrowest place stays a point of the way.
            std::size_t next = at < narrowest ? narrowest : points.size() - 1;
            while (next > at + 1 && !sees(points[at], points[next])) next = at + (next - at + 1) / 2;
            straight.push_back(points[next]);
            at = next;
        }
        return straight;
    }
};

}  // namespace

Leak narrowestPlace(const RayField& walls, const WidestWay::Way& way) {
    return Narrowest(walls).of(way);
}

namespace {

class LeakFinder {
public:
    LeakFinder(const RayField& field, const Bnd_Box& box, std::set<std::size_t> sheets, double finest,
               const gp_Pnt& seed, Progress& progress)
        : m_field(field),
          m_box(box),
          m_seed(seed),
          m_progress(progress),
          m_way(field, roomRound(box), std::move(sheets), 0.5 * finest, mostCells) {
        m_report.finest = finest;
    }

    Result<LeakReport> run() {
        while (m_report.leaks.size() < mostLeaks) {
            WidestWay::Way way;
            const auto end = m_way.search(
                m_seed, [this](const gp_Pnt& at) { return m_box.IsOut(at); }, way, m_progress);
            if (end == WidestWay::End::Cancelled) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
            if (end == WidestWay::End::TooFine) m_report.finest = std::max(m_report.finest, 2.0 * way.clearance);
            if (end != WidestWay::End::Arrived) return std::move(m_report);
            Leak leak = narrowestPlace(m_field, way);
            m_progress.report(static_cast<double>(m_report.leaks.size()) / static_cast<double>(mostLeaks),
                              "Looking for leaks");
            close(leak);
            m_report.leaks.push_back(std::move(leak));
        }
        m_report.more = true;
        return std::move(m_report);
    }

private:
    const RayField& m_field;
    Bnd_Box m_box;
    gp_Pnt m_seed;
    Progress& m_progress;
    WidestWay m_way;
    LeakReport m_report;

    /// Nothing gets through between its two faces any more where they are that near, nor about its place.
    void close(const Leak& leak) {
        m_way.block([this, leak](const gp_Pnt& at, const RayHit& near) {
            if (at.Distance(leak.where) < 1.2 * leak.width) return true;
            const double most = 1.35 * leak.width;
            if (near.distance > leak.width || (leak.placeA == leak.placeB && leak.faceA == leak.faceB)) return false;
            const auto own = m_field.distanceTo(at, leak.placeA, leak.faceA, most),
                       other = m_field.distanceTo(at, leak.placeB, leak.faceB, most);
            return own && other && *own + *other < most;
        });
    }
};

}  // namespace

std::vector<std::vector<std::size_t>> kindsOf(const Model& model, const std::vector<Leak>& leaks) {
    const auto partOf = [&model](std::size_t place) {
        return place < model.occurrences.size() ? model.occurrences[place].part : model.parts.size();  // a lid
    };
    const auto partsOf = [&partOf](const Leak& leak) {
        return std::minmax({partOf(leak.placeA), partOf(leak.placeB)});
    };
    std::vector<std::vector<std::size_t>> kinds;
    for (std::size_t l = 0; l < leaks.size(); ++l) {
        const auto alike = std::find_if(kinds.begin(), kinds.end(), [&](const std::vector<std::size_t>& kind) {
            const Leak& first = leaks[kind.front()];
            return partsOf(first) == partsOf(leaks[l]) && leaks[l].width > 0.95 * first.width &&
                   leaks[l].width < first.width / 0.95;
        });
        if (alike == kinds.end())
            kinds.push_back({l});
        else
            alike->push_back(l);
    }
    return kinds;
}

double finestLeak(const Model& model) {
    return model.targetSize / 50.0;
}

std::optional<gp_Pnt> pointBefore(const Model& model, std::size_t place, int face,
                                  const std::vector<std::size_t>& walls, Progress& progress) {
    const RayField field(model, walls, RayField::usualDeviation, progress);
    std::vector<const RayField::Triangle*> own;
    for (const RayField::Triangle& triangle : field.triangles())
        if (triangle.occurrence == place && triangle.face == face) own.push_back(&triangle);
    std::stable_sort(own.begin(), own.end(), [](const auto* a, const auto* b) { return a->area > b->area; });
    const double skin = field.skin();
    std::optional<gp_Pnt> best;
    double farthest = skin;
    constexpr std::size_t mostTried = 30;
    for (std::size_t i = 0; i < std::min(own.size(), mostTried); ++i) {
        const gp_Dir away(own[i]->normal);
        const auto hit = field.first(own[i]->middle, away, skin);
        const double room = 0.5 * (hit ? hit->distance : 0.05 * field.extent());
        if (room <= farthest) continue;
        farthest = room;
        best = own[i]->middle.Translated(gp_Vec(away) * room);
    }
    return best;
}

Result<void> tellInner(const Model& model, const std::vector<std::size_t>& walls, std::vector<Opening>& openings,
                       Progress& progress) {
    const Bnd_Box box = boxOf(model, walls);
    if (openings.empty() || box.IsVoid()) return {};
    std::vector<TopoDS_Face> lids;
    double narrowest = INFINITY;
    for (const Opening& opening : openings) {
        lids.push_back(opening.lid);
        narrowest = std::min(narrowest, opening.hydraulicDiameter());
    }
    std::vector<std::size_t> taken = walls;
    const Model all = withLids(model, lids, taken);
    const double size = std::max(largestPart(all, taken), Tolerance::noWay);
    // Of a part, by which triangles may be off: a twentieth of the gap, and not millions of them.
    const RayField field(all, taken, std::max(0.05 * narrowest / size, 2e-4), progress);
    const Bnd_Box room = roomRound(box);
    // A way as wide as a quarter of the mouth is one. A search that found all closed has been everywhere there: in a
    // manifold all inner mouths are in the same air. Where one was given up, its mouth and others there count as outer.
    const std::size_t mostOfEach = std::clamp<std::size_t>(30'000 * openings.size(), 100'000, 1'000'000);
    struct Searched {
        double radius = 0.0;  // that it looked for
        bool closed = false;
        std::unique_ptr<WidestWay> ways;
    };
    std::vector<Searched> searched;
    // The middle triangle of each lid says where its outside begins.
    std::vector<const RayField::Triangle*> largest(openings.size(), nullptr);
    for (const RayField::Triangle& triangle : field.triangles()) {
        if (triangle.occurrence < model.occurrences.size()) continue;
        const RayField::Triangle*& own = largest[triangle.occurrence - model.occurrences.size()];
        if (own == nullptr || triangle.area > own->area) own = &triangle;
    }
    for (std::size_t i = 0; i < openings.size(); ++i) {
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        const Opening& opening = openings[i];
        if (largest[i] == nullptr || opening.face == 0) continue;
        const bool turned =
            model.parts[model.occurrences[opening.place].part]->incidence().face(opening.face).Orientation() ==
            TopAbs_REVERSED;
        const gp_Dir outwards(largest[i]->normal * (turned ? -1.0 : 1.0));
        // Another lid may lie close before it.
        const double wide = opening.hydraulicDiameter();
        // Leaves the wall it starts at behind.
        const auto hit = field.first(largest[i]->middle, outwards, 1e-4 * wide, 0.3 * wide);
        const gp_Pnt before =
            largest[i]->middle.Translated(gp_Vec(outwards) * (hit ? 0.5 * hit->distance : 0.15 * wide));
        const double least = 0.125 * wide;
        const auto known = std::find_if(searched.begin(), searched.end(), [&](const Searched& one) {
            return (one.closed ? one.radius <= least * (1.0 + Tolerance::rounding) : one.radius > 0.5 * least) &&
                   one.ways->wentThrough(before);
        });
        if (known != searched.end()) {
            openings[i].inner = known->closed;
            continue;
        }
        auto ways = std::make_unique<WidestWay>(field, room, std::set<std::size_t>(), least, mostOfEach);
        WidestWay::Way way;
        const auto end = ways->search(
            before, [&box](const gp_Pnt& at) { return box.IsOut(at); }, way, progress);
        openings[i].inner = end == WidestWay::End::Closed;
        if (end != WidestWay::End::Arrived) searched.push_back({least, openings[i].inner, std::move(ways)});
    }
    return {};
}

Result<LeakReport> findLeaks(const Model& model, const std::vector<std::size_t>& walls,
                             const std::vector<TopoDS_Face>& lids, const gp_Pnt& seed, double finest,
                             Progress& progress) {
    if (!(finest > 0.0) || !std::isfinite(finest))
        return fail(ProblemKind::BadInput, "The narrowest leak that is looked for must be wider than zero.");
    const auto around = boxRoundSeed(model, walls, seed);
    if (!around) return tl::unexpected(around.error());
    const Bnd_Box& box = *around;
    std::vector<std::size_t> taken = walls;
    const Model all = withLids(model, lids, taken);
    // Triangles must not open gaps that are as wide as what is looked for.
    const RayField field(all, taken, 0.1 * finest / std::max(largestPart(all, taken), Tolerance::noWay), progress);
    if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
    if (auto fine = seedInTheAir(model, walls, field, seed, 0.1 * finest); !fine) return tl::unexpected(fine.error());
    return LeakFinder(field, box, sheetsAmong(model, walls), finest, seed, progress).run();
}

std::string describe(const Model& model, const Leak& leak) {
    const auto nameOf = [&model](std::size_t place) {
        return place < model.occurrences.size() ? fmt::format("\"{}\"", placeName(model, place)) : std::string("a lid");
    };
    const std::string sides =
        leak.placeA == leak.placeB
            ? (leak.faceA == leak.faceB
                   ? fmt::format("through face {} of {}", leak.faceA, nameOf(leak.placeA))
                   : fmt::format("between faces {} and {} of {}", leak.faceA, leak.faceB, nameOf(leak.placeA)))
            : fmt::format("between {} and {}", nameOf(leak.placeA), nameOf(leak.placeB));
    return fmt::format("{}, {} mm wide, at ({}, {}, {})", sides, readable(leak.width), readable(leak.where.X()),
                       readable(leak.where.Y()), readable(leak.where.Z()));
}

}  // namespace rasoir::join
