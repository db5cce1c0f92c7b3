#include "bench/revision_page.h"

#include <QPushButton>
#include <QVBoxLayout>

#include "session.h"
#include "theme.h"
#include "words.h"

namespace rasoir::app {

RevisionPage::RevisionPage(Session& session, QWidget* parent) : BenchPage(session, parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    m_list = new QTreeWidget(this);
    m_list->setObjectName("revision");
    m_list->setAccessibleName("What changed, and which steps fit");
    m_list->setColumnCount(1);
    m_list->setHeaderHidden(true);
    m_list->setRootIsDecorated(false);
    m_list->setWordWrap(true);
    m_list->setTextElideMode(Qt::ElideNone);
    m_list->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    m_list->header()->setSectionResizeMode(0, QHeaderView::Stretch);
    column->addWidget(m_list, 1);
    m_nearest = new QPushButton("Take the nearest for this step", this);
    m_nearest->setObjectName("takeNearest");
    m_nearest->setToolTip(
        "The step is edited to mean the nearest thing like the one that it misses, and all runs again");
    column->addWidget(m_nearest);
    connect(m_nearest, &QPushButton::clicked, this, [this] {
        if (const auto step = offered()) m_session.takeOffer(*step);
    });
    connect(m_list, &QTreeWidget::itemSelectionChanged, this,
            [this] { m_nearest->setEnabled(offered().has_value() && !m_session.isBusy()); });
    m_other = new QPushButton("Look at another file…", this);
    m_other->setObjectName("otherRevision");
    column->addWidget(m_other);
    connect(m_other, &QPushButton::clicked, this, &RevisionPage::fileWanted);
    connect(&m_session, &Session::revisionChanged, this, [this] {
        refresh();
        emit changed();
    });
}

void RevisionPage::refresh() {
    m_list->clear();
    const auto& revision = m_session.revision();
    m_other->setVisible(revision.has_value());
    m_nearest->setVisible(revision.has_value() && !m_session.offers().empty());
    m_nearest->setEnabled(false);
    if (!revision) return;
    const Palette& p = colours();
    const auto row = [&](const QString& what, const QColor& colour) {
        auto* item = new QTreeWidgetItem(m_list, {what});
        item->setForeground(0, colour);
        item->setToolTip(0, what);
    };
    for (const handover::PartChange& part : revision->changes.parts)
        for (const std::string& line : handover::told(part)) row(text(line), line.starts_with(" ") ? p.second : p.ink);
    if (revision->changes.same()) row("The geometry is the same.", p.ink);
    std::size_t number = 0;
    for (const Step& step : revision->work.ledger().steps) {
        ++number;
        const QString what =
            QString("Step %1, %2: %3")
                .arg(number)
                .arg(text(step.summary.empty() ? step.operation : step.summary), text(stepStateName(step.state)));
        if (step.state == StepState::Failed || step.state == StepState::Waiting)
            row(what + (step.problem ? ". " + text(sentence(*step.problem)) : QString()), p.vermilionText);
        else
            row(what, p.ink);
        for (const handover::Offer& offer : m_session.offers()) {
            if (offer.step + 1 != number) continue;
            for (const handover::Candidate& candidate : offer.candidates) {
                row("    nearest: " + text(candidate.told), p.second);
                m_list->topLevelItem(m_list->topLevelItemCount() - 1)
                    ->setData(0, Qt::UserRole, static_cast<qulonglong>(number));
            }
        }
    }
    wrapRows(m_list, 0);
}

std::optional<std::size_t> RevisionPage::offered() const {
    const QTreeWidgetItem* item = m_list->currentItem();
    if (item == nullptr || !m_session.revision()) return std::nullopt;
    const auto number = item->data(0, Qt::UserRole).toULongLong();
    return number == 0 ? std::nullopt : std::optional(static_cast<std::size_t>(number - 1));
}

QString RevisionPage::answer() const {
    if (m_session.isEmpty()) return "Open a file; its next revision can be compared with it here.";
    const auto& revision = m_session.revision();
    if (!revision) return "Look at the designer's next file: what changed in it, and which steps fit.";
    return QString("%1: %2, %3.")
        .arg(text(std::filesystem::path(revision->work.ledger().source).filename().string()),
             text(counted(revision->fitting(), "step fits", "steps fit")),
             revision->left() == 0 ? QString("none is left") : text(counted(revision->left(), "does not", "do not")));
}

QString RevisionPage::words() const {
    return m_session.revision() ? "Go on with this file" : "Look at a file…";
}

void RevisionPage::act() {
    if (m_session.revision())
        m_session.goOnWithRevision();
    else
        emit fileWanted();
}

}  // namespace rasoir::app
