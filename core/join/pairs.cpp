#include "join/pairs.h"

#include <fmt/format.h>

#include "arrange/joined.h"
#include "common/sets.h"
#include "common/tolerance.h"
#include "geometry/integrals.h"
#include "join/contacts.h"
#include "join/gap_closing.h"
#include "join/joint_faults.h"
#include "join/own_bodies.h"
#include "join/within.h"
#include "model/on_purpose.h"
#include "model/places.h"

// 1. Gaps within the limit are closed by moving whole faces (gap_closing), so that what follows knows no gaps.
// 2. All places are arranged together at the model's own tolerance. Only gaps that no face could close, and those at
//    sheets, are left to the arrangement's tolerance: what is smaller than that would be lost, so it is the last
//    resort.
// 3. A place that is divided becomes a part of its own with its pieces, unless nothing else stands for its part.
//    Pieces, arcs and nodes that several places use are the joints: the arrangement knows them as one thing, so
//    nothing has to be matched afterwards.
// A part of several bodies goes in body by body (own_bodies); its bodies form a family, whose members are joined to
// others, but not to each other unless that was asked for.
// A body that stands in the way of all others (it reaches into them, or cannot be arranged) stays apart, told, and the
// others are joined without it.

namespace rasoir::join {
namespace {

/// Per pair of places: what they have in common.
struct Common {
    double area = 0.0;
    std::size_t faces = 0, edges = 0;
};

bool isTouched(const arrange::Arrangement& all, int input) {
    for (const arrange::Piece& piece : all.pieces)
        if (!piece.whole && std::any_of(piece.owners.begin(), piece.owners.end(),
                                        [input](const arrange::Owner& owner) { return owner.input == input; }))
            return true;
    // Corner on corner divides nothing and is in common all the same.
    return std::any_of(all.nodes.begin(), all.nodes.end(), [input](const arrange::Node& node) {
        return std::any_of(node.owners.begin(), node.owners.end(),
                           [input](const arrange::Owner& owner) { return owner.input == input; }) &&
               std::any_of(node.owners.begin(), node.owners.end(),
                           [input](const arrange::Owner& owner) { return owner.input != input; });
    });
}

/// The body of an input as the arrangement has divided it. `rank`: of several inputs that a cell lies in, it belongs to
/// the one of the least rank, but for those of its own family.
template <class IsFamily>
Result<arrange::Chosen> dividedBody(const arrange::Arrangement& all, int input, BodyKind kind,
                                    const std::vector<double>& rank, IsFamily isFamily) {
    if (kind == BodyKind::Solid) {
        auto cells = arrange::cellsIn(all, input);
        std::erase_if(cells, [&](int cell) {
            return std::any_of(all.cells[cell].inputs.begin(), all.cells[cell].inputs.end(),
                               [&](int other) { return rank[other] < rank[input] && !isFamily(other, input); });
        });
        if (cells.empty())
            return fail(
                ProblemKind::NotPossible,
                fmt::format("Nothing would be left of \"{}\": it lies wholly in others.", all.inputs[input].name),
                "Set it aside, or let the smaller body keep what overlaps.");
        return arrange::solidsOf(all, cells);
    }
    return arrange::sheetOf(all, arrange::piecesOf(all, input));
}

/// What the step names: places, or else those of its pairs; empty: all.
std::vector<std::string> namesIn(const Pairs& step) {
    std::vector<std::string> names = step.places;
    if (names.empty())
        for (const auto& [first, second] : step.pairs) names.insert(names.end(), {first, second});
    return names;
}

class Joining {
public:
    /// `families`: bodies of one part, taken apart, have nothing to do with each other; null where there are none.
    Joining(const Model& received, const Pairs& step, const OwnBodies* families, Progress& progress)
        : m_model(received), m_step(step), m_families(families), m_progress(progress) {
        m_model.giveIds();
        m_outcome.model = m_model;
    }

