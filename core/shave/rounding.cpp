#include "shave/rounding.h"

#include <fmt/format.h>

#include <BRep_Tool.hxx>
#include <BRepCheck_Analyzer.hxx>
#include <BRepFilletAPI_MakeFillet.hxx>
#include <set>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopTools_IndexedMapOfShape.hxx>

#include "common/guard.h"
#include "geometry/edge_probe.h"
#include "geometry/integrals.h"
#include "model/lineage_builder.h"
#include "model/places.h"
#include "shave/change.h"
#include "shave/strips.h"
#include "survey/stress_notes.h"
#include "topology/soundness.h"

namespace rasoir::shave {

Result<Outcome> finished(Outcome outcome, const std::string& summary, const std::string& nothing) {
    if (outcome.lineage.empty()) {
        for (const Item& item : outcome.items)
            if (!item.done) return tl::unexpected(item.problem);
        return fail(ProblemKind::NothingToDo, nothing);
    }
    outcome.summary = summary;
    return outcome;
}

std::size_t doneIn(const Outcome& outcome) {
    return static_cast<std::size_t>(
        std::count_if(outcome.items.begin(), outcome.items.end(), [](const Item& item) { return item.done; }));
}

void put(Outcome& outcome, std::size_t p, Reworked made) {
    outcome.model.parts[p] = std::move(made.part);
    made.lineage.part = p;
    const auto known = std::find_if(outcome.lineage.begin(), outcome.lineage.end(),
                                    [p](const PartLineage& own) { return own.part == p; });
    if (known == outcome.lineage.end()) {
        outcome.lineage.push_back(std::move(made.lineage));
        return;
    }
    *known = chained(*known, made.lineage);
    known->part = p;
}

Reworked then(const Reworked& first, Reworked second) {
    return {std::move(second.part), chained(first.lineage, second.lineage)};
}

Result<Reworked> rounded(const Part& part, const std::map<int, double>& edges) {
    const Incidence& topology = part.incidence();
    return guarded("Rounding", [&]() -> Result<Reworked> {
        BRepFilletAPI_MakeFillet fillet(part.shape);
        for (const auto& [e, radius] : edges) fillet.Add(radius, TopoDS::Edge(topology.edge(e)));
        fillet.Build();
        const auto fails = [&](const std::string& why) {
            const EdgeProbe first(topology.edge(edges.begin()->first));
            return fail(ProblemKind::NotPossible,
                        fmt::format("The edges of \"{}\" could not be rounded: {}.", part.name, why),
                        "Take a smaller radius, or fewer edges.", {part.name, {}, first.value(first.first())});
        };
        if (!fillet.IsDone()) return fails("the round does not fit beside its neighbours");
        const TopoDS_Shape made = fillet.Shape();
        if (!BRepCheck_Analyzer(undrawn(made)).IsValid()) return fails("the body would not be sound");
        // The kernel puts a solid into a compound; what it was before it is again.
        TopoDS_Shape shape = made;
        if (shape.ShapeType() == TopAbs_COMPOUND && part.shape.ShapeType() == TopAbs_SOLID) {
            TopExp_Explorer solid(shape, TopAbs_SOLID);
            if (solid.More()) shape = solid.Current();
        }
        LineageBuilder builder(topology, shape);
        for (int f = 1; f <= topology.faceCount(); ++f) {
            const auto& modified = fillet.Modified(topology.face(f));
            for (const TopoDS_Shape& now : modified) builder.face(f, now);
        }
        PartLineage lineage = builder.finish();
        auto fresh = part.withShape(shape, lineage);
        return Reworked{std::move(fresh), std::move(lineage)};
    });
}

Result<Sharp> withoutRounds(const Part& part, const std::vector<survey::StripChain>& chains, double tolerance,
                            Progress& progress) {
    std::vector<survey::GoneRound> gone;
    for (const survey::StripChain& chain : chains) {
        if (chain.kind != survey::StripKind::Round || chain.least < 0.98 * chain.size)
            return fail(ProblemKind::NotPossible,
                        fmt::format("The round of R {} to {} mm could not be put back: its radius varies.",
                                    readable(chain.least), readable(chain.size)),
                        "Remove it first.", {part.name, chain.faces, chain.middle});
        survey::GoneRound round;
        round.radius = chain.size;
        for (const Strip& strip : chain.strips) round.faces.push_back(strip.face);
        gone.push_back(std::move(round));
    }
    auto removal = removeFrom(part, chains, tolerance, progress);
    if (!removal) return tl::unexpected(removal.error());
    for (const auto& item : removal->items)
        if (!item) return tl::unexpected(item.error());
    if (removal->shape.IsNull()) return fail(ProblemKind::NotPossible, "The rounds cannot go.");
    Sharp sharp;
    sharp.made.part = part.withShape(removal->shape, removal->lineage);
    sharp.made.lineage = std::move(removal->lineage);
    sharp.edges = survey::edgesLeftBy(part, *sharp.made.part, gone);
    if (sharp.edges.empty())
        return fail(ProblemKind::NotPossible, "No edge is left where the rounds were.",
                    "Remove them in a step of its own.", {part.name, chains.front().faces, chains.front().middle});
    return sharp;
}

// --- steps
// --------------------------------------------------------------------------------------------------------------------

std::vector<ParameterInfo> AddRounds::infos() {
    return {{"part", "name", "", "The part.", ""},
            {"edges", "list of points", "mm", "A point on each edge, in the part's coordinates.", Json::array()},
            {"radius", "number", "mm", "Of the rounds.", 0.0}};
}
void to_json(Json& json, const AddRounds& step) {
    json = Json{{"part", step.part}, {"edges", step.edges}, {"radius", step.radius}};
}
void from_json(const Json& json, AddRounds& step) {
    step.part = json.at("part").get<std::string>();
    step.edges = json.at("edges").get<std::vector<std::array<double, 3>>>();
    step.radius = json.at("radius").get<double>();
}

Result<Outcome> addRounds(const Model& model, const AddRounds& step, Progress&) {
    if (!(step.radius > 0.0) || !std::isfinite(step.radius))
        return fail(ProblemKind::BadInput, "The radius must be a positive length.");
    if (step.edges.empty()) return fail(ProblemKind::BadInput, "No edges were named.", "Pick the edges to round.");
    const auto p = model.partNamed(step.part);
    if (!p) return fail(ProblemKind::BadInput, fmt::format("There is no single part named \"{}\".", step.part));
    const Incidence& topology = model.parts[*p]->incidence();
    std::map<int, double> edges;
    for (const auto& at : step.edges) {
        const gp_Pnt point(at[0], at[1], at[2]);
        int best = 0;
        double distance = std::numeric_limits<double>::max();
        for (int e = 1; e <= topology.edgeCount(); ++e) {
            if (topology.facesAt(e) != 2 || BRep_Tool::Degenerated(topology.edge(e))) continue;
            const EdgeProbe probe(topology.edge(e));
            if (const double own = probe.nearest(point).distance;
                own < distance && own <= 0.01 * probe.length() + 10.0 * model.samePoint()) {
                distance = own;
                best = e;
            }
        }
        if (best == 0)
            return fail(ProblemKind::NotPossible, "There is no edge between two faces at one of the points.",
                        "Pick the edges anew.", {step.part, {}, point});
        edges.emplace(best, step.radius);
    }
    Outcome outcome;
    outcome.model = model;
    auto done = rounded(*model.parts[*p], edges);
    if (!done) return tl::unexpected(done.error());
    put(outcome, *p, std::move(*done));
    outcome.items.push_back(
        {fmt::format("{} of {} rounded, R {} mm", counted(edges.size(), "edge"), step.part, readable(step.radius)),
         true,
         {},
         step.radius});
    return finished(std::move(outcome),
                    fmt::format("Round {}, R {} mm", counted(edges.size(), "edge"), readable(step.radius)),
                    "Nothing was rounded.");
}

std::vector<ParameterInfo> RestoreRounds::infos() {
    return {{"parts", "list of names", "", "Parts, names or patterns; empty: every part in the work.", Json::array()},
            {"from", "number", "mm", "Only rounds of at least this radius.", 0.0}};
}
void to_json(Json& json, const RestoreRounds& step) {
    json = Json{{"parts", step.parts}, {"from", step.from}};
}
void from_json(const Json& json, RestoreRounds& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
    step.from = json.value("from", 0.0);
}

Result<Outcome> restoreRounds(const Model& model, const RestoreRounds& step, Progress& progress) {
    if (!(step.from >= 0.0) || !std::isfinite(step.from))
        return fail(ProblemKind::BadInput, "The radius must be a positive length.");
    const auto chosen = partsNamed(model, step.parts);
    if (!chosen) return tl::unexpected(chosen.error());
    Outcome outcome;
    outcome.model = model;
    std::size_t back = 0;
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        if (step.parts.empty() ? model.isAside(p) : !std::binary_search(chosen->begin(), chosen->end(), p)) continue;
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        // All at once where that goes, since rounds meet in corners; else corner by corner.
        std::map<int, double> all;
        for (const survey::StressNote& note : survey::stressNotes(*model.parts[p]))
            if (note.radius >= step.from)
                for (const int e : note.edges) all.try_emplace(e, note.radius);
        if (all.empty()) continue;
        const std::string name = model.parts[p]->name;
        if (auto together = rounded(*outcome.model.parts[p], all)) {
            put(outcome, p, std::move(*together));
            back += all.size();
            outcome.items.push_back(
                {fmt::format("{} of {} round again", counted(all.size(), "corner"), name), true, {}, 0.0});
            continue;
        }
        for (const auto& [e, radius] : all) {
            const EdgeProbe gone(model.parts[p]->incidence().edge(e));
            const gp_Pnt at = gone.value(0.5 * (gone.first() + gone.last()));
            const std::string what = fmt::format("R {} mm at a corner of {}", readable(radius), name);
            Result<void> done = fail(ProblemKind::NotPossible,
                                     fmt::format("A corner of \"{}\" is no longer there.", name), {}, {name, {}, at});
            for (const survey::StressNote& note : survey::stressNotes(*outcome.model.parts[p])) {
                const Incidence& topology = outcome.model.parts[p]->incidence();
                const auto here = std::find_if(note.edges.begin(), note.edges.end(), [&](int own) {
                    return EdgeProbe(topology.edge(own)).nearest(at).distance <= 10.0 * model.samePoint();
                });
                if (here == note.edges.end()) continue;
                auto one = rounded(*outcome.model.parts[p], {{*here, radius}});
                if (one) put(outcome, p, std::move(*one));
                done = one ? Result<void>() : tl::unexpected(one.error());
                break;
            }
            back += done.has_value();
            outcome.items.push_back({what, done.has_value(), done ? Problem{} : done.error(), radius});
        }
    }
    return finished(std::move(outcome), fmt::format("Put {} back", counted(back, "round")),
                    "No inner corner was made sharp by a step, so there is no round to put back.");
}

