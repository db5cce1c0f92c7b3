#include "mend/closing.h"

#include <fmt/format.h>

#include <BRepBuilderAPI_Copy.hxx>
#include <map>
#include <TopoDS.hxx>

#include "mend/patch.h"
#include "mend/trim.h"

namespace rasoir::mend {
namespace {

Item leftItem(const std::string& part, const NotStitched& left) {
    return {
        fmt::format("gap of {} mm between faces {} and {} of {}", readable(left.width), left.faceA, left.faceB, part),
        false,
        {ProblemKind::NotPossible,
         fmt::format("Faces {} and {} could not be joined: {}.", left.faceA, left.faceB, left.why),
         {part, {left.faceA, left.faceB}, left.where},
         "Delete one of the faces and patch the opening, or lower the limit."},
        left.width};
}

bool isRim(const survey::DefectReport& report, const OpenLoop& loop) {
    for (const survey::Defect& defect : report.defects)
        if (defect.kind == survey::DefectKind::Rim &&
            std::find(defect.edges.begin(), defect.edges.end(), loop.numbers.front()) != defect.edges.end())
            return true;
    return false;
}

}  // namespace

Result<Change> stitched(const Part& part, const StitchWanted& wanted, Progress& progress) {
    auto done = stitch(part.incidence(), part.shape, wanted, progress);
    if (!done) return tl::unexpected(done.error());
    Change change;
    change.shape = done->shape;
    change.lineage = std::move(done->lineage);
    change.done = static_cast<int>(done->joined);
    std::string told = fmt::format("{} of {} joined", counted(done->joined, "pair"), part.name);
    if (done->widest > wanted.exact) told += fmt::format(", up to {} mm apart", readable(done->widest));
    if (done->largestShift > wanted.exact) told += fmt::format("; largest shift {} mm", readable(done->largestShift));
    if (done->largestStep > wanted.exact)
        told += fmt::format("; a step of {} mm stays within the tolerance of an edge", readable(done->largestStep));
    told += "; " + state(change.shape);
    Item joined{told, true, {}, done->widest};
    if (done->largestShift > wanted.exact) {  // where to look at what moved farthest
        joined.problem.what = fmt::format("The largest shift is {} mm.", readable(done->largestShift));
        joined.problem.where = {part.name, {}, done->shiftAt};
    }
    change.items.push_back(std::move(joined));
    for (const NotStitched& left : done->left) change.items.push_back(leftItem(part.name, left));
    return change;
}

Result<Change> withoutDoubles(const Part& part, double targetSize, double exact, Progress& progress) {
    survey::DefectLimits limits{targetSize, exact, 0.0};
    const auto report = survey::findDefects(part, limits, false, progress);
    if (!report) return tl::unexpected(report.error());
    std::set<int> dropped;
    Change change;
    for (const survey::Defect& defect : report->defects) {
        if (defect.kind != survey::DefectKind::Doubled) continue;
        const int worse = defect.faces.back();
        dropped.insert(worse);
        change.items.push_back(
            {fmt::format("face {} of {} dropped, it lies on face {}", worse, part.name, defect.faces.front()),
             true,
             {},
             defect.size});
    }
    if (dropped.empty()) return change;
    auto made = withoutFaces(part, dropped);
    if (!made) return made;
    made->items = std::move(change.items);
    made->done = static_cast<int>(dropped.size());
    return made;
}

Result<Change> patched(const Part& part, const PatchOpenings& step, double targetSize, double exact,
                       Progress& progress) {
    // New faces write their traces onto the edges: never onto those of the model as it is.
    const TopoDS_Shape copy = BRepBuilderAPI_Copy(part.shape, false).Shape();
    const Incidence topology(copy);
    const std::vector<OpenLoop> loops = openLoops(topology);
    if (loops.empty())
        return openEdges(topology) == 0 ? Result<Change>(Change{})
                                        : fail(ProblemKind::NotPossible,
                                               fmt::format("The open edges of \"{}\" do not form loops.", part.name),
                                               "Stitch its gaps first.", {part.name, {}, {}});
    std::vector<std::size_t> wanted;
    Change change;
    if (step.at.empty()) {
        const auto report = survey::findDefects(part, {targetSize, exact, 0.0}, false, progress);
        if (!report) return tl::unexpected(report.error());
        std::set<int> inGaps;
        for (const survey::Defect& defect : report->defects)
            if (defect.kind == survey::DefectKind::Gap) inGaps.insert(defect.edges.begin(), defect.edges.end());
        for (std::size_t l = 0; l < loops.size(); ++l) {
            // An edge with another beside it wants to be stitched: a patch would leave the face beyond it lying loose.
            if (std::any_of(loops[l].numbers.begin(), loops[l].numbers.end(),
                            [&](int e) { return inGaps.contains(e); }))
                continue;
            if (!isRim(*report, loops[l])) wanted.push_back(l);
        }
        for (const survey::Defect& gap : report->defects)
            if (gap.kind == survey::DefectKind::Gap)
                change.items.push_back(
                    {fmt::format("gap of {} mm between faces {} and {} of {}", readable(gap.size), gap.faces[0],
                                 gap.faces[1], part.name),
                     false,
                     {ProblemKind::NotPossible,
                      fmt::format("The gap between faces {} and {} is {} mm wide, more than the safe limit.",
                                  gap.faces[0], gap.faces[1], readable(gap.size)),
                      {part.name, gap.faces, gap.where},
                      "Look at it, and stitch it if it is none of the design."},
                     gap.size});
    } else {
        for (const auto& at : step.at) {
            const gp_Pnt point(at[0], at[1], at[2]);
            // Of several about one middle, as a plate's outline and a hole in it, each point asked for takes another,
            // the largest first.
            std::optional<std::size_t> nearest;
            const auto better = [&](std::size_t l) {
                // Of the loop, by which two of one hole may differ: they were drawn as one.
                const double own = loops[l].middle.Distance(point), best = loops[*nearest].middle.Distance(point),
                             same = 1e-3 * loops[l].size;
                return own < best - same || (own < best + same && loops[l].length > loops[*nearest].length);
            };
            for (std::size_t l = 0; l < loops.size(); ++l)
                if (std::find(wanted.begin(), wanted.end(), l) == wanted.end() &&
                    loops[l].middle.Distance(point) <= 0.5 * loops[l].size && (!nearest || better(l)))
                    nearest = l;
            if (nearest) wanted.push_back(*nearest);
        }
        std::sort(wanted.begin(), wanted.end());
        wanted.erase(std::unique(wanted.begin(), wanted.end()), wanted.end());
    }
    if (wanted.empty()) return change;
    const std::vector<Patch> patches = patchesFor(topology, loops, wanted, step.tangent, exact);
    std::vector<TopoDS_Face> faces;
    std::vector<int> numbers;
    for (int f = 1; f <= topology.faceCount(); ++f) {
        faces.push_back(topology.face(f));
        numbers.push_back(f);
    }
    std::set<std::size_t> closed;
    for (const Patch& patch : patches) {
        for (const TopoDS_Face& face : patch.faces) {
            faces.push_back(face);
            numbers.push_back(0);
        }
        closed.insert(patch.loops.begin(), patch.loops.end());
        const OpenLoop& loop = loops[patch.loops.front()];
        change.items.push_back(
            {fmt::format("opening {} mm across in {} closed by a {}{}", readable(loop.size), part.name,
                         patchKindName(patch.kind),
                         patch.deviation > exact ? fmt::format(", {} mm off at most", readable(patch.deviation))
                                                 : std::string()),
             true,
             {},
             loop.size});
    }
    for (const std::size_t l : wanted)
        if (!closed.contains(l)) {
            Place where{part.name, {}, loops[l].middle};
            for (const int e : loops[l].numbers) where.faces.push_back(topology.usesOf(e).front().face);
            change.items.push_back({fmt::format("opening {} mm across in {}", readable(loops[l].size), part.name),
                                    false,
                                    {ProblemKind::NotPossible,
                                     fmt::format("No surface fits the opening {} mm across.", readable(loops[l].size)),
                                     where, "Delete a face beside it that ends oddly, and patch the larger opening."},
                                    loops[l].size});
        }
    if (patches.empty()) return change;
    Change made = rebuilt(topology, faces, numbers);
    made.items = std::move(change.items);
    made.items.push_back({part.name + ": " + state(made.shape), true, {}, 0.0});
    made.done = static_cast<int>(closed.size());
    return made;
}

Result<Change> solidsOf(const Part& part) {
    const Incidence& topology = part.incidence();
    std::vector<TopoDS_Face> faces;
    std::vector<int> numbers;
    for (int f = 1; f <= topology.faceCount(); ++f) {
        faces.push_back(topology.face(f));
        numbers.push_back(f);
    }
    if (faces.empty()) return Change{};
    const Bodies bodies = bodiesFrom(faces);
    const int before = solidsIn(part.shape);
    if (bodies.solids == before && bodies.turned == 0) return Change{};
    Change change = rebuilt(topology, faces, numbers);
    std::string told = fmt::format("{} of {}", counted(static_cast<std::size_t>(bodies.solids), "solid"), part.name);
    if (bodies.turned > 0)
        told += fmt::format(", {} turned round", counted(static_cast<std::size_t>(bodies.turned), "face"));
    if (bodies.voids > 0) told += fmt::format(", {}", counted(static_cast<std::size_t>(bodies.voids), "void"));
    if (bodies.sheets + bodies.looseFaces > 0)
        told += fmt::format(", {} not closed",
                            counted(static_cast<std::size_t>(bodies.sheets + bodies.looseFaces), "skin"));
    change.items.push_back({told, true, {}, 0.0});
    change.done = 1;
    return change;
}

double safeLimitOf(const Part& part, double targetSize, double exact, Progress& progress) {
    const auto rims = survey::pairRims(part.incidence(), exact, exact, progress);
    return rims ? survey::safeGapLimit(*rims, targetSize).first : exact;
}

namespace {

/// Cuts back what runs over. Faces that could not be cut are in `stubborn`, with a point of each boundary that is to
/// bound the new one.
Result<Change> cutBack(const Part& part, double upTo, double least, double exact,
                       std::map<int, std::vector<gp_Pnt>>& stubborn, Progress& progress) {
    const Incidence& topology = part.incidence();
    auto rims = survey::pairRims(topology, upTo, exact, progress);
    if (!rims) return tl::unexpected(rims.error());
    survey::cutAtCrossings(*rims, exact);
    Change change;
    std::map<int, TopoDS_Face> fresh;
    for (const survey::Overrun& overrun : survey::findOverruns(topology, *rims, std::max(upTo, exact))) {
        if (fresh.contains(overrun.face) || overrun.away <= least) continue;
        const auto made = trimmed(topology, *rims, overrun, std::max(upTo, 2.0 * exact));
        const std::string what =
            overrun.over > 0 ? fmt::format("face {} of {}, partly over face {}", overrun.face, part.name, overrun.over)
                             : fmt::format("face {} of {}", overrun.face, part.name);
        if (!made) {
            change.items.push_back({what, false, made.error(), overrun.past});
            auto& bounds = stubborn[overrun.face];
            const auto middle = [&](int p) {
                return rims->probes[static_cast<std::size_t>(rims->pieces[static_cast<std::size_t>(p)].edge)]->value(
                    0.5 *
                    (rims->pieces[static_cast<std::size_t>(p)].first + rims->pieces[static_cast<std::size_t>(p)].last));
            };
            for (const survey::Stop& stop : overrun.stops)
                if (stop.piece >= 0) bounds.push_back(middle(stop.piece));
            for (std::size_t p = 0; p < rims->pieces.size(); ++p)
                if (rims->pieces[p].face == overrun.face && rims->pieces[p].partner >= 0)
                    bounds.push_back(middle(static_cast<int>(p)));
            for (const int e : topology.edgesOf(overrun.face))
                if (topology.facesAt(e) > 1 && topology.usesOf(e).front().face != topology.usesOf(e).back().face) {
                    const EdgeProbe shared(topology.edge(e));
                    bounds.push_back(shared.value(0.5 * (shared.first() + shared.last())));
                }
            continue;
        }
        fresh.emplace(overrun.face, *made);
        change.items.push_back(
            {fmt::format("{} cut back by up to {} mm", what, readable(overrun.past)), true, {}, overrun.past});
        ++change.done;
    }
    if (fresh.empty()) return change;
    std::vector<TopoDS_Face> faces;
    std::vector<int> numbers;
    for (int f = 1; f <= topology.faceCount(); ++f) {
        faces.push_back(fresh.contains(f) ? fresh.at(f) : topology.face(f));
        numbers.push_back(f);
    }
    Change made = rebuilt(topology, faces, numbers);
    made.items = std::move(change.items);
    made.done = change.done;
    return made;
}

/// Takes a face out and patches the openings that pass through the given points; all of them, or nothing.
Result<Change> madeAnew(const Part& part, const TopoDS_Face& face, const std::vector<gp_Pnt>& bounds, double upTo,
                        double targetSize, double exact, Progress& progress) {
    const int number = part.incidence().faceNumber(face);
    if (number == 0) return fail(ProblemKind::NotPossible, "The face has changed meanwhile.");
    Chain chain{part.copy(), {}};
    auto out = withoutFaces(part, {number});
    if (!out) return out;
    chain.take(std::move(out));
    chain.take(stitched(*chain.part, {upTo, exact, {}, {}}, progress));
    PatchOpenings step;
    for (const OpenLoop& loop : openLoops(chain.part->incidence())) {
        const auto passes = [&](const gp_Pnt& point) {
            return std::any_of(loop.edges.begin(), loop.edges.end(), [&](const TopoDS_Edge& edge) {
                return EdgeProbe(edge).nearest(point).distance <= std::max(upTo, 10.0 * exact);
            });
        };
        if (std::any_of(bounds.begin(), bounds.end(), passes))
            step.at.push_back({loop.middle.X(), loop.middle.Y(), loop.middle.Z()});
    }
    if (step.at.empty()) return fail(ProblemKind::NotPossible, "Without the face no opening is left to be patched.");
    const int before = openEdges(chain.part->incidence());
    auto patch = patched(*chain.part, step, targetSize, exact, progress);
    if (!patch) return patch;
    if (patch->shape.IsNull() || openEdges(Incidence(patch->shape)) >= before ||
        patch->done < static_cast<int>(step.at.size()))
        return fail(ProblemKind::NotPossible, "No face fits where it was.");
    chain.take(std::move(patch));
    chain.all.items.clear();
    chain.all.items.push_back(
        {fmt::format("face {} of {} made anew between its neighbours", number, part.name), true, {}, 0.0});
    return std::move(chain.all);
}

}  // namespace

Result<Change> withoutOverruns(const Part& part, double upTo, double least, double targetSize, double exact,
                               Progress& progress) {
    Chain chain{part.copy(), {}};
    std::map<int, std::vector<gp_Pnt>> stubborn, stubbornLater;
    auto cut = cutBack(part, upTo, least, exact, stubborn, progress);
    if (!cut) return cut;
    std::vector<TopoDS_Face> old;
    for (const auto& [face, bounds] : stubborn) old.push_back(part.incidence().face(face));
    if (!cut->shape.IsNull()) {
        chain.take(std::move(cut));
        for (int side = 0; side < 4; ++side) {  // each pass cuts a face at one of its sides
            auto more = cutBack(*chain.part, upTo, least, exact, stubbornLater, progress);
            if (!more || more->shape.IsNull()) break;
            chain.take(std::move(more));
        }
        const int done = chain.all.done;
        chain.take(stitched(*chain.part, {upTo, exact, {}, {}}, progress));
        chain.all.done = done;
    } else {
        chain.all.items = std::move(cut->items);
    }
    std::size_t next = 0;
    for (const auto& [face, bounds] : stubborn) {
        auto anew = madeAnew(*chain.part, old[next++], bounds, upTo, targetSize, exact, progress);
        if (!anew) continue;  // why it could not be cut is told already
        std::erase_if(chain.all.items, [f = face](const Item& item) {
            return !item.done && item.problem.where.faces == std::vector<int>{f};
        });
        const int done = chain.all.done;
        chain.take(std::move(anew));
        chain.all.done = done + 1;
    }
    return std::move(chain.all);
}

Result<Change> overrunsCut(const Part& part, double upTo, double least, double targetSize, double exact,
                           Progress& progress) {
    if (openEdges(part.incidence()) == 0) return Change{};
    const auto report = survey::findDefects(part, {targetSize, exact, 0.0}, false, progress);
    if (!report) return tl::unexpected(report.error());
    if (std::any_of(report->defects.begin(), report->defects.end(),
                    [](const survey::Defect& d) { return d.kind == survey::DefectKind::Rim; }))
        return Change{};
    return withoutOverruns(part, upTo, least, targetSize, exact, progress);
}

}  // namespace rasoir::mend
