// Benchmarks of the arrangement beside the kernel's own operations on the same bodies, and of the surveys for joining
// and reducing.
#include <benchmark/benchmark.h>

#include <BRep_Builder.hxx>
#include <BRepAlgoAPI_BuilderAlgo.hxx>
#include <BRepAlgoAPI_Cut.hxx>
#include <BRepAlgoAPI_Fuse.hxx>
#include <BRepAlgoAPI_Splitter.hxx>
#include <BRepBuilderAPI_Copy.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakePolygon.hxx>
#include <BRepPrimAPI_MakeBox.hxx>
#include <BRepPrimAPI_MakeCylinder.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <gp_Ax2.hxx>
#include <gp_Pln.hxx>
#include <TopExp_Explorer.hxx>

#include "arrange/choice.h"
#include "bench_model.h"
#include "divide/layers.h"
#include "join/contacts.h"
#include "join/leaks.h"
#include "reduce/walls.h"

namespace {

using namespace rasoir;

/// A bar with a row of bores across it: `faces` faces, of which a plane across the bar meets four and those of no bore.
TopoDS_Shape boredBar(int faces) {
    const int bores = std::max(1, faces - 6);
    const TopoDS_Shape bar = BRepPrimAPI_MakeBox(10.0 * bores, 20.0, 10.0).Shape();
    TopTools_ListOfShape bodies, tools;
    bodies.Append(bar);
    for (int i = 0; i < bores; ++i)
        tools.Append(BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(10.0 * i + 5.0, 10.0, -1.0), gp::DZ()), 3.0, 12.0).Shape());
    BRepAlgoAPI_Cut all;
    all.SetArguments(bodies);
    all.SetTools(tools);
    all.Build();
    TopExp_Explorer solid(all.Shape(), TopAbs_SOLID);
    return solid.Current();
}

/// Between two bores in the middle of the bar.
TopoDS_Face across(int faces) {
    return BRepBuilderAPI_MakeFace(gp_Pln(gp_Pnt(10.0 * (std::max(1, faces - 6) / 2), 0, 0), gp::DX()), -100, 100, -100,
                                   100)
        .Face();
}

std::vector<TopoDS_Shape> boxes(int count) {
    std::vector<TopoDS_Shape> all;
    const int side = std::max(1, static_cast<int>(std::lround(std::cbrt(count))));
    for (int i = 0; i < side * side * side; ++i)
        all.push_back(BRepPrimAPI_MakeBox(gp_Pnt(10.0 * (i % side), 10.0 * (i / side % side), 10.0 * (i / side / side)),
                                          10.0, 10.0, 10.0)
                          .Shape());
    return all;
}

std::vector<TopoDS_Shape> pinsThroughAPlate(int count) {
    const int side = static_cast<int>(std::ceil(std::sqrt(count)));
    std::vector<TopoDS_Shape> all{BRepPrimAPI_MakeBox(10.0 * side, 10.0 * side, 8.0).Shape()};
    for (int i = 0; i < count; ++i)
        all.push_back(BRepPrimAPI_MakeCylinder(
                          gp_Ax2(gp_Pnt(10.0 * (i % side) + 5.0, 10.0 * (i / side) + 5.0, -5.0), gp::DZ()), 3.0, 18.0)
                          .Shape());
    return all;
}

arrange::Arrangement arranged(const std::vector<TopoDS_Shape>& shapes, benchmark::State& state) {
    Progress quiet;
    std::vector<arrange::Input> inputs;
    for (const TopoDS_Shape& shape : shapes) inputs.push_back({shape, "body"});
    auto all = arrange::arrange(std::move(inputs), 1e-7, quiet);
    if (!all) state.SkipWithError(all.error().what.c_str());
    return all ? std::move(*all) : arrange::Arrangement();
}

/// Its time, and in a run of its own its memory.
void measured(benchmark::State& state, const std::function<void()>& work) {
    const double peak = peakMegabytes(work);  // first: what the runs leave free would hide its growth
    for (auto _ : state) work();
    state.counters["MB"] = peak;
}

