#include "geometry/face_points.h"

#include <BRep_Tool.hxx>
#include <BRepTools.hxx>
#include <BRepTopAdaptor_FClass2d.hxx>
#include <Geom_Surface.hxx>
#include <TopoDS.hxx>

#include "geometry/integrals.h"

namespace rasoir {

std::vector<gp_Pnt> pointsWithin(const TopoDS_Face& face) {
    const TopoDS_Face forward = TopoDS::Face(face.Oriented(TopAbs_FORWARD));
    const Handle(Geom_Surface) surface = BRep_Tool::Surface(forward);
    const BRepTopAdaptor_FClass2d within(forward, 1e-9);
    double u0 = 0.0, u1 = 0.0, v0 = 0.0, v1 = 0.0;
    BRepTools::UVBounds(forward, u0, u1, v0, v1);
    std::vector<gp_Pnt> points;
    for (int grid = 8; grid <= 64 && points.size() < 8; grid *= 2) {
        points.clear();
        for (int i = 0; i < grid; ++i)
            for (int k = 0; k < grid; ++k) {
                const gp_Pnt2d uv(u0 + (u1 - u0) * (i + 0.5) / grid, v0 + (v1 - v0) * (k + 0.5) / grid);
                if (within.Perform(uv) == TopAbs_IN) points.push_back(surface->Value(uv.X(), uv.Y()));
            }
    }
    return points;
}

std::vector<SkinSample> skinSamples(const TopoDS_Face& face, int grid) {
    const TopoDS_Face forward = TopoDS::Face(face.Oriented(TopAbs_FORWARD));
    const Handle(Geom_Surface) surface = BRep_Tool::Surface(forward);
    const BRepTopAdaptor_FClass2d within(forward, 1e-9);
    double u0 = 0.0, u1 = 0.0, v0 = 0.0, v1 = 0.0;
    BRepTools::UVBounds(forward, u0, u1, v0, v1);
    std::vector<SkinSample> samples;
    double sum = 0.0;
    for (int finer = grid; finer <= 9 * grid && samples.size() < 8; finer *= 3) {
        samples.clear();
        sum = 0.0;
        for (int i = 0; i < finer; ++i)
            for (int k = 0; k < finer; ++k) {
                const gp_Pnt2d uv(u0 + (u1 - u0) * (i + 0.5) / finer, v0 + (v1 - v0) * (k + 0.5) / finer);
                if (within.Perform(uv) != TopAbs_IN) continue;
                gp_Pnt at;
                gp_Vec du, dv;
                surface->D1(uv.X(), uv.Y(), at, du, dv);
                gp_Vec out = du.Crossed(dv);
                const double weight = out.Magnitude();
                if (weight < 1e-200) continue;
                out /= face.Orientation() == TopAbs_REVERSED ? -weight : weight;
                samples.push_back({at, out, weight});
                sum += weight;
            }
    }
    const double area = areaOf(face);
    for (SkinSample& one : samples) one.area *= area / sum;
    return samples;
}

}  // namespace rasoir
