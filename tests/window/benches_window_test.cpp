// Divide, Join, Reduce and Hand over in the window: from a file to pieces, common faces, sheets, a group and an export.
#include <BRepPrimAPI_MakeBox.hxx>

#include "bench/divide_bench.h"
#include "bench/handover_bench.h"
#include "bench/join_bench.h"
#include "bench/reduce_bench.h"
#include "window/window_fixture.h"

namespace rasoir::test {

class BenchesWindowTest : public WindowFixture {
    Q_OBJECT

    template <class Kind>
    Kind& show() {
        Kind* bench = m_window->bench<Kind>();
        m_window->showBench(bench);
        return *bench;
    }
    QString stacked() {
        Model model;
        gp_Trsf up;
        up.SetTranslation(gp_Vec(0, 0, 10));
        for (const auto& [name, shape] :
             {std::pair{"base", block(40, 40, 10)}, {"top", moved(block(20, 20, 10), up)}}) {
            model.occurrences.push_back({model.parts.size(), gp_Trsf(), name, {}, std::nullopt});
            model.parts.push_back(std::make_shared<Part>(name, shape));
        }
        const QString path = m_folder.filePath("stacked.step");
        return exchange::writeFile(model, path.toStdString(), {}, quietly()) ? path : QString();
    }

private slots:
    void init() { openWindow(); }
    void cleanup() { closeWindow(); }

