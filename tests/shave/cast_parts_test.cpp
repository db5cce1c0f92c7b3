// Cast, drawn and moulded bodies at random sizes: rounds that rest on rounds, corners where three of them meet, rims
// rolled over, notches along a wall. Made bare first, then rounded by the kernel as far as it manages, so that the
// volume that has to come back is known.
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakePolygon.hxx>
#include <BRepFilletAPI_MakeFillet.hxx>
#include <BRepPrimAPI_MakeRevol.hxx>
#include <ShapeUpgrade_UnifySameDomain.hxx>

#include "geometry/integrals.h"
#include "support/bodies.h"
#include "support/edges.h"
#include "support/run.h"
#include "survey/rounds.h"

namespace rasoir::test {

class CastPartsTest : public QObject {
    Q_OBJECT

    struct Made {
        TopoDS_Shape bare, rounded;
        int groups = 0;  // of edges that were rounded at once
    };
    struct Score {
        int bodies = 0, back = 0, chains = 0, gone = 0;
    };

    static int rounds(int few, int many) { return qEnvironmentVariableIsSet("RASOIR_LONG") ? many : few; }
    static TopoDS_Shape tidied(const TopoDS_Shape& shape) {
        ShapeUpgrade_UnifySameDomain unify(shape);
        unify.Build();
        return unify.Shape();
    }
    static TopoDS_Shape upright(double x, double y, double z, double radius, double height) {
        return rod(gp_Ax1(gp_Pnt(x, y, z), gp_Dir(0, 0, 1)), radius, height);
    }
    static TopoDS_Shape box(double x, double y, double z, double dx, double dy, double dz) {
        return moved(block(dx, dy, dz), by(x, y, z));
    }
    /// Rounds some edges, if the kernel can and the body stays sound.
    template <class Rule>
    static void round(Made& made, double radius, Rule rule) {
        try {
            BRepFilletAPI_MakeFillet maker(made.rounded);
            const auto edges = edgesWhere(made.rounded, rule);
            if (edges.empty()) return;
            for (const TopoDS_Edge& edge : edges) maker.Add(radius, edge);
            maker.Build();
            if (!maker.IsDone()) return;
            const TopoDS_Shape shape = maker.Shape();
            if (!isValid(shape) || solidsIn(shape) != 1 || openEdgesIn(shape) != 0) return;
            made.rounded = shape;
            ++made.groups;
        } catch (const Standard_Failure&) {
        }
    }

