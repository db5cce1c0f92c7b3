// Takes every hole and every chain of rounds and chamfers of a file out on its own, once by the product and once by the
// kernel's own defeaturing, and prints one line for each kind: how many, gone, refused, wrong, and the seconds. For
// comparisons only.
#include <fmt/format.h>

#include <BRepAlgoAPI_Defeaturing.hxx>
#include <BRepCheck_Analyzer.hxx>
#include <BRepGProp.hxx>
#include <chrono>
#include <GProp_GProps.hxx>
#include <map>
#include <numeric>
#include <TopExp_Explorer.hxx>

#include "common/guard.h"
#include "exchange/files.h"
#include "geometry/ray_field.h"
#include "geometry/round_surface.h"
#include "measure/facts.h"
#include "select/alike.h"
#include "shave/companions.h"
#include "shave/holes.h"
#include "shave/reliefs.h"
#include "shave/strips.h"
#include "survey/defects.h"
#include "survey/small.h"
#include "survey/threads.h"
#include "topology/edge_angle.h"

using namespace rasoir;

namespace {

double volumeOf(const TopoDS_Shape& shape) {
    GProp_GProps props;
    BRepGProp::VolumeProperties(shape, props);
    return props.Mass();
}
/// Edges at which the skin is not one: with one face (unless it is a seam or a pole), or with more than two.
int openEdges(const TopoDS_Shape& shape) {
    const Incidence incidence(shape);
    int open = 0;
    for (int e = 1; e <= incidence.edgeCount(); ++e)
        open += incidence.usesOf(e).size() > 2 || incidence.facesAt(e) == 1;
    return open;
}

struct Count {
    int all = 0, gone = 0, wrong = 0;
    int along = 0;  // of those that stayed: would go with what rests on them or ends at them
    double seconds = 0.0;
    std::map<std::string, int> reasons;
};

/// Gone, refused, or wrong: open, invalid where it was valid, a volume that changed the wrong way or far too much.
/// True: gone.
bool judge(Count& count, const TopoDS_Shape& before, const TopoDS_Shape& after, double change, bool valid, int open) {
    if (after.IsNull()) return false;
    const double grown = volumeOf(after) - volumeOf(before);
    const bool sound = openEdges(after) <= open && (!valid || BRepCheck_Analyzer(after).IsValid());
    const bool plausible =
        std::abs(grown) <= 3.0 * std::abs(change) + 1e-9 * std::abs(volumeOf(before)) && grown != 0.0;
    if (sound && plausible)
        ++count.gone;
    else
        ++count.wrong;
    return sound && plausible;
}

void tell(const Part& part, const survey::StripChain& chain, const std::string& why) {
    const Incidence& topology = part.incidence();
    fmt::print("{} R {} layer {} turn {:.1f} convex {} : {}\n", survey::describe(chain), chain.size, chain.layer,
               chain.turn * 57.3, chain.convex, why);
    for (const Strip& strip : chain.strips) {
        fmt::print("  face {} {}:", strip.face, surfaceKindName(surfaceKind(topology.face(strip.face))));
        for (const int e : topology.edgesOf(strip.face)) {
            const bool contact =
                std::find(strip.contact[0].begin(), strip.contact[0].end(), e) != strip.contact[0].end() ||
                std::find(strip.contact[1].begin(), strip.contact[1].end(), e) != strip.contact[1].end();
            int other = 0;
            for (const EdgeUse& use : topology.usesOf(e))
                if (use.face != strip.face) other = use.face;
            fmt::print(" {}{}:{}{}", contact ? "c" : "x", e, other,
                       other ? " " + surfaceKindName(surfaceKind(topology.face(other))) + " " +
                                   fmt::format("{:.0f}", edgeAngle(topology, e).turn * 57.3)
                             : std::string());
        }
        fmt::print("\n");
    }
}

void tell(const Part& part, const survey::Hole& hole, const std::string& why) {
    const Incidence& topology = part.incidence();
    fmt::print("{} Ø {} : {}\n", survey::describe(hole), hole.size, why);
    for (const int f : hole.faces) {
        fmt::print("  face {} {}:", f, surfaceKindName(surfaceKind(topology.face(f))));
        for (const int e : topology.edgesOf(f)) {
            int other = 0;
            for (const EdgeUse& use : topology.usesOf(e))
                if (use.face != f) other = use.face;
            fmt::print(" {}:{}{}", e, other,
                       other ? " " + surfaceKindName(surfaceKind(topology.face(other))) + " " +
                                   fmt::format("{:.0f}", edgeAngle(topology, e).turn * 57.3)
                             : std::string());
        }
        fmt::print("\n");
    }
}

/// Does the hole go with the holes that cross it, its copies left out?
bool goesAlong(const Model& model, const std::shared_ptr<const Part>& part, const survey::Hole& hole) {
    Model one = model;
    one.parts = {part};
    one.occurrences = {{0, gp_Trsf(), part->name, {}, std::nullopt}};
    shave::RemoveHoles step;
    step.chosen = {makeFaceRef(*part, hole.faces.front())};
    step.along = true;
    Progress quiet;
    return shave::removeHoles(one, step, quiet).has_value();
}

template <class Work>
double timed(Work work) {
    const auto start = std::chrono::steady_clock::now();
    work();
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

/// All that the window surveys of a part unasked, each once, beside what reading and drawing it cost.
int surveysOf(const char* path) {
    Progress quiet;
    Result<Model> model;
    const double read = timed([&] { model = exchange::readFile(path, {}, quiet); });
    if (!model) return 1;
    const double drawn = timed([&] { const RayField field(*model, {}, RayField::usualDeviation, quiet); });
    std::array<double, 8> took{};
    for (const auto& part : model->parts) {
        Result<std::vector<survey::Hole>> holes;
        Result<std::vector<survey::StripChain>> chains;
        Result<std::vector<survey::Relief>> reliefs;
        Result<std::vector<survey::Thread>> threads;
        const double size = model->targetSize;
        took[0] += timed([&] { (void)measure::factsOf(*part, size, false); });
        took[1] += timed([&] { holes = survey::findHoles(*part, size, {}, quiet); });
        took[2] += timed([&] { chains = survey::findStrips(*part, size, quiet); });
        if (holes) took[3] += timed([&] { reliefs = survey::findReliefs(*part, size, *holes, quiet); });
        took[4] += timed([&] { threads = survey::findThreads(*part, size, quiet); });
        if (holes && chains && reliefs && threads)
            took[5] += timed([&] {
                (void)survey::findSmall(*part, size, survey::facesOf(*holes, *chains, *reliefs, *threads), quiet);
            });
        took[6] += timed([&] { (void)survey::findDefects(*part, {size, model->samePoint(), 0.0}, false, quiet); });
        took[7] += timed([&] { (void)select::traitsOf(*part); });
    }
    const double all = std::accumulate(took.begin(), took.end(), 0.0);
    fmt::print("{}\tread {:.3f}\tdrawn {:.3f}\tsurveys {:.3f}\tratio {:.2f}\t", path, read, drawn, all,
               all / (read + drawn));
    for (const double one : took) fmt::print(" {:.3f}", one);
    fmt::print("\n");
    return 0;
}

}  // namespace

int main(int argc, char** argv) {
    if (argc < 2) return 2;
    const std::string mode = argc < 3 ? "both" : argv[2];  // both, ours, bulk, surveys
    std::vector<double> refusals, successes;               // [s] of features taken out alone by us
    if (mode == "surveys") return surveysOf(argv[1]);
    const bool kernelToo = mode == "both";
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
        const auto checked =
            guarded("checking", [&]() -> Result<bool> { return BRepCheck_Analyzer(part->shape).IsValid(); });
        const bool valid = checked && *checked;
        const int open = openEdges(part->shape);
        const double tolerance = model->samePoint();
        bool weCan = false, alongWeCan = false;
        const auto kernel = [&](const auto& one, double change, Count& count) {
            if (!kernelToo) return;
            const std::vector<int>& faces = one.faces;
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
            bool kernelCan = false;
            (void)guarded("judging", [&]() -> Result<void> {
                return kernelCan = judge(count, part->shape, made, change, valid, open), Result<void>();
            });
            if (kernelCan && !weCan)
                tell(*part, one, alongWeCan ? "ONLY THE KERNEL, we with what rests on it" : "ONLY THE KERNEL");
        };
        const auto ours = [&](const auto& one, double change, int layer, Count& count) {
            TopoDS_Shape made;
            const double took = timed([&] {
                const auto done = shave::removeFrom(*part, {one}, tolerance, quiet);
                if (done) made = done->shape;
                const std::string why = !done            ? done.error().what
                                        : done->items[0] ? std::string()
                                                         : done->items[0].error().what;
                if (!why.empty() && std::getenv("RASOIR_TELL")) tell(*part, one, why);
                if (!why.empty())
                    ++count.reasons[fmt::format(
                        "{}{}", layer > 0 ? "(others rest on it) " : "",
                        why.substr(why.find(" stays: ") == std::string::npos ? 0 : why.find(" stays: ") + 8))];
            });
            count.seconds += took;
            (made.IsNull() ? refusals : successes).push_back(took);
            weCan = false;
            (void)guarded("judging", [&]() -> Result<void> {
                return weCan = judge(count, part->shape, made, change, valid, open), Result<void>();
            });
        };
        if (mode == "bulk") continue;
        if (const auto holes = survey::findHoles(*part, 4.0, {}, quiet))
            for (const auto& hole : *holes) {
                auto& row = table["hole"];
                ++row[0].all;
                ++row[1].all;
                ours(hole, hole.volume, 0, row[0]);
                alongWeCan = !weCan && goesAlong(*model, part, hole);
                row[0].along += alongWeCan;
                kernel(hole, hole.volume, row[1]);
            }
        if (const auto chains = survey::findStrips(*part, 4.0, quiet))
            for (const auto& chain : *chains) {
                const bool round = chain.kind == survey::StripKind::Round;
                auto& row = table[!round       ? "chamfer"
                                  : chain.bend ? "bend"
                                               : fmt::format("{} {}", chain.convex ? "round" : "fillet",
                                                             chain.faces.size() > 1 ? "chain" : "single")];
                ++row[0].all;
                ++row[1].all;
                ours(chain, chain.change, chain.layer, row[0]);
                alongWeCan =
                    !weCan && shave::companionsOf(*part, shave::wantedFor({chain}).front(), *chains, tolerance, quiet)
                                  .has_value();
                row[0].along += alongWeCan;
                kernel(chain, chain.change, row[1]);
            }
    }
    // All rounds and chamfers at once, in the order that is found.
    for (const auto& part : model->parts) {
        if (part->shape.IsNull() || part->incidence().solidCount() == 0) continue;
        const auto chains = survey::findStrips(*part, 4.0, quiet);
        if (!chains || chains->empty()) continue;
        Count& count = table["all at once"][0];
        count.all += static_cast<int>(chains->size());
        Result<heal::Removal> done;
        count.seconds += timed([&] { done = shave::removeFrom(*part, *chains, model->samePoint(), quiet); });
        if (!done) {
            ++count.reasons[done.error().what];
            continue;
        }
        for (const auto& item : done->items)
            if (item)
                ++count.gone;
            else {
                ++count.reasons[item.error().what.substr(item.error().what.find(" stays: ") + 8)];
                if (std::getenv("RASOIR_TELL"))
                    tell(*part, (*chains)[static_cast<std::size_t>(&item - done->items.data())], item.error().what);
            }
        if (!done->shape.IsNull()) {
            const auto sound = guarded("checking", [&]() -> Result<bool> {
                return openEdges(done->shape) <= openEdges(part->shape) &&
                       (BRepCheck_Analyzer(done->shape).IsValid() || !BRepCheck_Analyzer(part->shape).IsValid());
            });
            if (!sound || !*sound) ++count.wrong;
        }
    }
    // All marks, bosses, pockets and cutouts at once.
    for (const auto& part : model->parts) {
        if (part->shape.IsNull() || part->incidence().solidCount() == 0) continue;
        const auto holes = survey::findHoles(*part, 4.0, {}, quiet);
        const auto reliefs =
            holes ? survey::findReliefs(*part, 4.0, *holes, quiet) : Result<std::vector<survey::Relief>>{};
        if (!reliefs || reliefs->empty()) continue;
        Count& count = table["reliefs at once"][0];
        Model one;
        one.parts = {part};
        one.occurrences = {{0, gp_Trsf(), part->name, {}, std::nullopt}};
        Result<Outcome> done;
        count.seconds += timed([&] {
            done = shave::removeReliefs(
                one, {1e9, 0.0, {"mark", "boss", "pocket", "cutout", "notch", "rib"}, {}, {}, {}}, quiet);
        });
        if (!done) {
            ++count.all;
            ++count.reasons[done.error().what];
            continue;
        }
        for (const Item& item : done->items) {
            ++count.all;
            if (item.done)
                ++count.gone;
            else
                ++count.reasons[item.problem.what];
        }
        const TopoDS_Shape& made = done->model.parts[0]->shape;
        const auto sound = guarded("checking", [&]() -> Result<bool> {
            return openEdges(made) <= openEdges(part->shape) &&
                   (BRepCheck_Analyzer(made).IsValid() || !BRepCheck_Analyzer(part->shape).IsValid());
        });
        if (!sound || !*sound) ++count.wrong;
    }
    std::sort(refusals.begin(), refusals.end());
    std::sort(successes.begin(), successes.end());
    if (!refusals.empty() && !successes.empty())
        fmt::print("#time\t{}\t{} refused, at most {:.3f} s\t{} gone, {:.3f} s on median, {:.3f} s at most\n", argv[1],
                   refusals.size(), refusals.back(), successes.size(), successes[successes.size() / 2],
                   successes.back());
    for (const auto& [kind, row] : table) {
        fmt::print("{}\t{}\t{}", argv[1], kind, row[0].all);
        for (const Count& count : row) fmt::print("\t{}\t{}\t{:.2f}", count.gone, count.wrong, count.seconds);
        fmt::print("\t{}\n", row[0].along);
        for (const auto& [why, times] : row[0].reasons) fmt::print("#\t{}\t{}\t{}\n", kind, times, why);
        std::fflush(stdout);
    }
    return 0;
}
