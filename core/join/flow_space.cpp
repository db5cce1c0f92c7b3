#include "join/flow_space.h"

#include <fmt/format.h>

#include <BRepClass3d_SolidClassifier.hxx>
#include <set>

#include "arrange/choice.h"
#include "common/sets.h"
#include "geometry/integrals.h"
#include "join/contacts.h"
#include "join/leaks.h"
#include "join/openings.h"
#include "join/pairs.h"
#include "model/places.h"

// 1. Lids: over every opening that is found, or over those that are named; narrow ones always.
// 2. Walls and lids are arranged together. What lies in no wall and is not the outside is closed space; the flow is
//    the one with the seed.
// 3. Where the seed's space has an opening without a lid behind which is the outside, that opening is the leak. Where
//    the space is the outside although all openings are closed, the leak is a gap: the widest way out is looked for
//    (leaks), and what is narrower than one looks for is told by the near misses.
// 4. The flow body is a part of its own. Joined to its walls it is by the step that joins any bodies: its faces lie on
//    theirs exactly.

namespace rasoir::join {
namespace {

class FlowMaker {
public:
    FlowMaker(const Model& received, const FlowSpace& step, Progress& progress)
        : m_model(received), m_step(step), m_progress(progress) {
        m_model.giveIds();
    }

    Result<Outcome> run() {
        if (auto fine = collect(); !fine) return tl::unexpected(fine.error());
        if (auto fine = closeOpenings(); !fine) return tl::unexpected(fine.error());
        std::vector<arrange::Input> inputs;
        for (const std::size_t o : m_walls)
            inputs.push_back({m_model.parts[m_model.occurrences[o].part]->shape.Moved(
                                  TopLoc_Location(m_model.occurrences[o].placement)),
                              placeName(m_model, o)});
        m_wanted = m_lids.size();
        m_lids.insert(m_lids.end(), m_open.begin(), m_open.end());
        for (std::size_t l = 0; l < m_lids.size(); ++l) inputs.push_back({m_lids[l].lid, fmt::format("lid {}", l + 1)});
        auto all = arrange::arrange(std::move(inputs), m_model.tolerances().samePoint, m_progress);
        if (!all) return tl::unexpected(all.error());
        m_all = std::move(*all);
        if (auto fine = findSpaces(); !fine) return tl::unexpected(fine.error());
        const auto chosen = spaceOfSeed();
        if (!chosen) return tl::unexpected(chosen.error());
        return outcomeOf(*chosen);
    }

private:
    /// A space that no body fills.
    struct Space {
        std::vector<int> cells;
        arrange::Chosen body;
        std::set<std::size_t> lids, leaks;  // of m_lids: between it and the outside; leaks got no lid
    };
    using FaceOfPlace = std::pair<std::size_t, int>;

    Model m_model;
    const FlowSpace& m_step;
    Progress& m_progress;
    std::vector<std::size_t> m_walls;  // occurrences, in step with the first inputs
    std::vector<Opening> m_lids;       // the inputs after those: first those wanted, then m_open
    std::vector<Opening> m_open;       // openings that got no lid
    std::size_t m_wanted = 0;
    arrange::Arrangement m_all;
    std::vector<Space> m_spaces;
    std::optional<FaceOfPlace> m_seedFace;

    Result<void> collect() {
        if (m_step.name.find_first_not_of(" \t") == std::string::npos)
            return fail(ProblemKind::BadInput, "The flow space has no name.", "Give it one.");
        if (!(m_step.ignoreUpTo >= 0.0) || !std::isfinite(m_step.ignoreUpTo))
            return fail(ProblemKind::BadInput, "The widest opening that closes by itself is no length.");
        const auto meant = placesMeant(m_model, m_step.places);
        if (!meant) return tl::unexpected(meant.error());
        for (const std::size_t o : *meant) {
            const Part& part = *m_model.parts[m_model.occurrences[o].part];
            if (part.lump || part.shape.IsNull()) continue;
            if (part.kind() == BodyKind::Solid)
                m_walls.push_back(o);
            else if (!m_step.places.empty())
                return fail(ProblemKind::NotPossible,
                            fmt::format("\"{}\" is open and cannot be a wall.", placeName(m_model, o)),
                            "Close it in Mend, or thicken it.", {part.name, {}, {}});
        }
        if (m_walls.empty()) return fail(ProblemKind::NotPossible, "There is no solid that could be a wall.");
        if (m_step.seed.face) {
            const auto found = findFace(m_model, *m_step.seed.face);
            if (!found) return tl::unexpected(found.error());
            for (const std::size_t o : m_walls)
                if (m_model.occurrences[o].part == found->part && !m_seedFace) m_seedFace = {o, found->face};
            if (!m_seedFace)
                return fail(ProblemKind::NotPossible,
                            fmt::format("\"{}\", on which the seed lies, is none of the walls.",
                                        m_model.parts[found->part]->name),
                            "Name it as a wall, or take another seed.");
        }
        return {};
    }

