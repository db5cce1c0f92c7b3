#include "shave/strips.h"

#include <fmt/format.h>

#include <Bnd_Box.hxx>
#include <BRepBndLib.hxx>
#include <BRepGProp.hxx>
#include <GProp_GProps.hxx>
#include <set>

#include "common/tolerance.h"
#include "shave/choice.h"
#include "shave/companions.h"
#include "survey/stress_notes.h"

namespace rasoir::shave {
namespace {

using survey::StripChain;
using survey::StripKind;

std::string nameOf(const StripChain& chain) {
    return chain.kind == StripKind::Round
               ? fmt::format("R {} mm round, {}", readable(chain.size), survey::describe(chain))
               : fmt::format("{} mm chamfer, {}", readable(chain.size), survey::describe(chain));
}

/// The part with a note at every inner corner that the rounds have left sharp.
std::shared_ptr<const Part> noted(const Part& before, std::shared_ptr<const Part> after,
                                  const std::vector<const StripChain*>& gone) {
    std::vector<survey::GoneRound> inner;
    for (const StripChain* chain : gone)
        if (chain->kind == StripKind::Round && (!chain->convex || chain->mixed))
            inner.push_back({chain->faces, chain->size});
    std::vector<Sharpened> corners = survey::cornersLeftBy(before, *after, inner);
    if (corners.empty()) return after;
    const auto with = after->copy();
    with->sharpened.insert(with->sharpened.end(), corners.begin(), corners.end());
    return with;
}

/// For what stayed: what would have to go too is told with its problem. The first few only, each is several removals.
std::vector<StripChain> tellLacking(const Part& part, const std::vector<heal::Wanted>& wanted,
                                    const std::vector<StripChain>& known, double tolerance, heal::Removal& removal,
                                    Progress& progress) {
    std::vector<StripChain> all;
    std::size_t looked = 0;
    constexpr std::size_t most = 6;
    for (std::size_t i = 0; i < wanted.size() && looked < most; ++i) {
        if (removal.items[i] || removal.items[i].error().kind != ProblemKind::NotPossible) continue;
        ++looked;
        const auto with = companionsOf(part, wanted[i], known, tolerance, progress);
        if (!with) continue;
        Problem& problem = removal.items[i].error();
        problem.remedy = fmt::format("Take along {}.", with->words);
        problem.lacking = with->allFaces();
        all.insert(all.end(), with->chains.begin(), with->chains.end());
    }
    return all;
}

Result<Outcome> removeStrips(const Model& model, const RemoveStrips& step, StripKind kind, Progress& progress) {
    const std::string noun = kind == StripKind::Round ? "round" : "chamfer";
    if (!(step.upTo >= 0.0) || !std::isfinite(step.upTo) || !(step.from >= 0.0) || !std::isfinite(step.from))
        return fail(ProblemKind::BadInput, "The sizes must be positive lengths.");
    if (step.upTo == 0.0 && step.chosen.empty())
        return fail(ProblemKind::BadInput,
                    fmt::format("No size and no {} was given, so there is nothing to remove.", noun),
                    fmt::format("Give upTo in mm, or pick {}s.", noun));
    for (const std::string& side : step.sides)
        if (side != "outer" && side != "inner")
            return fail(ProblemKind::BadInput, fmt::format("There is no side called \"{}\".", side),
                        "Known: outer, inner.");
    const auto choice = Choice::of(model, step.parts, step.chosen, step.kept);
    if (!choice) return tl::unexpected(choice.error());
    Outcome outcome;
    outcome.model = model;
    const double tolerance = model.samePoint();
    std::size_t removed = 0, asked = 0;
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        const Part& part = *model.parts[p];
        const bool byRule = step.upTo > 0.0 && choice->isRuled(model, p);
        if ((!byRule && !choice->isChosen(p)) || part.shape.IsNull() || part.lump) continue;
        auto found = survey::findStrips(part, model.targetSize, progress);
        if (!found) return tl::unexpected(found.error());
        const std::vector<StripChain> everything = *found;
        std::vector<StripChain> taken;
        for (StripChain& chain : *found) {
            if (chain.kind != kind || choice->keeps(p, chain.faces)) continue;
            const std::string side = chain.convex ? "outer" : "inner";
            const bool rule =
                byRule && chain.size <= step.upTo * (1.0 + Tolerance::atLimit) &&
                chain.size >= step.from * (1.0 - Tolerance::atLimit) && (step.bends || !chain.bend) &&
                (step.sides.empty() || std::find(step.sides.begin(), step.sides.end(), side) != step.sides.end());
            if (rule || choice->chooses(p, chain.faces)) taken.push_back(std::move(chain));
        }
        for (const int face : choice->chosenOf(p))
            if (std::none_of(taken.begin(), taken.end(), [f = face](const StripChain& chain) {
                    return std::binary_search(chain.faces.begin(), chain.faces.end(), f);
                }))
                return fail(ProblemKind::NotPossible,
                            fmt::format("Face {} of \"{}\" is not part of a {}.", face, part.name, noun),
                            "Remove it as a face.", {part.name, {face}, {}});
        if (taken.empty()) continue;
        asked += taken.size();
        auto removal = removeFrom(part, taken, tolerance, progress);
        if (!removal) return tl::unexpected(removal.error());
        const std::size_t chosen = taken.size();
        if (const auto with = tellLacking(part, wantedFor(taken), everything, tolerance, *removal, progress);
            step.along && !with.empty())
            if (auto done = alsoWith(
                    with, taken, *removal,
                    [&](const std::vector<StripChain>& more) { return removeFrom(part, more, tolerance, progress); });
                !done)
                return tl::unexpected(done.error());
        for (std::size_t i = 0; i < taken.size(); ++i) {
            Item item{nameOf(taken[i]) + (i >= chosen ? ", taken along" : "") + " in " + part.name,
                      removal->items[i].has_value(),
                      {},
                      taken[i].size};
            if (item.done) {
                ++removed;
                if (!taken[i].convex || taken[i].mixed)
                    item.what += "; the stress at the corner it leaves is fictitious";
            } else {
                item.problem = removal->items[i].error();
            }
            outcome.items.push_back(std::move(item));
        }
        if (removal->shape.IsNull()) continue;
        removal->lineage.part = p;
        std::vector<const StripChain*> gone;
        for (std::size_t i = 0; i < taken.size(); ++i)
            if (removal->items[i]) gone.push_back(&taken[i]);
        outcome.model.parts[p] = noted(part, part.withShape(removal->shape, removal->lineage), gone);
        outcome.lineage.push_back(std::move(removal->lineage));
    }
    if (asked == 0)
        return fail(step.upTo > 0.0 ? ProblemKind::NothingToDo : ProblemKind::NotPossible,
                    step.upTo > 0.0 ? fmt::format("There are no {}s up to {} mm here.", noun, readable(step.upTo))
                                    : fmt::format("None of the chosen faces belongs to a {}.", noun));
    if (removed == 0)
        for (const Item& item : outcome.items)
            if (!item.done) return tl::unexpected(item.problem);
    outcome.summary = step.upTo > 0.0
                          ? fmt::format("Remove {} {} mm", counted(removed, noun), sizeRange(step.from, step.upTo))
                          : fmt::format("Remove {}", counted(removed, "picked " + noun));
    progress.report(1.0, outcome.summary);
    return outcome;
}

}  // namespace

