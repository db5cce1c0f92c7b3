// The window: benches above, parts left, stage in the middle, bench right, ledger below.
#pragma once
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QMainWindow>
#include <QStackedWidget>

#include "session.h"

namespace rasoir::app {

class BenchBar;
class FindCommand;
class LedgerStrip;
class PartsBoard;
class ShaveBench;
class Stage;

class MainWindow : public QMainWindow {
    Q_OBJECT
public:
    MainWindow();
    ~MainWindow() override;

    void openFile(const QString& path);
    [[nodiscard]] Session& session() { return *m_session; }
    [[nodiscard]] Stage* stage() const { return m_stage; }
    [[nodiscard]] ShaveBench* shave() const { return m_shave; }
    [[nodiscard]] PartsBoard* board() const { return m_board; }
    [[nodiscard]] LedgerStrip* ledger() const { return m_ledger; }
    [[nodiscard]] QString reading() const;
    [[nodiscard]] bool exportFile(const QString& path);
    /// Shows a saved ledger of a crashed run, if there is one, as an offer in the reading line.
    void offerRecovery();

protected:
    void closeEvent(QCloseEvent* event) override;
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dropEvent(QDropEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;

private:
    void buildMenus();
    void refreshHeader();
    void refreshReading();
    void refreshRecent();
    void remember(const QString& path);
    void askOpen();
    void askSave();
    void askExport();
    [[nodiscard]] static QString recoveredPath();
    void askUnit(const QString& path, const Problem& problem);
    void askEdit(std::size_t step);
    void stepBack();
    void moveFocusToNextArea();
    [[nodiscard]] bool mayDiscard();

    Session* m_session;
    BenchBar* m_bar;
    PartsBoard* m_board;
    Stage* m_stage;
    ShaveBench* m_shave;
    LedgerStrip* m_ledger;
    FindCommand* m_find;
    QStackedWidget* m_benches;
    QWidget* m_panel;
    QLineEdit* m_target;
    QComboBox* m_units;
    QLabel *m_forecast, *m_reading, *m_picked;
    QMenu* m_recent;
    QAction *m_undo, *m_redo, *m_save, *m_export, *m_recover;
    QString m_notice;
};

}  // namespace rasoir::app
