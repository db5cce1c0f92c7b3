#include "main_window.h"

#include <QtWidgets>

#include "alike_panel.h"
#include "bench/bench_bar.h"
#include "bench/bench_list.h"
#include "bench/handover_bench.h"
#include "bench/intake_bench.h"
#include "bench/mend_bench.h"
#include "bench/shave_bench.h"
#include "board/parts_board.h"
#include "change_panel.h"
#include "find_command.h"
#include "guide_window.h"
#include "join/joint_faults.h"
#include "ledger/ledger_strip.h"
#include "measure/between.h"
#include "model/places.h"
#include "operations.h"
#include "selection.h"
#include "stage/stage.h"
#include "start_page.h"
#include "theme.h"
#include "thickness_panel.h"
#include "words.h"

/// Resources of a static library are only there once they are asked for; the macro wants to stand in no namespace.
static void loadResources() {
    Q_INIT_RESOURCE(resources);
}

namespace rasoir::app {
namespace {

/// A thin rule between areas.
class Rule : public QWidget {
public:
    Rule(Qt::Orientation way, QWidget* parent) : QWidget(parent) {
        if (way == Qt::Horizontal)
            setFixedHeight(1);
        else
            setFixedWidth(1);
    }

protected:
    void paintEvent(QPaintEvent*) override { QPainter(this).fillRect(rect(), colours().strongRule); }
};

QLabel* caption(const QString& text, QWidget* parent) {
    auto* label = new QLabel(text, parent);
    label->setStyleSheet("font-size: 11px;");
    return label;
}

QString unitText(Unit unit) {
    return QString::fromStdString(unitName(unit));
}

}  // namespace

MainWindow::MainWindow() : m_session(new Session(this)), m_selection(new Selection(*m_session, this)) {
    loadResources();
    setWindowTitle("Rasoir");
    setAcceptDrops(true);
    setMinimumSize(1024, 700);
    resize(1280, 800);

    auto* centre = new QWidget(this);
    auto* row = new QHBoxLayout(centre);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(0);
    auto* left = new QVBoxLayout;
    left->setSpacing(0);
    m_bar = new BenchBar(this);
    left->addWidget(new Rule(Qt::Horizontal, this));
    left->addWidget(m_bar);
    left->addWidget(new Rule(Qt::Horizontal, this));
    auto* middle = new QHBoxLayout;
    middle->setSpacing(0);
    m_board = new PartsBoard(*m_session, this);
    middle->addWidget(m_board);
    middle->addWidget(new Rule(Qt::Vertical, this));
    auto* stageColumn = new QVBoxLayout;
    stageColumn->setSpacing(0);
    m_stage = new Stage(*m_session, *m_selection, this);
    stageColumn->addWidget(m_stage, 1);
    m_start = new StartPage(m_stage);
    connect(m_start, &StartPage::askWanted, this, [this] { askOpen(); });
    connect(m_start, &StartPage::fileWanted, this, [this](const QString& path) { openFile(path); });
    auto* readingRow = new QWidget(this);
    readingRow->setFixedHeight(30);
    readingRow->setObjectName("readingRow");
    auto* readingLayout = new QHBoxLayout(readingRow);
    readingLayout->setContentsMargins(16, 0, 16, 0);
    m_reading = new QLabel(readingRow);
    m_reading->setObjectName("reading");
    m_reading->setAccessibleName("Reading line");
    m_reading->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    m_picked = new QLabel(readingRow);
    readingLayout->addWidget(m_reading, 1);
    readingLayout->addWidget(m_picked);
    stageColumn->addWidget(readingRow);
    middle->addLayout(stageColumn, 1);
    left->addLayout(middle, 1);
    left->addWidget(new Rule(Qt::Horizontal, this));
    m_ledger = new LedgerStrip(*m_session, this);
    left->addWidget(m_ledger);
    row->addLayout(left, 1);
    row->addWidget(new Rule(Qt::Vertical, this));

    m_panel = new QWidget(this);
    m_panel->setObjectName("panel");
    m_panel->setFixedWidth(304);
    auto* panelColumn = new QVBoxLayout(m_panel);
    panelColumn->setContentsMargins(0, 0, 0, 0);
    panelColumn->setSpacing(0);
    auto* header = new QWidget(m_panel);
    header->setFixedHeight(51);
    auto* headerGrid = new QGridLayout(header);
    headerGrid->setContentsMargins(16, 6, 16, 3);
    headerGrid->setHorizontalSpacing(14);
    headerGrid->setVerticalSpacing(0);
    m_target = new QLineEdit(header);
    m_target->setObjectName("targetSize");
    m_target->setAccessibleName("Target element size");
    m_target->setFixedWidth(72);
    m_units = new QComboBox(header);
    m_units->setAccessibleName("Length unit of the file to be written");
    for (const Unit unit : {Unit::Millimetre, Unit::Centimetre, Unit::Metre, Unit::Inch, Unit::Foot})
        m_units->addItem(unitText(unit), static_cast<int>(unit));
    m_units->setEnabled(false);
    m_units->setToolTip("The unit the file states. All numbers here are millimetres.");
    m_forecast = new QLabel(header);
    m_forecast->setObjectName("forecast");
    m_forecast->setAccessibleName("Forecast elements");
    headerGrid->addWidget(caption("Target size", header), 0, 0);
    headerGrid->addWidget(caption("File unit", header), 0, 1);
    headerGrid->addWidget(caption("Forecast", header), 0, 2);
    headerGrid->addWidget(m_target, 1, 0);
    headerGrid->addWidget(m_units, 1, 1);
    headerGrid->addWidget(m_forecast, 1, 2);
    headerGrid->setColumnStretch(2, 1);
    panelColumn->addWidget(new Rule(Qt::Horizontal, m_panel));
    panelColumn->addWidget(header);
    panelColumn->addWidget(new Rule(Qt::Horizontal, m_panel));
    m_benches = new QStackedWidget(m_panel);
    addBenches();
    panelColumn->addWidget(m_benches, 1);
    connect(m_board, &PartsBoard::materialDropped, m_intake, &IntakeBench::assignMaterialTo, Qt::QueuedConnection);
    row->addWidget(m_panel);
    setCentralWidget(centre);
    buildMenus();

    connect(m_bar, &BenchBar::benchChanged, this, [this](int bench) {
        m_benchChosen = true;
        m_benches->setCurrentIndex(bench);
        m_stage->setTintsParts(currentBench()->tintsParts());
        currentBench()->picksChanged(m_selection->picks());
        showPreview();
    });
    m_trialDelay.setSingleShot(true);
    m_trialDelay.setInterval(200);  // a limit that is being dragged asks when it rests
    connect(&m_trialDelay, &QTimer::timeout, this, [this] { m_trial.ask(m_trialWanted); });
    connect(m_session, &Session::started, this, [this] {  // the cores belong to what was asked for
        m_trialDelay.stop();
        m_trial.forget();
    });
    connect(m_session, &Session::finished, this, &MainWindow::showPreview);
    connect(&m_trial, &Trial::answered, this, &MainWindow::showPreview);
    connect(&m_session->places(), &PlaceView::visibilityChanged, this, &MainWindow::showPreview);
    connect(m_ledger, &LedgerStrip::editWanted, this, &MainWindow::askEdit);
    connect(m_ledger, &LedgerStrip::closerWanted, this,
            [this](const gp_Pnt& at, double size) { m_stage->zoomTo(at, size); });
    connect(m_stage, &Stage::hoverChanged, this, &MainWindow::refreshReading);
    connect(m_stage, &Stage::regionChanged, this, &MainWindow::refreshReading);
    connect(m_stage, &Stage::edgeDropped, this, [this](const select::Pick& edge, const select::Pick& onto) {
        showBench(m_mend);
        m_mend->joinPicked({edge, onto});
    });
    connect(m_selection, &Selection::changed, this, [this] {
        refreshReading();
        currentBench()->picksChanged(m_selection->picks());
    });
    m_thickness = new ThicknessPanel(*m_session, *m_stage, this);
    connect(m_thickness, &ThicknessPanel::shownChanged, this, &MainWindow::showPreview);
    m_change = new ChangePanel(*m_session, *m_selection, this);
    connect(m_change, &ChangePanel::stepChanged, this, &MainWindow::showPreview);
    m_alike = new AlikePanel(*m_session, *m_selection, this);
    connect(m_alike, &AlikePanel::closerWanted, this, [this](const Pick& pick) {
        const auto reading = measure::readingOf(m_session->model(), pick);
        const double size = std::max(reading.length.value_or(0.0), std::sqrt(reading.area.value_or(0.0)));
        if (reading.centre) m_stage->zoomTo(*reading.centre, 3.0 * size);
    });
    connect(m_target, &QLineEdit::returnPressed, this, [this] {
        QTimer::singleShot(0, this, [this] {  // after the number has been taken
            m_stage->setFocus();
            refreshHeader();
        });
    });
    connect(m_target, &QLineEdit::editingFinished, this, [this] {
        const auto size = parseLength(m_target->text().toStdString());
        if (size && *size > 0.0) m_session->setTargetSize(*size);
        refreshHeader();
    });
    connect(m_session, &Session::changed, this, [this] {
        refreshHeader();
        refreshReading();
    });
    connect(m_session, &Session::knowledgeChanged, this, &MainWindow::refreshHeader);
    connect(m_session, &Session::opened, this, [this] {
        m_notice.clear();
        m_benchChosen = false;
        if (!m_session->isEmpty()) {
            remember(m_session->fileName());
            m_namedViews.clear();
            const Json& view = m_session->view();
            if (view.contains("views") && view["views"].is_object())
                for (const auto& [name, camera] : view["views"].items())
                    m_namedViews[QString::fromStdString(name)] = camera;
            refreshViews();
            for (const std::string& note : m_session->model().notes)
                m_notice += (m_notice.isEmpty() ? "" : " ") + QString::fromStdString(note);
        }
    });
    connect(m_session, &Session::failed, this, [this](const Problem& problem) {
        m_notice = "▲ " + QString::fromStdString(sentence(problem));
        refreshReading();
        refreshHeader();
    });
    connect(m_session, &Session::saved, this, [this](const QString& path, const QString& proof) {
        m_notice = "Saved " + QDir::toNativeSeparators(path) + (proof.isEmpty() ? QString() : ": " + proof);
        refreshReading();
    });
    connect(m_session, &Session::started, this, [this](const QString& doing) {
        m_notice = doing + "…  Esc stops it";
        refreshReading();
    });
    connect(m_session, &Session::progressed, this, [this](double fraction, const QString& doing) {
        m_notice = QString("%1, %2 %  Esc stops it").arg(doing).arg(static_cast<int>(100 * fraction));
        refreshReading();
    });
    connect(m_session, &Session::finished, this, [this] {
        m_notice.clear();
        refreshReading();
    });
    connect(m_session, &Session::unitWanted, this, &MainWindow::askUnit);
    connect(&Theme::instance(), &Theme::changed, this, [this, readingRow, header] {
        readingRow->setStyleSheet(QString("#readingRow { background: %1; }").arg(colours().stage.name()));
        refreshReading();
    });
    readingRow->setStyleSheet(QString("#readingRow { background: %1; }").arg(colours().stage.name()));
    showBench(m_shave);
    m_benchChosen = false;
    connect(m_stage, &Stage::clicked, this, [this](const gp_Pnt& point) { currentBench()->clicked(point); });
    connect(m_stage, &Stage::handleMoved, this,
            [this](int handle, double by) { currentBench()->handleMoved(handle, by); });
    m_stage->setFocus();
    refreshHeader();
    refreshReading();
    refreshRecent();
}

MainWindow::~MainWindow() {
    // A field that loses the focus because its window goes away still tells that it was edited; nobody listens now.
    for (Bench* bench : findChildren<Bench*>()) bench->disconnect(this);
    // The stage listens to the session; both go before the thread does.
    m_session->cancel();
}

QAction* MainWindow::add(QMenu* menu, const QString& text, const QKeySequence& key, std::function<void()> slot) {
    QAction* action = menu->addAction(text);
    action->setShortcut(key);
    connect(action, &QAction::triggered, this, std::move(slot));
    return action;
}

void MainWindow::buildMenus() {
    QMenu* file = menuBar()->addMenu("&File");
    add(file, "&Open…", QKeySequence("Ctrl+O"), [this] { askOpen(); });
    m_recent = file->addMenu("Open &recent");
    file->addSeparator();
    m_save = add(file, "&Save the work", QKeySequence("Ctrl+S"), [this] { askSave(); });
    add(file, "Save the work &as…", QKeySequence("Ctrl+Shift+S"), [this] { askSaveAs(true); });
    add(file, "Save the &ledger alone…", {}, [this] { askSaveAs(false); });
    add(file, "&Replay a ledger here…", QKeySequence("Ctrl+L"), [this] {
        const QString path = QFileDialog::getOpenFileName(this, "Replay a ledger on this model", {},
                                                          "Ledgers and work (*.json *.rasoir);;All files (*)");
        if (!path.isEmpty()) m_session->replayLedger(path);
    });
    m_export = add(file, "&Export geometry…", QKeySequence("Ctrl+E"), [this] { askExport(); });
    add(file, "Write a re&port…", {}, [this] { askReport(); });
    m_recover = add(file, "Re&cover the last run", {}, [this] {
        if (mayDiscard()) m_session->openWithLedger(recoveredPath());
    });
    m_recover->setEnabled(QFileInfo::exists(recoveredPath()));
    file->addSeparator();
    add(file, "&Close file", QKeySequence("Ctrl+W"), [this] {
        if (mayDiscard()) m_session->close();
    });
    add(file, "&Quit", QKeySequence("Ctrl+Q"), [this] { close(); });

    QMenu* edit = menuBar()->addMenu("&Edit");
    m_undo = add(edit, "&Undo", QKeySequence("Ctrl+Z"), [this] { m_session->undo(); });
    m_redo = add(edit, "&Redo", QKeySequence("Ctrl+Shift+Z"), [this] { m_session->redo(); });
    edit->addSeparator();
    add(edit, "Set target &size", QKeySequence("Ctrl+T"), [this] {
        m_target->setFocus();
        m_target->selectAll();
    });

    QMenu* view = menuBar()->addMenu("&View");
    view->setObjectName("view");
    add(view, "&Fit everything", QKeySequence("F"), [this] { m_stage->fit(); });
    add(view, "Fit the &selection", QKeySequence("Shift+F"), [this] { m_stage->fit(true); });
    view->addSeparator();
    const std::pair<const char*, SquareView> looks[] = {
        {"From the &front", SquareView::Front}, {"From the &back", SquareView::Back},
        {"From the &left", SquareView::Left},   {"From the &right", SquareView::Right},
        {"From &above", SquareView::Top},       {"From bel&ow", SquareView::Bottom},
        {"From a &corner", SquareView::Corner}};
    int key = 1;
    for (const auto& [name, look] : looks)
        add(view, name, QKeySequence(QString("Alt+%1").arg(key++)), [this, look = look] { m_stage->look(look); });
    buildViewMenu();
    QMenu* look = view->addMenu("&Light or dark");
    auto* schemes = new QActionGroup(this);
    for (const auto& [name, scheme] :
         {std::pair{"As the &desktop", Scheme::Follow}, {"&Light", Scheme::Light}, {"D&ark", Scheme::Dark}}) {
        QAction* action = add(look, name, {}, [scheme = scheme] { Theme::instance().choose(scheme); });
        action->setCheckable(true);
        action->setChecked(Theme::instance().scheme() == scheme);
        schemes->addAction(action);
    }

    buildSelectMenu();
    buildPartsMenu();
    buildMeasureMenu();

    QMenu* bench = menuBar()->addMenu("&Benches");
    for (std::size_t b = 0; b < m_all.size(); ++b)
        add(bench, QString("&%1 %2").arg(b + 1).arg(m_all[b]->name()), QKeySequence(QString("Ctrl+%1").arg(b + 1)),
            [this, b] { m_bar->setCurrent(static_cast<int>(b)); });
    for (Bench* one : m_all) {
        const auto deeds = one->deeds();
        if (!deeds.empty()) bench->addSeparator();
        for (const BenchDeed& deed : deeds)
            add(bench, deed.text, deed.key, [this, one, run = deed.run] {
                showBench(one);
                run(m_selection->picks());
            });
    }
    bench->addSeparator();
    add(bench, "&Change what is picked…", QKeySequence("C"), [this] {
        m_change->show();
        m_change->adjustSize();
        m_change->move(m_stage->mapToGlobal(QPoint(12, 12)));
        m_change->raise();
        m_change->activateWindow();
    });
    add(bench, "Move the b&lade", QKeySequence("Ctrl+B"), [this] {
        if (CutBar* bar = currentBench()->cutBar()) bar->plot()->setFocus();
    });
    add(bench, "Do what the &button says", QKeySequence("Ctrl+Return"), [this] {
        if (QPushButton* button = currentBench()->primary()) button->click();
    });

    QMenu* ledger = menuBar()->addMenu("&Ledger");
    add(ledger, "&Replay waiting steps", QKeySequence("F5"), [this] { m_session->replayWaiting(); });
    add(ledger, "Take a &note…", QKeySequence("Ctrl+Shift+N"), [this] {
        const QString words = QInputDialog::getText(this, "Take a note", "What shall be remembered here:");
        if (!words.trimmed().isEmpty() && !m_session->isEmpty())
            m_session->apply("handover.note", {{"text", words.trimmed().toStdString()}});
    });
    add(ledger, "Show the state as &received", QKeySequence("Ctrl+Home"), [this] { m_session->moveMarker(0); });
    add(ledger, "Show one step &earlier", QKeySequence("Ctrl+Left"), [this] {
        if (m_session->marker() > 0) m_session->moveMarker(m_session->marker() - 1);
    });
    add(ledger, "Show one step &later", QKeySequence("Ctrl+Right"),
        [this] { m_session->moveMarker(m_session->marker() + 1); });
    add(ledger, "Show the state &now", QKeySequence("Ctrl+End"),
        [this] { m_session->moveMarker(m_session->work().ledger().steps.size()); });

    QMenu* help = menuBar()->addMenu("&Help");
    add(help, "&User guide", QKeySequence("F1"), [this] {
        if (m_guide == nullptr) m_guide = new GuideWindow(this);
        m_guide->showFor(currentBench()->name());
    });
    add(help, "&About Rasoir", {}, [this] {
        QMessageBox::about(this, "Rasoir",
                           "Rasoir prepares CAD geometry for analysis.\n\nLeft drag turns, middle or right drag "
                           "shifts, the wheel zooms.\n"
                           "Click picks, Ctrl+click adds. F6 goes from area to area.");
    });
    add(help, "Go to the &next area", QKeySequence("F6"), [this] { moveFocusToNextArea(); });

    m_find = new FindCommand(menuBar(), this);
    m_find->setFixedWidth(288);
    menuBar()->setCornerWidget(m_find, Qt::TopRightCorner);
    auto* find = new QShortcut(QKeySequence("Ctrl+F"), this);
    connect(find, &QShortcut::activated, this, [this] { m_find->setFocus(Qt::ShortcutFocusReason); });
    auto* escape = new QShortcut(QKeySequence("Esc"), this);
    connect(escape, &QShortcut::activated, this, &MainWindow::stepBack);
}

void MainWindow::stepBack() {
    // One level at a time: running work, then what is picked, then what is selected.
    if (m_session->isBusy())
        m_session->cancel();
    else if (m_stage->stepBack())
        return;
    else if (!m_selection->picks().empty())
        m_selection->clear();
    else
        m_session->places().select({});
}

void MainWindow::moveFocusToNextArea() {
    const QList<QWidget*> areas = {m_bar, m_board, m_stage, m_panel, m_ledger};
    int current = -1;
    for (int a = 0; a < areas.size(); ++a)
        if (focusWidget() != nullptr && (areas[a] == focusWidget() || areas[a]->isAncestorOf(focusWidget())))
            current = a;
    for (int step = 1; step <= areas.size(); ++step) {
        QWidget* area = areas[(current + step) % areas.size()];
        if (area->focusPolicy() != Qt::NoFocus) {
            area->setFocus(Qt::TabFocusReason);
            return;
        }
        for (QWidget* child : area->findChildren<QWidget*>())
            if (child->isVisible() && child->isEnabled() && child->focusPolicy() & Qt::TabFocus) {
                child->setFocus(Qt::TabFocusReason);
                return;
            }
    }
}

void MainWindow::refreshHeader() {
    const Model& model = m_session->model();
    const bool empty = m_session->isEmpty();
    m_start->setVisible(empty && !m_session->isBusy());
    m_bar->setFile(empty ? "no file" : QFileInfo(m_session->fileName()).fileName(),
                   empty                                                                  ? ""
                   : m_session->unsaved()                                                 ? "not saved"
                   : m_session->workPath().isEmpty() && m_session->ledgerPath().isEmpty() ? "nothing to save yet"
                                                                                          : "saved");
    for (std::size_t b = 0; b < m_all.size(); ++b) m_bar->setState(static_cast<int>(b), m_all[b]->state());
    // A file that is not closed begins at Mend: what Shave would take off loose faces helps nobody.
    if (!empty && !m_benchChosen && currentBench() == m_shave && m_mend->isOpen()) showBench(m_mend);
    if (!m_target->hasFocus())
        m_target->setText(empty ? "" : QString::fromStdString(readable(model.targetSize)) + " mm");
    m_target->setEnabled(!empty);
    m_units->setCurrentIndex(m_units->findData(static_cast<int>(model.fileUnit.value_or(Unit::Millimetre))));
    const double forecast = m_session->forecast();
    m_forecast->setText(forecast > 0.0
                            ? QString::fromStdString(readable(std::round(forecast / 10.0) * 10.0, 0)) + " el."
                            : QString("–"));
    m_undo->setEnabled(m_session->history().canUndo());
    m_undo->setText(m_session->history().canUndo()
                        ? "&Undo: " + QString::fromStdString(m_session->history().undoTitle())
                        : QString("&Undo"));
    m_redo->setEnabled(m_session->history().canRedo());
    m_save->setEnabled(!empty);
    m_export->setEnabled(!empty);
    setWindowTitle(empty ? "Rasoir"
                         : QFileInfo(m_session->fileName()).fileName() +
                               (m_session->unsaved() ? " * – Rasoir" : " – Rasoir"));
}

void MainWindow::addBenches() {
    m_all = makeBenches(*m_session, *m_selection, this);
    m_intake = bench<IntakeBench>();
    m_mend = bench<MendBench>();
    m_shave = bench<ShaveBench>();
    for (Bench* bench : m_all) {
        m_benches->addWidget(bench);
        m_bar->addBench(bench->name(), bench->does());
        connect(bench, &Bench::previewChanged, this, [this, bench] {
            if (bench == currentBench()) showPreview();
        });
        connect(bench, &Bench::stateChanged, this, &MainWindow::refreshHeader);
        connect(bench, &Bench::closerWanted, this,
                [this](const gp_Pnt& at, double size) { m_stage->zoomTo(at, size); });
        connect(bench, &Bench::selectionCloserWanted, this,
                [this] { m_stage->fit(!m_session->places().selected().empty()); });
        connect(bench, &Bench::picksWanted, this, [this](const std::vector<Pick>& picks) { m_selection->set(picks); });
        connect(bench, &Bench::edgesWanted, this, [this](const std::vector<Pick>& picks) {
            m_selection->setFilter(PickFilter::Edges);
            m_selection->set(picks);
        });
        if (QCheckBox* result = bench->resultSwitch())
            connect(result, &QCheckBox::toggled, this, [this](bool on) {
                for (const Bench* other : m_all)  // one wish, wherever it is uttered
                    if (other->resultSwitch() != nullptr) other->resultSwitch()->setChecked(on);
                showPreview();
            });
    }
    connect(bench<HandoverBench>(), &HandoverBench::exportWanted, this, &MainWindow::askExport);
    connect(bench<HandoverBench>(), &HandoverBench::reportWanted, this, &MainWindow::askReport);
    connect(bench<HandoverBench>(), &HandoverBench::meshFileWanted, this, &MainWindow::askMeshFile);
    connect(bench<HandoverBench>(), &HandoverBench::revisionFileWanted, this, [this] {
        const QString path =
            QFileDialog::getOpenFileName(this, "Look at the next revision", {},
                                         "Geometry (*.step *.stp *.STEP *.STP *.igs *.iges *.IGS *.IGES *.brep *.brp)");
        if (!path.isEmpty()) m_session->lookAtRevision(path);
    });
    connect(bench<HandoverBench>(), &HandoverBench::wipeWanted, m_stage, &Stage::setWipe);
    connect(m_intake, &IntakeBench::placesChosen, this, [this](const std::vector<std::size_t>& places) {
        std::vector<Pick> picks;
        for (const std::size_t o : places) picks.push_back({o});
        m_selection->set(std::move(picks));
    });
}

Bench* MainWindow::currentBench() const {
    return m_all[static_cast<std::size_t>(std::max(0, m_bar->current()))];
}

void MainWindow::showBench(const Bench* bench) {
    const auto at = std::find(m_all.begin(), m_all.end(), bench);
    if (at != m_all.end()) m_bar->setCurrent(static_cast<int>(at - m_all.begin()));
}

void MainWindow::showPreview() {
    if (m_change->isVisible()) {
        m_stage->setGoing({});
        const QStringList reasons = showResult(m_change->step(), m_change->resultSwitch());
        m_change->tell(reasons, !reasons.isEmpty() && !m_stage->showsResult());
        m_stage->setPreview({}, {}, {});
        m_stage->setDrawn({}, {});
        m_stage->setMesh(nullptr, nullptr);
        return;
    }
    Bench* bench = currentBench();
    if (bench->resultSwitch() == nullptr || m_thickness->isVisible()) {  // brass then tells thin walls
        m_trialDelay.stop();
        m_trial.forget();
        m_stage->setResult(nullptr, {});
        m_stage->setApart({}, {});
        BenchPreview shown = bench->preview();
        if (m_thickness->isVisible()) {
            m_stage->setPreview({}, {}, {});
            m_stage->setDrawn({}, {});
        } else {
            m_stage->setPreview(std::move(shown.goes), std::move(shown.kept), std::move(shown.marks),
                                std::move(shown.bands));
            m_stage->setDrawn(std::move(shown.lines), std::move(shown.handles));
        }
        m_stage->setMesh(std::move(shown.mesh), std::move(shown.meshReceived));
        m_stage->setGoing(m_thickness->isVisible() ? std::vector<std::size_t>{} : std::move(shown.going));
        return;
    }
    const std::optional<BenchStep> step = bench->step();
    showResult(step, bench->resultSwitch());
    if (!step || !bench->resultSwitch()->isChecked()) {
        bench->triedOut(nullptr);
    } else if (const auto* answer = m_trial.answerTo({m_session->model(), step->operation, step->parameters})) {
        bench->triedOut(answer->problem ? nullptr : &answer->outcome);
    }
    BenchPreview preview = bench->preview();
    m_stage->setMesh(std::move(preview.mesh), std::move(preview.meshReceived));
    if (m_stage->showsResult()) {  // it has gone
        preview.goes.clear();
        preview.bands.clear();
    }
    m_stage->setGoing(std::move(preview.going));
    m_stage->setApart(std::move(preview.sets), std::move(preview.apart));
    m_stage->setPreview(std::move(preview.goes), std::move(preview.kept), std::move(preview.marks),
                        std::move(preview.bands));
    m_stage->setDrawn(std::move(preview.lines), std::move(preview.handles));
}

QStringList MainWindow::showResult(const std::optional<BenchStep>& step, QCheckBox* wanted) {
    QString words = "Show what would be left (R)";
    const Trial::Answer* answer = nullptr;
    m_trialDelay.stop();
    if (wanted->isChecked() && step && !m_session->isEmpty()) {
        Trial::Question question{m_session->model(), step->operation, step->parameters};
        answer = m_trial.answerTo(question);
        if (answer == nullptr) {
            words += ": looking…";
            m_trialWanted = std::move(question);
            m_trialDelay.start();
        } else if (answer->problem) {
            words = m_change->isVisible() ? "Nothing would change (R)"
                                          : "Nothing would change: " + QString::fromStdString(answer->problem->what);
        } else if (const auto stays = std::count_if(answer->outcome.items.begin(), answer->outcome.items.end(),
                                                    [](const Item& item) { return !item.done; });
                   stays > 0) {
            words += QString(": %1 of %2 would stay").arg(stays).arg(answer->outcome.items.size());
        }
    } else {
        m_trial.forget();
    }
    wanted->setText(fontMetrics().elidedText(words, Qt::ElideRight, std::max(120, wanted->width() - 28)));
    QStringList reasons;
    if (answer != nullptr) {
        if (answer->problem) reasons << QString::fromStdString(sentence(*answer->problem));
        for (const Item& item : answer->outcome.items)
            if (!item.done && reasons.size() < 12)
                reasons << QString::fromStdString(item.what + ": " + sentence(item.problem));
    }
    wanted->setToolTip(reasons.join('\n'));
    const bool shows = answer != nullptr && !answer->problem;
    m_stage->setResult(shows ? &answer->outcome.model : nullptr,
                       shows ? answer->outcome.lineage : std::vector<PartLineage>{});
    return reasons;
}

void MainWindow::say(const Result<void>& result) {
    m_notice = result ? QString() : "▲ " + QString::fromStdString(sentence(result.error()));
    refreshReading();
}

QString MainWindow::reading() const {
    QTextDocument text;
    text.setHtml(m_reading->text());
    return text.toPlainText();
}

QString MainWindow::pickedReading() const {
    const auto& picks = m_selection->picks();
    const Model& model = m_session->model();
    if (picks.empty()) return {};
    if (picks.size() == 2)
        if (const auto pair = measure::readingBetween(model, picks[0], picks[1]))
            return QString::fromStdString(measure::inWords(*pair, m_readIn));
    if (picks.size() == 1) {
        const Pick& pick = picks[0];
        const Part& part = *model.parts[model.occurrences[pick.occurrence].part];
        if (kindOf(pick) == PickKind::Part) return QString::fromStdString(part.name);
        return QString::fromStdString(measure::inWords(measure::readingOf(model, pick), m_readIn));
    }
    // Of many: what adds up.
    double length = 0.0, area = 0.0;
    for (const Pick& pick : picks) {
        const PartKnowledge* known = m_session->knowledge(model.occurrences[pick.occurrence].part);
        if (known == nullptr || !known->traits) continue;
        if (pick.face > 0) area += known->traits->faces[static_cast<std::size_t>(pick.face)].area;
        if (pick.edge > 0) length += known->traits->edges[static_cast<std::size_t>(pick.edge)].length;
    }
    const double per = millimetresPer(m_readIn);
    const QString unit = QString::fromStdString(unitName(m_readIn));
    QString text = describeSelection(picks);
    if (area > 0.0)
        text += QString(", together %1 %2²").arg(QString::fromStdString(readable(area / (per * per))), unit);
    if (length > 0.0)
        text += QString(", together %1 %2 long").arg(QString::fromStdString(readable(length / per)), unit);
    return text;
}

void MainWindow::refreshReading() {
    const Model& model = m_session->model();
    const auto describe = [&](const Pick& pick) {
        const Part& part = *model.parts[model.occurrences[pick.occurrence].part];
        if (kindOf(pick) == PickKind::Part) return QString::fromStdString(part.name);
        QString words = QString::fromStdString(measure::inWords(measure::readingOf(model, pick), m_readIn));
        if (pick.face > 0 || pick.edge > 0) {
            const bool face = pick.face > 0;
            QStringList names;
            for (const std::size_t place :
                 join::commonTo(model, pick.occurrence,
                                {face ? EntityKind::Face : EntityKind::Edge, face ? pick.face : pick.edge}))
                names += text(placeName(model, place));
            if (!names.isEmpty()) words += QString(", common to %1").arg(names.join(", "));
        }
        return words;
    };
    const auto& picks = m_selection->picks();
    const auto bold = [](const QString& title, const QString& text) {
        return "<b>" + title + "</b>&nbsp;&nbsp;" + text.toHtmlEscaped();
    };
    if (m_stage->drag()) {
        m_reading->setText(
            bold(m_stage->drag()->touches() ? "Touched" : "Inside", describeSelection(m_stage->drag()->found())));
        return;
    }
    if (!m_notice.isEmpty()) {
        // The line is one line: what does not fit is in its tip, and in the bench that asked.
        const QString fits = m_reading->width() > 100
                                 ? m_reading->fontMetrics().elidedText(m_notice, Qt::ElideRight, m_reading->width() - 4)
                                 : m_notice;
        m_reading->setToolTip(fits == m_notice ? QString() : m_notice);
        m_reading->setText(
            m_notice.startsWith("▲")
                ? QString("<span style='color:%1'>%2</span>").arg(colours().vermilionText.name(), fits.toHtmlEscaped())
                : fits.toHtmlEscaped());
        m_reading->setToolTip(m_notice);
    } else if (picks.size() == 2) {
        m_reading->setText(bold("Between the two", pickedReading()));
    } else if (m_stage->hovered() && m_stage->hovered()->occurrence < model.occurrences.size()) {
        m_reading->setText(bold("Under the pointer", describe(*m_stage->hovered())));
    } else if (!picks.empty()) {
        m_reading->setText(bold("Picked", pickedReading()));
    } else {
        m_reading->setText(m_session->isEmpty()
                               ? ""
                               : "Drag turns, right drag shifts, wheel zooms, click picks, Shift+drag draws a box.");
    }
    // A notice about what happened gives way once the pointer reads something.
    if (!m_notice.isEmpty() && !m_session->isBusy() && m_stage->hovered() && !m_notice.startsWith("▲"))
        m_notice.clear();
    m_picked->setText(picks.empty() ? (m_session->isEmpty() ? "" : "nothing picked")
                                    : describeSelection(picks) + " picked");
}

void MainWindow::closeEvent(QCloseEvent* event) {
    if (!mayDiscard()) {
        event->ignore();
        return;
    }
    m_session->cancel();
    QFile::remove(Session::viewBeside(Session::autosavePath()));
    QFile::remove(Session::autosavePath());  // a tidy end needs no recovery
    event->accept();
}

void MainWindow::dragEnterEvent(QDragEnterEvent* event) {
    if (event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* event) {
    const auto urls = event->mimeData()->urls();
    QStringList paths;
    for (const QUrl& url : urls)
        if (url.isLocalFile()) paths << url.toLocalFile();
    if (!paths.isEmpty() && mayDiscard()) openFiles(paths);
}

void MainWindow::resizeEvent(QResizeEvent* event) {
    QMainWindow::resizeEvent(event);
    const bool wide = width() >= 1700, narrow = width() < 1160;
    m_board->setFixedWidth(wide ? 320 : narrow ? 200 : 260);
    m_panel->setFixedWidth(wide ? 360 : narrow ? 290 : 304);
}

}  // namespace rasoir::app
