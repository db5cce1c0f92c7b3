#include "mend/mend.h"

#include <BRepBuilderAPI_Copy.hxx>
#include <BRep_Builder.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_MapOfShape.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>
#include <TopoDS_Iterator.hxx>
#include <fmt/format.h>

#include <set>

#include "geometry/integrals.h"
#include "heal/removal.h"
#include "mend/merge.h"
#include "mend/patch.h"
#include "mend/stitch.h"
#include "mend/trim.h"
#include "model/places.h"

namespace rasoir::mend {
namespace {

/// What one action made of one part. A null shape: nothing was to be done.
struct Change {
    TopoDS_Shape shape;
    PartLineage lineage;
    std::vector<Item> items;
    int done = 0;
};

ParameterInfo partsInfo() { return {"parts", "list of names", "", "Parts, names or patterns; empty: every part in the work.", Json::array()}; }

double exactOf(const Model& model) { return std::max(1e-6, model.tolerances().samePoint); }

int openEdges(const Incidence& incidence) {
    int open = 0;
    for (int e = 1; e <= incidence.edgeCount(); ++e) open += incidence.facesAt(e) == 1 ? 1 : 0;
    return open;
}
int solidsIn(const TopoDS_Shape& shape) {
    int count = 0;
    for (TopExp_Explorer it(shape, TopAbs_SOLID); it.More(); it.Next()) ++count;
    return count;
}

/// "Watertight: 1 solid, volume 1 234.5 cm³", or how far from it.
std::string state(const TopoDS_Shape& shape) {
    const Incidence incidence(shape);
    const int open = openEdges(incidence), solids = solidsIn(shape);
    if (open == 0 && solids > 0) {
        return fmt::format("watertight: {}, volume {} cm³", counted(static_cast<std::size_t>(solids), "solid"), readable(1e-3 * volumeOf(shape)));
    }
    return fmt::format("{} left", counted(static_cast<std::size_t>(open), "open edge"));
}

/// Applies `action` to each wanted part; refuses when it did nothing anywhere.
template <class Action>
Result<Outcome> onParts(const Model& model, const std::vector<std::string>& names, const std::string& nothing, Progress& progress, Action action) {
    const auto chosen = partsNamed(model, names);
    if (!chosen) return tl::unexpected(chosen.error());
    Outcome outcome;
    outcome.model = model;
    std::optional<Problem> first;
    std::size_t changed = 0;
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        if (names.empty() ? model.isAside(p) : !std::binary_search(chosen->begin(), chosen->end(), p)) continue;
        if (model.parts[p]->shape.IsNull() || model.parts[p]->lump) continue;
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        Result<Change> change = action(p, *model.parts[p]);
        if (!change) {
            if (change.error().kind == ProblemKind::Cancelled) return tl::unexpected(change.error());
            if (change.error().where.part.empty()) change.error().where.part = model.parts[p]->name;
            if (!first) first = change.error();
            if (!names.empty()) outcome.items.push_back({model.parts[p]->name, false, change.error(), 0.0});
            continue;
        }
        outcome.items.insert(outcome.items.end(), change->items.begin(), change->items.end());
        if (change->shape.IsNull()) continue;
        change->lineage.part = p;
        outcome.model.parts[p] = model.parts[p]->withShape(change->shape, change->lineage);
        outcome.lineage.push_back(std::move(change->lineage));
        ++changed;
    }
    if (changed == 0) {
        if (first) return tl::unexpected(*first);
        for (const Item& item : outcome.items)
            if (!item.done) return tl::unexpected(item.problem);
        return fail(ProblemKind::NotPossible, nothing);
    }
    return outcome;
}

Item leftItem(const std::string& part, const NotStitched& left) {
    return {fmt::format("gap of {} mm between faces {} and {} of {}", readable(left.width), left.faceA, left.faceB, part), false,
            {ProblemKind::NotPossible, fmt::format("Faces {} and {} could not be joined: {}.", left.faceA, left.faceB, left.why), {part, {left.faceA, left.faceB}, left.where}, "Delete one of the faces and patch the opening, or lower the limit."}, left.width};
}

Result<Change> stitched(const Part& part, const StitchWanted& wanted, Progress& progress) {
    auto done = stitch(part.incidence(), part.shape, wanted, progress);
    if (!done) return tl::unexpected(done.error());
    Change change;
    change.shape = done->shape;
    change.lineage = std::move(done->lineage);
    change.done = static_cast<int>(done->joined);
    std::string told = fmt::format("{} of {} joined", counted(done->joined, "pair") , part.name);
    if (done->widest > wanted.exact) told += fmt::format(", up to {} mm apart", readable(done->widest));
    if (done->largestShift > wanted.exact) told += fmt::format("; largest shift {} mm", readable(done->largestShift));
    if (done->largestStep > wanted.exact) told += fmt::format("; a step of {} mm stays within the tolerance of an edge", readable(done->largestStep));
    told += "; " + state(change.shape);
    change.items.push_back({told, true, {}, done->widest});
    for (const NotStitched& left : done->left) change.items.push_back(leftItem(part.name, left));
    return change;
}

/// Puts faces together anew after some were left out or added. `numbers`: old number of each, 0 for new ones.
Change rebuilt(const Incidence& before, const std::vector<TopoDS_Face>& faces, const std::vector<int>& numbers) {
    Change change;
    const Bodies bodies = bodiesFrom(faces);
    change.shape = bodies.shape;
    TopTools_IndexedMapOfShape faceMap, edgeMap;
    TopExp::MapShapes(change.shape, TopAbs_FACE, faceMap);
    TopExp::MapShapes(change.shape, TopAbs_EDGE, edgeMap);
    std::vector<char> kept(static_cast<std::size_t>(before.faceCount()) + 1, false);
    for (std::size_t i = 0; i < faces.size(); ++i) {
        change.lineage.faces.push_back({numbers[i] == 0 ? Descent::Made : Descent::Kept, numbers[i], faceMap.FindIndex(faces[i])});
        kept[numbers[i]] = true;
    }
    for (int f = 1; f <= before.faceCount(); ++f)
        if (!kept[f]) change.lineage.faces.push_back({Descent::Gone, f, 0});
    for (int e = 1; e <= before.edgeCount(); ++e) {
        const int now = edgeMap.FindIndex(before.edge(e));
        change.lineage.edges.push_back({now > 0 ? Descent::Kept : Descent::Gone, e, now});
    }
    return change;
}

Result<Change> withoutFaces(const Part& part, const std::set<int>& dropped) {
    const Incidence& topology = part.incidence();
    std::vector<TopoDS_Face> faces;
    std::vector<int> numbers;
    for (int f = 1; f <= topology.faceCount(); ++f)
        if (!dropped.contains(f)) {
            faces.push_back(topology.face(f));
            numbers.push_back(f);
        }
    if (faces.empty()) return fail(ProblemKind::NotPossible, fmt::format("Nothing would be left of \"{}\".", part.name), "Set the part aside instead.", {part.name, {}, {}});
    return rebuilt(topology, faces, numbers);
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
        change.items.push_back({fmt::format("face {} of {} dropped, it lies on face {}", worse, part.name, defect.faces.front()), true, {}, defect.size});
    }
    if (dropped.empty()) return change;
    auto made = withoutFaces(part, dropped);
    if (!made) return made;
    made->items = std::move(change.items);
    made->done = static_cast<int>(dropped.size());
    return made;
}

