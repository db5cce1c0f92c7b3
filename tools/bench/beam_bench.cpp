// How the search for bars grows: frames made as one solid over their rungs, springs over their turns, and bodies that
// are neither, which a survey of a whole model asks as well.
#include <benchmark/benchmark.h>

#include <BRepAlgoAPI_Fuse.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepLib.hxx>
#include <BRepOffsetAPI_MakePipe.hxx>
#include <BRepPrimAPI_MakeBox.hxx>
#include <Geom2d_Line.hxx>
#include <Geom_CylindricalSurface.hxx>
#include <gp_Circ.hxx>
#include <gp_Pln.hxx>
#include <TopTools_ListOfShape.hxx>

#include "reduce/frame_members.h"

namespace {

using namespace rasoir;

Model modelOf(const TopoDS_Shape& shape) {
    Model model;
    model.parts.push_back(std::make_shared<Part>("body", shape));
    model.occurrences.push_back({0, gp_Trsf(), "body", {}, std::nullopt});
    model.giveIds();
    return model;
}

/// Two rails with rungs between them, of square bars.
TopoDS_Shape ladder(int rungs) {
    const double length = 100.0 * (rungs + 1);
    TopTools_ListOfShape first, others;
    first.Append(BRepPrimAPI_MakeBox(gp_Pnt(0, 0, 0), length, 20, 20).Shape());
    others.Append(BRepPrimAPI_MakeBox(gp_Pnt(0, 300, 0), length, 20, 20).Shape());
    for (int i = 1; i <= rungs; ++i) others.Append(BRepPrimAPI_MakeBox(gp_Pnt(100.0 * i, 10, 3), 14, 300, 14).Shape());
    BRepAlgoAPI_Fuse fuse;
    fuse.SetArguments(first);
    fuse.SetTools(others);
    fuse.Build();
    for (TopExp_Explorer it(fuse.Shape(), TopAbs_SOLID); it.More(); it.Next()) return it.Current();
    return {};
}

void frameParted(benchmark::State& state) {
    const Model model = modelOf(ladder(static_cast<int>(state.range(0))));
    Progress quiet;
    std::size_t members = 0;
    for (auto _ : state) {
        const auto found = reduce::findBars(model, 0, 5.0, quiet);
        if (!found) return state.SkipWithError("the search failed");
        members = found->size();
    }
    state.counters["members"] = static_cast<double>(members);
    state.SetComplexityN(state.range(0));
}
BENCHMARK(frameParted)->Arg(5)->Arg(10)->Arg(20)->Unit(benchmark::kMillisecond)->Complexity();

void springFound(benchmark::State& state) {
    const double radius = 50.0, slope = 60.0 / (2.0 * M_PI), turns = static_cast<double>(state.range(0));
    TopoDS_Edge edge = BRepBuilderAPI_MakeEdge(new Geom2d_Line(gp_Pnt2d(0, 0), gp_Dir2d(1.0, slope)),
                                               new Geom_CylindricalSurface(gp_Ax3(), radius), 0.0,
                                               2.0 * M_PI * turns * std::hypot(1.0, slope));
    BRepLib::BuildCurve3d(edge, 1e-7, GeomAbs_C2, 14, 2000);
    const gp_Ax2 start(gp_Pnt(radius, 0, 0), gp_Dir(0, radius, slope));
    const TopoDS_Wire outline = BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(gp_Circ(start, 3.0)).Edge()).Wire();
    const TopoDS_Face disc = BRepBuilderAPI_MakeFace(gp_Pln(gp_Ax3(start)), outline).Face();
    BRepOffsetAPI_MakePipe pipe(BRepBuilderAPI_MakeWire(edge).Wire(), disc, GeomFill_IsCorrectedFrenet);
    const Model model = modelOf(pipe.Shape());
    Progress quiet;
    for (auto _ : state) {
        const auto found = reduce::findBars(model, 0, 5.0, quiet);
        if (!found || found->size() != 1) return state.SkipWithError("the spring was not found");
    }
    state.SetComplexityN(state.range(0));
}
BENCHMARK(springFound)->Arg(1)->Arg(2)->Arg(4)->Arg(8)->Unit(benchmark::kMillisecond)->Complexity();

/// A plate with as many pins on it, which stand in rows: no bars that make up a frame.
void studdedPlateIsNone(benchmark::State& state) {
    const int n = static_cast<int>(state.range(0)), rows = static_cast<int>(std::lround(std::sqrt(n)));
    TopTools_ListOfShape first, others;
    first.Append(BRepPrimAPI_MakeBox(gp_Pnt(0, 0, 0), 20.0 * rows, 20.0 * rows, 10).Shape());
    for (int i = 0; i < rows * rows; ++i)
        others.Append(BRepPrimAPI_MakeBox(gp_Pnt(20.0 * (i % rows) + 5, 20.0 * (i / rows) + 5, 8), 8, 8, 12).Shape());
    BRepAlgoAPI_Fuse fuse;
    fuse.SetArguments(first);
    fuse.SetTools(others);
    fuse.Build();
    const Model model = modelOf(TopExp_Explorer(fuse.Shape(), TopAbs_SOLID).Current());
    Progress quiet;
    for (auto _ : state) {
        const auto found = reduce::findBars(model, 0, 5.0, quiet);
        if (!found || !found->empty()) return state.SkipWithError("bars were found");
    }
    state.SetComplexityN(n);
}
BENCHMARK(studdedPlateIsNone)->Arg(9)->Arg(36)->Arg(144)->Unit(benchmark::kMillisecond)->Complexity();

}  // namespace
