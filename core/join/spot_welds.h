// Spot welds: points thrown onto every sheet that they hold together.
#pragma once
#include "divide/points.h"
#include "model/operation.h"

namespace rasoir::join {

/// Parameters of `join.spotWelds`, kept in the ledger.
struct SpotWelds {
    std::vector<divide::Place> points;  ///< from a table, or picked
    /// A row beside them: as many welds at even distances, its ends included.
    struct Row {
        divide::Place from, to;
        int count = 2;
    };
    std::optional<Row> row;
    std::vector<std::string> parts;  ///< that may be held; empty: all that is not set aside
    double reach = 0.0;              ///< [mm] how far a sheet may be from a point; 0: half the target size
    double diameter = 0.0;           ///< [mm] of the weld, for the next program; 0: not known
    std::string name = "spot weld";  ///< followed by a number

    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const SpotWelds& step);
void from_json(const Json& json, SpotWelds& step);

/// Each weld becomes a point (a part of its own) midway between the first and the last of the sheets it holds, and a
/// link of behaviour "spot weld" between that point and the faces that it was thrown onto, of every body within reach.
/// Of a solid that is pierced through its two sides the nearer face counts.
/// Returns   an item for each weld with what it holds; points that hold fewer than two bodies are items with that
///           reason, and nothing is made of them.
/// Refuses   no points, a reach or diameter that cannot be, and where no point holds two bodies.
/// Cost      points times the faces whose boxes are within reach.
[[nodiscard]] Result<Outcome> makeSpotWelds(const Model& model, const SpotWelds& step, Progress& progress);

}  // namespace rasoir::join
