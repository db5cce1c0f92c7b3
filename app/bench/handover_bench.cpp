#include "bench/handover_bench.h"

#include <QCompleter>
#include <QFormLayout>
#include <QHeaderView>
#include <QKeyEvent>

#include "measure/frames.h"
#include "model/reference.h"
#include "selection.h"
#include "theme.h"
#include "words.h"

namespace rasoir::app {
namespace {

/// Members of a group as picks, in every place where they are.
std::vector<select::Pick> picksOf(const Model& model, const Group& group) {
    std::vector<select::Pick> picks;
    for (const Member& member : group.members)
        for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
            const Occurrence& place = model.occurrences[o];
            if (model.parts[place.part]->id != member.part || place.aside) continue;
            if (member.place != everyPlace && member.place != place.id) continue;
            select::Pick pick{o};
            switch (member.entity.kind) {
                case EntityKind::Face:
                    pick.face = member.entity.number;
                    break;
                case EntityKind::Edge:
                    pick.edge = member.entity.number;
                    break;
                case EntityKind::Vertex:
                    pick.vertex = member.entity.number;
                    break;
                case EntityKind::Body:
                    break;  // the whole place
            }
            picks.push_back(pick);
        }
    return picks;
}

}  // namespace

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
    m_list->installEventFilter(this);
    column->addWidget(m_list, 1);
    m_groupPage = new QWidget(this);
    auto* form = new QFormLayout(m_groupPage);
    form->setContentsMargins(0, 0, 0, 0);
    m_name = new QLineEdit(m_groupPage);
    m_name->setObjectName("groupName");
    m_name->setAccessibleName("Name of the group");
    m_purpose = new QLineEdit(m_groupPage);
    m_purpose->setObjectName("groupPurpose");
    m_purpose->setAccessibleName("What the group is for");
    m_purpose->setPlaceholderText("load, support, coordinate system …");
    auto* purposes = new QCompleter({"load", "support", "contact", "mesh", measure::framePurpose}, this);
    purposes->setCaseSensitivity(Qt::CaseInsensitive);
    purposes->setCompletionMode(QCompleter::InlineCompletion);  // a list would lie over the button
    m_purpose->setCompleter(purposes);
    form->addRow("Name", m_name);
    form->addRow("For", m_purpose);
    column->addWidget(m_groupPage);
    m_mesh = new MeshPage(session, this);
    column->addWidget(m_mesh, 1);
    connect(m_mesh, &MeshPage::changed, this, [this] {
        refresh();
        emit previewChanged();
    });
    connect(m_mesh, &MeshPage::wipeWanted, this, &HandoverBench::wipeWanted);
    connect(m_mesh, &MeshPage::closerWanted, this, &Bench::closerWanted);
    connect(m_mesh, &MeshPage::facesWanted, this, [this](std::size_t part, const std::vector<int>& faces) {
        Group shown;
        for (const int f : faces)
            shown.members.insert({m_session.model().parts[part]->id, everyPlace, {EntityKind::Face, f}});
        emit picksWanted(picksOf(m_session.model(), shown));
    });
    m_attributes = new AttributesPage(session, this);
    m_revision = new RevisionPage(session, this);
    m_variants = new VariantsPage(session, this);
    for (BenchPage* own : {static_cast<BenchPage*>(m_attributes), static_cast<BenchPage*>(m_revision),
                           static_cast<BenchPage*>(m_variants)}) {
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
    for (QLineEdit* edit : {m_name, m_purpose})
        connect(edit, &QLineEdit::textChanged, this, [this] {
            refresh();
            emit previewChanged();
        });
    connect(m_list, &QTreeWidget::itemActivated, this,
            [this](QTreeWidgetItem* item) { openRow(m_list->indexOfTopLevelItem(item)); });
    connect(m_list, &QTreeWidget::itemClicked, this,
            [this](QTreeWidgetItem* item) { openRow(m_list->indexOfTopLevelItem(item)); });
    connect(&m_session, &Session::checkChanged, this, [this] { refresh(); });
    refresh();
}

void HandoverBench::showEvent(QShowEvent* event) {
    LaidOutBench::showEvent(event);
    m_session.requestCheck();
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
                 m_name->setFocus();
             }},
            {"Say what is what", {}, [this](const auto&) { showKind(HandoverKind::What); }},
            {"Variants of this work", {}, [this](const auto&) { showKind(HandoverKind::Variants); }},
            {"Look at the next revision", {}, [this](const auto&) { showKind(HandoverKind::Revision); }},
            {"Make a trial mesh", {}, [this](const auto&) {
                 showKind(HandoverKind::Mesh);
                 if (!m_mesh->isMade()) m_session.requestTrialMesh();
             }}};
}