std::vector<heal::Wanted> wantedFor(const std::vector<StripChain>& chains) {
    std::vector<heal::Wanted> wanted;
    for (const StripChain& chain : chains) {
        heal::Wanted one;
        one.name = "The " + nameOf(chain);
        one.faces = chain.faces;
        one.strips = chain.strips;
        one.middle = chain.middle;
        one.change = chain.change;
        one.grows = chain.mixed ? 0 : chain.convex ? 1 : -1;
        one.layer = chain.layer;
        wanted.push_back(std::move(one));
    }
    return wanted;
}

Result<heal::Removal> removeFrom(const Part& part, const std::vector<StripChain>& chains, double tolerance,
                                 Progress& progress) {
    auto first = heal::removeFaces(part, wantedFor(chains), tolerance, progress);
    if (!first || first->shape.IsNull()) return first;
    // Those that stayed once more, on what is left now: what was in their way may be gone.
    for (int round = 0; round < 3; ++round) {
        std::vector<std::size_t> left;
        for (std::size_t i = 0; i < chains.size(); ++i)
            if (!first->items[i]) left.push_back(i);
        if (left.empty()) break;
        const auto now = part.withShape(first->shape, first->lineage);
        std::map<int, int> faceNow;
        for (const Link& link : first->lineage.faces())
            if (link.after > 0 && link.before > 0) faceNow.emplace(link.before, link.after);
        auto found = survey::findStrips(*now, 1.0, progress);
        if (!found) return tl::unexpected(found.error());
        std::vector<StripChain> again;
        std::vector<std::size_t> whose;
        for (StripChain& chain : *found)
            for (const std::size_t i : left)
                if (std::any_of(chains[i].faces.begin(), chains[i].faces.end(), [&](int f) {
                        return faceNow.contains(f) &&
                               std::binary_search(chain.faces.begin(), chain.faces.end(), faceNow.at(f));
                    })) {
                    again.push_back(std::move(chain));
                    whose.push_back(i);
                    break;
                }
        if (again.empty()) break;
        auto second = heal::removeFaces(*now, wantedFor(again), tolerance, progress);
        if (!second) return tl::unexpected(second.error());
        if (second->shape.IsNull()) break;
        bool any = false;
        for (const std::size_t i : left) {
            bool gone = true, seen = false;
            for (std::size_t k = 0; k < again.size(); ++k)
                if (whose[k] == i) {
                    seen = true;
                    gone = gone && second->items[k].has_value();
                }
            if (seen && gone) {
                first->items[i] = {};
                any = true;
            }
        }
        first->shape = second->shape;
        first->lineage = chained(first->lineage, second->lineage);
        if (!any) break;
    }
    return first;
}

