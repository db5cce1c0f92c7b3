#include "topology/incidence.h"

#include <BRep_Builder.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepFilletAPI_MakeFillet.hxx>
#include <TopoDS_Shell.hxx>

#include "support/bodies.h"
#include "support/run.h"
#include "topology/edge_angle.h"

namespace rasoir::test {

class IncidenceTest : public QObject {
    Q_OBJECT

    static std::map<EdgeKind, int> kindsOf(const Incidence& topology) {
        std::map<EdgeKind, int> kinds;
        for (int e = 1; e <= topology.edgeCount(); ++e) ++kinds[edgeAngle(topology, e).kind];
        return kinds;
    }

private slots:
    void everyEdgeOfABlockIsConvexAtARightAngle() {
        gp_Trsf skew;
        skew.SetRotation(gp_Ax1(gp_Pnt(1, 2, 3), gp_Dir(1, 1, 0.3)), 0.3);
        const Incidence topology(moved(block(10, 20, 30), skew));
        QCOMPARE(topology.faceCount(), 6);
        QCOMPARE(topology.edgeCount(), 12);
        QCOMPARE(topology.vertexCount(), 8);
        QCOMPARE(topology.solidCount(), 1);
        for (int e = 1; e <= 12; ++e) {
            QCOMPARE(topology.facesAt(e), 2);
            const EdgeAngle angle = edgeAngle(topology, e);
            QCOMPARE(angle.kind, EdgeKind::Convex);
            QCOMPARE_NEAR(angle.turn, M_PI_2, 1e-12);
        }
        for (int f = 1; f <= 6; ++f) QCOMPARE(topology.neighboursOf(f).size(), std::size_t(4));
    }
    void anInnerCornerIsConcave() {
        const auto kinds = kindsOf(Incidence(cut(block(20, 20, 20), moved(block(20, 40, 20), [] {
                                                     gp_Trsf t;
                                                     t.SetTranslation(gp_Vec(10, -5, 10));
                                                     return t;
                                                 }()))));
        QCOMPARE(kinds.at(EdgeKind::Concave), 1);
    }
    void aFilletIsSmoothOnBothSides() {
        const TopoDS_Shape body = block(10, 20, 30);
        BRepFilletAPI_MakeFillet fillet(body);
        fillet.Add(2.0, TopoDS::Edge(TopExp_Explorer(body, TopAbs_EDGE).Current()));
        const auto kinds = kindsOf(Incidence(fillet.Shape()));
        QCOMPARE(kinds.at(EdgeKind::Smooth), 2);
        QVERIFY(!kinds.contains(EdgeKind::Concave));
    }
    void aLooseFaceHasOnlyOpenEdges() {
        // One face of a block on its own.
        const BRep_Builder builder;
        TopoDS_Shell shell;
        builder.MakeShell(shell);
        const TopoDS_Shape body = block(10, 10, 10);
        int count = 0;
        for (TopExp_Explorer face(body, TopAbs_FACE); face.More() && count < 1; face.Next(), ++count)
            builder.Add(shell, face.Current());
        const Incidence one(shell);
        QCOMPARE(one.faceCount(), 1);
        for (int e = 1; e <= one.edgeCount(); ++e) QCOMPARE(edgeAngle(one, e).kind, EdgeKind::Open);
    }
    void aSeamIsUsedTwiceByOneFace() {
        const Incidence topology(rod(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), 5, 10));
        QCOMPARE(topology.faceCount(), 3);
        QCOMPARE(topology.edgeCount(), 3);
        int seams = 0;
        for (int e = 1; e <= 3; ++e) {
            QCOMPARE(topology.facesAt(e), 2);
            seams += topology.usesOf(e)[0].face == topology.usesOf(e)[1].face;
        }
        QCOMPARE(seams, 1);
    }
    void nothingIsNothing() {
        const Incidence topology{TopoDS_Shape()};
        QCOMPARE(topology.faceCount(), 0);
        QCOMPARE(topology.edgeCount(), 0);
    }
};

static Registered<IncidenceTest> incidenceTest;

}  // namespace rasoir::test

#include "incidence_test.moc"
