#include "ledger/ledger_strip.h"

#include <QContextMenuEvent>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QMenu>
#include <QPainter>
#include <QPainterPath>
#include <QScrollBar>
#include <QTimer>

#include "glyphs.h"
#include "operations.h"
#include "theme.h"

namespace rasoir::app {
namespace {

/// A switch, 26 × 14.
class Switch : public QCheckBox {
public:
    using QCheckBox::QCheckBox;
    [[nodiscard]] QSize sizeHint() const override { return {30, 24}; }

protected:
    bool hitButton(const QPoint& at) const override { return rect().contains(at); }
    void paintEvent(QPaintEvent*) override {
        QPainter painter(this);
        painter.setRenderHint(QPainter::Antialiasing);
        const Palette& p = colours();
        const QRectF shape(2, (height() - 14) / 2.0, 26, 14);
        painter.setPen(QPen(isChecked() ? p.ink : p.outline, 1.2));
        painter.setBrush(isChecked() ? QBrush(p.ink) : QBrush(p.panel));
        painter.drawRoundedRect(shape, 7, 7);
        painter.setPen(Qt::NoPen);
        painter.setBrush(isChecked() ? p.panel : p.outline);
        painter.drawEllipse(QPointF(isChecked() ? shape.right() - 7 : shape.left() + 7, shape.center().y()), 4.2, 4.2);
        if (hasFocus()) {
            painter.setBrush(Qt::NoBrush);
            painter.setPen(QPen(p.cobalt, 2));
            painter.drawRect(rect().adjusted(1, 1, -1, -1));
        }
    }
};

/// What a step cost a group, or what a rule's answer gained, a sentence each.
QStringList groupTexts(const Step& step) {
    QStringList lines;
    if (step.effect.is_null() || !step.effect.contains("groups")) return lines;
    for (const Json& one : step.effect["groups"]) {
        const auto amount = [&](const char* count, const char* measure) {
            const double size = one.value(measure, 0.0);
            return QString::fromStdString(
                std::to_string(one.value(count, 0)) +
                (size > 0.0 ? " (" + readable(size) + " " + one.value("unit", "") + ")" : std::string()));
        };
        QString line = QString("“%1”: %2 before, now %3")
                           .arg(QString::fromStdString(one.value("group", "")), amount("before", "measureBefore"),
                                amount("after", "measureAfter"));
        if (const int fresh = one.value("fresh", 0); fresh > 0) line += QString(", %1 new by its rule").arg(fresh);
        if (const int fallen = one.value("fallen", 0); fallen > 0)
            line += QString(", %1 no longer by its rule").arg(fallen);
        lines << line;
    }
    return lines;
}

QString effectText(const Step& step) {
    if (step.problem) return QString::fromStdString(step.problem->what);
    if (!step.on) return "switched off";
    if (step.state == StepState::Waiting) return "not re-run yet";
    if (step.effect.is_null()) return {};
    try {
        const double before = step.effect.at("mass_kg").at("before"), after = step.effect.at("mass_kg").at("after");
        const double elementsBefore = step.effect.at("elements").at("before"),
                     elementsAfter = step.effect.at("elements").at("after");
        const double change = before > 0.0 ? 100.0 * (after - before) / before : 0.0;
        std::size_t left = 0;
        for (const Item& item : step.items) left += !item.done;
        const double elements = elementsAfter - elementsBefore;
        // Where there was next to nothing before, as with loose faces, a share of it says nothing.
        const QString mass = before > 0.01 * after ? QString::fromStdString(readableChange(change, 2)) + " %"
                                                   : "now " + QString::fromStdString(readable(after)) + " kg";
        QString groups;
        if (const auto lines = groupTexts(step); lines.size() == 1)
            groups = "\n" + lines.front().section(" (", 0, 0).section(" before", 0, 0) + " → " +
                     QString::number(step.effect["groups"][0].value("after", 0));
        else if (lines.size() > 1)
            groups = QString("\n%1 groups changed").arg(lines.size());
        return QString("%1mass %2\n%3 elements%4")
            .arg(left > 0 ? QString("%1 left, ").arg(left) : QString(), mass,
                 QString::fromStdString(readableChange(elements, 0)), groups);
    } catch (const std::exception&) {
        return {};
    }
}

/// The ink pentagon that hangs at the state being shown.
class Marker : public QWidget {
public:
    explicit Marker(QWidget* parent) : QWidget(parent) {
        setFixedWidth(18);
        setAccessibleName("Ledger marker: the state shown");
        setToolTip("The state shown on the stage. Drag it, or click a card, to look at an earlier one.");
        setCursor(Qt::SizeHorCursor);
    }
    std::function<void(int)> dropped;  ///< where it was let go, in the row's pixels

protected:
    void mousePressEvent(QMouseEvent* event) override {
        m_grip = event->pos().x();
        raise();
    }
    void mouseMoveEvent(QMouseEvent* event) override {
        if (event->buttons() & Qt::LeftButton)
            move(std::clamp(mapToParent(event->pos()).x() - m_grip, 0, parentWidget()->width() - width()), y());
    }
    void mouseReleaseEvent(QMouseEvent*) override {
        if (dropped) dropped(geometry().center().x());
    }
    void paintEvent(QPaintEvent*) override {
        QPainter painter(this);
        painter.setRenderHint(QPainter::Antialiasing);
        const QColor ink = colours().ink;
        painter.fillRect(QRectF(8, 10, 1.6, height() - 14), ink);
        QPainterPath shape;
        shape.addPolygon(QPolygonF({{2, 0}, {16, 0}, {16, 9}, {9, 16}, {2, 9}}));
        painter.fillPath(shape, ink);
    }

private:
    int m_grip = 0;
};

}  // namespace

StepCard::StepCard(int number, const QString& title, const QString& effect, StepState state, bool on, bool switchable,
                   bool quiet, QWidget* parent)
    : QWidget(parent), m_number(number), m_title(title), m_effect(effect), m_state(state), m_quiet(quiet) {
    setFixedWidth(150);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(QString("Step %1: %2").arg(number).arg(title));
    setAccessibleDescription(effect);
    setToolTip(title + "\n" + effect);
    if (switchable) {
        m_switch = new Switch(this);
        m_switch->setChecked(on);
        m_switch->setGeometry(114, 0, 30, 24);
        m_switch->setAccessibleName(QString("Step %1 on").arg(number));
        connect(m_switch, &QCheckBox::clicked, this, &StepCard::switched);
    }
}

void StepCard::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Palette& p = colours();
    const bool failed = m_state == StepState::Failed, off = m_state == StepState::Off,
               waiting = m_state == StepState::Waiting;
    painter.setPen(QPen(m_quiet ? p.rule : p.ink, 1, m_quiet ? Qt::DashLine : Qt::SolidLine));
    painter.drawLine(22, 12, m_switch != nullptr ? 112 : width(), 12);
    const QRectF dot(2, 3, 18, 18);
    painter.setPen(QPen(failed           ? p.vermilion
                        : m_quiet || off ? p.outline
                                         : p.ink,
                        1.4, off ? Qt::DashLine : Qt::SolidLine));
    painter.setBrush(failed || off || waiting ? QBrush(p.panel) : QBrush(m_quiet ? p.outline : p.ink));
    painter.drawEllipse(dot);
    if (waiting) {
        painter.setBrush(p.outline);
        painter.drawPie(dot, 90 * 16, 180 * 16);
    }
    painter.setFont(Theme::font(11, 600));
    painter.setPen(failed ? p.vermilionText : off || waiting ? p.second : p.panel);
    painter.drawText(dot, Qt::AlignCenter, QString::number(m_number));
    QFont titleFont = Theme::font(12.5, 600);
    titleFont.setStrikeOut(off);
    painter.setFont(titleFont);
    painter.setPen(failed ? p.vermilionText : m_quiet || off || waiting ? p.quiet : p.ink);
    QRect bounds;
    painter.drawText(QRect(2, 27, width() - 12, 34), Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, m_title, &bounds);
    painter.setFont(Theme::font(11.5));
    painter.setPen(failed ? p.vermilionText : p.second);
    painter.drawText(QRect(2, 62, width() - 10, 36), Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, m_effect);
    if (hasFocus()) {
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(p.cobalt, 2));
        painter.drawRect(rect().adjusted(0, 0, -2, -2));
    }
}

