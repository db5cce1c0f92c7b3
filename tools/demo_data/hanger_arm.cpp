// The hanger arm: forged eye, pocketed web, flange; and every kind of hole that a survey has to know.
#include <fmt/format.h>

#include "shapes.h"
#include "truth.h"

namespace rasoir::demo {
namespace {

const gp_Dir downZ(0, 0, -1), backX(-1, 0, 0), backY(0, -1, 0);

/// Letters as flat strokes in (x, z), 24 high, standing on z = 0; each is one outline, some with a hole of their own.
struct Letter {
    std::vector<std::pair<double, double>> outline, inside;
};
const std::vector<Letter>& mark() {
    static const std::vector<Letter> letters = {
        {{{0, 0}, {4, 0}, {4, 9}, {7, 9}, {12, 0}, {16.5, 0}, {11, 10}, {15, 13}, {15, 21}, {12, 24}, {0, 24}},
         {{4, 13}, {11, 13}, {11, 20}, {4, 20}}},
        {{{0, 24},
          {4, 0},
          {8, 0},
          {11, 12},
          {14, 0},
          {18, 0},
          {22, 24},
          {18, 24},
          {15.8, 8},
          {13, 19},
          {9, 19},
          {6.2, 8},
          {4, 24}},
         {}},
        {{{0, 10}, {9, 10}, {9, 14}, {0, 14}}, {}},
        {{{0, 3}, {3, 0}, {12, 0}, {15, 3}, {15, 21}, {12, 24}, {3, 24}, {0, 21}},
         {{4, 4}, {11, 4}, {11, 20}, {4, 20}}},
        {{{3, 0}, {7.5, 0}, {15, 20}, {15, 24}, {0, 24}, {0, 20}, {10.5, 20}}, {}},
    };
    return letters;
}

TopoDS_Shape bareArm() {
    TopoDS_Shape body = rod(gp_Ax1(gp_Pnt(0, -40, 0), alongY), 80, 80);
    body = unite(body, prismY({{40, -56}, {404, -36}, {404, 36}, {40, 56}}, -25, 50));
    body = unite(body, box(400, -70, -90, 424, 70, 90));
    body = unite(body, rod(gp_Ax1(gp_Pnt(0, 0, 70), alongZ), 14, 24));  // lubrication boss
    body = tidied(body);
    // Pockets on both sides leave a web of 20.
    for (const double side : {-1.0, 1.0}) {
        TopoDS_Shape pocket = prismY({{108, -38}, {378, -23}, {378, 23}, {108, 38}}, side > 0 ? 10 : -30, 20);
        pocket = rounded(pocket, 8, [](const EdgeFacts& e) { return e.straight && std::abs(e.along.Y()) > 0.99; });
        body = subtract(body, pocket);
    }
    body = rounded(body, 4, [](const EdgeFacts& e) {
        return std::abs(std::abs(e.middle.Y()) - 10) < 1e-6 && e.middle.X() > 100 && e.middle.X() < 390;
    });
    body = rounded(body, 15, [](const EdgeFacts& e) {
        return e.straight && std::abs(e.along.X()) > 0.99 && std::abs(e.middle.Y()) > 69 && std::abs(e.middle.Z()) > 89;
    });
    body = rounded(body, 3, [](const EdgeFacts& e) {
        return std::abs(e.middle.X() - 400) < 1e-6 && (std::abs(e.middle.Y()) > 60 || std::abs(e.middle.Z()) > 80);
    });
    body = rounded(body, 10, [](const EdgeFacts& e) {
        return e.straight && std::abs(e.middle.X() - 400) < 1e-6 && std::abs(e.middle.Y()) < 30 &&
               std::abs(e.middle.Z()) < 60;
    });
    body = chamfered(body, 2, [](const EdgeFacts& e) {
        return std::abs(std::abs(e.middle.Y()) - 40) < 1e-6 && std::hypot(e.middle.X(), e.middle.Z()) > 70;
    });
    body = subtract(body, rod(gp_Ax1(gp_Pnt(0, -60, 0), alongY), 45, 120));
    body = chamfered(body, 1.5, [](const EdgeFacts& e) {
        return e.circle && std::abs(std::abs(e.middle.Y()) - 40) < 1e-6 && std::hypot(e.middle.X(), e.middle.Z()) < 50;
    });
    // The mark stands 1.5 proud of the web in the +Y pocket.
    // Read from there, X runs to the left.
    double x = 240;
    for (const Letter& letter : mark()) {
        const auto moved = [x](std::vector<std::pair<double, double>> outline) {
            for (auto& [px, pz] : outline) px = x - px, pz -= 12;
            return outline;
        };
        TopoDS_Shape solid = prismY(moved(letter.outline), 9, 2.5);
        if (!letter.inside.empty()) solid = subtract(solid, prismY(moved(letter.inside), 8, 5));
        body = unite(body, solid);
        double width = 0;
        for (const auto& [px, pz] : letter.outline) width = std::max(width, px);
        x -= width + 5;
    }
    return tidied(body);
}

class Driller {
public:
    explicit Driller(PartWithTruth& part) : m_part(part) {}