    Result<Outcome> run() {
        if (auto fine = collect(); !fine) return tl::unexpected(fine.error());
        if (m_step.upTo > 0.0)
            if (auto fine = close(); !fine) return tl::unexpected(fine.error());
        // A body that cannot be made stays apart like one that cannot be arranged, and the rest is done once more.
        for (;;) {
            if (auto fine = arrangeAll(); !fine) return tl::unexpected(fine.error());
            std::size_t stuck = 0;
            auto fine = makeBodies(stuck);
            if (fine) break;
            if (fine.error().kind != ProblemKind::NotPossible || m_bodies.size() < 3)
                return tl::unexpected(fine.error());
            setApart(stuck, fine.error());
        }
        if (auto fine = recordJoints(); !fine) return tl::unexpected(fine.error());
        tell();
        replaceParts();
        for (const SheetWithin& own : m_within)
            keepWithin(m_outcome.model, m_bodies[own.sheet].place, own.faces, m_bodies[own.solid].place);
        // Joints with bodies that take no part still speak of the model before, and are not looked at.
        Model judged = m_outcome.model;
        judged.joints = m_joints;
        replaceJoints();
        if (const auto faults = faultsInJoints(judged); !faults.empty())
            return fail(ProblemKind::Internal, "A common face would not be the same on both sides: " + faults.front(),
                        "Nothing was changed; join the pairs one by one.");
        m_outcome.summary = fmt::format("Join {}", counted(m_pairs.size(), "pair of bodies", "pairs of bodies"));
        m_progress.report(1.0, m_outcome.summary);
        return std::move(m_outcome);
    }

private:
    /// A place that takes part, with what has become of it so far.
    struct Body {
        std::size_t place = 0;
        TopLoc_Location location;
        std::string name;
        std::optional<Shifted> shifted;       ///< after gaps were closed
        std::optional<arrange::Chosen> made;  ///< after the arrangement, where that divided it
    };

    Model m_model;
    const Pairs& m_step;
    const OwnBodies* m_families;
    Progress& m_progress;
    Outcome m_outcome;
    std::vector<Body> m_bodies;  // in step with the arrangement's inputs
    double m_tolerance = 0.0;    // [mm] the arrangement's
    std::optional<arrange::Arrangement> m_all;
    std::map<std::pair<int, int>, double> m_given;                  // overlaps that one of two keeps [mm³]
    std::vector<double> m_rank;                                     // the least one keeps what is common
    std::map<std::pair<std::size_t, std::size_t>, Common> m_pairs;  // by families
    std::vector<Joint> m_joints;
    std::vector<SheetWithin> m_within;                       // by bodies
    std::set<std::pair<std::size_t, std::size_t>> m_wanted;  // pairs of places; empty: all

    [[nodiscard]] std::size_t familyOf(std::size_t body) const {
        return m_families != nullptr ? m_families->familyOf(m_bodies[body].place) : m_bodies[body].place;
    }
    [[nodiscard]] bool isFamily(int a, int b) const {
        return familyOf(static_cast<std::size_t>(a)) == familyOf(static_cast<std::size_t>(b));
    }
    [[nodiscard]] const Part& received(const Body& body) const {
        return *m_model.parts[m_model.occurrences[body.place].part];
    }
    [[nodiscard]] const Part& partOf(const Body& body) const {
        return body.shifted ? *body.shifted->part : received(body);
    }
    [[nodiscard]] std::vector<arrange::Input> inputs() const {
        std::vector<arrange::Input> all;
        for (const Body& body : m_bodies) all.push_back({partOf(body).shape.Moved(body.location), body.name});
        return all;
    }

    Result<void> collect() {
        if (!(m_step.upTo >= 0.0) || !std::isfinite(m_step.upTo))
            return fail(ProblemKind::BadInput, "The widest gap must be zero or more.");
        for (const auto& [first, second] : m_step.pairs) {
            const auto a = placesNamed(m_model, {first}), b = placesNamed(m_model, {second});
            if (!a) return tl::unexpected(a.error());
            if (!b) return tl::unexpected(b.error());
            for (const std::size_t one : *a)
                for (const std::size_t other : *b)
                    if (one != other) m_wanted.insert(std::minmax(one, other));
        }
        const auto meant = placesMeant(m_model, namesIn(m_step), m_step.apart);
        if (!meant) return tl::unexpected(meant.error());
        if (const SafeLimit safe = safeLimit(m_model, *meant); m_step.upTo > safe.mm * (1.0 + Tolerance::rounding))
            return fail(ProblemKind::NotPossible,
                        fmt::format("A gap of {} mm is beyond what is safe to close ({} mm, {}).",
                                    readable(m_step.upTo), readable(safe.mm), safe.why),
                        "Take a smaller limit, or move the bodies together.");
        for (const std::size_t o : *meant) {
            const Occurrence& place = m_model.occurrences[o];
            const BodyKind kind = m_model.parts[place.part]->kind();
            if (m_model.parts[place.part]->lump || (kind != BodyKind::Solid && kind != BodyKind::Sheet)) continue;
            m_bodies.push_back(
                {o, place.placement.Form() == gp_Identity ? TopLoc_Location() : TopLoc_Location(place.placement),
                 placeName(m_model, o), std::nullopt, std::nullopt});
        }
        if (m_bodies.size() < 2)
            return fail(ProblemKind::NotPossible, "Joining takes at least two solids or sheets.", "Name more of them.");
        m_tolerance = m_model.samePoint();
        return {};
    }

