// The window: benches above, parts left, stage in the middle, bench right, ledger below.
#pragma once
#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QMainWindow>
#include <QMenu>
#include <QStackedWidget>
#include <QTimer>

#include "bench/action_foot.h"
#include "bench/bench.h"
#include "session.h"
#include "trial.h"

namespace rasoir::app {

class BenchBar;
class FindCommand;
class LedgerStrip;
class PartsBoard;

class DivideBench;
class MendBench;
class ShaveBench;
class AlikePanel;
class ChangePanel;
class IntakeBench;
class Selection;
class GuideWindow;
class Stage;
class StartPage;
class ThicknessPanel;

class MainWindow : public QMainWindow {
    Q_OBJECT
public:
    MainWindow();
    ~MainWindow() override;

    void openFile(const QString& path) { openFiles({path}); }
    void openFiles(const QStringList& paths);
    [[nodiscard]] Session& session() { return *m_session; }
    [[nodiscard]] Stage* stage() const { return m_stage; }
    [[nodiscard]] StartPage* startPage() const { return m_start; }
    [[nodiscard]] GuideWindow* guide() const { return m_guide; }
    [[nodiscard]] MendBench* mend() const { return m_mend; }
    [[nodiscard]] ShaveBench* shave() const { return m_shave; }
    [[nodiscard]] IntakeBench* intake() const { return m_intake; }
    /// The bench of a class; each class has one.
    template <class Kind>
    [[nodiscard]] Kind* bench() const {
        for (Bench* one : m_all)
            if (auto* own = qobject_cast<Kind*>(one)) return own;
        return nullptr;
    }
    void showBench(const Bench* bench);
    [[nodiscard]] Bench* currentBench() const;
    [[nodiscard]] Selection& selection() const { return *m_selection; }
    [[nodiscard]] ThicknessPanel* thickness() const { return m_thickness; }
    [[nodiscard]] AlikePanel* alike() const { return m_alike; }
    [[nodiscard]] ChangePanel* change() const { return m_change; }
    [[nodiscard]] PartsBoard* board() const { return m_board; }
    [[nodiscard]] LedgerStrip* ledger() const { return m_ledger; }
    [[nodiscard]] QString reading() const;
    [[nodiscard]] bool exportFile(const QString& path);
    [[nodiscard]] bool saveWork(const QString& path);
    /// What is picked, else what is chosen in the bench's list, becomes a group of that name.
    void keepGroup(const QString& name);
    void recallGroup(const QString& name);  ///< picks its members
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
    void askReport();
    void askMaterials();
    void askDrawing();  ///< what the drawing says of what is picked
    void askMeshFile();
    [[nodiscard]] static QString recoveredPath();
    void buildViewMenu();
    void buildSelectMenu();
    void buildPartsMenu();
    void buildMeasureMenu();
    QAction* add(QMenu* menu, const QString& text, const QKeySequence& key, std::function<void()> slot);
    void say(const Result<void>& result);
    void addBenches();
    void showPreview();
    /// Where `wanted` is on: what the step would make, as soon as that is found out.
    /// Returns why some or all of it would stay.
    QStringList showResult(const std::optional<BenchStep>& step, QCheckBox* wanted);
    void measureThickness();
    void pinReading();
    void tellInertia();
    void askSaveAs(bool asWork);
    void askRename();
    void askGroup();
    void selectMade();  ///< the faces that the step before the marker made
    void askMove();
    void moveToOrigin();
    void alignAxis(int axis);
    void refreshViews();
    [[nodiscard]] Json viewToKeep() const;
    [[nodiscard]] std::vector<std::string> selectedPlaces() const;
    [[nodiscard]] QString pickedReading() const;
    void askUnit(const QStringList& paths, const Problem& problem);
    void askEdit(std::size_t step);
    void stepBack();
    void moveFocusToNextArea();
    [[nodiscard]] bool mayDiscard();

    Session* m_session;
    Selection* m_selection;
    Trial m_trial;
    Trial::Question m_trialWanted;
    QTimer m_trialDelay;
    std::vector<Bench*> m_all;  // in the order of the bar
    IntakeBench* m_intake = nullptr;
    bool m_benchChosen = false;  // by the user, since the file was opened
    AlikePanel* m_alike = nullptr;
    ChangePanel* m_change = nullptr;
    ThicknessPanel* m_thickness = nullptr;
    QMenu *m_views = nullptr, *m_groups = nullptr;
    std::map<QString, Json> m_namedViews;
    Unit m_readIn = Unit::Millimetre;
    BenchBar* m_bar;
    PartsBoard* m_board;
    Stage* m_stage;
    StartPage* m_start = nullptr;
    GuideWindow* m_guide = nullptr;  // made when it is first asked for
    MendBench* m_mend = nullptr;
    ShaveBench* m_shave = nullptr;
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
