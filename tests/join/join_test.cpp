// Contacts and joints on bodies that one can count by hand.
#include <BRepPrimAPI_MakeSphere.hxx>

#include "geometry/integrals.h"
#include "join/contacts.h"
#include "join/joint_faults.h"
#include "join/pairs.h"
#include "model/reference.h"
#include "model/work.h"
#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

using namespace join;

class JoinTest : public QObject {
    Q_OBJECT

    static double total(const Model& model) {
        double sum = 0.0;
        for (const Occurrence& place : model.occurrences) sum += volumeOf(model.parts[place.part]->shape);
        return sum;
    }
    static gp_Trsf slanted() {
        gp_Trsf turn;
        turn.SetRotation(gp_Ax1(gp_Pnt(1, 2, 3), gp_Dir(1, 2, -1)), 0.7);
        return turn;
    }

private slots:
    void aContactHoldsWhatItsTwoHaveInCommonAlone() {
        // Two blocks on a bar: one is joined to it, the other is in contact.
        const auto at = [](double x, double z) {
            gp_Trsf by;
            by.SetTranslation(gp_Vec(x, 0, z));
            return by;
        };
        Model model = modelOf(block(30, 10, 10), "bar");
        model.parts.push_back(std::make_shared<Part>("joined", block(10, 10, 10)));
        model.parts.push_back(std::make_shared<Part>("in contact", block(10, 10, 10)));
        model.occurrences.push_back({1, at(0, 10), "joined", {}, std::nullopt});
        model.occurrences.push_back({2, at(20, 10), "in contact", {}, std::nullopt});
        model.giveIds();
        const auto joined = run(model, "join.pairs", {{"places", {"bar", "joined"}}});
        QVERIFY2(joined, said(joined));
        const auto done =
            run(joined->model, "join.contact", {{"pairs", Json::array({Json::array({"bar", "in contact"})})}});
        QVERIFY2(done, said(done));
        QCOMPARE(done->model.pairings.size(), std::size_t(1));
        for (const std::string& side : {done->model.pairings[0].first, done->model.pairings[0].second}) {
            double area = 0.0;
            for (const Group& group : done->model.groups)
                if (group.name == side)
                    for (const Member& member : group.members)
                        area += areaOf(done->model.parts[*done->model.partOf(member.part)]->incidence().face(
                            member.entity.number));
            QCOMPARE_NEAR(area, 100.0, 1e-9);
        }
        QVERIFY(faultsInJoints(done->model).empty());
        QVERIFY(std::any_of(done->model.joints.begin(), done->model.joints.end(),
                            [](const Joint& joint) { return joint.kind == EntityKind::Face; }));
    }
    void theSafeLimitIsAThirdOfTheThinnestWallConcerned() {
        // An angle of 2 mm walls beside a stout block: its box is 60 mm wide, its walls are not.
        Model model = withBodies({fuse(block(60, 60, 2), block(2, 60, 60)), moved(block(40, 40, 40), by(0, 100, 0)),
                                  moved(block(60, 60, 0.3), by(0, 200, 0))});
        model.targetSize = 30.0;
        const SafeLimit angle = safeLimit(model, {0, 1});
        QCOMPARE_NEAR(angle.mm, 0.5, 1e-9);  // two thirds, as one would say it
        QVERIFY2(angle.why.find("body 1") != std::string::npos, angle.why.c_str());
        QCOMPARE_NEAR(safeLimit(model, {1}).mm, 2.0, 1e-9);  // the target size bounds it, not its 40 mm
        // The foil limits those that are joined with it, and nobody else.
        QCOMPARE_NEAR(safeLimit(model).mm, 0.05, 1e-9);
        model.occurrences.change(2).aside = true;
        QCOMPARE_NEAR(safeLimit(model).mm, 0.5, 1e-9);
        const auto beyond = run(model, "join.pairs", {{"upTo", 0.7}});
        QVERIFY(!beyond);
        QVERIFY2(beyond.error().what.find("a third of the walls of \"body 1\"") != std::string::npos, said(beyond));
    }
    void whoHasAThingInCommonIsTold() {
        // Four cubes round one edge: it is of all four, the faces are of two each.
        std::vector<TopoDS_Shape> cubes;
        for (const double x : {0.0, 10.0})
            for (const double y : {0.0, 10.0}) cubes.push_back(moved(block(10, 10, 10), by(x, y, 0)));
        const auto done = run(withBodies(cubes), "join.pairs");
        QVERIFY2(done, said(done));
        std::map<std::size_t, int> edges, faces;
        const Incidence& topology = done->model.parts[0]->incidence();
        for (int e = 1; e <= topology.edgeCount(); ++e) ++edges[commonTo(done->model, 0, {EntityKind::Edge, e}).size()];
        for (int f = 1; f <= topology.faceCount(); ++f) ++faces[commonTo(done->model, 0, {EntityKind::Face, f}).size()];
        QCOMPARE(edges, (std::map<std::size_t, int>{{0, 5}, {2, 6}, {4, 1}}));
        QCOMPARE(faces, (std::map<std::size_t, int>{{0, 4}, {2, 2}}));
    }
    void whatHangsTogetherIsOneSet() {
        // Two pairs of cubes, one cube alone, and one that touches a pair in an edge.
        const auto at = [](double x, double y) {
            gp_Trsf by;
            by.SetTranslation(gp_Vec(x, y, 0));
            return by;
        };
        Model model = modelOf(block(10, 10, 10), "cube");
        model.occurrences.clear();
        for (const auto& [x, y] :
             {std::pair{0.0, 0.0}, {50.0, 0.0}, {10.0, 0.0}, {60.0, 0.0}, {100.0, 0.0}, {20.0, 10.0}})
            model.occurrences.push_back({0, at(x, y), "cube", {}, std::nullopt});
        model.giveIds();
        QCOMPARE(joinedSets(model), std::vector<int>(6, -1));
        const auto done = run(model, "join.pairs");
        QVERIFY2(done, said(done));
        QCOMPARE(joinedSets(done->model), (std::vector<int>{0, 1, 0, 1, -1, 0}));
    }
    void facesAreCountedAtCommonEdges() {
        // Two cubes on each other: four edges, at each the common face once and a side of either.
        gp_Trsf up;
        up.SetTranslation(gp_Vec(0, 0, 10));
        Model model;
        for (const auto& [name, shape] :
             {std::pair{"below", block(10, 10, 10)}, {"above", moved(block(10, 10, 10), up)}}) {
            Occurrence place;
            place.part = model.parts.size();
            place.name = name;
            model.occurrences.push_back(place);
            model.parts.push_back(std::make_shared<Part>(name, shape));
        }
        model.giveIds();
        QVERIFY(join::joinedEdges(model).empty());
        const auto done = run(model, "join.pairs");
        QVERIFY2(done, said(done));
        const auto edges = join::joinedEdges(done->model);
        QCOMPARE(edges.size(), std::size_t(4));
        for (const join::JoinedEdge& edge : edges) {
            QCOMPARE(edge.faces, 3);
            QCOMPARE(edge.bodies, std::size_t(2));
        }
    }
    void theTableOfTruth_data() {
        QTest::addColumn<std::vector<TopoDS_Shape>>("bodies");
        QTest::addColumn<int>("faces");  // of all, counted once
        QTest::addColumn<int>("edges");
        QTest::addColumn<int>("common");  // face joints
        const TopoDS_Shape cube = block(10, 10, 10);
        QTest::newRow("two cubes, wholly") << std::vector{cube, moved(cube, by(0, 0, 10))} << 11 << 20 << 1;
        // Each cube: twelve edges, two of them parted, and one across its face. The four round the common face count
        // once.
        QTest::newRow("two cubes, shifted along an edge")
            << std::vector{cube, moved(cube, by(4, 0, 10))} << 13 << 26 << 1;
        QTest::newRow("two cubes, shifted both ways") << std::vector{cube, moved(cube, by(4, 3, 10))} << 13 << 28 << 1;
        QTest::newRow("small cube on the middle of a large one")
            << std::vector{cube, moved(block(4, 4, 4), by(3, 3, 10))} << 12 << 24 << 1;
        QTest::newRow("two cubes along an edge") << std::vector{cube, moved(cube, by(10, 10, 0))} << 12 << 23 << 0;
        QTest::newRow("three in a stack")
            << std::vector{cube, moved(cube, by(0, 0, 10)), moved(cube, by(0, 0, 20))} << 16 << 28 << 2;
        std::vector<TopoDS_Shape> plates;
        for (int i = 0; i < 5; ++i) plates.push_back(moved(block(10, 10, 2), by(0, 0, 2.0 * i)));
        QTest::newRow("a stack of five plates") << plates << 26 << 44 << 4;
        QTest::newRow("two cubes at a corner") << std::vector{cube, moved(cube, by(10, 10, 10))} << 12 << 24 << 0;
        // An octagon is common, of four edges of either; each cube keeps four corners of its face.
        gp_Trsf turned;
        turned.SetRotation(gp_Ax1(gp_Pnt(5, 5, 0), gp_Dir(0, 0, 1)), M_PI / 4.0);
        QTest::newRow("two cubes, turned in their plane")
            << std::vector{cube, moved(moved(cube, turned), by(0, 0, 10))} << 19 << 40 << 1;
        const gp_Ax1 up(gp_Pnt(5, 5, -5), gp_Dir(0, 0, 1));
        const TopoDS_Shape bored = cut(cube, rod(up, 3, 20)),
                           pin = rod(gp_Ax1(gp_Pnt(5, 5, 0), gp_Dir(0, 0, 1)), 3, 10);
        // The bore's wall is one face with the pin's; its seam and the pin's are one where they stand alike.
        QTest::newRow("pin in a bore") << std::vector{bored, pin} << 6 + 1 + 2 << 12 + 3 << 1;
        // Half of the ball is in the cup; a circle parts it, and each half keeps its half of the seam.
        const TopoDS_Shape ball = BRepPrimAPI_MakeSphere(gp_Pnt(10, 10, 10), 6.0).Shape();
        QTest::newRow("ball in a cup") << std::vector{cut(block(20, 20, 10), ball), ball} << 8 << 12 + 3 << 1;
        const TopoDS_Shape flat = sheetAt({0, 0, 0}, {20, 0, 0}, {0, 20, 0});
        QTest::newRow("sheets in a T") << std::vector{flat, sheetAt({0, 10, 0}, {20, 0, 0}, {0, 0, 8})} << 3 << 10 << 0;
        QTest::newRow("sheets in an X") << std::vector{flat, sheetAt({0, 10, -4}, {20, 0, 0}, {0, 0, 8})} << 4 << 13
                                        << 0;
        QTest::newRow("a sheet inside a block")
            << std::vector{cube, sheetAt({2, 2, 5}, {6, 0, 0}, {0, 6, 0})} << 7 << 16 << 0;
        // Where the sheet's edge parts the block's face, that face is two.
        QTest::newRow("a sheet across a block's face")
            << std::vector{cube, sheetAt({0, 5, 10}, {10, 0, 0}, {0, 0, 5})} << 8 << 12 + 2 + 4 << 0;
    }
    void theTableOfTruth() {
        QFETCH(std::vector<TopoDS_Shape>, bodies);
        QFETCH(int, faces);
        QFETCH(int, edges);
        QFETCH(int, common);
        for (const bool backwards : {false, true}) {
            if (backwards) std::reverse(bodies.begin(), bodies.end());
            const Model model = withBodies(bodies);
            const auto done = run(model, "join.pairs");
            QVERIFY2(done, said(done));
            QCOMPARE_NEAR(total(done->model), total(model), 1e-9 * total(model));
            for (const auto& part : done->model.parts) QVERIFY(isValid(part->shape));
            const Counted counted = countJoined(done->model);
            const auto faceJoints = std::count_if(done->model.joints.begin(), done->model.joints.end(),
                                                  [](const Joint& joint) { return joint.kind == EntityKind::Face; });
            QCOMPARE(static_cast<int>(counted.faces), faces);
            QCOMPARE(static_cast<int>(counted.edges), edges);
            QCOMPARE(static_cast<int>(faceJoints), common);
            QVERIFY(faultsInJoints(done->model).empty());
        }
    }
    void theTableHoldsWithGapsAndOverlaps_data() {
        QTest::addColumn<std::vector<TopoDS_Shape>>("bodies");
        QTest::addColumn<gp_XYZ>("apart");  // where each body goes against the one before it
        QTest::addColumn<int>("faces");
        QTest::addColumn<int>("edges");
        const TopoDS_Shape cube = block(10, 10, 10);
        const gp_XYZ up(0, 0, 1);
        QTest::newRow("wholly") << std::vector{cube, moved(cube, by(0, 0, 10))} << up << 11 << 20;
        QTest::newRow("shifted along an edge") << std::vector{cube, moved(cube, by(4, 0, 10))} << up << 13 << 26;
        QTest::newRow("shifted both ways") << std::vector{cube, moved(cube, by(4, 3, 10))} << up << 13 << 28;
        QTest::newRow("small on large") << std::vector{cube, moved(block(4, 4, 4), by(3, 3, 10))} << up << 12 << 24;
        gp_Trsf turned;
        turned.SetRotation(gp_Ax1(gp_Pnt(5, 5, 0), gp_Dir(0, 0, 1)), M_PI / 4.0);
        QTest::newRow("turned") << std::vector{cube, moved(moved(cube, turned), by(0, 0, 10))} << up << 19 << 40;
        std::vector<TopoDS_Shape> plates;
        for (int i = 0; i < 5; ++i) plates.push_back(moved(block(10, 10, 2), by(0, 0, 2.0 * i)));
        QTest::newRow("a stack of five plates") << plates << up << 26 << 44;
        QTest::newRow("on an inclined face")
            << std::vector{moved(cube, slanted()), moved(moved(cube, by(0, 0, 10)), slanted())}
            << gp_Vec(0, 0, 1).Transformed(slanted()).XYZ() << 11 << 20;
        const TopoDS_Shape flat = sheetAt({0, 0, 0}, {20, 0, 0}, {0, 20, 0});
        QTest::newRow("sheets in a T") << std::vector{flat, sheetAt({0, 10, 0}, {20, 0, 0}, {0, 0, 8})} << up << 3
                                       << 10;
    }
    void theTableHoldsWithGapsAndOverlaps() {
        QFETCH(std::vector<TopoDS_Shape>, bodies);
        QFETCH(gp_XYZ, apart);
        QFETCH(int, faces);
        QFETCH(int, edges);
        constexpr double limit = 0.2;
        for (const double gap : {1e-6, 1e-3, 0.5 * limit, 0.9 * limit, -1e-6, -1e-3, -0.5 * limit, -0.9 * limit}) {
            if (gap < 0.0 && facesIn(bodies.front()) == 1) continue;  // a sheet that reaches through one ends on it not
            std::vector<TopoDS_Shape> set;
            for (std::size_t i = 0; i < bodies.size(); ++i) {
                const gp_XYZ shift = apart * (gap * static_cast<double>(i));
                set.push_back(moved(bodies[i], by(shift.X(), shift.Y(), shift.Z())));
            }
            Model model = withBodies(set);
            model.targetSize = 4.0;
            const auto done = run(model, "join.pairs", {{"upTo", limit}});
            QVERIFY2(done, qPrintable(QString("%1: %2").arg(gap).arg(said(done))));
            const Counted counted = countJoined(done->model);
            QVERIFY2(static_cast<int>(counted.faces) == faces && static_cast<int>(counted.edges) == edges,
                     qPrintable(QString("%1: %2 faces, %3 edges").arg(gap).arg(counted.faces).arg(counted.edges)));
            QVERIFY(faultsInJoints(done->model).empty());
            for (const auto& part : done->model.parts) QVERIFY(isValid(part->shape));
        }
    }
    void plantedFaultsAreFound() {
        const TopoDS_Shape cube = block(10, 10, 10);
        const auto done = run(withBodies({cube, moved(cube, by(4, 3, 10))}), "join.pairs");
        QVERIFY2(done, said(done));
        Model broken = done->model;
        const auto face = std::find_if(broken.joints.begin(), broken.joints.end(),
                                       [](const Joint& joint) { return joint.kind == EntityKind::Face; });
        QVERIFY(face != broken.joints.end());
        face->uses[1].number = face->uses[1].number == 1 ? 2 : 1;
        QVERIFY(!faultsInJoints(broken).empty());
        broken = done->model;
        broken.occurrences.change(1).placement = by(0.1, 0, 0);
        QVERIFY(!faultsInJoints(broken).empty());
        broken = done->model;
        broken.joints.front().uses[0].place = 9999;
        QVERIFY(!faultsInJoints(broken).empty());
    }
    void whatChangesAJoinedFaceIsTold() {
        const TopoDS_Shape cube = cut(block(20, 20, 10), rod(gp_Ax1(gp_Pnt(10, 10, -1), gp_Dir(0, 0, 1)), 2, 20));
        const auto joined = run(withBodies({cube, moved(block(20, 20, 10), by(0, 0, 10))}), "join.pairs");
        QVERIFY2(joined, said(joined));
        const auto filled = run(joined->model, "shave.removeHoles", {{"upTo", 5.0}});
        QVERIFY2(filled, said(filled));
        // The hole's mouth was an edge of the common face: what is left of it no longer matches its partner.
        QVERIFY(faultsInJoints(filled->model).empty());
        QVERIFY(filled->model.joints.size() < joined->model.joints.size());
        QVERIFY(std::any_of(filled->notes.begin(), filled->notes.end(),
                            [](const std::string& note) { return note.find("join them again") != std::string::npos; }));
    }
    void overlapsAreRefusedByName() {
        const Model model = withBodies({block(10, 10, 10), moved(block(10, 10, 10), by(5, 0, 0))});
        const auto refused = run(model, "join.pairs");
        QVERIFY(!refused);
        QVERIFY(refused.error().what.find("body 1") != std::string::npos);
        QVERIFY(refused.error().what.find("500") != std::string::npos);  // mm³ in common
    }
    void badLimitsAreRefused() {
        const Model model = withBodies({block(10, 10, 10), moved(block(10, 10, 10), by(0, 0, 10))});
        for (const double bad : {-1.0, 1e9, std::nan("")}) {
            const auto refused = run(model, "join.pairs", {{"upTo", bad}});
            QVERIFY(!refused);
        }
        const auto alone = run(model, "join.pairs", {{"apart", {"body 2"}}});
        QVERIFY(!alone);
        const auto none = run(withBodies({block(10, 10, 10), moved(block(10, 10, 10), by(0, 0, 30))}), "join.pairs");
        QVERIFY(!none);
        QCOMPARE(none.error().kind, ProblemKind::NothingToDo);
    }
    void pairsThatAreNamedAloneAreJoined() {
        // Three in a row: the first two are joined, the third only lies on them.
        const Model model = withBodies(
            {block(10, 10, 10), moved(block(10, 10, 10), by(10, 0, 0)), moved(block(10, 10, 10), by(20, 0, 0))});
        const auto all = run(model, "join.pairs");
        QVERIFY2(all, said(all));
        const Json pair = Json::array({Json::array({model.parts[0]->name, model.parts[1]->name})});
        const auto some = run(model, "join.pairs", {{"pairs", pair}});
        QVERIFY2(some, said(some));
        QVERIFY(faultsInJoints(some->model).empty());
        QVERIFY(!some->model.joints.empty() && 2 * some->model.joints.size() == all->model.joints.size());
        const PlaceId third = some->model.occurrences[2].id;
        for (const Joint& joint : some->model.joints) {
            QCOMPARE(joint.uses.size(), std::size_t(2));
            QVERIFY(!joint.uses.front().reversed);
            QVERIFY(joint.uses[0].place != third && joint.uses[1].place != third);
        }
        const auto odd = run(model, "join.pairs", {{"pairs", Json::array({Json::array({"nobody", "part"})})}});
        QVERIFY(!odd);
    }
    void overlapsBelongToOneOfTheTwo_data() {
        QTest::addColumn<QString>("rule");
        QTest::addColumn<double>("large");
        QTest::addColumn<double>("small");
        QTest::newRow("smaller") << "smaller" << 8000.0 - 2 * 36 << 6.0 * 36;
        QTest::newRow("larger") << "larger" << 8000.0 << 4.0 * 36;
        QTest::newRow("first") << "first" << 8000.0 << 4.0 * 36;
    }
    void overlapsBelongToOneOfTheTwo() {
        QFETCH(QString, rule);
        QFETCH(double, large);
        QFETCH(double, small);
        // A block of 6 x 6 x 6 stands 2 mm deep in one of 20.
        const Model model = withBodies({block(20, 20, 20), moved(block(6, 6, 6), by(7, 7, 18))});
        const auto done = run(model, "join.pairs", {{"overlaps", rule.toStdString()}});
        QVERIFY2(done, said(done));
        QCOMPARE_NEAR(volumeOf(done->model.parts[0]->shape), large, 1e-6);
        QCOMPARE_NEAR(volumeOf(done->model.parts[1]->shape), small, 1e-6);
        QVERIFY(faultsInJoints(done->model).empty());
        // The seat is common: its floor, and its four sides where it is sunk.
        const auto faces = std::count_if(done->model.joints.begin(), done->model.joints.end(),
                                         [](const Joint& joint) { return joint.kind == EntityKind::Face; });
        QCOMPARE(static_cast<int>(faces), rule == "smaller" ? 5 : 1);
        QVERIFY(std::any_of(done->notes.begin(), done->notes.end(), [](const std::string& note) {
            return note.find("reached into one another by 72 mm³") != std::string::npos;
        }));
        const auto apart = run(model, "join.pairs");
        QVERIFY(!apart);
    }
    void theHarderOrTheNamedOneKeepsWhatOverlaps() {
        Model model = withBodies({block(20, 20, 20), moved(block(6, 6, 6), by(7, 7, 18))});
        // The smaller one is of rubber: its size would let it keep the 72 mm³, its softness does not.
        const auto soft = model.parts[1]->copy();
        soft->material = "rubber";
        model.parts[1] = soft;
        const auto unknown = run(model, "join.pairs", {{"overlaps", "harder"}});
        QVERIFY(!unknown);
        QVERIFY2(unknown.error().what.find("how hard") != std::string::npos, said(unknown));
        const auto hard = model.parts[0]->copy();
        hard->material = "steel";
        model.parts[0] = hard;
        model.materials = {{"steel", 7850.0, 210000.0}, {"rubber", 1100.0, 5.0}};
        for (const std::string rule : {"harder", "body 1", "body 2"}) {
            const auto done = run(model, "join.pairs", {{"overlaps", rule}});
            QVERIFY2(done, said(done));
            const double given = rule == "body 2" ? 72.0 : 0.0;
            QCOMPARE_NEAR(volumeOf(done->model.parts[0]->shape), 8000.0 - given, 1e-6);
            QCOMPARE_NEAR(volumeOf(done->model.parts[1]->shape), 216.0 - 72.0 + given, 1e-6);
            QVERIFY(faultsInJoints(done->model).empty());
        }
        const auto nobody = run(model, "join.pairs", {{"overlaps", "nobody"}});
        QVERIFY(!nobody);
        QVERIFY2(nobody.error().what.find("nobody") != std::string::npos, said(nobody));
    }
    void bodiesOfOnePartAreJoinedWhenAsked() {
        // Three cubes in one part, in a row, twice; a plate beneath the first place.
        Model model = modelOf(compoundOf({block(10, 10, 10), moved(block(10, 10, 10), by(10, 0, 0)),
                                          moved(block(10, 10, 12), by(20, 0, 0))}),
                              "row");
        model.occurrences.push_back({0, by(0, 50, 0), "row", {}, std::nullopt});
        model.parts.push_back(std::make_shared<Part>("plate", moved(block(30, 10, 5), by(0, 0, -5))));
        model.occurrences.push_back({1, gp_Trsf(), "plate", {}, std::nullopt});
        model.giveIds();
        const auto plain = run(model, "join.pairs");
        QVERIFY2(plain, said(plain));
        // One part still, but that the plate now knows each of its bodies; the other place is what it was.
        QCOMPARE(plain->model.occurrences.size(), std::size_t(3));
        QCOMPARE(plain->model.parts.size(), std::size_t(3));
        QVERIFY(plain->model.parts[plain->model.occurrences[1].part] == model.parts[0]);
        QVERIFY(faultsInJoints(plain->model).empty());
        QCOMPARE(plain->items.size(), std::size_t(1));
        QVERIFY2(plain->items[0].what.find("3 faces in common, 300 mm²") != std::string::npos,
                 plain->items[0].what.c_str());
        for (const Joint& joint : plain->model.joints) {
            std::set<PlaceId> places;
            for (const JointUse& use : joint.uses) places.insert(use.place);
            QCOMPARE(places.size(), std::size_t(2));  // never its own bodies alone
        }
        const Part& row = *plain->model.parts[plain->model.occurrences[0].part];
        QCOMPARE(row.incidence().bodyCount(), 3);
        for (int body = 1; body <= 3; ++body)
            QCOMPARE_NEAR(volumeOf(row.incidence().body(body)), body == 3 ? 1200.0 : 1000.0, 1e-9);
        const auto done = run(model, "join.pairs", {{"bodies", true}});
        QVERIFY2(done, said(done));
        QCOMPARE(done->model.occurrences.size(), std::size_t(7));
        QVERIFY(faultsInJoints(done->model).empty());
        QCOMPARE_NEAR(total(done->model), total(model), 1e-9);
        const auto faces = [](const Outcome& outcome) {
            return std::count_if(outcome.model.joints.begin(), outcome.model.joints.end(),
                                 [](const Joint& joint) { return joint.kind == EntityKind::Face; });
        };
        QCOMPARE(faces(*done), std::ptrdiff_t(2 + 2 + 3));
        QVERIFY(std::any_of(done->notes.begin(), done->notes.end(), [](const std::string& note) {
            return note == "The 3 bodies of \"row\" are parts of their own now.";
        }));
        // Only among themselves, not with the plate.
        const auto own =
            run(model, "join.pairs", {{"bodies", true}, {"pairs", Json::array({Json::array({"row", "row"})})}});
        QVERIFY2(own, said(own));
        QCOMPARE(faces(*own), std::ptrdiff_t(4));
        // A body that touches none of its own, joined in one place and not in the other, has an heir in both.
        Model loose = modelOf(compoundOf({block(10, 10, 10), moved(block(4, 4, 4), by(30, 0, 0))}), "pair");
        loose.occurrences.push_back({0, by(0, 50, 0), "pair", {}, std::nullopt});
        loose.parts.push_back(std::make_shared<Part>("plate", moved(block(40, 10, 5), by(0, 0, -5))));
        loose.occurrences.push_back({1, gp_Trsf(), "plate", {}, std::nullopt});
        loose.giveIds();
        const auto apart = run(loose, "join.pairs", {{"bodies", true}});
        QVERIFY2(apart, said(apart));
        for (std::size_t o = 0; o + 1 < apart->model.occurrences.size(); ++o)
            QVERIFY2(std::any_of(apart->lineage.begin(), apart->lineage.end(),
                                 [&](const PartLineage& one) {
                                     return one.part == 0 && one.into == apart->model.occurrences[o].part &&
                                            !one.untouched && one.of(EntityKind::Body).size() == 1;
                                 }),
                     apart->model.occurrences[o].name.c_str());
        // Every old body, face and edge is accounted for.
        for (const auto& outcome : {done, own})
            for (int body = 1; body <= 3; ++body)
                QVERIFY(std::any_of(outcome->lineage.begin(), outcome->lineage.end(), [&](const PartLineage& one) {
                    const auto& links = one.of(EntityKind::Body);
                    return one.part == 0 &&
                           (one.untouched ||
                            std::any_of(links.begin(), links.end(), [&](const Link& l) { return l.before == body; }));
                }));
    }
    void aSheetInABlockHasItOnBothSides() {
        // One within, one that reaches out on one side, and one that lies on the outside.
        const Model model =
            withBodies({block(10, 10, 10), sheetAt({2, 2, 5}, {6, 0, 0}, {0, 6, 0}),
                        sheetAt({5, 2, 2}, {0, 6, 0}, {0, 0, 12}), sheetAt({2, 2, 0}, {6, 0, 0}, {0, 6, 0})});
        const auto done = run(model, "join.pairs");
        QVERIFY2(done, said(done));
        std::map<std::string, double> within;
        for (const Pairing& pairing : done->model.pairings) {
            QCOMPARE(pairing.kind, PairingKind::Within);
            for (const Group& group : done->model.groups)
                if (group.name == pairing.first)
                    for (const Member& member : group.members)
                        within[pairing.name] +=
                            areaOf(done->model.parts[*done->model.partOf(member.part)]->incidence().face(
                                member.entity.number));
        }
        QCOMPARE(within.size(), std::size_t(2));
        QCOMPARE_NEAR(within["body 2 in body 1"], 36.0, 1e-9);
        QCOMPARE_NEAR(within["body 3 in body 1"], 48.0, 1e-9);
    }
    void aGridOfBlocksIsOne() {
        const int n = qEnvironmentVariableIsSet("RASOIR_LONG") ? 10 : 4;
        std::vector<TopoDS_Shape> blocks;
        for (int i = 0; i < n * n * n; ++i)
            blocks.push_back(moved(block(2, 2, 2), by(2.0 * (i % n), 2.0 * (i / n % n), 2.0 * (i / (n * n)))));
        const auto done = run(withBodies(blocks), "join.pairs");
        QVERIFY2(done, said(done));
        const Counted counted = countJoined(done->model);
        QCOMPARE(static_cast<int>(counted.faces), 3 * n * n * (n + 1));
        QCOMPARE(static_cast<int>(counted.edges), 3 * n * (n + 1) * (n + 1));
        QCOMPARE(static_cast<int>(counted.vertices), (n + 1) * (n + 1) * (n + 1));
        QVERIFY(faultsInJoints(done->model).empty());
    }
    void aBodyWhollyInAnotherIsNotLost() {
        const Model model = withBodies({block(20, 20, 20), moved(block(6, 6, 6), by(7, 7, 7))});
        const auto gone = run(model, "join.pairs", {{"overlaps", "larger"}});
        QVERIFY(!gone);
        QVERIFY2(gone.error().what.find("Nothing would be left") != std::string::npos, said(gone));
        const auto kept = run(model, "join.pairs", {{"overlaps", "smaller"}});
        QVERIFY2(kept, said(kept));
        QCOMPARE_NEAR(total(kept->model), 8000.0, 1e-6);
    }
    void gapsAreClosed() {
        const TopoDS_Shape cube = block(10, 10, 10);
        for (const double gap : {1e-6, 1e-4, 1e-3}) {
            Model model = withBodies({cube, moved(cube, by(0, 0, 10 + gap))});
            model.targetSize = 4.0;
            const auto done = run(model, "join.pairs", {{"upTo", 2.0 * gap}});
            QVERIFY2(done, said(done));
            QCOMPARE(static_cast<int>(countJoined(done->model).faces), 11);
            QCOMPARE(static_cast<int>(countJoined(done->model).edges), 20);
            QCOMPARE_NEAR(total(done->model), 2000.0, 110.0 * gap + 1e-6);
        }
    }
    void aWholeFaceMovesToCloseAGap_data() {
        QTest::addColumn<double>("gap");  // negative: the bodies reach into one another
        for (const double gap : {0.3, 0.05, 1e-4, -0.05, -0.3})
            QTest::newRow(qPrintable(QString("%1 mm").arg(gap))) << gap;
    }
    void aWholeFaceMovesToCloseAGap() {
        QFETCH(double, gap);
        // A round pad with a hole stands on a plate with a bore and a rounded top edge; features smaller than the gap
        // must not be lost with it.
        const gp_Ax1 up(gp_Pnt(10, 10, 10 + gap), gp_Dir(0, 0, 1));
        const TopoDS_Shape plate = cut(block(20, 20, 10), rod(gp_Ax1(gp_Pnt(2, 2, -1), gp_Dir(0, 0, 1)), 0.1, 20)),
                           pad = cut(rod(up, 5, 8), rod(up, 0.15, 8));
        Model model = withBodies({plate, pad});
        model.targetSize = 5.0;
        const double before = total(model), foot = M_PI * (25.0 - 0.15 * 0.15);
        const auto done = run(model, "join.pairs", {{"upTo", 0.4}});
        QVERIFY2(done, said(done));
        // The pad's foot is the smaller face: it moves, the plate stays what it was.
        QCOMPARE_NEAR(volumeOf(done->model.parts[0]->shape), volumeOf(plate), 1e-7);
        QCOMPARE_NEAR(total(done->model), before + gap * foot, 1e-6);
        QVERIFY(faultsInJoints(done->model).empty());
        for (const auto& part : done->model.parts) QVERIFY(isValid(part->shape));
        const auto faces = std::count_if(done->model.joints.begin(), done->model.joints.end(),
                                         [](const Joint& joint) { return joint.kind == EntityKind::Face; });
        QCOMPARE(faces, std::ptrdiff_t(1));
        QVERIFY(std::any_of(done->notes.begin(), done->notes.end(), [&](const std::string& note) {
            return note.find("\"body 2\" moved by up to") != std::string::npos &&
                   note.find(gap > 0.0 ? "a gap" : "an overlap") != std::string::npos;
        }));
        // By choice the other one moves.
        const auto larger = run(model, "join.pairs", {{"upTo", 0.4}, {"gapsBy", "body 1"}});
        QVERIFY2(larger, said(larger));
        QCOMPARE_NEAR(volumeOf(larger->model.parts[1]->shape), volumeOf(pad), 1e-7);
        QCOMPARE_NEAR(volumeOf(larger->model.parts[0]->shape), volumeOf(plate) + gap * volumeOf(plate) / 10.0, 1e-6);
        // Midway both move by half.
        const auto midway = run(model, "join.pairs", {{"upTo", 0.4}, {"gapsBy", "midway"}});
        QVERIFY2(midway, said(midway));
        QCOMPARE_NEAR(volumeOf(midway->model.parts[0]->shape), volumeOf(plate) + 0.5 * gap * volumeOf(plate) / 10.0,
                      1e-6);
        QCOMPARE_NEAR(volumeOf(midway->model.parts[1]->shape), volumeOf(pad) + 0.5 * gap * foot, 1e-6);
        QVERIFY(faultsInJoints(midway->model).empty());
        const auto unknown = run(model, "join.pairs", {{"upTo", 0.4}, {"gapsBy", "nobody"}});
        QVERIFY(!unknown);
    }
    void roundsRestingOnTheFaceGoWithIt() {
        Model model = withBodies({block(20, 20, 10), block(8, 8, 6)});
        model.occurrences.change(1).placement = by(6, 6, 10.1);
        const auto rounds =
            run(model, "shave.addRounds", {{"part", "body 2"}, {"edges", {{8, 4, 0}}}, {"radius", 1.0}});
        QVERIFY2(rounds, said(rounds));
        const auto done = run(rounds->model, "join.pairs", {{"upTo", 0.2}});
        QVERIFY2(done, said(done));
        // The foot without its round, 7 x 8, has come down by the gap, and the round with it.
        QCOMPARE_NEAR(total(done->model), total(rounds->model) + 0.1 * 8 * 8, 1e-5);
        QVERIFY(faultsInJoints(done->model).empty());
        for (const auto& part : done->model.parts) QVERIFY(isValid(part->shape));
    }
    void aPinGrowsIntoItsBore() {
        const TopoDS_Shape bored = cut(block(20, 20, 10), rod(gp_Ax1(gp_Pnt(10, 10, -1), gp_Dir(0, 0, 1)), 4, 20)),
                           pin = rod(gp_Ax1(gp_Pnt(10, 10, 0), gp_Dir(0, 0, 1)), 3.9, 10);
        const auto done = run(withBodies({bored, pin}), "join.pairs", {{"upTo", 0.15}});
        QVERIFY2(done, said(done));
        QCOMPARE_NEAR(total(done->model), 4000.0, 1e-6);
        QVERIFY(faultsInJoints(done->model).empty());
    }
    void whatTouchesMovesAlong() {
        // Three in a stack: the middle one touches the lower, and is 0.1 mm from the upper. The smaller face of the gap
        // is the middle one's; nothing else may open.
        const TopoDS_Shape large = block(20, 20, 10);
        const Model model = withBodies({large, moved(block(10, 10, 5), by(5, 5, 10)), moved(large, by(0, 0, 15.1))});
        const auto done = run(model, "join.pairs", {{"upTo", 0.2}});
        QVERIFY2(done, said(done));
        QCOMPARE_NEAR(total(done->model), total(model) + 10.0, 1e-6);
        const auto faces = std::count_if(done->model.joints.begin(), done->model.joints.end(),
                                         [](const Joint& joint) { return joint.kind == EntityKind::Face; });
        QCOMPARE(faces, std::ptrdiff_t(2));
    }
    void whatTouchesAHairAsideComesToRunFlush_data() {
        QTest::addColumn<std::vector<TopoDS_Shape>>("bodies");
        QTest::addColumn<int>("faces");  // of all, the common ones counted once
        const TopoDS_Shape cube = block(10, 10, 10);
        const auto turned = [](double angle) {
            gp_Trsf turn;
            turn.SetRotation(gp_Ax1(gp_Pnt(5, 5, 0), gp_Dir(0, 0, 1)), angle);
            return turn;
        };
        const auto disc = [](double radius, double z) {
            return rod(gp_Ax1(gp_Pnt(0, 0, z), gp_Dir(0, 0, 1)), radius, 4);
        };
        QTest::newRow("one way") << std::vector{cube, moved(cube, by(0.01, 0, 10))} << 11;
        QTest::newRow("both ways") << std::vector{cube, moved(cube, by(0.01, -0.02, 10))} << 11;
        QTest::newRow("both ways and a gap") << std::vector{cube, moved(cube, by(0.01, -0.02, 10.03))} << 11;
        QTest::newRow("both ways, into one another") << std::vector{cube, moved(cube, by(0.01, -0.02, 9.97))} << 11;
        QTest::newRow("turned in their plane") << std::vector{cube, moved(cube, by(0, 0, 10) * turned(0.003))} << 11;
        QTest::newRow("a tower of five, each aside")
            << std::vector{cube, moved(cube, by(0.01, 0, 10)), moved(cube, by(-0.01, 0.01, 20)),
                           moved(cube, by(0.01, 0.01, 30)), moved(cube, by(0, -0.01, 40))}
            << 26;
        QTest::newRow("discs of two radii") << std::vector{disc(5, 0), disc(5.01, 4)} << 5;
        QTest::newRow("discs of two axes") << std::vector{disc(5, 0), moved(disc(5, 4), by(0.01, 0.01, 0))} << 5;
        // What differs by more than the limit is meant so.
        QTest::newRow("a smaller one on a larger") << std::vector{cube, moved(block(9, 9, 5), by(0.5, 0.5, 10))} << 12;
    }
    void whatTouchesAHairAsideComesToRunFlush() {
        QFETCH(std::vector<TopoDS_Shape>, bodies);
        QFETCH(int, faces);
        const Model model = withBodies(bodies);
        const auto done = run(model, "join.pairs", {{"upTo", 0.05}});
        QVERIFY2(done, said(done));
        int counted = 0, common = 0;
        for (const Occurrence& place : done->model.occurrences) {
            const Part& part = *done->model.parts[place.part];
            QVERIFY(isValid(part.shape));
            counted += part.incidence().faceCount();
            for (int e = 1; e <= part.incidence().edgeCount(); ++e) QVERIFY(lengthOf(part.incidence().edge(e)) > 0.5);
        }
        for (const Joint& joint : done->model.joints) common += joint.kind == EntityKind::Face;
        QCOMPARE(counted - common, faces);
        QCOMPARE(common, static_cast<int>(bodies.size()) - 1);
        QVERIFY(std::abs(total(done->model) - total(model)) < 0.05 * 100.0 * static_cast<double>(bodies.size()) * 2.0);
        for (const Item& item : done->items) QVERIFY2(item.done, item.what.c_str());
        // Turned and moved as a whole, as well.
        gp_Trsf turn;
        turn.SetRotation(gp_Ax1(gp_Pnt(1, 2, 3), gp_Dir(1, 2, 2)), 0.7);
        std::vector<TopoDS_Shape> placed;
        for (const TopoDS_Shape& body : bodies) placed.push_back(moved(body, turn));
        const auto again = run(withBodies(placed), "join.pairs", {{"upTo", 0.05}});
        QVERIFY2(again, said(again));
        QCOMPARE(again->model.joints.size(), done->model.joints.size());
    }
    void boltHolesThatAreAHairAsideBecomeOne() {
        TopoDS_Shape lower = block(60, 40, 5), upper = moved(block(60, 40, 5), by(0, 0, 5));
        for (const auto& [x, y] : {std::pair{10.0, 10.0}, {50.0, 10.0}, {10.0, 30.0}, {50.0, 30.0}}) {
            lower = cut(lower, rod(gp_Ax1(gp_Pnt(x, y, -1), gp_Dir(0, 0, 1)), 3, 8));
            upper = cut(upper, rod(gp_Ax1(gp_Pnt(x + 0.01, y - 0.02, 4), gp_Dir(0, 0, 1)), 3, 8));
        }
        const Model model = withBodies({lower, upper});
        const auto asTheyAre = run(model, "join.pairs");
        QVERIFY2(asTheyAre, said(asTheyAre));
        const auto done = run(model, "join.pairs", {{"upTo", 0.05}});
        QVERIFY2(done, said(done));
        for (std::size_t p = 0; p < 2; ++p) {
            QCOMPARE(done->model.parts[p]->incidence().faceCount(), 10);
            QVERIFY(asTheyAre->model.parts[p]->incidence().faceCount() > 10);
            QCOMPARE_NEAR(volumeOf(done->model.parts[p]->shape), volumeOf(lower), 1e-6);
        }
        QVERIFY(std::any_of(done->notes.begin(), done->notes.end(), [](const std::string& note) {
            return note.find("run flush with what it touches") != std::string::npos;
        }));
    }
    void aGapThatNoFaceCanCloseIsTold() {
        // A rod lies along the top, a hair above it: no flat is a cylinder. The two blocks join all the same.
        const TopoDS_Shape cube = block(10, 10, 10);
        const TopoDS_Shape lying = moved(rod(gp_Ax1(gp_Pnt(-3, 5, 2), gp_Dir(1, 0, 0)), 2, 16), by(0, 0, 10.02));
        const Model model = withBodies({cube, moved(cube, by(0, 0, -10)), lying});
        const auto done = run(model, "join.pairs", {{"upTo", 0.05}});
        QVERIFY2(done, said(done));
        QCOMPARE_NEAR(total(done->model), total(model), 1e-6);
        QVERIFY(faultsInJoints(done->model).empty());
    }
    void oneMoreBodyIsJoinedToASet() {
        const TopoDS_Shape cube = block(10, 10, 10);
        const Model model = withBodies({cube, moved(cube, by(0, 0, 10)), moved(cube, by(10, 0, 0))});
        const auto two = run(model, "join.pairs", {{"places", {"body 1", "body 2"}}});
        QVERIFY2(two, said(two));
        const auto three = run(two->model, "join.pairs", {{"places", {"body 1", "body 3"}}});
        QVERIFY2(three, said(three));
        const auto atOnce = run(model, "join.pairs");
        QVERIFY2(atOnce, said(atOnce));
        QVERIFY(faultsInJoints(three->model).empty());
        const Counted counted = countJoined(three->model), expected = countJoined(atOnce->model);
        QCOMPARE(counted.faces, expected.faces);
        // The second and the third body meet in an edge as well, which only joining all at once was asked for; through
        // the first body it is known all the same.
        QCOMPARE(counted.edges, expected.edges);
        QCOMPARE(counted.vertices, expected.vertices);
    }
    void contactsAreKeptAsGroupsOfBothSides() {
        const TopoDS_Shape cube = block(10, 10, 10);
        const Model model = withBodies({block(20, 20, 5), moved(cube, by(5, 5, 5)), moved(cube, by(5, 5, 15.05))});
        const auto done = run(model, "join.contact", {{"upTo", 0.1}, {"behaviour", "sliding"}, {"friction", 0.2}});
        QVERIFY2(done, said(done));
        QCOMPARE(done->model.pairings.size(), std::size_t(2));
        QVERIFY(done->model.joints.empty());
        QCOMPARE_NEAR(total(done->model), total(model), 1e-9);
        const Pairing& foot = done->model.pairings[0];
        QCOMPARE(foot.kind, PairingKind::Contact);
        QCOMPARE(foot.behaviour, std::string("sliding"));
        QCOMPARE(*foot.friction, 0.2);
        const auto areaOfGroup = [](const Model& now, const std::string& name) {
            double sum = 0.0;
            for (const Group& group : now.groups)
                if (group.name == name)
                    for (const Member& member : group.members)
                        sum += areaOf(now.parts[*now.partOf(member.part)]->incidence().face(member.entity.number));
            return sum;
        };
        // The plate's face is parted at the cube's outline: both sides are as large as what touches.
        QCOMPARE_NEAR(areaOfGroup(done->model, foot.first), 100.0, 1e-9);
        QCOMPARE_NEAR(areaOfGroup(done->model, foot.second), 100.0, 1e-9);
        QCOMPARE_NEAR(done->model.pairings[1].gap, 0.05, 1e-9);
        // They follow a later step, and are written and read.
        const auto cutIn =
            run(done->model, "divide.cut", {{"planes", {{{"through", {10, 0, 0}}, {"normal", {1, 0, 0}}}}}});
        QVERIFY2(cutIn, said(cutIn));
        QCOMPARE_NEAR(areaOfGroup(cutIn->model, foot.first), 100.0, 1e-6);
        QVERIFY(pairingFromJson(toJson(foot)) == foot);
        // A group that is forgotten takes its contact along, told.
        const auto dropped = run(done->model, "handover.group", {{"name", foot.first}, {"drop", true}});
        QVERIFY2(dropped, said(dropped));
        QCOMPARE(dropped->model.pairings.size(), std::size_t(1));
        QVERIFY(!dropped->notes.empty());
    }
    void aPressFitKeepsItsInterference() {
        const TopoDS_Shape bored = cut(block(20, 20, 10), rod(gp_Ax1(gp_Pnt(10, 10, -1), gp_Dir(0, 0, 1)), 4, 20)),
                           pin = rod(gp_Ax1(gp_Pnt(10, 10, 0), gp_Dir(0, 0, 1)), 4.02, 10);
        const Model model = withBodies({bored, pin});
        const auto done = run(model, "join.contact", {{"upTo", 0.1}, {"name", "press fit"}});
        QVERIFY2(done, said(done));
        QCOMPARE(done->model.pairings.size(), std::size_t(1));
        QCOMPARE(done->model.pairings[0].name, std::string("press fit"));
        QCOMPARE_NEAR(done->model.pairings[0].gap, -0.02, 1e-9);
        QCOMPARE_NEAR(total(done->model), total(model), 1e-9);
        for (const Json& bad : {Json{{"upTo", -1.0}}, Json{{"upTo", 1e6}}, Json{{"friction", -0.1}, {"upTo", 0.1}},
                                Json{{"pairs", {{"body 1", "nobody"}}}}})
            QVERIFY(!run(model, "join.contact", bad));
    }
    void linksTieWhatNeverMeets() {
        const Model model = withBodies({block(10, 10, 10), moved(block(2, 2, 2), by(0, 0, 30))});
        const Json first = makeRef(*model.parts[0], {EntityKind::Face, 1}),
                   second = makeRef(*model.parts[1], {EntityKind::Body, 1});
        const auto done = run(model, "join.link",
                              {{"name", "hanger"}, {"first", Json::array({first})}, {"second", Json::array({second})}});
        QVERIFY2(done, said(done));
        QCOMPARE(done->model.pairings.size(), std::size_t(1));
        QCOMPARE(done->model.pairings[0].kind, PairingKind::Link);
        QCOMPARE(done->model.pairings[0].behaviour, std::string("rigid"));
        QVERIFY(!run(model, "join.link", {{"name", "hanger"}, {"first", Json::array({first})}}));
        QVERIFY(!run(model, "join.link", {{"name", " "}, {"first", Json::array({first})}}));
        QVERIFY(!run(done->model, "join.link",
                     {{"name", "self"}, {"firstGroup", "hanger, first"}, {"secondGroup", "hanger, first"}}));
        const auto gone = run(done->model, "join.link", {{"name", "hanger"}, {"drop", true}});
        QVERIFY2(gone, said(gone));
        QVERIFY(gone->model.pairings.empty());
    }
    void whatStaysApartIsNotSaidToHaveMoved() {
        // The pad would come down by 0.1 mm, and reaches into two others: it stays apart, and so nothing was moved.
        const TopoDS_Shape cube = block(20, 20, 10), pad = moved(block(10, 10, 5), by(5, 5, 10.1));
        Model model = withBodies({cube, moved(cube, by(20, 0, 0)), pad, moved(block(4, 4, 4), by(7, 7, 13)),
                                  moved(block(4, 4, 4), by(12, 12, 13))});
        model.targetSize = 5.0;
        const auto done = run(model, "join.pairs", {{"upTo", 0.2}});
        QVERIFY2(done, said(done));
        QVERIFY(done->model.parts[2]->shape.IsPartner(pad));
        QVERIFY(std::none_of(done->notes.begin(), done->notes.end(),
                             [](const std::string& note) { return note.find("moved by up to") != std::string::npos; }));
    }
    void facesThatPassedEachOtherAreNearMisses() {
        const TopoDS_Shape cube = block(10, 10, 10);
        const Model model = withBodies({cube, moved(cube, by(0, 0, 9.97))});
        const auto found = findContacts(model, {0.1}, quietly());
        QVERIFY2(found, said(found));
        const auto past = std::find_if(found->contacts.begin(), found->contacts.end(),
                                       [](const Contact& contact) { return contact.past; });
        QVERIFY(past != found->contacts.end());
        QCOMPARE(past->kind, ContactKind::Near);
        QCOMPARE_NEAR(past->gap, 0.03, 1e-9);
    }
    void placesOfOnePartAreJoinedEachInItsWay() {
        Model model = withBodies({block(10, 10, 10)});
        for (const double z : {10.0, 20.0}) {
            model.occurrences.push_back(model.occurrences[0]);
            model.occurrences.changeLast().placement = by(3.0, 0, z);
            model.occurrences.changeLast().id = 0;
        }
        model.giveIds();
        const auto done = run(model, "join.pairs");
        QVERIFY2(done, said(done));
        QVERIFY(faultsInJoints(done->model).empty());
        QCOMPARE_NEAR(total(done->model), 3000.0, 1e-6);
        QVERIFY(done->model.parts.size() == 3 && !done->notes.empty());
        // Saved and opened, the joints are the same.
        const Json json = [&] {
            Json all = Json::array();
            for (const Joint& joint : done->model.joints) all.push_back(toJson(joint));
            return all;
        }();
        for (std::size_t j = 0; j < done->model.joints.size(); ++j)
            QVERIFY(jointFromJson(json[j]) == done->model.joints[j]);
    }
};

static Registered<JoinTest> joinTest;

}  // namespace rasoir::test

#include "join_test.moc"
