#include "geometry/screw_motion.h"

#include <BRep_Tool.hxx>
#include <BRepTools.hxx>
#include <Eigen/Dense>
#include <Geom_Surface.hxx>

#include "common/tolerance.h"

namespace rasoir {
namespace {

Eigen::Vector3d of(const gp_XYZ& v) {
    return {v.X(), v.Y(), v.Z()};
}

}  // namespace

double ScrewMotion::slip(const gp_Pnt& point, const gp_Vec& normal) const {
    const gp_Vec along(axis.Direction());
    const gp_Vec motion = along.Crossed(gp_Vec(axis.Location(), point)) + along * (lead / (2.0 * M_PI));
    const double size = motion.Magnitude();
    return size > Tolerance::noLength ? std::abs(motion.Dot(normal)) / size : 0.0;
}

std::vector<SurfacePoint> spreadOver(const TopoDS_Face& face, int count) {
    double u0 = 0, u1 = 0, v0 = 0, v1 = 0;
    BRepTools::UVBounds(face, u0, u1, v0, v1);
    const Handle(Geom_Surface) surface = BRep_Tool::Surface(face);
    std::vector<SurfacePoint> points;
    for (int k = 0; k < count; ++k) {
        SurfacePoint one;
        gp_Vec du, dv;
        const double u = 0.5 + 0.7548776662466927 * k, v = 0.5 + 0.5698402909980532 * k;
        one.at = gp_Pnt2d(u0 + (u1 - u0) * (u - std::floor(u)), v0 + (v1 - v0) * (v - std::floor(v)));
        surface->D1(one.at.X(), one.at.Y(), one.point, du, dv);
        one.normal = du.Crossed(dv);
        if (one.normal.SquareMagnitude() < Tolerance::noLengthSquare) continue;
        one.normal.Normalize();
        if (face.Orientation() == TopAbs_REVERSED) one.normal.Reverse();
        points.push_back(one);
    }
    return points;
}

std::optional<ScrewMotion> screwMotionOf(const std::vector<SurfacePoint>& points, double most) {
    if (points.size() < 12) return std::nullopt;
    Eigen::Vector3d middle = Eigen::Vector3d::Zero();
    for (const SurfacePoint& p : points) middle += of(p.point.XYZ()) / static_cast<double>(points.size());
    double size = 0.0;
    for (const SurfacePoint& p : points) size = std::max(size, (of(p.point.XYZ()) - middle).norm());
    if (size < Tolerance::noWay) return std::nullopt;
    // A motion v(p) = b + a x p runs along the surface where n.b + (p x n).a = 0: least squares with a of length 1.
    Eigen::Matrix3d aa = Eigen::Matrix3d::Zero(), ab = aa, bb = aa;
    for (const SurfacePoint& p : points) {
        const Eigen::Vector3d n = of(p.normal.XYZ()), moment = ((of(p.point.XYZ()) - middle) / size).cross(n);
        aa += moment * moment.transpose();
        ab += moment * n.transpose();
        bb += n * n.transpose();
    }
    const double count = static_cast<double>(points.size());
    // Mean squares of unit normals: flat to a milliradian, which moves along itself in two ways.
    if (Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d>(bb / count).eigenvalues()[0] < 1e-6)
        return std::nullopt;  // it can be shifted along itself
    const Eigen::Matrix3d inverse = bb.inverse();
    const Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> solver((aa - ab * inverse * ab.transpose()) / count);
    // Mean squares: the second least must be clear of rounding, and the least far below it.
    if (solver.eigenvalues()[1] < 1e-8 || solver.eigenvalues()[0] > 0.1 * solver.eigenvalues()[1]) return std::nullopt;
    const Eigen::Vector3d a = solver.eigenvectors().col(0).normalized(), b = -inverse * ab.transpose() * a;
    const Eigen::Vector3d foot = middle + size * a.cross(b);
    ScrewMotion motion{gp_Ax1(gp_Pnt(foot[0], foot[1], foot[2]), gp_Dir(a[0], a[1], a[2])),
                       2.0 * M_PI * size * a.dot(b)};
    for (const SurfacePoint& p : points)
        if (motion.slip(p.point, p.normal) > most) return std::nullopt;
    return motion;
}

}  // namespace rasoir
