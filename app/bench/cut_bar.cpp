#include "bench/cut_bar.h"

#include <cmath>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QRegularExpression>
#include <QVBoxLayout>

#include "common/text.h"
#include "theme.h"

namespace rasoir::app {
namespace {
constexpr double tabHeight = 18.0, tabTop = 4.0, plotTop = 26.0, axisRoom = 34.0;
}

CutPlot::CutPlot(QWidget* parent) : QWidget(parent) {
    setFocusPolicy(Qt::StrongFocus);
    setMinimumHeight(140);
    setMouseTracking(false);
    setCursor(Qt::SizeHorCursor);
    setAccessibleName("Size limit");
    setToolTip("Drag the blade. Ctrl+drag sets the lower end of a range; or type 2 to 8.");
}

namespace {

/// The largest of 1, 2, 5, 10, ... that is no more than a length; and the smallest that is no less.
double stepBelow(double length) {
    const double decade = std::pow(10.0, std::floor(std::log10(length)));
    for (const double step : {5.0, 2.0})
        if (step * decade <= length * (1 + 1e-9)) return step * decade;
    return decade;
}
double stepAbove(double length) {
    const double below = stepBelow(length);
    if (below >= length * (1 - 1e-9)) return below;
    return stepBelow(2.6 * below);
}

}  // namespace

void CutPlot::setItems(std::vector<CutItem> items) {
    m_items = std::move(items);
    std::sort(m_items.begin(), m_items.end(), [](const CutItem& a, const CutItem& b) { return a.size < b.size; });
    m_bars.clear();
    for (const CutItem& item : m_items) {
        if (!m_bars.empty() && item.size <= m_bars.back().size * 1.02) {
            ++m_bars.back().count;
            m_bars.back().kept += item.kept;
        } else {
            m_bars.push_back({item.size, 1, item.kept ? 1 : 0});
        }
    }
    const double low = m_items.empty() ? m_target / 4.0 : m_items.front().size,
                 high = m_items.empty() ? m_target * 16.0 : m_items.back().size;
    // The blade is stopped at the ends, so they are numbers that one would say.
    m_low = std::max(1e-9, stepBelow((m_inElements ? std::min(low, m_target) : low) / 1.2));
    m_high = stepAbove((m_inElements ? std::max(high, m_target * 2.0) : std::max(high, 2.0 * low)) * 1.2);
    setLimit(m_limit);
}

void CutPlot::setTargetSize(double millimetres) {
    m_target = millimetres;
    setItems(std::vector<CutItem>(m_items));
}

void CutPlot::setMeasure(const QString& unit, bool inElements, const QString& taken) {
    m_unit = unit;
    m_inElements = inElements;
    m_taken = taken;
    setItems(std::vector<CutItem>(m_items));
}

void CutPlot::setLimit(double millimetres) {
    m_limit = std::clamp(millimetres, m_low, m_high);
    m_from = std::min(m_from, m_limit);
    setAccessibleDescription(QString("%1 %2: %3 %4, %5 stay")
                                 .arg(QString::fromStdString(readable(m_limit)), m_unit)
                                 .arg(taken())
                                 .arg(m_taken)
                                 .arg(staying()));
    update();
}

void CutPlot::setFrom(double millimetres) {
    m_from = millimetres > m_low ? std::min(millimetres, m_limit) : 0.0;
    setLimit(m_limit);
}

void CutPlot::moveFromTo(double size) {
    const double before = m_from;
    setFrom(size);
    if (m_from != before) emit limitChanged(m_limit);
}

int CutPlot::taken() const {
    return static_cast<int>(
        std::count_if(m_items.begin(), m_items.end(), [this](const CutItem& i) { return !i.kept && within(i.size); }));
}
int CutPlot::staying() const {
    return static_cast<int>(m_items.size()) - taken();
}

double CutPlot::xOf(double size) const {
    return 2.0 + (width() - 4.0) * std::log(size / m_low) / std::log(m_high / m_low);
}
double CutPlot::sizeAt(double x) const {
    return m_low * std::exp(std::clamp((x - 2.0) / (width() - 4.0), 0.0, 1.0) * std::log(m_high / m_low));
}

double CutPlot::stuck(double size, bool fine) const {
    if (fine) return size;
    const double reach = 5.0;  // pixels
    const double x = xOf(size);
    const double elements = std::max(1.0, std::round(size / m_target));
    double best = size, bestOff = reach;
    const auto offer = [&](double candidate) {
        const double off = std::abs(xOf(candidate) - x);
        if (off < bestOff) bestOff = off, best = candidate;
    };
    if (m_inElements) {
        offer(elements * m_target);
        for (const double share : {0.5, 0.25}) offer(share * m_target);
    }
    for (std::size_t b = 0; b + 1 < m_bars.size(); ++b) offer(std::sqrt(m_bars[b].size * m_bars[b + 1].size));
    return best;
}

void CutPlot::moveTo(double size) {
    // Three figures are all that a hand on a blade can mean.
    if (size > 0.0) {
        const double unit = std::pow(10.0, std::floor(std::log10(size)) - 2.0);
        const double rounded = std::round(size / unit) * unit;
        const auto count = [this](double limit) {
            return std::count_if(m_items.begin(), m_items.end(),
                                 [limit](const CutItem& i) { return i.size <= limit * (1 + 1e-6); });
        };
        if (count(rounded) == count(size)) size = rounded;
    }
    const double before = m_limit;
    setLimit(size);
    if (m_limit != before) emit limitChanged(m_limit);
}

std::vector<double> CutPlot::ticks() const {
    std::vector<double> all;
    if (!m_inElements) {
        for (double tick = std::pow(10.0, std::ceil(std::log10(m_low))); tick <= m_high * 1.0001 && all.size() < 40;
             tick *= 10.0)
            all.push_back(tick);
        return all;
    }
    const double first = m_target * std::pow(2.0, std::ceil(std::log2(m_low / m_target)));
    for (double tick = first; tick <= m_high * 1.0001 && all.size() < 64; tick *= 2.0) all.push_back(tick);
    const std::size_t most = std::max<std::size_t>(2, static_cast<std::size_t>(width()) / 44);
    while (all.size() > most) {  // every second one, keeping that of one element
        std::vector<double> fewer;
        for (const double tick : all) {
            const long power = std::lround(std::log2(tick / m_target));
            if (power % 2 == 0) fewer.push_back(tick);
        }
        if (fewer.size() == all.size()) break;
        all = fewer;
        break;
    }
    return all;
}

void CutPlot::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Palette& p = colours();
    const double axis = height() - axisRoom, blade = xOf(m_limit);
    QColor wash = p.brass;
    wash.setAlphaF(0.07f);
    const double lower = m_from > 0.0 ? xOf(m_from) : 0.0;
    painter.fillRect(QRectF(lower, plotTop, blade - lower, axis - plotTop), wash);
    int most = 1;
    for (const Bar& bar : m_bars) most = std::max(most, bar.count);
    painter.setFont(Theme::font(11));
    const double room = axis - plotTop - 16.0;
    double lastText = -100.0;
    for (const Bar& bar : m_bars) {
        const double x = xOf(bar.size), h = std::max(4.0, room * bar.count / most);
        const QRectF shape(std::clamp(x - 3.5, 1.0, width() - 8.0), axis - h, 7, h);
        const bool goes = within(bar.size);
        if (goes) {
            painter.setPen(QPen(p.brass, 1));
            painter.setBrush(QBrush(p.brass, Qt::BDiagPattern));
        } else {
            painter.setPen(QPen(p.second, 1));
            painter.setBrush(Qt::NoBrush);
        }
        painter.drawRect(shape);
        if (bar.kept > 0)
            painter.fillRect(QRectF(shape.left(), axis - h * bar.kept / bar.count, 7, h * bar.kept / bar.count),
                             p.plum);
        const QString count = QString::number(bar.count);
        const double half = 0.5 * QFontMetricsF(painter.font()).horizontalAdvance(count);
        if (x - half > lastText + 4.0) {
            painter.setPen(goes ? p.brassText : p.second);
            painter.drawText(QRectF(x - 30, axis - h - 15, 60, 14), Qt::AlignCenter, count);
            lastText = x + half;
        }
    }
    painter.setPen(QPen(p.ink, 1));
    painter.drawLine(QPointF(0, axis), QPointF(width(), axis));
    painter.setPen(p.quiet);
    double lastLabel = -100.0;
    const auto all = ticks();
    for (std::size_t t = 0; t < all.size(); ++t) {
        const double x = xOf(all[t]);
        painter.drawLine(QPointF(x, axis), QPointF(x, axis + 3));
        if (x - lastLabel < 34.0) continue;
        lastLabel = x;
        const double elements = all[t] / m_target;
        const QString fraction = elements >= 1.0     ? QString::fromStdString(readable(elements))
                                 : elements == 0.5   ? QString("½")
                                 : elements == 0.25  ? QString("¼")
                                 : elements == 0.125 ? QString("⅛")
                                                     : QString("1/%1").arg(std::lround(1.0 / elements));
        const bool last = x + 50 > width();
        const QRectF upper(std::clamp(x - 30, 0.0, width() - 60.0), axis + 3, 60, 15);
        const auto align = x < 30 ? Qt::AlignLeft : last ? Qt::AlignRight : Qt::AlignHCenter;
        painter.drawText(upper, align | Qt::AlignVCenter,
                         QString::fromStdString(readable(all[t])) + (last ? " " + m_unit : QString()));
        if (!m_inElements) continue;
        painter.drawText(upper.translated(0, 14), align | Qt::AlignVCenter, fraction + (last ? " el." : ""));
    }
    if (m_from > 0.0) {  // the lower blade: the same line, with a small foot on the axis
        painter.setPen(QPen(p.brass, 2));
        painter.drawLine(QPointF(lower, plotTop), QPointF(lower, axis));
        QPainterPath foot;
        foot.moveTo(lower, axis - 7);
        foot.lineTo(lower + 6, axis);
        foot.lineTo(lower - 6, axis);
        foot.closeSubpath();
        painter.fillPath(foot, p.brassText);
    }
    // Blade: line and a tab that points down.
    painter.setPen(QPen(p.brass, 2));
    painter.drawLine(QPointF(blade, tabTop + tabHeight), QPointF(blade, axis));
    painter.setFont(Theme::font(12, 600));
    const QString text = QString::fromStdString(readable(m_limit)) + " " + m_unit;
    const double half = 0.5 * QFontMetricsF(painter.font()).horizontalAdvance(text) + 7.0;
    const double centre = std::clamp(blade, half, width() - half);
    QPainterPath tab;
    tab.moveTo(centre - half, tabTop);
    tab.lineTo(centre + half, tabTop);
    tab.lineTo(centre + half, tabTop + tabHeight - 4);
    tab.lineTo(std::min(blade + 5, centre + half), tabTop + tabHeight - 4);
    tab.lineTo(blade, tabTop + tabHeight + 1);
    tab.lineTo(std::max(blade - 5, centre - half), tabTop + tabHeight - 4);
    tab.lineTo(centre - half, tabTop + tabHeight - 4);
    tab.closeSubpath();
    painter.fillPath(tab, p.brassText);
    painter.setPen(p.brassOnTab);
    painter.drawText(QRectF(centre - half, tabTop, 2 * half, tabHeight - 4), Qt::AlignCenter, text);
    painter.setPen(p.brassText);
    const QString goes = QString("%1 %2").arg(taken()).arg(m_taken), stays = QString("%1 stay").arg(staying());
    const double goesWidth = QFontMetricsF(painter.font()).horizontalAdvance(goes);
    if (centre - half - 8 - goesWidth >= 0)
        painter.drawText(QRectF(centre - half - 8 - goesWidth, tabTop, goesWidth + 2, tabHeight - 4), Qt::AlignVCenter,
                         goes);
    painter.setFont(Theme::font(12));
    painter.setPen(p.second);
    if (centre + half + 8 + QFontMetricsF(painter.font()).horizontalAdvance(stays) <= width())
        painter.drawText(QRectF(centre + half + 8, tabTop, 90, tabHeight - 4), Qt::AlignVCenter, stays);
    if (hasFocus()) {
        painter.setPen(QPen(p.cobalt, 2));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(QRectF(1, 1, width() - 2, height() - 2));
    }
}

