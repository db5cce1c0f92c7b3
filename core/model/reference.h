// References that survive: a face is named by what it is and where, not by its number alone.
#pragma once
#include "model/json.h"
#include "model/model.h"

namespace rasoir {

/// A face as a ledger remembers it. On another file, or after other steps, the fingerprint finds it again.
struct FaceRef {
    std::string part;
    int face = 0;         ///< its number when the reference was made; a hint
    std::string surface;  ///< "plane", "cylinder", ...
    double area = 0.0;    ///< [mm^2]
    double size = 0.0;    ///< [mm] radius of a round surface, else 0
    gp_Pnt centre;        ///< [mm] centre of area, in part coordinates
};

struct FoundFace {
    std::size_t part = 0;
    int face = 0;
};

FaceRef makeFaceRef(const Part& part, int face);
/// The one face that fits: same kind of surface, size within 1e-4, centre within a hundredth of its own size. Refuses
/// with a sentence when there is none, or more than one; never guesses.
Result<FoundFace> findFace(const Model& model, const FaceRef& reference);

void to_json(Json& json, const FaceRef& reference);
void from_json(const Json& json, FaceRef& reference);

}  // namespace rasoir
