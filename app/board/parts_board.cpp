#include "board/parts_board.h"

#include <fmt/format.h>

#include <QDropEvent>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QMenu>
#include <QMimeData>
#include <QStyledItemDelegate>
#include <QTimer>
#include <QVBoxLayout>

#include "glyphs.h"
#include "model/on_purpose.h"
#include "theme.h"
#include "words.h"

namespace rasoir::app {
namespace {

constexpr int occurrencesRole = Qt::UserRole, partRole = Qt::UserRole + 1, newNameRole = Qt::UserRole + 3,
              plainNameRole = Qt::UserRole + 4;

/// Edits the part's own name, without the count behind it.
class NameDelegate : public QStyledItemDelegate {
public:
    using QStyledItemDelegate::QStyledItemDelegate;
    void setEditorData(QWidget* editor, const QModelIndex& index) const override {
        if (auto* line = qobject_cast<QLineEdit*>(editor)) line->setText(index.data(plainNameRole).toString());
    }
    void setModelData(QWidget* editor, QAbstractItemModel* model, const QModelIndex& index) const override {
        const auto* line = qobject_cast<QLineEdit*>(editor);
        if (line != nullptr && !line->text().trimmed().isEmpty() &&
            line->text() != index.data(plainNameRole).toString())
            model->setData(index, line->text().trimmed(), newNameRole);
    }
};
/// Numbers and health are not typed.
class FixedDelegate : public QStyledItemDelegate {
public:
    using QStyledItemDelegate::QStyledItemDelegate;
    QWidget* createEditor(QWidget*, const QStyleOptionViewItem&, const QModelIndex&) const override { return nullptr; }
};

/// Sorts numbers as numbers.
class Row : public QTreeWidgetItem {
public:
    using QTreeWidgetItem::QTreeWidgetItem;
    bool operator<(const QTreeWidgetItem& other) const override {
        const int column = treeWidget() != nullptr ? treeWidget()->sortColumn() : 0;
        if (column == 0) return text(0).localeAwareCompare(other.text(0)) < 0;
        return data(column, Qt::UserRole + 2).toDouble() < other.data(column, Qt::UserRole + 2).toDouble();
    }
};

/// Takes parts dragged within it and materials dragged onto it; what becomes of them is the board's affair.
class PartsTree : public QTreeWidget {
public:
    using Dropped = std::function<bool(const QMimeData&, const QTreeWidgetItem* at, bool behind)>;
    PartsTree(QWidget* parent, Dropped dropped) : QTreeWidget(parent), m_dropped(std::move(dropped)) {
        setDragEnabled(true);
        setAcceptDrops(true);
        setDropIndicatorShown(true);
        setDragDropMode(QAbstractItemView::DragDrop);
    }

protected:
    [[nodiscard]] QStringList mimeTypes() const override {
        return QTreeWidget::mimeTypes() << PartsBoard::materialMime;
    }
    void dragEnterEvent(QDragEnterEvent* event) override {
        if (takes(*event->mimeData()))
            event->acceptProposedAction();
        else
            event->ignore();  // files: the window opens them
    }
    void dragMoveEvent(QDragMoveEvent* event) override {
        QTreeWidget::dragMoveEvent(event);  // draws where it would land
        if (takes(*event->mimeData()))
            event->acceptProposedAction();
        else
            event->ignore();
    }
    void dropEvent(QDropEvent* event) override {
        const QTreeWidgetItem* at = itemAt(event->position().toPoint());
        const bool behind = at != nullptr && event->position().y() > visualItemRect(at).center().y();
        // Copied, never moved: the rows are rebuilt from the model, a tree that takes its own away would lose them.
        event->setDropAction(Qt::CopyAction);
        if (m_dropped(*event->mimeData(), at, behind))
            event->accept();
        else
            event->ignore();
        setState(NoState);
    }

private:
    [[nodiscard]] bool takes(const QMimeData& what) const {
        return what.hasFormat(PartsBoard::materialMime) || what.hasFormat(QTreeWidget::mimeTypes().front());
    }

