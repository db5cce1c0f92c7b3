// The Change panel in the window: what is picked decides what it offers, the stage shows what would come of it, one
// press does it.
#include <BRepFilletAPI_MakeFillet.hxx>
#include <TopExp.hxx>
#include <TopoDS.hxx>

#include "change_panel.h"
#include "geometry/edge_probe.h"
#include "geometry/integrals.h"
#include "window/window_fixture.h"

namespace rasoir::test {

class ChangeWindowTest : public WindowFixture {
    Q_OBJECT

    ChangePanel& panel() { return *m_window->change(); }
    double volume() { return rasoir::volumeOf(session().model().parts[0]->shape); }
    int faceWhere(SurfaceKind kind, const gp_Pnt& at) {
        const Part& part = *session().model().parts[0];
        int best = 0;
        double nearest = 1e300;
        for (int f = 1; f <= part.incidence().faceCount(); ++f)
            if (surfaceKind(part.incidence().face(f)) == kind)
                if (const double distance = makeFaceRef(part, f).centre.Distance(at); distance < nearest) {
                    nearest = distance;
                    best = f;
                }
        return best;
    }
    int edgeAt(const gp_Pnt& at) {
        const Incidence& topology = session().model().parts[0]->incidence();
        for (int e = 1; e <= topology.edgeCount(); ++e)
            if (const auto read = measure::readingOf(session().model(), {0, 0, e});
                read.centre && read.centre->Distance(at) < 1e-6)
                return e;
        return 0;
    }
    void type(const QString& text) {
        panel().amount()->setFocus();
        panel().amount()->selectAll();
        QTest::keyClicks(panel().amount(), text);
    }

private slots:
    void init() { openWindow(); }
    void cleanup() { closeWindow(); }

