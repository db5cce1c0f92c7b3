// Beams that stiffen sheets: their lines become edges of the sheets, or are linked to them.
#pragma once
#include "model/operation.h"

namespace rasoir::reduce {

/// A beam that lies along a sheet, or ends on one.
struct BeamOnSheet {
    std::size_t beam = 0, sheet = 0;  ///< occurrences
    std::set<int> edges;              ///< of the beam, that lie along the sheet; empty: it only ends there
    std::set<int> faces;              ///< of the sheet
    double length = 0.0;              ///< [mm] along which it lies there
    double gap = 0.0;                 ///< [mm] from skin to skin
    gp_Pnt where;                     ///< [mm, model coordinates]
};

/// Beams whose skins come as near to the skins of sheets as `upTo` [mm], the nearest first; those that are joined to
/// that sheet already are left out.
[[nodiscard]] Result<std::vector<BeamOnSheet>> findBeamsOnSheets(const Model& model, double upTo, Progress& progress);

/// Parameters of `reduce.beamsOnSheets`, kept in the ledger.
struct BeamsOnSheets {
    std::vector<std::string> parts;  ///< beams, by names, patterns or places; empty: all that come near
    double upTo = 0.0;               ///< [mm] from skin to skin; 0: the safe gap
    std::string otherwise = "link";  ///< what cannot share the sheet's nodes: "link" ties it rigidly, "leave" does not

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const BeamsOnSheets& step);
void from_json(const Json& json, BeamsOnSheets& step);

/// The faces under a beam are parted along its foot, carried on to their outline where it ends within; its line moves
/// there, and how far it was off is kept with its section. Line and edges are joints: they have their nodes in common.
/// A beam may lie on several sheets, span a hole or a gap between them and reach past their outlines: those stretches
/// move along with the others and have no nodes in common with anything.
/// A beam that only ends on a sheet, stands askew over it, lies on sheets of different heights or one above the other,
/// or has nodes in common with other beams is tied to the faces by a rigid link instead, told.
/// Returns   an item for each beam with its sheets, the length in common and how far the line was moved; and one for
///           each link.
/// Refuses   a limit that is none; a name that fits nothing; nothing to do where no beam comes near a sheet.
[[nodiscard]] Result<Outcome> putBeamsOnSheets(const Model& model, const BeamsOnSheets& step, Progress& progress);

}  // namespace rasoir::reduce
