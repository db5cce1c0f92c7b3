// Stiffeners: beams whose lines become edges of the sheets they stand on.
#include "reduce/beams_on_sheets.h"

#include <BRepAdaptor_Curve.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <gp_Cylinder.hxx>

#include "geometry/integrals.h"
#include "join/joint_faults.h"
#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

using namespace reduce;

class BeamsOnSheetsTest : public QObject {
    Q_OBJECT

    /// A plate of 2 mm on which bars stand, reduced to a sheet and beams.
    static Result<Model> reduced(const std::vector<TopoDS_Shape>& bars, const gp_Trsf& away = {}) {
        return reducedOn({moved(block(200, 120, 2), by(0, 0, -2))}, bars, away);
    }
    static Result<Model> reducedOn(const std::vector<TopoDS_Shape>& plates, const std::vector<TopoDS_Shape>& bars,
                                   const gp_Trsf& away = {}) {
        std::vector<TopoDS_Shape> bodies = plates;
        bodies.insert(bodies.end(), bars.begin(), bars.end());
        Model model = withBodies(bodies);
        model.occurrences.changeAll([&away](Occurrence& place) { place.placement = away; });
        model.targetSize = 5.0;
        Json sheets = Json::array(), names = Json::array();
        for (std::size_t i = 0; i < bodies.size(); ++i)
            (i < plates.size() ? sheets : names).push_back("body " + std::to_string(i + 1));
        const auto sheet = run(model, "reduce.midsurface", {{"parts", sheets}});
        if (!sheet) return tl::unexpected(sheet.error());
        auto beams = run(sheet->model, "reduce.beams", {{"parts", names}, {"nodesWithin", -1.0}});
        if (!beams) return tl::unexpected(beams.error());
        return std::move(beams->model);
    }
    static double lengthOf(const Part& part) {
        double length = 0.0;
        for (int e = 1; e <= part.incidence().edgeCount(); ++e) {
            const BRepAdaptor_Curve curve(part.incidence().edge(e));
            length += curve.Value(curve.FirstParameter()).Distance(curve.Value(curve.LastParameter()));
        }
        return length;
    }
    /// How many bodies use each edge, or vertex, that is a joint.
    static std::map<std::size_t, int> usesOf(const Model& model, EntityKind kind) {
        std::map<std::size_t, int> uses;
        for (const Joint& joint : model.joints)
            if (joint.kind == kind) ++uses[joint.uses.size()];
        return uses;
    }

private slots:
    void aStiffenerIsAnEdgeOfThePlate_data() {
        QTest::addColumn<bool>("across");
        QTest::addColumn<bool>("away");
        QTest::newRow("within the plate") << false << false;
        QTest::newRow("from rim to rim") << true << false;
        QTest::newRow("within, elsewhere") << false << true;
        QTest::newRow("from rim to rim, elsewhere") << true << true;
    }
    void aStiffenerIsAnEdgeOfThePlate() {
        QFETCH(bool, across);
        QFETCH(bool, away);
        gp_Trsf there;
        if (away) {
            there.SetRotation(gp_Ax1(gp_Pnt(3, -2, 9), gp_Dir(1, 2, 3)), 1.1);
            there = by(40, -30, 75) * there;
        }
        const double length = across ? 200.0 : 150.0;
        const auto model = reduced({moved(block(length, 4, 10), by(across ? 0 : 20, 58, 0))}, there);
        QVERIFY2(model, said(model));
        const auto found = findBeamsOnSheets(*model, 0.5, quietly());
        QVERIFY2(found, said(found));
        QCOMPARE(found->size(), std::size_t(1));
        QCOMPARE_NEAR(found->front().gap, 0.0, 1e-6);
        QCOMPARE_NEAR(found->front().length, length, 1e-6);
        const auto done = run(*model, "reduce.beamsOnSheets");
        QVERIFY2(done, said(done));
        QVERIFY2(done->model.pairings.empty(), done->items.front().what.c_str());
        const Part &sheet = *done->model.parts[0], &beam = *done->model.parts[1];
        QCOMPARE_NEAR(areaOf(sheet.shape), 200.0 * 120.0, 1e-6);
        QCOMPARE(sheet.incidence().faceCount(), 2);
        QCOMPARE_NEAR(lengthOf(beam), length, 1e-6);
        QCOMPARE(usesOf(done->model, EntityKind::Edge), (std::map<std::size_t, int>{{2, 1}}));
        QCOMPARE(usesOf(done->model, EntityKind::Vertex), (std::map<std::size_t, int>{{2, 2}}));
        const auto faults = join::faultsInJoints(done->model);
        QVERIFY2(faults.empty(), faults.empty() ? "" : faults.front().c_str());
        // The section is where it was: half of both heights off the line.
        for (int e = 1; e <= beam.incidence().edgeCount(); ++e) {
            const Section& section = beam.known.sections.at({EntityKind::Edge, e});
            QCOMPARE_NEAR(section.startOffset.Magnitude(), 6.0, 1e-6);
            QCOMPARE_NEAR(section.endOffset.Magnitude(), 6.0, 1e-6);
            QCOMPARE_NEAR(section.area, 40.0, 1e-9);
        }
        // What is joined is not offered again.
        QVERIFY(findBeamsOnSheets(done->model, 0.5, quietly())->empty());
        QCOMPARE(run(done->model, "reduce.beamsOnSheets").error().kind, ProblemKind::NothingToDo);
    }
    void stiffenersThatCrossHaveANodeInCommon() {
        const auto model = reduced({moved(block(150, 4, 10), by(20, 58, 0)), moved(block(4, 100, 8), by(80, 10, 0)),
                                    moved(block(4, 100, 8), by(130, 10, 0))});
        QVERIFY2(model, said(model));
        const auto done = run(*model, "reduce.beamsOnSheets");
        QVERIFY2(done, said(done));
        QCOMPARE(done->items.size(), std::size_t(3));
        QCOMPARE(usesOf(done->model, EntityKind::Vertex), (std::map<std::size_t, int>{{2, 6}, {3, 2}}));
        QCOMPARE(usesOf(done->model, EntityKind::Edge), (std::map<std::size_t, int>{{2, 3 + 2 + 2}}));
        const auto faults = join::faultsInJoints(done->model);
        QVERIFY2(faults.empty(), faults.empty() ? "" : faults.front().c_str());
        QCOMPARE_NEAR(areaOf(done->model.parts[0]->shape), 200.0 * 120.0, 1e-6);
    }
    void whatStandsIsLinked() {
        const auto model = reduced({moved(block(6, 6, 100), by(40, 40, 0))});
        QVERIFY2(model, said(model));
        const auto done = run(*model, "reduce.beamsOnSheets", {{"upTo", 0.6}});
        QVERIFY2(done, said(done));
        QCOMPARE(done->model.pairings.size(), std::size_t(1));
        QCOMPARE(static_cast<int>(done->model.pairings[0].kind), static_cast<int>(PairingKind::Link));
        QCOMPARE(done->model.pairings[0].behaviour, std::string("rigid"));
        QVERIFY(done->model.joints.empty());
        QVERIFY(done->model.parts[0] == model->parts[0]);  // nothing was parted for nothing
        const auto left = run(*model, "reduce.beamsOnSheets", {{"upTo", 0.6}, {"otherwise", "leave"}});
        QVERIFY2(left, said(left));
        QVERIFY(left->model.pairings.empty());
        QVERIFY(std::none_of(left->items.begin(), left->items.end(), [](const Item& item) { return item.done; }));
    }
    /// Stiffeners of real panels run on over several plates, over holes and past the outline.
    void aBarRunsOnOverWhatIsUnderIt_data() {
        QTest::addColumn<std::vector<TopoDS_Shape>>("plates");
        QTest::addColumn<double>("from");
        QTest::addColumn<double>("to");
        QTest::addColumn<double>("free");    // [mm] of it that lies on nothing
        QTest::addColumn<int>("stretches");  // that lie on sheets
        const auto plate = [](double x, double dx) { return moved(block(dx, 120, 2), by(x, 0, -2)); };
        using Plates = std::vector<TopoDS_Shape>;
        QTest::newRow("past one end") << Plates{plate(0, 200)} << 20.0 << 270.0 << 70.0 << 1;
        QTest::newRow("past both ends") << Plates{plate(0, 200)} << -30.0 << 270.0 << 100.0 << 1;
        QTest::newRow("over a hole") << Plates{cut(plate(0, 200), rod(gp_Ax1(gp_Pnt(100, 60, -5), gp::DZ()), 15, 10))}
                                     << 20.0 << 180.0 << 30.0 << 2;
        QTest::newRow("over two plates") << Plates{plate(0, 100), plate(100, 100)} << 10.0 << 190.0 << 0.0 << 2;
        QTest::newRow("over two plates a gap apart")
            << Plates{plate(0, 100), plate(103, 97)} << 10.0 << 190.0 << 3.0 << 2;
        QTest::newRow("over three plates and past them")
            << Plates{plate(0, 60), plate(60, 60), plate(130, 70)} << 5.0 << 230.0 << 40.0 << 3;
    }
    void aBarRunsOnOverWhatIsUnderIt() {
        QFETCH(std::vector<TopoDS_Shape>, plates);
        QFETCH(double, from);
        QFETCH(double, to);
        QFETCH(double, free);
        QFETCH(int, stretches);
        double area = 0.0;
        gp_Trsf there;
        there.SetRotation(gp_Ax1(gp_Pnt(3, -2, 9), gp_Dir(1, 2, 3)), 1.1);
        for (const bool away : {false, true}) {
            const auto model =
                reducedOn(plates, {moved(block(to - from, 4, 10), by(from, 58, 0))}, away ? there : gp_Trsf());
            QVERIFY2(model, said(model));
            const auto done = run(*model, "reduce.beamsOnSheets", {{"upTo", 0.5}});
            QVERIFY2(done, said(done));
            QVERIFY2(done->model.pairings.empty(), done->items.front().what.c_str());
            QCOMPARE(done->items.size(), std::size_t(1));
            QCOMPARE(done->items[0].what.find("free") != std::string::npos, free > 0.0);
            const std::size_t bar = plates.size();
            const Part& beam = *done->model.parts[bar];
            QCOMPARE_NEAR(lengthOf(beam), to - from, 1e-6);
            double before = 0.0, after = 0.0;
            for (std::size_t i = 0; i < plates.size(); ++i) {
                before += areaOf(model->parts[i]->shape);
                after += areaOf(done->model.parts[i]->shape);
            }
            QCOMPARE_NEAR(after, before, 1e-6);
            // Each stretch on a sheet is an edge of it; the rest is the beam's alone, and all of it one straight line.
            const PlaceId id = done->model.occurrences[bar].id;
            std::set<int> joined;
            for (const Joint& joint : done->model.joints)
                for (const JointUse& use : joint.uses)
                    if (joint.kind == EntityKind::Edge && use.place == id) joined.insert(use.number);
            QCOMPARE(static_cast<int>(joined.size()), stretches);
            double alone = 0.0;
            gp_XYZ low(1e9, 1e9, 1e9), high(-1e9, -1e9, -1e9);
            for (int e = 1; e <= beam.incidence().edgeCount(); ++e) {
                const BRepAdaptor_Curve curve(beam.incidence().edge(e));
                const gp_Pnt a = curve.Value(curve.FirstParameter()), b = curve.Value(curve.LastParameter());
                if (!joined.contains(e)) alone += a.Distance(b);
                for (const gp_Pnt& p : {a, b})
                    for (int i = 1; i <= 3; ++i) {
                        low.SetCoord(i, std::min(low.Coord(i), p.Coord(i)));
                        high.SetCoord(i, std::max(high.Coord(i), p.Coord(i)));
                    }
                const Section& section = beam.known.sections.at({EntityKind::Edge, e});
                QCOMPARE_NEAR(section.startOffset.Magnitude(), 6.0, 1e-6);
                QCOMPARE_NEAR(section.endOffset.Magnitude(), 6.0, 1e-6);
            }
            QCOMPARE_NEAR(alone, free, 1e-6);
            QCOMPARE_NEAR((high - low).Modulus(), to - from, 1e-6);
            const auto faults = join::faultsInJoints(done->model);
            QVERIFY2(faults.empty(), faults.empty() ? "" : faults.front().c_str());
            area = after;
        }
        QVERIFY(area > 0.0);
    }
    /// Plates that were joined before keep their seam, parted where the bar crosses it.
    void aBarOverAJoinedSeamKeepsIt() {
        auto model = reducedOn({moved(block(100, 120, 2), by(0, 0, -2)), moved(block(100, 120, 2), by(100, 0, -2))},
                               {moved(block(180, 4, 10), by(10, 58, 0))});
        QVERIFY2(model, said(model));
        const auto seam = run(*model, "reduce.joinSheets");
        QVERIFY2(seam, said(seam));
        const auto done = run(seam->model, "reduce.beamsOnSheets", {{"upTo", 0.5}});
        QVERIFY2(done, said(done));
        QVERIFY2(done->model.pairings.empty(), done->items.front().what.c_str());
        // Two halves of the seam, and a stretch on each plate; in the middle of the seam all three meet.
        QCOMPARE(usesOf(done->model, EntityKind::Edge), (std::map<std::size_t, int>{{2, 4}}));
        QCOMPARE(usesOf(done->model, EntityKind::Vertex), (std::map<std::size_t, int>{{2, 4}, {3, 1}}));
        const auto faults = join::faultsInJoints(done->model);
        QVERIFY2(faults.empty(), faults.empty() ? "" : faults.front().c_str());
    }
    /// A seam that is parted on one side alone does not match any more, and that is told.
    void aSeamPartedOnOneSideIsTold() {
        const auto model =
            reducedOn({moved(block(100, 120, 2), by(0, 0, -2)), moved(block(100, 120, 2), by(100, 0, -2))},
                      {moved(block(180, 4, 10), by(10, 58, 50))});
        QVERIFY2(model, said(model));
        const auto seam = run(*model, "reduce.joinSheets");
        QVERIFY2(seam, said(seam));
        QCOMPARE(usesOf(seam->model, EntityKind::Edge), (std::map<std::size_t, int>{{2, 1}}));
        const auto cutOne =
            run(seam->model, "divide.cut",
                {{"parts", {"body 1"}}, {"planes", Json::array({{{"through", {0, 60, 0}}, {"normal", {0, 1, 0}}}})}});
        QVERIFY2(cutOne, said(cutOne));
        QVERIFY(std::any_of(cutOne->notes.begin(), cutOne->notes.end(),
                            [](const std::string& note) { return note.find("join them again") != std::string::npos; }));
        const auto faults = join::faultsInJoints(cutOne->model);
        QVERIFY2(faults.empty(), faults.empty() ? "" : faults.front().c_str());
    }
    void sheetsOfDifferentHeightsAreNotBentTogether() {
        // Flush on top, so their middles are a millimetre apart.
        for (const double gap : {0.0, 3.0}) {
            const auto model =
                reducedOn({moved(block(100, 120, 2), by(0, 0, -2)), moved(block(100, 120, 4), by(100 + gap, 0, -4))},
                          {moved(block(180, 4, 10), by(10, 58, 0))});
            QVERIFY2(model, said(model));
            const auto done = run(*model, "reduce.beamsOnSheets", {{"upTo", 0.5}});
            QVERIFY2(done, said(done));
            QCOMPARE(done->model.pairings.size(), std::size_t(2));
            for (const Item& item : done->items)
                QVERIFY2(item.what.find(gap > 0.0 ? "bent" : "different heights") != std::string::npos,
                         item.what.c_str());
            for (std::size_t i = 0; i < 3; ++i) QVERIFY(done->model.parts[i] == model->parts[i]);
        }
    }
    /// One that does not come does not keep the others from coming, nor leaves its line in their sheet.
    void oneThatDoesNotComeLeavesNoLine() {
        const auto model =
            reducedOn({moved(block(100, 120, 2), by(0, 0, -2)), moved(block(100, 120, 4), by(100, 0, -4))},
                      {moved(block(180, 4, 10), by(10, 58, 0)), moved(block(80, 3, 6), by(10, 20, 0))});
        QVERIFY2(model, said(model));
        const auto done = run(*model, "reduce.beamsOnSheets", {{"upTo", 0.5}});
        QVERIFY2(done, said(done));
        QCOMPARE(done->model.pairings.size(), std::size_t(2));
        QCOMPARE(usesOf(done->model, EntityKind::Edge), (std::map<std::size_t, int>{{2, 1}}));
        QCOMPARE(done->model.parts[0]->incidence().faceCount(), 2);
        QVERIFY(done->model.parts[1] == model->parts[1]);
    }
    void aSlopingBarKeepsItsSlopeAsOffset() {
        gp_Trsf slope;
        slope.SetRotation(gp_Ax1(gp_Pnt(20, 90, 0), gp::DY()), -0.004);
        const auto model = reduced({moved(moved(block(100, 4, 10), by(20, 90, 0)), slope)});
        QVERIFY2(model, said(model));
        const auto done = run(*model, "reduce.beamsOnSheets", {{"upTo", 0.6}});
        QVERIFY2(done, said(done));
        QVERIFY2(done->model.pairings.empty(), done->items.front().what.c_str());
        const Section& section = done->model.parts[1]->known.sections.begin()->second;
        QCOMPARE_NEAR(std::abs(section.endOffset.Magnitude() - section.startOffset.Magnitude()),
                      100.0 * std::sin(0.004), 1e-6);
    }
    void aStringerOnAShell() {
        // A quarter of a tube of R 100, and a line along it 7 mm outside.
        const TopoDS_Shape shell =
            BRepBuilderAPI_MakeFace(gp_Cylinder(gp_Ax3(gp::XOY()), 100.0), 0.0, M_PI / 2.0, 0.0, 300.0).Shape();
        const gp_Pnt from(107.0 * std::cos(0.7), 107.0 * std::sin(0.7), 0.0);
        Model model = withBodies({shell, BRepBuilderAPI_MakeEdge(from, from.Translated(gp_Vec(0, 0, 300))).Shape()});
        auto thick = model.parts[0]->copy();
        thick->known.thickness[{EntityKind::Face, 1}] = Thickness{4.0, {}, {}, 0.0};
        model.parts[0] = thick;
        auto beam = model.parts[1]->copy();
        Section section;
        section.shape = "round";
        section.sizes = {10.0};
        beam->known.sections[{EntityKind::Edge, 1}] = section;
        model.parts[1] = beam;
        const auto done = run(model, "reduce.beamsOnSheets", {{"upTo", 0.1}});
        QVERIFY2(done, said(done));
        QCOMPARE(done->model.parts[0]->incidence().faceCount(), 2);
        QCOMPARE(usesOf(done->model, EntityKind::Edge), (std::map<std::size_t, int>{{2, 1}}));
        QVERIFY(join::faultsInJoints(done->model).empty());
        QCOMPARE_NEAR(done->model.parts[1]->known.sections.begin()->second.startOffset.Magnitude(), 7.0, 1e-6);
        QCOMPARE_NEAR(lengthOf(*done->model.parts[1]), 300.0, 1e-6);
    }
    void badInputIsRefused() {
        const auto model = reduced({moved(block(150, 4, 10), by(20, 58, 3))});
        QVERIFY2(model, said(model));
        QVERIFY(!run(*model, "reduce.beamsOnSheets", {{"upTo", -1.0}}));
        QVERIFY(!run(*model, "reduce.beamsOnSheets", {{"parts", {"nobody"}}}));
        QVERIFY(!run(*model, "reduce.beamsOnSheets", {{"otherwise", "hope"}}));
        QCOMPARE(run(*model, "reduce.beamsOnSheets", {{"upTo", 1.0}}).error().kind, ProblemKind::NothingToDo);
    }
};

static Registered<BeamsOnSheetsTest> beamsOnSheetsTest;

}  // namespace rasoir::test

#include "beams_on_sheets_test.moc"