void cutByAPlane(benchmark::State& state) {
    const auto faces = static_cast<int>(state.range(0));
    const TopoDS_Shape bar = boredBar(faces);
    const auto work = [&] {
        const auto all = arranged({bar, across(faces)}, state);
        std::size_t solids = 0;
        for (const int cell : arrange::cellsIn(all, 0)) solids += arrange::solidsOf(all, {cell}) ? 1 : 0;
        // The work follows what is met: four sides of the bar and the cutter, however many bores there are.
        if (solids != 2 || all.facesDivided > 5)
            state.SkipWithError("not two pieces, or more was divided than was met");
    };
    measured(state, work);
    state.SetComplexityN(faces);
}
BENCHMARK(cutByAPlane)->Arg(100)->Arg(1000)->Arg(10000)->Unit(benchmark::kMillisecond)->Complexity();

void cutByAPlaneByTheKernel(benchmark::State& state) {
    const auto faces = static_cast<int>(state.range(0));
    const TopoDS_Shape bar = boredBar(faces);
    const auto work = [&] {
        TopTools_ListOfShape bodies, tools;
        bodies.Append(bar);
        tools.Append(across(faces));
        BRepAlgoAPI_Splitter splitter;
        splitter.SetArguments(bodies);
        splitter.SetTools(tools);
        splitter.Build();
        benchmark::DoNotOptimize(splitter.Shape());
    };
    measured(state, work);
    state.SetComplexityN(faces);
}
BENCHMARK(cutByAPlaneByTheKernel)->Arg(100)->Arg(1000)->Arg(10000)->Unit(benchmark::kMillisecond)->Complexity();

void boxesUnited(benchmark::State& state) {
    const auto shapes = boxes(static_cast<int>(state.range(0)));
    const auto work = [&] {
        const auto all = arranged(shapes, state);
        std::vector<int> cells;
        for (std::size_t c = 0; c < all.cells.size(); ++c)
            if (!all.cells[c].inputs.empty()) cells.push_back(static_cast<int>(c));
        if (const auto made = arrange::solidsOf(all, cells); !made || made->solids != 1)
            state.SkipWithError("not one body");
    };
    measured(state, work);
    state.SetComplexityN(state.range(0));
}
BENCHMARK(boxesUnited)->Arg(27)->Arg(216)->Arg(1000)->Unit(benchmark::kMillisecond)->Complexity();

void boxesUnitedByTheKernel(benchmark::State& state) {
    const auto shapes = boxes(static_cast<int>(state.range(0)));
    const auto work = [&] {
        TopTools_ListOfShape bodies, tools;
        for (std::size_t i = 0; i < shapes.size(); ++i) (i == 0 ? bodies : tools).Append(shapes[i]);
        BRepAlgoAPI_Fuse fuse;
        fuse.SetArguments(bodies);
        fuse.SetTools(tools);
        fuse.Build();
        benchmark::DoNotOptimize(fuse.Shape());
    };
    measured(state, work);
    state.SetComplexityN(state.range(0));
}
BENCHMARK(boxesUnitedByTheKernel)->Arg(27)->Arg(216)->Arg(1000)->Unit(benchmark::kMillisecond)->Complexity();

void pinsArranged(benchmark::State& state) {
    const auto shapes = pinsThroughAPlate(static_cast<int>(state.range(0)));
    const auto work = [&] {
        const auto all = arranged(shapes, state);
        const auto made = arrange::solidsOf(all, arrange::cellsIn(all, 0));
        if (!made || all.cells.size() != 2 + 3 * static_cast<std::size_t>(state.range(0)))
            state.SkipWithError("not every pin is in three");
    };
    measured(state, work);
    state.SetComplexityN(state.range(0));
}
BENCHMARK(pinsArranged)->Arg(20)->Arg(200)->Unit(benchmark::kMillisecond)->Complexity();

