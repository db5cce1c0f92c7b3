#include "stage/stage_overlay.h"

#include "glyphs.h"
#include "stage/stage.h"
#include "theme.h"

namespace rasoir::app {

StageOverlay::StageOverlay(Stage* stage) : QWidget(stage), m_stage(stage) {
    setAttribute(Qt::WA_TransparentForMouseEvents);
    setAttribute(Qt::WA_NoSystemBackground);
    setAccessibleName("Marks on the stage");
}

void StageOverlay::setMarks(std::vector<StageMark> marks) {
    m_marks = std::move(marks);
    update();
}

void StageOverlay::setDrawn(std::vector<StageLine> lines, std::vector<StageHandle> handles) {
    m_lines = std::move(lines);
    m_handles = std::move(handles);
    update();
}

const StageHandle* StageOverlay::handleAt(const QPointF& position) const {
    constexpr double reach = 12.0;  // [px]
    for (const StageHandle& handle : m_handles)
        if (QLineF(m_stage->toPixels(handle.at), position).length() <= reach) return &handle;
    return nullptr;
}

void StageOverlay::paintDrawn(QPainter& painter) const {
    const Palette& p = colours();
    for (const StageLine& line : m_lines) {
        QPolygonF polygon;
        for (const gp_Pnt& point : line.points) polygon << m_stage->toPixels(point);
        if (line.closed && !polygon.isEmpty()) polygon << polygon.first();
        QPen pen(line.style == StageLine::Style::Frame   ? p.ink
                 : line.style == StageLine::Style::Ghost ? p.second
                 : line.style == StageLine::Style::Brass ? p.brass
                                                         : p.vermilion,
                 line.style == StageLine::Style::Frame   ? 1.2
                 : line.style == StageLine::Style::Ghost ? 0.7
                                                         : 2.4);
        painter.setPen(pen);
        painter.setBrush(Qt::NoBrush);
        painter.drawPolyline(polygon);
    }
    painter.setFont(Theme::font(11.5, 600));
    for (const StageLine& line : m_lines) {
        if (line.text.isEmpty() || line.points.empty()) continue;
        const std::size_t middle = line.points.size() / 2;
        const gp_Pnt at = line.points.size() % 2 == 1
                              ? line.points[middle]
                              : gp_Pnt(0.5 * (line.points[middle - 1].XYZ() + line.points[middle].XYZ()));
        const QRectF box(m_stage->toPixels(at) + QPointF(4, -9),
                         QSizeF(painter.fontMetrics().horizontalAdvance(line.text) + 8, 18));
        painter.fillRect(box, p.panel);
        painter.setPen(p.ink);
        painter.drawText(box, Qt::AlignCenter, line.text);
    }
    for (const StageHandle& handle : m_handles) {
        const QPointF at = m_stage->toPixels(handle.at);
        painter.setPen(QPen(p.ink, 1.7));
        painter.setBrush(p.panel);
        painter.drawEllipse(at, 9, 9);
        QPointF along = m_stage->screenDirection(handle.along);
        if (const double length = std::hypot(along.x(), along.y()); length > 0.14)
            painter.drawLine(at - along / length * 15, at + along / length * 15);
        const QRectF box(at + QPointF(14, -10), QSizeF(painter.fontMetrics().horizontalAdvance(handle.text) + 12, 20));
        painter.fillRect(box, p.panel);
        painter.drawText(box, Qt::AlignCenter, handle.text);
    }
}

void StageOverlay::setHint(const QString& hint) {
    m_hint = hint;
    update();
}

void StageOverlay::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Palette& p = colours();
    if (!m_hint.isEmpty()) {
        painter.setFont(Theme::font(16, 600));
        painter.setPen(p.second);
        painter.drawText(rect(), Qt::AlignCenter | Qt::TextWordWrap, m_hint);
        return;
    }
    // Thousands of rings say nothing that the list does not, and take longer than the model.
    const bool quiet = m_stage->isMoving() || m_marks.size() > 3000;
    for (const StageMark& mark : m_marks) {
        if (quiet && !mark.hovered) continue;
        const QPointF at = m_stage->toPixels(mark.at);
        if (!rect().adjusted(-20, -40, 20, 40).contains(at.toPoint()) || m_stage->isCutAway(mark.at)) continue;
        if (m_stage->wipes() && at.x() < m_stage->wipeAt()) continue;
        if (mark.kept) {
            painter.setPen(QPen(p.plum, 1.5));
            painter.setBrush(Qt::NoBrush);
            painter.drawEllipse(at, 8, 8);
            painter.drawLine(at + QPointF(0, -8), at + QPointF(0, -34));
            painter.setBrush(p.plum);
            painter.drawPolygon(QPolygonF({at + QPointF(0, -34), at + QPointF(17, -34), at + QPointF(12, -28),
                                           at + QPointF(17, -22), at + QPointF(0, -22)}));
            continue;
        }
        const bool small = mark.size * m_stage->pixelsPerMillimetre() < 18.0;
        if (!small && !mark.hovered) continue;
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(mark.hovered ? p.cobalt : p.brass, mark.hovered ? 2.4 : 1.5));
        painter.drawEllipse(at, mark.hovered ? 12 : 9, mark.hovered ? 12 : 9);
    }
    paintDrawn(painter);
    paintPins(painter);
    paintSection(painter);
    paintWipe(painter);
    paintRegion(painter);
    paintJoin(painter);
    // The tripod, bottom right, out of the way.
    if (!m_stage->isShowing()) return;
    const QPointF origin(width() - 48, height() - 44);
    painter.setFont(Theme::font(11, 600));
    for (const auto& [name, direction] :
         {std::pair{"X", gp_Dir(1, 0, 0)}, {"Y", gp_Dir(0, 1, 0)}, {"Z", gp_Dir(0, 0, 1)}}) {
        const QPointF tip = m_stage->screenDirection(direction) * 26.0;
        painter.setPen(QPen(p.ink, 1.5));
        painter.drawLine(origin, origin + tip);
        const double length = std::hypot(tip.x(), tip.y());
        const QPointF text = origin + (length > 6.0 ? tip * ((length + 9.0) / length) : QPointF(9, 9));
        painter.drawText(QRectF(text - QPointF(8, 8), QSizeF(16, 16)), Qt::AlignCenter, name);
    }
}