std::vector<ParameterInfo> ResizeRounds::infos() {
    return {{"rounds", "list of face references", "", "Any one face of each round.", Json::array()},
            {"radius", "number", "mm", "The radius they get.", 0.0}};
}
void to_json(Json& json, const ResizeRounds& step) {
    json = Json{{"rounds", step.rounds}, {"radius", step.radius}};
}
void from_json(const Json& json, ResizeRounds& step) {
    step.rounds = json.at("rounds").get<std::vector<FaceRef>>();
    step.radius = json.at("radius").get<double>();
}

Result<Outcome> resizeRounds(const Model& model, const ResizeRounds& step, Progress& progress) {
    if (step.rounds.empty()) return fail(ProblemKind::BadInput, "No rounds were named.", "Pick a face of each.");
    if (!(step.radius > 0.0) || !std::isfinite(step.radius))
        return fail(ProblemKind::BadInput, "The radius must be a positive length.");
    std::map<std::size_t, std::set<int>> wanted;
    for (const FaceRef& reference : step.rounds) {
        const auto found = findFace(model, reference);
        if (!found) return tl::unexpected(found.error());
        wanted[found->part].insert(found->face);
    }
    Outcome outcome;
    outcome.model = model;
    for (const auto& [p, faces] : wanted) {
        const Part& part = *model.parts[p];
        auto all = survey::findStrips(part, model.targetSize, progress);
        if (!all) return tl::unexpected(all.error());
        std::vector<survey::StripChain> chains;
        for (const int f : faces) {
            const auto own = std::find_if(all->begin(), all->end(), [f](const survey::StripChain& chain) {
                return chain.kind == survey::StripKind::Round &&
                       std::binary_search(chain.faces.begin(), chain.faces.end(), f);
            });
            if (own == all->end())
                return fail(ProblemKind::NotPossible,
                            fmt::format("Face {} of \"{}\" belongs to no round.", f, part.name),
                            "Pick a face of a round.", {part.name, {f}, skinOf(part.incidence().face(f)).centre});
            if (std::none_of(chains.begin(), chains.end(),
                             [&](const survey::StripChain& chain) { return chain.faces == own->faces; }))
                chains.push_back(*own);
        }
        const std::string what = fmt::format("{} of {}", counted(chains.size(), "round"), part.name);
        auto sharp = withoutRounds(part, chains, model.samePoint(), progress);
        if (sharp)
            for (auto& [edge, radius] : sharp->edges) radius = step.radius;
        auto made = sharp ? rounded(*sharp->made.part, sharp->edges) : tl::unexpected(sharp.error());
        if (!made) {
            outcome.items.push_back({what, false, made.error(), chains.front().size});
            continue;
        }
        put(outcome, p, then(sharp->made, std::move(*made)));
        outcome.items.push_back({fmt::format("{}: R {} mm now", what, readable(step.radius)), true, {}, step.radius});
    }
    const std::size_t changed = doneIn(outcome);
    return finished(
        std::move(outcome),
        fmt::format("Set the radius of rounds in {} to {} mm", counted(changed, "part"), readable(step.radius)),
        "Nothing was changed.");
}

}  // namespace rasoir::shave
