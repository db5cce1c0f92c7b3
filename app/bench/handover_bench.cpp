#include "bench/handover_bench.h"

#include <QHeaderView>

#include "select/members.h"
#include "theme.h"
#include "whole_surveys.h"
#include "words.h"

namespace rasoir::app {
HandoverBench::HandoverBench(Session& session, QWidget* parent)
    : LaidOutBench("Hand over", "Can the next program use it?",
                   "Checks what is handed over, names groups that follow the model, exports.", session, parent) {
    QVBoxLayout* column = lay({{"Check", Glyph::Tick},
                               {"Groups", Glyph::Group},
                               {"What is what", Glyph::Solid},
                               {"Trial mesh", Glyph::Mesh},
                               {"Variants", Glyph::Branch},
                               {"Revision", Glyph::PartFace}});
    m_list = new QTreeWidget(this);
    m_list->setObjectName("handover");
    m_list->setAccessibleName("Findings and groups");
    m_list->setRootIsDecorated(false);
    m_list->setWordWrap(true);
    m_list->setTextElideMode(Qt::ElideNone);
    m_list->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    m_list->header()->setStretchLastSection(false);
    column->addWidget(m_list, 1);
    m_mesh = new MeshPage(session, this);
    column->addWidget(m_mesh, 1);
    connect(m_mesh, &MeshPage::changed, this, [this] {
        refresh();
        emit previewChanged();
    });
    connect(m_mesh, &MeshPage::wipeWanted, this, &HandoverBench::wipeWanted);
    connect(m_mesh, &MeshPage::closerWanted, this, &Bench::closerWanted);
    connect(m_mesh, &MeshPage::facesWanted, this, [this](std::size_t part, const std::vector<int>& faces) {
        std::set<Member> shown;
        for (const int f : faces) shown.insert({m_session.model().parts[part]->id, everyPlace, {EntityKind::Face, f}});
        emit picksWanted(select::picksOf(m_session.model(), shown));
    });
    m_groups = new GroupsPage(session, this);
    connect(m_groups, &GroupsPage::picksWanted, this, &Bench::picksWanted);
    connect(m_groups, &GroupsPage::selectionCloserWanted, this, &Bench::selectionCloserWanted);
    m_attributes = new AttributesPage(session, this);
    m_revision = new RevisionPage(session, this);
    m_variants = new VariantsPage(session, this);
    for (BenchPage* own : {static_cast<BenchPage*>(m_groups), static_cast<BenchPage*>(m_attributes),
                           static_cast<BenchPage*>(m_revision), static_cast<BenchPage*>(m_variants)}) {
        column->addWidget(own, 1);
        connect(own, &BenchPage::changed, this, [this, own] {
            if (page() != own) return;
            setAnswer(own->answer());
            button()->setText(own->words());
            button()->setEnabled(!m_session.isBusy() && !m_session.isEmpty() &&
                                 (own->acts() || own->step().has_value()));
            emit previewChanged();
        });
    }
    connect(m_variants, &VariantsPage::wipeWanted, this, &HandoverBench::wipeWanted);
    connect(m_revision, &RevisionPage::fileWanted, this, &HandoverBench::revisionFileWanted);
    connect(m_kinds, &KindGrid::chosen, this, [this](int) { emit previewChanged(); });
    m_report = new QPushButton("Write a report…", this);
    m_report->setObjectName("writeReport");
    m_report->setToolTip("A page that tells what was changed, and whether it mattered");
    connect(m_report, &QPushButton::clicked, this, &HandoverBench::reportWanted);
    column->addWidget(m_report);
    m_foot->resultSwitch()->hide();  // what it does is not seen in the shape
    connect(m_list, &QTreeWidget::itemActivated, this,
            [this](QTreeWidgetItem* item) { openRow(m_list->indexOfTopLevelItem(item)); });
    connect(m_list, &QTreeWidget::itemClicked, this,
            [this](QTreeWidgetItem* item) { openRow(m_list->indexOfTopLevelItem(item)); });
    connect(&m_session.surveys().check, &WholeSurveyBase::changed, this, [this] { refresh(); });
    refresh();
}

void HandoverBench::showEvent(QShowEvent* event) {
    LaidOutBench::showEvent(event);
    m_session.surveys().check.request();
}

void HandoverBench::showKind(HandoverKind kind) {
    m_kinds->setCurrent(static_cast<int>(kind));
    emit m_kinds->chosen(static_cast<int>(kind));
}

std::vector<BenchDeed> HandoverBench::deeds() {
    return {{"Check what is handed over", {}, [this](const auto&) { showKind(HandoverKind::Check); }},
            {"&Group what is picked", QKeySequence("Ctrl+Alt+G"),
             [this](const auto& picks) {
                 picksChanged(picks);
                 showKind(HandoverKind::Groups);
                 m_groups->name()->setFocus();
             }},
            {"Say what is what", {}, [this](const auto&) { showKind(HandoverKind::What); }},
            {"Variants of this work", {}, [this](const auto&) { showKind(HandoverKind::Variants); }},
            {"Look at the next revision", {}, [this](const auto&) { showKind(HandoverKind::Revision); }},
            {"Make a trial mesh", {}, [this](const auto&) {
                 showKind(HandoverKind::Mesh);
                 if (!m_mesh->isMade()) m_session.surveys().askMesh();
             }}};
}

QString HandoverBench::state() const {
    if (m_session.isEmpty()) return "no file";
    const auto& found = m_session.surveys().check.found();
    if (!found) return "not checked";
    const auto count = [&found](handover::Severity severity) {
        return std::count_if(found->begin(), found->end(),
                             [severity](const handover::CheckFinding& one) { return one.severity == severity; });
    };
    if (const auto errors = count(handover::Severity::Error); errors > 0)
        return text(counted(static_cast<std::size_t>(errors), "error"));
    const auto warnings = count(handover::Severity::Warning);
    return warnings > 0 ? text(counted(static_cast<std::size_t>(warnings), "warning")) : QString("ready");
}

void HandoverBench::picksChanged(const std::vector<select::Pick>& picks) {
    m_groups->picksChanged(picks);
    if (kind() != HandoverKind::Groups) return;
    refresh();
    emit previewChanged();
}

void HandoverBench::openRow(int row) {
    if (row < 0) return;
    const Model& model = m_session.model();
    const auto& found = m_session.surveys().check.found();
    if (!found || row >= static_cast<int>(found->size())) return;
    const handover::CheckFinding& finding = (*found)[static_cast<std::size_t>(row)];
    std::set<Member> shown;
    if (finding.part < model.parts.size())
        for (const Entity& thing : finding.things) shown.insert({model.parts[finding.part]->id, everyPlace, thing});
    emit picksWanted(select::picksOf(model, shown));
    if (finding.where)
        for (const Occurrence& place : model.occurrences)
            if (place.part == finding.part) {
                emit closerWanted(finding.where->Transformed(place.placement), 4.0 * model.targetSize);
                break;
            }
}

void HandoverBench::refresh() {
    if (isVisible()) m_session.surveys().check.request();
    const Model& model = m_session.model();
    const auto& found = m_session.surveys().check.found();
    const bool checks = kind() == HandoverKind::Check;
    m_kinds->setCount(0, found ? std::optional(static_cast<int>(found->size())) : std::nullopt);
    m_kinds->setCount(1, m_groups->count());
    const bool meshes = kind() == HandoverKind::Mesh;
    m_kinds->setCount(2, m_session.isEmpty() ? std::nullopt : m_attributes->count());
    m_kinds->setCount(3, m_mesh->bad());
    m_groups->setVisible(page() == m_groups);
    m_list->setVisible(!meshes && page() == nullptr);
    m_attributes->setVisible(page() == m_attributes);
    m_revision->setVisible(page() == m_revision);
    m_variants->setVisible(page() == m_variants);
    m_kinds->setCount(4, m_variants->count());
    m_mesh->setVisible(meshes);
    m_report->setVisible(checks);
    if (meshes) {
        m_mesh->refresh();
        m_kinds->setCount(3, m_mesh->bad());
        setAnswer(m_mesh->answer());
        button()->setText(m_mesh->isMade() ? QString("Write the mesh…")
                                           : QString("Make a trial mesh at %1 mm").arg(number(model.targetSize)));
        button()->setEnabled(!m_session.isEmpty() && !m_session.isBusy());
        emit stateChanged();
        return;
    }
    if (page() != nullptr) {
        page()->refresh();
        emit page()->changed();
        emit stateChanged();
        return;
    }
    const QSignalBlocker quiet(m_list);
    m_list->clear();
    const Palette& p = colours();
    m_list->setColumnCount(1);
    m_list->setHeaderHidden(true);
    m_list->header()->setSectionResizeMode(0, QHeaderView::Stretch);
    m_list->setColumnWidth(0, m_list->viewport()->width());
    if (found)
        for (const handover::CheckFinding& finding : *found) {
            auto* item =
                new QTreeWidgetItem(m_list, {text(finding.what) + " " + text(finding.why) +
                                             (finding.bench.empty() ? QString() : " → " + text(finding.bench))});
            item->setIcon(0, glyphIcon(finding.severity == handover::Severity::Note ? Glyph::Other : Glyph::Trouble,
                                       finding.severity == handover::Severity::Error     ? p.vermilion
                                       : finding.severity == handover::Severity::Warning ? p.brass
                                                                                         : p.second));
            item->setToolTip(0, QString(handover::severityName(finding.severity)) + ": " + item->text(0));
        }
    wrapRows(m_list, 0);
    setAnswer(m_session.isEmpty() ? "Open a file; what the next program would choke on will be listed here."
              : !found            ? "Checking…"
              : found->empty()    ? "Nothing stands in the way."
                                  : "");
    m_report->setEnabled(!m_session.isEmpty() && !m_session.isBusy());
    button()->setText("Export geometry…");
    button()->setEnabled(!m_session.isEmpty() && !m_session.isBusy());
    emit stateChanged();
}

BenchPage* HandoverBench::page() const {
    switch (kind()) {
        case HandoverKind::Groups:
            return m_groups;
        case HandoverKind::What:
            return m_attributes;
        case HandoverKind::Variants:
            return m_variants;
        case HandoverKind::Revision:
            return m_revision;
        case HandoverKind::Check:
        case HandoverKind::Mesh:
            break;
    }
    return nullptr;
}

void HandoverBench::apply() {
    if (page() != nullptr && page()->acts()) {
        page()->act();
        return;
    }
    if (kind() == HandoverKind::Check) {
        emit exportWanted();
        return;
    }
    if (kind() == HandoverKind::Mesh) {
        if (m_mesh->isMade())
            emit meshFileWanted();
        else
            m_session.surveys().askMesh();
        return;
    }
    LaidOutBench::apply();
    if (page() == m_groups) m_groups->made();
}

std::optional<BenchStep> HandoverBench::step() const {
    return page() == nullptr || m_session.isEmpty() ? std::nullopt : page()->step();
}

BenchPreview HandoverBench::preview() const {
    BenchPreview preview;
    if (kind() == HandoverKind::Mesh) m_mesh->addTo(preview);
    if (page() == m_variants) m_variants->addTo(preview);
    if (page() == m_groups) m_groups->addTo(preview);
    return preview;
}

}  // namespace rasoir::app
