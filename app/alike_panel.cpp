#include "alike_panel.h"

#include <QFormLayout>
#include <QHBoxLayout>
#include <QLineEdit>

#include "measure/between.h"
#include "theme.h"

namespace rasoir::app {
namespace {
using select::Likeness;
constexpr Likeness faceLikenesses[] = {Likeness::Radius, Likeness::Area, Likeness::Kind, Likeness::Colour,
                                       Likeness::Feature};
constexpr Likeness edgeLikenesses[] = {Likeness::Length, Likeness::Radius, Likeness::Kind};
enum Limits { Exactly, UpTo, Between };
}  // namespace

AlikePanel::AlikePanel(Session& session, Selection& selection, QWidget* parent)
    : QDialog(parent), m_session(session), m_selection(selection) {
    setWindowTitle("All like this");
    setModal(false);
    setMinimumWidth(320);
    auto* form = new QFormLayout(this);
    m_of = new QLabel(this);
    m_of->setWordWrap(true);
    m_by = new QComboBox(this);
    m_by->setAccessibleName("What shall be alike");
    m_limits = new QComboBox(this);
    m_limits->addItems({"exactly the same", "up to", "between"});
    m_limits->setAccessibleName("Limits");
    m_low = new QLineEdit(this);
    m_low->setObjectName("alikeLow");
    m_low->setAccessibleName("Lower limit");
    m_cutBar = new CutBar("up to", "", this);
    m_where = new QComboBox(this);
    m_where->addItems({"in this part", "in the selected parts", "everywhere"});
    m_where->setAccessibleName("Where to look");
    m_found = new QLabel(this);
    m_found->setObjectName("alikeFound");
    m_found->setWordWrap(true);
    auto* walkRow = new QHBoxLayout;
    auto* earlier = new QPushButton("Previous", this);
    auto* later = new QPushButton("Next", this);
    walkRow->addWidget(earlier);
    walkRow->addWidget(later);
    form->addRow("Like", m_of);
    form->addRow("By", m_by);
    form->addRow("Limits", m_limits);
    form->addRow("From", m_low);
    form->addRow(m_cutBar);
    form->addRow("Look", m_where);
    form->addRow(m_found);
    form->addRow(walkRow);
    m_where->setCurrentIndex(2);
    connect(m_by, &QComboBox::currentIndexChanged, this, [this] {
        refresh();
        search();
    });
    connect(m_limits, &QComboBox::currentIndexChanged, this, [this] {
        refresh();
        search();
    });
    connect(m_where, &QComboBox::currentIndexChanged, this, [this] {
        refresh();
        search();
    });
    connect(m_low, &QLineEdit::editingFinished, this, &AlikePanel::search);
    connect(m_cutBar, &CutBar::limitChanged, this, &AlikePanel::search);
    connect(earlier, &QPushButton::clicked, this, [this] { walk(-1); });
    connect(later, &QPushButton::clicked, this, [this] { walk(1); });
    connect(&selection, &Selection::changed, this, [this] {
        if (!m_searching && isVisible()) takeSample();
    });
}

void AlikePanel::showEvent(QShowEvent* event) {
    QDialog::showEvent(event);
    takeSample();
    search();
}

void AlikePanel::takeSample() {
    m_sample.reset();
    if (!m_selection.picks().empty() && (m_selection.picks().back().face > 0 || m_selection.picks().back().edge > 0))
        m_sample = m_selection.picks().back();
    m_of->setText(m_sample ? QString::fromStdString(measure::inWords(measure::readingOf(m_session.model(), *m_sample)))
                           : QString("Pick a face or an edge."));
    const QSignalBlocker block(m_by);
    const QString before = m_by->currentText();
    m_by->clear();
    if (m_sample && m_sample->face > 0)
        for (const Likeness by : faceLikenesses)
            m_by->addItem(QString::fromStdString(select::likenessName(by)), static_cast<int>(by));
    else if (m_sample)
        for (const Likeness by : edgeLikenesses)
            m_by->addItem(QString::fromStdString(select::likenessName(by)), static_cast<int>(by));
    // A plane has no radius: what it has comes first.
    int at = m_by->findText(before);
    if (m_sample) {
        const PartKnowledge* known = m_session.knowledge(m_session.model().occurrences[m_sample->occurrence].part);
        const auto sizeBy = [&](int index) {
            return known != nullptr && known->traits
                       ? select::sizeOf(*known->traits, *m_sample, static_cast<Likeness>(m_by->itemData(index).toInt()))
                       : 0.0;
        };
        for (int i = 0; i < m_by->count() && (at < 0 || sizeBy(at) <= 0.0); ++i)
            if (sizeBy(i) > 0.0) at = i;
    }
    if (at >= 0) m_by->setCurrentIndex(at);
    refresh();
}

void AlikePanel::refresh() {
    const auto by = static_cast<Likeness>(m_by->currentData().toInt());
    const bool sized = m_by->count() > 0 && (by == Likeness::Area || by == Likeness::Radius || by == Likeness::Length);
    m_limits->setEnabled(sized);
    static_cast<QFormLayout*>(layout())->setRowVisible(m_low, sized && m_limits->currentIndex() == Between);
    m_cutBar->setVisible(sized && m_limits->currentIndex() != Exactly);
    if (!sized || !m_sample) return;
    const std::size_t part = m_session.model().occurrences[m_sample->occurrence].part;
    const std::set<std::size_t> parts = m_where->currentIndex() == 0   ? std::set{part}
                                        : m_where->currentIndex() == 1 ? m_session.places().selectedParts()
                                                                       : std::set<std::size_t>{};
    std::vector<CutItem> items;
    for (const double size : m_selection.candidateSizes(by, parts)) items.push_back({size, false});
    m_cutBar->setMeasure(by == Likeness::Area ? "mm²" : "mm", by != Likeness::Area, "taken");
    m_cutBar->setTargetSize(m_session.model().targetSize);
    m_cutBar->setItems(std::move(items));
    const PartKnowledge* known = m_session.knowledge(part);
    const double own = known != nullptr && known->traits ? select::sizeOf(*known->traits, *m_sample, by) : 0.0;
    if (own > 0.0) m_cutBar->setLimit(own);
    if (m_low->text().isEmpty() && own > 0.0) m_low->setText(QString::fromStdString(readable(0.5 * own)));
}

void AlikePanel::search() {
    if (!m_sample || !isVisible()) return;
    select::AlikeWanted wanted;
    wanted.by = static_cast<Likeness>(m_by->currentData().toInt());
    const std::size_t part = m_session.model().occurrences[m_sample->occurrence].part;
    if (m_where->currentIndex() == 0) wanted.parts = {part};
    if (m_where->currentIndex() == 1) wanted.parts = m_session.places().selectedParts();
    if (m_limits->isEnabled() && m_limits->currentIndex() != Exactly) {
        wanted.absolute = true;
        wanted.low = 0.0;
        wanted.high = m_cutBar->limit();
        if (m_limits->currentIndex() == Between) {
            const auto low = parseLength(m_low->text().toStdString());
            if (!low) {
                m_found->setText("▲ " + QString::fromStdString(sentence(low.error())));
                return;
            }
            wanted.low = *low;
        }
    }
    m_searching = true;
    m_selection.set({*m_sample});
    const auto found = m_selection.selectAlike(wanted);
    m_searching = false;
    m_found->setText(found ? describeSelection(m_selection.picks()) + " alike"
                           : "▲ " + QString::fromStdString(sentence(found.error())));
}

void AlikePanel::walk(int by) {
    const auto pick = m_selection.step(by);
    if (!pick) return;
    m_found->setText(QString("%1 of %2: %3")
                         .arg(m_selection.stepNumber() + 1)
                         .arg(m_selection.picks().size())
                         .arg(QString::fromStdString(measure::inWords(measure::readingOf(m_session.model(), *pick)))));
    emit closerWanted(*pick);
}

}  // namespace rasoir::app
