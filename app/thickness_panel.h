// Wall thickness as colours on the stage, with the cut bar as their scale: brass is thinner than the blade.
#pragma once
#include <QDialog>
#include <QLabel>

#include "bench/cut_bar.h"
#include "session.h"

namespace rasoir::app {

class Stage;

class ThicknessPanel : public QDialog {
    Q_OBJECT
public:
    ThicknessPanel(Session& session, Stage& stage, QWidget* parent = nullptr);
    [[nodiscard]] CutBar* cutBar() const { return m_cutBar; }
    [[nodiscard]] QString summary() const { return m_summary->text(); }

signals:
    void shownChanged();

protected:
    void showEvent(QShowEvent* event) override;
    void hideEvent(QHideEvent* event) override;

private:
    void refresh();
    Session& m_session;
    Stage& m_stage;
    QLabel* m_summary;
    CutBar* m_cutBar;
    bool m_limitChosen = false;
};

}  // namespace rasoir::app