Result<Outcome> removeRounds(const Model& model, const RemoveStrips& step, Progress& progress) {
    return removeStrips(model, step, StripKind::Round, progress);
}
Result<Outcome> removeChamfers(const Model& model, const RemoveStrips& step, Progress& progress) {
    return removeStrips(model, step, StripKind::Chamfer, progress);
}

std::vector<ParameterInfo> RemoveStrips::infos() {
    return {
        {"upTo", "number", "mm", "Every chain whose largest radius (width) is no larger goes; 0: only those chosen.",
         0.0},
        {"from", "number", "mm", "And no smaller than this.", 0.0},
        {"parts", "list of names", "", "Parts to look at; empty: all.", Json::array()},
        {"sides", "list of words", "", "outer, inner; empty: both.", Json::array()},
        {"bends", "boolean", "", "The bends of sheets too.", false},
        {"chosen", "list of face references", "", "Any one face of each further chain that goes, whatever its size.",
         Json::array()},
        {"kept", "list of face references", "", "Any one face of each chain that stays.", Json::array()},
        {"along", "boolean", "", "Where one does not go by itself, what rests on it or ends at it goes too.", false}};
}
void to_json(Json& json, const RemoveStrips& step) {
    json = Json{{"upTo", step.upTo}};
    if (step.from > 0.0) json["from"] = step.from;
    if (!step.parts.empty()) json["parts"] = step.parts;
    if (!step.sides.empty()) json["sides"] = step.sides;
    if (step.bends) json["bends"] = true;
    if (!step.chosen.empty()) json["chosen"] = step.chosen;
    if (!step.kept.empty()) json["kept"] = step.kept;
    if (step.along) json["along"] = true;
}
void from_json(const Json& json, RemoveStrips& step) {
    step.along = json.value("along", false);
    step.upTo = json.value("upTo", 0.0);
    step.from = json.value("from", 0.0);
    step.parts = json.value("parts", std::vector<std::string>{});
    step.sides = json.value("sides", std::vector<std::string>{});
    step.bends = json.value("bends", false);
    step.chosen = json.value("chosen", std::vector<FaceRef>{});
    step.kept = json.value("kept", std::vector<FaceRef>{});
}

// --- any faces
// -------------------------------------------------------------------------------------------------------------

