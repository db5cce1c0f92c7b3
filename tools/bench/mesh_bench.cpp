// The trial mesh: its time over the number of elements, flat and round; and sheets of many ribs carried on to their
// plate.
#include <benchmark/benchmark.h>

#include <BRepAlgoAPI_Cut.hxx>
#include <BRepPrimAPI_MakeBox.hxx>
#include <BRepPrimAPI_MakeCylinder.hxx>
#include <BRepPrimAPI_MakeTorus.hxx>

#include "bench_model.h"
#include "mesh/quality.h"
#include "operations.h"

namespace {

using namespace rasoir;

/// Meshes at a size that makes about so many elements. Tells how many are below twenty degrees, since speed is easy
/// where quality does not matter.
void meshed(benchmark::State& state, const TopoDS_Shape& shape, double area) {
    const Model model = modelOf(shape);
    mesh::SizeRules rules;
    rules.target = std::sqrt(area / (0.433 * static_cast<double>(state.range(0))));
    std::size_t elements = 0, bad = 0;
    for (auto _ : state) {
        Progress progress;
        const auto made = mesh::makeTrialMesh(model, {}, rules, progress);
        if (!made) return state.SkipWithError("not meshed");
        elements = made->triangles;
        state.PauseTiming();
        bad = mesh::qualityOf(model, *made, mesh::Measure::LeastAngle, 20.0).bad;
        state.ResumeTiming();
    }
    state.counters["elements"] = static_cast<double>(elements);
    state.counters["below20"] = static_cast<double>(bad);
    state.SetComplexityN(static_cast<benchmark::IterationCount>(elements));
}

void meshOfAPlate(benchmark::State& state) {
    TopoDS_Shape plate = BRepPrimAPI_MakeBox(200.0, 200.0, 5.0).Shape();
    for (int i = 0; i < 25; ++i)
        plate = BRepAlgoAPI_Cut(plate, BRepPrimAPI_MakeCylinder(
                                           gp_Ax2(gp_Pnt(20 + 40 * (i % 5), 20 + 40 * (i / 5), -1), gp::DZ()), 8, 7)
                                           .Shape())
                    .Shape();
    meshed(state, plate, 84000.0);
}
BENCHMARK(meshOfAPlate)->Arg(10000)->Arg(100000)->Arg(1000000)->Unit(benchmark::kMillisecond)->Complexity();

void meshOfARing(benchmark::State& state) {
    meshed(state, BRepPrimAPI_MakeTorus(100.0, 30.0).Shape(), 4.0 * M_PI * M_PI * 3000.0);
}
BENCHMARK(meshOfARing)->Arg(10000)->Arg(100000)->Arg(1000000)->Unit(benchmark::kMillisecond)->Complexity();

void ribsCarriedOn(benchmark::State& state) {
    Model model = modelOf(BRepPrimAPI_MakeBox(gp_Pnt(-50, -10, -4), gp_Pnt(50, 20.0 * state.range(0), 0)).Shape());
    for (int i = 0; i < state.range(0); ++i) {
        Occurrence place;
        place.part = 1;
        place.name = "rib";
        place.placement.SetTranslation(gp_Vec(0, 20.0 * i, 0));
        model.occurrences.push_back(place);
    }
    model.parts.push_back(
        std::make_shared<Part>("rib", BRepPrimAPI_MakeBox(gp_Pnt(-50, -1, 0), gp_Pnt(50, 1, 40)).Shape()));
    model.giveIds();
    Progress progress;
    const auto sheets = findOperation("reduce.midsurface")->run(model, Json::object(), progress);
    if (!sheets) return state.SkipWithError("no sheets");
    for (auto _ : state) {
        const auto joined = findOperation("reduce.joinSheets")->run(sheets->model, Json::object(), progress);
        if (!joined) return state.SkipWithError("not joined");
    }
    state.SetComplexityN(state.range(0));
}
BENCHMARK(ribsCarriedOn)->Arg(10)->Arg(30)->Arg(100)->Unit(benchmark::kMillisecond)->Iterations(1)->Complexity();

}  // namespace
