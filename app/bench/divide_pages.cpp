#include "bench/divide_pages.h"

#include <QFormLayout>
#include <QHeaderView>

#include "bench/bench.h"
#include "stage/part_presentation.h"
#include "theme.h"
#include "whole_surveys.h"
#include "words.h"

namespace rasoir::app {
// --- cross-sections

SectionPage::SectionPage(Session& session, QWidget* parent) : PickPage(session, parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    auto* hint = new QLabel(
        "Of what is selected, or of everything: one planar sheet for each body, with common edges where bodies "
        "touch. What is missed is set aside.",
        this);
    hint->setWordWrap(true);
    column->addWidget(hint);
    auto* form = new QFormLayout;
    m_through = new QComboBox(this);
    m_through->setObjectName("sectionThrough");
    m_through->setAccessibleName("Where the section runs");
    m_through->addItems({"the common axis", "a plane across x", "a plane across y", "a plane across z"});
    form->addRow("Through", m_through);
    m_numberLabel = new QLabel(this);
    m_number = field(this, "sectionNumber", "Position or angle", "0");
    form->addRow(m_numberLabel, m_number);
    column->addLayout(form);
    m_half = new QCheckBox("one side of it, brought to XY", this);
    m_half->setObjectName("sectionHalf");
    m_half->setToolTip("Only what lies on one side of the axis, the axis on Y and the sheets at x above 0");
    m_half->setChecked(true);
    column->addWidget(m_half);
    column->addStretch(1);
    connect(m_through, &QComboBox::activated, this, [this] {
        refresh();
        emit changed();
    });
    connect(m_half, &QCheckBox::toggled, this, &PickPage::changed);
    refresh();
}

void SectionPage::refresh() {
    const bool axis = m_through->currentIndex() == 0;
    m_numberLabel->setText(axis ? "Angle about it °"
                                : QString("Position on %1 mm").arg(QChar("xyz"[m_through->currentIndex() - 1])));
    m_half->setVisible(axis);
}

std::optional<BenchStep> SectionPage::step() const {
    if (m_session.isEmpty()) return std::nullopt;
    Json parameters = Json::object();
    if (!m_places.empty()) parameters["places"] = m_places;
    const int across = m_through->currentIndex() - 1;
    if (across < 0) {
        bool fine = false;
        const double angle = m_number->text().trimmed().replace(QChar(0x2212), '-').toDouble(&fine);
        if (!fine) return std::nullopt;
        if (angle != 0.0) parameters["angle"] = angle;
        if (!m_half->isChecked()) parameters["half"] = parameters["flat"] = false;
    } else {
        const auto at = numberIn(m_number);
        if (!at) return std::nullopt;
        std::array<double, 3> through{}, normal{};
        through[static_cast<std::size_t>(across)] = *at;
        normal[static_cast<std::size_t>(across)] = 1.0;
        parameters["plane"] = Json{{"through", through}, {"normal", normal}};
    }
    return BenchStep{"divide.crossSection", std::move(parameters)};
}

QString SectionPage::words() const {
    return step() ? QString(m_places.empty() ? "Cross-section of everything" : "Make the cross-section")
                  : QString("A number is missing");
}

// --- symmetries

SymmetryPage::SymmetryPage(Session& session, QWidget* parent) : PickPage(session, parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    m_hint = new QLabel(this);
    m_hint->setWordWrap(true);
    column->addWidget(m_hint);
    m_list = new QTreeWidget(this);
    m_list->setObjectName("symmetries");
    m_list->setAccessibleName("Symmetries found");
    m_list->setColumnCount(1);
    m_list->setHeaderHidden(true);
    m_list->setRootIsDecorated(false);
    m_list->setWordWrap(true);
    m_list->setSelectionMode(QAbstractItemView::ExtendedSelection);
    m_list->setToolTip("Several mirror planes together (Ctrl) keep a quarter or an eighth");
    column->addWidget(m_list, 1);
    m_other = new QCheckBox("keep the other side", this);
    m_other->setObjectName("otherSide");
    column->addWidget(m_other);
    connect(m_list, &QTreeWidget::itemSelectionChanged, this, &PickPage::changed);
    // Each plane has a side of its own: the box speaks of the row in hand.
    connect(m_list, &QTreeWidget::currentItemChanged, this, [this] {
        const QSignalBlocker quiet(m_other);
        m_other->setChecked(m_behind.contains(m_list->indexOfTopLevelItem(m_list->currentItem())));
    });
    connect(m_other, &QCheckBox::toggled, this, [this](bool behind) {
        const int row = m_list->indexOfTopLevelItem(m_list->currentItem());
        if (behind)
            m_behind.insert(row);
        else
            m_behind.erase(row);
        emit changed();
    });
    connect(&m_session.surveys().symmetries, &WholeSurveyBase::changed, this, [this] {
        if (m_session.surveys().symmetries.found()) {
            m_behind.clear();
            const QSignalBlocker quiet(m_other);
            m_other->setChecked(false);
        }
        refresh();
        emit changed();
    });
}

void SymmetryPage::showEvent(QShowEvent* event) {
    PickPage::showEvent(event);
    refresh();
}

void SymmetryPage::refresh() {
    if (isVisible()) m_session.surveys().askSymmetries(m_session.places().selected());
    const auto& found = m_session.surveys().symmetries.found();
    m_hint->setText(
        m_session.isEmpty() ? QString()
        : !found            ? QString("Looking…")
        : found->empty()    ? QString("No symmetry: no plane or turn carries nine tenths of the faces onto others like "
                                         "them within a hundredth of the target size.")
        : m_places.empty()
            ? QString("Of everything that is not set aside:")
            : QString("Of %1:").arg(m_places.size() == 1 ? text(m_places.front())
                                                         : text(counted(m_session.places().selected().size(),
                                                                        "selected body", "selected bodies"))));
    QStringList rows;
    if (found)
        for (const survey::Symmetry& one : *found) rows << text(survey::describe(one));
    // Rows stay while they say the same: what is selected among them is the user's.
    if (rows == m_rows) return;
    m_rows = rows;
    const QSignalBlocker quiet(m_list);
    m_list->clear();
    for (const QString& row : rows) new QTreeWidgetItem(m_list, {row});
    if (!rows.empty()) m_list->setCurrentItem(m_list->topLevelItem(0));
    wrapRows(m_list, 0);
}

std::vector<std::pair<int, const survey::Symmetry*>> SymmetryPage::chosen() const {
    std::vector<std::pair<int, const survey::Symmetry*>> all;
    const auto& found = m_session.surveys().symmetries.found();
    for (int row = 0; found && row < m_list->topLevelItemCount() && row < static_cast<int>(found->size()); ++row)
        if (m_list->topLevelItem(row)->isSelected()) all.emplace_back(row, &(*found)[static_cast<std::size_t>(row)]);
    return all;
}

std::optional<BenchStep> SymmetryPage::step() const {
    const auto rows = chosen();
    if (rows.empty()) return std::nullopt;
    Json parameters = Json::object(), planes = Json::array();
    if (!m_places.empty()) parameters["places"] = m_places;
    for (const auto& [row, one] : rows) {
        const gp_Ax1 axis = one->mirror ? one->plane.Axis() : one->axis;
        const gp_XYZ at = axis.Location().XYZ(), along = axis.Direction().XYZ() * (m_behind.contains(row) ? -1.0 : 1.0);
        const std::array<double, 3> through{at.X(), at.Y(), at.Z()}, direction{along.X(), along.Y(), along.Z()};
        if (one->mirror)
            planes.push_back({{"through", through}, {"normal", direction}});
        else if (rows.size() > 1)
            return std::nullopt;  // a sector has two planes of its own
        else                      // of what is round at any angle a quarter is usual
            parameters["turn"] = {
                {"through", through}, {"direction", direction}, {"count", one->order == 0 ? 4 : one->order}};
    }
    if (!planes.empty()) parameters["planes"] = std::move(planes);
    return BenchStep{"divide.keepSector", std::move(parameters)};
}

QString SymmetryPage::words() const {
    const auto rows = chosen();
    if (rows.empty()) return "No symmetry";
    const survey::Symmetry& first = *rows.front().second;
    if (rows.size() == 1 && !first.mirror)
        return QString("Keep one of %1 sectors").arg(first.order == 0 ? 4 : first.order);
    if (!step()) return "Mirror planes alone go together";
    const bool whole = std::all_of(rows.begin(), rows.end(), [](const auto& row) { return row.second->whole(); });
    const QString part = rows.size() == 1   ? "Keep one half"
                         : rows.size() == 2 ? "Keep one quarter"
                         : rows.size() == 3 ? "Keep one eighth"
                                            : "Keep what lies in front of all";
    return whole ? part : part + " all the same";
}

StageLine SymmetryPage::drawn(const survey::Symmetry& one, double reach) const {
    StageLine line;
    line.style = StageLine::Style::Brass;
    if (one.mirror) {
        const gp_Ax3 frame = one.plane.Position();
        for (const auto& [u, v] : {std::pair{-1.0, -1.0}, {1.0, -1.0}, {1.0, 1.0}, {-1.0, 1.0}})
            line.points.push_back(frame.Location().Translated(
                (gp_Vec(frame.XDirection()) * u + gp_Vec(frame.YDirection()) * v) * (0.8 * reach)));
        line.closed = true;
    } else {
        for (const double t : {-1.0, 1.0})
            line.points.push_back(one.axis.Location().Translated(gp_Vec(one.axis.Direction()) * (t * reach)));
    }
    return line;
}

std::vector<StageLine> SymmetryPage::lines() const {
    const Bnd_Box box = boxOfPlaces();
    if (box.IsVoid()) return {};
    std::vector<StageLine> all;
    const auto rows = chosen();
    for (const auto& [row, one] : rows) all.push_back(drawn(*one, 0.55 * std::sqrt(box.SquareExtent())));
    // What has no partner is drawn, so that one sees why it is only nearly symmetric.
    constexpr std::size_t mostDrawn = 400;
    const Model& model = m_session.model();
    for (const auto& [row, one] : rows)
        for (const auto& [place, face] : one->without) {
            if (all.size() > mostDrawn) break;
            const Incidence& topology = model.parts[model.occurrences[place].part]->incidence();
            for (const int e : topology.edgesOf(face)) {
                StageLine rim;
                rim.style = StageLine::Style::Trouble;
                for (const gp_Pnt& point : edgePoints(topology, e))
                    rim.points.push_back(point.Transformed(model.occurrences[place].placement));
                if (!rim.points.empty()) all.push_back(std::move(rim));
            }
        }
    return all;
}

}  // namespace rasoir::app
