// Divide, Join, Reduce and Hand over in the window: from a file to pieces, common faces, sheets, a group and an export.
#include <BRepPrimAPI_MakeBox.hxx>

#include "bench/boundary_words.h"
#include "bench/divide_bench.h"
#include "bench/handover_bench.h"
#include "bench/join_bench.h"
#include "bench/reduce_bench.h"
#include "geometry/integrals.h"
#include "whole_surveys.h"
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
    void aFaceIsPartedByALineThatIsTypedAndDragged() {
        openPlate();
        DivideBench& divide = show<DivideBench>();
        divide.showKind(DivideKind::PartFace);
        QCOMPARE(divide.button()->text(), QString("Pick a face"));
        QVERIFY(!divide.button()->isEnabled());
        // The largest flat face of the plate, and none of its edges: then its longest is measured from.
        const Part& plate = *session().model().parts[0];
        int face = 1;
        for (int f = 2; f <= plate.incidence().faceCount(); ++f)
            if (areaOf(plate.incidence().face(f)) > areaOf(plate.incidence().face(face))) face = f;
        m_window->selection().set({select::Pick{0, face}});
        QCOMPARE(divide.button()->text(), QString("Part the face"));
        OutlinePage& page = *divide.outlinePage();
        page.distance()->setFocus();
        page.distance()->selectAll();
        QTest::keyClicks(page.distance(), "1.5");
        QTest::keyClick(page.distance(), Qt::Key_Return);
        const auto preview = divide.preview();
        QCOMPARE(preview.handles.size(), std::size_t(1));
        QCOMPARE(preview.handles[0].text, QString("1.5"));
        QVERIFY(!preview.lines.empty());
        Stage* stage = m_window->stage();
        const QPointF at = stage->toPixels(preview.handles[0].at);
        drag(stage, at.toPoint(), (at + stage->screenDirection(preview.handles[0].along) * 30.0).toPoint());
        QVERIFY2(page.distance()->text() != "1.5", qPrintable(page.distance()->text()));
        page.distance()->setText("1.5");
        emit page.distance()->editingFinished();
        const int before = plate.incidence().faceCount();
        const double whole = areaOf(plate.incidence().face(face));
        QTest::mouseClick(divide.button(), Qt::LeftButton);
        settle();
        QCOMPARE(session().model().parts[0]->incidence().faceCount(), before + 1);
        double sum = 0.0;
        for (int f = 1; f <= before + 1; ++f) sum += areaOf(session().model().parts[0]->incidence().face(f));
        double was = 0.0;
        for (int f = 1; f <= before; ++f) was += areaOf(plate.incidence().face(f));
        QCOMPARE_NEAR(sum, was, 1e-6 * was);
        QVERIFY(whole > 0.0);
    }
    void aSymmetryIsFoundAndOneHalfKept() {
        const QString path = stacked();
        QVERIFY(!path.isEmpty());
        m_window->openFile(path);
        settle();
        DivideBench& divide = show<DivideBench>();
        divide.showKind(DivideKind::Symmetry);
        QTRY_VERIFY_WITH_TIMEOUT(divide.symmetryPage()->found() > 0, 20000);
        settle();
        // A block in the corner of another is the same across one diagonal.
        QCOMPARE(divide.button()->text(), QString("Keep one half"));
        QTest::mouseClick(divide.button(), Qt::LeftButton);
        settle();
        double volume = 0.0;
        for (const Occurrence& place : session().model().occurrences)
            if (!place.aside) volume += rasoir::volumeOf(session().model().parts[place.part]->shape);
        QCOMPARE_NEAR(volume, 0.5 * (16000.0 + 4000.0), 1e-3);
        QVERIFY(!session().model().groups.empty());
    }
    void aCrossSectionIsMadeInTheWindow() {
        const QString path = stacked();
        m_window->openFile(path);
        settle();
        DivideBench& divide = show<DivideBench>();
        divide.showKind(DivideKind::Section);
        auto* through = divide.findChild<QComboBox*>("sectionThrough");
        through->setCurrentIndex(1);
        emit through->activated(1);
        auto* number = divide.findChild<QLineEdit*>("sectionNumber");
        number->setText("5");
        emit number->editingFinished();
        QTest::mouseClick(divide.button(), Qt::LeftButton);
        settle();
        double area = 0.0;
        for (const Occurrence& place : session().model().occurrences)
            if (!place.aside) area += areaOf(session().model().parts[place.part]->shape);
        QCOMPARE_NEAR(area, 400.0 + 200.0, 1e-6);
        QVERIFY(!session().model().joints.empty());
    }
    void aPlateIsCutByAPlaneThatIsTypedAndDragged() {
        openPlate();
        DivideBench& divide = show<DivideBench>();
        QVERIFY(!divide.button()->isEnabled());
        QTest::mouseClick(divide.findChild<QPushButton*>("acrossX"), Qt::LeftButton);
        QCOMPARE(divide.cutPage()->list()->topLevelItemCount(), 1);
        QCOMPARE(divide.cutPage()->position()->text(), QString("50 mm"));
        divide.cutPage()->position()->setFocus();
        divide.cutPage()->position()->selectAll();
        QTest::keyClicks(divide.cutPage()->position(), "30");
        QTest::keyClick(divide.cutPage()->position(), Qt::Key_Return);
        QCOMPARE(divide.cutPage()->position()->text(), QString("30 mm"));
        // The ring handle on the stage moves it along its normal, and its number follows.
        const auto preview = divide.preview();
        QCOMPARE(preview.handles.size(), std::size_t(1));
        Stage* stage = m_window->stage();
        const QPointF at = stage->toPixels(preview.handles[0].at);
        const QPointF along = stage->screenDirection(preview.handles[0].along) * 40.0;
        drag(stage, at.toPoint(), (at + along).toPoint());
        QVERIFY2(divide.cutPage()->position()->text() != "30 mm", qPrintable(divide.cutPage()->position()->text()));
        divide.cutPage()->position()->setFocus();
        divide.cutPage()->position()->selectAll();
        QTest::keyClicks(divide.cutPage()->position(), "40");
        QTest::keyClick(divide.cutPage()->position(), Qt::Key_Return);
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
        divide.cutPage()->addAcross(0);
        divide.resultSwitch()->setChecked(true);
        QTRY_VERIFY_WITH_TIMEOUT(m_window->stage()->showsResult(), 20000);
        divide.resultSwitch()->setChecked(false);
        // Delete takes the cutter out, not the part.
        divide.cutPage()->list()->setFocus();
        QTest::keyClick(divide.cutPage()->list(), Qt::Key_Delete);
        QCOMPARE(divide.cutPage()->list()->topLevelItemCount(), 0);
        QVERIFY(!session().model().occurrences[0].aside);
    }
    void aCutterIsTurnedAndPiecesAreDropped() {
        openPlate();
        DivideBench& divide = show<DivideBench>();
        CutPage& page = *divide.cutPage();
        page.addAcross(0);
        page.angle()->setFocus();
        page.angle()->selectAll();
        QTest::keyClicks(page.angle(), "30");
        QTest::keyClick(page.angle(), Qt::Key_Return);
        const auto step = divide.step();
        QVERIFY(step);
        const auto normal = step->parameters["planes"][0]["normal"].get<std::array<double, 3>>();
        QCOMPARE_NEAR(normal[0], std::cos(M_PI / 6), 1e-12);
        // The pieces that would be are listed with their volumes; what was dropped stays in the list.
        QTRY_COMPARE_WITH_TIMEOUT(page.pieces()->topLevelItemCount(), 2, 20000);
        const QString first = page.pieces()->topLevelItem(0)->text(0);
        page.pieces()->setCurrentItem(page.pieces()->topLevelItem(0));
        QVERIFY(page.lines().size() > 4);  // the piece's edges light up beside the frame of the plane
        page.pieces()->setFocus();
        QTest::keyClick(page.pieces(), Qt::Key_Delete);
        QTRY_COMPARE_WITH_TIMEOUT(
            page.pieces()->topLevelItemCount() == 2 && page.pieces()->topLevelItem(1)->text(1) == "dropped", true,
            20000);
        QTest::mouseClick(divide.button(), Qt::LeftButton);
        settle();
        QCOMPARE(session().model().parts.size(), std::size_t(1));
        QVERIFY(QString::fromStdString(session().model().parts[0]->name) != first);
        QVERIFY(session().work().ledger().steps[0].effect.dump().find("hinnest piece") != std::string::npos);
        session().undo();
        settle();
        QCOMPARE(session().model().parts.size(), std::size_t(1));
    }
    void cuttersComeFromAxesEdgesAndBodies() {
        openAndSettle(stacked());
        DivideBench& divide = show<DivideBench>();
        CutPage& page = *divide.cutPage();
        m_window->selection().set({Pick{1}});
        page.addFromPicks();
        QCOMPARE(page.cutters().size(), std::size_t(1));
        QVERIFY(!page.cutters()[0].body.empty());
        QVERIFY(!page.position()->isEnabled());
        const auto step = divide.step();
        QVERIFY(step && step->parameters.contains("bodies") && !step->parameters.contains("planes"));
        // A straight edge gives a plane through it, to be turned about it.
        Pick edge{0};
        edge.edge = 1;
        m_window->selection().set({edge});
        page.addFromPicks();
        QCOMPARE(page.cutters().size(), std::size_t(2));
        const BRepAdaptor_Curve line(session().model().parts[0]->incidence().edge(1));
        const gp_Trsf& place = session().model().occurrences[0].placement;
        for (const double at : {line.FirstParameter(), line.LastParameter()})
            QCOMPARE_NEAR(page.cutters()[1].now().Distance(line.Value(at).Transformed(place)), 0.0, 1e-9);
        page.angle()->setText("77");
        emit page.angle()->editingFinished();
        for (const double at : {line.FirstParameter(), line.LastParameter()})
            QCOMPARE_NEAR(page.cutters()[1].now().Distance(line.Value(at).Transformed(place)), 0.0, 1e-9);
        page.forgetCutters();
        m_window->selection().set({});
        page.addFromPicks();
        QVERIFY(page.cutters().empty());
        QVERIFY2(divide.message().contains("gives no cutter"), qPrintable(divide.message()));
    }
    void aCutBesideAnEdgeOffersToSnap() {
        openPlate();
        DivideBench& divide = show<DivideBench>();
        CutPage& page = *divide.cutPage();
        page.addAcross(0);
        QVERIFY(!page.snapButton()->isVisible());
        const double near = 0.1 * session().model().targetSize;
        page.position()->setText(QString::number(near));
        emit page.position()->editingFinished();
        QVERIFY(page.snapButton()->isVisible());
        QTest::mouseClick(page.snapButton(), Qt::LeftButton);
        QCOMPARE_NEAR(page.cutters()[0].number(), 0.0, 1e-9);
        QVERIFY(!page.snapButton()->isVisible());
    }
    void bodiesAreUnitedInTheOrderTheyWerePicked() {
        openAndSettle(stacked());
        DivideBench& divide = show<DivideBench>();
        divide.showKind(DivideKind::Unite);
        QVERIFY(!divide.button()->isEnabled());
        m_window->selection().set({Pick{1}, Pick{0}});
        QCOMPARE(divide.page()->findChild<QTreeWidget*>("bodies")->topLevelItem(0)->text(0), QString("top"));
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
        session().places().select({0});
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
    void stiffenersArePutOnTheirPlate() {
        // A plate as a sheet, a bar along it and a column on it as beams.
        Model model = withBodies({moved(block(200, 120, 2), by(0, 0, -2)), moved(block(150, 4, 10), by(20, 58, 0)),
                                  moved(block(6, 6, 100), by(40, 20, 0))});
        model.targetSize = 5.0;
        const Work work = Work(model, "plate.step")
                              .withStep("reduce.midsurface", {{"parts", {"body 1"}}})
                              .withStep("reduce.beams", {{"parts", {"body 2", "body 3"}}, {"nodesWithin", -1.0}});
        measure::FactsCache facts;
        const auto replayed = work.replayed(facts, quietly());
        QVERIFY2(replayed, said(replayed));
        const QString path = m_folder.filePath("stiffened.rasoir");
        QVERIFY(exchange::saveWork(*replayed, Json::object(), path.toStdString(), quietly()));
        openAndSettle(path);
        ReduceBench& reduce = show<ReduceBench>();
        reduce.showKind(ReduceKind::Stiffeners);
        QTRY_COMPARE_WITH_TIMEOUT(reduce.stiffeners()->list()->topLevelItemCount(), 2, 20000);
        settle();
        QCOMPARE(reduce.button()->text(), QString("Put 2 beams on sheets"));
        QVERIFY(!reduce.preview().lines.empty());  // the bar is lit,
        QVERIFY(!reduce.preview().marks.empty());  // and where the column ends
        QTest::mouseClick(reduce.button(), Qt::LeftButton);
        settle();
        QCOMPARE(session().model().pairings.size(), std::size_t(1));
        QVERIFY(std::any_of(session().model().joints.begin(), session().model().joints.end(),
                            [](const Joint& joint) { return joint.kind == EntityKind::Edge; }));
    }
    void bodiesOfOnePartAreJoinedOnceMarked() {
        // A pair of cubes as one part, on a plate, and a rod that only lies along another body.
        Model model;
        const auto put = [&](const char* name, const TopoDS_Shape& shape) {
            model.occurrences.push_back({model.parts.size(), gp_Trsf(), name, {}, std::nullopt});
            model.parts.push_back(std::make_shared<Part>(name, shape));
        };
        put("pair", compoundOf({block(10, 10, 10), moved(block(10, 10, 10), by(10, 0, 0))}));
        put("plate", moved(block(60, 20, 5), by(-20, -5, -5)));
        put("rod", rod(gp_Ax1(gp_Pnt(-15, -4, 3), gp::DY()), 3.0, 15.0));
        const QString path = m_folder.filePath("own.rasoir");
        QVERIFY(exchange::saveWork(Work(model, "own.step"), Json::object(), path.toStdString(), quietly()));
        openAndSettle(path);
        JoinBench& join = show<JoinBench>();
        QTRY_COMPARE_WITH_TIMEOUT(join.pairs()->topLevelItemCount(), 3, 20000);
        std::map<QString, QTreeWidgetItem*> rows;
        for (int r = 0; r < 3; ++r) rows[join.pairs()->topLevelItem(r)->text(0)] = join.pairs()->topLevelItem(r);
        QVERIFY(rows.contains("pair, among its bodies") && rows.contains("pair – plate") &&
                rows.contains("plate – rod"));
        // What touches along a line alone is told, and not promised; nor are bodies that nobody asked for.
        QVERIFY2(rows["plate – rod"]->text(1).startsWith("line, 15"), qPrintable(rows["plate – rod"]->text(1)));
        QCOMPARE(rows["pair, among its bodies"]->checkState(0), Qt::Unchecked);
        QCOMPARE(join.button()->text(), QString("Join 1 pair"));
        rows["pair, among its bodies"]->setCheckState(0, Qt::Checked);
        settle();
        QTRY_COMPARE(join.button()->text(), QString("Join 2 pairs"));
        QTest::mouseClick(join.button(), Qt::LeftButton);
        settle();
        QCOMPARE(session().model().occurrences.size(), std::size_t(4));
        const auto faces = std::count_if(session().model().joints.begin(), session().model().joints.end(),
                                         [](const Joint& joint) { return joint.kind == EntityKind::Face; });
        QCOMPARE(faces, std::ptrdiff_t(3));
    }
    void rowsFoldByMaterials() {
        // Three bodies in a stack and one beside, of two materials: three pairs of parts that touch in faces and one
        // that meets at an edge, two of materials.
        Model model;
        const auto put = [&](const char* name, double x, double z, const char* material) {
            gp_Trsf at;
            at.SetTranslation(gp_Vec(x, 0, z));
            model.occurrences.push_back({model.parts.size(), gp_Trsf(), name, {}, std::nullopt});
            auto part = std::make_shared<Part>(name, moved(block(20, 20, 10), at));
            part->material = material;
            model.parts.push_back(std::move(part));
        };
        put("a", 0, 0, "");
        put("b", 0, 10, "soft");
        put("c", 0, 20, "");
        put("d", 20, 0, "");
        model.materials.push_back({"soft", 1000.0});
        const QString path = m_folder.filePath("materials.rasoir");
        QVERIFY(exchange::saveWork(Work(model, "stack.step"), Json::object(), path.toStdString(), quietly()));
        openAndSettle(path);
        JoinBench& join = show<JoinBench>();
        QTRY_COMPARE_WITH_TIMEOUT(join.pairs()->topLevelItemCount(), 4, 20000);
        QVERIFY(!join.byMaterials()->isChecked());
        join.byMaterials()->setChecked(true);
        settle();
        QCOMPARE(join.pairs()->topLevelItemCount(), 2);
        QStringList rows;
        for (int r = 0; r < 2; ++r) rows += join.pairs()->topLevelItem(r)->text(0);
        rows.sort();
        QCOMPARE(rows, (QStringList{"no material – no material", "no material – soft ×3"}));
        // One decision for a fold: what is soft stays apart, the rest is joined.
        for (int r = 0; r < 2; ++r)
            if (join.pairs()->topLevelItem(r)->text(0).contains("soft"))
                join.pairs()->topLevelItem(r)->setCheckState(0, Qt::Unchecked);
        settle();
        QTRY_VERIFY(join.button()->isEnabled());
        QTest::mouseClick(join.button(), Qt::LeftButton);
        settle();
        std::set<std::pair<std::size_t, std::size_t>> common;
        for (const Joint& joint : session().model().joints)
            if (joint.kind == EntityKind::Face) common.insert({joint.uses[0].place, joint.uses[1].place});
        QCOMPARE(common.size(), std::size_t(1));
    }
    void pairsAreKeptAsContact() {
        openAndSettle(stacked());
        JoinBench& join = show<JoinBench>();
        QTRY_COMPARE_WITH_TIMEOUT(join.pairs()->topLevelItemCount(), 1, 20000);
        settle();
        join.becomes()->setCurrentIndex(1);
        emit join.becomes()->activated(1);
        QCOMPARE(join.button()->text(), QString("Keep 1 pair as contact"));
        QTest::mouseClick(join.button(), Qt::LeftButton);
        settle();
        QCOMPARE(session().model().pairings.size(), std::size_t(1));
        QVERIFY(session().model().joints.empty());
        QTRY_COMPARE_WITH_TIMEOUT(join.pairs()->topLevelItemCount(), 0, 20000);  // it is decided
        join.showKind(JoinKind::Joined);
        QCOMPARE(join.pairs()->topLevelItemCount(), 1);
        QCOMPARE(join.pairs()->topLevelItem(0)->text(1), QString("contact"));
    }
    void pairsAreTiedByLinks() {
        openAndSettle(stacked());
        JoinBench& join = show<JoinBench>();
        QTRY_COMPARE_WITH_TIMEOUT(join.pairs()->topLevelItemCount(), 1, 20000);
        settle();
        join.becomes()->setCurrentIndex(2);
        emit join.becomes()->activated(2);
        QCOMPARE(join.button()->text(), QString("Tie 1 pair by links"));
        QTest::mouseClick(join.button(), Qt::LeftButton);
        settle();
        QCOMPARE(session().model().pairings.size(), std::size_t(1));
        QCOMPARE(static_cast<int>(session().model().pairings[0].kind), static_cast<int>(PairingKind::Link));
        QVERIFY(session().model().joints.empty());
        join.showKind(JoinKind::Joined);
        QCOMPARE(join.pairs()->topLevelItem(0)->text(1), QString("link"));
    }
    void whatHoldsTogetherIsTintedAndPulledApart() {
        openAndSettle(stacked());
        JoinBench& join = show<JoinBench>();
        join.showKind(JoinKind::Joined);
        settle();
        QVERIFY(!join.pull()->isVisible());  // nothing is joined yet
        join.showKind(JoinKind::Touching);
        QTRY_VERIFY_WITH_TIMEOUT(join.button()->isEnabled(), 20000);
        QTest::mouseClick(join.button(), Qt::LeftButton);
        settle();
        join.showKind(JoinKind::Joined);
        QTRY_VERIFY(join.pull()->isVisible());
        const BenchPreview together = join.preview();
        QCOMPARE(together.sets.size(), session().model().occurrences.size());
        QCOMPARE(together.sets[0], 0);
        QVERIFY(together.apart.empty());
        QVERIFY(!together.lines.empty());
        join.pull()->setValue(50);
        const BenchPreview apart = join.preview();
        QCOMPARE(apart.apart.size(), session().model().occurrences.size());
        for (std::size_t o = 1; o < apart.sets.size(); ++o)
            if (apart.sets[o] == apart.sets[0]) QVERIFY(apart.apart[o].IsEqual(apart.apart[0], 1e-9, 1e-9));
        QVERIFY(apart.lines.empty());
        join.showKind(JoinKind::Touching);
        QVERIFY(join.preview().sets.empty());
    }
    void aFlowSpaceIsMadeOfOpenings() {
        // A bore right through, and a second one into it from above.
        const TopoDS_Shape block = test::block(40, 20, 20);
        const TopoDS_Shape tee = cut(cut(block, rod(gp_Ax1(gp_Pnt(-1, 10, 10), gp_Dir(1, 0, 0)), 3, 42)),
                                     rod(gp_Ax1(gp_Pnt(20, 10, 10), gp_Dir(0, 0, 1)), 2, 11));
        const QString path = m_folder.filePath("manifold.step");
        QVERIFY(exchange::writeFile(modelOf(tee, "manifold"), path.toStdString(), {}, quietly()));
        openAndSettle(path);
        JoinBench& join = show<JoinBench>();
        join.showKind(JoinKind::Flow);
        QTRY_COMPARE_WITH_TIMEOUT(join.flow()->list()->topLevelItemCount(), 3, 20000);  // not that between the bores
        settle();
        QVERIFY(!join.preview().marks.empty());
        QCOMPARE(join.button()->text(), QString("Make the flow space"));
        // Without its lid above, it leaks there, and says so.
        for (int i = 0; i < 3; ++i)
            if (join.flow()->list()->topLevelItem(i)->toolTip(0).contains("(20, 10, 20)"))
                join.flow()->list()->topLevelItem(i)->setCheckState(0, Qt::Unchecked);
        QVERIFY(!join.flow()->every()->isChecked());
        QTest::mouseClick(join.button(), Qt::LeftButton);
        settle();
        QCOMPARE(session().model().parts.size(), std::size_t(1));
        QVERIFY2(join.message().contains("gets outside") || m_window->reading().contains("gets outside"),
                 qPrintable(join.message() + " / " + m_window->reading()));
        QTest::mouseClick(join.flow()->every(), Qt::LeftButton);
        QVERIFY(join.flow()->every()->isChecked());
        QTest::mouseClick(join.button(), Qt::LeftButton);
        settle();
        QCOMPARE(session().model().parts.size(), std::size_t(2));
        QCOMPARE_NEAR(volumeOf(session().model().parts[1]->shape), 16000.0 - volumeOf(tee), 1e-3);
        QCOMPARE(session().model().groups.size(), std::size_t(4));  // three lids, and the wall
    }
    void aLidIsMadeOfPickedEdges() {
        // An open box with a bore beside its hollow: the rim of the hollow has a notch, so that it is no loop of a
        // face.
        gp_Trsf in, notch;
        in.SetTranslation(gp_Vec(2, 2, 2));
        notch.SetTranslation(gp_Vec(-1, 12, 15));
        const TopoDS_Shape box =
            cut(cut(cut(block(40, 30, 20), moved(block(36, 26, 20), in)), moved(block(5, 6, 10), notch)),
                rod(gp_Ax1(gp_Pnt(-1, 15, 10), gp_Dir(1, 0, 0)), 2, 5));
        const QString path = m_folder.filePath("notched.step");
        QVERIFY(exchange::writeFile(modelOf(box, "box"), path.toStdString(), {}, quietly()));
        openAndSettle(path);
        JoinBench& join = show<JoinBench>();
        join.showKind(JoinKind::Flow);
        FlowPage& page = *join.flow();
        QTRY_VERIFY_WITH_TIMEOUT(page.list()->topLevelItemCount() > 0, 20000);
        settle();
        const int found = page.list()->topLevelItemCount();
        // The inner edges of the notch: up, along, and the open end of the hollow is closed by two lids.
        const Incidence& topology = session().model().parts[0]->incidence();
        const auto edgesWith = [&topology](const std::function<bool(const gp_Pnt&)>& wanted) {
            std::vector<Pick> picks;
            for (int e = 1; e <= topology.edgeCount(); ++e) {
                const BRepAdaptor_Curve curve(topology.edge(e));
                if (wanted(curve.Value(0.5 * (curve.FirstParameter() + curve.LastParameter()))))
                    picks.push_back({0, 0, e});
            }
            return picks;
        };
        const std::vector<Pick> mouth =
            edgesWith([](const gp_Pnt& at) { return std::abs(at.X()) < 1e-6 && at.Distance(gp_Pnt(0, 15, 10)) < 3.0; });
        QCOMPARE(mouth.size(), std::size_t(1));
        const std::vector<Pick> open = edgesWith([](const gp_Pnt& at) { return at.Z() > 19.9 && at.X() > 30.0; });
        QVERIFY(!open.empty());
        m_window->selection().set(open);
        QTRY_VERIFY(page.lidByHand()->isVisible());
        page.lidByHand()->click();
        QTRY_VERIFY2(join.answer().contains("close"), qPrintable(join.answer()));
        QCOMPARE(page.list()->topLevelItemCount(), found);
        m_window->selection().set(mouth);
        QTRY_COMPARE(page.lidByHand()->text(), QString("Lid on 1 picked edge"));
        page.lidByHand()->click();
        QTRY_COMPARE(page.list()->topLevelItemCount(), found + 1);
        QVERIFY(page.list()->topLevelItem(found)->text(0).endsWith("by hand"));
        QCOMPARE(page.list()->topLevelItem(found)->text(1), QString("4"));
        QCOMPARE(page.list()->topLevelItem(found)->checkState(0), Qt::Checked);
        const auto wanted = page.step();
        QVERIFY(wanted && wanted->parameters.contains("lids"));
        QCOMPARE(wanted->parameters["lids"].size(), static_cast<std::size_t>(found + 1));
        page.list()->topLevelItem(found)->setCheckState(0, Qt::Unchecked);
        QCOMPARE(page.step()->parameters["lids"].size(), static_cast<std::size_t>(found));
        page.spaces()->setCurrentIndex(1);
        QTRY_COMPARE(join.button()->text(), QString("Make all flow spaces"));
        QVERIFY(page.step()->parameters["every"].get<bool>());
        QVERIFY(!page.step()->parameters.contains("cavities"));
        page.spaces()->setCurrentIndex(2);
        QCOMPARE(page.step()->parameters["cavities"].get<std::string>(), std::string("void"));
    }
    void leaksAreListedAndClosed() {
        // A box with a lid that lies 0.4 above it, and a mouth in the lid.
        gp_Trsf in, up;
        in.SetTranslation(gp_Vec(2, 2, 2));
        up.SetTranslation(gp_Vec(0, 0, 20.4));
        Model model = modelOf(cut(block(40, 30, 20), moved(block(36, 26, 20), in)), "box");
        model.occurrences.push_back({1, gp_Trsf(), "lid", {}, std::nullopt});
        model.parts.push_back(std::make_shared<Part>(
            "lid", cut(moved(block(40, 30, 2), up), rod(gp_Ax1(gp_Pnt(20, 15, 20), gp_Dir(0, 0, 1)), 3, 4))));
        model.targetSize = 5.0;
        const QString path = m_folder.filePath("leaking.step");
        QVERIFY(exchange::writeFile(model, path.toStdString(), {}, quietly()));
        openAndSettle(path);
        session().setTargetSize(5.0);
        settle();
        JoinBench& join = show<JoinBench>();
        join.showKind(JoinKind::Flow);
        FlowPage& page = *join.flow();
        QTRY_VERIFY_WITH_TIMEOUT(page.list()->topLevelItemCount() > 0, 20000);
        settle();
        // The box alone is a pocket whose mouth would get a lid of its own: that one is left out.
        for (int i = 0; i < page.list()->topLevelItemCount(); ++i)
            if (page.list()->topLevelItem(i)->text(0).contains("box"))
                page.list()->topLevelItem(i)->setCheckState(0, Qt::Unchecked);
        // The floor is what the fluid wets.
        const Incidence& topology = session().model().parts[0]->incidence();
        int floor = 0;
        for (int f = 1; f <= topology.faceCount(); ++f)
            if (skinOf(topology.face(f)).centre.Distance(gp_Pnt(20, 15, 2)) < 1e-6) floor = f;
        QVERIFY(floor > 0);
        m_window->selection().set({Pick{0, floor}});
        QTRY_VERIFY_WITH_TIMEOUT(session().surveys().leaks.found().has_value(), 30000);
        settle();
        QVERIFY(session().surveys().leaks.found()->has_value());
        QCOMPARE((*session().surveys().leaks.found())->leaks.size(), std::size_t(1));
        QCOMPARE(page.leaks()->topLevelItemCount(), 1);
        QVERIFY(page.leaks()->isVisible());
        QCOMPARE(page.leaks()->topLevelItem(0)->text(1), QString("0.4"));
        QVERIFY2(page.leaks()->topLevelItem(0)->text(0).contains("between"),
                 qPrintable(page.leaks()->topLevelItem(0)->text(0)));
        QVERIFY(!join.preview().lines.empty());  // the way outside
        // What is reached is lit in bands; the blade at the near end leaves the floor alone.
        const auto lit = [&join] {
            std::size_t faces = 0;
            for (const auto& band : join.preview().bands)
                for (const PreviewFaces& own : band) faces += own.faces.size();
            return faces;
        };
        QVERIFY(session().surveys().reach.found() && session().surveys().reach.found()->has_value() &&
                (*session().surveys().reach.found())->outside);
        QVERIFY(page.reachBar()->isVisible());
        QCOMPARE(lit(), (*session().surveys().reach.found())->faces.size());
        QVERIFY(lit() >= 6);  // floor, four walls, the lid's underside
        CutPlot* plot = page.reachBar()->plot();
        const double nearest = std::max((*session().surveys().reach.found())->faces.front().way, 0.5);
        drag(plot, QPoint(static_cast<int>(plot->xOf(page.reachBar()->limit())), 40),
             QPoint(static_cast<int>(plot->xOf(nearest)), 40));
        QVERIFY2(lit() < 4, qPrintable(QString::number(lit())));
        // A face that looks outside is no place for a fluid within; that is said, not looked for for ever.
        int outer = 0;
        for (int f = 1; f <= topology.faceCount(); ++f)
            if (skinOf(topology.face(f)).centre.Distance(gp_Pnt(0, 15, 10)) < 1e-6) outer = f;
        QVERIFY(outer > 0);
        m_window->selection().set({Pick{0, outer}});
        QTRY_VERIFY_WITH_TIMEOUT(
            session().surveys().leaks.found().has_value() && !session().surveys().leaks.found()->has_value(), 30000);
        QVERIFY(!page.leaks()->isVisible());
        m_window->selection().set({Pick{0, floor}});
        QTRY_VERIFY_WITH_TIMEOUT(
            session().surveys().leaks.found().has_value() && session().surveys().leaks.found()->has_value(), 30000);
        settle();
        // Closed by itself it is a space.
        page.narrow()->click();
        QTRY_VERIFY(join.button()->isEnabled());
        QTest::mouseClick(join.button(), Qt::LeftButton);
        settle();
        QCOMPARE(session().model().parts.size(), std::size_t(3));
        QCOMPARE_NEAR(rasoir::volumeOf(session().model().parts[2]->shape), 36.0 * 26.0 * 18.4 + M_PI * 9.0 * 2.0, 1e-2);
    }
    void boltsAreListedLikeByLikeAndBecomeBeams() {
        // A plate with two bolts through it, alike, of which each has its head above and its thread in the block below.
        Model model;
        const auto add = [&model](const char* name, const TopoDS_Shape& shape, double x) {
            const auto known = std::find_if(model.parts.begin(), model.parts.end(),
                                            [&](const auto& part) { return part->name == name; });
            Occurrence place;
            place.part = static_cast<std::size_t>(known - model.parts.begin());
            place.name = name;
            place.placement.SetTranslation(gp_Vec(x, 0, 0));
            if (known == model.parts.end()) model.parts.push_back(std::make_shared<Part>(name, shape));
            model.occurrences.push_back(place);
        };
        const auto up = [](double x, double z) { return gp_Ax1(gp_Pnt(x, 10, z), gp_Dir(0, 0, 1)); };
        const auto drilled = [&](double z, double radius) {
            gp_Trsf move;
            move.SetTranslation(gp_Vec(0, 0, z));
            return cut(cut(moved(block(60, 20, 10), move), rod(up(15, z - 1), radius, 12)),
                       rod(up(45, z - 1), radius, 12));
        };
        add("plate", drilled(10, 4.5), 0);
        add("block", drilled(0, 4.0), 0);
        const TopoDS_Shape bolt = fuse(rod(up(15, 20), 6.5, 5), rod(up(15, 2), 4, 18));
        add("bolt", bolt, 0);
        add("bolt", bolt, 30);
        const QString path = m_folder.filePath("bolted.step");
        QVERIFY(exchange::writeFile(model, path.toStdString(), {}, quietly()));
        openAndSettle(path);
        JoinBench& join = show<JoinBench>();
        join.showKind(JoinKind::Bolts);
        QTRY_VERIFY_WITH_TIMEOUT(session().surveys().bolts.found().has_value() && join.button()->isEnabled(), 20000);
        QCOMPARE(join.bolts()->list()->topLevelItemCount(), 1);
        // As bodies with rings, and back: the step says so, and so does the button.
        join.bolts()->as()->setCurrentIndex(1);
        emit join.bolts()->as()->activated(1);
        join.bolts()->rings()->setChecked(true);
        QCOMPARE(join.button()->text(), QString("Cut 2 bolts"));
        QCOMPARE(join.step()->parameters["as"].get<std::string>(), std::string("body"));
        QVERIFY(join.step()->parameters["rings"].get<bool>());
        join.bolts()->as()->setCurrentIndex(0);
        emit join.bolts()->as()->activated(0);
        join.bolts()->rings()->setChecked(false);
        QVERIFY(join.bolts()->list()->topLevelItem(0)->text(0).startsWith("2 × Ø 8: "));
        QCOMPARE(join.button()->text(), QString("Make beams of 2 bolts"));
        QVERIFY(!join.preview().lines.empty());
        QTest::mouseClick(join.button(), Qt::LeftButton);
        QTRY_VERIFY_WITH_TIMEOUT(!session().isBusy() && session().model().pairings.size() == 4, 20000);
        QCOMPARE(session().model().groups.size(), std::size_t(8));
    }
    void spotWeldsAreSetFromATableAndFromPicks() {
        openAndSettle(stacked());
        JoinBench& join = show<JoinBench>();
        join.showKind(JoinKind::Spots);
        QCOMPARE(join.button()->text(), QString("No point yet"));
        join.spots()->table()->setPlainText("10 10 10\n10 10");
        QCOMPARE(join.button()->text(), QString("Three numbers in each line"));
        join.spots()->table()->setPlainText("10 10 10\n\n35, 35, 10");
        QCOMPARE(join.button()->text(), QString("Set 2 spot welds"));
        QCOMPARE(join.preview().lines.size(), std::size_t(6));
        // A vertex of the upper block, where both meet, is the third.
        Pick vertex{1};
        const Part& top = *session().model().parts[1];
        for (int v = 1; v <= top.incidence().vertexCount(); ++v)
            if (makeRef(top, {EntityKind::Vertex, v}).at.Distance(gp_Pnt(20, 20, 10)) < 1e-6) vertex.vertex = v;
        m_window->selection().set({vertex});
        QTest::mouseClick(join.findChild<QPushButton*>("spotsFromPicks"), Qt::LeftButton);
        QCOMPARE(join.button()->text(), QString("Set 3 spot welds"));
        QTRY_VERIFY(join.button()->isEnabled());
        QTest::mouseClick(join.button(), Qt::LeftButton);
        settle();
        // The one at 35, 35 is beside the upper block by more than it may be.
        QCOMPARE(session().model().pairings.size(), std::size_t(2));
    }
    void theSpaceRoundBodiesIsMade() {
        openAndSettle(stacked());
        JoinBench& join = show<JoinBench>();
        join.showKind(JoinKind::Flow);
        join.flow()->outer()->setChecked(true);
        join.flow()->clearance()->setValue(10.0);
        QTRY_VERIFY_WITH_TIMEOUT(!session().isBusy() && join.button()->isEnabled(), 20000);
        QCOMPARE(join.button()->text(), QString("Make the space round them"));
        QTest::mouseClick(join.button(), Qt::LeftButton);
        QTRY_VERIFY_WITH_TIMEOUT(!session().isBusy() && session().model().parts.size() == 3, 20000);
        QCOMPARE_NEAR(rasoir::volumeOf(session().model().parts[2]->shape), 60.0 * 60 * 40 - 1600.0 * 10 - 400.0 * 10,
                      1e-3);
        QCOMPARE(session().model().groups.size(), std::size_t(8));  // six sides, two walls
    }
    void rowsThatAreUnmarkedStayAsTheyAre() {
        openAndSettle(stacked());
        JoinBench& join = show<JoinBench>();
        QTRY_VERIFY_WITH_TIMEOUT(join.pairs()->topLevelItemCount() == 1, 20000);
        QTRY_COMPARE(join.button()->text(), QString("Join 1 pair"));
        join.pairs()->topLevelItem(0)->setCheckState(0, Qt::Unchecked);
        QTRY_COMPARE(join.button()->text(), QString("Nothing to join"));
        QVERIFY(!join.button()->isEnabled());
        join.pairs()->topLevelItem(0)->setCheckState(0, Qt::Checked);
        QTRY_VERIFY(join.button()->isEnabled());
    }
    void wallsWithLongNamesGoOnBelow() {
        Model model;
        for (const char* name : {"plate", "a plate with a name that is longer than its row has room for"}) {
            Occurrence place;
            place.part = model.parts.size();
            place.name = name;
            model.parts.push_back(std::make_shared<Part>(name, block(200, 100, 3)));
            model.occurrences.push_back(place);
        }
        const QString path = m_folder.filePath("named.step");
        QVERIFY(exchange::writeFile(model, path.toStdString(), {}, quietly()));
        openAndSettle(path);
        ReduceBench& reduce = show<ReduceBench>();
        QTRY_COMPARE_WITH_TIMEOUT(reduce.walls()->topLevelItemCount(), 2, 20000);
        settle();
        QCoreApplication::processEvents();
        int heights[2]{};
        for (int row = 0; row < 2; ++row) {
            const QTreeWidgetItem* item = reduce.walls()->topLevelItem(row);
            heights[item->text(1).contains("longer")] = reduce.walls()->visualItemRect(item).height();
        }
        const int line = QFontMetrics(reduce.walls()->font()).lineSpacing();
        QVERIFY2(heights[1] >= heights[0] + line, qPrintable(QString("%1 and %2").arg(heights[0]).arg(heights[1])));
        QVERIFY(heights[0] < 2 * line);
    }
    void aThinPlateBecomesASheet() {
        openPlate();
        ReduceBench& reduce = show<ReduceBench>();
        QTRY_VERIFY_WITH_TIMEOUT(reduce.walls()->topLevelItemCount() > 0, 20000);
        QVERIFY(!reduce.button()->isEnabled());  // 8 mm thick and 60 broad, with holes: doubtful, and not taken unasked
        reduce.doubtful()->setChecked(true);
        settle();
        QVERIFY2(reduce.button()->isEnabled(), qPrintable(reduce.button()->text()));
        reduce.flush()->setText("0.3");
        QCOMPARE(reduce.step()->parameters.at("flushUpTo").get<double>(), 0.3);
        reduce.flush()->setText("much");
        QVERIFY(!reduce.step());
        QCOMPARE(reduce.button()->text(), QString("A number is missing"));
        reduce.flush()->setText("0");
        QVERIFY(!reduce.step()->parameters.contains("flushUpTo"));
        QTest::mouseClick(reduce.button(), Qt::LeftButton);
        settle();
        const Part& sheet = *session().model().parts[0];
        QCOMPARE(static_cast<int>(sheet.kind()), static_cast<int>(BodyKind::Sheet));
        QVERIFY(!sheet.known.thickness.empty());
        QCOMPARE_NEAR(sheet.known.thickness.begin()->second.at, 8.0, 1e-9);
        // Held against the solid: drawn as thick as it is, and nothing is missing.
        reduce.showKind(ReduceKind::Proof);
        QTRY_COMPARE_WITH_TIMEOUT(reduce.proof()->list()->topLevelItemCount(), 1, 20000);
        const QTreeWidgetItem* proof = reduce.proof()->list()->topLevelItem(0);
        QCOMPARE(proof->text(1), QString("99.6 %"));  // the countersinks
        QCOMPARE(proof->childCount(), 9);
        QCOMPARE(proof->child(4)->text(0), QString("nothing drawn reaches beyond the solid"));
        QVERIFY(!reduce.step() && !reduce.button()->isVisible());
        QTRY_VERIFY(m_window->stage()->showsMesh());
        reduce.showKind(ReduceKind::Walls);
        QTRY_VERIFY(!m_window->stage()->showsMesh());
        QVERIFY(reduce.button()->isVisible());
    }
    void wallsAreTakenAndLeftByTheirMarks() {
        openPlate();
        ReduceBench& reduce = show<ReduceBench>();
        QTRY_VERIFY_WITH_TIMEOUT(reduce.walls()->topLevelItemCount() > 0, 20000);
        QTreeWidgetItem* row = reduce.walls()->topLevelItem(0);
        QCOMPARE(row->checkState(0), Qt::Unchecked);  // doubtful
        row->setCheckState(0, Qt::Checked);
        settle();
        QCOMPARE(reduce.button()->text(), QString("Make sheets of 1 wall in 1 part"));
        QVERIFY(reduce.step()->parameters.contains("pairs"));
        reduce.walls()->topLevelItem(0)->setCheckState(0, Qt::Unchecked);
        QVERIFY(!reduce.step());
        reduce.walls()->topLevelItem(0)->setCheckState(0, Qt::Checked);
        QTest::mouseClick(reduce.button(), Qt::LeftButton);
        settle();
        QCOMPARE(static_cast<int>(session().model().parts[0]->kind()), static_cast<int>(BodyKind::Sheet));
        // By hand: an edge of it carried on, then its thickness set.
        reduce.showKind(ReduceKind::ByHand);
        QVERIFY(!reduce.button()->isEnabled());
        const Part& sheet = *session().model().parts[0];
        const double before = areaOf(sheet.shape);
        Pick edge{0}, face{0};
        face.face = 1;
        double longest = 0.0;
        for (int e = 1; e <= sheet.incidence().edgeCount(); ++e)
            if (sheet.incidence().facesAt(e) == 1 && lengthOf(sheet.incidence().edge(e)) > longest) {
                longest = lengthOf(sheet.incidence().edge(e));
                edge.edge = e;
            }
        m_window->selection().set({edge});
        reduce.byHand()->length()->setText("6");
        settle();
        QCOMPARE(reduce.button()->text(), QString("Carry 1 edge on"));
        QVERIFY(reduce.preview().lines.size() > 1);
        QTest::mouseClick(reduce.button(), Qt::LeftButton);
        settle();
        QCOMPARE_NEAR(areaOf(session().model().parts[0]->shape), before + 6.0 * longest, 1e-6);
        reduce.byHand()->what()->setCurrentIndex(2);
        m_window->selection().set({face});
        reduce.byHand()->length()->setText("2.5");
        settle();
        QCOMPARE(reduce.button()->text(), QString("Set thickness of 1 face"));
        QTest::mouseClick(reduce.button(), Qt::LeftButton);
        settle();
        QCOMPARE_NEAR(session().model().parts[0]->known.thickness.begin()->second.at, 2.5, 1e-12);
        // And a sheet of one side of a wall, beside what it was made of.
        reduce.byHand()->what()->setCurrentIndex(3);
        settle();
        QCOMPARE(reduce.button()->text(), QString("Make a sheet of 1 face"));
        const std::size_t parts = session().model().parts.size();
        const double own = session().model().parts[0]->incidence().area(1);
        QTest::mouseClick(reduce.button(), Qt::LeftButton);
        settle();
        QCOMPARE(session().model().parts.size(), parts + 1);
        QCOMPARE_NEAR(areaOf(session().model().parts.back()->shape), own, 1e-6 * own);
        QCOMPARE_NEAR(session().model().parts.back()->known.thickness.begin()->second.at, 2.5, 1e-12);
    }
    void sheetsThatEndShortAreListedCarriedOnAndJoined() {
        Model model;
        gp_Trsf up;
        up.SetTranslation(gp_Vec(40, 30, 4));
        for (const auto& [name, shape] :
             {std::pair{"plate", block(100, 80, 4)}, {"rib", moved(block(2, 40, 30), up)}}) {
            Occurrence place;
            place.part = model.parts.size();
            place.name = name;
            model.occurrences.push_back(place);
            model.parts.push_back(std::make_shared<Part>(name, shape));
        }
        const QString path = m_folder.filePath("welded.step");
        QVERIFY(exchange::writeFile(model, path.toStdString(), {}, quietly()));
        openAndSettle(path);
        ReduceBench& reduce = show<ReduceBench>();
        QTRY_VERIFY_WITH_TIMEOUT(reduce.button()->isEnabled(), 20000);
        reduce.cutBar()->number()->setText("5");
        QTest::keyClick(reduce.cutBar()->number(), Qt::Key_Return);
        QTRY_COMPARE(reduce.button()->text(), QString("Make sheets of 2 walls in 2 parts"));
        QTest::mouseClick(reduce.button(), Qt::LeftButton);
        QTRY_VERIFY_WITH_TIMEOUT(!session().isBusy() && session().model().parts[0]->kind() == BodyKind::Sheet, 20000);
        reduce.showKind(ReduceKind::Joints);
        QTRY_VERIFY_WITH_TIMEOUT(session().surveys().notFlush.found().has_value() && reduce.button()->isEnabled(),
                                 20000);
        QCOMPARE(reduce.flushPage()->list()->topLevelItemCount(), 1);
        QVERIFY(reduce.flushPage()->list()->topLevelItem(0)->text(1).startsWith(
            "ends short of another sheet: rib and plate"));
        QCOMPARE(reduce.button()->text(), QString("Carry on 1 edge and join"));
        QVERIFY(!reduce.preview().lines.empty());
        QTest::mouseClick(reduce.button(), Qt::LeftButton);
        QTRY_VERIFY_WITH_TIMEOUT(!session().isBusy() && !session().model().joints.empty(), 20000);
        QTRY_COMPARE_WITH_TIMEOUT(reduce.flushPage()->list()->topLevelItemCount(), 0, 20000);
    }
    void slenderBodiesBecomeBeams() {
        const QString path = m_folder.filePath("bars.step");
        Model model;
        for (const auto& [name, shape] :
             {std::pair{"long", block(400, 20, 10)}, {"short", moved(block(120, 20, 20), [] {
                                                          gp_Trsf aside;
                                                          aside.SetTranslation(gp_Vec(0, 100, 0));
                                                          return aside;
                                                      }())}}) {
            model.occurrences.push_back({model.parts.size(), gp_Trsf(), name, {}, std::nullopt});
            model.parts.push_back(std::make_shared<Part>(name, shape));
        }
        QVERIFY(exchange::writeFile(model, path.toStdString(), {}, quietly()));
        openAndSettle(path);
        ReduceBench& reduce = show<ReduceBench>();
        reduce.showKind(ReduceKind::Beams);
        QTRY_COMPARE_WITH_TIMEOUT(reduce.beams()->topLevelItemCount(), 2, 20000);
        settle();
        // The short one, six times as long as deep, is listed and not taken unasked.
        QCOMPARE(reduce.button()->text(), QString("Make beams of 1 part"));
        QCOMPARE(reduce.preview().lines.size(), std::size_t(1));
        QTest::mouseClick(reduce.button(), Qt::LeftButton);
        settle();
        QCOMPARE(static_cast<int>(session().model().parts[0]->kind()), static_cast<int>(BodyKind::Wire));
        QCOMPARE(static_cast<int>(session().model().parts[1]->kind()), static_cast<int>(BodyKind::Solid));
        QCOMPARE(session().model().parts[0]->known.sections.size(), std::size_t(1));
    }
    void theNextRevisionIsLookedAtAndTaken() {
        openAndSettle(QString::fromStdString(demoFile("hanger-arm.step")));
        session().apply("shave.removeHoles", {{"upTo", 5.0}});
        settle();
        HandoverBench& handover = show<HandoverBench>();
        handover.showKind(HandoverKind::Revision);
        QCOMPARE(handover.button()->text(), QString("Look at a file…"));
        session().lookAtRevision(QString::fromStdString(demoFile("hanger-arm-revised.step")));
        QTRY_VERIFY_WITH_TIMEOUT(!session().isBusy() && session().revision().has_value(), 60000);
        QString rows;
        for (int r = 0; r < handover.revision()->list()->topLevelItemCount(); ++r)
            rows += handover.revision()->list()->topLevelItem(r)->text(0) + "\n";
        QVERIFY2(rows.contains("cylinder Ø 30 to Ø 34 mm"), qPrintable(rows));
        QVERIFY2(rows.contains("Step 1, Remove"), qPrintable(rows));
        QVERIFY2(handover.answer().contains("1 step fits, none is left"), qPrintable(handover.answer()));
        QCOMPARE(handover.button()->text(), QString("Go on with this file"));
        QTest::mouseClick(handover.button(), Qt::LeftButton);
        settle();
        QVERIFY(session().fileName().endsWith("hanger-arm-revised.step"));
        QCOMPARE(session().work().ledger().steps.size(), std::size_t(1));
        QVERIFY(session().unsaved());
        QVERIFY(!session().revision());
    }
    void bodiesAndBoundariesGetTheirKinds() {
        openAndSettle(stacked());
        JoinBench& join = show<JoinBench>();
        join.showKind(JoinKind::Touching);
        RegionsPage& page = *join.regions();
        QVERIFY(!page.isVisible());
        join.showKind(JoinKind::Regions);
        QVERIFY(page.isVisible() && !join.pairs()->isVisible());
        QCOMPARE(page.list()->topLevelItemCount(), 2);
        QCOMPARE(page.list()->topLevelItem(0)->text(1), QString("solid"));
        QVERIFY(!join.button()->isEnabled());
        page.list()->topLevelItem(1)->setSelected(true);
        page.kind()->setCurrentText("fluid");
        emit page.kind()->activated(page.kind()->currentIndex());
        QTRY_VERIFY_WITH_TIMEOUT(join.button()->isEnabled(), 20000);
        QTest::mouseClick(join.button(), Qt::LeftButton);
        settle();
        QCOMPARE(page.list()->topLevelItem(1)->text(1), QString("fluid"));
        QCOMPARE(session().model().parts[1]->known.regions.at({EntityKind::Body, 1}), RegionKind::Fluid);
        // Shown alone by kind, and all again.
        QVERIFY(page.list()->topLevelItem(1)->isSelected());
        QTest::mouseClick(page.aloneButton(), Qt::LeftButton);
        QCOMPARE(session().places().hidden(), std::set<std::size_t>{0});
        QTest::mouseClick(page.aloneButton(), Qt::LeftButton);
        QVERIFY(session().places().hidden().empty());
        // A boundary of picked faces; its name speaks of a kind, which is proposed.
        page.list()->clearSelection();
        Pick face{1};
        face.face = 2;
        m_window->selection().set({face});
        QTest::keyClicks(page.name(), "water outlet");
        QCOMPARE(page.kind()->currentText(), QString("outlet"));
        QTRY_VERIFY_WITH_TIMEOUT(join.button()->isEnabled(), 20000);
        QTest::mouseClick(join.button(), Qt::LeftButton);
        settle();
        QCOMPARE(session().model().groups.size(), std::size_t(1));
        QCOMPARE(session().model().groups[0].purpose, std::string("outlet"));
        QCOMPARE(page.list()->topLevelItem(2)->text(1), QString("outlet"));
        page.name()->clear();
        page.list()->clearSelection();
        page.list()->topLevelItem(2)->setSelected(true);
        QVERIFY(!join.preview().goes.empty());  // the boundary lights up on the stage
        // Under the pointer it does without being chosen.
        page.list()->clearSelection();
        QVERIFY(join.preview().goes.empty());
        emit page.list()->itemEntered(page.list()->topLevelItem(2), 0);
        QVERIFY(!join.preview().goes.empty());
        QEvent gone(QEvent::Leave);
        QApplication::sendEvent(page.list()->viewport(), &gone);
        QVERIFY(join.preview().goes.empty());
        // A word of one's own says a kind from then on.
        QFile::remove(MaterialShelf::folder() + "/boundary-words.json");
        QTimer::singleShot(200, this, [&page] {
            auto* dialog = page.findChild<BoundaryWordsDialog*>();
            QVERIFY(dialog != nullptr);
            dialog->table()->item(0, 0)->setText("Zulauf");
            dialog->accept();
        });
        page.wordsButton()->click();
        QCOMPARE(boundaryWords(), (join::KindWords{{"zulauf", "inlet"}}));
        face.face = 3;
        m_window->selection().set({face});
        QTest::keyClicks(page.name(), "kalter Zulauf");
        QCOMPARE(page.kind()->currentText(), QString("inlet"));
        page.kind()->setCurrentText("none");
        QTRY_VERIFY_WITH_TIMEOUT(join.button()->isEnabled(), 20000);
        QTest::mouseClick(join.button(), Qt::LeftButton);
        settle();
        page.name()->clear();
        // Both at once, each as it is named.
        page.list()->clearSelection();
        page.list()->topLevelItem(2)->setSelected(true);
        page.list()->topLevelItem(3)->setSelected(true);
        QCOMPARE(page.kind()->itemText(0), QString("as each is named"));
        page.kind()->setCurrentIndex(0);
        emit page.kind()->activated(0);
        QTRY_VERIFY_WITH_TIMEOUT(join.button()->isEnabled(), 20000);
        QTest::mouseClick(join.button(), Qt::LeftButton);
        settle();
        QCOMPARE(session().model().groups[1].purpose, std::string("inlet"));
        QFile::remove(MaterialShelf::folder() + "/boundary-words.json");
    }
    void variantsAreBegunTakenComparedAndWiped() {
        openAndSettle(QString::fromStdString(demoFile("hanger-arm.step")));
        HandoverBench& handover = show<HandoverBench>();
        handover.showKind(HandoverKind::Variants);
        VariantsPage& page = *handover.variants();
        QCOMPARE(page.list()->topLevelItemCount(), 1);
        QVERIFY(!handover.button()->isEnabled());
        QTest::keyClicks(page.name(), "no holes");
        QCOMPARE(handover.button()->text(), QString("Begin \"no holes\" here"));
        QTRY_VERIFY_WITH_TIMEOUT(handover.button()->isEnabled(), 20000);  // the check may still be running
        QTest::mouseClick(handover.button(), Qt::LeftButton);
        settle();
        QCOMPARE(page.list()->topLevelItemCount(), 2);
        QVERIFY(page.name()->text().isEmpty());
        session().apply("shave.removeHoles", {{"upTo", 5.0}});
        settle();
        QCOMPARE(page.list()->topLevelItem(0)->text(1), QString("0"));
        QCOMPARE(page.list()->topLevelItem(1)->text(1), QString("1"));
        const int fewer = session().model().parts[0]->incidence().faceCount();

        page.list()->setCurrentItem(page.list()->topLevelItem(0));
        QTest::mouseClick(page.compareButton(), Qt::LeftButton);
        QTRY_VERIFY_WITH_TIMEOUT(!session().isBusy() && session().comparedVariants().has_value(), 60000);
        QVERIFY(page.differences()->isVisible());
        QVERIFY(page.differences()->topLevelItem(0)->text(0).contains("From \"first\" to \"no holes\""));
        QVERIFY(page.differences()->topLevelItemCount() > 2);
        // In tones by distance: plugs of holes are as far from the skin as the holes were wide.
        QVERIFY(page.inTones()->isVisible());
        QVERIFY(handover.preview().mesh == nullptr);
        page.inTones()->setChecked(true);
        QVERIFY(handover.preview().mesh != nullptr);
        QTRY_VERIFY(m_window->stage()->showsMesh());
        const auto& shades = handover.preview().mesh->shades;
        QVERIFY(std::any_of(shades.begin(), shades.end(), [](double shade) { return shade > 0.9; }));
        QVERIFY(std::count_if(shades.begin(), shades.end(), [](double shade) { return shade < 0.01; }) >
                static_cast<std::ptrdiff_t>(shades.size() / 2));
        page.inTones()->setChecked(false);
        QTRY_VERIFY(!m_window->stage()->showsMesh());
        page.list()->setCurrentItem(page.list()->topLevelItem(0));
        QTest::mouseClick(page.besideButton(), Qt::LeftButton);
        QTRY_VERIFY_WITH_TIMEOUT(m_window->stage()->wipes(), 20000);
        QCOMPARE(m_window->stage()->wipeName(), QString("first"));
        QVERIFY(m_window->stage()->wipeFaces().first > m_window->stage()->wipeFaces().second);
        m_window->stage()->setWipe(false);
        QCOMPARE(m_window->stage()->wipeName(), QString("As received"));

        QCOMPARE(handover.button()->text(), QString("Take \"first\" in hand"));
        QTRY_VERIFY_WITH_TIMEOUT(handover.button()->isEnabled(), 20000);
        QTest::mouseClick(handover.button(), Qt::LeftButton);
        settle();
        QVERIFY(session().model().parts[0]->incidence().faceCount() > fewer);
        QVERIFY(session().work().ledger().steps.empty());
        session().undo();
        settle();
        QCOMPARE(session().model().parts[0]->incidence().faceCount(), fewer);
        // Renamed in the list; a name that is taken is refused, and the old one stands again.
        page.list()->topLevelItem(0)->setText(0, "as drawn");
        settle();
        QCOMPARE(session().work().variantNames().front(), std::string("as drawn"));
        page.list()->topLevelItem(0)->setText(0, "no holes");
        settle();
        QCOMPARE(session().work().variantNames().front(), std::string("as drawn"));
        QCOMPARE(page.list()->topLevelItem(0)->text(0), QString("as drawn"));
        page.list()->setCurrentItem(page.list()->topLevelItem(0));
        QTest::keyClick(page.list(), Qt::Key_Delete);
        settle();
        QCOMPARE(page.list()->topLevelItemCount(), 1);
        QCOMPARE(session().work().variantNames(), std::vector<std::string>{"no holes"});
    }
    void whatIsWhatIsSetForManyParts() {
        const QString path = stacked();
        openAndSettle(path);
        HandoverBench& handover = show<HandoverBench>();
        handover.showKind(HandoverKind::What);
        QTreeWidget* list = handover.attributes()->list();
        QCOMPARE(list->topLevelItemCount(), 2);
        QCOMPARE(list->topLevelItem(0)->text(1), QString("missing"));
        QVERIFY(!handover.button()->isEnabled());
        list->selectAll();
        handover.attributes()->value()->setEditText("no such stuff");
        QVERIFY(!handover.button()->isEnabled());
        const QString known = handover.attributes()->value()->itemText(1);
        handover.attributes()->value()->setEditText(known);
        settle();
        QCOMPARE(handover.button()->text(), QString("Set material of 2 parts"));
        QTest::mouseClick(handover.button(), Qt::LeftButton);
        settle();
        QCOMPARE(session().model().parts[1]->material, known.toStdString());
        QCOMPARE(list->topLevelItem(0)->text(1), known);
        QVERIFY(handover.answer().contains("Every part says"));
        handover.attributes()->what()->setCurrentIndex(1);
        list->clearSelection();
        list->topLevelItem(1)->setSelected(true);
        handover.attributes()->value()->setEditText("void");
        settle();
        QTest::mouseClick(handover.button(), Qt::LeftButton);
        settle();
        QCOMPARE(list->topLevelItem(1)->text(2), QString("void"));
        QCOMPARE(list->topLevelItem(0)->text(2), QString("solid"));
    }
    void weldsAreListedAndKept() {
        openAndSettle(stacked());
        JoinBench& join = show<JoinBench>();
        join.showKind(JoinKind::Welds);
        QTRY_VERIFY_WITH_TIMEOUT(session().surveys().welds.found().has_value(), 20000);
        settle();
        // Both lines are 20 long, and three throats of seven tenths of 10 are 21.
        QVERIFY(!join.button()->isEnabled());
        join.welds()->shortest()->setValue(5.0);
        // The block of 20 by 20 stands in a corner of the base: two of its sides have room for a seam.
        QCOMPARE(join.welds()->list()->topLevelItemCount(), 1);
        QCOMPARE(join.button()->text(), QString("Weld along 2 lines"));
        QCOMPARE(join.preview().lines.size(), std::size_t(2));
        join.welds()->list()->topLevelItem(0)->setCheckState(0, Qt::Unchecked);
        QVERIFY(!join.button()->isEnabled());
        join.welds()->list()->topLevelItem(0)->setCheckState(0, Qt::Checked);
        join.welds()->throat()->setValue(4.0);
        settle();
        QTest::mouseClick(join.button(), Qt::LeftButton);
        settle();
        QCOMPARE(session().model().pairings.size(), std::size_t(2));
        QCOMPARE(session().model().pairings[0].throat, 4.0);
        // They are not offered again.
        QTRY_COMPARE_WITH_TIMEOUT(join.answer(), QString("2 welds are set; nothing further is long enough."), 20000);
        QVERIFY(!join.button()->isEnabled());
    }
    void aRuleIsFilledInFromAPickAndNamedThingsAreKept() {
        openPlate();
        HandoverBench& handover = show<HandoverBench>();
        handover.showKind(HandoverKind::Groups);
        const Part& part = *session().model().parts[0];
        Pick hole{0};
        double diameter = 0.0;
        for (int f = 1; f <= part.incidence().faceCount(); ++f)
            if (const FaceRef ref = makeFaceRef(part, f); ref.surface == "cylinder") {
                hole.face = f;
                diameter = 2.0 * ref.size;
            }
        m_window->selection().set({hole});
        GroupsPage& page = *handover.groups();
        page.way()->setCurrentIndex(1);
        const auto rule = page.rule();
        QVERIFY(rule && rule->inward && *rule->inward);
        QCOMPARE(*rule->diameter, diameter);
        QVERIFY2(handover.answer().startsWith(QString("All hollow cylinder faces of Ø %1 in").arg(diameter)),
                 qPrintable(handover.answer()));
        QVERIFY(!handover.preview().bands.empty());  // shown before it is made
        // A diameter that is no number makes nothing, and says so.
        auto* field = page.findChild<QLineEdit*>("ruleDiameter");
        const QString was = field->text();
        field->setText("wide");
        QVERIFY(!handover.button()->isEnabled() && handover.answer().contains("cannot be read"));
        field->setText(was);
        QTest::keyClicks(page.name(), "bores");
        settle();
        QTest::mouseClick(handover.button(), Qt::LeftButton);
        settle();
        QCOMPARE(session().model().groups.size(), std::size_t(1));
        QVERIFY(session().model().groups[0].rule == rule);
        const std::size_t named = session().model().groups[0].members.size();
        // In Shave what bears a name starts as kept; said otherwise, it goes like the rest.
        m_window->selection().clear();
        ShaveBench& bench = show<ShaveBench>();
        settle();
        QTRY_COMPARE(bench.button()->text(),
                     named == 6 ? QString("No hole up to 8 mm") : QString("Remove %1 holes").arg(6 - named));
        bench.keep({hole});
        QTRY_VERIFY(bench.button()->text().startsWith("Remove"));
        // Gone, it is missed: the card says what the group was.
        session().apply("shave.removeHoles", {{"upTo", 8.0}});
        settle();
        QVERIFY(session().model().groups[0].members.empty());
        bool told = false;
        for (const auto* card : m_window->ledger()->findChildren<StepCard*>())
            told = told || card->toolTip().contains(QString("“bores”: %1 (").arg(named));
        QVERIFY(told);
    }
    void whatTheListHasChosenIsNamed() {
        openPlate();
        ShaveBench& bench = show<ShaveBench>();
        settle();
        QVERIFY(bench.chosenThings().empty());
        bench.findChild<QTreeWidget*>()->setCurrentItem(bench.findChild<QTreeWidget*>()->topLevelItem(0));
        const auto things = bench.chosenThings();
        QVERIFY(!things.empty());
        m_window->selection().clear();
        m_window->keepGroup("logo");
        settle();
        QCOMPARE(session().model().groups.size(), std::size_t(1));
        QCOMPARE(session().model().groups[0].purpose, std::string("kept"));
        QCOMPARE(session().model().groups[0].members.size(), things.size());
    }
    void aChangedAnswerIsAccepted() {
        openPlate();
        session().apply("handover.rule", {{"name", "middle"}, {"rule", {{"axis", "x"}, {"at", 50}}}});
        settle();
        session().apply("divide.cut", {{"planes", {{{"through", {50, 0, 0}}, {"normal", {1, 0, 0}}}}}});
        settle();
        HandoverBench& handover = show<HandoverBench>();
        handover.showKind(HandoverKind::Groups);
        QVERIFY2(handover.groups()->changes()->text().contains("2 more"),
                 qPrintable(handover.groups()->changes()->text()));
        emit handover.groups()->changes()->linkActivated("fresh 0");
        QCOMPARE(m_window->selection().picks().size(), std::size_t(2));
        emit handover.groups()->changes()->linkActivated("accept 0");
        settle();
        QVERIFY(session().model().groups[0].fresh().empty());
        QVERIFY(handover.groups()->changes()->text().isEmpty());
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
        handover.groups()->name()->setFocus();
        QTest::keyClicks(handover.groups()->name(), "load");
        QCOMPARE(handover.button()->text(), QString("Group 1 face"));
        settle();
        QTest::mouseClick(handover.button(), Qt::LeftButton);
        settle();
        QVERIFY2(session().model().groups.size() == 1, qPrintable(handover.message() + m_window->reading()));
        QCOMPARE(handover.groups()->list()->topLevelItem(0)->text(0), QString("load"));
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
        emit handover.groups()->list()->itemClicked(handover.groups()->list()->topLevelItem(0), 0);
        QCOMPARE(picks().size(), std::size_t(1));
        QVERIFY(picks()[0].face > 0);
    }
    void theReportHoldsTheMeshAndTheExportedFile() {
        openPlate();
        const QString out = m_folder.filePath("out.step"), page = m_folder.filePath("page.html");
        QVERIFY(m_window->exportFile(out));
        settle();
        // The dialogs stand in each other's loops: where to, then what.
        QTimer::singleShot(300, this, [page] {
            auto* files = qobject_cast<QFileDialog*>(QApplication::activeModalWidget());
            QVERIFY(files != nullptr);
            QTimer::singleShot(400, files->parent(), [] {
                auto* dialog = qobject_cast<QDialog*>(QApplication::activeModalWidget());
                QVERIFY(dialog != nullptr && dialog->objectName() == "reportDialog");
                QVERIFY(!dialog->findChild<QCheckBox*>("reportMesh")->isChecked());  // it takes its time
                dialog->findChild<QCheckBox*>("reportMesh")->click();
                dialog->findChild<QCheckBox*>("reportPictures")->click();
                dialog->findChild<QDialogButtonBox*>()->button(QDialogButtonBox::Ok)->click();
            });
            files->findChild<QLineEdit*>("fileNameEdit")->setText(page);
            files->findChild<QDialogButtonBox*>()->button(QDialogButtonBox::Save)->click();
        });
        QSignalSpy saved(&session(), &Session::saved);
        for (QAction* action : m_window->findChildren<QAction*>())
            if (action->text().remove('&').startsWith("Write a report")) action->trigger();
        QTRY_COMPARE_WITH_TIMEOUT(saved.count(), 1, 60000);
        settle();
        const auto text = readText(page.toStdString());
        QVERIFY(text);
        QVERIFY(text->find("<h2>The trial mesh at 4 mm</h2>") != std::string::npos);
        QVERIFY(text->find("<h2>The exported file out.step</h2>") != std::string::npos);
    }
    /// A group's own tone is on the stage, and on nothing else.
    void groupsAreDrawnInTheirColours() {
        openPlate();
        Stage& stage = *m_window->stage();
        stage.look(SquareView::Top);
        const auto shareOf = [&stage](const auto& isWanted) {
            QTest::qWait(80);
            const QImage shot = stage.grabFramebuffer();
            int wanted = 0, all = 0;
            for (int y = 0; y < shot.height(); y += 4)
                for (int x = 0; x < shot.width(); x += 4, ++all) wanted += isWanted(shot.pixelColor(x, y));
            return static_cast<double>(wanted) / all;
        };
        const auto isBlue = [](const QColor& c) { return c.blue() > c.red() + 60 && c.blue() > c.green() + 60; };
        const Part& part = *session().model().parts[0];
        Json top;
        for (int f = 1; f <= part.incidence().faceCount(); ++f)
            if (const FaceRef face = makeFaceRef(part, f); face.centre.Z() > 7.9 && face.area > 5000)
                top = makeRef(part, {EntityKind::Face, f});
        session().apply("handover.group", {{"name", "load"}, {"things", {top}}, {"colour", {0.1, 0.1, 0.9}}});
        settle();
        QCOMPARE(session().model().groups.size(), std::size_t(1));
        QVERIFY(shareOf(isBlue) < 0.01);
        stage.setColourBy(ColourBy::Group);
        QVERIFY(shareOf(isBlue) > 0.1);
        stage.look(SquareView::Bottom);
        QVERIFY(shareOf(isBlue) < 0.01);
        stage.setColourBy(ColourBy::Bone);
        stage.look(SquareView::Top);
        QVERIFY(shareOf(isBlue) < 0.01);
    }
    void aTrialMeshIsMadeMeasuredAndWritten() {
        openPlate();
        HandoverBench& handover = show<HandoverBench>();
        handover.showKind(HandoverKind::Mesh);
        QTRY_VERIFY_WITH_TIMEOUT(!session().isBusy() && handover.button()->isEnabled(), 20000);
        QVERIFY(handover.button()->text().startsWith("Make a trial mesh at"));
        QTest::mouseClick(handover.button(), Qt::LeftButton);
        QTRY_VERIFY_WITH_TIMEOUT(handover.meshPage()->isMade(), 20000);
        QTRY_VERIFY(m_window->stage()->showsMesh());
        QVERIFY(handover.answer().contains("elements"));
        QCOMPARE(handover.button()->text(), QString("Write the mesh…"));
        // The blade says what is too small: below everything nothing is, above everything all is.
        MeshPage& page = *handover.meshPage();
        const auto all = session().surveys().trialMesh()->triangles;
        page.blade()->number()->setText("1000");
        QTest::keyClick(page.blade()->number(), Qt::Key_Return);
        QTRY_COMPARE(page.bad(), std::optional<int>(static_cast<int>(all)));
        QVERIFY(page.list()->topLevelItemCount() > 0);
        page.measure()->setCurrentIndex(1);  // least angle: back at what is customary
        QTRY_COMPARE(page.bad(), std::optional<int>(0));
        const QString path = m_folder.filePath("plate.vtu");
        QVERIFY(session().writeTrialMesh(path));
        QVERIFY(QFileInfo(path).size() > 1000);
        // Beside it, as received: the wipe is there. Another kind draws the parts again.
        page.besides()->setChecked(true);
        QTRY_VERIFY_WITH_TIMEOUT(session().surveys().receivedMesh() != nullptr, 20000);
        QVERIFY(m_window->stage()->wipes());
        handover.showKind(HandoverKind::Check);
        QTRY_VERIFY(!m_window->stage()->showsMesh());
        // One that would have too many elements says so where its figures would stand.
        session().setTargetSize(0.001);
        QTRY_VERIFY_WITH_TIMEOUT(!session().isBusy() && session().surveys().trialMesh() == nullptr, 20000);
        handover.showKind(HandoverKind::Mesh);
        QTRY_VERIFY_WITH_TIMEOUT(handover.button()->isEnabled(), 20000);
        QTest::mouseClick(handover.button(), Qt::LeftButton);
        QTRY_VERIFY_WITH_TIMEOUT(handover.answer().contains("million"), 20000);
        session().setTargetSize(4.0);
        QTRY_VERIFY_WITH_TIMEOUT(!session().isBusy(), 20000);
        // A step makes it anew.
        session().apply("handover.group", {{"name", "all"}, {"parts", {session().model().parts[0]->name}}});
        QTRY_VERIFY_WITH_TIMEOUT(session().surveys().trialMesh() == nullptr, 20000);
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
