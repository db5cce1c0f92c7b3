// What touches what, on bodies of which one knows it.
#include "join/contacts.h"

#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepPrimAPI_MakeSphere.hxx>
#include <BRepPrimAPI_MakeTorus.hxx>
#include <gp_Pln.hxx>

#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

using namespace join;

class ContactsTest : public QObject {
    Q_OBJECT

    static gp_Trsf turned(const gp_Dir& about, double degrees) {
        gp_Trsf turn;
        turn.SetRotation(gp_Ax1(gp::Origin(), about), degrees * M_PI / 180.0);
        return turn;
    }
    static TopoDS_Shape sheet(const gp_Ax3& at, double breadth, double height) {
        return BRepBuilderAPI_MakeFace(gp_Pln(at), 0.0, breadth, 0.0, height).Shape();
    }
    /// The model with every body at a place of its own, all turned and moved together.
    static Model elsewhere(Model model) {
        const gp_Trsf away = by(130.0, -70.0, 45.0) * turned(gp_Dir(1, 2, 3), 77.0);
        model.occurrences.changeAll([&away](Occurrence& place) { place.placement = away * place.placement; });
        return model;
    }
    static void setThickness(Model& model, std::size_t part, double thickness, double offset = 0.0) {
        auto changed = model.parts[part]->copy();
        Thickness known;
        known.at = thickness;
        known.offset = offset;
        changed->known.thickness[{EntityKind::Face, 1}] = known;
        model.parts[part] = std::move(changed);
    }
    static std::vector<Contact> contactsOf(const Model& model, double upTo) {
        const auto found = findContacts(model, ContactSearch::everything(upTo), quietly());
        return found ? found->contacts : std::vector<Contact>{};
    }

private slots:
    void contactsAreFoundByKind() {
        const TopoDS_Shape cube = block(10, 10, 10);
        Model model = withBodies({cube, moved(cube, by(0, 0, 10)), moved(cube, by(10.05, 0, 0)),
                                  moved(block(4, 4, 4), by(3, 3, 18)), moved(cube, by(0, 30, 0))});
        model.targetSize = 4.0;
        const auto found = findContacts(model, ContactSearch::everything(0.4), quietly());
        QVERIFY2(found, said(found));
        std::map<std::pair<std::size_t, std::size_t>, ContactKind> pairs;
        for (const Contact& contact : found->contacts) {
            pairs.try_emplace({contact.placeA, contact.placeB}, contact.kind);
            if (contact.kind == ContactKind::Touching && contact.placeA == 0) QCOMPARE_NEAR(contact.area, 100.0, 5.0);
            if (contact.kind == ContactKind::Near) QCOMPARE_NEAR(contact.gap, 0.05, 1e-9);
        }
        QCOMPARE(pairs.size(), std::size_t(3));
        QCOMPARE((pairs.at({0, 1})), ContactKind::Touching);
        QCOMPARE((pairs.at({0, 2})), ContactKind::Near);
        QCOMPARE((pairs.at({1, 3})), ContactKind::Overlap);
        QVERIFY(!findContacts(model, {std::nan("")}, quietly()));
    }
    void theWorkGrowsWithTheNeighbours() {
        // Ten times the blocks in a row: ten times the pairs that are measured, not a hundred times.
        const auto pairsOf = [](int count) {
            std::vector<TopoDS_Shape> row;
            for (int i = 0; i < count; ++i) row.push_back(moved(block(10, 10, 10), by(10.0 * i, 0, 0)));
            const auto found = findContacts(withBodies(row), {0.1}, quietly());
            return found ? found->pairsTried : 0;
        };
        const std::size_t few = pairsOf(5), many = pairsOf(50);
        QVERIFY(few > 0);
        QVERIFY2(many <= 14 * few, qPrintable(QString("%1 for %2").arg(many).arg(few)));
    }
    void linesAndPointsAreTold_data() {
        QTest::addColumn<int>("which");
        QTest::addColumn<int>("kind");
        QTest::addColumn<double>("length");
        const int line = static_cast<int>(ContactKind::Line), point = static_cast<int>(ContactKind::Point);
        QTest::newRow("ball on a flat") << 0 << point << 0.0;
        QTest::newRow("rod on a flat") << 1 << line << 30.0;
        QTest::newRow("ring on a flat") << 2 << line << 2.0 * M_PI * 20.0;
        QTest::newRow("cube on its edge") << 3 << line << 10.0;
        QTest::newRow("corner on a flat") << 4 << point << 0.0;
        QTest::newRow("edge across edge") << 5 << point << 0.0;
        QTest::newRow("cubes at an edge") << 6 << line << 10.0;
        QTest::newRow("cubes at a corner") << 7 << point << 0.0;
        QTest::newRow("rods crossed") << 8 << point << 0.0;
        QTest::newRow("rods side by side") << 9 << line << 30.0;
        QTest::newRow("ball in a groove") << 10 << line << M_PI * 10.0;
        QTest::newRow("sheet ends on a block") << 11 << line << 8.0;
    }
    void linesAndPointsAreTold() {
        QFETCH(int, which);
        QFETCH(int, kind);
        QFETCH(double, length);
        const TopoDS_Shape flat = moved(block(100, 100, 10), by(-50, -50, -10)), cube = block(10, 10, 10);
        const gp_Ax1 alongX(gp_Pnt(0, 0, 5), gp::DX()), alongY(gp_Pnt(15, -15, 15), gp::DY());
        std::vector<TopoDS_Shape> bodies{flat};
        switch (which) {
            case 0:
                bodies.push_back(BRepPrimAPI_MakeSphere(gp_Pnt(3, 4, 10), 10.0).Shape());
                break;
            case 1:
                bodies.push_back(rod(alongX, 5.0, 30.0));
                break;
            case 2:
                bodies.push_back(BRepPrimAPI_MakeTorus(gp_Ax2(gp_Pnt(0, 0, 4), gp::DZ()), 20.0, 4.0).Shape());
                break;
            case 3:
                bodies.push_back(moved(cube, turned(gp::DX(), 30.0)));
                break;
            case 4:
                bodies.push_back(moved(moved(cube, turned(gp::DX(), 30.0)), turned(gp::DY(), -25.0)));
                break;
            case 5:
                // Two cubes on edge, one edge along (1, 1, 0) above the other's along (1, -1, 0).
                bodies = {
                    moved(moved(moved(cube, by(-5, 0, 0)), turned(gp::DX(), 45.0)), turned(gp::DZ(), 45.0)),
                    moved(moved(moved(moved(cube, by(-5, 0, 0)), turned(gp::DX(), 45.0)), turned(gp::DY(), 180.0)),
                          turned(gp::DZ(), -45.0))};
                break;
            case 6:
                bodies = {cube, moved(cube, by(10, 10, 0))};
                break;
            case 7:
                bodies = {cube, moved(cube, by(10, 10, 10))};
                break;
            case 8:
                bodies = {rod(alongX, 5.0, 30.0), rod(alongY, 5.0, 30.0)};
                break;
            case 9:
                bodies = {rod(alongX, 5.0, 30.0), rod(gp_Ax1(gp_Pnt(0, 8, 5), gp::DX()), 3.0, 30.0)};
                break;
            case 10:
                // Half round, along x, of the ball's own radius.
                bodies = {cut(moved(block(60, 40, 20), by(-30, -20, -20)),
                              rod(gp_Ax1(gp_Pnt(-40, 0, 0), gp::DX()), 10.0, 80.0)),
                          BRepPrimAPI_MakeSphere(gp_Pnt(0, 0, 0), 10.0).Shape()};
                break;
            default:
                bodies = {cube, sheet(gp_Ax3(gp_Pnt(10, 1, 5), gp::DZ(), gp::DX()), 20.0, 8.0)};
        }
        for (const bool away : {false, true}) {
            Model model = withBodies(bodies);
            if (away) model = elsewhere(model);
            const auto found = contactsOf(model, 0.01);
            QCOMPARE(found.size(), std::size_t(1));
            QCOMPARE(static_cast<int>(found[0].kind), kind);
            QCOMPARE_NEAR(found[0].length, length, 0.06 * length);
            QVERIFY(found[0].gap < 1e-6);
        }
    }
    void aGapIsParallelOrAWedge() {
        const TopoDS_Shape flat = block(40, 40, 5);
        for (const double degrees : {0.0, 1.5}) {
            const TopoDS_Shape above = moved(moved(block(20, 20, 5), turned(gp::DY(), -degrees)), by(10, 10, 5.2));
            const auto found = contactsOf(withBodies({flat, above}), 1.0);
            QCOMPARE(found.size(), std::size_t(1));
            QCOMPARE(found[0].isWedge(), degrees > 0.0);
            QCOMPARE_NEAR(found[0].angle, degrees * M_PI / 180.0, 1e-6);
            if (degrees == 0.0) QCOMPARE_NEAR(found[0].widest - found[0].gap, 0.0, 1e-9);
        }
    }
    void overlapsTellDepthAndVolume_data() {
        QTest::addColumn<int>("which");
        QTest::addColumn<double>("depth");
        QTest::addColumn<double>("volume");
        QTest::newRow("corner in a flat") << 0 << 2.0 << 2.0 * 3.0 * 4.0;
        QTest::newRow("bars crossed") << 1 << 6.0 << 6.0 * 8.0 * 10.0;
        QTest::newRow("pin in a bore too narrow") << 2 << 0.2 << M_PI * (5.2 * 5.2 - 25.0) * 10.0;
        QTest::newRow("wholly within") << 3 << 3.0 << 27.0;
        QTest::newRow("none, though the boxes meet") << 4 << 0.0 << 0.0;
        QTest::newRow("none, a pin that fits") << 5 << 0.0 << 0.0;
    }
    void overlapsTellDepthAndVolume() {
        QFETCH(int, which);
        QFETCH(double, depth);
        QFETCH(double, volume);
        const gp_Ax1 axis(gp_Pnt(10, 10, 0), gp::DZ());
        const TopoDS_Shape bored = cut(block(20, 20, 10), rod(axis, 5.0, 10.0));
        std::vector<TopoDS_Shape> bodies;
        switch (which) {
            case 0:
                bodies = {block(20, 20, 20), moved(block(20, 20, 20), by(18, 17, 16))};
                break;
            case 1:
                bodies = {moved(block(200, 8, 10), by(-100, 0, 0)), moved(block(10, 200, 6), by(0, -100, 2))};
                break;
            case 2:
                bodies = {bored, rod(axis, 5.2, 10.0)};
                break;
            case 3:
                bodies = {block(20, 20, 20), moved(block(3, 3, 3), by(7, 7, 7))};
                break;
            case 4:
                bodies = {cut(block(20, 20, 20), moved(block(16, 16, 20), by(4, 4, 0))),
                          moved(block(12, 12, 20), by(6, 6, 0))};
                break;
            default:
                bodies = {bored, rod(axis, 5.0, 10.0)};
        }
        for (const bool away : {false, true}) {
            Model model = withBodies(bodies);
            if (away) model = elsewhere(model);
            std::vector<Contact> overlaps = contactsOf(model, 0.01);
            std::erase_if(overlaps, [](const Contact& one) { return one.kind != ContactKind::Overlap; });
            QCOMPARE(overlaps.size(), volume > 0.0 ? std::size_t(1) : std::size_t(0));
            if (overlaps.empty()) continue;
            QCOMPARE_NEAR(overlaps[0].volume, volume, 0.3 * volume);
            QCOMPARE_NEAR(overlaps[0].gap, depth, 0.15 * depth);
        }
    }
    void gapsOfSheetsCountFromTheirSkins() {
        const gp_Ax3 low(gp_Pnt(0, 0, 0), gp::DZ(), gp::DX()), high(gp_Pnt(5, 5, 3), gp::DZ(), gp::DX());
        // Both look up: neither needs to look at the other.
        Model model = withBodies({sheet(low, 40, 40), sheet(high, 20, 20)});
        setThickness(model, 0, 2.0);
        setThickness(model, 1, 3.0, -0.2);
        for (const bool away : {false, true}) {
            const auto found = contactsOf(away ? elsewhere(model) : model, 1.0);
            QCOMPARE(found.size(), std::size_t(1));
            QCOMPARE(static_cast<int>(found[0].kind), static_cast<int>(ContactKind::Near));
            QCOMPARE_NEAR(found[0].gap, 3.0 - 1.0 - 1.5 - 0.2, 1e-9);
            QVERIFY(!found[0].past);
            QCOMPARE_NEAR(found[0].area, 400.0, 1e-6);
        }
        // From the sheets themselves they are farther apart than that.
        const auto bare = findContacts(model, {1.0}, quietly());
        QVERIFY(bare);
        QVERIFY(bare->contacts.empty());
        // Thicker, they have passed one another.
        setThickness(model, 1, 4.5);
        const auto passed = contactsOf(model, 1.0);
        QCOMPARE(passed.size(), std::size_t(1));
        QVERIFY(passed[0].past);
        QCOMPARE_NEAR(passed[0].gap, 0.25, 1e-9);
    }
    void sheetsThatCrossOrLieWithinAreOverlaps() {
        const TopoDS_Shape flat = sheet(gp_Ax3(gp_Pnt(0, 0, 0), gp::DZ(), gp::DX()), 40, 40),
                           across = sheet(gp_Ax3(gp_Pnt(20, 30, 14), gp::DX(), gp_Dir(0, -1, 0)), 20, 27);
        for (const auto& bodies : {std::vector{flat, across},
                                   {moved(block(40, 40, 10), by(0, 0, -5)), across},
                                   {moved(block(60, 60, 40), by(-10, -10, -20)), flat}}) {
            const auto found = contactsOf(elsewhere(withBodies(bodies)), 0.1);
            QCOMPARE(found.size(), std::size_t(1));
            QCOMPARE(static_cast<int>(found[0].kind), static_cast<int>(ContactKind::Overlap));
        }
    }
    void beamsReachAsFarAsTheirSections() {
        const TopoDS_Shape flat = sheet(gp_Ax3(gp_Pnt(0, 0, 0), gp::DZ(), gp::DX()), 100, 40);
        const TopoDS_Shape line = BRepBuilderAPI_MakeEdge(gp_Pnt(10, 20, 6.3), gp_Pnt(90, 20, 6.3)).Shape();
        Model model = withBodies({flat, line});
        setThickness(model, 0, 2.0);
        for (const auto& [shape, sizes, gap] :
             {std::tuple{"round", std::vector{10.0}, 0.3}, {"rectangle", std::vector{10.5, 4.0}, 0.05}}) {
            auto beam = model.parts[1]->copy();
            Section section;
            section.shape = shape;
            section.sizes = sizes;
            beam->known.sections[{EntityKind::Edge, 1}] = section;
            model.parts[1] = std::move(beam);
            const auto found = contactsOf(model, 0.5);
            QCOMPARE(found.size(), std::size_t(1));
            QCOMPARE_NEAR(found[0].gap, gap, 1e-9);
            QCOMPARE_NEAR(found[0].length, 80.0, 1e-9);
        }
        // What crosses it, and what ends at its line.
        const TopoDS_Shape other = BRepBuilderAPI_MakeEdge(gp_Pnt(50, 20, 6.3), gp_Pnt(50, 20, 60)).Shape();
        const auto met = contactsOf(withBodies({line, other}), 0.5);
        QCOMPARE(met.size(), std::size_t(1));
        QCOMPARE(static_cast<int>(met[0].kind), static_cast<int>(ContactKind::Point));
    }
    void bodiesOfOnePartAreAskedToo() {
        const Model model = modelOf(compoundOf({block(10, 10, 10), moved(block(10, 10, 10), by(0, 0, 10))}));
        const auto found = contactsOf(model, 0.1);
        QCOMPARE(found.size(), std::size_t(1));
        QCOMPARE(found[0].placeA, found[0].placeB);
        QCOMPARE(found[0].bodyA + found[0].bodyB, 3);
        QCOMPARE_NEAR(found[0].area, 100.0, 1e-6);
        const auto others = findContacts(model, {0.1}, quietly());
        QVERIFY(others);
        QVERIFY(others->contacts.empty());
    }
    void copiesThatLieAlikeAreMeasuredOnce() {
        Model model = withBodies({block(100, 10, 10), rod(gp_Ax1(gp_Pnt(5, 5, 10), gp::DZ()), 2.0, 8.0)});
        for (int i = 1; i < 10; ++i) {
            model.occurrences.push_back(model.occurrences[1]);
            model.occurrences.changeLast().placement = by(10.0 * i, 0, 0);
        }
        const auto found = findContacts(model, {0.1}, quietly());
        QVERIFY(found);
        QCOMPARE(found->contacts.size(), std::size_t(10));
        QCOMPARE(found->pairsKnown, std::size_t(0));  // each lies elsewhere on the bar
        Model stacks = withBodies({block(10, 10, 10), moved(block(10, 10, 10), by(0, 0, 10))});
        for (int i = 1; i < 10; ++i)
            for (const std::size_t part : {0, 1}) {
                stacks.occurrences.push_back(stacks.occurrences[part]);
                stacks.occurrences.changeLast().placement = by(0, 30.0 * i, 0) * turned(gp::DZ(), 7.0 * i);
            }
        const auto alike = findContacts(stacks, {0.1}, quietly());
        QVERIFY(alike);
        QCOMPARE(alike->contacts.size(), std::size_t(10));
        QCOMPARE(alike->pairsKnown, std::size_t(9));
    }
};

static Registered<ContactsTest> contactsTest;

}  // namespace rasoir::test
#include "contacts_test.moc"