void StepCard::mouseReleaseEvent(QMouseEvent* event) {
    if (event->button() == Qt::LeftButton) emit chosen();
}
void StepCard::contextMenuEvent(QContextMenuEvent* event) {
    emit menuWanted(event->globalPos());
}
void StepCard::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter)
        emit chosen();
    else if (event->key() == Qt::Key_Space && m_switch != nullptr)
        m_switch->click();
    else
        QWidget::keyPressEvent(event);
}

LedgerStrip::LedgerStrip(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
    setFixedHeight(112);
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(16, 6, 8, 0);
    row->setSpacing(8);
    auto* head = new QWidget(this);
    head->setFixedWidth(84);
    auto* column = new QVBoxLayout(head);
    column->setContentsMargins(0, 0, 0, 6);
    column->setSpacing(2);
    auto* title = new QLabel("Ledger", head);
    title->setStyleSheet("font-size: 14px; font-weight: 600;");
    m_state = new QLabel(head);
    m_state->setWordWrap(true);
    m_state->setObjectName("ledgerState");
    m_replay = new QPushButton("Replay", head);
    m_replay->hide();
    column->addWidget(title);
    column->addWidget(m_state);
    column->addWidget(m_replay);
    column->addStretch(1);
    m_scroll = new QScrollArea(this);
    m_scroll->setFrameShape(QFrame::NoFrame);
    m_scroll->setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    m_scroll->setWidgetResizable(true);
    m_scroll->setFocusPolicy(Qt::NoFocus);
    row->addWidget(head);
    row->addWidget(m_scroll, 1);
    connect(m_replay, &QPushButton::clicked, &m_session, &Session::replayWaiting);
    connect(&session, &Session::changed, this, &LedgerStrip::rebuild);
    connect(&session, &Session::opened, this, &LedgerStrip::rebuild);
    connect(&Theme::instance(), &Theme::changed, this, &LedgerStrip::rebuild);
    rebuild();
}