    void whatHasToGoTooIsOneLinkAway() {
        // An upright round of 6, the rim round of 2 made after it rests on it.
        const auto rounded = [](const TopoDS_Shape& body, double radius, auto rule) {
            BRepFilletAPI_MakeFillet made(body);
            TopTools_IndexedMapOfShape edges;
            TopExp::MapShapes(body, TopAbs_EDGE, edges);
            for (int e = 1; e <= edges.Extent(); ++e) {
                const EdgeProbe probe(TopoDS::Edge(edges(e)));
                if (rule(probe.value(0.5 * (probe.first() + probe.last())))) made.Add(radius, TopoDS::Edge(edges(e)));
            }
            return made.Shape();
        };
        const TopoDS_Shape upright =
            rounded(block(60, 40, 30), 6, [](const gp_Pnt& p) { return p.X() < 1e-9 && p.Y() < 1e-9; });
        const TopoDS_Shape both = rounded(upright, 2, [](const gp_Pnt& p) { return std::abs(p.Z() - 30) < 1e-9; });
        const QString path = m_folder.filePath("rounded.step");
        QVERIFY(exchange::writeFile(modelOf(both, "block"), path.toStdString(), {}, quietly()));
        openAndSettle(path);
        const int upper = faceWhere(SurfaceKind::Cylinder, gp_Pnt(1.8, 1.8, 15));
        m_window->selection().set({{0, upper}});
        QTest::keyClick(m_window->stage(), Qt::Key_Delete);
        settle();
        QVERIFY2(shave().message().contains("R 2 mm round"), qPrintable(shave().message()));
        QVERIFY(shave().message().contains("href='along'"));
        QCOMPARE(session().work().ledger().steps.size(), std::size_t(0));  // nothing changed yet
        QLabel* message = m_window->findChild<QLabel*>("benchMessage");
        QVERIFY(message != nullptr);
        emit shave().findChild<QLabel*>("benchMessage")->linkActivated("along");
        settle();
        QCOMPARE(session().work().ledger().steps.size(), std::size_t(1));
        QCOMPARE_NEAR(volume(), 72000.0, 1e-3);
        // Of a wound that closes in one way only another is asked for in vain: it stays as it is, and that is said.
        QVERIFY(shave().message().contains("href='closing'"));
        emit shave().findChild<QLabel*>("benchMessage")->linkActivated("closing");
        settle();
        QCOMPARE_NEAR(volume(), 72000.0, 1e-3);
        QCOMPARE(session().work().ledger().steps.size(), std::size_t(1));
        QVERIFY(session().work().ledger().steps[0].state == StepState::Done);
    }
    void aWoundThatClosesInTwoWaysIsClosedTheOther() {
        const NeckedPin pin = neckedPin(false, 0.0);
        const QString path = m_folder.filePath("pin.step");
        QVERIFY(exchange::writeFile(modelOf(pin.made, "pin"), path.toStdString(), {}, quietly()));
        openAndSettle(path);
        m_window->selection().set({{0, faceWhere(SurfaceKind::Cone, gp_Pnt(0, 9.6, 4.5))}});
        QTest::keyClick(m_window->stage(), Qt::Key_Delete);
        settle();
        QCOMPARE_NEAR(volume(), volumeOf(pin.domed), 1e-2);
        QVERIFY2(shave().message().contains("href='closing'"), qPrintable(shave().message()));
        emit shave().findChild<QLabel*>("benchMessage")->linkActivated("closing");
        settle();
        QCOMPARE_NEAR(volume(), volumeOf(pin.knob), 1e-2);
        QVERIFY2(shave().message().contains("another way than the nearest"), qPrintable(shave().message()));
        QCOMPARE(session().work().ledger().steps.size(), std::size_t(1));
        QVERIFY(session().work().ledger().steps[0].state == StepState::Done);
        QVERIFY(session().work().ledger().steps[0].summary.find("another way") != std::string::npos);
        // There is no third; from there the first is one link away.
        emit shave().findChild<QLabel*>("benchMessage")->linkActivated("closing");
        settle();
        QCOMPARE_NEAR(volume(), volumeOf(pin.knob), 1e-2);
        QVERIFY2(shave().message().contains("no further way"), qPrintable(shave().message()));
        QVERIFY(shave().message().contains("href='nearest'"));
        emit shave().findChild<QLabel*>("benchMessage")->linkActivated("nearest");
        settle();
        QCOMPARE_NEAR(volume(), volumeOf(pin.domed), 1e-2);
        session().undo();
        settle();
        QCOMPARE_NEAR(volume(), volumeOf(pin.knob), 1e-2);
    }
    void whatIsPickedDecidesWhatIsOffered() {
        openPlate();
        QTest::keyClick(m_window->stage(), Qt::Key_C);
        QVERIFY(panel().isVisible());
        QVERIFY(!panel().button()->isEnabled());
        QVERIFY(panel().message().contains("Pick"));
        m_window->selection().set({{0, faceWhere(SurfaceKind::Plane, gp_Pnt(50, 30, 8))}});
        QCOMPARE(panel().way()->currentIndex(), int(ChangePanel::MoveBy));
        m_window->selection().set({{0, faceWhere(SurfaceKind::Cylinder, gp_Pnt(0, 0, 4))}});
        QCOMPARE(panel().way()->currentIndex(), int(ChangePanel::Diameter));
        QCOMPARE(panel().amount()->text(), QString("5"));
        m_window->selection().set({{0, 0, edgeAt(gp_Pnt(50, 0, 8))}});
        QCOMPARE(panel().way()->currentIndex(), int(ChangePanel::Round));
        // Chosen by hand it stays, until the picks cannot serve it.
        m_window->selection().set({{0, faceWhere(SurfaceKind::Plane, gp_Pnt(50, 30, 8))}});
        panel().way()->setCurrentIndex(ChangePanel::MoveOnto);
        emit panel().way()->activated(ChangePanel::MoveOnto);
        m_window->selection().set({{0, faceWhere(SurfaceKind::Plane, gp_Pnt(50, 30, 0))}});
        QCOMPARE(panel().way()->currentIndex(), int(ChangePanel::MoveOnto));
        QVERIFY(panel().message().contains("last"));
        m_window->selection().set({{0, 0, edgeAt(gp_Pnt(50, 0, 8))}});
        QCOMPARE(panel().way()->currentIndex(), int(ChangePanel::Round));
    }
    void aFaceIsMovedAndComesBack() {
        openPlate();
        const double before = volume();
        m_window->selection().set({{0, faceWhere(SurfaceKind::Plane, gp_Pnt(50, 30, 8))}});
        QTest::keyClick(m_window->stage(), Qt::Key_C);
        type("-2");
        QTRY_VERIFY_WITH_TIMEOUT(m_window->stage()->showsResult(), 60000);  // shown before anything changes
        QCOMPARE(volume(), before);
        QTest::keyClick(panel().amount(), Qt::Key_Return);
        settle();
        QTRY_COMPARE(session().work().ledger().steps.size(), std::size_t(1));
        // Three of the six holes are blind, from the top: they lose as much of their depth.
        QCOMPARE_NEAR(volume(), before - 2.0 * (6000 - 6 * M_PI * 6.25), 1e-6 * before);
        session().undo();
        settle();
        QCOMPARE_NEAR(volume(), before, 1e-12 * before);
    }
    void whatCannotBeIsToldBeforeItIsAsked() {
        openPlate();
        m_window->selection().set({{0, faceWhere(SurfaceKind::Plane, gp_Pnt(50, 30, 8))}});
        QTest::keyClick(m_window->stage(), Qt::Key_C);
        type("-30");
        QTRY_VERIFY_WITH_TIMEOUT(panel().message().contains("cannot"), 60000);
        QVERIFY(!panel().button()->isEnabled());
        QVERIFY(!m_window->stage()->showsResult());
        type("nonsense");
        QVERIFY(!panel().button()->isEnabled());
        QVERIFY(panel().message().contains("nonsense"));
        type("1");
        QTRY_VERIFY_WITH_TIMEOUT(m_window->stage()->showsResult(), 60000);
        QVERIFY(panel().button()->isEnabled());
        panel().close();
        QVERIFY(!m_window->stage()->showsResult());
        QVERIFY(session().work().ledger().steps.empty());
    }
    void holesEdgesAndRounds() {
        openPlate();
        const double before = volume();
        m_window->selection().set({{0, 0, edgeAt(gp_Pnt(50, 0, 8))}});
        QTest::keyClick(m_window->stage(), Qt::Key_C);
        type("3");
        QTRY_VERIFY_WITH_TIMEOUT(m_window->stage()->showsResult(), 60000);
        QTest::mouseClick(panel().button(), Qt::LeftButton);
        settle();
        const auto rounded = [](double radius) { return 100 * radius * radius * (1 - M_PI / 4); };
        QTRY_VERIFY(std::abs(volume() - (before - rounded(3))) < 1e-6 * before);
        // Once the round is known to be one, picking it offers its radius.
        const int round = faceWhere(SurfaceKind::Cylinder, gp_Pnt(50, 0.9, 7.1));
        QTRY_VERIFY_WITH_TIMEOUT((m_window->selection().set({}), m_window->selection().set({{0, round}}),
                                  panel().way()->currentIndex() == int(ChangePanel::Radius)),
                                 60000);
        QCOMPARE(panel().amount()->text(), QString("3"));
        type("1.5");
        QTRY_VERIFY_WITH_TIMEOUT(m_window->stage()->showsResult(), 60000);
        QTest::mouseClick(panel().button(), Qt::LeftButton);
        settle();
        QTRY_VERIFY(std::abs(volume() - (before - rounded(1.5))) < 1e-6 * before);
    }
};

static Registered<ChangeWindowTest> changeWindowTest;

}  // namespace rasoir::test

#include "change_window_test.moc"
