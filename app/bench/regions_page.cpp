#include "bench/regions_page.h"

#include <numeric>
#include <QEvent>
#include <QFormLayout>
#include <QSignalBlocker>
#include <QVBoxLayout>

#include "bench/boundary_words.h"
#include "join/regions.h"
#include "model/reference.h"
#include "session.h"
#include "theme.h"
#include "words.h"

namespace rasoir::app {
namespace {

const QString asNamed = "as each is named";

bool isBoundaryKind(const std::string& purpose) {
    const auto& kinds = join::boundaryKinds();
    return std::find(kinds.begin(), kinds.end(), purpose) != kinds.end();
}

}  // namespace

QString regionsOf(const Part& part) {
    std::set<RegionKind> kinds;
    for (int body = 1; body <= part.incidence().bodyCount(); ++body) {
        const auto known = part.known.regions.find({EntityKind::Body, body});
        kinds.insert(known == part.known.regions.end() ? RegionKind::Solid : known->second);
    }
    if (kinds.size() > 1) return "several";
    return text(regionKindName(kinds.empty() ? RegionKind::Solid : *kinds.begin()));
}

RegionsPage::RegionsPage(Session& session, QWidget* parent) : BenchPage(session, parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    m_list = twoColumns(this, "regions", "Bodies and boundaries with their kinds", {"Body or boundary", "Kind"});
    m_list->setSelectionMode(QAbstractItemView::ExtendedSelection);
    column->addWidget(m_list, 1);
    m_alone = new QPushButton("Show this kind alone", this);
    m_alone->setObjectName("showKindAlone");
    m_alone->setToolTip("Hides all bodies of another kind; again: shows all");
    column->addWidget(m_alone);
    m_words = new QPushButton("What names say…", this);
    m_words->setObjectName("boundaryWordsButton");
    m_words->setToolTip("Your own words for kinds of boundary");
    connect(m_words, &QPushButton::clicked, this, [this] {
        BoundaryWordsDialog dialog(this);
        if (dialog.exec() == QDialog::Accepted) {
            offerKinds();
            emit changed();
        }
    });
    column->addWidget(m_words);
    m_list->setMouseTracking(true);
    m_list->viewport()->installEventFilter(this);
    connect(m_list, &QTreeWidget::itemEntered, this, [this](QTreeWidgetItem* item) {
        m_hovered = m_list->indexOfTopLevelItem(item);
        emit changed();
    });
    auto* form = new QFormLayout;
    form->setSpacing(4);
    m_name = new QLineEdit(this);
    m_name->setObjectName("boundaryName");
    m_name->setAccessibleName("Name of a new boundary of the picked faces");
    m_name->setPlaceholderText("pick faces, then name a boundary");
    form->addRow("New", m_name);
    m_kind = new QComboBox(this);
    m_kind->setObjectName("regionKind");
    m_kind->setAccessibleName("Kind");
    form->addRow("Kind", m_kind);
    column->addLayout(form);
    connect(m_list, &QTreeWidget::itemSelectionChanged, this, [this] {
        offerKinds();
        emit changed();
    });
    connect(m_name, &QLineEdit::textChanged, this, [this] {
        offerKinds();
        emit changed();
    });
    connect(m_kind, &QComboBox::activated, this, [this] { emit changed(); });
    connect(m_alone, &QPushButton::clicked, this, &RegionsPage::showAlone);
}

bool RegionsPage::eventFilter(QObject* watched, QEvent* event) {
    if (watched == m_list->viewport() && event->type() == QEvent::Leave && m_hovered >= 0) {
        m_hovered = -1;
        emit changed();
    }
    return BenchPage::eventFilter(watched, event);
}

void RegionsPage::picksChanged(const std::vector<select::Pick>& picks) {
    m_picks = picks;
    offerKinds();
}

void RegionsPage::refresh() {
    const QSignalBlocker quiet(m_list);
    std::set<QString> kept;
    for (const QTreeWidgetItem* item : m_list->selectedItems()) kept.insert(item->text(0));
    m_list->clear();
    m_rows.clear();
    const Model& model = m_session.model();
    const Palette& p = colours();
    const auto row = [&](const QString& what, const QString& kind, Row of, bool missing) {
        auto* item = new QTreeWidgetItem(m_list, {what, kind});
        if (missing) item->setForeground(1, p.vermilionText);
        item->setSelected(kept.contains(what));
        m_rows.push_back(std::move(of));
    };
    for (std::size_t part = 0; part < model.parts.size(); ++part)
        if (!model.isAside(part) && !model.parts[part]->shape.IsNull())
            row(text(model.parts[part]->name), regionsOf(*model.parts[part]), {part, {}}, false);
    for (const Group& group : model.groups) {
        const bool faces = std::any_of(group.members.begin(), group.members.end(),
                                       [](const Member& member) { return member.entity.kind == EntityKind::Face; });
        if (!faces) continue;
        const bool known = isBoundaryKind(group.purpose);
        row(text(group.name), known ? text(group.purpose) : QString("no kind"), {std::nullopt, group.name}, !known);
    }
    offerKinds();
}

std::vector<RegionsPage::Row> RegionsPage::chosen() const {
    std::vector<Row> rows;
    for (int r = 0; r < m_list->topLevelItemCount() && r < static_cast<int>(m_rows.size()); ++r)
        if (m_list->topLevelItem(r)->isSelected()) rows.push_back(m_rows[static_cast<std::size_t>(r)]);
    return rows;
}

bool RegionsPage::makesNew() const {
    return !m_name->text().trimmed().isEmpty() &&
           std::any_of(m_picks.begin(), m_picks.end(), [](const select::Pick& pick) { return pick.face > 0; });
}

void RegionsPage::offerKinds() {
    const std::vector<Row> rows = chosen();
    const bool boundaries = makesNew() || (!rows.empty() && !rows.front().part);
    QStringList kinds;
    if (boundaries) {
        if (!makesNew() && rows.size() > 1) kinds << asNamed;
        for (const std::string& kind : join::boundaryKinds()) kinds << text(kind);
    } else {
        for (const RegionKind kind : {RegionKind::Solid, RegionKind::Fluid, RegionKind::Porous, RegionKind::Void})
            kinds << text(regionKindName(kind));
    }
    QStringList offered;
    for (int i = 0; i < m_kind->count(); ++i) offered << m_kind->itemText(i);
    if (offered != kinds) {
        m_kind->clear();
        m_kind->addItems(kinds);
    }
    // What a name speaks of is proposed.
    const std::string named = makesNew()                            ? m_name->text().trimmed().toStdString()
                              : !rows.empty() && !rows.front().part ? rows.front().group
                                                                    : std::string();
    if (const auto proposed = named.empty() ? std::nullopt : join::boundaryKindOf(named, boundaryWords());
        proposed && !m_kind->hasFocus() && (makesNew() || rows.size() == 1))
        m_kind->setCurrentText(text(*proposed));
    m_alone->setEnabled(!rows.empty() && rows.front().part.has_value());
}

void RegionsPage::showAlone() {
    const std::vector<Row> rows = chosen();
    const Model& model = m_session.model();
    if (rows.empty() || !rows.front().part) return;
    const QString wanted = regionsOf(*model.parts[*rows.front().part]);
    std::set<std::size_t> others;
    for (std::size_t o = 0; o < model.occurrences.size(); ++o)
        if (regionsOf(*model.parts[model.occurrences[o].part]) != wanted) others.insert(o);
    m_session.places().setHidden(m_session.places().hidden() == others ? std::set<std::size_t>{} : others);
}

QString RegionsPage::answer() const {
    if (m_session.isEmpty()) return "Open a file; its bodies and boundaries get their kinds here.";
    std::map<QString, std::size_t> count;
    const Model& model = m_session.model();
    for (std::size_t part = 0; part < model.parts.size(); ++part)
        if (!model.isAside(part) && !model.parts[part]->shape.IsNull()) ++count[regionsOf(*model.parts[part])];
    QStringList told;
    for (const auto& [kind, parts] : count) told << QString("%1 %2").arg(parts).arg(kind);
    return told.join(", ") + ". What is void is not handed over.";
}

QString RegionsPage::words() const {
    if (makesNew()) return QString("Make \"%1\" a boundary").arg(m_name->text().trimmed());
    const std::vector<Row> rows = chosen();
    if (rows.empty()) return "Choose bodies or a boundary";
    if (rows.front().part)
        return QString("Make %1 %2")
            .arg(rows.size() == 1 ? QString("it") : text(counted(rows.size(), "body", "bodies")),
                 m_kind->currentText());
    if (rows.size() > 1)
        return QString("Make %1 %2").arg(text(counted(rows.size(), "boundary", "boundaries")), m_kind->currentText());
    return QString("Make \"%1\" %2").arg(text(rows.front().group), m_kind->currentText());
}

std::optional<BenchStep> RegionsPage::step() const {
    if (m_session.isEmpty() || m_kind->currentIndex() < 0) return std::nullopt;
    const std::string kind = m_kind->currentText().toStdString();
    const Model& model = m_session.model();
    if (makesNew()) {
        Json things = Json::array();
        for (const select::Pick& pick : m_picks)
            if (pick.face > 0 && pick.occurrence < model.occurrences.size())
                things.push_back(
                    makeRef(*model.parts[model.occurrences[pick.occurrence].part], {EntityKind::Face, pick.face}));
        return BenchStep{
            "join.boundary",
            {{"name", m_name->text().trimmed().toStdString()}, {"kind", kind}, {"things", std::move(things)}}};
    }
    const std::vector<Row> rows = chosen();
    if (rows.empty()) return std::nullopt;
    if (!rows.front().part && rows.size() == 1)
        return BenchStep{"join.boundary", {{"name", rows.front().group}, {"kind", kind}}};
    if (!rows.front().part) {
        Json several{{"names", Json::array()}};
        for (const Row& row : rows)
            if (!row.part) several["names"].push_back(row.group);
        if (m_kind->currentText() != asNamed) several["kind"] = kind;
        for (const auto& [word, meant] : boundaryWords()) several["words"][word] = meant;
        return BenchStep{"join.boundary", std::move(several)};
    }
    Json parts = Json::array();
    for (const Row& row : rows)
        if (row.part) parts.push_back(model.parts[*row.part]->name);
    return BenchStep{"join.region", {{"parts", std::move(parts)}, {"kind", kind}}};
}

void RegionsPage::addTo(BenchPreview& preview) const {
    const Model& model = m_session.model();
    const auto light = [&](std::size_t place, std::vector<int> faces) {
        if (m_session.places().isHidden(place) || model.occurrences[place].aside || faces.empty()) return;
        const Occurrence& occurrence = model.occurrences[place];
        preview.goes.push_back({model.parts[occurrence.part], occurrence.placement, std::move(faces)});
    };
    std::vector<Row> rows = chosen();
    if (m_hovered >= 0 && m_hovered < static_cast<int>(m_rows.size())) {
        const Row& row = m_rows[static_cast<std::size_t>(m_hovered)];
        rows.push_back(row);
        for (std::size_t o = 0; row.part && o < model.occurrences.size(); ++o) {
            if (model.occurrences[o].part != *row.part) continue;
            std::vector<int> all(static_cast<std::size_t>(model.parts[*row.part]->incidence().faceCount()));
            std::iota(all.begin(), all.end(), 1);
            light(o, std::move(all));
        }
    }
    for (const Row& row : rows) {
        if (row.part) continue;  // bodies that are chosen are seen as they are
        const auto group = std::find_if(model.groups.begin(), model.groups.end(),
                                        [&row](const Group& one) { return one.name == row.group; });
        if (group == model.groups.end()) continue;
        for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
            std::vector<int> faces;
            for (const Member& member : group->members)
                if (member.entity.kind == EntityKind::Face &&
                    model.parts[model.occurrences[o].part]->id == member.part &&
                    (member.place == everyPlace || member.place == model.occurrences[o].id))
                    faces.push_back(member.entity.number);
            light(o, std::move(faces));
        }
    }
}

}  // namespace rasoir::app
