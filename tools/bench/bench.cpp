// Benchmarks of the heavy algorithms, with their growth over size. Ratios are taken within one run, so they hold on any
// machine:
//   rasoir-bench                     everything
//   rasoir-bench --benchmark_filter=removeHoles
#include <benchmark/benchmark.h>
#include <malloc.h>

#include <BRep_Builder.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepAlgoAPI_Cut.hxx>
#include <BRepAlgoAPI_Defeaturing.hxx>
#include <BRepAlgoAPI_Fuse.hxx>
#include <BRepBuilderAPI_Copy.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakePolygon.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepBuilderAPI_Sewing.hxx>
#include <BRepBuilderAPI_Transform.hxx>
#include <BRepCheck_Analyzer.hxx>
#include <BRepFilletAPI_MakeFillet.hxx>
#include <BRepLib.hxx>
#include <BRepMesh_IncrementalMesh.hxx>
#include <BRepOffsetAPI_MakePipeShell.hxx>
#include <BRepPrimAPI_MakeBox.hxx>
#include <BRepPrimAPI_MakeCylinder.hxx>
#include <filesystem>
#include <GCE2d_MakeSegment.hxx>
#include <Geom2d_TrimmedCurve.hxx>
#include <Geom_CylindricalSurface.hxx>
#include <numeric>
#include <random>
#include <STEPControl_Reader.hxx>
#include <TopExp.hxx>
#include <TopoDS_Compound.hxx>
#include <TopoDS_Iterator.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopTools_ListOfShape.hxx>

#include "bench_model.h"
#include "exchange/files.h"
#include "exchange/step.h"
#include "measure/facts.h"
#include "measure/thickness.h"
#include "mend/stitch.h"
#include "select/alike.h"
#include "select/region.h"
#include "shave/change.h"
#include "shave/holes.h"
#include "shave/reliefs.h"
#include "shave/strips.h"
#include "shave/threads.h"
#include "survey/copies.h"
#include "survey/defects.h"
#include "survey/sheet_corners.h"
#include "survey/small.h"
#include "survey/threads.h"
#include "topology/soundness.h"

