#include "topology/incidence.h"

#include <BRep_Builder.hxx>
#include <BRepBuilderAPI_Copy.hxx>
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
    void whatFacesAmountToAddsUpToTheBody() {
        gp_Trsf away;
        away.SetTranslation(gp_Vec(500, -300, 200));
        const gp_Ax1 up(gp_Pnt(20, 15, -1), gp_Dir(0, 0.2, 1));
        for (const TopoDS_Shape& body : {moved(block(10, 20, 30), away), splineTopped(40, 30, 10, 2),
                                         cut(splineTopped(40, 30, 10, 2), rod(up, 5, 40)), asSplines(rod(up, 5, 40)),
                                         coneOf(up, 5, 2, 9), BRepBuilderAPI_Copy(block(1, 2, 3)).Shape().Reversed()}) {
            const Incidence topology(body);
            // Asked from many threads at once: what is told is one thing, and stays where it is.
            std::vector<const FaceSums*> told(static_cast<std::size_t>(8 * topology.faceCount()));
            tbb::parallel_for(std::size_t{0}, told.size(), [&](std::size_t i) {
                told[i] = &topology.sums(static_cast<int>(i) % topology.faceCount() + 1);
            });
            double volume = 0.0, area = 0.0;
            for (int f = 1; f <= topology.faceCount(); ++f) {
                for (std::size_t i = static_cast<std::size_t>(f) - 1; i < told.size();
                     i += static_cast<std::size_t>(topology.faceCount()))
                    QCOMPARE(told[i], &topology.sums(f));
                const Skin alone = skinOf(topology.face(f));
                QCOMPARE_NEAR(topology.area(f), alone.area, 1e-9 * alone.area);
                QCOMPARE_NEAR(topology.skin(f).centre.Distance(alone.centre), 0.0, 1e-7);
                QVERIFY(topology.sums(f).moments.has_value());
                volume += topology.sums(f).moments->volume;
                area += topology.area(f);
            }
            // From the same point: faces that meet within a tolerance alone enclose a little less or more from another.
            const double whole = volumeSeenFrom(topology.base(), body);
            QCOMPARE_NEAR(volume, whole, 1e-9 * std::abs(whole));
            QCOMPARE_NEAR(area, areaOf(body), 1e-9 * area);
        }
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
