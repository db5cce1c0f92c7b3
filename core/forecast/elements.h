// How many elements a mesh of a part will have: an estimate, from the target size and from what is small.
#pragma once
#include <vector>

#include "model/model.h"

namespace rasoir::forecast {

/// Each face asks for an element size s: at most the target h, at most a twelfth of a turn of its curvature, at most
/// its width w = 2 * area / perimeter, at least h/50. Sizes grow by a quarter of the distance from it until they reach
/// h. With tetrahedra of volume s^3/(6*sqrt(2)) that costs, beyond the elements of size h that would stand there
/// anyway,
///   extra(face) = area * 6*sqrt(2)/g * [ (1/s^2 - 1/h^2)/2 - (h - s)/h^3 ],  g = 0.25,
/// and a part costs 6*sqrt(2) * volume/h^3 plus the sum of extra() over its faces. The formula is derived in
/// docs/forecast.md.
struct FaceShare {
    double area = 0.0;       ///< [mm^2]
    double localSize = 0.0;  ///< [mm] s
    double extra = 0.0;      ///< elements
};

FaceShare faceShare(const TopoDS_Face& face, double targetSize);
/// The same from what is known already: area [mm^2], perimeter [mm], smallest radius of curvature [mm], 0: flat.
FaceShare faceShare(double area, double perimeter, double radius, double targetSize);
/// Elements of size h in a volume [mm^3].
double bulk(double volume, double targetSize);

/// An edge round a sheet: its length, and its radius where it is a circle's, else 0 [mm].
struct SheetRim {
    double length = 0.0, radius = 0.0;
};
/// Elements of a face that is a sheet: triangles of size h, smaller within its growth from narrow places and from bent
/// edges, and all over where it bends itself. Area [mm^2], smallest radius of curvature [mm], 0: flat.
double sheetElements(double area, const std::vector<SheetRim>& rims, double radius, double targetSize);
/// Elements of a beam [mm]: one at least.
double beamElements(double length, double targetSize);

}  // namespace rasoir::forecast