void LedgerStrip::rebuild() {
    m_cards.clear();
    // Often called from a card's or the marker's own event, which has to end first.
    if (QWidget* old = m_scroll->takeWidget()) old->deleteLater();
    m_row = new QWidget;
    auto* row = new QHBoxLayout(m_row);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(0);
    const auto& steps = m_session.work().ledger().steps;
    if (m_session.isEmpty()) {
        m_state->clear();
        m_replay->hide();
        auto* hint = new QLabel("Every change will be a card here.", m_row);
        row->addWidget(hint);
        row->addStretch(1);
        m_scroll->setWidget(m_row);
        return;
    }
    const auto addMarker = [&] {
        auto* marker = new Marker(m_row);
        marker->setObjectName("ledgerMarker");
        marker->dropped = [this](int x) {
            // It hangs behind the last card whose middle lies left of it; the first card is the state as received.
            std::size_t shown = 0;
            for (std::size_t c = 1; c < m_cards.size(); ++c)
                if (m_cards[c]->geometry().center().x() < x) shown = c;
            if (shown == m_session.marker())
                rebuild();  // back into its place
            else
                m_session.moveMarker(shown);
        };
        row->addWidget(marker);
    };
    const auto addCard = [&](StepCard* card, std::size_t shows) {
        m_cards.push_back(card);
        row->addWidget(card);
        connect(card, &StepCard::chosen, this, [this, shows] { m_session.moveMarker(shows); });
    };
    const Model& received = m_session.work().received();
    int faces = 0;
    for (const auto& part : received.parts) faces += part->incidence().faceCount();
    addCard(new StepCard(1, "Read " + QString::fromStdString(received.name),
                         QString("%1, %2\n%3")
                             .arg(QString::fromStdString(counted(received.parts.size(), "part")),
                                  QString::fromStdString(counted(received.occurrences.size(), "place")),
                                  QString::fromStdString(counted(static_cast<std::size_t>(faces), "different face"))),
                         StepState::Done, true, false, false, m_row),
            0);
    bool waiting = false;
    std::size_t failedCount = 0;
    for (std::size_t s = 0; s < steps.size(); ++s) {
        if (m_session.marker() == s) addMarker();
        const Step& step = steps[s];
        const Operation* operation = findOperation(step.operation);
        const QString title = !step.summary.empty()  ? QString::fromStdString(step.summary)
                              : operation != nullptr ? QString::fromStdString(operation->title)
                                                     : QString::fromStdString(step.operation);
        auto* card = new StepCard(static_cast<int>(s) + 2, title, effectText(step), step.state, step.on, true,
                                  s >= m_session.marker(), m_row);
        if (const auto lines = groupTexts(step); !lines.isEmpty())
            card->setToolTip(card->toolTip() + "\n" + lines.join("\n"));
        addCard(card, s + 1);
        connect(card, &StepCard::switched, this, [this, s](bool on) { m_session.switchStep(s, on); });
        connect(card, &StepCard::menuWanted, this, [this, s](const QPoint& at) {
            QMenu menu(this);
            menu.addAction("Edit…", this, [this, s] { emit editWanted(s); });
            menu.addAction("Delete", this, [this, s] { m_session.removeStep(s); });
            addLost(menu, s);
            menu.exec(at);
        });
        waiting = waiting || step.state == StepState::Waiting;
        failedCount += step.state == StepState::Failed;
    }
    if (m_session.marker() >= steps.size()) addMarker();
    row->addStretch(1);
    m_scroll->setWidget(m_row);
    QString state =
        steps.empty() ? "no steps yet" : QString("%1 step%2").arg(steps.size()).arg(steps.size() == 1 ? "" : "s");
    if (failedCount > 0) state += QString("\n%1 failed").arg(failedCount);
    if (const auto variants = m_session.work().variantNames(); variants.size() > 1)
        state = QString::fromStdString(variants[m_session.work().variant()]) + "\n" + state;
    m_state->setText(state);
    m_replay->setVisible(waiting);
    QTimer::singleShot(
        0, this, [this] { m_scroll->horizontalScrollBar()->setValue(m_scroll->horizontalScrollBar()->maximum()); });
}

/// Where groups lost something by a step: flown to from its card.
void LedgerStrip::addLost(QMenu& menu, std::size_t step) {
    const auto& steps = m_session.work().ledger().steps;
    if (step >= steps.size() || steps[step].effect.is_null() || !steps[step].effect.contains("groups")) return;
    menu.addSeparator();
    for (const Json& one : steps[step].effect["groups"]) {
        if (!one.contains("lostAt")) continue;
        const gp_XYZ at = tripleFromJson(one["lostAt"][0]);
        menu.addAction(QString("Look where “%1” lost something").arg(QString::fromStdString(one.value("group", ""))),
                       this, [this, at] { emit closerWanted(gp_Pnt(at), 8.0 * m_session.model().targetSize); });
    }
}

}  // namespace rasoir::app
