// Keeping a half, a quarter or a sector of what is symmetric.
#pragma once
#include "divide/cutters.h"
#include "model/operation.h"

namespace rasoir::divide {

/// Parameters of `divide.keepSector`, kept in the ledger.
struct KeepSector {
    std::vector<std::string> places;  ///< parts or places; empty: all that is not set aside
    std::vector<Plane> planes;        ///< model coordinates; what lies in front of all of them is kept
    /// Instead of planes: a sector about an axis, beginning at a plane through it.
    struct Turn {
        std::array<double, 3> through{}, direction{};
        int count = 2;      ///< the sector is one of this many
        double from = 0.0;  ///< [degrees] about the axis, from the x (else y) direction
    };
    std::optional<Turn> turn;

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const KeepSector& step);
void from_json(const Json& json, KeepSector& step);

/// Cuts by the planes and keeps what lies in front. Bodies wholly behind are set aside, told. What lies in a plane is
/// halved, told: the thickness of a sheet, whose other half lies in front; the section of a beam, by its area and
/// moments; the mass of a lump. The faces in each plane become a group: "symmetry x = 0", or "sector side 1" and
/// "sector side 2", whose purpose says axis and count. A sheet that lies on a skin of its wall stays as it is.
/// Refuses   what divide.cut refuses, of any body; planes that have every body in front.
[[nodiscard]] Result<Outcome> keepSector(const Model& model, const KeepSector& step, Progress& progress);

}  // namespace rasoir::divide