namespace {

using namespace rasoir;

/// A plate with `count` holes, half of them 4 mm wide and half 6 mm. Kept, since making it takes longer than anything
/// measured.
const Model& drilledPlate(int count) {
    static std::map<int, Model> made;
    if (const auto known = made.find(count); known != made.end()) return known->second;
    const int columns = static_cast<int>(std::ceil(std::sqrt(count)));
    TopTools_ListOfShape bodies, tools;
    bodies.Append(BRepPrimAPI_MakeBox(10.0 * columns, 10.0 * columns, 8.0).Shape());
    for (int i = 0; i < count; ++i)
        tools.Append(
            BRepPrimAPI_MakeCylinder(
                gp_Ax2(gp_Pnt(10 * (i % columns) + 5, 10 * (i / columns) + 5, i % 3 == 0 ? 3 : -1), gp_Dir(0, 0, 1)),
                i % 2 == 0 ? 2.0 : 3.0, 10)
                .Shape());
    BRepAlgoAPI_Cut cut;
    cut.SetArguments(bodies);
    cut.SetTools(tools);
    cut.Build();
    TopExp_Explorer solid(cut.Shape(), TopAbs_SOLID);
    return made.emplace(count, modelOf(solid.Current())).first->second;
}

/// Half of the holes of a plate, by rule.
void removeHoles(benchmark::State& state) {
    const Model& model = drilledPlate(static_cast<int>(state.range(0)));
    (void)model.parts[0]->incidence();
    for (auto _ : state) {
        Progress quiet;
        shave::RemoveHoles step;
        step.upTo = 5.0;
        const auto outcome = shave::removeHoles(model, step, quiet);
        if (!outcome || outcome->items.size() != static_cast<std::size_t>(state.range(0) / 2))
            state.SkipWithError("not all were removed");
    }
    state.SetComplexityN(state.range(0));
}
BENCHMARK(removeHoles)->Arg(250)->Arg(500)->Arg(1000)->Arg(2000)->Unit(benchmark::kMillisecond)->Complexity();

/// One hole out of plates of growing size: the cost of everything that is not the hole.
void removeOneHole(benchmark::State& state) {
    const Model& model = drilledPlate(static_cast<int>(state.range(0)));
    Progress quiet;
    auto holes = survey::findHoles(*model.parts[0], 4.0, {}, quiet);
    std::vector<survey::Hole> one{holes->front()};
    for (auto _ : state) benchmark::DoNotOptimize(shave::removeFrom(*model.parts[0], one, 1e-6, quiet));
    state.SetComplexityN(state.range(0));
}
BENCHMARK(removeOneHole)->Arg(250)->Arg(500)->Arg(1000)->Arg(2000)->Unit(benchmark::kMillisecond)->Complexity();

void surveyHoles(benchmark::State& state) {
    const Model& model = drilledPlate(static_cast<int>(state.range(0)));
    (void)model.parts[0]->incidence();
    for (auto _ : state) {
        Progress quiet;
        benchmark::DoNotOptimize(survey::findHoles(*model.parts[0], 4.0, {}, quiet));
    }
    state.SetComplexityN(state.range(0));
}
BENCHMARK(surveyHoles)->Arg(250)->Arg(500)->Arg(1000)->Arg(2000)->Unit(benchmark::kMillisecond)->Complexity();

void measureFacts(benchmark::State& state) {
    const Model& model = drilledPlate(static_cast<int>(state.range(0)));
    for (auto _ : state) benchmark::DoNotOptimize(measure::factsOf(*model.parts[0], 4.0, false));
    state.SetComplexityN(state.range(0));
}
BENCHMARK(measureFacts)->Arg(250)->Arg(500)->Arg(1000)->Arg(2000)->Unit(benchmark::kMillisecond)->Complexity();

double seconds(const std::function<void()>& work);

/// `count` small plates in one part, each with a boss whose foot is rounded; kept.
const Model& bossedPlate(int count) {
    static std::map<int, Model> made;
    if (const auto known = made.find(count); known != made.end()) return known->second;
    const TopoDS_Shape cell = [] {
        BRepAlgoAPI_Fuse fuse(BRepPrimAPI_MakeBox(20.0, 20.0, 8.0).Shape(),
                              BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(10, 10, 4), gp_Dir(0, 0, 1)), 4.0, 10).Shape());
        BRepFilletAPI_MakeFillet round(fuse.Shape());
        TopTools_IndexedMapOfShape edges;
        TopExp::MapShapes(fuse.Shape(), TopAbs_EDGE, edges);
        for (int e = 1; e <= edges.Extent(); ++e) {
            const BRepAdaptor_Curve curve(TopoDS::Edge(edges(e)));
            if (curve.GetType() == GeomAbs_Circle && std::abs(curve.Circle().Location().Z() - 8.0) < 1e-6)
                round.Add(1.5, TopoDS::Edge(edges(e)));
        }
        return round.Shape();
    }();
    return made.emplace(count, modelOf(many(cell, count))).first->second;
}

/// All rounds of one part with many bodies, and how long finding them takes.
void removeRounds(benchmark::State& state) {
    const Model& model = bossedPlate(static_cast<int>(state.range(0)));
    (void)model.parts[0]->incidence();
    for (auto _ : state) {
        Progress quiet;
        shave::RemoveStrips step;
        step.upTo = 2.0;
        const auto outcome = shave::removeRounds(model, step, quiet);
        if (!outcome || outcome->items.size() != static_cast<std::size_t>(state.range(0)) ||
            std::any_of(outcome->items.begin(), outcome->items.end(), [](const Item& item) { return !item.done; }))
            state.SkipWithError("not all were removed");
    }
    state.SetComplexityN(state.range(0));
}
BENCHMARK(removeRounds)
    ->Arg(125)
    ->Arg(250)
    ->Arg(500)
    ->Arg(1000)
    ->Unit(benchmark::kMillisecond)
    ->Iterations(1)
    ->Complexity();

