#include "divide/sector.h"

#include <fmt/format.h>

#include <BRepAdaptor_Surface.hxx>

#include "divide/cut.h"
#include "geometry/extent.h"
#include "geometry/integrals.h"
#include "model/places.h"

namespace rasoir::divide {
namespace {

std::string nameOf(const Plane& plane) {
    const gp_XYZ n = gp_Dir(plane.normal[0], plane.normal[1], plane.normal[2]).XYZ();
    for (int axis = 1; axis <= 3; ++axis)
        if (std::abs(std::abs(n.Coord(axis)) - 1.0) < 1e-9)
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
    const double tolerance = model.tolerances().samePoint;
    const auto meant = placesMeant(model, step.places);
    if (!meant) return tl::unexpected(meant.error());
    std::set<std::size_t> wanted(meant->begin(), meant->end());
    // What is cut, and what lies wholly behind one of the planes.
    std::vector<std::size_t> cutPlaces, behind;
    for (const std::size_t o : wanted) {
        const Part& part = *model.parts[model.occurrences[o].part];
        if (part.shape.IsNull()) continue;
        bool across = false, back = false;
        for (const gp_Pln& plane : exact) {
            const Extent extent = extentAlong(part.shape.Moved(TopLoc_Location(model.occurrences[o].placement)),
                                              gp_Ax3(plane.Location(), plane.Axis().Direction()));
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
    for (const std::size_t o : behind) before.occurrences[o].aside = true;
    if (cutPlaces.empty()) {
        if (behind.empty())
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
    for (const std::size_t o : behind)
        outcome.items.push_back({fmt::format("\"{}\" lies behind: set aside", placeName(model, o)), true, {}, 0.0});
    outcome.summary = step.turn ? fmt::format("Keep one sector of {}", step.turn->count)
                                : fmt::format("Keep what lies in front of {}", counted(planes.size(), "plane"));
    return outcome;
}

}  // namespace rasoir::divide