bool CutPlot::event(QEvent* event) {
    // Digits start typing here; elsewhere they are keys of the window.
    if (event->type() == QEvent::ShortcutOverride) {
        const auto* key = static_cast<QKeyEvent*>(event);
        if (key->modifiers() == Qt::NoModifier && !key->text().isEmpty() && key->text()[0].isDigit()) {
            event->accept();
            return true;
        }
    }
    return QWidget::event(event);
}

void CutPlot::mousePressEvent(QMouseEvent* event) {
    if (event->button() != Qt::LeftButton) return;
    if (event->modifiers() & Qt::ControlModifier)
        return moveFromTo(stuck(sizeAt(event->position().x()), event->modifiers() & Qt::ShiftModifier));
    m_before = m_limit;
    moveTo(stuck(sizeAt(event->position().x()), event->modifiers() & Qt::ShiftModifier));
}
void CutPlot::mouseMoveEvent(QMouseEvent* event) {
    if ((event->buttons() & Qt::LeftButton) && (event->modifiers() & Qt::ControlModifier))
        return moveFromTo(stuck(sizeAt(event->position().x()), event->modifiers() & Qt::ShiftModifier));
    if (event->buttons() & Qt::LeftButton)
        moveTo(stuck(sizeAt(event->position().x()), event->modifiers() & Qt::ShiftModifier));
}
void CutPlot::mouseDoubleClickEvent(QMouseEvent*) {
    emit typingWanted({});
}