    Dropped m_dropped;
};

}  // namespace

PartsBoard::PartsBoard(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
    setFixedWidth(260);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 10, 0, 0);
    column->setSpacing(4);
    auto* head = new QHBoxLayout;
    head->setContentsMargins(16, 0, 16, 0);
    auto* title = new QLabel("Parts", this);
    title->setStyleSheet("font-size: 16px; font-weight: 600;");
    m_count = new QLabel(this);
    head->addWidget(title);
    head->addStretch(1);
    head->addWidget(m_count);
    column->addLayout(head);
    m_filter = new QLineEdit(this);
    m_filter->setPlaceholderText("Filter by name");
    m_filter->setAccessibleName("Filter parts by name");
    m_filter->setClearButtonEnabled(true);
    auto* filterRow = new QHBoxLayout;
    filterRow->setContentsMargins(16, 0, 16, 4);
    filterRow->addWidget(m_filter);
    column->addLayout(filterRow);
    m_tree = new PartsTree(this, [this](const QMimeData& what, const QTreeWidgetItem* at, bool behind) {
        return dropped(what, at, behind);
    });
    m_tree->setObjectName("parts");
    m_tree->setHeaderLabels({"Part", "Faces", "Health"});
    m_tree->headerItem()->setTextAlignment(1, Qt::AlignRight | Qt::AlignVCenter);
    m_tree->headerItem()->setTextAlignment(2, Qt::AlignRight | Qt::AlignVCenter);
    m_tree->header()->setStretchLastSection(false);
    m_tree->header()->setSectionResizeMode(0, QHeaderView::Stretch);
    m_tree->header()->setSectionResizeMode(1, QHeaderView::Fixed);
    m_tree->header()->setSectionResizeMode(2, QHeaderView::Fixed);
    m_tree->setColumnWidth(1, 44);
    m_tree->setColumnWidth(2, 54);
    m_tree->setIndentation(14);
    m_tree->setUniformRowHeights(true);
    m_tree->setSelectionMode(QAbstractItemView::ExtendedSelection);
    m_tree->setSortingEnabled(true);
    m_tree->header()->setSortIndicator(-1, Qt::AscendingOrder);
    m_tree->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    m_tree->setContextMenuPolicy(Qt::CustomContextMenu);
    m_tree->setAccessibleName("Parts");
    m_tree->setEditTriggers(QAbstractItemView::DoubleClicked);
    m_tree->setItemDelegateForColumn(0, new NameDelegate(m_tree));
    m_tree->setItemDelegateForColumn(1, new FixedDelegate(m_tree));
    m_tree->setItemDelegateForColumn(2, new FixedDelegate(m_tree));
    column->addWidget(m_tree, 1);
    m_foot = new QLabel("No parts yet.", this);
    m_foot->setObjectName("boardFoot");
    m_foot->setContentsMargins(16, 8, 16, 8);
    m_foot->setWordWrap(true);
    column->addWidget(m_foot);

    connect(m_tree, &QTreeWidget::itemChanged, this, [this](QTreeWidgetItem* item, int changed) {
        const QString wanted = item->data(0, newNameRole).toString();
        if (m_syncing || changed != 0 || wanted.isEmpty()) return;
        const std::size_t part = item->data(0, partRole).toULongLong();
        if (part >= m_session.model().parts.size()) return;
        const std::string old = m_session.model().parts[part]->name;
        // Not from within the editor that is still closing.
        QTimer::singleShot(0, this, [this, old, wanted] {
            m_session.apply("intake.rename", {{"parts", {old}}, {"to", wanted.toStdString()}});
        });
    });
    connect(m_tree, &QTreeWidget::itemSelectionChanged, this, &PartsBoard::selectionFromTree);
    connect(m_tree, &QTreeWidget::customContextMenuRequested, this, [this](const QPoint& at) {
        QMenu menu(this);
        menu.addAction("Hide", this, &PartsBoard::hideSelected);
        menu.addAction("Show only these", this, &PartsBoard::isolateSelected);
        menu.addAction("Show all", this, &PartsBoard::showAll);
        menu.addSeparator();
        // The window's own entries for parts follow: one place for what they do.
        if (QMenu* parts = window()->findChild<QMenu*>("partsMenu")) menu.addActions(parts->actions());
        menu.exec(m_tree->viewport()->mapToGlobal(at));
    });
    connect(m_filter, &QLineEdit::textChanged, this, [this](const QString& text) {
        const std::function<bool(QTreeWidgetItem*)> apply = [&](QTreeWidgetItem* item) {
            bool visible = text.isEmpty() || item->text(0).contains(text, Qt::CaseInsensitive);
            for (int c = 0; c < item->childCount(); ++c) visible = apply(item->child(c)) || visible;
            item->setHidden(!visible);
            return visible;
        };
        for (int i = 0; i < m_tree->topLevelItemCount(); ++i) apply(m_tree->topLevelItem(i));
    });
    connect(&session, &Session::changed, this, &PartsBoard::rebuild);
    connect(&session, &Session::knowledgeChanged, this, &PartsBoard::refreshFacts);
    connect(&session.places(), &PlaceView::selectionChanged, this, &PartsBoard::selectionToTree);
    connect(&session.places(), &PlaceView::visibilityChanged, this, &PartsBoard::refreshFacts);
    connect(&Theme::instance(), &Theme::changed, this, &PartsBoard::rebuild);
}