void surveyRounds(benchmark::State& state) {
    const Model& model = bossedPlate(static_cast<int>(state.range(0)));
    (void)model.parts[0]->incidence();
    for (auto _ : state) {
        Progress quiet;
        benchmark::DoNotOptimize(survey::findStrips(*model.parts[0], 4.0, quiet));
    }
    state.SetComplexityN(state.range(0));
}
BENCHMARK(surveyRounds)->Arg(125)->Arg(250)->Arg(500)->Arg(1000)->Unit(benchmark::kMillisecond)->Complexity();

/// All that the bench of small features asks of a part: holes, rounds, reliefs, threads, corners, small faces and
/// edges.
void surveyAll(benchmark::State& state) {
    const Model& model = bossedPlate(static_cast<int>(state.range(0)));
    (void)model.parts[0]->incidence();
    for (auto _ : state) {
        Progress quiet;
        const Part& part = *model.parts[0];
        const auto holes = survey::findHoles(part, 4.0, {}, quiet);
        const auto strips = survey::findStrips(part, 4.0, quiet);
        const auto reliefs = survey::findReliefs(part, 4.0, *holes, quiet);
        const auto threads = survey::findThreads(part, 4.0, quiet);
        benchmark::DoNotOptimize(survey::findSheetCorners(part, 4.0));
        benchmark::DoNotOptimize(
            survey::findSmall(part, 4.0, survey::facesOf(*holes, *strips, *reliefs, *threads), quiet));
    }
    state.counters["faces"] = model.parts[0]->incidence().faceCount();
    state.SetComplexityN(state.range(0));
}
BENCHMARK(surveyAll)->Arg(125)->Arg(250)->Arg(500)->Arg(1000)->Unit(benchmark::kMillisecond)->Complexity();

/// A rod with a thread of so many turns, and how long putting a cylinder in its place takes.
void plainThread(benchmark::State& state) {
    static std::map<long, Model> made;
    const auto [known, fresh] = made.try_emplace(state.range(0));
    if (fresh) {
        const double turns = static_cast<double>(state.range(0));
        const Handle(Geom_CylindricalSurface) cylinder = new Geom_CylindricalSurface(gp::XOY(), 4.6);
        TopoDS_Edge helix =
            BRepBuilderAPI_MakeEdge(
                GCE2d_MakeSegment(gp_Pnt2d(0, -1.5), gp_Pnt2d(2.0 * M_PI * turns, 1.5 * turns - 1.5)).Value(), cylinder)
                .Edge();
        BRepLib::BuildCurves3d(helix);
        BRepBuilderAPI_MakePolygon section(gp_Pnt(4, 0, -1.65), gp_Pnt(5.2, 0, -2.13), gp_Pnt(5.2, 0, -0.87),
                                           gp_Pnt(4, 0, -1.35), true);
        BRepOffsetAPI_MakePipeShell pipe(BRepBuilderAPI_MakeWire(helix).Wire());
        pipe.SetMode(gp::DZ());
        pipe.Add(section.Wire());
        pipe.Build();
        pipe.MakeSolid();
        known->second =
            modelOf(BRepAlgoAPI_Cut(BRepPrimAPI_MakeCylinder(5.0, 1.5 * turns + 10.0).Shape(), pipe.Shape()).Shape());
    }
    for (auto _ : state) {
        Progress quiet;
        const auto threads = survey::findThreads(*known->second.parts[0], 4.0, quiet);
        if (!threads || threads->size() != 1 ||
            !shave::withPlain(*known->second.parts[0], threads->front(), threads->front().mean(), 1e-6))
            state.SkipWithError("it did not become plain");
    }
    state.SetComplexityN(state.range(0));
}
BENCHMARK(plainThread)->Arg(4)->Arg(8)->Arg(16)->Unit(benchmark::kMillisecond)->Complexity();