void CutPlot::keyPressEvent(QKeyEvent* event) {
    const auto nextBar = [this](int way) {
        double best = way > 0 ? m_high : m_low;
        for (const Bar& bar : m_bars) {
            const double at = bar.size;
            if (way > 0 && at > m_limit * 1.001) best = std::min(best, at);
            if (way < 0 && at < m_limit * 0.999) best = std::max(best, at);
        }
        return best;
    };
    const auto nextTick = [this](int way) {
        const auto all = ticks();
        double best = way > 0 ? m_high : m_low;
        for (const double tick : all) {
            if (way > 0 && tick > m_limit * 1.001) best = std::min(best, tick);
            if (way < 0 && tick < m_limit * 0.999) best = std::max(best, tick);
        }
        return best;
    };
    switch (event->key()) {
        case Qt::Key_Left:
        case Qt::Key_Down:
            m_before = m_limit;
            moveTo(nextBar(-1));
            return;
        case Qt::Key_Right:
        case Qt::Key_Up:
            m_before = m_limit;
            moveTo(nextBar(1));
            return;
        case Qt::Key_PageUp:
            moveTo(nextTick(1));
            return;
        case Qt::Key_PageDown:
            moveTo(nextTick(-1));
            return;
        case Qt::Key_Home:
            moveTo(m_low);
            return;
        case Qt::Key_End:
            moveTo(m_high);
            return;
        case Qt::Key_Escape:
            moveTo(m_before);
            return;
        default:
            break;
    }
    if (!event->text().isEmpty() && event->text()[0].isDigit()) {
        emit typingWanted(event->text());
        return;
    }
    QWidget::keyPressEvent(event);
}

