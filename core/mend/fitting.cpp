#include "mend/fitting.h"

#include <BRepAdaptor_Curve.hxx>
#include <Eigen/Dense>
#include <ElSLib.hxx>
#include <Geom_ConicalSurface.hxx>
#include <Geom_CylindricalSurface.hxx>
#include <Geom_ElementarySurface.hxx>
#include <Geom_Plane.hxx>
#include <Geom_SphericalSurface.hxx>
#include <gp_Circ.hxx>

#include "common/tolerance.h"
#include "geometry/curves.h"

namespace rasoir::mend {

std::vector<gp_Pnt> samples(const std::vector<TopoDS_Edge>& edges, int each) {
    std::vector<gp_Pnt> points;
    for (const TopoDS_Edge& edge : edges) {
        const BRepAdaptor_Curve curve(edge);
        const double first = curve.FirstParameter(), last = curve.LastParameter();
        const bool forward = edge.Orientation() != TopAbs_REVERSED;
        for (int i = 0; i < each; ++i) {
            const double share = (i + 0.5) / each;
            points.push_back(curve.Value(forward ? first + share * (last - first) : last - share * (last - first)));
        }
    }
    return points;
}

double offOf(const Handle(Geom_Surface) & surface, const std::vector<gp_Pnt>& points, double tolerance) {
    double off = 0.0;
    for (const gp_Pnt& point : points) {
        const auto uv = parametersOn(surface, point, tolerance);
        if (!uv) return std::numeric_limits<double>::max();
        off = std::max(off, surface->Value(uv->X(), uv->Y()).Distance(point));
        if (off > tolerance) return off;
    }
    return off;
}

std::optional<gp_Pln> planeThrough(const std::vector<gp_Pnt>& points, double& off) {
    Eigen::Vector3d centre = Eigen::Vector3d::Zero();
    for (const gp_Pnt& p : points) centre += Eigen::Vector3d(p.X(), p.Y(), p.Z());
    centre /= static_cast<double>(points.size());
    Eigen::Matrix3d spread = Eigen::Matrix3d::Zero();
    for (const gp_Pnt& p : points) {
        const Eigen::Vector3d d = Eigen::Vector3d(p.X(), p.Y(), p.Z()) - centre;
        spread += d * d.transpose();
    }
    const Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> axes(spread);
    if (!(axes.eigenvalues()[1] > 1e-12 * axes.eigenvalues()[2])) return std::nullopt;  // a line
    const Eigen::Vector3d n = axes.eigenvectors().col(0), x = axes.eigenvectors().col(2);
    const gp_Pln plane(
        gp_Ax3(gp_Pnt(centre[0], centre[1], centre[2]), gp_Dir(n[0], n[1], n[2]), gp_Dir(x[0], x[1], x[2])));
    off = 0.0;
    for (const gp_Pnt& p : points) off = std::max(off, plane.Distance(p));
    return plane;
}

bool encloses(const gp_Pln& plane, const std::vector<TopoDS_Edge>& outline, const gp_Pnt& point) {
    const auto flat = [&plane](const gp_Pnt& p) {
        double u = 0.0, v = 0.0;
        ElSLib::Parameters(plane, p, u, v);
        return gp_Pnt2d(u, v);
    };
    std::vector<gp_Pnt2d> polygon;
    for (const gp_Pnt& p : samples(outline, 17)) polygon.push_back(flat(p));
    const gp_Pnt2d at = flat(point);
    bool in = false;
    for (std::size_t i = 0, j = polygon.size() - 1; i < polygon.size(); j = i++)
        if ((polygon[i].Y() > at.Y()) != (polygon[j].Y() > at.Y()) &&
            at.X() < (polygon[j].X() - polygon[i].X()) * (at.Y() - polygon[i].Y()) / (polygon[j].Y() - polygon[i].Y()) +
                         polygon[i].X())
            in = !in;
    return in;
}

std::vector<Handle(Geom_Surface)> surfacesOfArcs(const std::vector<TopoDS_Edge>& edges, double allowed) {
    std::vector<Handle(Geom_Surface)> candidates;
    std::vector<gp_Circ> arcs;
    for (const TopoDS_Edge& edge : edges)
        if (const BRepAdaptor_Curve curve(edge); curve.GetType() == GeomAbs_Circle) arcs.push_back(curve.Circle());
    for (std::size_t i = 0; i < arcs.size(); ++i)
        for (std::size_t j = i + 1; j < arcs.size(); ++j) {
            const gp_Vec apart(arcs[i].Location(), arcs[j].Location());
            if (apart.Magnitude() <= allowed) {
                if (std::abs(arcs[i].Radius() - arcs[j].Radius()) <= allowed)
                    candidates.emplace_back(new Geom_SphericalSurface(
                        gp_Ax3(arcs[i].Location(), arcs[i].Axis().Direction(), arcs[i].XAxis().Direction()),
                        arcs[i].Radius()));
                continue;
            }
            if (!arcs[i].Axis().IsParallel(arcs[j].Axis(), Tolerance::fittedDirection) ||
                !gp_Dir(apart).IsParallel(arcs[i].Axis().Direction(), Tolerance::fittedDirection))
                continue;
            const gp_Ax3 place(arcs[i].Location(), gp_Dir(apart), arcs[i].XAxis().Direction());
            if (std::abs(arcs[i].Radius() - arcs[j].Radius()) <= allowed)
                candidates.emplace_back(new Geom_CylindricalSurface(place, arcs[i].Radius()));
            else
                candidates.emplace_back(new Geom_ConicalSurface(
                    place, std::atan2(arcs[j].Radius() - arcs[i].Radius(), apart.Magnitude()), arcs[i].Radius()));
        }
    return candidates;
}

void turnSeamAway(const Handle(Geom_Surface) & surface, const gp_Pnt& middle) {
    const Handle(Geom_ElementarySurface) own = Handle(Geom_ElementarySurface)::DownCast(surface);
    if (own.IsNull() || own->IsKind(STANDARD_TYPE(Geom_Plane))) return;
    gp_Ax3 place = own->Position();
    gp_Vec out(place.Location(), middle);
    const bool ball = own->IsKind(STANDARD_TYPE(Geom_SphericalSurface));
    if (!ball) out -= gp_Vec(place.Direction()) * out.Dot(gp_Vec(place.Direction()));
    if (out.Magnitude() < Tolerance::noWay) return;
    const gp_Dir back = gp_Dir(out.Reversed());
    place = ball ? gp_Ax3(place.Location(), gp_Ax2(place.Location(), back).XDirection(), back)
                 : gp_Ax3(place.Location(), place.Direction(), back);
    own->SetPosition(place);
}

}  // namespace rasoir::mend
