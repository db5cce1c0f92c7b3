// Benchmarks of what is small, and of what has to go along with what stays.
#include <benchmark/benchmark.h>

#include <BRepAdaptor_Curve.hxx>
#include <BRepAlgoAPI_Cut.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakePolygon.hxx>
#include <BRepFilletAPI_MakeFillet.hxx>
#include <BRepPrimAPI_MakeBox.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <TopExp.hxx>
#include <TopoDS.hxx>
#include <TopTools_IndexedMapOfShape.hxx>

#include "bench_model.h"
#include "shave/companions.h"
#include "shave/small.h"
#include "shave/strips.h"

namespace {

using namespace rasoir;

/// A block whose corner is cut off by a triangle 0.3 wide.
TopoDS_Shape cutBlock() {
    BRepBuilderAPI_MakePolygon triangle(gp_Pnt(0.8, 0, 0), gp_Pnt(0, 0.7, 0), gp_Pnt(0, 0, 0.9), true);
    const TopoDS_Shape corner =
        BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(triangle.Wire()).Face(), gp_Vec(-3, -3, -3)).Shape();
    return BRepAlgoAPI_Cut(BRepPrimAPI_MakeBox(20.0, 20.0, 10.0).Shape(), corner).Shape();
}

/// All small faces of one part.
void removeSmallFaces(benchmark::State& state) {
    const Model model = modelOf(many(cutBlock(), static_cast<int>(state.range(0))), 1.0);
    (void)model.parts[0]->incidence();
    for (auto _ : state) {
        Progress quiet;
        shave::RemoveSmall step;
        step.facesUpTo = 0.5;
        const auto outcome = shave::removeSmall(model, step, quiet);
        if (!outcome || outcome->items.size() < static_cast<std::size_t>(state.range(0)) ||
            std::any_of(outcome->items.begin(), outcome->items.end(), [](const Item& item) { return !item.done; }))
            state.SkipWithError("not all were removed");
    }
    state.SetComplexityN(state.range(0));
}
BENCHMARK(removeSmallFaces)
    ->Arg(50)
    ->Arg(100)
    ->Arg(200)
    ->Arg(400)
    ->Unit(benchmark::kMillisecond)
    ->Iterations(1)
    ->Complexity();

/// `count` blocks in one part, each with an upright round on which the rounds of its top rest.
TopoDS_Shape roundedBlocks(int count) {
    const auto rounded = [](const TopoDS_Shape& body, double radius, const std::function<bool(const gp_Pnt&)>& wanted) {
        BRepFilletAPI_MakeFillet maker(body);
        TopTools_IndexedMapOfShape edges;
        TopExp::MapShapes(body, TopAbs_EDGE, edges);
        for (int e = 1; e <= edges.Extent(); ++e) {
            const BRepAdaptor_Curve curve(TopoDS::Edge(edges(e)));
            if (wanted(curve.Value(0.5 * (curve.FirstParameter() + curve.LastParameter()))))
                maker.Add(radius, TopoDS::Edge(edges(e)));
        }
        return maker.Shape();
    };
    const TopoDS_Shape upright = rounded(BRepPrimAPI_MakeBox(20.0, 20.0, 10.0).Shape(), 4,
                                         [](const gp_Pnt& p) { return p.X() < 1e-9 && p.Y() < 1e-9; });
    const TopoDS_Shape cell = rounded(upright, 1, [](const gp_Pnt& p) { return std::abs(p.Z() - 10) < 1e-9; });
    return many(cell, count);
}

/// What has to go along with one round, in parts of growing size.
void findCompanions(benchmark::State& state) {
    const Model model = modelOf(roundedBlocks(static_cast<int>(state.range(0))));
    Progress quiet;
    const auto chains = survey::findStrips(*model.parts[0], 4.0, quiet);
    const auto upright =
        std::find_if(chains->begin(), chains->end(), [](const auto& chain) { return std::abs(chain.size - 4) < 1e-6; });
    const auto wanted = shave::wantedFor({*upright});
    for (auto _ : state)
        if (!shave::companionsOf(*model.parts[0], wanted.front(), *chains, 1e-6, quiet))
            state.SkipWithError("nothing was found to take along");
    state.SetComplexityN(state.range(0));
}
BENCHMARK(findCompanions)->Arg(25)->Arg(100)->Arg(400)->Unit(benchmark::kMillisecond)->Complexity();

}  // namespace
