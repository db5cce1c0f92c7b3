// Benchmarks of welds, of bent sheets, of comparing and of proved exports, by the number of bodies or faces.
#include <benchmark/benchmark.h>

#include <BRepAlgoAPI_Cut.hxx>
#include <BRepFilletAPI_MakeFillet.hxx>
#include <BRepPrimAPI_MakeBox.hxx>
#include <BRepPrimAPI_MakeCylinder.hxx>
#include <filesystem>
#include <TopExp.hxx>
#include <TopoDS.hxx>
#include <TopTools_IndexedMapOfShape.hxx>

#include "bench_model.h"
#include "handover/compare.h"
#include "handover/export.h"
#include "join/welds.h"
#include "reduce/midsurface.h"

namespace {

using namespace rasoir;

/// A plate with `count` ribs of 100 by 2 by 20 on it, 10 mm apart.
Model ribbedPlate(int count) {
    Model model = modelOf(BRepPrimAPI_MakeBox(10.0 * count + 10.0, 120.0, 4.0).Shape());
    const auto rib = std::make_shared<Part>("rib", BRepPrimAPI_MakeBox(2.0, 100.0, 20.0).Shape());
    model.parts.push_back(rib);
    for (int i = 0; i < count; ++i) {
        gp_Trsf by;
        by.SetTranslation(gp_Vec(10.0 * i + 5.0, 10.0, 4.0));
        model.occurrences.push_back({1, by, "rib", {}, std::nullopt});
    }
    model.giveIds();
    return model;
}

void weldsFound(benchmark::State& state) {
    const Model model = ribbedPlate(static_cast<int>(state.range(0)));
    for (auto _ : state) {
        Progress quiet;
        const auto found = join::findWelds(model, {}, {}, quiet);
        if (!found || found->lines.size() != 4 * static_cast<std::size_t>(state.range(0)))
            state.SkipWithError("a line is missing");
    }
    state.SetComplexityN(state.range(0));
}
BENCHMARK(weldsFound)->Arg(10)->Arg(30)->Arg(100)->Unit(benchmark::kMillisecond)->Complexity();

/// A pressed tray, 2 thick, whose upright corners and floor are rounded.
TopoDS_Shape tray() {
    const auto block = [](double in, double top) {
        const TopoDS_Shape raw =
            BRepPrimAPI_MakeBox(gp_Pnt(in, in, in), 20.0 - 2.0 * in, 20.0 - 2.0 * in, top - in).Shape();
        const auto round = [](const TopoDS_Shape& body, double radius,
                              const std::function<bool(const gp_Pnt&)>& wanted) {
            BRepFilletAPI_MakeFillet fillet(body);
            TopTools_IndexedMapOfShape edges;
            TopExp::MapShapes(body, TopAbs_EDGE, edges);
            for (int e = 1; e <= edges.Extent(); ++e) {
                double first = 0.0, last = 0.0;
                const Handle(Geom_Curve) curve = BRep_Tool::Curve(TopoDS::Edge(edges(e)), first, last);
                if (wanted(curve->Value(0.5 * (first + last)))) fillet.Add(radius, TopoDS::Edge(edges(e)));
            }
            return fillet.Shape();
        };
        const TopoDS_Shape upright =
            round(raw, 8.0 - in, [&](const gp_Pnt& p) { return std::abs(p.Z() - 0.5 * (top + in)) < 1e-6; });
        return round(upright, 3.0 - in, [&](const gp_Pnt& p) { return std::abs(p.Z() - in) < 1e-6; });
    };
    return BRepAlgoAPI_Cut(block(0.0, 12.0), block(1.0, 20.0)).Shape();
}

void traysBecomeSheets(benchmark::State& state) {
    const Model model = modelOf(many(tray(), static_cast<int>(state.range(0))));
    for (auto _ : state) {
        Progress quiet;
        reduce::Midsurface step;
        step.upTo = 2.0;
        step.doubtful = true;  // a small one: its corners are a third as thick as they are broad
        const auto done = reduce::midsurface(model, step, quiet);
        if (!done || done->model.parts[0]->incidence().faceCount() != 17 * static_cast<int>(state.range(0)))
            state.SkipWithError("a face is missing");
    }
    state.SetComplexityN(state.range(0));
}
BENCHMARK(traysBecomeSheets)->Arg(1)->Arg(4)->Arg(16)->Unit(benchmark::kMillisecond)->Complexity();

/// A plate with `count` holes; the last one as wide as said.
TopoDS_Shape drilled(int count, double last) {
    const int columns = static_cast<int>(std::ceil(std::sqrt(count)));
    TopTools_ListOfShape bodies, tools;
    bodies.Append(BRepPrimAPI_MakeBox(10.0 * columns, 10.0 * columns, 5.0).Shape());
    for (int i = 0; i < count; ++i)
        tools.Append(BRepPrimAPI_MakeCylinder(
                         gp_Ax2(gp_Pnt(10.0 * (i % columns) + 5.0, 10.0 * (i / columns) + 5.0, -1.0), gp::DZ()),
                         i + 1 == count ? 0.5 * last : 3.0, 7.0)
                         .Shape());
    BRepAlgoAPI_Cut all;
    all.SetArguments(bodies);
    all.SetTools(tools);
    all.Build();
    TopExp_Explorer solid(all.Shape(), TopAbs_SOLID);
    return solid.Current();
}

void filesCompared(benchmark::State& state) {
    const Model before = modelOf(drilled(static_cast<int>(state.range(0)), 6.0)),
                after = modelOf(drilled(static_cast<int>(state.range(0)), 7.0));
    for (auto _ : state) {
        Progress quiet;
        const auto found = handover::compare(before, after, quiet);
        if (!found || found->parts[0].faces.size() != 3) state.SkipWithError("a change is missing");
    }
    state.SetComplexityN(state.range(0));
}
BENCHMARK(filesCompared)->Arg(30)->Arg(100)->Arg(300)->Unit(benchmark::kMillisecond)->Complexity();

void exportsProved(benchmark::State& state) {
    const Model model = modelOf(drilled(static_cast<int>(state.range(0)), 6.0));
    const std::filesystem::path path = std::filesystem::temp_directory_path() / "rasoir-bench-export.step";
    for (auto _ : state) {
        Progress quiet;
        const auto proof = handover::exportFile(model, path, {}, quiet);
        if (!proof || proof->bodies.size() != 1) state.SkipWithError("it was not proved");
    }
    std::filesystem::remove(path);
    state.SetComplexityN(state.range(0));
}
BENCHMARK(exportsProved)->Arg(30)->Arg(100)->Arg(300)->Unit(benchmark::kMillisecond)->Complexity();

}  // namespace
