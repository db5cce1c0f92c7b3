// How well bodies of real files are joined: all solids of a file as they came, and solids of different files laid on
// each other by their largest flat faces, at random places and turns, touching or a part of the limit apart. Usage:
// rasoir-join-trial [--seed N] [--pairs N] [--only PAIR] FILE...
// With --only the pair of that number is tried alone, which is how a slow or a refused one is looked into.
#include <fmt/format.h>

#include <BRepAdaptor_Surface.hxx>
#include <BRepCheck_Analyzer.hxx>
#include <chrono>
#include <gp_Quaternion.hxx>
#include <random>

#include "exchange/files.h"
#include "geometry/extent.h"
#include "geometry/integrals.h"
#include "join/contacts.h"
#include "join/joint_faults.h"
#include "join/pairs.h"
#include "model/places.h"

using namespace rasoir;

namespace {

struct Tally {
    int asked = 0, done = 0, nothing = 0, wrong = 0;
    double seconds = 0.0;
    std::map<std::string, int> reasons;
};

double clockNow() {
    return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
}

std::string withoutNumbers(const std::string& reason) {
    std::string kind;
    for (const char c : reason)
        if (std::isdigit(static_cast<unsigned char>(c)) == 0) kind += c;
    return kind;
}

/// Joins all of the model and judges the result: valid, joints without faults, volumes kept (unless overlaps were
/// given away, which the notes tell), something joined where it was laid together on purpose.
void tryJoin(const std::string& what, const Model& model, double upTo, bool mustJoin, Tally& tally) {
    join::Pairs step;
    step.upTo = upTo;
    step.overlaps = "smaller";
    Progress progress;
    const double start = clockNow();
    const auto made = join::joinPairs(model, step, progress);
    const double took = clockNow() - start;
    tally.seconds += took;
    if (took > 5.0) fmt::print("  {}: {:.1f} s\n", what, took);
    ++tally.asked;
    if (!made) {
        if (made.error().kind == ProblemKind::NothingToDo && !mustJoin) {
            ++tally.nothing;
            return;
        }
        ++tally.reasons[withoutNumbers(made.error().what)];
        fmt::print("  {}: {}\n", what, sentence(made.error()));
        return;
    }
    std::string wrong;
    for (const Item& item : made->items)
        if (!item.done) {
            ++tally.reasons["left: " + withoutNumbers(item.problem.what)];
            fmt::print("  {}: left: {}\n", what, sentence(item.problem));
        }
    for (const std::string& fault : join::faultsInJoints(made->model)) wrong += " " + fault;
    const bool overlapping = std::any_of(made->notes.begin(), made->notes.end(), [](const std::string& note) {
        return note.find("reached into") != std::string::npos;
    });
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        const TopoDS_Shape before = model.parts[model.occurrences[o].part]->shape,
                           after = made->model.parts[made->model.occurrences[o].part]->shape;
        if (before.IsPartner(after)) continue;
        if (BRepCheck_Analyzer(before).IsValid() && !BRepCheck_Analyzer(after).IsValid())
            wrong += fmt::format(" \"{}\" is not valid.", placeName(model, o));
        const gp_Pnt base = skinOf(before).centre;
        const double whole = volumeSeenFrom(base, before), now = volumeSeenFrom(base, after);
        // What was moved to close a gap changes the volume by the face's area times the gap.
        const double allowed = 1e-6 * whole + 2.0 * upTo * skinOf(before).area;
        if (!overlapping && std::abs(now - whole) > allowed)
            wrong += fmt::format(" \"{}\" had {} and has {} mm³.", placeName(model, o), whole, now);
        if (overlapping && now > whole + allowed) wrong += fmt::format(" \"{}\" grew.", placeName(model, o));
    }
    if (!wrong.empty()) {
        ++tally.wrong;
        fmt::print("  {}: WRONG:{}\n", what, wrong);
        return;
    }
    ++tally.done;
}

void say(const char* name, const Tally& tally) {
    fmt::print("{}: {} of {} done, {} with nothing in common, {} wrong, {:.1f} s\n", name, tally.done, tally.asked,
               tally.nothing, tally.wrong, tally.seconds);
    for (const auto& [reason, count] : tally.reasons) fmt::print("    {} x {}\n", count, reason);
}

/// A solid, and its largest flat face looking out along Z at the origin.
struct Laid {
    TopoDS_Shape shape;
    std::string name;
    gp_Trsf flat;  ///< brings the face's middle to the origin, its outward normal to +Z
    double breadth = 0.0;
};