/// A plate of `count` flats that lie a little higher and lower by turns: steps all over.
void removeSteps(benchmark::State& state) {
    const int count = static_cast<int>(state.range(0));
    TopoDS_Shape body = BRepPrimAPI_MakeBox(10.0 * count, 20.0, 10.0).Shape();
    TopTools_ListOfShape plates, tools;
    plates.Append(body);
    for (int i = 0; i < count; i += 2)
        tools.Append(BRepPrimAPI_MakeBox(gp_Pnt(10.0 * i + 3, -1, 9.5), 5, 11, 2).Shape());
    BRepAlgoAPI_Cut cut;
    cut.SetArguments(plates);
    cut.SetTools(tools);
    cut.Build();
    const Model model = modelOf(cut.Shape());
    for (auto _ : state) {
        Progress quiet;
        shave::RemoveReliefs step;
        step.upTo = 1.0;
        step.kinds = {"step", "notch"};
        const auto outcome = shave::removeReliefs(model, step, quiet);
        if (!outcome ||
            std::any_of(outcome->items.begin(), outcome->items.end(), [](const Item& item) { return !item.done; }))
            state.SkipWithError("not all went");
    }
    state.SetComplexityN(count);
}
BENCHMARK(removeSteps)->Arg(20)->Arg(40)->Arg(80)->Unit(benchmark::kMillisecond)->Iterations(1)->Complexity();

/// A plate with letters on it, three of four pieces each.
const Model& letteredPlate(int letters) {
    static std::map<int, Model> made;
    auto [found, fresh] = made.try_emplace(letters);
    if (fresh) {
        const int across = 25;
        TopTools_ListOfShape plates, strokes;
        plates.Append(BRepPrimAPI_MakeBox(8.0 * across, 12.0 * (letters / across + 1), 5.0).Shape());
        for (int i = 0; i < letters; ++i) {
            const double x = 8.0 * (i % across) + 1, y = 12.0 * (i / across) + 1;
            strokes.Append(BRepPrimAPI_MakeBox(gp_Pnt(x, y, 4.5), 1, 8, 1).Shape());
            strokes.Append(BRepPrimAPI_MakeBox(gp_Pnt(x, y, 4.5), 5, 1, 1).Shape());
        }
        BRepAlgoAPI_Fuse fuse;
        fuse.SetArguments(plates);
        fuse.SetTools(strokes);
        fuse.Build();
        found->second.parts.push_back(std::make_shared<Part>("plate", fuse.Shape()));
        found->second.occurrences.push_back({0, gp_Trsf(), "plate", {}, std::nullopt});
    }
    return found->second;
}
void surveyReliefs(benchmark::State& state) {
    const Model& model = letteredPlate(static_cast<int>(state.range(0)));
    (void)model.parts[0]->incidence();
    for (auto _ : state) {
        Progress quiet;
        benchmark::DoNotOptimize(survey::findReliefs(*model.parts[0], 4.0, {}, quiet));
    }
    state.SetComplexityN(state.range(0));
}
BENCHMARK(surveyReliefs)->Arg(125)->Arg(250)->Arg(500)->Arg(1000)->Unit(benchmark::kMillisecond)->Complexity();
void removeMarks(benchmark::State& state) {
    const Model& model = letteredPlate(static_cast<int>(state.range(0)));
    for (auto _ : state) {
        Progress quiet;
        benchmark::DoNotOptimize(shave::removeReliefs(model, {2.0, 0.0, {"mark"}, {}, {}, {}}, quiet));
    }
    state.SetComplexityN(state.range(0));
}
BENCHMARK(removeMarks)
    ->Arg(125)
    ->Arg(250)
    ->Arg(500)
    ->Arg(1000)
    ->Unit(benchmark::kMillisecond)
    ->Iterations(1)
    ->Complexity();

/// One round out of parts of growing size, beside the kernel's own defeaturing.
void removeOneRound(benchmark::State& state) {
    const Model& model = bossedPlate(static_cast<int>(state.range(0)));
    const Part& part = *model.parts[0];
    Progress quiet;
    const auto chains = survey::findStrips(part, 4.0, quiet);
    const std::vector<survey::StripChain> one{chains->front()};
    double ours = 0.0;
    for (auto _ : state) {
        ours = seconds([&] { benchmark::DoNotOptimize(shave::removeFrom(part, one, 1e-6, quiet)); });
    }
    BRepAlgoAPI_Defeaturing kernel;
    const double theirs = seconds([&] {
        kernel.SetShape(part.shape);
        for (const int f : one.front().faces) kernel.AddFaceToRemove(part.incidence().face(f));
        kernel.Build();
    });
    state.counters["kernel_ms"] = 1000.0 * theirs;
    state.counters["ours/kernel"] = ours / theirs;
    state.SetComplexityN(state.range(0));
}
BENCHMARK(removeOneRound)
    ->Arg(125)
    ->Arg(250)
    ->Arg(500)
    ->Arg(1000)
    ->Unit(benchmark::kMillisecond)
    ->Iterations(3)
    ->Complexity();

