// Intake, selecting, looking and measuring, by the hand: gestures on the real window and what is shown for them.
#include <QClipboard>

#include "alike_panel.h"
#include "bench/intake_bench.h"
#include "exchange/work_file.h"
#include "materials_dialog.h"
#include "thickness_panel.h"
#include "window/window_fixture.h"

namespace rasoir::test {

class IntakeWindowTest : public WindowFixture {
    Q_OBJECT

    IntakeBench& intake() { return *m_window->intake(); }
    Stage& stage() { return *m_window->stage(); }
    Selection& selection() { return m_window->selection(); }
    void openCarrier() {
        openAndSettle(QString::fromStdString(demoFile("carrier.step")));
        QTest::keyClick(m_window.get(), Qt::Key_1, Qt::ControlModifier);
        QTRY_VERIFY(session().report().has_value());
    }
    QAction* action(const QString& text) {
        for (QAction* one : m_window->findChildren<QAction*>())
            if (one->text().remove('&') == text) return one;
        return nullptr;
    }
    /// Types into the modal dialog that opens next and presses OK.
    void answer(std::function<void(QDialog*)> fill) {
        QTimer::singleShot(250, this, [fill = std::move(fill)] {
            auto* dialog = qobject_cast<QDialog*>(QApplication::activeModalWidget());
            if (dialog == nullptr) return;
            fill(dialog);
            dialog->findChild<QDialogButtonBox*>()->button(QDialogButtonBox::Ok)->click();
        });
    }
    void shiftDrag(const QPoint& from, const QPoint& to, bool release = true) {
        QTest::mousePress(&stage(), Qt::LeftButton, Qt::ShiftModifier, from);
        for (int i = 1; i <= 10; ++i) {
            const QPointF at = QPointF(from) + (QPointF(to) - QPointF(from)) * i / 10.0;
            QMouseEvent move(QEvent::MouseMove, at, stage().mapToGlobal(at), Qt::NoButton, Qt::LeftButton,
                             Qt::ShiftModifier);
            QApplication::sendEvent(&stage(), &move);
        }
        if (release) QTest::mouseRelease(&stage(), Qt::LeftButton, Qt::NoModifier, to);
    }
    int topFace() {
        const int faces = session().model().parts[0]->incidence().faceCount();
        for (int f = 1; f <= faces; ++f)
            if (const auto reading = measure::readingOf(session().model(), {0, f});
                reading.kind == "plane" && reading.direction->Z() > 0.99 && *reading.area > 1000.0)
                return f;
        return 0;
    }
    std::size_t asideCount() {
        std::size_t count = 0;
        for (const Occurrence& o : session().model().occurrences) count += o.aside;
        return count;
    }

private slots:
    void init() { openWindow(); }
    void cleanup() { closeWindow(); }

