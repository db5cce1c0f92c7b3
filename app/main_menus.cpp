// The window's menus for looking, selecting, parts and measuring: every action of these has its entry, most a key.
#include <QActionGroup>
#include <QtWidgets>

#include "alike_panel.h"
#include "bench/bench_bar.h"
#include "bench/intake_bench.h"
#include "bench/mend_bench.h"
#include "bench/shave_bench.h"
#include "board/parts_board.h"
#include "change_panel.h"
#include "handover/dimension.h"
#include "intake/naming.h"
#include "intake/placing.h"
#include "main_window.h"
#include "measure/between.h"
#include "model/places.h"
#include "selection.h"
#include "stage/stage.h"
#include "thickness_panel.h"
#include "words.h"

namespace rasoir::app {

void MainWindow::buildViewMenu() {
    QMenu* view = menuBar()->findChild<QMenu*>("view");
    view->addSeparator();
    add(view, "Look s&quare at the picked face", QKeySequence("Alt+8"), [this] {
        if (!m_selection->picks().empty()) m_stage->lookAtFace(m_selection->picks().back());
    });
    add(view, "&Roll by a quarter", QKeySequence("Alt+9"), [this] { m_stage->roll(90.0); });
    QAction* perspective = add(view, "&Perspective", QKeySequence("Alt+P"), [] {});
    perspective->setCheckable(true);
    connect(perspective, &QAction::toggled, this, [this](bool on) { m_stage->setPerspective(on); });
    QMenu* colour = view->addMenu("&Colour faces by");
    auto* ways = new QActionGroup(this);
    for (const auto& [name, by, key] : {std::tuple{"&nothing: bone", ColourBy::Bone, "Alt+C"},
                                        {"colours as &received", ColourBy::Received, "Alt+R"},
                                        {"&part", ColourBy::Part, ""},
                                        {"&material", ColourBy::Material, ""},
                                        {"&body", ColourBy::Body, ""},
                                        {"&group", ColourBy::Group, ""}}) {
        QAction* action = add(colour, name, QKeySequence(key), [this, by = by] { m_stage->setColourBy(by); });
        action->setCheckable(true);
        action->setChecked(by == ColourBy::Bone);
        ways->addAction(action);
    }
    add(colour, "&thickness of walls…", QKeySequence("Alt+T"), [this] {
        m_thickness->show();
        m_thickness->move(m_stage->mapToGlobal(QPoint(12, 12)));
    });
    QAction* convexity = add(view, "Colour edges by con&vexity", QKeySequence("Alt+V"), [this] {
        m_stage->setColourBy(m_stage->colourBy() == ColourBy::Convexity ? ColourBy::Bone : ColourBy::Convexity);
    });
    convexity->setCheckable(true);
    ways->addAction(convexity);
    QMenu* section = view->addMenu("&Section");
    int axis = 0;
    for (const char* name : {"&none", "square to &X", "square to &Y", "square to &Z"}) {
        add(section, name, QKeySequence(axis == 0 ? "Alt+0" : QString("Alt+Shift+%1").arg("_XYZ"[axis])),
            [this, axis] { m_stage->setSection(axis); });
        ++axis;
    }
    add(section, "&other side", QKeySequence("Alt+Shift+F"), [this] { m_stage->flipSection(); });
    add(view, "Show what would be &left", QKeySequence("R"), [this] {
        if (m_change->isVisible())
            m_change->resultSwitch()->toggle();
        else if (QCheckBox* result = currentBench()->resultSwitch())
            result->toggle();
    });
    QAction* wipe =
        add(view, "&Wipe between received and now", QKeySequence("W"), [this] { m_stage->setWipe(!m_stage->wipes()); });
    wipe->setObjectName("wipe");
    m_views = view->addMenu("&Named views");
    refreshViews();
    view->addSeparator();
}

void MainWindow::refreshViews() {
    if (m_views == nullptr) return;
    m_views->clear();
    add(m_views, "&Keep this view…", QKeySequence("Ctrl+K"), [this] {
        bool fine = false;
        const QString name = QInputDialog::getText(this, "Keep this view", "Name:", QLineEdit::Normal,
                                                   QString("view %1").arg(m_namedViews.size() + 1), &fine)
                                 .trimmed();
        if (!fine || name.isEmpty()) return;
        m_namedViews[name] = m_stage->camera();
        m_session->autosaveView(viewToKeep());
        refreshViews();
    });
    if (m_namedViews.empty()) return;
    m_views->addSeparator();
    for (const auto& [name, camera] : m_namedViews)
        add(m_views, name, {}, [this, camera = camera] { m_stage->setCamera(camera); });
    QMenu* forget = m_views->addMenu("&Forget");
    for (const auto& [name, camera] : m_namedViews)
        add(forget, name, {}, [this, name = name] {
            m_namedViews.erase(name);
            m_session->autosaveView(viewToKeep());
            QTimer::singleShot(0, this, &MainWindow::refreshViews);  // not while its own menu is open
        });
}

void MainWindow::buildSelectMenu() {
    QMenu* select = menuBar()->addMenu("&Select");
    QMenu* filter = select->addMenu("A click &takes");
    auto* filters = new QActionGroup(this);
    int number = 1;
    for (const auto& [name, kind] : {std::pair{"faces &and edges", PickFilter::FacesAndEdges},
                                     {"&faces", PickFilter::Faces},
                                     {"&edges", PickFilter::Edges},
                                     {"&vertices", PickFilter::Vertices},
                                     {"&bodies", PickFilter::Bodies},
                                     {"whole &parts", PickFilter::Parts}}) {
        QAction* action = add(filter, name, QKeySequence(QString("%1").arg(number++)),
                              [this, kind = kind] { m_selection->setFilter(kind); });
        action->setCheckable(true);
        action->setChecked(kind == m_selection->filter());
        filters->addAction(action);
    }
    add(select, "Draw a &box", QKeySequence("B"), [this] { m_stage->drawNext(RegionShape::Box); });
    add(select, "Draw a &lasso", QKeySequence("L"), [this] { m_stage->drawNext(RegionShape::Lasso); });
    QAction* seen = add(select, "Boxes and lassos take only what is see&n", QKeySequence("Shift+B"), [] {});
    seen->setCheckable(true);
    connect(seen, &QAction::toggled, this, [this](bool on) { m_stage->setSeenOnly(on); });
    select->addSeparator();
    QMenu* grow = select->addMenu("&Grow to");
    for (const auto& [name, way, key] : {std::tuple{"the &tangent chain", Grow::Tangent, "T"},
                                         {"the &neighbours", Grow::Adjacent, "N"},
                                         {"the whole &feature", Grow::Feature, "E"},
                                         {"the &loop of edges", Grow::Loop, "O"},
                                         {"everything &inside the boundary", Grow::Inside, "I"},
                                         {"the faces &between two", Grow::Between, "Y"}})
        add(grow, name, QKeySequence(key), [this, way = way] { say(m_selection->grow(way)); });
    add(select, "S&hrink", QKeySequence("Shift+N"), [this] { say(m_selection->grow(Grow::Shrink)); });
    add(select, "All like &this…", QKeySequence("A"), [this] {
        m_alike->show();
        m_alike->adjustSize();
        m_alike->move(m_stage->mapToGlobal(QPoint(12, 12)));  // beside what is looked at, not over it
        m_alike->raise();
    });
    add(select, "&Invert", QKeySequence("Ctrl+I"), [this] { m_selection->invert(); });
    add(select, "Last selection bac&k", QKeySequence("Shift+A"), [this] { m_selection->back(); });
    add(select, "Nothin&g", QKeySequence("Ctrl+D"), [this] {
        m_selection->clear();
        m_session->places().select({});
    });
    const auto walk = [this](int by) {
        if (const auto pick = m_selection->step(by))
            if (const auto reading = measure::readingOf(m_session->model(), *pick); reading.centre)
                m_stage->zoomTo(*reading.centre,
                                3.0 * std::max(reading.length.value_or(0.0), std::sqrt(reading.area.value_or(0.0))));
    };
    add(select, "Look at the ne&xt of the selected", QKeySequence("Ctrl+Down"), [walk] { walk(1); });
    add(select, "Look at the pre&vious of the selected", QKeySequence("Ctrl+Up"), [walk] { walk(-1); });
    add(select, "Corners with &fictitious stress", {}, [this] {
        const auto picks = m_shave->sharpened();
        if (picks.empty()) {
            say(fail(ProblemKind::NotPossible, "No inner corner has been made sharp."));
            return;
        }
        m_selection->setFilter(PickFilter::Edges);
        m_selection->set(picks);
    });
    add(select, "What the last step &made", {}, [this] { selectMade(); });
    m_groups = select->addMenu("Na&med groups");
    const auto refreshGroups = [this] {
        m_groups->clear();
        qDeleteAll(m_groups->findChildren<QMenu*>(Qt::FindDirectChildrenOnly));  // clear() leaves them to their parent
        add(m_groups, "&Keep the selection as a group…", QKeySequence("Ctrl+G"), [this] { askGroup(); });
        if (m_session->model().groups.empty()) return;
        m_groups->addSeparator();
        QMenu* forget = new QMenu("&Forget", m_groups);
        for (const Group& group : m_session->model().groups) {
            const QString name = QString::fromStdString(group.name);
            add(m_groups, name, {}, [this, name] { recallGroup(name); });
            add(forget, name, {}, [this, name] {
                QTimer::singleShot(0, this, [this, name] {
                    m_session->apply("handover.group", {{"name", name.toStdString()}, {"drop", true}});
                });
            });
        }
        m_groups->addMenu(forget);
    };
    connect(m_session, &Session::changed, this, refreshGroups);
    refreshGroups();
    select->addSeparator();
    add(select, "&Hide the selection", QKeySequence("H"), [this] {
        // Picked faces alone; else the parts.
        std::map<std::size_t, std::set<int>> faces = m_session->places().hiddenFaces();
        bool any = false;
        for (const Pick& pick : m_selection->picks())
            if (pick.face > 0) any = faces[pick.occurrence].insert(pick.face).second || any;
        if (any) {
            m_selection->clear();
            m_session->places().setHiddenFaces(std::move(faces));
        } else {
            m_board->hideSelected();
        }
    });
    add(select, "Show &only the selection", QKeySequence("Shift+H"), [this] { m_board->isolateSelected(); });
    add(select, "&Ghost the selection", QKeySequence("G"), [this] {
        std::set<std::size_t> ghosts = m_session->places().ghosts();
        for (const std::size_t o : m_session->places().selected())
            if (!ghosts.insert(o).second) ghosts.erase(o);
        m_selection->clear();
        m_session->places().setGhosts(ghosts);
    });
    add(select, "Ghost all &but the selection", QKeySequence("Shift+G"), [this] {
        std::set<std::size_t> ghosts;
        for (std::size_t o = 0; o < m_session->model().occurrences.size(); ++o)
            if (!m_session->places().selected().contains(o)) ghosts.insert(o);
        m_session->places().setGhosts(ghosts);
    });
    add(select, "Show &all", QKeySequence("Ctrl+H"), [this] {
        m_board->showAll();
        m_session->places().setGhosts({});
        m_session->places().setHiddenFaces({});
    });
    select->addSeparator();
    add(select, "&Keep what is picked", QKeySequence("K"), [this] { currentBench()->keep(m_selection->picks()); });
}

std::vector<std::string> MainWindow::selectedPlaces() const {
    const auto& selected = m_session->places().selected();
    return placeNames(m_session->model(), {selected.begin(), selected.end()});
}

void MainWindow::buildPartsMenu() {
    QMenu* parts = menuBar()->addMenu("&Parts");
    parts->setObjectName("partsMenu");
    const auto needsParts = [this](const std::function<void(const std::vector<std::string>&)>& act) {
        const auto places = selectedPlaces();
        if (places.empty())
            say(fail(ProblemKind::NotPossible, "No part is selected.", "Select parts on the board or the stage."));
        else
            act(places);
    };
    add(parts, "&Rename…", QKeySequence("F2"), [this] { askRename(); });
    add(parts, "&Group under…", {}, [this, needsParts] {
        needsParts([this](const auto& places) {
            bool fine = false;
            const QString group = QInputDialog::getText(
                this, "Group parts", "Name of the group; / between levels, empty for none:", QLineEdit::Normal, {},
                &fine);
            if (!fine) return;
            Json path = Json::array();
            for (const QString& level : group.split('/', Qt::SkipEmptyParts))
                path.push_back(level.trimmed().toStdString());
            m_session->apply("intake.regroup", {{"places", places}, {"group", path}});
        });
    });
    add(parts, "Move up in the &list", QKeySequence("Alt+Up"), [this] {
        const auto chosen = m_session->places().selectedParts();
        if (chosen.empty() || *chosen.begin() == 0) return;
        Json names = Json::array();
        for (const std::size_t p : chosen) names.push_back(m_session->model().parts[p]->name);
        m_session->apply("intake.reorder",
                         {{"parts", names}, {"before", m_session->model().parts[*chosen.begin() - 1]->name}});
    });
    add(parts, "Ma&terials…", {}, [this] { askMaterials(); });
    add(parts, "Separate &bodies", {}, [this] {
        Json parameters = Json::object();
        Json names = Json::array();
        for (const std::size_t p : m_session->places().selectedParts())
            names.push_back(m_session->model().parts[p]->name);
        if (!names.empty()) parameters["parts"] = std::move(names);
        m_session->apply("divide.separate", parameters);
    });
    parts->addSeparator();
    add(parts, "&Move…", QKeySequence("M"), [this] { askMove(); });
    add(parts, "Bring what is picked to the &origin", {}, [this] { moveToOrigin(); });
    for (int axis = 0; axis < 3; ++axis)
        add(parts, QString("Turn the picked axis parallel to &%1").arg("XYZ"[axis]), {},
            [this, axis] { alignAxis(axis); });
    add(parts, "Bring the first picked o&nto the second", {}, [this] {
        const auto& picks = m_selection->picks();
        if (picks.size() != 2 || picks[0].face == 0 || picks[1].face == 0 ||
            picks[0].occurrence == picks[1].occurrence) {
            say(fail(ProblemKind::NotPossible, "That takes one face of each of two parts.",
                     "Pick the face that moves, then Ctrl+click the face it goes to."));
            return;
        }
        const Model& model = m_session->model();
        const auto to = intake::anchorOf(model, picks[1].occurrence, picks[1].face);
        const bool planes =
            measure::readingOf(model, picks[0]).kind == "plane" && measure::readingOf(model, picks[1]).kind == "plane";
        intake::Move move = intake::moveOnto(intake::anchorOf(model, picks[0].occurrence, picks[0].face), to,
                                             planes);  // planes end up face to face
        move.places = {placeName(model, picks[0].occurrence)};
        Json parameters;
        to_json(parameters, move);
        m_session->apply("intake.move", parameters);
    });
    parts->addSeparator();
    // One key for what is picked: faces go, parts are set aside.
    add(parts, "Set &aside", QKeySequence("Del"), [this, needsParts] {
        const auto& picks = m_selection->picks();
        if (std::any_of(picks.begin(), picks.end(),
                        [](const Pick& pick) { return select::kindOf(pick) == select::PickKind::Face; })) {
            showBench(m_shave);
            m_shave->removePicked(picks);
            return;
        }
        if (std::any_of(picks.begin(), picks.end(), [](const Pick& pick) {
                return select::kindOf(pick) == select::PickKind::Edge ||
                       select::kindOf(pick) == select::PickKind::Vertex;
            }))
            return m_shave->removePicked(picks);  // says that faces are to be picked; the part itself was not meant
        needsParts([this](const auto& places) { m_session->apply("intake.setAside", {{"places", places}}); });
    });
    add(parts, "Set all &but these aside", QKeySequence("Shift+Del"), [this, needsParts] {
        needsParts([this](const auto& places) { m_session->apply("intake.setAside", {{"allBut", places}}); });
    });
    add(parts, "Bring bac&k", QKeySequence("Ins"), [this] {
        Json parameters = Json::object();
        if (const auto places = selectedPlaces(); !places.empty()) parameters["places"] = places;
        m_session->apply("intake.bringBack", parameters);
    });
    QAction* ghosts = add(parts, "Show what is aside as &ghosts", QKeySequence("Ctrl+Shift+G"), [] {});
    ghosts->setCheckable(true);
    connect(ghosts, &QAction::toggled, this, [this](bool on) { m_session->places().setShowsAside(on); });
    QMenu* standIn = parts->addMenu("&Stand in by");
    for (const char* by : {"box", "cylinder", "lump"})
        add(standIn, QString("a &") + by, {}, [this, needsParts, by] {
            needsParts([this, by](const auto&) {
                Json names = Json::array();
                for (const std::size_t p : m_session->places().selectedParts())
                    names.push_back(m_session->model().parts[p]->name);
                m_session->apply("intake.standIn", {{"parts", names}, {"by", by}});
            });
        });
    parts->addSeparator();
    add(parts, "Make parts of one shape &copies", {}, [this] {
        Json parameters = Json::object();
        if (const auto chosen = m_session->places().selectedParts(); chosen.size() > 1)
            for (const std::size_t p : chosen) parameters["parts"].push_back(m_session->model().parts[p]->name);
        m_session->apply("intake.makeCopies", parameters);
    });
    add(parts, "Make &independent", {}, [this, needsParts] {
        needsParts([this](const auto& places) { m_session->apply("intake.makeIndependent", {{"places", places}}); });
    });
    add(parts, "&Join into one part", QKeySequence("J"), [this, needsParts] {
        needsParts([this](const auto& places) { m_session->apply("intake.joinParts", {{"places", places}}); });
    });
}

void MainWindow::askRename() {
    const auto chosen = m_session->places().selectedParts();
    if (m_session->isEmpty()) return;
    QDialog dialog(this);
    dialog.setObjectName("renameDialog");
    dialog.setWindowTitle(chosen.empty() ? "Rename parts"
                                         : "Rename " + QString::fromStdString(counted(chosen.size(), "part")));
    dialog.setMinimumWidth(420);
    auto* form = new QFormLayout(&dialog);
    auto* to = new QLineEdit(
        chosen.size() == 1 ? QString::fromStdString(m_session->model().parts[*chosen.begin()]->name) : QString(),
        &dialog);
    auto* find = new QLineEdit(&dialog);
    auto* replace = new QLineEdit(&dialog);
    auto* preview = new QListWidget(&dialog);
    to->setObjectName("to");
    find->setObjectName("find");
    replace->setObjectName("replace");
    to->setPlaceholderText("# a number, * the old name");
    find->setPlaceholderText("text, or /expression/");
    form->addRow("New name", to);
    form->addRow("or replace", find);
    form->addRow("by", replace);
    form->addRow(preview);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel, &dialog);
    form->addRow(buttons);
    intake::Rename step;
    for (const std::size_t p : chosen) step.parts.push_back(m_session->model().parts[p]->name);
    const auto refresh = [&] {
        step.to = find->text().isEmpty() ? to->text().toStdString() : "";
        step.find = find->text().toStdString();
        step.replace = replace->text().toStdString();
        preview->clear();
        const auto changes = intake::renamed(m_session->model(), step);
        if (!changes)
            preview->addItem("▲ " + QString::fromStdString(sentence(changes.error())));
        else
            for (const auto& [p, name] : *changes)
                preview->addItem(QString::fromStdString(m_session->model().parts[p]->name + " → " + name));
        buttons->button(QDialogButtonBox::Ok)->setEnabled(changes && !changes->empty());
    };
    for (QLineEdit* field : {to, find, replace}) connect(field, &QLineEdit::textChanged, &dialog, refresh);
    connect(buttons, &QDialogButtonBox::accepted, &dialog, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, &dialog, &QDialog::reject);
    refresh();
    to->selectAll();
    if (dialog.exec() != QDialog::Accepted) return;
    Json parameters;
    to_json(parameters, step);
    m_session->apply("intake.rename", parameters);
}