double seconds(const std::function<void()>& work) {
    const auto start = std::chrono::steady_clock::now();
    work();
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}
/// What is allocated and not freed: the resident size would count memory that a reader gave back and the next one uses
/// again.
double usedMegabytes() {
    const struct mallinfo2 info = mallinfo2();
    return static_cast<double>(info.uordblks + info.hblkhd) / 1e6;
}
void tessellateWhole(const TopoDS_Shape& shape) {
    IMeshTools_Parameters parameters;
    parameters.Deflection = 0.5;
    parameters.Angle = 0.35;
    parameters.InParallel = true;
    BRepMesh_IncrementalMesh mesh(shape, parameters);
}

/// What the kernel's bare translation of the same model takes: the yardstick of the same run. Zero when it cannot be
/// written.
double translationSeconds(const Model& model) {
    const std::filesystem::path path = std::filesystem::temp_directory_path() / "rasoir-bench-yardstick.step";
    Progress quiet;
    if (!exchange::writeFile(model, path, {}, quiet)) return 0.0;
    const double taken = seconds([&] {
        const std::scoped_lock lock(exchange::translatorLock());
        STEPControl_Reader reader;
        reader.ReadFile(path.c_str());
        reader.TransferRoots();
        benchmark::DoNotOptimize(reader.OneShape());
    });
    std::filesystem::remove(path);
    return taken;
}

/// `parts` different plates of `holes` holes each, side by side.
Model plates(int parts, int holes) {
    Model made;
    made.name = "plates";
    made.fileUnit = Unit::Millimetre;
    for (int i = 0; i < parts; ++i) {
        gp_Trsf apart;
        apart.SetTranslation(gp_Vec(0, 0, 20.0 * i));
        const std::string name = "plate " + std::to_string(i);
        made.parts.push_back(std::make_shared<Part>(
            name, BRepBuilderAPI_Transform(drilledPlate(holes).parts[0]->shape, apart, true).Shape()));
        made.occurrences.push_back({made.parts.size() - 1, gp_Trsf(), name, {}, std::nullopt});
    }
    return made;
}

/// A STEP file of many different parts: ours (reading, names, colours, facts, tessellation) against the kernel's bare
/// translation and tessellation; the survey against the translation; memory against what the kernel's own shapes take.
void openLargeFile(benchmark::State& state) {
    const std::filesystem::path path = std::filesystem::temp_directory_path() / "rasoir-bench.step";
    const Model made = plates(static_cast<int>(state.range(0)), static_cast<int>(state.range(1)));
    Progress quiet;
    if (!exchange::writeFile(made, path, {}, quiet)) {
        state.SkipWithError("cannot write the file");
        return;
    }
    for (auto _ : state) {
        const double memory0 = usedMegabytes();
        TopoDS_Shape kept;
        double translation = 0.0, meshing = 0.0;
        translation = seconds([&] {
            const std::scoped_lock lock(exchange::translatorLock());
            STEPControl_Reader reader;
            reader.ReadFile(path.c_str());
            reader.TransferRoots();
            kept = reader.OneShape();
        });
        meshing = seconds([&] { tessellateWhole(kept); });
        const double memory1 = usedMegabytes();
        std::optional<Model> model;
        const double ours = seconds([&] {
            auto read = exchange::readFile(path, {}, quiet);
            if (read) model = std::move(*read);
            if (model)
                for (const auto& part : model->parts) tessellateWhole(part->shape);
        });
        if (!model) {
            state.SkipWithError("cannot read the file");
            return;
        }
        double survey = 0.0;
        survey = seconds([&] {
            for (const auto& part : model->parts) benchmark::DoNotOptimize(survey::findHoles(*part, 4.0, {}, quiet));
        });
        const double memory3 = usedMegabytes();
        double faces = 0;
        for (const auto& part : model->parts) faces += part->incidence().faceCount();
        state.counters["faces"] = faces;
        state.counters["kernel_s"] = translation + meshing;
        state.counters["ours_s"] = ours;
        state.counters["ours/kernel"] = ours / (translation + meshing);
        state.counters["survey/translation"] = survey / translation;
        state.counters["memory_ours/kernel"] = (memory3 - memory1) / std::max(1.0, memory1 - memory0);
        state.counters["MB_ours"] = memory3 - memory1;
        state.counters["MB_kernel"] = memory1 - memory0;
    }
    std::filesystem::remove(path);
}
BENCHMARK(openLargeFile)->Args({25, 150})->Args({500, 75})->Unit(benchmark::kSecond)->Iterations(1);