    void cut(const TopoDS_Shape& tool) { m_part.shape = subtract(m_part.shape, tool); }
    void note(std::string kind, std::vector<double> diameters, bool through, const gp_Ax1& axis, bool crossing = false,
              bool bore = false) {
        PutIn put;
        put.kind = std::move(kind);
        put.size = *std::max_element(diameters.begin(), diameters.end());
        put.diameters = std::move(diameters);
        std::sort(put.diameters.begin(), put.diameters.end());
        put.through = through;
        put.axis = axis;
        put.crossing = crossing;
        put.bore = bore;
        m_part.features.push_back(std::move(put));
    }
    static gp_Ax1 outside(const gp_Ax1& axis, double by = 5) { return axis.Translated(gp_Vec(axis.Direction()) * -by); }

    void plain(const gp_Ax1& axis, double diameter, double depth, bool through, bool crossing = false) {
        cut(rod(outside(axis), 0.5 * diameter, depth + 5));
        note("plain", {diameter}, through, axis, crossing);
    }
    void drilled(const gp_Ax1& axis, double diameter, double depth) {  // 118 degrees at the point
        cut(rod(outside(axis), 0.5 * diameter, depth + 5));
        cut(cone(axis.Translated(gp_Vec(axis.Direction()) * depth), 0.5 * diameter, 0,
                 0.5 * diameter / std::tan(59 * M_PI / 180)));
        note("plain", {diameter}, false, axis);
    }

private:
    PartWithTruth& m_part;
};

}  // namespace

PartWithTruth hangerArm(bool revised) {
    PartWithTruth part;
    part.bare = bareArm();
    part.shape = part.bare;
    Driller drill(part);
    const auto flangeAxis = [](double y, double z) { return gp_Ax1(gp_Pnt(424, y, z), backX); };
    // Flange: counterbored at the corners, plain, countersunk, stepped, rim chamfered and rounded, two slots.
    for (const double y : {-1.0, 1.0})
        for (const double z : {-1.0, 1.0}) {
            const gp_Ax1 axis = flangeAxis(50 * y, 70 * z);
            drill.cut(rod(Driller::outside(axis), 11, 5 + 8));
            drill.cut(rod(Driller::outside(axis), 6.5, 40));
            drill.note("counterbored", {13, 22}, true, axis);
        }
    drill.plain(flangeAxis(-50, 35), 6.5, 40, true);
    drill.plain(flangeAxis(50, 35), 6.5, 40, true);
    {
        const gp_Ax1 axis = flangeAxis(50, -35);
        drill.cut(rod(Driller::outside(axis), 3.3, 40));
        drill.cut(cone(axis, 6.6, 3.3, 3.3));
        drill.note("countersunk", {6.6}, true, axis);
    }
    {
        const gp_Ax1 axis = flangeAxis(0, -66);
        drill.cut(rod(Driller::outside(axis), 8, 5 + 6));
        drill.cut(rod(Driller::outside(axis), 6, 5 + 14));
        drill.cut(rod(Driller::outside(axis), 4, 40));
        drill.note("stepped", {8, 12, 16}, true, axis);
    }
    {
        const gp_Ax1 axis = flangeAxis(-50, -35);
        drill.cut(rod(Driller::outside(axis), 5, 40));
        part.shape = chamfered(part.shape, 1, [](const EdgeFacts& e) {
            return e.circle && std::abs(e.middle.X() - 424) < 1e-6 &&
                   std::abs(std::hypot(e.middle.Y() + 50, e.middle.Z() + 35) - 5) < 1e-6;
        });
        drill.note("plain", {10}, true, axis);
    }
    {
        const gp_Ax1 axis = flangeAxis(0, 66);
        drill.cut(rod(Driller::outside(axis), 4.5, 40));
        part.shape = rounded(part.shape, 1.5, [](const EdgeFacts& e) {
            return e.circle && std::abs(e.middle.X() - 424) < 1e-6 &&
                   std::abs(std::hypot(e.middle.Y(), e.middle.Z() - 66) - 4.5) < 1e-6;
        });
        drill.note("plain", {9}, true, axis);
    }
    for (const double y : {-48.0, 48.0}) {
        const gp_Ax1 axis = flangeAxis(y, 0);
        drill.cut(obround(Driller::outside(axis), alongZ, 24, 10, 60));
        drill.note("slot", {10}, true, axis);
    }
    // Web: lightening holes and small ones, through the pocket floors.
    for (const auto& [x, diameter] : {std::pair{296.0, revised ? 34.0 : 30.0}, {336.0, 24.0}, {364.0, 12.0}})
        drill.plain(gp_Ax1(gp_Pnt(x, 10, 0), backY), diameter, 25, true);
    for (const auto& [x, z] :
         {std::pair{118.0, 24.0}, {118.0, -24.0}, {265.0, revised ? 19.0 : 22.0}, {265.0, -22.0}, {122.0, 0.0}})
        if (!revised || x != 122.0) drill.plain(gp_Ax1(gp_Pnt(x, 10, z), backY), 4.2, 25, true);
    if (revised) drill.plain(gp_Ax1(gp_Pnt(318.5, 10, 16), backY), 6, 25, true);
    // Eye: threads' core holes in both faces, a drain through the wall, a blind hole in the curved skin.
    for (const double side : {-1.0, 1.0})
        for (int i = 0; i < 8; ++i) {
            const double angle = (22.5 + 45.0 * i) * M_PI / 180;
            drill.drilled(
                gp_Ax1(gp_Pnt(62 * std::cos(angle), 40 * side, 62 * std::sin(angle)), side > 0 ? backY : alongY), 6.8,
                18);
        }
    drill.plain(gp_Ax1(gp_Pnt(0, 0, 94), downZ), 5, 60, true);     // lubrication, into the bore
    drill.plain(gp_Ax1(gp_Pnt(0, 25, -80), alongZ), 5, 50, true);  // drain, into the bore
    drill.drilled(gp_Ax1(gp_Pnt(-80, 0, 0), alongX), 3.3, 12);     // in the curved skin
    drill.drilled(gp_Ax1(gp_Pnt(-80 * std::cos(0.6), 20, 80 * std::sin(0.6)), gp_Dir(std::cos(0.6), 0, -std::sin(0.6))),
                  3, 9);
    // Web's sloping back: blind, straight down, flat bottoms; one with a ball end.
    for (const double x : {150.0, 190.0})
        drill.plain(gp_Ax1(gp_Pnt(x, 17, 56 - (x - 40) * 20 / 364), downZ), 8, 14, false);
    {
        const gp_Ax1 axis(gp_Pnt(230, 17, 56 - 190.0 * 20 / 364), downZ);
        drill.cut(rod(Driller::outside(axis), 4, 5 + 10));
        drill.cut(ball(axis.Location().Translated(gp_Vec(0, 0, -10)), 4));
        drill.note("plain", {8}, false, axis);
    }
    // Drains that cross inside the flange, and a hole over the flange's lower back edge.
    drill.plain(gp_Ax1(gp_Pnt(412, 24, 90), downZ), 6, 180, true, true);
    drill.plain(gp_Ax1(gp_Pnt(412, -70, 18), alongY), 5, 94, true, true);
    drill.plain(gp_Ax1(gp_Pnt(424, -22, 90), gp_Dir(-1, 0, -1)), 8, 16, false);
    TopExp_Explorer solid(part.shape, TopAbs_SOLID);
    part.shape = solid.Current();
    drill.note("plain", {90}, true, gp_Ax1(gp_Pnt(0, -40, 0), alongY), false, true);
    return part;
}

Json revisionTruth() {
    return {{"changes",
             {{{"change", "resized"}, {"what", "cylinder Ø 30 to Ø 34 mm"}},
              {{"change", "moved"}, {"what", "cylinder Ø 4.2 mm moved by 3 mm"}},
              {{"change", "gone"}, {"what", "cylinder Ø 4.2 mm gone"}},
              {{"change", "new"}, {"what", "cylinder Ø 6 mm new"}}}}};
}

Json truthOf(const PartWithTruth& part) {
    TopTools_IndexedMapOfShape faces, bareFaces;
    TopExp::MapShapes(part.shape, TopAbs_FACE, faces);
    TopExp::MapShapes(part.bare, TopAbs_FACE, bareFaces);
    Json json{{"faces", faces.Extent()},
              {"volume_mm3", volumeOf(part.shape)},
              {"bareFaces", bareFaces.Extent()},
              {"bareVolume_mm3", volumeOf(part.bare)},
              {"features", Json::array()}};
    for (const PutIn& put : part.features) {
        const gp_Pnt& at = put.axis.Location();
        const gp_Dir& along = put.axis.Direction();
        json["features"].push_back(Json{{"kind", put.kind},
                                        {"size_mm", put.size},
                                        {"diameters_mm", put.diameters},
                                        {"through", put.through},
                                        {"bore", put.bore},
                                        {"crossing", put.crossing},
                                        {"at_mm", {at.X(), at.Y(), at.Z()}},
                                        {"along", {along.X(), along.Y(), along.Z()}}});
    }
    return json;
}

}  // namespace rasoir::demo
