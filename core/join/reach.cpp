#include "join/reach.h"

#include "common/tolerance.h"
#include "geometry/widest_way.h"
#include "join/lidded.h"

namespace rasoir::join {
namespace {

constexpr std::size_t mostCells = 400'000;  // a second or two

class ReachFinder {
public:
    ReachFinder(const RayField& field, std::size_t walls) : m_field(field), m_walls(walls) {}

    /// A ball gets near to a place: the wall nearest to it is reached, if it is seen from where the ball stands. A
    /// place behind a thin wall is nearest to the wall's other side.
    void near(const WidestWay::Flooded& place) {
        const auto hit = m_field.nearest(place.middle, 1.01 * place.clearance + Tolerance::noWay);
        if (hit && sees(place.from, hit->at)) put(hit->occurrence, hit->face, place);
    }
    /// Faces that are nowhere nearest, as in narrow corners: seen from before their larger triangles.
    void lookForOthers(const WidestWay& ways, double radius) {
        for (const RayField::Triangle& triangle : m_field.triangles()) {
            if (triangle.occurrence >= m_walls || m_reached.contains({triangle.occurrence, triangle.face})) continue;
            const gp_Dir away(triangle.normal);
            const double skin = m_field.ownSkin();
            const auto hit = m_field.first(triangle.middle, away, skin, 2.0 * radius);
            const gp_Pnt before = triangle.middle.Translated(gp_Vec(away) * (hit ? 0.5 * hit->distance : radius));
            const auto place = ways.floodedAt(before);
            if (place && sees(place->from, before)) put(triangle.occurrence, triangle.face, *place);
        }
    }
    [[nodiscard]] std::vector<ReachedFace> faces() const {
        std::vector<ReachedFace> all;
        for (const auto& [face, way] : m_reached) all.push_back({face.first, face.second, way});
        std::stable_sort(all.begin(), all.end(),
                         [](const ReachedFace& a, const ReachedFace& b) { return a.way < b.way; });
        return all;
    }

private:
    const RayField& m_field;
    std::size_t m_walls;  // occurrences of the model; those after them are lids
    std::map<std::pair<std::size_t, int>, double> m_reached;

    [[nodiscard]] bool sees(const gp_Pnt& from, const gp_Pnt& to) const {
        const double length = from.Distance(to);
        // Ends short of the far point, which may lie on a wall.
        return length < Tolerance::noWay ||
               !m_field.blocked(from, gp_Dir(gp_Vec(from, to)), 0.0, length * (1.0 - 1e-4));
    }
    void put(std::size_t place, int face, const WidestWay::Flooded& seen) {
        if (place < m_walls) m_reached.try_emplace({place, face}, seen.way);  // they come in order
    }
};

}  // namespace

Result<ReachReport> findReach(const Model& model, const std::vector<std::size_t>& walls,
                              const std::vector<TopoDS_Face>& lids, const gp_Pnt& seed, Progress& progress) {
    const auto around = boxRoundSeed(model, walls, seed);
    if (!around) return tl::unexpected(around.error());
    const Bnd_Box& box = *around;
    std::vector<std::size_t> taken = walls;
    const Model all = withLids(model, lids, taken);
    const double size = std::max(largestPart(all, taken), Tolerance::noWay);
    double radius = 0.03 * model.targetSize;
    // Of a part, by which triangles may be off: a fifth of the passage, and not millions of them.
    const RayField field(all, taken, std::max(0.2 * radius / size, 2e-5), progress);
    if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
    if (auto fine = seedInTheAir(model, walls, field, seed, field.skin()); !fine) return tl::unexpected(fine.error());
    if (const auto near = field.nearest(seed)) radius = std::min(radius, 0.4 * near->distance);
    for (;; radius *= 2.0) {
        ReachReport report;
        report.narrowest = 2.0 * radius;
        ReachFinder finder(field, model.occurrences.size());
        WidestWay ways(field, roomRound(box), sheetsAmong(model, walls), radius, mostCells);
        // Once it is outside it soon is everywhere there, which nobody asked.
        double farthest = INFINITY;
        const auto isBeyond = [&](const WidestWay::Flooded& place) {
            const bool outside = box.IsOut(place.middle);
            if (outside && !report.outside) farthest = 1.25 * place.way;
            report.outside = report.outside || outside;
            return outside || place.way > farthest;
        };
        const auto end = ways.flood(
            seed, radius, isBeyond, [&finder](const WidestWay::Flooded& place) { finder.near(place); }, progress);
        if (end == WidestWay::End::Cancelled) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        // From a seed in a narrow place a larger ball does not get off.
        const auto least = field.nearest(seed);
        if (end == WidestWay::End::TooFine && (!least || 2.0 * radius < 0.8 * least->distance)) continue;
        report.more = end == WidestWay::End::TooFine;
        finder.lookForOthers(ways, radius);
        report.faces = finder.faces();
        return report;
    }
}

}  // namespace rasoir::join
