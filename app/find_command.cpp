#include "find_command.h"

#include <QAbstractItemView>
#include <QCompleter>
#include <QKeyEvent>
#include <QStandardItemModel>
#include <QTimer>

namespace rasoir::app {
namespace {

QString plain(const QAction* action) {
    return QString(action->text()).remove('&').remove(QString("…"));
}

void collect(const QMenu* menu, const QString& path, QList<QPair<QString, QAction*>>& all) {
    for (QAction* action : menu->actions()) {
        if (action->isSeparator()) continue;
        if (action->menu() != nullptr)
            collect(action->menu(), path + plain(action) + " › ", all);
        else
            all.append({path + plain(action), action});
    }
}

QList<QPair<QString, QAction*>> everything(const QMenuBar* menus) {
    QList<QPair<QString, QAction*>> all;
    for (const QAction* top : menus->actions())
        if (top->menu() != nullptr) collect(top->menu(), plain(top) + " › ", all);
    return all;
}

}  // namespace

FindCommand::FindCommand(QMenuBar* menus, QWidget* parent) : QLineEdit(parent), m_menus(menus) {
    setPlaceholderText("Find a command    Ctrl+F");
    setAccessibleName("Find a command");
    setObjectName("findCommand");
    auto* completer = new QCompleter(new QStandardItemModel(this), this);
    completer->setFilterMode(Qt::MatchContains);
    completer->setCompletionMode(QCompleter::UnfilteredPopupCompletion);
    completer->setMaxVisibleItems(12);
    setCompleter(completer);
    connect(this, &QLineEdit::textEdited, this, &FindCommand::refresh);
    connect(completer, QOverload<const QModelIndex&>::of(&QCompleter::activated), this,
            [this](const QModelIndex& index) {
                auto* action = index.data(Qt::UserRole).value<QAction*>();
                // The completer writes the row's text first; the action may open a dialog.
                QTimer::singleShot(0, this, [this, action] {
                    clear();
                    clearFocus();
                    if (action != nullptr && action->isEnabled()) action->trigger();
                });
            });
}

QList<QAction*> FindCommand::matches(const QString& typed) const {
    const QStringList words = typed.toLower().split(' ', Qt::SkipEmptyParts);
    QList<QAction*> found, later;
    for (const auto& [path, action] : everything(m_menus)) {
        const QString lower = path.toLower();
        if (!std::all_of(words.begin(), words.end(), [&](const QString& word) { return lower.contains(word); }))
            continue;
        (plain(action).startsWith(typed, Qt::CaseInsensitive) ? found : later).append(action);
    }
    return found + later;
}

void FindCommand::refresh() {
    auto* model = static_cast<QStandardItemModel*>(completer()->model());
    model->clear();
    const auto all = everything(m_menus);
    for (QAction* action : matches(text())) {
        QString path;
        for (const auto& [name, other] : all)
            if (other == action) path = name;
        const QString key = action->shortcut().toString(QKeySequence::NativeText);
        auto* row = new QStandardItem(key.isEmpty() ? path : path + "    " + key);
        row->setData(QVariant::fromValue(action), Qt::UserRole);
        row->setEnabled(action->isEnabled());
        model->appendRow(row);
    }
    completer()->complete();
}

void FindCommand::focusInEvent(QFocusEvent* event) {
    QLineEdit::focusInEvent(event);
    if (event->reason() == Qt::ShortcutFocusReason) refresh();
}

void FindCommand::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Escape) {
        clear();
        clearFocus();
        return;
    }
    if ((event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) && !text().isEmpty()) {
        const auto found = matches(text());
        clear();
        clearFocus();
        if (!found.isEmpty() && found.front()->isEnabled()) found.front()->trigger();
        return;
    }
    QLineEdit::keyPressEvent(event);
}

}  // namespace rasoir::app