    void stockIsTakenAndTold() {
        openCarrier();
        const Json truth = Json::parse(*readText(demoFile("carrier.json")));
        QVERIFY(m_window->findChild<QLabel*>("intakeState")
                    ->text()
                    .contains(QString("%1 parts in %2 places")
                                  .arg(truth.at("parts").size())
                                  .arg(truth.at("occurrences").get<int>())));
        QVERIFY2(intake().facts().contains("108 solids"), qPrintable(intake().facts()));
        QCOMPARE(intake().oddities()->topLevelItem(0)->text(0), QString("Nothing odd."));
        QCOMPARE(m_window->findChild<BenchBar*>()->current(), 0);
    }
    void partsGoAsideByTheBladeAndComeBack() {
        openCarrier();
        CutPlot* plot = intake().cutBar()->plot();
        QVERIFY(!intake().button()->isEnabled());
        // To right of the bolts, the 40 smallest.
        const double bolts = volumeOf(session().model().parts[*session().model().partNamed("bolt with nut")]->shape);
        drag(plot, {4, plot->height() / 2}, {static_cast<int>(plot->xOf(1.6 * bolts)), plot->height() / 2});
        QCOMPARE(intake().going().size(), std::size_t(40));
        QCOMPARE(intake().button()->text(), QString("Set 40 parts aside"));
        QTest::mouseClick(intake().button(), Qt::LeftButton);
        settle();
        QCOMPARE(asideCount(), std::size_t(40));
        QVERIFY(m_window->ledger()->cards()[1]->title().contains("40 places aside"));
        const QString out = m_folder.filePath("without.step");
        QSignalSpy saved(&session(), &Session::saved);
        QVERIFY(m_window->exportFile(out));
        QTRY_VERIFY_WITH_TIMEOUT(saved.count() == 1, 60000);
        QCOMPARE(exchange::readFile(out.toStdString(), {}, quietly())->occurrences.size(), std::size_t(28));
        settle();
        QTest::keyClick(m_window.get(), Qt::Key_Insert);
        settle();
        QCOMPARE(asideCount(), std::size_t(0));
        // And by kind.
        intake().setMeasure(AsideBy::Fasteners);
        QCOMPARE(intake().going().size(), std::size_t(45));  // 40 bolts, 4 washers, the pin
        QTest::keyClick(m_window.get(), Qt::Key_Return, Qt::ControlModifier);
        settle();
        QCOMPARE(asideCount(), std::size_t(45));
    }
    void aMaterialIsChosenForTheSelection() {
        openCarrier();
        const auto before = measure::massOf(session().model(), *session().facts()).mass;
        QTreeWidget* tree = m_window->board()->tree();
        for (QTreeWidgetItemIterator it(tree); *it != nullptr; ++it)
            if ((*it)->text(0).startsWith("counterweight")) tree->setCurrentItem(*it);
        QCOMPARE(session().places().selectedParts().size(), std::size_t(1));
        intake().assignMaterial("lead");
        settle();
        QTRY_VERIFY(session().facts().has_value());
        const double weight =
            volumeOf(session().model().parts[*session().model().partNamed("counterweight")]->shape) * 1e-9;
        QCOMPARE_NEAR(measure::massOf(session().model(), *session().facts()).mass - before, weight * (11340 - 7850),
                      1e-6);
        intake().assignMaterial("no such stuff");
        QVERIFY(!session().isBusy());
    }
    void partsAndMaterialsAreDragged() {
        openCarrier();
        QTreeWidget* tree = m_window->findChild<QTreeWidget*>("parts");
        const auto rowOf = [&](const QString& name) -> QTreeWidgetItem* {
            for (QTreeWidgetItemIterator it(tree); *it != nullptr; ++it)
                if ((*it)->text(0).startsWith(name) && (*it)->data(0, Qt::UserRole + 1).isValid()) return *it;
            return nullptr;
        };
        const auto dropOn = [&](const QMimeData& data, QTreeWidgetItem* row, double height) {
            tree->scrollToItem(row);
            const QRect rect = tree->visualItemRect(row);
            QDragEnterEvent enter(rect.center(), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
            QApplication::sendEvent(tree->viewport(), &enter);
            QDropEvent drop(QPointF(rect.left() + 10, rect.top() + height * rect.height()), Qt::CopyAction, &data,
                            Qt::LeftButton, Qt::NoModifier);
            QApplication::sendEvent(tree->viewport(), &drop);
        };
        // A material onto one part that is not selected: to it alone.
        const std::string first = session().model().parts[0]->name, last = session().model().parts.back()->name;
        QMimeData steel;
        const std::string material = session().materials().all().back().name;
        steel.setData(PartsBoard::materialMime, QByteArray::fromStdString(material));
        dropOn(steel, rowOf(QString::fromStdString(last)), 0.5);
        QTRY_COMPARE(session().work().ledger().steps.size(), std::size_t(1));
        settle();
        QCOMPARE(session().model().parts.back()->material, material);
        QVERIFY(session().model().parts[0]->material != material);
        // A part in front of an earlier one of its own group.
        const Model& model = session().model();
        std::size_t later = 0, earlier = 0;
        for (std::size_t b = 1; b < model.occurrences.size(); ++b)
            for (std::size_t a = 0; a < b; ++a)
                if (model.occurrences[a].path == model.occurrences[b].path &&
                    model.occurrences[a].part != model.occurrences[b].part)
                    later = b, earlier = a;
        const std::string front = model.parts[model.occurrences[earlier].part]->name,
                          mover = model.parts[model.occurrences[later].part]->name;
        QVERIFY(front != mover);
        std::set<std::size_t> moved;
        for (std::size_t o = 0; o < model.occurrences.size(); ++o)
            if (model.occurrences[o].part == model.occurrences[later].part) moved.insert(o);
        session().places().select(moved);
        QMimeData rows;
        rows.setData("application/x-qabstractitemmodeldatalist", {});
        dropOn(rows, rowOf(QString::fromStdString(front)), 0.2);
        QTRY_VERIFY2(session().work().ledger().steps.size() == 2, qPrintable(m_window->reading()));
        settle();
        const auto at = [&](const std::string& name) { return *session().model().partNamed(name); };
        QCOMPARE(at(mover) + 1, at(front));
        // What was selected is so still, though its places stand elsewhere now.
        QCOMPARE(session().places().selectedParts(), std::set<std::size_t>{at(mover)});
        // Onto itself: nothing.
        dropOn(rows, rowOf(QString::fromStdString(mover)), 0.2);
        QTest::qWait(50);
        QCOMPARE(session().work().ledger().steps.size(), std::size_t(2));
    }
    void namesChangeInPlaceAndByPattern() {
        openCarrier();
        for (std::size_t o = 0; o < session().model().occurrences.size(); ++o)
            if (session().model().parts[session().model().occurrences[o].part]->name == "pin")
                session().places().select({o});
        answer([](QDialog* dialog) { dialog->findChild<QLineEdit*>("to")->setText("pivot pin"); });
        QTest::keyClick(m_window.get(), Qt::Key_F2);
        settle();
        QVERIFY(session().model().partNamed("pivot pin").has_value());
        session().places().select({});
        int shown = 0;
        answer([&shown](QDialog* dialog) {
            dialog->findChild<QLineEdit*>("find")->setText("tube");
            dialog->findChild<QLineEdit*>("replace")->setText("pipe");
            shown = dialog->findChild<QListWidget*>()->count();
        });
        action("Rename…")->trigger();
        settle();
        QCOMPARE(shown, 2);  // previewed before anything happens
        QVERIFY(session().model().partNamed("round pipe").has_value() &&
                session().model().partNamed("rectangular pipe").has_value());
    }
    void aPartIsMovedByNumbers() {
        openCarrier();
        session().places().select({0});
        const gp_XYZ before = session().model().occurrences[0].placement.TranslationPart();
        answer([](QDialog* dialog) {
            dialog->findChild<QLineEdit*>("shiftX")->setText("1 in");
            dialog->findChild<QLineEdit*>("shiftZ")->setText("-2*3");
        });
        QTest::keyClick(m_window.get(), Qt::Key_M);
        settle();
        const gp_XYZ by = session().model().occurrences[0].placement.TranslationPart() - before;
        QCOMPARE_NEAR(by.X(), 25.4, 1e-9);
        QCOMPARE_NEAR(by.Z(), -6.0, 1e-9);
    }
    void boxesTakeWhatLiesInsideOrAlsoWhatTheyTouch() {
        openPlate();
        stage().look(SquareView::Top);
        QTest::qWait(80);
        const QRect plate = QRectF(stage().toPixels(gp_Pnt(0, 60, 8)), stage().toPixels(gp_Pnt(100, 0, 8))).toRect();
        // Downwards over everything: all faces. The count is shown while the button is down.
        shiftDrag(plate.topLeft() - QPoint(8, 8), plate.bottomRight() + QPoint(8, 8), false);
        QVERIFY(stage().drag().has_value());
        QVERIFY2(m_window->reading().startsWith("Inside") &&
                     m_window->reading().endsWith(
                         QString(" %1 faces").arg(session().model().parts[0]->incidence().faceCount())),
                 qPrintable(m_window->reading()));
        QTest::keyClick(m_window.get(), Qt::Key_Escape);  // one level back: the box goes, nothing was picked
        QVERIFY(!stage().drag() && picks().empty());
        QTest::mouseRelease(&stage(), Qt::LeftButton);
        shiftDrag(plate.topLeft() - QPoint(8, 8), plate.bottomRight() + QPoint(8, 8));
        QCOMPARE(static_cast<int>(picks().size()), session().model().parts[0]->incidence().faceCount());
        // The left half, inside: fewer; upwards, touching: more, with top and bottom.
        const QPoint middle = plate.center();
        shiftDrag(plate.topLeft() - QPoint(8, 8), {middle.x(), plate.bottom() + 8});
        const std::size_t inside = picks().size();
        shiftDrag({middle.x(), plate.bottom() + 8}, plate.topLeft() - QPoint(8, 8));
        QVERIFY(inside > 0 && picks().size() > inside);
        // A lasso round one hole takes that hole.
        const survey::Hole& hole = session().knowledge(0)->holes->front();
        QTest::keyClick(m_window.get(), Qt::Key_L);
        const QPointF at = stage().toPixels(hole.middle);
        const double r = 5.0 * stage().pixelsPerMillimetre();
        QTest::mousePress(&stage(), Qt::LeftButton, {}, (at + QPointF(r, 0)).toPoint());
        for (int i = 1; i <= 24; ++i) {
            const QPointF round = at + QPointF(r * std::cos(2 * M_PI * i / 24), r * std::sin(2 * M_PI * i / 24));
            QMouseEvent move(QEvent::MouseMove, round, stage().mapToGlobal(round), Qt::NoButton, Qt::LeftButton,
                             Qt::NoModifier);
            QApplication::sendEvent(&stage(), &move);
        }
        QTest::mouseRelease(&stage(), Qt::LeftButton, {}, (at + QPointF(r, 0)).toPoint());
        QCOMPARE(picks().size(), hole.faces.size());
        // The last selection comes back.
        const auto lasso = picks();
        selection().clear();
        QTest::keyClick(m_window.get(), Qt::Key_A, Qt::ShiftModifier);
        QCOMPARE(picks(), lasso);
    }
    void repeatedClicksReachDeeper() {
        openPlate();
        stage().look(SquareView::Top);
        selection().setFilter(PickFilter::Faces);
        QTest::qWait(80);
        const QPoint at = stage().toPixels(gp_Pnt(50, 30, 8)).toPoint();
        QTest::mouseClick(&stage(), Qt::LeftButton, {}, at);
        const Pick top = picks().at(0);
        QTest::mouseClick(&stage(), Qt::LeftButton, {}, at);
        QVERIFY(picks().at(0) != top);  // the underside
        QTest::mouseClick(&stage(), Qt::LeftButton, {}, at);
        QCOMPARE(picks().at(0), top);
    }
    void aSelectionGrowsByKeys() {
        openPlate();
        const auto& holes = *session().knowledge(0)->holes;
        const survey::Hole& blind =
            *std::find_if(holes.begin(), holes.end(), [](const survey::Hole& h) { return !h.through; });
        selection().set({{0, blind.faces.front()}});
        QTest::keyClick(m_window.get(), Qt::Key_E);
        QCOMPARE(picks().size(), blind.faces.size());
        selection().set({{0, 1}});
        QTest::keyClick(m_window.get(), Qt::Key_N);
        const std::size_t grown = picks().size();
        QVERIFY(grown > 1);
        QTest::keyClick(m_window.get(), Qt::Key_N, Qt::ShiftModifier);
        QVERIFY(picks().size() < grown);
        selection().set({{0, 1}});
        QTest::keyClick(m_window.get(), Qt::Key_Y);  // between two needs two
        QTRY_VERIFY2(m_window->reading().contains("two faces"), qPrintable(m_window->reading()));
        QTest::keyClick(m_window.get(), Qt::Key_I, Qt::ControlModifier);
        QCOMPARE(static_cast<int>(picks().size()), session().model().parts[0]->incidence().faceCount() - 1);
        // Groups: kept, dropped from view, back again.
        selection().set({{0, 1}, {0, 2}});
        m_window->keepGroup("supports");
        settle();
        selection().clear();
        m_window->recallGroup("supports");
        QCOMPARE(picks().size(), std::size_t(2));
    }
    void aGroupsFaceIsFoundAgainAfterAChange() {
        openPlate();
        const auto sideOf = [this] {
            for (int f = 1; f <= session().model().parts[0]->incidence().faceCount(); ++f)
                if (const auto reading = measure::readingOf(session().model(), {0, f});
                    reading.kind == "plane" && reading.direction->X() > 0.99)
                    return f;
            return 0;
        };
        selection().set({{0, sideOf()}});
        m_window->keepGroup("load");
        settle();
        selection().clear();
        QTest::mouseClick(shave().button(), Qt::LeftButton);
        settle();
        QCOMPARE(session().model().parts[0]->incidence().faceCount(), 6);  // other numbers now
        m_window->recallGroup("load");
        QCOMPARE(picks(), std::vector<Pick>({{0, sideOf()}}));
    }
    void theSelectedAreWalkedThrough() {
        openPlate();
        selection().set({{0, 1}, {0, 2}, {0, 3}});
        const Json before = stage().camera();
        QTest::keyClick(m_window.get(), Qt::Key_Down, Qt::ControlModifier);
        QCOMPARE(selection().stepNumber(), 0);
        QVERIFY(stage().camera() != before);  // flown closer
        QTest::keyClick(m_window.get(), Qt::Key_Up, Qt::ControlModifier);
        QCOMPARE(selection().stepNumber(), 2);
    }
    void aDamagedListOfMaterialsIsTold() {
        const QString path = MaterialShelf::folder() + "/materials.json";
        std::ofstream(path.toStdString()) << "{ \"format\": \"rasoir-materials\", \"materials\": [ { \"name\": "
                                             "\"fluff\", \"density_kg_m3\": -3 } ] }";
        m_window = std::make_unique<MainWindow>();
        m_window->show();
        openAndSettle(arm());
        const QString told = m_window->findChild<QLabel*>("intakeMessage")->text();
        QFile::remove(path);
        QVERIFY2(told.contains("fluff"), qPrintable(told));
        QCOMPARE(session().materials().all().size(), standardMaterials().size());
    }
    void theDrawingIsAskedFor() {
        openPlate();
        const auto& holes = *session().knowledge(0)->holes;
        selection().set({{0, holes.front().faces.front()}});
        const auto ask = [this](const QString& typed) {
            QTimer::singleShot(0, this, [typed] {
                auto* dialog = qobject_cast<QInputDialog*>(QApplication::activeModalWidget());
                QVERIFY(dialog != nullptr);
                QVERIFY2(dialog->labelText().contains("Ø of"), qPrintable(dialog->labelText()));
                dialog->setTextValue(typed);
                dialog->accept();
            });
            for (QAction* action : m_window->menuBar()->findChildren<QAction*>())
                if (action->text() == "Hold against the &drawing…") action->trigger();
            settle();
        };
        ask("about nine");
        QVERIFY2(m_window->reading().contains("no dimension"), qPrintable(m_window->reading()));
        ask("99,5 ± 0.2 mm pin hole");
        QCOMPARE(session().work().ledger().steps.size(), std::size_t(1));
        const Step& step = session().work().ledger().steps.front();
        QCOMPARE(step.parameters.at("value").get<double>(), 99.5);
        QCOMPARE(step.parameters.at("tolerance").get<double>(), 0.2);
        QCOMPARE(step.parameters.at("name").get<std::string>(), std::string("pin hole"));
        QCOMPARE(step.items.size(), std::size_t(1));
        QVERIFY(!step.items[0].done);
    }
    void ownMaterialsAreEdited() {
        openAndSettle(arm());
        const QString file = MaterialShelf::file();
        // A dialog of its own, as the menu opens it; it waits for its answer, so it is driven from outside.
        const auto edit = [this](const std::function<void(MaterialsDialog&)>& act) {
            QTimer::singleShot(0, this, [act] {
                auto* dialog = qobject_cast<MaterialsDialog*>(QApplication::activeModalWidget());
                QVERIFY(dialog != nullptr);
                act(*dialog);
                if (dialog->isVisible()) dialog->reject();
            });
            for (QAction* action : m_window->menuBar()->findChildren<QAction*>())
                if (action->text() == "Ma&terials…") action->trigger();
        };
        const auto type = [](MaterialsDialog& dialog, int row, const QStringList& values) {
            for (int c = 0; c < values.size(); ++c) dialog.table()->item(row, c)->setText(values[c]);
        };
        edit([&](MaterialsDialog& dialog) {
            dialog.addRow();
            dialog.densityUnit()->setCurrentText("g/cm³");
            dialog.stiffnessUnit()->setCurrentText("GPa");
            QCOMPARE(dialog.table()->item(0, 1)->text(), QString("7.85"));
            // What cannot be is told, and nothing is written.
            type(dialog, 0, {"cork", "0.2", "0.02", "0.7"});
            dialog.save();
            QVERIFY2(dialog.message().contains("Poisson"), qPrintable(dialog.message()));
            QVERIFY(dialog.isVisible());
            type(dialog, 0, {"cork", "much"});
            dialog.save();
            QVERIFY2(dialog.message().contains("no number"), qPrintable(dialog.message()));
            type(dialog, 0, {"cork", "0,2", "0.02", "0.1"});
            dialog.save();
            QVERIFY(!dialog.isVisible());
        });
        const Material* cork = findMaterial(session().materials().all(), "cork");
        QVERIFY(cork != nullptr);
        QCOMPARE_NEAR(cork->density, 200.0, 1e-9);
        QCOMPARE_NEAR(cork->youngsModulus, 20.0, 1e-9);
        const auto own = ownMaterials(file.toStdString());
        QVERIFY2(own, said(own));
        QCOMPARE(own->size(), std::size_t(1));
        // It can be given to parts, with its values in the step.
        auto* chooser = m_window->findChild<QComboBox*>("material");
        QVERIFY(chooser->findText("cork") >= 0);
        emit chooser->textActivated("cork");
        settle();
        QCOMPARE(session().model().parts[0]->material, std::string("cork"));
        // Standard ones stay; one's own goes.
        edit([&](MaterialsDialog& dialog) {
            dialog.table()->setCurrentCell(3, 0);
            dialog.findChild<QPushButton*>("removeMaterial")->click();
            QVERIFY(dialog.message().contains("stay"));
            dialog.table()->setCurrentCell(0, 0);
            dialog.findChild<QPushButton*>("removeMaterial")->click();
            dialog.save();
        });
        QVERIFY(findMaterial(session().materials().all(), "cork") == nullptr);
        QFile::remove(file);
        session().materials().load();
    }
    void alikeIsSearchedInItsPanel() {
        openPlate();
        const auto& holes = *session().knowledge(0)->holes;
        selection().set({{0, holes.front().faces.front()}});
        QTest::keyClick(m_window.get(), Qt::Key_A);
        AlikePanel* panel = m_window->alike();
        QTRY_VERIFY(panel->isVisible());
        panel->by()->setCurrentText("feature");
        std::size_t same = 0;
        for (const survey::Hole& hole : holes) same += hole.through == holes.front().through ? hole.faces.size() : 0;
        QCOMPARE(picks().size(), same);
        QVERIFY2(panel->found().contains("alike"), qPrintable(panel->found()));
        panel->by()->setCurrentText("area");
        panel->limits()->setCurrentIndex(1);  // up to
        const std::size_t upTo = picks().size();
        panel->cutBar()->setLimit(1e6);
        emit panel->cutBar()->limitChanged(1e6);
        QVERIFY(picks().size() > upTo);
        panel->hide();
    }
    void sectionWipeGhostsAndColoursAreDrawn() {
        openPlate();
        stage().look(SquareView::Corner);
        const auto picture = [this] {
            QTest::qWait(60);
            return stage().grabFramebuffer();
        };
        const QImage plain = picture();
        const auto differs = [&plain](const QImage& other) {
            int count = 0;
            for (int y = 0; y < plain.height(); y += 5)
                for (int x = 0; x < plain.width(); x += 5) count += plain.pixel(x, y) != other.pixel(x, y);
            return count;
        };
        QVERIFY(differs(picture()) < 20);
        stage().setSection(1);
        QCOMPARE_NEAR(stage().sectionAt(), 50.0, 1.0);
        QVERIFY(differs(picture()) > 500);
        const double before = stage().sectionAt();
        QTest::keyClick(&stage(), Qt::Key_PageUp);
        QVERIFY(stage().sectionAt() > before);
        stage().setSection(0);
        QVERIFY(differs(picture()) < 20);
        session().places().setGhosts({0});
        QVERIFY(differs(picture()) > 500);
        session().places().setGhosts({});
        stage().setColourBy(ColourBy::Part);
        QVERIFY(differs(picture()) > 500);
        stage().setColourBy(ColourBy::Bone);
        QVERIFY(differs(picture()) < 20);
        // A face hidden shows the inside; all comes back.
        const int top = topFace();
        selection().set({{0, top}});
        QTest::keyClick(m_window.get(), Qt::Key_H);
        QCOMPARE(session().places().hiddenFaces().at(0), std::set<int>{top});
        QVERIFY(differs(picture()) > 100);
        QTest::keyClick(m_window.get(), Qt::Key_H, Qt::ControlModifier);
        QVERIFY(session().places().hiddenFaces().empty());
        // The wipe: holes left of it, none right of it.
        QTest::keyClick(m_window.get(), Qt::Key_Return, Qt::ControlModifier);
        settle();
        const QImage shaved = picture();
        m_window->activateWindow();
        stage().setFocus();
        QTest::keyClick(m_window.get(), Qt::Key_W);
        QVERIFY(stage().wipes());
        QCOMPARE(stage().wipeFaces().second, 6);
        QVERIFY(stage().wipeFaces().first > 6);
        const double at = stage().wipeAt();
        QTest::keyClick(&stage(), Qt::Key_Right);
        QCOMPARE_NEAR(stage().wipeAt(), at + 8.0, 1e-9);
        drag(&stage(), {static_cast<int>(stage().wipeAt()), 300}, {stage().width() - 40, 300});
        QVERIFY(stage().wipeAt() > stage().width() - 60);
        const QImage wiped = picture();
        int changed = 0;
        for (int y = 0; y < wiped.height(); y += 4)
            for (int x = 0; x < wiped.width(); x += 4) changed += wiped.pixel(x, y) != shaved.pixel(x, y);
        QVERIFY2(changed > 50, qPrintable(QString::number(changed)));  // the holes as received
        QTest::keyClick(m_window.get(), Qt::Key_Escape);
        QVERIFY(!stage().wipes());
    }
    void viewsTurnSquareAndAreKept() {
        openPlate();
        stage().look(SquareView::Corner);
        const Json corner = stage().camera();
        stage().lookAtFace({0, topFace()});
        QCOMPARE_NEAR(
            std::hypot(stage().screenDirection(gp_Dir(0, 0, 1)).x(), stage().screenDirection(gp_Dir(0, 0, 1)).y()), 0.0,
            1e-6);
        const QPointF before = stage().screenDirection(gp_Dir(1, 0, 0));
        stage().roll(90.0);
        const QPointF after = stage().screenDirection(gp_Dir(1, 0, 0));
        QCOMPARE_NEAR(QPointF::dotProduct(before, after), 0.0, 1e-6);
        stage().setCamera(corner);
        QVERIFY(QLineF(stage().screenDirection(gp_Dir(0, 0, 1)), QPointF()).length() > 0.3);
        stage().setCamera(Json{{"eye_mm", "nonsense"}});  // leaves the view as it is
    }
    void readingsArePinnedCopiedAndTakenAsLimits() {
        openPlate();
        const auto& holes = *session().knowledge(0)->holes;
        int wall = 0;
        for (const int f : holes.front().faces)
            if (measure::readingOf(session().model(), {0, f}).radius) wall = f;
        selection().set({{0, wall}});
        QTest::keyClick(m_window.get(), Qt::Key_C, Qt::ControlModifier);
        QVERIFY2(QApplication::clipboard()->text().startsWith("cylinder, Ø 5 mm"),
                 qPrintable(QApplication::clipboard()->text()));
        QTest::keyClick(m_window.get(), Qt::Key_U, Qt::ControlModifier);
        QCOMPARE_NEAR(shave().cutBar()->limit(), 5.0, 1e-9);
        QTest::keyClick(m_window.get(), Qt::Key_P);
        QCOMPARE(stage().pins().size(), std::size_t(1));
        // Thickness under the pointer: the plate is 8 thick.
        stage().look(SquareView::Top);
        QTest::qWait(60);
        hover(stage().toPixels(gp_Pnt(50, 30, 8)));
        QTest::keyClick(m_window.get(), Qt::Key_T, Qt::ShiftModifier);
        QCOMPARE(stage().pins().size(), std::size_t(2));
        QVERIFY2(stage().pins()[1].text.startsWith("8 mm thick"), qPrintable(stage().pins()[1].text));
        QTest::keyClick(m_window.get(), Qt::Key_P, Qt::ShiftModifier);
        QVERIFY(stage().pins().empty());
        action("in")->trigger();
        selection().set({{0, wall}});
        QTest::keyClick(m_window.get(), Qt::Key_C, Qt::ControlModifier);
        QVERIFY2(QApplication::clipboard()->text().contains("0.1969 in"),
                 qPrintable(QApplication::clipboard()->text()));
    }
    void wallsAreColouredByTheBlade() {
        openPlate();
        action("thickness of walls…")->trigger();
        ThicknessPanel* panel = m_window->thickness();
        QTRY_VERIFY2(panel->summary().contains("thinnest wall"), qPrintable(panel->summary()));
        // The plate is 8 mm thick; at a target of 4 the blade stands at 8, so top and bottom are thin.
        QCOMPARE_NEAR(panel->cutBar()->limit(), 8.0, 1e-9);
        const int thin = panel->cutBar()->plot()->taken();
        QVERIFY(thin > 0);
        QCOMPARE(stage().colourBy(), ColourBy::Thickness);
        panel->cutBar()->setLimit(2.0);
        emit panel->cutBar()->limitChanged(2.0);
        QVERIFY(panel->cutBar()->plot()->taken() < thin);
        panel->hide();
        QCOMPARE(stage().colourBy(), ColourBy::Bone);
    }
    void innerPartsAreLookedForInTheBackground() {
        gp_Trsf in, far;
        in.SetTranslation(gp_Vec(5, 5, 5));
        far.SetTranslation(gp_Vec(25, 25, 25));
        Model closed = modelOf(cut(block(60, 60, 60), moved(block(50, 50, 50), in)), "housing");
        closed.parts.push_back(std::make_shared<Part>("core", moved(block(10, 10, 10), far)));
        closed.occurrences.push_back({1, gp_Trsf(), "core", {}, std::nullopt});
        const QString path = m_folder.filePath("closed.step");
        QVERIFY(exchange::writeFile(closed, path.toStdString(), {}, quietly()));
        openAndSettle(path);
        QTest::keyClick(m_window.get(), Qt::Key_1, Qt::ControlModifier);
        intake().setMeasure(AsideBy::Inner);
        QTRY_COMPARE(intake().button()->text(), QString("Set 1 inner part aside"));
        settle();
        QTest::mouseClick(intake().button(), Qt::LeftButton);
        settle();
        QVERIFY(session().model().occurrences[1].aside);
    }
    void theWorkIsSavedAndOpenedWhole() {
        openPlate();
        QTest::mouseClick(shave().button(), Qt::LeftButton);
        settle();
        selection().set({{0, 1}});
        m_window->keepGroup("foot");
        settle();
        const QString path = m_folder.filePath("plate.rasoir");
        QSignalSpy saved(&session(), &Session::saved);
        QVERIFY(m_window->saveWork(path));
        QTRY_VERIFY_WITH_TIMEOUT(saved.count() == 1, 60000);
        QVERIFY(!session().unsaved());
        openAndSettle(arm());
        openAndSettle(path);
        QCOMPARE(session().work().ledger().steps.size(), std::size_t(2));
        QCOMPARE(session().model().parts[0]->incidence().faceCount(), 6);
        QCOMPARE(session().model().groups.size(), std::size_t(1));
        QCOMPARE(session().model().groups[0].name, std::string("foot"));
        // Switching the step off brings the holes back: the received model came along.
        session().switchStep(0, false);
        settle();
        QVERIFY(session().model().parts[0]->incidence().faceCount() > 6);
        // A file cut short says what can be had from it.
        QFile file(path);
        QVERIFY(file.open(QIODevice::ReadWrite));
        QVERIFY(file.resize(file.size() * 2 / 3));
        file.close();
        QSignalSpy failed(&session(), &Session::failed);
        m_window->openFile(path);
        QTRY_VERIFY_WITH_TIMEOUT(failed.count() == 1, 60000);
        QVERIFY2(m_window->reading().contains("damaged"), qPrintable(m_window->reading()));
    }
    void severalFilesOpenTogether() {
        const QString one = plate(4);
        const QString two = m_folder.filePath("block.step");
        QVERIFY(exchange::writeFile(modelOf(block(10, 20, 30), "block"), two.toStdString(), {}, quietly()));
        QSignalSpy opened(&session(), &Session::opened);
        m_window->openFiles({one, two});
        QTRY_VERIFY_WITH_TIMEOUT(opened.count() == 1, 60000);
        settle();
        QCOMPARE(session().model().parts.size(), std::size_t(2));
        QCOMPARE(session().model().occurrences[1].path, std::vector<std::string>{"block"});
        // The ledger knows both: opening it brings both back, with its step.
        session().places().select({1});
        QTest::keyClick(m_window.get(), Qt::Key_Delete);
        settle();
        const QString ledger = m_folder.filePath("both.json");
        QVERIFY(session().saveLedgerTo(ledger));
        session().close();
        QVERIFY(session().isEmpty());
        m_window->openFile(ledger);
        QTRY_VERIFY_WITH_TIMEOUT(session().work().ledger().steps.size() == 1, 60000);
        settle();
        QCOMPARE(session().model().parts.size(), std::size_t(2));
        QVERIFY(session().model().occurrences[1].aside);
    }
    void anOddityIsMendedFromItsRow() {
        Model two = modelOf(block(30, 20, 10), "one");
        gp_Trsf apart;
        apart.SetTranslation(gp_Vec(50, 0, 0));
        two.parts.push_back(std::make_shared<Part>("two", moved(block(30, 20, 10), apart)));
        two.occurrences.push_back({1, gp_Trsf(), "two", {}, std::nullopt});
        const QString path = m_folder.filePath("two.step");
        QVERIFY(exchange::writeFile(two, path.toStdString(), {}, quietly()));
        openAndSettle(path);
        QTest::keyClick(m_window.get(), Qt::Key_1, Qt::ControlModifier);
        QTRY_VERIFY(session().report().has_value());
        QTRY_COMPARE(intake().openFindings(), 1);
        intake().oddities()->setCurrentItem(intake().oddities()->topLevelItem(0));
        QCOMPARE(session().places().selected().size(), std::size_t(2));
        QTest::keyClick(intake().oddities(), Qt::Key_Return);
        settle();
        QCOMPARE(session().model().parts.size(), std::size_t(1));
        QCOMPARE(session().model().occurrences.size(), std::size_t(2));
        QTRY_COMPARE(intake().openFindings(), 0);
    }
};

static Registered<IntakeWindowTest> intakeWindowTest;

}  // namespace rasoir::test

#include "intake_window_test.moc"
