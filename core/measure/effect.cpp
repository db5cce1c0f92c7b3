#include "measure/effect.h"

#include <tbb/parallel_for.h>

#include "common/guard.h"

namespace rasoir::measure {

Effect effectOf(const Model& modelBefore, const std::vector<Facts>& factsBefore, const Model& modelAfter,
                const std::vector<Facts>& factsAfter) {
    Effect effect;
    const Facts before = factsOf(modelBefore, factsBefore), after = factsOf(modelAfter, factsAfter);
    const MassProperties massBefore = massOf(modelBefore, factsBefore), massAfter = massOf(modelAfter, factsAfter);
    effect.volumeBefore = before.volume;
    effect.volumeAfter = after.volume;
    effect.massBefore = massBefore.mass;
    effect.massAfter = massAfter.mass;
    effect.areaBefore = before.area;
    effect.areaAfter = after.area;
    if (massBefore.mass > 0.0 && massAfter.mass > 0.0) effect.centreShift = gp_Vec(massBefore.centre, massAfter.centre);
    effect.inertiaBefore = massBefore.inertia;
    effect.inertiaAfter = massAfter.inertia;
    effect.facesBefore = before.faces;
    effect.facesAfter = after.faces;
    effect.edgesBefore = before.edges;
    effect.edgesAfter = after.edges;
    effect.elementsBefore = before.elements;
    effect.elementsAfter = after.elements;
    effect.shortestEdgeBefore = before.shortestEdge;
    effect.shortestEdgeAfter = after.shortestEdge;
    effect.smallestFaceBefore = before.smallestFace;
    effect.smallestFaceAfter = after.smallestFace;
    return effect;
}

Json toJson(const Effect& effect) {
    const auto pair = [](auto before, auto after) { return Json{{"before", before}, {"after", after}}; };
    return Json{{"volume_mm3", pair(effect.volumeBefore, effect.volumeAfter)},
                {"mass_kg", pair(effect.massBefore, effect.massAfter)},
                {"area_mm2", pair(effect.areaBefore, effect.areaAfter)},
                {"centreShift_mm", {effect.centreShift.X(), effect.centreShift.Y(), effect.centreShift.Z()}},
                {"inertia_kg_mm2", pair(effect.inertiaBefore, effect.inertiaAfter)},
                {"faces", pair(effect.facesBefore, effect.facesAfter)},
                {"edges", pair(effect.edgesBefore, effect.edgesAfter)},
                {"shortestEdge_mm", pair(effect.shortestEdgeBefore, effect.shortestEdgeAfter)},
                {"smallestFace_mm2", pair(effect.smallestFaceBefore, effect.smallestFaceAfter)},
                {"elements", pair(std::round(effect.elementsBefore), std::round(effect.elementsAfter))}};
}

Result<std::vector<Facts>> FactsCache::of(const Model& model, Progress& progress) {
    std::vector<Facts> all(model.parts.size());
    std::vector<std::size_t> missing;
    {
        const std::scoped_lock lock(m_mutex);
        std::erase_if(m_known, [](const auto& entry) { return entry.first.first.expired(); });
        for (std::size_t p = 0; p < model.parts.size(); ++p) {
            const auto found = m_known.find({model.parts[p], model.targetSize});
            if (found == m_known.end())
                missing.push_back(p);
            else
                all[p] = found->second;
        }
    }
    std::vector<Result<void>> outcomes(missing.size());
    tbb::parallel_for(std::size_t{0}, missing.size(), [&](std::size_t i) {
        if (progress.cancelled()) return;
        const Part& part = *model.parts[missing[i]];
        outcomes[i] = guarded("Measuring \"" + part.name + "\"", [&]() -> Result<void> {
            all[missing[i]] = factsOf(part, model.targetSize, false);
            return {};
        });
    });
    if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Measuring was stopped.");
    for (const auto& outcome : outcomes)
        if (!outcome) return tl::unexpected(outcome.error());
    const std::scoped_lock lock(m_mutex);
    for (const std::size_t p : missing)
        m_known.emplace(std::pair{std::weak_ptr(model.parts[p]), model.targetSize}, all[p]);
    return all;
}

}  // namespace rasoir::measure
