// What a step did: the whole before and after.
#pragma once
#include "measure/mass.h"

namespace rasoir::measure {

struct Effect {
    double volumeBefore = 0.0, volumeAfter = 0.0;           ///< [mm^3]
    double massBefore = 0.0, massAfter = 0.0;               ///< [kg]
    double areaBefore = 0.0, areaAfter = 0.0;               ///< [mm^2]
    gp_Vec centreShift;                                     ///< [mm]
    std::array<double, 6> inertiaBefore{}, inertiaAfter{};  ///< [kg mm^2] about the centre: xx yy zz xy xz yz
    int facesBefore = 0, facesAfter = 0;
    int edgesBefore = 0, edgesAfter = 0;
    double elementsBefore = 0.0, elementsAfter = 0.0;
    double shortestEdgeBefore = 0.0, shortestEdgeAfter = 0.0;  ///< [mm] what the smallest element has to follow
    double smallestFaceBefore = 0.0, smallestFaceAfter = 0.0;  ///< [mm^2]
};

/// Of two states of the work, with the facts of their parts in order.
Effect effectOf(const Model& before, const std::vector<Facts>& factsBefore, const Model& after,
                const std::vector<Facts>& factsAfter);
Json toJson(const Effect& effect);

/// Facts of parts, measured once for each shape and kept as long as somebody uses the same cache. Thread-safe.
class FactsCache {
public:
    /// Facts of every part of the model, measuring only shapes not seen before at this target size.
    Result<std::vector<Facts>> of(const Model& model, Progress& progress);

private:
    std::mutex m_mutex;
    std::map<std::pair<std::weak_ptr<const Part>, double>, Facts,
             std::function<bool(const std::pair<std::weak_ptr<const Part>, double>&,
                                const std::pair<std::weak_ptr<const Part>, double>&)>>
        m_known{[](const auto& a, const auto& b) {
            if (a.first.owner_before(b.first)) return true;
            if (b.first.owner_before(a.first)) return false;
            return a.second < b.second;
        }};
};

}  // namespace rasoir::measure
