// How well bodies of real files are divided: three planes at random places, a block over half of each solid, all solids
// of a file together; beside the kernel's general fuse. Usage: rasoir-divide-trial [--kernel] [--together] [--seed N]
// FILE...
#include <fmt/format.h>

#include <BRepAlgoAPI_BuilderAlgo.hxx>
#include <BRepAlgoAPI_Splitter.hxx>
#include <BRepBuilderAPI_Copy.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_Transform.hxx>
#include <BRepCheck_Analyzer.hxx>
#include <BRepPrimAPI_MakeBox.hxx>
#include <chrono>
#include <gp_Pln.hxx>
#include <random>

#include "arrange/choice.h"
#include "exchange/files.h"
#include "geometry/extent.h"
#include "geometry/integrals.h"
#include "geometry/ray_field.h"

using namespace rasoir;

namespace {

struct Tally {
    int asked = 0, done = 0, wrong = 0, points = 0, astray = 0;
    double seconds = 0.0;
    std::map<std::string, int> reasons;
};

double clockNow() {
    return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
}

/// How often a ray leaves the skins of a field: odd within a closed one.
bool isWithin(const RayField& field, const gp_Pnt& at, const gp_Dir& along) {
    int crossed = 0;
    double beyond = 0.0;
    for (auto hit = field.first(at, along); hit && crossed < 1000; hit = field.first(at, along, beyond)) {
        ++crossed;
        beyond = std::nextafter(static_cast<float>(hit->distance), 1e30F) + 1e-7 * field.extent();
    }
    return crossed % 2 == 1;
}

/// Random points about a body that rays say lie in it, but not in just one of its pieces, or the other way about; by
/// triangles alone, with no word of the arrangement. Points near a skin have no sure answer and are not asked.
int pointsAstray(const TopoDS_Shape& body, const std::vector<TopoDS_Shape>& pieces, int& asked) {
    const auto modelOf = [](const TopoDS_Shape& shape) {
        Model model;
        model.parts.push_back(std::make_shared<Part>("body", BRepBuilderAPI_Copy(shape).Shape()));
        model.occurrences.push_back({0, gp_Trsf(), "body", {}, std::nullopt});
        return model;
    };
    Progress progress;
    constexpr double deviation = 5e-4;  // of the extent
    const Model whole = modelOf(body);
    const RayField outer(whole, {}, deviation, progress);
    std::vector<Model> models;
    for (const TopoDS_Shape& piece : pieces) models.push_back(modelOf(piece));
    std::vector<std::unique_ptr<RayField>> fields;
    for (const Model& model : models)
        fields.push_back(std::make_unique<RayField>(model, std::vector<std::size_t>(), deviation, progress));
    const Bnd_Box box = tightBox(body);
    const gp_Pnt low = box.CornerMin(), high = box.CornerMax();
    const double skin = 3.0 * deviation * low.Distance(high);
    std::mt19937_64 random(7);
    const auto between = [&random](double a, double b) { return std::uniform_real_distribution<>(a, b)(random); };
    const gp_Dir along(0.31, 0.47, 0.83);
    int astray = 0;
    constexpr int points = 2000;
    for (int k = 0; k < points; ++k) {
        const gp_Pnt at(between(low.X(), high.X()), between(low.Y(), high.Y()), between(low.Z(), high.Z()));
        if (outer.nearest(at, skin)) continue;
        if (std::any_of(fields.begin(), fields.end(),
                        [&](const auto& field) { return field->nearest(at, skin).has_value(); }))
            continue;
        ++asked;
        const auto in =
            std::count_if(fields.begin(), fields.end(), [&](const auto& field) { return isWithin(*field, at, along); });
        astray += in != (isWithin(outer, at, along) ? 1 : 0);
    }
    return astray;
}

/// Cells of the body, each closed and valid, adding up to it; random points lie in just one of them.
void tryOurs(const TopoDS_Shape& body, const std::vector<TopoDS_Shape>& tools, double tolerance, Tally& tally,
             const std::string& what) {
    Progress progress;
    // Whole and pieces are seen from one point: where faces meet only within a file's tolerance, a volume depends on
    // the point it is seen from, and that is not what is asked here.
    const gp_Pnt base = skinOf(body).centre;
    const double start = clockNow(), whole = volumeSeenFrom(base, body);
    ++tally.asked;
    std::vector<arrange::Input> inputs{{body, "body"}};
    for (const TopoDS_Shape& tool : tools) inputs.push_back({tool, "tool"});
    const auto all = arrange::arrange(std::move(inputs), tolerance, progress);
    std::string reason;
    double sum = 0.0;
    bool valid = true;
    std::vector<TopoDS_Shape> pieces;
    if (!all) {
        reason = all.error().what;
    } else {
        for (const int c : arrange::cellsIn(*all, 0)) {
            const auto made = arrange::solidsOf(*all, {c});
            if (!made) {
                reason = made.error().what;
                break;
            }
            sum += volumeSeenFrom(base, made->shape);
            pieces.push_back(made->shape);
            valid = valid && BRepCheck_Analyzer(made->shape).IsValid();
        }
    }
    tally.seconds += clockNow() - start;
    if (!reason.empty()) {
        // Numbers differ from case to case; the kind of failure is what counts.
        std::string kind;
        for (const char c : reason)
            if (std::isdigit(static_cast<unsigned char>(c)) == 0) kind += c;
        ++tally.reasons[kind];
        fmt::print("  {}: {}\n", what, reason);
        return;
    }
    if (std::abs(sum - whole) > 1e-5 * whole || !valid) {
        ++tally.wrong;
        fmt::print("  {}: WRONG, {} of {}{}\n", what, sum, whole, valid ? "" : ", not valid");
        return;
    }
    if (const int astray = pointsAstray(body, pieces, tally.points); astray > 0) {
        tally.astray += astray;
        fmt::print("  {}: {} points astray\n", what, astray);
    }
    ++tally.done;
}

void tryKernel(const TopoDS_Shape& body, const std::vector<TopoDS_Shape>& tools, Tally& tally) {
    const gp_Pnt base = skinOf(body).centre;
    const double start = clockNow(), whole = volumeSeenFrom(base, body);
    ++tally.asked;
    BRepAlgoAPI_Splitter splitter;
    TopTools_ListOfShape arguments, cutters;
    arguments.Append(body);
    for (const TopoDS_Shape& tool : tools) cutters.Append(tool);
    splitter.SetArguments(arguments);
    splitter.SetTools(cutters);
    splitter.Build();
    tally.seconds += clockNow() - start;
    if (!splitter.IsDone() || splitter.HasErrors()) return;
    const double sum = volumeSeenFrom(base, splitter.Shape());
    if (std::abs(sum - whole) > 1e-5 * whole || !BRepCheck_Analyzer(splitter.Shape()).IsValid())
        ++tally.wrong;
    else
        ++tally.done;
}

/// All solids of a file, as they stand, in one arrangement: the cells in each add up to it, and all are valid.
void tryTogether(const std::vector<TopoDS_Shape>& bodies, double tolerance, Tally& tally, const std::string& what) {
    Progress progress;
    const double start = clockNow();
    ++tally.asked;
    std::vector<arrange::Input> inputs;
    for (std::size_t i = 0; i < bodies.size(); ++i) inputs.push_back({bodies[i], fmt::format("body {}", i + 1)});
    const auto all = arrange::arrange(std::move(inputs), tolerance, progress);
    std::string reason, wrong;
    if (!all) {
        reason = all.error().what;
    } else {
        std::vector<double> sums(bodies.size(), 0.0);
        std::vector<gp_Pnt> bases;
        for (const TopoDS_Shape& body : bodies) bases.push_back(skinOf(body).centre);
        for (std::size_t c = 0; c < all->cells.size() && reason.empty(); ++c) {
            if (all->cells[c].inputs.empty()) continue;
            const auto made = arrange::solidsOf(*all, {static_cast<int>(c)});
            if (!made) {
                reason = made.error().what;
                break;
            }
            if (!BRepCheck_Analyzer(made->shape).IsValid()) wrong = "a cell is not valid";
            for (const int input : all->cells[c].inputs)
                sums[static_cast<std::size_t>(input)] +=
                    volumeSeenFrom(bases[static_cast<std::size_t>(input)], made->shape);
        }
        for (std::size_t i = 0; i < bodies.size() && reason.empty(); ++i)
            if (const double whole = volumeSeenFrom(bases[i], bodies[i]); std::abs(sums[i] - whole) > 1e-5 * whole)
                wrong = fmt::format("body {} has {} of {}", i + 1, sums[i], whole);
    }
    tally.seconds += clockNow() - start;
    if (!reason.empty()) {
        std::string kind;
        for (const char c : reason)
            if (std::isdigit(static_cast<unsigned char>(c)) == 0) kind += c;
        ++tally.reasons[kind];
        fmt::print("  {}: {}\n", what, reason);
    } else if (!wrong.empty()) {
        ++tally.wrong;
        fmt::print("  {}: WRONG, {}\n", what, wrong);
    } else {
        ++tally.done;
    }
}

/// The kernel's general fuse; judged by the sum of its volumes, each cell counted once, against ours where that is
/// known (it does not say which cell lies in which body), and by validity.
void tryTogetherByKernel(const std::vector<TopoDS_Shape>& bodies, Tally& tally) {
    const double start = clockNow();
    ++tally.asked;
    BRepAlgoAPI_BuilderAlgo fuse;
    TopTools_ListOfShape arguments;
    for (const TopoDS_Shape& body : bodies) arguments.Append(body);
    fuse.SetArguments(arguments);
    fuse.Build();
    tally.seconds += clockNow() - start;
    if (!fuse.IsDone() || fuse.HasErrors()) return;
    bool fine = BRepCheck_Analyzer(fuse.Shape()).IsValid();
    for (const TopoDS_Shape& body : bodies) {
        const gp_Pnt base = skinOf(body).centre;
        double sum = 0.0;
        for (const TopoDS_Shape& piece : fuse.Modified(body)) sum += volumeSeenFrom(base, piece);
        if (fuse.Modified(body).IsEmpty() && !fuse.IsDeleted(body)) continue;  // nothing has met it
        const double whole = volumeSeenFrom(base, body);
        fine = fine && std::abs(sum - whole) <= 1e-5 * whole;
    }
    ++(fine ? tally.done : tally.wrong);
}

void say(const char* name, const Tally& tally) {
    fmt::print("{}: {} of {} done, {} wrong, {:.1f} s\n", name, tally.done, tally.asked, tally.wrong, tally.seconds);
    if (tally.points > 0) fmt::print("    {} points asked by rays, {} astray\n", tally.points, tally.astray);
    for (const auto& [reason, count] : tally.reasons) fmt::print("    {} x {}\n", count, reason);
}

}  // namespace

