#include "join/pairs.h"

#include <fmt/format.h>

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <TopoDS.hxx>

#include "arrange/joined.h"
#include "geometry/integrals.h"
#include "join/contacts.h"
#include "model/places.h"

// All places are arranged together. A place that is divided becomes a part of its own with its pieces, unless nothing
// else stands for its part. Pieces, arcs and nodes that several places use are the joints: the arrangement knows them
// as one thing, so nothing has to be matched afterwards.

namespace rasoir::join {
namespace {

/// Per pair of places: what they have in common.
struct Common {
    double area = 0.0, shift = 0.0;
    std::size_t faces = 0, edges = 0;
};

bool isTouched(const arrange::Arrangement& all, int input) {
    for (const arrange::Piece& piece : all.pieces)
        if (!piece.whole && std::any_of(piece.owners.begin(), piece.owners.end(),
                                        [input](const arrange::Owner& owner) { return owner.input == input; }))
            return true;
    return false;
}

/// The body of an input as the arrangement has divided it. `rank`: of several inputs that a cell lies in, it belongs to
/// the one of the least rank.
Result<arrange::Chosen> dividedBody(const arrange::Arrangement& all, int input, BodyKind kind,
                                    const std::vector<double>& rank) {
    if (kind == BodyKind::Solid) {
        auto cells = arrange::cellsIn(all, input);
        std::erase_if(cells, [&](int cell) {
            return std::any_of(all.cells[cell].inputs.begin(), all.cells[cell].inputs.end(),
                               [&](int other) { return rank[other] < rank[input]; });
        });
        if (cells.empty())
            return fail(
                ProblemKind::NotPossible,
                fmt::format("Nothing would be left of \"{}\": it lies wholly in others.", all.inputs[input].name),
                "Set it aside, or let the smaller body keep what overlaps.");
        return arrange::solidsOf(all, cells);
    }
    auto sheets = arrange::sheetsOf(all, input, {});
    if (!sheets) return tl::unexpected(sheets.error());
    if (sheets->size() == 1) return std::move(sheets->front());
    return fail(ProblemKind::NotPossible, "A sheet of several pieces cannot be joined yet.",
                "Split it into parts first.");
}

}  // namespace

std::vector<ParameterInfo> Pairs::infos() {
    return {
        {"places", "list of names", "", "Parts or places to join; empty: all that is not set aside.", Json::array()},
        {"apart", "list of names", "", "Parts or places that stay apart on purpose.", Json::array()},
        {"upTo", "number", "mm", "Widest gap that is closed; 0: only what lies on each other.", 0.0},
        {"overlaps", "text", "", "apart, or who keeps what bodies have in common: smaller, larger, first.", "apart"}};
}
void to_json(Json& json, const Pairs& step) {
    json = Json{{"upTo", step.upTo}};
    if (!step.places.empty()) json["places"] = step.places;
    if (!step.apart.empty()) json["apart"] = step.apart;
    if (step.overlaps != "apart") json["overlaps"] = step.overlaps;
}
void from_json(const Json& json, Pairs& step) {
    step.places = json.value("places", std::vector<std::string>{});
    step.apart = json.value("apart", std::vector<std::string>{});
    step.upTo = json.value("upTo", 0.0);
    step.overlaps = json.value("overlaps", "apart");
    static const std::set<std::string> known{"apart", "smaller", "larger", "first"};
    if (!known.contains(step.overlaps)) throw std::invalid_argument("overlaps is apart, smaller, larger or first");
}

Result<Outcome> joinPairs(const Model& received, const Pairs& step, Progress& progress) {
    if (!(step.upTo >= 0.0) || !std::isfinite(step.upTo))
        return fail(ProblemKind::BadInput, "The widest gap must be zero or more.");
    Model model = received;
    model.giveIds();
    const SafeLimit safe = safeLimit(model);
    if (step.upTo > safe.mm * (1.0 + 1e-9))
        return fail(ProblemKind::NotPossible,
                    fmt::format("A gap of {} mm is beyond what is safe to close ({} mm, {}).", readable(step.upTo),
                                readable(safe.mm), safe.why),
                    "Take a smaller limit, or move the bodies together.");
    std::set<std::size_t> wanted;
    if (step.places.empty()) {
        for (std::size_t o = 0; o < model.occurrences.size(); ++o)
            if (!model.occurrences[o].aside) wanted.insert(o);
    } else {
        const auto named = placesNamed(model, step.places);
        if (!named) return tl::unexpected(named.error());
        wanted.insert(named->begin(), named->end());
    }
    if (!step.apart.empty()) {
        const auto named = placesNamed(model, step.apart);
        if (!named) return tl::unexpected(named.error());
        for (const std::size_t o : *named) wanted.erase(o);
    }
    std::vector<std::size_t> places;
    std::vector<TopLoc_Location> locations;
    std::vector<arrange::Input> inputs;
    for (const std::size_t o : wanted) {
        const Part& part = *model.parts[model.occurrences[o].part];
        const BodyKind kind = part.kind();
        if (part.lump || (kind != BodyKind::Solid && kind != BodyKind::Sheet)) continue;
        places.push_back(o);
        locations.push_back(model.occurrences[o].placement.Form() == gp_Identity
                                ? TopLoc_Location()
                                : TopLoc_Location(model.occurrences[o].placement));
        inputs.push_back({part.shape.Moved(locations.back()), placeName(model, o)});
    }
    if (places.size() < 2)
        return fail(ProblemKind::NotPossible, "Joining takes at least two solids or sheets.", "Name more of them.");
    const double tolerance = std::max(model.tolerances().samePoint, step.upTo);
    Outcome outcome;
    outcome.model = model;
    // Bodies that reach into one another cannot have a common face, unless what they have in common is given to one of
    // them. Else the one with more such partners stays apart, told; the others are arranged once more without it.
    Result<arrange::Arrangement> all;
    std::map<std::pair<int, int>, double> given;
    for (;;) {
        all = arrange::arrange(inputs, tolerance, progress);
        if (!all) return tl::unexpected(all.error());
        std::map<std::pair<int, int>, double> overlaps;
        for (const arrange::Cell& cell : all->cells)
            for (const int a : cell.inputs)
                for (const int b : cell.inputs)
                    if (a < b) overlaps[{a, b}] += cell.volume;
        if (overlaps.empty()) break;
        if (step.overlaps != "apart") {
            given = std::move(overlaps);
            break;
        }
        std::set<int> apart;
        while (!overlaps.empty()) {
            std::map<int, int> partners;
            for (const auto& [pair, volume] : overlaps) {
                ++partners[pair.first];
                ++partners[pair.second];
            }
            const int worst = std::max_element(partners.begin(), partners.end(), [](const auto& x, const auto& y) {
                                  return x.second < y.second;
                              })->first;
            apart.insert(worst);
            for (auto it = overlaps.begin(); it != overlaps.end();) {
                const auto& [pair, volume] = *it;
                if (pair.first != worst && pair.second != worst) {
                    ++it;
                    continue;
                }
                Item item{fmt::format("\"{}\" and \"{}\"", inputs[pair.first].name, inputs[pair.second].name),
                          false,
                          {},
                          0.0};
                item.problem = {ProblemKind::NotPossible,
                                fmt::format("\"{}\" and \"{}\" reach into one another by {} mm³: \"{}\" stays apart.",
                                            inputs[pair.first].name, inputs[pair.second].name, readable(volume),
                                            inputs[worst].name),
                                {inputs[worst].name, {}, {}},
                                "Subtract one from the other in Divide."};
                outcome.items.push_back(std::move(item));
                it = overlaps.erase(it);
            }
        }
        for (auto it = apart.rbegin(); it != apart.rend(); ++it) {
            inputs.erase(inputs.begin() + *it);
            places.erase(places.begin() + *it);
            locations.erase(locations.begin() + *it);
        }
        if (inputs.size() < 2) return tl::unexpected(outcome.items.front().problem);
    }

    std::vector<double> rank(places.size());
    for (std::size_t i = 0; i < places.size(); ++i)
        rank[i] = step.overlaps == "first" ? static_cast<double>(i)
                                           : (step.overlaps == "larger" ? -1.0 : 1.0) * volumeOf(inputs[i].shape);
    // Of two of one size, as copies are, the earlier one.
    for (std::size_t i = 0; i < places.size(); ++i) rank[i] += static_cast<double>(i) * 1e-9 * std::abs(rank[i]);
    for (const auto& [pair, volume] : given) {
        const int winner = rank[static_cast<std::size_t>(pair.first)] < rank[static_cast<std::size_t>(pair.second)]
                               ? pair.first
                               : pair.second;
        outcome.notes.push_back(fmt::format("\"{}\" and \"{}\" reached into one another by {} mm³: \"{}\" keeps it.",
                                            inputs[static_cast<std::size_t>(pair.first)].name,
                                            inputs[static_cast<std::size_t>(pair.second)].name, readable(volume),
                                            inputs[static_cast<std::size_t>(winner)].name));
    }
    std::vector<std::optional<arrange::Chosen>> bodies(places.size());
    for (std::size_t i = 0; i < places.size(); ++i) {
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        const bool reachesIn = std::any_of(given.begin(), given.end(), [i](const auto& one) {
            return one.first.first == static_cast<int>(i) || one.first.second == static_cast<int>(i);
        });
        if (!reachesIn && !isTouched(*all, static_cast<int>(i))) continue;
        auto body =
            dividedBody(*all, static_cast<int>(i), model.parts[model.occurrences[places[i]].part]->kind(), rank);
        if (!body) {
            body.error().where.part = inputs[i].name;
            return tl::unexpected(body.error());
        }
        bodies[i] = std::move(*body);
    }
    std::map<std::pair<std::size_t, std::size_t>, Common> pairs;
    std::vector<Joint> joints;
    std::vector<PlaceId> ids;
    for (const std::size_t o : places) ids.push_back(model.occurrences[o].id);
    for (arrange::Shared& shared : arrange::sharedBy(*all, bodies, ids)) {
        for (std::size_t a = 0; a < shared.users.size(); ++a)
            for (std::size_t b = a + 1; b < shared.users.size(); ++b) {
                Common& common = pairs[{shared.users[a], shared.users[b]}];
                if (shared.joint.kind == EntityKind::Edge) ++common.edges;
                if (shared.joint.kind != EntityKind::Face) continue;
                const Incidence now(bodies[shared.users[a]]->shape);
                common.area += areaOf(now.face(shared.joint.uses[a].number));
                ++common.faces;
            }
        joints.push_back(std::move(shared.joint));
    }
    if (joints.empty())
        return fail(ProblemKind::NothingToDo, "None of these bodies lies on another.",
                    "Look at the near misses for gaps that are wider.");

    std::map<std::size_t, std::size_t> placesOfPart;
    for (const Occurrence& place : model.occurrences) ++placesOfPart[place.part];
    for (std::size_t i = 0; i < places.size(); ++i) {
        if (!bodies[i]) continue;
        Occurrence& place = outcome.model.occurrences[places[i]];
        const std::size_t p = place.part;
        const Part& part = *model.parts[p];
        auto fresh = part.copy();
        fresh->setShape(bodies[i]->shape.Moved(locations[i].Inverted()));
        fresh->known = {};
        fresh->meantOpen.clear();
        fresh->sharpened.clear();
        PartLineage lineage = bodies[i]->lineage.at(static_cast<int>(i));
        fresh->inherit(part, lineage, gp_Trsf());
        lineage.part = p;
        if (placesOfPart[p] == 1) {
            outcome.model.parts[p] = std::move(fresh);
            lineage.into = p;
        } else {
            --placesOfPart[p];
            fresh->id = 0;
            fresh->name = freeName(outcome.model, part.name);
            outcome.notes.push_back(fmt::format("\"{}\" is joined in its own way and is a part of its own now: \"{}\".",
                                                placeName(model, places[i]), fresh->name));
            lineage.into = outcome.model.parts.size();
            place.part = lineage.into;
            outcome.model.parts.push_back(std::move(fresh));
        }
        outcome.lineage.push_back(std::move(lineage));
    }
    std::set<PlaceId> joined;
    for (const std::size_t o : places) joined.insert(model.occurrences[o].id);
    std::erase_if(outcome.model.joints, [&joined](const Joint& joint) {
        return std::any_of(joint.uses.begin(), joint.uses.end(),
                           [&joined](const JointUse& use) { return joined.contains(use.place); });
    });
    outcome.model.joints.insert(outcome.model.joints.end(), joints.begin(), joints.end());
    for (const auto& [pair, common] : pairs)
        outcome.items.push_back(
            {common.faces > 0
                 ? fmt::format("{} and {}: {} in common, {} mm²", inputs[pair.first].name, inputs[pair.second].name,
                               counted(common.faces, "face"), readable(common.area))
                 : fmt::format("{} and {}: {} in common", inputs[pair.first].name, inputs[pair.second].name,
                               counted(common.edges, "edge")),
             true,
             {},
             0.0});
    if (all->widest > 10.0 * model.tolerances().samePoint)
        outcome.notes.push_back(fmt::format("What became one was up to {} mm apart.", readable(all->widest)));
    if (const auto faults = faultsInJoints(outcome.model); !faults.empty())
        return fail(ProblemKind::Internal, "A common face would not be the same on both sides: " + faults.front(),
                    "Nothing was changed; join the pairs one by one.");
    outcome.summary = fmt::format("Join {}", counted(pairs.size(), "pair of bodies", "pairs of bodies"));
    progress.report(1.0, outcome.summary);
    return outcome;
}

std::vector<std::string> faultsInJoints(const Model& model) {
    std::vector<std::string> faults;
    const double exact = 10.0 * model.tolerances().samePoint;
    for (const Joint& joint : model.joints) {
        struct Seen {
            double measure = 0.0;
            gp_Pnt middle;
        };
        std::optional<Seen> first;
        for (const JointUse& use : joint.uses) {
            const auto o = model.placeOf(use.place);
            if (!o) {
                faults.push_back("A joint speaks of a place that is not there.");
                break;
            }
            const Part& part = *model.parts[model.occurrences[*o].part];
            const Incidence& topology = part.incidence();
            const int count = joint.kind == EntityKind::Face   ? topology.faceCount()
                              : joint.kind == EntityKind::Edge ? topology.edgeCount()
                                                               : topology.vertexCount();
            if (use.number < 1 || use.number > count) {
                faults.push_back(
                    fmt::format("\"{}\" has no {} {}.", part.name, entityKindName(joint.kind), use.number));
                break;
            }
            Seen seen;
            if (joint.kind == EntityKind::Face) {
                const Skin skin = skinOf(topology.face(use.number));
                seen = {skin.area, skin.centre};
            } else if (joint.kind == EntityKind::Edge) {
                const TopoDS_Edge edge = topology.edge(use.number);
                seen.measure = lengthOf(edge);
                const BRepAdaptor_Curve curve(edge);
                seen.middle = curve.Value(0.5 * (curve.FirstParameter() + curve.LastParameter()));
            } else {
                seen.middle = BRep_Tool::Pnt(TopoDS::Vertex(topology.vertex(use.number)));
            }
            seen.middle.Transform(model.occurrences[*o].placement);
            if (!first) {
                first = seen;
                continue;
            }
            const double allowed = exact + 4.0 * joint.deviation;
            const double apart = seen.middle.Distance(first->middle);
            const double size =
                std::max(1.0, joint.kind == EntityKind::Face ? std::sqrt(first->measure) : first->measure);
            if (apart > allowed + 1e-6 * size ||
                std::abs(seen.measure - first->measure) > 1e-5 * first->measure + allowed * size)
                faults.push_back(fmt::format("{} {} of \"{}\" is not where its partner is ({} mm apart).",
                                             entityKindName(joint.kind), use.number, part.name, readable(apart)));
        }
    }
    return faults;
}

Counted countJoined(const Model& model) {
    Counted all;
    for (const Occurrence& place : model.occurrences) {
        if (place.aside || model.parts[place.part]->shape.IsNull()) continue;
        const Incidence& topology = model.parts[place.part]->incidence();
        all.faces += static_cast<std::size_t>(topology.faceCount());
        all.edges += static_cast<std::size_t>(topology.edgeCount());
        all.vertices += static_cast<std::size_t>(topology.vertexCount());
    }
    for (const Joint& joint : model.joints) {
        const std::size_t fewer = joint.uses.size() - 1;
        (joint.kind == EntityKind::Face   ? all.faces
         : joint.kind == EntityKind::Edge ? all.edges
                                          : all.vertices) -= fewer;
    }
    return all;
}

}  // namespace rasoir::join