    /// Moves faces so that gaps within the limit close. Those that stay are tried with a tolerance as wide as they are.
    Result<void> close() {
        std::vector<std::size_t> places;
        bool sheets = false;
        for (const Body& body : m_bodies) {
            places.push_back(body.place);
            sheets = sheets || received(body).kind() == BodyKind::Sheet;
        }
        auto closed = closeGaps(m_model, places, m_step.upTo, m_step.gapsBy, m_progress);
        if (!closed) return tl::unexpected(closed.error());
        for (Body& body : m_bodies)
            if (const auto own = closed->places.find(body.place); own != closed->places.end())
                body.shifted = std::move(own->second);
        const double wide = sheets ? m_step.upTo : 1.1 * closed->widestLeft;
        if (wide > m_tolerance) {
            auto all = arrange::arrange(inputs(), wide, m_progress);
            if (!all && all.error().kind == ProblemKind::Cancelled) return tl::unexpected(all.error());
            if (all) {
                m_tolerance = wide;
                m_all = std::move(*all);
                return {};
            }
        }
        for (Item& item : closed->left) m_outcome.items.push_back(std::move(item));
        return {};
    }

    /// Takes a body out of the joining and says why.
    void setApart(std::size_t body, Problem why) {
        why.what = fmt::format("\"{}\" stays apart: {}", m_bodies[body].name, why.what);
        Item item{fmt::format("\"{}\"", m_bodies[body].name), false, std::move(why), 0.0};
        m_outcome.items.push_back(std::move(item));
        m_bodies.erase(m_bodies.begin() + static_cast<std::ptrdiff_t>(body));
        m_all.reset();
    }

    /// Arranges the bodies, and again without those that stand in the way, until the rest fits together.
    Result<void> arrangeAll() {
        for (;;) {
            if (!m_all) {
                auto all = arrange::arrange(inputs(), m_tolerance, m_progress);
                if (!all) {
                    const auto named = std::find_if(m_bodies.begin(), m_bodies.end(), [&all](const Body& body) {
                        return body.name == all.error().where.part;
                    });
                    // Of two, none can stay apart without both.
                    if (all.error().kind != ProblemKind::NotPossible || named == m_bodies.end() || m_bodies.size() < 3)
                        return tl::unexpected(m_outcome.items.empty() ? all.error() : firstProblem(all.error()));
                    setApart(static_cast<std::size_t>(named - m_bodies.begin()), all.error());
                    continue;
                }
                m_all = std::move(*all);
            }
            std::map<std::pair<int, int>, double> overlaps;
            for (const arrange::Cell& cell : m_all->cells)
                for (const int a : cell.inputs)
                    for (const int b : cell.inputs)
                        if (a < b && !isFamily(a, b)) overlaps[{a, b}] += cell.volume;
            m_given.clear();
            if (overlaps.empty()) break;
            if (m_step.overlaps != "apart") {
                m_given = std::move(overlaps);
                break;
            }
            setOverlapsApart(std::move(overlaps));
            if (m_bodies.size() < 2) return tl::unexpected(m_outcome.items.front().problem);
        }
        return rankBodies();
    }

    [[nodiscard]] Problem firstProblem(const Problem& last) const {
        const auto failed =
            std::find_if(m_outcome.items.begin(), m_outcome.items.end(), [](const Item& item) { return !item.done; });
        return failed == m_outcome.items.end() || m_bodies.size() > 2 ? last : failed->problem;
    }

