// Benchmarks of flow spaces, of what is reached in them, of spot welds and of beams, by how many there are.
#include <benchmark/benchmark.h>

#include <BRepAlgoAPI_Cut.hxx>
#include <BRepPrimAPI_MakeBox.hxx>
#include <BRepPrimAPI_MakeCylinder.hxx>
#include <TopTools_ListOfShape.hxx>

#include "bench_model.h"
#include "join/flow_space.h"
#include "join/openings.h"
#include "join/reach.h"
#include "join/spot_welds.h"
#include "reduce/beams.h"

namespace {

using namespace rasoir;

/// A bar with a gallery along it, closed at one end, and `count` branches from above into it, 10 mm apart.
Model manifold(int count) {
    const double length = 10.0 * count + 10.0;
    TopTools_ListOfShape bar, bores;
    bar.Append(BRepPrimAPI_MakeBox(length, 20.0, 20.0).Shape());
    bores.Append(BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(-1, 10, 10), gp::DX()), 4.0, length - 4.0).Shape());
    for (int i = 0; i < count; ++i)
        bores.Append(BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(10.0 * i + 8.0, 10, 10), gp::DZ()), 2.0, 11.0).Shape());
    BRepAlgoAPI_Cut cut;
    cut.SetArguments(bar);
    cut.SetTools(bores);
    cut.Build();
    TopExp_Explorer solid(cut.Shape(), TopAbs_SOLID);
    Model model = modelOf(solid.Current(), 5.0);
    model.giveIds();
    return model;
}

void flowSpaceMade(benchmark::State& state) {
    const Model model = manifold(static_cast<int>(state.range(0)));
    for (auto _ : state) {
        Progress quiet;
        const auto made = join::makeFlowSpace(model, {}, quiet);
        if (!made || made->model.parts.size() != 2) state.SkipWithError("no flow space");
    }
    state.SetComplexityN(state.range(0));
}
BENCHMARK(flowSpaceMade)->Arg(10)->Arg(30)->Arg(100)->Unit(benchmark::kMillisecond)->Complexity();

void reachFound(benchmark::State& state) {
    const Model model = manifold(static_cast<int>(state.range(0)));
    Progress quiet;
    const auto openings = join::findOpenings(model, {0}, quiet);
    std::vector<TopoDS_Face> lids;
    for (const join::Opening& opening : *openings) lids.push_back(opening.lid);
    for (auto _ : state) {
        const auto found = join::findReach(model, {0}, lids, gp_Pnt(3, 10, 10), quiet);
        if (!found || found->outside) state.SkipWithError("it gets outside");
    }
    state.SetComplexityN(state.range(0));
}
BENCHMARK(reachFound)->Arg(10)->Arg(30)->Arg(100)->Unit(benchmark::kMillisecond)->Complexity();

void spotWeldsSet(benchmark::State& state) {
    const int count = static_cast<int>(state.range(0));
    Model model = modelOf(BRepPrimAPI_MakeBox(10.0 * count + 10.0, 30.0, 1.0).Shape());
    gp_Trsf above;
    above.SetTranslation(gp_Vec(0, 0, 1));
    model.occurrences.push_back({0, above, "upper", {}, std::nullopt});
    model.giveIds();
    join::SpotWelds step;
    step.row = join::SpotWelds::Row{{}, {}, count};
    step.row->from.at = std::array<double, 3>{5.0, 15.0, 1.0};
    step.row->to.at = std::array<double, 3>{10.0 * count + 5.0, 15.0, 1.0};
    for (auto _ : state) {
        Progress quiet;
        const auto made = join::makeSpotWelds(model, step, quiet);
        if (!made || made->model.pairings.size() != static_cast<std::size_t>(count))
            state.SkipWithError("a weld is missing");
    }
    state.SetComplexityN(state.range(0));
}
BENCHMARK(spotWeldsSet)->Arg(10)->Arg(100)->Arg(1000)->Unit(benchmark::kMillisecond)->Complexity();

/// Square tubes end to end, so that each meets the next in a node.
void beamsMade(benchmark::State& state) {
    Model model = modelOf(BRepAlgoAPI_Cut(BRepPrimAPI_MakeBox(400.0, 20.0, 20.0).Shape(),
                                          BRepPrimAPI_MakeBox(gp_Pnt(-1, 2, 2), 402.0, 16.0, 16.0).Shape())
                              .Shape());
    model.occurrences.clear();
    for (int i = 0; i < static_cast<int>(state.range(0)); ++i) {
        gp_Trsf by;
        by.SetTranslation(gp_Vec(400.0 * i, 0, 0));
        model.occurrences.push_back({0, by, "tube", {}, std::nullopt});
    }
    model.giveIds();
    for (auto _ : state) {
        Progress quiet;
        const auto made = reduce::makeBeams(model, {}, quiet);
        if (!made) state.SkipWithError(made.error().what.c_str());
    }
    state.SetComplexityN(state.range(0));
}
BENCHMARK(beamsMade)->Arg(10)->Arg(100)->Arg(400)->Unit(benchmark::kMillisecond)->Complexity();

}  // namespace
