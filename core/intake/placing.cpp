#include "intake/placing.h"

#include <fmt/format.h>

#include <gp_Quaternion.hxx>
#include <numeric>

#include "common/tolerance.h"
#include "geometry/extent.h"
#include "geometry/integrals.h"
#include "geometry/round_surface.h"
#include "model/places.h"

namespace rasoir::intake {

std::vector<ParameterInfo> Move::infos() {
    return {
        {"places", "list of names", "", "Parts, or single places as \"bolt #3\"; empty: everything.", Json::array()},
        {"shift", "list of numbers", "mm", "Along x, y and z; after the turn.", {0.0, 0.0, 0.0}},
        {"axisPoint", "list of numbers", "mm", "A point of the turning axis.", {0.0, 0.0, 0.0}},
        {"axisDirection", "list of numbers", "", "Its direction.", {0.0, 0.0, 1.0}},
        {"degrees", "number", "", "Angle of the turn.", 0.0}};
}
void to_json(Json& json, const Move& step) {
    json = Json::object();
    if (!step.places.empty()) json["places"] = step.places;
    json["shift"] = step.shift;
    if (step.degrees != 0.0) {
        json["axisPoint"] = step.axisPoint;
        json["axisDirection"] = step.axisDirection;
        json["degrees"] = step.degrees;
    }
}
void from_json(const Json& json, Move& step) {
    step.places = json.value("places", std::vector<std::string>{});
    step.shift = json.value("shift", step.shift);
    step.axisPoint = json.value("axisPoint", step.axisPoint);
    step.axisDirection = json.value("axisDirection", step.axisDirection);
    step.degrees = json.value("degrees", 0.0);
}

gp_Trsf transformationOf(const Move& step) {
    gp_Trsf turn, shift;
    const gp_Vec direction(step.axisDirection[0], step.axisDirection[1], step.axisDirection[2]);
    if (step.degrees != 0.0)
        turn.SetRotation(gp_Ax1(gp_Pnt(step.axisPoint[0], step.axisPoint[1], step.axisPoint[2]), gp_Dir(direction)),
                         step.degrees * M_PI / 180.0);
    shift.SetTranslation(gp_Vec(step.shift[0], step.shift[1], step.shift[2]));
    return shift * turn;
}

Result<Outcome> move(const Model& model, const Move& step, Progress&) {
    const auto finite = [](const std::array<double, 3>& v) {
        return std::all_of(v.begin(), v.end(), [](double x) { return std::isfinite(x) && std::abs(x) <= 1e9; });
    };
    if (!finite(step.shift) || !finite(step.axisPoint) || !finite(step.axisDirection) || !std::isfinite(step.degrees))
        return fail(ProblemKind::BadInput, "The numbers of the move are beyond any machine.",
                    "Lengths go up to 1 000 000 m.");
    const gp_Vec direction(step.axisDirection[0], step.axisDirection[1], step.axisDirection[2]);
    if (step.degrees != 0.0 && direction.Magnitude() < Tolerance::noLength)
        return fail(ProblemKind::BadInput, "The turning axis has no direction.",
                    "Give a direction that is not 0, 0, 0.");
    if (step.degrees == 0.0 && step.shift == std::array<double, 3>{})
        return fail(ProblemKind::NotPossible, "That moves nothing.", "Give a shift or an angle.");
    std::vector<std::size_t> places(model.occurrences.size());
    std::iota(places.begin(), places.end(), std::size_t{0});
    if (!step.places.empty()) {
        const auto named = placesNamed(model, step.places);
        if (!named) return tl::unexpected(named.error());
        places = *named;
    }
    const gp_Trsf by = transformationOf(step);
    Outcome outcome;
    outcome.model = model;
    for (const std::size_t o : places)
        outcome.model.occurrences.change(o).placement = by * model.occurrences[o].placement;
    const std::string what = places.size() == model.occurrences.size() ? "everything"
                             : places.size() == 1                      ? placeName(model, places.front())
                                                                       : counted(places.size(), "place");
    const double far = gp_Vec(step.shift[0], step.shift[1], step.shift[2]).Magnitude();
    outcome.summary =
        step.degrees == 0.0 ? fmt::format("Move {} by {} mm", what, readable(far))
        : far == 0.0        ? fmt::format("Turn {} by {}°", what, readable(step.degrees))
                     : fmt::format("Turn {} by {}° and move it by {} mm", what, readable(step.degrees), readable(far));
    return outcome;
}

Anchor anchorOf(const Model& model, std::size_t occurrence, int face) {
    const Occurrence& place = model.occurrences[occurrence];
    const TopoDS_Face shape = model.parts[place.part]->incidence().face(face);
    Anchor anchor{skinOf(shape).centre, std::nullopt};
    if (const auto round = roundSurface(shape)) {
        if (round->kind == SurfaceKind::Sphere) {
            anchor.point = round->axis.Location();
        } else {
            // The middle of the face along its axis.
            const Extent extent = extentAlong(shape, gp_Ax3(round->axis.Location(), round->axis.Direction()));
            anchor.point = round->axis.Location().Translated(gp_Vec(round->axis.Direction()) * 0.5 *
                                                             (extent.low[2] + extent.high[2]));
            anchor.direction = round->axis.Direction();
        }
    } else if (surfaceKind(shape) == SurfaceKind::Plane) {
        gp_Pnt point;
        gp_Vec du, dv;
        BRep_Tool::Surface(shape)->D1(0.0, 0.0, point, du, dv);
        gp_Dir normal(du.Crossed(dv));
        anchor.direction = shape.Orientation() == TopAbs_REVERSED ? normal.Reversed() : normal;
    }
    anchor.point.Transform(place.placement);
    if (anchor.direction) anchor.direction->Transform(place.placement);
    return anchor;
}

Move turnParallel(const gp_Pnt& about, const gp_Dir& from, const gp_Dir& to) {
    Move step;
    step.axisPoint = {about.X(), about.Y(), about.Z()};
    const gp_Dir target = from.Dot(to) < 0.0 ? to.Reversed() : to;
    const gp_Vec axis = gp_Vec(from).Crossed(gp_Vec(target));
    if (axis.Magnitude() < Tolerance::noLength) return step;
    step.axisDirection = {axis.X() / axis.Magnitude(), axis.Y() / axis.Magnitude(), axis.Z() / axis.Magnitude()};
    step.degrees = std::atan2(axis.Magnitude(), from.Dot(target)) * 180.0 / M_PI;
    return step;
}

Move moveOnto(const Anchor& from, const Anchor& to, bool flipped) {
    Move step;
    if (from.direction && to.direction) {
        const gp_Dir target = flipped ? to.direction->Reversed() : *to.direction;
        step.axisPoint = {from.point.X(), from.point.Y(), from.point.Z()};
        gp_Vec axis = gp_Vec(*from.direction).Crossed(gp_Vec(target));
        if (axis.Magnitude() > Tolerance::noLength) {
            step.axisDirection = {axis.X() / axis.Magnitude(), axis.Y() / axis.Magnitude(),
                                  axis.Z() / axis.Magnitude()};
            step.degrees = std::atan2(axis.Magnitude(), from.direction->Dot(target)) * 180.0 / M_PI;
        } else if (from.direction->Dot(target) < 0.0) {
            const gp_Dir side =
                gp_Ax2(from.point, *from.direction).XDirection();  // any axis square to it turns it over
            step.axisDirection = {side.X(), side.Y(), side.Z()};
            step.degrees = 180.0;
        }
    }
    step.shift = {to.point.X() - from.point.X(), to.point.Y() - from.point.Y(), to.point.Z() - from.point.Z()};
    return step;
}

}  // namespace rasoir::intake
