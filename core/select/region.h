// What lies in a box or a lasso drawn over the view.
#pragma once
#include "geometry/ray_field.h"
#include "model/model.h"
#include "select/pick.h"

namespace rasoir::select {

using ScreenPoint = std::array<double, 2>;

/// From model coordinates to the screen, and the direction from a model point towards the eye.
struct Projection {
    std::function<ScreenPoint(const gp_Pnt&)> toScreen;
    std::function<gp_Dir(const gp_Pnt&)> towardsEye;
};

struct RegionWanted {
    std::vector<ScreenPoint> outline;  ///< closed polygon, at least three corners; a box has four
    bool touched = false;              ///< also what only reaches in; else what lies wholly inside
    PickKind kind = PickKind::Face;
    const RayField* seenIn =
        nullptr;  ///< only what is seen from the eye, with this field to ask; null: through all depths
};

/// The model's tessellation laid out on the screen for one view; regions can then be asked for while the mouse is
/// dragged. Cost: building projects every node once (about 20 ns each on two cores); a question looks at the boxes of
/// all faces, and at the triangles of those that straddle the outline.
class ScreenMap {
public:
    /// `occurrences`: those shown.
    ScreenMap(const Model& model, const std::vector<std::size_t>& occurrences, Projection projection);

    /// Items in the region, sorted.
    [[nodiscard]] std::vector<Pick> find(const RegionWanted& wanted) const;

private:
    struct Patch {  // a face or an edge laid flat
        Pick item;
        int body = 0;
        ScreenPoint low{}, high{};  // its box
        std::vector<ScreenPoint> nodes;
        std::vector<gp_Pnt> points;                 // the same in the model
        std::vector<std::array<int, 3>> triangles;  // edges: none, the nodes are a line
    };
    [[nodiscard]] bool takes(const Patch& patch, const RegionWanted& wanted, const ScreenPoint& low,
                             const ScreenPoint& high) const;

    Projection m_projection;
    std::vector<Patch> m_faces, m_edges, m_vertices;
};

/// Whether a point lies in a polygon (crossing number, Shimrat 1962); points on the outline may count either way.
[[nodiscard]] bool inside(const std::vector<ScreenPoint>& outline, const ScreenPoint& point);

}  // namespace rasoir::select
