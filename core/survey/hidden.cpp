#include "survey/hidden.h"

#include <tbb/parallel_for.h>

#include <gp_Ax2.hxx>

#include "geometry/ray_field.h"

namespace rasoir::survey {
namespace {

/// The binary digits of n mirrored at the point: evenly spread over 0..1.
double radicalInverse(unsigned n) {
    n = (n << 16) | (n >> 16);
    n = ((n & 0x55555555u) << 1) | ((n & 0xAAAAAAAAu) >> 1);
    n = ((n & 0x33333333u) << 2) | ((n & 0xCCCCCCCCu) >> 2);
    n = ((n & 0x0F0F0F0Fu) << 4) | ((n & 0xF0F0F0F0u) >> 4);
    n = ((n & 0x00FF00FFu) << 8) | ((n & 0xFF00FF00u) >> 8);
    return n * 2.3283064365386963e-10;  // two to the power of minus 32
}

}  // namespace

Result<std::vector<std::size_t>> hiddenPlaces(const Model& model, Progress& progress) {
    constexpr unsigned rays = 4096;
    std::vector<std::size_t> present;
    for (std::size_t o = 0; o < model.occurrences.size(); ++o)
        if (!model.occurrences[o].aside) present.push_back(o);
    if (present.empty()) return std::vector<std::size_t>{};
    progress.report(0.0, "Looking for inner parts");
    // Of a part: what hides another is not a matter of its last hundredth.
    const RayField field(model, present, 1e-2, progress);
    std::vector<std::vector<std::size_t>> own(model.occurrences.size());
    for (std::size_t t = 0; t < field.triangles().size(); ++t) own[field.triangles()[t].occurrence].push_back(t);
    std::vector<char> hidden(model.occurrences.size(), 0);
    const double off = field.skin();
    tbb::parallel_for(std::size_t{0}, present.size(), [&](std::size_t i) {
        const std::size_t o = present[i];
        if (progress.cancelled() || own[o].empty()) return;
        std::vector<double> areaUpTo;
        double sum = 0.0;
        for (const std::size_t t : own[o]) areaUpTo.push_back(sum += field.triangles()[t].area);
        for (unsigned r = 0; r < rays; ++r) {
            // Where: by area, a step that does not fall in with the directions. Whither: the half space above the
            // triangle.
            const double where = std::fmod((r + 0.5) * 0.6180339887498949, 1.0) * sum;
            const auto at = std::lower_bound(areaUpTo.begin(), areaUpTo.end(), where) - areaUpTo.begin();
            const RayField::Triangle& triangle =
                field.triangles()[own[o][std::min<std::size_t>(static_cast<std::size_t>(at), own[o].size() - 1)]];
            const double z = (r + 0.5) / rays, turn = 2.0 * M_PI * radicalInverse(r), flat = std::sqrt(1.0 - z * z);
            const gp_Ax2 frame(triangle.middle, gp_Dir(triangle.normal));
            const gp_Vec along = gp_Vec(frame.XDirection()) * (flat * std::cos(turn)) +
                                 gp_Vec(frame.YDirection()) * (flat * std::sin(turn)) + triangle.normal * z;
            if (!field.blocked(triangle.middle.Translated(triangle.normal * off), gp_Dir(along), 0.0))
                return;  // it got away: seen
        }
        hidden[o] = 1;
    });
    if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Looking for inner parts was stopped.");
    std::vector<std::size_t> all;
    for (const std::size_t o : present)
        if (hidden[o] != 0) all.push_back(o);
    return all;
}

}  // namespace rasoir::survey
