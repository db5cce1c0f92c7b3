// The ledger strip: steps as cards on one thread, each with its effect and its switch; the marker shows an earlier
// state.
#pragma once
#include <QCheckBox>
#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QWidget>

#include "session.h"

namespace rasoir::app {

/// Number, switch, what was done, what came of it.
class StepCard : public QWidget {
    Q_OBJECT
public:
    StepCard(int number, const QString& title, const QString& effect, StepState state, bool on, bool switchable,
             bool quiet, QWidget* parent);
    [[nodiscard]] QCheckBox* onSwitch() const { return m_switch; }
    [[nodiscard]] QString title() const { return m_title; }
    [[nodiscard]] QString effect() const { return m_effect; }

signals:
    void switched(bool on);
    void chosen();
    void menuWanted(const QPoint& at);

protected:
    void paintEvent(QPaintEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void contextMenuEvent(QContextMenuEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

private:
    int m_number;
    QString m_title, m_effect;
    StepState m_state;
    bool m_quiet;
    QCheckBox* m_switch = nullptr;
};

class LedgerStrip : public QWidget {
    Q_OBJECT
public:
    explicit LedgerStrip(Session& session, QWidget* parent = nullptr);
    [[nodiscard]] std::vector<StepCard*> cards() const { return m_cards; }

signals:
    void editWanted(std::size_t step);
    void closerWanted(const gp_Pnt& point, double size);

private:
    void rebuild();
    void addLost(QMenu& menu, std::size_t step);
    Session& m_session;
    QLabel* m_state;
    QPushButton* m_replay;
    QScrollArea* m_scroll;
    QWidget* m_row = nullptr;
    std::vector<StepCard*> m_cards;
};

}  // namespace rasoir::app
