#include "bench/flush_page.h"

#include <QVBoxLayout>

#include "make_flush.h"
#include "model/places.h"
#include "stage/part_presentation.h"
#include "theme.h"
#include "whole_surveys.h"
#include "words.h"

// The blade stands where the largest of the expected ones ends. What is marked against it makes the step name its
// places one by one; else it says the limit alone, so that it takes what a revision has.

namespace rasoir::app {
namespace {

/// A designer may have meant these: they go only when they are marked.
bool isPerhapsMeant(const reduce::Flaw& flaw) {
    return flaw.kind == reduce::FlawKind::Tab || flaw.kind == reduce::FlawKind::Slit ||
           flaw.kind == reduce::FlawKind::Overlap;
}

}  // namespace

FlushPage::FlushPage(Session& session, CutBar* blade, QWidget* parent) : BenchPage(session, parent), m_blade(blade) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    m_list = new QTreeWidget(this);
    m_list->setObjectName("notFlush");
    m_list->setAccessibleName("What is not flush");
    m_list->setColumnCount(2);
    m_list->setHeaderLabels({"Off mm", "What, and of which sheet"});
    m_list->setRootIsDecorated(false);
    m_list->header()->setStretchLastSection(true);
    m_list->header()->setSectionResizeMode(0, QHeaderView::ResizeToContents);
    column->addWidget(m_list, 1);
    connect(m_list, &QTreeWidget::currentItemChanged, this, &FlushPage::changed);
    connect(m_list, &QTreeWidget::itemActivated, this, [this](QTreeWidgetItem* item) {
        const auto row = static_cast<std::size_t>(m_list->indexOfTopLevelItem(item));
        if (row < m_rows.size() && found() != nullptr)
            emit closerWanted((*found())[m_rows[row]].where, 4.0 * m_session.model().targetSize);
    });
    connect(m_list, &QTreeWidget::itemChanged, this, [this](QTreeWidgetItem* item) {
        const auto row = static_cast<std::size_t>(m_list->indexOfTopLevelItem(item));
        if (row >= m_rows.size() || found() == nullptr) return;
        const bool on = item->checkState(0) == Qt::Checked;
        if (on == goesByRule((*found())[m_rows[row]]))
            m_byMark.erase(m_rows[row]);
        else
            m_byMark[m_rows[row]] = on;
        afterwards(this, [this] {
            refresh();
            emit changed();
        });
    });
    connect(&m_session.surveys().notFlush, &WholeSurveyBase::changed, this, [this] {
        m_byMark.clear();
        refresh();
        emit changed();
    });
    connect(&m_session, &Session::opened, this, &FlushPage::begin);
}

void FlushPage::begin() {
    m_limitChosen = false;
}

void FlushPage::bladeMoved() {
    m_limitChosen = true;
    m_byMark.clear();
    refresh();
}

const std::vector<reduce::Flaw>* FlushPage::found() const {
    return m_session.surveys().notFlush.found() ? &*m_session.surveys().notFlush.found() : nullptr;
}

bool FlushPage::goesByRule(const reduce::Flaw& flaw) const {
    return reduce::isTakenBy(flaw, isPerhapsMeant(flaw) ? 0.0 : m_blade->limit());
}

bool FlushPage::goes(std::size_t flaw) const {
    const auto marked = m_byMark.find(flaw);
    return marked != m_byMark.end() ? marked->second : goesByRule((*found())[flaw]);
}

std::vector<std::size_t> FlushPage::chosen() const {
    std::vector<std::size_t> all;
    for (const std::size_t flaw : m_rows)
        if (goes(flaw)) all.push_back(flaw);
    return all;
}

std::vector<std::size_t> FlushPage::places() const {
    std::vector<std::size_t> sheets;
    const auto picked = m_session.places().selectedParts();
    for (std::size_t o = 0; o < m_session.model().occurrences.size(); ++o) {
        const Occurrence& place = m_session.model().occurrences[o];
        if (!place.aside && m_session.model().parts[place.part]->kind() == BodyKind::Sheet &&
            (picked.empty() || picked.contains(place.part)))
            sheets.push_back(o);
    }
    return sheets;
}

void FlushPage::refresh() {
    if (isVisible()) m_session.surveys().notFlush.request();
    const Model& model = m_session.model();
    const auto picked = m_session.places().selectedParts();
    const int current = m_list->indexOfTopLevelItem(m_list->currentItem());
    m_rows.clear();
    std::vector<CutItem> items;
    double expected = 0.0;
    if (found() != nullptr)
        for (std::size_t i = 0; i < found()->size(); ++i) {
            const reduce::Flaw& flaw = (*found())[i];
            if (flaw.place >= model.occurrences.size()) return;  // not yet anew
            if (!picked.empty() && !picked.contains(model.occurrences[flaw.place].part)) continue;
            m_rows.push_back(i);
            if (!reduce::hasLength(flaw) || isPerhapsMeant(flaw)) continue;
            items.push_back({flaw.size, false});
            if (flaw.expected) expected = std::max(expected, flaw.size);
        }
    m_blade->setWords("What is off by");
    m_blade->setTargetSize(model.targetSize);
    const bool cuts = !items.empty();
    m_blade->setItems(std::move(items));
    if (!m_limitChosen && expected > 0.0) m_blade->setLimit(1.02 * expected);  // within the items' range
    m_blade->setVisible(cuts && isVisible());
    const QSignalBlocker quiet(m_list);
    m_list->clear();
    for (const std::size_t i : m_rows) {
        const reduce::Flaw& flaw = (*found())[i];
        QString where = text(placeName(model, flaw.place));
        if (flaw.other && *flaw.other != flaw.place) where += " and " + text(placeName(model, *flaw.other));
        auto* item = new QTreeWidgetItem(m_list, {flaw.size > 0.0 ? number(flaw.size) : QString("–"),
                                                  text(reduce::flawWords(flaw.kind)) + ": " + where});
        item->setTextAlignment(0, Qt::AlignRight | Qt::AlignVCenter);
        item->setToolTip(1, item->text(1));
        item->setFlags(item->flags() | Qt::ItemIsUserCheckable);
        item->setCheckState(0, goes(i) ? Qt::Checked : Qt::Unchecked);
        item->setForeground(1, goes(i) ? colours().ink : colours().second);
    }
    if (current >= 0 && current < m_list->topLevelItemCount()) m_list->setCurrentItem(m_list->topLevelItem(current));
}

