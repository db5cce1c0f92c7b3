// Find a command: type a few letters of any action, see its menu and key, Enter does it.
#pragma once
#include <QAction>
#include <QLineEdit>
#include <QMenuBar>

namespace rasoir::app {

class FindCommand : public QLineEdit {
    Q_OBJECT
public:
    explicit FindCommand(QMenuBar* menus, QWidget* parent = nullptr);
    /// Actions whose menu path contains every typed word, best first.
    [[nodiscard]] QList<QAction*> matches(const QString& typed) const;

    [[nodiscard]] QSize sizeHint() const override { return {288, 26}; }  // the menu bar goes by the hint alone

protected:
    void focusInEvent(QFocusEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

private:
    void refresh();
    QMenuBar* m_menus;
};

}  // namespace rasoir::app
