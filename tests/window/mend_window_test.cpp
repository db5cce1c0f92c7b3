// The Mend bench in the window: kinds, blade, keeping, walking, the safe button, the statement.
#include <BRep_Builder.hxx>
#include <BRepAdaptor_Curve.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakePolygon.hxx>
#include <gp_Pln.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS_Compound.hxx>
#include <TopoDS_Shell.hxx>

#include "bench/mend_bench.h"
#include "geometry/integrals.h"
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
        QCOMPARE(mend().button()->text(), QString("Absorb 2 slivers"));
        QTest::mouseClick(kind("Overruns"), Qt::LeftButton);
        QCOMPARE(mend().button()->text(), QString("Trim 2 overruns"));
        QTest::mouseClick(kind("Tiny edges"), Qt::LeftButton);
        QCOMPARE(mend().button()->text(), QString("Collapse 4 tiny edges"));
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
    void aStrayBodyIsUnitedByItsLink() {
        gp_Trsf shift;
        shift.SetTranslation(gp_Vec(100, 100, 50));
        TopoDS_Compound bag;
        const BRep_Builder builder;
        builder.MakeCompound(bag);
        builder.Add(bag, block(300, 300, 50));
        builder.Add(bag, moved(block(4, 3, 2), shift));
        const QString path = m_folder.filePath("crumb.brep");
        QVERIFY(exchange::writeFile(modelOf(bag, "crumb"), path.toStdString(), {}, quietly()));
        openAndSettle(path);
        mend().showKind(MendKind::Other);
        QCOMPARE(mend().button()->text(), QString("Drop 1 stray body"));
        auto* offer = mend().findChild<QLabel*>("safeLimit");
        QVERIFY2(!offer->isHidden() && offer->text().contains("unite it"), qPrintable(offer->text()));
        emit offer->linkActivated("unite");
        settle();
        QCOMPARE(solidsIn(session().model().parts[0]->shape), 1);
        QCOMPARE_NEAR(volumeOf(session().model().parts[0]->shape), 4500024.0, 1.0);
        QCOMPARE(session().work().ledger().steps[0].operation, std::string("mend.uniteStray"));
    }
    void aFaceWhoseLoopCrossesItselfIsListed() {
        BRepBuilderAPI_MakePolygon crossed(gp_Pnt(0, 0, 0), gp_Pnt(20, 10, 0), gp_Pnt(20, 0, 0), gp_Pnt(0, 10, 0),
                                           true);
        TopoDS_Compound bag;
        const BRep_Builder builder;
        builder.MakeCompound(bag);
        builder.Add(bag, block(40, 30, 20));
        builder.Add(bag, BRepBuilderAPI_MakeFace(gp_Pln(gp::Origin(), gp::DZ()), crossed.Wire()).Face());
        const QString path = m_folder.filePath("crossed.brep");
        QVERIFY(exchange::writeFile(modelOf(bag, "crossed"), path.toStdString(), {}, quietly()));
        openAndSettle(path);
        mend().showKind(MendKind::Other);
        const auto listed = [this] {
            for (int i = 0; i < mend().findings()->topLevelItemCount(); ++i)
                for (int c = 0; c < mend().findings()->columnCount(); ++c)
                    if (mend().findings()->topLevelItem(i)->text(c).contains("unsound face")) return true;
            return false;
        };
        QTRY_VERIFY_WITH_TIMEOUT(listed(), 30000);  // the dear check comes after the rest
        // The core says the same, and nothing of a sound body.
        QCOMPARE(survey::findUnsound(*session().model().parts[0], quietly()).size(), std::size_t(1));
        QVERIFY(survey::findUnsound(*modelOf(block(40, 30, 20)).parts[0], quietly()).empty());
    }
    void pickedEdgesAreJoinedAndPatched() {
        // Two plates 1.5 mm apart, far more than any safe limit.
        TopoDS_Compound bag;
        const BRep_Builder builder;
        builder.MakeCompound(bag);
        builder.Add(bag, BRepBuilderAPI_MakeFace(gp_Pln(gp::Origin(), gp::DZ()), 0, 40, 0, 30).Face());
        builder.Add(bag, BRepBuilderAPI_MakeFace(gp_Pln(gp::Origin(), gp::DZ()), 41.5, 80, 0, 30).Face());
        const QString path = m_folder.filePath("apart.brep");
        QVERIFY(exchange::writeFile(modelOf(bag, "apart"), path.toStdString(), {}, quietly()));
        openAndSettle(path);
        QTest::keyClick(m_window.get(), Qt::Key_J, Qt::ControlModifier);
        QVERIFY2(mend().message().contains("No open edge is picked"), qPrintable(mend().message()));
        const Incidence& topology = session().model().parts[0]->incidence();
        std::vector<Pick> chosen;
        for (int e = 1; e <= topology.edgeCount(); ++e) {
            const BRepAdaptor_Curve curve(topology.edge(e));
            const double x = curve.Value(0.5 * (curve.FirstParameter() + curve.LastParameter())).X();
            if (std::abs(x - 40.0) < 1e-6 || std::abs(x - 41.5) < 1e-6) chosen.push_back({0, 0, e});
        }
        QCOMPARE(chosen.size(), std::size_t(2));
        m_window->selection().set({chosen[0]});
        QTest::keyClick(m_window.get(), Qt::Key_J, Qt::ControlModifier);
        QVERIFY(mend().message().contains("two open edges"));
        m_window->selection().set(chosen);
        QTest::keyClick(m_window.get(), Qt::Key_J, Qt::AltModifier);
        settle();
        QCOMPARE(facesIn(session().model().parts[0]->shape), 3);  // a strip lies between them, and nothing has moved
        QCOMPARE(openEdgesIn(session().model().parts[0]->shape), 8);
        QCOMPARE_NEAR(areaOf(session().model().parts[0]->shape), 80.0 * 30.0, 1e-6);
        session().undo();
        settle();
        m_window->selection().set(chosen);
        QTest::keyClick(m_window.get(), Qt::Key_J, Qt::ControlModifier);
        settle();
        QCOMPARE(openEdgesIn(session().model().parts[0]->shape), 6);
        QCOMPARE(facesIn(session().model().parts[0]->shape), 2);

        // A box without its lid: one edge of the rim is enough to say which opening is meant.
        TopoDS_Shape box = block(40, 30, 20);
        TopoDS_Shell open;
        builder.MakeShell(open);
        bool lid = true;
        for (TopExp_Explorer it(box, TopAbs_FACE); it.More(); it.Next())
            if (!std::exchange(lid, false)) builder.Add(open, it.Current());
        const QString tray = m_folder.filePath("tray.brep");
        QVERIFY(exchange::writeFile(modelOf(open, "tray"), tray.toStdString(), {}, quietly()));
        openAndSettle(tray);
        const Incidence& rim = session().model().parts[0]->incidence();
        for (int e = 1; e <= rim.edgeCount(); ++e)
            if (rim.facesAt(e) == 1) {
                m_window->selection().set({Pick{0, 0, e}});
                break;
            }
        QTest::keyClick(m_window.get(), Qt::Key_J, Qt::ControlModifier | Qt::ShiftModifier);
        settle();
        QCOMPARE(solidsIn(session().model().parts[0]->shape), 1);
        QCOMPARE_NEAR(volumeOf(session().model().parts[0]->shape), 24000.0, 1e-6);
    }
    void anEdgeIsDraggedOntoAnother() {
        TopoDS_Compound bag;
        const BRep_Builder builder;
        builder.MakeCompound(bag);
        builder.Add(bag, BRepBuilderAPI_MakeFace(gp_Pln(gp::Origin(), gp::DZ()), 0, 40, 0, 30).Face());
        builder.Add(bag, BRepBuilderAPI_MakeFace(gp_Pln(gp::Origin(), gp::DZ()), 44, 80, 0, 30).Face());
        const QString path = m_folder.filePath("apart.brep");
        QVERIFY(exchange::writeFile(modelOf(bag, "apart"), path.toStdString(), {}, quietly()));
        openAndSettle(path);
        Stage* stage = m_window->stage();
        stage->look(SquareView::Top);
        stage->fit();
        QTest::qWait(300);
        const auto dragWithAlt = [&](const QPointF& from, const QPointF& to) {
            QTest::mousePress(stage, Qt::LeftButton, Qt::AltModifier, from.toPoint());
            for (int i = 1; i <= 10; ++i) {
                const QPointF at = from + (to - from) * i / 10.0;
                QMouseEvent move(QEvent::MouseMove, at, stage->mapToGlobal(at), Qt::NoButton, Qt::LeftButton,
                                 Qt::AltModifier);
                QApplication::sendEvent(stage, &move);
            }
            QTest::mouseRelease(stage, Qt::LeftButton, Qt::AltModifier, to.toPoint());
        };
        const QPointF from = stage->toPixels(gp_Pnt(40, 12, 0)), onto = stage->toPixels(gp_Pnt(44, 18, 0)),
                      nowhere = stage->toPixels(gp_Pnt(20, 15, 0));
        // Let go over a face: nothing happens, and the view has not turned.
        const Json camera = stage->camera();
        dragWithAlt(from, nowhere);
        QVERIFY(session().work().ledger().steps.empty());
        QCOMPARE(stage->camera(), camera);
        dragWithAlt(from, onto);
        settle();
        QCOMPARE(session().work().ledger().steps.size(), std::size_t(1));
        QCOMPARE(openEdgesIn(session().model().parts[0]->shape), 6);
        QCOMPARE(facesIn(session().model().parts[0]->shape), 2);
        QVERIFY(!stage->joinLine());
    }
    void whatSafeWouldDoIsShownFirst() {
        openArm();
        const BenchPreview before = mend().preview();
        QVERIFY(before.goes.empty());  // gaps have no faces that go
        QEnterEvent enter(QPointF(4, 4), QPointF(4, 4), QPointF(4, 4));
        QApplication::sendEvent(mend().safeButton(), &enter);
        const BenchPreview safe = mend().preview();
        QCOMPARE(safe.goes.size(), std::size_t(1));
        QCOMPARE(safe.goes[0].faces.size(), std::size_t(4));  // two doubled, two that run over
        QVERIFY(safe.marks.size() > before.marks.size());
        const QString words = mend().safeButton()->toolTip();
        for (const char* part : {"Drop 2 doubled faces", "stitch", "cut back 2 overruns", "patch"})
            QVERIFY2(words.contains(part), qPrintable(words));
        QEvent leave(QEvent::Leave);
        QApplication::sendEvent(mend().safeButton(), &leave);
        QVERIFY(mend().preview().goes.empty());
    }
    void keptOpeningsCanBeNotedAsMeant() {
        openArm();
        QTest::mouseClick(kind("Openings"), Qt::LeftButton);
        const int rows = mend().findings()->topLevelItemCount();
        mend().findings()->setCurrentItem(mend().findings()->topLevelItem(0));
        QTest::keyClick(mend().findings(), Qt::Key_K);
        QVERIFY2(mend().message().contains("meant open"), qPrintable(mend().message()));
        emit mend().findChild<QLabel*>("mendMessage")->linkActivated("meant");
        settle();
        QCOMPARE(session().work().ledger().steps.back().operation, std::string("mend.leaveOpen"));
        // A part that is only renamed keeps what is known, and the bench says so at once.
        session().apply("intake.rename", {{"to", "boom"}});
        settle();
        QTRY_COMPARE_WITH_TIMEOUT(mend().statement(), QString("Watertight: no."), 60000);
        QTRY_VERIFY(session().knowledge(0) != nullptr && session().knowledge(0)->defects);
        QTRY_COMPARE_WITH_TIMEOUT(mend().findings()->topLevelItemCount(), rows - 1, 60000);
    }
    void safeFirstThenTheRest() {
        openArm();
        QTest::mouseClick(mend().safeButton(), Qt::LeftButton);
        settle();
        QCOMPARE(session().work().ledger().steps.size(), std::size_t(1));
        // The default target size is 5 mm here: the safe limit takes the widest gap too. Then the splinter.
        QTRY_VERIFY_WITH_TIMEOUT(mend().statement().startsWith("Watertight: 2 solids"), 60000);
        // What moved farthest is told, and a link flies there.
        QVERIFY2(mend().message().contains("The largest shift is"), qPrintable(mend().message()));
        const Json camera = m_window->stage()->camera();
        const QRegularExpressionMatch link =
            QRegularExpression("The largest shift is.*href='([^']+)'").match(mend().message());
        QVERIFY(link.hasMatch());
        emit mend().findChild<QLabel*>("mendMessage")->linkActivated(link.captured(1));
        QTRY_VERIFY(m_window->stage()->camera() != camera);
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
