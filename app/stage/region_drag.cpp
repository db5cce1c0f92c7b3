#include "stage/region_drag.h"

#include <QLineF>

namespace rasoir::app {

RegionDrag::RegionDrag(RegionShape shape, const QPointF& start, std::shared_ptr<const select::ScreenMap> map,
                       select::PickKind kind, bool both, std::shared_ptr<const RayField> seenIn)
    : m_shape(shape),
      m_points({start, start}),
      m_map(std::move(map)),
      m_kind(kind),
      m_facesAndEdges(both),
      m_seenIn(std::move(seenIn)) {}

QPolygonF RegionDrag::outline() const {
    if (m_shape == RegionShape::Lasso) return m_points;
    const QPointF &a = m_points.front(), &b = m_points.back();
    return QPolygonF({a, {b.x(), a.y()}, b, {a.x(), b.y()}});
}

void RegionDrag::moveTo(const QPointF& position, bool touching) {
    if (m_shape == RegionShape::Box) {
        m_points.back() = position;
        m_touches = position.y() < m_points.front().y();
    } else {
        if (QLineF(m_points.back(), position).length() >= 3.0) m_points << position;
        m_touches = touching;
    }
    select::RegionWanted wanted;
    for (const QPointF& point : outline()) wanted.outline.push_back({point.x(), point.y()});
    wanted.touched = m_touches;
    wanted.kind = m_kind;
    wanted.seenIn = m_seenIn.get();
    m_found = m_map->find(wanted);
    if (!m_facesAndEdges || !m_found.empty()) return;
    // With both allowed, faces come first; where none fits, edges.
    wanted.kind = select::PickKind::Edge;
    m_found = m_map->find(wanted);
}

}  // namespace rasoir::app
