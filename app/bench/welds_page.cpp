#include "bench/welds_page.h"

#include <QFormLayout>
#include <QVBoxLayout>

#include "session.h"
#include "stage/part_presentation.h"
#include "whole_surveys.h"
#include "words.h"

namespace rasoir::app {

WeldsPage::WeldsPage(Session& session, QWidget* parent) : BenchPage(session, parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    m_list = twoColumns(this, "welds", "Lines that can be welded, by the bodies they hold", {"What on what", "mm"});
    m_list->setWordWrap(true);
    column->addWidget(m_list, 1);
    auto* form = new QFormLayout;
    form->setSpacing(4);
    const auto number = [&](const char* name, const QString& label, const QString& none) {
        auto* box = new QDoubleSpinBox(this);
        box->setObjectName(name);
        box->setAccessibleName(label);
        box->setRange(0.0, 1e6);
        box->setDecimals(2);
        box->setSpecialValueText(none);
        form->addRow(label, box);
        connect(box, &QDoubleSpinBox::valueChanged, this, [this] {
            fill();
            emit changed();
        });
        return box;
    };
    m_throat = number("weldThroat", "Throat mm", "by the wall");
    m_shortest = number("weldShortest", "No shorter than mm", "three throats");
    m_strip = number("weldStrip", "Strips beside, mm", "none: edges");
    m_strip->setToolTip("Faces this wide on both bodies are what the weld holds, instead of the edges");
    column->addLayout(form);
    connect(m_list, &QTreeWidget::itemChanged, this, &WeldsPage::changed);
    connect(m_list, &QTreeWidget::currentItemChanged, this, &WeldsPage::changed);
    connect(m_list, &QTreeWidget::itemActivated, this, [this](QTreeWidgetItem* item) {
        const auto row = static_cast<std::size_t>(m_list->indexOfTopLevelItem(item));
        if (row >= m_rows.size() || !m_session.surveys().welds.found()) return;
        const join::WeldLine& line = m_session.surveys().welds.found()->lines[m_rows[row].lines.front()];
        emit closerWanted(line.where, 1.5 * line.length);
    });
    connect(&m_session.surveys().welds, &WholeSurveyBase::changed, this, [this] {
        fill();
        emit changed();
    });
}

bool WeldsPage::longEnough(const join::WeldLine& line) const {
    const double throat = m_throat->value() > 0.0 ? m_throat->value() : line.proposedThroat();
    return line.length >= (m_shortest->value() > 0.0 ? m_shortest->value() : 3.0 * throat);
}

void WeldsPage::refresh() {
    if (isVisible()) m_session.surveys().welds.request();
    fill();
}

void WeldsPage::fill() {
    std::set<std::pair<std::string, std::string>> unmarked;
    for (std::size_t r = 0; r < m_rows.size(); ++r)
        if (!isMarked(r)) unmarked.insert({m_rows[r].first, m_rows[r].second});
    m_rows.clear();
    const QSignalBlocker quiet(m_list);
    m_list->clear();
    if (!m_session.surveys().welds.found()) return;
    const Model& parted = m_session.surveys().welds.found()->parted.model;
    // What parting made a part of its own still stands where it stood: rows are called as the model is now.
    const auto nameOf = [&](std::size_t place) {
        const Model& now = m_session.model();
        return place < now.occurrences.size() ? now.parts[now.occurrences[place].part]->name
                                              : parted.parts[parted.occurrences[place].part]->name;
    };
    std::map<std::pair<std::string, std::string>, std::vector<std::size_t>> alike;
    for (std::size_t i = 0; i < m_session.surveys().welds.found()->lines.size(); ++i) {
        const join::WeldLine& line = m_session.surveys().welds.found()->lines[i];
        if (longEnough(line)) alike[{nameOf(line.place), nameOf(line.on)}].push_back(i);
    }
    for (auto& [names, lines] : alike) {
        double length = 0.0;
        std::set<std::string> throats;
        for (const std::size_t i : lines) {
            const join::WeldLine& line = m_session.surveys().welds.found()->lines[i];
            length += line.length;
            throats.insert(readable(m_throat->value() > 0.0 ? m_throat->value() : line.proposedThroat()));
        }
        QString told;
        for (const std::string& throat : throats) told += (told.isEmpty() ? "" : ", ") + text(throat);
        auto* item =
            markedRow(m_list,
                      QString("%1 on %2: %3, throat %4")
                          .arg(text(names.first), text(names.second), text(counted(lines.size(), "line")), told),
                      text(readable(length)), !unmarked.contains(names));
        item->setToolTip(0, item->text(0));
        m_rows.push_back({names.first, names.second, std::move(lines)});
    }
    wrapRows(m_list, 0);
}

bool WeldsPage::isMarked(std::size_t row) const {
    const QTreeWidgetItem* item = m_list->topLevelItem(static_cast<int>(row));
    return item != nullptr && item->checkState(0) == Qt::Checked;
}

std::optional<int> WeldsPage::count() const {
    if (!m_session.surveys().welds.found()) return std::nullopt;
    std::size_t lines = 0;
    for (const Row& row : m_rows) lines += row.lines.size();
    return static_cast<int>(lines);
}

QString WeldsPage::answer() const {
    if (m_session.isEmpty()) return "Open a file; lines that can be welded will be listed here.";
    if (!m_session.surveys().welds.found()) return "Looking along what touches…";
    const auto& pairings = m_session.model().pairings;
    const auto set = std::count_if(pairings.begin(), pairings.end(),
                                   [](const Pairing& one) { return one.kind == PairingKind::Weld; });
    if (m_rows.empty() && set > 0)
        return QString("%1 set; nothing further is long enough.")
            .arg(text(counted(static_cast<std::size_t>(set), "weld is", "welds are")));
    if (m_rows.empty()) return "No body here ends on another so that a seam could hold it.";
    std::set<std::size_t> beads;
    for (const join::WeldLine& line : m_session.surveys().welds.found()->lines)
        if (line.bead) beads.insert(*line.bead);
    const QString told = QString("Each line is kept as a pair of %1 groups; between the seams bodies stay free.")
                             .arg(m_strip->value() > 0.0 ? "face" : "edge");
    return beads.empty() ? told
                         : told + QString(" %1 set aside, as lines stand for %2.")
                                      .arg(text(counted(beads.size(), "bead")), beads.size() == 1 ? "it" : "them");
}

QString WeldsPage::words() const {
    std::size_t lines = 0;
    for (std::size_t r = 0; r < m_rows.size(); ++r)
        if (isMarked(r)) lines += m_rows[r].lines.size();
    return lines > 0 ? QString("Weld along %1").arg(text(counted(lines, "line"))) : QString("No line is marked");
}

std::optional<BenchStep> WeldsPage::step() const {
    if (!m_session.surveys().welds.found()) return std::nullopt;
    Json pairs = Json::array();
    for (std::size_t r = 0; r < m_rows.size(); ++r)
        if (isMarked(r)) pairs.push_back({m_rows[r].first, m_rows[r].second});
    if (pairs.empty()) return std::nullopt;
    Json parameters = Json::object();
    if (pairs.size() < m_rows.size()) parameters["pairs"] = std::move(pairs);
    if (m_throat->value() > 0.0) parameters["throat"] = m_throat->value();
    if (m_shortest->value() > 0.0) parameters["shortest"] = m_shortest->value();
    if (m_strip->value() > 0.0) parameters["strip"] = m_strip->value();
    return BenchStep{"join.weld", std::move(parameters)};
}

void WeldsPage::addTo(BenchPreview& preview) const {
    if (!m_session.surveys().welds.found()) return;
    const Model& parted = m_session.surveys().welds.found()->parted.model;
    const int current = m_list->indexOfTopLevelItem(m_list->currentItem());
    for (std::size_t r = 0; r < m_rows.size(); ++r) {
        if (!isMarked(r) || (current >= 0 && static_cast<int>(r) != current)) continue;
        for (const std::size_t i : m_rows[r].lines) {
            const join::WeldLine& line = m_session.surveys().welds.found()->lines[i];
            const Occurrence& place = parted.occurrences[line.place];
            for (const int edge : line.edges) {
                std::vector<gp_Pnt> points = edgePoints(parted.parts[place.part]->incidence(), edge);
                for (gp_Pnt& point : points) point.Transform(place.placement);
                if (points.size() > 1) preview.lines.push_back({std::move(points), false, StageLine::Style::Brass});
            }
        }
    }
}

}  // namespace rasoir::app
