#include "reduce/midsurface.h"

#include <fmt/format.h>

#include <BRepTools.hxx>
#include <BRepTopAdaptor_FClass2d.hxx>

#include "common/tolerance.h"
#include "join/pairs.h"
#include "model/places.h"
#include "reduce/beside.h"
#include "reduce/laps.h"
#include "reduce/loose_pieces.h"
#include "reduce/reduced_part.h"
#include "reduce/rims.h"

namespace rasoir::reduce {
namespace {

/// A part that is parted for itself is the mirror image of no other one any more, which is told.
void partFromItsImage(Outcome& outcome, std::size_t p) {
    if (outcome.model.mirrorPairOf(p) == nullptr) return;
    std::erase_if(outcome.model.mirrors, [p](const MirrorPair& pair) { return pair.original == p || pair.image == p; });
    outcome.notes.push_back(fmt::format("\"{}\" was parted for itself: its mirror image is a part of its own now.",
                                        outcome.model.parts[p]->name));
}

/// Sheets and the solids that they end on get the line where they meet in common.
Result<void> joinBeside(Outcome& outcome, const std::vector<std::pair<std::size_t, std::size_t>>& beside,
                        Progress& progress) {
    for (const auto& [sheet, solid] : beside) {
        outcome.model.giveIds();
        join::Pairs pairs;
        pairs.places = {outcome.model.parts[sheet]->name, outcome.model.parts[solid]->name};
        auto joined = join::joinPairs(outcome.model, pairs, progress);
        if (!joined) {
            if (joined.error().kind == ProblemKind::Cancelled) return tl::unexpected(joined.error());
            outcome.notes.push_back(fmt::format("\"{}\" and \"{}\" lie on each other but are not joined: {}",
                                                pairs.places[0], pairs.places[1], joined.error().what));
            continue;
        }
        outcome.lineage = followed(std::move(outcome.lineage), joined->lineage);
        outcome.model = std::move(joined->model);
        outcome.jointsMade += joined->jointsMade;
        outcome.notes.push_back(
            fmt::format("\"{}\" ends on \"{}\" in lines alone, about which it can turn like a hinge.", pairs.places[0],
                        pairs.places[1]));
    }
    return {};
}

/// Walls named by faces: by part, the faces of each.
using NamedWalls = std::map<std::size_t, std::vector<std::vector<int>>>;

Result<NamedWalls> namedWalls(const Model& model, const std::vector<std::vector<FaceRef>>& pairs) {
    NamedWalls named;
    for (const auto& pair : pairs) {
        std::vector<int> faces;
        std::size_t part = 0;
        for (const FaceRef& face : pair) {
            const auto found = findFace(model, face);
            if (!found) return tl::unexpected(found.error());
            if (!faces.empty() && found->part != part)
                return fail(ProblemKind::BadInput,
                            fmt::format("\"{}\" and \"{}\" cannot have the two sides of one wall.",
                                        model.parts[part]->name, model.parts[found->part]->name),
                            "Name two faces of one part.");
            part = found->part;
            faces.push_back(found->face);
        }
        named[part].push_back(std::move(faces));
    }
    return named;
}

/// The wall that is meant by a face on either side, or by one alone; the thinnest of several.
const Wall* wallMeant(const std::vector<Wall>& walls, const std::vector<int>& faces) {
    const Wall* meant = nullptr;
    for (const Wall& wall : walls) {
        const auto on = [](const std::vector<int>& side, int face) {
            return std::find(side.begin(), side.end(), face) != side.end();
        };
        const int a = faces.front(), b = faces.back();
        const bool fits = faces.size() == 1
                              ? on(wall.sideA, a) || on(wall.sideB, a)
                              : (on(wall.sideA, a) && on(wall.sideB, b)) || (on(wall.sideA, b) && on(wall.sideB, a));
        if (fits && (meant == nullptr || wall.thickness < meant->thickness)) meant = &wall;
    }
    return meant;
}

/// The walls of a part that a step takes: by its limits, with those that it names and without those it names as not.
Result<std::vector<Wall>> wallsTaken(const Part& part, std::size_t p, const Midsurface& step, const NamedWalls& pairs,
                                     const NamedWalls& notPairs, Progress& progress) {
    const bool byHand = pairs.contains(p) || notPairs.contains(p);
    // A wall that is named counts whatever its thickness, so all there are have to be known.
    auto found = findWalls(part, byHand ? 0.0 : step.from, byHand ? 0.0 : step.upTo, progress);
    if (!found) return found;
    std::set<const Wall*> named, barred;
    for (const auto& [list, into] : {std::pair(&pairs, &named), std::pair(&notPairs, &barred)})
        if (const auto own = list->find(p); own != list->end())
            for (const std::vector<int>& faces : own->second) {
                const Wall* wall = wallMeant(*found, faces);
                if (wall == nullptr)
                    return fail(ProblemKind::BadInput,
                                faces.size() == 1
                                    ? fmt::format("Face {} of \"{}\" is no side of a wall.", faces[0], part.name)
                                    : fmt::format("Faces {} and {} of \"{}\" are not the two sides of a wall.",
                                                  faces[0], faces[1], part.name),
                                "Two flat, round or conical faces make one that lie at one distance all along.",
                                {part.name, faces, {}});
                into->insert(wall);
            }
    std::vector<Wall> taken;
    for (const Wall& wall : *found) {
        const bool fits = wall.slenderness != Slenderness::Thick &&
                          (wall.slenderness != Slenderness::Doubtful || step.doubtful) && wall.thickness >= step.from &&
                          (step.upTo == 0.0 || wall.thickness <= step.upTo * (1.0 + Tolerance::rounding));
        if ((fits || named.contains(&wall)) && !barred.contains(&wall)) taken.push_back(wall);
    }
    return taken;
}

}  // namespace

std::vector<ParameterInfo> Midsurface::infos() {
    return {
        {"parts", "list of names", "", "Parts to reduce, names or patterns; empty: all.", Json::array()},
        {"from", "number", "mm", "Walls no thinner than this.", 0.0},
        {"upTo", "number", "mm", "And no thicker; 0: whatever is thin for its breadth.", 0.0},
        {"flushUpTo", "number", "mm",
         "At a step in thickness, a wall whose middle is off its sheet by no more than this is taken to lie on it; 0: "
         "each offset is kept.",
         0.0},
        {"steps", "word", "",
         "Where the thickness steps. offset: one sheet, whose faces know how far their middle is off it; bridge: each "
         "wall keeps its middle, and a short sheet across joins them.",
         "offset"},
        {"doubtful", "yes or no", "", "Also walls thicker than a tenth of their breadth.", false},
        {"laps", "yes or no", "",
         "Sheets of walls that lay on each other, and pieces of one body that no edge joins, are tied by a link.",
         true},
        {"pairs", "list of pairs of face references", "",
         "Walls that are taken however thick: a face on either side, or one alone.", Json::array()},
        {"notPairs", "list of pairs of face references", "", "Walls that are not taken.", Json::array()}};
}
void to_json(Json& json, const Midsurface& step) {
    json = Json{{"from", step.from}, {"upTo", step.upTo}};
    if (!step.parts.empty()) json["parts"] = step.parts;
    if (step.flushUpTo > 0.0) json["flushUpTo"] = step.flushUpTo;
    if (step.steps != "offset") json["steps"] = step.steps;
    if (step.doubtful) json["doubtful"] = true;
    if (!step.laps) json["laps"] = false;
    if (!step.pairs.empty()) json["pairs"] = step.pairs;
    if (!step.notPairs.empty()) json["notPairs"] = step.notPairs;
}
void from_json(const Json& json, Midsurface& step) {
    step.parts = json.value("parts", std::vector<std::string>{});
    step.from = json.value("from", 0.0);
    step.upTo = json.value("upTo", 0.0);
    step.flushUpTo = json.value("flushUpTo", 0.0);
    step.steps = json.value("steps", std::string("offset"));
    step.doubtful = json.value("doubtful", false);
    step.laps = json.value("laps", true);
    step.pairs = json.value("pairs", std::vector<std::vector<FaceRef>>{});
    step.notPairs = json.value("notPairs", std::vector<std::vector<FaceRef>>{});
    for (const auto* pairs : {&step.pairs, &step.notPairs})
        for (const auto& pair : *pairs)
            if (pair.empty() || pair.size() > 2)
                throw std::invalid_argument("a wall is named by one face, or by one on either side");
}

Result<Outcome> midsurface(const Model& received, const Midsurface& step, Progress& progress) {
    if (!(step.flushUpTo >= 0.0) || !std::isfinite(step.flushUpTo))
        return fail(ProblemKind::BadInput, "That is no distance up to which steps could be made flush.");
    if (step.steps != "offset" && step.steps != "bridge")
        return fail(ProblemKind::BadInput, fmt::format("\"{}\" is no way to treat steps in thickness.", step.steps),
                    "Say offset or bridge.");
    if (!(step.from >= 0.0) || !(step.upTo >= 0.0) || !std::isfinite(step.from) || !std::isfinite(step.upTo) ||
        (step.upTo > 0.0 && step.upTo < step.from))
        return fail(ProblemKind::BadInput, "The limits of thickness make no range.", "Give a lower and an upper one.");
    Model model = received;
    model.giveIds();
    const auto chosen = partsNamed(model, step.parts);
    if (!chosen) return tl::unexpected(chosen.error());
    const auto pairs = namedWalls(model, step.pairs), notPairs = namedWalls(model, step.notPairs);
    if (!pairs) return tl::unexpected(pairs.error());
    if (!notPairs) return tl::unexpected(notPairs.error());
    const double tolerance = model.samePoint();
    if (step.upTo > 0.0 && step.upTo < 10.0 * tolerance)
        return fail(ProblemKind::BadInput, "That thickness is below what counts as zero in this model.");
    Outcome outcome;
    outcome.model = model;
    std::size_t done = 0, walls = 0;
    std::vector<std::pair<std::size_t, std::size_t>> beside;  // parts: the sheets, and what stays solid of it
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        if (step.parts.empty() ? model.isAside(p) : !std::binary_search(chosen->begin(), chosen->end(), p)) continue;
        const Part& part = *model.parts[p];
        if (part.lump || part.kind() != BodyKind::Solid) continue;
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        auto found = wallsTaken(part, p, step, *pairs, *notPairs, progress);
        if (!found) return tl::unexpected(found.error());
        Item item{part.name, false, {}, 0.0};
        if (found->empty()) {
            if (step.parts.empty()) continue;
            item.problem = {
                ProblemKind::NotPossible,
                fmt::format("\"{}\" has no wall that is thin for its breadth within these limits.", part.name),
                {part.name, {}, {}},
                "Raise the limit, or take the doubtful ones too."};
            outcome.items.push_back(std::move(item));
            continue;
        }
        auto made = reducePart(part, *found, step.steps == "bridge" ? AtSteps::Bridge : AtSteps::KeepOffset, tolerance,
                               progress);
        if (!made) {
            if (made.error().kind == ProblemKind::Cancelled) return tl::unexpected(made.error());
            item.what = fmt::format("\"{}\" stays a solid", part.name);
            item.problem = made.error();
            if (item.problem.where.part.empty()) item.problem.where.part = part.name;
            outcome.items.push_back(std::move(item));
            continue;
        }
        Sheets* sheets = &made->sheets;
        const double volume = made->volume, thickVolume = made->solidVolume;
        outcome.notes.insert(outcome.notes.end(), made->notes.begin(), made->notes.end());
        std::string solidName;
        if (!made->solid.IsNull()) {
            const std::size_t fresh =
                addBeside(outcome, p, made->solid, std::move(made->toSolid), part.name + ", solid");
            partFromItsImage(outcome, p);
            auto rest = outcome.model.parts[fresh]->copy();
            rest->standsFor = model.parts[p];
            outcome.model.parts[fresh] = std::move(rest);
            if (made->cutOff) beside.emplace_back(p, fresh);
            solidName = outcome.model.parts[fresh]->name;
        }
        auto reduced = remade(part, sheets->shape, sheets->lineage);
        reduced->standsFor = model.parts[p];
        double drawn = 0.0;
        for (auto& [face, thickness] : sheets->thickness) {
            if (std::abs(thickness.offset) <= step.flushUpTo * (1.0 + Tolerance::rounding)) {
                drawn = std::max(drawn, std::abs(thickness.offset));
                thickness.offset = 0.0;
            }
            reduced->known.thickness[{EntityKind::Face, face}] = thickness;
        }
        if (drawn > 0.0)
            outcome.notes.push_back(
                fmt::format("Steps of \"{}\" were made flush, the largest by {} mm.", part.name, readable(drawn, 2)));
        outcome.model.parts[p] = std::move(reduced);
        sheets->lineage.part = p;
        sheets->lineage.into = p;
        outcome.lineage.push_back(std::move(sheets->lineage));
        item.done = true;
        item.what = fmt::format("\"{}\": {} in {}, {} shared by three and more faces, volume {} % of the solid's",
                                part.name, counted(sheets->thickness.size(), "sheet face"),
                                counted(static_cast<std::size_t>(sheets->connected), "piece"),
                                counted(static_cast<std::size_t>(sheets->joints), "edge"),
                                readable(100.0 * (sheets->mass + thickVolume) / volume, 2));
        if (thickVolume > 0.0)
            item.what += fmt::format("; {} mm³ of it stay solid, as \"{}\"", readable(thickVolume), solidName);
        outcome.items.push_back(std::move(item));
        ++done;
        walls += made->walls;
    }
    if (done == 0) {
        for (const Item& item : outcome.items) return tl::unexpected(item.problem);
        return fail(ProblemKind::NothingToDo, "Nothing here has walls that are thin for their breadth.",
                    "Raise the limit, or take the doubtful ones too.");
    }
    if (auto fine = joinBeside(outcome, beside, progress); !fine) return tl::unexpected(fine.error());
    if (step.laps) {
        if (auto fine = linkLaps(model, outcome, progress); !fine) return tl::unexpected(fine.error());
        if (auto fine = tieLoosePieces(model, outcome, progress); !fine) return tl::unexpected(fine.error());
    }
    tellRims(model, outcome);
    outcome.summary = fmt::format("Make sheets of {} in {}", counted(walls, "wall"), counted(done, "part"));
    progress.report(1.0, outcome.summary);
    return outcome;
}

}  // namespace rasoir::reduce
