#include "geometry/face_points.h"

#include <BRep_Tool.hxx>
#include <Geom_Surface.hxx>
#include <TopoDS.hxx>

#include "common/tolerance.h"
#include "geometry/integrals.h"

namespace rasoir {
namespace {

/// Parameters of points in a face, on a grid between its ends that gets finer until eight are met.
std::vector<gp_Pnt2d> gridWithin(const FaceRegion& region, int grid, int finest, int finer) {
    std::vector<gp_Pnt2d> points;
    for (; grid <= finest && points.size() < 8; grid *= finer) {
        points.clear();
        for (int i = 0; i < grid; ++i)
            for (int k = 0; k < grid; ++k) {
                // Between the grid's lines: on the boundary a point belongs to no face for sure.
                const gp_Pnt2d uv(region.low[0] + (region.high[0] - region.low[0]) * (i + 0.5) / grid,
                                  region.low[1] + (region.high[1] - region.low[1]) * (k + 0.5) / grid);
                if (region.where(uv) == FaceRegion::Where::In) points.push_back(uv);
            }
    }
    return points;
}

}  // namespace

std::vector<gp_Pnt> pointsWithin(const TopoDS_Face& face) {
    const FaceRegion region(face);
    const Handle(Geom_Surface) surface = BRep_Tool::Surface(face);
    std::vector<gp_Pnt> points;
    for (const gp_Pnt2d& uv : gridWithin(region, 8, 64, 2)) points.push_back(surface->Value(uv.X(), uv.Y()));
    return points;
}

std::vector<SkinSample> skinSamples(const TopoDS_Face& face, const FaceRegion& region, int grid) {
    const Handle(Geom_Surface) surface = BRep_Tool::Surface(face);
    std::vector<SkinSample> samples;
    double sum = 0.0;
    for (const gp_Pnt2d& uv : gridWithin(region, grid, 9 * grid, 3)) {
        gp_Pnt at;
        gp_Vec du, dv;
        surface->D1(uv.X(), uv.Y(), at, du, dv);
        gp_Vec out = du.Crossed(dv);
        const double weight = out.Magnitude();
        if (weight < Tolerance::divisible) continue;
        out /= face.Orientation() == TopAbs_REVERSED ? -weight : weight;
        samples.push_back({at, out, weight});
        sum += weight;
    }
    const double area = areaOf(face);
    for (SkinSample& one : samples) one.area *= area / sum;
    return samples;
}

std::vector<SkinSample> skinSamples(const TopoDS_Face& face, int grid) {
    return skinSamples(face, FaceRegion(face), grid);
}

}  // namespace rasoir
