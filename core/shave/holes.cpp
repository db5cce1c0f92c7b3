#include "shave/holes.h"

#include <BRepCheck_Analyzer.hxx>
#include <BRepGProp_Face.hxx>
#include <BRepGProp_Domain.hxx>
#include <BRepGProp_Vinert.hxx>
#include <fmt/format.h>

#include <numeric>

#include "shave/wound.h"

namespace rasoir::shave {
namespace {

/// What a face adds to the volume seen from `base`, by the divergence theorem [mm^3].
double flux(const TopoDS_Face& face, const gp_Pnt& base) {
    BRepGProp_Face integrand(face);
    BRepGProp_Domain domain(face);
    BRepGProp_Vinert inert(integrand, domain, base);
    return inert.Mass();
}

std::string sizeAndPlace(const survey::Hole& hole) {
    return fmt::format("Ø {} mm {}", readable(hole.size), survey::describe(hole));
}

Place placeOf(const Part& part, const survey::Hole& hole) { return {part.name, hole.faces, hole.middle}; }

/// Taken holes that touch each other are healed as one: between them there may be no face to heal with.
std::vector<std::vector<int>> clusters(const Incidence& topology, const std::vector<survey::Hole>& holes, const std::vector<char>& taken) {
    std::vector<int> holeOf(static_cast<std::size_t>(topology.faceCount()) + 1, -1);
    for (std::size_t i = 0; i < holes.size(); ++i)
        if (taken[i])
            for (const int f : holes[i].faces) holeOf[f] = static_cast<int>(i);
    std::vector<int> parent(holes.size());
    std::iota(parent.begin(), parent.end(), 0);
    const auto root = [&parent](int i) {
        while (parent[i] != i) i = parent[i] = parent[parent[i]];
        return i;
    };
    for (std::size_t i = 0; i < holes.size(); ++i)
        if (taken[i])
            for (const int f : holes[i].faces)
                for (const int g : topology.neighboursOf(f))
                    if (holeOf[g] >= 0) parent[root(static_cast<int>(i))] = root(holeOf[g]);
    std::map<int, std::vector<int>> byRoot;
    for (std::size_t i = 0; i < holes.size(); ++i)
        if (taken[i]) byRoot[root(static_cast<int>(i))].push_back(static_cast<int>(i));
    std::vector<std::vector<int>> result;
    for (auto& [r, members] : byRoot) result.push_back(std::move(members));
    return result;
}

struct Attempt {
    TopTools_DataMapOfShapeShape changes;
    std::vector<char> healed;               // by hole
    std::map<int, int> mergedInto;          // face numbers
};

class Remover {
public:
    Remover(const Part& part, const std::vector<survey::Hole>& holes, double tolerance, Progress& progress)
        : m_part(part), m_topology(part.incidence()), m_holes(holes), m_tolerance(tolerance), m_progress(progress) {
        m_outcomes.assign(holes.size(), {});
    }

    Result<PartRemoval> run() {
        std::vector<char> taken(m_holes.size(), 1);
        // Each round either passes the checks or puts at least one hole back.
        for (std::size_t round = 0; round <= m_holes.size(); ++round) {
            Attempt attempt;
            HalfEdgeBody body(m_topology);
            heal(body, taken, attempt);
            if (m_progress.cancelled()) return fail(ProblemKind::Cancelled, "The removal was stopped; nothing has changed.");
            if (std::none_of(attempt.healed.begin(), attempt.healed.end(), [](char c) { return c != 0; }))
                return PartRemoval{{}, {}, std::move(m_outcomes)};
            auto built = body.build(m_tolerance);
            if (!built) {
                if (!blame(built.error(), built.error().where.faces, taken)) blameAll(built.error(), taken);
                continue;
            }
            const auto bad = check(body, *built);
            if (bad.empty()) {
                if (auto problem = checkVolume(body, *built, attempt)) {
                    if (!splitSuspects(*problem, attempt, taken)) blameAll(*problem, taken);
                    continue;
                }
                return finished(body, *built);
            }
            for (const auto& [face, problem] : bad)
                if (!blame(problem, {face}, taken)) blameAll(problem, taken);
        }
        return PartRemoval{{}, {}, std::move(m_outcomes)};
    }

private:
    const Part& m_part;
    const Incidence& m_topology;
    const std::vector<survey::Hole>& m_holes;
    double m_tolerance;
    Progress& m_progress;
    std::vector<Result<void>> m_outcomes;

