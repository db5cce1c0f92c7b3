// A model of one part, as the benchmarks take it.
#pragma once
#include <BRep_Builder.hxx>
#include <BRepBuilderAPI_Transform.hxx>
#include <cmath>
#include <TopExp_Explorer.hxx>
#include <TopoDS_Compound.hxx>

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

/// `count` copies of a solid in one part, 25 mm apart.
inline TopoDS_Shape many(const TopoDS_Shape& cell, int count) {
    const int columns = static_cast<int>(std::ceil(std::sqrt(count)));
    TopoDS_Compound all;
    const BRep_Builder builder;
    builder.MakeCompound(all);
    for (int i = 0; i < count; ++i) {
        gp_Trsf by;
        by.SetTranslation(gp_Vec(25.0 * (i % columns), 25.0 * (i / columns), 0));
        TopExp_Explorer solid(BRepBuilderAPI_Transform(cell, by, true).Shape(), TopAbs_SOLID);
        builder.Add(all, solid.Current());
    }
    return all;
}

}  // namespace rasoir