void MainWindow::askMove() {
    if (m_session->isEmpty()) return;
    QDialog dialog(this);
    dialog.setObjectName("moveDialog");
    dialog.setWindowTitle(m_session->places().selected().empty()
                              ? "Move everything"
                              : "Move " +
                                    QString::fromStdString(counted(m_session->places().selected().size(), "place")));
    auto* form = new QFormLayout(&dialog);
    std::array<QLineEdit*, 3> shift{};
    const char* names[] = {"along x [mm]", "along y [mm]", "along z [mm]"};
    for (std::size_t i = 0; i < 3; ++i) {
        shift[i] = new QLineEdit("0", &dialog);
        shift[i]->setObjectName(QString("shift%1").arg("XYZ"[i]));
        form->addRow(names[i], shift[i]);
    }
    auto* degrees = new QLineEdit("0", &dialog);
    auto* axis = new QComboBox(&dialog);
    axis->addItems({"about X", "about Y", "about Z"});
    axis->setCurrentIndex(2);
    form->addRow("Turn by [degrees]", degrees);
    form->addRow("", axis);
    auto* problem = new QLabel(&dialog);
    problem->setWordWrap(true);
    form->addRow(problem);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel, &dialog);
    form->addRow(buttons);
    connect(buttons, &QDialogButtonBox::rejected, &dialog, &QDialog::reject);
    intake::Move step;
    connect(buttons, &QDialogButtonBox::accepted, &dialog, [&] {
        for (std::size_t i = 0; i < 3; ++i) {
            // A shift can go backwards; a length cannot.
            QString typed = shift[i]->text().trimmed();
            const bool back = typed.startsWith('-') || typed.startsWith(QChar(0x2212));
            if (back) typed.remove(0, 1);
            const auto length = parseLength(typed.toStdString(), Unit::Millimetre, m_session->model().targetSize);
            if (!length) {
                problem->setText("▲ " + QString::fromStdString(sentence(length.error())));
                return;
            }
            step.shift[i] = back ? -*length : *length;
        }
        bool fine = false;
        step.degrees = degrees->text().toDouble(&fine);
        if (!fine) {
            problem->setText("▲ The angle is not a number.");
            return;
        }
        step.axisDirection = {axis->currentIndex() == 0 ? 1.0 : 0.0, axis->currentIndex() == 1 ? 1.0 : 0.0,
                              axis->currentIndex() == 2 ? 1.0 : 0.0};
        dialog.accept();
    });
    if (dialog.exec() != QDialog::Accepted) return;
    step.places = selectedPlaces();
    Json parameters;
    to_json(parameters, step);
    m_session->apply("intake.move", parameters);
}

