#include "mend/small.h"

#include <fmt/format.h>

#include <BRep_Tool.hxx>
#include <TopoDS.hxx>

#include "geometry/integrals.h"
#include "heal/removal.h"
#include "mend/merge.h"
#include "mend/stitch.h"
#include "model/on_purpose.h"
#include "survey/defects.h"

namespace rasoir::mend {
namespace {

/// Slivers of a closed body out, the faces beside them carried on until they meet; those that do not go stay, without a
/// word.
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
            change.items.push_back({fmt::format("face {} of {}, {} mm wide, gone: its neighbours meet exactly", face,
                                                part.name, readable(width)),
                                    true,
                                    {},
                                    width});
            ++change.done;
        }
    change.shape = done->shape;
    change.lineage = std::move(done->lineage);
    return change;
}

}  // namespace

Result<Change> absorbedFaces(const Part& part, const std::set<int>& slivers, double upTo, double exact,
                             Progress& progress) {
    Chain chain{part.copy(), {}};
    const Incidence& topology = part.incidence();
    std::set<int> around;
    for (const int f : slivers)
        for (const int g : topology.neighboursOf(f))
            if (!slivers.contains(g)) around.insert(g);
    std::vector<TopoDS_Edge> shrinking;
    for (const int f : slivers)
        for (const int e : topology.edgesOf(f))
            if (!BRep_Tool::Degenerated(topology.edge(e)) && EdgeProbe(topology.edge(e)).length() <= 3.0 * upTo)
                shrinking.push_back(topology.edge(e));
    auto out = withoutFaces(part, slivers);
    if (!out) return out;
    chain.take(std::move(out));
    const Incidence& opened = chain.part->incidence();
    StitchWanted wanted{3.0 * upTo, exact, {}, {}};  // the mean width of a wedge is half its widest
    for (const TopoDS_Edge& edge : shrinking)
        if (const int e = opened.edgeNumber(edge); e > 0) wanted.collapsed.insert(e);
    // Only what the slivers lay between.
    std::set<int> now;
    for (const int f : around) now.insert(opened.faceNumber(topology.face(f)));
    for (const int a : now)
        for (const int b : now)
            if (a < b) wanted.only.emplace_back(a, b);
    if (wanted.only.empty())
        return fail(ProblemKind::NotPossible, "Nothing lies beside the sliver that could take its place.");
    auto joined = stitch(opened, chain.part->shape, wanted, progress);
    if (!joined) return tl::unexpected(joined.error());
    Change change;
    change.shape = joined->shape;
    change.lineage = std::move(joined->lineage);
    const double shift = joined->largestShift;
    chain.take(std::move(change));
    if (solidsIn(chain.part->shape) < solidsIn(part.shape) || openEdges(chain.part->incidence()) > openEdges(topology))
        return fail(ProblemKind::NotPossible, "Its neighbours do not meet where it was.",
                    "Remove it together with a face beside it.");
    chain.all.items.clear();
    for (const int f : slivers)
        chain.all.items.push_back(
            {fmt::format("face {} of {} given to its neighbours, boundaries moved by {} mm at most", f, part.name,
                         readable(std::max(shift, 0.0))),
             true,
             {},
             upTo});
    chain.all.done = static_cast<int>(slivers.size());
    return std::move(chain.all);
}

