// Each pixel sends four rays along the line of sight. What a ray hits is known by place and face, so the lines need no
// geometry of their own: a pixel whose rays, or those of its right or lower neighbour, hit different faces lies on a
// line. That draws edges, outlines and what covers what alike, and nothing that cannot be seen.
#include "handover/picture.h"

#include <fmt/format.h>
#include <png.h>
#include <tbb/parallel_for.h>

#include <Bnd_Box.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepBndLib.hxx>
#include <TopoDS.hxx>

#include "common/text.h"
#include "common/tolerance.h"

namespace rasoir::handover {
namespace {

constexpr int raysAcross = 2;  // rays a pixel, each way
constexpr std::array<double, 3> plainTint{0.78, 0.78, 0.76}, changedTint{0.90, 0.66, 0.24}, inkTint{0.17, 0.17, 0.17};

struct Seen {
    std::size_t occurrence = 0;
    int face = 0;  // 0: nothing
    double light = 0.0;
    [[nodiscard]] bool sameFace(const Seen& other) const {
        return face == other.face && (face == 0 || occurrence == other.occurrence);
    }
};

/// The picture's own axes: right, up, and towards the eye.
struct Frame {
    gp_Vec right, up, back;
    explicit Frame(const Sight& sight)
        : right(gp_Vec(sight.along).Crossed(gp_Vec(sight.up)).Normalized()),
          up(right.Crossed(gp_Vec(sight.along))),
          back(-gp_Vec(sight.along)) {}
};

std::array<double, 3> colourOf(const Model& model, std::size_t o, int face, const Marked& marked) {
    if (const auto here = marked.find(o); here != marked.end() && here->second.contains(face)) return changedTint;
    const Occurrence& place = model.occurrences[o];
    const Part& part = *model.parts[place.part];
    std::optional<Colour> own = place.colour ? place.colour : part.colour;
    if (const auto painted = part.known.colours.find({EntityKind::Face, face}); painted != part.known.colours.end())
        own = painted->second;
    if (!own) return plainTint;
    // Colours are linear light; a picture is not. Kept from being so dark that lines vanish on it.
    const auto shown = [](double linear) { return 0.25 + 0.7 * std::pow(std::clamp(linear, 0.0, 1.0), 1.0 / 2.2); };
    return {shown(own->red), shown(own->green), shown(own->blue)};
}

/// Wires as lines two rays wide, over everything.
void drawWires(const Model& model, const Sight& sight, const Frame& frame, int width, int height,
               std::vector<char>& lined) {
    const double scale = height / sight.height;  // [pixels a mm]
    for (const Occurrence& place : model.occurrences) {
        const Part& part = *model.parts[place.part];
        if (place.aside || part.kind() != BodyKind::Wire) continue;
        for (int e = 1; e <= part.incidence().edgeCount(); ++e) {
            const BRepAdaptor_Curve curve(part.incidence().edge(e));
            if (!std::isfinite(curve.FirstParameter()) || !std::isfinite(curve.LastParameter())) continue;
            constexpr int pieces = 400;
            for (int i = 0; i <= pieces; ++i) {
                const double t = curve.FirstParameter() + (curve.LastParameter() - curve.FirstParameter()) * i / pieces;
                const gp_Vec from(sight.at, curve.Value(t).Transformed(place.placement));
                const int x = static_cast<int>(std::lround(0.5 * width + scale * from.Dot(frame.right))),
                          y = static_cast<int>(std::lround(0.5 * height - scale * from.Dot(frame.up)));
                if (x >= 0 && x < width && y >= 0 && y < height)
                    lined[static_cast<std::size_t>(y) * static_cast<std::size_t>(width) + static_cast<std::size_t>(x)] =
                        1;
            }
        }
    }
}

}  // namespace

Sight sightOf(const Model& model, int width, int height, const Bnd_Box& only) {
    Bnd_Box box = only;
    if (box.IsVoid())
        for (const Occurrence& place : model.occurrences) {
            const Part& part = *model.parts[place.part];
            if (place.aside || part.shape.IsNull()) continue;
            Bnd_Box own;
            BRepBndLib::Add(part.shape, own, false);
            if (!own.IsVoid()) box.Add(own.Transformed(place.placement));
        }
    Sight sight{gp_Dir(-0.62, 0.62, -0.48), gp_Dir(0, 0, 1), gp_Pnt(), 1.0};
    fit(sight, box, width, height);
    return sight;
}

void fit(Sight& sight, const Bnd_Box& box, int width, int height) {
    if (box.IsVoid()) return;
    const gp_Pnt low = box.CornerMin(), high = box.CornerMax();
    sight.at = gp_Pnt(0.5 * (low.XYZ() + high.XYZ()));
    const Frame frame(sight);
    double wide = 0.0, tall = 0.0;
    for (int corner = 0; corner < 8; ++corner) {
        const gp_Vec from(sight.at,
                          gp_Pnt((corner & 1) != 0 ? high.X() : low.X(), (corner & 2) != 0 ? high.Y() : low.Y(),
                                 (corner & 4) != 0 ? high.Z() : low.Z()));
        wide = std::max(wide, std::abs(from.Dot(frame.right)));
        tall = std::max(tall, std::abs(from.Dot(frame.up)));
    }
    sight.height = std::max(Tolerance::noWay, 2.1 * std::max(tall, wide * height / width));
}

Picture pictureOf(const Model& model, const RayField& field, const Sight& sight, int width, int height,
                  const Marked& marked) {
    const int columns = raysAcross * width, rows = raysAcross * height;
    const Frame frame(sight);
    const double step = sight.height / rows, away = 2.0 * field.extent() + sight.height + 1.0;
    std::vector<Seen> seen(static_cast<std::size_t>(columns) * static_cast<std::size_t>(rows));
    const auto at = [&](int x, int y) -> Seen& {
        return seen[static_cast<std::size_t>(y) * static_cast<std::size_t>(columns) + static_cast<std::size_t>(x)];
    };
    tbb::parallel_for(0, rows, [&](int y) {
        for (int x = 0; x < columns; ++x) {
            const gp_Pnt from =
                sight.at.Translated(frame.back * away + frame.right * (step * (x + 0.5 - 0.5 * columns)) +
                                    frame.up * (step * (0.5 * rows - y - 0.5)));
            if (const auto hit = field.first(from, sight.along))
                at(x, y) = {hit->occurrence, hit->face, std::abs(hit->normal.Dot(frame.back))};
        }
    });
    std::vector<char> lined(static_cast<std::size_t>(width) * static_cast<std::size_t>(height), 0);
    drawWires(model, sight, frame, width, height, lined);
    Picture picture{width, height, std::vector<std::uint8_t>(3 * lined.size())};
    for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x) {
            std::array<double, 3> sum{};
            int onLine = 0;
            for (int dy = 0; dy < raysAcross; ++dy)
                for (int dx = 0; dx < raysAcross; ++dx) {
                    const int sx = raysAcross * x + dx, sy = raysAcross * y + dy;
                    const Seen& here = at(sx, sy);
                    onLine += (sx + 1 < columns && !here.sameFace(at(sx + 1, sy))) ||
                              (sy + 1 < rows && !here.sameFace(at(sx, sy + 1)));
                    const auto own = here.face == 0 ? std::array<double, 3>{1.0, 1.0, 1.0}
                                                    : colourOf(model, here.occurrence, here.face, marked);
                    const double light = here.face == 0 ? 1.0 : 0.45 + 0.55 * here.light;
                    for (std::size_t k = 0; k < 3; ++k) sum[k] += own[k] * light / (raysAcross * raysAcross);
                }
            const std::size_t pixel =
                static_cast<std::size_t>(y) * static_cast<std::size_t>(width) + static_cast<std::size_t>(x);
            const double dark = lined[pixel] != 0 ? 1.0 : std::min(1.0, 0.5 * onLine);
            for (std::size_t k = 0; k < 3; ++k)
                picture.rgb[3 * pixel + k] = static_cast<std::uint8_t>(
                    std::lround(255.0 * std::clamp((1.0 - dark) * sum[k] + dark * inkTint[k], 0.0, 1.0)));
        }
    return picture;
}

