#include "bench/wrapped_rows.h"

#include <QHeaderView>

namespace rasoir::app {

int WrappedRows::roomFor(const QModelIndex& index) const {
    int room = m_list->columnWidth(index.column());
    if (index.column() != 0) return room;
    for (QModelIndex above = index.parent(); above.isValid(); above = above.parent()) room -= m_list->indentation();
    return m_list->rootIsDecorated() ? room - m_list->indentation() : room;
}

QSize WrappedRows::sizeHint(const QStyleOptionViewItem& option, const QModelIndex& index) const {
    // The view asks without a width, as if a row had all the room there is.
    constexpr int frame = 16;  // what the style sheet leaves free beside the words
    QStyleOptionViewItem own(option);
    own.rect.setWidth(std::max(40, roomFor(index) - frame));
    own.features |= QStyleOptionViewItem::WrapText;
    return QStyledItemDelegate::sizeHint(own, index);
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
