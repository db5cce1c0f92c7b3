#include "join/flow_space.h"

#include <fmt/format.h>

#include <BRepClass3d_SolidClassifier.hxx>
#include <set>

#include "arrange/choice.h"
#include "common/sets.h"
#include "geometry/integrals.h"
#include "join/contacts.h"
#include "join/flow_bodies.h"
#include "join/flow_parts.h"
#include "join/leaks.h"
#include "join/openings.h"
#include "model/places.h"

// 1. Lids: over every opening that is found, or over those that are named; narrow ones always. Gaps that may close by
//    themselves get a plug, a body that closes it, once they are found to leak.
// 2. Walls and lids are arranged together. What lies in no wall and is not the outside is closed space; the flow is
//    the one with the seed.
// 3. Where the seed's space has an opening without a lid behind which is the outside, that opening is the leak. Where
//    the space is the outside although all openings are closed, the leak is a gap: the widest way out is looked for
//    (leaks), and what is narrower than one looks for is told by the near misses.
// 4. Sheets stand in the flow and part nothing of it: cells on either side of one are one space.
// 5. The flow body is a part of its own. Joined to its walls it is by the step that joins any bodies: its faces lie on
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
        m_wanted = m_lids.size();
        m_lids.insert(m_lids.end(), m_open.begin(), m_open.end());
        constexpr int mostRounds = 3;  // what a plug closes may show a further gap
        for (int round = 1;; ++round) {
            if (auto fine = arrangeAll(); !fine) return tl::unexpected(fine.error());
            m_pluggable.clear();
            const auto chosen = spaceOfSeed();
            if (chosen) return outcomeOf(*chosen);
            if (m_pluggable.empty() || round == mostRounds) return tl::unexpected(chosen.error());
            m_plugs.insert(m_plugs.end(), m_pluggable.begin(), m_pluggable.end());
        }
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
    std::vector<std::size_t> m_walls;   // occurrences, in step with the first inputs
    std::vector<std::size_t> m_sheets;  // occurrences, in step with the last: what stands in the flow
    std::vector<Opening> m_lids;        // the inputs after those: first those wanted, then m_open
    std::vector<Opening> m_open;        // openings that got no lid
    std::size_t m_wanted = 0;
    std::vector<TopoDS_Shape> m_plugs, m_pluggable;  // in narrow gaps; those that would close what leaks still
    std::optional<Leak> m_told;                      // that the last refusal spoke of
    arrange::Arrangement m_all;
    std::vector<Space> m_spaces;
    std::optional<FaceOfPlace> m_seedFace;

    [[nodiscard]] arrange::Input inputOf(std::size_t o) const {
        const Occurrence& place = m_model.occurrences[o];
        return {m_model.parts[place.part]->shape.Moved(TopLoc_Location(place.placement)), placeName(m_model, o)};
    }
    [[nodiscard]] std::vector<arrange::Input> wallInputs() const {
        std::vector<arrange::Input> inputs;
        for (const std::size_t o : m_walls) inputs.push_back(inputOf(o));
        return inputs;
    }
    [[nodiscard]] std::size_t firstSheet() const { return m_all.inputs.size() - m_sheets.size(); }
    /// Whether a piece is of sheets alone: the flow goes on behind it.
    [[nodiscard]] bool isSheet(std::size_t piece) const {
        const auto& owners = m_all.pieces[piece].owners;
        return std::all_of(owners.begin(), owners.end(), [this](const arrange::Owner& owner) {
            return static_cast<std::size_t>(owner.input) >= firstSheet();
        });
    }
    Result<void> arrangeAll() {
        std::vector<arrange::Input> inputs = wallInputs();
        for (std::size_t l = 0; l < m_lids.size(); ++l) inputs.push_back({m_lids[l].lid, fmt::format("lid {}", l + 1)});
        for (std::size_t p = 0; p < m_plugs.size(); ++p) inputs.push_back({m_plugs[p], fmt::format("plug {}", p + 1)});
        for (const std::size_t o : m_sheets) inputs.push_back(inputOf(o));
        auto all = arrange::arrange(std::move(inputs), m_model.samePoint(), m_progress);
        if (!all) return tl::unexpected(all.error());
        m_all = std::move(*all);
        m_spaces.clear();
        return findSpaces();
    }

    Result<void> collect() {
        if (!(m_step.lengthen >= 0.0) || m_step.lengthen > 1000.0)
            return fail(ProblemKind::BadInput, "Lids are lengthened by 0 to 1000 of their hydraulic diameters.");
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
            else if (part.kind() == BodyKind::Sheet)
                m_sheets.push_back(o);
            else if (!m_step.places.empty())
                return fail(ProblemKind::NotPossible,
                            fmt::format("\"{}\" has no faces and cannot be a wall.", placeName(m_model, o)),
                            "Name solids, and sheets that stand in the flow.", {part.name, {}, {}});
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
        if (auto told = tellInner(m_model, m_walls, *found, m_progress); !told) return tl::unexpected(told.error());
        if (m_step.lids.empty()) {
            m_lids = std::move(*found);
            // Two halves with a gap between them have only mouths that face each other. From a seed the gap is found;
            // without one such mouths are all there is to begin from.
            const auto isInner = [](const Opening& opening) { return opening.inner; };
            if (m_step.seed.point || m_step.seed.face || !std::all_of(m_lids.begin(), m_lids.end(), isInner))
                std::erase_if(m_lids, isInner);
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
            if (closed.contains(i) || (*found)[i].inner) continue;
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
            if (input >= firstSheet()) continue;
            if (input < m_walls.size() || input >= m_walls.size() + m_lids.size()) return std::nullopt;
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
            if ((lidOf(static_cast<int>(p)) || isSheet(p)) && isAir(a) && isAir(b) && !isOutside(a) && !isOutside(b))
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
                BRepClass3d_SolidClassifier within(m_spaces[s].body.shape, seed, m_model.samePoint());
                if (within.State() == TopAbs_IN) return unlessLeaking(s, seed);
            }
            for (const std::size_t o : m_walls) {
                const Part& part = *m_model.parts[m_model.occurrences[o].part];
                BRepClass3d_SolidClassifier within(
                    part.shape, seed.Transformed(m_model.occurrences[o].placement.Inverted()), m_model.samePoint());
                if (within.State() == TopAbs_IN)
                    return fail(ProblemKind::NotPossible,
                                fmt::format("The seed lies in the material of \"{}\".", placeName(m_model, o)),
                                "Take a point in the space itself, or a face that the fluid wets.",
                                {part.name, {}, seed});
            }
            return leak(seed, m_lids.size());
        }
        if (m_seedFace) {
            const Occurrence& place = m_model.occurrences[m_seedFace->first];
            const gp_Pnt seed = pointBefore(m_model, m_seedFace->first, m_seedFace->second, m_walls, m_progress)
                                    .value_or(skinOf(m_model.parts[place.part]->incidence().face(m_seedFace->second))
                                                  .centre.Transformed(place.placement));
            for (std::size_t s = 0; s < m_spaces.size(); ++s)
                if (wets(m_spaces[s], *m_seedFace)) return unlessLeaking(s, seed);
            return leak(seed, m_lids.size());
        }
        for (std::size_t s = 0; s < m_spaces.size(); ++s)
            if (!m_spaces[s].lids.empty()) return unlessLeaking(s, m_lids[*m_spaces[s].lids.begin()].middle);
        if (!m_lids.empty()) return leak(m_lids.front().middle, m_lids.size());
        if (m_step.cavities && !m_spaces.empty()) return std::size_t(0);
        return fail(
            ProblemKind::NotPossible, "These bodies have no opening, so nothing can flow through them.",
            "Closed cavities become bodies when it is said of which kind; or give lids by the edges round them.");
    }

    /// A space, unless it has the outside behind an opening without a lid.
    Result<std::size_t> unlessLeaking(std::size_t s, const gp_Pnt& seed) {
        const Space& space = m_spaces[s];
        if (space.leaks.empty()) return s;
        // A mouth that was closed for the search alone need not be to blame: behind it there may be a gap.
        auto gap = leak(seed, m_wanted);
        if (m_told && (!isMouth(*m_told) || !m_pluggable.empty())) return gap;
        m_pluggable.clear();
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

    /// Whether a leak is one of the openings that got no lid.
    [[nodiscard]] bool isMouth(const Leak& leak) const {
        return std::any_of(m_open.begin(), m_open.end(), [&](const Opening& mouth) {
            const double wide = mouth.hydraulicDiameter();
            if (leak.width <= 0.3 * wide) return false;  // something else stands in it
            // Anywhere along the hole that ends there.
            const Incidence& topology = m_model.parts[m_model.occurrences[mouth.place].part]->incidence();
            for (const int e : mouth.edges)
                for (const EdgeUse& use : topology.usesOf(e))
                    if (use.face != mouth.face && ((leak.placeA == mouth.place && leak.faceA == use.face) ||
                                                   (leak.placeB == mouth.place && leak.faceB == use.face)))
                        return true;
            return leak.where.Distance(mouth.middle) < wide;
        });
    }

    /// Where the flow gets outside with the first so many lids; m_told keeps it.
    tl::unexpected<Problem> leak(const gp_Pnt& seed, std::size_t count) {
        std::vector<TopoDS_Face> lids;
        for (std::size_t l = 0; l < count; ++l) lids.push_back(m_lids[l].lid);
        m_told.reset();
        const double narrow = m_step.ignoreUpTo;
        const double finest = narrow > 0.0 ? std::min(finestLeak(m_model), 0.5 * narrow) : finestLeak(m_model);
        auto found = findLeaks(m_model, m_walls, lids, seed, finest, m_progress);
        if (!found && found.error().kind == ProblemKind::Cancelled) return tl::unexpected(found.error());
        std::vector<Leak> leaks = found ? std::move(found->leaks) : std::vector<Leak>();
        // Narrower than one looks for: the near misses say where.
        if (leaks.empty()) leaks = gapsNear(seed);
        if (leaks.empty())
            return fail(ProblemKind::NotPossible, "The seed lies outside: no walls and lids close it in.",
                        "Take a point or a face inside, or put lids on what is open there.", {{}, {}, seed});
        const Leak* stays = nullptr;
        for (const Leak& leak : leaks) {
            const auto plug = leak.width <= 1.001 * narrow ? plugFor(m_model, leak) : std::nullopt;
            if (plug)
                m_pluggable.push_back(*plug);
            else if (stays == nullptr)
                stays = &leak;
        }
        // One that stays open is the answer, whatever could be closed.
        if (stays != nullptr) m_pluggable.clear();
        const Leak& told = stays != nullptr ? *stays : leaks.front();
        m_told = told;
        const std::size_t own = told.placeA < m_model.occurrences.size() ? told.placeA : m_walls.front();
        return fail(
            ProblemKind::NotPossible,
            fmt::format("The flow gets outside {}{}.", describe(m_model, told),
                        leaks.size() > 1 ? fmt::format(", and in {}", counted(leaks.size() - 1, "other place"))
                                         : std::string()),
            told.width <= 1.001 * narrow
                ? "A gap closes by itself between flats, and between a pin and its bore: join these bodies first, or "
                  "put a "
                  "lid on it."
                : "Join the bodies with a limit that wide first, put a lid on it, or let gaps up to that width close "
                  "by "
                  "themselves.",
            {m_model.parts[m_model.occurrences[own].part]->name, {told.faceA}, told.where});
    }
    /// Near misses as leaks, the one nearest to the seed first.
    std::vector<Leak> gapsNear(const gp_Pnt& seed) {
        Model seen = m_model;
        for (std::size_t o = 0; o < seen.occurrences.size(); ++o)
            seen.occurrences.change(o).aside = std::find(m_walls.begin(), m_walls.end(), o) == m_walls.end();
        std::vector<Leak> gaps;
        const auto report = findContacts(seen, {m_model.targetSize}, m_progress);
        if (!report) return gaps;
        for (const Contact& contact : report->contacts)
            if (contact.kind == ContactKind::Near && !contact.past)
                gaps.push_back(
                    {contact.widest, contact.where, contact.placeA, contact.placeB, contact.faceA, contact.faceB, {}});
        std::stable_sort(gaps.begin(), gaps.end(), [&seed](const Leak& a, const Leak& b) {
            return a.where.SquareDistance(seed) < b.where.SquareDistance(seed);
        });
        return gaps;
    }

    /// Which faces of a space's body are what: by lid, by wall, and those of plugs.
    struct Faces {
        std::map<std::size_t, std::set<int>> lids;   // by the number that the space gives the lid
        std::map<std::size_t, std::set<int>> walls;  // by occurrence
        std::set<int> plugs;
    };
    [[nodiscard]] Faces facesOf(const Space& space) const {
        Faces faces;
        for (const auto& [piece, number] : space.body.faceOfPiece)
            for (const arrange::Owner& owner : m_all.pieces[static_cast<std::size_t>(piece)].owners) {
                const auto input = static_cast<std::size_t>(owner.input);
                if (input < m_walls.size())
                    faces.walls[m_walls[input]].insert(number);
                else if (input >= firstSheet())
                    faces.walls[m_sheets[input - firstSheet()]].insert(number);
                else if (input >= m_walls.size() + m_lids.size())
                    faces.plugs.insert(number);
                else if (const auto lid = space.lids.find(input - m_walls.size()); lid != space.lids.end())
                    faces.lids[static_cast<std::size_t>(std::distance(space.lids.begin(), lid))].insert(number);
            }
        return faces;
    }

    /// Whether a space becomes a body as what cavities are to be.
    [[nodiscard]] bool isCavity(std::size_t s) const { return m_step.cavities && m_spaces[s].lids.empty(); }

    /// The spaces that become bodies: the seed's first.
    [[nodiscard]] std::vector<std::size_t> taken(std::size_t first) const {
        std::vector<std::size_t> all{first};
        for (std::size_t s = 0; s < m_spaces.size(); ++s) {
            if (s == first) continue;
            const bool cavity = m_spaces[s].lids.empty() && m_spaces[s].leaks.empty();
            if (cavity ? m_step.cavities.has_value() : m_step.every && m_spaces[s].leaks.empty()) all.push_back(s);
        }
        return all;
    }

    Result<FlowBody> bodyOf(std::size_t s) {
        const Space& space = m_spaces[s];
        const bool cavity = space.lids.empty();
        Faces known = facesOf(space);
        FlowBody body{space.body.shape, space.body.volume, m_step.name, RegionKind::Fluid, {}, {}, {}};
        if (isCavity(s)) {
            body.kind = *m_step.cavities;
            body.name = "cavity";
        }
        for (const std::size_t l : space.lids)
            body.lids.push_back({m_lids[l].place, m_lids[l].area, m_lids[l].hydraulicDiameter(), {}, {}});
        if (m_step.lengthen > 0.0 && !cavity) {
            std::vector<LongLid> lids;
            for (std::size_t l = 0; l < body.lids.size(); ++l)
                lids.push_back({l, known.lids[l], m_step.lengthen * body.lids[l].diameter});
            auto longer = lengthened(body.shape, lids, wallInputs(), m_model.samePoint(), m_progress);
            if (!longer) return tl::unexpected(longer.error());
            body.shape = longer->shape;
            body.volume = longer->volume;
            Faces now;
            for (const auto& [face, was] : longer->faces) {
                for (const auto& [o, wetted] : known.walls)
                    if (wetted.contains(was)) now.walls[o].insert(face);
                if (known.plugs.contains(was)) now.plugs.insert(face);
            }
            now.lids = longer->ends;
            for (const auto& [lid, sides] : longer->sides) body.lids[lid].sides = sides;
            known = std::move(now);
        }
        for (const auto& [lid, faces] : known.lids) body.lids[lid].faces = faces;
        body.walls = std::move(known.walls);
        body.plugs = std::move(known.plugs);
        return body;
    }

    /// The sheets that stand in a space or bound it.
    [[nodiscard]] std::set<std::size_t> sheetsAt(const Space& space) const {
        const std::set<int> cells(space.cells.begin(), space.cells.end());
        std::set<std::size_t> sheets;
        for (const arrange::Piece& piece : m_all.pieces) {
            if (!cells.contains(piece.plusCell) && !cells.contains(piece.minusCell)) continue;
            for (const arrange::Owner& owner : piece.owners)
                if (const auto input = static_cast<std::size_t>(owner.input); input >= firstSheet())
                    sheets.insert(m_sheets[input - firstSheet()]);
        }
        return sheets;
    }

    Result<Outcome> outcomeOf(std::size_t first) {
        const std::vector<std::size_t> chosen = taken(first);
        std::vector<FlowBody> bodies;
        for (const std::size_t s : chosen) {
            auto body = bodyOf(s);
            if (!body) return tl::unexpected(body.error());
            bodies.push_back(std::move(*body));
        }
        std::vector<std::size_t> around = m_walls;
        for (const std::size_t s : chosen)
            for (const std::size_t sheet : sheetsAt(m_spaces[s]))
                if (std::find(around.begin(), around.end(), sheet) == around.end()) around.push_back(sheet);
        auto outcome = withFlowBodies(m_model, std::move(bodies), around, m_step.joined, m_progress);
        if (!outcome) return outcome;
        tellSum(*outcome, chosen);
        if (!m_plugs.empty())
            outcome->notes.push_back(fmt::format("{} closed by {}.", counted(m_plugs.size(), "gap"),
                                                 m_plugs.size() == 1 ? "itself" : "themselves"));
        for (std::size_t s = 0; s < m_spaces.size(); ++s) {
            if (std::find(chosen.begin(), chosen.end(), s) != chosen.end()) continue;
            const std::size_t lids = m_spaces[s].lids.size() + m_spaces[s].leaks.size();
            outcome->notes.push_back(fmt::format("There is another closed space, {} mm³, with {}.",
                                                 readable(m_spaces[s].body.volume),
                                                 lids == 0 ? std::string("no opening") : counted(lids, "opening")));
        }
        const auto cavities = static_cast<std::size_t>(
            std::count_if(chosen.begin(), chosen.end(), [this](std::size_t s) { return isCavity(s); }));
        const std::size_t flows = chosen.size() - cavities;
        const std::string made = flows == 1 ? "the " + m_step.name : counted(flows, "flow space"),
                          filled = counted(cavities, "cavity", "cavities");
        outcome->summary = "Make " + (cavities == 0 ? made : flows == 0 ? filled : made + " and " + filled);
        return outcome;
    }

    /// Walls, flow and other closed spaces against all that is not outside, which is another cell's volume.
    void tellSum(Outcome& outcome, const std::vector<std::size_t>& chosen) const {
        double walls = 0.0, flow = 0.0, cavities = 0.0, others = 0.0, filled = 0.0;
        for (const arrange::Cell& cell : m_all.cells) {
            if (cell.outermost) filled = std::abs(cell.volume);
            if (!cell.inputs.empty()) walls += cell.volume;
        }
        for (std::size_t s = 0; s < m_spaces.size(); ++s)
            (std::find(chosen.begin(), chosen.end(), s) == chosen.end() ? others
             : isCavity(s)                                              ? cavities
                                                                        : flow) += m_spaces[s].body.volume;
        outcome.items.push_back(
            {fmt::format("walls {}{}, flow {}{}, other closed spaces {}: {} of {} mm³ filled", readable(walls),
                         m_plugs.empty() ? "" : " with plugs", readable(flow),
                         cavities > 0.0 ? fmt::format(", cavities {}", readable(cavities)) : "", readable(others),
                         readable(walls + others + flow + cavities), readable(filled)),
             true,
             {},
             filled});
    }
};

}  // namespace