Result<std::string> pngOf(const Picture& picture) {
    png_image image{};
    image.version = PNG_IMAGE_VERSION;
    image.width = static_cast<png_uint_32>(picture.width);
    image.height = static_cast<png_uint_32>(picture.height);
    image.format = PNG_FORMAT_RGB;
    png_alloc_size_t size = 0;
    std::string bytes;
    if (png_image_write_get_memory_size(image, size, 0, picture.rgb.data(), 0, nullptr) != 0) {
        bytes.resize(size);
        if (png_image_write_to_memory(&image, bytes.data(), &size, 0, picture.rgb.data(), 0, nullptr) != 0) {
            bytes.resize(size);
            return bytes;
        }
    }
    return fail(ProblemKind::Internal, fmt::format("A picture could not be packed: {}.", image.message));
}

std::string asDataUrl(const std::string& png) {
    static constexpr std::string_view letters = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
    std::string url = "data:image/png;base64,";
    url.reserve(url.size() + 4 * (png.size() / 3 + 1));
    for (std::size_t i = 0; i < png.size(); i += 3) {
        std::uint32_t three = 0;
        for (std::size_t k = 0; k < 3; ++k)
            three = (three << 8) | (i + k < png.size() ? static_cast<unsigned char>(png[i + k]) : 0U);
        for (std::size_t k = 0; k < 4; ++k) url += i + k > png.size() ? '=' : letters[(three >> (6 * (3 - k))) & 63U];
    }
    return url;
}

}  // namespace rasoir::handover
