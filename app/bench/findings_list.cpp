#include "bench/findings_list.h"

#include <limits>
#include <map>
#include <QHeaderView>
#include <QKeyEvent>
#include <QPainter>

#include "bench/wrapped_rows.h"
#include "common/text.h"
#include "glyphs.h"
#include "theme.h"

namespace rasoir::app {
namespace {

constexpr int keysRole = Qt::UserRole, bladeRole = Qt::UserRole + 1, keptRole = Qt::UserRole + 2,
              goesRole = Qt::UserRole + 3, seenRole = Qt::UserRole + 5;

/// Rows as the drawings want them; the tree keeps selection, focus and accessibility.
class RowDelegate : public WrappedRows {
public:
    using WrappedRows::WrappedRows;

    /// As high as the words of its second column need, drawn as below.
    QSize sizeHint(const QStyleOptionViewItem& option, const QModelIndex& index) const override {
        QSize size = QStyledItemDelegate::sizeHint(option, index);
        const QModelIndex first = index.siblingAtColumn(0);
        if (index.column() != 1 || first.data(bladeRole).toBool()) return size;
        const int room =
            roomFor(index) - 3 - (index.parent().isValid() ? 10 : 0) - (first.data(seenRole).toBool() ? 16 : 0);
        grow(size, QFontMetrics(Theme::font(12.5)), room, index.data(Qt::DisplayRole).toString());
        return size;
    }

    void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
        const Palette& p = colours();
        const QModelIndex first = index.siblingAtColumn(0);
        if (first.data(bladeRole).toBool()) {
            painter->save();
            painter->setFont(Theme::font(11.5, 600));
            const int middle = option.rect.center().y();
            if (index.column() == 0) {
                painter->fillRect(QRect(option.rect.left(), middle - 8, option.rect.width(), 16), p.brassText);
                painter->setPen(p.brassOnTab);
                painter->drawText(option.rect, Qt::AlignCenter, first.data(Qt::DisplayRole).toString());
            } else {
                painter->setPen(QPen(p.brass, 1.5));
                const int from = option.rect.left();
                if (index.column() == 1) {
                    painter->drawLine(from, middle, from + option.rect.width() / 2 - 6, middle);
                    painter->setPen(p.second);
                    painter->setFont(Theme::font(11.5));
                    painter->drawText(option.rect.adjusted(option.rect.width() / 2, 0, 60, 0),
                                      Qt::AlignVCenter | Qt::AlignLeft, "below this: stay");
                }
            }
            painter->restore();
            return;
        }
        const int kept = first.data(keptRole).toInt();  // 0 none, 1 some, 2 all
        const bool goes = first.data(goesRole).toBool();
        QStyleOptionViewItem row(option);
        painter->save();
        if (option.state & QStyle::State_Selected)
            painter->fillRect(option.rect, p.cobaltTint);
        else if (kept == 2)
            painter->fillRect(option.rect, p.plumTint);
        painter->setPen(p.rule);
        painter->drawLine(option.rect.bottomLeft(), option.rect.bottomRight());
        const bool child = index.parent().isValid();
        painter->setFont(Theme::font(12.5, goes && index.column() == 0 ? 600 : 400));
        painter->setPen(kept == 2 ? p.plum : goes ? p.ink : p.second);
        const QRect text = option.rect.adjusted(3, 0, index.column() == 1 ? 0 : -4, 0);
        if (index.column() == 3) {
            drawGlyph(*painter, kept == 2 ? Glyph::PennantFilled : Glyph::Pennant,
                      QPointF(option.rect.center()) - QPointF(7, 7.5), kept > 0 ? p.plum : p.outline);
        } else {
            const QString words = index.data(Qt::DisplayRole).toString();
            const auto align = index.column() == 1 ? Qt::AlignLeft : Qt::AlignRight;
            const QRect where = child && index.column() == 1 ? text.adjusted(10, 0, 0, 0) : text;
            if (index.column() == 1 && first.data(seenRole).toBool()) {  // looked at: a tick after the words
                const int end =
                    std::min(where.right() - 14, where.left() + painter->fontMetrics().horizontalAdvance(words) + 4);
                drawGlyph(*painter, Glyph::Tick, QPointF(end, where.center().y() - 7), p.outline);
                painter->setPen(kept == 2 ? p.plum : goes ? p.ink : p.second);
                painter->drawText(where.adjusted(0, 0, -16, 0), align | Qt::AlignVCenter | Qt::TextWordWrap, words);
            } else if (index.column() == 1) {
                painter->drawText(where, align | Qt::AlignVCenter | Qt::TextWordWrap, words);
            } else {
                painter->drawText(where, align | Qt::AlignVCenter,
                                  painter->fontMetrics().elidedText(words, Qt::ElideRight, where.width()));
            }
        }
        painter->restore();
    }
};

}  // namespace