Result<Change> withoutSlivers(const Part& part, double upTo, double targetSize, double exact, Progress& progress) {
    survey::DefectLimits limits{std::max(targetSize, 50.0 * upTo), exact, 0.0};
    const auto report = survey::findDefects(part, limits, false, progress);
    if (!report) return tl::unexpected(report.error());
    std::map<int, double> slivers;
    for (const survey::Defect& defect : report->defects)
        if (defect.kind == survey::DefectKind::Sliver && defect.size <= upTo)
            slivers.emplace(defect.faces.front(), defect.size);
    Change nothing;
    if (slivers.empty()) return nothing;
    std::set<int> all;
    double widest = 0.0;
    for (const auto& [face, width] : slivers) {
        all.insert(face);
        widest = std::max(widest, width);
    }
    // First exactly, as any face is removed: the neighbours carried on until they meet. What does not go that way is
    // closed by a shift.
    if (auto exactly = healedOver(part, slivers, exact, progress); exactly && !exactly->shape.IsNull()) {
        if (static_cast<std::size_t>(exactly->done) == all.size()) return exactly;
        Chain chain{part.copy(), {}};
        chain.take(std::move(exactly));
        if (auto rest = withoutSlivers(*chain.part, upTo, targetSize, exact, progress); rest)
            chain.take(std::move(rest));
        else if (rest.error().kind == ProblemKind::Cancelled)
            return rest;
        else
            chain.all.items.push_back({part.name, false, rest.error(), widest});
        return std::move(chain.all);
    }
    // All at once; where that does not close, one after another, so that one stubborn face keeps none of the others.
    auto together = absorbedFaces(part, all, widest, exact, progress);
    if (together || all.size() == 1) {
        if (!together) {
            together.error().what =
                fmt::format("Face {} of \"{}\" stays: {}", *all.begin(), part.name, together.error().what);
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
        if (now == 0) continue;  // changed with one beside it
        auto one = absorbedFaces(*chain.part, {now}, slivers.at(before), exact, progress);
        if (one)
            chain.take(std::move(one));
        else
            chain.all.items.push_back(
                {fmt::format("face {} of {}", before, part.name),
                 false,
                 {one.error().kind, one.error().what, {part.name, {before}, {}}, one.error().remedy},
                 slivers.at(before)});
    }
    return std::move(chain.all);
}

Result<Change> withoutTinyEdges(const Part& part, double upTo, double exact, Progress& progress) {
    const Incidence& topology = part.incidence();
    std::set<int> tiny;
    for (int e = 1; e <= topology.edgeCount(); ++e) {
        const TopoDS_Edge edge = topology.edge(e);
        if (BRep_Tool::Degenerated(edge) || TopExp::FirstVertex(edge).IsSame(TopExp::LastVertex(edge))) continue;
        if (EdgeProbe(edge).length() <= upTo) tiny.insert(e);
    }
    return collapsedEdges(part, tiny, exact, progress);
}

Result<Change> collapsedEdges(const Part& part, const std::set<int>& edges, double exact, Progress& progress) {
    const Incidence& topology = part.incidence();
    StitchWanted wanted{exact, exact, {{-1, -1}}, {}};  // joins nothing
    wanted.collapsed = edges;
    double longest = 0.0;
    for (const int e : edges) longest = std::max(longest, EdgeProbe(topology.edge(e)).length());
    if (wanted.collapsed.empty()) return Change{};
    auto done = stitch(topology, part.shape, wanted, progress);
    if (!done) return tl::unexpected(done.error());
    Change change;
    change.shape = done->shape;
    change.lineage = std::move(done->lineage);
    change.done = static_cast<int>(done->collapsed);
    change.items.push_back({fmt::format("{} of {}, up to {} mm long, shrunk to points",
                                        counted(done->collapsed, "edge"), part.name, readable(longest)),
                            true,
                            {},
                            longest});
    for (const NotStitched& left : done->left)
        change.items.push_back(
            {fmt::format("edge of {} mm at face {} of {}", readable(left.width), left.faceA, part.name),
             false,
             {ProblemKind::NotPossible,
              fmt::format("An edge {} mm long stays: {}.", readable(left.width), left.why),
              {part.name, {left.faceA}, left.where},
              "Delete the face beside it and patch the opening."},
             left.width});
    if (change.shape.IsNull() || solidsIn(change.shape) < solidsIn(part.shape) ||
        openEdges(Incidence(change.shape)) > openEdges(topology))
        return fail(ProblemKind::NotPossible,
                    fmt::format("\"{}\" would come open, or nothing would be left of it.", part.name),
                    "Lower the length.", {part.name, {}, {}});
    const std::array<double, 2> volume{volumeOf(part.shape), volumeOf(change.shape)};
    if (solidsIn(part.shape) > 0 && std::abs(volume[1] - volume[0]) > 0.5 * longest * areaOf(part.shape))
        return fail(ProblemKind::NotPossible,
                    fmt::format("\"{}\" would lose its form: its volume would change from {} to {} cm³.", part.name,
                                readable(1e-3 * volume[0]), readable(1e-3 * volume[1])),  // mm3 to cm3
                    "Lower the length.", {part.name, {}, {}});
    return change;
}

Result<Change> mergedFaces(const Part& part, double exact, Progress& progress) {
    auto merged = mergeNeedless(part.shape, exact, progress, partedOnPurpose(part));
    if (!merged) return tl::unexpected(merged.error());
    Change change;
    for (const NotMerged& left : merged->left)
        change.items.push_back(
            {fmt::format("{} of one surface in {}", counted(left.faces.size(), "face"), part.name),
             false,
             {ProblemKind::NotPossible,
              fmt::format("{} of one surface did not become one sound face.", counted(left.faces.size(), "face")),
              {part.name, left.faces, left.where},
              "They do no harm but for the edges between them."},
             0.0});
    if (merged->shape.IsNull()) return change;
    change.shape = merged->shape;
    change.lineage = std::move(merged->lineage);
    change.done = merged->edges + merged->vertices;
    change.items.insert(
        change.items.begin(),
        Item{fmt::format("{} and {} of {} merged away", counted(static_cast<std::size_t>(merged->edges), "edge"),
                         counted(static_cast<std::size_t>(merged->vertices), "vertex", "vertices"), part.name),
             true,
             {},
             0.0});
    return change;
}

}  // namespace rasoir::mend
