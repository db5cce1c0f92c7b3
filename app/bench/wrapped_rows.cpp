#include "bench/wrapped_rows.h"

#include <QHeaderView>

namespace rasoir::app {

int WrappedRows::roomFor(const QModelIndex& index) const {
    const bool spanned = m_list->isFirstColumnSpanned(index.row(), index.parent());
    int room = spanned ? m_list->viewport()->width() : m_list->columnWidth(index.column());
    if (index.column() != 0) return room;
    for (QModelIndex above = index.parent(); above.isValid(); above = above.parent()) room -= m_list->indentation();
    return m_list->rootIsDecorated() ? room - m_list->indentation() : room;
}

void WrappedRows::grow(QSize& size, const QFontMetrics& metrics, int room, const QString& words) {
    const QRect wrapped = metrics.boundingRect(QRect(0, 0, std::max(room, 40), 10000), Qt::TextWordWrap, words);
    size.rheight() += std::max(0, wrapped.height() - metrics.lineSpacing());
}

QSize WrappedRows::sizeHint(const QStyleOptionViewItem& option, const QModelIndex& index) const {
    // The height that the style sheet gives to all rows is that of one line, whatever would be wrapped.
    QSize size = QStyledItemDelegate::sizeHint(option, index);
    if (index.data(Qt::SizeHintRole).isValid()) return size;
    constexpr int frame = 16,
                  beside = 6;  // what the style sheet leaves free round the words, and behind a mark or icon
    QStyleOptionViewItem own(option);
    initStyleOption(&own, index);
    if (own.displayAlignment.testFlag(Qt::AlignRight)) return size;  // a number stays in one line
    int room = roomFor(index) - frame;
    if (own.features.testFlag(QStyleOptionViewItem::HasCheckIndicator))
        room -= m_list->style()->pixelMetric(QStyle::PM_IndicatorWidth) + beside;
    if (own.features.testFlag(QStyleOptionViewItem::HasDecoration)) room -= own.decorationSize.width() + beside;
    grow(size, own.fontMetrics, room, own.text);
    return size;
}

void followWidths(QTreeView* list) {
    auto* again = new QTimer(list);
    again->setSingleShot(true);
    again->setInterval(0);
    QObject::connect(again, &QTimer::timeout, list, [list] { list->doItemsLayout(); });
    QObject::connect(list->header(), &QHeaderView::sectionResized, again, qOverload<>(&QTimer::start));
}

void wrapLists(QWidget* below) {
    for (QTreeWidget* list : below->findChildren<QTreeWidget*>()) {
        if (typeid(*list->itemDelegate()) != typeid(QStyledItemDelegate)) continue;
        list->setWordWrap(true);
        list->setUniformRowHeights(false);
        list->setItemDelegate(new WrappedRows(list));
        followWidths(list);
    }
}

}  // namespace rasoir::app
