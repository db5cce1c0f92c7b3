// A body's triangles cut by planes: areas and centroids of many sections at little cost.
#pragma once
#include <array>
#include <gp_Dir.hxx>
#include <gp_Pnt.hxx>
#include <optional>
#include <TopoDS_Shape.hxx>
#include <vector>

namespace rasoir::reduce {

/// One region of a section: an outer loop less the holes in it.
struct Slice {
    gp_Pnt centroid;
    double area = 0.0;    ///< [mm^2]
    double extent = 0.0;  ///< [mm] diagonal of its box in the plane
};

class BodySlices {
public:
    /// `deviation`  [mm] of the triangles from the skin. They are made on a copy; the body's own stay.
    BodySlices(const TopoDS_Shape& solid, double deviation);

    /// All regions in which a plane cuts the body.
    [[nodiscard]] std::vector<Slice> all(const gp_Pnt& place, const gp_Dir& normal) const;
    /// The region whose outer loop's box has its middle nearest to the place; none within `reach`, and none that is
    /// four times as large. Costs only what lies near.
    [[nodiscard]] std::optional<Slice> round(const gp_Pnt& place, const gp_Dir& normal, double reach) const;

private:
    std::vector<std::array<gp_XYZ, 3>> m_triangles;  // [mm] counterclockwise seen from outside
    double m_longest = 0.0;                          // [mm] of their sides
    double m_size = 0.0;                             // [mm]

    struct Loop {
        double area = 0.0, momentX = 0.0, momentY = 0.0;  // in the plane, about the place
        double low[2]{1e300, 1e300}, high[2]{-1e300, -1e300};
        [[nodiscard]] bool holds(const Loop& other) const;
        [[nodiscard]] double extent() const;
    };
    [[nodiscard]] std::vector<Loop> loops(const gp_Pnt& place, const gp_Dir& normal, double within, double same) const;
    [[nodiscard]] static Slice sliceOf(const Loop& outer, const std::vector<Loop>& loops, const gp_Pnt& place,
                                       const gp_Dir& normal);
};

}  // namespace rasoir::reduce
