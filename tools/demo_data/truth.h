// What was put into a demo part, as the tests compare against it.
#pragma once
#include <gp_Ax1.hxx>
#include <TopoDS_Shape.hxx>

#include "model/json.h"
#include "model/model.h"

namespace rasoir::demo {

struct PutIn {
    std::string kind;               ///< as survey::holeKindName
    double size = 0.0;              ///< [mm] widest cylindrical wall
    std::vector<double> diameters;  ///< [mm]
    bool through = false;
    gp_Ax1 axis;  ///< from the mouth inwards
    bool bore = false;
    bool crossing = false;  ///< opens into another hole
};

struct PartWithTruth {
    TopoDS_Shape shape;
    TopoDS_Shape bare;  ///< without holes and slots; the bore stays
    std::vector<PutIn> features;
};

/// The arm as exchange leaves it: loose faces, some apart, some missing, some doubled, some turned round, and a
/// splinter.
struct DamagedArm {
    TopoDS_Shape shape;
    std::vector<std::pair<std::string, double>> missing;  ///< what, and its area [mm^2]
    std::vector<double> shifted;                          ///< [mm] faces moved aside by so much
    int doubled = 0, turned = 0;
    std::vector<double> overlong;  ///< [mm] faces that reach so far past their neighbours
    std::vector<double> slivers;   ///< [mm] widths of strips cut off faces
    int needless = 0;              ///< faces cut in two
};

/// `revised`: the designer's next issue of it, see revisionTruth().
PartWithTruth hangerArm(bool revised = false);
/// What the designer changed: one lightening hole wider, one hole moved, one gone, one new.
Json revisionTruth();
DamagedArm damagedArm(const TopoDS_Shape& arm);
Json truthOf(const DamagedArm& damaged, const PartWithTruth& arm);
Model carrier(const TopoDS_Shape& arm);
Json truthOf(const PartWithTruth& part);

struct ReliefPutIn {
    std::string kind;     ///< as survey::reliefKindName
    double height = 0.0;  ///< [mm] from its base
    int pieces = 1;
    double volume = 0.0;  ///< [mm^3] added or taken
};
struct ReliefTruth {
    TopoDS_Shape shape;
    double bareVolume = 0.0;  ///< [mm^3]
    int bareFaces = 0;
    std::vector<ReliefPutIn> reliefs;
};
struct BoltTruth {
    TopoDS_Shape shape;
    TopoDS_Shape bare;  ///< with a plain shank of the major diameter, its step and nick as they are
    double major = 0.0, minor = 0.0, lead = 0.0, step = 0.0;  ///< [mm]
};
BoltTruth hangerBolt();
Json truthOf(const BoltTruth& bolt);
ReliefTruth clampCover();
Json truthOf(const ReliefTruth& cover);

}  // namespace rasoir::demo
