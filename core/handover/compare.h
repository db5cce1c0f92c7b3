// Two models side by side: which parts and faces are new, gone, moved or of another size, and how far their skins lie
// apart.
#pragma once
#include <optional>

#include "common/problem.h"
#include "common/progress.h"
#include "model/json.h"
#include "model/model.h"

namespace rasoir::handover {

enum class Change { Same, Changed, Moved, Resized, New, Gone };
const char* changeName(Change change);

struct FaceChange {
    Change change = Change::Changed;  ///< Moved, Resized, Changed (other outline on the same surface), New or Gone
    int before = 0, after = 0;        ///< face numbers; 0: there is none
    std::string what;                 ///< "cylinder Ø 8 to Ø 8.4 mm", "plane moved by 5 mm"
    gp_Pnt where;                     ///< [mm, coordinates of the part that has it; of the later one where both have]
};

struct PartChange {
    Change change = Change::Same;  ///< Same, Changed, New or Gone
    std::optional<std::size_t> before, after;
    std::string name, was;                         ///< of the later part; `was` only where it had another name
    double volumeBefore = 0.0, volumeAfter = 0.0;  ///< [mm^3]
    double areaBefore = 0.0, areaAfter = 0.0;      ///< [mm^2]
    gp_Vec centreShift;                            ///< [mm] of mass, in part coordinates
    std::size_t facesSame = 0;
    std::vector<FaceChange> faces;
    std::size_t placesBefore = 0, placesAfter = 0, placesMoved = 0;
    bool otherMaterial = false;
    double farthest = 0.0;        ///< [mm] between the two skins, by sampling where faces changed
    std::optional<gp_Pnt> where;  ///< of that
};

struct Comparison {
    std::vector<PartChange> parts;  ///< in the order of the later model, what is gone last
    [[nodiscard]] bool same() const;
};

/// Parts are found by name, the rest by shape. Faces are the same when kind, size, area and centre agree within the
/// tolerance of the models; those left over are told as moved, resized, of another outline, new or gone.
/// Cost: near n log n in the faces that are the same, quadratic in those of a part that are not; on top of that the
/// distance of the skins, which grows near the square of the triangles of what changed.
[[nodiscard]] Result<Comparison> compare(const Model& before, const Model& after, Progress& progress);
[[nodiscard]] Json toJson(const Comparison& comparison);
/// A line for each part that changed and each face, as a page or a terminal shows them.
[[nodiscard]] std::vector<std::string> told(const PartChange& part);

}  // namespace rasoir::handover