CutBar::CutBar(const QString& before, const QString&, QWidget* parent) : QWidget(parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(6);
    auto* row = new QHBoxLayout;
    row->setSpacing(4);
    m_before = new QLabel(before, this);
    m_number = new QLineEdit(this);
    m_number->setFixedWidth(58);
    m_number->setAlignment(Qt::AlignCenter);
    m_number->setObjectName("limit");
    m_number->setAccessibleName("Size limit in millimetres");
    m_number->setStyleSheet("QLineEdit { font-weight: 600; }");
    m_after = new QLabel(this);
    row->addWidget(m_before);
    row->addWidget(m_number);
    row->addWidget(m_after, 1);
    column->addLayout(row);
    m_plot = new CutPlot(this);
    m_plot->setObjectName("cutPlot");
    column->addWidget(m_plot, 1);
    connect(m_plot, &CutPlot::limitChanged, this, [this](double limit) {
        showNumber();
        emit limitChanged(limit);
    });
    connect(m_plot, &CutPlot::typingWanted, this, [this](const QString& text) {
        m_number->setFocus();
        if (text.isEmpty())
            m_number->selectAll();
        else
            m_number->setText(text);
    });
    connect(m_number, &QLineEdit::editingFinished, this, [this] {
        // "2 to 8", "2–8": a range.
        const QStringList ends = m_number->text().split(QRegularExpression("\\s+to\\s+|\\s*[–…]\\s*"));
        if (ends.size() == 2) {
            const auto from = parseLength(ends[0].toStdString(), Unit::Millimetre, m_target),
                       to = parseLength(ends[1].toStdString(), Unit::Millimetre, m_target);
            if (from && to && *from > 0.0 && *to >= *from) {
                m_plot->setLimit(*to);
                m_plot->setFrom(*from);
                emit limitChanged(limit());
            }
            showNumber();
            return;
        }
        const auto length = parseLength(m_number->text().toStdString(), Unit::Millimetre, m_target);
        if (length && *length > 0.0 && from() > 0.0) {  // one number is a limit alone
            m_plot->setFrom(0.0);
            m_plot->setLimit(*length);
            showNumber();
            emit limitChanged(limit());
            return;
        }
        if (!length || *length <= 0.0) {
            showNumber();
            return;
        }
        if (std::abs(*length - limit()) > 1e-4 * limit()) {  // not when the shown, rounded number is merely left
            m_plot->setLimit(*length);
            showNumber();
            emit limitChanged(limit());
        }
    });
    showNumber();
}

