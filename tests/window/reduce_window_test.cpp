// What of sheets is not flush, sheets by hand, and frames of one solid, in the window.
#include "bench/reduce_bench.h"
#include "geometry/integrals.h"
#include "whole_surveys.h"
#include "window/window_fixture.h"

namespace rasoir::test {

class ReduceWindowTest : public WindowFixture {
    Q_OBJECT

    ReduceBench& reduce() {
        ReduceBench* bench = m_window->bench<ReduceBench>();
        m_window->showBench(bench);
        return *bench;
    }
    QString saved(const std::vector<std::pair<std::string, TopoDS_Shape>>& bodies) {
        Model model;
        for (const auto& [name, shape] : bodies) {
            model.occurrences.push_back({model.parts.size(), gp_Trsf(), name, {}, std::nullopt});
            model.parts.push_back(std::make_shared<Part>(name, shape));
        }
        const QString path = m_folder.filePath("sheets.step");
        return exchange::writeFile(model, path.toStdString(), {}, quietly()) ? path : QString();
    }
    void pressButton() {
        QTRY_VERIFY_WITH_TIMEOUT(reduce().button()->isEnabled(), 20000);
        QTest::mouseClick(reduce().button(), Qt::LeftButton);
        settle();
    }
    double areaOfAll() {
        double area = 0.0;
        for (const auto& part : session().model().parts) area += areaOf(part->shape);
        return area;
    }

private slots:
    void init() { openWindow(); }
    void cleanup() { closeWindow(); }

