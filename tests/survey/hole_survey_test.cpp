#include <gp_Ax2.hxx>
#include <QTemporaryDir>

#include "common/safe_file.h"
#include "exchange/files.h"
#include "support/bodies.h"
#include "support/run.h"
#include "survey/holes.h"

namespace rasoir::test {

class HoleSurveyTest : public QObject {
    Q_OBJECT

    static std::vector<survey::Hole> holesIn(const TopoDS_Shape& shape, double upTo = 0.0) {
        survey::HoleLimits limits;
        limits.upTo = upTo;
        const Part part("part", shape);
        auto holes = survey::findHoles(part, 4.0, limits, quietly());
        return holes ? *holes : std::vector<survey::Hole>{};
    }
    static gp_Ax1 down(double x, double y, double z) { return gp_Ax1(gp_Pnt(x, y, z), gp_Dir(0, 0, -1)); }

    /// Every feature of the table is found once with its kind and sizes, and nothing else is.
    static QString compareWithTruth(const TopoDS_Shape& arm, const gp_Trsf& place, double factor) {
        const Json truth = Json::parse(*readText(demoFile("hanger-arm.json")));
        const std::vector<survey::Hole> holes = holesIn(arm);
        std::vector<bool> used(holes.size(), false);
        if (holes.size() != truth.at("features").size())
            return QString("%1 found, %2 put in").arg(holes.size()).arg(truth.at("features").size());
        for (const Json& put : truth.at("features")) {
            const auto at = put.at("at_mm").get<std::vector<double>>(),
                       along = put.at("along").get<std::vector<double>>();
            const gp_Ax1 axis =
                gp_Ax1(gp_Pnt(at[0], at[1], at[2]), gp_Dir(along[0], along[1], along[2])).Transformed(place);
            bool matched = false;
            for (std::size_t h = 0; h < holes.size() && !matched; ++h) {
                const survey::Hole& hole = holes[h];
                if (used[h] || survey::holeKindName(hole.kind) != put.at("kind").get<std::string>()) continue;
                if (std::abs(hole.size - factor * put.at("size_mm").get<double>()) > 1e-4 * factor) continue;
                if (hole.through != put.at("through").get<bool>() || hole.bore != put.at("bore").get<bool>()) continue;
                if (hole.diameters.size() != put.at("diameters_mm").size()) continue;
                if (std::abs(std::abs(hole.axis.Direction().Dot(axis.Direction())) - 1.0) > 1e-6) continue;
                if (gp_Vec(axis.Location(), hole.middle).Crossed(gp_Vec(axis.Direction())).Magnitude() > 1e-3 * factor)
                    continue;
                used[h] = matched = true;
            }
            if (!matched) return "not found: " + QString::fromStdString(put.dump());
        }
        return {};
    }

private slots:
    void theArmsHolesAreThoseOfItsTable_data() {
        QTest::addColumn<int>("way");
        QTest::newRow("as written") << 0;
        QTest::newRow("moved and turned") << 1;
        QTest::newRow("a hundredth") << 2;
        QTest::newRow("a hundred times") << 3;
        QTest::newRow("after a round trip") << 4;
        QTest::newRow("mirrored") << 5;
    }
    void theArmsHolesAreThoseOfItsTable() {
        QFETCH(int, way);
        const auto model = exchange::readFile(demoFile("hanger-arm.step"), {}, quietly());
        QVERIFY2(model, said(model));
        TopoDS_Shape arm = model->parts[0]->shape;
        QVERIFY(facesIn(arm) >= 150 && facesIn(arm) <= 300);
        gp_Trsf place;
        double factor = 1.0;
        if (way == 1) {
            place.SetRotation(gp_Ax1(gp_Pnt(20, 5, 3), gp_Dir(1, 2, 3)), 0.3);
            place.SetTranslationPart(gp_Vec(10000, -3000, 500));
        }
        if (way == 2 || way == 3) place.SetScale(gp_Pnt(0, 0, 0), factor = way == 2 ? 0.01 : 100.0);
        if (way == 5) place.SetMirror(gp_Ax2(gp_Pnt(1, 2, 3), gp_Dir(1, 1, 0)));
        if (way == 4) {
            const QTemporaryDir folder;
            const std::string path = folder.path().toStdString() + "/arm.step";
            QVERIFY(exchange::writeFile(*model, path, {Unit::Inch}, quietly()));
            arm = exchange::readFile(path, {}, quietly())->parts[0]->shape;
        } else if (way != 0) {
            arm = moved(arm, place);
        }
        const QString difference = compareWithTruth(arm, place, factor);
        QVERIFY2(difference.isEmpty(), qPrintable(difference));
    }
    void aBossIsNoHole() {
        const TopoDS_Shape body = fuse(block(40, 40, 5), rod(gp_Ax1(gp_Pnt(20, 20, 5), gp_Dir(0, 0, 1)), 6, 10));
        QVERIFY(holesIn(body).empty());
    }
    void aRecessRoundABossIsNoHole() {
        const TopoDS_Shape recess = cut(block(40, 40, 10), rod(down(20, 20, 11), 12, 5));
        QCOMPARE(holesIn(recess).size(), std::size_t(1));
        QVERIFY(holesIn(fuse(recess, rod(gp_Ax1(gp_Pnt(20, 20, 5), gp_Dir(0, 0, 1)), 5, 10))).empty());
    }
    void aFloorThatBreaksOutBelongsToItsHole() {
        // Drilled at a slant beside the edge: the flat bottom comes out through the side.
        const auto holes = holesIn(cut(block(40, 40, 30), rod(gp_Ax1(gp_Pnt(20, 12, 31), gp_Dir(0, -0.5, -1)), 4, 22)));
        QCOMPARE(holes.size(), std::size_t(1));
        QVERIFY(holes[0].faces.size() >= 2);
    }
    void aFilletAndAPocketsRoundCornerAreNoHoles() {
        // A pocket with half-round ends is a slot; with rounded corners it is a pocket.
        TopoDS_Shape body = block(60, 40, 10);
        TopoDS_Shape pocket = block(30, 12, 10);
        gp_Trsf place;
        place.SetTranslation(gp_Vec(15, 14, 5));
        body = cut(body, moved(pocket, place));
        for (const double x : {15.0, 45.0})
            for (const double y : {14.0, 26.0}) body = cut(body, rod(gp_Ax1(gp_Pnt(x, y, 5), gp_Dir(0, 0, 1)), 1, 10));
        // Overcut corners go three quarters round: they are openings of their own, never fillets.
        for (const survey::Hole& hole : holesIn(body)) QVERIFY(hole.openSide);
    }
    void aPipesInsideIsABore() {
        const TopoDS_Shape pipe = cut(rod(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 20, 100),
                                      rod(gp_Ax1(gp_Pnt(0, 0, -1), gp_Dir(0, 0, 1)), 18, 102));
        const auto holes = holesIn(pipe);
        QCOMPARE(holes.size(), std::size_t(1));
        QVERIFY(holes[0].bore);
        QVERIFY(holesIn(pipe, 30.0).empty());  // not within the sizes asked for
    }
    void aSlotIsToldApart() {
        TopoDS_Shape body = block(60, 30, 10);
        gp_Trsf place;
        place.SetTranslation(gp_Vec(20, 11, -1));
        TopoDS_Shape tool =
            fuse(moved(block(20, 8, 12), place), rod(gp_Ax1(gp_Pnt(20, 15, -1), gp_Dir(0, 0, 1)), 4, 12));
        tool = fuse(tool, rod(gp_Ax1(gp_Pnt(40, 15, -1), gp_Dir(0, 0, 1)), 4, 12));
        const auto holes = holesIn(cut(body, tool));
        QCOMPARE(holes.size(), std::size_t(1));
        QCOMPARE(holes[0].kind, survey::HoleKind::Slot);
        QCOMPARE_NEAR(holes[0].size, 8.0, 1e-6);
        QCOMPARE_NEAR(holes[0].length, 28.0, 1e-6);
        QVERIFY(holes[0].through);
    }
    void wallsSplitIntoPiecesAreOneHole_data() {
        QTest::addColumn<bool>("splines");
        QTest::newRow("halves") << false;
        QTest::newRow("halves as splines") << true;
    }
    void wallsSplitIntoPiecesAreOneHole() {
        QFETCH(bool, splines);
        // Two half-round cuts from one plate: the wall comes in two faces.
        const gp_Ax1 axis(gp_Pnt(20, 15, -1), gp_Dir(0, 0, 1));
        gp_Trsf right;
        right.SetTranslation(gp_Vec(20, 0, -5));
        gp_Trsf left;
        left.SetTranslation(gp_Vec(-20, 0, -5));
        const TopoDS_Shape tool = rod(axis, 5, 30);
        TopoDS_Shape body = cut(block(40, 30, 10), cut(tool, moved(block(40, 60, 60), left)));
        body = cut(body, cut(tool, moved(block(40, 60, 60), right)));
        if (splines) body = asSplines(body);
        const auto holes = holesIn(body);
        QCOMPARE(holes.size(), std::size_t(1));
        QVERIFY(holes[0].faces.size() >= 2);
        QCOMPARE_NEAR(holes[0].size, 10.0, 1e-4);
        QVERIFY(holes[0].through);
        QVERIFY(!holes[0].openSide);
    }
    void holesThatCrossShareAGroup() {
        TopoDS_Shape body = cut(block(40, 40, 40), rod(gp_Ax1(gp_Pnt(20, 20, -1), gp_Dir(0, 0, 1)), 6, 42));
        body = cut(body, rod(gp_Ax1(gp_Pnt(-1, 20, 20), gp_Dir(1, 0, 0)), 3, 42));
        const auto holes = holesIn(body);
        QCOMPARE(holes.size(), std::size_t(2));  // the small one runs on beyond the large one and is still one hole
        for (const survey::Hole& hole : holes) QCOMPARE(hole.group, 0);
    }
    void anOpenSideIsSaid() {
        const auto holes = holesIn(cut(block(40, 40, 10), rod(gp_Ax1(gp_Pnt(20, 3, -1), gp_Dir(0, 0, 1)), 5, 20)));
        QCOMPARE(holes.size(), std::size_t(1));
        QVERIFY(holes[0].openSide);
    }
    void mouthsAndDepthAreMeasured() {
        TopoDS_Shape body = cut(block(40, 40, 30), rod(down(20, 20, 31), 4, 13));
        body = cut(body, coneOf(down(20, 20, 18), 4, 0, 2.4));
        const auto holes = holesIn(body);
        QCOMPARE(holes.size(), std::size_t(1));
        QVERIFY(holes[0].drillPoint);
        QVERIFY(!holes[0].through);
        QCOMPARE(holes[0].mouths.size(), std::size_t(1));
        QCOMPARE_NEAR(holes[0].depth, 14.4, 1e-6);
        QCOMPARE_NEAR(holes[0].volume, M_PI * 16 * 12 + M_PI / 3 * 16 * 2.4, 1e-6 * 700);
    }
    void twoSurveysAgree() {
        const TopoDS_Shape plate = drilledPlate(100, 80, 10, 20, 5);
        const auto one = holesIn(plate), two = holesIn(plate);
        QCOMPARE(one.size(), std::size_t(20));
        for (std::size_t i = 0; i < one.size(); ++i) QCOMPARE(one[i].faces, two[i].faces);
    }
    void sheetsHaveNoSuchHolesAndCancellingIsHeard() {
        const TopoDS_Shape plate = drilledPlate(100, 80, 10, 4, 5);
        QVERIFY(holesIn(TopExp_Explorer(plate, TopAbs_SHELL).Current()).empty());
        Progress stopped;
        stopped.cancel();
        QVERIFY(!survey::findHoles(Part("plate", plate), 4.0, {}, stopped));
    }
};

static Registered<HoleSurveyTest> holeSurveyTest;

}  // namespace rasoir::test

#include "hole_survey_test.moc"