void CutBar::setWords(const QString& before) {
    m_words = before;
    showNumber();
}

void CutBar::setMeasure(const QString& unit, bool inElements, const QString& taken) {
    m_inElements = inElements;
    m_plot->setMeasure(unit, inElements, taken);
    m_number->setAccessibleName("Limit in " + unit);
    showNumber();
}

void CutBar::setTargetSize(double millimetres) {
    m_target = millimetres;
    m_plot->setTargetSize(millimetres);
    showNumber();
}

void CutBar::setLimit(double millimetres) {
    m_plot->setLimit(millimetres);
    showNumber();
}

void CutBar::setFrom(double millimetres) {
    m_plot->setFrom(millimetres);
    showNumber();
}

void CutBar::showNumber() {
    const bool range = from() > 0.0;
    if (!m_words.isEmpty()) m_before->setText(range ? m_words : m_words + " up to");
    m_number->setFixedWidth(range ? 104 : 58);
    m_number->setText((range ? QString::fromStdString(readable(from())) + " to " : QString()) +
                      QString::fromStdString(readable(limit())));
    if (range) {
        m_after->setText(m_plot->unit());
        return;
    }
    if (!m_inElements) {
        m_after->setText(m_plot->unit());
        return;
    }
    m_after->setText(QString("mm: %1 elements")
                         .arg(QString::fromStdString(readable(std::round(100.0 * limit() / m_target) / 100.0))));
}

}  // namespace rasoir::app
