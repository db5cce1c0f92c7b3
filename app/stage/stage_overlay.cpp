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
    for (const StageMark& mark : m_marks) {
        const QPointF at = m_stage->toPixels(mark.at);
        if (!rect().adjusted(-20, -40, 20, 40).contains(at.toPoint())) continue;
        if (mark.kept) {
            painter.setPen(QPen(p.plum, 1.5));
            painter.setBrush(Qt::NoBrush);
            painter.drawEllipse(at, 8, 8);
            painter.drawLine(at + QPointF(0, -8), at + QPointF(0, -34));
            painter.setBrush(p.plum);
            painter.drawPolygon(QPolygonF({at + QPointF(0, -34), at + QPointF(17, -34), at + QPointF(12, -28), at + QPointF(17, -22), at + QPointF(0, -22)}));
            continue;
        }
        const bool small = mark.size * m_stage->pixelsPerMillimetre() < 18.0;
        if (!small && !mark.hovered) continue;
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(mark.hovered ? p.cobalt : p.brass, mark.hovered ? 2.4 : 1.5));
        painter.drawEllipse(at, mark.hovered ? 12 : 9, mark.hovered ? 12 : 9);
    }
    // The tripod, bottom right, out of the way.
    if (!m_stage->isShowing()) return;
    const QPointF origin(width() - 48, height() - 44);
    painter.setFont(Theme::font(11, 600));
    for (const auto& [name, direction] : {std::pair{"X", gp_Dir(1, 0, 0)}, {"Y", gp_Dir(0, 1, 0)}, {"Z", gp_Dir(0, 0, 1)}}) {
        const QPointF tip = m_stage->screenDirection(direction) * 26.0;
        painter.setPen(QPen(p.ink, 1.5));
        painter.drawLine(origin, origin + tip);
        const double length = std::hypot(tip.x(), tip.y());
        const QPointF text = origin + (length > 6.0 ? tip * ((length + 9.0) / length) : QPointF(9, 9));
        painter.drawText(QRectF(text - QPointF(8, 8), QSizeF(16, 16)), Qt::AlignCenter, name);
    }
}

}  // namespace rasoir::app