    void refuse(int hole, Problem problem) {
        problem.where = placeOf(m_part, m_holes[hole]);
        problem.what = fmt::format("The {} hole stays: {}", sizeAndPlace(m_holes[hole]),
                                   problem.what.empty() ? "" : static_cast<char>(std::tolower(problem.what[0])) + problem.what.substr(1));
        m_outcomes[hole] = tl::unexpected(std::move(problem));
    }

    void heal(HalfEdgeBody& body, std::vector<char>& taken, Attempt& attempt) {
        attempt.healed.assign(m_holes.size(), 0);
        std::vector<std::vector<int>> work = clusters(m_topology, m_holes, taken);
        std::size_t done = 0;
        const std::size_t all = work.size();
        for (std::size_t c = 0; c < work.size(); ++c) {
            if (m_progress.cancelled()) return;
            if (done % 16 == 0)
                m_progress.report(0.9 * static_cast<double>(std::min(done, all)) / static_cast<double>(all),
                                  fmt::format("Healing {} of {}", std::min(done + 1, all), all));
            ++done;
            const std::vector<int> members = work[c];
            std::vector<int> faces;
            for (const int i : members) faces.insert(faces.end(), m_holes[i].faces.begin(), m_holes[i].faces.end());
            const auto healed = removeAndHeal(body, faces, m_tolerance);
            if (healed) {
                for (const int i : members) attempt.healed[i] = 1;
            } else if (members.size() > 1) {
                // One of them may stand in the way of the others: each alone, small ones first.
                for (const int i : members) {
                    if (auto single = removeAndHeal(body, m_holes[i].faces, m_tolerance)) {
                        attempt.healed[i] = 1;
                    } else {
                        taken[i] = 0;
                        refuse(i, single.error());
                    }
                }
            } else {
                taken[members.front()] = 0;
                refuse(members.front(), healed.error());
            }
        }
    }

    /// Puts back the holes that touch one of these faces.
    bool blame(const Problem& problem, const std::vector<int>& faces, std::vector<char>& taken) {
        bool any = false;
        for (std::size_t i = 0; i < m_holes.size(); ++i) {
            if (!taken[i]) continue;
            const auto touches = [&](int f) {
                for (const survey::Mouth& mouth : m_holes[i].mouths)
                    if (std::find(mouth.neighbours.begin(), mouth.neighbours.end(), f) != mouth.neighbours.end()) return true;
                return std::find(m_holes[i].faces.begin(), m_holes[i].faces.end(), f) != m_holes[i].faces.end();
            };
            if (std::any_of(faces.begin(), faces.end(), touches) && needsMoreThanDropping(m_holes[i])) {
                taken[i] = 0;
                any = true;
                refuse(static_cast<int>(i), problem);
            }
        }
        return any;
    }
    void blameAll(const Problem& problem, std::vector<char>& taken) {
        for (std::size_t i = 0; i < m_holes.size(); ++i)
            if (taken[i]) {
                taken[i] = 0;
                refuse(static_cast<int>(i), problem);
            }
    }
    /// A mouth inside one face only drops a loop, which cannot spoil that face.
    [[nodiscard]] bool needsMoreThanDropping(const survey::Hole& hole) const {
        return std::any_of(hole.mouths.begin(), hole.mouths.end(), [](const survey::Mouth& m) { return m.neighbours.size() != 1; }) ||
               hole.mouths.size() == 1;
    }

