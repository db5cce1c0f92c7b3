// Benchmarks of sheets: what is not flush, and putting it right, by the number of sheets.
#include <benchmark/benchmark.h>

#include <BRepBuilderAPI_MakeFace.hxx>
#include <gp_Pln.hxx>

#include "bench_model.h"
#include "make_flush.h"

namespace {

using namespace rasoir;

/// A plate of 4, and `count` walls of 2 upright over it, each a part of its own that ends 2 short of the plate's
/// middle.
Model wallsOverAPlate(int count) {
    Model model;
    const auto add = [&](const std::string& name, const gp_Pln& plane, double length, double height, double thickness) {
        auto part = std::make_shared<Part>(name, BRepBuilderAPI_MakeFace(plane, 0.0, length, 0.0, height).Face());
        Thickness own;
        own.at = thickness;
        own.from = plane.Location();
        part->known.thickness[{EntityKind::Face, 1}] = own;
        model.occurrences.push_back({model.parts.size(), gp_Trsf(), name, {}, std::nullopt});
        model.parts.push_back(std::move(part));
    };
    add("plate", gp_Pln(gp::XOY()), 10.0 * count + 10.0, 120.0, 4.0);
    for (int i = 0; i < count; ++i)
        add("wall " + std::to_string(i + 1),
            gp_Pln(gp_Ax3(gp_Pnt(10.0 * i + 5.0, 10.0, 2.0), gp_Dir(1, 0, 0), gp_Dir(0, 1, 0))), 100.0, 20.0, 2.0);
    model.targetSize = 5.0;
    model.giveIds();
    return model;
}

void notFlushFound(benchmark::State& state) {
    const Model model = wallsOverAPlate(static_cast<int>(state.range(0)));
    std::vector<std::size_t> places(model.occurrences.size());
    std::iota(places.begin(), places.end(), std::size_t{0});
    for (auto _ : state) {
        Progress quiet;
        const auto found = reduce::findNotFlush(model, places, 0.0, quiet);
        if (!found || found->size() != static_cast<std::size_t>(state.range(0))) state.SkipWithError("not each wall");
    }
    state.SetComplexityN(state.range(0));
}
BENCHMARK(notFlushFound)->Arg(10)->Arg(100)->Arg(1000)->Unit(benchmark::kMillisecond)->Complexity();

void madeFlush(benchmark::State& state) {
    const Model model = wallsOverAPlate(static_cast<int>(state.range(0)));
    for (auto _ : state) {
        Progress quiet;
        const auto done = makeFlush(model, {}, quiet);
        if (!done || done->model.joints.empty()) state.SkipWithError("they were not joined");
    }
    state.SetComplexityN(state.range(0));
}
BENCHMARK(madeFlush)->Arg(10)->Arg(30)->Arg(100)->Unit(benchmark::kMillisecond)->Complexity();

}  // namespace
