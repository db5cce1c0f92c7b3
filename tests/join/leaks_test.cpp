// Leaks of boxes of which one knows where they are open, and the widest way through the air.
#include "join/leaks.h"

#include <BRepBndLib.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <gp_Pln.hxx>

#include "geometry/integrals.h"
#include "geometry/widest_way.h"
#include "model/reference.h"
#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

using namespace join;

class LeaksTest : public QObject {
    Q_OBJECT

    static TopoDS_Shape blockAt(double x, double y, double z, double dx, double dy, double dz) {
        gp_Trsf to;
        to.SetTranslation(gp_Vec(x, y, z));
        return moved(block(dx, dy, dz), to);
    }
    /// Elements of 5 mm: the search for leaks is as fine as they ask for.
    static Model coarse(const std::vector<TopoDS_Shape>& bodies) {
        Model model = withBodies(bodies);
        model.targetSize = 5.0;
        return model;
    }
    static std::vector<std::size_t> everything(const Model& model) {
        std::vector<std::size_t> all(model.occurrences.size());
        std::iota(all.begin(), all.end(), 0);
        return all;
    }
    static gp_Trsf turned() {
        gp_Trsf turn, move;
        turn.SetRotation(gp_Ax1(gp_Pnt(1, 2, 3), gp_Dir(1, 2, 2)), 0.7);
        move.SetTranslation(gp_Vec(100, -40, 7));
        return move * turn;
    }
    /// A box of 40 x 30 x 20 with walls of 2 round a closed cavity.
    static TopoDS_Shape hollow() { return cut(block(40, 30, 20), blockAt(2, 2, 2, 36, 26, 16)); }

private slots:
    void leaksOfOneKindAreOneRow() {
        const Model model = coarse({block(1, 1, 1), blockAt(5, 0, 0, 1, 1, 1), blockAt(9, 0, 0, 1, 1, 1)});
        const auto leak = [](double width, std::size_t a, std::size_t b) {
            join::Leak one;
            one.width = width;
            one.placeA = a;
            one.placeB = b;
            return one;
        };
        // Between 0 and 1 either way round, between 0 and 2, much narrower, and at a lid, which is no place.
        const auto kinds = join::kindsOf(model, {leak(1.0, 0, 1), leak(0.99, 1, 0), leak(0.98, 0, 2), leak(0.97, 0, 1),
                                                 leak(0.5, 0, 1), leak(0.5, 0, 7), leak(0.49, 8, 0)});
        QCOMPARE(kinds, (std::vector<std::vector<std::size_t>>{{0, 1, 3}, {2}, {4}, {5, 6}}));
        QVERIFY(join::kindsOf(model, {}).empty());
    }
    void leaksAreFoundWithTheirWidth_data() {
        QTest::addColumn<std::vector<TopoDS_Shape>>("bodies");
        QTest::addColumn<gp_Pnt>("seed");
        QTest::addColumn<std::vector<double>>("widths");
        QTest::addColumn<std::vector<gp_Pnt>>("places");
        const gp_Pnt inside(20, 15, 10);
        QTest::newRow("closed") << std::vector{hollow()} << inside << std::vector<double>{} << std::vector<gp_Pnt>{};
        QTest::newRow("a fine hole that nobody drilled on purpose")
            << std::vector{cut(hollow(), rod(gp_Ax1(gp_Pnt(7, 4, -1), gp_Dir(0, 0, 1)), 0.15, 4))} << inside
            << std::vector{0.3} << std::vector{gp_Pnt(7, 4, 1)};
        QTest::newRow("two holes, the wider first")
            << std::vector{cut(cut(hollow(), rod(gp_Ax1(gp_Pnt(7, 4, -1), gp_Dir(0, 0, 1)), 0.5, 4)),
                               rod(gp_Ax1(gp_Pnt(30, 20, 17), gp_Dir(0, 0, 1)), 1.0, 4))}
            << inside << std::vector{2.0, 1.0} << std::vector{gp_Pnt(30, 20, 19), gp_Pnt(7, 4, 1)};
        // A tray and a lid on it that does not quite lie on it: one gap all round.
        QTest::newRow("a lid that does not lie on its box")
            << std::vector{cut(block(40, 30, 20), blockAt(2, 2, 2, 36, 26, 20)), blockAt(0, 0, 20.4, 40, 30, 2)}
            << inside << std::vector{0.4} << std::vector<gp_Pnt>{};
        // A box of plates whose walls do not reach each other at the upright corners.
        QTest::newRow("open corners") << std::vector{block(40, 30, 1),
                                                     blockAt(0, 0, 19, 40, 30, 1),
                                                     blockAt(0, 1.5, 1, 1, 27, 18),
                                                     blockAt(39, 1.5, 1, 1, 27, 18),
                                                     blockAt(0, 0, 1, 40, 1, 18),
                                                     blockAt(0, 29, 1, 40, 1, 18)}
                                      << inside << std::vector{0.5, 0.5, 0.5, 0.5} << std::vector<gp_Pnt>{};
    }
    void leaksAreFoundWithTheirWidth() {
        QFETCH(std::vector<TopoDS_Shape>, bodies);
        QFETCH(gp_Pnt, seed);
        QFETCH(std::vector<double>, widths);
        QFETCH(std::vector<gp_Pnt>, places);
        for (const gp_Trsf& by : {gp_Trsf(), turned()}) {
            std::vector<TopoDS_Shape> placed;
            for (const TopoDS_Shape& body : bodies) placed.push_back(moved(body, by));
            const Model model = coarse(placed);
            const gp_Pnt from = seed.Transformed(by);
            const auto found = findLeaks(model, everything(model), {}, from, 0.2, quietly());
            QVERIFY2(found, said(found));
            QVERIFY(!found->more);
            QCOMPARE(found->leaks.size(), widths.size());
            for (std::size_t i = 0; i < widths.size(); ++i) {
                const Leak& leak = found->leaks[i];
                QCOMPARE_NEAR(leak.width, widths[i], 0.1 * widths[i]);
                if (i < places.size()) QVERIFY(leak.where.Distance(places[i].Transformed(by)) < 1.5);
                // The way begins in the box, ends outside of it, and passes through no wall.
                QVERIFY(leak.way.size() > 2);
                QVERIFY(leak.way.front().Distance(from) < 20.0);
                Bnd_Box box;
                for (const TopoDS_Shape& body : placed) BRepBndLib::AddOptimal(body, box, false, false);
                QVERIFY(box.IsOut(leak.way.back()));
                const RayField walls(model, {}, 1e-4, quietly());
                for (std::size_t k = 1; k < leak.way.size(); ++k) {
                    const double step = leak.way[k - 1].Distance(leak.way[k]);
                    if (step < 1e-9) continue;
                    QVERIFY(!walls.blocked(leak.way[k - 1], gp_Dir(gp_Vec(leak.way[k - 1], leak.way[k])), 0.0, step));
                }
            }
        }
    }
    void lidsAndSheetsAreWalls() {
        // A tray closed by a sheet: as a lid, and as a part.
        const TopoDS_Shape tray = cut(block(40, 30, 20), blockAt(2, 2, 2, 36, 26, 20));
        const TopoDS_Face sheet = BRepBuilderAPI_MakeFace(gp_Pln(gp_Pnt(0, 0, 20), gp_Dir(0, 0, 1)), 0, 40, 0, 30);
        const Model open = coarse({tray}), covered = coarse({tray, sheet});
        const gp_Pnt seed(20, 15, 10);
        const auto none = findLeaks(open, {0}, {}, seed, 0.2, quietly());
        QVERIFY2(none, said(none));
        QVERIFY(none->leaks.size() >= 1);
        // By a ball it is 26 wide; the way out is as wide as the ball that fits there.
        QVERIFY(none->leaks[0].width > 13.0);
        const auto lid = findLeaks(open, {0}, {sheet}, seed, 0.2, quietly()),
                   part = findLeaks(covered, {0, 1}, {}, seed, 0.2, quietly());
        QVERIFY2(lid, said(lid));
        QVERIFY2(part, said(part));
        QVERIFY(lid->leaks.empty());
        QVERIFY(part->leaks.empty());
    }
    void aPointBeforeAFaceLiesInTheAir() {
        const Model model = coarse({hollow()});
        const Part& part = *model.parts[0];
        int inner = 0;
        for (int f = 1; f <= part.incidence().faceCount(); ++f) {
            const gp_Pnt middle = skinOf(part.incidence().face(f)).centre;
            if (middle.Distance(gp_Pnt(2, 15, 10)) < 0.1) inner = f;
        }
        QVERIFY(inner > 0);
        const auto seed = pointBefore(model, 0, inner, {0}, quietly());
        QVERIFY(seed.has_value());
        QVERIFY(seed->X() > 2.0 && seed->X() < 38.0 && seed->Y() > 2.0 && seed->Y() < 28.0);
    }
    void badSeedsAreRefused() {
        const Model model = coarse({hollow()});
        const auto outside = findLeaks(model, {0}, {}, gp_Pnt(100, 0, 0), 0.2, quietly());
        QVERIFY(!outside);
        QVERIFY(outside.error().what.find("outside") != std::string::npos);
        // In the material there is no way out either, which must not be taken for a tight space.
        const auto within = findLeaks(model, {0}, {}, gp_Pnt(1, 15, 10), 0.2, quietly());
        QVERIFY(!within);
        QVERIFY(within.error().what.find("material") != std::string::npos);
        QVERIFY(!findLeaks(model, {0}, {}, gp_Pnt(2, 15, 10), 0.2, quietly()));
        QVERIFY(!findLeaks(model, {0}, {}, gp_Pnt(20, 15, 10), 0.0, quietly()));
        QVERIFY(!findLeaks(model, {}, {}, gp_Pnt(20, 15, 10), 0.2, quietly()));
    }
    void onTheWidestWayABallFits() {
        // Two chambers with two passages of 6 and 3: the way takes the wider one, though it is the longer.
        TopoDS_Shape body = cut(cut(block(60, 30, 20), blockAt(2, 2, 2, 20, 26, 16)), blockAt(38, 2, 2, 20, 26, 16));
        body = cut(cut(body, rod(gp_Ax1(gp_Pnt(20, 15, 10), gp_Dir(1, 0, 0)), 1.5, 20)),
                   rod(gp_Ax1(gp_Pnt(20, 24, 6), gp_Dir(1, 0, 0)), 3.0, 20));
        const Model model = coarse({body});
        const RayField walls(model, {}, 2e-4, quietly());
        Bnd_Box room;
        BRepBndLib::Add(body, room, false);
        WidestWay ways(walls, room, {}, 0.2, 500000);
        WidestWay::Way way;
        const auto there = [](const gp_Pnt& at) { return at.X() > 45.0; };
        QCOMPARE(ways.search(gp_Pnt(8, 15, 10), there, way, quietly()), WidestWay::End::Arrived);
        QVERIFY(way.clearance > 1.6 && way.clearance < 3.01);
        QVERIFY(std::any_of(way.points.begin(), way.points.end(), [](const gp_Pnt& at) {
            return at.X() > 25 && at.X() < 35 && at.Distance(gp_Pnt(at.X(), 24, 6)) < 3.0;
        }));
        // Known cells make the second search quick, and the same.
        const std::size_t known = ways.cells();
        WidestWay::Way again;
        QCOMPARE(ways.search(gp_Pnt(8, 15, 10), there, again, quietly()), WidestWay::End::Arrived);
        QVERIFY(ways.cells() < known + known / 4);
        QCOMPARE_NEAR(again.clearance, way.clearance, 0.3 * way.clearance);
        // Too few cells are said to be so, and nothing is claimed.
        WidestWay few(walls, room, {}, 0.02, 200);
        QCOMPARE(few.search(
                     gp_Pnt(8, 15, 10), [](const gp_Pnt&) { return false; }, way, quietly()),
                 WidestWay::End::TooFine);
    }
};

static Registered<LeaksTest> leaksTest;

}  // namespace rasoir::test

#include "leaks_test.moc"