    Result<void> closeOpenings() {
        auto found = findOpenings(m_model, m_walls, m_progress);
        if (!found) return tl::unexpected(found.error());
        if (m_step.lids.empty()) {
            m_lids = std::move(*found);
            return {};
        }
        std::set<std::size_t> closed;
        for (const auto& loop : m_step.lids) {
            std::vector<std::pair<std::size_t, int>> edges;
            for (const EntityRef& reference : loop) {
                if (reference.entity.kind != EntityKind::Edge)
                    return fail(ProblemKind::BadInput, "A lid is given by edges.", "Pick the edges round the opening.");
                const auto edge = findEntity(m_model, reference);
                if (!edge) return tl::unexpected(edge.error());
                for (const std::size_t o : m_walls)
                    if (m_model.occurrences[o].part == edge->part) {
                        edges.emplace_back(o, edge->entity.number);
                        break;
                    }
            }
            // One edge of an inner loop names all of it.
            const auto known = std::find_if(found->begin(), found->end(), [&](const Opening& opening) {
                return !edges.empty() && std::all_of(edges.begin(), edges.end(), [&](const auto& one) {
                    return one.first == opening.place &&
                           std::find(opening.edges.begin(), opening.edges.end(), one.second) != opening.edges.end();
                });
            });
            if (known != found->end()) {
                if (closed.insert(static_cast<std::size_t>(known - found->begin())).second) m_lids.push_back(*known);
                continue;
            }
            auto made = openingOf(m_model, edges);
            if (!made) return tl::unexpected(made.error());
            m_lids.push_back(std::move(*made));
        }
        for (std::size_t i = 0; i < found->size(); ++i) {
            if (closed.contains(i)) continue;
            Opening& opening = (*found)[i];
            (opening.hydraulicDiameter() <= m_step.ignoreUpTo ? m_lids : m_open).push_back(std::move(opening));
        }
        return {};
    }

    /// The lid that a piece is of; none for a piece of a wall.
    [[nodiscard]] std::optional<std::size_t> lidOf(int piece) const {
        std::optional<std::size_t> lid;
        for (const arrange::Owner& owner : m_all.pieces[static_cast<std::size_t>(piece)].owners) {
            const auto input = static_cast<std::size_t>(owner.input);
            if (input < m_walls.size()) return std::nullopt;
            lid = std::min(lid.value_or(input - m_walls.size()), input - m_walls.size());
        }
        return lid;
    }

    Result<void> findSpaces() {
        const auto isAir = [this](int cell) { return m_all.cells[static_cast<std::size_t>(cell)].inputs.empty(); };
        const auto isOutside = [this](int cell) { return m_all.cells[static_cast<std::size_t>(cell)].outermost; };
        Sets together(m_all.cells.size());
        for (std::size_t p = 0; p < m_all.pieces.size(); ++p) {
            const int a = m_all.pieces[p].plusCell, b = m_all.pieces[p].minusCell;
            if (lidOf(static_cast<int>(p)) && isAir(a) && isAir(b) && !isOutside(a) && !isOutside(b))
                together.join(a, b);
        }
        std::map<int, Space> byRoot;
        for (int c = 0; c < static_cast<int>(m_all.cells.size()); ++c)
            if (isAir(c) && !isOutside(c)) byRoot[together.root(c)].cells.push_back(c);
        for (std::size_t p = 0; p < m_all.pieces.size(); ++p) {
            const auto lid = lidOf(static_cast<int>(p));
            const int a = m_all.pieces[p].plusCell, b = m_all.pieces[p].minusCell;
            if (!lid || isOutside(a) == isOutside(b)) continue;
            if (const auto space = byRoot.find(together.root(isOutside(a) ? b : a)); space != byRoot.end())
                (*lid < m_wanted ? space->second.lids : space->second.leaks).insert(*lid);
        }
        for (auto& [root, space] : byRoot) {
            auto body = arrange::solidsOf(m_all, space.cells);
            if (!body) return tl::unexpected(body.error());
            space.body = std::move(*body);
            if (space.body.volume > 0.0) m_spaces.push_back(std::move(space));
        }
        std::stable_sort(m_spaces.begin(), m_spaces.end(),
                         [](const Space& a, const Space& b) { return a.body.volume > b.body.volume; });
        return {};
    }

