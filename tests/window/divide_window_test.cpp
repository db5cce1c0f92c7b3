// The Divide bench in the window: polylines drawn by clicks, moulds whose sides are dragged, points, findings.
#include "bench/divide_bench.h"
#include "geometry/integrals.h"
#include "whole_surveys.h"
#include "window/window_fixture.h"

namespace rasoir::test {

class DivideWindowTest : public WindowFixture {
    Q_OBJECT

    DivideBench& open(const TopoDS_Shape& shape, DivideKind kind) {
        const QString path = m_folder.filePath("body.step");
        if (const auto written = exchange::writeFile(modelOf(shape, "body"), path.toStdString(), {}, quietly());
            !written)
            qWarning("%s", said(written));
        m_window->openFile(path);
        settle();
        auto* bench = m_window->bench<DivideBench>();
        m_window->showBench(bench);
        bench->showKind(kind);
        return *bench;
    }
    const Part& body() { return *session().model().parts[0]; }
    int faceAt(const gp_Pnt& point) {
        int best = 1;
        for (int f = 2; f <= body().incidence().faceCount(); ++f)
            if (skinOf(body().incidence().face(f)).centre.Distance(point) <
                skinOf(body().incidence().face(best)).centre.Distance(point))
                best = f;
        return best;
    }
    int edgeAt(const gp_Pnt& point) {
        int best = 1;
        double nearest = 1e300;
        for (int e = 1; e <= body().incidence().edgeCount(); ++e)
            if (const double off = makeRef(body(), {EntityKind::Edge, e}).at.Distance(point); off < nearest) {
                nearest = off;
                best = e;
            }
        return best;
    }
    void choose(const char* name, int index) {
        auto* box = m_window->bench<DivideBench>()->page()->findChild<QComboBox*>(name);
        QVERIFY2(box != nullptr, name);
        box->setCurrentIndex(index);
        emit box->activated(index);
    }
    void type(const char* name, const QString& what) {
        auto* edit = m_window->bench<DivideBench>()->page()->findChild<QLineEdit*>(name);
        QVERIFY2(edit != nullptr, name);
        edit->setText(what);
        emit edit->editingFinished();
    }
    double volumeOfAll() {
        double sum = 0.0;
        for (const auto& part : session().model().parts) sum += rasoir::volumeOf(part->shape);
        return sum;
    }

private slots:
    void init() { openWindow(); }
    void cleanup() { closeWindow(); }