std::optional<Laid> laid(const TopoDS_Shape& solid, const std::string& name) {
    const Incidence topology(solid);
    int best = 0;
    double area = 0.0;
    for (int f = 1; f <= topology.faceCount(); ++f) {
        if (BRepAdaptor_Surface(topology.face(f)).GetType() != GeomAbs_Plane) continue;
        const double own = areaOf(topology.face(f));
        if (own > area) std::tie(best, area) = std::pair(f, own);
    }
    if (best == 0) return std::nullopt;
    const TopoDS_Face face = topology.face(best);
    gp_Dir normal = BRepAdaptor_Surface(face).Plane().Axis().Direction();
    if (!BRepAdaptor_Surface(face).Plane().Direct()) normal.Reverse();
    if (face.Orientation() == TopAbs_REVERSED) normal.Reverse();
    Laid made{solid, name, {}, std::sqrt(area)};
    gp_Trsf turn, move;
    turn.SetRotation(gp_Quaternion(gp_Vec(normal), gp_Vec(0, 0, 1)));
    move.SetTranslation(gp_Vec(skinOf(face).centre, gp_Pnt(0, 0, 0)));
    made.flat = turn * move;
    return made;
}

}  // namespace

int main(int argc, char** argv) {
    unsigned long seed = 20261129;
    int wanted = 60;
    std::optional<int> only;
    std::setvbuf(stdout, nullptr, _IOLBF, 0);  // what is known so far is seen though a trial is stopped
    std::vector<Laid> solids;
    Tally files, moved, touching, gaps;
    for (int i = 1; i < argc; ++i) {
        const std::string argument = argv[i];
        if ((argument == "--seed" || argument == "--pairs" || argument == "--only") && i + 1 < argc) {
            const auto number = std::strtoul(argv[++i], nullptr, 10);
            if (argument == "--seed")
                seed = number;
            else if (argument == "--only")
                only = static_cast<int>(number);
            else
                wanted = static_cast<int>(number);
            continue;
        }
        Progress progress;
        auto model = exchange::readFile(argument, {}, progress);
        if (!model) {
            fmt::print("{}: {}\n", argument, sentence(model.error()));
            continue;
        }
        fmt::print("{}\n", argument);
        std::size_t bodies = 0;
        Model taken = *model;
        taken.parts.clear();
        taken.occurrences.clear();
        for (const Occurrence& place : model->occurrences) {
            const auto& part = model->parts[place.part];
            const Incidence& topology = part->incidence();
            for (int b = 1; b <= topology.bodyCount(); ++b) {
                const TopoDS_Shape body = topology.body(b);
                if (body.ShapeType() != TopAbs_SOLID || !BRepCheck_Analyzer(body).IsValid() || volumeOf(body) <= 0.0)
                    continue;
                ++bodies;
                const std::string name =
                    fmt::format("{} {} body {}", argument.substr(argument.rfind('/') + 1), part->name, b);
                Occurrence own = place;
                own.part = taken.parts.size();
                own.aside = false;
                taken.parts.push_back(std::make_shared<Part>(name, body));
                taken.occurrences.push_back(own);
                if (auto flat = laid(body, name)) solids.push_back(std::move(*flat));
            }
        }
        if (bodies < 2 || bodies > 200 || only) continue;
        taken.giveIds();
        tryJoin(argument, taken, 0.0, false, files);
        Model shaken = taken;
        std::mt19937_64 random(seed);
        std::uniform_real_distribution<> share(-0.3, 0.3);
        const double limit = join::safeLimit(shaken).mm;
        shaken.occurrences.changeAll([&](Occurrence& place) {
            gp_Trsf shift;
            shift.SetTranslation(gp_Vec(share(random), share(random), share(random)) * limit);
            place.placement = shift * place.placement;
        });
        tryJoin(argument + " moved", shaken, limit, false, moved);
    }
    std::mt19937_64 random(seed);
    const auto between = [&random](double a, double b) { return std::uniform_real_distribution<>(a, b)(random); };
    for (int i = 0; i < wanted && solids.size() > 1; ++i) {
        const Laid& a = solids[random() % solids.size()];
        const Laid& b = solids[random() % solids.size()];
        Model model;
        model.parts = {std::make_shared<Part>("a " + a.name, a.shape), std::make_shared<Part>("b " + b.name, b.shape)};
        gp_Trsf over, spin, shift;
        over.SetRotation(gp_Ax1(gp_Pnt(), gp_Dir(1, 0, 0)), M_PI);
        spin.SetRotation(gp_Ax1(gp_Pnt(), gp_Dir(0, 0, 1)), between(0.0, 2.0 * M_PI));
        const double reach = 0.3 * std::min(a.breadth, b.breadth);
        const gp_Vec aside(between(-reach, reach), between(-reach, reach), 0.0);
        shift.SetTranslation(aside);
        Occurrence first, second;
        first.placement = a.flat;
        second.part = 1;
        second.placement = shift * spin * over * b.flat;
        model.occurrences = {first, second};
        model.giveIds();
        model.targetSize = suggestedTargetSize(model);
        const std::string name = fmt::format("pair {}: {} on {}", i, b.name, a.name);
        if (only && *only != i) continue;
        tryJoin(name, model, 0.0, false, touching);
        const double limit = join::safeLimit(model).mm;
        gp_Trsf lift;
        lift.SetTranslation(gp_Vec(0.0, 0.0, 0.5 * limit));
        model.occurrences.change(1).placement = lift * second.placement;
        tryJoin(name + " apart", model, limit, false, gaps);
    }
    say("files of several solids", files);
    say("the same, shaken within the limit", moved);
    say("laid on each other", touching);
    say("half the limit apart", gaps);
    return 0;
}
