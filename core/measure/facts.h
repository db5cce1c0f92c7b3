// Facts of a part, or of the whole: size, volume, area, centre of mass, what it is made of, whether it is closed and
// valid.
#pragma once
#include <array>

#include "common/progress.h"
#include "model/json.h"
#include "model/model.h"

namespace rasoir::measure {

struct Facts {
    int solids = 0, sheets = 0, wires = 0;  ///< bodies
    int bareSheets = 0;                     ///< sheets of parts that have faces without a thickness: they weigh nothing
    int faces = 0, edges = 0, vertices = 0;
    int openEdges = 0, manyFaceEdges = 0;  ///< with one face; with three and more
    std::map<std::string, int> surfaces;   ///< faces by kind of surface
    std::array<double, 3> low{}, high{};   ///< [mm] box, in part or model coordinates
    double volume = 0.0;                   ///< [mm^3] of the solids
    double area = 0.0;                     ///< [mm^2]
    gp_Pnt centre;                         ///< [mm] of mass; of area where there is no solid
    std::array<double, 6>
        inertia{};              ///< [mm^5] of one part about its centre: xx yy zz xy xz yz; see measure/mass.h for more
    double shortestEdge = 0.0;  ///< [mm]
    double smallestFace = 0.0;  ///< [mm^2]
    double tolerance = 0.0;     ///< [mm] largest the file claims
    double elements = 0.0;      ///< forecast at the target size
    bool closed = false;        ///< solids only, and every edge has two faces
    std::optional<bool> valid;  ///< none: not looked at
};

/// Facts of one part, in its own coordinates. `checkValid` runs the kernel's full check, the slowest of it.
/// Cost: linear in faces and edges; splines dominate.
[[nodiscard]] Facts factsOf(const Part& part, double targetSize, bool checkValid);

/// Facts of everything that is neither set aside nor a lump, each part as often as it occurs, in model coordinates.
/// Given `parts`, reads them from there (in order of model.parts) instead of measuring.
[[nodiscard]] Facts factsOf(const Model& model, const std::vector<Facts>& parts);
[[nodiscard]] Result<std::vector<Facts>> factsOfParts(const Model& model, bool checkValid, Progress& progress);

struct MassProperties;
Json toJson(const Facts& facts, const MassProperties& mass);

}  // namespace rasoir::measure