    [[nodiscard]] bool wets(const Space& space, const FaceOfPlace& face) const {
        return std::any_of(space.body.faceOfPiece.begin(), space.body.faceOfPiece.end(), [&](const auto& one) {
            const auto& owners = m_all.pieces[static_cast<std::size_t>(one.first)].owners;
            return std::any_of(owners.begin(), owners.end(), [&](const arrange::Owner& owner) {
                const auto input = static_cast<std::size_t>(owner.input);
                return input < m_walls.size() && m_walls[input] == face.first && owner.number == face.second;
            });
        });
    }

    Result<std::size_t> spaceOfSeed() {
        if (m_step.seed.point) {
            const auto& [x, y, z] = *m_step.seed.point;
            const gp_Pnt seed(x, y, z);
            if (!std::isfinite(x + y + z)) return fail(ProblemKind::BadInput, "The seed is no point.");
            for (std::size_t s = 0; s < m_spaces.size(); ++s) {
                BRepClass3d_SolidClassifier within(m_spaces[s].body.shape, seed, m_model.tolerances().samePoint);
                if (within.State() == TopAbs_IN) return unlessLeaking(s, seed);
            }
            for (const std::size_t o : m_walls) {
                const Part& part = *m_model.parts[m_model.occurrences[o].part];
                BRepClass3d_SolidClassifier within(part.shape,
                                                   seed.Transformed(m_model.occurrences[o].placement.Inverted()),
                                                   m_model.tolerances().samePoint);
                if (within.State() == TopAbs_IN)
                    return fail(ProblemKind::NotPossible,
                                fmt::format("The seed lies in the material of \"{}\".", placeName(m_model, o)),
                                "Take a point in the space itself, or a face that the fluid wets.",
                                {part.name, {}, seed});
            }
            return leak(seed);
        }
        if (m_seedFace) {
            const Occurrence& place = m_model.occurrences[m_seedFace->first];
            const gp_Pnt seed = pointBefore(m_model, m_seedFace->first, m_seedFace->second, m_walls, m_progress)
                                    .value_or(skinOf(m_model.parts[place.part]->incidence().face(m_seedFace->second))
                                                  .centre.Transformed(place.placement));
            for (std::size_t s = 0; s < m_spaces.size(); ++s)
                if (wets(m_spaces[s], *m_seedFace)) return unlessLeaking(s, seed);
            return leak(seed);
        }
        for (std::size_t s = 0; s < m_spaces.size(); ++s)
            if (!m_spaces[s].lids.empty()) return unlessLeaking(s, m_lids[*m_spaces[s].lids.begin()].middle);
        if (!m_lids.empty()) return leak(m_lids.front().middle);
        return fail(ProblemKind::NotPossible, "These bodies have no opening, so nothing can flow through them.",
                    "Closed cavities are found by the check; or give lids by the edges round them.");
    }

    /// A space, unless it has the outside behind an opening without a lid.
    Result<std::size_t> unlessLeaking(std::size_t s, const gp_Pnt& seed) const {
        const Space& space = m_spaces[s];
        if (space.leaks.empty()) return s;
        const std::size_t nearest =
            *std::min_element(space.leaks.begin(), space.leaks.end(), [&](std::size_t a, std::size_t b) {
                return m_lids[a].middle.SquareDistance(seed) < m_lids[b].middle.SquareDistance(seed);
            });
        const Opening& mouth = m_lids[nearest];
        return fail(ProblemKind::NotPossible,
                    fmt::format("The flow gets outside through an opening of \"{}\", {} mm wide, at ({}, {}, {}){}.",
                                placeName(m_model, mouth.place), readable(mouth.hydraulicDiameter()),
                                readable(mouth.middle.X()), readable(mouth.middle.Y()), readable(mouth.middle.Z()),
                                space.leaks.size() > 1 ? fmt::format(", and through {}",
                                                                     counted(space.leaks.size() - 1, "other", "others"))
                                                       : ""),
                    "Put a lid on it, or let openings up to that width close by themselves.",
                    {m_model.parts[m_model.occurrences[mouth.place].part]->name, {mouth.face}, mouth.middle});
    }