    void aPolylineIsDrawnByClicks() {
        DivideBench& divide = open(block(100, 60, 8), DivideKind::PartFace);
        m_window->stage()->look(SquareView::Top);
        QTest::qWait(100);  // for the first picture, without which nothing can be picked
        Stage* stage = m_window->stage();
        const int top = faceAt(gp_Pnt(50, 30, 8));
        // Measured from the edge at y = 0, along which x runs.
        Pick edge{0};
        edge.edge = edgeAt(gp_Pnt(50, 0, 8));
        m_window->selection().set({Pick{0, top}, edge});
        choose("outlineWay", 4);
        OutlinePage& page = *divide.outlinePage();
        QCOMPARE(divide.button()->text(), QString("Click points on the face"));
        // The first at a corner, within a few pixels: it snaps. The others go to round numbers.
        for (const gp_Pnt& point : {gp_Pnt(0.4, 59.7, 8), gp_Pnt(40.2, 20.3, 8), gp_Pnt(99.7, 0.4, 8)})
            QTest::mouseClick(stage, Qt::LeftButton, {}, stage->toPixels(point).toPoint());
        QCOMPARE(page.points()->topLevelItemCount(), 3);
        QCOMPARE(page.points()->topLevelItem(1)->text(1), QString("20"));
        QVERIFY(divide.button()->isEnabled());
        // The middle one is taken out and the step is a straight line; put back by typing over another.
        page.points()->setCurrentItem(page.points()->topLevelItem(1));
        QTest::keyClick(page.points(), Qt::Key_Delete);
        QCOMPARE(page.points()->topLevelItemCount(), 2);
        QTRY_VERIFY(divide.button()->isEnabled());
        QTest::mouseClick(divide.button(), Qt::LeftButton);
        settle();
        std::vector<double> areas;
        for (int f = 1; f <= body().incidence().faceCount(); ++f)
            if (const Skin skin = skinOf(body().incidence().face(f)); std::abs(skin.centre.Z() - 8) < 1e-9)
                areas.push_back(skin.area);
        QCOMPARE(areas.size(), std::size_t(2));
        for (const double area : areas) QCOMPARE_NEAR(area, 3000.0, 1e-6);
        QCOMPARE(page.points()->topLevelItemCount(), 0);  // what was drawn is done with
    }
    void aPolylineIsCutOutDownToAFace() {
        const TopoDS_Shape stepped = cut(block(60, 40, 20), moved(block(20, 40, 20), [] {
                                             gp_Trsf move;
                                             move.SetTranslation(gp_Vec(40, 0, 8));
                                             return move;
                                         }()));
        DivideBench& divide = open(stepped, DivideKind::PartFace);
        m_window->stage()->look(SquareView::Top);
        QTest::qWait(100);  // for the first picture, without which nothing can be picked
        Stage* stage = m_window->stage();
        m_window->selection().set({Pick{0, faceAt(gp_Pnt(20, 20, 20))}});
        choose("outlineWay", 4);
        for (const gp_Pnt& point : {gp_Pnt(10, 10, 20), gp_Pnt(30, 10, 20), gp_Pnt(30, 30, 20), gp_Pnt(10, 30, 20)})
            QTest::mouseClick(stage, Qt::LeftButton, {}, stage->toPixels(point).toPoint());
        auto* closed = divide.page()->findChild<QCheckBox*>("polylineClosed");
        closed->setChecked(true);
        choose("outlineDoes", 1);
        choose("outlineDeep", 2);
        QCOMPARE(divide.button()->text(), QString("Pick the face it goes down to"));
        m_window->selection().set({Pick{0, faceAt(gp_Pnt(50, 20, 8))}});
        QTRY_COMPARE(divide.button()->text(), QString("Cut it out of the body"));
        const double before = volumeOfAll();
        QTRY_VERIFY(divide.button()->isEnabled());
        QTest::mouseClick(divide.button(), Qt::LeftButton);
        settle();
        QCOMPARE_NEAR(volumeOfAll(), before - 20 * 20 * 12,
                      30.0);  // clicked to the pixel, rounded to half a millimetre
    }
    void aMouldIsDraggedToSize() {
        DivideBench& divide = open(rod(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 10, 40), DivideKind::Surround);
        QCOMPARE(divide.preview().handles.size(), std::size_t(6));
        QCOMPARE(divide.preview().lines.size(), std::size_t(12));
        // A ring on the stage is dragged: how far that is depends on the view, so only that it follows is asked.
        Stage* stage = m_window->stage();
        stage->look(SquareView::Front);
        QTest::qWait(100);
        const auto handles = divide.preview().handles;
        const auto side = std::find_if(handles.begin(), handles.end(), [](const auto& one) { return one.id == 1; });
        const QPointF at = stage->toPixels(side->at);
        drag(stage, at.toPoint(), (at + stage->screenDirection(side->along) * 25.0).toPoint());
        QVERIFY2(divide.surroundPage()->clearance()->text().startsWith("10 ") &&
                     !divide.surroundPage()->clearance()->text().startsWith("10 10 "),
                 qPrintable(divide.surroundPage()->clearance()->text()));
        type("clearance", "5");
        divide.handleMoved(5, 7.0);  // its lid
        QCOMPARE(divide.surroundPage()->clearance()->text(), QString("5 5 5 5 5 12"));
        choose("partingBy", 3);
        QCOMPARE(divide.preview().handles.size(), std::size_t(7));
        QCOMPARE(divide.button()->text(), QString("Two halves round everything"));
        divide.handleMoved(6, -5.0);  // from the middle, at 20, to 15
        QTRY_VERIFY(divide.button()->isEnabled());
        const auto step = divide.step();
        QVERIFY(step.has_value());
        QCOMPARE(step->parameters["parting"]["through"][2].get<double>(), 15.0);
        QTest::mouseClick(divide.button(), Qt::LeftButton);
        settle();
        QCOMPARE(session().model().parts.size(), std::size_t(3));
        std::vector<double> volumes;
        for (const auto& part : session().model().parts) volumes.push_back(rasoir::volumeOf(part->shape));
        QCOMPARE_NEAR(volumes[1], 900.0 * 37 - M_PI * 100 * 25, 1e-4);
        QCOMPARE_NEAR(volumes[2], 900.0 * 20 - M_PI * 100 * 15, 1e-4);
    }
    void pointsAreSetAndThrown() {
        DivideBench& divide = open(block(100, 60, 8), DivideKind::Points);
        QCOMPARE(divide.button()->text(), QString("Pick where points shall be"));
        Pick edge{0};
        edge.edge = edgeAt(gp_Pnt(50, 0, 8));
        m_window->selection().set({edge});
        QCOMPARE(divide.button()->text(), QString("Set 1 point"));
        QCOMPARE(divide.preview().lines.size(), std::size_t(3));
        type("pointAt", "10 20 30; 1 2");
        QVERIFY(!divide.button()->isEnabled());
        type("pointAt", "10 20 30; 40 20 -5");
        m_window->selection().set({Pick{0, faceAt(gp_Pnt(50, 30, 8))}});
        divide.page()->findChild<QCheckBox*>("pointThrown")->setChecked(true);
        type("pointGroup", "loads");
        QTRY_VERIFY(divide.button()->isEnabled());
        QTest::mouseClick(divide.button(), Qt::LeftButton);
        settle();
        QCOMPARE(session().model().parts.size(), std::size_t(3));
        QCOMPARE(session().model().groups.size(), std::size_t(1));
        for (const std::size_t p : {1, 2})
            QCOMPARE_NEAR(makeRef(*session().model().parts[p], {EntityKind::Vertex, 1}).at.Z(), 8.0, 1e-9);
    }
    void anEdgeIsPartedAtAPickedVertex() {
        DivideBench& divide = open(fuse(block(100, 60, 8), moved(block(10, 10, 20),
                                                                 [] {
                                                                     gp_Trsf move;
                                                                     move.SetTranslation(gp_Vec(30, 20, 8));
                                                                     return move;
                                                                 }())),
                                   DivideKind::PartEdge);
        choose("edgeHow", 4);
        Pick edge{0}, vertex{0};
        edge.edge = edgeAt(gp_Pnt(50, 0, 8));
        for (int v = 1; v <= body().incidence().vertexCount(); ++v)
            if (makeRef(body(), {EntityKind::Vertex, v}).at.Distance(gp_Pnt(40, 20, 28)) < 1e-6) vertex.vertex = v;
        m_window->selection().set({edge});
        QCOMPARE(divide.button()->text(), QString("Pick vertices as well"));
        m_window->selection().set({edge, vertex});
        QTRY_VERIFY(divide.button()->isEnabled());
        const int before = body().incidence().edgeCount();
        QTest::mouseClick(divide.button(), Qt::LeftButton);
        settle();
        QCOMPARE(body().incidence().edgeCount(), before + 1);
    }
    void findingsLeadToWhatHelps() {
        const TopoDS_Shape blind = cut(block(40, 40, 20), rod(gp_Ax1(gp_Pnt(20, 20, 8), gp_Dir(0, 0, 1)), 5, 20));
        DivideBench& divide = open(blind, DivideKind::Findings);
        DivideFindingsPage& page = *divide.findings();
        QTRY_VERIFY_WITH_TIMEOUT(page.count().has_value() && session().surveys().symmetries.found().has_value(), 20000);
        settle();
        QCOMPARE(*page.count(), 1);
        QTreeWidgetItem *layers = nullptr, *symmetry = nullptr;
        for (int r = 0; r < page.list()->topLevelItemCount(); ++r) {
            if (page.list()->topLevelItem(r)->text(0).startsWith("body:")) layers = page.list()->topLevelItem(r);
            if (page.list()->topLevelItem(r)->text(0).startsWith("Mirror")) symmetry = page.list()->topLevelItem(r);
        }
        QVERIFY(layers != nullptr && symmetry != nullptr);
        page.list()->setCurrentItem(layers);
        // What is in the way is picked, and stays chosen though picking selects the part.
        QCOMPARE(m_window->selection().picks().size(), std::size_t(1));
        QCOMPARE(page.list()->currentItem()->text(0).left(5), QString("body:"));
        QCOMPARE(divide.button()->text(), QString("Cut it by 1 plane"));
        QVERIFY(!divide.preview().lines.empty());
        QTRY_VERIFY(divide.button()->isEnabled());
        QTest::mouseClick(divide.button(), Qt::LeftButton);
        settle();
        QCOMPARE(session().model().parts.size(), std::size_t(2));
        QCOMPARE_NEAR(volumeOfAll(), rasoir::volumeOf(blind), 1e-6);
        QTRY_VERIFY_WITH_TIMEOUT(page.count().has_value(), 20000);
        QCOMPARE(*page.count(), 0);
        QTRY_VERIFY_WITH_TIMEOUT(session().surveys().symmetries.found().has_value(), 20000);
        settle();
        for (int r = 0; r < page.list()->topLevelItemCount(); ++r)
            if (page.list()->topLevelItem(r)->text(0).startsWith("Mirror"))
                page.list()->setCurrentItem(page.list()->topLevelItem(r));
        QCOMPARE(divide.button()->text(), QString("See it under Symmetry"));
        QTRY_VERIFY(divide.button()->isEnabled());
        QTest::mouseClick(divide.button(), Qt::LeftButton);
        QCOMPARE(static_cast<PickPage*>(divide.symmetryPage()), divide.page());
    }
    void twoMirrorPlanesKeepAQuarter() {
        const TopoDS_Shape bored = cut(block(40, 30, 20), rod(gp_Ax1(gp_Pnt(20, 15, 8), gp_Dir(0, 0, 1)), 5, 20));
        DivideBench& divide = open(bored, DivideKind::Symmetry);
        SymmetryPage& page = *divide.symmetryPage();
        QTRY_VERIFY_WITH_TIMEOUT(page.found() >= 3, 20000);
        settle();
        std::vector<QTreeWidgetItem*> planes, turns;
        for (int r = 0; r < page.found(); ++r) {
            QTreeWidgetItem* row = page.list()->topLevelItem(r);
            (row->text(0).startsWith("Mirror") ? planes : turns).push_back(row);
        }
        QCOMPARE(planes.size(), std::size_t(2));
        page.list()->setCurrentItem(planes[0]);
        QCOMPARE(divide.button()->text(), QString("Keep one half"));
        page.findChild<QCheckBox*>("otherSide")->click();
        QVERIFY(page.findChild<QCheckBox*>("otherSide")->isChecked());
        // A turn has two planes of its own.
        turns.front()->setSelected(true);
        QCOMPARE(divide.button()->text(), QString("Mirror planes alone go together"));
        turns.front()->setSelected(false);
        // The side is each plane's own.
        page.list()->setCurrentItem(planes[1], 0, QItemSelectionModel::Select);
        QVERIFY(!page.findChild<QCheckBox*>("otherSide")->isChecked());
        QCOMPARE(divide.button()->text(), QString("Keep one quarter"));
        QTRY_VERIFY(divide.button()->isEnabled());
        QTest::mouseClick(divide.button(), Qt::LeftButton);
        settle();
        QCOMPARE_NEAR(volumeOfAll(), 0.25 * rasoir::volumeOf(bored), 1e-6);
    }
    void aRoundFaceCutsCarriedOnInTheWindow() {
        DivideBench& divide =
            open(fuse(block(60, 60, 10), rod(gp_Ax1(gp_Pnt(30, 30, 10), gp_Dir(0, 0, 1)), 8, 15)), DivideKind::Cut);
        int round = 0;
        for (int f = 1; f <= body().incidence().faceCount(); ++f)
            if (makeFaceRef(body(), f).surface == "cylinder") round = f;
        m_window->selection().set({Pick{0, round}});
        auto* itself = divide.page()->findChild<QPushButton*>("cutterCarriedOn");
        QTest::mouseClick(itself, Qt::LeftButton);
        QCOMPARE(divide.cutPage()->cutters().size(), std::size_t(1));
        QVERIFY(!divide.cutPage()->cutters()[0].isPlane());
        QTRY_VERIFY(divide.button()->isEnabled());
        QTest::mouseClick(divide.button(), Qt::LeftButton);
        settle();
        QCOMPARE(session().model().parts.size(), std::size_t(2));
        std::vector<double> volumes;
        for (const auto& part : session().model().parts) volumes.push_back(rasoir::volumeOf(part->shape));
        std::sort(volumes.begin(), volumes.end());
        QCOMPARE_NEAR(volumes[0], M_PI * 64 * 25, 1e-4);
        QCOMPARE_NEAR(volumes[1], 36000 - M_PI * 64 * 10, 1e-4);
    }
};

static Registered<DivideWindowTest> divideWindowTest;

}  // namespace rasoir::test

#include "divide_window_test.moc"
