// Marks, bosses, pockets and cutouts on bodies of known answer: found as made, and the bare body once they are gone.
#include "shave/reliefs.h"

#include <BRepPrimAPI_MakeSphere.hxx>

#include "operations.h"
#include "support/bodies.h"
#include "support/run.h"
#include "survey/reliefs.h"

namespace rasoir::test {

class ReliefsTest : public QObject {
    Q_OBJECT

    using Kind = survey::ReliefKind;

    static TopoDS_Shape at(const TopoDS_Shape& shape, double x, double y, double z) {
        gp_Trsf shift;
        shift.SetTranslation(gp_Vec(x, y, z));
        return moved(shape, shift);
    }
    static TopoDS_Shape pin(double x, double y, double z, double radius, double height) {
        return rod(gp_Ax1(gp_Pnt(x, y, z), gp::DZ()), radius, height);
    }
    /// An L, an O and a T, each of boxes, 6 mm high, standing at z with the given thickness.
    static std::vector<TopoDS_Shape> letters(double x, double y, double z, double thickness) {
        return {fuse(at(block(1, 6, thickness), x, y, z), at(block(4, 1, thickness), x, y, z)),
                cut(at(block(4, 6, thickness), x + 6, y, z), at(block(2, 4, thickness), x + 7, y + 1, z)),
                fuse(at(block(1, 6, thickness), x + 14, y, z), at(block(4, 1, thickness), x + 12.5, y + 5, z))};
    }
    static constexpr double letterArea = (6 + 3) + (24 - 8) + (6 + 3);
    static Result<std::vector<survey::Relief>> found(const TopoDS_Shape& shape, double target = 4.0) {
        const Model model = modelOf(shape);
        const auto holes = survey::findHoles(*model.parts[0], target, {}, quietly());
        if (!holes) return tl::unexpected(holes.error());
        return survey::findReliefs(*model.parts[0], target, *holes, quietly());
    }
    static Result<Outcome> without(const TopoDS_Shape& shape, double upTo, const std::vector<std::string>& kinds,
                                   double target = 4.0) {
        Model model = modelOf(shape);
        model.targetSize = target;
        return findOperation("shave.removeReliefs")->run(model, {{"upTo", upTo}, {"kinds", kinds}}, quietly());
    }
    static int countOf(const std::vector<survey::Relief>& reliefs, Kind kind) {
        return static_cast<int>(
            std::count_if(reliefs.begin(), reliefs.end(), [kind](const auto& r) { return r.kind == kind; }));
    }
    /// A plate with three raised letters, a square boss, a round one, a pocket, a boss in that, a window, and a hole.
    static TopoDS_Shape richPlate() {
        TopoDS_Shape plate = block(120, 80, 10);
        for (const TopoDS_Shape& letter : letters(10, 60, 10, 0.5)) plate = fuse(plate, letter);
        plate = fuse(plate, at(block(6, 8, 5), 50, 60, 10));
        plate = fuse(plate, pin(75, 64, 10, 4, 7));
        plate = cut(plate, at(block(20, 16, 6), 10, 20, 4));
        plate = fuse(plate, at(block(4, 4, 3), 18, 26, 4));
        plate = cut(plate, at(block(12, 9, 10), 50, 20, 0));
        return cut(plate, pin(90, 30, -1, 4, 12));
    }

private slots:
    void everyKindIsFoundAsMade() {
        const auto reliefs = found(richPlate());
        QVERIFY2(reliefs, said(reliefs));
        QCOMPARE(countOf(*reliefs, Kind::Mark), 1);
        QCOMPARE(countOf(*reliefs, Kind::Boss), 3);
        QCOMPARE(countOf(*reliefs, Kind::Pocket), 1);
        QCOMPARE(countOf(*reliefs, Kind::Cutout), 1);
        QCOMPARE(reliefs->size(), std::size_t(6));  // the hole is none of them
        for (const survey::Relief& relief : *reliefs) switch (relief.kind) {
                case Kind::Notch:
                case Kind::Rib:
                case Kind::Step:
                    QFAIL("it has none");
                case Kind::Mark:
                    QCOMPARE(relief.pieces, 3);
                    QCOMPARE_NEAR(relief.height, 0.5, 1e-9);
                    QCOMPARE_NEAR(relief.gain, -0.5 * letterArea, 1e-6);
                    QCOMPARE_NEAR(relief.breadth, std::hypot(16.5, 6.0), 0.01);
                    break;
                case Kind::Pocket:
                    QCOMPARE_NEAR(relief.height, 6.0, 1e-9);
                    QCOMPARE_NEAR(relief.gain, 20 * 16 * 6 - 4 * 4 * 3, 1e-6);
                    QCOMPARE_NEAR(relief.breadth, std::hypot(20.0, 16.0), 1e-6);
                    break;
                case Kind::Cutout:
                    QCOMPARE_NEAR(relief.gain, 12 * 9 * 10, 1e-6);
                    QCOMPARE(relief.faces.size(), std::size_t(4));
                    QCOMPARE(relief.bases.size(), std::size_t(2));
                    break;
                case Kind::Boss:
                    if (relief.faces.size() == 2) {  // wall and top
                        QCOMPARE_NEAR(relief.breadth, 8.0, 0.05);
                        QCOMPARE_NEAR(relief.gain, -16 * M_PI * 7, 0.02);
                    } else {
                        QVERIFY(std::abs(relief.gain + 240) < 1e-6 || std::abs(relief.gain + 48) < 1e-6);
                    }
            }
    }
    void allOfThemGo() {
        const TopoDS_Shape plate = richPlate();
        const auto done = without(plate, 100, {"mark", "boss", "pocket", "cutout"});
        QVERIFY2(done, said(done));
        const TopoDS_Shape& made = done->model.parts[0]->shape;
        QVERIFY(isValid(made));
        QCOMPARE(facesIn(made), 7);
        QCOMPARE_NEAR(volumeOf(made), 120 * 80 * 10 - M_PI * 16 * 10, 1e-6 * 96000);
        QCOMPARE(done->items.size(), std::size_t(5));  // the boss in the pocket goes with the pocket
        for (const Item& item : done->items) QVERIFY2(item.done, item.problem.what.c_str());
    }
    void limitsAndKindsDecide() {
        const TopoDS_Shape plate = richPlate();
        const auto marks = without(plate, 0.5, {"mark"});
        QVERIFY2(marks, said(marks));
        QCOMPARE_NEAR(volumeOf(plate) - volumeOf(marks->model.parts[0]->shape), 0.5 * letterArea, 1e-6);
        QVERIFY(!without(plate, 0.4, {"mark"}));
        // The boss in the pocket is 5.7 across, the round one 8, the square one 10.
        const auto small = without(plate, 6, {"boss"});
        QVERIFY2(small, said(small));
        QCOMPARE_NEAR(volumeOf(plate) - volumeOf(small->model.parts[0]->shape), 48.0, 1e-6);
        const auto two = without(plate, 9, {"boss"});
        QVERIFY2(two, said(two));
        QCOMPARE_NEAR(volumeOf(plate) - volumeOf(two->model.parts[0]->shape), 48.0 + 16 * M_PI * 7, 1e-5);
        // Kept by one of its faces; chosen by one of its faces.
        Model model = modelOf(plate);
        const auto reliefs = found(plate);
        QVERIFY(reliefs);
        for (const survey::Relief& relief : *reliefs) {
            if (relief.kind != Kind::Pocket) continue;
            const FaceRef face = makeFaceRef(*model.parts[0], relief.wall);
            Json step{{"upTo", 100.0}, {"kinds", {"pocket"}}, {"kept", {face}}};
            QVERIFY(!findOperation("shave.removeReliefs")->run(model, step, quietly()));
        }
        for (const survey::Relief& relief : *reliefs) {
            if (relief.kind != Kind::Pocket) continue;
            // The pocket kept, what stands in it goes; that kept, the pocket stays as well.
            const auto inside =
                findOperation("shave.removeReliefs")
                    ->run(model,
                          {{"upTo", 6.0}, {"kinds", {"boss"}}, {"kept", {makeFaceRef(*model.parts[0], relief.wall)}}},
                          quietly());
            QVERIFY2(inside, said(inside));
            QCOMPARE_NEAR(volumeOf(plate) - volumeOf(inside->model.parts[0]->shape), 48.0, 1e-6);
            const auto whole = findOperation("shave.removeReliefs")
                                   ->run(model, {{"chosen", {makeFaceRef(*model.parts[0], relief.wall)}}}, quietly());
            QVERIFY2(whole, said(whole));
            QCOMPARE_NEAR(volumeOf(whole->model.parts[0]->shape) - volumeOf(plate), 20 * 16 * 6 - 48, 1e-5);
        }
        const survey::Relief& first = reliefs->front();
        const auto chosen = findOperation("shave.removeReliefs")
                                ->run(model, {{"chosen", {makeFaceRef(*model.parts[0], first.wall)}}}, quietly());
        QVERIFY2(chosen, said(chosen));
        QCOMPARE_NEAR(volumeOf(chosen->model.parts[0]->shape) - volumeOf(plate), first.gain, 1e-5);
    }
    void movedTurnedAndScaledTheSame_data() {
        QTest::addColumn<double>("scale");
        for (const double scale : {0.001, 1.0, 25.4, 1000.0}) QTest::addRow("x%g", scale) << scale;
    }
    void movedTurnedAndScaledTheSame() {
        QFETCH(double, scale);
        gp_Trsf turn;
        turn.SetRotation(gp_Ax1(gp_Pnt(5, 6, 7), gp_Dir(1, -2, 0.5)), 1.1);
        const TopoDS_Shape plate = scaledBy(moved(richPlate(), turn), scale);
        const auto reliefs = found(plate, 4.0 * scale);
        QVERIFY2(reliefs, said(reliefs));
        QCOMPARE(countOf(*reliefs, Kind::Mark), 1);
        QCOMPARE(countOf(*reliefs, Kind::Boss), 3);
        QCOMPARE(countOf(*reliefs, Kind::Pocket), 1);
        QCOMPARE(countOf(*reliefs, Kind::Cutout), 1);
        const auto done = without(plate, 100 * scale, {"mark", "boss", "pocket", "cutout"}, 4.0 * scale);
        QVERIFY2(done, said(done));
        const double bare = (120 * 80 * 10 - M_PI * 16 * 10) * std::pow(scale, 3);
        QCOMPARE_NEAR(volumeOf(done->model.parts[0]->shape), bare, 1e-6 * bare);
        QCOMPARE(facesIn(done->model.parts[0]->shape), 7);
    }
    void lettersOnACurvedWall() {
        // Raised and sunk on a drum: each letter is what a box leaves between two radii.
        const TopoDS_Shape drum = rod(gp_Ax1(gp_Pnt(0, 0, 0), gp::DX()), 30, 60);
        TopoDS_Shape raised = drum, sunk = drum;
        const TopoDS_Shape skin = rod(gp_Ax1(gp_Pnt(0, 0, 0), gp::DX()), 30.4, 60),
                           inner = rod(gp_Ax1(gp_Pnt(0, 0, 0), gp::DX()), 29.6, 60);
        const gp_Trsf aside = [] {
            gp_Trsf by;
            by.SetRotation(gp_Ax1(gp::Origin(), gp::DX()), 0.9);
            return by;
        }();
        TopoDS_Shape besideTheSeam = drum;
        for (const TopoDS_Shape& letter : letters(10, -3, 20, 30)) {
            besideTheSeam = fuse(besideTheSeam, moved(cut(letter, cut(letter, skin)), aside));
            raised = fuse(raised, cut(letter, cut(letter, skin)));  // less what lies beyond 30.4
            sunk = cut(sunk, cut(letter, inner));
        }
        // The seam of the wall runs right through the letters, or beside them.
        for (const auto& [body, up] : {std::pair{raised, true}, {sunk, false}, {besideTheSeam, true}}) {
            const auto reliefs = found(body);
            QVERIFY2(reliefs, said(reliefs));
            QCOMPARE(reliefs->size(), std::size_t(1));
            QCOMPARE(reliefs->front().pieces, 3);
            QCOMPARE(reliefs->front().raised, up);
            QCOMPARE_NEAR(reliefs->front().height, 0.4, 1e-3);
            const auto done = without(body, 1.0, {"mark"});
            QVERIFY2(done, said(done));
            QVERIFY(isValid(done->model.parts[0]->shape));
            QCOMPARE(facesIn(done->model.parts[0]->shape), 3);
            QCOMPARE_NEAR(volumeOf(done->model.parts[0]->shape), volumeOf(drum), 1e-6 * volumeOf(drum));
        }
    }
    void aMarkMayHaveMoreFacesThanItsBody() {
        TopoDS_Shape comb = at(block(20, 2, 0.5), 5, 5, 10);
        for (int tooth = 0; tooth < 8; ++tooth) comb = fuse(comb, at(block(1, 6, 0.5), 5 + 2.5 * tooth, 5, 10));
        const TopoDS_Shape body = fuse(block(40, 20, 10), comb);
        const auto reliefs = found(body);
        QVERIFY2(reliefs, said(reliefs));
        QCOMPARE(reliefs->size(), std::size_t(1));
        QVERIFY(reliefs->front().faces.size() > 20);
        const auto done = without(body, 1, {"mark"});
        QVERIFY2(done, said(done));
        QCOMPARE(facesIn(done->model.parts[0]->shape), 6);
        QCOMPARE_NEAR(volumeOf(done->model.parts[0]->shape), 8000.0, 1e-6 * 8000);
    }
    void aDomeIsAsHighAsItIs() {
        const TopoDS_Shape body = fuse(block(60, 40, 10), at(BRepPrimAPI_MakeSphere(5).Shape(), 30, 20, 10));
        const auto reliefs = found(body);
        QVERIFY2(reliefs, said(reliefs));
        QCOMPARE(countOf(*reliefs, Kind::Boss), 1);
        QCOMPARE_NEAR(reliefs->front().height, 5.0, 1e-6);
        QCOMPARE_NEAR(reliefs->front().gain, -2.0 / 3.0 * M_PI * 125, 0.05);
        const auto done = without(body, 20, {"boss"});
        QVERIFY2(done, said(done));
        QCOMPARE_NEAR(volumeOf(done->model.parts[0]->shape), 24000.0, 1e-6 * 24000);
    }
    void whatIsNotOneIsNotCalledOne() {
        // A shaft through a flange: neither side of it is a boss on the flange.
        const auto shaft = found(fuse(pin(0, 0, 0, 40, 5), pin(0, 0, -200, 15, 400)));
        QVERIFY(shaft);
        QVERIFY(countOf(*shaft, Kind::Pocket) == 0 && countOf(*shaft, Kind::Cutout) == 0);
        // Holes of every plate, and the bare bodies.
        for (const TopoDS_Shape& body :
             {block(10, 20, 30), drilledPlate(100, 60, 8, 12, 5), splineTopped(60, 40, 20, 3), pin(0, 0, 0, 5, 20)}) {
            const auto reliefs = found(body);
            QVERIFY(reliefs);
            QCOMPARE(reliefs->size(), std::size_t(0));
        }
        // Two holes that cross, each named by the survey of holes.
        const auto crossing = found(
            cut(cut(block(60, 40, 20), pin(30, 20, -1, 4, 22)), rod(gp_Ax1(gp_Pnt(-1, 20, 10), gp::DX()), 3, 62)));
        QVERIFY(crossing && crossing->empty());
        // A pocket that is open to the side is a step of the body's outline.
        const auto open = found(cut(block(60, 40, 20), at(block(30, 20, 10), 40, 10, 10)));
        QVERIFY(open && open->empty());
    }
    void onSplinesToo() {
        TopoDS_Shape body = fuse(block(60, 40, 10), at(block(6, 6, 4), 20, 20, 10));
        body = cut(body, at(block(10, 8, 5), 35, 10, 5));
        const TopoDS_Shape splines = asSplines(body);
        const auto done = without(splines, 50, {"boss", "pocket"});
        QVERIFY2(done, said(done));
        QCOMPARE(facesIn(done->model.parts[0]->shape), 6);
        QCOMPARE_NEAR(volumeOf(done->model.parts[0]->shape), 24000.0, 1e-6 * 24000);
    }
    void nonsenseIsRefused() {
        const TopoDS_Shape plate = richPlate();
        const Model model = modelOf(plate);
        const auto run = [&](const Json& step) {
            return findOperation("shave.removeReliefs")->run(model, step, quietly());
        };
        QVERIFY(!run({{"upTo", -1.0}, {"kinds", {"mark"}}}));
        QVERIFY(!run({{"upTo", 5.0}}));
        QVERIFY(!run({{"upTo", 5.0}, {"kinds", {"hill"}}}));
        QVERIFY(!run({{"upTo", 5.0}, {"kinds", {"mark"}}, {"parts", {"nobody"}}}));
        // A face that belongs to none of them is refused with its number.
        const auto outside = run({{"chosen", {makeFaceRef(*model.parts[0], 1)}}});
        QVERIFY(!outside);
        Progress stopped;
        stopped.cancel();
        const auto cancelled =
            findOperation("shave.removeReliefs")->run(model, {{"upTo", 5.0}, {"kinds", {"mark"}}}, stopped);
        QVERIFY(!cancelled && cancelled.error().kind == ProblemKind::Cancelled);
    }
};
static Registered<ReliefsTest> reliefsTest;

}  // namespace rasoir::test

#include "reliefs_test.moc"
