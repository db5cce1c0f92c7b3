// Bodies that meet themselves along an edge: four faces there, valid and common. Features elsewhere go all the same.
#include <BRepFilletAPI_MakeFillet.hxx>
#include <TopExp.hxx>
#include <TopoDS.hxx>
#include <TopTools_IndexedMapOfShape.hxx>

#include "geometry/edge_probe.h"
#include "geometry/integrals.h"
#include "support/bodies.h"
#include "support/edges.h"
#include "support/run.h"

namespace rasoir::test {

class SelfTouchingTest : public QObject {
    Q_OBJECT

    static TopoDS_Shape at(const TopoDS_Shape& shape, double x, double y, double z) {
        gp_Trsf move;
        move.SetTranslation(gp_Vec(x, y, z));
        return moved(shape, move);
    }
    /// Two posts of 10 by 10 by 10 on a base of 60 by 40 by 5, standing corner to corner: their edge at (25, 20).
    static TopoDS_Shape posts() {
        return fuse(fuse(block(60, 40, 5), at(block(10, 10, 10), 15, 10, 5)), at(block(10, 10, 10), 25, 20, 5));
    }
    static TopoDS_Shape rounded(const TopoDS_Shape& body, double radius, const std::vector<gp_Pnt>& middles) {
        BRepFilletAPI_MakeFillet made(body);
        for (const TopoDS_Edge& edge : edgesWhere(body, [&](const gp_Pnt& middle) {
                 return std::any_of(middles.begin(), middles.end(),
                                    [&](const gp_Pnt& wanted) { return middle.Distance(wanted) < 1e-6; });
             }))
            made.Add(radius, edge);
        return made.Shape();
    }
    static int edgesOfFour(const TopoDS_Shape& shape) {
        const Incidence topology(shape);
        int count = 0;
        for (int e = 1; e <= topology.edgeCount(); ++e) count += topology.facesAt(e) == 4;
        return count;
    }

private slots:
    void theBodyIsWhatItClaims() {
        QVERIFY(isValid(posts()));
        QCOMPARE(edgesOfFour(posts()), 1);
        QCOMPARE_NEAR(volumeOf(posts()), 14000.0, 1e-9);
    }
    void roundsGo_data() {
        QTest::addColumn<std::vector<gp_Pnt>>("edges");
        QTest::newRow("far away") << std::vector{gp_Pnt(0, 0, 2.5)};
        QTest::newRow("on a post, off the edge") << std::vector{gp_Pnt(15, 10, 10)};
        QTest::newRow("foot of a post") << std::vector{gp_Pnt(20, 10, 5)};
        QTest::newRow("top of a post, away") << std::vector{gp_Pnt(20, 10, 15)};
        QTest::newRow("on a face of the edge") << std::vector{gp_Pnt(15, 20, 10)};
        QTest::newRow("on both") << std::vector{gp_Pnt(15, 20, 10), gp_Pnt(25, 30, 10)};
    }
    void roundsGo() {
        QFETCH(std::vector<gp_Pnt>, edges);
        const TopoDS_Shape body = rounded(posts(), 1.5, edges);
        QVERIFY(isValid(body));
        const auto done = run(modelOf(body), "shave.removeRounds", {{"upTo", 2.0}});
        QVERIFY2(done, said(done));
        const TopoDS_Shape& bare = done->model.parts[0]->shape;
        QVERIFY(isValid(bare));
        QCOMPARE_NEAR(volumeOf(bare), 14000.0, 1e-6);
        QCOMPARE(edgesOfFour(bare), 1);
    }
    void holesGo() {
        for (const auto& [x, y] : {std::pair{20.0, 15.0}, {50.0, 10.0}, {30.0, 25.0}}) {
            const TopoDS_Shape body = cut(posts(), rod(gp_Ax1(gp_Pnt(x, y, -1), gp_Dir(0, 0, 1)), 2.0, 30));
            const auto done = run(modelOf(body), "shave.removeHoles", {{"upTo", 5.0}});
            QVERIFY2(done, said(done));
            QVERIFY(isValid(done->model.parts[0]->shape));
            QCOMPARE_NEAR(volumeOf(done->model.parts[0]->shape), 14000.0, 1e-6);
        }
    }
};

static Registered<SelfTouchingTest> selfTouchingTest;

}  // namespace rasoir::test

#include "self_touching_test.moc"