    /// Changed faces that the kernel's check calls bad and that were good before, or at whose edges the skin is not closed.
    std::vector<std::pair<int, Problem>> check(HalfEdgeBody& body, const TopTools_DataMapOfShapeShape& built) {
        std::vector<std::pair<int, Problem>> bad;
        for (int f = 0; f < body.faceCount(); ++f) {
            const SurgeryFace& record = body.face(f);
            if (record.gone || !record.changed) continue;
            const TopoDS_Shape* made = built.Seek(record.shape);
            if (made == nullptr || made->IsNull()) continue;
            for (const int h : body.halvesOf(f)) {
                const HalfEdge& half = body.half(h);
                if (half.dead || half.face != f || body.edge(half.edge).degenerated) continue;
                if (body.twin(h) < 0) {
                    bad.emplace_back(record.number, Problem{ProblemKind::NotPossible, "The skin would not be closed behind it.", {}, "Mend the part first."});
                    break;
                }
            }
            if (!record.reshaped) continue;
            if (!BRepCheck_Analyzer(*made).IsValid() && BRepCheck_Analyzer(record.shape).IsValid())
                bad.emplace_back(record.number, Problem{ProblemKind::NotPossible,
                                                        "A face beside it would cross itself once carried on.", {},
                                                        "Remove the features beside it first, or together with it."});
        }
        return bad;
    }

    /// The volume must grow, and by no more than the holes can hold.
    std::optional<Problem> checkVolume(HalfEdgeBody& body, const TopTools_DataMapOfShapeShape& built, const Attempt& attempt) {
        gp_Pnt base;
        bool placed = false;
        double growth = 0.0;
        for (int f = 0; f < body.faceCount(); ++f) {
            const SurgeryFace& record = body.face(f);
            const TopoDS_Shape* made = built.Seek(record.shape);
            if (made == nullptr) continue;
            if (!placed) {
                base = m_holes[static_cast<std::size_t>(std::find(attempt.healed.begin(), attempt.healed.end(), 1) - attempt.healed.begin())].middle;
                placed = true;
            }
            growth -= flux(record.shape, base);
            if (!made->IsNull()) growth += flux(TopoDS::Face(*made), base);
        }
        double expected = 0.0;
        for (std::size_t i = 0; i < m_holes.size(); ++i)
            if (attempt.healed[i]) expected += m_holes[i].volume;
        if (growth > 0.0 && growth <= 1.5 * expected) return std::nullopt;
        return Problem{ProblemKind::NotPossible,
                       fmt::format("The volume would change by {} mm³ where at most {} mm³ fit in.", readable(growth), readable(expected)),
                       {}, "Remove the features beside it first."};
    }

    /// When the whole sum is wrong and no face is, holes that moved edges are the suspects.
    bool splitSuspects(const Problem& problem, const Attempt& attempt, std::vector<char>& taken) {
        bool any = false;
        for (std::size_t i = 0; i < m_holes.size(); ++i) {
            if (!attempt.healed[i] || !taken[i]) continue;
            const bool joins = std::any_of(m_holes[i].mouths.begin(), m_holes[i].mouths.end(), [](const survey::Mouth& m) { return m.neighbours.size() > 1; });
            if (!joins) continue;
            taken[i] = 0;
            any = true;
            refuse(static_cast<int>(i), problem);
        }
        return any;
    }

