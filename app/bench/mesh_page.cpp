#include "bench/mesh_page.h"

#include <QHeaderView>
#include <QVBoxLayout>

#include "whole_surveys.h"
#include "words.h"

namespace rasoir::app {
namespace {

/// What bad elements are put down to: the holes, rounds and small things that are known.
std::vector<mesh::KnownFeature> knownFeatures(const Session& session) {
    std::vector<mesh::KnownFeature> known;
    for (std::size_t p = 0; p < session.model().parts.size(); ++p) {
        const PartKnowledge* own = session.knowledge(p);
        if (own == nullptr) continue;
        if (own->holes)
            for (const survey::Hole& hole : *own->holes)
                known.push_back({p, hole.faces, "hole Ø " + readable(hole.size)});
        if (own->strips)
            for (const survey::StripChain& chain : *own->strips)
                known.push_back(
                    {p, chain.faces,
                     (chain.kind == survey::StripKind::Round ? "round R " : "chamfer ") + readable(chain.size)});
        if (own->reliefs)
            for (const survey::Relief& relief : *own->reliefs)
                known.push_back({p, relief.faces, survey::reliefKindName(relief.kind)});
    }
    return known;
}

}  // namespace

MeshPage::MeshPage(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    m_measure = new QComboBox(this);
    m_measure->setObjectName("meshMeasure");
    m_measure->setAccessibleName("Measure of the elements");
    for (const mesh::Measure one : mesh::measures) {
        QString name = mesh::measureName(one);
        name[0] = name[0].toUpper();
        m_measure->addItem(name);
    }
    column->addWidget(m_measure);
    m_blade = new CutBar("", "", this);
    column->addWidget(m_blade);
    m_besides = new QCheckBox("Beside it, as received", this);
    m_besides->setObjectName("meshBesides");
    m_besides->setToolTip("Left of the wipe the mesh of the model as it came");
    column->addWidget(m_besides);
    m_list = new QTreeWidget(this);
    m_list->setObjectName("meshPlaces");
    m_list->setAccessibleName("Where elements fall short");
    m_list->setColumnCount(2);
    m_list->setHeaderLabels({"Where elements fall short", "Elements"});
    m_list->setRootIsDecorated(false);
    m_list->header()->setStretchLastSection(false);
    m_list->header()->setSectionResizeMode(0, QHeaderView::Stretch);
    m_list->header()->setSectionResizeMode(1, QHeaderView::ResizeToContents);
    column->addWidget(m_list, 1);
    connect(m_measure, &QComboBox::currentIndexChanged, this, [this] {
        m_blade->setLimit(mesh::customaryLimit(chosen(), m_session.model().targetSize));
        m_drawn.reset();
        refresh();
        emit changed();
    });
    m_delay.setSingleShot(true);
    m_delay.setInterval(120);
    connect(m_blade, &CutBar::limitChanged, &m_delay, qOverload<>(&QTimer::start));
    connect(&m_delay, &QTimer::timeout, this, [this] {
        measureAnew();
        refresh();
        emit changed();
    });
    connect(m_besides, &QCheckBox::toggled, this, [this](bool on) {
        if (on) m_session.surveys().meshReceived.request();
        emit wipeWanted(on);
        emit changed();
    });
    const auto open = [this](QTreeWidgetItem* item) { openRow(m_list->indexOfTopLevelItem(item)); };
    connect(m_list, &QTreeWidget::itemActivated, this, open);
    connect(m_list, &QTreeWidget::itemClicked, this, open);
    for (WholeSurveyBase* made : {static_cast<WholeSurveyBase*>(&m_session.surveys().mesh),
                                  static_cast<WholeSurveyBase*>(&m_session.surveys().meshReceived)})
        connect(made, &WholeSurveyBase::changed, this, [this] {
            m_drawn.reset();
            m_received.reset();
            m_blade->setLimit(mesh::customaryLimit(chosen(), m_session.model().targetSize));
            refresh();
            emit changed();
        });
    connect(&m_session, &Session::changed, this, [this] {
        m_figures.reset();
        m_drawn.reset();
        m_received.reset();
    });
}

void MeshPage::measureAnew() {
    m_figures.reset();
    m_drawn.reset();
    m_received.reset();
    if (!m_session.surveys().trialMesh()) return;
    const mesh::TrialMesh& made = *m_session.surveys().trialMesh();
    m_figures = mesh::qualityOf(m_session.model(), made, chosen(), m_blade->limit(), knownFeatures(m_session));
    m_drawn = drawnMesh(m_session.model(), made, chosen(), m_blade->limit());
    if (m_besides->isChecked() && m_session.surveys().receivedMesh())
        m_received =
            drawnMesh(m_session.work().received(), *m_session.surveys().receivedMesh(), chosen(), m_blade->limit());
}

std::optional<int> MeshPage::bad() const {
    return m_figures ? std::optional(static_cast<int>(m_figures->bad)) : std::nullopt;
}

void MeshPage::refresh() {
    const bool made = isMade();
    if (made && !m_drawn) measureAnew();
    for (QWidget* one : {static_cast<QWidget*>(m_measure), static_cast<QWidget*>(m_blade),
                         static_cast<QWidget*>(m_besides), static_cast<QWidget*>(m_list)})
        one->setVisible(made);
    if (!made || !m_figures) return;
    const bool small = mesh::smallIsBad(m_figures->measure);
    m_blade->setWords(small ? "Too small" : "Fine");
    m_blade->setMeasure(mesh::measureUnit(m_figures->measure), m_figures->measure == mesh::Measure::ShortestSide,
                        small ? "short" : "fine");
    // Sixteen bars to a decade are enough; none straddles the blade, so that what it counts is what falls short.
    std::vector<CutItem> items;
    const double limit = m_blade->limit();
    for (const double value : m_figures->values) {
        const double bar = std::pow(10.0, std::round(16.0 * std::log10(std::max(value, 1e-3))) / 16.0);
        items.push_back({value < limit ? std::min(bar, 0.999 * limit) : std::max(bar, 1.001 * limit), false});
    }
    m_blade->setTargetSize(m_session.model().targetSize);
    m_blade->setItems(std::move(items));
    const QSignalBlocker quiet(m_list);
    m_list->clear();
    for (const mesh::BadPlace& place : m_figures->places) {
        auto* item = new QTreeWidgetItem(
            m_list, {QString("%1, %2").arg(text(place.what), text(m_session.model().parts[place.part]->name)),
                     QString::number(place.elements)});
        item->setTextAlignment(1, Qt::AlignRight | Qt::AlignVCenter);
        item->setToolTip(0, QString("Worst: %1 %2").arg(number(place.worst), mesh::measureUnit(m_figures->measure)));
        if (m_list->topLevelItemCount() >= 500) break;
    }
}

QString MeshPage::answer() const {
    if (m_session.isEmpty()) return "Open a file; a mesh shows what its small things cost.";
    if (const Problem* problem = m_session.surveys().meshProblem()) return text(sentence(*problem));
    if (!isMade())
        return QString(
            "A surface mesh at the target size, to look at and to measure: what makes its elements short would "
            "do so in any other mesh.");
    const mesh::TrialMesh& made = *m_session.surveys().trialMesh();
    std::size_t left = 0;
    for (const auto& [part, own] : made.parts) left += own.left.size();
    QString words = QString("%1 elements").arg(number(static_cast<double>(made.triangles)));
    if (made.lines > 0) words += QString(" and %1 of beams").arg(made.lines);
    if (m_figures && m_figures->elements > 0) {
        const double share = 100.0 * static_cast<double>(m_figures->bad) / static_cast<double>(m_figures->elements);
        words += m_figures->bad == 0
                     ? QString(", none falls short.")
                     : QString(", %1 % fall short at %2.")
                           .arg(text(readable(share, 1)), text(counted(m_figures->places.size(), "place")));
    }
    if (left > 0) words += QString(" %1 could not be meshed.").arg(text(counted(left, "face")));
    if (m_session.surveys().receivedMesh())
        words += QString(" As received: %1.")
                     .arg(number(static_cast<double>(m_session.surveys().receivedMesh()->triangles)));
    return words;
}

void MeshPage::addTo(BenchPreview& preview) const {
    preview.mesh = m_drawn;
    preview.meshReceived = m_besides->isChecked() ? m_received : nullptr;
}

void MeshPage::openRow(int row) {
    if (!m_figures || row < 0 || row >= static_cast<int>(m_figures->places.size())) return;
    const mesh::BadPlace& place = m_figures->places[static_cast<std::size_t>(row)];
    emit facesWanted(place.part, place.faces);
    for (const Occurrence& at : m_session.model().occurrences)
        if (at.part == place.part && !at.aside) {
            emit closerWanted(place.where.Transformed(at.placement), 6.0 * m_session.model().targetSize);
            return;
        }
}

}  // namespace rasoir::app
