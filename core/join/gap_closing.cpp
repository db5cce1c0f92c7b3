#include "join/gap_closing.h"

#include <fmt/format.h>

#include <BRep_Tool.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <set>
#include <TopoDS.hxx>

#include "common/sets.h"
#include "common/tolerance.h"
#include "geometry/curves.h"
#include "geometry/extent.h"
#include "geometry/face_points.h"
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
//    Faces beside those that touch, which look the same way and run nearly flush there (a lid set down a hair off its
//    box, two rows of bolt holes), are of one set as well: left as they are, the common face would get a strip as
//    narrow as a hair along its rim.
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
    double aside = 0.0;  ///< [mm] widest between two that are to run flush
};

/// Two faces of one set, by their numbers among the sides.
struct Bond {
    int a = 0, b = 0;
    double gap = 0.0;  ///< [mm]
    bool past = false;
    bool flush = false;  ///< they look the same way, beside faces that touch; else they face each other
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
        if (m_by != "smaller" && m_by != "larger" && m_by != "midway") {
            const auto named = placesNamed(m_model, {m_by});
            if (!named) return tl::unexpected(named.error());
            m_movers.insert(named->begin(), named->end());
        }
        if (auto found = findSets(); !found) return tl::unexpected(found.error());
        if (!closeAllAtOnce())
            for (const Set& set : m_sets) {
                if (m_progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
                const auto why = close(set);
                if (!why) continue;
                if (set.aside > exact()) leaveAside(set, *why);
                for (const Set& part : setsOf(false, &set))
                    if (const auto still = set.aside > 0.0 ? close(part) : why) leave(part, *still);
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
    std::vector<PlacedFace> m_sides;
    std::vector<Bond> m_bonds;
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
        for (std::size_t o = 0; o < seen.occurrences.size(); ++o)
            seen.occurrences.change(o).aside = !m_places.contains(o);
        const auto report = findContacts(seen, {m_upTo}, m_progress);
        if (!report) return tl::unexpected(report.error());
        std::map<PlacedFace, int> numbers;
        const auto numberOf = [&](const PlacedFace& side) {
            const auto [at, fresh] = numbers.emplace(side, static_cast<int>(m_sides.size()));
            if (fresh) m_sides.push_back(side);
            return at->second;
        };
        for (const Contact& contact : report->contacts) {
            if (contact.widest > m_upTo) continue;
            if (m_progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
            const PlacedFace own{contact.placeA, contact.faceA}, other{contact.placeB, contact.faceB};
            // A rod that lies along a flat comes near it as well, but no surface could be that of both.
            if (contact.widest > exact() && onSurfaceOf(own, other).IsNull() && onSurfaceOf(other, own).IsNull()) {
                if (contact.area > 0.5 * std::min(areaOf(faceOf(own)), areaOf(faceOf(other))))
                    leave({{own, other}, contact.widest, contact.past},
                          {ProblemKind::NotPossible,
                           "they are not surfaces of one kind that come to lie on each other.",
                           {},
                           {}});
                continue;
            }
            m_bonds.push_back({numberOf(own), numberOf(other), contact.widest, contact.past, false});
            for (const auto& [beside, beyond, aside] : flushBeside(own, other))
                m_bonds.push_back({numberOf(beside), numberOf(beyond), aside, false, true});
        }
        // Pieces of one surface go together, however many they are: the list grows while it is walked.
        for (std::size_t s = 0; s < m_sides.size(); ++s) {
            const PlacedFace own = m_sides[s];
            const Incidence& topology = partOf(own.place).incidence();
            for (const int g : topology.neighboursOf(own.face))
                if (sameSurface(topology.face(own.face), topology.face(g), Tolerance::samePlace))
                    m_bonds.push_back({static_cast<int>(s), numberOf({own.place, g})});
        }
        m_sets = setsOf(true, nullptr);
        return {};
    }

    [[nodiscard]] double exact() const { return 0.5 * m_model.samePoint(); }

    /// Faces beside two that touch, one of each, that look the same way and run within the limit of each other where
    /// those end; and how far apart they run there [mm].
    [[nodiscard]] std::vector<std::tuple<PlacedFace, PlacedFace, double>> flushBeside(const PlacedFace& own,
                                                                                      const PlacedFace& other) const {
        struct Rim {
            Bnd_Box box;  // of the edge, model coordinates
            PlacedFace face;
            gp_Pnt middle;
        };
        const auto rimsOf = [this](const PlacedFace& side) {
            std::vector<Rim> rims;
            const Incidence& topology = partOf(side.place).incidence();
            const gp_Trsf& place = m_model.occurrences[side.place].placement;
            for (const int e : topology.edgesOf(side.face))
                for (const EdgeUse& use : topology.usesOf(e)) {
                    if (use.face == side.face) continue;
                    const BRepAdaptor_Curve curve(topology.edge(e));
                    rims.push_back(
                        {tightBox(topology.edge(e)).Transformed(place),
                         {side.place, use.face},
                         curve.Value(0.5 * (curve.FirstParameter() + curve.LastParameter())).Transformed(place)});
                    rims.back().box.Enlarge(m_upTo);
                }
            return rims;
        };
        std::vector<std::tuple<PlacedFace, PlacedFace, double>> found;
        const std::vector<Rim> there = rimsOf(other);
        for (const Rim& rim : rimsOf(own))
            for (const Rim& beyond : there) {
                if (rim.box.IsOut(beyond.box)) continue;
                const auto away = outwardsAt(rim.face, rim.middle), alike = outwardsAt(beyond.face, rim.middle);
                if (!away || !alike || away->Dot(*alike) < 0.5) continue;
                const Handle(Geom_Surface) laid = onSurfaceOf(rim.face, beyond.face);
                if (laid.IsNull()) continue;
                const gp_Pnt at = rim.middle.Transformed(m_model.occurrences[rim.face.place].placement.Inverted());
                const auto foot = footOn(laid, at, Tolerance::least);
                if (!foot) continue;
                found.emplace_back(rim.face, beyond.face, laid->Value(foot->X(), foot->Y()).Distance(at));
            }
        return found;
    }
    /// Away from the material, at the nearest point of a face's surface; model coordinates.
    [[nodiscard]] std::optional<gp_Dir> outwardsAt(const PlacedFace& side, const gp_Pnt& at) const {
        const TopoDS_Face face = faceOf(side);
        const gp_Trsf& place = m_model.occurrences[side.place].placement;
        const Handle(Geom_Surface) surface = BRep_Tool::Surface(face);
        const auto foot = footOn(surface, at.Transformed(place.Inverted()), Tolerance::least);
        if (!foot) return std::nullopt;
        gp_Pnt on;
        gp_Vec du, dv;
        surface->D1(foot->X(), foot->Y(), on, du, dv);
        const gp_Vec normal = du.Crossed(dv);
        if (normal.Magnitude() < Tolerance::noLength) return std::nullopt;
        return gp_Dir(face.Orientation() == TopAbs_REVERSED ? -normal : normal).Transformed(place);
    }

    /// Faces that hang together over bonds; `within`: of another set's faces alone.
    [[nodiscard]] std::vector<Set> setsOf(bool flush, const Set* within) const {
        std::set<PlacedFace> only;
        if (within != nullptr) only.insert(within->sides.begin(), within->sides.end());
        Sets sets(m_sides.size());
        for (const Bond& bond : m_bonds)
            if (flush || !bond.flush) sets.join(bond.a, bond.b);
        std::map<int, Set> byRoot;
        for (std::size_t s = 0; s < m_sides.size(); ++s)
            if (within == nullptr || only.contains(m_sides[s]))
                byRoot[sets.root(static_cast<int>(s))].sides.push_back(m_sides[s]);
        for (const Bond& bond : m_bonds) {
            const auto at = byRoot.find(sets.root(bond.a));
            if (at == byRoot.end() || (bond.flush && !flush)) continue;
            Set& set = at->second;
            if (bond.flush) {
                set.aside = std::max(set.aside, bond.gap);
            } else if (bond.gap > set.gap) {
                set.gap = bond.gap;
                set.past = bond.past;
            }
        }
        std::vector<Set> all;
        for (auto& [root, set] : byRoot)
            if (std::max(set.gap, set.aside) > exact()) all.push_back(std::move(set));
        // The widest first: what is left is left for the sake of the narrow ones.
        std::stable_sort(all.begin(), all.end(), [](const Set& a, const Set& b) { return a.gap > b.gap; });
        return all;
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

    /// The surface midway between a face and the one of its set that lies farthest from it, in that face's coordinates.
    [[nodiscard]] Handle(Geom_Surface) midwayFrom(const Set& set, const PlacedFace& stays) const {
        const TopoDS_Face face = faceOf(stays);
        const Handle(Geom_Surface) surface = BRep_Tool::Surface(face);
        const double outwards = copiedSurface(face).second;
        double farthest = 0.0;
        for (const PlacedFace& side : set.sides) {
            if (side == stays) continue;
            const gp_Trsf there =
                m_model.occurrences[stays.place].placement.Inverted() * m_model.occurrences[side.place].placement;
            const std::vector<gp_Pnt> points = pointsWithin(faceOf(side));
            if (points.empty()) continue;
            const gp_Pnt at = points.front().Transformed(there);
            const auto foot = footOn(surface, at, Tolerance::least);
            if (!foot) continue;
            gp_Pnt on;
            gp_Vec du, dv;
            surface->D1(foot->X(), foot->Y(), on, du, dv);
            const gp_Vec normal = du.Crossed(dv);
            if (normal.Magnitude() < Tolerance::noLength) continue;
            const double off = outwards * gp_Vec(on, at).Dot(normal.Normalized());
            if (std::abs(off) > std::abs(farthest)) farthest = off;
        }
        return offsetSurface(face, 0.5 * farthest);
    }

    /// The surfaces of all other faces of the set when one stays, or of all when they meet midway; none when a face
    /// would go too far.
    [[nodiscard]] std::optional<Moves> movesWhen(const Set& set, const PlacedFace& stays) const {
        Moves moves;
        const bool midway = m_by == "midway";
        const Handle(Geom_Surface) onto = midway ? midwayFrom(set, stays) : BRep_Tool::Surface(faceOf(stays));
        if (onto.IsNull()) return std::nullopt;
        for (const PlacedFace& side : set.sides) {
            if (side == stays && !midway) continue;
            const gp_Trsf there =
                m_model.occurrences[side.place].placement.Inverted() * m_model.occurrences[stays.place].placement;
            const Handle(Geom_Surface) seen = Handle(Geom_Surface)::DownCast(onto->Transformed(there));
            const Handle(Geom_Surface) laid = laidSurface(faceOf(side), seen, 1.01 * m_upTo);
            if (laid.IsNull()) return std::nullopt;
            // What lies there already need not be made anew.
            if (laidSurface(faceOf(side), seen, exact()).IsNull()) moves[side.place][side.face] = laid;
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
        m_told[place].push_back(fmt::format("{} of \"{}\" moved by up to {} mm to {}.", counted(faces, "face"),
                                            placeName(m_model, place),
                                            readable((m_by == "midway" ? 0.5 : 1.0) * std::max(set.gap, set.aside)),
                                            set.gap <= exact() ? "run flush with what it touches"
                                            : set.past         ? "close an overlap"
                                                               : "close a gap"));
    }

    /// Tries one choice after the other of the face that stays; the first that all places concerned can follow is
    /// taken. Returns what stood in the way, none where it is done.
    std::optional<Problem> close(const Set& set) {
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
            return std::nullopt;
        }
        return why;
    }

    Result<Shifted> shiftedPart(const Part& part, const Surfaces& surfaces) {
        // What is left of a face must not have gone much farther than the face itself: where neighbours meet it under a
        // small angle, its corners run away.
        const auto runsAway = [this](const heal::Resurfaced& made) -> std::optional<std::string> {
            if (made.moved <= 5.0 * m_upTo) return std::nullopt;
            return fmt::format("would move its corners by {} mm", readable(made.moved));
        };
        auto made = shave::onSurfaces(part, surfaces, m_model.samePoint(), runsAway, &m_progress);
        if (!made) return tl::unexpected(made.error());
        return Shifted{std::move(made->made.part), std::move(made->made.lineage), made->moved, {}};
    }

    /// Faces that touch will end a hair apart.
    void leaveAside(const Set& set, const Problem& why) {
        const PlacedFace& first = set.sides.front();
        Item item{fmt::format("\"{}\"", placeName(m_model, first.place)), false, {}, set.aside};
        item.problem = {
            ProblemKind::NotPossible,
            fmt::format("Face {} of \"{}\" does not run flush with the face beyond, {} mm aside, and stays: {}",
                        first.face, placeName(m_model, first.place), readable(set.aside), why.what),
            {partOf(first.place).name,
             {first.face},
             skinOf(faceOf(first)).centre.Transformed(m_model.occurrences[first.place].placement)},
            "The common face keeps a strip that narrow; move one of the bodies, or a face of it."};
        m_closed.left.push_back(std::move(item));
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