    /// Bodies that reach into one another cannot have a common face. The one with most such partners stays apart, until
    /// none reaches into another.
    void setOverlapsApart(std::map<std::pair<int, int>, double> overlaps) {
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
            const std::string& name = m_bodies[worst].name;
            std::erase_if(overlaps, [&](const auto& one) {
                const auto& [pair, volume] = one;
                if (pair.first != worst && pair.second != worst) return false;
                const std::string &a = m_bodies[pair.first].name, &b = m_bodies[pair.second].name;
                Item item{fmt::format("\"{}\" and \"{}\"", a, b), false, {}, 0.0};
                item.problem = {ProblemKind::NotPossible,
                                fmt::format("\"{}\" and \"{}\" reach into one another by {} mm³: \"{}\" stays apart.",
                                            a, b, readable(volume), name),
                                {name, {}, {}},
                                "Subtract one from the other in Divide, or let one of the two keep it."};
                m_outcome.items.push_back(std::move(item));
                return true;
            });
        }
        for (auto it = apart.rbegin(); it != apart.rend(); ++it) m_bodies.erase(m_bodies.begin() + *it);
        m_all.reset();
    }

    /// Who keeps what several bodies have in common: the one of the least rank.
    Result<void> rankBodies() {
        m_rank.clear();
        std::set<std::size_t> named;
        static const std::set<std::string> rules{"apart", "smaller", "larger", "first", "harder"};
        if (!rules.contains(m_step.overlaps)) {
            const auto found = placesNamed(m_model, {m_step.overlaps});
            if (!found) return tl::unexpected(found.error());
            named.insert(found->begin(), found->end());
        }
        for (std::size_t i = 0; i < m_bodies.size(); ++i) {
            const Body& body = m_bodies[i];
            if (m_step.overlaps == "first") {
                m_rank.push_back(static_cast<double>(i));
            } else if (m_step.overlaps == "harder") {
                const Material* material = findMaterial(m_model.materials, received(body).material);
                const bool concerned = std::any_of(m_given.begin(), m_given.end(), [i](const auto& one) {
                    return one.first.first == static_cast<int>(i) || one.first.second == static_cast<int>(i);
                });
                if (concerned && (material == nullptr || !(material->youngsModulus > 0.0)))
                    return fail(
                        ProblemKind::NotPossible,
                        fmt::format("Nobody knows how hard \"{}\" is: it has no material with a Young's modulus.",
                                    body.name),
                        "Give it a material, or choose who keeps what overlaps by size.", {body.name, {}, {}});
                m_rank.push_back(material != nullptr ? -material->youngsModulus : 0.0);
            } else {
                const double volume = volumeOf(partOf(body).shape);
                m_rank.push_back(named.contains(body.place) ? -1.0 / volume
                                                            : (m_step.overlaps == "larger" ? -1.0 : 1.0) * volume);
            }
        }
        // Of two of one size, as copies are, the earlier one.
        // Only breaks ties, so that an order is the same on every machine.
        for (std::size_t i = 0; i < m_rank.size(); ++i)
            m_rank[i] += static_cast<double>(i) * 1e-9 * std::abs(m_rank[i]);
        return {};
    }

    /// What was done to the bodies that are joined in the end: faces moved, overlaps given to one of two.
    void tell() {
        for (const Body& body : m_bodies)
            if (body.shifted)
                m_outcome.notes.insert(m_outcome.notes.end(), body.shifted->told.begin(), body.shifted->told.end());
        for (const auto& [pair, volume] : m_given) {
            const int winner = m_rank[pair.first] < m_rank[pair.second] ? pair.first : pair.second;
            m_outcome.notes.push_back(fmt::format(
                "\"{}\" and \"{}\" reached into one another by {} mm³: \"{}\" keeps it.", m_bodies[pair.first].name,
                m_bodies[pair.second].name, readable(volume), m_bodies[winner].name));
        }
    }

    /// Whether a body has anything in common with one of another family: what its own family does to it is not asked
    /// for.
    [[nodiscard]] bool meetsOthers(int input) const {
        if (m_families == nullptr) return true;
        const auto withOthers = [&](const std::vector<arrange::Owner>& owners, const std::set<int>& within) {
            bool own = within.contains(input);
            bool other = std::any_of(within.begin(), within.end(), [&](int one) { return !isFamily(one, input); });
            for (const arrange::Owner& owner : owners) {
                own = own || owner.input == input;
                other = other || !isFamily(owner.input, input);
            }
            return own && other;
        };
        return std::any_of(m_all->pieces.begin(), m_all->pieces.end(),
                           [&](const arrange::Piece& piece) { return withOthers(piece.owners, {}); }) ||
               std::any_of(m_all->arcs.begin(), m_all->arcs.end(),
                           [&](const arrange::Arc& arc) { return withOthers(arc.owners, arc.within); }) ||
               std::any_of(m_all->nodes.begin(), m_all->nodes.end(),
                           [&](const arrange::Node& node) { return withOthers(node.owners, {}); });
    }

