// The screw motion that moves a surface along itself: what makes a helical face one.
#pragma once
#include <gp_Ax1.hxx>
#include <gp_Pnt2d.hxx>
#include <gp_Vec.hxx>
#include <optional>
#include <TopoDS_Face.hxx>
#include <vector>

namespace rasoir {

/// A turn about an axis with an advance along it.
struct ScrewMotion {
    gp_Ax1 axis;        ///< direction in which a right-handed one advances when it turns to the left
    double lead = 0.0;  ///< [mm] advance in a full turn; negative: left-handed; 0: a mere turn
    /// [1] of the angle between a surface and the motion at a point with this normal: 0 where the motion runs along the
    /// surface.
    [[nodiscard]] double slip(const gp_Pnt& point, const gp_Vec& normal) const;
};

struct SurfacePoint {
    gp_Pnt point;
    gp_Vec normal;  ///< of length 1, away from the material
    gp_Pnt2d at;    ///< its parameters
};
/// Points spread evenly, but at no even steps, over the box of a face's parameters; some may lie off the face. Normals
/// that vanish are left out. At even steps those of a helix of many turns could all lie at one angle. Source    the
/// sequence R2 of Roberts, "The unreasonable effectiveness of quasirandom sequences" (2018): multiples of the plastic
/// number's powers.
[[nodiscard]] std::vector<SurfacePoint> spreadOver(const TopoDS_Face& face, int count);

/// The one screw motion or turn that moves a surface along itself, from points of it; none where `slip` exceeds `most`
/// somewhere, or where more than one motion does (planes, cylinders, spheres, extrusions), or where they say too little
/// (a patch too small to tell). Source    the normals of a helical surface lie in one linear complex: Pottmann,
/// Wallner: Computational Line Geometry (2001), ch. 3, 6.
[[nodiscard]] std::optional<ScrewMotion> screwMotionOf(const std::vector<SurfacePoint>& points, double most);

}  // namespace rasoir
