#include "divide/sector.h"

#include <fmt/format.h>

#include <BRepAdaptor_Surface.hxx>

#include "common/tolerance.h"
#include "divide/cut.h"
#include "geometry/extent.h"
#include "geometry/integrals.h"
#include "model/places.h"

namespace rasoir::divide {
namespace {

std::string nameOf(const Plane& plane) {
    const gp_XYZ n = gp_Dir(plane.normal[0], plane.normal[1], plane.normal[2]).XYZ();
    for (int axis = 1; axis <= 3; ++axis)
        if (std::abs(std::abs(n.Coord(axis)) - 1.0) < Tolerance::exactDirection)
            return fmt::format("symmetry {} = {}", "xyz"[axis - 1],
                               readable(plane.through[static_cast<std::size_t>(axis - 1)]));
    return "symmetry plane";
}

}  // namespace

std::vector<ParameterInfo> KeepSector::infos() {
    return {{"places", "list of names", "", "Parts or places; empty: all that is not set aside.", Json::array()},
            {"planes", "list of planes", "mm", "What lies in front of all of them is kept.", Json::array()},
            {"turn", "turn", "", "{\"through\", \"direction\", \"count\", \"from\"}: a sector about an axis.",
             Json::object()}};
}
void to_json(Json& json, const KeepSector& step) {
    json = Json::object();
    if (!step.places.empty()) json["places"] = step.places;
    if (!step.planes.empty()) json["planes"] = step.planes;
    if (step.turn)
        json["turn"] = {{"through", step.turn->through},
                        {"direction", step.turn->direction},
                        {"count", step.turn->count},
                        {"from", step.turn->from}};
}
void from_json(const Json& json, KeepSector& step) {
    step.places = json.value("places", std::vector<std::string>{});
    step.planes = json.value("planes", std::vector<Plane>{});
    if (given(json, "turn")) {
        KeepSector::Turn turn;
        json.at("turn").at("through").get_to(turn.through);
        json.at("turn").at("direction").get_to(turn.direction);
        turn.count = json.at("turn").value("count", 2);
        turn.from = json.at("turn").value("from", 0.0);
        if (turn.count < 2 || turn.count > 3600) throw std::invalid_argument("a sector is one of 2 to 3600");
        step.turn = turn;
    }
    if (step.planes.empty() == !step.turn.has_value())
        throw std::invalid_argument("either planes or a turn say what is kept");
}

namespace {

/// The half of a part that lies in a plane, on the side to which its normal points. `placement`: of the part.
std::shared_ptr<Part> halfOf(const Part& part, const gp_Pln& plane, const gp_Trsf& placement) {
    auto half = part.copy();
    const gp_Dir front = plane.Axis().Direction().Transformed(placement.Inverted());
    if (half->lump) {
        half->lump->mass *= 0.5;
        for (double& moment : half->lump->inertia) moment *= 0.5;
    }
    for (auto& [thing, thickness] : half->known.thickness) {
        const BRepAdaptor_Surface surface(part.incidence().face(thing.number), false);
        // A sheet on a skin of its wall does not have half of it on either side.
        if (surface.GetType() != GeomAbs_Plane || thickness.offset != 0.0) continue;
        gp_Vec normal =
            gp_Vec(surface.Plane().XAxis().Direction()).Crossed(gp_Vec(surface.Plane().YAxis().Direction()));
        if (part.incidence().face(thing.number).Orientation() == TopAbs_REVERSED) normal.Reverse();
        // A quarter of the whole wall in front of the plane is the middle of the half that is left.
        thickness.offset = (normal.Dot(gp_Vec(front)) > 0.0 ? 0.25 : -0.25) * thickness.at;
        thickness.at *= 0.5;
        thickness.gradient *= 0.5;
    }
    for (auto& [thing, section] : half->known.sections)
        for (double* value :
             {&section.area, &section.secondUp, &section.secondAcross, &section.product, &section.torsion})
            *value *= 0.5;
    return half;
}

/// Halves what lies in planes; copies that stand elsewhere too stay whole, and those that do not are parts of their
/// own.
void halve(Outcome& outcome, const std::map<std::size_t, gp_Pln>& within) {
    Model& model = outcome.model;
    std::map<std::size_t, std::vector<std::size_t>> made;  // by part: its halves, one for each way it lies
    for (const auto& [o, plane] : within) {
        if (o >= model.occurrences.size()) continue;
        const std::size_t p = model.occurrences[o].part;
        bool elsewhere = false;
        for (std::size_t other = 0; other < model.occurrences.size(); ++other)
            elsewhere = elsewhere || (model.occurrences[other].part == p && !within.contains(other));
        auto half = halfOf(*model.parts[p], plane, model.occurrences[o].placement);
        outcome.items.push_back({fmt::format("\"{}\" lies in the plane: halved", placeName(model, o)), true, {}, 0.0});
        const bool alone = !elsewhere && std::count_if(model.occurrences.begin(), model.occurrences.end(),
                                                       [p](const Occurrence& one) { return one.part == p; }) == 1;
        if (alone) {
            model.parts[p] = std::move(half);
            continue;
        }
        auto& halves = made[p];
        const auto same = std::find_if(halves.begin(), halves.end(),
                                       [&](std::size_t other) { return model.parts[other]->known == half->known; });
        const std::size_t into = same == halves.end() ? model.parts.size() : *same;
        if (same == halves.end()) {
            halves.push_back(into);
            half->id = 0;
            half->name = freeName(model, model.parts[p]->name + ", half");
            PartLineage lineage;
            lineage.part = p;
            lineage.into = into;
            lineage.untouched = true;
            outcome.lineage.push_back(std::move(lineage));
            model.parts.push_back(std::move(half));
        }
        model.occurrences.change(o).part = into;
    }
}

}  // namespace

Result<Outcome> keepSector(const Model& model, const KeepSector& step, Progress& progress) {
    std::vector<Plane> planes = step.planes;
    std::vector<std::string> names;
    std::string purpose = "symmetry";
    if (step.turn) {
        if (!std::isfinite(step.turn->from)) return fail(ProblemKind::BadInput, "The angle is no number.");
        const auto axisPlane = planeOf(Plane{step.turn->through, step.turn->direction});
        if (!axisPlane) return tl::unexpected(axisPlane.error());
        const gp_Ax1 axis = axisPlane->Axis();
        const gp_Dir along = axis.Direction(), other = std::abs(along.Dot(gp::DX())) < 0.9 ? gp::DX() : gp::DY();
        gp_Vec start = gp_Vec(other) - gp_Vec(along) * along.Dot(other);
        start.Normalize();
        start.Rotate(axis, step.turn->from * M_PI / 180.0);
        gp_Vec end = start;
        end.Rotate(axis, 2.0 * M_PI / step.turn->count);
        // In front of the first side is where turning leads; in front of the second, back.
        const gp_Vec first = gp_Vec(along).Crossed(start), second = end.Crossed(gp_Vec(along));
        planes = {Plane{step.turn->through, {first.X(), first.Y(), first.Z()}}};
        names = {"sector side 1"};
        if (step.turn->count > 2) {
            planes.push_back(Plane{step.turn->through, {second.X(), second.Y(), second.Z()}});
            names.push_back("sector side 2");
        }
        const gp_XYZ d = along.XYZ();
        purpose = fmt::format("sector, one of {} about ({}, {}, {}) through ({}, {}, {})", step.turn->count,
                              readable(d.X()), readable(d.Y()), readable(d.Z()), readable(step.turn->through[0]),
                              readable(step.turn->through[1]), readable(step.turn->through[2]));
    }
    std::vector<gp_Pln> exact;
    for (const Plane& plane : planes) {
        const auto one = planeOf(plane);
        if (!one) return tl::unexpected(one.error());
        exact.push_back(*one);
        if (!step.turn) names.push_back(nameOf(plane));
    }
    const double tolerance = model.samePoint();
    const auto meant = placesMeant(model, step.places);
    if (!meant) return tl::unexpected(meant.error());
    std::set<std::size_t> wanted(meant->begin(), meant->end());
    // What is cut, and what lies wholly behind one of the planes.
    std::vector<std::size_t> cutPlaces, behind;
    std::map<std::size_t, gp_Pln> within;  // places that lie in a plane
    for (const std::size_t o : wanted) {
        const Part& part = *model.parts[model.occurrences[o].part];
        const gp_Trsf& placement = model.occurrences[o].placement;
        if (part.lump) {
            const gp_Pnt centre = part.lump->centre.Transformed(placement);
            for (const gp_Pln& plane : exact)
                if (plane.Distance(centre) <= 10.0 * tolerance) within.emplace(o, plane);
        }
        if (part.shape.IsNull() || within.contains(o)) continue;
        bool across = false, back = false;
        for (const gp_Pln& plane : exact) {
            const Extent extent = extentAlong(part.shape.Moved(TopLoc_Location(model.occurrences[o].placement)),
                                              gp_Ax3(plane.Location(), plane.Axis().Direction()));
            if (std::abs(extent.low[2]) <= 10.0 * tolerance && std::abs(extent.high[2]) <= 10.0 * tolerance) {
                within.emplace(o, plane);
                continue;
            }
            back = back || extent.high[2] <= 10.0 * tolerance;
            across = across || (extent.low[2] < -10.0 * tolerance && extent.high[2] > 10.0 * tolerance);
        }
        if (back)
            behind.push_back(o);
        else if (across && !part.lump)
            cutPlaces.push_back(o);
    }
    Outcome outcome;
    Model before = model;
    before.giveIds();
    for (const std::size_t o : behind) before.occurrences.change(o).aside = true;
    if (cutPlaces.empty()) {
        if (behind.empty() && within.empty())
            return fail(ProblemKind::NothingToDo, "The planes meet no body, and all lie in front of them.",
                        "Move them.");
        outcome.model = before;
    } else {
        Cut cutStep;
        cutStep.parts = placeNames(model, cutPlaces);
        cutStep.planes = planes;
        cutStep.keep = "above";
        cutStep.group = "\x01sector";  // a name nobody has; parted by plane below
        auto done = cut(before, cutStep, progress);
        if (!done) return tl::unexpected(done.error());
        for (const Item& item : done->items)
            if (!item.done) return tl::unexpected(item.problem);
        outcome = std::move(*done);
        const auto all = std::find_if(outcome.model.groups.begin(), outcome.model.groups.end(),
                                      [&](const Group& group) { return group.name == cutStep.group; });
        std::vector<Group> sides(names.size());
        if (all != outcome.model.groups.end()) {
            for (const Member& member : all->members) {
                const auto part = std::find_if(outcome.model.parts.begin(), outcome.model.parts.end(),
                                               [&](const auto& one) { return one->id == member.part; });
                const auto p = static_cast<std::size_t>(part - outcome.model.parts.begin());
                const auto place = std::find_if(outcome.model.occurrences.begin(), outcome.model.occurrences.end(),
                                                [p](const Occurrence& o) { return o.part == p; });
                if (part == outcome.model.parts.end() || place == outcome.model.occurrences.end()) continue;
                const gp_Pnt at =
                    skinOf((*part)->incidence().face(member.entity.number)).centre.Transformed(place->placement);
                std::size_t nearest = 0;
                for (std::size_t k = 1; k < exact.size(); ++k)
                    if (exact[k].Distance(at) < exact[nearest].Distance(at)) nearest = k;
                sides[nearest].members.insert(member);
            }
            outcome.model.groups.erase(all);
        }
        for (std::size_t k = 0; k < sides.size(); ++k) {
            if (sides[k].members.empty()) continue;
            sides[k].name = names[k];
            sides[k].purpose = purpose;
            std::erase_if(outcome.model.groups, [&](const Group& group) { return group.name == names[k]; });
            outcome.model.groups.push_back(std::move(sides[k]));
        }
    }
    // Cutting has put places in between: those that lie in planes are found again by their ids.
    std::map<std::size_t, gp_Pln> halved;
    for (const auto& [o, plane] : within)
        if (const auto place = outcome.model.placeOf(before.occurrences[o].id)) halved.emplace(*place, plane);
    halve(outcome, halved);
    for (const std::size_t o : behind)
        outcome.items.push_back({fmt::format("\"{}\" lies behind: set aside", placeName(model, o)), true, {}, 0.0});
    outcome.summary = step.turn ? fmt::format("Keep one sector of {}", step.turn->count)
                                : fmt::format("Keep what lies in front of {}", counted(planes.size(), "plane"));
    return outcome;
}

}  // namespace rasoir::divide