std::vector<ParameterInfo> FlowSpace::infos() {
    return {
        {"places", "list of names", "", "The walls; empty: all solids.", Json::array()},
        {"lids", "list of lists of edges", "", "Loops of edges; empty: a lid on every opening.", Json::array()},
        {"ignoreUpTo", "number", "mm", "Openings and gaps no wider than this close by themselves.", 0.0},
        {"lengthen", "number", "", "Each lid goes outwards by so many of its hydraulic diameters; 5 is usual.", 0.0},
        {"seed", "any", "mm", "A point or a face in the fluid; null: the largest space with a lid.", nullptr},
        {"every", "yes or no", "", "Not only the seed's: each closed space with a lid becomes a body.", false},
        {"cavities", "any", "",
         "solid, fluid, porous or void: closed cavities become bodies of this kind; null: they stay empty.", nullptr},
        {"name", "text", "", "Of the new part.", "flow space"},
        {"joined", "yes or no", "", "Walls and fluid get common faces.", true}};
}
void to_json(Json& json, const FlowSpace& step) {
    json = Json{{"name", step.name}};
    if (!step.places.empty()) json["places"] = step.places;
    if (!step.lids.empty()) json["lids"] = step.lids;
    if (step.ignoreUpTo > 0.0) json["ignoreUpTo"] = step.ignoreUpTo;
    if (step.lengthen > 0.0) json["lengthen"] = step.lengthen;
    if (step.seed.point) json["seed"] = *step.seed.point;
    if (step.seed.face) json["seed"] = *step.seed.face;
    if (!step.joined) json["joined"] = false;
    if (step.every) json["every"] = true;
    if (step.cavities) json["cavities"] = regionKindName(*step.cavities);
}
void from_json(const Json& json, FlowSpace& step) {
    step.name = json.value("name", "flow space");
    step.places = json.value("places", std::vector<std::string>{});
    step.lids = json.value("lids", std::vector<std::vector<EntityRef>>{});
    step.ignoreUpTo = json.value("ignoreUpTo", 0.0);
    step.lengthen = json.value("lengthen", 0.0);
    step.joined = json.value("joined", true);
    step.every = json.value("every", false);
    if (json.contains("cavities") && !json.at("cavities").is_null()) {
        const auto name = json.at("cavities").get<std::string>();
        step.cavities = regionKindFromName(name);
        if (!step.cavities) throw std::invalid_argument("\"" + name + "\" is not solid, fluid, porous or void");
    }
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
