// The steps of Mend: each takes parts by name (none: every part in the work), checks what it made, and says what it
// left and why.
#pragma once
#include "model/operation.h"
#include "model/reference.h"
#include "survey/defects.h"

namespace rasoir::mend {

/// Joins open edges that lie side by side.
struct Stitch {
    std::vector<std::string> parts;
    double upTo = 0.0;                              ///< [mm] widest gap; 0: the safe limit of each part
    std::vector<std::pair<FaceRef, FaceRef>> only;  ///< gaps between these faces alone; empty: all
    std::vector<std::pair<FaceRef, FaceRef>> kept;  ///< gaps that stay
    static std::vector<ParameterInfo> infos();
};
/// Closes openings with new faces.
struct PatchOpenings {
    std::vector<std::string> parts;
    std::vector<std::array<double, 3>>
        at;               ///< [mm, part coordinates] middles of the openings meant; empty: all but rims of sheets
    bool tangent = true;  ///< smooth fillings run on from their neighbours
    static std::vector<ParameterInfo> infos();
};
/// Puts a face between two open edges that are too far apart to become one.
struct Bridge {
    std::string part;
    std::vector<std::array<std::array<double, 3>, 2>>
        edges;  ///< [mm, part coordinates] for each bridge a point on either edge
    static std::vector<ParameterInfo> infos();
};
/// Openings that are meant, as the rim of a tray or a window: from here on they are rims, and no action closes them.
struct LeaveOpen {
    std::vector<std::string> parts;
    std::vector<std::array<double, 3>>
        at;  ///< [mm, part coordinates] middles of the openings meant; empty: every opening of the parts
    static std::vector<ParameterInfo> infos();
};
/// Of two faces on one another, the one that fits worse goes: the one with more open edges, else the later.
struct DropDoubles {
    std::vector<std::string> parts;
    static std::vector<ParameterInfo> infos();
};
/// Faces of one surface that smooth edges divide become one, edges of one curve too.
struct MergeFaces {
    std::vector<std::string> parts;
    static std::vector<ParameterInfo> infos();
};
/// One direction for each skin, solids from closed skins, voids recognised.
struct MakeSolids {
    std::vector<std::string> parts;
    static std::vector<ParameterInfo> infos();
};
/// Takes faces out; what is left stays open.
struct DeleteFaces {
    std::vector<FaceRef> faces;
    static std::vector<ParameterInfo> infos();
};
/// Drops bodies far smaller than the largest of their part.
struct DropStray {
    std::vector<std::string> parts;
    double upTo = 0.0;  ///< [mm] longest side; 0: those the survey calls stray
    static std::vector<ParameterInfo> infos();
};
/// Makes bodies one with the body they stand on.
struct UniteStray {
    std::vector<std::string> parts;
    double upTo = 0.0;  ///< [mm] all but the largest that are no longer than this; 0: those the survey calls stray
    static std::vector<ParameterInfo> infos();
};
/// Faces that run past their neighbours, or partly over them, are cut back to where those end, and joined there.
struct TrimOverlong {
    std::vector<std::string> parts;
    double upTo =
        0.0;  ///< [mm] farther than this off its surface, a boundary is not on a face; 0: the safe limit of each part
    static std::vector<ParameterInfo> infos();
};
/// Thin faces go: their neighbours meet at one edge instead. Edges shorter than the width shrink to a point.
struct AbsorbSlivers {
    std::vector<std::string> parts;
    double upTo = 0.0;  ///< [mm] widest face that goes; 0: a fiftieth of the target size
    static std::vector<ParameterInfo> infos();
};
/// Short edges shrink to a point, faces that have no other edges with them.
struct CollapseTiny {
    std::vector<std::string> parts;
    double upTo = 0.0;  ///< [mm] longest edge that goes; 0: a fiftieth of the target size
    static std::vector<ParameterInfo> infos();
};
/// All of it within the safe limits: doubles dropped, gaps up to the safe limit stitched, faces that run over cut back
/// unless the part is a sheet, openings patched, solids made.
struct MendSafe {
    std::vector<std::string> parts;
    static std::vector<ParameterInfo> infos();
};

void to_json(Json& json, const Stitch& step);
void from_json(const Json& json, Stitch& step);
void to_json(Json& json, const PatchOpenings& step);
void from_json(const Json& json, PatchOpenings& step);
void to_json(Json& json, const Bridge& step);
void from_json(const Json& json, Bridge& step);
void to_json(Json& json, const LeaveOpen& step);
void from_json(const Json& json, LeaveOpen& step);
void to_json(Json& json, const DropDoubles& step);
void from_json(const Json& json, DropDoubles& step);
void to_json(Json& json, const MergeFaces& step);
void from_json(const Json& json, MergeFaces& step);
void to_json(Json& json, const MakeSolids& step);
void from_json(const Json& json, MakeSolids& step);
void to_json(Json& json, const DeleteFaces& step);
void from_json(const Json& json, DeleteFaces& step);
void to_json(Json& json, const DropStray& step);
void from_json(const Json& json, DropStray& step);
void to_json(Json& json, const UniteStray& step);
void from_json(const Json& json, UniteStray& step);
void to_json(Json& json, const TrimOverlong& step);
void from_json(const Json& json, TrimOverlong& step);
void to_json(Json& json, const AbsorbSlivers& step);
void from_json(const Json& json, AbsorbSlivers& step);
void to_json(Json& json, const CollapseTiny& step);
void from_json(const Json& json, CollapseTiny& step);
void to_json(Json& json, const MendSafe& step);
void from_json(const Json& json, MendSafe& step);

[[nodiscard]] Result<Outcome> stitchGaps(const Model& model, const Stitch& step, Progress& progress);
[[nodiscard]] Result<Outcome> patchOpenings(const Model& model, const PatchOpenings& step, Progress& progress);
[[nodiscard]] Result<Outcome> bridge(const Model& model, const Bridge& step, Progress& progress);
[[nodiscard]] Result<Outcome> leaveOpen(const Model& model, const LeaveOpen& step, Progress& progress);
[[nodiscard]] Result<Outcome> dropDoubles(const Model& model, const DropDoubles& step, Progress& progress);
[[nodiscard]] Result<Outcome> mergeFaces(const Model& model, const MergeFaces& step, Progress& progress);
[[nodiscard]] Result<Outcome> makeSolids(const Model& model, const MakeSolids& step, Progress& progress);
[[nodiscard]] Result<Outcome> deleteFaces(const Model& model, const DeleteFaces& step, Progress& progress);
[[nodiscard]] Result<Outcome> dropStray(const Model& model, const DropStray& step, Progress& progress);
[[nodiscard]] Result<Outcome> uniteStray(const Model& model, const UniteStray& step, Progress& progress);
[[nodiscard]] Result<Outcome> trimOverlong(const Model& model, const TrimOverlong& step, Progress& progress);
[[nodiscard]] Result<Outcome> absorbSlivers(const Model& model, const AbsorbSlivers& step, Progress& progress);
[[nodiscard]] Result<Outcome> collapseTiny(const Model& model, const CollapseTiny& step, Progress& progress);
[[nodiscard]] Result<Outcome> mendSafe(const Model& model, const MendSafe& step, Progress& progress);

}  // namespace rasoir::mend
