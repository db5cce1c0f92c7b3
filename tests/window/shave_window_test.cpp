// Threads, small things and what has been looked at, in the window.
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <GC_MakeArcOfCircle.hxx>
#include <TopExp_Explorer.hxx>

#include "geometry/integrals.h"
#include "theme.h"
#include "window/window_fixture.h"

namespace rasoir::test {

class ShaveWindowTest : public WindowFixture {
    Q_OBJECT

    void setTarget(const QString& text) {
        QLineEdit* target = m_window->findChild<QLineEdit*>("targetSize");
        target->setFocus();
        target->selectAll();
        QTest::keyClicks(target, text);
        QTest::keyClick(target, Qt::Key_Return);
        settle();
    }
    void openBolt() {
        openAndSettle(QString::fromStdString(demoFile("hanger-bolt.step")));
        setTarget("4 mm");
        QTest::keyClick(m_window.get(), Qt::Key_3, Qt::ControlModifier);
    }
    Json boltTruth() { return Json::parse(*readText(demoFile("hanger-bolt.json"))); }
    double volume() { return rasoir::volumeOf(session().model().parts[0]->shape); }
    QTreeWidgetItem* row(int r) { return shave().findings()->topLevelItem(r); }

    /// How many rows of a list are too low for their words in a column, and the height of its highest row.
    static std::pair<int, int> cutRows(const QTreeWidget& list, int column, int beside) {
        int cut = 0, highest = 0;
        for (int r = 0; r < list.topLevelItemCount(); ++r) {
            QTreeWidgetItem* item = list.topLevelItem(r);
            const QRect room = list.visualItemRect(item);
            if (room.isEmpty()) continue;
            const QFontMetrics metrics(Theme::font(12.5));
            const QRect words = metrics.boundingRect(QRect(0, 0, list.columnWidth(column) - beside, 1000),
                                                     Qt::TextWordWrap, item->text(column));
            cut += words.height() > room.height();
            highest = std::max(highest, room.height());
        }
        return {cut, highest};
    }

private slots:
    void init() { openWindow(); }
    void cleanup() { closeWindow(); }

    void aFileOpensWithWhatItHas() {
        openBolt();
        // No holes in it: the first kind that it has is shown, the others are named in a line.
        QVERIFY(shave().kindButton(ShaveKind::Threads)->isVisible());
        QVERIFY(shave().kindButton(ShaveKind::Steps)->isVisible());
        QVERIFY(!shave().kindButton(ShaveKind::Holes)->isVisible());
        QVERIFY(m_window->findChild<QLabel*>("noneHere")->text().contains("holes"));
        QCOMPARE(shave().findings()->topLevelItemCount(), 2);  // one thread and the blade
        QVERIFY(row(0)->text(1).contains("outer, lead 2.5"));
        QCOMPARE(row(0)->text(0), QString("20"));
    }

    void longWordsGoOnBelow() {
        openAndSettle(QString::fromStdString(demoFile("carrier.step")));
        QTest::keyClick(m_window.get(), Qt::Key_3, Qt::ControlModifier);
        FindingsList* list = shave().findings();
        QCoreApplication::processEvents();
        const auto [cut, highest] = cutRows(*list, 1, 3);
        const int one = list->visualItemRect(list->topLevelItem(0)).height();
        QCOMPARE(cut, 0);
        QVERIFY2(highest > one, qPrintable(QString("%1 and %2").arg(highest).arg(one)));
        // With more room the same words need one line.
        list->setFixedWidth(900);
        settle();
        QCoreApplication::processEvents();
        const auto [cutThen, highestThen] = cutRows(*list, 1, 3);
        QCOMPARE(cutThen, 0);
        QCOMPARE(highestThen, one);
    }

