// What can be read off one or two picked things: sizes, distances, angles.
#pragma once
#include "model/model.h"
#include "select/pick.h"

namespace rasoir::measure {

/// One picked thing. Unset values do not apply.
struct Reading {
    std::string kind;                                  ///< "cylinder", "circle", "straight edge", "vertex", "part"
    std::optional<double> length;                      ///< [mm]
    std::optional<double> area;                        ///< [mm^2]
    std::optional<double> radius;                      ///< [mm] where it is one and the same
    std::optional<std::array<double, 2>> radiusRange;  ///< [mm] least and largest radius of curvature where it varies
    std::optional<double> ringRadius;                  ///< [mm] torus
    std::optional<double> coneAngle;                   ///< [degrees] full
    std::optional<double> dihedral;                    ///< [degrees] inside the material, of an edge
    std::optional<gp_Pnt> centre;     ///< of a circle, ball, ring; centre of area or mass else; the vertex itself
    std::optional<gp_Dir> direction;  ///< axis, or a plane's outward normal, or a straight edge's
    int facesMeeting = -1;            ///< at an edge
    bool convex = false;              ///< of a round face: bulges outward
};
[[nodiscard]] Reading readingOf(const Model& model, const select::Pick& item);

struct PairReading {
    double least = 0.0;             ///< [mm] shortest way
    gp_Pnt from, to;                ///< its ends
    std::array<double, 3> along{};  ///< [mm] the shortest way along x, y and z
    std::optional<double> centres;  ///< [mm] from centre to centre
    std::optional<double> axes;     ///< [mm] between parallel axes
    std::optional<double> planes;   ///< [mm] between parallel planes, whatever their extent
    std::optional<double> angle;    ///< [degrees] 0 to 90 between directions
};
/// Cost: the kernel's least distance of two shapes. None when one of them has no shape.
[[nodiscard]] std::optional<PairReading> readingBetween(const Model& model, const select::Pick& a,
                                                        const select::Pick& b);

/// The shape of an item in model coordinates.
[[nodiscard]] TopoDS_Shape shapeOf(const Model& model, const select::Pick& item);

/// In words, as the reading line and copied text show it: "cylinder, Ø 6.5 mm, area 163 mm²". `unit`: for lengths and
/// areas.
[[nodiscard]] std::string inWords(const Reading& reading, Unit unit = Unit::Millimetre);
[[nodiscard]] std::string inWords(const PairReading& reading, Unit unit = Unit::Millimetre);

}  // namespace rasoir::measure
