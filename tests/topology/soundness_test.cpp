// The quick look at a face never calls a crossed loop clear, and the verdict is the kernel's own.
#include "topology/soundness.h"

#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepCheck_Analyzer.hxx>
#include <BRepLib.hxx>
#include <GCE2d_MakeSegment.hxx>
#include <Geom2d_BSplineCurve.hxx>
#include <Geom2d_TrimmedCurve.hxx>
#include <Geom2dAPI_PointsToBSpline.hxx>
#include <Geom_CylindricalSurface.hxx>
#include <Geom_Plane.hxx>
#include <TColgp_Array1OfPnt2d.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>

#include "support/bodies.h"
#include "support/run.h"

namespace rasoir::test {

class SoundnessTest : public QObject {
    Q_OBJECT

    using Loop = std::vector<gp_Pnt2d>;
    /// A face whose loops run along these points, as given: nothing is turned or mended. `bulge`: the sides bend out by
    /// that share.
    static TopoDS_Face faceOf(const Handle(Geom_Surface) & surface, const std::vector<Loop>& loops,
                              double bulge = 0.0) {
        const BRep_Builder builder;
        TopoDS_Face face;
        builder.MakeFace(face, surface, 1e-7);
        for (const Loop& loop : loops) {
            std::vector<TopoDS_Vertex> corners;
            for (const gp_Pnt2d& at : loop) {
                TopoDS_Vertex vertex;
                builder.MakeVertex(vertex, surface->Value(at.X(), at.Y()), 1e-7);
                corners.push_back(vertex);
            }
            TopoDS_Wire wire;
            builder.MakeWire(wire);
            for (std::size_t i = 0; i < loop.size(); ++i) {
                const gp_Pnt2d &a = loop[i], &b = loop[(i + 1) % loop.size()];
                Handle(Geom2d_Curve) trace;
                if (bulge == 0.0)
                    trace = GCE2d_MakeSegment(a, b).Value();
                else {
                    const gp_XY along = b.XY() - a.XY();
                    TColgp_Array1OfPnt2d points(1, 5);
                    for (int k = 0; k < 5; ++k)
                        points.SetValue(k + 1, gp_Pnt2d(a.XY() + along * (k / 4.0) +
                                                        gp_XY(along.Y(), -along.X()) * (bulge * k * (4 - k) / 4.0)));
                    trace = Geom2dAPI_PointsToBSpline(points, 3, 8, GeomAbs_C2, 1e-9).Curve();
                }
                TopoDS_Edge edge = BRepBuilderAPI_MakeEdge(trace, surface, corners[i], corners[(i + 1) % loop.size()],
                                                           trace->FirstParameter(), trace->LastParameter())
                                       .Edge();
                builder.Add(wire, edge);
            }
            wire.Closed(true);
            builder.Add(face, wire);
        }
        BRepLib::BuildCurves3d(face);
        return face;
    }
    static Handle(Geom_Surface) plane() { return new Geom_Plane(gp_Pnt(1, 2, 3), gp_Dir(1, 2, 2)); }
    static bool byKernel(const TopoDS_Face& face) { return BRepCheck_Analyzer(face).IsValid(); }
    static Loop ring(double x, double y, double radius, int corners, bool left = true) {
        Loop loop;
        for (int i = 0; i < corners; ++i) {
            const double angle = (left ? 2.0 : -2.0) * M_PI * i / corners;
            loop.emplace_back(x + radius * std::cos(angle), y + radius * std::sin(angle));
        }
        return loop;
    }

private slots:
    void soundFacesAreSeenAtOnce() {
        // Walls, holes, a seam, a torus and splines; every face of these bodies has plain loops.
        int seen = 0, all = 0;
        for (const TopoDS_Shape& body : {block(10, 20, 30), drilledPlate(60, 40, 5, 6, 4.0), coneOf(gp_Ax1(), 5, 3, 10),
                                         splineTopped(30, 20, 10, 2.0), asSplines(drilledPlate(60, 40, 5, 6, 4.0))})
            for (TopExp_Explorer it(body, TopAbs_FACE); it.More(); it.Next()) {
                const TopoDS_Face face = TopoDS::Face(it.Current());
                QVERIFY(soundFace(face));
                QVERIFY(soundFace(TopoDS::Face(face.Reversed())));
                seen += loopsClear(face);
                ++all;
            }
        QCOMPARE(seen, all);
    }
    void crossedLoopsAreNeitherClearNorSound_data() {
        QTest::addColumn<TopoDS_Face>("face");
        const Loop outline = ring(0, 0, 10, 6);
        QTest::newRow("bow tie") << faceOf(plane(), {{{0, 0}, {10, 10}, {10, 0}, {0, 10}}});
        QTest::newRow("island outside") << faceOf(plane(), {outline, ring(30, 0, 2, 5, false)});
        QTest::newRow("island across the outline") << faceOf(plane(), {outline, ring(9, 0, 4, 5, false)});
        QTest::newRow("two islands across each other")
            << faceOf(plane(), {outline, ring(0, 0, 2, 5, false), ring(1, 0.3, 2, 5, false)});
        QTest::newRow("an island the wrong way round") << faceOf(plane(), {outline, ring(0, 0, 2, 5, true)});
        QTest::newRow("a nick across the far side")
            << faceOf(plane(), {{{0, 0}, {10, 0}, {10, 5}, {6, 5}, {5, -0.5}, {4, 5}, {0, 5}}});
        QTest::newRow("crossed on a cylinder")
            << faceOf(new Geom_CylindricalSurface(gp_Ax3(), 8.0), {{{0, 0}, {1, 10}, {1, 0}, {0, 10}}});
    }
    void crossedLoopsAreNeitherClearNorSound() {
        QFETCH(TopoDS_Face, face);
        QVERIFY(!byKernel(face));  // else the fault is none
        QVERIFY(!loopsClear(face));
        QVERIFY(!soundFace(face));
    }
    void anEdgeOffItsSurfaceIsSeen() {
        // The loops are clear in the parameters; the curve of one edge lies beside them.
        TopoDS_Face face = faceOf(plane(), {ring(0, 0, 10, 6)});
        QVERIFY(soundFace(face));
        const TopoDS_Edge edge = TopoDS::Edge(TopExp_Explorer(face, TopAbs_EDGE).Current());
        double first = 0.0, last = 0.0;
        const Handle(Geom_Curve) curve =
            Handle(Geom_Curve)::DownCast(BRep_Tool::Curve(edge, first, last)->Translated(gp_Vec(0.0, 0.0, 0.1)));
        BRep_Builder().UpdateEdge(edge, curve, 1e-7);
        QVERIFY(loopsClear(face));
        QVERIFY(!soundFace(face));
    }
    void aGapAtACornerIsSeen() {
        Loop open = ring(0, 0, 10, 6);
        TopoDS_Face face = faceOf(plane(), {open});
        const TopoDS_Edge edge = TopoDS::Edge(TopExp_Explorer(face, TopAbs_EDGE).Current());
        double first = 0.0, last = 0.0;
        BRep_Tool::Range(edge, first, last);
        BRep_Builder().Range(edge, first, last - 0.5);  // ends half a millimetre before its vertex
        QVERIFY(!soundFace(face));
    }
    /// Random loops, straight and bent, on planes and cylinders: what looks clear is sound to the kernel, and the
    /// verdicts are the same.
    void theQuickLookIsNeverWrong() {
        Random random(31);
        int clear = 0, sound = 0, all = 0;
        for (int round = 0; round < 400; ++round) {
            const bool onCylinder = round % 2 == 1;
            const Handle(Geom_Surface) surface =
                onCylinder
                    ? Handle(Geom_Surface)(new Geom_CylindricalSurface(gp_Ax3(gp_Pnt(3, 1, 4), gp_Dir(1, 1, 0)), 10.0))
                    : plane();
            const auto wobbled = [&](Loop loop, double by) {
                for (gp_Pnt2d& at : loop) at.Translate(gp_Vec2d(between(random, -by, by), between(random, -by, by)));
                return loop;
            };
            std::vector<Loop> loops{wobbled(ring(0, 0, 10, 5 + static_cast<int>(random() % 8)), 3.0)};
            for (int islands = static_cast<int>(random() % 3); islands > 0; --islands)
                loops.push_back(wobbled(ring(between(random, -7, 7), between(random, -7, 7), between(random, 0.3, 2.5),
                                             3 + static_cast<int>(random() % 4), false),
                                        0.3));
            if (onCylinder)
                for (Loop& loop : loops)
                    for (gp_Pnt2d& at : loop) at.SetX(0.1 * at.X());
            const TopoDS_Face face = faceOf(surface, loops, round % 3 == 0 ? between(random, -0.4, 0.4) : 0.0);
            const bool quick = loopsClear(face), kernel = byKernel(face);
            QVERIFY2(!quick || kernel, qPrintable(QString("round %1").arg(round)));
            QCOMPARE(soundFace(face), kernel);
            clear += quick;
            sound += kernel;
            ++all;
        }
        qInfo("%d faces, %d sound, %d seen at once", all, sound, clear);
        QVERIFY(sound > all / 10 && sound < all - all / 10);
        QVERIFY2(clear * 2 > sound, "the quick look tells too seldom");
    }
};

static Registered<SoundnessTest> soundnessTest;

}  // namespace rasoir::test

#include "soundness_test.moc"
