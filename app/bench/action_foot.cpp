#include "bench/action_foot.h"

#include <QHBoxLayout>
#include <QTimer>
#include <QVBoxLayout>

#include "theme.h"

namespace rasoir::app {

ActionFoot::ActionFoot(Session& session, QWidget* parent) : QWidget(parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    m_result = new QCheckBox("Show what would be left (R)", this);
    m_result->setObjectName("showResult");
    column->addWidget(m_result);
    m_stack = new QStackedWidget(this);
    m_stack->setFixedHeight(40);
    column->addWidget(m_stack);
    m_button = new QPushButton(this);
    m_button->setObjectName("primary");
    auto* busy = new QWidget(this);
    auto* row = new QHBoxLayout(busy);
    row->setContentsMargins(0, 0, 0, 0);
    m_progress = new QProgressBar(busy);
    m_progress->setRange(0, 1000);
    m_progress->setMinimumHeight(40);
    m_progress->setAccessibleName("Progress");
    auto* cancel = new QPushButton("Cancel", busy);
    cancel->setMinimumHeight(40);
    row->addWidget(m_progress, 1);
    row->addWidget(cancel);
    m_stack->addWidget(m_button);
    m_stack->addWidget(busy);
    connect(cancel, &QPushButton::clicked, &session, &Session::cancel);
    auto* late = new QTimer(this);  // what is done at once shows no bar
    late->setSingleShot(true);
    late->setInterval(300);
    connect(late, &QTimer::timeout, this, [this] { m_stack->setCurrentIndex(1); });
    connect(&session, &Session::started, this, [this, late](const QString& doing) {
        m_progress->setFormat(doing);
        m_progress->setValue(0);
        m_button->setEnabled(false);
        late->start();
    });
    connect(&session, &Session::progressed, this, [this](double fraction, const QString& doing) {
        m_progress->setValue(static_cast<int>(1000 * fraction));
        m_progress->setFormat(doing);
    });
    connect(&session, &Session::finished, this, [this, late] {
        late->stop();
        m_stack->setCurrentIndex(0);
        emit idleAgain();
    });
}

namespace {

/// A link that leads to a place of a part, where it stands first.
QString showItLink(const Session& session, const Place& place, double extent) {
    if (!place.point) return {};
    gp_Pnt at = *place.point;
    for (const Occurrence& occurrence : session.model().occurrences)
        if (session.model().parts[occurrence.part]->name == place.part) {
            at.Transform(occurrence.placement);
            break;
        }
    return QString(" <a href='%1,%2,%3,%4'>Show it</a>").arg(at.X()).arg(at.Y()).arg(at.Z()).arg(extent);
}

}  // namespace

QString placeOfLastStep(const Session& session) {
    const auto& steps = session.work().ledger().steps;
    if (steps.empty() || session.marker() != steps.size() || steps.back().state != StepState::Done) return {};
    for (const Item& item : steps.back().items)
        if (item.done && item.problem.where.point)
            return QString::fromStdString(item.problem.what).toHtmlEscaped() +
                   showItLink(session, item.problem.where,
                              std::max(20.0 * item.size, 2.0 * session.model().targetSize));
    return {};
}

QString leftByLastStep(const Session& session, const QString& left) {
    const auto& steps = session.work().ledger().steps;
    if (steps.empty() || session.marker() != steps.size() || steps.back().state != StepState::Done) return {};
    std::size_t done = 0;
    const Item* first = nullptr;
    for (const Item& item : steps.back().items) {
        done += item.done;
        if (!item.done && first == nullptr) first = &item;
    }
    if (first == nullptr) return {};
    QString text = QString("%1 of %2 %3. %4")
                       .arg(steps.back().items.size() - done)
                       .arg(steps.back().items.size())
                       .arg(left, QString::fromStdString(sentence(first->problem)).toHtmlEscaped());
    text += showItLink(session, first->problem.where, 4.0 * first->size);
    if (std::any_of(steps.back().items.begin(), steps.back().items.end(),
                    [](const Item& item) { return !item.done && !item.problem.lacking.empty(); }))
        text += takeAlongLink();
    return text;
}

QString takeAlongLink() {
    return QString(" <a href='along'>Take it along</a>");
}

QString troubleText(const Problem& problem) {
    return QString("<span style='color:%1'>▲ %2</span>")
               .arg(colours().vermilionText.name(), QString::fromStdString(sentence(problem)).toHtmlEscaped()) +
           (problem.lacking.empty() ? QString() : takeAlongLink());
}

}  // namespace rasoir::app
