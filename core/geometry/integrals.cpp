#include "geometry/integrals.h"

#include <BRepGProp.hxx>
#include <GProp_GProps.hxx>

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

double volumeOf(const TopoDS_Shape& shape) { return volumeOf(shape, gp_Pnt()); }

double volumeOf(const TopoDS_Shape& shape, const gp_Pnt& base) {
    GProp_GProps integral(base);
    BRepGProp::VolumeProperties(shape, integral);
    return integral.Mass();
}

}  // namespace rasoir