    void everyBenchHasItsStateAndQuestion() {
        BenchBar* bar = m_window->findChild<BenchBar*>();
        for (int b = 0; b < 7; ++b) {
            bar->setCurrent(b);
            auto* button = bar->findChild<BenchButton*>(QString("bench%1").arg(b));
            QVERIFY(button != nullptr);
            QCOMPARE(button->state(), QString("no file"));
            QVERIFY(m_window->currentBench()->question().endsWith('?'));
        }
    }
    void aPlateIsCutByAPlaneThatIsTypedAndDragged() {
        openPlate();
        DivideBench& divide = show<DivideBench>();
        QVERIFY(!divide.button()->isEnabled());
        QTest::mouseClick(divide.findChild<QPushButton*>("acrossX"), Qt::LeftButton);
        QCOMPARE(divide.cutters()->topLevelItemCount(), 1);
        QCOMPARE(divide.position()->text(), QString("50 mm"));
        divide.position()->setFocus();
        divide.position()->selectAll();
        QTest::keyClicks(divide.position(), "30");
        QTest::keyClick(divide.position(), Qt::Key_Return);
        QCOMPARE(divide.position()->text(), QString("30 mm"));
        // The ring handle on the stage moves it along its normal, and its number follows.
        const auto preview = divide.preview();
        QCOMPARE(preview.handles.size(), std::size_t(1));
        Stage* stage = m_window->stage();
        const QPointF at = stage->toPixels(preview.handles[0].at);
        const QPointF along = stage->screenDirection(preview.handles[0].along) * 40.0;
        drag(stage, at.toPoint(), (at + along).toPoint());
        QVERIFY2(divide.position()->text() != "30 mm", qPrintable(divide.position()->text()));
        divide.position()->setFocus();
        divide.position()->selectAll();
        QTest::keyClicks(divide.position(), "40");
        QTest::keyClick(divide.position(), Qt::Key_Return);
        QCOMPARE(divide.button()->text(), QString("Cut everything by 1 plane"));
        QTest::mouseClick(divide.button(), Qt::LeftButton);
        settle();
        QCOMPARE(session().model().parts.size(), std::size_t(2));
        QVERIFY(session().model().partNamed("plate, left") && session().model().partNamed("plate, right"));
        QCOMPARE(m_window->ledger()->findChildren<QWidget*>().isEmpty(), false);
        session().undo();
        QCOMPARE(session().model().parts.size(), std::size_t(1));
    }
    void whatWouldBeLeftIsShownBeforeTheCut() {
        openPlate();
        DivideBench& divide = show<DivideBench>();
        divide.addAcross(0);
        divide.resultSwitch()->setChecked(true);
        QTRY_VERIFY_WITH_TIMEOUT(m_window->stage()->showsResult(), 20000);
        divide.resultSwitch()->setChecked(false);
        // Delete takes the cutter out, not the part.
        divide.cutters()->setFocus();
        QTest::keyClick(divide.cutters(), Qt::Key_Delete);
        QCOMPARE(divide.cutters()->topLevelItemCount(), 0);
        QVERIFY(!session().model().occurrences[0].aside);
    }
    void bodiesAreUnitedInTheOrderTheyWerePicked() {
        openAndSettle(stacked());
        DivideBench& divide = show<DivideBench>();
        divide.showKind(DivideKind::Unite);
        QVERIFY(!divide.button()->isEnabled());
        m_window->selection().set({Pick{1}, Pick{0}});
        QCOMPARE(divide.bodies()->topLevelItem(0)->text(0), QString("top"));
        QCOMPARE(divide.button()->text(), QString("Unite 2 bodies"));
        QTest::mouseClick(divide.button(), Qt::LeftButton);
        settle();
        QCOMPARE(session().model().parts.size(), std::size_t(1));
        QCOMPARE(session().model().parts[0]->name, std::string("top"));
        QCOMPARE_NEAR(volumeOf(session().model().parts[0]->shape), 16000.0 + 4000.0, 1e-6);
    }
    void whatTouchesIsListedAndJoined() {
        openAndSettle(stacked());
        QStringList doings;
        connect(&session(), &Session::started, this, [&](const QString& doing) { doings += doing; });
        JoinBench& join = show<JoinBench>();
        QTRY_COMPARE_WITH_TIMEOUT(join.pairs()->topLevelItemCount(), 1, 20000);
        settle();
        QCOMPARE(doings.count("Looking for contacts"), 1);  // not once more because the first has ended
        QVERIFY(join.pairs()->topLevelItem(0)->text(0).contains("base"));
        QVERIFY(!join.preview().goes.empty());  // what would become one is lit
        QCOMPARE(join.button()->text(), QString("Join 1 pair"));
        settle();
        // One body alone is not what is joined: with one picked, the whole model still is.
        session().selectOccurrences({0});
        settle();
        QCOMPARE(join.button()->text(), QString("Join 1 pair"));
        QTest::mouseClick(join.button(), Qt::LeftButton);
        settle();
        QVERIFY2(
            !session().model().joints.empty(),
            qPrintable(join.message() + m_window->reading() + QString::number(session().work().ledger().steps.size())));
        join.showKind(JoinKind::Joined);
        QCOMPARE(join.pairs()->topLevelItemCount(), 1);
        QVERIFY2(join.answer().contains("counted once"), qPrintable(join.answer()));
    }
    void aThinPlateBecomesASheet() {
        openPlate();
        ReduceBench& reduce = show<ReduceBench>();
        QTRY_VERIFY_WITH_TIMEOUT(reduce.walls()->topLevelItemCount() > 0, 20000);
        QVERIFY(!reduce.button()->isEnabled());  // 8 mm thick and 60 broad, with holes: doubtful, and not taken unasked
        reduce.doubtful()->setChecked(true);
        settle();
        QVERIFY2(reduce.button()->isEnabled(), qPrintable(reduce.button()->text()));
        QTest::mouseClick(reduce.button(), Qt::LeftButton);
        settle();
        const Part& sheet = *session().model().parts[0];
        QCOMPARE(static_cast<int>(sheet.kind()), static_cast<int>(BodyKind::Sheet));
        QVERIFY(!sheet.known.thickness.empty());
        QCOMPARE_NEAR(sheet.known.thickness.begin()->second.at, 8.0, 1e-9);
    }
    void aGroupIsMadeFollowsAndIsExported() {
        openPlate();
        HandoverBench& handover = show<HandoverBench>();
        QTRY_VERIFY_WITH_TIMEOUT(handover.state() != "not checked", 20000);
        handover.showKind(HandoverKind::Groups);
        QVERIFY(!handover.button()->isEnabled());
        Pick top{0};
        const Part& part = *session().model().parts[0];
        for (int f = 1; f <= part.incidence().faceCount(); ++f)
            if (makeFaceRef(part, f).centre.Z() > 7.9 && makeFaceRef(part, f).area > 5000) top.face = f;
        m_window->selection().set({top});
        handover.groupName()->setFocus();
        QTest::keyClicks(handover.groupName(), "load");
        QCOMPARE(handover.button()->text(), QString("Group 1 face"));
        settle();
        QTest::mouseClick(handover.button(), Qt::LeftButton);
        settle();
        QVERIFY2(session().model().groups.size() == 1, qPrintable(handover.message() + m_window->reading()));
        QCOMPARE(handover.list()->topLevelItem(0)->text(0), QString("load"));
        // A step later it is still there; and the exported file names its face.
        session().apply("shave.removeHoles", {{"upTo", 6.0}});
        settle();
        QCOMPARE(session().model().groups[0].members.size(), std::size_t(1));
        const QString out = m_folder.filePath("out.step");
        QVERIFY(m_window->exportFile(out));
        settle();
        const auto text = readText(out.toStdString());
        QVERIFY(text && text->find("'load'") != std::string::npos);
        // Clicking the row picks its members.
        m_window->selection().clear();
        emit handover.list()->itemClicked(handover.list()->topLevelItem(0), 0);
        QCOMPARE(picks().size(), std::size_t(1));
        QVERIFY(picks()[0].face > 0);
    }
    void aFileThatIsOpenBeginsAtMend() {
        openAndSettle(QString::fromStdString(demoFile("hanger-arm-as-received.step")));
        QTRY_COMPARE_WITH_TIMEOUT(m_window->currentBench()->name(), QString("Mend"), 60000);
    }
    void whatIsNotKnownIsNotClaimed() {
        m_window->openFile(plate(4));
        QSignalSpy opened(&session(), &Session::opened);
        QTRY_COMPARE_WITH_TIMEOUT(opened.count(), 1, 60000);
        if (session().knowledge(0) == nullptr) {
            QCOMPARE(shave().state(), QString("surveying…"));
            QVERIFY(!shave().kindButton(ShaveKind::Holes)->text().contains('0'));
        }
        settle();
        QCOMPARE(shave().state(), QString("settled"));  // its holes are wide for the size that was suggested
    }
};

static Registered<BenchesWindowTest> benchesWindowTest;

}  // namespace rasoir::test

#include "benches_window_test.moc"
