#include "glyphs.h"

#include <QPainterPath>

namespace rasoir::app {

void drawGlyph(QPainter& painter, Glyph glyph, QPointF at, const QColor& colour) {
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing);
    painter.translate(at);
    QPen pen(colour, 1.3, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin);
    painter.setPen(pen);
    painter.setBrush(Qt::NoBrush);
    const auto line = [&painter](std::initializer_list<QPointF> points) {
        painter.drawPolyline(QPolygonF(QList<QPointF>(points)));
    };
    switch (glyph) {
        case Glyph::Hole:
            painter.drawEllipse(QPointF(8, 8), 5.5, 5.5);
            painter.setBrush(colour);
            painter.drawEllipse(QPointF(8, 8), 0.9, 0.9);
            break;
        case Glyph::Cut:
            painter.drawRect(QRectF(3, 3.5, 10, 9));
            pen.setDashPattern({3, 1.5, 0.5, 1.5});
            painter.setPen(pen);
            line({{8, 0.5}, {8, 15.5}});
            break;
        case Glyph::Unite:
            line({{2, 2}, {10, 2}, {10, 6}, {14, 6}, {14, 14}, {6, 14}, {6, 10}, {2, 10}, {2, 2}});
            break;
        case Glyph::Subtract:
            line({{2, 2}, {10, 2}, {10, 6}, {6, 6}, {6, 10}, {2, 10}, {2, 2}});
            pen.setDashPattern({1, 2});
            painter.setPen(pen);
            line({{10, 6}, {14, 6}, {14, 14}, {6, 14}, {6, 10}});
            break;
        case Glyph::Intersect:
            pen.setDashPattern({1, 2});
            painter.setPen(pen);
            painter.drawRect(QRectF(2, 2, 8, 8));
            painter.drawRect(QRectF(6, 6, 8, 8));
            pen.setStyle(Qt::SolidLine);
            painter.setPen(pen);
            painter.drawRect(QRectF(6, 6, 4, 4));
            break;
        case Glyph::Surround:
            painter.drawEllipse(QPointF(8, 8), 2.6, 2.6);
            painter.drawRect(QRectF(2, 2, 12, 12));
            break;
        case Glyph::PartFace:
            line({{2, 5}, {11, 2}, {14, 11}, {5, 14}, {2, 5}});
            line({{5, 4}, {8, 13}});
            break;
        case Glyph::PartEdge:
            line({{2, 13}, {14, 3}});
            painter.drawEllipse(QPointF(8, 8), 1.8, 1.8);
            break;
        case Glyph::Section:
            line({{3, 2}, {3, 14}, {12, 14}, {12, 9}, {8, 9}, {8, 2}, {3, 2}});
            line({{3, 9}, {7, 5}});
            line({{3, 13}, {8, 8}});
            line({{7, 13}, {11, 9}});
            break;
        case Glyph::Symmetry:
            line({{6, 4}, {2, 12}, {6, 12}, {6, 4}});
            line({{10, 4}, {14, 12}, {10, 12}, {10, 4}});
            line({{8, 1}, {8, 15}});
            break;
        case Glyph::Touch:
            painter.drawRect(QRectF(2, 8, 12, 5.5));
            painter.drawRect(QRectF(5, 2.5, 6, 5.5));
            break;
        case Glyph::Overlap:
            painter.drawEllipse(QPointF(6, 8), 4.2, 4.2);
            painter.drawEllipse(QPointF(10, 8), 4.2, 4.2);
            break;
        case Glyph::Joined:
            line({{1.5, 6.8}, {14.5, 6.8}});
            line({{1.5, 9.2}, {14.5, 9.2}});
            line({{8, 1.5}, {8, 6.8}});
            line({{8, 9.2}, {8, 14.5}});
            break;
        case Glyph::Mesh:
            painter.drawPolygon(QPolygonF({{8, 2}, {14.5, 13.5}, {1.5, 13.5}}));
            painter.drawPolygon(QPolygonF({{4.75, 7.75}, {11.25, 7.75}, {8, 13.5}}));
            break;
        case Glyph::Wall:
            painter.drawRect(QRectF(6, 1.5, 4, 13));
            pen.setDashPattern({2, 1.5});
            painter.setPen(pen);
            line({{8, 1.5}, {8, 14.5}});
            break;
        case Glyph::Lump:
            painter.drawEllipse(QPointF(8, 8), 5.5, 5.5);
            line({{8, 2.5}, {8, 13.5}});
            line({{2.5, 8}, {13.5, 8}});
            break;
        case Glyph::Group:
            line({{3, 14.5}, {3, 1.5}, {12.5, 1.5}, {10, 4.5}, {12.5, 7.5}, {3, 7.5}});
            break;
        case Glyph::Export:
            line({{2, 9}, {2, 14}, {14, 14}, {14, 9}});
            line({{8, 10.5}, {8, 1.5}});
            line({{5, 4.5}, {8, 1.5}, {11, 4.5}});
            break;
        case Glyph::Branch:
            line({{4, 14.5}, {4, 1.5}});
            line({{4, 10.5}, {11.5, 6}, {11.5, 1.5}});
            break;
        case Glyph::Point:
            line({{8, 1.5}, {8, 5.5}});
            line({{8, 10.5}, {8, 14.5}});
            line({{1.5, 8}, {5.5, 8}});
            line({{10.5, 8}, {14.5, 8}});
            painter.setBrush(colour);
            painter.drawEllipse(QPointF(8, 8), 1.2, 1.2);
            break;
        case Glyph::Findings:
            line({{2, 4}, {3.5, 4}});
            line({{6, 4}, {14, 4}});
            line({{2, 8}, {3.5, 8}});
            line({{6, 8}, {12, 8}});
            line({{2, 12}, {3.5, 12}});
            line({{6, 12}, {14, 12}});
            break;
        case Glyph::Gap:
            painter.drawLine(QPointF(1.5, 5), QPointF(14.5, 5));
            painter.drawLine(QPointF(1.5, 11), QPointF(14.5, 11));
            painter.drawLine(QPointF(5, 7), QPointF(5, 9));
            painter.drawLine(QPointF(11, 7), QPointF(11, 9));
            break;
        case Glyph::Opening:
            pen.setDashPattern({2, 2});
            painter.setPen(pen);
            painter.drawRect(QRectF(2.5, 2.5, 11, 11));
            break;
        case Glyph::Doubled:
            painter.drawRect(QRectF(2, 5, 9, 9));
            painter.drawPolyline(
                QPolygonF({QPointF(5, 5), QPointF(5, 2), QPointF(14, 2), QPointF(14, 11), QPointF(11, 11)}));
            break;
        case Glyph::RunsOver:
            painter.drawRect(QRectF(2, 5, 9, 8));
            line({{2, 5}, {15, 5}});
            break;
        case Glyph::Tiny:
            line({{1.5, 11}, {7, 6}, {9, 6}, {14.5, 11}});
            break;
        case Glyph::Sliver:
            painter.drawPolygon(QPolygonF({QPointF(1.5, 12.5), QPointF(14.5, 2.5), QPointF(14.5, 5)}));
            break;
        case Glyph::Needless:
            painter.drawRect(QRectF(2, 3, 12, 10));
            pen.setDashPattern({2, 2});
            painter.setPen(pen);
            painter.drawLine(QPointF(8, 3), QPointF(8, 13));
            break;
        case Glyph::Other:
            for (const double x : {3.0, 8.0, 13.0}) painter.drawEllipse(QPointF(x, 8), 1.3, 1.3);
            break;
        case Glyph::Slot:
            painter.drawRoundedRect(QRectF(1.5, 5, 13, 6), 3, 3);
            break;
        case Glyph::Fillet: {
            QPainterPath path(QPointF(3, 13.5));
            path.lineTo(3, 9);
            path.arcTo(QRectF(3, 3, 12, 12), 180, -90);
            path.lineTo(13.5, 3);
            painter.drawPath(path);
            pen.setDashPattern({1, 2});
            painter.setPen(pen);
            line({{3, 8}, {3, 3}, {8, 3}});
            break;
        }
        case Glyph::Chamfer:
            line({{3, 13.5}, {3, 8}, {8, 3}, {13.5, 3}});
            break;
        case Glyph::Mark:
            line({{3, 13}, {8, 3}, {13, 13}});
            line({{5, 9.5}, {11, 9.5}});
            break;
        case Glyph::Boss:
            line({{1.5, 12}, {5, 12}, {5, 5}, {11, 5}, {11, 12}, {14.5, 12}});
            break;
        case Glyph::Notch:
            line({{1.5, 5}, {8, 5}, {8, 11}, {14.5, 11}, {14.5, 14}});
            break;
        case Glyph::Rib:
            line({{2.5, 1.5}, {2.5, 13.5}, {14.5, 13.5}});
            line({{2.5, 5}, {11, 13.5}});
            break;
        case Glyph::Step:
            line({{1.5, 10}, {8, 10}, {8, 6.5}, {14.5, 6.5}});
            break;
        case Glyph::Thread:
            line({{2, 4}, {4, 6}, {6, 4}, {8, 6}, {10, 4}, {12, 6}, {14, 4}});
            line({{2, 12}, {4, 10}, {6, 12}, {8, 10}, {10, 12}, {12, 10}, {14, 12}});
            break;
        case Glyph::Pocket:
            line({{1.5, 5}, {5, 5}, {5, 12}, {11, 12}, {11, 5}, {14.5, 5}});
            break;
        case Glyph::Solid:
            line({{8, 2}, {13.5, 5}, {13.5, 11}, {8, 14}, {2.5, 11}, {2.5, 5}, {8, 2}});
            line({{2.5, 5}, {8, 8}, {13.5, 5}});
            line({{8, 8}, {8, 14}});
            break;
        case Glyph::Sheet:
            line({{4.5, 4.5}, {14.5, 4.5}, {11.5, 11.5}, {1.5, 11.5}, {4.5, 4.5}});
            break;
        case Glyph::Beam:
            line({{4, 12}, {12, 4}});
            painter.drawEllipse(QPointF(3, 13), 1.3, 1.3);
            painter.drawEllipse(QPointF(13, 3), 1.3, 1.3);
            break;
        case Glyph::Pennant:
        case Glyph::PennantFilled:
            if (glyph == Glyph::PennantFilled) painter.setBrush(colour);
            painter.drawPolygon(QPolygonF({{4, 2.5}, {13, 2.5}, {10.5, 5.5}, {13, 8.5}, {4, 8.5}}));
            line({{4, 2}, {4, 14}});
            break;
        case Glyph::Trouble:
            painter.setBrush(colour);
            painter.drawPolygon(QPolygonF({{8, 3}, {14, 13}, {2, 13}}));
            painter.setPen(QPen(Qt::white, 1.4, Qt::SolidLine, Qt::RoundCap));
            line({{8, 7}, {8, 9.5}});
            painter.drawPoint(QPointF(8, 11.5));
            break;
        case Glyph::Tick:
            line({{3, 8.5}, {6.5, 12}, {13, 4.5}});
            break;
        case Glyph::Lens:
            painter.drawEllipse(QPointF(7, 7), 4.5, 4.5);
            line({{10.4, 10.4}, {14, 14}});
            break;
    }
    painter.restore();
}

QIcon glyphIcon(Glyph glyph, const QColor& colour) {
    QPixmap pixmap(32, 32);
    pixmap.setDevicePixelRatio(2.0);
    pixmap.fill(Qt::transparent);
    QPainter painter(&pixmap);
    drawGlyph(painter, glyph, {0, 0}, colour);
    painter.end();
    return QIcon(pixmap);
}

}  // namespace rasoir::app