    /// Half of a housing: a shell with round corners, ribs across its floor and bosses that stand on it, everything
    /// inside with small rounds at its foot and smaller ones at its rims.
    static Made housing(Random& random) {
        const double x = between(random, 50, 80), y = between(random, 35, 50), z = between(random, 16, 24);
        const double wall = between(random, 2.5, 3.5), floor = between(random, 2.5, 3.5);
        const double rib = between(random, 2.0, 3.0), ribHeight = between(random, 5, 8);
        const double boss = between(random, 3.0, 4.5), bossHeight = between(random, 8, 12);
        Made made;
        made.bare = cut(block(x, y, z), box(wall, wall, floor, x - 2 * wall, y - 2 * wall, z));
        made.bare = fuse(made.bare, box(wall, 0.5 * y, floor, x - 2 * wall, rib, ribHeight));
        if (random() % 2 != 0) made.bare = fuse(made.bare, box(0.6 * x, wall, floor, rib, y - 2 * wall, ribHeight));
        made.bare = fuse(made.bare, upright(0.3 * x, 0.25 * y, floor, boss, bossHeight));
        made.bare = fuse(made.bare, upright(0.3 * x, 0.78 * y, floor, boss, bossHeight));
        made.bare = tidied(cut(made.bare, upright(0.3 * x, 0.25 * y, floor + 2.0, 0.5 * boss, bossHeight)));
        made.rounded = made.bare;
        const auto inside = [=](const gp_Pnt& p) {
            return p.X() > 0.5 * wall && p.X() < x - 0.5 * wall && p.Y() > 0.5 * wall && p.Y() < y - 0.5 * wall;
        };
        const auto at = [](double a, double b) { return std::abs(a - b) < 1e-6; };
        // Upright inner corners first, then all feet on the floor, which run over them; then the rims of ribs.
        round(made, 1.0,
              [&](const gp_Pnt& p) { return inside(p) && p.Z() > floor + 1e-3 && at(p.Z(), 0.5 * (z + floor)); });
        round(made, 1.0, [&](const gp_Pnt& p) { return inside(p) && at(p.Z(), floor + 0.5 * ribHeight); });
        round(made, 0.8, [&](const gp_Pnt& p) { return inside(p) && at(p.Z(), floor); });
        round(made, 0.5, [&](const gp_Pnt& p) { return inside(p) && at(p.Z(), floor + ribHeight); });
        round(made, 0.5, [&](const gp_Pnt& p) {
            return at(p.Z(), floor + bossHeight) && std::hypot(p.X() - 0.3 * x, p.Y() - 0.78 * y) > 0.8 * boss &&
                   p.Y() > 0.6 * y;
        });
        return made;
    }
    /// A basin with a rolled rim and grooves in its floor: a surface of revolution with rounds along circles.
    static Made basin(Random& random) {
        const double radius = between(random, 40, 60), depth = between(random, 12, 20),
                     wall = between(random, 1.5, 2.5);
        const double rim = between(random, 6, 9), lip = between(random, 3, 4), groove = between(random, 2, 3);
        // The section, from the axis outwards along the top, and back along the underside.
        BRepBuilderAPI_MakePolygon outline;
        for (const auto& [r, z] : {std::pair{0.0, wall},
                                   {0.4 * radius, wall},
                                   {0.4 * radius, wall + groove},
                                   {0.4 * radius + 5, wall + groove},
                                   {0.4 * radius + 5, wall},
                                   {radius - wall, wall},
                                   {radius - wall, depth},
                                   {radius + rim, depth},
                                   {radius + rim, depth - lip - wall},
                                   {radius + rim - wall, depth - lip - wall},
                                   {radius + rim - wall, depth - wall},
                                   {radius, depth - wall},
                                   {radius, 0.0},
                                   {0.0, 0.0}})
            outline.Add(gp_Pnt(r, 0, z));
        outline.Close();
        Made made;
        made.bare =
            BRepPrimAPI_MakeRevol(BRepBuilderAPI_MakeFace(outline.Wire()).Face(), gp_Ax1(gp_Pnt(), gp::DZ())).Shape();
        made.rounded = made.bare;
        const auto ring = [&](double r, double z) {
            return [=](const gp_Pnt& p) {
                return std::abs(std::hypot(p.X(), p.Y()) - r) < 1e-6 && std::abs(p.Z() - z) < 1e-6;
            };
        };
        round(made, 3.0, ring(radius, 0.0));
        round(made, 2.0, ring(radius - wall, wall));
        round(made, 1.5, ring(radius - wall, depth));
        round(made, 1.0, ring(radius + rim, depth));
        round(made, 0.8, ring(radius, depth - wall));
        round(made, 0.9, ring(0.4 * radius, wall));
        round(made, 0.7, ring(0.4 * radius + 5, wall));
        round(made, 0.6, ring(0.4 * radius, wall + groove));
        return made;
    }
    /// A moulded frame: a wall with shallow notches along its top, their floors and its own long edges rounded.
    static Made frame(Random& random) {
        const double x = between(random, 60, 90), y = between(random, 8, 12), z = between(random, 10, 16);
        Made made;
        made.bare = block(x, y, z);
        const int notches = 2 + static_cast<int>(random() % 4);
        const double step = x / (notches + 1), broad = between(random, 3, 5), deep = between(random, 1.5, 2.5);
        for (int i = 1; i <= notches; ++i)
            made.bare = cut(made.bare, box(i * step - 0.5 * broad, -1, z - deep, broad, y + 2, deep + 1));
        made.rounded = made.bare;
        const auto at = [](double a, double b) { return std::abs(a - b) < 1e-6; };
        round(made, 0.4, [&](const gp_Pnt& p) { return at(p.Z(), z - deep) && at(p.Y(), 0.5 * y); });
        round(made, 1.0, [&](const gp_Pnt& p) { return at(p.Z(), 0.5 * z) && (at(p.X(), 0.0) || at(p.X(), x)); });
        round(made, 0.8, [&](const gp_Pnt& p) { return at(p.Z(), 0.0); });
        round(made, 0.3,
              [&](const gp_Pnt& p) { return at(p.Z(), z) && at(p.Y(), 0.5 * y) && p.X() > 1 && p.X() < x - 1; });
        return made;
    }

