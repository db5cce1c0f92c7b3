// A model of one part, as the benchmarks take it.
#pragma once
#include <malloc.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <BRep_Builder.hxx>
#include <BRepBuilderAPI_Transform.hxx>
#include <cmath>
#include <functional>
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

/// [MB] by how much the resident memory of a process grows at its worst while it does this. Done in a child of its own,
/// so that neither what came before counts nor what was given back and is used again.
inline double peakMegabytes(const std::function<void()>& work) {
    int ends[2];
    if (pipe(ends) != 0) return 0.0;
    malloc_trim(0);
    const pid_t child = fork();
    if (child == 0) {
        rusage usage{};
        getrusage(RUSAGE_SELF, &usage);
        const long before = usage.ru_maxrss;
        work();
        getrusage(RUSAGE_SELF, &usage);
        const double grown = static_cast<double>(usage.ru_maxrss - before) / 1024.0;
        const bool told = write(ends[1], &grown, sizeof(grown)) == sizeof(grown);
        _exit(told ? 0 : 1);
    }
    double grown = 0.0;
    close(ends[1]);
    if (child < 0 || read(ends[0], &grown, sizeof(grown)) != sizeof(grown)) grown = 0.0;
    close(ends[0]);
    if (child > 0) waitpid(child, nullptr, 0);
    return grown;
}

}  // namespace rasoir
