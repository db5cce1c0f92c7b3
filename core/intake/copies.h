// Copies: parts of one shape made instances of one part, an instance made a part of its own, several parts joined into
// one.
#pragma once
#include "model/operation.h"

namespace rasoir::intake {

/// Parts that are the same shape become places of the first of them: edited once, they change together.
struct MakeCopies {
    std::vector<std::string> parts;  ///< names or patterns; empty: all
    double tolerance = 0.0;          ///< [mm] 0: as survey::findCopies
    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const MakeCopies& step);
void from_json(const Json& json, MakeCopies& step);
/// The first mirror image of a part stays a part, since a place can turn but not mirror, and is paired with it: what
/// changes in one changes in the other (see mirrors.h). Further images become places of the first. A copy of another
/// material is left too. Refuses when there are no copies.
[[nodiscard]] Result<Outcome> makeCopies(const Model& model, const MakeCopies& step, Progress& progress);

/// Places get a part of their own, so that they can be changed alone.
struct MakeIndependent {
    std::vector<std::string> places;  ///< as model/places.h names them
    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const MakeIndependent& step);
void from_json(const Json& json, MakeIndependent& step);
/// All the places named of one part share one new part. Refuses when a part is named with all its places: it is
/// independent.
[[nodiscard]] Result<Outcome> makeIndependent(const Model& model, const MakeIndependent& step, Progress& progress);

/// Several places become one part holding all their bodies, where they stand.
struct JoinParts {
    std::vector<std::string> places;  ///< empty: everything that is not set aside
    std::string name;                 ///< of the joined part; empty: the first one's
    static std::vector<ParameterInfo> infos();
};
void to_json(Json& json, const JoinParts& step);
void from_json(const Json& json, JoinParts& step);
/// The bodies stay bodies: nothing is united. Refuses fewer than two places, and parts of different materials.
[[nodiscard]] Result<Outcome> joinParts(const Model& model, const JoinParts& step, Progress& progress);

}  // namespace rasoir::intake