    /// Where the flow gets outside when no opening is to blame.
    tl::unexpected<Problem> leak(const gp_Pnt& seed) {
        // No mouth: then it is between walls.
        std::vector<TopoDS_Face> lids;
        for (const Opening& lid : m_lids) lids.push_back(lid.lid);
        const auto found = findLeaks(m_model, m_walls, lids, seed, finestLeak(m_model), m_progress);
        if (!found && found.error().kind == ProblemKind::Cancelled) return tl::unexpected(found.error());
        if (found && !found->leaks.empty()) {
            const Leak& widest = found->leaks.front();
            const std::size_t own = widest.placeA < m_model.occurrences.size() ? widest.placeA : m_walls.front();
            return fail(ProblemKind::NotPossible,
                        fmt::format("The flow gets outside {}{}.", describe(m_model, widest),
                                    found->leaks.size() > 1
                                        ? fmt::format(", and in {}", counted(found->leaks.size() - 1, "other place"))
                                        : std::string()),
                        "Join the bodies with a limit that wide first, put a lid on it, or let gaps up to that width "
                        "close by themselves.",
                        {m_model.parts[m_model.occurrences[own].part]->name, {widest.faceA}, widest.where});
        }
        // Narrower than one looks for: the near misses say where.
        Model seen = m_model;
        for (std::size_t o = 0; o < seen.occurrences.size(); ++o)
            seen.occurrences[o].aside = std::find(m_walls.begin(), m_walls.end(), o) == m_walls.end();
        if (const auto report = findContacts(seen, m_model.targetSize, m_progress)) {
            const Contact* nearest = nullptr;
            for (const Contact& contact : report->contacts)
                if (contact.kind == ContactKind::Near && !contact.past &&
                    (nearest == nullptr || contact.where.Distance(seed) < nearest->where.Distance(seed)))
                    nearest = &contact;
            if (nearest != nullptr)
                return fail(
                    ProblemKind::NotPossible,
                    fmt::format("The flow gets outside between \"{}\" and \"{}\", {} mm wide, at ({}, {}, {}).",
                                placeName(m_model, nearest->placeA), placeName(m_model, nearest->placeB),
                                readable(nearest->widest), readable(nearest->where.X()), readable(nearest->where.Y()),
                                readable(nearest->where.Z())),
                    "Join the two with a limit that wide first, or put a lid on it.",
                    {m_model.parts[m_model.occurrences[nearest->placeA].part]->name, {nearest->faceA}, nearest->where});
        }
        return fail(ProblemKind::NotPossible, "The seed lies outside: no walls and lids close it in.",
                    "Take a point or a face inside, or put lids on what is open there.", {{}, {}, seed});
    }

