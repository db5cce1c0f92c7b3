// Leaks: the ways on which a fluid gets from within walls and lids to the outside.
#pragma once
#include <string>
#include <TopoDS_Face.hxx>

#include "common/progress.h"
#include "geometry/widest_way.h"
#include "join/openings.h"
#include "model/model.h"

namespace rasoir::join {

/// The narrowest place of the widest way out that is left when all wider leaks are closed.
struct Leak {
    double width = 0.0;                  ///< [mm] there, from wall to wall
    gp_Pnt where;                        ///< [mm, model coordinates] midway between the two
    std::size_t placeA = 0, placeB = 0;  ///< occurrences whose walls are on its two sides; may be one and the same
    int faceA = 0, faceB = 0;            ///< numbers in their parts
    std::vector<gp_Pnt> way;             ///< [mm, model coordinates] from the seed to the outside
};

struct LeakReport {
    std::vector<Leak> leaks;  ///< the widest first
    double finest = 0.0;      ///< [mm] leaks narrower than this were not looked for
    bool more = false;        ///< there are more than were listed
};

/// How a fluid in `seed` gets outside between the walls.
/// `walls`   occurrences: solids and sheets.
/// `lids`    [model coordinates] that count as walls.
/// `finest`  [mm] width of the narrowest leak that is looked for; wider where that would take too long: see the report.
/// Refuses   a seed in a wall, or outside of everything; being cancelled.
/// Method    the widest way through the air (geometry/widest_way.h), again and again, each time without the leaks that
///           are known: a leak is closed between its two faces, and about its place.
/// Cost      about the area of the walls that are reached over the square of the width; some seconds at most.
[[nodiscard]] Result<LeakReport> findLeaks(const Model& model, const std::vector<std::size_t>& walls,
                                           const std::vector<TopoDS_Face>& lids, const gp_Pnt& seed, double finest,
                                           Progress& progress);

/// Marks the openings before which there is no way outside when all of them have lids: mouths between one channel and
/// another, of which no fluid leaves. Refuses only when cancelled.
[[nodiscard]] Result<void> tellInner(const Model& model, const std::vector<std::size_t>& walls,
                                     std::vector<Opening>& openings, Progress& progress);

/// Where a way is narrowest, measured from wall to wall, and the way without its detours.
[[nodiscard]] Leak narrowestPlace(const RayField& walls, const WidestWay::Way& way);

/// A point in the air before a face: halfway to what is opposite it [mm, model coordinates]. None where something lies
/// on all of the face.
[[nodiscard]] std::optional<gp_Pnt> pointBefore(const Model& model, std::size_t place, int face,
                                                const std::vector<std::size_t>& walls, Progress& progress);

/// Leaks of one kind, as those at the corners of a box of bent sheet: between places of the same parts, and of one
/// width to a twentieth. Numbers in the list, the widest kind first.
[[nodiscard]] std::vector<std::vector<std::size_t>> kindsOf(const Model& model, const std::vector<Leak>& leaks);

/// The width below which leaks are not looked for unless asked: a fiftieth of the target size [mm].
[[nodiscard]] double finestLeak(const Model& model);

/// "between "cover" and "body", 0.4 mm wide, at (10, 20, 30)".
[[nodiscard]] std::string describe(const Model& model, const Leak& leak);

}  // namespace rasoir::join
