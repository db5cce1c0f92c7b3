// Whether, where and how far two bodies reach into one another.
#pragma once
#include <gp_Lin.hxx>

#include "common/progress.h"
#include "geometry/ray_field.h"
#include "join/touchable.h"

namespace rasoir::join {

/// A body as rays see it, made once for all that come near it.
class Seen {
public:
    Seen(const Touchable& body, Progress& progress);

    /// Stretches of a line within the body [mm from its origin]: pairs of where it enters and leaves.
    [[nodiscard]] std::vector<std::pair<double, double>> within(const gp_Lin& line, double length) const;
    [[nodiscard]] const Touchable& body() const { return m_body; }
    /// Whether a solid holds a point deeper than `reach` [mm]: by a ray first, and exactly where that says so.
    [[nodiscard]] bool holds(const gp_Pnt& point, double reach) const;
    /// The normal of the triangle nearest to a point.
    [[nodiscard]] std::optional<gp_Vec> nearestNormal(const gp_Pnt& from) const;
    /// The first of its triangles on the way between two points.
    [[nodiscard]] std::optional<gp_Pnt> between(const gp_Pnt& from, const gp_Pnt& to) const;

private:
    const Touchable& m_body;
    RayField m_rays;
};

/// What two solids have in common; of a sheet that passes through something only the place.
struct CommonMatter {
    gp_Pnt where;         ///< [mm, coordinates of B] a point of it
    double depth = 0.0;   ///< [mm] how thick it is where it is thickest, as far as was looked
    double volume = 0.0;  ///< [mm^3] by rays: some per cent
};

/// A placed by `placed` in the coordinates of B. Method: a grid of lines in three directions through what the boxes
/// have in common; stretches that lie in both are what is common. Rays see triangles, so every find is confirmed by
/// asking for its middle exactly. None where nothing reaches deeper in than `reach` [mm].
[[nodiscard]] std::optional<CommonMatter> commonMatter(const Seen& a, const Seen& b, const gp_Trsf& placed,
                                                       double reach);

/// Where a sheet passes through another body's faces, in the coordinates of B; none where it does not.
[[nodiscard]] std::optional<gp_Pnt> passesThrough(const Seen& a, const Seen& b, const gp_Trsf& placed, double reach);

}  // namespace rasoir::join