    Result<Outcome> outcomeOf(std::size_t chosen) {
        const Space& space = m_spaces[chosen];
        Model with = m_model;
        auto part = std::make_shared<Part>(freeName(with, m_step.name), space.body.shape);
        const std::string name = part->name;
        part->known.regions[{EntityKind::Body, 1}] = RegionKind::Fluid;
        Occurrence place;
        place.part = with.parts.size();
        place.name = name;
        with.parts.push_back(part);
        with.occurrences.push_back(place);
        with.giveIds();
        // Which of its faces is what: a lid, or what it wets of a wall.
        std::map<std::string, std::set<int>> named;
        std::map<std::string, std::string> purposes;
        for (const auto& [piece, number] : space.body.faceOfPiece)
            for (const arrange::Owner& owner : m_all.pieces[static_cast<std::size_t>(piece)].owners) {
                const auto input = static_cast<std::size_t>(owner.input);
                const bool wall = input < m_walls.size();
                const std::string own =
                    wall ? fmt::format("{}, wall of {}", name, placeName(m_model, m_walls[input]))
                         : fmt::format("{}, lid {}", name,
                                       1 + std::distance(space.lids.begin(), space.lids.find(input - m_walls.size())));
                named[own].insert(number);
                purposes[own] = wall ? "wall" : "opening";
            }
        Outcome outcome;
        outcome.model = with;
        std::vector<Link> faces;
        if (m_step.joined) {
            Pairs joining;
            for (const std::size_t o : m_walls) joining.places.push_back(placeName(with, o));
            joining.places.push_back(name);
            auto joined = joinPairs(with, joining, m_progress);
            if (joined) {
                outcome = std::move(*joined);
                outcome.items.clear();
                for (const PartLineage& own : outcome.lineage)
                    if (own.part == place.part) faces = own.of(EntityKind::Face);
                // It is new: nothing was it before.
                std::erase_if(outcome.lineage, [&](const PartLineage& own) { return own.part == place.part; });
            } else {
                outcome.notes.push_back("It is not joined to its walls: " + sentence(joined.error()));
            }
        }
        const PartId id = outcome.model.parts[outcome.model.occurrences.back().part]->id;
        for (const auto& [own, numbers] : named) {
            Group group{own, purposes[own], std::nullopt, {}, std::nullopt};
            for (const int number : numbers) {
                if (faces.empty()) group.members.insert({id, everyPlace, {EntityKind::Face, number}});
                for (const Link& link : faces)
                    if (link.before == number && link.after > 0)
                        group.members.insert({id, everyPlace, {EntityKind::Face, link.after}});
            }
            putByName(outcome.model.groups, std::move(group));
        }
        outcome.items.push_back({fmt::format("\"{}\": {} mm³, {} mm² of walls and lids", name,
                                             readable(space.body.volume), readable(areaOf(space.body.shape))),
                                 true,
                                 {},
                                 space.body.volume});
        std::size_t number = 0;
        for (const std::size_t l : space.lids)
            outcome.items.push_back({fmt::format("lid {} on \"{}\": {} mm², hydraulic diameter {} mm", ++number,
                                                 placeName(m_model, m_lids[l].place), readable(m_lids[l].area),
                                                 readable(m_lids[l].hydraulicDiameter())),
                                     true,
                                     {},
                                     m_lids[l].hydraulicDiameter()});
        for (std::size_t s = 0; s < m_spaces.size(); ++s)
            if (s != chosen)
                outcome.notes.push_back(fmt::format("There is another closed space, {} mm³, with {}.",
                                                    readable(m_spaces[s].body.volume),
                                                    counted(m_spaces[s].lids.size(), "lid")));
        outcome.summary = fmt::format("Make the {}", name);
        return outcome;
    }
};

}  // namespace

std::vector<ParameterInfo> FlowSpace::infos() {
    return {{"places", "list of names", "", "The walls; empty: all solids.", Json::array()},
            {"lids", "list of lists of edges", "", "Loops of edges; empty: a lid on every opening.", Json::array()},
            {"ignoreUpTo", "number", "mm", "Openings no wider than this close by themselves.", 0.0},
            {"seed", "any", "mm", "A point or a face in the fluid; null: the largest space with a lid.", nullptr},
            {"name", "text", "", "Of the new part.", "flow space"},
            {"joined", "yes or no", "", "Walls and fluid get common faces.", true}};
}
void to_json(Json& json, const FlowSpace& step) {
    json = Json{{"name", step.name}};
    if (!step.places.empty()) json["places"] = step.places;
    if (!step.lids.empty()) json["lids"] = step.lids;
    if (step.ignoreUpTo > 0.0) json["ignoreUpTo"] = step.ignoreUpTo;
    if (step.seed.point) json["seed"] = *step.seed.point;
    if (step.seed.face) json["seed"] = *step.seed.face;
    if (!step.joined) json["joined"] = false;
}
void from_json(const Json& json, FlowSpace& step) {
    step.name = json.value("name", "flow space");
    step.places = json.value("places", std::vector<std::string>{});
    step.lids = json.value("lids", std::vector<std::vector<EntityRef>>{});
    step.ignoreUpTo = json.value("ignoreUpTo", 0.0);
    step.joined = json.value("joined", true);
    if (!json.contains("seed") || json.at("seed").is_null()) return;
    if (json.at("seed").is_array())
        step.seed.point = json.at("seed").get<std::array<double, 3>>();
    else
        step.seed.face = json.at("seed").get<FaceRef>();
}

Result<Outcome> makeFlowSpace(const Model& model, const FlowSpace& step, Progress& progress) {
    return FlowMaker(model, step, progress).run();
}

}  // namespace rasoir::join