/// Parts of one shape among many: half of them copies of each other, turned, half all different.
Model crowd(int count) {
    Model model;
    const TopoDS_Shape base = drilledPlate(16).parts[0]->shape;
    for (int i = 0; i < count; ++i) {
        gp_Trsf turn;
        turn.SetRotation(gp_Ax1(gp_Pnt(1, 2, 3), gp_Dir(1, 0.3, 0.01 * i)), 0.37 * i);
        gp_Trsf size;
        if (i % 2 == 1) size.SetScaleFactor(1.0 + 0.002 * i);
        model.parts.push_back(std::make_shared<Part>("part " + std::to_string(i),
                                                     BRepBuilderAPI_Transform(base, turn * size, true).Shape()));
        model.occurrences.push_back({model.parts.size() - 1, gp_Trsf(), "part", {}, std::nullopt});
    }
    return model;
}

void findCopies(benchmark::State& state) {
    const Model model = crowd(static_cast<int>(state.range(0)));
    for (const auto& part : model.parts) (void)part->incidence();
    Progress quiet;
    double taken = 0.0;
    for (auto _ : state) {
        std::optional<Result<std::vector<survey::CopyGroup>>> found;
        taken = seconds([&] { found = survey::findCopies(model, 0.0, quiet); });
        const auto& groups = *found;
        if (!groups || groups->size() != 1 ||
            groups->front().copies.size() != static_cast<std::size_t>((state.range(0) + 1) / 2 - 1))
            state.SkipWithError("not the copies that were put in");
    }
    state.counters["ours/translation"] = taken / translationSeconds(model);
    state.SetComplexityN(state.range(0));
}
BENCHMARK(findCopies)
    ->Arg(375)
    ->Arg(750)
    ->Arg(1500)
    ->Arg(3000)
    ->Unit(benchmark::kMillisecond)
    ->Iterations(1)
    ->Complexity();

/// Wall thickness over all walls of plates of about 240 faces each; the tessellation is not counted.
void thicknessMap(benchmark::State& state) {
    const Model model = plates(static_cast<int>(state.range(0)) / 240, 180);
    Progress quiet;
    double faces = 0.0, taken = 0.0;
    for (const auto& part : model.parts) {
        (void)measure::thicknessMap(part, quiet);  // leaves its triangles behind
        faces += part->incidence().faceCount();
    }
    for (auto _ : state)
        taken = seconds([&] {
            for (const auto& part : model.parts) {
                const auto map = measure::thicknessMap(part, quiet);
                if (!map || map->median < 7.9 || map->median > 8.1) state.SkipWithError("not the plate's thickness");
            }
        });
    state.counters["faces"] = faces;
    state.counters["ours/translation"] = taken / translationSeconds(model);
    state.SetComplexityN(state.range(0));
}
BENCHMARK(thicknessMap)->Arg(1200)->Arg(2400)->Arg(5040)->Unit(benchmark::kMillisecond)->Complexity();

