// A beam's line as the sheets under it want it.
#pragma once
#include <map>
#include <set>

#include "divide/parted.h"
#include "reduce/beams_on_sheets.h"
#include "reduce/feet.h"

namespace rasoir::reduce {

/// A beam on one sheet, with the lines that lie over it.
struct Laid {
    const BeamOnSheet* on = nullptr;
    std::vector<Foot> feet;
};

/// A sheet parted for all beams on it.
struct PartedSheet {
    divide::Parted parted;
    double height = 0.0;  ///< [mm] to both sides, that the curtains had
};

/// A place along a beam: one of its vertices, or where a sheet begins or ends under it. Beam's coordinates.
struct LineNode {
    gp_Pnt was;
    std::optional<gp_Pnt> now;
    std::set<std::pair<std::size_t, int>> onSheets;  ///< occurrence and vertex of the sheet
};

/// A stretch of a beam's edge between two nodes: on a sheet, or free.
struct LineStretch {
    int edge = 0;                 ///< of the beam as it was
    double from = 0.0, to = 0.0;  ///< along it
    std::size_t begin = 0, end = 0;
    std::optional<std::size_t> sheet;
    int sheetEdge = 0;
    bool reversed = false;  ///< against the sheet's edge
    Handle(Geom_Curve) curve;
    double first = 0.0, last = 0.0;  ///< of the curve
};

struct NewLine {
    std::vector<LineNode> nodes;
    std::vector<LineStretch> stretches;  ///< edge by edge, in order along each
};

/// [mm] Within which nodes of several sheets are one, and stretches end where the next begin.
[[nodiscard]] double toleranceOfFeet(const Model& model);
/// From a sheet's coordinates to a beam's.
[[nodiscard]] gp_Trsf fromSheetToBeam(const Model& model, std::size_t beam, std::size_t sheet);

/// The line of a beam put together anew: of the sheets' edges at its foot, and of free stretches between them and
/// beyond, where it spans a hole or a gap, or reaches past an outline. Each node moves as its sheet wants it; what is
/// free goes along.
/// `laid`    the beam on each of its sheets; `sheets` those, parted.
/// Refuses   where sheets lie one above the other or at different heights, or a free stretch would be bent.
[[nodiscard]] Result<NewLine> newLine(const Model& model, std::size_t beam, const std::vector<const Laid*>& laid,
                                      const std::map<std::size_t, PartedSheet>& sheets);

}  // namespace rasoir::reduce
