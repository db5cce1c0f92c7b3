// A page of a bench: one of its kinds that brings a list and a step of its own.
#pragma once
#include <QHeaderView>
#include <QTreeWidget>

#include "bench/bench.h"

namespace rasoir::app {

class BenchPage : public QWidget {
    Q_OBJECT
public:
    BenchPage(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {}
    virtual void refresh() = 0;
    [[nodiscard]] virtual std::optional<BenchStep> step() const = 0;
    [[nodiscard]] virtual QString answer() const = 0;  ///< above the list
    [[nodiscard]] virtual QString words() const = 0;   ///< on the button, also where there is no step
    [[nodiscard]] virtual std::optional<int> count() const { return std::nullopt; }  ///< beside the kind's name
    virtual void addTo(BenchPreview& preview) const = 0;
    // A page whose button does something else than to run a step:
    [[nodiscard]] virtual bool acts() const { return false; }  ///< whether there is something to do now
    virtual void act() {}

signals:
    void changed();
    void closerWanted(const gp_Pnt& point, double size);

protected:
    Session& m_session;
};

/// A list of two columns: what, taking the room there is, and a number at the right.
inline QTreeWidget* twoColumns(QWidget* parent, const char* name, const QString& spoken, const QStringList& labels) {
    auto* list = new QTreeWidget(parent);
    list->setObjectName(name);
    list->setAccessibleName(spoken);
    list->setColumnCount(2);
    list->setHeaderLabels(labels);
    list->setRootIsDecorated(false);
    list->header()->setStretchLastSection(false);
    list->header()->setSectionResizeMode(0, QHeaderView::Stretch);
    list->header()->setSectionResizeMode(1, QHeaderView::ResizeToContents);
    return list;
}
/// A row of such a list that can be marked.
inline QTreeWidgetItem* markedRow(QTreeWidget* list, const QString& what, const QString& number, bool on = true) {
    auto* item = new QTreeWidgetItem(list, {what, number});
    item->setFlags(item->flags() | Qt::ItemIsUserCheckable);
    item->setCheckState(0, on ? Qt::Checked : Qt::Unchecked);
    item->setTextAlignment(1, Qt::AlignRight | Qt::AlignVCenter);
    return item;
}

}  // namespace rasoir::app
