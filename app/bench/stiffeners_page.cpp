#include "bench/stiffeners_page.h"

#include <QVBoxLayout>

#include "model/places.h"
#include "session.h"
#include "stage/part_presentation.h"
#include "whole_surveys.h"
#include "words.h"

namespace rasoir::app {

StiffenersPage::StiffenersPage(Session& session, QWidget* parent) : BenchPage(session, parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    m_list = twoColumns(this, "stiffeners", "Beams on sheets", {"Beam and sheet", "Gap mm"});
    m_list->setWordWrap(true);
    column->addWidget(m_list, 1);
    m_links = new QCheckBox("tie rigidly what cannot share nodes", this);
    m_links->setObjectName("stiffenerLinks");
    m_links->setToolTip("Beams that only end on a sheet, reach past it, or have nodes in common with other beams");
    m_links->setChecked(true);
    column->addWidget(m_links);
    connect(m_links, &QCheckBox::toggled, this, &StiffenersPage::changed);
    connect(m_list, &QTreeWidget::itemChanged, this, &StiffenersPage::changed);
    connect(m_list, &QTreeWidget::currentItemChanged, this, &StiffenersPage::changed);
    connect(m_list, &QTreeWidget::itemActivated, this, [this](QTreeWidgetItem* item) {
        const auto row = static_cast<std::size_t>(m_list->indexOfTopLevelItem(item));
        if (!m_session.surveys().stiffeners.found() || row >= m_session.surveys().stiffeners.found()->size()) return;
        const reduce::BeamOnSheet& one = (*m_session.surveys().stiffeners.found())[row];
        emit closerWanted(one.where, std::max(1.5 * one.length, 4.0 * m_session.model().targetSize));
    });
    connect(&m_session.surveys().stiffeners, &WholeSurveyBase::changed, this, [this] {
        refresh();
        emit changed();
    });
}

void StiffenersPage::refresh() {
    if (isVisible()) m_session.surveys().stiffeners.request();
    const int current = m_list->indexOfTopLevelItem(m_list->currentItem());
    std::set<QString> unmarked;
    for (int r = 0; r < m_list->topLevelItemCount(); ++r)
        if (!isMarked(static_cast<std::size_t>(r))) unmarked.insert(m_list->topLevelItem(r)->text(0));
    const QSignalBlocker quiet(m_list);
    m_list->clear();
    if (!m_session.surveys().stiffeners.found()) return;
    const Model& model = m_session.model();
    for (const reduce::BeamOnSheet& one : *m_session.surveys().stiffeners.found()) {
        if (one.beam >= model.occurrences.size() || one.sheet >= model.occurrences.size()) return;  // not yet anew
        const QString what = QString("%1 %2 %3")
                                 .arg(text(placeName(model, one.beam)), one.edges.empty() ? "ends on" : "along",
                                      text(placeName(model, one.sheet)));
        markedRow(m_list, what, text(readable(one.gap)), !unmarked.contains(what));
    }
    if (current >= 0 && current < m_list->topLevelItemCount()) m_list->setCurrentItem(m_list->topLevelItem(current));
    wrapRows(m_list, 0);
}

bool StiffenersPage::isMarked(std::size_t row) const {
    const QTreeWidgetItem* item = m_list->topLevelItem(static_cast<int>(row));
    return item != nullptr && item->checkState(0) == Qt::Checked;
}

std::optional<int> StiffenersPage::count() const {
    return m_session.surveys().stiffeners.found()
               ? std::optional(static_cast<int>(m_session.surveys().stiffeners.found()->size()))
               : std::nullopt;
}

QString StiffenersPage::answer() const {
    if (m_session.isEmpty()) return "Open a file; beams that stiffen sheets will be listed here.";
    if (!m_session.surveys().stiffeners.found()) return "Looking for beams along sheets…";
    if (m_session.surveys().stiffeners.found()->empty())
        return "No beam comes near a sheet. Make beams and sheets first.";
    return "A beam's line becomes an edge of the sheet; how far it was off is kept with its section.";
}

QString StiffenersPage::words() const {
    std::size_t marked = 0;
    for (int r = 0; r < m_list->topLevelItemCount(); ++r) marked += isMarked(static_cast<std::size_t>(r));
    return marked > 0 ? QString("Put %1 on sheets").arg(text(counted(marked, "beam"))) : QString("No beam on a sheet");
}

std::optional<BenchStep> StiffenersPage::step() const {
    if (!m_session.surveys().stiffeners.found()) return std::nullopt;
    std::vector<std::size_t> beams;
    for (std::size_t r = 0; r < m_session.surveys().stiffeners.found()->size(); ++r)
        if (isMarked(r)) beams.push_back((*m_session.surveys().stiffeners.found())[r].beam);
    if (beams.empty()) return std::nullopt;
    std::sort(beams.begin(), beams.end());
    beams.erase(std::unique(beams.begin(), beams.end()), beams.end());
    Json parameters{{"parts", placeNames(m_session.model(), beams)}};
    if (!m_links->isChecked()) parameters["otherwise"] = "leave";
    return BenchStep{"reduce.beamsOnSheets", std::move(parameters)};
}

void StiffenersPage::addTo(BenchPreview& preview) const {
    if (!m_session.surveys().stiffeners.found()) return;
    const Model& model = m_session.model();
    const int current = m_list->indexOfTopLevelItem(m_list->currentItem());
    for (std::size_t r = 0; r < m_session.surveys().stiffeners.found()->size(); ++r) {
        const reduce::BeamOnSheet& one = (*m_session.surveys().stiffeners.found())[r];
        if (current >= 0 ? static_cast<int>(r) != current : !isMarked(r)) continue;
        if (one.beam >= model.occurrences.size() || m_session.places().isHidden(one.beam)) continue;
        const Occurrence& place = model.occurrences[one.beam];
        for (const int e : one.edges) {
            StageLine line;
            line.style = StageLine::Style::Brass;
            line.points = edgePoints(model.parts[place.part]->incidence(), e);
            for (gp_Pnt& point : line.points) point.Transform(place.placement);
            if (line.points.size() > 1) preview.lines.push_back(std::move(line));
        }
        if (one.edges.empty())
            preview.marks.push_back({one.where, false, static_cast<int>(r) == current, model.targetSize});
    }
}

}  // namespace rasoir::app
