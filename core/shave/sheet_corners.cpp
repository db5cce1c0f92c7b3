#include "shave/sheet_corners.h"

#include <fmt/format.h>

#include "common/tolerance.h"
#include "geometry/curves.h"
#include "geometry/integrals.h"
#include "geometry/surface_meeting.h"
#include "heal/lineage_of.h"
#include "shave/choice.h"
#include "survey/sheet_corners.h"
#include "topology/half_edges.h"
#include "topology/soundness.h"

namespace rasoir::shave {
namespace {

using survey::SheetCorner;

std::string nameOf(const SheetCorner& corner) {
    return fmt::format("R {} mm corner, {}", readable(corner.radius), survey::describe(corner));
}

/// One corner out of `body`, or nothing changed and why not.
Result<void> squared(HalfEdgeBody& body, const SheetCorner& corner, double tolerance) {
    const auto stopped = [](const char* what, const char* remedy) -> Result<void> {
        return fail(ProblemKind::NotPossible, what, remedy);
    };
    const int f = body.faceRecord(corner.face);
    const auto sideOf = [&](int edge) {
        for (const int h : body.halvesOf(f))
            if (!body.half(h).dead && body.half(h).face == f && body.edge(body.half(h).edge).number == edge) return h;
        return -1;
    };
    if (body.face(f).disordered) return stopped("its face has loops that do not close.", "Mend the part first.");
    int first = sideOf(corner.arcs.front()), last = sideOf(corner.arcs.back());
    if (first < 0 || last < 0) return stopped("it went with another.", "Survey the corners again.");
    // The pieces of the circle in the order in which the half-edges run.
    if (corner.arcs.size() > 1 && body.half(last).next == first) std::swap(first, last);
    const int before = body.half(first).prev, after = body.half(last).next;
    const SurgeryEdge a = body.edge(body.half(before).edge), b = body.edge(body.half(after).edge);
    if (before == after || a.curve.IsNull() || b.curve.IsNull() || !runsOn(a.curve) || !runsOn(b.curve))
        return stopped("an edge beside it is freeform, and not to be carried on.",
                       "Leave it, or patch the corner by hand.");
    const auto meet = crossingOf(a.curve, b.curve, corner.middle, 20.0 * corner.radius, 10.0 * tolerance);
    if (!meet)
        return stopped("the edges beside it do not meet near it.", "Leave it, or remove what lies beside it first.");
    const bool aheadA = body.half(before).alongEdge, aheadB = !body.half(after).alongEdge;
    const auto toA = carriedTo(a, aheadA, *meet, 10.0 * tolerance), toB = carriedTo(b, aheadB, *meet, 10.0 * tolerance);
    if (!toA || !toB)
        return stopped("the edges beside it meet on the wrong side.", "Leave it, or remove what lies beside it first.");
    body.begin();
    const auto give = [&body](Result<void> done) -> Result<void> {
        if (!done) body.rollBack();
        return done;
    };
    const int corners = body.addVertex(*meet, 2.0 * tolerance);
    const int ea = body.half(before).edge, eb = body.half(after).edge;
    (aheadA ? body.changeEdge(ea).end : body.changeEdge(ea).start) = corners;
    if (auto done = give(body.reshape(ea, a.curve, aheadA ? a.first : *toA, aheadA ? *toA : a.last, 10.0 * tolerance));
        !done)
        return done;
    (aheadB ? body.changeEdge(eb).end : body.changeEdge(eb).start) = corners;
    const SurgeryEdge now = body.edge(eb);
    if (auto done =
            give(body.reshape(eb, now.curve, aheadB ? now.first : *toB, aheadB ? *toB : now.last, 10.0 * tolerance));
        !done)
        return done;
    for (int h = first;; h = body.half(h).next) {
        const bool end = h == last;
        body.changeEdge(body.half(h).edge).dead = true;
        body.kill(h);
        if (end) break;
    }
    body.link(before, after);
    const auto made = body.preview(tolerance);
    if (!made) return give(tl::unexpected(made.error()));
    for (const auto& [record, face] : *made)
        if (record == f) {
            const double grown = areaOf(face) - areaOf(body.before(f).received);
            const double tangent = corner.radius * std::tan(0.5 * corner.turn);
            if (!soundFace(face))
                return give(stopped("its face would cross itself.", "Remove what lies beside it first."));
            if (body.before(f).changed) continue;  // an earlier corner of the same face: the sum is no longer its own
            if ((grown > 0.0) != corner.outer || std::abs(grown) > 1.5 * tangent * tangent)
                return give(
                    stopped("its face would change by more than the corner.", "Remove what lies beside it first."));
        }
    body.commit();
    return {};
}

}  // namespace

Result<Outcome> squareCorners(const Model& model, const SquareCorners& step, Progress& progress) {
    if (!(step.upTo >= 0.0) || !std::isfinite(step.upTo) || !(step.from >= 0.0) || !std::isfinite(step.from))
        return fail(ProblemKind::BadInput, "The radii must be positive lengths.");
    if (step.upTo == 0.0 && step.chosenAt.empty())
        return fail(ProblemKind::BadInput, "No radius and no corner was given, so there is nothing to do.",
                    "Give upTo in mm, or pick corners.");
    for (const std::string& side : step.sides)
        if (side != "outer" && side != "inner")
            return fail(ProblemKind::BadInput, fmt::format("There is no side called \"{}\".", side),
                        "Known: outer, inner.");
    const auto choice = Choice::of(model, step.parts, {}, {});
    if (!choice) return tl::unexpected(choice.error());
    Outcome outcome;
    outcome.model = model;
    std::size_t gone = 0;
    std::vector<char> met(step.chosenAt.size(), false);
    const double tolerance = model.samePoint();
    for (std::size_t p = 0; p < model.parts.size(); ++p) {
        const Part& part = *model.parts[p];
        if (!choice->isRuled(model, p) || part.shape.IsNull() || part.lump) continue;
        if (progress.cancelled()) return fail(ProblemKind::Cancelled, "Stopped; nothing has changed.");
        std::vector<SheetCorner> taken;
        for (SheetCorner& corner : survey::findSheetCorners(part, model.targetSize)) {
            const auto isAt = [&](const std::array<double, 3>& at) {
                return corner.middle.Distance(gp_Pnt(at[0], at[1], at[2])) <= 0.05 * corner.radius;
            };
            bool chosen = false;
            for (std::size_t i = 0; i < met.size(); ++i)
                if (isAt(step.chosenAt[i])) {
                    chosen = true;
                    met[i] = true;
                }
            if (std::any_of(step.keptAt.begin(), step.keptAt.end(), isAt)) continue;
            const bool side = step.sides.empty() || std::find(step.sides.begin(), step.sides.end(),
                                                              corner.outer ? "outer" : "inner") != step.sides.end();
            if (chosen || (side && step.upTo > 0.0 && corner.radius <= step.upTo * (1.0 + Tolerance::atLimit) &&
                           corner.radius >= step.from * (1.0 - Tolerance::atLimit)))
                taken.push_back(std::move(corner));
        }
        if (taken.empty()) continue;
        HalfEdgeBody body(part.incidence());
        std::size_t done = 0;
        for (const SheetCorner& corner : taken) {
            Item item{nameOf(corner) + " in " + part.name, false, {}, corner.radius};
            const auto made = squared(body, corner, tolerance);
            item.done = made.has_value();
            if (made)
                ++done;
            else
                item.problem = {ProblemKind::NotPossible,
                                fmt::format("The {} stays: {}", nameOf(corner), made.error().what),
                                {part.name, {corner.face}, corner.middle},
                                made.error().remedy};
            outcome.items.push_back(std::move(item));
        }
        if (done == 0) continue;
        auto built = body.build(tolerance);
        if (!built) return tl::unexpected(built.error());
        const TopoDS_Shape shape = substituted(part.shape, *built);
        PartLineage lineage = heal::lineageOf(part, body, *built, shape);
        lineage.part = p;
        outcome.model.parts[p] = part.withShape(shape, lineage);
        outcome.lineage.push_back(std::move(lineage));
        gone += done;
    }
    if (const auto missing = std::find(met.begin(), met.end(), false); missing != met.end()) {
        const auto& at = step.chosenAt[static_cast<std::size_t>(missing - met.begin())];
        return fail(
            ProblemKind::NotPossible,
            fmt::format("There is no rounded corner at {}, {}, {}.", readable(at[0]), readable(at[1]), readable(at[2])),
            "Survey the corners again for their middles.");
    }
    if (outcome.items.empty())
        return fail(ProblemKind::NothingToDo,
                    fmt::format("There are no rounded corners of sheets up to R {} mm here.", readable(step.upTo)),
                    "Raise the limit.");
    if (gone == 0) return tl::unexpected(outcome.items.front().problem);
    outcome.summary = step.upTo > 0.0
                          ? fmt::format("Square {} R {} mm", counted(gone, "corner"), sizeRange(step.from, step.upTo))
                          : fmt::format("Square {}, picked", counted(gone, "corner"));
    progress.report(1.0, outcome.summary);
    return outcome;
}

std::vector<ParameterInfo> SquareCorners::infos() {
    return {{"upTo", "number", "mm",
             "Rounded corners in the outline of sheets of no larger radius; 0: only those chosen.", 0.0},
            {"from", "number", "mm", "And of no smaller.", 0.0},
            {"parts", "list of names", "", "Parts to look at; empty: all.", Json::array()},
            {"sides", "list of words", "", "outer, inner; empty: both.", Json::array()},
            {"chosenAt", "list of points", "mm", "The middle of each further arc, in the part's coordinates.",
             Json::array()},
            {"keptAt", "list of points", "mm", "The middle of each that stays.", Json::array()}};
}

void to_json(Json& json, const SquareCorners& step) {
    json = Json{{"upTo", step.upTo}};
    if (step.from > 0.0) json["from"] = step.from;
    if (!step.parts.empty()) json["parts"] = step.parts;
    if (!step.sides.empty()) json["sides"] = step.sides;
    if (!step.chosenAt.empty()) json["chosenAt"] = step.chosenAt;
    if (!step.keptAt.empty()) json["keptAt"] = step.keptAt;
}

void from_json(const Json& json, SquareCorners& step) {
    step.upTo = json.value("upTo", 0.0);
    step.from = json.value("from", 0.0);
    step.parts = json.value("parts", std::vector<std::string>{});
    step.sides = json.value("sides", std::vector<std::string>{});
    step.chosenAt = json.value("chosenAt", std::vector<std::array<double, 3>>{});
    step.keptAt = json.value("keptAt", std::vector<std::array<double, 3>>{});
}

}  // namespace rasoir::shave
