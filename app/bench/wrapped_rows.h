// Rows of a list that are as high as their words need: what does not fit beside the numbers goes on below.
#pragma once
#include <QStyledItemDelegate>
#include <QTreeWidget>

namespace rasoir::app {

/// What is told of a row by the column it stands in, wrapped there.
class WrappedRows : public QStyledItemDelegate {
    Q_OBJECT
public:
    explicit WrappedRows(QTreeView* list) : QStyledItemDelegate(list), m_list(list) {}
    [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem& option, const QModelIndex& index) const override;

protected:
    /// [pixels] that words of this row have in its column.
    [[nodiscard]] int roomFor(const QModelIndex& index) const;
    /// Makes a row of one line as high as these words need in so much room.
    static void grow(QSize& size, const QFontMetrics& metrics, int room, const QString& words);
    QTreeView* m_list;
};

/// Lays a list out anew, once, when its columns have become wider or narrower.
void followWidths(QTreeView* list);
/// Makes all lists below a widget wrap, but for those whose rows are drawn in a way of their own.
void wrapLists(QWidget* below);

}  // namespace rasoir::app
