#include "bench/flow_page.h"

#include <QHBoxLayout>
#include <QHeaderView>

#include "model/places.h"
#include "model/reference.h"
#include "session.h"
#include "words.h"

namespace rasoir::app {

FlowPage::FlowPage(Session& session, QWidget* parent) : BenchPage(session, parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    auto* line = new QHBoxLayout;
    m_outer = new QCheckBox("Round the bodies, by", this);
    m_outer->setObjectName("outerSpace");
    m_outer->setToolTip("The space outside, in a block round what is picked, or round all");
    m_clearance = new QDoubleSpinBox(this);
    m_clearance->setObjectName("outerClearance");
    m_clearance->setAccessibleName("Clearance on each side");
    m_clearance->setRange(0.001, 1e6);
    m_clearance->setDecimals(1);
    m_clearance->setSuffix(" mm");
    m_clearance->setValue(100.0);
    line->addWidget(m_outer);
    line->addWidget(m_clearance, 1);
    column->addLayout(line);
    for (const auto& again : {[this] {
             m_list->setVisible(!isOuter());
             m_every->setVisible(!isOuter());
             emit changed();
         }}) {
        connect(m_outer, &QCheckBox::toggled, this, again);
        connect(m_clearance, &QDoubleSpinBox::valueChanged, this, again);
    }
    m_every = new QCheckBox("A lid on every opening", this);
    m_every->setObjectName("everyLid");
    m_every->setChecked(true);
    column->addWidget(m_every);
    m_list = new QTreeWidget(this);
    m_list->setObjectName("openings");
    m_list->setAccessibleName("Openings, marked where they get a lid");
    m_list->setColumnCount(2);
    m_list->setHeaderLabels({"Opening of", "Wide mm"});
    m_list->setRootIsDecorated(false);
    m_list->header()->setStretchLastSection(false);
    m_list->header()->setSectionResizeMode(0, QHeaderView::Stretch);
    m_list->header()->setSectionResizeMode(1, QHeaderView::ResizeToContents);
    column->addWidget(m_list, 1);
    connect(m_every, &QCheckBox::clicked, this, [this](bool on) {
        const QSignalBlocker quiet(m_list);
        for (int i = 0; i < m_list->topLevelItemCount(); ++i)
            m_list->topLevelItem(i)->setCheckState(0, on ? Qt::Checked : Qt::Unchecked);
        emit changed();
    });
    connect(m_list, &QTreeWidget::itemChanged, this, [this] {
        bool all = true;
        for (int i = 0; i < m_list->topLevelItemCount(); ++i)
            all = all && m_list->topLevelItem(i)->checkState(0) == Qt::Checked;
        m_every->setChecked(all);
        emit changed();
    });
    connect(m_list, &QTreeWidget::currentItemChanged, this, [this] { emit changed(); });
    connect(m_list, &QTreeWidget::itemActivated, this, [this](QTreeWidgetItem* item) {
        const join::Opening& opening = m_openings[static_cast<std::size_t>(m_list->indexOfTopLevelItem(item))];
        emit closerWanted(opening.middle, 3.0 * opening.hydraulicDiameter());
    });
    connect(&m_session, &Session::openingsChanged, this, [this] {
        fill();
        emit changed();
    });
}

void FlowPage::picksChanged(const std::vector<select::Pick>& picks) {
    m_seed.reset();
    for (const select::Pick& pick : picks)
        if (pick.face > 0 && !m_seed) m_seed.emplace(pick.occurrence, pick.face);
    emit changed();
}

void FlowPage::refresh() {
    if (isVisible()) m_session.requestOpenings();
    // A face that is picked marks its part as well, which does not make that the only wall.
    const auto& chosen = m_session.selectedOccurrences();
    const std::vector<std::size_t> walls = m_seed ? m_walls : std::vector<std::size_t>(chosen.begin(), chosen.end());
    if (!m_session.openings() || walls != m_walls) {
        m_walls = walls;
        fill();
    }
}

void FlowPage::fill() {
    const QSignalBlocker quiet(m_list);
    m_list->clear();
    m_openings.clear();
    m_every->setChecked(true);
    if (!m_session.openings()) return;
    const Model& model = m_session.model();
    for (const join::Opening& opening : *m_session.openings()) {
        if (!m_walls.empty() && std::find(m_walls.begin(), m_walls.end(), opening.place) == m_walls.end()) continue;
        if (opening.place >= model.occurrences.size()) continue;
        m_openings.push_back(opening);
        auto* item =
            new QTreeWidgetItem(m_list, {text(placeName(model, opening.place)), number(opening.hydraulicDiameter())});
        item->setFlags(item->flags() | Qt::ItemIsUserCheckable);
        item->setCheckState(0, Qt::Checked);
        item->setTextAlignment(1, Qt::AlignRight | Qt::AlignVCenter);
        item->setToolTip(0, QString("%1 mm², at (%2, %3, %4)")
                                .arg(number(opening.area), number(opening.middle.X()), number(opening.middle.Y()),
                                     number(opening.middle.Z())));
    }
}

QString FlowPage::answer() const {
    if (isOuter()) {
        const std::size_t count = m_session.selectedOccurrences().size();
        return QString("A block round %1, less the bodies, with a group for each side.")
            .arg(count == 0 ? QString("everything") : text(counted(count, "body", "bodies")));
    }
    if (!m_session.openings()) return "Looking for openings…";
    const Model& model = m_session.model();
    if (m_seed && m_seed->first < model.occurrences.size())
        return QString("The fluid wets the picked face of %1.").arg(text(placeName(model, m_seed->first)));
    if (m_walls.size() == 1 && m_walls.front() < model.occurrences.size())
        return QString("Inside %1. Pick a face that the fluid wets; without one it is the largest space with a lid.")
            .arg(text(placeName(model, m_walls.front())));
    return "Pick a face that the fluid wets; without one it is the largest space with a lid.";
}

QString FlowPage::words() const {
    if (!step()) return "No opening has a lid";
    return isOuter() ? "Make the space round them" : "Make the flow space";
}

std::optional<BenchStep> FlowPage::step() const {
    if (isOuter()) {
        if (m_session.isEmpty()) return std::nullopt;
        const double gap = m_clearance->value();
        Json outside{{"name", "outer space"}, {"clearance", std::vector<double>(6, gap)}};
        const auto& picked = m_session.selectedOccurrences();
        if (!picked.empty()) outside["places"] = placeNames(m_session.model(), {picked.begin(), picked.end()});
        return BenchStep{"join.outerSpace", std::move(outside)};
    }
    if (m_openings.empty() || !m_session.openings()) return std::nullopt;
    const Model& model = m_session.model();
    Json parameters{{"name", "flow space"}};
    if (!m_walls.empty()) parameters["places"] = placeNames(model, m_walls);
    if (!m_every->isChecked()) {
        Json lids = Json::array();
        for (std::size_t i = 0; i < m_openings.size(); ++i) {
            if (m_list->topLevelItem(static_cast<int>(i))->checkState(0) != Qt::Checked) continue;
            const join::Opening& opening = m_openings[i];
            const Part& part = *model.parts[model.occurrences[opening.place].part];
            lids.push_back(Json::array({Json(makeRef(part, {EntityKind::Edge, opening.edges.front()}))}));
        }
        if (lids.empty()) return std::nullopt;
        parameters["lids"] = std::move(lids);
    }
    if (m_seed && m_seed->first < model.occurrences.size())
        parameters["seed"] = makeFaceRef(*model.parts[model.occurrences[m_seed->first].part], m_seed->second);
    return BenchStep{"join.flowSpace", std::move(parameters)};
}

void FlowPage::addTo(BenchPreview& preview) const {
    if (isOuter()) return;
    const int current = m_list->indexOfTopLevelItem(m_list->currentItem());
    for (std::size_t i = 0; i < m_openings.size(); ++i)
        if (m_list->topLevelItem(static_cast<int>(i))->checkState(0) == Qt::Checked)
            preview.marks.push_back(
                {m_openings[i].middle, false, static_cast<int>(i) == current, 0.5 * m_openings[i].hydraulicDiameter()});
}

}  // namespace rasoir::app
