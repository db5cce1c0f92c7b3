// The cover of the grip's clamp, with raised and sunk letters, bosses, a pocket and a window, all of known size.
#include "shapes.h"
#include "truth.h"

namespace rasoir::demo {
namespace {

/// Strokes of a letter, as boxes in a field 5 wide and 8 high; x to the right, z upwards.
using Strokes = std::vector<std::array<double, 4>>;  // x0 z0 x1 z1
const std::map<char, Strokes> alphabet = {{'L', {{0, 0, 1.2, 8}, {0, 0, 5, 1.2}}},
                                          {'I', {{1.9, 0, 3.1, 8}}},
                                          {'F', {{0, 0, 1.2, 8}, {0, 6.8, 5, 8}, {0, 3.6, 4, 4.8}}},
                                          {'T', {{1.9, 0, 3.1, 8}, {0, 6.8, 5, 8}}},
                                          {'O', {{0, 0, 1.2, 8}, {3.8, 0, 5, 8}, {0, 0, 5, 1.2}, {0, 6.8, 5, 8}}},
                                          {'H', {{0, 0, 1.2, 8}, {3.8, 0, 5, 8}, {0, 3.4, 5, 4.6}}},
                                          {'4', {{3.8, 0, 5, 8}, {0, 3, 5, 4.2}, {0, 3, 1.2, 8}}}};

/// A word on the wall that faces +Y, reaching from y0 to y1; `x` is counted from that wall's left.
std::vector<TopoDS_Shape> word(const std::string& text, double x, double z, double scale, double y0, double y1) {
    std::vector<TopoDS_Shape> letters;
    for (const char letter : text) {
        TopoDS_Shape made;
        for (const auto& [x0, z0, x1, z1] : alphabet.at(letter)) {
            const TopoDS_Shape stroke =
                box(120 - x - scale * x1, y0, z + scale * z0, 120 - x - scale * x0, y1, z + scale * z1);
            made = made.IsNull() ? stroke : unite(made, stroke);
        }
        letters.push_back(tidied(made));
        x += 7.0 * scale;
    }
    return letters;
}

}  // namespace

ReliefTruth clampCover() {
    ReliefTruth made;
    TopoDS_Shape body = box(0, 0, 0, 120, 70, 45);
    made.bareVolume = volumeOf(body);
    made.bareFaces = 6;
    const auto put = [&made, &body](const std::string& kind, double height, int pieces,
                                    const std::vector<TopoDS_Shape>& shapes, bool raised) {
        const double before = volumeOf(body);
        for (const TopoDS_Shape& shape : shapes) body = raised ? unite(body, shape) : subtract(body, shape);
        made.reliefs.push_back({kind, height, pieces, std::abs(volumeOf(body) - before)});
    };
    put("mark", 0.6, 4, word("LIFT", 12, 28, 1.0, 69.0, 70.6), true);
    put("mark", 0.4, 5, word("TOTO4", 12, 8, 1.0, 69.6, 71.0), false);
    put("boss", 6, 1, {rod(gp_Ax1(gp_Pnt(20, 20, 44), gp::DZ()), 5, 7)}, true);
    put("boss", 6, 1, {rod(gp_Ax1(gp_Pnt(20, 50, 44), gp::DZ()), 5, 7)}, true);
    put("boss", 4, 1, {box(40, 10, 44, 52, 18, 49)}, true);
    put("pocket", 9, 1, {box(60, 12, 36, 100, 58, 46)}, false);
    put("boss", 3, 1, {rod(gp_Ax1(gp_Pnt(80, 35, 35), gp::DZ()), 3, 4)}, true);
    put("cutout", 45, 1, {box(40, 35, -1, 52, 50, 46)}, false);
    made.shape = body;
    return made;
}

Json truthOf(const ReliefTruth& cover) {
    Json reliefs = Json::array();
    for (const ReliefPutIn& put : cover.reliefs)
        reliefs.push_back(
            Json{{"kind", put.kind}, {"height_mm", put.height}, {"pieces", put.pieces}, {"volume_mm3", put.volume}});
    return Json{{"volume_mm3", volumeOf(cover.shape)},
                {"bare_volume_mm3", cover.bareVolume},
                {"bare_faces", cover.bareFaces},
                {"reliefs", reliefs}};
}

}  // namespace rasoir::demo