    void aThreadBecomesPlainAtTheChosenDiameter() {
        openBolt();
        QTest::mouseClick(shave().kindButton(ShaveKind::Threads), Qt::LeftButton);
        QVERIFY(shave().diameter()->isVisible());
        QCOMPARE(shave().button()->text(), QString("Make 1 thread plain"));
        QTest::keyClick(shave().diameter(), Qt::Key_End);
        QCOMPARE(shave().diameter()->currentData().toString(), QString("major"));
        const double forecast = session().forecast();
        QTest::mouseClick(shave().button(), Qt::LeftButton);
        settle();
        QCOMPARE(session().work().ledger().steps.size(), 1u);
        QCOMPARE(session().work().ledger().steps[0].parameters.at("diameter").get<std::string>(), std::string("major"));
        const double truth = boltTruth()["volume_with_plain_major_diameter_mm3"].get<double>();
        QCOMPARE_NEAR(volume(), truth, 1e-4 * truth);
        QVERIFY(session().forecast() < 0.2 * forecast);
        QTRY_VERIFY(shave().message().isEmpty());
        // The kind stays where it was, with none left; undone, the thread is back.
        QVERIFY(shave().kindButton(ShaveKind::Threads)->text().endsWith(" 0"));
        QTest::keyClick(m_window.get(), Qt::Key_Z, Qt::ControlModifier);
        settle();
        QTRY_VERIFY(shave().kindButton(ShaveKind::Threads)->text().endsWith(" 1"));
        QCOMPARE_NEAR(volume(), boltTruth()["volume_mm3"].get<double>(), 0.05);
    }

    void aNickAndAStepGo() {
        openBolt();
        const int faces = session().model().parts[0]->incidence().faceCount();
        QTest::mouseClick(shave().kindButton(ShaveKind::Faces), Qt::LeftButton);
        QVERIFY(!shave().diameter()->isVisible());
        QCOMPARE(shave().button()->text(), QString("Remove 1 small face"));
        QTest::mouseClick(shave().button(), Qt::LeftButton);
        settle();
        QCOMPARE(session().model().parts[0]->incidence().faceCount(), faces - 1);
        QTest::mouseClick(shave().kindButton(ShaveKind::Steps), Qt::LeftButton);
        QCOMPARE(shave().button()->text(), QString("Remove 1 step"));
        const double before = volume();
        QTest::mouseClick(shave().button(), Qt::LeftButton);
        settle();
        QVERIFY(volume() > before + 100.0);
        QCOMPARE(session().model().parts[0]->incidence().faceCount(), faces - 3);
    }

    void whatIsLookedAtIsRemembered() {
        openPlate();
        QTest::keyClick(m_window.get(), Qt::Key_3, Qt::ControlModifier);
        shave().showKind(ShaveKind::Holes);
        FindingsList* list = shave().findings();
        QVERIFY(row(0)->childCount() > 0);
        row(0)->setExpanded(true);
        const auto spoken = [&](QTreeWidgetItem* item) {
            return item->data(1, Qt::AccessibleDescriptionRole).toString();
        };
        QCOMPARE(spoken(row(0)->child(0)), QString());
        list->setFocus();
        list->setCurrentItem(row(0)->child(0));
        QTest::keyClick(list, Qt::Key_Return);
        QCOMPARE(spoken(row(0)->child(0)), QString("looked at"));
        QVERIFY(spoken(row(0)).startsWith("1 of "));
        // Another kind and back: it is still known.
        shave().showKind(ShaveKind::Rounds);
        shave().showKind(ShaveKind::Holes);
        QVERIFY(spoken(row(0)).startsWith("1 of "));
    }