QString HandoverBench::state() const {
    if (m_session.isEmpty()) return "no file";
    const auto& found = m_session.check();
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
    m_picks = picks;
    if (kind() != HandoverKind::Groups) return;
    refresh();
    emit previewChanged();
}

void HandoverBench::openRow(int row) {
    if (row < 0) return;
    const Model& model = m_session.model();
    if (kind() == HandoverKind::Groups) {
        if (row < static_cast<int>(model.groups.size())) {
            emit picksWanted(picksOf(model, model.groups[static_cast<std::size_t>(row)]));
            emit selectionCloserWanted();
        }
        return;
    }
    const auto& found = m_session.check();
    if (!found || row >= static_cast<int>(found->size())) return;
    const handover::CheckFinding& finding = (*found)[static_cast<std::size_t>(row)];
    Group shown;
    if (finding.part < model.parts.size())
        for (const Entity& thing : finding.things)
            shown.members.insert({model.parts[finding.part]->id, everyPlace, thing});
    emit picksWanted(picksOf(model, shown));
    if (finding.where)
        for (const Occurrence& place : model.occurrences)
            if (place.part == finding.part) {
                emit closerWanted(finding.where->Transformed(place.placement), 4.0 * model.targetSize);
                break;
            }
}

bool HandoverBench::eventFilter(QObject* watched, QEvent* event) {
    const bool key = event->type() == QEvent::KeyPress || event->type() == QEvent::ShortcutOverride;
    if (watched == m_list && key && static_cast<QKeyEvent*>(event)->key() == Qt::Key_Delete &&
        kind() == HandoverKind::Groups) {
        event->accept();
        const int row = m_list->indexOfTopLevelItem(m_list->currentItem());
        if (event->type() == QEvent::KeyPress && row >= 0)
            m_session.apply("handover.group",
                            {{"name", m_session.model().groups[static_cast<std::size_t>(row)].name}, {"drop", true}});
        return true;
    }
    return LaidOutBench::eventFilter(watched, event);
}

void HandoverBench::refresh() {
    if (isVisible()) m_session.requestCheck();
    const Model& model = m_session.model();
    const auto& found = m_session.check();
    const bool checks = kind() == HandoverKind::Check;
    m_kinds->setCount(0, found ? std::optional(static_cast<int>(found->size())) : std::nullopt);
    m_kinds->setCount(1, static_cast<int>(model.groups.size()));
    const bool meshes = kind() == HandoverKind::Mesh;
    m_kinds->setCount(2, m_session.isEmpty() ? std::nullopt : m_attributes->count());
    m_kinds->setCount(3, m_mesh->bad());
    m_groupPage->setVisible(kind() == HandoverKind::Groups);
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
    if (checks) {
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
    } else {
        m_list->setColumnCount(2);
        m_list->setHeaderHidden(false);
        m_list->setHeaderLabels({"Group", "Members"});
        m_list->header()->setSectionResizeMode(0, QHeaderView::Stretch);
        m_list->header()->setSectionResizeMode(1, QHeaderView::ResizeToContents);
        for (const Group& group : model.groups) {
            auto* item = new QTreeWidgetItem(
                m_list, {text(group.name) + (group.purpose.empty() ? QString() : ", " + text(group.purpose)) +
                             (group.rule ? " (by rule)" : ""),
                         QString::number(group.members.size())});
            item->setTextAlignment(1, Qt::AlignRight | Qt::AlignVCenter);
            if (group.members.empty()) item->setForeground(0, p.vermilionText);
        }
    }
    if (checks) wrapRows(m_list, 0);
    QString answer;
    if (m_session.isEmpty())
        answer = "Open a file; what the next program would choke on will be listed here.";
    else if (checks && !found)
        answer = "Checking…";
    else if (checks && found->empty())
        answer = "Nothing stands in the way.";
    else if (!checks && model.groups.empty())
        answer = "No groups yet. Pick what belongs together and give it a name.";
    setAnswer(answer);
    m_report->setEnabled(!m_session.isEmpty() && !m_session.isBusy());
    if (checks) {
        button()->setText("Export geometry…");
        button()->setEnabled(!m_session.isEmpty() && !m_session.isBusy());
    } else {
        button()->setText(m_picks.empty() ? QString("Pick what belongs together")
                                          : QString("Group %1").arg(describeSelection(m_picks)));
        button()->setEnabled(step().has_value() && !m_session.isBusy());
    }
    emit stateChanged();
}

