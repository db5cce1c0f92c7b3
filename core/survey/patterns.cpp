#include "survey/patterns.h"

#include <fmt/format.h>

#include <gp_Ax3.hxx>
#include <map>
#include <set>

#include "common/text.h"
#include "common/tolerance.h"

namespace rasoir::survey {
namespace {

using Places = std::vector<gp_XY>;

/// Even angles round the common middle.
std::optional<std::string> asCircle(const Places& places, double fit) {
    if (places.size() < 3) return std::nullopt;
    gp_XY middle(0, 0);
    for (const gp_XY& p : places) middle += p / static_cast<double>(places.size());
    const double radius = (places.front() - middle).Modulus();
    if (radius < 10.0 * fit) return std::nullopt;
    std::vector<double> angles;
    for (const gp_XY& p : places) {
        const gp_XY out = p - middle;
        if (std::abs(out.Modulus() - radius) > fit) return std::nullopt;
        angles.push_back(std::atan2(out.Y(), out.X()));
    }
    std::sort(angles.begin(), angles.end());
    const double step = 2.0 * M_PI / static_cast<double>(places.size());
    for (std::size_t i = 0; i < angles.size(); ++i) {
        const double next = i + 1 < angles.size() ? angles[i + 1] : angles.front() + 2.0 * M_PI;
        if (std::abs(next - angles[i] - step) * radius > 2.0 * fit) return std::nullopt;
    }
    return fmt::format("in a circle of {}, Ø {}", places.size(), readable(2.0 * radius));
}

/// Whole steps of one or two directions, every place of the rectangle taken.
std::optional<std::string> asGrid(const Places& places, double fit) {
    if (places.size() < 3) return std::nullopt;
    // The two shortest steps from any one, not along each other.
    std::vector<gp_XY> steps;
    for (std::size_t i = 0; i < places.size(); ++i)
        for (std::size_t j = 0; j < places.size(); ++j)
            if (i != j) steps.push_back(places[j] - places[i]);
    std::sort(steps.begin(), steps.end(), [fit](const gp_XY& a, const gp_XY& b) {
        return std::abs(a.Modulus() - b.Modulus()) > fit ? a.Modulus() < b.Modulus()
                                                         : (a.X() != b.X() ? a.X() < b.X() : a.Y() < b.Y());
    });
    const gp_XY u = steps.front();
    const auto across = std::find_if(steps.begin(), steps.end(), [&](const gp_XY& s) {
        return std::abs(u.Crossed(s)) > 0.1 * u.Modulus() * s.Modulus();
    });
    const bool row = across == steps.end();
    const gp_XY v = row ? gp_XY(-u.Y(), u.X()) : *across;
    std::set<std::pair<long, long>> taken;
    long lowA = 0, highA = 0, lowB = 0, highB = 0;
    for (const gp_XY& p : places) {
        const gp_XY d = p - places.front();
        const double a = d.Crossed(v) / u.Crossed(v), b = u.Crossed(d) / u.Crossed(v);
        const long wholeA = std::lround(a), wholeB = std::lround(b);
        if ((u * static_cast<double>(wholeA) + v * static_cast<double>(wholeB) - d).Modulus() > 2.0 * fit)
            return std::nullopt;
        taken.insert({wholeA, wholeB});
        lowA = std::min(lowA, wholeA);
        highA = std::max(highA, wholeA);
        lowB = std::min(lowB, wholeB);
        highB = std::max(highB, wholeB);
    }
    if (static_cast<long>(taken.size()) != (highA - lowA + 1) * (highB - lowB + 1) || taken.size() != places.size())
        return std::nullopt;
    if (row) return fmt::format("in a row of {}, {} apart", places.size(), readable(u.Modulus()));
    if (places.size() < 4) return std::nullopt;
    return fmt::format("in a grid of {} × {}, {} and {} apart", highA - lowA + 1, highB - lowB + 1,
                       readable(u.Modulus()), readable(v.Modulus()));
}

}  // namespace

void tellPatterns(std::vector<Hole>& holes) {
    // One face, one kind, one size: to five digits, as files round them.
    std::map<std::tuple<int, int, long, int>, std::vector<std::size_t>> groups;
    for (std::size_t h = 0; h < holes.size(); ++h) {
        Hole& hole = holes[h];
        hole.pattern.clear();
        const int face = hole.kind == HoleKind::Sheet ? hole.sheetFace
                         : hole.mouths.empty() || hole.mouths.front().neighbours.empty()
                             ? 0
                             : hole.mouths.front().neighbours.front();
        if (face == 0 || hole.bore || !(hole.size > 0.0)) continue;
        groups[{hole.body, static_cast<int>(hole.kind), std::lround(std::log(hole.size) * 1e4), face}].push_back(h);
    }
    for (const auto& [key, members] : groups) {
        if (members.size() < 3 || members.size() > 400) continue;
        const Hole& first = holes[members.front()];
        const gp_Ax3 axes(first.middle, first.axis.Direction());
        // Of the feature: copies of one that were placed by a file's digits, or by hand.
        const double fit = 1e-3 * first.size;
        Places places;
        bool parallel = true;
        for (const std::size_t h : members) {
            parallel =
                parallel && holes[h].axis.Direction().IsParallel(first.axis.Direction(), Tolerance::fittedDirection);
            const gp_Vec out(axes.Location(), holes[h].middle);
            places.emplace_back(out.Dot(gp_Vec(axes.XDirection())), out.Dot(gp_Vec(axes.YDirection())));
        }
        if (!parallel) continue;
        auto words = asGrid(places, fit);
        if (auto circle = asCircle(places, fit); circle && (!words || members.size() == 3)) words = circle;
        if (!words) continue;
        for (const std::size_t h : members) holes[h].pattern = *words;
    }
}

}  // namespace rasoir::survey
