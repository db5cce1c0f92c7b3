#include "reduce/draw_onto.h"

#include <fmt/format.h>

#include <BRep_Tool.hxx>
#include <BRepBuilderAPI_Transform.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <gp_Pln.hxx>

#include "arrange/choice.h"
#include "common/tolerance.h"
#include "geometry/integrals.h"
#include "join/contacts.h"
#include "join/pairs.h"
#include "model/lineage_builder.h"
#include "model/places.h"
#include "reduce/drawn_body.h"
#include "reduce/sheet_growth.h"

// Pairs come from the survey of contacts, largest common area first. One pair is done after the other, each on what the
// last one has left: the mover moves, the two are arranged, and pieces of both are of the larger one alone. A wall is
// an interval along the normal; where two lie on one sheet its thickness is what both together reach over.

namespace rasoir::reduce {
namespace {

bool isFlat(const Part& part, int face) {
    return GeomAdaptor_Surface(BRep_Tool::Surface(part.incidence().face(face))).GetType() == GeomAbs_Plane;
}

/// The normal of a flat face, as the face looks.
gp_Vec normalOf(const Part& part, int face) {
    const TopoDS_Face shape = part.incidence().face(face);
    const gp_Pln plane = GeomAdaptor_Surface(BRep_Tool::Surface(shape)).Plane();
    gp_Vec normal(plane.Position().Direct() ? plane.Axis().Direction() : plane.Axis().Direction().Reversed());
    return shape.Orientation() == TopAbs_REVERSED ? normal.Reversed() : normal;
}

class Drawing {
public:
    Drawing(const Model& received, const DrawOnto& step, Progress& progress) : m_step(step), m_progress(progress) {
        m_outcome.model = received;
        m_outcome.model.giveIds();
    }

    Result<Outcome> run() {
        if (!(m_step.within >= 0.0) || !std::isfinite(m_step.within))
            return fail(ProblemKind::BadInput, "How far sheets may be moved must be zero or more.");
        const auto meant = placesMeant(model(), m_step.places);
        if (!meant) return tl::unexpected(meant.error());
        std::set<std::size_t> sheets;
        for (const std::size_t o : *meant)
            if (model().parts[model().occurrences[o].part]->kind() == BodyKind::Sheet) sheets.insert(o);
        std::size_t done = 0;
        // Faces of a sheet that has changed have other numbers: what it does with a third one waits for a new survey.
        for (std::size_t before = 0;; before = done) {
            if (auto fine = drawWhatLiesNear(sheets, done); !fine) return tl::unexpected(fine.error());
            if (done == before) break;
        }
        if (done == 0 && m_first) return tl::unexpected(*m_first);
        if (done == 0)
            return fail(ProblemKind::NothingToDo, "No sheets lie on each other, or so near.", "Give a larger limit.");
        if (auto fine = joinThem(); !fine) return tl::unexpected(fine.error());
        m_outcome.summary = fmt::format("Draw {} onto others", counted(done, "sheet"));
        m_progress.report(1.0, m_outcome.summary);
        return std::move(m_outcome);
    }

private:
    const DrawOnto& m_step;
    Progress& m_progress;
    Outcome m_outcome;
    std::set<std::pair<std::size_t, std::size_t>> m_tried;  // pairs of places
    std::set<std::size_t> m_placed;                         // that have moved, or to which others did
    std::vector<std::pair<std::size_t, std::size_t>> m_together;
    std::optional<Problem> m_first;  // of what could not be done

