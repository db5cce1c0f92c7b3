// The user's table of what names of boundaries say: words, and the kinds they stand for.
#pragma once
#include <QDialog>
#include <QTableWidget>

#include "join/regions.h"

namespace rasoir::app {

/// The table as it is kept; empty where there is none or it cannot be read.
[[nodiscard]] join::KindWords boundaryWords();

/// Shows it to be changed; kept when the dialog is accepted. Empty rows are left out.
class BoundaryWordsDialog : public QDialog {
    Q_OBJECT
public:
    explicit BoundaryWordsDialog(QWidget* parent);
    void accept() override;
    [[nodiscard]] QTableWidget* table() const { return m_table; }

private:
    void addRow(const QString& word, const QString& kind);
    QTableWidget* m_table;
};

}  // namespace rasoir::app