/// An edge on its way to another: a line from where it was taken, solid once it would join something.
void StageOverlay::paintJoin(QPainter& painter) const {
    const auto line = m_stage->joinLine();
    if (!line) return;
    const bool meets = m_stage->hovered() && select::kindOf(*m_stage->hovered()) == select::PickKind::Edge &&
                       m_stage->hovered() != m_stage->dragged();
    painter.setPen(QPen(colours().cobalt, 2.0, meets ? Qt::SolidLine : Qt::DashLine));
    painter.setBrush(Qt::NoBrush);
    painter.drawLine(*line);
    painter.drawEllipse(line->p1(), 4, 4);
}

QPointF StageOverlay::sectionHandle() const {
    // In the middle of the view, moved along the axis to where the plane is.
    gp_XYZ axis(0, 0, 0);
    axis.SetCoord(std::max(1, m_stage->section()), 1.0);
    const QPointF at = m_stage->toPixels(gp_Pnt(axis * m_stage->sectionAt()));
    const QPointF along = m_stage->screenDirection(gp_Dir(axis));
    const QPointF middle(0.5 * width(), 0.5 * height());
    const double length2 = along.x() * along.x() + along.y() * along.y();
    if (length2 < 0.02) return {width() - 60.0, middle.y()};
    const double offset = QPointF::dotProduct(at - middle, along) / length2;
    const QPointF handle = middle + along * offset;
    return {std::clamp(handle.x(), 24.0, width() - 24.0), std::clamp(handle.y(), 24.0, height() - 24.0)};
}

