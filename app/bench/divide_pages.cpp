#include "bench/divide_pages.h"

#include <QFormLayout>
#include <QHeaderView>

#include "bench/bench.h"
#include "stage/part_presentation.h"
#include "theme.h"
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
    column->addWidget(m_list, 1);
    m_other = new QCheckBox("keep the other side", this);
    m_other->setObjectName("otherSide");
    column->addWidget(m_other);
    connect(m_list, &QTreeWidget::currentItemChanged, this, &PickPage::changed);
    connect(m_other, &QCheckBox::toggled, this, &PickPage::changed);
    connect(&m_session, &Session::symmetriesChanged, this, [this] {
        refresh();
        emit changed();
    });
}

void SymmetryPage::showEvent(QShowEvent* event) {
    PickPage::showEvent(event);
    refresh();
}

void SymmetryPage::refresh() {
    if (isVisible()) m_session.requestSymmetries(m_session.selectedOccurrences());
    const auto& found = m_session.symmetries();
    const int row = m_list->indexOfTopLevelItem(m_list->currentItem());
    const QSignalBlocker quiet(m_list);
    m_list->clear();
    m_hint->setText(
        m_session.isEmpty() ? QString()
        : !found            ? QString("Looking…")
        : found->empty()    ? QString("No symmetry: no plane or turn carries nine tenths of the faces onto others like "
                                         "them within a hundredth of the target size.")
        : m_places.empty()
            ? QString("Of everything that is not set aside:")
            : QString("Of %1:").arg(m_places.size() == 1 ? text(m_places.front())
                                                         : text(counted(m_session.selectedOccurrences().size(),
                                                                        "selected body", "selected bodies"))));
    if (!found) return;
    for (const survey::Symmetry& one : *found) new QTreeWidgetItem(m_list, {text(survey::describe(one))});
    if (!found->empty())
        m_list->setCurrentItem(m_list->topLevelItem(std::clamp(row, 0, static_cast<int>(found->size()) - 1)));
    wrapRows(m_list, 0);
}

const survey::Symmetry* SymmetryPage::chosen() const {
    const auto& found = m_session.symmetries();
    const int row = m_list->indexOfTopLevelItem(m_list->currentItem());
    if (!found || row < 0 || row >= static_cast<int>(found->size())) return nullptr;
    return &(*found)[static_cast<std::size_t>(row)];
}

std::optional<BenchStep> SymmetryPage::step() const {
    const survey::Symmetry* one = chosen();
    if (one == nullptr) return std::nullopt;
    const gp_Ax1 axis = one->mirror ? one->plane.Axis() : one->axis;
    const gp_XYZ at = axis.Location().XYZ(), along = axis.Direction().XYZ() * (m_other->isChecked() ? -1.0 : 1.0);
    const std::array<double, 3> through{at.X(), at.Y(), at.Z()}, direction{along.X(), along.Y(), along.Z()};
    Json parameters = Json::object();
    if (!m_places.empty()) parameters["places"] = m_places;
    if (one->mirror)
        parameters["planes"] = {{{"through", through}, {"normal", direction}}};
    else  // of what is round at any angle a quarter is usual
        parameters["turn"] = {
            {"through", through}, {"direction", direction}, {"count", one->order == 0 ? 4 : one->order}};
    return BenchStep{"divide.keepSector", std::move(parameters)};
}

QString SymmetryPage::words() const {
    const survey::Symmetry* one = chosen();
    if (one == nullptr) return "No symmetry";
    if (one->mirror) return one->whole() ? "Keep one half" : "Keep one half all the same";
    return QString("Keep one of %1 sectors").arg(one->order == 0 ? 4 : one->order);
}

std::vector<StageLine> SymmetryPage::lines() const {
    const survey::Symmetry* one = chosen();
    if (one == nullptr) return {};
    const Bnd_Box box = boxOfPlaces();
    if (box.IsVoid()) return {};
    const double reach = 0.55 * std::sqrt(box.SquareExtent());
    StageLine line;
    line.style = StageLine::Style::Brass;
    if (one->mirror) {
        const gp_Ax3 frame = one->plane.Position();
        for (const auto& [u, v] : {std::pair{-1.0, -1.0}, {1.0, -1.0}, {1.0, 1.0}, {-1.0, 1.0}})
            line.points.push_back(frame.Location().Translated(
                (gp_Vec(frame.XDirection()) * u + gp_Vec(frame.YDirection()) * v) * (0.8 * reach)));
        line.closed = true;
    } else {
        for (const double t : {-1.0, 1.0})
            line.points.push_back(one->axis.Location().Translated(gp_Vec(one->axis.Direction()) * (t * reach)));
    }
    std::vector<StageLine> all{line};
    // What has no partner is drawn, so that one sees why it is only nearly symmetric.
    constexpr std::size_t mostDrawn = 400;
    const Model& model = m_session.model();
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