void MainWindow::moveToOrigin() {
    const auto& picks = m_selection->picks();
    const auto reading = picks.empty() ? measure::Reading{} : measure::readingOf(m_session->model(), picks.back());
    if (!reading.centre) {
        say(fail(ProblemKind::NotPossible, "Nothing with a middle is picked.",
                 "Pick a vertex, an edge, a face or a part."));
        return;
    }
    intake::Move move;
    gp_Pnt at = *reading.centre;
    if (picks.back().face > 0)
        at = intake::anchorOf(m_session->model(), picks.back().occurrence, picks.back().face).point;
    move.shift = {-at.X(), -at.Y(), -at.Z()};
    Json parameters;
    to_json(parameters, move);
    m_session->apply("intake.move", parameters);
}

void MainWindow::alignAxis(int axis) {
    const auto& picks = m_selection->picks();
    const auto reading = picks.empty() ? measure::Reading{} : measure::readingOf(m_session->model(), picks.back());
    if (!reading.direction || !reading.centre) {
        say(fail(ProblemKind::NotPossible, "What is picked has no axis.",
                 "Pick a round face, a plane, a straight edge or a circle."));
        return;
    }
    const gp_Dir axes[] = {gp_Dir(1, 0, 0), gp_Dir(0, 1, 0), gp_Dir(0, 0, 1)};
    Json parameters;
    to_json(parameters, intake::turnParallel(*reading.centre, *reading.direction, axes[axis]));
    m_session->apply("intake.move", parameters);
}

