// Which bodies can be meshed in layers: along a direction, or turned about an axis; what forbids it, and the cuts that
// would free it.
#pragma once
#include <gp_Ax1.hxx>
#include <gp_Pln.hxx>
#include <string>

#include "common/progress.h"
#include "model/model.h"
#include "topology/incidence.h"

namespace rasoir::divide {

/// Layers lie on one end of a body and are repeated to the other: every face is a wall, which runs along the layers'
/// direction everywhere, or belongs to one of the two ends.
struct LayerWay {
    bool turned = false;          ///< about the axis; else along its direction
    gp_Ax1 axis;                  ///< [mm] part coordinates
    std::vector<int> from, to;    ///< faces of the two ends; none where it closes in itself (a ring)
    std::vector<int> forbidding;  ///< faces that are neither wall nor end; none: it can be meshed so
    double forbidden = 0.0;       ///< their share of the skin
    [[nodiscard]] bool works() const { return forbidding.empty(); }
};

/// The way with the least skin that forbids it; a working one along a direction before one about an axis.
/// Input     one solid.
/// Method    directions are those of planes and axes. A face is a wall where its normal is square to the way at 25
/// points
///           (1e-5); an end looks along the way or against it everywhere, by at least 10 degrees to a wall, and the
///           faces of an end hang together over edges. Where two ends share an edge, layers would shrink to nothing:
///           the smaller of the two faces forbids.
/// Cost      linear in the faces, for each of at most 18 ways.
[[nodiscard]] LayerWay bestLayerWay(const Incidence& body);

struct BodyLayers {
    std::size_t part = 0;
    int body = 0;              ///< number in the part
    LayerWay way;              ///< faces as they are numbered in the part
    std::vector<gp_Pln> cuts;  ///< part coordinates; none where it works as it is, or nothing was found
    std::size_t pieces = 0;    ///< that those cuts make
    std::size_t freed = 0;     ///< of them, that can be meshed in layers
    std::string told() const;  ///< in a sentence
};

/// Every solid that is not set aside. Cuts are tried, not guessed: the body is divided by them, and each piece asked.
/// Candidates are the planes of faces at concave edges, of steps between the ends, and beside faces that forbid; by
/// turns the one that frees most volume, at most four. Bodies of more than 400 faces get none.
/// Refuses   when cancelled.
[[nodiscard]] Result<std::vector<BodyLayers>> findLayers(const Model& model, Progress& progress);

/// "along z", "along (0.7, 0.7, 0)", "about an axis along z".
[[nodiscard]] std::string describe(const LayerWay& way);

}  // namespace rasoir::divide
