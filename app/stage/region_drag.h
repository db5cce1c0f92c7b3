// A box or a lasso being drawn on the stage, with what it would take while the button is still down.
#pragma once
#include <memory>
#include <QPolygonF>

#include "select/region.h"

namespace rasoir::app {

enum class RegionShape { Box, Lasso };

/// A box drawn downwards takes what lies wholly inside, drawn upwards also what it touches; its frame is solid or
/// dashed to say which. A lasso takes what lies wholly inside, with Alt what it touches.
class RegionDrag {
public:
    RegionDrag(RegionShape shape, const QPointF& start, std::shared_ptr<const select::ScreenMap> map,
               select::PickKind kind, bool both, std::shared_ptr<const RayField> seenIn);

    void moveTo(const QPointF& position, bool touching);
    [[nodiscard]] const std::vector<select::Pick>& found() const { return m_found; }
    [[nodiscard]] bool touches() const { return m_touches; }
    [[nodiscard]] QPolygonF outline() const;
    [[nodiscard]] QPointF tip() const { return m_points.back(); }

private:
    RegionShape m_shape;
    QPolygonF m_points;  // the start and the tip of a box; all of a lasso
    std::shared_ptr<const select::ScreenMap> m_map;
    select::PickKind m_kind;
    bool m_facesAndEdges;
    std::shared_ptr<const RayField> m_seenIn;
    bool m_touches = false;
    std::vector<select::Pick> m_found;
};

}  // namespace rasoir::app
