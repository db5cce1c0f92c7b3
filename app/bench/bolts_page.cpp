#include "bench/bolts_page.h"

#include <QVBoxLayout>

#include "model/places.h"
#include "session.h"
#include "whole_surveys.h"
#include "words.h"

namespace rasoir::app {

BoltsPage::BoltsPage(Session& session, QWidget* parent) : BenchPage(session, parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    m_list =
        twoColumns(this, "bolts", "Bolted joints, marked where a beam is made", {"Bolts, and through what", "Clamped"});
    column->addWidget(m_list, 1);
    m_as = new QComboBox(this);
    m_as->setObjectName("boltsAs");
    m_as->setAccessibleName("What is made of bolts");
    m_as->addItems({"beams, tied at both ends", "bodies, cut for preload"});
    column->addWidget(m_as);
    m_rings = new QCheckBox("rings under head and nut", this);
    m_rings->setObjectName("boltRings");
    m_rings->setToolTip("The clamped faces are parted to where head and nut bear: as wide as what lies there");
    column->addWidget(m_rings);
    connect(m_as, &QComboBox::activated, this, &BoltsPage::changed);
    connect(m_rings, &QCheckBox::toggled, this, &BoltsPage::changed);
    connect(m_list, &QTreeWidget::itemChanged, this, &BoltsPage::changed);
    connect(m_list, &QTreeWidget::currentItemChanged, this, &BoltsPage::changed);
    connect(m_list, &QTreeWidget::itemActivated, this, [this](QTreeWidgetItem* item) {
        const auto row = static_cast<std::size_t>(m_list->indexOfTopLevelItem(item));
        if (row >= m_rows.size() || !m_session.surveys().bolts.found()) return;
        const join::BoltedJoint& joint = (*m_session.surveys().bolts.found())[m_rows[row].front()];
        emit closerWanted(joint.axis.Location(), 4.0 * joint.length);
    });
    connect(&m_session.surveys().bolts, &WholeSurveyBase::changed, this, [this] {
        refresh();
        emit changed();
    });
}

void BoltsPage::refresh() {
    if (isVisible()) m_session.surveys().bolts.request();
    m_rows.clear();
    const QSignalBlocker quiet(m_list);
    m_list->clear();
    if (!m_session.surveys().bolts.found()) return;
    const Model& model = m_session.model();
    const auto nameOf = [&model](std::size_t place) { return model.parts[model.occurrences[place].part]->name; };
    // Like ones: the same part through the same parts, as long.
    std::map<std::tuple<std::string, std::string, long>, std::vector<std::size_t>> alike;
    for (std::size_t i = 0; i < m_session.surveys().bolts.found()->size(); ++i) {
        const join::BoltedJoint& joint = (*m_session.surveys().bolts.found())[i];
        std::set<std::string> names;
        for (const auto& member : joint.clamped) names.insert(nameOf(member.place));
        std::string through;
        for (const std::string& name : names) through += (through.empty() ? "" : ", ") + name;
        alike[{nameOf(joint.bolt), through, std::lround(1e3 * joint.length)}].push_back(i);
    }
    for (auto& [key, joints] : alike) {
        const join::BoltedJoint& first = (*m_session.surveys().bolts.found())[joints.front()];
        auto* item = markedRow(m_list,
                               (joints.size() > 1 ? QString("%1 × ").arg(joints.size()) : QString()) +
                                   QString("Ø %1: %2").arg(number(first.diameter), text(std::get<1>(key))),
                               number(first.length));
        item->setToolTip(
            0, text(std::get<0>(key)) + ", " + item->text(0) + (first.nut ? ", with a nut" : ", by its thread"));
        m_rows.push_back(std::move(joints));
    }
}

std::size_t BoltsPage::marked() const {
    std::size_t count = 0;
    for (std::size_t r = 0; r < m_rows.size(); ++r)
        if (m_list->topLevelItem(static_cast<int>(r))->checkState(0) == Qt::Checked) count += m_rows[r].size();
    return count;
}

QString BoltsPage::answer() const {
    if (m_session.isEmpty()) return "Open a file; its bolted joints will be listed here.";
    if (!m_session.surveys().bolts.found()) return "Looking for bolts…";
    if (m_rows.empty()) return "No bolt here goes through anything.";
    return asBodies() ? "Each stays a body, its shank cut across the middle: the two new faces are a pair for preload."
                      : "A beam stands for each, tied to the rims of its holes; bolt, nut and washers are set aside.";
}

QString BoltsPage::words() const {
    return marked() > 0 ? QString(asBodies() ? "Cut %1" : "Make beams of %1").arg(text(counted(marked(), "bolt")))
                        : QString("No bolt is marked");
}

std::optional<int> BoltsPage::count() const {
    return m_session.surveys().bolts.found()
               ? std::optional(static_cast<int>(m_session.surveys().bolts.found()->size()))
               : std::nullopt;
}

std::optional<BenchStep> BoltsPage::step() const {
    if (!m_session.surveys().bolts.found() || marked() == 0) return std::nullopt;
    Json parameters{{"name", "bolt"}};
    if (asBodies()) parameters["as"] = "body";
    if (m_rings->isChecked()) parameters["rings"] = true;
    if (marked() < m_session.surveys().bolts.found()->size()) {
        std::vector<std::size_t> places;
        for (std::size_t r = 0; r < m_rows.size(); ++r)
            if (m_list->topLevelItem(static_cast<int>(r))->checkState(0) == Qt::Checked)
                for (const std::size_t i : m_rows[r]) places.push_back((*m_session.surveys().bolts.found())[i].bolt);
        parameters["bolts"] = placeNames(m_session.model(), places);
    }
    return BenchStep{"join.bolt", std::move(parameters)};
}

void BoltsPage::addTo(BenchPreview& preview) const {
    if (!m_session.surveys().bolts.found()) return;
    const int current = m_list->indexOfTopLevelItem(m_list->currentItem());
    for (std::size_t r = 0; r < m_rows.size(); ++r) {
        if (m_list->topLevelItem(static_cast<int>(r))->checkState(0) != Qt::Checked) continue;
        if (current >= 0 && static_cast<int>(r) != current) continue;
        for (const std::size_t i : m_rows[r]) {
            const join::BoltedJoint& joint = (*m_session.surveys().bolts.found())[i];
            preview.lines.push_back({{joint.axis.Location(), joint.end()}, false, StageLine::Style::Brass});
        }
    }
}

}  // namespace rasoir::app
