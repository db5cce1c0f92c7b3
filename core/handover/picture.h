// Pictures of a model for a report, drawn by rays without a window or a display.
#pragma once
#include <Bnd_Box.hxx>
#include <map>
#include <set>

#include "common/problem.h"
#include "common/progress.h"
#include "geometry/ray_field.h"
#include "model/model.h"

namespace rasoir::handover {

struct Picture {
    int width = 0, height = 0;
    std::vector<std::uint8_t> rgb;  ///< three bytes a pixel, row by row from the top left
};

/// From where one looks, square to the picture (no perspective).
struct Sight {
    gp_Dir along;       ///< from the eye into the picture
    gp_Dir up;          ///< roughly
    gp_Pnt at;          ///< in the middle of the picture
    double height = 1;  ///< [mm] seen from its lower to its upper rim
};

/// From the front, right and above, with all places that are not set aside, or those near `only`, inside the picture.
[[nodiscard]] Sight sightOf(const Model& model, int width, int height, const Bnd_Box& only = {});
/// The same direction, with all of a box just inside the picture.
void fit(Sight& sight, const Bnd_Box& box, int width, int height);
/// Faces to be drawn in the colour of what changed, by place.
using Marked = std::map<std::size_t, std::set<int>>;
/// Shaded by the angle to the eye, in the parts' own colours, with a dark line wherever one face ends before another.
/// Each pixel is the mean of four rays. Wires are drawn as lines over everything. White where there is nothing.
[[nodiscard]] Picture pictureOf(const Model& model, const RayField& field, const Sight& sight, int width, int height,
                                const Marked& marked = {});
/// As a PNG file's bytes.
[[nodiscard]] Result<std::string> pngOf(const Picture& picture);
/// For `src="…"` in a page that needs no other file.
[[nodiscard]] std::string asDataUrl(const std::string& png);

}  // namespace rasoir::handover
