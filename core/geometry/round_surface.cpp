#include "geometry/round_surface.h"

#include <BRep_Tool.hxx>
#include <BRepTools.hxx>
#include <Eigen/Dense>
#include <Geom_BezierSurface.hxx>
#include <Geom_BSplineSurface.hxx>
#include <Geom_ConicalSurface.hxx>
#include <Geom_CylindricalSurface.hxx>
#include <Geom_Plane.hxx>
#include <Geom_RectangularTrimmedSurface.hxx>
#include <Geom_SphericalSurface.hxx>
#include <Geom_SurfaceOfLinearExtrusion.hxx>
#include <Geom_SurfaceOfRevolution.hxx>
#include <Geom_ToroidalSurface.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <gp_Cone.hxx>
#include <gp_Cylinder.hxx>
#include <gp_Pln.hxx>
#include <gp_Sphere.hxx>
#include <gp_Torus.hxx>
#include <TopLoc_Location.hxx>

#include "common/tolerance.h"

namespace rasoir {
namespace {

Handle(Geom_Surface) untrimmed(Handle(Geom_Surface) surface) {
    while (!surface.IsNull() && surface->IsKind(STANDARD_TYPE(Geom_RectangularTrimmedSurface)))
        surface = Handle(Geom_RectangularTrimmedSurface)::DownCast(surface)->BasisSurface();
    return surface;
}

/// Whether the outward normal at the middle of a face points towards `target(point)`, the nearest point of the axis or
/// centre.
template <class Target>
bool pointsTo(const TopoDS_Face& face, const Target& target) {
    double u0 = 0, u1 = 0, v0 = 0, v1 = 0;
    BRepTools::UVBounds(face, u0, u1, v0, v1);
    gp_Pnt point;
    gp_Vec du, dv;
    BRep_Tool::Surface(face)->D1(0.5 * (u0 + u1), 0.5 * (v0 + v1), point, du, dv);
    gp_Vec normal = du.Crossed(dv);
    if (face.Orientation() == TopAbs_REVERSED) normal.Reverse();
    return normal.Dot(gp_Vec(point, target(point))) > 0.0;
}

gp_Pnt footOnAxis(const gp_Ax1& axis, const gp_Pnt& point) {
    const gp_Vec along(axis.Direction());
    return axis.Location().Translated(along * along.Dot(gp_Vec(axis.Location(), point)));
}

bool inwardOf(const TopoDS_Face& face, const gp_Ax1& axis) {
    return pointsTo(face, [&axis](const gp_Pnt& point) { return footOnAxis(axis, point); });
}

/// Cylinder or cone through sampled points and normals of any surface.
std::optional<RoundSurface> fitted(const TopoDS_Face& face, double tolerance) {
    double u0 = 0, u1 = 0, v0 = 0, v1 = 0;
    BRepTools::UVBounds(face, u0, u1, v0, v1);
    const Handle(Geom_Surface) surface = BRep_Tool::Surface(face);
    constexpr int side = 5;
    constexpr int count = side * side;
    Eigen::Matrix<double, 3, count> points, normals;
    for (int i = 0; i < side; ++i)
        for (int j = 0; j < side; ++j) {
            gp_Pnt point;
            gp_Vec du, dv;
            surface->D1(u0 + (u1 - u0) * (0.5 + i) / side, v0 + (v1 - v0) * (0.5 + j) / side, point, du, dv);
            gp_Vec normal = du.Crossed(dv);
            if (normal.SquareMagnitude() < Tolerance::noLengthSquare) return std::nullopt;
            normal.Normalize();
            points.col(i * side + j) << point.X(), point.Y(), point.Z();
            normals.col(i * side + j) << normal.X(), normal.Y(), normal.Z();
        }
    const Eigen::Vector3d mean = normals.rowwise().mean();
    const Eigen::Matrix3d scatter = (normals.colwise() - mean) * (normals.colwise() - mean).transpose() / count;
    const Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> solver(scatter);
    // Squares of sines among unit normals: a cylinder's spread in two directions and in no third.
    if (solver.eigenvalues()[2] < 1e-8 || solver.eigenvalues()[0] > 1e-8)
        return std::nullopt;  // flat, or not ruled round an axis
    const Eigen::Vector3d axis = solver.eigenvectors().col(0).normalized();
    const double rise = axis.dot(mean);
    if (std::abs(rise) > 0.98) return std::nullopt;
    // Every normal, seen along the axis, passes through the centre.
    const Eigen::Vector3d e1 = axis.unitOrthogonal(), e2 = axis.cross(e1);
    Eigen::Matrix2d lhs = Eigen::Matrix2d::Zero();
    Eigen::Vector2d rhs = Eigen::Vector2d::Zero();
    for (int k = 0; k < count; ++k) {
        const Eigen::Vector2d p(e1.dot(points.col(k)), e2.dot(points.col(k)));
        const Eigen::Vector2d n = Eigen::Vector2d(e1.dot(normals.col(k)), e2.dot(normals.col(k))).normalized();
        const Eigen::Matrix2d across = Eigen::Matrix2d::Identity() - n * n.transpose();
        lhs += across;
        rhs += across * p;
    }
    // Of the sums over unit normals: all alike, so no axis is to be had of them.
    if (std::abs(lhs.determinant()) < 1e-12) return std::nullopt;
    const Eigen::Vector2d centre = lhs.inverse() * rhs;
    const Eigen::Vector3d origin = centre[0] * e1 + centre[1] * e2;
    // Radius against height is a straight line; level for a cylinder.
    Eigen::Matrix<double, count, 2> heights;
    Eigen::Matrix<double, count, 1> radii;
    for (int k = 0; k < count; ++k) {
        heights(k, 0) = 1.0;
        heights(k, 1) = axis.dot(points.col(k));
        radii[k] = (points.col(k) - origin - heights(k, 1) * axis).norm();
    }
    const double spread = heights.col(1).maxCoeff() - heights.col(1).minCoeff();
    if (spread < Tolerance::noWay) return std::nullopt;
    Eigen::Vector2d line = heights.colPivHouseholderQr().solve(radii);
    // A slope below a thousandth over all the samples is what fitting leaves of a cylinder.
    const bool cylinder = std::abs(line[1]) * spread < tolerance && std::abs(rise) < 1e-3;
    if (cylinder) line = {radii.mean(), 0.0};
    if ((heights * line - radii).cwiseAbs().maxCoeff() > tolerance) return std::nullopt;
    const double level = heights.col(1).mean();
    const Eigen::Vector3d at = origin + level * axis;
    RoundSurface round;
    round.kind = cylinder ? SurfaceKind::Cylinder : SurfaceKind::Cone;
    round.axis = gp_Ax1(gp_Pnt(at[0], at[1], at[2]), gp_Dir(axis[0], axis[1], axis[2]));
    round.radius = line[0] + line[1] * level;
    round.slope = line[1];
    round.inward = inwardOf(face, round.axis);
    return round;
}

}  // namespace

SurfaceKind surfaceKind(const TopoDS_Face& face) {
    TopLoc_Location location;
    const Handle(Geom_Surface) surface = untrimmed(BRep_Tool::Surface(face, location));
    if (surface.IsNull()) return SurfaceKind::Other;
    const Handle(Standard_Type)& type = surface->DynamicType();
    if (type == STANDARD_TYPE(Geom_Plane)) return SurfaceKind::Plane;
    if (type == STANDARD_TYPE(Geom_CylindricalSurface)) return SurfaceKind::Cylinder;
    if (type == STANDARD_TYPE(Geom_ConicalSurface)) return SurfaceKind::Cone;
    if (type == STANDARD_TYPE(Geom_SphericalSurface)) return SurfaceKind::Sphere;
    if (type == STANDARD_TYPE(Geom_ToroidalSurface)) return SurfaceKind::Torus;
    if (type == STANDARD_TYPE(Geom_SurfaceOfRevolution)) return SurfaceKind::Revolution;
    if (type == STANDARD_TYPE(Geom_SurfaceOfLinearExtrusion)) return SurfaceKind::Extrusion;
    if (type == STANDARD_TYPE(Geom_BSplineSurface) || type == STANDARD_TYPE(Geom_BezierSurface))
        return SurfaceKind::Spline;
    return SurfaceKind::Other;
}

std::string surfaceKindName(SurfaceKind kind) {
    switch (kind) {
        case SurfaceKind::Plane:
            return "plane";
        case SurfaceKind::Cylinder:
            return "cylinder";
        case SurfaceKind::Cone:
            return "cone";
        case SurfaceKind::Sphere:
            return "sphere";
        case SurfaceKind::Torus:
            return "torus";
        case SurfaceKind::Revolution:
            return "revolution";
        case SurfaceKind::Extrusion:
            return "extrusion";
        case SurfaceKind::Spline:
            return "spline";
        case SurfaceKind::Other:
            return "other";
    }
    return "other";
}

std::optional<RoundSurface> roundSurface(const TopoDS_Face& face, double tolerance) {
    TopLoc_Location location;
    const Handle(Geom_Surface) own = untrimmed(BRep_Tool::Surface(face, location));
    if (own.IsNull()) return std::nullopt;
    const gp_Trsf& placement = location.Transformation();
    RoundSurface round;
    switch (surfaceKind(face)) {
        case SurfaceKind::Cylinder: {
            const gp_Cylinder cylinder =
                Handle(Geom_CylindricalSurface)::DownCast(own)->Cylinder().Transformed(placement);
            round.kind = SurfaceKind::Cylinder;
            round.axis = cylinder.Axis();
            round.radius = cylinder.Radius();
            round.inward = (face.Orientation() == TopAbs_REVERSED) == cylinder.Direct();
            return round;
        }
        case SurfaceKind::Cone: {
            const gp_Cone cone = Handle(Geom_ConicalSurface)::DownCast(own)->Cone().Transformed(placement);
            round.kind = SurfaceKind::Cone;
            round.axis = cone.Axis();
            round.radius = cone.RefRadius();
            round.slope = std::tan(cone.SemiAngle());
            round.inward = inwardOf(face, round.axis);
            return round;
        }
        case SurfaceKind::Sphere: {
            const gp_Sphere sphere = Handle(Geom_SphericalSurface)::DownCast(own)->Sphere().Transformed(placement);
            round.kind = SurfaceKind::Sphere;
            round.axis = gp_Ax1(sphere.Location(), sphere.Position().Direction());
            round.radius = sphere.Radius();
            round.inward = pointsTo(face, [&sphere](const gp_Pnt&) { return sphere.Location(); });
            return round;
        }
        case SurfaceKind::Torus: {
            const gp_Torus torus = Handle(Geom_ToroidalSurface)::DownCast(own)->Torus().Transformed(placement);
            round.kind = SurfaceKind::Torus;
            round.axis = torus.Axis();
            round.radius = torus.MinorRadius();
            round.ringRadius = torus.MajorRadius();
            round.inward = pointsTo(face, [&torus](const gp_Pnt& point) {
                const gp_Pnt foot = footOnAxis(torus.Axis(), point);
                const gp_Vec out(foot, point);
                const gp_Pnt level = torus.Location();
                return out.Magnitude() < Tolerance::noLength ? level
                                                             : level.Translated(out.Normalized() * torus.MajorRadius());
            });
            return round;
        }
        case SurfaceKind::Plane:
            return std::nullopt;
        default:
            return fitted(face, tolerance);
    }
}

bool sameSurface(const TopoDS_Face& a, const TopoDS_Face& b, double tolerance) {
    if (a.IsSame(b)) return true;
    TopLoc_Location placeA, placeB;
    const Handle(Geom_Surface) ownA = BRep_Tool::Surface(a, placeA), ownB = BRep_Tool::Surface(b, placeB);
    if (ownA == ownB && placeA.IsEqual(placeB)) return true;
    const SurfaceKind kind = surfaceKind(a);
    if (kind != surfaceKind(b)) return false;
    // [rad] finer than a file's digits: surfaces far from their origins would part.
    constexpr double sameDirection = 1e-7;
    if (kind == SurfaceKind::Plane) {
        const gp_Pln one = Handle(Geom_Plane)::DownCast(untrimmed(ownA))->Pln().Transformed(placeA.Transformation());
        const gp_Pln two = Handle(Geom_Plane)::DownCast(untrimmed(ownB))->Pln().Transformed(placeB.Transformation());
        if (!one.Axis().Direction().IsParallel(two.Axis().Direction(), sameDirection * 10)) return false;
        // Where the second face really is, not where its plane's origin happens to lie.
        double u0 = 0, u1 = 0, v0 = 0, v1 = 0;
        BRepTools::UVBounds(b, u0, u1, v0, v1);
        const Handle(Geom_Surface) second = BRep_Tool::Surface(b);
        return one.Distance(second->Value(u0, v0)) <= tolerance && one.Distance(second->Value(u1, v1)) <= tolerance;
    }
    if (kind == SurfaceKind::Spline || kind == SurfaceKind::Extrusion || kind == SurfaceKind::Revolution) return false;
    const auto one = roundSurface(a), two = roundSurface(b);
    if (!one || !two || one->kind != two->kind) return false;
    if (std::abs(one->radius - two->radius) > tolerance && kind != SurfaceKind::Cone) return false;
    if (kind == SurfaceKind::Sphere) return one->axis.Location().Distance(two->axis.Location()) <= tolerance;
    if (!one->axis.Direction().IsParallel(two->axis.Direction(), sameDirection * 10)) return false;
    if (gp_Vec(one->axis.Location(), two->axis.Location()).Crossed(gp_Vec(one->axis.Direction())).Magnitude() >
        tolerance)
        return false;
    const double along = gp_Vec(one->axis.Location(), two->axis.Location()).Dot(gp_Vec(one->axis.Direction()));
    if (kind == SurfaceKind::Torus)
        return std::abs(one->ringRadius - two->ringRadius) <= tolerance && std::abs(along) <= tolerance;
    if (kind == SurfaceKind::Cone) {
        const double sign = one->axis.Direction().Dot(two->axis.Direction()) > 0.0 ? 1.0 : -1.0;
        return std::abs(one->slope - sign * two->slope) <= sameDirection &&
               std::abs(one->radius + one->slope * along - two->radius) <= tolerance;
    }
    return true;
}

}  // namespace rasoir
