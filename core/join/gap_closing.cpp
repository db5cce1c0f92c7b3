#include "join/gap_closing.h"

#include <fmt/format.h>

#include <BRep_Tool.hxx>
#include <set>
#include <TopoDS.hxx>

#include "common/sets.h"
#include "geometry/integrals.h"
#include "geometry/moved_surface.h"
#include "geometry/round_surface.h"
#include "join/contacts.h"
#include "model/places.h"
#include "shave/on_surfaces.h"

// 1. The survey of contacts says which faces face each other within the limit. Those that touch count as well: when one
//    of them moves, the other has to go with it.
// 2. Faces that hang together over such pairs are a set, and so are pieces of one surface that lie beside each other in
//    a body: half of a plane cannot move alone. One face of a set stays, the others are put on its surface.
// 3. Each place is made anew with all of its faces at once. Where that fails, the sets are tried one after the other,
//    also with another face that stays, and a set that no choice closes is left as a whole: moved in one place and not
//    in the other, it would part what touched before.

namespace rasoir::join {
namespace {

struct PlacedFace {
    std::size_t place = 0;
    int face = 0;
    friend auto operator<=>(const PlacedFace&, const PlacedFace&) = default;
};

/// Faces that are to lie on one surface.
struct Set {
    std::vector<PlacedFace> sides;
    double gap = 0.0;  ///< [mm] widest between two of them
    bool past = false;
};

using Surfaces = std::map<int, Handle(Geom_Surface)>;
/// New surfaces for faces, by place.
using Moves = std::map<std::size_t, Surfaces>;

class GapCloser {
public:
    GapCloser(const Model& model, const std::vector<std::size_t>& places, double upTo, const std::string& by,
              Progress& progress)
        : m_model(model), m_places(places.begin(), places.end()), m_upTo(upTo), m_by(by), m_progress(progress) {}

