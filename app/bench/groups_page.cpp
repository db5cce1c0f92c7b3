#include "bench/groups_page.h"

#include <QColorDialog>
#include <QCompleter>
#include <QFormLayout>
#include <QKeyEvent>
#include <QMenu>

#include "handover/rules.h"
#include "measure/frames.h"
#include "model/places.h"
#include "select/members.h"
#include "selection.h"
#include "stage/part_presentation.h"
#include "theme.h"
#include "words.h"

namespace rasoir::app {
namespace {

/// What the field "Which" offers, as a rule says it.
struct Which {
    const char* text;
    EntityKind kind;
    const char* surface;
    std::optional<bool> inward;
};
const std::array<Which, 9> groupKinds{{{"faces", EntityKind::Face, "", std::nullopt},
                                       {"planes", EntityKind::Face, "plane", std::nullopt},
                                       {"round holes", EntityKind::Face, "cylinder", true},
                                       {"round shafts", EntityKind::Face, "cylinder", false},
                                       {"cones", EntityKind::Face, "cone", std::nullopt},
                                       {"balls", EntityKind::Face, "sphere", std::nullopt},
                                       {"tori", EntityKind::Face, "torus", std::nullopt},
                                       {"edges", EntityKind::Edge, "", std::nullopt},
                                       {"bodies", EntityKind::Body, "", std::nullopt}}};

/// What the field "Lying" offers: anywhere, across an axis, or looking some way.
const std::array<const char*, 10> lyings{"anywhere",   "at x =",     "at y =",     "at z =",     "looking +x",
                                         "looking −x", "looking +y", "looking −y", "looking up", "looking down"};
constexpr int firstAxis = 1, firstLooking = 4;

QLineEdit* field(QWidget* parent, const char* name, const QString& spoken, const QString& empty) {
    auto* edit = new QLineEdit(parent);
    edit->setObjectName(name);
    edit->setAccessibleName(spoken);
    edit->setPlaceholderText(empty);
    return edit;
}

}  // namespace

GroupsPage::GroupsPage(Session& session, QWidget* parent) : BenchPage(session, parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    m_list = twoColumns(this, "groups", "Groups", {"Group", "Members"});
    m_list->setWordWrap(true);
    m_list->installEventFilter(this);
    column->addWidget(m_list, 1);
    m_changes = new QLabel(this);
    m_changes->setObjectName("groupChanges");
    m_changes->setWordWrap(true);
    m_changes->hide();
    column->addWidget(m_changes);
    auto* form = new QFormLayout;
    form->setContentsMargins(0, 0, 0, 0);
    form->setSpacing(4);
    m_name = field(this, "groupName", "Name of the group", {});
    m_purpose = field(this, "groupPurpose", "What the group is for", "load, support, coordinate system …");
    auto* purposes = new QCompleter({"load", "support", "contact", "mesh", "kept", measure::framePurpose}, this);
    purposes->setCaseSensitivity(Qt::CaseInsensitive);
    purposes->setCompletionMode(QCompleter::InlineCompletion);  // a list would lie over the button
    m_purpose->setCompleter(purposes);
    m_way = new QComboBox(this);
    m_way->setObjectName("groupWay");
    m_way->setAccessibleName("What belongs to the group");
    m_way->addItems({"what is picked", "all by a rule"});
    m_way->setToolTip("What is picked follows the model; a rule is asked anew after every step.");
    form->addRow("Name", m_name);
    form->addRow("For", m_purpose);
    form->addRow("Takes", m_way);
    column->addLayout(form);
    buildRule();
    column->addWidget(m_ruleFields);
    for (QLineEdit* edit : {m_name, m_purpose}) connect(edit, &QLineEdit::textChanged, this, &BenchPage::changed);
    connect(m_way, &QComboBox::currentIndexChanged, this, [this] {
        m_ruleFields->setVisible(byRule());
        // One thing picked says what is looked for better than fields do.
        if (byRule() && !m_picks.empty()) {
            const auto members = select::membersOf(m_session.model(), {m_picks.back()});
            if (!members.empty())
                if (const auto rule =
                        handover::ruleFor(m_session.model(), m_picks.back().occurrence, members.begin()->entity))
                    fillFrom(*rule);
        }
        ask();
    });
    connect(m_list, &QTreeWidget::itemActivated, this,
            [this](QTreeWidgetItem* item) { openRow(m_list->indexOfTopLevelItem(item)); });
    connect(m_list, &QTreeWidget::itemClicked, this,
            [this](QTreeWidgetItem* item) { openRow(m_list->indexOfTopLevelItem(item)); });
    m_list->setContextMenuPolicy(Qt::CustomContextMenu);
    connect(m_list, &QTreeWidget::customContextMenuRequested, this, &GroupsPage::showMenu);
    connect(m_changes, &QLabel::linkActivated, this, &GroupsPage::settle);
}

void GroupsPage::buildRule() {
    m_ruleFields = new QWidget(this);
    auto* grid = new QGridLayout(m_ruleFields);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(4);
    grid->setVerticalSpacing(4);
    m_kind = new QComboBox(m_ruleFields);
    m_kind->setObjectName("ruleKind");
    m_kind->setAccessibleName("Which things");
    for (const Which& kind : groupKinds) m_kind->addItem(kind.text);
    m_diameter = field(m_ruleFields, "ruleDiameter", "Diameter in mm", "any Ø");
    m_lying = new QComboBox(m_ruleFields);
    m_lying->setObjectName("ruleLying");
    m_lying->setAccessibleName("Where they lie, or look");
    for (const char* lying : lyings) m_lying->addItem(QString::fromUtf8(lying));
    m_at = field(m_ruleFields, "ruleAt", "At this coordinate in mm", "mm");
    m_parts = field(m_ruleFields, "ruleParts", "In these parts; * stands for anything", "all parts; rib*");
    m_towards = field(m_ruleFields, "ruleTowards", "On or beside these parts", "beside any part");
    m_material = new QComboBox(m_ruleFields);
    m_material->setObjectName("ruleMaterial");
    m_material->setAccessibleName("Of this material");
    m_colour = new QComboBox(m_ruleFields);
    m_colour->setObjectName("ruleColour");
    m_colour->setAccessibleName("Of this colour");
    m_named = field(m_ruleFields, "ruleNamed", "That bear this name in the file", "any name");
    const auto put = [&](int row, const char* words, QWidget* wide, QWidget* narrow = nullptr) {
        grid->addWidget(new QLabel(words, m_ruleFields), row, 0);
        grid->addWidget(wide, row, 1, 1, narrow == nullptr ? 2 : 1);
        if (narrow != nullptr) grid->addWidget(narrow, row, 2);
    };
    put(0, "Which", m_kind, m_diameter);
    put(1, "Lying", m_lying, m_at);
    put(2, "In", m_parts, m_material);
    put(3, "Towards", m_towards);
    put(4, "Named", m_named, m_colour);
    grid->setColumnStretch(1, 3);
    grid->setColumnStretch(2, 2);
    m_ruleFields->hide();
    for (QLineEdit* edit : {m_diameter, m_at, m_parts, m_towards, m_named})
        connect(edit, &QLineEdit::textChanged, this, &GroupsPage::ask);
    for (QComboBox* box : {m_kind, m_lying, m_material, m_colour})
        connect(box, &QComboBox::currentIndexChanged, this, &GroupsPage::ask);
}

void GroupsPage::offer() {
    const Model& model = m_session.model();
    std::set<QString> materials;
    std::map<QString, Colour> shades;
    for (const auto& part : model.parts) {
        if (!part->material.empty()) materials.insert(text(part->material));
        if (part->colour) shades.emplace(text(hexText(*part->colour)), *part->colour);
        for (const auto& [thing, colour] : part->known.colours) shades.emplace(text(hexText(colour)), colour);
    }
    const auto fill = [](QComboBox* box, const QString& any, auto&& addAll) {
        const QSignalBlocker quiet(box);
        const QString before = box->currentText();
        box->clear();
        box->addItem(any);
        addAll();
        box->setCurrentIndex(std::max(0, box->findText(before)));
    };
    fill(m_material, "any material", [&] {
        for (const QString& name : materials) m_material->addItem(name);
    });
    fill(m_colour, "any colour", [&] {
        for (const auto& [hex, colour] : shades) {
            QPixmap swatch(12, 12);
            swatch.fill(QColor(hex));
            m_colour->addItem(QIcon(swatch), hex,
                              QVariant::fromValue(QList<double>{colour.red, colour.green, colour.blue}));
        }
    });
}

std::optional<GroupRule> GroupsPage::rule() const {
    const Which& which = groupKinds[static_cast<std::size_t>(m_kind->currentIndex())];
    GroupRule rule;
    rule.kind = which.kind;
    rule.surface = which.surface;
    rule.inward = which.inward;
    rule.parts = m_parts->text().trimmed().toStdString();
    if (m_material->currentIndex() > 0) rule.material = m_material->currentText().toStdString();
    if (rule.kind != EntityKind::Face) return rule;
    rule.towards = m_towards->text().trimmed().toStdString();
    rule.named = m_named->text().trimmed().toStdString();
    if (m_colour->currentIndex() > 0) {
        const auto shade = m_colour->currentData().value<QList<double>>();
        rule.colour = Colour{shade[0], shade[1], shade[2]};
    }
    if (const QString typed = m_diameter->text().trimmed(); !typed.isEmpty()) {
        const auto length = parseLength(typed.toStdString(), Unit::Millimetre, m_session.model().targetSize);
        if (!length || !(*length > 0.0)) return std::nullopt;
        rule.diameter = *length;
    }
    const int lying = m_lying->currentIndex();
    if (lying >= firstLooking) {
        const int way = lying - firstLooking;
        gp_XYZ normal(0, 0, 0);
        normal.SetCoord(1 + way / 2, way % 2 == 0 ? 1.0 : -1.0);
        rule.normal = normal;
    } else if (lying >= firstAxis) {
        bool fine = true;
        const QString typed = m_at->text().trimmed().replace(QChar(0x2212), '-').remove("mm");
        rule.axis = lying - firstAxis;
        rule.at = typed.isEmpty() ? 0.0 : typed.toDouble(&fine);
        if (!fine) return std::nullopt;
    }
    return rule;
}

void GroupsPage::fillFrom(const GroupRule& rule) {
    const QSignalBlocker a(m_kind), b(m_diameter), c(m_lying), d(m_at), e(m_parts);
    int kind = 0;
    for (std::size_t k = 0; k < groupKinds.size(); ++k)
        if (groupKinds[k].kind == rule.kind && groupKinds[k].surface == rule.surface &&
            (!groupKinds[k].inward || groupKinds[k].inward == rule.inward))
            kind = static_cast<int>(k);
    m_kind->setCurrentIndex(kind);
    m_diameter->setText(rule.diameter ? number(*rule.diameter) : QString());
    m_parts->setText(text(rule.parts));
    m_lying->setCurrentIndex(0);
    m_at->clear();
    if (rule.axis) {
        m_lying->setCurrentIndex(firstAxis + *rule.axis);
        m_at->setText(QString::number(rule.at, 'g', 12));
    }
    if (rule.normal)
        for (int axis = 0; axis < 3; ++axis)
            if (std::abs(std::abs(rule.normal->Coord(axis + 1)) - 1.0) < 1e-6)
                m_lying->setCurrentIndex(firstLooking + 2 * axis + (rule.normal->Coord(axis + 1) < 0.0 ? 1 : 0));
}

void GroupsPage::ask() {
    const Which& which = groupKinds[static_cast<std::size_t>(m_kind->currentIndex())];
    const bool faces = which.kind == EntityKind::Face;
    m_diameter->setEnabled(which.inward.has_value() || std::string(which.surface) == "sphere");
    for (QWidget* own : {static_cast<QWidget*>(m_lying), static_cast<QWidget*>(m_towards),
                         static_cast<QWidget*>(m_named), static_cast<QWidget*>(m_colour)})
        own->setEnabled(faces);
    m_at->setEnabled(faces && m_lying->currentIndex() >= firstAxis && m_lying->currentIndex() < firstLooking);
    m_found.clear();
    // What lies beside others is a search of its own, and waits for the step.
    if (const auto asked = byRule() ? rule() : std::nullopt; asked && asked->towards.empty()) {
        Progress quiet;
        if (auto found = handover::membersByRule(m_session.model(), *asked, quiet)) m_found = std::move(*found);
    }
    emit changed();
}

void GroupsPage::picksChanged(const std::vector<select::Pick>& picks) {
    m_picks = picks;
}

void GroupsPage::made() {
    m_name->clear();
}

void GroupsPage::refresh() {
    offer();
    const Model& model = m_session.model();
    const QSignalBlocker quiet(m_list);
    m_list->clear();
    const Palette& p = colours();
    for (const Group& group : model.groups) {
        auto* item = new QTreeWidgetItem(
            m_list, {text(group.name) + (group.purpose.empty() ? QString() : ", " + text(group.purpose)) +
                         (group.rule ? " (by rule)" : ""),
                     QString::number(group.members.size())});
        item->setTextAlignment(1, Qt::AlignRight | Qt::AlignVCenter);
        if (group.rule) item->setToolTip(0, text("All " + handover::ruleText(*group.rule)));
        if (group.colour) {
            QPixmap swatch(12, 12);
            swatch.fill(screenColour(*group.colour));
            item->setIcon(0, QIcon(swatch));
        }
        if (group.members.empty())
            item->setForeground(0, p.vermilionText);
        else if (!group.fresh().empty() || !group.fallen().empty())
            item->setIcon(0, glyphIcon(Glyph::Trouble, p.brass));
    }
    tellChanges();
    if (byRule()) {
        const QSignalBlocker same(this);
        ask();
    }
}

void GroupsPage::tellChanges() {
    const Model& model = m_session.model();
    QStringList lines;
    for (std::size_t g = 0; g < model.groups.size(); ++g) {
        const std::size_t fresh = model.groups[g].fresh().size(), fallen = model.groups[g].fallen().size();
        if (fresh + fallen == 0) continue;
        QStringList what;
        if (fresh > 0) what << QString("finds <a href=\"fresh %1\">%2 more</a>").arg(g).arg(fresh);
        if (fallen > 0) what << QString("leaves out <a href=\"fallen %1\">%2 that it had</a>").arg(g).arg(fallen);
        lines << QString(
                     "The rule of “%1” %2. <a href=\"accept %3\">Accept</a> or <a href=\"keep %3\">keep what it "
                     "was</a>.")
                     .arg(text(model.groups[g].name).toHtmlEscaped(), what.join(" and "))
                     .arg(g);
    }
    m_changes->setText(lines.join("<br>"));
    m_changes->setVisible(!lines.isEmpty());
}

void GroupsPage::settle(const QString& link) {
    const Model& model = m_session.model();
    const QStringList words = link.split(' ');
    const std::size_t g = words.size() == 2 ? words[1].toULongLong() : model.groups.size();
    if (g >= model.groups.size()) return;
    const Group& group = model.groups[g];
    if (words[0] == "accept" || words[0] == "keep") {
        m_session.apply("handover.rule", {{"name", group.name}, {words[0].toStdString(), true}});
        return;
    }
    const auto shown = words[0] == "fresh" ? group.fresh() : group.fallen();
    emit picksWanted(select::picksOf(model, {shown.begin(), shown.end()}));
    emit selectionCloserWanted();
}

void GroupsPage::showMenu(const QPoint& at) {
    const int row = m_list->indexOfTopLevelItem(m_list->itemAt(at));
    if (row < 0) return;
    const Group group = m_session.model().groups[static_cast<std::size_t>(row)];
    QMenu menu(this);
    menu.addAction("Colour…", this, [this, group] {
        const QColor now = group.colour ? screenColour(*group.colour) : colours().brass;
        const QColor chosen = QColorDialog::getColor(now, this, "Colour of " + text(group.name));
        if (!chosen.isValid()) return;
        double red = 0.0, green = 0.0, blue = 0.0;
        kernelColour(chosen).Values(red, green, blue, Quantity_TOC_RGB);
        m_session.apply("handover.group", {{"name", group.name}, {"colour", {red, green, blue}}});
    });
    menu.addAction("Forget", this, [this, group] {
        m_session.apply("handover.group", {{"name", group.name}, {"drop", true}});
    });
    menu.exec(m_list->viewport()->mapToGlobal(at));
}

void GroupsPage::openRow(int row) {
    const Model& model = m_session.model();
    if (row < 0 || row >= static_cast<int>(model.groups.size())) return;
    emit picksWanted(select::picksOf(model, model.groups[static_cast<std::size_t>(row)].members));
    emit selectionCloserWanted();
}

bool GroupsPage::eventFilter(QObject* watched, QEvent* event) {
    const bool key = event->type() == QEvent::KeyPress || event->type() == QEvent::ShortcutOverride;
    if (watched == m_list && key && static_cast<QKeyEvent*>(event)->key() == Qt::Key_Delete) {
        event->accept();
        const int row = m_list->indexOfTopLevelItem(m_list->currentItem());
        if (event->type() == QEvent::KeyPress && row >= 0)
            m_session.apply("handover.group",
                            {{"name", m_session.model().groups[static_cast<std::size_t>(row)].name}, {"drop", true}});
        return true;
    }
    return BenchPage::eventFilter(watched, event);
}

std::optional<int> GroupsPage::count() const {
    return static_cast<int>(m_session.model().groups.size());
}

QString GroupsPage::answer() const {
    if (m_session.isEmpty()) return "Open a file; groups of its faces, edges and bodies will stand here.";
    if (byRule()) {
        const auto asked = rule();
        if (!asked) return "A number of the rule cannot be read.";
        const QString all = "All " + text(handover::ruleText(*asked));
        return !asked->towards.empty() ? all + ": counted when the group is made."
               : m_found.empty()       ? all + ": there is none."
                                       : all + QString(": %1.").arg(m_found.size());
    }
    return m_session.model().groups.empty() ? "No groups yet. Pick what belongs together and give it a name."
                                            : QString();
}

QString GroupsPage::words() const {
    if (byRule())
        return m_found.empty() ? QString("Group by this rule")
                               : QString("Group %1 by this rule")
                                     .arg(describeSelection(select::picksOf(m_session.model(), m_found)));
    return m_picks.empty() ? QString("Pick what belongs together")
                           : QString("Group %1").arg(describeSelection(m_picks));
}

std::optional<BenchStep> GroupsPage::step() const {
    const std::string name = m_name->text().trimmed().toStdString();
    const std::string purpose = m_purpose->text().trimmed().toStdString();
    if (name.empty() || m_session.isEmpty()) return std::nullopt;
    Json parameters{{"name", name}};
    if (!purpose.empty()) parameters["purpose"] = purpose;
    if (byRule()) {
        const auto asked = rule();
        if (!asked) return std::nullopt;
        parameters["rule"] = toJson(*asked);
        return BenchStep{"handover.rule", std::move(parameters)};
    }
    const auto things = select::thingsOf(m_session.model(), m_picks);
    if (things.empty()) return std::nullopt;
    parameters["things"] = things;
    return BenchStep{"handover.group", std::move(parameters)};
}

/// Axes of the coordinate systems there are, and of the one that what is picked would make.
void GroupsPage::addFrames(BenchPreview& preview) const {
    const Model& model = m_session.model();
    std::vector<measure::Frame> frames = measure::framesOf(model);
    if (m_purpose->text().trimmed() == measure::framePurpose && !m_name->text().trimmed().isEmpty()) {
        Group picked;
        picked.members = select::membersOf(model, m_picks);
        if (const auto axes = measure::frameOf(model, picked))
            frames.push_back({m_name->text().trimmed().toStdString(), *axes});
    }
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

void GroupsPage::addTo(BenchPreview& preview) const {
    addFrames(preview);
    if (!byRule()) return;
    const Model& model = m_session.model();
    std::map<std::size_t, PreviewFaces> byPlace;
    for (const select::Pick& pick : select::picksOf(model, m_found)) {
        const Occurrence& place = model.occurrences[pick.occurrence];
        const auto& part = model.parts[place.part];
        PreviewFaces& shown =
            byPlace.try_emplace(pick.occurrence, PreviewFaces{part, place.placement, {}}).first->second;
        if (pick.face > 0) shown.faces.push_back(pick.face);
    }
    std::vector<PreviewFaces> band;
    for (auto& [place, faces] : byPlace)
        if (!faces.faces.empty()) band.push_back(std::move(faces));
    if (!band.empty()) preview.bands.push_back(std::move(band));
}

}  // namespace rasoir::app
