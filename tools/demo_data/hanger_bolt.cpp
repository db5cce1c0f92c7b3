// The bolt on which the arm hangs: a modelled thread, a low step across its head, and a corner that a tool has nicked.
#include <gp_Ax3.hxx>

#include "shapes.h"
#include "truth.h"

namespace rasoir::demo {
namespace {

constexpr double radius = 10.0, core = 8.65, lead = 2.5, end = -62.0, chamfer = 2.2;

TopoDS_Shape head() {
    const double across = 30.0 / std::sqrt(3.0);  // corner from the middle
    TopoDS_Shape hexagon = box(-20, -15, 0, 20, 15, 13);
    for (const double angle : {M_PI / 3.0, -M_PI / 3.0}) {
        gp_Trsf turn;
        turn.SetRotation(gp::OZ(), angle);
        hexagon = intersect(hexagon, moved(box(-20, -15, 0, 20, 15, 13), turn));
    }
    hexagon = subtract(hexagon, box(-20, 3, 12.5, 20, 20, 14));  // the step: 0.5 lower on one side
    // A corner of the other side, nicked by 0.9 along each edge or so.
    gp_Trsf place;
    place.SetTransformation(gp_Ax3(gp_Pnt(across - 0.5, 0, 13 - 0.5), gp_Dir(1, -0.12, 1)), gp_Ax3());
    return subtract(hexagon, moved(box(-6, -6, 0, 6, 6, 6), place));
}

}  // namespace

BoltTruth hangerBolt() {
    BoltTruth made;
    const TopoDS_Shape blank = rod(gp_Ax1(gp_Pnt(0, 0, end), gp::DZ()), radius, -end + 1.0);
    const TopoDS_Shape corner = subtract(rod(gp_Ax1(gp_Pnt(0, 0, end - 1.0), gp::DZ()), radius + 2.0, chamfer + 1.0),
                                         cone(gp_Ax1(gp_Pnt(0, 0, end), gp::DZ()), radius - chamfer, radius, chamfer));
    const TopoDS_Shape groove = wound(core, radius + 0.2, 0.4, 2.3, lead, 13.3, end - 3.4);
    made.bare = unite(subtract(blank, corner), head());
    made.shape = unite(subtract(subtract(blank, groove), corner), head());
    made.major = 2.0 * radius;
    made.minor = 2.0 * core;
    made.lead = lead;
    made.step = 0.5;
    return made;
}

Json truthOf(const BoltTruth& bolt) {
    return Json{{"volume_mm3", volumeOf(bolt.shape)},
                {"volume_with_plain_major_diameter_mm3", volumeOf(bolt.bare)},
                {"thread", {{"major_mm", bolt.major}, {"minor_mm", bolt.minor}, {"lead_mm", bolt.lead}}},
                {"steps_mm", {bolt.step}},
                {"nicked_corners", 1}};
}

}  // namespace rasoir::demo