void StageOverlay::paintSection(QPainter& painter) const {
    if (m_stage->section() == 0) return;
    const Palette& p = colours();
    gp_XYZ axis(0, 0, 0);
    axis.SetCoord(m_stage->section(), 1.0);
    QPointF along = m_stage->screenDirection(gp_Dir(axis));
    const double length = std::hypot(along.x(), along.y());
    along = length > 0.14 ? along / length : QPointF(0, -1);
    const QPointF at = sectionHandle(), across(-along.y(), along.x());
    painter.setPen(QPen(p.ink, 1.5));
    painter.setBrush(p.panel);
    painter.drawLine(at - across * 26, at + across * 26);
    for (const double side : {-1.0, 1.0}) {
        painter.drawLine(at, at + along * (18 * side));
        painter.drawLine(at + along * (18 * side), at + along * (13 * side) + across * 4);
        painter.drawLine(at + along * (18 * side), at + along * (13 * side) - across * 4);
    }
    painter.drawEllipse(at, 5, 5);
    painter.setFont(Theme::font(11.5, 600));
    const QString text = QString("%1 %2 mm")
                             .arg(QChar("xyz"[m_stage->section() - 1]))
                             .arg(QString::fromStdString(readable(m_stage->sectionAt())));
    const QRectF box(at + QPointF(14, -30), QSizeF(painter.fontMetrics().horizontalAdvance(text) + 12, 20));
    painter.fillRect(box, p.panel);
    painter.drawText(box, Qt::AlignCenter, text);
}

void StageOverlay::paintWipe(QPainter& painter) const {
    if (!m_stage->wipes()) return;
    const Palette& p = colours();
    const double x = m_stage->wipeAt();
    painter.setPen(QPen(p.ink, 1.5));
    painter.drawLine(QPointF(x, 0), QPointF(x, height()));
    painter.setBrush(p.ink);
    painter.drawPolygon(QPolygonF({{x - 9, 0}, {x + 9, 0}, {x + 9, 11}, {x, 20}, {x - 9, 11}}));
    painter.setFont(Theme::font(12, 600));
    const auto [received, now] = m_stage->wipeFaces();
    const QString left =
                      QString("%1, %2 faces").arg(m_stage->wipeName(), QString::fromStdString(readable(received, 0))),
                  right = QString("Now, %1 faces").arg(QString::fromStdString(readable(now, 0)));
    const double leftWidth = painter.fontMetrics().horizontalAdvance(left) + 14,
                 rightWidth = painter.fontMetrics().horizontalAdvance(right) + 14;
    painter.fillRect(QRectF(x - 14 - leftWidth, 8, leftWidth, 22), p.panel);
    painter.fillRect(QRectF(x + 14, 8, rightWidth, 22), p.panel);
    painter.drawText(QRectF(x - 14 - leftWidth, 8, leftWidth, 22), Qt::AlignCenter, left);
    painter.drawText(QRectF(x + 14, 8, rightWidth, 22), Qt::AlignCenter, right);
}

void StageOverlay::paintRegion(QPainter& painter) const {
    if (!m_stage->drag()) return;
    const Palette& p = colours();
    const RegionDrag& drag = *m_stage->drag();
    painter.setPen(QPen(p.cobalt, 1.5, drag.touches() ? Qt::DashLine : Qt::SolidLine));
    QColor wash = p.cobalt;
    wash.setAlpha(22);
    painter.setBrush(wash);
    painter.drawPolygon(drag.outline());
    painter.setFont(Theme::font(12, 600));
    const QString text = (drag.touches() ? "touched: " : "inside: ") + describeSelection(drag.found());
    QRectF box(drag.tip() + QPointF(14, 8), QSizeF(painter.fontMetrics().horizontalAdvance(text) + 14, 22));
    if (box.right() > width() - 4) box.moveRight(drag.tip().x() - 14);
    if (box.bottom() > height() - 4) box.moveBottom(drag.tip().y() - 8);
    painter.fillRect(box, p.panel);
    painter.setPen(p.cobalt);
    painter.drawText(box, Qt::AlignCenter, text);
}

void StageOverlay::paintPins(QPainter& painter) const {
    const Palette& p = colours();
    painter.setFont(Theme::font(12, 600));
    for (const Stage::Pin& pin : m_stage->pins()) {
        const QPointF a = m_stage->toPixels(pin.from), b = m_stage->toPixels(pin.to), middle = 0.5 * (a + b);
        painter.setPen(QPen(p.ink, 1.5));
        painter.setBrush(p.ink);
        painter.drawLine(a, b);
        painter.drawEllipse(a, 2.6, 2.6);
        painter.drawEllipse(b, 2.6, 2.6);
        const QRectF box(middle + QPointF(10, -26), QSizeF(painter.fontMetrics().horizontalAdvance(pin.text) + 12, 20));
        painter.fillRect(box, p.panel);
        painter.setPen(p.ink);
        painter.drawText(box, Qt::AlignCenter, pin.text);
    }
}

}  // namespace rasoir::app