BenchPage* HandoverBench::page() const {
    switch (kind()) {
        case HandoverKind::What:
            return m_attributes;
        case HandoverKind::Variants:
            return m_variants;
        case HandoverKind::Revision:
            return m_revision;
        case HandoverKind::Check:
        case HandoverKind::Groups:
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
            m_session.requestTrialMesh();
        return;
    }
    LaidOutBench::apply();
    m_name->clear();
}

std::optional<BenchStep> HandoverBench::step() const {
    if (page() != nullptr) return m_session.isEmpty() ? std::nullopt : page()->step();
    if (m_session.isEmpty() || kind() != HandoverKind::Groups) return std::nullopt;
    const QString name = m_name->text().trimmed();
    if (name.isEmpty() || m_picks.empty()) return std::nullopt;
    const Model& model = m_session.model();
    Json things = Json::array();
    std::set<std::string> parts;
    for (const select::Pick& pick : m_picks) {
        if (pick.occurrence >= model.occurrences.size()) continue;
        const Part& part = *model.parts[model.occurrences[pick.occurrence].part];
        if (pick.face > 0)
            things.push_back(makeRef(part, {EntityKind::Face, pick.face}));
        else if (pick.edge > 0)
            things.push_back(makeRef(part, {EntityKind::Edge, pick.edge}));
        else if (pick.vertex > 0)
            things.push_back(makeRef(part, {EntityKind::Vertex, pick.vertex}));
        else
            parts.insert(part.name);
    }
    Json parameters{{"name", name.toStdString()}};
    if (!m_purpose->text().trimmed().isEmpty()) parameters["purpose"] = m_purpose->text().trimmed().toStdString();
    if (!things.empty()) parameters["things"] = std::move(things);
    if (!parts.empty()) parameters["parts"] = parts;
    return BenchStep{"handover.group", std::move(parameters)};
}

/// Axes of the coordinate systems there are, and of the one that what is picked would make.
void HandoverBench::addFrames(BenchPreview& preview) const {
    const Model& model = m_session.model();
    std::vector<measure::Frame> frames = measure::framesOf(model);
    if (m_purpose->text().trimmed() == measure::framePurpose && !m_name->text().trimmed().isEmpty())
        if (const auto axes = measure::frameOf(model, pickedGroup()))
            frames.push_back({m_name->text().trimmed().toStdString(), *axes});
    const double length = 0.12 * model.extent();
    for (const measure::Frame& frame : frames)
        for (const auto& [along, name] :
             {std::pair{frame.axes.XDirection(), "X"}, {frame.axes.YDirection(), "Y"}, {frame.axes.Direction(), "Z"}}) {
            StageLine axis;
            axis.style = StageLine::Style::Brass;
            axis.points = {frame.axes.Location(), frame.axes.Location().Translated(gp_Vec(along) * length)};
            axis.text = *name == 'Z' ? "Z " + text(frame.name) : QString(name);
            preview.lines.push_back(std::move(axis));
        }
}

Group HandoverBench::pickedGroup() const {
    const Model& model = m_session.model();
    Group group;
    for (const select::Pick& pick : m_picks) {
        if (pick.occurrence >= model.occurrences.size()) continue;
        const Occurrence& place = model.occurrences[pick.occurrence];
        const PartId part = model.parts[place.part]->id;
        if (pick.face > 0) group.members.insert({part, place.id, {EntityKind::Face, pick.face}});
        if (pick.edge > 0) group.members.insert({part, place.id, {EntityKind::Edge, pick.edge}});
        if (pick.vertex > 0) group.members.insert({part, place.id, {EntityKind::Vertex, pick.vertex}});
    }
    return group;
}

BenchPreview HandoverBench::preview() const {
    BenchPreview preview;
    if (kind() == HandoverKind::Mesh) m_mesh->addTo(preview);
    if (page() == m_variants) m_variants->addTo(preview);
    if (kind() == HandoverKind::Groups) addFrames(preview);
    return preview;
}

}  // namespace rasoir::app