bool PartsBoard::dropped(const QMimeData& what, const QTreeWidgetItem* at, bool behind) {
    const Model& model = m_session.model();
    const auto nameOf = [&model](std::size_t occurrence) {
        return model.parts[model.occurrences[occurrence].part]->name;
    };
    if (what.hasFormat(materialMime)) {
        if (at == nullptr) return false;
        // Dropped on one of the selected parts it goes to all of them.
        std::set<std::size_t> places = occurrencesOf(at);
        if (at->isSelected()) places.insert(m_session.places().selected().begin(), m_session.places().selected().end());
        std::set<std::string> parts;
        for (const std::size_t o : places) parts.insert(nameOf(o));
        emit materialDropped(QString::fromUtf8(what.data(materialMime)), {parts.begin(), parts.end()});
        return true;
    }
    const auto selected = m_session.places().selectedParts();
    if (selected.empty()) return false;
    Json parts = Json::array();
    for (const std::size_t part : selected) parts.push_back(model.parts[part]->name);
    const bool onGroup = at != nullptr && !at->data(0, partRole).isValid();
    const auto places = at != nullptr ? occurrencesOf(at) : std::set<std::size_t>{};
    const std::vector<std::string> path =
        places.empty() ? std::vector<std::string>{} : model.occurrences[*places.begin()].path;
    const bool sameGroup = std::all_of(m_session.places().selected().begin(), m_session.places().selected().end(),
                                       [&](std::size_t o) { return model.occurrences[o].path == path; });
    if (onGroup || (!sameGroup && at != nullptr)) {
        std::vector<std::string> into = path;
        if (onGroup) {  // the path of the group itself, not of what lies deeper
            into.clear();
            for (const QTreeWidgetItem* up = at; up != nullptr; up = up->parent())
                into.insert(into.begin(), up->text(0).toStdString());
        }
        QTimer::singleShot(0, this, [this, parts, into] {
            m_session.apply("intake.regroup", {{"places", parts}, {"group", into}});
        });
        return true;
    }
    std::string before;
    if (at != nullptr) {
        std::size_t target = at->data(0, partRole).toULongLong();
        if (behind) {
            ++target;
            while (target < model.parts.size() && selected.contains(target)) ++target;
        }
        if (target < model.parts.size()) before = model.parts[target]->name;
        if (target < model.parts.size() && selected.contains(target)) return false;  // onto itself
    }
    QTimer::singleShot(0, this, [this, parts, before] {
        m_session.apply("intake.reorder", {{"parts", parts}, {"before", before}});
    });
    return true;
}

