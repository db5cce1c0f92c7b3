// Welds: lines along which bodies that touch can be held together by a seam.
#pragma once
#include "model/operation.h"

namespace rasoir::join {

/// A line between two bodies: where a wall ends on another, laps it, or meets its edge.
struct WeldLine {
    std::size_t place = 0, on = 0;                   ///< occurrences: what ends, and what it stands on
    std::vector<int> edges, edgesOn;                 ///< of either part, running along each other
    std::vector<std::vector<int>> outers, outersOn;  ///< faces of either part beside each edge, out of the contact
    double length = 0.0;                             ///< [mm]
    double angle = 0.0;                              ///< [rad] of the open corner between two solids; 0 with sheets
    double thicknessA = 0.0, thicknessB = 0.0;       ///< [mm] of the walls at its middle; 0: not known
    gp_Pnt where;                                    ///< [mm, model coordinates]
    std::optional<std::size_t> bead;                 ///< a body that is the seam: see weld_beads.h
    double beadThroat = 0.0;                         ///< [mm] of that body

    /// Height of the seam's triangle [mm]: that of its bead, else seven tenths of the thinner wall, rounded down; 0
    /// where that is not known.
    [[nodiscard]] double proposedThroat() const;
};

/// Bodies parted at each other's outline, and the lines that can be welded there.
struct WeldPlan {
    Outcome parted;               ///< without the joints that parting has found
    std::vector<WeldLine> lines;  ///< in the parted model; longest first
};

/// Parts what touches at each other's outline, as joining does, and looks along what has become common: between solids
/// edges of the contact with an open corner of 30 to 150 degrees outside, and with sheets every common edge. Edges that
/// run on smoothly are one line. Where a bead lies in the corner its root is the line. What is welded already is left
/// out. `pairs`: of parts or places; empty: all that touch, but for bolts, nuts, washers and pins (survey/fasteners),
/// which hold by other means. Cost: that of join.pairs over the places.
[[nodiscard]] Result<WeldPlan> findWelds(const Model& model, const std::vector<std::string>& places,
                                         const std::vector<std::pair<std::string, std::string>>& pairs,
                                         Progress& progress, bool beads = true);

/// Parameters of `join.weld`, kept in the ledger.
struct MakeWelds {
    std::vector<std::string> places;                         ///< empty: all that are not set aside
    std::vector<std::pair<std::string, std::string>> pairs;  ///< of parts or places; empty: all that touch
    double throat = 0.0;                                     ///< [mm]; 0: as proposed for each
    double strip = 0.0;     ///< [mm] faces this wide beside each line are what it holds; 0: the edges
    bool beads = true;      ///< seams that came as bodies become lines and are set aside
    double shortest = 0.0;  ///< [mm] shorter lines are left out; 0: three throats
    std::string name = "weld";

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const MakeWelds& step);
void from_json(const Json& json, MakeWelds& step);

/// Keeps each line as a pair of groups of edges, or of strips beside it, with throat and length: the bodies stay two
/// everywhere else. Copies whose faces had to be parted become parts of their own, told.
/// Returns   an item for each weld.
/// Refuses   a throat thicker than the thinner wall; as nothing to do, where no line is found.
[[nodiscard]] Result<Outcome> makeWelds(const Model& model, const MakeWelds& step, Progress& progress);

}  // namespace rasoir::join
