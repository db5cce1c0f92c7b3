#include "reduce/sides.h"

#include <fmt/format.h>

#include <BRep_Builder.hxx>
#include <TopoDS_Iterator.hxx>

#include "model/lineage_builder.h"
#include "model/places.h"
#include "reduce/beside.h"

// Sides spread from face to face over edges of two. Each set that hangs together so is then turned as a whole: to what
// most of its area showed. The shells are put together again with the same faces, some of them reversed.

namespace rasoir::reduce {
namespace {

struct Spread {
    std::vector<bool> turned;  // by face number: against how it is
    int twisted = 0;           // edges at which sides cannot be alike
    std::size_t count = 0;
};

Spread sidesOf(const Incidence& topology, const std::set<int>& turnOver) {
    Spread spread;
    const auto faces = static_cast<std::size_t>(topology.faceCount());
    spread.turned.assign(faces + 1, false);
    std::vector<bool> seen(faces + 1, false);
    for (int first = 1; first <= topology.faceCount(); ++first) {
        if (seen[static_cast<std::size_t>(first)]) continue;
        std::vector<int> set{first};
        seen[static_cast<std::size_t>(first)] = true;
        for (std::size_t i = 0; i < set.size(); ++i)
            for (const int e : topology.edgesOf(set[i])) {
                const auto uses = topology.usesOf(e);
                if (uses.size() != 2 || uses[0].face == uses[1].face) continue;
                const int other = uses[0].face == set[i] ? uses[1].face : uses[0].face;
                // Alike, they run along their common edge in opposite ways.
                const bool turned =
                    spread.turned[static_cast<std::size_t>(set[i])] != (uses[0].forward == uses[1].forward);
                if (!seen[static_cast<std::size_t>(other)]) {
                    seen[static_cast<std::size_t>(other)] = true;
                    spread.turned[static_cast<std::size_t>(other)] = turned;
                    set.push_back(other);
                } else if (spread.turned[static_cast<std::size_t>(other)] != turned) {
                    ++spread.twisted;
                }
            }
        double kept = 0.0, turned = 0.0;
        bool over = false;
        for (const int f : set) {
            (spread.turned[static_cast<std::size_t>(f)] ? turned : kept) += topology.area(f);
            over = over || turnOver.contains(f);
        }
        const bool flip = (turned > kept) != over;
        for (const int f : set) {
            if (flip) spread.turned[static_cast<std::size_t>(f)] = !spread.turned[static_cast<std::size_t>(f)];
            spread.count += spread.turned[static_cast<std::size_t>(f)];
        }
    }
    spread.twisted /= 2;  // seen from both of its faces
    return spread;
}

/// The same shape with some faces looking the other way. `own`: the shape as its parent holds it; `placed`: where it
/// stands in all, by which its faces have their numbers.
TopoDS_Shape withFacesTurned(const TopoDS_Shape& own, const TopoDS_Shape& placed, const Incidence& topology,
                             const std::vector<bool>& turned) {
    if (own.ShapeType() == TopAbs_FACE)
        return turned[static_cast<std::size_t>(topology.faceNumber(placed))] ? own.Reversed() : own;
    if (own.ShapeType() > TopAbs_FACE) return own;
    const BRep_Builder builder;
    TopoDS_Shape made = own.EmptyCopied();
    TopoDS_Iterator there(placed);
    for (TopoDS_Iterator it(own, false, false); it.More(); it.Next(), there.Next())
        builder.Add(made, withFacesTurned(it.Value(), there.Value(), topology, turned));
    return made;
}

}  // namespace

std::vector<ParameterInfo> Sides::infos() {
    return {{"parts", "list of names", "",
             "Sheets, names or patterns; empty, with no faces: all that are not set aside.", Json::array()},
            {"faces", "list of face references", "", "What hangs together with one of these is turned over.",
             Json::array()}};
}
void to_json(Json& json, const Sides& step) {
    json = Json::object();
    if (!step.parts.empty()) json["parts"] = step.parts;
    if (!step.faces.empty()) json["faces"] = step.faces;
}
void from_json(const Json& json, Sides& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
    step.faces = json.value("faces", std::vector<FaceRef>{});
}

Result<Outcome> makeSidesAlike(const Model& model, const Sides& step, Progress& progress) {
    const auto chosen = partsNamed(model, step.parts);
    if (!chosen) return tl::unexpected(chosen.error());
    std::map<std::size_t, std::set<int>> turnOver;
    for (const FaceRef& face : step.faces) {
        const auto found = findFace(model, face);
        if (!found) return tl::unexpected(found.error());
        if (model.parts[found->part]->kind() != BodyKind::Sheet)
            return fail(ProblemKind::BadInput,
                        fmt::format("\"{}\" is no sheet: its faces look outwards.", model.parts[found->part]->name),
                        "Pick faces of sheets.", {model.parts[found->part]->name, {found->face}, {}});
        turnOver[found->part].insert(found->face);
    }
    Outcome outcome;
    outcome.model = model;
    std::size_t count = 0;
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        const Part& part = *model.parts[p];
        const bool meant = turnOver.contains(p) || std::binary_search(chosen->begin(), chosen->end(), p) ||
                           (step.parts.empty() && step.faces.empty() && !model.isAside(p));
        if (!meant || part.kind() != BodyKind::Sheet) continue;
        const Incidence& topology = part.incidence();
        const Spread spread = sidesOf(topology, turnOver.contains(p) ? turnOver.at(p) : std::set<int>());
        if (spread.twisted > 0)
            outcome.notes.push_back(fmt::format("\"{}\" has a half twist: at {} sides differ all the same.", part.name,
                                                counted(static_cast<std::size_t>(spread.twisted), "edge")));
        if (spread.count == 0) continue;
        const TopoDS_Shape shape = withFacesTurned(part.shape, part.shape, topology, spread.turned);
        PartLineage own = LineageBuilder(topology, shape).finish();
        auto fresh = remade(part, shape, own);
        outcome.model.parts[p] = std::move(fresh);
        own.part = p;
        own.into = p;
        outcome.lineage.push_back(std::move(own));
        outcome.items.push_back(
            {fmt::format("\"{}\": {} turned over", part.name, counted(spread.count, "face")), true, {}, 0.0});
        count += spread.count;
    }
    if (count == 0)
        return fail(ProblemKind::NothingToDo, "All that hangs together shows the same side already.",
                    "Pick a face to turn over what hangs together with it.");
    outcome.summary = fmt::format("Turn {} over", counted(count, "face"));
    progress.report(1.0, outcome.summary);
    return outcome;
}

}  // namespace rasoir::reduce