/// All faces of one radius, among that many faces.
void findAlike(benchmark::State& state) {
    Model model = drilledPlate(500);
    const auto places =
        static_cast<std::size_t>(state.range(0)) / static_cast<std::size_t>(model.parts[0]->incidence().faceCount());
    while (model.occurrences.size() < places) model.occurrences.push_back(model.occurrences.front());
    const std::vector<std::shared_ptr<const select::Traits>> traits{
        std::make_shared<select::Traits>(select::traitsOf(*model.parts[0]))};
    select::AlikeWanted wanted;
    wanted.by = select::Likeness::Radius;
    int wall = 1;
    while (traits[0]->faces[static_cast<std::size_t>(wall)].radius <= 0.0) ++wall;
    std::size_t found = 0;
    for (auto _ : state)
        benchmark::DoNotOptimize(found = select::findAlike(model, traits, {}, {0, wall}, wanted).size());
    state.counters["found"] = static_cast<double>(found);
    state.SetComplexityN(state.range(0));
}
BENCHMARK(findAlike)->Arg(12500)->Arg(25000)->Arg(50000)->Unit(benchmark::kMillisecond)->Complexity();

/// A box over half of the view: laying the tessellation out once, then asking while the mouse moves.
void selectInBox(benchmark::State& state) {
    Model model = drilledPlate(500);
    tessellateWhole(model.parts[0]->shape);
    const auto places =
        static_cast<std::size_t>(state.range(0)) / static_cast<std::size_t>(model.parts[0]->incidence().faceCount());
    while (model.occurrences.size() < places) {
        model.occurrences.push_back(model.occurrences.front());
        model.occurrences.changeLast().placement.SetTranslation(
            gp_Vec(250.0 * static_cast<double>(model.occurrences.size()), 0, 0));
    }
    std::vector<std::size_t> all(model.occurrences.size());
    std::iota(all.begin(), all.end(), std::size_t{0});
    const select::Projection above{[](const gp_Pnt& p) {
                                       return select::ScreenPoint{p.X(), p.Y()};
                                   },
                                   [](const gp_Pnt&) { return gp_Dir(0, 0, 1); }};
    std::optional<select::ScreenMap> map;
    const double built = seconds([&] { map.emplace(model, all, above); });
    select::RegionWanted wanted;
    const double half = 125.0 * static_cast<double>(places);
    wanted.outline = {{-10, -10}, {half, -10}, {half, 300}, {-10, 300}};
    std::size_t found = 0;
    for (auto _ : state) benchmark::DoNotOptimize(found = map->find(wanted).size());
    state.counters["found"] = static_cast<double>(found);
    state.counters["layout_ms"] = 1e3 * built;
    state.SetComplexityN(state.range(0));
}
BENCHMARK(selectInBox)->Arg(12500)->Arg(25000)->Arg(50000)->Unit(benchmark::kMillisecond)->Complexity();

/// A plate of about so many faces, taken apart into loose ones with edges of their own, in another order.
const TopoDS_Shape& loosePlate(int faces) {
    static std::map<int, TopoDS_Shape> made;
    if (const auto known = made.find(faces); known != made.end()) return known->second;
    // Plates of 180 holes each, side by side: one plate of thousands would take the kernel minutes to make.
    const int holes = std::min(180, std::max(8, faces * 2 / 3));
    std::vector<TopoDS_Shape> all;
    for (int i = 0; static_cast<int>(all.size()) < faces; ++i) {
        gp_Trsf apart;
        apart.SetTranslation(gp_Vec(0, 0, 20.0 * i));
        const TopoDS_Shape plate = BRepBuilderAPI_Transform(drilledPlate(holes).parts[0]->shape, apart, true).Shape();
        for (TopExp_Explorer it(plate, TopAbs_FACE); it.More(); it.Next())
            all.push_back(BRepBuilderAPI_Copy(it.Current()).Shape());
    }
    std::mt19937_64 random(1);
    std::shuffle(all.begin(), all.end(), random);
    TopoDS_Compound bag;
    const BRep_Builder builder;
    builder.MakeCompound(bag);
    for (const TopoDS_Shape& face : all) builder.Add(bag, face);
    return made.emplace(faces, bag).first->second;
}