namespace {

/// Faces that touch each other, each group ascending.
std::vector<std::vector<int>> groupsOf(const Incidence& topology, const std::set<int>& faces) {
    std::vector<std::vector<int>> groups;
    std::set<int> left = faces;
    while (!left.empty()) {
        std::vector<int> group{*left.begin()};
        left.erase(left.begin());
        for (std::size_t i = 0; i < group.size(); ++i)
            for (const int g : topology.neighboursOf(group[i]))
                if (left.erase(g) > 0) group.push_back(g);
        std::sort(group.begin(), group.end());
        groups.push_back(std::move(group));
    }
    return groups;
}

/// Box of some faces: its middle, and its volume with a margin, as the bound of what may change.
std::pair<gp_Pnt, double> extentOf(const Incidence& topology, const std::vector<int>& faces) {
    Bnd_Box box;
    for (const int f : faces) BRepBndLib::Add(topology.face(f), box, false);
    if (box.IsVoid()) return {gp_Pnt(), 0.0};
    const gp_Pnt low = box.CornerMin(), high = box.CornerMax();
    const double margin = 0.1 * low.Distance(high);
    return {gp_Pnt(0.5 * (low.XYZ() + high.XYZ())),
            (high.X() - low.X() + margin) * (high.Y() - low.Y() + margin) * (high.Z() - low.Z() + margin)};
}

}  // namespace

std::vector<ParameterInfo> RemoveFaces::infos() {
    return {{"faces", "list of face references", "", "The faces to take out.", Json::array()},
            {"along", "boolean", "",
             "Where they do not go by themselves, what rests on them or lies beside them goes too.", false},
            {"closing", "number", "", "Which of the sound ways to close the wound is taken: 0 the nearest, 1 the next.",
             0}};
}
void to_json(Json& json, const RemoveFaces& step) {
    json = Json{{"faces", step.faces}};
    if (step.along) json["along"] = true;
    if (step.closing > 0) json["closing"] = step.closing;
}
void from_json(const Json& json, RemoveFaces& step) {
    step.faces = json.at("faces").get<std::vector<FaceRef>>();
    step.along = json.value("along", false);
    step.closing = json.value("closing", 0);
}

