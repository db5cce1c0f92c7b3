#include "topology/making.h"

#include <BRep_Builder.hxx>
#include <BRepCheck_Analyzer.hxx>
#include <Geom2d_Line.hxx>
#include <Geom_Circle.hxx>
#include <Geom_ConicalSurface.hxx>
#include <Geom_CylindricalSurface.hxx>
#include <Geom_Line.hxx>
#include <Geom_Plane.hxx>
#include <TopoDS.hxx>

#include "geometry/integrals.h"
#include "support/bodies.h"
#include "support/run.h"
#include "topology/soundness.h"

namespace rasoir::test {

class MakingTest : public QObject {
    Q_OBJECT

    static TopoDS_Vertex vertexAt(const gp_Pnt& point, double tolerance = Tolerance::least) {
        TopoDS_Vertex vertex;
        BRep_Builder().MakeVertex(vertex, point, tolerance);
        return vertex;
    }
    static Handle(Geom2d_Curve) across(const gp_Pnt2d& from, double x, double y) {
        return new Geom2d_Line(from, gp_Dir2d(x, y));
    }
    static TopoDS_Edge turned(const TopoDS_Edge& edge) { return TopoDS::Edge(edge.Reversed()); }

private slots:
    /// A tube's skin: two rings, each from a vertex to itself, and the seam with its two traces.
    void aFaceRoundACylinderHasASeam() {
        const double radius = 3.0, height = 10.0;
        const Handle(Geom_Surface) surface = new Geom_CylindricalSurface(gp_Ax3(), radius);
        const TopoDS_Vertex low = vertexAt({radius, 0, 0}), high = vertexAt({radius, 0, height});
        const auto ring = [&](double z, const TopoDS_Vertex& at) {
            const TopoDS_Edge edge =
                edgeAlong(new Geom_Circle(gp_Ax2(gp_Pnt(0, 0, z), gp::DZ()), radius), 0.0, 2.0 * M_PI, at, at);
            putTrace(edge, across({0, z}, 1, 0), surface, TopLoc_Location(), Tolerance::least);
            return edge;
        };
        const TopoDS_Edge seam = straightEdge(low, high), bottom = ring(0.0, low), top = ring(height, high);
        putTraces(seam, across({2.0 * M_PI, 0}, 0, 1), across({0, 0}, 0, 1), surface, TopLoc_Location(),
                  Tolerance::least);
        TopoDS_Face face = blankFace(surface, TopLoc_Location());
        addLoop(face, closedWire({bottom, seam, turned(top), turned(seam)}));
        QVERIFY(BRepCheck_Analyzer(face).IsValid());
        QVERIFY(soundFace(face));
        QVERIFY(BRep_Tool::IsClosed(seam, face));
        QCOMPARE_NEAR(areaOf(face), 2.0 * M_PI * radius * height, 1e-9);
    }
    /// A cone ends in its tip, which is a whole side of its parameters.
    void aFaceRoundAConeHasAPole() {
        const double radius = 4.0, height = 4.0, slant = std::hypot(radius, height);
        const Handle(Geom_Surface) surface = new Geom_ConicalSurface(
            gp_Ax3(gp_Pnt(), gp_Dir(0, 0, -1), gp_Dir(1, 0, 0)), M_PI_4, radius);  // narrows upwards
        const TopoDS_Vertex foot = vertexAt({radius, 0, 0}), tip = vertexAt({0, 0, height});
        // Upwards is against the axis: v falls from 0 to minus the slant, u runs clockwise as seen from above.
        const TopoDS_Edge ring = edgeAlong(new Geom_Circle(gp_Ax2(gp_Pnt(), gp_Dir(0, 0, -1), gp_Dir(1, 0, 0)), radius),
                                           0.0, 2.0 * M_PI, foot, foot);
        putTrace(ring, across({0, 0}, 1, 0), surface, TopLoc_Location(), Tolerance::least);
        const TopoDS_Edge seam = straightEdge(foot, tip);
        putTraces(seam, across({0, 0}, 0, -1), across({2.0 * M_PI, 0}, 0, -1), surface, TopLoc_Location(),
                  Tolerance::least);
        const TopoDS_Edge pole = poleEdge(tip, {0, -slant}, {2.0 * M_PI, -slant}, surface, TopLoc_Location());
        QVERIFY(BRep_Tool::Degenerated(pole));
        TopoDS_Face face = blankFace(surface, TopLoc_Location());
        addLoop(face, closedWire({seam, pole, turned(seam), turned(ring)}));
        QVERIFY(BRepCheck_Analyzer(face).IsValid());
        QCOMPARE_NEAR(areaOf(face), M_PI * radius * slant, 1e-9);
    }
    /// A cut into a face from nowhere to nowhere has that face on both sides, and is no seam.
    void oneTraceOnBothSidesIsNoSeam() {
        const Handle(Geom_Surface) surface = new Geom_CylindricalSurface(gp_Ax3(), 1.0);
        const TopoDS_Edge slit = straightEdge(vertexAt({1, 0, 2}), vertexAt({1, 0, 5}));
        const TopoDS_Face face = blankFace(surface, TopLoc_Location());
        putTraces(slit, across({0, 2}, 0, 1), across({0, 2}, 0, 1), surface, TopLoc_Location(), Tolerance::least);
        QVERIFY(!BRep_Tool::IsClosed(slit, face));
        double first = 0.0, last = 0.0;
        QVERIFY(!BRep_Tool::CurveOnSurface(slit, face, first, last).IsNull());
        QCOMPARE_NEAR(last - first, 3.0, 1e-12);
    }
    void verticesReachTheEndsOfTheirEdges() {
        const TopoDS_Vertex near = vertexAt({0, 0, 0}), off = vertexAt({10, 0.3, 0});
        const TopoDS_Edge edge = edgeAlong(new Geom_Line(gp_Pnt(), gp::DX()), 0.0, 10.0, near, off, 0.01);
        QCOMPARE_NEAR(BRep_Tool::Tolerance(off), Tolerance::least, 1e-12);  // taken as they are
        widenToTolerance(edge);
        QCOMPARE_NEAR(BRep_Tool::Tolerance(near), 0.01, 1e-12);
        QCOMPARE_NEAR(BRep_Tool::Tolerance(off), 0.01, 1e-12);
        widenEnds(TopoDS::Edge(edge.Reversed()));  // whichever way it is used
        QCOMPARE_NEAR(BRep_Tool::Tolerance(near), 0.01, 1e-12);
        QVERIFY(BRep_Tool::Tolerance(off) >= 0.6);
    }
    void aTraceThatStraysWidensItsEdge() {
        const TopoDS_Edge edge = straightEdge(vertexAt({0, 0, 0}), vertexAt({0, 5, 0}));
        const Handle(Geom_Surface) plane = new Geom_Plane(gp_Ax3());
        putTrace(TopoDS::Edge(edge.Reversed()), across({0, 0}, 0, 1), plane, TopLoc_Location(), 1e-3);
        QCOMPARE_NEAR(BRep_Tool::Tolerance(edge), 1e-3, 1e-12);
        putTrace(edge, across({0, 0}, 0, 1), plane, TopLoc_Location(), 1e-5);  // and never narrows it
        QCOMPARE_NEAR(BRep_Tool::Tolerance(edge), 1e-3, 1e-12);
    }
    void severalAreACompoundAndOneIsItself() {
        const TopoDS_Shape one = block(1, 2, 3), other = block(3, 2, 1);
        QVERIFY(gathered({one}).IsSame(one));
        QCOMPARE_NEAR(volumeOf(gathered({one, other})), 12.0, 1e-9);
    }
};

static Registered<MakingTest> makingTest;

}  // namespace rasoir::test

#include "making_test.moc"