    /// All rounds taken off again. What stays has a reason; what goes leaves a sound body; where all went, the bare
    /// volume is back.
    static void shave(const Made& made, Score& score) {
        ++score.bodies;
        const auto done = run(modelOf(made.rounded), "shave.removeRounds", {{"upTo", 3.5}});
        QVERIFY2(done, said(done));
        bool all = true;
        for (const Item& item : done->items) {
            ++score.chains;
            score.gone += item.done;
            all = all && item.done;
            if (!item.done) {
                QVERIFY(!item.problem.what.empty());
                if (qEnvironmentVariableIsSet("RASOIR_TELL"))
                    qInfo("%s: %s", item.what.c_str(), item.problem.what.c_str());
            }
        }
        const TopoDS_Shape& left = done->model.parts[0]->shape;
        QVERIFY(isValid(left));
        QCOMPARE(openEdgesIn(left), 0);
        QCOMPARE(solidsIn(left), 1);
        if (!all) return;
        QCOMPARE_NEAR(volumeOf(left), volumeOf(made.bare), 1e-5 * volumeOf(made.bare));
        ++score.back;
    }

private slots:
    /// Shallow recesses along the walls of a moulded cup, in a wall, open at its foot, and over its rim, which may be
    /// round: whatever is found goes, and then the bare cup is back.
    void recessesAlongAWallComeOff() {
        Random random(415);
        int recesses = 0, gone = 0;
        for (int i = 0; i < rounds(8, 80); ++i) {
            const double x = between(random, 50, 70), y = between(random, 35, 50), z = between(random, 16, 24);
            const double deep = between(random, 0.08, 0.5), wall = 3.0;
            Made made;
            made.bare = cut(block(x, y, z), box(wall, wall, wall, x - 2 * wall, y - 2 * wall, z));
            made.rounded = made.bare;
            const auto at = [](double a, double b) { return std::abs(a - b) < 1e-6; };
            if (i % 2 != 0)
                round(made, 5.0, [&](const gp_Pnt& p) {
                    return at(p.Z(), 0.5 * z) && (at(p.X(), 0.0) || at(p.X(), x)) && (at(p.Y(), 0.0) || at(p.Y(), y));
                });
            if (i % 4 > 1)
                round(made, 0.5, [&](const gp_Pnt& p) {
                    return at(p.Z(), z) && (p.X() < 0.01 || p.X() > x - 0.01 || p.Y() < 0.01 || p.Y() > y - 0.01);
                });
            const TopoDS_Shape smooth = made.rounded;
            TopoDS_Shape body = cut(smooth, box(0.25 * x, -1, i % 8 > 3 ? z - 3 : 0.4 * z, 0.5 * x, 1 + deep, 4));
            body = cut(body, box(-1, 0.3 * y, z - 6, 1 + deep, 0.4 * y, 7));
            body = cut(body, box(0.35 * x, y - deep, -1, 3, 2, 6));
            const auto done = run(modelOf(body), "shave.removeReliefs",
                                  {{"upTo", 1e6}, {"kinds", {"mark", "pocket", "cutout", "notch", "step"}}});
            QVERIFY2(done, said(done));
            bool all = true;
            for (const Item& item : done->items) {
                ++recesses;
                gone += item.done;
                all = all && item.done;
            }
            const TopoDS_Shape& left = done->model.parts[0]->shape;
            QVERIFY(isValid(left));
            QCOMPARE(openEdgesIn(left), 0);
            if (all) QCOMPARE_NEAR(volumeOf(left), volumeOf(smooth), 1e-9 * volumeOf(smooth));
        }
        qInfo("%d of %d recesses gone", gone, recesses);
        QVERIFY(recesses >= 3 * rounds(8, 80));
        QVERIFY2(100 * gone >= 95 * recesses, "too few go");
    }
    void roundsOfMadePartsComeOff_data() {
        QTest::addColumn<int>("kind");
        QTest::newRow("housings") << 0;
        QTest::newRow("basins") << 1;
        QTest::newRow("frames") << 2;
    }
    void roundsOfMadePartsComeOff() {
        QFETCH(int, kind);
        Random random(static_cast<std::uint64_t>(kind) + 2026);
        Score score;
        int groups = 0;
        for (int i = 0; i < rounds(6, 60); ++i) {
            const Made made = kind == 0 ? housing(random) : kind == 1 ? basin(random) : frame(random);
            QVERIFY(isValid(made.bare));
            groups += made.groups;
            if (made.groups > 0) shave(made, score);
        }
        qInfo("%d bodies, %d groups rounded: %d of %d chains gone, %d bodies bare again", score.bodies, groups,
              score.gone, score.chains, score.back);
        QVERIFY(groups >= 2 * score.bodies);
        QVERIFY2(100 * score.gone >= 90 * score.chains, "too few go");
    }
};

static Registered<CastPartsTest> castPartsTest;

}  // namespace rasoir::test

#include "cast_parts_test.moc"
