// Parts out of the work, reversibly; and plain bodies that stand in for detailed ones.
#pragma once
#include "model/operation.h"

namespace rasoir::intake {

/// Which places are set aside: those named, and those a rule finds. Nothing is deleted; they are left out of facts and
/// export.
struct SetAside {
    std::vector<std::string> places;  ///< as model/places.h names them
    std::vector<std::string> allBut;  ///< when given, every place but these
    std::string measure;  ///< "volume" [mm^3], "longest side" [mm] or "mass" [kg]: with upTo, every part no larger
    double upTo = 0.0;
    std::vector<std::string> kinds;  ///< "bolt", "nut", "washer", "pin": recognised by shape
    bool hidden = false;             ///< those that cannot be seen from outside
    std::vector<std::string> kept;   ///< places that stay whatever the rules say
    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const SetAside& step);
void from_json(const Json& json, SetAside& step);
/// Refuses when nothing would be set aside, or everything; names that fit no part; an unknown measure or kind.
[[nodiscard]] Result<Outcome> setAside(const Model& model, const SetAside& step, Progress& progress);

struct BringBack {
    std::vector<std::string> places;  ///< empty: all that are set aside
    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const BringBack& step);
void from_json(const Json& json, BringBack& step);
[[nodiscard]] Result<Outcome> bringBack(const Model& model, const BringBack& step, Progress& progress);

/// A part's shape is replaced, in all its places at once, by something simple of the same size or weight.
struct StandIn {
    std::vector<std::string> parts;
    std::string by = "box";  ///< "box" and "cylinder": the smallest round its shape along its own main axes; "lump":
                             ///< mass, centre and inertia alone
    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const StandIn& step);
void from_json(const Json& json, StandIn& step);
/// Refuses parts without a volume (for a lump: without mass). The box and the cylinder hold the whole part: checked.
[[nodiscard]] Result<Outcome> standIn(const Model& model, const StandIn& step, Progress& progress);

/// Sizes by which parts are set aside, of one part as it is [mm^3, mm, kg].
struct PartSizes {
    double volume = 0.0, longestSide = 0.0, mass = 0.0;
};
[[nodiscard]] PartSizes sizesOf(const Model& model, std::size_t part);

}  // namespace rasoir::intake