int main(int argc, char** argv) {
    bool kernel = false, onlyTogether = false;
    unsigned long seed = 20261128;
    Tally planes, halves, together, kernelPlanes, kernelHalves, kernelTogether;
    for (int i = 1; i < argc; ++i) {
        if (std::string(argv[i]) == "--kernel") {
            kernel = true;
            continue;
        }
        if (std::string(argv[i]) == "--together") {
            onlyTogether = true;
            continue;
        }
        if (std::string(argv[i]) == "--seed" && i + 1 < argc) {
            seed = std::strtoul(argv[++i], nullptr, 10);
            continue;
        }
        Progress progress;
        const auto model = exchange::readFile(argv[i], {}, progress);
        if (!model) {
            fmt::print("{}: {}\n", argv[i], sentence(model.error()));
            continue;
        }
        fmt::print("{}\n", argv[i]);
        std::fflush(stdout);
        std::mt19937_64 random(seed);
        const auto between = [&random](double a, double b) { return std::uniform_real_distribution<>(a, b)(random); };
        std::vector<TopoDS_Shape> solids;
        for (const Occurrence& place : model->occurrences) {
            const Incidence& topology = model->parts[place.part]->incidence();
            for (int b = 1; b <= topology.bodyCount(); ++b)
                if (topology.body(b).ShapeType() == TopAbs_SOLID && BRepCheck_Analyzer(topology.body(b)).IsValid() &&
                    volumeOf(topology.body(b)) > 0.0)
                    solids.push_back(topology.body(b).Moved(TopLoc_Location(place.placement)));
        }
        if (solids.size() > 1) {
            Bnd_Box box;
            for (const TopoDS_Shape& solid : solids) box.Add(tightBox(solid));
            const double size = std::sqrt(box.SquareExtent());
            tryTogether(solids, std::clamp(1e-7 * size, 1e-6, 1e-3), together, fmt::format("{} solids", solids.size()));
            if (kernel) tryTogetherByKernel(solids, kernelTogether);
        }
        for (const auto& part : model->parts) {
            if (onlyTogether) break;
            const Incidence& topology = part->incidence();
            for (int b = 1; b <= topology.bodyCount(); ++b) {
                if (topology.body(b).ShapeType() != TopAbs_SOLID) continue;
                if (!BRepCheck_Analyzer(topology.body(b)).IsValid() || volumeOf(topology.body(b)) <= 0.0) continue;
                gp_Trsf turn;
                turn.SetRotation(gp_Ax1(gp::Origin(), gp_Dir(between(-1, 1), between(-1, 1), 1)), between(0, 3));
                const TopoDS_Shape body = topology.body(b).Moved(TopLoc_Location(turn));
                const Bnd_Box box = tightBox(body);
                const gp_Pnt low = box.CornerMin(), high = box.CornerMax();
                const double size = low.Distance(high);
                std::vector<TopoDS_Shape> tools;
                for (int k = 0; k < 3; ++k) {
                    const gp_Pnt at(between(low.X(), high.X()), between(low.Y(), high.Y()), between(low.Z(), high.Z()));
                    const gp_Dir normal(between(-1, 1), between(-1, 1), between(-1, 1));
                    tools.push_back(BRepBuilderAPI_MakeFace(gp_Pln(at, normal), -size, size, -size, size).Face());
                }
                const std::string name = fmt::format("{} body {}", part->name, b);
                const double tolerance = std::clamp(1e-7 * size, 1e-7, 1e-3);
                tryOurs(body, tools, tolerance, planes, name + " planes");
                const gp_Pnt middle(0.5 * (low.XYZ() + high.XYZ()));
                const TopoDS_Shape half =
                    BRepPrimAPI_MakeBox(gp_Pnt(middle.X() + 0.01 * size, low.Y() - size, low.Z() - size),
                                        gp_Pnt(high.X() + size, high.Y() + size, high.Z() + size))
                        .Shape();
                tryOurs(body, {half}, tolerance, halves, name + " half");
                if (kernel) {
                    tryKernel(body, tools, kernelPlanes);
                    tryKernel(body, {half}, kernelHalves);
                }
            }
        }
    }
    say("three planes", planes);
    say("block over half", halves);
    say("all solids together", together);
    if (kernel) {
        say("kernel, three planes", kernelPlanes);
        say("kernel, block over half", kernelHalves);
        say("kernel, all solids together", kernelTogether);
    }
    return 0;
}