    Result<PartRemoval> finished(HalfEdgeBody& body, const TopTools_DataMapOfShapeShape& built) {
        PartRemoval removal;
        removal.shape = substituted(m_part.shape, built);
        removal.items = std::move(m_outcomes);
        if (removal.shape.IsNull()) return fail(ProblemKind::Internal, "Nothing would be left of the part.");
        TopTools_IndexedMapOfShape faces, edges;
        TopExp::MapShapes(removal.shape, TopAbs_FACE, faces);
        TopExp::MapShapes(removal.shape, TopAbs_EDGE, edges);
        std::map<int, int> recordOf;
        for (int f = 0; f < body.faceCount(); ++f) recordOf[body.face(f).number] = f;
        for (int f = 1; f <= m_topology.faceCount(); ++f) {
            const TopoDS_Face old = m_topology.face(f);
            const TopoDS_Shape* made = built.Seek(old);
            if (made == nullptr) {
                removal.lineage.faces.push_back({Descent::Kept, f, faces.FindIndex(old)});
            } else if (!made->IsNull()) {
                removal.lineage.faces.push_back({Descent::Changed, f, faces.FindIndex(*made)});
            } else {
                int r = recordOf.at(f);
                const bool merged = body.face(r).mergedInto >= 0;
                while (body.face(r).mergedInto >= 0) r = body.face(r).mergedInto;
                const TopoDS_Shape* into = merged ? built.Seek(body.face(r).shape) : nullptr;
                if (into != nullptr && !into->IsNull()) removal.lineage.faces.push_back({Descent::Merged, f, faces.FindIndex(*into)});
                else removal.lineage.faces.push_back({Descent::Gone, f, 0});
            }
        }
        for (int e = 1; e <= m_topology.edgeCount(); ++e) {
            const int now = edges.FindIndex(m_topology.edge(e));
            removal.lineage.edges.push_back({now > 0 ? Descent::Kept : Descent::Gone, e, now});
        }
        return removal;
    }
};

}  // namespace

Result<PartRemoval> removeFrom(const Part& part, const std::vector<survey::Hole>& holes, double tolerance, Progress& progress) {
    return Remover(part, holes, tolerance, progress).run();
}

Result<Outcome> removeHoles(const Model& model, const RemoveHoles& step, Progress& progress) {
    if (!(step.upTo >= 0.0) || !std::isfinite(step.upTo))
        return fail(ProblemKind::BadInput, "The largest diameter must be a positive length.");
    if (step.upTo == 0.0 && step.chosen.empty())
        return fail(ProblemKind::BadInput, "No size and no hole was given, so there is nothing to remove.", "Give upTo in mm, or pick holes.");
    std::vector<std::string> kinds = step.kinds;
    if (kinds.empty()) kinds = {"plain", "stepped", "counterbored", "countersunk", "tapered"};
    for (const std::string& kind : kinds)
        if (kind != "plain" && kind != "stepped" && kind != "counterbored" && kind != "countersunk" && kind != "tapered" && kind != "slot")
            return fail(ProblemKind::BadInput, fmt::format("There is no kind of hole called \"{}\".", kind),
                        "Known: plain, stepped, counterbored, countersunk, tapered, slot.");
    for (const std::string& name : step.parts)
        if (std::none_of(model.parts.begin(), model.parts.end(), [&](const auto& part) { return part->name == name; }))
            return fail(ProblemKind::NotPossible, fmt::format("There is no part \"{}\" here.", name), "Rename the part, or edit the step.");
    std::set<std::pair<std::size_t, int>> chosen, kept;
    for (const auto& [references, found] : {std::pair{&step.chosen, &chosen}, {&step.kept, &kept}})
        for (const FaceRef& reference : *references) {
            const auto face = findFace(model, reference);
            if (!face) return tl::unexpected(face.error());
            found->insert({face->part, face->face});
        }

    Outcome outcome;
    outcome.model = model;
    const double tolerance = model.tolerances().samePoint;
    std::size_t removed = 0, asked = 0;
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        const Part& part = *model.parts[p];
        const bool byRule = step.upTo > 0.0 && (step.parts.empty() ? !model.isAside(p) : std::find(step.parts.begin(), step.parts.end(), part.name) != step.parts.end());
        const bool byChoice = std::any_of(chosen.begin(), chosen.end(), [p](const auto& face) { return face.first == p; });
        if (!byRule && !byChoice) continue;
        auto found = survey::findHoles(part, model.targetSize, {}, progress);
        if (!found) return tl::unexpected(found.error());
        std::vector<survey::Hole> taken;
        const auto has = [p](const std::set<std::pair<std::size_t, int>>& faces, const survey::Hole& hole) {
            return std::any_of(hole.faces.begin(), hole.faces.end(), [&](int f) { return faces.contains({p, f}); });
        };
        for (survey::Hole& hole : *found) {
            if (has(kept, hole)) continue;
            const bool rule = byRule && hole.size <= step.upTo * (1.0 + 1e-6) && (step.bores || !hole.bore) &&
                              std::find(kinds.begin(), kinds.end(), survey::holeKindName(hole.kind)) != kinds.end();
            if (rule || has(chosen, hole)) taken.push_back(std::move(hole));
        }
        if (byChoice)
            for (const auto& [facePart, face] : chosen)
                if (facePart == p && std::none_of(taken.begin(), taken.end(), [f = face](const survey::Hole& hole) {
                        return std::binary_search(hole.faces.begin(), hole.faces.end(), f);
                    }))
                    return fail(ProblemKind::NotPossible, fmt::format("Face {} of \"{}\" is not part of a hole.", face, part.name),
                                "Pick the wall of a hole.", {part.name, {face}, {}});
        if (taken.empty()) continue;
        asked += taken.size();
        auto removal = removeFrom(part, taken, tolerance, progress);
        if (!removal) return tl::unexpected(removal.error());
        for (std::size_t i = 0; i < taken.size(); ++i) {
            Item item{sizeAndPlace(taken[i]) + " in " + part.name, removal->items[i].has_value(), {}, taken[i].size};
            if (item.done) ++removed;
            else item.problem = removal->items[i].error();
            outcome.items.push_back(std::move(item));
        }
        if (removal->shape.IsNull()) continue;
        removal->lineage.part = p;
        outcome.model.parts[p] = part.withShape(removal->shape, removal->lineage);
        outcome.lineage.push_back(std::move(removal->lineage));
    }
    if (asked == 0)
        return fail(ProblemKind::NotPossible,
                    step.upTo > 0.0 ? fmt::format("There are no holes up to {} mm here.", readable(step.upTo)) : "None of the chosen faces belongs to a hole.");
    if (removed == 0) {
        for (const Item& item : outcome.items)
            if (!item.done) return tl::unexpected(item.problem);
    }
    outcome.summary = step.upTo > 0.0 ? fmt::format("Remove {} up to {} mm", counted(removed, "hole"), readable(step.upTo))
                                      : fmt::format("Remove {}", counted(removed, "picked hole"));
    progress.report(1.0, outcome.summary);
    return outcome;
}