Result<Outcome> removeFaces(const Model& model, const RemoveFaces& step, Progress& progress) {
    if (step.faces.empty()) return fail(ProblemKind::BadInput, "No faces were named.", "Pick the faces to remove.");
    if (step.closing < 0) return fail(ProblemKind::BadInput, "The way to close the wound is counted from 0.");
    std::map<std::size_t, std::set<int>> picked;
    for (const FaceRef& reference : step.faces) {
        const auto found = findFace(model, reference);
        if (!found) return tl::unexpected(found.error());
        picked[found->part].insert(found->face);
    }
    Outcome outcome;
    outcome.model = model;
    const double tolerance = model.samePoint();
    std::size_t removed = 0;
    for (const auto& [p, faces] : picked) {
        const Part& part = *model.parts[p];
        const Incidence& topology = part.incidence();
        auto strips = survey::findStrips(part, model.targetSize, progress);
        if (!strips) return tl::unexpected(strips.error());
        const auto groups = groupsOf(topology, faces);
        std::vector<heal::Wanted> wanted;
        std::vector<std::size_t> added;
        for (const std::vector<int>& group : groups) {
            heal::Wanted one;
            one.name = group.size() == 1
                           ? fmt::format("Face {} of \"{}\"", group.front(), part.name)
                           : fmt::format("What was picked ({} of \"{}\")", counted(group.size(), "face"), part.name);
            one.faces = group;
            std::tie(one.middle, one.change) = extentOf(topology, group);
            one.closing = step.closing;
            wanted.push_back(std::move(one));
        }
        auto removal = heal::removeFaces(part, wanted, tolerance, progress);
        if (!removal) return tl::unexpected(removal.error());
        // As rounds, where the picked faces are: with the whole chain that they belong to.
        added.assign(groups.size(), 0);
        bool retry = false;
        for (std::size_t i = 0; i < groups.size(); ++i) {
            if (removal->items[i]) continue;
            std::set<int> whole(groups[i].begin(), groups[i].end());
            heal::Wanted& one = wanted[i];
            for (const StripChain& chain : *strips) {
                if (std::none_of(chain.faces.begin(), chain.faces.end(), [&](int f) { return whole.contains(f); }))
                    continue;
                one.strips.insert(one.strips.end(), chain.strips.begin(), chain.strips.end());
                whole.insert(chain.faces.begin(), chain.faces.end());
            }
            if (one.strips.empty()) continue;
            // Only where all that was picked is round: a boss with its round is a wound of its own.
            std::set<int> ofStrips;
            for (const StripChain& chain : *strips) ofStrips.insert(chain.faces.begin(), chain.faces.end());
            if (std::any_of(groups[i].begin(), groups[i].end(), [&](int f) { return !ofStrips.contains(f); }))
                one.strips.clear();
            added[i] = whole.size() - groups[i].size();
            one.faces.assign(whole.begin(), whole.end());
            one.change = std::max(one.change, extentOf(topology, one.faces).second);
            retry = true;
        }
        if (retry) {
            auto again = heal::removeFaces(part, wanted, tolerance, progress);
            if (!again) return tl::unexpected(again.error());
            const auto done = [](const heal::Removal& r) {
                return std::count_if(r.items.begin(), r.items.end(), [](const auto& item) { return item.has_value(); });
            };
            if (done(*again) > done(*removal))
                removal = std::move(again);
            else
                std::fill(added.begin(), added.end(), 0);
        }
        if (const auto with = tellLacking(part, wanted, *strips, tolerance, *removal, progress); step.along) {
            std::vector<heal::Wanted> more = wanted;
            for (std::size_t i = 0; i < groups.size(); ++i) {
                if (removal->items[i] || removal->items[i].error().lacking.empty()) continue;
                std::set<int> ofChains;
                for (const StripChain& chain : with) ofChains.insert(chain.faces.begin(), chain.faces.end());
                for (const int f : removal->items[i].error().lacking)
                    if (!ofChains.contains(f)) more[i].faces.push_back(f);
                more[i].change = std::max(more[i].change, extentOf(topology, more[i].faces).second);
                added[i] += removal->items[i].error().lacking.size();
            }
            std::vector<heal::Wanted> chains = wantedFor(with);
            for (heal::Wanted& chain : chains) chain.layer -= 1000;  // what rests on others goes before those
            more.insert(more.end(), chains.begin(), chains.end());
            auto again = heal::removeFaces(part, more, tolerance, progress);
            if (!again) return tl::unexpected(again.error());
            const auto done = [&](const heal::Removal& r) {
                return std::count_if(r.items.begin(), r.items.begin() + static_cast<std::ptrdiff_t>(groups.size()),
                                     [](const auto& item) { return item.has_value(); });
            };
            if (done(*again) > done(*removal)) {
                removal = std::move(again);
                wanted = std::move(more);
            }
        }
        for (std::size_t i = 0; i < groups.size(); ++i) {
            Item item{fmt::format("{} of {}{}", counted(groups[i].size(), "face"), part.name,
                                  added[i] > 0 ? fmt::format(", and {} that belong to them", added[i]) : std::string()),
                      removal->items[i].has_value(),
                      {},
                      0.0};
            if (item.done)
                removed += groups[i].size() + added[i];
            else
                item.problem = removal->items[i].error();
            outcome.items.push_back(std::move(item));
        }
        if (removal->shape.IsNull()) continue;
        removal->lineage.part = p;
        std::vector<const StripChain*> gone;
        for (const StripChain& chain : *strips)
            for (std::size_t i = 0; i < wanted.size(); ++i)
                if (removal->items[i] && std::all_of(chain.faces.begin(), chain.faces.end(), [&](int f) {
                        return std::find(wanted[i].faces.begin(), wanted[i].faces.end(), f) != wanted[i].faces.end();
                    })) {
                    gone.push_back(&chain);
                    break;
                }
        outcome.model.parts[p] = noted(part, part.withShape(removal->shape, removal->lineage), gone);
        outcome.lineage.push_back(std::move(removal->lineage));
    }
    if (removed == 0)
        for (const Item& item : outcome.items)
            if (!item.done) return tl::unexpected(item.problem);
    outcome.summary =
        fmt::format("Remove {}{}", counted(removed, "face"), step.closing > 0 ? ", closed another way" : "");
    progress.report(1.0, outcome.summary);
    return outcome;
}

}  // namespace rasoir::shave