    void cornersOfASheetBecomeSquare() {
        const double d = 3 - 3 * std::sqrt(0.5);
        BRepBuilderAPI_MakeWire wire;
        wire.Add(BRepBuilderAPI_MakeEdge(gp_Pnt(3, 0, 0), gp_Pnt(40, 0, 0)).Edge());
        wire.Add(BRepBuilderAPI_MakeEdge(gp_Pnt(40, 0, 0), gp_Pnt(40, 30, 0)).Edge());
        wire.Add(BRepBuilderAPI_MakeEdge(gp_Pnt(40, 30, 0), gp_Pnt(0, 30, 0)).Edge());
        wire.Add(BRepBuilderAPI_MakeEdge(gp_Pnt(0, 30, 0), gp_Pnt(0, 3, 0)).Edge());
        wire.Add(BRepBuilderAPI_MakeEdge(GC_MakeArcOfCircle(gp_Pnt(0, 3, 0), gp_Pnt(d, d, 0), gp_Pnt(3, 0, 0)).Value())
                     .Edge());
        const QString path = m_folder.filePath("corner.step");
        QVERIFY(exchange::writeFile(modelOf(BRepBuilderAPI_MakeFace(wire.Wire(), true).Face(), "corner"),
                                    path.toStdString(), {}, quietly()));
        openAndSettle(path);
        setTarget("4 mm");
        QTest::keyClick(m_window.get(), Qt::Key_3, Qt::ControlModifier);
        QVERIFY(shave().kindButton(ShaveKind::Corners)->isVisible());
        QTest::mouseClick(shave().kindButton(ShaveKind::Corners), Qt::LeftButton);
        QTRY_COMPARE(shave().button()->text(), QString("Square 1 corner"));
        QTest::mouseClick(shave().button(), Qt::LeftButton);
        settle();
        QCOMPARE_NEAR(rasoir::areaOf(session().model().parts[0]->shape), 1200.0, 1e-6);
    }

    void aHoleOfASheetGoes() {
        const TopoDS_Shape plate = drilledPlate(100, 60, 8, 4, 5);
        TopoDS_Shape sheet;  // its top alone
        for (TopExp_Explorer it(plate, TopAbs_FACE); it.More(); it.Next())
            if (rasoir::skinOf(it.Current()).centre.Z() > 7.9 && rasoir::areaOf(it.Current()) > 1000)
                sheet = it.Current();
        const QString path = m_folder.filePath("sheet.step");
        QVERIFY(exchange::writeFile(modelOf(sheet, "sheet"), path.toStdString(), {}, quietly()));
        openAndSettle(path);
        setTarget("4 mm");
        QTest::keyClick(m_window.get(), Qt::Key_3, Qt::ControlModifier);
        shave().showKind(ShaveKind::Holes);
        QTRY_COMPARE(shave().button()->text(), QString("Remove 4 holes"));
        // One of them is kept on purpose.
        FindingsList* list = shave().findings();
        list->setFocus();
        row(0)->setExpanded(true);
        list->setCurrentItem(row(0)->child(0));  // the one nearest to the origin
        QTest::keyClick(list, Qt::Key_K);
        QCOMPARE(shave().button()->text(), QString("Remove 3 holes"));
        // So is the one whose rim is picked: it has no face of its own.
        const auto& holes = *session().knowledge(0)->holes;
        const auto middle = [](const survey::Hole& a, const survey::Hole& b) {
            return a.middle.X() + a.middle.Y() < b.middle.X() + b.middle.Y();
        };
        const survey::Hole& far = *std::max_element(holes.begin(), holes.end(), middle);
        QVERIFY(far.faces.empty() && !far.rim.empty());
        shave().keepPicked({0, 0, far.rim.front()});
        QCOMPARE(shave().button()->text(), QString("Remove 2 holes"));
        shave().keepPicked({0, 0, far.rim.front()});
        QTest::mouseClick(shave().button(), Qt::LeftButton);
        settle();
        QCOMPARE_NEAR(rasoir::areaOf(session().model().parts[0]->shape), 100.0 * 60 - M_PI * 2.5 * 2.5, 1e-3);
    }
};
static Registered<ShaveWindowTest> shaveWindowTest;

}  // namespace rasoir::test

#include "shave_window_test.moc"
