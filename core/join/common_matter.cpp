#include "join/common_matter.h"

#include <BRepClass3d_SolidClassifier.hxx>
#include <gp_Ax1.hxx>

#include "common/tolerance.h"
#include "model/places.h"

namespace rasoir::join {
namespace {

constexpr int linesAcross = 24;  // through what the boxes have in common, each way
constexpr int asked = 16;        // finds that are confirmed exactly, the longest first

using Stretches = std::vector<std::pair<double, double>>;

Stretches inBoth(const Stretches& a, const Stretches& b) {
    Stretches both;
    for (const auto& [from, to] : a)
        for (const auto& [enters, leaves] : b)
            if (const double begins = std::max(from, enters), ends = std::min(to, leaves); ends > begins)
                both.emplace_back(begins, ends);
    return both;
}

Model alone(const Touchable& body) {
    auto part = body.part()->copy();
    part->setShape(body.shape());
    return aloneInPlace(std::move(part));
}

/// The stretch of a line through `point` that lies in both bodies round it.
double stretchAt(const Seen& a, const Seen& b, const gp_Trsf& back, const gp_Pnt& point, const gp_Dir& way,
                 double far) {
    const gp_Lin line(point.Translated(-far * gp_Vec(way)), way);
    for (const auto& [from, to] : inBoth(a.within(line.Transformed(back), 2.0 * far), b.within(line, 2.0 * far)))
        if (from <= far && far <= to) return to - from;
    return 0.0;
}

}  // namespace

Seen::Seen(const Touchable& body, Progress& progress) : m_body(body), m_rays(alone(body), {}, 0.003, progress) {}

std::vector<std::pair<double, double>> Seen::within(const gp_Lin& line, double length) const {
    Stretches stretches;
    double from = 0.0;
    double entered = -1.0;  // negative: outside
    for (int hits = 0; hits < 1000; ++hits) {
        const auto hit = m_rays.first(line.Location(), line.Direction(), from, length);
        if (!hit) break;
        const bool leaves = hit->normal.Dot(gp_Vec(line.Direction())) > 0.0;
        if (!leaves && entered < 0.0) entered = hit->distance;
        if (leaves && entered >= 0.0) {
            stretches.emplace_back(entered, hit->distance);
            entered = -1.0;
        }
        from = std::max(hit->distance, from) * (1.0 + Tolerance::atLimit) + Tolerance::least;
    }
    return stretches;
}

bool Seen::holds(const gp_Pnt& point, double reach) const {
    const Bnd_Box& box = m_body.box();
    for (int way = 1; way <= 3; ++way)
        if (point.Coord(way) < box.CornerMin().Coord(way) + reach ||
            point.Coord(way) > box.CornerMax().Coord(way) - reach)
            return false;
    const gp_Dir way(0.34, 0.81, 0.47);
    const auto hit = m_rays.first(point, way);
    if (!hit || hit->normal.Dot(gp_Vec(way)) <= 0.0) return false;
    BRepClass3d_SolidClassifier exact(m_body.shape());
    exact.Perform(point, reach);
    return exact.State() == TopAbs_IN;
}

std::optional<gp_Vec> Seen::nearestNormal(const gp_Pnt& from) const {
    const auto hit = m_rays.nearest(from);
    return hit ? std::optional(hit->normal) : std::nullopt;
}

std::optional<gp_Pnt> Seen::between(const gp_Pnt& from, const gp_Pnt& to) const {
    const gp_Vec way(from, to);
    if (way.Magnitude() < Tolerance::noLength) return std::nullopt;
    const auto hit = m_rays.first(from, gp_Dir(way), 0.0, way.Magnitude());
    return hit ? std::optional(hit->at) : std::nullopt;
}

std::optional<CommonMatter> commonMatter(const Seen& a, const Seen& b, const gp_Trsf& placed, double reach) {
    // The boxes carry the tolerances of edges; what is common to them by no more than that is no overlap.
    const Bnd_Box boxA = a.body().box().Transformed(placed), &boxB = b.body().box();
    if (boxA.IsVoid() || boxB.IsVoid() || boxA.IsOut(boxB)) return std::nullopt;
    gp_XYZ low, high;
    for (int way = 1; way <= 3; ++way) {
        low.SetCoord(way, std::max(boxA.CornerMin().Coord(way), boxB.CornerMin().Coord(way)));
        high.SetCoord(way, std::min(boxA.CornerMax().Coord(way), boxB.CornerMax().Coord(way)));
        if (high.Coord(way) - low.Coord(way) <= 2.0 * reach) return std::nullopt;
    }
    const gp_Trsf back = placed.Inverted();
    // Lines begin outside both bodies: what was entered before would not be seen.
    const double far = boxA.CornerMin().Distance(boxA.CornerMax()) + boxB.CornerMin().Distance(boxB.CornerMax());
    struct Find {
        gp_Pnt middle;
        double length;
    };
    std::vector<Find> finds;
    CommonMatter common;
    for (int way = 1; way <= 3; ++way) {
        const int across = way % 3 + 1, up = across % 3 + 1;
        gp_XYZ along(0, 0, 0);
        along.SetCoord(way, 1.0);
        const double length = high.Coord(way) - low.Coord(way);
        double sum = 0.0;
        for (int i = 0; i < linesAcross; ++i)
            for (int k = 0; k < linesAcross; ++k) {
                // Off the middles of the grid's cells: models like to have edges at halves and quarters.
                gp_XYZ from = low;
                from.SetCoord(
                    across, low.Coord(across) + (high.Coord(across) - low.Coord(across)) * (i + 0.4861) / linesAcross);
                from.SetCoord(up, low.Coord(up) + (high.Coord(up) - low.Coord(up)) * (k + 0.5172) / linesAcross);
                const gp_Lin line(gp_Pnt(from - far * along), gp_Dir(along));
                const Stretches own = b.within(line, 2.0 * far + length);
                if (own.empty()) continue;
                for (const auto& [enters, leaves] : inBoth(a.within(line.Transformed(back), 2.0 * far + length), own)) {
                    sum += leaves - enters;
                    if (leaves - enters > 2.0 * reach)
                        finds.push_back(
                            {line.Location().Translated(0.5 * (enters + leaves) * gp_Vec(along)), leaves - enters});
                }
            }
        common.volume += sum / 3.0 * (high.Coord(across) - low.Coord(across)) * (high.Coord(up) - low.Coord(up)) /
                         (linesAcross * linesAcross);
    }
    if (finds.empty()) return std::nullopt;
    std::sort(finds.begin(), finds.end(), [](const Find& x, const Find& y) { return x.length > y.length; });
    bool confirmed = false;
    // The longest ones first, but spread over all: along a thin sliver many long ones lie side by side.
    const std::size_t step = std::max<std::size_t>(1, finds.size() / asked);
    for (std::size_t i = 0; i < finds.size(); i += step) {
        const Find& find = finds[i];
        if (!b.holds(find.middle, reach) || !a.holds(find.middle.Transformed(back), reach)) continue;
        // Thick as the shortest of the stretches through it: along the axes and along the normals of what is nearest.
        double thick = find.length;
        for (const gp_Dir& way : {gp::DX(), gp::DY(), gp::DZ()})
            thick = std::min(thick, stretchAt(a, b, back, find.middle, way, far));
        for (const auto& [seen, into] : {std::pair{&a, &back}, {&b, static_cast<const gp_Trsf*>(nullptr)}})
            if (const auto normal = seen->nearestNormal(into != nullptr ? find.middle.Transformed(*into) : find.middle))
                thick =
                    std::min(thick, stretchAt(a, b, back, find.middle,
                                              gp_Dir(into != nullptr ? normal->Transformed(placed) : *normal), far));
        if (!confirmed || thick > common.depth) common.where = find.middle;
        common.depth = std::max(common.depth, thick);
        confirmed = true;
    }
    return confirmed && common.depth > reach ? std::optional(common) : std::nullopt;
}

std::optional<gp_Pnt> passesThrough(const Seen& a, const Seen& b, const gp_Trsf& placed, double reach) {
    const bool turn = a.body().kind() != BodyKind::Sheet;
    const Seen &sheet = turn ? b : a, &other = turn ? a : b;
    const gp_Trsf there = turn ? placed.Inverted() : placed;
    const bool inSolid = other.body().kind() == BodyKind::Solid;
    for (const SkinFace& face : sheet.body().faces()) {
        const std::size_t count = face.samples().size() / 2;
        // A sheet that lies wholly within a solid crosses nothing.
        if (inSolid && count > 0) {
            const gp_Pnt middle = face.samples()[count / 2].on.Transformed(there);
            if (other.holds(middle, reach)) return turn ? middle.Transformed(placed) : middle;
        }
        const double near = 3.0 * std::sqrt(face.areaOfSample());
        Bnd_Box box = other.body().box();
        box.SetGap(box.GetGap() + near);
        for (std::size_t i = 0; i < count; ++i) {
            const gp_Pnt from = face.samples()[i].on.Transformed(there);
            if (box.IsOut(from)) continue;
            for (std::size_t k = i + 1; k < count; ++k) {
                const gp_Pnt to = face.samples()[k].on.Transformed(there);
                if (from.Distance(to) > near) continue;
                const auto hit = other.between(from, to);
                if (!hit || hit->Distance(from) <= reach || hit->Distance(to) <= reach) continue;
                return turn ? hit->Transformed(placed) : *hit;
            }
        }
    }
    return std::nullopt;
}

}  // namespace rasoir::join
