// References that survive: a face is named by what it is and where, not by its number alone.
#pragma once
#include "model/json.h"
#include "model/model.h"

namespace rasoir {

/// A face as a ledger remembers it. On another file, or after other steps, the fingerprint finds it again.
struct FaceRef {
    std::string part;
    PartId id = 0;        ///< the part's, by which it is found under another name; 0: not known
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
/// The one face that fits: same kind of surface, size within 1e-4, area and
/// centre within two hundredths (of the area, of its root). Refuses
/// with a sentence when there is none, or more than one; never guesses.
Result<FoundFace> findFace(const Model& model, const FaceRef& reference);

void to_json(Json& json, const FaceRef& reference);
void from_json(const Json& json, FaceRef& reference);

/// A body, face, edge or vertex as a ledger remembers it: by a point of it and by its measure. Its number is a hint, so
/// that the search costs nothing where the number still fits; no other thing of its kind is measured then.
struct EntityRef {
    std::string part;
    PartId id = 0;         ///< as in FaceRef
    Entity entity;         ///< the number when the reference was made
    gp_Pnt at;             ///< [mm, part coordinates] centre of a face or body, middle of an edge, a vertex itself
    double measure = 0.0;  ///< [mm^3], [mm^2] or [mm]; 0 for a vertex
    std::string place{};   ///< one place of the part, as model/places.h names it; empty: all
};

[[nodiscard]] EntityRef makeRef(const Part& part, const Entity& entity);
struct FoundEntity {
    std::size_t part = 0;
    Entity entity;
};
/// The thing that fits: same kind, measure within a hundredth, point within a hundredth of its size (one hundredth of
/// the part's for a vertex); the nearest of several. Refuses where none does, naming the part and the place.
[[nodiscard]] Result<FoundEntity> findEntity(const Model& model, const EntityRef& reference);
void to_json(Json& json, const EntityRef& reference);
void from_json(const Json& json, EntityRef& reference);

}  // namespace rasoir
