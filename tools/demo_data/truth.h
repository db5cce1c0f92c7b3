// What was put into a demo part, as the tests compare against it.
#pragma once
#include <TopoDS_Shape.hxx>
#include <gp_Ax1.hxx>

#include "model/json.h"
#include "model/model.h"

namespace rasoir::demo {

struct PutIn {
    std::string kind;                 ///< as survey::holeKindName
    double size = 0.0;                ///< [mm] widest cylindrical wall
    std::vector<double> diameters;    ///< [mm]
    bool through = false;
    gp_Ax1 axis;                      ///< from the mouth inwards
    bool bore = false;
    bool crossing = false;            ///< opens into another hole
};

struct PartWithTruth {
    TopoDS_Shape shape;
    TopoDS_Shape bare;                ///< without holes and slots; the bore stays
    std::vector<PutIn> features;
};

PartWithTruth hangerArm();
Model carrier(const TopoDS_Shape& arm);
Json truthOf(const PartWithTruth& part);

}  // namespace rasoir::demo
