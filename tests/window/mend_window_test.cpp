// The Mend bench in the window: kinds, blade, keeping, walking, the safe button, the statement.
#include "bench/mend_bench.h"
#include "window/window_fixture.h"

namespace rasoir::test {

class MendWindowTest : public WindowFixture {
    Q_OBJECT

    MendBench& mend() { return *m_window->mend(); }
    QPushButton* kind(const QString& name) {
        for (QPushButton* button : mend().findChildren<QPushButton*>())
            if (button->accessibleName() == name) return button;
        return nullptr;
    }
    void openArm() {
        openAndSettle(QString::fromStdString(demoFile("hanger-arm-as-received.step")));
        BenchBar* bar = m_window->findChild<BenchBar*>();
        QVERIFY(bar != nullptr);
        bar->setCurrent(1);
        QTRY_VERIFY_WITH_TIMEOUT(mend().statement() == "Watertight: no.", 60000);
    }

private slots:
    void init() { openWindow(); }
    void cleanup() { closeWindow(); }

    void defectsAreListedByKind() {
        openArm();
        QVERIFY2(kind("Gaps")->text().contains("4"), qPrintable(kind("Gaps")->text()));
        QVERIFY(mend().button()->text().startsWith("Stitch"));
        QVERIFY(mend().cutBar()->isVisible());
        QTest::mouseClick(kind("Doubled faces"), Qt::LeftButton);
        QCOMPARE(mend().button()->text(), QString("Drop 2 doubled faces"));
        QVERIFY(!mend().cutBar()->isVisible());
        QCOMPARE(mend().findings()->topLevelItemCount(), 2);
        // They go together: one cannot be kept, and that is said.
        mend().findings()->setCurrentItem(mend().findings()->topLevelItem(0));
        QTest::keyClick(mend().findings(), Qt::Key_K);
        QCOMPARE(mend().button()->text(), QString("Drop 2 doubled faces"));
        QVERIFY(mend().message().contains("together"));
        QTest::mouseClick(kind("Slivers"), Qt::LeftButton);
        QVERIFY(!mend().button()->isEnabled());
        QTest::mouseClick(kind("Openings"), Qt::LeftButton);
        QVERIFY(mend().button()->text().startsWith("Patch"));
        // A kept one is left out of what the button says.
        const QString before = mend().button()->text();
        mend().findings()->setCurrentItem(mend().findings()->topLevelItem(0));
        QTest::keyClick(mend().findings(), Qt::Key_K);
        QVERIFY(mend().button()->text() != before);
        QTest::keyClick(mend().findings(), Qt::Key_K);
        QCOMPARE(mend().button()->text(), before);
    }
    void theBladeDecidesWhichGapsClose() {
        openArm();
        const QString all = mend().button()->text();
        QLineEdit* number = mend().cutBar()->number();
        number->setFocus();
        number->selectAll();
        QTest::keyClicks(number, "0.02");
        QTest::keyClick(number, Qt::Key_Return);
        QVERIFY(mend().button()->text() != all);
        QTest::mouseClick(mend().button(), Qt::LeftButton);
        settle();
        const auto& steps = session().work().ledger().steps;
        QCOMPARE(steps.size(), std::size_t(1));
        QCOMPARE(steps[0].operation, std::string("mend.stitch"));
        QCOMPARE_NEAR(steps[0].parameters["upTo"].get<double>(), 0.02, 1e-12);
        // What is wider stays, and is listed.
        QTRY_VERIFY(session().knowledge(0) != nullptr && session().knowledge(0)->defects);
        for (const survey::Defect& defect : session().knowledge(0)->defects->defects)
            if (defect.kind == survey::DefectKind::Gap) QVERIFY(defect.size > 0.01);
    }
    void defectsAreWalkedThrough() {
        openArm();
        QTest::mouseClick(kind("Openings"), Qt::LeftButton);
        const Json before = m_window->stage()->camera();
        QTest::keyClick(m_window.get(), Qt::Key_Down, Qt::ControlModifier | Qt::AltModifier);
        QVERIFY(m_window->stage()->camera() != before);
        const Json first = m_window->stage()->camera();
        QTest::keyClick(m_window.get(), Qt::Key_Down, Qt::ControlModifier | Qt::AltModifier);
        QVERIFY(m_window->stage()->camera() != first);
        QTest::keyClick(m_window.get(), Qt::Key_Up, Qt::ControlModifier | Qt::AltModifier);
        QCOMPARE(m_window->stage()->camera(), first);
    }
    void safeFirstThenTheRest() {
        openArm();
        QTest::mouseClick(mend().safeButton(), Qt::LeftButton);
        settle();
        QCOMPARE(session().work().ledger().steps.size(), std::size_t(1));
        // The default target size is 5 mm here: the safe limit takes the widest gap too. Then the splinter.
        QTRY_VERIFY_WITH_TIMEOUT(mend().statement().startsWith("Watertight: 2 solids"), 60000);
        QTest::mouseClick(kind("Other"), Qt::LeftButton);
        QCOMPARE(mend().button()->text(), QString("Drop 1 stray body"));
        QTest::mouseClick(mend().button(), Qt::LeftButton);
        settle();
        const auto plain = [this] { return mend().statement().remove(QRegularExpression("[^A-Za-z0-9:,]")); };
        QTRY_COMPARE_WITH_TIMEOUT(plain(), QString("Watertight:1solid,2612cm"), 60000);
        QVERIFY(!mend().safeButton()->isEnabled());
        // Taken back, all is open again.
        session().undo();
        session().undo();
        QTRY_COMPARE_WITH_TIMEOUT(mend().statement(), QString("Watertight: no."), 60000);
    }
};

static Registered<MendWindowTest> mendWindowTest;

}  // namespace rasoir::test

#include "mend_window_test.moc"