    Result<ClosedGaps> run() {
        if (m_by != "smaller" && m_by != "larger") {
            const auto named = placesNamed(m_model, {m_by});
            if (!named) return tl::unexpected(named.error());
            m_movers.insert(named->begin(), named->end());
        }
        if (auto found = findSets(); !found) return tl::unexpected(found.error());
        if (!closeAllAtOnce())
            for (const Set& set : m_sets) {
                if (m_progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
                close(set);
            }
        for (auto& [place, shifted] : m_closed.places) shifted.told = m_told[place];
        return std::move(m_closed);
    }

private:
    const Model& m_model;
    std::set<std::size_t> m_places, m_movers;
    double m_upTo;
    const std::string& m_by;
    Progress& m_progress;
    std::vector<Set> m_sets;
    Moves m_moves;  // of the sets closed so far
    ClosedGaps m_closed;
    std::map<std::size_t, std::vector<std::string>> m_told;  // by place

    [[nodiscard]] const Part& partOf(std::size_t place) const {
        return *m_model.parts[m_model.occurrences[place].part];
    }
    [[nodiscard]] TopoDS_Face faceOf(const PlacedFace& side) const {
        return partOf(side.place).incidence().face(side.face);
    }

    /// The surface of `stays` for another face, in that one's coordinates; null where it would go too far, or cannot.
    [[nodiscard]] Handle(Geom_Surface) onSurfaceOf(const PlacedFace& moves, const PlacedFace& stays) const {
        const gp_Trsf there =
            m_model.occurrences[moves.place].placement.Inverted() * m_model.occurrences[stays.place].placement;
        const Handle(Geom_Surface) seen =
            Handle(Geom_Surface)::DownCast(BRep_Tool::Surface(faceOf(stays))->Transformed(there));
        return laidSurface(faceOf(moves), seen, 1.01 * m_upTo);
    }

    Result<void> findSets() {
        // Only the places that are joined are looked at.
        Model seen = m_model;
        for (std::size_t o = 0; o < seen.occurrences.size(); ++o) seen.occurrences[o].aside = !m_places.contains(o);
        const auto report = findContacts(seen, m_upTo, m_progress);
        if (!report) return tl::unexpected(report.error());
        const double exact = 0.5 * m_model.tolerances().samePoint;
        std::map<PlacedFace, int> numbers;
        std::vector<PlacedFace> sides;
        const auto numberOf = [&](const PlacedFace& side) {
            const auto [at, fresh] = numbers.emplace(side, static_cast<int>(sides.size()));
            if (fresh) sides.push_back(side);
            return at->second;
        };
        std::vector<std::pair<int, int>> together;
        std::vector<std::tuple<int, double, bool>> gaps;
        for (const Contact& contact : report->contacts) {
            if (contact.kind == ContactKind::Overlap || contact.widest > m_upTo) continue;
            const PlacedFace own{contact.placeA, contact.faceA}, other{contact.placeB, contact.faceB};
            // A rod that lies along a flat comes near it as well, but no surface could be that of both.
            if (contact.widest > exact && onSurfaceOf(own, other).IsNull() && onSurfaceOf(other, own).IsNull()) {
                if (contact.area > 0.5 * std::min(areaOf(faceOf(own)), areaOf(faceOf(other))))
                    leave({{own, other}, contact.widest, contact.past},
                          {ProblemKind::NotPossible,
                           "they are not surfaces of one kind that come to lie on each other.",
                           {},
                           {}});
                continue;
            }
            const int a = numberOf(own), b = numberOf(other);
            together.emplace_back(a, b);
            gaps.emplace_back(a, contact.widest, contact.past);
        }
        // Pieces of one surface go together, however many they are: the list grows while it is walked.
        for (std::size_t s = 0; s < sides.size(); ++s) {
            const Incidence& topology = partOf(sides[s].place).incidence();
            const PlacedFace own = sides[s];
            for (const int g : topology.neighboursOf(own.face))
                if (sameSurface(topology.face(own.face), topology.face(g), 1e-6))
                    together.emplace_back(static_cast<int>(s), numberOf({own.place, g}));
        }
        Sets sets(sides.size());
        for (const auto& [a, b] : together) sets.join(a, b);
        std::map<int, Set> byRoot;
        for (std::size_t s = 0; s < sides.size(); ++s) byRoot[sets.root(static_cast<int>(s))].sides.push_back(sides[s]);
        for (const auto& [a, gap, past] : gaps) {
            Set& set = byRoot[sets.root(a)];
            if (gap <= set.gap) continue;
            set.gap = gap;
            set.past = past;
        }
        for (auto& [root, set] : byRoot)
            if (set.gap > exact) m_sets.push_back(std::move(set));
        // The widest first: what is left is left for the sake of the narrow ones.
        std::stable_sort(m_sets.begin(), m_sets.end(), [](const Set& a, const Set& b) { return a.gap > b.gap; });
        return {};
    }

    /// In which order faces of a set are tried as the one that stays.
    [[nodiscard]] std::vector<PlacedFace> stayers(const Set& set) const {
        std::vector<std::pair<double, PlacedFace>> ranked;
        for (const PlacedFace& side : set.sides) {
            const double area = areaOf(faceOf(side));
            const bool moves = m_movers.contains(side.place);
            ranked.emplace_back((m_by == "larger" ? area : -area) + (moves ? 1e30 : 0.0), side);
        }
        std::sort(ranked.begin(), ranked.end());
        std::vector<PlacedFace> order;
        for (const auto& [rank, side] : ranked) order.push_back(side);
        return order;
    }

    /// The surfaces of all other faces of the set when one stays; none when a face would go too far.
    [[nodiscard]] std::optional<Moves> movesWhen(const Set& set, const PlacedFace& stays) const {
        Moves moves;
        const Handle(Geom_Surface) onto = BRep_Tool::Surface(faceOf(stays));
        for (const PlacedFace& side : set.sides) {
            if (side == stays) continue;
            const gp_Trsf there =
                m_model.occurrences[side.place].placement.Inverted() * m_model.occurrences[stays.place].placement;
            const Handle(Geom_Surface) seen = Handle(Geom_Surface)::DownCast(onto->Transformed(there));
            const Handle(Geom_Surface) laid = laidSurface(faceOf(side), seen, 1.01 * m_upTo);
            if (laid.IsNull()) return std::nullopt;
            moves[side.place][side.face] = laid;
        }
        return moves;
    }

    /// Every set with its first choice, each place made once: that is all that most models need.
    bool closeAllAtOnce() {
        Moves all;
        std::vector<Moves> ofSets;
        for (const Set& set : m_sets) {
            auto moves = movesWhen(set, stayers(set).front());
            if (!moves) return false;
            for (const auto& [place, surfaces] : *moves)
                for (const auto& [face, surface] : surfaces) all[place][face] = surface;
            ofSets.push_back(std::move(*moves));
        }
        std::map<std::size_t, Shifted> made;
        for (const auto& [place, surfaces] : all) {
            if (m_progress.cancelled()) return false;
            auto shifted = shiftedPart(partOf(place), surfaces);
            if (!shifted) return false;
            made.emplace(place, std::move(*shifted));
        }
        m_closed.places = std::move(made);
        for (std::size_t s = 0; s < m_sets.size(); ++s)
            for (const auto& [place, surfaces] : ofSets[s]) tell(m_sets[s], place, surfaces.size());
        return true;
    }

    void tell(const Set& set, std::size_t place, std::size_t faces) {
        m_told[place].push_back(fmt::format("{} of \"{}\" moved by up to {} mm to close {}.", counted(faces, "face"),
                                            placeName(m_model, place), readable(set.gap),
                                            set.past ? "an overlap" : "a gap"));
    }

    /// Tries one choice after the other of the face that stays; the first that all places concerned can follow is
    /// taken.
    void close(const Set& set) {
        Problem why{
            ProblemKind::NotPossible, "they are not surfaces of one kind that come to lie on each other.", {}, {}};
        int tried = 0;
        for (const PlacedFace& stays : stayers(set)) {
            if (++tried > 4) break;
            const auto moves = movesWhen(set, stays);
            if (!moves) continue;
            std::map<std::size_t, Shifted> made;
            Moves all = m_moves;
            bool fine = true;
            for (const auto& [place, surfaces] : *moves) {
                Surfaces& own = all[place];
                for (const auto& [face, surface] : surfaces) own[face] = surface;
                auto shifted = shiftedPart(partOf(place), own);
                if (!shifted) {
                    why = shifted.error();
                    fine = false;
                    break;
                }
                made.emplace(place, std::move(*shifted));
            }
            if (!fine) continue;
            m_moves = std::move(all);
            for (auto& [place, shifted] : made) {
                tell(set, place, moves->at(place).size());
                m_closed.places.insert_or_assign(place, std::move(shifted));
            }
            return;
        }
        leave(set, why);
    }

    Result<Shifted> shiftedPart(const Part& part, const Surfaces& surfaces) {
        // What is left of a face must not have gone much farther than the face itself: where neighbours meet it under a
        // small angle, its corners run away.
        const auto runsAway = [this](const heal::Resurfaced& made) -> std::optional<std::string> {
            if (made.moved <= 5.0 * m_upTo) return std::nullopt;
            return fmt::format("would move its corners by {} mm", readable(made.moved));
        };
        auto made = shave::onSurfaces(part, surfaces, m_model.tolerances().samePoint, runsAway, &m_progress);
        if (!made) return tl::unexpected(made.error());
        return Shifted{std::move(made->made.part), std::move(made->made.lineage), made->moved, {}};
    }

    void leave(const Set& set, const Problem& why) {
        const PlacedFace& first = set.sides.front();
        const auto other = std::find_if(set.sides.begin(), set.sides.end(),
                                        [&first](const PlacedFace& side) { return side.place != first.place; });
        const PlacedFace& second = other == set.sides.end() ? first : *other;
        const gp_Pnt at = skinOf(faceOf(first)).centre.Transformed(m_model.occurrences[first.place].placement);
        Item item{fmt::format("\"{}\" and \"{}\"", placeName(m_model, first.place), placeName(m_model, second.place)),
                  false,
                  {},
                  set.gap};
        item.problem = {
            ProblemKind::NotPossible,
            fmt::format("The {} of {} mm between face {} of \"{}\" and face {} of \"{}\" stays: {}",
                        set.past ? "overlap" : "gap", readable(set.gap), first.face, placeName(m_model, first.place),
                        second.face, placeName(m_model, second.place), why.what),
            {partOf(first.place).name, {first.face}, at},
            "Move one of the bodies, or a face of it, in a step of its own."};
        m_closed.left.push_back(std::move(item));
        m_closed.widestLeft = std::max(m_closed.widestLeft, set.gap);
    }
};

}  // namespace

Result<ClosedGaps> closeGaps(const Model& model, const std::vector<std::size_t>& places, double upTo,
                             const std::string& by, Progress& progress) {
    return GapCloser(model, places, upTo, by, progress).run();
}

}  // namespace rasoir::join
