#include "bench/bench_bar.h"

#include <QHBoxLayout>
#include <QPainter>

#include "theme.h"

namespace rasoir::app {

BenchButton::BenchButton(const QString& name, QWidget* parent) : QAbstractButton(parent) {
    setText(name);
    setCheckable(true);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(name + " bench");
    setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
}

void BenchButton::setState(const QString& state) {
    m_state = state;
    setAccessibleDescription(state);
    updateGeometry();
    update();
}

QSize BenchButton::sizeHint() const {
    const int width = std::max(QFontMetrics(Theme::font(14, 600)).horizontalAdvance(text()),
                               QFontMetrics(Theme::font(11.5)).horizontalAdvance("not yet built"));
    return {width + 24, 50};
}

void BenchButton::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    const Palette& p = colours();
    if (isChecked())
        painter.fillRect(rect(), p.ink);
    else if (underMouse())
        painter.fillRect(rect(), p.cobaltTint);
    painter.setPen(isChecked() ? p.panel : p.ink);
    painter.setFont(Theme::font(14, 600));
    painter.drawText(QRect(12, 7, width() - 14, 20), Qt::AlignLeft | Qt::AlignVCenter, text());
    painter.setPen(isChecked() ? p.panel : p.second);
    painter.setFont(Theme::font(11.5));
    painter.drawText(QRect(12, 27, width() - 14, 16), Qt::AlignLeft | Qt::AlignVCenter, m_state);
    if (!isChecked()) {
        painter.setPen(p.rule);
        painter.drawLine(width() - 1, 12, width() - 1, height() - 12);
    }
    if (hasFocus()) {
        painter.setPen(QPen(p.cobalt, 2));
        painter.drawRect(rect().adjusted(1, 1, -2, -2));
    }
}

class BenchBar::FileLabel : public QWidget {
public:
    using QWidget::QWidget;
    QString name, state;

protected:
    void paintEvent(QPaintEvent*) override {
        QPainter painter(this);
        painter.setFont(Theme::font(14, 600));
        painter.setPen(colours().ink);
        const int room = width() - 20;
        painter.drawText(QRect(12, 7, room, 20), Qt::AlignLeft | Qt::AlignVCenter,
                         QFontMetrics(painter.font()).elidedText(name, Qt::ElideMiddle, room));
        painter.setFont(Theme::font(11.5));
        painter.setPen(colours().second);
        painter.drawText(QRect(12, 27, room, 16), Qt::AlignLeft | Qt::AlignVCenter,
                         QFontMetrics(painter.font()).elidedText(state, Qt::ElideRight, room));
    }
};

BenchBar::BenchBar(QWidget* parent) : QWidget(parent), m_group(new QButtonGroup(this)) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(0);
    m_file = new FileLabel(this);
    m_file->setMinimumWidth(60);
    m_file->setAccessibleName("File");
    row->addWidget(m_file, 1);
    setFixedHeight(50);
    connect(m_group, &QButtonGroup::idClicked, this, &BenchBar::benchChanged);
}

void BenchBar::addBench(const QString& name, const QString& does) {
    const int number = static_cast<int>(m_group->buttons().size());
    auto* button = new BenchButton(name, this);
    button->setObjectName(QString("bench%1").arg(number));
    button->setToolTip(does);
    m_group->addButton(button, number);
    static_cast<QHBoxLayout*>(layout())->insertWidget(number, button);
}

void BenchBar::setCurrent(int bench) {
    m_group->button(bench)->setChecked(true);
    emit benchChanged(bench);
}

void BenchBar::setState(int bench, const QString& state) {
    static_cast<BenchButton*>(m_group->button(bench))->setState(state);
}

void BenchBar::setFile(const QString& name, const QString& state) {
    m_file->name = name;
    m_file->state = state;
    m_file->setToolTip(name);
    m_file->setAccessibleDescription(name + ", " + state);
    m_file->update();
}

}  // namespace rasoir::app