FindingsList::FindingsList(QWidget* parent) : QTreeWidget(parent) {
    setColumnCount(4);
    setHeaderLabels({"Ø mm", "What and where", "Elements", "Keep"});
    headerItem()->setTextAlignment(0, Qt::AlignRight | Qt::AlignVCenter);
    headerItem()->setTextAlignment(2, Qt::AlignRight | Qt::AlignVCenter);
    header()->setStretchLastSection(false);
    header()->setSectionResizeMode(1, QHeaderView::Stretch);
    for (const int column : {0, 2, 3}) header()->setSectionResizeMode(column, QHeaderView::Fixed);
    setColumnWidth(0, 60);
    setColumnWidth(2, 60);
    setColumnWidth(3, 32);
    setIndentation(10);
    setRootIsDecorated(true);
    setUniformRowHeights(false);
    setMouseTracking(true);
    setSelectionMode(QAbstractItemView::ExtendedSelection);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setItemDelegate(new RowDelegate(this));
    followWidths(this);
    setAccessibleName("Findings");
    setAccessibleDescription("K keeps a finding, Space takes or leaves it, Enter looks closer.");
    connect(this, &QTreeWidget::itemEntered, this, [this](QTreeWidgetItem* item) { emit hovered(keysOf(item)); });
    connect(this, &QTreeWidget::itemSelectionChanged, this, [this] { emit hovered(selectedKeys()); });
    connect(this, &QTreeWidget::itemActivated, this, [this](QTreeWidgetItem* item) {
        const auto keys = keysOf(item);
        if (!keys.empty()) emit closerWanted(keys.front());
    });
}

bool FindingsList::goes(const Finding& finding) const {
    if (finding.verdict == Verdict::Kept) return false;
    return finding.verdict == Verdict::Taken || within(finding.size);
}

void FindingsList::setFindings(std::vector<Finding> findings, double limit, double from) {
    m_limit = limit;
    m_from = from;
    // While a survey goes on this is asked often, and rows that stay keep their selection.
    if (m_findings == findings) {
        style();
        return;
    }
    m_findings = std::move(findings);
    rebuild();
}

void FindingsList::setHeadings(const QString& size, const QString& cost) {
    headerItem()->setText(0, size);
    headerItem()->setText(2, cost);
}

void FindingsList::setLimit(double limit, double from) {
    m_limit = limit;
    m_from = from;
    style();
}

void FindingsList::setVerdict(int key, Verdict verdict) {
    for (Finding& finding : m_findings)
        if (finding.key == key) finding.verdict = verdict;
    style();
}

void FindingsList::setSeen(int key) {
    for (Finding& finding : m_findings)
        if (finding.key == key) finding.seen = true;
    style();
}

namespace {
/// Three digits are enough of what is small, and all there is room for.
QString shownSize(const Finding& finding) {
    if (!finding.sizeText.isEmpty()) return finding.sizeText;
    constexpr double small = 0.01;
    double size = finding.size;
    if (size > 0.0 && size < small) {
        const double unit = std::pow(10.0, std::floor(std::log10(size)) - 2.0);
        size = std::round(size / unit) * unit;
    }
    return QString::fromStdString(readable(size));
}
}  // namespace

void FindingsList::rebuild() {
    const QSignalBlocker quiet(this);
    clear();
    m_bladeRow = nullptr;
    std::vector<std::vector<const Finding*>> folds;
    std::map<std::pair<long, QString>, std::size_t> foldOf;
    for (const Finding& finding : m_findings) {
        const auto [it, fresh] = foldOf.try_emplace({std::lround(finding.size * 1e4), finding.what}, folds.size());
        if (fresh) folds.emplace_back();
        folds[it->second].push_back(&finding);
    }
    const auto keysVariant = [](const std::vector<const Finding*>& fold) {
        QVariantList keys;
        for (const Finding* finding : fold) keys << finding->key;
        return keys;
    };
    for (const auto& fold : folds) {
        double elements = 0.0;
        for (const Finding* finding : fold) elements += finding->elements;
        auto* row = new QTreeWidgetItem(this);
        row->setText(0, shownSize(*fold.front()));
        const bool alone = fold.size() == 1 || fold.front()->several.isEmpty();
        row->setText(1, QString("%1 %2").arg(fold.size()).arg(alone ? fold.front()->what : fold.front()->several));
        row->setText(2, QString::fromStdString(readable(std::round(elements))));
        row->setToolTip(1, fold.size() == 1 ? fold.front()->what + ", " + fold.front()->where : fold.front()->what);
        row->setData(0, keysRole, keysVariant(fold));
        row->setData(0, Qt::UserRole + 4, fold.front()->size);
        row->setData(3, Qt::AccessibleTextRole, "keep");
        if (fold.size() == 1) continue;
        for (const Finding* finding : fold) {
            auto* child = new QTreeWidgetItem(row);
            child->setText(1, finding->where);
            child->setText(2, QString::fromStdString(readable(std::round(finding->elements))));
            child->setToolTip(1, finding->what + ", " + finding->where);
            child->setData(0, keysRole, keysVariant({finding}));
            child->setData(3, Qt::AccessibleTextRole, "keep");
        }
    }
    fitSizes();
    style();
}

