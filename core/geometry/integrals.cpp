#include "geometry/integrals.h"

#include <BRepGProp.hxx>
#include <BRepGProp_Domain.hxx>
#include <BRepGProp_Face.hxx>
#include <BRepGProp_Vinert.hxx>
#include <BRep_Tool.hxx>
#include <GProp_GProps.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <tbb/parallel_for.h>

#include <atomic>
#include <numeric>
#include <vector>

#include "common/guard.h"

namespace rasoir {

Skin skinOf(const TopoDS_Shape& shape) {
    GProp_GProps integral;
    BRepGProp::SurfaceProperties(shape, integral);
    return {std::abs(integral.Mass()), integral.CentreOfMass()};
}

double lengthOf(const TopoDS_Shape& shape) {
    GProp_GProps integral;
    BRepGProp::LinearProperties(shape, integral);
    return integral.Mass();
}

double volumeOf(const TopoDS_Shape& shape) {
    // A point of the shape itself: seen from far away, differences of large numbers would be summed.
    const TopExp_Explorer vertex(shape, TopAbs_VERTEX);
    return volumeSeenFrom(vertex.More() ? BRep_Tool::Pnt(TopoDS::Vertex(vertex.Current())) : gp_Pnt(), shape);
}

double volumeSeenFrom(const gp_Pnt& base, const TopoDS_Shape& shape) {
    std::vector<TopoDS_Face> faces;
    for (TopExp_Explorer it(shape, TopAbs_FACE); it.More(); it.Next())
        if (it.Current().Orientation() == TopAbs_FORWARD || it.Current().Orientation() == TopAbs_REVERSED) faces.push_back(TopoDS::Face(it.Current()));
    std::vector<double> shares(faces.size());
    std::atomic<bool> failed = false;
    tbb::parallel_for(tbb::blocked_range<std::size_t>(0, faces.size(), 32), [&](const tbb::blocked_range<std::size_t>& range) {
        const auto done = guarded("Measuring", [&]() -> Result<void> {
            for (std::size_t i = range.begin(); i != range.end(); ++i) {
                BRepGProp_Face integrand(faces[i]);
                BRepGProp_Domain domain(faces[i]);
                shares[i] = BRepGProp_Vinert(integrand, domain, base).Mass();
            }
            return {};
        });
        if (!done) failed = true;
    });
    if (failed) throw Standard_Failure("a face cannot be measured");
    return std::accumulate(shares.begin(), shares.end(), 0.0);   // in the order of the faces: the same sum every time
}

}  // namespace rasoir