    [[nodiscard]] const Model& model() const { return m_outcome.model; }
    [[nodiscard]] const Part& part(std::size_t place) const { return *model().parts[model().occurrences[place].part]; }
    [[nodiscard]] bool isJoined(std::size_t place) const {
        const PlaceId id = model().occurrences[place].id;
        return std::any_of(model().joints.begin(), model().joints.end(), [&](const Joint& joint) {
            return std::any_of(joint.uses.begin(), joint.uses.end(),
                               [&](const JointUse& use) { return use.place == id; });
        });
    }
    /// A part in one place alone changes there alone; else it becomes a part of its own there.
    void put(std::size_t place, const Regrown& regrown, const std::map<int, Thickness>& thickness) {
        std::vector<PartLineage> before = std::move(m_outcome.lineage);
        m_outcome.lineage.clear();
        const std::size_t p = replaceIn(m_outcome, model().occurrences[place].part, regrown, {place});
        m_outcome.lineage = followed(std::move(before), m_outcome.lineage);
        auto known = m_outcome.model.parts[p]->copy();
        for (const auto& [face, own] : thickness) known->known.thickness[{EntityKind::Face, face}] = own;
        m_outcome.model.parts[p] = std::move(known);
        m_outcome.model.giveIds();
    }

    Result<void> drawWhatLiesNear(const std::set<std::size_t>& sheets, std::size_t& done) {
        Model asked = model();
        for (std::size_t o = 0; o < asked.occurrences.size(); ++o)
            asked.occurrences.change(o).aside = !sheets.contains(o);
        const double least = 10.0 * model().samePoint();
        const auto report = join::findContacts(asked, {std::max(m_step.within, least)}, m_progress);
        if (!report) return tl::unexpected(report.error());
        std::vector<join::Contact> pairs;
        for (const join::Contact& contact : report->contacts)
            if (contact.faceA > 0 && contact.faceB > 0 && contact.area > 0.0 && !contact.isWedge() &&
                (contact.kind == join::ContactKind::Touching || contact.kind == join::ContactKind::Near))
                pairs.push_back(contact);
        std::stable_sort(pairs.begin(), pairs.end(),
                         [](const join::Contact& a, const join::Contact& b) { return a.area > b.area; });
        std::set<std::size_t> changed;
        for (const join::Contact& contact : pairs) {
            if (m_progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
            if (changed.contains(contact.placeA) || changed.contains(contact.placeB)) continue;
            if (!m_tried.insert({contact.placeA, contact.placeB}).second) continue;
            const Outcome before = m_outcome;  // shares its parts
            const std::set<std::size_t> placed = m_placed;
            const auto drawn = draw(contact);
            if (!drawn) {  // one that was moved before it was refused stands where it stood
                m_outcome = before;
                m_placed = placed;
            }
            if (drawn) {
                changed.insert({contact.placeA, contact.placeB});
                ++done;
                continue;
            }
            if (drawn.error().kind == ProblemKind::Cancelled) return drawn;
            if (drawn.error().kind == ProblemKind::NothingToDo) continue;
            if (!m_first) m_first = drawn.error();
            m_outcome.items.push_back({fmt::format("\"{}\" and \"{}\"", placeName(model(), contact.placeA),
                                                   placeName(model(), contact.placeB)),
                                       false, drawn.error(), 0.0});
        }
        return {};
    }

    Result<void> joinThem() {
        join::Pairs pairs;
        for (const auto& [a, b] : m_together) pairs.pairs.emplace_back(placeName(model(), a), placeName(model(), b));
        auto joined = join::joinPairs(model(), pairs, m_progress);
        if (!joined && joined.error().kind != ProblemKind::NothingToDo) return tl::unexpected(joined.error());
        if (!joined) return {};
        m_outcome.lineage = followed(std::move(m_outcome.lineage), joined->lineage);
        m_outcome.model = std::move(joined->model);
        m_outcome.jointsMade = joined->jointsMade;
        return {};
    }

    Result<void> draw(const join::Contact& contact) {
        const bool firstStays = areaOf(part(contact.placeA).shape) >= areaOf(part(contact.placeB).shape);
        std::size_t stays = firstStays ? contact.placeA : contact.placeB,
                    moves = firstStays ? contact.placeB : contact.placeA;
        const auto faceAt = [&](std::size_t place) { return place == contact.placeA ? contact.faceA : contact.faceB; };
        const double least = 10.0 * model().samePoint();
        const double gap = contact.kind == join::ContactKind::Touching ? 0.0 : contact.widest;
        if (gap > std::max(m_step.within, least)) return fail(ProblemKind::NothingToDo, "They are farther apart.");
        if (gap > least) {
            if (isJoined(moves) || m_placed.contains(moves)) std::swap(stays, moves);
            if (isJoined(moves) || m_placed.contains(moves))
                return fail(ProblemKind::NotPossible,
                            fmt::format("\"{}\" and \"{}\" are both joined to others already: neither can move.",
                                        placeName(model(), stays), placeName(model(), moves)),
                            "Draw them onto each other before they are joined.",
                            {part(moves).name, {faceAt(moves)}, contact.where});
            if (auto fine = shift(stays, faceAt(stays), moves, faceAt(moves)); !fine) return fine;
            m_placed.insert(moves);
        }
        m_placed.insert(stays);
        return countOnce(stays, moves, gap);
    }

    /// Moves a whole sheet straight onto a flat face of another one, and tells its walls that they did not move.
    Result<void> shift(std::size_t stays, int stayingFace, std::size_t moves, int movingFace) {
        const Part& part_ = part(moves);
        if (!isFlat(part(stays), stayingFace) || !isFlat(part_, movingFace))
            return fail(ProblemKind::NotPossible,
                        fmt::format("\"{}\" cannot be moved onto \"{}\": only flat faces are drawn onto each other.",
                                    placeName(model(), moves), placeName(model(), stays)),
                        "Set their thickness so that one sheet stands for both.", {part_.name, {movingFace}, {}});
        const gp_Trsf there = model().occurrences[moves].placement.Inverted() * model().occurrences[stays].placement;
        const gp_Vec normal = normalOf(part(stays), stayingFace).Transformed(there);
        if (std::abs(normal.Dot(normalOf(part_, movingFace))) < std::cos(Tolerance::fittedDirection))
            return fail(ProblemKind::NotPossible,
                        fmt::format("\"{}\" and \"{}\" are not parallel where they are near.",
                                    placeName(model(), moves), placeName(model(), stays)),
                        "Turn one of them in Divide, or keep them as two and link them.",
                        {part_.name, {movingFace}, {}});
        const gp_Pnt on = part(stays).incidence().skin(stayingFace).centre.Transformed(there);
        const gp_Vec by = normal * gp_Vec(part_.incidence().skin(movingFace).centre, on).Dot(normal);
        gp_Trsf move;
        move.SetTranslation(by);
        Regrown shifted{BRepBuilderAPI_Transform(part_.shape, move, true).Shape(),
                        sameNumbering(part_.incidence(), false)};
        std::map<int, Thickness> thickness;
        for (const auto& [entity, own] : part_.known.thickness) {
            if (entity.kind != EntityKind::Face || !isFlat(part_, entity.number)) continue;
            Thickness kept = own;
            kept.from.Translate(by);
            kept.offset -= by.Dot(normalOf(part_, entity.number));
            thickness[entity.number] = kept;
        }
        put(moves, shifted, thickness);
        return {};
    }

    Result<void> countOnce(std::size_t stays, std::size_t moves, double gap) {
        const Part &larger = part(stays), &smaller = part(moves);
        const gp_Trsf into = model().occurrences[stays].placement.Inverted() * model().occurrences[moves].placement;
        const auto all =
            arrange::arrange({{larger.shape, larger.name}, {smaller.shape.Moved(TopLoc_Location(into)), smaller.name}},
                             model().samePoint(), m_progress);
        if (!all) return tl::unexpected(all.error());
        auto ownPieces = arrange::piecesOf(*all, 1);
        std::map<int, std::pair<int, int>> common;  // piece: faces of the larger and the smaller one
        for (const auto& [piece, turned] : ownPieces) {
            int first = 0, second = 0;
            for (const arrange::Owner& owner : all->pieces[static_cast<std::size_t>(piece)].owners)
                (owner.input == 0 ? first : second) = owner.number;
            if (first > 0) common[piece] = {first, second};
        }
        if (common.empty()) return fail(ProblemKind::NothingToDo, "They have nothing in common.");
        std::erase_if(ownPieces, [&](const auto& one) { return common.contains(one.first); });
        if (ownPieces.empty())
            return fail(ProblemKind::NotPossible,
                        fmt::format("\"{}\" would lie on \"{}\" wholly, and nothing of it would be left.",
                                    placeName(model(), moves), placeName(model(), stays)),
                        "Set it aside, and give the other one the thickness of both.", {smaller.name, {}, {}});
        auto chosen = arrange::sheetOf(*all, arrange::piecesOf(*all, 0));
        if (!chosen) return tl::unexpected(chosen.error());
        auto rest = arrange::sheetOf(*all, ownPieces);
        if (!rest) return tl::unexpected(rest.error());
        double area = 0.0;
        std::map<int, Thickness> thickness;
        const Incidence now(chosen->shape);
        for (const auto& [piece, faces] : common) {
            const int face = chosen->faceOfPiece.at(piece);
            area += now.area(face);
            if (const auto both = thickerOf(larger, smaller, faces, into, now, face)) thickness[face] = *both;
        }
        // The smaller one's rest is made in the larger one's coordinates.
        gp_Trsf back = into.Inverted();
        Regrown left{rest->shape.Moved(TopLoc_Location(back)), rest->lineage.at(1)};
        const std::string names =
            fmt::format("\"{}\" onto \"{}\"", placeName(model(), moves), placeName(model(), stays));
        put(stays, {chosen->shape, chosen->lineage.at(0)}, thickness);
        put(moves, left, {});
        m_together.emplace_back(stays, moves);
        m_outcome.items.push_back(
            {fmt::format("{}: moved by {} mm, {} mm² counted once", names, readable(gap), readable(area)),
             true,
             {},
             gap});
        return {};
    }

    /// How thick the larger sheet is where the smaller one lies on it: from where the first of both walls begins to
    /// where the last one ends.
    static std::optional<Thickness> thickerOf(const Part& larger, const Part& smaller, const std::pair<int, int>& faces,
                                              const gp_Trsf& into, const Incidence& now, int face) {
        const auto a = larger.known.thickness.find({EntityKind::Face, faces.first}),
                   b = smaller.known.thickness.find({EntityKind::Face, faces.second});
        if (a == larger.known.thickness.end() || b == smaller.known.thickness.end()) return std::nullopt;
        if (!isFlat(larger, faces.first) || !isFlat(smaller, faces.second)) return std::nullopt;
        const gp_Pnt centre = now.skin(face).centre;
        const auto [offsetA, halfA] = offsetAndHalf(a->second, centre);
        auto [offsetB, halfB] = offsetAndHalf(b->second, centre.Transformed(into.Inverted()));
        if (normalOf(larger, faces.first).Dot(normalOf(smaller, faces.second).Transformed(into)) < 0.0)
            offsetB = -offsetB;
        const double low = std::min(offsetA - halfA, offsetB - halfB),
                     high = std::max(offsetA + halfA, offsetB + halfB);
        Thickness both;
        both.at = high - low;
        both.offset = 0.5 * (low + high);
        both.from = centre;
        return both;
    }
};

}  // namespace

std::vector<ParameterInfo> DrawOnto::infos() {
    return {
        {"places", "list of names", "", "Parts or places of sheets; empty: all that are not set aside.", Json::array()},
        {"within", "number", "mm", "How far a sheet may be moved; 0: those that lie on each other already.", 0.0}};
}
void to_json(Json& json, const DrawOnto& step) {
    json = Json::object();
    if (!step.places.empty()) json["places"] = step.places;
    if (step.within > 0.0) json["within"] = step.within;
}
void from_json(const Json& json, DrawOnto& step) {
    step.places = json.value("places", std::vector<std::string>{});
    step.within = json.value("within", 0.0);
}

Result<Outcome> drawOnto(const Model& model, const DrawOnto& step, Progress& progress) {
    return Drawing(model, step, progress).run();
}

}  // namespace rasoir::reduce
