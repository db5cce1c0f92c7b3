// Takes every hole and every chain of rounds and chamfers of a file out on its own, once by the product and once by the kernel's own
// defeaturing, and prints one line for each kind: how many, gone, refused, wrong, and the seconds. For comparisons only.
#include <BRepAlgoAPI_Defeaturing.hxx>
#include <BRepCheck_Analyzer.hxx>
#include <BRepGProp.hxx>
#include <GProp_GProps.hxx>
#include <TopExp_Explorer.hxx>
#include <fmt/format.h>

#include <chrono>
#include <map>

#include "common/guard.h"
#include "exchange/files.h"
#include "shave/holes.h"
#include "shave/strips.h"

using namespace rasoir;

namespace {

double volumeOf(const TopoDS_Shape& shape) {
    GProp_GProps props;
    BRepGProp::VolumeProperties(shape, props);
    return props.Mass();
}
int openEdges(const TopoDS_Shape& shape) {
    const Incidence incidence(shape);
    int open = 0;
    for (int e = 1; e <= incidence.edgeCount(); ++e) open += incidence.facesAt(e) == 1;
    return open;
}

struct Count {
    int all = 0, gone = 0, wrong = 0;
    double seconds = 0.0;
    std::map<std::string, int> reasons;
};

/// Gone, refused, or wrong: open, invalid where it was valid, a volume that changed the wrong way or far too much.
void judge(Count& count, const TopoDS_Shape& before, const TopoDS_Shape& after, double change, bool valid, int open) {
    if (after.IsNull()) return;
    const double grown = volumeOf(after) - volumeOf(before);
    const bool sound = openEdges(after) <= open && (!valid || BRepCheck_Analyzer(after).IsValid());
    const bool plausible = std::abs(grown) <= 3.0 * std::abs(change) + 1e-9 * std::abs(volumeOf(before)) && grown != 0.0;
    if (sound && plausible) ++count.gone;
    else ++count.wrong;
}

template <class Work>
double timed(Work work) {
    const auto start = std::chrono::steady_clock::now();
    work();
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

}  // namespace

int main(int argc, char** argv) {
    if (argc < 2) return 2;
    const bool kernelToo = argc < 3 || std::string(argv[2]) != "ours";
    Progress quiet;
    auto model = exchange::readFile(argv[1], {}, quiet);
    if (!model) {
        fmt::print("{}: {}\n", argv[1], model.error().what);
        return 1;
    }
    model->targetSize = 4.0;
    std::map<std::string, std::array<Count, 2>> table;
    for (const auto& part : model->parts) {
        if (part->shape.IsNull() || part->incidence().solidCount() == 0) continue;
        const bool valid = BRepCheck_Analyzer(part->shape).IsValid();
        const int open = openEdges(part->shape);
        const double tolerance = model->tolerances().samePoint;
        const auto kernel = [&](const std::vector<int>& faces, double change, Count& count) {
            if (!kernelToo) return;
            TopoDS_Shape made;
            count.seconds += timed([&] {
                (void)guarded("kernel", [&]() -> Result<void> {
                    BRepAlgoAPI_Defeaturing tool;
                    tool.SetShape(part->shape);
                    for (const int f : faces) tool.AddFaceToRemove(part->incidence().face(f));
                    tool.SetRunParallel(true);
                    tool.Build();
                    if (tool.IsDone() && !tool.HasWarnings()) made = tool.Shape();
                    return {};
                });
            });
            (void)guarded("judging", [&]() -> Result<void> { return judge(count, part->shape, made, change, valid, open), Result<void>(); });
        };
        const auto ours = [&](const auto& one, double change, Count& count) {
            TopoDS_Shape made;
            count.seconds += timed([&] {
                const auto done = shave::removeFrom(*part, {one}, tolerance, quiet);
                if (done) made = done->shape;
                const std::string why = !done ? done.error().what : done->items[0] ? std::string() : done->items[0].error().what;
                if (!why.empty()) ++count.reasons[why.substr(why.find(" stays: ") == std::string::npos ? 0 : why.find(" stays: ") + 8)];
            });
            (void)guarded("judging", [&]() -> Result<void> { return judge(count, part->shape, made, change, valid, open), Result<void>(); });
        };
        if (const auto holes = survey::findHoles(*part, 4.0, {}, quiet))
            for (const auto& hole : *holes) {
                auto& row = table["hole"];
                ++row[0].all;
                ++row[1].all;
                ours(hole, hole.volume, row[0]);
                kernel(hole.faces, hole.volume, row[1]);
            }
        if (const auto chains = survey::findStrips(*part, 4.0, quiet))
            for (const auto& chain : *chains) {
                const bool round = chain.kind == survey::StripKind::Round;
                auto& row = table[!round ? "chamfer" : chain.bend ? "bend" : fmt::format("{} {}", chain.convex ? "round" : "fillet", chain.faces.size() > 1 ? "chain" : "single")];
                ++row[0].all;
                ++row[1].all;
                ours(chain, chain.change, row[0]);
                kernel(chain.faces, chain.change, row[1]);
            }
    }
    for (const auto& [kind, row] : table) {
        fmt::print("{}\t{}\t{}", argv[1], kind, row[0].all);
        for (const Count& count : row) fmt::print("\t{}\t{}\t{:.2f}", count.gone, count.wrong, count.seconds);
        fmt::print("\n");
        for (const auto& [why, times] : row[0].reasons) fmt::print("#\t{}\t{}\t{}\n", kind, times, why);
        std::fflush(stdout);
    }
    return 0;
}
