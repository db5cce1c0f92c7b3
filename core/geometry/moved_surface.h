// The surfaces that faces can be put on: moved, through a point, in line with another face, or on another's surface.
#pragma once
#include <Geom_Surface.hxx>
#include <TopoDS_Face.hxx>
#include <utility>

namespace rasoir {

/// A copy of the face's surface that may be changed, and +1 where its own normal looks away from the material.
std::pair<Handle(Geom_Surface), double> copiedSurface(const TopoDS_Face& face);

/// The surface of a face, moved outwards by `by` [mm]; null for freeform ones and where nothing would be left.
Handle(Geom_Surface) offsetSurface(const TopoDS_Face& face, double by);

/// The surface of a face so that it passes a point: a parallel plane, another radius; null for others.
Handle(Geom_Surface) surfaceThrough(const TopoDS_Face& face, const gp_Pnt& point);

/// The surface of a face made coplanar or coaxial with another; null where the two are of different kinds.
Handle(Geom_Surface) alignedSurface(const TopoDS_Face& face, const TopoDS_Face& onto);

/// `onto`, with the parameters and the normal's side that the face's own surface has, so that the face can be put on it
/// as it is. Planes, cylinders, cones, spheres and tori of one kind; null for others, and where they differ by more
/// than `upTo` [mm] somewhere near the face, or by more than a fifth of a radian.
Handle(Geom_Surface) laidSurface(const TopoDS_Face& face, const Handle(Geom_Surface) & onto, double upTo);

}  // namespace rasoir