void pinsArrangedByTheKernel(benchmark::State& state) {
    const auto shapes = pinsThroughAPlate(static_cast<int>(state.range(0)));
    const auto work = [&] {
        TopTools_ListOfShape all;
        for (const TopoDS_Shape& shape : shapes) all.Append(shape);
        BRepAlgoAPI_BuilderAlgo fuse;
        fuse.SetArguments(all);
        fuse.Build();
        benchmark::DoNotOptimize(fuse.Shape());
    };
    measured(state, work);
    state.SetComplexityN(state.range(0));
}
BENCHMARK(pinsArrangedByTheKernel)->Arg(20)->Arg(200)->Unit(benchmark::kMillisecond)->Complexity();

/// A closed box with a fine hole in one wall, looked for from within: its cost over the narrowness of the hole.
void leakFound(benchmark::State& state) {
    const double hole = 4.0 / static_cast<double>(state.range(0));
    const TopoDS_Shape hollow = BRepAlgoAPI_Cut(BRepPrimAPI_MakeBox(40.0, 30.0, 20.0).Shape(),
                                                BRepPrimAPI_MakeBox(gp_Pnt(2, 2, 2), 36.0, 26.0, 16.0).Shape());
    const TopoDS_Shape leaking =
        BRepAlgoAPI_Cut(hollow, BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(7, 4, -1), gp::DZ()), 0.5 * hole, 4.0).Shape());
    TopExp_Explorer solid(leaking, TopAbs_SOLID);
    const Model model = modelOf(solid.Current(), 2.0);
    measured(state, [&] {
        Progress quiet;
        const auto found = join::findLeaks(model, {0}, {}, gp_Pnt(20, 15, 10), 0.5 * hole, quiet);
        if (!found || found->leaks.size() != 1) state.SkipWithError("not the one leak");
    });
    state.SetComplexityN(state.range(0));
}
BENCHMARK(leakFound)->Arg(4)->Arg(8)->Arg(16)->Arg(32)->Unit(benchmark::kMillisecond)->Complexity();

void contactsFound(benchmark::State& state) {
    Model model = modelOf(boxes(1).front(), 2.0);
    model.occurrences.clear();
    for (int i = 0; i < static_cast<int>(state.range(0)); ++i) {
        gp_Trsf by;
        by.SetTranslation(gp_Vec(10.0 * i, 0, 0));
        model.occurrences.push_back({0, by, "box", {}, std::nullopt});
    }
    for (auto _ : state) {
        Progress quiet;
        const auto found = join::findContacts(model, join::ContactSearch::everything(0.1), quiet);
        if (!found || found->contacts.size() + 1 < static_cast<std::size_t>(state.range(0)))
            state.SkipWithError("a contact is missing");
    }
    state.SetComplexityN(state.range(0));
}
BENCHMARK(contactsFound)->Arg(10)->Arg(100)->Arg(1000)->Unit(benchmark::kMillisecond)->Complexity();

/// Plates of a hundred faces on and beside each other, ten by ten and then in layers: copies of one plate, or as many
/// plates that only look alike.
void platesInContact(benchmark::State& state, bool copies) {
    TopoDS_Shape plate = BRepPrimAPI_MakeBox(100.0, 100.0, 10.0).Shape();
    for (int hole = 0; hole < 94; ++hole)
        plate = BRepAlgoAPI_Cut(
                    plate,
                    BRepPrimAPI_MakeCylinder(
                        gp_Ax2(gp_Pnt(5.0 + 10.0 * (hole % 10), 5.0 + 10.0 * (hole / 10), -1.0), gp::DZ()), 2.0, 12.0)
                        .Shape())
                    .Shape();
    plate = TopExp_Explorer(plate, TopAbs_SOLID).Current();
    Model model = modelOf(plate, 5.0);
    model.occurrences.clear();
    if (!copies) model.parts.clear();
    for (int i = 0; i < static_cast<int>(state.range(0)); ++i) {
        gp_Trsf by;
        by.SetTranslation(gp_Vec(100.0 * (i % 10), 100.0 * ((i / 10) % 10), 10.0 * (i / 100)));
        if (!copies) model.parts.push_back(std::make_shared<Part>("plate", BRepBuilderAPI_Copy(plate).Shape()));
        model.occurrences.push_back({copies ? 0 : model.parts.size() - 1, by, "plate", {}, std::nullopt});
    }
    for (auto _ : state) {
        Progress quiet;
        const auto found = join::findContacts(model, join::ContactSearch::everything(0.1), quiet);
        if (!found || found->contacts.empty()) state.SkipWithError("no contact");
    }
    state.SetComplexityN(state.range(0));
}
void hundredToThousand(benchmark::internal::Benchmark* bench) {
    bench->Arg(100)->Arg(300)->Arg(1000)->Unit(benchmark::kMillisecond)->Iterations(1)->Complexity();
}
BENCHMARK_CAPTURE(platesInContact, copies, true)->Apply(hundredToThousand);
BENCHMARK_CAPTURE(platesInContact, different, false)->Apply(hundredToThousand);

