// The arrangement on bodies whose volumes and membership have closed forms.
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepClass3d_SolidClassifier.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <BRepPrimAPI_MakeSphere.hxx>
#include <BRepPrimAPI_MakeTorus.hxx>
#include <GeomAPI_Interpolate.hxx>
#include <gp_Cylinder.hxx>
#include <gp_Pln.hxx>
#include <TColgp_HArray1OfPnt.hxx>

#include "arrange/arrangement.h"
#include "arrange/choice.h"
#include "geometry/integrals.h"
#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

using namespace arrange;

class ArrangeTest : public QObject {
    Q_OBJECT

    static Result<Arrangement> arranged(const std::vector<TopoDS_Shape>& shapes) {
        std::vector<Input> inputs;
        for (std::size_t i = 0; i < shapes.size(); ++i) inputs.push_back({shapes[i], "body " + std::to_string(i + 1)});
        return arrange::arrange(std::move(inputs), 1e-7, quietly());
    }
    static gp_Trsf by(double x, double y, double z) {
        gp_Trsf move;
        move.SetTranslation(gp_Vec(x, y, z));
        return move;
    }
    static gp_Trsf turned(double angle) {
        gp_Trsf turn;
        turn.SetRotation(gp_Ax1(gp_Pnt(3, -2, 5), gp_Dir(1, 2, 3)), angle);
        return turn;
    }
    static TopoDS_Shape ball(const gp_Pnt& at, double radius) { return BRepPrimAPI_MakeSphere(at, radius).Shape(); }
    /// Volume of the cells that lie in exactly these inputs.
    static double volumeIn(const Arrangement& all, const std::set<int>& inputs) {
        double sum = 0.0;
        for (std::size_t c = 1; c < all.cells.size(); ++c) {
            if (all.cells[c].inputs != inputs) continue;
            const auto body = solidsOf(all, {static_cast<int>(c)});
            if (!body) {
                qWarning("%s", said(body));
                return -1.0;
            }
            if (!isValid(body->shape)) {
                qWarning("a cell is not valid");
                return -2.0;
            }
            sum += body->volume;
        }
        return sum;
    }

private slots:
    void facesThatLookAgainstEachOtherAreOnePiece() {
        // Upside down, the normals of the surfaces that lie on each other are opposed, not only the faces.
        gp_Trsf over;
        over.SetRotation(gp_Ax1(gp_Pnt(5, 5, 10), gp_Dir(1, 0, 0)), M_PI);
        for (const double shift : {0.0, 3.0}) {
            const auto all = arranged({block(10, 10, 10), moved(block(10, 10, 10), by(shift, 0, 0) * over)});
            QVERIFY2(all, said(all));
            QCOMPARE_NEAR(volumeIn(*all, {0}), 1000.0, 1e-9);
            QCOMPARE_NEAR(volumeIn(*all, {1}), 1000.0, 1e-9);
            int common = 0, against = 0;
            for (const Piece& piece : all->pieces) {
                if (piece.owners.size() != 2) continue;
                ++common;
                against += piece.owners[1].reversed;
            }
            QCOMPARE(common, 1);
            QCOMPARE(against, 1);
        }
    }
    void sheetsThatEndInASolidArePartedByItsSkin() {
        // What they leave on the skin ends freely there and parts nothing of it. Yet it stands between their pieces.
        const auto flat = [](const gp_Pnt& corner, const gp_Dir& normal, const gp_Dir& x, double length,
                             double height) {
            return BRepBuilderAPI_MakeFace(gp_Pln(gp_Ax3(corner, normal, x)), 0, length, 0, height).Shape();
        };
        const TopoDS_Shape one = flat(gp_Pnt(5, 3, 6), gp::DX(), gp::DY(), 4, 8);
        const TopoDS_Shape across = flat(gp_Pnt(2, 5, 13), gp::DY(), gp::DX(), 6, 8);
        const TopoDS_Shape through = flat(gp_Pnt(5, -1, -1), gp::DX(), gp::DY(), 12, 12);
        const TopoDS_Shape within = flat(gp_Pnt(3, 5, 14), gp::DY(), gp::DX(), 4, 8);
        struct Case {
            std::vector<TopoDS_Shape> sheets;
            int in, out;  // pieces of sheets
        };
        const std::vector<Case> cases = {{{one}, 1, 1},     {{across}, 1, 1},          {{one, across}, 3, 3},
                                         {{through}, 1, 1}, {{through, within}, 3, 2}, {{within}, 1, 1}};
        for (const Case& known : cases)
            for (const gp_Trsf& pose : {gp_Trsf(), turned(0.7), by(1e3, -2e3, 5e2) * turned(2.9)}) {
                std::vector<TopoDS_Shape> shapes{moved(block(10, 10, 10), pose)};
                for (const TopoDS_Shape& sheet : known.sheets) shapes.push_back(moved(sheet, pose));
                const auto all = arranged(shapes);
                QVERIFY2(all, said(all));
                QCOMPARE_NEAR(volumeIn(*all, {0}), 1000.0, 1e-8);
                int in = 0, out = 0;
                for (const Piece& piece : all->pieces) {
                    if (piece.owners.front().input == 0) continue;
                    const gp_Pnt at = piece.inside.Transformed(pose.Inverted());
                    const bool inside = at.Z() > 0 && at.Z() < 10 && at.Y() > 0 && at.Y() < 10;
                    for (const int cell : {piece.plusCell, piece.minusCell})
                        QCOMPARE(all->cells[cell].inputs.contains(0), inside);
                    ++(inside ? in : out);
                }
                QCOMPARE(in, known.in);
                QCOMPARE(out, known.out);
            }
    }
    void edgesOfASheetStopTheMeetingsThatTheyLieOn() {
        // A strip of a tube ends on the top of a block, on the very circle in which the whole tube goes through it.
        const gp_Ax3 axis(gp_Pnt(5, 5, 0), gp::DZ());
        for (const auto& [from, to] : {std::pair{0.3, 1.9}, {2.0, 5.5}, {5.5, 7.0}})
            for (const gp_Trsf& pose : {gp_Trsf(), turned(1.1)}) {
                const TopoDS_Shape strip = BRepBuilderAPI_MakeFace(gp_Cylinder(axis, 3.0), from, to, 4.0, 10.0).Shape();
                const TopoDS_Shape tube =
                    BRepBuilderAPI_MakeFace(gp_Cylinder(axis, 3.0), 0.0, 2.0 * M_PI, -5.0, 15.0).Shape();
                const auto all = arranged({moved(block(10, 10, 10), pose), moved(strip, pose), moved(tube, pose)});
                QVERIFY2(all, said(all));
                QCOMPARE_NEAR(volumeIn(*all, {0}), 1000.0, 1e-8);
                int common = 0;
                for (const Piece& piece : all->pieces) {
                    const std::set<int> cells{piece.plusCell, piece.minusCell};
                    common += piece.owners.size() == 2;
                    if (piece.owners.front().input == 0) continue;
                    const double z = piece.inside.Transformed(pose.Inverted()).Z();
                    for (const int cell : cells) QCOMPARE(all->cells[cell].inputs.contains(0), z > 0 && z < 10);
                }
                QCOMPARE(common, to > 2.0 * M_PI ? 2 : 1);  // the tube's seam parts it
            }
    }
    void pointsInNarrowPiecesLieInThem() {
        // Two pins about one axis, of nearly one radius: their ends are parted into a disc and a ring far narrower than
        // what a polygon of the circle is off. Beside each other by as little, they leave sickles.
        for (const double width : {0.1, 1e-2, 1e-3, 1e-4})
            for (const double aside : {0.0, 0.5}) {
                const double off = aside * width, r = 10.0, inner = r - width;
                const auto all = arranged({rod(gp_Ax1(gp::Origin(), gp::DZ()), r, 5.0),
                                           rod(gp_Ax1(gp_Pnt(off, 0, 0), gp::DZ()), inner, 8.0)});
                QVERIFY2(all, said(all));
                QCOMPARE_NEAR(volumeIn(*all, {0}), M_PI * (r * r - inner * inner) * 5.0, 1e-6);
                int rings = 0;
                for (const Piece& piece : all->pieces) {
                    if (piece.whole || piece.owners.front().input != 0 || piece.owners.size() != 1) continue;
                    const double fromOwn = std::hypot(piece.inside.X(), piece.inside.Y()),
                                 fromOther = std::hypot(piece.inside.X() - off, piece.inside.Y());
                    if (std::abs(piece.inside.Z()) > 1e-9 && std::abs(piece.inside.Z() - 5.0) > 1e-9) continue;
                    const bool ring = !all->cells[piece.plusCell].inputs.contains(1) &&
                                      !all->cells[piece.minusCell].inputs.contains(1);
                    QVERIFY(fromOwn < r);
                    QCOMPARE(fromOther > inner, ring);
                    rings += ring;
                }
                QCOMPARE(rings, 2);
            }
    }
    void planesThroughSweptOutlines_data() {
        QTest::addColumn<bool>("ring");    // the outline is one periodic spline; else an open one closed by a line
        QTest::addColumn<double>("lean");  // of the plane [rad]
        for (const bool ring : {false, true})
            for (const double lean : {0.0, 0.4, 1.1})
                QTest::addRow("%s, leaning by %g", ring ? "ring" : "line and spline", lean) << ring << lean;
    }
    void planesThroughSweptOutlines() {
        // A plane leaves below it the outline's area by the plane's height at the outline's centroid.
        QFETCH(bool, ring);
        QFETCH(double, lean);
        Random random(9);
        const int count = 9;
        Handle(TColgp_HArray1OfPnt) points = new TColgp_HArray1OfPnt(1, count);
        for (int i = 1; i <= count; ++i) {
            const double turn = (ring ? 2.0 : 1.0) * M_PI * (i - 1) / (ring ? count : count - 1),
                         r = between(random, 8, 12);
            points->SetValue(i, gp_Pnt(r * std::cos(turn), r * std::sin(turn), 0));
        }
        GeomAPI_Interpolate through(points, ring, 1e-9);
        through.Perform();
        QVERIFY(through.IsDone());
        BRepBuilderAPI_MakeWire outline(BRepBuilderAPI_MakeEdge(through.Curve()).Edge());
        if (!ring) outline.Add(BRepBuilderAPI_MakeEdge(points->Value(count), points->Value(1)).Edge());
        const TopoDS_Face floor = BRepBuilderAPI_MakeFace(outline.Wire(), true).Face();
        const double height = 80.0;
        const TopoDS_Shape body = BRepPrimAPI_MakePrism(floor, gp_Vec(0, 0, height)).Shape();
        const gp_Dir normal(std::sin(lean) * 0.8, std::sin(lean) * 0.6, std::cos(lean));
        const gp_Pnt on(0, 0, 41);
        const TopoDS_Face cutter = BRepBuilderAPI_MakeFace(gp_Pln(on, normal), -200, 200, -200, 200).Face();
        const gp_Pnt centre = skinOf(floor).centre;
        const double level = on.Z() - (normal.X() * centre.X() + normal.Y() * centre.Y()) / normal.Z(),
                     area = areaOf(floor);
        for (const gp_Trsf& place : {gp_Trsf(), turned(0.7)}) {
            const auto all = arranged({moved(body, place), moved(cutter, place)});
            QVERIFY2(all, said(all));
            std::vector<double> volumes;
            for (const int cell : cellsIn(*all, 0)) {
                const auto piece = solidsOf(*all, {cell}, {1});
                QVERIFY2(piece, said(piece));
                QVERIFY(isValid(piece->shape));
                volumes.push_back(piece->volume);
            }
            std::sort(volumes.begin(), volumes.end());
            std::vector<double> wanted{area * level, area * (height - level)};
            std::sort(wanted.begin(), wanted.end());
            QCOMPARE(volumes.size(), std::size_t(2));
            for (int i = 0; i < 2; ++i) QCOMPARE_NEAR(volumes[i], wanted[i], 1e-7 * area * height);
        }
    }
    void ringsThroughEachOtherAreMetInAllTheirCurves() {
        // Two tori meet in several curves, of which a search for all of them loses one here and there.
        struct Pair {
            double ringA, tubeA, ringB, tubeB;
            gp_Vec at;
            gp_Dir axis;
            double angle;
        };
        for (const Pair& pair : {Pair{5.3, 2.7, 4.9, 2.6, {3.5, -0.4, -0.9}, {-0.3, -0.6, 1}, 0.3},
                                 Pair{7.6, 1.5, 8.3, 2.1, {-2.9, 2.2, -1.7}, {0.3, -1, 1}, 1.0},
                                 Pair{9, 2.6, 7.3, 2, {3.1, 2.7, -0.2}, {0.6, 0.6, 1}, 2.0},
                                 Pair{6.1, 2, 6.9, 1.8, {-2.3, -0.7, 0.7}, {-0.7, -0.8, 1}, 0.3}}) {
            gp_Trsf turn, move;
            turn.SetRotation(gp_Ax1(gp_Pnt(), pair.axis), pair.angle);
            move.SetTranslation(pair.at);
            const auto all = arranged({BRepPrimAPI_MakeTorus(pair.ringA, pair.tubeA).Shape(),
                                       moved(BRepPrimAPI_MakeTorus(pair.ringB, pair.tubeB).Shape(), move * turn)});
            QVERIFY2(all, said(all));
            const double a = 2.0 * M_PI * M_PI * pair.ringA * pair.tubeA * pair.tubeA,
                         b = 2.0 * M_PI * M_PI * pair.ringB * pair.tubeB * pair.tubeB, both = volumeIn(*all, {0, 1});
            QVERIFY(both > 0.0);
            QCOMPARE_NEAR(volumeIn(*all, {0}) + both, a, 2e-6 * a);
            QCOMPARE_NEAR(volumeIn(*all, {1}) + both, b, 2e-6 * b);
        }
    }
    void twoBodies_data() {
        QTest::addColumn<TopoDS_Shape>("a");
        QTest::addColumn<TopoDS_Shape>("b");
        QTest::addColumn<double>("both");  // volume of what they have in common
        const double pi = M_PI;
        const TopoDS_Shape cube = block(10, 10, 10);
        QTest::newRow("apart") << cube << moved(cube, by(20, 0, 0)) << 0.0;
        QTest::newRow("corner in corner") << cube << moved(cube, by(6, 5, 4)) << 4.0 * 5.0 * 6.0;
        QTest::newRow("stacked") << cube << moved(cube, by(0, 0, 10)) << 0.0;
        QTest::newRow("stacked, shifted") << cube << moved(cube, by(3, 4, 10)) << 0.0;
        QTest::newRow("touching along an edge") << cube << moved(cube, by(10, 10, 0)) << 0.0;
        QTest::newRow("touching in a corner") << cube << moved(cube, by(10, 10, 10)) << 0.0;
        QTest::newRow("the very same") << cube << block(10, 10, 10) << 1000.0;
        QTest::newRow("one through the other") << cube << moved(block(4, 4, 30), by(3, 3, -10)) << 160.0;
        QTest::newRow("flush on three sides") << cube << block(5, 6, 7) << 210.0;
        QTest::newRow("one within") << cube << moved(block(2, 2, 2), by(4, 4, 4)) << 8.0;
        QTest::newRow("turned") << cube << moved(cube, turned(0.4)) << -1.0;
        const gp_Ax1 up(gp_Pnt(5, 5, -5), gp_Dir(0, 0, 1));
        const TopoDS_Shape bored = cut(cube, rod(up, 3, 20));
        QTest::newRow("pin through a block") << cube << rod(up, 3, 20) << pi * 90.0;
        QTest::newRow("pin in its bore") << bored << rod(up, 3, 20) << 0.0;
        QTest::newRow("pin in its bore, turned") << bored << moved(rod(up, 3, 20), [] {
            gp_Trsf turn;
            turn.SetRotation(gp_Ax1(gp_Pnt(5, 5, 0), gp_Dir(0, 0, 1)), 1.0);
            return turn;
        }()) << 0.0;
        QTest::newRow("pin flush in its bore") << bored << rod(gp_Ax1(gp_Pnt(5, 5, 0), gp_Dir(0, 0, 1)), 3, 10) << 0.0;
        QTest::newRow("thick pin in a bore") << bored << rod(up, 4, 20) << pi * (16.0 - 9.0) * 10.0;
        const TopoDS_Shape along = rod(gp_Ax1(gp_Pnt(-20, 0, 0), gp_Dir(1, 0, 0)), 5, 40);
        QTest::newRow("two equal cylinders")
            << along << rod(gp_Ax1(gp_Pnt(0, -20, 0), gp_Dir(0, 1, 0)), 5, 40) << 16.0 * 125.0 / 3.0;
        QTest::newRow("two unequal cylinders")
            << along << rod(gp_Ax1(gp_Pnt(0, -20, 0), gp_Dir(0, 1, 0)), 3, 40) << -1.0;
        QTest::newRow("cylinders side by side, touching")
            << along << rod(gp_Ax1(gp_Pnt(-20, 10, 0), gp_Dir(1, 0, 0)), 5, 40) << 0.0;
        QTest::newRow("coaxial cylinders, one in the other")
            << along << rod(gp_Ax1(gp_Pnt(-10, 0, 0), gp_Dir(1, 0, 0)), 2, 40) << pi * 4.0 * 30.0;
        const double r = 5.0, d = 6.0;
        QTest::newRow("lens of two balls") << ball(gp_Pnt(0, 0, 0), r) << ball(gp_Pnt(d, 0, 0), r)
                                           << pi * (4 * r + d) * (2 * r - d) * (2 * r - d) / 12.0;
        QTest::newRow("ball in a block's corner") << cube << ball(gp_Pnt(0, 0, 0), r) << pi * 125.0 / 6.0;
        QTest::newRow("ball through a face") << cube << ball(gp_Pnt(5, 5, 10), 3) << 2.0 / 3.0 * pi * 27.0;
        QTest::newRow("ball within") << cube << ball(gp_Pnt(5, 5, 5), 3) << 4.0 / 3.0 * pi * 27.0;
        QTest::newRow("ball touching from inside") << cube << ball(gp_Pnt(5, 5, 5), 5) << 4.0 / 3.0 * pi * 125.0;
        const TopoDS_Shape cone = coneOf(gp_Ax1(gp_Pnt(5, 5, 0), gp_Dir(0, 0, 1)), 4, 0, 8);
        QTest::newRow("cone in a block") << cube << cone << pi * 16.0 * 8.0 / 3.0;
        QTest::newRow("block through a cone's tip")
            << moved(block(20, 20, 20), by(5, -5, -5)) << cone << 0.5 * pi * 16.0 * 8.0 / 3.0;
        const TopoDS_Shape ring = BRepPrimAPI_MakeTorus(10, 3).Shape();
        QTest::newRow("torus cut across") << ring << moved(block(40, 40, 40), by(0, -20, -20)) << pi * pi * 10.0 * 9.0;
        QTest::newRow("torus cut along its tube")
            << ring << moved(block(40, 40, 40), by(-20, -20, 0)) << pi * pi * 10.0 * 9.0;
        QTest::newRow("torus cut aside") << ring << moved(block(40, 40, 40), by(4, -20, -20)) << -1.0;
    }
    void twoBodies() {
        QFETCH(TopoDS_Shape, a);
        QFETCH(TopoDS_Shape, b);
        QFETCH(double, both);
        const double volumeA = volumeOf(a), volumeB = volumeOf(b);
        for (const double angle : {0.0, 0.7}) {
            const std::vector<TopoDS_Shape> shapes{moved(a, turned(angle)), moved(b, turned(angle))};
            const auto all = arranged(shapes);
            QVERIFY2(all, said(all));
            const double size = std::max(volumeA, volumeB);
            const double common = volumeIn(*all, {0, 1}), onlyA = volumeIn(*all, {0}), onlyB = volumeIn(*all, {1});
            QVERIFY(common >= 0.0 && onlyA >= 0.0 && onlyB >= 0.0);
            if (both >= 0.0) QCOMPARE_NEAR(common, both, 1e-6 * size);
            QCOMPARE_NEAR(onlyA + common, volumeA, 1e-6 * size);
            QCOMPARE_NEAR(onlyB + common, volumeB, 1e-6 * size);
            // Volumes cannot see a wrong label: points can.
            Random random(4711);
            BRepClass3d_SolidClassifier inA(shapes[0]), inB(shapes[1]);
            for (std::size_t c = 1; c < all->cells.size(); ++c) {
                if (all->cells[c].inputs.empty()) continue;
                const auto body = solidsOf(*all, {static_cast<int>(c)});
                QVERIFY(body);
                for (const auto& [p, plus] : all->cells[c].sides) {
                    if (all->pieces[p].whole) continue;
                    for (const double off : {1e-4, -1e-4}) {
                        const gp_Pnt at = all->pieces[p].inside.Translated(
                            gp_Vec(between(random, -1, 1), between(random, -1, 1), between(random, -1, 1)) * off);
                        BRepClass3d_SolidClassifier here(body->shape, at, 1e-7);
                        if (here.State() != TopAbs_IN) continue;
                        inA.Perform(at, 1e-7);
                        inB.Perform(at, 1e-7);
                        QCOMPARE(inA.State() == TopAbs_IN, all->cells[c].inputs.contains(0));
                        QCOMPARE(inB.State() == TopAbs_IN, all->cells[c].inputs.contains(1));
                    }
                }
            }
        }
    }
};

static Registered<ArrangeTest> arrangeTest;

}  // namespace rasoir::test

#include "arrange_test.moc"
