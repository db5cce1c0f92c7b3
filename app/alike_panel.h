// "All like this": what shall be the same, between which limits, and where to look. Stays open beside the stage.
#pragma once
#include <QComboBox>
#include <QDialog>
#include <QLabel>
#include <QPushButton>

#include "bench/cut_bar.h"
#include "selection.h"

namespace rasoir::app {

class AlikePanel : public QDialog {
    Q_OBJECT
public:
    AlikePanel(Session& session, Selection& selection, QWidget* parent = nullptr);

    [[nodiscard]] QComboBox* by() const { return m_by; }
    [[nodiscard]] QComboBox* limits() const { return m_limits; }
    [[nodiscard]] QComboBox* where() const { return m_where; }
    [[nodiscard]] CutBar* cutBar() const { return m_cutBar; }
    [[nodiscard]] QString found() const { return m_found->text(); }
    void search();

signals:
    void closerWanted(const rasoir::app::Pick& pick);

protected:
    void showEvent(QShowEvent* event) override;

private:
    void takeSample();
    void refresh();
    void walk(int by);

    Session& m_session;
    Selection& m_selection;
    std::optional<Pick> m_sample;
    QLabel *m_of, *m_found;
    QComboBox *m_by, *m_limits, *m_where;
    QLineEdit* m_low;
    CutBar* m_cutBar;
    bool m_searching = false;
};

}  // namespace rasoir::app
