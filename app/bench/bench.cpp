#include "bench/bench.h"

#include <QStyleOptionButton>
#include <QStylePainter>

#include "bench/cut_bar.h"
#include "theme.h"

namespace rasoir::app {

Bench::Bench(QString name, QString question, QString does, Session& session, QWidget* parent)
    : QWidget(parent),
      m_session(session),
      m_name(std::move(name)),
      m_question(std::move(question)),
      m_does(std::move(does)) {}

QString Bench::stateOr(bool known, const QString& words) const {
    if (m_session.isEmpty()) return "no file";
    return known ? words : "surveying…";
}

bool Bench::takeLimit(double millimetres) {
    if (cutBar() == nullptr) return false;
    cutBar()->setLimit(millimetres);
    emit cutBar()->limitChanged(cutBar()->limit());
    return true;
}

void wrapRows(QTreeWidget* list, int column) {
    constexpr int margins = 34;    // the icon and the margins of a row
    constexpr int scrollBar = 12;  // which may come once rows are higher
    const std::function<void(QTreeWidgetItem*, int)> wrap = [&](QTreeWidgetItem* item, int level) {
        const bool spanned = item->isFirstColumnSpanned();
        const int all = spanned ? list->viewport()->width() - scrollBar : list->columnWidth(column);
        const int box = item->flags().testFlag(Qt::ItemIsUserCheckable) ? 10 : 0;
        const int width = all - margins - box - level * list->indentation();
        if (width < 60) return;
        const QFontMetrics metrics(item->font(column).resolve(list->font()));
        const int height =
            metrics.boundingRect(QRect(0, 0, width, 10000), Qt::TextWordWrap, item->text(column)).height();
        item->setSizeHint(column, QSize(width, std::max(26, height + 10)));
        for (int c = 0; c < item->childCount(); ++c) wrap(item->child(c), level + 1);
    };
    for (int r = 0; r < list->topLevelItemCount(); ++r) wrap(list->topLevelItem(r), 0);
}

KindButton::KindButton(QWidget* parent) : QPushButton(parent) {
    setFlat(true);
    setFixedHeight(27);
}

void KindButton::setKind(const QString& name, std::optional<int> count, bool current) {
    m_current = current;
    m_name = name;
    m_count = count ? QString("  %1").arg(*count) : QString();
    setText(m_name + m_count);
    const Palette& p = colours();
    setStyleSheet(QString("QPushButton { text-align: left; padding: 0 2px; border: 0; border-radius: 0; "
                          "border-bottom: %1px solid %2; font-weight: %3; }"
                          "QPushButton:focus { border: 2px solid %4; }")
                      .arg(current ? 2 : 1)
                      .arg((current ? p.ink : p.rule).name())
                      .arg(current ? 600 : 400)
                      .arg(p.cobalt.name()));
}

void KindButton::paintEvent(QPaintEvent*) {
    QStylePainter painter(this);
    QStyleOptionButton option;
    initStyleOption(&option);
    constexpr int margins = 6;  // the style's own, and between icon and name
    QFont font = this->font();
    font.setWeight(m_current ? QFont::DemiBold : QFont::Normal);  // as the style sheet has it
    const QFontMetrics metrics(font);
    const int room = width() - (icon().isNull() ? 0 : option.iconSize.width()) - margins;
    if (metrics.horizontalAdvance(option.text) > room)
        option.text = metrics.elidedText(m_name, Qt::ElideRight, room - metrics.horizontalAdvance(m_count)) + m_count;
    painter.drawControl(QStyle::CE_PushButton, option);
}

KindGrid::KindGrid(std::vector<Kind> kinds, QWidget* parent)
    : QWidget(parent), m_kinds(std::move(kinds)), m_counts(m_kinds.size()) {
    auto* grid = new QGridLayout(this);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(8);
    grid->setVerticalSpacing(0);
    for (std::size_t k = 0; k < m_kinds.size(); ++k) {
        auto* button = new KindButton(this);
        button->setAccessibleName(m_kinds[k].name);
        grid->addWidget(button, static_cast<int>(k) / 2, static_cast<int>(k) % 2);
        connect(button, &QPushButton::clicked, this, [this, k] {
            setCurrent(static_cast<int>(k));
            emit chosen(static_cast<int>(k));
        });
        m_buttons.push_back(button);
    }
    connect(&Theme::instance(), &Theme::changed, this, &KindGrid::style);
    style();
}

void KindGrid::setCurrent(int kind) {
    m_current = kind;
    style();
}

void KindGrid::setCount(int kind, std::optional<int> count) {
    m_counts[static_cast<std::size_t>(kind)] = count;
    style();
}

void KindGrid::style() {
    const Palette& p = colours();
    for (std::size_t k = 0; k < m_kinds.size(); ++k) {
        const bool current = static_cast<int>(k) == m_current;
        m_buttons[k]->setIcon(glyphIcon(m_kinds[k].glyph, p.ink));
        m_buttons[k]->setKind(m_kinds[k].name, m_counts[k], current);
    }
}

LaidOutBench::LaidOutBench(QString name, QString question, QString does, Session& session, QWidget* parent)
    : Bench(std::move(name), std::move(question), std::move(does), session, parent) {}

QVBoxLayout* LaidOutBench::lay(std::vector<KindGrid::Kind> kinds) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(16, 14, 16, 16);
    column->setSpacing(4);
    auto* asked = new QLabel(question(), this);
    asked->setStyleSheet("font-size: 16px; font-weight: 600;");
    asked->setWordWrap(true);
    column->addWidget(asked);
    m_kinds = new KindGrid(std::move(kinds), this);
    column->addWidget(m_kinds);
    // Below the kinds, so that they stay where they are whatever it says.
    m_answer = new QLabel(this);
    m_answer->setObjectName("answer");
    m_answer->setWordWrap(true);
    column->addSpacing(2);
    column->addWidget(m_answer);
    column->addSpacing(6);
    auto* own = new QVBoxLayout;
    own->setSpacing(4);
    column->addLayout(own, 1);
    m_message = new QLabel(this);
    m_message->setObjectName("benchMessage");
    m_message->setWordWrap(true);
    m_message->setTextFormat(Qt::RichText);
    m_message->setTextInteractionFlags(Qt::TextBrowserInteraction);
    m_message->setAccessibleName("Result");
    m_message->hide();
    column->addWidget(m_message);
    m_foot = new ActionFoot(m_session, this);
    column->addWidget(m_foot);
    connect(m_foot->button(), &QPushButton::clicked, this, [this] {
        showMessage({});
        apply();
    });
    connect(m_foot, &ActionFoot::idleAgain, this, [this] { refresh(); });
    connect(m_kinds, &KindGrid::chosen, this, [this] {
        showMessage({});
        refresh();
        emit previewChanged();
    });
    connect(m_message, &QLabel::linkActivated, this, [this](const QString& link) {
        const QStringList xyz = link.split(',');
        if (xyz.size() == 4)
            emit closerWanted(gp_Pnt(xyz[0].toDouble(), xyz[1].toDouble(), xyz[2].toDouble()), xyz[3].toDouble());
    });
    connect(&m_session, &Session::opened, this, [this] { showMessage({}); });
    connect(&m_session, &Session::changed, this, [this] {
        if (isVisible()) showMessage(leftByLastStep(m_session, "left"));
        refresh();
    });
    connect(&m_session, &Session::failed, this, [this](const Problem& problem) { showMessage(troubleText(problem)); });
    connect(&m_session.places(), &PlaceView::selectionChanged, this, [this] { refresh(); });
    connect(&Theme::instance(), &Theme::changed, this, [this] { refresh(); });
    return own;
}

void LaidOutBench::apply() {
    if (const auto wanted = step()) m_session.apply(wanted->operation, wanted->parameters);
}

void LaidOutBench::showMessage(const QString& html) {
    m_message->setText(html);
    m_message->setVisible(!html.isEmpty());
}

void LaidOutBench::setAnswer(const QString& text) {
    m_answer->setText(text);
    m_answer->setVisible(!text.isEmpty());
}

}  // namespace rasoir::app