/// Loose faces put together, beside the kernel's own sewing of the same.
void stitchFaces(benchmark::State& state) {
    const TopoDS_Shape& bag = loosePlate(static_cast<int>(state.range(0)));
    Progress quiet;
    double ours = 0.0;
    int open = 0;
    for (auto _ : state)
        ours = seconds([&] {
            const Incidence incidence(bag);
            const auto done = mend::stitch(incidence, bag, {1e-4, 1e-6, {}, {}}, quiet);
            const Incidence after(done->shape);
            open = 0;
            for (int e = 1; e <= after.edgeCount(); ++e) open += after.facesAt(e) == 1;
        });
    int kernelOpen = 0;
    const double kernel = seconds([&] {
        BRepBuilderAPI_Sewing sewing(1e-4);
        for (TopoDS_Iterator it(bag); it.More(); it.Next()) sewing.Add(it.Value());
        sewing.Perform();
        kernelOpen = sewing.NbFreeEdges();
    });
    state.counters["faces"] = Incidence(bag).faceCount();
    state.counters["open"] = open;
    state.counters["kernel_open"] = kernelOpen;
    state.counters["kernel_s"] = kernel;
    state.counters["ours/kernel"] = ours / kernel;
    state.SetComplexityN(state.range(0));
}
BENCHMARK(stitchFaces)->Arg(100)->Arg(1000)->Arg(10000)->Unit(benchmark::kMillisecond)->Iterations(1)->Complexity();

void surveyDefects(benchmark::State& state) {
    Model model = modelOf(loosePlate(static_cast<int>(state.range(0))));
    (void)model.parts[0]->incidence();
    Progress quiet;
    double taken = 0.0;
    for (auto _ : state)
        taken = seconds([&] {
            const auto report = survey::findDefects(*model.parts[0], {4.0, 1e-6, 0.0}, false, quiet);
            if (!report || report->gaps == 0) state.SkipWithError("no gaps found");
        });
    state.counters["ours/translation"] = taken / translationSeconds(model);
    state.SetComplexityN(state.range(0));
}
BENCHMARK(surveyDefects)->Arg(100)->Arg(1000)->Arg(10000)->Unit(benchmark::kMillisecond)->Iterations(1)->Complexity();

/// The verdict on every face of a body, beside the kernel's own check of the same faces.
void soundFaces(benchmark::State& state) {
    const Model model = modelOf(loosePlate(static_cast<int>(state.range(0))));
    const Incidence& topology = model.parts[0]->incidence();
    double taken = 0.0;
    for (auto _ : state)
        taken = seconds([&] {
            for (int f = 1; f <= topology.faceCount(); ++f)
                if (!soundFace(topology.face(f))) state.SkipWithError("a face is not sound");
        });
    const double kernel = seconds([&] {
        for (int f = 1; f <= topology.faceCount(); ++f)
            benchmark::DoNotOptimize(BRepCheck_Analyzer(topology.face(f)).IsValid());
    });
    state.counters["faces"] = topology.faceCount();
    state.counters["ours/kernel"] = taken / kernel;
    state.SetComplexityN(state.range(0));
}
BENCHMARK(soundFaces)->Arg(100)->Arg(1000)->Arg(10000)->Unit(benchmark::kMillisecond)->Iterations(1)->Complexity();

/// One hole of a plate made wider: the cost of a change that is local, over the size of the body.
void resizeOneHole(benchmark::State& state) {
    const Model& model = drilledPlate(static_cast<int>(state.range(0)));
    Progress quiet;
    const auto holes = survey::findHoles(*model.parts[0], 4.0, {}, quiet);
    if (!holes || holes->empty()) return state.SkipWithError("no hole");
    shave::ResizeHoles step;
    step.holes = {makeFaceRef(*model.parts[0], holes->front().faces.front())};
    step.diameter = 1.1 * holes->front().size;
    for (auto _ : state) {
        const auto done = shave::resizeHoles(model, step, quiet);
        if (!done) state.SkipWithError("refused");
    }
    state.SetComplexityN(state.range(0));
}
BENCHMARK(resizeOneHole)->Arg(250)->Arg(500)->Arg(1000)->Unit(benchmark::kMillisecond)->Iterations(1)->Complexity();

}  // namespace

BENCHMARK_MAIN();