void MainWindow::buildMeasureMenu() {
    QMenu* menu = menuBar()->addMenu("&Measure");
    add(menu, "&Pin the reading on the stage", QKeySequence("P"), [this] { pinReading(); });
    add(menu, "&Thickness under the pointer or at the picked face", QKeySequence("Shift+T"),
        [this] { measureThickness(); });
    add(menu, "&Inertia about the picked point", {}, [this] { tellInertia(); });
    add(menu, "Hold against the &drawing…", {}, [this] { askDrawing(); });
    add(menu, "Take the pins &off", QKeySequence("Shift+P"), [this] { m_stage->clearPins(); });
    add(menu, "&Copy the reading", QKeySequence("Ctrl+C"),
        [this] { QApplication::clipboard()->setText(m_selection->picks().empty() ? reading() : pickedReading()); });
    add(menu, "Take the picked size as the &limit", QKeySequence("Ctrl+U"), [this] {
        const auto& picks = m_selection->picks();
        if (picks.empty()) return;
        std::optional<double> size;
        if (picks.size() == 2) {
            if (const auto pair = measure::readingBetween(m_session->model(), picks[0], picks[1])) size = pair->least;
        } else {
            const auto read = measure::readingOf(m_session->model(), picks.back());
            size = read.radius ? std::optional(2.0 * *read.radius) : read.length;
        }
        if (!size || *size <= 0.0) {
            say(fail(ProblemKind::NotPossible, "What is picked has no size that could be a limit.",
                     "Pick a round face, an edge, or two things."));
            return;
        }
        // Into the blade of the bench in hand, as if it had been dragged there.
        if (!currentBench()->takeLimit(*size))
            say(fail(ProblemKind::NotPossible,
                     QString("The bench %1 has no limit.").arg(currentBench()->name()).toStdString(),
                     "Go to Mend or Shave first."));
    });
    QMenu* unit = menu->addMenu("&Read in");
    auto* units = new QActionGroup(this);
    for (const Unit one : {Unit::Millimetre, Unit::Centimetre, Unit::Metre, Unit::Micrometre, Unit::Inch, Unit::Foot}) {
        QAction* action = add(unit, QString::fromStdString(unitName(one)), {}, [this, one] {
            m_readIn = one;
            refreshReading();
        });
        action->setCheckable(true);
        action->setChecked(one == m_readIn);
        units->addAction(action);
    }
}

