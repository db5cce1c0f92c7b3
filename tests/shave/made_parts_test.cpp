// Shapes that makers of parts leave and that look like something else: forged links, flanges, bent wires.
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakePolygon.hxx>
#include <BRepFilletAPI_MakeChamfer.hxx>
#include <BRepFilletAPI_MakeFillet.hxx>
#include <BRepPrimAPI_MakeCylinder.hxx>
#include <BRepPrimAPI_MakeRevol.hxx>
#include <BRepPrimAPI_MakeTorus.hxx>
#include <ShapeUpgrade_UnifySameDomain.hxx>
#include <TopExp.hxx>
#include <TopoDS.hxx>
#include <TopTools_IndexedMapOfShape.hxx>

#include "geometry/edge_probe.h"
#include "geometry/integrals.h"
#include "support/bodies.h"
#include "support/edges.h"
#include "support/run.h"
#include "survey/rounds.h"

namespace rasoir::test {

class MadePartsTest : public QObject {
    Q_OBJECT

    static TopoDS_Shape tidied(const TopoDS_Shape& shape) {
        ShapeUpgrade_UnifySameDomain unify(shape);
        unify.Build();
        return unify.Shape();
    }
    /// Two bosses in one plane, joined by an arm of rectangular section that is bent about a far axis.
    /// `seam` [rad]: where those of the bosses lie; 0 is under the arm of the first.
    static TopoDS_Shape link(double bend, double seam) {
        const auto boss = [seam](double x) {
            return BRepPrimAPI_MakeCylinder(
                       gp_Ax2(gp_Pnt(x, 0, -10), gp_Dir(0, 0, 1), gp_Dir(std::cos(seam), std::sin(seam), 0)), 18, 20)
                .Shape();
        };
        // The arm's middle line is an arc through both bosses' axes, about (50, -bend).
        const double radius = std::hypot(50.0, bend), half = std::asin(50.0 / radius);
        BRepBuilderAPI_MakePolygon section;
        for (const auto& [r, z] :
             {std::pair{radius - 6.0, -5.0}, {radius + 6.0, -5.0}, {radius + 6.0, 5.0}, {radius - 6.0, 5.0}})
            section.Add(gp_Pnt(50.0 + r * std::sin(half), -bend + r * std::cos(half), z));
        section.Close();
        const TopoDS_Shape arm = BRepPrimAPI_MakeRevol(BRepBuilderAPI_MakeFace(section.Wire()).Face(),
                                                       gp_Ax1(gp_Pnt(50, -bend, 0), gp_Dir(0, 0, 1)), 2.0 * half)
                                     .Shape();
        return tidied(fuse(fuse(boss(0), boss(100)), arm));
    }

private slots:
    void aBentWireHasNoRounds() {
        // Straight, a quarter turn about (12, 20), straight again: all of radius 2.
        const TopoDS_Shape bend =
            moved(BRepPrimAPI_MakeTorus(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1), gp_Dir(-1, 0, 0)), 12.0, 2.0, M_PI / 2)
                      .Shape(),
                  [] {
                      gp_Trsf move;
                      move.SetTranslation(gp_Vec(12, 0, 0));
                      return move;
                  }());
        const TopoDS_Shape wire = tidied(fuse(fuse(rod(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 1, 0)), 2, 20), bend),
                                              rod(gp_Ax1(gp_Pnt(12, -12, 0), gp_Dir(1, 0, 0)), 2, 30)));
        const Model model = modelOf(wire);
        const auto chains = survey::findStrips(*model.parts[0], 4.0, quietly());
        QVERIFY2(chains, said(chains));
        QVERIFY(chains->empty());
    }
    void flangesWithNarrowRimsHaveChamfers() {
        for (const double width : {1.0, 2.5, 3.0, 3.5}) {
            const TopoDS_Shape plate = block(100, 40, 8);
            BRepFilletAPI_MakeChamfer made(plate);
            for (const TopoDS_Edge& edge : edgesWhere(plate, [](const gp_Pnt& p) {
                     return std::abs(p.X() - 50) < 1e-6 && (p.Y() < 1e-6 || p.Y() > 40 - 1e-6);
                 }))
                made.Add(width, edge);
            const auto done = run(modelOf(made.Shape()), "shave.removeChamfers", {{"upTo", 6.0}});
            QVERIFY2(done, said(done));
            QCOMPARE_NEAR(volumeOf(done->model.parts[0]->shape), 32000.0, 1e-6);
            QCOMPARE(facesIn(done->model.parts[0]->shape), 6);
        }
    }
    void aForgedLinkIsBareAgain_data() {
        QTest::addColumn<double>("bend");
        QTest::addColumn<double>("outer");
        QTest::addColumn<double>("inner");
        QTest::addColumn<double>("seam");
        for (const double bend : {60.0, 200.0}) {
            for (const auto& [outer, inner] : {std::pair{2.0, 0.0}, {0.0, 3.0}, {2.0, 3.0}})
                QTest::addRow("bend %g, R %g and %g", bend, outer, inner) << bend << outer << inner << M_PI_2;
            // Under the arm, the inner ring runs over the boss's seam, close to where it runs over an outer round.
            for (const double seam : {0.0, 0.1, 0.4, 3.04, M_PI})
                QTest::addRow("bend %g, seam at %g", bend, seam) << bend << 2.0 << 3.0 << seam;
        }
    }
    void aForgedLinkIsBareAgain() {
        QFETCH(double, bend);
        QFETCH(double, outer);
        QFETCH(double, inner);
        QFETCH(double, seam);
        const TopoDS_Shape bare = link(bend, seam);
        TopoDS_Shape body = bare;
        // Inner first: where the arm ends on the bosses, all round. Outer: rims of bosses and the arm's long edges.
        const auto fillet = [&](double radius, const auto& rule) {
            BRepFilletAPI_MakeFillet made(body);
            for (const TopoDS_Edge& edge : edgesWhere(body, rule)) made.Add(radius, edge);
            body = made.Shape();
        };
        const auto onBoss = [](const gp_Pnt& p) {
            return std::abs(std::hypot(p.X(), p.Y()) - 18) < 1e-3 ||
                   std::abs(std::hypot(p.X() - 100, p.Y()) - 18) < 1e-3;
        };
        if (outer > 0.0)
            fillet(outer, [&](const gp_Pnt& p) { return !onBoss(p) && std::abs(std::abs(p.Z()) - 5) < 1e-3; });
        if (inner > 0.0) fillet(inner, [&](const gp_Pnt& p) { return onBoss(p) && std::abs(p.Z()) < 6.0; });
        QVERIFY(isValid(body));
        // Four outer chains along the arm and two inner rings at its ends, not one of everything.
        const Model model = modelOf(body);
        const auto chains = survey::findStrips(*model.parts[0], 4.0, quietly());
        QVERIFY2(chains, said(chains));
        const auto count = [&](bool convex) {
            return std::count_if(chains->begin(), chains->end(), [convex](const survey::StripChain& chain) {
                return chain.convex == convex && !chain.mixed;
            });
        };
        QCOMPARE(count(true), std::ptrdiff_t(outer > 0.0 ? 4 : 0));
        QCOMPARE(count(false), std::ptrdiff_t(inner > 0.0 ? 2 : 0));
        const auto done = run(modelOf(body), "shave.removeRounds", {{"upTo", 4.0}});
        QVERIFY2(done, said(done));
        QCOMPARE_NEAR(volumeOf(done->model.parts[0]->shape), volumeOf(bare), 1e-4 * volumeOf(bare));
        QVERIFY(isValid(done->model.parts[0]->shape));
    }
};

static Registered<MadePartsTest> madePartsTest;

}  // namespace rasoir::test

#include "made_parts_test.moc"