    void whatIsNotFlushIsListedAndPutRight() {
        // Two plates of 4 that stand on each other's edge, and a third one 10 further on that nothing is near.
        openAndSettle(saved({{"floor", moved(block(48, 30, 4), by(0, 0, -2))},
                             {"wall", moved(block(4, 30, 28), by(48, 0, 2))},
                             {"far", moved(block(60, 30, 3), by(0, 100, 0))}}));
        ReduceBench& bench = reduce();
        QTRY_VERIFY_WITH_TIMEOUT(bench.walls()->topLevelItemCount() > 0, 20000);
        bench.doubtful()->setChecked(true);
        bench.cutBar()->number()->setText("5");
        QTest::keyClick(bench.cutBar()->number(), Qt::Key_Return);
        pressButton();
        for (const auto& part : session().model().parts)
            QCOMPARE(static_cast<int>(part->kind()), static_cast<int>(BodyKind::Sheet));
        const double before = areaOfAll();
        bench.showKind(ReduceKind::Joints);
        FlushPage& page = *bench.flushPage();
        QTRY_COMPARE_WITH_TIMEOUT(page.list()->topLevelItemCount(), 1, 20000);
        QTreeWidgetItem* row = page.list()->topLevelItem(0);
        QVERIFY2(row->text(1).startsWith("edges end before each other"), qPrintable(row->text(1)));
        QCOMPARE_NEAR(row->text(0).toDouble(), 2.0 * std::sqrt(2.0), 0.01);
        QCOMPARE(row->checkState(0), Qt::Checked);
        QCOMPARE(bench.button()->text(), QString("Make 1 place flush"));
        QCOMPARE(bench.preview().lines.size(), std::size_t(2));  // both edges
        // Its mark taken away, nothing is put right; put back, it is.
        row->setCheckState(0, Qt::Unchecked);
        QTRY_COMPARE(bench.button()->text(), QString("Join sheets"));
        page.list()->topLevelItem(0)->setCheckState(0, Qt::Checked);
        QTRY_COMPARE(bench.button()->text(), QString("Make 1 place flush"));
        pressButton();
        QCOMPARE_NEAR(areaOfAll(), before + 2.0 * 30.0 + 2.0 * 30.0, 1e-6);
        QVERIFY(!session().model().joints.empty());
        QTRY_COMPARE_WITH_TIMEOUT(page.list()->topLevelItemCount(), 0, 20000);
        QTRY_COMPARE(bench.answer(), QString("All sheets are flush."));
        QCOMPARE(session().work().ledger().steps.back().operation, std::string("reduce.makeFlush"));
    }
    void marksAgainstTheBladeNameTheirPlaces() {
        openAndSettle(saved({{"plate", moved(block(80, 30, 2), by(0, 0, 0))},
                             {"one", moved(block(2, 30, 20), by(20, 0, 2))},
                             {"two", moved(block(2, 30, 20), by(50, 0, 2.03))}}));
        ReduceBench& bench = reduce();
        QTRY_VERIFY_WITH_TIMEOUT(bench.walls()->topLevelItemCount() == 3, 20000);
        pressButton();
        bench.showKind(ReduceKind::Joints);
        QTRY_COMPARE_WITH_TIMEOUT(bench.flushPage()->list()->topLevelItemCount(), 2, 20000);
        QCOMPARE(bench.button()->text(), QString("Carry on 2 edges and join"));
        QVERIFY(bench.step()->parameters.contains("upTo"));
        bench.flushPage()->list()->topLevelItem(0)->setCheckState(0, Qt::Unchecked);
        QTRY_COMPARE(bench.button()->text(), QString("Carry on 1 edge and join"));
        QCOMPARE(bench.step()->parameters.at("only").size(), std::size_t(1));
        // With none marked nothing is carried on.
        bench.flushPage()->list()->topLevelItem(1)->setCheckState(0, Qt::Unchecked);
        QTRY_COMPARE(bench.button()->text(), QString("Join sheets"));
        QVERIFY(bench.step()->parameters.at("upTo").get<double>() < 0.01);
        bench.flushPage()->list()->topLevelItem(1)->setCheckState(0, Qt::Checked);
        QTRY_COMPARE(bench.button()->text(), QString("Carry on 1 edge and join"));
        const double before = areaOfAll();
        pressButton();
        QCOMPARE_NEAR(areaOfAll(), before + 1.03 * 30.0, 1e-6);
        QTRY_COMPARE_WITH_TIMEOUT(bench.flushPage()->list()->topLevelItemCount(), 1, 20000);
    }
    void sheetsAreDrawnTogetherAndTurnedOver() {
        openAndSettle(saved({{"left", sheetAt(gp_Pnt(0, 0, 0), gp_Vec(40, 0, 0), gp_Vec(0, 30, 0))},
                             {"right", sheetAt(gp_Pnt(30, 0, 1.5), gp_Vec(20, 0, 0), gp_Vec(0, 30, 0))}}));
        ReduceBench& bench = reduce();
        bench.showKind(ReduceKind::ByHand);
        ByHandPage& page = *bench.byHand();
        page.what()->setCurrentIndex(4);
        QVERIFY(!bench.button()->isEnabled());
        m_window->selection().set({Pick{0}, Pick{1}});
        page.length()->setText("2");
        settle();
        QCOMPARE(bench.button()->text(), QString("Draw 2 sheets onto each other"));
        pressButton();
        QCOMPARE_NEAR(areaOfAll(), 1200.0 + 300.0, 1e-6);
        QVERIFY(!session().model().joints.empty());
        // Arrows show which way they look; one that is picked turns over.
        page.what()->setCurrentIndex(5);
        Pick face{0};
        face.face = 1;
        m_window->selection().set({face});
        settle();
        QVERIFY(bench.preview().lines.size() >= 6);  // two lines for each of three faces
        QCOMPARE(bench.button()->text(), QString("Turn over what is picked"));
        const auto before = session().model().parts[0]->incidence().face(1).Orientation();
        pressButton();
        QVERIFY(session().model().parts[0]->incidence().face(1).Orientation() != before);
    }
    void edgesAreCarriedOnToWhatIsPicked() {
        openAndSettle(saved({{"sheet", sheetAt(gp_Pnt(0, 0, 0), gp_Vec(40, 0, 0), gp_Vec(0, 30, 0))},
                             {"block", moved(block(20, 30, 20), by(60, 0, -5))}}));
        ReduceBench& bench = reduce();
        bench.showKind(ReduceKind::ByHand);
        const auto numberAt = [&](std::size_t part, const gp_Pnt& point, EntityKind kind) {
            const Incidence& topology = session().model().parts[part]->incidence();
            const int count = kind == EntityKind::Edge ? topology.edgeCount() : topology.vertexCount();
            for (int n = 1; n <= count; ++n)
                if (makeRef(*session().model().parts[part], {kind, n}).at.Distance(point) < 1e-6) return n;
            return 0;
        };
        Pick edge{0}, corner{1}, upper{1};
        edge.edge = numberAt(0, gp_Pnt(40, 15, 0), EntityKind::Edge);
        corner.vertex = numberAt(1, gp_Pnt(60, 0, -5), EntityKind::Vertex);
        upper.edge = numberAt(1, gp_Pnt(80, 15, 15), EntityKind::Edge);
        QVERIFY(edge.edge > 0 && corner.vertex > 0 && upper.edge > 0);
        m_window->selection().set({edge, corner});
        settle();
        QCOMPARE(bench.button()->text(), QString("Carry 1 edge on to what is picked"));
        pressButton();
        QCOMPARE_NEAR(areaOf(session().model().parts[0]->shape), 60.0 * 30.0, 1e-6);
        edge.edge = numberAt(0, gp_Pnt(60, 15, 0), EntityKind::Edge);
        m_window->selection().set({edge, upper});
        settle();
        pressButton();
        QCOMPARE_NEAR(areaOf(session().model().parts[0]->shape), 80.0 * 30.0, 1e-6);
    }
    void stepsAreBridgedWhenItIsChosen() {
        openAndSettle(saved({{"plate", fuse(block(90, 60, 2), moved(block(40, 60, 1), by(50, 0, 2)))}}));
        ReduceBench& bench = reduce();
        QTRY_VERIFY_WITH_TIMEOUT(bench.walls()->topLevelItemCount() == 2, 20000);
        QTRY_VERIFY(bench.step().has_value());
        QVERIFY(!bench.step()->parameters.contains("steps"));
        bench.steps()->setCurrentIndex(1);
        QCOMPARE(bench.step()->parameters.at("steps"), Json("bridge"));
        pressButton();
        QCOMPARE_NEAR(areaOfAll(), 60.0 * (90.0 + 0.5), 1e-6);
    }
    void aFrameOfOneSolidIsOneRowWithItsMembers() {
        TopoDS_Shape frame = cut(block(400, 300, 20), moved(block(360, 260, 20), by(20, 20, 0)));
        openAndSettle(saved({{"frame", frame}}));
        ReduceBench& bench = reduce();
        bench.showKind(ReduceKind::Beams);
        QTRY_COMPARE_WITH_TIMEOUT(bench.beams()->topLevelItemCount(), 1, 20000);
        QTreeWidgetItem* row = bench.beams()->topLevelItem(0);
        QCOMPARE(row->text(0), QString("frame: 4 members"));
        QCOMPARE(row->childCount(), 4);
        QVERIFY2(row->child(0)->text(0).startsWith("Member 1, rectangle"), qPrintable(row->child(0)->text(0)));
        QCOMPARE(bench.button()->text(), QString("Make beams of 1 part"));
        row->setCheckState(0, Qt::Unchecked);
        QTRY_VERIFY(!bench.button()->isEnabled());
        row->setCheckState(0, Qt::Checked);
        pressButton();
        QCOMPARE(session().model().parts.size(), std::size_t(4));
        double length = 0.0;
        for (const auto& part : session().model().parts) {
            QCOMPARE(static_cast<int>(part->kind()), static_cast<int>(BodyKind::Wire));
            for (int e = 1; e <= part->incidence().edgeCount(); ++e) length += lengthOf(part->incidence().edge(e));
        }
        QCOMPARE_NEAR(length, 2.0 * (380.0 + 280.0), 1e-6);
    }
};
static Registered<ReduceWindowTest> reduceWindowTest;

}  // namespace rasoir::test

#include "reduce_window_test.moc"