std::vector<ParameterInfo> RemoveHoles::infos() {
    return {{"upTo", "number", "mm", "Every hole whose widest wall is no wider goes; 0: only those chosen.", 0.0},
            {"parts", "list of names", "", "Parts to look at; empty: all.", Json::array()},
            {"kinds", "list of words", "", "plain, stepped, counterbored, countersunk, tapered, slot; empty: all but slots.", Json::array()},
            {"chosen", "list of face references", "", "Any one face of each further hole that goes, whatever its size.", Json::array()},
            {"kept", "list of face references", "", "Any one face of each hole that stays.", Json::array()},
            {"bores", "boolean", "", "Take big bores and the insides of tubes too, when they are within upTo.", false}};
}

void to_json(Json& json, const RemoveHoles& step) {
    json = Json{{"upTo", step.upTo}};
    if (!step.parts.empty()) json["parts"] = step.parts;
    if (!step.kinds.empty()) json["kinds"] = step.kinds;
    if (!step.chosen.empty()) json["chosen"] = step.chosen;
    if (!step.kept.empty()) json["kept"] = step.kept;
    if (step.bores) json["bores"] = true;
}

void from_json(const Json& json, RemoveHoles& step) {
    step.upTo = json.value("upTo", 0.0);
    step.parts = json.value("parts", std::vector<std::string>{});
    step.kinds = json.value("kinds", std::vector<std::string>{});
    step.chosen = json.value("chosen", std::vector<FaceRef>{});
    step.kept = json.value("kept", std::vector<FaceRef>{});
    step.bores = json.value("bores", false);
}

}  // namespace rasoir::shave
