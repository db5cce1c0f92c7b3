#include "topology/half_edges.h"

#include <BRepPrimAPI_MakeSphere.hxx>
#include <BRepPrimAPI_MakeTorus.hxx>

#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

class HalfEdgesTest : public QObject {
    Q_OBJECT
private slots:
    void everySideHasItsOppositeAndEveryLoopCloses_data() {
        QTest::addColumn<TopoDS_Shape>("shape");
        const gp_Ax1 axis(gp_Pnt(20, 20, -1), gp_Dir(0, 0.1, 1));
        gp_Trsf mirror;
        mirror.SetMirror(gp_Ax2(gp_Pnt(1, 2, 3), gp_Dir(1, 1, 0)));
        QTest::newRow("block") << block(10, 20, 30);
        QTest::newRow("drilled block") << cut(block(40, 40, 10), rod(axis, 5, 30));
        QTest::newRow("mirrored") << moved(cut(block(40, 40, 10), rod(axis, 5, 30)), mirror);
        QTest::newRow("cylinder") << rod(axis, 5, 30);
        QTest::newRow("cone to its tip") << coneOf(axis, 5, 0, 30);
        QTest::newRow("ball") << BRepPrimAPI_MakeSphere(10).Shape();
        QTest::newRow("drilled ball") << cut(BRepPrimAPI_MakeSphere(10).Shape(),
                                             rod(gp_Ax1(gp_Pnt(-20, 0, 0), gp_Dir(1, 0, 0)), 3, 40));
        QTest::newRow("tyre") << BRepPrimAPI_MakeTorus(20, 5).Shape();
        QTest::newRow("splines") << splineTopped(40, 30, 10, 1);
    }
    void everySideHasItsOppositeAndEveryLoopCloses() {
        QFETCH(TopoDS_Shape, shape);
        const Incidence topology(shape);
        HalfEdgeBody body(topology);
        for (int f = 1; f <= topology.faceCount(); ++f) body.faceRecord(f);
        for (int f = 0; f < body.faceCount(); ++f) {
            QVERIFY(!body.face(f).disordered);
            int outer = 0;
            std::set<int> seen;
            for (const int h : body.halvesOf(f)) {
                const HalfEdge& half = body.half(h);
                QCOMPARE(body.half(half.next).prev, h);
                QCOMPARE(body.startOf(half.next), body.endOf(h));  // loops run vertex to vertex
                if (!body.edge(half.edge).degenerated) {
                    const int other = body.twin(h);
                    QVERIFY(other >= 0);
                    QCOMPARE(body.twin(other), h);
                    QCOMPARE(body.startOf(other), body.endOf(h));  // sides run against each other
                }
                if (seen.contains(h)) continue;
                int at = h;
                do {
                    seen.insert(at);
                    at = body.half(at).next;
                } while (at != h);
                outer += body.loopArea(h) > 0.0;
            }
            QCOMPARE(outer, 1);  // material to the left: one loop turns the positive way
        }
        // Nothing was changed, so nothing is built.
        const auto built = body.build(1e-6);
        QVERIFY(built);
        QVERIFY(built->IsEmpty());
        QVERIFY(substituted(shape, *built).IsEqual(shape));
    }
    void facesAreLoadedOnlyWhenAskedFor() {
        const Incidence topology(drilledPlate(100, 80, 10, 30, 4));
        HalfEdgeBody body(topology);
        const int first = body.faceRecord(1);
        QCOMPARE(body.faceCount(), 1);
        QCOMPARE(body.faceRecord(1), first);
        for (const int h : std::vector<int>(body.halvesOf(first))) body.twin(h);
        QCOMPARE(body.faceCount(), 1 + static_cast<int>(topology.neighboursOf(1).size()));
    }
    void whatIsRolledBackNeverWas() {
        const TopoDS_Shape shape = block(10, 20, 30);
        const Incidence topology(shape);
        HalfEdgeBody body(topology);
        const int f = body.faceRecord(1);
        const int h = body.halvesOf(f).front();
        const int next = body.half(h).next;
        body.begin();
        body.changeHalf(h).next = h;
        body.changeFace(f).changed = true;
        const int v = body.addVertex(gp_Pnt(0, 0, 0), 1e-6);
        body.addEdge(body.edge(body.half(h).edge).curve, 0.0, 1.0, v, v, 1e-6, f, f);
        body.rollBack();
        QCOMPARE(body.half(h).next, next);
        QVERIFY(!body.face(f).changed);
        QVERIFY(body.build(1e-6)->IsEmpty());
    }
    void substitutionKeepsWhatItDoesNotTouch() {
        const TopoDS_Shape shape = block(10, 20, 30);
        TopTools_DataMapOfShapeShape faces;
        QVERIFY(substituted(shape, faces).IsEqual(shape));
        const TopoDS_Face first = TopoDS::Face(TopExp_Explorer(shape, TopAbs_FACE).Current());
        faces.Bind(first, TopoDS_Shape());
        const TopoDS_Shape open = substituted(shape, faces);
        QCOMPARE(facesIn(open), 5);
        QCOMPARE(facesIn(shape), 6);
        QCOMPARE(openEdgesIn(open), 4);
        for (TopExp_Explorer it(shape, TopAbs_FACE); it.More(); it.Next())
            if (!faces.IsBound(it.Current())) faces.Bind(it.Current(), TopoDS_Shape());
        QVERIFY(substituted(shape, faces).IsNull());
    }
};

static Registered<HalfEdgesTest> halfEdgesTest;

}  // namespace rasoir::test

#include "half_edges_test.moc"