bool isRim(const survey::DefectReport& report, const OpenLoop& loop) {
    for (const survey::Defect& defect : report.defects)
        if (defect.kind == survey::DefectKind::Rim && std::find(defect.edges.begin(), defect.edges.end(), loop.numbers.front()) != defect.edges.end()) return true;
    return false;
}

Result<Change> patched(const Part& part, const PatchOpenings& step, double targetSize, double exact, Progress& progress) {
    // New faces write their traces onto the edges: never onto those of the model as it is.
    const TopoDS_Shape copy = BRepBuilderAPI_Copy(part.shape, false).Shape();
    const Incidence topology(copy);
    const std::vector<OpenLoop> loops = openLoops(topology);
    if (loops.empty())
        return openEdges(topology) == 0 ? Result<Change>(Change{})
                                        : fail(ProblemKind::NotPossible, fmt::format("The open edges of \"{}\" do not form loops.", part.name), "Stitch its gaps first.", {part.name, {}, {}});
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
            if (std::any_of(loops[l].numbers.begin(), loops[l].numbers.end(), [&](int e) { return inGaps.contains(e); })) continue;
            if (!isRim(*report, loops[l])) wanted.push_back(l);
        }
        for (const survey::Defect& gap : report->defects)
            if (gap.kind == survey::DefectKind::Gap)
                change.items.push_back({fmt::format("gap of {} mm between faces {} and {} of {}", readable(gap.size), gap.faces[0], gap.faces[1], part.name), false,
                                        {ProblemKind::NotPossible, fmt::format("The gap between faces {} and {} is {} mm wide, more than the safe limit.", gap.faces[0], gap.faces[1], readable(gap.size)), {part.name, gap.faces, gap.where}, "Look at it, and stitch it if it is none of the design."}, gap.size});
    } else {
        for (const auto& at : step.at) {
            const gp_Pnt point(at[0], at[1], at[2]);
            // Of several about one middle, as a plate's outline and a hole in it, each point asked for takes another, the largest first.
            std::optional<std::size_t> nearest;
            const auto better = [&](std::size_t l) {
                const double own = loops[l].middle.Distance(point), best = loops[*nearest].middle.Distance(point), same = 1e-3 * loops[l].size;
                return own < best - same || (own < best + same && loops[l].length > loops[*nearest].length);
            };
            for (std::size_t l = 0; l < loops.size(); ++l)
                if (std::find(wanted.begin(), wanted.end(), l) == wanted.end() && loops[l].middle.Distance(point) <= 0.5 * loops[l].size && (!nearest || better(l))) nearest = l;
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
        change.items.push_back({fmt::format("opening {} mm across in {} closed by a {}{}", readable(loop.size), part.name, patchKindName(patch.kind), patch.deviation > exact ? fmt::format(", {} mm off at most", readable(patch.deviation)) : std::string()), true, {}, loop.size});
    }
    for (const std::size_t l : wanted)
        if (!closed.contains(l)) {
            Place where{part.name, {}, loops[l].middle};
            for (const int e : loops[l].numbers) where.faces.push_back(topology.usesOf(e).front().face);
            change.items.push_back({fmt::format("opening {} mm across in {}", readable(loops[l].size), part.name), false,
                                    {ProblemKind::NotPossible, fmt::format("No surface fits the opening {} mm across.", readable(loops[l].size)), where, "Delete a face beside it that ends oddly, and patch the larger opening."}, loops[l].size});
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
    if (bodies.turned > 0) told += fmt::format(", {} turned round", counted(static_cast<std::size_t>(bodies.turned), "face"));
    if (bodies.voids > 0) told += fmt::format(", {}", counted(static_cast<std::size_t>(bodies.voids), "void"));
    if (bodies.sheets + bodies.looseFaces > 0) told += fmt::format(", {} not closed", counted(static_cast<std::size_t>(bodies.sheets + bodies.looseFaces), "skin"));
    change.items.push_back({told, true, {}, 0.0});
    change.done = 1;
    return change;
}

Result<Change> withoutStray(const Part& part, double upTo, double targetSize, double exact, Progress& progress) {
    const auto report = survey::findDefects(part, {targetSize, exact, 0.0}, false, progress);
    if (!report) return tl::unexpected(report.error());
    std::set<int> dropped;
    Change change;
    for (const survey::Defect& defect : report->defects) {
        if (defect.kind != survey::DefectKind::StrayBody || (upTo > 0.0 && defect.size > upTo)) continue;
        dropped.insert(defect.faces.begin(), defect.faces.end());
        change.items.push_back({fmt::format("a body of {} in {} dropped, {} mm across", counted(defect.faces.size(), "face"), part.name, readable(defect.size)), true, {}, defect.size});
    }
    if (dropped.empty()) return change;
    auto made = withoutFaces(part, dropped);
    if (!made) return made;
    made->items = std::move(change.items);
    made->done = static_cast<int>(made->items.size());
    return made;
}

/// Carries on from what the last action made.
struct Chain {
    std::shared_ptr<const Part> part;
    Change all;

    /// Items of what an action left are kept, also where it did nothing else.
    void take(Result<Change> change) {
        if (!change) return;
        for (Item& item : change->items) all.items.push_back(std::move(item));
        if (change->shape.IsNull()) return;
        all.lineage = all.shape.IsNull() ? change->lineage : chained(all.lineage, change->lineage);
        all.shape = change->shape;
        all.done += change->done;
        part = part->withShape(change->shape, change->lineage);
    }
};

double safeLimitOf(const Part& part, double targetSize, double exact, Progress& progress) {
    const auto rims = survey::pairRims(part.incidence(), exact, exact, progress);
    return rims ? survey::safeGapLimit(*rims, targetSize).first : exact;
}

/// Cuts back what runs over. Faces that could not be cut are in `stubborn`, with a point of each boundary that is to bound the new one.
Result<Change> cutBack(const Part& part, double upTo, double exact, std::map<int, std::vector<gp_Pnt>>& stubborn, Progress& progress) {
    const Incidence& topology = part.incidence();
    const auto rims = survey::pairRims(topology, upTo, exact, progress);
    if (!rims) return tl::unexpected(rims.error());
    Change change;
    std::map<int, TopoDS_Face> fresh;
    for (const survey::Overrun& overrun : survey::findOverruns(topology, *rims, std::max(upTo, exact))) {
        if (fresh.contains(overrun.face)) continue;
        const auto made = trimmed(topology, *rims, overrun, std::max(upTo, 2.0 * exact));
        const std::string what = overrun.over > 0 ? fmt::format("face {} of {}, partly over face {}", overrun.face, part.name, overrun.over) : fmt::format("face {} of {}", overrun.face, part.name);
        if (!made) {
            change.items.push_back({what, false, made.error(), overrun.past});
            auto& bounds = stubborn[overrun.face];
            const auto middle = [&](int p) { return rims->probes[static_cast<std::size_t>(rims->pieces[static_cast<std::size_t>(p)].edge)]->value(0.5 * (rims->pieces[static_cast<std::size_t>(p)].first + rims->pieces[static_cast<std::size_t>(p)].last)); };
            for (const survey::Stop& stop : overrun.stops)
                if (stop.piece >= 0) bounds.push_back(middle(stop.piece));
            for (std::size_t p = 0; p < rims->pieces.size(); ++p)
                if (rims->pieces[p].face == overrun.face && rims->pieces[p].partner >= 0) bounds.push_back(middle(static_cast<int>(p)));
            for (const int e : topology.edgesOf(overrun.face))
                if (topology.facesAt(e) > 1 && topology.usesOf(e).front().face != topology.usesOf(e).back().face) {
                    const EdgeProbe shared(topology.edge(e));
                    bounds.push_back(shared.value(0.5 * (shared.first() + shared.last())));
                }
            continue;
        }
        fresh.emplace(overrun.face, *made);
        change.items.push_back({fmt::format("{} cut back by up to {} mm", what, readable(overrun.past)), true, {}, overrun.past});
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
    for (Link& link : made.lineage.faces)
        if (fresh.contains(link.before)) link.descent = Descent::Changed;
    made.items = std::move(change.items);
    made.done = change.done;
    return made;
}

/// Takes a face out and patches the openings that pass through the given points; all of them, or nothing.
Result<Change> madeAnew(const Part& part, const TopoDS_Face& face, const std::vector<gp_Pnt>& bounds, double upTo, double targetSize, double exact, Progress& progress) {
    const int number = part.incidence().faceNumber(face);
    if (number == 0) return fail(ProblemKind::NotPossible, "The face has changed meanwhile.");
    Chain chain{part.copy(), {}};
    auto out = withoutFaces(part, {number});
    if (!out) return out;
    chain.take(std::move(out));
    chain.take(stitched(*chain.part, {upTo, exact, {}, {}}, progress));
    PatchOpenings step;
    for (const OpenLoop& loop : openLoops(chain.part->incidence())) {
        const auto passes = [&](const gp_Pnt& point) { return std::any_of(loop.edges.begin(), loop.edges.end(), [&](const TopoDS_Edge& edge) { return EdgeProbe(edge).nearest(point).distance <= std::max(upTo, 10.0 * exact); }); };
        if (std::any_of(bounds.begin(), bounds.end(), passes)) step.at.push_back({loop.middle.X(), loop.middle.Y(), loop.middle.Z()});
    }
    if (step.at.empty()) return fail(ProblemKind::NotPossible, "Without the face no opening is left to be patched.");
    const int before = openEdges(chain.part->incidence());
    auto patch = patched(*chain.part, step, targetSize, exact, progress);
    if (!patch) return patch;
    if (patch->shape.IsNull() || openEdges(Incidence(patch->shape)) >= before || patch->done < static_cast<int>(step.at.size())) return fail(ProblemKind::NotPossible, "No face fits where it was.");
    chain.take(std::move(patch));
    chain.all.items.clear();
    chain.all.items.push_back({fmt::format("face {} of {} made anew between its neighbours", number, part.name), true, {}, 0.0});
    return std::move(chain.all);
}

Result<Change> withoutOverruns(const Part& part, double upTo, double targetSize, double exact, Progress& progress) {
    Chain chain{part.copy(), {}};
    std::map<int, std::vector<gp_Pnt>> stubborn, stubbornLater;
    auto cut = cutBack(part, upTo, exact, stubborn, progress);
    if (!cut) return cut;
    std::vector<TopoDS_Face> old;
    for (const auto& [face, bounds] : stubborn) old.push_back(part.incidence().face(face));
    if (!cut->shape.IsNull()) {
        chain.take(std::move(cut));
        for (int side = 0; side < 4; ++side) {   // each pass cuts a face at one of its sides
            auto more = cutBack(*chain.part, upTo, exact, stubbornLater, progress);
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
        if (!anew) continue;   // why it could not be cut is told already
        std::erase_if(chain.all.items, [f = face](const Item& item) { return !item.done && item.problem.where.faces == std::vector<int>{f}; });
        const int done = chain.all.done;
        chain.take(std::move(anew));
        chain.all.done = done + 1;
    }
    return std::move(chain.all);
}

/// The same of all but sheets, where a face that reaches past a rib is a flange, not a mistake.
Result<Change> overrunsCut(const Part& part, double upTo, double targetSize, double exact, Progress& progress) {
    if (openEdges(part.incidence()) == 0) return Change{};
    const auto report = survey::findDefects(part, {targetSize, exact, 0.0}, false, progress);
    if (!report) return tl::unexpected(report.error());
    if (std::any_of(report->defects.begin(), report->defects.end(), [](const survey::Defect& d) { return d.kind == survey::DefectKind::Rim; })) return Change{};
    return withoutOverruns(part, upTo, targetSize, exact, progress);
}

/// Slivers out, what lies beside them joined; their short ends shrink to a point. `upTo` [mm]: the widest, as area over half the outline.
Result<Change> absorbed(const Part& part, const std::set<int>& slivers, double upTo, double exact, Progress& progress) {
    Chain chain{part.copy(), {}};
    const Incidence& topology = part.incidence();
    std::set<int> around;
    for (const int f : slivers)
        for (const int g : topology.neighboursOf(f))
            if (!slivers.contains(g)) around.insert(g);
    std::vector<TopoDS_Edge> shrinking;
    for (const int f : slivers)
        for (const int e : topology.edgesOf(f))
            if (!BRep_Tool::Degenerated(topology.edge(e)) && EdgeProbe(topology.edge(e)).length() <= 3.0 * upTo) shrinking.push_back(topology.edge(e));
    auto out = withoutFaces(part, slivers);
    if (!out) return out;
    chain.take(std::move(out));
    const Incidence& opened = chain.part->incidence();
    StitchWanted wanted{3.0 * upTo, exact, {}, {}};   // the mean width of a wedge is half its widest
    for (const TopoDS_Edge& edge : shrinking)
        if (const int e = opened.edgeNumber(edge); e > 0) wanted.collapsed.insert(e);
    // Only what the slivers lay between.
    std::set<int> now;
    for (const int f : around) now.insert(opened.faceNumber(topology.face(f)));
    for (const int a : now)
        for (const int b : now)
            if (a < b) wanted.only.emplace_back(a, b);
    if (wanted.only.empty()) return fail(ProblemKind::NotPossible, "Nothing lies beside the sliver that could take its place.");
    auto joined = stitch(opened, chain.part->shape, wanted, progress);
    if (!joined) return tl::unexpected(joined.error());
    Change change;
    change.shape = joined->shape;
    change.lineage = std::move(joined->lineage);
    const double shift = joined->largestShift;
    chain.take(std::move(change));
    if (solidsIn(chain.part->shape) < solidsIn(part.shape) || openEdges(chain.part->incidence()) > openEdges(topology)) return fail(ProblemKind::NotPossible, "Its neighbours do not meet where it was.", "Remove it together with a face beside it.");
    chain.all.items.clear();
    for (const int f : slivers) chain.all.items.push_back({fmt::format("face {} of {} given to its neighbours, boundaries moved by {} mm at most", f, part.name, readable(std::max(shift, 0.0))), true, {}, upTo});
    chain.all.done = static_cast<int>(slivers.size());
    return std::move(chain.all);
}

/// Slivers of a closed body out, the faces beside them carried on until they meet; those that do not go stay, without a word.
Result<Change> healedOver(const Part& part, const std::map<int, double>& slivers, double exact, Progress& progress) {
    Change change;
    if (openEdges(part.incidence()) > 0 || solidsIn(part.shape) == 0) return change;
    std::vector<heal::Wanted> wanted;
    for (const auto& [face, width] : slivers) {
        const Skin skin = skinOf(part.incidence().face(face));
        wanted.push_back({fmt::format("Face {}", face), {face}, {}, skin.centre, skin.area * width, 0, 0});
    }
    auto done = heal::removeFaces(part, wanted, exact, progress);
    if (!done) return tl::unexpected(done.error());
    if (done->shape.IsNull()) return change;
    std::size_t next = 0;
    for (const auto& [face, width] : slivers)
        if (done->items[next++]) {
            change.items.push_back({fmt::format("face {} of {}, {} mm wide, gone: its neighbours meet exactly", face, part.name, readable(width)), true, {}, width});
            ++change.done;
        }
    change.shape = done->shape;
    change.lineage = std::move(done->lineage);
    return change;
}

Result<Change> withoutSlivers(const Part& part, double upTo, double targetSize, double exact, Progress& progress) {
    survey::DefectLimits limits{std::max(targetSize, 50.0 * upTo), exact, 0.0};
    const auto report = survey::findDefects(part, limits, false, progress);
    if (!report) return tl::unexpected(report.error());
    std::map<int, double> slivers;
    for (const survey::Defect& defect : report->defects)
        if (defect.kind == survey::DefectKind::Sliver && defect.size <= upTo) slivers.emplace(defect.faces.front(), defect.size);
    Change nothing;
    if (slivers.empty()) return nothing;
    std::set<int> all;
    double widest = 0.0;
    for (const auto& [face, width] : slivers) {
        all.insert(face);
        widest = std::max(widest, width);
    }
    // First exactly, as any face is removed: the neighbours carried on until they meet. What does not go that way is closed by a shift.
    if (auto exactly = healedOver(part, slivers, exact, progress); exactly && !exactly->shape.IsNull()) {
        if (static_cast<std::size_t>(exactly->done) == all.size()) return exactly;
        Chain chain{part.copy(), {}};
        chain.take(std::move(exactly));
        if (auto rest = withoutSlivers(*chain.part, upTo, targetSize, exact, progress); rest) chain.take(std::move(rest));
        else if (rest.error().kind == ProblemKind::Cancelled) return rest;
        else chain.all.items.push_back({part.name, false, rest.error(), widest});
        return std::move(chain.all);
    }
    // All at once; where that does not close, one after another, so that one stubborn face keeps none of the others.
    auto together = absorbed(part, all, widest, exact, progress);
    if (together || all.size() == 1) {
        if (!together) {
            together.error().what = fmt::format("Face {} of \"{}\" stays: {}", *all.begin(), part.name, together.error().what);
            together.error().where = {part.name, {*all.begin()}, {}};
        }
        return together;
    }
    Chain chain{part.copy(), {}};
    std::vector<TopoDS_Face> shapes;
    for (const int f : all) shapes.push_back(part.incidence().face(f));
    for (const TopoDS_Face& face : shapes) {
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        const int now = chain.part->incidence().faceNumber(face), before = part.incidence().faceNumber(face);
        if (now == 0) continue;   // changed with one beside it
        auto one = absorbed(*chain.part, {now}, slivers.at(before), exact, progress);
        if (one) chain.take(std::move(one));
        else chain.all.items.push_back({fmt::format("face {} of {}", before, part.name), false, {one.error().kind, one.error().what, {part.name, {before}, {}}, one.error().remedy}, slivers.at(before)});
    }
    return std::move(chain.all);
}

Result<Change> withoutTinyEdges(const Part& part, double upTo, double exact, Progress& progress) {
    const Incidence& topology = part.incidence();
    StitchWanted wanted{exact, exact, {{-1, -1}}, {}};   // joins nothing
    double longest = 0.0;
    for (int e = 1; e <= topology.edgeCount(); ++e) {
        const TopoDS_Edge edge = topology.edge(e);
        if (BRep_Tool::Degenerated(edge) || TopExp::FirstVertex(edge).IsSame(TopExp::LastVertex(edge))) continue;
        if (const double length = EdgeProbe(edge).length(); length <= upTo) {
            wanted.collapsed.insert(e);
            longest = std::max(longest, length);
        }
    }
    if (wanted.collapsed.empty()) return Change{};
    auto done = stitch(topology, part.shape, wanted, progress);
    if (!done) return tl::unexpected(done.error());
    Change change;
    change.shape = done->shape;
    change.lineage = std::move(done->lineage);
    change.done = static_cast<int>(done->collapsed);
    change.items.push_back({fmt::format("{} of {}, up to {} mm long, shrunk to points", counted(done->collapsed, "edge"), part.name, readable(longest)), true, {}, longest});
    for (const NotStitched& left : done->left) change.items.push_back({fmt::format("edge of {} mm at face {} of {}", readable(left.width), left.faceA, part.name), false, {ProblemKind::NotPossible, fmt::format("An edge {} mm long stays: {}.", readable(left.width), left.why), {part.name, {left.faceA}, left.where}, "Delete the face beside it and patch the opening."}, left.width});
    if (change.shape.IsNull() || solidsIn(change.shape) < solidsIn(part.shape) || openEdges(Incidence(change.shape)) > openEdges(topology))
        return fail(ProblemKind::NotPossible, fmt::format("\"{}\" would come open, or nothing would be left of it.", part.name), "Lower the length.", {part.name, {}, {}});
    const std::array<double, 2> volume{volumeOf(part.shape), volumeOf(change.shape)};
    if (solidsIn(part.shape) > 0 && std::abs(volume[1] - volume[0]) > 0.5 * longest * areaOf(part.shape))
        return fail(ProblemKind::NotPossible, fmt::format("\"{}\" would lose its form: its volume would change from {} to {} cm³.", part.name, readable(1e-3 * volume[0]), readable(1e-3 * volume[1])), "Lower the length.", {part.name, {}, {}});
    return change;
}

Result<Change> mergedFaces(const Part& part, double exact, Progress& progress) {
    auto merged = mergeNeedless(part.shape, exact, progress);
    if (!merged) return tl::unexpected(merged.error());
    Change change;
    for (const NotMerged& left : merged->left)
        change.items.push_back({fmt::format("{} of one surface in {}", counted(left.faces.size(), "face"), part.name), false,
                                {ProblemKind::NotPossible, fmt::format("{} of one surface did not become one sound face.", counted(left.faces.size(), "face")), {part.name, left.faces, left.where}, "They do no harm but for the edges between them."}, 0.0});
    if (merged->shape.IsNull()) return change;
    change.shape = merged->shape;
    change.lineage = std::move(merged->lineage);
    change.done = merged->edges + merged->vertices;
    change.items.insert(change.items.begin(), Item{fmt::format("{} and {} of {} merged away", counted(static_cast<std::size_t>(merged->edges), "edge"), counted(static_cast<std::size_t>(merged->vertices), "vertex", "vertices"), part.name), true, {}, 0.0});
    return change;
}

Json refPairs(const std::vector<std::pair<FaceRef, FaceRef>>& pairs) {
    Json json = Json::array();
    for (const auto& [a, b] : pairs) json.push_back(Json::array({a, b}));
    return json;
}
std::vector<std::pair<FaceRef, FaceRef>> pairsFrom(const Json& json, const char* key) {
    std::vector<std::pair<FaceRef, FaceRef>> pairs;
    for (const Json& one : json.value(key, Json::array())) pairs.emplace_back(one.at(0).get<FaceRef>(), one.at(1).get<FaceRef>());
    return pairs;
}
Result<std::map<std::size_t, std::vector<std::pair<int, int>>>> foundPairs(const Model& model, const std::vector<std::pair<FaceRef, FaceRef>>& pairs) {
    std::map<std::size_t, std::vector<std::pair<int, int>>> found;
    for (const auto& [a, b] : pairs) {
        const auto one = findFace(model, a), two = findFace(model, b);
        if (!one) return tl::unexpected(one.error());
        if (!two) return tl::unexpected(two.error());
        if (one->part != two->part) return fail(ProblemKind::NotPossible, "A gap lies between two faces of one part.", "Join the parts into one first.", {a.part, {one->face}, {}});
        found[one->part].emplace_back(std::min(one->face, two->face), std::max(one->face, two->face));
    }
    return found;
}

}  // namespace

std::vector<ParameterInfo> Stitch::infos() {
    return {partsInfo(),
            {"upTo", "number", "mm", "The widest gap that is closed; 0: the safe limit of each part.", 0.0},
            {"only", "list of pairs of face references", "", "Only the gaps between these faces; empty: all.", Json::array()},
            {"kept", "list of pairs of face references", "", "Gaps between these faces stay open.", Json::array()}};
}
void to_json(Json& json, const Stitch& step) { json = Json{{"parts", step.parts}, {"upTo", step.upTo}, {"only", refPairs(step.only)}, {"kept", refPairs(step.kept)}}; }
void from_json(const Json& json, Stitch& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
    step.upTo = json.value("upTo", 0.0);
    step.only = pairsFrom(json, "only");
    step.kept = pairsFrom(json, "kept");
}

Result<Outcome> stitchGaps(const Model& model, const Stitch& step, Progress& progress) {
    if (!(step.upTo >= 0.0) || !std::isfinite(step.upTo)) return fail(ProblemKind::BadInput, "The widest gap must be a positive length.");
    const auto only = foundPairs(model, step.only), kept = foundPairs(model, step.kept);
    if (!only) return tl::unexpected(only.error());
    if (!kept) return tl::unexpected(kept.error());
    const double exact = exactOf(model);
    std::size_t joined = 0;
    auto outcome = onParts(model, step.parts, "There are no open edges here.", progress, [&](std::size_t p, const Part& part) -> Result<Change> {
        if (!step.only.empty() && !only->contains(p)) return Change{};
        const Incidence& topology = part.incidence();
        if (openEdges(topology) == 0) return Change{};
        StitchWanted wanted{step.upTo, exact, {}, {}};
        if (step.upTo == 0.0) {
            const auto rims = survey::pairRims(topology, exact, exact, progress);
            if (!rims) return tl::unexpected(rims.error());
            wanted.upTo = survey::safeGapLimit(*rims, model.targetSize).first;
        }
        if (only->contains(p)) wanted.only = only->at(p);
        if (kept->contains(p)) wanted.kept = kept->at(p);
        auto change = stitched(part, wanted, progress);
        if (change) joined += static_cast<std::size_t>(change->done);
        return change;
    });
    if (outcome) outcome->summary = fmt::format("Stitch {}{}", counted(joined, "pair of edges", "pairs of edges"), step.upTo > 0.0 ? fmt::format(" up to {} mm apart", readable(step.upTo)) : std::string());
    return outcome;
}

std::vector<ParameterInfo> PatchOpenings::infos() {
    return {partsInfo(),
            {"at", "list of points", "mm", "Middles of the openings meant, in the part's coordinates; empty: all but the rims of sheets.", Json::array()},
            {"tangent", "switch", "", "Smooth fillings run on from their neighbours.", true}};
}
void to_json(Json& json, const PatchOpenings& step) { json = Json{{"parts", step.parts}, {"at", step.at}, {"tangent", step.tangent}}; }
void from_json(const Json& json, PatchOpenings& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
    step.at = json.value("at", std::vector<std::array<double, 3>>{});
    step.tangent = json.value("tangent", true);
}

Result<Outcome> patchOpenings(const Model& model, const PatchOpenings& step, Progress& progress) {
    for (const auto& at : step.at)
        for (const double c : at)
            if (!std::isfinite(c)) return fail(ProblemKind::BadInput, "A point is not finite.");
    std::size_t closed = 0;
    auto outcome = onParts(model, step.parts, "There is no opening to patch here.", progress, [&](std::size_t, const Part& part) {
        auto change = patched(part, step, model.targetSize, exactOf(model), progress);
        if (change) closed += static_cast<std::size_t>(change->done);
        return change;
    });
    if (outcome) outcome->summary = fmt::format("Patch {}", counted(closed, "opening"));
    return outcome;
}

std::vector<ParameterInfo> LeaveOpen::infos() {
    return {partsInfo(), {"at", "list of points", "mm", "Middles of the openings meant, in the part's coordinates; empty: every opening.", Json::array()}};
}
void to_json(Json& json, const LeaveOpen& step) { json = Json{{"parts", step.parts}, {"at", step.at}}; }
void from_json(const Json& json, LeaveOpen& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
    step.at = json.value("at", std::vector<std::array<double, 3>>{});
}

Result<Outcome> leaveOpen(const Model& model, const LeaveOpen& step, Progress& progress) {
    const auto chosen = partsNamed(model, step.parts);
    if (!chosen) return tl::unexpected(chosen.error());
    Outcome outcome;
    outcome.model = model;
    std::set<std::size_t> served;
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        if (step.parts.empty() ? model.isAside(p) : !std::binary_search(chosen->begin(), chosen->end(), p)) continue;
        if (model.parts[p]->shape.IsNull() || model.parts[p]->lump) continue;
        const auto report = survey::findDefects(*model.parts[p], {model.targetSize, exactOf(model), 0.0}, false, progress);
        if (!report) return tl::unexpected(report.error());
        const auto declared = model.parts[p]->copy();
        for (const survey::Defect& defect : report->defects) {
            if (defect.kind != survey::DefectKind::Opening) continue;
            const auto meant = std::find_if(step.at.begin(), step.at.end(), [&](const auto& at) { return gp_Pnt(at[0], at[1], at[2]).Distance(defect.where) <= 0.02 * defect.size; });
            if (!step.at.empty() && meant == step.at.end()) continue;
            if (meant != step.at.end()) served.insert(static_cast<std::size_t>(meant - step.at.begin()));
            declared->meantOpen.push_back(defect.where);
            outcome.items.push_back({fmt::format("opening {} mm across in {} stays open", readable(defect.size), declared->name), true, {}, defect.size});
        }
        if (declared->meantOpen.size() > model.parts[p]->meantOpen.size()) outcome.model.parts[p] = declared;
    }
    for (std::size_t i = 0; i < step.at.size(); ++i)
        if (!served.contains(i)) {
            const gp_Pnt at(step.at[i][0], step.at[i][1], step.at[i][2]);
            const std::string place = fmt::format("{}, {}, {}", readable(at.X()), readable(at.Y()), readable(at.Z()));
            outcome.items.push_back({"opening at " + place, false, {ProblemKind::NotPossible, fmt::format("There is no opening with its middle at {}.", place), {{}, {}, at}, "Choose the openings anew."}, 0.0});
        }
    std::size_t done = 0;
    for (const Item& item : outcome.items) done += item.done;
    if (done == 0) return fail(ProblemKind::NotPossible, "There is no opening that could be meant.");
    outcome.summary = fmt::format("Leave {} open", counted(done, "opening"));
    return outcome;
}

std::vector<ParameterInfo> DropDoubles::infos() { return {partsInfo()}; }
void to_json(Json& json, const DropDoubles& step) { json = Json{{"parts", step.parts}}; }
void from_json(const Json& json, DropDoubles& step) { step.parts = json.value("parts", std::vector<std::string>{}); }

Result<Outcome> dropDoubles(const Model& model, const DropDoubles& step, Progress& progress) {
    std::size_t dropped = 0;
    auto outcome = onParts(model, step.parts, "No face lies on another.", progress, [&](std::size_t, const Part& part) {
        auto change = withoutDoubles(part, model.targetSize, exactOf(model), progress);
        if (change) dropped += static_cast<std::size_t>(change->done);
        return change;
    });
    if (outcome) outcome->summary = fmt::format("Drop {}", counted(dropped, "doubled face"));
    return outcome;
}

std::vector<ParameterInfo> MergeFaces::infos() { return {partsInfo()}; }
void to_json(Json& json, const MergeFaces& step) { json = Json{{"parts", step.parts}}; }
void from_json(const Json& json, MergeFaces& step) { step.parts = json.value("parts", std::vector<std::string>{}); }

Result<Outcome> mergeFaces(const Model& model, const MergeFaces& step, Progress& progress) {
    std::size_t gone = 0;
    auto outcome = onParts(model, step.parts, "No edge divides one surface, no vertex one curve.", progress, [&](std::size_t, const Part& part) {
        auto change = mergedFaces(part, exactOf(model), progress);
        if (change) gone += static_cast<std::size_t>(change->done);
        return change;
    });
    if (outcome) outcome->summary = fmt::format("Merge {} away", counted(gone, "needless edge or vertex", "needless edges and vertices"));
    return outcome;
}

std::vector<ParameterInfo> MakeSolids::infos() { return {partsInfo()}; }
void to_json(Json& json, const MakeSolids& step) { json = Json{{"parts", step.parts}}; }
void from_json(const Json& json, MakeSolids& step) { step.parts = json.value("parts", std::vector<std::string>{}); }

Result<Outcome> makeSolids(const Model& model, const MakeSolids& step, Progress& progress) {
    auto outcome = onParts(model, step.parts, "There is nothing to turn round and nothing closed that is not a solid.", progress, [&](std::size_t, const Part& part) { return solidsOf(part); });
    if (outcome) outcome->summary = fmt::format("Make solids of {}", counted(outcome->lineage.size(), "part"));
    return outcome;
}

std::vector<ParameterInfo> DeleteFaces::infos() { return {{"faces", "list of face references", "", "The faces to take out.", Json::array()}}; }
void to_json(Json& json, const DeleteFaces& step) { json = Json{{"faces", step.faces}}; }
void from_json(const Json& json, DeleteFaces& step) { step.faces = json.at("faces").get<std::vector<FaceRef>>(); }

Result<Outcome> deleteFaces(const Model& model, const DeleteFaces& step, Progress& progress) {
    if (step.faces.empty()) return fail(ProblemKind::BadInput, "No faces were named.", "Pick the faces to delete.");
    std::map<std::size_t, std::set<int>> dropped;
    for (const FaceRef& reference : step.faces) {
        const auto found = findFace(model, reference);
        if (!found) return tl::unexpected(found.error());
        dropped[found->part].insert(found->face);
    }
    auto outcome = onParts(model, {}, "There is nothing to delete.", progress, [&](std::size_t p, const Part& part) -> Result<Change> {
        if (!dropped.contains(p)) return Change{};
        auto change = withoutFaces(part, dropped.at(p));
        if (change) change->items.push_back({fmt::format("{} of {} deleted", counted(dropped.at(p).size(), "face"), part.name), true, {}, 0.0});
        return change;
    });
    if (outcome) outcome->summary = fmt::format("Delete {}", counted(step.faces.size(), "face"));
    return outcome;
}

std::vector<ParameterInfo> DropStray::infos() { return {partsInfo(), {"upTo", "number", "mm", "Only bodies no longer than this; 0: all that are stray.", 0.0}}; }
void to_json(Json& json, const DropStray& step) { json = Json{{"parts", step.parts}, {"upTo", step.upTo}}; }
void from_json(const Json& json, DropStray& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
    step.upTo = json.value("upTo", 0.0);
}

Result<Outcome> dropStray(const Model& model, const DropStray& step, Progress& progress) {
    if (!(step.upTo >= 0.0) || !std::isfinite(step.upTo)) return fail(ProblemKind::BadInput, "The longest side must be a positive length.");
    std::size_t dropped = 0;
    auto outcome = onParts(model, step.parts, "There are no stray bodies.", progress, [&](std::size_t, const Part& part) {
        auto change = withoutStray(part, step.upTo, model.targetSize, exactOf(model), progress);
        if (change) dropped += static_cast<std::size_t>(change->done);
        return change;
    });
    if (outcome) outcome->summary = fmt::format("Drop {}", counted(dropped, "stray body", "stray bodies"));
    return outcome;
}

std::vector<ParameterInfo> TrimOverlong::infos() { return {partsInfo(), {"upTo", "number", "mm", "Farther than this off its surface, a boundary is not on a face; 0: the safe limit of each part.", 0.0}}; }
void to_json(Json& json, const TrimOverlong& step) { json = Json{{"parts", step.parts}, {"upTo", step.upTo}}; }
void from_json(const Json& json, TrimOverlong& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
    step.upTo = json.value("upTo", 0.0);
}

Result<Outcome> trimOverlong(const Model& model, const TrimOverlong& step, Progress& progress) {
    if (!(step.upTo >= 0.0) || !std::isfinite(step.upTo)) return fail(ProblemKind::BadInput, "The distance must be a positive length.");
    const double exact = exactOf(model);
    std::size_t cut = 0;
    auto outcome = onParts(model, step.parts, "No face runs over its neighbours.", progress, [&](std::size_t, const Part& part) {
        auto change = withoutOverruns(part, step.upTo > 0.0 ? step.upTo : safeLimitOf(part, model.targetSize, exact, progress), model.targetSize, exact, progress);
        if (change) cut += static_cast<std::size_t>(change->done);
        return change;
    });
    if (outcome) outcome->summary = fmt::format("Cut back {}", counted(cut, "face"));
    return outcome;
}

std::vector<ParameterInfo> AbsorbSlivers::infos() { return {partsInfo(), {"upTo", "number", "mm", "The widest face that goes; 0: a fiftieth of the target size.", 0.0}}; }
void to_json(Json& json, const AbsorbSlivers& step) { json = Json{{"parts", step.parts}, {"upTo", step.upTo}}; }
void from_json(const Json& json, AbsorbSlivers& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
    step.upTo = json.value("upTo", 0.0);
}

Result<Outcome> absorbSlivers(const Model& model, const AbsorbSlivers& step, Progress& progress) {
    if (!(step.upTo >= 0.0) || !std::isfinite(step.upTo)) return fail(ProblemKind::BadInput, "The width must be a positive length.");
    std::size_t gone = 0;
    auto outcome = onParts(model, step.parts, "No face is that thin.", progress, [&](std::size_t, const Part& part) {
        auto change = withoutSlivers(part, step.upTo > 0.0 ? step.upTo : 0.02 * model.targetSize, model.targetSize, exactOf(model), progress);
        if (change) gone += static_cast<std::size_t>(change->done);
        return change;
    });
    if (outcome) outcome->summary = fmt::format("Absorb {}", counted(gone, "sliver"));
    return outcome;
}

std::vector<ParameterInfo> CollapseTiny::infos() { return {partsInfo(), {"upTo", "number", "mm", "The longest edge that goes; 0: a fiftieth of the target size.", 0.0}}; }
void to_json(Json& json, const CollapseTiny& step) { json = Json{{"parts", step.parts}, {"upTo", step.upTo}}; }
void from_json(const Json& json, CollapseTiny& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
    step.upTo = json.value("upTo", 0.0);
}

Result<Outcome> collapseTiny(const Model& model, const CollapseTiny& step, Progress& progress) {
    if (!(step.upTo >= 0.0) || !std::isfinite(step.upTo)) return fail(ProblemKind::BadInput, "The length must be a positive length.");
    std::size_t gone = 0;
    auto outcome = onParts(model, step.parts, "No edge is that short.", progress, [&](std::size_t, const Part& part) {
        auto change = withoutTinyEdges(part, step.upTo > 0.0 ? step.upTo : 0.02 * model.targetSize, exactOf(model), progress);
        if (change) gone += static_cast<std::size_t>(change->done);
        return change;
    });
    if (outcome) outcome->summary = fmt::format("Collapse {}", counted(gone, "tiny edge"));
    return outcome;
}

std::vector<ParameterInfo> MendSafe::infos() { return {partsInfo()}; }
void to_json(Json& json, const MendSafe& step) { json = Json{{"parts", step.parts}}; }
void from_json(const Json& json, MendSafe& step) { step.parts = json.value("parts", std::vector<std::string>{}); }

Result<Outcome> mendSafe(const Model& model, const MendSafe& step, Progress& progress) {
    const double exact = exactOf(model);
    auto outcome = onParts(model, step.parts, "There is nothing to mend: no open edges, no doubled faces, nothing turned round.", progress, [&](std::size_t, const Part& part) -> Result<Change> {
        Chain chain{part.copy(), {}};
        chain.take(withoutDoubles(*chain.part, model.targetSize, exact, progress));
        if (openEdges(chain.part->incidence()) > 0) {
            // What coincides first: then the shortest edge is a feature's, not a remnant's.
            chain.take(stitched(*chain.part, {exact, exact, {}, {}}, progress));
            // Then what runs over exactly, before wider joining takes the ends of two such faces for the two sides of a gap.
            if (auto cut = overrunsCut(*chain.part, exact, model.targetSize, exact, progress); !cut) return cut;
            else chain.take(std::move(cut));
            if (openEdges(chain.part->incidence()) > 0) {
                const double safe = safeLimitOf(*chain.part, model.targetSize, exact, progress);
                chain.take(stitched(*chain.part, {safe, exact, {}, {}}, progress));
                if (auto cut = overrunsCut(*chain.part, safeLimitOf(*chain.part, model.targetSize, exact, progress), model.targetSize, exact, progress); !cut) return cut;
                else chain.take(std::move(cut));
            }
            if (openEdges(chain.part->incidence()) > 0) chain.take(patched(*chain.part, {}, model.targetSize, exact, progress));
        }
        chain.take(solidsOf(*chain.part));
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        if (chain.all.done == 0) chain.all.shape.Nullify();
        if (!chain.all.shape.IsNull()) chain.all.items.insert(chain.all.items.begin(), Item{part.name + ": " + state(chain.all.shape), true, {}, 0.0});
        return chain.all;
    });
    if (outcome) outcome->summary = fmt::format("Mend what is safe in {}", counted(outcome->lineage.size(), "part"));
    return outcome;
}

}  // namespace rasoir::mend
