// A face for an opening.
#pragma once
#include "mend/loops.h"

namespace rasoir::mend {

enum class PatchKind { Plane, Cylinder, Cone, Sphere, Neighbour, Corner, Smooth };

struct Patch {
    std::vector<TopoDS_Face> faces;  ///< one, except where a ring of wall or several faces are missing
    PatchKind kind = PatchKind::Plane;
    double deviation = 0.0;          ///< [mm] of the loop from the patch's surface
    std::vector<std::size_t> loops;  ///< indices of the loops it closes: islands, the two ends of a wall
};

/// Faces for the wanted loops (indices; empty: all). In this order of preference: the wall of a hole between two rings
/// that both lie in flat faces; a plane, with the loops that lie in it as islands; the surface of a neighbour; the
/// cylinder, cone or sphere on which the loop's arcs lie; several faces that meet over new edges (corner_patch.h); a
/// smooth filling, tangent to the neighbours where `tangent`. Source of the filling: the kernel's GeomPlate (thin plate
/// energy). Returns what could be made; loops for which nothing fits are not in the list.
[[nodiscard]] std::vector<Patch> patchesFor(const Incidence& incidence, const std::vector<OpenLoop>& loops,
                                            const std::vector<std::size_t>& wanted, bool tangent, double exact);

std::string patchKindName(PatchKind kind);

}  // namespace rasoir::mend