    /// `stuck`: the body that could not be made.
    Result<void> makeBodies(std::size_t& stuck) {
        for (std::size_t i = 0; i < m_bodies.size(); ++i) {
            if (m_progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
            const int input = static_cast<int>(i);
            const bool reachesIn = std::any_of(m_given.begin(), m_given.end(), [input](const auto& one) {
                return one.first.first == input || one.first.second == input;
            });
            if (!reachesIn && (!isTouched(*m_all, input) || !meetsOthers(input))) continue;
            auto body = dividedBody(*m_all, input, received(m_bodies[i]).kind(), m_rank,
                                    [this](int a, int b) { return isFamily(a, b); });
            if (!body) {
                stuck = i;
                body.error().where.part = m_bodies[i].name;
                return tl::unexpected(body.error());
            }
            m_bodies[i].made = std::move(*body);
        }
        return {};
    }

    /// Of what bodies have in common, what was asked for: those that hang together over wanted pairs.
    std::vector<arrange::Shared> wantedOf(std::vector<arrange::Shared> all) const {
        if (m_wanted.empty()) return all;
        std::vector<arrange::Shared> wanted;
        for (const arrange::Shared& shared : all) {
            Sets sets(shared.users.size());
            for (std::size_t a = 0; a < shared.users.size(); ++a)
                for (std::size_t b = a + 1; b < shared.users.size(); ++b)
                    if (m_wanted.contains(
                            std::minmax(m_bodies[shared.users[a]].place, m_bodies[shared.users[b]].place)))
                        sets.join(static_cast<int>(a), static_cast<int>(b));
            std::map<int, arrange::Shared> parts;
            for (std::size_t u = 0; u < shared.users.size(); ++u) {
                arrange::Shared& own = parts[sets.root(static_cast<int>(u))];
                own.source = shared.source;
                own.joint.kind = shared.joint.kind;
                own.joint.deviation = shared.joint.deviation;
                own.joint.uses.push_back(shared.joint.uses[u]);
                own.users.push_back(shared.users[u]);
            }
            for (auto& [root, own] : parts) {
                if (own.users.size() < 2) continue;
                // The first use says which way round is forward.
                const bool turned = own.joint.uses.front().reversed;
                for (JointUse& use : own.joint.uses) use.reversed = use.reversed != turned;
                wanted.push_back(std::move(own));
            }
        }
        return wanted;
    }

    Result<void> recordJoints() {
        std::vector<PlaceId> ids;
        std::vector<std::optional<arrange::Chosen>> made;
        std::vector<std::unique_ptr<Incidence>> topology;
        for (const Body& body : m_bodies) {
            ids.push_back(m_model.occurrences[body.place].id);
            made.push_back(body.made);
            topology.push_back(body.made ? std::make_unique<Incidence>(body.made->shape) : nullptr);
        }
        for (arrange::Shared& shared : wantedOf(arrange::sharedBy(*m_all, made, ids))) {
            const std::size_t family = familyOf(shared.users.front());
            if (std::all_of(shared.users.begin(), shared.users.end(),
                            [&](std::size_t user) { return familyOf(user) == family; }))
                continue;
            for (std::size_t a = 0; a < shared.users.size(); ++a)
                for (std::size_t b = a + 1; b < shared.users.size(); ++b) {
                    if (familyOf(shared.users[a]) == familyOf(shared.users[b])) continue;
                    Common& common = m_pairs[std::minmax(familyOf(shared.users[a]), familyOf(shared.users[b]))];
                    if (shared.joint.kind == EntityKind::Edge) ++common.edges;
                    if (shared.joint.kind != EntityKind::Face) continue;
                    common.area += areaOf(topology[shared.users[a]]->face(shared.joint.uses[a].number));
                    ++common.faces;
                }
            m_joints.push_back(std::move(shared.joint));
        }
        const Model& named = m_families != nullptr ? m_families->received() : m_model;
        for (const auto& [pair, common] : m_pairs) {
            const std::string a = placeName(named, pair.first), b = placeName(named, pair.second);
            m_outcome.items.push_back(
                {common.faces > 0 ? fmt::format("{} and {}: {} in common, {} mm²", a, b, counted(common.faces, "face"),
                                                readable(common.area))
                                  : fmt::format("{} and {}: {} in common", a, b, counted(common.edges, "edge")),
                 true,
                 {},
                 0.0});
        }
        findWithin(made);
        if (m_joints.empty() && m_within.empty()) {
            for (const Item& item : m_outcome.items)
                if (!item.done) return tl::unexpected(item.problem);
            return fail(ProblemKind::NothingToDo, "None of these bodies lies on another.",
                        "Look at the near misses for gaps that are wider.");
        }
        if (m_all->widest > 10.0 * m_model.samePoint())
            m_outcome.notes.push_back(fmt::format("What became one was up to {} mm apart.", readable(m_all->widest)));
        return {};
    }

    void findWithin(const std::vector<std::optional<arrange::Chosen>>& made) {
        m_within = sheetsWithin(*m_all, made, m_rank);
        std::erase_if(m_within, [this](const SheetWithin& own) {
            return received(m_bodies[own.sheet]).kind() != BodyKind::Sheet ||
                   (!m_wanted.empty() &&
                    !m_wanted.contains(std::minmax(m_bodies[own.sheet].place, m_bodies[own.solid].place)));
        });
        for (const SheetWithin& own : m_within)
            m_outcome.items.push_back(
                {fmt::format("\"{}\" lies in \"{}\", {} mm² with the body on both sides", m_bodies[own.sheet].name,
                             m_bodies[own.solid].name, readable(own.area)),
                 true,
                 {},
                 own.area});
    }

    /// Places that have changed get parts as they now are; of copies each its own, but for the last.
    void replaceParts() {
        std::map<std::size_t, std::size_t> placesOfPart;
        for (const Occurrence& place : m_model.occurrences) ++placesOfPart[place.part];
        for (std::size_t i = 0; i < m_bodies.size(); ++i) {
            const Body& body = m_bodies[i];
            if (!body.made && !body.shifted) continue;
            Occurrence& place = m_outcome.model.occurrences.change(body.place);
            const std::size_t p = place.part;
            auto fresh = partOf(body).copy();
            PartLineage lineage = body.shifted ? body.shifted->lineage : PartLineage{};
            if (body.made) {
                fresh->setShape(body.made->shape.Moved(body.location.Inverted()));
                fresh->known = {};
                fresh->meantOpen.clear();
                fresh->sharpened.clear();
                const PartLineage& divided = body.made->lineage.at(static_cast<int>(i));
                fresh->inherit(partOf(body), divided, gp_Trsf());
                markParted(*fresh, divided);
                lineage = body.shifted ? chained(lineage, divided) : divided;
            }
            lineage.part = p;
            if (placesOfPart[p] == 1) {
                m_outcome.model.parts[p] = std::move(fresh);
                lineage.into = p;
            } else {
                --placesOfPart[p];
                fresh->id = 0;
                fresh->name = freeName(m_outcome.model, received(body).name);
                m_outcome.notes.push_back(fmt::format(
                    "\"{}\" is joined in its own way and is a part of its own now: \"{}\".", body.name, fresh->name));
                lineage.into = m_outcome.model.parts.size();
                place.part = lineage.into;
                m_outcome.model.parts.push_back(std::move(fresh));
            }
            m_outcome.lineage.push_back(std::move(lineage));
        }
        m_outcome.model.giveIds();  // steps that join on their way make groups of the new parts
    }

    /// What these bodies had in common is told anew; what they have in common with others is carried like everything
    /// else.
    void replaceJoints() {
        std::set<PlaceId> joined;
        for (const Body& body : m_bodies) joined.insert(m_model.occurrences[body.place].id);
        std::vector<Joint>& joints = m_outcome.model.joints;
        std::erase_if(joints, [&joined](const Joint& joint) {
            return std::all_of(joint.uses.begin(), joint.uses.end(),
                               [&joined](const JointUse& use) { return joined.contains(use.place); });
        });
        joints.insert(joints.end(), m_joints.begin(), m_joints.end());
        m_outcome.jointsMade = m_joints.size();
    }
};

}  // namespace

std::vector<ParameterInfo> Pairs::infos() {
    return {
        {"places", "list of names", "", "Parts or places to join; empty: all that is not set aside.", Json::array()},
        {"apart", "list of names", "", "Parts or places that stay apart on purpose.", Json::array()},
        {"pairs", "list of pairs", "", "Pairs of names that alone are joined; empty: all that touch.", Json::array()},
        {"upTo", "number", "mm", "Widest gap that is closed; 0: only what lies on each other.", 0.0},
        {"gapsBy", "text", "", "Whose faces move: smaller, larger, midway (both), or a part's or place's name.",
         "smaller"},
        {"overlaps", "text", "",
         "apart, or who keeps what bodies have in common: smaller, larger, first, harder, or a part's or place's name.",
         "apart"},
        {"bodies", "yes or no", "", "The bodies of one part are joined too, as parts of their own.", false}};
}
void to_json(Json& json, const Pairs& step) {
    json = Json{{"upTo", step.upTo}};
    if (!step.places.empty()) json["places"] = step.places;
    if (!step.apart.empty()) json["apart"] = step.apart;
    if (!step.pairs.empty()) json["pairs"] = step.pairs;
    if (step.gapsBy != "smaller") json["gapsBy"] = step.gapsBy;
    if (step.overlaps != "apart") json["overlaps"] = step.overlaps;
    if (step.bodies) json["bodies"] = true;
}
void from_json(const Json& json, Pairs& step) {
    step.places = json.value("places", std::vector<std::string>{});
    step.apart = json.value("apart", std::vector<std::string>{});
    step.pairs = json.value("pairs", std::vector<std::pair<std::string, std::string>>{});
    step.upTo = json.value("upTo", 0.0);
    step.gapsBy = json.value("gapsBy", "smaller");
    step.overlaps = json.value("overlaps", "apart");
    step.bodies = json.value("bodies", false);
}

namespace {

/// The step in words of the separated model: where a part is named, all that its bodies have become is.
Pairs forBodies(Pairs step, const std::map<std::string, std::vector<std::string>>& bodiesOf) {
    const auto named = [&bodiesOf](const std::string& name) {
        const std::size_t mark = name.rfind(" #");  // "bolt #3": a place
        const std::string suffix = mark == std::string::npos || bodiesOf.contains(name) ? "" : name.substr(mark);
        const auto known = bodiesOf.find(suffix.empty() ? name : name.substr(0, mark));
        std::vector<std::string> all{name};
        if (known != bodiesOf.end())
            for (const std::string& body : known->second) all.push_back(body + suffix);
        return all;
    };
    for (std::vector<std::string>* list : {&step.places, &step.apart}) {
        std::vector<std::string> all;
        for (const std::string& name : *list)
            for (std::string& one : named(name)) all.push_back(std::move(one));
        *list = std::move(all);
    }
    std::vector<std::pair<std::string, std::string>> pairs;
    for (const auto& [first, second] : step.pairs)
        for (const std::string& a : named(first))
            for (const std::string& b : named(second))
                if (a != b) pairs.emplace_back(a, b);
    step.pairs = std::move(pairs);
    step.bodies = false;
    return step;
}

}  // namespace

Result<Outcome> joinPairs(const Model& model, const Pairs& step, Progress& progress) {
    const auto meant = placesMeant(model, namesIn(step), step.apart);
    if (!meant) return tl::unexpected(meant.error());
    const auto apart = OwnBodies::takenApart(model, *meant, progress);
    if (!apart) return tl::unexpected(apart.error());
    const Pairs own = forBodies(step, apart->bodiesOf());
    if (apart->no()) return Joining(model, own, nullptr, progress).run();
    auto joined = Joining(apart->apart(), own, step.bodies ? nullptr : &*apart, progress).run();
    if (!joined) return joined;
    if (!step.bodies) return apart->together(std::move(*joined));
    // A body that stands unchanged in some place, though it was joined in another, is still itself there.
    for (std::size_t p = 0; p < apart->apart().parts.size(); ++p)
        if (joined->model.parts[p] == apart->apart().parts[p]) joined->lineage.push_back({p, p, true, {}});
    joined->lineage = followed(apart->lineage(), joined->lineage);
    for (const auto& [name, bodies] : apart->bodiesOf())
        joined->notes.insert(joined->notes.begin(), fmt::format("The {} bodies of \"{}\" are parts of their own now.",
                                                                bodies.size() + 1, name));
    return joined;
}

}  // namespace rasoir::join