/// Sizes are never cut off: their column is as wide as the longest.
void FindingsList::fitSizes() {
    constexpr int least = 60, most = 110, arrow = 17;
    const QFontMetrics metrics(Theme::font(12.5, 600));
    int width = least;
    for (int row = 0; row < topLevelItemCount(); ++row)
        width = std::max(width, metrics.horizontalAdvance(topLevelItem(row)->text(0)) + arrow);
    setColumnWidth(0, std::min(width, most));
}

void FindingsList::style() {
    const QSignalBlocker quiet(this);
    delete m_bladeRow;
    m_bladeRow = nullptr;
    std::map<int, const Finding*> byKey;
    for (const Finding& finding : m_findings) byKey[finding.key] = &finding;
    const std::function<void(QTreeWidgetItem*)> apply = [&](QTreeWidgetItem* item) {
        int kept = 0, going = 0, seen = 0, count = 0;
        for (const int key : keysOf(item)) {
            ++count;
            kept += byKey.at(key)->verdict == Verdict::Kept;
            going += goes(*byKey.at(key));
            seen += byKey.at(key)->seen;
        }
        item->setData(0, keptRole, kept == 0 ? 0 : kept == count ? 2 : 1);
        item->setData(0, goesRole, going > 0);
        item->setData(0, seenRole, seen == count);
        item->setData(1, Qt::AccessibleDescriptionRole,
                      seen == count ? "looked at"
                      : seen > 0    ? QString("%1 of %2 looked at").arg(seen).arg(count)
                                    : QString());
        item->setData(3, Qt::AccessibleTextRole, kept == count ? "kept" : "not kept");
        for (int c = 0; c < item->childCount(); ++c) apply(item->child(c));
    };
    int bladeAt = 0;
    for (int row = 0; row < topLevelItemCount(); ++row) {
        apply(topLevelItem(row));
        if (topLevelItem(row)->data(0, Qt::UserRole + 4).toDouble() <= m_limit * (1 + 1e-6)) bladeAt = row + 1;
    }
    if (m_findings.empty()) return;
    if (m_limit >= std::numeric_limits<double>::max()) return;  // nothing is limited by size
    m_bladeRow = new QTreeWidgetItem;
    m_bladeRow->setText(0, QString::fromStdString(readable(m_limit)));
    m_bladeRow->setData(0, bladeRole, true);
    m_bladeRow->setFlags(Qt::ItemIsEnabled);
    insertTopLevelItem(bladeAt, m_bladeRow);
    viewport()->update();
}

std::vector<int> FindingsList::keysOf(const QTreeWidgetItem* item) const {
    std::vector<int> keys;
    if (item != nullptr)
        for (const QVariant& key : item->data(0, keysRole).toList()) keys.push_back(key.toInt());
    return keys;
}

std::vector<int> FindingsList::selectedKeys() const {
    std::vector<int> keys;
    for (const QTreeWidgetItem* item : selectedItems())
        for (const int key : keysOf(item))
            if (std::find(keys.begin(), keys.end(), key) == keys.end()) keys.push_back(key);
    return keys;
}

void FindingsList::reveal(int key) {
    for (int row = 0; row < topLevelItemCount(); ++row) {
        QTreeWidgetItem* item = topLevelItem(row);
        const auto keys = keysOf(item);
        if (std::find(keys.begin(), keys.end(), key) == keys.end()) continue;
        for (int c = 0; c < item->childCount(); ++c)
            if (keysOf(item->child(c)).front() == key) {
                item->setExpanded(true);
                item = item->child(c);
                break;
            }
        const QSignalBlocker quiet(this);
        setCurrentItem(item);
        scrollToItem(item);
        return;
    }
}

void FindingsList::toggleKept(const std::vector<int>& keys) {
    bool allKept = !keys.empty();
    for (const Finding& finding : m_findings)
        if (std::find(keys.begin(), keys.end(), finding.key) != keys.end())
            allKept = allKept && finding.verdict == Verdict::Kept;
    if (!keys.empty()) emit verdictWanted(keys, allKept ? Verdict::ByLimit : Verdict::Kept);
}

void FindingsList::keyPressEvent(QKeyEvent* event) {
    const auto keys = selectedKeys();
    if (event->key() == Qt::Key_Space && !keys.empty()) {
        for (const Finding& finding : m_findings)
            if (finding.key == keys.front()) {
                const bool below = within(finding.size);
                const Verdict next = goes(finding) ? (below ? Verdict::Kept : Verdict::ByLimit)
                                                   : (below ? Verdict::ByLimit : Verdict::Taken);
                emit verdictWanted(keys, next);
                return;
            }
    }
    QTreeWidget::keyPressEvent(event);
}

void FindingsList::leaveEvent(QEvent* event) {
    emit hovered(selectedKeys());
    QTreeWidget::leaveEvent(event);
}

void FindingsList::mousePressEvent(QMouseEvent* event) {
    const QModelIndex index = indexAt(event->pos());
    if (index.isValid() && index.column() == 3 && event->button() == Qt::LeftButton) {
        toggleKept(keysOf(itemFromIndex(index.siblingAtColumn(0))));
        return;
    }
    QTreeWidget::mousePressEvent(event);
}

}  // namespace rasoir::app
