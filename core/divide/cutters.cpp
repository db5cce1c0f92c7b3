#include "divide/cutters.h"

#include <fmt/format.h>

#include <Bnd_Box.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <ElSLib.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <gp_Cone.hxx>
#include <gp_Cylinder.hxx>
#include <Precision.hxx>

#include "common/tolerance.h"
#include "geometry/carried_surface.h"
#include "geometry/moved_surface.h"
#include "geometry/round_surface.h"

namespace rasoir::divide {

void to_json(Json& json, const Plane& plane) {
    json = Json{{"through", plane.through}, {"normal", plane.normal}};
}

void from_json(const Json& json, Plane& plane) {
    if (!json.is_object()) throw std::invalid_argument("a plane is {\"through\": [x, y, z], \"normal\": [x, y, z]}");
    json.at("through").get_to(plane.through);
    json.at("normal").get_to(plane.normal);
}

Result<gp_Pln> planeOf(const Plane& plane) {
    const auto fine = [](const std::array<double, 3>& v) {
        return std::all_of(v.begin(), v.end(), [](double x) { return std::isfinite(x) && std::abs(x) <= 1e9; });
    };
    if (!fine(plane.through) || !fine(plane.normal))
        return fail(ProblemKind::BadInput, "The numbers of a plane are beyond any machine.",
                    "Lengths go up to 1 000 000 m.");
    const gp_Vec normal(plane.normal[0], plane.normal[1], plane.normal[2]);
    if (normal.Magnitude() < Tolerance::noLength)
        return fail(ProblemKind::BadInput, "A plane has no normal.", "Give a direction that is not 0, 0, 0.");
    return gp_Pln(gp_Pnt(plane.through[0], plane.through[1], plane.through[2]), gp_Dir(normal));
}

Result<gp_Pln> planeOf(const Model& model, const FaceRef& reference, double offset) {
    const auto found = findFace(model, reference);
    if (!found) return tl::unexpected(found.error());
    const TopoDS_Face face = model.parts[found->part]->incidence().face(found->face);
    const BRepAdaptor_Surface surface(face, false);
    if (surface.GetType() != GeomAbs_Plane)
        return fail(ProblemKind::NotPossible, "The face to cut along is not flat.", "Pick a flat face.",
                    {model.parts[found->part]->name, {found->face}, reference.centre});
    gp_Dir normal = surface.Plane().Position().Direct() ? surface.Plane().Axis().Direction()
                                                        : surface.Plane().Axis().Direction().Reversed();
    if (face.Orientation() == TopAbs_REVERSED) normal.Reverse();
    return gp_Pln(surface.Plane().Location().Translated(gp_Vec(normal) * offset), normal);
}

TopoDS_Face faceAcross(const gp_Pln& plane, const Bnd_Box& box, double tolerance) {
    if (box.IsVoid()) return {};
    const gp_Pnt low = box.CornerMin(), high = box.CornerMax();
    double u0 = 1e300, u1 = -1e300, v0 = 1e300, v1 = -1e300, below = 1e300, above = -1e300;
    for (int corner = 0; corner < 8; ++corner) {
        const gp_Pnt p(corner & 1 ? high.X() : low.X(), corner & 2 ? high.Y() : low.Y(),
                       corner & 4 ? high.Z() : low.Z());
        double u = 0.0, v = 0.0;
        ElSLib::Parameters(plane, p, u, v);
        u0 = std::min(u0, u);
        u1 = std::max(u1, u);
        v0 = std::min(v0, v);
        v1 = std::max(v1, v);
        const double height = gp_Vec(plane.Location(), p).Dot(plane.Axis().Direction());
        below = std::min(below, height);
        above = std::max(above, height);
    }
    if (below > tolerance || above < -tolerance) return {};
    const double margin = 0.1 * std::max(u1 - u0, v1 - v0) + 1.0;
    return BRepBuilderAPI_MakeFace(plane, u0 - margin, u1 + margin, v0 - margin, v1 + margin).Face();
}

Result<TopoDS_Face> faceCarriedOn(const Part& part, int number, double offset, const Bnd_Box& box) {
    const TopoDS_Face face = part.incidence().face(number);
    const auto refused = [&](const char* what, const char* remedy) {
        return fail(ProblemKind::NotPossible, what, remedy,
                    {part.name, {number}, BRepAdaptor_Surface(face, false).Value(0.0, 0.0)});
    };
    if (surfaceKind(face) == SurfaceKind::Plane) {
        const gp_Pln plane = BRepAdaptor_Surface(face, false).Plane();
        const double sense = (face.Orientation() == TopAbs_REVERSED) != !plane.Position().Direct() ? -1.0 : 1.0;
        return faceAcross(plane.Translated(gp_Vec(plane.Axis().Direction()) * (sense * offset)), box, 1e300);
    }
    Handle(Geom_Surface) surface = copiedSurface(face).first;
    if (offset != 0.0) surface = offsetSurface(face, offset);
    if (surface.IsNull())
        return refused("The face to cut along cannot be shifted so far, or is freeform.", "Cut along it as it is.");
    const gp_Pnt low = box.CornerMin(), high = box.CornerMax(), middle(0.5 * (low.XYZ() + high.XYZ()));
    const double reach = 1.1 * low.Distance(high) + 1.0;
    surface = carriedOn(surface, reach);
    double u0 = 0.0, u1 = 0.0, v0 = 0.0, v1 = 0.0;
    surface->Bounds(u0, u1, v0, v1);
    // What runs on without end is cut off where nothing is left to be cut.
    const GeomAdaptor_Surface adaptor(surface);
    if (Precision::IsInfinite(v0) || Precision::IsInfinite(v1)) {
        double from = -reach, to = reach;
        if (adaptor.GetType() == GeomAbs_Cylinder || adaptor.GetType() == GeomAbs_Cone) {
            double u = 0.0, at = 0.0;
            if (adaptor.GetType() == GeomAbs_Cylinder)
                ElSLib::Parameters(adaptor.Cylinder(), middle, u, at);
            else
                ElSLib::Parameters(adaptor.Cone(), middle, u, at);
            from += at;
            to += at;
        } else {
            // Along the direction of an extrusion the middle of the box is where its own middle is.
            const gp_Pnt start = surface->Value(0.5 * (u0 + u1), 0.0), next = surface->Value(0.5 * (u0 + u1), 1.0);
            const double at = gp_Vec(start, middle).Dot(gp_Vec(start, next));
            from += at;
            to += at;
        }
        if (adaptor.GetType() == GeomAbs_Cone) {
            // Only the half of the cone that the face lies on, from the apex.
            const BRepAdaptor_Surface own(face, true);
            const double slope = std::sin(adaptor.Cone().SemiAngle()), apex = -adaptor.Cone().RefRadius() / slope;
            const double side = 0.5 * (own.FirstVParameter() + own.LastVParameter());
            (side > apex ? from : to) = apex;
            if (from >= to) return refused("The cone does not reach what is to be cut.", "Choose another face.");
        }
        v0 = from;
        v1 = to;
    }
    const BRepBuilderAPI_MakeFace made(surface, u0, u1, v0, v1, Precision::Confusion());
    if (!made.IsDone()) return refused("The face to cut along cannot be carried on.", "Cut by a plane or a body.");
    return made.Face();
}

std::string sideName(const gp_Pln& plane, bool positive) {
    const gp_XYZ n = plane.Axis().Direction().XYZ();
    constexpr double square = Tolerance::sameDirection;
    const auto along = [&](int axis) { return std::abs(std::abs(n.Coord(axis)) - 1.0) < square; };
    const auto up = [&](int axis) { return (n.Coord(axis) > 0.0) == positive; };
    if (along(3)) return up(3) ? "above" : "below";
    if (along(1)) return up(1) ? "right" : "left";
    if (along(2)) return up(2) ? "back" : "front";
    return positive ? "one side" : "other side";
}

}  // namespace rasoir::divide
