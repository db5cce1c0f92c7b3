#include "bench/edge_pages.h"

#include <QFormLayout>
#include <QRegularExpression>
#include <QVBoxLayout>

#include "common/guard.h"
#include "theme.h"
#include "words.h"

namespace rasoir::app {

// --- edges

PartEdgePage::PartEdgePage(Session& session, QWidget* parent) : PickPage(session, parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    m_hint = new QLabel(this);
    m_hint->setWordWrap(true);
    column->addWidget(m_hint);
    auto* form = new QFormLayout;
    m_how = new QComboBox(this);
    m_how->setObjectName("edgeHow");
    m_how->setAccessibleName("Where edges are parted");
    m_how->addItems(
        {"into equal pieces", "mm from the start", "mm from the end", "% of the length", "at picked vertices"});
    m_number = field(this, "edgeNumber", "Number", "2");
    form->addRow("Part", m_how);
    m_numberLabel = new QLabel("Number", this);
    form->addRow(m_numberLabel, m_number);
    column->addLayout(form);
    column->addStretch(1);
    connect(m_how, &QComboBox::activated, this, [this] {
        refresh();
        emit changed();
    });
    refresh();
}

void PartEdgePage::refresh() {
    const bool byPoints = m_how->currentIndex() == 4;
    m_hint->setText(byPoints ? "Pick edges, and the vertices that are thrown square onto them, of any body."
                             : "Pick edges.");
    m_number->setVisible(!byPoints);
    m_numberLabel->setVisible(!byPoints);
}

std::optional<BenchStep> PartEdgePage::step() const {
    const auto edges = picked(select::PickKind::Edge);
    if (edges.empty()) return std::nullopt;
    Json refs = Json::array();
    for (const select::Pick& pick : edges) refs.push_back(makeRef(partOf(pick), {EntityKind::Edge, pick.edge}));
    Json parameters{{"edges", std::move(refs)}};
    bool fine = false;
    switch (m_how->currentIndex()) {
        case 0: {
            const int pieces = m_number->text().trimmed().toInt(&fine);
            if (!fine || pieces < 2 || pieces > 1000) return std::nullopt;
            parameters["into"] = pieces;
            break;
        }
        case 3: {
            const double percent = m_number->text().trimmed().remove('%').toDouble(&fine);
            if (!fine) return std::nullopt;
            parameters["share"] = {0.01 * percent};
            break;
        }
        case 4: {
            std::vector<divide::Place> by;
            for (const select::Pick& pick : picked(select::PickKind::Vertex))
                by.push_back({std::nullopt, makeRef(partOf(pick), {EntityKind::Vertex, pick.vertex})});
            if (by.empty()) return std::nullopt;
            parameters["by"] = by;
            break;
        }
        default: {
            const auto at = numberIn(m_number);
            if (!at) return std::nullopt;
            parameters["at"] = {*at};
            if (m_how->currentIndex() == 2) parameters["fromEnd"] = true;
        }
    }
    return BenchStep{"divide.partEdge", std::move(parameters)};
}

QString PartEdgePage::words() const {
    const auto edges = picked(select::PickKind::Edge);
    if (edges.empty()) return "Pick edges";
    if (m_how->currentIndex() == 4 && !step()) return "Pick vertices as well";
    return step() ? "Part " + text(counted(edges.size(), "edge")) : QString("A number is missing");
}

// --- points

PointsPage::PointsPage(Session& session, QWidget* parent) : PickPage(session, parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    auto* hint = new QLabel(
        "For loads and supports: at picked vertices, the centres of round edges and faces, the middles of others; or "
        "at a place in numbers. They are exported as points.",
        this);
    hint->setWordWrap(true);
    column->addWidget(hint);
    auto* form = new QFormLayout;
    form->setSpacing(4);
    m_at = field(this, "pointAt", "Place in numbers", {});
    m_at->setPlaceholderText("at what is picked");
    m_at->setToolTip("x y z in mm; several places are parted by semicolons");
    form->addRow("At x y z", m_at);
    m_name = field(this, "pointName", "Name of the points", "point");
    form->addRow("Name", m_name);
    m_group = field(this, "pointGroup", "Group of the points", {});
    m_group->setPlaceholderText("none");
    form->addRow("Group", m_group);
    column->addLayout(form);
    m_thrown = new QCheckBox("thrown onto the last picked face or edge", this);
    m_thrown->setObjectName("pointThrown");
    column->addWidget(m_thrown);
    column->addStretch(1);
    connect(m_thrown, &QCheckBox::toggled, this, &PickPage::changed);
}

std::optional<PointsPage::Wanted> PointsPage::wanted() const {
    Wanted wanted;
    std::vector<select::Pick> picks = m_picks;
    const auto refOf = [this](const select::Pick& pick) {
        const Entity entity = pick.face > 0     ? Entity{EntityKind::Face, pick.face}
                              : pick.edge > 0   ? Entity{EntityKind::Edge, pick.edge}
                              : pick.vertex > 0 ? Entity{EntityKind::Vertex, pick.vertex}
                                                : Entity{EntityKind::Body, std::max(1, pick.body)};
        return makeRef(partOf(pick), entity);
    };
    if (m_thrown->isChecked()) {
        const auto onto = std::find_if(picks.rbegin(), picks.rend(),
                                       [](const select::Pick& pick) { return pick.face > 0 || pick.edge > 0; });
        if (onto == picks.rend()) return std::nullopt;
        wanted.onto = refOf(*onto);
        picks.erase(std::next(onto).base());
    }
    const QString typed = m_at->text().trimmed().replace(QChar(0x2212), '-').remove(QChar(0x2009));
    if (typed.isEmpty()) {
        for (const select::Pick& pick : picks) wanted.places.push_back({std::nullopt, refOf(pick)});
    } else {
        for (const QString& one : typed.split(';', Qt::SkipEmptyParts)) {
            const QStringList numbers = one.trimmed().split(QRegularExpression("[\\s,]+"), Qt::SkipEmptyParts);
            if (numbers.size() != 3) return std::nullopt;
            std::array<double, 3> at{};
            for (int i = 0; i < 3; ++i) {
                const QLineEdit number(numbers[i]);
                const auto value = numberIn(&number);
                if (!value) return std::nullopt;
                at[static_cast<std::size_t>(i)] = *value;
            }
            wanted.places.push_back({at, std::nullopt});
        }
    }
    if (wanted.places.empty()) return std::nullopt;
    return wanted;
}

std::optional<BenchStep> PointsPage::step() const {
    const std::string name = m_name->text().trimmed().toStdString();
    if (m_session.isEmpty() || name.empty()) return std::nullopt;
    const auto all = wanted();
    if (!all) return std::nullopt;
    divide::MakePoints step;
    step.places = all->places;
    step.onto = all->onto;
    step.name = name;
    step.group = m_group->text().trimmed().toStdString();
    return BenchStep{"divide.point", Json(step)};
}

QString PointsPage::words() const {
    const auto all = wanted();
    if (!all)
        return !m_at->text().trimmed().isEmpty() ? "Three numbers for each place"
               : m_thrown->isChecked()           ? "Pick places, then a face"
                                                 : "Pick where points shall be";
    if (m_name->text().trimmed().isEmpty()) return "A name is missing";
    return "Set " + text(counted(all->places.size(), "point"));
}

std::vector<StageLine> PointsPage::lines() const {
    const auto all = wanted();
    if (!all) return {};
    const Bnd_Box box = boxOfPlaces();
    if (box.IsVoid()) return {};
    const double arm = 0.015 * std::sqrt(box.SquareExtent());
    std::vector<StageLine> crosses;
    for (const divide::Place& place : all->places) {
        const auto point = guarded("Looking for a point", [&] { return divide::pointOf(m_session.model(), place); });
        if (!point) continue;
        for (const gp_Dir& along : {gp::DX(), gp::DY(), gp::DZ()}) {
            StageLine line;
            line.style = StageLine::Style::Brass;
            line.points = {point->Translated(gp_Vec(along) * -arm), point->Translated(gp_Vec(along) * arm)};
            crosses.push_back(std::move(line));
        }
    }
    return crosses;
}

}  // namespace rasoir::app
