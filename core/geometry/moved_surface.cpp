#include "geometry/moved_surface.h"

#include <BRep_Tool.hxx>
#include <BRepTools.hxx>
#include <Geom_ConicalSurface.hxx>
#include <Geom_CylindricalSurface.hxx>
#include <Geom_Plane.hxx>
#include <Geom_SphericalSurface.hxx>
#include <Geom_ToroidalSurface.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <gp_Cone.hxx>
#include <gp_Cylinder.hxx>
#include <gp_Pln.hxx>
#include <gp_Sphere.hxx>
#include <gp_Torus.hxx>

#include "common/tolerance.h"
#include "geometry/curves.h"

namespace rasoir {
namespace {

using Surface = Handle(Geom_Surface);

/// How far the radius grows when a point moves along the surface's own normal: away from the axis or towards it.
double radialSign(const Surface& surface, const gp_Pnt& centre) {
    double u0, u1, v0, v1;
    surface->Bounds(u0, u1, v0, v1);
    const double v = GeomAdaptor_Surface(surface).GetType() == GeomAbs_Sphere ? 0.3 : 0.0;
    gp_Pnt at;
    gp_Vec du, dv;
    surface->D1(0.7, v, at, du, dv);
    return du.Crossed(dv).Dot(gp_Vec(centre, at)) >= 0.0 ? 1.0 : -1.0;
}

}  // namespace

std::pair<Surface, double> copiedSurface(const TopoDS_Face& face) {
    return {Surface(Handle(Geom_Surface)::DownCast(BRep_Tool::Surface(face)->Copy())),
            face.Orientation() == TopAbs_REVERSED ? -1.0 : 1.0};
}

Surface offsetSurface(const TopoDS_Face& face, double by) {
    auto [surface, sign] = copiedSurface(face);
    const double d = by * sign;
    switch (const GeomAdaptor_Surface adaptor(surface); adaptor.GetType()) {
        case GeomAbs_Plane: {
            gp_Pnt at;
            gp_Vec du, dv;
            surface->D1(0.0, 0.0, at, du, dv);
            surface->Translate(gp_Vec(gp_Dir(du.Crossed(dv))) * d);
            return surface;
        }
        case GeomAbs_Cylinder: {
            const double radius = adaptor.Cylinder().Radius() + d * radialSign(surface, adaptor.Cylinder().Location());
            if (!(radius > Tolerance::samePlace)) return {};
            Handle(Geom_CylindricalSurface)::DownCast(surface)->SetRadius(radius);
            return surface;
        }
        case GeomAbs_Cone: {
            const gp_Cone cone = adaptor.Cone();
            const double radius =
                cone.RefRadius() + d * radialSign(surface, cone.Location()) / std::cos(cone.SemiAngle());
            if (!(radius > Tolerance::samePlace)) return {};
            Handle(Geom_ConicalSurface)::DownCast(surface)->SetRadius(radius);
            return surface;
        }
        case GeomAbs_Sphere: {
            const double radius = adaptor.Sphere().Radius() + d * radialSign(surface, adaptor.Sphere().Location());
            if (!(radius > Tolerance::samePlace)) return {};
            Handle(Geom_SphericalSurface)::DownCast(surface)->SetRadius(radius);
            return surface;
        }
        case GeomAbs_Torus: {
            const gp_Torus torus = adaptor.Torus();
            gp_Pnt at;
            gp_Vec du, dv;
            surface->D1(0.7, 0.3, at, du, dv);
            const gp_Vec spoke =
                gp_Vec(torus.XAxis().Direction()) * std::cos(0.7) + gp_Vec(torus.YAxis().Direction()) * std::sin(0.7);
            const gp_Pnt tube = torus.Location().Translated(spoke * torus.MajorRadius());
            const double radius = torus.MinorRadius() + d * (du.Crossed(dv).Dot(gp_Vec(tube, at)) >= 0.0 ? 1.0 : -1.0);
            if (!(radius > Tolerance::samePlace) || radius >= torus.MajorRadius()) return {};
            Handle(Geom_ToroidalSurface)::DownCast(surface)->SetMinorRadius(radius);
            return surface;
        }
        default:
            return {};
    }
}

Surface surfaceThrough(const TopoDS_Face& face, const gp_Pnt& point) {
    auto [surface, sign] = copiedSurface(face);
    switch (const GeomAdaptor_Surface adaptor(surface); adaptor.GetType()) {
        case GeomAbs_Plane: {
            const gp_Pln plane = adaptor.Plane();
            const gp_Vec normal(plane.Axis().Direction());
            surface->Translate(normal * gp_Vec(plane.Location(), point).Dot(normal));
            return surface;
        }
        case GeomAbs_Cylinder: {
            const double radius = gp_Lin(adaptor.Cylinder().Axis()).Distance(point);
            if (!(radius > Tolerance::samePlace)) return {};
            Handle(Geom_CylindricalSurface)::DownCast(surface)->SetRadius(radius);
            return surface;
        }
        case GeomAbs_Sphere: {
            const double radius = adaptor.Sphere().Location().Distance(point);
            if (!(radius > Tolerance::samePlace)) return {};
            Handle(Geom_SphericalSurface)::DownCast(surface)->SetRadius(radius);
            return surface;
        }
        default:
            return {};
    }
}

Surface alignedSurface(const TopoDS_Face& face, const TopoDS_Face& onto) {
    auto [surface, sign] = copiedSurface(face);
    const Handle(Geom_ElementarySurface) own = Handle(Geom_ElementarySurface)::DownCast(surface),
                                         other = Handle(Geom_ElementarySurface)::DownCast(BRep_Tool::Surface(onto));
    if (own.IsNull() || other.IsNull()) return {};
    gp_Ax3 place = own->Position();
    const gp_Ax1 axis = other->Axis();
    if (own->IsKind(STANDARD_TYPE(Geom_Plane)) && other->IsKind(STANDARD_TYPE(Geom_Plane))) {
        // Its own parameters, so that it looks the way it did: turned by the little that the two differ, and moved.
        gp_Dir normal = axis.Direction();
        if (normal.Dot(place.Direction()) < 0.0) normal.Reverse();
        if (normal.Angle(place.Direction()) > 0.2) return {};
        place.SetDirection(normal);
        place.SetLocation(place.Location().Translated(gp_Vec(normal) *
                                                      gp_Vec(place.Location(), axis.Location()).Dot(gp_Vec(normal))));
        own->SetPosition(place);
        return surface;
    }
    const bool round = !own->IsKind(STANDARD_TYPE(Geom_Plane)) && !own->IsKind(STANDARD_TYPE(Geom_SphericalSurface));
    if (!round || other->IsKind(STANDARD_TYPE(Geom_Plane)) || other->IsKind(STANDARD_TYPE(Geom_SphericalSurface)))
        return {};
    gp_Dir along = axis.Direction();
    if (along.Dot(place.Direction()) < 0.0) along.Reverse();
    if (along.Angle(place.Direction()) > 0.2) return {};
    place.SetDirection(along);
    const gp_Vec to(axis.Location(), place.Location());
    place.SetLocation(axis.Location().Translated(gp_Vec(along) * to.Dot(gp_Vec(along))));
    own->SetPosition(place);
    return surface;
}

Surface laidSurface(const TopoDS_Face& face, const Surface& onto, double upTo) {
    auto [surface, sign] = copiedSurface(face);
    const Handle(Geom_ElementarySurface) own = Handle(Geom_ElementarySurface)::DownCast(surface),
                                         other = Handle(Geom_ElementarySurface)::DownCast(onto);
    if (own.IsNull() || other.IsNull() || own->DynamicType() != other->DynamicType()) return {};
    gp_Ax3 place = own->Position();
    const gp_Ax1 axis = other->Axis();
    gp_Dir along = axis.Direction();
    const bool turned = along.Dot(place.Direction()) < 0.0;
    if (turned) along.Reverse();
    // A sphere has no axis, a plane one to look along, and all others one to lie on.
    const bool sphere = own->IsKind(STANDARD_TYPE(Geom_SphericalSurface));
    if (!sphere && along.Angle(place.Direction()) > 0.2) return {};
    if (!sphere) place.SetDirection(along);
    const gp_Vec to(axis.Location(), place.Location()), direction(along);
    if (own->IsKind(STANDARD_TYPE(Geom_Plane)))
        place.SetLocation(place.Location().Translated(direction * -to.Dot(direction)));
    else if (sphere || own->IsKind(STANDARD_TYPE(Geom_ToroidalSurface)))
        place.SetLocation(axis.Location());
    else
        place.SetLocation(axis.Location().Translated(direction * to.Dot(direction)));
    own->SetPosition(place);
    if (const auto cylinder = Handle(Geom_CylindricalSurface)::DownCast(surface); !cylinder.IsNull())
        cylinder->SetRadius(Handle(Geom_CylindricalSurface)::DownCast(onto)->Radius());
    if (const auto ball = Handle(Geom_SphericalSurface)::DownCast(surface); !ball.IsNull())
        ball->SetRadius(Handle(Geom_SphericalSurface)::DownCast(onto)->Radius());
    if (const auto ring = Handle(Geom_ToroidalSurface)::DownCast(surface); !ring.IsNull()) {
        const auto given = Handle(Geom_ToroidalSurface)::DownCast(onto);
        // Through no radii in between that a torus may not have.
        if (given->MajorRadius() <= ring->MinorRadius()) ring->SetMinorRadius(given->MinorRadius());
        ring->SetMajorRadius(given->MajorRadius());
        ring->SetMinorRadius(given->MinorRadius());
    }
    if (const auto cone = Handle(Geom_ConicalSurface)::DownCast(surface); !cone.IsNull()) {
        const gp_Cone given = Handle(Geom_ConicalSurface)::DownCast(onto)->Cone();
        const double slope = (turned ? -1.0 : 1.0) * given.SemiAngle();
        const double radius =
            given.RefRadius() + gp_Vec(given.Location(), place.Location()).Dot(direction) * std::tan(slope);
        if (!(radius > 0.0)) return {};
        cone->SetSemiAngle(slope);
        cone->SetRadius(radius);
    }
    // How far it goes is seen at points of the face: what is a hair at its middle may be a gape at its end.
    double low[2], high[2];
    BRepTools::UVBounds(face, low[0], high[0], low[1], high[1]);
    const Surface before = BRep_Tool::Surface(face);
    for (const double s : {0.0, 0.5, 1.0})
        for (const double t : {0.0, 0.5, 1.0}) {
            const gp_Pnt at = before->Value(low[0] + s * (high[0] - low[0]), low[1] + t * (high[1] - low[1]));
            const auto foot = footOn(surface, at, Tolerance::least);
            if (!foot || surface->Value(foot->X(), foot->Y()).Distance(at) > upTo) return {};
        }
    return surface;
}

}  // namespace rasoir