void wallsFound(benchmark::State& state) {
    const Model model =
        modelOf(many(BRepPrimAPI_MakeBox(20.0, 20.0, 1.0).Shape(), static_cast<int>(state.range(0))), 2.0);
    for (auto _ : state) {
        Progress quiet;
        const auto found = reduce::findWalls(*model.parts[0], 0.0, 0.0, quiet);
        if (!found || found->size() < static_cast<std::size_t>(state.range(0)))
            state.SkipWithError("a wall is missing");
    }
    state.SetComplexityN(state.range(0));
}
/// Ribs on a plate, whose skins are all parallel: each has one opposite side right behind it, and many far away.
void ribWallsFound(benchmark::State& state) {
    const int ribs = static_cast<int>(state.range(0));
    BRepBuilderAPI_MakePolygon comb;
    comb.Add(gp_Pnt(10.0 * ribs, 0, 0));
    comb.Add(gp_Pnt(0, 0, 0));
    for (int i = 0; i < ribs; ++i)
        for (const auto& [x, z] : {std::pair{0.0, 20.0}, {1.0, 20.0}, {1.0, 1.0}, {10.0, 1.0}})
            comb.Add(gp_Pnt(10.0 * i + x, 0, z));
    comb.Close();
    const Model model =
        modelOf(BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(comb.Wire()).Face(), gp_Vec(0, 50, 0)).Shape(), 2.0);
    for (auto _ : state) {
        Progress quiet;
        const auto found = reduce::findWalls(*model.parts[0], 0.0, 0.0, quiet);
        const auto thin =
            found
                ? std::count_if(found->begin(), found->end(),
                                [](const reduce::Wall& wall) { return wall.slenderness == reduce::Slenderness::Thin; })
                : 0;
        if (thin != ribs + 1) state.SkipWithError("not each rib and the plate");
    }
    state.SetComplexityN(ribs);
}
BENCHMARK(ribWallsFound)->Arg(10)->Arg(100)->Arg(1000)->Unit(benchmark::kMillisecond)->Complexity();
BENCHMARK(wallsFound)->Arg(10)->Arg(100)->Arg(1000)->Unit(benchmark::kMillisecond)->Complexity();

/// A plate with blind holes in a row: none of it meshes in layers, and a cut along their bottoms frees it.
void layersFound(benchmark::State& state) {
    const int count = static_cast<int>(state.range(0));
    TopoDS_Shape plate = BRepPrimAPI_MakeBox(10.0 * count, 10.0, 8.0).Shape();
    for (int i = 0; i < count; ++i)
        plate = BRepAlgoAPI_Cut(
            plate, BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(10.0 * i + 5.0, 5.0, 3.0), gp::DZ()), 2.0, 9.0).Shape());
    const Model model = modelOf(plate, 2.0);
    for (auto _ : state) {
        Progress quiet;
        const auto found = divide::findLayers(model, quiet);
        if (!found || found->size() != 1 || found->front().freed != 2) state.SkipWithError("no cut was found");
    }
    state.SetComplexityN(state.range(0));
}
BENCHMARK(layersFound)->Arg(10)->Arg(40)->Arg(160)->Unit(benchmark::kMillisecond)->Complexity();

}  // namespace