void PartsBoard::rebuild() {
    m_syncing = true;
    std::set<QString> folded;
    for (int i = 0; i < m_tree->topLevelItemCount(); ++i)
        if (!m_tree->topLevelItem(i)->isExpanded()) folded.insert(m_tree->topLevelItem(i)->text(0));
    m_tree->clear();
    const Model& model = m_session.model();
    const Palette& p = colours();
    std::map<std::vector<std::string>, QTreeWidgetItem*> groups;
    std::map<std::pair<std::vector<std::string>, std::size_t>, QTreeWidgetItem*> rows;
    const std::function<QTreeWidgetItem*(const std::vector<std::string>&)> groupFor =
        [&](const std::vector<std::string>& path) -> QTreeWidgetItem* {
        if (path.empty()) return m_tree->invisibleRootItem();
        const auto known = groups.find(path);
        if (known != groups.end()) return known->second;
        auto* item = new Row(groupFor({path.begin(), path.end() - 1}));
        item->setText(0, QString::fromStdString(path.back()));
        item->setExpanded(!folded.contains(item->text(0)));
        groups.emplace(path, item);
        return item;
    };
    for (std::size_t o = 0; o < model.occurrences.size(); ++o) {
        const Occurrence& occurrence = model.occurrences[o];
        QTreeWidgetItem*& row = rows[{occurrence.path, occurrence.part}];
        if (row == nullptr) {
            row = new Row(groupFor(occurrence.path));
            row->setData(0, partRole, static_cast<qulonglong>(occurrence.part));
            row->setData(0, plainNameRole, QString::fromStdString(model.parts[occurrence.part]->name));
            row->setFlags(row->flags() | Qt::ItemIsEditable);
            row->setTextAlignment(1, Qt::AlignRight | Qt::AlignVCenter);
            row->setTextAlignment(2, Qt::AlignRight | Qt::AlignVCenter);
            const BodyKind kind = model.parts[occurrence.part]->kind();
            row->setIcon(0, glyphIcon(kind == BodyKind::Solid || kind == BodyKind::Mixed ? Glyph::Solid
                                      : kind == BodyKind::Sheet                          ? Glyph::Sheet
                                                                                         : Glyph::Beam,
                                      p.second));
        }
        QVariantList members = row->data(0, occurrencesRole).toList();
        members << static_cast<qulonglong>(o);
        row->setData(0, occurrencesRole, members);
        const QString name = QString::fromStdString(model.parts[occurrence.part]->name);
        row->setText(0, members.size() > 1 ? QString("%1 ×%2").arg(name).arg(members.size()) : name);
        row->setToolTip(0, name);
    }
    m_syncing = false;
    const std::size_t places = model.occurrences.size();
    m_count->setText(model.parts.empty()
                         ? ""
                         : QString::fromStdString(model.parts.size() == places
                                                      ? counted(places, "part")
                                                      : fmt::format("{} in {} places", model.parts.size(), places)));
    refreshFacts();
    selectionToTree();
}

void PartsBoard::refreshFacts() {
    const Model& model = m_session.model();
    const Palette& p = colours();
    for (QTreeWidgetItemIterator it(m_tree); *it != nullptr; ++it) {
        QTreeWidgetItem* item = *it;
        const auto occurrences = occurrencesOf(item);
        const bool hidden =
            !occurrences.empty() && std::all_of(occurrences.begin(), occurrences.end(),
                                                [this](std::size_t o) { return m_session.places().isHidden(o); });
        item->setForeground(0, hidden ? p.outline : p.ink);
        if (!item->data(0, partRole).isValid()) continue;
        const std::size_t part = item->data(0, partRole).toULongLong();
        if (part >= model.parts.size()) continue;
        const int faces = model.parts[part]->incidence().faceCount();
        item->setText(1, QString::number(faces));
        item->setData(1, Qt::UserRole + 2, faces);
        item->setForeground(1, p.second);
        const PartKnowledge* known = m_session.knowledge(part);
        const auto aside = std::count_if(occurrences.begin(), occurrences.end(),
                                         [&model](std::size_t o) { return model.occurrences[o].aside; });
        if (aside > 0) {
            const bool all = static_cast<std::size_t>(aside) == occurrences.size();
            item->setText(2, all ? "aside" : QString("%1 aside").arg(aside));
            item->setForeground(2, p.quiet);
            if (all) item->setForeground(0, p.quiet);
        } else if (model.parts[part]->lump) {
            item->setText(2, "lump");
            item->setForeground(2, p.quiet);
        } else if (hidden) {
            item->setText(2, "hidden");
            item->setForeground(2, p.quiet);
        } else if (known == nullptr || !known->facts) {
            item->setText(2, "…");
        } else {
            // Of sheets that stand for walls the rims are free, and ribs stand on them.
            const bool walls = standsForWalls(*model.parts[part]);
            const int trouble = walls ? 0 : known->facts->openEdges + known->facts->manyFaceEdges;
            item->setText(2, trouble == 0 ? "✓" : QString("%1 ▲").arg(trouble));
            item->setData(2, Qt::UserRole + 2, trouble);
            item->setForeground(2, trouble == 0 ? p.second : p.vermilionText);
            item->setToolTip(2, walls          ? "sheets of known thickness"
                                : trouble == 0 ? "closed"
                                               : QString("%1 open edges, %2 where three or more faces meet")
                                                     .arg(known->facts->openEdges)
                                                     .arg(known->facts->manyFaceEdges));
        }
    }
    refreshFoot();
}

