// Takes every solid of a file apart into faces with edges of their own, moves each face aside by up to a share of the
// diagonal, and puts it together again: once by the product, once by the kernel's sewing, each told the same distance.
// One line for each solid. Its volume is compared with what it was, and with what the moved faces enclose: a face that
// is moved by d takes d times its area along d with it. Where edges have wide tolerances and the faces do not meet, a
// volume by the divergence theorem knows a third of that, so that what is sewn by tolerances seems to keep its volume.
//   rasoir-stitch-trial FILE [SHARE [ours]]
#include <fmt/format.h>

#include <BRepBuilderAPI_Copy.hxx>
#include <BRepBuilderAPI_MakeSolid.hxx>
#include <BRepBuilderAPI_Sewing.hxx>
#include <BRepBuilderAPI_Transform.hxx>
#include <BRepCheck_Analyzer.hxx>
#include <BRepLib.hxx>
#include <chrono>
#include <random>
#include <TopExp_Explorer.hxx>
#include <TopoDS_Compound.hxx>

#include "common/guard.h"
#include "exchange/files.h"
#include "geometry/integrals.h"
#include "mend/stitch.h"
#include "model/model.h"

using namespace rasoir;

namespace {

struct Verdict {
    int open = -1;  // edges; -1: refused
    bool solid = false, valid = false;
    double off = 1.0;    // change of the volume, relative
    double error = 1.0;  // the same against what the moved faces enclose
    double seconds = 0.0;

    [[nodiscard]] bool good() const { return open == 0 && solid && valid && error < 1e-3; }
};

bool sound(const TopoDS_Shape& shape) {
    const auto checked = guarded("checking", [&]() -> Result<bool> { return BRepCheck_Analyzer(shape).IsValid(); });
    return checked && *checked;
}

void judge(Verdict& verdict, const TopoDS_Shape& made, double volume, double enclosed) {
    if (made.IsNull()) return;
    const Incidence incidence(made);
    verdict.open = 0;
    for (int e = 1; e <= incidence.edgeCount(); ++e)
        verdict.open += incidence.facesAt(e) == 1 && !BRep_Tool::Degenerated(incidence.edge(e));
    verdict.solid = incidence.solidCount() == 1;
    verdict.valid = sound(made);
    const double now = std::abs(volumeOf(made));
    verdict.off = std::abs(now - volume) / volume;
    verdict.error = std::abs(now - enclosed) / volume;
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
    const double share = argc > 2 ? std::atof(argv[2]) : 0.0;
    const bool kernelToo = argc < 4;
    Progress quiet;
    auto model = exchange::readFile(argv[1], {}, quiet);
    if (!model) {
        fmt::print("{}: {}\n", argv[1], model.error().what);
        return 1;
    }
    for (const auto& part : model->parts)
        for (TopExp_Explorer solid(part->shape, TopAbs_SOLID); solid.More(); solid.Next()) {
            const double volume = std::abs(volumeOf(solid.Current()));
            Model one;
            one.parts.push_back(std::make_shared<Part>("solid", solid.Current()));
            one.occurrences.push_back({0, gp_Trsf(), "solid", {}, std::nullopt});
            const double gap = share * one.extent();
            std::mt19937 random(11);
            std::uniform_real_distribution<double> any(-1.0, 1.0);
            TopoDS_Compound bag;
            const BRep_Builder builder;
            builder.MakeCompound(bag);
            int faces = 0;
            double taken = 0.0;  // [mm^3] by the faces' movements, the sign of the whole as it is stored
            for (TopExp_Explorer it(solid.Current(), TopAbs_FACE); it.More(); it.Next(), ++faces) {
                TopoDS_Shape copy = BRepBuilderAPI_Copy(it.Current()).Shape();
                gp_Trsf by;
                by.SetTranslation(gp_Vec(any(random), any(random), any(random)).Normalized() * std::abs(any(random)) *
                                  gap);
                if (gap > 0.0) {
                    copy = BRepBuilderAPI_Transform(copy, by, true).Shape();
                    // Moved, a face's share changes by a third of what its movement encloses.
                    taken += 3.0 * (volumeSeenFrom(gp::Origin(), copy) - volumeSeenFrom(gp::Origin(), it.Current()));
                }
                builder.Add(bag, copy);
            }
            const double upTo = std::max(2.5 * gap, 1e-6);
            std::array<Verdict, 2> verdicts;
            std::string told;
            std::array<TopoDS_Shape, 2> made;
            verdicts[0].seconds = timed([&] {
                (void)guarded("stitching", [&]() -> Result<void> {
                    const Incidence incidence(bag);
                    const auto done = mend::stitch(incidence, bag, {upTo, 1e-6, {}, {}}, quiet);
                    if (!done) return told = done.error().what, Result<void>();
                    if (!done->left.empty()) told = done->left.front().why;
                    made[0] = done->shape;
                    return {};
                });
            });
            if (kernelToo)
                verdicts[1].seconds = timed([&] {
                    (void)guarded("sewing", [&]() -> Result<void> {
                        BRepBuilderAPI_Sewing sewing(upTo);
                        for (TopoDS_Iterator it(bag); it.More(); it.Next()) sewing.Add(it.Value());
                        sewing.Perform();
                        made[1] = sewing.SewedShape();
                        if (made[1].ShapeType() == TopAbs_SHELL) {
                            TopoDS_Solid whole = BRepBuilderAPI_MakeSolid(TopoDS::Shell(made[1])).Solid();
                            BRepLib::OrientClosedSolid(whole);
                            made[1] = whole;
                        }
                        return {};
                    });
                });
            for (const int k : {0, 1})
                judge(verdicts[k], made[k], volume, volume + (volumeOf(solid.Current()) < 0.0 ? -taken : taken));
            fmt::print("{}\t{}\t{}", argv[1], faces, sound(solid.Current()) ? "valid" : "not-valid");
            for (const Verdict& v : verdicts)
                fmt::print("\t{}\t{}\t{}\t{}\t{:.2g}\t{:.2g}\t{:.2f}", v.good() ? "good" : "bad", v.open,
                           v.solid ? "solid" : "-", v.valid ? "valid" : "-", v.off, v.error, v.seconds);
            fmt::print("\t{}\n", told);
            std::fflush(stdout);
        }
    return 0;
}