std::optional<int> FlushPage::count() const {
    return found() != nullptr ? std::optional(static_cast<int>(m_rows.size())) : std::nullopt;
}

QString FlushPage::answer() const {
    if (m_session.isEmpty()) return "Open a file; what of its sheets is not flush will be listed here.";
    if (found() == nullptr) return "Looking at rims, gaps, lips and laps of sheets…";
    if (places().empty()) return "There are no sheets yet. Make some of walls first.";
    return m_rows.empty() ? QString("All sheets are flush.") : QString();
}

QString FlushPage::words() const {
    const auto all = found() != nullptr ? chosen() : std::vector<std::size_t>();
    const bool ends = std::all_of(all.begin(), all.end(),
                                  [this](std::size_t i) { return (*found())[i].kind == reduce::FlawKind::EndsShort; });
    if (all.empty()) return "Join sheets";
    return ends ? "Carry on " + text(counted(all.size(), "edge")) + " and join"
                : "Make " + text(counted(all.size(), "place")) + " flush";
}

std::optional<BenchStep> FlushPage::step() const {
    if (found() == nullptr) return std::nullopt;
    const auto all = chosen();
    const auto sheets = places();
    const bool picked = !m_session.places().selectedParts().empty();
    Json parameters = Json::object();
    if (picked) parameters["places"] = placeNames(m_session.model(), sheets);
    // The limit says it all where it takes the very ones that are marked.
    bool same = true, ends = true;
    for (const std::size_t i : m_rows) {
        same = same && goes(i) == reduce::isTakenBy((*found())[i], m_blade->limit());
        ends = ends && (!goes(i) || (*found())[i].kind == reduce::FlawKind::EndsShort);
    }
    if (all.empty() || (same && ends)) {
        if (sheets.size() < 2) return std::nullopt;
        // With none marked only what lies on each other already is joined: nothing is carried on.
        if (!m_rows.empty()) parameters["upTo"] = all.empty() ? 10.0 * m_session.model().samePoint() : m_blade->limit();
        return BenchStep{"reduce.joinSheets", std::move(parameters)};
    }
    if (same) {
        parameters["upTo"] = m_blade->limit();
        return BenchStep{"reduce.makeFlush", std::move(parameters)};
    }
    for (const std::size_t i : all) {
        const reduce::Flaw& flaw = (*found())[i];
        parameters["only"].push_back(
            {{"kind", reduce::flawName(flaw.kind)}, {"at", {flaw.where.X(), flaw.where.Y(), flaw.where.Z()}}});
    }
    return BenchStep{"reduce.makeFlush", std::move(parameters)};
}

void FlushPage::addTo(BenchPreview& preview) const {
    if (found() == nullptr) return;
    const Model& model = m_session.model();
    const int row = m_list->indexOfTopLevelItem(m_list->currentItem());
    for (std::size_t r = 0; r < m_rows.size(); ++r) {
        if (row >= 0 ? static_cast<int>(r) != row : !goes(m_rows[r])) continue;
        const reduce::Flaw& flaw = (*found())[m_rows[r]];
        if (flaw.place >= model.occurrences.size()) return;
        const auto line = [&](std::size_t o, const Incidence& topology, int edge) {
            std::vector<gp_Pnt> points = edgePoints(topology, edge);
            for (gp_Pnt& point : points) point.Transform(model.occurrences[o].placement);
            if (points.size() > 1) preview.lines.push_back({std::move(points), false, StageLine::Style::Brass});
        };
        const std::shared_ptr<const Part>& part = model.parts[model.occurrences[flaw.place].part];
        if (flaw.edge > 0) line(flaw.place, part->incidence(), flaw.edge);
        if (flaw.otherEdge > 0 && flaw.other)
            line(*flaw.other, model.parts[model.occurrences[*flaw.other].part]->incidence(), flaw.otherEdge);
        if (flaw.edge > 0) continue;
        if (flaw.kind == reduce::FlawKind::NotCovered) {
            // The wall's face is not there any more: its outline is drawn.
            if (!part->standsFor || flaw.face > part->standsFor->incidence().faceCount()) continue;
            for (const int edge : part->standsFor->incidence().edgesOf(flaw.face))
                line(flaw.place, part->standsFor->incidence(), edge);
        } else {
            preview.goes.push_back({part, model.occurrences[flaw.place].placement, {flaw.face}});
        }
    }
}

}  // namespace rasoir::app