void MainWindow::askDrawing() {
    const Model& model = m_session->model();
    const auto& picks = m_selection->picks();
    handover::Dimension dimension;
    for (const Pick& pick : picks) {
        const Part& part = *model.parts[model.occurrences[pick.occurrence].part];
        const Entity thing = pick.face > 0   ? Entity{EntityKind::Face, pick.face}
                             : pick.edge > 0 ? Entity{EntityKind::Edge, pick.edge}
                                             : Entity{EntityKind::Vertex, pick.vertex};
        if (thing.number > 0) dimension.things.push_back(makeRef(part, thing));
    }
    const auto measured = handover::measuredOf(model, dimension);
    if (!measured) {
        say(tl::unexpected(measured.error()));
        return;
    }
    bool fine = false;
    const QString typed =
        QInputDialog::getText(this, "Hold against the drawing",
                              QString("%1 is %2 here.\nThe drawing says, as 8.5 ± 0.2 (a name may follow):")
                                  .arg(text(measured->what), text(measured->with(measured->value))),
                              QLineEdit::Normal, {}, &fine);
    if (!fine) return;
    static const QRegularExpression form(
        R"(^\s*([-+]?[0-9]+(?:[.,][0-9]+)?)\s*(?:(?:±|\+/?-)\s*([0-9]+(?:[.,][0-9]+)?))?\s*(?:mm|°)?\s*(.*)$)");
    const auto found = form.match(typed);
    if (!found.hasMatch()) {
        say(fail(ProblemKind::BadInput, QString("\"%1\" is no dimension.").arg(typed).toStdString(),
                 "Type it as 8.5, or 8.5 ± 0.2."));
        return;
    }
    const auto number = [&](int part) { return found.captured(part).replace(',', '.').toDouble(); };
    dimension.value = number(1);
    if (!found.captured(2).isEmpty()) dimension.tolerance = number(2);
    dimension.name = found.captured(3).trimmed().toStdString();
    m_session->apply("handover.dimension", dimension);
}

