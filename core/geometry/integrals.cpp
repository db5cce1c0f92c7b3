#include "geometry/integrals.h"

#include <BRepGProp.hxx>
#include <BRepGProp_Domain.hxx>
#include <BRepGProp_Face.hxx>
#include <BRepGProp_Vinert.hxx>
#include <GProp_GProps.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>

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
    GProp_GProps integral;
    BRepGProp::VolumeProperties(shape, integral);
    return integral.Mass();
}

double volumeSeenFrom(const gp_Pnt& base, const TopoDS_Shape& shape) {
    double volume = 0.0;
    for (TopExp_Explorer it(shape, TopAbs_FACE); it.More(); it.Next()) {
        BRepGProp_Face integrand(TopoDS::Face(it.Current()));
        BRepGProp_Domain domain(TopoDS::Face(it.Current()));
        volume += BRepGProp_Vinert(integrand, domain, base).Mass();
    }
    return volume;
}

}  // namespace rasoir