std::set<std::size_t> PartsBoard::occurrencesOf(const QTreeWidgetItem* item) const {
    std::set<std::size_t> all;
    for (const QVariant& o : item->data(0, occurrencesRole).toList()) all.insert(o.toULongLong());
    for (int c = 0; c < item->childCount(); ++c) all.merge(occurrencesOf(item->child(c)));
    return all;
}

void PartsBoard::selectionFromTree() {
    if (m_syncing) return;
    std::set<std::size_t> chosen;
    for (const QTreeWidgetItem* item : m_tree->selectedItems()) chosen.merge(occurrencesOf(item));
    m_syncing = true;
    m_session.places().select(chosen);
    m_syncing = false;
    refreshFoot();
}

void PartsBoard::selectionToTree() {
    refreshFoot();
    if (m_syncing) return;
    m_syncing = true;
    const auto& selected = m_session.places().selected();
    for (QTreeWidgetItemIterator it(m_tree); *it != nullptr; ++it) {
        const auto own = occurrencesOf(*it);
        const bool leaf = (*it)->data(0, partRole).isValid();
        const bool chosen =
            leaf && std::any_of(own.begin(), own.end(), [&](std::size_t o) { return selected.contains(o); });
        (*it)->setSelected(chosen);
        if (chosen) m_tree->scrollToItem(*it);
    }
    m_syncing = false;
}

void PartsBoard::refreshFoot() {
    const Model& model = m_session.model();
    if (model.parts.empty()) {
        m_foot->setText("No parts yet.");
        return;
    }
    const auto& selected = m_session.places().selected();
    const auto facts = m_session.facts();
    if (!facts) {
        m_foot->setText("Measuring…");
        return;
    }
    Model shown = model;
    if (!selected.empty()) {
        shown.occurrences.clear();
        for (const std::size_t o : selected)
            if (o < model.occurrences.size()) {
                shown.occurrences.push_back(model.occurrences[o]);
                shown.occurrences.changeLast().aside = false;
            }
    }
    const measure::Facts whole = measure::factsOf(shown, *facts);
    const QString name = selected.empty() ? "all"
                         : m_session.places().selectedParts().size() == 1
                             ? QString::fromStdString(model.parts[*m_session.places().selectedParts().begin()]->name)
                             : QString("%1 selected").arg(selected.size());
    const QString matter = whole.solids > 0 || whole.sheets == 0 ? number(whole.volume / 1000.0) + " cm³"
                                                                 : number(whole.area / 100.0) + " cm² of sheets";
    m_foot->setText(QString("%1: %2, %3\n%4 × %5 × %6 mm%7")
                        .arg(name,
                             QString::fromStdString(measure::massText(measure::massOf(shown, *facts).mass, whole)),
                             matter, number(whole.high[0] - whole.low[0]), number(whole.high[1] - whole.low[1]),
                             number(whole.high[2] - whole.low[2]), whole.closed ? ", watertight" : ""));
}

void PartsBoard::hideSelected() {
    std::set<std::size_t> hidden = m_session.places().hidden();
    hidden.insert(m_session.places().selected().begin(), m_session.places().selected().end());
    m_session.places().setHidden(hidden);
}

void PartsBoard::isolateSelected() {
    if (m_session.places().selected().empty()) return;
    std::set<std::size_t> hidden;
    for (std::size_t o = 0; o < m_session.model().occurrences.size(); ++o)
        if (!m_session.places().selected().contains(o)) hidden.insert(o);
    m_session.places().setHidden(hidden);
}

void PartsBoard::showAll() {
    m_session.places().setHidden({});
}

}  // namespace rasoir::app