void MainWindow::tellInertia() {
    // Of the selected parts (all, when nothing else is picked), about the middle of the last thing picked.
    const Model& model = m_session->model();
    const auto facts = m_session->facts();
    if (!facts || model.parts.empty()) return;
    const auto& picks = m_selection->picks();
    gp_Pnt about(0, 0, 0);
    std::vector<std::size_t> parts;
    for (const Pick& pick : picks) {
        if (kindOf(pick) == PickKind::Part)
            parts.push_back(pick.occurrence);
        else if (const auto read = measure::readingOf(model, pick); read.centre)
            about = *read.centre;
    }
    const auto mass = parts.empty() ? measure::massOf(model, *facts) : measure::massOf(model, *facts, parts);
    const auto i = mass.about(about);
    const auto figure = [](double value) { return QString::number(1e-6 * value, 'g', 4); };
    m_notice = QString("%1 kg about %2, %3, %4 mm: xx %5, yy %6, zz %7, xy %8, xz %9, yz %10 kg m²")
                   .arg(QString::fromStdString(readable(mass.mass)), QString::fromStdString(readable(about.X())),
                        QString::fromStdString(readable(about.Y())), QString::fromStdString(readable(about.Z())),
                        figure(i[0]), figure(i[1]), figure(i[2]), figure(i[3]), figure(i[4]))
                   .arg(figure(i[5]));
    QApplication::clipboard()->setText(m_notice);
    refreshReading();
}

