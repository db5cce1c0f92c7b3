// A model of one part, as the benchmarks take it.
#pragma once
#include "model/model.h"

namespace rasoir {

inline Model modelOf(const TopoDS_Shape& shape, double targetSize = 4.0) {
    Model model;
    model.name = "bench";
    model.fileUnit = Unit::Millimetre;
    model.targetSize = targetSize;
    model.parts.push_back(std::make_shared<Part>("bench", shape));
    model.occurrences.push_back({0, gp_Trsf(), "bench", {}, std::nullopt});
    return model;
}

}  // namespace rasoir
