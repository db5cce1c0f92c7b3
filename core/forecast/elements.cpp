#include "forecast/elements.h"

#include <BRepAdaptor_Curve.hxx>
#include <GCPnts_AbscissaPoint.hxx>

#include "geometry/integrals.h"
#include "geometry/round_surface.h"

namespace rasoir::forecast {
namespace {
constexpr double perCube = 8.485281374238570;  // 6*sqrt(2)
constexpr double growth = 0.25;
constexpr double finest = 1.0 / 50.0;
constexpr double perTurn = 12.0;
}  // namespace

double bulk(double volume, double targetSize) {
    return perCube * std::max(volume, 0.0) / std::pow(targetSize, 3);
}

FaceShare faceShare(double area, double perimeter, double radius, double targetSize) {
    FaceShare share;
    share.area = area;
    const double h = targetSize;
    double s = h;
    if (perimeter > 0.0) s = std::min(s, 2.0 * area / perimeter);
    if (radius > 0.0) s = std::min(s, 2.0 * M_PI * radius / perTurn);
    s = std::max(s, finest * h);
    share.localSize = s;
    share.extra =
        std::max(0.0, area * perCube / growth * (0.5 * (1.0 / (s * s) - 1.0 / (h * h)) - (h - s) / (h * h * h)));
    return share;
}

FaceShare faceShare(const TopoDS_Face& face, double targetSize) {
    double radius = 0.0;
    const SurfaceKind kind = surfaceKind(face);
    if (kind == SurfaceKind::Cylinder || kind == SurfaceKind::Sphere || kind == SurfaceKind::Torus)
        if (const auto round = roundSurface(face)) radius = round->radius;
    return faceShare(areaOf(face), lengthOf(face), radius, targetSize);
}

double sheetElements(double area, const std::vector<SheetRim>& rims, double radius, double targetSize) {
    const double perArea = 4.0 / std::sqrt(3.0), h = targetSize;
    double perimeter = 0.0;
    for (const SheetRim& rim : rims) perimeter += rim.length;
    const double narrow = faceShare(area, perimeter, radius, h).localSize;
    if (radius > 0.0 && 2.0 * M_PI * radius / perTurn < h) return perArea * area / (narrow * narrow);
    double extra = 0.0;
    for (const SheetRim& rim : rims) {
        double s = narrow;
        if (rim.radius > 0.0) s = std::max(finest * h, std::min(s, 2.0 * M_PI * rim.radius / perTurn));
        extra += rim.length * perArea / growth * (1.0 / s - 1.0 / h - (h - s) / (h * h));
    }
    return std::max(2.0, perArea * area / (h * h) + std::max(0.0, extra));
}

double beamElements(double length, double targetSize) {
    return std::max(1.0, std::round(length / targetSize));
}

}  // namespace rasoir::forecast
