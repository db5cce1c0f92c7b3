// The parts board: one row per part, copies folded, with size, faces and health; show, hide, isolate.
#pragma once
#include <QLabel>
#include <QLineEdit>
#include <QTreeWidget>
#include <QWidget>

#include "session.h"

namespace rasoir::app {

class PartsBoard : public QWidget {
    Q_OBJECT
public:
    explicit PartsBoard(Session& session, QWidget* parent = nullptr);
    [[nodiscard]] QTreeWidget* tree() const { return m_tree; }

    void hideSelected();
    void isolateSelected();
    void showAll();

    /// What a material dragged onto a part carries: its name as text.
    static constexpr const char* materialMime = "application/x-rasoir-material";

signals:
    void materialDropped(const QString& name, const std::vector<std::string>& parts);

private:
    bool dropped(const QMimeData& what, const QTreeWidgetItem* at, bool behind);
    void rebuild();
    void refreshFacts();
    void selectionToTree();
    void selectionFromTree();
    void refreshFoot();
    [[nodiscard]] std::set<std::size_t> occurrencesOf(const QTreeWidgetItem* item) const;

    Session& m_session;
    QLabel *m_count, *m_foot;
    QLineEdit* m_filter;
    QTreeWidget* m_tree;
    bool m_syncing = false;
};

}  // namespace rasoir::app