void MainWindow::pinReading() {
    const auto& picks = m_selection->picks();
    const Model& model = m_session->model();
    if (picks.size() == 2) {
        if (const auto pair = measure::readingBetween(model, picks[0], picks[1]))
            m_stage->addPin(
                {pair->from, pair->to,
                 QString::fromStdString(readable(pair->least / millimetresPer(m_readIn)) + " " + unitName(m_readIn))});
    } else if (!picks.empty()) {
        if (const auto read = measure::readingOf(model, picks.back()); read.centre)
            m_stage->addPin({*read.centre, *read.centre, QString::fromStdString(measure::inWords(read, m_readIn))});
    }
}

void MainWindow::measureThickness() {
    const Model& model = m_session->model();
    std::optional<Pick> face;
    gp_Pnt at;
    if (m_stage->hovered() && m_stage->hovered()->face > 0 && m_stage->hoveredPoint()) {
        face = m_stage->hovered();
        at = *m_stage->hoveredPoint();
    } else if (!m_selection->picks().empty() && m_selection->picks().back().face > 0) {
        face = m_selection->picks().back();
        at = *measure::readingOf(model, *face).centre;
    }
    if (!face) {
        say(fail(ProblemKind::NotPossible, "No face is under the pointer or picked.",
                 "Point at a face and press Shift+T."));
        return;
    }
    Progress progress;
    const RayField field(model, {face->occurrence}, 1e-3, progress);
    const auto thickness = measure::thicknessAt(model, field, face->occurrence, face->face, at);
    if (!thickness) {
        say(fail(ProblemKind::NotPossible, "There is no other side behind this point.",
                 "A sheet, or an open part, has no thickness."));
        return;
    }
    const auto length = [this](double value) {
        return QString::fromStdString(readable(value / millimetresPer(m_readIn)) + " " + unitName(m_readIn));
    };
    m_stage->addPin({thickness->from, thickness->opposite,
                     QString("%1 thick, ball Ø %2").arg(length(thickness->ray), length(thickness->sphere))});
}

}  // namespace rasoir::app
