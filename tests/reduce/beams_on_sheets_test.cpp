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
        std::vector<TopoDS_Shape> bodies{moved(block(200, 120, 2), by(0, 0, -2))};
        bodies.insert(bodies.end(), bars.begin(), bars.end());
        Model model = withBodies(bodies);
        model.occurrences.changeAll([&away](Occurrence& place) { place.placement = away; });
        model.targetSize = 5.0;
        const auto sheet = run(model, "reduce.midsurface", {{"parts", {"body 1"}}});
        if (!sheet) return tl::unexpected(sheet.error());
        Json names = Json::array();
        for (std::size_t i = 0; i < bars.size(); ++i) names.push_back("body " + std::to_string(i + 2));
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
    void whatStandsOrReachesPastIsLinked() {
        // A column, and a bar that reaches past the plate.
        const auto model = reduced({moved(block(6, 6, 100), by(40, 40, 0)), moved(block(250, 4, 10), by(20, 60, 0))});
        QVERIFY2(model, said(model));
        const auto done = run(*model, "reduce.beamsOnSheets", {{"upTo", 0.6}});
        QVERIFY2(done, said(done));
        QCOMPARE(done->model.pairings.size(), std::size_t(2));
        for (const Pairing& pairing : done->model.pairings) {
            QCOMPARE(static_cast<int>(pairing.kind), static_cast<int>(PairingKind::Link));
            QCOMPARE(pairing.behaviour, std::string("rigid"));
        }
        QVERIFY(done->model.joints.empty());
        QVERIFY(done->model.parts[0] == model->parts[0]);  // nothing was parted for nothing
        const auto left = run(*model, "reduce.beamsOnSheets", {{"upTo", 0.6}, {"otherwise", "leave"}});
        QVERIFY2(left, said(left));
        QVERIFY(left->model.pairings.empty());
        QVERIFY(std::none_of(left->items.begin(), left->items.end(), [](const Item& item) { return item.done; }));
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
